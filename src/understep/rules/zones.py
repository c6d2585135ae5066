"""Zones of control: the cells that units hold around them."""

from __future__ import annotations

from threading import Lock
from typing import Any

import numpy as np
from numpy.typing import NDArray

from understep.boards.board import Board
from understep.boards.derived import Watcher
from understep.grids.cell import IntArray
from understep.rules.movement import Movement


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
        self._moved = {unit.name for unit in board.units()}

    def touched(self, numbers: IntArray) -> None:
        """Take note of the units beside which walls may have changed."""
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
        units = {unit.name: unit for unit in self._board.units()} if self._moved else {}
        # counts go up and down by what each unit holds, so that a move costs its own cells
        for name in self._moved:
            if name in self._known:
                other, numbers = self._known.pop(name)
                self._every[numbers] -= 1
                self._sides[other][numbers] -= 1
            unit = units.get(name)
            if unit is None or unit.layer != self._layer or not _guards(unit.movement):
                continue
            numbers = self._around(self._board.covered(unit))
            self._known[name] = unit.side, numbers
            self._every[numbers] += 1
            self._of(unit.side)[numbers] += 1
        self._moved = set()

    def _of(self, side: str) -> NDArray[np.uint8]:
        if side not in self._sides:
            self._sides[side] = np.zeros(self._cells, dtype=np.uint8)
        return self._sides[side]

    def _around(self, cells: Any) -> IntArray:
        """The numbers of the cells next to a unit on some cells that no wall parts from it."""
        grid = self._board.grid
        codes = self._board._contents.edges.array.reshape(-1, len(grid.directions))
        array = np.array(cells)
        near = grid.lattice.around(array)
        exists = grid.numbering.holds(near)
        open_to = exists & ~self._walls[codes[grid.numbering.numbers(array)]]
        if self._diagonal:
            numbers = np.where(exists, grid.numbering.numbers(near), 0)
            beyond = open_to[..., None] & ~self._walls[codes[numbers]]  # by neighbor and next step
            # a diagonal neighbor is held around one of the two corners, if its cell exists
            for way in range(1, 8, 2):
                left, right = way - 1, (way + 1) % 8
                open_to[:, way] &= beyond[:, left, right] | beyond[:, right, left]
        return np.setdiff1d(grid.numbering.numbers(near[open_to]), grid.numbering.numbers(array))


def _guards(movement: Any) -> bool:
    return isinstance(movement, Movement) and movement.guards


def zones(board: Board, layer: str) -> Zones:
    """The zones of a layer of a board."""
    return board._derived.get(("zones", layer), lambda: Zones(board, layer))
