"""The scale of a figure: a bar that is some cells long."""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from understep.draw import _look as look
from understep.grids.grid import Grid
from understep.grids.lattice import FloatArray

if TYPE_CHECKING:
    from understep.draw._canvas import Canvas

LENGTHS = (1, 2, 5, 10, 20, 50, 100, 200, 500, 1000)


class Scale(NamedTuple):
    """A bar below a drawing: its line in the world, its words, and the gap before these."""

    bar: FloatArray
    words: str
    gap: float


def scale_of(grid: Grid, low: FloatArray, high: FloatArray) -> Scale:
    """A bar as long as some cells along a row, below what reaches from low to high."""
    small = 0.12 * float((high - low).max())
    size = min(*grid.cell_size, small)
    col, row = grid.first
    # the next column may lie half a cell up or down; the one after it does not
    one = (grid.center((col + 2, row)) - grid.center((col, row))) / 2
    far = float(np.hypot(*one))
    many = max(each for each in LENGTHS if each == 1 or far * each <= (high - low)[0] / 4)
    tick = np.array([one[1], -one[0]]) / far * size * 0.18
    bar = np.array([tick, (0, 0), one * many, one * many + tick])
    gap = max(size / 2, 0.02 * (high - low)[1])
    below = high[1] + gap - bar[:, 1].min()
    if grid.frame.down < 0:
        below = low[1] - gap - bar[:, 1].max()
    bar += (low[0] - bar[:, 0].min(), below)
    words = f"{many} cell{'s' * (many != 1)}"
    if grid.frame.projection == "plan" and round(far * many, 6) != many:
        words += f", {far * many:.6g} units"
    return Scale(bar, words, gap)


def draw_scale(canvas: Canvas) -> None:
    """Draw the bar, and how many cells it is long; the drawing grows by it."""
    bar, words, gap = scale_of(canvas.grid, canvas.low, canvas.high)
    canvas.axes.plot(*bar.T, color=look.INK, lw=1.4, solid_joinstyle="miter")
    x, y = bar[2] + (0.8 * gap, 0)
    canvas.axes.text(x, y, words, ha="left", va="center", size=9, color=look.INK)
    every = np.concatenate([bar, [canvas.low, canvas.high]])
    canvas.low, canvas.high = every.min(axis=0), every.max(axis=0)
