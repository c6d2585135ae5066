"""Shapes in the world, for `cover`: circles, boxes, polygons, strips and bitmaps, by shapely."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

import numpy as np

from understep.errors import ABOVE_ZERO, InputError, MissingExtraError, real
from understep.grids.cell import array_of
from understep.grids.world import FloatArray, points_array

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
        A center that is no point, or a radius that is not above 0.

    Examples
    --------
    >>> import understep as us
    >>> us.cover(us.SquareGrid(5, 5), us.circle((2.5, 2.5), 1.2), rule="center")
    Cells([(2, 1), (1, 2), (2, 2), (3, 2), (2, 3)], 5)
    """
    found = shapely()
    return found.Point(_points([center], 1)[0]).buffer(_size(radius, "radius"), SEGMENTS)


def box(a: tuple[float, float], b: tuple[float, float]) -> Any:
    """The box between two opposite corners ``a`` and ``b``.

    Raises
    ------
    InputError
        A corner that is no point.

    Examples
    --------
    >>> import understep as us
    >>> len(us.cover(us.SquareGrid(5, 5), us.box((1, 1), (3, 3))))
    4
    """
    found = shapely()
    (ax, ay), (bx, by) = _points([a, b], 2).tolist()
    return found.box(min(ax, bx), min(ay, by), max(ax, bx), max(ay, by))


def polygon(points: Any, holes: Iterable[Any] = ()) -> Any:
    """A polygon, perhaps with holes: points once around, the first need not come again.

    Raises
    ------
    InputError
        Fewer than three corners, or a border that crosses itself.

    Examples
    --------
    >>> import understep as us
    >>> us.cover(us.SquareGrid(5, 5), us.polygon([(0, 0), (2, 0), (0, 2)]), rule=0.5)
    Cells([(0, 0), (1, 0), (0, 1)], 3)
    """
    found = shapely()
    made = found.Polygon(_points(points, 3), [_points(hole, 3) for hole in holes])
    if not made.is_valid or made.is_empty:
        rule = (
            f"must be a polygon whose border does not cross itself ({found.is_valid_reason(made)})"
        )
        raise InputError("points", rule, points)
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
    >>> us.cover(us.SquareGrid(5, 5), us.strip([(0.5, 0.5), (2.5, 0.5)], width=0.2))
    Cells([(0, 0), (1, 0), (2, 0)], 3)
    """
    found = shapely()
    return found.LineString(_points(points, 2)).buffer(_size(width, "width") / 2, SEGMENTS)


def bitmap(
    pixels: Any, origin: tuple[float, float] = (0.0, 0.0), pixel: tuple[float, float] = (1.0, 1.0)
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
    >>> pond = us.bitmap([[True, True], [False, True]], origin=(1, 1), pixel=(0.5, 0.5))
    >>> us.cover_shares(us.SquareGrid(3, 3), pond)[1].tolist()
    [0.0, 0.75, 0.0]
    """
    found = shapely()
    mask = array_of("pixels", pixels)
    if mask.dtype != np.bool_ or mask.ndim != 2:
        raise InputError("pixels", "must be true and false, (rows, cols)", mask.shape)
    (x, y), (wide, high) = _points([origin, pixel], 2).tolist()
    if not (wide and high):
        raise InputError("pixel", "must not be 0", pixel)
    rows, cols = np.nonzero(mask)
    xs = np.sort([x + cols * wide, x + (cols + 1) * wide], axis=0)
    ys = np.sort([y + rows * high, y + (rows + 1) * high], axis=0)
    return found.union_all(found.box(xs[0], ys[0], xs[1], ys[1]))


def _points(points: Any, least: int) -> FloatArray:
    array = points_array(points)
    if array.ndim != 2 or len(array) < least or not np.isfinite(array).all():
        raise InputError("points", f"must be at least {least} finite points (x, y)", points)
    return array


def _size(value: Any, argument: str) -> float:
    return real(argument, value, "must be a number above 0", ABOVE_ZERO)
