"""Alert: a unit notices a foe, keeps after it, and gives up where it was last seen."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

from understep.behaviors._approach import approach
from understep.behaviors._plan import Plan, along, rest_of, stay
from understep.behaviors._reservations import Reservations
from understep.boards.board import Board
from understep.checks import expect, whole
from understep.grids.cell import Cell, Cells
from understep.moves.answer import KnownTo, gap, known
from understep.moves.ask import route
from understep.overlay import Mark, Overlay, plain_facts
from understep.sight.sees import sees


@dataclass(frozen=True)
class Alert:
    """The foe that a unit chases; falsy without a target. Made by `notice`.

    Attributes
    ----------
    target
        The name of the foe; empty: nobody.
    last
        Where it was last seen.
    seen
        Whether it is seen now.
    patience
        For how many more ticks the unit keeps after it out of sight.
    """

    target: str = ""
    last: Cell | None = None
    seen: bool = False
    patience: int = 0

    def __bool__(self) -> bool:
        return bool(self.target)

    @property
    def why(self) -> str:
        """That it chases no unit; else empty."""
        return "" if self else "it is after nobody"

    @property
    def cells(self) -> Cells:
        """Where its foe was last seen, if it is after one."""
        return Cells([] if self.last is None else [self.last])

    def overlay(self) -> Overlay:
        """The alert as plain data: "target" where the foe is seen, else "remembered"."""
        role = "target" if self.seen else "remembered"
        return Overlay._of({cell: Mark(role, None, self.target) for cell in self.cells}, priority=2)

    def plain(self) -> dict[str, Any]:
        """The alert as plain numbers and texts, for JSON."""
        return plain_facts(vars(self))


CALM = Alert()


def notice(
    board: Board, unit: str, alert: Alert = CALM, *, patience: int = 3, known_to: KnownTo = None
) -> Alert:
    """What a unit is after at a new tick: call it once for each.

    The nearest foe that it sees itself is noticed. It keeps after the one it is after already while
    it sees that one; when it does not, it turns to the nearest other foe in sight. While it sees
    none, it follows where its foe was last seen for some ticks more, and waits there, until
    they are over.

    Parameters
    ----------
    board
        The board; it is not changed.
    unit
        The name of a unit on it.
    alert
        What it was after at the last tick.
    patience
        For how many ticks it keeps after a foe out of sight, those at the cell where it was last
        seen included.
    known_to
        As for `reach`.

    Returns
    -------
    Alert

    Raises
    ------
    NameUnknownError
        No such unit; a side that keeps no knowledge.
    InputError
        ``patience`` is not a whole number of 0 or more.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.HexGrid(15, 5), {"turf": 1})
    >>> rules = us.Movement(points=3)
    >>> guard = board.add(us.Unit("guard", "wardens", rules, sight=4), at=(2, 2))
    >>> raider = board.add(us.Unit("raider", "wreckers", rules), at=(5, 2))
    >>> alert = us.behaviors.notice(board, "guard", patience=1)
    >>> alert.target, tuple(alert.last), alert.seen
    ('raider', (5, 2), True)
    >>> raider = board.put("raider", at=(12, 2))
    >>> alert = us.behaviors.notice(board, "guard", alert)
    >>> alert.target, tuple(alert.last), alert.seen, alert.patience
    ('raider', (5, 2), False, 0)
    >>> bool(us.behaviors.notice(board, "guard", alert))
    False
    """
    patience = whole("patience", patience, 0)
    expect("alert", alert, (Alert, type(None)), "must be an Alert, or None")
    alert = CALM if alert is None else alert
    board = known(board, unit, known_to)
    who = board.unit(unit)
    foes = {
        each.name: gap(board, who, each)
        for each in board.units()
        if each.side != who.side and sees(board, unit, each.name)
    }
    # it does not change its mind while it sees the one it is after
    if foes:
        name = alert.target if alert.target in foes else min(foes, key=lambda each: foes[each])
        return Alert(name, board.unit(name).at, True, patience)
    if not alert or alert.patience == 0:
        return CALM
    return replace(alert, seen=False, patience=alert.patience - 1)


def chase(
    board: Board,
    unit: str,
    alert: Alert,
    *,
    before: Plan | None = None,
    reserved: Reservations | None = None,
    known_to: KnownTo = None,
) -> Plan:
    """Go after whom a unit is after: attack it where it is seen, else look where it was last.

    Parameters
    ----------
    board
        The board; it is not changed.
    unit
        The name of a unit on it.
    alert
        Whom it is after, as `notice` gives it.
    before
        The plan of the turn before: it goes on along its route as long as that leads to where the
        foe was last seen.
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
        ``alert``, ``before`` or ``reserved`` is of another kind.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.HexGrid(15, 5), {"turf": 1})
    >>> guard = board.add(us.Unit("guard", "wardens", us.Movement(points=3)), at=(2, 2))
    >>> alert = us.behaviors.Alert("raider", us.Cell(5, 2), patience=2)
    >>> us.behaviors.chase(board, "guard", alert).why
    "'raider' was last seen at (5, 2)"
    """
    expect("alert", alert, Alert, "must be an Alert")
    expect("before", before, (Plan, type(None)), "must be the plan before, or None")
    board = known(board, unit, known_to)
    who = board.unit(unit)
    if not alert or alert.last is None:
        return stay(board, who, "chase", reserved, None, "it is after nobody")
    if alert.seen and who.attack is not None:
        plan = approach(board, unit, targets=[alert.target], reserved=reserved, known_to=False)
        return replace(plan, behavior="chase")
    reason = f"{alert.target!r} was last seen at {tuple(alert.last)}"
    # a new route each turn could turn back and forth between two that are equally good
    kept = None if before is None or before.target != alert.target else before.route
    if kept is not None and kept.goal == alert.last and who.at in list(kept.cells)[:-1]:
        rest, same = rest_of(kept, who), "the same way as before"
        return along(board, who, "chase", rest, reserved, alert.target, reason, same)
    way = route(board, unit, alert.last, accept="nearest", known_to=False)
    if not way or way.goal == who.at:
        return stay(
            board, who, "chase", reserved, alert.target, reason, way.shortfall or "it is there"
        )
    return along(board, who, "chase", way, reserved, alert.target, reason)
