"""A journey across 10,000 x 10,000 cells, planned and walked to its end, with others on the way.

Takes minutes: run it by itself. ``benchmarks/far.py [SIZE]``
"""

import random
import sys
import time

from ratios import resident

import understep as us

MEMORY = 256 << 20
FOOT = us.Movement(points=8)


def make(first, cols, rows):
    return us.worlds.delta(7, cols, rows, first=first, units=False)


def near_corner(world, corner):
    """A cell near a corner from which much land can be reached."""
    board = world.near(corner)
    areas = us.areas(board, FOOT)
    cells = max((areas.cells_of(number) for number in range(len(areas))), key=len)
    return min(cells, key=lambda cell: board.grid.distance(cell, corner))


def main(size):
    rng, before = random.Random(2), resident()
    saved = {}

    def stored(first, cols, rows):
        return saved[first].copy() if first in saved else make(first, cols, rows)

    world = us.worlds.World(
        stored, size, size, memory=MEMORY,
        save=lambda first, board: saved.__setitem__(first, board.copy()),
    )  # fmt: skip
    start, goal = (near_corner(world, (at, at)) for at in (40, size - 40))
    world.add(us.Unit("scout", "wardens", FOOT, sight=6), at=start)
    clock = time.perf_counter()
    journey = world.plan("scout", goal, weight=2)
    most = resident()
    planning = time.perf_counter() - clock
    print(f"from {tuple(start)} to {tuple(goal)}: {journey!r}, {len(journey.crossings)} crossings")
    print(f"planned in {planning:.0f} s, {journey.looked} sectors looked into")
    turns, edits, others, clock = 0, 0, 0, time.perf_counter()
    while not journey.done:
        board, ahead = journey.piece()
        if not ahead:
            raise SystemExit(f"stuck at {tuple(world.unit('scout').at)}: {ahead.why}")
        while ahead and us.walk(board, "scout", ahead).finish().ending != "arrived":
            board.set_left("scout", None)
            turns += 1
            if turns % 20 == 0:  # somebody stands in its way, or the way is mud
                spot = ahead.cells[min(len(ahead.cells) - 2, 20)]
                if board.unit_at(spot) is None and rng.random() < 0.5:
                    world.add(us.Unit(f"raider{turns}", "wreckers", FOOT), at=spot)
                    others += 1
                elif board.unit_at(spot) is None:
                    board.paint("mud", spot)
                    edits += 1
            if board.unit("scout").at != ahead.goal:
                ahead = us.route(board, "scout", ahead.goal)
        most = max(most, resident())
    spent = time.perf_counter() - clock
    print(f"walked in {turns} turns, {spent:.0f} s: {spent / turns * 1e3:.1f} ms a turn")
    print(f"{others} others and {edits} edits on the way, {len(saved)} sectors saved")
    print(f"memory at most {(most - before) >> 20} MiB more, of {MEMORY >> 20} allowed")


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 10_000)
