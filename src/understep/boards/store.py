"""Stores: what a board keeps its contents in, so that every change can be undone."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from typing import Any, Generic, Protocol, Self, TypeVar

import numpy as np
from numpy.typing import NDArray

from understep.grids.cell import IntArray
from understep.grids.grid import Grid

K = TypeVar("K")
V = TypeVar("V")


class Absent:
    """What stands under a key that a table does not have."""


ABSENT = Absent()


class Store(Protocol):
    """Values under keys; all that a journal needs to know."""

    def get(self, keys: Any) -> Any:
        """The values under keys; they do not change with the store."""

    def put(self, keys: Any, values: Any) -> None:
        """Set values."""

    def where(self, keys: Any, old: Any, new: Any) -> Any:
        """The numbers of the cells that a change concerns."""


class Content(Store, Protocol):
    """A store that holds one part of a board's contents."""

    def share(self) -> Content:
        """A store with the same contents, which are copied at the first write."""

    def used(self) -> Iterator[Any]:
        """All keys that can have a value."""

    def differing(self, other: Any, numbers: IntArray | None) -> Iterator[Any]:
        """The keys of some cells, by number (None: of all), whose value is another in ``other``."""

    def moved(self, keys: Any, values: Any, place: IntArray) -> Iterator[tuple[Any, Any]]:
        """Keys and values where ``place`` gives each cell another number; -1: it has none."""


class Layer:
    """A value for every cell, by number.

    Two boards can share the array; the first to write makes its own copy.
    """

    __slots__ = ("_shared", "array", "fresh")

    def __init__(self, array: NDArray[Any], fresh: Any = None, shared: bool = False) -> None:
        self.array = array
        #: The value that all cells have as long as nothing was written; then None.
        self.fresh = fresh
        self._shared = shared

    def __getstate__(self) -> dict[str, Any]:
        state = {name: getattr(self, name) for name in _slots(type(self))}
        if self.fresh is not None:  # one value says it all
            state["array"] = len(self.array), self.array.dtype
        return state

    def __setstate__(self, state: dict[str, Any]) -> None:
        for name, value in state.items():
            setattr(self, name, value)
        if self.fresh is not None:
            size, dtype = state["array"]
            # a large board that nobody painted takes a few bytes in a pickle
            self.array = np.full(size, self.fresh, dtype)

    def get(self, keys: Any) -> Any:
        """The values of cells, by number or numbers."""
        return self.array[keys]  # never a view: keys are a whole number or an array of them

    def put(self, keys: Any, values: Any) -> None:
        """Set the values of cells."""
        # copied at the first write, so that a copy of a board costs nothing until then
        if self._shared:
            self.array, self._shared = self.array.copy(), False
        self.array[keys] = values
        self.fresh = None

    def where(self, keys: Any, _old: Any, _new: Any) -> Any:
        """The cells of a change."""
        return keys if isinstance(keys, np.ndarray) else np.array([keys])

    def share(self) -> Layer:
        """A layer with the same contents, which are copied at the first write."""
        self._shared = True
        return Layer(self.array, self.fresh, shared=True)

    def used(self) -> Iterator[IntArray]:
        """All cells."""
        yield np.arange(len(self.array))

    def differing(self, other: Layer, numbers: IntArray | None) -> Iterator[IntArray]:
        """The cells, of some or of all, whose value is another in ``other``."""
        alike = self.fresh is not None and self.fresh == other.fresh
        # boards that were copied share most of their arrays
        if self.array is other.array or alike:
            return
        if numbers is None:
            found = np.flatnonzero(self.array != other.array)
        else:
            keys = self.near(numbers)
            found = keys[self.array[keys] != other.array[keys]]
        if len(found):
            yield found

    def near(self, numbers: IntArray) -> IntArray:
        """The keys that belong to cells."""
        return numbers

    def moved(self, keys: Any, values: Any, place: IntArray) -> Iterator[tuple[Any, Any]]:
        """Cells and values where ``place`` gives each cell another number; -1: it has none."""
        there = place[keys]
        yield there[there >= 0], values[there >= 0]


def _slots(kind: type) -> list[str]:
    """The names of all slots of a class."""
    return [name for each in kind.__mro__ for name in getattr(each, "__slots__", ())]


class EdgeLayer(Layer):
    """A code for every cell and direction: by cell number times the directions, plus direction."""

    __slots__ = ("_grid", "_ways")

    def __init__(
        self, array: NDArray[Any], grid: Grid, fresh: Any = 0, shared: bool = False
    ) -> None:
        super().__init__(array, fresh, shared)
        self._grid, self._ways = grid, len(grid.directions)

    def share(self) -> EdgeLayer:
        """A layer with the same contents, which are copied at the first write."""
        self._shared = True
        return EdgeLayer(self.array, self._grid, self.fresh, shared=True)

    def where(self, keys: Any, _old: Any, _new: Any) -> Any:
        """The cells of a change."""
        return np.atleast_1d(keys) // self._ways

    def used(self) -> Iterator[IntArray]:
        """Where there is an edge."""
        yield np.flatnonzero(self.array)

    def near(self, numbers: IntArray) -> IntArray:
        """The keys of edges around cells, as met from both sides."""
        # an edge is there twice, and each of its cells may be the one asked for
        there, back, _ = self.sides(numbers, range(self._ways))
        return np.union1d(there, back)

    def sides(self, numbers: IntArray, ways: Any) -> tuple[IntArray, IntArray, IntArray]:
        """Keys of edges to neighbors that exist: as met from here, from there; the neighbors."""
        grid, many = self._grid, self._ways
        cells = grid.numbering.cells_of(numbers)
        others = cells[:, None] + grid.lattice.deltas[grid.lattice.lines(cells)][:, ways]
        # at the rim of the board there is no other side
        home, way = np.nonzero(there := grid.numbering.holds(others))
        other, way = grid.numbering.numbers(others[there]), np.array(ways)[way]
        return numbers[home] * many + way, other * many + (way + many // 2) % many, other

    def moved(self, keys: Any, values: Any, place: IntArray) -> Iterator[tuple[Any, Any]]:
        """Edges both of whose cells have a place."""
        homes, ways = np.divmod(keys, self._ways)
        cells = self._grid.numbering.cells_of(homes)
        beyond = cells + self._grid.lattice.deltas[self._grid.lattice.lines(cells), ways]
        exists = self._grid.numbering.holds(beyond)
        # numbers of cells that do not exist would be beyond the array
        other = place[np.where(exists, self._grid.numbering.numbers(beyond), 0)]
        kept = exists & (place[homes] >= 0) & (other >= 0)
        yield (place[homes] * self._ways + ways)[kept], values[kept]


class Table(Generic[K, V]):
    """Values under keys that come and go."""

    def __init__(self, values: dict[K, V] | None = None) -> None:
        self.values: dict[K, V] = {} if values is None else values

    def get(self, key: K) -> V | Absent:
        """The value under a key, or `ABSENT`."""
        return self.values.get(key, ABSENT)

    def put(self, key: K, value: V | Absent) -> None:
        """Set a value; `ABSENT` removes the key."""
        if isinstance(value, Absent):
            self.values.pop(key, None)
        else:
            self.values[key] = value

    def where(self, _key: K, _old: V | Absent, _new: V | Absent) -> Any:
        """The cells of a change: none."""
        return ()

    def share(self) -> Self:
        """A table with the same contents."""
        return type(self)(self.values.copy())


CellPair = tuple[int, int]


class PairTable(Table[CellPair, tuple[Fraction, str]]):
    """Cost and kind of links by the numbers of two cells, each direction by itself."""

    #: How often it was written to.
    version = 0

    def put(self, key: CellPair, value: Any) -> None:
        """Set a link, or remove it."""
        super().put(key, value)
        self.version += 1

    def where(self, key: CellPair, _old: Any, _new: Any) -> Any:
        """The cells of a change."""
        return np.array(key)

    def used(self) -> Iterator[CellPair]:
        """Where there is a link."""
        yield from sorted(self.values)

    def differing(self, other: PairTable, numbers: IntArray | None) -> Iterator[CellPair]:
        """The pairs, with an end on some cells or all, whose link is another in ``other``."""
        if self.values or other.values:
            # most boards have no links at all
            near = None if numbers is None else set(numbers.tolist())
            for key in sorted(self.values.keys() | other.values.keys()):
                if self.get(key) != other.get(key) and (near is None or not near.isdisjoint(key)):
                    yield key

    def moved(self, key: CellPair, value: Any, place: IntArray) -> Iterator[tuple[CellPair, Any]]:
        """The link, if both of its cells have a place."""
        start, end = place[list(key)].tolist()
        if start >= 0 and end >= 0:
            yield (start, end), value
