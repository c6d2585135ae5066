"""The choice kernel: among all routes of least cost, the route that looks best.

Labels on tied routes are given by their seats in a list, with the steps that lead to each. They are walked
back from the goal, and each label learns, for each direction in which a tied route leaves it, the
points still to be spent and the blemishes still to come. A blemish is a change of direction, or a
weight given per cell. The route is then read off from the start: least points, fewest blemishes, and
the first direction in the grid's order.

Changes of direction depend on the step before, so what is learnt is kept per label *and* direction, a
*way*; a tree of predecessors would not do. The order of work is Kahn's topological sorting (A. B. Kahn,
Topological sorting of large networks, CACM 5, 1962).
"""

from __future__ import annotations

try:
    import cython
except ImportError:
    from understep.kernels import _shim as cython


def leaving(here, facing, turning, slots, rest, blemish):
    """The direction in which the best route leaves a label, entered in one (-1: none counts)."""
    found = -1
    best = -1
    flaws = 0
    for direction in range(slots):
        way = here * slots + direction
        # no tied route leaves in that direction
        if rest[way] < 0:
            continue
        worse = blemish[way]
        if turning and facing >= 0 and direction != facing and direction < slots - 1:
            worse = worse + 1
        if best < 0 or rest[way] < best or (rest[way] == best and worse < flaws):
            best = rest[way]
            flaws = worse
            found = direction
    return found


def comes_first(one, other, facing, turning, slots, goals, place, rest, blemish, onward):
    """Whether of two labels of a cell the first goes on in the earlier direction, where they differ.

    Both are entered in the same direction, and as good.
    """
    while one != other and one >= goals and other >= goals:
        if facing == slots - 1:  # a link has no direction
            facing = -1
        direction = leaving(one, facing, turning, slots, rest, blemish)
        of_other = leaving(other, facing, turning, slots, rest, blemish)
        if direction != of_other:
            return direction < of_other
        one = onward[one * slots + direction]
        other = onward[other * slots + direction]
        if place[one] != place[other]:
            return place[one] < place[other]
        facing = direction
    return 0


def offer(here, direction, to, spent, worse, turning, slots, goals, place, rest, blemish, onward):
    """Take a step to a label, in a direction, if it is better than the one known there.

    By points, then blemishes; of links and leaps that are as good, the one to the first place; of
    labels of one place, the one from which the route goes on in the earlier direction.
    """
    way = here * slots + direction
    if rest[way] >= 0:
        if spent > rest[way] or (spent == rest[way] and worse > blemish[way]):
            return
        if spent == rest[way] and worse == blemish[way]:
            if place[to] > place[onward[way]]:
                return
            if place[to] == place[onward[way]] and not comes_first(
                to, onward[way], direction, turning, slots, goals, place, rest, blemish, onward
            ):
                return
    rest[way] = spent
    blemish[way] = worse
    onward[way] = to


def choose(
    goals: cython.int, start: cython.int, facing: cython.int, turning: cython.int,
    slots: cython.int, ways: cython.int[::1], first: cython.int[::1], sources: cython.int[::1],
    directions: cython.int[::1], costs: cython.longlong[::1], place: cython.int[::1],
    weight: cython.longlong[::1], rest: cython.longlong[::1], blemish: cython.longlong[::1],
    onward: cython.int[::1], ready: cython.int[::1], route: cython.int[::1],
    taken: cython.int[::1],
) -> int:
    """Write the seats of the best tied route, and the direction of each step at the label it leads to.

    ``slots`` counts directions, and one after them for links and leaps; a wait has the number after
    that. ``turning`` 1 counts changes of direction, 0 only the weights. ``rest`` comes filled with -1.
    """
    waiting: cython.int = 0
    length: cython.int = 1
    here: cython.int
    there: cython.int
    way: cython.int
    step: cython.int
    direction: cython.int
    best: cython.longlong
    flaws: cython.longlong
    worse: cython.longlong
    with cython.nogil:
        for here in range(goals):
            # a label is ready when all that follow it are, from the goals back
            if ways[here] == 0:
                ready[waiting] = here
                waiting += 1
        while waiting:
            waiting -= 1
            here = ready[waiting]
            # what is ahead of it, in whichever direction that is best
            best = 0
            flaws = 0
            if here >= goals:  # a goal has nothing to come
                best = -1
                for direction in range(slots):
                    way = here * slots + direction
                    if rest[way] >= 0 and (
                        best < 0 or rest[way] < best or (rest[way] == best and blemish[way] < flaws)
                    ):
                        best = rest[way]
                        flaws = blemish[way]
            for step in range(first[here], first[here + 1]):
                there = sources[step]
                if directions[step] == slots:  # after a wait everything is as if there had been none
                    for direction in range(slots if here >= goals else 0):
                        way = here * slots + direction
                        if rest[way] >= 0:
                            offer(
                                there, direction, onward[way], rest[way], blemish[way], turning, slots,
                                goals, place, rest, blemish, onward,
                            )
                else:
                    direction = directions[step]
                    worse = flaws + weight[here]
                    if turning and here >= goals and direction < slots - 1:  # a link has no direction
                        worse = worse + 1
                        way = here * slots + direction
                        if rest[way] == best and blemish[way] + weight[here] < worse:
                            worse = blemish[way] + weight[here]
                        way = here * slots + slots - 1
                        if rest[way] == best and blemish[way] + weight[here] < worse:
                            worse = blemish[way] + weight[here]
                    offer(
                        there, direction, here, best + costs[step], worse, turning, slots, goals, place,
                        rest, blemish, onward,
                    )
                ways[there] -= 1
                if ways[there] == 0:
                    ready[waiting] = there
                    waiting += 1
        route[0] = start
        here = start
        while here >= goals:
            direction = leaving(here, facing, turning, slots, rest, blemish)
            here, facing = onward[here * slots + direction], direction
            taken[length] = direction
            if facing == slots - 1:
                facing = -1
            route[length] = here
            length += 1
    return length
