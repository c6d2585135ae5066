"""The layout: where the cells of a lattice lie in the world, and what lies at a point of it."""

from __future__ import annotations

import math
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from understep.errors import InputError
from understep.grids.cell import CellsLike, IntArray, array_of, blocks, cells_array, plain_numbers
from understep.grids.frame import Frame
from understep.grids.lattice import MANY, ONE, FloatArray, Lattice

# A picked point is moved by so much of a cell, so that every border has an owner.
RIGHT, DOWN = 1e-9, 8e-9
FAR = 1e15  # spots further off are on no board


class Box(NamedTuple):
    """A box in the world: its corner of least x and least y, and its size."""

    x: float
    y: float
    width: float
    height: float


class Layout:
    """A lattice laid out by a frame."""

    def __init__(self, lattice: Lattice, frame: Frame | None) -> None:
        if not isinstance(frame, Frame | None):
            raise InputError("frame", "must be a Frame", frame)
        self.lattice = lattice
        self.frame = frame if frame is not None else Frame()
        #: Width and height of a spot, in regular cells.
        self.spot = np.array(lattice.regular) / lattice.units
        corners = lattice.corner_spots * self.spot
        self.cell_size: tuple[float, float] = self.frame.box(corners)
        # no sines: columns and rows at whole multiples of the cell size, to the last bit
        if self.frame.projection == "plan" and self.frame.rotation == 0:
            matrix = np.diag(np.array(self.cell_size) / lattice.units) * [[1], [self.frame.down]]
        else:
            matrix = self.frame.matrix(corners) * self.spot
        self._to = tuple(matrix.ravel().tolist())
        self._from = tuple(np.linalg.inv(matrix).ravel().tolist())

    def place(self, u: Any, v: Any) -> tuple[Any, Any]:
        """Spots to world points; of numbers or arrays alike."""
        (x0, y0), (xu, xv, yu, yv) = self.frame.origin, self._to
        x = u * xu + v * xv if xv else u * xu
        y = u * yu + v * yv if yu else v * yv
        return x + x0, y + y0

    def unplace(self, x: Any, y: Any) -> tuple[Any, Any]:
        """World points to spots, moved by the hair that settles whose a border is."""
        (x0, y0), (ux, uy, vx, vy) = self.frame.origin, self._from
        x, y = x - x0, y - y0
        u = x * ux + y * uy if uy else x * ux
        v = x * vx + y * vy if vx else y * vy
        return u + RIGHT * self.lattice.units[0], v + DOWN * self.lattice.units[1]

    def lifted(self, points: FloatArray, level: Any) -> FloatArray:
        """World points ``(..., 2)`` of level terrain, moved as their level is seen; in place."""
        level = array_of("level", level)
        if level.dtype.kind not in "biuf":
            raise InputError("level", "must be numbers", level)
        if self.frame.lift and np.any(level):
            points[..., 1] -= self.frame.down * self.frame.lift * level
        return points

    def center(self, cells: CellsLike, level: Any = 0.0) -> FloatArray:
        """World points of the middles of cells."""
        pair = plain_numbers(cells)
        if pair is not None:
            found = np.array(self.place(*self.lattice.spot(*pair)))
        else:
            array = cells_array(cells, "cells")
            found = np.empty(array.shape, dtype=np.float64)
            for part, room in blocks(array, found):
                room[:, 0], room[:, 1] = self.place(*self.lattice.spot(part[:, 0], part[:, 1]))
        return self.lifted(found, level)

    def corners(self, cells: CellsLike, level: Any = 0.0) -> FloatArray:
        """World points of the corners of cells, clockwise as seen."""
        array, around = cells_array(cells, "cells"), self.lattice.corner_spots
        u, v = self.lattice.spot(array[..., 0, None], array[..., 1, None])
        points = np.stack(self.place(u + around[:, 0], v + around[:, 1]), axis=-1)
        return self.lifted(points, array_of("level", level)[..., None])

    def depths(self, cells: IntArray) -> FloatArray:
        """How near cells ``(n, 2)`` are to the viewer, in regular cells; elevation left aside.

        Of two cells the one with the larger number lies in front.
        """
        down = np.array(self._from).reshape(2, 2) @ (0.0, self.frame.down) * self.spot
        spots = self.lattice.spots(cells) * self.spot
        return spots @ (down / np.hypot(*down))  # type: ignore[no-any-return]

    def pick(self, point: Any) -> tuple[int, int] | None:
        """The address of the cell whose polygon holds a world point; None where all are far."""
        try:
            x, y = point
            x, y = float(x), float(y)
        except (TypeError, ValueError):
            raise InputError("point", "must be two numbers (x, y)", point) from None
        if not (math.isfinite(x) and math.isfinite(y)):
            raise InputError("point", "must be finite", point)
        u, v = self.unplace(x, y)
        if not (abs(u) < FAR and abs(v) < FAR):
            return None
        return self.lattice.pick(u, v, ONE)

    def pick_all(self, points: Any) -> IntArray:
        """The same for points ``(..., 2)``; those far off have addresses far off."""
        array = points_array(points)
        cells = np.empty(array.shape, dtype=np.int64)
        for part, room in blocks(array, cells):
            u, v = self.unplace(part[:, 0], part[:, 1])
            # (a sum is finite only if all are: cheaper than asking each)
            if not np.isfinite(u.sum() + v.sum()) or max(np.abs(u).max(), np.abs(v).max()) >= FAR:
                bad = ~np.isfinite(part).all(axis=1)
                if bad.any():
                    raise InputError("points", "must be finite", part[bad][0].tolist())
                u, v = np.clip(u, -FAR, FAR), np.clip(v, -FAR, FAR)
            room[:, 0], room[:, 1] = self.lattice.pick(u, v, MANY)
        return cells

    def snap(self, point: NDArray[np.float64], cells: IntArray) -> IntArray:
        """The one of some cells ``(n, 2)`` whose middle is nearest to a world point."""
        spot = np.array(self.unplace(*point.tolist()))
        apart = ((self.lattice.spots(cells) - spot) * self.spot) ** 2
        found: IntArray = cells[int(apart.sum(axis=1).argmin())]
        return found


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
