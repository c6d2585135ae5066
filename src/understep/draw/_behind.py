"""Behind: what raised ground hides of the cells behind it, and what shows of them."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from understep.errors import MissingExtraError
from understep.grids.cell import Cell, Cells
from understep.grids.lattice import FloatArray

LEAST = 1e-9  # of a cell: what overlaps by less only touches


class Behind:
    """What pillars in front hide of each cell of a board with raised ground."""

    def __init__(self, cells: Cells, tops: FloatArray, drop: FloatArray, down: float) -> None:
        """``cells`` from the farthest, their tops on the screen, how far their sides go down."""
        try:
            import shapely
        except ImportError:
            raise MissingExtraError("drawing raised ground", "plot") from None
        self._geometry = shapely
        self._places = {cell: place for place, cell in enumerate(cells)}
        self._tops = tops
        feet = tops + np.stack([0 * drop, down * drop], -1)[:, None]
        faces = shapely.polygons(tops)
        pillars = shapely.convex_hull(shapely.multipoints(np.concatenate([tops, feet], axis=1)))
        front, back = shapely.STRtree(faces).query(pillars, predicate="intersects")
        later = front > back
        front, back = front[later], back[later]
        shared = shapely.area(shapely.intersection(pillars[front], faces[back]))
        real = shared > LEAST * shapely.area(faces[back])
        #: By place of a cell, what hides it.
        self._hiding: dict[int, Any] = {}
        order = np.argsort(back[real], kind="stable")
        behind, hiding = back[real][order], front[real][order]
        hidden, firsts = np.unique(behind, return_index=True)
        parts = np.split(hiding, firsts[1:]) if len(hidden) else []
        for place, some in zip(hidden.tolist(), parts, strict=True):
            self._hiding[place] = shapely.union_all(pillars[some])

    @property
    def whole(self) -> NDArray[np.bool_]:
        """Whether nothing of the top of a cell is hidden, in the order of the cells."""
        found = np.ones(len(self._places), dtype=bool)
        found[list(self._hiding)] = False
        return found

    def pieces(self, cell: Cell) -> list[FloatArray]:
        """What shows of the top of a cell, as polygons; none where nothing does."""
        place = self._places[cell]
        hiding = self._hiding.get(place)
        if hiding is None:
            return [self._tops[place]]
        rest = self._geometry.difference(self._geometry.Polygon(self._tops[place]), hiding)
        parts = self._geometry.get_parts(rest)
        return [
            np.array(part.exterior.coords)[:-1]
            for part in parts
            if part.geom_type == "Polygon" and part.area > LEAST * rest.envelope.area
        ]

    def split(self, line: FloatArray, cell: Cell) -> tuple[list[FloatArray], list[FloatArray]]:
        """A line on the top of a cell: the parts of it that show, and those that are hidden."""
        hiding = self._hiding.get(self._places[cell])
        if hiding is None:
            return [line], []
        whole = self._geometry.LineString(line)
        return tuple(  # type: ignore[return-value]
            [
                np.array(part.coords)
                for part in self._geometry.get_parts(cut)
                if part.geom_type == "LineString" and part.length
            ]
            for cut in (whole.difference(hiding), whole.intersection(hiding))
        )
