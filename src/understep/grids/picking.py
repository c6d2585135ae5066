"""Picking on raised ground: of all tops and front faces under a point, the nearest."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from understep.grids.cell import IntArray
from understep.grids.grid import Grid
from understep.grids.lattice import FloatArray
from understep.grids.layout import points_array

STEP = 1e-7  # of a cell's height: how far beyond a border the next cell is looked for


def pick_raised(grid: Grid, levels: FloatArray, points: Any) -> tuple[IntArray, NDArray[np.bool_]]:
    """The cells seen at world points, where cells are raised by their levels.

    A cell is a pillar from the lowest level (0, or what lies below it) to its own. A point of the
    screen lies over a vertical line of ground points, each seen there at one level; from the
    nearest of them backwards, the first cell whose pillar comes up to the line is what one sees.

    Parameters
    ----------
    grid
        The grid.
    levels
        ``(rows, cols)``: the level of every cell.
    points
        World points ``(..., 2)``.

    Returns
    -------
    cells, inside
        As `Grid.cells_at`; where nothing is seen, the cell on level 0 there, and False.
    """
    array = points_array(points)
    cells, inside = grid.cells_at(array)
    x, y = array.reshape(-1, 2).T
    cells, inside = cells.reshape(-1, 2), np.zeros(len(x), dtype=bool)
    there = levels[grid.exists] * grid.frame.lift
    low, high = min(0.0, there.min()), max(0.0, there.max())
    down, outline = grid.frame.down, grid.corners((0, 0)) - grid.center((0, 0))
    left = np.arange(len(x))
    # where cells lie far away, numbers that differ by less are the same
    step = max(STEP * grid.cell_size[1], 4 * float(np.spacing(np.abs(y).max(initial=1.0))))
    rise = np.full(len(x), high)  # by how much the ground looked at is lifted to be seen at y
    while len(left):
        here, exists = grid.cells_at(np.stack([x[left], y[left] + down * rise[left]], axis=-1))
        center = grid.center(here)
        # the lift at which the line enters the cell
        entry = down * (center[:, 1] - y[left]) + _entry(outline, x[left] - center[:, 0], down)
        height = np.full(len(left), -np.inf)
        height[exists] = levels[grid.index(here[exists])] * grid.frame.lift
        seen = height >= entry
        cells[left[seen]], inside[left[seen]] = here[seen], True
        rise[left] = np.minimum(entry, rise[left]) - step
        left = left[~seen & (rise[left] >= low)]
    return cells.reshape(array.shape), inside.reshape(array.shape[:-1])


def _entry(outline: FloatArray, x: FloatArray, down: float) -> FloatArray:
    """Where upright lines at x enter a convex polygon from above, y down from its middle."""
    starts, ends = outline, np.roll(outline, -1, axis=0)
    low, high = np.minimum(starts, ends)[:, 0], np.maximum(starts, ends)[:, 0]
    close = 1e-12 * np.ptp(outline[:, 0])  # corners over each other are only as good as rounding
    upright = high - low < close
    slope = (ends - starts)[:, 1] / np.where(upright, 1.0, (ends - starts)[:, 0])
    x = np.clip(x, outline[:, 0].min(), outline[:, 0].max())[:, None]
    y = down * (starts[:, 1] + slope * (np.clip(x, low, high) - starts[:, 0]))
    over = (x >= low - close) & (x <= high + close) & ~upright
    found: FloatArray = np.where(over, y, np.inf).min(axis=1)
    return found
