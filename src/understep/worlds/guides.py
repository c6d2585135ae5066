"""Guides: what is known of a world for long ways, for each movement that asked for one."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Iterable, MutableMapping
from hashlib import sha256
from typing import Any, Literal, TypeAlias

from understep.boards.board import Board
from understep.boards.edges import Laid
from understep.boards.links import Link
from understep.boards.unit import Unit
from understep.grids.cell import Cell
from understep.moves.answer import home, movement_of
from understep.moves.spans import payable
from understep.worlds.bounds import RIM
from understep.worlds.guide import Guide, Plot, note
from understep.worlds.plan import Plan, find
from understep.worlds.rect import Rect
from understep.worlds.sectors import Sectors

Asleep: TypeAlias = Literal["load", "kept", "refuse"]
MOST_GUIDES = 8
NOTED = 16  # cells from which an edit can alter what is noted


class Guides:
    """One guide for each kind of movement and side, the last few that were asked.

    ``over`` gives the edges on seams and the links from sector to sector, ``memory`` says how many
    bytes all of them may take.
    """

    def __init__(
        self, land: Sectors, over: Callable[[], tuple[Iterable[Laid], Iterable[Link]]],
        memory: int, notes: MutableMapping[str, bytes] | None,
    ) -> None:  # fmt: skip
        self._land, self._over, self._memory, self._notes = land, over, memory, notes
        self._guides: OrderedDict[tuple[Any, ...], Guide] = OrderedDict()

    def plan(self, unit: Unit, goal: Cell, asleep: Asleep, most: int) -> tuple[Plan, int]:
        """A way over crossings, and how many parts of its cost make a point."""
        guide, now = self._guide(unit), self._land.awake

        def awake(key: tuple[int, int]) -> bool:
            return asleep == "load" or key in now

        def open_(key: tuple[int, int]) -> bool:
            return asleep != "refuse" or key in now

        key, share = self._land.key, self._memory // len(self._guides)
        found = find(guide, key, home(unit), goal, awake, open_, most, share)
        guide.keep(share)
        return found, guide.scale

    def forget(self, cells: list[tuple[int, int]]) -> None:
        """Drop what a change of some cells can have altered."""
        for guide in self._guides.values():
            guide.forget(cells, RIM)
        if self._notes is not None:
            size = self._land.size
            near = (Rect(c, r, c + 1, r + 1).grown(NOTED).inside(*size) for c, r in cells)
            for key in {key for rect in near if rect for key in self._land.keys(rect)}:
                self._notes.pop(note(key), None)

    def _guide(self, unit: Unit) -> Guide:
        """What is known for a unit's movement."""
        land, moving, template = self._land, movement_of(unit), self._land.template(home(unit))
        asked = moving.rules, payable(moving, 1), template.apart(unit.side)
        guide = self._guides.get(asked)
        if guide is None:
            plot = Plot(land.size, land.rect, land.key, self._ground, lambda: self._over()[1])
            rules = *asked, template.terrains, template.edge_kinds, land.size, land.side
            name = sha256(repr(rules).encode()).hexdigest()[:16]
            noted = self._notes if moving.rule is None else None
            guide = Guide(moving, unit.side, plot, template, noted, name)
            self._guides[asked] = guide
        self._guides.move_to_end(asked)
        while len(self._guides) > MOST_GUIDES:
            self._guides.popitem(last=False)
        return guide

    def _ground(self, rect: Rect) -> Board | None:
        """That of a sector, or a board cut anew without links from sector to sector."""
        key = self._land.key(rect[:2])
        if rect == self._land.rect(key):
            return self._land.land(key).board
        return self._land.ground(rect, self._over()[0], ())
