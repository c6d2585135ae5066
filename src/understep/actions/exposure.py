"""Exposure: which foes could attack a unit on each of many cells, itself out of their way there."""

from __future__ import annotations

from functools import cached_property
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from understep.actions.attacks import attacks_of
from understep.boards.board import Board
from understep.boards.footprint import feet
from understep.boards.unit import Unit
from understep.grids.cell import IntArray
from understep.moves.answer import movement_of
from understep.moves.reach import Reach, reach
from understep.rules.movement import Movement

NEVER = 1 << 62  # the key of what is never got to


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


class _Next(NamedTuple):
    """What a foe can do in its next turn: cells by number, in order, each with a key.

    Attributes
    ----------
    struck
        The cells that it can affect, and how soon it gets to a stand for that.
    entered
        The cells that it can enter, and how soon.
    """

    struck: tuple[IntArray, IntArray]
    entered: tuple[IntArray, IntArray]


class Exposure:
    """The foes of a side, and what they could do to its units elsewhere.

    ``board`` is a copy that nobody else asks.
    """

    def __init__(self, board: Board, side: str) -> None:
        self._board, self.foes = board, foes_of(board, side)

    @cached_property
    def _now(self) -> list[_Next]:
        """What each foe can do as units stand now."""
        return [self._next(foe) for foe in self.foes]

    def _next(self, foe: Unit) -> _Next:
        where = next_turn(self._board, foe)
        attacks = attacks_of(self._board, foe, None, where)
        return _Next(attacks._soonest(where._keys), where._arrivals)

    def of(self, unit: Unit, numbers: IntArray) -> NDArray[np.bool_]:
        """Which foes could attack a unit on each of some cells: ``(cells, foes)``.

        Equal to `threats` after the unit was put there: it is in the way where it stands then, and
        not where it stood. On a cell it can only take ways from a foe, none of which is shorter
        than the shortest to a place where it makes a difference. Where a stand that can be got to
        sooner does, nothing has to be searched again.
        """
        found = np.zeros((len(numbers), len(self.foes)), dtype=bool)
        if not len(numbers) or not self.foes:
            return found
        grid, open_ = self._board.grid, np.zeros(found.shape, dtype=bool)
        taken = feet(grid, numbers, unit.movement.footprint)
        now = self._now  # before the unit is gone
        home = np.array([self._board.grid.numbering.number(unit.at)])
        known: dict[tuple[object, ...], tuple[IntArray, IntArray]] = {}
        with self._board.trial():
            self._board.remove(unit.name)
            for column, (foe, can) in enumerate(zip(self.foes, now, strict=True)):
                rules = movement_of(foe)
                wide = rules.zones != "ignore" or rules.foe_corners
                key = rules.footprint, wide
                if key not in known:
                    offsets = self._differing(unit, foe, wide)
                    around = feet(grid, home, offsets)
                    beside = self._board.grid.numbering.neighbors[around[around >= 0]]
                    changes = feet(grid, numbers, offsets)
                    known[key] = changes, np.concatenate([around.ravel(), beside.ravel()])[None]
                changed, near = known[key]
                # the unit's absence opens cells only where it stood, or beside that
                if self._jumps(rules) or _least(*can.entered, near)[0] < NEVER:
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
                    struck = self._next(self.foes[column]).struck
                    found[row, column] = _least(*struck, taken[row : row + 1])[0] < NEVER
        return found

    def _jumps(self, rules: Movement) -> bool:
        """Whether a step can lead to a cell that is not a neighbor."""
        return rules.leap is not None or bool(self._board._contents.links.values)

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
    """The least key of each row of cells; ``known`` cells are in order and each has a key."""
    if not len(known):
        return np.full(len(asked), NEVER)
    places = np.minimum(known.searchsorted(asked), len(known) - 1)
    least: IntArray = np.where(known[places] == asked, keys[places], NEVER).min(axis=1)
    return least
