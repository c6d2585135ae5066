"""Coordinate against trying everything: every choice of units, goals and orders."""

from fractions import Fraction
from itertools import permutations

import pytest
from geometry import make_grid
from hypothesis import given
from hypothesis import strategies as st

import understep as us


@st.composite
def groups(draw):
    """A small board with two or three units of a side, a foe, and some goals."""
    kind = draw(st.sampled_from(["square4", "square8", "pointy-odd", "flat-even"]))
    grid = make_grid(kind, draw(st.integers(2, 6)), draw(st.integers(1, 3)))
    board = us.Board(grid, {"turf": 1, "mud": 2, "deep": None})
    cells = list(grid)
    for cell in cells:
        board.paint(draw(st.sampled_from(["turf", "turf", "turf", "mud", "deep"])), cell)
    places = draw(st.permutations(cells))[:4]
    names = []
    for number, place in enumerate(places[: draw(st.integers(2, 4))]):
        board.paint("turf", place)
        side = "ours" if number < 3 else "theirs"
        rules = us.Movement(
            draw(st.sampled_from([0, 1, 2, 3, 7])),
            passes=draw(st.sampled_from(["own", "none"])),
            zones=draw(st.sampled_from(["ignore", "ignore", 1, "end"])),
        )
        board.add(us.Unit(f"u{number}", side, rules), at=place)
        names += [f"u{number}"] * (side == "ours")
    goals = draw(st.lists(st.sampled_from(cells), min_size=1, max_size=3, unique=True))
    return board, names, goals


def everything(board, names, goals):
    """The least total of all ways to choose who goes where and when."""
    best = (len(names), 0, Fraction(0))
    for many in range(1, len(names) + 1):
        for some in permutations(names, many):
            for cells in permutations(goals, many) if many <= len(goals) else ():
                total, copy = (len(names) - many, 0, Fraction(0)), board.copy()
                for name, goal in zip(some, cells, strict=True):
                    found = us.route(copy, name, goal)
                    if not found:
                        break
                    copy.put(name, at=found.stops[0])
                    turns = found.turns if found.steps else 0
                    total = total[0], total[1] + turns, total[2] + Fraction(found.cost)
                else:
                    best = min(best, total)
    return best


@given(groups())
def test_it_is_as_good_as_trying_everything(made):
    board, names, goals = made
    found = us.behaviors.coordinate(board, names, goals)
    assert found.exact
    total = (len(names) - len(found.goals), found.turns, Fraction(found.cost))
    assert total == everything(board, names, goals)
    assert found.bound == total
    assert sorted(plan.unit.name for plan in found) == sorted(names)
    # what it says can be done in that order, and leads where it says
    for plan in found:
        if plan:
            walk = us.walk(board, plan.unit.name, plan.route)
            for _ in walk:
                pass
            assert walk.ending in ("arrived", "turn", "points"), walk.why
        assert board.unit(plan.unit.name).at == plan.end


def test_who_stands_on_a_goal_stays_and_who_is_in_the_way_goes_first():
    board = us.Board(us.SquareGrid(8, 1), {"turf": 1})
    for col, name in enumerate(("last", "middle", "first")):
        board.add(us.Unit(name, "ours", us.Movement(9, passes="none")), at=(col, 0))
    found = us.behaviors.coordinate(board, ["last", "middle", "first"], [(5, 0), (6, 0), (7, 0)])
    assert [(plan.unit.name, plan.end[0]) for plan in found] == [
        ("first", 7), ("middle", 6), ("last", 5),
    ]  # fmt: skip
    stays = us.behaviors.coordinate(board, ["last", "middle"], [(0, 0), (1, 0)])
    assert (stays.turns, stays.cost, bool(stays)) == (0, 0, False)
    assert stays.why == "no unit can get nearer to a goal"


def test_with_a_target_each_goes_where_it_can_attack_from():
    board = us.Board(us.HexGrid(14, 9), {"turf": 1, "deep": None})
    board.paint("deep", [(7, row) for row in range(9) if row != 4])
    for number, attack in enumerate((us.Attack(), us.Attack(2, 3), us.Attack())):
        unit = us.Unit(f"u{number}", "ours", us.Movement(6), attack=attack)
        board.add(unit, at=(2 + number, 3 + number))
    board.add(us.Unit("foe", "theirs", us.Movement(1)), at=(9, 4))
    found = us.behaviors.coordinate(board, ["u0", "u1", "u2"], target="foe")
    assert len(found.goals) == 3
    for name, goal in found.goals.items():
        with board.trial():
            board.put(name, at=goal)
            assert "foe" in us.attacks(board, name, moving=False).targets
    again = us.behaviors.coordinate(board, ["u0", "u1", "u2"], target="foe")
    assert [plan.end for plan in again] == [plan.end for plan in found]


def test_many_units_get_a_good_answer_soon_and_say_how_good():
    board = us.Board(us.HexGrid(18, 14), {"turf": 1, "mud": 3})
    board.paint("mud", list(board.grid)[3::7])
    names = [f"u{number}" for number in range(7)]
    for number, name in enumerate(names):
        board.add(us.Unit(name, "ours", us.Movement(5)), at=(number % 3, 2 * number))
    goals = board.grid.disk((13, 7), 2)
    found = us.behaviors.coordinate(board, names, goals)
    assert len(found.goals) == 7
    without, turns, _ = found.bound
    assert (without, turns) <= (0, found.turns)


def test_what_coordinate_refuses():
    board = us.Board(us.SquareGrid(4, 1), {"turf": 1})
    board.add(us.Unit("scout", "ours", us.Movement(3)), at=(0, 0))
    for call, rule in (
        (lambda: us.behaviors.coordinate(board, []), "units: must name at least one"),
        (lambda: us.behaviors.coordinate(board, ["scout"]), "give goals or a target"),
        (lambda: us.behaviors.coordinate(board, ["scout"], [(1, 0)], target="a"), "give goals or"),
        (lambda: us.behaviors.coordinate(board, ["scout"] * 2, [(1, 0)]), "once each"),
        (lambda: us.behaviors.coordinate(board, ["scout"], []), "at least one cell"),
        (lambda: us.behaviors.coordinate(board, ["scout"], target="scout"), "has no attack"),
        (lambda: us.behaviors.coordinate(board, ["nobody"], [(1, 0)]), "must name a unit"),
    ):
        with pytest.raises(us.errors.InputError, match=rule):
            call()
