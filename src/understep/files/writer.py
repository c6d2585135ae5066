"""Writing a board file: a line for each row and thing, so that people and diffs can read it."""

from __future__ import annotations

import json
from typing import Any

import numpy as np

from understep.boards.board import Board
from understep.files.land_codec import write_land, write_rows
from understep.files.schema import EDGE, FEATURE, FRAME, TERRAIN, VERSION
from understep.files.unit_codec import write_sides, write_unit, write_units
from understep.grids.hexes import HexGrid


def dump(board: Board) -> str:
    """A board as the text of a board file."""
    memories = {side: board._memory(side) for side in sorted(board.fogged)}
    last = [unit for memory in memories.values() for _, unit in sorted(memory.last.values.items())]
    movements, units, names = write_units(board.units(), board.movements, last)
    parts: dict[str, Any] = {
        "understep": VERSION, "title": board.title, "grid": _write_grid(board),
        "terrain": {name: TERRAIN.write(kind) for name, kind in board.terrains.items()},
        "rows": write_rows(board, board.grid.exists),
    }  # fmt: skip
    if board.data:
        parts["data"] = board.data
    if board.edge_kinds:
        parts["edge_kinds"] = {name: EDGE.write(kind) for name, kind in board.edge_kinds.items()}
    if board.feature_kinds:
        kinds = {name: FEATURE.write(kind) for name, kind in board.feature_kinds.items()}
        parts["feature_kinds"] = kinds
    if board.properties:
        parts["properties"] = {
            name: {"type": type(default).__name__, "default": default}
            for name, default in board.properties.items()
        }
    parts |= write_land(board)
    parts |= write_sides(board.sides, board.units())
    parts |= {"movements": movements, "units": units}
    if board.turn is not None:
        facts = board.turn._asdict() | {"sides": list(board.turn.sides)}
        parts["turn"] = facts | {"used": dict(board.turn.used)}
    if memories:
        parts["knowledge"] = {
            side: _write_knowledge(memory, names) for side, memory in memories.items()
        }
    return as_text(parts)


def _write_grid(board: Board) -> dict[str, Any]:
    grid = board.grid
    facts: dict[str, Any] = {"kind": grid.kind, "cols": grid.cols, "rows": grid.rows}
    if grid.first != (0, 0):
        facts["first"] = list(grid.first)
    if isinstance(grid, HexGrid):
        facts |= {"top": grid.top, "shifted": grid.shifted}
    else:
        facts["diagonals"] = len(grid.directions) == 8
    frame = FRAME.write(grid.frame)
    return facts | ({"frame": frame} if frame else {})


def _write_knowledge(memory: Any, names: dict[Any, str]) -> dict[str, Any]:
    """The land as it is remembered, and units of others as they were last seen."""
    grid = memory.grid
    known = memory._contents.knows(np.arange(grid.cols * grid.rows)).reshape(grid.rows, grid.cols)
    parts = {"rows": write_rows(memory, known)} | write_land(memory)
    last = sorted(memory.last.values.items())
    if last:
        parts["units"] = {name: write_unit(unit, names) for name, unit in last}
    if memory.fog:
        parts["fog"] = memory.fog
    return parts


def as_text(parts: dict[str, Any]) -> str:
    """Parts of a file as its text."""
    lines = [f"  {_json(key)}: {_lines(part)}" for key, part in parts.items()]
    return "{\n" + ",\n".join(lines) + "\n}\n"


def _json(value: Any) -> str:
    return json.dumps(value, ensure_ascii=False, allow_nan=False)


def _lines(part: Any) -> str:
    """One line for each entry of a table."""
    if isinstance(part, list):
        return "[\n" + ",\n".join(f"    {_json(entry)}" for entry in part) + "\n  ]"
    if isinstance(part, dict) and any(isinstance(entry, dict) for entry in part.values()):
        rows = [f"    {_json(key)}: {_json(entry)}" for key, entry in part.items()]
        return "{\n" + ",\n".join(rows) + "\n  }"
    return _json(part)
