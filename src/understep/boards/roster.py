"""The roster of a board: its units and where they stand."""

from __future__ import annotations

import itertools
from typing import Any, NamedTuple, Self, cast

from understep.boards.edges import Edges
from understep.boards.store import ABSENT, Absent, Layer, Table
from understep.boards.unit import Unit
from understep.errors import InputError, NameUnknownError, OccupiedError
from understep.grids.cell import Cell, CellLike, IntArray
from understep.grids.grid import Grid

MOST_SIDES = 254


class Listed(NamedTuple):
    """A unit and its place in the order of adding."""

    serial: int
    unit: Unit


class Roster(Table[str, Listed]):
    """Units by name; keeps who stands where in step with them."""

    def __init__(
        self,
        grid: Grid,
        sides: Table[str, int],
        who: Layer,
        values: dict[str, Listed],
        standing: dict[Cell, str],
    ) -> None:
        super().__init__(values)
        self._grid, self._sides = grid, sides
        #: The side code of the unit on each cell; 0: nobody.
        self.who = who
        #: The unit on each cell that has one.
        self.standing = standing
        self._ordered: tuple[Unit, ...] | None = None

    def put(self, key: str, value: Listed | Absent) -> None:
        """Set a unit down, somewhere else, or take it off the board."""
        old = self.values.get(key)
        if old is not None:
            cell = cast(Cell, old.unit.at)
            del self.standing[cell]
            self.who.put(self._grid.number(cell), 0)
        super().put(key, value)
        if not isinstance(value, Absent):
            cell = cast(Cell, value.unit.at)
            self.standing[cell] = key
            self.who.put(self._grid.number(cell), self._sides.values[value.unit.side])
        self._ordered = None

    def where(self, _key: str, old: Listed | Absent, new: Listed | Absent) -> Any:
        """The cells a unit left and entered."""
        listed = [each for each in (old, new) if not isinstance(each, Absent)]
        return [self._grid.number(cast(Cell, each.unit.at)) for each in listed]

    def in_order(self) -> tuple[Unit, ...]:
        """All units, in the order they were added."""
        if self._ordered is None:
            ordered = sorted(self.values.values(), key=lambda listed: listed.serial)
            self._ordered = tuple(listed.unit for listed in ordered)
        return self._ordered

    def shared(self, sides: Table[str, int]) -> Self:
        """A roster with the same contents."""
        copied = self.values.copy(), self.standing.copy()
        return type(self)(self._grid, sides, self.who.share(), *copied)


class Units(Edges):
    """The units of a board."""

    _sides: Table[str, int]
    _roster: Roster
    _serials: itertools.count[int]

    def _allow(self, name: str, numbers: IntArray) -> None:
        for number in numbers[self._roster.who.array[numbers] > 0].tolist():
            unit = self._roster.values[self._roster.standing[self.grid.cell_of(number)]].unit
            if unit.movement.cost_on(name, self.terrains[name]) is None:
                at = tuple(unit.at or ())
                rule = f"unit {unit.name!r} stands at {at} and cannot stand on {name!r}"
                raise OccupiedError("cells", rule, at)

    def add(self, unit: Unit, at: CellLike) -> Unit:
        """Set a new unit down, and return it as it stands there.

        Raises
        ------
        InputError
            ``unit`` is no unit, its name is taken, its facing is no direction of the grid, or it
            cannot stand on that terrain.
        CellError
            ``at`` is no cell, or off the board.
        OccupiedError
            Another unit stands there.
        """
        if not isinstance(unit, Unit):
            raise InputError("unit", "must be a Unit", unit)
        if unit.name in self._roster.values:
            raise InputError("unit", "its name is taken on this board", unit.name)
        if unit.facing is not None:
            self.grid.way(unit.facing, "unit.facing")
        if unit.side not in self._sides.values and len(self._sides.values) >= MOST_SIDES:
            raise InputError("unit", f"a board has at most {MOST_SIDES} sides", unit.side)
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
            Another unit stands there.
        InputError
            It cannot stand on that terrain.
        """
        return self._set_down(self.unit(name), at, self._roster.values[name].serial)

    def _set_down(self, unit: Unit, at: CellLike, serial: int) -> Unit:
        cell = self.grid.require(at, "at")
        other = self._roster.standing.get(cell)
        if other is not None and other != unit.name:
            raise OccupiedError("at", f"unit {other!r} stands there", tuple(cell))
        ground = self.terrain(cell)
        if unit.movement.cost_on(ground, self.terrains[ground]) is None:
            raise InputError("at", f"unit {unit.name!r} cannot stand on {ground!r}", tuple(cell))
        placed = unit.placed(cell)
        if unit.side in self._sides.values:
            self._journal.write(self._roster, unit.name, Listed(serial, placed))
            return placed
        with self._journal.span(keeps=True):
            self._journal.write(self._sides, unit.side, len(self._sides.values) + 1)
            self._journal.write(self._roster, unit.name, Listed(serial, placed))
        return placed

    def remove(self, name: str) -> Unit:
        """Take a unit off the board, and return it.

        Raises
        ------
        NameUnknownError
            No such unit.
        """
        unit = self.unit(name)
        self._journal.write(self._roster, name, ABSENT)
        return unit.placed(None)

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

    def unit_at(self, cell: CellLike) -> Unit | None:
        """The unit that stands on a cell, or None.

        Raises
        ------
        CellError
            ``cell`` is none, or off the board.
        """
        name = self._roster.standing.get(self.grid.require(cell))
        return None if name is None else self._roster.values[name].unit

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
        if side not in self._sides.values:
            raise NameUnknownError("side", "side", side, self._sides.values)
        return tuple(unit for unit in every if unit.side == side)

    def vacant(self, cell: CellLike) -> bool:
        """Whether no unit stands on a cell.

        Raises
        ------
        CellError
            ``cell`` is none, or off the board.
        """
        return self.grid.require(cell) not in self._roster.standing

    @property
    def sides(self) -> tuple[str, ...]:
        """The sides that have or had a unit here."""
        return tuple(self._sides.values)
