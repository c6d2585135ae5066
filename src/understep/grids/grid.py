"""The grid: which cells exist, who neighbors whom, where they lie in the world."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator
from functools import cached_property
from typing import Any, Literal, NamedTuple, Self, cast

import numpy as np
from numpy.typing import NDArray

from understep.checks import items, named, whole
from understep.errors import InputError
from understep.grids import sets
from understep.grids.cell import (
    Cell,
    CellLike,
    Cells,
    CellsLike,
    IntArray,
    cells_array,
    near_cell,
    one_cell,
    plain_numbers,
)
from understep.grids.compass import Points, compass_point
from understep.grids.frame import Frame
from understep.grids.lattice import FloatArray, Lattice, eight_way
from understep.grids.layout import Box, Layout, points_array
from understep.grids.numbering import Numbering, check_size
from understep.grids.outline import outline
from understep.grids.systems import choice

Metric = Literal["steps", "straight", "taxicab", "eight-way"]
AnchorPoint = Literal["middle", "foot"]
Side = Literal["left", "right"]


class Fit(NamedTuple):
    """A grid made to fit, and the strip it leaves."""

    grid: Any
    remainder: tuple[float, float]


class Grid:
    """A board's cells. Use `SquareGrid` or `HexGrid`; this class holds what they share.

    ``lattice``: directions and distance; ``shape``: which cells exist; ``world``: where they lie;
    ``areas``: sets of cells; ``pictures``: where to draw.
    A grid is immutable and holds no game state.
    """

    def __init__(
        self, lattice: Lattice, cols: Any, rows: Any, first: Any, exists: Any, frame: Frame | None
    ) -> None:
        #: How cells neighbor each other, which exist, where they lie: for the library itself.
        self.lattice = lattice
        self.numbering = Numbering(lattice, cols, rows, first, exists)
        self.layout = Layout(lattice, frame)
        self.kind, self.directions = lattice.kind, lattice.directions
        self.cols, self.rows = self.numbering.cols, self.numbering.rows
        self.first, self.frame = self.numbering.first, self.layout.frame
        self.cell_size = self.layout.cell_size

    def __repr__(self) -> str:
        own = "".join(f", {key}={value!r}" for key, value in self._own().items() if value)
        first = f", first={tuple(self.first)}" if any(self.first) else ""
        holes = "" if self.numbering.mask is None else f", {len(self)} cells"
        return f"{type(self).__name__}({self.cols}, {self.rows}{own}{first}{holes})"

    def __reduce__(self) -> tuple[Any, ...]:
        facts = self._own() | {"first": self.first, "frame": self.frame}
        if self.numbering.mask is not None:
            # of its own: a view would take the whole board along
            facts["exists"] = np.array(self.exists)
        return _made, (type(self), self.cols, self.rows, facts)

    def __deepcopy__(self, _memo: Any) -> Self:
        return self  # it never changes

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Grid) and self.frame == other.frame and self._same_cells(other)

    def __hash__(self) -> int:
        return hash((self.frame, self._facts()))

    def _same_cells(self, other: Grid) -> bool:
        """Whether another grid has the same cells and neighbors, wherever they lie."""
        return self is other or self._facts() == other._facts()

    def _facts(self) -> tuple[Any, ...]:
        # packed, as it is compared and hashed with every board
        mask = None if self.numbering.mask is None else np.packbits(self.numbering.mask).tobytes()
        own = tuple(self._own().values())
        return self.kind, self.cols, self.rows, self.first, own, mask

    def _own(self) -> dict[str, Any]:
        """The arguments that only this kind of grid takes."""
        raise NotImplementedError

    def _reversed(self) -> dict[str, Any]:
        """The same for the grid whose rows count the other way."""
        return self._own()

    def _moved_by(self, _cols: int, _rows: int) -> dict[str, Any]:
        """The same for the grid whose cells have other addresses."""
        return self._own()

    @property
    def size(self) -> tuple[int, int]:
        """``(cols, rows)``: how many there are. The last cell is ``bounds[1]``."""
        return self.cols, self.rows

    @property
    def bounds(self) -> tuple[Cell, Cell]:
        """The first and the last cell of the rectangle, both included."""
        return self.numbering.first, self.numbering.last

    @property
    def exists(self) -> NDArray[np.bool_]:
        """Whether each cell of the rectangle exists, ``(rows, cols)``. A view, read-only."""
        return self.numbering.exists

    @property
    def cells(self) -> Cells:
        """All cells, row by row."""
        return self.numbering.cells(self.numbering.existing)

    def __len__(self) -> int:
        mask = self.numbering.mask
        return self.cols * self.rows if mask is None else int(mask.sum())

    def __iter__(self) -> Iterator[Cell]:
        return iter(self.cells)

    def __contains__(self, cell: object) -> bool:
        try:
            col, row = cast(Any, cell)
            # a half lies on no cell; a number of NumPy is as good as one of Python
            same = col == int(col) and row == int(row)
            return bool(same and self.numbering.has(int(col), int(row)))
        except (TypeError, ValueError, OverflowError):
            return False

    def index(self, cells: CellsLike) -> tuple[IntArray, IntArray]:
        """Index of cells into any ``(rows, cols)`` array of this library: ``array[grid.index(c)]``.

        Parameters
        ----------
        cells
            One cell, cells, or an integer array ``(..., 2)``.

        Returns
        -------
        (rows, cols)
            Two int64 arrays of shape ``(...)``, counted from the grid's first cell.

        Raises
        ------
        CellError
            A value that is not a cell, or a cell off the grid.

        Examples
        --------
        >>> import numpy as np, understep as us
        >>> grid = us.SquareGrid(3, 2, first=(-1, -1))
        >>> levels = np.array([[0, 0, 1], [0, 2, 3]])
        >>> int(levels[grid.index((1, 0))]), levels[grid.index([(-1, 0), (0, 0)])].tolist()
        (3, [0, 2])
        """
        array = self.numbering.require_all(cells)
        return array[..., 1] - self.first[1], array[..., 0] - self.first[0]

    def neighbors(self, cell: CellLike) -> Cells:
        """The cells next to a cell, clockwise from north.

        Raises
        ------
        CellError
            ``cell`` is not a cell, or lies off the grid.

        Examples
        --------
        >>> import understep as us
        >>> us.SquareGrid(3, 3).neighbors((0, 0))
        Cells([(1, 0), (0, 1)])
        """
        col, row = self.numbering.require(cell)
        has, steps = self.numbering.has, self.lattice.steps_from(col, row)
        return Cells._of(Cell(col + x, row + y) for x, y in steps if has(col + x, row + y))

    def step(self, cell: CellLike, direction: str | int, n: int = 1) -> Cell | None:
        """The cell ``n`` steps away in a direction; None where that is off the grid.

        Raises
        ------
        CellError
            ``cell`` is not a cell, or lies off the grid.
        NameUnknownError
            The grid has no such direction.
        InputError
            ``n`` is not a whole number.

        Examples
        --------
        >>> import understep as us
        >>> us.SquareGrid(4, 3).step((1, 1), "N"), us.SquareGrid(4, 3).step((1, 0), "N")
        (Cell(col=1, row=0), None)
        """
        way, n = self.lattice.way(direction), whole("n", n)
        x, y = self.lattice.to_plane(*self.numbering.require(cell))
        across, down = self.lattice.vectors[way].tolist()
        col, row = self.lattice.to_cell(x + n * across, y + n * down)
        return Cell(col, row) if self.numbering.has(col, row) else None

    def direction(self, a: CellLike, b: CellLike) -> str | None:
        """The name of the direction in which ``b`` is next to ``a``; None if it is not next to it.

        Raises
        ------
        CellError
            ``a`` or ``b`` is not a cell, or off the grid.

        Examples
        --------
        >>> import understep as us
        >>> us.HexGrid(4, 3).direction((0, 0), (1, 0)), us.HexGrid(4, 3).direction((0, 0), (3, 2))
        ('E', None)
        """
        start, end = self.numbering.require(a, "a"), self.numbering.require(b, "b")
        gap = [end[0] - start[0], end[1] - start[1]]
        steps = self.lattice.steps_from(*start)
        return self.directions[steps.index(gap)] if gap in steps else None

    def exits(self, cells: CellsLike | None = None) -> NDArray[np.uint8]:
        """For each cell, the directions in which another of some cells lies next to it.

        For tiles that join up, such as roads or shores, and for counting neighbors.

        Parameters
        ----------
        cells
            The cells that count; by default all of the grid.

        Returns
        -------
        ndarray of uint8, shape ``(rows, cols)``
            Bit ``k`` is set where the neighbor in the ``k``-th of `directions` counts; 0 for cells
            that do not count themselves. `unpack` gives names. A new array.

        Raises
        ------
        CellError
            A value that is not a cell, or a cell off the grid.

        Examples
        --------
        >>> import understep as us
        >>> grid = us.SquareGrid(3, 3)
        >>> road = grid.exits([(0, 1), (1, 1), (1, 2)])
        >>> grid.unpack(road[grid.index((1, 1))])
        ('S', 'W')
        """
        # without any cells given, the rim of the board and its holes are found
        numbers = self.numbering.existing
        if cells is not None:
            chosen = self.numbering.require_all(cells).reshape(-1, 2)
            numbers = np.unique(self.numbering.numbers(chosen))
        return sets.exits(self.numbering, numbers).reshape(self.rows, self.cols)

    def flags(self, directions: Iterable[str | int]) -> int:
        """Directions packed into one number: bit ``k`` is set for the ``k``-th of `directions`.

        Raises
        ------
        NameUnknownError
            The grid has no such direction.
        InputError
            ``directions`` are not names.

        Examples
        --------
        >>> import understep as us
        >>> grid = us.SquareGrid(4, 4)
        >>> grid.flags(["N", "S"]), grid.unpack(5)
        (5, ('N', 'S'))
        """
        packed = 0
        for direction in items("directions", directions, "must name directions"):
            packed |= 1 << self.lattice.way(direction, "directions")
        return packed

    def unpack(self, flags: int) -> tuple[str, ...]:
        """The names of the directions in a number made by `flags` or `exits`.

        Raises
        ------
        InputError
            ``flags`` is not a whole number from 0 to 2**directions - 1.

        Examples
        --------
        >>> import understep as us
        >>> us.SquareGrid(4, 3).unpack(5)
        ('N', 'S')
        """
        many = len(self.directions)
        flags = whole("flags", flags, 0, (1 << many) - 1)
        return tuple(name for bit, name in enumerate(self.directions) if flags >> bit & 1)

    def distance(self, a: CellsLike, b: CellsLike, *, measure: Metric = "steps") -> Any:
        """The distance between cells.

        Parameters
        ----------
        a, b
            Cells or arrays ``(..., 2)`` that broadcast against each other; off the grid is fine.
        measure
            ``"steps"``: steps from neighbor to neighbor on an empty board without holes.
            ``"straight"``: the straight line between centers, regular neighbors lying 1 apart.
            On squares, whether or not diagonals are neighbors: ``"taxicab"``, columns plus rows;
            ``"eight-way"``, the larger of columns and rows.

        Returns
        -------
        int or float, or ndarray of int64 or float64
            A number for two single cells, else the broadcast shape without the last axis; floats
            for "straight".

        Raises
        ------
        CellError
            A value that is not a cell.
        NameUnknownError
            An unknown measure.
        InputError
            A measure of squares asked of hexes.

        Examples
        --------
        >>> import understep as us
        >>> us.HexGrid(9, 9).distance((0, 0), [(3, 0), (3, 3)]).tolist()
        [3, 5]
        >>> us.SquareGrid(9, 9).distance((0, 0), (3, 4), measure="straight")
        5.0
        """
        if type(measure) is not str or measure != "steps":
            choice(measure, Metric, "measure")
        if measure in ("taxicab", "eight-way") and self.kind != "square":
            raise InputError("measure", "is one of square grids only", measure)
        one, other = plain_numbers(a), plain_numbers(b)
        single = one is not None and other is not None
        if single:
            # single cells are what games ask for in loops: no arrays for them
            (ax, ay), (bx, by) = self.lattice.to_plane(*one), self.lattice.to_plane(*other)  # type: ignore[misc]
        else:
            starts, ends = cells_array(a, "a"), cells_array(b, "b")
            ax, ay = self.lattice.to_plane(starts[..., 0], starts[..., 1])
            bx, by = self.lattice.to_plane(ends[..., 0], ends[..., 1])
        x, y = bx - ax, by - ay
        if measure == "steps":
            found = self.lattice.steps(x, y)
        elif measure == "straight":
            found = self.lattice.squared(x, y) ** 0.5
        else:
            found = abs(x) + abs(y) if measure == "taxicab" else eight_way(x, y)
        return found if single or np.ndim(found) else found.item()

    def facing(self, a: CellLike, b: CellLike) -> str | None:
        """The direction in which one looks from ``a`` towards ``b``, however far that is.

        Of two equally near the line, the first in the order of `directions`; None for ``a`` itself.

        Raises
        ------
        CellError
            ``a`` or ``b`` is not a cell.

        Examples
        --------
        >>> import understep as us
        >>> us.HexGrid(9, 9).facing((1, 1), (7, 2))
        'E'
        """
        ends = near_cell(a, "a"), near_cell(b, "b")
        (ax, ay), (bx, by) = (self.lattice.to_plane(*end) for end in ends)
        if (ax, ay) == (bx, by):
            return None
        along = self.lattice.along(bx - ax, by - ay)
        # of two equally near the first, so that it is always the same
        return self.directions[along.index(max(along))]

    def ring(self, cell: CellLike, radius: int) -> Cells:
        """The cells exactly ``radius`` steps from a cell, clockwise from the first direction.

        Raises
        ------
        CellError
            ``cell`` is not a cell, or lies off the grid.
        InputError
            ``radius`` is not a whole number of 0 or more.

        Examples
        --------
        >>> import understep as us
        >>> us.SquareGrid(5, 5).ring((2, 2), 1)
        Cells([(2, 1), (3, 2), (2, 3), (1, 2)])
        """
        near = sets.disk(self.numbering, self.numbering.require(cell), radius, radius)
        return self.numbering.within(near)

    def disk(self, cell: CellLike, radius: int) -> Cells:
        """The cells up to ``radius`` steps from a cell, in a spiral: the cell, then ring by ring.

        Raises
        ------
        CellError
            ``cell`` is not a cell, or lies off the grid.
        InputError
            ``radius`` is not a whole number of 0 or more.

        Examples
        --------
        >>> import understep as us
        >>> len(us.HexGrid(9, 9).disk((4, 4), 2))
        19
        """
        near = sets.disk(self.numbering, self.numbering.require(cell), 0, radius)
        return self.numbering.within(near)

    def line(self, a: CellLike, b: CellLike) -> Cells:
        """The cells along the straight line between two cells, both included.

        Each is a neighbor of the next and nearest to its place on the line. Places between cells
        all go to the same side: the one on which the most cells exist. The line from ``b`` to ``a``
        is the reverse of that from ``a`` to ``b``. Holes are left out.

        Raises
        ------
        CellError
            ``a`` or ``b`` is not a cell, or off the grid.

        Examples
        --------
        >>> import understep as us
        >>> us.HexGrid(8, 8).line((0, 0), (3, 2))
        Cells([(0, 0), (0, 1), (1, 1), (2, 2), (3, 2)])
        """
        require = self.numbering.require
        return sets.line(self.numbering, require(a, "a"), require(b, "b"))

    def rectangle(self, a: CellLike, b: CellLike) -> Cells:
        """All cells with columns and rows from one cell's to another's, row by row.

        Raises
        ------
        CellError
            ``a`` or ``b`` is not a cell. (They need not be on the grid.)

        Examples
        --------
        >>> import understep as us
        >>> us.SquareGrid(9, 9).rectangle((2, 1), (1, 2))
        Cells([(1, 1), (2, 1), (1, 2), (2, 2)])
        """
        return sets.rectangle(self.numbering, one_cell(a, "a"), one_cell(b, "b"))

    def cone(
        self, cell: CellLike, direction: str | int, radius: int, *, angle: float | None = None
    ) -> Cells:
        """The cells up to ``radius`` steps away around a direction, nearest first.

        Parameters
        ----------
        cell
            Where the cone starts; it is not part of it.
        direction
            The middle of the cone.
        radius
            How many steps it reaches.
        angle
            Its width in degrees, borders included; by default 60 on hexes, 90 on squares, so that
            the six (four) cones around a cell cover everything. Cells count as regular, and are in
            where their centers are.

        Raises
        ------
        CellError
            ``cell`` is not a cell, or lies off the grid.
        NameUnknownError
            The grid has no such direction.
        InputError
            ``radius`` is not a whole number of 0 or more, ``angle`` not a number from 0 to 360.

        Examples
        --------
        >>> import understep as us
        >>> us.HexGrid(8, 8).cone((1, 3), "E", 2)
        Cells([(2, 3), (3, 2), (3, 3), (3, 4)])
        """
        apex, way = self.numbering.require(cell), self.lattice.way(direction)
        return sets.cone(self.numbering, apex, way, radius, angle)

    def rotate(self, cells: CellsLike, about: CellLike, steps: int) -> Cells:
        """A pattern of cells turned about a cell, clockwise as seen.

        Parameters
        ----------
        cells
            The pattern: one cell, cells, or an integer array ``(..., 2)``; off the grid is fine.
        about
            The cell that stays where it is.
        steps
            How many turns of 60 degrees (squares: of 90); negative ones turn back.

        Returns
        -------
        Cells
            In the order of the pattern, without those that fall off the grid.

        Raises
        ------
        CellError
            A value that is not a cell.
        InputError
            ``steps`` is not a whole number.

        Examples
        --------
        >>> import understep as us
        >>> us.SquareGrid(5, 5).rotate([(2, 1), (2, 0)], (2, 2), 1)
        Cells([(3, 2), (4, 2)])
        """
        around = near_cell(about, "about")
        turns = whole("steps", steps)
        # clockwise is what is seen, not how rows are counted
        image = self.lattice.turning(-turns if self.frame.mirrored else turns)
        return sets.moved(self.numbering, cells, around, around, image)

    def mirror(self, cells: CellsLike, about: CellLike, axis: str) -> Cells:
        """A pattern of cells mirrored at the line that runs through a cell in a direction.

        Parameters
        ----------
        cells
            The pattern: one cell, cells, or an integer array ``(..., 2)``; off the grid is fine.
        about
            The cell that stays where it is.
        axis
            The direction of the line: one of the grid's, or "N" or "E" on any grid; on squares the
            diagonals too.

        Returns
        -------
        Cells
            In the order of the pattern, without those that fall off the grid.

        Raises
        ------
        CellError
            A value that is not a cell.
        NameUnknownError
            No such axis.

        Examples
        --------
        >>> import understep as us
        >>> us.HexGrid(5, 5).mirror([(3, 2), (3, 1)], (2, 2), "N")
        Cells([(1, 2), (0, 1)])
        """
        around = near_cell(about, "about")
        return sets.moved(self.numbering, cells, around, around, self.lattice.mirroring(axis))

    def carry(self, cells: CellsLike, a: CellLike, b: CellLike) -> Cells:
        """A pattern of cells moved so that what lay at ``a`` lies at ``b``.

        On hexes too, where adding to columns and rows would bend it.

        Parameters
        ----------
        cells
            The pattern: one cell, cells, or an integer array ``(..., 2)``; off the grid is fine.
        a, b
            A cell, and where it goes.

        Returns
        -------
        Cells
            In the order of the pattern, without those that fall off the grid.

        Raises
        ------
        CellError
            A value that is not a cell.

        Examples
        --------
        >>> import understep as us
        >>> us.HexGrid(5, 5).carry([(1, 1), (1, 2)], (1, 1), (2, 2))
        Cells([(2, 2), (1, 3)])
        """
        same = np.eye(2, dtype=np.int64)
        return sets.moved(self.numbering, cells, near_cell(a, "a"), near_cell(b, "b"), same)

    def touched(self, a: CellLike, b: CellLike) -> tuple[IntArray, FloatArray]:
        """All cells that the straight line between two middles touches, borders included.

        Parameters
        ----------
        a, b
            The cells that it leads from and to.

        Returns
        -------
        tuple
            The cells, an int64 array ``(n, 2)``, by where the line comes to them and leaves them;
            of those off the grid too. And from which to which share of the line each is touched,
            ``(n, 2)`` float64 from 0 to 1.

        Raises
        ------
        CellError
            ``a`` or ``b`` is not a pair of whole numbers.
        NoRoomError
            They are farther apart than there is room for.

        Examples
        --------
        >>> import understep as us
        >>> cells, shares = us.SquareGrid(4, 4).touched((0, 0), (1, 1))
        >>> cells.tolist(), shares[0].tolist()
        ([[0, 0], [0, 1], [1, 0], [1, 1]], [0.0, 0.5])
        """
        return self.lattice.touched(one_cell(a, "a"), one_cell(b, "b"))

    def center(self, cells: CellsLike, *, level: Any = 0.0) -> FloatArray:
        """World points of the middles of cells.

        Parameters
        ----------
        cells
            One cell, cells, or an integer array ``(..., 2)``; off the grid is fine.
        level
            Level of elevation, a number or an array ``(...)``. (A board knows its own.)

        Returns
        -------
        ndarray of float64, shape ``(..., 2)``
            x and y in world units. A new array.

        Raises
        ------
        CellError
            A value that is not a cell.
        InputError
            ``level`` is not a number, or one for each cell.

        Examples
        --------
        >>> import understep as us
        >>> us.SquareGrid(4, 3).center((1, 2)).tolist()
        [1.5, 2.5]
        """
        return self.layout.center(self.numbering.listed(cells), level)

    def corners(self, cells: CellsLike, *, level: Any = 0.0) -> FloatArray:
        """World points of the corners of cells, clockwise as seen.

        Parameters
        ----------
        cells
            One cell, cells, or an integer array ``(..., 2)``; off the grid is fine.
        level
            Level of elevation, a number or an array ``(...)``. (A board knows its own.)

        Returns
        -------
        ndarray of float64, shape ``(..., 4 or 6, 2)``
            x and y in world units; a corner that cells share is the same to the last bit. A new
            array.

        Raises
        ------
        CellError
            A value that is not a cell.
        InputError
            ``level`` is not a number, or one for each cell.

        Examples
        --------
        >>> import understep as us
        >>> us.SquareGrid(4, 3).corners((1, 2)).tolist()
        [[1.0, 2.0], [2.0, 2.0], [2.0, 3.0], [1.0, 3.0]]
        """
        return self.layout.corners(self.numbering.listed(cells), level)

    def corner(self, cell: CellLike, name: str, *, level: float = 0.0) -> FloatArray:
        """The world point of one corner of a cell, named by where it is seen before any rotation.

        On squares "NW", "NE", "SE" and "SW"; on hexes "N" and "S" too, or "E" and "W".

        Raises
        ------
        CellError
            ``cell`` is not a cell.
        NameUnknownError
            No such corner.
        InputError
            ``level`` is not a number, or one for each cell.

        Examples
        --------
        >>> import understep as us
        >>> us.SquareGrid(4, 3, frame=us.Frame(cell=(32, 24))).corner((1, 0), "SE").tolist()
        [64.0, 24.0]
        """
        names = self.lattice.corner_names[:: -1 if self.lattice.mirrored else 1]
        place = names.index(named("name", "corner", name, names))
        found: FloatArray = self.corners(near_cell(cell, "cell"), level=level)[place]
        return found

    def box(self, cell: CellLike, *, level: float = 0.0) -> Box:
        """The box around one cell as it is seen: its corner of least x and y, and its size.

        Raises
        ------
        CellError
            ``cell`` is not a cell.
        InputError
            ``level`` is not a number, or one for each cell.

        Examples
        --------
        >>> import understep as us
        >>> us.SquareGrid(4, 3, frame=us.Frame(cell=(32, 24))).box((1, 2))
        Box(x=32.0, y=48.0, width=32.0, height=24.0)
        """
        points = self.corners(near_cell(cell, "cell"), level=level)
        low, high = points.min(axis=0), points.max(axis=0)
        return Box(*low.tolist(), *(high - low).tolist())

    def cell_at(self, point: tuple[float, float]) -> Cell | None:
        """The cell whose polygon holds a world point; None off the grid.

        A point on a border belongs to the cell below it, on an upright border to the cell on the
        right: below and right on the unturned board, where rows count down. A border is as wide as
        some billionths of a cell.

        Parameters
        ----------
        point
            World point ``(x, y)``.

        Raises
        ------
        InputError
            ``point`` is not two finite numbers.

        Examples
        --------
        >>> import understep as us
        >>> grid = us.SquareGrid(4, 4)
        >>> grid.cell_at((2.0, 0.5)), grid.cell_at((4.0, 0.5))
        (Cell(col=2, row=0), None)
        """
        found = self.layout.pick(point)
        return None if found is None or not self.numbering.has(*found) else Cell(*found)

    def cells_at(self, points: Any) -> tuple[IntArray, NDArray[np.bool_]]:
        """The cells whose polygons hold world points; borders as in `cell_at`.

        Parameters
        ----------
        points
            Float array ``(..., 2)`` of x and y.

        Returns
        -------
        cells
            int64 array ``(..., 2)``; for points off the grid too, as if it had no end.
        inside
            Bool array ``(...)``: whether the cell is on the grid.

        Raises
        ------
        InputError
            ``points`` are not pairs of finite numbers.

        Examples
        --------
        >>> import understep as us
        >>> cells, inside = us.SquareGrid(4, 4).cells_at([(2.5, 0.5), (4.5, 0.5)])
        >>> cells.tolist(), inside.tolist()
        ([[2, 0], [4, 0]], [True, False])
        """
        cells = self.layout.pick_all(points)
        return cells, self.numbering.holds(cells)

    def snap(self, points: Any) -> FloatArray:
        """The center nearest to each world point, among the cells of the grid.

        A point on the grid goes to the center of its cell. Nearest is meant on the ground, as if
        cells were regular.

        Parameters
        ----------
        points
            One world point, or a float array ``(..., 2)``.

        Returns
        -------
        ndarray of float64, shape ``(..., 2)``
            A new array.

        Raises
        ------
        InputError
            ``points`` are not pairs of finite numbers.

        Examples
        --------
        >>> import understep as us
        >>> us.SquareGrid(4, 4).snap([(2.2, 0.9), (9, 1)]).tolist()
        [[2.5, 0.5], [3.5, 1.5]]
        """
        array = points_array(points)
        cells, inside = self.cells_at(array)
        # few points are off the board: only these are looked at one by one
        for place in map(tuple, np.argwhere(~inside)):
            cells[place] = self.layout.snap(array[place], self._rim)
        return self.center(cells)

    def outline(self, cells: CellsLike, *, level: Any = 0.0) -> list[FloatArray]:
        """The border around a set of cells, as closed lines in the world.

        Parameters
        ----------
        cells
            One cell, cells, or an integer array ``(..., 2)`` on the grid, in any order.
        level
            Level of elevation of them all.

        Returns
        -------
        list of ndarray of float64, shape ``(points, 2)``
            One line for each piece and one for each hole; the last point is the first again. Going
            along it the cells lie on the right as seen: around pieces clockwise, around holes the
            other way. Pieces that touch in a corner only have a line each; holes that do share one.
            Without points in the middle of a straight line.

        Raises
        ------
        CellError
            A value that is not a cell, or a cell off the grid.
        InputError
            ``level`` is not a number, or one for each cell.

        Examples
        --------
        >>> import understep as us
        >>> [line.tolist() for line in us.SquareGrid(4, 4).outline([(0, 0), (1, 0)])]
        [[[0.0, 0.0], [2.0, 0.0], [2.0, 1.0], [0.0, 1.0], [0.0, 0.0]]]
        """
        array = self.numbering.require_all(cells).reshape(-1, 2)
        lattice = self.lattice
        edges = lattice.deltas[:, list(lattice.edge_ways)][lattice.lines(array)]
        loops = outline(array, edges, lattice.spots(array), lattice.corner_spots)
        turned = -1 if lattice.mirrored else 1
        lines = [np.stack(self.layout.place(*loop.T), axis=-1)[::turned] for loop in loops]
        return [self.layout.lifted(line, level) for line in lines]

    @cached_property
    def _rim(self) -> IntArray:
        """The cells that have a neighbor off the grid."""
        cells = self.numbering.cells_of(self.numbering.existing)
        return cells[~self.numbering.holds(self.lattice.around(cells)).all(axis=1)]

    @cached_property
    def extent(self) -> Box:
        """The box around all cells in the world: the size of the canvas that holds them."""
        # inner cells reach no farther
        points = self.corners(self._rim).reshape(-1, 2)
        low, high = points.min(axis=0), points.max(axis=0)
        return Box(*low.tolist(), *(high - low).tolist())

    def anchor(
        self,
        cells: CellsLike,
        *,
        point: AnchorPoint = "middle",
        picture: tuple[float, float] = (0.0, 0.0),
        level: Any = 0.0,
    ) -> FloatArray:
        """Where to draw pictures that belong on cells.

        Parameters
        ----------
        cells
            One cell, cells, or an integer array ``(..., 2)``; off the grid is fine.
        point
            ``"middle"``: the middle of the picture lies on the middle of the ground. ``"foot"``:
            the middle of its lower edge does, as of a thing that stands there.
        picture
            Width and height of the picture in world units, larger or smaller than the cell.
        level
            Level of elevation, a number or an array ``(...)``. (A board knows its own.)

        Returns
        -------
        ndarray of float64, shape ``(..., 2)``
            The picture's corner of least x and y: top left, or bottom left where y points up.

        Raises
        ------
        CellError
            A value that is not a cell.
        NameUnknownError
            An unknown word for ``point``.
        InputError
            A picture whose size is not two numbers of 0 or more.

        Examples
        --------
        >>> import understep as us
        >>> grid = us.SquareGrid(4, 4, frame=us.Frame(cell=(64, 32), projection="isometric"))
        >>> grid.anchor((1, 0), point="foot", picture=(40, 80)).tolist()
        [12.0, -48.0]
        """
        choice(point, AnchorPoint, "point")
        try:
            width, height = map(float, picture)
        except (TypeError, ValueError, OverflowError):
            raise InputError("picture", "must be width and height", picture) from None
        if not (0 <= width < math.inf and 0 <= height < math.inf):
            raise InputError("picture", "width and height must be 0 or more", picture)
        # the foot is the lower edge: where y points up, the corner that is returned lies on it
        above = height / 2 if point == "middle" else height if self.frame.down > 0 else 0.0
        return self.center(cells, level=level) - (width / 2, above)

    def bearing(self, direction: str | int) -> float:
        """The angle at which a direction is seen: degrees clockwise from the top of the screen.

        Raises
        ------
        NameUnknownError
            The grid has no such direction.

        Examples
        --------
        >>> import understep as us
        >>> us.SquareGrid(4, 4).bearing("E")
        90.0
        """
        return self._bearings[self.lattice.way(direction)]

    @cached_property
    def _bearings(self) -> list[float]:
        """The bearing of every direction."""
        beside = self.lattice.around(np.zeros(2, dtype=np.int64))
        x, y = (self.center(beside) - self.center((0, 0))).T
        bearings: list[float] = (np.degrees(np.arctan2(x, -y * self.frame.down)) % 360).tolist()
        return bearings

    def compass(self, direction: str | int, *, points: Points = 8) -> str:
        """The point of the compass towards which a direction is seen, such as for sprites.

        Parameters
        ----------
        direction
            By name or number.
        points
            8: N, NE, E, ... with N at the top of the screen; 4: N, E, S and W. Of two equally near
            the one to the side.

        Raises
        ------
        NameUnknownError
            The grid has no such direction.
        InputError
            ``points`` is neither 4 nor 8.

        Examples
        --------
        >>> import understep as us
        >>> grid = us.SquareGrid(4, 4, frame=us.Frame(projection="isometric"))
        >>> grid.compass("E"), grid.compass("N", points=4)
        ('SE', 'E')
        """
        return compass_point(self.bearing(direction), points)

    def side_facing(self, a: CellLike, b: CellLike, *, before: Side = "right") -> Side:
        """Whether a picture drawn from the side looks left or right, from one cell to another.

        Parameters
        ----------
        a, b
            The cell it stands on, and the one it looks at, on the grid or off it.
        before
            The side so far: it is kept where ``b`` lies straight above or below ``a`` on the
            screen.

        Raises
        ------
        CellError
            ``a`` or ``b`` is not a cell.
        NameUnknownError
            An unknown side.

        Examples
        --------
        >>> import understep as us
        >>> grid = us.HexGrid(4, 4, top="flat")
        >>> grid.side_facing((2, 1), (1, 3)), grid.side_facing((2, 1), (2, 3), before="left")
        ('left', 'left')
        """
        choice(before, Side, "before")
        ends = np.array([near_cell(a, "a"), near_cell(b, "b")])
        x, y = np.diff(self.center(ends), axis=0)[0].tolist()
        # straight up or down it looks where it looked before
        return before if abs(x) <= 1e-9 * math.hypot(x, y) else "right" if x > 0 else "left"

    def reframed(self, frame: Frame) -> Self:
        """The same cells, laid out otherwise in the world.

        Raises
        ------
        InputError
            ``frame`` is not a Frame.

        Examples
        --------
        >>> import understep as us
        >>> grid = us.SquareGrid(4, 3).reframed(us.Frame(cell=(64, 32), projection="isometric"))
        >>> grid.size, grid.center((1, 1)).tolist()
        ((4, 3), [0.0, 48.0])
        """
        if not isinstance(frame, Frame):
            raise InputError("frame", "must be a Frame", frame)
        exists = None if self.numbering.mask is None else self.exists
        return self._resized(self.cols, self.rows, self.first, exists, frame=frame)

    def _resized(
        self, cols: int, rows: int, first: CellLike, exists: Any, moved: tuple[int, int] = (0, 0),
        frame: Frame | None = None,
    ) -> Self:  # fmt: skip
        """A grid of this kind with another size; ``moved``: what was added to all addresses."""
        make: Any = type(self)
        own, frame = self._moved_by(*moved), self.frame if frame is None else frame
        made: Self = make(cols, rows, first=first, exists=exists, frame=frame, **own)
        return made

    @classmethod
    def _fitting(cls, width: float, height: float, **kind: Any) -> tuple[int, int]:
        """How many columns and rows fit into so many cells' width and height."""
        raise NotImplementedError

    @classmethod
    def from_cells(cls, cells: CellsLike, **kind: Any) -> Self:
        """A grid of any set of cells.

        Parameters
        ----------
        cells
            Cells, or an integer array ``(..., 2)``, in any order; negative ones too.
        kind
            What the class takes besides size, ``first`` and ``exists``: ``diagonals``, or ``top``
            and ``shifted``; ``frame``.

        Raises
        ------
        CellError
            A value that is not a cell.
        InputError
            No cells at all, or some too far apart for a grid.

        Examples
        --------
        >>> import understep as us
        >>> grid = us.SquareGrid.from_cells([(-1, 0), (0, 0), (0, 1)])
        >>> grid.bounds[0], len(grid), (-1, 1) in grid
        (Cell(col=-1, row=0), 3, False)
        """
        array = cells_array(cells, "cells").reshape(-1, 2)
        if not len(array):
            raise InputError("cells", "a grid has at least one cell", cells)
        low = array.min(axis=0)
        cols, rows = (array.max(axis=0) - low + 1).tolist()
        check_size("cells", cols, rows)
        first = tuple(low.tolist())
        # first the rectangle around them, which says where each belongs
        whole = cls(cols, rows, first=first, **kind)
        exists = np.zeros((rows, cols), dtype=bool)
        exists[whole.index(array)] = True
        return cls(cols, rows, first=first, exists=exists, **kind)

    @classmethod
    def fit(
        cls,
        extent: tuple[float, float],
        cell: tuple[float, float],
        *,
        origin: tuple[float, float] = (0.0, 0.0),
        **kind: Any,
    ) -> Fit:
        """The largest grid, seen in plan, that lies within an extent of the world.

        Parameters
        ----------
        extent
            Width and height in world units.
        cell
            Width and height of one cell.
        origin
            Where the extent begins.
        kind
            ``diagonals``, or ``top`` and ``shifted``.

        Returns
        -------
        Fit
            The grid, and the width and height that are left over.

        Raises
        ------
        InputError
            A size that is not positive, or an extent that holds no cell.

        Examples
        --------
        >>> import understep as us
        >>> us.HexGrid.fit((300, 200), cell=(32, 32))
        Fit(grid=HexGrid(8, 8, top='pointy', shifted='odd'), remainder=(28.0, 0.0))
        """
        frame, sizes = Frame(cell=cell, origin=origin), []
        if frame.cell is None:
            raise InputError("cell", "must be width and height, above 0", cell)
        for place in (0, 1):
            try:
                size = float(extent[place])
            except (TypeError, ValueError, LookupError, OverflowError):
                size = math.nan
            if not 0 < size < math.inf or len(extent) != 2:
                raise InputError("extent", "must be width and height, above 0", extent)
            # a width of just so many cells holds as many, even where the division is off by a bit
            sizes.append(size / frame.cell[place] + 1e-9)
        cols, rows = cls._fitting(*sizes, **kind)
        if min(cols, rows) < 1:
            raise InputError("extent", f"is too small for a cell of {frame.cell}", extent)
        make: Any = cls
        grid: Self = make(cols, rows, frame=frame, **kind)
        left = (float(extent[0]) - grid.extent.width, float(extent[1]) - grid.extent.height)
        return Fit(grid, (max(0.0, left[0]), max(0.0, left[1])))

    def flipped(self) -> Self:
        """The grid of a level whose rows are listed the other way, bottom row first.

        It has the same cells in the same places, upside down: row ``r`` is this one's row
        ``first + last - r``, and hexes keep their stagger. `flip` moves cells across.

        Examples
        --------
        A level whose row 0 is the bottom row, odd rows shifted, is held so:

        >>> import understep as us
        >>> listed = us.HexGrid(5, 4, shifted="odd")
        >>> grid = listed.flipped()
        >>> grid, listed.flip((2, 0))
        (HexGrid(5, 4, top='pointy', shifted='even'), Cells([(2, 3)]))
        """
        exists = None if self.numbering.mask is None else self.exists[::-1]
        kind: dict[str, Any] = {
            "first": self.first,
            "exists": exists,
            "frame": self.frame,
            **self._reversed(),
        }
        make: Any = type(self)
        made: Self = make(self.cols, self.rows, **kind)
        return made

    def flip(self, cells: CellsLike | CellLike) -> Cells:
        """Cells of a level listed the other way: the first row becomes the last.

        Raises
        ------
        CellError
            A value that is not a cell, or a cell off the grid.

        Examples
        --------
        >>> import understep as us
        >>> us.SquareGrid(4, 3).flip([(1, 0)])
        Cells([(1, 2)])
        """
        array = self.numbering.require_all(cells).reshape(-1, 2).copy()
        array[:, 1] = 2 * self.first[1] + self.rows - 1 - array[:, 1]
        return Cells(array)


def _made(kind: Any, cols: int, rows: int, facts: dict[str, Any]) -> Grid:
    """A grid that was pickled."""
    found: Grid = kind(cols, rows, **facts)
    return found
