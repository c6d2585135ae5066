"""Links as a search takes them: arrays by the cell they leave, and mouths for its estimate."""

from __future__ import annotations

from fractions import Fraction
from typing import Protocol, TypeAlias

import numpy as np
from numpy.typing import NDArray

from understep.boards.board import Board
from understep.boards.derived import twin_of
from understep.grids.cell import IntArray
from understep.kernels.loader import view
from understep.rules.movement import Movement

MOST_MOUTHS = 16
MOST_JOINED = 200
NONE = view(np.zeros(0, dtype=np.int32))
NO_COSTS = view(np.zeros(0, dtype=np.int64))
Chains: TypeAlias = tuple[memoryview, memoryview, memoryview, memoryview]


class Landing(Protocol):
    """What links need to know of a movement's step table."""

    def standable(self, links: list[tuple[int, int, Fraction]]) -> list[tuple[int, int, Fraction]]:
        """Those of some links at whose end a unit can stand."""

    def capped(self, cost: Fraction) -> int:
        """A cost in scaled points, no more than a step may cost."""


class LinkSteps:
    """The links of a board that a movement can take."""

    def __init__(self, board: Board, movement: Movement) -> None:
        self._board, self._movement = board, movement
        self.dearest, self.free, self.farthest = 0, False, 0
        #: How many there are, and how many leave a cell at most.
        self.count, self.most = 0, 0
        #: For the search: as `chained` by the cells they leave.
        self.views: Chains = (NONE, NONE, NONE, NO_COSTS)
        self._ends = np.zeros((0, 2), dtype=np.int64)
        self._costs = np.zeros(0, dtype=np.int64)
        self._version = 0  # of the board's links when these were compiled
        self._watched = np.zeros(0, dtype=np.int64)  # cells on which it hangs whether one can land

    def _taken(self) -> list[tuple[int, int, Fraction]]:
        """Start, end and cost of the links whose kind the movement takes."""
        found = []
        # in the order of cells, so that ties are the same whichever link was laid first
        for (start, end), (cost, kind) in sorted(self._board._contents.links.values.items()):
            price = self._movement._along(kind, cost)
            if price is not None:
                found.append((start, end, price))
        return found

    def costs(self) -> list[Fraction]:
        """All costs, for the scale."""
        return [cost for *_, cost in self._taken()]

    def fits(self, scale: int) -> bool:
        """Whether all costs are whole numbers at a scale."""
        return self._version == self._board._contents.links.version or all(
            scale % cost.denominator == 0 for cost in self.costs()
        )

    def share(self, board: Board) -> LinkSteps:
        """The links of a copy of the board, whose changes are counted anew."""
        twin = twin_of(self)
        current = self._version == self._board._contents.links.version
        twin._board, twin._version = board, board._contents.links.version if current else -1
        return twin

    def refresh(self, table: Landing, numbers: IntArray) -> None:
        """See to changed cells, by number, and to links that came or went."""
        watched = len(self._watched) > 0 and bool(np.isin(numbers, self._watched).any())
        if watched or self._version != self._board._contents.links.version:
            self.compile(table)

    def compile(self, table: Landing) -> None:
        """Make the arrays anew; links whose end nobody can stand on are left out."""
        self._version = self._board._contents.links.version
        if not self.count and not self._board._contents.links.values:
            return
        grid, every = self._board.grid, self._taken()
        ends = np.array([end for _, end, _ in every], dtype=np.int64)
        # landing there depends on all cells that the unit would take up
        landed = grid.lattice.spread(grid.numbering.cells_of(ends), self._movement.footprint)
        self._watched = np.unique(grid.numbering.inside(landed))
        taken = table.standable(every)
        self.count = len(taken)
        self.views = (NONE, NONE, NONE, NO_COSTS)
        self.dearest, self.free = 0, False
        self._ends = np.array([link[:2] for link in taken], dtype=np.int64).reshape(-1, 2)
        self._costs = np.array([table.capped(cost) for *_, cost in taken], dtype=np.int64)
        if not taken:
            return
        self.dearest, self.free = int(self._costs.max()), int(self._costs.min()) == 0
        self.most = int(np.unique(self._ends[:, 0], return_counts=True)[1].max())
        self.views = chained(self._ends, self._costs, 0, grid.cols * grid.rows)
        starts, ends = (grid.numbering.cells_of(self._ends[:, side]) for side in (0, 1))
        self.farthest = int(grid.distance(starts, ends).max())
        self._joined = (
            None if len(taken) > MOST_JOINED else grid.distance(ends[:, None], starts[None])
        )

    def ends(self) -> IntArray:
        """The numbers of the cells that each link joins, ``(links, 2)``."""
        return self._ends

    def amounts(self) -> IntArray:
        """The scaled cost of each link."""
        return self._costs

    def mouths(self, goal: int, cheapest: int) -> tuple[NDArray[np.int32], IntArray] | None:
        """Where links begin that can bring a unit nearer to a goal, and what is left from there.

        The second is the least that a way from that mouth can cost, chains of links included; with
        it the estimate never says more than the truth, and never drops by more than a step costs.
        None: too many to be worth it.
        """
        if not self.count or not cheapest:
            return np.zeros(0, dtype=np.int32), np.zeros(0, dtype=np.int64)
        if self._joined is None:
            return None
        grid = self._board.grid
        costs = self._costs
        target = grid.numbering.cell_of(goal)
        starts, ends = (grid.numbering.cells_of(self._ends[:, side]) for side in (0, 1))
        left = cheapest * grid.distance(ends, target)  # from the end of each link
        onward = cheapest * self._joined + costs  # from there to the end of another
        while True:
            least = np.minimum(left, (onward + left).min(axis=1))
            if (least == left).all():
                break
            left = least
        mouths = costs + left
        useful = np.flatnonzero(mouths < cheapest * grid.distance(starts, target))
        if len(useful) > MOST_MOUTHS:
            return None
        return self._ends[useful, 0].astype(np.int32), mouths[useful]


def chained(ends: IntArray, costs: IntArray, side: int, cells: int) -> Chains:
    """Links by the cell they leave (side 0) or lead to (1), as kernels take them.

    The first link of each cell (from 1); then by link the next of the same cell, the cell at its
    other end, its cost. Empty without links.
    """
    if not len(ends):
        return NONE, NONE, NONE, NO_COSTS
    homes = ends[:, side]
    order = np.argsort(homes, kind="stable")
    same = homes[order][1:] == homes[order][:-1]
    following = np.zeros(len(ends) + 1, dtype=np.int32)
    following[order[:-1][same] + 1] = order[1:][same] + 1
    first = np.zeros(cells, dtype=np.int32)
    heads = order[np.append([True], ~same)]
    first[homes[heads]] = heads + 1
    other = np.append(0, ends[:, 1 - side]).astype(np.int32)
    return view(first), view(following), view(other), view(np.append(0, costs))
