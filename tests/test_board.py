"""The board: bad input is named and changes nothing; costs are exact."""

import pytest

import understep as us
from understep.files.writer import dump

FOOT = us.Movement(points=5)


@pytest.mark.parametrize(
    ("call", "error", "message"),
    [
        (lambda b: b.paint("turff", (0, 0)), us.errors.NameUnknownError, "did you mean 'turf'"),
        (lambda b: us.reach(b, "scoot"), us.errors.NameUnknownError, "did you mean 'scout'"),
        (
            lambda b: b.put("scout", at=(1, 0)),
            us.errors.OccupiedError,
            "at: unit 'pikes' stands on ",
        ),
        (lambda b: us.route(b, "scout", goals=(1.0, 1)), us.errors.CellError, "whole numbers"),
        (
            lambda b: us.route(b, "scout", (1, 1), prefer="strait"),
            us.errors.NameUnknownError,
            "straight",
        ),
        (lambda b: b.slope((0, 0), (2, 2)), us.errors.CellError, r"b: must be next to \(0, 0\)"),
        (
            lambda b: us.reach(b, "scout", turns=0),
            us.errors.InputError,
            "turns: must be a whole number",
        ),
        (
            lambda b: b.paint("deep", [(1, 1), (0, 0)]),
            us.errors.OccupiedError,
            "'scout' stands there: 'deep' at",
        ),
        (
            lambda b: us.Movement(points=-1),
            us.errors.CostError,
            "points: a cost is never negative; got -1",
        ),
        (
            lambda b: us.Movement(3, {"mud": float("nan")}),
            us.errors.CostError,
            "costs at 'mud': .* finite",
        ),
        (lambda b: us.Movement(3, {"mud": "2"}), us.errors.CostError, "a cost is a number"),
        (lambda b: us.Board(b.grid, {"turf": -2}), us.errors.CostError, "terrain at 'turf'"),
        (lambda b: us.Board(b.grid, {}), us.errors.InputError, "terrain: must map"),
        (lambda b: us.Terrain(glyph="ab"), us.errors.InputError, "glyph: must be one"),
        (
            lambda b: us.reach(b, "scout").route_to((2, 2)),
            us.errors.NotReached,
            "'deep' at .* is impassable",
        ),
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


def test_half_a_character_is_refused_where_it_is_given():
    half, board = "pi\ud800kes", us.Board(us.SquareGrid(3, 1), {"turf": 1}, properties={"sign": ""})
    for call in (
        lambda: us.Unit(half, "ours", us.Movement(1)),
        lambda: us.Unit("pikes", half, us.Movement(1)),
        lambda: us.Movement(1, layer=half),
        lambda: us.Movement(1, costs={half: 1}),
        lambda: us.Terrain(closed_to=half),
        lambda: us.Leap(terrains=[half]),
        lambda: us.Turns(board, [half]),
        lambda: us.Board(board.grid, {half: 1}),
        lambda: us.Board(board.grid, {"turf": 1}, edges={half: us.Edge()}),
        lambda: us.Board(board.grid, {"turf": 1}, properties={half: 1}),
        lambda: board.link((0, 0), (2, 0), kind=half),
        lambda: board.block((0, 0), side=half),
        lambda: board.set_value("sign", half, (0, 0)),
        lambda: setattr(board, "title", half),
    ):
        with pytest.raises(us.errors.InputError, match="half of a character"):
            call()
    assert dump(board)
    board.movements[half] = us.Movement(1)
    with pytest.raises(us.errors.InputError, match="half of a character"):
        dump(board)


@pytest.mark.parametrize("cost", [-(10**400), 10**400, float("inf"), float("nan"), -1])
def test_a_cost_that_cannot_be_is_refused_however_large(cost):
    for call in (
        lambda: us.Terrain(cost),
        lambda: us.Movement(cost),
        lambda: us.Edge(add=cost),
        lambda: us.Movement(1, costs=cost),
    ):
        with pytest.raises(us.errors.CostError, match="a cost is"):
            call()
