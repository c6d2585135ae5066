"""Routes to several goals, near something, through cells; suppositions; answers that grow old."""

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from reference import Reference
from samples import boards

import understep as us


@given(boards(), st.integers(1, 3), st.data())
def test_the_best_of_several_goals_is_found(board, turns, data):
    truth = Reference(board, "a", turns)
    goals = data.draw(st.lists(st.sampled_from(list(board.grid)), min_size=1, max_size=9))
    route = us.route(board, "a", goals=goals, turns=turns)
    known = [(truth.best[goal], place) for place, goal in enumerate(goals) if goal in truth.best]
    assert bool(route) == bool(known)
    if known:
        assert route.goal == goals[min(known)[1]]
        same = us.route(board, "a", goals=route.goal, turns=turns)
        assert (route.cells, route.plain()) == (same.cells, same.plain())
    else:
        unit, far = board.unit("a"), board.grid.distance  # of a large unit the nearest cell counts
        gaps = {
            cell: min(min(far(each, goals)) for each in board.covered(unit, cell))
            for cell in truth.best
        }
        assert gaps[route.nearest] == min(gaps.values())
        assert route.why
    near = us.route(board, "a", goals=goals, turns=turns, accept="nearest")
    assert near.goal == (route.goal if route else route.nearest)
    assert (bool(near), bool(near.shortfall)) == (True, not route)


@given(boards(), st.data())
def test_a_band_of_distance_counts_the_nearest_cells_of_both(board, data):
    truth = Reference(board, "a", 2)
    low = data.draw(st.integers(0, 3))
    high = low + data.draw(st.integers(0, 2))
    what = data.draw(st.sampled_from([unit.name for unit in board.units()] + list(board.grid)))
    target = list(board.covered(board.unit(what))) if isinstance(what, str) else [what]

    def gap(anchor):
        cells = [cell for cell in truth.areas[anchor] if cell is not None]
        return min(board.grid.distance(a, b) for a in cells for b in target)

    band = {cell for cell in truth.best if low <= gap(cell) <= high}
    route = us.route(board, "a", goals=us.within(what, low, high), turns=2)
    assert bool(route) == bool(band)
    if band:
        assert route.goal in band
        assert truth.best[route.goal] == min(truth.best[cell] for cell in band)
    if not isinstance(what, str):
        one = us.route(board, "a", goals=us.within(what, 1, 1), turns=2)
        other = us.route(board, "a", goals=what, turns=2, accept="adjacent")
        assert one.plain() == other.plain()


@given(boards(), st.data())
def test_a_supposed_place_answers_as_if_it_stood_there(board, data):
    cell = data.draw(st.sampled_from(list(board.grid)))
    left = data.draw(st.sampled_from([None, 0, 1, 2.5, 9]))
    who = board.unit("a")
    free = all(board.unit_at(each, layer=who.layer) is None or board.unit_at(each, layer=who.layer).name == "a"
               for each in board.covered(who, cell) if each in board.grid)  # fmt: skip
    assume(free and not board._units.hindrance(who, cell))
    supposed = us.reach(board, "a", turns=2, at=cell, left=left)
    goal = data.draw(st.sampled_from(list(board.grid)))
    route = us.route(board, "a", goals=goal, at=cell, left=left)
    others = us.reaches(board, threads=2)
    assert {name: reach.plain() for name, reach in others.items()} == {
        unit.name: us.reach(board, unit.name).plain() for unit in board.units()
    }
    if left is not None:
        board.set_left("a", left)
    board.put("a", at=cell)
    assert supposed.plain() == us.reach(board, "a", turns=2).plain()
    assert route.plain() == us.route(board, "a", goals=goal).plain()


@given(boards(), st.data())
def test_legs_of_a_route_are_each_the_best_from_where_the_last_one_ended(board, data):
    picks = st.sampled_from(list(board.grid))
    via, goal = data.draw(st.lists(picks, max_size=3)), data.draw(picks)
    turns = data.draw(st.sampled_from([None, 2, 3]))
    route = us.route(board, "a", goals=goal, via=via, turns=turns)
    at, left, done, cost, cells = board.unit("a").at, board.unit("a").left, 0, 0, []
    for cell in [*via, goal]:
        board.set_left("a", left)
        board.put("a", at=at)
        truth = Reference(board, "a", 4)
        if cell not in truth.best or (turns and done + truth.best[cell][0] >= turns):
            if not turns and len(us.reach(board, "a", turns=None)) > len(truth.best):
                return  # it takes more turns than were tried
            assert not route
            assert route.why
            return
        turn, lacking = truth.best[cell]
        leg = us.route(board, "a", goals=cell)
        cost, cells, done = cost + leg.cost, cells + list(leg.cells), done + turn
        at, left = cell, -lacking
    assert (route.turns, route.cost) == (done + 1, pytest.approx(cost))
    assert route.cells[-1] == goal
    if route.steps:
        assert route.steps[-1].left == pytest.approx(float(left))
    rest = list(route.cells)
    for cell in [*via, goal]:
        rest = rest[rest.index(cell) :]


@given(boards(cells=49), st.data())
def test_an_answer_that_says_it_still_holds_does(board, data):
    """After any edit, an answer that is not stale equals a new one."""
    reach = us.reach(board, "a", turns=data.draw(st.integers(1, 2)))
    before = reach.plain()
    far = data.draw(st.sampled_from(list(board.grid)))
    kind = data.draw(st.sampled_from(["paint", "block", "link", "move", "level", "wall", "title"]))
    other = data.draw(st.sampled_from(list(board.grid)))
    try:
        if kind == "paint":
            board.paint(data.draw(st.sampled_from(list(board.terrains))), far)
        elif kind == "block":
            board.block(far)
        elif kind == "link":
            board.link(far, other, cost=1)
        elif kind == "move":
            board.put(data.draw(st.sampled_from([unit.name for unit in board.units()])), at=far)
        elif kind == "level":
            board.set_elevation(data.draw(st.sampled_from([0, 1, 5])), far)
        elif kind == "wall":
            board.lay_around("wall", far)
        else:
            board.title = "another"
            assert not reach.stale
    except us.errors.InputError:
        assume(False)
    if not reach.stale:
        assert us.reach(board, "a", turns=before["turns"]).plain() == before


def test_an_edit_far_away_leaves_an_answer_as_it_is():
    board = us.Board(us.HexGrid(30, 30), {"turf": 1, "mud": 3})
    board.add(us.Unit("scout", "wardens", us.Movement(points=3)), at=(5, 5))
    reach = us.reach(board, "scout")
    board.paint("mud", (20, 20))
    assert not reach.stale
    board.paint("mud", (6, 5))
    assert reach.stale
    board.undo()
    assert not reach.stale


@given(boards(), st.data())
def test_a_route_is_the_same_whether_the_areas_are_known_or_not(board, data):
    some = st.lists(st.sampled_from(list(board.grid)), min_size=1, max_size=3)
    for _ in range(3):
        goals, turns = data.draw(some), data.draw(st.sampled_from([None, 2]))
        before = us.route(board.copy(), "a", goals, turns=turns)
        us.areas(board, "a")
        after = us.route(board, "a", goals, turns=turns)
        assert after.plain() == before.plain()
        near = us.route(board, "a", goals, turns=turns, accept="nearest")
        wanted = before.goal if before else before.nearest
        gaps = [board.grid.distance(cell, goals).min() for cell in (near.goal, wanted)]
        assert gaps[0] == gaps[1]  # of equally near cells either will do
        for cell in goals:  # what is known of areas goes with the ground
            if board.unit_at(cell) is None:
                board.paint(data.draw(st.sampled_from(list(board.terrains))), cell)


def test_what_is_refused_and_what_is_told():
    board = us.Board(us.SquareGrid(9, 1), {"turf": 1, "deep": None})
    board.add(us.Unit("scout", "wardens", us.Movement(points=4)), at=(0, 0))
    board.paint("deep", (6, 0))
    route = us.route(board, "scout", goals=(8, 0))
    assert (route.expanded, route.nearest) == (6, (5, 0))
    assert 0 < route.seconds < 60
    near = us.route(board, "scout", goals=(8, 0), accept="nearest")
    hint = "straight ahead 'deep' at (6, 0) is impassable for 'scout'"
    assert (near.goal, near.shortfall) == ((5, 0), f"no route from (0, 0) to (8, 0); {hint}")
    assert tuple(near.cells) == tuple((col, 0) for col in range(6))
    again = us.route(board, "scout", goals=(8, 0))
    assert (again.expanded, again.plain()) == (0, route.plain())  # another area, it is known now
    why = f"no route leads over the terrain from (0, 0) to any of 2 cells; {hint}"
    assert us.route(board, "scout", goals=[(8, 0), (7, 0)]).why == why
    assert us.route(board, "scout", goals=us.within((8, 0), 90, 99)).why == (
        "there is no such cell on the board"
    )
    out = us.route(board, "scout", goals=(2, 0), via=[(8, 0)])
    over = "no route leads over the terrain from (0, 0) to (8, 0)"
    assert (bool(out), out.why) == (False, f"{over}; {hint}")
    assert us.reach(board, "scout", at=(6, 0)).cells[0] == (6, 0)
    late = us.route(board, "scout", goals=[(5, 0), (8, 0)], turns=1)
    assert late.why == "it takes 2 turns to any of the goals, and 1 are allowed"
    for call, rule in (
        (lambda: us.within((0, 0), 3, 2), "high: must be 3 or more"),
        (lambda: us.within((0, 0), -1, 2), "low: must be a whole number"),
        (lambda: us.route(board, "scout", goals=[]), "goals: must hold at least one cell"),
        (
            lambda: us.route(board, "scout", goals="pikes"),
            r"next to a unit are us.within\(.*'pikes'",
        ),
        (lambda: us.route(board, "scout", us.within("nobody", 0, 1)), "goals: must name a unit"),
        (lambda: us.field(board, "scout", goals="pikes"), "goals: .* not text; got 'pikes'"),
        (lambda: us.route(board, "scout", (1, 0), accept="near"), "accept: .*'nearest'"),
        (lambda: us.route(board, "scout", (1, 0), via=[(9, 9)]), "via: must lie on the board"),
        (lambda: us.reach(board, "scout", left=-1), "left: a cost is never negative"),
        (lambda: us.reach(board, "scout", at=(9, 9)), "at: must lie on the board"),
        (lambda: us.reaches(board, threads=0), "threads: must be a whole number"),
        (lambda: us.route(board, "scout", (1, 0), avoid="harm"), "avoid: .*hazard"),
        (lambda: us.route(board, "scout", (1, 0), avoid=[1]), "avoid: must be a mapping"),
        (lambda: us.route(board, "scout", (1, 0), avoid={(9, 9): 1}), "avoid: must lie on"),
        (lambda: us.route(board, "scout", (1, 0), avoid=-np.ones((1, 9))), "from 0 to"),
        (lambda: us.Movement(3, zones="stop"), "zones: .*there are: end, ignore"),
        (lambda: us.Movement(3, guards=1), "guards: must be True or False"),
        (lambda: us.route(board, "scout", (1, 0), weight=0.5), "weight: must be a number from 1"),
        (lambda: us.route(board, "scout", (1, 0), via=[(2, 0)], weight=2), "weight: must be 1"),
        (lambda: us.Movement(3, diagonal="twice"), "diagonal: .*alternating"),
        (lambda: us.Movement(3, diagonal="alternating", carry=1), "carry: cannot be with"),
        (lambda: us.Movement(3, leap=2), "leap: must be a Leap"),
        (
            lambda: us.Movement(3, leap=us.Leap(), footprint=us.Footprint.block(2)),
            "only a unit of one cell",
        ),
        (lambda: us.Leap(8), "over: must be a whole number from 0 to 7"),
        (lambda: us.Leap(terrains=[]), "terrains: must be names of terrains"),
    ):
        with pytest.raises(us.errors.InputError, match=rule):
            call()


@given(boards(), st.data())
def test_goals_it_cannot_end_on_are_left_out_with_their_reasons(board, data):
    goals = data.draw(st.lists(st.sampled_from(list(board.grid)), min_size=1, max_size=6))
    at = board.unit("a").at
    shut = {cell for cell in goals if cell != at and not board.can_stand("a", cell)}
    found = us.route(board, "a", goals)
    assert {cell: refusal.why for cell, refusal in found.refusals.items()} == {
        cell: board.can_stand("a", cell).why for cell in shut
    }
    rest = [cell for cell in goals if cell not in shut]
    assert found.goal in rest or not found
    if rest:
        only = us.route(board, "a", rest)
        assert (found.cells, found.cost, found.turns) == (only.cells, only.cost, only.turns)
        assert found.blockers == only.blockers
    else:
        first = list(dict.fromkeys(goals))
        assert found.why.startswith("; ".join(found.refusals[cell].why for cell in first[:3]))
        every = {name for each in found.refusals.values() for name in each.blockers}
        assert set(found.blockers) == every
        nearest = us.route(board, "a", goals, accept="nearest")
        again = us.route(board, "a", nearest.goal)
        assert (nearest.cells, nearest.cost, nearest.turns) == (
            again.cells,
            again.cost,
            again.turns,
        )
        reach = us.reach(board, "a", turns=None)
        feet = board.unit("a").movement.footprint
        gap = {
            cell: board.grid.distance(np.array(board.covered(board.unit("a"), cell))[:, None],
                                      np.array(goals)).min()
            for cell in reach
        }  # fmt: skip
        assert gap[nearest.goal] == gap[found.nearest] == min(gap.values())
        same = [cell for cell in reach if gap[cell] == min(gap.values())]
        best = min(same, key=lambda cell: (reach[cell].turn, -reach[cell].left, cell[::-1]))
        assert found.nearest == best or len(feet) > 1


def test_what_lies_ahead_is_told_of_a_goal_that_is_free():
    board = us.Board(us.SquareGrid(7, 5), {"turf": 1, "rock": None})
    board.paint("rock", [(4, row) for row in range(5)])
    board.add(us.Unit("scout", "ours", us.Movement(4)), at=(2, 2))
    board.add(us.Unit("foe", "theirs", us.Movement(4)), at=(2, 4))
    for wall in (False, True):  # by ground alone, and by units
        if wall:
            board.paint("turf", (4, 2))
            board.add(us.Unit("shield", "theirs", us.Movement(4)), at=(4, 2))
        one, both = (us.route(board, "scout", goals) for goals in ([(6, 2)], [(2, 4), (6, 2)]))
        assert both.blockers == one.blockers
        assert ("shield" in both.blockers) == wall
        assert ("'rock' at (4, 2)" in one.why) == ("'rock' at (4, 2)" in both.why) == (not wall)


def test_units_that_queue_in_a_corridor_are_named():
    board = us.Board(us.SquareGrid(9, 1), {"turf": 1})
    for place, name in enumerate(("scout", "pikes", "bows", "ox")):
        board.add(us.Unit(name, "wardens", us.Movement(points=2)), at=(place, 0))
    told = us.route(board, "scout", (8, 0))
    assert told.why == "no route from (0, 0) to (8, 0): 'pikes', 'bows', 'ox' in the way"
    assert us.route(board, "scout", (8, 0), at=(2, 0)).doubt == (
        "'bows' of the wardens stands on (2, 0): it may pass there, not stop"
    )
    assert "'bows' of the wardens stands on" in repr(us.reach(board, "scout", at=(2, 0)))
    assert us.reach(board, "scout", at=(6, 0)).doubt == us.route(board, "scout", (8, 0)).doubt == ""


def test_what_lies_straight_ahead_is_told():
    kinds = {"wall": us.Edge(blocks=True)}
    board = us.Board(us.SquareGrid(9, 3), {"turf": 1, "deep": None}, edges=kinds)
    scout = us.Unit("scout", "wardens", us.Movement(points=6, climb=1, passes="none"))
    board.add(scout, at=(0, 1))
    seen = []
    for change in (
        lambda: board.lay_beside("wall", [(2, 0), (2, 1), (2, 2)], "E"),
        lambda: board.set_elevation(3, board.grid.rectangle((3, 0), (8, 2))),
        lambda: board.paint("deep", [(3, 0), (3, 1), (3, 2)]),
        lambda: board.add(us.Unit("pikes", "wreckers", us.Movement(1)), at=(2, 1)),
    ):
        with board.trial():
            change()
            told, short = us.route(board, "scout", (5, 1)), us.reach(board, "scout").get((5, 1))
            seen.append((told.why.partition("; ")[2], short.why.partition("; ")[2]))
            assert short.blockers == (("pikes",) if "pikes" in short.why else ())
    ahead = "straight ahead"
    assert seen[0] == (f"{ahead} 'wall' between (2, 1) and (3, 1)",) * 2
    assert seen[1] == (f"{ahead} climb of 3 to (3, 1), limit 1",) * 2
    assert seen[2] == (f"{ahead} 'deep' at (3, 1) is impassable for 'scout'",) * 2
    assert seen[3] == ("", f"{ahead} 'pikes' of the wreckers stands on (2, 1)")
    assert us.reach(board, "scout").get((8, 1)).why == (
        "(8, 1) is not within 1 turn at 6 points a turn"
    )


@pytest.mark.parametrize("top", ["pointy", "flat"])
def test_the_nearest_cell_follows_one_rule_whoever_asks(top):
    """Of equally near cells the soonest, then the first in row order; however it is searched."""
    grid = us.HexGrid(4, 4, top=top)
    for at in list(grid)[::3]:
        for goal in grid:
            if goal == at:
                continue
            board = us.Board(grid, {"turf": 1})
            for name, cell in (("a", at), ("b", goal)):
                board.add(us.Unit(name, name, us.Movement(points=2)), at=cell)
            reach = us.reach(board, "a", turns=None)
            rank = {
                c: (grid.distance(c, goal), reach[c].turn, -reach[c].left, c[::-1]) for c in reach
            }
            for prefer in ("straight", "direct", "first"):
                assert us.route(board, "a", goal, prefer=prefer).nearest == min(rank, key=rank.get)
            assert us.route(board, "a", goal, accept="nearest").goal == min(rank, key=rank.get)


@given(boards(), st.integers(1, 60), st.data())
def test_a_route_that_pauses_comes_to_the_same_end(board, budget, data):
    goals = data.draw(st.lists(st.sampled_from(list(board.grid)), min_size=1, max_size=3))
    words = {
        "turns": data.draw(st.sampled_from([None, 1, 2])),
        "prefer": data.draw(st.sampled_from(["straight", "direct", "first"])),
        "accept": data.draw(st.sampled_from(["exact", "adjacent", "nearest"])),
        "via": data.draw(st.sampled_from([(), goals[:1]])),
    }
    whole = us.route(board, "a", goals, **words)
    found, pauses = us.route(board, "a", goals, budget=budget, **words), 0
    while found.paused:
        assert not found
        assert found.resume is not None
        assert found.plain()["ok"] is False
        us.reach(board, "a")  # others may search meanwhile
        found, pauses = found.resume(), pauses + 1
    assert found.plain() == whole.plain()
    assert found.resume() is found
    if found and found.expanded > budget and not words["via"]:  # each piece has its budget
        assert pauses
    assert pauses <= 3 + 3 * whole.expanded // budget + 3 * len(board.grid) // budget


def test_a_paused_route_starts_anew_after_an_edit():
    board = us.Board(us.SquareGrid(30, 30), {"turf": 1, "deep": None})
    board.add(us.Unit("a", "ours", us.Movement(points=5)), at=(0, 0))
    paused = us.route(board, "a", (29, 29), budget=40)
    assert paused.paused
    assert paused.resume().paused
    board.paint("deep", [(col, 15) for col in range(29)])
    while paused.paused:
        paused = paused.resume()
    assert paused.plain() == us.route(board, "a", (29, 29)).plain()
    for budget in (0, 1.5, "many"):
        with pytest.raises(us.errors.InputError, match="budget: must be a whole number"):
            us.route(board, "a", (29, 29), budget=budget)
