"""The layout: where the cells of a lattice lie in the world, and what lies at a point of it."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from understep.errors import InputError
from understep.grids.cell import CellsLike, IntArray, array_of, blocks, cells_array, plain_numbers
from understep.grids.frame import Frame
from understep.grids.lattice import MANY, ONE, FloatArray, Lattice
from understep.grids.numbering import Numbering

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
        corners, frame = lattice.corner_spots * self.spot, _sized(self.frame, lattice)
        self.cell_size: tuple[float, float] = frame._box(corners)
        #: The spot that lies at the origin, and in how many parts matrices count a spot.
        self._home, self._parts = (0, 0), (1, 1)
        rows = [1, -1 if frame.mirrored else 1]
        # no sines: columns and rows at whole multiples of the cell size, to the last bit
        if frame.projection == "plan" and frame.rotation == 0:
            sizes = np.array(self.cell_size) / lattice.units
            if self.frame.spacing is not None:  # the same of the spacing
                sizes, self._parts = np.array(self.frame.spacing), lattice.pitch
            matrix = np.diag(sizes) * [[1], [frame.down * rows[1]]]
        else:
            matrix = frame._matrix(corners) * self.spot * rows
        if self.frame.spacing is not None:
            self._home = lattice.spot(0, 0)
        # plain numbers: single cells are what is asked for most
        self._to = tuple(matrix.ravel().tolist())
        self._from = tuple(np.linalg.inv(matrix / self._parts).ravel().tolist())

    def place(self, u: Any, v: Any) -> tuple[Any, Any]:
        """Spots to world points; of numbers or arrays alike."""
        (x0, y0), (xu, xv, yu, yv) = self.frame.origin, self._to
        (u0, v0), (across, along) = self._home, self._parts
        u, v = u - u0, v - v0
        x = u * xu + v * xv if xv else u * xu / across
        y = u * yu + v * yv if yu else v * yv / along
        return x + x0, y + y0

    def unplace(self, x: Any, y: Any) -> tuple[Any, Any]:
        """World points to spots, moved by the hair that settles whose a border is."""
        (x0, y0), (ux, uy, vx, vy), (u0, v0) = self.frame.origin, self._from, self._home
        x, y = x - x0, y - y0
        u = (x * ux + y * uy if uy else x * ux) + u0
        v = (x * vx + y * vy if vx else y * vy) + v0
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
        array, around = cells_array(cells, "cells"), self.corner_spots
        u, v = self.lattice.spot(array[..., 0, None], array[..., 1, None])
        points = np.stack(self.place(u + around[:, 0], v + around[:, 1]), axis=-1)
        return self.lifted(points, array_of("level", level)[..., None])

    @property
    def corner_spots(self) -> IntArray:
        """The corners of a cell in spots from its center, clockwise as seen."""
        return self.lattice.corner_spots[:: -1 if self.frame.mirrored else 1]

    def depths(self, cells: IntArray) -> FloatArray:
        """How near cells ``(n, 2)`` are to the viewer, in regular cells; elevation left aside.

        Of two cells the one with the larger number lies in front.
        """
        found: FloatArray = self.lattice.spots(cells) * self.spot @ self._towards
        return found

    def nearer(self, moved: FloatArray) -> float:
        """By how much what moves on the ground by so many world units comes nearer."""
        back = np.array(self._from).reshape(2, 2) @ moved
        return float(back * self.spot @ self._towards)

    @property
    def _towards(self) -> FloatArray:
        """The direction of the ground that leads down the screen, of length 1."""
        down = np.array(self._from).reshape(2, 2) @ (0.0, self.frame.down) * self.spot
        found: FloatArray = down / np.hypot(*down)
        return found

    def pick(self, point: Any) -> tuple[int, int] | None:
        """The address of the cell whose polygon holds a world point; None where all are far."""
        try:
            x, y = point
            x, y = float(x + 0.0), float(y + 0.0)  # a sum, as texts could be read as numbers
        except (TypeError, ValueError, OverflowError):
            raise InputError("point", "must be two numbers (x, y)", point) from None
        if not (math.isfinite(x) and math.isfinite(y)):
            raise InputError("point", "must be finite", point)
        u, v = self.unplace(x, y)
        # whole numbers of so many digits are not exact any more
        if not (abs(u) < FAR and abs(v) < FAR):
            return None
        return self.lattice.pick(u, v, ONE)

    def pick_all(self, points: Any) -> IntArray:
        """The same for points ``(..., 2)``; those far off have addresses far off."""
        array = points_array(points)
        cells = np.empty(array.shape, dtype=np.int64)
        for part, room in blocks(array, cells):
            with np.errstate(over="ignore", invalid="ignore"):  # of points very far off
                u, v = self.unplace(part[:, 0], part[:, 1])
                total = u.sum() + v.sum()
            # (a sum is finite only if all are: cheaper than asking each)
            if not np.isfinite(total) or max(np.abs(u).max(), np.abs(v).max()) >= FAR:
                bad = ~np.isfinite(part).all(axis=1)
                if bad.any():
                    raise InputError("points", "must be finite", part[bad][0].tolist())
                u, v = (np.clip(np.nan_to_num(each, nan=FAR), -FAR, FAR) for each in (u, v))
            room[:, 0], room[:, 1] = self.lattice.pick(u, v, MANY)
        return cells

    def around(self, low: FloatArray, high: FloatArray, numbering: Numbering) -> IntArray:
        """The cells ``(n, 2)`` of a grid that lie in a box of the world, and some around it."""
        corners = [(x, y) for x in (low[0], high[0]) for y in (low[1], high[1])]
        spots = np.clip(np.array([self.unplace(*corner) for corner in corners]), -FAR, FAR)
        u, v = spots.T
        near = np.stack(self.lattice.pick(u, v, MANY), axis=-1)
        first = np.maximum(near.min(axis=0) - 2, numbering.first)
        last = np.minimum(near.max(axis=0) + 2, numbering.last)
        cols, rows = map(np.arange, first, last + 1)
        cells = np.stack(np.meshgrid(cols, rows), axis=-1).reshape(-1, 2)
        found: IntArray = cells[numbering.holds(cells)]
        return found

    def on_ground(self, cells: IntArray) -> tuple[tuple[FloatArray, FloatArray], FloatArray]:
        """How the world lies on regular ground, and the middles of cells there.

        World points, less the second array, times the first are points of the ground on which the
        neighbors of a cell lie 1 apart.
        """
        back = np.array(self._from).reshape(2, 2).T * self.spot
        home = np.array(self.place(0.0, 0.0))
        return (back, home), self.lattice.spots(cells) * self.spot

    def snap(self, point: NDArray[np.float64], cells: IntArray) -> IntArray:
        """The one of some cells ``(n, 2)`` whose middle is nearest to a world point."""
        spot = np.array(self.unplace(*point.tolist()))
        apart = ((self.lattice.spots(cells) - spot) * self.spot) ** 2
        found: IntArray = cells[int(apart.sum(axis=1).argmin())]
        return found


def _sized(frame: Frame, lattice: Lattice) -> Frame:
    """A frame with the size of a cell that its spacing makes."""
    if frame.spacing is None:
        return frame
    across, down = frame.spacing
    if frame.projection == "plan":
        (wide, high), (cols, rows) = lattice.units, lattice.pitch
        cell = across * wide / cols, down * high / rows
    else:  # a step of a column or row leads across and down
        middles = np.array([lattice.spot(0, 0), lattice.spot(2, 0), lattice.spot(0, 2)])
        box = replace(frame, spacing=None)
        corners = lattice.corner_spots * np.array(lattice.regular) / lattice.units
        steps = (middles[1:] - middles[0]) / 2 * np.array(lattice.regular) / lattice.units
        seen = np.abs(steps @ replace(box, rotation=0)._matrix(corners).T)
        width, height = box._box(corners)
        cell = across * width / float(seen[0, 0]), down * height / float(seen[1, 1])
    return replace(frame, spacing=None, cell=cell)


def points_array(points: Any, argument: str = "points") -> FloatArray:
    """World points as a float array ``(..., 2)``."""
    try:
        array = np.asarray(points)
    except ValueError:
        array = np.empty(0, dtype=object)
    if not array.size and array.ndim < 2 and array.dtype.kind == "f":
        return np.empty((0, 2))
    if array.dtype.kind not in "iuf" or array.ndim == 0 or array.shape[-1] != 2:
        raise InputError(argument, "must be numbers (..., 2), x and y", points)
    return array.astype(np.float64, copy=False)
