"""View: the cells that are seen from some place, by a unit, or by a side."""

from __future__ import annotations

from collections.abc import Container, Iterable, Iterator
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from understep.boards.board import Board
from understep.boards.cost import Cost
from understep.boards.unit import SightMeasure, Unit
from understep.errors import InputError
from understep.grids.cell import Cell, CellLike, Cells, IntArray
from understep.grids.systems import choice
from understep.kernels.loader import view as buffer
from understep.moves.answer import Answer, KnownTo, known, mine
from understep.overlay import Mark, Overlay
from understep.sight.lines import Aiming, height, lines
from understep.sight.look import HALF, Look, look_of
from understep.sight.rows import Ranges, rows

MOST_LOOKS = 1 << 8  # of a board, whose lead is known


class View(Answer):
    """What is seen from some cells; made by `view`.

    ``cell in view``, ``len``, iteration and ``cells`` (row by row).
    """

    _facts = ("eyes", "cells")

    def __init__(
        self, board: Board, eyes: Cells, numbers: IntArray, viewers: Container[str] | None = ()
    ) -> None:
        self._of(board)
        self._viewers, self._numbers = viewers, numbers
        self.unit, self.why, self.blockers = None, "", ()
        self._known: frozenset[int] | None = None
        #: The cells it is seen from.
        self.eyes = eyes

    def __repr__(self) -> str:
        return f"<View of {len(self)} cells>"

    @property
    def cells(self) -> Cells:
        """The cells that are seen, those it is seen from included, row by row."""
        return self._board.grid.numbering.cells(self._numbers)

    def __len__(self) -> int:
        return len(self._numbers)

    def __iter__(self) -> Iterator[Cell]:
        return iter(self.cells)

    def __contains__(self, cell: object) -> bool:
        if self._known is None:
            self._known = frozenset(self._numbers.tolist())
        grid = self._board.grid
        return cell in grid and grid.numbering.of(cell) in self._known

    def _holds(self, cell: Cell) -> bool:
        return cell in self

    def _value(self, cell: Cell) -> str:
        return "eye" if cell in self.eyes else "view"

    def table(self, column: Literal["view"] = "view") -> NDArray[np.bool_]:
        """Whether each cell is seen, ``(rows, cols)``. A new array.

        Raises
        ------
        NameUnknownError
            There is no such column.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(6, 1), {"turf": 1, "deep": None})
        >>> us.view(board, (0, 0), radius=2).table().tolist()
        [[True, True, True, False, False, False]]
        """
        choice(column, Literal["view"], "column")
        grid = self._board.grid
        found = np.zeros(grid.cols * grid.rows, dtype=bool)
        found[self._numbers] = True
        return found.reshape(grid.rows, grid.cols)

    @property
    def stale(self) -> bool:
        """Whether the board has changed since, in a way that may alter the answer."""
        return self._board.altered_since(self._state, self._viewers)

    def overlay(self) -> Overlay:
        """The view as plain data: roles "view" and "eye"."""
        marks = {cell: Mark("view") for cell in self.cells}
        return Overlay._of(marks | {cell: Mark("eye") for cell in self.eyes})


def view(
    board: Board,
    what: str | CellLike | None = None,
    *,
    side: str | None = None,
    radius: int | None = None,
    eye: Cost | None = None,
    target: Cost = HALF,
    measure: SightMeasure | None = None,
    per_level: int | None = None,
    known_to: KnownTo = None,
) -> View:
    """The cells that are seen from a place, by a unit, or by all units of a side.

    By the same rule as `sees`: a cell is in the view if `sees` says so.

    Parameters
    ----------
    board
        The board; it is not changed.
    what
        A cell, or a unit by name.
    side
        A side instead: what any of its units sees.
    radius
        How far it sees, in cells; None: as far as each unit does, or any distance.
    eye, target
        How many levels above its ground the line starts and ends; by default that of each unit, or
        half a level.
    measure, per_level
        How the radius counts, as `sight_measure` and `sight_per_level` of a `Unit`; by default as
        each unit's.
    known_to
        As for `sees`; by default the side of the unit, or ``side``, if it keeps any knowledge.

    Returns
    -------
    View

    Raises
    ------
    NameUnknownError
        No such unit, or no unit of that side; a side that keeps no knowledge.
    CellError
        A value that is not a cell, or a cell off the board.
    InputError
        Neither or both of ``what`` and ``side``, a radius that is not a whole number of 0 or more,
        or a height that is not a number from 0 to a million.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.SquareGrid(7, 3), {"turf": 1, "reeds": us.Terrain(2, cover=1)})
    >>> board.paint("reeds", (3, 1))
    >>> view = us.view(board, (1, 1), radius=5)
    >>> (3, 1) in view, (5, 1) in view, (4, 0) in view
    (True, False, True)
    """
    # a side that keeps knowledge is asked for what it knows
    if known_to is None and isinstance(side, str) and side in mine(board).fogged:
        known_to = side
    board = known(board, what if isinstance(what, str) else None, known_to, "what")
    if (what is None) == (side is None):
        raise InputError("what", "give a unit or a cell, or else a side", what)
    units: tuple[Unit, ...] = ()
    if side is not None:
        units = board.units(side)
    elif isinstance(what, str):
        units = (board._units.find(what, "what"),)
    given = radius, eye, measure, per_level
    looks = [(cell, look_of(unit, *given)) for unit in units for cell in board.covered(unit)]
    if side is None and not units:
        looks = [(board.grid.numbering.require(what, "what"), look_of(None, *given))]
    numbers = seen(board, looks, target)
    if board._contents.known_by:
        numbers = numbers[board._contents.knows(numbers)]
    viewers = None if side is not None else [unit.name for unit in units]
    return View(board, Cells._of(cell for cell, *_ in looks), numbers, viewers)


def seen(board: Board, looks: Iterable[tuple[Cell, Look]], target: Cost) -> IntArray:
    """The numbers of the cells seen from some; row by row."""
    found = [_from(board, *look, target) for look in looks]
    if len(found) == 1:
        return found[0]
    every = np.sort(np.concatenate([np.zeros(0, np.int64), *found]))
    seen_once: IntArray = every[np.append(True, every[1:] != every[:-1])[: len(every)]]
    return seen_once


def seen_from(board: Board, numbers: IntArray, look: Look, target: Cost) -> Ranges | None:
    """The cells seen from each of some; None: they are not kept."""
    far, aiming = _aimed(board, look, target)
    return rows(board, aiming).of(numbers, far)


def _aimed(board: Board, look: Look, target: Cost) -> tuple[int, Aiming]:
    """How far a look leads, in steps, and by what rule; heights must be comparable so far."""
    heights, kept = (height(look.eye, "eye"), height(target, "target")), lines(board)
    key = look.radius, look.measure, look.per_level, *heights
    found = kept.looks.get(key)
    if found is None:
        far = look.far(board, kept)
        kept.countable(far, heights)
        if len(kept.looks) >= MOST_LOOKS:
            kept.looks = {}
        found = kept.looks[key] = far, look.aiming(far, heights)
    return found


def _from(board: Board, cell: Cell, look: Look, target: Cost) -> IntArray:
    grid = board.grid
    far, aiming = _aimed(board, look, target)
    number = grid.numbering.number(cell)
    row = rows(board, aiming).row(number, far)
    if row is not None:
        return row
    sight = lines(board).ready()
    wide, high = (min(2 * far + 1, size) for size in grid.size)
    seen = np.empty(wide * high, dtype=np.int32)
    count = sight.look(number, far, aiming.eye, aiming.target, buffer(seen))
    found: IntArray = seen[:count].astype(np.int64)
    return found if look.plain else found[look.near(board, cell, found)]
