"""Border: the steps from one sector to another, and those of them that are crossings."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from understep.boards.board import Board
from understep.grids.cell import Cell, IntArray
from understep.moves.spans import charged, priced
from understep.rules.movement import Movement
from understep.rules.steps import NEVER, step_table
from understep.worlds._rect import Rect

GAPS = 4, 16  # cells along a border for one crossing: no fewer, no more


class Crossing(NamedTuple):
    """A step from a sector to another.

    Attributes
    ----------
    a, b
        The cells it leads from and to.
    cost
        Points it takes; inside the planner, parts of a point.
    """

    a: Cell
    b: Cell
    cost: float


def crossings(
    board: Board, movement: Movement, side: str, home: Rect, other: Rect
) -> tuple[list[Crossing], list[Crossing], int]:
    """Crossings between two rectangles on a board, there and back; what parts of a point they cost.

    Where the cells along a border hang together on both sides, of every so many cells the cheapest
    step, there and back, is one: so there is a way by crossings exactly where there is one at all.
    Leaps are all crossings.
    """
    low, high = GAPS
    gap = min(max(3 * max(*home.size, *other.size) // 16, low), high)
    table = step_table(board, movement, side)
    prices, scale = priced(table, movement)
    grid = board.grid
    cells = grid.cells.array
    numbers, ends = grid.numbering.numbers(cells), grid.lattice.around(cells)
    prices = prices[numbers]
    good = prices < NEVER
    border = _Border(cells, ends, numbers, grid.numbering.numbers(ends), prices)
    along = int(home.left != other.left)
    leaps, rises = table.far()
    rises = charged(movement, scale, rises * table.layers)
    where = grid.numbering.cells_of(leaps)
    found: list[list[Crossing]] = []
    for near, far in ((home, other), (other, home)):
        out = good & near.within(cells)[:, None] & far.within(ends)
        place, way = np.nonzero(out)
        kept = border.best(place, way, along, gap)
        place, way = place[kept], way[kept]
        found.append([
            Crossing(Cell(*a), Cell(*b), cost)
            for a, b, cost in zip(
                cells[place].tolist(), ends[place, way].tolist(),
                border.prices[place, way].tolist(), strict=True,
            )
        ])  # fmt: skip
        leaping = near.within(where[:, 0]) & far.within(where[:, 1]) & (rises < NEVER)
        found[-1] += [
            Crossing(Cell(*start), Cell(*end), cost)
            for (start, end), cost in zip(
                where[leaping].tolist(), rises[leaping].tolist(), strict=True
            )
        ]
    return found[0], found[1], scale


class _Border(NamedTuple):
    """The cells on a strip, their numbers, those around each, and what the steps there cost."""

    cells: IntArray
    ends: IntArray
    numbers: IntArray
    around: IntArray
    prices: IntArray

    def best(self, place: IntArray, way: IntArray, along: int, gap: int) -> IntArray:
        """Of some steps over a border, which are the best of each stretch that hangs together.

        ``along`` 0: it runs along columns, 1: along rows; of ``gap`` cells of it one is taken.
        """
        starts, ends = self.cells[place], self.ends[place, way]
        order = np.lexsort((*ends.T[::-1], *starts.T[::-1], ends[:, along], starts[:, along]))
        a, b = self.numbers[place][order], self.around[place, way][order]
        at = starts[order, along]
        apart = ~(self._joined(a[:-1], a[1:]) & self._joined(b[:-1], b[1:]))
        stretch = np.cumsum(np.concatenate([[False], apart]))[: len(a)]
        there, back = self.prices[place, way][order], self._price(b, a)
        worth = there + np.where(back < NEVER, back, there)
        new = np.ones(len(a), dtype=bool)
        new[1:] = (np.diff(stretch) > 0) | (np.diff(at // gap) > 0)
        group = np.cumsum(new)
        ranked = np.lexsort((np.abs(at % gap - gap // 2), worth, group))
        first = np.ones(len(a), dtype=bool)
        first[1:] = np.diff(group[ranked]) > 0
        found: IntArray = order[ranked[first]]
        return found

    def _joined(self, a: IntArray, b: IntArray) -> NDArray[np.bool_]:
        """Which pairs of cells are one, or have steps between them, there and back."""
        both = (self._price(a, b) < NEVER) & (self._price(b, a) < NEVER)
        found: NDArray[np.bool_] = (a == b) | both
        return found

    def _price(self, a: IntArray, b: IntArray) -> IntArray:
        """What the step from a cell to another costs; `NEVER`: no step leads there."""
        row = self.numbers.searchsorted(a)
        met = np.where(self.around[row] == b[:, None], self.prices[row], NEVER)
        found: IntArray = met.min(axis=1, initial=NEVER)
        return found
