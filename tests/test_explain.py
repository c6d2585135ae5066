"""Explanations: what is in the way is there, and without it the way is free."""

import dataclasses
import re
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st
from samples import boards

import understep as us


@given(boards(), st.data())
def test_an_explanation_agrees_with_the_reach_and_its_change_would_help(board, data):
    cell = data.draw(st.sampled_from(list(board.grid)))
    told = us.explain(board, "a", cell)
    reach, ever = us.reach(board, "a"), us.reach(board, "a", turns=None)
    assert bool(told) == (cell in reach)
    assert (told.turns is not None) == (cell in ever)
    assert str(told)
    assert told.plain()["ok"] == bool(told)
    if told:
        assert (told.turns, told.remedy, told.obstacles) == (1, "", ())
        return
    if told.turns is not None:
        assert told.turns == ever[cell].turn
    kinds = {obstacle.kind for obstacle in told.obstacles}
    if "terrain" in kinds:
        assert not told.remedy
    if not told.remedy:
        return
    # all that is named together is done, then each of what follows "either"
    unit = board.unit("a")
    limits = {word: None for word in ("climb", "drop") if f"limit to {word}" in told.remedy
              or f"and {word}" in told.remedy}  # fmt: skip
    board.remove("a")
    for obstacle in told.obstacles:
        for name in obstacle.names if obstacle.kind == "unit" else ():
            assert repr(name) in told.remedy
            board.remove(name)
        if obstacle.kind == "edge":
            board.set_edge(*obstacle.between, None)
    free = dataclasses.replace(unit.movement, **limits)
    board.add(dataclasses.replace(unit, movement=free, at=None), at=unit.at)
    left = float(unit.left)
    more, turns = (
        re.search(pattern, told.remedy)
        for pattern in (r"with ([\d.]+) points? more", r"in (\d+) turns")
    )
    if more is None and turns is None:
        assert cell in us.reach(board, "a")
    if more is not None:
        points = float(more[1])
        assert cell in us.reach(board, "a", left=left + points + 1e-9)
        assert cell not in us.reach(board, "a", left=max(left, left + points - 0.01))
    if turns is not None:
        assert us.reach(board, "a", turns=int(turns[1]))[cell].turn == int(turns[1])


def test_every_kind_of_obstacle_is_named():
    board = us.Board(
        us.SquareGrid(6, 1), {"turf": 1, "deep": None}, edges={"wall": us.Edge(blocks=True)}
    )
    board.add(us.Unit("scout", "wardens", us.Movement(points=3, drop=2, zones="end")), at=(0, 0))
    assert str(us.explain(board, "scout", (2, 0))) == "'scout' may end on (2, 0) this turn"
    assert us.explain(board, "scout", (5, 0)).remedy == "with 2 points more, or in 2 turns"
    board.paint("deep", (5, 0))
    assert us.explain(board, "scout", (5, 0)).obstacles[0].kind == "terrain"
    board.set_edge((1, 0), (2, 0), "wall")
    told = us.explain(board, "scout", (3, 0))
    assert told.obstacles[0].text == "'wall' between (1, 0) and (2, 0)"
    assert told.remedy == "without the 'wall' between (1, 0) and (2, 0)"
    board.set_edge((1, 0), (2, 0), None)
    board.set_elevation(3, [(0, 0), (1, 0)])
    told = us.explain(board, "scout", (3, 0))
    assert str(told) == "drop of 3 to (2, 0), limit 2. It could: with no limit to drop"
    board.set_elevation(0)
    board.add(us.Unit("pikes", "wreckers", us.Movement(points=3)), at=(2, 0))
    told = us.explain(board, "scout", (3, 0))
    assert told.obstacles[0].names == ("pikes",)
    assert us.explain(board, "scout", (2, 0)).remedy == "without 'pikes'"
    board.put("pikes", at=(1, 0))
    board.paint("turf", (5, 0))
    far = us.explain(board, "scout", (5, 0))
    assert far.remedy == "without 'pikes', and either with 2 points more or in 2 turns"
    assert [each.kind for each in far.obstacles] == ["unit", "points"]
    lone = us.Board(us.SquareGrid(3, 1), {"turf": 1, "deep": None})
    lone.paint("deep", (1, 0))
    lone.add(us.Unit("scout", "wardens", us.Movement(points=3)), at=(0, 0))
    assert str(us.explain(lone, "scout", (2, 0))) == "no route leads there"
    with pytest.raises(us.errors.NameUnknownError, match="'scout'"):
        us.explain(lone, "scuot", (0, 0))


def test_the_points_that_are_said_to_be_enough_are_enough():
    """A third is printed as 0.334: 0.333 would be too few."""
    board = us.Board(us.SquareGrid(2, 1), {"turf": 1, "mud": Fraction(4, 3)})
    board.paint("mud", (1, 0))
    board.add(us.Unit("scout", "ours", us.Movement(2), left=1), at=(0, 0))
    told = us.explain(board, "scout", (1, 0))
    assert told.remedy == "with 0.334 points more, or in 2 turns"
    assert (1, 0) in us.reach(board, "scout", left=1.334)


def test_a_zone_that_takes_all_points_asks_for_no_more_than_the_way_there():
    board = us.Board(us.SquareGrid(5, 1), {"turf": 1})
    board.add(us.Unit("scout", "ours", us.Movement(3, zones="end"), left=1), at=(0, 0))
    board.add(us.Unit("foe", "theirs", us.Movement(3)), at=(4, 0))
    told = us.explain(board, "scout", (3, 0))
    assert told.remedy == "with 2 points more, or in 2 turns"
