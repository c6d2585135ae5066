"""Taut: a route pulled straight over free ground, never through what the route keeps clear of."""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from fractions import Fraction

import numpy as np

from understep.boards.cost import fraction
from understep.boards.unit import Unit
from understep.grids.cell import Cell
from understep.grids.lattice import FloatArray
from understep.moves.route import Route
from understep.moves.search import step

ENDLESS = Fraction(10**6)  # points enough for any step
MOST = 40  # steps that a straight piece can replace
AT_ONCE = 7  # cells that lie beside each other on a line are no farther apart in order
NARROW = 1e-9  # shares of a line that are no more than rounding


class Stretch:
    """A straight piece of a taut line: the cells it runs over, and from where to where of it."""

    def __init__(self, cells: list[Cell], ends: FloatArray) -> None:
        self.cells = cells
        #: Where it leaves each cell but the last, as shares of it.
        self.ends = ends


def stretches(route: Route) -> Iterator[Stretch | None]:
    """The straight pieces of a route pulled taut, from turn's end to turn's end; None: a jump.

    Every cell that a piece touches, even in a corner, is open to the rules of the route, and
    no step is dearer than the dearest of those that it replaces. Of all such lines with bends in
    the middle of cells of the route, and none of its pieces over more than `MOST` steps of it, the
    shortest.
    """
    ground, steps = _Ground(route), route.steps
    runs = itertools.groupby(
        range(len(steps)), lambda place: (steps[place].turn, steps[place].direction is None)
    )
    for (_, jumps), places in runs:
        if jumps:
            yield from (None for _ in places)
        else:
            run = list(places)
            yield from _pulled(route, ground, run[0], run[-1] + 1)


def _pulled(route: Route, ground: _Ground, first: int, last: int) -> Iterator[Stretch]:
    """The straight pieces of a part of a route, between two of its cells."""
    cells, steps = list(route.cells), route.steps
    points = route.board.grid.center(np.array(cells))
    rest = {last: 0.0}  # how long the line is from each cell on
    onward: dict[int, tuple[int, Stretch]] = {}
    for here in range(last - 1, first - 1, -1):
        ends = range(here + 1, min(here + MOST, last) + 1)
        gaps = np.hypot(*(points[here + 1 : ends[-1] + 1] - points[here]).T).tolist()
        found = sorted((gap + rest[end], -end) for gap, end in zip(gaps, ends, strict=True))
        for long, end in found:
            piece = Stretch(cells[here : here + 2], np.array([0.5]))
            if -end > here + 1:  # else it is a step of the route
                dearest = max(fraction(each.cost) for each in steps[here:-end])
                wider = ground.stretch(cells[here], cells[-end], dearest)
                if wider is None:
                    continue
                piece = wider
            rest[here], onward[here] = long, (-end, piece)
            break
    while first < last:
        first, piece = onward[first]
        yield piece


class _Ground:
    """The board that a route leads over: what can be stepped from where, and for how much."""

    def __init__(self, route: Route) -> None:
        self._board = route.board
        self._unit: Unit = route.unit.changed(left=ENDLESS)
        self._costs: dict[tuple[Cell, Cell], Fraction | None] = {}

    def stretch(self, start: Cell, end: Cell, dearest: Fraction) -> Stretch | None:
        """The straight piece from one cell to another; None: not all of it is free."""
        grid = self._board.grid
        array, shares = grid.touched(start, end)
        if not grid.numbering.holds(array).all():
            return None
        cells = [Cell(*cell) for cell in array.tolist()]
        middles = shares.sum(axis=1).tolist()
        for place, a in enumerate(cells):
            for other in range(place + 1, min(place + AT_ONCE, len(cells))):
                b, ahead = cells[other], middles[other] - middles[place]
                if not self._beside(a, b):
                    continue
                # forwards, and both ways between cells on both sides of the line
                if ahead > -NARROW and not self._allows(a, b, dearest):
                    return None
                if ahead < NARROW and not self._allows(b, a, dearest):
                    return None
        return Stretch(*_passages(cells, shares))

    def _beside(self, a: Cell, b: Cell) -> bool:
        """Whether two cells share an edge."""
        grid = self._board.grid
        if abs(a.col - b.col) > 1 or abs(a.row - b.row) > 1:
            return False
        way = grid.direction(a, b)
        return (
            way is not None
            and grid.distance(a, b) == 1
            and grid.lattice.way(way) in grid.lattice.edge_ways
        )

    def _allows(self, a: Cell, b: Cell, dearest: Fraction) -> bool:
        if (a, b) not in self._costs:
            taken = step(self._board, self._unit, a, b, False)
            self._costs[a, b] = None if taken is None else ENDLESS - taken[0]
        cost = self._costs[a, b]
        return cost is not None and cost <= dearest


def _passages(cells: list[Cell], shares: FloatArray) -> tuple[list[Cell], FloatArray]:
    """The cells that a line runs over one after the other, and where it leaves each.

    Along a border those on its one side count, through a corner none but before and after it.
    """
    over, ends, now = [cells[0]], [], float(shares[0, 1])
    while now < 1 - NARROW:
        ahead = [
            place for place, (enters, leaves) in enumerate(shares.tolist())
            if enters <= now + NARROW and leaves > now + NARROW
        ]  # fmt: skip
        best = min(ahead, key=lambda place: (float(shares[place, 1]), cells[place]))
        ends.append(now)
        over.append(cells[best])
        now = float(shares[best, 1])
    return over, np.array(ends)
