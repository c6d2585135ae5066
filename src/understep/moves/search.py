"""Search: prepare a query for the kernel, and read its labels."""

from __future__ import annotations

from collections.abc import Generator
from fractions import Fraction
from typing import Any, TypeAlias, TypeVar, cast

import numpy as np
from numpy.typing import NDArray

from understep.boards.board import Board
from understep.boards.unit import Unit
from understep.errors import CostError
from understep.grids.cell import Cell, IntArray
from understep.kernels import loader
from understep.kernels.loader import view
from understep.kernels.marks import SHIFT, STOP
from understep.moves.layers import FEW_KEYS, MOST_KEYS, LayersWorkspace, Ready, layers_pool, ready
from understep.moves.layers import MOST_BUCKETS as LAYERS_BUCKETS
from understep.moves.mover import Mover, mover_of
from understep.moves.search_labels import Labels
from understep.moves.workspace import LARGE, MOST_BUCKETS, Workspace, pool
from understep.rules.steps import StepTable

PLAIN = 16
ROOM_FOR_KEYS = 1 << 49
MOST_ASKERS = 64  # of a movement, by turns and points
PAUSED = -3
WANTS_STEPS = -2
T = TypeVar("T")
#: What pauses now and then on its way to a result.
Steps: TypeAlias = Generator[None, None, T]


def search(
    board: Board,
    unit: Unit,
    *,
    goals: list[int] | None = None,
    turns: int | None = 1,
    start: Cell | None = None,
    weight: int = PLAIN,
) -> Labels:
    """Search from where a unit stands: all it can reach, or the way to the best of some goals.

    ``goals`` are cells by number; all equally good ones are found. ``turns`` None sets no limit;
    ``start`` is where it would stand; ``weight`` counts the estimate so many sixteenths, and one
    above `PLAIN` stops at the goal without gathering ties.
    """
    mover = mover_of(board, unit)
    if weight == PLAIN:
        found = _by_layers(board, mover, goals, turns, start)
        if found is not None:
            return found
    asked = _Query(board, mover, goals, turns, start, weight)
    try:
        asked.run(0)
        return asked.labels()
    finally:
        asked.give_back()


def searching(
    board: Board, unit: Unit, budget: int | None, *, goals: list[int] | None = None,
    turns: int | None = 1, start: Cell | None = None,
    weight: int = PLAIN,
) -> Steps[Labels]:  # fmt: skip
    """Search as `search` does; pause whenever a budget of cells is spent."""
    if budget is None:
        return search(board, unit, goals=goals, turns=turns, start=start, weight=weight)
    mover = mover_of(board, unit)
    asked = _Query(board, mover, goals, turns, start, weight, most=budget)
    try:
        while not asked.run(budget):
            yield
        return asked.labels()
    finally:
        asked.give_back()


def finish(steps: Steps[T]) -> T:
    """Run to the end without a pause."""
    while True:
        try:
            next(steps)
        except StopIteration as end:
            return cast(T, end.value)


def step(
    board: Board, unit: Unit, start: Cell, end: Cell, dear: bool
) -> tuple[Fraction, bool] | None:
    """The points left after one step, and whether the next diagonal one of this turn is dear.

    None where no such step can be taken in this turn, by the rules and units of the board. ``dear``
    says whether this one is dear, where diagonal steps alternate.
    """
    mover = mover_of(board, unit)
    # no search has to be set up to look at a single cell
    while (known := ready(board, mover)) is not None:
        space, places = layers_pool(board), map(board.grid.numbering.number, (start, end))
        workspace = space.lease()
        spent = loader.asker.step_cost(
            workspace.search, known.rules, mover.own, mover.first, *places
        )
        space.give_back(workspace)
        if spent != WANTS_STEPS:
            return None if spent < 0 else (mover.left_after(spent), False)
        # that can give the table wider codes, which take other rules
        mover.table.fill_around(board.grid.numbering.number(start))
    asked = _Query(board, mover, None, 1, start, PLAIN, most=1, dear=dear)
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
    asked = _Query(board, mover_of(board, unit), None, 1, start, PLAIN, most=1, dear=dear)
    try:
        found = []
        # in the order of cells, as a set has none
        for end in sorted({end for end, _ in asked.mover.table.steps(asked.home)}):
            taken = asked.step(end)
            if taken is not None:
                found.append((board.grid.numbering.cell_of(end), taken[1], taken[0]))
        return found
    finally:
        asked.give_back()


def _by_layers(
    board: Board, mover: Mover, goals: list[int] | None, turns: int | None,
    start: Cell | None,
) -> Labels | None:  # fmt: skip
    """What the search by layers makes of a question; None where it does not serve."""
    known = ready(board, mover)
    if known is None:
        return None
    home, space = _home(board, mover, start), layers_pool(board)
    if goals is None:
        asker = _asker(board, mover, known, turns)
        if asker is None:
            return None
        workspace = space.lease()
        found = asker.flood(workspace, mover.own, home, board.state)
        labels = None if found is None else Labels.of(board, mover.unit, found)
    else:
        asked = _span_and_ring(board, mover, turns, True)
        if asked is None:
            return None
        workspace = space.lease()
        labels = _guided(board, mover, workspace, known, home, asked, goals)
    if labels is not None:  # a workspace that was broken off is not used again
        space.give_back(workspace)
    return labels


def asker_of(board: Board, unit: Unit, turns: int | None) -> Any:
    """What answers where a unit, and all alike, can get; None: only `search` does."""
    mover = mover_of(board, unit)
    known = ready(board, mover)
    return None if known is None else _asker(board, mover, known, turns)


def _asker(board: Board, mover: Mover, known: Ready, turns: int | None) -> Any:
    # kept with the rules, so that it goes when they do
    asker = known.askers.get((turns, mover.first))
    if asker is None:
        asked = _span_and_ring(board, mover, turns, False)
        if asked is None:
            return None
        # a game can ask for any number of turns
        if len(known.askers) >= MOST_ASKERS:
            known.askers.clear()
        grid, free = board.grid, layers_pool(board).free
        shape = *grid.numbering.first, grid.cols, grid.rows
        limit, ring = asked
        bounds = mover.first, limit, _few(mover, limit), ring
        asker = loader.asker.Asker(mover, known.rules, known.plain, *bounds, shape, free, LARGE)
        known.askers[turns, mover.first] = asker
    return asker


def _few(mover: Mover, limit: int) -> int:
    """So many keys of all that there can be, which nearly every search does with."""
    return min(limit, max(FEW_KEYS, mover.stride))


class Floods:
    """Floods from many cells, found in one go."""

    def __init__(
        self, board: Board, mover: Mover, starts: NDArray[np.int32], turns: int | None
    ) -> None:
        self._board, self._mover, self._starts = board, mover, starts
        known = ready(board, mover)
        asked = None if known is None else _span_and_ring(board, mover, turns, False)
        #: Whether it has floods: only where costs go by cells.
        self.found = False
        #: The places of those that start where the mover could not stand.
        self.doubtful: list[int] = []
        if known is not None and known.plain and asked is not None:
            self._rules = known.rules
            space = layers_pool(board)
            workspace = space.lease()
            done = workspace.flood_many(self._rules, mover.own, starts, mover.first, *asked)
            if done is None:
                return
            self.found = True
            self._cells: NDArray[np.int32] = done[0]
            self._marks: IntArray = done[1]
            self._ends: list[int] = done[2]
            self.doubtful = loader.asker.unfit(
                workspace.search, self._rules, mover.own, view(starts)
            )
            space.give_back(workspace)

    def labels(self, place: int) -> Labels:
        """The labels of one."""
        part = slice(self._ends[place], self._ends[place + 1])
        home, count = int(self._starts[place]), part.stop - part.start
        found = Labels(self._board, self._mover, self._cells[part], self._marks[part], home, count)
        found.rules = self._rules
        return found

    def columns(self) -> tuple[IntArray, NDArray[np.int32], NDArray[np.float64]] | None:
        """By flood how many cells the mover can stop on; these, by number, and their costs.

        None where they take more than a turn: then ties decide what is paid in all.
        """
        if not self.found:
            return None
        mover, keys = self._mover, self._marks >> SHIFT
        if len(keys) and int(keys.max()) >= mover.stride:
            return None
        stops = (self._marks & STOP) > 0
        before = np.concatenate([[0], np.cumsum(stops)])[self._ends]
        costs = (keys[stops] - (mover.stride - 1 - mover.first)) / mover.scale
        return np.diff(before), self._cells[stops], costs


def _span_and_ring(
    board: Board, mover: Mover, turns: int | None, guided: bool
) -> tuple[int, int] | None:
    """How many keys there are, and how many buckets less one it takes; None: too many."""
    turns = _turns(board, mover, turns)
    if turns > 1:
        if mover.first >= board.grid.cols * board.grid.rows * mover.dearest:
            turns = 1  # no way takes more
        # a cell that can only be passed needs several labels, which a flood alone has
        if turns > 1 and guided and _can_pass(board, mover):
            return None
    rise = _rise(board, mover, turns, mover.table.cheapest if guided else 0)
    if turns * mover.stride > MOST_KEYS or rise >= LAYERS_BUCKETS:
        return None
    return turns * mover.stride, max(15, (1 << rise.bit_length()) - 1)


def _guided(
    board: Board, mover: Mover, workspace: LayersWorkspace, known: Any, home: int,
    asked: tuple[int, int], goals: list[int],
) -> Labels | None:  # fmt: skip
    """Search for goals; None: there are too many costs."""
    table, cheapest = mover.table, mover.table.cheapest
    goal, slack = _middle(board, goals, cheapest)
    workspace.seek(goals if len(goals) > 1 else [], slack)
    limit, ring = asked
    bounds = mover.first, _few(mover, limit), limit, ring, goal, cheapest, board.state
    rules = known.rules, table, table.views
    if loader.asker.drive(workspace, *rules, mover.own, home, *bounds) < 0:
        return None
    closed, answers, found, expanded = workspace.search.tally()
    labels = Labels(board, mover, *workspace.take(closed), home, expanded)
    labels.found, labels.answers = found, answers
    if found < 0:  # ties are read when they are asked for
        labels.rules = known.rules
        if not known.plain:
            labels.rows = table.by_cell().take(labels.places, axis=0)
    return labels


class _Query:
    """A question that a workspace is set up for."""

    def __init__(
        self,
        board: Board,
        mover: Mover,
        goals: list[int] | None,
        turns: int | None,
        start: Cell | None,
        weight: int,
        most: int = 0,
        dear: bool = False,
    ) -> None:
        self.mover = mover
        table, stride = mover.table, mover.stride
        self._board, self._weight = board, weight
        self._space = pool(board, table.layers)
        self._workspace = workspace = self._space.lease()
        try:
            turns = _turns(board, mover, turns)
            span = turns * stride
            if span > ROOM_FOR_KEYS:
                rule = f"points times scale ({mover.scale}) times turns must stay below 2**49"
                raise CostError("points", rule, mover.movement.points)
            # marks of earlier searches stay where they are: this one counts below them
            workspace.make_window(span)
            workspace.bind(board, mover)
            self.home = home = _home(board, mover, start)
            goal, farthest, cheapest = -1, 0, table.cheapest
            # a flood of the same table as the last one has nothing to set
            if goals is not None or workspace.joined is not table or table.far_steps:
                goal, cheapest, farthest = _aim(workspace, board, table, goals)
                workspace.joined = None if table.far_steps else table
            rise = _rise(board, mover, turns, -(-cheapest * (1 + farthest) * weight // PLAIN))
            # weighted ranks can fall: only a heap will do
            self._heap = rise >= MOST_BUCKETS or weight > PLAIN
            ring = 0 if self._heap else max(63, (1 << rise.bit_length()) - 1)
            workspace.search.begin(
                mover.own, home + (workspace.layer if dear else 0), goal, cheapest,
                stride, mover.first, mover.points, mover.carry, 1 + mover.waits, turns, span,
                ring, weight, most,
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
            self.mover.table.fill_around(self._workspace.search.wants())
            self._workspace.compiled(self.mover.table)
        else:
            self._workspace.grow(heap=self._heap)

    def run(self, budget: int) -> bool:
        """Search to the end, or until a budget of cells is spent (0: none); whether it ended."""
        kernel_search = self._workspace.search
        # each time it lacks steps or room, until it has ended
        while (status := kernel_search.run()) < 0:
            if status == PAUSED and budget:
                kernel_search.pause(budget)
                return False
            self._go_on(status)
        return True

    def labels(self) -> Labels:
        """Bring the labels home after a search."""
        workspace, mover = self._workspace, self.mover
        kernel_search = workspace.search
        closed, answers, found, expanded, fars = kernel_search.tally()
        taken = workspace.take(closed, fars if mover.table.far_steps else 0)
        weighted = self._weight > PLAIN and found >= 0
        labels = Labels(self._board, mover, *taken[:2], self.home, expanded)
        labels.vias, labels.far, labels.layer = *taken[2:], workspace.layer
        labels.found, labels.answers = found, answers
        labels.keys = kernel_search.keys() if weighted else None
        return labels

    def step(self, end: int) -> tuple[Fraction, bool] | None:
        """What one step leaves."""
        workspace, mover = self._workspace, self.mover
        kernel_search = workspace.search
        while (status := kernel_search.run()) < 0 and kernel_search.tally()[0] == 0:
            self._go_on(status)
        # a diagonal step may lead to the layer of dear ones
        places = [end, end + workspace.layer] if workspace.layer else [end]
        keys = [kernel_search.offered(place) for place in places]
        found = [(key, place) for place, key in enumerate(keys) if key >= 0]
        if not found:
            return None
        key, place = min(found)
        return mover.left_after(key - (mover.stride - 1 - mover.first)), place == 1


def _rise(board: Board, mover: Mover, turns: int, estimates: int) -> int:
    """The most by which a rank can rise at one step, ``estimates`` by the estimate alone.

    The ring must be longer than that, or two ranks would share a bucket.
    """
    stride = mover.stride
    rise = mover.dearest + (stride if mover.zoning == 1 else 0) + estimates
    if turns > 1:
        rise += mover.dearest + stride * mover.waits - mover.points
        if mover.table.layers == 2 or _can_pass(board, mover):
            rise += stride * mover.waits
    return rise


def _can_pass(board: Board, mover: Mover) -> bool:
    """Whether there may be cells that it can pass but not stop on."""
    return mover.movement.passes != "none" and len(board._roster.values) > 1


def _middle(board: Board, goals: list[int], cheapest: int) -> tuple[int, int]:
    """The goal nearest to the middle of several, and how far the estimate to it can be too high."""
    if len(goals) == 1:
        return goals[0], 0
    cells = board.grid.numbering.cells_of(np.array(goals))
    goal = goals[int(((cells - cells.mean(axis=0)) ** 2).sum(axis=1).argmin())]
    far = int(board.grid.distance(cells, board.grid.numbering.cell_of(goal)).max())
    return goal, cheapest * far


def _home(board: Board, mover: Mover, start: Cell | None) -> int:
    """The number of the cell that a search starts from."""
    return mover.own if start is None else board.grid.numbering.number(start)


def _turns(board: Board, mover: Mover, turns: int | None) -> int:
    """So many turns, but no more than any best way can take."""
    if turns == 1:
        return 1
    longest = _most_turns(board, mover) * mover.waits
    return longest if turns is None else min(turns, longest)


def _most_turns(board: Board, mover: Mover) -> int:
    """More turns than any best way can take."""
    cells = board.grid.cols * board.grid.rows
    points, dearest = mover.points, mover.dearest
    if dearest * 2 > points >= 0:  # every turn ends on another cell
        return cells + 1
    return 4 * cells * dearest // max(points, 1) + 8  # two turns spend at least half their points


def _aim(
    workspace: Workspace, board: Board, table: StepTable, goals: list[int] | None
) -> tuple[int, int, int]:  # fmt: skip
    """Hand over goals and links: the goal to estimate by, the least cost of a step, links' length.

    Several goals lie around that nearest to their middle; the estimate is that to it,
    less the distance to the farthest of them.
    """
    goal, slack, cheapest = -1, 0, table.cheapest
    if goals is not None:
        goal, slack = _middle(board, goals, cheapest)
        workspace.seek(goals if len(goals) > 1 else [], slack)
    guided = workspace.join(table, goal, cheapest)
    farthest = max(table.links.farthest, table.leap_length) if goals is not None else 0
    return goal, cheapest if guided else 0, farthest
