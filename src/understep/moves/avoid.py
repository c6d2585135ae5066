"""Avoid: weights of cells that a route would rather not enter."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Literal, TypeAlias

import numpy as np
from numpy.typing import NDArray

from understep.boards.board import Board
from understep.boards.cost import exact
from understep.errors import InputError, NameUnknownError
from understep.grids.cell import Cell, IntArray, array_of

FINEST = 1000
MOST = 10**6
Avoid: TypeAlias = Literal["hazard"] | Mapping[Cell, float] | NDArray[Any]


def weights(board: Board, avoid: Any) -> IntArray | None:
    """Whole weights of all cells, by number; None where nothing is to be avoided."""
    if avoid is None:
        return None
    if isinstance(avoid, str):
        if avoid != "hazard":
            raise NameUnknownError("avoid", "kind of weight", avoid, ["hazard"])
        kinds = [float(kind.hazard) for kind in board.terrains.values()]
        found = np.array(kinds, dtype=np.float64)[board._contents.terrain.array]
    elif isinstance(avoid, Mapping):
        found = np.zeros(board.grid.cols * board.grid.rows)
        for cell, weight in avoid.items():
            place = board.grid.numbering.of(cell, "avoid")
            found[place] = float(exact(weight, "avoid", str(tuple(cell))))
    else:
        found = array_of("avoid", avoid)
        if found.shape != (board.grid.rows, board.grid.cols) or found.dtype.kind not in "biuf":
            rule = f"must be a mapping, 'hazard', or numbers of shape {board.grid.size[::-1]}"
            raise InputError("avoid", rule, (found.dtype.name, found.shape))
        found = found.reshape(-1).astype(np.float64)
    if not ((found >= 0) & (found <= MOST)).all():
        raise InputError("avoid", f"weights are numbers from 0 to {MOST}", avoid)
    rounded: IntArray = np.round(found * FINEST).astype(np.int64)
    return rounded
