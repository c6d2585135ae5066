"""The veil: what lies outside of a view, pale and hatched, and the line around what is seen."""

from __future__ import annotations

from typing import TYPE_CHECKING

from understep.draw import look
from understep.overlay import Overlay

if TYPE_CHECKING:
    from understep.draw.figure import Chart


def draw_veil(chart: Chart, overlay: Overlay) -> None:
    """Lay a veil over all cells that a view does not hold; nothing where there is no view."""
    from matplotlib.collections import LineCollection, PolyCollection

    seen = overlay.role("view", "eye")
    if not seen:
        return
    known = set(seen)
    hidden = [cell for cell in chart.grid if cell not in known]
    if hidden:
        shapes = list(chart.polygons_of(hidden))
        chart.axes.add_collection(
            PolyCollection(
                shapes, facecolors=look.PAPER, edgecolors=look.FAINT, hatch=look.VEIL, linewidths=0,
                alpha=0.62, zorder=3.2,
            )
        )  # fmt: skip
    chart.axes.add_collection(
        LineCollection(
            chart.outline(list(seen)), colors=look.INK, linewidths=1.8, linestyles=look.SEEN,
            zorder=3.3,
        )
    )  # fmt: skip
