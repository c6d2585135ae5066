"""Worlds from what a team already has: a large image, a table of ids, an array on disk."""

from __future__ import annotations

import os
from collections.abc import Mapping
from typing import Any

import numpy as np
from numpy.typing import NDArray

from understep.boards.board import Board
from understep.checks import expect, path_of
from understep.errors import MOST_FAULTS, BoardFileError, InputError
from understep.grids.cell import Cell
from understep.grids.grid import Grid
from understep.maps._levels import read_table, table_ids
from understep.maps._read_image import NO_CELL_ID, color_ids, pixels_of
from understep.worlds._sectors import Save
from understep.worlds._world import World

MOST_PIXELS = 1 << 26
BLOCK = 256  # rows that are looked at in one go


def read_world(
    source: str | os.PathLike[str] | NDArray[Any],
    legend: Mapping[Any, str | None],
    terrain: Mapping[str, Any],
    *,
    grid: type[Grid],
    tolerance: int = 0,
    sector: int = 64,
    memory: int = 256 << 20,
    save: Save | None = None,
    **kind: Any,
) -> World:
    """Make a world of an image, a table of tile ids, or an array, without one board of it all.

    Sectors are cut from it when they are wanted. What is kept are two bytes a cell; of an array on
    disk (`.npy`, or `numpy.memmap`) only what is looked at.

    Parameters
    ----------
    source
        A PNG file (or another image that Pillow reads) of at most 2**26 pixels; a CSV file of ids
        without a header, of at most 64 MiB; a ``.npy`` file, or an array: whole numbers
        ``(rows, cols)``, or colours, uint8 ``(rows, cols, 3 or 4)``.
    legend
        Colour as ``"#rrggbb"``, or id, to the name of a terrain; None where there is no cell.
    terrain
        Name to cost, None (impassable) or `Terrain`, as for `Board`.
    grid
        `SquareGrid` or `HexGrid`; its first cell is (0, 0).
    tolerance
        Of colours, as of `maps.read_image`.
    sector, memory, save
        As of `World`.
    kind
        What the grid takes besides: ``diagonals``, or ``top`` and ``shifted``; ``frame``.

    Returns
    -------
    World

    Raises
    ------
    BoardFileError
        A file that cannot be read as such, too large a one; ids or colours that are in no legend,
        with their places (the first 20).
    InputError
        A legend with a name that ``terrain`` has not, an array of another shape or type.
    MissingExtraError
        Pillow is not installed; for images only.
    OSError
        The file cannot be read.

    Examples
    --------
    >>> import numpy as np, understep as us
    >>> ids = np.zeros((3000, 4000), dtype=np.uint8)
    >>> ids[1000:1010] = 7
    >>> legend, terrain = {0: "turf", 7: "deep"}, {"turf": 1, "deep": None}
    >>> world = us.worlds.read_world(ids, legend, terrain, grid=us.HexGrid)
    >>> world.near((2, 1000)).terrain((2, 1004)), world.size
    ('deep', (4000, 3000))
    """
    expect("legend", legend, Mapping, "must give names of terrains by id or colour")
    table, name = _table(source)
    if table.ndim == 3:
        table = _of_colors(table, legend, tolerance, name)
        legend = dict(enumerate(legend.values())) | {NO_CELL_ID: None}
    elif table.ndim != 2 or table.dtype.kind not in "iu" or not table.size:
        raise InputError("source", "must be whole numbers (rows, cols), or colours", table.shape)
    else:
        _check(table, legend, name)
    empty = np.array([sign for sign, word in legend.items() if word is None], dtype=np.int64)
    read_table(table[:1, :1], legend, terrain, grid=grid, **kind)  # what is wrong raises now

    def make(first: Cell, cols: int, rows: int) -> Board | None:
        part = np.asarray(table[first.row : first.row + rows, first.col : first.col + cols])
        if np.isin(part, empty).all():
            return None
        return read_table(part, legend, terrain, grid=grid, first=first, **kind)

    rows, cols = table.shape
    return World(make, cols, rows, sector=sector, memory=memory, save=save)


def _table(source: str | os.PathLike[str] | NDArray[Any]) -> tuple[NDArray[Any], str]:
    """What lies in a source, as an array that may be on disk, and its name."""
    if isinstance(source, np.ndarray):
        return source, "source"
    path = path_of("source", source)
    if path.suffix.lower() == ".csv":
        return table_ids(path), path.name
    if path.suffix.lower() != ".npy":
        return pixels_of(path, MOST_PIXELS)
    try:
        return np.load(path, mmap_mode="r", allow_pickle=False), path.name
    except (ValueError, EOFError) as error:
        raise BoardFileError(path.name, [("", f"is no array: {error}")]) from None


def _of_colors(
    pixels: NDArray[Any], legend: Mapping[Any, str | None], tolerance: int, name: str
) -> NDArray[np.int16]:
    """The place in a legend of every pixel's colour."""
    found = np.empty(pixels.shape[:2], dtype=np.int16)
    for row in range(0, len(pixels), BLOCK):
        block = np.asarray(pixels[row : row + BLOCK])
        found[row : row + BLOCK] = color_ids(block, legend, tolerance, name, row)
    return found


def _check(table: NDArray[Any], legend: Mapping[Any, str | None], name: str) -> None:
    """Refuse ids that are in no legend."""
    known = np.array(list(legend))
    faults: list[tuple[str, str]] = []
    more = 0
    for first in range(0, len(table), BLOCK):
        block = np.asarray(table[first : first + BLOCK])
        strange = ~np.isin(block, known)
        for row, col in np.argwhere(strange)[: MOST_FAULTS - len(faults)].tolist():
            what = f"{block[row, col].item()!r} is in no legend"
            faults.append((f"row {first + row}, column {col}", what))
        more += int(strange.sum())
    if faults:
        raise BoardFileError(name, faults, more - len(faults))
