"""The links of a board: steps between cells that need not be adjacent."""

from __future__ import annotations

from typing import NamedTuple

from understep.boards.contents import Contents
from understep.boards.cost import Cost, exact, plain
from understep.boards.journal import Writes
from understep.boards.store import ABSENT
from understep.checks import text, truth
from understep.errors import CellError, InputError
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


class Links:
    """Ladders, ferries, tunnels."""

    def __init__(self, contents: Contents, journal: Writes) -> None:
        self._contents, self._journal, self._grid = contents, journal, contents.grid

    def put(self, a: CellLike, b: CellLike, cost: Cost, both: bool, kind: str) -> None:
        """Link two cells, in place of an earlier link."""
        start, end = self._ends(a, b)
        text("kind", kind)
        links = self._contents.links
        both = truth("both", both)
        if len(links.values) + 1 + both > MOST_LINKS:
            raise InputError("a", f"a board has at most {MOST_LINKS} links", tuple(a))
        facts = exact(cost, "cost"), kind
        # one step to undo, both ways
        with self._journal.span(keeps=True):
            self._journal.write(links, (start, end), facts)
            if both:
                self._journal.write(links, (end, start), facts)

    def remove(self, a: CellLike, b: CellLike, both: bool) -> None:
        """Remove a link."""
        start, end = self._ends(a, b)
        both = truth("both", both)
        keys = [(start, end), (end, start)] if both else [(start, end)]
        keys = [key for key in keys if key in self._contents.links.values]
        if not keys:
            raise CellError("b", f"no link leads there from {tuple(a)}", tuple(b))
        with self._journal.span(keeps=True):
            for key in keys:
                self._journal.write(self._contents.links, key, ABSENT)

    def _ends(self, a: CellLike, b: CellLike) -> tuple[int, int]:
        start, end = self._grid.numbering.require(a, "a"), self._grid.numbering.require(b, "b")
        if start == end:
            raise CellError("b", "a link leads to another cell", tuple(b))
        return self._grid.numbering.number(start), self._grid.numbering.number(end)

    def all(self, cell: CellLike | None = None) -> tuple[Link, ...]:
        """All links, two-way ones once; or those that leave a cell."""
        home = None if cell is None else self._grid.numbering.of(cell)
        links = self._contents.links.values
        found = []
        for (start, end), facts in sorted(links.items()):
            # of another cost or kind, they are two links
            both = links.get((end, start)) == facts
            if start == home or (home is None and not (both and end < start)):
                a, b = self._grid.numbering.cell_of(start), self._grid.numbering.cell_of(end)
                found.append(Link(a, b, plain(facts[0]), facts[1], both))
        return tuple(found)
