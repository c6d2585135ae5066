"""The step table: the rules of one movement on one board, as arrays.

A row of codes per cell says, for each direction, whether a step leads there and what it costs; the
search reads nothing else about the rules. Rows are filled in blocks, when a search first touches
them, and an edit refills only the cells whose steps it can change.
"""

from __future__ import annotations

from copy import copy
from fractions import Fraction
from math import lcm
from typing import Any

import numpy as np
from numpy.typing import NDArray

from understep.boards.board import Board
from understep.boards.edges import OPEN
from understep.errors import CostError
from understep.grids.cell import IntArray
from understep.moves.kernel import view
from understep.moves.movement import Movement

NEVER = 1 << 53  # the cost of a step that is none; above every key
BLOCK = 64  # side of the square of cells that is filled at once
NO_STEP = 1
FINEST_SCALE = 10**9
MOST_COSTS = 65_000


class StepTable:
    """The steps of a movement on a board; kept with the board, shared by equal rules."""

    def __init__(self, board: Board, movement: Movement) -> None:
        self._board = board
        self._grid = board.grid
        self._ways = len(board.grid.directions)
        self._corners = movement.corners
        prices = [movement.cost_on(name, kind) for name, kind in board.terrains.items()]
        self._diagonal = np.abs(self._grid.deltas[0]).sum(axis=1) == 2
        if self._grid.kind == "hex":
            self._diagonal[:] = False
        factors = [Fraction(1)] + ([Fraction(movement.diagonal)] if self._diagonal.any() else [])
        # what an edge does, by its place: none, each kind
        edges: list[tuple[bool, Fraction | None, Fraction]] = [(False, None, Fraction(0))]
        edges += [movement.across(name, kind) for name, kind in board.edge_kinds.items()]
        base = [  # by diagonal or not, edge, terrain entered
            [
                [
                    None
                    if price is None or blocks
                    else (price if instead is None else instead) * factor
                    for price in prices
                ]
                for blocks, instead, _ in edges
            ]
            for factor in factors
        ]
        parts = [cost for part in base for row in part for cost in row if cost is not None]
        self.scale = lcm(*(cost.denominator for cost in [*parts, *(add for *_, add in edges)]))
        if self.scale > FINEST_SCALE:
            rule = f"together they need a scale of {self.scale}; use rounder fractions"
            raise CostError("costs", rule, [str(cost) for cost in parts])
        self._edge_place = np.arange(256, dtype=np.uint8) * (np.arange(256) < OPEN)
        self._wall = np.array([blocks for blocks, *_ in edges])
        self._add = np.array([self._whole(add) for *_, add in edges])
        # what the edges beside a diagonal step can add to it
        self._beside = (
            np.unique(self._add[:, None] + self._add)
            if len(factors) > 1
            else np.zeros_like(self._add[:1])
        )
        whole = np.array(
            [
                [[-1 if cost is None else self._whole(cost) for cost in row] for row in part]
                for part in base
            ]
        )
        # by diagonal or not, what is added at the corner, edge, terrain entered
        steps = whole[:, None] + self._beside[:, None, None] + self._add[:, None]
        never = np.broadcast_to(whole[:, None] < 0, steps.shape).copy()
        never[0, 1:] = True
        values = np.unique(steps[~never])
        if len(values) > MOST_COSTS:
            raise CostError("costs", f"at most {MOST_COSTS} different ones", len(values))
        self.costs = np.array([NEVER, NEVER, *values.tolist()], dtype=np.int64)
        self.cheapest, self.dearest = map(int, values[[0, -1]] if len(values) else (0, 0))
        self.free_steps = len(values) > 0 and self.cheapest == 0
        codes = np.searchsorted(values, steps) + 2
        self._code = np.where(never, NO_STEP, codes).astype(np.uint16)
        self._open = np.array([price is not None for price in prices])
        cells = self._grid.cols * self._grid.rows
        # a byte a step where that is enough: the search is bound by memory
        wide = len(self.costs) > 256
        self.codes: NDArray[Any] = np.zeros(
            cells * self._ways, dtype=np.uint16 if wide else np.uint8
        )
        self._shared = False
        self._look()
        self.costs_view = view(self.costs << 9)  # as the kernel takes them
        self._dirty: list[IntArray] = []

    def _whole(self, cost: Fraction) -> int:
        """A cost as it is counted; what nobody's points could pay is as good as anything dearer."""
        return min(int(cost * self.scale), NEVER >> 2)

    def _look(self) -> None:
        """Make the kernel's views of the codes: narrow, wide; one of them empty."""
        wide = self.codes.dtype == np.uint16
        none = np.zeros(0, dtype=np.uint8 if wide else np.uint16)
        codes = view(self.codes)
        self.codes_views = (view(none), codes) if wide else (codes, view(none))

    def share(self, board: Board) -> StepTable:
        """The table of a copy of the board: the same codes, until one of the boards is edited."""
        twin = copy(self)
        twin._board, twin._dirty = board, list(self._dirty)
        self._shared = twin._shared = True
        return twin

    def touched(self, numbers: IntArray) -> None:
        """Take note of cells whose ground has changed."""
        self._dirty.append(numbers)

    def refresh(self) -> None:
        """Refill the rows that edits since the last call can have changed."""
        if not self._dirty:
            return
        dirty, self._dirty = self._dirty, []
        if self._shared:
            self.codes, self._shared = self.codes.copy(), False
            self._look()
        cells = self._grid.cells_of(np.unique(np.concatenate(dirty)))
        near = np.concatenate([cells, self._grid.around(cells).reshape(-1, 2)])
        numbers = np.unique(self._grid.numbers(near[self._grid.holds(near)]))
        self._fill(numbers[self.codes[numbers * self._ways] > 0])

    def fill_around(self, number: int) -> None:
        """Fill the block that holds a cell."""
        row, col = divmod(number, self._grid.cols)
        row, col = row - row % BLOCK, col - col % BLOCK
        rows = np.arange(row, min(row + BLOCK, self._grid.rows))
        cols = np.arange(col, min(col + BLOCK, self._grid.cols))
        self._fill((rows[:, None] * self._grid.cols + cols).ravel())

    def fill(self) -> None:
        """Fill every row."""
        self._fill(np.arange(self._grid.cols * self._grid.rows))

    def _fill(self, numbers: IntArray) -> None:
        cells = self._grid.cells_of(numbers)
        rows = self.codes.reshape(-1, self._ways)
        around = self._grid.around(cells)
        inside = self._grid.holds(around)
        ground, _ = self._board.layers()
        entered = ground[np.where(inside, self._grid.numbers(around), 0)]
        fenced = self._board.edge_codes()
        edges = self._edge_place[fenced[numbers]]
        diagonal = self._diagonal.astype(int)
        if not self._diagonal.any():
            codes = self._code[diagonal, 0, edges, entered]
        else:
            clear, added = self._corner_sides(around, inside, entered, edges)
            fits = clear.all(axis=0) if self._corners == "both" else clear.any(axis=0)
            least = np.where(clear, added, NEVER).min(axis=0)
            corner = np.where(self._diagonal & fits, np.searchsorted(self._beside, least), 0)
            codes = self._code[diagonal, corner, edges, entered]
            codes = np.where(self._diagonal & ~fits, NO_STEP, codes)
        codes = np.where(inside, codes, NO_STEP)
        rows[numbers] = codes

    def _corner_sides(
        self,
        around: IntArray,
        inside: NDArray[np.bool_],
        entered: NDArray[Any],
        edges: NDArray[Any],
    ) -> tuple[NDArray[np.bool_], IntArray]:
        """Of the two cells beside each step: whether the way round is clear, what its edges add.

        Both ``(2, cells, directions)``; they are the straight steps before and after a diagonal.
        """
        clear = inside if self._corners == "free" else inside & self._open[entered]
        clear = np.stack([clear & ~self._wall[edges]] * 2)
        added = np.stack([self._add[edges]] * 2)
        if len(self._add) > 1:
            fenced = self._board.edge_codes()
            there, ways = np.where(inside, self._grid.numbers(around), 0), np.arange(self._ways)
            for side, turn in enumerate((2, -2)):  # on from the cell beside to the goal
                beyond = self._edge_place[fenced[there, (ways + turn) % self._ways]] * inside
                clear[side] &= ~self._wall[beyond]
                added[side] += self._add[beyond]
        for side, shift in enumerate((1, -1)):
            clear[side] = np.roll(clear[side], shift, axis=1)
            added[side] = np.roll(added[side], shift, axis=1)
        return clear, added


def step_table(board: Board, movement: Movement) -> StepTable:
    """The up-to-date step table of a movement on a board."""
    key: tuple[Any, ...] = ("steps", movement.rules)
    table = board.derived(key, lambda: StepTable(board, movement))
    table.refresh()
    return table
