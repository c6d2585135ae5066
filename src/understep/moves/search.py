"""Search: a question to the kernel made ready, its labels brought home."""

from __future__ import annotations

from fractions import Fraction
from math import lcm
from typing import Any, cast

import numpy as np

from understep.boards.board import Board
from understep.boards.unit import Unit
from understep.errors import CostError
from understep.grids.cell import Cell
from understep.moves.answer import movement_of
from understep.moves.kernel import view
from understep.moves.labels import Labels
from understep.moves.links import NONE
from understep.moves.steps import NEVER, SHIFT, StepTable, step_table
from understep.moves.workspace import MOST_BUCKETS, Workspace, pool

PLAIN = 16
ROOM_FOR_KEYS = 1 << 49


def search(
    board: Board,
    unit: Unit,
    *,
    goals: list[int] | None = None,
    enough: int = 0,
    turns: int | None = 1,
    eager: bool = False,
    start: Cell | None = None,
    weight: int = PLAIN,
) -> Labels:
    """Search from where a unit stands: all it can reach, or the way to the best of some goals.

    ``goals`` are cells by number; of equally good ones the first counts. ``enough`` takes any stop
    that near to a single goal for an answer; ``turns`` None sets no limit; ``eager`` stops at the
    goal without gathering ties; ``start`` is where it would stand; ``weight`` counts the estimate
    so many sixteenths.
    """
    movement = movement_of(unit)
    full, saved = cast(Fraction, movement.points), cast(Fraction, movement.carry)
    left = full if unit.left is None else cast(Fraction, unit.left)
    parts = lcm(full.denominator, left.denominator, saved.denominator) if saved else 1
    table = step_table(board, movement, unit.side, parts)
    scale = table.scale
    points = full.numerator * scale // full.denominator
    first = left.numerator * scale // left.denominator
    carry = table.whole(saved)
    waits = 1 + (-(-carry // points) if points else 0)  # after so many a turn has no more points
    capped = movement.one_step and points > 0
    cheapest, dearest = table.cheapest, table.dearest
    if capped:
        cheapest, dearest = min(cheapest, points), min(dearest, points)
    space = pool(board, table.layers)
    workspace = space.lease()
    try:
        kernel_search = workspace.search
        extra = workspace.heed(board, unit, table)
        dearest += max(extra, 0)
        if turns != 1 and dearest * 2 > points >= 0:
            most = board.grid.cols * board.grid.rows + 1  # every turn ends on another cell
        else:  # two turns in a row spend at least half their points
            most = 4 * board.grid.cols * board.grid.rows * dearest // max(points, 1) + 8
        most *= waits
        turns = most if turns is None else min(turns, most)
        stride = max(points + carry, first) + 1
        span = turns * stride
        if span > ROOM_FOR_KEYS:
            rule = f"points times scale ({scale}) times turns must stay below 2**49"
            raise CostError("points", rule, movement.points)
        workspace.make_window(span)
        means = bytearray(b"\1" if movement.may_pass(own=False) else b"\2") * 256
        if movement.may_pass(own=True):
            means[board.side_code(unit.side)] = 1
        means[0] = 0
        own = board.grid.number(cast(Cell, unit.at))
        home = own if start is None else board.grid.number(start)
        goal, cheapest, farthest = _aim(workspace, board, table, cheapest, goals, capped * points)
        # the most by which a rank can rise at one step
        rise = dearest + (stride if extra < 0 else 0)
        rise += -(-cheapest * (1 + farthest) * weight // PLAIN)
        if turns > 1:
            rise += dearest + stride * waits - points
            if table.layers == 2 or (1 in means and len(board.units()) > 1):
                rise += stride * waits
        ring = 0 if rise >= MOST_BUCKETS else max(63, (1 << rise.bit_length()) - 1)
        kernel_search.begin(
            *_compiled(table, capped * points), view(board.standing(movement.layer)), view(means),
            workspace.hops() if table.free_steps else NONE, own, home, goal, enough, cheapest,
            stride, first, points, carry, 1 + waits, turns, span, ring, int(eager), weight,
        )  # fmt: skip
        while (status := kernel_search.run()) < 0:
            if status == -1:
                table.fill_around(kernel_search.wants())
                kernel_search.compiled(*_compiled(table, capped * points))
            else:
                workspace.grow(heap=ring == 0)
        closed, found, expanded = kernel_search.tally()
        return Labels(
            board, table,
            *workspace.take(closed, table.links.count + table.leap_length > 0), workspace.layer,
            stride, points, carry, first,
            (left - Fraction(first, scale), full - Fraction(points, scale)), found, home, expanded,
            movement.footprint, kernel_search.keys() if weight > PLAIN else None,
        )  # fmt: skip
    finally:
        space.give_back(workspace)


def _compiled(table: StepTable, most: int) -> tuple[Any, ...]:
    """The codes and costs of a table; no cost above a limit, unless that is 0."""
    if not most:
        return table.views
    costs = np.asarray(table.views[2])
    least = np.where(costs < NEVER << SHIFT, np.minimum(costs, most << SHIFT), costs)
    return *table.views[:2], view(least)


def _aim(
    workspace: Workspace, board: Board, table: StepTable, cheapest: int, goals: list[int] | None,
    most: int,
) -> tuple[int, int, int]:  # fmt: skip
    """Hand over goals and links: the goal to estimate by, the least cost of a step, links' length.

    Several goals lie around the one that is nearest to their middle; the estimate is that to it,
    less the distance to the farthest of them.
    """
    goal, slack = -1, 0
    if goals is not None:
        goal = goals[0]
        if len(goals) > 1:
            cells = board.grid.cells_of(np.array(goals))
            middle = cells.mean(axis=0)
            goal = goals[int(((cells - middle) ** 2).sum(axis=1).argmin())]
            slack = cheapest * int(board.grid.distance(cells, board.grid.cell_of(goal)).max())
        workspace.seek(goals if len(goals) > 1 else [], slack)
    guided = workspace.join(table, goal, cheapest, most)
    farthest = max(table.links.farthest, table.leap_length) if goals is not None else 0
    return goal, cheapest if guided else 0, farthest
