"""Behaviors: every plan can be walked, is the best there is, and collides with none before it."""

import contextlib
import dataclasses
import importlib

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from test_attacks import Brute, armies

import understep as us


def plans(board, name, reserved=None):
    """What every behavior makes of a unit."""
    cells = list(board.grid)
    others = [unit.name for unit in board.units() if unit.name != name]
    yield lambda: us.behaviors.wander(board, name, 3, reserved=reserved)
    yield lambda: us.behaviors.hold(board, name, reserved=reserved)
    yield lambda: us.behaviors.patrol(board, name, [cells[0], cells[-1]], reserved=reserved)
    yield lambda: us.behaviors.withdraw(board, name, reserved=reserved)
    yield lambda: us.behaviors.approach(board, name, reserved=reserved)
    if others:
        yield lambda: us.behaviors.follow(board, name, others[0], reserved=reserved)


@given(armies())
def test_every_plan_can_be_walked_and_attacks_as_it_says(board):
    for make in plans(board, "a"):
        plan, state = make(), board.state
        assert plan.reasons
        assert plan.cells[0] == board.unit("a").at
        assert bool(plan) == (plan.route is not None or plan.stand is not None)
        with board.trial():
            if plan.route is not None:
                walk = us.walk(board, "a", plan.route)
                strides = [*walk]
                assert [stride.cell for stride in strides] == list(plan.cells)[1:]
            assert board.unit("a").at == plan.end == plan.cells[-1]
            if plan.stand is not None:
                found = us.attacks(board, "a", moving=False)
                assert plan.stand.aim in found
                assert plan.target in found.affected(plan.end, plan.stand.aim)
        assert board.state == state
        assert plan.plain()["end"] == list(plan.end)
        assert plan.end in plan.overlay()


@given(armies())
def test_approach_goes_for_the_nearest_it_can_get_at_and_withdraw_for_the_safest(board):
    found, brute = us.attacks(board, "a"), Brute(board, "a")
    wanted = [u.name for u in board.units() if u.name != "a" and brute.meant(u)]
    plan = us.behaviors.approach(board, "a")
    now = [name for name in found.targets if name != "a"]
    if now:
        costs = [found.reach[cell].cost for name in now for cell in found.ways(name)]
        assert found.reach[plan.end].cost == min(costs)
        assert plan.target in now
    elif plan.route is not None:  # from where it leads the target can be attacked
        with board.trial():
            board.put("a", at=plan.route.goal)
            assert plan.target in us.attacks(board, "a", moving=False).targets
    elif wanted and plan.target is None:  # nowhere that it can ever get could it attack any of them
        for cell in us.reach(board, "a", turns=None).cells:
            with board.trial():
                board.put("a", at=cell)
                targets = us.attacks(board, "a", moving=False).targets
                assert not set(targets) - {"a"}
    scored = us.behaviors.approach(board, "a", score=lambda unit: unit.name == "u0")
    if "u0" in now:
        assert scored.target == "u0"
    only = us.behaviors.approach(board, "a", targets=wanted[:1])
    assert only.target in (None, *wanted[:1])
    threats, plan = us.threats(board, against="ours"), us.behaviors.withdraw(board, "a")

    def exposure(cell):
        return max(threats[each] for each in board.covered(board.unit("a"), cell))

    assert exposure(plan.end) == min(map(exposure, us.reach(board, "a").cells))


@given(armies(), st.data())
def test_plans_made_with_reservations_do_not_collide(board, data):
    mine = [unit for unit in board.units() if len(unit.movement.footprint) == 1]
    for unit in mine:  # so that all go about together
        board.remove(unit.name)
        rules = dataclasses.replace(unit.movement, points=3, layer="ground")
        with contextlib.suppress(us.errors.InputError):
            board.add(dataclasses.replace(unit, at=None, side="ours", movement=rules), at=unit.at)
    names = [unit.name for unit in board.units() if len(unit.movement.footprint) == 1]
    assume(len(names) > 1)
    reserved, ways = us.behaviors.Reservations(), {}
    for name in names:
        make = data.draw(st.sampled_from(list(plans(board, name, reserved))))
        ways[name] = list(make().cells)
    assert len(reserved) == len(names)
    longest = max(map(len, ways.values()))
    full = {name: way + way[-1:] * (longest - len(way)) for name, way in ways.items()}
    for tick in range(1, longest):
        for one in names:
            for two in names[: names.index(one)]:
                here, there = full[one], full[two]
                assert here[tick] != there[tick]
                assert not (here[tick] == there[tick - 1] and here[tick - 1] == there[tick])


@pytest.mark.parametrize("many", [6, 16])
def test_a_crowd_goes_through_a_gap_of_two_cells_without_meeting(many):
    """Each gets by where a way is left; nobody is on the cell of another after the same steps."""
    board = us.Board(us.SquareGrid(14, 8), {"turf": 1, "rock": None})
    board.paint("rock", [(6, row) for row in range(8) if row not in (3, 4)])
    spots = [(5 - number // 8, number % 8) for number in range(many)]
    names = [f"u{number}" for number in range(many)]
    for name, spot in zip(names, spots, strict=True):
        board.add(us.Unit(name, "ours", us.Movement(points=8)), at=spot)
    board.put("u0", at=(6, 3))  # it stays in the gap
    reserved = us.behaviors.Reservations()
    plans = [us.behaviors.hold(board, "u0", reserved=reserved)]
    for name in sorted(names[1:], key=lambda name: -board.unit(name).at.col):
        plans.append(us.behaviors.patrol(board, name, [(13, 3)], reserved=reserved))
    ways = [list(plan.cells) for plan in plans]
    assert sum(way[-1].col > 6 for way in ways) >= many // 4 + 1
    for tick in range(1, max(map(len, ways))):
        now = [way[min(tick, len(way) - 1)] for way in ways]
        assert len(set(now)) == many


def guards():
    board = us.Board(us.HexGrid(15, 5), {"turf": 1, "ruin": us.Terrain(None, cover=3)})
    rules = us.Movement(points=3)
    board.add(us.Unit("guard", "wardens", rules, sight=4, attack=us.Attack()), at=(2, 2))
    board.add(us.Unit("raider", "wreckers", rules), at=(5, 2))
    return board


def test_wandering_leads_everywhere_and_seeds_repeat_it():
    board = guards()
    ends = [us.behaviors.wander(board, "guard", seed).end for seed in range(300)]
    assert ends == [
        us.behaviors.wander(board, "guard", np.random.default_rng(s)).end for s in range(300)
    ]
    assert set(ends) == set(us.reach(board, "guard")) - {(2, 2)}
    board.block(board.grid.ring((2, 2), 1))
    assert us.behaviors.wander(board, "guard", 1).why == "it can reach no other cell"
    with pytest.raises(us.errors.InputError, match="rng: must be a seed"):
        us.behaviors.wander(board, "guard", "dice")


def test_patrols_go_round_or_back_and_forth():
    board, points = guards(), [(0, 0), (3, 0), (6, 0)]
    for back, order in ((False, [0, 3, 6, 0, 3]), (True, [0, 3, 6, 3, 0, 3])):
        passed, seen = 0, []
        for _ in range(30):
            here = board.unit("guard").at
            plan = us.behaviors.patrol(board, "guard", points, passed=passed, back=back)
            board.put("guard", at=plan.end)
            seen += [here.col] * (plan.passed - passed)
            passed = plan.passed
        assert seen[: len(order)] == order
    board.block(board.grid.ring((6, 0), 1))
    board.put("guard", at=(3, 0))
    plan = us.behaviors.patrol(board, "guard", points, passed=2)
    assert plan.end == (4, 0)
    assert plan.reasons[0] == "waypoint (6, 0)"
    for call, rule in (
        (lambda: us.behaviors.patrol(board, "guard", []), "waypoints: must hold at least one"),
        (
            lambda: us.behaviors.patrol(board, "guard", points, passed=-1),
            "passed: must be a whole number",
        ),
    ):
        with pytest.raises(us.errors.InputError, match=rule):
            call()


def test_following_replans_only_when_it_must():
    board = guards()
    board.put("raider", at=(12, 2))
    first = us.behaviors.follow(board, "guard", "raider", near=2)
    us.walk(board, "guard", first.route).finish()
    board.set_left("guard", None)
    board.put("raider", at=(11, 3))
    second = us.behaviors.follow(board, "guard", "raider", near=2, before=first)
    assert list(second.route.cells) == list(first.route.cells)[3:]  # what is left of it
    assert (second.route.cost, second.route.turns) == (first.route.cost - 3, first.route.turns - 1)
    assert list(second.overlay().role("start")) == [board.unit("guard").at]
    assert us.walk(board, "guard", second.route).finish().cells[-1] == second.end
    board.set_left("guard", None)
    board.put("raider", at=(2, 0))
    third = us.behaviors.follow(board, "guard", "raider", near=2, before=second)
    assert third.route is not first.route
    assert board.grid.distance(third.route.goal, (2, 0)) <= 2
    board.put("guard", at=(2, 1))
    assert us.behaviors.follow(board, "guard", "raider").reasons[-1] == "near enough"


def test_an_alert_is_kept_for_a_while_and_given_up():
    board = guards()
    assert us.behaviors.notice(board, "raider", patience=0, known_to=False).seen is not False
    seen = us.behaviors.notice(board, "raider", known_to=False)
    assert us.behaviors.notice(board, "raider", None, known_to=False) == seen
    alert = us.behaviors.notice(board, "guard", patience=2)
    assert us.behaviors.chase(board, "guard", alert).target == "raider"
    assert us.behaviors.chase(board, "guard", alert).stand.aim == (5, 2)
    board.put("raider", at=(14, 4))
    ticks = []
    while alert := us.behaviors.notice(board, "guard", alert, patience=2):
        plan = us.behaviors.chase(board, "guard", alert)
        ticks.append((alert.seen, alert.patience, tuple(plan.end)))
    assert ticks == [(False, 1, (5, 2)), (False, 0, (5, 2))]
    alert = us.behaviors.Alert("raider", us.Cell(5, 2), patience=9)
    board.put("guard", at=(5, 2))
    assert us.behaviors.notice(board, "guard", alert).patience == 8  # it waits there
    assert us.behaviors.chase(board, "guard", us.behaviors.Alert()).why == "it is after nobody"
    board.put("raider", at=(7, 2))
    board.add(us.Unit("sapper", "wreckers", us.Movement(3)), at=(6, 2))
    assert us.behaviors.notice(board, "guard").target == "sapper"
    assert us.behaviors.notice(board, "guard", alert).target == "raider"  # it keeps after the first
    with pytest.raises(us.errors.InputError, match="patience"):
        us.behaviors.notice(board, "guard", patience=-1)


def test_of_large_units_the_nearest_cell_says_who_is_nearest():
    board, rules = us.Board(us.SquareGrid(12, 1), {"turf": 1}), us.Movement(1)
    long = us.Movement(1, footprint=us.Footprint.block(4, 1))
    board.add(us.Unit("guard", "ours", rules, attack=us.Attack(1, 9, sight=False)), at=(5, 0))
    board.add(us.Unit("near", "theirs", long), at=(0, 0))  # its far end is next but one
    board.add(us.Unit("far", "theirs", rules), at=(8, 0))
    assert us.behaviors.notice(board, "guard").target == "near"
    assert us.behaviors.hold(board, "guard").target == "near"
    assert us.behaviors.follow(board, "guard", "near").reasons[0] == "'near' is 2 cells away"


def test_exposure_is_counted_where_it_is_asked_for(monkeypatch):
    board = guards()
    for name, cell in (("one", (4, 1)), ("two", (4, 3)), ("three", (6, 2))):
        rules = us.Movement(points=3)
        board.add(us.Unit(name, "wreckers", rules, attack=us.Attack()), at=cell)
    asked = us.behaviors.approach(board, "guard", targets=["raider"], order=["exposure"])
    assert asked.stand.exposure == us.threats(board, against="wardens")[asked.end] == 3
    stands = importlib.import_module("understep.actions.stands")
    monkeypatch.setattr(stands, "find_threats", None)  # which nobody needs for what follows
    plan = us.behaviors.approach(board, "guard", targets=["raider"])
    assert (plan.stand.exposure, plan.stand.retreat) == (None, None)
    assert us.stands(board, "guard", "raider", order=["cost", "cover"])[0].exposure is None
    assert us.behaviors.hold(board, "raider").stand is None


def test_who_loses_sight_of_its_foe_turns_to_another():
    board = guards()
    alert = us.behaviors.notice(board, "guard")
    board.add(us.Unit("other", "wreckers", us.Movement(points=3)), at=(3, 4))
    assert (
        us.behaviors.notice(board, "guard", alert).target == "raider"
    )  # it is seen, though farther
    board.put("raider", at=(14, 4))
    alert = us.behaviors.notice(board, "guard", alert)
    assert (alert.target, alert.seen) == ("other", True)


def test_units_that_meet_in_a_passage_do_not_change_places():
    board = us.Board(us.SquareGrid(6, 1), {"turf": 1})
    for name, col in (("one", 0), ("two", 5)):
        board.add(us.Unit(name, "wardens", us.Movement(9)), at=(col, 0))
    reserved = us.behaviors.Reservations()
    first = us.behaviors.patrol(board, "one", [(5, 0)], reserved=reserved)
    assert first.end == (4, 0)
    second = us.behaviors.patrol(board, "two", [(0, 0)], reserved=reserved)
    assert second.end == (5, 0)  # nowhere is it out of the way of the first
    assert "'one'" in second.why
    assert reserved.clash(board, board.unit("two"), [(5, 0), (4, 0), (3, 0), (2, 0)])
    told = reserved.clash(board, board.unit("two"), [(3, 0), (2, 0), (1, 0)])
    assert told == "'one' comes the other way at step 2"
    reserved.free("one")
    assert us.behaviors.patrol(board, "two", [(0, 0)], reserved=reserved).end == (1, 0)


def test_whoever_finds_all_stands_reserved_comes_near():
    board, reserved = us.Board(us.SquareGrid(5, 1), {"turf": 1}), us.behaviors.Reservations()
    for name, side, col in (("one", "ours", 0), ("two", "ours", 1), ("foe", "theirs", 4)):
        board.add(us.Unit(name, side, us.Movement(9), attack=us.Attack()), at=(col, 0))
    first = us.behaviors.approach(board, "two", reserved=reserved)
    assert (first.end, first.target) == ((3, 0), "foe")
    second = us.behaviors.approach(board, "one", reserved=reserved)
    assert (second.end, second.stand) == ((2, 0), None)  # as near as it can get
    assert "'two' is to end on (3, 0)" in second.reasons
    assert repr(first) == "<Plan of 'two': approach, end on (3, 0), attack 'foe'>"


def test_a_unit_without_an_attack_stays_and_says_so():
    board = us.Board(us.SquareGrid(4, 1), {"turf": 1})
    board.add(us.Unit("cart", "wardens", us.Movement(points=2)), at=(0, 0))
    plan = us.behaviors.approach(board, "cart")
    assert (bool(plan), plan.why, plan.end) == (False, "it has no attack", (0, 0))


def test_a_chase_keeps_its_way_as_long_as_it_leads_there():
    board = guards()
    alert = us.behaviors.Alert("raider", us.Cell(12, 2), patience=9)
    plan = us.behaviors.chase(board, "guard", alert)
    us.walk(board, "guard", plan.route).finish()
    board.set_left("guard", None)
    board.paint("ruin", [(13, 1)])  # another way would do as well
    again = us.behaviors.chase(board, "guard", alert, before=plan)
    start = list(plan.route.cells).index(board.unit("guard").at)
    assert again.route.cells == plan.route.cells[start:]
    assert again.reasons[-1] == "the same way as before"
    elsewhere = us.behaviors.Alert("raider", us.Cell(12, 3), patience=9)
    assert us.behaviors.chase(board, "guard", elsewhere, before=plan).route.goal == (12, 3)
    with pytest.raises(us.errors.InputError, match="before: must be the plan before"):
        us.behaviors.chase(board, "guard", alert, before=3)
