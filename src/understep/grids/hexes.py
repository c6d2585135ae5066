"""Hex grids: pointy or flat on top, odd or even lines shifted."""

from __future__ import annotations

from typing import Any

import numpy as np

from understep.grids.cell import CellLike, IntArray
from understep.grids.frame import Frame
from understep.grids.grid import FloatArray, Grid
from understep.grids.systems import Shifted, System, Top, choice, convert, round_cube

POINTY = ("NE", "E", "SE", "SW", "W", "NW")
FLAT = ("N", "NE", "SE", "S", "SW", "NW")
# the directions above as axial steps
AXIAL = {
    "pointy": ((1, -1), (1, 0), (0, 1), (-1, 1), (-1, 0), (0, -1)),
    "flat": ((0, -1), (1, -1), (1, 0), (0, 1), (-1, 1), (-1, 0)),
}


class HexGrid(Grid):
    """A rectangle of hex cells.

    Parameters
    ----------
    cols, rows
        How many columns and rows.
    top
        ``"pointy"``: a corner is on top and rows are staggered; ``"flat"``: columns are.
    shifted
        Whether ``"odd"`` or ``"even"`` rows (columns) lie half a cell further on. The numbers
        count as they are, also when ``first`` is not (0, 0).
    first
        The address of the first cell.
    frame
        Where the grid lies in the world; by default hexes are regular, with the centers of
        neighbors 1 apart.

    Raises
    ------
    InputError
        A size that is not a whole number of 1 or more.
    NameUnknownError
        An unknown top or shift.

    Examples
    --------
    >>> import understep as us
    >>> grid = us.HexGrid(22, 14, top="flat", shifted="even")
    >>> grid.distance((0, 0), (5, 3))
    5
    >>> grid.cell_at(grid.center((7, 3)))
    Cell(col=7, row=3)
    """

    kind = "hex"

    def __init__(
        self,
        cols: int,
        rows: int,
        *,
        top: Top = "pointy",
        shifted: Shifted = "odd",
        first: CellLike = (0, 0),
        frame: Frame | None = None,
    ) -> None:
        choice(top, Top, "top")
        choice(shifted, Shifted, "shifted")
        super().__init__(cols, rows, first, frame or Frame())
        self.top: Top = top
        self.shifted: Shifted = shifted
        self.directions = POINTY if top == "pointy" else FLAT
        self.stagger = 1 if top == "pointy" else 2
        self.parity = 0 if shifted == "odd" else 1
        axial = np.array(AXIAL[top])
        lines = []
        for line in (self.parity, 1 - self.parity):  # an unshifted line, then a shifted one
            start = np.array((0, line) if top == "pointy" else (line, 0))
            around = self.convert(start, "offset", "axial") + axial
            lines.append(self.convert(around, "axial", "offset") - start)
        self.deltas = np.array(lines, dtype=np.int64)

    def __repr__(self) -> str:
        return f"HexGrid({self.cols}, {self.rows}, top={self.top!r}, shifted={self.shifted!r})"

    def convert(self, values: Any, source: System, target: System) -> IntArray:
        """As `understep.convert`, with this grid's top and shift."""
        return convert(values, source, target, top=self.top, shifted=self.shifted)

    @property
    def cell_size(self) -> tuple[float, float]:
        """Width and height of the box around a cell in world units."""
        if self.frame.cell:
            return self.frame.cell
        long = 2 / 3**0.5
        return (1.0, long) if self.top == "pointy" else (long, 1.0)

    def _distance(self, a: IntArray, b: IntArray) -> IntArray:
        gap = self.convert(a, "offset", "axial") - self.convert(b, "offset", "axial")
        q, r = gap[..., 0], gap[..., 1]
        return np.maximum(np.maximum(np.abs(q), np.abs(r)), np.abs(q + r))  # type: ignore[no-any-return]

    def _center(self, cells: IntArray) -> FloatArray:
        along, across = (0, 1) if self.top == "pointy" else (1, 0)
        places = np.empty(cells.shape, dtype=np.float64)
        places[..., along] = cells[..., along] + 0.5 + 0.5 * self.lines(cells)
        places[..., across] = 0.75 * cells[..., across] + 0.5
        return places * self.cell_size + self.frame.origin

    def _outline(self) -> FloatArray:
        points = [(0, -0.5), (0.5, -0.25), (0.5, 0.25), (0, 0.5), (-0.5, 0.25), (-0.5, -0.25)]
        if self.top == "flat":
            points = [(y, x) for x, y in points]
        return np.array(points) * self.cell_size

    def _cells_at(self, points: FloatArray) -> IntArray:
        along, across = (0, 1) if self.top == "pointy" else (1, 0)
        places = (points - self.frame.origin) / self.cell_size
        line = (places[..., across] - 0.5) / 0.75
        # the axial plane, measured from cell (0, 0) of the unshifted lattice
        even = 0.5 * self.parity
        place = places[..., along] - 0.5 - even - line / 2
        cube = np.empty((*line.shape, 3))
        cube[..., along], cube[..., across] = place, line
        cube[..., 2] = -place - line
        axial = round_cube(cube)[..., :2]
        return self.convert(axial, "axial", "offset")
