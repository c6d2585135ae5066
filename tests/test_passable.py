"""Steps by cell and direction, against the reference and as edges again."""

import pytest
from hypothesis import given
from reference import Reference
from samples import boards, examples

import understep as us


@examples(0.5)
@given(boards(cells=16))
def test_flags_say_where_single_steps_lead(board):
    for unit in board.units():
        if unit.name != "a":
            board.remove(unit.name)
    truth, grid, flags = Reference(board, "a", 1), board.grid, us.passable(board, "a")
    for cell in grid:
        ways = {way for (way, _), _ in truth._legal(cell) if way is not None}
        names = tuple(grid.directions[way] for way in sorted(ways if truth.stands(cell) else ()))
        assert us.passable(board, "a", cell) == names
        assert grid.unpack(int(flags[grid.index(cell)])) == names


@examples(0.5)
@given(boards(cells=16))
def test_fences_are_the_way_back(board):
    everywhere = us.Movement(1, costs=1, corners="free", features=dict.fromkeys(
        board.feature_kinds, "open"))  # fmt: skip
    board.clear()
    wanted = us.passable(board, everywhere)
    plain = us.Board(board.grid, {"turf": 1}, edges={"wall": us.Edge(blocks=True)})
    us.maps.fence(plain, wanted, "wall")
    us.maps.fence(plain, wanted, "wall")
    assert us.passable(plain, us.Movement(1, corners="free")).tolist() == wanted.tolist()


def test_bad_flags_are_named():
    board = us.Board(us.SquareGrid(3, 1), {"turf": 1}, edges={"wall": us.Edge(blocks=True)})
    for flags, kind, message in (
        ([[1, 2]], "wall", "flags: must be whole numbers"), ([[0.5, 1, 2]], "wall", "flags"),
        ([[1, 2, 3]], "wal", "did you mean 'wall'"),
    ):  # fmt: skip
        with pytest.raises(us.errors.InputError, match=message):
            us.maps.fence(board, flags, kind)
    with pytest.raises(us.errors.InputError, match="movement"):
        us.passable(board, 3)


@pytest.mark.parametrize(
    "feet", [us.Footprint.block(2), us.Footprint.block(3, 1), us.Footprint.cluster(1)]
)
@pytest.mark.parametrize("rules", [{}, {"leap": us.Leap(1)}])
def test_steps_of_every_size_follow_an_edit_of_one_cell(feet, rules):
    size = feet if not rules else us.Footprint.block(1)
    grid = us.HexGrid(9, 9) if len(feet) == 7 else us.SquareGrid(9, 9, diagonals=True)
    movement = us.Movement(4, footprint=size, **rules)
    board = us.Board(grid, {"turf": 1, "deep": None})
    before = us.passable(board, movement).tolist()
    for cell in ((4, 4), (5, 3)):
        board.paint("deep", cell)
        anew = us.Board(grid, {"turf": 1, "deep": None})
        anew.paint("deep", [each for each in grid if board.terrain(each) == "deep"])
        found = us.passable(board, movement).tolist()
        assert found == us.passable(anew, movement).tolist() != before
    assert board.undo()
    assert board.undo()
    assert us.passable(board, movement).tolist() == before
