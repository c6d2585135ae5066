"""The package as a whole: its face, its weight, its two kernels, its examples."""

import ast
import inspect
import io
import json
import os
import pydoc
import re
import shutil
import subprocess
import sys
import sysconfig
import threading
import warnings
from pathlib import Path

import pytest
from face import MODULES, PUBLIC

import understep as us
from understep.kernels import loader

ROOT = Path(__file__).parents[1]


def python(*words, **env):
    done = subprocess.run(
        [sys.executable, *words], capture_output=True, text=True, check=False,
        env={**os.environ, **env}, cwd=ROOT,
    )  # fmt: skip
    assert done.returncode == 0, done.stderr
    return done.stdout


def test_the_face_is_sorted_and_the_import_light():
    assert dir(us) == sorted(dir(us))
    assert len(dir(us)) <= 60
    assert all(thing is not None for thing in PUBLIC.values())
    twice = "typing", "errors.UnderstepError"  # types may be equal, and it is the root of all
    things = {name: id(thing) for name, thing in PUBLIC.items() if not name.startswith(twice)}
    assert len(set(things.values())) == len(things)
    for module in ("", *MODULES):
        place = getattr(us, module) if module else us
        assert not any(name.startswith("_") for name in dir(place))
        with pytest.raises(AttributeError, match="has no attribute 'nothing'"):
            place.nothing  # noqa: B018
    shown = io.StringIO()
    pydoc.Helper(output=shown).help(us)
    assert len(shown.getvalue().splitlines()) < 100
    heavy = {"matplotlib", "rich", "click", "pydantic", "shapely", "pandas"}
    loaded = python("-c", "import understep, sys; print(*sys.modules)").split()
    assert not heavy & set(loaded)


PARITY = """
import json, warnings, understep as us
warnings.simplefilter("ignore", us.errors.KernelWarning)
out = [us.kernels()]
for name in ("fen", "sluice-house"):
    board = us.maps.shipped(name)
    for unit in board.units():
        reach = us.reach(board, unit.name, turns=2)
        out.append(reach.plain())
        for cell in list(reach)[::23]:
            for prefer in ("straight", "direct", "first"):
                out.append(us.route(board, unit.name, cell, prefer=prefer).plain())
import numpy as np
rng = np.random.default_rng(4)
grids = [us.SquareGrid(9, 7, diagonals=True), us.HexGrid(8, 8, top="flat", shifted="even")]
for grid in grids * 4:
    costs = {"a": 1, "b": 2, "c": float(rng.choice([0, 0.3, 2.5, 9000])), "d": None}
    board = us.Board(grid, costs)
    for name in costs:
        board.paint(name, grid.cells.array[rng.integers(1, len(grid.cells), 12)])
    board.paint("a", grid.cells.array[:1])
    for place, cell in enumerate(rng.choice(np.flatnonzero(board.terrain_codes() != 3), 6, False)):
        movement = us.Movement(int(rng.integers(1, 6)) * (1000 if costs["c"] == 9000 else 1))
        board.add(us.Unit(f"u{place}", "xy"[place % 2], movement), grid.numbering.cell_of(cell))
    for unit in board.units():
        reach = us.reach(board, unit.name, turns=3)
        out += [reach.plain(), *(reach.route_to(cell).plain() for cell in list(reach)[::7])]
        out.append(us.route(board, unit.name, grid.bounds[1]).plain())
for number, grid in enumerate(grids * 2):
    edges = {"wall": us.Edge(blocks=True), "ditch": us.Edge(add=0.5)}
    board = us.Board(grid, {"a": 1, "b": 1.75, "d": None}, edges=edges, properties={"wet": 0.0})
    cells = grid.cells.array
    board.paint("b", cells[rng.integers(1, len(cells), 15)])
    board.paint("d", cells[rng.integers(9, len(cells), 6)])
    board.set_elevation(rng.integers(0, 3, len(cells)) / 2, grid.cells)
    board.set_value("wet", rng.integers(0, 3, len(cells)).astype(float), grid.cells)
    board.lay_beside("wall", cells[rng.integers(9, len(cells), 5)], 0)
    board.lay_beside("ditch", cells[rng.integers(9, len(cells), 5)], 1)
    for a, b in cells[rng.integers(0, len(cells), (4, 2))].tolist():
        if a != b:
            board.link(a, b, cost=0.5, both=False)
    def wet(site):
        return site.cost if site.cost is None else site.cost + site.values["wet"]
    rules = [
        us.Movement(4, zones="end", uphill=0.5, climb=1),
        us.Movement(5, rule=wet, zones=0.25, one_step=True),
        us.Movement(6, footprint=((0, 0), (1, 0)), corners="one", foe_corners=True),
        us.Movement(5, diagonal="alternating", leap=us.Leap(2, up=1, down=None)),
        us.Movement(3, carry=2),
    ]
    standing = [c for c in grid if board.terrain(c) != "d"]
    for place, movement in enumerate(rules * 2):
        unit = us.Unit(f"u{place}", "xy"[place % 2], movement)
        at = next((c for c in standing[3 * place :] if board.unit_at(c) is None and
                   all(each in grid and board.unit_at(each) is None for each in board.covered(unit, c))
                   and not board._units.hindrance(unit, c)), None)
        if at is not None:
            board.add(unit, at)
    for unit in board.units():
        reach = us.reach(board, unit.name, turns=3)
        out += [reach.plain(), *(reach.route_to(cell).plain() for cell in list(reach)[::5])]
        out.append(us.route(board, unit.name, [(7, 6), (0, 6), (6, 0)], turns=4).plain())
        out.append(us.field(board, unit.name, [(0, 0), (6, 6)]).plain())
        out.append(us.areas(board, unit.name).table().tolist())
        out += [us.explain(board, unit.name, cell).plain() for cell in list(grid)[::11]]
    out += [finding.plain() for finding in us.maps.check(board)]
print(json.dumps(out))
"""


BARE = "import sys; sys.modules['cython'] = None\n"  # as where Cython is not installed


def test_both_kernels_and_every_hash_seed_give_the_same():
    interpreted = json.loads(
        python("-c", BARE + PARITY, UNDERSTEP_INTERPRETED="1", PYTHONHASHSEED="1")
    )
    present = json.loads(python("-c", PARITY, PYTHONHASHSEED="2"))
    assert interpreted[0] == "interpreted"
    assert interpreted[1:] == present[1:]


def test_the_interpreted_kernel_warns_once_and_needs_no_cython():
    code = (
        f"{BARE}import understep as us"
        + """
b = us.Board(us.SquareGrid(3, 3, diagonals=True), {"t": 1}, edges={"wall": us.Edge(blocks=True)})
b.set_elevation(1, (1, 1)), b.set_edge((0, 0), (1, 0), "wall")
b.add(us.Unit("a", "x", us.Movement(2, corners="one", climb=1, uphill=0.5)), (0, 0))
assert len(us.reach(b, "a")) == len(us.reach(b, "a")) == 6
"""
    )
    done = subprocess.run(
        [sys.executable, "-W", "always", "-c", code], capture_output=True, text=True, check=True,
        env={**os.environ, "UNDERSTEP_INTERPRETED": "1"},
    )  # fmt: skip
    assert done.stderr.count("KernelWarning") == 1


# instead of a compiler: it makes empty files, but for one kernel
FAKE = """#!/bin/sh
case "$*" in *_layers.c*) exit 1;; esac
while [ "$1" != -o ]; do shift; done
touch "$2"
"""


@pytest.mark.deep
@pytest.mark.skipif(os.name == "nt", reason="the compiler is a shell script")
def test_where_one_kernel_does_not_compile_none_is_kept(tmp_path):
    for name in ("src", "setup.py", "pyproject.toml", "README.md", "LICENSE"):
        copy = shutil.copytree if (ROOT / name).is_dir() else shutil.copy
        copy(ROOT / name, tmp_path / name)
    compiler = tmp_path / "cc"
    older = "_areas" + sysconfig.get_config_var("EXT_SUFFIX")  # of an earlier build, no better
    (tmp_path / "src" / "understep" / "kernels" / older).touch()
    for fails in (True, False):
        compiler.write_text(FAKE if fails else FAKE.replace("exit 1", ":"))
        compiler.chmod(0o755)
        done = subprocess.run(
            [sys.executable, "setup.py", "-q", "build_ext", "--inplace", "--force"],
            cwd=tmp_path, env={**os.environ, "CC": str(compiler), "UNDERSTEP_KERNELS": "optional"},
            capture_output=True, text=True, check=False,
        )  # fmt: skip
        assert done.returncode == 0, done.stderr
        built = {path.name.split(".")[0] for path in tmp_path.rglob("kernels/_*.so")}
        assert built == (set() if fails else {"_shared", *(f"_{name}" for name in loader.KERNELS)})


def test_threads_may_search_a_board_that_none_edits():
    board = us.maps.shipped("fen")
    names = [unit.name for unit in board.units()] * 6
    alone = [us.reach(board, name, turns=4).plain() for name in names]
    together = [None] * len(names)

    def ask(place):
        with warnings.catch_warnings():
            together[place] = us.reach(board, names[place], turns=4).plain()

    threads = [threading.Thread(target=ask, args=(place,)) for place in range(len(names))]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert together == alone


@pytest.mark.parametrize(
    "example",
    sorted({path.name for path in (ROOT / "examples").glob("*.py")} - {"play.py", "selfplay.py"}),
)  # these have tests of their own
def test_examples_run(example, tmp_path):
    out = python(str(ROOT / "examples" / example), str(tmp_path))
    assert out.strip()


def test_the_idioms_that_mypy_checks_run():
    assert "4.5 2 1" in python(str(ROOT / "tests" / "idioms.py"))


def test_the_first_game_is_played_by_typing():
    orders = """
scout
scout 4,2
scout 5,2
archer raider
archer 9,9
archer 2,3
end
archer 2,3
nobody 1,1
end
end
quit
"""
    done = subprocess.run(
        [sys.executable, "-W", "ignore", str(ROOT / "examples" / "first_game.py")],
        input=orders, capture_output=True, text=True, check=True,
    )  # fmt: skip
    told = done.stdout
    for words in (
        "scout goes to (4, 2)", "no: 'deep' at (5, 2) is impassable for 'scout'",
        "no: the wardens know of no unit 'raider'",
        "no: (9, 9) is off the board", "archer goes to (2, 3)", "nobody is not ready",
        "slinger hits scout", "Round 2: your turn", "wreckers win",
    ):  # fmt: skip
        assert words in told, (words, told)


def members(thing):
    """A public class's own public methods and properties."""
    for name, member in vars(thing).items():
        if not name.startswith("_") and (callable(member) or isinstance(member, property)):
            yield name, member


def test_every_public_name_is_documented():
    """A docstring each; where something is raised on purpose, the errors are listed."""
    for name, thing in PUBLIC.items():
        if name.startswith("typing."):
            continue
        assert inspect.getdoc(thing), name
        if inspect.isclass(thing) and thing.__module__.startswith("understep"):
            for inner, member in members(thing):
                assert inspect.getdoc(member), f"{name}.{inner}"
        if inspect.isfunction(thing):
            text = inspect.getdoc(thing)
            assert "Examples" in text or name == "save", name
            for parameter in inspect.signature(thing).parameters:
                assert re.search(rf"\b{parameter}\b", text), f"{name}: {parameter}"
            if "raise" in inspect.getsource(thing):
                assert "Raises" in text, name


def test_annotations_are_everywhere_and_shipped():
    package = Path(us.__file__).parent
    assert (package / "py.typed").exists()
    for path in package.rglob("*.py"):
        if path.parent.name == "kernels" and path.name.startswith("_"):
            continue  # stubs and `.pxd` files say their types
        for line in path.read_text("utf-8").splitlines():
            if line.lstrip().startswith("def ") and line.rstrip().endswith(":"):
                assert "->" in line, f"{path.name}: {line}"
    assert all(path.read_text("utf-8").startswith('"""') for path in package.rglob("*.py"))


def test_an_error_is_of_the_kind_that_a_caller_would_catch():
    kinds = {
        us.errors.CellError: ValueError, us.errors.CostError: ValueError, us.errors.NameUnknownError: ValueError,
        us.errors.OccupiedError: ValueError, us.errors.BoardFileError: ValueError, us.errors.NotReached: KeyError,
        us.errors.MissingExtraError: ImportError, us.errors.KernelWarning: RuntimeWarning,
    }  # fmt: skip
    for kind, builtin in kinds.items():
        assert issubclass(kind, builtin)
        assert issubclass(kind, us.UnderstepError) != (kind is us.errors.KernelWarning)
    with pytest.raises(us.errors.NameUnknownError) as caught:
        us.convert((0, 0), "offset", "cub")
    error = caught.value
    assert (error.argument, error.got, error.close) == ("target", "cub", ("cube",))
    with pytest.raises(us.errors.CellError) as caught:
        us.SquareGrid(2, 2).neighbors("x" * 500)
    assert len(str(caught.value)) < 250


@pytest.mark.parametrize(
    ("module", "call", "said", "extra"),
    [
        ("matplotlib.figure", "us.draw.figure(board)", "drawing a figure needs", "plot"),
        ("PIL", "us.maps.map_image(board, 'x.png')", "writing an image needs", "plot"),
        ("PIL", "us.maps.read_image('x.png', {'#000000': 't'}, {'t': 1}, grid=us.SquareGrid)",
         "reading an image needs", "plot"),
        ("shapely", "us.shapes.circle((0, 0), 1)", "working with shapes needs", "shapes"),
    ],
)  # fmt: skip
def test_without_an_extra_a_call_says_what_to_install(module, call, said, extra):
    code = (
        f"import sys; sys.modules[{module!r}] = None; import understep as us\n"
        "board = us.Board(us.SquareGrid(1, 1), {'t': 1})\n"
        f"try: {call}\n"
        "except us.errors.MissingExtraError as error: print(error)"
    )
    assert python("-c", code) == f"{said} an optional part: pip install 'understep[{extra}]'\n"


@pytest.mark.skipif(us.kernels() != "compiled", reason="no compiled kernel to leave out")
def test_the_running_kernel_can_be_chosen():
    for wanted, env in (("compiled", "0"), ("interpreted", "1")):
        said = python(
            "-c", "import understep as us; print(us.kernels())", UNDERSTEP_INTERPRETED=env
        )
        assert said.strip() == wanted


def test_all_kernels_run_as_they_say():
    from understep.kernels import loader

    files = {name: getattr(getattr(loader, name), "__file__", ".py") for name in loader.KERNELS}
    compiled = {name: not file.endswith(".py") for name, file in files.items()}
    assert compiled == dict.fromkeys(loader.KERNELS, us.kernels() == "compiled")


def test_every_page_of_the_cookbook_is_listed_and_has_its_picture():
    folder = Path(__file__).parents[1] / "docs" / "cookbook"
    listed = (folder / "README.md").read_text("utf-8")
    pages = sorted(folder.glob("[0-9]*.md"))
    assert len(pages) == 11
    for page in pages:
        text = page.read_text("utf-8")
        assert f"]({page.name})" in listed
        assert f"]({page.stem}.png)" in text
        assert ">>> drawn = us.draw.figure(" in text
        assert (folder / f"{page.stem}.png").read_bytes()[:4] == b"\x89PNG"


def test_stubs_of_kernels_have_the_names_and_arguments_of_their_source():
    for stub in (Path(us.__file__).parent / "kernels").glob("_*.pyi"):
        source, told = (_signatures(path) for path in (stub.with_suffix(".py"), stub))
        assert told
        assert {name: source.get(name) for name in told} == told, stub.name


def _signatures(path):
    """The arguments of every function and method of a file."""
    tree = ast.parse(path.read_text("utf-8"))
    found = {}
    for home in (tree, *(node for node in tree.body if isinstance(node, ast.ClassDef))):
        for node in home.body:
            if isinstance(node, ast.FunctionDef):
                found[getattr(home, "name", ""), node.name] = [each.arg for each in node.args.args]
    return found
