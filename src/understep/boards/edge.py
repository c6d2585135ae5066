"""Edge kinds: what can stand between two cells that are next to each other."""

from __future__ import annotations

from dataclasses import KW_ONLY, dataclass
from typing import Any

from understep.boards.cost import Cost, rounded
from understep.checks import Described, kinds_table, truth

MOST_KINDS = 100


@dataclass(frozen=True, repr=False)
class Edge(Described):
    """A kind of edge: a wall, a low wall, a road, a ford, a door.

    Parameters
    ----------
    blocks
        Whether no step leads across. Movements may say otherwise. A diagonal step needs a side
        without such an edge, and both under the corner rule "both".
    cost
        Points of a step across, in place of the terrain's: a road. Impassable ground stays so.
    add
        Points on top: a low wall, a ford. A diagonal step pays the lesser of what the edges on its
        two sides add.
    hides
        Whether it blocks sight.
    door
        Whether it can be opened: while it is open it is as if it were not there.

    Raises
    ------
    CostError
        A cost that is negative, infinite or no number.
    InputError
        A flag that is not True or False.

    Examples
    --------
    >>> import understep as us
    >>> kinds = {"wall": us.Edge(blocks=True), "road": us.Edge(cost=0.5), "ditch": us.Edge(add=2)}
    >>> board = us.Board(us.SquareGrid(4, 1), {"turf": 1}, edges=kinds)
    >>> board.set_edge((0, 0), (1, 0), "ditch")
    >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=9)), at=(0, 0))
    >>> us.route(board, "scout", goals=(3, 0)).cost
    5
    """

    _: KW_ONLY
    blocks: bool = False
    cost: Cost | None = None
    add: Cost = 0
    hides: bool = False
    door: bool = False

    def __post_init__(self) -> None:
        for name in ("blocks", "hides", "door"):
            object.__setattr__(self, name, truth(name, getattr(self, name)))
        if self.cost is not None:
            object.__setattr__(self, "cost", rounded(self.cost, "cost"))
        object.__setattr__(self, "add", rounded(self.add, "add"))


def edge_table(edges: Any) -> dict[str, Edge]:
    """Check a table of edge kinds."""
    return kinds_table("edges", edges, Edge, "an", MOST_KINDS)
