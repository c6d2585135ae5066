"""Fog: what a side knows against a model of it, and nothing that is hidden in any answer."""

import contextlib
import copy
import dataclasses
import itertools
import pickle

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from samples import FEATURES, KINDS_OF_EDGES, boards, examples
from test_behaviors import plans

import understep as us

ATTACK = us.Attack(1, 2)


@st.composite
def fogged(draw):
    """A board whose units have attacks and short sight, with fog for one side."""
    board = draw(boards(cells=20, free_steps=False))
    for unit in board.units():
        board.remove(unit.name)
        sight, eye = (
            draw(st.sampled_from([0, 1, 2, 3, None, None])),
            draw(st.sampled_from([0.5, 2])),
        )
        armed = dataclasses.replace(unit, at=None, sight=sight, eye=eye, attack=ATTACK)
        board.add(armed, at=unit.at)
    knowledge = us.fog(board, "ours", land_known=draw(st.booleans()))
    board.forget()
    return board, knowledge


def edit(board, draw, cells):
    """One random change among some cells."""
    grid = board.grid
    cell, other = (draw(st.sampled_from(cells)) for _ in range(2))
    beside = [each for each in grid.neighbors(cell) if each in cells]
    foes = [unit.name for unit in board.units() if unit.side == "theirs" and unit.at in cells]
    changes = {
        "paint": lambda: board.paint(draw(st.sampled_from(["turf", "t0", "t1"])), cell),
        "raise": lambda: board.set_elevation(draw(st.sampled_from([0, 2, 3])), cell),
        "value": lambda: board.set_value("depth", draw(st.sampled_from([0, 0.5, 2.0])), cell),
        "block": lambda: board.block(cell, side=draw(st.sampled_from([None, "ours"]))),
        "clear": lambda: board.clear(cell),
        "place": lambda: board.place(draw(st.sampled_from(list(FEATURES))), cell),
        "lift": lambda: board.lift(draw(st.sampled_from(list(FEATURES))), cell),
        "link": lambda: board.link(cell, other, 1, kind="ladder"),
        "unlink": lambda: board.unlink(cell, other),
        "add": lambda: board.add(
            us.Unit(f"new{board.state}", "theirs", us.Movement(2), attack=ATTACK), at=cell
        ),
    }
    if beside:
        kind = draw(st.sampled_from(["wall", "ditch", None]))
        changes["edge"] = lambda: board.set_edge(cell, draw(st.sampled_from(beside)), kind)
    if foes:
        foe = draw(st.sampled_from(foes))
        changes["put"] = changes["go"] = lambda: board.put(foe, at=cell)
        changes["remove"] = lambda: board.remove(foe)
        changes["data"] = lambda: board.set_data(foe, health=draw(st.sampled_from([0, 1, 2])))
        changes["unit"] = lambda: board.set_unit(foe, sight=draw(st.sampled_from([0, 1, 3])))
    with contextlib.suppress(us.errors.InputError):  # where it could not be
        changes[draw(st.sampled_from(sorted(changes)))]()


class Model:
    """What a side knows, found by looking at everything after every change."""

    def __init__(self, board, knowledge):
        self.cells, self.edges, self.links, self.units, self.last = {}, {}, {}, {}, {}
        if not knowledge.cells_seen("never"):
            self.learn(board, set(board.grid))
        self.look(board)

    def copied(self):
        twin = copy.copy(self)
        twin.__dict__ = {name: copy.copy(part) for name, part in self.__dict__.items()}
        return twin

    def learn(self, board, seen):
        for cell in seen:
            sides = [board.blocked(cell), board.blocked(cell, side="ours")]
            level = float(board.elevation[board.grid.index(cell)])
            facts = board.terrain(cell), board.value("depth", cell), board.features(cell)
            self.cells[cell] = facts, level, sides
            for near in board.grid.neighbors(cell):
                for a, b in ((cell, near), (near, cell)):
                    self.edges[a, b] = board.edge(a, b), board.is_open(a, b)
        links = {(link.a, link.b): link for cell in board.grid for link in board.links(cell)}
        self.links = {ends: link for ends, link in self.links.items() if not seen & set(ends)}
        self.links |= {ends: link for ends, link in links.items() if seen & set(ends)}

    def look(self, board):
        self.seen = set(us.view(board, side="ours", known_to=False))
        self.learn(board, self.seen)
        met = {
            unit.name: unit for unit in board.units()
            if unit.side == "ours" or self.seen & set(board.covered(unit))
        }  # fmt: skip
        names = {unit.name for unit in board.units()}
        for name in self.units:
            if name not in names:
                self.last.pop(name, None)
        self.last |= {name: unit for name, unit in met.items() if unit.side != "ours"}
        self.units = met

    def check(self, board, knowledge):
        known = knowledge.board
        assert set(knowledge.cells_seen("now")) == self.seen
        assert set(knowledge.cells_seen("before")) == set(self.cells) - self.seen
        border = {n for cell in self.cells for n in board.grid.neighbors(cell)} - set(self.cells)
        assert set(knowledge.border) == border
        for cell, (facts, level, blocked) in self.cells.items():
            ground = known.terrain(cell)
            assert (ground, known.value("depth", cell), known.features(cell)) == facts
            assert known.elevation[board.grid.index(cell)] == level
            assert [known.blocked(cell), known.blocked(cell, side="ours")] == blocked
        for ends, (kind, is_open) in self.edges.items():
            assert (known.edge(*ends), known.is_open(*ends)) == (kind, is_open)
        links = {(link.a, link.b): link for cell in board.grid for link in known.links(cell)}
        assert {ends: link.cost for ends, link in links.items()} == {
            ends: link.cost for ends, link in self.links.items()
        }
        assert {unit.name: unit for unit in known.units()} == self.units
        for name in {*self.last, *self.units}:
            assert knowledge.last_seen(name) == self.last.get(name)
        assert {unit.name for unit in knowledge.remembered} == {
            name for name, unit in self.last.items()
            if name not in self.units and not self.seen & set(board.covered(unit))
        }  # fmt: skip


def tells_apart(change, before, model):
    """Whether a difference is that of two models."""
    assert set(change.appeared) == model.seen - before.seen
    assert set(change.faded) == before.seen - model.seen
    assert set(change.discovered) == model.cells.keys() - before.cells.keys()
    foes = [{n for n, u in m.units.items() if u.side != "ours"} for m in (before, model)]
    assert (set(change.met), set(change.lost)) == (foes[1] - foes[0], foes[0] - foes[1])


@given(fogged(), st.data())
def test_knowledge_is_what_was_seen_and_is_undone_with_the_board(made, data):
    board, knowledge = made
    model = Model(board, knowledge)
    model.check(board, knowledge)
    done, undone, late = [], [], []
    cells = list(board.grid)
    for _ in range(data.draw(st.integers(1, 8))):
        before, state, kept = model.copied(), board.state, knowledge.board.state
        kind = data.draw(st.sampled_from(["edit", "edit", "own", "batch", "trial", "undo", "redo"]))
        if kind == "trial":
            with board.trial():
                edit(board, data.draw, cells)
                model.look(board)
                model.check(board, knowledge)
            model = before.copied()
            assert (board.state, knowledge.board.state) == (state, kept)
        elif kind in ("undo", "redo"):
            past, future = (done, undone) if kind == "undo" else (undone, done)
            assert (board.undo() if kind == "undo" else board.redo()) or not past
            if past:
                future.append(model)
                model = past.pop()
        else:
            if kind == "own":
                at = data.draw(st.sampled_from(cells))
                try:
                    board.put("a", at=at)
                except us.errors.InputError:
                    continue
            elif kind == "edit":
                edit(board, data.draw, cells)
            else:
                with board.batch():
                    edit(board, data.draw, cells)
                    edit(board, data.draw, cells)
            model.look(board)
            if board.state != state:
                done.append(before)
                undone = []
        # the last is asked for its parts now, when the board has changed again
        for change, *models in late:
            tells_apart(change, *models)
        late = [(knowledge.changes(state), before, model.copied())]
        if data.draw(st.booleans()):
            tells_apart(pickle.loads(pickle.dumps(late[0][0])), before, model)
    for change, *models in late:
        tells_apart(change, *models)
        model.check(board, knowledge)
        twin = board.copy()
        model.check(twin, twin.knowledge("ours"))


HIDDEN = [f"u{number}" for number in range(8)]
ASKING = [
    lambda board, name: us.sees(board, "a", name),
    lambda board, name: us.route(board, "a", us.within(name, 1, 2)).plain() | {"seconds": 0},
    lambda board, name: us.behaviors.follow(board, "a", name).plain(),
    lambda board, name: us.attacks(board, "a").get(name),
    lambda board, name: us.behaviors.approach(board, "a", targets=[name]).plain(),
]


def said(board, name, which):
    """What is answered, or raised, when a unit is named that may be hidden."""
    try:
        return ASKING[which](board, name)
    except us.errors.InputError as error:
        return str(error)


def test_a_unit_that_one_does_not_see_is_a_no_and_no_error():
    board = us.Board(us.SquareGrid(12, 1), {"turf": 1})
    scout = us.Unit("a", "ours", us.Movement(4), sight=2, attack=us.Attack(1, 2))
    board.add(scout, at=(0, 0))
    board.add(us.Unit("raider", "theirs", us.Movement(4)), at=(9, 0))
    us.fog(board, "ours")
    for name in ("raider", "nobody"):
        why = f"the ours know of no unit {name!r}"
        told = (
            us.sees(board, "a", name), us.route(board, "a", us.within(name, 1, 1)),
            us.attacks(board, "a").get(name), us.stands(board, "a", name),
        )  # fmt: skip
        assert [(bool(each), each.why) for each in told] == [(False, why)] * 4
        plan = us.behaviors.follow(board, "a", name)
        assert (tuple(plan.end), plan.target, plan.reasons) == ((0, 0), None, (why,))
        assert us.behaviors.approach(board, "a", targets=[name]).why == why
    with pytest.raises(us.errors.NameUnknownError):
        us.sees(board, "a", "nobody", known_to=False)


def answers(board):
    """All that a side can ask, as plain data."""
    known, told = board.knowledge("ours"), []
    reach, attacks = us.reach(board, "a", turns=2), us.attacks(board, "a")
    told += [known.table().tolist(), known.plain(), known.overlay().plain(), known.board.state]
    told += [reach.plain(), attacks.plain(), us.threats(board, against="ours").plain()]
    field, areas = us.field(board, "a", [known.board.unit("a").at]), us.areas(board, "a")
    told += [field.plain(), len(areas), [areas[cell] for cell in board.grid]]
    trials = us.study.compare(board, "a", list(board.grid)[-1])
    told += [(trial.cost, trial.closed) for trial in trials]
    for cell in board.grid:
        route = us.route(board, "a", goals=cell)
        told += [route.plain() | {"seconds": 0}, route.nearest, us.explain(board, "a", cell)]
        told += [
            attacks.get(cell),
            reach.get(cell),
            us.push(board, "a", 0, 3, known_to="ours").plain(),
        ]
        told += [us.sees(board, "a", cell), us.sees(board, cell, "a", known_to="ours")]
        told += [us.view(board, cell, radius=3, known_to="ours").plain()]
    told += [us.view(board, "a").plain(), us.view(board, side="ours").plain()]
    told += [us.draw.terminal(board, known).plain]
    told += [said(board, *each) for each in itertools.product(HIDDEN, range(len(ASKING)))]
    told += [make().plain() for make in plans(known.board, "a")]
    told += [us.behaviors.approach(board, "a").plain(), us.behaviors.withdraw(board, "a").plain()]
    told += [us.behaviors.notice(board, "a"), us.intent(attacks, known.board.unit("a").at).plain()]
    for unit in known.board.units():
        told += [attacks.get(unit.name), us.stands(board, "a", unit.name).plain()]
    return told


@given(fogged(), st.data())
def test_no_answer_for_a_side_changes_with_what_is_hidden_from_it(made, data):
    board, _ = made
    for _ in range(data.draw(st.integers(0, 2))):
        edit(board, data.draw, list(board.grid))
    told, other = answers(board), board.copy()
    kept = us.reach(other, "a"), us.view(other, "a"), us.view(other, side="ours")
    kept += us.field(other, "a", [other.unit("a").at]), us.threats(other, against="ours")
    kept += us.areas(other, "a"), us.attacks(other, "a")
    seen = set(us.view(board, side="ours", known_to=False))
    hidden = [cell for cell in board.grid if cell not in seen]
    for _ in range(data.draw(st.integers(1, 6)) if hidden else 0):
        with other.trial():  # what alters the view shows
            plan = data.draw(st.integers(0, 10**6))
            edit(other, chooser(plan), hidden)
            shows = set(us.view(other, side="ours", known_to=False)) != seen
        if not shows:
            edit(other, chooser(plan), hidden)
    assert answers(other) == told
    assert not any(each.stale for each in kept)


@examples(0.7)
@given(fogged(), st.data())
def test_what_is_hidden_when_fog_begins_is_in_no_answer_either(made, data):
    board, _ = made
    board.lift_fog("ours")
    seen = set(us.view(board, side="ours", known_to=False))
    hidden = [cell for cell in board.grid if cell not in seen]
    other = board.copy()
    for _ in range(data.draw(st.integers(1, 6)) if hidden else 0):
        plan = data.draw(st.integers(0, 10**6))
        with other.trial():
            edit(other, chooser(plan), hidden)
            shows = set(us.view(other, side="ours", known_to=False)) != seen
        if not shows:
            edit(other, chooser(plan), hidden)
    told, levels = [], []
    for each in (board, other):
        us.fog(each, "ours")
        state = each.knowledge("ours").board.state
        told.append([part for part in answers(each) if part != state])
        levels.append(each.knowledge("ours").board.elevation)
    assert told[0] == told[1]
    assert np.array_equal(*levels)


def chooser(seed):
    """Draws that are the same each time."""
    rng = np.random.default_rng(seed)

    def draw(strategy):
        return strategy.elements[int(rng.integers(len(strategy.elements)))]

    return draw


def test_what_an_undo_takes_out_of_sight_is_told():
    board = us.Board(us.SquareGrid(12, 3), {"turf": 1})
    board.add(us.Unit("scout", "wardens", us.Movement(6), sight=2), at=(0, 1))
    board.add(us.Unit("pikes", "wreckers", us.Movement(6)), at=(6, 1))
    knowledge, states = us.fog(board, "wardens"), []
    for col in (3, 4):
        states.append(board.state)
        board.put("scout", at=(col, 1))
    there, ahead = knowledge.cells_seen("now"), board.state
    assert knowledge.changes(states[0]).met == ("pikes",)
    assert board.undo()
    assert board.undo()
    change = knowledge.changes(ahead)
    assert (change.met, change.lost, change.discovered) == ((), ("pikes",), ())
    assert set(change.faded) == {*there} - {*knowledge.cells_seen("now")}
    assert set(change.appeared) == {*knowledge.cells_seen("now")} - {*there}
    # one that is asked late tells of then
    board.redo()
    assert change.lost == ("pikes",)
    assert (0, 1) in change.appeared


@pytest.mark.parametrize("feet", [[(0, 0)], [(0, 0), (3, 0)]])
@pytest.mark.parametrize("rules", [{"sight": 8}, {"sight": 2, "sight_per_level": 2}])
def test_what_opens_far_from_a_unit_is_seen_at_once(rules, feet):
    kinds = {"turf": 1, "ruin": us.Terrain(None, cover=5)}
    board = us.Board(us.SquareGrid(20, 1), kinds)
    moves, last = us.Movement(4, footprint=feet), feet[-1][0]
    board.set_elevation(3, [(0, 0), (last, 0)])
    board.add(us.Unit("scout", "wardens", moves, **rules), at=(0, 0))
    ruin = (last + 7, 0)
    board.paint("ruin", ruin)
    knowledge = us.fog(board, "wardens")
    assert (last + 8, 0) not in knowledge.cells_seen("now")
    board.paint("turf", ruin)
    assert (last + 8, 0) in knowledge.cells_seen("now")
    assert knowledge.cells_seen("now") == us.view(board, "scout", known_to=False).cells
    board.undo()
    assert (last + 8, 0) not in knowledge.cells_seen("now")


@pytest.mark.parametrize("low", [0, -3])
@pytest.mark.parametrize("order", [["turf", "ruin"], ["ruin", "turf"]])
def test_unknown_land_is_in_nobodys_way_whatever_is_declared_first(order, low):
    kinds = {"turf": us.Terrain(1), "ruin": us.Terrain(None, cover=2)}
    board = us.Board(us.SquareGrid(12, 3), {name: kinds[name] for name in order}, fill="turf")
    board.paint("ruin", (6, 1))
    board.set_elevation(low)
    for name, at in (("a", (0, 1)), ("b", (11, 1))):
        board.add(us.Unit(name, "ours", us.Movement(2), sight=1), at=at)
    knowledge = us.fog(board, "ours")
    assert us.sees(board, "a", "b", radius=20)
    assert not us.sees(board, "a", "b", radius=20, known_to=False)
    assert (11, 1) in us.view(board, "a", radius=20)
    board.put("a", at=(5, 1))  # next to what hides
    board.put("a", at=(0, 1))
    assert knowledge.status((6, 1)) == "before"
    assert us.sees(board, "a", "b", radius=20).cell == (6, 1)
    assert (11, 1) not in us.view(board, "a", radius=20)


def test_what_fog_tells_and_refuses():
    board = us.Board(us.HexGrid(14, 3), {"turf": 1, "deep": None}, edges=KINDS_OF_EDGES)
    scout = us.Unit("scout", "wardens", us.Movement(4), sight=3)
    board.add(scout, at=(1, 1))
    board.add(us.Unit("pikes", "wreckers", us.Movement(4)), at=(5, 1))
    knowledge = us.fog(board, "wardens")
    assert us.route(board, "scout", (5, 1)).why == "(5, 1) is unknown to the wardens"
    copied = board.knowledge("wardens").board.copy()  # to try things out on
    assert us.route(copied, "scout", (5, 1)).why == "(5, 1) is unknown to the wardens"
    assert not copied.blocked((5, 1))
    assert not len(copied.blocks())
    assert us.route(board, "scout", (6, 1), known_to=False).cost == 6
    assert len(us.areas(board, "scout").cells) == len(knowledge.cells_seen("now"))
    assert len(us.areas(board, "scout", known_to=False).cells) == len(board.grid)
    east = [us.passable(board, "scout", (4, 1), known_to=side) for side in (None, False)]
    assert ["E" in ways for ways in east] == [False, True]
    before = board.state
    board.put("scout", at=(3, 1))
    assert us.route(board, "scout", (5, 1)).blockers == ("pikes",)
    assert knowledge.changes(before).met == ("pikes",)
    board.put("pikes", at=(13, 1))  # out of a cell that is seen
    assert (knowledge.remembered, knowledge.last_seen("pikes").at) == ((), (5, 1))
    board.put("scout", at=(0, 1))
    assert [unit.at for unit in knowledge.remembered] == [(5, 1)]
    assert {mark.text for mark in knowledge.overlay().values()} == {None, "pikes"}
    for call, rule in (
        (lambda: us.fog(board, "wardens"), "side: keeps knowledge already"),
        (lambda: us.fog(board, "warden"), "did you mean 'wardens'"),
        (lambda: board.knowledge("wreckers"), "side that keeps knowledge .*there are: wardens"),
        (lambda: us.reach(board, "scout", known_to="wreckers"), "side that keeps knowledge"),
        (lambda: us.attacks(board, "scout", known_to="wardens"), "it has no attack"),
        (lambda: us.reach(board, "pikes", known_to="wardens"), "must name a unit"),
        (lambda: knowledge.cells_seen("then"), "status"),
    ):
        with pytest.raises(us.errors.InputError, match=rule):
            call()
    with pytest.raises(us.errors.JournalError, match="undone with the board"):
        knowledge.board.undo()
    board.lift_fog("wardens")
    assert us.route(board, "scout", (6, 1)).cost == 6
    assert board.undo()
    assert board.fogged == ("wardens",)


def test_a_side_s_picture_is_drawn_and_edited_by_what_it_knows(tmp_path):
    board = us.Board(
        us.SquareGrid(9, 3, frame=us.Frame(projection="isometric", lift=0.3)), {"turf": 1}
    )
    for name, side, col in (("scout", "ours", 0), ("hidden", "theirs", 7)):
        board.add(us.Unit(name, side, us.Movement(3), sight=2), at=(col, 1))
    knowledge = us.fog(board, "ours")
    board.set_elevation(3, (8, 1))
    for how in ({}, {"view": "plan"}):
        drawn = us.draw.figure(board, knowledge, **how)
        words = [text.get_text() for text in drawn.findobj(lambda each: hasattr(each, "get_text"))]
        assert "sc" in words
        assert "hi" not in words
    shown = us.draw.figure(board, knowledge, path=tmp_path / "a.png")
    board.set_elevation(0, (8, 1))
    board.remove("hidden")
    us.draw.figure(board, knowledge, path=tmp_path / "b.png")
    assert shown is not None
    assert (tmp_path / "a.png").read_bytes() == (tmp_path / "b.png").read_bytes()
    known = knowledge.board
    for edit in (
        lambda: known.block((0, 0)),
        lambda: known.put("scout", at=(1, 1)),
        lambda: known.remove("scout"),
        lambda: known.link((0, 0), (2, 0)),
    ):
        with pytest.raises(us.errors.JournalError, match="can be edited inside a trial only"):
            edit()
        state = known.state
        with board.trial():
            edit()
        assert known.state == state
    board.add(us.Unit("hidden", "theirs", us.Movement(3)), at=(7, 1))
    with pytest.raises(us.errors.OccupiedError, match=r"^at: a hidden unit stands on \(7, 1\)"):
        board.put("scout", at=(7, 1))
    with pytest.raises(us.errors.OccupiedError, match="'scout' stands"):
        board.put("hidden", at=(0, 1))


def test_known_land_stays_known_on_a_board_of_another_size():
    board = us.Board(us.SquareGrid(6, 3), {"turf": 1, "mud": 2})
    board.add(us.Unit("scout", "wardens", us.Movement(3), sight=1), at=(0, 0))
    us.fog(board, "wardens", land_known=True)
    larger = us.maps.resize(board, 7, 3).knowledge("wardens").table()
    assert (larger[:, :6] == board.knowledge("wardens").table()).all()
    assert (larger[:, 6] == 0).all()
