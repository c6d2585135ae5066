"""Labels: what a search knows of the cells it has closed, and the routes that are in there."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from fractions import Fraction
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from understep.boards.board import Board
from understep.boards.cost import plain
from understep.boards.unit import Unit
from understep.errors import CostError
from understep.grids.cell import IntArray
from understep.kernels import loader
from understep.kernels.loader import view
from understep.kernels.marks import SHIFT, STOP
from understep.moves.layers import tied_marks
from understep.moves.mover import Mover, table_of
from understep.moves.workspace import NO_VIAS, pool
from understep.rules.steps import NOTHING

AVOIDED = 30  # bits above those of other preferences
MOST_AVOIDED = 1 << 32
Prefer = Literal["straight", "direct", "first"]


class Labels:
    """The labels of one search, as compact copies.

    All closed ones, nearest first; or, where a goal was found, those on tied ways to it.

    ``marks`` holds ``key << SHIFT``, `STOP` where the mover may stop, and a bit per direction it is
    entered from (512: a link, 1024: a wait). The key counts the turn (from 0) times the
    ``stride`` of the mover, plus the points used.
    """

    vias: NDArray[np.int32] = NO_VIAS  # by label the last entry of `far`, or 0
    #: Of links and leaps: the cells they left, the entries before.
    far: Sequence[NDArray[np.int32]] = (NO_VIAS, NO_VIAS)
    layer = 0  # cells before a dear diagonal step are numbered from here on; 0 without any
    found = -1  # number of the cell that answers the question, or -1
    answers = 0  # how many labels do, which come first; 0 in a flood
    #: Of a weighted search: the key of the goal, the least it could be.
    keys: tuple[int, int] | None = None
    #: Where the marks hold states and no directions yet: the rules of the flood, codes of steps.
    rules: Any = None
    rows: NDArray[np.uint8] = NOTHING
    _totals: IntArray | None = None
    _tied: IntArray | None = None

    def __init__(
        self,
        board: Board,
        mover: Mover,
        places: NDArray[np.int32],
        marks: IntArray,
        home: int,
        expanded: int,
    ) -> None:
        self.board, self.mover, self.places, self.marks = board, mover, places, marks
        #: The number of the cell it starts from, and how many cells were closed.
        self.home, self.expanded = home, expanded

    @classmethod
    def of(cls, board: Board, unit: Unit, found: Any) -> Labels:
        """The labels of what an asker has found for a unit."""
        count, data = found.count, found.data
        # a large flood gave its arrays away; a small one was copied into one row of bytes
        if isinstance(data, tuple):
            cells, marks = data
        else:
            marks = np.frombuffer(data, np.int64, count)
            cells = np.frombuffer(data, np.int32, count, 8 * count)
        labels = cls(board, found.mover.of(board, unit), cells, marks, found.home, count)
        labels.rules = found.rules
        if found.steps is not None:
            # as they were: an edit may have compiled the steps anew
            labels.rows = np.frombuffer(found.steps, np.uint8).reshape(count, -1)
        return labels

    def __len__(self) -> int:
        return len(self.places)

    def __getstate__(self) -> dict[str, Any]:
        # what compiled objects are needed for is found out first
        return self.__dict__ | {"marks": self.tied(), "rules": None, "rows": NOTHING}

    def __setstate__(self, state: dict[str, Any]) -> None:
        self.__dict__.update(state)
        self.mover.table = table_of(self.board, self.mover.unit)

    def tied(self) -> IntArray:
        """The marks with the directions that cells are entered from."""
        if self.rules is None:
            return self.marks
        # kept beside the others, so that threads may ask at once
        if self._tied is None:
            kept = self.places, self.marks, self.rows
            self._tied = tied_marks(self.board, self.rules, *kept)
        return self._tied

    def near(self) -> NDArray[np.bool_]:
        """Whether a change of each cell, by number, could alter what is known here.

        It could where it is next to what a unit on a closed cell takes up (twice over, for zones
        and corners; farther for leaps), or at the end of a link that leaves a closed cell.
        """
        grid = self.board.grid
        cells = grid.numbering.cells_of(np.append(self.cells, self.home))
        found = np.zeros(grid.cols * grid.rows, dtype=bool)
        closed = np.zeros_like(found)
        closed[self.cells] = True
        ends = self.mover.table.links.ends()
        far = grid.numbering.cells_of(ends[closed[ends[:, 0]], 1])
        cells = grid.lattice.spread(np.concatenate([cells, far]), self.mover.footprint).reshape(
            -1, 2
        )
        for _ in range(2 + self.mover.table.leap_length):
            cells = np.unique(cells[grid.numbering.holds(cells)], axis=0)
            found[grid.numbering.numbers(cells)] = True
            cells = grid.lattice.around(cells).reshape(-1, 2)
        found[grid.numbering.inside(cells)] = True
        return found

    def box(self) -> tuple[IntArray, IntArray] | None:
        """The first and last column and row of all cells whose change could alter what is known.

        As `near`, but in little time; None where links may lead out of any box.
        """
        # the far end of a link may lie anywhere
        if self.mover.table.links.count:
            return None
        cells = self.board.grid.numbering.cells_of(np.append(self.cells, self.home))
        aside = (
            int(np.abs(self.mover.footprint).sum(axis=1).max()) + 2 + self.mover.table.leap_length
        )
        return cells.min(axis=0) - aside, cells.max(axis=0) + aside

    @property
    def cells(self) -> NDArray[np.int32]:
        """The cells, by number."""
        return self.places % np.int32(self.layer) if self.layer else self.places

    @property
    def stops(self) -> NDArray[np.bool_]:
        """Where the mover may stop; of two labels of a cell the better one."""
        found: NDArray[np.bool_] = (self.marks & STOP) > 0
        if self.layer:
            # a cell can be stopped on before a plain and before a dear diagonal step
            every = np.flatnonzero(found)
            kept = np.unique(self.cells[every], return_index=True)[1]
            found[:] = False
            found[every[kept]] = True
        return found

    @property
    def passing(self) -> NDArray[np.int32]:
        """The cells it may only pass, by number, nearest first."""
        cells = self.cells[(self.marks & STOP) == 0]
        passing: NDArray[np.int32] = cells[np.sort(np.unique(cells, return_index=True)[1])]
        return passing

    def ends(self, number: int) -> NDArray[np.int32]:
        """The best labels of a cell where it may stop: one, or as good ones in both layers."""
        found = np.flatnonzero((self.cells == number) & (self.marks & STOP > 0)).astype(np.int32)
        keys = self.marks[found] >> SHIFT
        best: NDArray[np.int32] = found[keys == keys.min()]
        return best

    def turns(self, which: Any = slice(None)) -> IntArray:
        """The turn of each label, or of some, the first being 1."""
        keys: IntArray = self.marks[which] >> SHIFT
        return keys // self.mover.stride + 1

    def left(self, which: Any = slice(None)) -> IntArray:
        """Scaled points left in that turn."""
        keys: IntArray = self.marks[which] >> SHIFT
        return self.mover.stride - 1 - keys % self.mover.stride

    def paid(self, way: NDArray[np.int32]) -> IntArray:
        """Scaled points of each step along some labels, by their indices."""
        turns, left = self.turns(way), self.left(way)
        waits, before = np.diff(turns), left[:-1].copy()
        # while it waits it is given points, of which it carries over only so many
        for wait in range(1, int(waits.max(initial=0)) + 1):
            filled = self.mover.points + np.minimum(before, self.mover.carry)
            before = np.where(waits >= wait, filled, before)
        paid: IntArray = before - left[1:]
        return paid

    def totals(self) -> IntArray:
        """Scaled points spent on the whole way (the least of all tied ways)."""
        # worked out once, as every entry of a later turn asks for it
        if self._totals is None:
            if len(self.marks) and int(self.marks[-1]) >> SHIFT < self.mover.stride:
                self._totals = self.mover.first - self.left()
            else:
                totals = np.zeros(len(self.places), dtype=np.int64)
                with _TiedLabels(self) as ties:
                    ties.graph.totals(view(totals))
                if self.layer:  # of labels of a cell that are as good, the cheaper way counts
                    pairs = np.stack([self.cells, self.marks >> SHIFT, self.marks & STOP], axis=-1)
                    groups, which = np.unique(pairs, axis=0, return_inverse=True)
                    least = np.full(len(groups), np.iinfo(np.int64).max)
                    np.minimum.at(least, which.ravel(), totals)
                    totals = least[which.ravel()]
                self._totals = totals
        return self._totals

    def bound(self) -> float:
        """By what factor the way found can be worse than the best, counted in points.

        A turn that is over counts as a full one.
        """
        if self.keys is None:
            return 1.0
        found, best = (self._elapsed(key) for key in self.keys)
        return found / best if best > 0 else (1.0 if found <= 0 else float("inf"))

    def _elapsed(self, key: int) -> int:
        turn, used = divmod(key, self.mover.stride)
        return turn * (self.mover.stride - 1) + used - (self.mover.stride - 1 - self.mover.first)

    def amount(self, scaled: int) -> int | float:
        """A scaled number of points as it is given back."""
        return scaled if self.mover.scale == 1 else plain(Fraction(scaled, self.mover.scale))

    def left_in(self, turn: int, left: int) -> int | float:
        """So many scaled points left in a turn (from 1), as they are given back."""
        finer = self.mover.finer[turn > 1]
        return plain(Fraction(left, self.mover.scale) + finer) if finer else self.amount(left)

    def tied_route(
        self, goal: int, prefer: Prefer, facing: int, avoid: IntArray | None = None
    ) -> tuple[NDArray[np.int32], NDArray[np.int32]]:
        """The preferred route to a cell, given by number: its labels and directions, by number.

        ``avoid`` holds whole weights of cells, by number, that come before what is preferred. A
        link or leap has the number after all directions.
        """
        with _TiedLabels(self) as ties:
            return ties.route(goal, prefer, facing, avoid)

    def tied_routes(self, goals: list[int], facing: int) -> Iterator[NDArray[np.int32]]:
        """The labels on the straight route to each of many cells, given by number."""
        with _TiedLabels(self) as ties:
            for goal in goals:
                yield ties.route(goal, "straight", facing, None)[0]

    def goal(self, order: list[int], avoid: IntArray | None) -> int:
        """Which of the goals found equally good is taken, by number.

        The one with the least total, then the least sum to avoid, then the first in an order.
        """
        equal = set(self.cells[: self.answers].tolist())
        # in the order they were given, the first of equals
        goals = [number for number in order if number in equal]
        if len(goals) < 2 or self.keys is not None:
            return self.found if not goals else goals[0]
        if avoid is None and int(self.marks[0]) >> SHIFT < self.mover.stride:
            return goals[0]  # in the first turn equal points are equal totals

        def merit(number: int) -> tuple[int, int]:
            labels, _ = self.tied_route(number, "direct", -1, avoid)
            shunned = 0 if avoid is None else int(avoid[self.cells[labels[1:]]].sum())
            return int(self.paid(labels).sum()), shunned

        return min(goals, key=merit)


class _TiedLabels:
    """The tie kernel at work on some labels, in a leased workspace."""

    def __init__(self, labels: Labels) -> None:
        self._labels = labels
        self._grid = labels.board.grid
        self._pool = pool(labels.board, labels.mover.table.layers)

    def __enter__(self) -> _TiedLabels:
        labels = self._labels
        # of the other search: its arrays for labels serve ties, too
        self._workspace = self._pool.lease()
        self._slot, token = self._workspace.slot()
        cells = view(labels.places)
        mate = view(np.empty(len(cells), dtype=np.int32))
        loader.ties.chain(cells, self._slot, mate, token)
        self.graph = loader.ties.Ties(
            cells, view(labels.tied()), self._slot, mate, view(labels.vias),
            view(labels.far[0]), view(labels.far[1]), view(self._workspace.shifts),
            self._grid.cols, self._grid.lattice.stagger, self._workspace.parity, labels.layer,
            labels.mover.stride, labels.mover.points, labels.mover.carry, token,
        )  # fmt: skip
        return self

    def __exit__(self, *_exception: object) -> None:
        self._pool.give_back(self._workspace)

    def _label(self, number: int) -> int:
        """The label of a cell where the mover may stop."""
        return int(self._slot[number]) & 0x7FFFFFFF

    def route(
        self, goal: int, prefer: Prefer, facing: int, avoid: IntArray | None
    ) -> tuple[NDArray[np.int32], NDArray[np.int32]]:
        """The labels and directions of the preferred route to a cell, given by number."""
        labels = self._labels
        many = len(labels.places)
        # ties are read from copies of the labels, so that the board may have changed since
        start = self._label(labels.home)
        ends = labels.ends(goal) if labels.layer else np.array([self._label(goal)], np.int32)
        route, taken = np.empty((2, many), dtype=np.int32)
        soon = int(labels.marks[ends[0]]) >> SHIFT < labels.mover.stride
        if labels.keys is not None or (prefer == "first" and avoid is None and soon):
            length = self.graph.first(int(ends[0]), start, view(route), view(taken))
            return route[:length][::-1], taken[1:length][::-1]
        seat = np.full(many, -1, dtype=np.int32)
        ties = np.empty(many, dtype=np.int32)
        ties[: len(ends)] = ends
        ways, first = np.empty((2, many + 1), dtype=np.int32)
        slots = len(self._grid.directions) + 1
        most = (many * (slots + 1) + len(labels.far[0])) * (2 if labels.layer else 1)
        sources, directions = np.empty((2, most), dtype=np.int32)
        costs = np.empty(most, dtype=np.int64)
        steps = view(ways), view(first), view(sources), view(directions), view(costs)
        count = self.graph.spread(len(ends), view(seat), view(ties), *steps)
        on_way = labels.cells[ties[:count]]
        weight = self._beside(on_way, goal) if prefer == "direct" else np.zeros(count, np.int64)
        if avoid is not None:
            heavy = avoid[on_way]
            if int(heavy.max()) * count >= MOST_AVOIDED:
                rule = "the weights along a route add up to too much; use smaller ones"
                raise CostError("avoid", rule, int(heavy.max()))
            weight = weight + (heavy << AVOIDED)
        tied = count * slots
        length = loader.choice.choose(
            len(ends), int(seat[start]), facing if prefer == "straight" else -1,
            int(prefer == "straight"), slots, *steps, view(np.ascontiguousarray(on_way)),
            view(weight), view(np.full(tied, -1, dtype=np.int64)),
            view(np.zeros(tied, dtype=np.int64)), view(np.zeros(tied, dtype=np.int32)),
            view(np.zeros(count, dtype=np.int32)), view(route), view(taken),
        )  # fmt: skip
        return ties[route[:length]], taken[1:length]

    def _beside(self, numbers: NDArray[np.int32], goal: int) -> IntArray:
        """How far cells lie from the straight line start to goal, in whole numbers.

        Twice the area of the triangle that each makes with the line, on the lattice whose staggered
        axis is doubled; stretching a board does not change which is nearer.
        """
        # a cross product tells without a division, and so without rounding
        cells = self._grid.numbering.cells_of(numbers)
        ends = self._grid.numbering.cells_of(np.array([self._labels.home, goal]))
        if self._grid.lattice.stagger:
            along = self._grid.lattice.stagger - 1
            for each in (cells, ends):
                lines = self._grid.lattice.lines(each)
                each[:, along] = 2 * each[:, along] + lines
        dx, dy = ends[1] - ends[0]
        gap = cells - ends[0]
        beside: IntArray = np.abs(gap[:, 0] * dy - gap[:, 1] * dx)
        return beside
