"""Rows of sight that are kept: after any edits, undo and copies the same as found anew."""

import pickle
import random
import sys
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from threading import Barrier

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from test_attacks import armies

import understep as us


def anew(board):
    """The same board with nothing kept."""
    return pickle.loads(pickle.dumps(board))


def same(board, other):
    """Whether attacks, threats and views of both are the same."""
    for side in board.sides:
        one, two = us.threats(board, side), us.threats(other, side)
        assert (one.table() == two.table()).all()
        for unit in board.units():
            if unit.side != side:
                assert one.foes == two.foes
    for unit in board.units():
        one, two = us.attacks(board, unit.name), us.attacks(other, unit.name)
        assert (one.cells, one.targets) == (two.cells, two.targets)
        for name in one.targets:
            assert one[name] == two[name]
        assert (
            us.view(board, unit.name, radius=2).cells == us.view(other, unit.name, radius=2).cells
        )


def edit(board, data):
    """Change something that matters to sight or to paths, or who stands where."""
    cells = data.draw(st.lists(st.sampled_from(list(board.grid)), min_size=1, max_size=3))
    kind = data.draw(st.sampled_from(["level", "edge", "paint", "undo", "put", "place", "block"]))
    try:
        if kind == "level":
            board.set_elevation(data.draw(st.sampled_from([0, 1, 4])), cells)
        elif kind == "edge":
            other = data.draw(st.sampled_from(list(board.grid.neighbors(cells[0])) or [None]))
            kind = data.draw(st.sampled_from([*board.edge_kinds, None]))
            board.set_edge(cells[0], other, kind, both=data.draw(st.booleans()))
        elif kind == "paint":
            board.paint(data.draw(st.sampled_from(list(board.terrains))), cells)
        elif kind == "place":
            board.place(data.draw(st.sampled_from(list(board.feature_kinds))), cells)
        elif kind == "block":
            board.block(cells, side=data.draw(st.sampled_from([None, *board.sides])))
        elif kind == "put":
            board.put(board.units()[0].name, at=cells[0])
        else:
            board.undo()
    except us.errors.UnderstepError:
        pass  # a unit stands there, and could not any more


@given(armies(), st.booleans(), st.data())
def test_what_is_kept_is_what_would_be_found_anew(board, paths, data):
    for unit in board.units() if paths else ():
        if unit.attack is not None:
            board.set_unit(unit.name, attack=replace(unit.attack, measure="path"))
    same(board, anew(board))
    board.forget()
    twin = board.copy()
    for _ in range(data.draw(st.integers(1, 5))):
        edit(data.draw(st.sampled_from([board, board, twin])), data)
        if data.draw(st.booleans()):
            with board.trial():
                edit(board, data)
                same(board, anew(board))
        same(board, anew(board))
    same(twin, anew(twin))
    later = board.copy()
    edit(later, data)
    same(later, anew(later))
    same(board, anew(board))


@pytest.mark.large
def test_threads_that_fill_the_same_rows_find_the_same():
    board = us.Board(us.HexGrid(30, 30), {"turf": 1, "ruin": us.Terrain(None, cover=2)})
    board.paint("ruin", list(board.grid)[7::31])
    for number in range(20):
        unit = us.Unit(f"u{number}", "ours", us.Movement(6), attack=us.Attack(1, 4))
        board.paint("turf", list(board.grid)[number * 40])
        board.add(unit, at=list(board.grid)[number * 40])
    board.enlist("theirs")
    names = [unit.name for unit in board.units()] * 4
    expected = {name: us.attacks(anew(board), name).cells for name in names}
    with ThreadPoolExecutor(8) as pool:
        for name, found in zip(names, pool.map(lambda name: us.attacks(board, name), names),
                               strict=True):  # fmt: skip
            assert found.cells == expected[name]
    usual = sys.getswitchinterval()
    sys.setswitchinterval(1e-6)
    try:
        forgetful(board, names)
    finally:
        sys.setswitchinterval(usual)


def forgetful(board, names):
    """Ask of copies whose rows are to be forgotten first, in several threads at once."""
    barrier = Barrier(8)

    def together(twin, name):
        barrier.wait()
        return us.view(twin, name, radius=3)

    with ThreadPoolExecutor(8) as pool:
        for place in range(40):
            us.view(board, names[0], radius=3)
            board.set_elevation(place % 3, list(board.grid)[place * 20 : place * 20 + 9])
            twin = board.copy()
            found = list(
                pool.map(lambda name, twin=twin: us.view(twin, name, radius=3), names[:16])
            )
            again = anew(board)
            for name, view in zip(names[:3], found, strict=False):
                assert view.cells == us.view(again, name, radius=3).cells


def test_threats_of_many_are_the_sum_of_their_attacks():
    board = us.Board(us.HexGrid(30, 30), {"turf": 1, "ruin": us.Terrain(None, cover=2)})
    board.enlist("theirs")
    for number in range(20):
        unit = us.Unit(f"u{number}", "ours", us.Movement(6), attack=us.Attack(1, 4))
        board.add(unit, at=list(board.grid)[number * 40])
    expected = {unit.name: us.attacks(anew(board), unit.name).cells for unit in board.units()}
    many = us.threats(board, "theirs").table()
    assert (many == np.sum([np.isin(np.arange(900), board.grid.numbering.numbers(cells.array))
                            for cells in expected.values()],
                           axis=0).reshape(30, 30)).all()  # fmt: skip


def test_an_attack_reaches_as_far_as_levels_are_now():
    board = us.Board(us.HexGrid(12, 5), {"turf": 1})
    bow = us.Attack(1, 2, per_level=1)
    for name, side, col in (("bow", "ours", 2), ("twin", "ours", 3), ("pike", "theirs", 6)):
        board.add(us.Unit(name, side, us.Movement(0), attack=bow), at=(col, 2))
    for level, targets in ((0, ()), (2, ("pike",)), (1, ()), (3, ("pike",))):
        board.set_elevation(level, (2, 2))
        assert us.attacks(board, "bow").targets == targets
        assert us.threats(board, "theirs")[6, 2] == len(targets)


@pytest.mark.parametrize("measure", ["grid", "straight", "path"])
def test_an_attack_can_lead_farther_than_the_board(measure):
    board = us.Board(us.HexGrid(12, 9), {"turf": 1})
    bow = us.Attack(1, 2, measure=measure, per_level=1000, sight=False)
    board.add(us.Unit("bow", "ours", us.Movement(2), attack=bow), at=(1, 1))
    board.add(us.Unit("pike", "theirs", us.Movement(0)), at=(10, 7))
    # where it could stand is too low, and the ground far away is high
    board.set_elevation(900, (10, 1))
    plan = us.behaviors.approach(board, "bow")
    assert (plan.target, plan.stand) == ("pike", None)
    board.set_elevation(900, (1, 1))
    attacks = us.attacks(board, "bow", moving=False)
    assert attacks.targets == ("pike",)
    assert set(attacks) == {*board.grid} - {(1, 1), (10, 1)}


def test_a_wall_that_rises_on_a_large_board_hides_and_shows_again_when_undone():
    board = us.Board(us.HexGrid(30, 30), {"turf": 1})
    board.add(us.Unit("bow", "ours", us.Movement(0), attack=us.Attack(1, 4)), at=(15, 15))
    board.add(us.Unit("pike", "theirs", us.Movement(0)), at=(18, 15))
    for _ in range(2):
        assert us.attacks(board, "bow").targets == ("pike",)
        board.set_elevation(3, [(16, 14), (17, 15), (16, 15), (16, 16)])
        assert us.attacks(board, "bow").targets == ()
        board.undo()


@pytest.mark.parametrize("zones", ["ignore", "end", 1])
def test_threats_after_a_move_are_those_found_anew(zones):
    rng = random.Random(str(zones))
    for size in (16, 9, 7, 7):
        board = us.Board(us.HexGrid(size, size - 1), {"turf": 1, "mud": 2})
        cells = list(board.grid)
        board.paint("mud", rng.sample(cells, len(cells) // 5))
        for number, at in enumerate(rng.sample(cells, 6)):
            rules = us.Movement(
                rng.choice([1, 2, 3]), zones=zones, passes=rng.choice(["own", "none"])
            )
            attack = us.Attack(1, 1 + number // 2 % 2)
            board.add(
                us.Unit(f"u{number}", ("ours", "theirs")[number % 2], rules, attack=attack), at=at
            )
        same_threats(board)
        for number in range(18):
            name, at = f"u{number % 6}", rng.choice(cells)
            if board.unit_at(at) is None:
                with board.trial():
                    board.put(name, at=at)
                    same_threats(board)
                if number % 3 == 0:
                    board.put(name, at=at)
            same_threats(board)


def same_threats(board):
    """Whether threats are those of a board that was never asked."""
    fresh = anew(board)
    for side in board.sides:
        assert (us.threats(board, side).table() == us.threats(fresh, side).table()).all()
