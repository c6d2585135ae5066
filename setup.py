"""Build the kernels: compiled where there is a compiler, left as Python elsewhere.

UNDERSTEP_KERNELS=required  a kernel that cannot be compiled is an error (releases)
UNDERSTEP_KERNELS=none      compile nothing
UNDERSTEP_BOUNDS=1          compile with bounds checks (tests)
UNDERSTEP_SANITIZE=address  compile with GCC's address sanitizer (tests)
"""

import multiprocessing
import os
from pathlib import Path

from Cython.Build import cythonize
from setuptools import Extension, setup
from setuptools.command.build_ext import build_ext

# the largest first, so that none is left to compile alone at the end
NAMES = (
    "search", "layers", "steps", "sight", "asker", "choice", "ties", "field", "plan", "areas",
    "rules",
)  # fmt: skip
KERNELS = ["understep.kernels._" + name for name in NAMES]
# what all of them need to take arrays, compiled once; Cython writes it
SHARED = "understep.kernels._shared"
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
    endings = dict.fromkeys(KERNELS, ".py") | {SHARED: ".c"}
    sources = [
        Extension(name, ["src/" + name.replace(".", "/") + ending])
        for name, ending in endings.items()
    ]
    # where processes are started anew, each would run this file again
    forks = multiprocessing.get_start_method() == "fork"
    extensions = cythonize(
        sources,
        build_dir="build",
        shared_utility_qualified_name=SHARED,
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


class AllOrNone(build_ext):
    """Where one kernel cannot be compiled, none is kept: compiled ones take no others."""

    def run(self):
        """Build all; take away what was built where one is missing."""
        super().run()
        names = [self.get_ext_filename(extension.name) for extension in self.extensions]
        if not all(Path(self.build_lib, name).exists() for name in names):
            for name in names:
                Path(self.build_lib, name).unlink(missing_ok=True)
                Path("src", name).unlink(missing_ok=True)


# the compiler takes longest, and one file does not need another
parallel = {"build_ext": {"parallel": os.cpu_count() or 1}}
setup(ext_modules=extensions, options=parallel, cmdclass={"build_ext": AllOrNone})
