"""Reach against exhaustive search."""

import contextlib
import math
import pickle

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from reference import Reference
from samples import boards

import understep as us


@given(boards(), st.integers(1, 4))
def test_reach_equals_exhaustive_search(board, turns):
    reach = us.reach(board, "a", turns=turns)
    truth = Reference(board, "a", turns)
    assert set(reach) == set(truth.best) == set(reach.cells)
    assert set(reach.passing) == {c for c in truth.states if truth.meaning(c) == "pass"}
    turn_table, left_table = reach.table("turn"), reach.table("left")
    for cell in board.grid.cells:
        at = board.grid.index(cell)
        if cell not in truth.best:
            assert cell not in reach
            assert math.isnan(turn_table[at])
            assert not reach.get(cell)
            assert reach.get(cell).why
            with pytest.raises(us.errors.NotReached, match=r"\("):
                reach[cell]
            continue
        turn, lacking = truth.best[cell]
        entry = reach[cell]
        assert entry.turn == turn + 1
        assert entry.left == pytest.approx(float(-lacking))
        assert (turn_table[at], left_table[at]) == (entry.turn, pytest.approx(entry.left))
        route = reach.route_to(cell)
        assert route.cost == entry.cost == pytest.approx(reach.table("cost")[at])
    keys = [(reach[cell].turn, truth.best[cell][1]) for cell in reach]
    assert keys == sorted(keys)


def test_a_reach_is_a_copy_that_knows_when_it_is_old():
    board = us.Board(us.HexGrid(12, 9), {"turf": 1, "mud": 3})
    board.add(us.Unit("scout", "wardens", us.Movement(points=3)), at=(5, 4))
    board.add(us.Unit("pikes", "wreckers", us.Movement(points=3)), at=(6, 4))
    reach = us.reach(board, "scout")
    before = reach.plain()
    assert not reach.stale
    assert None not in reach
    assert (99, 99) not in reach
    assert reach.get((6, 4)).blockers == ("pikes",)
    board.paint("mud", board.grid.cells)
    board.put("pikes", at=(0, 0))
    assert reach.stale
    assert reach.plain() == before
    route = reach.route_to((7, 4))
    assert route.cost == 3
    assert us.reach(board, "scout").table()[board.grid.index((6, 4))] == 3
    assert np.nansum(us.reach(board, "scout").table()) == 18


def test_old_answers_count_in_the_parts_of_a_point_they_were_made_with():
    board = us.Board(us.SquareGrid(9, 1), {"turf": 1}, properties={"depth": 0.0})
    rule = us.Movement(points=4, rule=lambda site: 1 + site.values["depth"])
    board.add(us.Unit("scout", "wardens", rule), at=(0, 0))
    reach, field = us.reach(board, "scout", turns=2), us.field(board, "scout", [(0, 0)])
    route = us.route(board, "scout", (6, 0))
    before = reach.plain(), field.plain(), field.table().tolist()
    board.set_value("depth", 0.25, (3, 0))
    assert us.reach(board, "scout", turns=2)[(3, 0)].cost == 3.25
    assert (reach.plain(), field.plain(), field.table().tolist()) == before
    assert [step.cost for step in route.steps] == [1] * 6
    assert (reach.route_to((6, 0)).plain(), reach.table().max()) == (route.plain(), 8)


@pytest.mark.parametrize("rules", [{"zones": "end"}, {"one_step": True}])
def test_the_last_part_of_a_point_counts_where_all_costs_are_whole(rules):
    """With 5.5 points, a zone takes the half point, too, and a step may cost as much."""
    board = us.Board(us.SquareGrid(6, 1), {"turf": 1, "mud": 7})
    board.add(us.Unit("a", "ours", us.Movement(5.5, **rules)), at=(0, 0))
    board.add(us.Unit("x", "theirs", us.Movement(1)), at=(4, 0))
    if "one_step" in rules:
        board.paint("mud", (3, 0))
    reach = us.reach(board, "a", turns=2)
    turn = 1 if "zones" in rules else 2
    assert (reach[(3, 0)].turn, reach[(3, 0)].left) == (turn, 0)
    assert (reach[(2, 0)].turn, reach[(2, 0)].left) == (1, 3.5)


@given(boards(cells=49), st.data())
def test_a_kept_reach_is_the_one_found_anew(board, data):
    """A copy of the board keeps nothing yet, so that it searches."""
    cells, names = list(board.grid), [unit.name for unit in board.units()]
    spots = st.lists(st.sampled_from(cells), min_size=1, max_size=2)
    edits = {
        "paint": lambda spot: board.paint(data.draw(st.sampled_from(list(board.terrains))), spot),
        "raise": lambda spot: board.set_elevation(data.draw(st.sampled_from([0, 1, 0.5])), spot),
        "put": lambda spot: board.put(data.draw(st.sampled_from(names)), at=spot[0]),
        "left": lambda _: board.set_left("a", data.draw(st.sampled_from([None, 1, 3]))),
        "undo": lambda _: board.undo(),
        "nothing": lambda _: None,
    }
    for _ in range(6):
        with contextlib.suppress(us.errors.InputError):  # nobody could stand there
            edits[data.draw(st.sampled_from(list(edits)))](data.draw(spots))
        if "a" not in {unit.name for unit in board.units()}:
            board.redo()
        turns = data.draw(st.sampled_from([1, 3, None]))
        kept = us.reach(board, "a", turns=turns)
        assert kept.plain() == us.reach(board.copy(), "a", turns=turns).plain()
        assert us.reach(board, "a", turns=turns) is kept
        assert not kept.stale


def test_a_reach_is_kept_while_nothing_has_changed_that_matters():
    board = us.Board(us.HexGrid(60, 60), {"turf": 1, "mud": 3, "deep": None})
    board.add(us.Unit("scout", "wardens", us.Movement(points=3)), at=(5, 4))
    board.add(us.Unit("pikes", "wreckers", us.Movement(points=3)), at=(50, 50))
    short, wide = us.reach(board, "scout"), us.reach(board, "scout", turns=8)
    assert us.reach(board, "scout") is short
    assert us.reach(board, "scout", turns=8) is wide
    assert us.reach(board, "scout", left=3) is not short
    board.put("pikes", at=(51, 50))
    board.paint("mud", (40, 40))
    assert us.reach(board, "scout", turns=8) is wide
    for edit in (
        lambda: board.paint("mud", (8, 8)),
        lambda: board.put("pikes", at=(12, 4)),
        lambda: board.set_left("scout", 1),
        lambda: board.link((6, 4), (50, 5)),
    ):
        before = us.reach(board, "scout", turns=8)
        with board.trial():
            edit()
            assert us.reach(board, "scout", turns=8).plain() != before.plain()
        assert us.reach(board, "scout", turns=8).plain() == before.plain()
    fence = [cell for cell in board.grid if cell.col == 20]
    board.paint("deep", fence)
    before = us.reach(board, "scout", turns=12)
    assert max(cell.col for cell in before) == 19
    board.paint("turf", (20, 4))  # just outside of all that was reached
    assert (20, 4) in us.reach(board, "scout", turns=12)
    board.paint("turf", fence)
    before = us.reach(board, "scout", turns=8)
    twin = board.copy()
    twin.set_left("scout", 1)
    assert us.reach(board, "scout", turns=8).plain() == before.plain()
    assert len(us.reach(twin, "scout", turns=8)) < len(before)
    board.link((6, 4), (50, 5))
    before = us.reach(board, "scout", turns=8)
    board.paint("mud", (51, 5))  # at the far end of a link
    assert us.reach(board, "scout", turns=8).plain() != before.plain()


@pytest.mark.parametrize("points", [3, 20_000])
def test_both_queues_agree(points):
    """Large scales and wide turns run on a heap, small ones on buckets."""
    grid = us.HexGrid(25, 25)
    rng = np.random.default_rng(3)
    costs = {f"t{i}": i for i in range(1, 6)}
    names = rng.choice(list(costs), size=grid.size)
    found = []
    for fine in (1, 0.999):
        board = us.Board(grid, {**costs, "odd": 1 + 1 / 997})
        for name in costs:
            board.paint(name, [c for c in grid.cells if names[c] == name])
        movement = us.Movement(points * 5, costs={"odd": None} if fine == 1 else {})
        board.add(us.Unit("a", "ours", movement), at=(12, 12))
        reach = us.reach(board, "a", turns=2)
        found.append([reach[cell] for cell in sorted(reach)])
    assert found[0] == found[1]


@given(boards(cells=20), st.data())
def test_a_start_where_a_friend_stands_is_as_if_nobody_did(board, data):
    unit = board.unit("a")
    friends = [each for each in board.units("ours") if each.name != "a" and each.layer == "ground"]
    assume(friends and len(unit.movement.footprint) == 1)
    friend, other = data.draw(st.sampled_from(friends)), board.copy()
    other.remove(friend.name)
    try:
        other.put("a", at=friend.at)
    except us.errors.InputError:
        assume(False)
    here, there = us.reach(board, "a", turns=3, at=friend.at), us.reach(other, "a", turns=3)
    assert {cell: here[cell] for cell in here} == {cell: there[cell] for cell in there}
    for cell in there:
        found = us.route(board, "a", goals=cell, at=friend.at)
        assert found.cost == us.route(other, "a", goals=cell).cost


def depths(site):
    """Whether it is too deep."""
    return None if site.values["depth"] > 2 else site.cost


FIRST = {
    "terrain": lambda board: board.paint("mud", (3, 2)),
    "terrain nobody enters": lambda board: board.paint("deep", (3, 2)),
    "terrain closed to a side": lambda board: board.paint("shrine", (3, 2)),
    "an edge": lambda board: board.set_edge((2, 2), (3, 2), "wall"),
    "a level": lambda board: board.set_elevation(5, (3, 2)),
    "a link": lambda board: board.link((2, 2), (6, 4), 1),
    "a feature": lambda board: board.place("crate", (3, 2)),
    "a block": lambda board: board.block((3, 2)),
    "a block to its side": lambda board: board.block((3, 2), side="ours"),
    "a value that its rule reads": lambda board: board.set_value("depth", 9.0, (3, 2)),
    "a zone": lambda board: board.add(us.Unit("foe", "theirs", us.Movement(1)), at=(3, 2)),
}


@pytest.mark.parametrize("rules", [{}, {"rule": depths}, {"zones": 1}, {"zones": "end"}])
@pytest.mark.parametrize("first", FIRST)
def test_the_first_of_its_kind_on_a_board_counts_at_once(first, rules):
    edit = FIRST[first]
    if first == "a value that its rule reads":
        rules = {**rules, "rule": depths}
    kinds = {"turf": 1, "mud": 3, "deep": None, "shrine": us.Terrain(1, closed_to="ours")}
    movement = us.Movement(3, climb=1, **rules)
    board = us.Board(
        us.HexGrid(8, 6), kinds, edges={"wall": us.Edge(blocks=True)},
        features={"crate": us.Feature(blocks=True)}, properties={"depth": 0.0},
    )  # fmt: skip
    board.add(us.Unit("a", "ours", movement), at=(2, 2))
    board.add(us.Unit("b", "ours", us.Movement(1)), at=(7, 5))
    before = us.reach(board, "a").plain()
    for _ in range(3):
        assert us.reach(board, "a", at=(2, 2)).plain() == before  # what answers is kept by now
        edit(board)
        after = us.reach(board, "a", at=(2, 2)).plain()
        assert after == us.reach(pickle.loads(pickle.dumps(board)), "a").plain() != before
        assert us.reach(board.copy(), "a").plain() == after
        board.undo()
    edit(copied := board.copy())
    assert us.reach(board, "a", at=(2, 2)).plain() == before
    assert us.reach(copied, "a", at=(2, 2)).plain() == after
    edit(board)  # what the copy shares is written anew
    assert us.reach(board, "a", at=(2, 2)).plain() == after
