"""Levels from what a team already has: rows of text, and tables of tile ids."""

from __future__ import annotations

import csv
import io
import os
from array import array
from collections.abc import Iterable, Mapping
from dataclasses import replace
from pathlib import Path
from typing import Any, Literal, TypeAlias

import numpy as np
from numpy.typing import NDArray

from understep.boards.board import Board
from understep.boards.terrain import Terrain, TerrainLike
from understep.checks import expect, items, path_of, truth, whole
from understep.errors import MOST_FAULTS, BoardFileError, InputError
from understep.files.bounded import decoded, read_bytes
from understep.files.schema import MOST_CELLS
from understep.grids.grid import Grid

BottomFirst: TypeAlias = bool | Literal["mirrored"]


def read_text(
    rows: str | Iterable[str],
    legend: Mapping[str, str | None],
    terrain: Mapping[str, Any],
    *,
    grid: type[Grid],
    spaced: bool = False,
    bottom_first: BottomFirst = False,
    **kind: Any,
) -> Board:
    """Make a board of rows of glyphs.

    Parameters
    ----------
    rows
        The rows, or a text with a row a line; blank lines at both ends do not count.
    legend
        Glyph to the name of a terrain; None where there is no cell.
    terrain
        Name to cost, None (impassable) or `Terrain`, as for `Board`. Those without a glyph get the
        first that the legend has for them.
    grid
        `SquareGrid` or `HexGrid`.
    spaced
        Whether glyphs are parted by blanks, so that rows may be set in.
    bottom_first
        Whether the first row listed is the bottom row of the board. ``shifted`` of pointy tops
        counts rows as they are listed; that of flat tops says which columns lie half a cell further
        down on the screen. ``"mirrored"``: it says which columns lie further up, as where y grows
        upwards.
    kind
        What the grid takes besides size: ``diagonals``, or ``top`` and ``shifted``; ``first``,
        ``frame``.

    Returns
    -------
    Board
        With nothing to undo.

    Raises
    ------
    BoardFileError
        Rows of different lengths or glyphs that are in no legend; all are listed with their places.
    InputError
        A legend with a name that ``terrain`` has not, or no rows.

    Examples
    --------
    >>> import understep as us
    >>> board = us.maps.read_text(
    ...     '''
    ...     . . ~
    ...      . ~ .
    ...     ''',
    ...     legend={".": "turf", "~": "deep"}, terrain={"turf": 1, "deep": None},
    ...     grid=us.HexGrid, spaced=True,
    ... )
    >>> board.grid.size, board.terrain((1, 1))
    ((3, 2), 'deep')
    """
    spaced = truth("spaced", spaced)
    every = rows.splitlines() if isinstance(rows, str) else rows
    lines = list(map(str, items("rows", every, "must be a text, or texts")))
    if isinstance(rows, str):
        while lines and not lines[0].strip():
            # a text in triple quotes begins and ends with a blank line
            del lines[0]
        while lines and not lines[-1].strip():
            del lines[-1]
    split = [line.split() if spaced else list(line) for line in lines]
    return _board(split, legend, terrain, grid, bottom_first, kind, "rows")


def read_table(
    table: str | os.PathLike[str] | NDArray[Any],
    legend: Mapping[int, str | None],
    terrain: Mapping[str, Any],
    *,
    grid: type[Grid],
    width: int | None = None,
    bottom_first: BottomFirst = False,
    **kind: Any,
) -> Board:
    """Make a board of a table of tile ids.

    Parameters
    ----------
    table
        A CSV file without a header, a row a line, at most 64 MiB; or an integer array
        ``(rows, cols)``, or lists of whole numbers; with ``width`` a single list, row by row.
    legend
        Id to the name of a terrain; None where there is no cell.
    width
        How many columns a flat list or array has; None: it is not flat.
    terrain, grid, bottom_first, kind
        As in `read_text`.

    Returns
    -------
    Board
        With nothing to undo.

    Raises
    ------
    BoardFileError
        Rows of different lengths, fields that are not whole numbers, ids that are in no legend; all
        are listed with their places (the first 20).
    InputError
        A legend with a name that ``terrain`` has not, an array of another shape or type, or a width
        that does not divide a flat list.
    OSError
        The file cannot be read.

    Examples
    --------
    >>> import numpy as np, understep as us
    >>> ids = np.array([[1, 1, 7], [1, 0, 7]])
    >>> legend = {1: "turf", 7: "deep", 0: None}
    >>> board = us.maps.read_table(ids, legend, {"turf": 1, "deep": None}, grid=us.SquareGrid)
    >>> board.terrain((2, 0)), (1, 1) in board.grid
    ('deep', False)
    """
    if width is not None:
        table = _in_rows(table, whole("width", width, 1))
    if isinstance(table, np.ndarray):
        if table.ndim != 2 or table.dtype.kind not in "iu" or not table.size:
            raise InputError("table", "must be whole numbers (rows, cols)", table.shape)
        return _board(table, legend, terrain, grid, bottom_first, kind, "table")
    if isinstance(table, list | tuple):
        rows = [list(row) if isinstance(row, list | tuple) else [row] for row in table]
        ids = _whole(_signs(rows, "table"), rows)
        return _board(ids, legend, terrain, grid, bottom_first, kind, "table")
    path = path_of("table", table)
    return _board(table_ids(path), legend, terrain, grid, bottom_first, kind, path.name)


def table_ids(path: Path) -> NDArray[np.int64]:
    """The ids in a CSV file, ``(rows, cols)``."""
    return _numbers(read_bytes(path), path.name)


def _in_rows(table: Any, width: int) -> Any:
    """A flat list or array in rows."""
    expect("table", table, (list, tuple, np.ndarray), "must be a list or array, with a width")
    if len(table) % width or not len(table):
        raise InputError("width", f"must divide the {len(table)} ids of the table", width)
    flat = table.tolist() if isinstance(table, np.ndarray) else table
    return [list(flat[start : start + width]) for start in range(0, len(flat), width)]


def _numbers(raw: bytes, source: str) -> NDArray[np.int64]:
    """The whole numbers of a CSV file, ``(rows, cols)``."""
    text = decoded(raw, source, "utf-8-sig")
    faults: list[tuple[str, str]] = []
    numbers, wide, rows = array("q"), 0, 0
    reader = csv.reader(io.StringIO(text, newline=""), strict=True)
    try:
        for fields in reader:
            for column, field in enumerate(fields, start=1):
                number = field.strip()
                # eighteen digits fit 64 bits
                if number.removeprefix("-").isdecimal() and number.isascii() and len(number) < 19:
                    numbers.append(int(number))
                else:
                    place = f"line {reader.line_num}, column {column}"
                    faults.append((place, f"{field[:20]!r} is not a whole number"))
            # a blank line is no row
            if fields and rows and len(fields) != wide:
                what = f"has {len(fields)} cells, and row 0 has {wide}"
                faults.append((f"row {rows}", what))
            wide = wide if rows else len(fields)
            rows += bool(fields)
            # a file of another kind would have millions
            if len(faults) >= MOST_FAULTS:
                break
    except csv.Error as error:
        faults.append((f"line {reader.line_num}", f"is no CSV: {error}"))
    if not rows and not faults:
        faults.append(("", "has no rows"))
    if faults:
        raise BoardFileError(source, faults)
    return np.array(numbers, dtype=np.int64).reshape(rows, wide)


def _board(
    rows: Any,
    legend: Mapping[Any, str | None],
    terrain: Mapping[str, Any],
    grid: type[Grid],
    bottom_first: BottomFirst,
    kind: dict[str, Any],
    source: str,
) -> Board:
    """A board of rows of signs of any kind."""
    mirrored = isinstance(bottom_first, str) and bottom_first == "mirrored"
    if type(bottom_first) is not bool and not mirrored:
        raise InputError("bottom_first", "must be True, False or 'mirrored'", bottom_first)
    if not (isinstance(grid, type) and issubclass(grid, Grid)) or grid is Grid:
        raise InputError("grid", "must be SquareGrid or HexGrid", grid)
    table = _glyphs(terrain, legend)
    signs = _signs(rows, source)
    names = [None, *table]
    values, places = _distinct(signs)
    known = [sign in legend for sign in values.tolist()]
    if not all(known):
        missing = ~np.array(known)[places]
        faults = [
            (f"row {row}, column {col}", f"{signs[row, col].item()!r} is in no legend")
            for row, col in np.argwhere(missing)[:MOST_FAULTS].tolist()
        ]
        raise BoardFileError(source, faults, int(missing.sum()) - len(faults))
    # by the place of a terrain, from 1: 0 is no cell
    codes = np.array([names.index(legend[sign]) for sign in values.tolist()])
    codes = codes[places]
    height, width = codes.shape
    make: Any = grid
    made = make(width, height, exists=codes > 0, **kind)
    if bottom_first:
        # which lines are shifted is counted from the other end then
        codes = codes[::-1]
        if mirrored or made.lattice.stagger != 2:
            made = made.flipped()
        else:
            made = make(width, height, exists=codes > 0, **kind)
    board = Board(made, table)
    for code, name in enumerate(table, start=1):
        board.paint(name, codes == code)
    # what is read from a file cannot be undone
    board.forget()
    return board


def _distinct(signs: NDArray[Any]) -> tuple[NDArray[Any], NDArray[Any]]:
    """The different signs, and the place of each sign among them."""
    if signs.dtype.kind in "iu":
        low, high = int(signs.min()), int(signs.max())
        # ids that lie close together are counted, which is faster than to sort them
        if high < 1 << 63 and high - low < signs.size:
            offsets = signs.astype(np.int64) - low
            there = np.bincount(offsets.ravel()) > 0
            return np.flatnonzero(there) + low, (np.cumsum(there) - 1)[offsets]
    values, places = np.unique(signs, return_inverse=True)
    return values, places.reshape(signs.shape)


def _signs(rows: Any, source: str) -> NDArray[Any]:
    """Rows of signs as an array, if they are of one length."""
    if isinstance(rows, np.ndarray):
        # as bounded as a board file
        if rows.size > MOST_CELLS:
            raise BoardFileError(source, [("", f"more than {MOST_CELLS} cells")])
        return rows
    if not rows or not rows[0]:
        raise BoardFileError(source, [("", "has no rows")])
    wide = len(rows[0])
    if wide * len(rows) > MOST_CELLS:
        raise BoardFileError(source, [("", f"more than {MOST_CELLS} cells")])
    faults = [
        (f"row {number}", f"has {len(row)} cells, and row 0 has {wide}")
        for number, row in enumerate(rows)
        if len(row) != wide
    ]
    if faults:
        raise BoardFileError(source, faults)
    try:
        return np.array(rows)
    except ValueError:  # some of them are lists of different lengths
        return np.array([[str(sign) for sign in row] for row in rows])


def _whole(ids: NDArray[Any], rows: list[list[Any]]) -> NDArray[Any]:
    """The ids of a table that was given as lists, if all of them are whole numbers."""
    truths = any(isinstance(each, bool | np.bool_) for row in rows for each in row)
    if ids.ndim == 2 and ids.dtype.kind in "iu" and not truths:
        return ids
    faults = [
        (f"row {row}, column {col}", f"{str(each)[:20]!r} is not a whole number of 64 bits")
        for row, every in enumerate(rows)
        for col, each in enumerate(every)
        if not isinstance(each, int | np.integer) or isinstance(each, bool) or abs(int(each)) >> 63
    ]
    if faults:
        raise BoardFileError("table", faults[:MOST_FAULTS], max(0, len(faults) - MOST_FAULTS))
    return np.array([list(map(int, row)) for row in rows], dtype=np.int64)


def _glyphs(terrain: Mapping[str, Any], legend: Mapping[Any, str | None]) -> dict[str, TerrainLike]:
    """The terrains, those without a glyph with that of a text legend."""
    if not isinstance(terrain, Mapping) or not isinstance(legend, Mapping):
        raise InputError("terrain", "and legend must be tables", (terrain, legend))
    for sign, name in legend.items():
        if name is not None and not (isinstance(name, str) and name in terrain):
            raise InputError("legend", f"{sign!r} must name a terrain or None", name)
    table = dict(terrain)
    # a terrain's own glyph comes before that of a legend
    taken = {kind.glyph for kind in table.values() if isinstance(kind, Terrain)}
    for sign, name in legend.items():
        one = isinstance(sign, str) and len(sign) == 1 and sign.isprintable() and sign != " "
        # blanks mean that there is no cell; two terrains cannot share a glyph
        if name not in table or not one or sign in taken:
            continue
        kind = table[name]
        kind = kind if isinstance(kind, Terrain) else Terrain(kind)
        if kind.glyph is None:
            table[name] = replace(kind, glyph=sign)
    return table
