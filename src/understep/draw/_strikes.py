"""Strikes: cells that can be attacked, targets, stands and threats."""

from __future__ import annotations

from typing import TYPE_CHECKING

from understep.draw import _look as look
from understep.overlay import Overlay

if TYPE_CHECKING:
    from understep.draw._canvas import Canvas


def draw_strikes(canvas: Canvas, overlay: Overlay) -> None:
    """Cross-hatch what can be attacked, ring the targets, number stands and threats."""
    from matplotlib.collections import PolyCollection

    crossed = overlay.role("attack", "threat")
    if crossed:
        canvas.axes.add_collection(
            PolyCollection(
                list(canvas.polygons_of(crossed)), facecolors="none", edgecolors=look.STRIKE,
                linewidths=0, hatch=look.CROSSED, zorder=3.1,
            )
        )  # fmt: skip
    for cell in overlay.role("threat"):
        if (overlay[cell].number or 1) > 1 and canvas.board.unit_at(cell) is None:
            x, y = canvas.board.center(cell)
            canvas.axes.text(
                x, y, str(overlay[cell].number), ha="center", va="center_baseline", zorder=3.2,
                size=canvas.points * 0.24, color=look.INK, weight="bold",
                bbox={"boxstyle": "circle,pad=0.15", "fc": look.PAPER, "ec": "none"},
            )  # fmt: skip
    targets = {overlay[cell].text or cell: cell for cell in overlay.role("target")}
    for name, cell in targets.items():
        unit = next((each for each in canvas.board.units() if each.name == name), None)
        x, y = canvas.board.center(cell if unit is None else canvas.board.covered(unit)).reshape(
            -1, 2
        ).mean(axis=0)  # fmt: skip
        canvas.axes.plot(
            x, y, "o", ms=canvas.points * 0.72, mfc="none", mec=look.STRIKE, mew=2.4, zorder=7.5
        )
    for cell in overlay.role("stand"):
        canvas.ringed(cell, overlay[cell].text or "", look.STRIKE, zorder=8)
