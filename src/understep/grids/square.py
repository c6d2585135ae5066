"""Square grids, with four or eight neighbors."""

from __future__ import annotations

import math
from functools import cache
from typing import Any

import numpy as np

from understep.checks import truth
from understep.grids.cell import CellLike, IntArray
from understep.grids.frame import Frame, mirrored
from understep.grids.grid import Grid
from understep.grids.lattice import Lattice, Maths, eight_way

EIGHT = (
    ("N", (0, -1)), ("NE", (1, -1)), ("E", (1, 0)), ("SE", (1, 1)),
    ("S", (0, 1)), ("SW", (-1, 1)), ("W", (-1, 0)), ("NW", (-1, -1)),
)  # fmt: skip


class SquareLattice(Lattice):
    """Squares with four or eight neighbors."""

    kind = "square"
    stagger = 0
    parity = 0
    units = (2, 2)
    regular = (1.0, 1.0)
    corner_spots = np.array([(-1, -1), (1, -1), (1, 1), (-1, 1)])
    compass = np.array([step for _, step in EIGHT])

    pitch = (2, 2)

    def __init__(self, diagonals: bool, mirrored: bool) -> None:
        self.diagonals, self.mirrored = diagonals, mirrored
        steps = EIGHT if diagonals else EIGHT[::2]
        self.directions = self.seen(tuple(name for name, _ in steps))
        self.corner_names = self.seen(("NW", "NE", "SE", "SW"))
        self.deltas = np.array([[delta for _, delta in steps]] * 2, dtype=np.int64)

    def to_plane(self, col: Any, row: Any) -> tuple[Any, Any]:
        return col, row

    def to_cell(self, x: Any, y: Any) -> tuple[Any, Any]:
        return x, y

    def steps(self, x: Any, y: Any) -> Any:
        return eight_way(x, y) if self.diagonals else abs(x) + abs(y)

    def squared(self, x: Any, y: Any) -> Any:
        x, y = x * 1.0, y * 1.0
        return x * x + y * y

    def spot(self, col: Any, row: Any) -> tuple[Any, Any]:
        return 2 * col + 1, 2 * row + 1

    def pick(self, u: Any, v: Any, maths: Maths) -> tuple[Any, Any]:
        return maths.whole(maths.floor(u * 0.5)), maths.whole(maths.floor(v * 0.5))

    def nearest(self, places: IntArray, parts: int, side: int) -> IntArray:
        # halves go up, or on the other side down
        near = (2 * places + parts - side % 2) // (2 * parts)
        if not self.diagonals:  # so many steps in all: what is not across is down
            across, down = np.sign(places[-1] - places[0])
            steps = (places - places[0]) @ (across, down) // parts
            gone = abs(near[:, 0] - near[0, 0])
            near[:, 1] = near[0, 1] + down * (steps - gone)
        return near


_lattice = cache(SquareLattice)  # immutable: one for all grids of a kind


class SquareGrid(Grid):
    """A rectangle of square cells, with or without holes.

    Parameters
    ----------
    cols, rows
        How many columns and rows.
    diagonals
        Whether cells that share only a corner are neighbors. It decides the distance too.
    first
        The address of the first cell.
    exists
        Which cells exist: true or false for each, of shape ``(rows, cols)``. By default all do.
    frame
        Where the grid lies in the world; cells are 1 by 1 unless it says otherwise.

    Raises
    ------
    InputError
        A size that is not a whole number of 1 or more; a mask of another shape, or without a cell.

    Examples
    --------
    >>> import understep as us
    >>> grid = us.SquareGrid(8, 6, diagonals=True)
    >>> grid.distance((0, 0), (3, 2)), len(grid.neighbors((3, 3)))
    (3, 8)
    >>> grid.cell_at((3.5, 2.2))
    Cell(col=3, row=2)
    """

    def __init__(
        self,
        cols: int,
        rows: int,
        *,
        diagonals: bool = False,
        first: CellLike = (0, 0),
        exists: Any = None,
        frame: Frame | None = None,
    ) -> None:
        diagonals = truth("diagonals", diagonals)
        super().__init__(_lattice(diagonals, mirrored(frame)), cols, rows, first, exists, frame)
        self.diagonals = diagonals

    def _own(self) -> dict[str, Any]:
        return {"diagonals": self.diagonals}

    @classmethod
    def _fitting(cls, width: float, height: float, **_kind: Any) -> tuple[int, int]:
        return math.floor(width), math.floor(height)
