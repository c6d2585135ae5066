"""Pricing: what it costs a movement to enter each kind of ground of a board."""

from __future__ import annotations

from copy import copy
from fractions import Fraction
from typing import Any

import numpy as np
from numpy.typing import NDArray

from understep.boards.board import Board
from understep.boards.unit import MovementLike
from understep.errors import CostError
from understep.grids.cell import IntArray

MOST_KINDS = 60_000


class Kinds:
    """The kinds of ground that differ for a movement, their prices, and the kind of every cell.

    Without a rule a kind is a terrain. With one, the rule is asked once for every different site
    on the board, and cells of the same price are of one kind.
    """

    def __init__(self, board: Board, movement: MovementLike, side: str) -> None:
        self._board, self._movement = board, movement
        #: The price of each kind; None: impassable.
        self.prices: list[Fraction | None] = [
            None if side in kind.closed_to else movement.cost_on(name, kind)
            for name, kind in board.terrains.items()
        ]
        #: The kind of every cell, by number; None: its terrain code.
        self.codes: NDArray[np.uint16] | None = None
        if movement.rule is None:
            return
        self._closed = [side in kind.closed_to for kind in board.terrains.values()]
        self._places: dict[Fraction | None, int] = {}
        self.codes = np.zeros(board.grid.cols * board.grid.rows, dtype=np.uint16)
        existing = board.grid.numbering.existing
        self.codes[existing] = self._ask(existing)
        self.prices = list(self._places)

    def share(self, board: Board) -> Kinds:
        """The kinds of a copy of the board."""
        twin = copy(self)
        twin._board = board
        if self.codes is not None:
            twin.codes, twin._places = self.codes.copy(), dict(self._places)
        return twin

    def _ask(self, numbers: IntArray) -> IntArray:
        """The kinds of cells, by number: the rule is asked of each different site."""
        contents = self._board._contents
        layers = contents.properties
        columns: list[NDArray[Any]] = [
            contents.terrain.array[numbers], contents.elevation.array[numbers],
        ]  # fmt: skip
        columns += [layer[numbers] for layer in layers.values()]
        # cells of equal facts get equal keys, so that the rule is asked once for each combination
        key = np.zeros(len(numbers), dtype=np.int64)
        for column in columns:  # a number for every combination so far
            _, places = np.unique(column, return_inverse=True)
            _, key = np.unique(key * (len(numbers) + 1) + places.ravel(), return_inverse=True)
            key = key.ravel()
        _, one, which = np.unique(key, return_index=True, return_inverse=True)
        names = contents.terrain_names
        kinds = []
        for place in one.tolist():
            code, level, *values = (column[[place]].tolist()[0] for column in columns)
            price = None
            if not self._closed[code]:
                facts = dict(zip(layers, values, strict=True))
                price = self._board._units.ruled(self._movement, names[code], level, facts)
            kinds.append(self._places.setdefault(price, len(self._places)))
        if len(self._places) > MOST_KINDS:
            raise CostError("rule", f"at most {MOST_KINDS} different costs", len(self._places))
        return np.array(kinds, dtype=np.int64)[which.ravel()]

    def refresh(self, numbers: IntArray) -> bool:
        """See to changed cells; False where there is a price that was not there before."""
        if self.codes is None or not len(numbers):
            return True
        before = len(self.prices)
        self.codes[numbers] = self._ask(numbers)
        return len(self._places) == before
