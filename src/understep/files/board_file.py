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
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from understep.boards.board import Board
from understep.boards.cost import exact, plain
from understep.boards.terrain import MOST, Pattern, Terrain
from understep.boards.unit import Unit
from understep.errors import BoardFileError, InputError
from understep.grids.cell import Cell
from understep.grids.frame import Frame
from understep.grids.grid import Grid
from understep.grids.hexes import HexGrid
from understep.grids.square import SquareGrid
from understep.grids.systems import Shifted, Top
from understep.moves.movement import Corners, Movement, Passes

VERSION = 1
MOST_BYTES = 64 << 20
MOST_CELLS = 1 << 24
MOST_DEPTH = 12

Number = int | float | str  # a text such as "1/3" where a decimal would not be exact
Place = Annotated[int, Field(ge=-(1 << 31), le=1 << 31)]


class _Part(BaseModel):
    model_config = ConfigDict(extra="forbid", strict=True)


class _Grid(_Part):
    kind: Literal["square", "hex"]
    cols: int = Field(ge=1, le=MOST_CELLS)
    rows: int = Field(ge=1, le=MOST_CELLS)
    first: tuple[Place, Place] = (0, 0)
    diagonals: bool | None = None
    top: Top | None = None
    shifted: Shifted | None = None
    cell: tuple[float, float] | None = None
    origin: tuple[float, float] | None = None


class _Terrain(_Part):
    cost: Number | None
    glyph: str
    tint: str | None = None
    pattern: Pattern = "plain"


class _Movement(_Part):
    points: Number
    costs: dict[str, Number | None] = Field(default_factory=dict)
    diagonal: Number = 1
    corners: Corners = "both"
    passes: Passes = "own"


class _Unit(_Part):
    side: str
    at: tuple[Place, Place]
    movement: str
    left: Number | None = None
    facing: str | None = None


class _File(_Part):
    understep: Literal[1]
    title: str = ""
    grid: _Grid
    terrain: dict[str, _Terrain] = Field(min_length=1, max_length=MOST)
    ground: list[str]
    movements: dict[str, _Movement] = Field(default_factory=dict)
    units: dict[str, _Unit] = Field(default_factory=dict)


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
    if len(raw) > MOST_BYTES:
        raise BoardFileError(source, [("", f"larger than {MOST_BYTES >> 20} MiB")])
    faults = _Faults()
    file = _validated(raw, source)
    grid = _read_grid(file.grid, faults)
    terrain = {}
    for name, kind in file.terrain.items():
        place = f"terrain.{name}"
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
    codes = _read_ground(file, faults)
    if faults.found or grid is None:
        raise BoardFileError(source, faults.found)
    board = faults.build("terrain", Board, grid, terrain)
    if board is None:
        raise BoardFileError(source, faults.found)
    board.title = file.title
    board.movements = {name: rules for name, rules in movements.items() if rules is not None}
    for name, places in codes.items():
        board.paint(name, grid.cells_of(places))
    for name, unit in file.units.items():
        _read_unit(board, name, unit, movements, faults)
    if faults.found:
        raise BoardFileError(source, faults.found)
    return board  # type: ignore[no-any-return]


def _validated(raw: bytes, source: str) -> _File:
    try:
        text = raw.decode("utf-8")
    except UnicodeDecodeError as error:
        raise BoardFileError(source, [(f"byte {error.start}", "is not UTF-8")]) from None
    depth = deepest = 0
    in_text = escaped = False
    for sign in text:
        if in_text:
            if escaped:
                escaped = False
            elif sign == "\\":
                escaped = True
            elif sign == '"':
                in_text = False
        elif sign == '"':
            in_text = True
        elif sign in "[{":
            depth += 1
            deepest = max(deepest, depth)
        elif sign in "]}":
            depth -= 1
    if deepest > MOST_DEPTH:
        raise BoardFileError(source, [("", f"nested deeper than {MOST_DEPTH} levels")])
    try:
        content = json.loads(text, object_pairs_hook=_no_twins, parse_constant=_no_constant)
        # pydantic takes JSON's lists for tuples only from JSON
        return _File.model_validate_json(json.dumps(content))
    except json.JSONDecodeError as error:
        place = f"line {error.lineno}, column {error.colno}"
        raise BoardFileError(source, [(place, f"is not JSON: {error.msg}")]) from None
    except ValidationError as error:
        faults = [
            (".".join(map(str, fault["loc"])), _said(fault["msg"])) for fault in error.errors()
        ]
        raise BoardFileError(source, faults) from None
    except ValueError as error:
        raise BoardFileError(source, [("", str(error))]) from None


def _said(message: str) -> str:
    """A validator's message in this library's words."""
    if message.startswith("Extra inputs"):
        return "is no key of a board file"
    return message[:1].lower() + message[1:]


def _no_twins(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    made = dict(pairs)
    if len(made) != len(pairs):
        names = [name for name, _ in pairs]
        twin = next(name for name in names if names.count(name) > 1)
        raise ValueError(f"the key {twin!r} stands twice in one object")
    return made


def _no_constant(word: str) -> None:
    raise ValueError(f"{word} is no number of JSON")


def _read_grid(grid: _Grid, faults: _Faults) -> Grid | None:
    if grid.cols * grid.rows > MOST_CELLS:
        faults.add("grid", f"more than {MOST_CELLS} cells")
        return None
    frame = faults.build("grid", Frame, grid.cell, grid.origin or (0.0, 0.0))
    if frame is None:
        return None
    sizes: dict[str, Any] = {"first": grid.first, "frame": frame}
    others = ("top", "shifted") if grid.kind == "square" else ("diagonals",)
    for key in others:
        if getattr(grid, key) is not None:
            faults.add(f"grid.{key}", f"is no key of a {grid.kind} grid")
    if grid.kind == "square":
        return SquareGrid(grid.cols, grid.rows, diagonals=bool(grid.diagonals), **sizes)
    return HexGrid(
        grid.cols, grid.rows, top=grid.top or "pointy", shifted=grid.shifted or "odd", **sizes
    )


def _read_terrain(kind: _Terrain) -> Terrain:
    cost = _number(kind.cost, "cost")
    return Terrain(cost, kind.glyph, kind.tint, kind.pattern)


def _read_movement(rules: _Movement) -> Movement:
    return Movement(
        _number(rules.points, "points") or 0,
        {name: _number(cost, "costs") for name, cost in rules.costs.items()},
        _number(rules.diagonal, "diagonal") or 0,
        rules.corners,
        rules.passes,
    )


def _read_ground(file: _File, faults: _Faults) -> dict[str, list[int]]:
    """Numbers of cells by terrain, from the rows of glyphs."""
    names = {kind.glyph: name for name, kind in file.terrain.items()}
    cols, rows = file.grid.cols, file.grid.rows
    if len(file.ground) != rows:
        faults.add("ground", f"must have {rows} rows, as the grid has; it has {len(file.ground)}")
    found: dict[str, list[int]] = {}
    for row, line in enumerate(file.ground[:rows]):
        if len(line) != cols:
            faults.add(f"ground.{row}", f"must have {cols} glyphs, as the grid; it has {len(line)}")
            continue
        for col, glyph in enumerate(line):
            if glyph not in names:
                faults.add(f"ground.{row}", f"glyph {glyph!r} at column {col} is in no legend")
                break
            found.setdefault(names[glyph], []).append(row * cols + col)
    return found


def _read_unit(
    board: Board, name: str, unit: _Unit, movements: dict[str, Movement | None], faults: _Faults
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
    if grid.frame.cell is not None:
        facts["cell"] = list(map(float, grid.frame.cell))
    if tuple(grid.frame.origin) != (0.0, 0.0):
        facts["origin"] = list(map(float, grid.frame.origin))
    terrain = {}
    for name, kind in board.terrains.items():
        terrain[name] = {"cost": _shown(kind.cost), "glyph": kind.glyph}
        if kind.tint is not None:
            terrain[name]["tint"] = kind.tint
        if kind.pattern != "plain":
            terrain[name]["pattern"] = kind.pattern
    glyphs = [kind.glyph or "?" for kind in board.terrains.values()]
    ground = ["".join(glyphs[code] for code in row) for row in board.terrain_codes().tolist()]
    names, movements = _name_movements(board)
    units = {}
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
    parts |= {"ground": ground, "movements": movements, "units": units}
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
    names: dict[Any, str] = {}
    table: dict[str, Any] = {}
    listed = list(board.movements.items())
    listed += [(unit.name, unit.movement) for unit in board.units()]
    for name, rules in listed:
        if rules in names and board.movements.get(name) is not rules:
            continue
        if not isinstance(rules, Movement):
            raise InputError("board", f"the movement {name!r} cannot be saved", rules)
        while name in table:
            name += "'"
        names.setdefault(rules, name)
        table[name] = _write_movement(rules)
    return names, table


def _write_movement(rules: Movement) -> dict[str, Any]:
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
