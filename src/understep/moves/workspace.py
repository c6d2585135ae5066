"""Workspaces: the arrays that a search works in, leased from a pool and used again."""

from __future__ import annotations

from collections.abc import Callable
from functools import cache, partial
from typing import Any, Generic, TypeVar

import numpy as np
from numpy.typing import NDArray

from understep.boards.board import Board
from understep.boards.derived import Watcher
from understep.grids.cell import IntArray
from understep.grids.grid import Grid
from understep.kernels import loader
from understep.kernels.loader import blank, view
from understep.kernels.marks import SHIFT
from understep.moves.mover import Mover
from understep.rules.link_steps import MOST_MOUTHS, NO_COSTS, NONE
from understep.rules.steps import StepTable
from understep.rules.zones import zones

LOWEST = -(1 << 50)
CHAINS = 1 << 31
MOST_BUCKETS = 4096
LARGE = 1 << 16
MEASURES = {("square", 4): 0, ("square", 8): 1, ("hex", 6): 2}
LOWEST_BIT = view(np.array([(n & -n).bit_length() - 1 & 7 for n in range(256)], dtype=np.uint8))
NO_VIAS = np.zeros(0, dtype=np.int32)
NO_BYTES = view(np.zeros(0, dtype=np.uint8))
W = TypeVar("W")


@cache
def meanings(passes: str, own: int) -> bytearray:
    """What a unit on a cell means, by its side: 0 free, 1 may only pass, 2 blocked."""
    found = bytearray(b"\1" if passes == "all" else b"\2") * 256
    found[0] = 0
    if passes == "own" and own:
        # by side alone: whether it is the unit itself, the kernel tells by its cell
        found[own] = 1
    return found


class Workspace:
    """The arrays of one search, used again and again; never cleared."""

    def __init__(self, grid: Grid, layers: int) -> None:
        deltas = layered(grid, layers)
        steps = deltas.reshape(-1, 2)
        self.shifts, self.parity = (
            steps[:, 1] * np.int32(grid.cols) + steps[:, 0],
            grid.numbering.staggering[1],
        )
        # a margin of a row on both sides, so that steps off the board land on marks, too
        self._pad = grid.cols + 1
        self._cells = grid.cols * grid.rows * layers
        self._mark = blank(self._cells + 2 * self._pad, np.int64)
        #: The number of the first cell of the second layer; 0 without one.
        self.layer = self._cells // 2 if layers == 2 else 0
        stagger = grid.lattice.stagger if layers == 1 else 3
        self._hops: NDArray[np.int32] | None = None
        self._targets: NDArray[np.int32] | None = None
        self._sought: list[int] = []
        # what the kernel was given last, so that nothing is handed over twice; it has nothing yet
        self._heeding = True
        self._who: Any = None
        self._means: Any = None
        self._views: tuple[Any, ...] = ()
        self._counting: bool | None = None
        self.joined: StepTable | None = None  # whose footprint, leaps and links are set
        self._via: NDArray[np.int32] | None = None
        self._footprint: NDArray[np.int32] | None = None
        self._linked = True
        self._slot: IntArray | None = None
        self._token = 0
        buckets, ends = (view(np.zeros(MOST_BUCKETS, dtype=np.int32)) for _ in range(2))
        self.search = loader.search.Search(
            view(self.shifts + np.int32(self._pad)),
            view(deltas), self._pad, grid.cols, stagger, self.parity, self.layer,
            MEASURES[grid.kind, len(grid.directions)], view(self._mark), buckets, ends,
            LOWEST_BIT,
        )  # fmt: skip
        self.search.seek(NONE, 0)
        self._room = 0
        self._heap = False
        self.arrays: list[NDArray[Any]] = []
        self.grow(heap=False)

    def grow(self, heap: bool) -> None:
        """Double the room for labels."""
        old = self.arrays
        # so that copying takes no longer, in all, than filling did
        self._room = max(512, 2 * self._room)
        self._heap = self._heap or heap
        linked = self._via is not None
        far = 2 * linked
        # in labels; those of cells that may only be passed are few, so a quarter is enough
        sizes = [1, 1, 4, *([int(self._heap)] * 3), *([0.25] * 6), far, far, int(linked)]
        kinds = "iqiqqiiqiiiiiii"
        self.arrays = [
            np.zeros(int(size * self._room) or 1, dtype=kind)
            for size, kind in zip(sizes, kinds, strict=True)
        ]
        for new, was in zip(self.arrays, old, strict=False):
            # a search that lacks room goes on where it was
            new[: len(was)] = was
        self.search.hold(*map(view, self.arrays))

    def take(
        self, count: int, fars: int
    ) -> tuple[NDArray[np.int32], IntArray, NDArray[np.int32], list[NDArray[np.int32]]]:
        """The first so many cells, marks and vias, and so many entries that vias lead to, to keep.

        The marks count from this search's window.
        """
        cells, marks = self.arrays[0][:count], self.arrays[1][:count]
        far = [array[:fars].copy() for array in self.arrays[-3:-1]]
        vias = self.arrays[-1][:count].copy() if fars else NO_VIAS
        # a window begins above the numbers of all earlier searches
        start = self.search.window() << SHIFT
        if count < LARGE:
            return cells.copy(), marks - start, vias, far
        # too many to copy: they are given away, and replaced
        marks -= start
        self.arrays[:2] = [np.empty_like(array) for array in self.arrays[:2]]
        self.search.hold(*map(view, self.arrays))
        return cells, marks, vias, far

    def hops(self) -> memoryview:
        """Zero-cost steps per cell, for boards that have such steps."""
        if self._hops is None:
            # few boards have such steps, so that few need these
            self._hops = blank(self._cells, np.int32)
        return view(self._hops)

    def join(self, table: StepTable, goal: int, cheapest: int) -> bool:
        """Set footprint, leaps and links, if they changed; return whether the estimate holds."""
        links = table.links
        if self._footprint is not table.foot_shifts:
            self._footprint = table.foot_shifts
            self.search.shape(len(table.foot_shifts) // 2, view(table.foot_shifts))
        if not links.count and not table.leap_length:
            if self._linked:
                # once, as nearly no board has any
                self._linked = False
                self.search.join(0, NONE, NONE, NONE, NO_COSTS, NONE)
                self.search.lead(0, NONE, NO_COSTS, NONE, NONE)
                self.search.leap(NO_BYTES, 0, 0)
            return True
        self._linked = True
        if self._via is None:
            self._via = blank(self._cells, np.int32)
            self.grow(self._heap)
        self.search.leap(table.leaps, table.leap_cost, table.leap_length)
        self.search.join(links.most, *links.views, view(self._via))
        # a link can lead nearer to the goal than steps do, so that the estimate has to know of it
        found = links.mouths(goal, cheapest) if goal >= 0 else None
        cells, rest = found or (NO_VIAS, np.zeros(0, dtype=np.int64))
        places = [view(np.zeros(MOST_MOUTHS, dtype=np.int32)) for _ in range(2)]
        self.search.lead(len(cells), view(cells), view(rest), *places)
        return found is not None

    def bind(self, board: Board, mover: Mover) -> None:
        """Set what a mover brings: zones of control, occupancy, step table."""
        movement, side = mover.movement, mover.unit.side
        if mover.zoning:
            held, own = map(view, zones(board, movement.layer).counts(side))
            capped = int(movement.one_step and movement.points > 0)
            self.search.heed(mover.zoning, mover.extra, held, own, capped)
        # as zones are: set for one mover, they would hold for the next
        elif self._heeding:
            self.search.heed(0, 0, NO_BYTES, NO_BYTES, 0)
        self._heeding = mover.zoning > 0
        who = board._roster.codes(movement.layer)
        means = meanings(movement.passes, board._roster.code(side))
        if who is not self._who or means is not self._means:
            self._who, self._means = who, means
            self.search.among(view(who), view(means))
        self.compiled(mover.table)

    def compiled(self, table: StepTable) -> None:
        """Set codes and costs of a table, if they changed."""
        if self._views is not table.views:
            self._views = table.views
            self.search.compiled(*table.views)
        if self._counting is not table.free_steps:
            self._counting = table.free_steps
            self.search.count(self.hops() if table.free_steps else NONE)

    def seek(self, goals: list[int], slack: int) -> None:
        """Set several goals, by number, in their order; empty: reset them."""
        if not goals and not self._sought:
            return
        if self._targets is None:
            self._targets = blank(self.layer or self._cells, np.int32)
        # only what was set before: the array is as large as the board
        self._targets[self._sought] = 0
        self._sought = goals
        # of a cell that is named twice the first place counts
        for place in range(len(goals), 0, -1):
            self._targets[goals[place - 1]] = place
        self.search.seek(view(self._targets) if goals else NONE, slack)

    def slot(self) -> tuple[memoryview, int]:
        """Label by cell, for the tie kernel, and the token of this use."""
        if self._slot is None:
            self._slot = blank(self._cells, np.int64)
        # labels of another use bear another token, so that the array is never cleared
        self._token += 1
        return view(self._slot), self._token

    def make_window(self, span: int) -> None:
        """See that the next search's numbers fit below those of the earlier ones."""
        # only after some billions of keys
        if self.search.window() - span - CHAINS < LOWEST:
            self._mark[:] = 0
            self.search.rewind()


class Pool(Watcher, Generic[W]):
    """The workspaces of a board, each leased to one search at a time."""

    def __init__(self, make: Callable[[], W]) -> None:
        self._make = make
        #: Those that nobody uses.
        self.free: list[W] = []

    def touched(self, part: str, numbers: IntArray) -> None:
        """Workspaces hold no contents of a board."""

    def share(self, _board: Board) -> Pool[W]:
        """Boards with the same grid can lease from the same pool."""
        return self

    def lease(self) -> W:
        """Take a workspace; a new one where none is free."""
        try:
            return self.free.pop()
        except IndexError:
            loader.tell_once()
            return self._make()

    def give_back(self, workspace: W) -> None:
        """Hand a workspace to the next search."""
        self.free.append(workspace)


def pool(board: Board, layers: int) -> Pool[Workspace]:
    """The pool of a board, for step tables of so many layers."""
    make = partial(Workspace, board.grid, layers)
    return board._derived.get(("workspaces", layers), lambda: Pool(make))


def layered(grid: Grid, layers: int) -> NDArray[np.int32]:
    """The steps of a grid as pairs (col, row), for each kind of line, in one row.

    Where diagonal steps alternate, cells before a dear one come after all others, as more rows; the
    two kinds of line are the two layers, between which diagonal steps lead.
    """
    deltas = grid.lattice.deltas.astype(np.int32)
    if layers == 2:
        deltas = deltas.copy()
        # a diagonal step leads to the other layer, which lies a board lower, and back
        deltas[0, 1::2, 1] += grid.rows
        deltas[1, 1::2, 1] -= grid.rows
    return deltas.ravel()
