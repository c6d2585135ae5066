"""Labels: what to write into the cells of a figure or a terminal view."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Literal, TypeAlias, cast

from understep.boards.board import Board
from understep.errors import InputError
from understep.grids.cell import Cell
from understep.grids.hexes import HexGrid
from understep.grids.systems import System, choice
from understep.moves.answer import mine
from understep.moves.passable import passable
from understep.overlay import Mark, Overlay
from understep.rules.movement import Movement
from understep.rules.steps import step_table

Label = Literal["offset", "axial", "cube", "doubled", "neighbors", "exits", "level"]
LabelKind: TypeAlias = Callable[[Cell], object] | Label


def labels(board: Board, labels: LabelKind) -> Overlay:
    """A text in every cell, as an overlay of its own.

    Parameters
    ----------
    board
        The board.
    labels
        What to write, as for `figure`; cells for which it is empty are left out.

    Returns
    -------
    Overlay
        Role "label" (text: the label), below all else.

    Raises
    ------
    NameUnknownError
        An unknown word.
    InputError
        A hex system asked of a square board.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.SquareGrid(3, 1), {"turf": 1})
    >>> [mark.text for mark in us.draw.labels(board, lambda cell: cell.col**2).values()]
    ['0', '1', '4']
    """
    texts = label_texts(board, labels)
    return Overlay(
        {cell: Mark("label", None, text) for cell, text in texts.items() if text}, priority=0
    )


def label_texts(board: Board, labels: LabelKind) -> dict[Cell, str]:
    """The label of every cell: what a function says of it, or by a word.

    ``"offset"``, ``"axial"``, ``"cube"`` or ``"doubled"`` coordinates; ``"exits"``, the directions
    in which a movement without rules of its own can leave a cell (see `understep.passable`), and
    ``"neighbors"``, how many they are (nothing where it cannot stand); ``"level"`` of elevation.
    """
    grid = mine(board).grid
    cells = grid.cells
    if callable(labels):
        return {cell: str(labels(cell)) for cell in cells}
    choice(labels, Label, "labels")
    if labels == "level":
        levels = board.elevation[grid.index(cells)].tolist()
        return {cell: f"{level:g}" for cell, level in zip(cells, levels, strict=True)}
    if labels in ("exits", "neighbors"):
        return _exits(board, labels)
    if labels == "offset":
        return {cell: f"{cell.col},{cell.row}" for cell in cells}
    if not isinstance(grid, HexGrid):
        raise InputError("labels", "is a system of hex boards", labels)
    between = "\n" if labels == "cube" else ","
    rows = grid.convert(cells.array, "offset", cast(System, labels)).tolist()
    return {cell: between.join(map(str, row)) for cell, row in zip(cells, rows, strict=True)}


def _exits(board: Board, what: str) -> dict[Cell, str]:
    grid = board.grid
    cells = grid.cells
    index = grid.index(cells)
    rules = Movement(points=1)
    flags = passable(board, rules)[index].tolist()
    stands = step_table(board, rules, "").standing()[grid.numbering.numbers(cells.array)].tolist()
    every = (1 << len(grid.directions)) - 1

    def text(flag: int) -> str:
        names = grid.unpack(flag)
        if what == "neighbors":
            return str(len(names))
        pairs = [" ".join(names[place : place + 2]) for place in range(0, len(names), 2)]
        return "all" if flag == every else "\n".join(pairs) or "none"

    rows: Any = zip(cells, stands, flags, strict=True)
    return {cell: text(flag) if there else "" for cell, there, flag in rows}
