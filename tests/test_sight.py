"""Sight against exact geometry in rational numbers, by the written rule."""

import pickle
from concurrent.futures import ThreadPoolExecutor
from fractions import Fraction
from itertools import pairwise

import numpy as np
import pytest
from geometry import grids, kind_of
from hypothesis import assume, given
from hypothesis import strategies as st

import understep as us

KINDS = {
    "wall": us.Edge(blocks=True, hides=True),
    "door": us.Edge(blocks=True, hides=True, door=True),
    "ditch": us.Edge(add=1),
}
TERRAIN = {"turf": 1, "reeds": us.Terrain(2, cover=1), "scrub": us.Terrain(1, cover=0.4)}
# steps along both plane coordinates, corners around a middle, what squares of x and y count
SHAPES = {
    "square": ((2, 0), (0, 2), [(-1, -1), (1, -1), (1, 1), (-1, 1)], (1, 1)),
    "pointy": ((2, 0), (1, 3), [(0, -2), (1, -1), (1, 1), (0, 2), (-1, 1), (-1, -1)], (3, 1)),
    "flat": ((3, 1), (0, 2), [(-1, -1), (1, -1), (2, 0), (1, 1), (-1, 1), (-2, 0)], (1, 3)),
}
NUDGE = Fraction(1, 10**6)


class Reference:
    """Lines of sight by cutting every cell's polygon with the nudged line."""

    def __init__(self, board):
        self.board, self.grid = board, board.grid
        across, down, self.corners, self.counts = SHAPES[kind_of(board.grid)]
        self.middles = {}
        low = self.grid.bounds[0]
        for col in range(low.col - 3, low.col + self.grid.cols + 3):  # some off the board, too
            for row in range(low.row - 3, low.row + self.grid.rows + 3):
                p, q = (col, row)
                if kind_of(board.grid) != "square":
                    p, q = self.grid.convert((col, row), "offset", "axial").tolist()
                middle = tuple(p * a + q * b for a, b in zip(across, down, strict=True))
                self.middles[us.Cell(col, row)] = middle

    def level(self, cell):
        return Fraction(float(self.board.elevation[self.grid.index(cell)]))

    def on_line(self, a, b, nudge):
        """The cells that the nudged line passes through, in order, with how far along they lie."""
        (ax, ay), (bx, by) = self.middles[a], self.middles[b]
        dx, dy = bx - ax, by - ay
        wide, high = self.counts
        length = dx * dx * wide + dy * dy * high
        found = []
        for cell, (x, y) in self.middles.items():
            sides = [dx * (y + v - ay) - dy * (x + u - ax) - nudge for u, v in self.corners]
            passed = Fraction(dx * (x - ax) * wide + dy * (y - ay) * high, length)
            if min(sides) < 0 < max(sides) and 0 <= passed <= 1:
                found.append((passed, cell))
        return [(cell, passed) for passed, cell in sorted(found)]

    def hides(self, a, b):
        for one, other in ((a, b), (b, a)):
            kind = self.board.edge(one, other)
            if kind and KINDS[kind].hides and not self.board.is_open(one, other):
                return True
        return False

    def sees(self, a, b, eye, target):
        if a == b:
            return True
        start, end = self.level(a) + Fraction(eye), self.level(b) + Fraction(target)
        for nudge in (NUDGE, -NUDGE):
            way = self.on_line(a, b, nudge)
            cells = [cell for cell, _ in way]
            assert (cells[0], cells[-1]) == (a, b)
            if not all(cell in self.grid for cell in cells):
                continue
            tops = [
                self.level(cell)
                + Fraction(self.board.terrains[self.board.terrain(cell)].cover).limit_denominator(9)
                <= start + (end - start) * passed
                for cell, passed in way[1:-1]
            ]
            if all(tops) and not any(self.hides(*pair) for pair in pairwise(cells)):
                return True
        return False


@st.composite
def sights(draw):
    grid = draw(grids(25))
    board = us.Board(grid, TERRAIN, edges=KINDS)
    cells = list(grid)
    for cell in cells:
        board.paint(draw(st.sampled_from(["turf", "turf", "turf", "reeds", "scrub"])), cell)
        for other in grid.neighbors(cell):
            if draw(st.integers(0, 9)) == 0:
                kind, both = draw(st.sampled_from(list(KINDS))), draw(st.booleans())
                board.set_edge(cell, other, kind, both=both)
                if board.edge(cell, other) == "door" and draw(st.booleans()):
                    board.open_edge(cell, other)
    if draw(st.booleans()):
        levels = st.sampled_from([0, 0, 1, 2, 0.5])
        board.set_elevation([draw(levels) for _ in cells], cells)
    return board


@given(grids(25), st.data())
def test_a_line_touches_the_cells_it_cuts_or_grazes(grid, data):
    """Against the cuts of the line with every edge, in rational numbers."""
    truth = Reference(us.Board(grid, TERRAIN))
    a, b = (data.draw(st.sampled_from(list(grid))) for _ in range(2))
    assume(a != b)
    (ax, ay), (bx, by) = truth.middles[a], truth.middles[b]
    dx, dy = bx - ax, by - ay
    expected = {}
    for cell, (x, y) in truth.middles.items():
        corners = [(x + u - ax, y + v - ay) for u, v in truth.corners]
        cuts = []
        for (u, v), (p, q) in zip(corners, corners[1:] + corners[:1], strict=True):
            side, other = dx * v - dy * u, dx * q - dy * p
            if side == 0 or side * other < 0:
                share = Fraction(side, side - other) if side else 0
                u, v = u + share * (p - u), v + share * (q - v)
                cuts.append(Fraction(u * dx + v * dy) / (dx * dx + dy * dy))
        if cuts and min(cuts) <= 1 and max(cuts) >= 0:
            expected[cell] = max(min(cuts), 0), min(max(cuts), 1)
    cells, shares = grid.touched(a, b)
    found = {us.Cell(*cell): share for cell, share in zip(cells.tolist(), shares, strict=True)}
    assert set(found) == set(expected)
    for cell, share in expected.items():
        assert found[cell] == pytest.approx([float(part) for part in share], abs=1e-12)
    assert (np.diff(shares[:, 0]) >= 0).all()
    assert grid.touched(a, a)[0].tolist() == [list(a)]


heights = st.sampled_from([0.5, 0, 1, 1.5])


@given(sights(), heights, heights, st.data())
def test_sight_equals_exact_geometry(board, eye, target, data):
    truth, cells = Reference(board), list(board.grid)
    spots = st.sampled_from(cells)
    for a in {data.draw(spots), data.draw(spots)}:
        seen = {b for b in cells if truth.sees(a, b, eye, target)}
        assert {b for b in cells if us.sees(board, a, b, eye=eye, target=target)} == seen
        for b in cells:
            told = us.sees(board, a, b, eye=eye, target=target)
            assert bool(told.why) == (b not in seen)
            assert bool(us.sees(board, b, a, eye=target, target=eye)) == bool(told)
        radius = data.draw(st.sampled_from([0, 1, 2, 3, None]))
        view = us.view(board, a, radius=radius, eye=eye, target=target)
        near = {b for b in seen if radius is None or board.grid.distance(a, b) <= radius}
        assert set(view) == set(view.cells) == near
        far = [us.sees(board, a, b, radius=radius, eye=eye, target=target) for b in cells]
        assert [bool(told) for told in far] == [b in near for b in cells]
        assert {b for b in cells if b in view} == near
        assert view.table().sum() == len(view) == len(near)
        per_level = data.draw(st.sampled_from([0, 1, 2]))
        rules = {"radius": data.draw(st.integers(0, 4)), "measure": "straight"}
        rules |= {"per_level": per_level, "eye": eye, "target": target}
        view, levels = us.view(board, a, **rules), board.elevation
        for b in cells:
            above = float(levels[board.grid.index(a)] - levels[board.grid.index(b)])
            far = board.grid.distance(a, b, measure="straight")
            near = far <= rules["radius"] + per_level * int(above) + 1e-9
            assert (b in view) == bool(us.sees(board, a, b, **rules)) == (near and b in seen)
        board.paint(data.draw(st.sampled_from(list(TERRAIN))), data.draw(spots))
        board.set_elevation(data.draw(st.sampled_from([0, 2])), data.draw(spots))
        assert view.stale


@pytest.mark.parametrize("grid", [us.SquareGrid(7, 7, first=(-3, -3)), us.HexGrid.hexagon(3)])
@given(data=st.data())
def test_sight_is_the_same_however_a_board_is_turned_or_mirrored(grid, data):
    board, other = us.Board(grid, TERRAIN), us.Board(grid, TERRAIN)
    middle = (0, 0) if (-1, -1) in grid else (3, 3)
    reeds = data.draw(st.lists(st.sampled_from(list(grid)), min_size=5, max_size=20))
    turns = data.draw(st.integers(0, 7))

    def moved(cells):
        turned = grid.rotate(cells, middle, turns)
        return turned if turns < 4 else grid.mirror(turned, middle, grid.directions[turns % 4])

    board.paint("reeds", reeds)
    other.paint("reeds", moved(reeds))
    for cell in data.draw(st.lists(st.sampled_from(list(grid)), min_size=1, max_size=4)):
        (there,) = moved([cell])
        assert set(moved(us.view(board, cell).cells)) == set(us.view(other, there))


def test_what_is_in_the_way_is_named():
    board = us.Board(us.SquareGrid(9, 3), TERRAIN, edges=KINDS)
    board.add(us.Unit("scout", "wardens", us.Movement(4)), at=(0, 1))
    board.add(
        us.Unit("cart", "wardens", us.Movement(4, footprint=us.Footprint.block(2))), at=(6, 1)
    )
    board.set_edge((3, 1), (4, 1), "wall", both=False)
    told = us.sees(board, "scout", (5, 1))
    assert str(told) == "'wall' between (3, 1) and (4, 1) hides (5, 1)"
    assert (told.blockers, told.cell) == (("wall",), (3, 1))
    assert str(us.sees(board, (5, 1), (0, 1))) == "'wall' between (4, 1) and (3, 1) hides (0, 1)"
    assert str(us.sees(board, (0, 1), (3, 1))) == "(3, 1) is seen from (0, 1)"
    assert us.sees(board, "scout", "cart").end == (6, 2)  # the nearest that is seen
    board.set_elevation(2, (2, 1))
    assert us.sees(board, (1, 1), (3, 1)).why == "the ground at (2, 1) hides (3, 1)"
    assert us.sees(board, (1, 1), (3, 1), eye=4)
    board.paint("reeds", [(4, 1), (5, 1)])
    told = us.sees(board, (0, 1), (8, 1))
    assert [(each.kind, each.names, each.cell, each.eye) for each in told.obstacles] == [
        ("ground", ("turf",), (2, 1), 2.5), ("edge", ("wall",), (4, 1), None),
        ("terrain", ("reeds",), (4, 1), 1.5), ("terrain", ("reeds",), (5, 1), 1.834),
    ]  # fmt: skip
    assert (told.blockers, told.cell) == (("turf", "wall", "reeds"), (2, 1))
    assert {cell: mark.number for cell, mark in told.overlay().items() if mark.number} == {
        (2, 1): 1, (3, 1): 2, (4, 1): 3, (5, 1): 4,
    }  # fmt: skip
    both = us.view(board, side="wardens", radius=3)
    assert len(both.eyes) == 5
    one, cart = us.view(board, "scout", radius=3), us.view(board, "cart", radius=3)
    assert set(both) == set(one) | set(cart)
    assert both.overlay()[(0, 1)].role == "eye"
    assert one.plain()["eyes"] == [[0, 1]]
    hole = us.Board(us.HexGrid(3, 3, exists=np.arange(9).reshape(3, 3) != 4), {"turf": 1})
    assert (
        us.sees(hole, (0, 1), (2, 1)).why == "the line to (2, 1) leads off the board after (0, 1)"
    )
    for call, rule in (
        (lambda: us.view(board), "what: give a unit or a cell, or else a side"),
        (lambda: us.view(board, "scout", side="wardens"), "what: give a unit"),
        (lambda: us.view(board, "scout", radius=1.5), "radius: must be a whole number"),
        (lambda: us.view(board, "scout", eye=-1), "eye: must be a number of levels"),
        (lambda: us.sees(board, "scuot", (0, 0)), "did you mean 'scout'"),
        (lambda: us.sees(board, (9, 9), "scout"), "a: must lie on the board"),
        (lambda: us.view(board, side="wreckers"), "side"),
    ):
        with pytest.raises(us.errors.InputError, match=rule):
            call()


def without(board, obstacles):
    """A copy of the board from which some obstacles are gone."""
    board = board.copy()
    for each in obstacles:
        if each.kind == "edge":
            for pair in (each.between, each.between[::-1]):
                board.set_edge(*pair, None, both=False)
        elif each.kind == "terrain":
            board.paint("turf", each.cell)
        elif each.kind == "feature":
            board.lift(each.cell, each.names[0])
        elif each.kind == "ground":
            board.set_elevation(-99, each.cell)
    return board


@given(sights(), heights, heights, st.data())
def test_all_that_is_in_the_way_is_listed_and_nothing_else(board, eye, target, data):
    truth, cells = Reference(board), list(board.grid)
    a = data.draw(st.sampled_from(cells))
    for b in cells:
        told = us.sees(board, a, b, eye=eye, target=target)
        assert (not told.obstacles) == bool(told)
        if not told.obstacles or any(each.kind == "board" for each in told.obstacles):
            continue
        assert told.why == told.obstacles[0].text
        gaps = [board.grid.distance(a, each.cell) for each in told.obstacles]
        assert gaps == sorted(gaps)
        again = {"eye": eye, "target": target}
        assert us.sees(without(board, told.obstacles), a, b, **again)
        # where the line leaves no choice of sides, each of them is in the way
        if truth.on_line(a, b, NUDGE) == truth.on_line(a, b, -NUDGE):
            ground = {each.cell for each in told.obstacles if each.kind == "ground"}
            for each in told.obstacles:
                if each.kind in ("terrain", "feature") and each.cell in ground:
                    continue  # it sinks with the ground
                others = [other for other in told.obstacles if other != each]
                assert not us.sees(without(board, others), a, b, **again)
        if all(each.eye is not None for each in told.obstacles):
            high = max(each.eye for each in told.obstacles)
            assert us.sees(board, a, b, eye=high, target=target)
            if truth.on_line(a, b, NUDGE) == truth.on_line(a, b, -NUDGE):
                assert not us.sees(board, a, b, eye=high - 0.001, target=target)


@given(sights(), st.data())
def test_higher_eyes_and_lower_ground_never_see_less(board, data):
    cells = list(board.grid)
    a = data.draw(st.sampled_from(cells))
    low, high = set(us.view(board, a, eye=0.5)), set(us.view(board, a, eye=2.5))
    lifted = set(us.view(board, a, eye=0.5, target=1.5))
    assert low <= high
    assert low <= lifted
    spots = data.draw(st.lists(st.sampled_from(cells), min_size=1, max_size=3))
    with board.trial():  # the ground between is cleared; what is raised itself is seen the better
        board.paint("turf", [cell for cell in spots if cell != a])
        for cell in spots:
            for other in board.grid.neighbors(cell):
                board.set_edge(cell, other, None)
        assert low <= set(us.view(board, a, eye=0.5))
    assert low == set(us.view(board, a, eye=0.5))
    for radius in (0, 1, 4):
        near = set(us.view(board, a, radius=radius))
        assert near == {cell for cell in low if board.grid.distance(a, cell) <= radius}


@pytest.mark.large
def test_views_in_threads_are_those_of_one_and_edits_reach_them():
    rng = np.random.default_rng(4)
    board = us.Board(us.HexGrid(90, 80), TERRAIN, edges=KINDS)
    board.paint("reeds", rng.random((80, 90)) < 0.2)
    board.lay_beside("wall", rng.integers((0, 0), (90, 80), (300, 2)), 1)
    many = 60 if us.kernels() == "compiled" else 9
    spots = [us.Cell(*spot) for spot in rng.integers((0, 0), (90, 80), (many, 2)).tolist()]

    def views(which):
        with ThreadPoolExecutor(6) as threads:
            return [each.plain() for each in threads.map(lambda s: us.view(which, s), spots)]

    for turn in range(3):
        together = views(board)
        assert together == [us.view(board.copy(), spot).plain() for spot in spots]
        board.paint(["scrub", "turf", "reeds"][turn], rng.integers((0, 0), (90, 80), (50, 2)))
        board.set_elevation(turn, rng.integers((0, 0), (90, 80), (20, 2)))
        board.lay_beside(["door", "ditch", "wall"][turn], spots[:9], turn)
        copy = board.copy()
        copy.paint("turf", copy.grid.cells)
        assert views(board) != together
        assert len(us.view(copy, spots[0])) >= len(us.view(board, spots[0]))


def test_heights_that_cannot_be_compared_exactly_are_refused():
    board = us.Board(us.SquareGrid(9000, 1), {"turf": 1})
    assert us.sees(board, (0, 0), (8999, 0))
    board.set_elevation(10**6, (5, 0))
    assert not us.sees(board, (0, 0), (9, 0))
    with pytest.raises(us.errors.InputError, match="radius: heights cannot be compared exactly"):
        us.sees(board, (0, 0), (8999, 0), eye=10**6)
    assert us.sees(board, (0, 0), (900, 0), eye=10**6, target=10**6)
    with pytest.raises(us.errors.InputError, match="target: must be a number of levels from 0"):
        us.sees(board, (0, 0), (9, 0), target=10**7)
    with pytest.raises(us.errors.InputError, match="eye: must be a number of levels from 0"):
        us.view(board, (0, 0), eye="high")


@given(sights(), st.data())
def test_a_large_unit_sees_and_is_seen_by_the_best_of_its_cells(board, data):
    # the second cell lies to the east, or where rows are staggered downwards, to the south-east
    way = "SE" if kind_of(board.grid) == "flat" else "E"
    free = [cell for cell in board.grid if board.grid.step(cell, way) is not None]
    assume(free)
    at, cell = data.draw(st.sampled_from(free)), data.draw(st.sampled_from(list(board.grid)))
    for other in board.grid.neighbors(at):
        board.set_edge(at, other, None)
    wide = us.Movement(4, costs=1, footprint=((0, 0), (1, 0)))
    board.add(us.Unit("cart", "ours", wide), at=at)
    covered = board.covered(board.unit("cart"))
    seen = {each for each in covered if us.sees(board, each, cell)}
    assert bool(us.sees(board, "cart", cell)) == bool(us.sees(board, cell, "cart")) == bool(seen)
    assert not seen or us.sees(board, "cart", cell).start in seen
    views = [set(us.view(board, each)) for each in covered]
    assert set(us.view(board, "cart")) == set.union(*views) == set(us.view(board, side="ours"))


@pytest.mark.parametrize("kind", [us.HexGrid(9, 9), us.SquareGrid(9, 9, diagonals=True)])
def test_views_do_not_depend_on_what_was_asked_before(kind):
    asked = [
        {"radius": radius, "eye": eye, "measure": measure, "per_level": more}
        for radius, eye in ((2, 0.5), (3, 0.5), (3, 2), (None, 0.5))
        for measure in ("grid", "straight")
        for more in (0, 1)
    ]
    board = us.Board(kind, {"turf": 1})

    def told(where):
        return [us.view(where, (4, 4), **rules).cells for rules in asked]

    flat = told(board)
    assert len(set(flat)) > 2  # looks that differ, differ in what they see
    for cell, level in (((4, 4), 2), ((5, 4), 4), ((4, 4), 5)):
        board.set_elevation(level, cell)
        found = told(board)
        assert found == told(pickle.loads(pickle.dumps(board))) == told(board.copy())
        assert found == [
            us.view(pickle.loads(pickle.dumps(board)), (4, 4), **r).cells for r in asked
        ]
        assert found != flat
    while board.undo():
        pass
    assert told(board) == flat


def test_what_cannot_be_compared_so_far_is_refused_at_once():
    board = us.Board(us.SquareGrid(9500, 1), {"turf": 1})
    assert us.view(board, (4000, 0), radius=9)
    board.set_elevation(10**6, (0, 0))
    assert us.view(board, (4000, 0), radius=9)
    for _ in range(2):
        with pytest.raises(us.errors.InputError, match="cannot be compared exactly so far away"):
            us.view(board, (4000, 0))
    tall = us.Board(us.SquareGrid(9500, 1), {"turf": 1})
    tall.set_elevation(10**6, (0, 0))
    for _ in range(2):
        with pytest.raises(us.errors.InputError, match="cannot be compared exactly so far away"):
            us.view(tall, (4000, 0))
