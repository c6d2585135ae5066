"""Long sessions: threads search copies of a board while it is edited, and boards nobody edits."""

import random
import threading
from concurrent.futures import ThreadPoolExecutor

import pytest

import understep as us
from understep.moves import kept
from understep.study._proof_boards import edit, random_board
from understep.study._shrink import fresh

KINDS = ["reach", "at", "route", "field", "areas", "view", "attacks", "threats"]


def answer(board, kind, seed):
    """An answer as plain data, of a unit and to a cell that a seed chooses."""
    rng = random.Random(seed)
    unit, cell = rng.choice(board.units()), rng.choice(board.grid.cells)
    given = {
        "reach": lambda: us.reach(board, unit.name, turns=rng.randrange(1, 4)),
        "at": lambda: us.reach(board, unit.name, at=cell),
        "route": lambda: us.route(board, unit.name, cell, turns=3),
        "field": lambda: us.field(board, unit.name, [cell]),
        "areas": lambda: us.areas(board, unit.name),
        "view": lambda: us.view(board, cell, radius=4),
        "attacks": lambda: us.attacks(board, unit.name, attack=us.Attack(1, 2)),
        "threats": lambda: us.threats(board, unit.side),
    }
    return given[kind]().plain()


@pytest.mark.parametrize("seed", [0, *(pytest.param(n, marks=pytest.mark.deep) for n in (1, 2, 3))])
def test_threads_search_copies_while_the_board_is_edited(seed):
    """Copies share step tables with the board until one of them changes."""
    rng, board = random.Random(seed), random_board(random.Random(seed + 40))
    copies, done, found = [board.copy()], threading.Event(), []

    def search(number):
        own = random.Random(number)
        while not done.is_set() or len(found) < 90:
            snapshot, kind, pick = copies[-1], own.choice(KINDS), own.randrange(10**6)
            found.append((snapshot, kind, pick, answer(snapshot, kind, pick)))

    with ThreadPoolExecutor(4) as pool:
        searching = [pool.submit(search, number) for number in range(4)]
        for _ in range(60):
            edit(board, rng)
            answer(board, rng.choice(KINDS), rng.random())
            copies.append(board.copy())
        done.set()
        for each in searching:
            each.result()
    assert len({id(snapshot) for snapshot, *_ in found}) > 1
    for snapshot, kind, pick, told in random.Random(seed).sample(found, 80):
        assert answer(fresh(snapshot), kind, pick) == told


@pytest.mark.parametrize("seed", [0, *(pytest.param(n, marks=pytest.mark.deep) for n in (1, 2, 3))])
def test_many_threads_ask_one_board_between_its_edits(seed):
    """All of them at once ask what nobody has asked before."""
    rng, board = random.Random(seed), random_board(random.Random(seed + 60))
    with ThreadPoolExecutor(8) as pool:
        for _ in range(25):
            asked = [(rng.choice(KINDS), rng.random()) for _ in range(8)]
            told = list(pool.map(lambda each: answer(board, *each), asked * 2))
            assert told[:8] == told[8:]
            assert told[:8] == [answer(fresh(board), *each) for each in asked]
            edit(board, rng)


def test_a_unit_that_two_threads_ask_about_at_once_can_move(monkeypatch):
    board = us.Board(us.HexGrid(9, 7), {"turf": 1})
    for name, at in (("scout", (1, 1)), ("pikes", (7, 5)), ("raider", (7, 1))):
        board.add(us.Unit(name, "wardens", us.Movement(2)), at=at)
    made, gate = kept.asker_of, threading.Barrier(2)

    def both(*asked):
        gate.wait(20)  # neither has kept what answers when the other looks
        return made(*asked)

    monkeypatch.setattr(kept, "asker_of", both)
    with ThreadPoolExecutor(2) as pool:
        found = list(pool.map(lambda _: us.reach(board, "scout", at=(1, 1)).cells, range(2)))
    monkeypatch.undo()
    assert found[0] == found[1]
    board.put("scout", at=(4, 3))
    assert set(us.reach(board, "scout").cells) == set(board.grid.disk((4, 3), 2))
