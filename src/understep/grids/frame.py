"""The frame: where a grid lies in the world."""

from __future__ import annotations

import math
from dataclasses import dataclass

from understep.errors import InputError


@dataclass(frozen=True)
class Frame:
    """The size of a cell in the world, and where the grid begins.

    Parameters
    ----------
    cell
        Width and height of one cell in world units (of a hex: of the box around it). By default
        cells are regular and the centers of neighbors lie 1 apart.
    origin
        World point ``(x, y)`` at which the box around cell (0, 0) begins, before any stagger.
        x grows with the columns, y with the rows.

    Raises
    ------
    InputError
        A size that is not positive, or a number that is not finite.

    Examples
    --------
    >>> import understep as us
    >>> grid = us.SquareGrid(4, 3, frame=us.Frame(cell=(32, 24), origin=(100, 0)))
    >>> grid.center((1, 2)).tolist()
    [148.0, 60.0]
    """

    cell: tuple[float, float] | None = None
    origin: tuple[float, float] = (0.0, 0.0)

    def __post_init__(self) -> None:
        for name, pair in (("cell", self.cell), ("origin", self.origin)):
            if pair is None:
                continue
            if len(pair) != 2 or not all(math.isfinite(part) for part in pair):
                raise InputError(name, "must be two finite numbers", pair)
        if self.cell is not None and min(self.cell) <= 0:
            raise InputError("cell", "width and height must be above 0", self.cell)
