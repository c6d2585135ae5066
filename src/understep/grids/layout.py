"""The world side of a grid: centers, corners, picking, and the box around them all."""

from __future__ import annotations

import math
from functools import cached_property
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from understep.errors import InputError
from understep.grids.cell import (
    Cell,
    CellsLike,
    IntArray,
    array_of,
    blocks,
    cells_array,
    plain_numbers,
)
from understep.grids.frame import Frame
from understep.grids.shape import GridShape

FloatArray = NDArray[np.float64]

# A picked point is moved by so much of a cell, so that every border has an owner.
RIGHT, DOWN = 1e-9, 8e-9
FAR = 1e15  # spots further off are on no board


class Maths(NamedTuple):
    """The functions that differ between one number and an array of them."""

    floor: Any
    rint: Any
    where: Any
    whole: Any


ONE = Maths(math.floor, round, lambda which, one, other: one if which else other, int)
MANY = Maths(np.floor, np.rint, np.where, lambda numbers: numbers.astype(np.int64))


class Box(NamedTuple):
    """A box in the world: its corner of least x and least y, and its size."""

    x: float
    y: float
    width: float
    height: float


class GridLayout(GridShape):
    """Where the cells of a grid lie.

    A *spot* is a pair of whole numbers ``(u, v)`` on which all centers and corners lie: columns
    and rows of half or quarter cells. Spots become world points by one affine map.
    """

    frame: Frame
    #: How many spots a regular cell's box spans, across and down.
    units: tuple[int, int]
    #: Width and height of the box around a regular cell, whose neighbors lie 1 apart.
    regular: tuple[float, float]
    #: Corners in spots from the center, clockwise; edge ``k`` faces the ``k``-th neighbor.
    corner_spots: IntArray

    def _spot(self, col: Any, row: Any) -> tuple[Any, Any]:
        """The spot of a center; of whole numbers or arrays alike."""
        raise NotImplementedError

    def _pick(self, u: Any, v: Any, maths: Maths) -> tuple[Any, Any]:
        """The cell that holds a place between spots; of numbers or arrays alike."""
        raise NotImplementedError

    def _set_frame(self, frame: Frame | None) -> None:
        """Take note of the frame, once."""
        if not isinstance(frame, Frame | None):
            raise InputError("frame", "must be a Frame", frame)
        self.frame = frame if frame is not None else Frame()
        spot = np.array(self.regular) / self.units
        corners = self.corner_spots * spot
        self.cell_size: tuple[float, float] = self.frame.box(corners)
        if self.frame.view == "plan" and self.frame.rotation == 0:
            matrix = np.diag(np.array(self.cell_size) / self.units) * [[1], [self.frame.down]]
        else:
            matrix = self.frame.matrix(corners) * spot
        self._to = tuple(matrix.ravel().tolist())
        self._from = tuple(np.linalg.inv(matrix).ravel().tolist())

    def _place(self, u: Any, v: Any) -> tuple[Any, Any]:
        """Spots to world points; of numbers or arrays alike."""
        (x0, y0), (xu, xv, yu, yv) = self.frame.origin, self._to
        x = u * xu + v * xv if xv else u * xu
        y = u * yu + v * yv if yu else v * yv
        return x + x0, y + y0

    def _unplace(self, x: Any, y: Any) -> tuple[Any, Any]:
        """World points to spots, moved by the hair that settles whose a border is."""
        (x0, y0), (ux, uy, vx, vy) = self.frame.origin, self._from
        x, y = x - x0, y - y0
        u = x * ux + y * uy if uy else x * ux
        v = x * vx + y * vy if vx else y * vy
        return u + RIGHT * self.units[0], v + DOWN * self.units[1]

    def center(self, cells: CellsLike, level: Any = 0.0) -> FloatArray:
        """World points of the middles of cells.

        Parameters
        ----------
        cells
            One cell, cells, or an integer array ``(..., 2)``; off the grid is fine.
        level
            Level of elevation, a number or an array ``(...)``. (A board knows its own.)

        Returns
        -------
        ndarray of float64, shape ``(..., 2)``
            x and y in world units. A new array.

        Raises
        ------
        CellError
            A value that is no cell.
        """
        pair = plain_numbers(cells)
        if pair is not None:
            found = np.array(self._place(*self._spot(*pair)))
        else:
            array = cells_array(cells, "cells")
            found = np.empty(array.shape, dtype=np.float64)
            for part, room in blocks(array, found):
                room[:, 0], room[:, 1] = self._place(*self._spot(part[:, 0], part[:, 1]))
        return self.lifted(found, level)

    def depths(self, cells: IntArray) -> FloatArray:
        """How near cells ``(n, 2)`` are to the viewer, in regular cells; elevation left aside.

        Measured on regular ground, along what the screen shows as straight down: there, and only
        there, does the order of the middles say which of two cells hides the other, however much
        the frame stretches and turns them.
        """
        size = np.array(self.regular) / self.units
        down = np.array(self._from).reshape(2, 2) @ (0.0, self.frame.down) * size
        spots = np.stack(self._spot(*cells.T), axis=-1)
        return (spots * size) @ (down / np.hypot(*down))  # type: ignore[no-any-return]

    def lifted(self, points: FloatArray, level: Any) -> FloatArray:
        """World points ``(..., 2)`` of level ground, moved as their level is seen; in place."""
        level = array_of("level", level)
        if level.dtype.kind not in "biuf":
            raise InputError("level", "must be numbers", level)
        if self.frame.lift and np.any(level):
            points[..., 1] -= self.frame.down * self.frame.lift * level
        return points

    def corners(self, cells: CellsLike, level: Any = 0.0) -> FloatArray:
        """World points of the corners of cells, clockwise as seen.

        Parameters
        ----------
        cells
            One cell, cells, or an integer array ``(..., 2)``; off the grid is fine.
        level
            Level of elevation, a number or an array ``(...)``. (A board knows its own.)

        Returns
        -------
        ndarray of float64, shape ``(..., 4 or 6, 2)``
            x and y in world units; a corner that cells share is the same to the last bit. A new
            array.

        Raises
        ------
        CellError
            A value that is no cell.
        """
        array = cells_array(cells, "cells")
        u, v = self._spot(array[..., 0, None], array[..., 1, None])
        points = self._place(u + self.corner_spots[:, 0], v + self.corner_spots[:, 1])
        return self.lifted(np.stack(points, axis=-1), array_of("level", level)[..., None])

    def cell_at(self, point: tuple[float, float]) -> Cell | None:
        """The cell whose polygon holds a world point; None off the grid.

        A point on a border belongs to the cell below it, on an upright border to the cell on the
        right: below and right on the unturned board, where rows count down. A border is as wide as
        some billionths of a cell.

        Parameters
        ----------
        point
            World point ``(x, y)``.

        Raises
        ------
        InputError
            ``point`` is not two finite numbers.

        Examples
        --------
        >>> import understep as us
        >>> grid = us.SquareGrid(4, 4)
        >>> grid.cell_at((2.0, 0.5)), grid.cell_at((4.0, 0.5))
        (Cell(col=2, row=0), None)
        """
        try:
            x, y = point
            x, y = float(x), float(y)
        except (TypeError, ValueError):
            raise InputError("point", "must be two numbers (x, y)", point) from None
        if not (math.isfinite(x) and math.isfinite(y)):
            raise InputError("point", "must be finite", point)
        u, v = self._unplace(x, y)
        if not (abs(u) < FAR and abs(v) < FAR):
            return None
        col, row = self._pick(u, v, ONE)
        return Cell(col, row) if self.has(col, row) else None

    def cells_at(self, points: Any) -> tuple[IntArray, NDArray[np.bool_]]:
        """The cells whose polygons hold world points; borders as in `cell_at`.

        Parameters
        ----------
        points
            Float array ``(..., 2)`` of x and y.

        Returns
        -------
        cells
            int64 array ``(..., 2)``; for points off the grid too, as if it had no end.
        inside
            Bool array ``(...)``: whether the cell is on the grid.

        Raises
        ------
        InputError
            ``points`` are not pairs of finite numbers.

        Examples
        --------
        >>> import understep as us
        >>> cells, inside = us.SquareGrid(4, 4).cells_at([(2.5, 0.5), (4.5, 0.5)])
        >>> cells.tolist(), inside.tolist()
        ([[2, 0], [4, 0]], [True, False])
        """
        array = points_array(points)
        cells = np.empty(array.shape, dtype=np.int64)
        for part, room in blocks(array, cells):
            u, v = self._unplace(part[:, 0], part[:, 1])
            # (a sum is finite only if all are: cheaper than asking each)
            if not np.isfinite(u.sum() + v.sum()) or max(np.abs(u).max(), np.abs(v).max()) >= FAR:
                bad = ~np.isfinite(part).all(axis=1)
                if bad.any():
                    raise InputError("points", "must be finite", part[bad][0].tolist())
                u, v = np.clip(u, -FAR, FAR), np.clip(v, -FAR, FAR)
            room[:, 0], room[:, 1] = self._pick(u, v, MANY)
        return cells, self.holds(cells)

    def snap(self, points: Any) -> FloatArray:
        """The center nearest to each world point, among the cells of the grid.

        A point on the grid goes to the center of its cell. Nearest is meant on the ground, as if
        cells were regular.

        Parameters
        ----------
        points
            One world point, or a float array ``(..., 2)``.

        Returns
        -------
        ndarray of float64, shape ``(..., 2)``
            A new array.

        Raises
        ------
        InputError
            ``points`` are not pairs of finite numbers.

        Examples
        --------
        >>> import understep as us
        >>> us.SquareGrid(4, 4).snap([(2.2, 0.9), (9, 1)]).tolist()
        [[2.5, 0.5], [3.5, 1.5]]
        """
        array = points_array(points)
        cells, inside = self.cells_at(array)
        size = np.array(self.regular) / self.units
        for place in np.argwhere(~inside):
            spot = np.array(self._unplace(*array[tuple(place)].tolist()))
            apart = ((self._rim_spots - spot) * size) ** 2
            cells[tuple(place)] = self._rim[int(apart.sum(axis=1).argmin())]
        return self.center(cells)

    @cached_property
    def _rim(self) -> IntArray:
        """The cells that have a neighbor off the grid."""
        cells = self.cells_of(self.existing)
        return cells[~self.holds(self.around(cells)).all(axis=1)]

    @cached_property
    def _rim_spots(self) -> FloatArray:
        return np.stack(self._spot(*self._rim.T), axis=-1).astype(np.float64)

    @cached_property
    def extent(self) -> Box:
        """The box around all cells in the world: the size of the canvas that holds them."""
        points = self.corners(self._rim).reshape(-1, 2)
        low, high = points.min(axis=0), points.max(axis=0)
        return Box(*low.tolist(), *(high - low).tolist())


def points_array(points: Any) -> FloatArray:
    """World points as a float array ``(..., 2)``."""
    try:
        array = np.asarray(points)
    except ValueError:
        array = np.empty(0, dtype=object)
    if not array.size and array.ndim < 2 and array.dtype.kind == "f":
        return np.empty((0, 2))
    if array.dtype.kind not in "iuf" or array.ndim == 0 or array.shape[-1] != 2:
        raise InputError("points", "must be numbers (..., 2), x and y", points)
    return array.astype(np.float64, copy=False)
