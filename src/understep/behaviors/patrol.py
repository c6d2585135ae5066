"""Patrol and follow: to go round, and after somebody."""

from __future__ import annotations

from understep.behaviors.plan import Plan, along, rest_of, stay
from understep.behaviors.reservations import Reservations
from understep.boards.board import Board
from understep.errors import InputError, expect, whole
from understep.grids.cell import Cell, CellsLike, as_cells
from understep.moves.answer import KnownTo, amount, gap, home, known, mine
from understep.moves.ask import route
from understep.moves.goals import within


def patrol(
    board: Board,
    unit: str,
    waypoints: CellsLike,
    leg: int = 0,
    *,
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
    leg
        How many waypoints it has passed; `next_leg` counts on.
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
        A waypoint that is no cell, or off the board.
    InputError
        No waypoints, or ``leg`` is not a whole number of 0 or more.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.SquareGrid(9, 1), {"turf": 1})
    >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=4)), at=(0, 0))
    >>> leg, seen = 0, []
    >>> for turn in range(6):
    ...     plan = us.patrol(board, "scout", [(0, 0), (6, 0)], leg)
    ...     scout = board.put("scout", at=plan.end)
    ...     leg = us.next_leg(board, "scout", [(0, 0), (6, 0)], leg)
    ...     seen.append(plan.end.col)
    >>> seen
    [0, 4, 6, 2, 0, 4]
    """
    board = known(board, unit, known_to)
    who, goal = board.unit(unit), _waypoint(board, waypoints, leg, back)
    found = route(board, unit, goal, accept="nearest", known_to=False)
    why = f"waypoint {tuple(goal)}"
    if not found or found.goal == who.at:
        there = "it is there" if goal == who.at else found.shortfall or found.why
        return stay(board, who, "patrol", reserved, None, why, there)
    return along(board, who, "patrol", found, reserved, None, why)


def next_leg(board: Board, unit: str, waypoints: CellsLike, leg: int, *, back: bool = False) -> int:
    """The leg of a patrol that comes next: one more if the unit stands on its waypoint.

    Parameters
    ----------
    board, unit, waypoints, leg, back
        As for `patrol`.

    Raises
    ------
    NameUnknownError, CellError, InputError
        As for `patrol`.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.SquareGrid(9, 1), {"turf": 1})
    >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=4)), at=(6, 0))
    >>> us.next_leg(board, "scout", [(0, 0), (6, 0)], 0), us.next_leg(board, "scout", [(6, 0)], 0)
    (0, 1)
    """
    here = mine(board).unit(unit).at == _waypoint(board, waypoints, leg, back)
    return leg + 1 if here else leg


def _waypoint(board: Board, waypoints: CellsLike, leg: int, back: bool) -> Cell:
    cells = as_cells(waypoints)
    if not len(cells):
        raise InputError("waypoints", "must hold at least one cell", waypoints)
    for cell in cells:
        board.grid.numbering.require(cell, "waypoints")
    leg = whole("leg", leg, 0)
    expect("back", back, bool, "must be True or False")
    if not back or len(cells) < 3:
        return cells[leg % len(cells)]
    place = leg % (2 * len(cells) - 2)
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
        No such units, or not to the unit's side; a side that keeps no knowledge.
    InputError
        ``near`` is not a whole number of 0 or more.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.HexGrid(15, 5), {"turf": 1})
    >>> rules = us.Movement(points=3)
    >>> scout = board.add(us.Unit("scout", "wardens", rules), at=(0, 2))
    >>> cart = board.add(us.Unit("cart", "wardens", rules), at=(9, 2))
    >>> plan = us.follow(board, "scout", "cart", near=2)
    >>> tuple(plan.end), tuple(plan.route.goal), plan.why
    ((3, 2), (7, 2), "'cart' is 9 cells away")
    """
    board = known(board, unit, known_to)
    who, other = board.unit(unit), board.unit(target)
    expect("before", before, (Plan, type(None)), "must be the plan before, or None")
    goal = within(target, 0, near)
    away = gap(board, who, other)
    told = f"{target!r} is {amount(away, 'cell')} away"
    if away <= near:
        return stay(board, who, "follow", reserved, target, told, "near enough")
    kept = None if before is None or before.target != target else before.route
    if (
        kept is not None
        and who.at in list(kept.cells)[:-1]
        and gap(board, who, other, kept.goal) <= near
    ):
        rest = rest_of(kept, who)
        return along(board, who, "follow", rest, reserved, target, told, "the same way as before")
    found = route(board, unit, goal, known_to=False)
    if not found:
        found = route(board, unit, home(other), accept="nearest", known_to=False)
        if not found or found.goal == who.at:
            return stay(board, who, "follow", reserved, target, told, found.shortfall or found.why)
    return along(board, who, "follow", found, reserved, target, told)
