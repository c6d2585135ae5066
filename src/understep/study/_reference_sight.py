"""Sight: who sees whom, by cutting the polygons of all cells in rational numbers."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from itertools import pairwise
from typing import Any

from understep.boards.board import Board
from understep.grids.cell import Cell
from understep.grids.hexes import HexGrid
from understep.study._reference_rules import thousandths

NUDGE = Fraction(1, 10**6)
# steps along both lattice axes, corners around a middle, and what squares of x and y count
SQUARE = (2, 0), (0, 2), [(-1, -1), (1, -1), (1, 1), (-1, 1)], (1, 1)
POINTY = (2, 0), (1, 3), [(0, -2), (1, -1), (1, 1), (0, 2), (-1, 1), (-1, -1)], (3, 1)
FLAT = (3, 1), (0, 2), [(-1, -1), (1, -1), (2, 0), (1, 1), (-1, 1), (-2, 0)], (1, 3)


class ReferenceLines:
    """The lines of sight of a board that nobody alters meanwhile."""

    def __init__(self, board: Board) -> None:
        self.board, grid = board, board.grid
        shape = (POINTY if grid.top == "pointy" else FLAT) if isinstance(grid, HexGrid) else SQUARE
        across, down, self.corners, self.counts = shape
        low, high = grid.bounds
        self.middles: dict[Cell, tuple[int, int]] = {}
        for col in range(low.col - 3, high.col + 4):  # a line between cells may leave the board
            for row in range(low.row - 3, high.row + 4):
                p, q = (col, row)
                if isinstance(grid, HexGrid):
                    p, q = grid.convert((col, row), "offset", "axial").tolist()
                self.middles[Cell(col, row)] = (
                    p * across[0] + q * down[0], p * across[1] + q * down[1],
                )  # fmt: skip

    def sees(self, a: Cell, b: Cell, eye: Any, target: Any) -> bool:
        """Whether an eye above one cell sees a target above another.

        The straight line is moved by a hair to either side; one clear line is enough.
        """
        start, end = self.level(a) + Fraction(eye), self.level(b) + Fraction(target)
        return a == b or any(
            self._clear(list(self._passed(a, b, nudge)), start, end) for nudge in (NUDGE, -NUDGE)
        )

    def _passed(self, a: Cell, b: Cell, nudge: Fraction) -> list[tuple[Fraction, Cell]]:
        """The cells that the nudged line cuts, in order, by how far along their middles lie."""
        (ax, ay), (bx, by), (wide, high) = self.middles[a], self.middles[b], self.counts
        dx, dy = bx - ax, by - ay
        length, found = dx * dx * wide + dy * dy * high, []
        for cell, (x, y) in self.middles.items():
            sides = [dx * (y + v - ay) - dy * (x + u - ax) - nudge for u, v in self.corners]
            share = Fraction(dx * (x - ax) * wide + dy * (y - ay) * high, length)
            if min(sides) < 0 < max(sides) and 0 <= share <= 1:
                found.append((share, cell))
        return sorted(found)

    def _clear(self, way: list[tuple[Fraction, Cell]], start: Fraction, end: Fraction) -> bool:
        cells = [cell for _, cell in way]
        if not all(cell in self.board.grid for cell in cells):
            return False
        tops = (self._top(cell) <= start + (end - start) * share for share, cell in way[1:-1])
        return all(tops) and not any(self._hides(*pair) for pair in pairwise(cells))

    def level(self, cell: Cell) -> Fraction:
        """The level of the ground of a cell."""
        return thousandths(self.board.elevation[self.board.grid.index(cell)])

    def _top(self, cell: Cell) -> Fraction:
        kinds = self.board.feature_kinds
        covers = [self.board.terrains[self.board.terrain(cell)].cover]
        covers += [kinds[name].cover for name in self.board.features(cell)]
        if any(kinds[name].hides for name in self.board.features(cell)):
            covers.append(10**6)
        return self.level(cell) + thousandths(max(covers))

    def _hides(self, a: Cell, b: Cell) -> bool:
        return any(self._hiding(a, b))

    def _hiding(self, a: Cell, b: Cell) -> Iterator[bool]:
        for one, other in ((a, b), (b, a)):
            kind = self.board.edge(one, other)
            if kind is not None and not self.board.is_open(one, other):
                yield self.board.edge_kinds[kind].hides
