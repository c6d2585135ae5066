"""The surface of a board: terrain, level and declared properties of every cell."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from numbers import Real
from typing import Any, Protocol, TypeAlias, cast

import numpy as np
from numpy.typing import NDArray

from understep.boards.contents import TYPES, Contents
from understep.boards.site import Value
from understep.checks import LARGEST, text
from understep.errors import CellError, InputError, NameUnknownError
from understep.grids.cell import Cell, CellLike, CellsLike, IntArray, array_of, cells_array
from understep.grids.grid import Grid
from understep.grids.lattice import FloatArray
from understep.grids.layout import Box

MOST_LEVEL = 10**6
MOST_PROPERTIES = 100
LONGEST_TEXT = 1000
Levels: TypeAlias = float | NDArray[Any] | Callable[[FloatArray, FloatArray], Any]
Where: TypeAlias = CellsLike | NDArray[np.bool_] | Callable[[Cell], bool]


class Write(Protocol):
    """How contents are written: refused where a unit on the cells could not stand there then."""

    def __call__(self, store: Any, keys: Any, new: Any, numbers: IntArray) -> None:
        """Set values of a store that concern cells, by number."""


def numbers_of(grid: Grid, cells: Where) -> IntArray:
    """The numbers of cells that are given as cells, as a mask or by a function."""
    if isinstance(cells, tuple) and len(cells) == 2 and type(cells[0]) is int:
        return np.array([grid.numbering.of(cells, "cells")])  # a single cell, fast
    masked = grid.numbering.masked(cells)
    if masked is not None:
        return masked
    # asked cell by cell, as a function of one
    if callable(cells):
        cells = [cell for cell in grid if cells(cell)]
    return grid.numbering.numbers(grid.numbering.require_all(cells).reshape(-1, 2))


class Surface:
    """What every cell has."""

    def __init__(self, contents: Contents, change: Write) -> None:
        self._contents, self._change, self._grid = contents, change, contents.grid

    def terrain(self, cell: CellLike) -> str:
        """The name of a cell's terrain."""
        number = self._grid.numbering.of(cell)
        return self._contents.terrain_names[int(self._contents.terrain.array[number])]

    def paint(self, terrain: str, cells: Where) -> None:
        """Give cells a terrain."""
        # a wrong name is refused before cells are read
        code = terrain_code(self._contents.terrain_names, terrain, "terrain")
        numbers = numbers_of(self._grid, cells)
        self._change(self._contents.terrain, numbers, code, numbers)

    def set_elevation(self, level: Levels, cells: Where | None) -> None:
        """Set the level of elevation of cells."""
        grid = self._grid
        numbers = grid.numbering.existing if cells is None else numbers_of(grid, cells)
        if callable(level):
            level = _called(level, *grid.center(grid.numbering.cells_of(numbers)).T)
        found = array_of("level", level)
        if found.dtype == object and all(isinstance(each, Real) for each in found.flat):
            found = array_of("level", found, float)  # fractions
        if cells is None and found.shape == (grid.rows, grid.cols):
            # a table of the board has values for holes, too
            found = found.reshape(-1)[numbers]
        if found.shape not in ((), numbers.shape):
            rule = f"must be one number, or one for each of {len(numbers)} cells"
            raise InputError("level", rule, found.shape)
        if found.dtype.kind not in "iuf" or not (np.abs(found) <= MOST_LEVEL).all():
            raise InputError("level", f"must be numbers within {MOST_LEVEL} of 0", level)
        self._change(self._contents.elevation, numbers, found, numbers)

    @property
    def extent(self) -> Box:
        """The box around all cells as they are seen."""
        box, every = self._grid.extent, self._grid.numbering.existing
        # most boards are flat
        if not self.raised:
            return box
        levels = self._contents.elevation.array[every]
        points = self._grid.corners(self._grid.numbering.cells_of(every), level=levels)
        # the foot of raised cells is seen, too
        ends = [(box.x, box.y), (box.x + box.width, box.y + box.height)]
        points = np.concatenate([points.reshape(-1, 2), ends])
        low, high = points.min(axis=0), points.max(axis=0)
        return Box(*low.tolist(), *(high - low).tolist())

    @property
    def raised(self) -> bool:
        """Whether a level was ever set."""
        return self._contents.elevation.fresh is None

    def slope(self, a: CellLike, b: CellLike) -> float:
        """By how many levels a step to a neighbor rises."""
        if self._grid.direction(a, b) is None:
            raise CellError("b", f"must be next to {tuple(a)}", tuple(b))
        levels = self._contents.elevation.array
        low, high = (levels[self._grid.numbering.number(Cell(*cell))] for cell in (a, b))
        return float(high - low)

    def level(self, cells: CellsLike) -> FloatArray | float:
        """The levels of cells; 0 off the board."""
        if not self.raised:
            return 0.0
        array = cells_array(self._grid.numbering.listed(cells), "cells")
        inside = self._grid.numbering.holds(array)
        numbers = np.where(inside, self._grid.numbering.numbers(array), 0)
        return np.where(inside, self._contents.elevation.array[numbers], 0.0)

    # declared properties

    def _default(self, name: str) -> Value:
        try:
            return self._contents.declared.properties[name]
        except (KeyError, TypeError):
            known = self._contents.declared.properties
            raise NameUnknownError("name", "property", name, known) from None

    def value(self, name: str, cell: CellLike) -> Value:
        """A declared property of a cell."""
        number = self._grid.numbering.of(cell)
        found = self.values(name)[number]
        return cast(Value, found.item() if isinstance(found, np.generic) else found)

    def values(self, name: str) -> NDArray[Any]:
        """A declared property of every cell, by number; not a copy."""
        self._default(name)
        return cast(NDArray[Any], self._contents.store(("property", name)).array)

    def set_value(self, name: str, value: Any, cells: Where) -> None:
        """Set a declared property of cells."""
        default, numbers = self._default(name), numbers_of(self._grid, cells)
        layer = self._contents.store(("property", name))
        if isinstance(value, list | tuple | np.ndarray):
            # as objects, so that no value becomes one of another type
            many = np.asarray(value, dtype=object).reshape(-1).tolist()
            many = [each.item() if isinstance(each, np.generic) else each for each in many]
            if len(many) != len(numbers):
                rule = f"must be one value, or one for each of {len(numbers)} cells"
                raise InputError("value", rule, len(many))
            # all are checked before the first is written
            fitting = [_fitting(name, default, each, "value") for each in many]
            new: Any = np.array(fitting, dtype=layer.array.dtype)
        else:
            value = value.item() if isinstance(value, np.generic) else value
            new = _fitting(name, default, value, "value")
        self._change(layer, numbers, new, numbers)


def terrain_code(names: list[str], name: object, argument: str) -> int:
    """The place of a terrain among those of a board."""
    try:
        return names.index(cast(str, name))
    except (ValueError, TypeError):
        raise NameUnknownError(argument, "terrain", name, names) from None


def property_table(properties: Any) -> dict[str, Value]:
    """Check a table of properties and their defaults."""
    if not isinstance(properties, Mapping):
        raise InputError("properties", "must map names to defaults", properties)
    # each takes a layer of the board
    if len(properties) > MOST_PROPERTIES:
        raise InputError("properties", f"at most {MOST_PROPERTIES}", len(properties))
    for name, default in properties.items():
        text("properties", name, what="a name")
        if type(default) not in TYPES:
            rule = "a default is a bool, int, float or str"
            raise InputError("properties", rule, default, repr(name))
        _fitting(name, default, default, "properties")
    return dict(properties)


def _fitting(name: str, default: Any, value: Any, argument: str) -> Any:
    """A value, if a property with such a default can hold it."""
    kind: Any = type(default)
    # people write whole numbers for floats
    if not (type(value) is kind or (kind is float and type(value) is int)):
        raise InputError(argument, f"{name!r} holds values of type {kind.__name__}", value)
    if kind is float and not abs(value) <= LARGEST:
        raise InputError(argument, f"{name!r} holds finite numbers", value)
    if kind is int and not -(1 << 63) <= value < 1 << 63:
        raise InputError(argument, f"{name!r} holds numbers of 64 bits", value)
    if kind is str:
        text(argument, value, empty=True)
        if len(value) > LONGEST_TEXT:
            rule = f"{name!r} holds texts of at most {LONGEST_TEXT} characters"
            raise InputError(argument, rule, value)
    return value


def _called(level: Callable[..., Any], x: FloatArray, y: FloatArray) -> Any:
    """What a function of points gives: for all at once, or else for one after the other."""
    try:
        return level(x, y)
    except (TypeError, ValueError):  # it compares, or converts, single numbers
        return [level(*point) for point in zip(x.tolist(), y.tolist(), strict=True)]
