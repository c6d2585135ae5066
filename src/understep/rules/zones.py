"""Zones of control: the cells that units hold around them."""

from __future__ import annotations

from threading import Lock
from typing import Any

import numpy as np
from numpy.typing import NDArray

from understep.boards.board import Board
from understep.boards.derived import Watcher
from understep.boards.unit import Unit
from understep.grids.cell import Cell, IntArray
from understep.rules.movement import Movement

MOST_ROWS = 1 << 12


class Zones(Watcher):
    """How many units hold each cell of a layer, in all and by side; kept in step with the units.

    A unit whose movement guards holds the cells next to it, unless an edge that blocks stands
    between; a diagonal neighbor, if around one of the two corners there is no such edge, either.
    """

    def __init__(self, board: Board, layer: str) -> None:
        self._board, self._layer, self._lock = board, layer, Lock()
        self._cells = board.grid.cols * board.grid.rows
        self._diagonal = board.grid.kind == "square" and len(board.grid.directions) == 8
        walls = [kind.blocks for kind in board.edge_kinds.values()]
        self._walls = np.zeros(256, dtype=bool)  # by the code of an edge; open doors do not block
        self._walls[1 : len(walls) + 1] = walls
        self._every = np.zeros(self._cells, dtype=np.uint8)
        self._sides: dict[str, NDArray[np.uint8]] = {}
        self._known: dict[str, tuple[str, IntArray]] = {}
        self._rows: dict[int, IntArray] = {}  # what units of one cell hold, by that cell
        self._moved = {unit.name for unit in board.units()}

    def touched(self, part: str, numbers: IntArray) -> None:
        """Take note of the units beside which walls have changed."""
        if part != "edges":
            return
        self._rows = {}
        if self._diagonal:  # an edge at a corner is not the unit's own
            grid = self._board.grid
            near = grid.lattice.around(grid.numbering.cells_of(np.unique(numbers))).reshape(-1, 2)
            numbers = np.append(numbers, grid.numbering.inside(near))
        self._moved.update(self._board._units.on(numbers))

    def manned(self, name: str) -> None:
        """Take note of a unit that came, went or moved."""
        self._moved.add(name)

    def share(self, board: Board) -> Zones:
        """A copy of the board counts its own."""
        return Zones(board, self._layer)

    def counts(self, side: str) -> tuple[NDArray[np.uint8], NDArray[np.uint8]]:
        """How many units hold each cell, and how many of one side; views."""
        with self._lock:  # of threads that ask at once, one counts
            self._count()
            return self._every, self._of(side)

    def _count(self) -> None:
        """See to the units that moved."""
        units = self._board._roster.values
        # counts go up and down by what each unit holds, so that a move costs its own cells
        for name in self._moved:
            if name in self._known:
                other, numbers = self._known.pop(name)
                self._every[numbers] -= 1
                self._sides[other][numbers] -= 1
            if name not in units:
                continue
            unit = units[name].unit
            if unit.layer != self._layer or not guards(unit):
                continue
            numbers = self._around(units[name].cells)
            self._known[name] = unit.side, numbers
            self._every[numbers] += 1
            self._of(unit.side)[numbers] += 1
        self._moved = set()

    def _of(self, side: str) -> NDArray[np.uint8]:
        if side not in self._sides:
            self._sides[side] = np.zeros(self._cells, dtype=np.uint8)
        return self._sides[side]

    def _around(self, cells: tuple[Cell, ...]) -> IntArray:
        """The numbers of the cells that a unit on some cells holds."""
        numbers = [self._board.grid.numbering.number(cell) for cell in cells]
        if len(numbers) > 1:
            rows = self.rows(np.array(numbers))
            return np.setdiff1d(rows[rows >= 0], numbers)
        # who thinks on a board puts units on the same cells again and again
        found = self._rows.get(numbers[0])
        if found is None:
            if len(self._rows) >= MOST_ROWS:
                self._rows = {}
            (row,) = self.rows(np.array(numbers))
            found = self._rows[numbers[0]] = row[row >= 0]
        return found

    def rows(self, numbers: NDArray[np.integer[Any]]) -> IntArray:
        """What a unit of one cell would hold from each of some cells, by number.

        ``(n, directions)``: a neighbor that no wall parts from it; -1 where it would hold none.
        """
        grid = self._board.grid
        codes = self._board._contents.edges.array.reshape(-1, len(grid.directions))
        near = grid.lattice.around(grid.numbering.cells_of(numbers))
        exists = grid.numbering.holds(near)
        beside = np.where(exists, grid.numbering.numbers(near), -1)
        open_to = exists & ~self._walls[codes[numbers]]
        if self._diagonal:
            beyond = open_to[..., None] & ~self._walls[codes[beside]]  # by neighbor and next step
            # a diagonal neighbor is held around one of the two corners, if its cell exists
            for way in range(1, 8, 2):
                left, right = way - 1, (way + 1) % 8
                open_to[:, way] &= beyond[:, left, right] | beyond[:, right, left]
        return np.where(open_to, beside, -1)


def guards(unit: Unit) -> bool:
    """Whether a unit holds the cells next to it."""
    return isinstance(unit.movement, Movement) and unit.movement.guards


def zones(board: Board, layer: str) -> Zones:
    """The zones of a layer of a board."""
    return board._derived.get(("zones", layer), lambda: Zones(board, layer))
