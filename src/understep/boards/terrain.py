"""Terrain: what a cell is made of."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import KW_ONLY, dataclass, replace
from typing import Annotated, Any, Literal, Protocol, TypeAlias, TypeVar, cast, get_args

from understep.boards.cost import Cost, rounded
from understep.checks import COLOR, Described, Limits, color_of, items, named, real, text
from understep.errors import InputError

TintPattern = Literal[
    "plain", "dots", "specks", "blades", "waves", "ripples", "bricks", "crosses", "hachures"
]
MOST = 255
MOST_COVER = 10**6
GLYPH = r"^\S$"


@dataclass(frozen=True, repr=False)
class Terrain(Described):
    """A kind of terrain.

    Parameters
    ----------
    cost
        Movement points to enter a cell of it; None means impassable. Movements may say otherwise.
    glyph
        The one character it has in text; by default the first letter of its name that is free.
    tint
        Its colour in figures, ``"#rrggbb"``; by default one is chosen.
    pattern
        Its pattern in figures: plain, dots, specks, blades, waves, ripples, bricks,
        crosses or hachures.
    hazard
        The harm it does to who enters it. It blocks nothing; what it means is the game's.
    cover
        How many levels what grows or stands on it rises above the ground and hides what is behind.
        Without it nothing is hidden, by impassable terrain neither.
    closed_to
        The sides whose units cannot enter it.

    Raises
    ------
    CostError
        A negative or infinite cost, or one that is not a number.
    InputError
        A glyph that is not one visible character, a tint that is not a colour, a cover that is no
        number of 0 or more, or sides that are not texts.
    NameUnknownError
        An unknown pattern.

    Examples
    --------
    >>> import understep as us
    >>> us.Terrain(cost=1.5, glyph="~").cost
    1.5
    """

    cost: Cost | None = 1
    _: KW_ONLY
    glyph: Annotated[str, Limits(pattern=GLYPH)] | None = None
    tint: Annotated[str, Limits(pattern=COLOR)] | None = None
    pattern: TintPattern = "plain"
    hazard: Cost = 0
    cover: Annotated[float, Limits(0, MOST_COVER)] = 0.0
    closed_to: Iterable[str] = ()

    def __post_init__(self) -> None:
        if self.cost is not None:
            object.__setattr__(self, "cost", rounded(self.cost, "cost"))
        look_of(self.glyph, self.tint)
        named("pattern", "pattern", self.pattern, get_args(TintPattern))
        object.__setattr__(self, "hazard", rounded(self.hazard, "hazard"))
        object.__setattr__(self, "cover", height(self.cover))
        sides = tuple(items("closed_to", self.closed_to, "must be names of sides"))
        if not all(isinstance(side, str) and side.strip() for side in sides):
            raise InputError("closed_to", "must be names of sides", self.closed_to)
        for side in sides:
            text("closed_to", side)
        object.__setattr__(self, "closed_to", tuple(sorted(set(sides))))


TerrainLike: TypeAlias = Terrain | Cost | None


class Shown(Protocol):
    """A kind that has a glyph in text."""

    @property
    def glyph(self) -> str | None:
        """The glyph, if one was given."""


K = TypeVar("K", bound=Shown)


def terrain_table(terrain: Any, others: Iterable[str] = ()) -> dict[str, Terrain]:
    """Check a table of terrains, and give each a glyph that no other kind has."""
    if not isinstance(terrain, Mapping) or not terrain:
        raise InputError(
            "terrain", "must map at least one name to a cost, None or Terrain", terrain
        )
    if len(terrain) > MOST:
        raise InputError("terrain", f"at most {MOST} terrains", len(terrain))
    table: dict[str, Terrain] = {}
    for name, kind in terrain.items():
        text("terrain", name, what="a name")
        if not isinstance(kind, Terrain):
            kind = Terrain(None if kind is None else rounded(kind, "terrain", repr(name)))
        table[name] = kind
    return glyphs("terrain", table, others)


def glyphs(argument: str, table: Mapping[str, K], others: Iterable[str] = ()) -> dict[str, K]:
    """Give each kind of a table a glyph of its own, none of those that others have."""
    made, taken = dict(table), dict.fromkeys((each for each in others if each), "another kind")
    for name, kind in table.items():
        if kind.glyph is not None:
            if kind.glyph in taken:
                rule = f"two kinds share a glyph ({taken[kind.glyph]!r} and {name!r})"
                raise InputError(argument, rule, kind.glyph)
            taken[kind.glyph] = name
    for name, kind in table.items():
        if kind.glyph is None:
            letters = [c for c in name + name.upper() if c.isalnum()] + [
                chr(c) for c in range(33, 891)
            ]
            glyph = next(c for c in letters if c.isprintable() and c != " " and c not in taken)
            taken[glyph] = name
            made[name] = cast(K, replace(cast(Any, kind), glyph=glyph))
    return made


def look_of(glyph: object, tint: object) -> None:
    """Check a glyph and a tint; each may be None."""
    seen = isinstance(glyph, str) and len(glyph) == 1 and glyph.isprintable() and glyph != " "
    if glyph is not None and not seen:
        raise InputError("glyph", "must be one visible character", glyph)
    if tint is not None:
        color_of("tint", tint)


def height(cover: object) -> float:
    """Check by how many levels something rises above the ground."""
    return real("cover", cover, f"must be a number from 0 to {MOST_COVER}", 0, MOST_COVER)
