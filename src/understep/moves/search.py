"""Search: prepare a query for the kernel, and read its labels."""

from __future__ import annotations

from fractions import Fraction
from math import lcm
from typing import cast

import numpy as np

from understep.boards.board import Board
from understep.boards.unit import Unit
from understep.errors import CostError
from understep.grids.cell import Cell
from understep.moves.answer import movement_of, points_left
from understep.moves.search_labels import Labels
from understep.moves.workspace import MOST_BUCKETS, Workspace, pool
from understep.rules.movement import Movement
from understep.rules.steps import StepTable, step_table

PLAIN = 16
ROOM_FOR_KEYS = 1 << 49


def search(
    board: Board,
    unit: Unit,
    *,
    goals: list[int] | None = None,
    enough: int = 0,
    turns: int | None = 1,
    eager: int = 0,
    start: Cell | None = None,
    weight: int = PLAIN,
) -> Labels:
    """Search from where a unit stands: all it can reach, or the way to the best of some goals.

    ``goals`` are cells by number; all equally good ones are found. ``enough`` takes any stop that
    near to a single goal for an answer; ``turns`` None sets no limit; ``eager`` stops at the goal
    without gathering ties, 1: if it is reached in the first turn, 2: always; ``start`` is where it
    would stand; ``weight`` counts the estimate so many sixteenths.
    """
    asked = _Query(board, unit, goals, enough, turns, eager, start, weight)
    try:
        return asked.labels()
    finally:
        asked.give_back()


def step(
    board: Board, unit: Unit, start: Cell, end: Cell, dear: bool
) -> tuple[Fraction, bool] | None:
    """The points left after one step, and whether the next diagonal one of this turn is dear.

    None where no such step can be taken in this turn, by the rules and units of the board. ``dear``
    says whether this one is dear, where diagonal steps alternate.
    """
    asked = _Query(board, unit, None, 0, 1, 0, start, PLAIN, alone=True, dear=dear)
    try:
        return asked.step(board.grid.numbering.number(end))
    finally:
        asked.give_back()


def steps_from(
    board: Board, unit: Unit, start: Cell, dear: bool
) -> list[tuple[Cell, bool, Fraction]]:
    """Where the steps that a unit can take in this turn lead, as `step` says of each.

    The cell, whether the next diagonal step is dear, and the points left.
    """
    asked = _Query(board, unit, None, 0, 1, 0, start, PLAIN, alone=True, dear=dear)
    try:
        found = []
        for end in sorted({end for end, _ in asked.table.steps(asked.home)}):
            taken = asked.step(end)
            if taken is not None:
                found.append((board.grid.numbering.cell_of(end), taken[1], taken[0]))
        return found
    finally:
        asked.give_back()


class _Query:
    """A question that a workspace is set up for."""

    def __init__(
        self,
        board: Board,
        unit: Unit,
        goals: list[int] | None,
        enough: int,
        turns: int | None,
        eager: int,
        start: Cell | None,
        weight: int,
        alone: bool = False,
        dear: bool = False,
    ) -> None:
        movement = movement_of(unit)
        self.table = table = table_of(board, unit)
        counted = _counted(table, movement, unit)
        points, first, carry, waits, stride, cheapest, dearest = counted
        self._board, self._unit, self._weight = board, unit, weight
        self._counts = stride, points, carry, first
        self._space = pool(board, table.layers)
        self._workspace = workspace = self._space.lease()
        try:
            kernel_search = workspace.search
            extra = 0
            if workspace.heeding or movement.zones != "ignore":
                extra = workspace.heed(board, unit, table)
                dearest += max(extra, 0)
            if turns != 1:
                longest = _most_turns(board, points, dearest) * waits
                turns = longest if turns is None else min(turns, longest)
            span = turns * stride
            if span > ROOM_FOR_KEYS:
                rule = f"points times scale ({table.scale}) times turns must stay below 2**49"
                raise CostError("points", rule, movement.points)
            workspace.make_window(span)
            workspace.among(board, unit)
            workspace.compiled(table)
            own = board.grid.numbering.number(cast(Cell, unit.at))
            self.home = home = own if start is None else board.grid.numbering.number(start)
            goal, farthest = -1, 0
            if goals is not None or workspace.joined is not table or table.far_steps:
                goal, cheapest, farthest = _aim(workspace, board, table, cheapest, goals)
                workspace.joined = None if table.far_steps else table
            # the most by which a rank can rise at one step
            rise = dearest + (stride if extra < 0 else 0)
            rise += -(-cheapest * (1 + farthest) * weight // PLAIN)
            if turns > 1:
                rise += dearest + stride * waits - points
                if table.layers == 2 or (movement.passes != "none" and len(board.units()) > 1):
                    rise += stride * waits
            ring = max(63, (1 << rise.bit_length()) - 1)
            if (
                rise >= MOST_BUCKETS or weight > PLAIN
            ):  # weighted ranks can fall: only a heap will do
                ring = 0
            self._heap = ring == 0
            kernel_search.begin(
                own, home + (workspace.layer if dear else 0), goal, enough, cheapest,
                stride, first, points, carry, 1 + waits, turns, span, ring, eager, weight,
                int(alone),
            )  # fmt: skip
        except BaseException:
            self.give_back()
            raise

    def give_back(self) -> None:
        """Hand the workspace to the next search."""
        self._space.give_back(self._workspace)

    def _go_on(self, status: int) -> None:
        """Give the kernel the steps or the room that it wants."""
        if status == -1:
            self.table.fill_around(self._workspace.search.wants())
            self._workspace.compiled(self.table)
        else:
            self._workspace.grow(heap=self._heap)

    def labels(self) -> Labels:
        """Search, and bring the labels home."""
        workspace, table, unit = self._workspace, self.table, self._unit
        kernel_search = workspace.search
        while (status := kernel_search.run()) < 0:
            self._go_on(status)
        closed, answers, found, expanded, fars = kernel_search.tally()
        taken = workspace.take(closed, fars if table.far_steps else 0)
        weighted = self._weight > PLAIN and found >= 0
        return Labels(
            self._board, table, table.scale, *taken, workspace.layer,
            *self._counts, unit, found, answers, self.home, expanded,
            unit.movement.footprint, kernel_search.keys() if weighted else None,
        )  # fmt: skip

    def step(self, end: int) -> tuple[Fraction, bool] | None:
        """What one step leaves."""
        workspace, stride = self._workspace, self._counts[0]
        kernel_search = workspace.search
        while (status := kernel_search.run()) < 0 and kernel_search.tally()[0] == 0:
            self._go_on(status)
        places = [end, end + workspace.layer] if workspace.layer else [end]
        keys = [kernel_search.offered(place) for place in places]
        found = [(key, place) for place, key in enumerate(keys) if key >= 0]
        if not found:
            return None
        key, place = min(found)
        used = key - (stride - 1 - self._counts[3])
        return points_left(self._unit) - Fraction(used, self.table.scale), place == 1


def table_of(board: Board, unit: Unit) -> StepTable:
    """The steps of a unit, as searches count them.

    Finer than its costs ask for where the last part of a turn's points counts: where what is left
    is carried over or taken.
    """
    movement = movement_of(unit)
    every = movement.points, movement.carry, unit.left or 0
    full = movement.carry or movement.one_step or movement.zones == "end"
    parts = lcm(*(Fraction(each).denominator for each in every)) if full else 1
    return step_table(board, movement, unit.side, parts=parts, foes=True)


def _counted(table: StepTable, movement: Movement, unit: Unit) -> tuple[int, ...]:
    """What does not change from one question of a unit to the next, as it is counted.

    Points of a full turn, of the first, and that are carried over at most; after how many turns no
    more are; the stride of keys; the least and the most that a step costs.
    """
    known = table.counts.get((movement, unit.left))
    if known is None:
        left = movement.points if unit.left is None else unit.left
        every = movement.points, movement.carry, left
        points, carry, first = (int(Fraction(each) * table.scale) for each in every)
        waits = 1 + (-(-carry // points) if points else 0)
        stride = max(points + carry, first) + 1
        known = points, first, carry, waits, stride, table.cheapest, table.dearest
        table.counts[movement, unit.left] = known
    return known


def _most_turns(board: Board, points: int, dearest: int) -> int:
    """More turns than any best way can take."""
    cells = board.grid.cols * board.grid.rows
    if dearest * 2 > points >= 0:  # every turn ends on another cell
        return cells + 1
    return 4 * cells * dearest // max(points, 1) + 8  # two turns spend at least half their points


def _aim(
    workspace: Workspace, board: Board, table: StepTable, cheapest: int, goals: list[int] | None
) -> tuple[int, int, int]:  # fmt: skip
    """Hand over goals and links: the goal to estimate by, the least cost of a step, links' length.

    Several goals lie around the one that is nearest to their middle; the estimate is that to it,
    less the distance to the farthest of them.
    """
    goal, slack = -1, 0
    if goals is not None:
        goal = goals[0]
        if len(goals) > 1:
            cells = board.grid.numbering.cells_of(np.array(goals))
            middle = cells.mean(axis=0)
            goal = goals[int(((cells - middle) ** 2).sum(axis=1).argmin())]
            slack = cheapest * int(
                board.grid.distance(cells, board.grid.numbering.cell_of(goal)).max()
            )
        workspace.seek(goals if len(goals) > 1 else [], slack)
    guided = workspace.join(table, goal, cheapest)
    farthest = max(table.links.farthest, table.leap_length) if goals is not None else 0
    return goal, cheapest if guided else 0, farthest
