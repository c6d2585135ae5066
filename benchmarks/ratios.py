"""Prints the speed ratios that the library promises, each against a peer in the same run.

``python benchmarks/ratios.py`` takes about a minute. Every figure is the median of rounds in which
the library and its peer take turns, so that a noisy machine disturbs both. A round times several
calls in a row, the short ones more often, as a game makes them.
"""

import itertools
import os
import pickle
import subprocess
import sys
import tempfile
from statistics import median

import numpy as np
import peers
from fights import (
    armed,
    attacking,
    prospecting,
    threatened,
    threatening,
    ticking,
    turn,
)  # fmt: skip
from rich.console import Console
from rich.table import Table
from scipy.sparse.csgraph import dijkstra
from timing import ratio, seconds

import understep as us
from understep.moves.workspace import pool
from understep.rules.steps import step_table


def flood():
    board = peers.fen(1000)
    graph = peers.csr(board)
    return ratio(
        lambda: us.reach(board, "far"),
        lambda: dijkstra(graph, indices=0, return_predecessors=True),
    )


def general():
    """A flood where costs go by steps: diagonals, edges of three kinds, levels."""
    board = peers.hills(500)
    start = next(cell for cell in board.grid if board.terrain(cell) != "deep")
    rules = {"diagonal": 1.5, "corners": "one", "climb": 2, "drop": 3, "uphill": 1}
    board.add(us.Unit("far", "ours", us.Movement(10**6, **rules)), at=start)
    graph = peers.csr_of_steps(board, board.unit("far").movement)
    number = board.grid.numbering.number(start)
    count = np.isfinite(dijkstra(graph, indices=number)).sum()
    if len(us.reach(board, "far")) != count:
        raise SystemExit("the peer finds other cells")
    return ratio(
        lambda: us.reach(board, "far", at=start),
        lambda: dijkstra(graph, indices=number, return_predecessors=True),
    )


def many(threads=1):
    """A thousand 8-point reaches in one call against one by one, or in two threads against one."""
    board = peers.fen(256)
    cells = [cell for cell in board.grid if board.terrain(cell) != "deep"][::50][:1000]
    others = {
        1: lambda: [us.reach(board, "near", at=cell) for cell in cells],
        2: lambda: us.reaches(board, "near", at=cells),
    }
    return ratio(
        lambda: us.reaches(board, "near", at=cells, threads=threads), others[threads], rounds=15
    )


def star(prefer):
    board = peers.fen(256)
    board.remove("near")
    lists = peers.adjacency(board)
    goal = us.Cell(255, 255)
    places = list(map(tuple, board.grid.convert(board.grid.cells, "offset", "axial").tolist()))
    number = board.grid.numbering.number(goal)
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
    start = board.grid.numbering.number(board.unit("near").at)
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


def edit():
    """A cell painted next to the unit, then its reach, against the reach alone."""
    board = peers.fen(1000)
    spot = board.unit("near").at
    names = itertools.cycle(["mud", "reeds"])

    def edited():
        board.paint(next(names), (spot[0] + 1, spot[1]))
        return peers.searched(board)

    mine, other, times = ratio(
        edited, lambda: peers.searched(board), rounds=31, times=200, peer_times=200
    )
    return mine, other, 1 / times


def refreshed():
    """A field after an edit, from the one before, against one made anew."""
    board = peers.fen(1000)
    goals = [(10, 10), (900, 900), (500, 100)]
    field = us.field(board, "near", goals)
    board.paint("mud", (700, 300))
    return ratio(field.refreshed, lambda: us.field(board, "near", goals))


def manned():
    """A board of 40 x 30 with twenty units, both sides in fog."""
    board, rng = us.Board(us.HexGrid(40, 30), {"turf": 1, "mud": 2}), np.random.default_rng(1)
    board.paint("mud", rng.random((30, 40)) < 0.3)
    board.set_elevation(rng.integers(0, 3, (30, 40)))
    for number, cell in enumerate(us.maps.scatter(board.grid, 20, rng=2)):
        side = ["wardens", "wreckers"][number % 2]
        unit = us.Unit(f"u{number}", side, us.Movement(6), sight=5, data={"health": 3})
        board.add(unit, at=cell)
    for side in board.sides:
        us.fog(board, side)
    return board


def pickling():
    """A pickle of a board against one of its arrays alone."""
    board = manned()
    known = [board, *(board.knowledge(side).board for side in board.fogged)]
    arrays = [store.array for each in known for store in each._contents.stores.values()
              if hasattr(store, "array")]  # fmt: skip
    arrays += [each.counts.array for each in known[1:]]
    arrays += [view for each in known[1:] for view in each.views.values.values()]
    mine, other, times = ratio(
        lambda: pickle.dumps(board), lambda: pickle.dumps(arrays), 15, 20, 20
    )
    return mine, other, 1 / times


def digesting():
    """A move with the digest after it against the move alone, without fog."""
    board = manned()
    for side in board.fogged:
        board.lift_fog(side)
    free = [cell for cell in board.grid if board.can_stand("u0", cell)][:2]
    spots = itertools.cycle(free)

    def work():
        board.put("u0", at=next(spots))
        return board.digest()

    mine, other, times = ratio(work, lambda: board.put("u0", at=next(spots)), 15, 500, 500)
    return mine, other, 1 / times


def explaining():
    """Why a cell across a river cannot be got to, and what would help, against a flood."""
    board = peers.fen(64)
    board.paint("deep", [(40, row) for row in range(64)])
    goal = next(cell for cell in board.grid.rectangle((50, 20), (60, 40)) if
                board.terrain(cell) != "deep" and board.unit_at(cell) is None)  # fmt: skip
    mine, other, times = ratio(
        lambda: us.explain(board, "near", goal),
        lambda: us.reach(board, "near", turns=None, at=board.unit("near").at), 9, 3, 20,
    )  # fmt: skip
    return mine, other, 1 / times


def weighted():
    """A weighted search against an exact one."""
    board = peers.fen(256)
    board.remove("near")
    goal = us.Cell(255, 255)
    return ratio(
        lambda: us.route(board, "far", goal, weight=2),
        lambda: us.route(board, "far", goal, prefer="first"),
        times=20, peer_times=20,
    )  # fmt: skip


def first_reach():
    """The very first short reach on a board of 2000 x 2000, in milliseconds."""
    warm, times = peers.fen(64), []
    us.reach(warm, "near")
    for seed in range(5):
        board = peers.fen(2000, seed)
        times.append(seconds(lambda board=board: us.reach(board, "near"), 1) * 1e3)
    return median(times)


def whole_table():
    """A whole step table of 500 x 500 with diagonals, edges and elevation, in milliseconds."""
    board, times = peers.hills(500), []
    for price in range(9):
        movement = us.Movement(
            8, {"mud": 4 + price}, diagonal=1.5, corners="one", climb=2, drop=3, uphill=1
        )
        times.append(seconds(lambda movement=movement: step_table(board, movement, "").fill(), 1))
    return median(times) * 1e3


def replanning():
    """Fifty units that take their next steps from a new field to three goals, in milliseconds."""
    board = peers.fen(64)
    spots = [cell for cell in board.grid if board.terrain(cell) != "deep"][::70][:50]

    def plan():
        field = us.field(board, "near", [(3, 3), (60, 5), (30, 60)])
        return [field.next(spot) for spot in spots]

    plan()
    return median(seconds(plan, 5) for _ in range(9)) * 1e3


def views():
    """The views of a hundred units, of radius 8 on 256 x 256, in milliseconds."""
    rng = np.random.default_rng(1)
    board = us.Board(us.HexGrid(256, 256), {"turf": 1, "reeds": us.Terrain(2, cover=1)})
    board.paint("reeds", rng.random((256, 256)) < 0.15)
    names = [f"u{number}" for number in range(100)]
    spots = us.maps.scatter(board.grid, 100, rng=1, keep_out=board.grid.rectangle((0, 0), (255, 9)))
    for name, spot in zip(names, spots, strict=True):
        board.add(us.Unit(name, "ours", us.Movement(4), sight=8), at=spot)
    us.view(board, names[0])
    return (
        median(seconds(lambda: [us.view(board, name) for name in names], 1) for _ in range(15))
        * 1e3
    )


def hovering():
    """A frame of a hover loop on 64 x 64: point, intent, route, ribbon, overlay changes, in ms."""
    board, rng = armed(), np.random.default_rng(5)
    middle = board.center(board.unit("archer").at)
    points = [tuple(middle + rng.normal(0, 6, 2)) for _ in range(200)]
    reach = us.reach(board, "archer")
    wash = us.attacks(board, "archer").overlay()

    def frames():
        before = None
        for point in points:
            intent = us.intent(reach, board.cell_at(point))
            if intent.route is not None:
                us.ribbon(intent.route)
            shown = us.Overlays([wash, intent.overlay()])
            shown.changes(before)
            before = shown

    frames()
    return median(seconds(frames, 1) for _ in range(9)) * 1e3 / len(points)


def drawing():
    """A figure of 200 x 200 with a reach of three turns, written as PNG, in seconds."""
    rng = np.random.default_rng(1)
    board = us.Board(us.HexGrid(200, 200), {"turf": 1, "mud": 2, "deep": None})
    board.paint("mud", rng.random((200, 200)) < 0.2)
    board.paint("deep", rng.random((200, 200)) < 0.1)
    board.paint("turf", (100, 100))
    board.add(us.Unit("scout", "ours", us.Movement(30)), at=(100, 100))
    reach = us.reach(board, "scout", turns=3)

    with tempfile.TemporaryDirectory() as folder:
        path = os.path.join(folder, "large.png")
        us.draw.figure(board, path=path)
        return median(seconds(lambda: us.draw.figure(board, reach, path=path), 1) for _ in range(3))


def memory():
    """Bytes a cell that a movement adds to a board of 2000 x 2000, all steps compiled."""
    done = subprocess.run(
        [sys.executable, __file__, "--memory"], capture_output=True, text=True, check=True
    )
    return float(done.stdout)


def resident():
    """Resident bytes of this process (Linux)."""
    with open("/proc/self/statm") as statm:
        return int(statm.read().split()[1]) * os.sysconf("SC_PAGE_SIZE")


def print_memory():
    board = us.Board(us.HexGrid(2000, 2000), {"turf": 1, "mud": 2})
    board.add(us.Unit("near", "ours", us.Movement(points=8)), at=(1000, 1000))
    small = us.Board(us.HexGrid(20, 20), {"turf": 1, "mud": 2})
    small.add(us.Unit("near", "ours", us.Movement(points=8)), at=(10, 10))
    us.route(small, "near", (2, 2))
    board.paint("mud", [(1, 1)])
    before = resident()
    step_table(board, board.unit("near").movement, "ours").fill()
    workspace = pool(board, 1).lease()
    workspace.make_window(1 << 51)  # writes all marks, as if every cell had been searched
    np.asarray(workspace.slot()[0])[:] = 0
    print((resident() - before) / 4_000_000)


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
    ("flood of 1000 x 1000", "SciPy Dijkstra, CSR", flood, 6, 10),
    ("flood by steps, 500 x 500: diagonals, edges, levels", "SciPy Dijkstra, CSR", general, 4, 6),
    ("A* across 256 x 256, first", "heapq A*, lists", lambda: star("first"), 90, 150),
    ("A* across 256 x 256, straight", "heapq A*, lists", lambda: star("straight"), 90, 150),
    ("8-point reach", "heapq Dijkstra, lists", short, 15, 30),
    ("1,000 8-point reaches in one call", "one by one", many, 3, 6),
    ("the same in two threads", "one thread", lambda: many(2), 1.5, 1.5),
    ("8-point reach, 64 x 64 against 2000 x 2000", "the larger board", size, -1.2, -1.1),
    ("an edit, then an 8-point reach, 1000 x 1000", "the reach alone", edit, -1.6, -1.3),
    ("a field after an edit, 1000 x 1000", "made anew", refreshed, 2, 4),
    ("A* across 256 x 256, weight 2", "weight 1, first", weighted, 1.5, 3),
    ("a million cells, offset to cube", "copy of the result", to_cube, -10, -5),
    ("a million cells to world points", "copy of the result", to_world, -10, -5),
    ("a million world points to cells", "copy of the result", from_world, -40, -20),
    ("a board with fog, pickled", "its arrays, pickled", pickling, -3, -2),
    ("a move and the digest after it", "the move", digesting, -1.5, -1.2),
    ("prospects of ten units among ten foes, 40 x 30", "each cell in a trial", prospecting, 25, 50),
    ("a tick (put and reach), world of 600 x 600", "a held board, 100 x 100", ticking, -2, -1.5),
    ("why not, and what would help, 64 x 64", "a flood", explaining, -3, -3),
    ("import", "import numpy", starting, -1.25, -1.15),
]

LIMITS = [
    ("first 8-point reach, fresh 2000 x 2000", first_reach, "ms", 5),
    ("whole step table, 500 x 500", whole_table, "ms", 20),
    ("50 units by a new field, 64 x 64", replanning, "ms", 16),
    ("100 views of radius 8, 256 x 256", views, "ms", 5),
    ("attacks after moving, 6 points, targets", attacking, "ms", 1),
    ("threats of 30 foes, 64 x 64", threatening, "ms", 10),
    ("threats of 10 foes after a move, 40 x 30", threatened, "ms", 0.1),
    ("a frame of a hover loop, 64 x 64", hovering, "ms", 1),
    ("figure of 200 x 200, reach of three turns", drawing, "s", 2),
    ("a turn of 20 units in fog, with trials", turn, "ms", 100),
    ("memory of a movement, 2000 x 2000", memory, "bytes a cell", 24),
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
    limits = Table("what", "here", "at most")
    for what, measure, unit, limit in LIMITS:
        if not wanted or any(word in what for word in wanted):
            limits.add_row(what, f"{measure():.3g} {unit}", f"{limit} {unit}")
    Console().print(f"{us.kernels()} kernel", table, limits)


if __name__ == "__main__":
    print_memory() if sys.argv[1:] == ["--memory"] else main()
