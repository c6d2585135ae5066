"""Met: everything along a line of sight that hides its end, the nearest first."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction

from understep.boards.board import Board
from understep.boards.contents import OPEN
from understep.boards.cost import plain
from understep.grids.cell import Cell
from understep.moves.obstacle import Obstacle
from understep.sight.lines import FINEST, Lines


def met(
    board: Board, kept: Lines, start: Cell, end: Cell, heights: tuple[int, int], nudge: int
) -> tuple[Obstacle, ...]:
    """What the line between two cells meets, nudged left (0) or right (1).

    ``heights`` are how far above the ground it starts and ends, in thousandths of a level.
    """
    return tuple(_met(board, kept, start, end, heights, nudge))


def _met(
    board: Board, kept: Lines, start: Cell, end: Cell, heights: tuple[int, int], nudge: int
) -> Iterator[Obstacle]:
    grid, far = board.grid, tuple(end)
    ways, behind = kept.followed(start, end, nudge)
    cells, on_board = [start], True
    for way in ways:
        over, down = grid.lattice.steps_from(*cells[-1])[way]
        beyond = Cell(cells[-1].col + over, cells[-1].row + down)
        on_board = grid.numbering.has(*beyond)
        if not on_board:
            break
        cells.append(beyond)
    numbers = [grid.numbering.number(cell) for cell in cells]
    levels, tops, fences = kept.along(numbers, ways)
    first, length = levels[0], behind[-1]
    rise = (levels[-1] if on_board else 0) + heights[1] - first
    for place in range(1, len(cells)):
        cell = cells[place]
        for code in filter(None, fences[place - 1]):
            kind, pair = board._contents.edge_names[code % OPEN - 1], (cells[place - 1], cell)
            text = f"{kind!r} between {tuple(pair[0])} and {tuple(cell)} hides {far}"
            yield Obstacle("edge", text, cell, (kind,), pair)
            break
        share = length, behind[place - 1]
        if on_board and cell != end and _needs(tops[place], first, rise, *share) > heights[0]:
            for top, kind, name in _standing(board, levels[place], cell):
                needs = _needs(top, first, rise, *share)
                if needs > heights[0]:
                    what = "the ground" if kind == "ground" else repr(name)
                    text, eye = f"{what} at {tuple(cell)} hides {far}", Fraction(needs, FINEST)
                    yield Obstacle(kind, text, cell, (name,), (), plain(eye))
    if not on_board:
        text = f"the line to {far} leads off the board after {tuple(cells[-1])}"
        yield Obstacle("board", text, cells[-1])


def _needs(top: int, first: int, rise: int, length: int, passed: int) -> int:
    """From how high above its start the line would run over something, rounded up."""
    return -(((first - top) * length + rise * passed) // (length - passed))


def _standing(board: Board, level: int, cell: Cell) -> list[tuple[int, str, str]]:
    """The tops of what rises at a cell, the tallest first, its ground last: kind and name."""
    name = board.terrain(cell)
    growing = [("terrain", name, board.terrains[name].cover)]
    laid = board._contents.laid(board.grid.numbering.number(cell))
    growing += [("feature", each, kind.top) for each, kind in laid]
    tops = [(level + round(top * FINEST), kind, each) for kind, each, top in growing if top]
    return [*sorted(tops, reverse=True), (level, "ground", name)]
