"""Units, their movements and attacks, as keys of a file."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Annotated, Any, TypeAlias

from understep.boards.unit import Unit
from understep.checks import text
from understep.errors import InputError
from understep.files.codec import At, DataPart, Faults, Form, Number, TableOf, number, shown
from understep.grids.cell import Cell
from understep.rules.movement import Movement

MOVEMENT = Form(Movement, apart={"rule": (str | None, None)})  # a function, given to the reader
UNIT = Form(
    Unit,
    apart={
        "name": None,
        "movement": (str, ...),
        "at": (At, ...),
        "left": (Number | None, None),
        "data": (DataPart, {}),
    },
)
MovementPart: TypeAlias = Annotated[Any, MOVEMENT]
UnitPart: TypeAlias = Annotated[Any, UNIT]
UnitParts: TypeAlias = TableOf[UnitPart]
MovementParts: TypeAlias = TableOf[MovementPart]


def read_movements(
    parts: dict[str, Any], rules: Mapping[str, Any] | None, faults: Faults
) -> dict[str, Movement | None]:
    """The movements of a file by name; None where one is faulty."""
    return {
        name: faults.build(f"movements.{name}", _read_movement, part, rules or {})
        for name, part in parts.items()
    }


def _read_movement(part: Any, rules: Mapping[str, Any]) -> Movement:
    if part.rule is not None and part.rule not in rules:
        known = f"load it with rules={{{part.rule!r}: the function}}"
        raise InputError("rule", f"is a function that must be given; {known}", part.rule)
    rule = None if part.rule is None else rules[part.rule]
    found: Movement = MOVEMENT.read(part, rule=rule)
    return found


def read_unit(
    name: str, part: Any, movements: dict[str, Movement | None], place: str, faults: Faults
) -> Unit | None:
    """A unit, where it stands; None where it is faulty."""
    place = f"{place}units.{name}"
    movement = movements.get(part.movement)
    if movement is None:
        faults.add(f"{place}.movement", f"no movement {part.movement!r} in this file")
        return None
    made: Unit | None = faults.build(place, _read_unit, part, name, movement)
    return made if made is None else made.changed(at=Cell(*part.at))


def _read_unit(part: Any, name: str, movement: Movement) -> Unit:
    left = None if part.left is None else number(part.left, "left")
    found: Unit = UNIT.read(part, name=name, movement=movement, left=left, data=part.data)
    return found


def write_sides(sides: tuple[str, ...], units: Iterable[Unit]) -> dict[str, list[str]]:
    """The sides that take part, as a key of a file; none where the units say so, in this order."""
    manned = tuple(dict.fromkeys(unit.side for unit in units))
    return {} if sides == manned else {"sides": list(sides)}


def write_units(
    units: Iterable[Unit], known: Mapping[str, Any], others: Iterable[Unit] = ()
) -> tuple[dict[str, Any], dict[str, Any], dict[Any, str]]:
    """Movements and units as parts of a file, and the names of movements; ``others`` move too."""
    units = list(units)
    names, movements = _name_movements(known, [*units, *others])
    return movements, {unit.name: write_unit(unit, names) for unit in units}, names


def write_unit(unit: Unit, names: dict[Any, str]) -> dict[str, Any]:
    """A unit, where it stands."""
    facts = UNIT.write(unit)
    first = {"side": facts.pop("side"), "at": list(unit.at), "movement": names[unit.movement]}
    left = {} if unit.left == unit.movement.points else {"left": shown(unit.left)}
    data = {"data": unit.data} if unit.data else {}
    return first | left | facts | data


def _name_movements(
    known: Mapping[str, Any], units: list[Unit]
) -> tuple[dict[Any, str], dict[str, Any]]:
    """Names for the movements that are known and those of units, and the movements by name."""
    for name in known:
        text("movements", name, what="a name")
    table = {name: _write_movement(name, movement) for name, movement in known.items()}
    names: dict[Any, str] = {}
    for name, movement in known.items():
        names.setdefault(movement, name)
    for unit in units:
        if unit.movement not in names:
            name = unit.name
            while name in table:
                name += "'"
            names[unit.movement] = name
            table[name] = _write_movement(name, unit.movement)
    return names, table


def _write_movement(name: str, movement: Any) -> dict[str, Any]:
    if not isinstance(movement, Movement):
        raise InputError("board", f"the movement {name!r} cannot be saved", movement)
    facts = MOVEMENT.write(movement)
    if movement.rule is not None:
        called = getattr(movement.rule, "__name__", "")
        if not called.isidentifier():
            rule = f"the rule of {name!r} needs a name, to be saved"
            raise InputError("board", rule, movement.rule)
        facts["rule"] = called
    return facts
