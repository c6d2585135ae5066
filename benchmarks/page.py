"""Write docs/benchmarks.md: ratios with peers, growth against the size of a board, memory a cell.

``python benchmarks/page.py`` takes some minutes. Every figure is measured in this run.
"""

import os
import platform
import subprocess
import sys
from pathlib import Path

import numpy as np
import peers
import ratios
import thinking
from fights import moved
from scipy.sparse.csgraph import dijkstra
from timing import least

import understep as us

DOCS = Path(__file__).parents[1] / "docs"
SIDES = [32, 64, 128, 256, 512, 1024]
SLOW = 512  # peers in Python are measured up to this side


def growth():
    """By what is measured and side: milliseconds, the best of some rounds."""
    found = {}

    def best(name, side, call, times):
        found.setdefault(name, {})[side] = least(call, times, 5) * 1e3

    first = peers.fen(SIDES[0])
    for side in SIDES:
        board = peers.fen(side)
        for col, row in np.ndindex(25, 25):  # the same surroundings on all
            here = first.terrain((SIDES[0] // 2 - 12 + col, SIDES[0] // 2 - 12 + row))
            board.paint(here, (side // 2 - 12 + col, side // 2 - 12 + row))
        middle = board.grid.numbering.number(board.unit("near").at)
        best("reach of 8 points", side, lambda board=board: peers.searched(board), 50)
        best("flood", side, lambda board=board: us.reach(board, "far", at=(1, 0)), 1)
        board.remove("near")
        goal = us.Cell(side - 1, side - 1)
        best("route across", side, lambda b=board, g=goal: us.route(b, "far", g, prefer="first"), 2)
        graph = peers.csr(board)
        best("flood: SciPy", side, lambda graph=graph: dijkstra(graph, indices=0), 1)
        if side <= SLOW:
            lists = peers.adjacency(board)
            near = lambda lists=lists, middle=middle: peers.heapq_flood(lists, middle, 8)  # noqa: E731
            best("reach of 8 points: heapq", side, near, 20)
            axial = board.grid.convert(board.grid.cells, "offset", "axial").tolist()
            places, end = list(map(tuple, axial)), board.grid.numbering.number(goal)
            star = lambda lists=lists, places=places, end=end: (  # noqa: E731
                peers.heapq_star(lists, places, 0, end)
            )
            best("route across: heapq", side, star, 1)
    return found


def crowd(units, sides=2, fogged=0):
    """A board of 128 x 128 with so many units of so many sides."""
    board, rng = us.Board(us.HexGrid(128, 128), {"turf": 1, "mud": 2}), np.random.default_rng(5)
    board.paint("mud", rng.random((128, 128)) < 0.3)
    for number, cell in enumerate(us.maps.scatter(board.grid, units, rng=6)):
        side, bow = f"side {number % sides}", us.Attack(1, 3)
        board.add(us.Unit(f"u{number}", side, us.Movement(5), sight=4, attack=bow), at=cell)
    for side in board.sides[:fogged]:
        us.fog(board, side)
    return board


def put(board):
    """A put of the first unit to a cell beside it, in a trial."""
    spots = moved(board, "u0")

    def work():
        with board.trial():
            board.put("u0", at=next(spots))

    return work


def against():
    """What grows with units, sides in fog and steps of undo: names, each with three times in us."""

    def times(calls):
        return [least(call, 20, 7) * 1e6 for call in calls]

    boards = [crowd(many) for many in (10, 100, 1000)]
    here = [board.unit("u0").at for board in boards]
    pairs = list(zip(boards, here, strict=True))
    yield (
        "a reach, among 10, 100, 1000 units",
        times([lambda b=b, at=at: us.reach(b, "u0", at=at) for b, at in pairs]),
    )
    yield "a put in a trial, among 10, 100, 1000 units", times(list(map(put, boards)))
    yield (
        "threats of 5, 50, 500 foes, found anew",
        times([lambda b=b: us.threats(b.copy(), "side 0", without="u0") for b in boards]),
    )
    fogs = [crowd(80, 8, fogged) for fogged in (1, 4, 8)]
    yield "a put in a trial, 1, 4, 8 sides in fog", times(list(map(put, fogs)))
    edited = []
    for steps in (1, 100, 1000):
        board = crowd(10)
        for number in range(steps):
            board.paint(("mud", "turf")[number % 2], (100, 100))
        edited.append(board)
    yield (
        "a reach after 1, 100, 1000 edits elsewhere",
        times([lambda b=b: us.reach(b, "u0", at=b.unit("u0").at) for b in edited]),
    )


def drawn(found, path):
    """The curves, each beside its peer."""
    from matplotlib.figure import Figure

    from understep.draw import _look as look

    drawing = Figure(figsize=(12.8, 5.2), facecolor=look.PAPER, layout="constrained")
    for place, name in enumerate(["reach of 8 points", "route across", "flood"]):
        axes = drawing.add_subplot(1, 3, place + 1, facecolor=look.PAPER)
        for line, style in (
            (name, "-"),
            *((each, "--") for each in found if each.startswith(f"{name}:")),
        ):
            sides, times = zip(*found[line].items(), strict=True)
            axes.plot(sides, times, style, color=look.INK, marker="o", label=line)
        axes.set(
            xscale="log", yscale="log", xlabel="side of the board, in cells", ylim=(0.001, 3e3)
        )
        axes.set_title(name, family="serif", loc="left", color=look.INK)
        axes.set_ylabel("milliseconds" if place == 0 else "")
        axes.set_xticks(SIDES, list(map(str, SIDES)))
        axes.minorticks_off()
        axes.grid(alpha=0.3)
        axes.spines[["top", "right"]].set_visible(False)
        axes.legend(frameon=False)
    drawing.savefig(path, dpi=100)


HELD = """
import sys
import numpy as np, understep as us
from ratios import resident as held
def make(n):
    return us.HexGrid(n, n) if sys.argv[1] == "hexes" else us.SquareGrid(n, n, diagonals=True)
small = us.Board(make(20), {"turf": 1, "mud": 2})
small.add(us.Unit("a", "s", us.Movement(9)), at=(1, 1)); us.reach(small, "a")
before = held()
board = us.Board(make(1500), {"turf": 1, "mud": 2})
board.paint("mud", np.arange(1500 * 1500).reshape(1500, 1500) % 3 == 0)
board.add(us.Unit("a", "s", us.Movement(10**6)), at=(1, 1))
alone = held()
us.areas(board, "a")
table = held()
us.route(board, "a", (1499, 1499)), us.route(board, "a", (0, 1499))
print(*[(b - a) / 1500**2 for a, b in ((before, alone), (alone, table), (table, held()))])
"""


def memory():
    """Bytes a cell of a board, of a movement's steps, of searches and their answers (Linux)."""
    rows = []
    for kind in ("hexes", "squares"):
        done = [
            subprocess.run(
                [sys.executable, "-c", HELD, kind],
                cwd=os.path.dirname(__file__),
                capture_output=True,
                text=True,
                check=True,
            ).stdout.split()
            for _ in range(3)
        ]
        rows.append((kind, *np.median(np.array(done, dtype=float), axis=0).round(0).astype(int)))
    return rows


PAGE = """\
# Benchmarks

Measured in one run of `python benchmarks/page.py`, library and peer in turn. Absolute times are
those of one machine; ratios travel better. Where others use the same processor, compiled loops slow
down more than Python does: for minutes a ratio against a peer in Python can be half of what it is
before and after. A goal that is not reached stays here, marked.

{kernel} kernel, Python {python}, NumPy {numpy}, {count} processors, {machine}.
Summing the squares of 100,000 numbers in a generator takes {plain} ms here.

## Against peers

A peer gets its graph ready-made, so that only the search is measured.

| what | peer | here | peer's | ratio | goal |
|---|---|---|---|---|---|
{rows}

## Single figures

| what | here | at most |
|---|---|---|
{limits}

## A computer player

Ten units a side on 40 x 30 hexes, attacks of range 1 to 4 that need sight; each call by itself.

| what | here | floor | goal |
|---|---|---|---|
{thinking}

## Growth

The same question on ever larger boards, in milliseconds: a short reach costs the same on all of
them, a route across grows with the cells it looks at, a flood with the board.

![growth against the side of the board](benchmarks.png)

| side | {sides} |
{rule}
{growth}

Microseconds on 128 x 128, against what else a board can hold:

| what | few | more | many |
|---|---|---|---|
{against}

## Memory

Bytes a cell, on a board of 1500 x 1500, as the process holds them:

| grid | the board | steps of a movement, and its areas | two routes across |
|---|---|---|---|
{memory}

## Large worlds

`python -m pytest -n 0 benchmarks/test_worlds.py` measures them: long routes on 2048 x 2048 with
crossings ready and with nothing ready, opening 10,000 x 10,000, and memory on long routes.
"""


def row(*cells):
    line = f"| {' | '.join(map(str, cells))} |"
    print(line, flush=True)
    return line


def compared():
    for what, peer, measure, _, goal in ratios.ROWS:
        mine, other, times = measure()
        met = times >= goal if goal > 0 else times <= -goal
        wanted = f"at {'least' if goal > 0 else 'most'} {abs(goal)}{'' if met else ' (not met)'}"
        yield row(
            what, peer, f"{mine * 1e3:.3g} ms", f"{other * 1e3:.3g} ms", f"{times:.2f}", wanted
        )


def limited():
    for what, measure, unit, limit in ratios.LIMITS:
        found = measure()
        missed = "" if found <= limit else " (not met)"
        yield row(what, f"{found:.3g} {unit}", f"{limit} {unit}{missed}")


def thought():
    for what, measure, unit, floor, goal in thinking.THINKING:
        found = measure()
        marks = [f"{each} {unit}{'' if found <= each else ' (not met)'}" for each in (floor, goal)]
        yield row(what, f"{found:.3g} {unit}", *marks)


def main():
    rows, limits, found = list(compared()), list(limited()), growth()
    drawn(found, DOCS / "benchmarks.png")
    grown = [
        row(name, *(f"{times[side]:.3g}" if side in times else "" for side in SIDES))
        for name, times in found.items()
    ]
    page = PAGE.format(
        kernel=us.kernels().capitalize(), python=platform.python_version(), numpy=np.__version__,
        count=os.cpu_count(), machine=platform.machine(),
        # what absolute times are to be compared with
        plain=f"{least(lambda: sum(i * i for i in range(100_000))) * 1e3:.3g}",
        rows="\n".join(rows), limits="\n".join(limits), growth="\n".join(grown),
        thinking="\n".join(thought()),
        against="\n".join(row(name, *map("{:.3g}".format, found)) for name, found in against()),
        sides=" | ".join(map(str, SIDES)), rule="|---" * (len(SIDES) + 1) + "|",
        memory="\n".join(row(*each) for each in memory()),
    )  # fmt: skip
    (DOCS / "benchmarks.md").write_text(page, "utf-8")


if __name__ == "__main__":
    main()
