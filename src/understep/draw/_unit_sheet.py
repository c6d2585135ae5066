"""The sheet of a unit: where it can get and why not, its routes, attacks and view, for a page."""

from __future__ import annotations

from typing import Any

import numpy as np

from understep.actions.attacks import attacks
from understep.actions.threats import threats
from understep.boards.board import Board
from understep.boards.unit import Unit
from understep.draw._scene import Places
from understep.grids.cell import Cell
from understep.moves.reach import reach
from understep.rules.movement import Movement
from understep.sight.view import view

TURNS = 3
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
    index = board.grid.index(board.grid.cells)
    columns = {name: found.table(name)[index] for name in ("cost", "turn", "left")}
    numbers = found._numbers
    routes: list[Any] = [None] * len(board.grid.cells)
    for place, cells in zip(places.numbered(numbers), found._routes(), strict=True):
        routes[place] = places.numbered(cells)
    listed = [_steps_of(route, routes) for route in routes]
    reasons: dict[str, int] = {}
    why = np.full(len(routes), -1, dtype=np.int64)
    for place, cell in enumerate(board.grid.cells):
        if routes[place] is None:
            text = found._refusal(cell).why.replace(_in_reason(cell), HERE)
            why[place] = reasons.setdefault(text, len(reasons))
    return {
        "cost": _short(columns["cost"], routes), "left": _short(columns["left"], routes),
        "turn": _short(columns["turn"], routes), "routes": listed, "why": why.tolist(),
        "reasons": list(reasons),
    }  # fmt: skip


def _steps_of(route: Any, routes: list[Any]) -> Any:
    """A route as the cell before its last, if it goes on from the route there; else its cells."""
    if route is None or len(route) < 2 or routes[route[-2]] != route[:-1]:
        return route
    return route[-2]


def _in_reason(cell: Cell) -> str:
    """A cell as reasons name it."""
    return str(tuple(cell))


def _short(column: Any, routes: list[Any]) -> list[Any]:
    """A column as whole numbers where it can be; None where there is no route."""
    return [
        None if route is None else int(value) if value == int(value) else value
        for value, route in zip(column.tolist(), routes, strict=True)
    ]
