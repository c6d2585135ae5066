"""Journey: a long way of a unit through a world, walked piece by piece."""

from __future__ import annotations

from collections.abc import Iterable
from fractions import Fraction
from itertools import product
from typing import Any, Protocol

from understep.boards.board import Board
from understep.boards.cost import Cost, exact, plain
from understep.boards.unit import Unit
from understep.grids.cell import Cell, CellLike
from understep.moves.answer import points_left
from understep.moves.ask import joined
from understep.moves.ask import route as find_route
from understep.moves.route import Route
from understep.worlds._bounds import rim_of
from understep.worlds._crossing_search import CrossingRoute

AHEAD = 2  # crossings to a piece, but the first, which is to be there soon
MOST_BLOCKED = 4  # crossings that are tried, where others stand on them
FARTHER = 64  # cells beyond it, where others block the route


class Lands(Protocol):
    """What a journey needs of a world."""

    def unit(self, name: str) -> Unit:
        """A unit by name."""

    def plan(self, unit: str, goal: CellLike) -> Journey:
        """A long route of a unit to a cell."""

    def spanning(self, cells: Iterable[CellLike], margin: int = 0, live: bool = False) -> Board:
        """A board of all sectors between some cells, that follows the world if it is ``live``."""


class Journey:
    """A long route from a unit to a goal, planned over crossings; made by `World.plan`.

    False in a condition where there is no route; then ``why`` tells.

    Attributes
    ----------
    goal
        The cell it leads to.
    crossings
        The steps from sector to sector, in order.
    cost
        Points that the way by these crossings takes; walked piece by piece it is hardly ever more,
        and often less. None: no route.
    looked
        How many sectors had to be looked into anew.
    why
        Why there is no route.
    """

    def __init__(
        self, world: Lands, unit: Unit, goal: Cell, plan: CrossingRoute, scale: int
    ) -> None:
        self._world, self._unit = world, unit
        #: The crossing that is gone for, by number.
        self._next = 0
        self.goal, self.looked = goal, plan.looked
        self.crossings = tuple(
            each._replace(cost=plain(Fraction(int(each.cost), scale))) for each in plan.crossings
        )
        where = f"from {tuple(unit.at)} to {tuple(goal)}"
        self.why = f"no route leads over the terrain {where}" if plan.cost < 0 else ""
        if self.why and plan.shut:
            self.why = f"no route was found {where}: {len(plan.shut)} sectors were not looked into"
        none: Any = None  # without a route
        self.cost: Cost = none if plan.cost < 0 else plain(Fraction(plan.cost, scale))

    def __bool__(self) -> bool:
        return self.cost is not None

    def __repr__(self) -> str:
        if not self:
            return f"Journey({self.why})"
        return f"Journey({self._unit.name!r} to {tuple(self.goal)}, cost {self.cost})"

    @property
    def done(self) -> bool:
        """Whether the unit stands on the goal."""
        return self._world.unit(self._unit.name).at == self.goal

    def piece(self) -> tuple[Board, Route]:
        """The next piece from the unit's cell: a board, and the best route on it towards the goal.

        Walk it on that board, which follows the world as one of `World.near` does, and ask again.
        If the unit was taken off its way, or others stand in it, or the land was altered, the way
        is planned anew; then the route may be false, and tell why.

        Raises
        ------
        NameUnknownError
            The unit is gone.
        """
        unit = self._world.unit(self._unit.name)
        at, left = unit.at, points_left(unit)
        # what it has passed is not gone for again
        if self._next < len(self.crossings) and at == self.crossings[self._next].b:
            self._next = self._after(self._next)
        board, route, target = self._toward(unit, at, left, self._next, live=True)
        if not route and at != self.goal and (again := self._world.plan(unit.name, self.goal)):
            self.crossings, self._next = again.crossings, 0
            board, route, target = self._toward(unit, at, left, self._next, live=True)
        self._next = target
        return board, route

    def as_route(self) -> Route:
        """The whole journey from the unit's cell as one route; it holds until a unit moves.

        Raises
        ------
        NameUnknownError
            The unit is gone.
        """
        unit = self._world.unit(self._unit.name)
        at, left, target = unit.at, points_left(unit), self._next
        pieces: list[Route] = []
        while not pieces or at != self.goal:
            _, part, target = self._toward(unit, at, left, target)
            pieces.append(part)
            if not part:
                return part
            at, target = part.goal, self._after(target)
            if part.steps:
                left = exact(part.steps[-1].left, "left")
        return joined(pieces)

    def _after(self, target: int) -> int:
        """The crossing to go for next, by number; that after the last is the goal."""
        return min(target + AHEAD, len(self.crossings))

    def _toward(
        self, unit: Unit, at: Cell, left: Fraction, target: int, live: bool = False
    ) -> tuple[Board, Route, int]:
        """The way from a cell to a crossing; if others block it, to one near it, or around them."""
        numbers = range(target, target + MOST_BLOCKED)
        # a small board first; then a wider one, and crossings farther on
        for far, number in product((rim_of(unit), FARTHER), numbers):
            if number > len(self.crossings):
                continue
            behind = self.crossings[max(0, number - AHEAD) : number + 1]
            goal = self.goal if number == len(self.crossings) else self.crossings[number].b
            cells = [at, *(a for a, *_ in behind), *(b for a, b, _ in behind if not _near(a, b))]
            if number == len(self.crossings):
                cells.append(goal)
            board = self._world.spanning(cells, far, live)
            if not live and unit.name not in (other.name for other in board.units()):
                board.add(unit.changed(at=None), at=at)  # where it is supposed to be
            found = find_route(board, unit.name, goals=goal, at=at, left=plain(left))
            if found:
                return board, found, number
        return board, found, target


def _near(a: Cell, b: Cell) -> bool:
    """Whether a crossing is one step, whose end lies within the rim of the sector it leaves."""
    return max(abs(a.col - b.col), abs(a.row - b.row)) <= 1
