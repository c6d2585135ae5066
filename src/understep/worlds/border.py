"""Border: the steps from one sector to another, and those of them that are crossings."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import groupby
from typing import NamedTuple

import numpy as np

from understep.boards.board import Board
from understep.grids.cell import Cell
from understep.moves.movement import Movement
from understep.moves.spans import payable
from understep.moves.steps import SHIFT, step_table
from understep.worlds.rect import Rect

GAP = 8  # cells along a border for one crossing


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
) -> tuple[list[Crossing], int]:
    """Crossings between two rectangles on a board, and how many of their parts make a point.

    Where the cells along a border hang together on both sides, of every so many cells the cheapest
    step, there and back, is one: so there is a way by crossings exactly where there is one at all.
    Leaps are all crossings.
    """
    table = step_table(board, movement, side)
    table.fill()
    grid, most = board.grid, payable(movement, table.scale)
    cells = grid.cells
    numbers = grid.numbers(cells.array)
    codes = table.by_cell()[numbers]
    prices = (np.asarray(table.views[2]) >> SHIFT)[codes]
    ends = grid.numbers(grid.around(cells.array).reshape(-1, 2)).reshape(codes.shape)
    good = (codes > 1) & (prices <= most)
    starts = np.broadcast_to(numbers[:, None], codes.shape)
    legal = dict(
        zip(zip(starts[good].tolist(), ends[good].tolist(), strict=True), prices[good].tolist(),
            strict=True)
    )  # fmt: skip

    def across(a: int, b: int) -> tuple[Cell, Cell] | None:
        ends = grid.cell_of(a), grid.cell_of(b)
        return ends if home.holds(ends[:1]) and other.holds(ends[1:]) else None

    along = int(home.left != other.left)
    steps = [(*ends, a, b) for a, b in legal if (ends := across(a, b))]
    steps.sort(key=lambda step: (step[0][along], step[1][along], step))
    found = [
        Crossing(start, end, legal[a, b]) for start, end, a, b in _chosen(steps, legal, along)
    ]
    leaps = zip(*(part.tolist() for part in table.far()), strict=True)
    for (a, b), cost in leaps:
        if cost <= most and (ends := across(a, b)):
            found.append(Crossing(*ends, cost))
    return found, table.scale


Steps = list[tuple[Cell, Cell, int, int]]


def _chosen(steps: Steps, legal: dict[tuple[int, int], int], along: int) -> Iterator[
    tuple[Cell, Cell, int, int]
]:  # fmt: skip
    """Of the steps along a border the best of each stretch of cells that hang together."""

    def joined(a: int, b: int) -> bool:
        return a == b or ((a, b) in legal and (b, a) in legal)

    stretch, marks = 0, []
    for place, step in enumerate(steps):
        last = steps[place - 1]
        if place and not (joined(last[2], step[2]) and joined(last[3], step[3])):
            stretch += 1
        marks.append((stretch, step[0][along] // GAP))

    def worth(step: tuple[Cell, Cell, int, int]) -> tuple[int, int]:
        _, _, a, b = step
        there = legal[a, b]
        return there + legal.get((b, a), there), abs(step[0][along] % GAP - GAP // 2)

    for _, part in groupby(range(len(steps)), key=marks.__getitem__):
        yield min((steps[place] for place in part), key=worth)
