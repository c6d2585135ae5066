"""Kept: the reaches that units had, as long as nothing has changed that matters to them."""

from __future__ import annotations

from typing import TYPE_CHECKING

from understep.boards.board import Board, Watcher
from understep.grids.cell import IntArray

if TYPE_CHECKING:
    from understep.moves.reach import Reach

MOST_LABELS = 1 << 16  # a larger reach is not kept
FEW_LABELS = 512  # a smaller one is found again sooner than changes are looked through


class Kept(Watcher):
    """The last reach of every unit of a board, by its number of turns."""

    def __init__(self, board: Board) -> None:
        self._board = board
        self._known: dict[tuple[str, int | None], tuple[int, Reach]] = {}

    def touched(self, numbers: IntArray) -> None:
        """States tell what has changed."""

    def share(self, board: Board) -> Kept:
        """A copy of the board keeps its own."""
        return Kept(board)

    def find(self, name: str, turns: int | None) -> Reach | None:
        """The reach of a unit, if it still holds."""
        known = self._known.get((name, turns))
        if known is None:
            return None
        state, reach = known
        if state == self._board.state:
            return reach
        if reach.labelled < FEW_LABELS or not self._untouched(state, reach):
            return None
        self._known[name, turns] = self._board.state, reach
        return reach

    def _untouched(self, state: int, reach: Reach) -> bool:
        """Whether everything that has changed since lies outside of the cells that matter."""
        changed = self._board.changed_since(state)
        box = reach.surroundings
        if changed is None or box is None:
            return False
        low, high = box
        inside = (changed.array >= low) & (changed.array <= high)
        return not inside.all(axis=-1).any()

    def keep(self, turns: int | None, reach: Reach) -> Reach:
        """Keep a reach, unless it is too large."""
        if reach.labelled <= MOST_LABELS:
            self._known[reach.unit.name, turns] = self._board.state, reach
        return reach


def kept(board: Board) -> Kept:
    """The reaches kept with a board."""
    return board.derived("reaches", lambda: Kept(board))
