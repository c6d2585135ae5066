"""The search by layers and the search cell by cell: where both can answer, they say the same.

A route with a budget is always searched cell by cell, so that both can be asked.
"""

import contextlib
import pickle

import numpy as np
import pytest
from geometry import grids
from hypothesis import given
from hypothesis import strategies as st
from samples import examples

import understep as us


@st.composite
def simple_boards(draw, cells=40):
    """A board without free steps, links and leaps, a unit "a" that carries nothing over."""
    grid = draw(grids(cells))
    costs = draw(st.lists(st.sampled_from([1, 2, 3, 0.5, None, 7]), min_size=1, max_size=4))
    board = us.Board(
        grid, {"turf": 1, **{f"t{i}": cost for i, cost in enumerate(costs)}},
        edges={"wall": us.Edge(blocks=True), "road": us.Edge(cost=0.5)},
    )  # fmt: skip
    every = list(grid.cells)
    for place, cell in enumerate(every):
        name = draw(st.sampled_from(["turf", *list(board.terrains)]))
        if place:
            board.paint(name, cell)
    general = draw(st.booleans())
    if general:
        board.set_elevation([draw(st.sampled_from([0, 0, 1, 2])) for _ in every], every)
        for cell in draw(st.lists(st.sampled_from(every), max_size=12)):
            for other in list(grid.neighbors(cell))[:2]:
                board.set_edge(cell, other, draw(st.sampled_from(["wall", "road"])))
    board.block(draw(st.lists(st.sampled_from(every[1:] or every), max_size=2)), side="ours")
    movement = us.Movement(
        points=draw(st.sampled_from([1, 2, 3, 5.5, 8, 400])),
        diagonal=draw(st.sampled_from([1, 1, 1.5])),
        corners=draw(st.sampled_from(["free", "free", "one", "both"])),
        passes=draw(st.sampled_from(["own", "none", "all"])),
        climb=draw(st.sampled_from([None, 1])),
        uphill=draw(st.sampled_from([0, 0.5])),
        zones=draw(st.sampled_from(["ignore", "ignore", "end", 1, 0.5])),
        one_step=draw(st.booleans()),
        footprint=draw(st.sampled_from([((0, 0),)] * 4 + [((0, 0), (1, 0))])),
    )
    left = draw(st.sampled_from([None, None, 1, 2.5, 9]))
    board.clear(every[0], side="ours")
    try:
        board.add(us.Unit("a", "ours", movement, left=left), at=every[0])
    except us.errors.InputError:
        small = us.Movement(points=movement.points, passes=movement.passes, zones=movement.zones)
        board.add(us.Unit("a", "ours", small, left=left), at=every[0])
    guard = us.Movement(points=1, costs=1)
    for number, cell in enumerate(draw(st.lists(st.sampled_from(every), max_size=3, unique=True))):
        side = draw(st.sampled_from(["ours", "theirs"]))
        if board.unit_at(cell) is None and not board.blocked(cell, side=side):
            board.add(us.Unit(f"u{number}", side, guard), at=cell)
    return board


def cell_by_cell(board, *asked, **words):
    return us.route(board, *asked, budget=10**9, **words).plain()


PREFER = st.sampled_from(["straight", "direct", "first"])


@examples(2)
@given(simple_boards(), st.sampled_from([1, 1, 2, 3, None]), PREFER, st.data())
def test_a_route_is_the_same_whichever_search_finds_it(board, turns, prefer, data):
    goals = data.draw(st.lists(st.sampled_from(list(board.grid)), min_size=1, max_size=3))
    words = {"turns": turns, "prefer": prefer}
    words["accept"] = data.draw(st.sampled_from(["exact", "exact", "adjacent", "nearest"]))
    assert us.route(board, "a", goals, **words).plain() == cell_by_cell(board, "a", goals, **words)


@examples(2)
@given(simple_boards(), st.sampled_from([1, 1, 2, 3]), PREFER)
def test_a_reach_holds_the_routes_that_are_found_cell_by_cell(board, turns, prefer):
    reach = us.reach(board, "a", turns=turns)
    for cell in board.grid:
        found = cell_by_cell(board, "a", cell, turns=turns, prefer=prefer)
        assert found["ok"] == (cell in reach)
        if found["ok"]:
            assert reach.route_to(cell, prefer=prefer).plain() == found
            assert (reach[cell].cost, reach[cell].turn) == (found["cost"], found["turns"])


@given(simple_boards(), st.sampled_from([1, 3]), st.data())
def test_ties_are_read_from_a_reach_after_the_board_has_changed(board, turns, data):
    reach, again = (us.reach(board, "a", turns=turns, left=board.unit("a").left) for _ in "ab")
    before = {cell: reach.route_to(cell).plain() for cell in reach}
    every = list(board.grid)
    for cell in data.draw(st.lists(st.sampled_from(every), min_size=1, max_size=9)):
        if board.unit_at(cell) is None:
            board.paint(data.draw(st.sampled_from(list(board.terrains))), cell)
            board.block(cell)
    assert {cell: again.route_to(cell).plain() for cell in again} == before


def asked_again(board, turns):
    """What all units answer when asked as often as can be, and when something is supposed."""
    for unit in board.units():
        known = us.reach(board, unit.name, turns=turns).plain()
        assert known == us.reach(board, unit.name, turns=turns, left=unit.left).plain()
        for at in board.grid:
            quick = us.reach(board, unit.name, turns=turns, at=at)
            other = us.reach(board, unit.name, turns=turns, at=at, left=unit.left)
            assert (quick.plain(), quick.doubt) == (other.plain(), other.doubt)
        for goal in list(board.grid)[::3]:
            words = {"turns": turns, "prefer": "first"}
            found = us.route(board, unit.name, goal, **words).plain()
            assert found == cell_by_cell(board, unit.name, goal, **words)


def edited(board, data):
    """Some random edit, if the board allows it."""

    def some(values):
        return data.draw(st.sampled_from(list(values)))

    name, cell = some(board.units()).name, some(board.grid)
    edit = some([
        *[lambda: board.paint(some(board.terrains), list(board.grid)[::2])] * 3,
        lambda: board.put(name, at=cell),
        lambda: board.set_left(name, some([0, 1, 2.5, 7])), lambda: board.block(cell),
        lambda: board.clear(cell), board.undo, board.redo, lambda: board.remove("u0"),
        lambda: board.set_unit(name, movement=us.Movement(3)),
    ])  # fmt: skip
    with contextlib.suppress(us.errors.UnderstepError):
        edit()


@given(simple_boards(20), st.sampled_from([1, 2, None]), st.data())
def test_a_reach_that_is_asked_again_is_what_a_search_finds(board, turns, data):
    board.forget()
    asked_again(board, turns)
    for _ in range(3):
        edited(board, data)
        asked_again(board, turns)


@pytest.mark.parametrize("edit", [
    lambda board: board.block((2, 1)),
    lambda board: board.set_edge((2, 2), (2, 1), "wall"),
    lambda board: board.set_elevation(2, (2, 1)),
    lambda board: board.place("crate", (2, 1)),
    lambda board: board.paint("deep", (2, 1)),
    lambda board: board.put("b", at=(2, 1)),
])  # fmt: skip
def test_what_comes_into_the_way_is_heeded_when_a_reach_is_asked_again(edit):
    board = us.Board(
        us.SquareGrid(5, 5), {"turf": 1, "deep": None}, edges={"wall": us.Edge(blocks=True)},
        features={"crate": us.Feature(blocks=True)},
    )  # fmt: skip
    board.add(us.Unit("a", "ours", us.Movement(2, climb=1)), at=(2, 2))
    board.add(us.Unit("b", "theirs", us.Movement(2)), at=(0, 0))

    def asked():
        many = len(us.reach(board, "a"))
        assert len(us.reach(board, "a", at=(2, 2))) == many
        return many, bool(us.route(board, "a", (2, 0), turns=1))

    assert asked() == (13, True)
    edit(board)
    assert asked() == (len(us.reach(board.copy(), "a")), False)
    board.undo()
    assert asked() == (13, True)


@pytest.mark.parametrize("at", [(1.5, 0), (True, 0), (10**30, 0), (-1, 0), (0, 9), (0,), "ab", 3])
def test_what_is_no_cell_is_refused_however_often_it_is_asked(at):
    board = us.Board(us.HexGrid(3, 3, first=(0, 0)), {"turf": 1})
    board.add(us.Unit("a", "ours", us.Movement(2)), at=(0, 0))
    for _ in range(2):
        with pytest.raises(us.errors.CellError):
            us.reach(board, "a", at=at)
    assert us.reach(board, "a", at=np.array([1, 1])).cells == us.reach(board, "a", at=(1, 1)).cells


def cells_of(board, turns, **supposed):
    """Where a unit can get, by its steps and cell by cell, in order."""
    found = us.reach(board, "a", turns=turns, left=board.unit("a").left, **supposed)
    return list(found), list(found.passing)


@pytest.mark.parametrize("seed", range(10))
def test_cells_come_in_the_same_order_whatever_was_asked_before(seed):
    rng = np.random.default_rng(seed)
    board = us.Board(
        us.SquareGrid(40, 40, diagonals=True), {"turf": 1, "mud": 2},
        edges={"ditch": us.Edge(add=1)},
    )  # fmt: skip
    board.paint("mud", rng.random((40, 40)) < 0.3)
    for cell in list(board.grid)[::3]:
        for other in list(board.grid.neighbors(cell))[:2]:
            board.set_edge(cell, other, "ditch")
    board.add(us.Unit("a", "ours", us.Movement(points=16, diagonal=1.5)), at=(20, 20))
    first = cells_of(board, 1)
    assert cells_of(board, 1) == first
    us.route(board, "a", (0, 0), turns=1)
    us.reach(board, "a", at=(5, 8), turns=2)
    assert cells_of(board, 1) == first == cells_of(pickle.loads(pickle.dumps(board)), 1)


@pytest.mark.large
@pytest.mark.parametrize("zones", ["ignore", "end"])
@pytest.mark.parametrize("kind", [us.SquareGrid, us.HexGrid])
def test_cells_come_in_the_same_order_before_and_after_steps_are_known(kind, zones):
    rng = np.random.default_rng(5)
    board = us.Board(kind(150, 140), {"turf": 1, "mud": 2}, edges={"road": us.Edge(cost=0.5)})
    board.paint("mud", rng.random((140, 150)) < 0.4)
    board.set_elevation(rng.integers(0, 2, 140 * 150), board.grid.cells)
    for cell in list(board.grid)[::7]:
        for other in list(board.grid.neighbors(cell))[:2]:
            board.set_edge(cell, other, "road")
    movement = us.Movement(points=60, uphill=0.5, zones=zones)
    board.add(us.Unit("a", "ours", movement), at=(62, 66))
    board.add(us.Unit("b", "theirs", us.Movement(1)), at=(90, 90))
    first = cells_of(board, 1)
    assert len(first[0]) > 4000
    assert cells_of(board, 1) == first
    twin = pickle.loads(pickle.dumps(board))
    for col, row in ((0, 0), (149, 0), (70, 139), (140, 130)):  # other blocks first
        us.reach(twin, "a", at=(col, row))
    assert cells_of(twin, 1) == first


def test_costs_that_another_unit_brought_to_light_count_for_all():
    """Two units share a step table; one fills rows of it that hold a cost of its own."""
    board = us.Board(
        us.SquareGrid(200, 3), {"turf": 1, "mud": 3}, edges={"road": us.Edge(cost=0.5)}
    )
    board.set_edge((0, 0), (1, 0), "road")
    board.paint("mud", [(col, row) for col in range(140, 200) for row in range(3)])
    foot = us.Movement(points=9)
    for name, col in (("west", 2), ("east", 150)):
        board.add(us.Unit(name, "ours", foot), at=(col, 1))
    assert len(us.reach(board, "west")) > len(us.reach(board, "east"))
    assert us.reach(board, "west", at=(151, 1))[(153, 1)].cost == 6


def test_units_that_may_be_passed_are_passed_in_a_later_turn_with_more_points():
    board = us.Board(us.SquareGrid(12, 1), {"turf": 1})
    foot = us.Movement(points=3)
    for name, col in (("a", 0), ("b", 3), ("c", 4)):
        board.add(us.Unit(name, "ours", foot), at=(col, 0))
    reach = us.reach(board, "a", turns=3)
    assert reach.passing == [(3, 0), (4, 0)]
    assert [(*cell, reach[cell].turn, reach[cell].cost) for cell in reach] == [
        (0, 0, 1, 0), (1, 0, 1, 1), (2, 0, 1, 2), (5, 0, 2, 5), (6, 0, 3, 6), (7, 0, 3, 7),
        (8, 0, 3, 8),
    ]  # fmt: skip
    assert [tuple(stop) for stop in reach.route_to((5, 0)).stops] == [(2, 0), (5, 0)]
    board.add(us.Unit("d", "ours", foot), at=(5, 0))  # three in a row are one too many
    assert us.reach(board, "a", turns=9).cells == [(0, 0), (1, 0), (2, 0)]


@pytest.mark.parametrize("rules", [{}, {"uphill": 0.5}])
@pytest.mark.parametrize("turns", [1, 2, 3, None])
def test_who_stands_far_off_does_not_change_the_order_of_cells(rules, turns):
    rng = np.random.default_rng(2)
    board = us.Board(us.HexGrid(30, 30, top="flat"), {"turf": 1, "mud": 2})
    board.paint("mud", rng.random((30, 30)) < 0.3)
    if rules:
        board.set_elevation(rng.integers(0, 2, 900), board.grid.cells)
    board.add(us.Unit("a", "ours", us.Movement(points=4, **rules), left=1), at=(6, 7))
    alone = cells_of(board, turns)
    board.add(us.Unit("b", "ours", us.Movement(points=4)), at=(29, 29))
    beside = cells_of(board, turns)
    assert beside[0] == [cell for cell in alone[0] if cell != (29, 29)]


@pytest.mark.parametrize("seed", range(6))
def test_who_passes_others_gets_as_far_whatever_was_asked_before(seed):
    rng = np.random.default_rng(seed)
    board = us.Board(us.HexGrid(9, 9), {"turf": 1, "mud": 2}, edges={"ditch": us.Edge(add=1)})
    board.paint("mud", rng.random((9, 9)) < 0.4)
    cells = list(board.grid)
    for cell in cells[::2]:
        board.set_edge(cell, next(iter(board.grid.neighbors(cell))), "ditch")
    for number, place in enumerate(rng.choice(len(cells), 16, replace=False).tolist()):
        unit = us.Unit(f"u{number}", "ours", us.Movement(points=3 + number % 3))
        board.add(unit, at=cells[place])
    fresh = pickle.loads(pickle.dumps(board))
    for unit in board.units():
        us.reach(board, unit.name, turns=3, at=cells[rng.integers(81)])
        us.route(board, unit.name, cells[rng.integers(81)])
        twin = pickle.loads(pickle.dumps(fresh))
        for turns in (2, 3):
            known = us.reach(twin, unit.name, turns=turns).plain()
            assert us.reach(board, unit.name, turns=turns).plain() == known


@pytest.mark.large
def test_more_units_to_be_passed_than_are_listed_are_passed_all_the_same():
    board = us.Board(us.SquareGrid(60, 60), {"turf": 1})
    board.add(us.Unit("a", "ours", us.Movement(points=70)), at=(0, 0))
    with board.batch():
        for cell in list(board.grid)[1:]:
            if cell.col % 3 or cell.row % 3:
                board.add(us.Unit(f"b{cell.col}-{cell.row}", "ours", us.Movement(1)), at=cell)
    assert len(board.units()) > 3000
    reach = us.reach(board, "a", turns=2)
    assert len(reach) == 400
    assert len(us.reaches(board, "a", at=[(0, 0), (3, 3)], turns=2)[3, 3]) == 400
    for goal in ((57, 57), (30, 57)):
        found = cell_by_cell(board, "a", goal, turns=2)
        assert reach.route_to(goal).plain() == found


@pytest.mark.parametrize("prefer", ["first", "straight"])
def test_a_long_route_grows_its_room_and_leaves_nothing_behind(prefer):
    rng = np.random.default_rng(3)
    board = us.Board(us.HexGrid(120, 120), {"turf": 1, "mud": 2, "deep": None})
    for name, share in (("mud", 0.3), ("deep", 0.15)):
        board.paint(name, rng.random((120, 120)) < share)
    board.paint("turf", board.grid.disk((0, 0), 1))
    board.paint("turf", board.grid.disk((119, 119), 1))
    board.add(us.Unit("a", "ours", us.Movement(points=7)), at=(0, 0))
    first = us.route(board, "a", (119, 119), prefer=prefer)
    assert first.plain() == cell_by_cell(board, "a", (119, 119), prefer=prefer)
    reach = us.reach(board, "a", turns=None)
    assert reach[(119, 119)].turn == first.turns
    assert us.reach(board, "a", turns=None, left=7).plain() == reach.plain()
    assert us.route(board, "a", (119, 119), prefer=prefer).plain() == first.plain()


@pytest.mark.large
def test_a_route_of_more_turns_than_most_is_found_all_the_same():
    size = 520
    board = us.Board(us.SquareGrid(size, size), {"turf": 1, "deep": None})
    deep = np.zeros((size, size), dtype=bool)
    deep[1::2] = True
    deep[1::4, -1] = deep[3::4, 0] = False  # one way, to and fro
    board.paint("deep", deep)
    board.add(us.Unit("a", "ours", us.Movement(points=1)), at=(0, 0))
    rows = size // 2
    steps = rows * (size - 1) + 2 * (rows - 1)
    far = us.route(board, "a", (0, size - 2), prefer="first")
    assert (far.turns, far.cost, len(far.cells)) == (steps, steps, steps + 1)
    assert us.route(board, "a", (3, 0)).turns == 3


def test_thousands_of_searches_after_each_other_leave_no_trace():
    board = us.Board(us.SquareGrid(600, 500), {"turf": 1, "mud": 2})
    board.paint("mud", [(1, 0), (1, 1)])
    board.add(us.Unit("a", "ours", us.Movement(points=3)), at=(0, 0))
    goals = [(3, 0), (2, 2), (0, 3)]
    first = [us.route(board, "a", goal, at=(4, 4)).plain() for goal in goals]
    for count in range(3000):
        goal = goals[count % 3]
        assert us.route(board, "a", goal).cost == (4 if goal != (0, 3) else 3)
    assert [us.route(board, "a", goal, at=(4, 4)).plain() for goal in goals] == first


@pytest.mark.parametrize("passes", ["own", "all", "none"])
def test_nobody_passes_a_friend_on_terrain_that_is_closed_to_them(passes):
    """The unit's own terrain rules count where another stands, too."""
    board = us.Board(us.SquareGrid(5, 1), {"turf": 1, "deep": None})
    board.paint("deep", (2, 0))
    board.add(us.Unit("punt", "ours", us.Movement(4, {"deep": 1})), at=(2, 0))
    board.add(us.Unit("a", "ours", us.Movement(4, passes=passes)), at=(0, 0))
    reach = us.reach(board, "a")
    assert list(map(tuple, reach)) == [(0, 0), (1, 0)]
    assert not reach.passing


def test_a_very_long_board_is_searched_cell_by_cell():
    board = us.Board(us.SquareGrid(1_000_000, 1), {"turf": 1})
    board.add(us.Unit("a", "ours", us.Movement(3)), at=(999_000, 0))
    assert sorted(cell.col for cell in us.reach(board, "a")) == list(range(998_997, 999_004))


def test_whom_a_unit_passes_find_room_in_one_table_however_far_apart():
    """Some of their cells lie as far apart as a table of 4,096 places is long, at its very end."""
    wide, high = 64, 140
    board, foot = us.Board(us.SquareGrid(wide, high), {"turf": 1}), us.Movement(points=100)
    rows = (59, 60, 61, 121, 122, 123)
    for row in rows:
        for col in range(wide):
            board.add(us.Unit(f"{col} {row}", "ours", foot), at=(col, row))
    board.add(us.Unit("a", "ours", foot), at=(0, 90))
    for start in ((0, 90), (30, 0), (9, 139), (0, 90)):
        reach, twin = us.reach(board, "a", at=start, turns=3), board.copy()
        twin.put("a", at=start)
        assert len(reach) + len(reach.passing) == wide * high
        assert {cell.row for cell in reach.passing} == {*rows}
        for goal in ((63, 0), (5, 62), (63, 124), (0, 139)):
            assert reach.route_to(goal).plain() == cell_by_cell(twin, "a", goal, turns=3)
