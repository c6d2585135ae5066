"""Walks: what was planned where all is known, and never more than the truth allows."""

import dataclasses
import random

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from reference import Reference, exactly
from samples import boards
from test_attacks import arm
from test_fog import edit

import understep as us


def planned(board, data):
    """A route somewhere else, of the unit "a"."""
    goal = data.draw(st.sampled_from(list(board.grid)))
    prefer = data.draw(st.sampled_from(["straight", "first"]))
    route = us.route(board, "a", goals=goal, prefer=prefer)
    assume(len(route.cells) > 1)
    return route


@given(boards(cells=24), st.data())
def test_a_walk_is_the_route_where_all_is_known(board, data):
    unit = board.unit("a")
    if board.grid.kind == "square" and not unit.movement.carry:
        rules = dataclasses.replace(unit.movement, diagonal="alternating", points=9)
        arm(board, unit, movement=rules, left=None)
    route, before = planned(board, data), board.state
    points, carry = (
        exactly(getattr(board.unit("a").movement, name)) for name in ("points", "carry")
    )
    steps = list(route.steps)
    turn = 1
    while steps:
        for _ in range(steps[0].turn - turn):  # wait for the turn of the next step
            left = board.unit("a").left
            left = points if left is None else exactly(left)
            board.set_left("a", points + min(left, carry))
        if data.draw(st.booleans()):
            # as the board has changed since, each step is worked out again
            board.title = f"turn {steps[0].turn}"
        turn, state = steps[0].turn, board.state
        walk = us.walk(board, "a", route)
        assert board.state == state
        strides = list(walk)
        due = [each for each in steps if each.turn == turn]
        assert [stride[:4] for stride in strides] == [
            (each.cell, each.direction, each.cost, each.left) for each in due
        ]
        assert [stride.passing for stride in strides][-1] is False
        assert all(us.explain(board, "a", s.cell).obstacles for s in strides if s.passing)
        steps = steps[len(due) :]
        assert walk.ending == ("turn" if steps else "arrived")
        assert walk.spent == pytest.approx(sum(stride.cost for stride in strides))
        assert board.unit("a").at == walk.cells[-1]
        with board.trial():  # what is left is what a new answer would count with
            assert us.reach(board, "a")[walk.cells[-1]].left == strides[-1].left
        after = board.state
        assert board.undo()
        assert board.state == state
        assert board.redo()
        assert board.state == after
    board.join(before)
    assert board.undo()
    assert board.state == before


@given(boards(cells=20, free_steps=False), st.data())
def test_a_walk_through_what_was_not_known_keeps_to_the_rules(board, data):
    for unit in board.units():
        board.remove(unit.name)
        sight = data.draw(st.sampled_from([0, 1, 2]))
        board.add(dataclasses.replace(unit, at=None, sight=sight), at=unit.at)
    us.fog(board, "ours", land_known=True)
    route = planned(board, data)
    for _ in range(data.draw(st.integers(1, 5))):
        edit(board, data.draw, [cell for cell in board.grid if cell != board.unit("a").at])
    board.forget()
    before, unit = board.state, board.unit("a")
    reference = Reference(board, "a", 1)
    walk = us.walk(board, "a", route)
    for stride in walk:
        assert (stride.seen is None) == stride.passing
        if not stride.passing:
            assert board.unit("a").at == stride.cell
            assert set(board.knowledge("ours").cells_seen("now")) == set(
                us.view(board, side="ours")
            )
    here, dear = unit.at, 0
    lacking = -exactly(unit.left)
    for there in walk.cells[1:]:
        found = [
            (after, way)
            for way, cell, price in reference.tables[dear][here] if cell == there
            for turn, after, _ in reference.arrive(0, lacking, there, price) if turn == 0
        ]  # fmt: skip
        assert found
        lacking, way = min(found, key=lambda each: each[0])
        here, dear = there, reference.after(dear, way)
    end = board.unit("a")
    assert (end.at, walk.cells[0]) == (walk.cells[-1], unit.at)
    if len(walk.cells) > 1:
        assert reference.meaning(end.at) == "stop"
        assert exactly(end.left) == exactly(-lacking)  # points left count like costs
    if walk.ending == "arrived":
        assert end.at == route.goal
    elif walk.ending in ("blocked", "ambush"):
        told = board.knowledge("ours").board
        hidden = [name for name in walk.blockers if name not in {u.name for u in told.units()}]
        assert bool(hidden) == (walk.ending == "ambush")
        assert walk.why
    assert walk.ending != "moved"
    if len(walk.cells) > 1:
        assert board.undo()
        assert not board.undo()
    assert board.state == before


def test_a_walk_takes_no_link_that_is_gone():
    board = us.Board(us.HexGrid(9, 5), {"turf": 1})
    board.link((1, 2), (7, 2), 1)
    board.add(us.Unit("scout", "wardens", us.Movement(4)), at=(0, 2))
    route = us.route(board, "scout", (7, 2))
    assert route.cost == 2
    board.unlink((1, 2), (7, 2))
    walk = us.walk(board, "scout", route).finish()
    assert (walk.ending, tuple(walk.cells[-1])) == ("blocked", (1, 2))
    assert walk.why == "no step leads from (1, 2) to (7, 2)"


@pytest.mark.parametrize(("points", "ending"), [(4, "arrived"), (3.5, "points"), (5, "arrived")])
def test_a_step_can_take_the_last_points(points, ending):
    board = us.Board(us.HexGrid(9, 5), {"turf": 1, "mud": 2})
    board.paint("mud", (3, 2))
    board.add(us.Unit("scout", "wardens", us.Movement(9)), at=(1, 2))
    route = us.route(board, "scout", (4, 2))
    board.set_left("scout", points)
    assert route.cost == 4
    walk = us.walk(board, "scout", route).finish()
    assert (walk.ending, board.unit("scout").left) == (ending, points - walk.spent)


@pytest.mark.parametrize("levels", [4, 400])  # with few costs codes are narrow, with many wide
@pytest.mark.parametrize("kind", ["square", "hex"])
def test_steps_over_walls_and_slopes_are_worked_out_as_the_route_has_them(kind, levels):
    rng, walked = random.Random(5), 0
    kinds = {"wall": us.Edge(blocks=True), "bank": us.Edge(add=1)}
    for number in range(6):
        grid = us.HexGrid(16, 16) if kind == "hex" else us.SquareGrid(16, 16, diagonals=True)
        board, cells = us.Board(grid, {"turf": 1, "mud": 2, "deep": None}, edges=kinds), [*grid]
        for name in ("mud", "deep"):
            board.paint(name, rng.sample(cells, 30))
        board.set_elevation([rng.randrange(levels) / levels for _ in cells], cells)
        for cell in rng.sample(cells, 60):
            board.set_edge(cell, rng.choice(grid.neighbors(cell)), rng.choice(["wall", "bank"]))
        rules = us.Movement(30, diagonal=1.5, corners="one", climb=0.8, uphill=1, passes="own")
        free = [cell for cell in cells if board.terrain(cell) != "deep"]
        board.add(us.Unit("scout", "wardens", rules), at=free.pop(rng.randrange(len(free))))
        for each in range(20):
            pikes = us.Unit(f"pikes{each}", "wardens", us.Movement(4))
            board.add(pikes, at=free.pop(rng.randrange(len(free))))
        if number % 2:  # what the route was found by is not what it is walked by
            us.fog(board, "wardens", land_known=True)
        route = us.route(board, "scout", rng.sample(free, 3), turns=1)
        walk, due = us.walk(board, "scout", route), list(route.steps)
        board.title = "changed"  # so that no step is taken from the route
        for stride in walk:
            step = due.pop(0)
            assert stride[:4] == (step.cell, step.direction, step.cost, step.left)
            board.title, walked = f"after {walked} steps", walked + 1
        assert not due
        if route.steps:
            board.put("scout", at=route.cells[0])
            board.set_left("scout", None)
            board.set_edge(*route.cells[:2], "wall")
            assert us.walk(board, "scout", route).finish().ending == "blocked"
            board.set_edge(*route.cells[:2], None)
            if board.unit_at(route.cells[1]) is None:
                board.add(us.Unit("foe", "wreckers", rules), at=route.cells[1])
                assert us.walk(board, "scout", route).finish().ending == "blocked"
    assert walked > 15


def test_how_a_walk_ends_and_what_it_refuses():
    board = us.Board(us.SquareGrid(12, 3), {"turf": 1, "mud": 4})
    board.add(us.Unit("scout", "wardens", us.Movement(6), sight=1, facing="N"), at=(0, 1))
    board.add(us.Unit("pikes", "wreckers", us.Movement(4)), at=(5, 1))
    board.block([(col, row) for col in range(12) for row in (0, 2)])
    us.fog(board, "wardens", land_known=True)
    route = us.route(board, "scout", goals=(9, 1))
    before = board.state
    walk = us.walk(board, "scout", route)
    assert next(walk).cell == (1, 1)
    board.title = "a trap went off"
    walk.finish()
    assert (walk.ending, walk.blockers, walk.cells[-1]) == ("blocked", ("pikes",), (4, 1))
    assert (board.unit("scout").facing, walk.spent) == ("E", 4)
    assert board.undo()
    assert (board.state, board.title) == (before, "")
    assert board.unit("scout").facing == "N"
    blind = dataclasses.replace(board.remove("scout"), sight=0, facing=None)
    board.add(blind, at=(0, 1))
    walk = us.walk(board, "scout", us.route(board, "scout", goals=(9, 1))).finish()
    assert walk.plain()["ending"] == "ambush"
    assert board.unit("scout").facing == "E"  # it faces where it went
    assert walk.why == "'pikes' of the wreckers stands on (5, 1)"
    board.put("pikes", at=(11, 1))
    board.paint("mud", (5, 1))  # unseen; the plan counts on turf
    walk = us.walk(board, "scout", us.route(board, "scout", goals=(6, 1), known_to=False)).finish()
    assert (walk.ending, list(walk)) == ("turn", [])  # the route waits for the next
    again = us.walk(board, "scout", us.route(board, "scout", goals=(6, 1))).finish()
    assert (again.ending, again.why) == (
        "points", "the step to (5, 1) takes 4 points, and 2 are left"
    )  # fmt: skip
    board.set_left("scout", None)
    walk = us.walk(board, "scout", us.route(board, "scout", goals=(8, 1)))
    next(walk)
    board.put("scout", at=(0, 1))
    assert walk.finish().why == "'scout' is on (0, 1), not on (5, 1)"
    for call, rule in (
        (lambda: us.walk(board, "pikes", route), "route: was found for 'scout'"),
        (lambda: us.walk(board, "scout", us.route(board, "scout", (0, 0))), "that was found"),
        (lambda: us.walk(board, "scot", route), "did you mean 'scout'"),
    ):
        with pytest.raises(us.errors.InputError, match=rule):
            call()
    board.put("scout", at=(11, 1)) if board.unit_at((11, 1)) is None else board.put(
        "scout", at=(10, 1)
    )
    with pytest.raises(us.errors.InputError, match="does not lead over"):
        us.walk(board, "scout", route)


def test_every_second_diagonal_step_of_a_walk_costs_double():
    board = us.Board(us.SquareGrid(8, 8, diagonals=True), {"turf": 1})
    rules = us.Movement(8, diagonal="alternating")
    board.add(us.Unit("scout", "wardens", rules), at=(0, 0))
    walk = us.walk(board, "scout", us.route(board, "scout", goals=(6, 5)))
    strides = list(walk)
    costs = {True: [], False: []}
    for before, stride in zip(walk.cells, strides, strict=False):
        diagonal = before.col != stride.cell.col and before.row != stride.cell.row
        costs[diagonal].append(stride.cost)
    assert costs[False] in ([], [1])
    assert costs[True] == [1, 2, 1, 2, 1][: len(costs[True])]
    assert (walk.spent, board.unit("scout").left) == (sum(map(sum, costs.values())), 8 - walk.spent)
