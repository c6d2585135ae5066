"""Coordinate systems of hex grids: offset, axial, cube, doubled.

Offset is ``(col, row)``, the address in the level data. Axial ``(q, r)`` and cube ``(q, r, s)``
with ``q + r + s == 0`` are the same plane without the stagger. Doubled is offset with the staggered
axis counted in halves, so that neighbors differ by whole numbers and no row is special.
"""

from __future__ import annotations

from typing import Any, Literal, get_args

import numpy as np

from understep.checks import named
from understep.errors import CellError
from understep.grids.cell import FARTHEST, IntArray, blocks, cells_array, plain_numbers

System = Literal["offset", "axial", "cube", "doubled"]
Top = Literal["pointy", "flat"]
Shifted = Literal["odd", "even"]


def choice(value: object, allowed: Any, argument: str) -> str:
    """Return a word of a fixed few, or raise `NameUnknownError`."""
    return named(argument, "choice", value, get_args(allowed))


def convert(
    values: Any,
    source: System,
    target: System,
    *,
    top: Top = "pointy",
    shifted: Shifted = "odd",
) -> IntArray:
    """Convert hex coordinates from one system to another, exactly.

    Parameters
    ----------
    values
        One coordinate or an integer array ``(..., 2)``; ``(..., 3)`` for cube. Last axis: col, row
        (offset, doubled), q, r (axial) or q, r, s (cube).
    source, target
        ``"offset"``, ``"axial"``, ``"cube"`` or ``"doubled"``.
    top
        ``"pointy"``: hexes stand on a corner and rows are staggered; ``"flat"``: columns are.
    shifted
        Whether ``"odd"`` or ``"even"`` rows (columns) are moved half a cell onwards.

    Returns
    -------
    ndarray of int64
        The same shape, with a last axis of 2 (3 for cube). A new array.

    Raises
    ------
    CellError
        Values that are not whole numbers, cube triples whose sum is not 0, doubled pairs whose
        parity is wrong, cells whose column or row is beyond 2**40; the message names the first.
    NameUnknownError
        An unknown system, top or shift.

    Examples
    --------
    >>> import understep as us
    >>> us.convert((3, 2), "offset", "cube").tolist()
    [2, 2, -4]
    >>> us.convert([(2, 2, -4)], "cube", "doubled").tolist()
    [[6, 2]]
    """
    for value, words, argument in (
        (source, System, "source"),
        (target, System, "target"),
        (top, Top, "top"),
        (shifted, Shifted, "shifted"),
    ):
        choice(value, words, argument)
    parity = 0 if shifted == "odd" else 1
    width = 3 if source == "cube" else 2
    wide = 3 if target == "cube" else 2
    pair = plain_numbers(values, width)
    if pair is not None:
        _check(pair, source, top, parity)
        return np.array(_converted(pair, source, target, top, parity), dtype=np.int64)
    array = cells_array(values, "values", width, FARTHEST if source == "offset" else FARTHEST << 2)
    _check(np.moveaxis(array, -1, 0), source, top, parity)
    found = np.empty((*array.shape[:-1], wide), dtype=np.int64)
    for part, room in blocks(array, found):
        for axis, column in enumerate(_converted(part.T, source, target, top, parity)):
            room[:, axis] = column
    return found


# Each takes and gives whole numbers or whole arrays of them alike. A line is a row where tops are
# pointy, a column where they are flat; its place counts along it.


def shift(line: Any, parity: int) -> Any:
    """1 in shifted lines, 0 in the others; the parity is 0 where odd lines are shifted."""
    return (line + parity) & 1


def to_axial(place: Any, line: Any, parity: int) -> Any:
    """Axial place of an offset place, along the same line."""
    return place - ((line + parity) >> 1)


def from_axial(place: Any, line: Any, parity: int) -> Any:
    """Offset place of an axial place, along the same line."""
    return place + ((line + parity) >> 1)


def _converted(columns: Any, source: str, target: str, top: str, parity: int) -> Any:
    place, line = columns[:2] if top == "pointy" else columns[1::-1]
    if source == "doubled":
        place = (place - shift(line, parity)) >> 1
    if source in ("offset", "doubled") and target in ("axial", "cube"):
        place = to_axial(place, line, parity)
    elif source in ("axial", "cube") and target in ("offset", "doubled"):
        place = from_axial(place, line, parity)
    if target == "doubled":
        place = 2 * place + shift(line, parity)
    first, second = (place, line) if top == "pointy" else (line, place)
    return (first, second, -first - second) if target == "cube" else (first, second)


def _check(columns: Any, source: str, top: str, parity: int) -> None:
    """Refuse cube triples and doubled pairs that are not cells; name the first of them."""
    bad: Any = False
    rule = ""
    if source == "cube":
        bad = columns[0] + columns[1] + columns[2] != 0
        rule = "q + r + s must be 0"
    elif source == "doubled":
        place, line = columns[:2] if top == "pointy" else columns[1::-1]
        bad = (place - shift(line, parity)) & 1 != 0
        rule = "doubled: an offset cell is twice its place, plus one in a shifted row or column"
    if not np.any(bad) and source != "offset":
        across, down = _converted(columns, source, "offset", top, parity)
        bad = np.maximum(np.abs(across), np.abs(down)) > FARTHEST
        rule = "a cell is at most 2**40 columns and rows away"
    if np.any(bad):
        place = np.unravel_index(int(np.argmax(bad)), np.shape(bad)) if np.ndim(bad) else ()
        where = "values" + "".join(f"[{int(index)}]" for index in place)
        got = tuple(int(column[place]) if place else int(column) for column in columns)
        raise CellError("values", rule, got, where if place else "")


def round_cube(fractional: Any) -> IntArray:
    """Round fractional cube coordinates to the nearest cell.

    Parameters
    ----------
    fractional
        Float array ``(..., 3)``, each ``q + r + s`` near 0.

    Returns
    -------
    ndarray of int64, shape ``(..., 3)``
        Every triple sums to 0. A new array. Rounding moves each part: that which moved
        furthest is set from the other two; of equally far ones the first (q, then r).

    Raises
    ------
    CellError
        A last axis that is not 3, values that are not finite, or a sum away from 0.

    Examples
    --------
    >>> import understep as us
    >>> us.round_cube([0.4, 0.9, -1.3]).tolist()
    [0, 1, -1]
    """
    try:
        values = np.asarray(fractional, dtype=np.float64)
    except (TypeError, ValueError, OverflowError):
        raise CellError("fractional", "must be numbers (..., 3)", fractional) from None
    if values.ndim == 0 or values.shape[-1] != 3:
        raise CellError("fractional", "the last axis must be q, r, s", fractional)
    total = np.abs(values.sum(axis=-1))
    if not np.isfinite(total).all() or (total > 1e-6 * (1 + np.abs(values).max(initial=0))).any():
        raise CellError("fractional", "q + r + s must be finite and 0", fractional)
    near = np.floor(values + 0.5)
    whole: IntArray = mended(near, np.abs(near - values)).astype(np.int64)
    return whole


def mended(near: Any, off: Any) -> Any:
    """Rounded cube triples ``(..., 3)`` made to sum to 0, where each was moved furthest."""
    worst = off.argmax(axis=-1)[..., None]
    fixed = np.take_along_axis(near, worst, axis=-1) - near.sum(axis=-1, keepdims=True)
    np.put_along_axis(near, worst, fixed, axis=-1)
    return near
