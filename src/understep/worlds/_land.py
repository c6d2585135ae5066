"""Land: the ground of a sector, and boards cut from several."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager

import numpy as np

from understep.boards.board import Board
from understep.boards.contents import places
from understep.boards.edges import Laid
from understep.boards.links import Link
from understep.errors import InputError
from understep.grids.cell import Cell
from understep.grids.numbering import Part, overlap
from understep.worlds._rect import Rect


class Land:
    """A sector that is awake."""

    def __init__(self, board: Board | None, rect: Rect) -> None:
        if board is not None:
            if not isinstance(board, Board) or board.units():
                raise InputError("make", "must give a Board without units, or None", board)
            grid = board.grid
            if (tuple(grid.first), grid.size) != ((rect.left, rect.top), rect.size):
                rule = f"must give a board of {rect.size} from {(rect.left, rect.top)}"
                raise InputError("make", rule, board)
        #: None: there are no cells.
        self.board = board
        self._saved = None if board is None else board.state
        self._first = Cell(rect.left, rect.top)
        self._cells = rect.size[0] * rect.size[1] if board is not None else 0

    @property
    def altered(self) -> bool:
        """Whether it is not as it was made, or saved last."""
        return self.board is not None and self.board.state != self._saved

    @property
    def levels(self) -> tuple[float, ...]:
        """Its lowest and its highest level."""
        if self.board is None:
            return ()
        return float(self.board.elevation.min()), float(self.board.elevation.max())

    def used(self) -> set[str]:
        """The names of the terrains that lie there."""
        if self.board is None:
            return set()
        names = list(self.board.terrains)
        codes = np.unique(self.board.terrain_codes()[self.board.grid.exists])
        return {names[code] for code in codes}

    @property
    def nbytes(self) -> int:
        """About what it takes in memory, with the steps of a movement."""
        return 96_000 + 40 * self._cells

    @contextmanager
    def unaltered(self) -> Iterator[None]:
        """What is done inside is nothing to be saved."""
        altered = self.altered
        yield
        if self.board is not None and not altered:
            self._saved = self.board.state

    def save(self, save: Callable[[Cell, Board], None] | None) -> None:
        """Save it, if it was altered."""
        if self.board is not None and self.altered and save is not None:
            save(self._first, self.board)
            self._saved = self.board.state


def cut(
    rect: Rect, boards: Iterable[Board | None], seams: Iterable[Laid], links: Iterable[Link]
) -> Board | None:
    """A board of a rectangle, from those of the sectors that it touches; None: it has no cells.

    They are taken one after another, so that not all have to be awake at once.
    """
    made: Board | None = None
    exists = np.zeros((rect.bottom - rect.top, rect.right - rect.left), dtype=bool)
    for board in boards:
        if board is None or not has_cells(board, rect):
            continue
        if made is None:
            made = board._empty(board.grid._resized(*rect.size, (rect.left, rect.top), None))
        elif not board._contents.declared.alike(made._contents.declared):
            rule = "must give the same terrains, edges and features for all sectors"
            raise InputError("make", rule, board)
        here, there = _overlap(rect, board)
        exists[here] = board.grid.exists[there]
        made._contents.carry(board._contents, places(board.grid, made.grid))
    if made is not None and not exists.all():
        whole, grid = made, made.grid._resized(*rect.size, (rect.left, rect.top), exists)
        made = whole._empty(grid)
        made._contents.carry(whole._contents, places(whole.grid, grid))
    if made is None:
        return None
    for edge in seams:
        if rect.holds(edge[:2]):
            made.set_edge(edge.a, edge.b, edge.kind, both=edge.both, is_open=edge.is_open)
    for link in links:
        if rect.holds(link[:2]):
            made.link(link.a, link.b, link.cost, both=link.both, kind=link.kind)
    return made


def has_cells(board: Board, rect: Rect) -> bool:
    """Whether a board that touches a rectangle has cells in it."""
    return bool(board.grid.exists[_overlap(rect, board)[1]].any())


def _overlap(rect: Rect, board: Board) -> tuple[Part, Part]:
    """Where a board's cells lie in an array of a rectangle's, and these in one of the board's."""
    return overlap((rect.left, rect.top), rect.size, board.grid.first, board.grid.size)
