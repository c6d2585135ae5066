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
from understep.grids.grid import Metric
from understep.grids.systems import choice
from understep.sight.lines import ANY, Aiming, Lines

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
        measure: Metric = "straight" if self.measure == "straight" else "steps"
        gaps = np.asarray(grid.distance(start, grid.numbering.cells_of(numbers), measure=measure))
        aiming = self.aiming(self.radius, (0, 0))
        return aiming.spans(gaps, levels, grid.numbering.number(start), numbers)

    def aiming(self, far: int, heights: tuple[int, int]) -> Aiming:
        """The same as the kernel takes it; ``far``: so many steps lead to all that can count."""
        if self.radius is None:
            return Aiming(0, far, 0, 1, -1, -1, *heights)
        return Aiming(0, self.radius, self.per_level, 1, -1, -1, *heights, measure=self.measure)


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
