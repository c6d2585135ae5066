"""The board stays consistent, whatever is done to it."""

import pytest
from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, rule

import understep as us

FOOT = us.Movement(points=5)
PUNT = us.Movement(points=5, costs={"deep": 1, "turf": None})
GROUND = ["turf", "mud", "deep", "mudd"]
places = st.tuples(st.integers(-1, 4), st.integers(-1, 3))
names = st.sampled_from(["scout", "pikes", "punt", "ox"])


class BoardMachine(RuleBasedStateMachine):
    """Edits against a model of two dictionaries; what is refused changes nothing."""

    @initialize()
    def begin(self):
        self.board = us.Board(us.HexGrid(4, 3), {"turf": 1, "mud": 3, "deep": None})
        self.ground = dict.fromkeys(self.board.grid.cells, "turf")
        self.units = {}

    def attempt(self, allowed, call):
        state = self.board.state
        if allowed:
            call()
            assert self.board.state != state
            return
        with pytest.raises(us.InputError):
            call()
        assert self.board.state == state

    def stands(self, name, cell):
        free = cell not in self.units.values() or self.units.get(name) == cell
        costs = {"turf": None, "deep": 1} if name == "punt" else {"deep": None}
        return cell in self.ground and free and costs.get(self.ground[cell], 1) is not None

    @rule(name=names, cell=places)
    def add(self, name, cell):
        allowed = name not in self.units and self.stands(name, cell)
        unit = us.Unit(name, "wardens", PUNT if name == "punt" else FOOT)
        self.attempt(allowed, lambda: self.board.add(unit, at=cell))
        if allowed:
            self.units[name] = cell

    @rule(name=names, cell=places)
    def put(self, name, cell):
        allowed = name in self.units and self.stands(name, cell)
        self.attempt(allowed, lambda: self.board.put(name, at=cell))
        if allowed:
            self.units[name] = cell

    @rule(name=names)
    def remove(self, name):
        self.attempt(name in self.units, lambda: self.board.remove(name))
        self.units.pop(name, None)

    @rule(name=st.sampled_from(GROUND), cells=st.lists(places, max_size=3))
    def paint(self, name, cells):
        bars = {unit: "turf" if unit == "punt" else "deep" for unit in self.units}
        allowed = name != "mudd" and all(cell in self.ground for cell in cells)
        allowed = allowed and not any(
            at in cells and bars[unit] == name for unit, at in self.units.items()
        )
        self.attempt(allowed, lambda: self.board.paint(name, cells))
        if allowed:
            self.ground.update(dict.fromkeys(map(us.Cell._make, cells), name))

    @invariant()
    def equals_the_model(self):
        board = self.board
        assert {cell: board.terrain(cell) for cell in board.grid.cells} == self.ground
        assert {unit.name: unit.at for unit in board.units()} == self.units
        standing = {at: name for name, at in self.units.items()}
        for cell in board.grid.cells:
            unit = board.unit_at(cell)
            assert (unit.name if unit else None) == standing.get(cell)
            assert board.vacant(cell) == (cell not in standing)
        for name in self.units:  # kept step tables equal one made anew
            fresh = us.Board(board.grid, dict(board.terrains))
            for kind in board.terrains:
                fresh.paint(kind, [cell for cell in self.ground if self.ground[cell] == kind])
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
        (lambda b: b.put("scout", at=(1, 0)), us.OccupiedError, "at: unit 'pikes' stands there"),
        (lambda b: us.route(b, "scout", to=(9, 9)), us.CellError, r"to: must lie on the board"),
        (lambda b: us.route(b, "scout", to=(1.0, 1)), us.CellError, "whole numbers"),
        (lambda b: us.route(b, "scout", (1, 1), prefer="strait"), us.NameUnknownError, "straight"),
        (lambda b: us.reach(b, "scout", turns=0), us.InputError, "turns: must be a whole number"),
        (lambda b: b.paint("deep", [(1, 1), (0, 0)]), us.OccupiedError, "'scout' stands at"),
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
