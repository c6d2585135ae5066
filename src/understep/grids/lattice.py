"""The lattice: the endless plane of cells, who neighbors whom, how far, in which direction."""

from __future__ import annotations

import math
from collections.abc import Iterable
from functools import cached_property
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from understep.checks import named
from understep.errors import NameUnknownError, NoRoomError
from understep.grids.cell import Cell, IntArray
from understep.grids.touching import touching

FloatArray = NDArray[np.float64]
MOST_AROUND = 1 << 24  # cells around a line
UPSIDE_DOWN = str.maketrans("NS", "SN")


class Maths(NamedTuple):
    """The functions that differ between one number and an array of them."""

    floor: Any
    rint: Any
    where: Any
    whole: Any


ONE = Maths(math.floor, round, lambda which, one, other: one if which else other, int)
MANY = Maths(np.floor, np.rint, np.where, lambda numbers: numbers.astype(np.int64))


class Lattice:
    """What holds for every grid of one kind: no size, no holes, no place in the world.

    Plane coordinates are those in which a pattern is the same everywhere: for hexes the axial
    ones. Spots are the whole numbers in which centers and corners of cells are given.
    """

    kind: str
    #: Names of the directions, clockwise from north; the order breaks ties. Where rows count up
    #: the screen, they begin in the south and go the other way.
    directions: tuple[str, ...]
    mirrored = False
    #: 0: no stagger; 1: rows are staggered; 2: columns are.
    stagger: int
    #: Added to a row (column) number before its last bit says which `deltas` count.
    parity: int
    #: ``(2, directions, 2)``: what a step adds to (col, row), in even and in shifted lines.
    deltas: IntArray
    #: ``(6 or 8, 2)``: steps all around, clockwise, in plane coordinates. `directions` are these,
    #: or every second one.
    compass: IntArray
    #: How many spots a regular cell's box spans, across and down.
    units: tuple[int, int]
    #: Width and height of the box around a regular cell, whose neighbors lie 1 apart.
    regular: tuple[float, float]
    #: Corners in spots from the center, clockwise; edge ``k`` faces the ``k``-th neighbor.
    corner_spots: IntArray
    #: The names of these corners.
    corner_names: tuple[str, ...]
    #: By how many spots a column lies from the next, and a row.
    pitch: tuple[int, int]

    def seen(self, names: tuple[str, ...]) -> tuple[str, ...]:
        """Names as they are seen: of rows that count up the screen, north is south."""
        return tuple(name.translate(UPSIDE_DOWN) for name in names) if self.mirrored else names

    # The next seven take and return numbers or arrays alike.

    def to_plane(self, col: Any, row: Any) -> tuple[Any, Any]:
        """Offset to plane coordinates."""
        raise NotImplementedError

    def to_cell(self, x: Any, y: Any) -> tuple[Any, Any]:
        """Plane coordinates to offset ones."""
        raise NotImplementedError

    def steps(self, x: Any, y: Any) -> Any:
        """Steps to a neighbor, and its neighbor, ... along a vector of the plane."""
        raise NotImplementedError

    def squared(self, x: Any, y: Any) -> Any:
        """The square of the straight length of a vector of the plane."""
        raise NotImplementedError

    def spot(self, col: Any, row: Any) -> tuple[Any, Any]:
        """The spot of a center."""
        raise NotImplementedError

    def pick(self, u: Any, v: Any, maths: Maths) -> tuple[Any, Any]:
        """The cell that holds a place between spots."""
        raise NotImplementedError

    def nearest(self, places: IntArray, parts: int, side: int) -> IntArray:
        """The plane cells along a line whose exact places ``(n, 2)`` count parts of a step.

        A place on a border belongs to the cell on one of several sides.
        """
        raise NotImplementedError

    @cached_property
    def vectors(self) -> IntArray:
        """``(directions, 2)``: what a step in each direction adds to plane coordinates."""
        return self.compass[:: len(self.compass) // len(self.directions)]

    @property
    def edge_ways(self) -> range:
        """The directions that lead over a cell's own edges, not its corners, by number."""
        many = len(self.directions)
        return range(0, many, 2 if many == 8 else 1)

    def plane(self, cells: IntArray) -> IntArray:
        """Plane coordinates of cells ``(..., 2)``."""
        return np.stack(self.to_plane(cells[..., 0], cells[..., 1]), axis=-1)

    def addresses(self, vectors: IntArray) -> IntArray:
        """Cells at plane coordinates ``(..., 2)``."""
        return np.stack(self.to_cell(vectors[..., 0], vectors[..., 1]), axis=-1)

    def spots(self, cells: IntArray) -> IntArray:
        """The spots of the centers of cells ``(..., 2)``."""
        return np.stack(self.spot(cells[..., 0], cells[..., 1]), axis=-1)

    def covered(self, offsets: Iterable[Any], cell: Cell) -> tuple[Cell, ...]:
        """The cells at offsets in plane coordinates from a cell."""
        x, y = self.to_plane(*cell)
        return tuple(Cell(*self.to_cell(x + across, y + down)) for across, down in offsets)

    def spread(self, cells: IntArray, offsets: Any) -> IntArray:
        """The same for many cells ``(n, 2)`` at once: ``(n, offsets, 2)``."""
        return self.addresses(self.plane(cells)[:, None] + np.asarray(offsets))

    def line(self, col: int, row: int) -> int:
        """Which half of `deltas` counts for a cell: 0, or 1 in a shifted line."""
        return ((row if self.stagger == 1 else col) + self.parity) & 1 if self.stagger else 0

    def lines(self, cells: IntArray) -> IntArray:
        """The same for cells ``(..., 2)``."""
        if self.stagger == 0:
            return np.zeros(cells.shape[:-1], dtype=np.int64)
        return (cells[..., 1 if self.stagger == 1 else 0] + self.parity) & 1

    @cached_property
    def _delta_lists(self) -> list[list[list[int]]]:
        return self.deltas.tolist()  # type: ignore[no-any-return]

    def steps_from(self, col: int, row: int) -> list[list[int]]:
        """What a step in each direction adds to one cell."""
        return self._delta_lists[self.line(col, row)]

    def around(self, cells: IntArray) -> IntArray:
        """The cells next to cells ``(..., 2)``: ``(..., directions, 2)``."""
        return cells[..., None, :] + self.deltas[self.lines(cells)]

    def way(self, direction: str | int, argument: str = "direction") -> int:
        """The number of a direction given by name or number.

        Raises
        ------
        NameUnknownError
            There is no such direction.
        """
        if isinstance(direction, str) and direction in self.directions:
            return self.directions.index(direction)
        # a truth is a whole number, too, but no direction
        known = type(direction) is int or isinstance(direction, np.integer)
        if known and 0 <= direction < len(self.directions):  # type: ignore[operator]
            return int(direction)
        raise NameUnknownError(argument, "direction", direction, self.directions)

    def along(self, x: Any, y: Any) -> list[Any]:
        """How far a vector leads in each direction, squared with its sign; or many vectors."""
        across = 1 if self.kind == "hex" else 0  # the axes of hexes are 60 degrees apart
        found = []
        for p, q in self.vectors.tolist():
            apart = 2 * (p * x + q * y) + across * (p * y + q * x)
            found.append(apart * abs(apart) / self.squared(p, q))
        return found

    def ahead(self, vectors: IntArray, way: int, angle: float | None) -> IntArray:
        """Those of some plane vectors within an angle around a direction, borders included.

        By default so wide that as many as a cell has edges cover everything.
        """
        width = (60 if self.kind == "hex" else 90) if angle is None else angle
        gaps = self.angles(vectors, self.vectors[way])
        return vectors[np.minimum(gaps, 360 - gaps) <= width / 2 + 1e-9]

    def angles(self, vectors: IntArray, start: IntArray) -> FloatArray:
        """Angles of plane vectors ``(n, 2)`` clockwise from another, 0 to below 360 degrees."""
        size = np.array(self.regular) / self.units
        home = self.spot(*self.to_cell(0, 0))
        ends = (self.spots(self.addresses(each)) for each in (vectors, start))
        (x, y), (x0, y0) = (((end - home) * size).T for end in ends)
        angle = np.degrees(np.arctan2(y, x) - np.arctan2(y0, x0)) % 360
        # a root that is off by a bit would make a full turn of none
        return np.where(angle > 360 - 1e-9, 0.0, angle)

    def turning(self, turns: int) -> IntArray:
        """What turns plane vectors clockwise, by 60 degrees a turn (squares: 90): 2 x 2."""
        return self._image(lambda place: place + turns * (2 if self.kind == "square" else 1))

    def mirroring(self, axis: str) -> IntArray:
        """What mirrors plane vectors at the line that runs in a direction: 2 x 2."""
        halves = {name: 2 * place for place, name in enumerate(self.directions)}
        if self.kind == "square":
            every = self.seen(("N", "NE", "E", "SE", "S", "SW", "W", "NW"))
            halves = {name: 2 * (at % 4) for at, name in enumerate(every)}
        elif self.stagger == 2:
            halves |= dict.fromkeys("EW", 3)
        else:
            halves |= dict.fromkeys("NS", 5)
        named("axis", "direction", axis, halves)
        return self._image(lambda place: halves[axis] - place)

    def _image(self, moved: Any) -> IntArray:
        """The matrix that sends each step of the compass to another, given by place."""
        places = [self.compass.tolist().index(unit) for unit in ([1, 0], [0, 1])]
        return self.compass[[moved(place) % len(self.compass) for place in places]].T

    @cached_property
    def _disks(self) -> dict[int, tuple[IntArray, IntArray]]:
        return {}

    def nearby(self, radius: int) -> tuple[IntArray, IntArray]:
        """Plane vectors ``(n, 2)`` up to ``radius`` steps long, in a spiral, and their lengths."""
        # lattices are shared by all grids of a kind, and so are their disks
        if radius not in self._disks:
            span = np.arange(-radius, radius + 1)
            square = np.stack(np.meshgrid(span, span), axis=-1).reshape(-1, 2)
            near = self.spiral(square, 0, radius)
            self._disks[radius] = near, self.steps(*near.T)
        return self._disks[radius]

    def spiral(self, vectors: IntArray, low: int, high: int) -> IntArray:
        """Those of some plane vectors from ``low`` to ``high`` steps long, by length, clockwise."""
        steps = self.steps(*vectors.T)
        chosen = vectors[(low <= steps) & (steps <= high)]
        angles = self.angles(chosen, self.compass[0])
        # rounded, so that equal angles are equal on every machine
        order = np.lexsort((np.round(angles, 9), self.steps(*chosen.T)))
        found: IntArray = chosen[order]
        return found

    def touched(self, a: Cell, b: Cell) -> tuple[IntArray, FloatArray]:
        """All cells that the straight line between two middles touches, borders included.

        Returns
        -------
        cells : int64 array (n, 2)
            In the order met.
        shares : float64 array (n, 2)
            From where to where on the line each is touched, 0 to 1.
        """
        ends = np.array([a, b])
        low, high = ends.min(axis=0) - 1, ends.max(axis=0) + 2
        if math.prod(map(int, high - low)) > MOST_AROUND:
            raise NoRoomError("b", f"at most {MOST_AROUND} cells around both", tuple(b))
        around = np.stack(np.meshgrid(*map(np.arange, low, high), indexing="ij"), -1)
        cells: IntArray = around.reshape(-1, 2)
        # a line without a length has no direction
        if a == b:
            return ends[:1], np.array([[0.0, 1.0]])
        met, shares = touching(self.spots(cells), self.corner_spots, *self.spots(ends))
        cells, shares = cells[met], shares[met]
        order = np.lexsort((*cells.T[::-1], shares[:, 1], shares[:, 0]))
        return cells[order], shares[order]


def eight_way(x: Any, y: Any) -> Any:
    """The larger of two lengths, of numbers or arrays alike."""
    return (abs(x + y) + abs(x - y)) >> 1
