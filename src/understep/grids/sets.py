"""Sets of cells with a shape: rings, disks, lines, cones, and patterns turned and mirrored."""

from __future__ import annotations

import math
from functools import cached_property
from typing import Any

import numpy as np

from understep.errors import NoRoomError, real, whole
from understep.grids.cell import (
    Cell,
    CellLike,
    Cells,
    CellsLike,
    IntArray,
    cells_array,
    near_cell,
    one_cell,
)
from understep.grids.layout import FloatArray, GridLayout
from understep.grids.outline import outline
from understep.grids.touching import touching

SIDES = 6  # to which a place between cells can be moved
MOST_AROUND = 1 << 24  # cells around a line
KEPT = 48  # disks up to this radius are kept, once made


class GridSets(GridLayout):
    """Sets of cells, clipped to the grid."""

    @cached_property
    def _disks(self) -> dict[int, tuple[IntArray, IntArray]]:
        """By radius: plane vectors in a spiral, and how many steps long each is."""
        return {}

    def _nearest(self, places: IntArray, parts: int, side: int) -> IntArray:
        """The plane cells along a line whose exact places ``(n, 2)`` count parts of a step.

        A place between cells goes to the same side along the whole line.
        """
        raise NotImplementedError

    def ring(self, cell: CellLike, radius: int) -> Cells:
        """The cells exactly ``radius`` steps from a cell, clockwise from the first direction.

        Raises
        ------
        CellError
            ``cell`` is not a cell, or lies off the grid.
        InputError
            ``radius`` is not a whole number of 0 or more.

        Examples
        --------
        >>> import understep as us
        >>> us.SquareGrid(5, 5).ring((2, 2), 1)
        Cells([(2, 1), (3, 2), (2, 3), (1, 2)], 4)
        """
        return self.on_board(self._disk(self.require(cell), radius, radius))

    def disk(self, cell: CellLike, radius: int) -> Cells:
        """The cells up to ``radius`` steps from a cell, in a spiral: the cell, then ring by ring.

        Raises
        ------
        CellError
            ``cell`` is not a cell, or lies off the grid.
        InputError
            ``radius`` is not a whole number of 0 or more.

        Examples
        --------
        >>> import understep as us
        >>> len(us.HexGrid(9, 9).disk((4, 4), 2))
        19
        """
        return self.on_board(self._disk(self.require(cell), 0, radius))

    def _disk(self, cell: Cell, low: int, high: int) -> IntArray:
        """Cells from ``low`` to ``high`` steps away, nearest first, some of them off the grid."""
        high = whole("radius", high, 0)
        if high <= KEPT:
            near, steps = self.nearby(high)
            near = near[np.searchsorted(steps, low) :]
        else:
            near = self.plane(self.cells_of(self.existing)) - self._plane(*cell)
            near = _spiral(self, near, low, high)
        return self.addresses(near + self._plane(*cell))

    def nearby(self, radius: int) -> tuple[IntArray, IntArray]:
        """Plane vectors ``(n, 2)`` up to ``radius`` steps long, by length, and their lengths."""
        if radius not in self._disks:
            span = np.arange(-radius, radius + 1)
            square = np.stack(np.meshgrid(span, span), axis=-1).reshape(-1, 2)
            near = _spiral(self, square, 0, radius)
            self._disks[radius] = near, self._steps(*near.T)
        return self._disks[radius]

    def line(self, a: CellLike, b: CellLike) -> Cells:
        """The cells along the straight line between two cells, both included.

        Each is a neighbor of the next and nearest to its place on the line. Places between cells
        all go to the same side: the one on which the most cells exist. The line from ``b`` to ``a``
        is the reverse of that from ``a`` to ``b``. Holes are left out.

        Raises
        ------
        CellError
            ``a`` or ``b`` is no cell, or off the grid.

        Examples
        --------
        >>> import understep as us
        >>> us.HexGrid(8, 8).line((0, 0), (3, 2))
        Cells([(0, 0), (0, 1), (1, 1), (2, 2), (3, 2)], 5)
        """
        start, end = self._plane(*self.require(a, "a")), self._plane(*self.require(b, "b"))
        # always drawn from the lesser end, so that both ways agree
        ends = np.array(sorted([start, end]))
        steps = int(self._steps(*(ends[1] - ends[0])))
        along, parts = np.arange(steps + 1)[:, None], max(steps, 1)
        # so many times the exact places, in whole numbers
        places = (ends[1] - ends[0]) * along
        found = Cells()
        for side in range(SIDES):
            cells = self.addresses(ends[0] + self._nearest(places, parts, side))
            found = max(found, self.on_board(cells), key=len)
            if len(found) == steps + 1:
                break
        return found if start <= end else found[::-1]

    def rectangle(self, a: CellLike, b: CellLike) -> Cells:
        """All cells with columns and rows from one cell's to another's, row by row.

        Raises
        ------
        CellError
            ``a`` or ``b`` is no cell. (They need not be on the grid.)

        Examples
        --------
        >>> import understep as us
        >>> us.SquareGrid(9, 9).rectangle((2, 1), (1, 2))
        Cells([(1, 1), (2, 1), (1, 2), (2, 2)], 4)
        """
        ends = np.array([one_cell(a, "a"), one_cell(b, "b")])
        low = np.maximum(ends.min(axis=0), self.bounds[0])
        high = np.minimum(ends.max(axis=0), self.bounds[1])
        spans = [np.arange(low[axis], high[axis] + 1) for axis in (0, 1)]
        cols, rows = np.meshgrid(*spans)
        return self.on_board(np.stack([cols.ravel(), rows.ravel()], axis=-1))

    def cone(
        self, cell: CellLike, direction: str | int, radius: int, angle: float | None = None
    ) -> Cells:
        """The cells up to ``radius`` steps away around a direction, nearest first.

        Parameters
        ----------
        cell
            Where the cone starts; it is not part of it.
        direction
            The middle of the cone.
        radius
            How many steps it reaches.
        angle
            Its width in degrees, borders included; by default 60 on hexes, 90 on squares, so that
            the six (four) cones around a cell cover everything. Cells count as regular, and are in
            where their centers are.

        Raises
        ------
        CellError
            ``cell`` is not a cell, or lies off the grid.
        NameUnknownError
            The grid has no such direction.
        InputError
            ``radius`` is not a whole number of 0 or more, ``angle`` not a number from 0 to 360.

        Examples
        --------
        >>> import understep as us
        >>> us.HexGrid(8, 8).cone((1, 3), "E", 2)
        Cells([(2, 3), (3, 2), (3, 3), (3, 4)], 4)
        """
        middle = self.vectors[self.way(direction)]
        width = (60 if self.kind == "hex" else 90) if angle is None else angle
        width = real("angle", width, "must be degrees from 0 to 360", 0, 360)
        apex, radius = self.require(cell), whole("radius", radius, 0)
        cells = self._disk(apex, 1, radius) if radius else np.empty((0, 2), dtype=np.int64)
        gaps = self.angles(self.plane(cells) - self._plane(*apex), middle)
        return self.on_board(cells[np.minimum(gaps, 360 - gaps) <= width / 2 + 1e-9])

    def angles(self, vectors: IntArray, start: IntArray) -> FloatArray:
        """Angles of plane vectors ``(n, 2)`` clockwise from another, 0 to below 360 degrees."""
        ground = np.array(self.regular) / self.units
        spots = [np.stack(self._spot(*self.addresses(each).T), -1) for each in (vectors, start)]
        home = self._spot(*self._address(0, 0))
        (x, y), (x0, y0) = (((each - home) * ground).T for each in spots)
        angle = np.degrees(np.arctan2(y, x) - np.arctan2(y0, x0)) % 360
        return np.where(angle > 360 - 1e-9, 0.0, angle)

    def rotate(self, cells: CellsLike, about: CellLike, turns: int) -> Cells:
        """A pattern of cells turned about a cell, clockwise.

        Parameters
        ----------
        cells
            The pattern: one cell, cells, or an integer array ``(..., 2)``; off the grid is fine.
        about
            The cell that stays where it is.
        turns
            How many turns of 60 degrees (squares: of 90); negative ones turn back.

        Returns
        -------
        Cells
            In the order of the pattern, without those that fall off the grid.

        Raises
        ------
        CellError
            A value that is no cell.
        InputError
            ``turns`` is not a whole number.

        Examples
        --------
        >>> import understep as us
        >>> us.SquareGrid(5, 5).rotate([(2, 1), (2, 0)], (2, 2), 1)
        Cells([(3, 2), (4, 2)], 2)
        """
        around = near_cell(about, "about")
        return self._moved(cells, around, around, self.turning(whole("turns", turns)))

    def mirror(self, cells: CellsLike, about: CellLike, axis: str) -> Cells:
        """A pattern of cells mirrored at the line that runs through a cell in a direction.

        Parameters
        ----------
        cells
            The pattern: one cell, cells, or an integer array ``(..., 2)``; off the grid is fine.
        about
            The cell that stays where it is.
        axis
            The direction of the line: one of the grid's, or "N" or "E" on any grid; on squares the
            diagonals too.

        Returns
        -------
        Cells
            In the order of the pattern, without those that fall off the grid.

        Raises
        ------
        CellError
            A value that is no cell.
        NameUnknownError
            No such axis.

        Examples
        --------
        >>> import understep as us
        >>> us.HexGrid(5, 5).mirror([(3, 2), (3, 1)], (2, 2), "N")
        Cells([(1, 2), (0, 1)], 2)
        """
        around = near_cell(about, "about")
        return self._moved(cells, around, around, self.mirroring(axis))

    def carry(self, cells: CellsLike, a: CellLike, b: CellLike) -> Cells:
        """A pattern of cells moved so that what lay at ``a`` lies at ``b``.

        On hexes too, where adding to columns and rows would bend it.

        Parameters
        ----------
        cells
            The pattern: one cell, cells, or an integer array ``(..., 2)``; off the grid is fine.
        a, b
            A cell, and where it goes.

        Returns
        -------
        Cells
            In the order of the pattern, without those that fall off the grid.

        Raises
        ------
        CellError
            A value that is no cell.

        Examples
        --------
        >>> import understep as us
        >>> us.HexGrid(5, 5).carry([(1, 1), (1, 2)], (1, 1), (2, 2))
        Cells([(2, 2), (1, 3)], 2)
        """
        unturned = np.eye(2, dtype=np.int64)
        return self._moved(cells, one_cell(a, "a"), one_cell(b, "b"), unturned)

    def _moved(self, cells: CellsLike, a: Cell, b: Cell, image: IntArray) -> Cells:
        start, end = self._plane(*a), self._plane(*b)
        pattern = cells_array(cells, "cells").reshape(-1, 2)
        return self.on_board(self.addresses((self.plane(pattern) - start) @ image.T + end))

    def outline(self, cells: CellsLike, level: Any = 0.0) -> list[FloatArray]:
        """The border around a set of cells, as closed lines in the world.

        Parameters
        ----------
        cells
            One cell, cells, or an integer array ``(..., 2)`` on the grid, in any order.
        level
            Level of elevation of them all.

        Returns
        -------
        list of ndarray of float64, shape ``(points, 2)``
            One line for each piece and one for each hole; the last point is the first again. Going
            along it the cells lie on the right as seen: around pieces clockwise, around holes the
            other way. Pieces that touch in a corner only have a line each; holes that do share one.
            Without points in the middle of a straight line.

        Raises
        ------
        CellError
            A value that is not a cell, or a cell off the grid.

        Examples
        --------
        >>> import understep as us
        >>> [line.tolist() for line in us.SquareGrid(4, 4).outline([(0, 0), (1, 0)])]
        [[[0.0, 0.0], [2.0, 0.0], [2.0, 1.0], [0.0, 1.0], [0.0, 0.0]]]
        """
        array = self.require_all(cells).reshape(-1, 2)
        edges = self.deltas[:, list(self.edge_ways)][self.lines(array)]
        loops = outline(array, edges, np.stack(self._spot(*array.T), -1), self.corner_spots)
        lines = [np.stack(self._place(*loop.T), axis=-1) for loop in loops]
        return [self.lifted(line, level) for line in lines]

    def touched(self, a: CellLike, b: CellLike) -> tuple[IntArray, FloatArray]:
        """All cells that the straight line between two middles touches, borders included.

        Parameters
        ----------
        a, b
            The cells that it leads from and to.

        Returns
        -------
        tuple
            The cells, an int64 array ``(n, 2)``, by where the line comes to them and leaves them;
            of those off the grid too. And from which to which share of the line each is touched,
            ``(n, 2)`` float64 from 0 to 1.

        Raises
        ------
        CellError
            ``a`` or ``b`` is no pair of whole numbers.
        NoRoomError
            They are farther apart than there is room for.

        Examples
        --------
        >>> import understep as us
        >>> cells, shares = us.SquareGrid(4, 4).touched((0, 0), (1, 1))
        >>> cells.tolist(), shares[0].tolist()
        ([[0, 0], [0, 1], [1, 0], [1, 1]], [0.0, 0.5])
        """
        ends = np.array([one_cell(a, "a"), one_cell(b, "b")])
        low, high = ends.min(axis=0) - 1, ends.max(axis=0) + 2
        if math.prod(map(int, high - low)) > MOST_AROUND:
            raise NoRoomError("b", f"at most {MOST_AROUND} cells around both", tuple(b))
        around = np.stack(np.meshgrid(*map(np.arange, low, high), indexing="ij"), -1)
        cells: IntArray = around.reshape(-1, 2)
        if (ends[0] == ends[1]).all():
            return ends[:1], np.array([[0.0, 1.0]])
        spots = [np.stack(self._spot(*each.T), axis=-1) for each in (cells, ends)]
        met, shares = touching(spots[0], self.corner_spots, *spots[1])
        cells, shares = cells[met], shares[met]
        order = np.lexsort((*cells.T[::-1], shares[:, 1], shares[:, 0]))
        return cells[order], shares[order]


def _spiral(lattice: Any, vectors: IntArray, low: int, high: int) -> IntArray:
    """Plane vectors from ``low`` to ``high`` steps long, by length, then clockwise."""
    steps = lattice._steps(*vectors.T)
    chosen = vectors[(low <= steps) & (steps <= high)]
    angles = lattice.angles(chosen, lattice.compass[0])
    order = np.lexsort((np.round(angles, 9), lattice._steps(*chosen.T)))
    found: IntArray = chosen[order]
    return found
