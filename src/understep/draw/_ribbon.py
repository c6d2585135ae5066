"""Ribbon: a route cut into pieces for drawing: start, straight, bend, end, with rotation."""

from __future__ import annotations

from typing import Literal, NamedTuple, TypeAlias

from understep.boards.board import Board
from understep.draw._curve import geometry
from understep.errors import InputError
from understep.grids.cell import Cell
from understep.moves.route import Route

PieceShape: TypeAlias = Literal["point", "start", "straight", "bend", "sharp bend", "back", "end"]


class Piece(NamedTuple):
    """What to draw of a route in one cell.

    Attributes
    ----------
    cell
        The cell.
    shape
        ``"start"`` and ``"end"``: of the route, or where it leaves by a link or a leap and where
        that leads; ``"straight"``; ``"bend"``: by one direction of the grid; ``"sharp bend"``: by
        more; ``"back"``: by half a turn; ``"point"``: nothing leads in or out along the ground.
    heading
        The direction in which the route comes in, by name; of a start that in which it leaves; None
        for a point.
    turn
        By how many directions of the grid it turns to the right here; negative to the left.
    rotation
        By how many directions of the grid the heading lies clockwise from the first.
    angle
        By how many degrees, clockwise on the screen, to turn a picture that heads for the top of
        the screen; the frame is counted in. On stretched or isometric frames pictures are better
        drawn for each rotation; then the angle is that of their heading.
    turn_end
        The number of the turn that ends here; None: none does.
    """

    cell: Cell
    shape: PieceShape
    heading: str | None
    turn: int
    rotation: int
    angle: float
    turn_end: int | None

    @property
    def mirrored(self) -> bool:
        """Whether a picture that bends to the right is to be mirrored."""
        return self.turn < 0


def ribbon(route: Route, *, on: Board | None = None) -> tuple[Piece, ...]:
    """A route as pieces to draw, one for each of its cells, in order.

    Parameters
    ----------
    route
        The route; one that was not found has no pieces.
    on
        Another board of the same cells, as in `curve`: the angles are for its frame.

    Returns
    -------
    tuple of Piece

    Raises
    ------
    InputError
        ``route`` is no route; ``on`` has other cells.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.SquareGrid(5, 4), {"turf": 1, "ruin": None})
    >>> board.paint("ruin", (2, 1))
    >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=9)), at=(0, 1))
    >>> pieces = us.ribbon(us.route(board, "scout", goals=(3, 2)))
    >>> [(piece.shape, piece.heading, piece.turn) for piece in pieces][:3]
    [('start', 'S', 0), ('bend', 'S', -1), ('straight', 'E', 0)]
    >>> pieces[1].rotation, pieces[1].angle, pieces[1].mirrored, pieces[-1].turn_end
    (2, 180.0, True, 1)
    """
    if not isinstance(route, Route):
        raise InputError("route", "must be a route", route)
    grid, steps = geometry(route, on).grid, route.steps
    own, names = route.board.grid.lattice, grid.directions
    ways = [None, *(step.direction and names[own.way(step.direction)] for step in steps), None]
    clockwise = grid.lattice.seen(names)  # where rows count up, they go the other way
    found = []
    for place, cell in enumerate(route.cells):
        before, after = ways[place], ways[place + 1]
        heading = before or after
        rotation = 0 if heading is None else clockwise.index(heading)
        turn = 0
        if before is not None and after is not None:
            many = len(grid.directions)
            turn = (clockwise.index(after) - rotation + many // 2) % many - many // 2
        angle = 0.0 if heading is None else grid.bearing(heading)
        here = steps[place - 1].turn if place else 1
        ends = place == len(steps) or steps[place].turn > here
        shape = _shape(before is not None, after is not None, turn, len(grid.directions))
        found.append(Piece(cell, shape, heading, turn, rotation, angle, here if ends else None))
    return tuple(found)


def _shape(comes: bool, goes: bool, turn: int, many: int) -> PieceShape:
    if not comes or not goes:
        return "end" if comes else "start" if goes else "point"
    if turn == 0:
        return "straight"
    return "bend" if abs(turn) == 1 else "back" if 2 * abs(turn) == many else "sharp bend"
