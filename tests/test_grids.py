"""Grids: coordinates, neighbors and the world, against geometry and round trips."""

import itertools

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from reference import KINDS, make_grid

import understep as us

TOPS = list(itertools.product(["pointy", "flat"], ["odd", "even"]))
SYSTEMS = ["offset", "axial", "cube", "doubled"]
numbers = st.integers(-(10**6), 10**6)


@pytest.mark.parametrize(("top", "shifted"), TOPS)
@given(cells=st.lists(st.tuples(numbers, numbers), min_size=1, max_size=5))
def test_every_system_goes_round(top, shifted, cells):
    how = {"top": top, "shifted": shifted}
    for source, target in itertools.product(SYSTEMS, SYSTEMS):
        there = us.convert(us.convert(cells, "offset", source, **how), source, target, **how)
        assert us.convert(there, target, "offset", **how).tolist() == list(map(list, cells))
        assert there.dtype == np.int64
        one = us.convert(us.convert(cells[0], "offset", source, **how), source, target, **how)
        assert one.tolist() == there[0].tolist()
    cube = us.convert(cells, "offset", "cube", **how)
    assert (us.round_cube(cube + np.array([0.3, -0.2, -0.1])) == cube).all()
    grid = us.HexGrid(3, 3, **how)
    middle, first = grid.center(cells), grid.center([(0, 0)])
    steps = cube - us.convert([(0, 0)], "offset", "cube", **how)
    across = np.array([(1, 0), (0.5, 3**0.5 / 2)])
    lie = steps[:, :2] @ (across if top == "pointy" else across[::-1, ::-1])
    assert np.allclose(middle, first + lie, atol=1e-4)


@pytest.mark.parametrize("kind", KINDS)
@given(data=st.data())
def test_geometry_agrees_with_the_world(kind, data):
    first = (data.draw(st.integers(-4, 4)), data.draw(st.integers(-4, 4)))
    cols, rows = data.draw(st.integers(1, 6)), data.draw(st.integers(1, 6))
    size = data.draw(st.sampled_from([None, (32, 24), (7.5, 20)]))
    frame = us.Frame(size, origin=data.draw(st.sampled_from([(0, 0), (-31.25, 8)])))
    grid = make_grid(kind, cols, rows, first)
    placed = type(grid)(cols, rows, first=first, frame=frame, **_own(grid))
    cells = list(grid.cells)
    assert (grid.size, len(cells)) == ((cols, rows), cols * rows)
    assert grid.bounds == (cells[0], cells[-1])
    here = data.draw(st.sampled_from(cells))
    far = np.hypot(*(grid.center(cells) - grid.center(here)).T)
    reach = 1.5 if kind == "square8" else 1.1
    near = {cell for cell, gap in zip(cells, far, strict=True) if 0.5 < gap < reach}
    assert set(grid.neighbors(here)) == near
    steps = {here: 0}
    for cell in (queue := [here]):
        for other in grid.neighbors(cell):
            if other not in steps:
                steps[other] = steps[cell] + 1
                queue.append(other)
    assert grid.distance(here, cells).tolist() == [steps[cell] for cell in cells]
    for way in grid.directions:
        there = grid.step(here, way)
        assert there is None or grid.direction(here, there) == way
    assert [placed.cell_at(point) for point in placed.center(cells)] == cells
    low, high = placed.corners(cells).min(axis=(0, 1)), placed.corners(cells).max(axis=(0, 1))
    x, y = (low + (high - low) * [data.draw(st.floats(-0.1, 1.1)) for _ in "xy"]).tolist()
    found = placed.cell_at((x, y))
    surely = [cell for cell in cells if _holds(placed.corners(cell), x, y, -1e-9)]
    perhaps = [cell for cell in cells if _holds(placed.corners(cell), x, y, 1e-9)]
    assert found == surely[0] if surely else found in [None, *perhaps]
    table = np.arange(cols * rows).reshape(rows, cols)
    assert table[grid.index(cells)].tolist() == list(range(cols * rows))


def _own(grid):
    if isinstance(grid, us.SquareGrid):
        return {"diagonals": grid.diagonals}
    return {"top": grid.top, "shifted": grid.shifted}


def _holds(corners, x, y, slack):
    """Whether a point lies in a convex polygon, made larger by some slack."""
    turns = [
        (bx - ax) * (y - ay) - (by - ay) * (x - ax)
        for (ax, ay), (bx, by) in zip(corners, np.roll(corners, -1, axis=0), strict=True)
    ]
    return min(turns) > -slack or max(turns) < slack


@pytest.mark.parametrize(
    ("call", "message"),
    [
        (
            lambda g: g.center((1.5, 2)),
            r"cells: cells are whole numbers, not float64; got \(1.5, 2\)",
        ),
        (lambda g: g.neighbors("b2"), r"cell: a cell is a pair of whole numbers"),
        (lambda g: g.neighbors((0.5, 1)), r"for a point of the world, ask cell_at"),
        (
            lambda g: g.neighbors((6, 0)),
            r"must lie on the board, \(0, 0\) to \(5, 4\); got \(6, 0\)",
        ),
        (lambda g: g.index([(0, 0), (0, 9)]), r"cells: must lie on the board.*got \(0, 9\)"),
        (lambda g: g.distance([(1, 2, 3)], (0, 0)), r"a: the last axis must have length 2"),
        (
            lambda g: g.convert([(1, 2, -3), (1, 1, 1)], "cube", "axial"),
            r"values\[1\].*\(1, 1, 1\)",
        ),
        (lambda g: g.convert((1, 0), "doubled", "offset"), r"doubled: .* got \(1, 0\)"),
        (lambda g: g.convert((1, 0), "ofset", "cube"), "did you mean 'offset'"),
        (lambda g: g.step((0, 0), "nw"), "direction"),
        (lambda g: g.cell_at("here"), "must be two numbers"),
        (lambda g: us.round_cube((0.5, 0.5, 0.5)), "finite and 0"),
        (lambda g: us.HexGrid(0, 3), "cols: must be a whole number, 1 or more; got 0"),
        (lambda g: us.HexGrid(3, 3, top="flatt"), "did you mean 'flat'"),
        (lambda g: us.Frame(cell=(0, 1)), "width and height must be above 0"),
    ],
)
def test_bad_input_is_named(call, message):
    with pytest.raises(us.InputError, match=message):
        call(us.HexGrid(6, 5))


@pytest.mark.parametrize("kind", KINDS)
@given(col=st.integers(-5, 5), row=st.integers(-5, 5), n=st.integers(0, 6))
def test_directions_lead_round_and_back(kind, col, row, n):
    grid = make_grid(kind, 60, 60, (-30, -30))
    start, ways = us.Cell(col, row), len(grid.directions)
    for number, name in enumerate(grid.directions):
        there = grid.step(start, name, n)
        assert there == grid.step(start, number, n)
        assert grid.distance(start, there) == n
        assert grid.step(there, (number + ways // 2) % ways, n) == start
        x, y = grid.center(there) - grid.center(start)
        assert (y < -1e-9) == ("N" in name and n > 0)
        assert (x > 1e-9) == ("E" in name and n > 0)
        assert (y > 1e-9) == ("S" in name and n > 0)
        assert (x < -1e-9) == ("W" in name and n > 0)
    here = start
    for name in grid.directions:
        here = grid.step(here, name, n)
    assert here == start
    assert grid.step((29, 29), "E" if "E" in grid.directions else "SE", 1) is None
    assert [start in grid, None in grid, (99, 0) in grid, "ab" in grid] == [True] + [False] * 3
    assert (0.5, 0) not in grid
