"""Canvas: one board being drawn with Matplotlib, and what starts and ends a figure."""

from __future__ import annotations

import itertools
import os
from collections.abc import Iterable, Mapping
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np

from understep.boards.board import Board
from understep.boards.unit import Unit
from understep.checks import path_of
from understep.draw import _fences as fences
from understep.draw import _look as look
from understep.draw._roles import MARKERS, ROLES
from understep.errors import InputError, MissingExtraError, printable
from understep.grids.cell import Cell, Cells
from understep.grids.depth import depth_order
from understep.grids.lattice import FloatArray
from understep.overlay import Overlay

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure
    from matplotlib.lines import Line2D
    from matplotlib.text import Text

ENDINGS = (".png", ".svg", ".pdf")
FINEST = 5.0  # points of type: patterns in smaller cells would be a blur
SMALLEST = 2.0  # and texts smaller than that


def finish_figure(drawn: Any, path: str | os.PathLike[str] | None) -> None:
    """Take texts in a figure as they are, no formulas in them, and write it where wanted."""
    from matplotlib.text import Text

    for part in drawn.findobj(Text):
        part.set_parse_math(False)
        part.set_text(printable(part.get_text()))
    if path is not None:
        drawn.savefig(picture_path(path))


def picture_path(path: Any) -> Path:
    """The path of a file that a figure can be written to, or refuse it."""
    found = path_of("path", path)
    if found.suffix not in ENDINGS:
        raise InputError("path", f"must end in {', '.join(ENDINGS)}", str(path))
    return found


def new_figure(size: tuple[int, int]) -> Figure:
    """An empty figure, of a size in pixels."""
    try:
        from matplotlib.backends.backend_agg import FigureCanvasAgg
        from matplotlib.figure import Figure
    except ImportError:
        raise MissingExtraError("drawing a figure", "plot") from None
    drawn = Figure(figsize=(size[0] / 100, size[1] / 100), dpi=100, facecolor=look.PAPER)
    FigureCanvasAgg(drawn)
    return drawn


class Canvas:
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
        shows = (board.cells_at(board.center(self.cells))[0] == self.cells.array).all(axis=1)
        #: The cells whose middles show, and do not hide behind raised ground.
        self.seen = frozenset(itertools.compress(self.cells, shows.tolist()))
        self._shows = shows
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
                strokes += list(centers[(codes == code) & self._shows][:, None] + shape)
        self.axes.add_collection(
            LineCollection(strokes, colors=look.FAINT, linewidths=max(0.4, self.points / 45))
        )

    def write(self, texts: Mapping[Cell, str]) -> None:
        """A text in each cell, as large as fits; in the lower half where a unit stands."""
        widest = max(len(line) for whole in texts.values() for line in whole.split("\n"))
        lines = max(whole.count("\n") for whole in texts.values()) + 1
        wide, high = np.array(self.cell) / min(self.cell) * self.points
        size = min(wide / max(widest, 4) * 1.1, high / lines * 0.7, self.points * 0.3)
        if size < SMALLEST:
            return
        for cell, text in texts.items():
            if cell not in self.seen:
                continue
            x, y = self.board.center(cell)
            taken = self.board.unit_at(cell) is not None
            self.axes.text(
                x, y + 0.2 * self.cell[1] * self.down * taken, text, ha="center",
                va="center", size=size * (0.6 if taken and lines > 1 else 1), color=look.INK,
                clip_on=True, linespacing=1.0, zorder=3.4,
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

        for side in (None, *self.board.blocked_sides):
            shapes = list(self.polygons_of(self.board.blocks(side=side)))
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
            for line in self.grid.outline(array[levels == level], level=level)
        ]

    def route(self, overlay: Overlay) -> None:
        """A surveyor's dashed line with a tick and a number at each turn's end."""
        size = self.points
        way = overlay.role("start", "route", "turn-end", "goal")
        if overlay.role("goal") and overlay.role("start"):
            x, y = self.board.center(np.array(way)).T
            self.axes.plot(x, y, "-", color=look.PAPER, lw=4.2, zorder=4, solid_capstyle="round")
            self.axes.plot(x, y, color=look.ROUTE, lw=2, ls=(0, (4, 1.6)), zorder=5)
        if overlay.role("goal"):
            for cell in overlay.role("turn-end", "goal"):
                self.ringed(cell, overlay[cell].text or "", look.ROUTE, zorder=8)
        for role, marker in MARKERS.items():
            ink, over = ROLES[role].ink, 4 if role == "line" else 8
            for cell in overlay.role(role):
                x, y = self.board.center(cell)
                if role == "finding" and self.board.unit_at(cell) is not None:  # beside the token
                    x, y = (x, y) + np.array([0.28, -0.28 * self.down]) * self.cell
                self.axes.plot(x, y, marker, ms=size * 0.4, color=ink, mew=2.4, zorder=over)
                if overlay[cell].number is not None and role == "finding":
                    self.axes.text(
                        x, y, str(overlay[cell].number), ha="center", va="center_baseline",
                        zorder=9, size=size * 0.22, color=look.PAPER, weight="bold",
                    )  # fmt: skip

    def ringed(self, cell: Cell, text: str, ink: str, zorder: float) -> None:
        """A text in a ring in the middle of a cell."""
        x, y = self.board.center(cell)
        self.axes.plot(
            x, y, "o", ms=self.points * 0.43, mfc=look.PAPER, mec=ink, mew=1.7, zorder=zorder
        )
        self.axes.text(
            x, y, text, ha="center", va="center_baseline", zorder=zorder + 1, color=ink,
            size=self.points * (0.25 if len(text) < 3 else 0.16), weight="bold",
        )  # fmt: skip

    def units(self, aside: bool) -> None:
        """A token for every unit; small, in the upper half of its cell, if aside."""
        up = 0.22 * self.cell[1] * self.down * aside
        for number in range(len(look.SIDES)):
            mine = [
                unit for unit in self.board.units() if look.side_number(self.board, unit) == number
            ]
            points = []
            for unit in mine:
                covered = self.board.covered(unit)
                x, y = self.board.center(covered).mean(axis=0)
                for line in self.outline(list(covered)) if len(covered) > 1 else ():
                    inner = line + (line.mean(axis=0) - line) * 0.08
                    fill = look.SIDE_FILLS[number]
                    self.axes.fill(*inner.T, fc=fill, ec=look.INK, lw=1.4, alpha=0.55, zorder=5.9)
                points.append((x, y - up))
            if mine:
                self.tokens(mine, points, 0.55 if aside else 1)

    def tokens(
        self, units: list[Unit], points: list[tuple[float, float]], size: float = 1
    ) -> tuple[Line2D, list[Text]]:
        """The shape of a side at some points with two letters inside, and these letters."""
        number, size = look.side_number(self.board, units[0]), self.points * size
        (shapes,) = self.axes.plot(
            *np.array(points).T, look.SIDES[number][0], ms=size * 0.5, mew=1.4, zorder=6,
            mfc=look.SIDE_FILLS[number], mec=look.INK,
        )  # fmt: skip
        short = look.short_names(self.board)
        letters = [
            self.axes.text(
                *point, short.get(unit.name, unit.name[:2]), ha="center", size=size * 0.26,
                va="center_baseline", zorder=7, weight="bold",
                color=look.PAPER if number == 1 else look.INK,
            )
            for unit, point in zip(units, points, strict=True)
            if size * 0.26 >= SMALLEST
        ]  # fmt: skip
        return shapes, letters

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
