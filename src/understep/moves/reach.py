"""Reach: where a unit can get, with cost, turn and route for each cell."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cached_property
from typing import Any, Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from understep.boards.board import Board
from understep.boards.cost import Cost
from understep.boards.refusal import Refusal, cell_on
from understep.boards.unit import Unit
from understep.errors import NotReached
from understep.grids.cell import Cell, CellLike, Cells, IntArray
from understep.grids.systems import choice
from understep.kernels.marks import SHIFT
from understep.moves.ahead import ahead, with_hint
from understep.moves.answer import (
    Answer,
    KnownTo,
    amount,
    brief,
    cannot_stop,
    doubtful,
    heading,
    known,
    points_of,
    still_holds,
    supposed,
    turn_limit,
)
from understep.moves.kept import KeptReaches, kept
from understep.moves.route import Route, make_route
from understep.moves.search import search
from understep.moves.search_labels import Labels, Prefer
from understep.moves.workspace import LARGE
from understep.overlay import Mark, Overlay, plain_facts

Column = Literal["cost", "left", "turn"]


class Entry(NamedTuple):
    """What a reach says about one cell.

    Attributes
    ----------
    cell
        The cell.
    cost
        Points spent on the whole way there.
    left
        Points left on arrival, in that turn.
    turn
        The turn of arrival; the present one is 1.
    """

    cell: Cell
    cost: Cost
    left: Cost
    turn: int

    @property
    def why(self) -> str:
        """Empty: it is not a refusal."""
        return ""


class Reach(Answer):
    """Where a unit can get; made by `reach`.

    ``cell in reach`` says whether it may end there, and everything else follows from the same
    labels: iteration and ``cells`` (nearest first), ``reach[cell]``, ``passing``, ``route``.
    """

    unit: Unit
    why, blockers = "", ()
    #: Where it is supposed to stand on a cell (``at``) on which it could not: why not.
    doubt = ""
    _places: dict[int, int] | None = None
    _cells: Cells | None = None

    def __init__(self, board: Board, unit: Unit, turns: int | None, found: Any) -> None:
        self._board, self._state = board, board._journal.state
        # labels, or what an asker found: most reaches are asked for little of what is in there
        self._found, self._turns = found, turns
        #: The unit, as it was when asked.
        self.unit = unit

    @property
    def _labels(self) -> Labels:
        if not isinstance(self._found, Labels):
            self._found = Labels.of(self._board, self.unit, self._found)
        found: Labels = self._found
        return found

    @property
    def _quick(self) -> Any:
        """What an asker found, as long as no labels are made of it; None: nothing, or much."""
        found = self._found
        return None if isinstance(found, Labels) or len(found) >= LARGE else found

    def __getstate__(self) -> dict[str, Any]:
        # compiled objects cannot be pickled, labels can
        return super().__getstate__() | {"_found": self._labels}

    def __repr__(self) -> str:
        doubt = f"; {brief(self.doubt)}" if self.doubt else ""
        return f"<Reach of {self.unit.name!r}: {amount(len(self), 'cell')}{doubt}>"

    @property
    def cells(self) -> Cells:
        """Where it may end its move, the start included, nearest first."""
        if self._cells is None:
            labels = self._labels
            self._cells = self._board.grid.numbering.cells(labels.cells[labels.stops])
        return self._cells

    @property
    def _numbers(self) -> IntArray:
        """The same by number."""
        found = self._quick
        if found is None:
            labels = self._labels
            return labels.cells[labels.stops].astype(np.int64)
        return np.frombuffer(found.stands(), dtype=np.int64)

    @property
    def _keys(self) -> IntArray:
        """Of the same the turn and what is spent in it, as one number that grows with both."""
        labels = self._labels
        found: IntArray = (labels.marks >> SHIFT)[labels.stops].astype(np.int64)
        return found

    @property
    def _ranks(self) -> IntArray:
        """Of the same the places among all labels: a way leads only over those before its end."""
        return np.flatnonzero(self._labels.stops)

    @property
    def _arrivals(self) -> tuple[IntArray, IntArray]:
        """All cells that it can enter, by number, in order, and the place of each among labels."""
        # of two labels of a cell the sooner one
        numbers, first = np.unique(self._labels.cells, return_index=True)
        return numbers.astype(np.int64), first

    @property
    def passing(self) -> Cells:
        """Where it may pass but not stop, nearest first."""
        return self._board.grid.numbering.cells(self._labels.passing)

    @property
    def stale(self) -> bool:
        """Whether the board has changed since, in a way that may alter the answer."""
        return not still_holds(self._board, self._state, self._labels.near)

    @cached_property
    def _derived(self) -> dict[str, Any]:
        """What is made of it and kept with it."""
        return {}

    @property
    def _labelled(self) -> int:
        """How much there is to it: the number of its labels."""
        return len(self._found)

    @cached_property
    def _surroundings(self) -> tuple[IntArray, IntArray] | None:
        """A box around all cells whose change could alter it; None where none can be told."""
        return self._labels.box()

    def _place(self, cell: Cell) -> int | None:
        if self._places is None:
            labels = self._labels
            stops = np.flatnonzero(labels.stops)
            # made at once for all: who asks for one cell asks for more
            self._places = dict(zip(labels.cells[stops].tolist(), stops.tolist(), strict=True))
        return self._places.get(self._board.grid.numbering.number(cell))

    def __len__(self) -> int:
        return int(np.count_nonzero(self._labels.stops))

    def __iter__(self) -> Iterator[Cell]:
        return iter(self.cells)

    def __contains__(self, cell: object) -> bool:
        return cell in self._board.grid and self._place(cell) is not None  # type: ignore[arg-type]

    def get(self, cell: CellLike | None) -> Entry | Refusal:
        """The entry of a cell, or a false `Refusal` that says why the unit may not end there.

        Raises
        ------
        CellError
            ``cell`` is not a cell. (None, and cells off the board, are refused.)

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(6, 1), {"turf": 1, "deep": None})
        >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=2)), at=(0, 0))
        >>> reach = us.reach(board, "scout")
        >>> reach.get((2, 0)).cost, reach.get((3, 0)).why
        (2, '(3, 0) is not within 1 turn at 2 points a turn')
        """
        found = cell_on(self._board.grid, cell)
        if isinstance(found, Refusal):
            return found
        # looked up first: for most cells that are asked there is an entry
        place = self._place(found)
        if place is None:
            stop = cannot_stop(self._board, self.unit, found)
            return with_hint(self._beyond(found), self._ahead(found)) if stop is None else stop
        labels = self._labels
        key = int(labels.marks[place]) >> SHIFT
        turn, used = divmod(key, labels.mover.stride)
        left = labels.mover.stride - 1 - used
        # in the first turn what is left says what was spent; later, waits come in between
        cost = labels.mover.first - left if turn == 0 else int(labels.totals()[place])
        return Entry(found, labels.amount(cost), labels.left_in(turn + 1, left), turn + 1)

    def _refusal(self, cell: Cell) -> Refusal:
        """Why the unit may not end on a cell, regardless of what is in its way."""
        stop = cannot_stop(self._board, self.unit, cell)
        return Refusal(self._beyond(cell)) if stop is None else stop

    def _beyond(self, cell: Cell) -> str:
        """That a cell is too far."""
        limit = "any number of turns" if self._turns is None else amount(self._turns, "turn")
        return f"{tuple(cell)} is not within {limit} at {points_of(self.unit)}"

    def _routes(self) -> Iterator[IntArray]:
        """The routes to its cells, in their order: of each the cells, by number."""
        way = heading(self._board, self.unit, None)
        for labels in self._labels.tied_routes(self._numbers.tolist(), way):
            yield self._labels.cells[labels].astype(np.int64)

    def _enters(self, near: bytearray, least: int) -> bool:
        """Whether it can enter a cell, by number, that bears so much."""
        found = self._quick
        if found is not None:
            entered: bool = found.enters(near, least)
            return entered
        return bool((np.frombuffer(near, np.uint8)[self._labels.cells] >= least).any())

    def _ahead(self, cell: Cell) -> Refusal | None:
        """What it meets first on the straight line to a cell, if that is in its way."""
        numbering = self._board.grid.numbering
        home, met = numbering.cell_of(self._labels.home), self._entered
        return ahead(self._board, self.unit, home, cell, lambda each: numbering.number(each) in met)

    @cached_property
    def _entered(self) -> frozenset[int]:
        """All cells it can enter, by number."""
        return frozenset(self._labels.cells.tolist())

    def __getitem__(self, cell: CellLike) -> Entry:
        entry = self.get(cell)
        if isinstance(entry, Refusal):
            raise NotReached(entry.why)
        return entry

    def route_to(
        self, cell: CellLike, *, prefer: Prefer = "straight", facing: str | int | None = None
    ) -> Route:
        """The route to a cell of this reach; the same that `understep.route` gives.

        Parameters
        ----------
        cell
            Where to end.
        prefer, facing
            How to choose among equally good routes, as in `understep.route`.

        Raises
        ------
        NotReached
            The unit may not end there; the message says why.
        NameUnknownError
            An unknown word for ``prefer`` or ``facing``.
        CellError
            ``cell`` is not a cell.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(6, 1), {"turf": 1, "deep": None})
        >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=2)), at=(0, 0))
        >>> reach = us.reach(board, "scout")
        >>> [tuple(cell) for cell in reach.route_to((2, 0)).cells]
        [(0, 0), (1, 0), (2, 0)]
        """
        choice(prefer, Prefer, "prefer")
        entry = self[cell]
        way = heading(self._board, self.unit, facing)
        return make_route(self.unit, self._state, self._labels, entry.cell, prefer, way)

    def table(self, column: Column = "cost") -> NDArray[np.float64]:
        """One figure for every cell of the board.

        Parameters
        ----------
        column
            ``"cost"``, ``"left"`` or ``"turn"``, as in `Entry`.

        Returns
        -------
        ndarray of float64, shape ``(rows, cols)``
            NaN where the unit may not end. Use ``table[board.grid.index(cells)]``. A new array.

        Raises
        ------
        NameUnknownError
            An unknown column.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(6, 1), {"turf": 1, "deep": None})
        >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=2)), at=(0, 0))
        >>> reach = us.reach(board, "scout")
        >>> reach.table("left").tolist()
        [[2.0, 1.0, 0.0, nan, nan, nan]]
        """
        choice(column, Column, "column")
        grid = self._board.grid
        table = np.full(grid.cols * grid.rows, np.nan)
        table[self._numbers] = self._figures(column)
        return table.reshape(grid.rows, grid.cols)

    def _figures(self, column: Column) -> NDArray[np.float64]:
        """One figure for every cell where it may end, nearest first; see `table`."""
        labels = self._labels
        stops = labels.stops
        if column == "turn":
            return labels.turns(stops).astype(np.float64)
        if column == "cost":
            costs: NDArray[np.float64] = labels.totals()[stops] / labels.mover.scale
            return costs
        # what the scale leaves out of a turn's points is left over, too
        finer = np.array([float(part) for part in labels.mover.finer])
        later = (labels.turns(stops) > 1).astype(int)
        left: NDArray[np.float64] = labels.left(stops) / labels.mover.scale + finer[later]
        return left

    def _columns(self) -> tuple[IntArray, NDArray[np.float64]]:
        """The cells ``(n, 2)`` where it may end, nearest first, and their costs."""
        return self._board.grid.numbering.cells_of(self._numbers), self._figures("cost")

    def overlay(self) -> Overlay:
        """The reach as plain data: roles "start", "reach" (number: the turn) and "pass".

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(6, 1), {"turf": 1, "deep": None})
        >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=2)), at=(0, 0))
        >>> reach = us.reach(board, "scout")
        >>> overlay = reach.overlay()
        >>> overlay[us.Cell(2, 0)].role, overlay[us.Cell(2, 0)].text
        ('reach', None)
        """
        labels, grid = self._labels, self._board.grid
        cells = grid.numbering.cells_of(labels.cells).tolist()
        marks: dict[Cell, Mark] = {}
        rows = zip(cells, labels.turns().tolist(), labels.stops.tolist(), strict=True)
        for cell, turn, stop in rows:
            # of two labels of a cell the sooner one is drawn
            marks.setdefault(Cell(*cell), Mark("reach" if stop else "pass", turn))
        # last, as it may stop where it starts
        marks[Cell(*cells[0])] = Mark("start", 1, self.unit.name)
        return Overlay._of(marks)

    def plain(self) -> dict[str, Any]:
        """The reach as plain lists and numbers, for JSON.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(6, 1), {"turf": 1, "deep": None})
        >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=2)), at=(0, 0))
        >>> reach = us.reach(board, "scout")
        >>> reach.plain()["cells"][1]
        {'cell': [1, 0], 'cost': 1, 'left': 1, 'turn': 1}
        """
        entries = map(self.__getitem__, self.cells)
        facts = {"turns": self._turns, "cells": entries, "passing": self.passing}
        return super().plain() | plain_facts(facts | {"doubt": self.doubt})


def reach(
    board: Board,
    unit: str,
    *,
    turns: int | None = 1,
    at: CellLike | None = None,
    left: Cost | None = None,
    known_to: KnownTo = None,
) -> Reach:
    """Where a unit can get.

    Fewest turns come first, then fewest points spent in the last turn. A turn may end only where
    the unit may stop; the first turn uses the points it has left. Uniform-cost search (Dijkstra
    1959). The same reach is given again while nothing has changed that matters to it.

    Parameters
    ----------
    board
        The board; it is not changed.
    unit
        The name of a unit on it.
    turns
        How many turns it may take, the present one included; None: any number.
    at
        A cell to suppose it stood on, in place of where it does; it may lie in an obstacle.
    left
        Points to suppose it had left in the first turn.
    known_to
        The side whose knowledge counts; by default the unit's own, if it keeps any (`fog`). False:
        the truth.

    Returns
    -------
    Reach

    Raises
    ------
    NameUnknownError
        No such unit, or a side that keeps no knowledge.
    CellError
        ``at`` is not a cell, or off the board.
    InputError
        ``turns`` is not a whole number of 1 or more.
    CostError
        Points or costs that cannot be, or are too large to count exactly.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.HexGrid(9, 7), {"turf": 1, "mud": 3, "deep": None})
    >>> board.paint("mud", [(4, 3), (4, 4)])
    >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=3)), at=(3, 3))
    >>> reach = us.reach(board, "scout")
    >>> (4, 3) in reach, reach[(4, 3)].cost, reach[(4, 3)].left
    (True, 3, 0)
    >>> reach.get((8, 6)).why
    '(8, 6) is not within 1 turn at 3 points a turn'
    """
    board = known(board, unit, known_to)
    who = board.unit(unit)
    turns = turn_limit(turns)
    keeping: KeptReaches[Reach] = kept(board)
    plain = at is None and left is None
    # the same answer again: what was made of it is there, too
    if plain and (before := keeping.find(unit, turns)) is not None:
        return before
    asker = keeping.asker(who, turns) if left is None else None
    quick = None if asker is None else asker.ask(who.at, at, board._journal.state)
    if quick is not None:
        found = Reach(board, who, turns, quick)
    else:
        who, start = supposed(who, at, left, board)
        found = Reach(board, who, turns, search(board, who, turns=turns, start=start))
        found.doubt = doubtful(board, who, start)
    return keeping.keep(turns, found) if plain else found
