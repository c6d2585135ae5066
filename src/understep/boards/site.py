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

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.SquareGrid(3, 1), {"shallows": 2}, properties={"depth": 0.0})
    >>> board.set_value("depth", 1.5, (1, 0))
    >>> def wade(site):
    ...     return None if site.values["depth"] > 1 else site.cost
    >>> foot = us.Movement(points=9, rule=wade)
    >>> scout = board.add(us.Unit("scout", "wardens", foot), at=(0, 0))
    >>> us.route(board, "scout", goals=(2, 0)).why
    'no route leads over the terrain from (0, 0) to (2, 0)'
    """

    terrain: str
    cost: Cost | None
    hazard: Cost
    level: float
    values: Mapping[str, Any]
