"""Pushes: step by step against what stands on the board, and against each other."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from samples import KINDS_OF_EDGES, boards

import understep as us


def walled(board, a, b):
    """Whether an edge that the unit cannot get across stands between two neighbors."""
    kind = board.edge(a, b)
    if kind is None or board.is_open(a, b):
        return False
    rule = board.unit("a").movement.edges.get(kind, kind)
    return KINDS_OF_EDGES[kind].blocks if rule == kind else rule is None


def barred(board, here, there, way, climb):
    """Whether walls, closed corners or a slope part two neighbors."""
    unit, clear = board.unit("a"), [not walled(board, here, there)]
    if board.grid.kind == "square" and len(board.grid.directions) == 8 and way % 2:
        sides = [board.grid.step(here, (way + turn) % 8) for turn in (-1, 1)]
        rule = unit.movement.corners
        ways = [
            side is not None
            and not (walled(board, here, side) or walled(board, side, there))
            and (rule == "free" or not shut(board, unit, side))
            for side in sides
        ]
        clear += [all(ways) if rule == "both" else any(ways)]  # an edge of its own, and corners
    clear = all(clear)
    return not clear or (climb is not None and board.slope(here, there) > climb)


def shut(board, unit, cell):
    """Whether a cell is blocked, by features too, or closed to the side of a unit."""
    kinds = board.feature_kinds
    return (
        board.blocked(cell, side=unit.side)
        or unit.side in board.terrains[board.terrain(cell)].closed_to
        or any(unit.movement._over(name, kinds[name])[0] for name in board.features(cell))
    )


@given(boards(), st.integers(0, 5), st.sampled_from([0, 1, None]), st.data())
def test_a_push_goes_straight_on_until_something_is_in_the_way(board, cells, climb, data):
    unit, grid = board.unit("a"), board.grid
    way = data.draw(st.integers(0, len(grid.directions) - 1))
    push = us.push(board, "a", way, cells, climb=climb)
    assert (push.cells[0], len(push.cells) - 1 + push.short) == (unit.at, cells)
    assert bool(push) == (push.short == 0) == (push.hit == "") == (push.why == "")
    fall = deepest = 0
    for here, there in zip(push.cells, push.cells[1:], strict=False):
        assert grid.step(here, way) == there
        assert not board._units.hindrance(unit, there)
        assert {board.unit_at(each, layer="ground") for each in board.covered(unit, there)} <= {
            None,
            unit,
        }
        assert len(unit.movement.footprint) > 1 or not barred(board, here, there, way, climb)
        fall += max(0, -board.slope(here, there))
        deepest = max(deepest, -board.slope(here, there))
    assert (push.fall, push.deepest) == (pytest.approx(fall), deepest)
    beyond = grid.step(push.end, way)
    if push.hit == "board":
        assert beyond is None or not all(each in grid for each in board.covered(unit, beyond))
    elif push.hit:
        assert push.beyond == beyond
        covered = board.covered(unit, beyond)
        if push.hit == "unit":
            on = {board.unit_at(each, layer="ground").name for each in covered
                  if board.unit_at(each, layer="ground") not in (None, unit)}  # fmt: skip
            assert set(push.blockers) == on
        elif push.hit == "block":
            cornered = len(covered) == 1 and barred(board, push.end, beyond, way, climb)
            assert any(board.blocked(each, side="ours") for each in covered) or cornered
        elif push.hit == "feature":
            lying = {name for each in covered for name in board.features(each)}
            blocking = {
                name for name in lying if unit.movement._over(name, board.feature_kinds[name])[0]
            }
            assert any(repr(name) in push.why for name in blocking)
        elif push.hit == "terrain":
            assert push.why == board._units.hindrance(unit, beyond)
            assert push.drop == max(0, -board.slope(push.end, beyond))
        elif len(covered) == 1:
            assert barred(board, push.end, beyond, way, climb)
    for part in range(len(push.cells)):  # in two goes it comes to the same
        with board.trial():
            board.put("a", at=push.cells[part])
            rest = us.push(board, "a", way, cells - part, climb=climb)
            assert (rest.end, rest.hit, rest.short) == (push.end, push.hit, push.short)


def test_what_a_push_tells_and_refuses():
    board = us.Board(us.HexGrid(7, 3), {"turf": 1, "deep": None}, edges=KINDS_OF_EDGES)
    board.add(us.Unit("scout", "wardens", us.Movement(4)), at=(1, 1))
    board.add(us.Unit("pikes", "wreckers", us.Movement(4)), at=(5, 1))
    push = us.push(board, "scout", "E", 4)
    assert (push.end, push.blockers, push.why) == (
        (4, 1),
        ("pikes",),
        "'pikes' in the way at (5, 1)",
    )
    assert push.plain()["beyond"] == [5, 1]
    assert {mark.role for mark in push.overlay().values()} == {"start", "route", "goal", "refused"}
    board.set_edge((2, 1), (3, 1), "wall")
    assert us.push(board, "scout", "E", 4).why == "'wall' between (2, 1) and (3, 1)"
    board.set_elevation(1, (2, 1))
    assert us.push(board, "scout", "E", 4).why == "(2, 1) lies 1 level up"
    assert us.push(board, "scout", "W", 4).why == "the board ends after (0, 1)"
    board.block((0, 1))
    assert us.push(board, "scout", "W", 4).why == "(0, 1) is blocked"
    for call, rule in (
        (lambda: us.push(board, "scout", "N", 1), "direction: .*NE"),
        (lambda: us.push(board, "scout", "E", -1), "cells: must be a whole number"),
        (lambda: us.push(board, "scout", "E", 1, climb=-1), "climb"),
    ):
        with pytest.raises(us.errors.InputError, match=rule):
            call()


def test_no_corner_closes_a_step_that_is_not_diagonal():
    """On hexes two cells are next to both ends of a step; what is on them does not count."""
    kinds = {"wall": us.Edge(blocks=True)}
    board = us.Board(us.HexGrid(4, 3), {"turf": 1, "deep": None}, edges=kinds)
    board.add(us.Unit("cart", "ours", us.Movement(3, footprint=((0, 0), (0, 1)))), at=(0, 0))
    board.set_edge((1, 0), (1, 1), "wall")  # within the cells that it would take up
    board.block([(0, 2), (1, 2)])  # next to (0, 1) and (1, 1)
    push = us.push(board, "cart", "E", 1)
    assert (push.hit, push.blockers, push.end) == ("edge", ("wall",), (0, 0))
    assert push.why == "'wall' between (1, 0) and (1, 1)"


def test_what_stops_a_large_unit_is_named_with_its_cell_unless_it_is_unknown():
    board = us.Board(us.SquareGrid(9, 3), {"turf": 1, "deep": None})
    long = us.Movement(5, footprint=us.Footprint([(0, 0), (1, 0)]))
    board.add(us.Unit("cart", "wardens", long, sight=1), at=(0, 1))
    board.add(us.Unit("pikes", "wreckers", us.Movement(1)), at=(5, 1))
    assert board.can_stand("cart", (4, 1)).why == "'pikes' of the wreckers stands on (5, 1)"
    board.paint("deep", (3, 1))
    push = us.push(board, "cart", "E", 3)
    assert (push.end, push.hit, push.blockers) == ((1, 1), "terrain", ("deep",))
    us.fog(board, "wardens")
    push = us.push(board, "cart", "E", 3, known_to="wardens")
    assert (push.end, push.blockers) == ((1, 1), ())
    assert push.why == "(3, 1) is unknown to the wardens"
