"""Kept: the reaches that units had, as long as nothing has changed that matters to them."""

from __future__ import annotations

from threading import Lock
from typing import Any, Generic, Protocol, TypeVar

from understep.boards.board import Board
from understep.boards.derived import Watcher
from understep.boards.unit import Unit
from understep.grids.cell import IntArray

MOST_LABELS = 1 << 16  # a larger reach is not kept
MOST_IN_ALL = 1 << 20  # labels of all reaches of a board
SMALL = 64  # labels, about, that a reach takes besides its own
FEW_LABELS = 512  # a smaller one is found again sooner than changes are looked through


class Keepable(Protocol):
    """What is kept: how large it is, and where a change could alter it."""

    unit: Unit

    @property
    def labelled(self) -> int:
        """How many labels it holds."""

    @property
    def surroundings(self) -> tuple[IntArray, IntArray] | None:
        """The first and last cell of all whose change could alter it; None: any."""


R = TypeVar("R", bound=Keepable)


class KeptReaches(Watcher, Generic[R]):
    """The last reach of every unit of a board, by its number of turns."""

    def __init__(self, board: Board) -> None:
        self._board = board
        self._known: dict[tuple[str, int | None], tuple[int, R]] = {}
        self._held, self._lock = 0, Lock()

    def touched(self, numbers: IntArray) -> None:
        """States tell what has changed."""

    def share(self, board: Board) -> KeptReaches[R]:
        """A copy of the board keeps its own."""
        return KeptReaches(board)

    def find(self, name: str, turns: int | None) -> R | None:
        """The reach of a unit, if it still holds."""
        known = self._known.get((name, turns))
        if known is None:
            return None
        state, reach = known
        if state == self._board.state:
            return reach
        # looking through the changes would take longer than a new search
        if reach.labelled < FEW_LABELS or not self._untouched(state, reach):
            return None
        with self._lock:
            if (name, turns) in self._known:
                self._known[name, turns] = self._board.state, reach
        return reach

    def _untouched(self, state: int, reach: R) -> bool:
        """Whether everything that has changed since lies outside of the cells that matter."""
        changed = self._board.changed_since(state)
        box = reach.surroundings
        if changed is None or box is None:
            return False
        low, high = box
        inside = (changed.array >= low) & (changed.array <= high)
        return not inside.all(axis=-1).any()

    def keep(self, turns: int | None, reach: R) -> R:
        """Keep a reach, unless it is too large."""
        if reach.labelled <= MOST_LABELS:
            with self._lock:
                self._drop((reach.unit.name, turns))
                self._known[reach.unit.name, turns] = self._board.state, reach
                self._held += reach.labelled + SMALL
                while self._held > MOST_IN_ALL:
                    self._drop(next(iter(self._known)))
        return reach

    def _drop(self, key: tuple[str, int | None]) -> None:
        if key in self._known:
            self._held -= self._known.pop(key)[1].labelled + SMALL


def kept(board: Board) -> KeptReaches[Any]:
    """The reaches kept with a board."""
    return board._derived.get(("reaches",), lambda: KeptReaches[Any](board))
