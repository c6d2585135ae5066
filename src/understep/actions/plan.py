"""Plan: what a behavior makes of a unit's turn; and reservations, so that plans do not collide."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Any

from understep.actions.stands import Stand
from understep.boards.board import Board
from understep.boards.unit import Unit
from understep.errors import expect
from understep.grids.cell import Cell, Cells
from understep.moves.answer import cannot_stop, home, movement_of
from understep.moves.ask import route
from understep.moves.route import Route
from understep.overlay import Mark, Overlay


@dataclass(frozen=True, eq=False, repr=False)
class Plan:
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
    """

    unit: Unit
    behavior: str
    route: Route | None
    end: Cell
    stand: Stand | None = None
    target: str | None = None
    reasons: tuple[str, ...] = ()

    def __bool__(self) -> bool:
        return self.route is not None or self.stand is not None

    def __repr__(self) -> str:
        strikes = "" if self.stand is None else f", attack {self.target!r}"
        return f"<Plan of {self.unit.name!r}: {self.behavior}, end on {tuple(self.end)}{strikes}>"

    @property
    def why(self) -> str:
        """All reasons in one line."""
        return "; ".join(self.reasons)

    @property
    def cells(self) -> Cells:
        """The cells it goes over this turn, from where it is to where it would end."""
        if self.route is None:
            return Cells([self.end])
        cells = list(self.route.cells)
        return Cells(cells[cells.index(home(self.unit)) : cells.index(self.end) + 1])

    def overlay(self) -> Overlay:
        """The plan as plain data: that of its route, and "target" (text: the name)."""
        marks = {self.end: Mark("goal", 1, self.behavior)}
        if self.route is not None:
            marks = dict(self.route.overlay())
        if self.stand is not None:
            marks[self.stand.aim] = Mark("target", None, self.target)
        return Overlay(marks, priority=2)

    def plain(self) -> dict[str, Any]:
        """The plan as plain lists and texts, for JSON."""
        return {
            "unit": self.unit.name,
            "behavior": self.behavior,
            "cells": [list(cell) for cell in self.cells],
            "end": list(self.end),
            "aim": None if self.stand is None else list(self.stand.aim),
            "target": self.target,
            "reasons": list(self.reasons),
        }


class Reservations:
    """The ways and ends of plans that are to be carried out at the same time.

    Hand the same one to several behaviors: each then keeps clear of the plans before it, at every
    step. No two units end on the same cell, are on the same cell after the same number of steps, or
    change places with each other.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.SquareGrid(5, 1), {"turf": 1})
    >>> for name, col in (("scout", 0), ("pikes", 1)):
    ...     unit = board.add(us.Unit(name, "wardens", us.Movement(points=4)), at=(col, 0))
    >>> reserved = us.Reservations()
    >>> first = us.patrol(board, "scout", [(4, 0)], reserved=reserved)
    >>> second = us.patrol(board, "pikes", [(4, 0)], reserved=reserved)
    >>> tuple(first.end), tuple(second.end)
    ((4, 0), (3, 0))
    """

    def __init__(self) -> None:
        self._ways: dict[str, list[tuple[Cell, ...]]] = {}

    def __len__(self) -> int:
        return len(self._ways)

    def clash(self, board: Board, unit: Unit, cells: Iterable[Cell]) -> str:
        """With whom a way would collide, as a sentence without a full stop; empty: with nobody."""
        way = [board.covered(unit, cell) for cell in cells]
        ends = set(way[-1])
        passes = movement_of(unit).may_pass(own=True)
        for name, other in self._ways.items():
            if name == unit.name:
                continue
            if not ends.isdisjoint(other[-1]):
                return f"{name!r} is to end on {tuple(way[-1][0])}"
            for tick in range(1, max(len(way), len(other))):
                mine, theirs = way[min(tick, len(way) - 1)], other[min(tick, len(other) - 1)]
                both = set(mine) & set(theirs)
                arrived = tick >= len(other) or tick >= len(way)
                if both and not (arrived and passes):
                    return f"{name!r} is on {tuple(min(both))} at step {tick}"
                before = way[min(tick, len(way)) - 1], other[min(tick, len(other)) - 1]
                if not arrived and set(mine) & set(before[1]) and set(theirs) & set(before[0]):
                    return f"{name!r} comes the other way at step {tick}"
        return ""

    def keep(self, board: Board, plan: Plan) -> None:
        """Reserve what a plan takes."""
        self._ways[plan.unit.name] = [board.covered(plan.unit, cell) for cell in plan.cells]

    def free(self, name: str) -> None:
        """Give up what is reserved for a unit."""
        self._ways.pop(name, None)


def reserve(board: Board, plan: Plan, reserved: Reservations | None) -> str:
    """With whom a plan would collide; where with nobody, it is reserved, and the text empty."""
    _check(reserved)
    clash = "" if reserved is None else reserved.clash(board, plan.unit, plan.cells)
    if reserved is not None and not clash:
        reserved.keep(board, plan)
    return clash


def ends_of(board: Board, unit: Unit, found: Route) -> Iterator[Cell]:
    """Where a unit could end this turn along the rest of a route, the farthest first."""
    place = list(found.cells).index(home(unit))
    rest = found.steps[place:]
    turn = rest[0].turn if place and rest else 1
    for each in reversed([each for each in rest if each.turn == turn]):
        if cannot_stop(board, unit, each.cell) is None:
            yield each.cell


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
    told = list(reasons)
    for end in ends_of(board, unit, found):
        shorter = found
        if end != found.goal and end not in found.stops:
            shorter = route(board, unit.name, end, known_to=False)
        plan = Plan(unit, behavior, shorter, end, None, target, tuple(told))
        clash = reserve(board, plan, reserved)
        if not clash:
            return plan
        told = [*reasons, clash]
    if len(told) == len(reasons):
        told.append("no step of the way can be taken this turn")
    return stay(board, unit, behavior, reserved, target, *told)


def stay(
    board: Board,
    unit: Unit,
    behavior: str,
    reserved: Reservations | None,
    target: str | None,
    *reasons: str,
    stand: Stand | None = None,
) -> Plan:
    """The plan to stay, and perhaps to attack from there; reserved whatever else is."""
    _check(reserved)
    plan = Plan(unit, behavior, None, home(unit), stand, target, reasons)
    if reserved is not None:
        reserved.keep(board, plan)
    return plan


def _check(reserved: object) -> None:
    """Refuse what keeps no reservations."""
    kinds = Reservations, type(None)
    expect("reserved", reserved, kinds, "must be Reservations, or None")
