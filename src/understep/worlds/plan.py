"""Plan: a long way from crossing to crossing, found sector by sector."""

from __future__ import annotations

from collections.abc import Callable
from heapq import heappop, heappush
from typing import NamedTuple

import numpy as np

from understep.grids.cell import Cell, IntArray
from understep.worlds.border import Crossing
from understep.worlds.guide import Guide
from understep.worlds.sheet import Key, Sheet

WEIGHT = 1.5  # of the estimate
FAR = 1 << 60
MOST_VALUES = 4096
TRIM = 64  # sectors between looks at how much memory is taken


class Plan(NamedTuple):
    """Crossings from a start to a goal, and what the way by them costs in parts of a point.

    ``cost`` is -1 where there is no way. ``looked`` are the sectors looked into, ``shut`` those that
    were not.
    """

    crossings: tuple[Crossing, ...]
    cost: int
    looked: int
    shut: frozenset[Key]


def find(
    guide: Guide, key: Callable[[tuple[int, int]], Key], start: Cell, goal: Cell,
    awake: Callable[[Key], bool], open_: Callable[[Key], bool], most: int, memory: int,
) -> Plan:  # fmt: skip
    """Find a way by crossings.

    Weighted A* (I. Pohl, Heuristic search viewed as path finding in a graph, Artificial Intelligence
    1, 1970), each sector looked into when the search gets there: a side of it waits in the queue
    with the best that leads out there. ``awake`` says what sectors are or may be woken, ``open_`` which
    may be entered, ``most`` how many; beyond ``memory`` bytes what was found earlier is let go.
    """
    home, last = key(start), key(goal)
    if shut := {each for each in (home, last) if not (awake(each) and open_(each))}:
        return Plan((), -1, 0, frozenset(shut))
    left, own = guide.to(last, goal), guide.row(home, start, kept=False)
    value = _Values(guide, goal)
    reached, came = {start: 0}, dict[Cell, Crossing]()
    before: dict[Cell, Cell] = {}
    done, looked = set[Cell](), set[Key]()
    best, by = FAR, start
    queue: list[tuple[int, int, Cell, Key | None]] = [(0, 0, start, None)]
    tick = 0
    while queue and queue[0][0] < best:
        _, _, cell, side = heappop(queue)
        if side is None and cell in done:
            continue
        at, so_far = key(cell), reached[cell]
        if side is None:
            done.add(cell)
            if at == last and 0 <= (rest := left(cell)) < best - so_far:
                best, by = so_far + rest, cell
            if at not in looked:
                if len(looked) >= most or not open_(at):
                    shut.add(at)
                    continue
                looked.add(at)
                if len(looked) % TRIM == 0:
                    guide.keep(memory)
        sheet = guide.sheet(at)
        if cell not in sheet.rows and not awake(at):
            shut.add(at)
            continue
        row = own if cell == start else guide.row(at, cell)
        costs = np.where(row < 0, FAR, row) + so_far
        keys = costs + value(at, sheet)
        if side is None:
            if len(sheet.order):
                least = np.minimum.reduceat(keys[sheet.order], sheet.starts).tolist()
                for other, low in zip(sheet.sides, least, strict=True):
                    if low < FAR:
                        tick += 1
                        heappush(queue, (low, tick, cell, other))
            continue
        if side not in sheet.exits and not (awake(at) and awake(side)):
            shut.add(side)
            continue
        exits = guide.exits(at, side)
        rise, ranks = exits.costs.tolist(), (keys[exits.places] + exits.costs).tolist()
        totals = (costs[exits.places] + exits.costs).tolist()
        for n, end in enumerate(exits.ends):
            if totals[n] < min(reached.get(end, FAR), FAR) and end not in done:
                reached[end], before[end] = totals[n], cell
                a = Cell(*sheet.outlets[exits.places[n]].tolist())
                came[end] = Crossing(a, end, rise[n])
                tick += 1
                heappush(queue, (ranks[n], tick, end, None))
    if best >= FAR:
        return Plan((), -1, len(looked), frozenset(shut))
    crossings: list[Crossing] = []
    while by != start:
        crossings.append(came[by])
        by = before[by]
    return Plan(tuple(reversed(crossings)), best, len(looked), frozenset(shut))


class _Values:
    """What the way from the outlets of a sector to a goal is thought to cost."""

    def __init__(self, guide: Guide, goal: Cell) -> None:
        self._guide, self._goal = guide, goal
        self._known: dict[Key, IntArray] = {}
        far = guide.grid.distance
        links = list(guide.links())
        self._starts = np.array([start for start, *_ in links], dtype=np.int64).reshape(-1, 2)
        ends = np.array([end for _, end, _ in links], dtype=np.int64).reshape(-1, 2)
        costs = np.array([cost for *_, cost in links], dtype=np.int64)
        rest = guide.cheapest * far(ends, goal) if links else costs
        for _ in links:  # chains of links
            onward = guide.cheapest * far(ends[:, None], self._starts[None]) + costs + rest
            rest = np.minimum(rest, onward.min(axis=1))
        self._rest = costs + rest  # from where each link begins

    def __call__(self, key: Key, sheet: Sheet) -> IntArray:
        found = self._known.get(key)
        if found is None:
            far, cheapest = self._guide.grid.distance, self._guide.cheapest
            value = cheapest * far(sheet.outlets, self._goal)
            if len(self._starts):
                by = cheapest * far(sheet.outlets[:, None], self._starts[None]) + self._rest
                value = np.minimum(value, by.min(axis=1))
            if len(self._known) >= MOST_VALUES:
                self._known.clear()
            found = self._known[key] = (value * WEIGHT).astype(np.int64)
        return found
