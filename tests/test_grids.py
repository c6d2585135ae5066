"""Grids: which cells exist, their neighbors and numbers, and the ways to make a grid."""

import itertools

import numpy as np
import pytest
from geometry import KINDS, flat, frames, grids, make_grid, outline
from hypothesis import given
from hypothesis import strategies as st

import understep as us


@given(kind=st.sampled_from(KINDS), data=st.data())
def test_a_grid_is_its_cells(kind, data):
    grid = data.draw(grids(kinds=[kind], frame=frames()))
    cells = list(grid.cells)
    (low_col, low_row), (high_col, high_row) = grid.bounds
    assert grid.size == (high_col - low_col + 1, high_row - low_row + 1)
    assert grid.exists.shape == (grid.rows, grid.cols) == grid.size[::-1]
    assert (len(grid), list(grid)) == (len(cells), cells)
    assert cells == sorted(cells, key=lambda cell: (cell.row, cell.col))
    assert grid.exists.sum() == len(cells) == len(set(cells))
    every = [
        (c, r) for r in range(low_row - 1, high_row + 2) for c in range(low_col - 1, high_col + 2)
    ]
    assert [cell in grid for cell in every] == [cell in set(cells) for cell in every]
    assert grid.numbering.holds(np.array(every)).tolist() == [cell in set(cells) for cell in every]
    table = np.full(grid.exists.shape, -1)
    table[grid.index(cells)] = np.arange(len(cells))
    assert table[grid.exists].tolist() == list(range(len(cells)))
    reach = 1.5 if kind == "square8" else 1.1
    chosen = data.draw(st.sets(st.sampled_from(cells), min_size=1))
    exits, some = grid.exits(), grid.exits(list(chosen))
    for here in cells:
        near = {c for c in cells if 0.5 < abs(flat(grid, c) - flat(grid, here)) < reach}
        found = grid.neighbors(here)
        assert set(found) == near
        names = grid.unpack(exits[grid.index(here)])
        assert [grid.step(here, name) for name in names] == list(found)
        assert grid.flags(names) == exits[grid.index(here)]
        assert [grid.direction(here, other) for other in found] == list(names)
        assert some.dtype == np.uint8
        joined = {grid.step(here, name) for name in grid.unpack(some[grid.index(here)])}
        assert joined == (near & chosen if here in chosen else set())
    twin = type(grid).from_cells(cells[::-1], frame=grid.frame, **grid._own())
    assert list(twin.cells) == cells
    again = make_grid(kind, *grid.size, grid.first, grid.exists, grid.frame)
    assert (again, hash(again)) == (grid, hash(grid))
    assert (again == make_grid(kind, *grid.size, grid.first)) == (
        grid.exists.all() and grid.frame == us.Frame()
    )


@pytest.mark.parametrize("kind", KINDS)
@given(data=st.data())
def test_reversed_rows_lie_in_the_mirror(kind, data):
    grid = data.draw(grids(kinds=[kind]))
    mirrored, cells = grid.flipped(), list(grid.cells)
    moved = list(grid.flip(cells))
    assert set(moved) == set(mirrored.cells)
    assert list(mirrored.flip(moved)) == cells
    here, there = grid.center(cells), mirrored.center(moved)
    assert there[:, 0] == pytest.approx(here[:, 0])
    sums = there[:, 1] + here[:, 1]
    assert sums == pytest.approx(np.full(len(cells), sums[0]))
    assert mirrored.flipped() == grid
    assert moved[0] == (cells[0].col, sum(bound.row for bound in grid.bounds) - cells[0].row)


@given(
    kind=st.sampled_from(KINDS),
    cell=st.sampled_from([(32, 24), (0.1, 0.3), (7, 7)]),
    over=st.tuples(*[st.floats(0, 8)] * 2),
    origin=st.sampled_from([(0, 0), (-3, 1e3)]),
)
def test_fit_leaves_a_strip_too_narrow_for_more(kind, cell, over, origin):
    extent = (cell[0] * (1.5 + over[0]), cell[1] * (1.5 + over[1]))
    own = make_grid(kind, 1, 1)._own()
    grid, left = type(make_grid(kind, 1, 1)).fit(extent, cell, origin=origin, **own)
    assert (grid.extent.width + left[0], grid.extent.height + left[1]) == pytest.approx(extent)
    x = [x for each in grid for x, _ in outline(grid, each)]
    y = [y for each in grid for _, y in outline(grid, each)]
    assert max(x) - min(x) <= extent[0] * (1 + 1e-6)
    assert max(y) - min(y) <= extent[1] * (1 + 1e-6)
    for more in ((1, 0), (0, 1)):
        size = np.add(grid.size, more).tolist()
        wider = make_grid(kind, *size, frame=us.Frame(cell=cell)).extent
        assert wider.width > extent[0] + 1e-9 * cell[0] or wider.height > extent[1] + 1e-9 * cell[1]


@pytest.mark.parametrize("top", ["pointy", "flat"])
@given(
    radius=st.integers(0, 6),
    center=st.none() | st.tuples(*[st.integers(-9, 9)] * 2),
    shifted=st.sampled_from(["odd", "even"]),
    lengths=st.lists(st.integers(0, 5), min_size=1, max_size=6).filter(any),
)
def test_hexagons_and_uneven_lines(top, radius, center, shifted, lengths):
    grid = us.HexGrid.hexagon(radius, center=center, top=top, shifted=shifted)
    center = center or (radius, radius)
    assert len(grid) == 3 * radius * (radius + 1) + 1
    assert max(grid.distance(grid.cells, center)) == radius
    assert grid.bounds[0] == (center[0] - radius, center[1] - radius)
    first = (2, -3)
    grid = us.HexGrid.uneven(lengths, top=top, shifted=shifted, first=first)
    lines = grid.cells.array[:, 1 if top == "pointy" else 0] - first[top == "pointy"]
    assert np.bincount(lines, minlength=len(lengths)).tolist() == lengths
    places = grid.cells.array[:, 0 if top == "pointy" else 1] - first[top != "pointy"]
    assert [places[lines == n].tolist() for n in range(len(lengths))] == [
        list(range(length)) for length in lengths
    ]


@pytest.mark.parametrize("kind", KINDS)
@given(col=st.integers(-5, 5), row=st.integers(-5, 5), n=st.integers(-6, 6))
def test_directions_lead_round_and_back(kind, col, row, n):
    grid = make_grid(kind, 60, 60, (-30, -30))
    start, ways = us.Cell(col, row), len(grid.directions)
    for number, name in enumerate(grid.directions):
        there = grid.step(start, name, n)
        assert there == grid.step(start, number, n)
        assert grid.distance(start, there) == abs(n)
        assert grid.step(there, (number + ways // 2) % ways, n) == start
        gap = flat(grid, there) - flat(grid, start)
        assert ((n * gap).imag < -1e-9) == ("N" in name and n != 0)
        assert ((n * gap).real > 1e-9) == ("E" in name and n != 0)
        assert ((n * gap).imag > 1e-9) == ("S" in name and n != 0)
        assert ((n * gap).real < -1e-9) == ("W" in name and n != 0)
    here = start
    for name in grid.directions:
        here = grid.step(here, name, n)
    assert here == start
    assert grid.step((29, 29), "E" if "E" in grid.directions else "SE", 1) is None
    odd = [start in grid, None in grid, (99, 0) in grid, "ab" in grid, (np.inf, 0) in grid]
    assert odd == [True] + [False] * 4
    assert (0.5, 0) not in grid


@pytest.mark.parametrize(
    ("call", "message"),
    [
        (lambda g: g.neighbors("b2"), r"cell: a cell is a pair of whole numbers"),
        (lambda g: g.neighbors((0.5, 1)), r"for a point of the world, ask cell_at"),
        (lambda g: g.neighbors((6, 0)), r"on the board, \(0, 0\) to \(5, 4\); got \(6, 0\)"),
        (lambda g: g.index([(0, 0), (0, 9)]), r"cells: must lie on the board.*got \(0, 9\)"),
        (lambda g: g.distance([(1, 2, 3)], (0, 0)), r"a: the last axis must have length 2"),
        (lambda g: g.step((0, 0), "nw"), "direction"),
        (lambda g: g.step((0, 0), "E", 1.5), "n: must be a whole number; got 1.5"),
        (lambda g: us.HexGrid(0, 3), "cols: must be a whole number of 1 or more; got 0"),
        (lambda g: us.HexGrid(3, 3, top="flatt"), "did you mean 'flat'"),
        (lambda g: us.SquareGrid(2, 2, exists=[[True]]), r"of shape \(2, 2\)"),
        (lambda g: us.SquareGrid(1, 1, exists=[[1]]), "must be true or false"),
        (lambda g: us.SquareGrid(1, 1, exists=[[False]]), "at least one cell"),
        (lambda g: us.SquareGrid(2, 1, exists=[[True, False]]).neighbors((1, 0)), "no such cell"),
        (lambda g: us.SquareGrid.from_cells([]), "at least one cell"),
        (lambda g: us.SquareGrid.from_cells([(0, 0), (10**6, 10**6)]), r"^cells: .*2\*\*28 cells"),
        (lambda g: us.HexGrid.hexagon(2**32), r"radius: a grid has at most 2\*\*28 cells"),
        (lambda g: us.HexGrid.uneven([2**40, 5]), r"lengths: a grid has at most 2\*\*28 cells"),
        (lambda g: us.HexGrid.uneven(0), "lengths: must be whole numbers; got 0"),
        (lambda g: us.HexGrid.uneven([3], top=np.zeros(2)), "top: must name a choice"),
        (lambda g: us.HexGrid.fit((5, 5), None), "cell: must be width and height"),
        (lambda g: us.HexGrid.hexagon(-1), "radius: must be a whole number of 0 or more"),
        (lambda g: us.HexGrid.uneven([3, -1]), r"lengths\[1\]: .* got -1"),
        (lambda g: us.HexGrid.uneven([0]), "at least one cell"),
        (lambda g: us.HexGrid.fit((5, 5), (9, 9)), "too small for a cell"),
        (lambda g: us.HexGrid.fit((5, "b"), (1, 1)), "extent: must be width and height"),
        (lambda g: us.HexGrid.fit(5, (1, 1)), "extent: must be width and height"),
    ],
)  # fmt: skip
def test_bad_input_is_named(call, message):
    with pytest.raises(us.errors.InputError, match=message):
        call(us.HexGrid(6, 5))


def test_cells_are_a_sequence_with_the_in_of_a_set():
    cells = us.Cells([(3, 1), (0, 0), (3, 1)])
    assert (len(cells), cells[0], cells[-1], cells[1:]) == (
        3, us.Cell(3, 1), us.Cell(3, 1), us.Cells([(0, 0), (3, 1)]),
    )  # fmt: skip
    assert cells[np.array([2, 0])] == cells[np.array([True, False, True])] == us.Cells([(3, 1)] * 2)
    assert (0, 0) in cells
    assert all(thing not in cells for thing in (None, (1, 1), [0, 0], "ab", 5))
    assert cells == us.Cells(cells.array.copy())
    assert cells != us.Cells([(0, 0)])
    assert len({cells, us.Cells(list(cells))}) == 1
    with pytest.raises(ValueError, match="read-only"):
        cells.array[0, 0] = 7
    assert len(us.Cells()) == 0
    assert us.Cells({(1, 2)}).array.tolist() == [[1, 2]]
    assert us.Cells((5, 6)).array.shape == (1, 2)


@pytest.mark.parametrize("kind", KINDS)
def test_a_line_has_no_gap_on_a_board_without_holes(kind):
    grid = make_grid(kind, 7, 6)
    for a, b in itertools.combinations_with_replacement(grid, 2):
        line = grid.line(a, b)
        assert (line[0], line[-1], len(line)) == (a, b, grid.distance(a, b) + 1)
        assert list(line) == list(grid.line(b, a))[::-1]
        assert all(grid.distance(*pair) == 1 for pair in itertools.pairwise(line))


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("corner", [(2**40 - 9, -(2**40)), (-(2**40), 2**40 - 9), (2**28, 2**28)])
def test_far_from_the_first_cell_all_is_as_near_it(kind, corner):
    """Up to the largest address; beyond it every call refuses."""
    near, far = (make_grid(kind, 9, 8, (0, 0) if not x else corner) for x in (0, 1))
    if near.lattice.stagger and (corner[near.lattice.stagger % 2] & 1):
        near = make_grid(kind, 9, 8, (corner[0] & 1, corner[1] & 1))
    shift = np.array(far.first) - np.array(near.first)
    for cell in near:
        there = us.Cell(*(np.array(cell) + shift).tolist())
        assert far.cell_at(far.center(there)) == there
        assert far.facing(far.first, there) == near.facing(near.first, cell)
        for measure in ("steps", "straight"):
            gaps = (
                far.distance(far.first, there, measure=measure),
                near.distance(near.first, cell, measure=measure),
            )
            assert gaps[0] == pytest.approx(gaps[1])
        line = [us.Cell(*(np.array(c) + shift).tolist()) for c in near.line(near.first, cell)]
        assert list(far.line(far.first, there)) == line
    board = us.Board(far.reframed(us.Frame(projection="isometric", lift=1)), {"turf": 1})
    board.set_elevation(2, list(far)[20])
    assert board.cell_at(board.center(list(far)[20])) == list(far)[20]
    for beyond in ((2**40 + 1, 0), (0, -(2**40) - 1)):
        with pytest.raises(us.errors.CellError, match=r"at most \d+ columns"):
            make_grid(kind, 3, 3, beyond)
        with pytest.raises(us.errors.CellError, match=r"at most \d+ columns"):
            far.facing(far.first, beyond)
        with pytest.raises(us.errors.CellError):
            far.distance([far.first], [beyond])
        assert beyond not in far


@pytest.mark.parametrize("first", [(0, 0), (-2, 5)])
def test_a_mask_stands_for_its_cells(first):
    grid = us.HexGrid(5, 4, first=first)
    mask = np.zeros((4, 5), dtype=bool)
    mask[1, 2] = mask[3, 0] = True
    cells = [(first[0] + 2, first[1] + 1), (first[0], first[1] + 3)]
    assert grid.center(mask).tolist() == grid.center(cells).tolist()
    assert (grid.exits(mask) == grid.exits(cells)).all()
    assert grid.rotate(mask, cells[0], 1) == grid.rotate(cells, cells[0], 1)
    board = us.Board(grid, {"turf": 1, "mud": 2})
    board.paint("mud", mask)
    board.add(us.Unit("scout", "wardens", us.Movement(points=9)), at=first)
    assert [cell for cell in grid if board.terrain(cell) == "mud"] == cells
    assert us.route(board, "scout", mask).cells == us.route(board, "scout", cells).cells
    assert us.field(board, "scout", mask).goals == us.field(board, "scout", cells).goals
    with pytest.raises(us.errors.InputError, match="goals: a mask must have the shape"):
        us.route(board, "scout", mask[:2])
