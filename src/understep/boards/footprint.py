"""Footprint: the cells that a unit takes up, as steps from its anchor cell."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any, Self

import numpy as np

from understep.checks import whole
from understep.errors import InputError
from understep.grids.cell import IntArray, plain_numbers
from understep.grids.grid import Grid

MOST = 64
FARTHEST = 16


class Footprint(tuple[tuple[int, int], ...]):
    """The cells that a unit takes up, as offsets from its anchor cell, which comes first.

    It is a tuple of pairs, in plane coordinates: on squares columns and rows, on hexes axial ones.

    Parameters
    ----------
    offsets
        Pairs of whole numbers, (0, 0) among them, in any order.

    Raises
    ------
    InputError
        No such pairs, more than 64, or one more than 16 columns or rows away.

    Examples
    --------
    >>> import understep as us
    >>> us.Footprint([(1, 0), (0, 0)])
    Footprint([(0, 0), (1, 0)])
    """

    __slots__ = ()

    def __new__(cls, offsets: Iterable[Any] = ((0, 0),)) -> Self:
        """Check the offsets."""
        return offsets if type(offsets) is cls else cls._of(offsets, "footprint")

    @classmethod
    def _of(cls, offsets: Iterable[Any], argument: str) -> Self:
        return super().__new__(cls, _checked(offsets, argument))

    def __repr__(self) -> str:
        return f"Footprint({list(self)})"

    @classmethod
    def block(cls, cols: int, rows: int | None = None) -> Footprint:
        """The footprint of a unit that takes up columns and rows of squares.

        Parameters
        ----------
        cols, rows
            How many; as many rows as columns if left out. The anchor is the first cell.

        Raises
        ------
        InputError
            Counts that are not whole numbers of 1 or more, or more than 64 cells.

        Examples
        --------
        >>> import understep as us
        >>> us.Footprint.block(2)
        Footprint([(0, 0), (1, 0), (0, 1), (1, 1)])
        >>> cart = us.Movement(points=4, footprint=us.Footprint.block(2, 1))
        """
        cols = whole("cols", cols, 1, FARTHEST)
        rows = cols if rows is None else whole("rows", rows, 1, FARTHEST)
        return cls._of([(col, row) for row in range(rows) for col in range(cols)], "cols")

    @classmethod
    def cluster(cls, radius: int) -> Footprint:
        """The footprint of a unit that takes up a hex and all within some steps of it.

        Parameters
        ----------
        radius
            The steps, from 0 to 4: 1, 7, 19, 37 or 61 cells. The anchor is the middle.

        Raises
        ------
        InputError
            A radius that is no such number.

        Examples
        --------
        >>> import understep as us
        >>> len(us.Footprint.cluster(1)), us.Footprint.cluster(0)
        (7, Footprint([(0, 0)]))
        """
        radius = whole("radius", radius, 0, 4)
        span = range(-radius, radius + 1)
        near = [(q, r) for r in span for q in span if abs(q + r) <= radius]
        return cls._of(near, "radius")


def _checked(offsets: Iterable[Any], argument: str) -> tuple[tuple[int, int], ...]:
    """Check the offsets of a footprint; the anchor comes first."""
    try:
        pairs = [plain_numbers(tuple(pair)) for pair in offsets]
    except TypeError:
        raise InputError(argument, "must be pairs of whole numbers", offsets) from None
    if None in pairs:
        raise InputError(argument, "must be pairs of whole numbers", offsets)
    found = {(pair[0], pair[1]) for pair in pairs if pair is not None}
    if (0, 0) not in found:
        raise InputError(argument, "must hold the anchor cell, (0, 0)", offsets)
    if len(found) > MOST or max(abs(part) for pair in found for part in pair) > FARTHEST:
        rule = f"at most {MOST} cells, each at most {FARTHEST} columns and rows away"
        raise InputError(argument, rule, offsets)
    rest = sorted(found - {(0, 0)}, key=lambda pair: (pair[1], pair[0]))
    return ((0, 0), *rest)


ONE = Footprint()


def feet(grid: Grid, numbers: IntArray, offsets: Iterable[Any]) -> IntArray:
    """The cells taken up on each of some anchors, all by number: ``(anchors, cells)``.

    -1 where one lies off the grid.
    """
    spread = grid.lattice.spread(grid.numbering.cells_of(numbers), np.array(offsets))
    there = grid.numbering.holds(spread)
    inside = np.where(there[..., None], spread, grid.first)
    return np.where(there, grid.numbering.numbers(inside), -1)
