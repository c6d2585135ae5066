"""Ahead: what a unit meets first on the straight line to a cell it cannot get to."""

from __future__ import annotations

from collections.abc import Callable
from itertools import pairwise

from understep.boards.board import Board
from understep.boards.refusal import Refusal
from understep.boards.unit import Unit
from understep.grids.cell import Cell
from understep.moves.answer import cannot_stop
from understep.moves.obstacle import steep, wall
from understep.rules.movement import Movement


def ahead(
    board: Board, unit: Unit, home: Cell, goal: Cell, entered: Callable[[Cell], bool]
) -> Refusal | None:
    """Why a unit cannot enter the first cell of the line that it did not enter; None: it may.

    A hint that costs no search; what is truly in the way, `explain` finds out.
    """
    movement = unit.movement
    if not isinstance(movement, Movement):
        return None
    for a, b in pairwise(board.grid.line(home, goal)):
        if entered(b):
            continue
        if board.grid.direction(a, b) is None:
            return Refusal(f"no cells lie between {tuple(a)} and {tuple(b)}")
        refusal = cannot_stop(board, unit, b)
        if refusal is not None:
            other = board.unit_at(b, layer=unit.layer)
            passes = other is not None and movement._may_pass(other.side == unit.side)
            return None if passes else refusal
        met = wall(board, movement, a, b)
        text = met.text if met else steep(board, movement, a, b)
        return Refusal(text) if text else None
    return None


def with_hint(why: str, hint: Refusal | None, blockers: tuple[str, ...] = ()) -> Refusal:
    """A refusal with what lies straight ahead."""
    if hint is None:
        return Refusal(why, blockers)
    names = dict.fromkeys((*blockers, *hint.blockers))
    return Refusal(f"{why}; straight ahead {hint.why}", tuple(names))
