"""Guides: what is known of a world for long ways, for each movement that asked for one."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Iterable, MutableMapping
from hashlib import sha256
from typing import Any, Literal, TypeAlias, cast

from understep.boards.board import Board
from understep.boards.edges import Laid
from understep.boards.links import Link
from understep.boards.unit import Unit
from understep.grids.cell import Cell
from understep.moves.answer import movement_of
from understep.worlds._bounds import RIM
from understep.worlds._crossing_search import CrossingRoute, CrossingSearch
from understep.worlds._graph import Graph
from understep.worlds._guide import Guide, Plot, note
from understep.worlds._rect import Rect
from understep.worlds._sectors import Sectors
from understep.worlds._whole import fits, whole_route

Asleep: TypeAlias = Literal["load", "kept", "refuse"]
MOST_GUIDES = 8
SECTOR = 64_000  # bytes, about, for what is known of a sector
FIRST = 1000  # nodes that one plan finds out, where another way leads to an answer sooner
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
        self._guides: OrderedDict[tuple[Any, ...], tuple[Guide, Graph]]
        self._guides = OrderedDict()

    def plan(
        self, unit: Unit, goal: Cell, asleep: Asleep, weight: float
    ) -> tuple[CrossingRoute, int]:
        """A way over crossings, and how many parts of its cost make a point."""
        asked = self._guide(unit)
        now = set() if asleep == "load" else self._land.awake
        guide, graph = self._guides[asked]

        def awake(key: tuple[int, int]) -> bool:
            return asleep == "load" or key in now

        def open_(key: tuple[int, int]) -> bool:
            return asleep != "refuse" or key in now

        most = max(self._memory // SECTOR // len(self._guides), 4)
        # it begins anew rather than choosing what to drop
        if len(guide.sheets) > most or graph.full:
            guide.sheets.clear()
            graph = Graph(guide, self._land.key)
            self._guides[asked] = guide, graph
        search = CrossingSearch(guide, graph, self._land.key, weight, awake, open_, most)
        whole = asleep == "load" and fits(self._land.size, 2 * self._memory)
        found = search.find(unit.at, goal, FIRST if whole else None)
        guide.keep()
        if found is None:
            # where little is known yet, one board of all is quicker than to find it all out now;
            # each plan finds out some more
            by_all = self._by_all(unit, goal)
            if by_all is not None:
                return by_all
            found = search.find(unit.at, goal)
        return cast(CrossingRoute, found), guide.scale

    def _by_all(self, unit: Unit, goal: Cell) -> tuple[CrossingRoute, int] | None:
        """The way on one board of the whole world; None where that cannot tell."""
        ground = self._land.ground(Rect(0, 0, *self._land.size), *self._over())
        return None if ground is None else whole_route(ground, unit, goal, self._land.key)

    def clear(self) -> None:
        """Let go of all but what is noted."""
        self._guides.clear()

    def forget(self, cells: list[tuple[int, int]]) -> None:
        """Drop what a change of some cells can have altered."""
        for guide, graph in self._guides.values():
            graph.forget(guide.forget(cells, RIM))
        if self._notes is not None:
            size = self._land.size
            near = (Rect(c, r, c + 1, r + 1).grown(NOTED).inside(*size) for c, r in cells)
            for key in {key for rect in near if rect for key in self._land.keys(rect)}:
                self._notes.pop(note(key), None)

    def _guide(self, unit: Unit) -> tuple[Any, ...]:
        """What is known for a unit's movement, made if it is not there, by its key."""
        land, moving, template = self._land, movement_of(unit), self._land.template(unit.at)
        asked = (
            moving.rules,
            moving.points,
            moving.carry,
            moving.one_step,
            unit.side,
        )
        if asked not in self._guides:
            plot = Plot(land.size, land.side, land.rect, land.key, self._ground, self._links)
            noted = self._notes if moving.rule is None else None
            guide = Guide(moving, unit.side, plot, template, noted)
            self._guides[asked] = guide, Graph(guide, land.key)
        over = [list(each) for each in self._over()]
        rules = *asked, template._contents.declared, land.size, land.side, over
        self._guides[asked][0].name = sha256(repr(rules).encode()).hexdigest()[:16]
        self._guides.move_to_end(asked)
        # the least recently asked goes first
        while len(self._guides) > MOST_GUIDES:
            self._guides.popitem(last=False)
        return asked

    def _links(self) -> Iterable[Link]:
        """The links from sector to sector."""
        return self._over()[1]

    def _ground(self, rect: Rect) -> Board | None:
        """That of a sector, or a board cut anew without links from sector to sector."""
        key = self._land.key(rect[:2])
        if rect == self._land.rect(key):
            return self._land.land(key).board
        return self._land.ground(rect, self._over()[0], ())
