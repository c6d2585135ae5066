"""Poses: where a unit that moves along a route is at any time, and which way it looks."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal, NamedTuple

import numpy as np

from understep.boards.board import Board
from understep.checks import expect, real
from understep.draw._curve import Curve, Line, curve, cut, joined, laid
from understep.errors import InputError
from understep.grids.cell import Cell
from understep.grids.compass import Points, compass_point
from understep.grids.lattice import FloatArray
from understep.moves.route import Route

FINE = 8
#: What a step of a route is taken on; a leap is through the air.
On = Literal["ground", "link", "leap"]


class Pose(NamedTuple):
    """A unit on its route, at one moment.

    Attributes
    ----------
    point
        Where it is seen, in world units, elevation included.
    level
        At which level of elevation.
    heading
        Which way it looks: degrees clockwise from the top of the screen.
    cell
        The cell it is on.
    progress
        How much of the time of the whole way is over, 0 to 1.
    on
        ``"ground"``, ``"link"`` (on a ladder, a bridge, through a gate) or ``"leap"``.
    ground
        The point without its elevation, such as for `depth_order`.
    """

    point: tuple[float, float]
    level: float
    heading: float
    cell: Cell
    progress: float
    on: On
    ground: tuple[float, float]

    def facing(self, *, points: Points = 8) -> str:
        """The point of the compass nearest to `heading`, N at the top of the screen.

        Parameters
        ----------
        points
            8: N, NE, E, ...; 4: N, E, S and W. Of two equally near the one to the side.

        Raises
        ------
        InputError
            ``points`` is neither 4 nor 8.
        """
        return compass_point(self.heading, points)


class _Rates(NamedTuple):
    """How fast it goes: seconds a step or units a second; degrees a second; seconds a link."""

    pace: float | None
    speed: float | None
    turning: float | None
    link: float | None


class Poses:
    """A movement along a route in time; made by `poses`.

    Attributes
    ----------
    duration
        How long it takes, in seconds.
    cells
        The cells it leads over.
    """

    def __init__(
        self,
        line: Curve,
        kinds: Sequence[On],
        how: Line,
        paces: Sequence[float],
        rates: _Rates,
    ) -> None:
        self._line, self._kinds, self._how = line, list(kinds), how
        self._paces, self._rates = list(paces), rates
        self._board, self.cells = line.board, list(line.cells)
        self._points, self._levels, self._places = line.points, line.levels, line.places
        # along the ground: what raises a unit takes no time
        gaps = np.hypot(*np.diff(line.ground, axis=0).T)
        each = np.array([*self._paces, 0.0])[self._places[:-1].astype(np.int64)]
        if rates.speed is not None:
            spans = np.where(each > 0, each, gaps / rates.speed)
        else:  # every half of a step takes as long
            halves = np.floor(self._places[:-1] + self._places[1:]).astype(np.int64)
            whole = np.bincount(halves, gaps, minlength=2 * len(self.cells))
            spans = gaps / np.where(whole > 0, whole, 1)[halves] * each / 2
            # a link or a leap is one long piece, not two halves
            spans = np.where(np.diff(self._places) > 0.75, each, spans)
        self._times = np.concatenate([[0.0], np.cumsum(spans)])
        if rates.speed is None:  # to the last bit
            self._times[-1] = math.fsum(self._paces)
        self.duration = float(self._times[-1])
        self._headings = self._turned(rates.turning)

    def _turned(self, turning: float | None) -> tuple[FloatArray, FloatArray]:
        """Times, and the heading from each on, or if turning takes time, at each."""
        x, y = np.diff(self._points, axis=0).T
        bearings = np.degrees(np.arctan2(x, -y * self._board.grid.frame.down)) % 360
        # a unit that stands still keeps its last heading
        moving = (x != 0) | (y != 0)
        times, bearings = self._times[:-1][moving], bearings[moving]
        if turning is None or not len(bearings):
            return times, bearings
        knots, heads = [float(times[0])], [float(bearings[0])]
        ends = [*times[1:].tolist(), self.duration]
        for start, end, wanted in zip(times.tolist(), ends, bearings.tolist(), strict=True):
            # the shorter way round
            turn = (wanted - heads[-1] + 180) % 360 - 180
            needed = abs(turn) / turning
            # the next piece can begin before it has turned all the way
            share = min(1.0, (end - start) / needed) if needed else 1.0
            knots += [start + min(needed, end - start), end]
            heads += [heads[-1] + turn * share] * 2
        return np.array(knots), np.array(heads)

    def __repr__(self) -> str:
        return f"<Poses: {len(self.cells)} cells in {self.duration:g} s>"

    def at(self, time: float) -> Pose:
        """Where the unit is at a time, in seconds; before its start and after its end it stands.

        Raises
        ------
        InputError
            ``time`` is not a number.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(6, 1), {"turf": 1, "deep": None})
        >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=4)), at=(0, 0))
        >>> poses = us.poses(us.route(board, "scout", (4, 0)), speed=2)
        >>> poses.at(1.0).point
        (2.5, 0.5)
        """
        now = self._now(time)
        x, y, u, v = (
            float(np.interp(now, self._times, part))
            for points in (self._points, self._line.ground)
            for part in points.T
        )
        place = float(np.interp(now, self._times, self._places))
        cell = self.cells[min(math.floor(place + 0.5), len(self.cells) - 1)]
        progress = now / self.duration if self.duration else 1.0
        level = float(np.interp(now, self._times, self._levels))
        step = math.floor(place) if place % 1 else -1  # in the middle of a cell it stands there
        on: On = self._kinds[step] if step >= 0 else "ground"
        return Pose((x, y), level, self._heading(now), cell, progress, on, (u, v))

    def _now(self, time: float) -> float:
        """A time that is one, between the start and the end."""
        now = real("time", time, "must be a number of seconds")
        return min(max(now, 0.0), self.duration)

    def _heading(self, now: float) -> float:
        times, headings = self._headings
        if not len(headings):
            return 0.0
        if self._rates.turning is not None:
            return float(np.interp(now, times, headings)) % 360
        return float(headings[max(0, int(np.searchsorted(times, now, side="right")) - 1)])

    def stop(self, time: float) -> Poses:
        """The same movement, but that it ends in the middle of the next cell that it enters.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(6, 1), {"turf": 1, "deep": None})
        >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=4)), at=(0, 0))
        >>> poses = us.poses(us.route(board, "scout", (4, 0)), speed=2)
        >>> poses.stop(0.6).at(9.0).point
        (2.5, 0.5)
        """
        end = self._next(time)
        line = cut(self._line, end, FINE)
        return Poses(line, self._kinds[:end], self._how, self._paces[:end], self._rates)

    def redirect(self, time: float, route: Route) -> Poses:
        """The same movement, but that from the next cell that it enters it follows another route.

        Raises
        ------
        InputError
            It is not a route, or does not start in that cell.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(6, 1), {"turf": 1, "deep": None})
        >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=4)), at=(0, 0))
        >>> poses = us.poses(us.route(board, "scout", (4, 0)), speed=2)
        >>> scout = board.put("scout", at=(2, 0))
        >>> turned = poses.redirect(0.5, us.route(board, "scout", (0, 0)))
        >>> turned.at(9.0).point
        (0.5, 0.5)
        """
        expect("route", route, Route, "must be a route")
        end = self._next(time)
        if not route or route.cells[0] != self.cells[end]:
            raise InputError("route", f"must start in {tuple(self.cells[end])}", route)
        line, kinds = _line(route, self._how, self._board)
        paces = self._paces[:end] + _paces(route, kinds, self._rates, line)
        # past the border of a cell the line to its middle is drawn already
        inside = float(np.interp(self._now(time), self._times, self._places)) > end - 0.5
        if inside or self._how == "taut":  # through its middle
            line, kinds = joined(cut(self._line, end, FINE), line), self._kinds[:end] + kinds
        else:
            kinds = self._kinds[:end] + kinds
            cells, jumps = self.cells[:end] + list(route.cells), [on != "ground" for on in kinds]
            line = laid(self._board, cells, jumps, FINE, self._how == "rounded")
        return Poses(line, kinds, self._how, paces, self._rates)

    def _next(self, time: float) -> int:
        """The place of the next cell that is entered after a time."""
        now = self._now(time)
        place = float(np.interp(now, self._times, self._places))
        # before it sets off it need not enter any cell
        return 0 if now <= 0 else min(math.floor(place + 0.5) + 1, len(self.cells) - 1)


def _line(route: Route, how: Line, on: Board | None) -> tuple[Curve, list[On]]:
    """The line of a route, and what each of its steps is taken on."""
    line = curve(route, fine=FINE, line=how, on=on)
    kinds: list[On] = ["ground"] * (len(line.cells) - 1)
    for place in line.places[:-1][np.diff(line.places) > 0.75].astype(int).tolist():
        start, end = line.cells[place], line.cells[place + 1]
        # both are one step to a cell that is no neighbor
        linked = any(link.b == end for link in route.board.links(start))
        kinds[place] = "link" if linked else "leap"
    return line, kinds


def _paces(route: Route, kinds: list[On], rates: _Rates, line: Curve) -> list[float]:
    """Seconds for each step of a line; 0: by its speed.

    At a pace all of them together take as long as the route's steps: a taut line can have fewer of
    them; its jumps are those of the route.
    """
    if rates.speed is not None:
        link = rates.link or _longest(line.board) / rates.speed
        return [link if on == "link" else 0.0 for on in kinds]
    pace = rates.pace or 0.0
    far = len(kinds) - kinds.count("ground")
    # a taut line leaves cells out, and takes no less time for that
    share = (len(route.cells) - 1 - far) / max(1, len(kinds) - far)
    each = {"ground": pace * share, "leap": pace, "link": rates.link or pace}
    return [each[on] for on in kinds]


def _longest(board: Board) -> float:
    """How far the farthest neighbor of a cell is, in world units."""
    grid = board.grid
    beside = grid.lattice.around(np.zeros(2, dtype=np.int64))
    return float(np.hypot(*(grid.center(beside) - grid.center((0, 0))).T).max())


def poses(
    route: Route,
    *,
    speed: float | None = None,
    pace: float | None = None,
    turning: float | None = None,
    link: float | None = None,
    line: Line = "rounded",
    on: Board | None = None,
) -> Poses:
    """Move along a route in time: position, height, heading and cell at any moment.

    Parameters
    ----------
    route
        A route that was found.
    speed
        World units a second, along the ground; or else
    pace
        seconds for every step of the route, however long. A taut line takes as long as the route,
        its cells equally long.
    turning
        Degrees a second that it can turn; by default it looks along its way at once.
    link
        Seconds for a link, however far apart its ends are; by default as for a step to the
        farthest neighbor.
    line
        ``"rounded"``, ``"exact"`` or ``"taut"``, as in `curve`.
    on
        Another board of the same cells, as in `curve`.

    Returns
    -------
    Poses

    Raises
    ------
    InputError
        A value that is not a route, or a route that was not found; neither or both of ``speed`` and
        ``pace``; one of them, ``turning`` or ``link`` that is not a number from 1e-9 to 1e9;
        ``on`` has other cells.
    NameUnknownError
        An unknown word for ``line``.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.SquareGrid(6, 2), {"turf": 1})
    >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=9)), at=(0, 0))
    >>> poses = us.poses(us.route(board, "scout", goals=(4, 0)), speed=2)
    >>> poses.duration, poses.at(0.5).point, poses.at(0.5).heading, tuple(poses.at(0.5).cell)
    (2.0, (1.5, 0.5), 90.0, (1, 0))
    >>> poses.stop(0.5).duration
    1.0
    """
    if not isinstance(route, Route) or not route:
        raise InputError("route", "must be a route that was found", route)
    if (speed is None) == (pace is None):
        raise InputError("speed", "give a speed or a pace", speed)
    rule = "must be a number from 1e-9 to 1e9"
    given = {"pace": pace, "speed": speed, "turning": turning, "link": link}
    rates = _Rates(*(
        None if value is None else real(name, value, rule, 1e-9, 1e9)
        for name, value in given.items()
    ))  # fmt: skip
    drawn, kinds = _line(route, line, on)
    return Poses(drawn, kinds, line, _paces(route, kinds, rates, drawn), rates)
