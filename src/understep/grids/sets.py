"""Sets of cells with a shape: rings, disks, lines, cones, and patterns turned and mirrored."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from understep.checks import real, whole
from understep.grids.cell import Cell, Cells, CellsLike, IntArray, cells_array
from understep.grids.numbering import Numbering

SIDES = 6  # to which a place between cells can be moved
KEPT = 48  # disks up to this radius are kept, once made


def disk(numbering: Numbering, cell: Cell, low: int, high: int) -> IntArray:
    """Cells from ``low`` to ``high`` steps away, nearest first, some of them off the grid."""
    lattice, middle = numbering.lattice, numbering.lattice.to_plane(*cell)
    high = whole("radius", high, 0)
    if high <= KEPT:
        near, steps = lattice.nearby(high)
        near = near[np.searchsorted(steps, low) :]
    else:
        near = lattice.plane(numbering.cells_of(numbering.existing)) - middle
        near = lattice.spiral(near, low, high)
    return lattice.addresses(near + middle)


def line(numbering: Numbering, a: Cell, b: Cell) -> Cells:
    """The cells along the straight line between two cells, both included."""
    lattice = numbering.lattice
    start, end = lattice.to_plane(*a), lattice.to_plane(*b)
    # always drawn from the lesser end, so that both ways agree
    ends = np.array(sorted([start, end]))
    steps = int(lattice.steps(*(ends[1] - ends[0])))
    along, parts = np.arange(steps + 1)[:, None], max(steps, 1)
    # so many times the exact places, in whole numbers
    places = (ends[1] - ends[0]) * along
    found = Cells()
    for side in range(SIDES):
        cells = lattice.addresses(ends[0] + lattice.nearest(places, parts, side))
        found = max(found, numbering.within(cells), key=len)
        if len(found) == steps + 1:
            break
    return found if start <= end else found[::-1]


def rectangle(numbering: Numbering, a: Cell, b: Cell) -> Cells:
    """All cells with columns and rows from one cell's to another's, row by row."""
    ends = np.array([a, b])
    low = np.maximum(ends.min(axis=0), numbering.first)
    high = np.minimum(ends.max(axis=0), numbering.last)
    cols, rows = np.meshgrid(*(np.arange(low[axis], high[axis] + 1) for axis in (0, 1)))
    return numbering.within(np.stack([cols.ravel(), rows.ravel()], axis=-1))


def cone(numbering: Numbering, apex: Cell, way: int, radius: Any, angle: float | None) -> Cells:
    """The cells up to ``radius`` steps away around a direction, nearest first."""
    lattice = numbering.lattice
    if angle is not None:
        angle = real("angle", angle, "must be degrees from 0 to 360", 0, 360)
    radius = whole("radius", radius, 0)
    cells = disk(numbering, apex, 1, radius) if radius else np.empty((0, 2), dtype=np.int64)
    middle = lattice.to_plane(*apex)
    vectors = lattice.ahead(lattice.plane(cells) - middle, way, angle)
    return numbering.within(lattice.addresses(vectors + middle))


def moved(numbering: Numbering, cells: CellsLike, a: Cell, b: Cell, image: IntArray) -> Cells:
    """A pattern of cells moved from ``a`` to ``b``, turned or mirrored there by a 2 x 2 matrix."""
    lattice = numbering.lattice
    array = cells_array(numbering.listed(cells), "cells").reshape(-1, 2)
    pattern = lattice.plane(array) - lattice.to_plane(*a)
    return numbering.within(lattice.addresses(pattern @ image.T + lattice.to_plane(*b)))


def exits(numbering: Numbering, numbers: IntArray) -> NDArray[np.uint8]:
    """By number, the directions in which another of some cells lies next to each of them."""
    counts = np.zeros(numbering.cols * numbering.rows, dtype=bool)
    counts[numbers] = True
    around = numbering.lattice.around(numbering.cells_of(numbers))
    inside = numbering.holds(around)
    joined = inside & counts[np.where(inside, numbering.numbers(around), 0)]
    found = np.zeros(len(counts), dtype=np.uint8)
    found[numbers] = np.packbits(joined, axis=1, bitorder="little")[:, 0]
    return found
