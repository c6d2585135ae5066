"""Approach: to attack the best target, or get nearer to it; and withdraw, from those who attack."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from itertools import chain

import numpy as np

from understep.actions.attacks import Attacks, attacks
from understep.actions.stands import ORDER, Merit, Stand, dangers_for, order_of, ranked
from understep.actions.threats import Threats, check_against
from understep.actions.threats import threats as find_threats
from understep.behaviors._plan import Plan, along, reserve, stay
from understep.behaviors._reservations import Reservations
from understep.boards.board import Board
from understep.boards.refusal import Refusal
from understep.boards.unit import Unit
from understep.checks import items, real
from understep.errors import InputError
from understep.moves.answer import KnownTo, amount, known, sought
from understep.moves.ask import route
from understep.moves.reach import reach
from understep.sight.lines import lines

Score = Callable[[Unit], float]


def approach(
    board: Board,
    unit: str,
    *,
    targets: Iterable[str] | None = None,
    weakness: Score | None = None,
    score: Score | None = None,
    order: Merit | Sequence[Merit] = ORDER[:1],
    threats: Threats | None = None,
    reserved: Reservations | None = None,
    known_to: KnownTo = None,
) -> Plan:
    """Attack the best target this turn; where none can be, get nearer to one that can be got at.

    The best is the one whose best stand is nearest, then the weakest, unless ``score`` says
    otherwise. A target that no route leads to is never gone for.

    Parameters
    ----------
    board
        The board; it is not changed.
    unit
        The name of a unit on it, which has an attack.
    targets
        The names of those to consider; by default all that the attack affects, but itself.
    weakness
        How weak a unit is, for targets that are as near: a function of the unit.
    score
        What attacking a unit is worth, more being better: a function of the unit, in place of
        nearness.
    order
        How stands are ranked, as for `stands`.
    threats
        What threatens its side, if that is known already and ``order`` asks for it.
    reserved
        What other plans take; this one is added to it.
    known_to
        As for `attacks`.

    Returns
    -------
    Plan
        With ``stand`` and ``target`` where it attacks this turn.

    Raises
    ------
    NameUnknownError
        No such units, or not to the unit's side; a side that keeps no knowledge.
    InputError
        The unit has no attack.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.HexGrid(15, 5), {"turf": 1})
    >>> rules = us.Movement(points=4)
    >>> archer = us.Unit("archer", "wardens", rules, attack=us.Attack(2, 3))
    >>> archer = board.add(archer, at=(1, 2))
    >>> for name, col in (("raider", 7), ("sapper", 13)):
    ...     foe = board.add(us.Unit(name, "wreckers", rules), at=(col, 2))
    >>> plan = us.behaviors.approach(board, "archer")
    >>> plan.target, tuple(plan.end), tuple(plan.stand.aim)
    ('raider', (4, 2), (7, 2))
    >>> plan = us.behaviors.approach(board, "archer", score=lambda unit: unit.name == "sapper")
    >>> plan.target, tuple(plan.end), plan.why
    ('sapper', (4, 3), "'sapper' can be attacked in 3 turns")
    """
    board = known(board, unit, known_to)
    who = board.unit(unit)
    order = order_of(order)
    check_against(threats, who.side)
    rule = "must be names of units, or None"
    for name, call in (("score", score), ("weakness", weakness)):
        if call is not None and not callable(call):
            raise InputError(name, "must be a function of a unit, or None", call)
    names = None if targets is None else items("targets", targets, rule, str)
    if who.attack is None:
        return stay(board, who, "approach", reserved, None, "it has no attack")
    found = attacks(board, unit, known_to=False)
    sights: Iterable[Unit | Refusal] = board.units()
    if names is not None:
        sights = [sought(board, name, "targets") for name in names]
    wanted = [
        each
        for each in sights
        if isinstance(each, Unit)
        and each.name != unit
        and found.attack._meets(own=each.side == who.side)
    ]
    if not wanted:
        unknown = (each.why for each in sights if isinstance(each, Refusal))
        why = next(unknown, "there is nobody to attack")
        return stay(board, who, "approach", reserved, None, why)
    threats = dangers_for(board, who.side, threats, order)
    worth, weak = _numbers("score", score), _numbers("weakness", weakness)
    within = frozenset(found.targets)
    # a target that is worth more is preferred, even if it is out of reach this turn
    for value in sorted({worth(each) for each in wanted}, reverse=True):
        group = sorted(
            (each for each in wanted if worth(each) == value), key=lambda each: -weak(each)
        )
        now = [each for each in group if each.name in within]
        # the sort is stable: of equally near ones the weakest comes first
        for target in sorted(now, key=found._soon):
            for stand in ranked(board, found, target.name, order, threats):
                plan = reserve(board, _strike(found, target, stand), reserved)
                if plan is not None:
                    return plan
        way = _nearer(board, found, group, reserved)
        if way is not None:
            return way
    reason = (
        "all stands are reserved" if found.targets else "no route leads to where it could attack"
    )
    return stay(board, who, "approach", reserved, None, reason)


def _numbers(argument: str, call: Score | None) -> Score:
    """A function that returns numbers, or raises if another function does not; None: all alike."""
    if call is None:
        return lambda _: 0

    def ask(unit: Unit) -> float:
        value = call(unit)
        known = int(value) if isinstance(value, bool | np.bool_) else value
        return real(argument, known, "must return numbers")

    return ask


def _strike(found: Attacks, target: Unit, stand: Stand) -> Plan:
    """The plan to attack from a stand this turn."""
    unit = found.unit
    way = None
    if stand.cell != unit.at and found.reach is not None:
        way = found.reach.route_to(stand.cell)
    reason = f"{target.name!r} can be attacked this turn"
    return Plan(unit, "approach", way, stand.cell, stand, target.name, (reason,))


def _nearer(
    board: Board, found: Attacks, group: list[Unit], reserved: Reservations | None
) -> Plan | None:
    """The plan to get nearer to the nearest place from which any of some units can be attacked.

    None where no route leads to any.
    """
    unit, attack = found.unit, found.attack
    far = attack._far(lines(board).span)
    far += attack.pattern.size if attack.pattern.shape != "cell" else 0
    grid, lattice = board.grid, board.grid.lattice
    # a stand is near enough if any cell that the unit covers is
    far += len(unit.movement.footprint) - 1
    # high levels can let it lead farther than the board does
    steps = lattice.nearby(min(far, sum(grid.size)))[0]
    around: dict[str, list[int]] = {}
    for target in group:
        cells = [cell for cell in board.covered(target) if cell in grid]
        around[target.name] = grid.numbering.inside(lattice.spread(np.array(cells), steps)).tolist()
    near = np.array(list(dict.fromkeys(chain(*around.values()))), dtype=np.int64)
    areas = lattice.spread(grid.numbering.cells_of(near), unit.movement.footprint)
    whole = near[grid.numbering.holds(areas).all(axis=1)]
    # one for all targets: what can be seen from a cell is found once
    elsewhere = Attacks(board, unit, attack, None, whole)
    found_at: dict[int, Unit] = {}
    # one search for all targets: the route ends at the nearest place of any
    for target in group:
        able = set(whole[elsewhere._places(target.name)].tolist())
        # in the order of rings around it, so that of equal places the nearest is gone to
        for number in around[target.name]:
            if number in able:
                found_at.setdefault(number, target)  # the first in the order of the group
    goals = {grid.numbering.cell_of(number): target for number, target in found_at.items()}
    if not goals:
        return None
    way = route(board, unit.name, list(goals), known_to=False)
    if not way or way.goal == unit.at:
        return None
    name = goals[way.goal].name
    reason = f"{name!r} can be attacked in {amount(way.turns or 1, 'turn')}"
    return along(board, unit, "approach", way, reserved, name, reason)


def withdraw(
    board: Board,
    unit: str,
    *,
    threats: Threats | None = None,
    reserved: Reservations | None = None,
    known_to: KnownTo = None,
) -> Plan:
    """Go this turn where the fewest foes can attack, and as far from them as can be.

    What is still equal is ordered by where the unit arrives first.

    Parameters
    ----------
    board
        The board; it is not changed.
    unit
        The name of a unit on it.
    threats
        What threatens its side, if that is known already.
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
        Threats to another side.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.SquareGrid(12, 1), {"turf": 1})
    >>> rules = us.Movement(points=3)
    >>> scout = board.add(us.Unit("scout", "wardens", rules), at=(5, 0))
    >>> raider = board.add(us.Unit("raider", "wreckers", rules, attack=us.Attack()), at=(8, 0))
    >>> plan = us.behaviors.withdraw(board, "scout")
    >>> tuple(plan.end), plan.why
    ((2, 0), '1 foe can attack it where it is, 0 at (2, 0)')
    """
    board = known(board, unit, known_to)
    found = reach(board, unit, known_to=False)
    who, grid = found.unit, board.grid
    check_against(threats, who.side)
    dangers = find_threats(board, who.side, known_to=False) if threats is None else threats
    # a large unit is attacked if any cell of it is, so the most exposed one counts
    areas = grid.lattice.spread(found.cells.array, who.movement.footprint)
    exposure = dangers._counted(grid.numbering.numbers(areas)).max(axis=1)
    foes = [board.unit(name).at for name in dangers.foes]
    away = np.zeros(len(exposure), dtype=np.int64)
    if foes:
        away = np.min([grid.distance(areas, foe).min(axis=1) for foe in foes], axis=0)
    # stable, so that what is left equal stays in the order of arrival
    for place in np.lexsort((-away, exposure)).tolist():
        end = found.cells[place]
        reason = f"{amount(int(exposure[0]), 'foe')} can attack it where it is"
        if end == who.at:  # it stands at the best cell already
            break
        why = f"{reason}, {exposure[place]} at {tuple(end)}"
        wanted = Plan(who, "withdraw", found.route_to(end), end, None, None, (why,))
        plan = reserve(board, wanted, reserved)
        if plan is not None:
            return plan
    return stay(board, who, "withdraw", reserved, None, reason, "no other cell is better")
