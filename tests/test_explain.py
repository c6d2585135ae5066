"""Explanations: what is in the way is there, without it the way is free, and less would not do."""

from fractions import Fraction
from itertools import combinations

import pytest
from hypothesis import given
from hypothesis import strategies as st
from samples import FEATURES, KINDS_OF_EDGES, boards, examples

import understep as us

RULES = {
    "slope": {"climb": None, "drop": None}, "corner": {"corners": "free", "foe_corners": False},
    "size": {"footprint": ((0, 0),)}, "rule": {"rule": None}, "zone": {"zones": "ignore"},
}  # fmt: skip


def without(board, things, rules):
    """A copy without some things, and the unit without some rules; None: that cannot be."""
    twin, unit = board.copy(), board.unit("a")
    try:
        for what, *where in things:
            {
                "unit": twin.remove, "feature": twin.lift, "terrain": twin.paint,
                "block": lambda side, cell: twin.clear(cell, side=side),
                "edge": lambda a, b: twin.set_edge(a, b, None),
            }[what](*where)  # fmt: skip
        facts = {name: value for rule in rules for name, value in RULES[rule].items()}
        moves = us.Movement(**{**vars_of(unit.movement), **facts})
        twin.set_unit("a", movement=moves)
        twin.set_left("a", unit.left)
    except us.errors.InputError:
        return None
    return twin


def vars_of(movement):
    names = us.Movement.__dataclass_fields__
    return {name: getattr(movement, name) for name in names if not name.startswith("_")}


def named(remedy):
    """The things that a remedy names."""
    return [
        *(("unit", name) for name in remedy.units), *(("feature", *each) for each in remedy.features),
        *(("block", *each) for each in remedy.blocks), *(("edge", *each) for each in remedy.edges),
        *(("terrain", name, cell) for cell, name in remedy.terrain),
    ]  # fmt: skip


@given(boards(), st.data())
def test_a_remedy_is_sufficient_in_the_turns_and_points_it_says(board, data):
    cell = data.draw(st.sampled_from(list(board.grid)))
    told, unit = us.explain(board, "a", cell), board.unit("a")
    reach, ever = us.reach(board, "a"), us.reach(board, "a", turns=None)
    assert bool(told) == (cell in reach)
    assert told.plain()["ok"] == bool(told)
    assert told.turns == (ever[cell].turn if cell in ever else None)
    if told:
        assert (told.turns, told.remedy, told.obstacles) == (1, None, ())
        return
    assert told.obstacles
    remedy = told.remedy
    if remedy is None:
        assert told.obstacles[0].kind == "board"
        return
    for each in told.obstacles:
        # terrain of a kind on several cells is named once
        place = str(tuple(each.cell))
        parts = each.text.split(f" at {place} ") if each.kind == "terrain" else [each.text]
        assert all(part in str(told) for part in [*parts, *([place] if len(parts) > 1 else [])])
    assert str(remedy) in str(told)
    assert remedy.size == len(named(remedy)) + len(remedy.rules)
    twin = without(board, named(remedy), remedy.rules)
    other = board.copy()
    remedy.apply(other)
    assert [other.features(), other.edges(), other.blocks()] == [
        twin.features(), twin.edges(), twin.blocks()
    ]  # fmt: skip
    found = us.reach(twin, "a", turns=None)
    if remedy.turns > 1 or remedy.points == 0:
        assert found[cell].turn == remedy.turns
    if remedy.points:
        left = float(unit.left)
        assert cell in us.reach(twin, "a", left=left + float(remedy.points) + 1e-9)
        assert cell not in us.reach(twin, "a", left=max(left, left + float(remedy.points) - 0.01))


@examples(0.5)
@given(boards(cells=9), st.data())
def test_no_smaller_remedy_is_there_where_it_says_so(board, data):
    cell = data.draw(st.sampled_from(list(board.grid)))
    told, unit = us.explain(board, "a", cell), board.unit("a")
    if told.remedy is None or not told.minimal or told.remedy.size > 3:
        return
    costs = unit.movement.costs
    things = [("unit", each.name) for each in board.units() if each.name != "a"]
    things += [("feature", kind, each) for kind, cells in board.features() for each in cells]
    for side in (None, "ours"):
        things += [("block", side, each) for each in board.blocks(side=side)]
    things += [("edge", edge.a, edge.b) for edge in board.edges()]
    if isinstance(costs, dict) or not isinstance(costs, (int, float)):
        closed = [each for each in board.grid if board.terrains[board.terrain(each)].cost is None
                  or "ours" in board.terrains[board.terrain(each)].closed_to]  # fmt: skip
        things += [("terrain", "turf", each) for each in closed]
    every = [*things, *(("rule", rule) for rule in RULES)]
    for many in range(told.remedy.size):
        for some in combinations(every, many):
            rules = [each[1] for each in some if each[0] == "rule"]
            twin = without(board, [each for each in some if each[0] != "rule"], rules)
            if twin is not None:
                assert cell not in us.reach(twin, "a", turns=None)
                assert cell not in us.reach(twin, "a", left=10**6)


def fen(cols, rows=1, movement=None, **more):
    board = us.Board(
        us.SquareGrid(cols, rows, diagonals="diagonal" in more), {"turf": 1, "mud": 2, "deep": None},
        edges=KINDS_OF_EDGES, features=FEATURES,
    )  # fmt: skip
    board.add(us.Unit("scout", "wardens", movement or us.Movement(points=3)), at=(0, 0))
    return board


def test_every_kind_of_obstacle_is_named_with_what_would_help():
    board = fen(8)
    assert str(us.explain(board, "scout", (2, 0))) == "'scout' may end on (2, 0) this turn"
    assert us.explain(board, "scout", (5, 0)).remedy.text == "with 2 points more, or in 2 turns"
    board.paint("deep", [(4, 0), (5, 0)])
    assert str(us.explain(board, "scout", (6, 0))).startswith(
        "'deep' at (4, 0) and (5, 0) is impassable for 'scout'; "
    )
    told = us.explain(board, "scout", (6, 0))
    assert [each.kind for each in told.obstacles] == ["terrain", "terrain", "points"]
    assert (told.remedy.size, told.minimal) == (2, True)
    assert told.remedy.text == (
        "with 'turf' at (4, 0) and (5, 0), and either with 3 points more or in 2 turns"
    )
    board = fen(4)
    for do, text, remedy in (
        (lambda: board.set_edge((1, 0), (2, 0), "wall"), "'wall' between (1, 0) and (2, 0)",
         "without the 'wall' between (1, 0) and (2, 0)"),
        (lambda: board.place("crate", (2, 0)), "'crate' at (2, 0) is in the way",
         "without the 'crate' at (2, 0)"),
        (lambda: board.block((2, 0)), "(2, 0) is blocked", "without the block at (2, 0)"),
        (lambda: board.block((2, 0), side="wardens"), "(2, 0) is closed to the wardens",
         "without the block at (2, 0)"),
        (lambda: board.add(us.Unit("pikes", "wreckers", us.Movement(1)), (2, 0)),
         "'pikes' of the wreckers stands on (2, 0)", "without 'pikes'"),
        (lambda: board.set_unit("scout", movement=us.Movement(3, climb=1))
         and board.set_elevation(2, (3, 0)), "climb of 2 to (3, 0), limit 1",
         "with no limit to climb and drop"),
    ):  # fmt: skip
        before = board.state
        with board.trial():
            do()
            told = us.explain(board, "scout", (3, 0))
            assert (str(told), told.minimal) == (f"{text}. It could: {remedy}", True)
        assert board.state == before


def test_rules_are_lifted_once():
    def dry(site):
        return None if site.terrain == "mud" else site.cost

    board = fen(5, movement=us.Movement(9, rule=dry))
    board.paint("mud", [(1, 0), (2, 0), (3, 0)])
    told = us.explain(board, "scout", (4, 0))
    assert str(told) == (
        "its movement's rule closes 'mud' at (1, 0). It could: without the rule of its movement"
    )
    wide = fen(6, 3, movement=us.Movement(9, footprint=us.Footprint.block(2)))
    wide.paint("deep", [(3, 0), (3, 2)])
    told = us.explain(wide, "scout", (4, 0))
    assert (told.remedy.rules, told.remedy.terrain) == ((), (((3, 0), "turf"),))
    wide.paint("deep", [(2, 0), (2, 2), (4, 0), (4, 2)])
    told = us.explain(wide, "scout", (5, 1))
    assert told.obstacles[0].kind == "size"
    assert "too large for the gap between" in told.why
    assert told.remedy.text == "if it took up one cell"
    houses = fen(2, 2, diagonal=True)
    houses.paint("deep", [(1, 0), (0, 1)])
    told = us.explain(houses, "scout", (1, 1))
    assert (told.remedy.size, told.minimal) == (1, True)


def test_friends_in_a_corridor_are_named_or_passed_in_one_go():
    board = fen(6, movement=us.Movement(points=2))
    for col in (1, 2, 3):
        board.add(us.Unit(f"friend{col}", "wardens", us.Movement(1)), at=(col, 0))
    told = us.explain(board, "scout", (4, 0))
    assert told.remedy.text == "with 2 points more"
    assert us.explain(board, "scout", (2, 0)).remedy.text == "without 'friend2'"


def test_where_nothing_helps_it_says_so():
    grid = us.SquareGrid.from_cells([(0, 0), (1, 0), (3, 0)])
    board = us.Board(grid, {"turf": 1})
    board.add(us.Unit("scout", "wardens", us.Movement(3)), at=(0, 0))
    told = us.explain(board, "scout", (3, 0))
    assert str(told) == "no cells lead from (0, 0) to (3, 0)"
    assert (told.remedy, told.minimal, told.obstacles[0].kind) == (None, False, "board")
    with pytest.raises(us.errors.NameUnknownError, match="'scout'"):
        us.explain(board, "scuot", (0, 0))
    assert "off the board" in us.explain(board, "scout", (9, 9)).why


def test_what_a_side_does_not_know_is_the_rule_that_is_lifted():
    board = us.Board(us.SquareGrid(7, 1), {"turf": 1, "deep": None})
    board.add(us.Unit("scout", "wardens", us.Movement(9), sight=2), at=(0, 0))
    us.fog(board, "wardens")
    board.paint("deep", (4, 0))  # which it does not see
    told = us.explain(board, "scout", (6, 0))
    assert str(told) == (
        "(3, 0) is unknown to the wardens. It could: if what is unknown were open to it"
    )


def test_the_points_that_are_said_to_be_enough_are_enough():
    """A third is printed as 0.334: 0.333 would be too few."""
    board = us.Board(us.SquareGrid(2, 1), {"turf": 1, "mud": Fraction(4, 3)})
    board.paint("mud", (1, 0))
    board.add(us.Unit("scout", "ours", us.Movement(2), left=1), at=(0, 0))
    told = us.explain(board, "scout", (1, 0))
    assert told.remedy.text == "with 0.334 points more, or in 2 turns"
    assert (1, 0) in us.reach(board, "scout", left=1.334)


def test_a_zone_that_takes_all_points_asks_for_no_more_than_the_way_there():
    board = us.Board(us.SquareGrid(5, 1), {"turf": 1})
    board.add(us.Unit("scout", "ours", us.Movement(3, zones="end"), left=1), at=(0, 0))
    board.add(us.Unit("foe", "theirs", us.Movement(3)), at=(4, 0))
    told = us.explain(board, "scout", (3, 0))
    assert told.remedy.text == "with 2 points more, or in 2 turns"


def test_a_zone_that_is_lifted_proves_nothing_of_fewer_things():
    """Without the foe that exerts it, one thing less would do."""
    board = fen(7, 2, movement=us.Movement(20, zones="end"))
    board.paint("deep", [(0, 1), (1, 1)])
    board.set_edge((2, 0), (3, 0), "door")
    board.add(us.Unit("ox", "wardens", us.Movement(1)), at=(2, 0))
    board.add(us.Unit("pikes", "wreckers", us.Movement(1)), at=(2, 1))
    told = us.explain(board, "scout", (5, 0))
    assert (told.remedy.rules, told.remedy.size, told.minimal) == (("zone",), 2, False)
    board.remove("pikes")
    assert us.explain(board, "scout", (5, 0))


def test_foes_at_corners_are_in_nobodys_way_who_steps_freely():
    board = us.Board(us.SquareGrid(4, 4, diagonals=True), {"turf": 1, "rock": None}, fill="rock")
    board.paint("turf", [(0, 0), (1, 0), (0, 1), (1, 1)])
    free = us.Movement(9, corners="free", foe_corners=True)
    board.add(us.Unit("scout", "ours", free), at=(0, 0))
    for name, cell in (("one", (1, 0)), ("two", (0, 1))):
        board.add(us.Unit(name, "theirs", us.Movement(1)), at=cell)
    assert (1, 1) in us.reach(board, "scout")
    found = us.explain(board, "scout", (2, 2))
    assert [obstacle.cell for obstacle in found.obstacles] == [(2, 2)]
    assert found.minimal
