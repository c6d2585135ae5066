"""Features in a figure: a small plate with the glyph of each kind, along the foot of its cell."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import numpy as np

from understep.boards.feature import Feature
from understep.draw import _look as look
from understep.grids.cell import Cell

if TYPE_CHECKING:
    from understep.draw._canvas import Canvas

SMALLEST = 2.0  # points of type: smaller glyphs are left out


def style(kind: Feature) -> dict[str, Any]:
    """How the plate of a kind looks: the rim of one that blocks is heavier."""
    return {
        "marker": "s", "ls": "none", "mfc": kind.tint or look.PAPER, "mec": look.INK,
        "mew": 1.8 if kind.blocks else 0.8,
    }  # fmt: skip


def words(name: str, kind: Feature) -> str:
    """A kind in a legend: its name and glyph, and what it does to a step."""
    parts = [f"{name} ({kind.glyph})"]
    parts += ["blocks"] if kind.blocks else []
    parts += [] if kind.cost is None else [f"cost {kind.cost}"]
    parts += [f"cost {kind.add} more"] if kind.add else []
    return ", ".join(parts)


def draw_features(canvas: Canvas) -> None:
    """A plate for every kind on every cell that shows; of several on a cell side by side."""
    board, size = canvas.board, canvas.points * 0.24
    lying: dict[Cell, list[str]] = {}
    for kind, cells in board.features():
        for cell in cells:
            kinds = lying.setdefault(cell, [])
            if cell in canvas.seen and kind not in kinds:
                kinds.append(kind)
    places: dict[str, list[Any]] = {}
    for cell, kinds in lying.items():
        x, y = board.center(cell)
        low = y + 0.27 * canvas.cell[1] * canvas.down
        for place, kind in enumerate(kinds):
            right = (place - (len(kinds) - 1) / 2) * 0.28 * min(canvas.cell)
            places.setdefault(kind, []).append((x + right, low))
    for name, points in places.items():
        plate = board.feature_kinds[name]
        plates = np.array(points).T
        canvas.axes.plot(*plates, ms=size, zorder=3, **style(plate))
        for x, y in points if size * 0.7 >= SMALLEST else ():
            canvas.axes.text(
                x, y, plate.glyph or "", ha="center", va="center_baseline", size=size * 0.7,
                color=look.INK, zorder=3.1, weight="bold" if plate.blocks else "normal",
                clip_on=True,
            )  # fmt: skip
