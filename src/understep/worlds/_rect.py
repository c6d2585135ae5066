"""Rect: a rectangle of columns and rows."""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from understep.grids.cell import IntArray


class Rect(NamedTuple):
    """Columns and rows from (left, top) up to, but without, (right, bottom)."""

    left: int
    top: int
    right: int
    bottom: int

    @classmethod
    def at(cls, cell: tuple[int, int]) -> Rect:
        """That of one cell."""
        return cls(*cell, cell[0] + 1, cell[1] + 1)

    @property
    def size(self) -> tuple[int, int]:
        """Columns and rows."""
        return self.right - self.left, self.bottom - self.top

    def holds(self, cells: Iterable[tuple[int, int]]) -> bool:
        """Whether all of some cells lie in it."""
        return all(
            self.left <= col < self.right and self.top <= row < self.bottom for col, row in cells
        )

    def holds_rect(self, other: Rect) -> bool:
        """Whether another lies in it."""
        return self.joined(other) == self

    def within(self, cells: IntArray) -> NDArray[np.bool_]:
        """Which of some cells, ``(..., 2)``, lie in it."""
        found: NDArray[np.bool_] = np.all((cells >= self[:2]) & (cells < self[2:]), axis=-1)
        return found

    def grown(self, far: int) -> Rect:
        """So much larger on every side."""
        return Rect(self.left - far, self.top - far, self.right + far, self.bottom + far)

    def joined(self, other: Rect) -> Rect:
        """The least that holds both."""
        return Rect(
            min(self.left, other.left), min(self.top, other.top), max(self.right, other.right),
            max(self.bottom, other.bottom),
        )  # fmt: skip

    def shared(self, other: Rect) -> Rect:
        """What lies in both."""
        return Rect(
            max(self.left, other.left), max(self.top, other.top), min(self.right, other.right),
            min(self.bottom, other.bottom),
        )  # fmt: skip

    def meets(self, other: Rect) -> bool:
        """Whether anything lies in both."""
        return min(self.shared(other).size) > 0

    def inside(self, cols: int, rows: int) -> Rect | None:
        """What of it lies in a world of some size; None: nothing."""
        found = self.shared(Rect(0, 0, cols, rows))
        return found if min(found.size) > 0 else None

    def rim(self, wide: int, cols: int, rows: int) -> IntArray:
        """The cells so far from its edges, ``(n, 2)``; but from those that are the world's."""
        low = (self.left + wide if self.left else 0), (self.top + wide if self.top else 0)
        high = (
            (self.right if self.right == cols else self.right - wide),
            (self.bottom if self.bottom == rows else self.bottom - wide),
        )
        col, row = np.meshgrid(np.arange(low[0], high[0]), np.arange(low[1], high[1]))
        edge = (
            ((col == low[0]) & (self.left > 0)) | ((row == low[1]) & (self.top > 0))
            | ((col == high[0] - 1) & (self.right < cols))
            | ((row == high[1] - 1) & (self.bottom < rows))
        )  # fmt: skip
        return np.stack([col[edge], row[edge]], axis=-1)
