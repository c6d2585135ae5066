"""Stores: what a board keeps its contents in, so that every change can be taken back."""

from __future__ import annotations

from typing import Any, Generic, Protocol, Self, TypeVar

import numpy as np
from numpy.typing import NDArray

K = TypeVar("K")
V = TypeVar("V")


class Absent:
    """What stands under a key that a table does not have."""


ABSENT = Absent()


class Store(Protocol):
    """Values under keys; all that a journal needs to know."""

    def get(self, keys: Any) -> Any:
        """The values under keys, not to change when the store does."""

    def put(self, keys: Any, values: Any) -> None:
        """Set values."""

    def where(self, keys: Any, old: Any, new: Any) -> Any:
        """The numbers of the cells that a change concerns."""


class Layer:
    """A value for every cell, by number.

    Two boards can share the array; the first to write makes its own copy.
    """

    __slots__ = ("_shared", "array")

    def __init__(self, array: NDArray[Any], shared: bool = False) -> None:
        self.array = array
        self._shared = shared

    def get(self, keys: Any) -> Any:
        """The values of cells, by number or numbers."""
        return self.array[keys]  # never a view: keys are a whole number or an array of them

    def put(self, keys: Any, values: Any) -> None:
        """Set the values of cells."""
        if self._shared:
            self.array, self._shared = self.array.copy(), False
        self.array[keys] = values

    def where(self, keys: Any, _old: Any, _new: Any) -> Any:
        """The cells of a change."""
        return np.atleast_1d(keys)

    def share(self) -> Layer:
        """A layer with the same contents, without copying them yet."""
        self._shared = True
        return Layer(self.array, shared=True)


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
