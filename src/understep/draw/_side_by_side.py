"""Comparisons drawn: several answers on a board side by side."""

from __future__ import annotations

import os
from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

from understep.boards.board import Board
from understep.checks import items
from understep.draw import _look as look
from understep.draw._canvas import finish_figure, new_figure
from understep.draw._figure import figure
from understep.draw._legend import answers as legend_rows
from understep.draw._stack import stack
from understep.errors import InputError

if TYPE_CHECKING:
    from matplotlib.figure import Figure


def side_by_side(
    board: Board,
    *answers: Any,
    titles: Sequence[str] | None = None,
    path: str | os.PathLike[str] | None = None,
    size: tuple[int, int] = (1280, 800),
) -> Figure:
    """Draw answers beside each other, such as the trials of `compare` or the reaches of two units.

    Parameters
    ----------
    board
        The board.
    answers
        One to four answers or overlays, a picture for each.
    titles
        The line above each; by default what the answer is.
    path
        Where to write it too: the ending (.png, .svg, .pdf) says how.
    size
        Width and height in pixels.

    Returns
    -------
    matplotlib.figure.Figure

    Raises
    ------
    InputError
        No answers or more than four; titles that are more or fewer; an answer that has no overlay.
    MissingExtraError
        Matplotlib is not installed.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.HexGrid(6, 4), {"turf": 1})
    >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=4)), at=(0, 0))
    >>> len(us.draw.side_by_side(board, *us.study.compare(board, "scout", (5, 3))).axes)
    4
    >>> drawn = us.draw.side_by_side(board, us.reach(board, "scout"), us.view(board, "scout"))
    >>> [axes.get_title(loc="left") for axes in drawn.axes]
    ["Reach of 'scout': 16 cells", 'View of 24 cells']
    """
    if not 1 <= len(answers) <= 4:
        raise InputError("answers", "must be one to four", len(answers))
    given = map(title_of, answers) if titles is None else titles
    words = items("titles", given, "must be texts", str)
    if len(words) != len(answers):
        raise InputError("titles", f"must be as many as the answers ({len(answers)})", titles)
    drawn = new_figure(size)
    # two beside each other, as boards are mostly wider than high
    rows = 1 if len(answers) < 3 else 2
    cols = 1 if len(answers) == 1 else 2
    rows_of_it = list({
        text: (text, handle) for each in answers for text, handle in legend_rows(stack([each]))
    }.values())  # fmt: skip
    below = 0.03 + 0.035 * -(-len(rows_of_it) // 6)
    for place, (answer, title) in enumerate(zip(answers, words, strict=True)):
        row, col = divmod(place, cols)
        high = (1 - below) / rows
        left, low = 0.02 + 0.49 * col, below + high * (rows - 1 - row)
        axes = drawn.add_axes((left, low, 0.96 / cols - 0.01, high - 0.06))
        figure(board, answer, title=title, axes=axes)
    if rows_of_it:
        drawn.legend(
            [handle for _, handle in rows_of_it], [text for text, _ in rows_of_it], frameon=False,
            loc="lower center", ncols=min(len(rows_of_it), 6), fontsize=9, labelcolor=look.INK,
        )  # fmt: skip
    finish_figure(drawn, path)
    return drawn


def title_of(answer: Any) -> str:
    """What an answer is, in a line."""
    return repr(answer).strip("<>")
