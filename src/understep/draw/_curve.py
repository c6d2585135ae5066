"""Curve: a route as a line through the world: rounded where it bends, exact, or pulled taut."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal, TypeAlias

import numpy as np

from understep.boards.board import Board
from understep.checks import whole
from understep.draw._taut import stretches
from understep.errors import InputError
from understep.grids.cell import Cell, Cells
from understep.grids.lattice import FloatArray
from understep.grids.systems import choice
from understep.moves.route import Route

MOST = 1000
Line: TypeAlias = Literal["rounded", "exact", "taut"]


@dataclass(frozen=True, eq=False, repr=False)
class Curve:
    """A line along a route; made by `curve`.

    Attributes
    ----------
    cells
        The cells that it leads over, those of the route unless it is taut.
    ground
        Points on level ground, ``(points, 2)`` float64, in world units; read-only.
    levels
        The level of elevation at each, ``(points,)``: that of the cell in its middle, in between
        halfway at the border.
    places
        How far along each lies, ``(points,)``: whole numbers in the middle of cells, from 0 on,
        halves at the borders.
    board
        The board.
    """

    cells: Cells
    ground: FloatArray
    levels: FloatArray
    places: FloatArray
    board: Board

    def __repr__(self) -> str:
        return f"<Curve: {len(self.ground)} points over {len(self.cells)} cells>"

    @property
    def points(self) -> FloatArray:
        """The points as they are seen, ``(points, 2)``: lifted by their levels. A new array."""
        return self.board.grid.layout.lifted(self.ground.copy(), self.levels)


def curve(route: Route, *, fine: int = 8, line: Line = "rounded", on: Board | None = None) -> Curve:
    """A line along a route.

    Parameters
    ----------
    route
        A route that was found.
    fine
        Into how many pieces each half of a cell is cut.
    line
        ``"rounded"``: through a bend a quadratic Bezier curve from the middle of one border to that
        of another, drawn towards the middle of the cell, so that it never leaves the route's cells.
        ``"exact"``: through the middle of every cell. ``"taut"``: pulled straight from bend to
        bend, where all ground that it touches, even in a corner, can be stepped over by the route's
        rules and takes no more points a step than the dearest step of what it replaces; bends lie
        in the middle of cells, and where turns end. Links and leaps are straight lines in all.
    on
        Another board of the same cells, such as one from `reframe`: the points are for its frame.

    Returns
    -------
    Curve

    Raises
    ------
    InputError
        A value that is not a route, or a route that was not found; ``fine`` that is not a whole
        number from 1 to 1000; ``on`` has other cells.
    NameUnknownError
        An unknown word for ``line``.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.SquareGrid(4, 4), {"turf": 1})
    >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=9)), at=(0, 0))
    >>> route = us.route(board, "scout", goals=(2, 1))
    >>> us.curve(route, fine=1).points.tolist()
    [[0.5, 0.5], [1.0, 0.5], [1.5, 0.5], [2.0, 0.5], [2.375, 0.625], [2.5, 1.0], [2.5, 1.5]]
    >>> taut = us.curve(route, fine=1, line="taut")
    >>> taut.points[[0, -1]].tolist(), [tuple(cell) for cell in taut.cells]
    ([[0.5, 0.5], [2.5, 1.5]], [(0, 0), (1, 0), (1, 1), (2, 1)])
    """
    if not isinstance(route, Route) or not route:
        raise InputError("route", "must be a route that was found", route)
    fine = whole("fine", fine, 1, MOST)
    choice(line, Line, "line")
    board = geometry(route, on)
    if line == "taut":
        return pulled(route, fine, board)
    jumps = [step.direction is None for step in route.steps]
    return laid(board, list(route.cells), jumps, fine, line == "rounded")


def geometry(route: Route, on: Board | None) -> Board:
    """The board whose frame counts for a route: its own, or another of the same cells."""
    if on is None:
        return route.board
    if not isinstance(on, Board) or not on.grid._same_cells(route.board.grid):
        raise InputError("on", "must be a board of the same cells", on)
    return on


def pulled(route: Route, fine: int, board: Board) -> Curve:
    """The taut curve of a route."""
    grid = board.grid
    cells = [route.cells[0]]
    points, places = [grid.center(cells)], [np.zeros(1)]
    half = np.linspace(0, 0.5, fine + 1)[1:]
    rest = iter(route.steps)
    for piece in stretches(route):
        first, start = len(cells) - 1, grid.center(cells[-1])
        if piece is None:
            cells.append(next(rest).cell)
            points.append(grid.center(cells[-1:]))
            places.append(np.array([first + 1.0]))
            continue
        cells += piece.cells[1:]
        while next(rest).cell != cells[-1]:
            pass
        borders = np.concatenate([[0.0], piece.ends, [1.0]])
        middles = np.concatenate([[0.0], (piece.ends[:-1] + piece.ends[1:]) / 2, [1.0]])
        knots = np.insert(middles, range(1, len(middles)), borders[1:-1])
        steps = np.arange(0, len(knots) - 1)[:, None] / 2 + half
        along = np.interp(steps.ravel(), np.arange(len(knots)) / 2, knots)
        points.append(start + (grid.center(cells[-1]) - start) * along[:, None])
        places.append(first + steps.ravel())
    return finished(board, cells, points, places)


def laid(
    board: Board, cells: Sequence[Cell], jumps: Sequence[bool], fine: int, smooth: bool
) -> Curve:
    """A curve through some cells; ``jumps``: which of the steps are not steps to a neighbor."""
    grid = board.grid
    middles = grid.center(np.array(cells))
    points, places = [middles[:1]], [np.zeros(1)]
    half = np.linspace(0, 0.5, fine + 1)[1:, None]
    for place in range(len(cells)):
        here = middles[place]
        comes = place > 0 and not jumps[place - 1]
        goes = place + 1 < len(cells) and not jumps[place]
        start = (middles[place - 1] + here) / 2 if comes else here
        end = (middles[place + 1] + here) / 2 if goes else here
        rounded = smooth and comes and goes
        if comes:
            part = 2 * half
            way = start + (here - start) * part
            if rounded:
                way = _bezier(start, here, end, half)
            points.append(way)
            places.append(place - 0.5 + half[:, 0])
        elif place > 0:  # the end of a jump
            points.append(here[None])
            places.append(np.array([float(place)]))
        if goes:
            way = here + (end - here) * 2 * half
            if rounded:
                way = _bezier(start, here, end, 0.5 + half)
            points.append(way)
            places.append(place + half[:, 0])
    return finished(board, cells, points, places)


def finished(
    board: Board, cells: Sequence[Cell], points: list[FloatArray], places: list[FloatArray]
) -> Curve:
    """A curve of points, and where along its cells they lie; with the levels there."""
    along, ground = np.concatenate(places), np.concatenate(points)
    levels = np.interp(
        along, np.arange(len(cells)), board.elevation[board.grid.index(np.array(cells))]
    )
    ground.flags.writeable = False
    return Curve(Cells(list(cells)), ground, levels, along, board)


def cut(line: Curve, end: int, fine: int) -> Curve:
    """A curve up to the middle of one of its cells, the same until it enters that."""
    kept = line.places <= max(end - 0.5, 0)
    points, places = line.ground[kept], line.places[kept]
    middle = line.board.grid.center(line.cells[end])
    if end == 0 or places[-1] < end - 0.5:  # it is where it starts, or jumps there
        rest, more = np.array([middle]), np.array([float(end)])
    else:
        more = end - 0.5 + np.linspace(0, 0.5, fine + 1)[1:]
        rest = points[-1] + (middle - points[-1]) * (2 * (more - end + 0.5))[:, None]
    start = slice(0, 0) if end == 0 else slice(None)
    cells = list(line.cells)[: end + 1]
    return finished(line.board, cells, [points[start], rest], [places[start], more])


def joined(line: Curve, other: Curve) -> Curve:
    """A curve and another that starts where it ends."""
    last = len(line.cells) - 1
    return finished(
        line.board, [*line.cells, *list(other.cells)[1:]],
        [line.ground, other.ground[1:]], [line.places, last + other.places[1:]],
    )  # fmt: skip


def _bezier(
    start: FloatArray, control: FloatArray, end: FloatArray, along: FloatArray
) -> FloatArray:
    """Points of a quadratic Bezier curve."""
    rest = 1 - along
    curve: FloatArray = rest**2 * start + 2 * rest * along * control + along**2 * end
    return curve
