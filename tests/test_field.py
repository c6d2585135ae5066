"""Fields against an independent graph library."""

import dataclasses
import math

import networkx as nx
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from reference import Reference
from samples import boards

import understep as us


@given(boards(), st.data())
def test_a_field_costs_what_an_independent_search_from_every_cell_finds(board, data):
    movement, side = board.unit("a").movement, board.unit("a").side
    for unit in board.units():
        if unit.name != "a":
            board.remove(unit.name)
    goals = data.draw(st.lists(st.sampled_from(list(board.grid)), min_size=1, max_size=4))
    truth = Reference(board, "a", 1)
    graph = truth.graph().reverse()
    real = [goal for goal in goals if truth.stands(goal)]

    real_nodes = {node for node in graph if node[0] in real}
    found = nx.multi_source_dijkstra_path_length(graph, real_nodes) if real else {}
    costs = {cell: cost for (cell, dear), cost in found.items() if not dear}
    field = us.field(board, movement, goals, side=side)
    assert {cell: field[cell] for cell in board.grid if cell in field} == {
        cell: pytest.approx(float(cost)) for cell, cost in costs.items()
    }
    for cell in board.grid:
        route = field.cells_from(cell)
        if cell not in costs:
            assert not field.get(cell)
            assert (field.next(cell), field.owner(cell), len(route)) == (None, None, 0)
            with pytest.raises(us.errors.NotReached, match="no route leads from"):
                field[cell]
            continue
        assert (route[0], route[-1]) == (cell, field.owner(cell))
        assert route[-1] in real
        assert field.next(cell) == route[min(1, len(route) - 1)]
        paid = truth.price_along(route)
        assert float(paid) == pytest.approx(float(costs[cell]))
        most = truth.points if movement.one_step and truth.points else math.inf
        tied = [
            (99 if way is None else way, other)
            for way, other, price in truth.steps[cell]
            if price
            and min(price, most) + found.get((other, truth.after(0, way)), math.inf) == costs[cell]
        ]
        if len(route) > 1 and tied and all(price for *_, price in truth.steps[cell]):
            first, other = min(tied)  # links and leaps last
            assert route[1] in ([other] if first < 8 else [each for _, each in tied])
    board.block([cell for cell in board.grid if board.unit_at(cell) is None])
    assert field.stale


@given(boards(cells=49, free_steps=False), st.data())
def test_a_refreshed_field_is_one_made_anew(board, data):
    """Costs, next cells and goals alike, after edits of all kinds; the old field stays."""
    cells, movement = list(board.grid), board.unit("a").movement
    if data.draw(st.booleans()):
        for link in board.links():
            board.unlink(link.a, link.b, both=link.both)
        movement = dataclasses.replace(movement, leap=None)
    some = st.lists(st.sampled_from(cells), min_size=1, max_size=3)
    field = us.field(board, movement, data.draw(some), side="ours")
    for _ in range(3):
        before = field.plain(), [field.owner(cell) for cell in cells]
        spots = [cell for cell in data.draw(some) if board.unit_at(cell) is None]
        kind = data.draw(st.sampled_from(["paint", "raise", "block", "clear", "edge", "none"]))
        if kind == "paint":
            board.paint(data.draw(st.sampled_from(list(board.terrains))), spots)
        elif kind == "raise":
            board.set_elevation(data.draw(st.sampled_from([0, 0.5, 2])), spots)
        elif kind in ("block", "clear"):
            getattr(board, kind)(spots)
        elif kind == "edge":
            laid = data.draw(st.sampled_from(["wall", "road", "ditch", None]))
            for cell in spots:
                for other in board.grid.neighbors(cell):
                    if board.unit_at(other) is None:
                        board.set_edge(cell, other, laid)
        fresh, again = us.field(board, movement, field.goals, side="ours"), field.refreshed()
        assert (field.plain(), [field.owner(cell) for cell in cells]) == before
        assert again.plain() == fresh.plain()
        assert [again.owner(cell) for cell in cells] == [fresh.owner(cell) for cell in cells]
        assert not again.stale
        field = again


@given(st.data())
def test_where_many_ways_tie_a_refreshed_field_leads_to_the_same_goals(data):
    board = us.Board(us.SquareGrid(8, 7, diagonals=True), {"turf": 1, "mud": 2, "deep": None})
    cells = list(board.grid)
    some = st.lists(st.sampled_from(cells), min_size=2, max_size=4)
    board.paint("mud", data.draw(some))
    field = us.field(board, us.Movement(points=5), data.draw(some))
    for _ in range(4):
        board.paint(data.draw(st.sampled_from(["turf", "mud", "deep"])), data.draw(some))
        field, fresh = field.refreshed(), us.field(board, us.Movement(points=5), field.goals)
        assert field.plain() == fresh.plain()
        assert [field.owner(cell) for cell in cells] == [fresh.owner(cell) for cell in cells]


@pytest.mark.large
def test_a_field_on_a_wide_board_is_refreshed_as_if_made_anew():
    rng = np.random.default_rng(3)
    board = us.Board(us.HexGrid(200, 150), {"turf": 1, "mud": 2.5, "reeds": 1.75, "deep": None})
    for name in ("mud", "reeds", "deep"):
        board.paint(name, rng.random((150, 200)) < 0.2)
    field = us.field(board, us.Movement(points=5), [(3, 4), (190, 140), (20, 120)])
    for _ in range(12):
        board.paint(list(board.terrains)[rng.integers(4)], rng.integers((0, 0), (200, 150), (9, 2)))
        field, fresh = field.refreshed(), us.field(board, us.Movement(points=5), field.goals)
        assert np.array_equal(field.table(), fresh.table(), equal_nan=True)
        for cell in rng.integers((0, 0), (200, 150), (300, 2)).tolist():
            assert (field.next(cell), field.owner(cell)) == (fresh.next(cell), fresh.owner(cell))


def test_a_new_tie_passes_its_goal_on_to_who_goes_that_way():
    legend = {".": "turf", "%": "mud", "o": "deep"}
    rows = ["o...o%", "%..%%.", "......", "..%...", "......"]
    terrain = {"turf": 1, "mud": 2, "deep": None}
    board = us.maps.read_text(rows, legend, terrain, grid=us.SquareGrid)
    goals = [(5, 0), (3, 2)]
    field = us.field(board, us.Movement(points=5), goals)
    board.paint("turf", (5, 0))
    fresh, again = us.field(board, us.Movement(points=5), goals), field.refreshed()
    assert any(field.owner(cell) != fresh.owner(cell) for cell in board.grid)
    assert all(again.owner(cell) == fresh.owner(cell) for cell in board.grid)


def test_what_a_field_refuses_and_shows():
    board = us.Board(us.HexGrid(5, 2), {"turf": 1.5, "deep": None})
    board.paint("deep", [(2, 0), (2, 1)])
    field = us.field(board, us.Movement(points=2), [(0, 0), (2, 0)])
    assert field.overlay()[us.Cell(1, 0)].number == 1.5
    assert field.table()[0].tolist()[:2] == [0, 1.5]
    assert field.plain()["cells"][1] == {"cell": [1, 0], "cost": 1.5, "next": [0, 0]}
    for call, rule in (
        (lambda: us.field(board, "scout", [(0, 0)]), "movement: must name a unit"),
        (lambda: us.field(board, 3, [(0, 0)]), "movement: must be a Movement"),
        (lambda: us.field(board, us.Movement(1), []), "goals: must hold at least one"),
        (lambda: us.field(board, us.Movement(1), [(9, 9)]), "goals: must lie on the board"),
        (lambda: us.field("board", us.Movement(1), [(0, 0)]), "board: must be a Board"),
    ):
        with pytest.raises(us.errors.InputError, match=rule):
            call()
