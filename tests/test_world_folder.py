"""World folders: what was saved is read again; faults have places; commands take them."""

import errno
import json
import os
import shutil
import subprocess
import sys
from pathlib import Path
from unittest import mock

import numpy as np
import pytest
from click.testing import CliRunner
from hypothesis import given
from hypothesis import strategies as st
from samples import examples
from test_worlds import edit, facts, same_knowledge, worlds

import understep as us
from understep.cli.main import main


@examples(0.4)
@given(made=worlds(), seed=st.integers(0, 10**6), fog=st.sampled_from(["", "ours", "theirs"]))
def test_what_was_saved_is_read_again(made, seed, fog, tmp_path_factory):
    whole, world, _ = made
    if fog in whole.sides:
        us.fog(whole, fog, land_known=bool(seed % 2))
        world.fog(fog, land_known=bool(seed % 2))
        for unit in whole.units():  # so that more was seen than is seen now
            for spot in us.reach(whole, unit.name, known_to=False).cells[:2]:
                whole.put(unit.name, at=spot)
                world.put(unit.name, at=spot)
    folder = tmp_path_factory.mktemp("world")
    size, names = world.size, [unit.name for unit in whole.units()]
    rules = {}
    for unit in whole.units():
        rule = unit.movement.rule
        if rule is not None:
            if not getattr(rule, "__name__", "").isidentifier():
                return
            rules[rule.__name__] = rule
    us.worlds.save_world(world, folder)
    goals = list(whole.grid)[::9]
    for step in range(2):
        again = us.worlds.load_world(folder, rules=rules, memory=1)  # one sector awake
        board = again.board((0, 0), *size)
        assert facts(board) == facts(whole)
        same_knowledge(board, whole)
        assert (again.units(), sorted(again.edges), again.links) == (
            world.units(), sorted(world.edges), world.links
        )  # fmt: skip
        plans = [
            [us.worlds.load_world(folder, rules=rules).plan("a", goal).cost for goal in goals]
            for _ in range(2)
        ]  # with notes in files, the second time
        assert plans[0] == plans[1]
        if step == 0:
            for each in (board, whole):
                edit(each, np.random.default_rng(seed), names)
            again.keep(board)
            us.worlds.save_world(again, folder)
            world = again


@pytest.fixture
def folder(tmp_path):
    def make(first, cols, rows):
        return us.worlds.delta(7, cols, rows, first=first, units=False)

    world = us.worlds.World(make, 150, 110, sector=32)
    world.add(us.Unit("scout", "wardens", us.Movement(points=8), sight=6), at=(15, 5))
    us.worlds.save_world(world, tmp_path / "delta")
    return tmp_path / "delta"


def run(*arguments):
    done = CliRunner().invoke(main, [str(each) for each in arguments])
    return done.exit_code, done.output


@pytest.mark.large
def test_notes_are_used_until_a_sector_is_written_anew(folder):
    first = us.worlds.load_world(folder).plan("scout", (120, 90))
    assert first.looked
    world = us.worlds.load_world(folder)
    again = world.plan("scout", (120, 90), asleep="kept")
    assert not again  # the goal's sector is asleep
    world.board((120, 90), 1, 1), world.board((15, 5), 1, 1)
    before = world.awake
    again = world.plan("scout", (120, 90), asleep="kept")
    assert (again.cost, world.awake) == (first.cost, before)
    for note in (folder / "notes").iterdir():  # not sound: found again
        note.write_bytes(note.read_bytes()[:-20])
    assert us.worlds.load_world(folder).plan("scout", (120, 90)).crossings == first.crossings
    crossing = first.crossings[1]
    place = crossing.a.col // 32, crossing.a.row // 32
    other = us.worlds.load_world(folder)
    land = other.board((place[0] * 32, place[1] * 32), 32, 32)
    land.paint("deep", land.grid.cells)
    other.keep(land)
    us.worlds.save_world(other, folder)
    world = us.worlds.load_world(folder)
    assert crossing not in world.plan("scout", (120, 90)).crossings


@pytest.mark.parametrize(
    ("path", "value", "hint"),
    [
        (("size",), [150], "size.1"),
        (("size",), [0, 110], "size: must be whole numbers"),
        (("sector",), 0, "sector"),
        (("units", "scout", "movement"), "fly", "units.scout.movement: no movement 'fly'"),
        (("units", "scout", "at"), [500, 1], "scout: must lie in a world"),
        (("links",), [{"at": [[0, 0], [99, 9]], "cost": "x", "kind": "ferry"}], "links.0"),
        (("links",), [{"at": [[0, 0], [199, 9]], "cost": 1, "kind": "ferry"}], "ferry: must lie"),
        (("understep_world",), 1, "understep_world"),
        (("sectors", "0.0"), "../../../etc/x", "sectors.0.0: must be such as '3.0'"),
        (("sectors", "5.0"), "0" * 16, "sectors.5.0: lies outside of the world"),
        (("more",), 1, "more: is no key"),
        (("knowledge",), {"wardens": {}}, "knowledge.wardens.land_known"),
        (("knowledge",), {"wardens": {"land_known": 1}}, "knowledge.wardens.land_known"),
        (
            ("knowledge",),
            {"wardens": {"land_known": True, "edges": [{"at": [[0, 0], [999, 9]], "kind": "w"}]}},
            "w: must lie in a world",
        ),
        (
            ("knowledge",),
            {
                "wardens": {
                    "land_known": True,
                    "units": {"x": {"side": "y", "at": [1, 1], "movement": "no"}},
                }
            },
            "knowledge.wardens.units.x.movement: no movement 'no'",
        ),
        (
            ("knowledge",),
            {
                "wardens": {
                    "land_known": True,
                    "links": [{"at": [[0, 0], [9, 9]], "cost": -1, "kind": "f"}],
                }
            },
            "knowledge.wardens.links.0",
        ),
    ],
)
def test_faults_of_an_index_are_named(folder, path, value, hint):
    index = folder / "world.json"
    content = json.loads(index.read_text())
    part = content
    for key in path[:-1]:
        part = part[key]
    part[path[-1]] = value
    index.write_text(json.dumps(content))
    with pytest.raises(us.UnderstepError) as caught:
        us.worlds.load_world(folder)
    assert hint in str(caught.value)
    code, text = run("show", folder)
    assert (code, hint in " ".join(text.split())) == (2, True)


def test_units_are_taken_back_as_they_can_be():
    world = us.worlds.World(lambda first, cols, rows: us.worlds.delta(7, cols, rows, first=first, units=False),
                     60, 40)  # fmt: skip
    unit = us.Unit("scout", "wardens", us.Movement(points=8), at=us.Cell(15, 5))
    with pytest.raises(us.errors.InputError, match="names must differ"):
        world.restore([unit, unit.changed(at=us.Cell(16, 5))])
    with pytest.raises(us.errors.OccupiedError, match="another unit"):
        world.restore([unit, us.Unit("pikes", "wardens", unit.movement, at=us.Cell(15, 5))])
    assert not world.units()


def test_a_side_takes_part_when_its_last_unit_is_gone_and_after_saving(tmp_path):
    def make(first, cols, rows):
        return us.worlds.delta(7, cols, rows, first=first, units=False)

    world, foot = us.worlds.World(make, 60, 40), us.Movement(points=8)
    for name, side, col in (("pikes", "wreckers", 16), ("scout", "wardens", 15)):
        world.add(us.Unit(name, side, foot, attack=us.Attack()), at=(col, 5))
    world.near("pikes").remove("pikes")
    us.worlds.save_world(world, tmp_path)
    for each in (world, us.worlds.load_world(tmp_path)):
        assert (each.sides, each.units("wreckers")) == (("wreckers", "wardens"), ())
        assert not us.threats(each.around("scout"), against="wreckers").why
        with pytest.raises(us.errors.NameUnknownError, match=r"side: .*'wreckers'"):
            each.units("wrecker")
    index = tmp_path / "world.json"
    content = json.loads(index.read_text("utf-8"))
    content["sides"] = ["", *(f"s{number}" for number in range(254))]
    index.write_text(json.dumps(content), "utf-8")
    with pytest.raises(us.errors.BoardFileError) as caught:
        us.worlds.load_world(tmp_path)
    assert [place for place, _ in caught.value.faults] == ["sides.0", "sides"]


def test_a_sector_that_slept_knows_nothing_of_an_earlier_fog(tmp_path):
    def make(first, cols, rows):
        return us.Board(us.SquareGrid(cols, rows, first=first), {"turf": 1})

    def status(world, cell):
        return world.near(cell).knowledge("wardens").status(cell)

    made = us.worlds.World(make, 100, 100, sector=10)
    made.add(us.Unit("scout", "wardens", us.Movement(3), sight=3), at=(15, 15))
    us.worlds.save_world(made, tmp_path)
    world = us.worlds.load_world(tmp_path)
    world.fog("wardens")
    assert status(world, (15, 16)) == "now"
    world.put("scout", at=(85, 85))
    us.worlds.save_world(world, tmp_path)
    world = us.worlds.load_world(tmp_path)
    assert status(world, (15, 16)) == "before"
    world.release([(0, 0), (99, 99)])
    world.lift_fog("wardens")
    us.worlds.save_world(world, tmp_path)
    world = us.worlds.load_world(tmp_path)
    world.fog("wardens")
    assert (status(world, (15, 16)), status(world, (85, 86)), world.fogs) == ("never", "now", 2)
    world.put("scout", at=(50, 50))
    us.worlds.save_world(world, tmp_path)
    world = us.worlds.load_world(tmp_path)
    assert (status(world, (15, 16)), status(world, (85, 86)), world.fogs) == ("never", "before", 2)


@pytest.mark.large
@pytest.mark.deep
def test_commands_take_a_world_folder_or_a_piece(folder):
    code, text = run("route", folder, "scout", "120,90")
    assert code == 0
    assert text.startswith("Journey('scout' to (120, 90), cost 17")
    code, text = run("route", folder, "scout", "120,90", "--json")
    route = json.loads(text)
    whole = us.worlds.load_world(folder).board((0, 0), 150, 110)
    least = us.field(whole, "scout", [(120, 90)])[15, 5]
    assert least <= route["cost"] <= 1.15 * least
    code, text = run("show", f"{folder}@10,0,20,12", "--json")
    assert json.loads(text)["units"] == [{"name": "scout", "side": "wardens", "at": [15, 5]}]
    code, text = run("check", folder)
    assert (code, text == run("check", folder)[1]) == (1, True)
    assert us.maps.check(whole).plain() == json.loads(run("check", folder, "--json")[1])
    for wrong in (f"{folder}@10,0", f"{folder}@500,0,2,2", folder / "sectors"):
        code, text = run("show", wrong)
        assert code == 2
    assert run("route", folder, "scout", "148,3")[0] == 1  # a pocket
    shutil.rmtree(folder / "sectors")
    code, text = run("show", folder)
    assert (code, "is gone: the world was saved twice" in " ".join(text.split())) == (2, True)


@pytest.mark.large
def test_notes_are_a_mapping_of_files(folder):
    world = us.worlds.load_world(folder)
    notes = world.notes
    assert (len(notes), list(notes)) == (0, [])
    world.plan("scout", (120, 90))
    kept = {key: notes[key] for key in notes}
    assert len(notes) == len(kept) == len(list((folder / "notes").iterdir())) > 4
    assert all(isinstance(json.loads(text), dict) for text in kept.values())
    board = world.board((15, 5), 1, 1)
    board.paint("mud", (15, 5))
    world.keep(board)  # its sector's note, and those around it, do not count any more
    assert set(kept) - set(notes) == {"0.0", "0.1", "1.0", "1.1"}
    assert set(us.worlds.load_world(folder).notes) == set(kept)  # but for others they do
    again = world.plan("scout", (120, 90))
    us.worlds.save_world(world, folder)
    assert us.worlds.load_world(folder).plan("scout", (120, 90)).crossings == again.crossings
    assert set(notes) == set(kept)
    del notes["0.0"]
    with pytest.raises(KeyError):
        del notes["0.0"]
    assert us.worlds.load_world(folder).board((15, 5), 1, 1).terrain((15, 5)) == "mud"
    with pytest.raises(us.errors.InputError, match="must be a World"):
        us.worlds.save_world(board, folder)


# if saving a world is broken off, one world is there whole

FIELDS = """
import os, shutil, sys, understep as us
folder, (cols, rows, side) = sys.argv[1], (24, 16, 8)

def make(first, cols, rows):
    return us.Board(us.SquareGrid(cols, rows, first=first), {"turf": 1, "mud": 2, "sand": 3})

def laid(world):  # the terrain of all cells, in one word, and where the unit stands
    board = world.board((0, 0), cols, rows)
    codes = board.terrain_codes()
    assert codes.min() == codes.max(), codes
    at = board.unit("scout").at
    assert at.col == codes[0, 0], (at, codes[0, 0])
    return int(codes[0, 0])

def alter(world, code):
    for row in range(0, rows, side):
        for col in range(0, cols, side):
            board = world.board((col, row), side, side)
            board.paint(("turf", "mud", "sand")[code], board.grid.cells)
            if (col, row) == (0, 0):
                board.put("scout", at=(code, 0))
            world.keep(board)

def begin(code):
    world = us.worlds.World(make, cols, rows, sector=side)
    world.add(us.Unit("scout", "wardens", us.Movement(3)), at=(code, 0))
    alter(world, code)
    us.worlds.save_world(world, folder)
"""
KILLED = (
    FIELDS
    + """
def die_at(number):
    left = [number]
    def hook(event, arguments):
        if event in ("open", "os.rename", "os.remove", "os.mkdir") and left:
            if isinstance(arguments[0], (str, os.PathLike)) and folder in os.fspath(arguments[0]):
                left[0] -= 1
                if left[0] < 0:
                    os._exit(9)
    sys.addaudithook(hook)

begin(0)
shutil.copytree(folder, folder + "-before")
number = new = status = 0
while number == 0 or status == 9:
    shutil.rmtree(folder)
    shutil.copytree(folder + "-before", folder)
    reader = us.worlds.load_world(folder)
    child = os.fork()
    if child == 0:
        world = us.worlds.load_world(folder, memory=1)  # one sector is awake, the others go aside
        die_at(number)
        alter(world, 1)
        us.worlds.save_world(world, folder)
        os._exit(0)
    status = os.waitstatus_to_exitcode(os.waitpid(child, 0)[1])
    now = laid(us.worlds.load_world(folder))
    assert laid(reader) == 0  # who opened the world before still reads it
    assert now >= new and status in (0, 9), (now, status)
    number, new = number + 1, now
    if status == 9:  # the next save clears away what was left
        us.worlds.save_world(us.worlds.load_world(folder), folder)
    left = [path for _, _, names in os.walk(folder) for path in names if path.endswith(".part")]
    assert not left, left
print(number, new, len(os.listdir(folder + "/sectors")))
"""
)
RIVALS = (
    FIELDS
    + """
begin(0)
children = []
for code in (1, 2):
    children.append(os.fork())
    if children[-1] == 0:
        for _ in range(12):
            begin(code)
        os._exit(0)
seen = set()
while children:
    for _ in range(3):  # an index may be gone before all that it names is read
        try:
            seen.add(laid(us.worlds.load_world(folder)))
            break
        except us.errors.BoardFileError as error:
            assert "saved twice" in str(error), error
    children = [each for each in children if os.waitpid(each, os.WNOHANG)[0] == 0]
print(laid(us.worlds.load_world(folder)) in (1, 2), seen <= {0, 1, 2})
"""
)


def terrain(world):
    return world.board((0, 0), *world.size).terrain_codes().tolist()


def told(script, folder):
    done = subprocess.run(
        [sys.executable, "-W", "ignore", "-c", script, str(folder)],
        capture_output=True, text=True, check=False,
    )  # fmt: skip
    assert done.returncode == 0, done.stderr
    return done.stdout.split()


@pytest.mark.deep
@pytest.mark.skipif(not hasattr(os, "fork"), reason="processes are copied")
def test_a_world_is_whole_wherever_its_writer_is_killed(tmp_path):
    number, *found = map(int, told(KILLED, tmp_path / "world"))
    assert number > 50  # so many times it touched the folder
    assert found == [1, 12]  # sectors of this world, and of the one before


@pytest.mark.skipif(not hasattr(os, "fork"), reason="processes are copied")
@pytest.mark.deep
def test_two_writers_leave_the_world_of_one_of_them(tmp_path):
    assert told(RIVALS, tmp_path / "world") == ["True", "True"]


def test_a_full_disk_leaves_the_world_and_what_was_altered(folder, monkeypatch):
    world = us.worlds.load_world(folder, memory=1)
    for col in (0, 64, 96):
        board = world.board((col, 0), 20, 8)
        board.paint("mud", board.grid.cells)
        world.keep(board)
    before, whole = terrain(us.worlds.load_world(folder)), terrain(world)
    assert before != whole
    full = OSError(errno.ENOSPC, "No space left on device")
    for call in ("fsync", "replace", "open"):
        with monkeypatch.context() as patch:
            patch.setattr(os, call, mock.Mock(side_effect=full))
            with pytest.raises(OSError, match="No space"):
                us.worlds.save_world(world, folder)
        assert terrain(us.worlds.load_world(folder)) == before
    us.worlds.save_world(world, folder)
    assert terrain(us.worlds.load_world(folder)) == whole
    assert not list(folder.rglob("*.part"))


def test_notes_that_cannot_be_written_are_no_fault(folder):
    (folder / "notes").write_text("in the way")
    world = us.worlds.load_world(folder)
    assert world.plan("scout", (60, 40))
    assert len(world.notes) == 0


def test_a_folder_that_cannot_be_written_can_be_read_and_planned_in(folder, monkeypatch):
    shutil.rmtree(folder / "notes", ignore_errors=True)
    refused = PermissionError(errno.EACCES, "Permission denied")
    opened = os.open

    def reading(path, flags, *more, **named):
        if flags & (os.O_WRONLY | os.O_RDWR | os.O_CREAT) and folder.as_posix() in str(path):
            raise refused
        return opened(path, flags, *more, **named)

    monkeypatch.setattr(os, "open", reading)
    for call in ("write_bytes", "mkdir"):
        monkeypatch.setattr(Path, call, mock.Mock(side_effect=refused))
    world = us.worlds.load_world(folder, memory=1)
    assert world.plan("scout", (60, 40))
    before = terrain(world)
    board = world.board((0, 0), 20, 8)
    board.paint("mud", board.grid.cells)
    world.keep(board)
    with pytest.raises(PermissionError):
        us.worlds.save_world(world, folder)
    monkeypatch.undo()
    assert terrain(us.worlds.load_world(folder)) == before != terrain(world)


@pytest.mark.parametrize("there", ["msvcrt", None])
def test_a_world_is_saved_where_the_system_locks_otherwise_or_not_at_all(
    folder, there, monkeypatch
):
    calls = []
    lock = mock.Mock(LK_LOCK=1, locking=lambda *given: calls.append(given[1:]))
    monkeypatch.setitem(sys.modules, "fcntl", None)
    monkeypatch.setitem(sys.modules, "msvcrt", lock if there else None)
    world = us.worlds.load_world(folder)
    world.put("scout", at=(16, 5))
    us.worlds.save_world(world, folder)
    assert tuple(us.worlds.load_world(folder).unit("scout").at) == (16, 5)
    assert calls == ([(1, 1)] if there else [])
