"""Lines: what lines of sight run over on a board, kept up to date."""

from __future__ import annotations

import itertools
from fractions import Fraction
from functools import cache
from threading import Lock, local
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from understep.boards.attack import Measure
from understep.boards.board import Board
from understep.boards.cost import exact
from understep.boards.derived import Watcher
from understep.boards.footprint import ONE
from understep.errors import CostError, InputError
from understep.grids.cell import Cell, IntArray
from understep.grids.grid import Grid
from understep.grids.hexes import HexGrid
from understep.grids.lattice import FloatArray
from understep.grids.square import SquareGrid
from understep.grids.systems import Top
from understep.kernels import loader
from understep.kernels.loader import blank, view
from understep.moves.workspace import MEASURES, layered

FINEST = 1000  # levels count to a thousandth
MOST_HEIGHT = 10**6
LONGEST = 36  # no line over so many cells, squared, is longer, squared, than so many times that
MOST_PRODUCT = 1 << 62
MOST_MARKS = 1 << 30
ANY = 1 << 28  # a distance that nothing exceeds
HAIR = 1e-9
NONE = np.zeros(0, dtype=np.uint8)
NOWHERE = np.zeros(0, dtype=np.int32)
# corners around a middle, clockwise, so that side i lies between corner i and the next; the steps
# over the sides; what squares of x and y count, for right angles
SQUARE = [-1, -1, 1, -1, 1, 1, -1, 1], [0, -2, 2, 0, 0, 2, -2, 0], 1, 1
POINTY = (
    [0, -2, 1, -1, 1, 1, 0, 2, -1, 1, -1, -1],
    [1, -3, 2, 0, 1, 3, -1, 3, -2, 0, -1, -3], 3, 1,
)  # fmt: skip
FLAT = (
    [-1, -1, 1, -1, 2, 0, 1, 1, -1, 1, -2, 0],
    [0, -2, 3, -1, 3, 1, 0, 2, -3, 1, -3, -1], 1, 3,
)  # fmt: skip
SHAPES = SQUARE, POINTY, FLAT  # by stagger
TOPS: tuple[Top, Top] = "pointy", "flat"
SPAN = 24  # lines no longer than so much are followed once: twelve cells along a row of squares
MOST_TRACKED = 1 << 16


class Aiming(NamedTuple):
    """From where to what: the rule of an attack, or of a look around.

    Distances in steps of the grid, heights in thousandths of a level (-1 for ``up`` and ``down``:
    any), ``sight`` 1 where a line must be clear; ``feet``: the cells taken up, as offsets;
    ``measure``: what distances count, as of an `Attack`; the kernel knows those on the grid alone.
    """

    low: int
    high: int
    gain: int
    sight: int
    up: int
    down: int
    eye: int
    target: int
    feet: tuple[tuple[int, int], ...] = ONE
    measure: Measure = "grid"

    def spans(
        self, gaps: NDArray[Any], levels: FloatArray, stands: Any, numbers: NDArray[Any]
    ) -> NDArray[np.bool_]:
        """Whether cells so far from stands are neither too near nor too far, as levels let them.

        ``levels``: by cell; stands and cells by number.
        """
        above = np.round((levels[stands] - levels[numbers]) * FINEST).astype(np.int64)
        # full levels only, up as down
        more = self.gain * np.sign(above) * (np.abs(above) // FINEST)
        hair = HAIR if self.measure == "straight" else 0  # a root may be off by a bit
        inside: NDArray[np.bool_] = gaps >= self.low - hair
        inside &= gaps <= self.high + more + hair
        return inside


class Lines(Watcher):
    """The lines of sight of a board."""

    sight = True
    _ground: NDArray[np.int64]  # by cell; shared with copies of the board until either has changed
    _tops: NDArray[np.int64]
    _covers: NDArray[np.int64]
    _hiding: NDArray[np.uint8]
    _hides: bool
    _dirty: list[IntArray]
    _highest: int
    _levels: tuple[int, int]  # the lowest and the highest there were

    def __init__(self, board: Board, like: Lines | None = None) -> None:
        """``like``: those of a board with the same contents."""
        self._board, self._lock, self._own = board, Lock(), local()
        #: How far looks lead and by what rule, by all that decides it, while nothing changes.
        self.looks: dict[tuple[Any, ...], tuple[int, Aiming]] = {}
        if like is not None:
            with like._lock:
                # whichever is edited first takes arrays of its own
                like._shared = self._shared = True
                self._covers, self._hiding, self._hides = like._covers, like._hiding, like._hides
                self._ground, self._tops, self._dirty = like._ground, like._tops, list(like._dirty)
                self._highest, self._levels = like._highest, like._levels
            return
        kinds = list(board.terrains.values())
        self._covers = np.array([round(kind.cover * FINEST) for kind in kinds], dtype=np.int64)
        hiding = np.zeros(256, dtype=np.uint8)
        hiding[1 : len(board.edge_kinds) + 1] = [each.hides for each in board.edge_kinds.values()]
        self._hiding, self._hides = hiding, bool(hiding.any())
        cells = board.grid.cols * board.grid.rows
        self._ground = np.zeros(cells, dtype=np.int64)
        self._tops = np.zeros(cells, dtype=np.int64)
        self._shared = False
        self._dirty = [np.arange(cells)]
        self._highest = 0
        self._levels = 0, 0

    def touched(self, _part: str, numbers: IntArray) -> None:
        """Take note of cells whose ground or level may have changed."""
        self._dirty.append(numbers)
        self.looks = {}

    def share(self, board: Board) -> Lines:
        """The same for a copy of the board."""
        return Lines(board, self)

    def _update(self) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """Levels and tops as they are now."""
        if not self._dirty:
            return self._ground, self._tops
        with self._lock:
            if self._dirty:
                if self._shared:
                    self._ground, self._tops = self._ground.copy(), self._tops.copy()
                    self._shared = False
                numbers = np.concatenate(self._dirty)
                contents = self._board._contents
                levels = np.round(contents.elevation.array[numbers] * FINEST).astype(np.int64)
                self._ground[numbers] = levels
                covers = self._covers[contents.terrain.array[numbers]]
                for name, counts in contents.features.items():
                    rise = round(contents.declared.features[name].top * FINEST)
                    # what rises highest hides, on the ground or on what lies there
                    covers = np.maximum(covers, (counts[numbers] > 0) * rise)
                self._tops[numbers] = levels + covers
                low, high = self._levels
                self._levels = lowest, _ = (
                    min(low, int(levels.min(initial=0))), max(high, int(levels.max(initial=0))),
                )  # fmt: skip
                unseen = contents.unseen
                if len(unseen):
                    # no line runs below all ground, so that unknown land is in nobody's way
                    every = numbers if lowest == low else np.arange(len(unseen))
                    self._tops[every[unseen[every] > 0]] = lowest
                # never less again: it is a bound alone
                top = int(np.abs(self._tops[numbers]).max(initial=0))
                self._highest = max(self._highest, top, -lowest)
                self._dirty = []
            return self._ground, self._tops

    def ready(self) -> Any:
        """The kernel, with the layers as they are now; one for each thread."""
        ground, tops = self._update()
        fences = self._board._contents.edges.array if self._hides else NONE
        own = self._own
        # arrays are replaced when boards part, and written in place else
        if getattr(own, "fences", None) is not fences or own.ground is not ground:
            own.fences, own.ground = fences, ground
            own.sight = _sight(self._board.grid)
            own.sight.lay(*map(view, (ground, tops, fences, self._hiding)))
        return own.sight

    def armed(self, aiming: Aiming, starts: NDArray[np.int32]) -> Any:
        """The kernel, to aim from some stands: the cells taken up at each, one after the other.

        Another rule may have been there in between.
        """
        sight = self.ready()
        spots = np.empty(2 * len(starts), dtype=np.int32)
        low, high, gain, *rest, feet, measure = aiming
        gaps = (low, high, gain) if measure == "grid" else (0, ANY, 0)
        sight.arm(*gaps, *rest, len(feet), view(starts), view(spots))
        return sight

    def followed(self, start: Cell, end: Cell, nudge: int) -> tuple[list[int], list[int]]:
        """The line between two cells, nudged left (0) or right (1).

        Of each step the direction, by number, and how much of the line is behind where it is
        nearest to the middle of the cell that it leads to; the last is all of it.
        """
        grid = self._board.grid
        sight = getattr(self._own, "bare", None) or _bare(grid)
        self._own.bare = sight
        x, y = (b - a for a, b in zip(_middle(grid, start), _middle(grid, end), strict=True))
        # nudged lines can step aside, at most once for each cell
        most = 2 * int(grid.distance(start, end)) + 2
        tracks, passes = np.zeros(most, dtype=np.uint8), np.zeros(most, dtype=np.int64)
        sight.remember(-1, view(NOWHERE), view(tracks), view(passes))
        many = sight.record(x, y, nudge, 0)
        ways = len(grid.directions) // (6 if grid.lattice.stagger else 4)
        return ((tracks[:many] % 128).astype(np.int64) * ways).tolist(), passes[:many].tolist()

    def along(
        self, numbers: list[int], ways: list[int]
    ) -> tuple[list[int], list[int], list[tuple[int, int]]]:
        """The levels and tops of cells, in thousandths; of the steps between the edges that hide.

        These as codes, from either side; 0: none.
        """
        self._update()
        codes, fences = self._board._contents.edges.array, [(0, 0)] * len(numbers)
        if self._hides and len(codes):
            many = len(self._board.grid.directions)
            both = [
                (here * many + way, there * many + (way + many // 2) % many)
                for here, there, way in zip(numbers, numbers[1:], ways, strict=False)
            ]
            found = codes[np.array(both, dtype=np.int64)]
            fences = (found * self._hiding[found]).tolist()
        return self._ground[numbers].tolist(), self._tops[numbers].tolist(), fences

    @property
    def span(self) -> int:
        """By how many full levels one cell can lie above another, at most."""
        self._update()
        return (self._levels[1] - self._levels[0]) // FINEST

    def marks(self, many: int = 1) -> tuple[NDArray[np.int32], int]:
        """An array to mark cells in, and the first of so many marks that none bears.

        Of this thread.
        """
        own = self._own
        mark: int = getattr(own, "mark", MOST_MARKS)
        if mark + many > MOST_MARKS:
            mark, own.met = 1, blank(len(self._ground), np.int32)
        own.mark = mark + many
        return own.met, mark

    def countable(self, far: int, heights: tuple[int, int]) -> None:
        """Refuse lines too long for heights such as these to be compared exactly."""
        self._update()
        most = LONGEST * far * far * 2 * (self._highest + max(heights))
        if most >= MOST_PRODUCT:
            raise InputError("radius", "heights cannot be compared exactly so far away", far)


def _sight(grid: Grid) -> Any:
    """The kernel for a grid, which knows the short lines of its kind."""
    sight = _bare(grid)
    sight.remember(SPAN, *map(view, _tracks(grid.lattice.stagger)))
    return sight


def _middle(grid: Grid, cell: Cell) -> tuple[int, int]:
    """Where the middle of a cell lies in the kernel."""
    twice = [2 * cell.col, 2 * cell.row]
    if grid.lattice.stagger:
        along = grid.lattice.stagger - 1
        twice[along] += grid.lattice.line(*cell)
        twice[1 - along] = 3 * cell[1 - along]
    return twice[0], twice[1]


def _bare(grid: Grid) -> Any:
    """The kernel for a grid, with no line known yet."""
    corners, steps, wide, high = SHAPES[grid.lattice.stagger]
    ways = len(grid.directions)
    exists = NONE if grid.numbering.mask is None else grid.exists.astype(np.uint8).ravel()
    return loader.sight.Sight(
        grid.cols, grid.rows, ways, *grid.numbering.staggering,
        view(layered(grid, 1)), view(exists), view(np.array(corners, dtype=np.int32)),
        view(np.array(steps, dtype=np.int32)), wide, high, MEASURES[grid.kind, ways],
        view(np.zeros(6, dtype=np.int64)), view(np.zeros(6, dtype=np.int64)),
    )  # fmt: skip


@cache
def _tracks(stagger: int) -> tuple[NDArray[Any], ...]:
    """All lines up to `SPAN` right and down, followed once: places, tracks, passes."""
    grid = SquareGrid(1, 1) if not stagger else HexGrid(1, 1, top=TOPS[stagger - 1])
    sight, wide = _bare(grid), 2 * SPAN + 1
    places = np.full(2 * wide * wide, -1, dtype=np.int32)
    found = np.zeros(MOST_TRACKED, dtype=np.uint8), np.zeros(MOST_TRACKED, dtype=np.int64)
    sight.remember(SPAN, view(places), *map(view, found))
    (a, b, c, d), end = SHAPES[stagger][1][:4], 0  # two steps that lead to every middle
    for p, q in itertools.product(range(-SPAN, SPAN + 1), repeat=2):
        x, y = p * a + q * c, p * b + q * d
        if max(abs(x), abs(y)) <= SPAN and (x or y):
            for nudge in (0, 1):
                places[2 * ((x + SPAN) * wide + y + SPAN) + nudge] = end
                end = sight.record(x, y, nudge, end)
    return places, *(each[:end].copy() for each in found)


def lines(board: Board) -> Lines:
    """The lines of sight of a board."""
    return board._derived.get(("sight",), lambda: Lines(board))


def height(value: Any, argument: str) -> int:
    """A height above the ground in thousandths of a level, the nearest, of two the even one."""
    if type(value) in (int, float) and 0 <= value <= MOST_HEIGHT:
        return round(float(value) * FINEST)
    if type(value) is Fraction and 0 <= value.numerator <= MOST_HEIGHT * value.denominator:
        full, rest = divmod(value.numerator * FINEST, value.denominator)
        return full + (2 * rest + full % 2 > value.denominator)
    try:
        found = exact(value, argument)
    except CostError:
        found = None
    if found is None or found > MOST_HEIGHT:
        raise InputError(argument, f"must be a number of levels from 0 to {MOST_HEIGHT}", value)
    return round(found * FINEST)
