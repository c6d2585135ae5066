"""Worlds of 2048 x 2048 and 10,000 x 10,000 cells, against flat A* on one board."""

import os
import subprocess
import sys

import pytest
from ratios import ratio

import understep as us

SIZE = 2048
FOOT = us.Movement(points=8)
GOAL = us.Cell(2041, 2047)
START = us.Cell(0, 3)


def make(first, cols, rows):
    return us.worlds.delta(7, cols, rows, first=first, units=False)


def world(sector):
    made = us.worlds.World(make, SIZE, SIZE, sector=sector)
    made.add(us.Unit("scout", "wardens", FOOT), at=START)
    made.board(GOAL, 1, 1)
    return made


@pytest.mark.benchmark(group="long route, 2048 x 2048")
def test_long_route_with_crossings_ready(benchmark):
    land = us.worlds.delta(7, SIZE, SIZE, units=False)
    land.add(us.Unit("scout", "wardens", FOOT), at=START)
    flat = lambda: us.route(land, "scout", goals=GOAL, prefer="first")  # noqa: E731
    there = world(64)
    plan = lambda: there.plan("scout", GOAL).piece()  # noqa: E731
    plan(), flat()
    benchmark.extra_info["dearer"] = there.plan("scout", GOAL).cost / flat().cost
    whole = lambda: there.plan("scout", GOAL)  # noqa: E731
    benchmark.extra_info["the plan alone: seconds, flat A*, ratio"] = ratio(whole, flat)
    benchmark.extra_info["with the first piece"] = ratio(plan, flat)
    benchmark(plan)
    print(benchmark.extra_info)
    assert benchmark.extra_info["dearer"] <= 1.15


@pytest.mark.benchmark(group="first answer, nothing ready but two sectors awake")
def test_first_answer(benchmark):
    found = []
    benchmark.pedantic(
        lambda there: found.append(there.plan("scout", GOAL, weight=2).piece()[1]),
        setup=lambda: ((world(128),), {}), rounds=5,
    )  # fmt: skip
    assert all(found)


@pytest.mark.benchmark(group="10,000 x 10,000")
def test_a_large_world_opens_and_gives_a_board(benchmark):
    def opened():
        return us.worlds.World(make, 10_000, 10_000).board((5_000, 5_000), 40, 30)

    assert benchmark(opened).grid.size == (40, 30)


LONG = """
import numpy as np
import understep as us
from ratios import resident
from test_worlds import FOOT, START, make
there = us.worlds.World(make, 10_000, 10_000, memory=128 << 20)
there.add(us.Unit("scout", "wardens", FOOT), at=START)
before, most = resident(), 0
for goal in np.random.default_rng(1).integers(0, 10_000, (4, 2)).tolist():
    there.plan("scout", goal, weight=4)
    most = max(most, resident())
print(most - before >> 20)
"""


@pytest.mark.benchmark(group="memory")
def test_memory_stays_near_its_limit(benchmark):
    """Routes of thousands of cells, in a process of their own (Linux); MiB held after each."""

    def run():
        here = os.path.dirname(__file__)
        done = subprocess.run(
            [sys.executable, "-c", LONG], cwd=here, capture_output=True, text=True, check=True
        )
        return int(done.stdout)

    most = benchmark.pedantic(run, rounds=1)
    print("MiB more at the peak, of 128:", most)
    assert most < 128 * 1.25
