"""Timings of reach and route, for comparing one state of the code with another.

``python -m pytest -n 0 benchmarks``
"""

import peers
import pytest

import understep as us


@pytest.fixture(scope="module", params=[64, 256, 1000])
def board(request):
    return peers.fen(request.param)


def test_short_reach(benchmark, board):
    benchmark(peers.searched, board)


def test_flood(benchmark, board):
    benchmark(us.reach, board, "far")


@pytest.mark.parametrize("prefer", ["first", "straight", "direct"])
def test_route_across(benchmark, board, prefer):
    last = board.grid.bounds[1]
    assert benchmark(us.route, board, "far", last, prefer=prefer)


def test_edit_then_reach(benchmark, board):
    spot = board.unit("near").at

    def edit():
        board.paint("mud", (spot[0] + 1, spot[1]))
        return us.reach(board, "near")

    benchmark(edit)


def test_step_table_of_a_new_movement(benchmark, board):
    costs = iter(range(4, 10**6))

    def fresh():
        board.remove("near")
        middle = (board.grid.cols // 2, board.grid.rows // 2)
        movement = us.Movement(8, {"mud": next(costs)})
        board.add(us.Unit("near", "ours", movement), at=middle)
        return us.reach(board, "near")

    benchmark(fresh)
