"""Fog: what sides know of a world, kept with its sectors and taken to every board of it."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from typing import Any, NamedTuple, TypeAlias

import numpy as np

from understep.boards.board import Board
from understep.boards.contents import places
from understep.boards.edges import Laid
from understep.boards.links import Link
from understep.boards.memory import Memory, sight_of
from understep.boards.roster import Listed
from understep.boards.unit import Unit
from understep.errors import InputError
from understep.grids.cell import IntArray
from understep.sight.fog import look, memory_of
from understep.worlds._bounds import seen_from
from understep.worlds._changes import Changes, Ends, take
from understep.worlds._crew import Crew
from understep.worlds._rect import Rect
from understep.worlds._sectors import Sectors

Over = Callable[[], tuple[Iterable[Laid], Iterable[Link]]]


MOST_SEEN = 1 << 22  # cells that one unit may look over
#: What sides have come to know on a board.
Learned: TypeAlias = list[tuple[str, Changes]]


class Known:
    """What a side knows beside what its sectors keep.

    ``last`` are units of others as they were last seen, ``edges`` and ``links`` those from sector
    to sector that it knows of; ``fog`` is the number of its fog, of those begun in the world.
    """

    def __init__(
        self, land_known: bool, edges: Iterable[Laid] = (), links: Iterable[Link] = (),
        last: Iterable[Unit] = (), fog: int = 0,
    ) -> None:  # fmt: skip
        self.land_known, self.fog = land_known, fog
        self.edges: dict[Ends, Laid] = {(each.a, each.b): each for each in edges}
        self.links: dict[Ends, Link] = {(each.a, each.b): each for each in links}
        self.last: dict[str, Unit] = {unit.name: unit for unit in last}


class Sight(NamedTuple):
    """What a unit sees: from where and how, in which rectangle, and the cells."""

    facts: tuple[Any, ...]
    rect: Rect
    cells: IntArray


class Fog:
    """The knowledge of every side that keeps any.

    Boards of the world hold it for their cells, units that stand elsewhere and see these included.
    """

    def __init__(self, land: Sectors, crew: Crew, over: Over) -> None:
        self._land, self._crew, self._over = land, crew, over
        self.sides: dict[str, Known] = {}
        #: How many fogs have begun, those that were lifted included.
        self.begun = 0
        self._sights: dict[str, Sight] = {}

    def restore(self, known: Mapping[str, Known], begun: int) -> None:
        """Let just some sides keep knowledge, as they did."""
        self.sides, self._sights = dict(known), {}
        self.begun = max([begun, *(each.fog for each in known.values())])

    def begin(self, side: str, known: Known) -> None:
        """Let a side keep knowledge from here on."""
        if not self.sides:  # what was seen before may be another now
            self._sights.clear()
        self.begun += 1
        known.fog, self.sides[side] = self.begun, known

    def check(self, units: Iterable[Unit]) -> None:
        """Refuse units that would have to look over too much land."""
        for unit in units:
            if self._too_far(unit):
                rule = "sees too far for fog in so large a world; give it a sight"
                raise InputError("unit", rule, unit.name)

    def prepare(self, sector: Board) -> None:
        """Let a sector keep what the sides know of it that keep any, and no others."""
        for side in sector.fogged:
            # a sector can have slept while a fog was lifted, and another began
            if side not in self.sides or sector._memory(side).fog != self.sides[side].fog:
                sector.lift_fog(side)
        for side, known in self.sides.items():
            if side not in sector.fogged:
                memory = memory_of(sector, side, known.land_known)
                memory.fog = known.fog
                sector._keep(memory)
        # a sector is no board of the game: nothing there can be undone
        sector.forget()

    def attach(self, board: Board, rect: Rect) -> None:
        """Let a new board of a rectangle know what the sides know there."""
        for side in self.sides:
            self.bring(board, rect, side)

    def bring(self, board: Board, rect: Rect, side: str) -> None:
        """Let a board know what a side knows there."""
        known, before = self.sides[side], board.state
        # the land it knows is taken from the sectors
        memory = memory_of(board, side, False)
        memory.look = lambda board, unit: self._look(board, rect, unit)
        for key in self._land.keys(rect):
            sector = self._land.land(key).board
            if sector is not None:
                # where nobody ever was there is no sector, and all is as the side has it
                place = places(sector.grid, board.grid)
                memory._contents.carry(sector._memory(side)._contents, place)
        with memory._branch.following():
            # those across sectors belong to none, and are kept here
            for edge in known.edges.values():
                if rect.holds((edge.a, edge.b)):
                    memory.set_edge(edge.a, edge.b, edge.kind, both=edge.both, is_open=edge.is_open)
            for link in known.links.values():
                if rect.holds((link.a, link.b)):
                    memory.link(link.a, link.b, link.cost, both=link.both, kind=link.kind)
        self._set_last(memory, rect)
        board._keep(memory)
        every = (listed.unit for listed in self._crew.listed.values())
        self.look_in(board, rect, [unit for unit in every if unit.side == side])
        self.take(board, rect, before)

    def look_in(self, board: Board, rect: Rect, units: Iterable[Unit]) -> None:
        """Take to a board what units see there that stand elsewhere, or are gone."""
        views: dict[str, dict[str, IntArray | None]] = {}
        for unit in units:
            # who stands there and sees nothing beyond it is looked after by the board
            there = unit.name in board._roster.values
            if unit.side not in self.sides or (there and self._whole(rect, unit)):
                continue
            memory, view = board._memory(unit.side), None
            if self.looks(unit) and self.sight(unit).rect.meets(rect):
                view = self._within(board, rect, unit)
            if view is not None or unit.name in memory.views.values:
                views.setdefault(unit.side, {})[unit.name] = view
        for side, found in views.items():
            board._memory(side).see(board, found)

    def looks(self, unit: Unit) -> bool:
        """Whether a unit is there, and still sees for the same side."""
        listed: Listed | None = self._crew.listed.get(unit.name)
        return listed is not None and listed.unit.side == unit.side

    def look_away(self, board: Board, units: Iterable[Unit]) -> None:
        """Take from a board what units see there that stand elsewhere."""
        for unit in units:
            memory = board._memory(unit.side)
            if unit.name not in board._roster.values and unit.name in memory.views.values:
                memory.see(board, {unit.name: None})

    def _look(self, board: Board, rect: Rect, unit: Unit) -> IntArray:
        """What a unit on a board sees there, by number."""
        return look(board, unit) if self._whole(rect, unit) else self._within(board, rect, unit)

    def _whole(self, rect: Rect, unit: Unit) -> bool:
        """Whether all that a unit may see lies in a rectangle, and some more.

        A line of sight along the edge of a board may pass just beyond it.
        """
        # who sees too far is refused when the world reads what was done
        return self._too_far(unit) or rect.holds_rect(seen_from(self._land, unit))

    def _too_far(self, unit: Unit) -> bool:
        """Whether a unit would have to look over too much land."""
        far = unit._sees_far(0)
        many = self._land.size[0] * self._land.size[1] if far is None else (2 * far + 1) ** 2
        return many > MOST_SEEN

    def _within(self, board: Board, rect: Rect, unit: Unit) -> IntArray:
        """What a unit sees in the world, of the cells of a board, by number."""
        cells = self.sight(unit).cells
        found: IntArray = np.sort(board.grid.numbering.numbers(cells[rect.within(cells)]))
        return found

    def sight(self, unit: Unit) -> Sight:
        """What a unit sees."""
        facts = unit.at, unit.movement.footprint, *sight_of(unit)
        known = self._sights.get(unit.name)
        if known is None or known.facts != facts:
            rect = seen_from(self._land, unit)
            ground = self._land.ground(rect, *self._over())
            cells = np.zeros((0, 2), dtype=np.int64)
            if ground is not None:
                cells = ground.grid.numbering.cells_of(look(ground, unit))
            known = self._sights[unit.name] = Sight(facts, rect, cells)
        return known

    def changed(self, changes: Changes) -> list[Unit]:
        """The units whose view may be another than before some changes, as they are now.

        Of those that are gone as they were. Asked before the world takes the changes over.
        """
        # by side, too: who changes sides was the eyes of another
        found: dict[tuple[str, str], Unit] = {}
        if not self.sides:
            return []
        for name, now in changes.units.items():
            old: Listed | None = self._crew.listed.get(name)
            for listed in (old, now):
                if listed is not None:
                    found[name, listed.unit.side] = listed.unit
        cells = np.array(list(changes.cells()), dtype=np.int64).reshape(-1, 2)
        if len(cells):
            for name, sight in list(self._sights.items()):
                # what changed beyond all that it may see is nothing to it
                if sight.rect.within(cells).any():
                    del self._sights[name]
                    if name in self._crew.listed:
                        unit = self._crew.listed[name].unit
                        found.setdefault((name, unit.side), unit)
        return [unit for unit in found.values() if unit.side in self.sides]

    def take(self, board: Board, rect: Rect, state: int) -> Learned:
        """Let the sectors know what sides have come to know on a board since a state of it.

        It is returned, by side, for other boards.
        """
        learned: Learned = []
        for side in board.fogged:
            known, memory = self.sides[side], board._memory(side)
            changes = memory.own_changes(state)
            edges = [each for each in known.edges.values() if rect.holds((each.a, each.b))]
            links = [each for each in known.links.values() if rect.holds((each.a, each.b))]
            found = Changes.of(memory, changes, edges, links, self._land.side)
            self._write(side, found)
            learned += [(side, found)] if found.land else []
            # of a board whose journal has forgotten, all are looked at
            names = {each.keys for each in changes or () if each.store is memory.last}
            for name in memory.last.values if changes is None else names:
                self._last_seen(known, memory, name)
        return learned

    def keep(self, before: Board, after: Board) -> Learned:
        """The same, from a board to another with the same cells."""
        learned: Learned = []
        for side, known in self.sides.items():
            old, memory = before._memory(side), after._memory(side)
            found = Changes.between(old, memory)
            self._write(side, found)
            learned += [(side, found)] if found.land else []
            for name in {**old.last.values, **memory.last.values}:
                if old.last.get(name) != memory.last.get(name):
                    self._last_seen(known, memory, name)
        return learned

    def learn(self, board: Board, learned: Learned) -> None:
        """Let sides know on a board what they have come to know on another."""
        for side, changes in learned:
            memory = board._memory(side)
            with memory._branch.following():
                changes.write(memory)

    def _last_seen(self, known: Known, memory: Memory, name: str) -> None:
        """Take over where a unit was last seen; one that left a board is not gone."""
        if name in memory.last.values:
            known.last[name] = memory.last.values[name]
        elif name not in self._crew.listed:
            known.last.pop(name, None)

    def _write(self, side: str, changes: Changes) -> None:
        for key in changes.sectors(self._land.side):
            sector = self._land.land(key).board
            if sector is not None:
                memory = sector._memory(side)
                with memory._branch.following():
                    changes.write(memory)
        edges, links = changes.between_sectors(self._land.side)
        take(self.sides[side].edges, edges)
        take(self.sides[side].links, links)

    def refresh(self, board: Board, rect: Rect) -> None:
        """Let a board know where units were last seen."""
        for side in self.sides:
            self._set_last(board._memory(side), rect)

    def _set_last(self, memory: Memory, rect: Rect) -> None:
        memory.last.values = {
            name: unit for name, unit in self.sides[memory.side].last.items()
            if rect.holds([unit.at]) and rect.holds(memory.covered(unit))
        }  # fmt: skip
