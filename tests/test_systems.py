"""Coordinate systems: every pair, every convention, exact, and refusals that name the value."""

import itertools

import numpy as np
import pytest
from geometry import flat, make_grid
from hypothesis import given
from hypothesis import strategies as st

import understep as us

TOPS = list(itertools.product(["pointy", "flat"], ["odd", "even"]))
SYSTEMS = ["offset", "axial", "cube", "doubled"]
numbers = st.integers(-(10**6), 10**6)


@pytest.mark.parametrize(("top", "shifted"), TOPS)
@given(cells=st.lists(st.tuples(numbers, numbers), min_size=1, max_size=5))
def test_every_system_goes_round(top, shifted, cells):
    how = {"top": top, "shifted": shifted}
    grid = make_grid(f"{top}-{shifted}", 3, 3, (-7, 5))
    for source, target in itertools.product(SYSTEMS, SYSTEMS):
        given = us.convert(cells, "offset", source, **how)
        there = us.convert(given, source, target, **how)
        assert us.convert(there, target, "offset", **how).tolist() == list(map(list, cells))
        assert there.dtype == np.int64
        assert grid.convert(given, source, target).tolist() == there.tolist()
        one = us.convert(tuple(given[0].tolist()), source, target, **how)
        assert (one.tolist(), one.dtype) == (there[0].tolist(), np.int64)
    # axial coordinates are those of the plane: whole steps along two directions 60 degrees apart
    axial = us.convert(cells, "offset", "axial", **how) - us.convert(
        (0, 0), "offset", "axial", **how
    )
    high = 3**0.5 / 2
    q, r = (high + 0.5j, 1j) if top == "flat" else (1, 0.5 + high * 1j)
    for (right, down), cell in zip(axial.tolist(), cells, strict=True):
        assert abs(flat(grid, cell) - flat(grid, (0, 0)) - right * q - down * r) < 1e-6
    # doubled: neighbors in a line differ by 2, across lines by 1 and 1
    col, row = us.convert(cells[0], "offset", "doubled", **how).tolist()
    assert (col + row) % 2 == (0 if shifted == "odd" else 1)
    big = [(-(2**40), 2**40), (2**40, -(2**40 - 1))]
    for system in ("axial", "cube", "doubled"):  # what is given can be given back
        for cell in (big, big[0]):
            there = us.convert(cell, "offset", system, **how)
            again = us.convert(there, system, "offset", **how)
            assert again.tolist() == np.array(cell).tolist()
            for beyond in (there + 1, there * 2):
                with pytest.raises(us.errors.CellError):
                    us.convert(beyond * 4, system, "offset", **how)


@given(cube=st.tuples(numbers, numbers), off=st.tuples(*[st.floats(-1, 1)] * 2))
def test_round_cube_finds_the_nearest(cube, off):
    q, r = cube[0] + off[0], cube[1] + off[1]
    found = us.round_cube((q, r, -q - r)).tolist()
    assert sum(found) == 0

    def far(a, b):
        x, y = a[0] - b[0], a[1] - b[1]
        return x * x + y * y + x * y

    near = min(
        far((q, r), (cube[0] + x, cube[1] + y))
        for x in (-2, -1, 0, 1, 2)
        for y in (-2, -1, 0, 1, 2)
    )
    assert far((q, r), found) <= near + 1e-6
    assert us.round_cube([[q, r, -q - r]]).tolist() == [found]


@pytest.mark.parametrize(
    ("call", "message"),
    [
        (lambda: us.convert([(1, 2, -3), (1, 1, 1)], "cube", "axial"), r"values\[1\].*\(1, 1, 1\)"),
        (lambda: us.convert((1, 1, 1), "cube", "cube"), r"q \+ r \+ s must be 0; got \(1, 1, 1\)"),
        (lambda: us.convert((1, 0), "doubled", "offset"), r"doubled: .* got \(1, 0\)"),
        (lambda: us.convert([[(0, 0), (0, 1)]], "doubled", "axial"), r"values\[0\]\[1\].*\(0, 1\)"),
        (lambda: us.convert((1, 0), "ofset", "cube"), "did you mean 'offset'"),
        (lambda: us.convert((1, 0), "offset", "cubes"), "did you mean 'cube'"),
        (lambda: us.convert((1.0, 0), "offset", "cube"), "whole numbers, not float64"),
        (lambda: us.convert("ab", "offset", "cube"), "not text"),
        (lambda: us.convert((1, 2, 3), "offset", "cube"), "last axis must have length 2"),
        (lambda: us.convert((2**40 + 1, 0), "offset", "cube"), r"from -2\*\*40 to 2\*\*40"),
        (lambda: us.convert((2**41 + 2, 0), "doubled", "offset"), r"at most 2\*\*40 columns"),
        (lambda: us.convert((2**99, 0), "offset", "cube"), "too large"),
        (lambda: us.convert((True, False), "offset", "cube"), "not bool"),
        (lambda: us.convert((1, 0), "offset", "cube", top="flatt"), "did you mean 'flat'"),
        (lambda: us.round_cube((0.5, 0.5, 0.5)), "finite and 0"),
        (lambda: us.round_cube((0.5, np.inf, 0.5)), "finite and 0"),
        (lambda: us.round_cube("abc"), "must be numbers"),
        (lambda: us.round_cube((1, 2)), "last axis must be q, r, s"),
    ],
)
def test_bad_values_are_named(call, message):
    with pytest.raises(us.errors.InputError, match=message):
        call()
