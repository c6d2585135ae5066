"""Chokes: the points of a graph without which it falls apart."""

from __future__ import annotations

from understep.grids.cell import IntArray


def cut_points(steps: IntArray) -> list[int]:
    """The articulation points of a graph, in order.

    By depth-first search (Hopcroft and Tarjan 1973), without recursion.

    Parameters
    ----------
    steps
        Pairs of nodes ``(n, 2)`` that a step leads from and to; it counts where one leads back.
    """
    known = set(map(tuple, steps.tolist()))
    links: dict[int, list[int]] = {}
    for a, b in sorted(known):
        if (b, a) in known and a != b:
            links.setdefault(a, []).append(b)
    seen: dict[int, int] = {}  # nodes by when they were met
    low: dict[int, int] = {}  # the earliest that can be got at from beyond each
    found: set[int] = set()
    for root in links:
        if root in seen:
            continue
        seen[root] = low[root] = len(seen)
        branches, stack = 0, [(root, root, iter(links[root]))]
        while stack:
            here, before, rest = stack[-1]
            for there in rest:
                if there not in seen:
                    seen[there] = low[there] = len(seen)
                    stack.append((there, here, iter(links[there])))
                    break
                if there != before:
                    low[here] = min(low[here], seen[there])
            else:
                stack.pop()
                low[before] = min(low[before], low[here])
                if here != root and before == root:
                    branches += 1
                elif here != root and low[here] >= seen[before]:
                    found.add(before)
        if branches > 1:
            found.add(root)
    return sorted(found)
