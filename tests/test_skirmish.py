"""Whole games from a seed: rules kept at every moment, nothing lost, everything undone."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from samples import examples

import understep as us
from understep.cli.demo import WAYPOINTS
from understep.cli.skirmish import HEALTH, Skirmish
from understep.files.reader import parse
from understep.files.writer import dump
from understep.maps._shipped import SHIPPED


def sound(board):
    """Whether units stand where they may, each cell has one, and knowledge is what is seen."""
    taken = [cell for unit in board.units() for cell in board.covered(unit)]
    assert len(set(taken)) == len(taken)
    for unit in board.units():
        assert not board._units.hindrance(unit, unit.at)
        assert 0 <= unit.left <= unit.movement.points
    for side in board.fogged:
        knowledge = board.knowledge(side)
        own = [unit for unit in board.units() if unit.side == side]
        seen = set().union(*(us.view(board, unit.name) for unit in own))
        assert set(knowledge.cells_seen("now")) == seen
        known = {unit.name for unit in knowledge.board.units()}
        assert known == {
            unit.name for unit in board.units()
            if unit.side == side or seen & set(board.covered(unit))
        }  # fmt: skip


@pytest.mark.parametrize("name", SHIPPED)
@examples(0.3)
@given(seed=st.integers(0, 10**6))
def test_a_game_keeps_the_rules_and_can_be_undone_to_its_start(name, seed):
    board = us.maps.shipped(name)
    start, first = dump(board), board.state
    game = Skirmish(board, WAYPOINTS[name], seed)
    lines, states = [], []
    for line in game.play(rounds=3):
        lines.append(line)
        if line.startswith("Round"):
            sound(board)
            states.append(board.state)
    assert len(set(states)) == len(states)
    beaten = [line.split(" beats ")[1] for line in lines if " beats " in line]
    assert len(beaten) + len(board.units()) == len(game.health)
    for unit in board.units():
        hits = sum(f"hits {unit.name} " in line for line in lines)
        assert game.health[unit.name] == HEALTH - hits
    again = us.maps.shipped(name)
    replay = Skirmish(again, WAYPOINTS[name], seed)
    assert list(replay.play(rounds=3)) == lines
    assert dump(again) == dump(board)
    loaded = parse(dump(board).encode())
    sound(loaded)
    assert dump(loaded) == dump(board)
    while board.undo():
        pass
    assert (board.state, dump(board)) == (first, start)
    steps = 0
    while board.redo():
        steps += 1
    assert dump(board) == dump(again)
    assert steps > 3


@given(st.data())
def test_joined_steps_are_one_step_of_undo(data):
    board = us.Board(us.SquareGrid(4, 3), {"turf": 1, "mud": 3, "reeds": 2})
    board.add(us.Unit("scout", "wardens", us.Movement(4), sight=1), at=(0, 0))
    if data.draw(st.booleans()):
        us.fog(board, "wardens")
    pasts = [(board.state, dump(board))]  # before each step of undo
    cells = list(board.grid)
    for _ in range(data.draw(st.integers(1, 10))):
        kind = data.draw(st.sampled_from(["paint", "put", "batch", "join", "undo"]))
        cell = data.draw(st.sampled_from(cells))
        if kind == "paint":
            board.paint(data.draw(st.sampled_from(["mud", "reeds"])), cell)
        elif kind == "put":
            board.put("scout", at=cell)
        elif kind == "batch":
            with board.batch():
                board.put("scout", at=cell)
                board.paint("turf", data.draw(st.sampled_from(cells)))
        elif kind == "join":
            place = data.draw(st.integers(0, len(pasts) - 1))
            board.join(pasts[place][0])
            pasts[place + 1 :] = pasts[-1:] if place + 1 < len(pasts) else []
            continue
        elif len(pasts) > 1:
            assert board.undo()
            pasts.pop()
            assert (board.state, dump(board)) == pasts[-1]
            continue
        else:
            continue
        pasts.append((board.state, dump(board)))
    for state, text in reversed(pasts[:-1]):
        assert board.undo()
        assert (board.state, dump(board)) == (state, text)


@given(st.integers(0, 10**6))
def test_attacks_and_threats_are_the_same_on_a_mirrored_board(seed):
    rng = np.random.default_rng(seed)
    kind = rng.integers(2)
    size = (5, 5)
    grid = us.SquareGrid(*size, diagonals=True) if kind else us.HexGrid.hexagon(2)
    axis = "N"
    board = us.Board(grid, {"turf": 1, "reeds": us.Terrain(2, cover=1), "deep": None})
    other = us.Board(grid, {"turf": 1, "reeds": us.Terrain(2, cover=1), "deep": None})
    cells = list(grid)
    middle = cells[len(cells) // 2]

    def image(cell):
        (found,) = grid.mirror([cell], middle, axis)
        return found

    for cell in cells:
        name, level = ["turf", "turf", "reeds", "deep"][rng.integers(4)], int(rng.integers(2))
        for each, spot in ((board, cell), (other, image(cell))):
            each.paint(name, spot)
            each.set_elevation(level, spot)
    attack = us.Attack(
        1, int(rng.integers(1, 4)), sight=bool(rng.integers(2)), per_level=int(rng.integers(2)),
        pattern=[us.Pattern(), us.Pattern.disk(1)][rng.integers(2)],
    )  # fmt: skip
    free = [cell for cell in cells if board.terrain(cell) != "deep"]
    for number, place in enumerate(rng.choice(len(free), min(4, len(free)), replace=False)):
        unit = us.Unit(f"u{number}", "ab"[number % 2], us.Movement(3), attack=attack)
        board.add(unit, at=free[place])
        other.add(unit, at=image(free[place]))
    for unit in board.units():
        here, there = us.attacks(board, unit.name), us.attacks(other, unit.name)
        assert {image(cell) for cell in here} == set(there)
        assert here.targets == there.targets
        for cell in here:
            assert {image(stand) for stand in here.stands(cell)} == set(there.stands(image(cell)))
    here, there = us.threats(board, against="a"), us.threats(other, against="a")
    assert {image(cell): here.by(cell) for cell in here.cells} == {
        cell: there.by(cell) for cell in there.cells
    }
