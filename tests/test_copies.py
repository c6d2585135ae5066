"""All works the same on every way round: undone, tried, copied, pickled, saved, told as edits."""

import contextlib
import copy
import pickle
import subprocess
import sys
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context

import pytest
from hypothesis import given
from hypothesis import strategies as st
from samples import FEATURES, KINDS_OF_EDGES, boards, examples, wade

import understep as us
from understep.files.reader import parse
from understep.files.writer import dump

ATTACK = us.Attack(1, 2, measure="straight")


def edits(board, data):
    """Some random public edit, if the board allows it."""
    draw = data.draw
    cell, other = (draw(st.sampled_from(list(board.grid))) for _ in range(2))
    unit = draw(st.sampled_from([unit.name for unit in board.units()] or ["a"]))
    kind, side = draw(st.sampled_from(list(FEATURES))), draw(st.sampled_from([None, "ours"]))
    near = next(iter(board.grid.neighbors(cell)), other)
    number = draw(st.sampled_from([0, 1, 2]))
    every = {
        "paint": lambda: board.paint(draw(st.sampled_from(list(board.terrains))), [cell, other]),
        "raise": lambda: board.set_elevation(number, cell),
        "value": lambda: board.set_value("depth", number / 2, cell),
        "edge": lambda: board.set_edge(
            cell, near, draw(st.sampled_from([None, *KINDS_OF_EDGES])), both=number > 0
        ),
        "door": lambda: board.open_edge(cell, near),
        "link": lambda: board.link(cell, other, 1 + number / 2, kind="ladder"),
        "unlink": lambda: board.unlink(cell, other),
        "block": lambda: board.block(cell, side=side),
        "clear": lambda: board.clear([None, cell, other][number], side=side),
        "place": lambda: board.place(kind, [cell, other]),
        "lift": lambda: board.lift(kind, [None, cell, other][number]),
        "put": lambda: board.put(unit, at=cell),
        "facing": lambda: board.set_facing(unit, number),
        "left": lambda: board.set_left(unit, number),
        "unit": lambda: board.set_unit(unit, sight=number, attack=ATTACK),
        "movement": lambda: board.set_unit(unit, movement=us.Movement(number, rule=wade)),
        "data": lambda: board.set_data(unit, health=number, pack=["rope", {"of": number}]),
        "round": lambda: board.set_data(round=number),
        "title": lambda: setattr(board, "title", f"title {number}"),
        "turn": lambda: us.Turns(board, ["ours", "theirs"]),
        "add": lambda: board.add(us.Unit(f"n{number}", f"s{number}", us.Movement(2)), at=cell),
        "remove": lambda: board.remove(unit),
        "walk": lambda: us.walk(board, unit, us.route(board, unit, cell)).finish(),
        "batch": lambda: batch(board, data),
    }
    with contextlib.suppress(us.errors.UnderstepError):
        every[draw(st.sampled_from(sorted(every)))]()


def batch(board, data):
    with board.batch():
        edits(board, data)
        edits(board, data)


def answers(board):
    """What a board answers, as plain data."""
    cells = list(board.grid)
    found = [us.areas(board, us.Movement(3)).plain(), us.field(board, us.Movement(3), cells[:1])]
    found[1] = str(found[1].table().tolist())  # with no numbers in it
    for unit in board.units():
        found += [us.reach(board, unit.name, turns=2).plain(), us.view(board, unit.name).plain()]
        found.append(us.route(board, unit.name, cells[-1]).plain())
        if unit.attack is not None:
            found.append(us.attacks(board, unit.name).plain())
    return found


@examples(0.7)
@given(boards(cells=14), st.booleans(), st.data())
def test_every_edit_and_answer_is_the_same_on_every_way_round(board, fog, data):
    for unit in board.units():
        board.set_unit(unit.name, sight=2, attack=ATTACK)
    if fog:
        us.fog(board, "ours", land_known=data.draw(st.booleans()))
    board.forget()
    follower, since, first = pickle.loads(pickle.dumps(board)), board.state, dump(board)
    for _ in range(data.draw(st.integers(1, 6))):
        edits(board, data)
    whole, digest, told = dump(board), board.digest(), answers(board)
    ways = {
        "copy": board.copy(), "copied": copy.copy(board), "deep": copy.deepcopy(board),
        "pickle": pickle.loads(pickle.dumps(board)),
        "file": parse(whole.encode(), rules={"wade": wade}),
    }  # fmt: skip
    follower.replay(board.edits(since), rules={"wade": wade})
    ways["told"] = follower
    for name, other in ways.items():
        assert (dump(other), other.digest()) == (whole, digest), name
        assert answers(other) == told, name
    with board.trial():
        for _ in range(3):
            edits(board, data)
    assert (dump(board), board.digest()) == (whole, digest)
    if fog:
        known = board.knowledge("ours").board
        assert copy.deepcopy(known).digest() == known.digest()
        assert answers(pickle.loads(pickle.dumps(known))) == answers(known)
        assert answers(known.copy()) == answers(known)
    steps = 0
    while board.undo():
        steps += 1
    assert dump(board) == first
    for _ in range(steps):
        board.redo()
    assert (dump(board), board.digest()) == (whole, digest)
    assert answers(board) == told


def told(answer):
    """All that an answer says; attacks do not once the board has changed."""
    try:
        return answer.plain(), answer.overlay()
    except us.errors.StaleError as error:
        return str(error)


@examples(0.5)
@given(boards(cells=14), st.data())
def test_answers_are_pickled_with_their_board(board, data):
    board.set_unit("a", attack=ATTACK)
    goal = data.draw(st.sampled_from(list(board.grid)))
    made = [
        us.reach(board, "a", turns=2), us.route(board, "a", goal), us.attacks(board, "a"),
        us.view(board, "a"), us.field(board, "a", [goal]), us.areas(board, "a"),
        us.explain(board, "a", goal), us.sees(board, "a", goal), us.threats(board, "ours"),
        us.push(board, "a", 0, 2), us.behaviors.approach(board, "a"), us.maps.check(board),
        us.stands(board, "a", goal), us.intent(us.reach(board, "a"), goal),
    ]  # fmt: skip
    fresh = data.draw(st.booleans())
    if not fresh:
        board.paint("turf", list(board.grid))
        board.set_elevation(1)
    again, loaded = pickle.loads(pickle.dumps((board, made)))
    deep, copied = copy.deepcopy((board, made))
    for before, *others in zip(made, loaded, copied, map(copy.copy, made), strict=True):
        for board_of, other in zip((again, deep, board), others, strict=True):
            assert other.board is board_of
            assert other.stale == before.stale
            assert told(other) == told(before)
    if fresh:
        assert [tuple(each) for each in loaded[0].route_to(board.unit("a").at).cells] == [
            tuple(board.unit("a").at)
        ]
        tables = [str(each.table().tolist()) for each in (loaded[4].refreshed(), made[4])]
        assert tables[0] == tables[1]
    again.paint("turf", list(board.grid))
    again.set_elevation(3)
    assert loaded[0].stale
    assert made[0].stale != fresh


def test_a_walk_goes_on_after_a_pickle():
    board = us.Board(us.SquareGrid(6, 1), {"turf": 1})
    board.add(us.Unit("scout", "wardens", us.Movement(9)), at=(0, 0))
    walk = us.walk(board, "scout", us.route(board, "scout", (5, 0)))
    next(walk)
    there, again = pickle.loads(pickle.dumps((board, walk)))
    assert again.finish().ending == "arrived"
    assert (there.unit("scout").at, board.unit("scout").at) == ((5, 0), (1, 0))
    paused = us.route(board, "scout", (5, 0), budget=1)
    with pytest.raises(us.errors.InputError, match=r"paused one cannot be pickled; resume\(\)"):
        pickle.dumps(paused)
    assert copy.copy(paused.resume().resume().resume().resume().resume()).cost == 4


SCRIPT = """
import pickle, sys
sys.path.insert(0, sys.argv[2])
from test_copies import answers
found = []
for board in pickle.load(open(sys.argv[1], "rb")):
    found.append((board.digest(), answers(board), [u.movement for u in board.units()]))
    board.put(board.units()[0].name, board.units()[0].at)
pickle.dump(found, sys.stdout.buffer)
"""


@pytest.mark.parametrize("interpreted", ["0", "1"])
def test_another_process_answers_the_same(interpreted, tmp_path):
    many = [us.maps.shipped("fen"), us.maps.shipped("sluice-house")]
    for board in many:
        us.fog(board, board.sides[0], land_known=True)
    path = tmp_path / "boards.pickle"
    path.write_bytes(pickle.dumps(many))
    here = __file__.rpartition("/")[0]
    done = subprocess.run(
        [sys.executable, "-c", SCRIPT, str(path), here], capture_output=True, check=True,
        env={"UNDERSTEP_INTERPRETED": interpreted, "PATH": ""},
    )  # fmt: skip
    for board, (digest, told, moves) in zip(many, pickle.loads(done.stdout), strict=True):
        assert digest == board.digest()
        assert told == answers(board)
        assert moves == [unit.movement for unit in board.units()]
        assert {hash(each) for each in moves} == {hash(u.movement) for u in board.units()}


def test_a_lambda_as_a_rule_is_told():
    with pytest.raises(us.errors.InputError, match="lambda or inner function cannot be pickled"):
        pickle.dumps(us.Movement(3, rule=lambda site: site.cost))
    assert pickle.loads(pickle.dumps(us.Movement(3, {"mud": None}, rule=wade))).rule is wade
    with pytest.raises(us.errors.InputError, match="rule"):
        pickle.dumps(us.Movement(3, rule=type("Odd", (), {"__call__": lambda *_: 1})()))


def test_errors_come_back_from_other_processes_with_what_they_say():
    board = us.Board(us.SquareGrid(3, 3), {"turf": 1})
    board.add(us.Unit("a", "ours", us.Movement(3)), at=(0, 0))
    for call in (
        lambda: us.reach(board, "b"),
        lambda: board.terrain((9, 9)),
        lambda: us.Movement(-1),
        lambda: board.add(us.Unit("b", "ours", us.Movement(1)), at=(0, 0)),
        lambda: us.reach(board, "a", turns=lambda: 3),  # which itself cannot be pickled
        lambda: us.reach(board, "a", left=0)[(2, 2)],
        lambda: us.maps.read_table([["?"]], {}, {"turf": 1}, grid=us.SquareGrid),
    ):
        with pytest.raises(us.errors.UnderstepError) as caught:
            call()
        again = pickle.loads(pickle.dumps(caught.value))
        assert (type(again), str(again)) == (type(caught.value), str(caught.value))
        assert set(again.__dict__) == set(caught.value.__dict__)
    with ProcessPoolExecutor(1, mp_context=get_context("spawn")) as pool:
        with pytest.raises(us.errors.NameUnknownError, match="did you mean 'turf'"):
            pool.submit(us.Board.paint, board, "turv", (0, 0)).result()
        assert pool.submit(len, "abc").result() == 3  # the pool still works
