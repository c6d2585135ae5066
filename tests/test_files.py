"""Board files: round trips, faults with their places, and hostile content."""

import json
import os
from fractions import Fraction

import jsonschema
import pytest
from geometry import frames
from hypothesis import assume, example, given
from hypothesis import strategies as st
from samples import boards, examples, wade
from test_attacks import armies
from test_fog import answers, edit, fogged

import understep as us
from understep.files.bounded import validated
from understep.files.reader import parse
from understep.files.schema import FilePart
from understep.files.writer import dump
from understep.maps._shipped import SHIPPED


@given(boards(frame=frames(lift=True)), st.data())
def test_round_trip_is_identical(board, data):
    level = st.sampled_from([0, 1, -2, 0.1, 1e-7, 3.5, 10**6])
    if data.draw(st.booleans()):
        board.set_elevation([data.draw(level) for _ in board.grid], board.grid.cells)
    text = dump(board)
    again = parse(text.encode(), rules={"wade": wade})
    assert dump(again) == text
    assert (again.links(), again.blocks(side="ours")) == (board.links(), board.blocks(side="ours"))
    assert (again.values("depth") == board.values("depth")).all()
    assert again.units() == board.units()
    assert [again.terrain(cell) for cell in again.grid] == list(map(board.terrain, board.grid))
    assert (again.elevation == board.elevation).all()
    assert (again.grid, again.terrains) == (board.grid, board.terrains)
    assert us.reach(again, "a", turns=2).plain() == us.reach(board, "a", turns=2).plain()


@examples(0.6)
@given(fogged(), armies(), st.data())
def test_what_sides_know_and_whose_turn_it_is_come_back(made, other, data):
    board, knowledge = made
    for _ in range(data.draw(st.integers(0, 4))):
        edit(board, data.draw, list(board.grid))
    turns = us.Turns(board, ["ours", "theirs"])
    for _ in range(data.draw(st.integers(0, 3))):
        turns.end()
    if turns.attacks_left("a"):
        turns.attacked("a")
    again = parse(dump(board).encode(), rules={"wade": wade})
    assert dump(again) == dump(board)
    assert again.turn == board.turn
    told = [answers(each) for each in (board, again)]
    states = [each.knowledge("ours").board.state for each in (board, again)]
    assert [part for part in told[0] if part != states[0]] == [
        part for part in told[1] if part != states[1]
    ]
    for unit in knowledge.remembered:
        assert again.knowledge("ours").last_seen(unit.name) == unit
    armed = parse(dump(other).encode(), rules={"wade": wade})
    assert (armed.units(), dump(armed)) == (other.units(), dump(other))


@pytest.mark.parametrize("name", SHIPPED)
def test_shipped_boards_save_to_the_same_bytes(name, tmp_path):
    path = tmp_path / "again.board.json"
    path.write_text("old")
    us.save(us.maps.shipped(name), path)
    once = path.read_bytes()
    us.save(us.load(path), path)
    assert path.read_bytes() == once
    assert parse(once).units() == us.maps.shipped(name).units()
    assert os.listdir(tmp_path) == ["again.board.json"]
    with pytest.raises(us.errors.InputError, match="must be a Board"):
        us.save("nothing", path)
    assert path.read_bytes() == once


def test_a_rule_is_saved_by_its_name_and_must_be_given_again(tmp_path):
    board = us.Board(us.SquareGrid(3, 1), {"turf": 1}, properties={"depth": 0, "name": "x"})
    board.set_value("name", ["y", "x", 'z"'], board.grid.cells)
    board.add(us.Unit("scout", "wardens", us.Movement(3, rule=wade)), at=(0, 0))
    path = tmp_path / "a.board.json"
    us.save(board, path)
    again = us.load(path, rules={"wade": wade})
    assert again.unit("scout") == board.unit("scout")
    assert again.values("name").tolist() == [["y", "x", 'z"']]
    with pytest.raises(
        us.errors.BoardFileError, match=r"load it with rules=\{'wade': the function\}"
    ):
        us.load(path)
    board.remove("scout")
    board.add(us.Unit("scout", "wardens", us.Movement(3, rule=lambda site: 1)), at=(0, 0))
    with pytest.raises(us.errors.InputError, match="the rule of 'scout' needs a name"):
        us.save(board, path)
    assert us.load(path, rules={"wade": wade}).unit("scout").movement.rule is wade


def test_all_faults_are_listed_with_their_places(tmp_path):
    content = json.loads(dump(us.maps.shipped("fen")))
    content["rows"][2] = content["rows"][2][:-1]
    content["rows"][4] = "?" + content["rows"][4][1:]
    content["movements"]["foot"]["points"] = -6
    content["movements"]["wheels"]["costs"]["sand"] = 2
    content["terrain"]["mud"]["cost"] = "1/0"
    path = tmp_path / "bad.board.json"
    path.write_text(json.dumps(content))
    with pytest.raises(us.errors.BoardFileError) as caught:
        us.load(path)
    places = [place for place, _ in caught.value.faults]
    assert places == [
        "terrain.mud",
        "movements.foot",
        "movements.wheels.costs",
        "rows.2",
        "rows.4",
    ]
    assert "bad.board.json: 5 faults" in str(caught.value)
    content = json.loads(dump(us.maps.shipped("fen")))
    content["units"]["scout"]["at"] = content["units"]["pikes"]["at"]
    content["units"]["sapper"]["at"] = [0, 99]
    content["units"]["punt"]["facing"] = "up"
    with pytest.raises(us.errors.BoardFileError) as caught:
        parse(json.dumps(content).encode())
    found = dict(caught.value.faults)
    assert "'scout' stands on" in found["units.pikes"]
    assert "must lie on the board" in found["units.sapper"]
    assert "direction" in found["units.punt"]
    content["units"] = {}
    content["rows"] = [" " * 22] * 14
    content["elevation"] = [[0]]
    content["grid"]["frame"] = {"lift": -1}
    with pytest.raises(us.errors.BoardFileError, match=r"grid\.frame: lift: must be 0 or more"):
        parse(json.dumps(content).encode())
    del content["grid"]["frame"]
    with pytest.raises(
        us.errors.BoardFileError, match="rows: exists: a grid has at least one cell"
    ):
        parse(json.dumps(content).encode())
    content["rows"][3] = " " * 21 + "."
    with pytest.raises(
        us.errors.BoardFileError, match="elevation: must have 14 rows of 22 numbers"
    ):
        parse(json.dumps(content).encode())
    content["extra"] = 1
    with pytest.raises(us.errors.BoardFileError, match="extra: is no key of this file"):
        parse(json.dumps(content).encode())


def test_the_shipped_schema_names_the_keys_that_are_written():
    schema = us.maps.board_schema()
    content = json.loads(dump(us.maps.shipped("fen")))
    assert set(content) <= set(schema["properties"])
    assert set(schema["required"]) <= set(content)
    assert set(content["grid"]) <= set(schema["$defs"]["GridPart"]["properties"])
    assert schema["additionalProperties"] is False


SOUND = dump(us.maps.shipped("sluice-house"))


def told():
    """A board with a turn, and knowledge of a side."""
    board = us.maps.shipped("sluice-house")
    us.Turns(board, ["wardens", "wreckers"])
    us.fog(board, "wardens")
    return dump(board)


TOLD = told()
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
    except us.errors.BoardFileError as error:
        assert error.faults
        assert all(fault for _, fault in error.faults)


JUNK = st.one_of(
    st.none(), st.booleans(), st.integers(-3, 40), st.integers(-(10**25), 10**25), st.floats(),
    st.text(max_size=3), st.just([]), st.just({}), st.just([[0, 0], [1, 0]]), st.just("1/3"),
    st.just({"turf": 1}), st.just("ours"),
)  # fmt: skip


def parts(thing, path=()):
    """Every place in a file's content, as a path of keys."""
    yield path
    if isinstance(thing, dict | list):
        for key in thing if isinstance(thing, dict) else range(len(thing)):
            yield from parts(thing[key], (*path, key))


@given(boards(cells=12), st.data())
def test_any_part_replaced_by_anything_gives_a_board_or_a_located_error(board, data):
    content = json.loads(dump(board))
    for _ in range(data.draw(st.integers(1, 3))):
        path = data.draw(st.sampled_from([path for path in parts(content) if path]))
        part = content
        for key in path[:-1]:
            part = part[key]
        what = data.draw(st.sampled_from(["replace", "replace", "remove", "double"]))
        if what == "remove":
            del part[path[-1]]
        elif what == "double" and isinstance(part, list):
            part.append(part[path[-1]])
        else:
            part[path[-1]] = data.draw(JUNK)
    raw = json.dumps(content).encode(errors="surrogatepass")
    try:
        again = parse(raw, rules={"wade": wade})
    except us.errors.BoardFileError as error:
        assert error.faults
        assert all(fault for _, fault in error.faults)
    else:  # what was read is a sound board, and is kept as it was read
        assert dump(parse(dump(again).encode(), rules={"wade": wade})) == dump(again)
        for unit in again.units():
            assert not again._units.hindrance(unit, unit.at)


SCHEMA = jsonschema.Draft202012Validator(us.maps.board_schema())


@example(("terrain", "wall", "cost"), "ab")
@example(("terrain", "wall", "cost"), -1)
@example(("terrain", "wall", "glyph"), "long")
@example(("grid", "cols"), 18.0)
@example(("units", "sapper", "sight"), 4e16)
@example(("understep",), True)
@given(st.sampled_from([path for path in parts(json.loads(TOLD)) if path]), JUNK)
def test_schema_and_load_agree_on_the_form_of_a_file(path, value):
    """What the schema refuses is refused; what is refused for its form, the schema refuses."""
    content = json.loads(TOLD)
    part = content
    for key in path[:-1]:
        part = part[key]
    part[path[-1]] = value
    raw = json.dumps(content).encode(errors="surrogatepass")
    assume(not any(word in raw for word in (b"NaN", b"Infinity", b"\\ud")))
    try:
        validated(raw, "bad", FilePart)
    except us.errors.BoardFileError:
        assert not SCHEMA.is_valid(json.loads(raw))
        return
    if not SCHEMA.is_valid(json.loads(raw)):
        with pytest.raises(us.errors.BoardFileError):
            parse(raw)


def with_change(*path, value):
    """The text of a sound file with one value changed; "gone" takes it out."""
    content = json.loads(SOUND)
    part = content
    for key in path[:-1]:
        part = part[key]
    if value == "gone":
        del part[path[-1]]
    else:
        part[path[-1]] = value
    return json.dumps(content)


@pytest.mark.parametrize(
    ("path", "value", "place", "hint"),
    [
        (("understep",), 3, "understep", "4"),
        (("understep",), True, "understep", "4"),
        (("understep",), "gone", "understep", "required"),
        (("grid", "kind"), "hexagon", "grid.kind", "'hex'"),
        (("grid", "cols"), 0, "grid.cols", "greater than or equal to 1"),
        (("grid", "cols"), 18.5, "grid.cols", "integer"),
        (("grid", "cols"), True, "grid.cols", "integer"),
        (("grid", "cols"), 10**7, "grid", "more than"),
        (("grid", "top"), "flat", "grid.top", "no key of a square grid"),
        (("grid", "first"), [0, 10**30], "grid.first.1", "less than"),
        (("grid", "frame"), {"cell": [1, -2]}, "grid.frame", "above 0"),
        (("terrain",), {}, "terrain", "at least 1"),
        (("terrain", "wall", "glyph"), "##", "terrain.wall", "one visible character"),
        (("terrain", "wall", "glyph"), ".", "terrain.wall", "has this glyph"),
        (("terrain", "wall", "tint"), "red", "terrain.wall", "a colour must be like"),
        (("terrain", "wall", "pattern"), "stripes", "terrain.wall.pattern", "'bricks'"),
        (("terrain", "wall", "cost"), -1, "terrain.wall", "never negative"),
        (("terrain", "wall", "cost"), "three", "terrain.wall", "a fraction such as"),
        (("rows",), "..", "rows", "array"),
        (("rows", 0), 7, "rows.0", "string"),
        (("movements", "foot", "points"), None, "movements.foot.points.", "valid"),
        (("movements", "foot", "corners"), "cut", "movements.foot.corners", "'both'"),
        (("movements", "foot", "speed"), 3, "movements.foot.speed", "no key of this file"),
        (("units", "scout", "movement"), "fly", "units.scout.movement", "no movement 'fly'"),
        (("units", "scout", "at"), [2], "units.scout.at.1", "required"),
        (("units", "scout", "at"), [0, 0], "units.scout", "'wall' at (0, 0) is impassable"),
        (("units", "scout", "left"), -3, "units.scout", "never negative"),
        (("units", "scout", "side"), "", "units.scout", "not empty"),
        (("units", "scout", "sight"), -1, "units.scout", "sight: must be a whole number"),
        (("units", "scout", "attack"), {"low": 3}, "units.scout", "attack.high: must be 3 or more"),
        (("turn",), {"sides": ["wardens"], "side": "x", "round": 1}, "turn.side", "one of"),
        (("knowledge",), {"wardens": {"rows": []}}, "knowledge.wardens.rows", "must be 12"),
        (("knowledge",), {"wardens": {"rows": ["?" * 18] * 12}}, "knowledge.wardens", "legend"),
    ],
)
def test_each_fault_is_named_with_its_place(path, value, place, hint):
    with pytest.raises(us.errors.BoardFileError) as caught:
        parse(with_change(*path, value=value).encode(), "bad")
    assert any(where.startswith(place) and hint in what for where, what in caught.value.faults), (
        caught.value.faults
    )
    assert str(caught.value).startswith("bad: ")


@pytest.mark.parametrize(
    ("raw", "place", "hint"),
    [
        (b"", "line 1, column 1", "is not JSON"),
        (b'{"understep": 1,}', "line 1, column 1", "is not JSON"),
        (b"\xff\xfe", "byte 0", "is not UTF-8"),
        (b"[" * 100_000, "", "nested deeper than 16 levels"),
        (b'{"title": "a", "title": "b"}', "", "'title' stands twice"),
        (b'{"title": NaN}', "", "NaN is not a number"),
        (b"[]", "", "should be an object"),
        (b" " * ((64 << 20) + 1), "", "larger than 64 MiB"),
        (SOUND.replace('"title": "', r'"title": "\ud800').encode(), "title", "half of a character"),
        (TOLD.replace('"sides": ["', r'"sides": ["\ud800').encode(), "turn.sides.0", "half of a"),
        (TOLD.replace('"wardens": {"r', r'"\ud800": {"r').encode(), "knowledge", "half of a"),
    ],
)
def test_what_is_no_board_file_is_told_so(raw, place, hint):
    with pytest.raises(us.errors.BoardFileError) as caught:
        parse(raw, "bad")
    where, what = caught.value.faults[0]
    assert place in where
    assert str(caught.value).encode()
    assert hint.lower() in what.lower()


@pytest.mark.parametrize("cost", [0.1, 1 / 3, 0.7, Fraction(2, 7), 1e-9, 999.999])
def test_links_of_any_cost_are_read_again(cost):
    board = us.Board(us.SquareGrid(5, 1), {"turf": 1})
    board.link((0, 0), (3, 0), cost)
    text = dump(board)
    again = parse(text.encode())
    assert (again.links(), dump(again)) == (board.links(), text)
