"""Hits: the cells that an attack affects, by its pattern, wherever it is aimed."""

from __future__ import annotations

import numpy as np

from understep.boards.pattern import Pattern
from understep.grids.cell import Cell, Cells, IntArray
from understep.grids.grid import Grid


class Hits:
    """A pattern on a grid; what was worked out once is kept."""

    def __init__(self, grid: Grid, pattern: Pattern) -> None:
        self._grid, self._pattern = grid, pattern
        self._ways: dict[tuple[int, int], int] = {}
        self._turned: dict[tuple[Cell, int], Cells] = {}

    def cells(self, stand: Cell, aim: Cell) -> Cells:
        """The cells that are affected from a stand; of what turns, none where it aims at itself."""
        grid, pattern = self._grid, self._pattern
        if pattern.shape == "cell":
            return Cells([aim])
        if pattern.shape == "disk":
            return grid.disk(aim, pattern.size)
        if stand == aim:
            return Cells()
        place = stand, self._way(stand, aim)
        if place not in self._turned:
            self._turned[place] = self._turn(*place)
        return self._turned[place]

    def _way(self, stand: Cell, aim: Cell) -> int:
        """The number of the direction in which it is aimed."""
        grid = self._grid
        (x, y), (a, b) = (grid.lattice.plane(np.array(cell)).tolist() for cell in (stand, aim))
        vector = (a - x, b - y)
        # many stands lie the same way from what they aim at
        if vector not in self._ways:
            self._ways[vector] = self._nearest(*vector)
        return self._ways[vector]

    def _nearest(self, x: int, y: int) -> int:
        """The number of the direction nearest to a vector of the plane.

        Cells given one by one turn by quarters on squares. Of two equally near, the one nearer to a
        row counts, so that mirror images hit mirror images; then the first.
        """
        grid, along = self._grid, self._grid.lattice.along(x, y)
        vectors: list[list[int]] = grid.lattice.vectors.tolist()
        ways = list(range(len(vectors)))
        if grid.kind == "square" and self._pattern.shape == "cells":
            ways = [way for way in ways if 0 in vectors[way]]
        flat = grid.lattice.stagger == 2

        def steep(way: int) -> int:
            p, q = vectors[way]
            return abs(p + 2 * q) if flat else abs(q)

        return min(ways, key=lambda way: (-along[way], steep(way)))

    def _turn(self, stand: Cell, way: int) -> Cells:
        """The cells of a pattern that starts at a stand, in a direction."""
        grid, pattern = self._grid, self._pattern
        if pattern.shape == "line":
            row = (grid.step(stand, way, n) for n in range(1, pattern.size + 1))
            return Cells([cell for cell in row if cell is not None])
        if pattern.shape == "cone":
            return grid.cone(stand, way, pattern.size, angle=pattern.angle)
        turns = way // (len(grid.directions) // 4) if grid.kind == "square" else way
        turned: IntArray = np.array(pattern.offsets) @ grid.lattice.turning(turns).T
        return grid.numbering.within(
            grid.lattice.addresses(grid.lattice.plane(np.array(stand)) + turned)
        )
