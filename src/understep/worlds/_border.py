"""Border: the steps from one sector to another, and those of them that are crossings."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import groupby
from typing import Any, NamedTuple, TypeAlias

import numpy as np

from understep.boards.board import Board
from understep.grids.cell import Cell
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
    pairs = np.stack(
        [np.broadcast_to(numbers[:, None], good.shape), grid.numbering.numbers(ends)], axis=-1
    )
    legal = dict(zip(map(tuple, pairs[good].tolist()), prices[good].tolist(), strict=True))
    along = int(home.left != other.left)
    leaps, rises = table.far()
    rises = charged(movement, scale, rises * table.layers)
    where = grid.numbering.cells_of(leaps)
    found: list[list[Crossing]] = []
    for near, far in ((home, other), (other, home)):
        out = good & near.within(cells)[:, None] & far.within(ends)
        starts = np.broadcast_to(cells[:, None], ends.shape)
        a, b = (list(map(tuple, each[out].tolist())) for each in (starts, ends))
        steps = [(*each[:2], *each[2]) for each in zip(a, b, pairs[out].tolist(), strict=True)]
        steps.sort(key=lambda step: (step[0][along], step[1][along], step))
        chosen = _chosen(steps, legal, along, gap)
        found.append([Crossing(Cell(*a), Cell(*b), legal[c, d]) for a, b, c, d in chosen])
        kept = near.within(where[:, 0]) & far.within(where[:, 1]) & (rises < NEVER)
        found[-1] += [
            Crossing(Cell(*start), Cell(*end), cost)
            for (start, end), cost in zip(where[kept].tolist(), rises[kept].tolist(), strict=True)
        ]
    return found[0], found[1], scale


# the two cells, and their numbers
BorderStep: TypeAlias = tuple[Any, Any, int, int]


def _chosen(
    steps: list[BorderStep], legal: dict[tuple[int, int], int], along: int, gap: int
) -> Iterator[BorderStep]:
    """Of the steps along a border the best of each stretch of cells that hang together."""

    def joined(a: int, b: int) -> bool:
        return a == b or ((a, b) in legal and (b, a) in legal)

    stretch, marks = 0, []
    for place, step in enumerate(steps):
        last = steps[place - 1]
        if place and not (joined(last[2], step[2]) and joined(last[3], step[3])):
            stretch += 1
        marks.append((stretch, step[0][along] // gap))

    def worth(step: BorderStep) -> tuple[int, int]:
        _, _, a, b = step
        there = legal[a, b]
        return there + legal.get((b, a), there), abs(step[0][along] % gap - gap // 2)

    for _, part in groupby(range(len(steps)), key=marks.__getitem__):
        yield min((steps[place] for place in part), key=worth)
