"""Animations: a search as it goes, or a unit on its way, as a moving picture."""

from __future__ import annotations

import os
from collections.abc import Iterator
from typing import TYPE_CHECKING, Any, Protocol, runtime_checkable

from understep.boards.board import Board
from understep.checks import path_of
from understep.draw._canvas import Canvas, new_figure
from understep.draw._figure import figure
from understep.draw._poses import poses
from understep.draw._side_by_side import title_of
from understep.errors import InputError, MissingExtraError
from understep.grids.cell import Cells
from understep.moves.answer import mine
from understep.moves.route import Route
from understep.overlay import Mark, Overlay

if TYPE_CHECKING:
    from matplotlib.figure import Figure
    from PIL.Image import Image

MOST_FRAMES = 32
FRAME_TIME = 120  # milliseconds
LAST = 20  # times as long as any other
PARTS = 4  # frames a step


@runtime_checkable
class Searched(Protocol):
    """A search that is over, such as `compare` returns."""

    @property
    def method(self) -> str:
        """The way of searching."""

    @property
    def closed(self) -> Cells:
        """The cells that it expanded, in order."""

    def overlay(self) -> Overlay:
        """What it found."""


def animate(
    board: Board,
    what: Searched | Route,
    path: str | os.PathLike[str],
    *,
    size: tuple[int, int] = (960, 600),
) -> int:
    """Write a moving picture (GIF) of a search, or of a unit on its route.

    Parameters
    ----------
    board
        The board.
    what
        One of what `compare` gave: the cells it expands in order, then its route. Or a route that
        was found: the unit goes along it.
    path
        Where to; the name ends in .gif.
    size
        Width and height in pixels.

    Returns
    -------
    int
        How many frames it has: at most 33 of a search, each with the cells of several steps if need
        be; four for each step of a route, and one.

    Raises
    ------
    InputError
        A path of another kind; what is neither, or a route that was not found.
    MissingExtraError
        Matplotlib or Pillow is not installed.
    OSError
        The file cannot be written.

    Examples
    --------
    >>> import understep as us, tempfile, pathlib
    >>> board = us.Board(us.HexGrid(3, 1), {"turf": 1})
    >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=4)), at=(0, 0))
    >>> path = pathlib.Path(tempfile.mkdtemp()) / "search.gif"
    >>> us.draw.animate(board, us.study.compare(board, "scout", (2, 0))[0], path, size=(200, 100))
    4
    >>> us.draw.animate(board, us.route(board, "scout", (2, 0)), path, size=(200, 100))
    9
    """
    path, board = path_of("path", path, (".gif",)), mine(board)
    if not isinstance(what, Searched) and not (isinstance(what, Route) and what):
        raise InputError("what", "must be a trial, or a route that was found", what)
    try:
        import PIL.Image  # noqa: F401
    except ImportError:
        raise MissingExtraError("an animated picture", "plot") from None
    made = _search(board, what, size) if isinstance(what, Searched) else _walk(board, what, size)
    frames = list(made)
    # the end is shown for longer, before it starts again
    times = [FRAME_TIME] * (len(frames) - 1) + [LAST * FRAME_TIME]
    frames[0].save(path, save_all=True, append_images=frames[1:], duration=times, loop=0)
    return len(frames)


def _sheet(board: Board, overlay: Overlay, title: str, size: tuple[int, int]) -> Figure:
    drawn = new_figure(size)
    return figure(board, overlay, title=title, axes=drawn.add_axes((0.02, 0.03, 0.96, 0.87)))


def _frame(drawn: Figure) -> Image:
    """A figure as it is on its canvas, in few colours."""
    from PIL import Image

    size = drawn.canvas.get_width_height()
    pixels: Any = drawn.canvas
    return Image.frombuffer("RGBA", size, pixels.buffer_rgba()).convert("RGB").quantize(64)


def _search(board: Board, trial: Searched, size: tuple[int, int]) -> Iterator[Image]:
    """The cells that a search expands in order, then its route."""
    closed = list(trial.closed)
    stride = -(-len(closed) // MOST_FRAMES)
    for stage in (*range(stride, len(closed), stride), len(closed)):
        marks = {cell: Mark("expanded", place) for place, cell in enumerate(closed[:stage])}
        line = f"{trial.method}: {stage} cells expanded"
        drawn = _sheet(board, Overlay(marks), line, size)
        drawn.canvas.draw()
        yield _frame(drawn)
    drawn = _sheet(board, trial.overlay(), title_of(trial), size)
    drawn.canvas.draw()
    yield _frame(drawn)


def _walk(board: Board, route: Route, size: tuple[int, int]) -> Iterator[Image]:
    """A unit on its route; all else is drawn once, and its token on top of it."""
    unit = route.unit
    others = board.copy()
    if any(each.name == unit.name for each in others.units()):
        others.remove(unit.name)
    drawn = _sheet(others, route.overlay(), title_of(route), size)
    axes, canvas = drawn.axes[0], drawn.canvas
    token, letters = Canvas(board, axes).tokens([unit], [(0.0, 0.0)])
    for each in (token, *letters):
        each.set_animated(True)
    canvas.draw()
    ground: Any = canvas
    kept = ground.copy_from_bbox(drawn.bbox)
    moving = poses(route, pace=1.0)
    for part in range(PARTS * len(route.steps) + 1):
        ground.restore_region(kept)
        point = moving.at(part / PARTS).point
        token.set_data(*([each] for each in point))
        for name in letters:
            name.set_position(point)
        for each in (token, *letters):
            axes.draw_artist(each)
        yield _frame(drawn)
