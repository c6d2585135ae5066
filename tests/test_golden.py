"""Golden answers and files: the same from every kernel, wheel and machine, and from release to release.

A change that alters an answer or a format on purpose writes them anew: ``python tests/test_golden.py``.
"""

import hashlib
import json
import random
from pathlib import Path

import pytest

import understep as us

GOLDEN = Path(__file__).parent / "golden"
CHUNKS, SLOW = 24, 2  # of questions; as many as the interpreted kernel answers


def land(rng):
    """A piece of the delta with walls, crates, a ferry and two sides."""
    made = us.worlds.delta(rng.randrange(10**6), 26, 20, units=False)
    terrains = dict(made.terrains)
    board = us.Board(
        made.grid, terrains, edges={"wall": us.Edge(blocks=True, hides=True), "road": us.Edge(cost=0.5)},
        features={"crate": us.Feature(blocks=True), "bush": us.Feature(add=1, cover=0.5)},
    )  # fmt: skip
    for name in terrains:
        board.paint(name, [cell for cell in made.grid if made.terrain(cell) == name])
    cells = list(board.grid)
    for _ in range(30):
        cell = rng.choice(cells)
        other = rng.choice(list(board.grid.neighbors(cell)))
        board.set_edge(cell, other, rng.choice(["wall", "road"]), both=rng.random() < 0.8)
    board.set_elevation(1, rng.sample(cells, 40))
    board.place("crate", rng.sample(cells, 8))
    board.place("bush", rng.sample(cells, 12))
    board.link(*rng.sample(cells, 2), 2, kind="ferry")
    for number in range(8):
        rules = us.Movement(
            rng.choice([3, 4.5, 6]), zones=rng.choice(["ignore", "end", 1]),
            passes=rng.choice(["none", "own"]), climb=rng.choice([None, 0.5, 1]),
            footprint=us.Footprint.block(2) if number == 3 else us.Footprint.block(1),
        )  # fmt: skip
        attack = us.Attack(1, rng.randrange(1, 5), sight=rng.random() < 0.7)
        side = ("ours", "theirs")[number % 2]
        unit = us.Unit(f"u{number}", side, rules, sight=rng.randrange(3, 8), attack=attack)
        for cell in rng.sample(cells, 200):
            if _fits(board, unit, cell):
                break
    if rng.random() < 0.5:
        us.fog(board, "ours", land_known=rng.random() < 0.5)
    return board


def _fits(board, unit, cell):
    try:
        board.add(unit, at=cell)
    except us.UnderstepError:
        return False
    return True


def answers(number):
    """What a chunk of questions is answered."""
    rng = random.Random(number)
    board = land(rng)
    cells, found = list(board.grid), []
    for unit in board.units():
        goals = rng.sample(cells, 4)
        found.append(us.reach(board, unit.name, turns=rng.choice([1, 2])).plain())
        for prefer in ("straight", "direct", "first"):
            route = us.route(board, unit.name, goals[0], prefer=prefer)
            found.append([route.plain(), route.why])
        found.append(us.route(board, unit.name, goals, accept="nearest").plain())
        found.append(str(us.explain(board, unit.name, goals[1])))
        found.append(us.view(board, unit.name).plain())
        found.append(us.attacks(board, unit.name).plain())
        found.append(us.sees(board, unit.name, goals[2]).plain())
        found.append(us.field(board, unit.name, goals).table().tolist())
    for side in board.sides:
        found.append(us.threats(board, side).plain())
        found.append(us.prospects(board, side).plain())
    found += [board.digest(), us.areas(board, board.units()[0].movement).table().tolist()]
    return found


def digest(number):
    """The digest of a chunk."""
    text = json.dumps(answers(number), sort_keys=True, allow_nan=True)
    return hashlib.sha256(text.encode()).hexdigest()[:16]


@pytest.mark.parametrize("number", range(CHUNKS if us.kernels() == "compiled" else SLOW))
def test_golden_answers(number):
    wanted = json.loads((GOLDEN / "answers.json").read_text("utf-8"))
    assert digest(number) == wanted[number]


def full_board():
    """A board with something of everything that a file can hold."""
    return filled(land(random.Random(5)))


def filled(board):
    """The same board with data, blocks and fog."""
    board.title = "All that a board file holds"
    board.set_data(weather="rain", marks=[1, 2.5, None])
    board.set_data(board.units()[0].name, health=7)
    board.block(list(board.grid)[5])
    board.block(list(board.grid)[6], side="ours")
    if "theirs" not in board.fogged:
        us.fog(board, "theirs")
    return board


def world():
    """A small world with a unit, an edit and a side in fog."""
    made = us.worlds.World(
        lambda first, cols, rows: us.worlds.delta(7, cols, rows, first=first, units=False), 70, 50,
        sector=32,
    )  # fmt: skip
    scout = us.Unit("scout", "wardens", us.Movement(points=8), sight=4)
    made.add(scout, at=next(iter(us.areas(made.near((20, 20)), scout.movement).cells_of(0))))
    made.fog("wardens")
    made.near((40, 30)).paint("mud", (40, 30))
    return made


def test_golden_board_file(tmp_path):
    board = us.load(GOLDEN / "board-4.json")
    assert board.digest() == full_board().digest()
    us.save(board, tmp_path / "again.json")
    assert (tmp_path / "again.json").read_bytes() == (GOLDEN / "board-4.json").read_bytes()


def test_golden_edits():
    board = land(random.Random(5))
    board.replay((GOLDEN / "edits-1.jsonl").read_text("utf-8"))
    wanted = edited()[0]
    assert (board.title, board.data) == (wanted.title, wanted.data)
    assert board.digest() == wanted.digest()


def edited():
    """A board after some edits, and these."""
    board = land(random.Random(5))
    for side in board.fogged:
        board.lift_fog(side)
    since = board.state
    unit, cells = board.units()[0].name, list(board.grid)
    board.title = "After some edits"
    board.set_data(weather="rain", marks=[1, 2.5, None])
    board.set_data(unit, health=7)
    board.block(cells[5])
    board.paint("mud", cells[-3:])
    board.set_elevation(0.5, cells[10:14])
    board.link(cells[0], cells[40], 1.5, kind="ladder")
    board.set_unit(unit, movement=us.Movement(5.5, zones=1, leap=us.Leap(1)), sight=2)
    board.remove(board.units()[1].name)
    return board, board.edits(since)


def test_golden_world_folder():
    board = us.worlds.load_world(GOLDEN / "world-4").board((0, 0), 70, 50)
    wanted = world().board((0, 0), 70, 50)
    assert board.digest() == wanted.digest()
    assert board.knowledge("wardens").plain() == wanted.knowledge("wardens").plain()


def write():
    """Write all of them anew."""
    GOLDEN.mkdir(exist_ok=True)
    digests = [digest(number) for number in range(CHUNKS)]
    (GOLDEN / "answers.json").write_text(json.dumps(digests, indent=0) + "\n", "utf-8")
    (GOLDEN / "edits-1.jsonl").write_text(edited()[1], "utf-8")
    us.save(full_board(), GOLDEN / "board-4.json")
    us.worlds.save_world(world(), GOLDEN / "world-4")
    (GOLDEN / "world-4" / ".lock").unlink()


if __name__ == "__main__":
    write()
