"""Turn: whose turn it is, kept with the board."""

from __future__ import annotations

from typing import NamedTuple


class Turn(NamedTuple):
    """Whose turn it is.

    Attributes
    ----------
    sides
        All sides, in order.
    side
        The one whose turn it is.
    round
        How many times it has gone round, from 1.
    used
        How many attacks units have made this turn, by name, those that made any.
    """

    sides: tuple[str, ...]
    side: str
    round: int = 1
    used: tuple[tuple[str, int], ...] = ()
