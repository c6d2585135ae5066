"""Memory: a board as one side knows it, kept in step with the truth."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Self, TypeAlias

import numpy as np

from understep.boards.board import Board
from understep.boards.edges import EdgeLayer
from understep.boards.journal import Branch, Change
from understep.boards.links import LinkTable
from understep.boards.roster import Listed, Roster
from understep.boards.sides import Marked
from understep.boards.store import ABSENT, Layer, Store, Table
from understep.boards.unit import Unit
from understep.grids.cell import Cell, Cells, IntArray

Look: TypeAlias = Callable[[Board, Unit], IntArray]


class Memory(Board):
    """A board as one side knows it.

    Outside of trials it cannot be edited. Land that is seen is as it is; land seen before is as it
    was then; land never seen is closed. The side's own units stand on it, and those of others that
    are seen. All of it is written through the journal of the true board, and undone and rolled back
    with it, but has a state of its own, which stays the same while nothing changes that the side
    knows.
    """

    side: str
    known: Layer  # whether each cell was ever seen
    counts: Layer  # how many of its units see each cell
    views: Table[str, IntArray]  # what each of its units sees, by number
    last: Table[str, Unit]  # units of others, as they were last seen
    look: Look

    @classmethod
    def of(cls, truth: Board, side: str, look: Look, land: bool) -> Memory:
        """What a side knows that has seen nothing yet, or only the land."""
        found = cls.__new__(cls)
        twin = truth._twin()
        found.__dict__.update(twin.__dict__)
        cells = truth.grid.cols * truth.grid.rows
        found.side, found.look = side, look
        found.known = Layer(np.full(cells, land, dtype=bool))
        found.counts = Layer(np.zeros(cells, dtype=np.int32))
        found.views, found.last = Table(), Table()
        found._sides = truth._sides.share()  # who takes part is no secret
        found._roster = Roster(truth.grid, found._sides, {}, {})
        found._derived = {}
        if not land:
            found._ground = Layer(np.zeros(cells, dtype=np.uint8))
            found._levels = Layer(np.zeros(cells))
            codes = np.zeros(cells * len(truth.grid.directions), dtype=np.uint8)
            found._edges, found._links = EdgeLayer(codes, len(truth.grid.directions)), LinkTable()
            found._values = {
                name: Layer(np.full(cells, truth.properties[name], dtype=layer.array.dtype))
                for name, layer in truth._values.items()
            }
            found._bars = {None: Layer(truth.grid.exists.ravel().astype(np.uint8))}
            found._raised = False
        found._journal = Branch(truth._journal, found._told, truth.state)  # type: ignore[assignment]
        return found

    def joined(self, truth: Board) -> Memory:
        """The same knowledge of a copy of the true board."""
        twin = self._twin()
        twin._journal = Branch(truth._journal, twin._told, self.state)  # type: ignore[assignment]
        return twin

    def _twin(self) -> Self:
        twin = super()._twin()
        twin.known, twin.counts = self.known.share(), self.counts.share()
        twin.views, twin.last = self.views.share(), self.last.share()
        return twin

    def _blocked_times(self, to: str | None, times: int) -> Cells:
        """The cells it knows to be closed; not those that it does not know."""
        found = super()._blocked_times(to, times)
        return Cells(found.array[self.known.array[self.grid.numbers(found.array)]])

    @property
    def known_by(self) -> str:
        """The side whose picture of the board this is."""
        return self.side

    def knows(self, cell: Cell) -> bool:
        """Whether the side ever saw a cell."""
        return bool(self.known.array[self.grid.number(cell)])

    def known_of(self, numbers: IntArray) -> IntArray:
        """Those of some cells, by number, that the side ever saw."""
        found: IntArray = numbers[self.known.array[numbers]]
        return found

    def _is_land(self, store: Store) -> bool:
        return super()._is_land(store) and store is not self.counts and store is not self.known

    def _closed_by(self, unit: Unit, cell: Cell) -> str:
        if not self.knows(cell):
            return f"{tuple(cell)} is unknown to the {self.side}"
        return super()._closed_by(unit, cell)

    def recall(self, land: Board, numbers: IntArray, last: dict[str, Unit]) -> None:
        """Remember cells, by number, as they are on another board, and units as last seen.

        Cells and units that are seen stay as they are.
        """
        branch: Any = self._journal
        with branch.following():
            self._learn(land, numbers[self.counts.array[numbers] == 0])
            for name, unit in last.items():
                if name not in self._roster.values:
                    branch.write(self.last, name, unit)

    # following the truth

    def follow(self, truth: Board, marked: Marked) -> None:
        """Take over what the side has come to see, or sees no more."""
        branch: Any = self._journal
        with branch.following():
            self._follow_marked(truth, marked)

    def _follow_marked(self, truth: Board, marked: Marked) -> None:
        cells = np.unique(np.concatenate(marked.cells)) if marked.cells else np.zeros(0, int)
        before = self.counts.array
        views = self._views_of(truth, marked.names, cells)
        lost = [self.views.values[name] for name in views if name in self.views.values]
        won = [numbers for numbers in views.values() if numbers is not None]
        touched = np.unique(np.concatenate([*lost, *won, np.zeros(0, int)]))
        old = before[touched]  # a copy
        new = old.copy()
        for numbers, more in [*((each, -1) for each in lost), *((each, 1) for each in won)]:
            new[np.searchsorted(touched, numbers)] += more
        seen = touched[(old == 0) & (new > 0)]
        turned = touched[(old == 0) != (new == 0)]
        branch: Any = self._journal  # by whom a cell is seen, it does not tell; only whether
        for name, view in views.items():
            branch.write(self.views, name, ABSENT if view is None else view, tells=False)
        changed = old != new
        if changed.any():
            branch.write(self.counts, touched[changed], new[changed], tells=len(turned) > 0)
        cells = cells[self.counts.array[cells] > 0]
        self._learn(truth, np.union1d(seen, cells))
        names = marked.names.union(truth.names_on(turned), self.names_on(turned))
        self._meet(
            truth, sorted(names & (truth._roster.values.keys() | self._roster.values.keys()))
        )

    def _views_of(
        self, truth: Board, names: set[str], cells: IntArray
    ) -> dict[str, IntArray | None]:
        """What its units see now, of those that see something else than before; None: are gone."""
        listed = truth._roster.values
        moved = [listed[name].unit for name in names if name in listed]
        every = truth.units() if len(cells) else moved
        own = {unit.name: unit for unit in every if unit.side == self.side}
        asked = {name for name in names if name in own or name in self.views.values}
        if len(cells):
            places = truth.grid.cells_of(cells)
            low, high = places.min(axis=0), places.max(axis=0)
            for name, unit in own.items():
                at = np.array(unit.at)
                far = 1 + int(np.abs(unit.movement.footprint).sum(axis=1).max())
                far += sum(truth.grid.size) if unit.sight is None else unit.sight
                if ((low - far <= at) & (at <= high + far)).all():
                    asked.add(name)
        found: dict[str, IntArray | None] = {}
        for name in sorted(asked):
            known = self.views.values.get(name)
            view = self.look(truth, own[name]) if name in own else None
            if known is None or view is None or not np.array_equal(known, view):
                found[name] = view
        return found

    def _learn(self, truth: Board, numbers: IntArray) -> None:
        """Take over the land of cells that are seen, where it is not known as it is."""
        for side in truth._bars:
            if side not in self._bars:
                self._bars[side] = Layer(np.zeros(len(self.known.array), dtype=np.uint8))
        pairs: list[tuple[Layer, Any]] = [
            (self._ground, truth._ground.array), (self._levels, truth._levels.array),
            *((self._values[name], layer.array) for name, layer in truth._values.items()),
            *((self._bars[side], truth._bars[side].array) for side in truth._bars),
        ]  # fmt: skip
        if None not in truth._bars and None in self._bars:
            pairs.append((self._bars[None], np.zeros(len(self.known.array), dtype=np.uint8)))
        for mine, array in pairs:
            self._copy(mine, array, numbers)
        self._raised = self._raised or bool(self._levels.array[numbers].any())
        if self.edge_kinds and truth._edges.array is not self._edges.array and len(numbers):
            there, back, _ = self._sides_of(numbers, range(len(self.grid.directions)))
            self._copy(self._edges, truth._edges.array, np.union1d(there, back))
        if truth._links.values or self._links.values:
            near = set(numbers.tolist())
            for key in sorted(truth._links.values.keys() | self._links.values.keys()):
                facts: Any = truth._links.get(key)
                if not near.isdisjoint(key) and self._links.get(key) != facts:
                    self._journal.write(self._links, key, facts)
        self._copy(self.known, np.broadcast_to(np.True_, len(self.known.array)), numbers)

    def _copy(self, mine: Layer, array: Any, keys: IntArray) -> None:
        """Take over values that differ."""
        if mine.array is not array:
            differ = keys[mine.array[keys] != array[keys]]
            if len(differ):
                self._journal.write(mine, differ, array[differ])

    def _meet(self, truth: Board, names: list[str]) -> None:
        """Take over units that may have come into sight, gone out of it, or changed."""
        found: dict[str, Listed | None] = {}
        for name in names:
            listed = truth._roster.values.get(name)
            if listed is not None and not self._sees(listed):
                listed = None
            if listed != self._roster.values.get(name):
                found[name] = listed
        for name in found:
            if name in self._roster.values:
                self._journal.write(self._roster, name, ABSENT)
        for name, listed in found.items():
            if listed is not None:
                if listed.unit.side not in self._sides.values:
                    code = len(self._sides.values) + 1
                    self._journal.write(self._sides, listed.unit.side, code)
                self._journal.write(self._roster, name, listed)
        for name, listed in found.items():
            gone = listed is None and name not in truth._roster.values
            if listed is not None and listed.unit.side != self.side:
                self._journal.write(self.last, name, listed.unit)
            elif gone and name in self.last.values:
                self._journal.write(self.last, name, ABSENT)

    def _sees(self, listed: Listed) -> bool:
        """Whether a unit is its own, or seen."""
        if listed.unit.side == self.side:
            return True
        return any(self.counts.array[self.grid.number(cell)] for cell in listed.cells)

    def own_changes(self, state: int) -> list[Change] | None:
        """Its changes since a state of the true board, the last first; None if not known."""
        branch: Any = self._journal
        changes = branch.main.changes_since(state)
        return None if changes is None else branch.own(changes)

    @property
    def roster(self) -> Roster:
        """The units that it knows of."""
        return self._roster
