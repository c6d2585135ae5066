"""Writing a board file: a line for each row and thing, so that people and diffs can read it."""

from __future__ import annotations

import json
from collections.abc import Iterable, Mapping
from fractions import Fraction
from typing import Any

import numpy as np
from numpy.typing import NDArray

from understep.boards.attack import Attack
from understep.boards.board import Board
from understep.boards.cost import exact, plain
from understep.boards.edge import Edge
from understep.boards.edges import Laid
from understep.boards.footprint import ONE
from understep.boards.links import Link
from understep.boards.memory import Memory
from understep.boards.pattern import Pattern
from understep.boards.unit import Unit
from understep.errors import InputError, text
from understep.files.schema import FRAME, NO_CELL, VERSION, Number
from understep.grids.frame import Frame
from understep.grids.hexes import HexGrid
from understep.moves.answer import home
from understep.rules.leap import Leap
from understep.rules.movement import Movement

KEPT = (  # of a movement, as they are
    "diagonal", "corners", "passes", "climb", "drop", "uphill", "downhill", "layer", "zones",
    "guards", "foe_corners", "one_step", "carry",
)  # fmt: skip


def _shown(value: Any) -> Number | None:
    """A cost as JSON shows it: a number where that reads back exactly, else a fraction."""
    if value is None:
        return None
    whole = Fraction(value)
    number = plain(whole)
    return number if exact(number, "cost") == whole else f"{whole.numerator}/{whole.denominator}"


def dump(board: Board) -> str:
    """A board as the text of a board file."""
    grid = board.grid
    facts: dict[str, Any] = {"kind": grid.kind, "cols": grid.cols, "rows": grid.rows}
    if grid.first != (0, 0):
        facts["first"] = list(grid.first)
    if isinstance(grid, HexGrid):
        facts |= {"top": grid.top, "shifted": grid.shifted}
    else:
        facts["diagonals"] = len(grid.directions) == 8
    for key in FRAME:
        value = getattr(grid.frame, key)
        if value != getattr(Frame(), key):
            facts[key] = list(value) if isinstance(value, tuple) else value
    terrain: dict[str, dict[str, Any]] = {}
    for name, kind in board.terrains.items():
        terrain[name] = {"cost": _shown(kind.cost), "glyph": kind.glyph}
        if kind.tint is not None:
            terrain[name]["tint"] = kind.tint
        if kind.pattern != "plain":
            terrain[name]["pattern"] = kind.pattern
        if kind.hazard:
            terrain[name]["hazard"] = _shown(kind.hazard)
        if kind.cover:
            terrain[name]["cover"] = kind.cover
        if kind.closed_to:
            terrain[name]["closed_to"] = list(kind.closed_to)
    ground = _write_ground(board, grid.exists)
    memories = [board._memory(side) for side in sorted(board.fogged)]
    last = [unit for memory in memories for _, unit in sorted(memory.last.values.items())]
    movements, units, names = write_units(board.units(), board.movements, last)
    parts = {"understep": VERSION, "title": board.title, "grid": facts, "terrain": terrain}
    parts["ground"] = ground
    if board.edge_kinds:
        parts["edge_kinds"] = {name: _write_edge(kind) for name, kind in board.edge_kinds.items()}
    parts |= _write_land(board)
    if board.properties:
        parts["properties"] = {
            name: {"type": type(default).__name__, "default": default}
            for name, default in board.properties.items()
        }
        parts["values"] = {name: _write_values(board, name) for name in board.properties}
    if board.sides != tuple(dict.fromkeys(unit.side for unit in board.units())):
        parts["sides"] = list(board.sides)
    parts |= {"movements": movements, "units": units}
    if board.turn is not None:
        facts = board.turn._asdict() | {"sides": list(board.turn.sides)}
        parts["turn"] = facts | {"used": dict(board.turn.used)}
    if board.fogged:
        sides = sorted(board.fogged)
        parts["knowledge"] = {side: _write_knowledge(board._memory(side), names) for side in sides}
    return as_text(parts)


def as_text(parts: dict[str, Any]) -> str:
    """Parts of a file as its text."""
    lines = [f"  {_json(key)}: {_rows(part)}" for key, part in parts.items()]
    return "{\n" + ",\n".join(lines) + "\n}\n"


def write_units(
    units: Iterable[Unit], known: Mapping[str, Any], others: Iterable[Unit] = ()
) -> tuple[dict[str, Any], dict[str, Any], dict[Any, str]]:
    """Movements and units as parts of a file, and the names of movements; ``others`` move too."""
    units = list(units)
    names, movements = _name_movements(known, [*units, *others])
    return movements, {unit.name: _write_unit(unit, names) for unit in units}, names


def _write_ground(board: Board, known: NDArray[np.bool_]) -> list[str]:
    """The rows of glyphs; a blank where a cell is not known, or is none."""
    glyphs = [kind.glyph or "?" for kind in board.terrains.values()]
    codes = np.where(known & board.grid.exists, board.terrain_codes(), len(glyphs))
    glyphs.append(NO_CELL)
    return ["".join(glyphs[code] for code in row) for row in codes.tolist()]


def _write_land(board: Board) -> dict[str, Any]:
    """Edges, elevation, links and blocks, where there are any."""
    parts: dict[str, Any] = {}
    edges, links = write_between(board.edges(), board.links())
    blocks = [
        ({} if side is None else {"to": side}) | {"cells": cells.array.tolist()}
        for side in (None, *board.barred_sides)
        for cells in board._blocks.layers(side)
    ]
    if edges:
        parts["edges"] = edges
    if board.elevation.any():
        parts["elevation"] = [
            [int(level) if level == int(level) else level for level in row]
            for row in board.elevation.tolist()
        ]
    return parts | ({"links": links} if links else {}) | ({"blocks": blocks} if blocks else {})


def write_between(
    edges: Iterable[Laid], links: Iterable[Link]
) -> tuple[list[dict[str, Any]], list[dict[str, Any]]]:
    """Edges and links, as parts of a file."""
    return [
        {"at": [list(edge.a), list(edge.b)], "kind": edge.kind}
        | ({} if edge.both else {"both": False})
        | ({"open": True} if edge.is_open else {})
        for edge in edges
    ], [
        {
            "at": [list(link.a), list(link.b)],
            "cost": _shown(exact(link.cost, "cost")),
            "kind": link.kind,
        }
        | ({} if link.both else {"both": False})
        for link in links
    ]


def _write_knowledge(memory: Memory, names: dict[Any, str]) -> dict[str, Any]:
    """The land as it is remembered, and units of others as they were last seen."""
    grid = memory.grid
    known = memory._contents.knows(np.arange(grid.cols * grid.rows)).reshape(grid.rows, grid.cols)
    parts = {"ground": _write_ground(memory, known)} | _write_land(memory)
    if memory.properties:
        parts["values"] = {name: _write_values(memory, name) for name in memory.properties}
    last = sorted(memory.last.values.items())
    if last:
        parts["units"] = {name: _write_unit(unit, names) for name, unit in last}
    return parts


def _write_unit(unit: Unit, names: dict[Any, str]) -> dict[str, Any]:
    facts: dict[str, Any] = {
        "side": unit.side, "at": list(home(unit)), "movement": names[unit.movement]
    }  # fmt: skip
    if unit.left is not None:
        facts["left"] = _shown(unit.left)
    if unit.facing is not None:
        facts["facing"] = unit.facing
    if unit.sight is not None:
        facts["sight"] = unit.sight
    if unit.eye != Fraction(1, 2):
        facts["eye"] = _shown(unit.eye)
    if unit.attack is not None:
        facts["attack"] = _write_attack(unit.attack)
    return facts


def _write_attack(attack: Attack) -> dict[str, Any]:
    """What is not as usual."""
    facts: dict[str, Any] = {}
    for key in ("low", "high", "measure", "sight", "per_level", "up", "down", "affects"):
        value = getattr(attack, key)
        if value != getattr(Attack(), key):
            facts[key] = _shown(value) if key in ("up", "down") else value
    pattern = attack.pattern
    if pattern != Pattern():
        facts["pattern"] = {"shape": pattern.shape}
        if pattern.shape == "cells":
            facts["pattern"]["offsets"] = [list(pair) for pair in pattern.offsets]
        else:
            facts["pattern"]["size"] = pattern.size
        if pattern.angle is not None:
            facts["pattern"]["angle"] = pattern.angle
    return facts


def _write_values(board: Board, name: str) -> list[dict[str, Any]]:
    """The values that are not the default, each with its cells."""
    found: dict[Any, list[list[int]]] = {}
    cells = board.grid.cells
    for cell, value in zip(
        cells, board.values(name)[board.grid.index(cells)].tolist(), strict=True
    ):
        if value != board.properties[name]:
            found.setdefault(value, []).append(list(cell))
    return [{"value": value, "cells": cells} for value, cells in found.items()]


def _json(value: Any) -> str:
    return json.dumps(value, ensure_ascii=False, allow_nan=False)


def _rows(part: Any) -> str:
    """One line for each entry of a table, so that people and diffs can read it."""
    if isinstance(part, list):
        return "[\n" + ",\n".join(f"    {_json(entry)}" for entry in part) + "\n  ]"
    if isinstance(part, dict) and any(isinstance(entry, dict) for entry in part.values()):
        rows = [f"    {_json(key)}: {_json(entry)}" for key, entry in part.items()]
        return "{\n" + ",\n".join(rows) + "\n  }"
    return _json(part)


def _name_movements(
    known: Mapping[str, Any], units: list[Unit]
) -> tuple[dict[Any, str], dict[str, Any]]:
    """Names for the movements that are known and those of units, and the movements by name."""
    for name in known:
        text("movements", name, what="a name")
    table = {name: _write_movement(name, rules) for name, rules in known.items()}
    names: dict[Any, str] = {}
    for name, rules in known.items():
        names.setdefault(rules, name)
    for unit in units:
        if unit.movement not in names:
            name = unit.name
            while name in table:
                name += "'"
            names[unit.movement] = name
            table[name] = _write_movement(name, unit.movement)
    return names, table


def _write_movement(name: str, rules: Any) -> dict[str, Any]:
    if not isinstance(rules, Movement):
        raise InputError("board", f"the movement {name!r} cannot be saved", rules)
    facts: dict[str, Any] = {"points": _shown(rules.points)}
    if not isinstance(rules.costs, Mapping):
        facts["costs"] = _shown(rules.costs)
    elif rules.costs:
        facts["costs"] = {name: _shown(cost) for name, cost in rules.costs.items()}
    if rules.edges:
        facts["edges"] = {
            name: cost if cost == "open" else _shown(cost) for name, cost in rules.edges.items()
        }
    if rules.links:
        facts["links"] = {name: _shown(cost) for name, cost in rules.links.items()}
    for key in KEPT:
        value = getattr(rules, key)
        if value != getattr(Movement(0), key):
            facts[key] = value if isinstance(value, str | bool) else _shown(value)
    if rules.leap is not None:
        facts["leap"] = _write_leap(rules.leap)
    if rules.footprint != ONE:
        facts["footprint"] = [list(pair) for pair in rules.footprint]
    if rules.rule is not None:
        called = getattr(rules.rule, "__name__", "")
        if not called.isidentifier():
            raise InputError("board", f"the rule of {name!r} needs a name, to be saved", rules.rule)
        facts["rule"] = called
    return facts


def _write_leap(leap: Leap) -> dict[str, Any]:
    facts: dict[str, Any] = {"over": leap.over}
    if leap.ground is not None:
        facts["ground"] = list(leap.ground)
    return facts | {key: _shown(getattr(leap, key)) for key in ("up", "down", "cost")}


def _write_edge(kind: Edge) -> dict[str, Any]:
    facts: dict[str, Any] = {}
    for key in ("blocks", "cost", "add", "hides", "door"):
        value = getattr(kind, key)
        if value != getattr(Edge(), key):
            facts[key] = value if isinstance(value, bool) else _shown(value)
    return facts
