"""Prints the speed ratios that the library promises, each against a peer in the same run.

``python benchmarks/ratios.py`` takes about a minute. Every figure is the median of rounds in which
the library and its peer take turns, so that a noisy machine disturbs both. A round times several
calls in a row, the short ones more often, as a game makes them.
"""

import os
import subprocess
import sys
import time
from statistics import median

import peers
from rich.console import Console
from rich.table import Table
from scipy.sparse.csgraph import dijkstra

import understep as us


def seconds(call, times):
    start = time.perf_counter()
    for _ in range(times):
        call()
    return (time.perf_counter() - start) / times


def ratio(mine, peer, rounds=9, times=1, peer_times=1):
    """Medians of both, and the median of peer / mine."""
    mine(), peer()
    pairs = [(seconds(mine, times), seconds(peer, peer_times)) for _ in range(rounds)]
    return (
        median(a for a, _ in pairs), median(b for _, b in pairs), median(b / a for a, b in pairs)
    )  # fmt: skip


def flood():
    board = peers.fen(1000)
    graph = peers.csr(board)
    return ratio(
        lambda: us.reach(board, "far"),
        lambda: dijkstra(graph, indices=0, return_predecessors=True),
    )


def star(prefer):
    board = peers.fen(256)
    board.remove("near")
    lists = peers.adjacency(board)
    goal = us.Cell(255, 255)
    places = list(map(tuple, board.grid.convert(board.grid.cells, "offset", "axial").tolist()))
    number = board.grid.number(goal)
    cost, _ = peers.heapq_star(lists, places, 0, number)
    if us.route(board, "far", goal).cost != cost:
        raise SystemExit("the peer finds another cost")
    return ratio(
        lambda: us.route(board, "far", goal, prefer=prefer),
        lambda: peers.heapq_star(lists, places, 0, number),
        rounds=9,
        times=20,
        peer_times=2,
    )


def short():
    board = peers.fen(64)
    lists = peers.adjacency(board)
    start = board.grid.number(board.unit("near").at)
    if len(us.reach(board, "near")) != len(peers.heapq_flood(lists, start, 8)):
        raise SystemExit("the peer finds other cells")
    return ratio(
        lambda: peers.searched(board),
        lambda: peers.heapq_flood(lists, start, 8),
        rounds=31, times=200, peer_times=50,
    )  # fmt: skip


def size():
    boards = [peers.fen(64), peers.fen(2000)]
    for board in boards[1:]:  # the same surroundings on both
        for col in range(-12, 13):
            for row in range(-12, 13):
                board.paint(boards[0].terrain((32 + col, 32 + row)), (1000 + col, 1000 + row))
    first, second = (us.reach(board, "near") for board in boards)
    if len(first) != len(second):
        raise SystemExit("the surroundings differ")
    return ratio(
        lambda: peers.searched(boards[0]), lambda: peers.searched(boards[1]),
        rounds=31, times=200, peer_times=200,
    )  # fmt: skip


def million(work, target):
    """A million conversions against a plain copy of what they give."""
    result = target()
    mine, other, times = ratio(work, result.copy, rounds=15, times=1, peer_times=3)
    return mine, other, 1 / times


def to_cube():
    cells = peers.million_cells()
    return million(*[lambda: us.convert(cells, "offset", "cube")] * 2)


def to_world():
    cells, grid = peers.million_cells(), us.HexGrid(1000, 1000)
    return million(*[lambda: grid.center(cells)] * 2)


def from_world():
    cells, grid = peers.million_cells(), us.HexGrid(1000, 1000)
    points = grid.center(cells)
    return million(lambda: grid.cells_at(points), lambda: cells)


def starting():
    def run(what):
        code = "import time; t = time.perf_counter(); import {}; print(time.perf_counter() - t)"
        # with byte code, as an installed package has it
        env = {k: v for k, v in os.environ.items() if k != "PYTHONDONTWRITEBYTECODE"}
        done = subprocess.run(
            [sys.executable, "-c", code.format(what)],
            capture_output=True, text=True, check=True, env=env,
        )  # fmt: skip
        return float(done.stdout)

    run("understep"), run("numpy")
    pairs = [(run("understep"), run("numpy")) for _ in range(15)]
    return median(a for a, _ in pairs), median(b for _, b in pairs), median(a / b for a, b in pairs)


ROWS = [
    ("flood of 1000 x 1000", "SciPy Dijkstra, CSR", flood, 3, 4),
    ("A* across 256 x 256, first", "heapq A*, lists", lambda: star("first"), 40, 50),
    ("A* across 256 x 256, straight", "heapq A*, lists", lambda: star("straight"), 20, 30),
    ("8-point reach", "heapq Dijkstra, lists", short, 3, 5),
    ("8-point reach, 64 x 64 against 2000 x 2000", "the larger board", size, -1.5, -1.2),
    ("a million cells, offset to cube", "copy of the result", to_cube, -10, -5),
    ("a million cells to world points", "copy of the result", to_world, -10, -5),
    ("a million world points to cells", "copy of the result", from_world, -40, -20),
    ("import", "import numpy", starting, -1.3, -1.3),
]


def main():
    table = Table("what", "peer", "here", "peer's", "ratio", "wanted", "goal")
    wanted = sys.argv[1:]
    for what, peer, measure, floor, goal in ROWS:
        if wanted and not any(word in what for word in wanted):
            continue
        mine, other, times = measure()
        words = [f"at {'most' if x < 0 else 'least'} {abs(x)}" for x in (floor, goal)]
        table.add_row(
            what, peer, f"{mine * 1e3:.3g} ms", f"{other * 1e3:.3g} ms", f"{times:.2f}", *words
        )
    Console().print(f"{us.kernels()} kernel", table)


if __name__ == "__main__":
    main()
