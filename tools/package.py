"""Build the sdist and wheels, and test them away from the source tree on every Python there is.

``python tools/package.py [PYTHON ...]`` is the check before a release, by default on every
supported interpreter that is found; others are named. For each: a wheel from the sdist; a new
environment with the wheel and no extras, in which the library searches and every optional part says
what to install; then extras, and the suite against what was installed, with the newest versions of
all it depends on, on the oldest Python with the oldest ones, too. Once: the wheel for machines
without a compiler, and every extra by itself. ``--frozen`` packs a game with PyInstaller, and runs
it.
"""

from __future__ import annotations

import argparse
import os
import shutil
import subprocess
import sys
import tempfile
import tomllib
from pathlib import Path

ROOT = Path(__file__).parents[1]
OLDEST, NEWEST = 11, 14
EXTRAS = [
    "hypothesis", "networkx", "pytest", "pytest-benchmark", "pytest-xdist", "scipy",
    "import-linter", "jsonschema",
]  # fmt: skip
SUITE = "test_reach test_files test_package test_cli test_golden"
# with nothing but NumPy and what commands need
BARE = """
import sys, understep as us
board = us.Board(us.HexGrid(12, 8), {"turf": 1, "mud": 3})
board.add(us.Unit("scout", "wardens", us.Movement(points=4)), at=(4, 3))
assert us.kernels() == "compiled", us.kernels()
assert len(us.reach(board, "scout")) > 30
assert us.route(board, "scout", goals=(11, 7)).turns == 3
assert not {"matplotlib", "PIL", "shapely", "rich", "click", "pydantic"} & set(sys.modules)
from understep.explore.server import Server
asks = {
    "plot": [
        lambda: us.draw.figure(board), lambda: us.maps.map_image(board, "x.png"),
        lambda: us.draw.page(board),
    ],
    "shapes": [lambda: us.shapes.circle((0, 0), 1)],
    "explore": [lambda: Server(board)],
}
for extra, calls in asks.items():
    for call in calls:
        try:
            call()
        except us.errors.MissingExtraError as error:
            assert f"understep[{extra}]" in str(error), error
        else:
            raise SystemExit(f"{extra} is there")
print("bare:", sys.version.split()[0], us.__file__)
"""

# what a page is made of came with the wheel
LIVE = """
import understep as us
from understep.explore.server import Server
board = us.maps.shipped("fen")
assert us.draw.page(board).startswith("<!doctype html>")
Server(board)._server.server_close()
"""


def run(*command: str | Path, cwd: Path, **env: str) -> None:
    """Run a command, or stop."""
    print("$", *command, flush=True)
    clean = {name: value for name, value in os.environ.items() if name != "PYTHONPATH"}
    subprocess.run(list(map(str, command)), cwd=cwd, env={**clean, **env}, check=True)


def pythons() -> list[str]:
    """Every supported interpreter that is found, and runs."""
    named = (shutil.which(f"python3.{minor}") for minor in range(OLDEST, NEWEST + 1))
    return [path for path in named if path and not subprocess.run([path, "-V"]).returncode]


def installed(python: str, sdist: Path, home: Path, kernels: str) -> tuple[Path, Path]:
    """A new environment with a wheel from the sdist: its interpreter, and the wheel."""
    run(python, "-m", "venv", home, cwd=home.parent)
    here = home / "bin" / "python"
    run(here, "-m", "pip", "install", "-q", "--upgrade", "pip", cwd=home)
    command = [here, "-m", "pip", "wheel", "-q", "--no-deps", "-w", home / "wheel", sdist]
    run(*command, cwd=home, UNDERSTEP_KERNELS=kernels)
    (wheel,) = (home / "wheel").glob("*.whl")
    print(f"{wheel.name}: {wheel.stat().st_size / 2**20:.2f} MiB", flush=True)
    run(here, "-m", "pip", "install", "-q", wheel, cwd=home)
    return here, wheel


def tested(python: str, sdist: Path, work: Path) -> Path:
    """Build and check a wheel for an interpreter."""
    home = work / f"{len(list(work.iterdir()))}-{Path(python).name}"
    here, wheel = installed(python, sdist, home, "required")
    run(here, "-c", BARE, cwd=work)
    parts = f"{wheel}[plot,shapes,cluster,explore]"
    run(here, "-m", "pip", "install", "-q", parts, *EXTRAS, cwd=work)
    run(home / "bin" / "understep", "prove", "fen", "--seconds", "5", cwd=work)
    run(here, "-c", LIVE, cwd=work)
    away = home / "suite"
    for name in ("tests", "benchmarks", "docs", "examples", "tools", "pyproject.toml", "README.md"):
        source = ROOT / name
        copy = shutil.copytree if source.is_dir() else shutil.copy
        away.mkdir(exist_ok=True)
        copy(source, away / name)
    files = [f"tests/{name}.py" for name in SUITE.split()]
    options = ["-q", "-n", "auto", "-p", "no:cacheprovider", "-m", "not large and not deep"]
    options += ["-o", "addopts="]
    run(here, "-m", "pytest", *options, *files, cwd=away, HYPOTHESIS_PROFILE="quick")
    if f"-cp3{OLDEST}-" not in wheel.name:  # many of the oldest versions are for no later Python
        return wheel
    # the oldest versions of all it depends on; newer ones of what these need deprecate some of it
    run(here, "-m", "pip", "install", "-q", *oldest(), cwd=work)
    run(home / "bin" / "understep", "demo", "--rounds", "1", "--out", home / "demo", cwd=work)
    options += ["-o", "filterwarnings="]
    run(here, "-m", "pytest", *options, *files, cwd=away, HYPOTHESIS_PROFILE="quick")
    return wheel


# the answers are the same, and the first of them comes with a warning that says what to do
PURE = """
import warnings, understep as us
board = us.maps.shipped("fen")
with warnings.catch_warnings(record=True) as told:
    warnings.simplefilter("always")
    assert len(us.reach(board, "scout")) == 77
assert us.kernels() == "interpreted", us.kernels()
assert ["pip install" in str(each.message) for each in told] == [True], told
"""
# what each extra alone is enough for
USES = {
    "plot": "us.draw.figure(board, path='x.png'); us.draw.page(board)",
    "shapes": "us.shapes.cover(board.grid, us.shapes.circle((0, 0), 1))",
    "explore": "import understep.explore.server",
    "play": "import pygame",
    "cluster": "import distributed",
}


def pure(python: str, sdist: Path, work: Path) -> None:
    """The wheel that installs anywhere, without a compiler."""
    here, wheel = installed(python, sdist, work / "pure", "none")
    if not wheel.name.endswith("-py3-none-any.whl"):
        raise SystemExit(f"{wheel.name} is for one platform")
    run(here, "-c", PURE, cwd=work)


def alone(python: str, wheel: Path, work: Path) -> None:
    """Every extra, in an environment of its own."""
    for extra, use in USES.items():
        home = work / f"extra-{extra}"
        run(python, "-m", "venv", home, cwd=work)
        run(home / "bin" / "pip", "install", "-q", f"{wheel}[{extra}]", cwd=work)
        lines = f"import understep as us; board = us.maps.shipped('fen'); {use}"
        run(home / "bin" / "python", "-c", lines, cwd=work)


def oldest() -> list[str]:
    """The least versions that the project says are enough, of what commands and figures need."""
    project = tomllib.loads((ROOT / "pyproject.toml").read_text("utf-8"))["project"]
    extras = project["optional-dependencies"]
    needs = [*project["dependencies"], *extras["plot"], *extras["shapes"], *extras["explore"]]
    needs = [need for need in needs if not need.startswith("understep")]
    return [need.replace(">=", "==") for need in needs]


def frozen(work: Path) -> None:
    """A game in one folder, without a Python to run it."""
    script = ROOT / "examples" / "frozen.py"
    options = ["--noconfirm", "--log-level", "ERROR", "--distpath", work / "dist"]
    run(sys.executable, "-m", "PyInstaller", *options, script, cwd=work)
    game = work / "dist" / "frozen"
    size = sum(path.stat().st_size for path in game.rglob("*") if path.is_file())
    print(f"frozen: {size / 2**20:.0f} MiB", flush=True)
    run(game / "frozen", cwd=work, PATH="/nowhere")


def main() -> None:
    """Build and test."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("python", nargs="*", help="interpreters to test on")
    parser.add_argument("--frozen", action="store_true", help="only pack a game, and run it")
    given = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        work = Path(folder)
        if given.frozen:
            frozen(work)
            return
        run(sys.executable, "-m", "build", "-q", "--sdist", "-o", work / "sdist", ROOT, cwd=work)
        (sdist,) = (work / "sdist").glob("*.tar.gz")
        print(f"{sdist.name}: {sdist.stat().st_size / 2**20:.2f} MiB", flush=True)
        asked = given.python or pythons()
        pure(asked[0], sdist, work)
        wheels = [tested(python, sdist, work) for python in asked]
        alone(asked[0], wheels[0], work)
        named = " ".join(wheel.name for wheel in wheels)
        for minor in range(OLDEST, NEWEST + 1):
            if f"-cp3{minor}-" not in named:
                print(f"not tested: Python 3.{minor}", flush=True)


if __name__ == "__main__":
    main()
