"""The ground of a figure: tints, and the sides of raised cells."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from understep.draw import _look as look
from understep.grids.lattice import FloatArray

if TYPE_CHECKING:
    from matplotlib.collections import Collection
    from matplotlib.path import Path

    from understep.draw._canvas import Canvas


def draw_ground(canvas: Canvas) -> None:
    """Level ground as one path for each terrain; raised ground cell by cell, the farthest first."""
    tints = np.array(look.tints(canvas.board))
    codes = canvas.board.terrain_codes()[canvas.grid.index(canvas.cells)]
    made = _pillars(canvas, tints[codes]) if canvas.drop.any() else _level(canvas, codes, tints)
    made.set(edgecolor=look.RIM, linewidth=min(0.5, canvas.points / 25))
    canvas.axes.add_collection(made)


def _level(canvas: Canvas, codes: NDArray[np.uint8], tints: NDArray[Any]) -> Collection:
    from matplotlib.collections import PathCollection

    used = np.unique(codes)
    paths = [compound(canvas.polygons[codes == code]) for code in used]
    return PathCollection(paths, facecolors=tints[used].tolist())


def compound(polygons: FloatArray | Sequence[FloatArray]) -> Path:
    """Many polygons as one path."""
    from matplotlib.path import Path

    if not isinstance(polygons, np.ndarray):  # some have lost corners
        return Path.make_compound_path(*(Path(each, closed=True) for each in map(_ring, polygons)))
    many, corners, _ = polygons.shape
    closed = np.concatenate([polygons, polygons[:, :1]], axis=1).reshape(-1, 2)
    codes = [Path.MOVETO, *[Path.LINETO] * (corners - 1), Path.CLOSEPOLY]
    return Path(closed, np.tile(codes, many))


def _ring(polygon: FloatArray) -> FloatArray:
    return np.concatenate([polygon, polygon[:1]])


def _pillars(canvas: Canvas, tints: NDArray[Any]) -> Collection:
    from matplotlib.collections import PolyCollection

    shapes, colors = [], []
    for polygon, drop, tint in zip(canvas.polygons, canvas.drop, tints, strict=True):
        for start, end in zip(polygon, np.roll(polygon, -1, axis=0), strict=True):
            if drop > 0 and end[0] < start[0]:  # clockwise: the edge faces the viewer
                below = np.array([0, canvas.down * drop])
                shapes.append(np.array([start, end, end + below, start + below]))
                colors.append(look.FACE)
        shapes.append(polygon)
        colors.append(tint)
    return PolyCollection(shapes, facecolors=colors)
