"""The ground of a board: terrain and elevation of every cell."""

from __future__ import annotations

from collections.abc import Callable
from numbers import Real
from typing import Any, TypeAlias, cast

import numpy as np
from numpy.typing import NDArray

from understep.boards.journal import Journal
from understep.boards.store import Layer, Store
from understep.boards.terrain import Terrain, TerrainLike, terrain_table
from understep.errors import CellError, InputError, NameUnknownError
from understep.grids.cell import Cell, CellLike, CellsLike, IntArray, array_of, cells_array
from understep.grids.grid import Grid
from understep.grids.world import FloatArray

MOST_LEVEL = 10**6
Levels: TypeAlias = float | NDArray[Any] | Callable[[FloatArray, FloatArray], Any]
Where: TypeAlias = CellsLike | NDArray[np.bool_] | Callable[[Cell], bool]


class Ground:
    """Terrain and elevation."""

    grid: Grid
    _journal: Journal

    def _lay(self, terrain: dict[str, TerrainLike], fill: str | None) -> None:
        """Make the ground, once."""
        self.terrains: dict[str, Terrain] = terrain_table(terrain)
        self._codes = {name: code for code, name in enumerate(self.terrains)}
        self._names = list(self.terrains)
        code = self._terrain_code(self._names[0] if fill is None else fill, "fill")
        many = self.grid.cols * self.grid.rows
        self._ground = Layer(np.full(many, code, dtype=np.uint8))
        self._levels = Layer(np.broadcast_to(np.float64(0), many), shared=True)
        self._raised = False  # whether levels were ever set

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
            ``cell`` is not a cell, or lies off the board.
        """
        return self._names[int(self._ground.array[self.grid.number(self.grid.require(cell))])]

    def terrain_codes(self) -> NDArray[np.uint8]:
        """The terrain of every cell as ``(rows, cols)`` uint8: places in `terrains`. A copy.

        Holes of the grid have a number too, which means nothing.
        """
        return self._ground.array.reshape(self.grid.rows, self.grid.cols).copy()

    def paint(self, name: str, cells: Where) -> None:
        """Give cells a terrain.

        Parameters
        ----------
        name
            A terrain of this board.
        cells
            One cell, cells, an integer array ``(..., 2)``; a mask ``(rows, cols)`` of true and
            false; or a function of a cell that says whether it is meant.

        Raises
        ------
        NameUnknownError
            No such terrain.
        CellError
            A value that is not a cell, or a cell off the board.
        OccupiedError
            A unit stands on one of the cells and could not stand on that terrain.
        InputError
            A mask of another shape.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1, "mud": 3})
        >>> board.paint("mud", lambda cell: cell.row == 0)
        >>> board.terrain((2, 0)), board.terrain((2, 1))
        ('mud', 'turf')
        """
        code = self._terrain_code(name, "name")
        numbers = self.numbers(cells)
        self._change(self._ground, numbers, code, numbers)

    def _change(self, store: Store, keys: Any, new: Any, numbers: IntArray) -> None:
        """Write, unless a unit on one of the cells, by number, could not stand there then."""
        raise NotImplementedError

    def numbers(self, cells: Where) -> IntArray:
        """The numbers of cells that are given as cells, as a mask or by a function.

        Raises
        ------
        CellError
            A value that is not a cell, or a cell off the board.
        InputError
            A mask of another shape.
        """
        grid = self.grid
        if isinstance(cells, tuple) and len(cells) == 2 and type(cells[0]) is int:
            return np.array([grid.number(grid.require(cells, "cells"))])  # a single cell, fast
        if callable(cells):
            cells = [cell for cell in grid if cells(cell)]
        if isinstance(cells, np.ndarray) and cells.dtype == np.bool_:
            if cells.shape != (grid.rows, grid.cols):
                rule = f"a mask must have the shape {(grid.rows, grid.cols)}"
                raise InputError("cells", rule, cells.shape)
            return np.flatnonzero(cells & grid.exists)
        return grid.numbers(grid.require_all(cells).reshape(-1, 2))

    @property
    def elevation(self) -> FloatArray:
        """The level of every cell, ``(rows, cols)`` float64, 0 to begin with. A view, read-only."""
        shape = self.grid.rows, self.grid.cols
        view = self._levels.array.reshape(shape).view()
        view.flags.writeable = False
        return view

    def raise_to(self, level: Levels, cells: Where | None = None) -> None:
        """Set the level of elevation of cells.

        Parameters
        ----------
        level
            A number, whole or not, within a million of 0; an array with one for each of the cells;
            or a function that gives one for each world point x, y (of the centers on level
            ground); it may take arrays or single numbers.
        cells
            The cells, as for `paint`; by default all of the board, and then an array may have the
            shape ``(rows, cols)``, such as a grey image.

        Raises
        ------
        CellError
            A value that is not a cell, or a cell off the board.
        InputError
            A level that is no such number, or another count of them than of cells.
        OccupiedError
            A unit stands on one of the cells whose movement has a rule that now says no.

        Examples
        --------
        >>> import understep as us
        >>> frame = us.Frame(cell=(64, 32), view="isometric", lift=16)
        >>> board = us.Board(us.SquareGrid(4, 4, frame=frame), {"turf": 1})
        >>> board.raise_to(2, [(1, 1), (1, 2)])
        >>> board.center((1, 1)).tolist(), board.cell_at((0, 16)), board.slope((1, 1), (2, 1))
        ([0.0, 16.0], Cell(col=1, row=1), -2.0)
        >>> board.raise_to(lambda x, y: y // 32)
        >>> board.elevation[0].tolist()
        [0.0, 1.0, 1.0, 2.0]
        """
        numbers = self.grid.existing if cells is None else self.numbers(cells)
        if callable(level):
            level = _called(level, *self.grid.center(self.grid.cells_of(numbers)).T)
        found = array_of("level", level)
        if found.dtype == object and all(isinstance(each, Real) for each in found.flat):
            found = array_of("level", found, float)  # fractions
        if cells is None and found.shape == (self.grid.rows, self.grid.cols):
            found = found.reshape(-1)[numbers]
        if found.shape not in ((), numbers.shape):
            rule = f"must be one number, or one for each of {len(numbers)} cells"
            raise InputError("level", rule, found.shape)
        if found.dtype.kind not in "iuf" or not (np.abs(found) <= MOST_LEVEL).all():
            raise InputError("level", f"must be numbers within {MOST_LEVEL} of 0", level)
        self._change(self._levels, numbers, found, numbers)
        self._raised = True

    def slope(self, a: CellLike, b: CellLike) -> float:
        """By how many levels a step from ``a`` to its neighbor ``b`` rises; negative downwards.

        Raises
        ------
        CellError
            ``a`` or ``b`` is no cell of the board, or they are no neighbors.
        """
        if self.grid.direction(a, b) is None:
            raise CellError("b", f"must be next to {tuple(a)}", tuple(b))
        low, high = (self._levels.array[self.grid.number(Cell(*cell))] for cell in (a, b))
        return float(high - low)

    def _level(self, cells: CellsLike) -> FloatArray | float:
        """The levels of cells; 0 off the board."""
        if not self._raised:
            return 0.0
        array = cells_array(cells, "cells")
        inside = self.grid.holds(array)
        numbers = np.where(inside, self.grid.numbers(array), 0)
        return np.where(inside, self._levels.array[numbers], 0.0)


def _called(level: Callable[..., Any], x: FloatArray, y: FloatArray) -> Any:
    """What a function of points gives: for all at once, or else for one after the other."""
    try:
        return level(x, y)
    except (TypeError, ValueError):  # it compares, or converts, single numbers
        return [level(*point) for point in zip(x.tolist(), y.tolist(), strict=True)]
