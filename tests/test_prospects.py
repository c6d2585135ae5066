"""Prospects against the same questions asked one by one, each after the unit was put there."""

import contextlib
import copy
import dataclasses
import pickle
from concurrent.futures import ThreadPoolExecutor

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from test_attacks import armies

import understep as us


def asked(picture, side, name, cell):
    """Who could attack a unit on a cell, and whom it could from there: put there in a trial."""
    board = picture.copy()
    with board.trial():
        unit = board.put(name, at=cell)
        threats = us.threats(board, side, known_to=False)
        on_board = [each for each in board.covered(unit) if each in board.grid]
        foes = {foe for each in on_board for foe in threats.by(each)}
        targets = ()
        if unit.attack is not None:
            targets = us.attacks(board, name, moving=False, known_to=False).targets
    return foes, set(targets)


def check(board, side, **known):
    """All rows against what is asked one by one."""
    picture = board
    if not known and side in board.fogged:
        picture = board.knowledge(side).board
    before, digest = board.state, board.digest()
    found = us.prospects(board, side, turns=2, **known)
    expected = [
        (unit.name, entry) for unit in picture.units(side)
        for entry in map(us.reach(picture, unit.name, turns=2, known_to=False).get,
                         us.reach(picture, unit.name, turns=2, known_to=False).cells)
    ]  # fmt: skip
    assert [(row.unit, row.cell, row.cost, row.left, row.turn) for row in found] == [
        (name, each.cell, float(each.cost), float(each.left), each.turn) for name, each in expected
    ]
    for row in found:
        foes, targets = asked(picture, side, row.unit, row.cell)
        assert (set(row.foes), set(row.targets)) == (foes, targets), row
    assert (board.state, board.digest()) == (before, digest)
    return found


@given(armies(), st.sampled_from(["ours", "theirs"]))
def test_every_prospect_is_as_if_the_unit_were_put_there(board, side):
    assume(side in board.sides)
    found = check(board, side)
    for place, unit in enumerate(found.units):
        same = found.of(unit)
        assert list(same) == [row for row in found if row.unit == unit]
        assert (found.owner == place).sum() == len(same)


@given(armies(), st.booleans())
def test_foes_may_move_by_any_rules_also_at_no_cost(board, free):
    rules = board.unit("a").movement
    if free:
        rules = dataclasses.replace(rules, costs={"turf": 0})
    for unit in board.units("theirs") if "theirs" in board.sides else ():
        with contextlib.suppress(us.UnderstepError):  # not where it stands
            board.set_unit(unit.name, movement=rules)
    check(board, "ours")


@given(armies(), st.data())
def test_prospects_in_fog_are_those_of_what_the_side_knows(board, data):
    side = data.draw(st.sampled_from(board.sides))
    for unit in board.units():
        board.set_unit(unit.name, sight=data.draw(st.integers(0, 3)))
    us.fog(board, side)
    unit = data.draw(st.sampled_from(board.units()))
    for cell in data.draw(st.permutations(list(us.reach(board, unit.name, known_to=False).cells)))[
        :2
    ]:
        board.put(unit.name, at=cell)
    check(board, side)


@given(armies(), st.data())
def test_what_if_takes_any_cell_that_the_unit_could_stand_on(board, data):
    unit = board.unit("a")
    found = us.prospects(board, "ours", units=["a"])
    reach = us.reach(board, "a")
    for cell in data.draw(st.permutations(list(board.grid)))[:4]:
        if not board.can_stand("a", cell):
            with pytest.raises(us.errors.InputError, match="could not stand there"):
                found.at("a", [unit.at, cell])
            continue
        (row,) = found.at("a", cell)
        foes, targets = asked(board, "ours", "a", cell)
        assert (set(row.foes), set(row.targets)) == (foes, targets)
        if cell in reach:
            assert (row.cost, row.turn) == (float(reach[cell].cost), 1)
        else:
            assert np.isnan([row.cost, row.left]).all()
            assert row.turn == 0


@given(armies(), st.data())
def test_other_columns_are_what_stands_fields_and_views_say(board, data):
    goals = data.draw(st.lists(st.sampled_from(list(board.grid)), min_size=1, max_size=3))
    for unit in board.units():
        board.set_unit(unit.name, sight=data.draw(st.sampled_from([None, 1, 2])))
    found = us.prospects(board, "ours")
    distance, cover, unseen = found.distance(goals), found.cover, found.unseen
    now = us.view(board, side="ours")
    for row, prospect in enumerate(found):
        value = us.field(board, prospect.unit, goals).get(prospect.cell)
        assert np.isnan(distance[row]) if not value else distance[row] == float(value.value)
        unit = board.unit(prospect.unit)
        covered = board.covered(unit, prospect.cell)
        assert cover[row] == min(board.terrains[board.terrain(cell)].cover for cell in covered)
        with board.trial():
            board.put(unit.name, at=prospect.cell)
            seen = us.view(board, unit.name)
        assert unseen[row] == len([cell for cell in seen if cell not in now])


@st.composite
def melees(draw):
    """Units of simple rules close together, in the way of one another."""
    cols, rows = draw(st.integers(2, 8)), draw(st.integers(1, 6))
    grid = draw(
        st.sampled_from([
            us.HexGrid(cols, rows), us.HexGrid(cols, rows, top="flat"), us.SquareGrid(cols, rows),
            us.SquareGrid(cols, rows, diagonals=True),
        ])
    )  # fmt: skip
    board = us.Board(
        grid, {"turf": 1, "mud": 2, "ruin": us.Terrain(None, cover=2)},
        edges={"wall": us.Edge(blocks=True)},
    )  # fmt: skip
    places = draw(st.permutations(list(grid)))
    for cell in draw(st.lists(st.sampled_from(places), max_size=6)):
        for other in list(grid.neighbors(cell))[:1]:
            board.set_edge(cell, other, "wall", both=draw(st.booleans()))
    heed = draw(st.sampled_from([["ignore"], ["end", "end", "ignore"], [1, "end"]]))
    for kind in ("mud", "ruin"):
        board.paint(kind, [cell for cell in grid if draw(st.integers(0, 5)) == 0])
    for number, cell in enumerate(places[: draw(st.integers(1, 7))]):
        low = draw(st.sampled_from([0, 1, 1, 2]))
        attack = us.Attack(
            low, low + draw(st.sampled_from([0, 1, 2, 70])), sight=draw(st.booleans()),
            affects=draw(st.sampled_from(["foe", "foe", "friend", "anyone"])),
        )  # fmt: skip
        rules = us.Movement(
            draw(st.sampled_from([0, 1, 2, 4, 2.5])), passes=draw(st.sampled_from(["own", "none"])),
            layer=draw(st.sampled_from(["ground", "ground", "ground", "air"])),
            footprint=draw(st.sampled_from([[(0, 0)]] * 5 + [[(0, 0), (1, 0)]])),
            zones=draw(st.sampled_from(heed)), guards=draw(st.integers(0, 3)) > 0,
            corners=draw(st.sampled_from(["free", "both"])),
        )  # fmt: skip
        left = draw(st.sampled_from([None, None, 0, 1, 9]))
        side = draw(st.sampled_from(["ours", "theirs", "others"]))
        unit = us.Unit(f"u{number}", side, rules, attack=attack, left=left)
        if board.can_stand(unit, cell):
            board.add(unit, at=cell)
    return board


@given(melees(), st.data())
def test_rows_of_simple_rules_are_of_the_board_as_it_was(board, data):
    assume(board.sides)
    side = data.draw(st.sampled_from(board.sides))
    check(board, side)
    found, then = us.prospects(board, side), board.copy()
    for unit in board.units():
        board.put(unit.name, at=data.draw(st.sampled_from(list(us.reach(board, unit.name).cells))))
    board.paint("mud", data.draw(st.sampled_from(list(board.grid))))
    us.threats(board, side)
    for row in found:
        assert (set(row.foes), set(row.targets)) == asked(then, side, row.unit, row.cell), row


def test_a_foe_that_gets_almost_everywhere_is_found_in_one_go_as_well():
    board = us.Board(us.HexGrid(40, 24), {"turf": 1, "ruin": None})
    board.paint("ruin", [(20, row) for row in range(23)])
    bow = us.Attack(1, 3)
    for name, side, points, cell in (
        ("scout", "ours", 1, (19, 22)), ("pikes", "ours", 1, (36, 12)),
        ("raider", "theirs", 100, (30, 12)), ("lookout", "theirs", 1, (0, 0)),
    ):  # fmt: skip
        board.add(us.Unit(name, side, us.Movement(points), attack=bow), at=cell)
    found = check(board, "ours")
    closing = found.at("scout", [(20, 23), (3, 2), (20, 23)])  # the only way past the ruin
    assert [row.foes for row in closing] == [("raider",), ("raider", "lookout"), ("raider",)]


def test_what_a_unit_holds_keeps_a_foe_away_from_it_and_goes_with_it():
    board = us.Board(us.SquareGrid(8, 1), {"turf": 1})
    board.add(us.Unit("scout", "ours", us.Movement(4)), at=(3, 0))
    heeds = us.Movement(2, zones=1)
    board.add(us.Unit("raider", "theirs", heeds, attack=us.Attack(1, 3)), at=(0, 0))
    exposed = {row.cell[0] for row in check(board, "ours") if row.foes}
    assert exposed == {1, 2, 3, 4, 5}  # at (5, 0) from where it stood beside
    board.set_unit("raider", attack=us.Attack())
    exposed = {row.cell[0] for row in check(board, "ours") if row.foes}
    assert exposed == {1, 2}  # the step to (2, 0) would cost more, were it at (3, 0)


@pytest.mark.parametrize("zones", ["end", 1])
def test_who_heeds_what_a_large_unit_holds_may_pass_it(zones):
    board = us.Board(us.HexGrid(9, 3), {"turf": 1})
    foot = us.Movement(5, zones=zones, passes="all")
    for name, side, cell, rules in (
        ("ox-cart", "ours", (4, 1), us.Movement(1, footprint=us.Footprint([(0, 0), (1, 0)]))),
        ("scout", "ours", (8, 1), us.Movement(2)), ("raider", "theirs", (0, 1), foot),
    ):  # fmt: skip
        board.add(us.Unit(name, side, rules, attack=us.Attack()), at=cell)
    check(board, "ours")


def test_a_cell_where_a_foe_stood_can_be_entered_when_it_is_gone():
    board = us.Board(us.SquareGrid(4, 4, diagonals=True), {"turf": 1})
    foot = us.Movement(9, diagonal=1.5)  # by steps
    for name, side, cell in (("scout", "ours", (3, 3)), ("raider", "theirs", (0, 0))):
        board.add(us.Unit(name, side, foot, attack=us.Attack()), at=cell)
    assert us.prospects(board, "ours").exposure.any()
    board.put("raider", at=(3, 0))
    assert len(us.reach(board, "scout")) == 15


def skirmish():
    """A board by the sluice, three a side."""
    board = us.Board(us.HexGrid(12, 9), {"turf": 1, "mud": 2, "ruin": us.Terrain(None, cover=1)})
    board.paint("ruin", [(5, 2), (5, 3), (6, 6)])
    board.paint("mud", [(4, 5), (7, 4)])
    bow, blade = us.Attack(2, 3), us.Attack()
    for number in range(3):
        for side, col in (("wardens", 2), ("wreckers", 9)):
            attack = bow if number == 1 else blade
            unit = us.Unit(f"{side[:4]} {number}", side, us.Movement(3), attack=attack)
            board.add(unit, at=(col, 2 + 2 * number))
    return board


def test_the_best_rows_are_those_of_the_highest_score():
    board = skirmish()
    found = us.prospects(board, "wardens")
    best = found.best(lambda each: 10 * each.targets.sum(axis=1) - each.exposure - each.cost / 9)
    assert list(best) == list(found.units)
    for name, row in best.items():
        rows = [each for each in found if each.unit == name]
        scores = [10 * len(each.targets) - len(each.foes) - each.cost / 9 for each in rows]
        assert row == rows[scores.index(max(scores))]
    assert found.best(lambda each: np.full(len(each), np.nan)) == {}
    for score, rule in ((lambda _: 3, "must return"), (lambda _: "best", "must return numbers")):
        with pytest.raises(us.errors.InputError, match=rule):
            found.best(score)


def test_prospects_keep_what_was_asked_and_say_when_it_is_stale():
    board = skirmish()
    found = us.prospects(board, "wardens")
    same = us.prospects(board, "wardens")
    rows = list(same)
    board.put("wrec 0", at=(8, 2))
    assert found.stale
    assert list(found) == rows  # worked out later, of the board as it was
    assert list(pickle.loads(pickle.dumps(found))) == rows
    assert list(copy.deepcopy(found)) == rows
    assert found.plain()["rows"][0]["cell"] == [2, 2]
    assert found.get((3, 2)).value[0] == next(row for row in rows if row.cell == (3, 2))
    assert {mark.role for mark in found.overlay().values()} == {"reach", "threat"}


def test_many_threads_find_the_same_prospects():
    board = skirmish()
    with ThreadPoolExecutor(4) as pool:
        for row in range(2, 8):
            board.put("wrec 0", at=(8, row))
            board.put("ward 2", at=(3, row))
            alone = {side: list(us.prospects(board.copy(), side)) for side in board.sides}
            found = pool.map(lambda side: (side, list(us.prospects(board, side))), board.sides * 8)
            assert all(alone[side] == rows for side, rows in found)


def test_what_prospects_refuse():
    board = skirmish()
    for call, rule in (
        (lambda: us.prospects(board, "nobody"), "side: must name a side"),
        (lambda: us.prospects(board, "wardens", units=["nobody"]), "unit"),
        (lambda: us.prospects(board, "wardens", units=["wrec 0"]), "units of the wardens"),
        (lambda: us.prospects(board, "wardens", units=["ward 0"] * 2), "named once"),
        (lambda: us.prospects(board, "wardens", turns=0), "turns: must be a whole number"),
        (lambda: us.prospects(board, "wardens").of("wrec 0"), "unit with prospects"),
        (
            lambda: us.prospects(board, "wardens").at("ward 0", (99, 0)),
            "cells: must lie on the board",
        ),
    ):
        with pytest.raises(us.errors.UnderstepError, match=rule):
            call()


def test_other_units_stay_in_the_way_of_foes():
    board = us.Board(us.SquareGrid(9, 1), {"turf": 1})
    for name, col in (("shield", 6), ("bearer", 0)):
        board.add(us.Unit(name, "ours", us.Movement(1)), at=(col, 0))
    far = us.Attack(1, 2)
    board.add(us.Unit("raider", "theirs", us.Movement(5), attack=far), at=(8, 0))
    found = us.prospects(board, "ours")
    assert {row.unit for row in found if row.foes} == {"shield"}


@pytest.mark.parametrize("rule", ["zones", "corners"])
def test_who_cannot_stand_beside_a_foe_changes_its_ways_all_the_same(rule):
    board = us.Board(us.SquareGrid(9, 3, diagonals=rule == "corners"), {"turf": 1, "reeds": None})
    board.paint("reeds", [(col, row) for col in range(9) for row in (1, 2)])
    wades = us.Movement(9, costs={"reeds": 1})
    far = us.Attack(4, 4, sight=False)
    if rule == "zones":  # the way to (5, 0) leads past (2, 1)
        foe, cell = us.Movement(5, zones="end"), (2, 1)
    else:  # the way to (4, 0) leads around (0, 1), which is too high to step on
        board.paint("reeds", (1, 0))
        board.paint("turf", [(0, 1), (1, 1), (2, 1)])
        board.set_elevation(5, (0, 1))
        foe, cell = us.Movement(9, corners="one", foe_corners=True, climb=1), (0, 1)
    board.add(us.Unit("scout", "ours", wades), at=(8, 2))
    board.add(us.Unit("raider", "theirs", foe, attack=far), at=(0, 0))
    (row,) = us.prospects(board, "ours").at("scout", cell)
    assert (
        (set(row.foes), set(row.targets)) == asked(board, "ours", "scout", cell) == (set(), set())
    )
    board.set_unit("raider", movement=us.Movement(9, corners="one", climb=1))
    assert us.prospects(board, "ours").at("scout", cell)[0].foes == ("raider",)


@pytest.mark.parametrize(("low", "layer", "cells"), [
    (2, "ground", {0, 1, 6, 7}), (1, "ground", {0, 1, 2, 5, 6, 7}), (1, "air", {0, 1, 2, 5, 6, 7}),
    (0, "air", set(range(8))),
])  # fmt: skip
def test_a_large_target_is_as_near_as_the_nearest_of_its_cells(low, layer, cells):
    board = us.Board(us.SquareGrid(8, 1), {"turf": 1})
    bow = us.Attack(low, 3)
    rules = us.Movement(9, layer=layer, passes="all")
    board.add(us.Unit("bow", "ours", rules, attack=bow), at=(0, 0))
    pair = us.Movement(0, footprint=us.Footprint([(0, 0), (1, 0)]))
    board.add(us.Unit("ox-cart", "theirs", pair), at=(3, 0))
    assert {row.cell[0] for row in check(board, "ours") if row.targets} == cells
