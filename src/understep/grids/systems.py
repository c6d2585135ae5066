"""Coordinate systems of hex grids: offset, axial, cube, doubled.

Offset is ``(col, row)``, the address in the level data. Axial ``(q, r)`` and cube ``(q, r, s)``
with ``q + r + s == 0`` are the same plane without the stagger. Doubled is offset with the staggered
axis counted in halves, so that neighbors differ by whole numbers and no row is special.
"""

from __future__ import annotations

from typing import Any, Literal, get_args

import numpy as np
from numpy.typing import NDArray

from understep.errors import CellError, NameUnknownError
from understep.grids.cell import IntArray, cells_array

System = Literal["offset", "axial", "cube", "doubled"]
Top = Literal["pointy", "flat"]
Shifted = Literal["odd", "even"]


def choice(value: object, allowed: Any, argument: str) -> str:
    """Return a word of a fixed few, or raise `NameUnknownError`."""
    words = get_args(allowed)
    if value not in words:
        raise NameUnknownError(argument, "choice", value, words)
    return str(value)


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
        parity is wrong; the message names the first of them.
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
    choice(source, System, "source")
    choice(target, System, "target")
    choice(top, Top, "top")
    choice(shifted, Shifted, "shifted")
    array = cells_array(values, "values", 3 if source == "cube" else 2)
    odd = shifted == "odd"
    axial = _to_axial(array, source, top, odd)
    return _from_axial(axial, target, top, odd)


def _shift(across: IntArray, odd: bool) -> IntArray:
    """1 in shifted rows (columns), 0 in the others."""
    return (across & 1) if odd else (~across & 1)


def _first_bad(values: IntArray, bad: NDArray[np.bool_], rule: str) -> None:
    if bad.any():
        place = np.unravel_index(int(bad.argmax()), bad.shape) if bad.ndim else ()
        where = "values" + "".join(f"[{int(index)}]" for index in place)
        raise CellError("values", rule, tuple(values[place].tolist()), where if place else "")


def _to_axial(values: IntArray, source: str, top: str, odd: bool) -> IntArray:
    if source == "axial":
        return values.copy()
    if source == "cube":
        _first_bad(values, values.sum(axis=-1) != 0, "q + r + s must be 0")
        return values[..., :2].copy()
    along, across = (0, 1) if top == "pointy" else (1, 0)
    place = values[..., along]
    line = values[..., across]
    if source == "doubled":
        shift = _shift(line, odd)
        rule = "doubled: an offset cell is twice its place, plus one in a shifted row or column"
        _first_bad(values, (place - shift) & 1 != 0, rule)
        place = (place - shift) >> 1
    axial = np.empty_like(values)
    axial[..., along] = place - ((line - (line & 1)) >> 1 if odd else (line + (line & 1)) >> 1)
    axial[..., across] = line
    return axial


def _from_axial(axial: IntArray, target: str, top: str, odd: bool) -> IntArray:
    if target == "axial":
        return axial
    if target == "cube":
        return np.concatenate([axial, -axial.sum(axis=-1, keepdims=True)], axis=-1)
    along, across = (0, 1) if top == "pointy" else (1, 0)
    line = axial[..., across]
    place = axial[..., along] + ((line - (line & 1)) >> 1 if odd else (line + (line & 1)) >> 1)
    if target == "doubled":
        place = 2 * place + _shift(line, odd)
    axial[..., along] = place
    return axial


def round_cube(fractional: Any) -> IntArray:
    """Round fractional cube coordinates to the nearest cell.

    Parameters
    ----------
    fractional
        Float array ``(..., 3)``, each ``q + r + s`` near 0.

    Returns
    -------
    ndarray of int64, shape ``(..., 3)``
        Every triple sums to 0. A new array. Of the three rounded parts, the one that was moved
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
    except (TypeError, ValueError):
        raise CellError("fractional", "must be numbers (..., 3)", fractional) from None
    if values.ndim == 0 or values.shape[-1] != 3:
        raise CellError("fractional", "the last axis must be q, r, s", fractional)
    total = np.abs(values.sum(axis=-1))
    if not np.isfinite(total).all() or (total > 1e-6 * (1 + np.abs(values).max(initial=0))).any():
        raise CellError("fractional", "q + r + s must be finite and 0", fractional)
    near = np.floor(values + 0.5)
    off = np.abs(near - values)
    worst = off.argmax(axis=-1)[..., None]
    fixed = np.take_along_axis(near, worst, axis=-1) - near.sum(axis=-1, keepdims=True)
    np.put_along_axis(near, worst, fixed, axis=-1)
    return near.astype(np.int64)
