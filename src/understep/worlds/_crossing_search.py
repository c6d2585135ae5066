"""Plan: a long way from crossing to crossing, found sector by sector."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, NamedTuple

import numpy as np

from understep.grids.cell import Cell, IntArray
from understep.kernels import loader
from understep.kernels.loader import view
from understep.worlds._border import Crossing
from understep.worlds._graph import FAR, Graph
from understep.worlds._guide import Guide
from understep.worlds._sectors import SectorKey

FOUND, FULL = -1, -2


class CrossingRoute(NamedTuple):
    """Crossings from a start to a goal, and what the way by them costs in parts of a point.

    ``cost`` is -1 where there is no route. ``looked`` counts the sectors looked into, ``shut`` are
    those that were not.
    """

    crossings: tuple[Crossing, ...]
    cost: int
    looked: int
    shut: frozenset[SectorKey]


class CrossingSearch:
    """A search for a way by crossings, with a weight on the estimate.

    ``awake`` says what sectors are or may be woken, ``open_`` which may be entered, and no more
    than ``most`` are.
    """

    def __init__(
        self, guide: Guide, graph: Graph, key: Callable[[tuple[int, int]], SectorKey],
        weight: float, awake: Callable[[SectorKey], bool], open_: Callable[[SectorKey], bool],
        most: int,
    ) -> None:  # fmt: skip
        self._guide, self._graph, self._key, self._weight = guide, graph, key, weight
        self._awake, self._open, self._most = awake, open_, most
        self._shut = set[SectorKey]()
        self._closed: list[int] = []
        self._looked = set[SectorKey]()
        self._filled = 0  # nodes that were found out

    def find(self, start: Cell, goal: Cell, most: int | None = None) -> CrossingRoute | None:
        """The way from a cell to another.

        None where more than ``most`` nodes would have to be found out; what was found is kept.
        """
        guide, graph = self._guide, self._graph
        home, last = self._key(start), self._key(goal)
        if start == goal:
            return CrossingRoute((), 0, 0, frozenset())
        asleep = {each for each in (home, last) if not (self._awake(each) and self._open(each))}
        if asleep:
            return CrossingRoute((), -1, 0, frozenset(asleep))
        left = guide.to(last, goal)
        # starts are everywhere: to keep them all would fill the memory
        guide.row(home, start, kept=False)
        first = graph.entry(start)
        estimate = _Estimate(guide, goal, self._weight)
        known, spots = 0, np.zeros(0, dtype=np.int64)
        keys, queue = np.zeros(1 << 14, dtype=np.int64), np.zeros(1 << 14, dtype=np.int32)
        state = np.array([1, FAR, first], dtype=np.int64)
        queue[0] = first
        while True:
            if len(graph.nodes) > known:
                new = slice(known, len(graph.nodes))
                spots = np.concatenate([spots, estimate(graph.boxes[len(spots) :])])
                graph.value[new] = spots[graph.spot[new]]
                graph.begin(new)
                for node in range(known, len(graph.nodes)) if known else graph.entries(last):
                    cell, side = graph.nodes[node]
                    if side is None and self._key(cell) == last:
                        graph.rest[node] = left(cell)
                graph.far[first] = 0
                known = len(graph.nodes)
            # the kernel stops at a node whose edges are not known, and goes on when they are
            node = loader.plan.search(
                view(graph.first), view(graph.count), view(graph.ends), view(graph.costs),
                view(graph.value), view(graph.rest), view(graph.far), view(graph.came),
                view(graph.done), view(keys), view(queue), view(state),
            )  # fmt: skip
            if node == FOUND:
                break
            if most is not None and self._filled >= most:
                graph.first[self._closed] = -1
                return None
            if node == FULL:
                keys, queue = (np.concatenate([each, each]) for each in (keys, queue))
            else:
                self._fill(node)
        graph.first[self._closed] = -1
        shut = frozenset(self._shut)
        if state[1] >= FAR:
            return CrossingRoute((), -1, len(self._looked), shut)
        way = self._way(int(state[2]))
        return CrossingRoute(way, int(state[1]), len(self._looked), shut)

    def _fill(self, node: int) -> None:
        """Find out the edges of a node, if its sector may be looked into."""
        cell, side = self._graph.nodes[node]
        key = self._key(cell)
        sheet = self._guide.sheet(key)
        if side is None:
            good = self._open(key) and (cell in sheet.rows or self._awake(key))
        else:
            known = side in sheet.exits or (self._awake(key) and self._awake(side))
            good = self._open(side) and known
        # what is known of more sectors would not fit into memory
        full = len(self._looked | {key}) > self._most
        if good and not full:
            self._looked.add(key)
            self._filled += 1
            self._graph.fill(node)
        else:
            self._shut.add(key if side is None else side)
            self._closed.append(node)
            self._graph.shut(node)

    def _way(self, node: int) -> tuple[Crossing, ...]:
        """The crossings that lead to a node."""
        found: list[Crossing] = []
        nodes, guide, came = self._graph.nodes, self._guide, self._graph.came
        while (last := int(came[node])) >= 0:
            end, _ = nodes[node]
            cell, side = nodes[last]
            if side is not None:  # as it is: sides alone lead to where a sector is entered
                key = self._key(cell)
                sheet, row, exits = guide.sheet(key), guide.row(key, cell), guide.exits(key, side)
                ways = [
                    (int(row[place] + cost), place, cost)
                    for place, other, cost in zip(
                        exits.places.tolist(), exits.ends, exits.costs.tolist(), strict=True
                    )
                    if other == end and row[place] >= 0
                ]
                _, place, cost = min(ways)
                found.append(Crossing(Cell(*sheet.outlets[place].tolist()), end, cost))
            node = last
        return tuple(reversed(found))


class _Estimate:
    """What the way to a goal is thought to cost, links from sector to sector included."""

    def __init__(self, guide: Guide, goal: Cell, weight: float) -> None:
        self._guide, self._goal, self._weight = guide, goal, weight
        far, cheapest, links = guide.grid.distance, guide.cheapest, list(guide.links())
        self._starts = np.array([start for start, *_ in links], dtype=np.int64).reshape(-1, 2)
        ends = np.array([end for _, end, _ in links], dtype=np.int64).reshape(-1, 2)
        costs = np.array([cost for *_, cost in links], dtype=np.int64)
        rest = cheapest * far(ends, goal) if links else costs
        for _ in links:  # chains of links
            onward = cheapest * far(ends[:, None], self._starts[None]) + costs + rest
            rest = np.minimum(rest, onward.min(axis=1))
        self._rest = costs + rest  # from where each link begins

    def __call__(self, boxes: IntArray) -> IntArray:
        value = self._least(boxes, np.array(self._goal))
        for start, rest in zip(self._starts, self._rest.tolist(), strict=True):
            value = np.minimum(value, self._least(boxes, start) + rest)
        found: IntArray = (value * self._weight).astype(np.int64)
        return found

    def _least(self, boxes: IntArray, cell: Any) -> IntArray:
        """What a way from the nearest cell of each box must cost; one step less for long boxes."""
        near = np.stack([
            np.clip(cell[0], boxes[:, 0], boxes[:, 1]), np.clip(cell[1], boxes[:, 2], boxes[:, 3])
        ], axis=-1)  # fmt: skip
        long = (boxes[:, ::2] != boxes[:, 1::2]).any(axis=-1)
        far = self._guide.grid.distance(near, cell) - long
        found: IntArray = self._guide.cheapest * np.maximum(far, 0)
        return found
