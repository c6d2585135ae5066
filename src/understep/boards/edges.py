"""The edges of a board: what stands between cells that are next to each other."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import pairwise
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from understep.boards.edge import Edge, edge_table
from understep.boards.ground import Where
from understep.boards.store import Layer
from understep.boards.values import Values
from understep.errors import CellError, InputError, expect, named
from understep.grids.cell import Cell, CellLike, CellsLike, IntArray, as_cells

OPEN = 128  # added to the code of a door that is open


class Laid(NamedTuple):
    """An edge on a board, seen from one of its cells."""

    a: Cell
    b: Cell
    kind: str
    is_open: bool
    both: bool


class EdgeLayer(Layer):
    """A code for every cell and direction."""

    __slots__ = ("_ways",)

    def __init__(self, array: NDArray[Any], ways: int, shared: bool = False) -> None:
        super().__init__(array, shared)
        self._ways = ways

    def where(self, keys: Any, _old: Any, _new: Any) -> Any:
        """The cells of a change."""
        return np.atleast_1d(keys) // self._ways

    def share(self) -> EdgeLayer:
        """A layer with the same contents, without copying them yet."""
        self._shared = True
        return EdgeLayer(self.array, self._ways, shared=True)


class Edges(Values):
    """Walls, roads and doors."""

    def _fence(self, edges: Mapping[str, Edge]) -> None:
        """Make the edges, once."""
        #: The kinds of edges, by name.
        self.edge_kinds: dict[str, Edge] = edge_table(edges)
        self._edge_names = list(self.edge_kinds)
        ways = len(self.grid.directions)
        codes = np.zeros(self.grid.cols * self.grid.rows * ways, dtype=np.uint8)
        self._edges = EdgeLayer(codes, ways)

    def edge_codes(self) -> NDArray[np.uint8]:
        """The code of every edge, ``(cells, directions)``, by number; a view for step tables.

        0: none; else the place of its kind plus 1, and 128 more where it is open.
        """
        return self._edges.array.reshape(-1, len(self.grid.directions))

    def edge_layer(self) -> NDArray[np.uint8]:
        """The same in one row, as it is kept: as long as nobody moves it, the same object."""
        return self._edges.array

    def _key(self, a: CellLike, b: CellLike) -> tuple[int, int]:
        """The keys of an edge, as seen from a and from b."""
        start, end = self.grid.require(a, "a"), self.grid.require(b, "b")
        way = self.grid.direction(start, end)
        if way is None:
            rule = f"must be next to {tuple(start)}; an edge stands between neighbors"
            raise CellError("b", rule, tuple(end))
        ways = len(self.grid.directions)
        there = self.grid.way(way)
        back = (there + ways // 2) % ways
        return self.grid.number(start) * ways + there, self.grid.number(end) * ways + back

    def _kind(self, kind: str | None) -> int:
        if kind is None:
            return 0
        return self._edge_names.index(named("kind", "kind of edge", kind, self.edge_kinds)) + 1

    def edge(self, a: CellLike, b: CellLike) -> str | None:
        """The kind of the edge met on a step from ``a`` to its neighbor ``b``; None for none.

        Raises
        ------
        CellError
            ``a`` or ``b`` is no cell of the board, or they are no neighbors.
        """
        code = int(self._edges.array[self._key(a, b)[0]]) % OPEN
        return self._edge_names[code - 1] if code else None

    def set_edge(
        self,
        a: CellLike,
        b: CellLike,
        kind: str | None,
        *,
        both: bool = True,
        is_open: bool = False,
    ) -> None:
        """Put an edge between two neighbors, in place of the one that is there.

        Parameters
        ----------
        a, b
            The cells.
        kind
            The kind, by name; None takes the edge away.
        both
            Whether it is met both ways, or from ``a`` to ``b`` only.
        is_open
            Whether it is a door that stands open.

        Raises
        ------
        CellError
            ``a`` or ``b`` is no cell of the board, or they are no neighbors.
        NameUnknownError
            No such kind of edge on this board.
        InputError
            A kind that is no door cannot be open.
        OccupiedError
            It would stand inside a unit of several cells.
        """
        there, back = self._key(a, b)
        code = self._kind(kind)
        expect("is_open", is_open, bool, "must be True or False")
        if is_open and (kind is None or not self.edge_kinds[kind].door):
            raise InputError("is_open", "only a door can be open", kind)
        expect("both", both, bool, "must be True or False")
        keys = np.array([there, back] if both else [there])
        self._fence_off(keys, code + OPEN * bool(is_open))

    def open_edge(self, a: CellLike, b: CellLike, is_open: bool = True) -> None:
        """Open a door between two neighbors, or close it; where it is met both ways, both.

        Raises
        ------
        CellError
            ``a`` or ``b`` is no cell of the board, or they are no neighbors.
        InputError
            There is no door between them.

        Examples
        --------
        >>> import understep as us
        >>> kinds = {"door": us.Edge(blocks=True, door=True)}
        >>> board = us.Board(us.SquareGrid(2, 1), {"boards": 1}, edges=kinds)
        >>> board.set_edge((0, 0), (1, 0), "door")
        >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=1)), at=(0, 0))
        >>> (1, 0) in us.reach(board, "scout")
        False
        >>> board.open_edge((0, 0), (1, 0))
        >>> (1, 0) in us.reach(board, "scout")
        True
        """
        there, back = self._key(a, b)
        code = int(self._edges.array[there]) % OPEN
        if not code or not self.edge_kinds[self._edge_names[code - 1]].door:
            raise InputError("b", f"between it and {tuple(a)} there must be a door", tuple(b))
        same = int(self._edges.array[back]) % OPEN == code
        keys = np.array([there, back] if same else [there])
        self._fence_off(keys, code + OPEN * bool(is_open))

    def is_open(self, a: CellLike, b: CellLike) -> bool:
        """Whether there is an open door between two neighbors.

        Raises
        ------
        CellError
            ``a`` or ``b`` is no cell of the board, or they are no neighbors.
        """
        return int(self._edges.array[self._key(a, b)[0]]) >= OPEN

    def lay_along(self, kind: str | None, cells: CellsLike) -> None:
        """Put edges between each cell and the next: a road along ``route.cells``.

        Raises
        ------
        CellError
            A value that is not a cell, or no neighbor of the one before.
        NameUnknownError
            No such kind of edge on this board.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.HexGrid(8, 8), {"mud": 3}, edges={"road": us.Edge(cost=1)})
        >>> board.lay_along("road", board.grid.line((0, 0), (5, 4)))
        >>> board.edge((0, 0), (0, 1))
        'road'
        """
        keys = [self._key(a, b) for a, b in pairwise(as_cells(cells))]
        self._lay_edges(kind, np.array(keys, dtype=np.int64).reshape(-1))

    def lay_around(self, kind: str | None, cells: Where) -> None:
        """Put edges all around a set of cells: between each and its neighbors that are outside.

        Raises
        ------
        CellError
            A value that is not a cell, or a cell off the board.
        NameUnknownError
            No such kind of edge on this board.
        """
        numbers = np.unique(self.numbers(cells))
        inside = np.zeros(self.grid.cols * self.grid.rows, dtype=bool)
        inside[numbers] = True
        there, back, other = self._sides_of(numbers, self.grid.edge_ways)
        rim = ~inside[other]
        self._lay_edges(kind, np.concatenate([there[rim], back[rim]]))

    def lay_beside(self, kind: str | None, cells: Where, direction: str | int) -> None:
        """Put an edge on one side of every cell: a wall along a line of them.

        Raises
        ------
        CellError
            A value that is not a cell, or a cell off the board.
        NameUnknownError
            No such kind of edge on this board, or no such direction.
        """
        there, back, _ = self._sides_of(self.numbers(cells), [self.grid.way(direction)])
        self._lay_edges(kind, np.concatenate([there, back]))

    def _sides_of(
        self, numbers: IntArray, ways: Sequence[int]
    ) -> tuple[IntArray, IntArray, IntArray]:
        """Keys of edges to neighbors that exist: as seen from here, from there; the neighbors."""
        grid, many = self.grid, len(self.grid.directions)
        cells = grid.cells_of(numbers)
        others = cells[:, None] + grid.deltas[grid.lines(cells)][:, ways]
        home, way = np.nonzero(there := grid.holds(others))
        other, way = grid.numbers(others[there]), np.array(ways)[way]
        return numbers[home] * many + way, other * many + (way + many // 2) % many, other

    def _lay_edges(self, kind: str | None, keys: IntArray) -> None:
        self._fence_off(keys, self._kind(kind))

    def _fence_off(self, keys: IntArray, code: int) -> None:
        self._change(self._edges, keys, code, keys // len(self.grid.directions))

    def edges(self) -> tuple[Laid, ...]:
        """All edges on the board, in the order of their cells; those met both ways once."""
        ways = len(self.grid.directions)
        found = []
        for key in np.flatnonzero(self._edges.array).tolist():
            number, way = divmod(key, ways)
            cells = self.grid.cells_of(np.array([number]))
            other = self.grid.around(cells)[0, way]
            back = int(self.grid.numbers(other)) * ways + (way + ways // 2) % ways
            code = int(self._edges.array[key])
            both = int(self._edges.array[back]) == code
            if both and back < key:
                continue
            kind = self._edge_names[code % OPEN - 1]
            a, b = Cell(*cells[0].tolist()), Cell(*other.tolist())
            found.append(Laid(a, b, kind, code >= OPEN, both))
        return tuple(found)
