"""The blocks of a board: cells closed to everybody or to one side, over any terrain."""

from __future__ import annotations

import numpy as np

from understep.boards.contents import Contents
from understep.boards.store import Layer
from understep.boards.surface import Where, Write, numbers_of
from understep.checks import expect, text
from understep.errors import InputError
from understep.grids.cell import CellLike, Cells

MOST_SIDES = 64
MOST_BLOCKS = 255


class Blocks:
    """Obstacles on cells."""

    def __init__(self, contents: Contents, change: Write) -> None:
        self._contents, self._change, self._grid = contents, change, contents.grid

    def add(self, cells: Where, side: str | None) -> None:
        """Block cells once more."""
        numbers, layer = np.unique(numbers_of(self._grid, cells)), self._layer(side)
        counts = layer.array[numbers]
        if (counts == MOST_BLOCKS).any():
            cell = self._grid.numbering.cell_of(int(numbers[counts == MOST_BLOCKS][0]))
            raise InputError("cells", f"a cell can be blocked {MOST_BLOCKS} times", tuple(cell))
        self._change(layer, numbers, counts + np.uint8(1), numbers)

    def clear(self, cells: Where | None, side: str | None) -> None:
        """Take one block from each cell, or all from all."""
        if cells is None:
            for layer in map(self._layer, self._contents.blocked_sides if side is None else [side]):
                numbers = np.flatnonzero(layer.array)
                self._change(layer, numbers, np.uint8(0), numbers)
            return
        numbers, layer = np.unique(numbers_of(self._grid, cells)), self._layer(side)
        numbers = numbers[layer.array[numbers] > 0]
        self._change(layer, numbers, layer.array[numbers] - np.uint8(1), numbers)

    def _layer(self, side: str | None) -> Layer:
        """How often each cell is blocked to a side, or to everybody."""
        if side is not None:
            text("to", side)
        known = self._contents.blocked_sides
        if side not in known and len(known) >= MOST_SIDES:
            raise InputError("to", f"at most {MOST_SIDES} sides can have cells closed", side)
        found: Layer = self._contents.store(("block", side))
        return found

    def blocked(self, cell: CellLike, side: str | None) -> bool:
        """Whether a cell is blocked to everybody, or to a side."""
        expect("to", side, (str, type(None)), "must name a side, or be None")
        return self._contents.blocked(self._grid.numbering.of(cell), side=side)

    def times(self, side: str | None, times: int) -> Cells:
        """The cells that are blocked at least so many times."""
        counts = self._contents.blocks(side)
        return Cells(self._grid.numbering.cells_of(np.flatnonzero(counts >= times)))

    def layers(self, side: str | None) -> list[Cells]:
        """The cells that are blocked, then those blocked at least twice, and so on."""
        most = int(self._contents.blocks(side).max(initial=0))
        return [self.times(side, times) for times in range(1, most + 1)]
