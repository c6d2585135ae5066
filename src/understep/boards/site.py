"""Site: what a movement's rule gets to know of a cell."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, NamedTuple, TypeAlias

from understep.boards.cost import Cost

Value: TypeAlias = bool | int | float | str


class Site(NamedTuple):
    """What a movement's rule gets to know of a cell: all that counts, but not its address.

    Attributes
    ----------
    terrain
        The name of its terrain.
    cost
        The points that the movement would take without the rule; None: impassable.
    hazard
        The harm that the terrain does.
    level
        Its level of elevation.
    values
        Its declared properties, by name.
    features
        The kinds of features that lie there, by name; what they cost is in ``cost`` already.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.SquareGrid(3, 1), {"shallows": 2}, properties={"depth": 0.0})
    >>> board.set_value("depth", 1.5, (1, 0))
    >>> def wade(site):
    ...     return "too deep" if site.values["depth"] > 1 else site.cost
    >>> foot = us.Movement(points=9, rule=wade)
    >>> scout = board.add(us.Unit("scout", "wardens", foot), at=(0, 0))
    >>> us.route(board, "scout", goals=(1, 0)).why
    "its movement's rule closes 'shallows' at (1, 0): too deep"
    """

    terrain: str
    cost: Cost | None
    hazard: Cost
    level: float
    values: Mapping[str, Any]
    features: frozenset[str] = frozenset()
