"""Depth: in which order to draw things, so that nearer ones cover farther ones."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

import numpy as np

from understep.checks import expect
from understep.errors import InputError
from understep.grids.cell import CellsLike, IntArray, array_of, cells_array
from understep.grids.grid import Grid
from understep.grids.lattice import FloatArray
from understep.grids.layout import points_array


def depth_order(
    grid: Grid,
    things: Sequence[CellsLike] | IntArray,
    *,
    levels: Any = None,
    at: Mapping[int, tuple[float, float]] | None = None,
) -> IntArray:
    """The order in which to draw things that stand on cells, from the farthest to the nearest.

    Farther is higher up the screen on the ground, elevation left aside. A thing that covers several
    cells comes after all it stands in front of and before all that stands in front of it, which
    no number per thing could say. On one cell the lower comes first. What is still equal goes from
    left to right, then in the order given.

    Parameters
    ----------
    grid
        The grid, with its frame.
    things
        For each thing its cell, or the cells it covers; or an integer array ``(n, 2)``.
    levels
        A level of elevation for each thing; by default 0.
    at
        For things on their way between cells, by their places in ``things``: the world point on
        the ground where the middle of their first cell is now, such as ``pose.ground``.

    Returns
    -------
    ndarray of int64, shape ``(n,)``
        Places in ``things``: draw ``things[order[0]]`` first.

    Raises
    ------
    CellError
        A value that is not a cell.
    InputError
        A thing without cells, another number of levels than of things, or ``at`` that is no
        mapping, or has no two finite numbers for a thing that there is.

    Examples
    --------
    A barge on three cells, a post behind it and a post in front:

    >>> import understep as us
    >>> grid = us.SquareGrid(6, 6, frame=us.Frame(cell=(64, 32), projection="isometric"))
    >>> us.draw.depth_order(grid, [(1, 3), [(1, 2), (2, 2), (3, 2)], (3, 1)]).tolist()
    [2, 1, 0]

    A unit that is two thirds of the way from (1, 1) to (1, 2), and a post on (2, 1):

    >>> us.draw.depth_order(grid, [(1, 1), (2, 1)], at={0: (-21.3, 69.3)}).tolist()
    [1, 0]
    """
    expect("grid", grid, Grid, "must be a grid")
    expect("things", things, (np.ndarray, Iterable), "must be things")
    if isinstance(things, np.ndarray):
        parts = list(cells_array(things, "things").reshape(-1, 1, 2))
    else:
        parts = [
            cells_array(thing, f"things[{n}]").reshape(-1, 2) for n, thing in enumerate(things)
        ]
    for place, part in enumerate(parts):
        if not len(part):
            raise InputError("things", "covers at least one cell", [], f"things[{place}]")
    level = np.zeros(len(parts)) if levels is None else array_of("levels", levels, np.float64)
    if level.shape != (len(parts),):
        raise InputError("levels", f"must be a number for each of {len(parts)} things", levels)
    if not parts:
        return np.empty(0, dtype=np.int64)
    owner = np.repeat(np.arange(len(parts)), [len(part) for part in parts])
    every = np.concatenate(parts)
    across, near = grid.center(every)[:, 0], grid.layout.depths(every)
    moving = {} if at is None else at
    expect("at", moving, Mapping, "must map places to points")
    for place, point in moving.items():
        mine = owner == place if type(place) is int else owner < 0
        if not mine.any():
            raise InputError("at", f"must be for one of {len(parts)} things", place)
        moved = points_array(point).reshape(-1) - grid.center(every[mine][0])
        if moved.shape != (2,) or not np.isfinite(moved).all():
            raise InputError("at", "must be two finite numbers", point, f"at[{place}]")
        across[mine] += moved[0]
        near[mine] += grid.layout.nearer(moved)
    # rounded, so that what lies side by side is ordered the same on every machine
    x, y = np.round(across / grid.cell_size[0], 6), np.round(near, 6)
    count = np.bincount(owner)
    mean = np.bincount(owner, y) / count, np.bincount(owner, x) / count
    order = np.lexsort((np.arange(len(parts)), level, *np.round(mean[::-1], 6)))
    # things of one cell each never lie both before and behind another
    if count.max() == 1:
        return order
    return _Painter(grid, order, owner, level, x, y, count).order()


class _Painter:
    """Things in the order of their middles, made right where some cover several cells."""

    def __init__(
        self, grid: Grid, order: IntArray, owner: IntArray, level: FloatArray, x: FloatArray,
        y: FloatArray, count: IntArray,
    ) -> None:  # fmt: skip
        self.rank = np.empty(len(order), dtype=np.int64)
        self.rank[order] = np.arange(len(order))
        self.by_rank, self.owner, self.level, self.x, self.y = order, owner, level, x, y
        self.large = count > 1
        beside = np.sort(x[self.large[owner]])  # single things nowhere below or above a large one
        at = np.clip(np.searchsorted(beside, x), 1, len(beside) - 1)
        apart = np.minimum(abs(beside[at] - x), abs(beside[at - 1] - x))
        spread = grid.corners((0, 0))[:, 0] / grid.cell_size[0]
        self.width = float(np.ptp(spread)) - 1e-6
        self.free = np.bincount(owner, apart < self.width) == 0
        self.done = np.zeros(len(order), dtype=bool)
        self.active = np.zeros(len(order), dtype=bool)
        self.drawn: list[int] = []

    def order(self) -> IntArray:
        for thing in self.by_rank.tolist():
            self.draw(thing, ahead=False)
        return np.array(self.drawn)

    def draw(self, thing: int, ahead: bool) -> None:
        """Draw a thing, and first what must come before it and has not been drawn yet.

        Unless one large thing went ahead of its turn, all single ones behind were drawn before.
        """
        if self.done[thing] or self.active[thing]:
            return
        self.active[thing] = True
        if ahead or not self.free[thing]:
            behind = self.behind(thing, None if ahead or self.large[thing] else self.large)
            for other in sorted(behind, key=self.rank.__getitem__):
                self.draw(other, ahead=True)
        self.done[thing] = True
        self.drawn.append(thing)

    def behind(self, thing: int, among: Any) -> list[int]:
        """What a thing covers, or could: of the undrawn, and of some only."""
        open_ = ~self.done if among is None else ~self.done & among
        open_[thing] = False
        others = np.flatnonzero(open_[self.owner])
        mine = np.flatnonzero(self.owner == thing)
        if not len(others):
            return []
        near = abs(self.x[others, None] - self.x[mine]) < self.width
        gap = self.y[mine] - self.y[others, None]
        same = (gap == 0) & (self.x[others, None] == self.x[mine])
        owners = self.owner[others]
        lower = (self.level[owners] < self.level[thing]) | (
            (self.level[owners] == self.level[thing]) & (owners < thing)
        )
        back = (near & ((gap > 0) | (same & lower[:, None]))).any(axis=1)
        front = (near & ((gap < 0) | (same & ~lower[:, None]))).any(axis=1)
        clear = set(owners[back].tolist()) - set(owners[front].tolist())
        return list(clear)
