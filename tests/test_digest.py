"""Digests differ wherever boards do, and edits as text do nothing else than edits."""

import contextlib
import json
import random

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from samples import boards, examples, wade
from test_copies import edits

import understep as us
from understep.files.writer import dump


def small():
    board = us.Board(
        us.HexGrid(4, 3), {"turf": 1, "mud": 2}, edges={"wall": us.Edge(blocks=True)},
        features={"crate": us.Feature()}, properties={"lit": False},
    )  # fmt: skip
    for name, at in (("scout", (0, 0)), ("pikes", (3, 2))):
        board.add(us.Unit(name, "wardens", us.Movement(3)), at=at)
    return board


def alter(board, rng):
    """Some edit, if it can be made."""
    cell, unit = rng.choice(list(board.grid)), rng.choice(["scout", "pikes"])
    number = rng.randrange(3)
    near = rng.choice(board.grid.neighbors(cell))
    call = rng.choice([
        lambda: board.paint("mud", cell), lambda: board.set_elevation(number, cell),
        lambda: board.set_value("lit", True, cell), lambda: board.place("crate", cell),
        lambda: board.block(cell, side=[None, "a", "b"][number]),
        lambda: board.set_edge(cell, near, "wall", both=number > 0),
        lambda: board.link(cell, (1, 1), number), lambda: board.put(unit, cell),
        lambda: board.set_left(unit, number), lambda: board.set_facing(unit, number),
        lambda: board.set_data(unit, a=number), lambda: board.set_data(b=number),
        lambda: board.set_unit(unit, sight=number),
    ])  # fmt: skip
    with contextlib.suppress(us.errors.InputError):
        call()


def test_any_single_difference_makes_another_digest():
    rng, seen = random.Random(3), {}
    for _ in range(400):
        board = small()
        for _ in range(rng.randrange(4)):
            alter(board, rng)
        assert seen.setdefault(board.digest(), dump(board)) == dump(board)
    assert len(seen) == len(set(seen.values()))  # and equal boards have equal ones
    assert len(seen) > 200


def test_what_does_not_count_does_not_count():
    board, other = small(), small()
    board.title = "one"
    board.movements["odd"] = us.Movement(9)
    board.paint("mud", (1, 1))
    board.paint("mud", (2, 1))
    other.paint("mud", [(2, 1), (1, 1)])
    assert board.digest() == other.digest()
    turned = us.Board(us.HexGrid(4, 3), {"mud": 2, "turf": 1}, fill="turf")
    plain = us.Board(us.HexGrid(4, 3), {"turf": 1, "mud": 2})
    assert turned.digest() == plain.digest()  # codes are not names
    turned.set_elevation(-0.0)
    assert turned.digest() == plain.digest()


@examples(0.7)
@given(boards(cells=12), st.data())
def test_it_is_kept_up_to_date(board, data):
    if data.draw(st.booleans()):
        us.fog(board, "ours")
    for _ in range(data.draw(st.integers(1, 8))):
        kind = data.draw(st.sampled_from(["edit", "edit", "trial", "undo", "redo"]))
        if kind == "trial":
            with board.trial():
                edits(board, data)
                assert board.digest() == board.copy().digest()
        elif kind == "edit":
            edits(board, data)
        else:
            getattr(board, kind)()
        if data.draw(st.booleans()):
            board.digest()
    twin = us.maps.reframe(board, board.grid.frame)  # which counts anew
    assert board.digest() == twin.digest()
    for side in board.fogged:
        assert board.knowledge(side).board.digest() == twin.knowledge(side).board.digest()


def test_what_a_side_knows_has_a_digest_of_its_own():
    board = us.Board(us.SquareGrid(9, 1), {"turf": 1, "mud": 2})
    board.add(us.Unit("scout", "wardens", us.Movement(3), sight=2), at=(1, 0))
    board.add(us.Unit("raider", "wreckers", us.Movement(3)), at=(7, 0))
    known = us.fog(board, "wardens").board
    before, truth = known.digest(), board.digest()
    board.put("raider", at=(8, 0))
    board.paint("mud", (6, 0))
    assert (known.digest(), board.digest() != truth) == (before, True)
    board.put("raider", at=(2, 0))
    assert known.digest() != before
    with pytest.raises(us.errors.JournalError, match="follows from the edits"):
        known.edits(known.state)


def test_edits_are_forgotten_and_fog_is_not_told():
    board = small()
    since = board.state
    us.fog(board, "wardens")
    with pytest.raises(us.errors.JournalError, match="began or ceased to know"):
        board.edits(since)
    board.paint("mud", (1, 1))
    board.undo()
    assert board.edits(board.state) == ""
    board.forget()
    with pytest.raises(us.errors.StaleError, match="is not known any more"):
        board.edits(since)
    with pytest.raises(us.errors.InputError, match="since: must be a state"):
        board.edits("before")


GOOD = [
    [{"part": "terrain", "at": [[1, 1], [2, 1]], "to": "mud"}],
    [{"unit": "scout", "to": {"at": [1, 1], "left": 2}}, {"board": "data", "to": {"round": 1}}],
    [{"part": "links", "at": [[0, 0], [2, 2]], "to": [1.5, "ladder"]}],
    [{"part": "edges", "at": [[1, 1]], "to": ["E", ["wall", False]]}],
    [{"side": "guests", "to": True}, {"unit": "new", "to": {
        "side": "guests", "movement": {"is": "Movement", "points": 3, "leap": {"is": "Leap"}},
        "at": [2, 2]}}],
]  # fmt: skip


def mutants(rng, thing):
    """A JSON value with one of its parts replaced."""
    odd = rng.choice(
        [None, 3, -1, 1.5, "x", [], {}, [[9, 9]], True, {"is": "Unit"}, "mud", 1 << 70]
    )
    if rng.random() < 0.25 or not isinstance(thing, list | dict) or not thing:
        return odd
    keys = list(thing) if isinstance(thing, dict) else range(len(thing))
    key = rng.choice(list(keys))
    changed = dict(thing) if isinstance(thing, dict) else list(thing)
    if isinstance(thing, dict) and rng.random() < 0.2:
        changed[rng.choice(["part", "unit", "at", "is", "to", "x"])] = changed.pop(key)
    else:
        changed[key] = mutants(rng, thing[key])
    return changed


def test_lines_that_are_no_edits_do_nothing():
    rng, board = random.Random(1), small()
    good = "".join(json.dumps(step) + "\n" for step in GOOD)
    board.copy().replay(good)
    before, refused = board.digest(), 0
    for _ in range(600):
        step = mutants(rng, GOOD[rng.randrange(len(GOOD))])
        text = json.dumps(step)
        text = text[: rng.randrange(len(text) + 1)] if rng.random() < 0.1 else text
        twin = board.copy()
        try:
            twin.replay(json.dumps(GOOD[0]) + "\n" + text)
        except us.errors.InputError as error:
            assert "line 2" in str(error)
            assert (twin.digest(), twin.undo()) == (before, False)
            refused += 1
    assert refused > 300
    for text, message in (
        ("[NaN]", "not a number of JSON"),
        ("[" * 99_999, "not JSON"),
        ("3", "a list"),
        (
            '[{"unit": "scout", "to": {"sight": 1%s}}]' % ("0" * 40),
            "sight: must be a whole number from",
        ),
        (
            '[{"part": "elevation", "at": [[1, 1]], "to": 1%s}]' % ("0" * 400),
            "is no edit of a part: .*too large",
        ),
        ('[{"unit": "scout", "to": ""}]', "to: must be facts of a unit, or null"),
    ):
        with pytest.raises(us.errors.InputError, match=message):
            board.replay(text)
    with pytest.raises(us.errors.InputError, match="text of JSON lines"):
        board.replay(3)


def test_rules_are_found_by_their_names():
    board = small()
    other, since = board.copy(), board.state
    board.set_unit("scout", movement=us.Movement(3, rule=wade))
    told = board.edits(since)
    with pytest.raises(us.errors.InputError, match="a function that no unit of this board has"):
        other.replay(told)
    other.replay(told, rules={"wade": wade})
    assert other.unit("scout").movement.rule is wade
    assert np.array_equal(us.reach(other, "scout").table(), us.reach(board, "scout").table(), True)
