"""The border around a set of cells, walked corner by corner."""

from __future__ import annotations

import numpy as np

from understep.grids.cell import IntArray


def outline(
    cells: IntArray, deltas: IntArray, spots: IntArray, corners: IntArray
) -> list[IntArray]:
    """Closed lines around a set of cells, in spots.

    Parameters
    ----------
    cells
        The cells ``(n, 2)``, in any order.
    deltas
        ``(n, edges, 2)``: what leads to the neighbor beyond each edge of each cell.
    spots
        Centers of the cells ``(n, 2)``.
    corners
        Corners from the center, clockwise ``(edges, 2)``; edge ``k`` runs from corner ``k`` to the
        next.
    """
    beyond = cells[:, None] + deltas
    low = beyond.min(axis=(0, 1), initial=0) - 1
    high = int(beyond[..., 1].max(initial=0)) - int(low[1]) + 2
    numbered = [(each - low) @ np.array([high, 1]) for each in (cells, beyond)]
    places, ways = np.nonzero(~np.isin(numbered[1], numbered[0]))
    after = (ways + 1) % len(corners)
    ends = (spots[places] + corners[way] for way in (ways, after))
    # a border edge, by the spot where it starts: its cell's place, its own, the spot where it ends
    edges: dict[tuple[int, int], dict[int, tuple[int, int]]] = {}
    for place, start, end in zip(
        places.tolist(), *(map(tuple, each.tolist()) for each in ends), strict=True
    ):
        edges.setdefault(start, {})[place] = end
    lines = []
    while edges:
        start = here = next(iter(edges))
        place = next(iter(edges[here]))
        line = [here]
        while True:
            leaving = edges[here]
            # where two pieces touch, stay with the cell
            place = place if place in leaving else next(iter(leaving))
            there = leaving.pop(place)
            if not leaving:
                del edges[here]
            here = there
            if here == start and (start not in edges or place not in edges[start]):
                break
            line.append(here)
        lines.append(_bends(np.array(line, dtype=np.int64)))
    return lines


def _bends(line: IntArray) -> IntArray:
    """A closed line without the points at which it goes straight on; the first point again last."""
    before = line - np.roll(line, 1, axis=0)
    after = np.roll(line, -1, axis=0) - line
    bends = line[before[:, 0] * after[:, 1] != before[:, 1] * after[:, 0]]
    return np.concatenate([bends, bends[:1]])
