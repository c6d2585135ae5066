"""Features: kinds of things that lie on cells, on top of the terrain."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import KW_ONLY, dataclass
from fractions import Fraction
from typing import Annotated, Any, NamedTuple, Protocol

from understep.boards.cost import Cost, rounded
from understep.boards.terrain import GLYPH, MOST_COVER, height, look_of
from understep.checks import COLOR, Described, Limits, kinds_table, truth
from understep.grids.cell import Cells

MOST_KINDS = 100


@dataclass(frozen=True, repr=False)
class Feature(Described):
    """A kind of thing that lies on a cell: a crate, trees, a farm, a bridge.

    Several can lie on a cell. Movements may say otherwise of a kind (`Movement.features`).

    Parameters
    ----------
    blocks
        Whether nobody can enter the cell.
    cost
        Points to enter the cell, in place of the terrain's, impassable terrain too: a bridge. Of
        several on a cell the least counts.
    add
        Points on top; those of several add up.
    hides
        Whether it hides what is behind it, however high that is.
    cover
        How many levels it rises above the ground, and hides what is behind; of several on a cell,
        and the terrain, the highest counts.
    glyph
        The one character it has in text; by default the first letter of its name that is free.
    tint
        Its colour in figures, ``"#rrggbb"``; by default that of ink.

    Raises
    ------
    CostError
        A cost that is negative, infinite or no number.
    InputError
        A glyph that is not one visible character, a tint that is not a colour, a cover that is no
        number of 0 or more.

    Examples
    --------
    >>> import understep as us
    >>> kinds = {"crate": us.Feature(blocks=True), "bridge": us.Feature(cost=1)}
    >>> board = us.Board(us.SquareGrid(4, 1), {"turf": 1, "deep": None}, features=kinds)
    >>> board.paint("deep", (2, 0))
    >>> bridge = board.place("bridge", (2, 0))
    >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=9)), at=(0, 0))
    >>> us.route(board, "scout", goals=(3, 0)).cost
    3
    """

    _: KW_ONLY
    blocks: bool = False
    cost: Cost | None = None
    add: Cost = 0
    hides: bool = False
    cover: Annotated[float, Limits(0, MOST_COVER)] = 0.0
    glyph: Annotated[str, Limits(pattern=GLYPH)] | None = None
    tint: Annotated[str, Limits(pattern=COLOR)] | None = None

    def __post_init__(self) -> None:
        for name in ("blocks", "hides"):
            object.__setattr__(self, name, truth(name, getattr(self, name)))
        if self.cost is not None:
            object.__setattr__(self, "cost", rounded(self.cost, "cost"))
        object.__setattr__(self, "add", rounded(self.add, "add"))
        object.__setattr__(self, "cover", height(self.cover))
        look_of(self.glyph, self.tint)

    @property
    def top(self) -> float:
        """How many levels it rises above its cell, as sight counts it."""
        return float(MOST_COVER) if self.hides else self.cover


class Placed(NamedTuple):
    """Features of a kind as they were placed together, to be lifted together.

    Attributes
    ----------
    kind
        The kind, by name.
    cells
        The cells, one feature on each.
    """

    kind: str
    cells: Cells


class MeetsFeatures(Protocol):
    """What features need to know of a movement."""

    def _over(self, name: str, kind: Feature) -> tuple[bool, Fraction | None, Fraction]:
        """What a feature of a kind does: blocks, points instead, points on top."""


def entered(
    movement: MeetsFeatures, base: Fraction | None, laid: Iterable[tuple[str, Feature]]
) -> Fraction | None:
    """Points to enter a cell on which features lie; ``base``: without them. None: never."""
    met = [movement._over(*each) for each in laid]
    if any(blocks for blocks, *_ in met):
        return None
    instead = [cost for _, cost, _ in met if cost is not None]
    base = min(instead) if instead else base
    return None if base is None else base + sum(add for *_, add in met)


def feature_table(features: Any) -> dict[str, Feature]:
    """Check a table of kinds."""
    return kinds_table("features", features, Feature, "a", MOST_KINDS)
