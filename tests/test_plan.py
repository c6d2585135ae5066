"""Long ways over crossings: there is one where there is a way, and hardly a dearer one."""

import dataclasses
import random
from fractions import Fraction
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from samples import examples
from test_worlds import Store, edit, worlds

import understep as us
from understep.worlds import _guides


def bare(whole, name):
    """A copy of a board without other units, and their one with all its points."""
    board = whole.copy()
    for unit in whole.units():
        if unit.name != name:
            board.remove(unit.name)
    board.set_left(name, board.unit(name).movement.points)
    return board


def facts(journey):
    return journey.cost, journey.crossings, journey.why


@examples(0.8)
@given(worlds(), st.data())
def test_there_is_a_plan_where_there_is_a_way(made, data):
    whole, world, _ = made
    for unit in whole.units():
        board = bare(whole, unit.name)
        alternating = unit.movement.diagonal == "alternating"
        for _ in range(3):
            goal = data.draw(st.sampled_from(list(whole.grid)))
            journey = world.plan(unit.name, goal, weight=data.draw(st.sampled_from([1, 2])))
            exact = us.route(board, unit.name, goals=goal, known_to=False)
            if alternating:
                assert bool(journey) >= bool(exact)
                continue
            assert bool(journey) == bool(exact)
            if not journey:
                assert "no route leads over the terrain" in journey.why
                continue
            least = us.field(board, unit.name, [goal], known_to=False)[unit.at]
            assert journey.cost >= least or unit.movement.one_step
            for a, b, _ in journey.crossings:
                assert us.route(board, unit.name, goals=b, at=a)


@examples(0.5)
@given(worlds(), st.integers(0, 10**6), st.data())
def test_after_edits_a_plan_is_as_if_made_anew(made, seed, data):
    whole, world, store = made
    notes = {}
    world._guides._notes = notes if data.draw(st.booleans()) else None
    names = [unit.name for unit in whole.units()]
    goals = data.draw(st.lists(st.sampled_from(list(whole.grid)), min_size=2, max_size=4))
    for step in range(3):
        found = [facts(world.plan(name, goal)) for name in names for goal in goals]
        anew = us.worlds.World(store.make, *whole.grid.size, sector=world.sector, save=store.save)
        anew.restore(world.units(), world.edges, world.links)
        world.save()
        assert found == [facts(anew.plan(name, goal)) for name in names for goal in goals]
        if world._guides._notes:  # what was noted is used, and sound
            kept = us.worlds.World(
                store.make, *whole.grid.size, sector=world.sector, notes=dict(notes)
            )
            kept.restore(world.units(), world.edges, world.links)
            assert found == [facts(kept.plan(name, goal)) for name in names for goal in goals]
        board = world.board((0, 0), *whole.grid.size)
        edit(board, np.random.default_rng(seed + step), names)
        world.keep(board)


def main_land(land, movement):
    """The cells of the largest area."""
    areas = us.areas(land, movement).table()
    main = np.bincount(areas[areas >= 0]).argmax()
    return [us.Cell(col, row) for row, col in np.argwhere(areas == main).tolist()]


def delta(size, **options):
    land = us.worlds.delta(11, *size, units=False)
    store = Store(land)
    world = us.worlds.World(store.make, *size, sector=32, save=store.save, **options)
    return land, world, store


@pytest.mark.deep
@pytest.mark.large
def test_long_ways_are_short_and_can_be_walked():
    land, world, _ = delta((192, 160))
    scout = us.Unit("scout", "wardens", us.Movement(points=8, drop=2))
    cells = main_land(land, scout.movement)
    rng, planned, walked = random.Random(5), [], []
    for _ in range(12):
        start, goal = rng.sample(cells, 2)
        least = us.field(land, scout.movement, [goal])[start]
        board = land.copy()
        board.add(scout, at=start)
        if world.units():
            cut = world.board((0, 0), *world.size)
            cut.put("scout", at=start)
            world.keep(cut)
        else:
            world.add(scout, at=start)
        journey = world.plan("scout", goal, weight=1)
        route = world.plan("scout", goal).as_route()
        planned.append(journey.cost / least)
        walked.append(float(route.cost) / least)
        assert (route.cells[0], route.cells[-1]) == (start, goal)
        for a, b in pairwise(route.cells):
            assert us.route(board, "scout", goals=b, at=a, left=8).cost is not None
            assert land.grid.distance(a, b) == 1
        costs = [
            us.route(board, "scout", goals=b, at=a, left=8).cost for a, b in pairwise(route.cells)
        ]
        assert sum(map(Fraction, costs)) == route.cost
    assert sum(planned) / len(planned) <= 1.03 >= sum(walked) / len(walked)
    assert max(planned + walked) <= 1.15


def scouted():
    """A delta, a world of it with a scout on the first cell of its main land, and that land."""
    land, world, _ = delta((160, 128))
    foot = us.Movement(points=12)
    cells = main_land(land, foot)
    world.add(us.Unit("scout", "wardens", foot), at=cells[0])
    return land, world, foot, cells


@pytest.mark.deep
@pytest.mark.large
def test_a_journey_is_walked_turn_by_turn_past_others_and_over_altered_ground():
    _, world, foot, cells = scouted()
    journey = world.plan("scout", cells[-1])
    for crossing in journey.crossings[2:5]:  # foes on the way
        if world.board(crossing.b, 1, 1).unit_at(crossing.b) is None:
            world.add(us.Unit(f"foe {crossing.b}", "wreckers", foot), at=crossing.b)
    turns = 0
    while not journey.done:
        board, route = journey.piece()
        assert route, route.why
        us.walk(board, "scout", route).finish()
        if turns == 3:  # a flood behind the unit and before it
            for crossing in journey.crossings[-3:-2]:
                cut = world.board(crossing.b, 1, 1)
                if cut.unit_at(crossing.b) is None:
                    cut.paint("deep", crossing.b)
                    world.keep(cut)
        board.set_left("scout", 12)
        world.keep(board)
        turns += 1
        assert turns < 200
    assert world.unit("scout").at == cells[-1]


@pytest.mark.deep
@pytest.mark.large
def test_sleeping_sectors_are_woken_or_not_as_asked():
    land, world, _, cells = scouted()
    for asleep in ("kept", "refuse"):
        before = world.awake
        refused = world.plan("scout", cells[-1], asleep=asleep)
        assert not refused
        assert "not looked into" in refused.why
        assert world.awake == before
    found = world.plan("scout", cells[-1])
    assert facts(world.plan("scout", cells[-1], asleep="kept")) == facts(found)
    with pytest.raises(us.errors.NameUnknownError, match="asleep"):
        world.plan("scout", cells[-1], asleep="wake")
    with pytest.raises(us.errors.CellError, match="must lie in a world"):
        world.plan("scout", (500, 0))
    with pytest.raises(us.errors.InputError, match="weight"):
        world.plan("scout", cells[-1], weight=0)
    small = dataclasses.replace(world.unit("scout"), at=None)
    tiny = us.worlds.World(Store(land).make, 160, 128, sector=32, memory=600_000)
    tiny.add(small, at=cells[0])
    assert "not looked into" in tiny.plan("scout", cells[-1]).why
    assert tiny.awake <= 4


@examples(0.3)
@given(worlds(), st.data())
def test_a_plan_does_not_hang_on_what_was_asked_before(made, data):
    whole, world, store = made
    names = [unit.name for unit in whole.units()]
    asked = [(name, goal) for name in names for goal in list(whole.grid)[::7]]
    found = {each: facts(world.plan(*each)) for each in asked}
    for each in data.draw(st.permutations(asked))[:6]:
        anew = us.worlds.World(store.make, *whole.grid.size, sector=world.sector, awake=2)
        anew.restore(world.units(), world.edges, world.links)
        world.save()
        for _ in range(2):
            assert facts(anew.plan(*each)) == found[each]
        board = anew.spanning([whole.unit(each[0]).at, each[1]], margin=1)
        assert whole.unit(each[0]).at in board.grid
        assert each[1] in board.grid


def test_a_journey_on_small_land_past_others_off_its_way_and_to_where_nobody_can():
    terrain, foot = {"turf": 1, "mud": 2, "deep": None}, us.Movement(points=5)
    land = us.Board(us.HexGrid(40, 24), terrain)
    land.paint("deep", [(20, row) for row in range(24) if row not in (3, 19)])
    land.paint("mud", land.grid.disk((10, 12), 4))
    land.paint("deep", land.grid.ring((34, 5), 2))
    store = Store(land)
    world = us.worlds.World(store.make, 40, 24, sector=8, save=store.save)
    world.add(us.Unit("scout", "wardens", foot), at=(2, 20))
    for asleep in ("kept", "refuse"):
        assert "not looked into" in world.plan("scout", (38, 1), asleep=asleep).why
    nowhere = world.plan("scout", (34, 5))
    assert not nowhere
    assert "no route leads over the terrain" in nowhere.why
    assert repr(nowhere) == f"Journey({nowhere.why})"
    journey = world.plan("scout", (38, 1))
    assert repr(journey) == f"Journey('scout' to (38, 1), cost {journey.cost})"
    whole = journey.as_route()
    assert (whole.cells[0], whole.goal) == ((2, 20), (38, 1))
    assert float(whole.cost) <= float(journey.cost)
    assert not world.plan("scout", (2, 20)).crossings
    world.add(us.Unit("pikes", "wreckers", us.Movement(1)), at=(20, 19))  # only the ground counts
    barred = journey.as_route()
    assert not barred or (20, 19) not in list(barred.cells)
    cut = world.spanning([(20, 19)])
    cut.remove("pikes")
    world.keep(cut)
    for turn in range(60):
        board, route = journey.piece()
        us.walk(board, "scout", route).finish()
        if turn == 2:  # somebody carries it off
            board.put("scout", at=next(iter(board.grid.neighbors(board.unit("scout").at))))
        board.set_left("scout", 5)
        world.keep(board)
        if journey.done:
            break
    assert world.unit("scout").at == (38, 1)
    cut = world.spanning([(38, 1)])
    cut.remove("scout")
    world.keep(cut)
    for call in (journey.piece, journey.as_route):
        with pytest.raises(us.errors.NameUnknownError, match="scout"):
            call()


@pytest.mark.parametrize("points", [2, 3])
def test_a_plan_over_alternating_diagonals_has_no_step_dearer_than_a_turn(points):
    def make(first, cols, rows):
        board = us.Board(us.SquareGrid(cols, rows, first=first, diagonals=True),
                         {"turf": 1, "mud": 3, "rock": None})  # fmt: skip
        board.paint("rock", lambda cell: cell.row != 4)
        board.paint("mud", lambda cell: cell == (12, 4))
        return board

    world = us.worlds.World(make, 32, 8, sector=8)
    rules = us.Movement(points, diagonal="alternating")
    world.add(us.Unit("scout", "ours", rules), at=(1, 4))
    journey, route = world.plan("scout", (30, 4)), world.route("scout", (30, 4))
    assert bool(journey) == bool(route) == (points == 3)


@examples(0.7)
@given(worlds(), st.data())
def test_a_plan_on_one_board_of_all_is_the_best_way(made, data):
    whole, world, store = made
    goals = data.draw(st.lists(st.sampled_from(list(whole.grid)), min_size=1, max_size=3))
    world.save()
    by_crossings = us.worlds.World(store.make, *whole.grid.size, sector=world.sector)
    by_crossings.restore(world.units(), world.edges, world.links)
    with pytest.MonkeyPatch.context() as patch:
        for unit in whole.units():
            board = bare(whole, unit.name)
            for goal in goals:
                patch.setattr(_guides, "FIRST", 10**6)
                other = by_crossings.plan(unit.name, goal, weight=1)
                patch.setattr(_guides, "FIRST", 0)
                found = world.plan(unit.name, goal, weight=1)
                assert bool(found) == bool(other)
                if not found:
                    assert found.why == other.why
                    continue
                best = us.field(board, unit.name, [goal], known_to=False).get(unit.at)
                least = best.value if best else other.cost
                assert found.cost in (least, other.cost)
                assert found.cost <= other.cost
                for a, b, _ in found.crossings:
                    assert (a.col // world.sector, a.row // world.sector) != (
                        b.col // world.sector, b.row // world.sector
                    )  # fmt: skip
