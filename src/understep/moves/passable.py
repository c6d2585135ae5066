"""Passable: where steps lead, by cell and direction, as far as ground and walls go."""

from __future__ import annotations

from typing import Any, overload

import numpy as np
from numpy.typing import NDArray

from understep.boards.board import Board
from understep.grids.cell import CellLike
from understep.moves.answer import KnownTo, rules_of
from understep.rules.movement import Movement
from understep.rules.steps import step_table


@overload
def passable(
    board: Board, movement: Movement | str, cell: CellLike, *, side: str | None = None,
    known_to: KnownTo = None,
) -> tuple[str, ...]: ...  # fmt: skip
@overload
def passable(
    board: Board, movement: Movement | str, *, side: str | None = None, known_to: KnownTo = None
) -> NDArray[np.uint8]: ...
def passable(
    board: Board, movement: Movement | str, cell: CellLike | None = None, *,
    side: str | None = None, known_to: KnownTo = None,
) -> Any:  # fmt: skip
    """The directions in which a movement can leave a cell, or every cell, in one step.

    Terrain, features, blocks, walls, slopes, corners and size count; units, points, links and
    leaps do not. For searches of the game's own, and to see that rules are as meant.
    `understep.maps.fence` is the way back.

    Parameters
    ----------
    board
        The board; it is not changed.
    movement
        A movement, or the name of a unit.
    cell
        The cell; left out: every one.
    side
        The side for which cells may be closed, where ``movement`` is not a unit's.
    known_to
        As for `reach`.

    Returns
    -------
    tuple of str, or ndarray of uint8, shape ``(rows, cols)``
        The names of the directions; or for each cell a byte whose bit ``k`` is set where a step in
        the ``k``-th of the grid's directions leads somewhere (see `Grid.unpack`). None and 0 where
        it cannot stand. A new array.

    Raises
    ------
    NameUnknownError
        No such unit; a side that keeps no knowledge.
    CellError
        ``cell`` is not a cell, or lies off the board.
    InputError
        ``movement`` is neither a movement nor a name.

    Examples
    --------
    >>> import understep as us
    >>> kinds = {"wall": us.Edge(blocks=True)}
    >>> board = us.Board(us.SquareGrid(3, 1), {"turf": 1, "deep": None}, edges=kinds)
    >>> board.paint("deep", (2, 0))
    >>> us.passable(board, us.Movement(points=4), (1, 0))
    ('W',)
    >>> us.passable(board, us.Movement(points=4)).tolist()
    [[2, 8, 0]]
    """
    board, rules, whose = rules_of(board, movement, side, known_to)
    table, grid = step_table(board, rules, whose), board.grid
    if cell is not None:
        number = grid.numbering.of(cell)
        row = table.rows(np.array([number]))[0] > 1
        names = zip(grid.directions, row.tolist(), strict=True)
        return tuple(name for name, leads in names if leads and table.standing()[number])
    table.fill()
    bits = np.packbits(table.by_cell() > 1, axis=1, bitorder="little")[:, 0]
    return (bits * (table.standing() > 0)).reshape(grid.rows, grid.cols)
