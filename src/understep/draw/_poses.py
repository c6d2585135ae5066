"""Poses: where a unit that moves along a route is at any time, and which way it looks."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from understep.boards.board import Board
from understep.checks import ABOVE_ZERO, real
from understep.draw._curve import Curve, Line, curve, cut, joined, laid
from understep.errors import InputError
from understep.grids.cell import Cell
from understep.grids.lattice import FloatArray
from understep.moves.route import Route

FINE = 8


class Pose(NamedTuple):
    """A unit on its way, at one moment.

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
    """

    point: tuple[float, float]
    level: float
    heading: float
    cell: Cell
    progress: float


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
        jumps: Sequence[bool],
        how: Line,
        paces: Sequence[float],
        rates: tuple[float | None, float | None, float | None],
    ) -> None:
        self._line, self._jumps, self._how = line, list(jumps), how
        self._paces, self._rates = list(paces), rates
        _, speed, turning = rates
        self._board, self.cells = line.board, list(line.cells)
        self._points, self._levels, self._places = line.points, line.levels, line.places
        gaps = np.hypot(*np.diff(line.ground, axis=0).T)
        if speed is not None:
            spans = gaps / speed
        else:  # every half of a step takes as long
            halves = np.floor(self._places[:-1] + self._places[1:]).astype(np.int64)
            whole = np.bincount(halves, gaps, minlength=2 * len(self.cells))
            each = np.array([*self._paces, 0.0])[self._places[:-1].astype(np.int64)]
            spans = gaps / np.where(whole > 0, whole, 1)[halves] * each / 2
            spans = np.where(np.diff(self._places) > 0.75, each, spans)
        self._times = np.concatenate([[0.0], np.cumsum(spans)])
        if speed is None:  # to the last bit
            self._times[-1] = math.fsum(self._paces)
        self.duration = float(self._times[-1])
        self._headings = self._turned(turning)

    def _turned(self, turning: float | None) -> tuple[FloatArray, FloatArray]:
        """Times, and the heading from each on, or if turning takes time, at each."""
        x, y = np.diff(self._points, axis=0).T
        bearings = np.degrees(np.arctan2(x, -y * self._board.grid.frame.down)) % 360
        moving = (x != 0) | (y != 0)
        times, bearings = self._times[:-1][moving], bearings[moving]
        if turning is None or not len(bearings):
            return times, bearings
        knots, heads = [float(times[0])], [float(bearings[0])]
        ends = [*times[1:].tolist(), self.duration]
        for start, end, wanted in zip(times.tolist(), ends, bearings.tolist(), strict=True):
            turn = (wanted - heads[-1] + 180) % 360 - 180
            needed = abs(turn) / turning
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
            ``time`` is no number.
        """
        now = self._now(time)
        x, y = (float(np.interp(now, self._times, part)) for part in self._points.T)
        place = float(np.interp(now, self._times, self._places))
        cell = self.cells[min(math.floor(place + 0.5), len(self.cells) - 1)]
        progress = now / self.duration if self.duration else 1.0
        level = float(np.interp(now, self._times, self._levels))
        return Pose((x, y), level, self._heading(now), cell, progress)

    def _now(self, time: float) -> float:
        """A time that is one, between the start and the end."""
        now = real("time", time, "must be a number of seconds")
        return min(max(now, 0.0), self.duration)

    def _heading(self, now: float) -> float:
        times, headings = self._headings
        if not len(headings):
            return 0.0
        if self._rates[2] is not None:
            return float(np.interp(now, times, headings)) % 360
        return float(headings[max(0, int(np.searchsorted(times, now, side="right")) - 1)])

    def stop(self, time: float) -> Poses:
        """The same movement, but that it ends in the middle of the next cell that it enters."""
        end = self._next(time)
        line = cut(self._line, end, FINE)
        return Poses(line, self._jumps[:end], self._how, self._paces[:end], self._rates)

    def redirect(self, time: float, route: Route) -> Poses:
        """The same movement, but that from the next cell that it enters it follows another route.

        Raises
        ------
        InputError
            The route does not start in that cell.
        """
        end = self._next(time)
        if not route or route.cells[0] != self.cells[end]:
            raise InputError("route", f"must start in {tuple(self.cells[end])}", route)
        line, jumps = _line(route, self._how, self._board)
        paces = self._paces[:end] + _paces(route, jumps, self._rates[0])
        inside = float(np.interp(self._now(time), self._times, self._places)) > end - 0.5
        if inside or self._how == "taut":  # through its middle
            line, jumps = joined(cut(self._line, end, FINE), line), self._jumps[:end] + jumps
        else:
            jumps = self._jumps[:end] + jumps
            cells = self.cells[:end] + list(route.cells)
            line = laid(self._board, cells, jumps, FINE, self._how == "rounded")
        return Poses(line, jumps, self._how, paces, self._rates)

    def _next(self, time: float) -> int:
        """The place of the next cell that is entered after a time."""
        now = self._now(time)
        place = float(np.interp(now, self._times, self._places))
        return 0 if now <= 0 else min(math.floor(place + 0.5) + 1, len(self.cells) - 1)


def _line(route: Route, how: Line, on: Board | None) -> tuple[Curve, list[bool]]:
    """The line of a route, and which of its steps are jumps."""
    line = curve(route, fine=FINE, line=how, on=on)
    jumps = np.zeros(len(line.cells) - 1, dtype=bool)
    gaps = np.diff(line.places)
    jumps[line.places[:-1][gaps > 0.75].astype(int)] = True
    return line, jumps.tolist()


def _paces(route: Route, jumps: list[bool], pace: float | None) -> list[float]:
    """Seconds for each step of a line: all of them together take as long as the route's steps.

    A taut line can have fewer of them; its jumps are those of the route.
    """
    if pace is None or not jumps:
        return [0.0] * len(jumps)
    far = sum(jumps)
    walked = len(route.cells) - 1 - far
    share = walked / (len(jumps) - far) if far < len(jumps) else 1.0
    return [pace if jump else pace * share for jump in jumps]


def poses(
    route: Route,
    *,
    speed: float | None = None,
    pace: float | None = None,
    turning: float | None = None,
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
        ``pace``; one of them, or ``turning``, that is no number above 0; ``on`` has other cells.
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
    rule = "must be a number above 0"
    pace, speed, turning = (
        None if value is None else real(name, value, rule, ABOVE_ZERO)
        for name, value in (("pace", pace), ("speed", speed), ("turning", turning))
    )
    drawn, jumps = _line(route, line, on)
    return Poses(drawn, jumps, line, _paces(route, jumps, pace), (pace, speed, turning))
