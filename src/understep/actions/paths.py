"""Paths: how many steps lead from stands to cells, over what attacks along paths can cross."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from understep.boards.board import Board
from understep.boards.footprint import ONE
from understep.boards.unit import Unit
from understep.grids.cell import IntArray
from understep.grids.grid import Grid
from understep.moves.answer import movement_of
from understep.rules.movement import Movement
from understep.rules.steps import step_table
from understep.sight.lines import ANY, Aiming
from understep.sight.rows import Rows


def path_gaps(
    board: Board, rules: Movement, side: str, starts: IntArray, near: IntArray, far: int
) -> IntArray:
    """How many steps lead from each stand to each of some cells, ``(stands, cells)``.

    `ANY` where no path of ``far`` steps does. ``starts``: the cells taken up at each stand;
    ``near``: as of `cells_near`.
    """
    # an attack crosses cells one by one, independent of its unit's size
    table = step_table(board, replace(rules, footprint=ONE, leap=None), side)
    grid = board.grid
    around = grid.lattice.around(grid.numbering.cells_of(near))
    leads = (table.rows(near) > 1) & grid.numbering.holds(around)
    places, known = places_of(near, grid.numbering.numbers(around[leads]))
    from_cell, way = (each[known] for each in np.nonzero(leads))
    # by direction and cell: where a step in that direction leads there from; else a cell more
    sources = np.full((len(grid.directions), len(near)), len(near))
    sources[way, places[known]] = from_cell
    gaps = np.full((len(starts), len(near)), ANY)
    rim = np.zeros((len(starts), len(near) + 1), dtype=bool)
    rim[np.arange(len(starts))[:, None], np.searchsorted(near, starts)] = True
    gaps[rim[:, :-1]] = 0
    for steps in range(1, far + 1):
        rim[:, :-1] = np.any([rim[:, source] for source in sources], axis=0) & (gaps == ANY)
        # nothing leads on from what was reached
        if not rim.any():
            break
        gaps[rim[:, :-1]] = steps
    return gaps


def places_of(near: IntArray, numbers: IntArray) -> tuple[IntArray, NDArray[np.bool_]]:
    """The places of cells among some that are in order, and whether they are among them."""
    places = np.minimum(np.searchsorted(near, numbers), len(near) - 1)
    return places, near[places] == numbers


def cells_near(grid: Grid, starts: IntArray, far: int) -> IntArray:
    """The numbers of all cells that so many steps of the grid could lead to, in order."""
    # high levels can let an attack lead farther than the board does
    steps = grid.lattice.nearby(min(far, sum(grid.size)))[0]
    around = grid.lattice.spread(grid.numbering.cells_of(np.unique(starts)), steps)
    return np.unique(grid.numbering.inside(around))


class PathRows(Rows):
    """The rows of an attack along paths: what can be walked over counts for it as well."""

    sight = False

    def __init__(self, board: Board, aiming: Aiming, rules: Movement, side: str) -> None:
        super().__init__(board, aiming)
        self._rules, self._side = rules, side

    def _gaps(
        self, starts: IntArray, owners: NDArray[Any], numbers: NDArray[Any], far: int
    ) -> IntArray:
        near = cells_near(self._board.grid, starts, far)
        gaps = path_gaps(self._board, self._rules, self._side, starts, near, far)
        places, there = places_of(near, numbers)
        return np.where(there, gaps[owners, places], ANY)


def path_rows(board: Board, unit: Unit, aiming: Aiming) -> PathRows:
    """The rows of an attack of a unit along paths, kept with a board."""
    rules, side = movement_of(unit), board._contents.apart(unit.side)
    key = "rows", aiming, rules.rules, side
    return board._derived.get(key, lambda: PathRows(board, aiming, rules, side))
