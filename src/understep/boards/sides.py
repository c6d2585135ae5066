"""What the sides of a board know: fog of war begins, goes on and is lifted here."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from understep.boards.store import ABSENT, Table
from understep.boards.turn import Turn
from understep.boards.units import Units
from understep.errors import NameUnknownError
from understep.grids.cell import Cell, IntArray

if TYPE_CHECKING:
    from understep.boards.knowledge import Knowledge
    from understep.boards.memory import Memory


class Marked:
    """Units and cells that have changed since knowledge last followed."""

    def __init__(self) -> None:
        self.names: set[str] = set()
        self.cells: list[IntArray] = []


class Sides(Units):
    """What sides know."""

    _memories: Table[str, Memory]
    _marked: Marked
    _facts: Table[str, Any]

    @property
    def turn(self) -> Turn | None:
        """Whose turn it is; None: nobody has said. `understep.Turns` sees to it."""
        turn: Turn | None = self._facts.values.get("turn")
        return turn

    @turn.setter
    def turn(self, turn: Turn | None) -> None:
        self._journal.write(self._facts, "turn", turn)

    def keep(self, memory: Memory) -> None:
        """Let a side remember from here on; for `understep.fog`."""
        with self._journal.span(keeps=True):
            self._journal.follow = self._follow
            self._journal.write(self._memories, memory.side, memory)
            self._marked.names.update(self._roster.values)

    def lift_fog(self, side: str) -> None:
        """Let a side see everything again, and forget what it remembers.

        Raises
        ------
        NameUnknownError
            That side keeps no knowledge.
        """
        self.memory(side)
        self._journal.write(self._memories, side, ABSENT)

    def _follow(self) -> None:
        """Let knowledge follow what has changed."""
        marked, self._marked = self._marked, Marked()
        board: Any = self
        for memory in self._memories.values.values():
            memory.follow(board, marked)

    def memory(self, side: str) -> Memory:
        """The board as a side knows it, for `Knowledge` and for plans.

        Raises
        ------
        NameUnknownError
            That side keeps no knowledge.
        """
        try:
            return self._memories.values[side]
        except (KeyError, TypeError):
            known = self._memories.values
            raise NameUnknownError("side", "side that keeps knowledge", side, known) from None

    def _known_to(self, side: str, name: str) -> bool:
        memory = self._memories.values.get(side)
        return memory is None or name in memory.roster.values

    @property
    def known_by(self) -> str:
        """The side whose picture of the board this is; empty for the board itself."""
        return ""

    def knows(self, cell: Cell) -> bool:  # noqa: ARG002
        """Whether a cell was ever seen; each is, on the board itself."""
        return True

    def known_of(self, numbers: IntArray) -> IntArray:
        """Those of some cells, by number, that were ever seen."""
        return numbers

    @property
    def fogged(self) -> tuple[str, ...]:
        """The sides that keep knowledge: under `understep.fog`."""
        return tuple(self._memories.values)

    def knowledge(self, side: str) -> Knowledge:
        """What a side sees, remembers and does not know; `understep.fog` begins it.

        Raises
        ------
        NameUnknownError
            That side keeps no knowledge.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(9, 1), {"turf": 1})
        >>> scout = us.Unit("scout", "wardens", us.Movement(points=4), sight=2)
        >>> scout, knowledge = board.add(scout, at=(0, 0)), us.fog(board, "wardens")
        >>> scout = board.put("scout", at=(4, 0))
        >>> board.knowledge("wardens").status((1, 0)), knowledge.status((8, 0))
        ('before', 'never')
        """
        from understep.boards.knowledge import Knowledge  # at first use: it stands on boards

        return Knowledge(self.memory(side))

    def _mark(self, cells: IntArray | None = None, name: str | None = None) -> None:
        """Take note of a change, where anybody keeps knowledge."""
        if self._memories.values:
            if cells is not None:
                self._marked.cells.append(cells)
            if name is not None:
                self._marked.names.add(name)
