"""Fog: from here on a side knows only what its units have seen."""

from __future__ import annotations

from understep.boards.board import Board
from understep.boards.knowledge import Knowledge
from understep.boards.memory import Memory
from understep.boards.unit import Unit
from understep.checks import named, truth
from understep.errors import InputError
from understep.grids.cell import IntArray
from understep.moves.answer import mine
from understep.sight.look import HALF, look_of
from understep.sight.view import seen


def fog(board: Board, side: str, *, land_known: bool = False) -> Knowledge[Board]:
    """Let a side know only what its units see, and remember what they saw, from here on.

    Its knowledge follows every change of the board by itself, and is part of the board's state: it
    is copied, undone and rolled back with it. Answers for its units are then given by what it
    knows: land never seen is closed, units that are not seen are not there. Inside a `Board.batch`
    knowledge stays as it was until the end.

    Parameters
    ----------
    board
        The board.
    side
        The side; it has or had a unit there.
    land_known
        Whether it knows all the land as it is now, and only has to find the units on it.

    Returns
    -------
    Knowledge
        As `Board.knowledge` gives it.

    Raises
    ------
    NameUnknownError
        No unit of that side was ever added.
    InputError
        The side keeps knowledge already.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.HexGrid(12, 5), {"turf": 1})
    >>> scout = us.Unit("scout", "wardens", us.Movement(points=4), sight=3)
    >>> scout = board.add(scout, at=(1, 2))
    >>> raider = board.add(us.Unit("raider", "wreckers", us.Movement(points=4)), at=(7, 2))
    >>> knowledge = us.fog(board, "wardens")
    >>> [unit.name for unit in knowledge.board.units()], knowledge.status((8, 2))
    (['scout'], 'never')
    >>> us.route(board, "scout", goals=(8, 2)).why
    '(8, 2) is unknown to the wardens'
    >>> before = board.state
    >>> scout = board.put("scout", at=(4, 2))
    >>> knowledge.changes(before).met
    ('raider',)
    """
    named("side", "side", side, mine(board).sides)
    if side in board.fogged:
        raise InputError("side", "keeps knowledge already; lift_fog ends it", side)
    land_known = truth("land_known", land_known)
    begin(board, side, land_known)
    return board.knowledge(side)


def begin(board: Board, side: str, land_known: bool) -> None:
    """Let a side keep knowledge, with or without units."""
    board._keep(memory_of(board, side, land_known))


def memory_of(board: Board, side: str, land_known: bool) -> Memory:
    """What a side knows that has seen nothing yet, or only the land; not kept yet."""
    return Memory(board, side, look, land_known)


def look(board: Board, unit: Unit) -> IntArray:
    """The numbers of the cells that a unit sees, in order."""
    look = look_of(unit, None, None, None, None)
    return seen(board, [(cell, look) for cell in board.covered(unit)], HALF)
