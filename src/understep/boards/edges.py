"""The edges of a board: what stands between cells that are next to each other."""

from __future__ import annotations

from itertools import pairwise
from typing import NamedTuple

import numpy as np

from understep.boards.contents import OPEN, Contents
from understep.boards.surface import Where, Write, numbers_of
from understep.checks import named, truth
from understep.errors import CellError, InputError
from understep.grids.cell import Cell, CellLike, CellsLike, IntArray, as_cells


class Laid(NamedTuple):
    """An edge on a board, seen from one of its cells."""

    a: Cell
    b: Cell
    kind: str
    is_open: bool
    both: bool


class Edges:
    """Walls, roads and doors."""

    def __init__(self, contents: Contents, change: Write) -> None:
        self._contents, self._change, self._grid = contents, change, contents.grid
        self._kinds, self._names = contents.declared.edge_kinds, contents.edge_names
        self._ways = len(contents.grid.directions)

    def _key(self, a: CellLike, b: CellLike) -> tuple[int, int]:
        """The keys of an edge, as met from a and from b."""
        start, end = self._grid.numbering.require(a, "a"), self._grid.numbering.require(b, "b")
        way = self._grid.direction(start, end)
        if way is None:
            rule = f"must be next to {tuple(start)}; an edge stands between neighbors"
            raise CellError("b", rule, tuple(end))
        there = self._grid.lattice.way(way)
        # directions go around, so that the opposite one is half of them on
        back = (there + self._ways // 2) % self._ways
        number = self._grid.numbering.number
        return number(start) * self._ways + there, number(end) * self._ways + back

    def _kind(self, kind: str | None) -> int:
        if kind is None:
            return 0
        return self._names.index(named("kind", "kind of edge", kind, self._kinds)) + 1

    def code(self, a: CellLike, b: CellLike) -> int:
        """The code of the edge met on a step."""
        return int(self._contents.edges.array[self._key(a, b)[0]])

    def name(self, code: int) -> str | None:
        """The kind of an edge of a code; None without one."""
        return self._names[code % OPEN - 1] if code else None

    def put(self, a: CellLike, b: CellLike, kind: str | None, both: bool, is_open: bool) -> None:
        """Put an edge between two neighbors, or remove it."""
        there, back = self._key(a, b)
        code = self._kind(kind)
        is_open = truth("is_open", is_open)
        if is_open and (kind is None or not self._kinds[kind].door):
            raise InputError("is_open", "only a door can be open", kind)
        both = truth("both", both)
        keys = np.array([there, back] if both else [there])
        self._write(keys, code + OPEN * is_open)

    def open(self, a: CellLike, b: CellLike, is_open: bool) -> None:
        """Open or close a door."""
        is_open = truth("is_open", is_open)
        there, back = self._key(a, b)
        codes = self._contents.edges.array
        code = int(codes[there]) % OPEN
        if not code or not self._kinds[self._names[code - 1]].door:
            raise InputError("b", f"between it and {tuple(a)} there must be a door", tuple(b))
        # met from one side only, or another kind from the other
        same = int(codes[back]) % OPEN == code
        self._write(np.array([there, back] if same else [there]), code + OPEN * is_open)

    def along(self, kind: str | None, cells: CellsLike) -> None:
        """Put edges between each cell and the next."""
        keys = [self._key(a, b) for a, b in pairwise(as_cells(cells))]
        self._write(np.array(keys, dtype=np.int64).reshape(-1), self._kind(kind))

    def around(self, kind: str | None, cells: Where) -> None:
        """Put edges all around a set of cells."""
        numbers = np.unique(numbers_of(self._grid, cells))
        inside = np.zeros(self._grid.cols * self._grid.rows, dtype=bool)
        inside[numbers] = True
        there, back, other = self._contents.edges.sides(numbers, self._grid.lattice.edge_ways)
        # between two cells of the set there is no edge
        rim = ~inside[other]
        self._write(np.concatenate([there[rim], back[rim]]), self._kind(kind))

    def beside(self, kind: str | None, cells: Where, direction: str | int) -> None:
        """Put an edge on one side of every cell."""
        numbers = numbers_of(self._grid, cells)
        there, back, _ = self._contents.edges.sides(numbers, [self._grid.lattice.way(direction)])
        self._write(np.concatenate([there, back]), self._kind(kind))

    def _write(self, keys: IntArray, code: int) -> None:
        self._change(self._contents.edges, keys, code, keys // self._ways)

    def all(self) -> tuple[Laid, ...]:
        """All edges, in the order of their cells; those met both ways once."""
        ways, codes = self._ways, self._contents.edges.array
        found = []
        for key in np.flatnonzero(codes).tolist():
            number, way = divmod(key, ways)
            cells = self._grid.numbering.cells_of(np.array([number]))
            other = self._grid.lattice.around(cells)[0, way]
            back = int(self._grid.numbering.numbers(other)) * ways + (way + ways // 2) % ways
            code = int(codes[key])
            both = int(codes[back]) == code
            # it was listed from its other cell
            if both and back < key:
                continue
            a, b = Cell(*cells[0].tolist()), Cell(*other.tolist())
            found.append(Laid(a, b, self._names[code % OPEN - 1], code >= OPEN, both))
        return tuple(found)
