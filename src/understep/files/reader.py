"""Reading a board file: every fault is noted with its place before any is raised."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, cast

import numpy as np
from numpy.typing import NDArray

from understep.boards.board import Board
from understep.boards.terrain import Terrain
from understep.boards.turn import Turn
from understep.checks import text
from understep.errors import BoardFileError, InputError
from understep.files.bounded import validated
from understep.files.codec import Faults
from understep.files.land_codec import NO_CELL, read_land, read_rows
from understep.files.schema import (
    EDGE,
    FEATURE,
    FRAME,
    MOST_CELLS,
    TERRAIN,
    FilePart,
    KnowledgePart,
    PropertyPart,
    TurnPart,
)
from understep.files.unit_codec import read_movements, read_unit
from understep.grids.cell import Cell
from understep.grids.grid import Grid
from understep.grids.hexes import HexGrid
from understep.grids.square import SquareGrid
from understep.rules.movement import Movement
from understep.sight.fog import begin


def parse(raw: bytes, source: str = "board", rules: Mapping[str, Any] | None = None) -> Board:
    """Read a board from the bytes of a board file; ``source`` names it in messages."""
    faults = Faults()
    file = validated(raw, source, FilePart)
    grid = _read_grid(file, faults)
    terrain: dict[str, Terrain] = {}
    owners: dict[str, str] = {}
    for name, kind in file.terrain.items():
        # rows could not tell them apart
        owner = owners.setdefault(kind.glyph, name)
        if owner != name:
            what = f"{owner!r} has this glyph, {kind.glyph!r}, too"
            faults.add(f"terrain.{name}.glyph", what)
        made = faults.build(f"terrain.{name}", TERRAIN.read, kind)
        if made is not None:
            terrain[name] = made
    movements = read_movements(file.movements, rules, faults)
    for name, part in file.movements.items():
        for used in part.costs if isinstance(part.costs, dict) else ():
            if used not in file.terrain:
                faults.add(f"movements.{name}.costs", f"no terrain {used!r} in this file")
    size = file.grid.cols, file.grid.rows
    numbers = read_rows(file.rows, size, owners, "", faults)
    # what follows needs a grid and terrains, and would only find the same faults again
    faults.check(source)
    if grid is None:
        raise BoardFileError(source, [("grid", "cannot be made")])
    edges = {
        name: faults.build(f"edge_kinds.{name}", EDGE.read, kind)
        for name, kind in file.edge_kinds.items()
    }
    features = {
        name: faults.build(f"feature_kinds.{name}", FEATURE.read, kind)
        for name, kind in file.feature_kinds.items()
    }
    properties = {
        name: faults.build(f"properties.{name}", _read_property, part)
        for name, part in file.properties.items()
    }
    declared: Any = {"edges": edges, "features": features, "properties": properties}
    faults.check(source)
    built = faults.build("terrain", Board, grid, terrain, **declared)
    faults.check(source)
    board = cast(Board, built)
    faults.build("title", setattr, board, "title", file.title)
    faults.build("data", board._set_data, None, file.data)
    # before units, which name their movements
    board.movements = {name: made for name, made in movements.items() if made is not None}
    read_land(board, file, numbers, "", faults)
    for number, side in enumerate(file.sides):
        # in their order, which codes and turns go by
        faults.build(f"sides.{number}", board.enlist, side)
    for name, unit in file.units.items():
        standing = read_unit(name, unit, movements, "", faults)
        if standing is not None:
            faults.build(f"units.{name}", board.add, standing, Cell(*unit.at))
    # after units: it names some
    if file.turn is not None:
        _read_turn(board, file.turn, faults)
    for side, seen in file.knowledge.items():
        # what a side remembers may differ from what is there
        land = Board(grid, cast(Any, terrain), **declared)
        _read_knowledge(board, land, side, seen, owners, movements, faults)
    faults.check(source)
    # what is read from a file cannot be undone
    board.forget()
    return board


def _read_grid(file: FilePart, faults: Faults) -> Grid | None:
    grid = file.grid
    # before anything of that size is made
    if grid.cols * grid.rows > MOST_CELLS:
        faults.add("grid", f"more than {MOST_CELLS} cells")
        return None
    frame = faults.build("grid.frame", FRAME.read, grid.frame)
    if frame is None:
        return None
    sizes: dict[str, Any] = {"first": grid.first, "frame": frame, "exists": _read_cells(file)}
    # a key of the other kind is a slip that would change the board unseen
    others = ("top", "shifted") if grid.kind == "square" else ("diagonals",)
    for key in others:
        if getattr(grid, key) is not None:
            faults.add(f"grid.{key}", f"is no key of a {grid.kind} grid")
    kind: Any = SquareGrid
    if grid.kind == "square":
        sizes["diagonals"] = bool(grid.diagonals)
    else:
        kind = HexGrid
        sizes |= {"top": grid.top or "pointy", "shifted": grid.shifted or "odd"}
    made: Grid | None = faults.build("rows", kind, grid.cols, grid.rows, **sizes)
    return made


def _read_cells(file: FilePart) -> NDArray[np.bool_] | None:
    """Which cells exist; None where all do, or where the rows do not fit (a fault by itself)."""
    cols, lines = file.grid.cols, file.rows
    if len(lines) != file.grid.rows or any(len(line) != cols for line in lines):
        return None
    # a grid without holes keeps no mask, and is faster
    if not any(NO_CELL in line for line in lines):
        return None
    return np.array([[glyph != NO_CELL for glyph in line] for line in lines])


def _read_property(part: PropertyPart) -> Any:
    kind = {"bool": bool, "int": int, "float": float, "str": str}[part.type]
    default = part.default
    # JSON writes 1.0 as it likes
    if kind is float and type(default) is int:
        default = float(default)
    if type(default) is not kind:
        raise InputError("default", f"must be of type {part.type}", default)
    return default


def _read_knowledge(
    board: Board, land: Board, side: str, part: KnowledgePart, owners: dict[str, str],
    movements: dict[str, Movement | None], faults: Faults,
) -> None:  # fmt: skip
    """What a side knows; ``land`` is a board of its own to lay out what it remembers."""
    place, grid = f"knowledge.{side}.", board.grid
    known = read_rows(part.rows, grid.size, owners, place, faults)
    numbers = sorted(number for found in known.values() for number in found)
    outside = [
        number for number in numbers if not grid.numbering.has(*grid.numbering.cell_of(number))
    ]
    if outside:
        faults.add(
            f"{place}rows", f"there is no cell at {tuple(grid.numbering.cell_of(outside[0]))}"
        )
    faults.build(place, text, "side", side)
    last = {}
    for name, unit in part.units.items():
        faults.build(f"{place}units.{name}", grid.numbering.require, unit.at)
        made = read_unit(name, unit, movements, place, faults)
        if made is not None:
            last[name] = made
    if not faults.found:
        read_land(land, part, known, place, faults)
    if not faults.found:
        # last: it makes what is seen now known at once
        begin(board, side, land_known=False)
        seen = np.array(numbers, dtype=np.int64)
        memory = board._memory(side)
        memory.fog = part.fog
        memory.remember(land._contents, seen, last)


def _read_turn(board: Board, part: TurnPart, faults: Faults) -> None:
    for number, side in enumerate(part.sides):
        faults.build(f"turn.sides.{number}", text, "side", side)
    if part.side not in part.sides or len(set(part.sides)) < len(part.sides):
        faults.add("turn.side", f"must be one of {part.sides}, each of them once")
    for name in part.used:
        if name not in {unit.name for unit in board.units()}:
            faults.add("turn.used", f"no unit {name!r} in this file")
    board.turn = Turn(tuple(part.sides), part.side, part.round, tuple(sorted(part.used.items())))
