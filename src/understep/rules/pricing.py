"""Pricing: what it costs a movement to enter each kind of ground of a board."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

import numpy as np
from numpy.typing import NDArray

from understep.boards.board import Board
from understep.boards.derived import twin_of
from understep.boards.unit import MovementLike
from understep.errors import CostError
from understep.grids.cell import IntArray

MOST_KINDS = 60_000


class Kinds:
    """The kinds of ground that differ for a movement, their prices, and the kind of every cell.

    As long as there is no rule and no feature, a kind is a terrain. A rule is asked once for every
    different site on the board; cells of the same price are of one kind then.
    """

    def __init__(self, board: Board, movement: MovementLike, side: str) -> None:
        self._board, self._movement, self._side = board, movement, side
        #: The price of each kind; None: impassable. And whether a feature blocks it.
        self.prices: list[Fraction | None] = []
        self.shut: list[bool] = []
        #: The kind of every cell, by number; None: its terrain code.
        self.codes: NDArray[np.uint16] | None = None
        self._places: dict[tuple[Fraction | None, bool], int] = {}
        if movement.rule is None:
            for code in range(len(board.terrains)):
                self.prices.append(board._units.cost_of(movement, side, code, []))
                self.shut.append(False)
            if not self.outgrown:
                return
        self.codes = np.zeros(board.grid.cols * board.grid.rows, dtype=np.uint16)
        existing = board.grid.numbering.existing
        self.codes[existing] = self._ask(existing)

    @property
    def outgrown(self) -> bool:
        """Whether features have come to a board that had none."""
        contents = self._board._contents
        return self.codes is None and bool(contents.declared.features and contents.features)

    def share(self, board: Board) -> Kinds:
        """The kinds of a copy of the board."""
        twin = twin_of(self)
        twin._board = board
        if self.codes is not None:
            twin.codes, twin._places = self.codes.copy(), dict(self._places)
            twin.prices, twin.shut = list(self.prices), list(self.shut)
        return twin

    def _ask(self, numbers: IntArray) -> IntArray:
        """The kinds of cells, by number: what each different site costs is asked once."""
        contents, features = self._board._contents, self._board._contents.features
        if self._movement.rule is None:  # then terrain is a kind, where nothing lies on it
            found = contents.terrain.array[numbers].astype(np.int64)
            laid = np.any([counts[numbers] > 0 for counts in features.values()], axis=0)
            if laid.any():
                found[laid] = self._kinds_of(numbers[laid], {}, features)
            return found
        return self._kinds_of(numbers, contents.properties, features)

    def _kinds_of(
        self, numbers: IntArray, layers: dict[str, NDArray[Any]], features: dict[str, Any]
    ) -> IntArray:
        """The kinds of cells, by number, that differ by more than their terrain."""
        contents = self._board._contents
        columns: list[NDArray[Any]] = [contents.terrain.array[numbers]]
        if self._movement.rule is not None:
            columns.append(contents.elevation.array[numbers])
            columns += [layer[numbers] for layer in layers.values()]
        columns += [counts[numbers] > 0 for counts in features.values()]
        # cells of equal facts get equal keys, so that the rule is asked once for each combination
        key = np.zeros(len(numbers), dtype=np.int64)
        for column in columns:  # a number for every combination so far
            _, places = np.unique(column, return_inverse=True)
            _, key = np.unique(key * (len(numbers) + 1) + places.ravel(), return_inverse=True)
            key = key.ravel()
        _, one, which = np.unique(key, return_index=True, return_inverse=True)
        kinds, movement = [], self._movement
        for place in one.tolist():
            code, *facts = (column[[place]].tolist()[0] for column in columns)
            level = facts.pop(0) if movement.rule is not None else 0.0
            values = dict(zip(layers, facts, strict=False))
            there = zip(features, facts[len(values) :], strict=True)
            laid = [(name, contents.declared.features[name]) for name, lies in there if lies]
            price = self._board._units.cost_of(movement, self._side, code, laid, level, values)
            shut = any(movement._over(*each)[0] for each in laid)
            kinds.append(self._kind(price, shut))
        if len(self.prices) > MOST_KINDS:
            raise CostError("rule", f"at most {MOST_KINDS} different costs", len(self.prices))
        return np.array(kinds, dtype=np.int64)[which.ravel()]

    def _kind(self, price: Fraction | None, shut: bool) -> int:
        """The kind of all cells of a price."""
        kind = self._places.setdefault((price, shut), len(self.prices))
        if kind == len(self.prices):
            self.prices.append(price)
            self.shut.append(shut)
        return kind

    def refresh(self, numbers: IntArray) -> bool:
        """See to changed cells; False where there is a price that was not there before."""
        if self.codes is None or not len(numbers):
            return not self.outgrown
        before = len(self.prices)
        self.codes[numbers] = self._ask(numbers)
        return len(self.prices) == before
