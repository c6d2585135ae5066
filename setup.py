"""Build the kernels: compiled where there is a compiler, left as Python elsewhere.

UNDERSTEP_KERNELS=required  a kernel that cannot be compiled is an error (releases)
UNDERSTEP_KERNELS=none      compile nothing
UNDERSTEP_BOUNDS=1          compile with bounds checks (tests)
UNDERSTEP_SANITIZE=address  compile with GCC's address sanitizer (tests)
"""

import multiprocessing
import os

from Cython.Build import cythonize
from setuptools import Extension, setup

# the largest first, so that none is left to compile alone at the end
NAMES = (
    "search", "layers", "steps", "sight", "asker", "choice", "ties", "field", "plan", "areas",
    "rules",
)  # fmt: skip
KERNELS = ["understep.kernels._" + name for name in NAMES]
# what gains by the compiler's last efforts; these take it a fifth longer
FAST = [name for name in KERNELS if name.endswith(("_layers", "_steps", "_sight"))]
# the loops of this one are written once for all kinds of costs, turns and neighbors: each is fast
# where the compiler sees which it is, and it sees that only in a copy
COPIED = "understep.kernels._layers"
ALWAYS = "-DCYTHON_INLINE=__inline__ __attribute__((always_inline))"
wanted = os.environ.get("UNDERSTEP_KERNELS", "optional")
checks = os.environ.get("UNDERSTEP_BOUNDS", "0") == "1"
sanitizer = os.environ.get("UNDERSTEP_SANITIZE")

extensions = []
if wanted != "none":
    sources = [Extension(name, ["src/" + name.replace(".", "/") + ".py"]) for name in KERNELS]
    # where processes are started anew, each would run this file again
    forks = multiprocessing.get_start_method() == "fork"
    extensions = cythonize(
        sources,
        build_dir="build",
        nthreads=(os.cpu_count() or 1) if forks else 0,
        force=checks,
        compiler_directives={
            "language_level": 3,
            "boundscheck": checks,
            "wraparound": False,
            "cdivision": True,
            "initializedcheck": checks,
            "freethreading_compatible": True,
        },
    )
    for extension in extensions:
        extension.optional = wanted != "required"
        effort = "-O3" if extension.name in FAST else "-O2"
        extension.extra_compile_args = ["/O2"] if os.name == "nt" else [effort, "-g0"]
        if extension.name == COPIED and os.name != "nt":
            # by which address a loop begins it can take a fifth longer
            extension.extra_compile_args += [ALWAYS, "-falign-loops=32"]
        if sanitizer:
            extension.extra_compile_args = [f"-fsanitize={sanitizer}", "-O1", "-g"]
            extension.extra_link_args = [f"-fsanitize={sanitizer}"]

# the compiler takes longest, and one file does not need another
setup(ext_modules=extensions, options={"build_ext": {"parallel": os.cpu_count() or 1}})
