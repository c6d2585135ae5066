"""Worlds in sectors: across seams everything is as on one board; nothing altered is lost."""

import dataclasses

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from PIL import Image
from samples import boards, examples

import understep as us


class Store:
    """Gives sectors cut from a board, and keeps what is saved."""

    def __init__(self, whole):
        self.land, self.kept, self.made = whole.copy(), {}, 0
        for unit in whole.units():
            self.land.remove(unit.name)

    def make(self, first, cols, rows):
        self.made += 1
        if first in self.kept:
            return self.kept[first].copy()
        if not any(first.col <= c < first.col + cols and first.row <= r < first.row + rows
                   for c, r in self.land.grid):  # fmt: skip
            return None
        return us.maps.resize(self.land, cols, rows, first=first)

    def save(self, first, board):
        self.kept[first] = board.copy()


def facts(board):
    """All that is on a board."""
    cells = list(board.grid)
    sides = (None, "ours", "theirs")
    return {
        "ground": [board.terrain(cell) for cell in cells],
        "levels": [float(board.elevation[board.grid.index(cell)]) for cell in cells],
        "depth": [board.value("depth", cell) for cell in cells],
        "blocks": [sorted(board.blocks(side=side)) for side in sides],
        "edges": sorted(board.edges()),
        "links": sorted(
            (link.a, link.b, link.cost, link.kind, link.both) for link in board.links()
        ),
        "units": facts_of_units(board),
    }


@st.composite
def worlds(draw):
    """A board from (0, 0), the same as a world of small sectors, and its store."""
    made = draw(boards(cells=60, free_steps=False))
    whole = us.maps.shift(made, *(-part for part in made.grid.first))
    for unit in whole.units():
        whole.remove(unit.name)
        attack = draw(st.sampled_from([None, us.Attack(1, 2), us.Attack(1, 1, per_level=1)]))
        given = dataclasses.replace(unit, at=None, sight=draw(st.integers(0, 4)), attack=attack)
        whole.add(given, at=unit.at)
    store = Store(whole)
    world = us.worlds.World(
        store.make, *whole.grid.size, sector=draw(st.integers(2, 5)),
        awake=draw(st.integers(1, 3)), save=store.save,
    )  # fmt: skip
    board = world.board((0, 0), *whole.grid.size)
    for edge in whole.edges():  # those on seams
        board.set_edge(edge.a, edge.b, edge.kind, both=edge.both, is_open=edge.is_open)
    for link in whole.links():
        board.link(link.a, link.b, link.cost, both=link.both, kind=link.kind)
    world.keep(board)
    for unit in whole.units():
        world.add(dataclasses.replace(unit, at=None), at=unit.at)
    return whole, world, store


def edit(board, rng, names):
    """Some of everything that can be done to land, and a unit set down elsewhere."""
    cells = list(board.grid)
    pick = lambda: cells[rng.integers(len(cells))]  # noqa: E731
    for _ in range(6):
        cell = pick()
        near = list(board.grid.neighbors(cell))
        unit = names[rng.integers(len(names))]
        acts = [
            lambda c=cell: board.paint(list(board.terrains)[rng.integers(2)], c),
            lambda c=cell: board.set_elevation(int(rng.integers(3)), c),
            lambda c=cell: board.set_value("depth", float(rng.integers(3)), c),
            lambda c=cell: board.block(c, side=[None, "ours"][rng.integers(2)]),
            lambda c=cell: board.clear(c),
            lambda c=cell, n=near: board.set_edge(c, n[0], ["wall", "road", None][rng.integers(3)]),
            lambda c=cell: board.link(c, pick(), 2, both=bool(rng.integers(2)), kind="ferry"),
            lambda c=cell, u=unit: board.put(u, at=c),
        ]
        try:
            acts[rng.integers(len(acts))]()
        except (us.UnderstepError, IndexError):
            continue


@examples(0.8)
@given(worlds(), st.data())
def test_what_is_asked_across_seams_is_as_on_one_board(made, data):
    whole, world, _ = made
    turns = data.draw(st.integers(1, 2))
    for unit in whole.units():
        try:
            board = world.around(unit.name, turns=turns)
        except us.errors.InputError as error:
            assert "cost nothing" in str(error)
            continue
        for ask in (
            lambda b, n: us.reach(b, n, turns=turns).plain(),
            lambda b, n: sorted(us.view(b, n).cells),
            lambda b, n: b.unit(n).attack and us.attacks(b, n).plain()["cells"],
        ):
            assert ask(board, unit.name) == ask(whole, unit.name)
    for _ in range(3):
        goal = data.draw(st.sampled_from(list(whole.grid)))
        found, exact = world.route("a", goal), us.route(whole, "a", goals=goal)
        assert (found.cells, found.cost, found.turns) == (exact.cells, exact.cost, exact.turns)
        assert (found.why, found.stops) == (exact.why, exact.stops)


@examples(0.8)
@given(worlds(), st.integers(0, 10**6), st.data())
def test_what_is_done_is_kept_by_sectors_that_come_and_go(made, seed, data):
    whole, world, store = made
    names = [unit.name for unit in whole.units()]
    size = whole.grid.size
    for step in range(data.draw(st.integers(1, 3))):
        board = world.board((0, 0), *size)
        assert facts(board) == facts(whole)
        for each in (board, whole):
            edit(each, np.random.default_rng(seed + step), names)
        other = world.board((0, 0), *size)
        world.keep(board)
        with pytest.raises(us.errors.StaleError, match="altered there since"):
            world.keep(other)
    assert world.awake <= 3 or store is None
    assert facts(world.board((0, 0), *size)) == facts(whole)
    assert {unit.name: unit for unit in world.units()} == facts(whole)["units"]
    world.save()  # and another takes over
    again = us.worlds.World(store.make, *size, sector=world.sector, awake=1)
    cut = again.board((0, 0), *size)
    inside = [edge for edge in whole.edges() if len(
        {(c // world.sector, r // world.sector) for c, r in edge[:2]}) == 1]  # fmt: skip
    assert facts(cut)["ground"] == facts(whole)["ground"]
    assert sorted(cut.edges()) == sorted(inside)


def test_sectors_may_declare_the_same_names_in_any_order():
    terrain, kinds = (
        {"turf": 1, "mud": 2, "deep": None},
        {"wall": us.Edge(), "ford": us.Edge(add=1)},
    )
    saved = {}

    def make(first, cols, rows):
        turned = first.col > 0
        names = dict(reversed(terrain.items())) if turned else terrain
        between = dict(reversed(kinds.items())) if turned else kinds
        board = us.Board(us.SquareGrid(cols, rows, first=first), names, fill="turf", edges=between)
        board.paint("mud", (first.col, 0))
        board.set_edge((first.col, 1), (first.col, 2), "ford")
        return saved.get(first, board)

    world = us.worlds.World(make, 8, 4, sector=4, save=saved.__setitem__)
    board = world.board((0, 0), 8, 4)
    assert [board.terrain((col, 0)) for col in range(8)] == ["mud", *["turf"] * 3] * 2
    assert [edge.kind for edge in board.edges()] == ["ford", "ford"]
    board.paint("deep", (5, 3))
    board.set_edge((6, 1), (6, 2), "wall")
    world.keep(board)
    world.save()
    (kept,) = saved.values()
    assert (kept.terrain((5, 3)), kept.edge((6, 1), (6, 2))) == ("deep", "wall")
    assert world.board((0, 0), 8, 4).terrain((5, 3)) == "deep"


def test_sectors_wake_when_wanted_and_rest_when_they_can():
    asked = []

    def make(first, cols, rows):
        asked.append(first)
        return us.worlds.delta(3, cols, rows, first=first, units=False)

    world = us.worlds.World(make, 4000, 3000, sector=32, awake=8)
    assert (world.awake, asked) == (0, [])
    foot = us.Movement(points=6)
    whole = us.worlds.delta(3, 160, 120, first=(1920, 1440), units=False)
    land = us.areas(whole, foot).cells_of(0)
    start, goals = land[len(land) // 2], (land[len(land) // 3], land[len(land) // 4])
    scout = world.add(us.Unit("scout", "wardens", foot, sight=5), at=start)
    whole.add(dataclasses.replace(scout, at=None), at=start)
    for goal in goals:
        assert world.route("scout", goal).plain() == us.route(whole, "scout", goals=goal).plain()
    assert world.awake <= 8
    assert len(asked) < 200
    board = world.board((64, 64), 40, 40)
    board.paint("turf", board.grid.cells)
    world.keep(board)
    for col in range(0, 3200, 320):  # the others go, those that were altered stay: none can save
        world.board((col, 2000), 8, 8)
    assert world.board((70, 70), 9, 9).terrain((72, 72)) == "turf"
    assert asked.count((64, 64)) == 1
    board = world.board((start.col - 9, start.row - 9), 20, 20)
    spot = next(cell for cell in us.reach(board, "scout") if board.unit_at(cell) is None)
    pikes = board.add(us.Unit("pikes", "wreckers", foot), at=spot)
    world.keep(board)
    assert [unit.name for unit in world.units()] == ["scout", "pikes"]
    assert world.units("wreckers") == (pikes,)
    board.remove("scout")
    world.keep(board)
    for call, rule in (
        (lambda: world.unit("scout"), "unit: must name a unit"),
        (lambda: world.add(pikes, at=(9, 9)), "unit: there is one of this name"),
        (lambda: world.board((5000, 0), 9, 9), "first: nothing of it lies"),
        (lambda: world.keep(whole), "board: must be one that was cut from this world"),
        (lambda: world.around("pikes", turns=0), "turns: must be a whole number"),
        (lambda: world.route("pikes", (-1, 0)), "goal: must lie in a world"),
        (lambda: world.route("pikes", (1, 0), accept="nearest"), "accept: is for routes"),
        (lambda: world.save(), "save: was not given"),
        (lambda: world.board((0, 0), 9, 0), "rows: must be a whole number"),
        (lambda: us.worlds.World(make, 0, 9), "cols: must be a whole number"),
        (lambda: us.worlds.World(None, 9, 9), "make: must be a function"),
        (lambda: us.worlds.World(make, 9, 9, on_wake=5), "on_wake: must be a function"),
        (lambda: world.add("scout", at=(1, 1)), "unit: must be a Unit"),
        (
            lambda: us.worlds.World(lambda *_: whole, 9, 9).board((0, 0), 2, 2),
            "make: must give a Board",
        ),
    ):
        with pytest.raises(us.UnderstepError, match=rule):
            call()


def plains(cols=100, rows=100, **options):
    """A world of nothing but turf and water, and who woke and went to sleep."""
    log = []

    def make(first, cols, rows):
        return us.Board(us.SquareGrid(cols, rows, first=first), {"turf": 1, "deep": None})

    def note(word):
        return lambda first, board: log.append((word, tuple(first), board.grid.size))

    hooks = {"on_wake": note("wakes"), "on_sleep": note("sleeps")}
    return us.worlds.World(make, cols, rows, sector=10, **hooks, **options), log


def test_links_lead_beyond_the_land_around_a_unit():
    world, _ = plains()
    world.add(us.Unit("scout", "wardens", us.Movement(4), attack=us.Attack(1, 2)), at=(5, 5))
    board = world.board((0, 0), 100, 100)
    board.link((6, 5), (80, 80), 1, both=True)
    board.link((82, 80), (3, 90), 1, both=False)  # beyond its reach
    board.link((5, 40), (5, 7), 1, both=False)  # the wrong way
    world.keep(board)
    reach = world.reach("scout")
    assert reach.cells == us.reach(board, "scout").cells
    assert reach[80, 80].cost == 2
    assert world.route("scout", (3, 91)).cells == us.route(board, "scout", (3, 91)).cells


def test_game_code_wakes_pins_and_releases_sectors():
    world, log = plains(awake=4)
    world.wake([(15, 5), (25, 15)], pin=True)
    keys = ((1, 0), (1, 1), (2, 0), (2, 1))
    assert (world.awake_sectors, world.pinned, world.awake) == (keys, keys, 4)
    assert log == [("wakes", (10 * col, 10 * row), (10, 10)) for col, row in keys]
    before = list(log)
    for call in (lambda: world.wake((50, 50)), lambda: world.wake([(0, 0), (29, 9)], pin=True)):
        with pytest.raises(us.errors.NoRoomError, match="of 4 awake 4 are pinned"):
            call()
    assert (world.awake_sectors, world.pinned, log) == (keys, keys, before)
    world.release((12, 3))
    assert (world.pinned, log[-1]) == (keys[1:], ("sleeps", (10, 0), (10, 10)))
    world.wake((50, 50))
    world.wake((60, 60))  # which takes the place of what is not pinned
    assert log[-2:] == [("sleeps", (50, 50), (10, 10)), ("wakes", (60, 60), (10, 10))]
    for cells, error in ((), us.errors.CellError), ((100, 5), us.errors.CellError):
        with pytest.raises(error, match="cells"):
            world.wake(cells)
    with pytest.raises(us.errors.InputError, match="pin: must be True or False"):
        world.wake((5, 5), pin=1)


def test_what_is_awake_has_a_bound_though_nothing_can_be_saved():
    world, _ = plains(awake=6)
    board = world.board((0, 50), 60, 10)
    board.paint("deep", board.grid.cells)
    world.keep(board)
    with pytest.raises(us.errors.NoRoomError, match="altered and cannot be saved"):
        world.wake((5, 5))
    assert world.board((0, 55), 40, 1).terrain((35, 55)) == "deep"  # and nothing is lost
    kept = {}
    world, _ = plains(awake=6, save=kept.__setitem__)
    for col in range(0, 100, 10):
        world.near((col + 5, 55)).paint("deep", (col + 5, 55))
        world.units()
        assert world.awake <= 6
    world.release([(0, 0), (99, 99)])
    assert (world.awake, len(kept)) == (0, 10)
    assert [board.terrain((first.col + 5, 55)) for first, board in kept.items()] == ["deep"] * 10


@pytest.mark.deep
@pytest.mark.large
@pytest.mark.parametrize("seed", range(2))
def test_boards_around_units_are_just_large_enough(seed):
    """On land far wider than what a unit can get at, among many others."""
    rng, size = np.random.default_rng(seed), (70, 50)
    whole = us.worlds.delta(seed, *size, units=False)
    world = us.worlds.World(lambda first, *part: us.worlds.delta(
        seed, *part, first=first, units=False), *size, sector=16, awake=6)  # fmt: skip
    for number, cell in enumerate(us.maps.scatter(whole.grid, 560, rng=rng)):
        rules = us.Movement(
            int(rng.integers(1, 4)), zones=["end", "ignore"][number % 2], climb=1, drop=1,
            footprint=us.Footprint.block(2) if number % 5 == 0 else us.Footprint.block(1),
        )  # fmt: skip
        attack = us.Attack(1, int(rng.integers(1, 6)), per_level=int(rng.integers(0, 3)))
        side = ["ours", "theirs"][int(rng.integers(2))]
        unit = us.Unit(f"u{number}", side, rules, sight=int(rng.integers(0, 8)), attack=attack)
        try:
            whole.add(unit, at=cell)
        except us.UnderstepError:
            with pytest.raises(us.UnderstepError):
                world.add(unit, at=cell)
            continue
        world.add(unit, at=cell)
    assert {unit.name: unit for unit in world.units()} == facts_of_units(whole)
    for unit in whole.units()[::7]:
        board = world.around(unit.name)
        assert len(board.grid) < 1600
        assert us.reach(board, unit.name).plain() == us.reach(whole, unit.name).plain()
        assert us.view(board, unit.name).plain() == us.view(whole, unit.name).plain()
        assert us.attacks(board, unit.name).plain() == us.attacks(whole, unit.name).plain()


def facts_of_units(board):
    return {unit.name: unit for unit in board.units()}


def test_a_unit_between_boards_is_in_nobodys_way_unseen():
    world = us.worlds.World(lambda first, *size: us.Board(us.SquareGrid(*size, first=first), {"turf": 1}),
                     20, 9, sector=5)  # fmt: skip
    cart = us.Unit("cart", "wardens", us.Movement(3, footprint=us.Footprint.block(2)))
    world.add(cart, at=(4, 4))
    board = world.board((5, 0), 5, 9)  # half of the cart stands there
    assert not board.units()
    board.add(us.Unit("scout", "wardens", us.Movement(3)), at=(5, 5))
    with pytest.raises(us.errors.OccupiedError, match="'cart' stands there"):
        world.keep(board)
    assert [unit.name for unit in world.units()] == ["cart"]
    board.put("scout", at=(7, 5))
    world.keep(board)
    assert tuple(world.unit("scout").at) == (7, 5)


def test_a_piece_without_cells_is_refused_and_crossed_by_nobody():
    exists = np.ones((4, 12), dtype=bool)
    exists[:, 3:7] = False  # a void across a seam
    whole = us.Board(us.SquareGrid(12, 4, exists=exists), {"turf": 1})
    store = Store(whole)
    world = us.worlds.World(store.make, 12, 4, sector=5)
    world.add(us.Unit("scout", "wardens", us.Movement(points=3)), at=(0, 0))
    with pytest.raises(us.errors.InputError, match="there are no cells"):
        world.board((4, 0), 2, 4)
    assert "no route leads" in world.plan("scout", (11, 3)).why
    assert world.plan("scout", (2, 3)).cost == 5


def test_an_edit_beside_a_seam_counts_on_its_other_side():
    whole = us.Board(us.SquareGrid(12, 6), {"turf": 1, "deep": None})
    whole.paint("deep", [(6, row) for row in range(1, 6)])
    world = us.worlds.World(Store(whole).make, 12, 6, sector=6)
    world.add(us.Unit("scout", "wardens", us.Movement(points=3)), at=(0, 5))
    assert world.plan("scout", (11, 5)).crossings == (((5, 0), (6, 0), 1),)
    for kind, row in (("turf", 5), ("deep", 5), ("turf", 3)):
        board = world.board((6, row), 1, 1)  # in the sector on the right alone
        board.paint(kind, (6, row))
        world.keep(board)
        found = world.plan("scout", (11, 5))
        through = row if kind == "turf" else 0
        assert found.crossings == (((5, through), (6, through), 1),)
        assert found.cost == 11 + 2 * (5 - through)


def test_terrain_that_is_nowhere_around_does_not_count():
    def make(first, cols, rows):
        grid = us.SquareGrid(cols, rows, first=first)
        board = us.Board(grid, {"turf": 1, "ice": 0})
        if first[0] >= 64:
            board.paint("ice", grid.cells)
        return None if first == (32, 32) else board  # holes alone

    world = us.worlds.World(make, 128, 64, sector=32)
    world.add(us.Unit("scout", "ours", us.Movement(4)), at=(16, 16))
    board = world.around("scout")
    assert len(us.reach(board, "scout")) == 41
    world.add(us.Unit("skater", "ours", us.Movement(4)), at=(62, 16))
    with pytest.raises(us.errors.InputError, match="cost nothing"):
        world.around("skater")
    hole = world.around("scout", margin=30)
    assert (40, 40) not in hole.grid


def acts(name, cell, rng):
    """Some of everything that can be done on a world: what ``near`` gives is a board for a place."""
    terrain, turns = rng.integers(2), rng.integers(1, 3)
    pick = rng.integers(1 << 30)

    def walk(near):
        board = near(name)
        found = us.reach(board, name)
        us.walk(board, name, found.route_to(sorted(found.cells)[pick % len(found)])).finish()

    def edge(near):
        board = near(cell)
        other = next(iter(board.grid.neighbors(cell)))
        board.set_edge(cell, other, ["wall", "road", None][pick % 3])

    def tried(near):
        with near(cell).trial():
            near(cell).block(cell)

    return [
        lambda near: near(cell).paint(list(near(cell).terrains)[terrain], cell),
        lambda near: near(cell).set_elevation(int(turns), cell),
        lambda near: near(cell).block(cell),
        lambda near: near(name).put(name, at=cell),
        lambda near: near(name).set_left(name, 1),
        lambda near: near(name).set_unit(name, sight=int(turns)),
        lambda near: near(cell).add(near(name).unit(name).copy(f"n{pick}", "theirs"), at=cell),
        lambda near: near(name).remove(name),
        walk, edge, tried,
    ]  # fmt: skip


def same_knowledge(board, whole):
    """A board of a world tells of its cells what one board of all tells."""
    assert board.fogged == whole.fogged
    cells = set(board.grid)
    inside = lambda units: [u for u in units if set(whole.covered(u)) <= cells]  # noqa: E731
    for side in whole.fogged:
        mine, theirs = board.knowledge(side), whole.knowledge(side)
        assert [mine.status(c) for c in cells] == [theirs.status(c) for c in cells], side
        known = [cell for cell in cells if mine.status(cell) != "never"]
        ground = [[each.board.terrain(c) for c in known] for each in (mine, theirs)]
        assert ground[0] == ground[1]
        assert mine.board.units() == tuple(inside(theirs.board.units()))
        assert sorted(mine.remembered, key=str) == sorted(inside(theirs.remembered), key=str)
        edges = {e for e in theirs.board.edges() if {e.a, e.b} <= cells}
        assert set(mine.board.edges()) == edges


def threatened(board, whole, unit):
    """Who can attack a unit, wherever it could be, is the same on a board of the world."""
    mine, theirs = (us.prospects(each, unit.side, units=[unit.name]) for each in (board, whole))
    assert list(mine.cells) == list(theirs.cells)
    for one, other in zip(mine, theirs, strict=True):
        assert (one.foes, one.targets, one.cost) == (other.foes, other.targets, other.cost)


@examples(0.6)
@given(worlds(), st.integers(0, 10**6), st.data())
def test_boards_that_follow_a_world_stand_for_it(made, seed, data):
    whole, world, _ = made
    rng, held = np.random.default_rng(seed), []
    for side in data.draw(st.sampled_from([(), ("ours",), ("theirs", "ours")])):
        if side in whole.sides:
            land = data.draw(st.booleans())
            us.fog(whole, side, land_known=land)
            world.fog(side, land_known=land)
    for _ in range(data.draw(st.integers(1, 8))):
        names = [unit.name for unit in whole.units()]
        if not names:
            break
        name = names[rng.integers(len(names))]
        cell = list(whole.grid)[rng.integers(len(whole.grid))]
        choices = acts(name, cell, rng)
        act = choices[rng.integers(len(choices))]

        def near(what):
            board = world.near(what)
            held.append(board)
            return board

        def errs(act, near):
            try:
                act(near)
            except (us.UnderstepError, StopIteration) as error:
                assume("cost nothing" not in str(error))
                return type(error)
            return None

        wanted = errs(act, lambda _: whole)
        if act is choices[3]:
            found = errs(lambda _, name=name, cell=cell: world.put(name, at=cell), near)
        else:
            found = errs(act, near)
        assert found == wanted
        for board in held[-3:] if held else ():
            world.units()
            cells = list(board.grid)
            assert [board.terrain(each) for each in cells] == [whole.terrain(e) for e in cells]
            there = [u for u in whole.units() if set(whole.covered(u)) <= set(cells)]
            assert board.units() == tuple(there)
            same_knowledge(board, whole)
    board = world.board((0, 0), *whole.grid.size)
    assert facts(board) == facts(whole)
    assert board.units() == world.units() == whole.units()
    same_knowledge(board, whole)
    for unit in whole.units():
        try:
            assert world.reach(unit.name).plain() == us.reach(whole, unit.name).plain()
            threatened(world.near(unit.name, foes=True), whole, unit)
        except us.errors.InputError as error:
            assert "cost nothing" in str(error)
            continue
        assert set(world.view(unit.name)) == set(us.view(whole, unit.name))
        if unit.attack is not None:
            found, wanted = world.attacks(unit.name), us.attacks(whole, unit.name)
            assert found.plain()["cells"] == wanted.plain()["cells"]


@pytest.mark.parametrize("kind", ["array", "npy", "csv", "png", "colors"])
@pytest.mark.parametrize("grid", [us.SquareGrid, us.HexGrid])
def test_a_world_of_an_open_format_is_the_board_of_it(kind, grid, tmp_path):
    rng = np.random.default_rng(3)
    ids = rng.choice([0, 3, 9], (23, 31), p=[0.6, 0.3, 0.1])
    ids[:10, 20:30] = 9  # a whole sector of holes
    legend, terrain = {0: "turf", 3: "mud", 9: None}, {"turf": 1, "mud": 2}
    whole = us.maps.read_table(ids, legend, terrain, grid=grid)
    colors = {0: (200, 220, 170), 3: (90, 60, 30), 9: (0, 0, 0)}
    pixels = np.array([[colors[each] for each in row] for row in ids.tolist()], dtype=np.uint8)
    if kind == "array":
        source = ids
    elif kind == "npy":
        source = tmp_path / "ids.npy"
        np.save(source, ids.astype(np.uint8))
    elif kind == "csv":
        source = tmp_path / "ids.csv"
        np.savetxt(source, ids, fmt="%d", delimiter=",")
    else:
        legend = {"#c8dcaa": "turf", "#5a3c1e": "mud", "#000000": None}
        source = pixels
    if kind == "png":
        source = tmp_path / "ids.png"
        Image.fromarray(pixels).save(source)
    world = us.worlds.read_world(source, legend, terrain, grid=grid, sector=10)
    assert world.size == (31, 23)
    board = world.board((0, 0), 31, 23)
    assert (board.grid, set(board.grid)) == (whole.grid, set(whole.grid))
    assert (board.terrain_codes() == whole.terrain_codes()).all()


def test_what_is_no_world_is_refused_with_its_place(tmp_path):
    terrain = {"turf": 1}
    ids = np.zeros((600, 50), dtype=np.int16)
    ids[300, 7] = 5
    odd = tmp_path / "odd.npy"
    odd.write_bytes(b"nothing")
    made = {"grid": us.SquareGrid}
    for source, legend, error, rule in (
        (ids, {0: "turf"}, us.errors.BoardFileError, "row 300, column 7.*5 is in no legend"),
        (ids, {0: "turf", 5: "mud"}, us.errors.InputError, "5 must name a terrain or None"),
        (odd, {0: "turf"}, us.errors.BoardFileError, "is no array"),
        (ids[0], {0: "turf"}, us.errors.InputError, "source: must be whole numbers"),
        (ids.astype(float), {0: "turf"}, us.errors.InputError, "source: must be whole numbers"),
        (np.zeros((300, 4, 3), np.uint8), {"#ffffff": "turf"}, us.errors.BoardFileError, "row 0"),
        (5, {0: "turf"}, us.errors.InputError, "source"),
        (ids, [0], us.errors.InputError, "legend: must give names"),
    ):
        with pytest.raises(error, match=rule):
            us.worlds.read_world(source, legend, terrain, **made)


def test_what_is_done_during_a_trial_is_there_after_it():
    world, _ = plains()
    foot = us.Movement(points=3)
    for name, at in (("scout", (50, 50)), ("pikes", (55, 50))):
        world.add(us.Unit(name, "wardens", foot, sight=2), at=at)
    world.fog("wardens")
    board, other = world.near("scout"), world.near((65, 50))
    with board.trial():
        board.put("scout", at=(52, 50))
        other.paint("deep", (62, 50))
        world.put("pikes", at=(56, 50))
        assert tuple(world.unit("scout").at) == (50, 50)
    world.units()
    assert (tuple(board.unit("pikes").at), tuple(board.unit("scout").at)) == ((56, 50), (50, 50))
    assert world.near((62, 50)).terrain((62, 50)) == "deep"
    assert board.knowledge("wardens").status((58, 50)) == "now"
    assert board.put("scout", at=(51, 50)).at == world.unit("scout").at
    with board.batch():
        board.put("scout", at=(50, 51))
        world.put("pikes", at=(57, 50))
    assert tuple(world.unit("scout").at) == (50, 51)
    assert tuple(board.unit("pikes").at) == (57, 50)


def test_acts_that_collide_are_refused_with_a_reason():
    world, _ = plains()
    foot = us.Movement(points=3)
    here, there = world.near((50, 50)), world.near((60, 50))
    assert here is not there
    here.add(us.Unit("scout", "wardens", foot), at=(48, 50))
    there.add(us.Unit("pikes", "wardens", foot), at=(63, 50))
    assert [unit.name for unit in world.units()] == ["scout", "pikes"]
    here.put("scout", at=(55, 50))  # which both boards hold
    there.put("pikes", at=(55, 50))
    with pytest.raises(us.errors.StaleError, match=r"is lost: .*'scout' stands there"):
        world.units()
    places = [tuple(unit.at) for unit in world.units()]
    assert places == [(55, 50), (63, 50)]
    assert world.near((60, 50)).unit("pikes").at == (63, 50)
    with pytest.raises(us.errors.NameUnknownError):
        world.near("nobody")
    with pytest.raises(us.errors.InputError, match="there is one of this name"):
        world.add(us.Unit("scout", "wardens", foot), at=(5, 5))
    with pytest.raises(us.errors.OccupiedError):
        world.put("pikes", at=world.unit("scout").at)


def test_fog_that_begins_again_knows_what_is_seen_then():
    world, _ = plains()
    hill = us.Unit("scout", "wardens", us.Movement(points=3), sight=4)
    world.add(hill, at=(50, 50))
    world.fog("wardens")
    far = world.near((80, 50))
    world.lift_fog("wardens")
    assert (world.fogged, far.fogged) == ((), ())
    world.near((51, 50)).set_elevation(5, [(51, row) for row in range(45, 56)])  # in the way
    world.fog("wardens")
    known = world.board((40, 40), 20, 20).knowledge("wardens")
    assert (known.status((51, 50)), known.status((53, 50))) == ("now", "never")
    assert world.near((53, 50)).knowledge("wardens").status((53, 50)) == "never"
    with pytest.raises(us.errors.InputError, match="keeps knowledge already"):
        world.fog("wardens")
    with pytest.raises(us.errors.NameUnknownError):
        world.fog("nobody")
    with pytest.raises(us.errors.NameUnknownError):
        world.lift_fog("wreckers")


def test_ground_below_a_large_unit_is_kept_even_from_a_piece_that_holds_a_part_of_it():
    world, _ = plains()
    cart = us.Movement(3, footprint=us.Footprint.block(2))
    world.add(us.Unit("cart", "wardens", cart), at=(9, 9))
    piece = world.board((10, 10), 5, 5)
    assert piece.units() == ()
    piece.paint("deep", [(10, 10), (12, 12)])
    with pytest.raises(us.errors.OccupiedError, match="'cart' stands there, who was not on"):
        world.keep(piece)
    assert world.near((12, 12)).terrain((12, 12)) == "turf"
    piece.paint("turf", (10, 10))
    world.keep(piece)
    assert world.near((12, 12)).terrain((12, 12)) == "deep"


def test_who_changes_sides_sees_no_more_for_the_first_one_anywhere():
    world, _ = plains()
    world.add(us.Unit("scout", "wardens", us.Movement(points=3), sight=8), at=(44, 50))
    world.fog("wardens", land_known=True)
    there, beside = world.near("scout"), world.spanning([(55, 55)], live=True)
    assert (44, 50) not in beside.grid
    assert beside.knowledge("wardens").status((50, 50)) == "now"
    there.set_unit("scout", side="wreckers")
    there.paint("deep", (50, 50))
    for board in (world.near((50, 50)), beside, there):
        known = board.knowledge("wardens")
        assert (known.status((50, 50)), known.board.terrain((50, 50))) == ("before", "turf")


def test_who_sees_any_distance_has_no_fog_in_a_large_world():
    make = lambda first, cols, rows: us.Board(  # noqa: E731
        us.SquareGrid(cols, rows, first=first), {"turf": 1}
    )
    world = us.worlds.World(make, 5000, 5000)
    foot = us.Movement(points=3)
    eagle = us.Unit("eagle", "wardens", foot)
    world.add(eagle, at=(50, 50))
    with pytest.raises(us.errors.InputError, match="sees too far for fog"):
        world.fog("wardens")
    assert world.fogged == ()
    world.near("eagle").set_unit("eagle", sight=5)
    world.fog("wardens")
    with pytest.raises(us.errors.StaleError, match="sees too far for fog"):
        world.add(eagle.copy("other", "wardens"), at=(60, 50))
    assert [unit.name for unit in world.units()] == ["eagle"]
    assert world.near("eagle").knowledge("wardens").status((54, 50)) == "now"
