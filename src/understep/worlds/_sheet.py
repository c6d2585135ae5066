"""Sheet: what is known of a sector for long routes: crossings, and costs between them."""

from __future__ import annotations

from typing import Any, NamedTuple

import numpy as np

from understep.grids.cell import Cell, IntArray
from understep.worlds._sectors import SectorKey


class Exits(NamedTuple):
    """Crossings from a sector to another: by place in its outlets, where to, and what they cost."""

    places: IntArray
    ends: list[Cell]
    costs: IntArray


class Sheet:
    """A sector, as one movement knows it.

    ``outlets`` are the cells from which a step can lead out, ``(n, 2)``; ``sides`` says by sector
    from which of them.
    """

    def __init__(self, outlets: IntArray, sides: dict[SectorKey, list[int]]) -> None:
        self.outlets, self.sides = outlets, sides
        self.places = dict(zip(map(tuple, outlets.tolist()), range(len(outlets)), strict=True))
        #: The places side by side, and where each side begins.
        self.order = np.array([place for part in sides.values() for place in part], dtype=np.int64)
        self.starts = np.cumsum([0, *map(len, sides.values())])[:-1].astype(np.int64)
        self.exits: dict[SectorKey, Exits] = {}
        #: By cell, what it costs from there to all outlets; -1: no route.
        self.rows: dict[Cell, IntArray] = {}

    def plain(self) -> dict[str, Any]:
        """What was found, as plain data; `read` takes it back."""
        exits = [
            [*key, part.places.tolist(), [list(end) for end in part.ends], part.costs.tolist()]
            for key, part in self.exits.items()
        ]
        return {"exits": exits, "rows": [[*at, row.tolist()] for at, row in self.rows.items()]}

    def read(self, kept: Any) -> None:
        """Take back what was kept; nothing of it, if it is not sound."""
        try:
            exits = {
                (col, row): Exits(
                    _whole(places, len(ends)),
                    [Cell(*end) for end in _whole(ends, len(ends), 2).tolist()],
                    _whole(costs, len(ends)),
                )
                for col, row, places, ends, costs in kept["exits"]
            }
            rows = {
                Cell(col, row): _whole(costs, len(self.outlets)) for col, row, costs in kept["rows"]
            }
            known = set(exits) <= set(self.sides)
        except (ValueError, TypeError, KeyError, OverflowError):
            return
        places = [place for part in exits.values() for place in part.places.tolist()]
        if known and all(0 <= place < len(self.outlets) for place in places):
            self.exits, self.rows = exits, rows


def _whole(values: list[Any], *shape: int) -> IntArray:
    found = np.array(values, dtype=None if values else np.int64).reshape(-1, *shape[1:])
    if found.dtype.kind != "i" or found.shape != shape:
        raise ValueError(values)
    return found.astype(np.int64)
