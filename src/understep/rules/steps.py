"""The step table: the rules of one movement on one board, as arrays.

A row of codes per cell says, for each direction, whether a step leads there and what it costs; the
search reads nothing else about the rules, but for the links. Rows are filled in blocks by the step
kernel, when a search first touches them, and an edit refills only the cells whose steps it can
change.
"""

from __future__ import annotations

from fractions import Fraction
from math import lcm
from operator import is_
from threading import Lock
from typing import Any, cast

import numpy as np
from numpy.typing import NDArray

from understep.boards.board import Board
from understep.boards.contents import OPEN
from understep.boards.cost import fraction
from understep.boards.derived import Watcher, twin_of
from understep.boards.footprint import ONE
from understep.boards.names import meet
from understep.errors import CostError
from understep.grids.cell import IntArray
from understep.kernels import loader
from understep.kernels.loader import blank, view
from understep.kernels.marks import BRIEF, FAR, LINE, MET, NO, PRICES, SHIFT, UNKNOWN
from understep.rules.feet import feet
from understep.rules.foes import Foes, closing
from understep.rules.link_steps import LinkSteps
from understep.rules.movement import ALTERNATING, Movement
from understep.rules.pricing import Kinds
from understep.rules.slopes import Slopes

NEVER = 1 << 51  # the cost of an impossible step; above every key
BLOCK = 64  # side of the square of cells that is filled when a search gets there
FINEST_SCALE = 10**9
NARROW, WIDE = 256, 1 << 16
MOST_DIRTY = 500  # edits remembered one by one
FEW = 32  # changed cells that are refilled one by one
CORNERS = {"free": 0, "one": 1, "both": 2}
NOTHING = np.zeros(0, dtype=np.uint8)
NOTHING_WIDE = np.zeros(0, dtype=np.uint16)


class StepTable(Watcher):
    """The steps of a movement on a board, for one side; kept with the board."""

    def __init__(
        self, board: Board, movement: Movement, side: str, parts: int, foes: str | None
    ) -> None:
        meet(board, movement)
        self._board, self._movement, self._side = board, movement, side
        self._parts, self._cap = parts, movement._cap
        self._foes = None if foes is None else Foes(board, foes, side)
        self._grid = board.grid
        self._ways = len(board.grid.directions)
        self._lock = Lock()
        self._dirty: list[IntArray] = []
        #: Counts how often costs have come to be counted otherwise.
        self.version = 0
        self._make()

    def _make(self) -> None:
        """Work out the rules as numbers; no row is filled yet."""
        board, movement, grid = self._board, self._movement, self._grid
        self._kinds = Kinds(board, movement, self._side)
        prices = self._kinds.prices
        diagonal = grid.kind == "square" and self._ways == 8
        alternating = diagonal and movement.diagonal == ALTERNATING
        self.version += 1
        #: 2 where diagonal steps alternate: the table holds the cells before a dear one, too.
        self.layers = 2 if alternating else 1
        ways = [1, 2] if alternating else [movement.diagonal] if diagonal else []
        factors = [None if factor is None else fraction(factor) for factor in (1, *ways)]
        # what an edge does, by its place: none, each kind
        edges: list[tuple[bool, Fraction | None, Fraction]] = [(False, None, Fraction(0))]
        edges += [movement._across(name, kind) for name, kind in board.edge_kinds.items()]
        base = [  # by diagonal or not, edge, kind of ground
            [
                [
                    None if price is None or blocks or factor is None
                    else (price if instead is None else instead) * factor
                    for price in prices
                ]
                for blocks, instead, _ in edges
            ]
            for factor in factors
        ]  # fmt: skip
        parts = [cost for part in base for row in part for cost in row if cost is not None]
        adds = [add for *_, add in edges]
        self._slopes = slopes = Slopes(board, movement)
        self._links = LinkSteps(board, movement)
        # what a zone adds is counted with steps, though no step holds it
        zone = [] if isinstance(movement.zones, str) else [fraction(movement.zones)]
        every = [*parts, *adds, slopes.rise, slopes.fall, *self._links.costs(), *zone]
        leap = movement.leap
        every += [] if leap is None else [leap.price]
        # one scale for all costs of the table, so that kernels add whole numbers
        self.scale = lcm(self._parts, *(cost.denominator for cost in every))
        if self.scale > FINEST_SCALE:
            rule = f"together they need a scale of {self.scale}; use rounder fractions"
            raise CostError("costs", rule, [str(cost) for cost in parts])
        add = np.array([self.whole(cost) for cost in adds])
        costs = (cost for part in base for row in part for cost in row)
        self._prices = np.array([NO if cost is None else self.whole(cost) for cost in costs])
        known = self._prices[self._prices < NO]
        # edges are met twice on the way around a corner
        corner = 2 * int(add.max()) if diagonal else 0
        most = self.whole(self._cap) or NEVER
        self.cheapest = min(int(known.min()), most) if len(known) else 0
        self._dearest = int(known.max()) + int(add.max()) + corner if len(known) else 0
        self._dearest = min(self._dearest + self.whole(slopes.dearest()), NEVER >> 3, most)
        #: Scaled points of a leap, and how many steps it is long at most; 0: it does not leap.
        self.leap_cost, self.leap_length = 0, 0
        if leap is not None:
            self.leap_cost, self.leap_length = self.capped(leap.price), leap.over + 1
            # an estimate counts cells, and a leap covers several
            each = self.leap_cost // self.leap_length
            self.cheapest = min(self.cheapest, each) if len(known) else each
            self._dearest = max(self._dearest, self.leap_cost)
        self._by_kind = self._prices_by_kind(diagonal, len(prices))
        self._free = len(known) > 0 and min(int(known.min()), self.leap_cost if leap else 1) == 0
        #: Steps from the anchor to each covered cell, as differences of numbers, by parity.
        foot, inner, self.foot_shifts = feet(grid, movement.footprint)
        place = np.arange(256, dtype=np.int32) * (np.arange(256) < OPEN)
        walls = [blocks for blocks, *_ in edges]
        deltas = grid.lattice.deltas.astype(np.int32).ravel()
        spots, kinds = 3 * LINE, ("i4", "i4", "i4", "i4", "u1")
        sizes = spots, 3 * spots, spots, spots, spots
        scratch = [view(np.zeros(*each)) for each in zip(sizes, kinds, strict=True)]
        # where nothing is compiled together, the row never tells
        scratch.append(view(np.full(16 * LINE, UNKNOWN, dtype=np.int32)))
        self._laid: tuple[Any, ...] = (None,) * 8
        self._filled = False
        mask = grid.numbering.mask
        # then rows are compiled by adding whole numbers of 32 bits
        alike = movement.footprint == ONE and slopes.exact and self._dearest < FAR // 2
        self._filler = loader.steps.Filler(
            grid.cols, grid.rows, self._ways, *grid.numbering.staggering, view(deltas),
            view(NOTHING if mask is None else mask.astype(np.uint8)), *scratch,
        )  # fmt: skip
        self._filler.rules(
            view(self._prices), len(prices), len(edges), view(place),
            view(np.array(walls, dtype=np.uint8)), view(add),
            view(np.array([price is not None for price in prices], dtype=np.uint8)),
            int(diagonal), self.layers, CORNERS[movement.corners],
            slopes.grain, slopes.climb, slopes.drop,
            self.whole(slopes.rise), self.whole(slopes.fall),
            len(movement.footprint), view(foot), view(inner), self.whole(self._cap), alike,
        )  # fmt: skip
        rows = grid.cols * grid.rows * self._ways
        self._make_codes(blank(rows * self.layers, np.uint8), np.zeros(NARROW, "i8"), 2)
        self._make_leaps(blank(rows if leap else 0, np.uint8))
        self._shared = False
        self._links.compile(self)

    def _prices_by_kind(self, diagonal: bool, kinds: int) -> tuple[memoryview, list[int]] | None:
        """By kind of ground the state of an empty cell (see `kernels.marks`), and the prices.

        None where a step's cost depends on more than the cell it leads to.
        """
        movement, grid = self._movement, self._grid
        # around a hole a diagonal step has no corner to go by
        if diagonal and (
            movement.diagonal != 1 or movement.corners != "free" or grid.numbering.mask is not None
        ):
            return None
        if movement.footprint != ONE or movement.leap is not None:
            return None
        most = self.whole(self._cap) or NEVER
        amounts = [p if p == NO else min(p, most) for p in self._prices[:kinds].tolist()]
        prices = sorted({amount for amount in amounts if amount < NO})
        # a state has bits for so many
        if len(prices) > PRICES:
            return None
        found = np.full(max(kinds, 256), MET, dtype=np.uint8)
        found[:kinds] = [
            MET | prices.index(amount) + 1 << 1 if amount < NO else MET for amount in amounts
        ]
        return view(found), prices

    @property
    def by_kind(self) -> tuple[memoryview, list[int]] | None:
        """Where every step into a cell costs what its kind of ground does: states and prices."""
        # an edge that was ever laid may be there still
        walled = self._board._contents.edges.fresh is None
        if walled or self._links.count or len(self._slopes.layer()):
            return None
        return self._by_kind

    def layers_by_kind(self) -> tuple[NDArray[Any], ...]:
        """What the ground of cells is: kinds by code or by rule, blocks, unseen cells."""
        contents, kinds = self._board._contents, self._kinds.codes
        blocks = contents.blocks(None), contents.blocks(self._side), contents.unseen
        return contents.terrain.array, NOTHING_WIDE if kinds is None else kinds, *blocks

    def whole(self, cost: Fraction) -> int:
        """A cost as it is counted; what nobody's points could pay is as good as anything dearer."""
        return min(cost.numerator * self.scale // cost.denominator, NEVER >> 3)

    def capped(self, cost: Fraction) -> int:
        """The same for a whole step."""
        return self.whole(min(cost, self._cap) if self._cap else cost)

    def serves(self, board: Board, side: str) -> bool:
        """Whether it is still the table for a side: nothing came to be closed to it alone."""
        return self._foes is not None or self._side == board._contents.apart(side)

    @property
    def dearest(self) -> int:
        """No step costs more."""
        return max(self._dearest, self._links.dearest)

    @property
    def free_steps(self) -> bool:
        """Whether a step can cost nothing."""
        return self._free or self._links.free

    @property
    def far_steps(self) -> bool:
        """Whether there are steps to cells that are not next to each other."""
        return self._links.count > 0 or self.leap_length > 0

    @property
    def links(self) -> LinkSteps:
        """The links that this movement can take."""
        return self._links

    def _make_codes(self, codes: NDArray[Any], costs: IntArray, count: int) -> None:
        """Take arrays of codes and costs, narrow or wide, with so many codes known."""
        self.codes, self._costs = codes, costs
        # codes 0 (not compiled) and 1 (no step): dearer than any key, so that one comparison
        # rules them out
        costs[:2] = NEVER << SHIFT
        # a hash table from costs to codes, at most a quarter full
        slots = np.zeros(4 * len(costs), dtype=np.int32)
        narrow = codes.dtype == np.uint8
        #: As the search takes them: codes narrow, codes wide (one of them empty), costs.
        both = (codes, NOTHING_WIDE) if narrow else (NOTHING, codes)
        self.views = view(both[0]), view(both[1]), view(costs)
        #: Twice the costs, as the search by layers takes them.
        self.twice = view(np.zeros(len(costs), dtype=np.int32))
        brief = view(np.zeros(BRIEF, dtype=np.uint16))
        self._filler.out(*self.views, self.twice, view(slots), brief, count)

    def _make_leaps(self, leaps: NDArray[np.uint8]) -> None:
        """Take an array of leaps: by cell and direction, a bit for each number of cells between."""
        #: As the search takes them.
        self.leaps = view(leaps)
        leap = self._movement.leap
        if leap is not None:
            names = list(self._board.terrains)
            over = [leap.terrains is None or name in leap.terrains for name in names]
            passed = view(np.array(over, dtype=np.uint8))
            shut = view(np.array(self._kinds.shut, dtype=np.uint8))
            self._filler.leaping(self.leaps, leap.over, passed, shut, *self._slopes.leap)

    def share(self, board: Board) -> StepTable:
        """The table of a copy of the board: the same codes, until one of the boards is edited."""
        twin = twin_of(self)
        twin._board, twin._dirty = board, list(self._dirty)
        twin._kinds, twin._slopes = self._kinds.share(board), self._slopes.share(board)
        twin._links = self._links.share(board)
        twin._foes = None if self._foes is None else twin_of(self._foes)
        self._shared = twin._shared = True
        return twin

    def touched(self, _part: str, numbers: IntArray) -> None:
        """Take note of cells whose ground, edges or links have changed."""
        self._dirty.append(numbers)
        if len(self._dirty) > MOST_DIRTY:
            self._dirty = [np.unique(np.concatenate(self._dirty))]

    def manned(self, _name: str) -> None:
        """Take note of a unit that came, went or moved."""
        if self._foes is not None:
            self._foes.moved = True

    def refresh(self) -> None:
        """Refill the rows that edits since the last call can have changed."""
        if self._foes is not None and self._foes.moved:
            with self._lock:
                if self._foes.moved and len(moved := self._foes.look(self._board)):
                    self._dirty.append(moved)
        # looked at again under the lock: mostly there is nothing to do, and no lock is needed
        if not self._dirty:
            return
        with self._lock:
            dirty = self._dirty
            if not dirty:  # another thread was faster
                return
            # nothing is made of the cells yet, as where all searches are plain
            made = self._filled or self._shared or self._kinds.codes is not None
            made = made or self._slopes.matters or self._kinds.outgrown
            if not made and not self._board._contents.links.values and not self._links.count:
                self._dirty = []
                return
            numbers = np.concatenate(dirty) if len(dirty) > 1 else np.atleast_1d(dirty[0])
            alike = self._kinds.refresh(numbers) and self._slopes.refresh(numbers)
            # a new price or a finer level asks for another scale: the table starts anew
            if not alike or not self._links.fits(self.scale):
                self._make()
                self._dirty = []
                return
            if self._shared:  # a filler of its own, too
                known, scale, filled = self._filler.known(), self.scale, self._filled
                codes, costs, leaps = self.codes, self._costs, np.asarray(self.leaps)
                self._make()
                # else it counts otherwise now, and starts from nothing
                if filled and self.scale == scale:
                    self._make_codes(codes.copy(), costs.copy(), known)
                    self._make_leaps(leaps.copy())
                    self._filled = True
            self._refill(numbers)
            self._links.refresh(self, numbers)
            self._dirty = []  # last: until then other threads wait for the lock

    def _refill(self, numbers: IntArray) -> None:
        if not self._filled:
            return
        offsets = self._movement.footprint
        if offsets != ONE or len(numbers) > FEW or self.leap_length:
            numbers = self.altered(numbers)
            # rows that were never compiled need not be compiled now
            first = self.codes[numbers * self._ways]
            self._fill(numbers[first > 0])
            return
        self._lay_layers()
        while self._filler.refill(view(np.ascontiguousarray(numbers, dtype=np.int64))):
            self._widen()

    def altered(self, numbers: IntArray) -> IntArray:
        """The cells whose steps a change of some cells can alter, by number."""
        offsets, grid = self._movement.footprint, self._grid
        cells = grid.numbering.cells_of(np.unique(numbers))
        if offsets != ONE:  # anchors whose units cover a changed cell
            cells = grid.lattice.spread(cells, -np.array(offsets)).reshape(-1, 2)
        near = np.concatenate([cells, grid.lattice.around(cells).reshape(-1, 2)])
        for _ in range(self.leap_length - 1):  # a leap is altered from as far as it leads
            near = grid.lattice.around(np.unique(near, axis=0)).reshape(-1, 2)
        found: IntArray = np.unique(grid.numbering.inside(near))
        return found

    def fill_around(self, number: int) -> None:
        """Fill the block that holds a cell."""
        row, col = divmod(number, self._grid.cols)
        # a search that comes to one cell of a block will come to others
        row, col = row - row % BLOCK, col - col % BLOCK
        with self._lock:
            self._fill(self._numbers(col, row, BLOCK, BLOCK))

    def fill(self) -> None:
        """Fill every row that is not filled yet."""
        with self._lock:
            begun = self._filled
            # by strips: a row of cells is read once for those above and below it
            for col in range(0, self._grid.cols, LINE - 2):
                some = self._numbers(col, 0, LINE - 2, self._grid.rows)
                self._fill(some[self.by_cell()[some, 0] == 0] if begun else some)

    def _numbers(self, col: int, row: int, wide: int, high: int) -> IntArray:
        """The cells of a rectangle, by number, as far as it lies on the board."""
        rows = np.arange(row, min(row + high, self._grid.rows))
        cols = np.arange(col, min(col + wide, self._grid.cols))
        found: IntArray = (rows[:, None] * self._grid.cols + cols).ravel()
        return found

    def _lay_layers(self) -> None:
        """Hand the board's layers to the filler, if an edit has moved any."""
        taken = NOTHING if self._foes is None else self._foes.cells
        edges = self._board._contents.edges
        fences = edges.array if edges.fresh is None else NOTHING
        layers = *self.layers_by_kind(), fences, self._slopes.layer(), taken
        # layers are replaced when they are written, so that identity tells
        if all(map(is_, layers, self._laid)):
            return
        self._laid = layers
        flat = [each.view(np.uint8) if each.dtype == np.bool_ else each for each in layers]
        self._filler.lay(*(view(each.reshape(-1)) for each in flat))

    def _fill(self, numbers: IntArray) -> None:
        self._filled = True
        self._lay_layers()
        while self._filler.fill(view(np.ascontiguousarray(numbers, dtype=np.int64))):
            self._widen()

    def _widen(self) -> None:
        """Make room for more different costs: two bytes a step."""
        known = self._filler.known()
        if known >= WIDE:
            raise CostError("costs", f"at most {WIDE - 2} different ones", known)
        costs = np.zeros(WIDE, dtype=np.int64)
        costs[:known] = self._costs[:known]
        self._make_codes(self.codes.astype(np.uint16), costs, known)

    def steps(self, number: int) -> list[tuple[int, int]]:
        """Where the steps and links from a cell lead, by number, and what they cost, scaled.

        Of alternating diagonals, what the first costs.
        """
        grid = self._grid
        ends = grid.numbering.numbers(
            grid.lattice.around(grid.numbering.cells_of(np.array([number])))[0]
        )
        codes = self.rows(np.array([number]))[0].tolist()
        found = [
            (end, int(self._costs[code]) >> SHIFT)
            for end, code in zip(ends.tolist(), codes, strict=True)
            if code > 1
        ]
        links, costs = self._links.ends(), self._links.amounts()
        starts = links[:, 0] == number
        found += zip(links[starts, 1].tolist(), costs[starts].tolist(), strict=True)
        if self.leap_length:
            leaps = self._leaps(np.array([number]))[:, 1].tolist()
            found += [(end, self.leap_cost) for end in leaps]
        return found

    def rows(self, numbers: IntArray) -> NDArray[Any]:
        """The codes of the steps from some cells, by number: above 1 where one leads.

        ``(cells, directions)``; compiled by now. A copy.
        """
        for number in numbers[self.by_cell()[numbers, 0] == 0].tolist():
            if self.codes[number * self._ways] == 0:
                self.fill_around(number)
        return self.by_cell()[numbers]

    def by_cell(self) -> NDArray[Any]:
        """The codes, ``(cells, directions)``; of alternating diagonals those of the first."""
        return cast(NDArray[Any], self.codes.reshape(self.layers, -1, self._ways)[0])

    def _leaps(self, numbers: IntArray) -> IntArray:
        """Start and end of the leaps from some compiled cells."""
        from understep.rules.leap import leaps_of  # at first use, to keep the import light

        bits = np.asarray(self.leaps).reshape(-1, self._ways)
        return leaps_of(self._grid, bits[numbers], numbers)

    def far(self) -> tuple[IntArray, IntArray]:
        """Start and end of every link and leap of a filled table, and its scaled cost."""
        ends, costs = self._links.ends(), self._links.amounts()
        if self.leap_length:
            leaps = self._leaps(np.arange(self._grid.cols * self._grid.rows))
            costs = np.concatenate([costs, np.full(len(leaps), self.leap_cost)])
            ends = np.concatenate([ends, leaps])
        return ends, costs

    def standable(self, links: list[tuple[int, int, Fraction]]) -> list[tuple[int, int, Fraction]]:
        """Those of some links at whose end a unit can stand."""
        self._lay_layers()
        return [link for link in links if self._filler.can_stand(link[1])]

    def can_stand(self, number: int) -> bool:
        """Whether a unit can stand on a cell, by number, as far as ground and walls go."""
        with self._lock:
            self._lay_layers()
            return bool(self._filler.can_stand(number))

    def standing(self) -> NDArray[np.uint8]:
        """Whether a unit can stand on each cell, by number, as far as ground and walls go."""
        found = np.zeros(self._grid.cols * self._grid.rows, dtype=np.uint8)
        with self._lock:
            self._lay_layers()
            self._filler.standing(view(found))
        return found


def step_table(
    board: Board, movement: Movement, side: str, *, parts: int = 1, foes: bool = False
) -> StepTable:
    """The up-to-date step table of a movement on a board, for a side.

    Its scale tells such ``parts`` of a point apart, too. ``foes``: those that stand there close
    corners, if the movement says so.
    """
    parts = lcm(parts, movement._cap.denominator)
    layer = closing(board, movement) if foes else None
    who = board._contents.apart(side) if layer is None else side
    key: tuple[Any, ...] = ("steps", movement.rules, who, layer, parts, movement._cap)
    table = board._derived.get(key, lambda: StepTable(board, movement, who, parts, layer))
    table.refresh()
    return table
