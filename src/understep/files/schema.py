"""The form of a board file, and of the index of a world."""

from __future__ import annotations

import json
from importlib import resources
from typing import Annotated, Any, Literal, TypeAlias

from pydantic import Field

from understep.boards.edge import Edge
from understep.boards.feature import Feature
from understep.boards.terrain import MOST, Terrain
from understep.files.bounded import FileObject
from understep.files.codec import At, DataPart, Form, ListOf, TableOf
from understep.files.land_codec import LaidPart, LandPart, LinkPart
from understep.files.unit_codec import MovementParts, UnitParts
from understep.grids.frame import Frame
from understep.grids.systems import Shifted, Top

VERSION = 4
MOST_CELLS = 1 << 24
FRAME, TERRAIN, EDGE = Form(Frame), Form(Terrain, always=("cost", "glyph")), Form(Edge)
FEATURE = Form(Feature, always=("glyph",))
TerrainPart: TypeAlias = Annotated[Any, TERRAIN]


class GridPart(FileObject):
    """The grid."""

    kind: Literal["square", "hex"]
    cols: int = Field(ge=1, le=MOST_CELLS)
    rows: int = Field(ge=1, le=MOST_CELLS)
    first: At = (0, 0)
    diagonals: bool | None = None
    top: Top | None = None
    shifted: Shifted | None = None
    frame: Annotated[Any, FRAME] = Field(default_factory=dict, validate_default=True)


class PropertyPart(FileObject):
    """A declared property of cells."""

    type: Literal["bool", "int", "float", "str"]
    default: bool | int | float | str


class TurnPart(FileObject):
    """Whose turn it is."""

    sides: ListOf[str]
    side: str
    round: int = Field(ge=1)
    used: TableOf[int] = Field(default_factory=dict)


class KnowledgePart(LandPart):
    """What a side knows: the land, as it remembers it, and units of others as last seen."""

    units: UnitParts = Field(default_factory=dict)
    fog: int = Field(default=0, ge=0)  # of a sector the number of the fog, as in the index


class FilePart(LandPart):
    """The whole file."""

    understep: Literal[4]
    title: str = ""
    data: DataPart = Field(default_factory=dict)
    grid: GridPart
    terrain: TableOf[TerrainPart] = Field(min_length=1, max_length=MOST)
    edge_kinds: TableOf[Annotated[Any, EDGE]] = Field(default_factory=dict)
    feature_kinds: TableOf[Annotated[Any, FEATURE]] = Field(default_factory=dict)
    properties: TableOf[PropertyPart] = Field(default_factory=dict)
    movements: MovementParts = Field(default_factory=dict)
    units: UnitParts = Field(default_factory=dict)
    sides: ListOf[str] = Field(default_factory=list)  # in order, where units do not say so
    turn: TurnPart | None = None
    knowledge: TableOf[KnowledgePart] = Field(default_factory=dict)


def board_schema() -> dict[str, Any]:
    """Return the form of a board file as a JSON Schema (draft 2020-12).

    For editors and other programs: ``understep/data/board.schema.json``. It says what a schema can
    say: keys, types and limits. That glyphs fit the legend, or that no two units share a cell, only
    `load` knows.

    Examples
    --------
    >>> import understep as us
    >>> us.maps.board_schema()["title"]
    'A board file'
    """
    shipped = resources.files("understep").joinpath("data", "board.schema.json")
    found: dict[str, Any] = json.loads(shipped.read_text("utf-8"))
    return found


def schema_of_form() -> dict[str, Any]:
    """The schema that is shipped, as pydantic derives it from the form; versions of it differ."""
    made = FilePart.model_json_schema(mode="validation")
    made |= {"$schema": "https://json-schema.org/draft/2020-12/schema", "title": "A board file"}
    return made


class WorldKnowledgePart(FileObject):
    """What a side knows beside what its sectors keep."""

    land_known: bool
    fog: int = Field(default=0, ge=0)  # its number, of all that have begun
    units: UnitParts = Field(default_factory=dict)
    edges: ListOf[LaidPart] = Field(default_factory=list)
    links: ListOf[LinkPart] = Field(default_factory=list)


class WorldPart(FileObject):
    """The index of a folder that holds a world; its sectors are board files."""

    understep_world: Literal[4]
    size: At
    sector: int = Field(ge=1)
    sectors: TableOf[str]  # "col.row" among the sectors to the end of a file's name
    edges: ListOf[LaidPart] = Field(default_factory=list)
    links: ListOf[LinkPart] = Field(default_factory=list)
    movements: MovementParts = Field(default_factory=dict)
    units: UnitParts = Field(default_factory=dict)
    sides: ListOf[str] = Field(default_factory=list)  # as in a board file
    knowledge: TableOf[WorldKnowledgePart] = Field(default_factory=dict)
    fogs: int = Field(default=0, ge=0)  # how many have begun
