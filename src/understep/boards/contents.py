"""Contents: all that lies on the cells of a board, by parts that are declared here, once.

Copying, what a side remembers, resizing, cutting from a world and keeping to it, comparing, and
undo are loops over these declarations.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import Any, Literal, TypeAlias, cast

import numpy as np
from numpy.typing import NDArray

from understep.boards.edge import Edge
from understep.boards.feature import Feature
from understep.boards.site import Value
from understep.boards.store import Content, EdgeLayer, Layer, PairTable
from understep.boards.terrain import Terrain
from understep.grids.cell import IntArray
from understep.grids.grid import Grid
from understep.grids.numbering import overlap

PartKey: TypeAlias = tuple[str, str | None]
OPEN = 128  # added to the code of a door that is open
TYPES: dict[type, Any] = {bool: np.bool_, int: np.int64, float: np.float64, str: np.object_}
NOBODY: NDArray[np.uint8] = np.zeros(0, dtype=np.uint8)


@dataclass(frozen=True)
class Part:
    """One kind of contents.

    Attributes
    ----------
    keys
        What its values belong to: cells, edges (a cell and a direction), or pairs of cells.
    dtype
        Of its values; pairs have none.
    default
        The value to begin with, and where a side never looked.
    sight
        Whether an edit can change what is seen. Any can change steps.
    codes
        Its values are places in this declaration of the board; of an edge, 0 means no edge.
    """

    keys: Literal["cells", "edges", "pairs"] = "cells"
    dtype: Any = np.uint8
    default: Any = 0
    sight: bool = False
    codes: Literal["terrains", "edge_kinds", ""] = ""

    def store(self, grid: Grid) -> Content:
        """A store that holds the default everywhere."""
        if self.keys == "pairs":
            return PairTable()
        cells = grid.cols * grid.rows
        if self.keys == "edges":
            return EdgeLayer(np.zeros(cells * len(grid.directions), dtype=self.dtype), grid)
        return self.layer(cells, self.default)

    def layer(self, cells: int, value: Any) -> Layer:
        """A layer that holds one value everywhere."""
        if self.dtype is np.float64:  # nothing is taken up until it is written
            return Layer(np.broadcast_to(np.float64(value), cells), value, shared=True)
        return Layer(np.full(cells, value, dtype=self.dtype), value)


#: The parts that every board has one of.
PARTS = {
    "terrain": Part(sight=True, codes="terrains"),
    "elevation": Part(dtype=np.float64, default=0.0, sight=True),
    "edges": Part("edges", sight=True, codes="edge_kinds"),
    "links": Part("pairs"),
}
#: How often a cell is blocked to a side, or to everybody: a part for each.
BLOCKS = Part()
#: How many features of a kind lie on a cell: a part for each.
FEATURES = Part(sight=True)
#: 1 where a side never looked; only what a side knows has it.
UNSEEN = Part(default=1, sight=True)
EVERY = {**PARTS, "block": BLOCKS, "feature": FEATURES, "unseen": UNSEEN}


@dataclass(frozen=True)
class Declared:
    """What a board can hold, by name: it never changes."""

    terrains: dict[str, Terrain]
    edge_kinds: dict[str, Edge]
    properties: dict[str, Value]
    features: dict[str, Feature]

    def part(self, key: PartKey) -> Part:
        """The declaration of a part; of the families, by name of what it is."""
        kind, name = key
        if kind == "property":
            default = self.properties[cast(str, name)]
            return Part(dtype=TYPES[type(default)], default=default)
        return EVERY[kind]

    def alike(self, other: Declared) -> bool:
        """Whether another holds the same kinds; properties apart."""
        mine, theirs = ((each.terrains, each.edge_kinds, each.features) for each in (self, other))
        return mine == theirs

    @cached_property
    def shut_out(self) -> frozenset[str]:
        """The sides to which some terrain is closed."""
        return frozenset(side for kind in self.terrains.values() for side in kind.closed_to)


class Contents:
    """A store for every part."""

    def __init__(
        self, grid: Grid, declared: Declared, stores: dict[PartKey, Content], known_by: str = ""
    ) -> None:
        self.grid, self.declared, self.stores = grid, declared, stores
        self._keys: dict[int, PartKey] = {}  # by the identity of their stores, which all stay
        #: The side that knows of them; empty for all that there is.
        self.known_by = known_by
        #: The terrain of every cell, as its place among the terrains.
        self.terrain: Layer = self.store(("terrain", None))
        #: The level of every cell.
        self.elevation: Layer = self.store(("elevation", None))
        #: The edge met from each cell in each direction: its place among the kinds plus 1.
        self.edges: EdgeLayer = self.store(("edges", None))
        #: Cost and kind of the link from one cell to another.
        self.links: PairTable = self.store(("links", None))
        self.terrain_names = list(declared.terrains)
        self.edge_names = list(declared.edge_kinds)

    def __reduce__(self) -> tuple[Any, ...]:
        return Contents, (self.grid, self.declared, self.stores, self.known_by)

    @classmethod
    def fresh(cls, grid: Grid, declared: Declared, terrain: int = 0) -> Contents:
        """Of a board on which nothing was done yet, with one terrain by its code."""
        filled = PARTS["terrain"].layer(grid.cols * grid.rows, terrain)
        found = cls(grid, declared, {("terrain", None): filled})
        for name in declared.properties:
            found.store(("property", name))
        return found

    def unseen_by(self, side: str) -> Contents:
        """Of a side that never looked."""
        found = Contents.fresh(self.grid, self.declared)
        found.known_by = side
        found.store(("unseen", None))
        return found

    def share(self, known_by: str | None = None) -> Contents:
        """The same contents, each shared until one of both is written."""
        stores = {key: store.share() for key, store in self.stores.items()}
        side = self.known_by if known_by is None else known_by
        return Contents(self.grid, self.declared, stores, side)

    def store(self, key: PartKey) -> Any:
        """The store of a part; made where it is not there yet."""
        found = self.stores.get(key)
        if found is None:
            found = self.stores[key] = self.declared.part(key).store(self.grid)
        return found

    def key_of(self, store: Any) -> PartKey | None:
        """The part that a store holds; None where it holds none."""
        # parts are only ever added
        if len(self._keys) != len(self.stores):
            self._keys = {id(each): key for key, each in self.stores.items()}
        return self._keys.get(id(store))

    # what each part holds, for those who read it by number

    @property
    def properties(self) -> dict[str, NDArray[Any]]:
        """The declared properties of every cell."""
        return {name: self.store(("property", name)).array for name in self.declared.properties}

    @property
    def features(self) -> dict[str, NDArray[np.uint8]]:
        """How many features of each kind lie on every cell; of kinds that ever lay somewhere."""
        keys = [("feature", name) for name in self.declared.features]
        every = {key: self.stores[key] for key in keys if key in self.stores}
        return {key[1]: cast(Layer, store).array for key, store in every.items()}

    def laid(self, number: int) -> list[tuple[str, Feature]]:
        """The kinds of features that lie on a cell."""
        kinds = self.declared.features
        # most boards have none
        if not kinds:
            return []
        return [(name, kinds[name]) for name, counts in self.features.items() if counts[number]]

    @property
    def blocked_sides(self) -> list[str | None]:
        """Everybody (None) and the sides to which cells are or were blocked, by name."""
        sides = (side for kind, side in self.stores if kind == "block" and side is not None)
        return [None, *sorted(sides)]

    def blocks(self, side: str | None) -> NDArray[np.uint8]:
        """How often each cell is blocked to a side, or to everybody; empty where none ever was."""
        layer = self.stores.get(("block", side))
        return NOBODY if layer is None else cast(Layer, layer).array

    @property
    def unseen(self) -> NDArray[np.uint8]:
        """1 for each cell that the side never saw; empty where all are known."""
        layer = self.stores.get(("unseen", None))
        return NOBODY if layer is None else cast(Layer, layer).array

    def blocked(self, number: int, side: str | None) -> bool:
        """Whether a cell is blocked to everybody, or to a side."""
        return self._marked(number, ("block", None), ("block", side))

    def closed(self, number: int, side: str) -> bool:
        """Whether a cell is blocked to a side, or was never seen."""
        return self._marked(number, ("block", None), ("block", side), ("unseen", None))

    def _marked(self, number: int, *keys: PartKey) -> bool:
        for key in keys:
            layer: Any = self.stores.get(key)
            if layer is not None and layer.array[number]:
                return True
        return False

    def knows(self, numbers: Any) -> Any:
        """Which of some cells were ever seen."""
        unseen = self.unseen
        if len(unseen):
            return unseen[numbers] == 0
        return True if isinstance(numbers, int) else np.ones(np.shape(numbers), dtype=bool)

    def apart(self, side: str) -> str:
        """The side, if anything is or was closed to it in particular; else empty."""
        return side if ("block", side) in self.stores or side in self.declared.shut_out else ""

    # loops over all parts

    def differing(
        self, other: Contents, numbers: IntArray | None = None
    ) -> Iterator[tuple[PartKey, Any, Any]]:
        """What differs from other contents of the same grid: part, keys, and values there.

        On some cells, by number, or on all. Both hold the same names, in any order.
        """
        # in the order of both, so that writes come in the same order everywhere
        for key in {**self.stores, **other.stores}:
            if key[0] != "unseen":
                mine, theirs = self.store(key), other.translated(key, self)
                for keys in mine.differing(theirs, numbers):
                    yield key, keys, theirs.get(keys)

    def carry(self, source: Contents, place: IntArray) -> None:
        """Take over what lies elsewhere: ``place`` gives each of its cells a number here, or -1."""
        for key in source.stores:
            mine, theirs = self.store(key), source.translated(key, self)
            if isinstance(mine, Layer) and mine.fresh is not None and mine.fresh == theirs.fresh:
                continue
            for keys in theirs.used():
                for there, values in theirs.moved(keys, theirs.get(keys), place):
                    mine.put(there, values)
        if ("unseen", None) in self.stores and ("unseen", None) not in source.stores:
            self.store(("unseen", None)).put(place[place >= 0], 0)  # all of it was always known

    def translated(self, key: PartKey, other: Contents) -> Any:
        """The store of a part, its codes as other contents count the same names."""
        store, codes = self.store(key), self.codes_in(key, other)
        if codes is None:
            return store
        twin = store.share()
        twin.put(slice(None), codes[store.array])
        return twin

    def codes_in(self, key: PartKey, other: Contents) -> NDArray[np.uint8] | None:
        """By code of a part the one of other contents; None: they are the same."""
        # of boards that are compared most are copies
        if self.declared is other.declared:
            return None
        names = self.declared.part(key).codes
        if not names:
            return None
        mine, theirs = (list(getattr(each.declared, names)) for each in (self, other))
        if mine == theirs:
            return None
        # codes that no name has stay as they are
        codes = np.arange(256, dtype=np.uint8)
        first = int(names == "edge_kinds")  # code 0 means no edge
        for code, name in enumerate(mine, first):
            codes[code] = theirs.index(name) + first
            if first:
                codes[code + OPEN] = codes[code] + OPEN
        return codes


def places(source: Grid, target: Grid, by: tuple[int, int] = (0, 0)) -> IntArray:
    """By cell of a grid its number on another, columns and rows added to it; -1: it has none."""
    found = np.full((source.rows, source.cols), -1, dtype=np.int64)
    first = source.first[0] + by[0], source.first[1] + by[1]
    here, there = overlap(first, source.size, target.first, target.size)
    rows, cols = (np.arange(part.start, part.stop) for part in there)
    both = source.exists[here] & target.exists[there]  # a rectangle, less its holes
    found[here] = np.where(both, rows[:, None] * target.cols + cols, -1)
    return found.ravel()
