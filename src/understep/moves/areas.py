"""Areas: the islands of a board, for one movement."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cached_property
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from understep.boards.board import Board
from understep.boards.derived import Watcher
from understep.checks import whole
from understep.grids.cell import Cell, CellLike, Cells, IntArray
from understep.grids.systems import choice
from understep.kernels import loader
from understep.kernels.loader import view
from understep.moves.answer import Answer, KnownTo, rules_of
from understep.moves.chokes import cut_points
from understep.overlay import Mark, Overlay, plain_facts
from understep.rules.link_steps import chained
from understep.rules.movement import Movement
from understep.rules.steps import StepTable, step_table


class Areas(Answer):
    """The areas of a board for one movement; made by `areas`.

    Cells are of one area where each can be reached from the other, with any number of points;
    units do not count. Areas are numbered from 0, the largest first.
    """

    def __init__(self, board: Board, table: StepTable) -> None:
        self._of(board)
        self.unit, self.blockers = None, ()
        grid = board.grid
        cells = grid.cols * grid.rows
        table.fill()
        # an area consists of cells where it can stand, not of all that steps lead to
        self._stands = table.standing()
        self._codes, (self._far, costs) = table.by_cell(), table.far()
        found = np.full(cells, -1, dtype=np.int32)
        seen, low, stack, path, way = (view(np.zeros(cells, dtype=np.int32)) for _ in range(5))
        link_at, following, to, _ = chained(self._far, costs, 0, cells)
        self._count: int = loader.areas.strong(
            view(self._stands), *table.views[:2], view(grid.numbering.shifts), grid.cols,
            *grid.numbering.staggering, link_at, following, to, seen, low, view(found), stack,
            path, way,
        )  # fmt: skip
        # cells where it cannot stand are of no area
        known = found[found >= 0]
        sizes = np.bincount(known, minlength=self._count)
        first = np.full(self._count, cells)
        np.minimum.at(first, known, np.flatnonzero(found >= 0))
        rank = np.empty(self._count, dtype=np.int32)
        # the largest first, of equal ones the first by row: the same however they were found
        rank[np.lexsort((first, -sizes))] = np.arange(self._count)
        self._area = np.where(found >= 0, rank[found], -1) if self._count else found

    def __repr__(self) -> str:
        return f"<Areas: {self._count}>"

    def __len__(self) -> int:
        return self._count

    def __getitem__(self, cell: CellLike) -> int | None:
        found = int(self._area[self._board.grid.numbering.of(cell)])
        return None if found < 0 else found

    @property
    def why(self) -> str:  # type: ignore[override]
        """Why there is no area: the movement can stand nowhere; else empty."""
        return "" if self._count else "it can stand nowhere"

    @property
    def cells(self) -> Cells:
        """The cells of all areas, row by row."""
        return self._board.grid.numbering.cells(np.flatnonzero(self._area >= 0))

    def _holds(self, cell: Cell) -> bool:
        return self[cell] is not None

    def _value(self, cell: Cell) -> int | None:
        return self[cell]

    def table(self, column: Literal["area"] = "area") -> NDArray[np.int32]:
        """The area of every cell, ``(rows, cols)``; -1 where it cannot stand. A copy.

        Raises
        ------
        NameUnknownError
            There is no such column.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(6, 1), {"turf": 1, "deep": None})
        >>> board.paint("deep", (2, 0))
        >>> areas = us.areas(board, us.Movement(points=2))
        >>> areas.table().tolist()
        [[1, 1, -1, 0, 0, 0]]
        """
        choice(column, Literal["area"], "column")
        return self._area.reshape(self._board.grid.rows, self._board.grid.cols).copy()

    @property
    def stale(self) -> bool:
        """Whether the board has changed since, in a way that may alter the answer."""
        return self._board.altered_since(self._state)

    def cells_of(self, area: int) -> Cells:
        """The cells of an area, row by row.

        Raises
        ------
        InputError
            There is no area of that number.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(6, 1), {"turf": 1, "deep": None})
        >>> board.paint("deep", (2, 0))
        >>> areas = us.areas(board, us.Movement(points=2))
        >>> [tuple(cell) for cell in areas.cells_of(0)]
        [(3, 0), (4, 0), (5, 0)]
        """
        area = whole("area", area, 0, self._count - 1)
        return self._board.grid.numbering.cells(np.flatnonzero(self._area == area))

    def overlay(self) -> Overlay:
        """The areas as plain data: role "area", number and text: that of the area."""
        grid, numbers = self._board.grid, np.flatnonzero(self._area >= 0)
        areas = self._area[numbers].tolist()
        cells = grid.numbering.cells(numbers)
        return Overlay._of(
            {cell: Mark("area", area, str(area)) for cell, area in zip(cells, areas, strict=True)}
        )

    def plain(self) -> dict[str, Any]:
        """The areas as plain lists, for JSON: of each the cells, and where one-way steps lead."""
        every = [
            {"cells": self.cells_of(area), "to": self._onward[0].get(area, [])}
            for area in range(self._count)
        ]
        return super().plain() | plain_facts({"areas": every})

    def leads(self, a: CellLike, b: CellLike) -> bool:
        """Whether there is a route from one cell to another, units left aside.

        Raises
        ------
        CellError
            ``a`` or ``b`` is not a cell of the board.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(6, 1), {"turf": 1, "deep": None})
        >>> board.paint("deep", (2, 0))
        >>> areas = us.areas(board, us.Movement(points=2))
        >>> areas.leads((3, 0), (5, 0)), areas.leads((0, 0), (5, 0))
        (True, False)
        """
        # within an area there is a route between all cells, so that areas are asked alone
        numbering = self._board.grid.numbering
        start, end = self._area[[numbering.of(a, "a"), numbering.of(b, "b")]].tolist()
        return start >= 0 and end >= 0 and bool(self._reached([start])[end])

    def _reached(self, starts: Any, back: bool = False) -> NDArray[np.bool_]:
        """For each area, whether it can be reached from any of some; ``back``: can reach any."""
        onward = self._onward[1 if back else 0]
        found = np.zeros(self._count, dtype=bool)
        todo = list(starts)
        found[todo] = True
        # the list grows while it is read: breadth-first search
        for area in todo:
            for other in onward.get(area, ()):
                if not found[other]:
                    found[other] = True
                    todo.append(other)
        return found

    @cached_property
    def _onward(self) -> tuple[dict[int, list[int]], dict[int, list[int]]]:
        """The areas into which one-way steps lead from each, and those from which they come."""
        onward: dict[int, list[int]] = {}
        backward: dict[int, list[int]] = {}
        for start, end in np.unique(self._crossings(), axis=0).tolist():
            onward.setdefault(start, []).append(end)
            backward.setdefault(end, []).append(start)
        return onward, backward

    def _crossings(self) -> IntArray:
        """Pairs of areas for every step from one to another."""
        found = [np.zeros((0, 2), dtype=np.int64)]
        for steps in self._steps():
            pairs = self._area[steps].astype(np.int64)
            found.append(pairs[pairs[:, 0] != pairs[:, 1]])
        return np.concatenate(found)

    def _steps(self) -> Iterator[IntArray]:
        """Pairs of cells for every step and link that can be taken, by number, part by part."""
        grid = self._board.grid
        homes = np.flatnonzero(self._stands)
        lines = grid.lattice.lines(grid.numbering.cells_of(homes)) if grid.lattice.stagger else 0
        shifts = grid.numbering.shifts.reshape(2, -1)
        yield self._far[self._stands[self._far[:, 0]] > 0].astype(np.int64)
        # one direction at a time, so that no array is larger than the board
        for way in range(len(grid.directions)):
            open_ways = self._codes[homes, way] > 1
            ends = homes + shifts[lines, way]
            yield np.stack([homes, ends], axis=-1)[open_ways]

    @cached_property
    def chokes(self) -> Cells:
        """The cells whose loss parts an area, for steps that lead both ways; row by row.

        Articulation points of its steps.
        """
        found = cut_points(np.concatenate(list(self._steps())))
        return self._board.grid.numbering.cells(np.array(found, dtype=np.int64))


class _KeptAreas(Watcher):
    """The areas of a board until it is edited."""

    def __init__(self) -> None:
        self.areas: Areas | None = None

    def touched(self, _part: str, _numbers: IntArray) -> None:
        """Forget them."""
        # an edit can join or part areas anywhere
        self.areas = None

    def share(self, _board: Board) -> _KeptAreas:
        """A copy of the board finds its own."""
        return _KeptAreas()


def areas(
    board: Board,
    movement: Movement | str,
    *,
    side: str | None = None,
    known_to: KnownTo = None,
) -> Areas:
    """The areas of a board: which cells a movement can get to and back from.

    Without regard to points, turns and units. Kept until the board's ground, edges, links or blocks
    change. Tarjan's strongly connected components (1972).

    Parameters
    ----------
    board
        The board; it is not changed.
    movement
        A movement, or the name of a unit.
    side
        The side it moves for, where cells are closed to one; a unit's own.
    known_to
        The side whose knowledge counts; by default a unit's own, if it keeps any (`fog`). False:
        the truth.

    Returns
    -------
    Areas

    Raises
    ------
    NameUnknownError
        No such unit; a side that keeps no knowledge.
    InputError
        ``board`` or ``movement`` is not valid.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.SquareGrid(7, 1), {"turf": 1, "deep": None})
    >>> board.paint("deep", (4, 0))
    >>> found = us.areas(board, us.Movement(points=3))
    >>> len(found), found[(5, 0)], found[(4, 0)], found.leads((0, 0), (6, 0))
    (2, 1, None, False)
    """
    board, rules, side = rules_of(board, movement, side, known_to)
    kept = _kept(board, rules, side)
    if kept.areas is None:
        kept.areas = Areas(board, step_table(board, rules, side))
    return kept.areas


def _kept(board: Board, rules: Movement, side: str) -> _KeptAreas:
    return board._derived.get(("areas", rules.rules, board._contents.apart(side)), _KeptAreas)


def parted(
    board: Board, rules: Movement, side: str, start: Cell, ends: list[Cell], known: bool
) -> bool:
    """Whether no route leads from a cell to any of some, even without units.

    ``known``: only if that is known already, without working out the areas.
    """
    found = _kept(board, rules, side).areas
    if found is None and not known:
        # it is kept, so that the next question costs nothing
        found = areas(board, rules, side=side)
    # where it cannot stand, it may still walk away: a search has to tell
    home = None if found is None else found[start]
    if found is None or home is None:
        return False
    # nearly always, and quick to tell
    if any(found[end] == home for end in ends):
        return False
    onward = found._reached([home])
    return not any((area := found[end]) is not None and onward[area] for end in ends)


def where_it_can_get(found: Areas, starts: list[Cell]) -> tuple[IntArray, IntArray]:
    """Numbers of the cells that can be reached from some, and of those with no route back."""
    table = found.table().ravel()
    stands = np.flatnonzero(table >= 0)
    # who stands where it could not stand gets nowhere by this
    homes = [area for cell in starts if (area := found[cell]) is not None]
    inside = stands[found._reached(homes)[table[stands]]]
    return inside, inside[~found._reached(homes, back=True)[table[inside]]]
