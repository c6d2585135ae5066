"""Costs inside a sector, and the plan over crossings, against shortest paths of another library."""

import json
from fractions import Fraction

import networkx as nx
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from reference import exactly
from samples import boards, examples
from test_worlds import worlds

import understep as us
from understep.moves.spans import Spans, charged
from understep.rules.steps import NEVER, step_table
from understep.worlds._border import crossings
from understep.worlds._rect import Rect
from understep.worlds._sheet import Sheet


def graph_of(board, movement, side):
    """All steps of a movement that it can pay for, as a graph of cells with costs in points."""
    table = step_table(board, movement, side)
    table.fill()
    graph = nx.DiGraph()
    graph.add_nodes_from(board.grid)
    full = exactly(movement.points)
    most = full + (exactly(movement.carry) if full else 0)
    for cell in board.grid:
        for end, scaled in table.steps(board.grid.numbering.number(cell)):
            cost = Fraction(scaled, table.scale)
            if movement.one_step and full:
                cost = min(cost, full)
            elif cost > most:
                continue
            other = board.grid.numbering.cell_of(end)
            if cost < graph.edges.get((cell, other), {"cost": cost + 1})["cost"]:
                graph.add_edge(cell, other, cost=cost)
    return graph


def even(movement):
    return movement.diagonal != "alternating"


@examples(1.5)
@given(boards(), st.data())
def test_costs_of_ways_that_stay_inside(board, data):
    unit = board.unit("a")
    if not even(unit.movement):
        return
    left, top = board.grid.first
    cols, rows = board.grid.size
    x, y = data.draw(st.integers(0, cols - 1)), data.draw(st.integers(0, rows - 1))
    wide, high = data.draw(st.integers(1, cols - x)), data.draw(st.integers(1, rows - y))
    first = us.Cell(left + x, top + y)
    rect = Rect(*first, first.col + wide, first.row + high)
    spans = Spans(board, unit.movement, unit.side, first, wide, high)
    graph = graph_of(board, unit.movement, unit.side)
    inside = [cell for cell in board.grid if rect.holds([cell])]
    graph = graph.subgraph(inside)
    for cell in inside[:: max(1, len(inside) // 4)]:
        away = nx.single_source_dijkstra_path_length(graph, cell, weight="cost")
        back = nx.single_source_dijkstra_path_length(graph.reverse(), cell, weight="cost")
        for costs, known, good in (
            (spans.since(cell), away, True),
            (spans.to(cell), back, spans.stands(cell)),
        ):
            for other in inside:
                found = int(costs[spans.number(other)])
                wanted = known.get(other) if good else None
                assert (None if found < 0 else Fraction(found, spans.scale)) == wanted


@examples(1.5)
@given(boards(), st.data())
def test_crossings_join_what_hangs_together(board, data):
    """A unit that can step across can do so at a crossing, without leaving the two sides."""
    unit, (left, top), (cols, rows) = board.unit("a"), board.grid.first, board.grid.size
    if not even(unit.movement) or cols < 2:
        return
    seam = left + data.draw(st.integers(1, cols - 1))
    home, other = Rect(left, top, seam, top + rows), Rect(seam, top, left + cols, top + rows)
    there, back, scale = crossings(board, unit.movement, unit.side, home, other)
    graph = graph_of(board, unit.movement, unit.side)
    for found, near, far in ((there, home, other), (back, other, home)):
        for a, b, cost in found:
            assert near.holds([a])
            assert far.holds([b])
            assert graph.edges[a, b]["cost"] <= Fraction(int(cost), scale)
        sides = [graph.subgraph([c for c in graph if rect.holds([c])]) for rect in (near, far)]
        for a, b in graph.edges:
            if near.holds([a]) and far.holds([b]):
                assert any(
                    nx.has_path(sides[0], a, crossing.a) and nx.has_path(sides[1], crossing.b, b)
                    for crossing in found
                )


@examples(1.5)
@given(worlds(), st.data())
def test_the_best_plan_is_the_shortest_way_over_all_crossings(made, data):
    whole, world, _ = made
    unit = data.draw(st.sampled_from(whole.units()))
    if not even(unit.movement) or unit.movement.rule is not None or world.links:
        return
    goal = data.draw(st.sampled_from(list(whole.grid)))
    plan = world.plan(unit.name, goal, weight=1)
    steps = graph_of(whole, unit.movement, unit.side)
    sector = world._land.key
    key = world._guides._guide(world.unit(unit.name))
    guide, _ = world._guides._guides[key]
    between = nx.DiGraph()
    ends = {unit.at, goal}
    for start in {sector(cell) for cell in whole.grid}:
        for other in guide.sheet(start).sides:
            found = guide.exits(start, other)
            for place, end, cost in zip(found.places, found.ends, found.costs, strict=True):
                a = us.Cell(*guide.sheet(start).outlets[place].tolist())
                least = between.edges.get((a, end), {"cost": np.inf})["cost"]
                between.add_edge(a, end, cost=min(least, Fraction(int(cost), guide.scale)))
                ends |= {a, end}
    for cell in ends:
        inside = steps.subgraph([each for each in steps if sector(each) == sector(cell)])
        costs = nx.single_source_dijkstra_path_length(inside, cell, weight="cost")
        for end in ends & costs.keys():
            between.add_edge(cell, end, cost=costs[end])
    try:
        least = nx.dijkstra_path_length(between, unit.at, goal, weight="cost")
    except nx.NetworkXNoPath:
        least = None
    near = plan.cost is not None and float(plan.cost)
    assert near == pytest.approx(float(least), abs=0.05) if least is not None else not plan


@examples(2)
@given(st.data())
def test_notes_that_are_not_sound_are_not_taken(data):
    outlets = np.array([(0, 0), (1, 0), (2, 0)])
    sound = {"exits": [[1, 0, [0, 2], [[3, 0], [3, 1]], [4, 5]]], "rows": [[0, 0, [0, 1, -1]]]}
    sheet = Sheet(outlets, {(1, 0): [0, 2]})
    sheet.read(sound)
    assert sheet.plain() == sound
    junk = st.recursive(
        st.none() | st.booleans() | st.integers(-5, 1 << 70) | st.floats() | st.text(max_size=3),
        lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=5), inner),
        max_leaves=6,
    )  # fmt: skip
    text = json.dumps(sound)
    broken = json.loads(text)
    part, paths = broken, []

    def walk(inner, path):
        paths.append(path)
        each = inner.items() if isinstance(inner, dict) else enumerate(inner)
        for name, value in each if isinstance(inner, dict | list) else ():
            if isinstance(value, dict | list):
                walk(value, (*path, name))
            else:
                paths.append((*path, name))

    walk(broken, ())
    path = data.draw(st.sampled_from([each for each in paths if each]))
    for name in path[:-1]:
        part = part[name]
    part[path[-1]] = data.draw(junk)
    fresh = Sheet(outlets, {(1, 0): [0, 2]})
    fresh.read(data.draw(st.sampled_from([broken, broken, data.draw(junk)])))
    for row in fresh.rows.values():
        assert (row.shape, row.dtype) == ((3,), np.int64)
    for key, part in fresh.exits.items():
        assert key in fresh.sides
        assert len(part.places) == len(part.ends) == len(part.costs)
        assert set(part.places.tolist()) <= {0, 1, 2}


def test_what_a_step_costs_at_most():
    costs = np.array([0, 3, 5, 9, NEVER])
    for facts, wanted in (
        ({"points": 5}, [0, 3, 5, NEVER, NEVER]),
        ({"points": 5, "carry": 4}, [0, 3, 5, 9, NEVER]),
        ({"points": 3, "one_step": True}, [0, 3, 3, 3, NEVER]),
        ({"points": 0, "carry": 9}, [0, NEVER, NEVER, NEVER, NEVER]),
    ):
        assert charged(us.Movement(**facts), 1, costs).tolist() == wanted


@pytest.mark.large
def test_a_world_from_one_large_array_on_disk(tmp_path):
    path = tmp_path / "land.u8"
    codes = np.memmap(path, dtype=np.uint8, mode="w+", shape=(300, 400))
    codes[100:110, :350] = 1
    codes.flush()
    large = np.memmap(path, dtype=np.uint8, mode="r", shape=(300, 400))

    def make(first, cols, rows):
        board = us.Board(us.SquareGrid(cols, rows, first=first), {"turf": 1, "deep": None})
        part = large[first.row : first.row + rows, first.col : first.col + cols]
        board.paint("deep", part == 1)
        return board

    world = us.worlds.World(make, 400, 300, sector=50, awake=4)
    world.add(
        us.Unit("cart", "wardens", us.Movement(points=9, footprint=us.Footprint.block(2))),
        at=(3, 3),
    )
    journey = world.plan("cart", (10, 200))
    assert world.awake <= 4
    route = journey.as_route()
    assert max(cell.col for cell in route.cells) >= 350
    whole = make(us.Cell(0, 0), 400, 300)
    least = us.field(whole, world.unit("cart").movement, [(10, 200)])[3, 3]
    assert 1.05 * least >= route.cost >= least
    assert journey.cost >= least
    with pytest.raises(us.errors.CellError):
        world.spanning([(500, 500)])
