"""Hex grids: pointy or flat tops, odd or even lines shifted."""

from __future__ import annotations

import math
from collections.abc import Iterable
from functools import cache
from typing import Any

import numpy as np

from understep.checks import items, whole
from understep.errors import InputError
from understep.grids.cell import CellLike, IntArray, near_cell
from understep.grids.frame import Frame, mirrored
from understep.grids.grid import Grid
from understep.grids.lattice import Lattice, Maths
from understep.grids.numbering import check_size
from understep.grids.systems import (
    Shifted,
    System,
    Top,
    choice,
    convert,
    from_axial,
    mended,
    shift,
    to_axial,
)

POINTY = ("NE", "E", "SE", "SW", "W", "NW")
FLAT = ("N", "NE", "SE", "S", "SW", "NW")
# the directions above as axial steps
AXIAL = {
    "pointy": ((1, -1), (1, 0), (0, 1), (-1, 1), (-1, 0), (0, -1)),
    "flat": ((0, -1), (1, -1), (1, 0), (0, 1), (-1, 1), (-1, 0)),
}
# corners in spots, clockwise; the first edge faces the first direction
CORNERS = {
    "pointy": ((0, -2), (1, -1), (1, 1), (0, 2), (-1, 1), (-1, -1)),
    "flat": ((-1, -1), (1, -1), (2, 0), (1, 1), (-1, 1), (-2, 0)),
}
CORNER_NAMES = {
    "pointy": ("N", "NE", "SE", "S", "SW", "NW"), "flat": ("NW", "NE", "E", "SE", "SW", "W"),
}  # fmt: skip
# moves of a place to all sides, so short that only places on a border change their cell
NUDGES = (1, 2), (-1, -2), (-2, 3), (2, -3), (-3, 1), (3, -1)
LONG = 2 / 3**0.5  # from corner to corner of a hex whose opposite edges lie 1 apart


class HexLattice(Lattice):
    """Hexes with pointy or flat tops, whose odd or even lines are shifted."""

    kind = "hex"

    def __init__(self, top: Top, shifted: Shifted, mirrored: bool) -> None:
        self._pointy, self.mirrored = top == "pointy", mirrored
        self.directions = self.seen(POINTY if self._pointy else FLAT)
        self.corner_names = self.seen(CORNER_NAMES[top])
        self.pitch = (2, 3) if self._pointy else (3, 2)
        self.compass = np.array(AXIAL[top])
        self.corner_spots = np.array(CORNERS[top])
        # spots are so fine that middles and corners lie on them
        self.units = (2, 4) if self._pointy else (4, 2)
        self.regular = (1.0, LONG) if self._pointy else (LONG, 1.0)
        self.stagger = 1 if self._pointy else 2
        self.parity = 0 if shifted == "odd" else 1
        lines = []
        for line in (self.parity, 1 - self.parity):  # an unshifted line, then a shifted one
            start = np.array((0, line) if self._pointy else (line, 0))
            lines.append(self.addresses(self.plane(start) + self.compass) - start)
        self.deltas = np.array(lines, dtype=np.int64)

    def to_plane(self, col: Any, row: Any) -> tuple[Any, Any]:
        if self._pointy:
            return to_axial(col, row, self.parity), row
        return col, to_axial(row, col, self.parity)

    def to_cell(self, x: Any, y: Any) -> tuple[Any, Any]:
        if self._pointy:
            return from_axial(x, y, self.parity), y
        return x, from_axial(y, x, self.parity)

    def steps(self, x: Any, y: Any) -> Any:
        # half of the sum of the three cube coordinates
        return (abs(x) + abs(y) + abs(x + y)) >> 1

    def squared(self, x: Any, y: Any) -> Any:
        # squares of far cells would overflow as whole numbers
        x, y = x * 1.0, y * 1.0
        return x * x + y * y + x * y

    def spot(self, col: Any, row: Any) -> tuple[Any, Any]:
        if self._pointy:
            return 2 * col + (1 + shift(row, self.parity)), 3 * row + 2
        return 3 * col + 2, 2 * row + (1 + shift(col, self.parity))

    def pick(self, u: Any, v: Any, maths: Maths) -> tuple[Any, Any]:
        along, across = (u, v) if self._pointy else (v, u)
        line = (across - 2) / 3
        place = (along - (1 + self.parity) - line) * 0.5
        r, q = maths.rint(line), maths.rint(place)
        dr, dq = line - r, place - q
        # the axis that is farther off gives way, so that no hex of three is missed
        first = abs(dq) >= abs(dr)
        q = maths.whole(q + maths.where(first, maths.rint(dq + 0.5 * dr), 0))
        r = maths.whole(r + maths.where(first, 0, maths.rint(dr + 0.5 * dq)))
        q = from_axial(q, r, self.parity)
        return (q, r) if self._pointy else (r, q)

    def nearest(self, places: IntArray, parts: int, side: int) -> IntArray:
        # 16 times finer, then moved by less than a place off a border can be from it
        fine = 16 * parts
        x, y = (16 * places + NUDGES[side]).T
        cube = np.stack([x, y, -x - y], axis=-1)
        near = (2 * cube + fine) // (2 * fine)
        found: IntArray = mended(near, np.abs(near * fine - cube))[:, :2]
        return found


_lattice = cache(HexLattice)  # immutable: one for all grids of a kind


class HexGrid(Grid):
    """A rectangle of hex cells, with or without holes.

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
    exists
        Which cells exist: true or false for each, of shape ``(rows, cols)``. By default all do.
    frame
        Where the grid lies in the world; by default hexes are regular, with the centers of
        neighbors 1 apart.

    Raises
    ------
    InputError
        A size that is not a whole number of 1 or more; a mask of another shape, or without a cell.
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

    def __init__(
        self,
        cols: int,
        rows: int,
        *,
        top: Top = "pointy",
        shifted: Shifted = "odd",
        first: CellLike = (0, 0),
        exists: Any = None,
        frame: Frame | None = None,
    ) -> None:
        choice(top, Top, "top")
        choice(shifted, Shifted, "shifted")
        super().__init__(_lattice(top, shifted, mirrored(frame)), cols, rows, first, exists, frame)
        self.top: Top = top
        self.shifted: Shifted = shifted

    @classmethod
    def hexagon(
        cls,
        radius: int,
        *,
        center: CellLike | None = None,
        top: Top = "pointy",
        shifted: Shifted = "odd",
        frame: Frame | None = None,
    ) -> HexGrid:
        """A board of all cells up to ``radius`` steps from its center, by default (radius, radius).

        Raises
        ------
        InputError
            ``radius`` is not a whole number of 0 or more, or too large.
        CellError
            ``center`` is not a cell.

        Examples
        --------
        >>> import understep as us
        >>> len(us.HexGrid.hexagon(3))
        37
        """
        radius = whole("radius", radius, 0)
        check_size("radius", 2 * radius + 1, 2 * radius + 1)
        middle = (radius, radius) if center is None else near_cell(center, "center")
        first = (middle[0] - radius, middle[1] - radius)
        kind: dict[str, Any] = {"top": top, "shifted": shifted, "first": first, "frame": frame}
        full = cls(2 * radius + 1, 2 * radius + 1, **kind)
        near = full.distance(full.cells, middle) <= radius
        return cls(full.cols, full.rows, exists=near.reshape(full.rows, -1), **kind)

    @classmethod
    def uneven(
        cls,
        lengths: Iterable[int],
        *,
        top: Top = "pointy",
        shifted: Shifted = "odd",
        first: CellLike = (0, 0),
        frame: Frame | None = None,
    ) -> HexGrid:
        """A board whose rows (flat tops: columns) have their own lengths, such as 8, 7, 8, 7.

        Raises
        ------
        InputError
            A length that is not a whole number of 0 or more, none above 0, or too many cells.
        NameUnknownError
            An unknown word for ``top`` or ``shifted``.

        Examples
        --------
        >>> import understep as us
        >>> grid = us.HexGrid.uneven([4, 3, 4])
        >>> grid.size, len(grid), (3, 1) in grid
        ((4, 3), 11, False)
        """
        each = enumerate(items("lengths", lengths, "must be whole numbers"))
        sizes = [whole(f"lengths[{place}]", size, 0) for place, size in each]
        choice(top, Top, "top")
        if not any(sizes):
            raise InputError("lengths", "a grid has at least one cell", sizes)
        check_size("lengths", max(sizes), len(sizes))
        exists = np.arange(max(sizes)) < np.array(sizes)[:, None]
        exists = exists if top == "pointy" else exists.T
        rows, cols = exists.shape
        return cls(cols, rows, top=top, shifted=shifted, first=first, exists=exists, frame=frame)

    def _own(self) -> dict[str, Any]:
        return {"top": self.top, "shifted": self.shifted}

    def _reversed(self) -> dict[str, Any]:
        # upside down the last row comes first: it may be the shifted one
        keeps = self.top == "pointy" and (2 * self.first[1] + self.rows) % 2
        other: Shifted = "even" if self.shifted == "odd" else "odd"
        return {"top": self.top, "shifted": self.shifted if keeps else other}

    def _moved_by(self, cols: int, rows: int) -> dict[str, Any]:
        other: Shifted = "even" if self.shifted == "odd" else "odd"
        flips = (rows if self.top == "pointy" else cols) % 2
        return {"top": self.top, "shifted": other if flips else self.shifted}

    @classmethod
    def _fitting(cls, width: float, height: float, **kind: Any) -> tuple[int, int]:
        pointy = kind.get("top", "pointy") == "pointy"
        along, across = (width, height) if pointy else (height, width)
        # lines of hexes overlap by a quarter
        lines = math.floor((across - 0.25) / 0.75)
        places = math.floor(along - 0.5 * (lines > 1))
        return (places, lines) if pointy else (lines, places)

    def convert(self, values: Any, source: System, target: System) -> IntArray:
        """As `understep.convert`, with this grid's top and shift.

        Raises
        ------
        CellError, NameUnknownError
            As there.

        Examples
        --------
        >>> import understep as us
        >>> us.HexGrid(4, 4).convert([(1, 2)], "offset", "cube").tolist()
        [[0, 2, -2]]
        """
        return convert(values, source, target, top=self.top, shifted=self.shifted)
