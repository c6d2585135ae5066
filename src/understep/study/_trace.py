"""Trace: four ways of searching, step by step, and what they make of the same question."""

from __future__ import annotations

import heapq
from collections.abc import Iterator
from fractions import Fraction
from time import perf_counter
from typing import Any, Literal, NamedTuple, TypeAlias, get_args

import numpy as np

from understep.boards.board import Board
from understep.boards.cost import Cost, plain
from understep.boards.unit import Unit
from understep.grids.cell import Cell, CellLike, Cells, IntArray
from understep.grids.systems import choice
from understep.moves.answer import KnownTo, known, movement_of, mover
from understep.overlay import Mark, Overlay
from understep.rules.steps import step_table

Method: TypeAlias = Literal["breadth-first", "uniform-cost", "a-star", "greedy"]
NO_MOUTHS: IntArray = np.zeros(0, dtype=np.int64)
METHODS: tuple[Method, ...] = get_args(Method)


class Met(NamedTuple):
    """A cell that a search met, or found a cheaper route to, as it expanded another.

    Attributes
    ----------
    cell
        The cell.
    before
        The cell before it on the route found to it: the cell that was expanded.
    cost
        Points spent on that way.
    rank
        What it waits by, in points: the least is expanded next, of equal ones the one met first.
        The estimate of what remains is in it where the way of searching uses one.
    """

    cell: Cell
    before: Cell
    cost: Cost
    rank: Cost


class Moment(NamedTuple):
    """One step of a search: the cell it expanded, and what that changed.

    Attributes
    ----------
    current
        The cell that was expanded: closed from now on.
    cost
        Points spent on the way found to it.
    rank
        What it waited by; see `Met`. 0 in a breadth-first search, where the first met is taken.
    met
        The cells that were met, or met at a lower cost: they wait from now on.
    """

    current: Cell
    cost: Cost
    rank: Cost
    met: tuple[Met, ...]


class SearchReport(NamedTuple):
    """The result of one search algorithm.

    Attributes
    ----------
    method
        The way of searching.
    cells
        The cells of the route it found; none where it found none.
    cost
        Points of that way; None without one.
    expanded
        How many cells it expanded.
    seconds
        How long it took, in plain Python: to be compared with each other only.
    closed
        The cells it expanded, in order.
    """

    method: Method
    cells: Cells
    cost: Cost | None
    expanded: int
    seconds: float
    closed: Cells

    def __repr__(self) -> str:
        cost = "no route" if self.cost is None else f"cost {float(self.cost):g}"
        steps = f", {len(self.cells) - 1} steps" if self.cells else ""
        return f"<{self.method}: {cost}{steps}, {self.expanded} cells expanded>"

    def overlay(self) -> Overlay:
        """The search as plain data: roles "expanded" (number: the order), "route" and "goal"."""
        marks = {cell: Mark("expanded", place) for place, cell in enumerate(self.closed)}
        for cell in self.cells:
            marks[cell] = Mark("route", 1)
        if self.cells:
            marks[self.cells[0]] = Mark("start", 1)
            marks[self.cells[-1]] = Mark("goal", 1, "")
        return Overlay._of(marks, priority=2)

    def plain(self) -> dict[str, Any]:
        """The trial as plain lists and numbers, for JSON."""
        facts = {"method": self.method, "cost": self.cost, "steps": max(0, len(self.cells) - 1)}
        facts |= {"expanded": self.expanded, "seconds": self.seconds}
        return {**facts, "cells": [list(cell) for cell in self.cells]}


class _TracedSearch:
    """A search over the steps of a movement, one cell at a time."""

    def __init__(self, board: Board, unit: Unit, goal: Cell, method: Method) -> None:
        self._board, self._unit, self._movement = board, unit, movement_of(unit)
        self._method, self.goal = method, goal
        self._table = step_table(board, self._movement, unit.side)
        grid, cheapest = board.grid, self._table.cheapest
        found = self._table.links.mouths(grid.numbering.number(goal), cheapest)
        # too many links: then nothing is estimated, and A* is Dijkstra's search
        self._cheapest = 0 if found is None else cheapest
        cells, self._rest = found or (NO_MOUTHS, NO_MOUTHS)
        self._mouths = grid.numbering.cells_of(cells)
        self.spent = {unit.at or goal: 0}
        self.before: dict[Cell, Cell] = {}
        self.closed: dict[Cell, None] = {}
        self._queue: list[tuple[int, int, Cell]] = []
        #: What was met at the last step, with its rank; the rank of the cell expanded.
        self.met: dict[Cell, int] = {}
        self.rank = 0
        self._push(unit.at or goal)

    def _push(self, cell: Cell) -> None:
        rank = {"breadth-first": 0, "uniform-cost": self.spent[cell]}.get(self._method)
        if rank is None:
            rank = self._estimate(cell) + (self.spent[cell] if self._method == "a-star" else 0)
        # of equal ranks the one met first is taken, as in most lectures
        heapq.heappush(self._queue, (rank, len(self.before), cell))
        self.met[cell] = rank

    def _estimate(self, cell: Cell) -> int:
        """The least that a way to the goal can cost, links included."""
        grid = self._board.grid
        least = self._cheapest * int(grid.distance(cell, self.goal))
        # a link can be shorter than the straight way
        if len(self._mouths):
            by_link = self._rest + self._cheapest * grid.distance(self._mouths, cell)
            least = min(least, int(by_link.min()))
        return least

    def _blocked(self, cell: Cell) -> bool:
        """Whether units in the way let nobody through, or to stop on the goal."""
        for each in self._board.covered(self._unit, cell):
            other = self._board.unit_at(each, layer=self._unit.layer)
            if other is not None and other.name != self._unit.name:
                own = other.side == self._unit.side
                if cell == self.goal or not self._movement._may_pass(own):
                    return True
        return False

    def run(self) -> Iterator[Cell]:
        """Expand cell after cell, until the goal is."""
        # these two alone look at costs as they go
        counts = self._method in ("uniform-cost", "a-star")
        while self._queue:
            rank, _, cell = heapq.heappop(self._queue)
            # it waited more than once, and came sooner by a cheaper way
            if cell in self.closed:
                continue
            self.closed[cell] = None
            self.rank, self.met = rank, {}
            if cell == self.goal:
                yield cell
                return
            for number, cost in self._table.steps(self._board.grid.numbering.number(cell)):
                other = self._board.grid.numbering.cell_of(number)
                spent = self.spent[cell] + cost
                known = self.spent.get(other)
                # the other two take the first way to a cell for the best
                better = known is None or (counts and spent < known)
                if other in self.closed or not better or self._blocked(other):
                    continue
                self.spent[other], self.before[other] = spent, cell
                self._push(other)
            yield cell

    def amount(self, scaled: int) -> Cost:
        """Scaled points as they are given back."""
        return plain(Fraction(scaled, self._table.scale))

    def moment(self, cell: Cell) -> Moment:
        """What the last step was, which expanded a cell."""
        amount, spent = self.amount, self.spent
        met = (
            Met(each, cell, amount(spent[each]), amount(rank)) for each, rank in self.met.items()
        )
        return Moment(cell, amount(spent[cell]), amount(self.rank), tuple(met))

    def route(self) -> Cells:
        """The way found to the goal; none where it was not expanded."""
        # it may have been met without being expanded
        if self.goal not in self.closed:
            return Cells()
        cells = [self.goal]
        while cells[-1] in self.before:
            cells.append(self.before[cells[-1]])
        return Cells(cells[::-1])


def trace(
    board: Board,
    unit: str,
    goal: CellLike,
    *,
    method: Method = "a-star",
    known_to: KnownTo = None,
) -> Iterator[Moment]:
    """Watch a search for a route to a cell, one expanded cell after the other.

    Each step says what it changed, so that a picture of the search can be kept up: ``current`` is
    closed, what is ``met`` waits, and ``before`` leads back along the ways found.

    To see what a way of searching does, and that a cheaper way with more steps is not missed. Turns
    do not count here, nor zones of control, foes at corners or that diagonals alternate: total
    points and steps do.

    Parameters
    ----------
    board
        The board; it is not changed.
    unit
        The name of a unit on it.
    goal
        The cell.
    method
        ``"breadth-first"`` (fewest steps), ``"uniform-cost"`` (Dijkstra), ``"a-star"``, or
        ``"greedy"`` (what looks nearest first).
    known_to
        The side whose knowledge counts; by default a unit's own, if it keeps any (`fog`). False:
        the truth.

    Yields
    ------
    Moment
        One for every expanded cell, with what it changed; the last is the goal, if there is a way.

    Raises
    ------
    NameUnknownError
        No such unit, or no such method; a side that keeps no knowledge.
    CellError
        ``goal`` is not a cell, or off the board.
    InputError
        ``board`` is not a board.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.SquareGrid(4, 1), {"turf": 1})
    >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=4)), at=(0, 0))
    >>> [(tuple(moment.current), moment.cost) for moment in us.study.trace(board, "scout", (2, 0))]
    [((0, 0), 0), ((1, 0), 1), ((2, 0), 2)]
    >>> before = {}
    >>> for moment in us.study.trace(board, "scout", (2, 0)):
    ...     before |= {tuple(each.cell): tuple(each.before) for each in moment.met}
    >>> before
    {(1, 0): (0, 0), (2, 0): (1, 0)}
    """
    search = _TracedSearch(*_asked(known(board, unit, known_to), unit, goal, method))

    return map(search.moment, search.run())


def compare(
    board: Board, unit: str, goal: CellLike, *, known_to: KnownTo = None
) -> tuple[SearchReport, ...]:
    """Run four search algorithms on the same question, and report cost and expanded cells.

    Parameters
    ----------
    board, unit, goal, known_to
        As for `trace`.

    Returns
    -------
    tuple of SearchReport
        Breadth-first, uniform-cost, A* and greedy best-first search.

    Raises
    ------
    NameUnknownError
        No such unit.
    CellError
        ``goal`` is not a cell, or off the board.
    InputError
        ``board`` is not a board.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.SquareGrid(9, 5), {"turf": 1, "mud": 4})
    >>> board.paint("mud", board.grid.rectangle((2, 0), (6, 3)))
    >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=4)), at=(0, 2))
    >>> [(trial.method, trial.cost) for trial in us.study.compare(board, "scout", (8, 2))]
    [('breadth-first', 23), ('uniform-cost', 12), ('a-star', 12), ('greedy', 23)]
    """
    board, found = known(board, unit, known_to), []
    for method in METHODS:
        search = _TracedSearch(*_asked(board, unit, goal, method))
        # the tables are made by now, so that all four are timed alike
        began = perf_counter()
        closed = list(search.run())
        seconds = perf_counter() - began
        route = search.route()
        cost = search.amount(search.spent[search.goal]) if route else None
        found.append(SearchReport(method, route, cost, len(closed), seconds, Cells(closed)))
    return tuple(found)


def _asked(board: Board, unit: str, goal: CellLike, method: Any) -> tuple[Board, Unit, Cell, Any]:
    choice(method, Method, "method")
    return board, mover(board, unit), board.grid.numbering.require(goal, "goal"), method
