"""Cover: against dense sampling of points, and shapes that only share a border."""

import math
import warnings

import numpy as np
import pytest
from geometry import depth_in, frames, grids, make_grid, middle, outline
from hypothesis import given
from hypothesis import strategies as st
from samples import examples

import understep as us


@st.composite
def shapes(draw, grid):
    """A shape somewhere on a grid, and a function of how deep a point lies in it (below 0: not)."""
    x, y, wide, high = grid.extent
    share = st.floats(0, 1)
    point = (x + wide * draw(share), y + high * draw(share))
    size = draw(st.floats(0.1, 1)) * (wide + high) / 2
    kind = draw(st.sampled_from(["circle", "box", "polygon", "strip", "bitmap"]))
    if kind == "circle":
        return us.shapes.circle(point, size), lambda p: size - math.dist(p, point)
    if kind == "strip":
        other = (point[0] + size, point[1])
        near = lambda p: (min(max(p[0], point[0]), other[0]), point[1])  # noqa: E731
        return us.shapes.strip([point, other], size / 2), lambda p: size / 4 - math.dist(p, near(p))
    border = [point, (point[0] + size, point[1]), (point[0] + size, point[1] + size / 2)]
    border.append((point[0], border[2][1]))
    long = 1.5 * size / 2
    if kind == "box":
        return us.shapes.box(border[2], border[0]), lambda p: depth_in(border, p) * long
    if kind == "bitmap":
        made = us.shapes.bitmap(
            np.ones((2, 3), bool), origin=border[3], pixel=(size / 3, -size / 4)
        )
        return made, lambda p: depth_in(border, p) * long
    border = border[:3]
    return us.shapes.polygon(border), lambda p: depth_in(border, p) * long


@examples(2)
@given(grid=grids(cells=16, frame=frames()), data=st.data())
def test_covered_is_what_sampling_says(grid, data):
    shape, depth = data.draw(shapes(grid))
    with warnings.catch_warnings():
        warnings.simplefilter("ignore", us.errors.CoverWarning)
        touched, middles = us.shapes.cover(grid, shape), us.shapes.cover(grid, shape, rule="center")
        half = us.shapes.cover(grid, shape, rule=0.5)
        deep = us.shapes.cover(grid, shape, shrink=0.1 * min(grid.cell_size))
    shares = us.shapes.cover_shares(grid, shape)
    assert shares.shape == grid.exists.shape
    fine = 1e-3 * max(grid.cell_size)
    rng = np.random.default_rng(1)
    for cell in grid:
        corners = np.array(outline(grid, cell))
        center = middle(grid, cell)
        weights = rng.dirichlet(np.full(len(corners), 0.6), 300)  # points all over the polygon
        inside = [depth(point) for point in weights @ corners]
        if max(inside) > fine:
            assert cell in touched
        if abs(depth(center)) > fine:
            assert (cell in middles) == (depth(center) > 0)
        share = shares[grid.index(cell)]
        assert (cell in half) == (share >= 0.5 - 1e-9)
        if share > 1 - 1e-9:
            assert min(inside) > -fine
        if share < 1e-9 and cell not in touched:
            assert max(inside) < fine
    assert set(deep) <= set(touched)
    assert set(middles) | set(half) <= set(touched)


@pytest.mark.parametrize("kind", ["square4", "pointy-odd", "flat-even"])
@given(col=st.integers(1, 5), row=st.integers(1, 5), frame=frames())
def test_the_polygon_of_a_cell_covers_just_that_cell(kind, col, row, frame):
    grid = make_grid(kind, 7, 7, frame=frame)
    shape = us.shapes.polygon(grid.corners((col, row)))
    for rule in ("touch", "center", 0.01, 1):
        assert list(us.shapes.cover(grid, shape, rule=rule)) == [(col, row)]
    assert us.shapes.cover_shares(grid, shape).sum() == pytest.approx(1)
    world = [(-1e5, -1e5), (1e5, -1e5), (1e5, 1e5), (-1e5, 1e5)]
    holed = us.shapes.polygon(world, holes=[grid.corners((col, row))])
    assert set(grid) - set(us.shapes.cover(grid, holed)) == {(col, row)}


def test_everything_and_nothing_are_warned_of():
    grid = us.SquareGrid(4, 4)
    with pytest.warns(us.errors.CoverWarning, match="covers no cell"):
        assert len(us.shapes.cover(grid, us.shapes.circle((50, 50), 1))) == 0
    with pytest.warns(us.errors.CoverWarning, match="covers every cell"):
        assert len(us.shapes.cover(grid, [(-1, -1), (9, -1), (9, 9), (-1, 9)])) == 16
    board = us.Board(grid, {"turf": 1, "ruin": None})
    board.paint("ruin", us.shapes.cover(grid, us.shapes.strip([(0.5, 0.5), (3.5, 3.5)], 0.2)))
    assert board.terrain((2, 2)) == "ruin"


@pytest.mark.parametrize(
    ("call", "message"),
    [
        (
            lambda g: us.shapes.cover(g, us.shapes.circle((0, 0), 1), rule="centre"),
            "rule: must be 'touch'",
        ),
        (
            lambda g: us.shapes.cover(g, us.shapes.circle((0, 0), 1), rule=0),
            "rule: must be 'touch'",
        ),
        (
            lambda g: us.shapes.cover(g, us.shapes.circle((0, 0), 1), shrink=-1),
            "shrink: must be a number of 0",
        ),
        (
            lambda g: us.shapes.cover(us.Board(g, {"t": 1}), us.shapes.circle((0, 0), 1)),
            "grid: must be",
        ),
        (lambda g: us.shapes.cover(g, [(0, 0), (1, 1)]), "shape: must be at least 3"),
        (
            lambda g: us.shapes.polygon([(0, 0), (1, 1), (1, 0), (0, 1)]),
            "border does not cross itself",
        ),
        (lambda g: us.shapes.circle((0, 0), 0), "radius: must be a number above 0"),
        (lambda g: us.shapes.strip([(0, 0)], 1), "points: must be at least 2"),
        (lambda g: us.shapes.bitmap([[1, 0]]), "pixels: must be true and false"),
        (lambda g: us.shapes.bitmap([[True]], pixel=(0, 1)), "pixel: must not be 0"),
        (lambda g: us.shapes.cover(g, us.shapes.bitmap([[False]])), "shape: must not be empty"),
    ],
)
def test_bad_input_is_named(call, message):
    with pytest.raises(us.errors.InputError, match=message):
        call(us.HexGrid(6, 5))


@pytest.mark.parametrize("kind", ["square4", "pointy-odd", "flat-even"])
def test_a_corner_alone_is_not_in_the_circle_and_shapes_are_taken_together(kind):
    grid = make_grid(kind, 6, 5, frame=us.Frame(cell=(40, 20), rotation=30, rows="up"))
    tip, middle = grid.corners((2, 2))[0], grid.center((4, 3))
    near = us.shapes.circle(tuple(tip), 0.5)
    assert (2, 2) in us.shapes.cover(grid, near)
    with pytest.warns(us.errors.CoverWarning):
        assert not us.shapes.cover(grid, near, rule="circle")
    spot = us.shapes.circle(tuple(middle), 1)
    assert us.shapes.cover(grid, spot, rule="circle") == [(4, 3)]
    both = us.shapes.cover(grid, [near, spot])
    assert set(both) == {*us.shapes.cover(grid, near), *us.shapes.cover(grid, spot)}
    with pytest.raises(us.errors.InputError, match="shape: must not be empty"):
        us.shapes.cover(grid, [us.shapes.circle((0, 0), 1).buffer(-2)])
