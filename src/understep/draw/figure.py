"""Figures: a board and answers on it, drawn with Matplotlib."""

from __future__ import annotations

import os
from collections.abc import Iterable
from typing import TYPE_CHECKING, Any, cast

import numpy as np

from understep.boards.board import Board
from understep.draw import fences, look
from understep.draw.ground import draw_ground
from understep.draw.labels import Labels, label_texts
from understep.draw.legend import draw_legend
from understep.draw.strikes import draw_strikes
from understep.draw.veil import draw_veil
from understep.errors import InputError, MissingExtraError
from understep.grids.cell import Cell, Cells
from understep.grids.depth import depth_order
from understep.grids.world import FloatArray
from understep.overlay import Overlay

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure

FINEST = 5.0  # points of type: patterns in smaller cells would be a blur


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


def figure(
    board: Board,
    *answers: Any,
    title: str | None = None,
    labels: Labels | None = None,
    path: str | os.PathLike[str] | None = None,
    size: tuple[int, int] = (1280, 800),
    legend: bool = True,
    axes: Axes | None = None,
) -> Figure:
    """Draw a board, with answers laid over it.

    Parameters
    ----------
    board
        The board.
    answers
        A reach, a route, or overlays.
    title
        The line above; by default the board's own.
    labels
        What to write into each cell: ``"offset"``, ``"axial"``, ``"cube"`` or ``"doubled"``
        coordinates, ``"exits"``, ``"neighbors"``, ``"level"``, or a function of the cell.
    path
        Where to write it too: the ending (.png, .svg, .pdf) says how.
    size
        Width and height in pixels.
    legend
        Whether a column on the right says what tints, tokens and lines mean.
    axes
        Axes of your own to draw into, such as a subplot; then ``size`` and ``legend`` do not count.

    Returns
    -------
    matplotlib.figure.Figure

    Raises
    ------
    InputError
        An answer that has no overlay.
    NameUnknownError
        An unknown word for ``labels``.
    MissingExtraError
        Matplotlib is not installed.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.HexGrid(4, 3), {"turf": 1, "mud": 3})
    >>> us.figure(board, title="Four by three").axes[0].get_title(loc="left")
    'Four by three'
    """
    if not isinstance(board, Board):
        raise InputError("board", "must be a Board", board)
    laid = overlays(answers)
    own = axes is None
    if axes is None:
        wide = 0.76 if legend else 0.96
        axes = new_figure(size).add_axes((0.02, 0.03, wide, 0.89))
    drawn = cast("Figure", axes.get_figure())
    chart = Chart(board, axes)
    draw_ground(chart)
    if labels is None:
        chart.patterns()
    else:  # no patterns under the texts
        chart.labels(labels)
    for overlay in laid:
        chart.reach(overlay)
        draw_veil(chart, overlay)
        draw_strikes(chart, overlay)
    for overlay in laid:
        chart.route(overlay)
    chart.edges()
    chart.over()
    chart.units(aside=labels is not None)
    chart.finish(board.title if title is None else title)
    if legend and own:
        draw_legend(board, drawn, laid)
    if path is not None:
        drawn.savefig(path)
    return drawn


def new_figure(size: tuple[int, int]) -> Figure:
    """An empty sheet of paper, of a size in pixels."""
    try:
        from matplotlib.backends.backend_agg import FigureCanvasAgg
        from matplotlib.figure import Figure
    except ImportError:
        raise MissingExtraError("drawing a figure", "plot") from None
    drawn = Figure(figsize=(size[0] / 100, size[1] / 100), dpi=100, facecolor=look.PAPER)
    FigureCanvasAgg(drawn)
    return drawn


class Chart:
    """One board being drawn into axes."""

    def __init__(self, board: Board, axes: Axes) -> None:
        self.board, self.axes, self.grid = board, axes, board.grid
        cells = board.grid.cells.array
        self.cells = Cells(cells[depth_order(self.grid, cells)])  # from the farthest
        self.polygons = board.corners(self.cells)
        self.down = board.grid.frame.down
        #: How far a pillar reaches below its top, in world units.
        self.drop = self.grid.frame.lift * (
            board.elevation[self.grid.index(self.cells)] - min(0.0, board.elevation.min())
        )
        #: Whether each cell's middle shows, and does not hide behind raised ground.
        self.seen = (board.cells_at(board.center(self.cells))[0] == self.cells.array).all(axis=1)
        bases = self.polygons + np.stack([0 * self.drop, self.down * self.drop], -1)[:, None]
        every = np.concatenate([self.polygons, bases])
        low, high = every.min(axis=(0, 1)), every.max(axis=(0, 1))
        self.low, self.high = low, high
        self.cell = board.grid.cell_size
        box = axes.get_window_extent()
        scale = min(box.width / (high - low)[0], box.height / (high - low)[1])
        #: Points of type that a cell is wide.
        self.points = scale * min(self.cell) * 72 / axes.figure.dpi

    def polygons_of(self, cells: Iterable[Cell]) -> FloatArray:
        """The corners of cells on the screen."""
        return self.board.corners(np.array(list(cells), dtype=int).reshape(-1, 2))

    def patterns(self) -> None:
        """The small pattern of each terrain, where it shows, and cells are large enough for it."""
        from matplotlib.collections import LineCollection

        if self.points < FINEST:
            return
        codes = self.board.terrain_codes()[self.grid.index(self.cells)]
        centers = self.board.center(self.cells)
        strokes = []
        for code, kind in enumerate(self.board.terrains.values()):
            for line in look.STROKES[kind.pattern]:
                shape = np.array(line) * self.cell * (1, self.down)
                strokes += list(centers[(codes == code) & self.seen][:, None] + shape)
        self.axes.add_collection(
            LineCollection(strokes, colors=look.FAINT, linewidths=max(0.4, self.points / 45))
        )

    def labels(self, labels: Labels) -> None:
        """A text in every cell, as large as fits; in the lower half where a unit stands."""
        found = label_texts(self.board, labels)
        texts = [found[cell] for cell in self.cells]
        widest = max(len(line) for whole in texts for line in whole.split("\n"))
        lines = max(whole.count("\n") for whole in texts) + 1
        wide, high = np.array(self.cell) / min(self.cell) * self.points
        size = min(wide / max(widest, 4) * 1.1, high / lines * 0.7, self.points * 0.3)
        for place in np.flatnonzero(self.seen).tolist():
            x, y = self.board.center(self.cells[place])
            taken = self.board.unit_at(self.cells[place]) is not None
            self.axes.text(
                x, y + 0.2 * self.cell[1] * self.down * taken, texts[place], ha="center",
                va="center", size=size * (0.6 if taken and lines > 1 else 1), color=look.INK,
                clip_on=True, linespacing=1.0,
            )  # fmt: skip

    def edges(self) -> None:
        """Roads, walls and doors, a collection for each style."""
        from matplotlib.collections import LineCollection

        for name, lines in fences.strokes(self.board).items():
            color, width, dashes = fences.STYLES[name]
            wide = max(1.0, self.points * width / 100)
            if lines:
                made = LineCollection(lines, colors=color, linewidths=wide, linestyles=[dashes])
                made.set(zorder=2.5, capstyle="round" if dashes == "-" else "butt")
                self.axes.add_collection(made)

    def over(self) -> None:
        """What lies over the ground: hatching on blocked cells, and links from end to end."""
        from matplotlib.collections import PolyCollection

        for side in (None, *self.board.barred_sides):
            shapes = list(self.polygons_of(self.board.blocks(side)))
            if shapes:
                hatch, _ = look.blocked(side)
                self.axes.add_collection(
                    PolyCollection(
                        shapes, facecolors="none", edgecolors=look.INK, hatch=hatch, linewidths=0.8,
                        zorder=2.4,
                    )
                )  # fmt: skip
        for link in self.board.links():
            x, y = self.board.center([link.a, link.b]).T
            self.axes.plot(x, y, color=look.PAPER, lw=3.6, zorder=2.6)
            self.axes.plot(x, y, color=look.INK, lw=1.6, ls=look.LINK, zorder=2.7)
            ends = slice(None) if link.both else slice(1, 2)
            self.axes.plot(
                x[ends], y[ends], "s", ms=self.points * 0.16, mfc=look.PAPER, mec=look.INK,
                mew=1.4, zorder=2.8,
            )  # fmt: skip

    def outline(self, cells: list[Cell]) -> list[FloatArray]:
        """The lines around some cells, each on its level."""
        array = np.array(cells)
        if not self.grid.frame.lift:
            return list(self.grid.outline(array))
        levels = self.board.elevation[self.grid.index(array)]
        return [
            line
            for level in np.unique(levels)
            for line in self.grid.outline(array[levels == level], level)
        ]

    def reach(self, overlay: Overlay) -> None:
        """A wash over where it may end, an isochrone for each turn, dots where it may only pass."""
        from matplotlib.collections import LineCollection, PolyCollection

        turns = {
            cell: int(mark.number or 1)
            for cell, mark in overlay.items()
            if mark.role in ("reach", "start")
        }
        passing = overlay.role("pass")
        if any(mark.role == "reach" for mark in overlay.values()):
            shades = [0.2 / turn**0.8 for turn in turns.values()]
            colors = [(0.76, 0.34, 0.10, shade) for shade in shades]
            self.axes.add_collection(
                PolyCollection(
                    list(self.polygons_of(turns)), facecolors=colors, edgecolors="none", zorder=2
                )
            )
            for turn in sorted(set(turns.values()), reverse=True):
                inside = [cell for cell, when in turns.items() if when <= turn]
                self.axes.add_collection(
                    LineCollection(
                        self.outline(inside),
                        colors=look.TURNS[(turn - 1) % len(look.TURNS)],
                        linewidths=min(2.2, max(0.7, self.points / 7)), capstyle="round", zorder=3,
                    )
                )  # fmt: skip
        if passing:
            spread = np.array([(-0.2, -0.25), (0.2, -0.25), (-0.3, 0.1), (0.3, 0.1), (0, 0.32)])
            dots = self.board.center(np.array(passing))[:, None] + spread * self.cell
            self.axes.plot(
                *dots.reshape(-1, 2).T, ".", color=look.INK, ms=max(2.0, self.points / 9), zorder=3
            )

    def expanded(self, overlay: Overlay) -> None:
        """A wash over cells that a search expanded, darker the earlier."""
        from matplotlib.collections import PolyCollection

        cells = [cell for cell, mark in overlay.items() if mark.role not in ("refused", "nearest")]
        places = np.linspace(0.55, 0.2, len(cells))
        colors = [(0.28, 0.30, 0.52, shade) for shade in places]
        self.axes.add_collection(
            PolyCollection(
                list(self.polygons_of(cells)), facecolors=colors, edgecolors="none", zorder=2
            )
        )

    def route(self, overlay: Overlay) -> None:
        """A surveyor's dashed line with a tick and a number at each turn's end."""
        size = self.points
        way = overlay.role("start", "route", "turn-end", "goal")
        if overlay.role("goal") and way:
            x, y = self.board.center(np.array(way)).T
            self.axes.plot(x, y, "-", color=look.PAPER, lw=4.2, zorder=4, solid_capstyle="round")
            self.axes.plot(x, y, color=look.ROUTE, lw=2, ls=(0, (4, 1.6)), zorder=5)
            for cell in overlay.role("turn-end", "goal"):
                x, y = self.board.center(cell)
                self.axes.plot(
                    x, y, "o", ms=size * 0.42, mfc=look.PAPER, mec=look.ROUTE, mew=1.6, zorder=8
                )
                self.axes.text(
                    x, y, overlay[cell].text or "", ha="center", va="center_baseline", zorder=9,
                    size=size * 0.25, color=look.ROUTE, weight="bold",
                )  # fmt: skip
        for role, marker in look.MARKERS.items():
            for cell in overlay.role(role):
                x, y = self.board.center(cell)
                if role == "finding" and self.board.unit_at(cell) is not None:  # beside the token
                    x, y = (x, y) + np.array([0.28, -0.28 * self.down]) * self.cell
                self.axes.plot(x, y, marker, ms=size * 0.4, color=look.ROUTE, mew=2.4, zorder=8)
                if overlay[cell].number is not None and role == "finding":
                    self.axes.text(
                        x, y, str(overlay[cell].number), ha="center", va="center_baseline",
                        zorder=9, size=size * 0.22, color=look.PAPER, weight="bold",
                    )  # fmt: skip

    def units(self, aside: bool) -> None:
        """Tokens: the side's shape, two letters inside; small, in the upper half, if aside."""
        size = self.points * (0.55 if aside else 1)
        up = 0.22 * self.cell[1] * self.down * aside
        short = look.short_names(self.board)
        for unit in self.board.units():
            number = look.side_number(self.board, unit)
            fill = look.SIDE_FILLS[number]
            covered = self.board.covered(unit)
            x, y = self.board.center(covered).mean(axis=0) - (0, up)
            for line in self.outline(list(covered)) if len(covered) > 1 else ():
                inner = line + (line.mean(axis=0) - line) * 0.08
                self.axes.fill(*inner.T, fc=fill, ec=look.INK, lw=1.4, alpha=0.55, zorder=5.9)
            self.axes.plot(
                x, y, look.SIDES[number][0], ms=size * 0.5, mfc=fill, mec=look.INK, mew=1.4,
                zorder=6,
            )  # fmt: skip
            ink = look.PAPER if number == 1 else look.INK
            self.axes.text(
                x, y, short[unit.name], ha="center", va="center_baseline", zorder=7,
                size=size * 0.26, color=ink, weight="bold",
            )  # fmt: skip

    def finish(self, title: str) -> None:
        """Limits, y downwards, no frame, the title."""
        pad = 0.02 * (self.high - self.low).max()
        self.axes.set_xlim(self.low[0] - pad, self.high[0] + pad)
        self.axes.set_ylim(self.low[1] - pad, self.high[1] + pad)
        if self.down > 0:
            self.axes.invert_yaxis()
        self.axes.set_aspect("equal", anchor="NW")
        self.axes.set_axis_off()
        self.axes.set_title(title, color=look.INK, size=15, family="serif", loc="left")
