"""Reaches from many cells in one go, against one by one."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from samples import boards, examples
from test_layers import simple_boards

import understep as us


def same(board, cells, turns, threads):
    many = us.reaches(board, "a", at=cells, turns=turns, threads=threads)
    alone = {us.Cell(*cell): us.reach(board, "a", at=cell, turns=turns) for cell in cells}
    assert list(many) == list(alone)
    offsets, every, costs = many.arrays()
    for number, (cell, reach) in enumerate(alone.items()):
        part = slice(offsets[number], offsets[number + 1])
        assert list(map(tuple, every[part].tolist())) == list(map(tuple, reach))
        assert costs[part].tolist() == [float(reach[each].cost) for each in reach]
        assert many[cell].plain() == reach.plain()
        assert many[cell].doubt == reach.doubt
        assert not many[cell].stale


@examples(2)
@given(simple_boards(), st.sampled_from([1, 1, 2, None]), st.integers(1, 2), st.data())
def test_many_starts_in_one_go(board, turns, threads, data):
    same(board, data.draw(st.lists(st.sampled_from(list(board.grid)), max_size=9)), turns, threads)


@given(boards(), st.sampled_from([1, 2]), st.data())
def test_rules_that_only_one_by_one_can_serve(board, turns, data):
    cells = data.draw(st.lists(st.sampled_from(list(board.grid)), min_size=1, max_size=4))
    same(board, cells, turns, 1)


def test_many_large_reaches_find_room():
    board = us.Board(us.SquareGrid(90, 90), {"turf": 1, "mud": 3})
    board.paint("mud", np.random.default_rng(2).random((90, 90)) < 0.3)
    board.add(us.Unit("a", "ours", us.Movement(points=60)), at=(0, 0))
    same(board, [(0, 0), (45, 45), (89, 0), (20, 70), (0, 0)], 1, 1)
    assert us.reaches(board, "a", at=[]).arrays().offsets.tolist() == [0]


def test_the_lookups_of_reaches_and_what_is_refused():
    board = us.Board(us.HexGrid(9, 7), {"turf": 1})
    for name, col in (("scout", 1), ("pikes", 5)):
        board.add(us.Unit(name, "wardens", us.Movement(points=1)), at=(col, 3))
    many = us.reaches(board, "scout", at=[(0, 0), np.array([4, 4])])
    assert (4, 4) in many
    assert (3, 3) not in many
    assert "scout" not in many
    assert us.reaches(board, "scout")["scout"].cells == us.reach(board, "scout").cells
    assert repr(many) == "<Reaches: 2>"
    with pytest.raises(KeyError):
        many[3, 3]
    kept = many[0, 0]
    board.paint("turf", (0, 1))
    assert kept.plain() == many[0, 0].plain()
    assert many[4, 4].board is board
    for units in (None, ["scout"], ["scout", "pikes"]):
        with pytest.raises(us.errors.InputError, match="units: must be the name of one unit"):
            us.reaches(board, units, at=[(0, 0)])
    with pytest.raises(us.errors.CellError, match="at: must lie on the board"):
        us.reaches(board, "scout", at=[(0, 0), (9, 0)])
    with pytest.raises(us.errors.InputError, match="turns: must be a whole number of 1 or more"):
        us.reaches(board, "scout", at=[(0, 0)], turns=0)
