"""Relief: the way with the fewest things on it that would have to go.

Every step that a unit could make if things were taken away weighs how many they are, and then what
it costs; a search backward from the goal (the field kernel) finds the lightest way. A rule that
forbids steps is either heeded or lifted, for all steps at once.
"""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise
from typing import Any

import numpy as np
from numpy.typing import NDArray

from understep.boards.board import Board
from understep.boards.footprint import feet as feet_of
from understep.boards.unit import Unit
from understep.grids.cell import Cell, IntArray
from understep.kernels import loader
from understep.kernels.loader import view
from understep.kernels.marks import SHIFT
from understep.moves.answer import movement_of
from understep.moves.obstacle import inside
from understep.moves.remedy import lift
from understep.moves.weights import MOST_PRICE, NEVER, Weights
from understep.moves.workspace import layered
from understep.rules.link_steps import chained
from understep.rules.slopes import Slopes
from understep.rules.steps import NOTHING, step_table

HEAVY = 1 << 24  # a thing weighs so many points: more than any way costs
MOST_CODES = 1 << 16


class Relief:
    """The steps of a unit where all that can be removed may be, some rules lifted."""

    def __init__(self, board: Board, unit: Unit, rules: frozenset[str], friends: bool) -> None:
        """``friends``: units that it may pass are in its way, too."""
        self.board, self.unit, self.rules = board, unit, rules
        self.movement = lift(movement_of(unit), rules)
        self.weights = Weights(board, unit, self.movement, rules, friends)
        self._grid = board.grid
        self._cells = board.grid.numbering.cells_of(np.arange(board.grid.cols * board.grid.rows))
        self._near = board.grid.numbering.neighbors
        self._slopes = Slopes(board, self.movement)
        self._steps = self.steps()
        #: What links and leaps weigh, by the numbers of two cells.
        self._jumps = dict(self._far())

    def steps(self) -> tuple[NDArray[np.int32], NDArray[np.int32]]:
        """By anchor and direction how many things are in the way of a step, and its price."""
        if len(self.movement.footprint) == 1:
            return self._single_steps()
        grid, ways = self._grid, len(self._grid.directions)
        offsets = np.array(self.movement.footprint)
        every = np.arange(len(self._cells))
        feet = feet_of(grid, every, offsets)
        weight = np.zeros((len(self._cells), ways), dtype=np.int32)
        price = np.zeros_like(weight)
        places = {tuple(offset): foot for foot, offset in enumerate(offsets.tolist())}
        vectors = grid.lattice.vectors.tolist()
        for way in range(ways):
            diagonal = grid.kind == "square" and ways == 8 and way % 2 == 1
            for foot, (p, q) in enumerate(offsets.tolist()):
                here = feet[:, foot]
                there = np.where(here >= 0, self._near[here, way], -1)
                good = there >= 0
                # what the unit stands on already is not entered again
                fresh = (p + vectors[way][0], q + vectors[way][1]) not in places
                # a part of it would lie off the board
                add = np.full(len(here), NEVER)
                add[good] = self._single(here[good], there[good], way, diagonal, fresh)
                weight[:, way] += add
                # a large unit pays for the dearest of the cells it enters
                price[good, way] = np.maximum(price[good, way], self.weights.price[there[good]])
                price[good, way] += self.weights.solid[here[good], way]
            if diagonal and self.movement.diagonal is None:
                weight[:, way] = NEVER
            weight[:, way] += self._across(feet, way, places, vectors)
        # it does not stand there, so that no way begins there
        weight[(feet < 0).any(axis=1)] = NEVER
        return weight, price

    def _single_steps(self) -> tuple[NDArray[np.int32], NDArray[np.int32]]:
        """The same for a unit of one cell, all directions at once."""
        near = self._near
        # the last entry is for what lies off the board
        lying: IntArray = np.append(self.weights.lying, NEVER)
        prices: IntArray = np.append(self.weights.price, 0)
        weight = lying[near] + self.weights.walls
        price = prices[near] + self.weights.solid
        ways = near.shape[1]
        rounded = self._grid.kind == "square" and ways == 8
        # on hexes without slopes there is nothing to look at step by step
        for way in range(ways) if rounded or len(self._slopes.layer()) else ():
            good = np.flatnonzero(near[:, way] >= 0)
            weight[good, way] += NEVER * self._steep(good, near[good, way])
            if rounded and way % 2 == 1:
                weight[good, way] += self._round(good, way)
                if self.movement.diagonal is None:
                    weight[:, way] = NEVER
        # nor in a hole
        weight[~self._grid.exists.ravel()] = NEVER
        return weight.astype(np.int32), price.astype(np.int32)

    def _single(
        self, here: IntArray, there: IntArray, way: int, diagonal: bool, fresh: bool
    ) -> IntArray:
        """What single steps weigh; not ``fresh``: the cell is taken up already."""
        found = np.zeros(len(here), dtype=np.int64)
        if fresh:
            found = self.weights.lying[there] + self.weights.walls[here, way]
        found = found + NEVER * self._steep(here, there)
        if diagonal:
            found = found + self._round(here, way)
        return found

    def _steep(self, here: IntArray, there: IntArray) -> NDArray[np.bool_]:
        """Which steps a limit to climb or drop forbids."""
        rules = self._slopes
        if not len(rules.layer()):
            return np.zeros(len(here), dtype=bool)
        levels = self.board._contents.elevation.array
        gap = (levels[there] - levels[here]) * rules.grain
        # to whole parts, as the step rules count them: a half must not be off by a bit
        parts = np.where(gap >= 0, gap + 0.5, 0.5 - gap).astype(np.int64)
        steep: NDArray[np.bool_] = np.where(gap >= 0, parts > rules.climb, parts > rules.drop)
        return steep

    def _round(self, here: IntArray, way: int) -> IntArray:
        """What is in the way of diagonal steps at their corners."""
        ways = []
        for turn, after in ((-1, 1), (1, -1)):
            side = self._near[here, (way + turn) % 8]
            exists = side >= 0
            weigh = np.full(len(here), NEVER)
            shut = self.weights.walls
            walls = shut[here, (way + turn) % 8] + shut[side, (way + after) % 8]
            weigh[exists] = walls[exists]
            if self.movement.corners != "free":
                weigh[exists] += self.weights.ground[side[exists]]
                if self.movement.foe_corners:
                    weigh[exists] += self.weights.foes[side[exists]]
            ways.append(weigh)
        # of two ways around a corner one is enough, unless the rule says both
        least: IntArray = np.minimum(*ways)
        return ways[0] + ways[1] if self.movement.corners == "both" else least

    def _across(
        self, feet: IntArray, way: int, places: dict[Any, int], vectors: list[list[int]]
    ) -> IntArray | int:
        """The walls inside what a unit takes up after a step, that were not inside before."""
        # a unit of one cell has no inside
        if len(places) == 1:
            return 0
        found = np.zeros(len(feet), dtype=np.int64)
        p, q = vectors[way]
        for one, foot in places.items():
            for along, (x, y) in enumerate(vectors):
                other = (one[0] + x, one[1] + y)
                # a wall that it stood across before is no news
                before = (one[0] + p, one[1] + q), (other[0] + p, other[1] + q)
                if other not in places or all(each in places for each in before):
                    continue
                here = feet[:, foot]
                there = np.where(here >= 0, self._near[here, way], -1)
                back = (along + len(vectors) // 2) % len(vectors)
                beyond = np.where(there >= 0, self._near[there, along], -1)
                good = beyond >= 0
                shut = self.weights.walls
                walls = np.maximum(shut[there, along], shut[beyond, back])
                found += np.where(good & (foot < places[other]), walls, 0)
        return found

    # the way

    def way(self, goal: Cell) -> list[Cell] | None:
        """The anchors on the lightest way to a cell; None: nothing helps."""
        grid, home = self._grid, self._grid.numbering.number
        weight, price = self._steps
        open_ = weight < NEVER
        heaviest = int(weight[open_].max(initial=0))
        if heaviest >= MOST_CODES // MOST_PRICE:  # prices do not matter that much
            price = np.ones_like(price)
            weight = np.minimum(weight, MOST_CODES // 2)
        # a thing more is worse than any price, so that both fit into one number
        price = np.minimum(price, MOST_PRICE)
        each = weight * MOST_PRICE + price - 1
        each[~open_] = (heaviest + 1) * MOST_PRICE
        there = np.zeros((heaviest + 1) * MOST_PRICE + 1, dtype=bool)
        there[each] = True
        there[-1] = False
        # of all weights there could be few occur: they fit into two bytes
        code = np.cumsum(there, dtype=np.int64) + 1  # 0 and 1 lead nowhere
        code[-1] = 1
        codes = code.astype(np.uint16)[each]
        known = np.flatnonzero(there)
        costs = known // MOST_PRICE * HEAVY + known % MOST_PRICE + 1
        table = np.concatenate([[0, 0], costs]) << SHIFT
        many = len(self._cells)
        cost = np.full(many, -1, dtype=np.int64)
        onward, owner, after, before = np.full((4, many), -1, dtype=np.int32)
        taken, place = np.zeros((2, many), dtype=np.uint8)
        heads = np.full(64, -1, dtype=np.int32)
        loader.field.spread(
            0, view(np.array([home(goal)], dtype=np.int32)), view(cost), view(onward), view(owner),
            view(taken), view(heads), view(after), view(before), view(place), view(NOTHING),
            view(codes.ravel()), view(table), view(layered(grid, 1)), grid.cols, grid.rows,
            *grid.numbering.staggering, 0, *self._chains(),
        )  # fmt: skip
        # the spread went back from the goal, so that it leads on from everywhere
        at = home(self.unit.at)
        if cost[at] < 0:
            return None
        found = [self.unit.at]
        while at != home(goal):
            at = int(onward[at])
            found.append(grid.numbering.cell_of(at))
        return found

    def first_shut(self, way: list[Cell]) -> tuple[Cell, Cell]:
        """The first step of a way that these rules forbid, or its last."""
        pairs = list(pairwise(way))
        # no step is shut where only several together are: then the last one is shown
        shut = (pair for pair in pairs if self.taken(*pair)[0] >= NEVER)
        return next(shut, pairs[-1] if pairs else (way[0], way[0]))

    def _far(self) -> Iterator[tuple[tuple[int, int], int]]:
        """What is in the way of links and leaps, by the numbers of their two cells."""
        for (start, end), (price, kind) in self.board._contents.links.values.items():
            if self.movement._along(kind, price) is not None:
                weight = self._landing(self._grid.numbering.cell_of(end))
                if weight < NEVER:
                    yield (start, end), weight
        if self.movement.leap is not None:
            table = step_table(self.board, self.movement, self.unit.side)
            # leaps are known once steps are compiled
            table.fill()
            for start, end in table._leaps(np.arange(len(self._cells))).tolist():
                yield (start, end), int(self.weights.lying[end] - self.weights.ground[end])

    def _chains(self) -> Any:
        """Links and leaps as the kernel takes them."""
        ends = np.array(list(self._jumps), dtype=np.int64).reshape(-1, 2)
        costs = np.array(list(self._jumps.values()), dtype=np.int64) * HEAVY + 1
        return chained(ends, costs, 1, len(self._cells))

    def taken(self, a: Cell, b: Cell) -> tuple[int, bool]:
        """What is in the way from one cell of a way to the next, and whether that is a step.

        Else it is a link or leap.
        """
        start, end = map(self._grid.numbering.number, (a, b))
        weight, direction = self._jumps.get((start, end), 2 * NEVER), self._grid.direction(a, b)
        if direction is None:
            return weight, False
        step = int(self._steps[0][start, self._grid.lattice.way(direction)])
        # a link may lead to a neighbor, too: the lighter of both counts
        return (step, True) if step <= weight else (weight, False)

    def _landing(self, cell: Cell) -> int:
        """How many things are in the way of a unit that comes down on a cell."""
        numbering = self._grid.numbering
        cells = self.board.covered(self.unit.changed(movement=self.movement), cell)
        if not all(numbering.has(*each) for each in cells):
            return NEVER
        walls = len(list(inside(self.board, self.movement, cells)))
        return sum(int(self.weights.lying[numbering.number(each)]) for each in cells) + walls
