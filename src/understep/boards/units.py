"""The units of a board: where each may stand, setting them down, asking for them."""

from __future__ import annotations

import itertools
from collections.abc import Callable
from dataclasses import replace
from fractions import Fraction
from typing import Any, TypeVar

from understep.boards.contents import OPEN, Contents
from understep.boards.cost import Cost, exact, fraction, plain
from understep.boards.feature import Feature, entered
from understep.boards.footprint import ONE
from understep.boards.journal import Writes
from understep.boards.refusal import Refusal
from understep.boards.roster import GROUND, Listed, Roster
from understep.boards.site import Site
from understep.boards.store import ABSENT
from understep.boards.unit import SAME, MovementLike, Unit
from understep.checks import expect, named, text
from understep.errors import InputError, NameUnknownError, OccupiedError
from understep.grids.cell import Cell, CellLike, IntArray

MOST_SIDES = 254
MOST_CLOSED = 256  # movements whose terrains are known
T = TypeVar("T")


class Units:
    """Who stands where, and who could."""

    def __init__(
        self, contents: Contents, roster: Roster, journal: Writes, hides: Callable[[str, str], bool]
    ) -> None:
        self._contents, self.roster, self._journal = contents, roster, journal
        self._grid, self._hides = contents.grid, hides
        # a board that was copied or loaded has units already
        start = 1 + max((listed.serial for listed in roster.values.values()), default=-1)
        self.serials = itertools.count(start)
        #: What is impassable, by movement (by its number, with itself) and side.
        self._closed: dict[tuple[int, str], tuple[MovementLike, frozenset[int]]] = {}

    # where a unit may stand

    def covered(self, unit: Unit, at: CellLike | None = None) -> tuple[Cell, ...]:
        """The cells a unit takes up, on a cell or where it stands; the anchor first."""
        expect("unit", unit, Unit, "must be a Unit")
        cell = unit.at if at is None else self._grid.numbering.require(at, "at")
        return () if cell is None else self._taken(unit, cell)

    def _taken(self, unit: Unit, cell: Cell) -> tuple[Cell, ...]:
        """The same for a unit and a cell that are known to be right."""
        if unit.movement.footprint == ONE:
            return (cell,)
        return self._grid.lattice.covered(unit.movement.footprint, cell)

    def price(self, movement: MovementLike, side: str, cell: Cell) -> Fraction | None:
        """Points to enter a cell by a straight step over no edge; None where it never can.

        The one place where that is decided for a single cell; step tables hold the same for all.
        """
        contents, number = self._contents, self._grid.numbering.number(cell)
        if contents.closed(number, side):
            return None
        return self._at(self.cost_of, movement, side, cell)

    def shut(self, unit: Unit, cell: Cell) -> bool:
        """Whether a unit can never enter a cell, as `price` says."""
        contents, number = self._contents, self._grid.numbering.number(cell)
        if contents.closed(number, unit.side):
            return True
        # most cells hold nothing but terrain, of which there are few kinds
        if unit.movement.rule is None and not contents.laid(number):
            return int(contents.terrain.array[number]) in self._impassable(unit.movement, unit.side)
        said = self._at(self._said, unit.movement, unit.side, cell)
        return said is None or isinstance(said, str)

    def _impassable(self, movement: MovementLike, side: str) -> frozenset[int]:
        """The terrains, by code, that a movement without a rule of its own can never enter."""
        known = self._closed.get((id(movement), side))
        if known is None or known[0] is not movement:
            # a game can make movements without end
            if len(self._closed) >= MOST_CLOSED:
                self._closed.clear()
            codes = range(len(self._contents.terrain_names))
            shut = (code for code in codes if self.cost_of(movement, side, code, []) is None)
            known = self._closed[id(movement), side] = movement, frozenset(shut)
        return known[1]

    def cost_of(
        self, movement: MovementLike, side: str, code: int, features: list[tuple[str, Feature]],
        level: float = 0.0, values: dict[str, Any] | None = None,
    ) -> Fraction | None:  # fmt: skip
        """Points to enter a cell of a terrain, by its code, on which features lie; None: never.

        Its level and values are for a movement's rule.
        """
        said = self._said(movement, side, code, features, level, values)
        name = repr(self._contents.terrain_names[code])
        return None if said is None or isinstance(said, str) else exact(said, "rule", name)

    def _said(
        self, movement: MovementLike, side: str, code: int, features: list[tuple[str, Feature]],
        level: float, values: dict[str, Any] | None,
    ) -> Cost | Fraction | str | None:  # fmt: skip
        """What a movement says of a cell: points, None for never, or why its rule says never."""
        name = self._contents.terrain_names[code]
        kind = self._contents.declared.terrains[name]
        # even a rule of the movement cannot open it
        if side in kind.closed_to:
            return None
        usual = movement._cost_on(name, kind)
        usual = entered(movement, usual, features) if features else usual
        if movement.rule is None:
            return usual
        usual_cost = None if usual is None else plain(usual)
        lying = frozenset(each for each, _ in features)
        said = movement.rule(Site(name, usual_cost, kind.hazard, level, values or {}, lying))
        # that the rule closes what the terrain leaves open is another reason
        return "" if said is None and usual is not None else said

    def _at(self, ask: Callable[..., T], movement: MovementLike, side: str, cell: Cell) -> T:
        """The result of a question about a cell, with the facts of the cell as arguments."""
        contents, number = self._contents, self._grid.numbering.number(cell)
        code, features = int(contents.terrain.array[number]), contents.laid(number)
        if movement.rule is None:
            return ask(movement, side, code, features, 0.0, None)
        # as plain values of Python, since a rule may compare or keep them
        values = {key: array[[number]].tolist()[0] for key, array in contents.properties.items()}
        level = float(contents.elevation.array[number])
        return ask(movement, side, code, features, level, values)

    def hindrance(self, unit: Unit, at: Cell) -> str:
        """Why terrain, a block or a wall would not let a unit stand somewhere; else empty."""
        cells, contents = self._taken(unit, at), self._contents
        for cell in cells:
            if not self._grid.numbering.has(*cell):
                return f"{unit.name!r} would stand on {tuple(cell)}, which is off the board"
            if self.shut(unit, cell):
                return self._closed_by(unit, cell)
        # walls between the cells that it takes up
        for a in cells if len(cells) > 1 else ():
            for way, b in enumerate(
                self._grid.lattice.covered(self._grid.lattice.vectors.tolist(), a)
            ):
                if b in cells:
                    key = self._grid.numbering.number(a) * len(self._grid.directions) + way
                    code = int(contents.edges.array[key])
                    name = contents.edge_names[code - 1] if 0 < code < OPEN else ""
                    kinds = contents.declared.edge_kinds
                    if name and unit.movement._across(name, kinds[name])[0]:
                        pair = f"{tuple(a)} and {tuple(b)}"
                        return f"{unit.name!r} would stand across a {name!r} between {pair}"
        return ""

    def refusal(self, unit: Unit, at: Cell) -> Refusal | None:
        """Why a unit could not stand on a cell, units on it included; None if it could."""
        names = self.roster.layer(unit.layer).names
        for each in self._taken(unit, at):
            name = names.get(each)
            # its own body is not in its way
            if name is not None and name != unit.name:
                other = self.roster.values[name].unit
                # a movement of the game's own may not tell
                passing = getattr(unit.movement, "_may_pass", None)
                passes = passing is not None and passing(other.side == unit.side)
                tail = ": it may pass there, not stop" if passes else ""
                where = f"stands on {tuple(each)}{tail}"
                return Refusal(f"{name!r} of the {other.side} {where}", (name,))
        why = self.hindrance(unit, at)
        return Refusal(why) if why else None

    def _closed_by(self, unit: Unit, cell: Cell) -> str:
        contents, number = self._contents, self._grid.numbering.number(cell)
        if not contents.knows(number):
            return f"{tuple(cell)} is unknown to the {contents.known_by}"
        name = contents.terrain_names[int(contents.terrain.array[number])]
        if contents.blocked(number, None):
            return f"{tuple(cell)} is blocked"
        if contents.blocked(number, unit.side):
            return f"{tuple(cell)} is closed to the {unit.side}"
        if unit.side in contents.declared.terrains[name].closed_to:
            return f"{name!r} at {tuple(cell)} is closed to the {unit.side}"
        # a feature is named before the ground below it
        barrier = self.barrier(unit.movement, cell)
        if barrier:
            return f"{barrier!r} at {tuple(cell)} is in the way of {unit.name!r}"
        said = self._at(self._said, unit.movement, unit.side, cell)
        if isinstance(said, str):
            why = f": {said}" if said else ""
            return f"its movement's rule closes {name!r} at {tuple(cell)}{why}"
        return f"{name!r} at {tuple(cell)} is impassable for {unit.name!r}"

    def barrier(self, movement: MovementLike, cell: Cell) -> str:
        """The kind of a feature on a cell that a movement cannot pass; else empty."""
        laid = self._contents.laid(self._grid.numbering.number(cell))
        return next((name for name, kind in laid if movement._over(name, kind)[0]), "")

    def change(self, store: Any, keys: Any, new: Any, numbers: IntArray) -> None:
        """Write contents, unless a unit on one of the cells, by number, could not stand there."""
        # the journal is asked directly where nobody stands, as when a level is built
        names = self.roster.on(numbers)
        if not names:
            self._journal.write(store, keys, new)
            return
        with self._journal.span(keeps=True):
            self._journal.write(store, keys, new)
            # of several units the first one added
            for listed in sorted(map(self.roster.values.__getitem__, names)):
                unit = listed.unit
                at = unit.at or Cell(0, 0)
                why = self.hindrance(unit, at)
                if why:
                    rule = f"unit {unit.name!r} stands there: {why}"
                    raise OccupiedError("cells", rule, tuple(at))

    # setting units down

    def add(self, unit: Unit, at: CellLike) -> Unit:
        """Set a new unit down."""
        if unit.name in self.roster.values:
            raise InputError("unit", "its name is taken on this board", unit.name)
        if unit.facing is not None:
            self._grid.lattice.way(unit.facing, "unit.facing")
        return self.set_down(unit, at, next(self.serials))

    def put(self, name: str, at: CellLike) -> Unit:
        """Set a unit down somewhere else."""
        return self.set_down(self.find(name), at, self.roster.values[name].serial)

    def set_down(self, unit: Unit, at: CellLike, serial: int) -> Unit:
        """Set a unit down, with its place in the order of adding."""
        cell = self._grid.numbering.require(at, "at")
        cells = self._taken(unit, cell)
        names = self.roster.layer(unit.layer).names
        for each in cells:
            other = names.get(each)
            if other is not None and other != unit.name:
                # its name would tell the side who it is
                hidden = self._hides(unit.side, other)
                who = "a hidden unit" if hidden else f"unit {other!r}"
                raise OccupiedError("at", f"{who} stands on {tuple(each)}", tuple(cell))
        why = self.hindrance(unit, cell)
        if why:
            raise InputError("at", why, tuple(cell))
        placed = unit.changed(at=cell)
        # a known side needs no step of its own, and so no span
        if unit.side in self.roster.sides.values:
            self._journal.write(self.roster, unit.name, Listed(serial, placed, cells))
            return placed
        with self._journal.span(keeps=True):
            self.enlist(unit.side)
            self._journal.write(self.roster, unit.name, Listed(serial, placed, cells))
        return placed

    def enlist(self, side: str) -> None:
        """Let a side take part, before it has a unit or without any."""
        text("side", side)
        known = self.roster.sides
        if side in known.values:
            return
        if len(known.values) >= MOST_SIDES:
            raise InputError("side", f"a board has at most {MOST_SIDES} sides", side)
        self._journal.write(known, side, len(known.values) + 1)

    def move(self, name: str, at: Cell, **facts: Any) -> None:
        """Set a unit down where it is known that it can stand, with facts known to be right."""
        serial, old, _ = self.roster.values[name]
        # nothing is checked: every step was, just before
        unit = old.changed(at=at, **facts)
        self._journal.write(self.roster, name, Listed(serial, unit, self._taken(unit, at)))

    def alter(self, name: str, **facts: Any) -> Unit:
        """Give a unit other facts, which are known to be right."""
        serial, unit, cells = self.roster.values[self.find(name).name]
        unit = unit.changed(**facts)
        self._journal.write(self.roster, name, Listed(serial, unit, cells))
        return unit

    def remake(self, name: str, facts: dict[str, Any]) -> Unit:
        """Give a unit other facts, those left out as they are, where it could stand with them."""
        old = self.find(name)
        given = {key: fact for key, fact in facts.items() if fact is not SAME}
        # a unit checks its facts when it is made
        unit = replace(old, **given)
        if "movement" in given:
            full, now = fraction(unit.movement.points), fraction(old.left)
            # who has all its points has all of the new movement's
            fresh = now >= fraction(old.movement.points)
            unit = unit.changed(left=plain(full if fresh else min(now, full)))
        return self.set_down(unit, old.at, self.roster.values[name].serial)

    def revise(self, name: str, facts: dict[str, Any], at: CellLike | None) -> Unit:
        """Give a unit facts that may be wrong, and perhaps another cell."""
        old = self.find(name)
        unit = replace(old, **facts)
        return self.set_down(unit, old.at if at is None else at, self.roster.values[name].serial)

    def move_before(self, name: str, other: str) -> None:
        """Give a unit its place in the order of units before another."""
        order = [unit.name for unit in self.roster.in_order() if unit.name != name]
        # serials are given anew in the same order, so that all stay apart
        order.insert(order.index(other), name)
        serials = sorted(listed.serial for listed in self.roster.values.values())
        for each, serial in zip(order, serials, strict=True):
            listed = self.roster.values[each]
            if listed.serial != serial:
                self._journal.write(self.roster, each, listed._replace(serial=serial))

    def remove(self, name: str) -> Unit:
        """Take a unit off the board."""
        unit = self.find(name)
        self._journal.write(self.roster, name, ABSENT)
        return unit

    # asking for them

    def find(self, name: str, argument: str = "unit") -> Unit:
        """The unit of a name."""
        try:
            return self.roster.values[name].unit
        # what cannot be a key is no name either
        except (KeyError, TypeError):
            raise NameUnknownError(argument, "unit", name, self.roster.values) from None

    def at(self, cell: CellLike, layer: str | None) -> Unit | None:
        """The unit that stands on a cell, in a layer or in any."""
        found = self._grid.numbering.require(cell)
        expect("layer", layer, (str, type(None)), "must name a layer, or be None")
        # "ground" first, where most units are
        for each in self.layers if layer is None else (layer,):
            standing = self.roster.standing.get(each)
            if standing is not None and found in standing.names:
                return self.roster.values[standing.names[found]].unit
        return None

    def of(self, side: str | None) -> tuple[Unit, ...]:
        """All units, or those of a side, in the order they were added."""
        every = self.roster.in_order()
        if side is None:
            return every
        named("side", "side", side, self.roster.sides.values)
        return tuple(unit for unit in every if unit.side == side)

    @property
    def layers(self) -> tuple[str, ...]:
        """The layers that have a unit, "ground" first, then by name."""
        # not in the order of first use, which trials would change
        used = (name for name, layer in self.roster.standing.items() if layer.names)
        return GROUND, *sorted(name for name in used if name != GROUND)

    def on(self, numbers: IntArray) -> list[str]:
        """The names of the units on some cells, by number, each once."""
        return self.roster.on(numbers)
