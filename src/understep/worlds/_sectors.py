"""Sectors: the land of a world in pieces that are awake while they are wanted."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Iterable, Iterator
from itertools import product
from typing import TypeAlias

from understep.boards.board import Board
from understep.boards.edges import Laid
from understep.boards.links import Link
from understep.errors import CellError, InputError
from understep.grids.cell import Cell
from understep.worlds._land import Land, cut, has_cells
from understep.worlds._rect import Rect

Make: TypeAlias = Callable[[Cell, int, int], Board | None]
Save: TypeAlias = Callable[[Cell, Board], None]
SectorKey: TypeAlias = tuple[int, int]


class Sectors:
    """Pieces of a land of ``size``, each ``side`` columns and rows large, made when first wanted.

    No more than ``most`` (None: any number) are awake, and no more than ``memory`` bytes of them.
    """

    def __init__(
        self, make: Make, size: tuple[int, int], side: int, most: int | None, memory: int,
        save: Save | None,
    ) -> None:  # fmt: skip
        self._make, self._save, self._most, self._memory = make, save, most, memory
        self.size, self.side = size, side
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
        boards = [self.land(key).board for key in self.keys(rect)]
        known = [board for board in boards if board is not None and has_cells(board, rect)]
        return cut(rect, known, seams, links) if known else None

    def land(self, key: SectorKey) -> Land:
        """A sector, awake."""
        land = self._lands.get(key)
        if land is None:
            rect = self.rect(key)
            land = Land(self._make(Cell(rect.left, rect.top), *rect.size), rect)
            self._lands[key] = land
            self._held += land.nbytes
        self._lands.move_to_end(key)
        # altered sectors stay unless they can be saved
        while self._full() and (old := self._oldest(key)) is not None:
            self._lands[old].save(self._save)
            self._held -= self._lands.pop(old).nbytes
        return land

    def _full(self) -> bool:
        """Whether more are awake than may be."""
        many = self._most is not None and len(self._lands) > self._most
        return many or self._held > self._memory

    def _oldest(self, key: SectorKey) -> SectorKey | None:
        """The one to be released first, but for one that is wanted now."""
        for other, land in self._lands.items():
            if other != key and (self._save is not None or not land.altered):
                return other
        return None
