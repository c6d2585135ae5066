"""Curve: a route as a line through the world, rounded where it bends, that stays in its cells."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from understep.boards.board import Board
from understep.errors import InputError
from understep.grids.cell import Cell, Cells
from understep.grids.world import FloatArray
from understep.moves.route import Route

MOST = 1000


@dataclass(frozen=True, eq=False)
class Curve:
    """A line along a route; made by `curve`.

    Attributes
    ----------
    cells
        The cells of the route.
    ground
        Points on level ground, ``(points, 2)`` float64, in world units; read-only.
    levels
        The level of elevation at each, ``(points,)``: that of the cell in its middle, in between
        halfway at the border.
    places
        How far along each lies, ``(points,)``: whole numbers in the middle of cells, from 0 on,
        halves at the borders.
    """

    cells: Cells
    ground: FloatArray
    levels: FloatArray
    places: FloatArray
    _board: Board

    @property
    def points(self) -> FloatArray:
        """The points as they are seen, ``(points, 2)``: lifted by their levels. A new array."""
        return self._board.grid.lifted(self.ground.copy(), self.levels)


def curve(route: Route, *, fine: int = 8, smooth: bool = True) -> Curve:
    """A line along a route.

    Through a bend it is a quadratic Bezier curve from the middle of one border to that of another,
    drawn towards the middle of the cell, so that it never leaves the route's cells. Links and leaps
    are straight lines.

    Parameters
    ----------
    route
        A route that was found.
    fine
        Into how many pieces each half of a cell is cut.
    smooth
        Whether bends are rounded; else it leads through the middle of every cell.

    Returns
    -------
    Curve

    Raises
    ------
    InputError
        A route that is none, or was not found; ``fine`` that is not a whole number from 1 to 1000.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.SquareGrid(4, 4), {"turf": 1})
    >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=9)), at=(0, 0))
    >>> line = us.curve(us.route(board, "scout", to=(2, 1)), fine=1)
    >>> line.points.tolist()
    [[0.5, 0.5], [1.0, 0.5], [1.5, 0.5], [2.0, 0.5], [2.375, 0.625], [2.5, 1.0], [2.5, 1.5]]
    """
    if not isinstance(route, Route) or not route:
        raise InputError("route", "must be a route that was found", route)
    if type(fine) is not int or not 1 <= fine <= MOST:
        raise InputError("fine", f"must be a whole number from 1 to {MOST}", fine)
    jumps = [step.direction is None for step in route.steps]
    return laid(route.board, list(route.cells), jumps, fine, smooth)


def laid(
    board: Board, cells: Sequence[Cell], jumps: Sequence[bool], fine: int, smooth: bool
) -> Curve:
    """A curve through some cells; ``jumps``: which of the steps are no steps to a neighbor."""
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
    along = np.concatenate(places)
    levels = np.interp(along, np.arange(len(cells)), board.elevation[grid.index(np.array(cells))])
    ground = np.concatenate(points)
    ground.flags.writeable = False
    return Curve(Cells(list(cells)), ground, levels, along, board)


def _bezier(
    start: FloatArray, control: FloatArray, end: FloatArray, along: FloatArray
) -> FloatArray:
    """Points of a quadratic Bezier curve."""
    rest = 1 - along
    curve: FloatArray = rest**2 * start + 2 * rest * along * control + along**2 * end
    return curve
