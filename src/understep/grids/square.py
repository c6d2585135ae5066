"""Square grids, with four or eight neighbors."""

from __future__ import annotations

import numpy as np

from understep.grids.cell import CellLike, IntArray
from understep.grids.frame import Frame
from understep.grids.grid import FloatArray, Grid

EIGHT = (
    ("N", (0, -1)), ("NE", (1, -1)), ("E", (1, 0)), ("SE", (1, 1)),
    ("S", (0, 1)), ("SW", (-1, 1)), ("W", (-1, 0)), ("NW", (-1, -1)),
)  # fmt: skip


class SquareGrid(Grid):
    """A rectangle of square cells.

    Parameters
    ----------
    cols, rows
        How many columns and rows.
    diagonals
        Whether cells that share only a corner are neighbors. It decides the distance too.
    first
        The address of the first cell.
    frame
        Where the grid lies in the world; cells are 1 by 1 unless it says otherwise.

    Raises
    ------
    InputError
        A size that is not a whole number of 1 or more.

    Examples
    --------
    >>> import understep as us
    >>> grid = us.SquareGrid(8, 6, diagonals=True)
    >>> grid.distance((0, 0), (3, 2)), len(grid.neighbors((3, 3)))
    (3, 8)
    >>> grid.cell_at((3.5, 2.2))
    Cell(col=3, row=2)
    """

    kind = "square"
    stagger = 0
    parity = 0

    def __init__(
        self,
        cols: int,
        rows: int,
        *,
        diagonals: bool = False,
        first: CellLike = (0, 0),
        frame: Frame | None = None,
    ) -> None:
        super().__init__(cols, rows, first, frame or Frame())
        self.diagonals = bool(diagonals)
        steps = EIGHT if diagonals else EIGHT[::2]
        self.directions = tuple(name for name, _ in steps)
        self.deltas = np.array([[delta for _, delta in steps]] * 2, dtype=np.int64)

    def __repr__(self) -> str:
        tail = ", diagonals=True" if self.diagonals else ""
        return f"SquareGrid({self.cols}, {self.rows}{tail})"

    @property
    def cell_size(self) -> tuple[float, float]:
        """Width and height of a cell in world units."""
        return self.frame.cell or (1.0, 1.0)

    def _distance(self, a: IntArray, b: IntArray) -> IntArray:
        gap = np.abs(a - b)
        return gap.max(axis=-1) if self.diagonals else gap.sum(axis=-1)  # type: ignore[no-any-return]

    def _center(self, cells: IntArray) -> FloatArray:
        middles: FloatArray = (cells + 0.5) * np.array(self.cell_size) + self.frame.origin
        return middles

    def _outline(self) -> FloatArray:
        unit = np.array([(-0.5, -0.5), (0.5, -0.5), (0.5, 0.5), (-0.5, 0.5)])
        return unit * self.cell_size

    def _cells_at(self, points: FloatArray) -> IntArray:
        return np.floor((points - self.frame.origin) / self.cell_size).astype(np.int64)
