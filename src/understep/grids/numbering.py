"""The numbering of a grid: which cells exist, and each one's place in row-by-row order."""

from __future__ import annotations

from functools import cached_property
from typing import Any, TypeAlias

import numpy as np
from numpy.typing import NDArray

from understep.checks import whole
from understep.errors import CellError, InputError
from understep.grids.cell import (
    Cell,
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
#: Rows and columns of an array of cells.
Part: TypeAlias = tuple[slice, slice]


def overlap(
    first: tuple[int, int], size: tuple[int, int], other: tuple[int, int],
    other_size: tuple[int, int],
) -> tuple[Part, Part]:  # fmt: skip
    """The rectangle that two have in common, as a part of each; empty where they have none."""
    low = [max(pair) for pair in zip(first, other, strict=True)]
    ends = zip(low, first, size, other, other_size, strict=True)
    high = [max(at, min(a + many, b + more)) for at, a, many, b, more in ends]
    here, there = (
        (slice(low[1] - row, high[1] - row), slice(low[0] - col, high[0] - col))
        for col, row in (first, other)
    )
    return here, there


def check_size(argument: str, cols: int, rows: int) -> None:
    """Refuse a size of more cells than a grid can have."""
    if cols * rows > MOST_CELLS:
        raise InputError(argument, "a grid has at most 2**28 cells", (cols, rows))


class Numbering:
    """A rectangle of cells of a lattice, with or without holes; holes are numbered too."""

    def __init__(self, lattice: Lattice, cols: Any, rows: Any, first: Any, exists: Any) -> None:
        self.lattice = lattice
        self.cols, self.rows = whole("cols", cols, 1), whole("rows", rows, 1)
        check_size("cols", self.cols, self.rows)
        self.first = near_cell(first, "first")
        self.last = Cell(self.first[0] + self.cols - 1, self.first[1] + self.rows - 1)
        # most grids have no holes, and then no mask is looked at
        self.mask: NDArray[np.bool_] | None = None  # by number; None: every cell exists
        if exists is not None:
            mask = array_of("exists", exists)
            if mask.dtype != np.bool_ or mask.shape != (self.rows, self.cols):
                rule = f"must be true or false for every cell, of shape {(self.rows, self.cols)}"
                raise InputError("exists", rule, (mask.dtype.name, mask.shape))
            if not mask.any():
                raise InputError("exists", "a grid has at least one cell", 0)
            if not mask.all():
                self.mask = mask.ravel().copy()
                self.mask.flags.writeable = False

    @property
    def exists(self) -> NDArray[np.bool_]:
        """Whether each cell of the rectangle exists, ``(rows, cols)``. A view, read-only."""
        if self.mask is None:
            return np.broadcast_to(np.True_, (self.rows, self.cols))
        return self.mask.reshape(self.rows, self.cols)

    @property
    def existing(self) -> IntArray:
        """The numbers of all cells."""
        if self.mask is None:
            return np.arange(self.cols * self.rows)
        return np.flatnonzero(self.mask)

    def has(self, col: int, row: int) -> bool:
        """Whether a cell, given as whole numbers, exists."""
        col, row = col - self.first[0], row - self.first[1]
        inside = 0 <= col < self.cols and 0 <= row < self.rows
        return inside and (self.mask is None or bool(self.mask[row * self.cols + col]))

    def holds(self, cells: IntArray) -> NDArray[np.bool_]:
        """Whether cells ``(..., 2)`` exist, ``(...)``."""
        cols, rows = cells[..., 0] - self.first[0], cells[..., 1] - self.first[1]
        # unsigned, a negative number is above every size
        inside: Any = (cols.view(np.uint64) < self.cols) & (rows.view(np.uint64) < self.rows)
        if self.mask is not None:
            inside = inside & self.mask[np.where(inside, rows * self.cols + cols, 0)]
        return inside  # type: ignore[no-any-return]

    def covers(self, cells: IntArray) -> NDArray[np.bool_]:
        """Whether cells ``(..., 2)`` lie in the rectangle, holes included, ``(...)``."""
        inside: NDArray[np.bool_] = np.all((cells >= self.first) & (cells <= self.last), axis=-1)
        return inside

    def require(self, cell: object, argument: str = "cell") -> Cell:
        """Return a value as a cell of the grid.

        Raises
        ------
        CellError
            It is not a pair of whole numbers, or not on the grid.
        """
        found = one_cell(cell, argument)
        if self.has(*found):
            return found
        (left, top), (right, bottom) = self.first, self.last
        rule = f"must lie on the board, {tuple(self.first)} to {tuple(self.last)}"
        inside = left <= found[0] <= right and top <= found[1] <= bottom
        raise CellError(argument, rule + (", which has no such cell" if inside else ""), cell)

    def listed(self, cells: Any, argument: str = "cells") -> Any:
        """The cells of a boolean mask ``(rows, cols)``, row by row; anything else as it is.

        Raises
        ------
        InputError
            A mask of another shape.
        """
        numbers = self.masked(cells, argument)
        return cells if numbers is None else self.cells_of(numbers)

    def masked(self, cells: Any, argument: str = "cells") -> IntArray | None:
        """The numbers of the cells of a boolean mask, as of `listed`; None: it is not a mask."""
        if not isinstance(cells, np.ndarray) or cells.dtype != np.bool_:
            return None
        if cells.shape != (self.rows, self.cols):
            rule = f"a mask must have the shape {(self.rows, self.cols)}"
            raise InputError(argument, rule, cells.shape)
        return np.flatnonzero(cells & self.exists)

    def require_all(self, cells: CellsLike, argument: str = "cells") -> IntArray:
        """Return cells, or those of a mask, as an array ``(..., 2)`` of cells of the grid.

        Raises
        ------
        CellError
            One of them is not a pair of whole numbers, or not on the grid.
        """
        array = cells_array(self.listed(cells, argument), argument)
        inside = self.holds(array)
        if not inside.all():
            self.require(tuple(array[~inside][0].tolist()), argument)
        return array

    def within(self, cells: IntArray) -> Cells:
        """Those of some cells ``(n, 2)`` that exist, in their order."""
        return Cells(cells[self.holds(cells)])

    def number(self, cell: Cell) -> int:
        """The place of a cell (known to be on the grid) in row-by-row order, holes counted."""
        return (cell[1] - self.first[1]) * self.cols + cell[0] - self.first[0]

    def of(self, cell: object, argument: str = "cell") -> int:
        """As `number`, for any value; raises as `require` does."""
        return self.number(self.require(cell, argument))

    def numbers(self, cells: IntArray) -> IntArray:
        """As `number`, for an array ``(..., 2)``."""
        return (cells[..., 1] - self.first[1]) * self.cols + cells[..., 0] - self.first[0]

    def inside(self, cells: IntArray) -> IntArray:
        """As `numbers`, of those cells that exist: ``(n,)``."""
        return self.numbers(cells[self.holds(cells)])

    def cell_of(self, number: int) -> Cell:
        """The cell at a place in row-by-row order."""
        row, col = divmod(int(number), self.cols)
        return Cell(col + self.first[0], row + self.first[1])

    def cells_of(self, numbers: NDArray[np.integer[Any]]) -> IntArray:
        """The cells ``(..., 2)`` at places in row-by-row order."""
        numbers = np.asarray(numbers, dtype=np.int64)
        found = np.empty((*numbers.shape, 2), dtype=np.int64)
        np.divmod(numbers, self.cols, out=(found[..., 1], found[..., 0]))
        if self.first != (0, 0):
            found += self.first
        return found

    def cells(self, numbers: NDArray[np.integer[Any]]) -> Cells:
        """The cells at some places in row-by-row order, as answers have them."""
        return Cells._over(self.cells_of(numbers))

    @cached_property
    def neighbors(self) -> NDArray[np.int32]:
        """By number and direction the number of the neighbor; -1: no neighbor."""
        around = self.lattice.around(self.cells_of(np.arange(self.cols * self.rows)))
        there = self.holds(around)
        return np.where(there, self.numbers(around), -1).astype(np.int32)

    def beside(self, number: int) -> list[int]:
        """The numbers of the cells beyond a cell's own edges; corners left out."""
        col, row = self.cell_of(number)
        steps = self.lattice.steps_from(col, row)
        near = (steps[way] for way in self.lattice.edge_ways)
        return [number + y * self.cols + x for x, y in near if self.has(col + x, row + y)]

    # Kernels count rows and columns from the first cell.

    @property
    def staggering(self) -> tuple[int, int]:
        """The stagger of the lattice, and the parity that belongs to the first line."""
        stagger, parity = self.lattice.stagger, self.lattice.parity
        return stagger, (parity + self.first[1 if stagger == 1 else 0]) & 1

    @cached_property
    def shifts(self) -> NDArray[np.int32]:
        """What a step adds to a number, by half of `deltas` and direction, in one row."""
        steps = self.lattice.deltas[..., 1] * self.cols + self.lattice.deltas[..., 0]
        return steps.astype(np.int32).ravel()
