"""The roster of a board: its units by name, and who stands where."""

from __future__ import annotations

from dataclasses import fields
from typing import Any, NamedTuple, Self

import numpy as np
from numpy.typing import NDArray

from understep.boards.data import DataTable
from understep.boards.store import Absent, Layer, Table
from understep.boards.unit import Unit
from understep.grids.cell import Cell
from understep.grids.grid import Grid

GROUND = "ground"
FACTS = tuple(field.name for field in fields(Unit))


class Listed(NamedTuple):
    """A unit, its place in the order of adding, and the cells it takes up."""

    serial: int
    unit: Unit
    cells: tuple[Cell, ...]

    def stands_like(self, other: Listed) -> bool:
        """Whether another takes up the same cells, in the same layer and for the same side."""
        mine, theirs = self.unit, other.unit
        return (
            self.cells == other.cells
            and (mine.movement is theirs.movement or mine.layer == theirs.layer)
            and mine.side == theirs.side
        )

    def alike(self, other: Any) -> bool:
        """Whether another is the same unit in the same place, but for the game's own data."""
        if not isinstance(other, Listed) or self.cells != other.cells:
            return False
        return self.unit.changed(data=other.unit.data) == other.unit


class Standing(NamedTuple):
    """Who stands where, in one layer."""

    codes: Layer  # the side code of the unit on each cell, by number; 0: nobody
    names: dict[Cell, str]


class Roster(Table[str, Listed]):
    """Units by name; keeps who stands where in step with them."""

    def __init__(
        self,
        grid: Grid,
        sides: Table[str, int],
        values: dict[str, Listed],
        standing: dict[str, Standing],
    ) -> None:
        super().__init__(values)
        self._grid = grid
        #: The code of each side that takes part, from 1.
        self.sides = sides
        #: Who stands where, by layer.
        self.standing = standing
        self._ordered: tuple[Unit, ...] | None = None
        self._names: list[str] | None = None  # in the same order; it changes more seldom

    def layer(self, name: str) -> Standing:
        """Who stands where in a layer; nobody, in one that no unit was ever in."""
        try:
            return self.standing[name]
        except KeyError:
            # a byte a cell: searches read it, and boards with units alone in it are few
            codes = np.zeros(self._grid.cols * self._grid.rows, dtype=np.uint8)
            self.standing[name] = Standing(Layer(codes), {})
            return self.standing[name]

    def codes(self, layer: str) -> NDArray[np.uint8]:
        """The side code of the unit on every cell, by number, in one layer; 0: nobody. A view."""
        return self.layer(layer).codes.array

    def code(self, side: str) -> int:
        """The code of a side; 0 for one that does not take part."""
        return self.sides.values.get(side, 0)

    def put(self, key: str, value: Listed | Absent) -> None:
        """Set a unit down, somewhere else, or take it off the board."""
        old = self.values.get(key)
        self._ordered = None
        # who is there, and in which order, changes only then
        if old is None or isinstance(value, Absent) or old.serial != value.serial:
            self._names = None
        # a change of data or points leaves the layers alone
        if old is not None and not isinstance(value, Absent) and old.stands_like(value):
            super().put(key, value)
            return
        if old is not None:
            codes, names = self.layer(old.unit.layer)
            for cell in old.cells:
                del names[cell]
                codes.put(self._grid.numbering.number(cell), 0)
        super().put(key, value)
        if not isinstance(value, Absent):
            codes, names = self.layer(value.unit.layer)
            side = self.sides.values[value.unit.side]
            for cell in value.cells:
                names[cell] = key
                codes.put(self._grid.numbering.number(cell), side)

    def where(self, _key: str, old: Listed | Absent, new: Listed | Absent) -> Any:
        """The cells a unit left and entered."""
        # both: what was there is free, what is there is taken
        listed = [each for each in (old, new) if not isinstance(each, Absent)]
        return [self._grid.numbering.number(cell) for each in listed for cell in each.cells]

    def on(self, numbers: NDArray[Any]) -> list[str]:
        """The names of the units on some cells, by number, each once."""
        found: dict[str, None] = {}
        # most edits are of one cell, on which nobody stands
        for codes, names in self.standing.values():
            if len(numbers) == 1 and not codes.array[numbers[0]]:
                continue
            for number in numbers[codes.array[numbers] > 0].tolist():
                found[names[self._grid.numbering.cell_of(number)]] = None
        return list(found)

    def __getstate__(self) -> tuple[Any, ...]:
        return self.packed({})

    def packed(self, known: dict[Any, Any]) -> tuple[Any, ...]:
        """What a pickle has of it; ``known``: what it has already from other rosters.

        Plain facts, equal units and movements once: that takes a fraction of the time.
        """
        rows = []
        for serial, unit, cells in self.values.values():
            facts = known.get(id(unit))
            if facts is None:
                moves = known.setdefault(unit.movement, unit.movement)
                row = unit.__dict__ | {
                    "at": tuple(unit.at), "data": unit.data or None, "movement": moves,
                }  # fmt: skip
                facts = known[id(unit)] = tuple(map(row.__getitem__, FACTS))
            rows.append((serial, facts, tuple(map(tuple, cells[1:]))))
        return self._grid, self.sides.values, list(self.standing), FACTS, rows

    @classmethod
    def again(cls, packed: tuple[Any, ...]) -> Self:
        """A roster that was pickled."""
        made = cls.__new__(cls)
        made.__setstate__(packed)
        return made

    def __setstate__(self, state: tuple[Any, ...]) -> None:
        grid, sides, layers, names, rows = state
        Roster.__init__(self, grid, Table(sides), {}, {})
        for layer in layers:
            self.layer(layer)
        for serial, values, others in rows:
            unit, facts = Unit.__new__(Unit), dict(zip(names, values, strict=True))
            at, data = Cell(*facts["at"]), facts["data"] or DataTable()
            unit.__dict__.update(facts, at=at, data=data)
            self.put(unit.name, Listed(serial, unit, (at, *(Cell(*cell) for cell in others))))

    def of_nobody(self) -> Self:
        """A roster without units, of the same sides."""
        return type(self)(self._grid, self.sides.share(), {}, {})

    def in_order(self) -> tuple[Unit, ...]:
        """All units, in the order they were added."""
        if self._ordered is None:
            values = self.values
            # sorting is left out where only facts of units have changed
            if self._names is None:
                self._names = sorted(values, key=lambda name: values[name].serial)
            self._ordered = tuple([values[name].unit for name in self._names])
        return self._ordered

    def share(self) -> Self:
        """A roster with the same contents."""
        standing = {
            name: Standing(codes.share(), names.copy())
            for name, (codes, names) in self.standing.items()
        }
        return type(self)(self._grid, self.sides.share(), self.values.copy(), standing)
