"""World folders: what was saved is read again; faults have places; commands take them."""

import json
import shutil

import numpy as np
import pytest
from click.testing import CliRunner
from hypothesis import given
from hypothesis import strategies as st
from samples import examples
from test_worlds import edit, facts, worlds

import understep as us
from understep.cli.main import main


@examples(0.4)
@given(made=worlds(), seed=st.integers(0, 10**6))
def test_what_was_saved_is_read_again(made, seed, tmp_path_factory):
    whole, world, _ = made
    folder = tmp_path_factory.mktemp("world")
    size, names = world.size, [unit.name for unit in whole.units()]
    rules = {}
    for unit in whole.units():
        rule = unit.movement.rule
        if rule is not None:
            if not getattr(rule, "__name__", "").isidentifier():
                return
            rules[rule.__name__] = rule
    us.save_world(world, folder)
    goals = list(whole.grid)[::9]
    for step in range(2):
        again = us.load_world(folder, rules=rules, memory=1)  # one sector awake
        board = again.board((0, 0), *size)
        assert facts(board) == facts(whole)
        assert (again.units(), sorted(again.edges), again.links) == (
            world.units(), sorted(world.edges), world.links
        )  # fmt: skip
        plans = [
            [us.load_world(folder, rules=rules).plan("a", goal).cost for goal in goals]
            for _ in range(2)
        ]  # with notes in files, the second time
        assert plans[0] == plans[1]
        if step == 0:
            for each in (board, whole):
                edit(each, np.random.default_rng(seed), names)
            again.keep(board)
            us.save_world(again, folder)
            world = again


@pytest.fixture
def folder(tmp_path):
    def make(first, cols, rows):
        return us.delta(7, cols, rows, first=first, units=False)

    world = us.World(make, 150, 110, sector=32)
    world.add(us.Unit("scout", "wardens", us.Movement(points=8), sight=6), at=(15, 5))
    us.save_world(world, tmp_path / "delta")
    return tmp_path / "delta"


def run(*arguments):
    done = CliRunner().invoke(main, [str(each) for each in arguments])
    return done.exit_code, done.output


@pytest.mark.large
def test_notes_are_used_until_a_sector_is_written_anew(folder):
    first = us.load_world(folder).plan("scout", (120, 90))
    assert first.looked
    world = us.load_world(folder)
    again = world.plan("scout", (120, 90), asleep="kept")
    assert not again  # the goal's sector is asleep
    world.board((120, 90), 1, 1), world.board((15, 5), 1, 1)
    before = world.awake
    again = world.plan("scout", (120, 90), asleep="kept")
    assert (again.cost, world.awake) == (first.cost, before)
    for note in (folder / "notes").iterdir():  # not sound: found again
        note.write_bytes(note.read_bytes()[:-20])
    assert us.load_world(folder).plan("scout", (120, 90)).crossings == first.crossings
    crossing = first.crossings[1]
    path = folder / "sectors" / f"{crossing.a.col // 32}.{crossing.a.row // 32}.board.json"
    land = us.load(path)
    land.paint("deep", land.grid.cells)
    us.save(land, path)  # by somebody else
    world = us.load_world(folder)
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
        (("understep_world",), 2, "understep_world"),
        (("more",), 1, "more: is no key"),
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
        us.load_world(folder)
    assert hint in str(caught.value)
    code, text = run("show", folder)
    assert (code, hint in " ".join(text.split())) == (2, True)


def test_units_are_taken_back_as_they_can_be():
    world = us.World(lambda first, cols, rows: us.delta(7, cols, rows, first=first, units=False),
                     60, 40)  # fmt: skip
    unit = us.Unit("scout", "wardens", us.Movement(points=8), at=us.Cell(15, 5))
    with pytest.raises(us.InputError, match="names must differ"):
        world.restore([unit, unit.changed(at=us.Cell(16, 5))])
    with pytest.raises(us.OccupiedError, match="another unit"):
        world.restore([unit, us.Unit("pikes", "wardens", unit.movement, at=us.Cell(15, 5))])
    assert not world.units()


@pytest.mark.large
def test_commands_take_a_world_folder_or_a_piece(folder):
    code, text = run("route", folder, "scout", "120,90")
    assert code == 0
    assert text.startswith("Journey('scout' to (120, 90), cost 17")
    code, text = run("route", folder, "scout", "120,90", "--json")
    route = json.loads(text)
    whole = us.load_world(folder).board((0, 0), 150, 110)
    least = us.field(whole, "scout", [(120, 90)])[15, 5]
    assert least <= route["cost"] <= 1.15 * least
    code, text = run("show", f"{folder}@10,0,20,12", "--json")
    assert json.loads(text)["units"] == [{"name": "scout", "side": "wardens", "at": [15, 5]}]
    code, text = run("check", folder)
    assert (code, text == run("check", folder)[1]) == (1, True)
    assert us.check(whole).plain() == json.loads(run("check", folder, "--json")[1])
    for wrong in (f"{folder}@10,0", f"{folder}@500,0,2,2", folder / "sectors"):
        code, text = run("show", wrong)
        assert code == 2
    assert run("route", folder, "scout", "148,3")[0] == 1  # a pocket
    shutil.rmtree(folder / "sectors")
    code, text = run("show", folder)
    assert (code, "there are no cells" in text) == (2, True)


@pytest.mark.large
def test_notes_are_a_mapping_of_files(folder):
    world = us.load_world(folder)
    notes = world.notes
    assert (len(notes), list(notes)) == (0, [])
    world.plan("scout", (120, 90))
    kept = {key: notes[key] for key in notes}
    assert len(notes) == len(kept) == len(list((folder / "notes").iterdir())) > 4
    assert all(isinstance(json.loads(text), dict) for text in kept.values())
    board = world.board((15, 5), 1, 1)
    board.paint("mud", (15, 5))
    world.keep(board)  # its sector's note is gone, no other
    assert set(kept) - set(notes) == {"0.0"}
    with pytest.raises(KeyError):
        del notes["0.0"]
    again = world.plan("scout", (120, 90))
    assert set(notes) == set(kept)
    us.save_world(world, folder)
    assert us.load_world(folder).plan("scout", (120, 90)).crossings == again.crossings
    assert us.load(folder / "sectors" / "0.0.board.json").terrain((15, 5)) == "mud"
    with pytest.raises(us.InputError, match="must be a World"):
        us.save_world(board, folder)
