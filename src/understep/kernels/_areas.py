"""The area kernel: which cells can be reached from each other, and back again.

R. Tarjan, Depth-first search and linear graph algorithms, SIAM J. Comput. 1 (1972), with a stack of
its own in place of recursion.
"""

from __future__ import annotations

try:
    import cython
except ImportError:
    from understep.kernels import _shim as cython


def strong(
    stands: cython.uchar[::1], codes: cython.uchar[::1], wide: cython.ushort[::1],
    shifts: cython.int[::1], cols: cython.int, staggered: cython.int, parity: cython.int,
    link_at: cython.int[::1], link_next: cython.int[::1], link_to: cython.int[::1],
    seen: cython.int[::1], low: cython.int[::1], area: cython.int[::1], stack: cython.int[::1],
    path: cython.int[::1], way: cython.int[::1],
) -> int:
    """Write the area of every cell where a unit can stand, and say how many there are.

    Areas are numbered so that steps from one to another lead to lower numbers. ``seen`` comes full
    of zeros and ``area`` of -1; the other arrays, of the board's size too, as they are. ``way``
    counts directions, and after them links.
    """
    directions: cython.int = cython.cast(cython.int, shifts.shape[0] // 2)
    start: cython.int
    cell: cython.int
    other: cython.int
    row: cython.int
    line: cython.int
    step: cython.int
    base: cython.Py_ssize_t
    order: cython.int = 0
    held: cython.int = 0
    depth: cython.int
    count: cython.int = 0
    with cython.nogil:
        for start in range(cython.cast(cython.int, stands.shape[0])):
            if stands[start] == 0 or seen[start]:
                continue
            # the walk keeps its own stack: recursion could be as deep as the board has cells
            order += 1
            seen[start] = order
            low[start] = order
            stack[held] = start
            held += 1
            path[0] = start
            way[0] = 0
            depth = 1
            while depth:
                cell = path[depth - 1]
                step = way[depth - 1]
                other = -1
                if step < directions:
                    way[depth - 1] = step + 1
                    base = cython.cast(cython.Py_ssize_t, cell) * directions + step
                    if (wide[base] if wide.shape[0] else codes[base]) > 1:
                        row = cell // cols
                        line = 0
                        if staggered:
                            line = ((row if staggered == 1 else cell - row * cols) + parity) & 1
                        other = cell + shifts[line * directions + step]
                # links come after all directions; the number of the last one tells which is next
                elif link_at.shape[0]:
                    line = link_at[cell] if step == directions else link_next[step - directions]
                    if line:
                        other = link_to[line]
                        way[depth - 1] = directions + line
                    else:
                        step = -1
                else:
                    step = -1
                if other >= 0:
                    if seen[other] == 0:
                        order += 1
                        seen[other] = order
                        low[other] = order
                        stack[held] = other
                        held += 1
                        path[depth] = other
                        way[depth] = 0
                        depth += 1
                    # only from what is still on the stack a way leads back to here
                    elif area[other] < 0 and seen[other] < low[cell]:
                        low[cell] = seen[other]
                elif step < 0:  # no more steps from here
                    depth -= 1
                    # no way leads back before it, so that all above it on the stack are one area
                    if low[cell] == seen[cell]:
                        other = -1
                        while other != cell:
                            held -= 1
                            other = stack[held]
                            area[other] = count
                        count += 1
                    if depth and low[cell] < low[path[depth - 1]]:
                        low[path[depth - 1]] = low[cell]
    return count
