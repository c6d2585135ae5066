"""The legend of a figure: what tints, edges, tokens and lines mean, and where it finds room."""

from __future__ import annotations

from collections.abc import Mapping
from textwrap import fill
from typing import TYPE_CHECKING, Any, NamedTuple

import numpy as np

from understep.boards.board import Board
from understep.draw import _features as features
from understep.draw import _fences as fences
from understep.draw import _look as look
from understep.draw._roles import ROLES, swatch
from understep.draw._stack import Layer
from understep.draw._washes import band_color, bands
from understep.errors import printable

if TYPE_CHECKING:
    from matplotlib.figure import Figure

HIDDEN = "not seen"  # beside a view
ROOM = 26  # rows of units, in a picture of 800 pixels
WIDEST = 36  # letters of a line of a finding
MOST_ROWS = 10  # findings, areas
SIZES = (9.5, 8.5, 7.5, 6.5, 5.5, 4.5)  # points of type, the first that fits
PAD = 14  # pixels
BAR = 20  # pixels of height that the words of a scale take
NARROWEST = 0.6  # of its width a picture keeps at least so much: room for the title
LOWEST = 0.4  # of its height a picture keeps at least so much
Row = tuple[str, Any]


class Section(NamedTuple):
    """One part of a legend."""

    name: str
    rows: list[Row]


def sections(
    board: Board, laid: list[Layer], sides: Mapping[str, str], room: int = ROOM
) -> list[Section]:
    """The sections of the legend of a board and of what is laid over it."""
    from matplotlib.lines import Line2D

    tokens = [
        (text, Line2D(
            [], [], ls="none", marker=look.SIDES[number][0], ms=9,
            mfc=look.fill(board, number, sides), mec=look.INK,
        ))
        for text, number in _tokens(board, room)
    ]  # fmt: skip
    lying = {kind for kind, _ in board.features()}
    plates = [
        (features.words(name, kind), Line2D([], [], ms=9, **features.style(kind)))
        for name, kind in board.feature_kinds.items()
        if name in lying
    ]
    every = [
        Section("Terrain", _terrains(board)), Section("Features", plates), _edges(board),
        Section("Units", tokens), Section("Answers", answers(laid)),
        Section("Findings", _findings(laid)),
    ]  # fmt: skip
    return [section for section in every if section.rows]


class _Layout(NamedTuple):
    """One way to lay out a legend, in pixels."""

    size: float
    across: bool  # below the board, not beside it
    places: list[tuple[float, float]]  # of the parts, from the upper left corner of all
    used: tuple[float, float]
    scale: float  # pixels a unit of the board


def draw_legend(
    drawn: Figure, parts: list[Section], extent: tuple[float, float], crop: bool
) -> tuple[float, float, float, float]:
    """Put a legend where it leaves the board the most room; the place that is left for axes.

    On the right or below; in smaller type if need be. ``extent`` is how wide and high the board is;
    ``crop``: the figure may be made smaller, if much of it would be empty.
    """
    wide, high = (float(each) for each in drawn.canvas.get_width_height())
    layout = _layout(drawn, parts, extent, wide, high)
    if layout is None:  # a picture too small for any legend
        return 0.02, 0.03, 0.96, 0.97 - title_room(high) / high
    _, across, places, used, scale = layout
    if crop:
        board = extent[1] * scale + BAR
        needs = board + PAD + used[1] if across else max(board, used[1])
        high = min(high, max(LOWEST * high, title_room(high) + needs + 2 * PAD))
        beside = used[0] if not across else max(0, used[0] - extent[0] * scale)
        wide = min(wide, max(NARROWEST * wide, extent[0] * scale + beside + 4 * PAD))
        drawn.set_size_inches(wide / drawn.dpi, high / drawn.dpi)
    top = high - title_room(high)
    left = min(wide - used[0] - PAD, extent[0] * scale + 4 * PAD)
    corner = (PAD, PAD + used[1]) if across else (left, top)
    for part, (x, y) in zip(parts, places, strict=True):
        _box(drawn, part, layout.size, ((corner[0] + x) / wide, (corner[1] - y) / high))
    low = PAD + (used[1] + PAD if across else 0)
    free = wide - 2 * PAD - (0 if across else used[0] + PAD)
    return PAD / wide, low / high, free / wide, (top - low) / high


def _layout(
    drawn: Figure, parts: list[Section], extent: tuple[float, float], wide: float, high: float
) -> _Layout | None:
    """The layout that leaves the board the most room, unless its type were much smaller."""
    choices: list[_Layout] = []
    inner = wide - 2 * PAD, high - title_room(high) - PAD
    most = min(inner[0] / extent[0], (inner[1] - BAR) / extent[1])
    for size in SIZES:
        if any(choice.scale >= most for choice in choices):  # a legend that takes nothing away
            break
        boxes = [_box(drawn, part, size) for part in parts]
        spans = [(box.width, box.height) for box in map(_measure, boxes)]
        for box in boxes:
            box.remove()
        for across in (False, True):
            room = (inner[0], 0.45 * high) if across else (0.45 * wide, inner[1])
            places, used = _shelves(spans, room, across)
            # type of this size does not fit there
            if used[0] > room[0] or used[1] > room[1]:
                continue
            free = inner[0] - (0 if across else used[0] + PAD)
            below = inner[1] - BAR - (used[1] + PAD if across else 0)
            scale = min(free / extent[0], below / extent[1])
            if scale > 0:
                choices.append(_Layout(size, across, places, used, scale))
    return max(choices, key=lambda each: each.scale * each.size**0.4, default=None)


def title_room(high: float) -> float:
    """The pixels that a title takes in a picture so high."""
    return 20 + 0.05 * high


def _shelves(
    spans: list[tuple[float, float]], room: tuple[float, float], across: bool
) -> tuple[list[tuple[float, float]], tuple[float, float]]:
    """Boxes in columns from top to bottom, or in rows: their places, and the room they take."""
    along, beside = (0, 1) if across else (1, 0)
    places, at, start, thick = [], 0.0, 0.0, 0.0
    used = [0.0, 0.0]
    for span in spans:
        # the first of a shelf stays, however long it is
        if at and at + span[along] > room[along]:
            start, at, thick = start + thick + PAD, 0.0, 0.0
        place = [0.0, 0.0]
        place[along], place[beside] = at, start
        places.append((place[0], place[1]))
        at += span[along] + PAD
        thick = max(thick, span[beside])
        used[along] = max(used[along], at - PAD)
        used[beside] = start + thick
    return places, (used[0], used[1])


def _box(drawn: Figure, part: Section, size: float, at: tuple[float, float] = (0, 1)) -> Any:
    """A part of a legend, its upper left corner at a place in the figure."""
    from matplotlib.patches import Patch

    patches = {handle: _swatch(handle) for _, handle in part.rows if isinstance(handle, Patch)}
    box = drawn.legend(
        [handle for _, handle in part.rows], [printable(text) for text, _ in part.rows],
        title=part.name,
        loc="upper left", bbox_to_anchor=at, frameon=False, fontsize=size, borderaxespad=0,
        title_fontproperties={"family": "serif", "size": size * 1.26}, alignment="left",
        labelcolor=look.INK, handlelength=1.8, handleheight=1.1, handler_map=patches,
    )  # fmt: skip
    for text in box.get_texts():  # before it is measured
        text.set_parse_math(False)
    for line in box.get_lines():
        line.set_markersize(line.get_markersize() * size / SIZES[0])
    return box


def _measure(box: Any) -> Any:
    return box.get_window_extent(box.figure.canvas.get_renderer())


# the sections


def _terrains(board: Board) -> list[Row]:
    from matplotlib.patches import Patch

    found: list[Row] = []
    for (name, kind), tint in zip(board.terrains.items(), look.tints(board), strict=True):
        cost = "impassable" if kind.cost is None else f"cost {kind.cost}"
        patch = Patch(fc=tint, ec=look.FAINT)
        patch.set_gid(look.pattern(kind))
        found.append((f"{name}, {cost}", patch))
    return found


def _edges(board: Board) -> Section:
    """Edges, links and blocks."""
    from matplotlib.lines import Line2D
    from matplotlib.patches import Patch

    styles = {
        (edge.kind, fences.style(board.edge_kinds[edge.kind], edge.is_open))
        for edge in board.edges()
    }
    rows: list[Row] = []
    for name, how in sorted(styles):
        color, width, dashes = fences.STYLES[how]
        line = Line2D([], [], color=color, lw=width / 4, ls=dashes)
        rows.append((f"{name}, open" if how == "open door" else name, line))
    for word in sorted({link.kind for link in board.links()}):
        rows.append((word, Line2D([], [], color=look.INK, lw=1.6, ls=look.LINK)))
    blocked = [side for side in (None, *board.blocked_sides) if len(board.blocks(side=side))]
    for side in blocked:
        hatch, words = look.blocked(side)
        rows.append((words, Patch(fc="none", ec=look.INK, hatch=hatch)))
    what = {"edges": styles, "links": board.links(), "blocks": blocked}
    return Section(", ".join(word for word, some in what.items() if some).capitalize(), rows)


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


def answers(laid: list[Layer]) -> list[Row]:
    """A swatch and words for each role that is drawn, those of a field from near to far."""
    from matplotlib.lines import Line2D
    from matplotlib.patches import Patch

    costs: dict[str, Any] = {}
    entries: dict[str, Any] = {}
    routes = [layer for layer in laid if layer.route is not None]
    for overlay, name, route in laid:
        found = bands(overlay)
        for place, (low, high, _) in enumerate(found):
            patch = Patch(fc=band_color(place, len(found)), ec=look.FAINT, lw=0.4)
            words = ROLES["field"].words if high > low else "cost {:g}"
            costs[words.format(low, high)] = patch
        for role, number in {(mark.role, mark.number): mark for mark in overlay.values()}:
            if role == "area":
                place = int(number or 0)
                if place < MOST_ROWS:
                    ink = look.AREAS[place % len(look.AREAS)]
                    entries[f"area {place:2}"] = Patch(fc=ink + look.THIN, ec=ink)
                continue
            if role == "field" or (role == "finding" and number is not None):
                continue
            # the end of a route has the look of the route
            if role == "goal" and route is not None:
                role = "route"
            handle = swatch(role, number)
            words = ROLES[role].words.format(number or 1) if role in ROLES else role
            if role == "route" and route is not None:
                place = route % len(look.ROUTES)
                ink, dashes = look.ROUTES[place], look.ROUTE_DASHES[place]
                handle = Line2D([], [], color=ink, lw=2, ls=dashes)
                if len(routes) > 1:
                    alike = [layer.route for layer in routes if layer.name == name]
                    which = f"route {alike.index(route) + 1}" if len(alike) > 1 else "route"
                    words = f"{which} of {name}, turns numbered"
            if handle is not None:
                entries[words] = handle
            if role == "view":
                entries[HIDDEN] = Patch(fc=look.PAPER, ec=look.FAINT, hatch=look.VEIL, lw=0)
    return [*costs.items(), *sorted(entries.items())]


def _findings(laid: list[Layer]) -> list[Row]:
    """What each numbered finding is."""
    from matplotlib.lines import Line2D

    found: dict[int, str] = {}
    for layer in laid:
        for cell in layer.overlay.role("finding"):
            mark = layer.overlay[cell]
            if mark.number is not None:
                found.setdefault(int(mark.number), mark.text or "")
    rows: list[Row] = [
        (fill(f"{number}  {text}", WIDEST), Line2D([], [], **_point("finding")))
        for number, text in sorted(found.items())[:MOST_ROWS]
    ]
    if len(found) > MOST_ROWS:
        rows.append((f"and {len(found) - MOST_ROWS} more", Line2D([], [], ls="none")))
    return rows


def _point(role: str) -> dict[str, Any]:
    return {"ls": "none", "marker": ROLES[role].marker, "color": ROLES[role].ink, "ms": 7}


def _swatch(patch: Any) -> Any:
    """What draws a patch in the legend, the pattern of a terrain included."""
    from matplotlib.legend_handler import HandlerPatch
    from matplotlib.lines import Line2D

    class Swatch(HandlerPatch):
        def create_artists(self, *asked: Any) -> list[Any]:
            made = list(super().create_artists(*asked))
            _, _, left, low, width, height, _, trans = asked
            for stroke in look.STROKES[patch.get_gid() or "plain"]:
                x, y = np.array(stroke).T
                middle = (
                    (width - left) / 2 + x * 1.5 * height,
                    (height - low) / 2 - y * 1.5 * height,
                )
                made.append(Line2D(*middle, color=look.INK, lw=0.6, transform=trans))
            return made

    return Swatch()
