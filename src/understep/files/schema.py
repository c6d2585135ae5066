"""The form of a board file, and the check of raw bytes against it."""

from __future__ import annotations

import json
from typing import Annotated, Any, Literal, TypeVar

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from understep.boards.attack import Affects, Measure
from understep.boards.pattern import Shape
from understep.boards.terrain import MOST, Pattern
from understep.errors import BoardFileError
from understep.grids.frame import View, YAxis
from understep.grids.systems import Shifted, Top
from understep.moves.movement import Corners, Passes

# 2: hazard, cover, closed ground, properties, links, blocks, more of movements; 3: sight, attacks,
# turns, knowledge
VERSION = 3
MOST_BYTES = 64 << 20
MOST_CELLS = 1 << 24
MOST_DEPTH = 12
FRAME = ("cell", "origin", "rotation", "y_axis", "view", "lift")  # keys of the grid
NO_CELL = " "  # among the glyphs of the ground

Number = int | float | str  # a text such as "1/3" where a decimal would not be exact
Place = Annotated[int, Field(ge=-(1 << 31), le=1 << 31)]


class _Part(BaseModel):
    """What all parts of a file share."""

    model_config = ConfigDict(extra="forbid", strict=True)


class GridPart(_Part):
    """The grid."""

    kind: Literal["square", "hex"]
    cols: int = Field(ge=1, le=MOST_CELLS)
    rows: int = Field(ge=1, le=MOST_CELLS)
    first: tuple[Place, Place] = (0, 0)
    diagonals: bool | None = None
    top: Top | None = None
    shifted: Shifted | None = None
    cell: tuple[float, float] | None = None
    origin: tuple[float, float] = (0.0, 0.0)
    rotation: float = 0.0
    y_axis: YAxis = "down"
    view: View = "plan"
    lift: float = 0.0


class TerrainPart(_Part):
    """One terrain."""

    cost: Number | None
    glyph: str
    tint: str | None = None
    pattern: Pattern = "plain"
    hazard: Number = 0
    cover: float = 0.0
    closed_to: list[str] = Field(default_factory=list)


class EdgePart(_Part):
    """One kind of edge."""

    blocks: bool = False
    cost: Number | None = None
    add: Number = 0
    hides: bool = False
    door: bool = False


class LaidPart(_Part):
    """One edge between two cells."""

    at: tuple[tuple[Place, Place], tuple[Place, Place]]
    kind: str
    both: bool = True
    open: bool = False


class LinkPart(_Part):
    """One link between two cells."""

    at: tuple[tuple[Place, Place], tuple[Place, Place]]
    cost: Number
    kind: str
    both: bool = True


class BlockPart(_Part):
    """Cells closed to a side, or to everybody."""

    to: str | None = None
    cells: list[tuple[Place, Place]]


class PropertyPart(_Part):
    """A declared property of cells."""

    type: Literal["bool", "int", "float", "str"]
    default: bool | int | float | str


class ValuePart(_Part):
    """Cells whose property is not the default."""

    value: bool | int | float | str
    cells: list[tuple[Place, Place]]


class LeapPart(_Part):
    """How a movement leaps."""

    over: int = 1
    ground: list[str] | None = None
    up: Number | None = 0
    down: Number | None = 0
    cost: Number = 2


class MovementPart(_Part):
    """One movement."""

    points: Number
    costs: dict[str, Number | None] | Number = Field(default_factory=dict)
    diagonal: Number | None = 1  # or "alternating"
    corners: Corners = "both"
    passes: Passes = "own"
    edges: dict[str, Number | None] = Field(default_factory=dict)  # or "open"
    links: dict[str, Number | None] = Field(default_factory=dict)
    climb: Number | None = None
    drop: Number | None = None
    uphill: Number = 0
    downhill: Number = 0
    footprint: list[tuple[Place, Place]] = Field(default_factory=lambda: [(0, 0)])
    layer: str = "ground"
    zones: Number = "ignore"  # or "end"
    guards: bool = True
    foe_corners: bool = False
    one_step: bool = False
    carry: Number = 0
    leap: LeapPart | None = None
    rule: str | None = None  # the name of a function, which is given to the reader


class PatternPart(_Part):
    """The cells that an attack affects."""

    shape: Shape = "cell"
    size: int = 0
    angle: float | None = None
    offsets: list[tuple[Place, Place]] = Field(default_factory=list)


class AttackPart(_Part):
    """How a unit attacks."""

    low: int = 1
    high: int = 1
    measure: Measure = "grid"
    sight: bool = True
    per_level: int = 0
    up: Number | None = None
    down: Number | None = None
    affects: Affects = "foe"
    pattern: PatternPart = Field(default_factory=PatternPart)


class UnitPart(_Part):
    """One unit."""

    side: str
    at: tuple[Place, Place]
    movement: str
    left: Number | None = None
    facing: str | None = None
    sight: int | None = None
    eye: Number = 0.5
    attack: AttackPart | None = None


class TurnPart(_Part):
    """Whose turn it is."""

    sides: list[str]
    side: str
    round: int = Field(ge=1)
    used: dict[str, int] = Field(default_factory=dict)


class KnowledgePart(_Part):
    """What a side knows: the land, as it remembers it, and units of others as last seen."""

    ground: list[str]  # a space where there is no cell, or one never seen
    elevation: list[list[int | float]] | None = None
    edges: list[LaidPart] = Field(default_factory=list)
    links: list[LinkPart] = Field(default_factory=list)
    blocks: list[BlockPart] = Field(default_factory=list)
    values: dict[str, list[ValuePart]] = Field(default_factory=dict)
    units: dict[str, UnitPart] = Field(default_factory=dict)


class FilePart(_Part):
    """The whole file."""

    understep: Literal[1, 2, 3]
    title: str = ""
    grid: GridPart
    terrain: dict[str, TerrainPart] = Field(min_length=1, max_length=MOST)
    ground: list[str]  # a space where there is no cell
    edge_kinds: dict[str, EdgePart] = Field(default_factory=dict)
    edges: list[LaidPart] = Field(default_factory=list)
    elevation: list[list[int | float]] | None = None
    links: list[LinkPart] = Field(default_factory=list)
    blocks: list[BlockPart] = Field(default_factory=list)
    properties: dict[str, PropertyPart] = Field(default_factory=dict)
    values: dict[str, list[ValuePart]] = Field(default_factory=dict)
    movements: dict[str, MovementPart] = Field(default_factory=dict)
    units: dict[str, UnitPart] = Field(default_factory=dict)
    sides: list[str] = Field(default_factory=list)  # in order, where units do not say so
    turn: TurnPart | None = None
    knowledge: dict[str, KnowledgePart] = Field(default_factory=dict)


def board_schema() -> dict[str, Any]:
    """The form of a board file as a JSON Schema (draft 2020-12), for editors and other programs.

    It says what can be said of keys and types; that glyphs fit the legend, or that units do not
    share a cell, only `load` knows. Shipped as ``understep/data/board.schema.json`` too.

    Examples
    --------
    >>> import understep as us
    >>> us.board_schema()["title"]
    'A board file'
    """
    made = FilePart.model_json_schema(mode="validation")
    made |= {"$schema": "https://json-schema.org/draft/2020-12/schema", "title": "A board file"}
    return made


class WorldPart(_Part):
    """The index of a folder that holds a world; its sectors are board files."""

    understep_world: Literal[2]
    size: tuple[Place, Place]
    sector: int = Field(ge=1)
    sectors: dict[str, str]  # "col.row" among the sectors to the end of a file's name
    edges: list[LaidPart] = Field(default_factory=list)
    links: list[LinkPart] = Field(default_factory=list)
    movements: dict[str, MovementPart] = Field(default_factory=dict)
    units: dict[str, UnitPart] = Field(default_factory=dict)


P = TypeVar("P", bound=BaseModel)


def validated(raw: bytes, source: str, part: type[P]) -> P:
    """Check the bytes of a file; every fault of form is listed with its place."""
    if len(raw) > MOST_BYTES:
        raise BoardFileError(source, [("", f"larger than {MOST_BYTES >> 20} MiB")])
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
        return part.model_validate_json(json.dumps(content))
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
        return "is no key of this file"
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
