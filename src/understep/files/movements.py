"""Faults of a file with their places; its numbers, and its movements."""

from __future__ import annotations

from collections.abc import Mapping
from fractions import Fraction
from typing import Any, get_args

from understep.boards.cost import exact
from understep.errors import MOST_FAULTS, BoardFileError, InputError
from understep.files.schema import FilePart, LeapPart, MovementPart, Number, WorldPart
from understep.rules.leap import Leap
from understep.rules.movement import ALTERNATING, Movement, Zoning


class Faults:
    """The first faults found so far, each with its place, and how many others there are."""

    def __init__(self) -> None:
        self.found: list[tuple[str, str]] = []
        self._more = 0

    def add(self, place: str, what: str) -> None:
        """Note one."""
        if len(self.found) < MOST_FAULTS:
            self.found.append((place, what))
        else:
            self._more += 1

    def check(self, source: str) -> None:
        """Raise if there are any."""
        if self.found:
            raise BoardFileError(source, self.found, self._more)

    def build(self, place: str, make: Any, *arguments: Any, **named: Any) -> Any:
        """Call something; note what it refuses, and return None then."""
        try:
            return make(*arguments, **named)
        except InputError as error:
            self.add(place, str(error))
            return None


def read_number(value: Number | None, argument: str) -> Fraction | int | float | None:
    """A number, or a text such as "1/3" as a fraction."""
    if isinstance(value, str):
        above, slash, below = value.partition("/")
        if not (slash and above.isascii() and above.isdigit() and len(value) < 30):
            raise InputError(argument, "a text must be a fraction such as '1/3'", value)
        if not (below.isascii() and below.isdigit() and int(below)):
            raise InputError(argument, "a text must be a fraction such as '1/3'", value)
        return exact(Fraction(int(above), int(below)), argument)
    return value


def read_movements(
    file: FilePart | WorldPart, rules: Mapping[str, Any] | None, faults: Faults
) -> dict[str, Movement | None]:
    """The movements of a file by name; None where one is faulty."""
    return {
        name: faults.build(f"movements.{name}", _read_movement, part, rules or {})
        for name, part in file.movements.items()
    }


def _read_movement(part: MovementPart, rules: Mapping[str, Any]) -> Movement:
    if part.rule is not None and part.rule not in rules:
        known = f"load it with rules={{{part.rule!r}: the function}}"
        raise InputError("rule", f"is a function that must be given; {known}", part.rule)
    edges: dict[str, Any] = {
        name: cost if cost == "open" else read_number(cost, "edges")
        for name, cost in part.edges.items()
    }
    costs: Any = part.costs
    if isinstance(costs, dict):
        costs = {name: read_number(cost, "costs") for name, cost in costs.items()}
    else:
        costs = read_number(costs, "costs")
    zones: Any = part.zones
    diagonal: Any = part.diagonal
    if diagonal != ALTERNATING:
        diagonal = read_number(diagonal, "diagonal")
    if zones not in get_args(Zoning):
        zones = read_number(zones, "zones")
    return Movement(
        read_number(part.points, "points") or 0,
        costs,
        diagonal,
        part.corners,
        part.passes,
        edges,
        {name: read_number(cost, "links") for name, cost in part.links.items()},
        climb=read_number(part.climb, "climb"),
        drop=read_number(part.drop, "drop"),
        uphill=read_number(part.uphill, "uphill") or 0,
        downhill=read_number(part.downhill, "downhill") or 0,
        footprint=tuple(part.footprint),
        layer=part.layer,
        zones=zones,
        guards=part.guards,
        foe_corners=part.foe_corners,
        one_step=part.one_step,
        rule=None if part.rule is None else rules[part.rule],
        carry=read_number(part.carry, "carry") or 0,
        leap=None if part.leap is None else _read_leap(part.leap),
    )


def _read_leap(part: LeapPart) -> Leap:
    up, down = read_number(part.up, "up"), read_number(part.down, "down")
    return Leap(part.over, part.ground, up, down, read_number(part.cost, "cost") or 0)
