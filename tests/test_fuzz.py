"""Wrong arguments: refused by the library's own errors, and nothing is changed.

Every call that takes a board, a grid or an answer is given one argument after the other that is
of another kind, too large, empty, or no number at all.
"""

import contextlib
import inspect
import json
import re
from functools import partial
from pathlib import Path

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from samples import examples
from test_files import parts

import understep as us

PICTURES = Path(__file__).parents[1] / "docs" / "how"
ODD = [
    None, True, -1, 0, 3, 2**31, 2**63, 2**70, -(2**40), -0.5, 1e300, float("nan"), float("inf"),
    "", "x", "scout", "turf", "a" * 10**5, b"ab", 5 + 0j, (), [], {}, (1,), (0, 0), (1, 2, 3),
    (2**40, 5), (-(2**63), 2**63), ("a", "b"), (None, None), (1.5, 2.5), (True, False),
    [(0, 0), (1, 1)], [(0, 0), (2**33, 1)], {(1, 1)}, {"turf": 1}, object(), range(3),
    us.Cell(3, 3), us.Movement(3), np.int64(3), np.float32(1.5), np.zeros(3), np.zeros((2, 2)),
    np.array([[1, 2]], dtype=np.uint8), np.array([[1.5, 2]]), np.array(["a"]),
    np.zeros((0, 2), dtype=int), lambda *_: 1,
]  # fmt: skip


@pytest.fixture(autouse=True, scope="module")
def elsewhere(tmp_path_factory):
    """What takes a name for that of a file writes it there."""
    with contextlib.chdir(tmp_path_factory.mktemp("odd")):
        yield


SEVERAL = inspect.Parameter.VAR_KEYWORD, inspect.Parameter.VAR_POSITIONAL


def scene(kind):
    """A board with something of everything; its first side keeps knowledge."""
    board = us.Board(
        kind(12, 9), {"turf": 1, "mud": 2, "deep": None}, properties={"depth": 0.5},
        edges={"door": us.Edge(blocks=True, door=True)}, features={"crate": us.Feature(add=1)},
    )  # fmt: skip
    board.paint("mud", board.grid.disk((8, 2), 2))
    board.paint("deep", [(6, 6), (6, 7)])
    board.set_edge((0, 0), (1, 0), "door")
    board.place("crate", (2, 2))
    board.link((0, 0), (11, 8), 2, kind="ladder")
    for number, name in enumerate(["scout", "guard", "archer", "ox"]):
        side, bow = ("wardens", "wreckers")[number % 2], us.Attack(1, 2)
        unit = us.Unit(name, side, us.Movement(points=3), attack=bow, sight=3, data={"health": 3})
        board.add(unit, at=(3 + number, 4))
    us.fog(board, "wardens", land_known=True)
    return board


def read_ids(ids, legend, terrain, width=None, bottom_first=False):
    """A table of one row; a text in place of the table would be a file."""
    words = {"grid": us.HexGrid, "width": width, "bottom_first": bottom_first}
    return us.maps.read_table([ids], legend, terrain, **words)


def calls(board):
    """Calls, and arguments with which they work."""
    unit, other = (each.name for each in board.units()[:2])
    side, here = board.unit(unit).side, board.unit(unit).at
    grid, reach, prospects = board.grid, us.reach(board, unit), us.prospects(board, side)
    route = us.route(board, unit, reach.cells[-1])
    field, areas = us.field(board, unit, [grid.cells[0]]), us.areas(board, unit)
    attacks, threats = us.attacks(board, unit), us.threats(board, "wreckers")
    knowledge, turns = board.knowledge(side), us.Turns(board, list(board.sides))
    poses, told, reserved = (
        us.poses(route, speed=2),
        us.explain(board, unit, (6, 6)),
        us.behaviors.Reservations(),
    )
    aim, shown, stack = attacks.targets[0], reach.overlay(), us.Overlays([reach.overlay()])
    a, b = grid.cells[0], next(iter(grid.neighbors(grid.cells[0])))
    new = us.Unit("new", side, us.Movement(2))
    plain = {
        us.reach: (board, unit), us.reaches: (board, [unit]), us.route: (board, unit, a),
        us.field: (board, unit, [a]), us.areas: (board, unit), us.explain: (board, unit, a),
        us.study.trace: (board, unit, a), us.study.compare: (board, unit, a), us.maps.check: (board,),
        us.study.survey: ({"a": board}, ["size"]), partial(us.study.prove, seconds=0, boards=0): (board,),
        us.sees: (board, here, a), us.view: (board, unit), us.fog: (board, "wreckers"),
        us.walk: (board, unit, route), us.push: (board, unit, grid.directions[0], 2),
        us.attacks: (board, unit), us.stands: (board, unit, other), us.threats: (board, side),
        us.intent: (reach, a), us.behaviors.wander: (board, unit, 1), us.behaviors.patrol: (board, unit, [a]),
        us.behaviors.approach: (board, unit), us.behaviors.hold: (board, unit),
        us.behaviors.withdraw: (board, unit), us.behaviors.follow: (board, unit, other), us.behaviors.notice: (board, unit),
        us.behaviors.chase: (board, unit, us.behaviors.Alert(other, here, patience=2)), us.Turns: (board, [side]),
        us.ribbon: (route,), us.curve: (route,), partial(us.poses, speed=2): (route,), us.Overlays: ([],),
        us.maps.resize: (board, grid.cols, grid.rows), us.maps.shift: (board, 1, 1), us.draw.depth_order: (grid, [a]),
        us.shapes.cover: (grid, us.shapes.circle((2, 2), 1)), us.within: (a, 0, 2), us.worlds.delta: (3, 5, 5),
        us.convert: ([(1, 2)], "offset", "cube"), us.round_cube: ([0.1, 0.2, -0.3],),
        us.draw.labels: (board, "offset"), us.Movement: (3,), us.Terrain: (1,), us.Edge: (),
        us.Unit: ("n", "s", us.Movement(2)), us.Attack: (1, 2), us.Leap: (), us.Frame: (),
        us.SquareGrid: (3, 3), us.HexGrid: (3, 3), us.Board: (grid, {"t": 1}),
        us.Overlay: ({},), us.draw.terminal: (board,), us.draw.page: (board,),
        partial(us.maps.variants, rng=1): ([a], {"x": 1}), partial(us.maps.scatter, rng=1): (grid, 1), us.shapes.circle: (here, 1),
        us.shapes.box: (a, b), us.shapes.polygon: ([(0, 0), (3, 0), (0, 3)],), us.shapes.strip: ([a, b], 1),
        us.shapes.bitmap: ([[True]],), us.shapes.cover_shares: (grid, us.shapes.circle((2, 2), 1)),
        WORLD.around: ("guide",), WORLD.spanning: ([a],), WORLD.board: (a, 5, 5), WORLD.route: ("guide", here),
        us.prospects: (board, side), us.behaviors.coordinate: (board, [unit], [a]),
        us.passable: (board, unit), us.draw.passable: (board, unit), us.draw.arrows: (reach,),
        us.draw.heat: (reach,), us.maps.fence: (board, np.full((grid.rows, grid.cols), 255, np.uint8), "door"),
        prospects.at: (unit, here), prospects.of: (unit,), prospects.distance: ([a],),
        prospects.best: (lambda found: found.exposure,), reach.get: (a,), reach.route_to: (reach.cells[-1],),
        reach.table: ("cost",), field.get: (a,), field.next: (here,), field.owner: (here,),
        field.cells_from: (here,), areas.get: (a,), areas.cells_of: (0,), areas.leads: (here, a),
        attacks.affected: (here, here), attacks.hits: (here, here),
        attacks.ways: (aim,), attacks.stands: (aim,), attacks.get: (aim,), threats.by: (a,),
        threats.struck: (threats.foes[0],), threats.stands: (here, threats.foes[0]),
        knowledge.cells_seen: ("now",), knowledge.changes: (board.state,),
        knowledge.last_seen: (other,), knowledge.status: (a,), shown.changes: (shown,),
        shown.role: ("reach",), stack.changes: (stack,), stack.marks: (a,),
        turns.attacked: (unit,), turns.attacks_left: (unit,), turns.done: (unit,),
        turns.renew: (unit,), new.copy: ("copy", side), us.Feature: (), us.Footprint.block: (2,),
        us.Footprint.cluster: (1,), us.Pattern.disk: (1,), us.maps.shipped: ("fen",),
        (lambda unit, name: board.clear_data(unit, name)): (unit, "health"),
        (lambda unit, health: board.set_data(unit, health=health)): (unit, 2), us.maps.reframe: (board, us.Frame()), WORLD.near: ("guide",), WORLD.plan: ("guide", here),
        WORLD.unit: ("guide",), WORLD.release: ([here],), field.table: ("cost",), areas.table: ("area",),
        threats.table: ("foes",), knowledge.get: (a,), knowledge.table: ("status",), us.view(board, a).table: ("view",),
        poses.at: (0.5,), told.remedy.apply: (board.copy(),),
        told.remedy.movement: (new.movement,), reserved.free: (unit,), reserved.ends: (board, board.unit(unit)),
        reserved.clash: (board, board.unit(unit), [here]), reserved.keep: (board, board.unit(unit), [here]),
        us.HexGrid.hexagon: (2,), us.HexGrid.uneven: ([2, 3],), us.HexGrid.fit: ((300, 200), (30, 30)),
        us.SquareGrid.from_cells: ([a],), us.SquareGrid.fit: ((300, 200), (30, 30)), us.HexGrid(3, 3).convert: ([a], "offset", "cube"),
        us.Pattern.cone: (2,), us.Pattern.line: (2,), us.Pattern.of: ([(0, 1)],),
        WORLD.wake: ([here],), partial(us.maps.read_text, grid=us.SquareGrid): ("..", {".": "t"}, {"t": 1}),
        read_ids: ([1, 1], {1: "t"}, {"t": 1}),
    }  # fmt: skip
    of_board = {
        "paint": ("turf", a), "set_elevation": (1, a), "edge": (a, b), "set_edge": (a, b, None),
        "is_open": (a, b), "link": (a, grid.cells[-1]), "unlink": (a, grid.cells[-1]), "put": (unit, here),
        "add": (new, a), "remove": (other,), "set_facing": (unit, None), "set_left": (unit, 1),
        "unit": (unit,), "unit_at": (a,), "blocks": (), "values": ("depth",), "lay_beside": ("door", [a], grid.directions[0]), "units": (side,), "can_stand": (unit, a), "block": (a,),
        "clear": (a,), "blocked": (a,), "terrain": (a,), "slope": (a, b), "value": ("depth", a),
        "set_value": ("depth", 1, a), "center": (a,), "corners": (a,), "cell_at": ((3.0, 3.0),),
        "cells_at": ([(3.0, 3.0)],), "knowledge": (side,), "covered": (new, a),
        "lay_along": (None, [a, b]), "lay_around": (None, [a]), "links": (a,),
        "changed_since": (board.state,), "open_edge": (a, b), "set_unit": (unit,),
        "place": ("crate", a), "lift": ("crate", (2, 2)),
        "features": (a,), "edits": (board.state,), "replay": ("",), "join": (board.state,),
        "altered_since": (board.state,), "anchor": (a,), "lift_fog": (side,), "enlist": (side,),
    }  # fmt: skip
    of_grid = {
        "neighbors": (a,), "step": (a, 0, 1), "direction": (a, b), "distance": (a, b),
        "ring": (a, 2), "disk": (a, 2), "line": (a, b), "cone": (a, 0, 2), "rotate": ([a], a, 1),
        "outline": ([a],), "index": ([a],), "center": ([a],), "corners": ([a],),
        "cell_at": ((3.0, 3.0),), "cells_at": ([(3.0, 3.0)],), "touched": (a, b), "exits": ([a],),
        "corner": (a, "NE"), "box": (a,), "compass": (grid.directions[0],), "bearing": (0,),
        "facing": (a, b), "flags": (grid.directions[:1],), "flip": ([a],), "snap": ([(1.0, 2.0)],),
        "side_facing": (a, b), "unpack": (3,), "carry": ([a], a, b),
        "reframed": (us.Frame(),), "mirror": ([a], a, "N"), "rectangle": (a, b),
    }  # fmt: skip
    for owner, table in ((board, of_board), (grid, of_grid)):
        plain |= {getattr(owner, name): args for name, args in table.items()}
    return list(plain.items())


def documented(call):
    """The errors that the docstring of one of the library's calls lists."""
    call = getattr(call, "func", call)
    if not call.__module__.startswith("understep"):
        return ()
    _, _, rest = inspect.getdoc(call).partition("Raises\n------\n")
    lines = rest.partition("\n\n")[0].splitlines()
    names = [name for line in lines if line[0] != " " for name in line.split(", ")]
    return (us.errors.CoverWarning, *(getattr(us.errors, name, OSError) for name in names))


def _sector(first, cols, rows):
    return us.worlds.delta(7, cols, rows, first=first, units=False)


WORLD = us.worlds.World(_sector, 40, 30, sector=32)
WORLD.add(us.Unit("guide", "wardens", us.Movement(4), sight=4), at=(15, 5))
BOARDS = {"squares": scene(us.SquareGrid), "hexes": scene(us.HexGrid)}
COUNT = len(calls(BOARDS["hexes"].copy()))


@pytest.mark.parametrize("name", BOARDS)
def test_every_call_works_as_it_is(name):
    board = BOARDS[name].copy()
    every, state = calls(board), board.state
    for place in range(COUNT):
        if board.state != state:  # by the call before
            board = BOARDS[name].copy()
            every, state = calls(board), board.state
        call, args = every[place]
        call(*args)


@pytest.mark.deep
@examples(20)
@given(
    st.sampled_from(sorted(BOARDS)),
    st.integers(0, COUNT - 1),
    st.integers(0, 12),
    st.sampled_from(ODD),
)
def test_a_wrong_argument_is_refused_and_changes_nothing(name, call, place, odd):
    board = BOARDS[name].copy()
    every = calls(board)
    call, args = every[call]
    names = list(inspect.signature(call).parameters.values())
    assume(place < len(names) and names[place].kind not in SEVERAL)
    before = board.state, us.draw.terminal(board)
    args = dict(zip((each.name for each in names), args, strict=False)) | {names[place].name: odd}
    try:
        call(**args)
    except (us.UnderstepError, us.errors.CoverWarning) as error:
        assert (board.state, us.draw.terminal(board)) == before
        assert len(str(error)) < 2000


@pytest.mark.parametrize(
    "odd",
    [object(), np.zeros(3), "x", -1, 2**70, 1e308, 1e-320],
    ids=["thing", "array", "text", "below", "huge", "large", "small"],
)
def test_every_parameter_of_every_call_refuses_what_it_is_not_for(odd):
    """Once each; what is random above is all of it here, for a few values."""
    board = BOARDS["hexes"].copy()
    every, number = calls(board), 0
    while number < len(every):
        for place in inspect.signature(every[number][0]).parameters.values():
            if place.kind not in SEVERAL:
                call, args = every[number]
                before, names = board.state, inspect.signature(call).parameters
                try:
                    call(**{**dict(zip(names, args, strict=False)), place.name: odd})
                except (us.UnderstepError, us.errors.CoverWarning) as error:
                    assert board.state == before
                    # it is named as the caller wrote it, or another that it does not go with
                    named = re.split(r"\W", getattr(error, "argument", place.name))[0]
                    listed = documented(call)
                    assert named in names or not listed, (call, error)
                    assert not listed or isinstance(error, listed), (call, error)
                if board.state != before:
                    board = BOARDS["hexes"].copy()
                    every = calls(board)
        number += 1


@given(st.binary(max_size=200), st.integers(0, 10**6), st.integers(0, 40))
@pytest.mark.parametrize("path", sorted(PICTURES.glob("*odd.png")))
def test_a_damaged_image_gives_cells_or_an_error_with_its_name(
    path, tmp_path_factory, new, at, cut
):
    raw = path.read_bytes()
    at %= len(raw)
    damaged = tmp_path_factory.mktemp("images") / "damaged.png"
    damaged.write_bytes(raw[:at] + new + raw[at + cut :])
    try:
        us.maps.read_image(damaged, {"#000000": "turf"}, {"turf": 1}, grid=us.SquareGrid)
    except us.UnderstepError as error:
        assert str(error)


@given(st.data())
def test_a_damaged_index_of_a_world_gives_a_world_or_a_located_error(tmp_path_factory, data):
    folder = tmp_path_factory.mktemp("world")
    world = us.worlds.World(
        lambda first, cols, rows: us.worlds.delta(1, cols, rows, first=first, units=False), 9, 9
    )
    spot = next(iter(us.areas(us.worlds.delta(1, 9, 9, units=False), us.Movement(1)).cells_of(0)))
    world.add(us.Unit("scout", "wardens", us.Movement(3)), at=spot)
    us.worlds.save_world(world, folder)
    index = next(path for path in folder.glob("*.json") if "board" not in path.name)
    content = json.loads(index.read_text("utf-8"))
    *way, last = data.draw(st.sampled_from([path for path in parts(content) if path]))
    part = content
    for key in way:
        part = part[key]
    plain = [odd for odd in ODD if isinstance(odd, str | int | float | None | list | dict)]
    part[last] = data.draw(st.sampled_from(plain))
    index.write_text(json.dumps(content), "utf-8")
    try:
        assert len(us.worlds.load_world(folder).units()) <= 1
    except us.UnderstepError as error:
        assert str(error)
