"""Memory: a board as one side knows it, kept in step with the truth."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from copy import deepcopy
from typing import Any, TypeAlias

import numpy as np

from understep.boards.board import Board
from understep.boards.changes import Marked
from understep.boards.contents import Contents
from understep.boards.difference import NONE
from understep.boards.journal import STATES, Branch, Change
from understep.boards.roster import Listed, Roster
from understep.boards.store import ABSENT, Layer, Table
from understep.boards.unit import Unit
from understep.errors import JournalError
from understep.grids.cell import IntArray
from understep.kernels import loader

Look: TypeAlias = Callable[[Board, Unit], IntArray]


class Memory(Board):
    """A board as one side knows it.

    Outside of trials it cannot be edited. Land that is seen is as it is; land seen before is as it
    was then; land never seen is closed. The side's own units stand on it, and those of others that
    are seen. All of it is written through the journal of the true board, and undone and rolled back
    with it, but has a state of its own, which stays the same while nothing changes that the side
    knows.
    """

    _branch: Branch
    _truth: Board
    counts: Layer  # how many of its units see each cell
    views: Table[str, IntArray]  # what each of its units sees, by number
    last: Table[str, Unit]  # units of others, as they were last seen
    look: Look
    #: In a world the number of the fog it is of: of those begun there, one after the other.
    fog = 0

    def __init__(self, truth: Board, side: str, look: Look, land: bool) -> None:
        """Make the memory of a side that has seen nothing yet, or only the land."""
        self._take_facts(truth)
        known = truth._contents
        contents = known.share(side) if land else known.unseen_by(side)
        self.look = look
        self.counts = Layer(np.zeros(truth.grid.cols * truth.grid.rows, dtype=np.int32), 0)
        self.views, self.last = Table(), Table()
        self._join(truth, contents, truth._roster.of_nobody(), truth.state)

    def _join(self, truth: Board, contents: Contents, roster: Roster, state: int) -> None:
        """Take contents that are written through the journal of a board."""
        if not isinstance(truth._journal, Branch):
            self._truth = truth
            #: The side that it belongs to.
            self.side = contents.known_by
            self._branch = Branch(truth._journal, self._notify, state)
            self._set_up(contents, roster, self._branch)
            return
        raise JournalError("what a side knows is kept with the board itself")

    def joined(self, truth: Board) -> Memory:
        """The same knowledge of a copy of the true board."""
        twin = Memory.__new__(Memory)
        twin._take_facts(self)
        twin.look, twin.counts, twin.fog = self.look, self.counts.share(), self.fog
        twin.views, twin.last = self.views.share(), self.last.share()
        twin._join(truth, self._contents.share(), self._roster.share(), self.state)
        twin._derived = self._derived.share(twin)
        return twin

    def __reduce__(self) -> tuple[Any, ...]:
        # it is pickled with the true board, whose journal it is written through
        return _memory_of, (self._truth, self.side)

    def __deepcopy__(self, memo: dict[int, Any]) -> Memory:
        return _memory_of(deepcopy(self._truth, memo), self.side)

    def _kept(self, known: dict[Any, Any]) -> tuple[type[Memory], dict[str, Any]]:
        """What the pickle of the true board has of it, less what is in ``known``."""
        facts = "strict_names", "movements", "_facts", "look", "counts", "views", "last", "fog"
        parts = {"contents": self._contents, "roster": self._roster.packed(known)}
        return Memory, {name: getattr(self, name) for name in facts} | parts

    @classmethod
    def _again(cls, truth: Board, kept: dict[str, Any]) -> Memory:
        """The memory of a board that was pickled."""
        made = cls.__new__(cls)
        parts = kept.pop("contents"), Roster.again(kept.pop("roster"))
        made.__dict__.update(kept)
        made._join(truth, *parts, next(STATES))
        return made

    @property
    def roster(self) -> Roster:
        """The units that it knows of."""
        return self._roster

    def remember(self, contents: Contents, numbers: IntArray, last: dict[str, Unit]) -> None:
        """Remember cells, by number, as they are elsewhere, and units as last seen.

        Cells and units that are seen stay as they are.
        """
        with self._branch.following():
            numbers = np.unique(numbers)
            # what is seen now is as it is, not as it was
            self._learn(contents, numbers[self.counts.array[numbers] == 0])
            for name, unit in last.items():
                if name not in self._roster.values:
                    self._branch.write(self.last, name, unit)

    # following the truth

    def follow(self, truth: Board, marked: Marked) -> None:
        """Take over what the side has come to see, or sees no more."""
        self._branch.follow_in(self._follow_marked, truth, marked)

    def _follow_marked(self, truth: Board, marked: Marked) -> None:
        cells = np.unique(np.concatenate(marked.cells)) if marked.cells else NONE
        self._see(truth, self._views_of(truth, marked.names, cells), marked.names, cells)

    def see(self, truth: Board, views: dict[str, IntArray | None]) -> None:
        """Take over what units see that stand beyond the board, by number; None: they are gone."""
        with self._branch.following():
            self._see(truth, views, set(), NONE)

    def _see(
        self, truth: Board, views: dict[str, IntArray | None], names: set[str], cells: IntArray
    ) -> None:
        """Take over views that are others now, units that changed, and cells."""
        seen = turned = NONE
        if views:
            seen, turned = self._count(views)
        if len(cells):
            seen = np.union1d(seen, cells[self.counts.array[cells] > 0])
        if len(seen):
            self._learn(truth._contents, seen)
        if len(turned):
            names = names.union(truth._units.on(turned), self._units.on(turned))
        # in the same order everywhere, as a set has none
        self._meet(truth, sorted(names) if len(names) > 1 else names)

    def _count(self, views: dict[str, IntArray | None]) -> tuple[IntArray, IntArray]:
        """Take over what some units see: the cells that came into sight, and all that turned."""
        known = self.views.values
        lost = _in_order([known[name] for name in views if name in known])
        won = _in_order([numbers for numbers in views.values() if numbers is not None])
        cells, both = np.empty((2, len(lost) + len(won)), dtype=np.int64)
        new = np.empty(len(cells), dtype=np.int32)
        arrays = lost, won, self.counts.array, cells, new, both
        many, first, turns = loader.sight.differ(*map(loader.view, arrays))
        turned = both[:turns]
        # the counts say whether a cell is seen at all; views are kept to take them back
        for name, view in views.items():
            self._branch.write(self.views, name, ABSENT if view is None else view, tells=False)
        # by whom a cell is seen, it does not tell; only whether
        if many:
            self._branch.write(self.counts, cells[:many], new[:many], tells=turns > 0)
        return turned[:first], turned

    def _views_of(
        self, truth: Board, names: set[str], cells: IntArray
    ) -> dict[str, IntArray | None]:
        """What its units see now, of those that see something else than before; None: are gone."""
        side, roster, views = self.side, truth._roster.values, self.views.values
        own: dict[str, Unit] = {}
        # ground that changes may hide more, or less, from any of them
        for name in roster if len(cells) else names:
            listed = roster.get(name)
            if listed is not None and listed.unit.side == side:
                own[name] = listed.unit
        met = (name for name in names if name in own or name in views)
        asked = {name for name in met if not self._looks(name, own.get(name))}
        if len(cells):
            # most changes are too far from most units to matter
            places = truth.grid.numbering.cells_of(cells)
            low, high = places.min(axis=0), places.max(axis=0)
            for name, unit in own.items():
                at = np.array(unit.at)
                far = 1 + int(np.abs(unit.movement.footprint).sum(axis=1).max())
                seen = None if unit.sight_per_level else unit._sees_far(0)
                far += sum(truth.grid.size) if seen is None else seen
                if ((low - far <= at) & (at <= high + far)).all():
                    asked.add(name)
        found: dict[str, IntArray | None] = {}
        for name in sorted(asked):
            known = views.get(name)
            view = self.look(truth, own[name]) if name in own else None
            # written only where it differs: each write is a step of the journal
            if known is None or view is None or not np.array_equal(known, view):
                found[name] = view
        return found

    def _looks(self, name: str, unit: Unit | None) -> bool:
        """Whether one of its own units looks from where it looked before, and as far."""
        listed = self._roster.values.get(name)
        if listed is None or unit is None or name not in self.views.values:
            return False
        # as the side has it, which is how it was when it last looked
        before = listed.unit
        if before.at != unit.at or before.movement.footprint != unit.movement.footprint:
            return False
        return sight_of(before) == sight_of(unit)

    def _learn(self, contents: Contents, numbers: IntArray) -> None:
        """Take over what lies on cells, where that is not known as it is."""
        for key, keys, values in self._contents.differing(contents, numbers):
            self._branch.write(self._contents.store(key), keys, values)
        unseen = self._contents.unseen
        new = numbers[unseen[numbers] > 0] if len(unseen) else NONE
        if len(new):
            self._branch.write(self._contents.store(("unseen", None)), new, 0)

    def _meet(self, truth: Board, names: Iterable[str]) -> None:
        """Take over units that may have come into sight, gone out of it, or changed."""
        found: dict[str, Listed | None] = {}
        known = self._roster.values
        for name in names:
            listed = truth._roster.values.get(name)
            # to the side, whom it does not see is as good as gone
            if listed is not None and not self._sees(listed):
                listed = None
            before = known.get(name)
            if listed is not before and listed != before:
                found[name] = listed
        if not found:
            return
        # first all leave, then all arrive: two units may have changed places
        for name, listed in found.items():
            old = known.get(name)
            moved = listed is None or (
                len(found) > 1 and old is not None and old.cells != listed.cells
            )
            if old is not None and moved:
                self._branch.write(self._roster, name, ABSENT)
        for name, listed in found.items():
            if listed is not None:
                sides = self._roster.sides
                # a side takes part, to this one, from when it is first met
                if listed.unit.side not in sides.values:
                    self._branch.write(sides, listed.unit.side, len(sides.values) + 1)
                self._branch.write(self._roster, name, listed)
        for name, listed in found.items():
            # of who left the board it was seen to go; others are remembered
            gone = listed is None and name not in truth._roster.values
            if listed is not None and listed.unit.side != self.side:
                self._branch.write(self.last, name, listed.unit)
            elif gone and name in self.last.values:
                self._branch.write(self.last, name, ABSENT)

    def _sees(self, listed: Listed) -> bool:
        """Whether a unit is its own, or seen."""
        if listed.unit.side == self.side:
            return True
        return any(self.counts.array[self.grid.numbering.number(cell)] for cell in listed.cells)

    def own_changes(self, state: int) -> list[Change] | None:
        """Its changes since a state of the true board, the last first; None if not known."""
        changes = self._branch.main.changes_since(state)
        return None if changes is None else self._branch.own(changes)


def _in_order(lists: list[IntArray]) -> IntArray:
    """The numbers of several lists, each in order, as one that is."""
    if len(lists) == 1:
        return lists[0]
    return np.sort(np.concatenate([NONE, *lists]))


def sight_of(unit: Unit) -> tuple[Any, ...]:
    """The facts of a unit on which it depends what it sees from a place."""
    return unit.side, unit.sight, unit.eye, unit.sight_measure, unit.sight_per_level


def _memory_of(truth: Board, side: str) -> Memory:
    """What a side knows of a board."""
    found: Memory = truth._memory(side)
    return found
