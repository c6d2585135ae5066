"""A unit: what stands on a cell and moves by rules."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import KW_ONLY, Field, dataclass, field, replace
from fractions import Fraction
from typing import Annotated, Any, Literal, Protocol, cast, get_args, runtime_checkable

from understep.boards.attack import FARTHEST, Attack, spanned
from understep.boards.cost import LARGEST, Cost, rounded
from understep.boards.data import DataTable, data_table
from understep.boards.edge import Edge
from understep.boards.feature import Feature
from understep.boards.footprint import Footprint
from understep.boards.site import Site
from understep.boards.terrain import Terrain
from understep.checks import Described, Limits, named, text, whole
from understep.errors import InputError
from understep.grids.cell import Cell

#: Where a digest notes what it makes of a unit, wherever that stands.
MARK = "_mark"
SightMeasure = Literal["grid", "straight"]
#: A fact that is left as it is.
SAME: Any = ...


@runtime_checkable
class MovementLike(Protocol):
    """What a board needs to know of a movement."""

    @property
    def points(self) -> Cost:
        """Movement points of a full turn."""

    @property
    def layer(self) -> str:
        """In which layer it stands, "ground" or another: layers do not collide."""

    @property
    def footprint(self) -> Footprint:
        """The cells it takes up, as steps from the anchor cell."""

    @property
    def rule(self) -> Callable[[Site], Cost | str | None] | None:
        """What has the last word on the cost of a cell; None: nothing has."""

    def _cost_on(self, name: str, terrain: Terrain) -> Fraction | None:
        """Points to enter a cell of a terrain; None: never."""

    def _over(self, name: str, kind: Feature) -> tuple[bool, Fraction | None, Fraction]:
        """What a feature of a kind does: blocks, points instead, points on top."""

    def _across(self, name: str, kind: Edge) -> tuple[bool, Fraction | None, Fraction]:
        """What a closed edge of a kind does: blocks, points instead, points on top."""


@dataclass(frozen=True, repr=False)
class Unit(Described):
    """A unit, as it is at one moment; a board hands out the present one.

    Parameters
    ----------
    name
        Its name; no two units of a board share one.
    side
        The side that it belongs to.
    movement
        The rules by which it moves.
    left
        Points left in this turn; by default all of them.
    facing
        The direction it looks in, by name; None: none.
    sight
        How far it sees, in cells, up to 10**9; None: any distance.
    sight_measure
        Whether these count ``"grid"`` steps, or ``"straight"`` distance, which makes a disc.
    sight_per_level
        Cells by which sight reaches farther for every full level that it stands above what it looks
        at, and less far for every one below.
    eye
        How many levels above the ground it sees from.
    attack
        How it attacks; None: not at all.
    data
        What else the game knows of it, by name: JSON values, such as its health. They are copied,
        and do not change in place: `Board.set_data` changes them.

    Attributes
    ----------
    at : Cell
        Where it stands; of one that takes up several cells, the anchor. None before it is on a
        board; of one that was removed, where it stood.

    Raises
    ------
    InputError
        A name or side that is not a text, a movement or attack of another type, a sight that is not
        a whole number from 0 to 10**9, data that is not JSON.
    NameUnknownError
        An unknown word for ``sight_measure``.
    CostError
        Points left, or an eye, that are negative or no number.

    Examples
    --------
    >>> import understep as us
    >>> us.Unit("scout", side="wardens", movement=us.Movement(points=6)).side
    'wardens'
    """

    name: str
    side: Annotated[str, Limits(pattern=r"\S")]
    movement: MovementLike
    _: KW_ONLY
    left: Cost = field(default=cast(Cost, None))  # filled in: all points
    facing: str | None = None
    sight: Annotated[int, Limits(0, LARGEST)] | None = None
    sight_measure: SightMeasure = "grid"
    sight_per_level: Annotated[int, Limits(0, FARTHEST)] = 0
    eye: Cost = 0.5
    attack: Attack | None = None
    data: Mapping[str, Any] = field(default_factory=DataTable, hash=False)
    at: Cell = field(default=cast(Cell, None))

    def __post_init__(self) -> None:
        for what in ("name", "side"):
            text(what, getattr(self, what))
        if not isinstance(self.movement, MovementLike):
            raise InputError("movement", "must be a Movement", self.movement)
        left = self.movement.points if self.left is None else rounded(self.left, "left")
        object.__setattr__(self, "left", left)
        if self.sight is not None:
            object.__setattr__(self, "sight", whole("sight", self.sight, 0, LARGEST))
        named("sight_measure", "measure", self.sight_measure, get_args(SightMeasure))
        per_level = whole("sight_per_level", self.sight_per_level, 0, FARTHEST)
        object.__setattr__(self, "sight_per_level", per_level)
        object.__setattr__(self, "eye", rounded(self.eye, "eye"))
        if self.attack is not None and not isinstance(self.attack, Attack):
            raise InputError("attack", "must be an Attack, or None", self.attack)
        object.__setattr__(self, "data", data_table("data", self.data))

    def _usual(self, place: Field[Any]) -> Any:
        return self.movement.points if place.name == "left" else super()._usual(place)

    def _sees_far(self, levels: float) -> int | None:
        """How many steps of the grid lead at most to what it sees; None: any number.

        ``levels`` is by how much one cell lies above another.
        """
        if self.sight is None:
            return None
        return spanned(self.sight + self.sight_per_level * int(levels), self.sight_measure)

    @property
    def layer(self) -> str:
        """The layer it stands in, by its movement."""
        return self.movement.layer

    def changed(self, **facts: Any) -> Unit:
        """The same unit with other facts, which are known to be right: a cell, another facing."""
        twin = object.__new__(type(self))
        twin.__dict__.update(self.__dict__, **facts)
        if MARK in twin.__dict__ and (len(facts) > 1 or "at" not in facts):
            del twin.__dict__[MARK]
        return twin

    def copy(self, name: str, side: str) -> Unit:
        """Another unit like this one, on no board, with all its points.

        So one unit can be the template of many; none gets a side that nobody meant.

        Raises
        ------
        InputError
            A name or side that is not a text.

        Examples
        --------
        >>> import understep as us
        >>> pikes = us.Unit("pikes", "wardens", us.Movement(points=4), left=1)
        >>> pikes.copy("raiders", side="wreckers").left
        4
        """
        return replace(self, name=name, side=side, left=cast(Cost, None), at=cast(Cell, None))
