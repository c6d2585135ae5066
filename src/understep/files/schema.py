"""The form of a board file."""

from __future__ import annotations

from typing import Annotated, Any, Literal, TypeAlias, TypeVar

from pydantic import Field, Strict

from understep.boards.attack import Affects, Measure
from understep.boards.pattern import Shape
from understep.boards.terrain import MOST, Pattern
from understep.files.bounded import Few, Part
from understep.grids.frame import View, YAxis
from understep.grids.systems import Shifted, Top
from understep.rules.movement import Corners, Passes

# 2: hazard, cover, closed ground, properties, links, blocks, more of movements; 3: sight, attacks,
# turns, knowledge
VERSION = 3
MOST_CELLS = 1 << 24
FRAME = ("cell", "origin", "rotation", "y_axis", "view", "lift")  # keys of the grid
NO_CELL = " "  # among the glyphs of the ground

Number = int | float | str  # a text such as "1/3" where a decimal would not be exact
Place = Annotated[int, Field(ge=-(1 << 31), le=1 << 31)]
T = TypeVar("T")
# JSON has lists alone
Pair: TypeAlias = Annotated[tuple[T, T], Strict(False)]
At: TypeAlias = Pair[Place]
Many: TypeAlias = Annotated[list[T], Few]
Table: TypeAlias = Annotated[dict[str, T], Few]


class GridPart(Part):
    """The grid."""

    kind: Literal["square", "hex"]
    cols: int = Field(ge=1, le=MOST_CELLS)
    rows: int = Field(ge=1, le=MOST_CELLS)
    first: At = (0, 0)
    diagonals: bool | None = None
    top: Top | None = None
    shifted: Shifted | None = None
    cell: Pair[float] | None = None
    origin: Pair[float] = (0.0, 0.0)
    rotation: float = 0.0
    y_axis: YAxis = "down"
    view: View = "plan"
    lift: float = 0.0


class TerrainPart(Part):
    """One terrain."""

    cost: Number | None
    glyph: str
    tint: str | None = None
    pattern: Pattern = "plain"
    hazard: Number = 0
    cover: float = 0.0
    closed_to: Many[str] = Field(default_factory=list)


class EdgePart(Part):
    """One kind of edge."""

    blocks: bool = False
    cost: Number | None = None
    add: Number = 0
    hides: bool = False
    door: bool = False


class LaidPart(Part):
    """One edge between two cells."""

    at: Pair[At]
    kind: str
    both: bool = True
    open: bool = False


class LinkPart(Part):
    """One link between two cells."""

    at: Pair[At]
    cost: Number
    kind: str
    both: bool = True


class BlockPart(Part):
    """Cells closed to a side, or to everybody."""

    to: str | None = None
    cells: Many[At]


class PropertyPart(Part):
    """A declared property of cells."""

    type: Literal["bool", "int", "float", "str"]
    default: bool | int | float | str


class ValuePart(Part):
    """Cells whose property is not the default."""

    value: bool | int | float | str
    cells: Many[At]


class LeapPart(Part):
    """How a movement leaps."""

    over: int = 1
    ground: Many[str] | None = None
    up: Number | None = 0
    down: Number | None = 0
    cost: Number = 2


class MovementPart(Part):
    """One movement."""

    points: Number
    costs: Table[Number | None] | Number = Field(default_factory=dict)
    diagonal: Number | None = 1  # or "alternating"
    corners: Corners = "both"
    passes: Passes = "own"
    edges: Table[Number | None] = Field(default_factory=dict)  # or "open"
    links: Table[Number | None] = Field(default_factory=dict)
    climb: Number | None = None
    drop: Number | None = None
    uphill: Number = 0
    downhill: Number = 0
    footprint: Many[At] = Field(default_factory=lambda: [(0, 0)])
    layer: str = "ground"
    zones: Number = "ignore"  # or "end"
    guards: bool = True
    foe_corners: bool = False
    one_step: bool = False
    carry: Number = 0
    leap: LeapPart | None = None
    rule: str | None = None  # the name of a function, which is given to the reader


class PatternPart(Part):
    """The cells that an attack affects."""

    shape: Shape = "cell"
    size: int = 0
    angle: float | None = None
    offsets: Many[At] = Field(default_factory=list)


class AttackPart(Part):
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


class UnitPart(Part):
    """One unit."""

    side: str
    at: At
    movement: str
    left: Number | None = None
    facing: str | None = None
    sight: int | None = None
    eye: Number = 0.5
    attack: AttackPart | None = None


class TurnPart(Part):
    """Whose turn it is."""

    sides: Many[str]
    side: str
    round: int = Field(ge=1)
    used: Table[int] = Field(default_factory=dict)


class KnowledgePart(Part):
    """What a side knows: the land, as it remembers it, and units of others as last seen."""

    ground: Many[str]  # a space where there is no cell, or one never seen
    elevation: Many[Many[int | float]] | None = None
    edges: Many[LaidPart] = Field(default_factory=list)
    links: Many[LinkPart] = Field(default_factory=list)
    blocks: Many[BlockPart] = Field(default_factory=list)
    values: Table[Many[ValuePart]] = Field(default_factory=dict)
    units: Table[UnitPart] = Field(default_factory=dict)


class FilePart(Part):
    """The whole file."""

    understep: Literal[1, 2, 3]
    title: str = ""
    grid: GridPart
    terrain: Table[TerrainPart] = Field(min_length=1, max_length=MOST)
    ground: Many[str]  # a space where there is no cell
    edge_kinds: Table[EdgePart] = Field(default_factory=dict)
    edges: Many[LaidPart] = Field(default_factory=list)
    elevation: Many[Many[int | float]] | None = None
    links: Many[LinkPart] = Field(default_factory=list)
    blocks: Many[BlockPart] = Field(default_factory=list)
    properties: Table[PropertyPart] = Field(default_factory=dict)
    values: Table[Many[ValuePart]] = Field(default_factory=dict)
    movements: Table[MovementPart] = Field(default_factory=dict)
    units: Table[UnitPart] = Field(default_factory=dict)
    sides: Many[str] = Field(default_factory=list)  # in order, where units do not say so
    turn: TurnPart | None = None
    knowledge: Table[KnowledgePart] = Field(default_factory=dict)


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


class WorldPart(Part):
    """The index of a folder that holds a world; its sectors are board files."""

    understep_world: Literal[2]
    size: At
    sector: int = Field(ge=1)
    sectors: Table[str]  # "col.row" among the sectors to the end of a file's name
    edges: Many[LaidPart] = Field(default_factory=list)
    links: Many[LinkPart] = Field(default_factory=list)
    movements: Table[MovementPart] = Field(default_factory=dict)
    units: Table[UnitPart] = Field(default_factory=dict)
