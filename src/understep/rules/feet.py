"""Feet: a footprint as the kernels take it, by the lines of a grid."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from understep.boards.footprint import Footprint
from understep.grids.cell import Cell
from understep.grids.grid import Grid

Int32 = NDArray[np.int32]


def feet(grid: Grid, offsets: Footprint) -> tuple[Int32, Int32, Int32]:
    """The steps from an anchor to each cell it covers, in even and in shifted lines, three times.

    As pairs (col, row); which of the cells are joined, as pairs (cell, direction); and the steps
    as differences of numbers.
    """
    first = [Cell(0, 0)] * 2
    if grid.lattice.stagger:
        shifted = [Cell(0, 0), Cell(1, 0) if grid.lattice.stagger == 2 else Cell(0, 1)]
        first = shifted[::-1] if grid.lattice.lines(np.array([(0, 0)]))[0] else shifted
    lines = np.array([np.array(grid.lattice.covered(offsets, cell)) - cell for cell in first])
    inner = [
        (number, way)
        for number, (x, y) in enumerate(offsets)
        for way, (across, down) in enumerate(grid.lattice.vectors.tolist())
        if (x + across, y + down) in offsets
    ]
    shifts = (lines[..., 1] * grid.cols + lines[..., 0]).astype(np.int32).ravel()
    return lines.astype(np.int32).ravel(), np.array(inner, dtype=np.int32).reshape(-1), shifts
