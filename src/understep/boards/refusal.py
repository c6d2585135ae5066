"""Refusal: the answer "no", with the reason."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from understep.grids.cell import Cell, CellLike, one_cell
from understep.grids.grid import Grid


@dataclass(frozen=True)
class Refusal:
    """The answer "no", with the reason; false in a condition.

    Attributes
    ----------
    why
        The reason, as a sentence without a full stop.
    blockers
        Names of the units in the way.
    """

    why: str
    blockers: tuple[str, ...] = ()

    def __bool__(self) -> Literal[False]:
        return False

    def __str__(self) -> str:
        return self.why


def cell_on(grid: Grid, cell: CellLike | None, argument: str = "cell") -> Cell | Refusal:
    """A cell of a grid, or that there is no such cell.

    Raises
    ------
    CellError
        ``cell`` is not a pair of whole numbers.
    """
    if cell is None:
        return Refusal("there is no cell")
    found = one_cell(cell, argument)
    if grid.numbering.has(*found):
        return found
    low, high = grid.bounds
    return Refusal(f"{tuple(found)} is off the board, which is {tuple(low)} to {tuple(high)}")
