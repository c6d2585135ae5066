"""Views: what rules and searches make of a board, as overlays to look at."""

from __future__ import annotations

from collections.abc import Iterator

from understep.boards.board import Board
from understep.errors import InputError
from understep.grids.cell import Cell, Cells
from understep.moves.answer import KnownTo, rules_of
from understep.moves.field import Field
from understep.moves.reach import Reach
from understep.overlay import Mark, Overlay
from understep.rules.movement import Movement
from understep.rules.steps import step_table


def passable(
    board: Board, movement: Movement | str, *, side: str | None = None, known_to: KnownTo = None
) -> Overlay:
    """Where a movement could stand, and where it could not: terrain, features, blocks, walls, size.

    Units do not count, as in `understep.passable`.

    Parameters
    ----------
    board
        The board.
    movement
        A movement, or the name of a unit.
    side
        The side for which cells may be closed, where ``movement`` is not a unit's.
    known_to
        As for `reach`.

    Returns
    -------
    Overlay
        Roles "free" and "closed", below all but labels.

    Raises
    ------
    NameUnknownError
        No such unit; a side that keeps no knowledge.
    InputError
        ``movement`` is neither.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.SquareGrid(3, 1), {"turf": 1, "deep": None})
    >>> board.paint("deep", (1, 0))
    >>> [mark.role for mark in us.draw.passable(board, us.Movement(4)).values()]
    ['free', 'closed', 'free']
    """
    board, rules, who = rules_of(board, movement, side, known_to)
    cells = board.grid.cells
    free = step_table(board, rules, who).standing()[board.grid.numbering.numbers(cells.array)]
    marks = {True: Mark("free"), False: Mark("closed")}
    found = {cell: marks[here] for cell, here in zip(cells, (free > 0).tolist(), strict=True)}
    return Overlay._of(found, priority=0)


def arrows(answer: Reach | Field) -> Overlay:
    """Where an answer leads: of a reach, to the cell before; of a field, to the next.

    Parameters
    ----------
    answer
        A reach: every cell but the start has the direction in which its route (of tied ones the
        first) is followed back. Or a field: the direction of the next step towards a goal.

    Returns
    -------
    Overlay
        Role "back" or "onward", text: the direction; empty where a link or leap leads there.

    Raises
    ------
    InputError
        ``answer`` is neither.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.SquareGrid(4, 1), {"turf": 1})
    >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(2)), at=(0, 0))
    >>> [mark.text for mark in us.draw.arrows(us.reach(board, "scout")).values()]
    ['W', 'W']
    """
    if isinstance(answer, Reach):
        role, ways = "back", _before(answer)
    elif isinstance(answer, Field):
        role, ways = "onward", _after(answer)
    else:
        raise InputError("answer", "must be a Reach or a Field", answer)
    return Overlay._of({cell: Mark(role, None, way or "") for cell, way in ways})


def _before(reach: Reach) -> Iterator[tuple[Cell, str | None]]:
    """For each cell of a reach the direction to the one before it on its route."""
    for cell in reach.cells[1:]:
        route = reach.route_to(cell, prefer="first")
        walked = route.steps and route.steps[-1].direction
        yield cell, reach.board.grid.direction(cell, route.cells[-2]) if walked else None


def _after(field: Field) -> Iterator[tuple[Cell, str | None]]:
    """For each cell of a field the direction to the one after it."""
    for cell in field.cells:
        other = field.next(cell)
        if other is not None and other != cell:
            yield cell, field.board.grid.direction(cell, other)


def heat(reach: Reach) -> Overlay:
    """What it costs to get to every cell of a reach: bands of cost in figures, digits in terminals.

    Returns
    -------
    Overlay
        Role "field", number and text: the cost.

    Raises
    ------
    InputError
        ``reach`` is not a reach.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.SquareGrid(4, 1), {"turf": 1})
    >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(2)), at=(0, 0))
    >>> [mark.number for mark in us.draw.heat(us.reach(board, "scout")).values()]
    [0.0, 1.0, 2.0]
    """
    if not isinstance(reach, Reach):
        raise InputError("reach", "must be a Reach", reach)
    cells, costs = reach._columns()
    rows = zip(Cells(cells), costs.tolist(), strict=True)
    return Overlay._of({cell: Mark("field", cost, f"{cost:g}") for cell, cost in rows})
