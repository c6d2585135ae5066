"""Goals: what a route may lead to."""

from __future__ import annotations

from typing import Any, Literal, NamedTuple, TypeAlias

import numpy as np

from understep.boards.board import Board
from understep.boards.refusal import Refusal, cell_on
from understep.boards.unit import Unit
from understep.checks import whole
from understep.errors import CellError, InputError
from understep.grids.cell import (
    Cell,
    CellLike,
    CellsLike,
    IntArray,
    cells_array,
    one_cell,
    plain_numbers,
)
from understep.grids.systems import choice
from understep.moves.answer import cannot_stop, sought

MOST_REASONS = 3  # reasons of goals in one sentence
Accept: TypeAlias = Literal["exact", "adjacent", "nearest"]


class Within(NamedTuple):
    """The cells at a distance from something; made by `within`."""

    what: str | Cell
    low: int
    high: int


Goals: TypeAlias = CellLike | CellsLike | Within | None


def within(what: str | CellLike, low: int, high: int) -> Within:
    """All cells at a distance of so many steps from a unit or a cell, for `route`.

    Of units that take up several cells, mover or target, the nearest cells count.

    Parameters
    ----------
    what
        The name of a unit, or a cell.
    low, high
        The least and the largest distance.

    Raises
    ------
    InputError
        Distances that are not whole numbers, or the larger one first.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.HexGrid(9, 7), {"turf": 1})
    >>> archer = board.add(us.Unit("archer", "wardens", us.Movement(points=4)), at=(0, 3))
    >>> raider = board.add(us.Unit("raider", "wreckers", us.Movement(points=4)), at=(8, 3))
    >>> tuple(us.route(board, "archer", goals=us.within("raider", 2, 3)).goal)
    (5, 3)
    """
    low, high = whole("low", low, 0), whole("high", high, 0)
    if low > high:
        raise InputError("high", f"must be {low} or more, as low is", high)
    if isinstance(what, str):
        return Within(what, low, high)
    return Within(one_cell(what, "what"), low, high)


def goals_of(board: Board, unit: Unit, goals: Any, accept: Accept) -> list[Cell]:
    """The cells that would do, in their order; none if none is on the board."""
    choice(accept, Accept, "accept")
    if isinstance(goals, Within):
        return _band(board, unit, goals)
    if isinstance(goals, str):
        rule = "must be cells; those next to a unit are us.within(name, 1, 1)"
        raise CellError("goals", rule, goals)
    single = plain_numbers(goals)  # the quick way in
    if single is not None and accept != "adjacent":
        return [Cell(*single)] if board.grid.numbering.has(*single) else []
    listed = () if goals is None else board.grid.numbering.listed(goals, "goals")
    array = cells_array(listed, "goals").reshape(-1, 2)
    if not len(array) and goals is not None:
        raise InputError("goals", "must hold at least one cell", goals)
    cells = list(board.grid.numbering.within(array))
    if accept == "adjacent":
        found = (_band(board, unit, Within(cell, 1, 1)) for cell in cells)
        # two goals can share a cell beside them
        return list(dict.fromkeys(cell for band in found for cell in band))
    return cells


def shut(board: Board, unit: Unit, home: Cell, cells: list[Cell]) -> dict[Cell, Refusal]:
    """The cells of some on which a unit could not end, from wherever, and why not."""
    found = {}
    for cell in cells:
        # where it stands it may stay, even in an obstacle
        refusal = None if cell == home else cannot_stop(board, unit, cell)
        if refusal is not None:
            found[cell] = refusal
    return found


def in_words(cells: list[Cell], refusals: dict[Cell, Refusal]) -> Refusal:
    """That none of some cells will do, all of them refused."""
    # each cell once, in the order they were given
    first = [refusals[cell].why for cell in dict.fromkeys(cells)]
    more = [f"and {len(first) - MOST_REASONS} more are as bad"] if len(first) > MOST_REASONS else []
    names = dict.fromkeys(name for each in refusals.values() for name in each.blockers)
    return Refusal("; ".join(first[:MOST_REASONS] + more), tuple(names))


def no_goal(board: Board, goals: Any) -> str:
    """Why there is no cell that would do."""
    if isinstance(goals, Within) and isinstance(goals.what, str):
        unknown = sought(board, goals.what, "goals")
        if isinstance(unknown, Refusal):
            return unknown.why
    if goals is None or (not isinstance(goals, Within) and np.ndim(goals) == 1):
        gone = cell_on(board.grid, goals)
        if isinstance(gone, Refusal):
            return gone.why
    return "there is no such cell on the board"


def _band(board: Board, unit: Unit, band: Within) -> list[Cell]:
    """The anchors from which a unit would be at a distance."""
    grid = board.grid
    if isinstance(band.what, str):
        found = sought(board, band.what, "goals")
        if isinstance(found, Refusal):
            return []
        target = np.array(board.covered(found))
    else:
        if band.what not in board.grid:
            return []
        target = np.array([band.what])
    # of a large unit the nearest cell counts, so that its anchor may lie farther
    offsets = np.array(unit.movement.footprint)
    # wide enough for both bodies; what is too far is left out below
    spread = int(abs(offsets).max()) * 2 + int(grid.distance(target, target[0]).max())
    cells = grid.disk(Cell(*target[0].tolist()), band.high + spread).array
    covered = grid.lattice.spread(cells, offsets)
    gaps: IntArray = grid.distance(covered[:, :, None], target).min(axis=(1, 2))
    return [Cell(*cell) for cell in cells[(band.low <= gaps) & (gaps <= band.high)].tolist()]
