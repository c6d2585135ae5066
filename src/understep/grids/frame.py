"""The frame: how a grid lies in the world."""

from __future__ import annotations

import math
from dataclasses import KW_ONLY, dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from understep.checks import Described, real
from understep.errors import InputError
from understep.grids.systems import choice

YAxis = Literal["down", "up"]
Projection = Literal["plan", "isometric"]


@dataclass(frozen=True, repr=False)
class Frame(Described):
    """The size of a cell in the world, where the grid begins, and how it is seen.

    Parameters
    ----------
    cell
        Width and height, in world units, of the box around one cell as it is seen before any
        ``rotation``: of a square, of a hex, of the diamond that an isometric square is. Any two
        numbers: (64, 32) makes an isometric view 2:1. By default cells are regular, neighbors lie
        1 apart, and an isometric view is 2:1.
    origin
        World point ``(x, y)`` where the corner of the box around cell (0, 0) lies, before any
        stagger: the corner towards smaller columns and rows.
    rotation
        Degrees by which the board is turned on its ground about the origin, clockwise as seen.
    y_axis
        Whether world y grows ``"down"`` or ``"up"`` the screen. The board looks the same in both:
        row 0 is on top, rows count downwards.
    projection
        ``"plan"``: columns run right, rows run down. ``"isometric"``: the ground is turned by a
        further 45 degrees and flattened; columns run down to the right, rows down to the left.
    lift
        World units by which a level of elevation raises a cell towards the top of the screen.

    Raises
    ------
    InputError
        A size that is not positive, a negative lift, or a number that is not finite.
    NameUnknownError
        An unknown projection or y axis.

    Examples
    --------
    >>> import understep as us
    >>> grid = us.SquareGrid(4, 3, frame=us.Frame(cell=(32, 24), origin=(100, 0)))
    >>> grid.center((1, 2)).tolist()
    [148.0, 60.0]
    >>> tiles = us.SquareGrid(4, 3, frame=us.Frame(cell=(64, 32), projection="isometric"))
    >>> tiles.center([(0, 0), (1, 0), (0, 1)]).tolist()
    [[0.0, 16.0], [32.0, 32.0], [-32.0, 32.0]]
    """

    _: KW_ONLY
    cell: tuple[float, float] | None = None
    origin: tuple[float, float] = (0.0, 0.0)
    rotation: float = 0.0
    y_axis: YAxis = "down"
    projection: Projection = "plan"
    lift: float = 0.0

    def __post_init__(self) -> None:
        for name in ("cell", "origin"):
            pair = getattr(self, name)
            if pair is None and name == "cell":
                continue
            try:
                width, height = map(float, pair)
            except (TypeError, ValueError):
                raise InputError(name, "must be two finite numbers", pair) from None
            if not (math.isfinite(width) and math.isfinite(height)):
                raise InputError(name, "must be two finite numbers", pair)
            object.__setattr__(self, name, (width, height))
        if self.cell is not None and min(self.cell) <= 0:
            raise InputError("cell", "width and height must be above 0", self.cell)
        for name in ("rotation", "lift"):
            number = real(name, getattr(self, name), "must be a finite number")
            object.__setattr__(self, name, number)
        if self.lift < 0:
            raise InputError("lift", "must be 0 or more", self.lift)
        choice(self.y_axis, YAxis, "y_axis")
        choice(self.projection, Projection, "projection")

    @property
    def down(self) -> float:
        """What y grows by towards the bottom of the screen: 1.0, or -1.0 where y points up."""
        return 1.0 if self.y_axis == "down" else -1.0

    def box(self, corners: NDArray[np.float64]) -> tuple[float, float]:
        """Width and height of the box around a cell, given the corners ``(n, 2)`` of a regular one.

        As it is seen before any rotation.
        """
        if self.cell is not None:
            return self.cell
        width, height = np.ptp(self._turned(corners), axis=0).tolist()
        return (width, height) if self.projection == "plan" else (width / 2**0.5, height / 8**0.5)

    def _turned(self, points: NDArray[np.float64]) -> NDArray[np.float64]:
        """Points of the ground turned for the view (and, isometric, grown by the root of 2)."""
        if self.projection == "plan":
            return points
        x, y = points[..., 0], points[..., 1]
        return np.stack([x - y, x + y], axis=-1)

    def matrix(self, corners: NDArray[np.float64]) -> NDArray[np.float64]:
        """What takes points of a ground of regular cells to the world, less the origin: 2 x 2."""
        size = np.ptp(self._turned(corners), axis=0)
        across, along = np.array(self.box(corners)) / size
        angle = math.radians(self.rotation)
        sin, cos = math.sin(angle), math.cos(angle)
        if self.rotation % 90 == 0:
            sin, cos = round(sin), round(cos)
        turn = np.array([[cos, -sin], [sin, cos]])
        ground = self._turned(np.eye(2)).T
        if self.projection == "plan":  # stretched, then turned
            seen = turn @ np.diag([across, along]) @ ground
        else:  # turned on the ground, then flattened
            seen = np.diag([1, along / across]) @ turn @ (across * ground)
        seen[1] *= self.down
        return np.asarray(seen, dtype=np.float64)
