"""Scatter: distinct random cells for trees, rocks or reeds, exactly as many as asked for."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from understep.checks import expect, real, whole
from understep.errors import InputError, NoRoomError
from understep.grids.cell import Cell, Cells, CellsLike, as_cells
from understep.grids.grid import Grid
from understep.grids.rng import Random, generator

TRIES = 20


def scatter(
    grid: Grid,
    count: int,
    *,
    rng: Random,
    keep_out: CellsLike = (),
    spacing: int = 1,
    keep_connected: CellsLike = (),
    closed: CellsLike = (),
) -> Cells:
    """Pick distinct random cells.

    Parameters
    ----------
    grid
        The grid.
    count
        How many.
    rng
        A seed, or a generator of NumPy or Python. A seed gives the same cells on every machine.
    keep_out
        Cells that are not picked.
    spacing
        The least distance in steps from any picked cell to the next.
    keep_connected
        Cells that are not picked, and whose areas stay whole: all open cells of an area that holds
        one of them stay connected with each other when nobody can enter the picked cells any more.
        Connected means by steps over cell borders, not corners, so that it holds under every
        movement rule.
    closed
        Cells that nobody can enter already; they are not picked.

    Returns
    -------
    Cells
        Exactly ``count`` of them, in random order.

    Raises
    ------
    NoRoomError
        There is no room for so many; the message says how many there is room for. With spacing or
        connection to keep, that is the most found in 20 tries.
    CellError
        A value that is not a cell, or a cell off the grid.
    InputError
        No grid, a count or spacing that is no such whole number, or no seed.

    Examples
    --------
    >>> import understep as us
    >>> grid = us.HexGrid(12, 8)
    >>> stones = us.maps.scatter(grid, 20, rng=7, spacing=2, keep_connected=[(0, 0), (11, 7)])
    >>> len(set(stones)), us.maps.scatter(grid, 20, rng=7) == us.maps.scatter(grid, 20, rng=7)
    (20, True)
    """
    expect("grid", grid, Grid, "must be a SquareGrid or HexGrid")
    count, spacing = whole("count", count, 0), whole("spacing", spacing, 1)
    draw = generator(rng)
    taken = [
        set(grid.numbering.numbers(grid.numbering.require_all(cells, name).reshape(-1, 2)).tolist())
        for name, cells in (
            ("keep_out", keep_out), ("keep_connected", keep_connected), ("closed", closed),
        )
    ]  # fmt: skip
    free = np.setdiff1d(
        grid.numbering.existing, np.array(sorted(set().union(*taken)), dtype=np.int64)
    )
    best: list[int] = []
    # what is picked first decides how much room is left, so several orders are tried
    for _ in range(TRIES if spacing > 1 or taken[1] else 1):
        order = draw.permutation(free).tolist()
        if spacing > 1 or taken[1]:
            picked = _pick(grid, order, count, spacing, _Paths(grid, taken[1], taken[2]))
        else:
            picked = order[:count]
        best = max(best, picked, key=len)
        if len(best) >= count:
            return grid.numbering.cells(np.array(best, dtype=np.int64))
    raise NoRoomError("count", f"there is room for {len(best)}", count)


def variants(cells: CellsLike, weights: Mapping[str, float], *, rng: Random) -> dict[Cell, str]:
    """Give each of some cells one of several variants at random.

    Parameters
    ----------
    cells
        The cells.
    weights
        Variant to weight; twice the weight is twice as likely.
    rng
        A seed, or a generator of NumPy or Python.

    Raises
    ------
    InputError
        No variants, a weight that is not a number of 0 or more, all of them 0, or no seed.
    CellError
        A value that is not a cell.

    Examples
    --------
    >>> import understep as us
    >>> cells = us.maps.scatter(us.HexGrid(12, 8), 3, rng=7)
    >>> sorted(set(us.maps.variants(cells, {"stone": 3, "stump": 1}, rng=1).values()))
    ['stone', 'stump']
    """
    rule = "must map variants to numbers of 0 or more, one of them above 0"
    expect("weights", weights, Mapping, rule)
    every = as_cells(cells)
    shares = np.array([real("weights", each, rule, 0) for each in weights.values()])
    if not shares.any():
        raise InputError("weights", rule, weights)
    shares = shares / shares.max()  # the sum of large weights could overflow
    picks = generator(rng).choice(len(shares), size=len(every), p=shares / shares.sum())
    names = list(weights)
    return {cell: names[pick] for cell, pick in zip(every, picks.tolist(), strict=True)}


def _pick(grid: Grid, order: list[int], count: int, spacing: int, paths: _Paths) -> list[int]:
    """As many cells as can be, up to a count, taking each in order if it may be."""
    picked: list[int] = []
    near: set[int] = set()
    for number in order:
        if len(picked) == count:
            break
        if number in near or not paths.close(number):
            continue
        picked.append(number)
        if spacing > 1:
            around = grid.disk(grid.numbering.cell_of(number), spacing - 1)
            near.update(grid.numbering.numbers(around.array).tolist())
    return picked


class _Paths:
    """Which cells can be entered, and whether the areas of the places to keep stay whole."""

    def __init__(self, grid: Grid, places: set[int], closed: set[int]) -> None:
        self._grid = grid
        self._open = set(grid.numbering.existing.tolist()) - closed
        self._areas: set[int] = set()
        for place in places - closed:
            if place not in self._areas:
                self._areas |= self._reached(place, self._open)

    def close(self, number: int) -> bool:
        """Close a cell, if nothing that is to be kept is cut off by that."""
        if number not in self._areas:
            return True
        # from the cheapest test to the dearest: most cells are decided by the first two
        self._open.discard(number)
        beside = [other for other in self._grid.numbering.beside(number) if other in self._open]
        if len(beside) < 2 or self._joined(number, beside):
            return True
        if self._reached(beside[0], self._open).issuperset(beside):
            return True
        self._open.add(number)
        return False

    def _joined(self, number: int, beside: list[int]) -> bool:
        """Whether the cells beside one still reach each other nearby."""
        cell = self._grid.numbering.cell_of(number)
        near = (
            set(self._grid.numbering.numbers(self._grid.disk(cell, 2).array).tolist()) & self._open
        )
        return self._reached(beside[0], near).issuperset(beside)

    def _reached(self, start: int, among: set[int]) -> set[int]:
        reached, todo = {start}, [start]
        for here in todo:
            for other in self._grid.numbering.beside(here):
                if other in among and other not in reached:
                    reached.add(other)
                    todo.append(other)
        return reached
