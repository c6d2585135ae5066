"""Movement: the rules by which a unit moves."""

from __future__ import annotations

import sys
from collections.abc import Callable, Mapping
from dataclasses import KW_ONLY, dataclass, field
from fractions import Fraction
from types import MappingProxyType
from typing import Annotated, Any, Literal, get_args

from understep.boards.cost import Cost, fraction, rounded
from understep.boards.edge import Edge
from understep.boards.feature import Feature
from understep.boards.footprint import ONE, Footprint
from understep.boards.site import Site
from understep.boards.terrain import Terrain
from understep.checks import Described, Limits, named, text, truth
from understep.errors import InputError, NameUnknownError
from understep.rules.leap import Leap

Corners = Literal["free", "one", "both"]
Passes = Literal["own", "none", "all"]
Zoning = Literal["ignore", "end"]
ALTERNATING = "alternating"
TABLES = "costs", "edges", "links", "features"


class _RuleKey(tuple[Any, ...]):
    """Rules whose hash is worked out once: every query looks its step table up by them."""

    def __hash__(self) -> int:
        known: int | None = self.__dict__.get("hash")
        if known is None:
            known = self.__dict__["hash"] = super().__hash__()
        return known


@dataclass(frozen=True, repr=False)
class Movement(Described):
    """The rules by which a unit moves. Frozen and hashable; equal ones share their step tables.

    Parameters
    ----------
    points
        Movement points of a full turn.
    costs
        Terrain name to points, or None for impassable, where it differs from the terrain's own
        cost. Names that a board does not have are no error there: one movement serves many boards.
        A single number instead: the points for every terrain, impassable ones too (it flies).
    diagonal
        What a diagonal step costs, as a multiple of a straight one. ``"alternating"``: the first of
        a turn costs as much, the next twice as much, and so on. None: it never steps diagonally.
    corners
        When a diagonal step is allowed on an eight-neighbor grid. It goes around one of two
        corners, over two edges each. A way around is open if the movement can enter the corner
        cell, at any level, and no wall stands on its edges. ``"both"`` must be open, at least
        ``"one"``, or the step is ``"free"``: then terrain does not count, but between two walls or
        holes of the board nobody gets through. It pays the least that edges on an open way add.
    passes
        Through whose units it may pass (never stop): ``"own"`` side's, ``"none"`` or ``"all"``.
    edges
        Name of a kind of edge to points of a step across, None for blocked, or ``"open"`` for as if
        it were not there, where it differs from the kind's own rule. The same freedom in names.
    links
        Kind of link to points, or None for never, where it differs from the link's own cost. The
        same freedom in names.
    features
        Name of a kind of feature to points to enter its cell, None for never, or ``"open"`` for as
        if it were not there, where it differs from the kind's own rule. The same freedom in names.
    climb, drop
        The most levels that one step can lead up, and down; None: any.
    uphill, downhill
        Points on top for every level that a step leads up, and down. Levels count to a thousandth.
    footprint
        The cells it takes up: a `Footprint`, or offsets from the anchor cell, as (col, row) on
        squares and (q, r) on hexes. It moves as a whole: all its cells must be able to make a step,
        and the dearest of them is paid. It does not turn.
    layer
        The layer its units stand in: those of different layers do not collide.
    zones
        What the cells that foes hold mean to it: ``"ignore"``, ``"end"``: entering one takes all
        points that are left, or points on top to enter one. A foe holds a neighbor, in its layer,
        if no edge of a kind that blocks stands between, looked at from the foe; and a diagonal one,
        if at least one of the two corners that exist has none around it. The mover's own rules
        for edges, units and terrain at the corners do not count. Nobody holds the cells it stands
        on. With ``"end"`` a held cell where the unit cannot stop cannot be entered.
    guards
        Whether its units hold the cells next to them.
    foe_corners
        Whether foes count as closed corners where it steps diagonally: a way around a corner is
        open if no foe stands there, and no wall on it.
    one_step
        Whether no step costs more than the points of a full turn, so that a unit that has not moved
        can always make one.
    rule
        A function of a `Site` that has the last word on the points to enter a cell; None, or a text
        that says why, for never. It must always give the same for the same site. It is asked when
        steps are compiled, not while searching. In a board file its name is kept.
    carry
        The most points left over at the end of a turn that the next one has on top of its own.
    leap
        How it leaps over gaps, up and down ledges: a `Leap`. Only units of one cell can.

    Raises
    ------
    CostError
        Points, a cost or a factor that is negative, infinite or no number.
    NameUnknownError
        An unknown word for ``corners``, ``passes`` or ``zones``.
    InputError
        A footprint that is not valid, a layer that is not a text, a rule that is not a function, or
        another value where true or false is meant.

    Examples
    --------
    >>> import understep as us
    >>> punt = us.Movement(points=8, costs={"deep": 1, "turf": None})
    >>> punt.points == 8, punt == us.Movement(8, {"turf": None, "deep": 1.0})
    (True, True)
    """

    points: Cost
    costs: Mapping[str, Cost | None] | Cost = field(default_factory=dict, hash=False)
    _: KW_ONLY
    diagonal: Cost | Literal["alternating"] | None = 1
    corners: Corners = "both"
    passes: Passes = "own"
    edges: Mapping[str, Cost | Literal["open"] | None] = field(default_factory=dict, hash=False)
    links: Mapping[str, Cost | None] = field(default_factory=dict, hash=False)
    features: Mapping[str, Cost | Literal["open"] | None] = field(default_factory=dict, hash=False)
    climb: Cost | None = None
    drop: Cost | None = None
    uphill: Cost = 0
    downhill: Cost = 0
    footprint: Footprint = ONE
    layer: Annotated[str, Limits(pattern=r"\S")] = "ground"
    zones: Zoning | Cost = "ignore"
    guards: bool = True
    foe_corners: bool = False
    one_step: bool = False
    rule: Callable[[Site], Cost | str | None] | None = None
    carry: Cost = 0
    leap: Leap | None = None
    _rules: tuple[Any, ...] = field(init=False, repr=False, compare=False, default=())

    def __post_init__(self) -> None:
        costs = self.costs
        whole = not isinstance(costs, Mapping)
        for argument, allowed in (("corners", Corners), ("passes", Passes)):
            named(argument, "rule", getattr(self, argument), get_args(allowed))
        text("layer", self.layer)
        if self.leap is not None and not isinstance(self.leap, Leap):
            raise InputError("leap", "must be a Leap, or None", self.leap)
        if self.rule is not None and not callable(self.rule):
            raise InputError("rule", "must be a function of a site, or None", self.rule)
        set_field = object.__setattr__
        for argument in ("guards", "foe_corners", "one_step"):
            set_field(self, argument, truth(argument, getattr(self, argument)))
        if isinstance(self.zones, str) and self.zones not in get_args(Zoning):
            raise NameUnknownError("zones", "rule", self.zones, get_args(Zoning))
        if not isinstance(self.zones, str):
            set_field(self, "zones", rounded(self.zones, "zones"))
        set_field(self, "points", rounded(self.points, "points"))
        if isinstance(self.diagonal, str) and self.diagonal != ALTERNATING:
            raise NameUnknownError("diagonal", "rule", self.diagonal, [ALTERNATING])
        if isinstance(self.diagonal, str) and self.carry:
            raise InputError("carry", "cannot be with alternating diagonals", self.carry)
        for argument in ("diagonal", "climb", "drop", "uphill", "downhill", "carry"):
            value = getattr(self, argument)
            unset = value is None and argument in ("diagonal", "climb", "drop")
            if not unset and not (argument == "diagonal" and isinstance(value, str)):
                set_field(self, argument, rounded(value, argument))
        set_field(self, "costs", rounded(costs, "costs") if whole else _table(costs, "costs"))
        set_field(self, "edges", _table(self.edges, "edges", "open"))
        set_field(self, "links", _table(self.links, "links"))
        set_field(self, "features", _table(self.features, "features", "open"))
        set_field(self, "footprint", Footprint(self.footprint))
        if self.leap is not None and self.footprint != ONE:
            rule = "only a unit of one cell can leap"
            raise InputError("footprint", rule, self.footprint)
        tables = [
            tuple(table.items()) if isinstance(table, Mapping) else table
            for table in (getattr(self, name) for name in TABLES)
        ]
        slopes = self.climb, self.drop, self.uphill, self.downhill
        extra = None if isinstance(self.zones, str) else self.zones  # it is counted like a step
        rest = self.diagonal, self.corners, *slopes, self.footprint, extra, self.rule, self.leap
        set_field(self, "_rules", _RuleKey((*tables, *rest)))

    def __getstate__(self) -> dict[str, Any]:
        rule = self.rule
        # pickle finds a function by its name again, and these have none in their module
        inner = not getattr(rule, "__qualname__", "").replace("_", "").replace(".", "").isalnum()
        # cloudpickle takes these, too
        if rule is not None and inner and "cloudpickle" not in sys.modules:
            fault = "a lambda or inner function cannot be pickled; use a function of a module"
            raise InputError("rule", fault, rule)
        state = self.__dict__.copy()
        state.pop("_hash", None)  # both are worked out anew
        del state["_rules"]
        for name in TABLES:
            if type(state[name]) is MappingProxyType:
                state[name] = dict(state[name])
        return state

    def __setstate__(self, state: dict[str, Any]) -> None:
        self.__dict__.update(state)
        self.__post_init__()  # hashes and what else is worked out

    def __deepcopy__(self, _memo: Any) -> Movement:
        return self  # it never changes

    def __hash__(self) -> int:
        known: int | None = self.__dict__.get("_hash")
        if known is None:  # worked out once, as for the rules
            known = hash((self.points, self.passes, self.layer, self.carry, self._rules))
            object.__setattr__(self, "_hash", known)
        return known

    @property
    def rules(self) -> tuple[Any, ...]:
        """What decides the steps, apart from points and passing: equal rules share a step table."""
        return self._rules

    @property
    def _cap(self) -> Fraction:
        """The most points that a step costs; 0: it may cost anything."""
        return fraction(self.points) if self.one_step else Fraction(0)

    def _cost_on(self, name: str, terrain: Terrain) -> Fraction | None:
        """Points to enter a cell of a terrain by a straight step; None where it never can."""
        costs: Any = self.costs
        if type(costs) is not MappingProxyType:  # a table is one since it was checked
            return fraction(costs)
        cost = costs.get(name, terrain.cost)
        return None if cost is None else fraction(cost)

    def _across(self, name: str, kind: Edge) -> tuple[bool, Fraction | None, Fraction]:
        """What a closed edge of a kind does: blocks, points in place of the terrain's, on top."""
        return _met(self.edges, name, kind)

    def _over(self, name: str, kind: Feature) -> tuple[bool, Fraction | None, Fraction]:
        """What a feature of a kind does: blocks, points in place of the terrain's, on top."""
        return _met(self.features, name, kind)

    def _may_pass(self, own: bool) -> bool:
        """Whether it may pass units of its own side, or of others."""
        return self.passes == "all" or (own and self.passes == "own")

    def _along(self, kind: str, cost: Fraction) -> Fraction | None:
        """Points to take a link of a kind; None: never."""
        found = self.links.get(kind, cost)
        return None if found is None else fraction(found)


def _met(
    table: Mapping[str, Any], name: str, kind: Edge | Feature
) -> tuple[bool, Fraction | None, Fraction]:
    """What a kind does by itself, or where a table of a movement says otherwise."""
    if name not in table:
        cost = None if kind.cost is None else fraction(kind.cost)
        return kind.blocks, cost, fraction(kind.add)
    held = table[name]
    if held is None or isinstance(held, str):
        return held is None, None, Fraction(0)
    return False, fraction(held), Fraction(0)


def _table(table: Any, argument: str, *words: str) -> Mapping[str, Any]:
    """Check a table of names to costs, and sort it by name."""
    if not isinstance(table, Mapping):
        raise InputError(argument, "must map names to costs", table)
    found: dict[str, Any] = {}
    for name, cost in table.items():
        text(argument, name, what="a name")
        known = cost is None or cost in words
        found[name] = cost if known else rounded(cost, argument, repr(name))
    return MappingProxyType(dict(sorted(found.items())))
