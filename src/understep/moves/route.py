"""Route: the cells from a start to a goal, with costs, turns and reasons."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cached_property, partial
from typing import Any, NamedTuple, TypeVar, cast

from understep.boards.board import Board
from understep.boards.cost import Cost
from understep.boards.refusal import Refusal
from understep.boards.unit import Unit
from understep.errors import InputError
from understep.grids.cell import Cell, Cells, IntArray
from understep.kernels.marks import SHIFT
from understep.moves.answer import (
    Answer,
    amount,
    brief,
    still_holds,
)
from understep.moves.search_labels import Labels, Prefer
from understep.overlay import Mark, Overlay

T = TypeVar("T")


class Step(NamedTuple):
    """One step of a route.

    Attributes
    ----------
    cell
        Where the step leads.
    direction
        Its direction, by name; None where it takes a link or leaps.
    cost
        The points it takes.
    turn
        The turn in which it is taken; the present one is 1.
    left
        Points left in that turn after it.
    """

    cell: Cell
    direction: str | None
    cost: Cost
    turn: int
    left: Cost


@dataclass(frozen=True, eq=False, repr=False)
class Route(Answer):
    """The route from a start to a goal, or the reason why there is no route; made by `route`.

    Attributes
    ----------
    unit
        The unit, as it was when asked.
    goal
        The cell it leads to; where there is no route, the first that was asked for.
    cells
        All cells from start to goal, both included; none where there is no route.
    cost
        Points spent, the sum of the steps' costs; None where there is no route.
    turns
        Turns it takes, the present one included; None where there is no route.
    why
        Why there is no route; empty where there is one.
    blockers
        Names of the units in the way.
    expanded
        How many cells the search closed.
    seconds
        How long it took.
    bound
        By what factor it can be worse than the best, counted in points, every turn but the last
        as a full one; 1.0 but for a weighted search.
    shortfall
        Where ``accept="nearest"`` led to another cell than asked for: why that could not be had.
    doubt
        Where it is supposed to stand on a cell (``at``) on which it could not: why not.
    refusals
        Of the goals asked for, those on which it cannot end wherever it comes from: a `Refusal`
        each.
    """

    _facts = (
        "goal",
        "cells",
        "cost",
        "turns",
        "steps",
        "stops",
        "nearest",
        "shortfall",
        "doubt",
    )

    unit: Unit
    goal: Cell
    cells: Cells
    cost: Cost  # of a route that was not found, None; turns too
    turns: int
    why: str
    blockers: tuple[str, ...]
    _nearest: Callable[[], Cell]
    _board: Board
    _state: int
    _steps: Callable[[], tuple[Step, ...]]
    expanded: int = 0
    seconds: float = 0.0
    bound: float = 1.0
    shortfall: str = ""
    doubt: str = ""
    refusals: dict[Cell, Refusal] = field(default_factory=dict)
    _resume: Callable[[], Route] | None = None

    def __getstate__(self) -> dict[str, Any]:
        if self.paused:
            # what it would go on with is the kernel's
            rule = "a paused one cannot be pickled; resume() it to the end first"
            raise InputError("route", rule, self)
        # what is worked out when asked is worked out now: a search cannot be packed
        nearest = partial(_same, self.nearest) if self.why else partial(_same, self.goal)
        given = {"_steps": partial(_same, self.steps), "_nearest": nearest}
        return super().__getstate__() | given

    @property
    def paused(self) -> bool:
        """Whether its budget was spent before there was an answer."""
        return self._resume is not None

    def resume(self) -> Route:
        """Go on after a pause, with the same budget; an answer that is there is returned as it is.

        Where the board has changed meanwhile, the search starts anew.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(6, 1), {"turf": 1, "deep": None})
        >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=2)), at=(0, 0))
        >>> route = us.route(board, "scout", (5, 0), budget=2)
        >>> frames = 1
        >>> while route.paused:
        ...     route, frames = route.resume(), frames + 1
        >>> route.cost, frames
        (5, 4)
        """
        return self if self._resume is None else self._resume()

    @cached_property
    def nearest(self) -> Cell:
        """The cell nearest to the goal where the unit can get; the goal itself where it can.

        Of equally near cells it is that where it can be soonest, then the first in row order.

        Where the goal lies in another area, it is looked for when asked for, on the board as it is
        then.
        """
        return self._nearest()

    @cached_property
    def steps(self) -> tuple[Step, ...]:
        """A `Step` for each cell but the start."""
        return self._steps()

    def __len__(self) -> int:
        return len(self.cells)

    def __repr__(self) -> str:
        if self.why:
            return f"<no Route of {self.unit.name!r} to {tuple(self.goal)}: {brief(self.why)}>"
        text = f"{amount(len(self.steps), 'step')}, cost {self.cost}"
        text += f"; {brief(self.doubt)}" if self.doubt else ""
        return f"<Route of {self.unit.name!r} to {tuple(self.goal)}: {text}>"

    @property
    def stops(self) -> Cells:
        """The cells where a turn ends, the goal included."""
        ends = [
            before.cell
            for before, after in zip(self.steps, self.steps[1:], strict=False)
            if before.turn != after.turn
        ]
        # too few points are left for the first step: the turn ends where it stands
        if self.steps and self.steps[0].turn > 1:
            ends.insert(0, self.cells[0])
        return Cells([*ends, self.goal] if self else [])

    @property
    def stale(self) -> bool:
        """Whether the board has changed since, in a way that may alter the answer."""
        # a better way may lead over any cell of the board
        every = self._board.grid.exists.ravel
        return not still_holds(self._board, self._state, every)

    def overlay(self) -> Overlay:
        """The route as plain data, in order: roles "start", "route", "turn-end" and "goal".

        The number is the turn, the text at the end of a turn the turn too. Where there is no route,
        the goal is "refused" and the nearest cell "nearest".
        """
        marks: dict[Cell, Mark] = {}
        if not self:
            marks = {self.goal: Mark("refused", None, self.why), self.nearest: Mark("nearest")}
            return Overlay._of(marks, priority=2)
        marks[self.cells[0]] = Mark("start", 1, self.unit.name)
        # a set, as it is asked for every step
        ends = set(self.stops)
        for step in self.steps:
            marks[step.cell] = Mark("route", step.turn)
            if step.cell in ends:
                marks[step.cell] = Mark("turn-end", step.turn, str(step.turn))
        # over the end of its last turn, which is there, too
        marks[self.goal] = Mark("goal", self.turns, str(self.turns))
        return Overlay._of(marks, priority=2)


def _same(value: T) -> T:
    return value


def make_route(
    unit: Unit,
    state: int,
    labels: Labels,
    goal: Cell,
    prefer: Prefer,
    facing: int,
    avoid: IntArray | None = None,
    **facts: Any,
) -> Route:
    """Read the preferred route to a reached cell off a search's labels."""
    mover, board, grid = labels.mover, labels.board, labels.board.grid
    on_way, ways = labels.tied_route(grid.numbering.number(goal), prefer, facing, avoid)
    cells = grid.numbering.cells(labels.cells[on_way])
    turn, used = divmod(int(labels.marks[on_way[-1]]) >> SHIFT, mover.stride)
    spent = mover.first - (mover.stride - 1 - used)
    # what was left at the end of a turn is lost, and was not spent
    if turn:
        spent = int(labels.paid(on_way).sum())

    # most routes are asked for cells and cost alone
    def steps() -> tuple[Step, ...]:
        names = *grid.directions, None
        turns, left, costs = labels.turns(on_way), labels.left(on_way), labels.paid(on_way)
        rows = zip(
            cells[1:], ways.tolist(), costs.tolist(), turns[1:].tolist(), left[1:].tolist(),
            strict=True,
        )  # fmt: skip
        return tuple(
            Step(
                cell,
                names[way],
                labels.amount(cost),
                turn,
                labels.left_in(turn, rest),
            )
            for cell, way, cost, turn, rest in rows
        )

    total = labels.amount(spent)
    return Route(
        unit, goal, cells, total, turn + 1, "", (), lambda: goal, board, state, steps, **facts
    )


def refused(
    board: Board,
    unit: Unit,
    goal: Cell,
    why: str,
    blockers: tuple[str, ...],
    nearest: Callable[[], Cell],
    **facts: Any,
) -> Route:
    """No route, and why."""
    none, state = cast(Any, None), board.state
    return Route(
        unit, goal, Cells(), none, none, why, blockers, nearest, board, state, tuple, **facts
    )
