"""The blocks of a board: cells closed to everybody or to one side, over any terrain."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from understep.boards.ground import Where
from understep.boards.links import Links
from understep.boards.store import Layer
from understep.errors import InputError, expect, text
from understep.grids.cell import CellLike, Cells

MOST_BARS = 64
MOST_BLOCKS = 255
NOBODY: NDArray[np.uint8] = np.zeros(0, dtype=np.uint8)


class Blocks(Links):
    """Obstacles over the ground."""

    _bars: dict[str | None, Layer]  # by the side they are closed to; None: everybody
    _shut_out: frozenset[str]  # sides to which some terrain is closed

    def block(self, cells: Where, to: str | None = None) -> None:
        """Close cells to everybody, or to one side, over any terrain.

        The terrain stays as it is beneath. A cell can be blocked several times, by obstacles that
        overlap: it is open again when each of them is cleared. What is blocked can be seen over,
        as far as its terrain, edges and levels allow.

        Parameters
        ----------
        cells
            The cells, as for `paint`: of a shape, ``us.cover(board.grid, shape)``; of a rectangle,
            ``board.grid.rectangle(a, b)``. Each counts once a call.
        to
            The side they are closed to; None: everybody.

        Raises
        ------
        CellError
            A value that is not a cell, or a cell off the board.
        OccupiedError
            A unit that could not stand there any more stands on one of the cells.
        InputError
            A side that is no text, or a cell that is blocked 255 times already.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1, "mud": 3})
        >>> board.block(board.grid.rectangle((1, 0), (2, 2)))
        >>> board.block(board.grid.rectangle((2, 0), (3, 0)))
        >>> board.clear(board.grid.rectangle((1, 0), (2, 2)))
        >>> list(map(tuple, board.blocks())), board.blocked((2, 0)), board.blocked((2, 1))
        ([(2, 0), (3, 0)], True, False)
        """
        numbers, layer = np.unique(self.numbers(cells)), self._layer_of(to)
        counts = layer.array[numbers]
        if (counts == MOST_BLOCKS).any():
            cell = self.grid.cell_of(int(numbers[counts == MOST_BLOCKS][0]))
            raise InputError("cells", f"a cell can be blocked {MOST_BLOCKS} times", tuple(cell))
        self._change(layer, numbers, counts + np.uint8(1), numbers)

    def clear(self, cells: Where | None = None, to: str | None = None) -> None:
        """Take obstacles away that `block` has set.

        Parameters
        ----------
        cells
            The cells, from each of which one block is taken away, if there is any; by default all
            blocks of all cells are.
        to
            The side whose blocks they are; None: those for everybody, and without ``cells`` those
            for each side, too.

        Raises
        ------
        CellError
            A value that is not a cell, or a cell off the board.
        InputError
            A side that is no text.
        """
        if cells is None:
            sides = list(self._bars) if to is None else [to]
            for layer in map(self._layer_of, sides):
                numbers = np.flatnonzero(layer.array)
                self._change(layer, numbers, np.uint8(0), numbers)
            return
        numbers, layer = np.unique(self.numbers(cells)), self._layer_of(to)
        numbers = numbers[layer.array[numbers] > 0]
        self._change(layer, numbers, layer.array[numbers] - np.uint8(1), numbers)

    def _layer_of(self, to: str | None) -> Layer:
        """How often each cell is closed to a side, or to everybody."""
        if to is not None:
            text("to", to)
        if to not in self._bars:
            if len(self._bars) >= MOST_BARS:
                raise InputError("to", f"at most {MOST_BARS} sides can have cells closed", to)
            self._bars[to] = Layer(np.zeros(self.grid.cols * self.grid.rows, dtype=np.uint8))
        return self._bars[to]

    def blocked(self, cell: CellLike, to: str | None = None) -> bool:
        """Whether `block` has closed a cell to everybody, or to a side that is given.

        Raises
        ------
        CellError
            ``cell`` is not a cell, or lies off the board.
        InputError
            ``to`` is no text.
        """
        expect("to", to, (str, type(None)), "must name a side, or be None")
        return self._barred(self.grid.number(self.grid.require(cell)), to)

    def _barred(self, number: int, to: str | None) -> bool:
        for who in (None, to):
            layer = self._bars.get(who)
            if layer is not None and layer.array[number]:
                return True
        return False

    def blocks(self, to: str | None = None) -> Cells:
        """The cells closed to everybody, or those closed to one side, row by row."""
        return self._blocked_times(to, 1)

    def block_layers(self, to: str | None = None) -> list[Cells]:
        """The same, then the cells that are closed at least twice, and so on."""
        most = int(self.bars(to).max(initial=0))
        return [self._blocked_times(to, times) for times in range(1, most + 1)]

    def _blocked_times(self, to: str | None, times: int) -> Cells:
        """The cells that are closed at least so many times."""
        return Cells(self.grid.cells_of(np.flatnonzero(self.bars(to) >= times)))

    @property
    def barred_sides(self) -> tuple[str, ...]:
        """The sides that have or had cells closed to them, in order of their names."""
        return tuple(sorted(side for side in self._bars if side is not None))

    def bars(self, to: str | None) -> NDArray[np.uint8]:
        """How often each cell, by number, is closed to a side, or to everybody; for step tables.

        A view; empty where none ever was.
        """
        layer = self._bars.get(to)
        return NOBODY if layer is None else layer.array

    def apart(self, side: str) -> str:
        """The side, if anything was ever closed to it in particular; else empty: as for anybody."""
        return side if side in self._bars or side in self._shut_out else ""
