"""The plan kernel: A* over crossings, that stops where it must know more.

P. E. Hart, N. J. Nilsson, B. Raphael, A formal basis for the heuristic determination of minimum cost
paths, IEEE Transactions on Systems Science and Cybernetics 4 (1968), on a heap of four branches
(D. B. Johnson, 1975), whose old entries are skipped.
"""

from __future__ import annotations

try:
    import cython
except ImportError:
    from understep.kernels import _shim as cython

FOUND = -1
FULL = -2


def search(
    first: cython.int[::1], count: cython.int[::1], ends: cython.int[::1],
    costs: cython.longlong[::1], value: cython.longlong[::1], rest: cython.longlong[::1],
    far: cython.longlong[::1], came: cython.int[::1], done: cython.uchar[::1],
    keys: cython.longlong[::1], nodes: cython.int[::1], state: cython.longlong[::1],
) -> int:
    """Go on until the best way is known (-1), the queue is too small (-2), or a node is not known.

    Then that node is returned, still first in the queue. The edges of a node are ``count`` from
    ``first`` on, -1 where they are not known; ``value`` is the estimate, ``rest`` what is left to
    the goal or -1; ``state`` the length of the queue, the best cost, and the node before the goal.
    """
    size: cython.int = cython.cast(cython.int, state[0])
    room: cython.int = cython.cast(cython.int, keys.shape[0])
    found: cython.int = -1
    node: cython.int
    end: cython.int
    edge: cython.int
    hole: cython.int
    other: cython.int
    cost: cython.longlong
    key: cython.longlong
    with cython.nogil:
        while size and keys[0] < state[1]:
            node = nodes[0]
            if not done[node]:
                # the caller works out where the node leads, and calls again
                if first[node] < 0:
                    found = node
                    break
                # asked before anything is taken, so that the same call can be made again
                if size + count[node] > room:
                    found = -2
                    break
            size -= 1  # the last entry sinks from the top
            key = keys[size]
            other = nodes[size]
            hole = 0
            while 4 * hole + 1 < size:
                # four children a node: fewer levels to sink through than with two
                edge = 4 * hole + 1
                for end in range(edge + 1, min(edge + 4, size)):
                    if keys[end] < keys[edge]:
                        edge = end
                if keys[edge] >= key:
                    break
                keys[hole] = keys[edge]
                nodes[hole] = nodes[edge]
                hole = edge
            keys[hole] = key
            nodes[hole] = other
            if done[node]:
                continue
            # a node can be queued several times; the first entry has the least key
            done[node] = 1
            # the goal lies in its sector, but a better way may lead over others
            if rest[node] >= 0 and far[node] + rest[node] < state[1]:
                state[1] = far[node] + rest[node]
                state[2] = node
            for edge in range(first[node], first[node] + count[node]):
                end = ends[edge]
                cost = far[node] + costs[edge]
                if cost >= far[end] or done[end]:
                    continue
                far[end] = cost
                came[end] = node
                key = cost + value[end]
                hole = size  # a new entry rises from the end
                size += 1
                while hole and keys[(hole - 1) // 4] > key:
                    keys[hole] = keys[(hole - 1) // 4]
                    nodes[hole] = nodes[(hole - 1) // 4]
                    hole = (hole - 1) // 4
                keys[hole] = key
                nodes[hole] = end
    state[0] = size
    return found
