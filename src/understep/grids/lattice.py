"""The lattice: the endless plane of cells, who neighbors whom, how far, in which direction."""

from __future__ import annotations

import math
from collections.abc import Iterable
from typing import Any, Literal

import numpy as np

from understep.errors import InputError, NameUnknownError, named, whole
from understep.grids.cell import (
    Cell,
    CellLike,
    CellsLike,
    IntArray,
    cells_array,
    near_cell,
    plain_numbers,
)
from understep.grids.systems import choice

Metric = Literal["steps", "straight", "taxicab", "eight-way"]


class Lattice:
    """What a grid knows without knowing which cells exist."""

    kind: str
    #: Names of the directions, clockwise from north; the order breaks ties.
    directions: tuple[str, ...]
    #: 0: no stagger; 1: rows are staggered; 2: columns are.
    stagger: int
    #: Added to a row (column) number before its last bit says which `deltas` count.
    parity: int
    #: ``(2, directions, 2)``: what a step adds to (col, row), in even and in shifted lines.
    deltas: IntArray
    #: ``(6 or 8, 2)``: steps all around, clockwise, in plane coordinates. `directions` are these,
    #: or every second one.
    compass: IntArray

    @property
    def vectors(self) -> IntArray:
        """``(directions, 2)``: what a step in each direction adds to plane coordinates."""
        return self.compass[:: len(self.compass) // len(self.directions)]

    @property
    def edge_ways(self) -> range:
        """The directions that lead over a cell's own edges, not its corners, by number."""
        many = len(self.directions)
        return range(0, many, 2 if many == 8 else 1)

    def _plane(self, col: Any, row: Any) -> tuple[Any, Any]:
        """Offset to plane coordinates, in which a pattern is the same everywhere (hex: axial)."""
        raise NotImplementedError

    def _address(self, x: Any, y: Any) -> tuple[Any, Any]:
        """Plane coordinates to offset ones."""
        raise NotImplementedError

    def _steps(self, x: Any, y: Any) -> Any:
        """Steps to a neighbor, and its neighbor, ... along a vector of the plane."""
        raise NotImplementedError

    def _squared(self, x: Any, y: Any) -> Any:
        """The square of the straight length of a vector of the plane."""
        raise NotImplementedError

    def plane(self, cells: IntArray) -> IntArray:
        """Plane coordinates of cells ``(..., 2)``."""
        return np.stack(self._plane(cells[..., 0], cells[..., 1]), axis=-1)

    def addresses(self, vectors: IntArray) -> IntArray:
        """Cells at plane coordinates ``(..., 2)``."""
        return np.stack(self._address(vectors[..., 0], vectors[..., 1]), axis=-1)

    def covered(self, offsets: Iterable[Any], cell: Cell) -> tuple[Cell, ...]:
        """The cells at offsets in plane coordinates from a cell, on the grid or off it."""
        x, y = self._plane(*cell)
        return tuple(Cell(*self._address(x + across, y + down)) for across, down in offsets)

    def spread(self, cells: IntArray, offsets: Any) -> IntArray:
        """The same for many cells ``(n, 2)`` at once: ``(n, offsets, 2)``."""
        return self.addresses(self.plane(cells)[:, None] + np.asarray(offsets))

    def lines(self, cells: IntArray) -> IntArray:
        """Which half of `deltas` counts for cells ``(..., 2)``: 0, or 1 in a shifted line."""
        if self.stagger == 0:
            return np.zeros(cells.shape[:-1], dtype=np.int64)
        return (cells[..., 1 if self.stagger == 1 else 0] + self.parity) & 1

    def around(self, cells: IntArray) -> IntArray:
        """The cells next to cells ``(..., 2)``, on the grid or off it, ``(..., directions, 2)``."""
        return cells[..., None, :] + self.deltas[self.lines(cells)]

    def way(self, direction: str | int, argument: str = "direction") -> int:
        """The number of a direction given by name or number.

        Raises
        ------
        NameUnknownError
            The grid has no such direction.
        """
        if isinstance(direction, str) and direction in self.directions:
            return self.directions.index(direction)
        known = type(direction) is int or isinstance(direction, np.integer)
        if known and 0 <= direction < len(self.directions):  # type: ignore[operator]
            return int(direction)
        raise NameUnknownError(argument, "direction", direction, self.directions)

    def distance(self, a: CellsLike, b: CellsLike, measure: Metric = "steps") -> Any:
        """The distance between cells.

        Parameters
        ----------
        a, b
            Cells or arrays ``(..., 2)`` that broadcast against each other; off the grid is fine.
        measure
            ``"steps"``: steps from neighbor to neighbor on an empty board without holes.
            ``"straight"``: the straight line between centers, regular neighbors lying 1 apart.
            On squares, whoever counts as a neighbor: ``"taxicab"``, columns plus rows;
            ``"eight-way"``, the larger of columns and rows.

        Returns
        -------
        int or float, or ndarray of int64 or float64
            A number for two single cells, else the broadcast shape without the last axis; floats
            for "straight".

        Raises
        ------
        CellError
            A value that is no cell.
        NameUnknownError
            An unknown measure.
        InputError
            A measure of squares asked of hexes.

        Examples
        --------
        >>> import understep as us
        >>> us.HexGrid(9, 9).distance((0, 0), [(3, 0), (3, 3)]).tolist()
        [3, 5]
        >>> us.SquareGrid(9, 9).distance((0, 0), (3, 4), "straight")
        5.0
        """
        one, other = plain_numbers(a), plain_numbers(b)
        single = one is not None and other is not None
        if single:
            (ax, ay), (bx, by) = self._plane(*one), self._plane(*other)  # type: ignore[misc]
        else:
            starts, ends = cells_array(a, "a"), cells_array(b, "b")
            ax, ay = self._plane(starts[..., 0], starts[..., 1])
            bx, by = self._plane(ends[..., 0], ends[..., 1])
        x, y = bx - ax, by - ay
        if type(measure) is not str:
            choice(measure, Metric, "measure")
        if measure == "steps":
            found = self._steps(x, y)
        elif measure == "straight":
            found = self._squared(x, y) ** 0.5
        else:
            choice(measure, Metric, "measure")
            if self.kind != "square":
                raise InputError("measure", "is one of square grids only", measure)
            found = abs(x) + abs(y) if measure == "taxicab" else eight_way(x, y)
        if single or np.ndim(found):
            return found
        return found.item()

    def facing(self, a: CellLike, b: CellLike) -> str | None:
        """The direction in which one looks from ``a`` towards ``b``, however far that is.

        Of two equally near the line, the first in the order of `directions`; None for ``a`` itself.

        Raises
        ------
        CellError
            ``a`` or ``b`` is no cell.

        Examples
        --------
        >>> import understep as us
        >>> us.HexGrid(9, 9).facing((1, 1), (7, 2))
        'E'
        """
        ends = near_cell(a, "a"), near_cell(b, "b")
        (ax, ay), (bx, by) = (self._plane(*end) for end in ends)
        x, y = bx - ax, by - ay
        if not (x or y):
            return None
        along = self.along(x, y)
        return self.directions[along.index(max(along))]

    def along(self, x: int, y: int) -> list[float]:
        """How far a vector of the plane leads in each direction: squares that keep their sign.

        Exact scalar products, so that equal ones are equal.
        """
        across = 1 if self.kind == "hex" else 0  # the axes of hexes are 60 degrees apart
        found = []
        for p, q in self.vectors.tolist():
            apart = 2 * (p * x + q * y) + across * (p * y + q * x)
            found.append(math.copysign(apart * apart / self._squared(p, q), apart))
        return found

    def flags(self, directions: Iterable[str | int]) -> int:
        """Directions packed into one number: bit ``k`` is set for the ``k``-th of `directions`.

        Raises
        ------
        NameUnknownError
            The grid has no such direction.

        Examples
        --------
        >>> import understep as us
        >>> grid = us.SquareGrid(4, 4)
        >>> grid.flags(["N", "S"]), grid.unpack(5)
        (5, ('N', 'S'))
        """
        if isinstance(directions, str):
            directions = [directions]
        packed = 0
        for direction in directions:
            packed |= 1 << self.way(direction, "directions")
        return packed

    def unpack(self, flags: int) -> tuple[str, ...]:
        """The names of the directions in a number made by `flags` or `exits`.

        Raises
        ------
        InputError
            ``flags`` is not a whole number from 0 to 2**directions - 1.
        """
        many = len(self.directions)
        flags = whole("flags", flags, 0, (1 << many) - 1)
        return tuple(name for bit, name in enumerate(self.directions) if flags >> bit & 1)

    def turning(self, turns: int) -> IntArray:
        """What turns plane vectors clockwise, by 60 degrees a turn (squares: 90): 2 x 2."""
        return self._image(lambda place: place + turns * (2 if self.kind == "square" else 1))

    def mirroring(self, axis: str) -> IntArray:
        """What mirrors plane vectors at the line that runs in a direction: 2 x 2."""
        halves = {name: 2 * place for place, name in enumerate(self.directions)}
        if self.kind == "square":
            halves = {name: 2 * at for at, name in enumerate(("N", "NE", "E", "SE"))}
            halves |= {name: 2 * at for at, name in enumerate(("S", "SW", "W", "NW"))}
        elif self.directions[0] == "N":
            halves |= dict.fromkeys("EW", 3)
        else:
            halves |= dict.fromkeys("NS", 5)
        named("axis", "direction", axis, halves)
        return self._image(lambda place: halves[axis] - place)

    def _image(self, moved: Any) -> IntArray:
        """The matrix that sends each step of the compass to another, given by place."""
        places = [self.compass.tolist().index(unit) for unit in ([1, 0], [0, 1])]
        return self.compass[[moved(place) % len(self.compass) for place in places]].T


def eight_way(x: Any, y: Any) -> Any:
    """The larger of two lengths, of numbers or arrays alike."""
    return (abs(x + y) + abs(x - y)) >> 1
