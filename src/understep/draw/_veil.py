"""The veil: what lies outside of a view, the line around what is seen, and fog."""

from __future__ import annotations

from typing import TYPE_CHECKING

from understep.draw import _look as look
from understep.overlay import Overlay

if TYPE_CHECKING:
    from understep.draw._canvas import Canvas


def draw_veil(canvas: Canvas, overlay: Overlay) -> None:
    """Lay a veil over all cells that a view does not hold, and fog over what is not known."""
    from matplotlib.collections import LineCollection, PolyCollection

    _draw_fog(canvas, overlay)
    seen = overlay.role("view", "eye")
    if not seen:
        return
    known = set(seen)
    hidden = [cell for cell in canvas.grid if cell not in known]
    if hidden:
        shapes = list(canvas.polygons_of(hidden))
        canvas.axes.add_collection(
            PolyCollection(
                shapes, facecolors=look.PAPER, edgecolors=look.FAINT, hatch=look.VEIL, linewidths=0,
                alpha=0.62, zorder=3.2,
            )
        )  # fmt: skip
    canvas.axes.add_collection(
        LineCollection(
            canvas.outline(list(seen)), colors=look.INK, linewidths=1.8, linestyles=look.SEEN,
            zorder=3.3,
        )
    )  # fmt: skip


def _draw_fog(canvas: Canvas, overlay: Overlay) -> None:
    """Pale where it was seen before, stippled where it never was; faint tokens where units were."""
    from matplotlib.collections import PolyCollection

    pale = overlay.role("seen before", "remembered")
    for cells, alpha, hatch in ((pale, 0.55, ""), (overlay.role("unknown"), 1.0, look.VEIL)):
        if cells:
            canvas.axes.add_collection(
                PolyCollection(
                    list(canvas.polygons_of(cells)), facecolors=look.PAPER, edgecolors=look.FAINT,
                    hatch=hatch, linewidths=0, alpha=alpha, zorder=3.2,
                )
            )  # fmt: skip
    for cell in overlay.role("remembered"):
        x, y = canvas.board.center(cell)
        canvas.axes.plot(
            x, y, "o", ms=canvas.points * 0.5, mfc=look.PAPER, mec=look.FAINT, mew=1.2, zorder=5
        )
        canvas.axes.text(
            x, y, (overlay[cell].text or "")[:2] + "?", ha="center", va="center_baseline", zorder=5,
            size=canvas.points * 0.22, color=look.FAINT,
        )  # fmt: skip
