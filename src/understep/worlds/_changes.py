"""Changes: what differs between two boards of the same cells, to be written to sectors."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from understep.boards.board import Board
from understep.boards.contents import places
from understep.boards.edges import Laid
from understep.boards.links import Link
from understep.boards.unit import Unit
from understep.errors import CellError, InputError, OccupiedError
from understep.grids.cell import Cell
from understep.worlds._rect import Rect

Ends = tuple[Cell, Cell]


class Changes:
    """How what lies on one board differs from what lay on another with the same cells."""

    def __init__(self, before: Board, after: Board) -> None:
        self._before, self._after = before._contents, after._contents
        self._parts = list(self._before.differing(self._after))
        self._edges = _pairs(before.edges(), after.edges())
        self._links = _pairs(before.links(), after.links())

    def cells(self) -> Iterable[tuple[int, int]]:
        """All cells that differ, and both ends of what lies between two that does."""
        for key, keys, values in self._parts:
            numbers = self._before.store(key).where(keys, None, values)
            yield from map(tuple, self._before.grid.numbering.cells_of(numbers).tolist())
        for ends in (*self._edges, *self._links):
            yield from ends

    def sectors(self, size: int) -> list[tuple[int, int]]:
        """The sectors of a size in which anything differs, in order."""
        return sorted({(col // size, row // size) for col, row in self.cells()})

    def write(self, board: Board) -> None:
        """Do to the board of a sector what was done on its cells."""
        contents, place = board._contents, places(self._after.grid, board.grid)
        with board.batch():
            for key, keys, values in self._parts:
                codes = self._before.codes_in(key, contents)
                new = values if codes is None else codes[values]
                for there, each in self._before.store(key).moved(keys, new, place):
                    board._journal.write(contents.store(key), there, each)

    def between(self, size: int) -> tuple[dict[Ends, Laid | None], dict[Ends, Link | None]]:
        """Edges and links from sector to sector that differ, as they are now; None: gone."""
        found: tuple[dict[Ends, Any], dict[Ends, Any]] = ({}, {})
        for pairs, out in zip((self._edges, self._links), found, strict=True):
            for ends, (_, new) in pairs.items():
                if len({(col // size, row // size) for col, row in ends}) > 1:
                    out[ends] = new
        return found


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
    places = [(unit.name, unit.at) for unit in units]
    places += [(str(each.kind), end) for each in between for end in (each.a, each.b)]
    for name, cell in places:
        if not rect.holds([cell]):
            raise CellError(name, f"must lie in a world of {rect.size}", tuple(cell))
    taken: set[tuple[str, Cell]] = set()
    for unit in units:
        if (unit.layer, unit.at) in taken:
            raise OccupiedError(unit.name, "another unit stands there", tuple(unit.at))
        taken.add((unit.layer, unit.at))
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
