"""The board equals a model of plain dictionaries after edits, undo and refusals."""

import pickle

import numpy as np
import pytest
from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, rule
from samples import examples, wade

import understep as us

FOOT = us.Movement(points=5)
MOVEMENTS = {
    "scout": FOOT,
    "pikes": us.Movement(points=5, rule=wade, climb=1, uphill=0.5),
    "punt": us.Movement(points=5, costs={"deep": 1, "turf": None}, links={"ladder": None}),
    "ox": us.Movement(points=6, footprint=us.Footprint.block(2, 1)),
    "kite": us.Movement(points=4, costs=1, layer="air"),
}
EDGES = {"wall": us.Edge(blocks=True), "door": us.Edge(blocks=True, door=True)}
GROUND = ["turf", "mud", "deep", "mudd"]
places = st.tuples(st.integers(-1, 4), st.integers(-1, 3))
some = st.lists(places, min_size=1, max_size=3)
names = st.sampled_from(sorted(MOVEMENTS))


class Model:
    """What a board holds, as plain dictionaries."""

    PARTS = ("ground", "levels", "depths", "units", "facts", "edges", "links", "blocks")

    def __init__(self, *parts):
        for name, part in zip(self.PARTS, parts, strict=True):
            setattr(self, name, part)

    def copy(self):
        return Model(*[part.copy() for part in vars(self).values()])

    def differs(self, other):
        """Cells that are not the same in both."""
        cells = set()
        for name in self.PARTS:
            old, new = getattr(self, name), getattr(other, name)
            for key in old.keys() | new.keys():
                if old.get(key) == new.get(key):
                    continue
                if name in ("units", "facts"):
                    cells |= {part.units[key] for part in (self, other) if key in part.units}
                else:
                    cells |= {key} if isinstance(key, us.Cell) else set(key[:1])
        return cells

    def covered(self, name):
        col, row = self.units[name]
        return [(col, row), (col + 1, row)] if name == "ox" else [(col, row)]

    def bars(self, name, cell):
        """Whether a unit could not stand on a cell, as far as the ground goes."""
        if cell not in self.ground or {(cell, None), (cell, "wardens")} & self.blocks.keys():
            return True
        if name == "kite":
            return False
        if self.ground[cell] == "deep":
            return name != "punt"
        return (name, self.ground[cell]) == ("punt", "turf") or (
            name == "pikes" and self.depths[cell] > 1
        )

    def sound(self):
        """Whether every unit can stand where it is."""
        on = [(name == "kite", cell) for name in self.units for cell in self.covered(name)]
        if len(set(on)) < len(on):
            return False
        for name in self.units:
            cells = self.covered(name)
            if any(self.bars(name, cell) for cell in cells):
                return False
            met = [self.edges.get((a, b), (None, False)) for a in cells for b in cells]
            if any(kind is not None and not is_open for kind, is_open in met):
                return False
        return True


class BoardMachine(RuleBasedStateMachine):
    """Edits against a model; refused edits change nothing, undo restores all."""

    @initialize(open_field=st.booleans())
    def begin(self, open_field):
        cells = [us.Cell(col, row) for row in range(3) for col in range(4)]
        cells = cells if open_field else cells[:-1]
        grid = us.HexGrid.from_cells(cells)
        self.make = lambda: us.Board(
            grid, {"turf": 1, "mud": 3, "deep": None}, edges=EDGES, properties={"depth": 0.0}
        )
        self.board = self.make()
        filled = [dict.fromkeys(cells, each) for each in ("turf", 0, 0.0)]
        self.model = Model(*filled, *[{} for _ in range(5)])
        self.done, self.undone, self.open, self.left = [], [], [], []

    def now(self):
        return self.model.copy(), self.board.state

    def step(self, before):
        """Take note of a step in the model's own history."""
        if self.open:
            self.open[-1][3].append(True)
        else:
            self.done.append((before, self.now()))
            self.undone.clear()

    def attempt(self, allowed, call, change=lambda: None):
        before = self.now()
        if allowed:
            change()
            allowed = self.model.sound()
        if allowed:
            call()
            assert self.board.state != before[1]
            self.step(before)
            assert before[0].differs(self.model) <= set(self.board.changed_since(before[1]))
            return
        with pytest.raises(us.errors.InputError):
            call()
        self.restore(before)

    @rule()
    def undo(self):
        self.back(self.board.undo, self.done, self.undone, 0)

    @rule()
    def redo(self):
        self.back(self.board.redo, self.undone, self.done, 1)

    def back(self, call, source, target, side):
        if self.open:
            with pytest.raises(us.errors.JournalError, match="inside a batch or trial"):
                call()
            return
        before = self.now()
        assert call() == bool(source)
        if source:
            target.append(source.pop())
            self.restore(target[-1][side])
        assert before[0].differs(self.model) <= set(self.board.changed_since(before[1]))

    def restore(self, moment):
        self.model = moment[0].copy()
        assert self.board.state == moment[1]

    @rule(kind=st.sampled_from(["batch", "trial"]))
    def enter(self, kind):
        if len(self.open) < 3:
            context = getattr(self.board, kind)()
            context.__enter__()
            self.open.append((kind, context, self.now(), []))

    @rule(fails=st.booleans())
    def leave(self, fails):
        if not self.open:
            return
        kind, context, before, steps = self.open.pop()
        error = ValueError("stop") if fails else None
        assert not context.__exit__(type(error) if fails else None, error, None)
        if fails or kind == "trial":
            self.restore(before)
        elif steps:
            self.step(before)

    @rule()
    def copy(self):
        if not self.open:
            twin = self.board.copy()
            assert twin.state == self.board.state
            self.left.append((self.board, *self.now()))
            self.board = twin
            self.done, self.undone = [], []

    def inside(self, *cells):
        return all(cell in self.model.ground for cell in cells)

    @rule(data=st.data(), kind=st.sampled_from(["wall", "door", None, "wal"]), both=st.booleans())
    def set_edge(self, data, kind, both):
        a, b = data.draw(places), data.draw(places)
        near = self.inside(a, b) and self.board.grid.distance(a, b) == 1

        def change():
            for pair in [(a, b), (b, a)][: 1 + both]:
                self.model.edges[us.Cell(*pair[0]), us.Cell(*pair[1])] = kind, False

        allowed = near and kind != "wal"
        self.attempt(allowed, lambda: self.board.set_edge(a, b, kind, both=both), change)

    @rule(data=st.data(), is_open=st.booleans())
    def open_edge(self, data, is_open):
        edges = self.model.edges
        doors = [pair for pair, (kind, _) in edges.items() if kind == "door"]
        a, b = data.draw(st.sampled_from(sorted(doors) or [((0, 0), (1, 0))]))

        def change():
            self.model.edges[a, b] = "door", is_open
            if edges.get((b, a), (None,))[0] == "door":
                self.model.edges[b, a] = "door", is_open

        self.attempt(bool(doors), lambda: self.board.open_edge(a, b, is_open=is_open), change)

    @rule(data=st.data(), both=st.booleans(), kind=st.sampled_from(["ladder", "ferry", " "]))
    def link(self, data, both, kind):
        a, b = us.Cell(*data.draw(places)), us.Cell(*data.draw(places))
        facts = data.draw(st.sampled_from([0, 0.5, 2])), kind

        def change():
            self.model.links[a, b] = facts
            if both:
                self.model.links[b, a] = facts

        allowed = self.inside(a, b) and a != b and kind != " "
        self.attempt(allowed, lambda: self.board.link(a, b, facts[0], both=both, kind=kind), change)

    @rule(data=st.data(), both=st.booleans())
    def unlink(self, data, both):
        links = self.model.links
        a, b = data.draw(st.sampled_from(sorted(links) or [((0, 0), (1, 0))]))

        def change():
            for pair in [(a, b), (b, a)][: 1 + both]:
                links.pop(pair, None)

        self.attempt((a, b) in links, lambda: self.board.unlink(a, b, both=both), change)

    @rule(cells=some, closed=st.booleans(), to=st.sampled_from([None, "wardens", "wreckers"]))
    def block(self, cells, closed, to):
        def change():
            for cell in map(us.Cell._make, cells):
                if closed:
                    self.model.blocks[cell, to] = True
                else:
                    self.model.blocks.pop((cell, to), None)

        call = self.board.block if closed else self.board.clear
        self.attempt(self.inside(*cells), lambda: call(cells, side=to), change)

    @rule(cells=some, depth=st.sampled_from([0, 0.5, 2.0, "deep"]))
    def set_value(self, cells, depth):
        def change():
            self.model.depths.update(dict.fromkeys(map(us.Cell._make, cells), depth))

        allowed = self.inside(*cells) and depth != "deep"
        self.attempt(allowed, lambda: self.board.set_value("depth", depth, cells), change)

    @rule(by_function=st.booleans())
    def raise_all(self, by_function):
        centers = self.board.grid.center(self.board.grid.cells)
        if by_function:
            level, levels = (lambda x, y: x - 2 * y), centers @ (1, -2)
        else:
            level = np.arange(12).reshape(3, 4) / 2
            levels = level[self.board.grid.index(self.board.grid.cells)]
        new = dict(zip(self.model.levels, levels.tolist(), strict=True))
        self.attempt(
            True, lambda: self.board.set_elevation(level), lambda: self.model.levels.update(new)
        )
        a, b = us.Cell(1, 1), us.Cell(2, 1)
        assert self.board.slope(a, b) == self.model.levels[b] - self.model.levels[a]

    @rule(level=st.sampled_from([0, 1, 2.5, -1]), cells=some)
    def set_elevation(self, level, cells):
        def change():
            self.model.levels.update(dict.fromkeys(map(us.Cell._make, cells), level))

        self.attempt(self.inside(*cells), lambda: self.board.set_elevation(level, cells), change)

    @rule(name=names, cell=places)
    def add(self, name, cell):
        allowed = name not in self.model.units
        unit = us.Unit(name, "wardens", MOVEMENTS[name])
        self.attempt(
            allowed,
            lambda: self.board.add(unit, at=cell),
            lambda: self.model.units.update({name: us.Cell(*cell)}),
        )

    @rule(name=names, cell=places)
    def put(self, name, cell):
        self.attempt(
            name in self.model.units,
            lambda: self.board.put(name, at=cell),
            lambda: self.model.units.update({name: us.Cell(*cell)}),
        )

    @rule(name=names)
    def remove(self, name):
        def change():
            self.model.units.pop(name)
            self.model.facts.pop(name, None)

        self.attempt(name in self.model.units, lambda: self.board.remove(name), change)

    @rule(name=names, facing=st.sampled_from(["E", "NW", None, "N"]))
    def set_facing(self, name, facing):
        def change():
            self.model.facts[name] = facing, self.model.facts.get(name, (None, None))[1]

        allowed = name in self.model.units and facing != "N"
        self.attempt(allowed, lambda: self.board.set_facing(name, facing), change)

    @rule(name=names, left=st.sampled_from([0, 2, None, -1]))
    def set_left(self, name, left):
        def change():
            self.model.facts[name] = self.model.facts.get(name, (None, None))[0], left

        allowed = name in self.model.units and left != -1
        self.attempt(allowed, lambda: self.board.set_left(name, left), change)

    @rule(name=st.sampled_from(GROUND), cells=st.lists(places, max_size=3))
    def paint(self, name, cells):
        allowed = name != "mudd" and self.inside(*cells)
        meant = cells
        if allowed and len(cells) % 2:  # the same cells, given as a mask or by a function
            meant = self.board.grid.exists & False
            meant[self.board.grid.index(cells)] = True
            meant = meant if len(cells) == 1 else lambda cell: cell in cells
        self.attempt(
            allowed,
            lambda: self.board.paint(name, meant),
            lambda: self.model.ground.update(dict.fromkeys(map(us.Cell._make, cells), name)),
        )

    @invariant()
    def equals_the_model(self):
        self.compare(self.board, self.model)
        for board, model, state in self.left:  # what was copied has not changed
            self.compare(board, model)
            assert board.state == state

    def compare(self, board, model):
        cells = board.grid.cells
        at = board.grid.index(cells)
        assert {cell: board.terrain(cell) for cell in cells} == model.ground
        assert board.elevation[at].tolist() == list(model.levels.values())
        assert board.values("depth")[at].tolist() == list(model.depths.values())
        assert [(unit.name, unit.at) for unit in board.units()] == list(model.units.items())
        for unit in board.units():
            facing, left = model.facts.get(unit.name, (None, None))
            full = unit.movement.points if left is None else left
            assert (unit.facing, unit.left) == (facing, full)
        layers = [{}, {}]
        for name in model.units:
            layers[name == "kite"].update(dict.fromkeys(model.covered(name), name))
        for cell in cells:
            found = [board.unit_at(cell, layer=layer) for layer in ("ground", "air")]
            assert [unit and unit.name for unit in found] == [each.get(cell) for each in layers]
            assert (board.unit_at(cell) is None) == (found == [None, None])
        for side in (None, "wardens", "wreckers"):
            assert set(board.blocks(side=side)) == {cell for cell, to in model.blocks if to == side}
        for (a, b), (kind, is_open) in model.edges.items():
            assert (board.edge(a, b), board.is_open(a, b)) == (kind, is_open)
        many = sum(kind is not None for kind, _ in model.edges.values())
        assert sum(1 + edge.both for edge in board.edges()) == many
        links = {
            (a, b): (cost, kind) for cell in cells for a, b, cost, kind, _ in board.links(cell)
        }
        assert links == model.links
        self.rebuild(board, model)

    def rebuild(self, board, model):
        """Kept step tables and areas equal those of a board made anew."""
        fresh = self.make()
        for (a, b), (cost, kind) in model.links.items():
            fresh.link(a, b, cost, both=False, kind=kind)
        for (a, b), (kind, is_open) in model.edges.items():
            fresh.set_edge(a, b, kind, both=False, is_open=is_open)
        for cell, name in model.ground.items():
            fresh.paint(name, cell)
        fresh.set_elevation(list(model.levels.values()), list(model.levels))
        fresh.set_value("depth", list(model.depths.values()), list(model.depths))
        for cell, to in model.blocks:
            fresh.block(cell, side=to)
        for unit in board.units():
            fresh.add(unit, at=unit.at)
        for name in model.units:
            assert us.reach(board, name, turns=2).plain() == us.reach(fresh, name, turns=2).plain()
            assert (us.areas(board, name).table() == us.areas(fresh, name).table()).all()


BoardMachine.TestCase.settings = settings(examples(1), stateful_step_count=20)
TestBoard = BoardMachine.TestCase


def test_a_unit_asked_again_after_an_undo_does_not_read_steps_of_the_edit():
    board = us.Board(us.SquareGrid(4, 2), {"turf": 1}, features={"crate": us.Feature(blocks=True)})
    board.place("crate", (3, 1))
    for name, row in (("scout", 0), ("pikes", 1)):
        board.add(us.Unit(name, "wardens", us.Movement(9)), at=(0, row))
    before = us.route(board, "scout", (3, 0)).plain()
    board.place("crate", (1, 0))
    assert us.route(board, "pikes", (3, 0)).cost == 4  # both units share a table of steps
    board.undo()
    assert us.route(board, "scout", (3, 0)).plain() == before


@pytest.mark.parametrize("apart", ["copy", "trial", "neither"])
@pytest.mark.parametrize("wall", [False, True])
def test_who_came_back_by_an_undo_is_in_the_way_again(apart, wall):
    board = us.Board(us.SquareGrid(7, 1), {"turf": 1}, edges={"wall": us.Edge(blocks=True)})
    if wall:  # costs go by steps
        board.set_edge((5, 0), (6, 0), "wall")
    scout = us.Unit("scout", "wardens", us.Movement(6, passes="none"))
    board.add(scout, at=(0, 0))
    for name, col in (("pikes", 3), ("raider", 6)):
        board.add(us.Unit(name, "wreckers", us.Movement(6)), at=(col, 0))
    before = us.reach(board, "scout").cells
    paused = us.route(board, "scout", (4, 0), budget=1)
    if apart == "trial":
        with board.trial():
            board.put("pikes", at=(5, 0))
            board.copy()
    else:
        board.put("pikes", at=(5, 0))
        kept = [board.copy()] if apart == "copy" else []
        board.undo()
        assert len(kept) < 2
    assert us.reach(board, "scout", at=(0, 0)).cells == before == us.reach(board, "scout").cells
    assert set(us.reaches(board, "scout", at=[(1, 0)])[1, 0].cells) == set(before)
    assert not us.route(board, "scout", (4, 0))
    while paused.paused:
        paused = paused.resume()
    assert not paused


def test_what_answers_for_a_unit_goes_where_it_goes():
    board = us.Board(us.HexGrid(12, 9), {"turf": 1, "mud": 2})
    board.paint("mud", board.grid.disk((6, 4), 2))
    for name, side, at in (
        ("scout", "wardens", (1, 1)),
        ("pikes", "wardens", (3, 3)),
        ("raider", "wreckers", (9, 7)),
    ):
        board.add(us.Unit(name, side, us.Movement(3)), at=at)
    changes = (
        lambda: board.put("scout", at=(5, 4)),
        lambda: board.put("raider", at=(6, 4)),
        lambda: board.put("scout", at=(7, 4)),
        lambda: board.set_left("scout", 1),
        lambda: board.put("scout", at=(8, 4)),
        lambda: board.set_left("scout", None),
        lambda: board.set_unit("scout", movement=us.Movement(2, passes="all")),
        lambda: board.set_unit("scout", movement=us.Movement(2, {"mud": 1, "turf": 2})),
        board.undo,
        board.undo,
        lambda: board.set_unit("scout", side="wreckers"),
        lambda: board.paint("mud", (9, 4)),
        lambda: board.put("scout", at=(9, 4)),
        board.copy,
        lambda: board.put("pikes", at=(10, 4)),
        lambda: (
            board.remove("scout"),
            board.add(us.Unit("scout", "wardens", us.Movement(4)), at=(0, 0)),
        ),
        lambda: board.put("scout", at=(1, 0)),
    )
    for change in changes:
        # not all are asked for each time, so that some answers are older than others
        for turns in (1, 2) if change is not board.undo else (None,):
            fresh = pickle.loads(pickle.dumps(board))
            for name in ("scout", "pikes"):
                asked = (us.reach(each, name, turns=turns) for each in (board, fresh))
                assert len({str(each.plain()) for each in asked}) == 1, (name, turns)
        change()
