"""Tied routes by enumeration, over the states that the reference found."""

from collections import defaultdict
from fractions import Fraction
from itertools import pairwise

WAIT = "wait"


def labels_of(truth):
    """The best state per stopping cell, the undominated ones per cell only passed."""
    found = set()
    for cell, states in truth.states.items():
        for dear in (0, 1):
            here = {(turn, lacking) for turn, lacking, other in states if other == dear}
            if truth.meaning(cell) == "stop" and not dear:
                here = {min(here)} if here else here
            for turn, lacking in here:
                if not any(
                    (t, s) != (turn, lacking) and t <= turn and s <= lacking for t, s in here
                ):
                    found.add((cell, turn, lacking, dear))
    return found


def tied(truth):
    """For every label its tied ways in: (label before, direction, cost)."""
    labels = labels_of(truth)
    into = defaultdict(list)
    for label in labels:
        cell, turn, lacking, dear = label
        waits = truth.meaning(cell) == "stop"
        if waits and dear:
            fresh = (cell, turn + 1, truth.waited(lacking), 0)
            if fresh in labels:
                into[fresh].append((label, WAIT, 0))
        for later in range(turn, truth.turns if waits else turn + 1):
            for way, other, price in truth.tables[dear][cell]:
                for when, after, paid in truth.arrive(later, lacking, other, price):
                    end = other, when, after, truth.after(dear, way)
                    if end in labels:
                        into[end].append((label, way, paid))
            lacking, dear = truth.waited(lacking), 0
    start = (truth.unit.at, 0, -truth.left, 0)
    into[start] = []
    hops = {
        label: 0
        for label in labels
        if label == start or any(rises(before, label) for before, *_ in into[label])
    }
    rank = 0
    while True:
        more = {
            label
            for label in labels - set(hops)
            if any(hops.get(one) == rank and not rises(one, label) for one, *_ in into[label])
        }
        if not more and rank > len(labels):
            break
        rank += 1
        hops.update(dict.fromkeys(more, rank))
    found = {}
    for label in labels:
        found[label] = [
            (before, way, price)
            for before, way, price in into[label]
            if hops[label] == (0 if rises(before, label) else hops[before] + 1)
        ]
    return found


def tied_routes(truth, goal, limit=3000):
    """All tied routes to a cell, as (cells, directions, cost); None if there are too many."""
    into = tied(truth)
    ends = [label for label in into if label[:3] == (goal, *truth.best[goal])]
    done, todo = [], [(label, (goal,), (), Fraction(0)) for label in ends]
    while todo:
        label, cells, ways, cost = todo.pop()
        if not into[label]:
            done.append((cells, ways, cost))
        for before, way, price in into[label]:
            if way == WAIT:
                todo.append((before, cells, ways, cost))
            else:
                todo.append((before, (before[0], *cells), (way, *ways), cost + price))
        if len(done) + len(todo) > limit:
            return None
    return done


def rises(before, label):
    """Whether a step spends points or turns, or else leads to another place of the same key."""
    return before[1:3] != label[1:3]


def ranks(tied):
    """The directions of a route in their order; links and leaps come last, the first cell first."""
    cells, ways = tied[:2]
    return [
        (99, *cell[::-1]) if way is None else (way,)
        for cell, way in zip(cells[1:], ways, strict=True)
    ]


def bends(ways, facing):
    """Changes of direction, the first turn from the facing included."""
    ways = ways if facing is None else (facing, *ways)
    return sum(a != b for a, b in pairwise(ways) if None not in (a, b))
