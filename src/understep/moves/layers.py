"""Layers: prepare a query for the search by layers, and read its labels."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache, partial
from operator import is_
from typing import Any, cast

import numpy as np
from numpy.typing import NDArray

from understep.boards.board import Board
from understep.grids.cell import IntArray
from understep.grids.grid import Grid
from understep.kernels import loader
from understep.kernels.loader import blank, view
from understep.kernels.marks import BLOCKED, CHUNK, CROSSED, HELD, MET, NEVER, PASS, TOP
from understep.moves.mover import Mover
from understep.moves.workspace import LARGE, MEASURES, NO_BYTES, Pool, meanings
from understep.rules.link_steps import NONE
from understep.rules.steps import NOTHING_WIDE
from understep.rules.zones import zones

MOST_BUCKETS = 1 << 10
MOST_KEYS = TOP - 1
# enough for nearly every search: each takes up as many, until labels are cleared
FEW_KEYS = 1 << 18
MOST_STRIDES = 16  # of a movement on a board
NO_KINDS = view(NOTHING_WIDE)


class LayersWorkspace:
    """The arrays of one search by layers, used again and again; never cleared."""

    def __init__(self, grid: Grid) -> None:
        ways, (stagger, parity) = len(grid.directions), grid.numbering.staggering
        # lines are rows, or columns where these are staggered
        sizes = (grid.rows, grid.cols) if stagger != 2 else (grid.cols, grid.rows)
        lines, wide, skewed = sizes[0], sizes[1] + 2, int(stagger > 0)
        base = 2 * wide
        steps = grid.lattice.deltas[0][:, ::-1] if stagger != 2 else grid.lattice.deltas[0]
        # from a line that is not shifted; to a shifted one a step leads half a cell less far
        # so that no step needs to know the kind of line that it starts on
        adds = steps[:, 0] * wide + steps[:, 1] - (steps[:, 0] >> 1) * skewed
        parity = parity if skewed else 0
        address = base, wide, skewed, parity, grid.cols, int(stagger == 2)
        line = np.arange(lines)
        starts = (line + parity >> 1) * skewed - line * wide - base
        starts += 0 if stagger == 2 else line * grid.cols
        self._margin = base, lines, sizes[1], wide, skewed, parity
        self._holes = None
        if grid.numbering.mask is not None:
            there = grid.numbering.mask.reshape(grid.rows, grid.cols)
            self._holes = ~(there.T if stagger == 2 else there)
        state = self._framed(np.uint8, MET)
        buckets = MOST_BUCKETS + 1, MOST_BUCKETS + 1, CHUNK * ways, 256, 3 * CROSSED
        self.search = loader.layers.Layers(
            view(adds.astype(np.int32)), MEASURES[grid.kind, ways],
            view(np.array(address, dtype=np.int32)), view(starts.astype(np.int32)), view(state),
            *(view(np.zeros(size, dtype=np.int32)) for size in buckets),
        )  # fmt: skip
        self.search.seek(NONE, 0)
        self._cells = grid.cols * grid.rows
        self._targets: NDArray[np.int32] | None = None
        self._sought: list[int] = []
        self._labelled = False
        self.arrays: list[NDArray[Any]] = []
        self._room = 0
        self.grow(1024)

    def _framed(self, dtype: Any, margin: int) -> NDArray[Any]:
        """Zeros for every place of a cell, and a value for all others."""
        base, lines, cells, wide, skewed, parity = self._margin
        array = blank(base + lines * wide + base, dtype)
        array[:base] = array[base + lines * wide - (lines + parity >> 1) * skewed :] = margin
        size = array.itemsize
        for first in range(2):  # every second line, and the margin after each
            start = base + first * (wide - skewed * parity)
            shape = (lines - first + 1) // 2, wide - skewed * (parity ^ first)
            strides = size * (2 * wide - skewed), size
            part: NDArray[Any] = np.ndarray(
                shape, dtype, buffer=array, offset=size * start, strides=strides
            )
            part[:, cells:] = margin
            if self._holes is not None:
                part[:, :cells][self._holes[first::2]] = margin
        return array

    def label(self) -> None:
        """See that there is room for a label of every cell, which a plain flood does without."""
        if not self._labelled:
            self._labelled = True
            label = self._framed(np.int32, BLOCKED)
            self.search.lay_labels(view(label), view(blank(len(label), np.uint8)))

    def grow(self, labels: int = 0) -> None:
        """Make room for so many labels; by default four times as many as now."""
        self._room = room = max(labels, 4 * self._room)
        # a chunk can be almost empty, and every bucket can have one
        chunks = 2 * room + 2 * CHUNK * MOST_BUCKETS
        old, self.arrays = self.arrays, [*_lists(room), blank(chunks, np.int32)]
        for new, was, count in zip(self.arrays, old, self.search.filled(), strict=False):
            new[:count] = was[:count]  # more would take up memory
        self.search.hold(*map(view, self.arrays))

    def room(self, labels: int) -> None:
        """See that there is room for so many labels."""
        if labels > self._room:
            self.grow(labels)

    def take(self, count: int) -> tuple[NDArray[np.int32], IntArray]:
        """The first so many cells and marks, to keep."""
        cells, marks = self.arrays[0][:count], self.arrays[1][:count]
        if count < LARGE:
            return cells.copy(), marks.copy()
        # too many to copy: they are given away, and replaced
        self.arrays[:2] = _lists(self._room)
        self.search.hold(*map(view, self.arrays))
        return cells, marks

    def flood_many(
        self, rules: Any, own: int, starts: NDArray[np.int32], first: int, limit: int, ring: int
    ) -> tuple[NDArray[np.int32], IntArray, list[int]] | None:
        """Flood from many cells: all cells and marks in one row, and where each flood begins.

        None where it does not serve; then it is not to be used again.

        ``own``: the cell that the mover stands on.
        """
        cells, marks = _row(128 * len(starts))
        ends = np.zeros(len(starts) + 1, dtype=np.int64)
        at, search = 0, self.search
        while at < len(starts):
            out = view(cells), view(marks), view(ends)
            done = loader.asker.many(search, rules, own, view(starts), at, first, limit, ring, *out)
            at = done if done >= 0 else -1 - done
            if done < 0:
                while not search.lost and search.run() < 0:
                    self.grow()
                if search.lost:
                    return None
            elif at < len(starts):
                filled, old_cells, old_marks = ends[at], cells, marks
                cells, marks = _row(3 * len(cells) + self._room)
                cells[:filled], marks[:filled] = old_cells[:filled], old_marks[:filled]
        return cells[: ends[-1]], marks[: ends[-1]], ends.tolist()

    def seek(self, goals: list[int], slack: int) -> None:
        """Set several goals, by number; empty: reset them."""
        if not goals and not self._sought:
            return
        if self._targets is None:
            self._targets = blank(self._cells, np.int32)
        self._targets[self._sought] = 0
        self._targets[goals] = 1
        self._sought = goals
        self.search.seek(view(self._targets) if goals else NONE, slack)


def _lists(room: int) -> list[NDArray[Any]]:
    """Room for cells and for their marks, which are filled one after another."""
    return [blank(room, dtype, dense=True) for dtype in "iq"]


def _row(room: int) -> tuple[NDArray[np.int32], IntArray]:
    """The same, for the cells and marks of many floods; what is not filled takes up no memory."""
    return np.empty(room, dtype=np.int32), np.empty(room, dtype=np.int64)


@dataclass(slots=True)
class Ready:
    """The rules of movers as the search by layers takes them."""

    laid: tuple[Any, ...]  # what the rules are made of
    bounds: tuple[Any, ...]  # what decides which searches serve, and how many keys they take
    rules: Any
    plain: bool
    #: What answers, by turns and the points of the first one.
    askers: dict[tuple[int | None, int], Any]


def ready(board: Board, mover: Mover) -> Ready | None:
    """The rules of a mover, up to date; None: the search by layers does not serve.

    They are made anew only when what they are made of has been replaced, and set last of all, as
    threads may ask at once.
    """
    known = cast(Ready | None, mover.ready.get(mover.stride))
    held: tuple[Any, ...] = ()
    if mover.zoning:  # counts follow when they are asked for
        held = zones(board, mover.movement.layer).counts(mover.unit.side)
    # a state that was undone comes back, layers that were copied meanwhile do not
    made = _made_ready(board, mover, known, held)
    if made is not known:
        # a game can give a unit any number of points
        if len(mover.ready) >= MOST_STRIDES:
            mover.ready.clear()
        mover.ready[mover.stride] = made
    return made if made.rules is not None else None


def _made_ready(board: Board, mover: Mover, old: Ready | None, held: tuple[Any, ...]) -> Ready:
    """The rules of a mover for the present state of its board; the old ones where they hold."""
    table = mover.table
    by_kind = table.by_kind
    ground = () if by_kind is None else table.layers_by_kind()
    laid = *ground, board._roster.codes(mover.movement.layer), by_kind, table.views, *held
    alone = len(board._roster.values) < 2
    bounds = table.dearest, table.layers, table.free_steps, table.far_steps, alone
    same = old is not None and bounds == old.bounds and len(laid) == len(old.laid)
    # layers are replaced when they are written, so that identity tells
    if old is not None and same and all(map(is_, laid, old.laid)):
        return old
    rules = None
    unfit = mover.carry or table.layers > 1 or table.free_steps
    unfit |= max(mover.stride, mover.dearest) > MOST_KEYS or not countable(board.grid)
    narrow = len(table.views[0]) > 0
    if not unfit and not table.far_steps and (by_kind is not None or narrow):
        rules = _rules(board, mover, ground, held)
    return Ready(laid, bounds, rules, by_kind is not None, {})


def _rules(
    board: Board, mover: Mover, ground: tuple[Any, ...], held: tuple[Any, ...]
) -> Any:  # fmt: skip
    """The rules of a mover as the kernel takes them; without ground, by steps."""
    table, foot = mover.table, mover.table.foot_shifts
    rules = loader.rules.Rules(
        mover.points, mover.stride, mover.zoning, mover.extra, mover.cap, len(foot) // 2, view(foot)
    )
    if not ground:
        rules.lay(0, NO_BYTES, NO_KINDS, NO_BYTES, NO_BYTES, NO_BYTES, NO_BYTES)
        rules.weigh(NONE, NO_BYTES, NONE)
        rules.compiled(table.views[0], table.twice)
    else:
        states, prices = cast(tuple[memoryview, list[int]], table.by_kind)
        rules.lay(1, *[*map(view, ground), states])
        extra = mover.extra if mover.zoning else None
        rules.weigh(*_weights(tuple(prices), extra, mover.cap), view(np.zeros(256, dtype=np.int32)))
        rules.compiled(NO_BYTES, NONE)
    who, own = board._roster.codes(mover.movement.layer), board._roster.code(mover.unit.side)
    means = view(meanings(mover.movement.passes, own))
    rules.among(view(who), means, *(map(view, held) if held else (NO_BYTES, NO_BYTES)))
    return rules


def countable(grid: Grid) -> bool:
    """Whether the kernel can tell lines by a product of 64 bits; not on very long boards."""
    lines, cells = sorted((grid.cols, grid.rows))
    return 2 * (lines + 2) * (cells + 2) ** 2 < 1 << 40


@lru_cache(1 << 8)
def _weights(prices: tuple[int, ...], extra: int | None, cap: int) -> tuple[memoryview, memoryview]:
    """By state of a cell what it costs to enter, and the states there can be; read-only.

    ``extra``: what it costs more in a zone; None: zones are ignored.
    """
    weight = np.full(256, NEVER, dtype=np.int32)
    common = []
    for place, price in enumerate(prices, 1):
        for flags in (0, PASS) if extra is None else (0, PASS, HELD, PASS | HELD):
            cost = price + (extra or 0) if flags & HELD else price
            state = MET | place << 1 | flags
            weight[state] = min(cost, cap or cost)
            common.append(state)
    return view(weight), view(np.array(common, dtype=np.uint8))


def layers_pool(board: Board) -> Pool[LayersWorkspace]:
    """The workspaces of a board for searches by layers."""
    return board._derived.get(("layers",), lambda: Pool(partial(LayersWorkspace, board.grid)))


def tied_marks(
    board: Board, rules: Any, cells: NDArray[np.int32], marks: IntArray, rows: NDArray[np.uint8]
) -> IntArray:
    """The marks of a flood, completed by the steps that are tied; a new array.

    They are read from what the flood left, so that the board may have changed since. ``rows``: of a
    flood that is not plain, the codes of the steps from each cell.
    """
    found, pool = marks.copy(), layers_pool(board)
    workspace = pool.lease()
    try:
        workspace.label()
        workspace.room(len(cells))
        loader.ties.recall(
            workspace.search, rules, view(cells), view(found), view(rows.reshape(-1))
        )
    finally:
        pool.give_back(workspace)
    return found
