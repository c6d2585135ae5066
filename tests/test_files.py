"""Board files: round trips, faults with their places, and whatever else a file may hold."""

import json
import os

import pytest
from hypothesis import given
from hypothesis import strategies as st
from reference import boards

import understep as us
from understep.cli.common import SHIPPED, shipped
from understep.files.board_file import dump, parse


@given(boards())
def test_round_trip_is_identical(board):
    text = dump(board)
    again = parse(text.encode())
    assert dump(again) == text
    assert again.units() == board.units()
    assert (again.terrain_codes() == board.terrain_codes()).all()
    assert (again.grid, again.terrains) == (board.grid, board.terrains)
    assert us.reach(again, "a", turns=2).plain() == us.reach(board, "a", turns=2).plain()


@pytest.mark.parametrize("name", SHIPPED)
def test_shipped_boards_save_to_the_same_bytes(name, tmp_path):
    path = tmp_path / "again.board.json"
    path.write_text("old")
    us.save(shipped(name), path)
    once = path.read_bytes()
    us.save(us.load(path), path)
    assert path.read_bytes() == once
    assert parse(once).units() == shipped(name).units()
    assert os.listdir(tmp_path) == ["again.board.json"]
    with pytest.raises(us.InputError, match="must be a Board"):
        us.save("nothing", path)
    assert path.read_bytes() == once


def test_all_faults_are_listed_with_their_places(tmp_path):
    content = json.loads(dump(shipped("fen")))
    content["ground"][2] = content["ground"][2][:-1]
    content["ground"][4] = "?" + content["ground"][4][1:]
    content["movements"]["foot"]["points"] = -6
    content["movements"]["wheels"]["costs"]["sand"] = 2
    content["terrain"]["mud"]["cost"] = "1/0"
    path = tmp_path / "bad.board.json"
    path.write_text(json.dumps(content))
    with pytest.raises(us.BoardFileError) as caught:
        us.load(path)
    places = [place for place, _ in caught.value.faults]
    assert places == [
        "terrain.mud",
        "movements.foot",
        "movements.wheels.costs",
        "ground.2",
        "ground.4",
    ]
    assert "bad.board.json: 5 faults" in str(caught.value)
    content = json.loads(dump(shipped("fen")))
    content["units"]["scout"]["at"] = content["units"]["pikes"]["at"]
    content["units"]["sapper"]["at"] = [0, 99]
    content["units"]["punt"]["facing"] = "up"
    with pytest.raises(us.BoardFileError) as caught:
        parse(json.dumps(content).encode())
    found = dict(caught.value.faults)
    assert "'scout' stands there" in found["units.pikes"]
    assert "must lie on the board" in found["units.sapper"]
    assert "direction" in found["units.punt"]
    content["extra"] = 1
    with pytest.raises(us.BoardFileError, match="extra: is no key of a board file"):
        parse(json.dumps(content).encode())


SOUND = dump(shipped("sluice-house"))
pieces = st.sampled_from(
    [
        '"',
        "{",
        "]",
        ",",
        "null",
        "-1",
        "1e999",
        "NaN",
        "[[[[[[[[[[[[[[",
        "\\ud800",
        "9" * 5000,
        "true",
    ]
)


@given(
    st.lists(st.tuples(st.integers(0, len(SOUND)), st.integers(0, 9), pieces | st.text(max_size=4)))
)
def test_mutated_files_give_a_board_or_a_located_error(cuts):
    text = SOUND
    for at, length, piece in cuts:
        text = text[:at] + piece + text[at + length :]
    try:
        assert isinstance(parse(text.encode(errors="surrogatepass")), us.Board)
    except us.BoardFileError as error:
        assert error.faults
        assert all(fault for _, fault in error.faults)
