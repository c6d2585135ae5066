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
def place_of(cell: cython.int, layer: cython.int) -> cython.int:
    """The number of a cell, whatever its layer."""
    return cell - layer if layer and cell >= layer else cell


@cython.cfunc
@cython.inline
@cython.nogil
@cython.exceptval(check=False)
def better(
    spent: cython.longlong, worse: cython.longlong, place: cython.int, other: cython.int,
    rest: cython.longlong, blemish: cython.longlong,
) -> cython.int:
    """1 where points, blemishes and the place a step leads to are better than what is known.

    2 where they are as good, and lead to the same place. Of links and leaps that are as good, the one
    to the first place is taken.
    """
    if rest < 0 or spent < rest:
        return 1
    if spent > rest or worse > blemish:
        return 0
    if worse < blemish or place < other:
        return 1
    return 2 if place == other else 0


@cython.cfunc
@cython.nogil
@cython.exceptval(check=False)
def taken_from(
    here: cython.int, facing: cython.int, turning: cython.int, directions: cython.int,
    rest: cython.longlong[::1], blemish: cython.longlong[::1],
) -> cython.int:
    """The direction in which the best route leaves a label, entered in one (-1: none counts)."""
    slots: cython.int = directions + 1
    direction: cython.int
    found: cython.int = -1
    best: cython.longlong = -1
    flaws: cython.longlong = 0
    worse: cython.longlong
    there: cython.int
    for direction in range(slots):
        there = here * slots + direction
        if rest[there] < 0:
            continue
        worse = blemish[there]
        if turning and facing >= 0 and direction != facing and direction < directions:
            worse = worse + 1
        if best < 0 or rest[there] < best or (rest[there] == best and worse < flaws):
            best = rest[there]
            flaws = worse
            found = direction
    return found


@cython.cfunc
@cython.nogil
@cython.exceptval(check=False)
def comes_first(
    one: cython.int, other: cython.int, facing: cython.int, turning: cython.int,
    directions: cython.int, goals: cython.int, layer: cython.int, cells: cython.int[::1],
    seat: cython.int[::1], rest: cython.longlong[::1], blemish: cython.longlong[::1],
    onward: cython.int[::1],
) -> cython.int:
    """Whether of two labels of a cell the first goes on in the earlier direction, where they differ.

    Both are entered in the same direction, and as good.
    """
    slots: cython.int = directions + 1
    way: cython.int
    way_of_other: cython.int
    place: cython.int
    while one != other and seat[one] >= goals and seat[other] >= goals:
        if facing == directions:
            facing = -1
        way = taken_from(seat[one], facing, turning, directions, rest, blemish)
        way_of_other = taken_from(seat[other], facing, turning, directions, rest, blemish)
        if way != way_of_other:
            return way < way_of_other
        one = onward[seat[one] * slots + way]
        other = onward[seat[other] * slots + way]
        place = place_of(cells[one], layer)
        if place != place_of(cells[other], layer):
            return place < place_of(cells[other], layer)
        facing = way
    return 0


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
    verdict: cython.int
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
                            if rest[way] < 0:
                                continue
                            verdict = 1
                            if rest[onto] >= 0:
                                verdict = better(
                                    rest[way], blemish[way], place_of(cells[onward[way]], layer),
                                    place_of(cells[onward[onto]], layer), rest[onto], blemish[onto],
                                )
                            if verdict == 2:
                                verdict = comes_first(
                                    onward[way], onward[onto], index, turning, directions, goals, layer, cells,
                                    seat, rest, blemish, onward,
                                )
                            if verdict:
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
                        verdict = 1
                        if rest[way] >= 0:
                            verdict = better(
                                spent, worse, place_of(cells[label], layer),
                                place_of(cells[onward[way]], layer), rest[way], blemish[way],
                            )
                        if verdict == 2:
                            verdict = comes_first(
                                label, onward[way], direction, turning, directions, goals, layer, cells,
                                seat, rest, blemish, onward,
                            )
                        if verdict:
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
            facing = taken_from(here, facing, turning, directions, rest, blemish)
            way = here * slots + facing
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
