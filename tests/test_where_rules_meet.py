"""Small boards on which two or more rules of movement meet, each worked out by hand."""

import dataclasses
import itertools

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from reference import Reference
from samples import KINDS_OF_EDGES, boards
from ties import tied_routes

import understep as us


def laid(cols, rows, diagonals=True, edges=None, **painted):
    """Squares of turf with some cells of other terrains: name to cost and cells."""
    terrain = {"turf": 1, **{name: cost for name, (cost, _) in painted.items()}}
    board = us.Board(us.SquareGrid(cols, rows, diagonals=diagonals), terrain, edges=edges)
    for name, (_, cells) in painted.items():
        board.paint(name, cells)
    return board


def with_scout(board, at, points=4, **rules):
    board.add(us.Unit("scout", "ours", us.Movement(points, **rules)), at=at)
    return board


def foe(board, at, name="foe", **rules):
    return board.add(us.Unit(name, "theirs", us.Movement(1, **rules)), at=at)


# free steps, alternating diagonals, first


def test_a_reach_over_free_terrain_costs_what_its_route_costs():
    board = laid(6, 2, free=(0, [(0, 0), (0, 1), (1, 1), (4, 1)]))
    with_scout(board, (5, 0), 2, diagonal="alternating", corners="free")
    reach = us.reach(board, "scout", turns=3)
    for cell in reach:
        route = us.route(board, "scout", cell)
        assert reach[cell].cost == reach.route_to(cell).cost == route.cost
    assert reach[(1, 0)].cost == 3


def test_a_new_turn_begins_with_a_plain_diagonal_whichever_came_last():
    """The first turn ends on (1, 1) with 2 points spent, the last step before it a diagonal."""
    mud = (1.5, [(0, 0)])
    board = laid(3, 4, mud=mud, free=(0, [(2, 1), (0, 3)]), deep=(None, [(2, 0), (0, 1), (1, 2)]))
    with_scout(board, (1, 3), 4, diagonal="alternating", corners="one")
    route = us.route(board, "scout", (0, 0))
    assert us.reach(board, "scout", turns=2)[(0, 0)].cost == route.cost == 3.5
    assert list(route.cells) == [(1, 3), (2, 2), (2, 1), (1, 1), (0, 0)]
    assert (route.turns, route.steps[-1].cost) == (2, 1.5)


@given(st.data())
def test_alternating_diagonals_over_free_terrain(data):
    cells = list(us.SquareGrid(4, 3))
    some = st.sets(st.sampled_from(cells))
    board = laid(4, 3, free=(0, list(data.draw(some))), mud=(2, list(data.draw(some))))
    corners = data.draw(st.sampled_from(["free", "one"]))
    rules = us.Movement(data.draw(st.sampled_from([2, 3])), diagonal="alternating", corners=corners)
    board.add(us.Unit("a", "ours", rules), at=data.draw(st.sampled_from(cells)))
    for place in data.draw(st.sets(st.sampled_from(cells), max_size=2)):
        if board.unit_at(place) is None:
            board.add(us.Unit(f"u{place}", "ours", us.Movement(1)), at=place)
    truth, reach = Reference(board, "a", 3), us.reach(board, "a", turns=3)
    for cell in reach:
        tied = tied_routes(truth, cell)
        if tied is not None:
            least = float(min(cost for *_, cost in tied))
            first = us.route(board, "a", cell, turns=3, prefer="first")
            assert reach[cell].cost == reach.route_to(cell).cost == first.cost == least


def test_the_first_route_found_is_no_dearer_than_the_best():
    board = laid(3, 2, a=(1, []), b=(2, []), c=(3, [(2, 0), (0, 1)]))
    found = set()
    for at, to in itertools.permutations(board.grid, 2):
        for cell, name in itertools.product([(1, 0), (1, 1)], "ab"):
            board.paint(name, cell)
        with_scout(board, at, 3)
        costs = {us.route(board, "scout", to, prefer=p).cost for p in ("first", "straight")}
        found.add(len(costs))
        board.remove("scout")
    assert found == {1}


@given(boards(cells=16), st.data())
def test_whatever_is_preferred_costs_as_little(board, data):
    goal = data.draw(st.sampled_from(list(board.grid)))
    costs = {
        us.route(board, "a", goal, turns=4, prefer=prefer).cost
        for prefer in ("first", "straight", "direct")
    }
    assert len(costs) == 1


# zones of control


def test_a_closed_house_holds_nothing_outside():
    board = laid(5, 5, edges=KINDS_OF_EDGES)
    for cell in board.grid.neighbors((2, 2)):
        if 2 in cell:
            board.set_edge((2, 2), cell, "wall")
    foe(board, (2, 2))
    with_scout(board, (0, 0), 4, zones="end")
    assert us.reach(board, "scout")[(1, 1)].left == 3
    board.set_edge((2, 2), (2, 1), "door")  # a way around one corner is enough
    assert us.reach(board, "scout")[(1, 1)].left == 3
    board.open_edge((2, 2), (2, 1))
    assert us.reach(board, "scout")[(1, 1)].left == 0
    board.set_edge((2, 1), (1, 1), "wall")
    assert us.reach(board, "scout")[(1, 1)].left == 3


def test_zones_go_by_walls_seen_outward_and_around_corners_that_exist():
    exists = np.ones((3, 3), dtype=bool)
    exists[0, 1] = False
    board = us.Board(us.SquareGrid(3, 3, diagonals=True, exists=exists), {"turf": 1, "deep": None},
                     edges=KINDS_OF_EDGES)  # fmt: skip
    foe(board, (1, 1))
    with_scout(board, (2, 0), 9, zones="end", corners="free")
    board.set_edge((1, 1), (0, 1), "wall", both=False)  # inward it could be passed

    # one corner of (0, 0) is a hole, before the other stands a wall
    assert us.route(board, "scout", (0, 0), at=(0, 1)).steps[-1].left == 8
    board.set_edge((1, 1), (0, 1), None)
    assert us.route(board, "scout", (0, 0), at=(0, 1)).steps[-1].left == 0
    board.set_edge((0, 1), (1, 1), "wall", both=False)  # nor does one seen from the other side
    assert us.route(board, "scout", (0, 0), at=(0, 1)).steps[-1].left == 0
    board.paint("deep", (0, 1))  # nor terrain, nor who stands at the corner
    assert us.route(board, "scout", (0, 0), at=(0, 1)).steps[-1].left == 0
    board.set_edge((1, 1), (1, 2), "wall")
    board.set_edge((1, 1), (2, 1), "wall")  # and the mover's own rules for edges do not count
    through = us.Movement(9, zones="end", edges={"wall": "open"}, corners="free")
    board.add(us.Unit("other", "ours", through), at=(0, 2))
    assert us.route(board, "other", (2, 2), at=(1, 2)).steps[-1].left == 8


def test_no_unit_holds_the_cells_it_stands_on():
    """It may pass through the foe, and pays for the zone once it is past it."""
    board = laid(5, 1)
    with_scout(board, (0, 0), 9, zones=1, passes="all")
    foe(board, (2, 0), footprint=((0, 0), (1, 0)))
    reach = us.reach(board, "scout")
    assert {tuple(cell): reach[cell].cost for cell in reach} == {(0, 0): 0, (1, 0): 2, (4, 0): 6}


# corners


@pytest.mark.parametrize(
    ("corners", "wall", "ditch", "cost"),
    [("one", True, False, None), ("one", False, True, 6), ("one", False, False, 1),
     ("both", False, False, None), ("free", True, False, 1)],
)  # fmt: skip
def test_a_foe_at_a_corner_leaves_the_way_around_the_other(corners, wall, ditch, cost):
    kinds = {"wall": us.Edge(blocks=True), "ditch": us.Edge(add=5)}
    board = laid(2, 2, edges=kinds)
    foe(board, (1, 0))
    with_scout(board, (0, 0), 9, foe_corners=True, corners=corners)
    if wall or ditch:
        board.set_edge((0, 1), (1, 1), "wall" if wall else "ditch")
    route = us.route(board, "scout", (1, 1))
    direct = route and len(route.steps) == 1
    around = 2 if not (wall or ditch) else 7 if ditch else None
    wanted = cost if cost is not None else around
    assert (route.cost if route else None) == wanted
    assert bool(direct) == (cost is not None)


def test_the_level_of_a_corner_does_not_close_it():
    board = laid(2, 2, deep=(None, [(0, 1)]))
    foe(board, (1, 0))
    with_scout(board, (0, 0), 9, foe_corners=True, corners="one", climb=1, drop=1)
    assert not us.route(board, "scout", (1, 1))  # a foe here, deep there
    board.put("foe", at=(1, 1))
    board.paint("turf", (0, 1))
    board.put("foe", at=(0, 1))
    for level in (2, -2):  # the free corner lies higher or lower than a step could lead
        board.set_elevation(level, (1, 0))
        assert us.route(board, "scout", (1, 1)).cost == 1
    board.remove("foe")  # a foe that comes or goes changes the steps
    foe(board, (1, 0))
    board.paint("deep", (0, 1))
    assert not us.route(board, "scout", (1, 1))
    board.undo()
    board.undo()
    assert us.route(board, "scout", (1, 1)).cost == 1


# caps, links, leaps, goals


def test_a_field_made_for_a_unit_costs_what_the_unit_pays():
    board = laid(3, 1, mud=(5, [(1, 0)]))
    with_scout(board, (0, 0), 2, one_step=True)
    assert us.route(board, "scout", (2, 0)).cost == us.field(board, "scout", [(2, 0)])[(0, 0)] == 3
    assert us.field(board, us.Movement(2), [(2, 0)])[(0, 0)] == 6
    assert [trial.cost for trial in us.study.compare(board, "scout", (2, 0))][1:3] == [3, 3]
    board.link((0, 0), (2, 0), cost=9)
    leaper = us.Movement(1, one_step=True, leap=us.Leap(1, cost=7))
    assert us.field(board, leaper, [(2, 0)])[(0, 0)] == 1


def test_of_tied_links_and_leaps_the_one_that_makes_the_cheapest_route_counts():
    board = laid(3, 2, False, mud=(2, [(2, 0), (2, 1)]), deep=(None, [(1, 1)]))
    with_scout(board, (0, 1), 2, leap=us.Leap(over=1, cost=2))
    costs = set()
    for at in board.grid:
        if not board._units.hindrance(board.unit("scout"), at):
            for goal in us.reach(board, "scout", at=at, turns=None):
                found = us.route(board, "scout", goal, at=at)
                truth = board.copy()
                truth.put("scout", at=at)
                unit = dataclasses.replace(truth.remove("scout"), name="a", at=None)
                truth.add(unit, at=at)
                tied = tied_routes(Reference(truth, "a", 5), goal)
                assert found.cost == min(cost for *_, cost in tied)
                costs.add(found.cost)
    assert len(costs) > 2


@pytest.mark.parametrize("prefer", ["straight", "direct", "first"])
def test_links_are_chosen_by_what_is_to_be_avoided(prefer):
    board = laid(4, 3, False, deep=(None, [(1, 0), (1, 1), (1, 2)]))
    with_scout(board, (0, 1), 9)
    for row in (0, 2):
        board.link((0, row), (2, 1), cost=1, both=False)
    for fire in (0, 2):
        route = us.route(board, "scout", (3, 1), prefer=prefer, avoid={us.Cell(0, fire): 1})
        assert us.Cell(0, 2 - fire) in route.cells
        assert route.cost == 3


def test_of_equal_goals_the_one_less_to_be_avoided_is_taken():
    board = laid(7, 7, fire=(us.Terrain(1, hazard=2), []))
    with_scout(board, (0, 3), 20)
    foe(board, (4, 3))
    ways = {
        "adjacent": lambda **how: us.route(board, "scout", (4, 3), accept="adjacent", **how),
        "within": lambda **how: us.route(board, "scout", us.within("foe", 1, 1), **how),
        "list": lambda **how: us.route(board, "scout", [(3, 2), (3, 3), (3, 4)], **how),
    }
    for way in ways.values():
        near = way().goal
        board.paint("fire", near)
        spared = way(avoid="hazard")
        assert (spared.cost, spared.turns) == (3, 1)
        assert spared.goal != near
        board.paint("turf", near)
    assert ways["list"]().goal == (3, 2)  # else the order given decides
    board.block(board.grid.ring((4, 3), 1))
    nearest = us.route(board, "scout", (4, 3), accept="nearest").goal
    board.paint("fire", nearest)
    other = us.route(board, "scout", (4, 3), accept="nearest", avoid="hazard").goal
    assert other != nearest


@given(boards(cells=16), st.integers(1, 3), st.data())
def test_of_several_goals_the_cheapest_then_the_least_to_avoid_then_the_first(board, turns, data):
    truth = Reference(board, "a", turns)
    goals = data.draw(st.lists(st.sampled_from(list(board.grid)), min_size=2, max_size=4))
    avoid = {cell: data.draw(st.sampled_from([0, 0, 1, 2])) for cell in board.grid}
    found = us.route(board, "a", goals, turns=turns, avoid=avoid)
    stops = [goal for goal in goals if goal in truth.best]
    assert bool(found) == bool(stops)
    ranked = []
    for place, goal in enumerate(stops):
        tied = tied_routes(truth, goal)
        if tied is None:
            return
        least = min((cost, sum(avoid[cell] for cell in cells[1:])) for cells, _, cost in tied)
        ranked.append((truth.best[goal], least, place, goal))
    if ranked:
        assert found.goal == min(ranked)[3]


# words and refusals


def test_a_step_dearer_than_a_turn_is_named_and_nobody_blamed():
    board = laid(4, 2, False, tall=(1.5, [(2, 0), (2, 1)]))
    with_scout(board, (0, 0), 1)
    foe(board, (0, 1))
    for name in ("foe", None):
        route = us.route(board, "scout", (3, 0))
        assert route.why == "the step to (2, 0) takes 1.5 points, a turn has 1"
        assert route.blockers == ()
        if name:
            board.remove(name)


def test_what_a_movement_takes_for_diagonals_and_slopes():
    board = laid(3, 3)
    with_scout(board, (0, 0), 9, diagonal=None)
    assert us.route(board, "scout", (2, 2)).cost == 4
    assert us.reach(board, "scout")[(1, 1)].cost == 2
    for name, value in itertools.product(("climb", "drop", "uphill", "downhill"), ["alternating"]):
        with pytest.raises(us.errors.CostError, match=f"^{name}"):
            us.Movement(3, **{name: value})
    for name in ("uphill", "downhill", "carry", "points"):
        with pytest.raises(us.errors.CostError, match=f"^{name}"):
            us.Movement(**{"points": 3, name: None})


def test_of_a_large_unit_the_nearest_cell_is_the_nearest():
    board = laid(8, 4, deep=(None, [(7, 0), (7, 1)]))
    cart = us.Movement(20, footprint=((0, 0), (3, 0)))
    board.add(us.Unit("cart", "ours", cart), at=(0, 0))
    found = us.route(board, "cart", (7, 0), accept="nearest")
    assert found.goal == (3, 0)  # its cell (6, 0) is next to it, though (4, 2) is a nearer anchor
    assert us.route(board, "cart", us.within((7, 0), 1, 1)).goal in [(3, 0), (3, 1)]
    assert us.route(board, "cart", (7, 0)).nearest == (3, 0)
