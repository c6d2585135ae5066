"""Sectors: the land of a world in pieces that are awake while they are wanted."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Iterable, Iterator
from itertools import product
from typing import TypeAlias

from understep.boards.board import Board
from understep.boards.edges import Laid
from understep.boards.links import Link
from understep.errors import CellError, InputError, NoRoomError
from understep.grids.cell import Cell
from understep.worlds._land import Land, cut
from understep.worlds._rect import Rect

Make: TypeAlias = Callable[[Cell, int, int], Board | None]
Save: TypeAlias = Callable[[Cell, Board], None]
Hook: TypeAlias = Callable[[Cell, Board | None], object]
SectorKey: TypeAlias = tuple[int, int]


class Sectors:
    """Pieces of a land of ``size``, each ``side`` columns and rows large, made when first wanted.

    No more than ``most`` (None: any number) are awake, and no more than ``memory`` bytes of them.
    ``hooks`` are called with the first cell and the board of one that wakes, and of one that is
    released.
    """

    def __init__(
        self, make: Make, size: tuple[int, int], side: int, most: int | None, memory: int,
        save: Save | None, hooks: tuple[Hook | None, Hook | None],
    ) -> None:  # fmt: skip
        self._make, self._save, self._most, self._memory = make, save, most, memory
        self._on_wake, self._on_sleep = hooks
        #: Called with the board of every sector that wakes.
        self.prepare: Callable[[Board], None] = lambda _: None
        self.size, self.side = size, side
        #: Those that stay awake until they are released.
        self.pinned: set[SectorKey] = set()
        self._lands: OrderedDict[SectorKey, Land] = OrderedDict()
        self._held = 0

    @property
    def awake(self) -> set[SectorKey]:
        """Those that are awake."""
        return set(self._lands)

    @property
    def altered(self) -> set[SectorKey]:
        """Those that are awake and not as they were made, or saved last."""
        return {key for key, land in self._lands.items() if land.altered}

    def save(self) -> None:
        """Save all that are altered."""
        if self._save is None:
            raise InputError("save", "was not given when the world was made", None)
        for land in self._lands.values():
            land.save(self._save)

    def key(self, cell: tuple[int, int]) -> SectorKey:
        """The sector that holds a cell."""
        return cell[0] // self.side, cell[1] // self.side

    def rect(self, key: SectorKey) -> Rect:
        """The rectangle of a sector."""
        left, top = (part * self.side for part in key)
        return Rect(
            left, top, min(left + self.side, self.size[0]), min(top + self.side, self.size[1])
        )

    def keys(self, rect: Rect) -> Iterator[SectorKey]:
        """The sectors that a rectangle touches."""
        side = self.side
        across = range(rect.left // side, (rect.right - 1) // side + 1)
        return product(across, range(rect.top // side, (rect.bottom - 1) // side + 1))

    def template(self, cell: Cell) -> Board:
        """A board with the terrains and edges of all, by which rules are judged."""
        board = self.land(self.key(cell)).board
        if board is None:
            raise CellError("cell", "the world has no such cell", tuple(cell))
        return board

    def ground(self, rect: Rect, seams: Iterable[Laid], links: Iterable[Link]) -> Board | None:
        """A new board of a rectangle, without units; None: it has no cells."""
        return cut(rect, (self.land(key).board for key in self.keys(rect)), seams, links)

    def land(self, key: SectorKey) -> Land:
        """A sector, awake."""
        land = self._lands.get(key)
        if land is None:
            rect = self.rect(key)
            land = Land(self._make(Cell(rect.left, rect.top), *rect.size), rect)
            self.settle(land)
            self._make_room(land)
            self._lands[key] = land
            self._held += land.nbytes
            if self._on_wake is not None:
                self._on_wake(Cell(rect.left, rect.top), land.board)
        self._lands.move_to_end(key)
        return land

    def settle(self, land: Land) -> None:
        """Prepare a sector; that by itself is nothing to be saved."""
        if land.board is not None:
            with land.unaltered():
                self.prepare(land.board)

    def awake_lands(self) -> list[Land]:
        """Those that are awake."""
        return list(self._lands.values())

    def release(self, keys: Iterable[SectorKey]) -> None:
        """Let sectors sleep; those that are altered are saved, or stay if that cannot be."""
        for key in keys:
            self.pinned.discard(key)
            if key in self._lands and self._may_sleep(key):
                self._put_to_sleep(key)

    def _may_sleep(self, key: SectorKey) -> bool:
        """Whether one could be released without a loss."""
        return key not in self.pinned and (self._save is not None or not self._lands[key].altered)

    def _put_to_sleep(self, key: SectorKey) -> None:
        land, rect = self._lands[key], self.rect(key)
        land.save(self._save)
        self._held -= self._lands.pop(key).nbytes
        if self._on_sleep is not None:
            self._on_sleep(Cell(rect.left, rect.top), land.board)

    def _make_room(self, land: Land) -> None:
        """Release those that were not used for longest, so that another can be awake."""
        while self._lands and self._full(land.nbytes):
            old = next(filter(self._may_sleep, self._lands), None)
            if old is None:
                pinned, many = len(self.pinned & self._lands.keys()), len(self._lands)
                rule = (
                    f"has no room for another sector: of {many} awake {pinned} are pinned, and the "
                    "others are altered and cannot be saved; give save=, or more"
                )
                raise NoRoomError("memory" if self._most is None else "awake", rule, many)
            self._put_to_sleep(old)

    def _full(self, more: int) -> bool:
        """Whether so many bytes more, of one sector, are too many."""
        many = self._most is not None and len(self._lands) >= self._most
        return many or self._held + more > self._memory
