"""The links of a board: steps between cells that need not be adjacent."""

from __future__ import annotations

from fractions import Fraction
from typing import Any, NamedTuple

import numpy as np

from understep.boards.cost import Cost, exact, plain
from understep.boards.edges import Edges
from understep.boards.store import ABSENT, Table
from understep.errors import CellError, InputError, expect, text
from understep.grids.cell import Cell, CellLike

MOST_LINKS = 100_000


class Link(NamedTuple):
    """A link on a board, seen from one of its ends.

    Attributes
    ----------
    a, b
        The cell it leaves, and the cell it leads to.
    cost
        The points it takes.
    kind
        What it is: ladder, ferry, tunnel.
    both
        Whether the same leads back.
    """

    a: Cell
    b: Cell
    cost: Cost
    kind: str
    both: bool


class LinkTable(Table[tuple[int, int], tuple[Fraction, str]]):
    """Cost and kind by the numbers of the two cells, each way by itself."""

    #: How often it was written to.
    version = 0

    def put(self, key: Any, value: Any) -> None:
        """Set a link, or take it away."""
        super().put(key, value)
        self.version += 1

    def where(self, key: Any, _old: Any, _new: Any) -> Any:
        """The cells of a change."""
        return np.array(key)


class Links(Edges):
    """Ladders, ferries, tunnels."""

    _links: LinkTable

    def link(
        self, a: CellLike, b: CellLike, cost: Cost = 1, both: bool = True, kind: str = "link"
    ) -> None:
        """Let a step lead from one cell to another, wherever that is, in place of an earlier link.

        Who takes it must be able to stand at its end; movements may say otherwise of a kind.

        Parameters
        ----------
        a, b
            The cells.
        cost
            The points it takes, whatever the terrain at its end.
        both
            Whether it leads back too.
        kind
            What it is, such as "ladder".

        Raises
        ------
        CellError
            ``a`` or ``b`` is no cell of the board, or they are the same.
        CostError
            A cost that is negative, infinite or no number.
        InputError
            A kind that is no text, or too many links.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(7, 1), {"boards": 1, "ruin": None})
        >>> board.paint("ruin", (3, 0))
        >>> board.link((2, 0), (4, 0), cost=2, kind="ladder")
        >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=6)), at=(0, 0))
        >>> us.route(board, "scout", to=(5, 0)).cost
        5
        """
        start, end = self._ends(a, b)
        text("kind", kind)
        if len(self._links.values) + 2 > MOST_LINKS:
            raise InputError("a", f"a board has at most {MOST_LINKS} links", tuple(a))
        expect("both", both, bool, "must be True or False")
        facts = exact(cost, "cost"), kind
        with self._journal.span(keeps=True):
            self._journal.write(self._links, (start, end), facts)
            if both:
                self._journal.write(self._links, (end, start), facts)

    def unlink(self, a: CellLike, b: CellLike, both: bool = True) -> None:
        """Take a link away.

        Raises
        ------
        CellError
            ``a`` or ``b`` is no cell of the board, or no link leads from one to the other.
        """
        start, end = self._ends(a, b)
        expect("both", both, bool, "must be True or False")
        keys = [(start, end), (end, start)] if both else [(start, end)]
        keys = [key for key in keys if key in self._links.values]
        if not keys:
            raise CellError("b", f"no link leads there from {tuple(a)}", tuple(b))
        with self._journal.span(keeps=True):
            for key in keys:
                self._journal.write(self._links, key, ABSENT)

    def _ends(self, a: CellLike, b: CellLike) -> tuple[int, int]:
        start, end = self.grid.require(a, "a"), self.grid.require(b, "b")
        if start == end:
            raise CellError("b", "a link leads to another cell", tuple(b))
        return self.grid.number(start), self.grid.number(end)

    def links(self, cell: CellLike | None = None) -> tuple[Link, ...]:
        """All links, those that lead both ways once; or those that leave a cell.

        Raises
        ------
        CellError
            ``cell`` is not a cell, or lies off the board.
        """
        home = None if cell is None else self.grid.number(self.grid.require(cell))
        found = []
        for (start, end), facts in sorted(self._links.values.items()):
            both = self._links.values.get((end, start)) == facts
            if start == home or (home is None and not (both and end < start)):
                a, b = self.grid.cell_of(start), self.grid.cell_of(end)
                found.append(Link(a, b, plain(facts[0]), facts[1], both))
        return tuple(found)

    @property
    def links_version(self) -> int:
        """A number that differs after every change of a link of this board, for step tables."""
        return self._links.version

    def link_table(self) -> dict[tuple[int, int], tuple[Fraction, str]]:
        """Cost and kind by the numbers of the two cells; not to be written to, for step tables."""
        return self._links.values
