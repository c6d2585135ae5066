"""Edges drawn: walls as strokes on the border, roads from middle to middle, doors in between."""

from __future__ import annotations

from typing import Any

import numpy as np

from understep.boards.board import Board
from understep.boards.edge import Edge
from understep.draw import _look as look
from understep.grids.cell import Cell
from understep.grids.lattice import FloatArray

#: For each style: colour, width in hundredths of a cell, dashes. Roads lie under the others.
STYLES: dict[str, tuple[str, float, Any]] = {
    "road": (look.ROAD, 14, "-"),
    "hindrance": (look.FAINT, 7, (0, (1, 1))),
    "open door": (look.DOOR, 9, (0, (0.6, 1.2))),
    "door": (look.DOOR, 12, "-"),
    "wall": (look.INK, 12, "-"),
}


def style(kind: Edge, is_open: bool = False) -> str:
    """How a kind of edge is drawn."""
    if kind.door:
        return "open door" if is_open else "door"
    if kind.blocks:
        return "wall"
    return "hindrance" if kind.cost is None else "road"


def strokes(board: Board) -> dict[str, list[tuple[FloatArray, Cell]]]:
    """Lines ``(2, 2)`` in the world by style, for all edges of a board; of each where it stands.

    That is the higher of its two cells; a road is in two halves.
    """
    found: dict[str, list[tuple[FloatArray, Cell]]] = {name: [] for name in STYLES}
    levels = board.elevation
    for edge in board.edges():
        name = style(board.edge_kinds[edge.kind], edge.is_open)
        a, b = edge.a, edge.b
        if name == "road":
            start, end = board.center([a, b])
            middle = (start + end) / 2
            found[name] += [(np.array([start, middle]), a), (np.array([middle, end]), b)]
            continue
        if levels[board.grid.index(b)] > levels[board.grid.index(a)]:
            a, b = b, a
        found[name].append((_border(board, a, b), a))
    return found


def _border(board: Board, one: Cell, other: Cell) -> FloatArray:
    """The border of a cell to another; across the corner where only that is shared."""
    # as the lattice counts them
    turned = -1 if board.grid.lattice.mirrored else 1
    corners = board.corners([one, other])[:, ::turned]
    a, b = board.center([one, other])
    grid = board.grid
    way = grid.lattice.way(grid.direction(one, other) or 0)
    if way in grid.lattice.edge_ways:
        place = grid.lattice.edge_ways.index(way)
        return np.array([corners[0][place], corners[0][(place + 1) % len(corners[0])]])
    middle, (across, down) = (a + b) / 2, (b - a) / 8
    half = np.array([down, -across])
    return np.array([middle + half, middle - half])
