"""Hits: the cells that an attack affects, by its pattern, wherever it is aimed."""

from __future__ import annotations

from functools import lru_cache
from typing import NamedTuple

import numpy as np

from understep.boards.pattern import Pattern
from understep.grids.cell import Cell, Cells, IntArray
from understep.grids.grid import Grid
from understep.grids.lattice import Lattice

SPAN = 16  # vectors of the plane whose directions are at hand
NONE = np.iinfo(np.int64).max  # no cell


class Struck(NamedTuple):
    """The cells that are affected from some stands: a row for each, by number, with its stand.

    Attributes
    ----------
    places
        Of the stands.
    aims
        The first cell, by number, that can be aimed at for it in one direction.
    """

    cells: IntArray
    places: IntArray
    aims: IntArray


class Hits:
    """A pattern on a grid."""

    def __init__(self, grid: Grid, pattern: Pattern) -> None:
        self._grid, self._pattern = grid, pattern

    def cells(self, stand: Cell, aim: Cell) -> Cells:
        """The cells that are affected from a stand; of what turns, none where it aims at itself."""
        grid, pattern = self._grid, self._pattern
        if pattern.shape == "cell":
            return Cells([aim])
        if pattern.shape == "disk":
            return grid.disk(aim, pattern.size)
        if stand == aim:
            return Cells()
        start, end = grid.lattice.plane(np.array([stand, aim]))
        (way,) = _nearest(grid.lattice, pattern, (end - start)[None]).tolist()
        return grid.numbering.within(
            grid.lattice.addresses(start + _turned(grid.lattice, pattern, way))
        )

    def struck(self, stands: IntArray, places: IntArray, aims: IntArray) -> Struck:
        """All that is affected by a pattern that turns.

        Parameters
        ----------
        stands
            Cells by number.
        places, aims
            Pairs: the place of a stand, and the number of a cell that is aimed at from there.
        """
        grid, lattice = self._grid, self._grid.lattice
        # aimed at itself it affects nothing
        beyond = stands[places] != aims
        places, aims = places[beyond], aims[beyond]
        plane = lattice.plane(grid.numbering.cells_of(stands))
        ends = lattice.plane(grid.numbering.cells_of(aims))
        many = len(lattice.directions)
        ways = _nearest(lattice, self._pattern, ends - plane[places])
        # all aims in a direction affect the same, so that the first of them will do
        first = np.full(len(stands) * many, NONE)
        np.minimum.at(first, places * many + ways, aims)
        parts = [(np.zeros(0, dtype=np.int64),) * 3]
        for way, found in enumerate(first.reshape(-1, many).T):
            (mine,) = np.nonzero(found < NONE)
            cells = lattice.addresses(plane[mine, None] + _turned(lattice, self._pattern, way))
            inside = grid.numbering.holds(cells)
            rows = mine[np.nonzero(inside)[0]]
            parts.append((grid.numbering.numbers(cells[inside]), rows, found[rows]))
        return Struck(*map(np.concatenate, zip(*parts, strict=True)))


def _nearest(lattice: Lattice, pattern: Pattern, vectors: IntArray) -> IntArray:
    """The numbers of the directions nearest to vectors ``(n, 2)`` of the plane."""
    span = int(np.abs(vectors).max(initial=0))
    quarters = lattice.kind == "square" and pattern.shape == "cells"
    if span > SPAN:
        return _ways(lattice, quarters, vectors)
    x, y = (vectors + SPAN).T
    found: IntArray = _table(lattice, quarters)[x, y]
    return found


@lru_cache(1 << 5)
def _table(lattice: Lattice, quarters: bool) -> IntArray:
    """The same for all vectors up to `SPAN`, by what is added to their parts."""
    every = np.arange(-SPAN, SPAN + 1)
    vectors = np.stack(np.meshgrid(every, every, indexing="ij"), axis=-1).reshape(-1, 2)
    return _ways(lattice, quarters, vectors).reshape(len(every), -1)


def _ways(lattice: Lattice, quarters: bool, vectors: IntArray) -> IntArray:
    """As `_nearest`; cells given one by one turn by quarters on squares.

    Of two equally near, the one nearer to a row counts, so that mirror images hit mirror images;
    then the first.
    """
    ways = np.arange(len(lattice.directions))
    if quarters:
        ways = ways[(lattice.vectors == 0).any(axis=1)]
    along = np.array(lattice.along(*vectors.T))[ways]
    p, q = lattice.vectors[ways].T
    steep = np.abs(p + 2 * q) if lattice.stagger == 2 else np.abs(q)
    nearest = np.where(along == along.max(axis=0), steep[:, None], NONE)
    found: IntArray = ways[nearest.argmin(axis=0)]
    return found


@lru_cache(1 << 10)
def _turned(lattice: Lattice, pattern: Pattern, way: int) -> IntArray:
    """Where the cells of a pattern lie from its stand, in a direction: vectors ``(n, 2)``."""
    turned: IntArray
    if pattern.shape == "line":
        turned = np.arange(1, pattern.size + 1)[:, None] * lattice.vectors[way]
    elif pattern.shape == "cone":
        # all but the stand itself, nearest first
        turned = lattice.ahead(lattice.nearby(pattern.size)[0][1:], way, pattern.angle)
    else:
        turns = way // (len(lattice.directions) // 4) if lattice.kind == "square" else way
        turned = np.array(pattern.offsets) @ lattice.turning(turns).T
    return turned
