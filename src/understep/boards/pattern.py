"""Patterns: the cells that an attack affects, around where it is aimed."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Any, Literal, TypeAlias, get_args

from understep.checks import Described, Limits, named, real, whole
from understep.errors import InputError
from understep.grids.cell import as_cells

PatternShape: TypeAlias = Literal["cell", "disk", "line", "cone", "cells"]
MOST = 64


@dataclass(frozen=True, repr=False)
class Pattern(Described):
    """The cells that an attack affects; made by `disk`, `line`, `cone` or `of`.

    All but the disk start where the attacker stands, and turn with the direction of the grid that
    comes nearest to where it aims, those made by `of` with the nearest of their turns. Of two
    equally near it is the one nearer to a row, then the first in the order of directions. Aimed at
    its own cell they affect nothing.

    Examples
    --------
    >>> import understep as us
    >>> us.Pattern.disk(1), us.Pattern.of([(0, -1), (0, -2), (1, -2)]).size
    (Pattern(shape='disk', size=1), 3)
    """

    shape: PatternShape = "cell"
    size: Annotated[int, Limits(0)] = 0
    angle: Annotated[float, Limits(0, 360)] | None = None
    offsets: tuple[tuple[int, int], ...] = ()

    def __post_init__(self) -> None:
        named("shape", "shape", self.shape, get_args(PatternShape))
        argument = {"disk": "radius", "line": "length", "cone": "length"}.get(self.shape, "size")
        if self.shape == "cells":
            object.__setattr__(self, "offsets", _offsets(self.offsets))
            object.__setattr__(self, "size", len(self.offsets))
        else:
            object.__setattr__(self, "size", whole(argument, self.size, 0, MOST))
        if self.angle is not None:
            rule = "must be degrees from 0 to 360, or None"
            object.__setattr__(self, "angle", real("angle", self.angle, rule, 0, 360))

    @classmethod
    def disk(cls, radius: int) -> Pattern:
        """The cells up to ``radius`` steps from the cell aimed at.

        Raises
        ------
        InputError
            ``radius`` is not a whole number from 0 to 64.

        Examples
        --------
        >>> import understep as us
        >>> us.Pattern.disk(1)
        Pattern(shape='disk', size=1)
        """
        return cls("disk", radius)

    @classmethod
    def line(cls, length: int) -> Pattern:
        """So many cells in a row, from the first in front of the attacker.

        Raises
        ------
        InputError
            ``length`` is not a whole number from 0 to 64.

        Examples
        --------
        >>> import understep as us
        >>> us.Pattern.line(3)
        Pattern(shape='line', size=3)
        """
        return cls("line", length)

    @classmethod
    def cone(cls, length: int, angle: float | None = None) -> Pattern:
        """The cells up to ``length`` steps in front of the attacker, as the grid's `cone`.

        Raises
        ------
        InputError
            ``length`` is not a whole number from 0 to 64, or ``angle`` no number from 0 to 360.

        Examples
        --------
        >>> import understep as us
        >>> us.Pattern.cone(2)
        Pattern(shape='cone', size=2)
        """
        return cls("cone", length, angle)

    @classmethod
    def of(cls, offsets: Any) -> Pattern:
        """Cells given as they lie in front of an attacker that aims in the first direction.

        Offsets from the attacker, as (col, row) on squares, where it aims north, and as (q, r) on
        hexes, where it aims north-east, or north where tops are flat. They turn by quarter turns on
        squares, by sixths on hexes.

        Raises
        ------
        CellError
            An offset that is not a pair of whole numbers.
        InputError
            None at all, or one farther than 64.

        Examples
        --------
        >>> import understep as us
        >>> us.Pattern.of([(0, -1), (0, -2)])
        Pattern(shape='cells', size=2, offsets=((0, -1), (0, -2)))
        """
        return cls("cells", offsets=offsets)


def _offsets(offsets: Any) -> tuple[tuple[int, int], ...]:
    found = tuple((col, row) for col, row in as_cells(offsets, "offsets"))
    if not found or any(abs(part) > MOST for pair in found for part in pair):
        raise InputError("offsets", f"must be one or more, each within {MOST}", offsets)
    return found
