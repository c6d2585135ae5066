"""Crew: the units of a world, wherever they stand."""

from __future__ import annotations

import itertools
from collections.abc import Container, Iterable, Iterator
from functools import reduce

from understep.boards.board import Board
from understep.boards.roster import Listed
from understep.boards.unit import Unit
from understep.checks import named
from understep.errors import InputError, OccupiedError
from understep.grids.cell import Cell
from understep.worlds._bounds import spread
from understep.worlds._rect import Rect

BLOCK = 64  # columns and rows of the squares by which units are looked up


class Crew:
    """Units by name, with their places in the order of adding and the cells that they take up."""

    def __init__(self) -> None:
        self.listed: dict[str, Listed] = {}
        #: The places in the order of adding that are still to be given; boards draw on them, too.
        self.serials = itertools.count()
        #: The sides that take part, or took part, in order.
        self.sides: dict[str, None] = {}
        self._blocks: dict[tuple[int, int], set[str]] = {}
        self._taken: dict[tuple[str, Cell], str] = {}
        self._wide: int | None = 0
        self._ordered: tuple[Unit, ...] | None = ()

    def unit(self, name: str, argument: str = "unit") -> Unit:
        """A unit by name."""
        return self.listed[named(argument, "unit", name, self.listed)].unit

    def in_order(self) -> tuple[Unit, ...]:
        """All units, in the order they were added."""
        if self._ordered is None:
            every = sorted(self.listed.values(), key=lambda listed: listed.serial)
            self._ordered = tuple(listed.unit for listed in every)
        return self._ordered

    @property
    def wide(self) -> int:
        """How far from its anchor a unit's own cells can lie, of all units."""
        if self._wide is None:
            every = {listed.unit.movement.footprint for listed in self.listed.values()}
            self._wide = max(map(spread, every), default=0)
        return self._wide

    def take(self, changed: dict[str, Listed | None]) -> None:
        """Let units be as they are now; None: they are gone."""
        pairs = [(name, self.listed.pop(name, None), now) for name, now in changed.items()]
        for name, old, _ in pairs:  # first all leave: two may have changed places
            if old is not None:
                self._blocks[_block(old)].discard(name)
                for cell in old.cells:
                    del self._taken[old.unit.layer, cell]
        for name, old, now in pairs:
            if now is not None:
                self.listed[name] = now
                self.sides.setdefault(now.unit.side)
                self._blocks.setdefault(_block(now), set()).add(name)
                self._taken |= {(now.unit.layer, cell): name for cell in now.cells}
            if old is None or now is None or old.unit.movement is not now.unit.movement:
                self._wide = None
        self._ordered = None

    def near(self, rect: Rect) -> Iterator[Listed]:
        """Those whose anchor lies in a rectangle, or not far from it, in no order."""
        across = range(rect.left // BLOCK, (rect.right - 1) // BLOCK + 1)
        for key in itertools.product(
            across, range(rect.top // BLOCK, 1 + (rect.bottom - 1) // BLOCK)
        ):
            yield from map(self.listed.__getitem__, self._blocks.get(key, ()))

    def man(self, board: Board, rect: Rect) -> None:
        """Set down on a new board of a rectangle who stands on it as a whole."""
        for number, side in enumerate(self.sides, 1):
            board._roster.sides.put(side, number)
        for listed in sorted(self.near(rect), key=lambda listed: listed.serial):
            if rect.holds(listed.cells):
                board._roster.put(listed.unit.name, listed)
        board._units.serials = self.serials

    def check(self, changed: dict[str, Listed | None], known: Container[str]) -> None:
        """Refuse units that collide with some who were not on the board that they changed on.

        ``known`` are the names of those who were.
        """
        for name, now in changed.items():
            if now is None:
                continue
            if name in self.listed and name not in known:
                raise InputError("board", "a unit of this name is elsewhere", name)
            for cell in now.cells:
                other = self._taken.get((now.unit.layer, cell))
                if other is not None and other not in changed and other not in known:
                    rule = f"{other!r} stands there, who was not on the board"
                    raise OccupiedError("board", rule, tuple(cell))

    def partly_on(self, cells: set[tuple[int, int]], known: Container[str]) -> Iterator[Unit]:
        """The large units that stand on any of some cells, but for those who are known."""
        if not cells or not self.wide:
            return
        rect = reduce(Rect.joined, map(Rect.at, cells))
        for listed in list(self.near(rect.grown(self.wide))):
            large = len(listed.cells) > 1 and listed.unit.name not in known
            if large and not cells.isdisjoint(listed.cells):
                yield listed.unit

    def restore(self, every: Iterable[Listed]) -> None:
        """Let there be just some units."""
        self.take(dict.fromkeys(self.listed))
        self.take({listed.unit.name: listed for listed in every})


def _block(listed: Listed) -> tuple[int, int]:
    col, row = listed.unit.at
    return col // BLOCK, row // BLOCK
