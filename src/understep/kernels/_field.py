"""The field kernel: the cost from every cell to the nearest of many goals, over reversed steps.

Dijkstra's search (1959) from all goals at once, on a radix heap: R. K. Ahuja, K. Mehlhorn, J. Orlin,
R. E. Tarjan, Faster algorithms for the shortest path problem, J. ACM 37 (1990). The heap's buckets
are doubly linked lists through the cells, so that a cell whose cost falls moves from one to another. After an edit
only what it can have altered is forgotten and found again: G. Ramalingam, T. Reps, An incremental
algorithm for a generalization of the shortest-path problem, J. Algorithms 21 (1996).
"""

from __future__ import annotations

try:
    import cython
except ImportError:
    from understep.kernels import _shim as cython

from understep.kernels.marks import SHIFT

KEPT = 254  # place of a cell whose cost is known from before an edit
DONE = 255  # and of one that is settled


def width(number):
    """How many bits a number has."""
    bits = 0
    while number >= 65536:
        number = number >> 16
        bits += 16
    while number:
        number = number >> 1
        bits += 1
    return bits


def put(cell, bucket, heads, after, before, place):
    """Put a cell at the head of a bucket."""
    first = heads[bucket]
    after[cell] = first
    before[cell] = -1
    if first >= 0:
        before[first] = cell
    heads[bucket] = cell
    place[cell] = cython.cast(cython.uchar, bucket)


def take(cell, heads, after, before, place):
    """Take a cell out of its bucket."""
    # the head of a bucket has none before it
    if before[cell] >= 0:
        after[before[cell]] = after[cell]
    else:
        heads[place[cell]] = after[cell]
    if after[cell] >= 0:
        before[after[cell]] = before[cell]


def forget(
    altered: cython.int[::1], listed: cython.int[::1], cost: cython.longlong[::1],
    onward: cython.int[::1], owner: cython.int[::1], heads: cython.int[::1],
    after: cython.int[::1], before: cython.int[::1], place: cython.uchar[::1],
    codes: cython.uchar[::1], wide: cython.ushort[::1], deltas: cython.int[::1],
    cols: cython.int, rows: cython.int, staggered: cython.int, parity: cython.int,
) -> int:
    """Forget cells whose steps were altered and those whose way leads by one; queue the rest around.

    Say how many are queued. ``place`` comes full of 254; goals, which alone cost nothing, are kept.
    """
    directions: cython.int = cython.cast(cython.int, deltas.shape[0] // 4)
    index: cython.int
    at: cython.int = 0
    count: cython.int = 0
    queued: cython.int = 0
    cell: cython.int
    other: cython.int
    row: cython.int
    col: cython.int
    line: cython.int
    direction: cython.int
    turn: cython.int
    base: cython.Py_ssize_t
    with cython.nogil:
        for index in range(altered.shape[0]):
            cell = altered[index]
            # a goal costs nothing, and keeps its place when its steps change
            if place[cell] == KEPT and cost[cell] != 0:
                place[cell] = 0
                listed[count] = cell
                count += 1
        for turn in range(2):  # list them all; then look around each
            at = 0
            while at < count:
                cell = listed[at]
                at += 1
                cost[cell] = -1
                onward[cell] = -1
                owner[cell] = -1
                row = cell // cols
                col = cell - row * cols
                line = 0
                if staggered:
                    line = ((row if staggered == 1 else col) + parity) & 1
                for direction in range(directions):
                    index = 2 * (line * directions + direction)
                    if not (
                        0 <= col + deltas[index] < cols and 0 <= row + deltas[index + 1] < rows
                    ):
                        continue
                    other = cell + deltas[index + 1] * cols + deltas[index]
                    # forgotten already, or queued to be spread from
                    if place[other] != KEPT:
                        continue
                    if turn == 0:
                        if onward[other] == cell:
                            place[other] = 0
                            listed[count] = other
                            count += 1
                        continue
                    base = cython.cast(cython.Py_ssize_t, cell) * directions + direction
                    if (wide[base] if wide.shape[0] else codes[base]) > 1 and cost[other] >= 0:
                        put(other, width(cost[other]), heads, after, before, place)
                        queued += 1
    return queued


def spread(
    left: cython.int, goals: cython.int[::1], cost: cython.longlong[::1], onward: cython.int[::1],
    owner: cython.int[::1], way: cython.uchar[::1], heads: cython.int[::1],
    after: cython.int[::1], before: cython.int[::1], place: cython.uchar[::1],
    codes: cython.uchar[::1], wide: cython.ushort[::1], costs: cython.longlong[::1],
    deltas: cython.int[::1], cols: cython.int, rows: cython.int, staggered: cython.int,
    parity: cython.int, layer: cython.int, link_at: cython.int[::1], link_next: cython.int[::1],
    link_from: cython.int[::1], link_cost: cython.longlong[::1],
) -> int:
    """Write cost, next cell and goal of every cell, and say how many have them.

    ``left`` cells are queued already. ``cost`` and ``onward`` come full of -1, ``heads`` too;
    links are listed by where they lead. ``place`` of a settled cell is 255; of tied ways the first in the
    grid's order is kept, links last. From number
    ``layer`` on, if it is not 0, diagonal steps lead back to the numbers before, and there onwards.
    """
    directions: cython.int = cython.cast(cython.int, deltas.shape[0] // 4)
    index: cython.int
    cell: cython.int
    other: cython.int
    bucket: cython.int
    row: cython.int
    col: cython.int
    line: cython.int
    direction: cython.int
    back: cython.int
    link: cython.int
    code: cython.int
    settled: cython.int = 0
    floor: cython.longlong = 0
    least: cython.longlong
    price: cython.longlong
    base: cython.Py_ssize_t
    with cython.nogil:
        for index in range(goals.shape[0]):
            cell = goals[index]
            if cost[cell] < 0:
                cost[cell] = 0
                onward[cell] = cell
                owner[cell] = index
                way[cell] = 0
                put(cell, 0, heads, after, before, place)
                left += 1
        while left:
            # no cell costs just the floor: it rises to the least cost that waits
            if heads[0] < 0:
                # the lower a bucket, the nearer to the floor are all costs in it
                bucket = 1
                while heads[bucket] < 0:
                    bucket += 1
                cell = heads[bucket]
                least = cost[cell]
                while cell >= 0:
                    least = cost[cell] if cost[cell] < least else least
                    cell = after[cell]
                floor = least
                cell = heads[bucket]
                heads[bucket] = -1
                while cell >= 0:
                    other = after[cell]
                    # each goes to a lower bucket than before, so that none is moved often
                    put(cell, width(cost[cell] ^ floor), heads, after, before, place)
                    cell = other
            cell = heads[0]
            take(cell, heads, after, before, place)
            place[cell] = cython.cast(cython.uchar, DONE)
            left -= 1
            settled += 1
            row = cell // cols
            col = cell - row * cols
            line = 0
            if staggered:
                line = ((row if staggered == 1 else col) + parity) & 1
            if layer and cell >= layer:
                line = 1
            direction = 0
            link = 0
            while True:
                if direction < directions:
                    # steps are followed backwards: from the cell that they lead to
                    back = (direction + directions // 2) % directions
                    index = 2 * (line * directions + back)
                    direction += 1
                    if not (
                        0 <= col + deltas[index] < cols and 0 <= row + deltas[index + 1] < rows
                    ):
                        continue
                    other = cell + deltas[index + 1] * cols + deltas[index]
                    base = cython.cast(cython.Py_ssize_t, other) * directions + direction - 1
                    code = wide[base] if wide.shape[0] else codes[base]
                    # not a step, or one from a cell that cannot get any cheaper
                    if code < 2 or place[other] == DONE:
                        continue
                    price = floor + (costs[code] >> SHIFT)
                else:
                    if link_at.shape[0] == 0:
                        break
                    link = link_at[cell] if link == 0 else link_next[link]
                    if link == 0:
                        break
                    other = link_from[link]
                    if place[other] == DONE:
                        continue
                    direction = directions + 1
                    price = floor + link_cost[link]
                if cost[other] < 0 or (price < cost[other] and place[other] == KEPT):
                    # it waits for the first time
                    left += 1
                elif price < cost[other]:
                    take(other, heads, after, before, place)
                else:
                    # of equal costs the lowest direction counts, so that the order of work does not
                    if price > cost[other] or direction - 1 > way[other]:
                        continue
                    if direction - 1 == way[other] and (
                        onward[other] != cell or owner[other] == owner[cell]
                    ):
                        continue
                    way[other] = cython.cast(cython.uchar, direction - 1)
                    onward[other] = cell
                    owner[other] = owner[cell]
                    if place[other] == KEPT:  # routes through it lead to another goal now
                        put(other, width(price ^ floor), heads, after, before, place)
                        left += 1
                    continue
                cost[other] = price
                way[other] = cython.cast(cython.uchar, direction - 1)
                onward[other] = cell
                owner[other] = owner[cell]
                put(other, width(price ^ floor), heads, after, before, place)
    return settled
