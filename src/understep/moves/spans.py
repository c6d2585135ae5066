"""Spans: what it costs to get over the ground of a rectangle, from a cell or to one."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from understep.boards.board import Board
from understep.boards.cost import fraction
from understep.grids.cell import Cell, IntArray
from understep.kernels import loader
from understep.kernels.loader import view
from understep.kernels.marks import SHIFT
from understep.moves.workspace import layered
from understep.rules.link_steps import chained
from understep.rules.movement import Movement
from understep.rules.steps import NARROW, NEVER, NOTHING, NOTHING_WIDE, StepTable, step_table

NO_STEP = 1
MOST_SHAPES = 64


def charged(movement: Movement, scale: int, costs: IntArray) -> IntArray:
    """What a unit pays for steps of some costs, all in parts of a point; NEVER: it never can.

    In several turns, that is: what is dearer than all the points it can have is out of its reach,
    unless no step costs it more than a full turn.
    """
    points = fraction(movement.points)
    # then a dearer step takes a full turn, and no more
    if movement.one_step and points:
        return np.where(costs < NEVER, np.minimum(costs, -(-points * scale // 1)), NEVER)
    # what is saved up counts, too
    most = int((points + fraction(movement.carry if points else 0)) * scale)
    return np.where(costs <= most, costs, NEVER)


def priced(table: StepTable, movement: Movement) -> tuple[IntArray, int]:
    """What each step from each cell costs, and how many parts of a point that is counted in.

    Of shape ``(cells, directions)``; `NEVER` where there is no step, or one too dear for all points
    of a turn. Alternating diagonals count at their mean, and are too dear if the first one is.
    """
    # the whole rectangle is read
    table.fill()
    costs = np.asarray(table.views[2]) >> SHIFT
    codes = table.codes.reshape(table.layers, *table.by_cell().shape)
    found: IntArray = charged(movement, table.scale, costs)[codes[0]]
    if table.layers == 2:
        # of alternating diagonals the mean of both, so that no order has to be known
        found = np.where(found < NEVER, found + costs[codes[1]], NEVER)
    return found, table.scale * table.layers


class Spans:
    """Costs between cells of a rectangle, by ways that do not leave it.

    By terrain alone (units do not count), and in points, without turns: in parts of a point,
    of which ``scale`` make one. By number: row by row of its ``cols`` columns. Footprints and
    corners may lie outside of the rectangle, on the board.
    """

    def __init__(
        self, board: Board, movement: Movement, side: str, first: Cell, cols: int, rows: int
    ) -> None:
        table = step_table(board, movement, side)
        prices, self.scale = priced(table, movement)
        grid = board.grid
        left, top = first.col - grid.first.col, first.row - grid.first.row
        # mostly it is the whole board, of which nothing has to be cut out
        whole = (first, (cols, rows)) == (grid.first, grid.size)
        self._grid = inner = grid if whole else grid._resized(cols, rows, first, None)
        self._first, self.cols, self._rows = first, cols, rows

        def part(layer: NDArray[Any]) -> NDArray[Any]:
            ways = layer.reshape(grid.rows, grid.cols, -1)
            found: NDArray[Any] = ways[top : top + rows, left : left + cols]
            return found.reshape(cols * rows, -1)

        prices = part(prices)
        known, places = np.unique(prices[prices < NEVER], return_inverse=True)
        self._costs = np.concatenate([[NEVER, NEVER], known]) << SHIFT
        narrow = len(self._costs) <= NARROW
        codes = np.full(prices.shape, NO_STEP, dtype=np.uint8 if narrow else np.uint16)
        codes[prices < NEVER] = places.ravel() + 2
        self._stands = part(table.standing()).ravel()
        self._ways = codes, _reversed(inner, codes)
        ends, costs = table.far()
        costs = charged(movement, self.scale, costs * table.layers)
        cells = grid.numbering.cells_of(ends) - np.array(first)
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
        """The cost from every cell to one, by number; -1: no route."""
        return self._spread(cell, 0)

    def since(self, cell: tuple[int, int]) -> IntArray:
        """The cost from a cell, over any terrain, to every cell, by number; -1: no route."""
        return self._spread(cell, 1)

    def _spread(self, cell: tuple[int, int], side: int) -> IntArray:
        grid, places = self._grid, self.cols * self._rows
        cost = np.full(places, -1, dtype=np.int64)
        # nothing leads to where it could not stand
        if side == 0 and not self.stands(cell):
            return cost
        codes = self._ways[side]
        onward, owner, after, before = np.full((4, places), -1, dtype=np.int32)
        way, place = np.zeros((2, places), dtype=np.uint8)
        narrow = codes.dtype == np.uint8
        row = view(codes.ravel())
        both = (row, view(NOTHING_WIDE)) if narrow else (view(NOTHING), row)
        heads = np.full(64, -1, dtype=np.int32)
        loader.field.spread(
            0, view(np.array([self.number(cell)], dtype=np.int32)), view(cost), view(onward),
            view(owner), view(way), view(heads), view(after), view(before), view(place), *both,
            view(self._costs), view(layered(grid, 1)), grid.cols, grid.rows,
            *grid.numbering.staggering, 0, *self._links[side],
        )  # fmt: skip
        return cost


def _reversed(grid: Any, codes: NDArray[Any]) -> NDArray[Any]:
    """The codes of the steps that lead to each cell, from where its own would lead."""
    shape = (
        type(grid),
        grid.cols,
        grid.rows,
        codes.shape[1],
        *grid.numbering.staggering,
    )
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
    ends = grid.lattice.around(at) - np.array(grid.first)
    inside = ((ends >= 0) & (ends < (grid.cols, grid.rows))).all(axis=-1)
    found = np.full((cells, ways), cells * ways, dtype=np.int32)
    for way in range(ways):
        ok = inside[:, way]
        numbers = ends[ok, way, 1] * grid.cols + ends[ok, way, 0]
        found[numbers, (way + ways // 2) % ways] = place[ok] * ways + way
    return found.ravel()
