"""The features that lie on a board, and its blocks: how many of each kind on every cell.

Blocks are the kind that every board has: they close cells to everybody, or to one side.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from understep.boards.contents import Contents, PartKey
from understep.boards.feature import Placed
from understep.boards.store import Layer
from understep.boards.surface import Where, Write, numbers_of
from understep.checks import expect, named, text, whole
from understep.errors import InputError
from understep.grids.cell import CellLike, Cells, IntArray

MOST_SIDES = 64
MOST_OF_A_KIND = 255


class Features:
    """Things on cells, each kind by its part of the contents."""

    def __init__(self, contents: Contents, change: Write) -> None:
        self._contents, self._change, self._grid = contents, change, contents.grid

    def kind(self, name: object, argument: str = "kind") -> PartKey:
        """The part of a kind of feature."""
        return "feature", named(argument, "feature", name, self._contents.declared.features)

    def blocks(self, side: str | None) -> PartKey:
        """The part of the blocks of a side, or of everybody."""
        if side is not None:
            text("side", side)
        known = self._contents.blocked_sides
        # each side has a layer of its own
        if side not in known and len(known) >= MOST_SIDES:
            raise InputError("side", f"at most {MOST_SIDES} sides can have cells closed", side)
        return "block", side

    def add(self, key: PartKey, cells: Where) -> IntArray:
        """Lay one more on each cell; their numbers."""
        # a cell that is named twice gets one
        numbers, layer = np.unique(numbers_of(self._grid, cells)), self._layer(key)
        counts = layer.array[numbers]
        if (counts == MOST_OF_A_KIND).any():
            cell = self._grid.numbering.cell_of(int(numbers[counts == MOST_OF_A_KIND][0]))
            rule = f"at most {MOST_OF_A_KIND} of a kind can lie on a cell"
            raise InputError("cells", rule, tuple(cell))
        self._change(layer, numbers, counts + np.uint8(1), numbers)
        return numbers

    def take(self, key: PartKey, cells: Where | None, must: bool = False) -> None:
        """Take one from each cell, or all from all; ``must``: there has to be one."""
        layer = self._layer(key)
        if cells is None:
            # the undo of this is as large as what lay there, not as the board
            numbers = np.flatnonzero(layer.array)
            if len(numbers):
                self._change(layer, numbers, np.uint8(0), numbers)
            return
        numbers = np.unique(numbers_of(self._grid, cells))
        # of blocks, cells may be named that have none
        there = layer.array[numbers] > 0
        if must and not there.all():
            cell = self._grid.numbering.cell_of(int(numbers[~there][0]))
            raise InputError("cells", f"no {key[1]!r} lies there", tuple(cell))
        numbers = numbers[there]
        self._change(layer, numbers, layer.array[numbers] - np.uint8(1), numbers)

    def clear(self, cells: Where | None, side: str | None) -> None:
        """Take blocks away: without cells and side those for everybody and for each side."""
        every = side is None and cells is None
        for each in self._contents.blocked_sides if every else [side]:
            self.take(self.blocks(each), cells)

    def set_counts(self, kind: str, name: str | None, cells: Where, counts: list[int]) -> None:
        """Set how many of a kind lie on each cell, as edits tell it."""
        named("part", "part", kind, ("feature", "block"))
        key = self.kind(name) if kind == "feature" else self.blocks(name)
        numbers = numbers_of(self._grid, cells)
        checked = [whole("to", count, 0, MOST_OF_A_KIND) for count in counts]
        self._change(self._layer(key), numbers, np.array(checked, dtype=np.uint8), numbers)

    def _layer(self, key: PartKey) -> Layer:
        """How many lie on each cell."""
        found: Layer = self._contents.store(key)
        return found

    def blocked(self, cell: CellLike, side: str | None) -> bool:
        """Whether a cell is blocked to everybody, or to a side."""
        expect("side", side, (str, type(None)), "must name a side, or be None")
        return self._contents.blocked(self._grid.numbering.of(cell), side=side)

    def on(self, cell: CellLike) -> tuple[str, ...]:
        """The kinds that lie on a cell, in the order of the table; of several, several times."""
        number = self._grid.numbering.of(cell)
        every = self._contents.features
        return tuple(name for name, counts in every.items() for _ in range(int(counts[number])))

    def all(self) -> tuple[Placed, ...]:
        """All that lies on the board, kind by kind: the cells with one, then those with two, ..."""
        return tuple(
            Placed(name, cells)
            for name, counts in self._contents.features.items()
            for cells in self.layers(counts)
        )

    def times(self, side: str | None, times: int) -> Cells:
        """The cells that are blocked at least so many times."""
        expect("side", side, (str, type(None)), "must name a side, or be None")
        return self._cells(self._contents.blocks(side) >= times)

    def layers(self, counts: NDArray[np.uint8]) -> list[Cells]:
        """The cells with one at least, then those with two at least, and so on."""
        most = int(counts.max(initial=0))
        return [self._cells(counts >= times) for times in range(1, most + 1)]

    def _cells(self, mask: NDArray[np.bool_]) -> Cells:
        return self._grid.numbering.cells(np.flatnonzero(mask))
