"""Attack: how far, over what and whom a unit can attack."""

from __future__ import annotations

from dataclasses import KW_ONLY, dataclass
from typing import Annotated, Literal, TypeAlias, get_args

from understep.boards.cost import Cost, rounded
from understep.boards.pattern import Pattern
from understep.checks import Described, Limits, named, truth, whole
from understep.errors import InputError

Measure: TypeAlias = Literal["grid", "straight", "path"]
Affects: TypeAlias = Literal["foe", "friend", "anyone"]
FARTHEST = 1000
AIMED = Pattern()


def spanned(cells: int, measure: str) -> int:
    """How many steps of any grid lead at most to what is so many cells away."""
    return 3 * cells // 2 + 1 if measure == "straight" else cells  # the root of 2 is below 3 / 2


@dataclass(frozen=True, repr=False)
class Attack(Described):
    """How a unit attacks. What comes of it is the game's.

    Parameters
    ----------
    low, high
        The least and the largest distance, in cells; with ``low`` 2 the cells next to it are too
        near.
    measure
        ``"grid"``: distance on the grid; ``"straight"``: that of the straight line between middles,
        neighbors lying 1 apart, which makes a disc; ``"path"``: steps over cells and edges that the
        unit's movement can enter and cross, units not being in the way.
    sight
        Whether the cell aimed at must be seen.
    per_level
        Cells by which ``high`` grows for every full level that the attacker stands above the cell,
        and shrinks for every one below.
    up, down
        The most levels that the cell can lie above the attacker, and below; None: any.
    affects
        Whom it affects: a ``"foe"`` (a unit of another side), a ``"friend"`` (one of its own side;
        itself, where ``low`` is 0), or ``"anyone"``.
    pattern
        Which cells it affects: a `Pattern`; by default the one aimed at.

    Raises
    ------
    InputError
        Distances that are not whole numbers from 0 to 1000, the larger one first; a pattern that is
        none, ``sight`` that is not true or false, ``per_level`` that is not a whole number of 0 or
        more.
    NameUnknownError
        An unknown word for ``measure`` or ``affects``.
    CostError
        ``up`` or ``down`` is negative or no number.

    Examples
    --------
    >>> import understep as us
    >>> bow = us.Attack(2, 4, per_level=1)
    >>> us.Unit("archer", "wardens", us.Movement(points=4), attack=bow).attack.low
    2
    """

    low: Annotated[int, Limits(0, FARTHEST)] = 1
    high: Annotated[int, Limits(0, FARTHEST)] = 1
    _: KW_ONLY
    measure: Measure = "grid"
    sight: bool = True
    per_level: Annotated[int, Limits(0, FARTHEST)] = 0
    up: Cost | None = None
    down: Cost | None = None
    affects: Affects = "foe"
    pattern: Pattern = AIMED

    def __post_init__(self) -> None:
        for argument in ("low", "high", "per_level"):
            number = whole(argument, getattr(self, argument), 0, FARTHEST)
            object.__setattr__(self, argument, number)
        if self.high < self.low:
            raise InputError("high", f"must be {self.low} or more, as low is", self.high)
        for argument, allowed in (("measure", Measure), ("affects", Affects)):
            named(argument, "rule", getattr(self, argument), get_args(allowed))
        object.__setattr__(self, "sight", truth("sight", self.sight))
        for argument in ("up", "down"):
            value = getattr(self, argument)
            if value is not None:
                object.__setattr__(self, argument, rounded(value, argument))
        if not isinstance(self.pattern, Pattern):
            raise InputError("pattern", "must be a Pattern", self.pattern)

    def _far(self, levels: float) -> int:
        """So many steps of the grid lead at most to what it can be aimed at.

        ``levels`` is by how much one cell lies above another.
        """
        return spanned(self.high + self.per_level * int(levels), self.measure)

    def _meets(self, own: bool) -> bool:
        """Whether it affects units of its own side, or of others."""
        return self.affects == "anyone" or (self.affects == "friend") == own
