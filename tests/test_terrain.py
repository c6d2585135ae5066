"""What can stand on a board besides terrain: links, blocks, properties, rules, large units."""

import dataclasses
from collections import Counter
from fractions import Fraction

import numpy as np
import pytest
from geometry import grids
from hypothesis import assume, given
from hypothesis import strategies as st
from samples import boards

import understep as us
from understep.files.reader import parse
from understep.files.writer import dump

FOOT = us.Movement(points=9)
KITE = us.Movement(points=9, costs=2, layer="air")


def small(**more):
    board = us.Board(
        us.SquareGrid(6, 4),
        {"turf": 1, "mud": us.Terrain(2, hazard=1, closed_to="wreckers"), "deep": None},
        edges={"wall": us.Edge(blocks=True)},
        properties={"depth": 0.0, "owner": "", "lit": False, "rank": 3},
        **more,
    )
    board.add(us.Unit("scout", "wardens", FOOT), at=(0, 0))
    return board


def test_a_rule_decides_when_steps_are_compiled_and_not_while_searching():
    asked = []

    def rule(site):
        asked.append(site)
        return None if site.values["lit"] else (site.cost or 9) + site.hazard + site.level

    board = small()
    board.paint("mud", (1, 0))
    board.set_value("lit", [True, False], [(0, 1), (1, 1)])
    board.set_elevation(0.5, (2, 0))
    guard = us.Unit("guard", "wardens", us.Movement(20, rule=rule))
    board.add(guard, at=(5, 3))
    before = us.reach(board, "guard")
    assert [before[cell].cost for cell in ((4, 3), (3, 3))] == [1, 2]
    assert {(site.terrain, site.level, site.values["lit"]) for site in asked} == {
        ("turf", 0.0, False), ("turf", 0.0, True), ("turf", 0.5, False), ("mud", 0.0, False),
    }  # fmt: skip
    asked.clear()
    us.reach(board, "guard")
    assert asked == []
    board.set_value("lit", True, [(4, 3), (5, 2)])
    assert list(us.reach(board, "guard")) == [(5, 3)]
    assert len(asked) == 1
    with pytest.raises(
        us.errors.OccupiedError, match="stands there: its movement's rule closes 'turf' at"
    ):
        board.set_value("lit", True, (5, 3))


def test_ground_closed_to_one_side():
    board = small()
    board.paint("mud", [(2, row) for row in range(4)])
    board.add(us.Unit("sapper", "wreckers", FOOT), at=(1, 3))
    assert (4, 0) in us.reach(board, "scout")
    assert {cell.col for cell in us.reach(board, "sapper")} == {0, 1}
    board.block([(1, 0), (1, 1)], side="wardens")
    assert us.reach(board, "scout").get((1, 0)).why == "(1, 0) is closed to the wardens"
    assert us.reach(board, "sapper").get((2, 0)).why == "'mud' at (2, 0) is closed to the wreckers"
    assert (1, 0) in us.reach(board, "sapper")
    board.clear(side="wardens")
    assert (1, 0) in us.reach(board, "scout")


@given(boards(free_steps=False), st.data())
def test_clearing_restores_what_a_block_has_covered(board, data):
    before, areas = us.reach(board, "a", turns=2).plain(), us.areas(board, "a").table()
    free = [cell for cell in board.grid if board.unit_at(cell) is None and not board.blocked(cell)]
    assume(free)
    chosen = data.draw(st.lists(st.sampled_from(free), min_size=1))
    board.block(chosen)
    assert not set(us.reach(board, "a", turns=2)) & set(chosen)
    board.clear(chosen)
    assert us.reach(board, "a", turns=2).plain() == before
    assert (us.areas(board, "a").table() == areas).all()


@given(grids(), st.data())
def test_a_cell_is_open_when_each_of_its_blocks_is_cleared(grid, data):
    """Against a plain count, with files, copies, undo and other sizes."""
    board, counts = us.Board(grid, {"turf": 1}), {None: Counter(), "ours": Counter()}
    some = st.sets(st.sampled_from(list(grid)), max_size=8)
    for _ in range(data.draw(st.integers(1, 6))):
        side, cells = data.draw(st.sampled_from([None, "ours"])), data.draw(some)
        if data.draw(st.integers(0, 3)):
            board.block(list(cells), side=side)
            counts[side].update(cells)
        elif data.draw(st.integers(0, 3)):
            board.clear(list(cells), side=side)
            counts[side] -= Counter(cells)
        else:
            board.clear(side=side)
            for each in (None, "ours") if side is None else ("ours",):
                counts[each].clear()
    shifted = us.maps.shift(us.maps.shift(board, 2, 2), -2, -2)
    for each in (board, board.copy(), parse(dump(board).encode()), shifted):
        for side, count in counts.items():
            assert set(each.blocks(side=side)) == set(count)
            most = max(count.values(), default=0)
            for times in range(1, most):
                with each.trial():
                    for _ in range(times):
                        each.clear(list(count), side=side)
                    left = {cell for cell, many in count.items() if many > times}
                    assert set(each.blocks(side=side)) == left
    with board.trial():
        board.clear()
        assert not len(board.blocks()) + len(board.blocks(side="ours"))
    assert set(board.blocks()) == set(counts[None])


def test_a_resized_board_keeps_fog_sides_and_turn():
    board = us.Board(us.SquareGrid(9, 3), {"turf": 1, "reeds": 2})
    for name, side, col in (("scout", "ours", 0), ("pikes", "theirs", 4), ("gone", "third", 8)):
        board.add(us.Unit(name, side, us.Movement(3), sight=2), at=(col, 1))
    board.remove("gone")
    us.fog(board, "ours")
    board.put("scout", at=(3, 1))
    board.put("scout", at=(0, 1))  # the pikes were seen, and are remembered
    board.paint("reeds", (3, 1))  # unseen
    us.Turns(board, ["ours", "theirs"])
    for moved, step in ((us.maps.resize(board, 9, 3), 0), (us.maps.shift(board, 5, 0), 5),
                        (us.maps.reframe(board, us.Frame(projection="isometric")), 0)):  # fmt: skip
        before, after = board.knowledge("ours"), moved.knowledge("ours")
        assert moved.sides == board.sides == ("ours", "theirs", "third")
        assert (moved.fogged, moved.turn) == (board.fogged, board.turn)
        assert (after.table() == before.table()).all()
        assert {unit.name for unit in after.board.units()} == {"scout"}
        assert after.last_seen("pikes").at == (4 + step, 1)
        assert after.board.terrain((3 + step, 1)) == "turf"
        assert moved.terrain((3 + step, 1)) == "reeds"
        assert not us.sees(moved, "scout", (8 + step, 1))
    assert us.maps.resize(board, 3, 3, lost="remove").knowledge("ours").last_seen("pikes") is None
    again = parse(dump(board).encode())
    assert again.sides == board.sides
    assert us.threats(again, against="third").foes == us.threats(board, against="third").foes


def test_large_units_and_layers():
    board = small()
    cart = board.add(
        us.Unit("cart", "wardens", us.Movement(4, footprint=us.Footprint.block(2))), at=(2, 1)
    )
    assert set(board.covered(cart)) == {(2, 1), (3, 1), (2, 2), (3, 2)}
    assert board.unit_at((3, 2)).name == "cart"
    kite = us.Unit("kite", "wreckers", KITE)
    board.add(kite, at=(3, 2))
    assert (board.unit_at((3, 2)).name, board.unit_at((3, 2), layer="air").name) == ("cart", "kite")
    assert board.unit_layers == ("ground", "air")
    assert (5, 0) in us.reach(board, "kite")
    board.paint("deep", (4, 0))
    reach = us.reach(board, "cart")
    assert (3, 0) not in reach  # it would cover (4, 0)
    assert reach.get((3, 0)).why == "'deep' at (4, 0) is impassable for 'cart'"
    assert "off the board" in reach.get((5, 3)).why
    board.set_edge((0, 1), (1, 1), "wall")
    why = us.reach(board, "cart").get((0, 1)).why
    assert why == "'cart' would stand across a 'wall' between (0, 1) and (1, 1)"
    second = cart.copy("cart 2", side="wreckers")
    assert (second.movement, second.at, second.left) == (cart.movement, None, 4)
    with pytest.raises(us.errors.OccupiedError, match="unit 'cart' stands on"):
        board.add(second, at=(1, 0))
    board.set_facing("cart", "S")
    board.set_left("cart", 1.5)
    assert (board.unit("cart").facing, board.unit("cart").left) == ("S", 1.5)


@pytest.mark.parametrize(
    ("call", "error", "message"),
    [
        (lambda b: b.link((0, 0), (0, 0)), us.errors.CellError, "b: a link leads to another cell"),
        (lambda b: b.link((0, 0), (9, 9)), us.errors.CellError, "b: must lie on the board"),
        (lambda b: b.link((0, 0), (5, 3), cost=-1), us.errors.CostError, "cost: .* never negative"),
        (lambda b: b.link((0, 0), (5, 3), kind=""), us.errors.InputError, "kind: must be a text"),
        (lambda b: b.unlink((0, 0), (5, 3)), us.errors.CellError, "no link leads there from"),
        (lambda b: b.block((0, 0)), us.errors.OccupiedError, r"\(0, 0\) is blocked"),
        (lambda b: b.block((1, 0), side=3), us.errors.InputError, "side: must be a text"),
        (lambda b: b.set_value("dept", 1.0, (0, 0)), us.errors.NameUnknownError, "mean 'depth'"),
        (lambda b: b.set_value("depth", "x", (0, 0)), us.errors.InputError, "of type float"),
        (lambda b: b.set_value("depth", np.inf, (0, 0)), us.errors.InputError, "finite"),
        (lambda b: b.set_value("rank", 2**63, (0, 0)), us.errors.InputError, "64 bits"),
        (lambda b: b.set_value("owner", "x" * 1001, (0, 0)), us.errors.InputError, "at most 1000"),
        (
            lambda b: b.set_value("lit", [True], [(0, 0), (1, 0)]),
            us.errors.InputError,
            "each of 2 cells",
        ),
        (lambda b: b.value("dept", (0, 0)), us.errors.NameUnknownError, "depth"),
        (lambda b: small(fill="mudd"), us.errors.NameUnknownError, "fill: .*'mud'"),
        (
            lambda b: us.Board(b.grid, {"t": 1}, properties={"a": None}),
            us.errors.InputError,
            "at 'a'",
        ),
        (
            lambda b: us.Board(b.grid, {"t": 1}, properties={"": 1}),
            us.errors.InputError,
            "not empty",
        ),
        (
            lambda b: us.Board(b.grid, {"t": 1}, properties=[1]),
            us.errors.InputError,
            "must map names",
        ),
        (lambda b: us.Terrain(hazard=-1), us.errors.CostError, "hazard: .* never negative"),
        (lambda b: us.Terrain(cover=-1), us.errors.InputError, "cover: must be a number"),
        (lambda b: us.Terrain(closed_to=[1]), us.errors.InputError, "closed_to: must be names"),
        (lambda b: us.Footprint.block(0), us.errors.InputError, "cols: must be a whole number"),
        (lambda b: us.Footprint.block(9), us.errors.InputError, "at most 64 cells"),
        (
            lambda b: us.Footprint.cluster(5),
            us.errors.InputError,
            "radius: must be a whole number from 0 to 4",
        ),
        (lambda b: us.Movement(1, footprint=[(1, 0)]), us.errors.InputError, "hold the anchor"),
        (lambda b: us.Movement(1, footprint=[(0, "a")]), us.errors.InputError, "pairs of whole"),
        (lambda b: us.Movement(1, footprint=[0]), us.errors.InputError, "pairs of whole"),
        (lambda b: us.Movement(1, layer=""), us.errors.InputError, "layer: must be a text"),
        (lambda b: us.Movement(1, rule=3), us.errors.InputError, "rule: must be a function"),
        (lambda b: us.Movement(1, links={"x": -1}), us.errors.CostError, "links at 'x'"),
        (lambda b: us.Movement(1, climb=-1), us.errors.CostError, "climb: .* never negative"),
        (
            lambda b: b.put("scout", (2, 0)) and b.paint("deep", (2, 0)),
            us.errors.OccupiedError,
            "deep",
        ),
        (lambda b: b.set_facing("scout", "up"), us.errors.NameUnknownError, "facing"),
        (lambda b: b.set_left("scout", -1), us.errors.CostError, "left: .* never negative"),
        (
            lambda b: b.add(b.remove("scout").copy("", "x"), (0, 0)),
            us.errors.InputError,
            "name: must",
        ),
        (lambda b: us.maps.resize(b, 6, 0), us.errors.InputError, "rows: must be a whole number"),
        (
            lambda b: us.maps.resize(b, 6, 4, fill="mudd"),
            us.errors.NameUnknownError,
            "fill: .*'mud'",
        ),
        (
            lambda b: us.maps.resize(b, 5, 4, first=(1, 0)),
            us.errors.OccupiedError,
            "'scout' would fall off",
        ),
        (lambda b: us.maps.resize(b, 5, 4, lost="keep"), us.errors.NameUnknownError, "refuse"),
        (lambda b: us.maps.shift(b, 0.5, 0), us.errors.InputError, "cols: must be a whole number"),
        (lambda b: us.areas(b, "scuot"), us.errors.NameUnknownError, "'scout'"),
        (lambda b: us.areas(b, FOOT).cells_of(7), us.errors.InputError, "from 0 to 0"),
        (lambda b: us.maps.check(3), us.errors.InputError, "board: must be a Board"),
    ],
)
def test_bad_input_is_named(call, error, message):
    with pytest.raises(error, match=message):
        call(small())


@given(boards(cells=20), st.data())
def test_a_resized_or_shifted_board_keeps_what_is_on_it(board, data):
    step = data.draw(st.tuples(st.integers(-3, 3), st.integers(-3, 3)))
    moved = us.maps.shift(board, *step)
    there = {cell: us.Cell(cell[0] + step[0], cell[1] + step[1]) for cell in board.grid}

    def told(each, place=lambda cell: cell):
        reach = us.reach(each, "a", turns=2)
        return {place(cell): reach[cell][1:] for cell in reach}

    assert told(moved) == told(board, there.get)
    back = us.maps.shift(moved, -step[0], -step[1])
    assert (back.grid, told(back)) == (board.grid, told(board))
    (left, top), (right, bottom) = board.grid.bounds
    grown = us.maps.resize(
        board, right - left + 4, bottom - top + 4, first=(left - 2, top - 2), fill="turf"
    )
    assert set(board.grid) <= set(grown.grid)
    outside = [cell for cell in grown.grid if cell not in board.grid]
    assert {grown.terrain(cell) for cell in outside} == {"turf"}
    again = us.maps.resize(grown, *board.grid.size, first=board.grid.first)
    assert (again.grid, told(again)) == (board.grid, told(board))
    assert [again.links(), again.edges()] == [board.links(), board.edges()]
    if board.grid.exists[0, 0]:
        one = us.maps.resize(board, 1, 1, lost="remove")
        assert {unit.at for unit in one.units()} <= {one.grid.first}
        assert not one.undo()


@given(grids(), st.data())
def test_a_rectangle_holds_the_cells_between_two(grid, data):
    spot = st.tuples(st.integers(-9, 9), st.integers(-9, 9))
    a, b = data.draw(spot), data.draw(spot)
    spans = [sorted(pair) for pair in zip(a, b, strict=True)]
    inside = [
        c for c in grid if all(low <= x <= high for x, (low, high) in zip(c, spans, strict=True))
    ]
    assert list(grid.rectangle(a, b)) == inside


def test_equal_movements_with_slopes_and_links_are_one():
    one = us.Movement(3, links={"b": 1, "a": None}, climb=1.0, footprint=[(1, 0), (0, 0)])
    other = us.Movement(3, links={"a": None, "b": 1.0}, climb=1, footprint=us.Footprint.block(2, 1))
    assert (one, hash(one)) == (other, hash(other))
    assert one != dataclasses.replace(other, drop=2)


def test_links_are_listed_once_or_from_one_end():
    board = small()
    board.link((0, 0), (5, 3), cost=2.5, kind="ferry")
    board.link((5, 3), (0, 3), kind="ladder", both=False)
    assert board.links() == (
        us.Link(us.Cell(0, 0), us.Cell(5, 3), 2.5, "ferry", True),
        us.Link(us.Cell(5, 3), us.Cell(0, 3), 1, "ladder", False),
    )
    assert [link.b for link in board.links((5, 3))] == [(0, 0), (0, 3)]
    board.unlink((0, 0), (5, 3), both=False)
    assert [(link.a, link.both) for link in board.links()] == [((5, 3), False)] * 2
    board.unlink((0, 3), (5, 3))
    assert [link.b for link in board.links()] == [(0, 0)]
    assert board.undo()
    assert len(board.links()) == 2


def test_of_tied_links_the_one_from_the_first_cell_is_taken():
    board = us.Board(us.SquareGrid(3, 5), {"turf": 1, "deep": None})
    board.paint("deep", [(1, row) for row in range(5)])
    board.add(us.Unit("scout", "wardens", us.Movement(points=9)), at=(0, 2))
    board.link((0, 3), (2, 2), both=False)
    board.link((0, 1), (2, 2), both=False)
    for prefer in ("straight", "direct", "first"):
        route = us.route(board, "scout", goals=(2, 2), prefer=prefer)
        assert list(route.cells) == [(0, 2), (0, 1), (2, 2)]
        assert us.reach(board, "scout").route_to((2, 2), prefer=prefer).cells == route.cells
    assert [step.direction for step in route.steps] == ["N", None]


def test_levels_may_be_fractions_and_come_from_a_function_of_single_points():
    board = us.Board(us.SquareGrid(4, 1), {"turf": 1})
    board.set_elevation(Fraction(5, 2), (0, 0))
    board.set_elevation([Fraction(1, 2), 1], [(1, 0), (2, 0)])
    assert board.elevation[0].tolist() == [2.5, 0.5, 1, 0]
    board.set_elevation(lambda x, y: 2 if x > 2 else int(y))
    assert board.elevation[0].tolist() == [0, 0, 2, 2]
    for level in ("high", [None] * 4, lambda x, y: "high", 1j):
        with pytest.raises(us.errors.InputError, match="level: must be"):
            board.set_elevation(level)


def test_a_trial_leaves_no_trace_in_the_order_of_layers_and_units():
    def flier(name, layer):
        return us.Unit(name, "wardens", us.Movement(4, 1, layer=layer))

    board = us.Board(us.SquareGrid(4, 3), {"turf": 1, "deep": None})
    with board.trial():
        board.add(flier("gull", "sky"), at=(1, 1))
        board.add(flier("kite", "air"), at=(1, 1))
    assert board.unit_layers == ("ground",)
    board.add(flier("kite", "air"), at=(1, 1))
    with board.trial():
        board.remove("kite")
        board.add(flier("gull", "sky"), at=(1, 1))
    board.add(flier("gull", "sky"), at=(1, 1))
    assert board.unit_layers == ("ground", "air", "sky")
    assert board.unit_at((1, 1)).name == "kite"
    board.block((1, 2))
    for name, at in (("owl", (2, 2)), ("crow", (0, 2))):
        board.add(us.Unit(name, "wardens", us.Movement(4)), at=at)
    with pytest.raises(us.errors.OccupiedError, match="unit 'owl' stands there"):
        board.paint("deep", [(0, 2), (2, 2)])  # the first one added
