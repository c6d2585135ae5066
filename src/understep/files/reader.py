"""Reading a board file: every fault is noted with its place before any is told."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, cast

import numpy as np
from numpy.typing import NDArray

from understep.boards.attack import Attack
from understep.boards.board import Board
from understep.boards.cost import exact, plain
from understep.boards.edge import Edge
from understep.boards.links import Link
from understep.boards.pattern import Pattern
from understep.boards.terrain import Terrain
from understep.boards.turn import Turn
from understep.boards.unit import Unit
from understep.errors import BoardFileError, InputError, text
from understep.files.bounded import validated
from understep.files.movements import Faults, read_movements, read_number
from understep.files.schema import (
    FRAME,
    MOST_CELLS,
    NO_CELL,
    AttackPart,
    EdgePart,
    FilePart,
    KnowledgePart,
    LaidPart,
    LinkPart,
    PropertyPart,
    TerrainPart,
    TurnPart,
    UnitPart,
)
from understep.grids.cell import Cell
from understep.grids.frame import Frame
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
        place = f"terrain.{name}"
        owner = owners.setdefault(kind.glyph, name)
        if owner != name:
            faults.add(f"{place}.glyph", f"{owner!r} has this glyph, {kind.glyph!r}, too")
        ground = faults.build(place, _read_terrain, kind)
        if ground is not None:
            terrain[name] = ground
    movements = read_movements(file, rules, faults)
    for name, part in file.movements.items():
        for ground in part.costs if isinstance(part.costs, dict) else ():
            if ground not in file.terrain:
                faults.add(f"movements.{name}.costs", f"no terrain {ground!r} in this file")
    size = file.grid.cols, file.grid.rows
    codes = _read_ground(file.ground, size, owners, "", faults)
    faults.check(source)
    if grid is None:
        raise BoardFileError(source, [("grid", "cannot be made")])
    edges = {
        name: faults.build(f"edge_kinds.{name}", _read_edge, kind)
        for name, kind in file.edge_kinds.items()
    }
    properties = {
        name: faults.build(f"properties.{name}", _read_property, part)
        for name, part in file.properties.items()
    }
    made: Any = grid, terrain, None, edges, properties
    faults.check(source)
    built = faults.build("terrain", Board, *made)
    faults.check(source)
    board = cast(Board, built)
    faults.build("title", setattr, board, "title", file.title)
    board.movements = {name: made for name, made in movements.items() if made is not None}
    _read_land(board, file, codes, "", faults)
    for number, side in enumerate(file.sides):
        faults.build(f"sides.{number}", board._units.enlist, side)
    for name, unit in file.units.items():
        standing = read_unit(name, unit, movements, "", faults)
        if standing is not None:
            faults.build(f"units.{name}", board.add, standing, Cell(*unit.at))
    if file.turn is not None:
        _read_turn(board, file.turn, faults)
    for side, seen in file.knowledge.items():
        land = Board(*made)
        _read_knowledge(board, land, side, seen, owners, movements, faults)
    faults.check(source)
    board.forget()
    return board


def _read_grid(file: FilePart, faults: Faults) -> Grid | None:
    grid = file.grid
    if grid.cols * grid.rows > MOST_CELLS:
        faults.add("grid", f"more than {MOST_CELLS} cells")
        return None
    frame = faults.build("grid", Frame, **{key: getattr(grid, key) for key in FRAME})
    if frame is None:
        return None
    sizes: dict[str, Any] = {"first": grid.first, "frame": frame, "exists": _read_cells(file)}
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
    made: Grid | None = faults.build("ground", kind, grid.cols, grid.rows, **sizes)
    return made


def _read_cells(file: FilePart) -> NDArray[np.bool_] | None:
    """Which cells exist; None where all do, or where the rows do not fit (a fault by itself)."""
    cols, rows = file.grid.cols, file.grid.rows
    lines = file.ground
    if len(lines) != rows or any(len(line) != cols for line in lines):
        return None
    if not any(NO_CELL in line for line in lines):
        return None
    return np.array([[glyph != NO_CELL for glyph in line] for line in lines])


def _read_terrain(kind: TerrainPart) -> Terrain:
    cost = read_number(kind.cost, "cost")
    hazard = read_number(kind.hazard, "hazard") or 0
    return Terrain(cost, kind.glyph, kind.tint, kind.pattern, hazard, kind.cover, kind.closed_to)


def _read_property(part: PropertyPart) -> Any:
    kind = {"bool": bool, "int": int, "float": float, "str": str}[part.type]
    default = part.default
    if kind is float and type(default) is int:
        default = float(default)
    if type(default) is not kind:
        raise InputError("default", f"must be of type {part.type}", default)
    return default


def _read_edge(kind: EdgePart) -> Edge:
    cost, add = read_number(kind.cost, "cost"), read_number(kind.add, "add")
    return Edge(kind.blocks, cost, add or 0, kind.hides, kind.door)


def _lay_edge(board: Board, edge: LaidPart) -> None:
    a, b = (Cell(*cell) for cell in edge.at)
    board.set_edge(a, b, edge.kind, both=edge.both, is_open=edge.open)


def _lay_link(board: Board, part: LinkPart) -> None:
    link = read_link(part)
    board.link(link.a, link.b, link.cost, link.both, link.kind)


def _read_land(
    board: Board, part: FilePart | KnowledgePart, codes: dict[str, list[int]], place: str,
    faults: Faults,
) -> None:  # fmt: skip
    """All that lies on a board but units; ``place`` is where its part stands."""
    for name, places in codes.items():
        board.paint(name, board.grid.cells_of(np.array(places)))
    for number, edge in enumerate(part.edges):
        faults.build(f"{place}edges.{number}", _lay_edge, board, edge)
    _read_elevation(board, part.elevation, place, faults)
    for number, link in enumerate(part.links):
        faults.build(f"{place}links.{number}", _lay_link, board, link)
    for number, block in enumerate(part.blocks):
        faults.build(f"{place}blocks.{number}", board.block, block.cells, block.to)
    for name in part.values.keys() - board.properties.keys():
        faults.add(f"{place}values.{name}", "no property of this name in this file")
    for name, values in part.values.items():
        for number, each in enumerate(values):
            told = name, each.value, each.cells
            faults.build(f"{place}values.{name}.{number}", board.set_value, *told)


def _read_ground(
    lines: list[str], size: tuple[int, int], names: dict[str, str], place: str, faults: Faults
) -> dict[str, list[int]]:
    """Numbers of cells by terrain, from the rows of glyphs."""
    cols, rows = size
    if len(lines) != rows:
        faults.add(f"{place}ground", f"must have {rows} rows, as the grid has; it has {len(lines)}")
    found: dict[str, list[int]] = {}
    for row, line in enumerate(lines[:rows]):
        if len(line) != cols:
            what = f"must have {cols} glyphs, as the grid; it has {len(line)}"
            faults.add(f"{place}ground.{row}", what)
            continue
        for col, glyph in enumerate(line):
            if glyph == NO_CELL:
                continue
            if glyph not in names:
                what = f"glyph {glyph!r} at column {col} is in no legend"
                faults.add(f"{place}ground.{row}", what)
                break
            found.setdefault(names[glyph], []).append(row * cols + col)
    return found


def _read_elevation(
    board: Board, lines: list[list[int | float]] | None, place: str, faults: Faults
) -> None:
    """Levels, from the rows of numbers."""
    if lines is None:
        return
    shape = board.grid.rows, board.grid.cols
    if [len(line) for line in lines] != [shape[1]] * shape[0]:
        what = f"must have {shape[0]} rows of {shape[1]} numbers, as the grid"
        faults.add(f"{place}elevation", what)
        return
    faults.build(f"{place}elevation", board.raise_to, np.array(lines))


def read_link(part: LinkPart) -> Link:
    """A link that lies by itself."""
    a, b = (Cell(*cell) for cell in part.at)
    return Link(
        a, b, plain(exact(read_number(part.cost, "cost") or 0, "cost")), part.kind, part.both
    )


def read_unit(
    name: str,
    unit: UnitPart,
    movements: dict[str, Movement | None],
    place: str,
    faults: Faults,
) -> Unit | None:
    """A unit, where it stands; None where it is faulty."""
    place = f"{place}units.{name}"
    rules = movements.get(unit.movement)
    if rules is None:
        faults.add(f"{place}.movement", f"no movement {unit.movement!r} in this file")
        return None
    left = faults.build(f"{place}.left", read_number, unit.left, "left")
    eye = faults.build(f"{place}.eye", read_number, unit.eye, "eye")
    attack = None
    if unit.attack is not None:
        attack = faults.build(f"{place}.attack", _read_attack, unit.attack)
    facts = left, unit.facing, unit.sight, eye, attack
    made: Unit | None = faults.build(place, Unit, name, unit.side, rules, *facts)
    return made if made is None else made.changed(at=Cell(*unit.at))


def _read_attack(part: AttackPart) -> Attack:
    pattern = part.pattern
    made = Pattern(pattern.shape, pattern.size, pattern.angle, tuple(pattern.offsets))
    bounds = read_number(part.up, "up"), read_number(part.down, "down")
    fixed = part.low, part.high, part.measure, part.sight, part.per_level
    return Attack(*fixed, *bounds, part.affects, made)


def _read_knowledge(
    board: Board,
    land: Board,
    side: str,
    part: KnowledgePart,
    owners: dict[str, str],
    movements: dict[str, Movement | None],
    faults: Faults,
) -> None:
    """What a side knows; ``land`` is a board of its own to lay out what it remembers."""
    place, grid = f"knowledge.{side}.", board.grid
    known = _read_ground(part.ground, grid.size, owners, place, faults)
    outside = [
        number
        for places in known.values()
        for number in places
        if not grid.has(*grid.cell_of(number))
    ]
    if outside:
        cell = tuple(grid.cell_of(min(outside)))
        faults.add(f"{place}ground", f"there is no cell at {cell}")
    faults.build(place, text, "side", side)
    last = {}
    for name, unit in part.units.items():
        faults.build(f"{place}units.{name}", grid.require, unit.at)
        made = read_unit(name, unit, movements, place, faults)
        if made is not None:
            last[name] = made
    if not faults.found:
        _read_land(land, part, known, place, faults)
    if not faults.found:
        begin(board, side, land_known=False)
        numbers = sorted(number for places in known.values() for number in places)
        board._memory(side).remember(land._contents, np.array(numbers, dtype=np.int64), last)


def _read_turn(board: Board, part: TurnPart, faults: Faults) -> None:
    for number, side in enumerate(part.sides):
        faults.build(f"turn.sides.{number}", text, "side", side)
    if part.side not in part.sides or len(set(part.sides)) < len(part.sides):
        faults.add("turn.side", f"must be one of {part.sides}, each of them once")
    for name in part.used:
        if name not in {unit.name for unit in board.units()}:
            faults.add("turn.used", f"no unit {name!r} in this file")
    board.turn = Turn(tuple(part.sides), part.side, part.round, tuple(sorted(part.used.items())))
