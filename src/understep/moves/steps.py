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
        # what an edge does, by its place: none, each kind, an open door
        edges: list[tuple[bool, Fraction | None, Fraction]] = [(False, None, Fraction(0))]
        edges += [movement.across(name, kind) for name, kind in board.edge_kinds.items()]
        steps = [
            [
                [
                    None
                    if price is None or blocks
                    else (price if instead is None else instead) * factor + add
                    for price in prices
                ]
                for blocks, instead, add in edges
            ]
            for factor in factors
        ]
        self._wall = np.array([blocks for blocks, _, _ in edges])
        self._edge_place = np.arange(256, dtype=np.uint8) * (np.arange(256) < OPEN)
        known = [cost for part in steps for row in part for cost in row if cost is not None]
        self.scale = lcm(*(cost.denominator for cost in known)) if known else 1
        if self.scale > FINEST_SCALE:
            rule = f"together they need a scale of {self.scale}; use rounder fractions"
            raise CostError("costs", rule, [str(cost) for cost in known])
        values = sorted({int(cost * self.scale) for cost in known})
        codes = {value: code for code, value in enumerate(values, start=2)}
        self.costs = np.array([NEVER, NEVER, *values], dtype=np.int64)
        self.cheapest = values[0] if values else 0
        self.dearest = values[-1] if values else 0
        self.free_steps = 0 in codes
        # code of a step by [diagonal or not, edge, terrain entered]
        codes_of = [
            [[NO_STEP if c is None else codes[int(c * self.scale)] for c in row] for row in part]
            for part in steps
        ]
        self._code = np.array(codes_of, dtype=np.uint16)
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

    def _look(self) -> None:
        """Make the kernel's views of the codes: narrow, wide; one of them empty."""
        wide = self.codes.dtype == np.uint16
        none = np.zeros(0, dtype=np.uint8 if wide else np.uint16)
        views = (view(none), view(self.codes)) if wide else (view(self.codes), view(none))
        self.codes_views = views

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
        codes = np.where(inside, self._code[self._diagonal.astype(int), edges, entered], NO_STEP)
        if self._diagonal.any() and (self._corners != "free" or self._wall.any()):
            # the two cells beside a diagonal step are the straight steps before and after it
            sides = [
                ~self._wall[edges] if self._corners == "free" else inside & self._open[entered]
            ] * 2
            if self._wall.any():
                there, ways = np.where(inside, self._grid.numbers(around), 0), np.arange(self._ways)
                for side, turn in enumerate((2, -2)):  # on from the side cell to the goal
                    onwards = fenced[there, (ways + turn) % self._ways]
                    beyond = inside & self._wall[self._edge_place[onwards]]
                    sides[side] = sides[side] & ~self._wall[edges] & ~beyond
            before, after = np.roll(sides[0], 1, axis=1), np.roll(sides[1], -1, axis=1)
            fits = before & after if self._corners == "both" else before | after
            codes = np.where(self._diagonal & ~fits, NO_STEP, codes)
        rows[numbers] = codes


def step_table(board: Board, movement: Movement) -> StepTable:
    """The up-to-date step table of a movement on a board."""
    key: tuple[Any, ...] = ("steps", movement.rules)
    table = board.derived(key, lambda: StepTable(board, movement))
    table.refresh()
    return table
