"""Canvas: one board being drawn with Matplotlib, and what starts and ends a figure."""

from __future__ import annotations

import itertools
import os
from collections import Counter
from collections.abc import Container, Iterable, Mapping, Sequence
from typing import TYPE_CHECKING, Any

import numpy as np

from understep.boards.board import Board
from understep.boards.unit import Unit
from understep.checks import items, path_of, whole
from understep.draw import _fences as fences
from understep.draw import _look as look
from understep.draw._behind import Behind
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

FINEST = 5.0  # points of type: patterns in smaller cells would be a blur
HIDDEN = 0.35  # how opaque what stands behind raised ground is
MANY = len(look.ROUTES)
NARROW, BROAD = 50, 20_000  # pixels of a figure's side
FEW = 12  # cells of a finding that bear a marker each
LEAST = 6.5  # points of type in a ring
SMALLEST = 4.5  # and texts smaller than that


def finish_figure(drawn: Any, path: str | os.PathLike[str] | None) -> None:
    """Take texts in a figure as they are, no formulas in them, and write it where wanted."""
    from matplotlib.text import Text

    for part in drawn.findobj(Text):
        # names may hold dollar signs
        part.set_parse_math(False)
        part.set_text(printable(part.get_text()))
    if path is not None:
        # Matplotlib would write other formats, which nobody looks at here
        drawn.savefig(path_of("path", path, look.PICTURES))


def new_figure(size: tuple[int, int]) -> Figure:
    """An empty figure, of a size in pixels."""
    try:
        from matplotlib.backends.backend_agg import FigureCanvasAgg
        from matplotlib.figure import Figure
    except ImportError:
        raise MissingExtraError("drawing a figure", "plot") from None
    rule = f"must be a width and a height in pixels, from {NARROW} to {BROAD}"
    pixels = items("size", size, rule)
    if len(pixels) != 2:
        raise InputError("size", rule, size)
    wide, high = (whole("size", each, NARROW, BROAD) / 100 for each in pixels)
    drawn = Figure(figsize=(wide, high), dpi=100, facecolor=look.PAPER)
    # no window, and nothing that lives on in pyplot
    FigureCanvasAgg(drawn)
    return drawn


def extent(board: Board) -> tuple[FloatArray, FloatArray]:
    """The lowest and highest x and y of a drawing of a board, elevation and its sides included."""
    tops = board.corners(board.grid.cells)
    levels = board.elevation[board.grid.index(board.grid.cells)]
    # raised ground has sides down to the lowest level
    fall = board.grid.frame.lift * (levels - min(0.0, board.elevation.min()))
    down = np.stack([0 * fall, board.grid.frame.down * fall], -1)[:, None]
    return _span(tops, tops + down)


def _span(tops: FloatArray, feet: FloatArray) -> tuple[FloatArray, FloatArray]:
    every = np.concatenate([tops, feet])
    return every.min(axis=(0, 1)), every.max(axis=(0, 1))


class Canvas:
    """One board being drawn into axes."""

    def __init__(self, board: Board, axes: Axes, sides: Mapping[str, str] | None = None) -> None:
        """``sides``: colours that were chosen for the tokens of some."""
        self.board, self.axes, self.grid, self._sides = board, axes, board.grid, sides
        cells = board.grid.cells.array
        self.cells = Cells(cells[depth_order(self.grid, cells)])  # from the farthest
        self.polygons = board.corners(self.cells)
        self.down = board.grid.frame.down
        #: How far a pillar reaches below its top, in world units.
        self.drop = self.grid.frame.lift * (
            board.elevation[self.grid.index(self.cells)] - min(0.0, board.elevation.min())
        )
        #: The cells whose middles show, and do not hide behind raised ground.
        self.seen: Container[Cell] = self.grid
        #: What raised ground hides; None: all ground is level.
        self.behind = None
        if self.drop.any():
            # picked at its middle, a cell that shows is found itself
            shows = (board.cells_at(board.center(self.cells))[0] == self.cells.array).all(axis=1)
            self.seen = frozenset(itertools.compress(self.cells, shows.tolist()))
            self.behind = Behind(self.cells, self.polygons, self.drop, self.down)
            self._whole = shows & self.behind.whole
        bases = self.polygons + np.stack([0 * self.drop, self.down * self.drop], -1)[:, None]
        low, high = _span(self.polygons, bases)
        self.low, self.high = low, high
        self.cell = board.grid.cell_size
        box = axes.get_window_extent()
        scale = min(box.width / (high - low)[0], box.height / (high - low)[1])
        #: Points of type that a cell is wide.
        self.points = scale * min(self.cell) * 72 / axes.figure.dpi

    def polygons_of(self, cells: Iterable[Cell]) -> FloatArray | list[FloatArray]:
        """What shows of cells, as polygons on the screen."""
        if self.behind is None:
            return self.board.corners(np.array(list(cells), dtype=int).reshape(-1, 2))
        return [piece for cell in cells for piece in self.behind.pieces(cell)]

    def split(self, line: FloatArray, cell: Cell) -> tuple[list[FloatArray], list[FloatArray]]:
        """A line on the top of a cell: the parts of it that show, and those that are hidden."""
        return ([line], []) if self.behind is None else self.behind.split(line, cell)

    def along(self, cells: Sequence[Cell]) -> tuple[list[FloatArray], list[FloatArray]]:
        """The line through the middles of cells: what shows of it, and what is hidden."""
        points = self.board.center(np.array(cells))
        near = [self.grid.direction(*pair) is not None for pair in itertools.pairwise(cells)]
        if self.behind is None:
            return [part for part in np.split(points, self._gaps(near)) if len(part) > 1], []
        shown: list[FloatArray] = []
        hidden: list[FloatArray] = []
        for place, (start, end) in enumerate(itertools.pairwise(points)):
            # a link or leap is drawn apart, see `bows`
            if not near[place]:
                continue
            # either half lies on a cell of its own, each on its level
            middle = (start + end) / 2
            for half, cell in (((start, middle), cells[place]), ((middle, end), cells[place + 1])):
                parts = self.split(np.array(half), cell)
                shown += parts[0]
                hidden += parts[1]
        return shown, hidden

    def _gaps(self, near: Sequence[bool]) -> list[int]:
        """Where a line is broken: the places of cells that no step leads to."""
        return [place for place, steps in enumerate(near, 1) if not steps]

    def bows(self, cells: Sequence[Cell]) -> list[FloatArray]:
        """The links and leaps on a way, bent aside: they do not go over what lies between."""
        found, share = [], np.linspace(0, 1, 17)[:, None]
        for a, b in itertools.pairwise(cells):
            if self.grid.direction(a, b) is None and a != b:
                start, end = self.board.center([a, b])
                aside = np.array([start[1] - end[1], end[0] - start[0]]) * 0.18
                found.append(start + (end - start) * share + 4 * aside * share * (1 - share))
        return found

    def dim(self, cell: Cell) -> float:
        """How opaque to draw what stands on a cell: faint where that is hidden."""
        return 1.0 if cell in self.seen else HIDDEN

    def patterns(self, written: Container[Cell]) -> None:
        """The small pattern of each terrain, where it shows and nothing is written."""
        from matplotlib.collections import LineCollection

        # in so small a cell it would be noise
        if self.points < FINEST:
            return
        codes = self.board.terrain_codes()[self.grid.index(self.cells)]
        centers = self.board.center(self.cells)
        whole = np.array([cell not in written for cell in self.cells])
        whole &= True if self.behind is None else self._whole
        strokes = []
        for code, kind in enumerate(self.board.terrains.values()):
            for line in look.STROKES[look.pattern(kind)]:
                shape = np.array(line) * self.cell * (1, self.down)
                strokes += list(centers[(codes == code) & whole][:, None] + shape)
        self.axes.add_collection(
            LineCollection(strokes, colors=look.FAINT, linewidths=max(0.4, self.points / 45))
        )

    def write(self, texts: Mapping[Cell, str]) -> None:
        """A text in each cell, as large as fits; in the lower half where a unit stands."""
        widest = max(len(line) for whole in texts.values() for line in whole.split("\n"))
        lines = max(whole.count("\n") for whole in texts.values()) + 1
        wide, high = np.array(self.cell) / min(self.cell) * self.points
        # one size for all, so that a table of numbers reads as one
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
        for name, found in fences.strokes(self.board).items():
            color, width, dashes = fences.STYLES[name]
            wide = max(1.0, self.points * width / 100)
            lines = [part for line, cell in found for part in self.split(line, cell)[0]]
            self.strokes(lines, color, wide, dashes, 2.5)

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
            # paper below it, so that it shows on dark ground, too
            self.axes.plot(x, y, color=look.PAPER, lw=3.6, zorder=2.6)
            self.axes.plot(x, y, color=look.INK, lw=1.6, ls=look.LINK, zorder=2.7)
            ends = slice(None) if link.both else slice(1, 2)
            self.axes.plot(
                x[ends], y[ends], "s", ms=self.points * 0.16, mfc=look.PAPER, mec=look.INK,
                mew=1.4, zorder=2.8,
            )  # fmt: skip

    def outline(self, cells: list[Cell]) -> list[FloatArray]:
        """The lines around some cells, each on its level."""
        if self.behind is None:
            return list(self.grid.outline(np.array(cells)))
        inside, found = set(cells), []
        for cell in cells:
            # mirrored, corners run the other way round than directions
            corners = self.board.corners(cell)[:: -1 if self.grid.lattice.mirrored else 1]
            sides = zip(corners, np.roll(corners, -1, axis=0), strict=True)
            for way, side in zip(self.grid.lattice.edge_ways, sides, strict=True):
                if self.grid.step(cell, way) not in inside:
                    found += self.split(np.array(side), cell)[0]
        return found

    def route(self, overlay: Overlay, which: int) -> None:
        """A surveyor's dashed line with a tick and a number at each turn's end.

        ``which``: which of several it is, from 0.
        """
        ink, dashes = look.ROUTES[which % MANY], look.ROUTE_DASHES[which % MANY]
        way = overlay.role("start", "route", "turn-end", "goal")
        if len(way) > 1 and (overlay.role("route") or overlay.role("goal")):
            shown, hidden = self.along(way)
            # a light edge lifts it off the ground
            self.strokes(shown, look.PAPER, 4.2, "-", 4)
            self.strokes(shown, ink, 2, dashes, 5)
            self.strokes(hidden, ink, 1.2, look.DOTTED, 5)
            self.strokes(self.bows(way), ink, 1.6, look.LINK, 5)
        # after the lines, so that numbers are not crossed out
        for cell in overlay.role("turn-end", "goal"):
            self.ringed(cell, overlay[cell].text or "", ink, zorder=8)
        for role in MARKERS:
            cells = overlay.role(role)
            many = Counter(overlay[cell].number for cell in cells)
            for number in many if role == "finding" else ():
                if many[number] > FEW:  # a line around them, and one marker
                    mine = [cell for cell in cells if overlay[cell].number == number]
                    self.strokes(self.outline(mine), ROLES[role].ink, 1.6, look.DASHES[2], 4)
                    # somewhere in the middle of them
                    kept = mine[len(mine) // 2]
                    cells = [cell for cell in cells if cell == kept or cell not in set(mine)]
            for cell in cells:
                self.marked(cell, role, overlay[cell].number)

    def arrows(self, overlay: Overlay) -> None:
        """An arrow in each cell that says a direction, a dot in one that says none."""
        for role in ("back", "onward"):
            ink, cells = ROLES[role].ink, [each for each in overlay.role(role) if each in self.seen]
            ways = [(cell, overlay[cell].text or "") for cell in cells]
            pairs = [(cell, self.grid.step(cell, way)) for cell, way in ways if way]
            if pairs and self.points >= FINEST:
                here, there = np.array(pairs).transpose(1, 0, 2)
                along = 0.28 * (self.grid.center(there) - self.grid.center(here))
                middle, aside = self.board.center(here), np.stack([-along[:, 1], along[:, 0]], 1)
                tip, neck = middle + along, middle + 0.3 * along
                lines = [middle - along, tip, neck + 0.4 * aside, tip, neck - 0.4 * aside]
                wide = max(0.6, self.points / 28)
                self.strokes(list(np.stack(lines, axis=1)), ink, wide, "-", 3.6)
            jumps = [cell for cell, way in ways if not way]
            if jumps:
                x, y = self.board.center(jumps).T
                self.axes.plot(x, y, "o", ms=self.points * 0.14, color=ink, zorder=3.6)

    def marked(self, cell: Cell, role: str, number: float | None) -> None:
        """The marker of a role on a cell, beside a unit that stands there; with its number."""
        ink, over = ROLES[role].ink, 4 if role == "line" else 8
        x, y = self.board.center(cell)
        if role == "finding" and self.board.unit_at(cell) is not None:
            x, y = (x, y) + np.array([0.28, -0.28 * self.down]) * self.cell
        size = max(self.points * 0.4, 2 * LEAST if role == "finding" else 0)
        self.axes.plot(
            x, y, MARKERS[role], ms=size, color=ink, mew=2.4, zorder=over, alpha=self.dim(cell)
        )
        if number is not None and role == "finding":
            self.axes.text(
                x, y, str(number), ha="center", va="center_baseline", zorder=9,
                size=max(self.points * 0.22, LEAST), color=look.PAPER, weight="bold",
            )  # fmt: skip

    def strokes(
        self, lines: Sequence[FloatArray], color: str, wide: float, dashes: Any, zorder: float
    ) -> None:
        """Lines of one look."""
        from matplotlib.collections import LineCollection

        if lines:
            made = LineCollection(lines, colors=color, linewidths=wide, linestyles=[dashes])
            made.set(zorder=zorder, capstyle="round" if dashes == "-" else "butt")
            self.axes.add_collection(made)

    def ringed(self, cell: Cell, text: str, ink: str, zorder: float) -> None:
        """A text in a ring in the middle of a cell; beside a unit that stands there."""
        x, y = self.board.center(cell)
        if self.board.unit_at(cell) is not None:
            x, y = (x, y) + np.array([0.3, -0.3 * self.down]) * self.cell
        least = 1.0 if len(text) < 3 else 0.8
        self.axes.plot(
            x, y, "o", ms=max(self.points * 0.43, 2 * LEAST * least), mfc=look.PAPER, mec=ink,
            mew=1.7, zorder=zorder, alpha=self.dim(cell),
        )  # fmt: skip
        self.axes.text(
            x, y, text, ha="center", va="center_baseline", zorder=zorder + 1, color=ink,
            size=max(self.points * (0.25 if len(text) < 3 else 0.16), LEAST * least),
            weight="bold",
        )  # fmt: skip

    def units(self, aside: bool) -> None:
        """A token for every unit; small, in the upper half of its cell, if aside."""
        up = 0.22 * self.cell[1] * self.down * aside
        groups: dict[tuple[int, bool], list[Unit]] = {}
        for unit in self.board.units():
            seen = any(cell in self.seen for cell in self.board.covered(unit))
            groups.setdefault((look.side_number(self.board, unit), seen), []).append(unit)
        for (number, seen), mine in groups.items():
            points = []
            for unit in mine:
                covered = self.board.covered(unit)
                x, y = self.board.center(covered).mean(axis=0)
                # a token alone would not show how large it is
                for line in self.outline(list(covered)) if len(covered) > 1 else ():
                    inner = line + (line.mean(axis=0) - line) * 0.08
                    fill = look.fill(self.board, number, self._sides)
                    self.axes.fill(*inner.T, fc=fill, ec=look.INK, lw=1.4, alpha=0.55, zorder=5.9)
                points.append((x, y - up))
            shapes, letters = self.tokens(mine, points, 0.55 if aside else 1)
            for part in () if seen else (shapes, *letters):
                part.set_alpha(HIDDEN)

    def tokens(
        self, units: list[Unit], points: list[tuple[float, float]], size: float = 1
    ) -> tuple[Line2D, list[Text]]:
        """The shape of a side at some points with two letters inside, and these letters."""
        from matplotlib.colors import to_rgb

        number, size = look.side_number(self.board, units[0]), self.points * size
        fill = look.fill(self.board, number, self._sides)
        # letters have to stand out from a colour that the game chose
        dark = sum(to_rgb(fill)) / 3 < look.DARK
        (shapes,) = self.axes.plot(
            *np.array(points).T, look.SIDES[number][0], ms=size * 0.5, mew=1.4, zorder=6,
            mfc=fill, mec=look.INK,
        )  # fmt: skip
        short = look.short_names(self.board)
        letters = [
            self.axes.text(
                *point, short.get(unit.name, unit.name[:2]), ha="center", size=size * 0.26,
                va="center_baseline", zorder=7, weight="bold",
                color=look.PAPER if dark else look.INK,
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
        # below and to the right is where legends go
        self.axes.set_aspect("equal", anchor="NW")
        self.axes.set_axis_off()
        # the title grows with the figure, up to the size of a headline
        size = min(15.0, 6 + self.axes.figure.bbox.height / 80)
        self.axes.set_title(title, color=look.INK, size=size, family="serif", loc="left")
