"""Rings, disks, lines, cones, patterns and outlines, against their definitions."""

import cmath
import itertools
import math

import numpy as np
import pytest
from geometry import KINDS, flat, frames, grids, make_grid, wraps
from hypothesis import given
from hypothesis import strategies as st

import understep as us

SQUARES = KINDS[:2]


def steps(grid, a, b):
    """Distance by definition: how many steps, from where the cells lie."""
    gap = flat(grid, b) - flat(grid, a)
    x, y = abs(gap.real), abs(gap.imag)
    if isinstance(grid, us.SquareGrid):
        return round(max(x, y) if grid.diagonals else x + y)
    if grid.top == "flat":
        x, y = y, x
    return round(max(x + y / 3**0.5, 2 * y / 3**0.5))


def turn(grid, gap, start):
    """The angle from one way to another, clockwise, in degrees."""
    return math.degrees(cmath.phase(gap / start)) % 360


@pytest.mark.parametrize("kind", KINDS)
@given(data=st.data())
def test_rings_disks_and_cones_are_what_they_say(kind, data):
    grid = data.draw(grids(kinds=[kind]))
    cells = list(grid.cells)
    here = data.draw(st.sampled_from(cells))
    radius = data.draw(st.integers(0, 6) | st.sampled_from([49, 10**30]))
    way = data.draw(st.sampled_from(grid.directions))
    beside = np.array(here) + grid.lattice.deltas[grid.lattice.lines(np.array(here))]
    ways = [flat(grid, cell) - flat(grid, here) for cell in beside.tolist()]
    far = {cell: steps(grid, here, cell) for cell in cells}
    assert grid.distance(here, cells).tolist() == list(far.values())
    assert [grid.distance(here, cell) for cell in cells] == list(far.values())

    def around(cell):
        angle = turn(grid, flat(grid, cell) - flat(grid, here), ways[0]) if cell != here else 0
        return far[cell], angle if angle < 359.999 else 0

    wanted = sorted((cell for cell in cells if far[cell] <= radius), key=around)
    assert list(grid.disk(here, radius)) == wanted
    assert list(grid.ring(here, radius)) == [cell for cell in wanted if far[cell] == radius]
    angle = data.draw(st.sampled_from([None, 0, 50, 130, 360]))
    half = (90 if kind in SQUARES else 60) / 2 if angle is None else angle / 2
    ahead = ways[grid.directions.index(way)]
    inside = [
        cell
        for cell in wanted
        if cell != here
        and abs((turn(grid, flat(grid, cell) - flat(grid, here), ahead) + 180) % 360 - 180)
        <= half + 1e-6
    ]
    assert list(grid.cone(here, way, radius, angle=angle)) == inside
    other = data.draw(st.sampled_from(cells))
    near = grid.disk(here, 3) & grid.disk(other, 3)
    assert set(near) == {c for c in cells if max(far[c], steps(grid, other, c)) <= 3}
    either, only = grid.disk(here, 2) | set(grid.disk(other, 2)), grid.disk(here, 2) - list(near)
    assert set(either) == set(grid.disk(here, 2)) | set(grid.disk(other, 2))
    assert len(either) == len(set(either))
    assert set(only) == set(grid.disk(here, 2)) - set(near)
    gap = flat(grid, other) - flat(grid, here)
    assert grid.distance(here, other, measure="straight") == pytest.approx(abs(gap))
    facing = grid.facing(here, other)
    if other == here:
        assert facing is None
    else:
        chosen = ways[grid.directions.index(facing)]
        ahead = [(gap / each).real * abs(each) for each in ways]
        assert ahead[ways.index(chosen)] == pytest.approx(max(ahead))
    if kind in SQUARES:
        x, y = abs(here[0] - other[0]), abs(here[1] - other[1])
        assert grid.distance(here, other, measure="taxicab") == x + y
        assert grid.distance([here], other, measure="eight-way").tolist() == [max(x, y)]


@pytest.mark.parametrize("kind", KINDS)
def test_sizes_on_an_open_board(kind):
    grid = make_grid(kind, 41, 41, (-20, -20))
    many = {"square4": 4, "square8": 8}.get(kind, 6)
    for radius in range(1, 20):
        assert len(grid.ring((0, 0), radius)) == many * radius
        assert len(grid.disk((0, 0), radius)) == many * radius * (radius + 1) // 2 + 1
    cones = [grid.cone((0, 0), way, 5) for way in grid.directions]
    assert set().union(*cones) | {(0, 0)} >= set(grid.disk((0, 0), 5))


@given(kind=st.sampled_from(KINDS), data=st.data())
def test_lines_are_straight_and_the_same_both_ways(kind, data):
    grid = make_grid(kind, 40, 40, (-20, -20))
    numbers = st.tuples(*[st.integers(-20, 19)] * 2)
    a, b = data.draw(numbers), data.draw(numbers)
    line = list(grid.line(a, b))
    assert list(grid.line(b, a)) == line[::-1]
    assert (line[0], line[-1], len(line)) == (a, b, steps(grid, a, b) + 1)
    sides = set()
    for place, (one, other) in enumerate(itertools.pairwise(line)):
        assert other in grid.neighbors(one)
        exact = flat(grid, a) + (flat(grid, b) - flat(grid, a)) * place / (len(line) - 1)
        off = flat(grid, one) - exact
        if max(abs(off.real), abs(off.imag)) > 0.5 - 1e-9:  # half way between two cells
            sides.add((round(off.real, 6), round(off.imag, 6)))
        if kind in SQUARES:
            assert max(abs(off.real), abs(off.imag)) <= 0.5 + 1e-9
        else:  # no other cell is nearer to the exact place
            near = min(abs(flat(grid, each) - exact) for each in grid.disk(one, 1))
            assert abs(off) <= near + 1e-9
    assert len(sides) <= 1
    holes = data.draw(st.sets(st.sampled_from(line), max_size=2)) - {a, b}
    pierced = type(grid).from_cells(grid.cells - us.Cells(list(holes)), **grid._own())
    kept, found = [cell for cell in line if cell not in holes], list(pierced.line(a, b))
    assert found == kept or (len(found) > len(kept) and not holes & set(found))


@pytest.mark.parametrize("kind", KINDS)
@given(data=st.data())
def test_patterns_turn_mirror_and_move_without_bending(kind, data):
    grid = make_grid(kind, 60, 60, (-30, -30))
    numbers = st.tuples(*[st.integers(-6, 6)] * 2)
    about, to = data.draw(numbers), data.draw(numbers)
    pattern = data.draw(st.lists(numbers, min_size=1, max_size=6, unique=True))
    gaps = [flat(grid, cell) - flat(grid, about) for cell in pattern]
    turns = data.draw(st.integers(-9, 9))
    part = cmath.rect(1, math.radians((90 if kind in SQUARES else 60) * turns))
    names = set(grid.directions) | set("NESW") | ({"NE", "SW"} if kind in SQUARES else set())
    axis = data.draw(st.sampled_from(sorted(names)))
    angle = {"N": 90, "E": 0, "S": 90, "W": 0}.get(axis)
    if angle is None:
        slant = 45 if kind in SQUARES else 60 if kind.startswith("pointy") else 30
        angle = slant if axis in ("SE", "NW") else -slant
    line = cmath.rect(1, math.radians(angle))
    for found, wanted in (
        (grid.rotate(pattern, about, turns), [gap * part for gap in gaps]),
        (grid.mirror(pattern, about, axis), [(gap / line).conjugate() * line for gap in gaps]),
        (grid.carry(pattern, about, to), [g + flat(grid, to) - flat(grid, about) for g in gaps]),
    ):
        for cell, gap in zip(found, wanted, strict=True):
            assert abs(flat(grid, cell) - flat(grid, about) - gap) < 1e-9
    assert list(grid.carry([about, (30, 30)], about, (29, 29))) == [(29, 29)]


@given(grid=grids(frame=frames()), data=st.data())
def test_outlines_wrap_just_the_cells(grid, data):
    cells = list(grid.cells)
    chosen = data.draw(st.sets(st.sampled_from(cells), min_size=1))
    lines = grid.outline(list(chosen))
    for cell in cells:
        assert wraps(lines, grid.center(cell)) == (cell in chosen)
    down = 1 if grid.frame.y_axis == "down" else -1
    areas, corners = [], 0
    for line in lines:
        assert line[0].tolist() == line[-1].tolist()
        x, y = line.T
        areas.append(down * (x[:-1] * y[1:] - x[1:] * y[:-1]).sum() / 2)
        along = np.diff(line, axis=0)
        bends = along[:, 0] * np.roll(along, -1, axis=0)[:, 1]
        bends = bends - along[:, 1] * np.roll(along, -1, axis=0)[:, 0]
        assert (abs(bends) > 1e-6 * (along**2).sum(axis=1).min()).all()
        corners += len(along)
    x, y = grid.corners((0, 0)).T
    whole = down * (x * np.roll(y, -1) - np.roll(x, -1) * y).sum() / 2
    assert sum(areas) == pytest.approx(len(chosen) * whole)
    if isinstance(grid, us.HexGrid):
        edges = sum(
            len(set(map(tuple, grid.lattice.around(np.array(c)).tolist())) - chosen) for c in chosen
        )
        assert corners == edges
    else:
        bounds = {tuple(corner) for c in chosen for corner in grid.corners(c).tolist()}
        assert {tuple(point) for line in lines for point in line.tolist()} <= bounds
        pieces, left = 0, set(chosen)
        while left:
            pieces, todo = pieces + 1, [left.pop()]
            for col, row in todo:
                near = left & {(col, row - 1), (col + 1, row), (col, row + 1), (col - 1, row)}
                left -= near
                todo += near
        assert sum(around > 0 for around in areas) == pieces
    raised = make_grid("square4", 3, 3, frame=us.Frame(lift=2))
    assert raised.outline((0, 0), level=3)[0][0].tolist() == [0, -6]


@pytest.mark.parametrize(
    ("call", "message"),
    [
        (lambda g: g.ring((0, 0), -1), "radius: must be a whole number of 0 or more; got -1"),
        (lambda g: g.disk((0, 0), 1.0), "radius: must be a whole number"),
        (lambda g: g.disk((9, 9), 1), "must lie on the board"),
        (lambda g: g.line((0, 0), (9, 9)), "b: must lie on the board"),
        (lambda g: g.cone((0, 0), "N", 1), "direction"),
        (lambda g: g.cone((0, 0), "E", 1, angle=361), "angle: must be degrees from 0 to 360"),
        (lambda g: g.rotate([(0, 0)], (0, 0), 0.5), "steps: must be a whole number"),
        (lambda g: g.mirror([(0, 0)], (0, 0), "n"), "axis: must name a direction"),
        (lambda g: g.carry([(0, 0)], (0, 0), "b"), "b: "),
        (lambda g: g.outline([(0, 0), (7, 0)]), r"cells: must lie on the board.*got \(7, 0\)"),
        (lambda g: g.distance((0, 0), (1, 1), measure="taxi"), "measure: .*did you mean 'taxicab'"),
        (
            lambda g: g.distance((0, 0), (1, 1), measure="taxicab"),
            "measure: is one of square grids only",
        ),
        (lambda g: g.flags(["E", "EE"]), "directions: .*did you mean 'E'"),
        (lambda g: g.unpack(64), "flags: must be a whole number from 0 to 63"),
    ],
)
def test_bad_input_is_named(call, message):
    with pytest.raises(us.errors.InputError, match=message):
        call(us.HexGrid(6, 5))
