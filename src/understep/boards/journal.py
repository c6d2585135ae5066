"""The journal: every change to a board, to be undone, redone or rolled back."""

from __future__ import annotations

import itertools
from collections import deque
from collections.abc import Callable
from typing import Any, NamedTuple

from understep.boards.store import Store
from understep.errors import JournalError

KEPT = 1000
STATES = itertools.count(1)  # of all boards, so that no two contents share one by chance


class Change(NamedTuple):
    """What was written where; ``before`` is the state until then."""

    before: int
    store: Store
    keys: Any
    old: Any
    new: Any


class Entry(NamedTuple):
    """One step of undo and redo."""

    before: int
    after: int
    changes: list[Change]


class Journal:
    """Writes to stores, and remembers.

    Parameters
    ----------
    told
        Called after every change, also those taken back, with the store and its keys.
    state
        The identity of the contents to begin with; a new one by default.
    """

    def __init__(self, told: Callable[[Store, Any], None], state: int | None = None) -> None:
        self._told = told
        self.state = next(STATES) if state is None else state
        self._done: deque[Entry] = deque(maxlen=KEPT)
        self._undone: list[Entry] = []
        self._open: list[Entry] = []  # batches and trials that are under way, the outermost first

    def write(self, store: Store, keys: Any, new: Any) -> None:
        """Set values; a step of its own unless a batch or trial is open."""
        before = self.state
        change = Change(before, store, keys, store.get(keys), new)
        store.put(keys, new)
        self._told(store, keys)
        self.state = next(STATES)
        if self._open:
            self._open[-1].changes.append(change)
        else:
            self._done.append(Entry(before, self.state, [change]))
            self._undone.clear()

    def undo(self) -> bool:
        """Take the last step back; whether there was one."""
        self._closed("undo")
        if not self._done:
            return False
        entry = self._done.pop()
        self._take_back(entry)
        self._undone.append(entry)
        return True

    def redo(self) -> bool:
        """Take the step that was last undone again; whether there was one."""
        self._closed("redo")
        if not self._undone:
            return False
        entry = self._undone.pop()
        for change in entry.changes:
            change.store.put(change.keys, change.new)
            self._told(change.store, change.keys)
        self.state = entry.after
        self._done.append(entry)
        return True

    def forget(self) -> None:
        """Forget all steps."""
        self._closed("forget")
        self._done.clear()
        self._undone.clear()

    def _closed(self, what: str) -> None:
        if self._open:
            raise JournalError(f"cannot {what} inside a batch or trial")

    def _take_back(self, entry: Entry) -> None:
        for change in reversed(entry.changes):
            change.store.put(change.keys, change.old)
            self._told(change.store, change.keys)
        self.state = entry.before

    def span(self, keeps: bool) -> Span:
        """A batch, or a trial, to be entered."""
        return Span(self, keeps)

    def open(self) -> None:
        """Gather changes from here on."""
        self._open.append(Entry(self.state, 0, []))

    def close(self, keeps: bool) -> None:
        """Make one step of what was gathered, or take it back."""
        entry = self._open.pop()
        if not keeps:
            self._take_back(entry)
        elif self._open:
            self._open[-1].changes.extend(entry.changes)
        elif entry.changes:
            self._done.append(entry._replace(after=self.state))
            self._undone.clear()

    def changes_since(self, state: int) -> list[Change] | None:
        """The changes that lie between an earlier state and the present; None if not known."""
        found: list[Change] = []
        if state == self.state:
            return found
        for entry in itertools.chain(reversed(self._open), reversed(self._done)):
            for change in reversed(entry.changes):
                found.append(change)
                if change.before == state:
                    return found
        found = []
        for entry in reversed(self._undone):
            found += entry.changes
            if entry.after == state:
                return found
        return None


class Span:
    """Changes that belong together: kept as one step, or taken back at the end or after an error.

    A context manager; spans nest.
    """

    __slots__ = ("_journal", "_keeps")

    def __init__(self, journal: Journal, keeps: bool) -> None:
        self._journal, self._keeps = journal, keeps

    def __enter__(self) -> None:
        self._journal.open()

    def __exit__(self, error: type[BaseException] | None, *_more: object) -> None:
        self._journal.close(self._keeps and error is None)
