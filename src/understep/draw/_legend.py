"""The legend of a figure: what tints, edges, tokens and lines mean."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import numpy as np

from understep.boards.board import Board
from understep.draw import _fences as fences
from understep.draw import _look as look
from understep.draw._roles import ROLES, swatch
from understep.draw._washes import band_color, bands
from understep.overlay import Overlay

if TYPE_CHECKING:
    from matplotlib.figure import Figure

HIDDEN = "not seen"  # beside a view
ROOM = 26  # rows of a legend that fit


def draw_legend(board: Board, drawn: Figure, laid: list[Overlay]) -> None:
    """What the tints, tokens and lines mean, in a column on the right."""
    from matplotlib.lines import Line2D
    from matplotlib.patches import Patch

    entries: list[tuple[str, Any]] = []
    swatches: dict[Any, Any] = {}
    for (name, kind), tint in zip(board.terrains.items(), look.tints(board), strict=True):
        cost = "impassable" if kind.cost is None else f"cost {kind.cost}"
        patch = Patch(fc=tint, ec=look.FAINT)
        swatches[patch] = _swatch(kind.pattern)
        entries.append((f"{name}, {cost}", patch))
    columns = [("Ground", entries)]
    styles = {
        (edge.kind, fences.style(board.edge_kinds[edge.kind], edge.is_open))
        for edge in board.edges()
    }
    edges: list[tuple[str, Any]] = []
    for name, how in sorted(styles):
        color, width, dashes = fences.STYLES[how]
        line = Line2D([], [], color=color, lw=width / 4, ls=dashes)
        edges.append((f"{name}, open" if how == "open door" else name, line))
    for word in sorted({link.kind for link in board.links()}):
        edges.append((word, Line2D([], [], color=look.INK, lw=1.6, ls=look.LINK)))
    for side in (None, *board.blocked_sides):
        if len(board.blocks(side=side)):
            hatch, words = look.blocked(side)
            edges.append((words, Patch(fc="none", ec=look.INK, hatch=hatch)))
    if edges:
        what = {
            "edges": styles,
            "links": board.links(),
            "blocks": any(len(board.blocks(side=side)) for side in (None, *board.blocked_sides)),
        }
        columns.append((", ".join(word for word, some in what.items() if some).capitalize(), edges))
    tokens = [
        (text, Line2D(
            [], [], ls="none", marker=look.SIDES[number][0], ms=9,
            mfc=look.SIDE_FILLS[number], mec=look.INK,
        ))
        for text, number in _tokens(board, ROOM - sum(len(rows) + 2 for _, rows in columns))
    ]  # fmt: skip
    if tokens:
        columns.append(("Units", tokens))
    lines = _lines(laid)
    if lines:
        columns.append(("Answers", lines))
    top = 0.92
    for name, rows in columns:
        box = drawn.legend(
            [handle for _, handle in rows], [text for text, _ in rows], title=name,
            loc="upper left", bbox_to_anchor=(0.79, top), frameon=False, fontsize=9.5,
            title_fontproperties={"family": "serif", "size": 12}, alignment="left",
            labelcolor=look.INK, handlelength=1.8, handleheight=1.1, handler_map=swatches,
        )  # fmt: skip
        drawn.add_artist(box)
        top -= 0.055 + 0.0285 * len(rows)


def _tokens(board: Board, room: int) -> list[tuple[str, int]]:
    """Words for every unit, or where they are too many for every side; and the side's number."""
    units, short = board.units(), look.short_names(board)
    if len(units) <= room:
        return [
            (f"{short[unit.name]}  {unit.name} ({unit.side})", look.side_number(board, unit))
            for unit in units
        ]
    sides = {unit.side: unit for unit in units}
    return [
        (f"{side}: {len(board.units(side))} units", look.side_number(board, unit))
        for side, unit in sides.items()
    ]


def _lines(laid: list[Overlay]) -> list[tuple[str, Any]]:
    """A swatch and words for each role that is drawn, those of a field from near to far."""
    from matplotlib.patches import Patch

    costs: dict[str, Any] = {}
    entries: dict[str, Any] = {}
    for overlay in laid:
        found = bands(overlay)
        for place, (low, high, _) in enumerate(found):
            patch = Patch(fc=band_color(place, len(found)), ec=look.FAINT, lw=0.4)
            costs[ROLES["field"].words.format(low, high)] = patch
        for name, number in {(mark.role, mark.number): mark for mark in overlay.values()}:
            if name == "goal" and overlay.role("start"):
                name = "route"
            handle = swatch(name, number) if name in ROLES else None
            if handle is not None:
                entries[ROLES[name].words.format(number or 1)] = handle
            if name == "view":
                entries[HIDDEN] = Patch(fc=look.PAPER, ec=look.FAINT, hatch=look.VEIL, lw=0)
    return [*costs.items(), *sorted(entries.items())]


def _swatch(pattern: str) -> Any:
    """What draws a terrain's patch in the legend, pattern included."""
    from matplotlib.legend_handler import HandlerPatch
    from matplotlib.lines import Line2D

    class Swatch(HandlerPatch):
        def create_artists(self, *asked: Any) -> list[Any]:
            made = list(super().create_artists(*asked))
            _, _, left, low, width, height, _, trans = asked
            for stroke in look.STROKES[pattern]:
                x, y = np.array(stroke).T
                middle = (
                    (width - left) / 2 + x * 1.5 * height,
                    (height - low) / 2 - y * 1.5 * height,
                )
                made.append(Line2D(*middle, color=look.INK, lw=0.6, transform=trans))
            return made

    return Swatch()
