"""Graph: crossings and what lies between them as arrays, filled in on first use."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from understep.grids.cell import Cell, IntArray
from understep.worlds._guide import Guide
from understep.worlds._sectors import SectorKey

FAR = 1 << 60
MOST_EDGES = 1 << 23
_BY_NODE = "first", "count", "spot", "value", "rest", "far", "came", "done"


class Graph:
    """Nodes are cells where a sector is entered, and the sides by which it can be left from there.

    A side is looked over when nothing better is left, and only then the sector beyond is woken.
    """

    def __init__(self, guide: Guide, key: Callable[[tuple[int, int]], SectorKey]) -> None:
        self._guide, self._key = guide, key
        #: By node: the cell at which a sector is entered, and the side by which it is left.
        self.nodes: list[tuple[Cell, SectorKey | None]] = []
        self._ids: dict[tuple[Cell, SectorKey | None], int] = {}
        self._by_sector: dict[SectorKey, list[int]] = {}
        self._spots: dict[Any, int] = {}
        self._edges = 0
        #: By node: its first edge (-1: not known), how many, and its box.
        self.first, self.count, self.spot = (np.zeros(0, dtype=np.int32) for _ in range(3))
        #: By node, as the present search has it: the estimate, what is left to the goal (-1: not
        #: beside it), the least cost up to now, by which node, and whether it is done.
        self.value, self.rest, self.far = (np.zeros(0, dtype=np.int64) for _ in range(3))
        self.came, self.done = np.zeros(0, dtype=np.int32), np.zeros(0, dtype=np.uint8)
        #: By edge: where it leads, and what it costs.
        self.ends, self.costs = np.zeros(0, dtype=np.int32), np.zeros(0, dtype=np.int64)
        self._boxes = np.zeros((0, 4), dtype=np.int64)

    @property
    def boxes(self) -> IntArray:
        """Where nodes lie: the first and the last column, and row, ``(boxes, 4)``."""
        return self._boxes[: len(self._spots)]

    @property
    def full(self) -> bool:
        """Whether it is time to begin anew."""
        return self._edges > MOST_EDGES

    def forget(self, sectors: Iterable[SectorKey]) -> None:
        """Drop what is known of some sectors."""
        for key in sectors:
            self.first[self._by_sector.get(key, [])] = -1

    def entries(self, key: SectorKey) -> list[int]:
        """The nodes at which a sector is entered."""
        return [node for node in self._by_sector.get(key, ()) if self.nodes[node][1] is None]

    def begin(self, nodes: slice) -> None:
        """Let a search know nothing yet of some nodes but their estimates."""
        self.rest[nodes], self.far[nodes], self.came[nodes], self.done[nodes] = -1, FAR, -1, 0

    def entry(self, cell: Cell) -> int:
        """The node of a cell at which a sector is entered."""
        node = self._ids.get((cell, None))
        if node is None:
            col, row = cell
            node = self._add(self._key(cell), cell, None, cell, (col, col, row, row))
        return node

    def fill(self, node: int) -> None:
        """Find out the edges of a node."""
        cell, side = self.nodes[node]
        key = self._key(cell)
        sheet, row = self._guide.sheet(key), self._guide.row(key, cell)
        if side is None:
            least = np.where(row < 0, np.int64(FAR), row)[sheet.order]
            lows = np.minimum.reduceat(least, sheet.starts).tolist() if len(least) else ()
            found = [
                (self._side(key, cell, other), low)
                for other, low in zip(sheet.sides, lows, strict=True)
                if low < FAR
            ]
        else:
            near = row[sheet.sides[side]]
            exits = self._guide.exits(key, side)
            costs = (row[exits.places] - near[near >= 0].min() + exits.costs).tolist()
            reached = (row[exits.places] >= 0).tolist()
            found = [
                (self.entry(end), cost)
                for end, cost, good in zip(exits.ends, costs, reached, strict=True)
                if good
            ]
        self.shut(node)
        self.count[node] = len(found)
        self._edges += len(found)
        self.ends, self.costs = (_room(each, self._edges) for each in (self.ends, self.costs))
        if found:
            at = slice(self._edges - len(found), self._edges)
            self.ends[at], self.costs[at] = zip(*found, strict=True)

    def shut(self, node: int) -> None:
        """Let a node have no edges."""
        self.first[node], self.count[node] = self._edges, 0

    def _side(self, key: SectorKey, cell: Cell, side: SectorKey) -> int:
        node = self._ids.get((cell, side))
        if node is None:
            sheet = self._guide.sheet(key)
            cells = sheet.outlets[sheet.sides[side]]
            box = np.stack([cells.min(axis=0), cells.max(axis=0)], axis=1).ravel()
            node = self._add(key, cell, side, (key, side), box)
        return node

    def _add(self, key: SectorKey, cell: Cell, side: SectorKey | None, name: Any, box: Any) -> int:
        node = self._ids[cell, side] = len(self.nodes)
        self.nodes.append((cell, side))
        self._by_sector.setdefault(key, []).append(node)
        spot = self._spots.get(name)
        if spot is None:
            spot = self._spots[name] = len(self._spots)
            self._boxes = _room(self._boxes, spot + 1)
        self._boxes[spot] = box
        if node == len(self.first):
            for name in _BY_NODE:
                setattr(self, name, _room(getattr(self, name), node + 1))
        self.first[node], self.spot[node] = -1, spot
        return node


def _room(array: NDArray[Any], count: int) -> NDArray[Any]:
    """An array, or a longer one, with room for so many."""
    if count <= len(array):
        return array
    longer = np.zeros((max(2 * count, 1024), *array.shape[1:]), dtype=array.dtype)
    longer[: len(array)] = array
    return longer
