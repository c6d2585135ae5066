"""Scatter: as many as asked for, distinct, apart, and nothing cut off that is to be kept."""

import itertools

import numpy as np
import pytest
from geometry import grids
from hypothesis import given
from hypothesis import strategies as st

import understep as us


def reached(grid, start, closed):
    """All cells that can be walked to by steps over borders."""
    found, todo = {start}, [start]
    for cell in todo:
        for other in grid.neighbors(cell):
            near = grid.distance(cell, other, measure="straight") < 1.2
            if near and other not in closed and other not in found:
                found.add(other)
                todo.append(other)
    return found


@given(grid=grids(cells=60), data=st.data())
def test_scattered_cells_keep_every_promise(grid, data):
    cells = list(grid.cells)
    some = st.sets(st.sampled_from(cells), max_size=4)
    keep_out, places, closed = data.draw(some), data.draw(some), data.draw(some)
    closed -= places
    spacing = data.draw(st.sampled_from([1, 1, 2, 3]))
    seed = data.draw(st.integers(0, 99))
    options = {
        "keep_out": list(keep_out),
        "spacing": spacing,
        "keep_connected": list(places),
        "closed": list(closed),
    }
    count = data.draw(st.integers(0, len(cells)))
    try:
        found = us.maps.scatter(grid, count, rng=seed, **options)
    except us.errors.NoRoomError as error:
        room = int(error.rule.rsplit(" ", 1)[1])
        assert room < count
        if spacing == 1 and not places:
            assert room == len(set(cells) - keep_out - closed)
        found = us.maps.scatter(grid, room, rng=seed, **options)
        count = room
    assert len(found) == len(set(found)) == count
    assert not set(found) & (keep_out | places | closed)
    assert all(grid.distance(a, b) >= spacing for a, b in itertools.combinations(found, 2))
    for place in places:  # what is open of its area stays whole
        area = set(reached(grid, place, closed)) - set(found)
        assert set(reached(grid, place, closed | set(found))) == area
    assert (
        us.maps.scatter(grid, count, rng=np.random.Generator(np.random.PCG64(seed)), **options)
        == found
    )


def test_an_island_of_which_one_cell_is_given_stays_in_one_piece():
    board = us.worlds.delta(3, 40, 30, units=False)
    rules = us.Movement(1)
    areas = us.areas(board, rules)
    island = max((areas.cells_of(area) for area in range(len(areas))), key=len)
    closed = [cell for cell in board.grid if cell not in set(island)]
    trees = us.maps.scatter(
        board.grid, len(island) // 4, rng=5, keep_connected=island[0], closed=closed
    )
    board.block(trees)
    left = us.areas(board, rules)
    assert {left[cell] for cell in island if cell not in set(trees)} == {left[island[0]]}


def test_a_way_is_left_through_a_full_board():
    grid = us.SquareGrid(9, 9)
    with pytest.raises(
        us.errors.NoRoomError, match=r"count: there is room for (5[0-9]|6[0-4]); got 81"
    ):
        us.maps.scatter(grid, 81, rng=1, keep_connected=[(0, 0), (8, 8)])
    stones = us.maps.scatter(grid, 48, rng=1, keep_connected=[(0, 0), (8, 8)])
    board = us.Board(grid, {"turf": 1, "stone": None})
    board.paint("stone", stones)
    board.add(us.Unit("scout", "wardens", us.Movement(points=99)), at=(0, 0))
    assert us.route(board, "scout", goals=(8, 8))


def test_variants_come_by_weight():
    cells = us.HexGrid(60, 60).cells
    found = us.maps.variants(cells, {"stone": 3, "stump": 1, "never": 0}, rng=5)
    assert list(found) == list(cells)
    stones = sum(name == "stone" for name in found.values())
    assert set(found.values()) == {"stone", "stump"}
    assert 2600 < stones < 2800
    huge = us.maps.variants(cells, {"stone": 1e308, "stump": 1e308}, rng=5)
    assert set(huge.values()) == {"stone", "stump"}


@pytest.mark.parametrize(
    ("call", "message"),
    [
        (lambda g: us.maps.scatter(g, 13, rng=1), "count: there is room for 12; got 13"),
        (lambda g: us.maps.scatter(g, -1, rng=1), "count: must be a whole number of 0 or more"),
        (lambda g: us.maps.scatter(g, 1, rng=1, spacing=0), "spacing: must be a whole number of 1"),
        (lambda g: us.maps.scatter(g, 1, rng="x"), "rng: must be a seed"),
        (
            lambda g: us.maps.scatter(g, 1, rng=1, keep_out=[(9, 9)]),
            "keep_out: must lie on the board",
        ),
        (lambda g: us.maps.variants(g.cells, {}, rng=1), "weights: must map variants"),
        (
            lambda g: us.maps.variants(g.cells, {"a": -1, "b": 2}, rng=1),
            "weights: must map variants",
        ),
        (lambda g: us.maps.variants(g.cells, {"a": "b"}, rng=1), "weights: must map variants"),
    ],
)
def test_bad_input_is_named(call, message):
    with pytest.raises(us.errors.InputError, match=message):
        call(us.HexGrid(4, 3))
