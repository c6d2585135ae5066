"""The peers of the benchmarks answer the same questions as the library, or a ratio says nothing."""

import numpy as np
import peers
import pytest
from scipy.sparse.csgraph import dijkstra

import understep as us


@pytest.fixture(scope="module", params=[24, 61])
def board(request):
    return peers.fen(request.param, seed=request.param)


def test_the_flood_finds_what_scipy_finds(board):
    start = board.grid.numbering.number(board.unit("far").at)
    costs = dijkstra(peers.csr(board), indices=start)
    mine = us.reach(board, "far").table().ravel()
    near = board.grid.numbering.number(board.unit("near").at)  # a friend: passed, not stopped on
    costs[near] = np.nan
    assert np.where(np.isfinite(costs), costs, np.nan) == pytest.approx(mine, nan_ok=True)


def test_the_short_reach_finds_what_heapq_finds(board):
    start = board.grid.numbering.number(board.unit("near").at)
    best = peers.heapq_flood(peers.adjacency(board), start, 8)
    reach = us.reach(board, "near")
    assert {board.grid.numbering.number(cell): reach[cell].cost for cell in reach} == best


@pytest.mark.parametrize("prefer", ["first", "straight", "direct"])
def test_the_star_finds_what_heapq_finds(board, prefer):
    goal = board.grid.bounds[1]
    places = list(map(tuple, board.grid.convert(board.grid.cells, "offset", "axial").tolist()))
    number = board.grid.numbering.number(goal)
    cost, way = peers.heapq_star(peers.adjacency(board), places, 0, number)
    route = us.route(board, "far", goal, prefer=prefer)
    assert (route.cost, way[0], way[-1]) == (cost, number, 0)
    assert len(route) >= board.grid.distance((0, 0), goal) + 1
