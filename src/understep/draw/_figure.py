"""Figures: a board and answers on it, drawn with Matplotlib."""

from __future__ import annotations

import os
from collections.abc import Iterable, Mapping
from typing import TYPE_CHECKING, Any, cast

import numpy as np

from understep.boards.board import Board
from understep.boards.knowledge import Knowledge
from understep.checks import truth
from understep.draw import _look as look
from understep.draw._canvas import Canvas, extent, finish_figure, new_figure
from understep.draw._features import draw_features
from understep.draw._ground import draw_ground
from understep.draw._labels import LabelKind, label_texts
from understep.draw._legend import ROOM, draw_legend, sections, title_room
from understep.draw._scale import draw_scale, scale_of
from understep.draw._stack import Layer, stack
from understep.draw._strikes import draw_strikes
from understep.draw._veil import draw_veil
from understep.draw._washes import draw_washes
from understep.errors import InputError
from understep.grids.frame import Frame, Projection
from understep.grids.systems import choice
from understep.maps._resize import reframe

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure

LARGEST = 1280, 800
FRAMES = {"plan": Frame(), "isometric": Frame(projection="isometric", lift=0.3)}


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
    size: tuple[int, int] | None = None,
    legend: bool = True,
    axes: Axes | None = None,
    view: Projection | None = None,
    sides: Mapping[str, str] | None = None,
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
        Width and height in pixels; by default 1280 by 800, or less where a board is wide or narrow.
    legend
        Whether it says what tints, tokens and lines mean: on the right or below, wherever that
        leaves the board more room.
    axes
        Axes of your own to draw into, such as a subplot; then ``size`` and ``legend`` do not count.
    view
        ``"plan"`` or ``"isometric"``, with elevation; by default as the board's frame says.
    sides
        A colour for the tokens of some sides, such as ``"#6b8a3c"``; the others keep theirs.

    Returns
    -------
    matplotlib.figure.Figure

    Raises
    ------
    InputError
        An answer that has no overlay; a ``path`` with another ending; a ``size``, ``axes`` or
        colours that are not such.
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
    board, layers, colors = drawn_board(board, answers), stack(answers), look.chosen(sides)
    if view is not None:
        board = reframe(board, FRAMES[choice(view, Projection, "view")])
    own = axes is None
    if axes is None:
        axes = _sheet(board, layers, size, legend, colors)
    elif not hasattr(axes, "get_figure"):
        raise InputError("axes", "must be axes of Matplotlib, or None", axes)
    drawn = cast("Figure", axes.get_figure())
    canvas = Canvas(board, axes, colors)
    laid = [layer.overlay for layer in layers]
    draw_ground(canvas)
    texts = {} if labels is None else dict(label_texts(board, labels))
    for overlay in laid:
        texts |= {cell: overlay[cell].text or "" for cell in overlay.role("label", "field")}
    canvas.patterns(texts)
    if texts:
        canvas.write(texts)
    for overlay in laid:
        draw_washes(canvas, overlay)
        draw_veil(canvas, overlay)
        draw_strikes(canvas, overlay)
        canvas.arrows(overlay)
    for layer in layers:
        canvas.route(layer.overlay, layer.route or 0)
    canvas.edges()
    canvas.over()
    draw_features(canvas)
    canvas.units(aside=bool(texts))
    if legend and own:
        draw_scale(canvas)
    canvas.finish(board.title if title is None else title)
    finish_figure(axes.get_figure() if own else axes, path)
    return drawn


def _sheet(
    board: Board, layers: list[Layer], given: tuple[int, int] | None, legend: bool,
    sides: Mapping[str, str],
) -> Axes:  # fmt: skip
    """Axes in a new figure, beside or above a legend."""
    legend = truth("legend", legend)
    size = LARGEST if given is None else given
    drawn = new_figure(size)
    high = title_room(size[1]) / size[1]
    place = (0.02, 0.03, 0.96, 0.97 - high)
    if legend:
        low, top = extent(board)
        every = np.concatenate([[low, top], scale_of(board.grid, low, top).bar])
        wide, tall = np.ptp(every, axis=0).tolist()
        parts = sections(board, layers, sides, ROOM * size[1] // LARGEST[1])
        place = draw_legend(drawn, parts, (wide, tall), given is None)
    return drawn.add_axes(place)
