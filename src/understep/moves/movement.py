"""Movement: the rules by which a unit moves."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from fractions import Fraction
from types import MappingProxyType
from typing import Any, Literal, get_args

from understep.boards.cost import Cost, exact
from understep.boards.edge import Edge
from understep.boards.terrain import Terrain
from understep.errors import InputError, NameUnknownError

Corners = Literal["free", "one", "both"]
Passes = Literal["own", "none", "all"]


@dataclass(frozen=True)
class Movement:
    """The rules by which a unit moves. Frozen and hashable; equal ones share their step tables.

    Parameters
    ----------
    points
        Movement points of a full turn.
    costs
        Terrain name to points, or None for impassable, where it differs from the terrain's own
        cost. Names that a board does not have are no error there: one movement serves many boards.
    diagonal
        What a diagonal step costs, as a multiple of a straight one.
    corners
        When a diagonal step is allowed on an eight-neighbor grid: ``"both"`` cells beside it must
        be open ground for this movement, at least ``"one"`` must, or it is ``"free"`` (between two
        walls or holes of the board nobody gets through).
    passes
        Through whose units it may pass (never stop): ``"own"`` side's, ``"none"`` or ``"all"``.
    edges
        Name of a kind of edge to points of a step across, None for blocked, or ``"open"`` for as if
        it were not there, where it differs from the kind's own rule. The same freedom in names.

    Raises
    ------
    CostError
        Points, a cost or a factor that is negative, infinite or no number.
    NameUnknownError
        An unknown word for ``corners`` or ``passes``.

    Examples
    --------
    >>> import understep as us
    >>> punt = us.Movement(points=8, costs={"deep": 1, "turf": None})
    >>> punt.points == 8, punt == us.Movement(8, {"turf": None, "deep": 1.0})
    (True, True)
    """

    points: Cost
    costs: Mapping[str, Cost | None] = field(default_factory=dict, hash=False)
    diagonal: Cost = 1
    corners: Corners = "both"
    passes: Passes = "own"
    edges: Mapping[str, Cost | Literal["open"] | None] = field(default_factory=dict, hash=False)
    _rules: tuple[Any, ...] = field(init=False, repr=False, compare=False, default=())

    def __post_init__(self) -> None:
        points = exact(self.points, "points")
        if not isinstance(self.costs, Mapping):
            raise InputError("costs", "must map terrain names to costs", self.costs)
        costs = {}
        for name, cost in self.costs.items():
            if not isinstance(name, str):
                raise InputError("costs", "a terrain name is a text", name)
            costs[name] = None if cost is None else exact(cost, "costs", repr(name))
        if not isinstance(self.edges, Mapping):
            raise InputError("edges", "must map kinds of edges to costs", self.edges)
        edges: dict[str, Any] = {}
        for name, rule in self.edges.items():
            if not isinstance(name, str):
                raise InputError("edges", "the name of a kind is a text", name)
            known = rule is None or rule == "open"
            edges[name] = rule if known else exact(rule, "edges", repr(name))
        for argument, allowed in (("corners", Corners), ("passes", Passes)):
            word = getattr(self, argument)
            if word not in get_args(allowed):
                raise NameUnknownError(argument, "rule", word, get_args(allowed))
        set_field = object.__setattr__
        set_field(self, "points", points)
        set_field(self, "diagonal", exact(self.diagonal, "diagonal"))
        set_field(self, "costs", MappingProxyType(dict(sorted(costs.items()))))
        set_field(self, "edges", MappingProxyType(dict(sorted(edges.items()))))
        tables = tuple(self.costs.items()), tuple(self.edges.items())
        set_field(self, "_rules", (*tables, self.diagonal, self.corners))

    def __hash__(self) -> int:
        return hash((self.points, self.passes, self._rules))

    @property
    def rules(self) -> tuple[Any, ...]:
        """What decides the steps, apart from points and passing: equal rules share a step table."""
        return self._rules

    def cost_on(self, name: str, terrain: Terrain) -> Fraction | None:
        """Points to enter a cell of a terrain by a straight step; None where it never can."""
        if name in self.costs:
            return self.costs[name]  # type: ignore[return-value]
        return terrain.exact_cost

    def across(self, name: str, kind: Edge) -> tuple[bool, Fraction | None, Fraction]:
        """What a closed edge of a kind does: blocks, points in place of the terrain's, on top."""
        if name not in self.edges:
            return kind.blocks, kind.cost, kind.add  # type: ignore[return-value]
        cost = self.edges[name]
        if cost is None or cost == "open":
            return cost is None, None, Fraction(0)
        return False, cost, Fraction(0)  # type: ignore[return-value]

    def with_points(self, points: Cost) -> Movement:
        """The same rules with other points."""
        return replace(self, points=points)
