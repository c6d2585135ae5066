"""Foes: where those of a side stand, for movements that they close corners to."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from understep.boards.board import Board
from understep.grids.cell import IntArray


class Foes:
    """On which cells foes of a side stood in a layer, when it was last looked at."""

    def __init__(self, layer: str, side: str) -> None:
        self._layer, self._side = layer, side
        #: Whether a unit may have come, gone or moved since.
        self.moved = True
        #: 1 on each cell that a foe takes up, by number; replaced, never altered.
        self.cells: NDArray[np.uint8] = np.zeros(0, dtype=np.uint8)

    def look(self, board: Board) -> IntArray:
        """The numbers of the cells that differ from what was seen last."""
        who, own = board.standing(self._layer), board.side_code(self._side)
        now = ((who != 0) & (who != own)).view(np.uint8)
        before, self.cells, self.moved = self.cells, now, False
        found: IntArray = np.flatnonzero(now != before if len(before) else now)
        return found
