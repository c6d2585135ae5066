"""What lies on the cells of a board, as keys of a file: one codec for each part of its contents."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Annotated, Any, NamedTuple

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, WithJsonSchema

from understep.boards.board import Board
from understep.boards.cost import exact, plain
from understep.boards.edges import Laid
from understep.boards.links import Link
from understep.boards.surface import MOST_LEVEL
from understep.files.bounded import FileObject
from understep.files.codec import At, Faults, ListOf, Number, PairOf, TableOf, number, shown
from understep.grids.cell import Cell

NO_CELL = " "  # among the glyphs of the rows
Level = Annotated[
    Annotated[int | float, Field(ge=-MOST_LEVEL, le=MOST_LEVEL)],
    WithJsonSchema({"type": "number", "minimum": -MOST_LEVEL, "maximum": MOST_LEVEL}),
]


class LaidPart(FileObject):
    """One edge between two cells."""

    at: PairOf[At]
    kind: str
    both: bool = True
    open: bool = False


class LinkPart(FileObject):
    """One link between two cells."""

    at: PairOf[At]
    cost: Number
    kind: str
    both: bool = True


class BlockPart(FileObject):
    """Cells closed to a side, or to everybody."""

    side: str | None = None
    cells: ListOf[At]


class PlacedPart(FileObject):
    """Features of a kind, one on each of some cells."""

    kind: str
    cells: ListOf[At]


class ValuePart(FileObject):
    """Cells whose property is not the default."""

    value: bool | int | float | str
    cells: ListOf[At]


class LandPart(FileObject):
    """What lies on cells; of a side, as it remembers it."""

    rows: ListOf[str]  # of glyphs; a space where there is no cell, or one never seen
    edges: ListOf[LaidPart] = Field(default_factory=list)
    elevation: ListOf[ListOf[Level]] | None = None
    links: ListOf[LinkPart] = Field(default_factory=list)
    blocks: ListOf[BlockPart] = Field(default_factory=list)
    features: ListOf[PlacedPart] = Field(default_factory=list)
    values: TableOf[ListOf[ValuePart]] = Field(default_factory=dict)


def read_rows(
    lines: list[str], size: tuple[int, int], names: dict[str, str], place: str, faults: Faults
) -> dict[str, list[int]]:
    """Numbers of cells by terrain, from the rows of glyphs."""
    cols, rows = size
    if len(lines) != rows:
        # rows that are there are read all the same, for their own faults
        faults.add(f"{place}rows", f"must be {rows}, as the grid has; there are {len(lines)}")
    found: dict[str, list[int]] = {}
    for row, line in enumerate(lines[:rows]):
        # each row by itself, so that all wrong rows are named at once
        if len(line) != cols:
            what = f"must have {cols} glyphs, as the grid; it has {len(line)}"
            faults.add(f"{place}rows.{row}", what)
            continue
        for col, glyph in enumerate(line):
            if glyph == NO_CELL:
                continue
            if glyph not in names:
                faults.add(f"{place}rows.{row}", f"glyph {glyph!r} at column {col} is in no legend")
                # one fault a row: the others are mostly of the same glyph
                break
            found.setdefault(names[glyph], []).append(row * cols + col)
    return found


def write_rows(board: Board, known: NDArray[np.bool_]) -> list[str]:
    """The rows of glyphs; a blank where a cell is not known, or does not exist."""
    glyphs = [kind.glyph or "?" for kind in board.terrains.values()]
    codes = np.where(known & board.grid.exists, board.terrain_codes(), len(glyphs))
    # the code after the last terrain: what is not known there must not show
    glyphs.append(NO_CELL)
    return ["".join(glyphs[code] for code in row) for row in codes.tolist()]


def _read_edges(board: Board, parts: list[LaidPart], place: str, faults: Faults) -> None:
    for at, part in enumerate(parts):
        faults.build(f"{place}.{at}", lay_edge, board, read_edge(part))


def read_edge(part: LaidPart) -> Laid:
    """An edge that stands by itself."""
    return Laid(Cell(*part.at[0]), Cell(*part.at[1]), part.kind, part.open, part.both)


def lay_edge(board: Board, edge: Laid) -> None:
    """Put an edge on a board."""
    board.set_edge(edge.a, edge.b, edge.kind, both=edge.both, is_open=edge.is_open)


def write_edges(edges: Iterable[Laid]) -> list[dict[str, Any]]:
    """Edges, each with its cells."""
    return [
        {"at": [list(edge.a), list(edge.b)], "kind": edge.kind}
        | ({} if edge.both else {"both": False})
        | ({"open": True} if edge.is_open else {})
        for edge in edges
    ]


def _read_elevation(
    board: Board, lines: list[list[int | float]] | None, place: str, faults: Faults
) -> None:
    if lines is None:
        return
    shape = board.grid.rows, board.grid.cols
    if [len(line) for line in lines] != [shape[1]] * shape[0]:
        faults.add(place, f"must have {shape[0]} rows of {shape[1]} numbers, as the grid")
        return
    faults.build(place, board.set_elevation, np.array(lines))


def _write_elevation(board: Board) -> list[Any]:
    # most boards are flat
    if not board.elevation.any():
        return []
    return [
        # as people write levels
        [int(level) if level == int(level) else level for level in row]
        for row in board.elevation.tolist()
    ]


def _read_links(board: Board, parts: list[LinkPart], place: str, faults: Faults) -> None:
    for at, part in enumerate(parts):
        link = faults.build(f"{place}.{at}", read_link, part)
        if link is not None:
            faults.build(f"{place}.{at}", board.link, *link[:3], both=link.both, kind=link.kind)


def read_link(part: LinkPart) -> Link:
    """A link that stands by itself."""
    cost = plain(exact(number(part.cost, "cost"), "cost"))
    return Link(Cell(*part.at[0]), Cell(*part.at[1]), cost, part.kind, part.both)


def write_links(links: Iterable[Link]) -> list[dict[str, Any]]:
    """Links, each with its cells."""
    return [
        {
            "at": [list(link.a), list(link.b)],
            "cost": shown(exact(link.cost, "cost")),
            "kind": link.kind,
        }
        | ({} if link.both else {"both": False})
        for link in links
    ]


def _read_blocks(board: Board, parts: list[BlockPart], place: str, faults: Faults) -> None:
    for at, part in enumerate(parts):
        faults.build(f"{place}.{at}", board.block, part.cells, side=part.side)


def _write_blocks(board: Board) -> list[dict[str, Any]]:
    return [
        ({} if side is None else {"side": side}) | {"cells": cells.array.tolist()}
        for side in (None, *board.blocked_sides)
        for cells in board._features.layers(board._contents.blocks(side))
    ]


def _read_features(board: Board, parts: list[PlacedPart], place: str, faults: Faults) -> None:
    for at, part in enumerate(parts):
        faults.build(f"{place}.{at}", board.place, part.kind, part.cells)


def _write_features(board: Board) -> list[dict[str, Any]]:
    return [{"kind": kind, "cells": cells.array.tolist()} for kind, cells in board.features()]


def _read_values(
    board: Board, parts: dict[str, list[ValuePart]], place: str, faults: Faults
) -> None:
    # a property has a type and a default: it must be declared
    for name in parts.keys() - board.properties.keys():
        faults.add(f"{place}.{name}", "no property of this name in this file")
    for name, values in parts.items():
        for at, part in enumerate(values):
            given = name, part.value, part.cells
            faults.build(f"{place}.{name}.{at}", board.set_value, *given)


def _write_values(board: Board) -> dict[str, Any]:
    """By property the values that are not the default, each with its cells."""
    cells, every = board.grid.cells, {}
    for name, default in board.properties.items():
        found: dict[Any, list[list[int]]] = {}
        values = board.values(name)[board.grid.index(cells)].tolist()
        for cell, value in zip(cells, values, strict=True):
            # cells that are alike share one entry
            if value != default:
                found.setdefault(value, []).append(list(cell))
        every[name] = [{"value": value, "cells": cells} for value, cells in found.items()]
    return every


class Codec(NamedTuple):
    """How one part of the contents is read onto a board, and written."""

    read: Callable[[Board, Any, str, Faults], None]
    write: Callable[[Board], Any]


CODECS = {
    "edges": Codec(_read_edges, lambda board: write_edges(board.edges())),
    "elevation": Codec(_read_elevation, _write_elevation),
    "links": Codec(_read_links, lambda board: write_links(board.links())),
    "blocks": Codec(_read_blocks, _write_blocks),
    "features": Codec(_read_features, _write_features),
    "values": Codec(_read_values, _write_values),
}


def read_land(
    board: Board, part: LandPart, terrain: dict[str, list[int]], place: str, faults: Faults
) -> None:
    """All that lies on cells, onto a board; ``place`` is where its part stands in the file."""
    # terrain first: walls, features and blocks are laid over it
    for name, numbers in terrain.items():
        board.paint(name, board.grid.numbering.cells_of(np.array(numbers)))
    for key, codec in CODECS.items():
        codec.read(board, getattr(part, key), f"{place}{key}", faults)


def write_land(board: Board) -> dict[str, Any]:
    """All that lies on cells but terrain, where there is any."""
    parts = {key: codec.write(board) for key, codec in CODECS.items()}
    return {key: part for key, part in parts.items() if part}
