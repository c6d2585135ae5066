"""What is derived from a board, such as step tables: kept with it and notified of every change."""

from __future__ import annotations

from collections.abc import Callable
from threading import Lock
from typing import Any, TypeVar

from understep.grids.cell import IntArray

MANY = ("steps",), ("areas",), ("rows",)  # those that each movement or attack adds
MOVERS = ("movers",)  # these hold step tables, so that they go when one does
MOST = 64  # of these; the oldest go first
_lock = Lock()


class Watcher:
    """Something derived from a board, which is notified of changes."""

    #: Whether it depends only on contents that can change what is seen.
    sight = False

    def touched(self, part: str, numbers: IntArray) -> None:
        """Take note of cells, by number, where a part of the contents has changed."""

    def manned(self, name: str) -> None:
        """Take note of a unit that came, went or moved."""

    def share(self, board: Any) -> Watcher:
        """The same for a copy of the board, which may go its own way from here."""
        raise NotImplementedError


T = TypeVar("T", bound=Watcher)
V = TypeVar("V")


def twin_of(thing: V) -> V:
    """A copy that holds the same, a third as long in the making as by `copy.copy`."""
    twin = object.__new__(type(thing))
    twin.__dict__.update(thing.__dict__)
    return twin


class Derived:
    """Watchers by key."""

    def __init__(self, watchers: dict[tuple[Any, ...], Any]) -> None:
        self._watchers = watchers
        #: Those that heed units, as long as there are so many watchers.
        self._of_units: tuple[int, list[Watcher]] = -1, []

    def get(self, key: tuple[Any, ...], make: Callable[[], T]) -> T:
        """What is kept under a key; made where it is not there yet."""
        found: T | None = self._watchers.get(key)
        if found is None:
            found = make()
            with _lock:
                found = self._watchers.setdefault(key, found)
                # tables of many movements would fill the memory; the oldest can be made again
                if len(self._watchers) > MOST:
                    many = [each for each in self._watchers if each[:1] in MANY]
                    for old in many[: max(len(many) - MOST, 0)]:
                        del self._watchers[old]
                        self._watchers.pop(MOVERS, None)
                self._of_units = -1, []
        return found

    def touched(self, part: str, numbers: IntArray, sight: bool) -> None:
        """Notify of a part that has changed on cells, and whether that can change what is seen."""
        for watcher in self._watchers.values():
            if sight or not watcher.sight:
                watcher.touched(part, numbers)

    def manned(self, name: str) -> None:
        """Pass on which unit came, went or moved."""
        many, heeding = self._of_units
        if many != len(self._watchers):  # few heed units, and units move all the time
            every = list(self._watchers.values())
            heeding = [each for each in every if type(each).manned is not Watcher.manned]
            self._of_units = len(every), heeding
        for watcher in heeding:
            watcher.manned(name)

    def share(self, board: Any) -> Derived:
        """The same for a copy of the board."""
        return Derived({key: each.share(board) for key, each in list(self._watchers.items())})
