"""An answer as plain data: for each cell a role, a number and a text. The game draws it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any, NamedTuple

from understep.grids.cell import Cell


class Mark(NamedTuple):
    """What an overlay says of one cell.

    Attributes
    ----------
    role
        What the cell is in the answer: "reach", "pass", "route", "goal", ...
    number
        A figure that goes with the role, such as the turn; None where there is none.
    text
        A label, where there is one.
    """

    role: str
    number: int | float | None = None
    text: str | None = None


class Overlay(Mapping[Cell, Mark]):
    """An answer as a mapping of cells to marks, in the order of the answer.

    Parameters
    ----------
    marks
        Cell to `Mark`.
    priority
        Overlays of higher priority lie above others.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.SquareGrid(3, 1), {"turf": 1})
    >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=1)), at=(0, 0))
    >>> us.reach(board, "scout").overlay()[us.Cell(1, 0)]
    Mark(role='reach', number=1, text=None)
    """

    def __init__(self, marks: Mapping[Cell, Mark], priority: int = 1) -> None:
        self._marks = dict(marks)
        self.priority = priority

    def __getitem__(self, cell: Cell) -> Mark:
        return self._marks[cell]

    def __iter__(self) -> Iterator[Cell]:
        return iter(self._marks)

    def __len__(self) -> int:
        return len(self._marks)

    def role(self, *roles: str) -> list[Cell]:
        """The cells that have one of some roles, in order."""
        return [cell for cell, mark in self._marks.items() if mark.role in roles]

    def plain(self) -> list[dict[str, Any]]:
        """The overlay as plain lists and dictionaries, for JSON."""
        return [
            {"cell": list(cell), "role": mark.role, "number": mark.number, "text": mark.text}
            for cell, mark in self._marks.items()
        ]
