"""The whole: a long route found on one board of all of a world, where there is memory for one."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from fractions import Fraction
from itertools import pairwise

from understep.boards.board import Board
from understep.boards.cost import exact, fraction
from understep.boards.unit import Unit
from understep.errors import InputError
from understep.grids.cell import Cell
from understep.moves.answer import movement_of
from understep.moves.ask import route
from understep.rules.steps import step_table
from understep.worlds._border import Crossing
from understep.worlds._crossing_search import CrossingRoute
from understep.worlds._sectors import SectorKey

A_CELL = 40  # bytes, about, that a cell takes on such a board, searched
MOST_POINTS = 10**8


def fits(size: tuple[int, int], memory: int) -> bool:
    """Whether there is memory for one board of a size."""
    return size[0] * size[1] * A_CELL <= memory


def whole_route(
    board: Board, unit: Unit, goal: Cell, key: Callable[[tuple[int, int]], SectorKey]
) -> tuple[CrossingRoute, int] | None:
    """The best route by terrain alone, as crossings; how many parts of a cost make a point.

    ``board`` is all of the world, without units. None where that is more than a search without
    turns: steps that are too dear for a turn, links, leaps, alternating diagonals.
    """
    moving = movement_of(unit)
    table = step_table(board, moving, unit.side)
    dearest = Fraction(table.dearest, table.scale)
    points = len(board.grid.cells) * dearest  # enough for every route
    other = moving.one_step or table.far_steps or table.layers > 1
    if other or dearest > fraction(moving.points) or points > MOST_POINTS:
        return None
    rules = replace(moving, points=int(points) + 1, carry=0, zones="ignore")
    try:
        board.add(unit.changed(movement=rules, left=rules.points), at=unit.at)
    except InputError:  # it stands where it could not
        return None
    found = route(board, unit.name, goal, known_to=False)
    if not found:
        return CrossingRoute((), -1, 0, frozenset()), 1
    spent = [exact(step.cost, "cost") for step in found.steps]
    scale = table.scale
    steps = zip(pairwise(found.cells), spent, strict=True)
    crossings = tuple(
        Crossing(a, b, int(cost * scale)) for (a, b), cost in steps if key(a) != key(b)
    )
    sectors = {key(cell) for cell in found.cells}
    return CrossingRoute(crossings, int(sum(spent) * scale), len(sectors), frozenset()), scale
