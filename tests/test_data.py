"""The game's own facts: kept with units and board, and changed by nothing but the board."""

import copy
import json
import pickle

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import understep as us

FOOT = us.Movement(points=4)
scalars = (
    st.none()
    | st.booleans()
    | st.integers(-(10**6), 10**6)
    | st.floats(-9, 9)
    | st.text("äb", max_size=3)
)
values = st.recursive(scalars, lambda inner: st.lists(inner, max_size=3) | st.dictionaries(
    st.text("xyz", min_size=1, max_size=2), inner, max_size=3), max_leaves=6)  # fmt: skip
facts = st.dictionaries(st.text("xyz", min_size=1, max_size=2), values, max_size=3)


def guarded(**data):
    board = us.Board(us.HexGrid(9, 5), {"turf": 1, "deep": None})
    board.add(us.Unit("scout", "wardens", FOOT, sight=2, data=data), at=(1, 2))
    board.add(us.Unit("raider", "wreckers", FOOT, data=data), at=(6, 2))
    board.forget()
    return board


@given(facts, facts, facts)
def test_facts_are_undone_tried_copied_and_saved_with_the_rest(first, second, third):
    board = guarded(**first)
    assert board.unit("scout").data == first
    board.set_data("scout", **second)
    board.set_data(**third)
    assert (board.unit("scout").data, board.data) == (first | second, third)
    with board.trial():
        board.clear_data("scout")
        board.clear_data(None, *third)
        board.set_data(round=1)
        assert (board.unit("scout").data, board.data) == ({}, {"round": 1})
    path = json.loads(json.dumps(board.unit("scout").data))
    assert path == first | second
    for twin in (board.copy(), copy.deepcopy(board), pickle.loads(pickle.dumps(board))):
        assert (twin.unit("scout").data, twin.data) == (first | second, third)
        assert twin.digest() == board.digest()
    assert board.undo()
    assert board.undo()
    assert (board.unit("scout").data, board.data) == (first, {})
    assert board.redo()
    assert board.unit("scout").data == first | second


def test_a_side_remembers_facts_as_it_last_saw_them(tmp_path):
    board = guarded(health=3)
    knowledge = us.fog(board, "wardens")
    board.put("raider", at=(3, 2))
    board.set_data("raider", health=2)
    assert knowledge.board.unit("raider").data["health"] == 2
    board.put("raider", at=(8, 2))
    board.set_data("raider", health=1, status="stunned")
    assert knowledge.last_seen("raider").data == {"health": 2}
    us.save(board, tmp_path / "a.board.json")
    again = us.load(tmp_path / "a.board.json")
    assert again.knowledge("wardens").last_seen("raider").data == {"health": 2}
    assert again.unit("raider").data == {"health": 1, "status": "stunned"}
    weakest = us.behaviors.approach(
        board, "scout", score=lambda unit: -unit.data["health"], known_to=False
    )
    assert not weakest.stand


def test_no_answer_is_stale_for_the_sake_of_facts():
    board = guarded(health=3)
    scout = board.unit("scout")
    answers = [
        us.reach(board, "scout", turns=2), us.route(board, "scout", (4, 2)), us.view(board, "scout"),
        us.field(board, FOOT, [(0, 0)]), us.sees(board, "scout", "raider"), us.areas(board, FOOT),
    ]  # fmt: skip
    before = board.state
    board.set_data("raider", health=1)
    board.set_data(weather="rain")
    board.title = "at dusk"
    assert not any(answer.stale for answer in answers)
    assert (6, 2) in board.changed_since(before)  # it may be drawn otherwise
    board.put("raider", at=(4, 2))
    assert us.route(board, "scout", (4, 2)).why
    assert answers[1].stale
    assert board.remove("scout") == scout


def test_facts_do_not_change_in_place():
    board = guarded(pack=["rope"], worn={"hat": 1})
    data = board.unit("scout").data
    with pytest.raises(TypeError, match=r"use board.set_data"):
        data["pack"] = 1
    with pytest.raises(TypeError, match="DataList does not change"):
        data["pack"].append("lamp")
    with pytest.raises(TypeError, match="does not change"):
        data["worn"].update(hat=2)
    given = {"pack": ["rope"]}
    board.set_data("scout", **given)
    given["pack"].append("lamp")
    assert board.unit("scout").data["pack"] == ["rope"]
    board.set_data("scout", size=np.float64(1.5), pair=(1, 2))
    assert (board.unit("scout").data["size"], board.unit("scout").data["pair"]) == (1.5, [1, 2])
    board.clear_data("scout", "pack")
    assert "pack" not in board.unit("scout").data


@pytest.mark.parametrize(
    ("call", "error", "message"),
    [
        (lambda b: b.set_data("scout", at=us), "InputError", "facts.at: must be a JSON value"),
        (lambda b: b.set_data(at=float("nan")), "InputError", "facts.at: must be finite"),
        (lambda b: b.set_data(at={"deep": {1: 2}}), "InputError", "facts.at.deep: a name must be"),
        (lambda b: b.set_data(at=[[[[[[[[[1]]]]]]]]]), "InputError", "deeper than 8 levels"),
        (lambda b: b.set_data(at=[0] * 10_001), "InputError", "at most 10000 values"),
        (lambda b: b.set_data("scuot", health=1), "NameUnknownError", "did you mean 'scout'"),
        (lambda b: b.clear_data("scout", "helth"), "NameUnknownError", "did you mean 'health'"),
        (lambda b: us.Unit("a", "b", FOOT, data=[1]), "InputError", "data: must map names"),
        (lambda b: b.set_unit("scout", sight=-1), "InputError", "sight: must be a whole number"),
        (lambda b: b.set_unit("scout", side=""), "InputError", "side: must be a text"),
        (lambda b: b.set_unit("raider", movement=us.Movement(2, footprint=us.Footprint.cluster(1))),
         "InputError", "off the board|deep"),
    ],
)  # fmt: skip
def test_what_is_no_fact_is_refused_and_nothing_is_done(call, error, message):
    board = guarded(health=3)
    board.paint("deep", [(7, 2)])
    before = board.digest()
    with pytest.raises(getattr(us.errors, error), match=message):
        call(board)
    assert board.digest() == before


def test_a_unit_changes_in_place():
    board = guarded(health=3)
    board.set_left("scout", 1)
    slow = us.Movement(points=2)
    unit = board.set_unit("scout", movement=slow, sight=7, side="wreckers", attack=us.Attack())
    assert (unit.movement, unit.sight, unit.side, unit.left) == (slow, 7, "wreckers", 1)
    assert [each.name for each in board.units()] == ["scout", "raider"]
    assert board.set_unit("raider", movement=us.Movement(points=9)).left == 9  # it had all
    assert board.set_unit("scout", movement=us.Movement(points=0.5)).left == 0.5
    board.add(us.Unit("kite", "wardens", us.Movement(3, layer="air")), at=(1, 2))
    with pytest.raises(us.errors.OccupiedError, match="unit 'scout' stands on"):
        board.set_unit("kite", movement=us.Movement(3))
    assert board.unit("kite").layer == "air"
    for _ in range(5):
        board.undo()
    assert board.unit("scout").movement == FOOT
    assert board.unit("scout").side == "wardens"
