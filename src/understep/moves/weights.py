"""What is in the way on cells and at edges, as numbers: what a way's things weigh.

A cell weighs how many things would have to go for it to be open; an edge 1 if it blocks.
"""

from __future__ import annotations

from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from understep.boards.board import Board
from understep.boards.contents import OPEN
from understep.boards.unit import Unit
from understep.grids.cell import IntArray
from understep.rules.movement import Movement
from understep.rules.slopes import Slopes

NEVER = 1 << 20  # the weight of what nothing helps against
MOST_PRICE = 1 << 9


class Weights:
    """What cells and edges weigh for a unit, some rules of its movement lifted."""

    def __init__(
        self, board: Board, unit: Unit, movement: Movement, rules: frozenset[str], friends: bool
    ) -> None:
        """``friends``: units that it may pass are in its way, too."""
        self.board, self.unit, self.movement, self.rules = board, unit, movement, rules
        self.friends, self._grid = friends, board.grid
        #: By cell: how many things apart from units; the price of a cell; with units.
        self.ground, self.price = self._land()
        self.lying = self.ground + self._manned()
        #: By cell and direction: 1 where an edge blocks; where it is not a door.
        self.walls, self.solid = self._fences()

    @property
    def open_to(self) -> str:
        """The cheapest terrain that is open to the unit; empty: none is."""
        return next(iter(self.openings), "")

    @property
    def openings(self) -> list[str]:
        """The terrains that are open to the unit, the cheapest first."""
        costs = {
            name: self.movement._cost_on(name, kind)
            for name, kind in self.board.terrains.items()
            if self.unit.side not in kind.closed_to
        }
        known = {name: cost for name, cost in costs.items() if cost is not None}
        return sorted(known, key=lambda name: known[name])

    def _land(self) -> tuple[IntArray, IntArray]:
        """By cell how many things would have to go for it to be open, units apart; its price."""
        board, contents, side = self.board, self.board._contents, self.unit.side
        cheapest = self.open_to
        costs = [
            None if side in kind.closed_to else self.movement._cost_on(name, kind)
            for name, kind in board.terrains.items()
        ]
        # what is cleared is turned into the ground that suits the unit best
        least = None if not cheapest else costs[list(board.terrains).index(cheapest)]
        shut = np.array([cost is None for cost in costs])
        price = np.array([float(least or 0 if cost is None else cost) for cost in costs])
        codes = contents.terrain.array
        closed, prices = shut[codes], price[codes]
        # what is closed to a side stays so under a bridge
        barred = np.array([side in kind.closed_to for kind in board.terrains.values()])[codes]
        weight = np.zeros(len(codes), dtype=np.int64)
        for name, counts in contents.features.items():
            blocks, instead, add = self.movement._over(name, contents.declared.features[name])
            lies = counts > 0
            # each feature is a thing of its own to be taken away
            if blocks:
                weight += counts
            if instead is not None:
                cheaper = lies & ((closed & ~barred) | (prices > float(instead)))
                prices = np.where(cheaper, float(instead), prices)
                closed = closed & ~(lies & ~barred)
            prices = prices + lies * float(add)
        for each in (contents.blocks(None), contents.blocks(side)):
            weight += each if len(each) else 0
        weight += closed * (1 if cheapest else NEVER)
        if len(contents.unseen):
            unseen = contents.unseen > 0
            known = "unknown" in self.rules and cheapest
            weight = np.where(unseen, 0 if known else NEVER, weight)
            prices = np.where(unseen, float(least or 0), prices)
        # no remedy makes a hole into a cell
        weight[~self._grid.exists.ravel()] = NEVER
        if self.movement.rule is not None:
            weight = weight + NEVER * self._ruled_out(closed)
        return weight, np.clip(np.round(prices * 8), 1, MOST_PRICE).astype(np.int32)

    def _ruled_out(self, closed: NDArray[np.bool_]) -> NDArray[np.bool_]:
        """The cells that the movement's own rule forbids, once they are open otherwise."""
        board, contents = self.board, self.board._contents
        found = np.zeros(len(closed), dtype=bool)
        names, known = contents.terrain_names, {}
        cheapest = names.index(self.open_to) if self.open_to else 0
        layers = contents.properties
        for number in self._grid.numbering.existing.tolist():
            code = cheapest if closed[number] else int(contents.terrain.array[number])
            laid = [
                each for each in contents.laid(number) if not self.movement._over(*each)[0]
            ]  # fmt: skip
            level = float(contents.elevation.array[number])
            values = {name: layer[[number]].tolist()[0] for name, layer in layers.items()}
            # a rule is asked once for cells that are alike: it may be slow
            site = code, tuple(name for name, _ in laid), level, tuple(values.values())
            if site not in known:
                cost = board._units.cost_of(
                    self.movement, self.unit.side, code, laid, level, values
                )
                known[site] = cost is None
            found[number] = known[site]
        return found

    def _manned(self) -> IntArray:
        """1 for each cell on which a unit is in the way."""
        found = np.zeros(self._grid.cols * self._grid.rows, dtype=np.int64)
        for other in self._others():
            own = other.side == self.unit.side
            if self.friends or not self.movement._may_pass(own):
                for cell in self.board.covered(other):
                    found[self._grid.numbering.number(cell)] = 1
        return found

    def _others(self) -> list[Unit]:
        """The other units of its layer."""
        every = self.board.units()
        return [each for each in every if each.layer == self.unit.layer and
                each.name != self.unit.name]  # fmt: skip

    def _fences(self) -> tuple[NDArray[np.int32], NDArray[np.int32]]:
        """1 for each cell and direction that an edge blocks; where it is not a door."""
        kinds = self.board.edge_kinds
        blocks = np.zeros(256, dtype=np.int32)
        for code, (name, kind) in enumerate(kinds.items(), 1):
            blocks[code] = self.movement._across(name, kind)[0]
        # codes from here on are of doors that are open
        blocks[OPEN:] = 0
        codes = self.board._contents.edges.array.reshape(self._grid.cols * self._grid.rows, -1)
        # most boards have no edge that blocks
        if not blocks[: codes.max(initial=0) + 1].any():
            none = np.zeros(codes.shape, dtype=np.int32)
            return none, none
        doors = np.zeros(256, dtype=bool)
        doors[1 : len(kinds) + 1] = [kind.door for kind in kinds.values()]
        found: NDArray[np.int32] = blocks[codes]
        # of as few things doors are taken first
        return found, found * ~doors[codes]

    @cached_property
    def foes(self) -> IntArray:
        """1 for each cell where a foe stands."""
        found = np.zeros(self._grid.cols * self._grid.rows, dtype=np.int64)
        for other in self._others():
            if other.side != self.unit.side:
                for cell in self.board.covered(other):
                    found[self._grid.numbering.number(cell)] = 1
        return found


def heeded(board: Board, movement: Movement) -> list[str]:
    """The rules of a movement that can forbid a step on a board."""
    found = []
    if len(Slopes(board, movement).layer()) and (movement.climb, movement.drop) != (None, None):
        found.append("slope")
    diagonal = board.grid.kind == "square" and len(board.grid.directions) == 8
    if diagonal and movement.corners != "free":
        found.append("corner")
    if len(movement.footprint) > 1:
        found.append("size")
    if movement.rule is not None:
        found.append("rule")
    if len(board._contents.unseen) and board._contents.unseen.any():
        found.append("unknown")
    return found
