"""The shape of a grid: which cells exist, their numbers and their neighbors."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cached_property
from typing import Any, cast

import numpy as np
from numpy.typing import NDArray

from understep.errors import CellError, InputError, whole
from understep.grids.cell import (
    Cell,
    CellLike,
    Cells,
    CellsLike,
    IntArray,
    array_of,
    cells_array,
    near_cell,
    one_cell,
)
from understep.grids.lattice import Lattice

MOST_CELLS = 1 << 28


class GridShape(Lattice):
    """A rectangle of cells, with or without holes."""

    def __init__(self, cols: int, rows: int, first: CellLike, exists: Any) -> None:
        self.cols, self.rows = whole("cols", cols, 1), whole("rows", rows, 1)
        if self.cols * self.rows > MOST_CELLS:
            raise InputError("cols", "a grid has at most 2**28 cells", (cols, rows))
        self.first = near_cell(first, "first")
        self._mask: NDArray[np.bool_] | None = None  # by number; None: every cell exists
        if exists is not None:
            mask = array_of("exists", exists)
            if mask.dtype != np.bool_ or mask.shape != (self.rows, self.cols):
                rule = f"must be true or false for every cell, of shape {(self.rows, self.cols)}"
                raise InputError("exists", rule, (mask.dtype.name, mask.shape))
            if not mask.any():
                raise InputError("exists", "a grid has at least one cell", 0)
            if not mask.all():
                self._mask = mask.ravel().copy()
                self._mask.flags.writeable = False

    @property
    def size(self) -> tuple[int, int]:
        """``(cols, rows)``: how many there are. The last cell is ``bounds[1]``."""
        return self.cols, self.rows

    @property
    def bounds(self) -> tuple[Cell, Cell]:
        """The first and the last cell of the rectangle, both included."""
        col, row = self.first
        return self.first, Cell(col + self.cols - 1, row + self.rows - 1)

    @property
    def exists(self) -> NDArray[np.bool_]:
        """Whether each cell of the rectangle exists, ``(rows, cols)``. A view, read-only."""
        if self._mask is None:
            return np.broadcast_to(np.True_, (self.rows, self.cols))
        return self._mask.reshape(self.rows, self.cols)

    @property
    def whole(self) -> bool:
        """Whether every cell of the rectangle exists."""
        return self._mask is None

    @property
    def cells(self) -> Cells:
        """All cells, row by row."""
        return Cells(self.cells_of(self.existing))

    @property
    def existing(self) -> IntArray:
        """The numbers of all cells."""
        if self._mask is None:
            return np.arange(self.cols * self.rows)
        return np.flatnonzero(self._mask)

    def __len__(self) -> int:
        return self.cols * self.rows if self._mask is None else int(self._mask.sum())

    def __iter__(self) -> Iterator[Cell]:
        return iter(self.cells)

    def has(self, col: int, row: int) -> bool:
        """Whether a cell, given as whole numbers, exists."""
        col, row = col - self.first[0], row - self.first[1]
        inside = 0 <= col < self.cols and 0 <= row < self.rows
        return inside and (self._mask is None or bool(self._mask[row * self.cols + col]))

    def __contains__(self, cell: object) -> bool:
        try:
            col, row = cast(Any, cell)
            return bool(col == int(col) and row == int(row) and self.has(int(col), int(row)))
        except (TypeError, ValueError, OverflowError):
            return False

    def holds(self, cells: IntArray) -> NDArray[np.bool_]:
        """Whether cells ``(..., 2)`` exist, ``(...)``."""
        cols, rows = cells[..., 0] - self.first[0], cells[..., 1] - self.first[1]
        # unsigned, a negative number is above every size
        inside: Any = (cols.view(np.uint64) < self.cols) & (rows.view(np.uint64) < self.rows)
        if self._mask is not None:
            inside = inside & self._mask[np.where(inside, rows * self.cols + cols, 0)]
        return inside  # type: ignore[no-any-return]

    def covers(self, cells: IntArray) -> NDArray[np.bool_]:
        """Whether cells ``(..., 2)`` lie in the rectangle, holes included, ``(...)``."""
        low, high = self.bounds
        inside: NDArray[np.bool_] = np.all((cells >= low) & (cells <= high), axis=-1)
        return inside

    def require(self, cell: object, argument: str = "cell") -> Cell:
        """Return a value as a cell of this grid.

        Raises
        ------
        CellError
            It is no cell, or lies off the grid or in a hole of it.
        """
        found = one_cell(cell, argument)
        if self.has(*found):
            return found
        low, high = self.bounds
        rule = f"must lie on the board, {tuple(low)} to {tuple(high)}"
        inside = low[0] <= found[0] <= high[0] and low[1] <= found[1] <= high[1]
        raise CellError(argument, rule + (", which has no such cell" if inside else ""), cell)

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
            A value that is not a cell, or a cell off the grid.

        Examples
        --------
        >>> import numpy as np, understep as us
        >>> grid = us.SquareGrid(3, 2, first=(-1, -1))
        >>> levels = np.array([[0, 0, 1], [0, 2, 3]])
        >>> int(levels[grid.index((1, 0))]), levels[grid.index([(-1, 0), (0, 0)])].tolist()
        (3, [0, 2])
        """
        array = self.require_all(cells)
        return array[..., 1] - self.first[1], array[..., 0] - self.first[0]

    def number(self, cell: Cell) -> int:
        """The place of a cell (known to be on the grid) in row-by-row order, holes counted."""
        return (cell[1] - self.first[1]) * self.cols + cell[0] - self.first[0]

    @property
    def line_parity(self) -> int:
        """The parity as kernels take it: they count rows and columns from the first cell."""
        return (self.parity + self.first[1 if self.stagger == 1 else 0]) & 1

    @property
    def shifts(self) -> NDArray[np.int32]:
        """What a step adds to a number, by half of `deltas` and direction, in one row."""
        steps = self.deltas[..., 1] * self.cols + self.deltas[..., 0]
        return steps.astype(np.int32).ravel()

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

    def on_board(self, cells: IntArray) -> Cells:
        """Those of some cells ``(n, 2)`` that exist, in their order."""
        return Cells(cells[self.holds(cells)])

    def neighbors(self, cell: CellLike) -> Cells:
        """The cells next to a cell, clockwise from north.

        Raises
        ------
        CellError
            ``cell`` is not a cell, or lies off the grid.

        Examples
        --------
        >>> import understep as us
        >>> us.SquareGrid(3, 3).neighbors((0, 0))
        Cells([(1, 0), (0, 1)], 2)
        """
        col, row = self.require(cell)
        deltas = self._delta_lists[self._line(col, row)]
        return Cells.of(Cell(col + x, row + y) for x, y in deltas if self.has(col + x, row + y))

    def beside(self, number: int) -> list[int]:
        """The numbers of the cells beyond a cell's own edges, by number; corners left out."""
        col, row = self.cell_of(number)
        deltas = self._delta_lists[self._line(col, row)]
        near = (deltas[way] for way in self.edge_ways)
        return [number + y * self.cols + x for x, y in near if self.has(col + x, row + y)]

    def _line(self, col: int, row: int) -> int:
        return ((row if self.stagger == 1 else col) + self.parity) & 1 if self.stagger else 0

    @cached_property
    def _delta_lists(self) -> list[list[list[int]]]:
        return self.deltas.tolist()  # type: ignore[no-any-return]

    def step(self, cell: CellLike, direction: str | int, n: int = 1) -> Cell | None:
        """The cell ``n`` steps away in a direction; None where that is off the grid.

        Raises
        ------
        CellError
            ``cell`` is not a cell, or lies off the grid.
        NameUnknownError
            The grid has no such direction.
        InputError
            ``n`` is no whole number.
        """
        way, n = self.way(direction), whole("n", n)
        x, y = self._plane(*self.require(cell))
        across, down = self.vectors[way].tolist()
        col, row = self._address(x + n * across, y + n * down)
        return Cell(col, row) if self.has(col, row) else None

    def direction(self, a: CellLike, b: CellLike) -> str | None:
        """The name of the direction in which ``b`` is next to ``a``; None if it is not next to it.

        Raises
        ------
        CellError
            ``a`` or ``b`` is no cell, or off the grid.
        """
        start, end = self.require(a, "a"), self.require(b, "b")
        gap = [end[0] - start[0], end[1] - start[1]]
        deltas = self._delta_lists[self._line(*start)]
        return self.directions[deltas.index(gap)] if gap in deltas else None

    def exits(self, cells: CellsLike | None = None) -> NDArray[np.uint8]:
        """For each cell, the directions in which another of some cells lies next to it.

        For tiles that join up, such as roads or shores, and for counting neighbors.

        Parameters
        ----------
        cells
            The cells that count; by default all of the grid.

        Returns
        -------
        ndarray of uint8, shape ``(rows, cols)``
            Bit ``k`` is set where the neighbor in the ``k``-th of `directions` counts; 0 for cells
            that do not count themselves. `unpack` gives names. A new array.

        Raises
        ------
        CellError
            A value that is not a cell, or a cell off the grid.

        Examples
        --------
        >>> import understep as us
        >>> grid = us.SquareGrid(3, 3)
        >>> road = grid.exits([(0, 1), (1, 1), (1, 2)])
        >>> grid.unpack(road[grid.index((1, 1))])
        ('S', 'W')
        """
        if cells is None:
            numbers = self.existing
        else:
            numbers = np.unique(self.numbers(self.require_all(cells).reshape(-1, 2)))
        counts = np.zeros(self.cols * self.rows, dtype=bool)
        counts[numbers] = True
        around = self.around(self.cells_of(numbers))
        inside = self.holds(around)
        joined = inside & counts[np.where(inside, self.numbers(around), 0)]
        found = np.zeros(self.cols * self.rows, dtype=np.uint8)
        found[numbers] = np.packbits(joined, axis=1, bitorder="little")[:, 0]
        return found.reshape(self.rows, self.cols)
