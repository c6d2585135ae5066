"""The sheet of a unit: where it can get and why not, its routes, attacks and view, for a page."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from understep.actions.attacks import attacks
from understep.actions.threats import threats
from understep.boards.board import Board
from understep.boards.footprint import feet
from understep.boards.unit import Unit
from understep.draw._scene import Places
from understep.grids.cell import Cell, IntArray
from understep.moves.mover import table_of
from understep.moves.reach import Column, Reach, reach
from understep.rules.movement import Movement
from understep.sight.view import view

TURNS = 3
COLUMNS: tuple[Column, ...] = "cost", "turn", "left"
HERE = "@"  # stands for the cell in a reason that is written once for many cells


def unit_sheet(board: Board, unit: Unit, places: Places, turns: int = TURNS) -> dict[str, Any]:
    """What a page says of a unit, for every cell."""
    sheet: dict[str, Any] = {}
    if isinstance(unit.movement, Movement):
        sheet |= _reach(board, unit, places, turns)
    sheet["view"] = places.of(view(board, unit.name, known_to=False).cells)
    if unit.attack is not None:
        found = attacks(board, unit.name, known_to=False)
        sheet["attack"] = places.of(found.cells)
        sheet["targets"] = list(found.targets)
    return sheet


def side_threats(board: Board, side: str) -> list[int]:
    """How many foes of a side can attack each cell."""
    table = threats(board, side, known_to=False).table()
    found: list[int] = table[board.grid.index(board.grid.cells)].tolist()
    return found


def _reach(board: Board, unit: Unit, places: Places, turns: int) -> dict[str, Any]:
    """Where it can get in some turns: cost, turn, points left, the route; or why it cannot."""
    found = reach(board, unit.name, turns=turns, known_to=False)
    order = places.numbered(found._numbers)
    routes = dict(zip(order, map(places.numbered, found._routes()), strict=True))
    figures = [_short(found._figures(name)) for name in COLUMNS]
    rows = zip(order, *figures, strict=True)
    reasons: dict[str, int] = {}
    why = np.full(len(board.grid.cells), -1, dtype=np.int64)
    cells, far = board.grid.cells.array, _free(board, unit)
    far[order] = False
    for place in np.flatnonzero(far)[:1].tolist():  # one reason does for all of them
        cell = Cell(*cells[place].tolist())
        why[far] = reasons.setdefault(_reason(found, cell), len(reasons))
    others = ~far
    others[order] = False
    for place in np.flatnonzero(others).tolist():
        text = _reason(found, Cell(*cells[place].tolist()))
        why[place] = reasons.setdefault(text, len(reasons))
    return {
        "reach": {place: [*row, _steps_of(routes[place], routes)] for place, *row in rows},
        "reasons": list(reasons), "why": _runs(why),
    }  # fmt: skip


def _free(board: Board, unit: Unit) -> NDArray[np.bool_]:
    """Of each cell of the grid whether nothing would keep a unit from standing there."""
    numbering, offsets = board.grid.numbering, unit.movement.footprint
    numbers = numbering.numbers(board.grid.cells.array)
    stands = table_of(board, unit).standing()[numbers] > 0
    # of a large unit some cells may lie off the grid; there it cannot stand
    taken = board._roster.codes(unit.layer)[feet(board.grid, numbers, offsets)]
    free: NDArray[np.bool_] = stands & (taken == 0).all(axis=1)
    return free


def _steps_of(route: list[int], routes: dict[int, list[int]]) -> Any:
    """A route as the cell before its last, if it goes on from the route there; else its cells."""
    if len(route) < 2 or routes.get(route[-2]) != route[:-1]:
        return route
    return route[-2]


def _reason(found: Reach, cell: Cell) -> str:
    """Why it cannot get to a cell, the same text for all cells where it can be."""
    return found._refusal(cell).why.replace(str(tuple(cell)), HERE)


def _short(column: NDArray[Any]) -> list[Any]:
    """A column as whole numbers where it can be."""
    return [int(value) if value == int(value) else value for value in column.tolist()]


def _runs(values: IntArray) -> list[int]:
    """How often each value comes, and which, one after the other."""
    starts = np.flatnonzero(np.append(True, values[1:] != values[:-1]))
    counts = np.diff(np.append(starts, len(values)))
    found: list[int] = np.stack([counts, values[starts]], axis=1).ravel().tolist()
    return found
