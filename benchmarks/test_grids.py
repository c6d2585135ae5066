"""Timings of conversions and picking, one cell at a time and many at once.

``python -m pytest -n 0 benchmarks``
"""

import peers
import pytest

import understep as us

GRIDS = {
    "square": us.SquareGrid(100, 100),
    "hex": us.HexGrid(100, 100),
    "isometric": us.HexGrid(100, 100, frame=us.Frame(cell=(64, 32), projection="isometric")),
}


@pytest.fixture(params=GRIDS)
def grid(request):
    return GRIDS[request.param]


def test_convert_one(benchmark):
    benchmark(us.convert, (3, 4), "offset", "cube")


def test_convert_a_million(benchmark):
    benchmark(us.convert, peers.million_cells(), "offset", "cube")


def test_center_of_one(benchmark, grid):
    benchmark(grid.center, (3, 4))


def test_center_of_a_million(benchmark, grid):
    benchmark(grid.center, peers.million_cells())


def test_cell_at_one(benchmark, grid):
    assert benchmark(grid.cell_at, tuple(grid.center((3, 4)).tolist())) == (3, 4)


def test_cells_at_a_million(benchmark, grid):
    benchmark(grid.cells_at, grid.center(peers.million_cells()))


@pytest.mark.parametrize("name", ["ring", "disk"])
def test_around_one(benchmark, grid, name):
    benchmark(getattr(grid, name), (50, 50), 3)


def test_line(benchmark, grid):
    benchmark(grid.line, (3, 4), (90, 71))


def test_raised_pick(benchmark):
    board = us.Board(us.SquareGrid(100, 100, frame=us.Frame(cell=(64, 32), lift=16)), {"turf": 1})
    board.set_elevation(3, board.grid.disk((50, 50), 20))
    benchmark(board.cell_at, (3200, 1600))
