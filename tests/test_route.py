"""Route against exhaustive search, ties included, and against an independent graph library."""

import itertools

import networkx as nx
import numpy as np
import pytest
from geometry import KINDS, make_grid
from hypothesis import assume, given
from hypothesis import strategies as st
from reference import Reference
from samples import boards
from ties import bends, ranks, tied_routes

import understep as us
from understep.moves.mover import table_of
from understep.moves.workspace import pool


@given(boards(), st.integers(1, 4), st.data())
def test_route_equals_exhaustive_search(board, turns, data):
    truth = Reference(board, "a", turns)
    goal = data.draw(st.sampled_from(list(board.grid.cells)))
    prefer = data.draw(st.sampled_from(["straight", "direct", "first"]))
    route = us.route(board, "a", goals=goal, turns=turns, prefer=prefer)
    assert bool(route) == (goal in truth.best)
    if not route:
        gaps = {
            cell: min(board.grid.distance(each, goal) for each in truth.areas[cell])
            for cell in truth.best
        }
        assert gaps[route.nearest] == min(gaps.values())
        assert route.why
        assert (route.cost, len(route), route.steps) == (None, 0, ())
        return
    turn, _ = truth.best[goal]
    assert (route.turns, route.cells[0], route.cells[-1]) == (turn + 1, truth.unit.at, goal)
    follow(truth, route)


def follow(truth, route):
    """Walk a route by the reference's steps."""
    board = truth.board
    assert sum(step.cost for step in route.steps) == pytest.approx(route.cost)
    here, turn, lacking, dear = route.cells[0], 0, -truth.left, 0
    for step in route.steps:
        way = None if step.direction is None else board.grid.directions.index(step.direction)
        while turn < step.turn - 1:
            turn, lacking, dear = turn + 1, truth.waited(lacking), 0
        steps = truth.tables[dear][here]
        price = min(price for *end, price in steps if end == [way, step.cell])
        dear = truth.after(dear, way)
        ((turn, lacking, paid),) = truth.arrive(turn, lacking, step.cell, price)
        assert (step.cost, step.left) == pytest.approx((float(paid), float(-lacking)))
        here = step.cell
    assert all(truth.meaning(cell) == "stop" for cell in route.stops)


@given(boards(cells=49), st.sampled_from([1.25, 2, 16]), st.data())
def test_a_weighted_search_keeps_the_bound_it_reports(board, weight, data):
    goals = data.draw(st.lists(st.sampled_from(list(board.grid)), min_size=1, max_size=2))
    best, fast = us.route(board, "a", goals), us.route(board, "a", goals, weight=weight)
    assert (bool(fast), best.bound) == (bool(best), 1)
    if not best:
        assert fast.plain() == best.plain()
        return
    follow(Reference(board, "a", 1), fast)
    movement, unit = board.unit("a").movement, board.unit("a")
    first = unit.left
    full = max(movement.points + movement.carry, first)

    def elapsed(route):
        left = route.steps[-1].left if route.steps else first
        return (route.turns - 1) * full + first - left

    assert fast.bound >= 1
    assert elapsed(best) - 0.01 <= elapsed(fast) <= fast.bound * float(elapsed(best)) + 0.01


@pytest.mark.large
def test_on_a_wide_board_a_weight_spares_most_of_the_search():
    rng = np.random.default_rng(7)
    board = us.Board(us.HexGrid(120, 120), {"turf": 1, "mud": 2, "reeds": 3, "deep": None})
    for name in ("mud", "reeds", "deep"):
        board.paint(name, rng.random((120, 120)) < 0.2)
    board.paint("turf", [(0, 0), (1, 0), (0, 1), (119, 119), (118, 119), (119, 118)])
    board.add(us.Unit("a", "ours", us.Movement(9)), at=(0, 0))
    best, expanded = us.route(board, "a", (119, 119)), []
    for weight in (1.5, 2, 4):
        fast = us.route(board, "a", (119, 119), weight=weight)
        expanded.append(fast.expanded)
        assert best.turns <= fast.turns <= best.turns * fast.bound + 1
        assert fast.plain() == us.route(board.copy(), "a", (119, 119), weight=weight).plain()
    assert best.expanded > expanded[0] > expanded[1] > expanded[2]
    assert expanded[2] * 4 < best.expanded


@given(boards(cells=49), st.data())
def test_the_estimate_is_consistent(board, data):
    """Nothing on a goal, and no step lowers it by more than it costs."""
    goal = data.draw(st.sampled_from(list(board.grid)))
    assume(board.can_stand("a", goal) or goal == board.unit("a").at)
    us.route(board, "a", goal, budget=10**9)  # by the search cell by cell
    table = table_of(board, board.unit("a"))
    workspace = pool(board, table.layers).lease()
    guess = workspace.search.estimated
    for cell in board.grid:
        number = board.grid.numbering.number(cell)
        assert guess(number) == 0 if cell == goal else guess(number) >= 0
        for end, cost in table.steps(number):
            assert guess(number) <= cost + guess(end)
    pool(board, table.layers).give_back(workspace)


@given(boards(cells=16), st.integers(1, 3), st.data())
def test_ties_are_broken_by_the_rule(board, turns, data):
    truth = Reference(board, "a", turns)
    goal = data.draw(st.sampled_from(sorted(truth.best)))
    tied = tied_routes(truth, goal)
    assume(tied is not None)
    least = min(cost for *_, cost in tied)
    tied = [(cells, ways) for cells, ways, cost in tied if cost == least]
    unit, grid = board.unit("a"), board.grid
    facing = None if unit.facing is None else grid.directions.index(unit.facing)
    best = min(tied, key=lambda each: (bends(each[1], facing), ranks(each)))
    route = us.route(board, "a", goals=goal, turns=turns)
    assert tuple(route.cells) == best[0]
    reach = us.reach(board, "a", turns=turns)
    assert tuple(reach.route_to(goal).cells) == best[0]
    hasty = us.route(board, "a", goals=goal, turns=turns, prefer="first")
    for found in (hasty, reach.route_to(goal, prefer="first"), reach[goal]):
        assert found.cost == pytest.approx(float(least))
    (ax, ay), (bx, by) = grid.center(unit.at), grid.center(goal)

    def aside(cells):
        lie = [abs((x - ax) * (by - ay) - (y - ay) * (bx - ax)) for x, y in grid.center(cells)]
        return round(sum(lie), 6)

    picks = st.sampled_from([0, 0, 1, 2.5])
    avoid = {cell: data.draw(picks) for cell in grid}
    table = np.zeros((grid.rows, grid.cols))
    table[grid.index(grid.cells)] = list(avoid.values())
    best = min(tied, key=lambda each: (
        sum(avoid[cell] for cell in each[0][1:]), bends(each[1], facing), ranks(each)
    ))  # fmt: skip
    for weights in (avoid, table):
        route = us.route(board, "a", goals=goal, turns=turns, avoid=weights)
        assert tuple(route.cells) == best[0]
        assert route.cost == pytest.approx(float(least))
    harm = {cell: board.terrains[board.terrain(cell)].hazard for cell in grid}
    one, other = (us.route(board, "a", goals=goal, turns=turns, avoid=w) for w in ("hazard", harm))
    assert one.cells == other.cells
    direct = us.route(board, "a", goals=goal, turns=turns, prefer="direct")
    best = min(tied, key=lambda each: (aside(each[0]), ranks(each)))
    assert tuple(direct.cells) == best[0]


@pytest.mark.deep
@pytest.mark.large
@pytest.mark.parametrize(("kind", "first"), list(zip(KINDS, [(0, 0), (-7, 5)] * 3, strict=True)))
def test_long_routes_cost_what_networkx_finds(kind, first):
    """Boards wider than a block of the step table, edited in between."""
    rng = np.random.default_rng(11)
    grid = make_grid(kind, 90, 75, first)
    board = us.Board(grid, {"one": 1, "two": 2.25, "three": 3, "deep": None})
    names = list(board.terrains)
    board.add(us.Unit("a", "ours", us.Movement(10**5, corners="free")), at=first)
    for many in (0, 5, 60):
        spots = grid.cells.array[rng.integers(1, 90 * 75, 1500)]
        board.paint(names[rng.integers(4)], spots)
        for a, b in grid.cells.array[rng.integers(1, 90 * 75, (many, 2))].tolist():
            board.link(a, b, cost=int(rng.integers(1, 9)), both=bool(rng.integers(2)))
        for (_, end), (a, _) in itertools.pairwise(link[:2] for link in board.links()[:4]):
            board.link(grid.neighbors(end)[0], a, cost=2, both=False)  # they chain
        goals = [c for c in grid.cells if board.terrain(c) != "deep"]
        graph = nx.DiGraph()
        graph.add_nodes_from(grid.cells)
        for cell in grid.cells:
            for other in grid.neighbors(cell):
                cost = board.terrains[board.terrain(other)].cost
                if cost is not None:
                    graph.add_edge(cell, other, weight=float(cost))
        for cell, other, cost, *_ in itertools.chain(*map(board.links, grid.cells)):
            if other in goals and cost < graph.get_edge_data(cell, other, {"weight": 99})["weight"]:
                graph.add_edge(cell, other, weight=cost)
        costs = nx.single_source_dijkstra_path_length(graph, us.Cell(*first))
        reach = us.reach(board, "a")
        assert {cell: reach[cell].cost for cell in reach} == costs
        for goal in rng.choice(len(goals), 12):
            route = us.route(board, "a", goals=goals[goal])
            assert route.cost == costs.get(goals[goal])


def test_a_refusal_names_the_reason_and_the_blockers():
    board = us.Board(us.SquareGrid(5, 3), {"turf": 1, "ruin": None})
    board.paint("ruin", [(2, 0), (2, 2)])
    board.add(us.Unit("scout", "wardens", us.Movement(points=4)), at=(0, 1))
    board.add(us.Unit("pikes", "wreckers", us.Movement(points=4)), at=(2, 1))
    shut = us.route(board, "scout", goals=(4, 1))
    assert not shut
    assert shut.blockers == ("pikes",)
    assert shut.why == "no route from (0, 1) to (4, 1): 'pikes' in the way"
    assert shut.nearest == (1, 1)
    taken = us.route(board, "scout", goals=(2, 1))
    assert (taken.why, taken.nearest) == ("'pikes' of the wreckers stands on (2, 1)", (1, 1))
    assert shut.overlay().role("nearest") == [(1, 1)]
    board.remove("pikes")
    assert shut.stale
    assert us.route(board, "scout", goals=(4, 1)).cost == 4


@pytest.mark.parametrize("ferry", [False, True])  # with links another loop searches
def test_expanded_cells_are_those_up_to_the_goal(ferry):
    board = us.Board(us.SquareGrid(9, 1), {"turf": 1})
    if ferry:
        board.link((0, 0), (8, 0), 20, kind="ferry")
    board.add(us.Unit("scout", "wardens", us.Movement(30)), at=(0, 0))
    found = [us.route(board, "scout", (col, 0)) for col in (3, 8)]
    assert [(route.cost, route.expanded) for route in found] == [(3, 4), (8, 9)]


def test_a_movement_that_can_enter_nothing_has_answers():
    board, rules = us.Board(us.HexGrid(4, 3), {"turf": 1}), us.Movement(3, {"turf": None})
    assert not us.passable(board, rules).any()
    assert not us.areas(board, rules).cells
    assert not us.field(board, rules, [(0, 0)]).cells
