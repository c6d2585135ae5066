"""What square and hex grids share: bounds, indices, neighbors, and the way to the world."""

from __future__ import annotations

from typing import Any, cast

import numpy as np
from numpy.typing import NDArray

from understep.errors import CellError, InputError, NameUnknownError
from understep.grids.cell import Cell, CellLike, Cells, CellsLike, IntArray, cells_array, one_cell
from understep.grids.frame import Frame

FloatArray = NDArray[np.float64]


class Grid:
    """A rectangle of cells. Use `SquareGrid` or `HexGrid`; this class holds what they share."""

    kind: str
    #: Names of the directions, clockwise from north; the order breaks ties.
    directions: tuple[str, ...]
    #: 0: no stagger; 1: rows are staggered; 2: columns are.
    stagger: int
    #: Added to a row (column) number before its last bit says which `deltas` count.
    parity: int
    #: ``(2, directions, 2)``: what a step adds to (col, row), in even and in shifted lines.
    deltas: IntArray

    def __init__(self, cols: int, rows: int, first: CellLike, frame: Frame) -> None:
        for name, count in (("cols", cols), ("rows", rows)):
            if type(count) is bool or not isinstance(count, int | np.integer) or count < 1:
                raise InputError(name, "must be a whole number, 1 or more", count)
        if int(cols) * int(rows) > 1 << 28:
            raise InputError("cols", "a grid has at most 2**28 cells", (cols, rows))
        self.cols = int(cols)
        self.rows = int(rows)
        self.first = one_cell(first, "first")
        self.frame = frame

    @property
    def size(self) -> tuple[int, int]:
        """``(cols, rows)``: how many there are. The last cell is ``bounds[1]``."""
        return self.cols, self.rows

    @property
    def bounds(self) -> tuple[Cell, Cell]:
        """The first and the last cell, both of them on the board."""
        col, row = self.first
        return self.first, Cell(col + self.cols - 1, row + self.rows - 1)

    @property
    def cells(self) -> Cells:
        """All cells, row by row."""
        return Cells(self.cells_of(np.arange(self.cols * self.rows)))

    def __contains__(self, cell: object) -> bool:
        try:
            col, row = cast(Any, cell)
            inside = 0 <= col - self.first[0] < self.cols and 0 <= row - self.first[1] < self.rows
            return bool(inside and col == int(col) and row == int(row))
        except (TypeError, ValueError):
            return False

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Grid) and self._facts() == other._facts()

    def __hash__(self) -> int:
        return hash(self._facts())

    def _facts(self) -> tuple[Any, ...]:
        return self.kind, self.cols, self.rows, self.first, self.frame, self.directions, self.parity

    def require(self, cell: object, argument: str = "cell") -> Cell:
        """Return a value as a cell of this grid.

        Raises
        ------
        CellError
            It is no cell, or lies off the grid.
        """
        found = one_cell(cell, argument)
        col, row = found
        if 0 <= col - self.first[0] < self.cols and 0 <= row - self.first[1] < self.rows:
            return found
        low, high = self.bounds
        raise CellError(argument, f"must lie on the board, {tuple(low)} to {tuple(high)}", cell)

    def require_all(self, cells: CellsLike, argument: str = "cells") -> IntArray:
        """Return cells as an array ``(..., 2)`` of cells of this grid.

        Raises
        ------
        CellError
            A value is no cell or lies off the grid; the message names the first such.
        """
        array = cells_array(cells, argument)
        inside = self.holds(array)
        if not inside.all():
            self.require(tuple(array[~inside][0].tolist()), argument)
        return array

    def index(self, cells: CellsLike) -> tuple[IntArray, IntArray]:
        """Index of cells into any ``(rows, cols)`` array of this library: ``array[grid.index(c)]``.

        Parameters
        ----------
        cells
            One cell, cells, or an integer array ``(..., 2)``.

        Returns
        -------
        (rows, cols)
            Two int64 arrays of shape ``(...)``, counted from the grid's first cell.

        Raises
        ------
        CellError
            A cell that is none, or off the grid.

        Examples
        --------
        >>> import understep as us
        >>> grid = us.SquareGrid(3, 2, first=(-1, -1))
        >>> levels = np.array([[0, 0, 1], [0, 2, 3]])
        >>> int(levels[grid.index((1, 0))]), levels[grid.index([(-1, 0), (0, 0)])].tolist()
        (3, [0, 2])
        """
        array = self.require_all(cells)
        return array[..., 1] - self.first[1], array[..., 0] - self.first[0]

    def number(self, cell: Cell) -> int:
        """The place of a cell (known to be on the grid) in row-by-row order."""
        return (cell[1] - self.first[1]) * self.cols + cell[0] - self.first[0]

    def numbers(self, cells: IntArray) -> IntArray:
        """As `number`, for an array ``(..., 2)``."""
        return (cells[..., 1] - self.first[1]) * self.cols + cells[..., 0] - self.first[0]

    def cells_of(self, numbers: NDArray[np.integer[Any]]) -> IntArray:
        """The cells ``(..., 2)`` at places in row-by-row order."""
        rows, cols = np.divmod(np.asarray(numbers, dtype=np.int64), self.cols)
        return np.stack([cols + self.first[0], rows + self.first[1]], axis=-1)

    def cell_of(self, number: int) -> Cell:
        """The cell at a place in row-by-row order."""
        row, col = divmod(int(number), self.cols)
        return Cell(col + self.first[0], row + self.first[1])

    def lines(self, cells: IntArray) -> IntArray:
        """Which half of `deltas` counts for cells ``(..., 2)``: 0, or 1 in a shifted line."""
        if self.stagger == 0:
            return np.zeros(cells.shape[:-1], dtype=np.int64)
        return (cells[..., 1 if self.stagger == 1 else 0] + self.parity) & 1

    def holds(self, cells: IntArray) -> NDArray[np.bool_]:
        """Whether cells ``(..., 2)`` are on the grid, ``(...)``."""
        inside: NDArray[np.bool_] = (cells >= self.first) & (cells < np.add(self.first, self.size))
        return inside.all(axis=-1)  # type: ignore[return-value]

    def around(self, cells: IntArray) -> IntArray:
        """The cells next to cells ``(..., 2)``, on the grid or off it, ``(..., directions, 2)``."""
        return cells[..., None, :] + self.deltas[self.lines(cells)]

    def way(self, direction: str | int, argument: str = "direction") -> int:
        """The number of a direction given by name or number.

        Raises
        ------
        NameUnknownError
            The grid has no such direction.
        """
        if direction in self.directions:
            return self.directions.index(str(direction))
        if isinstance(direction, int) and 0 <= direction < len(self.directions):
            return direction
        raise NameUnknownError(argument, "direction", direction, self.directions)

    def neighbors(self, cell: CellLike) -> Cells:
        """The cells next to a cell that are on the grid, in the order of `directions`.

        Raises
        ------
        CellError
            ``cell`` is none, or off the grid.

        Examples
        --------
        >>> import understep as us
        >>> list(us.HexGrid(5, 5).neighbors((0, 1)))
        [Cell(col=1, row=0), Cell(col=1, row=1), Cell(col=1, row=2), Cell(col=0, row=2), \
Cell(col=0, row=0)]
        """
        here = np.array(self.require(cell))
        around = self.around(here)
        return Cells(around[self.holds(around)])

    def step(self, cell: CellLike, direction: str | int, n: int = 1) -> Cell | None:
        """The cell ``n`` steps away in a direction; None where that is off the grid.

        Raises
        ------
        CellError
            ``cell`` is none, or off the grid.
        NameUnknownError
            The grid has no such direction.
        """
        here = np.array(self.require(cell))
        way = self.way(direction)
        for _ in range(n):
            here = here + self.deltas[int(self.lines(here)), way]
        there = Cell(*here.tolist())
        return there if there in self else None

    def direction(self, a: CellLike, b: CellLike) -> str | None:
        """The name of the direction in which ``b`` is next to ``a``; None if it is not next to it.

        Raises
        ------
        CellError
            ``a`` or ``b`` is no cell, or off the grid.
        """
        start = np.array(self.require(a, "a"))
        gap = np.array(self.require(b, "b")) - start
        match = (self.deltas[int(self.lines(start))] == gap).all(axis=-1)
        return self.directions[int(match.argmax())] if match.any() else None

    def distance(self, a: CellsLike, b: CellsLike) -> Any:
        """The number of steps between cells on an empty board.

        Parameters
        ----------
        a, b
            Cells or arrays ``(..., 2)`` that broadcast against each other; off the grid is fine.

        Returns
        -------
        int, or ndarray of int64
            An int for two single cells, else the broadcast shape without the last axis.

        Raises
        ------
        CellError
            A value that is no cell.

        Examples
        --------
        >>> import understep as us
        >>> us.HexGrid(9, 9).distance((0, 0), [(3, 0), (3, 3)]).tolist()
        [3, 5]
        """
        steps = self._distance(cells_array(a, "a"), cells_array(b, "b"))
        return int(steps) if steps.ndim == 0 else steps

    def center(self, cells: CellsLike) -> FloatArray:
        """World points of the middles of cells.

        Parameters
        ----------
        cells
            One cell, cells, or an integer array ``(..., 2)``; off the grid is fine.

        Returns
        -------
        ndarray of float64, shape ``(..., 2)``
            x and y in world units. A new array.

        Raises
        ------
        CellError
            A value that is no cell.
        """
        return self._center(cells_array(cells, "cells"))

    def corners(self, cells: CellsLike) -> FloatArray:
        """World points of the corners of cells.

        Parameters
        ----------
        cells
            One cell, cells, or an integer array ``(..., 2)``; off the grid is fine.

        Returns
        -------
        ndarray of float64, shape ``(..., 4 or 6, 2)``
            x and y in world units, once around each cell. A new array.

        Raises
        ------
        CellError
            A value that is no cell.
        """
        return self._center(cells_array(cells, "cells"))[..., None, :] + self._outline()

    def cell_at(self, point: tuple[float, float]) -> Cell | None:
        """The cell whose polygon holds a world point; None off the grid.

        A point on a border belongs to the cell on its lower right (on hexes: as `round_cube` says).

        Raises
        ------
        InputError
            ``point`` is not two finite numbers.
        """
        try:
            x, y = map(float, point)
        except (TypeError, ValueError):
            raise InputError("point", "must be two numbers (x, y)", point) from None
        if not (np.isfinite(x) and np.isfinite(y)):
            raise InputError("point", "must be finite", point)
        found = Cell(*self._cells_at(np.array([x, y])).tolist())
        return found if found in self else None

    @property
    def cell_size(self) -> tuple[float, float]:
        """Width and height of a cell in world units."""
        raise NotImplementedError

    def _distance(self, a: IntArray, b: IntArray) -> IntArray:
        raise NotImplementedError

    def _center(self, cells: IntArray) -> FloatArray:
        raise NotImplementedError

    def _outline(self) -> FloatArray:
        raise NotImplementedError

    def _cells_at(self, points: FloatArray) -> IntArray:
        raise NotImplementedError
