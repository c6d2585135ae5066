"""The mover: what a unit brings to every search, read once from what units move by."""

from __future__ import annotations

from fractions import Fraction
from functools import cached_property
from math import lcm
from typing import Any

from understep.boards.board import Board
from understep.boards.cost import Cost, fraction
from understep.boards.derived import MOVERS, Watcher, twin_of
from understep.boards.unit import Unit
from understep.moves.answer import movement_of, points_left
from understep.rules.movement import Movement
from understep.rules.steps import StepTable, step_table

MOST = 1 << 10  # movers that a board keeps
ZONING: dict[object, int] = {"ignore": 0, "end": 1}


class Mover:
    """A unit as searches count it: its step table, and its rules as whole numbers."""

    def __init__(self, board: Board, unit: Unit) -> None:
        movement = movement_of(unit)
        self.movement = movement
        self.footprint = movement.footprint
        self.table = table = table_of(board, unit)
        self._version = table.version
        #: Parts of a point that are counted.
        self.scale = scale = table.scale
        #: Points of a full turn, and those carried over at most.
        self.points = int(_counted(movement.points) * scale)
        self.carry = int(_counted(movement.carry) * scale)
        #: After how many turns of waiting no more points are carried over.
        self.waits = 1 + (-(-self.carry // self.points) if self.points else 0)
        self._stand(board, unit)
        #: 0: zones of control are ignored; 1: the turn ends in one; 2: it costs ``extra``.
        self.zoning = ZONING.get(movement.zones, 2)
        extra = 0 if isinstance(movement.zones, str) else table.whole(fraction(movement.zones))
        self.extra = extra
        #: These rules as the search by layers takes them, by stride (see `layers.ready`).
        self.ready: dict[int, Any] = {}
        #: No step costs more, into a zone either; 0: without a limit.
        self.cap = self.points if movement.one_step else 0

    def _stand(self, board: Board, unit: Unit) -> None:
        """Take what differs from cell to cell, and from turn to turn."""
        self.unit = unit
        #: The number of the cell it stands on.
        self.own = board.grid.numbering.number(unit.at)
        #: Points of the first turn.
        self.first = int(_counted(unit.left) * self.scale)
        #: A key is ``turn * stride + points used``.
        self.stride = max(self.points + self.carry, self.first) + 1

    def __getstate__(self) -> dict[str, Any]:
        return self.__dict__ | {"table": None, "ready": {}}  # both are the board's

    @cached_property
    def finer(self) -> tuple[Fraction, Fraction]:
        """What the whole parts leave out: of the points of the first turn, and of others."""
        if type(self.unit.left) is int and type(self.movement.points) is int:
            return Fraction(0), Fraction(0)
        first, full = points_left(self.unit), fraction(self.movement.points)
        return first - Fraction(self.first, self.scale), full - Fraction(self.points, self.scale)

    def left_after(self, used: int) -> Fraction:
        """The points of the first turn that are left when so many parts are used."""
        return points_left(self.unit) - Fraction(used, self.scale)

    @property
    def dearest(self) -> int:
        """No step costs more."""
        return self.table.dearest + self.extra

    def of(self, board: Board, unit: Unit) -> Mover:
        """The mover of a unit that moves by the same rules, for the same side."""
        if unit is self.unit:
            return self
        twin = twin_of(self)
        twin.__dict__.pop("finer", None)
        twin._stand(board, unit)
        return twin

    def serves(self, board: Board, unit: Unit) -> bool:
        """Whether it still says what a unit with its movement and side brings to a search."""
        mine, other = self.unit.left, unit.left
        # what is left can ask for finer parts where it counts
        whole = type(mine) is int and type(other) is int
        if not (whole or mine == other) and _counts_left(self.movement):
            return False
        # edits can have given the table another scale
        self.table.refresh()
        return self._version == self.table.version and self.table.serves(board, unit.side)


class Movers(Watcher):
    """The movers of a board's units, as they were last asked for: one for each way to move."""

    def __init__(self) -> None:
        self._known: dict[tuple[int, str], Mover] = {}

    def share(self, _board: Board) -> Movers:
        """A copy of the board makes its own."""
        return Movers()

    def find(self, board: Board, unit: Unit) -> Mover:
        """The mover of a unit."""
        # by its number, which is its own as long as the mover holds it: comparing all of a movement
        # would take longer than what is saved
        key = id(unit.movement), unit.side
        known = self._known.get(key)
        if known is None or not known.serves(board, unit):
            if len(self._known) > MOST:
                self._known = {}
            known = Mover(board, unit)
        # mostly the same unit asks again
        found = self._known[key] = known.of(board, unit)
        return found


def _counted(points: Cost) -> int | Fraction:
    """Points as they are counted; whole ones stay whole numbers, which are quicker."""
    return points if type(points) is int else fraction(points)


def _counts_left(movement: Movement) -> bool:
    """Whether the last part of a turn's points counts: what is left is carried over, or taken."""
    return bool(movement.carry or movement.one_step or movement.zones == "end")


def mover_of(board: Board, unit: Unit) -> Mover:
    """The mover of a unit, up to date with its board."""
    return board._derived.get(MOVERS, Movers).find(board, unit)


def table_of(board: Board, unit: Unit) -> StepTable:
    """The steps of a unit, as searches count them.

    Finer than its costs ask for where the last part of a turn's points counts: where what is left
    is carried over or taken.
    """
    movement = movement_of(unit)
    every = movement.points, movement.carry, unit.left
    full = _counts_left(movement)
    parts = lcm(*(_counted(each).denominator for each in every)) if full else 1
    return step_table(board, movement, unit.side, parts=parts, foes=True)
