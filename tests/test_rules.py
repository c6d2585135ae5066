"""Movement rules on small maps that can be checked by eye.

In a map, ``S`` is the unit, ``F`` a friend, ``X`` a foe, ``#`` impassable, a digit what the terrain
costs. An answer map has the turn and the cost of each cell, ``--`` where the unit may not end.
"""

import pytest

import understep as us

TERRAIN = {
    "one": us.Terrain(1, glyph="1"),
    "two": us.Terrain(2, glyph="2"),
    "three": us.Terrain(3, glyph="3"),
    "none": us.Terrain(None, glyph="#"),
}


def read(text, diagonals=False, top=None, **rules):
    """A board from a map; rows of hexes may be set in, as they lie."""
    rows = [line.split() for line in text.strip().splitlines()]
    size = len(rows[0]), len(rows)
    grid = us.HexGrid(*size, top=top) if top else us.SquareGrid(*size, diagonals=diagonals)
    board = us.Board(grid, TERRAIN)
    names = {kind.glyph: name for name, kind in board.terrains.items()}
    left = rules.pop("left", None)
    movement = us.Movement(**rules)
    other = us.Movement(points=1)
    for row, line in enumerate(rows):
        for col, sign in enumerate(line):
            board.paint(names.get(sign, "one"), (col, row))
            if sign == "S":
                board.add(us.Unit("S", "ours", movement, left=left), at=(col, row))
            elif sign in "FX":
                side = "ours" if sign == "F" else "theirs"
                board.add(us.Unit(f"{sign}{col}{row}", side, other), at=(col, row))
    return board


def answer(board, turns=1):
    """The answer as a map."""
    reach = us.reach(board, "S", turns=turns)
    lines = []
    for row in range(board.grid.rows):
        cells = [us.Cell(col, row) for col in range(board.grid.cols)]
        shown = [f"{reach[c].turn}:{reach[c].cost:g}" if c in reach else "--" for c in cells]
        lines.append(" ".join(shown))
    return lines


def same(board, text, turns=1):
    wanted = [" ".join(line.split()) for line in text.strip().splitlines()]
    assert answer(board, turns) == wanted


def test_more_steps_can_be_cheaper():
    board = read(
        """
        S 3 1
        1 3 1
        1 1 1
        """,
        points=6,
    )
    same(
        board,
        """
        1:0 1:3 1:4
        1:1 1:4 1:5
        1:2 1:3 1:4
        """,
    )


def test_a_friend_is_passed_a_foe_is_not():
    lane = "S F 1 X 1"
    same(read(lane, points=9), "1:0 -- 1:2 -- --")
    same(read(lane, points=9, passes="none"), "1:0 -- -- -- --")
    same(read(lane, points=9, passes="all"), "1:0 -- 1:2 -- 1:4")


def test_a_turn_cannot_end_on_a_friend():
    """Two points: from the first cell it takes one step, waits, and has both for the friend."""
    board = read("S 1 F 1 1", points=2)
    same(board, "1:0 1:1 -- 2:3 3:4", turns=3)
    route = us.route(board, "S", goals=(3, 0))
    assert [(step.turn, step.left) for step in route.steps] == [(1, 1), (2, 1), (2, 0)]
    assert list(route.stops) == [(1, 0), (3, 0)]
    same(read("S 1 F F 1", points=2), "1:0 1:1 -- -- --", turns=9)


def test_points_left_count_for_the_first_turn_only():
    same(read("S 1 1 1 1 1 1", points=3, left=1), "1:0 1:1 2:2 2:3 2:4 3:5 3:6", turns=3)
    same(read("S 1 1 1 1 1 1", points=2, left=4), "1:0 1:1 1:2 1:3 1:4 2:5 2:6", turns=2)
    same(read("S 1 1", points=2, left=0), "1:0 2:1 2:2", turns=2)


def test_points_are_not_carried_over():
    board = read("S 2 2 2", points=3)
    same(board, "1:0 1:2 2:4 3:6", turns=3)
    assert us.reach(board, "S", turns=3)[(3, 0)].left == 1
    same(read("S 3 1", points=2), "1:0 -- --", turns=9)


def test_fewest_turns_come_before_fewest_points():
    """Along the top three steps of 2, below seven of 1: two turns both, but the top leaves more."""
    board = read(
        """
        S 2 2 2
        1 # # 1
        1 1 1 1
        """,
        points=4,
    )
    reach = us.reach(board, "S", turns=3)
    assert (reach[(3, 0)].turn, reach[(3, 0)].cost) == (2, 6)
    assert len(reach.route_to((3, 0)).steps) == 3


@pytest.mark.parametrize(
    ("corners", "wanted"),
    [
        ("free", ["1:0 -- 1:2", "-- 1:1 --", "1:2 -- 1:2"]),
        ("one", ["1:0 -- --", "-- -- --", "-- -- --"]),
        ("both", ["1:0 -- --", "-- -- --", "-- -- --"]),
    ],
)
def test_corners_between_two_blocked_cells(corners, wanted):
    board = read(
        """
        S # 1
        # 1 #
        1 # 1
        """,
        diagonals=True, corners=corners, points=5,
    )  # fmt: skip
    assert answer(board) == wanted


@pytest.mark.parametrize(
    ("corners", "wanted"),
    [
        ("free", ["1:0 --", "1:1 1:1"]),
        ("one", ["1:0 --", "1:1 1:1"]),
        ("both", ["1:0 --", "1:1 1:2"]),
    ],
)
def test_corners_beside_one_blocked_cell(corners, wanted):
    assert answer(read("S #\n1 1", diagonals=True, corners=corners, points=5)) == wanted


def test_diagonals_multiply_the_cost_of_the_ground():
    board = read("S 1 2\n1 3 1\n1 1 1", diagonals=True, diagonal=1.5, points=6)
    same(board, "1:0 1:1 1:3\n1:1 1:4 1:2.5\n1:2 1:2.5 1:3.5")
    assert us.route(board, "S", goals=(2, 2)).cost == 3.5
    board = read("S 1\n1 1", diagonals=True, diagonal=1.414, points=2)
    assert us.reach(board, "S")[(1, 1)].left == 0.586


def test_straight_goes_straight_and_direct_goes_direct():
    board = read("\n".join(["S 1 1 1", *["1 1 1 1"] * 3]), points=9)
    goal = (3, 3)
    straight = us.route(board, "S", goal)
    assert [step.direction for step in straight.steps] == ["E"] * 3 + ["S"] * 3
    facing = us.route(board, "S", goal, facing="S")
    assert [step.direction for step in facing.steps] == ["S"] * 3 + ["E"] * 3
    direct = us.route(board, "S", goal, prefer="direct")
    assert [step.direction for step in direct.steps] == ["E", "S"] * 3
    assert {straight.cost, facing.cost, direct.cost} == {6}


def test_free_steps_make_no_detours_and_no_circles():
    board = read("S 1 1 1\n1 1 1 1\n1 1 1 1", points=0, costs={"one": 0})
    reach = us.reach(board, "S")
    assert len(reach) == 12
    for cell in reach:
        assert len(reach.route_to(cell).steps) == board.grid.distance((0, 0), cell)


@pytest.mark.parametrize("top", ["pointy", "flat"])
def test_hexes_count_rings(top):
    board = us.Board(us.HexGrid(9, 9, top=top), {"one": 1})
    board.add(us.Unit("S", "ours", us.Movement(3)), at=(4, 4))
    reach = us.reach(board, "S")
    for radius in range(1, 4):
        assert sum(reach[cell].cost == radius for cell in reach) == 6 * radius


def test_refusals_say_which_rule_it_was():
    board = read("S 1 F X #\n1 1 1 1 1", points=2)
    reach = us.reach(board, "S")
    assert reach.get(None).why == "there is no cell"
    assert reach.get((9, 0)).why == "(9, 0) is off the board, which is (0, 0) to (4, 1)"
    assert (
        reach.get((2, 0)).why == "'F20' of the ours stands on (2, 0): it may pass there, not stop"
    )
    assert reach.get((3, 0)).why == "'X30' of the theirs stands on (3, 0)"
    assert reach.get((4, 0)).why == "'none' at (4, 0) is impassable for 'S'"
    assert reach.get((4, 1)).why == "(4, 1) is not within 1 turn at 2 points a turn"
    assert str(reach.get((4, 1))) == reach.get((4, 1)).why
    late = us.route(board, "S", goals=(4, 1), turns=2)
    assert late.why == "it takes 3 turns to (4, 1), and 2 are allowed"
    assert late.blockers == ()
    assert late.nearest == (3, 1)
    assert us.route(board, "S", goals=(0, 0)).cost == 0
    with pytest.raises(us.errors.CellError, match="whole numbers"):
        reach.get((0.5, 0))


def test_an_answer_as_plain_data_says_it_all():
    board = read("S 2 F 1\n1 # 1 1", points=3)
    reach = us.reach(board, "S", turns=2)
    assert reach.plain()["cells"][:2] == [
        {"cell": [0, 0], "cost": 0, "left": 3, "turn": 1},
        {"cell": [0, 1], "cost": 1, "left": 2, "turn": 1},
    ]
    assert (reach.plain()["passing"], reach.plain()["doubt"]) == ([[2, 0]], "")
    beyond = us.route(board, "S", goals=(1, 1), accept="nearest", at=(1, 1)).plain()
    assert beyond["doubt"] == us.reach(board, "S", at=(1, 1)).plain()["doubt"] != ""
    assert us.route(board, "S", goals=(1, 1), accept="nearest").plain()["shortfall"] != ""
    route = us.route(board, "S", goals=(3, 1))
    assert route.plain() == {
        "unit": "S", "goal": [3, 1], "ok": True, "cost": 5, "turns": 2,
        "cells": [[0, 0], [1, 0], [2, 0], [3, 0], [3, 1]],
        "steps": [
            {"cell": [1, 0], "direction": "E", "cost": 2, "turn": 1, "left": 1},
            {"cell": [2, 0], "direction": "E", "cost": 1, "turn": 2, "left": 2},
            {"cell": [3, 0], "direction": "E", "cost": 1, "turn": 2, "left": 1},
            {"cell": [3, 1], "direction": "S", "cost": 1, "turn": 2, "left": 0},
        ],
        "stops": [[1, 0], [3, 1]], "why": "", "blockers": [], "nearest": [3, 1],
        "shortfall": "", "doubt": "",
    }  # fmt: skip
    marks = {tuple(mark["cell"]): mark["role"] for mark in route.overlay().plain()["marks"]}
    assert marks == {
        (0, 0): "start", (1, 0): "turn-end", (2, 0): "route", (3, 0): "route", (3, 1): "goal",
    }  # fmt: skip
    assert [repr(answer) for answer in (reach, route)] == [
        "<Reach of 'S': 6 cells>",
        "<Route of 'S' to (3, 1): 4 steps, cost 5>",
    ]


def test_a_unit_shows_what_differs_from_the_defaults():
    movement = us.Movement(points=3, costs={"mud": 2})
    fresh = us.Unit("S", "own", movement)
    shown = "Unit('S', 'own', Movement(3, costs={'mud': 2})"
    assert repr(fresh) == f"{shown})"
    assert repr(us.Unit("S", "own", movement, left=3)) == f"{shown})"  # all that it has
    assert repr(us.Unit("S", "own", movement, left=1)) == f"{shown}, left=1)"


def test_a_unit_is_what_it_was_and_the_board_what_it_is():
    board = read("S 1 1", points=2)
    before = board.unit("S")
    after = board.put("S", at=(2, 0))
    assert (before.at, after.at, board.unit("S")) == ((0, 0), (2, 0), after)
    assert board.unit_at((0, 0)) is None
    assert board.units("ours") == (after,)
    gone = board.remove("S")
    assert (gone.at, board.units(), board.sides) == ((2, 0), (), ("ours",))
    with pytest.raises(us.errors.NameUnknownError, match="there are no names"):
        board.unit("S")
    with pytest.raises(us.errors.NameUnknownError, match="did you mean 'ours'"):
        board.units("hours")
    with pytest.raises(us.errors.InputError, match=r"movement: must be a Movement"):
        us.Unit("a", "ours", movement=6)
    with pytest.raises(us.errors.InputError, match="name: must be a text"):
        us.Unit("", "ours", us.Movement(1))
    with pytest.raises(us.errors.InputError, match="its name is taken"):
        board.add(board.add(gone, at=(1, 0)), at=(0, 0))
    with pytest.raises(us.errors.InputError, match="board: must be a Board"):
        us.reach("board", "S")
