"""Worlds of 2048 x 2048 and 10,000 x 10,000 cells, against flat A* on one board."""

import resource

import numpy as np
import pytest
from ratios import ratio

import understep as us

SIZE = 2048
FOOT = us.Movement(points=8)
GOAL = us.Cell(2041, 2047)
START = us.Cell(0, 3)


def make(first, cols, rows):
    return us.delta(7, cols, rows, first=first, units=False)


def world(sector):
    made = us.World(make, SIZE, SIZE, sector=sector)
    made.add(us.Unit("scout", "wardens", FOOT), at=START)
    made.board(GOAL, 1, 1)
    return made


@pytest.mark.benchmark(group="long route, 2048 x 2048")
def test_long_route_with_crossings_ready(benchmark):
    land = us.delta(7, SIZE, SIZE, units=False)
    land.add(us.Unit("scout", "wardens", FOOT), at=START)
    flat = lambda: us.route(land, "scout", to=GOAL, prefer="first")  # noqa: E731
    there = world(64)
    plan = lambda: there.plan("scout", GOAL).piece()  # noqa: E731
    plan(), flat()
    benchmark.extra_info["dearer"] = there.plan("scout", GOAL).cost / flat().cost
    benchmark.extra_info["seconds, flat A*, ratio"] = ratio(plan, flat)
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
        return us.World(make, 10_000, 10_000).board((5_000, 5_000), 40, 30)

    assert benchmark(opened).grid.size == (40, 30)


@pytest.mark.benchmark(group="memory")
def test_memory_stays_under_its_limit(benchmark):
    there = us.World(make, 10_000, 10_000, sector=64, memory=128 << 20)
    there.add(us.Unit("scout", "wardens", FOOT), at=START)
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    goals = np.random.default_rng(1).integers(0, 10_000, (4, 2)).tolist()
    benchmark.pedantic(lambda: [there.plan("scout", goal, weight=4) for goal in goals], rounds=1)
    after = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    benchmark.extra_info["MiB more at the peak"] = (after - before) // 1024
    print(benchmark.extra_info)
    assert after - before < (128 << 10) * 1.5
