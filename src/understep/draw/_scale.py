"""The scale of a figure: a bar that is some cells long."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from understep.draw import _look as look

if TYPE_CHECKING:
    from understep.draw._canvas import Canvas

LENGTHS = (1, 2, 5, 10, 20, 50, 100, 200, 500, 1000)


def draw_scale(canvas: Canvas) -> None:
    """A bar below the board, as long as some cells along a row, and how many these are."""
    grid = canvas.grid
    small = 0.12 * float((canvas.high - canvas.low).max())
    size = min(*canvas.cell, small)
    col, row = grid.first
    # the next column may lie half a cell up or down; the one after it does not
    one = (grid.center((col + 2, row)) - grid.center((col, row))) / 2
    room = (canvas.high - canvas.low)[0] / 4
    many = max(each for each in LENGTHS if each == 1 or np.hypot(*one) * each <= room)
    tick = np.array([one[1], -one[0]]) / np.hypot(*one) * size * 0.18
    bar = np.array([tick, (0, 0), one * many, one * many + tick])
    gap = max(size / 2, 0.02 * (canvas.high - canvas.low)[1])
    if canvas.down > 0:
        below = canvas.high[1] + gap - bar[:, 1].min()
    else:
        below = canvas.low[1] - gap - bar[:, 1].max()
    bar += (canvas.low[0] - bar[:, 0].min(), below)
    canvas.axes.plot(*bar.T, color=look.INK, lw=1.4, solid_joinstyle="miter")
    words, far = f"{many} cell{'s' * (many != 1)}", float(np.hypot(*one)) * many
    if grid.frame.projection == "plan" and round(far, 6) != many:
        words += f", {far:.6g} units"
    x, y = bar[2] + (0.8 * gap, 0)
    canvas.axes.text(x, y, words, ha="left", va="center", size=9, color=look.INK)
    every = np.concatenate([bar, [canvas.low, canvas.high]])
    canvas.low, canvas.high = every.min(axis=0), every.max(axis=0)
