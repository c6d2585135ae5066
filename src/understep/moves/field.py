"""Field: the cost from every cell to the nearest of many goals, and the next step."""

from __future__ import annotations

from fractions import Fraction
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from understep.boards.board import Board
from understep.boards.cost import Cost, plain
from understep.boards.refusal import Refusal, cell_on
from understep.boards.unit import Unit
from understep.errors import InputError, NotReached
from understep.grids.cell import Cell, CellLike, Cells, CellsLike, IntArray
from understep.grids.systems import choice
from understep.kernels import loader
from understep.kernels.loader import view
from understep.moves.answer import Answer, CellValue, KnownTo, amount, any_of, rules_of
from understep.moves.workspace import layered
from understep.overlay import Mark, Overlay, plain_facts
from understep.rules.link_steps import NO_COSTS, NONE, Chains, chained
from understep.rules.movement import Movement
from understep.rules.steps import StepTable, step_table

KEPT = 254
FEW, MANY = 16, 100  # so many cells may have changed, or one of so many


class Field(Answer):
    """The cost from every cell to the nearest of some goals; made by `field`.

    ``field[cell]`` is the cost, ``field.next(cell)`` where to step from there.
    """

    def __init__(
        self,
        board: Board,
        table: StepTable,
        goals: Cells,
        rules: Movement,
        side: str,
        unit: Unit | None,
        before: Field | None = None,
    ) -> None:
        self._of(board)
        self._table = table
        self.unit, self.blockers = unit, ()
        self._rules, self._side = rules, side
        self._scale = table.scale  # costs count in parts of a point
        # whether it can be refreshed: else ties depend on the order of work
        self._plain = not table.far_steps and not table.free_steps and table.layers == 1
        #: The goals, in their order.
        self.goals = goals
        grid = board.grid
        self._cells = cells = grid.cols * grid.rows
        table.fill()
        numbers = grid.numbering.numbers(goals.array)
        self._given = np.flatnonzero(table.standing()[numbers])
        self._deltas = layered(grid, table.layers)
        places = cells * table.layers
        lists = [np.full(size, -1, dtype=np.int32) for size in (64, places, places)]
        if before is not None and self._keep(before, lists):
            return
        sought = numbers[self._given]
        ends, costs = table.far()
        if table.layers == 2:
            sought = np.append(sought, sought + cells)
            ends, costs = np.concatenate([ends, ends + cells]), np.append(costs, costs)
        self._cost = np.full(places, -1, dtype=np.int64)
        self._onward = np.full(places, -1, dtype=np.int32)
        self._owner = np.full(places, -1, dtype=np.int32)
        self._way = np.zeros(places, dtype=np.uint8)
        links = chained(ends, costs, 1, places)
        self._spread(0, sought, lists, np.zeros(places, dtype=np.uint8), links)

    def __getstate__(self) -> dict[str, Any]:
        return super().__getstate__() | {"_table": None}  # it is the board's

    def __setstate__(self, state: dict[str, Any]) -> None:
        super().__setstate__(state)
        self._table = step_table(self._board, self._rules, self._side)

    def _spread(
        self, queued: int, sought: IntArray, lists: list[Any], place: Any, links: Chains
    ) -> None:
        """Find the cost of all cells from those that are queued, and the goals."""
        grid, layers = self._board.grid, self._table.layers
        heads, after, before = map(view, lists)
        loader.field.spread(
            queued, view(sought.astype(np.int32)), view(self._cost), view(self._onward),
            view(self._owner), view(self._way), heads, after, before, view(place),
            *self._table.views, view(self._deltas), grid.cols, grid.rows * layers,
            *grid.numbering.staggering, self._cells if layers == 2 else 0, *links,
        )  # fmt: skip

    def _keep(self, before: Field, lists: list[Any]) -> bool:
        """Take over what an earlier field knows and no edit can have altered, if that pays."""
        table, grid = self._table, self._board.grid
        changed = self._board.changed_since(before._state)
        if changed is None or len(changed) > max(FEW, self._cells // MANY):
            return False
        alike = (table, self._scale) == (before._table, before._scale)
        alike = alike and np.array_equal(before._given, self._given)
        if not (alike and self._plain and before._plain):
            return False
        altered = table.altered(grid.numbering.numbers(changed.array)).astype(np.int32)
        self._cost, self._onward = before._cost.copy(), before._onward.copy()
        self._owner, self._way = before._owner.copy(), before._way.copy()
        place = np.full(self._cells, KEPT, dtype=np.uint8)
        heads, after, befores = map(view, lists)
        queued = loader.field.forget(
            view(altered), view(np.empty(self._cells, dtype=np.int32)), view(self._cost),
            view(self._onward), view(self._owner), heads, after, befores, view(place),
            *table.views[:2], view(self._deltas), grid.cols, grid.rows, *grid.numbering.staggering,
        )  # fmt: skip
        self._spread(
            queued, np.zeros(0, dtype=np.int64), lists, place, (NONE, NONE, NONE, NO_COSTS)
        )
        return True

    def refreshed(self) -> Field:
        """The field to the same goals on the board as it is now.

        After small edits that is found from this one, without starting over; a new field all the
        same, while this one stays what it was.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.HexGrid(9, 7), {"turf": 1, "mud": 3})
        >>> field = us.field(board, us.Movement(points=4), [(0, 3)])
        >>> board.paint("mud", [(col, 3) for col in range(1, 4)])
        >>> field[(5, 3)], field.stale, field.refreshed()[(5, 3)]
        (5, True, 6)
        """
        table = step_table(self._board, self._rules, self._side)
        return Field(self._board, table, self.goals, self._rules, self._side, self.unit, self)

    def __repr__(self) -> str:
        return f"<Field to {amount(len(self.goals), 'goal')}>"

    def _number(self, cell: CellLike) -> int:
        return self._board.grid.numbering.of(cell)

    def __contains__(self, cell: object) -> bool:
        return cell in self._board.grid and self._cost[self._number(cell)] >= 0  # type: ignore[arg-type]

    def __getitem__(self, cell: CellLike) -> Cost:
        found = self.get(cell)
        if isinstance(found, Refusal):
            raise NotReached(found.why)
        cost: Cost = found.value
        return cost

    @property
    def why(self) -> str:  # type: ignore[override]
        """Why no cell has a cost: the movement can stand on no goal; else empty."""
        return "" if (self._cost >= 0).any() else "it can stand on none of the goals"

    @property
    def cells(self) -> Cells:
        """The cells from which a route leads to a goal, row by row."""
        return self._board.grid.numbering.cells(np.flatnonzero(self._cost[: self._cells] >= 0))

    def get(self, cell: CellLike | None) -> CellValue | Refusal:
        """The cost from a cell to the nearest goal, or a false `Refusal`.

        Raises
        ------
        CellError
            ``cell`` is not a cell. (None, and cells off the board, are refused.)

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(6, 1), {"turf": 1, "deep": None})
        >>> board.paint("deep", (3, 0))
        >>> field = us.field(board, us.Movement(points=2), [(0, 0)])
        >>> field.get((2, 0)).value, field.get((5, 0)).why
        (2, 'no route leads from (5, 0) to (0, 0)')
        """
        found = cell_on(self._board.grid, cell)
        if isinstance(found, Refusal):
            return found
        cost = int(self._cost[self._number(found)])
        if cost < 0:
            return Refusal(f"no route leads from {tuple(found)} to {any_of(self.goals)}")
        return CellValue(found, plain(Fraction(cost, self._scale)))

    def next(self, cell: CellLike) -> Cell | None:
        """The next cell on the route to the nearest goal; on a goal itself that; None: no route.

        Of tied steps, the first in the grid's direction order, links and leaps last.

        Raises
        ------
        CellError
            ``cell`` is not a cell, or lies off the board.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(6, 1), {"turf": 1, "deep": None})
        >>> field = us.field(board, us.Movement(points=2), [(0, 0), (5, 0)])
        >>> field.next((2, 0)), field.next((3, 0))
        (Cell(col=1, row=0), Cell(col=4, row=0))
        """
        onward = int(self._onward[self._number(cell)])
        return None if onward < 0 else self._board.grid.numbering.cell_of(onward % self._cells)

    def owner(self, cell: CellLike) -> Cell | None:
        """The goal that the route from a cell leads to; None: no route.

        Raises
        ------
        CellError
            ``cell`` is not a cell, or lies off the board.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(6, 1), {"turf": 1, "deep": None})
        >>> field = us.field(board, us.Movement(points=2), [(0, 0), (5, 0)])
        >>> field.owner((2, 0)), field.owner((3, 0))
        (Cell(col=0, row=0), Cell(col=5, row=0))
        """
        owner = int(self._owner[self._number(cell)])
        return None if owner < 0 else self.goals[int(self._given[owner % len(self._given)])]

    def cells_from(self, cell: CellLike) -> Cells:
        """The cells from one to the nearest goal, both included; none where no route leads there.

        Raises
        ------
        CellError
            ``cell`` is not a cell, or lies off the board.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(6, 1), {"turf": 1, "deep": None})
        >>> field = us.field(board, us.Movement(points=2), [(0, 0), (5, 0)])
        >>> [tuple(cell) for cell in field.cells_from((2, 0))]
        [(2, 0), (1, 0), (0, 0)]
        """
        numbers = [self._number(cell)]
        if self._onward[numbers[0]] < 0:
            return Cells()
        while self._onward[numbers[-1]] != numbers[-1]:
            numbers.append(int(self._onward[numbers[-1]]))
        return self._board.grid.numbering.cells(np.array(numbers) % self._cells)

    def table(self, column: Literal["cost"] = "cost") -> NDArray[np.float64]:
        """The cost of every cell, ``(rows, cols)``; NaN without a route to any. A new array.

        Raises
        ------
        NameUnknownError
            There is no such column.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(6, 1), {"turf": 1, "deep": None})
        >>> field = us.field(board, us.Movement(points=2), [(0, 0), (5, 0)])
        >>> field.table().tolist()
        [[0.0, 1.0, 2.0, 2.0, 1.0, 0.0]]
        """
        choice(column, Literal["cost"], "column")
        cost = self._cost[: self._cells]
        found = np.where(cost < 0, np.nan, cost / self._scale)
        return found.reshape(self._board.grid.rows, self._board.grid.cols)

    @property
    def stale(self) -> bool:
        """Whether the board has changed since, in a way that may alter the answer."""
        return self._board.altered_since(self._state)

    def overlay(self) -> Overlay:
        """The field as plain data: role "field", number and text: the cost; "goal" for goals.

        For cells where a unit can stand.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(6, 1), {"turf": 1, "deep": None})
        >>> field = us.field(board, us.Movement(points=2), [(0, 0), (5, 0)])
        >>> field.overlay()[us.Cell(2, 0)].text
        '2'
        """
        grid, cost = self._board.grid, self._cost[: self._cells]
        numbers = np.flatnonzero((cost >= 0) & (self._table.standing() > 0))
        cells, costs = (
            grid.numbering.cells(numbers),
            (cost[numbers] / self._scale).tolist(),
        )
        marks = {
            cell: Mark("field", many, f"{many:g}") for cell, many in zip(cells, costs, strict=True)
        }
        return Overlay._of(
            marks | {goal: Mark("goal", 0, "0") for goal in self.goals if goal in self}
        )

    def plain(self) -> dict[str, Any]:
        """The field as plain lists and numbers, for JSON."""
        entries = ({"cell": c, "cost": self[c], "next": self.next(c)} for c in self.cells)
        return super().plain() | plain_facts({"goals": self.goals, "cells": entries})


def field(
    board: Board,
    movement: Movement | str,
    goals: CellsLike,
    *,
    side: str | None = None,
    known_to: KnownTo = None,
) -> Field:
    """The cost from every cell to the nearest of some goals, over the terrain.

    For many units that go to the same places: each looks up its next step. Total points count, not
    turns; units are not in the way. Dijkstra (1959) from all goals over reversed steps and links.

    Parameters
    ----------
    board
        The board; it is not changed.
    movement
        A movement, or the name of a unit.
    goals
        The cells; those where the movement cannot stand are passed over.
    side
        The side it moves for, where cells are closed to one; a unit's own.
    known_to
        The side whose knowledge counts; by default a unit's own, if it keeps any (`fog`). False:
        the truth.

    Returns
    -------
    Field

    Raises
    ------
    NameUnknownError
        No such unit; a side that keeps no knowledge.
    CellError
        A goal that is not a cell, or off the board.
    InputError
        No goals, or no movement.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.SquareGrid(7, 3), {"turf": 1, "mud": 3})
    >>> board.paint("mud", [(2, 0), (2, 1)])
    >>> field = us.field(board, us.Movement(points=4), [(0, 0), (6, 2)])
    >>> field[(3, 0)], tuple(field.next((3, 0))), tuple(field.owner((3, 0)))
    (5, (4, 0), (6, 2))
    """
    board, rules, who = rules_of(board, movement, side, known_to)
    array = board.grid.numbering.require_all(goals, "goals").reshape(-1, 2)
    if not len(array):
        raise InputError("goals", "must hold at least one cell", goals)
    unit = board.unit(movement) if isinstance(movement, str) else None
    return Field(board, step_table(board, rules, who), Cells(array), rules, who, unit)
