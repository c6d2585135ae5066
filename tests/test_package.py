"""The package as a whole: its face, its weight, its two kernels, its examples."""

import json
import os
import subprocess
import sys
import threading
import warnings
from pathlib import Path

import pytest

import understep as us
from understep.cli.common import shipped

ROOT = Path(__file__).parents[1]


def python(*words, **env):
    done = subprocess.run(
        [sys.executable, *words], capture_output=True, text=True, check=False,
        env={**os.environ, **env}, cwd=ROOT,
    )  # fmt: skip
    assert done.returncode == 0, done.stderr
    return done.stdout


def test_the_face_is_sorted_and_the_import_light():
    assert us.__all__ == sorted(us.__all__)
    assert all(getattr(us, name) is not None for name in us.__all__)
    heavy = {"matplotlib", "rich", "click", "pydantic", "shapely", "pandas"}
    loaded = python("-c", "import understep, sys; print(*sys.modules)").split()
    assert not heavy & set(loaded)


PARITY = """
import json, warnings, understep as us
warnings.simplefilter("ignore", us.KernelWarning)
from understep.cli.common import shipped
out = [us.kernels()]
for name in ("fen", "sluice-house"):
    board = shipped(name)
    for unit in board.units():
        reach = us.reach(board, unit.name, turns=3)
        out.append(reach.plain())
        for cell in list(reach)[::9]:
            for prefer in ("straight", "direct", "first"):
                out.append(us.route(board, unit.name, cell, prefer=prefer).plain())
print(json.dumps(out))
"""


def test_both_kernels_and_every_hash_seed_give_the_same():
    interpreted = json.loads(python("-c", PARITY, UNDERSTEP_INTERPRETED="1", PYTHONHASHSEED="1"))
    present = json.loads(python("-c", PARITY, PYTHONHASHSEED="2"))
    assert interpreted[0] == "interpreted"
    assert interpreted[1:] == present[1:]


def test_the_interpreted_kernel_warns_once():
    code = "import understep as us; b = us.Board(us.SquareGrid(2, 1), {'t': 1});" + (
        "b.add(us.Unit('a', 'x', us.Movement(1)), (0, 0)); us.reach(b, 'a'); us.reach(b, 'a')"
    )
    done = subprocess.run(
        [sys.executable, "-W", "always", "-c", code], capture_output=True, text=True, check=True,
        env={**os.environ, "UNDERSTEP_INTERPRETED": "1"},
    )  # fmt: skip
    assert done.stderr.count("KernelWarning") == 1


def test_threads_may_search_a_board_that_none_edits():
    board = shipped("fen")
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


@pytest.mark.parametrize("example", sorted(path.name for path in (ROOT / "examples").glob("*.py")))
def test_examples_run(example, tmp_path):
    out = python(str(ROOT / "examples" / example), str(tmp_path))
    assert out.strip()
