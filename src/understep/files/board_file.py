"""The board file, ``*.board.json``: terrain as rows of glyphs with a legend, units by name.

JSON (RFC 8259) in UTF-8. Reading is bounded and executes nothing; every fault of a file is listed
with its place. Writing is atomic, and what was written reads back to the same bytes.
"""

from __future__ import annotations

import json
import os
import tempfile
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from understep.boards.board import Board
from understep.boards.cost import exact, plain
from understep.boards.terrain import Terrain
from understep.boards.unit import Unit
from understep.errors import BoardFileError, InputError
from understep.files.schema import (
    MOST_BYTES,
    MOST_CELLS,
    VERSION,
    FilePart,
    MovementPart,
    Number,
    TerrainPart,
    UnitPart,
    validated,
)
from understep.grids.cell import Cell
from understep.grids.frame import Frame
from understep.grids.grid import Grid
from understep.grids.hexes import HexGrid
from understep.grids.square import SquareGrid
from understep.moves.movement import Movement

FRAME = ("cell", "origin", "rotation", "y_axis", "view", "lift")
NO_CELL = " "


class _Faults:
    """Faults found so far, each with its place."""

    def __init__(self) -> None:
        self.found: list[tuple[str, str]] = []

    def add(self, place: str, what: str) -> None:
        self.found.append((place, what))

    def build(self, place: str, make: Any, *arguments: Any, **named: Any) -> Any:
        """Call something; note what it refuses, and return None then."""
        try:
            return make(*arguments, **named)
        except InputError as error:
            self.add(place, str(error))
            return None


def _number(value: Number | None, argument: str) -> Fraction | int | float | None:
    if isinstance(value, str):
        above, slash, below = value.partition("/")
        if not (slash and above.isascii() and above.isdigit() and len(value) < 30):
            raise InputError(argument, "a text must be a fraction such as '1/3'", value)
        if not (below.isascii() and below.isdigit() and int(below)):
            raise InputError(argument, "a text must be a fraction such as '1/3'", value)
        return exact(Fraction(int(above), int(below)), argument)
    return value


def _shown(value: Any) -> Number | None:
    """A cost as JSON shows it: a number where that reads back exactly, else a fraction."""
    if value is None:
        return None
    whole = Fraction(value)
    number = plain(whole)
    return number if exact(number, "cost") == whole else f"{whole.numerator}/{whole.denominator}"


def load(path: str | os.PathLike[str]) -> Board:
    """Read a board file.

    Parameters
    ----------
    path
        The file, at most 64 MiB, for a board of at most 2**24 cells.

    Returns
    -------
    Board

    Raises
    ------
    BoardFileError
        The file is no board; ``faults`` lists every fault with its place.
    OSError
        The file cannot be read.

    Examples
    --------
    >>> import understep as us, tempfile, pathlib
    >>> board = us.Board(us.SquareGrid(3, 1), {"turf": 1, "mud": 2})
    >>> path = pathlib.Path(tempfile.mkdtemp()) / "small.board.json"
    >>> us.save(board, path)
    >>> us.load(path).grid.size
    (3, 1)
    """
    path = Path(path)
    with path.open("rb") as file:
        raw = file.read(MOST_BYTES + 1)
    return parse(raw, path.name)


def parse(raw: bytes, source: str = "board") -> Board:
    """Read a board from the bytes of a board file; ``source`` names it in messages."""
    faults = _Faults()
    file = validated(raw, source)
    grid = _read_grid(file, faults)
    terrain: dict[str, Terrain] = {}
    owners: dict[str, str] = {}
    for name, kind in file.terrain.items():
        place = f"terrain.{name}"
        owner = owners.setdefault(kind.glyph, name)
        if owner != name:
            faults.add(f"{place}.glyph", f"{owner!r} has this glyph, {kind.glyph!r}, too")
        made = faults.build(place, _read_terrain, kind)
        if made is not None:
            terrain[name] = made
    movements = {
        name: faults.build(f"movements.{name}", _read_movement, rules)
        for name, rules in file.movements.items()
    }
    for name, rules in file.movements.items():
        for ground in rules.costs:
            if ground not in file.terrain:
                faults.add(f"movements.{name}.costs", f"no terrain {ground!r} in this file")
    codes = _read_ground(file, owners, faults)
    if faults.found or grid is None:
        raise BoardFileError(source, faults.found)
    board = faults.build("terrain", Board, grid, terrain)
    if board is None:
        raise BoardFileError(source, faults.found)
    board.title = file.title
    board.movements = {name: rules for name, rules in movements.items() if rules is not None}
    for name, places in codes.items():
        board.paint(name, grid.cells_of(np.array(places)))
    _read_elevation(board, file, faults)
    for name, unit in file.units.items():
        _read_unit(board, name, unit, movements, faults)
    if faults.found:
        raise BoardFileError(source, faults.found)
    board.forget()
    return board  # type: ignore[no-any-return]


def _read_grid(file: FilePart, faults: _Faults) -> Grid | None:
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
    cost = _number(kind.cost, "cost")
    return Terrain(cost, kind.glyph, kind.tint, kind.pattern)


def _read_movement(rules: MovementPart) -> Movement:
    return Movement(
        _number(rules.points, "points") or 0,
        {name: _number(cost, "costs") for name, cost in rules.costs.items()},
        _number(rules.diagonal, "diagonal") or 0,
        rules.corners,
        rules.passes,
    )


def _read_ground(file: FilePart, names: dict[str, str], faults: _Faults) -> dict[str, list[int]]:
    """Numbers of cells by terrain, from the rows of glyphs."""
    cols, rows = file.grid.cols, file.grid.rows
    if len(file.ground) != rows:
        faults.add("ground", f"must have {rows} rows, as the grid has; it has {len(file.ground)}")
    found: dict[str, list[int]] = {}
    for row, line in enumerate(file.ground[:rows]):
        if len(line) != cols:
            faults.add(f"ground.{row}", f"must have {cols} glyphs, as the grid; it has {len(line)}")
            continue
        for col, glyph in enumerate(line):
            if glyph == NO_CELL:
                continue
            if glyph not in names:
                faults.add(f"ground.{row}", f"glyph {glyph!r} at column {col} is in no legend")
                break
            found.setdefault(names[glyph], []).append(row * cols + col)
    return found


def _read_elevation(board: Board, file: FilePart, faults: _Faults) -> None:
    """Levels, from the rows of numbers."""
    if file.elevation is None:
        return
    shape = board.grid.rows, board.grid.cols
    if [len(line) for line in file.elevation] != [shape[1]] * shape[0]:
        faults.add("elevation", f"must have {shape[0]} rows of {shape[1]} numbers, as the grid")
        return
    levels = np.array(file.elevation)[board.grid.exists]
    faults.build("elevation", board.raise_to, levels, board.grid.cells)


def _read_unit(
    board: Board, name: str, unit: UnitPart, movements: dict[str, Movement | None], faults: _Faults
) -> None:
    place = f"units.{name}"
    rules = movements.get(unit.movement)
    if rules is None:
        faults.add(f"{place}.movement", f"no movement {unit.movement!r} in this file")
        return
    left = faults.build(f"{place}.left", _number, unit.left, "left")
    made = faults.build(place, Unit, name, unit.side, rules, left, unit.facing)
    if made is not None:
        faults.build(place, board.add, made, Cell(*unit.at))


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
    if board.elevation.any():
        parts["elevation"] = [
            [int(level) if level == int(level) else level for level in row]
            for row in board.elevation.tolist()
        ]
    parts |= {"movements": movements, "units": units}
    lines = []
    for key, part in parts.items():
        lines.append(f"  {_json(key)}: {_rows(part)}")
    return "{\n" + ",\n".join(lines) + "\n}\n"


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
    if rules.costs:
        facts["costs"] = {name: _shown(cost) for name, cost in rules.costs.items()}
    for key in ("diagonal", "corners", "passes"):
        value = getattr(rules, key)
        if value != getattr(Movement(0), key):
            facts[key] = value if isinstance(value, str) else _shown(value)
    return facts


def save(board: Board, path: str | os.PathLike[str]) -> None:
    """Write a board file, atomically: whatever happens, the old or the new file is there.

    Parameters
    ----------
    board
        The board.
    path
        Where to; by custom the name ends in ``.board.json``.

    Raises
    ------
    InputError
        ``board`` is none, or holds a movement of a foreign kind.
    OSError
        The file cannot be written; an old one is as it was.
    """
    if not isinstance(board, Board):
        raise InputError("board", "must be a Board", board)
    path = Path(path)
    text = dump(board)
    handle, name = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name}.")
    try:
        with os.fdopen(handle, "w", encoding="utf-8", newline="\n") as file:
            file.write(text)
            file.flush()
            os.fsync(file.fileno())
        os.chmod(name, 0o644)
        os.replace(name, path)
    except BaseException:
        os.unlink(name)
        raise
