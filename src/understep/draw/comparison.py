"""Comparisons drawn: what ways of searching expand, side by side, and one of them as it goes."""

from __future__ import annotations

import os
from typing import TYPE_CHECKING

from understep.boards.board import Board
from understep.draw.figure import Chart, new_figure
from understep.draw.ground import draw_ground
from understep.errors import InputError, MissingExtraError
from understep.moves.trace import Trial
from understep.overlay import Mark, Overlay

if TYPE_CHECKING:
    from matplotlib.figure import Figure

MOST_FRAMES = 32
FRAME_TIME = 120  # milliseconds


def comparison(
    board: Board,
    *trials: Trial,
    path: str | os.PathLike[str] | None = None,
    size: tuple[int, int] = (1280, 800),
) -> Figure:
    """Draw what `compare` found: the cells that each way of searching expanded, and its route.

    Parameters
    ----------
    board
        The board.
    trials
        What `compare` gave, up to four.
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
        No trials, or more than four.
    MissingExtraError
        Matplotlib is not installed.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.HexGrid(6, 4), {"turf": 1})
    >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=4)), at=(0, 0))
    >>> len(us.comparison(board, *us.compare(board, "scout", (5, 3))).axes)
    4
    """
    if not 1 <= len(trials) <= 4:
        raise InputError("trials", "must be one to four", len(trials))
    drawn = new_figure(size)
    rows = 1 if len(trials) < 3 else 2
    cols = 1 if len(trials) == 1 else 2
    for place, trial in enumerate(trials):
        row, col = divmod(place, cols)
        left, low = 0.02 + 0.49 * col, 0.03 + (0.49 * (1 - row) if rows == 2 else 0)
        axes = drawn.add_axes((left, low, 0.96 / cols - 0.01, 0.96 / rows - 0.07))
        cost = "no way" if trial.cost is None else f"cost {float(trial.cost):g}"
        steps = f", {len(trial.route) - 1} steps" if trial.route else ""
        _draw(Chart(board, axes), trial.overlay(), f"{trial.method}: {cost}{steps}, "
              f"{trial.expanded} cells expanded")  # fmt: skip
    if path is not None:
        drawn.savefig(path)
    return drawn


def _draw(chart: Chart, overlay: Overlay, title: str) -> None:
    draw_ground(chart)
    chart.patterns()
    chart.expanded(overlay)
    chart.route(overlay)
    chart.edges()
    chart.over()
    chart.units(aside=False)
    chart.finish(title)


def animate(
    board: Board,
    trial: Trial,
    path: str | os.PathLike[str],
    size: tuple[int, int] = (960, 600),
) -> int:
    """Write a moving picture (GIF) of a search: the cells it expands in order, then its route.

    Parameters
    ----------
    board
        The board.
    trial
        One of what `compare` gave.
    path
        Where to; the name ends in .gif.
    size
        Width and height in pixels.

    Returns
    -------
    int
        How many frames it has; at most 33, each with the cells of several steps if need be.

    Raises
    ------
    InputError
        A path of another kind.
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
    >>> us.animate(board, us.compare(board, "scout", (2, 0))[0], path, size=(200, 100))
    4
    """
    if not str(path).endswith(".gif"):
        raise InputError("path", "must end in .gif", str(path))
    try:
        from PIL import Image
    except ImportError:
        raise MissingExtraError("an animated picture", "plot") from None
    closed = list(trial.closed)
    stride = -(-len(closed) // MOST_FRAMES)
    stages = [*range(stride, len(closed), stride), len(closed)]
    whole = trial.overlay()
    frames = []
    for stage in [*stages, None]:
        marks = {cell: Mark("expanded", place) for place, cell in enumerate(closed[:stage])}
        drawn = new_figure(size)
        chart = Chart(board, drawn.add_axes((0.02, 0.03, 0.96, 0.87)))
        told = f"{trial.method}: {len(closed) if stage is None else stage} cells expanded"
        _draw(chart, whole if stage is None else Overlay(marks), told)
        drawn.canvas.draw()
        frame = Image.frombuffer("RGBA", size, drawn.canvas.buffer_rgba())  # type: ignore[attr-defined]
        frames.append(frame.convert("RGB").quantize(64))
    times = [FRAME_TIME] * len(stages) + [20 * FRAME_TIME]
    frames[0].save(path, save_all=True, append_images=frames[1:], duration=times, loop=0)
    return len(frames)
