"""Shapes in the world, and the cells that they cover, by shapely."""

from __future__ import annotations

import warnings
from collections.abc import Iterable
from typing import Any

import numpy as np

from understep.checks import ABOVE_ZERO, items, real
from understep.errors import CoverWarning, InputError, MissingExtraError
from understep.grids.cell import Cells, IntArray, array_of
from understep.grids.grid import Grid
from understep.grids.lattice import FloatArray
from understep.grids.layout import points_array

BORDER = 1e-9  # of a cell: what lies no deeper in it than this merely shares its border
FARTHEST = 10**12  # larger numbers would overflow where areas are worked out
SEGMENTS = 64  # straight pieces of a quarter of a circle: off by less than 0.0001 of its radius


def shapely() -> Any:
    """The library that works out overlaps; loaded at first use."""
    try:
        import shapely as found
    except ImportError:
        raise MissingExtraError("working with shapes", "shapes") from None
    return found


def circle(center: tuple[float, float], radius: float) -> Any:
    """A disk of some radius around a center in the world, as a polygon of 256 corners.

    Raises
    ------
    InputError
        A center that is not a point, or a radius that is not above 0.

    Examples
    --------
    >>> import understep as us
    >>> us.shapes.cover(us.SquareGrid(5, 5), us.shapes.circle((2.5, 2.5), 1.2), rule="center")
    Cells([(2, 1), (1, 2), (2, 2), (3, 2), (2, 3)])
    """
    found = shapely()
    return found.Point(_point(center, "center")).buffer(_size(radius, "radius"), SEGMENTS)


def box(a: tuple[float, float], b: tuple[float, float]) -> Any:
    """The box between two opposite corners ``a`` and ``b``.

    Raises
    ------
    InputError
        A corner that is not a point.

    Examples
    --------
    >>> import understep as us
    >>> len(us.shapes.cover(us.SquareGrid(5, 5), us.shapes.box((1, 1), (3, 3))))
    4
    """
    found = shapely()
    (ax, ay), (bx, by) = _point(a, "a"), _point(b, "b")
    return found.box(min(ax, bx), min(ay, by), max(ax, bx), max(ay, by))


def polygon(points: Any, *, holes: Iterable[Any] = ()) -> Any:
    """A polygon, perhaps with holes: points once around, the first need not come again.

    Raises
    ------
    InputError
        Fewer than three corners, a border that crosses itself, or holes that are no polygons.

    Examples
    --------
    >>> import understep as us
    >>> us.shapes.cover(us.SquareGrid(5, 5), us.shapes.polygon([(0, 0), (2, 0), (0, 2)]), rule=0.5)
    Cells([(0, 0), (1, 0), (0, 1)])
    """
    inner = items("holes", holes, "must be polygons, each the points once around")
    return _polygon(points, [_points(hole, 3, "holes") for hole in inner], "points")


def _polygon(points: Any, holes: list[FloatArray], argument: str) -> Any:
    found = shapely()
    made = found.Polygon(_points(points, 3, argument), holes)
    if not made.is_valid or made.is_empty:
        rule = (
            f"must be a polygon whose border does not cross itself ({found.is_valid_reason(made)})"
        )
        raise InputError(argument, rule, points)
    return made


def strip(points: Any, width: float) -> Any:
    """A strip of some width along a line through points: a hedge, a river.

    Raises
    ------
    InputError
        Fewer than two points, or a width that is not above 0.

    Examples
    --------
    >>> import understep as us
    >>> us.shapes.cover(us.SquareGrid(5, 5), us.shapes.strip([(0.5, 0.5), (2.5, 0.5)], width=0.2))
    Cells([(0, 0), (1, 0), (2, 0)])
    """
    found = shapely()
    return found.LineString(_points(points, 2)).buffer(_size(width, "width") / 2, SEGMENTS)


def bitmap(
    pixels: Any,
    *,
    origin: tuple[float, float] = (0.0, 0.0),
    pixel: tuple[float, float] = (1.0, 1.0),
) -> Any:
    """The area of the true pixels of a bitmap.

    Parameters
    ----------
    pixels
        True and false, ``(rows, cols)``.
    origin
        World point of the corner of the first pixel.
    pixel
        How far in x and in y a pixel reaches; a negative number goes the other way.

    Raises
    ------
    InputError
        Pixels that are not true and false, or a size of 0.

    Examples
    --------
    >>> import understep as us
    >>> pond = us.shapes.bitmap([[True, True], [False, True]], origin=(1, 1), pixel=(0.5, 0.5))
    >>> us.shapes.cover_shares(us.SquareGrid(3, 3), pond)[1].tolist()
    [0.0, 0.75, 0.0]
    """
    found = shapely()
    mask = array_of("pixels", pixels)
    if mask.dtype != np.bool_ or mask.ndim != 2:
        raise InputError("pixels", "must be true and false, (rows, cols)", mask.shape)
    (x, y), (wide, high) = _point(origin, "origin"), _point(pixel, "pixel")
    if not (wide and high):
        raise InputError("pixel", "must not be 0", pixel)
    rows, cols = np.nonzero(mask)
    xs = np.sort([x + cols * wide, x + (cols + 1) * wide], axis=0)
    ys = np.sort([y + rows * high, y + (rows + 1) * high], axis=0)
    return found.union_all(found.box(xs[0], ys[0], xs[1], ys[1]))


def _points(points: Any, least: int, argument: str = "points") -> FloatArray:
    array = points_array(points, argument)
    if array.ndim != 2 or len(array) < least or not (np.abs(array) <= FARTHEST).all():
        rule = f"must be at least {least} points (x, y), with numbers up to 10**12"
        raise InputError(argument, rule, points)
    return array


def _point(point: Any, argument: str) -> list[float]:
    """The x and y of one point."""
    array = points_array(point, argument)
    if array.ndim != 1 or not (np.abs(array) <= FARTHEST).all():
        raise InputError(argument, "must be a point (x, y), with numbers up to 10**12", point)
    found: list[float] = array.tolist()
    return found


def _size(value: Any, argument: str) -> float:
    return real(argument, value, "must be a number above 0, up to 10**12", ABOVE_ZERO, FARTHEST)


def cover(grid: Grid, shape: Any, *, rule: str | float = "touch", shrink: float = 0.0) -> Cells:
    """The cells that a shape covers, by their exact polygons, elevation left aside.

    Parameters
    ----------
    grid
        The grid, with its frame.
    shape
        What `circle`, `box`, `polygon`, `strip` or `bitmap` made, any geometry of shapely, the
        corners of a polygon ``(n, 2)``, or a list of geometries, taken together; in world
        coordinates. It takes the time of the cells around it, however large the grid is.
    rule
        ``"touch"``: every cell that the shape reaches into; one that only shares a border with it
        is not covered. ``"circle"``: those into whose inscribed circle it reaches (as the circle
        lies on the ground), so that a corner alone does not count. ``"center"``: those whose center
        lies in it or on its border. A number above 0, up to 1: those of which at least this share
        is covered.
    shrink
        With "touch": how far the shape must reach into a cell, in world units.

    Returns
    -------
    Cells
        Row by row.

    Warns
    -----
    CoverWarning
        No cell is covered, or every one.

    Raises
    ------
    InputError
        No shape, no rule, or a shrink that is not a number of 0 or more.
    MissingExtraError
        shapely is not installed.

    Examples
    --------
    >>> import understep as us
    >>> grid = us.HexGrid(6, 6, frame=us.Frame(cell=(64, 56)))
    >>> pond = us.shapes.circle((180, 140), 60)
    >>> len(us.shapes.cover(grid, pond)), len(us.shapes.cover(grid, pond, rule=0.5))
    (10, 4)
    """
    shrink = real("shrink", shrink, "must be a number of 0 or more, up to 10**12", 0, FARTHEST)
    if not (isinstance(rule, str) and rule in ("touch", "circle", "center")):
        words = "must be 'touch', 'circle', 'center' or a number above 0, up to 1"
        rule = real("rule", rule, words, ABOVE_ZERO, 1)
    area, cells = _candidates(grid, shape)
    found = shapely()
    if rule == "center":
        x, y = grid.center(cells).T
        covered = found.intersects_xy(area, x, y)
    elif rule == "circle":
        ground, middles = grid.layout.on_ground(cells)
        flat = found.transform(area, lambda points: (points - ground[1]) @ ground[0])
        covered = found.distance(flat, found.points(middles)) < 0.5 * (1 - 2 * BORDER)
    elif rule == "touch":
        corners, centers = grid.corners(cells), grid.center(cells)[:, None]
        inner = found.polygons(centers + (corners - centers) * (1 - 2 * BORDER))
        if shrink:
            inner = found.buffer(inner, -shrink, join_style="mitre")
        covered = found.intersects(area, inner)
    else:
        covered = _shares(grid, area, cells) >= float(rule) - BORDER
    if not covered.any() or covered.sum() == len(grid):
        what = "every cell" if covered.any() else "no cell"
        warnings.warn(f"the shape covers {what} of the grid", CoverWarning, stacklevel=2)
    return Cells(cells[covered])


def cover_shares(grid: Grid, shape: Any) -> FloatArray:
    """The share of every cell that a shape covers.

    Parameters
    ----------
    grid, shape
        As in `cover`.

    Returns
    -------
    ndarray of float64, shape ``(rows, cols)``
        From 0 to 1; 0 in holes of the grid. A new array.

    Raises
    ------
    InputError
        No shape.
    MissingExtraError
        shapely is not installed.

    Examples
    --------
    >>> import understep as us
    >>> us.shapes.cover_shares(us.SquareGrid(3, 1), us.shapes.box((0.5, 0), (2, 0.5))).tolist()
    [[0.25, 0.5, 0.0]]
    """
    area, cells = _candidates(grid, shape)
    table = np.zeros((grid.rows, grid.cols))
    table[grid.index(cells)] = _shares(grid, area, cells)
    return table


def _candidates(grid: Grid, shape: Any) -> tuple[Any, IntArray]:
    """The shape as a geometry, made ready, and the cells that lie near it."""
    if not isinstance(grid, Grid):
        raise InputError("grid", "must be a SquareGrid or HexGrid", grid)
    found = shapely()
    many = isinstance(shape, list | tuple) and len(shape) > 0
    if many and all(isinstance(each, found.Geometry) for each in shape):
        shape = found.union_all(shape)
    area = shape if isinstance(shape, found.Geometry) else _polygon(shape, [], "shape")
    if area.is_empty or not area.is_valid:
        raise InputError("shape", "must not be empty, nor cross itself", str(area)[:60])
    found.prepare(area)
    reach = np.ptp(grid.corners((0, 0)), axis=0)
    low, high = np.array(area.bounds).reshape(2, 2)
    cells = grid.layout.around(low, high, grid.numbering)
    centers = grid.center(cells)
    near = ((centers >= low - reach) & (centers <= high + reach)).all(axis=1)
    return area, cells[near]


def _shares(grid: Grid, area: Any, cells: IntArray) -> FloatArray:
    found = shapely()
    polygons = found.polygons(grid.corners(cells))
    shares: FloatArray = found.area(found.intersection(polygons, area)) / found.area(polygons)
    return np.clip(shares, 0.0, 1.0)


__all__ = ["bitmap", "box", "circle", "cover", "cover_shares", "polygon", "strip"]


def __dir__() -> list[str]:
    return __all__
