"""Changes: what differs between two boards of the same cells, to be written to sectors."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping
from typing import Any

import numpy as np
from numpy.typing import NDArray

from understep.boards.board import Board
from understep.boards.edges import Laid
from understep.boards.links import Link
from understep.boards.unit import Unit
from understep.errors import CellError, InputError, OccupiedError
from understep.grids.cell import Cell, Cells
from understep.moves.answer import home
from understep.worlds.rect import Rect

Ends = tuple[Cell, Cell]


class Changes:
    """How the land of one board differs from that of another with the same cells."""

    def __init__(self, before: Board, after: Board) -> None:
        cells = after.grid.cells
        at = after.grid.index(cells)
        self._cells = cells.array
        self._names = list(after.terrains)
        self._codes = after.terrain_codes()[at]
        self._levels = after.elevation[at]
        self._values = {name: after.values(name)[at] for name in after.properties}
        old = {name: before.values(name)[at] for name in after.properties}
        #: Where ground, levels and values differ, over all cells.
        self._ground = self._codes != before.terrain_codes()[at]
        self._raised = self._levels != before.elevation[at]
        self._valued = {name: self._values[name] != old[name] for name in old}
        sides = (None, *dict.fromkeys((*before.barred_sides, *after.barred_sides)))
        self._blocks = {side: (_times(before, side), _times(after, side)) for side in sides}
        self._edges = _pairs(before.edges(), after.edges())
        self._links = _pairs(before.links(), after.links())

    def cells(self) -> Iterable[tuple[int, int]]:
        """All cells that differ, and both ends of what lies between two that does."""
        mask = self._ground | self._raised
        for each in self._valued.values():
            mask = mask | each
        yield from map(tuple, self._cells[mask].tolist())
        for old, new in self._blocks.values():
            yield from (old - new) | (new - old)
        for ends in (*self._edges, *self._links):
            yield from ends

    def sectors(self, size: int) -> list[tuple[int, int]]:
        """The sectors of a size in which anything differs, in order."""
        return sorted({(col // size, row // size) for col, row in self.cells()})

    def write(self, board: Board, rect: Rect) -> None:
        """Do to the board of a sector what was done in its rectangle."""
        low, high = np.array(rect[:2]), np.array(rect[2:])
        inside = ((self._cells >= low) & (self._cells < high)).all(axis=1)

        def those(mask: NDArray[np.bool_]) -> Cells:
            return Cells(self._cells[mask & inside])

        with board.batch():
            for code, name in enumerate(self._names):
                board.paint(name, those(self._ground & (self._codes == code)))
            raised = self._raised & inside
            if raised.any():
                board.raise_to(self._levels[raised], those(raised))
            for name, mask in self._valued.items():
                if (mask & inside).any():
                    board.set_value(name, self._values[name][mask & inside].tolist(), those(mask))
            for side, (old, new) in self._blocks.items():
                for cells, change in ((old - new, board.clear), (new - old, board.block)):
                    for cell in cells.elements():
                        if rect.holds([cell]):
                            change(cell, side)
            _lay(board, {e: pair for e, pair in self._edges.items() if rect.holds(e)})
            _join(board, {e: pair for e, pair in self._links.items() if rect.holds(e)})

    def between(self, size: int) -> tuple[dict[Ends, Laid | None], dict[Ends, Link | None]]:
        """Edges and links from sector to sector that differ, as they are now; None: gone."""
        found: tuple[dict[Ends, Any], dict[Ends, Any]] = ({}, {})
        for pairs, out in zip((self._edges, self._links), found, strict=True):
            for ends, (_, new) in pairs.items():
                if len({(col // size, row // size) for col, row in ends}) > 1:
                    out[ends] = new
        return found


def _times(board: Board, side: str | None) -> Counter[Cell]:
    """How often each cell is blocked."""
    return Counter(cell for cells in board.block_layers(side) for cell in cells)


def collide(before: Board, after: Board, units: Mapping[str, Unit]) -> set[str]:
    """The names on a board before; refuses units on it that collide with those of its world."""
    names = {unit.name for unit in before.units()}
    others = {
        (unit.layer, cell): unit.name
        for unit in units.values()
        if unit.name not in names
        for cell in before.covered(unit)
    }
    for unit in after.units():
        if unit.name not in names and unit.name in units:
            raise InputError("board", "a unit of this name is elsewhere", unit.name)
        for cell in after.covered(unit):
            other = others.get((unit.layer, cell))
            if other is not None:
                rule = f"{other!r} stands there, who was not on the board"
                raise OccupiedError("board", rule, tuple(cell))
    return names


def placed(units: list[Unit], between: list[Laid | Link], rect: Rect) -> None:
    """Refuse units, edges and links that are not all inside, or units that collide."""
    places = [(unit.name, home(unit)) for unit in units]
    places += [(str(each.kind), end) for each in between for end in (each.a, each.b)]
    for name, cell in places:
        if not rect.holds([cell]):
            raise CellError(name, f"must lie in a world of {rect.size}", tuple(cell))
    taken: set[tuple[str, Cell]] = set()
    for unit in units:
        if (unit.layer, home(unit)) in taken:
            raise OccupiedError(unit.name, "another unit stands there", tuple(home(unit)))
        taken.add((unit.layer, home(unit)))
    if len({unit.name for unit in units}) < len(units):
        raise InputError("units", "names must differ", [unit.name for unit in units])


def take(kept: dict[Any, Any], changed: dict[Any, Any]) -> None:
    """Set what changed, and drop what is gone."""
    for ends, each in changed.items():
        kept.pop(ends, None)
        if each is not None:
            kept[ends] = each


def _pairs(before: Iterable[Any], after: Iterable[Any]) -> dict[Ends, tuple[Any, Any]]:
    """What stands between cells by these, before and after, where that differs."""
    old, new = ({(each.a, each.b): each for each in every} for every in (before, after))
    return {
        ends: (old.get(ends), new.get(ends))
        for ends in (*old, *(ends for ends in new if ends not in old))
        if old.get(ends) != new.get(ends)
    }


def _lay(board: Board, edges: dict[Ends, tuple[Laid | None, Laid | None]]) -> None:
    for old, _ in edges.values():
        if old is not None:
            board.set_edge(old.a, old.b, None, both=old.both)
    for _, new in edges.values():
        if new is not None:
            board.set_edge(new.a, new.b, new.kind, both=new.both, is_open=new.is_open)


def _join(board: Board, links: dict[Ends, tuple[Link | None, Link | None]]) -> None:
    for old, _ in links.values():
        if old is not None:
            board.unlink(old.a, old.b, old.both)
    for _, new in links.values():
        if new is not None:
            board.link(new.a, new.b, new.cost, new.both, new.kind)
