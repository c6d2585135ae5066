"""What is met along a way: the things on it that would have to go, in their order."""

from __future__ import annotations

from itertools import pairwise

from understep.boards.unit import Unit
from understep.grids.cell import Cell
from understep.moves.obstacle import Obstacle, inside, wall
from understep.moves.relief import Relief
from understep.moves.weights import NEVER


class Met:
    """The things that are in the way of a unit, where some rules are lifted."""

    def __init__(self, relief: Relief) -> None:
        self.board, self.unit, self.movement = relief.board, relief.unit, relief.movement
        self._relief, self._grid = relief, relief.board.grid

    def along(self, way: list[Cell]) -> list[Obstacle]:
        """The things that are in the way along some anchors, in the order met, each once."""
        found: dict[Obstacle, None] = {}
        body = self.unit.changed(movement=self.movement)
        for a, b in pairwise(way):
            weight, stepped = self._relief.taken(a, b)
            # nothing is in the way of this step
            if not weight:
                continue
            there = self.board.covered(body, b)
            fresh = set(there) - set(self.board.covered(body, a))
            pairs = zip(self.board.covered(body, a), there, strict=True)
            for one, other in pairs if stepped else ():
                if other in fresh and (edge := wall(self.board, self.movement, one, other)):
                    found.setdefault(edge)
                for thing in self._beside(one, other):
                    found.setdefault(thing)
            for cell in there:
                for thing in self.things(cell) if cell in fresh or not stepped else ():
                    found.setdefault(thing)
            for thing in inside(self.board, self.movement, there):
                found.setdefault(thing)
        # friends may be passed, and not stopped on
        for cell in self.board.covered(body, way[-1]) if len(way) > 1 else ():
            standing = self.board.unit_at(cell, layer=self.unit.layer)
            if standing is not None and standing.name != self.unit.name:
                found.setdefault(self._standing(standing))
        return list(found)

    def _beside(self, a: Cell, b: Cell) -> list[Obstacle]:
        """What is in the way of a diagonal step at its corners: the fewest things."""
        grid = self._grid
        if grid.kind != "square" or 0 in (a.col - b.col, a.row - b.row):
            return []
        ways = []
        for side in (Cell(a.col, b.row), Cell(b.col, a.row)):
            if side not in grid or (
                self.movement.corners != "free"
                and self._relief.weights.ground[grid.numbering.number(side)] >= NEVER
            ):
                continue
            walls = [wall(self.board, self.movement, *pair) for pair in ((a, side), (side, b))]
            found = [each for each in walls if each is not None]
            if self.movement.corners != "free":
                found += self._on(side)
            other = self.board.unit_at(side, layer=self.unit.layer)
            heeds = self.movement.foe_corners and self.movement.corners != "free"
            if heeds and other is not None and other.side != self.unit.side:
                found.append(self._standing(other))
            ways.append(found)
        if self.movement.corners == "both":
            return [each for way in ways for each in way]
        return min(ways, key=len) if ways else []

    def things(self, cell: Cell) -> list[Obstacle]:
        """What would have to go for a unit to enter a cell."""
        found = self._on(cell)
        other = self.board.unit_at(cell, layer=self.unit.layer)
        if other is not None and other.name != self.unit.name:
            own = other.side == self.unit.side
            if self._relief.weights.friends or not self.movement._may_pass(own):
                found.append(self._standing(other))
        return found

    def _standing(self, other: Unit) -> Obstacle:
        text = f"{other.name!r} of the {other.side} stands on {tuple(other.at)}"
        return Obstacle("unit", text, other.at, (other.name,))

    def _on(self, cell: Cell) -> list[Obstacle]:
        """The things on a cell that close it, units apart."""
        board, contents, side = self.board, self.board._contents, self.unit.side
        number, spot = self._grid.numbering.number(cell), tuple(cell)
        # what a side does not know must not be told
        if not contents.knows(number):
            return []
        found = []
        for name, kind in contents.laid(number):
            if self.movement._over(name, kind)[0]:
                text = f"{name!r} at {spot} is in the way"
                many = int(contents.features[name][number])
                found += [
                    Obstacle("feature", f"{text}{_nth(n)}", cell, (name,)) for n in range(many)
                ]
        for who in (None, side):
            counts = contents.blocks(who)
            text = f"{spot} is " + ("blocked" if who is None else f"closed to the {who}")
            many = int(counts[number]) if len(counts) else 0
            found += [
                Obstacle("block", f"{text}{_nth(n)}", cell, (who or "",)) for n in range(many)
            ]
        name = board.terrain(cell)
        ground = board.terrains[name]
        if side in ground.closed_to:
            found.append(
                Obstacle("terrain", f"{name!r} at {spot} is closed to the {side}", cell, (name,))
            )
        elif self.movement._cost_on(name, ground) is None and not self._bridged(number):
            text = f"{name!r} at {spot} is impassable for {self.unit.name!r}"
            found.append(Obstacle("terrain", text, cell, (name,)))
        return found

    def _bridged(self, number: int) -> bool:
        """Whether a feature on a cell costs instead of its terrain."""
        laid = self.board._contents.laid(number)
        return any(self.movement._over(*each)[1] is not None for each in laid)


def _nth(number: int) -> str:
    # several blocks on a cell have to be cleared one by one
    return "" if number == 0 else f", {number + 1} times"
