"""The tie kernel: among all routes of least cost, the one that looks best.

A search leaves closed labels, each with its key and the directions from which it is entered at that
key. Together they are a graph without cycles that holds every tied route. Here it is walked back
from the goal, and each label learns, for each direction in which a tied route leaves it, the points
still to be spent and the blemishes still to come. A blemish is a change of direction, or a weight
given per cell. The route is then read off from the start: least points, fewest blemishes, and the
first direction in the grid's order.

Changes of direction depend on the step before, so what is learnt is kept per label *and* direction;
a tree of predecessors would not do. The order of work is Kahn's topological sorting (A. B. Kahn,
Topological sorting of large networks, CACM 5, 1962).
"""

from __future__ import annotations

try:
    import cython
except ImportError:
    from understep.moves import _shim as cython


SHIFT = cython.declare(cython.int, 11)
LABEL = cython.declare(cython.longlong, 0x7FFFFFFF)


@cython.cfunc
@cython.inline
@cython.nogil
@cython.exceptval(check=False)
def entered(
    mark: cython.longlong, direction: cython.int, directions: cython.int
) -> cython.longlong:
    """Whether a label is entered in a direction; the one after the last: by a link, then a wait."""
    return (mark >> (direction if direction < directions else 9 + direction - directions)) & 1


def chain(
    cells: cython.int[::1], slot: cython.longlong[::1], mate: cython.int[::1],
    token: cython.longlong,
) -> None:
    """Let ``slot`` find a label by its cell, and ``mate`` the others of that cell.

    What ``slot`` held before need not be cleared: the upper half of an entry is the ``token`` of
    the call that wrote it.
    """
    index: cython.int
    known: cython.longlong
    with cython.nogil:
        for index in range(cells.shape[0]):
            known = slot[cells[index]]
            mate[index] = cython.cast(cython.int, known & LABEL) if known >> 32 == token else -1
            slot[cells[index]] = (token << 32) | index


@cython.cfunc
@cython.inline
@cython.nogil
@cython.exceptval(check=False)
def before(
    label: cython.int, direction: cython.int, cells: cython.int[::1], marks: cython.longlong[::1],
    slot: cython.longlong[::1], mate: cython.int[::1],
    shifts: cython.int[::1], cols: cython.int, staggered: cython.int, parity: cython.int,
    layer: cython.int, stride: cython.longlong, source: cython.int,
) -> cython.int:
    """The label that a label is entered from in a direction, by a link from a source, or a wait."""
    directions: cython.int = cython.cast(cython.int, shifts.shape[0] // 2)
    back: cython.int = (direction + directions // 2) % directions
    cell: cython.int = cells[label]
    row: cython.int = cell // cols
    line: cython.int = 0
    other: cython.int
    turn: cython.longlong = (marks[label] >> SHIFT) // stride
    if staggered:
        line = ((row if staggered == 1 else cell - row * cols) + parity) & 1
    if layer and cell >= layer:
        line = 1
    if direction < directions:
        cell += shifts[line * directions + back]
    elif direction == directions:
        cell = source
    else:  # by a wait, a turn ago
        cell += layer
        turn -= 1
    other = cython.cast(cython.int, slot[cell] & LABEL)
    if marks[other] & 256 and not (layer and cell >= layer):
        return other
    while (marks[other] >> SHIFT) // stride != turn:  # it cannot have waited where it may not stop
        other = mate[other]
    return other


@cython.cfunc
@cython.inline
@cython.nogil
@cython.exceptval(check=False)
def step_cost(
    source: cython.longlong, target: cython.longlong, stride: cython.longlong,
    points: cython.longlong, carry: cython.longlong,
) -> cython.longlong:
    """Points of the step between two labels, given by their marks; it may wait before it."""
    turn: cython.longlong = (source >> SHIFT) // stride
    left: cython.longlong = stride - 1 - (source >> SHIFT) % stride
    while turn < (target >> SHIFT) // stride:
        turn += 1
        left = points + min(left, carry)
    return left - (stride - 1 - (target >> SHIFT) % stride)


@cython.cfunc
@cython.inline
@cython.nogil
@cython.exceptval(check=False)
def better(
    spent: cython.longlong, worse: cython.longlong, label: cython.int, way: cython.int,
    rest: cython.longlong[::1], blemish: cython.longlong[::1], onward: cython.int[::1],
    marks: cython.longlong[::1], cells: cython.int[::1],
) -> cython.int:
    """Whether points, blemishes and the label a step leads to are better than what is known.

    Of links and leaps that are as good, the one to the first cell is taken.
    """
    if rest[way] < 0 or spent < rest[way]:
        return 1
    if spent > rest[way] or worse > blemish[way]:
        return 0
    if worse < blemish[way] or cells[label] < cells[onward[way]]:
        return 1
    return cells[label] == cells[onward[way]] and marks[label] >> SHIFT < marks[onward[way]] >> SHIFT


def totals(
    cells: cython.int[::1], marks: cython.longlong[::1], slot: cython.longlong[::1],
    mate: cython.int[::1], via: cython.int[::1], far_from: cython.int[::1], far_next: cython.int[::1], shifts: cython.int[::1], cols: cython.int,
    staggered: cython.int,
    parity: cython.int, layer: cython.int, stride: cython.longlong, points: cython.longlong, carry: cython.longlong,
    out: cython.longlong[::1],
) -> None:
    """Write the least points spent on all tied ways to each label, which come nearest first."""
    directions: cython.int = cython.cast(cython.int, shifts.shape[0] // 2)
    label: cython.int
    other: cython.int
    direction: cython.int
    entry: cython.int
    spent: cython.longlong
    least: cython.longlong
    with cython.nogil:
        for label in range(1, cells.shape[0]):
            least = -1
            for direction in range(directions + 2):
                if not entered(marks[label], direction, directions):
                    continue
                entry = via[label] if direction == directions else -1
                while entry:
                    other = before(
                        label, direction, cells, marks, slot, mate, shifts, cols, staggered, parity, layer, stride,
                        far_from[entry] if entry > 0 else -1,
                    )
                    spent = out[other] + step_cost(marks[other], marks[label], stride, points, carry)
                    if least < 0 or spent < least:
                        least = spent
                    entry = far_next[entry] if entry > 0 else 0
            out[label] = least


def spread(
    goals: cython.int, cells: cython.int[::1], marks: cython.longlong[::1], slot: cython.longlong[::1],
    mate: cython.int[::1], via: cython.int[::1], far_from: cython.int[::1], far_next: cython.int[::1], shifts: cython.int[::1], cols: cython.int,
    staggered: cython.int,
    parity: cython.int, layer: cython.int, stride: cython.longlong, seat: cython.int[::1], ties: cython.int[::1],
    ways: cython.int[::1],
) -> int:
    """List the labels on tied routes to the goals, which come listed; ``ways`` counts steps out."""
    directions: cython.int = cython.cast(cython.int, shifts.shape[0] // 2)
    count: cython.int = goals
    at: cython.int = 0
    entry: cython.int
    label: cython.int
    other: cython.int
    direction: cython.int
    with cython.nogil:
        for at in range(goals):
            seat[ties[at]] = at
            ways[at] = 0
        at = 0
        while at < count:
            label = ties[at]
            at += 1
            for direction in range(directions + 2):
                if not entered(marks[label], direction, directions):
                    continue
                entry = via[label] if direction == directions else -1
                while entry:
                    other = before(
                        label, direction, cells, marks, slot, mate, shifts, cols, staggered, parity, layer, stride,
                        far_from[entry] if entry > 0 else -1,
                    )
                    if seat[other] < 0:
                        seat[other] = count
                        ties[count] = other
                        ways[count] = 0
                        count += 1
                    ways[seat[other]] += 1
                    entry = far_next[entry] if entry > 0 else 0
    return count


def choose(
    goals: cython.int, start: cython.int, facing: cython.int, turning: cython.int, points: cython.longlong,
    carry: cython.longlong,
    cells: cython.int[::1], marks: cython.longlong[::1], slot: cython.longlong[::1],
    mate: cython.int[::1], via: cython.int[::1], far_from: cython.int[::1], far_next: cython.int[::1], shifts: cython.int[::1], cols: cython.int,
    staggered: cython.int,
    parity: cython.int, layer: cython.int, stride: cython.longlong, seat: cython.int[::1], ties: cython.int[::1],
    ways: cython.int[::1],
    weight: cython.longlong[::1], rest: cython.longlong[::1], blemish: cython.longlong[::1],
    onward: cython.int[::1], ready: cython.int[::1], route: cython.int[::1], taken: cython.int[::1],
) -> int:
    """Write the labels of the best tied route, and the direction of each step before the label after it.

    ``rest`` comes filled with -1. A link or leap is a direction after all others.

    ``turning`` 1 counts changes of direction, 0 only the weights; ``points`` are those of a full turn, of
    which ``carry`` at most go on to the next.
    """
    directions: cython.int = cython.cast(cython.int, shifts.shape[0] // 2)
    slots: cython.int = directions + 1
    waiting: cython.int = 0
    length: cython.int = 1
    label: cython.int
    other: cython.int
    here: cython.int
    there: cython.int
    way: cython.int
    onto: cython.int
    direction: cython.int
    index: cython.int
    entry: cython.int
    best: cython.longlong
    flaws: cython.longlong
    spent: cython.longlong
    worse: cython.longlong
    with cython.nogil:
        for here in range(goals):
            if ways[here] == 0:
                ready[waiting] = here
                waiting += 1
        while waiting:
            waiting -= 1
            here = ready[waiting]
            label = ties[here]
            best = 0
            flaws = 0
            if here >= goals:  # a goal has nothing to come
                best = -1
                for direction in range(directions + 1):
                    way = here * slots + direction
                    if rest[way] >= 0 and (
                        best < 0 or rest[way] < best or (rest[way] == best and blemish[way] < flaws)
                    ):
                        best = rest[way]
                        flaws = blemish[way]
            for direction in range(directions + 2):
                if not entered(marks[label], direction, directions):
                    continue
                entry = via[label] if direction == directions else -1
                while entry:
                    other = before(
                        label, direction, cells, marks, slot, mate, shifts, cols, staggered, parity, layer, stride,
                        far_from[entry] if entry > 0 else -1,
                    )
                    there = seat[other]
                    if direction > directions:  # after a wait everything is as if there had been none
                        for index in range(slots if here >= goals else 0):
                            way = here * slots + index
                            onto = there * slots + index
                            if rest[way] >= 0 and better(
                                rest[way], blemish[way], onward[way], onto, rest, blemish, onward, marks, cells
                            ):
                                rest[onto] = rest[way]
                                blemish[onto] = blemish[way]
                                onward[onto] = onward[way]
                    else:
                        spent = best + step_cost(marks[other], marks[label], stride, points, carry)
                        worse = flaws + weight[here]
                        if turning and here >= goals and direction < directions:  # a link has no direction
                            worse = worse + 1
                            way = here * slots + direction
                            if rest[way] == best and blemish[way] + weight[here] < worse:
                                worse = blemish[way] + weight[here]
                            way = here * slots + directions
                            if rest[way] == best and blemish[way] + weight[here] < worse:
                                worse = blemish[way] + weight[here]
                        way = there * slots + direction
                        if better(spent, worse, label, way, rest, blemish, onward, marks, cells):
                            rest[way] = spent
                            blemish[way] = worse
                            onward[way] = label
                    ways[there] -= 1
                    if ways[there] == 0:
                        ready[waiting] = there
                        waiting += 1
                    entry = far_next[entry] if entry > 0 else 0
        route[0] = start
        label = start
        while seat[label] >= goals:
            here = seat[label]
            best = -1
            flaws = 0
            way = -1
            for direction in range(directions + 1):
                there = here * slots + direction
                if rest[there] < 0:
                    continue
                worse = blemish[there]
                if turning and facing >= 0 and direction != facing and direction < directions:
                    worse = worse + 1
                if best < 0 or rest[there] < best or (rest[there] == best and worse < flaws):
                    best = rest[there]
                    flaws = worse
                    way = there
            facing = way - here * slots
            taken[length] = facing
            if facing == directions:
                facing = -1
            label = onward[way]
            route[length] = label
            length += 1
    return length


def first(
    goal: cython.int, start: cython.int, cells: cython.int[::1], marks: cython.longlong[::1],
    slot: cython.longlong[::1], mate: cython.int[::1], via: cython.int[::1], far_from: cython.int[::1], far_next: cython.int[::1],
    shifts: cython.int[::1], cols: cython.int,
    staggered: cython.int, parity: cython.int, layer: cython.int, stride: cython.longlong, route: cython.int[::1], taken: cython.int[::1],
) -> int:
    """Write the labels of any one tied route, from the goal back to the start."""
    label: cython.int = goal
    length: cython.int = 1
    direction: cython.int
    entry: cython.int
    other: cython.int
    directions: cython.int = cython.cast(cython.int, shifts.shape[0] // 2)
    with cython.nogil:
        route[0] = goal
        while label != start:
            direction = 0
            while not entered(marks[label], direction, directions):
                direction += 1
            if direction <= directions:
                taken[length] = direction
            entry = via[label] if direction == directions else 0
            other = entry
            while other:  # of tied links that from the first cell
                entry = other if far_from[other] < far_from[entry] else entry
                other = far_next[other]
            label = before(
                label, direction, cells, marks, slot, mate, shifts, cols, staggered, parity, layer, stride,
                far_from[entry] if entry else -1,
            )
            if direction > directions:  # the same cell, before the wait
                length -= 1
            route[length] = label
            length += 1
    return length
