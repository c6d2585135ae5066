"""Guide: where a movement can cross from sector to sector, and what it costs between crossings."""

from __future__ import annotations

import json
from collections import OrderedDict
from collections.abc import Callable, Iterable, Iterator, MutableMapping
from typing import Any, NamedTuple

import numpy as np

from understep.boards.board import Board
from understep.boards.links import Link
from understep.grids.cell import Cell, IntArray
from understep.moves.movement import Movement
from understep.moves.spans import Spans, evened, payable
from understep.moves.steps import step_table
from understep.worlds.border import crossings
from understep.worlds.rect import Rect
from understep.worlds.sheet import Exits, Key, Sheet

SPANS = 64  # sectors whose steps are at hand


def note(key: Key) -> str:
    """Under what name a sector is noted."""
    return f"{key[0]}.{key[1]}"


class Plot(NamedTuple):
    """How a world is laid out in sectors, as a guide sees it.

    ``rect`` gives the rectangle of a sector, ``key`` the sector of a cell, ``ground`` a board of
    any rectangle (None: no cells), ``links`` those from sector to sector.
    """

    size: tuple[int, int]
    rect: Callable[[Key], Rect]
    key: Callable[[tuple[int, int]], Key]
    ground: Callable[[Rect], Board | None]
    links: Callable[[], Iterable[Link]]


class Guide:
    """The crossings of a world for one movement and side, found where they are asked for.

    D. Botea, M. Mueller, J. Schaeffer, Near optimal hierarchical path-finding, Journal of Game
    Development 1 (2004), with more crossings, and costs from one to the others worked out when a
    plan first comes by. ``notes`` keep them by sector and ``name``, as JSON.
    """

    def __init__(
        self, movement: Movement, side: str, plot: Plot, template: Board,
        notes: MutableMapping[str, bytes] | None, name: str,
    ) -> None:  # fmt: skip
        self._movement, self._side, self._plot = evened(movement), side, plot
        self._notes, self._name = notes, name
        table = step_table(template, self._movement, side)
        #: How many parts make a point; what the cheapest step costs in them.
        self.scale, self.cheapest = table.scale, table.cheapest
        self.grid = template.grid
        #: How far from an anchor a unit's own cells can lie.
        self._wide = max(abs(part) for offset in movement.footprint for part in offset)
        self._deep = 0 if movement.leap is None else movement.leap.over
        #: What is known, by sector; the one that was asked for last is last.
        self.sheets: OrderedDict[Key, Sheet] = OrderedDict()
        self._spans: OrderedDict[Key, Spans | None] = OrderedDict()
        self._changed: set[Key] = set()

    def sheet(self, key: Key) -> Sheet:
        """What is known of a sector."""
        sheet = self.sheets.get(key)
        if sheet is None:
            sheet = self.sheets[key] = self._outlets(key)
            sheet.read(self._noted(key).get(self._name))
        self.sheets.move_to_end(key)
        return sheet

    def row(self, key: Key, cell: Cell, kept: bool = True) -> IntArray:
        """The cost from a cell of a sector to all its outlets, kept or not; -1: no way."""
        sheet = self.sheet(key)
        row = sheet.rows.get(cell)
        if row is None:
            spans, low = self.spans(key), np.array(self._plot.rect(key)[:2])
            row = np.full(len(sheet.outlets), -1, dtype=np.int64)
            if spans is not None:
                at = sheet.outlets - low
                row = self._even(spans.since(cell), spans)[at[:, 1] * spans.cols + at[:, 0]]
            if kept:
                sheet.rows[cell] = row
                self._changed.add(key)
        return row

    def to(self, key: Key, cell: Cell) -> Callable[[Cell], int]:
        """The cost from any cell of a sector to one of them; -1: no way."""
        spans = self.spans(key)
        if spans is None:
            return lambda _: -1
        costs, place = self._even(spans.to(cell), spans), spans.number
        return lambda start: int(costs[place(start)])

    def exits(self, key: Key, other: Key) -> Exits:
        """The crossings from a sector to another."""
        sheet = self.sheet(key)
        found = sheet.exits.get(other)
        if found is None:
            every = list(self._across(key, other, sheet))
            found = sheet.exits[other] = Exits(
                np.array([sheet.places[start] for start, *_ in every], dtype=np.int64),
                [end for _, end, _ in every],
                np.array([cost for *_, cost in every], dtype=np.int64),
            )
            self._changed.add(key)
        return found

    def spans(self, key: Key) -> Spans | None:
        """The costs inside a sector; None: it has no cells."""
        if key not in self._spans:
            rect = self._plot.rect(key)
            board = self._plot.ground(rect.grown(self._wide).inside(*self._plot.size) or rect)
            first = Cell(rect.left, rect.top)
            self._spans[key] = (
                None if board is None
                else Spans(board, self._movement, self._side, first, *rect.size)
            )  # fmt: skip
            while len(self._spans) > SPANS:
                self._spans.popitem(last=False)
        self._spans.move_to_end(key)
        return self._spans[key]

    def links(self) -> Iterator[tuple[Cell, Cell, int]]:
        """The links from sector to sector that the movement can take, by direction, and costs."""
        most = payable(self._movement, self.scale)
        for link in self._plot.links():
            price = self._movement.along(link.kind, link.cost)  # type: ignore[arg-type]
            if price is not None and (cost := int(-(-price * self.scale // 1))) <= most:
                ends = (link.a, link.b), (link.b, link.a)
                yield from ((*pair, cost) for pair in ends[: 1 + link.both])

    # what is kept, and dropped

    def forget(self, cells: Iterable[tuple[int, int]], far: int) -> None:
        """Drop what a change of some cells, or of others so near them, can have altered."""
        far += self._deep + 2 * self._wide
        key, size = self._plot.key, self._plot.size
        touched: set[Key] = set()
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

    def keep(self, most: int) -> None:
        """Write down what was found since the last time; hold no more than so many bytes of it."""
        for key in sorted(self._changed & set(self.sheets)) if self._notes is not None else ():
            noted = {**self._noted(key), self._name: self.sheets[key].plain()}
            self._notes[note(key)] = json.dumps(noted, separators=(",", ":")).encode()
        self._changed.clear()
        held = sum(sheet.nbytes for sheet in self.sheets.values())
        while held > most and len(self.sheets) > 1:
            held -= self.sheets.popitem(last=False)[1].nbytes

    def _noted(self, key: Key) -> dict[str, Any]:
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

    def _outlets(self, key: Key) -> Sheet:
        rect, deep, at = self._plot.rect(key), self._deep, self._plot.key
        every = np.array([
            (col, row) for row in range(rect.top, rect.bottom) for col in (
                range(rect.left, rect.right)
                if min(row - rect.top, rect.bottom - 1 - row) <= deep
                else sorted({*range(rect.left, min(rect.left + deep + 1, rect.right)),
                             *range(max(rect.left, rect.right - 1 - deep), rect.right)})
            )
        ], dtype=np.int64)  # fmt: skip
        links = [link for link in self.links() if at(link[0]) == key]
        outlets = np.unique([*every.tolist(), *(start for start, *_ in links)], axis=0)
        near = self.grid.around(outlets)
        for _ in range(deep):
            near = self.grid.around(near.reshape(-1, 2))
        near = near.reshape(len(outlets), -1, 2)
        out = ((near >= 0) & (near < self._plot.size)).all(axis=-1)
        out &= ((near < rect[:2]) | (near >= rect[2:])).any(axis=-1)
        sides: dict[Key, set[int]] = {}
        for place, way in zip(*(part.tolist() for part in np.nonzero(out)), strict=True):
            sides.setdefault(at(near[place, way].tolist()), set()).add(place)
        places = {tuple(cell): place for place, cell in enumerate(outlets.tolist())}
        for start, end, _ in links:
            sides.setdefault(at(end), set()).add(places[tuple(start)])
        return Sheet(outlets, {other: sorted(sides[other]) for other in sorted(sides)})

    def _across(self, key: Key, other: Key, sheet: Sheet) -> Iterator[tuple[Cell, Cell, int]]:
        """All crossings from a sector to another."""
        home, there = self._plot.rect(key), self._plot.rect(other)
        cells = sheet.outlets[sheet.sides[other]]
        edge = Rect(*map(int, (*cells.min(axis=0), *(cells.max(axis=0) + 1)))).grown(1 + self._deep)
        both = home.joined(there)
        if max(both.size[0] - home.size[0] - there.size[0],
               both.size[1] - home.size[1] - there.size[1]) <= self._deep:  # fmt: skip
            strip = edge.shared(both).grown(self._wide).inside(*self._plot.size)
            board = None if strip is None else self._plot.ground(strip)
            if board is not None:
                found, scale = crossings(board, self._movement, self._side, home, there)
                for start, end, cost in found:
                    yield start, end, int(-(-cost * self.scale // scale))
        for start, end, cost in self.links():
            if home.holds([start]) and there.holds([end]):
                spans = self.spans(other)
                if spans is not None and spans.stands(end):
                    yield start, end, cost
