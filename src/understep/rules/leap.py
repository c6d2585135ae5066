"""Leap: a step over a gap, or up or down a ledge."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import KW_ONLY, dataclass
from fractions import Fraction
from typing import Annotated

import numpy as np
from numpy.typing import NDArray

from understep.boards.cost import Cost, fraction, rounded
from understep.checks import Described, Limits, items, text, whole
from understep.errors import InputError
from understep.grids.cell import IntArray
from understep.grids.grid import Grid

FARTHEST = 7


@dataclass(frozen=True, repr=False)
class Leap(Described):
    """How a unit leaps: in a straight line, over cells it need not be able to enter.

    No wall may stand on the line, and no cell on it be blocked, or higher than both its ends. Units
    that are leapt over are not in the way; zones of control count where it lands. On square grids
    it leaps along rows and columns only.

    Parameters
    ----------
    over
        The most cells leapt over, up to 7; 0: only to the next cell, up or down a ledge.
    terrains
        The names of the terrains that can be leapt over; None: any.
    up, down
        The most levels it may land above, and below, where it leaps from; None: any.
    cost
        Points of a leap, however far.

    Raises
    ------
    InputError
        ``over`` is not a whole number from 0 to 7, or ``terrains`` not names.
    CostError
        ``up``, ``down`` or ``cost`` is negative, infinite or no number.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.SquareGrid(5, 1), {"turf": 1, "deep": None})
    >>> board.paint("deep", (2, 0))
    >>> scout = us.Movement(points=4, leap=us.Leap(over=1, terrains=["deep"], cost=2))
    >>> unit = board.add(us.Unit("scout", "wardens", scout), at=(0, 0))
    >>> us.reach(board, "scout")[(3, 0)].cost
    3
    """

    over: Annotated[int, Limits(0, FARTHEST)] = 1
    _: KW_ONLY
    terrains: Iterable[str] | None = None
    up: Cost | None = 0
    down: Cost | None = 0
    cost: Cost = 2

    def __post_init__(self) -> None:
        object.__setattr__(self, "over", whole("over", self.over, 0, FARTHEST))
        names = self.terrains
        if names is not None:
            rule = "must be names of terrains, or None"
            names = tuple(items("terrains", names, rule))
            if not names or not all(isinstance(name, str) for name in names):
                raise InputError("terrains", rule, self.terrains)
            for name in names:
                text("terrains", name)
            names = tuple(sorted(set(names)))
        set_field = object.__setattr__
        set_field(self, "terrains", names)
        for argument in ("up", "down"):
            value = getattr(self, argument)
            set_field(self, argument, None if value is None else rounded(value, argument))
        set_field(self, "cost", rounded(self.cost, "cost"))

    @property
    def price(self) -> Fraction:
        """The points of a leap, as a fraction."""
        return fraction(self.cost)


def leaps_of(grid: Grid, leaps: NDArray[np.uint8], numbers: IntArray) -> IntArray:
    """Start and end of the leaps from some cells, by number, ``(leaps, 2)``.

    ``leaps`` has a row of the board's for each of them: by direction, a bit for each number of
    cells leapt over.
    """
    found = [np.zeros((0, 2), dtype=np.int64)]
    for way in np.flatnonzero(leaps.any(axis=0)).tolist():
        homes = numbers[leaps[:, way] > 0]
        bits = leaps[leaps[:, way] > 0, way]
        ends = grid.numbering.cells_of(homes)
        for over in range(FARTHEST + 1):
            ends = ends + grid.lattice.deltas[grid.lattice.lines(ends), way]
            lands = (bits >> over) & 1 > 0
            found.append(np.stack([homes[lands], grid.numbering.numbers(ends[lands])], axis=-1))
    return np.concatenate(found)
