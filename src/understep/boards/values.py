"""The values of a board: properties of cells that a game declares, such as depth or owner."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np
from numpy.typing import NDArray

from understep.boards.ground import Ground, Where
from understep.boards.site import Value
from understep.boards.store import Layer
from understep.errors import LARGEST, InputError, NameUnknownError, text
from understep.grids.cell import CellLike

TYPES: dict[type, Any] = {bool: np.bool_, int: np.int64, float: np.float64, str: np.object_}
MOST_PROPERTIES = 100
LONGEST_TEXT = 1000


class Values(Ground):
    """Declared properties."""

    def _declare(self, properties: Mapping[str, Value]) -> None:
        """Make the properties, once."""
        if not isinstance(properties, Mapping):
            raise InputError("properties", "must map names to defaults", properties)
        if len(properties) > MOST_PROPERTIES:
            raise InputError("properties", f"at most {MOST_PROPERTIES}", len(properties))
        #: The default of every declared property, by name; its type is the property's.
        self.properties: dict[str, Value] = {}
        self._values: dict[str, Layer] = {}
        for name, default in properties.items():
            text("properties", name, what="a name")
            if type(default) not in TYPES:
                rule = "a default is a bool, int, float or str"
                raise InputError("properties", rule, default, repr(name))
            self.properties[name] = default
            default = self._fitting(name, [default], "properties")[0]
            dtype = TYPES[type(self.properties[name])]
            array = np.full(self.grid.cols * self.grid.rows, default, dtype=dtype)
            self._values[name] = Layer(array)

    def _property(self, name: str) -> Layer:
        try:
            return self._values[name]
        except (KeyError, TypeError):
            raise NameUnknownError("name", "property", name, self.properties) from None

    def _fitting(self, name: str, values: list[Any], argument: str = "value") -> list[Any]:
        """Values as a property holds them."""
        kind = type(self.properties[name])
        for value in values:
            fits = type(value) is kind or (kind is float and type(value) is int)
            if not fits:
                raise InputError(argument, f"{name!r} holds values of type {kind.__name__}", value)
            if kind is float and not abs(value) <= LARGEST:
                raise InputError(argument, f"{name!r} holds finite numbers", value)
            if kind is int and not -(1 << 63) <= value < 1 << 63:
                raise InputError(argument, f"{name!r} holds numbers of 64 bits", value)
            if kind is str:
                text(argument, value, empty=True)
            if kind is str and len(value) > LONGEST_TEXT:
                rule = f"{name!r} holds texts of at most {LONGEST_TEXT} characters"
                raise InputError(argument, rule, value)
        return values

    def value(self, name: str, cell: CellLike) -> Value:
        """A declared property of a cell.

        Raises
        ------
        NameUnknownError
            No such property.
        CellError
            ``cell`` is not a cell, or lies off the board.
        """
        found = self._property(name).array[self.grid.number(self.grid.require(cell))]
        return found.item() if isinstance(found, np.generic) else found  # type: ignore[no-any-return]

    def values(self, name: str) -> NDArray[Any]:
        """A declared property of every cell, ``(rows, cols)``; texts as objects. A copy.

        Raises
        ------
        NameUnknownError
            No such property.
        """
        return self._property(name).array.reshape(self.grid.rows, self.grid.cols).copy()

    def set_value(self, name: str, value: Any, cells: Where) -> None:
        """Set a declared property of cells.

        Parameters
        ----------
        name
            A property of this board.
        value
            One value for all, or a list or array with one for each of the cells; of the type of
            the property's default.
        cells
            The cells, as for `paint`.

        Raises
        ------
        NameUnknownError
            No such property.
        InputError
            A value of another type, or another count of them than of cells.
        CellError
            A value that is not a cell, or a cell off the board.
        OccupiedError
            A unit stands on one of the cells whose movement has a rule that now says no.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(3, 1), {"turf": 1}, properties={"lit": False})
        >>> board.set_value("lit", True, [(0, 0), (1, 0)])
        >>> board.value("lit", (1, 0)), board.values("lit").tolist()
        (True, [[True, True, False]])
        """
        layer, numbers = self._property(name), self.numbers(cells)
        if isinstance(value, list | tuple | np.ndarray):
            many = np.asarray(value, dtype=object).reshape(-1).tolist()
            many = [each.item() if isinstance(each, np.generic) else each for each in many]
            if len(many) != len(numbers):
                rule = f"must be one value, or one for each of {len(numbers)} cells"
                raise InputError("value", rule, len(many))
            new: Any = np.array(self._fitting(name, many), dtype=layer.array.dtype)
        else:
            value = value.item() if isinstance(value, np.generic) else value
            new = self._fitting(name, [value])[0]
        self._change(layer, numbers, new, numbers)
