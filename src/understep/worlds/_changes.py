"""Changes: what differs between two boards of the same cells, to be written to sectors."""

from __future__ import annotations

import itertools
from collections.abc import Collection, Iterable
from typing import Any, TypeVar

import numpy as np

from understep.boards.board import Board
from understep.boards.contents import PartKey, places
from understep.boards.edges import Laid
from understep.boards.journal import Change
from understep.boards.links import Link
from understep.boards.roster import Listed
from understep.boards.store import ABSENT, Layer
from understep.boards.unit import Unit
from understep.errors import CellError, InputError, OccupiedError
from understep.grids.cell import Cell
from understep.worlds._rect import Rect

Ends = tuple[Cell, Cell]
T = TypeVar("T")


class Changes:
    """What has changed on a board, as sectors and other boards can be told.

    ``parts`` holds the keys of each part of the contents and what is there now, ``edges`` and
    ``links`` those that changed, by their ends, as they are now (None: gone).
    """

    def __init__(
        self, board: Board, parts: list[tuple[PartKey, Any, Any]], edges: dict[Ends, Laid | None],
        links: dict[Ends, Link | None], units: dict[str, Listed | None], known: Collection[str],
    ) -> None:  # fmt: skip
        self._contents, self._parts = board._contents, parts
        self._edges, self._links = edges, links
        #: Units that changed, by name; the names of all that were on the board before.
        self.units, self.known = units, known

    @classmethod
    def between(cls, before: Board, after: Board) -> Changes:
        """From a board to another with the same cells."""
        parts = list(before._contents.differing(after._contents))
        old, new = before._roster.values, after._roster.values
        units = {name: new.get(name) for name in {**old, **new} if old.get(name) != new.get(name)}
        edges = _changed(before.edges(), after.edges())
        links = _changed(before.links(), after.links())
        # values are coded as the board before counts names
        return cls(before, parts, edges, links, units, old.keys())

    @classmethod
    def since(
        cls, board: Board, state: int, edges: Iterable[Laid], links: Iterable[Link], size: int
    ) -> Changes | None:
        """Since a state of a board; None: that is not known.

        ``edges`` and ``links`` are those that led from sector to sector then.
        """
        path = board._journal.path_from(state)
        if path is None:
            return None
        changes = itertools.chain.from_iterable(step.changes for step in path)
        return cls.of(board, changes, edges, links, size)

    @classmethod
    def of(
        cls, board: Board, changes: Iterable[Change] | None, edges: Iterable[Laid],
        links: Iterable[Link], size: int,
    ) -> Changes:  # fmt: skip
        """Some changes of a board, the first one first; None: all that it holds."""
        contents, roster = board._contents, board._roster
        was: dict[str, bool] = {}  # whether a unit was there
        keys: dict[PartKey, list[Any]] = {}
        if changes is None:
            keys = {key: list(store.used()) for key, store in contents.stores.items()}
        for change in changes or ():
            key = contents.key_of(change.store)
            if key is not None:
                keys.setdefault(key, []).append(change.keys)
            elif change.store is roster:
                was.setdefault(change.keys, change.old is not ABSENT)
        units = {name: roster.values.get(name) for name in was}
        known = {*roster.values, *(name for name, there in was.items() if there)}
        known -= {name for name, there in was.items() if not there}
        parts: list[tuple[PartKey, Any, Any]] = []
        for key, every in keys.items():
            store: Any = contents.store(key)
            if isinstance(store, Layer) and every:
                every = [np.unique(np.concatenate(list(map(np.atleast_1d, every))))]
            parts += [(key, each, store.get(each)) for each in every]
        seams = _changed(edges, _between(board.edges(), size)) if ("edges", None) in keys else {}
        leads = _changed(links, _between(board.links(), size)) if ("links", None) in keys else {}
        return cls(board, parts, seams, leads, units, known)

    @property
    def land(self) -> bool:
        """Whether anything but units has changed."""
        return bool(self._parts or self._edges or self._links)

    def cells(self) -> Iterable[tuple[int, int]]:
        """All cells that differ, and both ends of what lies between two that does."""
        for key, keys, values in self._parts:
            numbers = self._contents.store(key).where(keys, None, values)
            yield from map(tuple, self._contents.grid.numbering.cells_of(numbers).tolist())
        for ends in (*self._edges, *self._links):
            yield from ends

    def sectors(self, size: int) -> list[tuple[int, int]]:
        """The sectors of a size in which anything differs, in order."""
        return sorted({(col // size, row // size) for col, row in self.cells()})

    def write(self, board: Board) -> None:
        """Do to another board what was done on its cells."""
        contents, place = board._contents, places(self._contents.grid, board.grid)
        with board.batch():
            for key, keys, values in self._parts:
                codes = self._contents.codes_in(key, contents)
                new = values if codes is None else codes[values]
                for there, each in self._contents.store(key).moved(keys, new, place):
                    board._journal.write(contents.store(key), there, each)

    def between_sectors(self, size: int) -> tuple[dict[Ends, Laid | None], dict[Ends, Link | None]]:
        """Edges and links from sector to sector that differ, as they are now; None: gone."""
        return _lead_over(self._edges, size), _lead_over(self._links, size)


def _lead_over(pairs: dict[Ends, T], size: int) -> dict[Ends, T]:
    """What leads from sector to sector."""
    return {ends: each for ends, each in pairs.items() if _crosses(ends, size)}


def _between(every: Iterable[Any], size: int) -> Iterable[Any]:
    """The same, not yet by their ends."""
    return (each for each in every if _crosses((each.a, each.b), size))


def _crosses(ends: Ends, size: int) -> bool:
    return len({(col // size, row // size) for col, row in ends}) > 1


def all_inside(units: Iterable[Unit], between: Iterable[Laid | Link], rect: Rect) -> None:
    """Refuse units, edges and links that are not all inside."""
    places = [(unit.name, unit.at) for unit in units]
    places += [(str(each.kind), end) for each in between for end in (each.a, each.b)]
    for name, cell in places:
        if not rect.holds([cell]):
            raise CellError(name, f"must lie in a world of {rect.size}", tuple(cell))


def placed(units: list[Unit], between: list[Laid | Link], rect: Rect) -> None:
    """Refuse units, edges and links that are not all inside, or units that collide."""
    all_inside(units, between, rect)
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


def _changed(before: Iterable[Any], after: Iterable[Any]) -> dict[Ends, Any]:
    """What stands between cells by these, as it is after, where that differs; None: gone."""
    old, new = ({(each.a, each.b): each for each in every} for every in (before, after))
    return {ends: new.get(ends) for ends in {**old, **new} if old.get(ends) != new.get(ends)}
