"""Resize: a board grown, cropped, shifted or seen otherwise, with all that is on it."""

from __future__ import annotations

from typing import Literal, TypeAlias

import numpy as np

from understep.boards.board import Board
from understep.boards.contents import places
from understep.boards.memory import Memory
from understep.boards.unit import Unit
from understep.checks import named, whole
from understep.errors import InputError, OccupiedError
from understep.grids.cell import Cell, CellLike, near_cell
from understep.grids.frame import Frame
from understep.grids.grid import Grid
from understep.grids.systems import choice

Lost: TypeAlias = Literal["refuse", "remove"]


def resize(
    board: Board,
    cols: int,
    rows: int,
    *,
    first: CellLike | None = None,
    fill: str | None = None,
    lost: Lost = "refuse",
) -> Board:
    """A board of another size: grown where it is larger, cropped where it is smaller.

    Every cell keeps its address, and what is there; so does what sides know of it, and whose turn
    it is. Edges and links with an end that falls off are left out.

    Parameters
    ----------
    board
        The board; it is not changed.
    cols, rows
        How many there will be.
    first
        The first cell; by default the board's own. Others grow or crop on the left and above.
    fill
        The terrain of new cells; by default the first of the board's. Holes stay holes.
    lost
        What becomes of units that would fall off: ``"refuse"`` raises, ``"remove"`` leaves them
        out.

    Returns
    -------
    Board
        A new board, with no steps to undo.

    Raises
    ------
    InputError
        Numbers that are not the size of a board.
    CellError
        ``first`` is not a cell.
    NameUnknownError
        ``fill`` names no terrain, or an unknown word for ``lost``.
    OccupiedError
        A unit would fall off.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.HexGrid(4, 3), {"turf": 1, "mud": 3})
    >>> board.paint("mud", (3, 2))
    >>> larger = us.maps.resize(board, 6, 4, first=(0, 0))
    >>> larger.grid.size, larger.terrain((3, 2)), larger.terrain((5, 3))
    ((6, 4), 'mud', 'turf')
    """
    _check(board, lost)
    if fill is not None:
        named("fill", "terrain", fill, board.terrains)
    start = board.grid.first if first is None else near_cell(first, "first")
    plain = board.grid._resized(cols, rows, start, None)
    known = board.grid.numbering.holds(plain.cells.array) | ~board.grid.numbering.covers(
        plain.cells.array
    )
    exists = known.reshape(plain.rows, plain.cols)
    grid = plain if exists.all() else board.grid._resized(cols, rows, start, exists)
    return _moved(board, grid, (0, 0), fill, lost)


def shift(board: Board, cols: int, rows: int) -> Board:
    """A board whose cells all have other addresses: columns and rows are added.

    It lies elsewhere in the world. Everything else is the same: staggered lines stay staggered, so
    that who neighbors whom does not change.

    Parameters
    ----------
    board
        The board; it is not changed.
    cols, rows
        What is added to every column and row; negative numbers too.

    Returns
    -------
    Board
        A new board, with no steps to undo.

    Raises
    ------
    InputError
        Values that are not whole numbers.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.HexGrid(4, 3), {"turf": 1, "mud": 3})
    >>> board.paint("mud", (0, 0))
    >>> moved = us.maps.shift(board, 10, 5)
    >>> moved.grid.bounds[0], moved.terrain((10, 5)), moved.grid.shifted
    (Cell(col=10, row=5), 'mud', 'even')
    """
    _check(board, "refuse")
    cols, rows = whole("cols", cols), whole("rows", rows)
    old = board.grid
    start = near_cell((old.first[0] + cols, old.first[1] + rows), "cols, rows")
    grid = old._resized(*old.size, start, old.exists, (cols, rows))
    return _moved(board, grid, (cols, rows), None, "refuse")


def reframe(board: Board, frame: Frame) -> Board:
    """A board with the same contents and another place in the world.

    For a second view, such as an isometric one: answers hold for both, since cells are the same.

    Parameters
    ----------
    board
        The board; it is not changed.
    frame
        How the new one lies.

    Returns
    -------
    Board
        A new board, with no steps to undo; it does not follow the other.

    Raises
    ------
    InputError
        ``frame`` is not a Frame.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.HexGrid(4, 3), {"turf": 1, "dyke": 2})
    >>> board.set_elevation(2, (1, 1))
    >>> tilted = us.maps.reframe(board, us.Frame(projection="isometric", lift=0.3))
    >>> point = tuple(tilted.center((1, 1)))
    >>> tuple(tilted.cell_at(point)), tilted.terrains == board.terrains
    ((1, 1), True)
    """
    _check(board, "refuse")
    return _moved(board, board.grid.reframed(frame), (0, 0), None, "refuse")


def _check(board: Board, lost: str) -> None:
    if not isinstance(board, Board):
        raise InputError("board", "must be a Board", board)
    choice(lost, Lost, "lost")


def _moved(board: Board, grid: Grid, by: tuple[int, int], fill: str | None, lost: Lost) -> Board:
    """What is on a board, set up on another grid, columns and rows added to each cell."""
    made = board._empty(grid, fill)
    place = places(board.grid, grid, by)
    made._contents.carry(board._contents, place)
    made.title, made.movements = board.title, dict(board.movements)
    made.set_data(**board.data)
    for side in board.sides:
        made.enlist(side)
    for unit in board.units():
        cells = _new_cells(grid, by, board.covered(unit))
        if cells:
            made.add(_faced(unit, board.grid, grid), at=cells[0])
        elif lost == "refuse":
            raise OccupiedError("board", f"unit {unit.name!r} would fall off", tuple(unit.at or ()))
    if board.turn is not None:
        names = {unit.name for unit in made.units()}
        used = tuple(each for each in board.turn.used if each[0] in names)
        made.turn = board.turn._replace(used=used)
    for side in board.fogged:
        before = board._memory(side)
        memory = Memory(made, side, before.look, False)
        memory._contents.carry(before._contents, place)
        made._keep(memory)
        last = {}
        for name, unit in before.last.values.items():
            cells = _new_cells(grid, by, before.covered(unit))
            if cells:
                last[name] = _faced(unit, board.grid, grid).changed(at=cells[0])
        memory.remember(before._contents, np.zeros(0, dtype=np.int64), last)
    made.forget()
    return made


def _faced(unit: Unit, before: Grid, grid: Grid) -> Unit:
    """A unit that looks where it did, though rows may count the other way now."""
    if unit.facing is None:
        return unit
    return unit.changed(facing=grid.directions[before.lattice.way(unit.facing)])


def _new_cells(grid: Grid, by: tuple[int, int], cells: tuple[Cell, ...]) -> list[Cell]:
    """The new addresses of cells; empty where one of them falls off."""
    moved = [Cell(col + by[0], row + by[1]) for col, row in cells]
    return moved if all(cell in grid for cell in moved) else []
