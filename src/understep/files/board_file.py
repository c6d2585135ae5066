"""The board file, ``*.board.json``: terrain as rows of glyphs with a legend, units by name.

JSON (RFC 8259) in UTF-8. Reading is bounded and executes nothing; every fault of a file is listed
with its place. Writing is atomic, and what was written reads back to the same bytes.
"""

from __future__ import annotations

import os
from collections.abc import Mapping
from typing import Any

from understep.boards.board import Board
from understep.checks import expect, path_of
from understep.errors import InputError
from understep.files.bounded import read_bytes
from understep.files.durable import write
from understep.files.reader import parse
from understep.files.writer import dump


def load(path: str | os.PathLike[str], *, rules: Mapping[str, Any] | None = None) -> Board:
    """Read a board file.

    Parameters
    ----------
    path
        The file, at most 64 MiB, for a board of at most 2**24 cells.
    rules
        The functions that are rules of movements, by the names they had when the board was saved.

    Returns
    -------
    Board

    Raises
    ------
    BoardFileError
        The file is not a board; ``faults`` lists every fault with its place.
    InputError
        ``rules`` is not a mapping, or ``path`` not a path.
    OSError
        The file cannot be read.

    Examples
    --------
    >>> import understep as us, tempfile, pathlib
    >>> board = us.Board(us.SquareGrid(3, 1), {"turf": 1, "mud": 2})
    >>> path = pathlib.Path(tempfile.mkdtemp()) / "small.board.json"
    >>> us.save(board, path)
    >>> us.load(path).grid.size
    (3, 1)
    """
    expect("rules", rules, (Mapping, type(None)), "must map names to functions, or be None")
    path = path_of("path", path)
    return parse(read_bytes(path), path.name, rules)


def save(board: Board, path: str | os.PathLike[str]) -> None:
    """Write a board file, atomically: after a crash the old or the new file is there.

    A link is followed. An old file keeps its mode, a new one has the mode that the umask leaves.

    Parameters
    ----------
    board
        The board.
    path
        Where to; by custom the name ends in ``.board.json``.

    Raises
    ------
    InputError
        ``board`` is not a Board, or holds a movement of another type, or one whose rule has no name
        of its own; ``path`` is a folder, a device or anything else than a regular file.
    OSError
        The file cannot be written; an old one is as it was.

    Examples
    --------
    >>> import understep as us, tempfile, pathlib
    >>> path = pathlib.Path(tempfile.mkdtemp()) / "small.board.json"
    >>> us.save(us.Board(us.SquareGrid(3, 1), {"turf": 1}), path)
    >>> path.read_text("utf-8").splitlines()[1]
    '  "understep": 4,'
    """
    if not isinstance(board, Board):
        raise InputError("board", "must be a Board", board)
    write(path_of("path", path), dump(board))
