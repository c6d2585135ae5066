"""The boards of the benchmarks, and the peers that are measured beside the library.

A peer gets its graph ready-made, so that only the search is measured.
"""

import heapq

import numpy as np
from scipy.sparse import csr_matrix

import understep as us
from understep.kernels.marks import SHIFT
from understep.rules.steps import step_table


def million_cells():
    """Cells of a board of 1000 x 1000, in no order."""
    return np.random.default_rng(1).integers(0, 1000, (1_000_000, 2))


def fen(side, seed=1):
    """A hex board, costs 1 to 3, a sixth blocked; a unit in the corner, one in the middle."""
    rng = np.random.default_rng(seed)
    grid = us.HexGrid(side, side)
    board = us.Board(grid, {"turf": 1, "reeds": 2, "mud": 3, "deep": None})
    cost = rng.integers(0, 3, side * side)
    cost[rng.random(side * side) < 1 / 6] = 3
    middle = (side // 2, side // 2)
    for spot in ((0, 0), (side - 2, side - 2), middle):  # nobody is walled in
        for number in (0, 1, side, side + 1):
            cost[grid.numbering.number(us.Cell(*spot)) + number] = 0
    for code, name in enumerate(board.terrains):
        board.paint(name, grid.numbering.cells_of(np.flatnonzero(cost == code)))
    far = us.Movement(points=10**7)
    board.add(us.Unit("far", "ours", far), at=(0, 0))
    board.add(us.Unit("near", "ours", us.Movement(points=8)), at=middle)
    return board


def hills(side):
    """A board of squares with eight neighbors, four terrains, levels and edges of three kinds."""
    rng = np.random.default_rng(3)
    edges = {"wall": us.Edge(blocks=True), "road": us.Edge(cost=1), "ditch": us.Edge(add=1)}
    terrain = {"turf": 1, "reeds": 2, "mud": 3, "deep": None}
    board = us.Board(us.SquareGrid(side, side, diagonals=True), terrain, edges=edges)
    cells = board.grid.cells.array
    for name, share in (("reeds", 0.25), ("mud", 0.2), ("deep", 0.15)):
        board.paint(name, cells[rng.random(len(cells)) < share])
    board.set_elevation(rng.integers(0, 4, len(cells)), cells)
    for way, kind in enumerate(edges):
        board.lay_beside(kind, cells[rng.random(len(cells)) < 0.02], 2 * way)
    return board


def searched(board):
    """The reach of the unit in the middle, found anew, not taken from what is kept."""
    return us.reach(board, "near", at=(board.grid.cols // 2, board.grid.rows // 2))


def edges(board):
    """Sources, targets and costs of every step, built from the grid's geometry."""
    grid = board.grid
    cells = grid.cells.array
    cost = np.array(
        [-1 if kind.cost is None else int(kind.cost) for kind in board.terrains.values()]
    )
    price = cost[board.terrain_codes().ravel()]
    sources, targets = [], []
    for way in range(len(grid.directions)):
        there = cells + grid.lattice.deltas[grid.lattice.lines(cells), way]
        inside = ((there >= 0) & (there < grid.size)).all(axis=1)
        source, target = np.flatnonzero(inside), grid.numbering.numbers(there[inside])
        passable = price[target] > 0
        sources.append(source[passable])
        targets.append(target[passable])
    source, target = np.concatenate(sources), np.concatenate(targets)
    return source, target, price[target]


def csr(board):
    source, target, cost = edges(board)
    count = board.grid.cols * board.grid.rows
    return csr_matrix((cost.astype(float), (source, target)), shape=(count, count))


def csr_of_steps(board, movement):
    """Every step of a movement as its step table has it."""
    table, grid = step_table(board, movement, ""), board.grid
    table.fill()
    codes, cells = table.by_cell(), grid.cells.array
    source, way = np.nonzero(codes > 1)
    target = grid.numbering.numbers(grid.lattice.around(cells))[source, way]
    cost = (np.asarray(table.views[2])[codes[source, way]] >> SHIFT).astype(float)
    return csr_matrix((cost, (source, target)), shape=(len(cells), len(cells)))


def adjacency(board):
    lists = [[] for _ in range(board.grid.cols * board.grid.rows)]
    for source, target, cost in zip(*(part.tolist() for part in edges(board)), strict=True):
        lists[source].append((target, cost))
    return lists


def heapq_flood(lists, start, most):
    """Dijkstra up to a cost, with predecessors; tight Python."""
    best, before, heap = {start: 0}, {}, [(0, start)]
    push, pop = heapq.heappush, heapq.heappop
    while heap:
        cost, here = pop(heap)
        if cost > best[here]:
            continue
        for there, price in lists[here]:
            total = cost + price
            if total <= most and total < best.get(there, most + 1):
                best[there] = total
                before[there] = here
                push(heap, (total, there))
    return best


def heapq_star(lists, places, start, goal):
    """A* with the hex distance as estimate, from ready-made axial places; tight Python."""
    infinite = 1 << 60
    goal_q, goal_r = places[goal]
    best, before = [infinite] * len(lists), [-1] * len(lists)
    best[start] = 0
    heap = [(0, 0, start)]
    push, pop = heapq.heappush, heapq.heappop
    while heap:
        _, cost, here = pop(heap)
        if here == goal:
            break
        if cost > best[here]:
            continue
        for there, price in lists[here]:
            total = cost + price
            if total < best[there]:
                best[there] = total
                before[there] = here
                q, r = places[there]
                q -= goal_q
                r -= goal_r
                far = (abs(q) + abs(r) + abs(q + r)) >> 1
                push(heap, (total + far, total, there))
    way = [goal]
    while way[-1] != start:
        way.append(before[way[-1]])
    return best[goal], way
