"""Ribbons, curves and poses: every pair of directions, never out of the route's cells, on time."""

import itertools
import math

import numpy as np
import pytest
from geometry import KINDS, frames, make_grid
from hypothesis import given
from hypothesis import strategies as st
from reference import Reference, exactly
from samples import boards

import understep as us

TURNS = {4: 90, 8: 45, 6: 60}


def through(kind, first, second):
    """A route that comes into a cell in one direction and leaves it in another."""
    board = us.Board(make_grid(kind, 7, 7), {"turf": 1})
    middle, grid = us.Cell(3, 3), board.grid
    many = len(grid.directions)
    start, end = grid.step(middle, (first + many // 2) % many), grid.step(middle, second)
    board.add(us.Unit("scout", "wardens", us.Movement(9)), at=start)
    return board, us.route(board, "scout", goals=end, via=[middle])


@pytest.mark.parametrize("kind", KINDS)
def test_every_pair_of_directions_has_its_piece(kind):
    grid = make_grid(kind, 7, 7)
    many = len(grid.directions)
    for first, second in itertools.product(range(many), repeat=2):
        board, route = through(kind, first, second)
        pieces = us.ribbon(route)
        assert [piece.cell for piece in pieces] == list(route.cells)
        start, middle, end = pieces
        assert (start.shape, end.shape) == ("start", "end")
        assert (start.heading, middle.heading) == (grid.directions[first],) * 2
        assert (end.heading, end.turn_end, middle.turn_end) == (grid.directions[second], 1, None)
        turned = (second - first) * TURNS[many] % 360  # clockwise
        turned = turned if turned <= 180 else turned - 360
        shapes = {0: "straight", TURNS[many]: "bend", 180: "back"}
        assert middle.shape == shapes.get(abs(turned), "sharp bend")
        assert middle.turn * TURNS[many] in (turned, -180 if turned == 180 else turned)
        assert middle.rotation == first
        assert middle.mirrored == (middle.turn < 0)
        x, y = board.center(middle.cell) - board.center(start.cell)
        assert middle.angle == pytest.approx(math.degrees(math.atan2(x, -y)) % 360)


def outside(board, cell, points):
    """By how much points lie outside of a cell's polygon, in world units."""
    corners = board.grid.corners(cell)
    middle = board.grid.center(cell)
    worst = 0.0
    for a, b in zip(corners, np.roll(corners, -1, axis=0), strict=True):
        normal = np.array([b[1] - a[1], a[0] - b[0]]) / np.hypot(*(b - a))
        if np.dot(middle - a, normal) > 0:
            normal = -normal
        worst = max(worst, float(np.max((points - a) @ normal)))
    return worst


@st.composite
def routes(draw, frame=frames(lift=True)):  # noqa: B008
    """A board with any frame, and a route of several steps on it."""
    board = draw(boards(frame=frame))
    goal = draw(st.sampled_from(list(board.grid)))
    return board, us.route(board, "a", goals=goal, accept="nearest")


@given(routes(), st.integers(1, 5), st.booleans())
def test_curves_stay_in_the_cells_of_the_route(made, fine, smooth):
    board, route = made
    line = us.curve(route, fine=fine, line="rounded" if smooth else "exact")
    grid, cells = board.grid, list(route.cells)
    size = max(grid.cell_size)
    middles = grid.center(np.array(cells))
    assert line.ground[0] == pytest.approx(middles[0])
    assert line.ground[-1] == pytest.approx(middles[-1])
    assert (line.places[0], line.places[-1]) == (0, len(cells) - 1)
    assert (np.diff(line.places) > 0).all()
    for place, cell in enumerate(cells):
        mine = np.abs(line.places - place) <= 0.5
        assert mine.any()
        assert outside(board, cell, line.ground[mine]) < 1e-6 * size
    levels = board.elevation[grid.index(np.array(cells))]
    whole = line.places % 1 == 0
    assert line.levels[whole] == pytest.approx(levels[line.places[whole].astype(int)])
    lift = grid.frame.lift * line.levels * (1 if grid.frame.down > 0 else -1)
    assert line.ground[:, 1] - line.points[:, 1] == pytest.approx(lift, abs=1e-9 * size)
    pieces = us.ribbon(route)
    for place, piece in enumerate(pieces):
        if piece.shape == "straight" or not smooth:
            assert np.abs(line.ground - middles[place]).sum(axis=1).min() < 1e-6 * size
    stops = [piece.cell for piece in pieces if piece.turn_end is not None]
    assert stops == list(route.stops)


def long(line):
    """How long a curve is, along the ground."""
    return float(np.hypot(*np.diff(line.ground, axis=0).T).sum())


@given(routes(frame=None), st.integers(1, 4))
def test_taut_lines_keep_to_ground_that_can_be_stepped_over(made, fine):
    """No longer than the route; what they touch can be stepped on, as dear as the route at most."""
    board, route = made
    grid, truth = board.grid, Reference(board, "a", 1)
    size = max(grid.cell_size)
    line, exact = us.curve(route, fine=fine, line="taut"), us.curve(route, line="exact")
    assert long(line) <= long(exact) + 1e-6 * size
    assert (np.diff(line.places) > 0).all()
    assert (line.cells[0], line.cells[-1]) == (route.cells[0], route.goal)
    for cell in route.stops:  # turns end where they end
        assert np.abs(line.ground - grid.center(cell)).sum(axis=1).min() < 1e-6 * size
    for place, cell in enumerate(line.cells):
        assert outside(board, cell, line.ground[np.abs(line.places - place) <= 0.5]) < 1e-6 * size
    dearest = max((exactly(step.cost) for step in route.steps), default=0)
    prices = {(a, b): price for a in grid for way, b, price in truth.steps[a] if way is not None}
    bends = [grid.center(cell) for cell in route.cells]
    own = [np.array(pair) for pair in itertools.pairwise(bends)]  # the route's own steps
    for a, b in itertools.pairwise(line.cells):
        if grid.distance(a, b) == 1 and (a, b) not in itertools.pairwise(route.cells):
            way = grid.lattice.way(grid.direction(a, b))
            if way in grid.lattice.edge_ways:
                assert prices[a, b] <= dearest
    hair = np.array([(1, 0.3), (-0.3, 1), (-1, -0.3), (0.3, -1)]) * min(grid.cell_size) * 1e-6
    for start, end in itertools.pairwise(line.ground):
        for share in (0, 0.31, 0.5, 0.77):
            point = start + (end - start) * share
            if any(beside(point, *each) < 1e-6 * size for each in own):
                continue
            for near in point + hair:  # on both sides, and all around a corner
                cell = grid.cell_at(near)
                assert cell is not None
                assert any(
                    other == cell and price <= dearest for (_, other), price in prices.items()
                )


def beside(point, start, end):
    """How far a point lies from a piece of a line."""
    way = end - start
    share = min(max(float((point - start) @ way / (way @ way)), 0), 1)
    return float(np.hypot(*(start + way * share - point)))


def test_a_taut_line_is_pulled_straight_past_corners_and_never_through_them():
    board = us.Board(us.SquareGrid(9, 7), {"turf": 1, "mud": 2, "ruin": None})
    board.add(us.Unit("scout", "wardens", us.Movement(20)), at=(0, 0))
    route = us.route(board, "scout", goals=(8, 4))
    assert us.curve(route, line="taut").ground[[0, -1]].tolist() == [[0.5, 0.5], [8.5, 4.5]]
    assert long(us.curve(route, line="taut")) == pytest.approx(math.hypot(8, 4))
    for name in ("mud", "ruin"):
        for corner in board.grid:
            if corner in route.cells:
                continue
            trial = board.copy()
            trial.paint(name, corner)
            line = us.curve(us.route(trial, "scout", goals=(8, 4)), line="taut")
            met = [tuple(cell) for cell in board.grid.touched((0, 0), (8, 4))[0].tolist()]
            assert (corner in met) == (long(line) > math.hypot(8, 4) + 1e-9)

    hole = us.SquareGrid(9, 7, exists=np.arange(63).reshape(7, 9) != 2 * 9 + 4)
    board = us.Board(hole, {"turf": 1})  # on the straight line
    board.add(us.Unit("scout", "wardens", us.Movement(3)), at=(0, 0))
    route = us.route(board, "scout", goals=(8, 4))
    line = us.curve(route, line="taut")
    assert len(route.stops) == 4
    for cell in route.stops:
        assert any((point == board.center(cell)).all() for point in line.ground)


@pytest.mark.parametrize("how", ["rounded", "exact", "taut"])
@pytest.mark.parametrize("kind", KINDS)
def test_who_stops_or_turns_off_goes_on_as_before_until_the_next_cell(kind, how):
    board = us.Board(make_grid(kind, 9, 9), {"turf": 1, "ruin": None})
    board.paint("ruin", [(3, row) for row in range(6)])
    board.add(us.Unit("scout", "wardens", us.Movement(30)), at=(0, 0))
    moving = us.poses(us.route(board, "scout", goals=(6, 0)), speed=1, line=how)
    for now in np.linspace(0, moving.duration, 17).tolist():
        stopped = moving.stop(now)
        off = us.route(board, "scout", goals=(0, 8), at=stopped.cells[-1])
        for other in (stopped, moving.redirect(now, off)):
            for time in np.linspace(0, now, 4).tolist():
                assert other.at(time).point == pytest.approx(moving.at(time).point)
        assert stopped.cells[-1] == stopped.at(99).cell
        assert len(stopped.cells) <= moving.cells.index(moving.at(now).cell) + 2
        turned = moving.redirect(now, off)
        assert turned.at(99).cell == (0, 8)
        for pose in map(turned.at, np.linspace(0, turned.duration, 7).tolist()):
            assert outside(board, pose.cell, np.array([pose.point])) < 1e-6


def walked(board, line):
    """How long a line is along the ground, links as long as a step to the farthest neighbor."""
    total, grid = 0.0, board.grid
    beside = [grid.center(cell) - grid.center((9, 9)) for cell in grid.lattice.around(
        np.array((9, 9)))]  # fmt: skip
    step = max(np.hypot(*gap) for gap in beside)
    for place, end, (a, b) in zip(
        line.places, line.places[1:], itertools.pairwise(line.ground), strict=False
    ):
        start = math.floor(place)
        linked = end - place > 0.75 and any(
            link.b == line.cells[start + 1] for link in board.links(line.cells[start])
        )
        total += step if linked else float(np.hypot(*(b - a)))
    return total


@given(
    routes(), st.booleans(), st.sampled_from([None, 90, 720]),
    st.sampled_from(["rounded", "exact", "taut"]), st.data(),
)  # fmt: skip
def test_poses_are_continuous_and_arrive_on_time(made, paced, turning, how, data):
    board, route = made
    size = max(board.grid.cell_size)
    rate = {"pace": 0.5} if paced else {"speed": 2.0 * size}
    moving = us.poses(route, turning=turning, line=how, **rate)
    ends = moving.at(0), moving.at(moving.duration)
    assert ends[0].point == pytest.approx(tuple(board.center(route.cells[0])))
    assert ends[1].point == pytest.approx(tuple(board.center(route.goal)))
    assert (ends[0].cell, ends[1].cell, ends[1].progress) == (route.cells[0], route.goal, 1)
    line = us.curve(route, line=how)
    due = 0.5 * (len(route.cells) - 1) if paced else walked(board, line) / (2.0 * size)
    assert moving.duration == pytest.approx(due)
    times = np.linspace(0, moving.duration, 80)
    poses = [moving.at(float(time)) for time in times]
    seen = [key for key, _ in itertools.groupby(pose.cell for pose in poses)]
    jumps = any(step.direction is None for step in route.steps)
    if len(route.steps) < 8 and not jumps:
        assert seen == [key for key, _ in itertools.groupby(line.cells)]
    for (a, b), (start, end) in zip(
        itertools.pairwise(poses), itertools.pairwise(times), strict=True
    ):
        gap = np.hypot(*np.subtract(a.point, b.point))
        lift = board.grid.frame.lift * abs(a.level - b.level)
        if not paced and "link" not in (a.on, b.on):  # no faster than it should be
            assert gap <= (end - start) * 2.0 * size + lift + 1e-6 * size
        if turning is not None:
            turned = abs((a.heading - b.heading + 180) % 360 - 180)
            assert turned <= turning * (end - start) + 1e-6
    now = data.draw(st.floats(0, moving.duration))
    for other in (moving.stop(now), moving.redirect(now, us.route(
        board, "a", goals=route.goal, at=moving.stop(now).cells[-1], accept="nearest"))):  # fmt: skip
        for time in (0.0, now / 2, now):
            assert other.at(time).point == pytest.approx(moving.at(time).point, abs=1e-6 * size)
    stopped = moving.stop(now)
    assert stopped.at(stopped.duration).point == pytest.approx(
        tuple(board.center(stopped.cells[-1]))
    )
    assert stopped.cells == list(line.cells)[: len(stopped.cells)]


def test_a_link_takes_as_long_as_a_step_or_as_is_said_however_far_it_leads():
    board = us.Board(us.SquareGrid(50, 1, frame=us.Frame(cell=(10, 10))), {"turf": 1})
    board.link((1, 0), (47, 0), cost=1, kind="ladder")
    board.add(us.Unit("scout", "wardens", us.Movement(4)), at=(0, 0))
    route = us.route(board, "scout", goals=(49, 0))
    for options, ends in (
        ({"speed": 20.0}, [0.5, 1.0, 1.5, 2.0]),
        ({"speed": 20.0, "link": 3}, [0.5, 3.5, 4.0, 4.5]),
        ({"pace": 1.0}, [1, 2, 3, 4]),
        ({"pace": 1.0, "link": 0.25}, [1, 1.25, 2.25, 3.25]),
    ):
        moving = us.poses(route, **options)
        assert moving.duration == pytest.approx(ends[-1])
        for end, cell in zip(ends, route.cells[1:], strict=True):
            assert moving.at(end).point == pytest.approx(tuple(board.center(cell)))
        start, after = ends[:2]
        now = start + 0.4 * (after - start)
        half = moving.at(now)
        assert (half.on, half.ground) == ("link", pytest.approx((199, 5)))
        assert [moving.at(time).on for time in (start / 2, start, after)] == ["ground"] * 3
        stopped = moving.stop(now)
        assert (stopped.duration, stopped.cells[-1]) == (pytest.approx(after), (47, 0))
        back = us.route(board, "scout", goals=(46, 0), at=(47, 0))
        again = moving.redirect(now, back)
        assert again.at(now)[:4] == half[:4]
        assert again.duration == pytest.approx(after + start)


def test_a_pose_faces_a_point_of_the_compass():
    board = us.Board(us.SquareGrid(5, 5, diagonals=True), {"turf": 1})
    board.add(us.Unit("scout", "wardens", us.Movement(9)), at=(2, 2))
    for name, four in zip(
        ("N", "NE", "E", "SE", "S", "SW", "W", "NW"),
        ("N", "E", "E", "E", "S", "W", "W", "W"), strict=True,
    ):  # fmt: skip
        pose = us.poses(us.route(board, "scout", goals=board.grid.step((2, 2), name)), pace=1).at(
            0.5
        )
        assert (pose.facing(), pose.facing(points=4)) == (name, four)
    with pytest.raises(us.errors.InputError, match="points: must be 4 or 8"):
        pose.facing(points=6)


def test_what_motion_refuses():
    board = us.Board(us.SquareGrid(6, 2), {"turf": 1, "ruin": None})
    board.paint("ruin", (5, 0))
    board.add(us.Unit("scout", "wardens", us.Movement(9)), at=(0, 0))
    route, none = us.route(board, "scout", goals=(4, 0)), us.route(board, "scout", goals=(5, 0))
    assert us.ribbon(none) == ()
    still = us.route(board, "scout", goals=(0, 0))
    assert [piece.shape for piece in us.ribbon(still)] == ["point"]
    assert us.poses(still, speed=1).at(3).point == (0.5, 0.5)
    for call, rule in (
        (lambda: us.ribbon("there"), "route: must be a route"),
        (lambda: us.curve(none), "route: must be a route that was found"),
        (lambda: us.curve(route, line="tight"), "line: must name a choice"),
        (lambda: us.curve(route, fine=0), "fine: must be a whole number"),
        (lambda: us.poses(none, speed=1), "route: must be a route that was found"),
        (lambda: us.poses(route), "speed: give a speed or a pace"),
        (lambda: us.poses(route, pace=-1), "pace: must be a number from 1e-9 to 1e9"),
        (lambda: us.poses(route, pace=1, turning=True), "turning: must be a number"),
        (lambda: us.poses(route, speed=1).at("now"), "time: must be a number"),
        (lambda: us.poses(route, speed=1).redirect(0.1, none), "route: must start in"),
    ):
        with pytest.raises(us.errors.InputError, match=rule):
            call()
