"""Spans: what it costs to get over the ground of a rectangle, from a cell or to one."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction
from typing import Any

import numpy as np
from numpy.typing import NDArray

from understep.boards.board import Board
from understep.grids.cell import Cell, IntArray
from understep.moves import kernel
from understep.moves.kernel import view
from understep.moves.links import chained
from understep.moves.movement import ALTERNATING, Movement
from understep.moves.steps import NEVER, NOTHING, NOTHING_WIDE, SHIFT, step_table
from understep.moves.workspace import layered

NO_STEP = 1
MOST_SHAPES = 64


def evened(movement: Movement) -> Movement:
    """A movement whose steps do not depend on those before: alternating diagonals at their mean.

    It can pay for a half more than its points, so that no cheap diagonal step is lost.
    """
    if movement.diagonal != ALTERNATING:
        return movement
    mean = Fraction(3, 2)
    return replace(movement, diagonal=mean, carry=Fraction(movement.points) * (mean - 1))


def charged(movement: Movement, scale: int, costs: IntArray) -> IntArray:
    """What a unit pays for steps of some costs, all in parts of a point; NEVER: it never can.

    In several turns, that is: what is dearer than all the points it can have is out of its reach,
    unless no step costs it more than a full turn.
    """
    points = Fraction(movement.points)
    if movement.one_step and points:
        return np.where(costs < NEVER, np.minimum(costs, -(-points * scale // 1)), NEVER)
    most = int((points + Fraction(movement.carry if points else 0)) * scale)
    return np.where(costs <= most, costs, NEVER)


class Spans:
    """Costs between cells of a rectangle, by ways that do not leave it.

    Over the ground, whoever stands there, and in points, wherever turns end: in parts of a point,
    of which ``scale`` make one. By number: row by row of its ``cols`` columns. Footprints and
    corners may lie outside of the rectangle, on the board.
    """

    def __init__(
        self, board: Board, movement: Movement, side: str, first: Cell, cols: int, rows: int
    ) -> None:
        movement = evened(movement)
        table = step_table(board, movement, side)
        table.fill()
        grid = board.grid
        left, top = first.col - grid.first.col, first.row - grid.first.row
        whole = (first, (cols, rows)) == (grid.first, grid.size)
        self._grid = inner = grid if whole else grid.resized(cols, rows, first, None)
        self.scale, self._first, self.cols, self._rows = table.scale, first, cols, rows

        def part(layer: NDArray[Any]) -> NDArray[Any]:
            ways = layer.reshape(grid.rows, grid.cols, -1)
            found: NDArray[Any] = ways[top : top + rows, left : left + cols]
            return found.reshape(cols * rows, -1)

        prices = charged(movement, table.scale, np.asarray(table.views[2]) >> SHIFT)
        self._costs, dear = prices << SHIFT, prices >= NEVER
        codes = part(table.by_cell())
        if dear[2:].any():
            codes = np.where(dear[codes], codes.dtype.type(NO_STEP), codes)
        codes = np.ascontiguousarray(codes)
        self._stands = part(table.standing()).ravel()
        self._ways = codes, _reversed(inner, codes)
        ends, costs = table.far()
        costs = charged(movement, table.scale, costs)
        cells = grid.cells_of(ends) - np.array(first)
        kept = ((cells >= 0) & (cells < (cols, rows))).all(axis=(-1, -2)) & (costs < NEVER)
        numbers = cells[kept, :, 1] * cols + cells[kept, :, 0]
        self._links = [chained(numbers, costs[kept], side, cols * rows) for side in (1, 0)]

    def number(self, cell: tuple[int, int]) -> int:
        """The place of a cell in the answers."""
        return (cell[1] - self._first.row) * self.cols + cell[0] - self._first.col

    def stands(self, cell: tuple[int, int]) -> bool:
        """Whether a unit could stand on a cell, as far as ground and walls go."""
        return bool(self._stands[self.number(cell)])

    def to(self, cell: tuple[int, int]) -> IntArray:
        """The cost from every cell to one, by number; -1: no way."""
        return self._spread(cell, 0)

    def since(self, cell: tuple[int, int]) -> IntArray:
        """The cost from a cell, whatever its ground, to every one, by number; -1: no way."""
        return self._spread(cell, 1)

    def _spread(self, cell: tuple[int, int], side: int) -> IntArray:
        grid, places = self._grid, self.cols * self._rows
        cost = np.full(places, -1, dtype=np.int64)
        if side == 0 and not self.stands(cell):
            return cost
        codes = self._ways[side]
        onward, owner, after, before = np.full((4, places), -1, dtype=np.int32)
        way, place = np.zeros((2, places), dtype=np.uint8)
        narrow = codes.dtype == np.uint8
        both = (codes.ravel(), NOTHING_WIDE) if narrow else (NOTHING, codes.ravel())
        lists = np.full(64, -1, dtype=np.int32), after, before
        kernel.field.spread(
            0, view(np.array([self.number(cell)], dtype=np.int32)), view(cost), view(onward),
            view(owner), view(way), *map(view, lists), view(place), *map(view, both),
            view(self._costs), view(layered(grid, 1)), grid.cols, grid.rows, grid.stagger,
            grid.line_parity, 0, *self._links[side],
        )  # fmt: skip
        return cost


def _reversed(grid: Any, codes: NDArray[Any]) -> NDArray[Any]:
    """The codes of the steps that lead to each cell, from where its own would lead."""
    shape = type(grid), grid.cols, grid.rows, codes.shape[1], grid.stagger, grid.line_parity
    if shape not in _sources:
        if len(_sources) >= MOST_SHAPES:
            _sources.clear()
        _sources[shape] = _turned(grid, codes.shape[1])
    found: NDArray[Any] = np.append(codes, codes.dtype.type(NO_STEP))[_sources[shape]]
    return found.reshape(codes.shape)


_sources: dict[tuple[Any, ...], IntArray] = {}  # by shape of a grid


def _turned(grid: Any, ways: int) -> IntArray:
    """By cell and direction back: where the code of the step that leads there stands."""
    cells = grid.cols * grid.rows
    place = np.arange(cells)
    at = np.stack([place % grid.cols, place // grid.cols], axis=-1) + np.array(grid.first)
    ends = grid.around(at) - np.array(grid.first)
    inside = ((ends >= 0) & (ends < (grid.cols, grid.rows))).all(axis=-1)
    found = np.full((cells, ways), cells * ways, dtype=np.int32)
    for way in range(ways):
        ok = inside[:, way]
        numbers = ends[ok, way, 1] * grid.cols + ends[ok, way, 0]
        found[numbers, (way + ways // 2) % ways] = place[ok] * ways + way
    return found.ravel()
