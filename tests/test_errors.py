"""Arguments: numbers of NumPy are taken as Python's; what is wrong is refused in our own words."""

import re
import warnings
from fractions import Fraction

import numpy as np
import pytest

import understep as us
from understep.boards import names

ONE, TWO, HALF = np.int64(1), np.int32(2), np.float32(0.5)


def small(**rules):
    board = us.Board(us.HexGrid(9, 7), {"turf": 1, "mud": 2}, properties={"depth": 0.0, "mark": 0})
    for name, side, at in (("scout", "wardens", (3, 3)), ("sapper", "wreckers", (6, 3))):
        mover = us.Movement(4, **rules)
        board.add(us.Unit(name, side, mover, sight=3, attack=us.Attack(1, 2)), at=at)
    return board


def land():
    return us.worlds.World(lambda *_: None, 20, 20, sector=8)


CALLS = {
    "ring": lambda b, n, x: b.grid.ring((3, 3), n(2)),
    "disk": lambda b, n, x: b.grid.disk((3, 3), n(2)),
    "step": lambda b, n, x: b.grid.step((3, 3), n(1), n(2)),
    "cone": lambda b, n, x: b.grid.cone((3, 3), n(1), n(2), angle=x(90)),
    "rotate": lambda b, n, x: b.grid.rotate([(3, 3)], (2, 2), n(1)),
    "hexagon": lambda b, n, x: us.HexGrid.hexagon(n(2)),
    "uneven": lambda b, n, x: us.HexGrid.uneven([n(2), n(3)]),
    "grid": lambda b, n, x: us.SquareGrid(n(4), n(3), first=(n(1), n(2))),
    "frame": lambda b, n, x: us.Frame(rotation=x(0.5), lift=x(0.5)),
    "terrain": lambda b, n, x: us.Terrain(n(2), cover=x(0.5)),
    "reach": lambda b, n, x: list(us.reach(b, "scout", turns=n(2), left=x(1.5), at=(n(2), n(3)))),
    "route": lambda b, n, x: us.route(b, "scout", (5, 5), turns=n(3), facing=n(2)).cells,
    "weight": lambda b, n, x: us.route(b, "scout", (5, 5), weight=n(2)).cells,
    "within": lambda b, n, x: us.route(b, "scout", us.within("sapper", n(1), n(2))).cells,
    "reaches": lambda b, n, x: sorted(us.reaches(b, threads=n(2))),
    "attack": lambda b, n, x: us.Attack(n(1), n(3), per_level=n(1)),
    "pattern": lambda b, n, x: (us.Pattern.disk(n(1)), us.Pattern.cone(n(2), x(90))),
    "unit": lambda b, n, x: us.Unit("x", "y", us.Movement(n(3)), sight=n(3), eye=x(0.5)),
    "leap": lambda b, n, x: us.Leap(n(1)),
    "footprint": lambda b, n, x: (us.Footprint.block(n(2), n(1)), us.Footprint.cluster(n(1))),
    "view": lambda b, n, x: us.view(b, "scout", radius=n(3)).cells,
    "sees": lambda b, n, x: bool(us.sees(b, "scout", "sapper", radius=n(3), eye=x(1))),
    "poses": lambda b, n, x: us.poses(us.route(b, "scout", (5, 5)), speed=x(2)).at(x(0.5)),
    "scatter": lambda b, n, x: us.maps.scatter(b.grid, n(3), rng=n(3), spacing=n(1)),
    "wander": lambda b, n, x: us.behaviors.wander(b, "scout", rng=n(3)).end,
    "push": lambda b, n, x: us.push(b, "sapper", n(1), n(2)).end,
    "delta": lambda b, n, x: us.worlds.delta(n(7), n(12), n(9)).terrain_codes().tolist(),
    "shift": lambda b, n, x: us.maps.shift(b, n(4), n(2)).grid.first,
    "resize": lambda b, n, x: us.maps.resize(b, n(10), n(8)).grid.size,
    "set_facing": lambda b, n, x: b.set_facing("scout", n(1)),
    "set_value": lambda b, n, x: b.set_value("depth", x(2), (0, 0)),
    "set_elevation": lambda b, n, x: b.set_elevation(x(2), (0, 0)),
    "circle": lambda b, n, x: us.shapes.cover(
        b.grid, us.shapes.circle((3, 3), x(1.5)), shrink=x(0)
    ),
    "world": lambda b, n, x: us.worlds.World(lambda *_: None, n(20), n(20), sector=n(8)).size,
    "prove": lambda b, n, x: us.study.prove(seconds=x(1), boards=n(1), seed=n(3)).boards,
}


@pytest.mark.parametrize("call", CALLS)
def test_numbers_of_numpy_are_taken_as_python_s(call):
    act = CALLS[call]
    assert act(small(), np.int64, np.float32) == act(small(), int, float)
    assert act(small(), np.uint8, np.float64) == act(small(), int, float)


WRONG = {
    "value of a property": (lambda: small().set_value("depth", 10**400, (0, 0)), "finite numbers"),
    "whole property": (lambda: small().set_value("mark", 10**30, (0, 0)), "64 bits"),
    "table of other things": (lambda: table(None), "table: must be a path"),
    "table, ragged": (lambda: table([[1, 0], [0]]), "row 1: has 1 cells, and row 0 has 2"),
    "table, not whole": (lambda: table([[1.5, 0]]), "'1.5' is not a whole"),
    "rows": (
        lambda: us.maps.read_text(5, {}, {"t": 1}, grid=us.SquareGrid),
        "rows: must be a text",
    ),
    "path": (lambda: us.load(5), "path: must be a path"),
    "path with a zero": (lambda: us.save(small(), "a\0b"), "path: must be a path"),
    "picture": (
        lambda: us.draw.figure(small(), path="a.xyz"),
        "path: must end in .png, .svg, .pdf",
    ),
    "radius": (lambda: small().grid.disk((1, 1), np.float64(1)), "radius: must be a whole number"),
    "array without length": (lambda: us.Terrain(closed_to=np.array(5)), "closed_to: must be names"),
    "ragged levels": (
        lambda: small().set_elevation([[1, 2], [3]]),
        "level: must be numbers, in rows",
    ),
    "levels without end": (lambda: small().set_elevation(10**400), "level: must be numbers"),
    "ragged mask": (lambda: us.SquareGrid(2, 2, exists=[[1], []]), "exists: must be numbers"),
    "ragged weights": (lambda: us.route(small(), "scout", (5, 5), avoid=[[1], []]), "avoid: must"),
    "sums without end": (lambda: us.round_cube([10**400, 0, 0]), "fractional: must be numbers"),
    "path of an image": (lambda: us.maps.map_image(small(), 5), "path: must be a path"),
    "rules of a file": (lambda: us.load("x", rules=np.zeros(3)), "rules: must map names"),
    "legend": (lambda: us.draw.figure(small(), legend=np.zeros(3)), "legend: must be True"),
    "route of poses": (
        lambda: us.poses(us.route(small(), "scout", (5, 5)), speed=1).redirect(0.1, True),
        "route: must be a route",
    ),
    "reserved for": (
        lambda: us.behaviors.Reservations().keep(small(), "scout", []),
        "unit: must be a Unit .*; got 'scout'",
    ),
    "reserved for nobody": (
        lambda: us.behaviors.Reservations().ends(small(), us.Unit("a", "b", us.Movement(1))),
        "unit: must be a Unit that stands",
    ),
    "extent by name": (lambda: us.HexGrid.fit({"x": 3}, cell=(1, 1)), "extent: must"),
    "endless extent": (lambda: us.HexGrid.fit([10**400, 1], cell=(1, 1)), "extent: must"),
    "remedy": (lambda: us.answers.Remedy().apply(None), "board: must be a Board"),
    "truth": (lambda: us.Attack(True), "low: must be a whole number"),
    "NumPy's truth": (lambda: us.view(small(), "scout", radius=np.True_), "radius: must be a"),
    "half of a character": (lambda: us.load("a\ud800"), "path: must be a path"),
    "turn": (lambda: setattr(small(), "turn", ("wardens", 1)), "turn: must be a Turn"),
    "targets": (
        lambda: us.behaviors.approach(small(), "scout", targets=["sapper", 5]),
        "targets: must be names of units.* got 5",
    ),
    "titles": (
        lambda: us.draw.side_by_side(small(), us.reach(small(), "scout"), titles=5),
        "titles: must be texts",
    ),
    "board of an animation": (
        lambda: us.draw.animate(None, us.route(small(), "scout", (5, 5)), "a.gif"),
        "board: must be a Board",
    ),
    "title of a chart": (
        lambda: us.draw.chart(us.study.survey({"a": small()}, "size"), title=[1]),
        "title: must be a text",
    ),
    "boards of a survey": (lambda: us.study.survey({5: small()}), "boards: must be a mapping"),
    "questions": (lambda: us.study.survey({}, 5), "questions: must be names of questions"),
    "one question": (lambda: us.study.survey({}, [["size"]]), "questions: must name a question"),
    "own question": (lambda: us.study.survey({}, {"a": 5}), "questions: must be .* got 5"),
    "executor": (lambda: us.study.survey({}, executor=5), "executor: must be an executor"),
    "progress": (lambda: us.study.survey({}, progress=5), "progress: must be a function"),
    "subject": (lambda: us.study.survey({}).values("size", np.zeros(2)), "subject: must be a text"),
    "units of a world": (lambda: land().restore([5]), "units: must be units that stand"),
    "unit on no cell": (
        lambda: land().restore([us.Unit("a", "b", us.Movement(1))]),
        "units: 'a' must stand on a cell",
    ),
    "edges of a world": (lambda: land().restore([], [None]), "edges: must be edges"),
    "links of a world": (lambda: land().restore([], links=5), "links: must be links"),
    "sides of a world": (lambda: land().restore([], sides=[5]), "sides: must be names of sides"),
    "what is known": (lambda: land().restore([], known={"wardens": 5}), "known: must map names"),
    "nothing known": (lambda: land().restore([], known=5), "known: must map names of sides"),
}


def table(rows):
    return us.maps.read_table(rows, {0: "t", 1: "m"}, {"t": 1, "m": 2}, grid=us.SquareGrid)


@pytest.mark.parametrize("what", WRONG)
def test_what_is_wrong_is_refused_in_our_own_words(what):
    call, rule = WRONG[what]
    with pytest.raises(us.UnderstepError, match=rule):
        call()


def test_a_table_may_be_given_as_lists():
    assert table([[1, 0], (0, 1)]).terrain_codes().tolist() == [[1, 0], [0, 1]]
    assert table([[np.uint64(1), np.int8(0)]]).terrain_codes().tolist() == [[1, 0]]


@pytest.mark.parametrize("wrong", ["1", None, 1.0, True, [1], [1, 2], {}, 1 << 70, -(1 << 64)])
def test_an_id_in_a_list_must_be_a_whole_number(wrong):
    with pytest.raises(us.errors.BoardFileError, match=r"row 1, column 0: .* not a whole number"):
        table([[1, 0], [wrong, 1]])


@pytest.mark.parametrize("low", [0, (1 << 63) - 1, (1 << 64) - 2])
def test_ids_of_any_size_are_read(low):
    ids = np.array([[low, low + 1], [low + 1, low]], dtype=np.uint64)
    board = us.maps.read_table(ids, {low: "t", low + 1: "m"}, {"t": 1, "m": 2}, grid=us.SquareGrid)
    assert board.terrain_codes().tolist() == [[0, 1], [1, 0]]


def test_a_grid_keeps_its_frame():
    grid = us.SquareGrid(3, 3)
    with pytest.raises(us.errors.InputError, match="frame: must be a Frame"):
        us.SquareGrid(3, 3, frame=3.5)
    assert not [name for name in dir(grid) if name.startswith("set")]


# names that a board does not have


@pytest.fixture(autouse=True)
def _no_warnings_yet(monkeypatch):
    monkeypatch.setattr(names, "_warned", set())


def board(**kind):
    terrain = {"wood": 2, "turf": us.Terrain(1, closed_to="wrekers")}
    edges = {"wall": us.Edge(blocks=True)}
    made = us.Board(us.SquareGrid(6, 1), terrain, edges=edges, **kind)
    made.link((0, 0), (3, 0), 1, kind="ladder")
    return made


@pytest.mark.parametrize(
    ("rules", "text"),
    [
        ({"costs": {"wod": 1}}, r"costs: .* no terrain 'wod' .*\(did you mean 'wood'\?\)"),
        ({"edges": {"wal": None}}, r"edges: .* no edge 'wal' .*\(did you mean 'wall'\?\)"),
        ({"links": {"lader": 1}}, r"links: .* no link 'lader' .*\(did you mean 'ladder'\?\)"),
        ({"leap": us.Leap(terrains=["woood"])}, r"leap.terrains: .* no terrain 'woood'"),
    ],
)
def test_a_name_much_like_one_of_the_board_is_told_once(rules, text):
    unit = us.Unit("scout", "wardens", us.Movement(3, **rules))
    made = board()
    with pytest.warns(us.errors.NameWarning, match=text):
        made.add(unit, at=(1, 0))
    with warnings.catch_warnings():
        warnings.simplefilter("error")
        us.reach(made, "scout"), board().add(unit, at=(1, 0))
    finding = next(each for each in us.maps.check(made) if each.kind == "unknown name")
    assert (finding.weight, "did you mean" in finding.text) == ("fault", True)


def test_a_side_that_a_terrain_is_closed_to_is_looked_at_when_units_come():
    made, mover = board(), us.Movement(3)
    made.add(us.Unit("scout", "wardens", mover), at=(1, 0))
    with pytest.warns(us.errors.NameWarning, match=r"closed_to: .* no side 'wrekers' .*'wreckers'"):
        made.add(us.Unit("sapper", "wreckers", mover), at=(2, 0))


CALLS_WITH_SIDES = (
    lambda made: us.Turns(made, ["wardens", "wrecker"]),
    lambda made: made.block((3, 0), side="wrecker"),
)


@pytest.mark.parametrize("call", CALLS_WITH_SIDES)
def test_a_side_much_like_one_that_has_units_is_told_and_refused_by_a_strict_board(call):
    mover = us.Movement(3)
    for strict in (False, True):
        made = us.Board(us.SquareGrid(6, 1), {"turf": 1}, strict_names=strict)
        for at, (name, side) in enumerate({"scout": "wardens", "sapper": "wreckers"}.items()):
            made.add(us.Unit(name, side, mover), at=(at, 0))
        # what is like no other can come later, and so can sides that are named together
        made.block((4, 0), side="ferals")
        us.Turns(made, ["wardens", "wreckers", "wreckers 2"])
        state = made.state
        if strict:
            with pytest.raises(us.errors.NameUnknownError, match="did you mean 'wreckers'"):
                call(made)
            assert made.state == state
        else:
            with pytest.warns(us.errors.NameWarning, match="no side 'wrecker' .*'wreckers'"):
                call(made)
            assert made.state != state


def test_one_movement_may_serve_many_boards_unless_a_board_is_strict():
    mover = us.Movement(3, costs={"sea": 1}, edges={"hedge": 2}, links={"ferry": 1})
    unit, made = us.Unit("scout", "wardens", mover), board()
    made.add(unit, at=(1, 0))  # nothing is much like these
    assert us.field(made, mover, [(5, 0)])[(0, 0)] == 5
    told = {each.text for each in us.maps.check(made) if each.kind == "unknown name"}
    assert {name for name in ("sea", "hedge", "ferry", "wrekers") if name in str(told)} == {
        "sea", "hedge", "ferry", "wrekers",
    }  # fmt: skip
    strict = board(strict_names=True)
    for call in (lambda: strict.add(unit, at=(1, 0)), lambda: us.field(strict, mover, [(5, 0)])):
        with pytest.raises(us.errors.NameUnknownError, match="costs: must name a terrain"):
            call()
    assert (strict.units(), strict.copy().strict_names) == ((), True)
    strict.add(us.Unit("scout", "wardens", us.Movement(3, links={"ferry": Fraction(1)})), at=(1, 0))


@pytest.mark.parametrize(
    ("one", "other"), [("team 1", "team 2"), ("side_a", "side_b"), ("red7", "red12"), ("a", "b")]
)
def test_names_of_a_series_are_not_taken_for_each_other(one, other):
    made = us.Board(us.SquareGrid(6, 1), {"turf": us.Terrain(1, closed_to=other), f"mud {one}": 2})
    movement = us.Movement(3, costs={f"mud {other}": 1})
    made.add(us.Unit("scout", one, movement), at=(1, 0))
    made.block((3, 0), side=other)
    assert us.Turns(made, [other]).side == other


HUGE = 10**400  # no float holds it


@pytest.mark.parametrize(
    ("call", "rule"),
    [
        (lambda fen: us.Frame(origin=(0, HUGE)), "origin: must be two finite numbers"),
        (lambda fen: us.shapes.circle((1e308, 1), 1), "center: must be a point"),
        (lambda fen: us.shapes.strip([(0, 0), (1, 1)], 1e308), "width: must be a number above 0"),
        (
            lambda fen: us.shapes.polygon([(0, 0), (3, 0), (0, 3)], holes=5),
            "holes: must be polygons",
        ),
        (lambda fen: us.maps.variants(fen.grid.cells, {"a": [1]}, rng=1), "weights: must map"),
        (lambda fen: us.maps.read_text(".", {".": []}, {"t": 1}, grid=us.HexGrid), "legend: '.'"),
        (
            lambda fen: us.maps.read_image(np.zeros((1, 1, 3), np.uint8), 5, {}, grid=us.HexGrid),
            "legend: must map colours",
        ),
        (
            lambda fen: us.behaviors.approach(fen, "pikes", weakness=lambda _: "weak"),
            "weakness: must return numbers",
        ),
        (lambda fen: us.behaviors.approach(fen, "pikes", threats=5), "threats: must be Threats"),
        (
            lambda fen: us.prospects(fen, "wardens").best(lambda each: [HUGE] * len(each)),
            "score: must return numbers",
        ),
        (lambda fen: us.Overlay(5), "marks: must map cells to marks"),
        (lambda fen: us.draw.terminal(fen, width="wide"), "width: must be a whole number"),
    ],
)
def test_values_that_nothing_can_be_made_of_are_refused(call, rule):
    with pytest.raises(us.errors.InputError, match=re.escape(rule)):
        call(us.maps.shipped("fen"))


def test_points_farther_off_than_floats_reach_lie_on_no_cell():
    for frame in (us.Frame(), us.Frame(cell=(1e-300, 1e300), rotation=33)):
        grid = us.HexGrid(3, 3, frame=frame)
        there, inside = grid.cells_at([(1e308, 1), (-1e308, 1e308)])
        assert there.shape == (2, 2)
        assert not inside.any()
