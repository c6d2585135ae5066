"""Look: how far one sees from a place, and from how high."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from understep.boards.attack import FARTHEST, spanned
from understep.boards.board import Board
from understep.boards.cost import Cost
from understep.boards.unit import SightMeasure, Unit
from understep.checks import whole
from understep.grids.cell import Cell, IntArray
from understep.grids.systems import choice
from understep.sight.lines import FINEST, Lines

ANY = 1 << 28  # cells: farther than any two lie apart
HALF = 0.5  # levels above its ground that a line starts and ends by default


class Look(NamedTuple):
    """A radius in cells (None: any), the height of the eye, and by what rule the radius counts."""

    radius: int | None
    eye: Cost
    measure: SightMeasure
    per_level: int

    def far(self, board: Board, kept: Lines) -> int:
        """So many steps of the grid lead at most to what is near enough."""
        most = board.grid.cols + board.grid.rows
        if self.radius is None:
            return most
        return min(most, spanned(self.radius + self.per_level * kept.span, self.measure))

    @property
    def plain(self) -> bool:
        """Whether the radius counts steps, wherever one stands."""
        return self.measure == "grid" and not self.per_level

    def reaches(self, board: Board, gap: int, start: Cell, end: Cell) -> bool:
        """Whether a cell, so many steps away, is near enough to a start."""
        if self.radius is None or self.plain:
            return self.radius is None or gap <= self.radius
        return bool(self.near(board, start, np.array([board.grid.numbering.number(end)]))[0])

    def near(self, board: Board, start: Cell, numbers: IntArray) -> NDArray[np.bool_]:
        """Which cells, by number, are near enough to a start."""
        grid, levels = board.grid, board._contents.elevation.array
        if self.radius is None:
            return np.ones(len(numbers), dtype=bool)
        limit: IntArray = np.full(len(numbers), self.radius)
        if self.per_level:
            rise = levels[grid.numbering.number(start)] - levels[numbers]
            parts = np.round(rise * FINEST).astype(np.int64)
            limit = limit + self.per_level * np.sign(parts) * (np.abs(parts) // FINEST)
        cells = grid.numbering.cells_of(numbers)
        if self.measure == "grid":
            return np.asarray(grid.distance(cells, start) <= limit)
        x, y = (grid.lattice.plane(cells) - grid.lattice.plane(np.array(start))).T
        inside: NDArray[np.bool_] = grid.lattice.squared(x, y) <= limit * limit
        return (limit >= 0) & inside


def look_of(
    unit: Unit | None,
    radius: int | None,
    eye: Cost | None,
    measure: SightMeasure | None,
    per_level: int | None,
) -> Look:
    """How a unit looks around, or anybody, unless that is given."""
    if measure is not None:
        choice(measure, SightMeasure, "measure")
    if unit is not None:
        radius = unit.sight if radius is None else radius
        eye = unit.eye if eye is None else eye
        measure = unit.sight_measure if measure is None else measure
        per_level = unit.sight_per_level if per_level is None else per_level
    return Look(
        None if radius is None else min(whole("radius", radius, 0), ANY),
        HALF if eye is None else eye,
        measure or "grid",
        0 if per_level is None else whole("per_level", per_level, 0, FARTHEST),
    )
