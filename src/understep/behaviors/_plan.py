"""Plan: what a behavior makes of a unit's turn."""

from __future__ import annotations

from dataclasses import dataclass, replace
from fractions import Fraction

from understep.actions.stands import Stand
from understep.behaviors._reservations import Reservations
from understep.boards.board import Board
from understep.boards.cost import fraction, plain
from understep.boards.unit import Unit
from understep.checks import expect
from understep.grids.cell import Cell, Cells
from understep.moves.answer import Answer, cannot_stop
from understep.moves.ask import route
from understep.moves.field import field
from understep.moves.route import Route
from understep.overlay import Mark, Overlay


@dataclass(frozen=True, eq=False, repr=False)
class Plan(Answer):
    """What a unit would do this turn; true in a condition if it would move or attack.

    Attributes
    ----------
    unit
        The unit, as it was when asked.
    behavior
        The name of the behavior.
    route
        The way it would go, in as many turns as it takes, for `walk`; None: it stays.
    end
        Where it would end this turn.
    stand
        The stand from which it would attack this turn, with the cell to aim at; None: it would not.
    target
        The name of the unit that it goes for, if any.
    reasons
        Why, as sentences without a full stop.
    passed
        Of a patrol: how many waypoints it has passed.
    """

    _facts = ("behavior", "cells", "end", "stand", "target", "reasons")

    unit: Unit
    behavior: str
    route: Route | None
    end: Cell
    stand: Stand | None = None
    target: str | None = None
    reasons: tuple[str, ...] = ()
    blockers: tuple[str, ...] = ()
    passed: int = 0

    def __bool__(self) -> bool:
        return self.route is not None or self.stand is not None

    def __repr__(self) -> str:
        strikes = "" if self.stand is None else f", attack {self.target!r}"
        return f"<Plan of {self.unit.name!r}: {self.behavior}, end on {tuple(self.end)}{strikes}>"

    @property
    def why(self) -> str:  # type: ignore[override]
        """All reasons in one line."""
        return "; ".join(self.reasons)

    @property
    def cells(self) -> Cells:
        """The cells it goes over this turn, from where it is to where it would end."""
        if self.route is None:
            return Cells([self.end])
        cells = list(self.route.cells)
        return Cells(cells[cells.index(self.unit.at) : cells.index(self.end) + 1])

    def overlay(self) -> Overlay:
        """The plan as plain data: that of its route, and "target" (text: the name)."""
        marks = {self.end: Mark("goal", 1, self.behavior)}
        if self.route is not None:
            marks = dict(self.route.overlay())
        if self.stand is not None:
            marks[self.stand.aim] = Mark("target", None, self.target)
        return Overlay._of(marks, priority=2)


def reserve(board: Board, plan: Plan, reserved: Reservations | None) -> Plan | None:
    """A plan that keeps clear of others, reserved; perhaps by another way. None without one."""
    _check(reserved)
    if reserved is None:
        return plan._of(board)
    if reserved.clash(board, plan.unit, plan.cells):
        way = reserved.route(board, plan.unit, plan.end)
        if way is None:
            return None
        plan = replace(plan, route=way)
    reserved.keep(board, plan.unit, plan.cells)
    return plan._of(board)


def rest_of(found: Route, unit: Unit) -> Route:
    """What is left of a route from where a unit stands on it, its turns counted from the first."""
    place = list(found.cells).index(unit.at)
    if place == 0:
        return found
    steps = found.steps[place:]
    # turns count from 1 again, where it stands now
    waits = steps[0].turn > found.steps[place - 1].turn
    before = found.steps[place - 1].turn - (0 if waits else 1)
    rest = tuple(step._replace(turn=max(step.turn - before, 1)) for step in steps)
    cost = plain(sum((fraction(step.cost) for step in rest), Fraction(0)))
    return replace(
        found, unit=unit, cells=found.cells[place:], cost=cost, turns=rest[-1].turn,
        _steps=lambda: rest,
    )  # fmt: skip


def _end_of(board: Board, unit: Unit, found: Route) -> Cell | None:
    """The farthest cell where a unit could end this turn along the rest of a route, if any."""
    place = list(found.cells).index(unit.at)
    rest = found.steps[place:]
    turn = rest[0].turn if place and rest else 1
    # the end of the turn may be taken by somebody whom it can pass
    cells = (each.cell for each in reversed(rest) if each.turn == turn)
    return next((cell for cell in cells if cannot_stop(board, unit, cell) is None), None)


def along(
    board: Board,
    unit: Unit,
    behavior: str,
    found: Route,
    reserved: Reservations | None,
    target: str | None,
    *reasons: str,
) -> Plan:
    """The plan to go along a route, as far as this turn and reservations allow."""
    end = _end_of(board, unit, found)
    if end is None:
        none = "no step of the way can be taken this turn"
        return stay(board, unit, behavior, reserved, target, *reasons, none)
    # the rest of the way is another where it stops earlier than planned
    if end != found.goal and end not in found.stops:
        found = route(board, unit.name, end, known_to=False)
    wanted = Plan(unit, behavior, found, end, None, target, reasons)
    plan = reserve(board, wanted, reserved)
    if plan is not None or reserved is None:
        return plan or wanted._of(board)
    why_all = *reasons, reserved.clash(board, unit, wanted.cells)
    # not as far as it would, but some of the way
    near = _nearest_free(board, unit, found.goal, reserved)
    if near is None:
        return stay(board, unit, behavior, reserved, target, *why_all)
    reserved.keep(board, unit, near.cells)
    return Plan(unit, behavior, near, near.goal, None, target, why_all)._of(board)


def _nearest_free(board: Board, unit: Unit, goal: Cell, reserved: Reservations) -> Route | None:
    """The way to the cell nearest to a goal that leaves others alone; None: no cell is nearer."""
    # over the terrain alone: who is in the way now may have gone by then
    costs = field(board, unit.name, [goal], known_to=False)
    here = unit.at
    ranked = [
        (costs[end], place, end)
        for place, end in enumerate(reserved.ends(board, unit))
        if end in costs
        # a step back would be walked forth again next turn
        and (here not in costs or costs[end] < costs[here])
        and cannot_stop(board, unit, end) is None
    ]
    return reserved.route(board, unit, min(ranked)[2]) if ranked else None


def stay(
    board: Board,
    unit: Unit,
    behavior: str,
    reserved: Reservations | None,
    target: str | None,
    *reasons: str,
    stand: Stand | None = None,
) -> Plan:
    """The plan to stay, and perhaps to attack from there; reserved in any case."""
    _check(reserved)
    plan = Plan(unit, behavior, None, unit.at, stand, target, reasons)._of(board)
    if reserved is not None:
        reserved.keep(board, unit, plan.cells)
    return plan


def _check(reserved: object) -> None:
    """Refuse what keeps no reservations."""
    kinds = Reservations, type(None)
    expect("reserved", reserved, kinds, "must be Reservations, or None")
