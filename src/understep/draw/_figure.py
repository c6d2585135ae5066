"""Figures: a board and answers on it, drawn with Matplotlib."""

from __future__ import annotations

import os
from collections.abc import Iterable
from typing import TYPE_CHECKING, Any, cast

from understep.boards.board import Board
from understep.boards.knowledge import Knowledge
from understep.draw._canvas import Canvas, finish_figure, new_figure
from understep.draw._ground import draw_ground
from understep.draw._labels import LabelKind, label_texts
from understep.draw._legend import draw_legend
from understep.draw._scale import draw_scale
from understep.draw._strikes import draw_strikes
from understep.draw._veil import draw_veil
from understep.draw._washes import draw_washes
from understep.errors import InputError
from understep.grids.frame import Frame, Projection
from understep.grids.systems import choice
from understep.maps._resize import reframe
from understep.overlay import Overlay

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure

FRAMES = {"plan": Frame(), "isometric": Frame(projection="isometric", lift=0.3)}


def overlays(answers: Iterable[Any]) -> list[Overlay]:
    """Overlays, and what can give one, as overlays, the lowest first."""
    found = []
    for answer in answers:
        if isinstance(answer, Overlay):
            found.append(answer)
        elif hasattr(answer, "overlay"):
            found.append(answer.overlay())
        else:
            raise InputError("answers", "must be answers or overlays", answer)
    return sorted(found, key=lambda overlay: overlay.priority)


def drawn_board(board: Board, answers: Iterable[Any]) -> Board:
    """The board to draw: with a side's knowledge, as that side knows it."""
    if not isinstance(board, Board):
        raise InputError("board", "must be a Board", board)
    known = [answer.board for answer in answers if isinstance(answer, Knowledge)]
    return known[0] if known else board


def figure(
    board: Board,
    *answers: Any,
    title: str | None = None,
    labels: LabelKind | None = None,
    path: str | os.PathLike[str] | None = None,
    size: tuple[int, int] = (1280, 800),
    legend: bool = True,
    axes: Axes | None = None,
    view: Projection | None = None,
) -> Figure:
    """Draw a board, with answers laid over it.

    Parameters
    ----------
    board
        The board.
    answers
        A reach, a route, or overlays. With `Knowledge` the board is drawn as that side knows it.
    title
        The line above; by default the board's own.
    labels
        What to write into each cell: ``"offset"``, ``"axial"``, ``"cube"`` or ``"doubled"``
        coordinates, ``"exits"``, ``"neighbors"``, ``"level"``, or a function of the cell. Nothing
        is written where cells are too small for it.
    path
        Where to write it too: the ending (.png, .svg, .pdf) says how.
    size
        Width and height in pixels.
    legend
        Whether a column on the right says what tints, tokens and lines mean.
    axes
        Axes of your own to draw into, such as a subplot; then ``size`` and ``legend`` do not count.
    view
        ``"plan"`` or ``"isometric"``, with elevation; by default as the board's frame says.

    Returns
    -------
    matplotlib.figure.Figure

    Raises
    ------
    InputError
        An answer that has no overlay; a ``path`` with another ending.
    NameUnknownError
        An unknown word for ``labels`` or ``view``.
    MissingExtraError
        Matplotlib is not installed.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.HexGrid(4, 3), {"turf": 1, "mud": 3})
    >>> us.draw.figure(board, title="Four by three").axes[0].get_title(loc="left")
    'Four by three'
    """
    board, laid = drawn_board(board, answers), overlays(answers)
    if view is not None:
        board = reframe(board, FRAMES[choice(view, Projection, "view")])
    own = axes is None
    if axes is None:
        wide = 0.76 if legend else 0.96
        axes = new_figure(size).add_axes((0.02, 0.03, wide, 0.89))
    drawn = cast("Figure", axes.get_figure())
    canvas = Canvas(board, axes)
    draw_ground(canvas)
    texts = {} if labels is None else dict(label_texts(board, labels))
    for overlay in laid:
        texts |= {cell: overlay[cell].text or "" for cell in overlay.role("label", "field")}
    if texts:  # no patterns under them
        canvas.write(texts)
    else:
        canvas.patterns()
    for overlay in laid:
        draw_washes(canvas, overlay)
        draw_veil(canvas, overlay)
        draw_strikes(canvas, overlay)
    for overlay in laid:
        canvas.route(overlay)
    canvas.edges()
    canvas.over()
    canvas.units(aside=bool(texts))
    if legend and own:
        draw_scale(canvas)
    canvas.finish(board.title if title is None else title)
    if legend and own:
        draw_legend(board, drawn, laid)
    finish_figure(axes.get_figure() if own else axes, path)
    return drawn
