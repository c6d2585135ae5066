"""Touching: the cells that a straight line touches, by whole numbers."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from understep.grids.cell import IntArray


def touching(
    spots: IntArray, corners: IntArray, start: IntArray, end: IntArray
) -> tuple[NDArray[np.bool_], NDArray[np.float64]]:
    """Which cells a line touches, borders and corners included, and from where to where.

    Two convex shapes are apart if and only if a line along one of their edges parts them (the
    separating axis theorem).

    Parameters
    ----------
    spots
        Centers of the cells ``(n, 2)``.
    corners
        Corners from the center, clockwise with y down ``(edges, 2)``.
    start, end
        The ends of the line: two different centers ``(2,)``.

    Returns
    -------
    tuple
        Whether each cell is touched, ``(n,)``, exactly; and between which shares of the line,
        ``(n, 2)`` float64 from 0 to 1.
    """
    x, y = end - start
    from_start = spots - start
    across = x * (from_start[:, 1:] + corners[:, 1]) - y * (from_start[:, :1] + corners[:, 0])
    touched: NDArray[np.bool_] = (across.max(axis=1) >= 0) & (across.min(axis=1) <= 0)
    edges = np.roll(corners, -1, axis=0) - corners
    normals = np.stack([edges[:, 1], -edges[:, 0]], axis=-1)  # outwards
    # how far the start lies outside of each edge, and by how much the line leads further out
    outside = -(from_start[:, None] + corners) * normals
    gap: IntArray = outside.sum(axis=-1)
    rise: IntArray = normals @ np.array([x, y])
    touched &= (np.minimum(gap, gap + rise) <= 0).all(axis=1)
    with np.errstate(divide="ignore", invalid="ignore"):
        at = -gap / rise
    enters = np.where(rise < 0, at, 0.0).max(axis=1)
    leaves = np.where(rise > 0, at, 1.0).min(axis=1)
    shares = np.stack([np.maximum(enters, 0.0), np.minimum(leaves, 1.0)], axis=-1)
    return touched, shares
