"""The frame: how a grid lies in the world."""

from __future__ import annotations

import math
from dataclasses import KW_ONLY, dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from understep.checks import Described, items, real
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
    spacing
        Instead of ``cell``: how far a column lies from the next, across, and a row from the next,
        down, as it is seen before any ``rotation``. In plan the middles of cells lie at exact
        multiples of it.
    origin
        World point ``(x, y)`` where cell (0, 0) lies, before any stagger: with ``spacing`` its
        middle, else the corner of the box around it that is towards smaller columns and rows.
    rotation
        Degrees by which the board is turned on its ground about the origin, clockwise as seen.
    y_axis
        Whether world y grows ``"down"`` or ``"up"`` the screen. The board looks the same in both.
    rows
        Whether rows count ``"down"`` the screen, row 0 on top, or ``"up"``, row 0 at the bottom.
        Directions are named as they are seen: "N" leads up the screen, to the next row then.
    projection
        ``"plan"``: columns run right, rows run down. ``"isometric"``: the ground is turned by a
        further 45 degrees and flattened; columns run down to the right, rows down to the left.
    lift
        World units by which a level of elevation raises a cell towards the top of the screen.

    Raises
    ------
    InputError
        A size that is not positive, a size and a spacing, a negative lift, or a number that is
        not finite.
    NameUnknownError
        An unknown projection or y axis, or unknown rows.

    Examples
    --------
    >>> import understep as us
    >>> grid = us.SquareGrid(4, 3, frame=us.Frame(cell=(32, 24), origin=(100, 0)))
    >>> grid.center((1, 2)).tolist()
    [148.0, 60.0]
    >>> tiles = us.SquareGrid(4, 3, frame=us.Frame(cell=(64, 32), projection="isometric"))
    >>> tiles.center([(0, 0), (1, 0), (0, 1)]).tolist()
    [[0.0, 16.0], [32.0, 32.0], [-32.0, 32.0]]
    >>> flats = us.HexGrid(4, 3, top="flat", frame=us.Frame(spacing=(47, 26), rows="up"))
    >>> flats.center([(0, 0), (1, 0), (2, 1)]).tolist(), flats.step((0, 0), "N")
    ([[0.0, 0.0], [47.0, -13.0], [94.0, -26.0]], Cell(col=0, row=1))
    """

    _: KW_ONLY
    cell: tuple[float, float] | None = None
    spacing: tuple[float, float] | None = None
    origin: tuple[float, float] = (0.0, 0.0)
    rotation: float = 0.0
    y_axis: YAxis = "down"
    rows: YAxis = "down"
    projection: Projection = "plan"
    lift: float = 0.0

    def __post_init__(self) -> None:
        for name in ("cell", "spacing", "origin"):
            pair = getattr(self, name)
            if pair is None and name != "origin":
                continue
            rule = "must be two finite numbers"
            both = items(name, pair, rule)
            if len(both) != 2:
                raise InputError(name, rule, pair)
            width, height = (real(name, each, rule) for each in both)
            object.__setattr__(self, name, (width, height))
            if name != "origin" and min(width, height) <= 0:
                raise InputError(name, "both must be above 0", (width, height))
        if self.cell is not None and self.spacing is not None:
            raise InputError("spacing", "give this or cell, not both", self.spacing)
        for name in ("rotation", "lift"):
            number = real(name, getattr(self, name), "must be a finite number")
            object.__setattr__(self, name, number)
        if self.lift < 0:
            raise InputError("lift", "must be 0 or more", self.lift)
        choice(self.y_axis, YAxis, "y_axis")
        choice(self.rows, YAxis, "rows")
        choice(self.projection, Projection, "projection")

    @property
    def down(self) -> float:
        """What y grows by towards the bottom of the screen: 1.0, or -1.0 where y points up."""
        return 1.0 if self.y_axis == "down" else -1.0

    @property
    def mirrored(self) -> bool:
        """Whether rows count up the screen."""
        return self.rows == "up"

    def _box(self, corners: NDArray[np.float64]) -> tuple[float, float]:
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

    def _matrix(self, corners: NDArray[np.float64]) -> NDArray[np.float64]:
        """The matrix from a plane of regular cells to the world, without the origin: 2 x 2."""
        size = np.ptp(self._turned(corners), axis=0)
        across, along = np.array(self._box(corners)) / size
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


def mirrored(frame: object) -> bool:
    """Whether rows count up the screen; what is not a frame is refused elsewhere."""
    return isinstance(frame, Frame) and frame.mirrored
