"""Writing a board file: a line for each row and thing, so that people and diffs can read it."""

from __future__ import annotations

import json
from collections.abc import Mapping
from fractions import Fraction
from typing import Any

import numpy as np

from understep.boards.board import Board
from understep.boards.cost import exact, plain
from understep.boards.edge import Edge
from understep.boards.footprint import ONE
from understep.errors import InputError
from understep.files.schema import FRAME, NO_CELL, VERSION, Number
from understep.grids.frame import Frame
from understep.grids.hexes import HexGrid
from understep.moves.leap import Leap
from understep.moves.movement import Movement

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
    glyphs = [kind.glyph or "?" for kind in board.terrains.values()]
    codes = np.where(grid.exists, board.terrain_codes(), len(glyphs))
    glyphs.append(NO_CELL)
    ground = ["".join(glyphs[code] for code in row) for row in codes.tolist()]
    names, movements = _name_movements(board)
    units: dict[str, dict[str, Any]] = {}
    for unit in board.units():
        units[unit.name] = {
            "side": unit.side,
            "at": list(unit.at or ()),
            "movement": names[unit.movement],
        }
        if unit.left is not None:
            units[unit.name]["left"] = _shown(unit.left)
        if unit.facing is not None:
            units[unit.name]["facing"] = unit.facing
    parts = {"understep": VERSION, "title": board.title, "grid": facts, "terrain": terrain}
    parts["ground"] = ground
    if board.edge_kinds:
        parts["edge_kinds"] = {name: _write_edge(kind) for name, kind in board.edge_kinds.items()}
        parts["edges"] = [
            {"at": [list(edge.a), list(edge.b)], "kind": edge.kind}
            | ({} if edge.both else {"both": False})
            | ({"open": True} if edge.is_open else {})
            for edge in board.edges()
        ]
    if board.elevation.any():
        parts["elevation"] = [
            [int(level) if level == int(level) else level for level in row]
            for row in board.elevation.tolist()
        ]
    parts |= _write_overlaid(board)
    parts |= {"movements": movements, "units": units}
    lines = []
    for key, part in parts.items():
        lines.append(f"  {_json(key)}: {_rows(part)}")
    return "{\n" + ",\n".join(lines) + "\n}\n"


def _write_overlaid(board: Board) -> dict[str, Any]:
    """Links, blocks and declared properties, where there are any."""
    parts: dict[str, Any] = {}
    links = [
        {"at": [list(link.a), list(link.b)], "cost": _shown(link.cost), "kind": link.kind}
        | ({} if link.both else {"both": False})
        for link in board.links()
    ]
    blocks = [
        ({} if side is None else {"to": side}) | {"cells": board.blocks(side).array.tolist()}
        for side in (None, *board.barred_sides)
        if len(board.blocks(side))
    ]
    if links:
        parts["links"] = links
    if blocks:
        parts["blocks"] = blocks
    if board.properties:
        parts["properties"] = {
            name: {"type": type(default).__name__, "default": default}
            for name, default in board.properties.items()
        }
        parts["values"] = {name: _write_values(board, name) for name in board.properties}
    return parts


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


def _name_movements(board: Board) -> tuple[dict[Any, str], dict[str, Any]]:
    """Names for the movements of a board and its units, and the movements by name."""
    table = {name: _write_movement(name, rules) for name, rules in board.movements.items()}
    names: dict[Any, str] = {}
    for name, rules in board.movements.items():
        names.setdefault(rules, name)
    for unit in board.units():
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
