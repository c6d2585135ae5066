"""The blocks of a board: cells closed to everybody or to one side, whatever lies beneath."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from understep.boards.ground import Where
from understep.boards.links import Links
from understep.boards.store import Layer
from understep.errors import InputError, expect
from understep.grids.cell import CellLike, Cells

MOST_BARS = 64
NOBODY: NDArray[np.bool_] = np.zeros(0, dtype=bool)


class Blocks(Links):
    """Obstacles over the ground."""

    _bars: dict[str | None, Layer]  # by the side they are closed to; None: everybody
    _shut_out: frozenset[str]  # sides to which some terrain is closed

    def block(self, cells: Where, to: str | None = None) -> None:
        """Close cells to everybody, or to one side, whatever their terrain.

        The terrain stays as it is beneath; `clear` brings it back.

        Parameters
        ----------
        cells
            The cells, as for `paint`: of a shape, ``us.cover(board.grid, shape)``; of a rectangle,
            ``board.grid.rectangle(a, b)``.
        to
            The side they are closed to; None: everybody.

        Raises
        ------
        CellError
            A cell that is none, or off the board.
        OccupiedError
            A unit that could not stand there any more stands on one of the cells.
        InputError
            A side that is no text.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1, "mud": 3})
        >>> board.block(board.grid.rectangle((1, 0), (2, 2)))
        >>> board.clear((1, 1))
        >>> len(board.blocks()), board.blocked((1, 1)), board.blocked((2, 1))
        (5, False, True)
        """
        self._bar(cells, to, True)

    def clear(self, cells: Where | None = None, to: str | None = None) -> None:
        """Open cells that `block` has closed to everybody, or to one side; by default all of them.

        Raises
        ------
        CellError
            A cell that is none, or off the board.
        InputError
            A side that is no text.
        """
        self._bar(self.grid.cells if cells is None else cells, to, False)

    def _bar(self, cells: Where, to: str | None, closed: bool) -> None:
        numbers = self.numbers(cells)
        if to is not None and (not isinstance(to, str) or not to.strip()):
            raise InputError("to", "must be the name of a side, or None", to)
        if to not in self._bars:
            if len(self._bars) >= MOST_BARS:
                raise InputError("to", f"at most {MOST_BARS} sides can have cells closed", to)
            self._bars[to] = Layer(np.zeros(self.grid.cols * self.grid.rows, dtype=bool))
        self._change(self._bars[to], numbers, closed, numbers)

    def blocked(self, cell: CellLike, to: str | None = None) -> bool:
        """Whether `block` has closed a cell to everybody, or to a side that is given.

        Raises
        ------
        CellError
            ``cell`` is none, or off the board.
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
        return Cells(self.grid.cells_of(np.flatnonzero(self.bars(to))))

    @property
    def barred_sides(self) -> tuple[str, ...]:
        """The sides that have or had cells closed to them, in order of their names."""
        return tuple(sorted(side for side in self._bars if side is not None))

    def bars(self, to: str | None) -> NDArray[np.bool_]:
        """Whether each cell, by number, is closed to a side, or to everybody; for step tables.

        A view; empty where none ever was.
        """
        layer = self._bars.get(to)
        return NOBODY if layer is None else layer.array

    def apart(self, side: str) -> str:
        """The side, if anything was ever closed to it in particular; else empty: as for anybody."""
        return side if side in self._bars or side in self._shut_out else ""
