"""A unit: what stands on a cell and moves by rules."""

from __future__ import annotations

from dataclasses import dataclass, field
from fractions import Fraction
from typing import Protocol, runtime_checkable

from understep.boards.cost import Cost, exact
from understep.boards.terrain import Terrain
from understep.errors import InputError
from understep.grids.cell import Cell


@runtime_checkable
class Mover(Protocol):
    """What a board needs to know of a movement."""

    @property
    def points(self) -> Cost:
        """Movement points of a full turn."""

    def cost_on(self, name: str, terrain: Terrain) -> Fraction | None:
        """Points to enter a cell of a terrain; None: never."""


@dataclass(frozen=True)
class Unit:
    """A unit, as it is at one moment; a board hands out the present one.

    Parameters
    ----------
    name
        Its name; no two units of a board share one.
    side
        Whose it is.
    movement
        The rules by which it moves.
    left
        Points left in this turn; by default all of them.
    facing
        The direction it looks in, by name; None: none.

    Attributes
    ----------
    at : Cell or None
        Where it stands; None while it is on no board.

    Raises
    ------
    InputError
        A name or side that is no text, a movement that is none.
    CostError
        Points left that are negative or no number.

    Examples
    --------
    >>> import understep as us
    >>> us.Unit("scout", side="wardens", movement=us.Movement(points=6)).side
    'wardens'
    """

    name: str
    side: str
    movement: Mover
    left: Cost | None = None
    facing: str | None = None
    at: Cell | None = field(default=None, kw_only=True)

    def __post_init__(self) -> None:
        for what in ("name", "side"):
            text = getattr(self, what)
            if not isinstance(text, str) or not text.strip():
                raise InputError(what, "must be a text that is not empty", text)
        if not isinstance(self.movement, Mover):
            raise InputError("movement", "must be a Movement", self.movement)
        if self.left is not None:
            object.__setattr__(self, "left", exact(self.left, "left"))

    def placed(self, at: Cell | None) -> Unit:
        """The same unit on another cell, or on none."""
        twin = object.__new__(type(self))
        twin.__dict__.update(self.__dict__, at=at)
        return twin
