"""The units of a board: where each may stand, setting them down, asking for them."""

from __future__ import annotations

import itertools
from fractions import Fraction
from typing import Any

import numpy as np
from numpy.typing import NDArray

from understep.boards.blocks import Blocks
from understep.boards.cost import Cost, exact
from understep.boards.edges import OPEN
from understep.boards.footprint import ONE
from understep.boards.names import meet
from understep.boards.roster import GROUND, Listed, Roster
from understep.boards.site import Site
from understep.boards.store import ABSENT, Store, Table
from understep.boards.unit import Mover, Unit
from understep.errors import InputError, NameUnknownError, OccupiedError, expect, named, text
from understep.grids.cell import Cell, CellLike, IntArray

MOST_SIDES = 254


class Units(Blocks):
    """The units of a board."""

    _sides: Table[str, int]
    _roster: Roster
    _serials: itertools.count[int]

    # where a unit may stand

    def covered(self, unit: Unit, at: CellLike | None = None) -> tuple[Cell, ...]:
        """The cells a unit takes up, on a cell or where it stands; the anchor first.

        Some may be off the board.

        Raises
        ------
        CellError
            ``at`` is no cell, or off the board.
        """
        expect("unit", unit, Unit, "must be a Unit")
        cell = unit.at if at is None else self.grid.require(at, "at")
        if cell is None:
            return ()
        if unit.movement.footprint == ONE:
            return (cell,)
        return self.grid.covered(unit.movement.footprint, cell)

    def price(self, movement: Mover, side: str, cell: Cell) -> Fraction | None:
        """Points to enter a cell by a straight step over no edge; None where it never can.

        The one place where that is decided for a single cell; step tables hold the same for all.
        """
        number = self.grid.number(cell)
        if self._bars and self._barred(number, side):
            return None
        name = self._names[int(self._ground.array[number])]
        kind = self.terrains[name]
        if side in kind.closed_to:
            return None
        if movement.rule is None:
            return movement.cost_on(name, kind)
        values = {key: layer.array[[number]].tolist()[0] for key, layer in self._values.items()}
        return self.ruled(movement, name, float(self._levels.array[number]), values)

    def ruled(
        self, movement: Mover, name: str, level: float, values: dict[str, Any]
    ) -> Fraction | None:
        """What a movement's rule says of a cell with these facts."""
        kind = self.terrains[name]
        hazard: Any = kind.hazard
        site = Site(name, movement.cost_on(name, kind), hazard, level, values)
        cost = movement.rule(site) if movement.rule else site.cost
        return None if cost is None else exact(cost, "rule", repr(name))

    def hindrance(self, unit: Unit, at: Cell) -> str:
        """Why the ground or a wall would not let a unit stand somewhere; empty if they would."""
        cells = self.covered(unit, at)
        for cell in cells:
            if not self.grid.has(*cell):
                return f"{unit.name!r} would stand on {tuple(cell)}, which is off the board"
            if self.price(unit.movement, unit.side, cell) is None:
                return self._closed_by(unit, cell)
        for a in cells if len(cells) > 1 else ():
            for way, b in enumerate(self.grid.covered(self.grid.vectors.tolist(), a)):
                if b in cells:
                    key = self.grid.number(a) * len(self.grid.directions) + way
                    code = int(self._edges.array[key])
                    name = self._edge_names[code - 1] if 0 < code < OPEN else ""
                    if name and unit.movement.across(name, self.edge_kinds[name])[0]:
                        pair = f"{tuple(a)} and {tuple(b)}"
                        return f"{unit.name!r} would stand across a {name!r} between {pair}"
        return ""

    def _closed_by(self, unit: Unit, cell: Cell) -> str:
        number = self.grid.number(cell)
        name = self._names[int(self._ground.array[number])]
        if self._barred(number, None):
            return f"{tuple(cell)} is blocked"
        if self._barred(number, unit.side):
            return f"{tuple(cell)} is closed to the {unit.side}"
        if unit.side in self.terrains[name].closed_to:
            return f"{name!r} at {tuple(cell)} is closed to the {unit.side}"
        return f"{name!r} at {tuple(cell)} is impassable for {unit.name!r}"

    def _change(self, store: Store, keys: Any, new: Any, numbers: IntArray) -> None:
        names = self._roster.on(numbers)
        if not names:
            self._journal.write(store, keys, new)
            return
        with self._journal.span(keeps=True):
            self._journal.write(store, keys, new)
            for name in names:
                unit = self._roster.values[name].unit
                at = unit.at or Cell(0, 0)
                why = self.hindrance(unit, at)
                if why:
                    rule = f"unit {name!r} stands there: {why}"
                    raise OccupiedError("cells", rule, tuple(at))

    # setting units down

    def add(self, unit: Unit, at: CellLike) -> Unit:
        """Set a new unit down, and return it as it stands there.

        Parameters
        ----------
        unit
            The unit.
        at
            The cell; of a unit that takes up several, the anchor.

        Raises
        ------
        InputError
            ``unit`` is no unit, its name is taken, its facing is no direction of the grid, or it
            cannot stand there: impassable, blocked, off the board, or across a wall.
        CellError
            ``at`` is no cell, or off the board.
        OccupiedError
            Another unit stands there, in the same layer.
        NameUnknownError
            Its movement uses a name that the board does not have, and the board is strict about
            names; else there may be a `NameWarning`.
        """
        if not isinstance(unit, Unit):
            raise InputError("unit", "must be a Unit", unit)
        if unit.name in self._roster.values:
            raise InputError("unit", "its name is taken on this board", unit.name)
        if unit.facing is not None:
            self.grid.way(unit.facing, "unit.facing")
        meet(self, unit.movement, unit.side)
        return self._set_down(unit, at, next(self._serials))

    def put(self, name: str, at: CellLike) -> Unit:
        """Set a unit down somewhere else, by no movement rule, and return it as it stands there.

        Raises
        ------
        NameUnknownError
            No such unit.
        CellError
            ``at`` is no cell, or off the board.
        OccupiedError
            Another unit stands there, in the same layer.
        InputError
            It cannot stand there, as for `add`.
        """
        return self._set_down(self.unit(name), at, self._roster.values[name].serial)

    def _set_down(self, unit: Unit, at: CellLike, serial: int) -> Unit:
        cell = self.grid.require(at, "at")
        cells = self.covered(unit, cell)
        names = self._roster.layer(unit.layer).names
        for each in cells:
            other = names.get(each)
            if other is not None and other != unit.name:
                who = f"unit {other!r}" if self._known_to(unit.side, other) else "a hidden unit"
                raise OccupiedError("at", f"{who} stands on {tuple(each)}", tuple(cell))
        why = self.hindrance(unit, cell)
        if why:
            raise InputError("at", why, tuple(cell))
        placed = unit.changed(at=cell)
        if unit.side in self._sides.values:
            self._journal.write(self._roster, unit.name, Listed(serial, placed, cells))
            return placed
        with self._journal.span(keeps=True):
            self.enlist(unit.side)
            self._journal.write(self._roster, unit.name, Listed(serial, placed, cells))
        return placed

    def _known_to(self, side: str, name: str) -> bool:
        """Whether a unit may be named to a side: all are, unless it keeps knowledge."""
        raise NotImplementedError

    def enlist(self, side: str) -> None:
        """Let a side take part, before it has a unit or without any.

        Raises
        ------
        InputError
            A side that is no text, or more sides than a board can have.
        """
        text("side", side)
        if side in self._sides.values:
            return
        if len(self._sides.values) >= MOST_SIDES:
            raise InputError("side", f"a board has at most {MOST_SIDES} sides", side)
        self._journal.write(self._sides, side, len(self._sides.values) + 1)

    def turn_to(self, name: str, facing: str | int | None) -> Unit:
        """Let a unit look in a direction, or in none, and return it as it is then.

        Raises
        ------
        NameUnknownError
            No such unit, or no such direction.
        """
        way = None if facing is None else self.grid.directions[self.grid.way(facing, "facing")]
        return self._alter(name, facing=way)

    def set_left(self, name: str, left: Cost | None) -> Unit:
        """Set the points a unit has left in this turn, None: all, and return it as it is then.

        Raises
        ------
        NameUnknownError
            No such unit.
        CostError
            Points that are negative or no number.
        """
        return self._alter(name, left=None if left is None else exact(left, "left"))

    def _alter(self, name: str, **facts: Any) -> Unit:
        altered = self.unit(name).changed(**facts)
        listed = self._roster.values[name]
        self._journal.write(self._roster, name, listed._replace(unit=altered))
        return altered

    def remove(self, name: str) -> Unit:
        """Take a unit off the board, and return it.

        Raises
        ------
        NameUnknownError
            No such unit.
        """
        unit = self.unit(name)
        self._journal.write(self._roster, name, ABSENT)
        return unit.changed(at=None)

    # asking for them

    def unit(self, name: str) -> Unit:
        """The unit of a name, as it is now.

        Raises
        ------
        NameUnknownError
            No such unit.
        """
        try:
            return self._roster.values[name].unit
        except (KeyError, TypeError):
            raise NameUnknownError("unit", "unit", name, self._roster.values) from None

    def unit_at(self, cell: CellLike, layer: str | None = None) -> Unit | None:
        """The unit that stands on a cell, or None.

        Parameters
        ----------
        cell
            The cell; any of those that a unit takes up finds it.
        layer
            The layer in which it stands; None: any, the ground first.

        Raises
        ------
        CellError
            ``cell`` is not a cell, or lies off the board.
        InputError
            ``layer`` is no text.
        """
        found = self.grid.require(cell)
        expect("layer", layer, (str, type(None)), "must name a layer, or be None")
        for each in self.unit_layers if layer is None else (layer,):
            standing = self._roster.standing.get(each)
            if standing is not None and found in standing.names:
                return self._roster.values[standing.names[found]].unit
        return None

    def units(self, side: str | None = None) -> tuple[Unit, ...]:
        """All units, or those of one side, in the order they were added.

        Raises
        ------
        NameUnknownError
            No unit of that side was ever added.
        """
        every = self._roster.in_order()
        if side is None:
            return every
        named("side", "side", side, self._sides.values)
        return tuple(unit for unit in every if unit.side == side)

    def vacant(self, cell: CellLike, layer: str | None = None) -> bool:
        """Whether no unit stands on a cell, in one layer or in any.

        Raises
        ------
        CellError
            ``cell`` is not a cell, or lies off the board.
        """
        return self.unit_at(cell, layer) is None

    def names_on(self, numbers: IntArray) -> list[str]:
        """The names of the units on some cells, by number, each once."""
        return self._roster.on(np.atleast_1d(numbers))

    @property
    def sides(self) -> tuple[str, ...]:
        """The sides that have or had a unit here."""
        return tuple(self._sides.values)

    @property
    def unit_layers(self) -> tuple[str, ...]:
        """The layers that have or had a unit here, "ground" first."""
        return GROUND, *(name for name in self._roster.standing if name != GROUND)

    def standing(self, layer: str) -> NDArray[np.uint8]:
        """The side code of the unit on every cell, by number, in one layer; 0: nobody.

        A view for the kernels; not to be written to, nor kept.
        """
        return self._roster.layer(layer).codes.array

    def side_code(self, side: str) -> int:
        """The code of a side in `standing`; 0 for one that never had a unit here."""
        return self._sides.values.get(side, 0)
