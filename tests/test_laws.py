"""Laws that every board obeys: symmetry, scale, monotony, and answers that agree with each other.

They need no reference, so the boards can be larger than what exhaustive search affords.
"""

import gc
import tracemalloc
from collections.abc import Mapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from fractions import Fraction
from functools import partial

import numpy as np
import pytest
from geometry import KINDS, make_grid
from hypothesis import assume, given
from hypothesis import strategies as st
from reference import exactly
from samples import boards, wade
from scipy.sparse import lil_matrix
from scipy.sparse.csgraph import dijkstra

import understep as us
from understep.files.writer import dump
from understep.grids.cell import Cells
from understep.rules.steps import step_table

wide = boards(cells=49)
TABLES = "costs", "edges", "links", "features"


def rebuilt(board, grid=None, place=lambda cell: cell, cost=lambda cost: cost, rules=lambda m: m):
    """The board made anew: elsewhere, with other costs, with other rules."""
    terrain = {
        name: replace(kind, cost=kind.cost if kind.cost is None else cost(kind.cost))
        for name, kind in board.terrains.items()
    }
    edges = {
        name: replace(
            kind, cost=kind.cost if kind.cost is None else cost(kind.cost), add=cost(kind.add)
        )
        for name, kind in board.edge_kinds.items()
    }
    features = {
        name: replace(
            kind, cost=kind.cost if kind.cost is None else cost(kind.cost), add=cost(kind.add)
        )
        for name, kind in board.feature_kinds.items()
    }
    declared = {"edges": edges, "features": features, "properties": board.properties}
    other = us.Board(grid or board.grid, terrain, **declared)
    for kind, laid in board.features():
        other.place(kind, [place(cell) for cell in laid])
    for a, b, kind, is_open, both in board.edges():
        other.set_edge(place(a), place(b), kind, both=both, is_open=is_open)
    cells = board.grid.cells
    codes = board.terrain_codes()[board.grid.index(cells)]
    for code, name in enumerate(terrain):
        other.paint(name, [place(cell) for cell in Cells(cells.array[codes == code])])
    there = [place(cell) for cell in cells]
    for name in board.properties:
        other.set_value(name, board.values(name)[board.grid.index(cells)], there)
    other.set_elevation(board.elevation[board.grid.index(cells)], there)
    for side in (None, "ours", "theirs"):
        other.block([place(cell) for cell in board.blocks(side=side)], side=side)
    for a, b, price, kind, both in board.links():
        other.link(place(a), place(b), cost(price), both=both, kind=kind)
    for unit in board.units():
        moved = us.Unit(unit.name, unit.side, rules(unit.movement), left=unit.left)
        other.add(moved, at=place(unit.at))
    return other


def entries(board, turns, place=lambda cell: cell):
    """Turn and points left by cell; the cost where no tie of links or leaps decides it."""
    reach, leap = us.reach(board, "a", turns=turns), board.unit("a").movement.leap
    tied, told = board.links() or leap, [reach[cell] for cell in reach]
    return {place(each.cell): (each.turn, 0 if tied else each.cost, each.left) for each in told}


@given(wide, st.integers(1, 4))
def test_a_board_turned_half_round_has_the_same_costs(board, turns):
    grid = board.grid
    (low_col, low_row), (high_col, high_row) = grid.bounds
    if isinstance(grid, us.HexGrid):
        # lines that lay half a cell onwards now lie half a cell back
        lines = grid.rows if grid.top == "pointy" else grid.cols
        low = low_row if grid.top == "pointy" else low_col
        same = (lines - 1 + 2 * low) % 2
        flipped = {"odd": "even", "even": "odd"}[grid.shifted]
        shifted = grid.shifted if same else flipped
        own = {"top": grid.top, "shifted": shifted}
    else:
        own = {"diagonals": grid.diagonals}
    turned = type(grid)(*grid.size, first=grid.first, exists=grid.exists[::-1, ::-1], **own)

    def place(cell):
        return us.Cell(low_col + high_col - cell[0], low_row + high_row - cell[1])

    def rules(movement):
        return replace(movement, footprint=tuple((-x, -y) for x, y in movement.footprint))

    there = rebuilt(board, turned, place, rules=rules)
    assert entries(there, turns) == entries(board, turns, place)


@given(wide, st.integers(1, 4), st.integers(55, 65))
def test_a_board_costs_the_same_as_part_of_a_wider_one(board, turns, before):
    """Steps are compiled in blocks, which begin elsewhere then."""
    grid = board.grid
    before += before % 2  # shifted rows and columns stay as they are
    own = {"diagonals": grid.diagonals} if grid.kind == "square" else {}
    if grid.kind == "hex":
        own = {"top": grid.top, "shifted": grid.shifted}
    exists = np.pad(grid.exists, ((before, 1), (before, 9)))
    first = grid.first.col - before, grid.first.row - before
    size = exists.shape[1], exists.shape[0]
    wider = rebuilt(board, type(grid)(*size, first=first, exists=exists, **own))
    assert entries(wider, turns) == entries(board, turns)


@given(wide, st.integers(1, 4), st.sampled_from([2, 40, 5000, 10**7, Fraction(1, 3)]))
def test_costs_and_points_scale_together(board, turns, factor):
    """With large factors the heap runs instead of the buckets, and must say the same."""
    assume(board.unit("a").movement.rule is None)

    def larger(cost):
        return exactly(cost) * factor

    def rules(movement):
        if not isinstance(movement.costs, Mapping):
            return movement

        def table(costs):
            return {name: c if c in (None, "open") else larger(c) for name, c in costs.items()}

        return replace(
            movement,
            points=larger(movement.points),
            **{key: table(getattr(movement, key)) for key in TABLES},
            zones=movement.zones if isinstance(movement.zones, str) else larger(movement.zones),
            carry=larger(movement.carry),
            leap=movement.leap and replace(movement.leap, cost=larger(movement.leap.cost)),
            uphill=larger(movement.uphill),
            downhill=larger(movement.downhill),
        )

    there = rebuilt(board, cost=larger, rules=rules)
    unit = there.remove("a")
    left = exactly(unit.left) * factor
    at = board.unit("a").at
    there.add(
        us.Unit("a", unit.side, unit.movement, left=left, facing=board.unit("a").facing), at=at
    )
    assume(Fraction(1, 10) * factor * 1000 % 1 == 0)  # else the smallest cost would be rounded
    one, other = us.reach(board, "a", turns=turns), us.reach(there, "a", turns=turns)
    assert list(one) == list(other)
    for cell in one:
        assert one[cell].turn == other[cell].turn
        assert float(one[cell].cost * factor) == pytest.approx(float(other[cell].cost))
        assert tuple(one.route_to(cell).cells) == tuple(other.route_to(cell).cells)


@given(wide, st.integers(1, 3), st.data())
def test_obstacles_never_help_and_points_never_hurt(board, turns, data):
    foe = us.Unit("x", "theirs", us.Movement(1, costs=1))
    free = [
        c
        for c in board.grid.cells
        if board.unit_at(c) is None and not board._units.hindrance(foe, c)
    ]
    assume(free)
    before = entries(board, turns)
    board.add(foe, at=free[-1])
    blocked = entries(board, turns)
    assert blocked.keys() <= before.keys()
    assert all(blocked[cell][0] >= before[cell][0] for cell in blocked)
    board.remove("x")
    unit_at = board.unit("a").at
    unit = board.remove("a")
    assume(
        unit.left == unit.movement.points or not unit.movement.one_step
    )  # a step may cost more, with more points
    full, points = unit.left == unit.movement.points, unit.movement.points
    more = replace(unit.movement, points=points + data.draw(st.integers(1, 5)))
    left = None if full else unit.left + 1
    board.add(us.Unit("a", unit.side, more, left=left), at=unit_at)
    after = entries(board, turns)
    assert before.keys() <= after.keys()
    assert all(after[cell][0] <= before[cell][0] for cell in before)


LAXER = [  # what lifts a rule, and the rule
    {"zones": "ignore"}, {"foe_corners": False}, {"one_step": True}, {"climb": None, "drop": None},
    {"carry": 100}, {"uphill": 0, "downhill": 0}, {"passes": "all"}, {"footprint": ((0, 0),)},
    {"edges": {"wall": "open", "door": "open"}},
]  # fmt: skip


@given(wide, st.integers(1, 3), st.sampled_from(LAXER))
def test_lifting_a_rule_never_hurts(board, turns, laxer):
    unit = board.unit("a")
    assume("carry" not in laxer or unit.movement.diagonal != "alternating")
    if "edges" in laxer:  # lifted from walls only
        laxer = {"edges": {**unit.movement.edges, **laxer["edges"]}}
    strict = entries(board, turns)
    board.remove("a")
    lax = replace(unit, movement=replace(unit.movement, **laxer), at=None)
    board.add(lax, at=unit.at)
    free = entries(board, turns)
    assert strict.keys() <= free.keys()
    for cell, (turn, _, left) in strict.items():
        now, _, more = free[cell]
        assert (now, -more) <= (turn, -left)


@given(wide, st.data())
def test_an_estimate_never_changes_an_answer_nor_opens_more_cells(board, data):
    """A* with links, slopes, footprints: as good as the search without an estimate."""
    reach = us.reach(board, "a", turns=None)
    for cell in data.draw(st.lists(st.sampled_from(list(board.grid)), max_size=5)):
        route = us.route(board, "a", goals=cell)
        assert bool(route) == (cell in reach)
        if route:
            assert (route.turns, route.cost) == (reach[cell].turn, reach[cell].cost)
            route = us.route(board, "a", goals=cell, prefer="first")
            assert (route.turns, route.stops[-1]) == (reach[cell].turn, cell)
            # of cells that have more than one label, passed or before a dear diagonal, it can close
            # more of them
            if reach._labelled == len(reach):
                assert route.expanded <= len(reach)


@pytest.mark.deep
@pytest.mark.large
def test_threads_compile_steps_while_others_search():
    """A fresh board of many blocks, asked by eight threads at once: as one by one."""
    rng = np.random.default_rng(2)
    board = us.Board(us.HexGrid(200, 150), {"turf": 1, "mud": 2.5, "reeds": 1.75, "deep": None})
    for name in ("mud", "reeds", "deep"):
        board.paint(name, rng.random((150, 200)) < 0.2)
    spots = [cell for cell in board.grid if board.terrain(cell) != "deep"]
    for number in range(24):
        spot = spots[int(rng.integers(len(spots)))]
        if board.unit_at(spot) is None:
            unit = us.Unit(f"u{number}", "xyz"[number % 3], us.Movement(12, zones="end"))
            board.add(unit, at=spot)
    alone = {name: each.plain() for name, each in us.reaches(board.copy(), turns=4).items()}
    for _ in range(3):
        fresh = us.maps.resize(board, *board.grid.size)
        together = us.reaches(fresh, turns=4, threads=8)
        assert {name: each.plain() for name, each in together.items()} == alone
        with fresh.batch():  # after an edit, one thread refills, and the others wait
            fresh.paint("mud", [unit.at for unit in fresh.units()])
            fresh.set_elevation(1, (0, 0))
        alone_again = {name: us.reach(fresh.copy(), name, turns=2).plain() for name in alone}
        with ThreadPoolExecutor(8) as threads:
            asked = threads.map(partial(us.reach, fresh, turns=2), alone)
            asked = [reach.plain() for reach in asked]
            assert dict(zip(alone, asked, strict=True)) == alone_again


@given(wide, st.integers(1, 4))
def test_more_turns_add_cells_and_change_none(board, turns):
    fewer, more = entries(board, turns), entries(board, turns + 1)
    assert fewer.items() <= more.items()
    assert {cell for cell, (turn, *_) in more.items() if turn <= turns} == fewer.keys()
    everything = us.reach(board, "a", turns=None)
    assert fewer.keys() <= set(everything)
    assert len(us.reach(board, "a", turns=200)) == len(everything)


@given(wide, st.sampled_from(["straight", "direct"]))
def test_a_route_is_the_one_its_reach_gives(board, prefer):
    reach = us.reach(board, "a", turns=None)
    for cell in board.grid.cells:
        route = us.route(board, "a", goals=cell, prefer=prefer)
        assert bool(route) == (cell in reach)
        if not route:
            assert reach.get(cell).why
            continue
        assert route.plain() == reach.route_to(cell, prefer=prefer).plain()
        assert (route.cost, route.turns) == (reach[cell].cost, reach[cell].turn)
        if prefer == "straight":
            first = us.route(board, "a", goals=cell, prefer="first")
            assert (first.turns, first.steps[-1:] and first.steps[-1].left) == (
                route.turns, route.steps[-1:] and route.steps[-1].left,
            )  # fmt: skip


@given(wide)
def test_walking_turn_by_turn_takes_the_turns_it_said(board):
    unit = board.unit("a")
    reach = us.reach(board, "a", turns=None)
    goal = list(reach)[-1]
    route = us.route(board, "a", goals=goal)
    assert route.stops[-1] == goal
    ends = {}
    for step in route.steps:
        ends[step.turn] = step
        assert step.left >= 0
    begun = unit.left
    for turn in range(route.turns, 1, -1):
        here = route.stops[0]
        rest = [step.left for step in route.steps if step.turn == 1]
        saved = min([*rest[-1:], begun][0], unit.movement.carry)
        begun = exactly(unit.movement.points) + exactly(saved)
        board.remove("a")
        board.add(us.Unit("a", unit.side, unit.movement, left=begun), at=here)
        route = us.route(board, "a", goals=goal)
        assert route.turns == turn - 1
    assert route.stops[0] == goal


def test_steps_of_the_layer_of_dear_diagonals_are_compiled_beyond_the_first_block():
    board = us.Board(us.SquareGrid(130, 3, diagonals=True), {"turf": 1})
    movement = us.Movement(3, diagonal="alternating")
    board.add(us.Unit("a", "ours", movement), at=(63, 1))  # the first step leads to another block
    reach = us.reach(board, "a", turns=30)
    assert len(reach) == 390
    assert (reach[(66, 0)].turn, reach[(129, 0)].turn, reach[(0, 2)].turn) == (1, 22, 21)


@pytest.mark.parametrize("dear", [3, 5000])
@pytest.mark.parametrize(
    ("kind", "diagonal"), [*[(kind, 1.5) for kind in KINDS], ("square8", "alternating")]
)
def test_steps_compiled_many_at_a_time_are_those_compiled_one_by_one(kind, diagonal, dear):
    # without holes rows are longer than what is looked at together
    exists = np.random.default_rng(dear).random((6, 300)) < (0.97 if dear == 3 else 1)
    exists[:, [0, 299]] = True
    rules = {"climb": 2, "drop": 3, "uphill": 0.5, "downhill": 0.25}
    if kind == "square8":
        rules |= {"diagonal": diagonal, "corners": "one"}
    edges = {"wall": us.Edge(blocks=True), "road": us.Edge(cost=1), "ditch": us.Edge(add=dear)}
    terrain = {"turf": 1, "mud": dear, "deep": None}
    found = []
    for level in (2, 1 / 3):  # a level as fine as that leaves the fast loop no whole numbers
        board = us.Board(make_grid(kind, 300, 6, exists=exists), terrain, edges=edges)
        cells, rng = board.grid.cells.array, np.random.default_rng(dear)
        for name, share in (("mud", 0.3), ("deep", 0.05)):
            board.paint(name, cells[rng.random(len(cells)) < share])
        board.set_elevation(rng.choice([0, 0, 0, -1, 1, 2, -2], len(cells)), cells)
        for way, name in enumerate(edges):
            board.lay_beside(name, cells[rng.random(len(cells)) < 0.06], way)
        for col in (0, 297):
            end = board.grid.rectangle((col, 0), (col + 2, 5))
            board.paint("turf", end), board.set_elevation(0, end)
        board.paint("deep", (299, 3)), board.set_elevation(level, (299, 3))
        movement = us.Movement(9, **rules)
        board.add(us.Unit("a", "ours", movement), at=(0, 0))
        step_table(board, movement, "ours").fill()  # whole rows
        for _ in range(2):
            there, back = (us.field(board, movement, [goal]) for goal in ((299, 0), (0, 0)))
            reach = us.reach(board, "a", left=10**6)
            found.append({
                tuple(cell): (there.get(cell), back.get(cell), cell in reach and reach[cell].cost)
                for cell in board.grid
                if cell != (299, 3)
            })  # fmt: skip
            board.paint("mud", board.grid.rectangle((3, 2), (297, 3)))  # and long ones again
    assert found[:2] == found[2:]
    assert sum(any(each) for each in found[0].values()) > 1000


MOVERS = [
    us.Movement(9, corners="one", diagonal=1.5),
    us.Movement(9, rule=wade, uphill=0.5, downhill=0.25, climb=2),
    us.Movement(9, footprint=((0, 0), (1, 0), (0, 1)), uphill=1),
    us.Movement(9, leap=us.Leap(2, terrains=["deep", "mud"], up=2, down=3), carry=3),
    us.Movement(9, diagonal="alternating", corners="both", uphill=0.5),
]


@pytest.mark.deep
@pytest.mark.large
@pytest.mark.parametrize(
    ("kind", "movement"),
    [(kind, MOVERS[0]) for kind in KINDS]
    + [(kind, movement) for kind in ("square8", "flat-even") for movement in MOVERS[1:]],
)
def test_edits_on_a_wide_board_leave_no_trace_in_kept_tables(kind, movement):
    rng = np.random.default_rng(5)
    grid = make_grid(kind, 80, 70)
    kinds = {"wall": us.Edge(blocks=True), "ditch": us.Edge(add=1)}
    terrain = {"turf": 1, "mud": us.Terrain(2, hazard=1), "deep": None, "rail": 0}
    board = us.Board(grid, terrain, edges=kinds, properties={"depth": 0.0})
    board.add(us.Unit("a", "ours", movement), at=(64, 32))
    copies = []
    assert entries(board, 2)
    for turn in range(9):
        spots = rng.integers((58, 26), (71, 39), (12, 2))
        spots = spots[abs(spots - (64, 32)).max(axis=1) > 1]
        board.paint(list(terrain)[rng.integers(4)], spots[:6])
        board.set_elevation([1, 3, 2.5, 0.125, -3.2, 0][turn % 6], spots[2:4])
        board.set_value("depth", float(rng.choice([0, 0.5, 0.3, 2])), spots[4:6])
        board.block(spots[6], side=[None, "ours"][turn % 2])
        board.clear(spots[7], side=[None, "ours"][turn % 2])
        board.lay_beside("ditch" if turn % 3 else "wall", spots[8], 0)
        board.link(spots[0], spots[1], cost=1)
        if turn % 4 == 2:  # the copy goes on, the board it was made of stays as it is
            copies.append((board, entries(board, 2), dump(board)))
            board = board.copy()
        fresh, whole = rebuilt(board), rebuilt(board)
        step_table(whole, movement, "ours").fill()  # every block, before the question comes
        assert entries(board, 2) == entries(fresh, 2) == entries(whole, 2)
        if turn % 4 == 1:  # nothing but a link, from where it stands
            board.link((64, 32), spots[-1], cost=0.5)
            assert entries(board, 2) == entries(rebuilt(board), 2)
            board.unlink((64, 32), spots[-1])
        for goal in ((60, 30), (66, 36), (64, 28)):
            routes = [us.route(each, "a", goal).plain() for each in (board, fresh, whole)]
            assert routes[0] == routes[1] == routes[2]
    for left, before, text in copies:
        step_table(left, movement, "ours").fill()
        assert (entries(left, 2), dump(left)) == (before, text)


@pytest.mark.large
def test_a_short_reach_allocates_nothing_of_the_boards_size():
    board = us.Board(us.HexGrid(2000, 2000), {"turf": 1, "mud": 2})
    board.add(us.Unit("a", "ours", us.Movement(8)), at=(1000, 1000))
    us.reach(board, "a")
    gc.collect()
    tracemalloc.start()
    assert len(us.reach(board, "a")) == 217
    peak = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    assert peak < 64_000


@pytest.mark.parametrize(
    ("costs", "points", "turns", "refused"),
    [
        ({"turf": 10**9, "mud": 1 / 997}, 10**9, None, "turns must stay below"),
        ({"turf": 1 / 991, "mud": 1 / 997, "reeds": 1 / 983, "sand": 1 / 977}, 5, 1, "rounder"),
        ({"turf": 1}, 10**9, 10**9, None),
        ({"turf": 10**9}, 10**9, 3, None),
    ],
)
def test_what_cannot_be_counted_is_refused(costs, points, turns, refused):
    board = us.Board(us.SquareGrid(80, 80), costs)
    board.add(us.Unit("a", "ours", us.Movement(points)), at=(0, 0))
    if refused:
        with pytest.raises(us.errors.CostError, match=refused):
            us.reach(board, "a", turns=turns)
    else:
        assert us.reach(board, "a", turns=turns)[(1, 0)].cost == costs["turf"]


@given(boards(free_steps=True))
def test_equal_rules_share_a_table_and_differ_in_nothing_else(board):
    unit = board.unit("a")
    facts = {name: getattr(unit.movement, name) for name in us.Movement.__dataclass_fields__}
    tables = {key: dict(reversed(facts[key].items())) for key in TABLES}
    twin = us.Movement(**{name: facts[name] for name in facts if name != "_rules"} | tables)
    assert (twin, hash(twin)) == (unit.movement, hash(unit.movement))
    before = us.reach(board, "a").plain()
    board.remove("a")
    board.add(us.Unit("a", unit.side, twin, left=unit.left, facing=unit.facing), at=unit.at)
    assert us.reach(board, "a").plain() == before


def test_hundreds_of_different_costs_take_the_wide_table():
    """More than a byte can tell apart: the same costs as cell by cell, from SciPy."""
    rng = np.random.default_rng(8)
    names = [f"t{i}" for i in range(200)]
    grid = us.SquareGrid(40, 40, diagonals=True)
    board = us.Board(grid, {name: i + 1 for i, name in enumerate(names)})
    ground = rng.integers(0, 200, 1600)
    for i, name in enumerate(names):
        board.paint(name, grid.numbering.cells_of(np.flatnonzero(ground == i)))
    board.add(us.Unit("a", "ours", us.Movement(10**6, diagonal=1.37, corners="free")), at=(0, 0))
    weights = lil_matrix((1600, 1600))
    for cell in grid.cells:
        for other in grid.neighbors(cell):
            straight = cell[0] == other[0] or cell[1] == other[1]
            price = (ground[grid.numbering.number(other)] + 1) * (1 if straight else 1.37)
            weights[grid.numbering.number(cell), grid.numbering.number(other)] = price
    costs = dijkstra(weights.tocsr(), indices=0).reshape(40, 40)
    assert us.reach(board, "a").table() == pytest.approx(costs)
    for goal in ((39, 39), (0, 39), (20, 5)):
        assert us.route(board, "a", goal).cost == pytest.approx(costs[grid.index(goal)])
