"""Asking the kernel: a search's question made ready, its labels brought home."""

from __future__ import annotations

from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any, Literal, cast

import numpy as np
from numpy.typing import NDArray

from understep.boards.board import Board
from understep.boards.cost import plain
from understep.boards.unit import Unit
from understep.errors import CostError, InputError
from understep.grids.cell import Cell, IntArray
from understep.grids.grid import Grid
from understep.moves import kernel
from understep.moves.kernel import view
from understep.moves.links import MOST_MOUTHS, NO_COSTS, NONE
from understep.moves.movement import Movement
from understep.moves.steps import SHIFT, StepTable, step_table

Prefer = Literal["straight", "direct", "first"]

ROOM_FOR_KEYS = 1 << 50
LOWEST = -(1 << 51)
CHAINS = 1 << 31
MOST_BUCKETS = 4096
LARGE = 1 << 16
MEASURES = {("square", 4): 0, ("square", 8): 1, ("hex", 6): 2}
LOWEST_BIT = view(np.array([(n & -n).bit_length() - 1 & 7 for n in range(256)], dtype=np.uint8))
NO_VIAS = np.zeros(0, dtype=np.int32)


class Workspace:
    """The arrays of one search, used again and again; never cleared."""

    def __init__(self, grid: Grid) -> None:
        deltas = grid.deltas
        # the kernel counts lines from the first cell
        first = grid.first[1] if grid.stagger == 1 else grid.first[0]
        self.shifts = (deltas[..., 1] * grid.cols + deltas[..., 0]).astype(np.int32).ravel()
        self.parity = (grid.parity + first) & 1
        self._pad = grid.cols + 1
        self._mark = np.zeros(grid.cols * grid.rows + 2 * self._pad, dtype=np.int64)
        self._cells = grid.cols * grid.rows
        self._hops: NDArray[np.int32] | None = None
        self._via: NDArray[np.int32] | None = None
        self._footprint: NDArray[np.int32] | None = None
        self._linked = True
        self._slot: IntArray | None = None
        self._token = 0
        buckets = [view(np.zeros(MOST_BUCKETS, dtype=np.int32)) for _ in range(2)]
        self.search = kernel.search.Search(
            view(self.shifts + np.int32(self._pad)),
            view(deltas.astype(np.int32).ravel()), self._pad, grid.cols, grid.stagger,
            self.parity, MEASURES[grid.kind, len(grid.directions)], view(self._mark), *buckets,
            LOWEST_BIT,
        )  # fmt: skip
        self._room = 0
        self._heap = False
        self.arrays: list[NDArray[Any]] = []
        self.grow(heap=False)

    def grow(self, heap: bool) -> None:
        """Double the room for labels."""
        old = self.arrays
        self._room = max(512, 2 * self._room)
        self._heap = self._heap or heap
        linked = self._via is not None
        sizes = [1, 1, 4, *([int(self._heap)] * 3), *([0.25] * 6), int(linked)]
        kinds = "iqiqqiiqiiiii"
        self.arrays = [
            np.zeros(int(size * self._room) or 1, dtype=kind)
            for size, kind in zip(sizes, kinds, strict=True)
        ]
        for new, was in zip(self.arrays, old, strict=False):
            new[: len(was)] = was
        self.search.hold(*map(view, self.arrays))

    def take(self, count: int, linked: bool) -> tuple[NDArray[np.int32], IntArray, Any]:
        """The first so many cells, marks and vias, to keep.

        The marks count from this search's window; a via is the cell from which a link led there.
        """
        cells, marks = self.arrays[0][:count], self.arrays[1][:count]
        vias = self.arrays[-1][:count].copy() if linked else NO_VIAS
        start = self.search.window() << SHIFT
        if count < LARGE:
            return cells.copy(), marks - start, vias
        # too many to copy: they are given away, and replaced
        marks -= start
        self.arrays[:2] = [np.empty_like(array) for array in self.arrays[:2]]
        self.search.hold(*map(view, self.arrays))
        return cells, marks, vias

    def hops(self) -> memoryview:
        """Zero-cost steps per cell, for boards that have such steps."""
        if self._hops is None:
            self._hops = np.zeros(self._cells, dtype=np.int32)
        return view(self._hops)

    def join(self, table: StepTable, goal: int) -> bool:
        """Hand over footprint and links, if they changed; whether the estimate can be used."""
        links = table.links
        if self._footprint is not table.foot_shifts:
            self._footprint = table.foot_shifts
            self.search.shape(len(table.foot_shifts) // 2, view(table.foot_shifts))
        if not links.count:
            if self._linked:
                self._linked = False
                self.search.join(0, NONE, NONE, NONE, NO_COSTS, NONE)
                self.search.lead(0, NONE, NO_COSTS, NONE, NONE)
            return True
        self._linked = True
        if self._via is None:
            self._via = np.zeros(self._cells, dtype=np.int32)
            self.grow(self._heap)
        self.search.join(links.most, *links.views, view(self._via))
        found = links.mouths(goal, table.cheapest) if goal >= 0 else None
        cells, rest = found or (NO_VIAS, np.zeros(0, dtype=np.int64))
        places = [view(np.zeros(MOST_MOUTHS, dtype=np.int32)) for _ in range(2)]
        self.search.lead(len(cells), view(cells), view(rest), *places)
        return found is not None

    def slot(self) -> tuple[memoryview, int]:
        """Label by cell, for the tie kernel, and the token of this use."""
        if self._slot is None:
            self._slot = np.zeros(self._cells, dtype=np.int64)
        self._token += 1
        return view(self._slot), self._token

    def make_window(self, span: int) -> None:
        """See that the next search's numbers fit below those of the earlier ones."""
        if self.search.window() - span - CHAINS < LOWEST:
            self._mark[:] = 0
            self.search.rewind()


class Pool:
    """The workspaces of a board, each leased to one search at a time."""

    def __init__(self, grid: Grid) -> None:
        self._grid = grid
        self._free: list[Workspace] = []

    def touched(self, numbers: IntArray) -> None:
        """Workspaces hold nothing of the ground."""

    def share(self, _board: Board) -> Pool:
        """Boards with the same grid can lease from the same pool."""
        return self

    def lease(self) -> Workspace:
        """Take a workspace; a new one where none is free."""
        try:
            return self._free.pop()
        except IndexError:
            kernel.tell_once()
            return Workspace(self._grid)

    def give_back(self, workspace: Workspace) -> None:
        """Hand a workspace to the next search."""
        self._free.append(workspace)


def pool(board: Board) -> Pool:
    """The pool of a board."""
    return board.derived("workspaces", lambda: Pool(board.grid))


@dataclass(eq=False, repr=False)
class Labels:
    """The labels of one search, as compact copies.

    All closed ones, nearest first; or, where a goal was found, those on tied ways to it.

    ``marks`` holds ``key << SHIFT``, 256 where the mover may stop, and a bit per direction it is
    entered from (512: a link). The key counts the turn (from 0) times ``stride``, plus the points
    used.
    """

    board: Board
    table: StepTable
    cells: NDArray[np.int32]
    marks: IntArray
    vias: NDArray[np.int32]
    stride: int
    fresh: int  # the remainder of the stride at which a full turn starts
    start: int  # and the first turn
    points: Fraction
    left: Fraction
    found: int  # number of the cell that answers the question, or -1
    home: int  # number of the cell it starts from
    _totals: IntArray | None = field(default=None)

    @property
    def stops(self) -> NDArray[np.bool_]:
        """Where the mover may stop."""
        return (self.marks & 256) > 0

    def turns(self, which: Any = slice(None)) -> IntArray:
        """The turn of each label, or of some, the first being 1."""
        keys: IntArray = self.marks[which] >> SHIFT
        return keys // self.stride + 1

    def spent(self, which: Any = slice(None)) -> IntArray:
        """Scaled points used in that turn."""
        keys: IntArray = self.marks[which] >> SHIFT
        turn, used = np.divmod(keys, self.stride)
        return used - np.where(turn > 0, self.fresh, self.start)

    def totals(self) -> IntArray:
        """Scaled points spent on the whole way (the least of all tied ways)."""
        if self._totals is None:
            if len(self.marks) and int(self.marks[-1]) >> SHIFT < self.stride:
                self._totals = self.spent()
            else:
                totals = np.zeros(len(self.cells), dtype=np.int64)
                with _Ties(self) as ties:
                    kernel.ties.totals(*ties.graph, self.fresh, view(totals))
                self._totals = totals
        return self._totals

    def amount(self, scaled: int) -> int | float:
        """A scaled number of points as it is given back."""
        return scaled if self.table.scale == 1 else plain(Fraction(scaled, self.table.scale))

    def left_after(self, turn: int, spent: int) -> int | float:
        """Points left in a turn (from 1) in which so much, scaled, was spent."""
        full = self.left if turn == 1 else self.points
        return plain(full - Fraction(spent, self.table.scale))

    def tied_route(self, goal: int, prefer: Prefer, facing: int) -> NDArray[np.int32]:
        """Indices of the labels along the preferred route to a cell, given by number."""
        with _Ties(self) as ties:
            return ties.route(goal, prefer, facing)


class _Ties:
    """The tie kernel at work on some labels, in a leased workspace."""

    def __init__(self, labels: Labels) -> None:
        self._labels = labels
        self._grid = labels.board.grid
        self._pool = pool(labels.board)

    def __enter__(self) -> _Ties:
        labels = self._labels
        self._workspace = self._pool.lease()
        self._slot, token = self._workspace.slot()
        cells = view(labels.cells)
        mate = view(np.empty(len(cells), dtype=np.int32))
        kernel.ties.chain(cells, self._slot, mate, token)
        self.graph = (
            cells, view(labels.marks), self._slot, mate, view(labels.vias),
            view(self._workspace.shifts),
            self._grid.cols, self._grid.stagger, self._workspace.parity, labels.stride,
        )  # fmt: skip
        return self

    def __exit__(self, *_exception: object) -> None:
        self._pool.give_back(self._workspace)

    def _label(self, number: int) -> int:
        """The label of a cell where the mover may stop."""
        return int(self._slot[number]) & 0x7FFFFFFF

    def route(self, goal: int, prefer: Prefer, facing: int) -> NDArray[np.int32]:
        """Indices of the labels along the preferred route to a cell, given by number."""
        labels = self._labels
        many = len(labels.cells)
        start, end = self._label(labels.home), self._label(goal)
        route = np.empty(many, dtype=np.int32)
        if prefer == "first":
            length = kernel.ties.first(end, start, *self.graph, view(route))
            return route[:length][::-1]
        seat = np.full(many, -1, dtype=np.int32)
        ties = np.empty(many, dtype=np.int32)
        ways = np.empty(many, dtype=np.int32)
        listed = view(seat), view(ties), view(ways)
        count = kernel.ties.spread(end, *self.graph, *listed)
        on_way = labels.cells[ties[:count]]
        weight = self._beside(on_way, goal) if prefer == "direct" else np.zeros(count, np.int64)
        tied = count * (len(self._grid.directions) + 1)
        length = kernel.ties.choose(
            start, facing if prefer == "straight" else -1, int(prefer == "straight"), labels.fresh,
            *self.graph, *listed, view(weight), view(np.full(tied, -1, dtype=np.int64)),
            view(np.zeros(tied, dtype=np.int64)), view(np.zeros(tied, dtype=np.int32)),
            view(np.zeros(count, dtype=np.int32)), view(route),
        )  # fmt: skip
        return route[:length]

    def _beside(self, numbers: NDArray[np.int32], goal: int) -> IntArray:
        """How far cells lie from the straight line start to goal, in whole numbers.

        Twice the area of the triangle that each makes with the line, on the lattice whose staggered
        axis is doubled; stretching a board does not change which is nearer.
        """
        cells = self._grid.cells_of(numbers)
        ends = self._grid.cells_of(np.array([self._labels.home, goal]))
        if self._grid.stagger:
            along = self._grid.stagger - 1
            for each in (cells, ends):
                lines = self._grid.lines(each)
                each[:, along] = 2 * each[:, along] + lines
        dx, dy = ends[1] - ends[0]
        gap = cells - ends[0]
        beside: IntArray = np.abs(gap[:, 0] * dy - gap[:, 1] * dx)
        return beside


def search(
    board: Board,
    unit: Unit,
    *,
    goal: int = -1,
    enough: int = 0,
    turns: int | None = 1,
    eager: bool = False,
) -> Labels:
    """Search from where a unit stands: all it can reach, or the way to a goal (by number).

    ``enough`` takes any stop that near to the goal for an answer; ``turns`` None sets no limit;
    ``eager`` stops at the goal without gathering ties.
    """
    movement = unit.movement
    if not isinstance(movement, Movement):
        raise InputError("unit", "its movement must be a Movement", movement)
    table = step_table(board, movement, unit.side)
    scale = table.scale
    full = cast(Fraction, movement.points)
    left = full if unit.left is None else cast(Fraction, unit.left)
    points = full.numerator * scale // full.denominator
    first = left.numerator * scale // left.denominator
    if turns != 1 and table.dearest * 2 > points >= 0:
        most = board.grid.cols * board.grid.rows + 1  # every turn ends on another cell
    else:  # two turns in a row spend at least half their points
        most = 4 * board.grid.cols * board.grid.rows * table.dearest // max(points, 1) + 8
    turns = most if turns is None else min(turns, most)
    stride = max(points, first) + 1
    span = turns * stride
    if span > ROOM_FOR_KEYS:
        rule = f"points times scale ({scale}) times turns must stay below 2**50"
        raise CostError("points", rule, movement.points)
    who = board.standing(movement.layer)
    side = board.side_code(unit.side)
    means = bytearray(b"\1" if movement.passes == "all" else b"\2") * 256
    means[0] = 0
    if movement.passes == "own":
        means[side] = 1
    own = board.grid.number(cast(Cell, unit.at))
    # the most by which a rank can rise at one step
    rise = table.dearest + table.cheapest * (1 + (table.links.farthest if goal >= 0 else 0))
    if turns > 1:
        rise += table.dearest + stride - points
        if 1 in means and len(board.units()) > 1:
            rise += stride
    ring = 0 if rise >= MOST_BUCKETS else max(63, (1 << rise.bit_length()) - 1)
    space = pool(board)
    workspace = space.lease()
    workspace.make_window(span)
    kernel_search = workspace.search
    guided = workspace.join(table, goal)
    kernel_search.begin(
        *table.views, view(who), view(means),
        workspace.hops() if table.free_steps else NONE, own, own, goal, enough,
        table.cheapest if guided else 0, stride, first, points, turns, span, ring, int(eager),
    )  # fmt: skip
    while (status := kernel_search.run()) < 0:
        if status == -1:
            table.fill_around(kernel_search.wants())
            kernel_search.compiled(*table.views)
        else:
            workspace.grow(heap=ring == 0)
    closed, found = kernel_search.tally()
    labels = Labels(
        board, table,
        *workspace.take(closed, table.links.count > 0),
        stride, stride - 1 - points, stride - 1 - first, full, left, found, own,
    )  # fmt: skip
    space.give_back(workspace)
    return labels
