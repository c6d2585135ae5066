"""The journal: every change to a board, to be undone, redone or rolled back."""

from __future__ import annotations

import itertools
from collections import deque
from collections.abc import Callable, Iterator
from typing import Any, NamedTuple, TypeAlias

from understep.boards.store import Store
from understep.errors import JournalError

KEPT = 1000  # steps
MOST_BYTES = 256 << 20  # of them, about; the last step is kept however large it is
SMALL = 64  # bytes, about, of what is not an array
STATES = itertools.count(1)  # of all boards, so that no two contents share one by chance


class Change(NamedTuple):
    """What was written where; ``before`` is the state until then."""

    before: int
    store: Store
    keys: Any
    old: Any
    new: Any


class JournalStep(NamedTuple):
    """One step of undo and redo."""

    before: int
    after: int
    changes: list[Change]

    @property
    def nbytes(self) -> int:
        """About what it takes in memory."""
        size = 0
        for change in self.changes:
            for part in change[2:]:
                size += getattr(part, "nbytes", SMALL)
        return size


class Journal:
    """Writes to stores, and remembers.

    Parameters
    ----------
    notify
        Called after every change, also those rolled back, with the store and its keys.
    state
        The identity of the contents to begin with; a new one by default.
    """

    def __init__(self, notify: Callable[[Store, Any], None], state: int | None = None) -> None:
        self._notify = notify
        self.state = next(STATES) if state is None else state
        self._done: deque[tuple[JournalStep, int]] = deque()  # with their bytes
        self._held = 0  # all their bytes
        self._undone: list[JournalStep] = []
        #: Batches and trials that are under way, the outermost first.
        self._open: list[JournalStep] = []
        self._batches = 0  # how many of them are batches
        #: Called at the end of every step, and of a change within a trial: what it writes belongs
        #: to it.
        self.follow: Callable[[], None] | None = None

    def write(self, store: Store, keys: Any, new: Any) -> None:
        """Set values; a step of its own unless a batch or trial is open."""
        if self.follow is None or self._batches:
            self._write(store, keys, new)
            return
        # as a span, of which one write needs no object
        self.open(keeps=True)
        failed = True
        try:
            self._write(store, keys, new)
            failed = False
        finally:
            self.close(keeps=True, failed=failed)

    def _write(self, store: Store, keys: Any, new: Any) -> None:
        # the old values are read first: they are what undo puts back
        old = store.get(keys)
        self._put(store, keys, new)
        if self._open:
            self.record(store, keys, old, new)
            return
        before, self.state = self.state, next(STATES)
        self._push(JournalStep(before, self.state, [Change(before, store, keys, old, new)]))
        # what was undone cannot follow another change
        self._undone.clear()

    def record(self, store: Store, keys: Any, old: Any, new: Any) -> None:
        """Remember what was written, as part of the batch or trial that is under way."""
        self._open[-1].changes.append(Change(self.state, store, keys, old, new))
        self.state = next(STATES)

    def _put(self, store: Store, keys: Any, values: Any) -> None:
        """Set values, and notify of it."""
        store.put(keys, values)
        if type(store) not in QUIET:
            self._notify(store, keys)

    def _push(self, entry: JournalStep) -> None:
        """Remember a step, and forget the oldest where there are too many, or too large ones."""
        size = entry.nbytes
        self._done.append((entry, size))
        self._held += size
        # by number and by bytes: an edit of a whole board holds as much as the board
        while len(self._done) > KEPT or (self._held > MOST_BYTES and len(self._done) > 1):
            self._held -= self._done.popleft()[1]

    def _pop(self) -> JournalStep:
        """Take the last step from what is remembered."""
        entry, size = self._done.pop()
        self._held -= size
        return entry

    def undo(self) -> bool:
        """Take the last step back; whether there was one."""
        self._closed("undo")
        if not self._done:
            return False
        entry = self._pop()
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
            self._put(change.store, change.keys, change.new)
        self.state = entry.after
        self._push(entry)
        return True

    def join(self, state: int) -> None:
        """Make one step of all since an earlier state; none of them if it is not known."""
        steps: list[JournalStep] = []
        for entry, _ in reversed(self._done):
            steps.append(entry)
            if entry.before == state:
                break
        else:
            return
        for _ in steps:
            self._pop()
        changes = [change for entry in reversed(steps) for change in entry.changes]
        self._push(JournalStep(state, self.state, changes))

    def forget(self) -> None:
        """Forget all steps."""
        self._closed("forget")
        self._done.clear()
        self._held = 0
        self._undone.clear()

    def _closed(self, what: str) -> None:
        if self._open:
            raise JournalError(f"cannot {what} inside a batch or trial")

    def _take_back(self, entry: JournalStep) -> None:
        for change in reversed(entry.changes):
            self._put(change.store, change.keys, change.old)
        self.state = entry.before

    def span(self, keeps: bool) -> Span:
        """A batch, or a trial, to be entered."""
        return Span(self, keeps)

    def open(self, keeps: bool) -> None:
        """Gather changes from here on."""
        self._open.append(JournalStep(self.state, 0, []))
        self._batches += keeps

    def close(self, keeps: bool, failed: bool) -> None:
        """Make one step of what was gathered, or take it back."""
        try:
            last = keeps and self._batches == 1 and bool(self._open[-1].changes)
            if last and not failed and self.follow is not None:
                self.follow()
        except BaseException:
            failed = True
            raise
        finally:
            self._close(keeps, failed)

    def _close(self, keeps: bool, failed: bool) -> None:
        entry = self._open.pop()
        self._batches -= keeps
        if failed or not keeps:
            self._take_back(entry)
        elif self._open:
            self._open[-1].changes.extend(entry.changes)
        elif entry.changes:
            self._push(entry._replace(after=self.state))
            self._undone.clear()

    @property
    def opened(self) -> int | None:
        """The state in which the outermost batch or trial began; None: none is under way."""
        return self._open[0].before if self._open else None

    @property
    def trying(self) -> bool:
        """Whether a trial is under way."""
        return len(self._open) > self._batches

    def past(self) -> Iterator[Change]:
        """All changes that are known, the last first."""
        done = (entry for entry, _ in reversed(self._done))
        for entry in itertools.chain(reversed(self._open), done):
            yield from reversed(entry.changes)

    def path_from(self, state: int) -> list[JournalStep] | None:
        """The steps that lead from an earlier state, or one undone, to the present, in order.

        One that was undone is the other way round. None if that is not known.
        """
        if state == self.state:
            return []
        found: list[JournalStep] = []
        done = (entry for entry, _ in reversed(self._done))
        for entry in itertools.chain(reversed(self._open), done):
            found.append(entry)
            if entry.before == state:
                return found[::-1]
            if entry.before < state:  # states grow from step to step
                break
        found = []
        for entry in reversed(self._undone):
            back = [reverted(change) for change in reversed(entry.changes)]
            found.insert(0, JournalStep(entry.after, entry.before, back))
            if entry.after == state:
                return found
        return None

    def changes_since(self, state: int) -> list[Change] | None:
        """The changes that lie between an earlier state and the present; None if not known."""
        found: list[Change] = []
        if state == self.state:
            return found
        for change in self.past():
            found.append(change)
            if change.before == state:
                return found
            if change.before < state:  # states grow from change to change
                break
        found = []
        for entry in reversed(self._undone):
            found += map(reverted, entry.changes)
            if entry.after == state:
                return found
        return None


def reverted(change: Change) -> Change:
    """A change the other way round."""
    return change._replace(old=change.new, new=change.old)


class Span:
    """Changes that belong together: kept as one step, or rolled back at the end or after an error.

    A context manager; spans nest.
    """

    __slots__ = ("_journal", "_keeps")

    def __init__(self, journal: Journal, keeps: bool) -> None:
        self._journal, self._keeps = journal, keeps

    def __repr__(self) -> str:
        return f"<{'a batch' if self._keeps else 'a trial'}, for a with statement>"

    def __enter__(self) -> None:
        self._journal.open(self._keeps)

    def __exit__(self, error: type[BaseException] | None, *_more: object) -> None:
        self._journal.close(self._keeps, error is not None)


class Version:
    """A store for the identity of some contents."""

    def __init__(self, state: int) -> None:
        self.state = state

    def get(self, _keys: Any) -> int:
        """The identity as it is."""
        return self.state

    def put(self, _keys: Any, state: int) -> None:
        """Set it."""
        self.state = state

    def where(self, _keys: Any, _old: Any, _new: Any) -> Any:
        """The cells of a change: none."""
        return ()


class Owned(NamedTuple):
    """A store of a branch, as the main journal knows it."""

    branch: Branch
    store: Store

    def get(self, keys: Any) -> Any:
        """The values under keys."""
        return self.store.get(keys)

    def put(self, keys: Any, values: Any) -> None:
        """Set values, and notify the branch's owner."""
        self.store.put(keys, values)
        self.branch.notify(self.store, keys)

    def where(self, _keys: Any, _old: Any, _new: Any) -> Any:
        """The cells of a change: none of the main journal's."""
        return ()


#: What the main board need not be notified of: it is a branch's.
QUIET = Version, Owned


class Branch:
    """The journal of contents that follow others: written, undone and rolled back with them.

    Its state changes only where its own contents do.
    """

    #: Nothing follows what follows.
    follow: Callable[[], None] | None = None

    def __init__(self, main: Journal, notify: Callable[[Store, Any], None], state: int) -> None:
        self.main, self.notify, self._version = main, notify, Version(state)
        #: Whether the contents follow others now, and whether their state has changed meanwhile.
        self._following, self._altered = False, False
        self._owned: dict[int, Owned] = {}  # by the identity of their stores, which they keep

    def following(self) -> Following:
        """Let the contents follow others meanwhile; otherwise they are written in trials alone.

        Their state changes once for all that is written then.
        """
        return Following(self)

    def follow_in(self, take: Callable[..., None], *given: Any) -> None:
        """Let the contents follow others during a call; a span of the main journal is open.

        That one rolls it back after an error.
        """
        before, self._following, self._altered = self._following, True, False
        try:
            take(*given)
        finally:
            self._following = before

    @property
    def state(self) -> int:
        """The identity of the contents."""
        return self._version.state

    @property
    def trying(self) -> bool:
        """As of the main journal."""
        return self.main.trying

    @property
    def opened(self) -> int | None:
        """As of the main journal."""
        return self.main.opened

    def path_from(self, state: int) -> list[JournalStep] | None:
        """Its steps by themselves are not known."""
        return [] if state == self.state else None

    def write(self, store: Store, keys: Any, new: Any, tells: bool = True) -> None:
        """Set values through the main journal; ``tells``: the state of the contents changes."""
        if not (self._following or self.main.trying):
            rule = "what a side knows can be edited inside a trial only, or on its copy"
            raise JournalError(rule)
        if self._following:
            self._put(store, keys, new, tells and not self._altered)
            self._altered = self._altered or tells
            return
        with self.main.span(keeps=True):
            self._put(store, keys, new, tells)

    def _put(self, store: Store, keys: Any, new: Any, tells: bool) -> None:
        record, version = self.main.record, self._version  # a span is open
        if tells:
            before, version.state = version.state, next(STATES)
            record(version, None, before, version.state)
        owned = self._owned.get(id(store))
        if owned is None:
            owned = self._owned[id(store)] = Owned(self, store)
        # as the main journal writes, without asking the owner of the store for each part
        old = store.get(keys)
        store.put(keys, new)
        self.notify(store, keys)
        record(owned, keys, old, new)

    def own(self, changes: list[Change]) -> list[Change]:
        """Those of some changes of the main journal that are the branch's own."""
        return [
            Change(before, owned.store, *rest)
            for before, owned, *rest in changes
            if isinstance(owned, Owned) and owned.branch is self
        ]

    def changes_since(self, state: int) -> list[Change] | None:
        """The changes that lie between an earlier state and the present; None if not known."""
        if state == self.state:
            return []
        found: list[Change] = []
        for change in self.main.past():
            found.append(change)
            if change.store is self._version and change.old <= state:
                return self.own(found) if change.old == state else None
        return None

    def span(self, keeps: bool) -> Span:
        """As of the main journal."""
        return self.main.span(keeps)

    def undo(self) -> bool:
        """Not by itself."""
        raise JournalError("what a side knows is undone with the board")

    redo = undo

    def join(self, state: int) -> None:  # noqa: ARG002
        """Not by itself."""
        raise JournalError("what a side knows is joined with the board")

    def forget(self) -> None:
        """Not by itself."""
        raise JournalError("what a side knows is forgotten with the board")


class Following(Span):
    """A span in which the contents of a branch follow others."""

    __slots__ = ("_before", "_branch")

    def __init__(self, branch: Branch) -> None:
        super().__init__(branch.main, keeps=True)
        self._branch, self._before = branch, branch._following

    def __enter__(self) -> None:
        self._branch._following, self._branch._altered = True, False
        super().__enter__()

    def __exit__(self, error: type[BaseException] | None, *_more: object) -> None:
        try:
            super().__exit__(error)
        finally:
            self._branch._following = self._before


#: What contents are written through.
Writes: TypeAlias = Journal | Branch
