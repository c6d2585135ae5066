"""Fence: edges from flags that say in which directions one can leave each cell."""

from __future__ import annotations

from typing import Any

from understep.boards.board import Board
from understep.checks import expect, named
from understep.errors import InputError
from understep.grids.cell import array_of


def fence(board: Board, flags: Any, kind: str) -> None:
    """Lay edges of a kind wherever flags say that no step leads, and take them away elsewhere.

    The way back from `understep.passable`: for levels whose walls come as one byte a cell.

    Parameters
    ----------
    board
        The board.
    flags
        ``(rows, cols)`` whole numbers: bit ``k`` is set where a step in the ``k``-th of the grid's
        directions leads somewhere. Between two cells of which only one can be left towards the
        other, the edge is met one way.
    kind
        The kind of edge, by name; edges of other kinds stay where a step leads.

    Raises
    ------
    NameUnknownError
        No such kind of edge on this board.
    InputError
        ``board`` is not a Board, or flags of another shape or type.
    OccupiedError
        An edge would stand inside a unit of several cells; nothing is done.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.SquareGrid(3, 1), {"turf": 1}, edges={"wall": us.Edge(blocks=True)})
    >>> us.maps.fence(board, [[2, 8, 8]], "wall")
    >>> board.edge((1, 0), (2, 0)), board.edge((2, 0), (1, 0)), board.edge((0, 0), (1, 0))
    ('wall', None, None)
    """
    expect("board", board, Board, "must be a Board")
    named("kind", "kind of edge", kind, board.edge_kinds)
    grid = board.grid
    array = array_of("flags", flags)
    if array.shape != (grid.rows, grid.cols) or array.dtype.kind not in "iu":
        raise InputError("flags", f"must be whole numbers {(grid.rows, grid.cols)}", array.shape)
    with board.batch():
        for cell in grid:
            held = int(array[grid.index(cell)])
            for way, name in enumerate(grid.directions):
                other = grid.step(cell, name)
                if other is None:
                    continue
                leads, here = held >> way & 1, board.edge(cell, other)
                if not leads:
                    board.set_edge(cell, other, kind, both=False)
                elif here == kind:
                    board.set_edge(cell, other, None, both=False)
