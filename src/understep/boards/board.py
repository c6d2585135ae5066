"""The board: a grid, its terrain and its units, always consistent."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from dataclasses import replace
from typing import Any, Protocol, TypeVar, cast

import numpy as np
from numpy.typing import NDArray

from understep.boards.terrain import Terrain, TerrainLike, terrain_table
from understep.boards.unit import Mover, Unit
from understep.errors import InputError, NameUnknownError, OccupiedError
from understep.grids.cell import Cell, CellLike, CellsLike, IntArray, cells_array
from understep.grids.grid import Grid
from understep.grids.picking import pick_raised
from understep.grids.pictures import Stand
from understep.grids.world import FloatArray

T = TypeVar("T", bound="Watcher")
MOST_SIDES = 254
MOST_LEVEL = 10**6


class Watcher(Protocol):
    """Something derived from a board, which is told which cells' ground has changed."""

    def touched(self, numbers: IntArray) -> None:
        """Take note of changed cells, by number."""


class Board:
    """A grid plus everything that changes on it.

    Parameters
    ----------
    grid
        The cells.
    terrain
        Name to movement cost, None (impassable) or `Terrain`.
    fill
        The terrain of every cell to begin with; by default the first of ``terrain``.

    Raises
    ------
    InputError, CostError
        A table that is empty, or a cost that cannot be.
    NameUnknownError
        ``fill`` names no terrain.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.HexGrid(6, 4), {"turf": 1, "mud": 3, "deep": None})
    >>> board.paint("mud", [(1, 1), (2, 1)])
    >>> board.terrain((2, 1))
    'mud'
    """

    def __init__(
        self, grid: Grid, terrain: dict[str, TerrainLike], fill: str | None = None
    ) -> None:
        if not isinstance(grid, Grid):
            raise InputError("grid", "must be a SquareGrid or HexGrid", grid)
        self.grid = grid
        self.terrains: dict[str, Terrain] = terrain_table(terrain)
        self._codes = {name: code for code, name in enumerate(self.terrains)}
        self._names = list(self.terrains)
        fill = self._names[0] if fill is None else fill
        code = self._terrain_code(fill, "fill")
        self._ground: NDArray[np.uint8] = np.full(grid.cols * grid.rows, code, dtype=np.uint8)
        self._who: NDArray[np.uint8] = np.zeros(grid.cols * grid.rows, dtype=np.uint8)
        self._sides: dict[str, int] = {}
        self._units: dict[str, Unit] = {}
        self._standing: dict[Cell, str] = {}
        self._derived: dict[Hashable, Watcher] = {}
        self._levels: FloatArray | None = None  # by number; None: all 0
        self._state = 0
        #: A line for people, kept in the board file.
        self.title = ""
        #: Movements by name, kept in the board file; those of its units need not be listed.
        self.movements: dict[str, Mover] = {}

    def __repr__(self) -> str:
        return f"Board({self.grid!r}, {len(self.terrains)} terrains, {len(self._units)} units)"

    @property
    def state(self) -> int:
        """Identity of the present contents: it differs after every change."""
        return self._state

    # terrain

    def _terrain_code(self, name: object, argument: str) -> int:
        try:
            return self._codes[cast(str, name)]
        except (KeyError, TypeError):
            raise NameUnknownError(argument, "terrain", name, self._names) from None

    def terrain(self, cell: CellLike) -> str:
        """The name of a cell's terrain.

        Raises
        ------
        CellError
            ``cell`` is none, or off the board.
        """
        return self._names[int(self._ground[self.grid.number(self.grid.require(cell))])]

    def terrain_codes(self) -> NDArray[np.uint8]:
        """The terrain of every cell as ``(rows, cols)`` uint8: places in `terrains`. A copy.

        Holes of the grid have a number too, which means nothing.
        """
        return self._ground.reshape(self.grid.rows, self.grid.cols).copy()

    def paint(self, name: str, cells: CellsLike) -> None:
        """Give cells a terrain.

        Parameters
        ----------
        name
            A terrain of this board.
        cells
            One cell, cells, or an integer array ``(..., 2)``.

        Raises
        ------
        NameUnknownError
            No such terrain.
        CellError
            A cell that is none, or off the board.
        OccupiedError
            A unit stands on one of the cells and could not stand on that terrain.
        """
        code = self._terrain_code(name, "name")
        numbers = self.grid.numbers(self.grid.require_all(cells).reshape(-1, 2))
        for number in numbers[self._who[numbers] > 0].tolist():
            unit = self._units[self._standing[self.grid.cell_of(number)]]
            if unit.movement.cost_on(name, self.terrains[name]) is None:
                rule = f"unit {unit.name!r} stands at {_at(unit)} and cannot stand on {name!r}"
                raise OccupiedError("cells", rule, tuple(unit.at or ()))
        self._ground[numbers] = code
        self._changed()
        for watcher in self._derived.values():
            watcher.touched(numbers)

    # units

    def add(self, unit: Unit, at: CellLike) -> Unit:
        """Set a new unit down, and return it as it stands there.

        Raises
        ------
        InputError
            ``unit`` is no unit, its name is taken, its facing is no direction of the grid, or it
            cannot stand on that terrain.
        CellError
            ``at`` is no cell, or off the board.
        OccupiedError
            Another unit stands there.
        """
        if not isinstance(unit, Unit):
            raise InputError("unit", "must be a Unit", unit)
        if unit.name in self._units:
            raise InputError("unit", "its name is taken on this board", unit.name)
        if unit.facing is not None:
            self.grid.way(unit.facing, "unit.facing")
        if unit.side not in self._sides and len(self._sides) >= MOST_SIDES:
            raise InputError("unit", f"a board has at most {MOST_SIDES} sides", unit.side)
        return self._set_down(unit, at)

    def put(self, name: str, at: CellLike) -> Unit:
        """Set a unit down somewhere else, by no movement rule, and return it as it stands there.

        Raises
        ------
        NameUnknownError
            No such unit.
        CellError
            ``at`` is no cell, or off the board.
        OccupiedError
            Another unit stands there.
        InputError
            It cannot stand on that terrain.
        """
        return self._set_down(self.unit(name), at)

    def _set_down(self, unit: Unit, at: CellLike) -> Unit:
        cell = self.grid.require(at, "at")
        other = self._standing.get(cell)
        if other is not None and other != unit.name:
            raise OccupiedError("at", f"unit {other!r} stands there", tuple(cell))
        ground = self.terrain(cell)
        if unit.movement.cost_on(ground, self.terrains[ground]) is None:
            raise InputError("at", f"unit {unit.name!r} cannot stand on {ground!r}", tuple(cell))
        if unit.name in self._units:
            self._take_up(self._units[unit.name])
        placed = replace(unit, at=cell)
        code = self._sides.setdefault(unit.side, len(self._sides) + 1)
        self._units[unit.name] = placed
        self._standing[cell] = unit.name
        self._who[self.grid.number(cell)] = code
        self._changed()
        return placed

    def remove(self, name: str) -> Unit:
        """Take a unit off the board, and return it.

        Raises
        ------
        NameUnknownError
            No such unit.
        """
        unit = self.unit(name)
        self._take_up(unit)
        del self._units[name]
        self._changed()
        return replace(unit, at=None)

    def _take_up(self, unit: Unit) -> None:
        cell = cast(Cell, unit.at)
        del self._standing[cell]
        self._who[self.grid.number(cell)] = 0

    def unit(self, name: str) -> Unit:
        """The unit of a name, as it is now.

        Raises
        ------
        NameUnknownError
            No such unit.
        """
        try:
            return self._units[name]
        except (KeyError, TypeError):
            raise NameUnknownError("unit", "unit", name, self._units) from None

    def unit_at(self, cell: CellLike) -> Unit | None:
        """The unit that stands on a cell, or None.

        Raises
        ------
        CellError
            ``cell`` is none, or off the board.
        """
        name = self._standing.get(self.grid.require(cell))
        return None if name is None else self._units[name]

    def units(self, side: str | None = None) -> tuple[Unit, ...]:
        """All units, or those of one side, in the order they were added.

        Raises
        ------
        NameUnknownError
            No unit of that side was ever added.
        """
        if side is None:
            return tuple(self._units.values())
        if side not in self._sides:
            raise NameUnknownError("side", "side", side, self._sides)
        return tuple(unit for unit in self._units.values() if unit.side == side)

    def vacant(self, cell: CellLike) -> bool:
        """Whether no unit stands on a cell.

        Raises
        ------
        CellError
            ``cell`` is none, or off the board.
        """
        return self.grid.require(cell) not in self._standing

    @property
    def sides(self) -> tuple[str, ...]:
        """The sides that have or had a unit here."""
        return tuple(self._sides)

    # elevation and the world

    @property
    def elevation(self) -> FloatArray:
        """The level of every cell, ``(rows, cols)`` float64, 0 to begin with. A view, read-only."""
        shape = self.grid.rows, self.grid.cols
        if self._levels is None:
            return np.broadcast_to(np.float64(0), shape)
        view = self._levels.reshape(shape).view()
        view.flags.writeable = False
        return view

    def raise_to(self, level: float, cells: CellsLike) -> None:
        """Set the level of elevation of cells.

        Parameters
        ----------
        level
            A number, whole or not, within a million of 0; or an array ``(...)``, one for each cell.
        cells
            One cell, cells, or an integer array ``(..., 2)``.

        Raises
        ------
        CellError
            A cell that is none, or off the board.
        InputError
            A level that is no such number, or another count of them than of cells.

        Examples
        --------
        >>> import understep as us
        >>> frame = us.Frame(cell=(64, 32), view="isometric", lift=16)
        >>> board = us.Board(us.SquareGrid(4, 4, frame=frame), {"turf": 1})
        >>> board.raise_to(2, [(1, 1), (1, 2)])
        >>> board.center((1, 1)).tolist(), board.cell_at((0, 16))
        ([0.0, 16.0], Cell(col=1, row=1))
        """
        array = self.grid.require_all(cells)
        try:
            found = np.broadcast_to(np.asarray(level), array.shape[:-1])
        except ValueError:
            rule = f"must be one number, or one for each of the cells {array.shape[:-1]}"
            raise InputError("level", rule, np.shape(level)) from None
        if found.dtype.kind not in "iuf" or not (np.abs(found) <= MOST_LEVEL).all():
            raise InputError("level", f"must be numbers within {MOST_LEVEL} of 0", level)
        numbers = self.grid.numbers(array)
        if self._levels is None:
            self._levels = np.zeros(self.grid.cols * self.grid.rows, dtype=np.float64)
        self._levels[numbers] = found
        self._changed()
        for watcher in self._derived.values():
            watcher.touched(numbers.reshape(-1))

    def _level(self, cells: CellsLike) -> FloatArray | float:
        """The levels of cells; 0 off the board."""
        if self._levels is None:
            return 0.0
        array = cells_array(cells, "cells")
        inside = self.grid.holds(array)
        numbers = np.where(inside, self.grid.numbers(array), 0)
        return np.where(inside, self._levels[numbers], 0.0)

    def center(self, cells: CellsLike) -> FloatArray:
        """As the grid's `center`, elevation included."""
        return self.grid.center(cells, self._level(cells))

    def corners(self, cells: CellsLike) -> FloatArray:
        """As the grid's `corners`, elevation included."""
        return self.grid.corners(cells, self._level(cells))

    def anchor(
        self, cells: CellsLike, stand: Stand = "middle", picture: tuple[float, float] = (0, 0)
    ) -> FloatArray:
        """As the grid's `anchor`, elevation included."""
        return self.grid.anchor(cells, stand, picture, self._level(cells))

    def cell_at(self, point: tuple[float, float]) -> Cell | None:
        """The cell seen at a world point: of raised tops and front faces, the nearest.

        Raises
        ------
        InputError
            ``point`` is not two finite numbers.
        """
        flat = self.grid.cell_at(point)
        if self._levels is None or not self.grid.frame.lift:
            return flat
        cells, inside = self.cells_at(point)
        return Cell(*cells.tolist()) if inside else None

    def cells_at(self, points: Any) -> tuple[IntArray, NDArray[np.bool_]]:
        """As the grid's `cells_at`, of raised tops and front faces the nearest.

        A cell is a pillar that stands on level 0, or on the lowest level of the board.
        """
        if self._levels is None or not self.grid.frame.lift:
            return self.grid.cells_at(points)
        return pick_raised(self.grid, self.elevation, points)

    # what others derive from the board

    def _changed(self) -> None:
        self._state += 1

    def derived(self, key: Hashable, make: Callable[[], T]) -> T:
        """What is kept under a key; made when it is not there yet. It is told of every edit."""
        try:
            return cast(T, self._derived[key])
        except KeyError:
            made = make()
            self._derived[key] = made
            return made

    def layers(self) -> tuple[NDArray[np.uint8], NDArray[np.uint8]]:
        """The terrain code and the side code (0: nobody) of every cell, by number.

        Views, not copies, for the kernels; not to be written to.
        """
        return self._ground, self._who

    def side_code(self, side: str) -> int:
        """The code of a side in `layers`; 0 for one that never had a unit here."""
        return self._sides.get(side, 0)


def _at(unit: Unit) -> tuple[Any, ...]:
    return tuple(unit.at or ())
