"""Boards that come with the package."""

from __future__ import annotations

from importlib.resources import files

from understep.boards.board import Board
from understep.checks import named
from understep.files.reader import parse

SHIPPED = ("fen", "sluice-house")


def shipped(name: str) -> Board:
    """Return a board that comes with the package, a new one with each call.

    Parameters
    ----------
    name
        "fen" (hexes) or "sluice-house" (squares, two floors).

    Raises
    ------
    NameUnknownError
        No such board.

    Examples
    --------
    >>> import understep as us
    >>> us.maps.shipped("fen").title
    'The Tollen Fen'
    """
    file = f"{named('name', 'shipped board', name, SHIPPED)}.board.json"
    return parse(files("understep").joinpath("data", file).read_bytes(), file)
