"""Washes: tints laid over many cells: a reach by turns, a field by cost, areas, a search."""

from __future__ import annotations

from collections.abc import Iterable
from typing import TYPE_CHECKING, Any

import numpy as np

from understep.draw import _look as look
from understep.draw._ground import compound
from understep.draw._roles import ROLES, reach_color, role_of, tint
from understep.grids.cell import Cell
from understep.overlay import Overlay

if TYPE_CHECKING:
    from understep.draw._canvas import Canvas

BANDS = 6  # of a field, from near to far
NEAR, FAR = (0.965, 0.937, 0.875), (0.16, 0.24, 0.36)  # from paper to a dark blue


def draw_washes(canvas: Canvas, overlay: Overlay) -> None:
    """Lay on all washes that an overlay asks for."""
    _draw_reach(canvas, overlay)
    _draw_field(canvas, overlay)
    _draw_areas(canvas, overlay)
    _draw_search(canvas, overlay)
    _draw_others(canvas, overlay)


def bands(overlay: Overlay) -> list[tuple[float, float, list[Cell]]]:
    """The cells of a field in bands of cost: from, to, cells; the nearest first."""
    costs = {cell: overlay[cell].number or 0 for cell in overlay.role("field")}
    if not costs:
        return []
    cells, every = list(costs), np.array(list(costs.values()))
    edges = np.linspace(0, float(every.max()) or 1.0, BANDS + 1)
    places = np.minimum(np.searchsorted(edges, every, side="right") - 1, BANDS - 1)
    found = []
    for band in range(BANDS):
        inside = np.flatnonzero(places == band)
        if len(inside):
            few = every[inside]
            found.append((float(few.min()), float(few.max()), [cells[i] for i in inside.tolist()]))
    return found


def band_color(place: int, many: int) -> tuple[float, float, float, float]:
    """The tint of a band of a field: darker the farther."""
    share = 0.62 * place / max(1, many - 1)
    red, green, blue = (near + (far - near) * share for near, far in zip(NEAR, FAR, strict=True))
    return (red, green, blue, 1.0)


def _draw_reach(canvas: Canvas, overlay: Overlay) -> None:
    """A wash over where it may end, an isochrone for each turn, dots where it may only pass."""
    turns = {
        cell: int(mark.number or 1)
        for cell, mark in overlay.items()
        if mark.role in ("reach", "start")
    }
    if any(mark.role == "reach" for mark in overlay.values()):
        for turn in sorted(set(turns.values()), reverse=True):
            this = [cell for cell, when in turns.items() if when == turn]
            _wash(canvas, [this], [reach_color(turn)], zorder=2)
            inside = [cell for cell, when in turns.items() if when <= turn]
            place = (turn - 1) % len(look.TURNS)
            _bound(canvas, inside, look.TURNS[place], dashes=look.DASHES[place])
    passing = overlay.role("pass")
    if passing:
        spread = np.array([(-0.2, -0.25), (0.2, -0.25), (-0.3, 0.1), (0.3, 0.1), (0, 0.32)])
        dots = canvas.board.center(np.array(passing))[:, None] + spread * canvas.cell
        size = max(2.0, canvas.points / 9)
        canvas.axes.plot(*dots.reshape(-1, 2).T, ".", color=look.INK, ms=size, zorder=3)


def _draw_field(canvas: Canvas, overlay: Overlay) -> None:
    """Bands of cost, darker the farther, each bounded."""
    found = bands(overlay)
    colors = [band_color(place, len(found)) for place in range(len(found))]
    groups = [cells for *_, cells in found]
    _wash(canvas, groups, colors, zorder=2)
    inside: list[Cell] = []
    for *_, cells in found[:-1]:
        inside += cells
        _bound(canvas, inside, look.INK, 0.4)


def _draw_areas(canvas: Canvas, overlay: Overlay) -> None:
    """A tint, a border and a number for each area."""
    groups: dict[int, list[Cell]] = {}
    for cell in overlay.role("area"):
        groups.setdefault(int(overlay[cell].number or 0), []).append(cell)
    for number, cells in groups.items():
        ink = look.AREAS[number % len(look.AREAS)]
        _wash(canvas, [cells], [ink + look.THIN], zorder=2)
        _bound(canvas, cells, ink)
        middles = canvas.board.center(np.array(cells))
        free = [place for place, cell in enumerate(cells) if canvas.board.unit_at(cell) is None]
        gaps = ((middles - middles.mean(axis=0)) ** 2).sum(axis=1)
        place = min(free or range(len(cells)), key=lambda each: float(gaps[each]))
        canvas.ringed(cells[place], str(number), ink, zorder=4)


def _draw_search(canvas: Canvas, overlay: Overlay) -> None:
    """A wash over cells that a search expanded, darker the earlier."""
    if not overlay.role("expanded"):
        return
    cells = [cell for cell, mark in overlay.items() if mark.role not in ("refused", "nearest")]
    shades = np.linspace(0.55, 0.2, len(cells))
    colors = [(0.28, 0.30, 0.52, shade) for shade in shades]
    _wash(canvas, [[cell] for cell in cells], colors, zorder=2)


def _draw_others(canvas: Canvas, overlay: Overlay) -> None:
    """A plain tint for each role of a game's own, and for where a movement could stand."""
    for role in dict.fromkeys(mark.role for mark in overlay.values()):
        if role in ROLES and role not in ("free", "closed"):
            continue
        cells = overlay.role(role)
        _wash(canvas, [cells], [tint(role_of(role))], zorder=2)
        if role not in ROLES:
            _bound(canvas, cells, look.OTHER, 0.6)


def _wash(canvas: Canvas, groups: Iterable[list[Cell]], colors: list[Any], zorder: float) -> None:
    """A tint over each of some groups of cells."""
    from matplotlib.collections import PathCollection

    paths = [compound(canvas.polygons_of(cells)) for cells in groups if cells]
    if paths:
        made = PathCollection(paths, facecolors=colors, edgecolors="none", zorder=zorder)
        canvas.axes.add_collection(made)


def _bound(
    canvas: Canvas, cells: list[Cell], color: str, share: float = 1.0, dashes: Any = "-"
) -> None:
    """A line around some cells."""
    from matplotlib.collections import LineCollection

    wide = min(2.2, max(0.7, canvas.points / 7)) * share
    lines = LineCollection(canvas.outline(cells), colors=color, linewidths=wide, zorder=3)
    lines.set(linestyles=[dashes], capstyle="round" if dashes == "-" else "butt")
    canvas.axes.add_collection(lines)
