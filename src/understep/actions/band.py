"""Band: the cells that an attack can be aimed at, from some stands."""

from __future__ import annotations

from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from understep.actions.paths import cells_near, path_gaps, path_rows, places_of
from understep.boards.attack import Attack
from understep.boards.board import Board
from understep.boards.cost import fraction
from understep.boards.derived import Watcher
from understep.boards.footprint import ONE
from understep.boards.unit import Unit
from understep.errors import StaleError
from understep.grids.cell import Cell, IntArray
from understep.grids.grid import Metric
from understep.kernels.loader import view
from understep.moves.answer import UNKNOWN, movement_of
from understep.moves.reach import Reach
from understep.sight.lines import ANY, FINEST, Aiming, height, lines
from understep.sight.look import HALF
from understep.sight.rows import Ranges, Rows, rows
from understep.sight.sees import sees

MOST_AIMS = 256  # attacks of which it is known how they are aimed


def aiming_of(unit: Unit, attack: Attack) -> Aiming:
    """How an attack is aimed."""
    eye, target = height(unit.eye, "eye"), height(HALF, "target")
    up, down = (
        -1 if each is None else int(fraction(each) * FINEST) for each in (attack.up, attack.down)
    )
    gaps, feet = (attack.low, attack.high, attack.per_level), unit.movement.footprint
    return Aiming(*gaps, int(attack.sight), up, down, eye, target, feet, attack.measure)


class Aims(Watcher):
    """How the attacks on a board are aimed, and how far, while no level changes."""

    sight = True

    def __init__(self, known: dict[tuple[Any, ...], tuple[Attack, Aiming, int]]) -> None:
        # copies of the board hold the same until one changes
        self._known = known

    def touched(self, _part: str, _numbers: IntArray) -> None:
        """Forget all: levels tell how far an attack leads."""
        self._known = {}

    def share(self, _board: Board) -> Aims:
        """What is known is the same for a copy of the board."""
        return Aims(self._known)

    def find(self, board: Board, unit: Unit, attack: Attack) -> tuple[Rows, int]:
        """See `rows_of`."""
        # by its number, as comparing all of its facts would take longer than what is saved
        key = id(attack), unit.eye, unit.movement.footprint
        known = self._known.get(key)
        if known is None or known[0] is not attack:
            if len(self._known) >= MOST_AIMS:
                self._known = {}
            known = self._known[key] = attack, *self._found(board, unit, attack)
        _, aiming, far = known
        along = attack.measure == "path"
        return path_rows(board, unit, aiming) if along else rows(board, aiming), far

    def _found(self, board: Board, unit: Unit, attack: Attack) -> tuple[Aiming, int]:
        kept, aiming = lines(board), aiming_of(unit, attack)
        far = attack._far(kept.span)
        if attack.sight:
            kept.countable(min(far, sum(board.grid.size)), (aiming.eye, aiming.target))
        return aiming, far


def rows_of(board: Board, unit: Unit, attack: Attack) -> tuple[Rows, int]:
    """The rows of an attack, and how many steps lead at most to what is in one.

    Heights that cannot be compared so far are refused.
    """
    return board._derived.get(("aims",), lambda: Aims({})).find(board, unit, attack)


def aimed_at(board: Board, unit: Unit, attack: Attack, reach: Reach) -> IntArray:
    """The cells that can be aimed at from anywhere that a unit can get, by number, in order."""
    found, (kept, far) = reach._quick, rows_of(board, unit, attack)
    if found is not None:
        struck = kept.struck(found, far)
        if struck is not None:
            return struck
    return Band(board, unit, attack, reach._numbers).cells[0]


def rows_from(board: Board, unit: Unit, attack: Attack, stands: IntArray) -> Ranges | None:
    """The rows of what can be aimed at from each of some stands; None: they are not kept."""
    kept, far = rows_of(board, unit, attack)
    return kept.of(stands, far)


class Band:
    """What can be aimed at from where; stands and cells by number."""

    def __init__(self, board: Board, unit: Unit, attack: Attack, stands: IntArray) -> None:
        self._board, self._unit, self._attack = board, unit, attack
        self._state = board.state
        grid, offsets = board.grid, unit.movement.footprint
        #: The cells taken up at each stand, ``(stands, feet)``.
        self.starts = stands[:, None]
        if offsets != ONE:
            self.starts = grid.numbering.numbers(
                grid.lattice.spread(grid.numbering.cells_of(stands), offsets)
            )
        self._on_grid = attack.measure == "grid"  # else distances are judged here
        self._lines = lines(board)
        #: What can be aimed at from each stand; None: it is found again when it is asked for.
        self._ranges = rows_from(board, unit, attack, stands)
        if self._ranges is None:
            _ = self.cells

    def __getstate__(self) -> dict[str, Any]:
        fresh = not self._board.altered_since(self._state)
        _ = self.cells  # the rows are much more
        return self.__dict__ | {"_lines": None, "_ranges": None, "_state": fresh}

    def __setstate__(self, state: dict[str, Any]) -> None:
        self.__dict__.update(state)
        self._lines = lines(self._board)
        self._state = self._board.state if state["_state"] else UNKNOWN

    def _armed(self) -> Any:
        """The kernel, with this attack; another may have been there in between."""
        return self._lines.armed(self._aiming, self.starts.astype(np.int32).ravel())

    @cached_property
    def _aiming(self) -> Aiming:
        return aiming_of(self._unit, self._attack)

    @cached_property
    def cells(self) -> tuple[IntArray, IntArray]:
        """All cells that can be aimed at, in order, and for each the first stand that does."""
        if self._ranges is not None:
            return self._ranges.union(self._board)
        far = self._far
        sight = self._armed()
        cols, lines_ = self._board.grid.size
        # no more rows than these can hold an aim
        high = int(self.starts.max()) // cols - int(self.starts.min()) // cols + 2 * far + 1
        met, mark = self._lines.marks()
        cells, firsts = np.empty((2, min(high, lines_) * cols), dtype=np.int32)
        out = view(met), view(cells), view(firsts)
        if self._on_grid:
            count = sight.strike(len(self.starts), far, mark, 0, *out)
        else:
            stands, aims = np.nonzero(self._inside(self._near))
            pairs = stands.astype(np.int32), self._near[aims].astype(np.int32)
            count = sight.strike_at(len(stands), *map(view, pairs), mark, *out)
        # they were found stand by stand
        order = np.argsort(cells[:count])
        return cells[:count][order].astype(np.int64), firsts[:count][order].astype(np.int64)

    def first(self, number: int) -> int | None:
        """The place of the best stand for a cell; None: it cannot be aimed at."""
        numbers, firsts = self.cells
        place = int(numbers.searchsorted(number))
        there = place < len(numbers) and numbers[place] == number
        return int(firsts[place]) if there else None

    def still(self) -> None:
        """Refuse to tell from where, once the board has changed."""
        if self._board.altered_since(self._state):
            rule = "the board has changed since these attacks were worked out; ask for them anew"
            raise StaleError(rule)

    def pairs(self) -> tuple[IntArray, IntArray]:
        """Each stand, by place, with each cell, by number, that can be aimed at from it."""
        self.still()
        if self._ranges is not None:
            return self._ranges.pairs()
        aims, many = self.cells[0], len(self.starts)
        sight, found = self._armed(), np.empty(many, dtype=np.int32)
        out = view(found)
        each = [found[: sight.strikers(many, number, out)].copy() for number in aims.tolist()]
        places = np.concatenate([np.zeros(0, dtype=np.int64), *each])
        order = np.repeat(np.arange(len(aims)), list(map(len, each)))
        if not self._on_grid:
            # the kernel knows distances on the grid only
            inside = self._inside(aims)[places, order]
            places, order = places[inside], order[inside]
        return places, aims[order]

    def stands(self, number: int) -> list[int]:
        """The places of the stands from which a cell can be aimed at."""
        self.still()
        if self._ranges is not None:
            return self._ranges.holding(number)
        if self.first(number) is None:
            return []
        found = np.empty(len(self.starts), dtype=np.int32)
        count = self._armed().strikers(len(self.starts), number, view(found))
        stands: IntArray = found[:count].astype(np.int64)
        if not self._on_grid:
            # the kernel knows distances on the grid only
            stands = stands[self._inside(np.array([number]))[stands, 0]]
        return list(map(int, stands))

    def manned(self) -> set[str]:
        """The names of the units on the cells that can be aimed at."""
        if self._ranges is not None:
            return self._ranges.manned(self._board)
        return set(self._board._roster.on(self.cells[0]))

    def gaps(self, numbers: IntArray) -> IntArray:
        """How far cells are from each stand, ``(stands, cells)``; `ANY` where no steps lead."""
        grid = self._board.grid
        if self._attack.measure == "path":
            places, there = places_of(self._near, numbers)
            return np.where(there, self._paths[:, places], ANY)
        cells, starts = (grid.numbering.cells_of(each) for each in (numbers, self.starts))
        measure: Metric = "straight" if self._attack.measure == "straight" else "steps"
        # of a large unit the nearest of its cells counts
        gaps: IntArray = grid.distance(starts[:, :, None], cells, measure=measure).min(axis=1)
        return gaps

    def _inside(self, numbers: IntArray) -> NDArray[np.bool_]:
        """For each stand, whether cells are neither too near nor too far: ``(stands, cells)``."""
        levels = self._board._contents.elevation.array
        return self._aiming.spans(self.gaps(numbers), levels, self.starts[:, :1], numbers)

    @property
    def _far(self) -> int:
        return self._attack._far(self._lines.span)

    @cached_property
    def _near(self) -> IntArray:
        """The numbers of all cells that steps could lead to from any stand, in order."""
        return cells_near(self._board.grid, self.starts, self._far)

    @cached_property
    def _paths(self) -> IntArray:
        """How many steps lead from each stand to each cell near: ``(stands, cells)``."""
        unit, args = self._unit, (self.starts, self._near, self._far)
        return path_gaps(self._board, movement_of(unit), unit.side, *args)

    def why_not(self, cell: Cell) -> str:
        """Why a cell cannot be aimed at from any stand."""
        grid, attack = self._board.grid, self._attack
        number = grid.numbering.number(cell)
        inside = self._inside(np.array([number]))[:, 0]
        band = f"its range is {attack.low} to {attack.high}"
        if not inside.any():
            gaps = self.gaps(np.array([number]))[:, 0]
            nearest = round(float(gaps.max() if (gaps < attack.low).all() else gaps.min()), 2)
            if nearest == ANY:
                return f"no {attack.high} steps lead to {tuple(cell)}"
            away = f"{nearest:g} cell{'s' * (nearest != 1)}"
            return f"{tuple(cell)} is {away} away at best, and {band}"
        stand = grid.numbering.cell_of(int(self.starts[int(inside.argmax()), 0]))
        sighting = sees(self._board, stand, cell, eye=self._unit.eye)
        if attack.sight and not sighting:
            return f"{sighting.why} from {tuple(stand)}"
        levels = self._board._contents.elevation.array
        rise = float(levels[number]) - float(levels[grid.numbering.number(stand)])
        where = f"{abs(rise):g} level{'s' * (abs(rise) != 1)} {'above' if rise > 0 else 'below'}"
        return f"{tuple(cell)} lies {where} {tuple(stand)}"
