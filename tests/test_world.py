"""The world side of grids and boards: against geometry worked out anew, for every frame."""

import itertools
import math

import numpy as np
import pytest
from geometry import (
    chord,
    depth_in,
    flat,
    frames,
    grids,
    kind_of,
    lay,
    make_grid,
    middle,
    outline,
    polygon,
)
from hypothesis import given
from hypothesis import strategies as st

import understep as us


def close(grid):
    """How near two world points of a grid must be to count as one."""
    return 1e-9 * (max(grid.cell_size) + max(map(abs, grid.frame.origin)))


@given(grid=grids(frame=frames()), data=st.data())
def test_centers_corners_and_picking_agree_with_geometry(grid, data):
    cells = list(grid.cells)
    centers, corners = grid.center(cells), grid.corners(cells)
    slack = close(grid)
    assert centers == pytest.approx(np.array([middle(grid, cell) for cell in cells]), abs=slack)
    assert corners == pytest.approx(np.array([outline(grid, cell) for cell in cells]), abs=slack)
    shared = {tuple(corner) for corner in corners.reshape(-1, 2).tolist()}
    apart = 1e-3 * min(grid.cell_size)
    assert len({(round(x / apart), round(y / apart)) for x, y in shared}) >= len(shared) / 1.01
    one = [grid.center(cell).tolist() for cell in cells]
    assert one == centers.tolist()
    assert [grid.cell_at(point) for point in centers] == cells
    x, y, wide, high = grid.extent
    low, far = corners.min(axis=(0, 1)), corners.max(axis=(0, 1))
    assert ((x, y), (x + wide, y + high)) == (pytest.approx(low), pytest.approx(far))
    places = st.floats(-0.2, 1.2)
    points = np.array(
        [(x + data.draw(places) * wide, y + data.draw(places) * high) for _ in "1234"]
    )
    found, inside = grid.cells_at(points)
    assert found.dtype == np.int64
    for point, cell, is_in in zip(points, map(tuple, found.tolist()), inside, strict=True):
        assert grid.cell_at(point) == (cell if is_in else None)
        assert is_in == (cell in grid)
        assert depth_in(outline(grid, cell), point) > -1e-6
        snapped = grid.snap(point)
        assert snapped.tolist() in centers.tolist()
        assert not is_in or snapped.tolist() == grid.center(cell).tolist()


@given(grid=grids(frame=frames()), data=st.data())
def test_a_border_belongs_to_the_cell_below_or_right(grid, data):
    cell = data.draw(st.sampled_from(list(grid.cells)))
    shape = polygon(kind_of(grid))
    corner = data.draw(st.integers(0, len(shape) - 1))
    share = data.draw(st.sampled_from([0, 0.5, 1 / 3]))
    start, end = shape[corner], shape[(corner + 1) % len(shape)]
    spot = flat(grid, cell) + start * (1 - share) + end * share
    # the library's own corner, so that the point is on the border to the last bit
    own = grid.corners(cell)[:: -1 if grid.frame.rows == "up" else 1]
    point = own[corner] * (1 - share) + own[(corner + 1) % len(own)] * share
    found = tuple(grid.cells_at(point)[0].tolist())
    moved = lay(grid, spot + 1e-6 + 8e-6j)
    if abs(grid.frame.origin[0]) < 100:
        assert depth_in(outline(grid, found), moved) > 0


@given(grid=grids(cells=20, frame=frames(lift=True)), data=st.data())
def test_raised_picking_agrees_with_pillars_painted_back_to_front(grid, data):
    board = us.Board(grid, {"turf": 1})
    levels = {c: data.draw(st.sampled_from([0, 0, 1, 2, 3.5, -1])) for c in grid.cells}
    board.set_elevation(list(levels.values()), list(levels))
    lift, down = grid.frame.lift, 1 if grid.frame.y_axis == "down" else -1
    base = min(0, *levels.values()) * lift
    shapes = {cell: outline(grid, cell) for cell in levels}
    x, y, wide, high = grid.extent
    up = 4 * lift
    points = [
        (x + data.draw(st.floats(0, 1)) * wide, y + data.draw(st.floats(-0.5, 1.2)) * (high + up))
        for _ in range(6)
    ]
    corners = board.corners(grid.cells).reshape(-1, 2)  # upright borders may lie above each other
    found, there = board.cells_at(corners[:: max(1, len(corners) // 12)] - (0, down * lift / 3))
    assert all((cell in levels) or not here for cell, here in zip(
        map(tuple, found.tolist()), there, strict=True))  # fmt: skip
    cells, inside = board.cells_at(points)
    for point, cell, is_in in zip(points, cells.tolist(), inside.tolist(), strict=True):
        seen, sure = [], True
        for each, shape in shapes.items():
            sides = min(abs(corner[0] - point[0]) for corner in shape)
            sure = sure and sides > 1e-5 * max(grid.cell_size)
            ground = chord(shape, point[0])
            if ground is None:
                continue
            far, near = sorted(down * y for y in ground)
            top, bottom = far - levels[each] * lift, near - base
            off = min(abs(point[1] * down - top), abs(point[1] * down - bottom))
            sure = sure and off > 1e-5 * max(grid.cell_size)
            if top <= point[1] * down <= bottom:
                seen.append((far + near, each))
        seen = max(seen)[1] if seen else None  # the nearest, painted last
        if sure:
            assert (tuple(cell) if is_in else None) == seen
            assert board.cell_at(point) == seen
    every = list(levels)
    raised = [
        (px, py - down * lift * levels[c])
        for c, (px, py) in zip(every, grid.center(every), strict=True)
    ]
    assert board.center(every) == pytest.approx(np.array(raised))
    assert board.corners(every).mean(axis=1) == pytest.approx(np.array(raised))
    size = (10, 4)
    feet = board.anchor(every, point="foot", picture=size) - board.anchor(
        every, point="middle", picture=size
    )
    assert feet == pytest.approx(np.tile([0, -2 * down], (len(every), 1)))


@given(grid=grids(frame=frames()), data=st.data())
def test_depth_order_paints_what_is_in_front_last(grid, data):
    cells = data.draw(st.permutations(list(grid.cells)))
    things, taken = [], set()
    for cell in cells[: data.draw(st.integers(1, 12))]:
        cols, rows = data.draw(st.sampled_from([(1, 1), (1, 1), (2, 2), (4, 1), (1, 4)]))
        area = {(cell[0] + col, cell[1] + row) for col in range(cols) for row in range(rows)}
        thing = sorted(area) if isinstance(grid, us.SquareGrid) else [cell]
        if not taken & set(thing):
            things.append(thing)
            taken |= set(thing)
    order = us.draw.depth_order(grid, things).tolist()
    assert sorted(order) == list(range(len(things)))
    down = 1 if grid.frame.y_axis == "down" else -1
    place = {thing: number for number, thing in enumerate(order)}

    shapes = [[outline(grid, cell) for cell in thing] for thing in things]
    tiny = 1e-4 * min(grid.cell_size)
    for (a, one), (b, other) in itertools.permutations(enumerate(shapes), 2):
        for upper, lower in itertools.product(one, other):
            left = max(min(x for x, _ in shape) for shape in (upper, lower))
            right = min(max(x for x, _ in shape) for shape in (upper, lower))
            if right - left > tiny:  # they meet on the screen: the lower one is in front
                here, there = (chord(shape, (left + right) / 2) for shape in (upper, lower))
                if down * (sum(there) - sum(here)) > tiny:
                    assert place[a] < place[b]
    again = us.draw.depth_order(grid, things[::-1]).tolist()
    assert [things[::-1][n] for n in again] == [things[n] for n in order]


def test_depth_order_on_one_cell_goes_by_level_then_as_given():
    grid = us.HexGrid(5, 5)
    order = us.draw.depth_order(grid, [(1, 1), (1, 1), (0, 0), (1, 1)], levels=[2, 1, 5, 1])
    assert order.tolist() == [2, 1, 3, 0]
    assert us.draw.depth_order(grid, []).tolist() == []
    assert us.draw.depth_order(grid, grid.cells.array[::-1]).tolist() == list(range(24, -1, -1))


@given(grid=grids(frame=frames()), data=st.data())
def test_things_on_their_way_are_ordered_by_where_they_are(grid, data):
    cells = data.draw(st.permutations(list(grid.cells)))[:6]
    other = cells[0]
    middles = {n: tuple(grid.center(cell)) for n, cell in enumerate(cells)}
    plain = us.draw.depth_order(grid, cells).tolist()
    # who stands where its cell is comes where its cell does; all moved to one cell: as given
    assert us.draw.depth_order(grid, cells, at=middles).tolist() == plain
    assert us.draw.depth_order(grid, [other] * len(cells), at=middles).tolist() == plain
    moved = dict.fromkeys(range(len(cells)), middles[0])
    assert us.draw.depth_order(grid, cells, at=moved).tolist() == list(range(len(cells)))
    share = data.draw(st.floats(0.1, 0.9))
    along = np.array(middles[0]) * (1 - share) + np.array(middles[len(cells) - 1]) * share
    order = us.draw.depth_order(
        grid, [cells[0], cells[0], cells[-1]], at={1: tuple(along)}
    ).tolist()
    if len(cells) > 1:  # it is between the two it goes from and to
        first = us.draw.depth_order(grid, [cells[0], cells[-1]])[0]
        assert order == ([2, 1, 0] if first else [0, 1, 2])


@given(grid=grids(frame=frames()), data=st.data())
def test_the_extent_of_a_board_holds_all_of_it_as_it_is_seen(grid, data):
    board = us.Board(grid, {"turf": 1})
    cells = list(grid.cells)
    for cell in data.draw(st.lists(st.sampled_from(cells), max_size=4)):
        board.set_elevation(data.draw(st.sampled_from([-1, 2, 3.5])), cell)
    box = board.extent
    every = np.concatenate([board.corners(cells), grid.corners(cells)]).reshape(-1, 2)
    low, high = every.min(axis=0), every.max(axis=0)
    assert (box.x, box.y) == pytest.approx(tuple(low))
    assert (box.width, box.height) == pytest.approx(tuple(high - low))


@given(grid=grids(frame=frames()))
def test_bearings_and_sides_are_those_on_the_screen(grid):
    down = 1 if grid.frame.y_axis == "down" else -1
    home = next(iter(grid.cells))
    start = complex(*middle(grid, home))
    beside = grid.lattice.around(np.array(home)).tolist()
    for way, there in zip(grid.directions, beside, strict=True):
        gap = complex(*middle(grid, there)) - start
        angle = np.degrees(np.arctan2(gap.real, -gap.imag * down)) % 360
        apart = abs(grid.bearing(way) - angle) % 360
        assert min(apart, 360 - apart) < 1e-6
    for there in grid.cells:
        gap = complex(*middle(grid, there)) - start
        straight = abs(gap.real) < 1e-9 * abs(gap) or there == home
        for before in ("left", "right"):
            side = grid.side_facing(home, there, before=before)
            assert side == (before if straight else "right" if gap.real > 0 else "left")


@pytest.mark.parametrize(
    ("call", "message"),
    [
        (lambda g: g.center((1.5, 2)), r"cells are whole numbers, not float64; got \(1.5, 2\)"),
        (lambda g: g.cell_at("here"), "point: must be two numbers"),
        (lambda g: g.cell_at(("1", "2")), "point: must be two numbers"),
        (lambda g: g.cell_at((10**400, 0)), "point: must be two numbers"),
        (lambda g: g.cell_at((np.nan, 0)), "point: must be finite"),
        (lambda g: g.cells_at([(0, 0), (np.inf, 0)]), r"points: must be finite; got \[inf, 0.0\]"),
        (lambda g: g.cells_at([(0, 0, 0)]), r"must be numbers \(..., 2\)"),
        (lambda g: g.cells_at([("a", "b")]), r"must be numbers \(..., 2\)"),
        (lambda g: g.snap([[0, 0], [1]]), r"must be numbers \(..., 2\)"),
        (lambda g: g.anchor((0, 0), point="feet"), "there are: foot, middle"),
        (lambda g: g.anchor((0, 0), picture=(-1, 2)), "width and height must be 0 or more"),
        (lambda g: g.anchor((0, 0), picture=7), "must be width and height"),
        (lambda g: g.bearing("up"), "direction"),
        (lambda g: us.draw.depth_order(g, [[]]), r"things at things\[0\]: covers at least one cell"),
        (lambda g: us.draw.depth_order(g, [(0, 0)], levels=[1, 2]), "a number for each of 1 things"),
        (lambda g: us.draw.depth_order(g, [(0, 0)], at={1: (0, 0)}), "at: must be for one of 1 things"),
        (lambda g: us.draw.depth_order(g, [(0, 0)], at={0: (0, 0, 1)}), "numbers"),
        (lambda g: us.draw.depth_order(g, [(0, 0)], at={0: (0, math.inf)}), r"finite numbers"),
        (lambda g: us.Frame(cell=(0, 1)), "both must be above 0"),
        (lambda g: us.Frame(origin=(0, np.nan)), "origin: must be two finite numbers"),
        (lambda g: us.Frame(cell=(1, 2, 3)), "cell: must be two finite numbers"),
        (lambda g: us.Frame(rotation="90"), "rotation: must be a finite number"),
        (lambda g: us.Frame(lift=-1), "lift: must be 0 or more"),
        (lambda g: us.Frame(projection="isometrik"), "did you mean 'isometric'"),
        (lambda g: us.HexGrid(2, 2, frame=(1, 1)), "frame: must be a Frame"),
        (lambda g: us.Board(g, {"a": 1}).set_elevation([1, 2], [(0, 0)]), "one for each of 1 cells"),
        (lambda g: us.Board(g, {"a": 1}).set_elevation(np.nan, (0, 0)), "level: must be numbers within"),
        (lambda g: us.Board(g, {"a": 1}).set_elevation(1, (9, 9)), "must lie on the board"),
    ],
)  # fmt: skip
def test_bad_input_is_named(call, message):
    with pytest.raises(us.errors.InputError, match=message):
        call(us.HexGrid(6, 5))


def test_far_points_are_off_the_board():
    for grid in (us.HexGrid(3, 3), us.SquareGrid(3, 3)):
        assert grid.cell_at((1e300, -1e300)) is None
        assert not grid.cells_at([(1e300, 0), (0, -1e17)])[1].any()
        assert grid.cells_at([])[0].shape == (0, 2)
        assert grid.snap((1e9, 1e9)).tolist() == grid.center((2, 2)).tolist()


@pytest.mark.parametrize("rows", ["down", "up"])
@pytest.mark.parametrize("kind", ["square8", "pointy-odd", "flat-even"])
def test_spacing_is_exact_and_names_are_as_seen(kind, rows):
    grid = make_grid(kind, 200, 100, frame=us.Frame(spacing=(47, 13), rows=rows))
    home = grid.center((0, 0))
    cols = [col for col in range(200) if grid.center((col, 0))[1] == home[1]]
    lines = [row for row in range(100) if grid.center((0, row))[0] == home[0]]
    sign = 1 if rows == "down" else -1
    assert home.tolist() == [0, 0]
    assert [grid.center((col, 0)).tolist() for col in cols] == [[47 * col, 0] for col in cols]
    for row in lines:
        assert grid.center((0, row)).tolist() == [0, sign * 13 * row]
    points = {"N": (0, -1), "E": (1, 0), "S": (0, 1), "W": (-1, 0)}
    for name in grid.directions:
        step = grid.center(grid.step((50, 50), name)) - grid.center((50, 50))
        for letter in name:
            assert np.dot(step, points[letter]) > 0
    low, high = grid.corners((3, 3)).min(axis=0), grid.corners((3, 3)).max(axis=0)
    box = grid.box((3, 3))
    assert (box.x, box.y, box.width, box.height) == pytest.approx((*low, *(high - low)))
    top = grid.corner((3, 3), "NW" if "N" not in grid.lattice.corner_names else "N")
    assert top[1] == pytest.approx(low[1])
    assert (grid.corners((3, 3)) == top).all(axis=1).any()


def test_sprites_have_four_or_eight_ways_to_look():
    grid = us.SquareGrid(3, 3, diagonals=True)
    assert [grid.compass(name) for name in grid.directions] == list(grid.directions)
    four = [grid.compass(name, points=4) for name in grid.directions]
    assert four == ["N", "E", "E", "E", "S", "W", "W", "W"]
    hexes = us.HexGrid(3, 3, frame=us.Frame(projection="isometric"))
    assert {hexes.compass(name) for name in hexes.directions} <= set(grid.directions)
    for call, message in (
        (lambda: grid.compass("E", points=6), "points: must be 4 or 8"),
        (lambda: grid.corner((0, 0), "N"), "name: must name a corner"),
        (lambda: us.Frame(cell=(1, 1), spacing=(1, 1)), "give this or cell, not both"),
        (lambda: us.Frame(rows="upward"), "rows: .*there are: down, up"),
    ):
        with pytest.raises(us.errors.InputError, match=message):
            call()
