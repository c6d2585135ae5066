"""Exposure: which foes could attack a unit on each of many cells, itself out of their way there."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from typing import Any, NamedTuple, TypeAlias

import numpy as np
from numpy.typing import NDArray

from understep.actions.attacks import attacks_of, rows_struck
from understep.actions.paths import places_of
from understep.boards.board import Board
from understep.boards.footprint import ONE, feet
from understep.boards.unit import Unit
from understep.grids.cell import IntArray
from understep.kernels import loader
from understep.kernels.loader import blank, view
from understep.moves.answer import movement_of
from understep.moves.kept import kept
from understep.moves.layers import layers_pool
from understep.moves.mover import mover_of
from understep.moves.reach import Reach, reach
from understep.rules.steps import StepTable
from understep.rules.zones import guards, zones

Parts: TypeAlias = Sequence[tuple[Unit, IntArray]]
Views: TypeAlias = "tuple[memoryview[Any], ...]"

MOST_AT_ONCE = 64  # foes; each takes a workspace of its own
NEVER = 1 << 62  # the rank of what is never got to
NO_CELLS, NO_HELD = np.zeros(0, np.int32), np.zeros(0, np.uint8)


def foes_of(board: Board, side: str) -> list[Unit]:
    """The units that could attack a side, in order."""
    return [
        each for each in board.units()
        if each.side != side and each.attack is not None and each.attack._meets(own=False)
    ]  # fmt: skip


def next_turn(board: Board, foe: Unit) -> Reach:
    """Where a foe can get in its next turn, with all its points."""
    points = movement_of(foe).points
    return reach(board, foe.name, left=None if foe.left == points else points, known_to=False)


class Exposure:
    """The foes of a side as they are now, and what they could do to its units elsewhere."""

    def __init__(self, board: Board, copy: Board, side: str) -> None:
        self._copy, self._side, self._pool = copy, side, layers_pool(board)
        self.foes = foes_of(board, side)
        self._askers = [_asker(board, copy, foe) for foe in self.foes]

    def __getstate__(self) -> tuple[Board, str]:
        return self._copy, self._side

    def __setstate__(self, state: tuple[Board, str]) -> None:
        copy, side = state
        Exposure.__init__(self, copy, copy, side)

    def of(self, parts: Parts) -> NDArray[np.bool_]:
        """Which foes could attack each unit on each of its cells: ``(cells of all, foes)``.

        Equal to `threats` after the unit was put there: it is in the way where it stands then, and
        not where it stood.
        """
        among = _Among(self._copy, parts)
        found = np.zeros((len(among.cells), len(self.foes)), dtype=bool)
        every = list(range(len(self.foes)))
        quick = [place for place in every if self._askers[place] is not None] if parts else []
        slow = [place for place in every if self._askers[place] is None]
        for start in range(0, len(quick), MOST_AT_ONCE):
            slow += self._fill(among, quick[start : start + MOST_AT_ONCE], found)
        searches: _Searches | None = None
        for (unit, numbers), (start, end) in zip(parts, pairwise(among.bounds), strict=True):
            # the kernel takes it that a unit stands on one cell
            columns = slow if len(unit.movement.footprint) == 1 else every
            if columns:
                # units are moved on it, while others may ask the board
                searches = searches or _Searches(self._copy.copy(), self.foes)
                found[start:end, columns] = searches.of(unit, numbers, columns)
        return found

    def _fill(self, among: _Among, places: list[int], found: NDArray[np.bool_]) -> list[int]:
        """Fill in what some foes could attack, all in one go; those whose attacks take more."""
        # one for each, as the kernel takes no other while the lock is released
        workspaces = [self._pool.lease() for _ in places]
        turns = among.next_turns()
        for place, workspace in zip(places, workspaces, strict=True):
            foe = self.foes[place]
            own = self._copy.grid.numbering.number(foe.at)
            heeds = movement_of(foe).zones != "ignore"
            turns.add(
                self._askers[place], own, workspace, among.layer(foe.layer, heeds),
                among.homes(heeds),
            )  # fmt: skip
        rows: list[tuple[memoryview[Any], ...] | None] = []
        widest = turns.widest()
        for place, data in zip(places, widest, strict=True):
            stands = np.frombuffer(data or b"", dtype=np.int64)
            known = None if data is None else rows_struck(self._copy, self.foes[place], stands)
            rows.append(None if known is None else tuple(map(view, (stands, *known))))
        out = np.zeros((len(places), len(among.cells)), dtype=np.uint8)
        turns.judge(
            view(among.bounds), view(among.cells), among.zone(), rows, among.room(),
            list(map(view, out)),
        )  # fmt: skip
        found[:, places] = out.T
        for workspace, data in zip(workspaces, widest, strict=True):
            if data is not None:
                self._pool.give_back(workspace)
        return [place for place, known in zip(places, rows, strict=True) if known is None]


def _asker(board: Board, copy: Board, foe: Unit) -> Any:
    """What can tell in one go what a foe could attack; None: its rules take more."""
    rules = movement_of(foe)
    # others heed who stands at corners, or take more than a cell
    if rules.foe_corners or rules.footprint != ONE:
        return None
    asker = kept(board).asker(board.unit(foe.name), 1)
    if asker is not None and not asker.lasting and board is not copy:
        asker = kept(copy).asker(copy.unit(foe.name), 1)
    return asker


class _Among:
    """Units that could stand elsewhere, and their cells, as the kernel takes them."""

    def __init__(self, board: Board, parts: Parts) -> None:
        self._board, self._units = board, [unit for unit, _ in parts]
        every = [numbers for _, numbers in parts]
        #: The cells of all units, by number, and where those of each begin and end.
        self.cells = np.concatenate([np.zeros(0, np.int32), *every]).astype(np.int32)
        self.bounds = np.cumsum([0, *map(len, every)]).astype(np.int32)
        self._homes = np.array(
            [board.grid.numbering.number(unit.at) for unit in self._units], np.int32
        )
        self._guards = np.array(list(map(guards, self._units)), bool)
        self._layers: dict[tuple[str, bool], Views] = {}
        self._around: dict[bool, Views] = {}

    def next_turns(self) -> Any:
        """What finds out what foes can do while one of the units stands elsewhere."""
        return loader.asker.NextTurns(view(self._homes))

    def zone(self) -> memoryview[Any]:
        """The cells that units would hold from each of theirs; empty where no foe heeds them."""
        if True not in self._around:
            return view(NO_CELLS)
        return view(self._held(self.cells, np.repeat(self._guards, np.diff(self.bounds))).ravel())

    def homes(self, heeded: bool) -> Views:
        """For every unit the cells from which a foe would get somewhere were it gone, and its zone.

        ``heeded``: the cells that it holds count for the foe.
        """
        if heeded not in self._around:
            grid = self._board.grid
            # who gets beside a unit would get onto its cell
            near = grid.lattice.around(grid.numbering.cells_of(self._homes))
            zone = NO_CELLS
            if heeded:  # or beside that onto a cell that it held
                farther = grid.lattice.around(near.reshape(-1, 2)).reshape(len(near), -1, 2)
                near = np.concatenate([near, farther], axis=1)
                zone = self._held(self._homes, self._guards)
            beside = np.where(grid.numbering.holds(near), grid.numbering.numbers(near), -1)
            self._around[heeded] = view(beside.astype(np.int32).ravel()), view(zone.ravel())
        return self._around[heeded]

    def _held(self, numbers: NDArray[np.int32], guarding: NDArray[np.bool_]) -> NDArray[np.int32]:
        """What is held from each of some cells, if a unit there guards it: ``(n, directions)``."""
        rows = zones(self._board, self._units[0].layer).rows(numbers)  # the same in all layers
        return np.where(guarding[:, None], rows, -1).astype(np.int32)

    def room(self) -> Views:
        """What it keeps for every cell, for each of the units' cells, and for each unit."""
        every = self._board.grid.cols * self._board.grid.rows
        places, closed, rows = (blank(every, "i") for _ in "123")
        soonest, entered = np.empty((2, len(self.cells)), np.int64)
        near = np.empty(len(self._units), np.int32)
        return tuple(map(view, (places, closed, rows, soonest, entered, near)))

    def layer(self, name: str, heeded: bool) -> Views:
        """Who stands where in a layer and, if heeded, how many hold each cell, both copies.

        And the code of each unit; 0: it does not come and go, as it is large or in another layer.
        """
        if (name, heeded) not in self._layers:
            roster = self._board._roster
            codes = [
                roster.code(unit.side) * (unit.layer == name and unit.movement.footprint == ONE)
                for unit in self._units
            ]
            held = NO_HELD
            if heeded:
                held = zones(self._board, name).counts(self._units[0].side)[0].copy()
            each = roster.codes(name).copy(), held, np.array(codes, np.int32)
            self._layers[name, heeded] = tuple(map(view, each))
        return self._layers[name, heeded]


class _Next(NamedTuple):
    """What a foe can do in its next turn: cells by number, in order, each with a rank.

    Ways lead only over cells with lower ranks than their ends.

    Attributes
    ----------
    struck
        The cells that it can affect, with the rank of the first stand for that.
    entered
        The cells that it can enter, with their ranks.
    """

    struck: tuple[IntArray, IntArray]
    entered: tuple[IntArray, IntArray]


class _Searches:
    """The same for all rules; ``board`` is a copy that nobody else asks."""

    def __init__(self, board: Board, foes: list[Unit]) -> None:
        self._board, self._foes = board, foes
        self._known: dict[int, _Next] = {}

    def _now(self, place: int) -> _Next:
        """What a foe can do as units stand now."""
        if place not in self._known:
            self._known[place] = self._next(self._foes[place])
        return self._known[place]

    def _next(self, foe: Unit) -> _Next:
        where = next_turn(self._board, foe)
        attacks = attacks_of(self._board, foe, None, where)
        return _Next(attacks._soonest(where._ranks), where._arrivals)

    def of(self, unit: Unit, numbers: IntArray, places: list[int]) -> NDArray[np.bool_]:
        """Which of some foes could attack a unit on each of some cells: ``(cells, foes)``.

        On a cell it can only take ways from a foe, none of which is shorter than the shortest to a
        place where it makes a difference. Where a stand that can be got to sooner does, nothing has
        to be searched again.
        """
        found = np.zeros((len(numbers), len(places)), dtype=bool)
        if not len(numbers):
            return found
        grid, open_ = self._board.grid, np.zeros(found.shape, dtype=bool)
        taken = feet(grid, numbers, unit.movement.footprint)
        foes = [self._foes[place] for place in places]
        now = list(map(self._now, places))  # before the unit is gone
        home = np.array([self._board.grid.numbering.number(unit.at)])
        known: dict[tuple[StepTable, bool], tuple[IntArray, IntArray]] = {}
        with self._board.trial():
            self._board.remove(unit.name)
            for column, (foe, can) in enumerate(zip(foes, now, strict=True)):
                rules = movement_of(foe)
                wide = rules.zones != "ignore" or rules.foe_corners
                key = mover_of(self._board, foe).table, wide
                if key not in known:
                    offsets = self._differing(unit, foe, wide)
                    near = self._before(key[0], feet(grid, home, offsets).ravel())
                    known[key] = feet(grid, numbers, offsets), near[None]
                changed, near = known[key]
                # the unit's absence opens ways only onto cells where it stood, or beside that
                if _least(*can.entered, near)[0] < NEVER:
                    can = self._next(foe)
                soonest, different = _least(*can.struck, taken), _least(*can.entered, changed)
                # no route to such a stand passes a cell where the unit makes a difference
                found[:, column] = soonest < different
                open_[:, column] = (soonest < NEVER) & ~found[:, column]
        # the few cells where this does not decide are searched with the unit in place
        for row in np.flatnonzero(open_.any(axis=1)).tolist():
            with self._board.trial():
                self._board.put(unit.name, at=self._board.grid.numbering.cell_of(int(numbers[row])))
                for column in np.flatnonzero(open_[row]).tolist():
                    struck = self._next(foes[column]).struck
                    found[row, column] = _least(*struck, taken[row : row + 1])[0] < NEVER
        return found

    def _before(self, table: StepTable, cells: IntArray) -> IntArray:
        """Some cells, by number, and those from which a step, link or leap could lead onto one."""
        neighbors, links = self._board.grid.numbering.neighbors, table.links.ends()
        found = [links[np.isin(links[:, 1], cells), 0], cells[cells >= 0]]
        for _ in range(max(1, table.leap_length)):
            beside = np.unique(neighbors[found[-1]])
            found.append(beside[beside >= 0])
        return np.concatenate(found)

    def _differing(self, unit: Unit, foe: Unit, wide: bool) -> IntArray:
        """Where, seen from a cell that a unit stands on, a foe cannot stand, or not as before.

        ``wide``: what is next to the unit counts for the foe.
        """
        steps = np.zeros((1, 2), dtype=np.int64)
        if wide:
            steps = np.concatenate([steps, self._board.grid.lattice.vectors])
        own, other = (np.array(each.movement.footprint) for each in (unit, foe))
        offsets = own[:, None, None] + steps[:, None] - other
        return np.unique(offsets.reshape(-1, 2), axis=0)


def _least(known: IntArray, keys: IntArray, asked: IntArray) -> IntArray:
    """The least rank of each row of cells; ``known`` cells are in order and each has a rank."""
    if not len(known):
        return np.full(len(asked), NEVER)
    places, there = places_of(known, asked)
    least: IntArray = np.where(there, keys[places], NEVER).min(axis=1)
    return least
