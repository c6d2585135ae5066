"""Patrol and follow: to go round, and after somebody."""

from __future__ import annotations

from understep.behaviors._plan import Plan, along, rest_of, stay
from understep.behaviors._reservations import Reservations
from understep.boards.board import Board
from understep.boards.refusal import Refusal
from understep.checks import expect, truth, whole
from understep.errors import InputError
from understep.grids.cell import Cell, CellsLike, as_cells
from understep.moves.answer import KnownTo, amount, gap, known, sought
from understep.moves.ask import route
from understep.moves.goals import within


def patrol(
    board: Board,
    unit: str,
    waypoints: CellsLike,
    *,
    passed: int = 0,
    back: bool = False,
    reserved: Reservations | None = None,
    known_to: KnownTo = None,
) -> Plan:
    """Go on to the next of some waypoints, or as near to it as the unit can get.

    Parameters
    ----------
    board
        The board; it is not changed.
    unit
        The name of a unit on it.
    waypoints
        The cells, in order.
    passed
        How many waypoints it has passed, as the last plan's ``passed`` says. The one that it
        stands on is added.
    back
        Whether it comes back the same way from the last, in place of starting again.
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
    CellError
        A waypoint that is not a cell, or off the board.
    InputError
        No waypoints, or ``passed`` is not a whole number of 0 or more.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.SquareGrid(9, 1), {"turf": 1})
    >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=4)), at=(0, 0))
    >>> passed, seen = 0, []
    >>> for turn in range(6):
    ...     plan = us.behaviors.patrol(board, "scout", [(0, 0), (6, 0)], passed=passed)
    ...     scout = board.put("scout", at=plan.end)
    ...     passed = plan.passed
    ...     seen.append(plan.end.col)
    >>> seen
    [4, 6, 2, 0, 4, 6]
    """
    board = known(board, unit, known_to)
    who, goal = board.unit(unit), _waypoint(board, waypoints, passed, back)
    # it has come to it, and goes for the next
    if goal == who.at:
        passed += 1
        goal = _waypoint(board, waypoints, passed, back)
    found = route(board, unit, goal, accept="nearest", known_to=False)
    why = f"waypoint {tuple(goal)}"
    if not found or found.goal == who.at:
        there = "it is there" if goal == who.at else found.shortfall or found.why
        return stay(board, who, "patrol", reserved, None, why, there)._of(board, passed=passed)
    return along(board, who, "patrol", found, reserved, None, why)._of(board, passed=passed)


def _waypoint(board: Board, waypoints: CellsLike, passed: int, back: bool) -> Cell:
    cells = as_cells(waypoints, "waypoints")
    if not len(cells):
        raise InputError("waypoints", "must hold at least one cell", waypoints)
    for cell in cells:
        board.grid.numbering.require(cell, "waypoints")
    passed = whole("passed", passed, 0)
    back = truth("back", back)
    if not back or len(cells) < 3:
        return cells[passed % len(cells)]
    # there and back again; the ends count once each
    place = passed % (2 * len(cells) - 2)
    return cells[place if place < len(cells) else 2 * len(cells) - 2 - place]


def follow(
    board: Board,
    unit: str,
    target: str,
    *,
    near: int = 1,
    before: Plan | None = None,
    reserved: Reservations | None = None,
    known_to: KnownTo = None,
) -> Plan:
    """Go after a unit, to within some cells of it.

    Parameters
    ----------
    board
        The board; it is not changed.
    unit
        The name of a unit on it.
    target
        The name of the unit to follow.
    near
        How near is near enough, in cells.
    before
        The plan of the last turn: its route is kept while it still holds and leads near the target.
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
        No such unit; a side that keeps no knowledge. (Where its side does not know of the target,
        the plan is to stay.)
    InputError
        ``near`` is not a whole number of 0 or more.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.HexGrid(15, 5), {"turf": 1})
    >>> rules = us.Movement(points=3)
    >>> scout = board.add(us.Unit("scout", "wardens", rules), at=(0, 2))
    >>> cart = board.add(us.Unit("cart", "wardens", rules), at=(9, 2))
    >>> plan = us.behaviors.follow(board, "scout", "cart", near=2)
    >>> tuple(plan.end), tuple(plan.route.goal), plan.why
    ((3, 2), (7, 2), "'cart' is 9 cells away")
    """
    board = known(board, unit, known_to)
    who, other = board.unit(unit), sought(board, target, "target")
    expect("before", before, (Plan, type(None)), "must be the plan before, or None")
    if isinstance(other, Refusal):
        return stay(board, who, "follow", reserved, None, other.why)
    near = whole("near", near, 0)
    goal = within(target, 0, near)
    away = gap(board, who, other)
    reason = f"{target!r} is {amount(away, 'cell')} away"
    if away <= near:
        return stay(board, who, "follow", reserved, target, reason, "near enough")
    kept = None if before is None or before.target != target else before.route
    if (
        kept is not None
        # at its end there is nothing left to go
        and who.at in list(kept.cells)[:-1]
        and gap(board, who, other, kept.goal) <= near
    ):
        rest = rest_of(kept, who)
        return along(board, who, "follow", rest, reserved, target, reason, "the same way as before")
    found = route(board, unit, goal, known_to=False)
    if not found:
        found = route(board, unit, other.at, accept="nearest", known_to=False)
        if not found or found.goal == who.at:
            return stay(
                board, who, "follow", reserved, target, reason, found.shortfall or found.why
            )
    return along(board, who, "follow", found, reserved, target, reason)
