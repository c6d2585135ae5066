"""The board stays consistent, whatever is done to it."""

import numpy as np
import pytest
from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, rule

import understep as us

FOOT = us.Movement(points=5)
PUNT = us.Movement(points=5, costs={"deep": 1, "turf": None})
EDGES = {"wall": us.Edge(blocks=True), "door": us.Edge(blocks=True, door=True)}
GROUND = ["turf", "mud", "deep", "mudd"]
places = st.tuples(st.integers(-1, 4), st.integers(-1, 3))
names = st.sampled_from(["scout", "pikes", "punt", "ox"])


class Model:
    """What a board holds, as plain dictionaries."""

    def __init__(self, *parts):
        self.ground, self.levels, self.units, self.edges = parts

    def copy(self):
        return Model(*[part.copy() for part in vars(self).values()])

    def differs(self, other):
        return {
            cell
            for cell in self.ground
            if self.ground[cell] != other.ground[cell] or self.levels[cell] != other.levels[cell]
        } | {
            at
            for old, new in ((self.units, other.units), (self.edges, other.edges))
            for key, value in set(old.items()) ^ set(new.items())
            for at in ([value] if old is self.units else [key[0]])
        }


class BoardMachine(RuleBasedStateMachine):
    """Edits against a model; what is refused changes nothing, what is taken back comes back."""

    ground = property(lambda self: self.model.ground)
    levels = property(lambda self: self.model.levels)
    units = property(lambda self: self.model.units)
    edges = property(lambda self: self.model.edges)

    @initialize(open_field=st.booleans())
    def begin(self, open_field):
        cells = [us.Cell(col, row) for row in range(3) for col in range(4)]
        cells = cells if open_field else cells[:-1]
        grid = us.HexGrid.from_cells(cells)
        self.board = us.Board(grid, {"turf": 1, "mud": 3, "deep": None}, edges=EDGES)
        self.model = Model(dict.fromkeys(cells, "turf"), dict.fromkeys(cells, 0), {}, {})
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
            call()
            change()
            assert self.board.state != before[1]
            self.step(before)
            assert before[0].differs(self.model) <= set(self.board.changed_since(before[1]))
            return
        with pytest.raises(us.InputError):
            call()
        assert self.board.state == before[1]

    @rule()
    def undo(self):
        self.back(self.board.undo, self.done, self.undone, 0)

    @rule()
    def redo(self):
        self.back(self.board.redo, self.undone, self.done, 1)

    def back(self, call, source, target, side):
        if self.open:
            with pytest.raises(us.JournalError, match="inside a batch or trial"):
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

    @rule(data=st.data(), kind=st.sampled_from(["wall", "door", None, "wal"]), both=st.booleans())
    def set_edge(self, data, kind, both):
        a, b = data.draw(places), data.draw(places)
        near = {a, b} <= set(self.ground) and self.board.grid.distance(a, b) == 1

        def change():
            self.edges[a, b] = kind, False
            if both:
                self.edges[b, a] = kind, False

        allowed = near and kind != "wal"
        self.attempt(allowed, lambda: self.board.set_edge(a, b, kind, both), change)

    @rule(data=st.data(), is_open=st.booleans())
    def open_edge(self, data, is_open):
        doors = [pair for pair, (kind, _) in self.edges.items() if kind == "door"]
        a, b = data.draw(st.sampled_from(sorted(doors) or [((0, 0), (1, 0))]))

        def change():
            self.edges[a, b] = "door", is_open
            if self.edges.get((b, a), (None,))[0] == "door":
                self.edges[b, a] = "door", is_open

        self.attempt(bool(doors), lambda: self.board.open_edge(a, b, is_open), change)

    @rule(by_function=st.booleans())
    def raise_all(self, by_function):
        centers = self.board.grid.center(self.board.grid.cells)
        if by_function:
            level, levels = (lambda x, y: x - 2 * y), centers @ (1, -2)
        else:
            level = np.arange(12).reshape(3, 4) / 2
            levels = level[self.board.grid.index(self.board.grid.cells)]
        new = dict(zip(self.levels, levels.tolist(), strict=True))
        self.attempt(True, lambda: self.board.raise_to(level), lambda: self.levels.update(new))
        a, b = us.Cell(1, 1), us.Cell(2, 1)
        assert self.board.slope(a, b) == self.levels[b] - self.levels[a]

    @rule(level=st.sampled_from([0, 1, 2.5, -1]), cells=st.lists(places, min_size=1, max_size=3))
    def raise_to(self, level, cells):
        self.attempt(
            all(cell in self.ground for cell in cells),
            lambda: self.board.raise_to(level, cells),
            lambda: self.levels.update(dict.fromkeys(map(us.Cell._make, cells), level)),
        )

    def stands(self, name, cell):
        free = cell not in self.units.values() or self.units.get(name) == cell
        costs = {"turf": None, "deep": 1} if name == "punt" else {"deep": None}
        return cell in self.ground and free and costs.get(self.ground[cell], 1) is not None

    @rule(name=names, cell=places)
    def add(self, name, cell):
        allowed = name not in self.units and self.stands(name, cell)
        unit = us.Unit(name, "wardens", PUNT if name == "punt" else FOOT)
        self.attempt(
            allowed, lambda: self.board.add(unit, at=cell), lambda: self.units.update({name: cell})
        )

    @rule(name=names, cell=places)
    def put(self, name, cell):
        allowed = name in self.units and self.stands(name, cell)
        self.attempt(
            allowed, lambda: self.board.put(name, at=cell), lambda: self.units.update({name: cell})
        )

    @rule(name=names)
    def remove(self, name):
        known = name in self.units
        self.attempt(known, lambda: self.board.remove(name), lambda: self.units.pop(name))

    @rule(name=st.sampled_from(GROUND), cells=st.lists(places, max_size=3))
    def paint(self, name, cells):
        bars = {unit: "turf" if unit == "punt" else "deep" for unit in self.units}
        allowed = name != "mudd" and all(cell in self.ground for cell in cells)
        allowed = allowed and not any(
            at in cells and bars[unit] == name for unit, at in self.units.items()
        )
        meant = cells
        if allowed and len(cells) % 2:  # the same cells, given as a mask or by a function
            meant = self.board.grid.exists & False
            meant[self.board.grid.index(cells)] = True
            meant = meant if len(cells) == 1 else lambda cell: cell in cells
        self.attempt(
            allowed,
            lambda: self.board.paint(name, meant),
            lambda: self.ground.update(dict.fromkeys(map(us.Cell._make, cells), name)),
        )

    @invariant()
    def equals_the_model(self):
        self.compare(self.board, self.model)
        for board, model, state in self.left:  # what was copied has not changed
            self.compare(board, model)
            assert board.state == state

    def compare(self, board, model):
        ground, units = model.ground, model.units
        assert {cell: board.terrain(cell) for cell in board.grid.cells} == ground
        assert [(unit.name, unit.at) for unit in board.units()] == list(units.items())
        assert board.elevation[board.grid.index(board.grid.cells)].tolist() == list(
            model.levels.values()
        )
        standing = {at: name for name, at in units.items()}
        for (a, b), (kind, is_open) in model.edges.items():
            assert (board.edge(a, b), board.is_open(a, b)) == (kind, is_open)
        laid = board.edges()
        many = sum(kind is not None for kind, _ in model.edges.values())
        assert sum(1 + edge.both for edge in laid) == many
        for cell in board.grid.cells:
            unit = board.unit_at(cell)
            assert (unit.name if unit else None) == standing.get(cell)
            assert board.vacant(cell) == (cell not in standing)
        for name in units:  # kept step tables equal one made anew
            fresh = us.Board(board.grid, dict(board.terrains), edges=EDGES)
            for (a, b), (kind, is_open) in model.edges.items():
                fresh.set_edge(a, b, kind, False, is_open)
            for kind in board.terrains:
                fresh.paint(kind, [cell for cell in ground if ground[cell] == kind])
            for unit in board.units():
                fresh.add(unit, at=unit.at)
            assert us.reach(board, name).plain() == us.reach(fresh, name).plain()


BoardMachine.TestCase.settings = settings(max_examples=40, stateful_step_count=25, deadline=None)
TestBoard = BoardMachine.TestCase


@pytest.mark.parametrize(
    ("call", "error", "message"),
    [
        (lambda b: b.paint("turff", (0, 0)), us.NameUnknownError, "did you mean 'turf'"),
        (lambda b: us.reach(b, "scoot"), us.NameUnknownError, "did you mean 'scout'"),
        (lambda b: b.put("scout", at=(1, 0)), us.OccupiedError, "at: unit 'pikes' stands on "),
        (lambda b: us.route(b, "scout", to=(9, 9)), us.CellError, r"to: must lie on the board"),
        (lambda b: us.route(b, "scout", to=(1.0, 1)), us.CellError, "whole numbers"),
        (lambda b: us.route(b, "scout", (1, 1), prefer="strait"), us.NameUnknownError, "straight"),
        (lambda b: b.slope((0, 0), (2, 2)), us.CellError, r"b: must be next to \(0, 0\)"),
        (lambda b: us.reach(b, "scout", turns=0), us.InputError, "turns: must be a whole number"),
        (
            lambda b: b.paint("deep", [(1, 1), (0, 0)]),
            us.OccupiedError,
            "'scout' stands there: 'deep' at",
        ),
        (
            lambda b: us.Movement(points=-1),
            us.CostError,
            "points: a cost is never negative; got -1",
        ),
        (
            lambda b: us.Movement(3, {"mud": float("nan")}),
            us.CostError,
            "costs at 'mud': .* finite",
        ),
        (lambda b: us.Movement(3, {"mud": "2"}), us.CostError, "a cost is a number"),
        (lambda b: us.Board(b.grid, {"turf": -2}), us.CostError, "terrain at 'turf'"),
        (lambda b: us.Board(b.grid, {}), us.InputError, "terrain: must map"),
        (lambda b: us.Terrain(glyph="ab"), us.InputError, "glyph: must be one"),
        (lambda b: us.reach(b, "scout").route((2, 2)), us.NotReached, "'deep' at .* is impassable"),
    ],
)
def test_bad_input_is_named_and_changes_nothing(call, error, message):
    board = us.Board(us.SquareGrid(4, 4), {"turf": 1, "mud": 2, "deep": None})
    board.paint("deep", (2, 2))
    board.add(us.Unit("scout", "wardens", FOOT), at=(0, 0))
    board.add(us.Unit("pikes", "wardens", FOOT), at=(1, 0))
    state = board.state
    with pytest.raises(error, match=message):
        call(board)
    assert board.state == state


def test_costs_are_exact():
    board = us.Board(us.SquareGrid(40, 1), {"tenth": 0.1, "third": 1 / 3, "speck": 1e-9})
    board.add(us.Unit("scout", "wardens", us.Movement(points=4)), at=(0, 0))
    reach = us.reach(board, "scout")
    assert (reach[(3, 0)].cost, reach[(30, 0)].cost, reach[(39, 0)].left) == (0.3, 3, 0.1)
    board.paint("third", [(1, 0), (2, 0), (3, 0)])
    assert us.reach(board, "scout")[(3, 0)].cost == 1
    board.paint("speck", (1, 0))
    assert us.reach(board, "scout")[(1, 0)].cost == 0.001
