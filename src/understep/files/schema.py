"""The form of a board file, and of the index of a world."""

from __future__ import annotations

from typing import Annotated, Any, Literal, TypeAlias

from pydantic import Field

from understep.boards.edge import Edge
from understep.boards.terrain import MOST, Terrain
from understep.files.bounded import Part
from understep.files.codec import At, Form, Many, Table
from understep.files.land import LaidPart, LandPart, LinkPart
from understep.files.units import Movements, Units
from understep.grids.frame import Frame
from understep.grids.systems import Shifted, Top

VERSION = 4
MOST_CELLS = 1 << 24
FRAME, TERRAIN, EDGE = Form(Frame), Form(Terrain, always=("cost", "glyph")), Form(Edge)
TerrainPart: TypeAlias = Annotated[Any, TERRAIN]


class GridPart(Part):
    """The grid."""

    kind: Literal["square", "hex"]
    cols: int = Field(ge=1, le=MOST_CELLS)
    rows: int = Field(ge=1, le=MOST_CELLS)
    first: At = (0, 0)
    diagonals: bool | None = None
    top: Top | None = None
    shifted: Shifted | None = None
    frame: Annotated[Any, FRAME] = Field(default_factory=dict, validate_default=True)


class PropertyPart(Part):
    """A declared property of cells."""

    type: Literal["bool", "int", "float", "str"]
    default: bool | int | float | str


class TurnPart(Part):
    """Whose turn it is."""

    sides: Many[str]
    side: str
    round: int = Field(ge=1)
    used: Table[int] = Field(default_factory=dict)


class KnowledgePart(LandPart):
    """What a side knows: the land, as it remembers it, and units of others as last seen."""

    units: Units = Field(default_factory=dict)


class FilePart(LandPart):
    """The whole file."""

    understep: Literal[4]
    title: str = ""
    grid: GridPart
    terrain: Table[TerrainPart] = Field(min_length=1, max_length=MOST)
    edge_kinds: Table[Annotated[Any, EDGE]] = Field(default_factory=dict)
    properties: Table[PropertyPart] = Field(default_factory=dict)
    movements: Movements = Field(default_factory=dict)
    units: Units = Field(default_factory=dict)
    sides: Many[str] = Field(default_factory=list)  # in order, where units do not say so
    turn: TurnPart | None = None
    knowledge: Table[KnowledgePart] = Field(default_factory=dict)


def board_schema() -> dict[str, Any]:
    """Return the form of a board file as a JSON Schema (draft 2020-12).

    For editors and other programs. It says what a schema can say: keys, types and limits. That
    glyphs fit the legend, or that no two units share a cell, only `load` knows. The same is shipped
    as ``understep/data/board.schema.json``.

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

    understep_world: Literal[3]
    size: At
    sector: int = Field(ge=1)
    sectors: Table[str]  # "col.row" among the sectors to the end of a file's name
    edges: Many[LaidPart] = Field(default_factory=list)
    links: Many[LinkPart] = Field(default_factory=list)
    movements: Movements = Field(default_factory=dict)
    units: Units = Field(default_factory=dict)
