"""Slopes: what levels of elevation mean to a movement."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

import numpy as np

from understep.boards.board import Board
from understep.boards.cost import fraction
from understep.boards.derived import twin_of
from understep.grids.cell import IntArray
from understep.grids.lattice import FloatArray
from understep.rules.movement import Movement

GRAINS = (1, 2, 4, 5, 8, 10, 20, 100, 1000)  # parts of a level that can be distinguished
NONE = np.zeros(0)
ANY = 1 << 62
SMALL = 1 << 27


class Slopes:
    """Limits and costs of a movement, in parts of a level as fine as the board needs."""

    def __init__(self, board: Board, movement: Movement) -> None:
        self._board = board
        up, down = fraction(movement.uphill), fraction(movement.downhill)
        climb, drop = movement.climb, movement.drop
        #: Whether levels mean anything to the movement.
        self.matters = climb is not None or drop is not None or bool(up or down)
        self.matters |= movement.leap is not None
        self._low = self._high = 0.0
        self.grain = 1
        if self.matters:
            levels = board._contents.elevation.array
            self._low, self._high = float(levels.min()), float(levels.max())
            # levels are compared as whole numbers of the coarsest grain that keeps them apart
            self.grain = next((grain for grain in GRAINS if _fits(levels, grain)), GRAINS[-1])
        #: Cost of a part up and a part down.
        self.rise, self.fall = up / self.grain, down / self.grain
        #: The most parts up and down that a step can lead, and a leap.
        self.climb, self.drop = self._parts(climb), self._parts(drop)
        leap = movement.leap
        self.leap = (0, 0) if leap is None else (self._parts(leap.up), self._parts(leap.down))

    @property
    def _levels(self) -> FloatArray:
        """The levels of every cell, by number."""
        return self._board._contents.elevation.array

    def _parts(self, limit: Any) -> int:
        return ANY if limit is None else int(fraction(limit) * self.grain)

    def share(self, board: Board) -> Slopes:
        """The slopes of a copy of the board."""
        twin = twin_of(self)
        twin._board = board
        return twin

    def layer(self) -> FloatArray:
        """The levels of every cell, by number; empty where they do not matter."""
        # on a flat board no step has to look at levels
        return self._levels if self.matters and self._low < self._high else NONE

    @property
    def exact(self) -> bool:
        """Whether levels in parts are whole numbers, and small."""
        most = max(abs(self._low), abs(self._high)) * self.grain
        return self.grain < GRAINS[-1] and most < SMALL

    def dearest(self) -> Fraction:
        """The most that a step can cost more for its slope."""
        most = int((self._high - self._low) * self.grain + 0.5)
        return max(self.rise * min(most, self.climb), self.fall * min(most, self.drop))

    def refresh(self, numbers: IntArray) -> bool:
        """See to changed cells; False where a level is new in a way that asks for other numbers."""
        if not self.matters or not len(numbers):
            return True
        levels = self._levels[numbers]
        # limits of costs hold as long as no level is lower or higher
        inside = self._low <= levels.min() and levels.max() <= self._high
        return inside and (self.grain == GRAINS[-1] or _fits(levels, self.grain))


def _fits(levels: FloatArray, grain: int) -> bool:
    parts = levels * grain if grain > 1 else levels
    return bool((parts == np.rint(parts)).all())
