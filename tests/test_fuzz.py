"""Wrong arguments: refused by the library's own errors, and nothing is changed.

Every call that takes a board, a grid or an answer is given one argument after the other that is
of another kind, too large, empty, or no number at all.
"""

import inspect
import json
from pathlib import Path

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from samples import examples
from test_files import parts

import understep as us
from understep.maps._shipped import SHIPPED

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


SEVERAL = inspect.Parameter.VAR_KEYWORD, inspect.Parameter.VAR_POSITIONAL


def calls(board):
    """Calls, and arguments with which they work."""
    unit, other = (each.name for each in board.units()[:2])
    side, here = board.unit(unit).side, board.unit(unit).at
    grid, reach, prospects = board.grid, us.reach(board, unit), us.prospects(board, side)
    route = us.route(board, unit, reach.cells[-1])
    a, b = grid.cells[0], next(iter(grid.neighbors(grid.cells[0])))
    new = us.Unit("new", side, us.Movement(2))
    plain = {
        us.reach: (board, unit), us.reaches: (board, [unit]), us.route: (board, unit, a),
        us.field: (board, unit, [a]), us.areas: (board, unit), us.explain: (board, unit, a),
        us.study.trace: (board, unit, a), us.study.compare: (board, unit, a), us.maps.check: (board,),
        us.sees: (board, here, a), us.view: (board, unit), us.fog: (board, side),
        us.walk: (board, unit, route), us.push: (board, unit, grid.directions[0], 2),
        us.attacks: (board, unit), us.stands: (board, unit, other), us.threats: (board, side),
        us.intent: (reach, a), us.behaviors.wander: (board, unit, 1), us.behaviors.patrol: (board, unit, [a]),
        us.behaviors.approach: (board, unit), us.behaviors.hold: (board, unit),
        us.behaviors.withdraw: (board, unit), us.behaviors.follow: (board, unit, other), us.behaviors.notice: (board, unit),
        us.behaviors.chase: (board, unit, us.behaviors.Alert(other, here, patience=2)), us.Turns: (board, [side]),
        us.ribbon: (route,), us.curve: (route,), us.poses: (route,), us.Overlays: ([],),
        us.maps.resize: (board, 5, 5), us.maps.shift: (board, 1, 1), us.draw.depth_order: (grid, [a]),
        us.shapes.cover: (grid, us.shapes.circle((2, 2), 1)), us.within: (a, 0, 2), us.worlds.delta: (3, 5, 5),
        us.convert: ([(1, 2)], "offset", "cube"), us.round_cube: ([0.1, 0.2, -0.3],),
        us.draw.labels: (board, "offset"), us.Movement: (3,), us.Terrain: (1,), us.Edge: (),
        us.Unit: ("n", "s", us.Movement(2)), us.Attack: (1, 2), us.Leap: (), us.Frame: (),
        us.SquareGrid: (3, 3), us.HexGrid: (3, 3), us.Board: (grid, {"t": 1}),
        us.Overlay: ({},), us.draw.terminal: (board,), us.draw.page: (board,),
        us.maps.variants: ([a], {"x": 1}, 1), us.maps.scatter: (grid, 1, 1), us.shapes.circle: (here, 1),
        us.shapes.box: (a, b), us.shapes.polygon: ([(0, 0), (3, 0), (0, 3)],), us.shapes.strip: ([a, b], 1),
        us.shapes.bitmap: ([[True]],), us.shapes.cover_shares: (grid, us.shapes.circle((2, 2), 1)),
        WORLD.around: ("guide",), WORLD.spanning: ([a],), WORLD.board: (a, 5, 5), WORLD.route: ("guide", here),
        us.prospects: (board, side), us.behaviors.coordinate: (board, [unit], [a]),
        us.passable: (board, unit), us.draw.passable: (board, unit), us.draw.arrows: (reach,),
        us.draw.heat: (reach,), us.maps.fence: (board, np.zeros((grid.rows, grid.cols), np.uint8), None),
        prospects.at: (unit, here), prospects.of: (unit,), prospects.distance: ([a],),
        prospects.best: (len,), reach.get: (a,), reach.route_to: (a,), reach.table: ("cost",),
    }  # fmt: skip
    of_board = {
        "paint": ("turf", a), "set_elevation": (1, a), "edge": (a, b), "set_edge": (a, b, None),
        "is_open": (a, b), "link": (a, grid.cells[-1]), "unlink": (a, b), "put": (unit, here),
        "add": (new, a), "remove": (other,), "set_facing": (unit, None), "set_left": (unit, 1),
        "unit": (unit,), "unit_at": (a,), "units": (side,), "can_stand": (unit, a), "block": (a,),
        "clear": (a,), "blocked": (a,), "terrain": (a,), "slope": (a, b), "value": ("x", a),
        "set_value": ("x", 1, a), "center": (a,), "corners": (a,), "cell_at": ((3.0, 3.0),),
        "cells_at": ([(3.0, 3.0)],), "knowledge": (side,), "covered": (new, a),
        "lay_along": (None, [a, b]), "lay_around": (None, [a]), "links": (a,),
        "changed_since": (board.state,), "open_edge": (a, b), "set_unit": (unit,),
        "place": ("x", a), "lift": ("x", a),
        "features": (a,), "edits": (board.state,), "replay": ("",), "join": (board.state,),
        "altered_since": (board.state,), "anchor": (a,), "lift_fog": (side,), "enlist": (side,),
    }  # fmt: skip
    of_grid = {
        "neighbors": (a,), "step": (a, 0, 1), "direction": (a, b), "distance": (a, b),
        "ring": (a, 2), "disk": (a, 2), "line": (a, b), "cone": (a, 0, 2), "rotate": ([a], a, 1),
        "outline": ([a],), "index": ([a],), "center": ([a],), "corners": ([a],),
        "cell_at": ((3.0, 3.0),), "cells_at": ([(3.0, 3.0)],), "touched": (a, b), "exits": ([a],),
        "corner": (a, "N"), "box": (a,), "compass": (grid.directions[0],), "bearing": (0,),
        "facing": (a, b), "mirror": ([a], a, "N"), "rectangle": (a, b),
    }  # fmt: skip
    for owner, table in ((board, of_board), (grid, of_grid)):
        plain |= {getattr(owner, name): args for name, args in table.items()}
    return list(plain.items())


def _sector(first, cols, rows):
    return us.worlds.delta(7, cols, rows, first=first, units=False)


WORLD = us.worlds.World(_sector, 40, 30, sector=32)
WORLD.add(us.Unit("guide", "wardens", us.Movement(4), sight=4), at=(15, 5))
BOARDS = {name: us.maps.shipped(name) for name in SHIPPED}
COUNT = min(len(calls(board.copy())) for board in BOARDS.values())


@pytest.mark.deep
@examples(20)
@given(
    st.sampled_from(SHIPPED), st.integers(0, COUNT - 1), st.integers(0, 12), st.sampled_from(ODD)
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
    board = BOARDS["fen"].copy()
    every, number = calls(board), 0
    while number < len(every):
        for place in inspect.signature(every[number][0]).parameters.values():
            if place.kind not in SEVERAL:
                call, args = every[number]
                before, names = board.state, inspect.signature(call).parameters
                try:
                    call(**{**dict(zip(names, args, strict=False)), place.name: odd})
                except (us.UnderstepError, us.errors.CoverWarning):
                    assert board.state == before
                if board.state != before:
                    board = BOARDS["fen"].copy()
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
