"""Wander and hold: to go somewhere or other, and to stay."""

from __future__ import annotations

import numpy as np

from understep.actions.attacks import attacks
from understep.actions.stands import stands
from understep.behaviors._plan import Plan, reserve, stay
from understep.behaviors._reservations import Reservations
from understep.boards.board import Board
from understep.grids.rng import Random, generator
from understep.moves.answer import KnownTo, gap, known
from understep.moves.reach import reach


def wander(
    board: Board,
    unit: str,
    rng: Random,
    *,
    reserved: Reservations | None = None,
    known_to: KnownTo = None,
) -> Plan:
    """Go to some free cell that the unit can reach this turn, every one as likely.

    Parameters
    ----------
    board
        The board; it is not changed.
    unit
        The name of a unit on it.
    rng
        A seed, or a generator of NumPy or Python.
    reserved
        What other plans take; this one is added to it.
    known_to
        As for `reach`.

    Returns
    -------
    Plan

    Raises
    ------
    NameUnknownError
        No such unit; a side that keeps no knowledge.
    InputError
        ``rng`` is neither a seed of 0 or more nor a generator.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.HexGrid(9, 7), {"turf": 1})
    >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=3)), at=(4, 3))
    >>> plan = us.behaviors.wander(board, "scout", rng=7)
    >>> plan.end in us.reach(board, "scout"), plan.why
    (True, 'one of 36 cells it can reach')
    """
    draw = generator(rng)
    board = known(board, unit, known_to)
    found = reach(board, unit, known_to=False)
    who, cells = found.unit, found.cells
    # the first cell is where it stands
    for place in draw.permutation(np.arange(1, len(cells))).tolist():
        way = found.route_to(cells[place])
        wanted = Plan(who, "wander", way, cells[place], None, None, (_one_of(len(cells) - 1),))
        plan = reserve(board, wanted, reserved)
        if plan is not None:
            return plan
    why = "it can reach no other cell" if len(cells) == 1 else "all that it can reach is reserved"
    return stay(board, who, "wander", reserved, None, why)


def _one_of(many: int) -> str:
    return f"one of {many} cells it can reach" if many > 1 else "the one cell it can reach"


def hold(
    board: Board,
    unit: str,
    *,
    reserved: Reservations | None = None,
    known_to: KnownTo = None,
) -> Plan:
    """Stay, and attack from there the nearest target, if there is one.

    Parameters
    ----------
    board
        The board; it is not changed.
    unit
        The name of a unit on it.
    reserved
        What other plans take; this one is added to it.
    known_to
        As for `reach`.

    Returns
    -------
    Plan

    Raises
    ------
    NameUnknownError
        No such unit; a side that keeps no knowledge.
    InputError
        ``reserved`` is of another kind.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.HexGrid(9, 7), {"turf": 1})
    >>> rules = us.Movement(points=3)
    >>> pikes = board.add(us.Unit("pikes", "wardens", rules, attack=us.Attack()), at=(4, 3))
    >>> raider = board.add(us.Unit("raider", "wreckers", rules), at=(5, 3))
    >>> us.behaviors.hold(board, "pikes").target
    'raider'
    """
    board = known(board, unit, known_to)
    who = board.unit(unit)
    if who.attack is None:
        return stay(board, who, "hold", reserved, None, "it has no attack")
    found = attacks(board, unit, moving=False, known_to=False)
    gaps = {name: gap(board, who, board.unit(name)) for name in found.targets if name != unit}
    if not gaps:
        return stay(board, who, "hold", reserved, None, "nobody to attack from where it is")
    target = min(gaps, key=lambda name: gaps[name])
    stand = next(each for each in stands(board, unit, target, order=(), known_to=False)
                 if each.cell == who.at)  # fmt: skip
    return stay(board, who, "hold", reserved, target, f"{target!r} is in range", stand=stand)
