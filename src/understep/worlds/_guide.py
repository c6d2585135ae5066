"""Guide: where a movement can cross from sector to sector, and what it costs between crossings."""

from __future__ import annotations

import json
from collections import OrderedDict
from collections.abc import Callable, Iterable, Iterator, MutableMapping
from typing import Any, NamedTuple

import numpy as np

from understep.boards.board import Board
from understep.boards.cost import exact
from understep.boards.links import Link
from understep.grids.cell import Cell, IntArray
from understep.moves.spans import Spans, charged
from understep.rules.movement import Movement
from understep.rules.steps import NEVER, step_table
from understep.worlds._border import Crossing, crossings
from understep.worlds._bounds import breadth, sample
from understep.worlds._rect import Rect
from understep.worlds._sectors import SectorKey
from understep.worlds._sheet import Exits, Sheet

PARTS = 1000  # of a point, at least
SPANS = 256  # sectors whose steps are at hand


def note(key: SectorKey) -> str:
    """Under what name a sector is noted."""
    return f"{key[0]}.{key[1]}"


class Plot(NamedTuple):
    """How a world is laid out in sectors, as a guide sees it.

    ``rect`` gives the rectangle of a sector, ``key`` the sector of a cell, ``ground`` a board of
    any rectangle (None: no cells), ``links`` those from sector to sector.
    """

    size: tuple[int, int]
    side: int
    rect: Callable[[SectorKey], Rect]
    key: Callable[[tuple[int, int]], SectorKey]
    ground: Callable[[Rect], Board | None]
    links: Callable[[], Iterable[Link]]


def _measures(template: Board, movement: Movement, side: str) -> tuple[int, int]:
    """Parts of a point, the same wherever in a world it is asked; what the cheapest step costs.

    Costs of links and rules may differ from sector to sector: they are rounded up.
    """
    if movement.rule is not None:
        # a rule can make any step free
        return PARTS, 0
    table = step_table(sample(template), movement, side)
    # so fine that rounding up to whole parts hardly counts
    finer = -(-PARTS // table.scale) * table.layers
    return table.scale * finer, table.cheapest * finer


class Guide:
    """The crossings of a world for one movement and side, found where they are asked for.

    D. Botea, M. Mueller, J. Schaeffer, Near optimal hierarchical path-finding, Journal of Game
    Development 1 (2004), with more crossings, and costs from one to the others worked out when a
    plan first needs. ``notes`` keep them by sector and ``name``, as JSON.
    """

    def __init__(
        self, movement: Movement, side: str, plot: Plot, template: Board,
        notes: MutableMapping[str, bytes] | None,
    ) -> None:  # fmt: skip
        self._movement, self._side, self._plot = movement, side, plot
        self._notes = notes
        #: Under what name it notes, by its rules and all that lies between sectors.
        self.name = ""
        #: How many parts make a point; what the cheapest step costs in them.
        self.scale, self.cheapest = _measures(template, self._movement, side)
        self.grid = template.grid
        #: How far from an anchor a unit's own cells can lie.
        self._wide = breadth(movement)
        self._deep = 0 if movement.leap is None else movement.leap.over
        #: What is known, by sector, in the order of their last use.
        self.sheets: OrderedDict[SectorKey, Sheet] = OrderedDict()
        self._spans: OrderedDict[SectorKey, Spans | None] = OrderedDict()
        self._changed: set[SectorKey] = set()
        self._own: tuple[Cell | None, IntArray | None] = None, None

    def sheet(self, key: SectorKey) -> Sheet:
        """What is known of a sector."""
        sheet = self.sheets.get(key)
        if sheet is None:
            sheet = self.sheets[key] = self._outlets(key)
            # what another session found out need not be found again
            sheet.read(self._noted(key).get(self.name))
        self.sheets.move_to_end(key)
        return sheet

    def row(self, key: SectorKey, cell: Cell, kept: bool = True) -> IntArray:
        """The cost from a cell of a sector to all its outlets, kept or not; -1: no route."""
        sheet = self.sheet(key)
        row = sheet.rows.get(cell)
        if row is None and self._own[0] == cell:
            row = self._own[1]
        if row is None:
            spans, low = self.spans(key), np.array(self._plot.rect(key)[:2])
            row = np.full(len(sheet.outlets), -1, dtype=np.int64)
            if spans is not None:
                at = sheet.outlets - low
                row = self._even(spans.since(cell), spans)[at[:, 1] * spans.cols + at[:, 0]]
            # half the memory, where it fits
            row = row.astype(np.int32) if row.max(initial=0) < 1 << 31 else row
            if kept:
                sheet.rows[cell] = row
                self._changed.add(key)
            else:
                self._own = cell, row
        return row

    def to(self, key: SectorKey, cell: Cell) -> Callable[[Cell], int]:
        """The cost from any cell of a sector to one of them; -1: no route."""
        spans = self.spans(key)
        if spans is None:
            return lambda _: -1
        costs, place = self._even(spans.to(cell), spans), spans.number
        return lambda start: int(costs[place(start)])

    def exits(self, key: SectorKey, other: SectorKey) -> Exits:
        """The crossings from a sector to another; those back are found with them."""
        sheet = self.sheet(key)
        if other not in sheet.exits:
            ways = zip(((key, other), (other, key)), self._across(key, other), strict=True)
            for (start, end), every in ways:
                back = self.sheet(start)
                if end in back.sides and end not in back.exits:
                    back.exits[end] = Exits(
                        np.array([back.places[a] for a, *_ in every], dtype=np.int64),
                        [b for _, b, _ in every],
                        np.array([cost for *_, cost in every], dtype=np.int64),
                    )
                    self._changed.add(start)
        return sheet.exits[other]

    def spans(self, key: SectorKey) -> Spans | None:
        """The costs inside a sector; None: it has no cells."""
        if key not in self._spans:
            rect = self._plot.rect(key)
            board = self._plot.ground(rect.grown(self._wide).inside(*self._plot.size) or rect)
            first = Cell(rect.left, rect.top)
            self._spans[key] = (
                None if board is None
                else Spans(board, self._movement, self._side, first, *rect.size)
            )  # fmt: skip
            # the least recently used goes first
            while len(self._spans) > SPANS:
                self._spans.popitem(last=False)
        self._spans.move_to_end(key)
        return self._spans[key]

    def links(self) -> Iterator[tuple[Cell, Cell, int]]:
        """The links from sector to sector that the movement can take, by direction, and costs."""
        for link in self._plot.links():
            price = self._movement._along(link.kind, exact(link.cost, "cost"))
            if price is None:
                continue
            # rounded up, so that no cost is too low
            whole = np.array([-(-price * self.scale // 1)], dtype=np.int64)
            cost = int(charged(self._movement, self.scale, whole)[0])
            ends = ((link.a, link.b), (link.b, link.a))[: 1 + link.both]
            if cost < NEVER:
                yield from ((*pair, cost) for pair in ends)

    # what is kept, and dropped

    def forget(self, cells: Iterable[tuple[int, int]], far: int) -> set[SectorKey]:
        """Drop what a change of some cells, or of others so near them, can have altered: where."""
        self._own = None, None
        far += self._deep + 2 * self._wide
        key, size = self._plot.key, self._plot.size
        touched: set[SectorKey] = set()
        for col, row in cells:
            near = Rect(col, row, col + 1, row + 1).grown(far).inside(*size)
            if near is not None:
                low, high = key((near.left, near.top)), key((near.right - 1, near.bottom - 1))
                across, down = (range(a, b + 1) for a, b in zip(low, high, strict=True))
                touched |= {(x, y) for x in across for y in down}
        for each in touched:
            self.sheets.pop(each, None)
            self._spans.pop(each, None)
            self._changed.discard(each)
        for start, end, _ in self.links():  # whether one can land there
            if key(end) in touched:
                self.sheets.pop(key(start), None)
                touched.add(key(start))
        return touched

    def keep(self) -> None:
        """Write down what was found since the last time."""
        notes = self._notes
        if notes is not None:
            for key in sorted(self._changed & set(self.sheets)):
                noted = {**self._noted(key), self.name: self.sheets[key].plain()}
                notes[note(key)] = json.dumps(noted, separators=(",", ":")).encode()
        self._changed.clear()

    def _noted(self, key: SectorKey) -> dict[str, Any]:
        """What is noted of a sector, for all movements; nothing, if it is not sound."""
        try:
            found = json.loads((self._notes or {}).get(note(key), b"{}"))
        except (ValueError, RecursionError):
            return {}
        return found if isinstance(found, dict) else {}

    # how it is found

    def _even(self, costs: IntArray, spans: Spans) -> IntArray:
        """Costs of a sector in the parts of this guide."""
        if spans.scale == self.scale:
            return costs
        found: IntArray = np.where(costs < 0, -1, -(-costs * self.scale // spans.scale))
        return found

    def _outlets(self, key: SectorKey) -> Sheet:
        """The cells of a sector from which a step can lead out, and to which sectors."""
        rect, deep, at = self._plot.rect(key), self._deep, self._plot.key
        # a step or leap leads out only from near the edge; links from anywhere
        rim = np.ones(rect.size[::-1], dtype=bool)
        rim[deep + 1 : -1 - deep, deep + 1 : -1 - deep] = False
        links = [link for link in self.links() if at(link[0]) == key]
        for (col, row), *_ in links:
            rim[row - rect.top, col - rect.left] = True
        outlets = np.argwhere(rim)[:, ::-1] + rect[:2]
        near = self.grid.lattice.around(outlets)
        for _ in range(deep):
            # a leap leads a cell farther for each that it goes over
            near = self.grid.lattice.around(near.reshape(-1, 2))
        near = near.reshape(len(outlets), -1, 2)
        out = Rect(0, 0, *self._plot.size).within(near) & ~rect.within(near)
        places, ways = np.nonzero(out)
        across, down = (near[places, ways] // self._plot.side).T
        sides: dict[SectorKey, set[int]] = {}
        for col in set(across.tolist()):
            for row in set(down.tolist()):
                if (there := places[(across == col) & (down == row)]).size:
                    sides[col, row] = set(there.tolist())
        for start, end, _ in links:
            place = int(np.flatnonzero((outlets == start).all(axis=-1))[0])
            sides.setdefault(at(end), set()).add(place)
        return Sheet(outlets, {other: sorted(sides[other]) for other in sorted(sides)})

    def _across(self, key: SectorKey, other: SectorKey) -> tuple[list[Crossing], list[Crossing]]:
        """All crossings from a sector to another, and back."""
        at = self._plot.key
        home, there = self._plot.rect(key), self._plot.rect(other)
        sheets = [(self.sheet(key), other), (self.sheet(other), key)]
        cells = np.concatenate([sheet.outlets[sheet.sides.get(to, [])] for sheet, to in sheets])
        edge = Rect(*map(int, (*cells.min(axis=0), *(cells.max(axis=0) + 1))))
        both = home.joined(there)
        gaps = (b - a - c for a, b, c in zip(home.size, both.size, there.size, strict=True))
        found: tuple[list[Crossing], list[Crossing]] = ([], [])
        # else only links lead from one to the other
        if max(gaps) <= self._deep:
            strip = edge.grown(self._wide).inside(*self._plot.size)
            board = None if strip is None else self._plot.ground(strip)
            if board is not None:
                *ways, scale = crossings(board, self._movement, self._side, home, there)
                for way, out in zip(ways, found, strict=True):
                    out += [
                        each._replace(cost=int(-(-each.cost * self.scale // scale))) for each in way
                    ]
        for out, start, end in zip(found, (key, other), (other, key), strict=True):
            links = [link for link in self.links() if [*map(at, link[:2])] == [start, end]]
            spans = self.spans(end) if links else None
            if spans is not None:
                out += [Crossing(*link) for link in links if spans.stands(link[1])]
        return found
