"""Walk: a route carried out step by step, by what is true and not by what was known."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from typing import Literal, NamedTuple, TypeAlias

from understep.boards.board import Board
from understep.boards.cost import Cost, fraction, plain, rounded
from understep.boards.difference import Difference
from understep.boards.unit import Unit
from understep.errors import InputError, NameUnknownError
from understep.grids.cell import Cell, Cells
from understep.moves.answer import Answer, cannot_stop, movement_of, mover, points_left
from understep.moves.ask import route as find_route
from understep.moves.route import Route
from understep.moves.search import step
from understep.overlay import Mark, Overlay
from understep.rules.movement import ALTERNATING

Ending: TypeAlias = Literal[
    "", "arrived", "turn", "points", "blocked", "ambush", "stopped", "moved"
]
ENDLESS = 10**6  # points enough for any step


class Stride(NamedTuple):
    """One step of a walk, as it was taken.

    Attributes
    ----------
    cell
        Where it led.
    direction
        Its direction, by name; None where it took a link or leapt.
    cost
        The points it took.
    left
        Points left after it.
    passing
        Whether the unit may only pass there: the board has it on the last cell where it may stop.
    seen
        How what its side knows has changed; None where it keeps no knowledge.
    """

    cell: Cell
    direction: str | None
    cost: Cost
    left: Cost
    passing: bool
    seen: Difference | None

    @property
    def met(self) -> tuple[str, ...]:
        """The names of units of others that came into sight at this step."""
        return () if self.seen is None else self.seen.met


class Walk(Answer, Iterator[Stride]):
    """A walk under way or over; made by `walk`.

    Go through it step by step, or `finish` it; `stop` ends it where it is. One `Board.undo` reverts
    all of it, with all changes in between.

    Attributes
    ----------
    ending
        How it ended: ``"arrived"``; ``"turn"``: the route goes on in the next turn; ``"points"``:
        too few are left for the next step; ``"blocked"``: something in the way; ``"ambush"``:
        somebody in the way whom its side did not see; ``"stopped"`` by the game; ``"moved"``: the
        unit is not where the walk left it. Empty while it is under way.
    why
        The same as a sentence without a full stop; empty on arrival.
    blockers
        The names of the units in the way.
    """

    _facts = ("cells", "spent", "ending")

    unit: Unit

    def __init__(self, board: Board, unit: Unit, route: Route) -> None:
        self._of(board)
        self._cells = list(route.cells)
        self._plan = list(route.steps)
        # the start has no direction, so that places are those of the cells
        self._ways = [None, *(each.direction for each in self._plan)]
        self._place = self._cells.index(unit.at)
        self._turn = self._plan[self._place].turn if self._place < len(self._plan) else 0
        self._waiting: list[Stride] = []
        # which diagonals are dear depends on those walked before, which a route does not know
        alternate = movement_of(unit).diagonal == ALTERNATING
        #: The state in which the steps are still as the route has them; 0: they may not be.
        self._planned = 0
        if route._board is board and route.unit is unit and not (self._place or alternate):
            self._planned = route._state
        self._dear = False
        self.unit = unit
        self.route = route
        self.ending: Ending = ""
        self.why = ""
        self.blockers: tuple[str, ...] = ()
        self._walked = [unit.at]
        self._spent = Fraction(0)

    def __repr__(self) -> str:
        return (
            f"<Walk of {self.unit.name!r}: {len(self._walked) - 1} steps, {self.ending or 'going'}>"
        )

    @property
    def cells(self) -> Cells:
        """The cells it has gone over, its start first."""
        return Cells(self._walked)

    @property
    def spent(self) -> Cost:
        """The points it has taken."""
        return plain(self._spent)

    def __next__(self) -> Stride:
        # what is waiting was walked already, in one go over cells where it may only pass
        if not self._waiting and not self.ending:
            self._advance()
        if not self._waiting:
            raise StopIteration
        return self._waiting.pop(0)

    def finish(self) -> Walk:
        """Take all the steps that can be taken, and return the walk.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(6, 1), {"turf": 1, "deep": None})
        >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=4)), at=(0, 0))
        >>> walk = us.walk(board, "scout", us.route(board, "scout", (4, 0)))
        >>> walk.finish().ending, tuple(board.unit("scout").at)
        ('arrived', (4, 0))
        """
        for _ in self:
            pass
        return self

    def stop(self, why: str = "stopped") -> None:
        """End it where it is, for a reason of the game's.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(6, 1), {"turf": 1, "deep": None})
        >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=4)), at=(0, 0))
        >>> walk = us.walk(board, "scout", us.route(board, "scout", (4, 0)))
        >>> for stride in walk:
        ...     if stride.cell == (2, 0):
        ...         walk.stop("a trap")
        >>> walk.ending, walk.why, tuple(board.unit("scout").at)
        ('stopped', 'a trap', (2, 0))
        """
        if not self.ending:
            self._end("stopped", why)

    def _end(self, ending: Ending, why: str = "", blockers: tuple[str, ...] = ()) -> None:
        self.ending, self.why, self.blockers = ending, why, blockers

    def _advance(self) -> None:
        """Go on to the next cell where it may stop, if all steps on the way there can be taken."""
        board, cells = self._board, self._cells
        here = cells[self._place]
        try:
            unit = board.unit(self.unit.name)
        except NameUnknownError:
            self._end("moved", f"{self.unit.name!r} is gone")
            return
        # the game, or an undo, has put it elsewhere between two steps
        if unit.at != here:
            self._end("moved", f"{self.unit.name!r} is on {tuple(unit.at)}, not on {tuple(here)}")
            return
        ahead: list[tuple[Cell, str | None, Fraction, Fraction]] = []
        moving, dear, place = unit, self._dear, self._place
        while place + 1 < len(cells):
            if self._plan[place].turn > self._turn:
                self._end("turn", f"the way on from {tuple(here)} is for the next turn")
                return
            there = cells[place + 1]
            taken = self._step(moving, place, dear)
            if taken is None:
                self._refused(unit, moving, cells[place], there, dear)
                return
            left, dear = taken
            place += 1
            ahead.append((there, self._ways[place], points_left(moving) - left, left))
            # not written yet: the board has it only where it may stop
            moving = moving.changed(left=left)
            if cannot_stop(board, unit, there) is None:
                self._go(unit, ahead)
                self._place, self._dear = place, dear
                return
        if ahead:  # somebody stands on the goal
            self._refused(unit, unit, here, cells[-1], dear)
        else:
            self._end("arrived")

    def _step(self, unit: Unit, place: int, dear: bool) -> tuple[Fraction, bool] | None:
        """What the step from a place of the route leaves, as `step` says."""
        plan = self._plan[place]
        # nothing but the walk has changed the board
        if self._planned == self._board.state and plan.turn == 1:
            return fraction(plan.left), False
        return step(self._board, unit, self._cells[place], self._cells[place + 1], dear)

    def _go(self, unit: Unit, ahead: list[tuple[Cell, str | None, Fraction, Fraction]]) -> None:
        """Set the unit down where the steps lead."""
        # the change of what its side knows counts from here
        board, before = self._board, self._board.state
        there, way, _, left = ahead[-1]
        turned = unit.facing if way is None else way
        board._units.move(unit.name, there, left=rounded(left, "left"), facing=turned)
        # the unit itself has changed, and what its route relies on has not
        self._planned = board.state if self._planned == before else 0
        seen = None
        if unit.side in board.fogged:
            seen = board.knowledge(unit.side).changes(before)
        # one undo reverts the whole walk
        board.join(self._state)
        for cell, direction, cost, rest in ahead:
            last = cell is there
            self._waiting.append(
                Stride(cell, direction, plain(cost), plain(rest), not last, seen if last else None)
            )
            self._walked.append(cell)
            self._spent += cost

    def _refused(self, unit: Unit, moving: Unit, here: Cell, there: Cell, dear: bool) -> None:
        """End it, and say why the next step cannot be taken."""
        board = self._board
        stop = cannot_stop(board, unit, there)
        # who stands there comes first: the ground says no only for the unit alone
        names = () if stop is None else stop.blockers
        if names:
            fog = unit.side in board.fogged
            known = {each.name for each in board._memory(unit.side).units()} if fog else {*names}
            # whom its side did not see it has walked into
            hidden = not known.issuperset(names)
            self._end("ambush" if hidden else "blocked", "" if stop is None else stop.why, names)
            return
        # with points enough: is it the points, or does no step lead there at all
        able = step(board, moving.changed(left=Fraction(ENDLESS)), here, there, dear)
        place = self._cells.index(here, self._place)
        begun = self._plan[place - 1].turn if place else 1
        if (
            able is not None
            and self._plan[place].turn > begun
            and moving.left != movement_of(unit).points
        ):
            self._end("turn", f"the way on from {tuple(here)} is for the next turn")
            return
        if able is not None:
            cost, left = plain(ENDLESS - able[0]), plain(points_left(moving))
            self._end(
                "points", f"the step to {tuple(there)} takes {cost} points, and {left} are left"
            )
            return
        none = f"no step leads from {tuple(here)} to {tuple(there)}"
        self._end("blocked", none if stop is None else stop.why)

    def overlay(self) -> Overlay:
        """The walk as plain data: roles "start", "route" and "goal", where it is."""
        marks = {cell: Mark("route", 1) for cell in self._walked}
        marks[self._walked[0]] = Mark("start", 1, self.unit.name)
        marks[self._walked[-1]] = Mark("goal", 1, self.ending)
        return Overlay._of(marks, priority=2)


def walk(board: Board, unit: str, route: Route | None) -> Walk:
    """Let a unit walk along a route, for as much of it as this turn allows.

    Every step is checked against the board as it is, by the same rule as routes. The unit is moved,
    faces where it goes, its points are spent, and its side sees what is visible from each cell
    where it may stop. Where it may only pass, it goes on at once, and not at all if the way on is
    blocked. Nothing happens before the first step is asked for.

    Parameters
    ----------
    board
        The board.
    unit
        The name of a unit on it, which stands on a cell of the route: its start, or where an
        earlier walk along it has ended.
    route
        A route that was found; None, as of a plan to stay: no step.

    Returns
    -------
    Walk

    Raises
    ------
    NameUnknownError
        No such unit.
    InputError
        A value that is not a route, or a route that was found for another unit, or that does not
        lead over the cell where the unit stands.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.SquareGrid(9, 3), {"turf": 1})
    >>> scout = us.Unit("scout", "wardens", us.Movement(points=6), sight=2)
    >>> scout = board.add(scout, at=(0, 1))
    >>> pikes = board.add(us.Unit("pikes", "wreckers", us.Movement(points=4)), at=(4, 1))
    >>> knowledge = us.fog(board, "wardens", land_known=True)
    >>> walk = us.walk(board, "scout", us.route(board, "scout", goals=(6, 1)))
    >>> for stride in walk:
    ...     if stride.met:
    ...         walk.stop(f"{stride.met[0]} ahead")
    >>> walk.ending, walk.why, walk.spent, tuple(board.unit("scout").at)
    ('stopped', 'pikes ahead', 2, (2, 1))
    >>> board.undo(), tuple(board.unit("scout").at)
    (True, (0, 1))
    """
    who = mover(board, unit)
    if route is None:
        route = find_route(board, unit, mover(board, unit).at, known_to=False)
    if not isinstance(route, Route) or not route:
        raise InputError("route", "must be a route that was found", route)
    if route.unit.name != unit:
        raise InputError("route", f"was found for {route.unit.name!r}", unit)
    if who.at not in route.cells:
        raise InputError("route", f"does not lead over {tuple(who.at or ())}", route)
    return Walk(board, who, route)
