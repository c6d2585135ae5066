"""Pictures on cells: where to draw them, at which angle, which side they show."""

from __future__ import annotations

import math
from functools import cached_property
from typing import Any, Literal

import numpy as np

from understep.errors import InputError
from understep.grids.cell import CellLike, CellsLike, near_cell
from understep.grids.layout import FloatArray, GridLayout
from understep.grids.systems import choice

AnchorPoint = Literal["middle", "foot"]
Side = Literal["left", "right"]


class Pictures(GridLayout):
    """Where pictures that belong on cells are drawn."""

    def anchor(
        self,
        cells: CellsLike,
        stand: AnchorPoint = "middle",
        picture: tuple[float, float] = (0.0, 0.0),
        level: Any = 0.0,
    ) -> FloatArray:
        """Where to draw pictures that belong on cells.

        Parameters
        ----------
        cells
            One cell, cells, or an integer array ``(..., 2)``; off the grid is fine.
        stand
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
            A value that is no cell.
        NameUnknownError
            An unknown word for ``stand``.
        InputError
            A picture whose size is not two numbers of 0 or more.

        Examples
        --------
        >>> import understep as us
        >>> grid = us.SquareGrid(4, 4, frame=us.Frame(cell=(64, 32), view="isometric"))
        >>> grid.anchor((1, 0), "foot", picture=(40, 80)).tolist()
        [12.0, -48.0]
        """
        choice(stand, AnchorPoint, "stand")
        try:
            width, height = map(float, picture)
        except (TypeError, ValueError):
            raise InputError("picture", "must be width and height", picture) from None
        if not (0 <= width < math.inf and 0 <= height < math.inf):
            raise InputError("picture", "width and height must be 0 or more", picture)
        above = height / 2 if stand == "middle" else height if self.frame.down > 0 else 0.0
        return self.center(cells, level) - (width / 2, above)

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
        return self._bearings[self.way(direction)]

    @cached_property
    def _bearings(self) -> list[float]:
        """The bearing of every direction."""
        beside = self.deltas[self._line(0, 0)]
        x, y = (self.center(beside) - self.center((0, 0))).T
        bearings: list[float] = (np.degrees(np.arctan2(x, -y * self.frame.down)) % 360).tolist()
        return bearings

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
        return before if abs(x) <= 1e-9 * math.hypot(x, y) else "right" if x > 0 else "left"
