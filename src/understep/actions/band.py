"""Band: the cells that an attack can be aimed at, from some stands."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from understep.boards.attack import Attack
from understep.boards.board import Board
from understep.boards.footprint import ONE
from understep.boards.unit import Unit
from understep.errors import StaleError
from understep.grids.cell import Cell, IntArray
from understep.moves.answer import movement_of
from understep.moves.kernel import view
from understep.moves.steps import step_table
from understep.sight.lines import FINEST, lines
from understep.sight.sees import HALF, sees

ANY = 1 << 28  # a distance that nothing exceeds


class Band:
    """What can be aimed at from where; stands and cells by number."""

    def __init__(self, board: Board, unit: Unit, attack: Attack, stands: IntArray) -> None:
        self._board, self._unit, self._attack = board, unit, attack
        self._state = board.state
        grid, offsets = board.grid, unit.movement.footprint
        self._feet = len(offsets)
        #: The cells taken up at each stand, ``(stands, feet)``.
        self.starts = stands[:, None]
        if offsets != ONE:
            self.starts = grid.numbers(grid.spread(grid.cells_of(stands), offsets))
        self._heights = int(Fraction(unit.eye) * FINEST), int(HALF * FINEST)
        bounds = [None if each is None else int(Fraction(each) * FINEST)
                  for each in (attack.up, attack.down)]  # fmt: skip
        self._bounds = [-1 if each is None else each for each in bounds]
        self._lines = lines(board)

    def _armed(self) -> object:
        """The kernel, with this attack; another may have been there in between."""
        if self._board.state != self._state:
            rule = "the board has changed since these attacks were worked out; ask for them anew"
            raise StaleError(rule)
        sight, attack = self._lines.ready(), self._attack
        distances = (attack.low, attack.high, attack.per_level)
        if attack.measure == "path":  # they are judged here
            distances = (0, ANY, 0)
        starts = self.starts.astype(np.int32).ravel()
        spots = np.empty(2 * len(starts), dtype=np.int32)
        sight.arm(
            *distances, int(attack.sight), *self._bounds, *self._heights, self._feet, view(starts),
            view(spots),
        )  # fmt: skip
        return sight

    @cached_property
    def cells(self) -> tuple[IntArray, IntArray]:
        """All cells that can be aimed at, in order, and for each the first stand that does."""
        if self._attack.measure == "path":
            found = {}
            for number in sorted({number for gaps in self._paths for number in gaps}):
                stands = self.stands(number)
                if len(stands):
                    found[number] = int(stands[0])
            both = np.array(list(found.items()), dtype=np.int64).reshape(-1, 2)
            return both[:, 0], both[:, 1]
        sight = self._armed()
        far = self._attack.high + self._attack.per_level * self._lines.span
        if self._attack.sight:
            self._lines.countable(min(far, sum(self._board.grid.size)), self._heights)
        cols, rows = self._board.grid.size
        high = int(self.starts.max()) // cols - int(self.starts.min()) // cols + 2 * far + 1
        met, mark = self._lines.marks()
        cells, firsts = (np.empty(min(high, rows) * cols, dtype=np.int32) for _ in range(2))
        count = sight.strike(  # type: ignore[attr-defined]
            len(self.starts), far, mark, view(met), view(cells), view(firsts)
        )
        order = np.argsort(cells[:count])
        return cells[:count][order].astype(np.int64), firsts[:count][order].astype(np.int64)

    def stands(self, number: int) -> IntArray:
        """The places of the stands from which a cell can be aimed at."""
        found = np.empty(len(self.starts), dtype=np.int32)
        count = self._armed().strikers(len(self.starts), number, view(found))  # type: ignore[attr-defined]
        stands: IntArray = found[:count].astype(np.int64)
        return stands[self._inside(number)[stands]] if self._attack.measure == "path" else stands

    def gaps(self, number: int) -> IntArray:
        """How far a cell is from each stand; `ANY` where no steps lead there."""
        grid = self._board.grid
        if self._attack.measure == "path":
            return np.array([gaps.get(number, ANY) for gaps in self._paths])
        gaps: IntArray = grid.distance(grid.cells_of(self.starts), grid.cell_of(number)).min(axis=1)
        return gaps

    def _inside(self, number: int) -> NDArray[np.bool_]:
        """For each stand, whether a cell is neither too near nor too far."""
        attack, levels, gaps = self._attack, self._board.levels(), self.gaps(number)
        above = np.round((levels[self.starts[:, 0]] - levels[number]) * FINEST).astype(np.int64)
        more = attack.per_level * np.sign(above) * (np.abs(above) // FINEST)
        inside: NDArray[np.bool_] = (gaps >= attack.low) & (gaps <= attack.high + more)
        return inside

    @cached_property
    def _paths(self) -> list[dict[int, int]]:
        """For each stand the cells that steps lead to, and how many."""
        far = self._attack.high + self._attack.per_level * self._lines.span
        rules = replace(movement_of(self._unit), footprint=ONE, leap=None)
        table = step_table(self._board, rules, self._unit.side)
        grid = self._board.grid
        known: dict[int, list[int]] = {}

        def beyond(number: int) -> list[int]:
            if number not in known:
                cell = grid.cell_of(number)
                known[number] = [
                    grid.number(other)
                    for way in range(len(grid.directions))
                    if (other := grid.step(cell, way)) is not None and table.leads(number, way)
                ]
            return known[number]

        found = []
        for starts in self.starts.tolist():
            gaps = dict.fromkeys(starts, 0)
            rim = list(gaps)
            for steps in range(1, far + 1):
                rim = [other for each in rim for other in beyond(each)]
                rim = [each for each in dict.fromkeys(rim) if each not in gaps]
                if not rim:
                    break
                gaps |= dict.fromkeys(rim, steps)
            found.append(gaps)
        return found

    def why_not(self, cell: Cell) -> str:
        """Why a cell cannot be aimed at from any stand."""
        grid, attack = self._board.grid, self._attack
        number = grid.number(cell)
        inside = self._inside(number)
        band = f"its range is {attack.low} to {attack.high}"
        if not inside.any():
            gaps = self.gaps(number)
            nearest = int(gaps.max() if (gaps < attack.low).all() else gaps.min())
            if nearest == ANY:
                return f"no {attack.high} steps lead to {tuple(cell)}"
            return f"{tuple(cell)} is {nearest} cell{'s' * (nearest != 1)} away at best, and {band}"
        stand = grid.cell_of(int(self.starts[int(inside.argmax()), 0]))
        told = sees(self._board, stand, cell, eye=self._unit.eye)
        if attack.sight and not told:
            return f"{told.why} from {tuple(stand)}"
        rise = float(self._board.levels()[number]) - float(self._board.levels()[grid.number(stand)])
        where = f"{abs(rise):g} level{'s' * (abs(rise) != 1)} {'above' if rise > 0 else 'below'}"
        return f"{tuple(cell)} lies {where} {tuple(stand)}"
