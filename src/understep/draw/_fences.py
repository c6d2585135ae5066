"""Edges drawn: walls as strokes on the border, roads from middle to middle, doors in between."""

from __future__ import annotations

from typing import Any

import numpy as np

from understep.boards.board import Board
from understep.boards.edge import Edge
from understep.boards.edges import Laid
from understep.draw import _look as look
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


def strokes(board: Board) -> dict[str, list[FloatArray]]:
    """Lines ``(2, 2)`` in the world by style, for all edges of a board."""
    found: dict[str, list[FloatArray]] = {name: [] for name in STYLES}
    for edge in board.edges():
        name = style(board.edge_kinds[edge.kind], edge.is_open)
        found[name].append(
            board.center([edge.a, edge.b]) if name == "road" else _border(board, edge)
        )
    return found


def _border(board: Board, edge: Laid) -> FloatArray:
    """The border between two cells; across the corner where only that is shared."""
    corners = board.corners([edge.a, edge.b])
    a, b = board.center([edge.a, edge.b])
    grid = board.grid
    way = grid.lattice.way(grid.direction(edge.a, edge.b) or 0)
    if way in grid.lattice.edge_ways:
        place = grid.lattice.edge_ways.index(way)
        return np.array([corners[0][place], corners[0][(place + 1) % len(corners[0])]])
    middle, (across, down) = (a + b) / 2, (b - a) / 8
    half = np.array([down, -across])
    return np.array([middle + half, middle - half])
