"""A cell is a pair ``(col, row)``; `Cells` is an ordered, immutable row of them."""

from __future__ import annotations

import struct
from collections.abc import Iterable, Iterator, Sequence
from contextlib import suppress
from itertools import chain
from typing import Any, NamedTuple, TypeAlias, overload

import numpy as np
from numpy.typing import NDArray

from understep.errors import CellError, InputError

IntArray: TypeAlias = NDArray[np.int64]

BLOCK = 8192
SHOWN = 8  # cells in a repr
FARTHEST = 1 << 40  # columns and rows stay within this: sums are exact, and so is world geometry


class Cell(NamedTuple):
    """A cell's address in the level data: its column and its row.

    Examples
    --------
    >>> import understep as us
    >>> us.Cell(3, 4) == (3, 4)
    True
    """

    col: int
    row: int


CellLike: TypeAlias = tuple[int, int]
CellsLike: TypeAlias = CellLike | Iterable[CellLike] | IntArray | NDArray[np.bool_]


class Cells(Sequence[Cell]):
    """An ordered, immutable row of cells, with the quick ``in`` of a set.

    Equal to any sequence of the same pairs in the same order; its hash is that of their tuple.

    ``.array`` holds the same as an ``(n, 2)`` int64 array (read-only, not a copy). Two `Cells` are
    equal if they hold the same cells in the same order. ``a & b``, ``a | b`` and ``a - b`` are the
    cells of both, of either, of the first only, in the order of the first. An array picks cells, as
    from an array: by number, or a truth for each.

    Examples
    --------
    >>> import understep as us
    >>> grid = us.SquareGrid(8, 8)
    >>> ring = grid.neighbors((2, 2))
    >>> (2, 1) in ring, None in ring, len(ring)
    (True, False, 4)
    >>> ring & grid.disk((3, 1), 1)
    Cells([(2, 1), (3, 2)])
    >>> ring[ring.array[:, 0] > 2]
    Cells([(3, 2)])
    """

    __slots__ = ("_array", "_set", "_tuple")

    def __init__(self, cells: CellsLike = ()) -> None:
        array = cells_array(cells, "cells").reshape(-1, 2).view()
        array.flags.writeable = False
        self._array: IntArray | None = array
        self._tuple: tuple[Cell, ...] | None = None
        self._set: frozenset[Cell] | None = None

    @classmethod
    def _of(cls, cells: Iterable[Cell]) -> Cells:
        """From cells that are known to be such."""
        made = cls.__new__(cls)
        # an array or a tuple is made of the other when it is asked for
        made._array, made._tuple, made._set = None, tuple(cells), None
        return made

    @classmethod
    def _over(cls, array: IntArray) -> Cells:
        """From an int64 array ``(n, 2)`` of cells that nobody else has."""
        made = cls.__new__(cls)
        # nobody else has it, so that no copy is taken
        array.flags.writeable = False
        made._array, made._tuple, made._set = array, None, None
        return made

    def __reduce__(self) -> tuple[Any, ...]:
        # an array packs into a tenth of what tuples do
        return Cells, (self.array,)

    def __deepcopy__(self, _memo: Any) -> Cells:
        return self  # it never changes

    @property
    def array(self) -> IntArray:
        """The cells as an ``(n, 2)`` int64 array, read-only."""
        if self._array is None:
            array = np.array(self._tuple, dtype=np.int64).reshape(-1, 2)
            array.flags.writeable = False
            self._array = array
        return self._array

    def _cells(self) -> tuple[Cell, ...]:
        if self._tuple is None:
            self._tuple = tuple(map(Cell._make, self.array.tolist()))
        return self._tuple

    def _known(self) -> frozenset[Cell]:
        if self._set is None:
            self._set = frozenset(self._cells())
        return self._set

    def __len__(self) -> int:
        return len(self.array if self._tuple is None else self._tuple)

    def __iter__(self) -> Iterator[Cell]:
        return iter(self._cells())

    @overload
    def __getitem__(self, index: int) -> Cell: ...
    @overload
    def __getitem__(self, index: slice | NDArray[Any]) -> Cells: ...
    def __getitem__(self, index: int | slice | NDArray[Any]) -> Cell | Cells:
        if isinstance(index, slice | np.ndarray):
            return Cells(self.array[index])
        return self._cells()[index]

    def __contains__(self, cell: object) -> bool:
        try:
            return cell in self._known()
        except TypeError:
            return False

    def __and__(self, other: CellsLike) -> Cells:
        others = as_cells(other)
        return Cells._of(cell for cell in self if cell in others)

    def __or__(self, other: CellsLike) -> Cells:
        return Cells._of([*self, *(as_cells(other) - self)])

    def __sub__(self, other: CellsLike) -> Cells:
        others = as_cells(other)
        return Cells._of(cell for cell in self if cell not in others)

    def __eq__(self, other: object) -> bool:
        if isinstance(other, Cells):
            return np.array_equal(self.array, other.array)
        if isinstance(other, Sequence) and not isinstance(other, str | bytes):
            return len(other) == len(self) and self._cells() == tuple(other)
        return NotImplemented

    def __hash__(self) -> int:
        return hash(self._cells())

    def __repr__(self) -> str:
        shown = ", ".join(f"({col}, {row})" for col, row in self.array[:SHOWN].tolist())
        more = f", ... {len(self) - SHOWN} more" if len(self) > SHOWN else ""
        return f"Cells([{shown}{more}])"


def array_of(argument: str, value: Any, kind: Any = None) -> NDArray[Any]:
    """Return numbers as an array, or refuse them: rows of different lengths, too large ones."""
    try:
        return np.asarray(value, dtype=kind)
    except (ValueError, TypeError, OverflowError):
        raise InputError(argument, "must be numbers, in rows of one length", value) from None


def plain_numbers(value: Any, width: int = 2) -> tuple[int, ...] | None:
    """A tuple of so many plain ints as it is, else None: the quick way in for a single cell."""
    if isinstance(value, tuple) and len(value) == width:
        for part in value:
            # a truth is an int, too, and no column
            if type(part) is not int or not -FARTHEST <= part <= FARTHEST:
                return None
        return value
    return None


def blocks(
    source: NDArray[Any], target: NDArray[Any]
) -> Iterator[tuple[NDArray[Any], NDArray[Any]]]:
    """Matching pieces ``(n, width)`` of two arrays, small enough to stay near the processor."""
    source = source.reshape(-1, source.shape[-1])
    target = target.reshape(-1, target.shape[-1])
    for start in range(0, len(source), BLOCK):
        yield source[start : start + BLOCK], target[start : start + BLOCK]


def as_cells(cells: CellsLike, argument: str = "cells") -> Cells:
    """Cells as `Cells`."""
    return cells if isinstance(cells, Cells) else Cells(cells_array(cells, argument))


def one_cell(value: Any, argument: str) -> Cell:
    """Return a pair of whole numbers as a `Cell`; raise `CellError` for anything else."""
    # made by this library, nearly always
    if type(value) is Cell:
        return value
    try:
        col, row = value
    except (TypeError, ValueError):
        raise CellError(argument, "must be a cell, a pair (col, row)", value) from None
    if type(col) is int and type(row) is int:
        return Cell(col, row)
    if not all(
        isinstance(part, int | np.integer) and type(part) is not bool for part in (col, row)
    ):
        raise CellError(
            argument,
            "a cell is a pair of whole numbers (for a point of the world, ask cell_at)",
            value,
        )
    return Cell(int(col), int(row))


def near_cell(value: Any, argument: str) -> Cell:
    """As `one_cell`, for cells that addresses can be counted from."""
    cell = one_cell(value, argument)
    if max(map(abs, cell)) > FARTHEST:
        raise CellError(argument, f"a cell is at most {FARTHEST} columns and rows away", value)
    return cell


def _of_cells(cells: list[Any]) -> NDArray[Any]:
    """A list as an array; several times faster where it holds nothing but `Cell`."""
    # looked at once for all; NumPy would look into each
    if {*map(type, cells)} == {Cell}:
        with suppress(struct.error):  # parts that are not whole numbers, or too large
            found = struct.pack(f"{2 * len(cells)}q", *chain.from_iterable(cells))
            return np.frombuffer(bytearray(found), dtype=np.int64).reshape(-1, 2)
    return np.asarray(cells)


def cells_array(cells: Any, argument: str, width: int = 2, farthest: int = FARTHEST) -> IntArray:
    """Return one cell, cells, or an array of them as int64 ``(..., width)``.

    An integer array is viewed, not copied, where its type allows.
    """
    if type(cells) is Cells:
        return cells.array
    if isinstance(cells, str):
        raise CellError(argument, "cells are whole numbers, not text", cells)
    if not isinstance(cells, np.ndarray | list | tuple):
        try:
            cells = list(cells)
        except TypeError:
            raise CellError(argument, "must be a cell or cells", cells) from None
    if not isinstance(cells, np.ndarray) and len(cells) == 0:
        return np.empty((0, width), dtype=np.int64)
    try:
        array = _of_cells(cells) if type(cells) is list and width == 2 else np.asarray(cells)
    except ValueError:
        raise CellError(argument, f"every cell has {width} whole numbers", cells) from None
    # floats are points of the world, and truths are masks: neither is rounded in silence
    if array.dtype.kind not in "iu":
        kinds = {"U": "text", "S": "text", "O": "a mix, or too large"}
        what = kinds.get(array.dtype.kind, str(array.dtype))
        raise CellError(argument, f"cells are whole numbers, not {what}", cells)
    if array.ndim == 0 or array.shape[-1] != width:
        raise CellError(
            argument, f"the last axis must have length {width}, as in (col, row)", cells
        )
    if array.size and not (array.min() >= -farthest and array.max() <= farthest):
        power = farthest.bit_length() - 1
        raise CellError(argument, f"cells are whole numbers from -2**{power} to 2**{power}", cells)
    return array.astype(np.int64, copy=False)
