"""Foes: where those of a side stand, for movements that they close corners to."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from understep.boards.board import Board
from understep.grids.cell import IntArray
from understep.rules.movement import Movement


class Foes:
    """On which cells foes of a side stood in a layer, when it was last looked at."""

    def __init__(self, board: Board, layer: str, side: str) -> None:
        self._layer, self._side = layer, side
        #: 1 on each cell that a foe takes up, by number; replaced, never altered.
        self.cells: NDArray[np.uint8] = np.zeros(board.grid.cols * board.grid.rows, dtype=np.uint8)
        #: Whether a unit may have come, gone or moved since.
        self.moved = True
        self.look(board)

    def look(self, board: Board) -> IntArray:
        """The numbers of the cells that differ from what was seen last."""
        who, own = board._roster.codes(self._layer), board._roster.code(self._side)
        now = ((who != 0) & (who != own)).view(np.uint8)
        before, self.cells, self.moved = self.cells, now, False
        found: IntArray = np.flatnonzero(now != before)
        return found


def closing(board: Board, movement: Movement) -> str | None:
    """The layer whose foes close corners to a movement; None where none do."""
    diagonal = board.grid.kind == "square" and len(board.grid.directions) == 8
    heeds = movement.foe_corners and movement.corners != "free"
    return movement.layer if diagonal and heeds else None
