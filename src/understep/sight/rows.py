"""Rows: the cells that can be attacked, or seen, from each cell, kept while the ground stands.

A row is found when it is first asked for, and again after an edit near it.
"""

from __future__ import annotations

from threading import Lock
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from understep.boards.board import Board
from understep.boards.derived import Watcher, twin_of
from understep.boards.footprint import ONE
from understep.grids.cell import IntArray
from understep.kernels import loader
from understep.kernels.loader import view
from understep.sight.lines import Aiming, Lines, lines

MOST = 1 << 20  # entries that are kept, for one rule; then all are found anew
FARTHEST = 64  # steps: rows of what reaches farther are not kept


class Ranges(NamedTuple):
    """The rows of some stands, as they were: where each starts and ends in a pool."""

    starts: NDArray[np.int32]
    ends: NDArray[np.int32]
    pool: NDArray[np.int32]

    def union(self, board: Board) -> tuple[IntArray, IntArray]:
        """All cells in any of them, in order, and for each the first of the rows it is in."""
        # no cell is listed twice
        most = min(int((self.ends - self.starts).sum()), board.grid.cols * board.grid.rows)
        met, mark = lines(board).marks(len(self.starts))
        cells, firsts = np.empty((2, most), dtype=np.int64)
        out = view(met), view(cells), view(firsts)
        many = loader.sight.gather(*self._views(), mark, *out)
        return cells[:many], firsts[:many]

    def pairs(self) -> tuple[IntArray, IntArray]:
        """Each row, by place, with each cell that is in it."""
        lengths = self.ends - self.starts
        places = np.repeat(np.arange(len(lengths)), lengths)
        # where an entry lies in the pool, less where it lies among these
        shifts = self.starts - (np.cumsum(lengths) - lengths)
        return places, self.pool[np.arange(len(places)) + shifts[places]].astype(np.int64)

    def holding(self, number: int) -> list[int]:
        """The places of the rows that a cell is in."""
        return loader.sight.holding(*self._views(), number)

    def manned(self, board: Board) -> set[str]:
        """The names of the units that stand on a cell in any of them."""
        roster, grid, found = board._roster, board.grid, set[str]()
        # a cell can be taken once in each layer
        for codes, names in roster.standing.values():
            met, mark = lines(board).marks()
            args = view(codes.array), mark, view(met)
            for number in loader.sight.manned(*self._views(), *args):
                found.add(names[grid.numbering.cell_of(number)])
        return found

    def _views(self) -> tuple[memoryview, memoryview, memoryview]:
        return view(self.starts), view(self.ends), view(self.pool)


class _Store:
    """The rows that are known: for cells, by number, where theirs starts and ends in a pool."""

    def __init__(self, cells: int) -> None:
        self.lock, self.shared = Lock(), False
        self.starts, self.ends = np.full((2, cells), -1, dtype=np.int32)
        self.pool, self.used = np.empty(0, dtype=np.int32), 0

    def copy(self) -> _Store:
        """The same, independent from here on."""
        twin = _Store(0)
        with self.lock:
            twin.starts, twin.ends = self.starts.copy(), self.ends.copy()
            twin.pool, twin.used = self.pool[: self.used].copy(), self.used
        return twin

    def clear(self) -> None:
        """Forget all rows; a thread that reads some goes on with the old pool."""
        self.starts[:] = -1
        self.pool, self.used = np.empty(0, dtype=np.int32), 0

    def room(self, many: int) -> NDArray[np.int32]:
        """Room for more entries."""
        if self.used + many > len(self.pool):
            pool = np.empty(max(self.used + many, 2 * len(self.pool)), dtype=np.int32)
            pool[: self.used] = self.pool[: self.used]
            self.pool = pool
        return self.pool[self.used :]


class Rows(Watcher):
    """The rows of one rule on a board; a copy of the board shares them until its ground differs."""

    sight = True

    def __init__(self, board: Board, aiming: Aiming) -> None:
        self._board, self._aiming, self._lock = board, aiming, Lock()
        self._store = _Store(board.grid.cols * board.grid.rows)
        self._dirty: list[IntArray] = []

    def touched(self, _part: str, numbers: IntArray) -> None:
        """Take note of cells whose ground or level may have changed."""
        # looked at when a row is asked for: edits come many at a time
        self._dirty.append(numbers)

    def share(self, board: Board) -> Rows:
        """The same for a copy of the board."""
        self._store.shared = True
        twin = twin_of(self)
        twin._board, twin._lock, twin._dirty = board, Lock(), list(self._dirty)
        return twin

    def of(self, numbers: IntArray, far: int) -> Ranges | None:
        """The rows of some cells; ``far``: so many steps lead at most to any cell in one.

        None where such rows are not kept.
        """
        if far > FARTHEST:
            return None
        if self._dirty:
            self._forget(far)
        # copies: rows that are found later move where others start
        out = np.empty((2, len(numbers)), dtype=np.int32)
        starts, ends = out
        with (store := self._store).lock:
            args = view(np.array(numbers, dtype=np.int64)), view(starts), view(ends)
            if loader.sight.ranges(view(store.starts), view(store.ends), *args) == 0:
                missing = np.unique(numbers[store.starts[numbers] < 0])
                if not self._find(store, missing, far, lines(self._board)):
                    return None
                loader.sight.ranges(view(store.starts), view(store.ends), *args)
            return Ranges(starts, ends, store.pool)

    def struck(self, found: Any, far: int) -> IntArray | None:
        """All cells in the rows of the stands that an asker has found, in order.

        None where one is not known yet.
        """
        if far > FARTHEST:
            return None
        if self._dirty:
            self._forget(far)
        met, mark = lines(self._board).marks()
        with (store := self._store).lock:
            kept = store.starts, store.ends, store.pool
            cells = found.struck(*map(view, kept), mark, view(met))
        return None if cells is None else np.frombuffer(cells, dtype=np.int64)

    def row(self, number: int, far: int) -> IntArray | None:
        """The cells of one row, in order. None where such rows are not kept."""
        if far > FARTHEST:
            return None
        if self._dirty:
            self._forget(far)
        store = self._store
        with store.lock:
            missing = np.array([number]) if store.starts[number] < 0 else None
            if missing is not None and not self._find(store, missing, far, lines(self._board)):
                return None
            found = store.pool[store.starts[number] : store.ends[number]]
        return found.astype(np.int64)

    def _forget(self, far: int) -> None:
        """Forget the rows that what has changed could alter."""
        grid = self._board.grid
        with self._lock:
            if not self._dirty:  # another thread was here
                return
            store = self._store.copy() if self._store.shared else self._store
            changed = np.unique(np.concatenate(self._dirty))
            near = grid.lattice.nearby(far)[0]
            with store.lock:
                # looking for the rows near so many changes would take longer than finding all anew
                if len(changed) * len(near) * len(self._aiming.feet) > len(store.starts):
                    store.clear()
                else:
                    cells = grid.numbering.cells_of(changed)
                    around = grid.lattice.spread(cells, near).reshape(-1, 2)
                    stands = grid.lattice.spread(around, -np.array(self._aiming.feet))
                    store.starts[grid.numbering.inside(stands)] = -1
            self._store, self._dirty = store, []

    def _find(self, store: _Store, numbers: IntArray, far: int, kept: Lines) -> bool:
        """Find rows; False where they would be too many to keep."""
        grid, aiming = self._board.grid, self._aiming
        feet = np.array(aiming.feet)
        most = len(numbers) * min((2 * far + 1) ** 2 * len(feet), len(store.starts))
        if most > MOST:
            return False
        # old rows stay in the pool where they were found anew: it fills up
        if store.used + most > MOST:
            store.clear()
            return self._find(store, numbers, far, kept)
        starts = numbers
        if aiming.feet != ONE:
            spread = grid.lattice.spread(grid.numbering.cells_of(numbers), feet)
            starts = grid.numbering.numbers(spread).ravel()
        sight = kept.armed(aiming, starts.astype(np.int32))
        met, mark = kept.marks(len(numbers))
        found, owners = store.room(most), np.empty(most, dtype=np.int32)
        many = sight.strike(len(numbers), far, mark, 1, view(met), view(found), view(owners))
        if aiming.measure != "grid":  # the kernel takes these as any distance
            taken, levels = starts.reshape(len(numbers), -1), self._board._contents.elevation.array
            gaps = self._gaps(taken, owners[:many], found[:many], far)
            inside = aiming.spans(gaps, levels, taken[owners[:many], 0], found[:many])
            many = int(inside.sum())
            found[:many], owners[:many] = (each[: len(inside)][inside] for each in (found, owners))
        bounds = store.used + np.searchsorted(owners[:many], np.arange(len(numbers) + 1))
        store.starts[numbers], store.ends[numbers] = bounds[:-1], bounds[1:]
        store.used += many
        return True

    def _gaps(
        self, starts: IntArray, owners: NDArray[Any], numbers: NDArray[Any],
        far: int,  # noqa: ARG002
    ) -> NDArray[Any]:  # fmt: skip
        """How far cells are, each from its own stand; ``starts``: the cells taken up at each.

        What more than ``far`` steps of the grid lead to does not count.
        """
        grid = self._board.grid
        ends = grid.numbering.cells_of(starts[owners]), grid.numbering.cells_of(numbers)[:, None]
        # of a large unit the nearest of its cells counts
        gaps: NDArray[Any] = np.min(grid.distance(*ends, measure="straight"), axis=1)
        return gaps


def rows(board: Board, aiming: Aiming) -> Rows:
    """The rows of a rule, kept with a board."""
    return board._derived.get(("rows", aiming), lambda: Rows(board, aiming))
