"""Two ways of saying the same rule give the same answers."""

import math
import random
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from reference import Reference
from samples import LEAPS, boards

import understep as us

turns = st.integers(1, 3)


def told(board, count):
    reach = us.reach(board, "a", turns=count)
    return {cell: (reach[cell][1:], tuple(reach.route_to(cell).cells)) for cell in reach}


def changed(board, **facts):
    """The unit with other rules."""
    unit = board.unit("a")
    board.remove("a")
    board.add(replace(unit, movement=replace(unit.movement, **facts), at=None), at=unit.at)


def with_cliffs(board):
    """An empty board of the same kind, whose terrains include an impassable one."""
    terrain = {**board.terrains, "cliff": us.Terrain(None)}
    return us.Board(
        board.grid,
        terrain,
        fill=None,
        edges=board.edge_kinds,
        features=board.feature_kinds,
        properties=board.properties,
    )


def copy_onto(other, board, cliffs=()):
    """Put all that is on a board onto another one that has its cells, with cliffs on some."""
    for name in board.terrains:
        other.paint(name, [cell for cell in board.grid if board.terrain(cell) == name])
    other.paint("cliff", cliffs)
    cells = list(board.grid)
    other.set_elevation([float(board.elevation[board.grid.index(cell)]) for cell in cells], cells)
    other.set_value("depth", [board.value("depth", cell) for cell in cells], cells)
    for side in (None, "ours", "theirs"):
        other.block(board.blocks(side=side), side=side)
    for placed in board.features():
        other.place(*placed)
    for edge in board.edges():
        other.set_edge(edge.a, edge.b, edge.kind, both=edge.both, is_open=edge.is_open)
    for link in board.links():
        other.link(link.a, link.b, link.cost, both=link.both, kind=link.kind)
    for unit in board.units():
        other.add(unit, at=unit.at)


@given(boards(cells=25), turns)
def test_impassable_ground_all_around_is_like_the_end_of_the_board(board, count):
    assume(not isinstance(board.unit("a").movement.costs, (int, float)))
    (left, top), (cols, rows) = board.grid.first, board.grid.size
    whole = us.maps.resize(
        with_cliffs(board), cols + 2, rows + 2, first=(left - 1, top - 1), fill="cliff"
    )
    copy_onto(whole, board)
    if board.unit("a").movement.corners == "free":  # a cliff can be cut past, the end cannot
        changed(whole, corners="one")
        changed(board, corners="one")
    assert told(whole, count) == told(board, count)


@given(boards(), turns)
def test_a_rule_that_repeats_the_costs_changes_nothing(board, count):
    assume(board.unit("a").movement.rule is None)
    before = told(board, count)
    changed(board, rule=lambda site: site.cost)
    assert told(board, count) == before
    changed(board, rule=None, costs={name: kind.cost for name, kind in board.terrains.items()})
    assert told(board, count) == before


@given(boards(), turns, st.sampled_from([0, 1, 2.5]))
def test_one_cost_for_all_is_that_cost_for_each(board, count, cost):
    assume(board.unit("a").movement.rule is None)
    changed(board, costs=cost)
    before = told(board, count)
    changed(board, costs=dict.fromkeys(board.terrains, cost))
    assert told(board, count) == before


@given(boards(), turns, st.data())
def test_a_block_for_the_side_is_one_for_all_and_like_impassable_ground(board, count, data):
    # planks over impassable ground bear, a block closes them
    free = [c for c in board.grid if board.unit_at(c) is None and not board.features(c)]
    assume(free)
    changed(board, leap=None)  # ground can be leapt over, a block cannot
    chosen = data.draw(st.lists(st.sampled_from(free), min_size=1))
    answers = []
    for to in ("ours", None):
        with board.trial():
            board.block(chosen, side=to)
            answers.append(told(board, count))
    other = with_cliffs(board)
    assume(board.unit("a").movement.rule is None)
    copy_onto(other, board, chosen)
    assert [told(other, count)] * 2 == answers


@given(boards(), turns, st.sampled_from([1, 0.5]))
def test_a_zone_that_costs_extra_is_ground_that_costs_more(board, count, extra):
    for edge in board.edges():
        board.set_edge(edge.a, edge.b, None)
    for link in board.links():
        board.unlink(link.a, link.b, both=link.both)
    plain = {"footprint": ((0, 0),), "one_step": False, "rule": None, "diagonal": 1, "leap": None}
    changed(board, zones=extra, **plain)
    before = told(board, count)
    held = set()
    for other in board.units():
        if other.side != "ours" and other.movement.guards and other.layer == "ground":
            held |= set(board.grid.neighbors(other.at))
    board.set_value("depth", 0, board.grid.cells)
    if held:
        board.set_value("depth", 1, held)
    changed(
        board,
        zones="ignore",
        rule=lambda site: None if site.cost is None else site.cost + extra * site.values["depth"],
    )
    assert told(board, count) == before


@given(boards(), turns, st.sampled_from(LEAPS))
def test_leaps_are_links_to_wherever_they_lead(board, count, leap):
    changed(board, leap=leap, footprint=((0, 0),))
    for link in board.links():  # of two ways from cell to cell a board keeps one
        board.unlink(link.a, link.b, both=link.both)
    truth, before = Reference(board, "a", 1), told(board, count)
    areas = us.areas(board, "a").table()
    goal = list(board.grid)[-1]
    field = us.field(board, "a", [goal]).table()
    changed(board, leap=None)
    for cell, ends in truth.leaps.items():
        for end in ends:
            board.link(cell, end, leap.cost, both=False)
    assert told(board, count) == before
    assert np.array_equal(us.field(board, "a", [goal]).table(), field, equal_nan=True)
    assert np.array_equal(us.areas(board, "a").table(), areas)


@given(boards(free_steps=False), st.data())
def test_with_all_points_carried_over_a_cell_takes_the_turns_that_its_points_take(board, data):
    for unit in board.units():
        if unit.name != "a":
            board.remove(unit.name)
    points = data.draw(st.sampled_from([1, 2, 3.5]))
    changed(board, points=points, carry=10**4, diagonal=1, one_step=False)
    board.set_left("a", None)
    reach = us.reach(board, "a", turns=None)
    for cell in reach:
        cost = us.field(board, "a", [cell])[board.unit("a").at]
        assert reach[cell].cost == pytest.approx(cost)
        assert reach[cell].turn == max(1, math.ceil(cost / points - 1e-9))


@given(boards(kinds=["square8"]), turns)
def test_alternating_diagonals_lie_between_single_and_double_ones(board, count):
    reaches = []
    for diagonal in (1, "alternating", 2):
        changed(board, diagonal=diagonal, carry=0)
        reach = us.reach(board, "a", turns=count)
        reaches.append({cell: (reach[cell].turn, -reach[cell].left) for cell in reach})
        for (
            cell
        ) in reach:  # of ways that end before a cheap diagonal step or a dear one, the cheaper
            assert reach.route_to(cell).cost == reach[cell].cost
    single, alternating, double = reaches
    assert double.keys() <= alternating.keys() <= single.keys()
    assert all(single[cell] <= alternating[cell] for cell in alternating)
    assert all(alternating[cell] <= double[cell] for cell in double)


@pytest.mark.parametrize("start", [(0, 0), (3, 2)])
def test_alternating_diagonals_on_open_ground_cost_what_they_say(start):
    board = us.Board(us.SquareGrid(9, 8, diagonals=True), {"turf": 1})
    board.add(us.Unit("a", "ours", us.Movement(99, diagonal="alternating")), at=start)
    reach, field = us.reach(board, "a"), us.field(board, "a", [start])
    for cell in board.grid:
        across, down = (abs(a - b) for a, b in zip(cell, start, strict=True))
        many = min(across, down)
        assert reach[cell].cost == field[cell] == max(across, down) + many // 2
        assert sum(step.cost == 2 for step in reach.route_to(cell).steps) == many // 2


def test_of_two_ways_as_good_at_their_end_the_one_that_wasted_less_is_the_cost():
    """One ends before a cheap diagonal step, the other before a dear one."""
    legend = {".": "turf", "%": "mud", "o": "deep"}
    rows = [".%%%", "oo..", ".%oo", "%oo."]
    terrain = {"turf": 1, "mud": 2, "deep": None}
    board = us.maps.read_text(rows, legend, terrain, grid=us.SquareGrid, diagonals=True)
    rules = us.Movement(2, diagonal="alternating", corners="one")
    board.add(us.Unit("a", "ours", rules), at=(0, 0))
    reach = us.reach(board, "a", turns=3)
    assert (
        reach[(3, 0)].cost == reach.route_to((3, 0)).cost == us.route(board, "a", (3, 0)).cost == 5
    )


def test_a_name_alone_is_a_list_of_one():
    fen = us.maps.shipped("fen")
    lead, grid = us.behaviors, fen.grid
    for ask, name in (
        (lambda names: us.prospects(fen, "wardens", units=names), "scout"),
        (lambda names: us.reaches(fen, names)["scout"], "scout"),
        (lambda names: us.threats(fen, "wardens", without=names), "prowler"),
        (lambda names: us.stands(fen, "pikes", "billhooks", order=names), "cover"),
        (lambda names: lead.approach(fen, "pikes", targets=names), "billhooks"),
        (lambda names: lead.approach(fen, "pikes", order=names), "exposure"),
        (lambda names: lead.coordinate(fen, names, [(9, 6), (9, 7)]), "scout"),
        (lambda names: us.study.survey({"fen": fen}, names), "size"),
    ):
        assert ask(name).plain() == ask([name]).plain(), name
    assert us.Leap(terrains="mud") == us.Leap(terrains=["mud"])
    assert us.Terrain(closed_to="wardens") == us.Terrain(closed_to=["wardens"])
    assert us.Turns(fen, "wardens").sides == ("wardens",)
    assert grid.flags("NE") == grid.flags(["NE"])


def test_truths_of_numpy_and_generators_of_python_are_as_good():
    fen, yes = us.maps.shipped("fen"), np.bool_(True)
    assert us.Edge(blocks=yes, door=yes) == us.Edge(blocks=True, door=True)
    assert us.Edge(blocks=yes).blocks is True
    assert us.Feature(hides=yes) == us.Feature(hides=True)
    assert us.Movement(3, one_step=yes) == us.Movement(3, one_step=True)
    assert us.Attack(sight=~yes) == us.Attack(sight=False)
    assert us.SquareGrid(3, 3, diagonals=yes) == us.SquareGrid(3, 3, diagonals=True)
    assert len(us.attacks(fen, "pikes", moving=~yes)) < len(us.attacks(fen, "pikes"))
    chance, again = random.Random("7 fen"), random.Random("7 fen")
    ends = [us.behaviors.wander(fen, "scout", chance).end for _ in range(9)]
    assert ends == [us.behaviors.wander(fen, "scout", again).end for _ in range(9)]
    assert len(set(ends)) > 1
