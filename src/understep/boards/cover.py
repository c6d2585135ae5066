"""Cover: which cells a shape in the world covers."""

from __future__ import annotations

import warnings
from typing import Any

import numpy as np

from understep.boards.shapes import polygon, shapely
from understep.errors import ABOVE_ZERO, CoverWarning, InputError, real
from understep.grids.cell import Cells, IntArray
from understep.grids.grid import Grid
from understep.grids.world import FloatArray

BORDER = 1e-9  # of a cell: what lies no deeper in it than this merely shares its border


def cover(grid: Grid, shape: Any, rule: str | float = "touch", shrink: float = 0.0) -> Cells:
    """The cells that a shape covers, by their true polygons, on level ground.

    Parameters
    ----------
    grid
        The grid, with its frame.
    shape
        What `circle`, `box`, `polygon`, `strip` or `bitmap` made, any geometry of shapely, or the
        corners of a polygon ``(n, 2)``; in world coordinates.
    rule
        ``"touch"``: every cell that the shape reaches into; one that only shares a border with it
        is not covered. ``"center"``: those whose center lies in it or on its border. A number
        above 0, up to 1: those of which at least this share is covered.
    shrink
        With "touch": how far the shape must reach into a cell, in world units.

    Returns
    -------
    Cells
        Row by row.

    Warns
    -----
    CoverWarning
        No cell is covered, or every one.

    Raises
    ------
    InputError
        No shape, no rule, or a shrink that is no number of 0 or more.
    MissingExtraError
        shapely is not installed.

    Examples
    --------
    >>> import understep as us
    >>> grid = us.HexGrid(6, 6, frame=us.Frame(cell=(64, 56)))
    >>> pond = us.circle((180, 140), 60)
    >>> len(us.cover(grid, pond)), len(us.cover(grid, pond, rule=0.5))
    (10, 4)
    """
    shrink = real("shrink", shrink, "must be a number of 0 or more", 0)
    if not (isinstance(rule, str) and rule in ("touch", "center")):
        words = "must be 'touch', 'center' or a number above 0, up to 1"
        rule = real("rule", rule, words, ABOVE_ZERO, 1)
    area, cells = _candidates(grid, shape)
    found = shapely()
    if rule == "center":
        x, y = grid.center(cells).T
        covered = found.intersects_xy(area, x, y)
    elif rule == "touch":
        corners, centers = grid.corners(cells), grid.center(cells)[:, None]
        inner = found.polygons(centers + (corners - centers) * (1 - 2 * BORDER))
        if shrink:
            inner = found.buffer(inner, -shrink, join_style="mitre")
        covered = found.intersects(area, inner)
    else:
        covered = _shares(grid, area, cells) >= float(rule) - BORDER
    if not covered.any() or covered.sum() == len(grid):
        what = "every cell" if covered.any() else "no cell"
        warnings.warn(f"the shape covers {what} of the grid", CoverWarning, stacklevel=2)
    return Cells(cells[covered])


def cover_shares(grid: Grid, shape: Any) -> FloatArray:
    """The share of every cell that a shape covers.

    Parameters
    ----------
    grid, shape
        As in `cover`.

    Returns
    -------
    ndarray of float64, shape ``(rows, cols)``
        From 0 to 1; 0 in holes of the grid. A new array.

    Raises
    ------
    InputError
        No shape.
    MissingExtraError
        shapely is not installed.

    Examples
    --------
    >>> import understep as us
    >>> us.cover_shares(us.SquareGrid(3, 1), us.box((0.5, 0), (2, 0.5))).tolist()
    [[0.25, 0.5, 0.0]]
    """
    area, cells = _candidates(grid, shape)
    table = np.zeros((grid.rows, grid.cols))
    table[grid.index(cells)] = _shares(grid, area, cells)
    return table


def _candidates(grid: Grid, shape: Any) -> tuple[Any, IntArray]:
    """The shape as a geometry, made ready, and the cells that lie near it."""
    if not isinstance(grid, Grid):
        raise InputError("grid", "must be a SquareGrid or HexGrid", grid)
    found = shapely()
    area = shape if isinstance(shape, found.Geometry) else polygon(shape)
    if area.is_empty or not area.is_valid:
        raise InputError("shape", "must not be empty, nor cross itself", str(area)[:60])
    found.prepare(area)
    cells = grid.cells.array
    reach = np.ptp(grid.corners((0, 0)), axis=0)
    low, high = np.array(area.bounds).reshape(2, 2)
    centers = grid.center(cells)
    near = ((centers >= low - reach) & (centers <= high + reach)).all(axis=1)
    return area, cells[near]


def _shares(grid: Grid, area: Any, cells: IntArray) -> FloatArray:
    found = shapely()
    polygons = found.polygons(grid.corners(cells))
    shares: FloatArray = found.area(found.intersection(polygons, area)) / found.area(polygons)
    return np.clip(shares, 0.0, 1.0)
