"""The points of the compass towards which something is seen, N at the top of the screen."""

from __future__ import annotations

from typing import Literal, TypeAlias

from understep.checks import whole
from understep.errors import InputError

Points: TypeAlias = Literal[4, 8]
NAMES = ("N", "NE", "E", "SE", "S", "SW", "W", "NW")


def compass_point(bearing: float, points: Points) -> str:
    """The nearest of 4 or 8 points; of two as near the one to the side."""
    if whole("points", points) not in (4, 8):
        raise InputError("points", "must be 4 or 8", points)
    # a hair towards east or west
    bearing += 1e-6 if bearing % 180 < 90 else -1e-6
    return NAMES[:: 8 // points][round(bearing / (360 / points)) % points]
