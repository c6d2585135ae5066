"""Figures and terminal views of every kind of board."""

import dataclasses
import re

import numpy as np
import pytest
from geometry import KINDS, frames, make_grid, wraps
from hypothesis import given
from hypothesis import strategies as st
from samples import boards, examples

import understep as us
from understep.draw import _look as look
from understep.draw._figure import new_figure
from understep.draw._labels import label_texts
from understep.draw._terminal import legend as board_legend


def polygons(collection):
    """How many closed shapes a collection draws."""
    return sum((path.codes == path.CLOSEPOLY).sum() for path in collection.get_paths())


def scene(kind):
    board = us.Board(make_grid(kind, 5, 4), {"turf": us.Terrain(glyph="."), "deep": None})
    board.paint("deep", [(3, row) for row in range(3)])
    board.add(us.Unit("scout", "wardens", us.Movement(points=2)), at=(1, 1))
    board.add(us.Unit("pikes", "wardens", us.Movement(points=2)), at=(1, 2))
    board.add(us.Unit("sapper", "wreckers", us.Movement(points=2)), at=(4, 0))
    return board


@pytest.mark.parametrize("kind", KINDS)
def test_the_terminal_view_shows_every_cell_and_mark(kind):
    board = scene(kind)
    reach, route = us.reach(board, "scout"), us.route(board, "scout", goals=(4, 3))
    text = us.draw.terminal(board, reach).plain
    assert text.count("1.") == len(reach) - 1
    assert text.count("d") == 3
    for token in ("(sc)", "(pi)", "[sa]"):
        assert text.count(token) == 1
    lines = us.draw.terminal(board).plain.splitlines()
    if kind.startswith("flat"):
        assert len(lines) == 8
        shifted = 1 if kind.endswith("odd") else 0
        assert ("(sc)" in lines[2 + shifted], "d" in lines[1 - (1 - shifted)]) == (True, True)
    else:
        indents = [len(line) - len(line.lstrip()) for line in lines]
        assert len(lines) == 4
        if kind.startswith("pointy"):
            assert (indents[3] > indents[0]) == kind.endswith("odd")
    for text in (
        us.draw.terminal(board, route).plain,
        us.draw.terminal(board, route, width=15).plain,
    ):
        assert text.count("*") == sum(board.unit_at(step.cell) is None for step in route.steps)
    assert f"*{route.turns}" in text
    assert max(map(len, us.draw.terminal(board, width=15).plain.splitlines())) <= 12


@pytest.mark.parametrize("kind", KINDS)
def test_the_figure_draws_what_the_answers_say(kind, tmp_path):
    board = scene(kind)
    reach, route = us.reach(board, "scout", turns=2), us.route(board, "scout", goals=(4, 3))
    refused = us.route(board, "scout", goals=(3, 0))
    path = tmp_path / "scene.png"
    drawn = us.draw.figure(board, reach, route, refused, title="Scene", path=path)
    assert path.read_bytes()[:4] == b"\x89PNG"
    axes = drawn.axes[0]
    ground, *washes = (each for each in axes.collections if type(each).__name__ == "PathCollection")
    assert polygons(ground) == 20
    assert sum(map(polygons, washes)) == len(reach)
    texts = [text.get_text() for text in axes.texts]
    assert {"sc", "pi", "sa", str(route.turns)} <= set(texts)
    (line,) = [each for each in axes.collections if each.get_zorder() == 5]
    assert line.get_segments()[0] == pytest.approx(board.grid.center(route.cells))
    legend = [text.get_text() for box in drawn.legends for text in box.get_texts()]
    assert "deep, impassable" in legend
    assert {"may end there, turn 1", "may end there, turn 2", "not possible there"} <= set(legend)
    assert axes.yaxis_inverted()
    sheet = new_figure((800, 400))
    left, right = sheet.subplots(1, 2)
    assert us.draw.figure(board, reach, axes=left, title="Left") is sheet
    assert us.draw.figure(board, route, axes=right, title="Right") is sheet
    assert (left.get_title(loc="left"), right.get_title(loc="left")) == ("Left", "Right")
    assert not sheet.legends
    assert [len(axes.collections) > 0 for axes in (left, right)] == [True, True]
    written = us.draw.figure(board, labels=lambda cell: f"{cell.col}.{cell.row}")
    assert "4.3" in [text.get_text() for text in written.axes[0].texts]


def test_overlays_are_plain_and_stack_by_priority():
    board = scene("square4")
    reach, route = us.reach(board, "scout"), us.route(board, "scout", goals=(4, 3))
    assert reach.overlay().role("pass") == [(1, 2)]
    assert [mark["cell"] for mark in route.overlay().plain()["marks"]] == [
        list(c) for c in route.cells
    ]
    over = us.draw.terminal(board, route, reach).plain
    assert over == us.draw.terminal(board, reach.overlay(), route.overlay()).plain
    with pytest.raises(us.errors.InputError, match="answers: must be answers or overlays"):
        us.draw.terminal(board, "reach")


MARKS = st.builds(us.Mark, st.sampled_from(["reach", "goal"]), st.sampled_from([None, 1, 2]))
LAID = st.builds(
    us.Overlay,
    st.dictionaries(st.builds(us.Cell, st.integers(0, 3), st.integers(0, 2)), MARKS),
    priority=st.integers(0, 3),
)


@given(st.lists(LAID, max_size=4), LAID)
def test_stacked_overlays_show_the_highest_and_changes_lead_from_one_to_the_next(laid, other):
    several = us.Overlays(laid)
    stacked = several.flat()
    for cell in {cell for each in laid for cell in each} | set(other):
        marks = [
            (each.priority, place, each[cell]) for place, each in enumerate(laid) if cell in each
        ]
        marks.sort(key=lambda mark: mark[:2])
        assert stacked.get(cell) == (marks[-1][2] if marks else None)
        assert several.marks(cell) == tuple(mark for _, _, mark in marks)
    for before in (None, us.Overlays([other])):
        drawn = {cell: before.marks(cell) for cell in other} if before else {}
        change = several.changes(before)
        for cell in change.gone:
            del drawn[cell]
        assert not any(drawn.get(cell) == marks for cell, marks in change.laid.items())
        assert drawn | change.laid == {cell: several.marks(cell) for cell in stacked}
    for before, after in ((stacked, other), (other, stacked), (None, other), (other, other)):
        change = after.changes(before)
        drawn = dict(before or {})
        for cell in change.gone:
            del drawn[cell]
        assert not any(drawn.get(cell) == mark for cell, mark in change.laid.items())
        assert drawn | change.laid == dict(after)
    for call in (lambda: us.Overlays(["reach"]), lambda: other.changes("reach")):
        with pytest.raises(us.errors.InputError, match="must be"):
            call()


def expected(board, cell, marks, short):
    """What the four signs of a cell must be, by the written rules."""
    unit = board.unit_at(cell)
    if unit is not None:
        left, right = "()[]"[2 * board.sides.index(unit.side) :][:2]
        return f"{left}{short[unit.name]:2}{right}"
    laid = [board.feature_kinds[name].glyph for name in board.features(cell)]
    glyph = "X" if board.blocked(cell) else [*laid, board.terrains[board.terrain(cell)].glyph][0]
    role, number, text = marks.get(cell, (None, None, None))
    signs = {"reach": str(min(number or 1, 9)), "pass": ":", "refused": "x", "nearest": "+"}
    if role in ("route", "turn-end", "goal"):
        return f" *{glyph if role == 'route' else text[-1]} "
    return f" {signs.get(role, ' ')}{glyph} "


@pytest.mark.parametrize("kind", KINDS)
def test_attacks_threats_and_fog_are_drawn_with_their_legend(kind):
    board = scene(kind)
    for name in ("scout", "pikes", "sapper"):
        unit = board.unit(name)
        board.remove(name)
        board.add(dataclasses.replace(unit, at=None, attack=us.Attack(1, 2), sight=1), at=unit.at)
    side = board.unit("scout").side
    attacks, threats = us.attacks(board, "scout"), us.threats(board, against=side)
    stands = us.stands(board, "scout", attacks.cells[0])
    knowledge = us.fog(board, side)
    words = {
        "attack": "can be attacked", "threat": "can be attacked, by how many",
        "target": "target", "stand": "stands, the best first", "unknown": "never seen",
    }  # fmt: skip
    for answer in (attacks, threats, stands, knowledge):
        overlay = answer.overlay()
        drawn = us.draw.figure(board, answer)
        legend = [text.get_text() for box in drawn.legends for text in box.get_texts()]
        text = us.draw.terminal(board, answer).plain
        hatched = [each for each in drawn.axes[0].collections if each.get_hatch() == "xx"]
        for role, word in words.items():
            cells = overlay.role(role)
            assert (word in legend) == bool(cells)
            if role in ("attack", "threat") and cells:
                assert [len(each.get_paths()) for each in hatched] == [len(cells)]
            if role == "unknown":
                assert text.count("??") == sum(
                    knowledge.board.unit_at(cell) is None for cell in cells
                )
            if role == "stand":
                written = {each.get_text() for each in drawn.axes[0].texts}
                assert {str(rank) for rank in range(1, len(cells) + 1)} <= written
    assert knowledge.overlay().role("unknown")
    assert attacks.overlay().role("attack")


@given(boards(), st.data())
def test_every_sign_stands_where_its_cell_lies(board, data):
    grid = board.grid
    goal = data.draw(st.sampled_from(list(grid.cells)))
    answer = data.draw(st.sampled_from(["none", "reach", "route"]))
    answers = {
        "none": [],
        "reach": [us.reach(board, "a", turns=3)],
        "route": [us.route(board, "a", goals=goal)],
    }[answer]
    marks = {
        cell: (mark.role, mark.number, mark.text)
        for each in answers
        for cell, mark in each.overlay().items()
    }
    lines = us.draw.terminal(board, *answers, width=200).plain.split("\n")
    top = getattr(grid, "top", None)
    assert len(lines) == grid.rows * (2 if top == "flat" else 1)
    # how far a column and a line lead in the world; the first cell that is not shifted lies at 0
    wide, high = {
        "pointy": (1, 0.75 * grid.cell_size[1]),
        "flat": (0.75 * grid.cell_size[0], 0.5),
    }.get(top, (1, 1))
    origin = grid.corners(grid.first).min(axis=0)
    if top:
        origin = origin - 0.5 * np.array((top == "pointy", top == "flat")) * grid.lattice.lines(
            np.array(grid.first)
        )
    corner = grid.corners((0, 0)).min(axis=0) - grid.center((0, 0))
    short = look.short_names(board)
    for number in range(grid.rows * grid.cols):
        cell = grid.numbering.cell_of(number)
        x, y = grid.center(cell) + corner - origin
        column, line = round(4 * x / wide), round(y / high)
        shown = lines[line].ljust(200)[column : column + 4]
        assert shown == (expected(board, cell, marks, short) if cell in grid else "    ")


@given(boards(frame=frames()))
def test_figures_bound_each_turn_by_closed_lines(board):
    """The lines of a turn go round the cells that are reached by then, and no others."""
    reach = us.reach(board, "a", turns=2)
    axes = us.draw.figure(board, reach, labels="offset").axes[0]
    kinds = [each for each in axes.collections if type(each).__name__ == "LineCollection"]
    lines = [each for each in kinds if each.get_zorder() == 3]
    level = not (board.grid.frame.lift and board.elevation.any())  # else some is hidden
    roads = [each for each in board.edges() if board.edge_kinds[each.kind].cost is not None]
    strokes = sum(len(each.get_segments()) for each in kinds if each.get_zorder() == 2.5)
    assert strokes == len(board.edges()) + len(roads) or not level
    turns = sorted({reach[cell].turn for cell in reach}, reverse=True)
    assert len(lines) == (len(turns) if len(reach) > 1 else 0)
    for turn, line in zip(turns, lines, strict=False):
        inside = {cell for cell in reach if reach[cell].turn <= turn}
        for cell in board.grid.cells:
            if level:
                assert wraps(line.get_segments(), board.grid.center(cell)) == (cell in inside)
    assert polygons(axes.collections[0]) == len(board.grid)
    assert axes.yaxis_inverted() == (board.grid.frame.y_axis == "down")


def test_large_boards_have_no_patterns_and_thin_lines():
    widths = []
    for size in (12, 160):
        board = us.Board(us.SquareGrid(size, size), {"turf": us.Terrain(1, pattern="dots")})
        board.add(us.Unit("scout", "wardens", us.Movement(3)), at=(5, 5))
        axes = us.draw.figure(board, us.reach(board, "scout"), legend=False).axes[0]
        assert polygons(axes.collections[0]) == size * size
        strokes = [each for each in axes.collections if type(each).__name__ == "LineCollection"]
        widths.append([float(each.get_linewidths()[0]) for each in strokes])
    assert [len(each) for each in widths] == [2, 1]  # patterns and isochrones; isochrones
    assert widths[1][0] < widths[0][1] / 2


def test_raised_ground_has_sides_and_hides_what_is_behind():
    frame = us.Frame(cell=(64, 32), projection="isometric", lift=16)
    board = us.Board(us.SquareGrid(4, 4, frame=frame), {"turf": 1})
    board.set_elevation(6, (2, 2))
    axes = us.draw.figure(board, labels="level").axes[0]
    ground = axes.collections[0].get_paths()
    assert len(ground) == 16 + 2
    seen = [cell for cell in board.grid.cells if board.cell_at(board.center(cell)) == cell]
    assert (1, 1) not in seen
    texts = [text.get_text() for text in axes.texts]
    assert sorted(texts) == ["0"] * (len(seen) - 1) + ["1 cell", "6"]


@pytest.mark.parametrize("kind", KINDS)
def test_labels_say_what_each_cell_is(kind):
    board = scene(kind)
    grid = board.grid
    systems = ["offset"] if kind.startswith("square") else ["offset", "axial", "cube", "doubled"]
    for system in systems:
        for cell, text in label_texts(board, system).items():
            numbers = [int(part) for part in text.replace("\n", ",").split(",")]
            given = numbers if system == "offset" else grid.convert(numbers, system, "offset")
            assert tuple(given) == cell
    exits, counts = label_texts(board, "exits"), label_texts(board, "neighbors")
    for cell in grid.cells:
        ways = list(us.passable(board, us.Movement(1), cell))
        assert counts[cell] == (str(len(ways)) if _open(board, cell) else "")
        whole = len(ways) == len(grid.directions)
        assert exits[cell].split() == (["all"] if whole else ways)
    shown = us.draw.terminal(board, labels="offset").plain.split()
    assert sorted(shown) == sorted(f"{col},{row}" for col, row in grid)
    with pytest.raises(us.errors.NameUnknownError, match="did you mean 'exits'"):
        us.draw.terminal(board, labels="exit")
    if len(systems) == 1:
        with pytest.raises(us.errors.InputError, match="labels: is a system of hex boards"):
            us.draw.figure(board, labels="cube")


def _open(board, cell):
    return cell is not None and board.terrain(cell) != "deep"


def test_blocks_links_and_large_units_are_drawn_where_they_are():
    board = us.Board(us.HexGrid(8, 6), {"turf": 1, "mud": 2})
    board.block([(1, 1), (2, 1)])
    board.block((5, 5), side="wreckers")
    board.link((0, 0), (6, 3), kind="ferry", both=False)
    board.add(
        us.Unit("cart", "wardens", us.Movement(3, footprint=us.Footprint.cluster(1))), at=(4, 3)
    )
    axes = us.draw.figure(board).axes[0]
    hatched = {
        each.get_hatch(): [path.vertices[:-1].mean(axis=0) for path in each.get_paths()]
        for each in axes.collections
        if each.get_hatch()
    }
    assert set(hatched) == {"xxx", "///"}
    assert np.array(hatched["xxx"]) == pytest.approx(board.center([(1, 1), (2, 1)]))
    assert np.array(hatched["///"]) == pytest.approx(board.center([(5, 5)]))
    ends = board.center([(0, 0), (6, 3)])
    lines = [line.get_xydata() for line in axes.lines]
    assert any(line.shape == (2, 2) and line == pytest.approx(ends) for line in lines)
    (token,) = (patch for patch in axes.patches if patch.get_alpha())
    inside = [c for c in board.grid if token.get_path().contains_point(board.center(c))]
    assert set(inside) == set(board.grid.disk((4, 3), 1))
    told = board_legend(board).plain
    assert "ferry: (0, 0) to (6, 3), cost 1" in told
    assert "closed to the wreckers: 1 cells" in told


@examples(0.3)
@given(boards(), st.data())
def test_addresses_are_read_off_the_edges(board, data):
    """The row stands before a line, the column above, half a cell aside where rows are shifted."""
    unit, grid = board.unit("a"), board.grid
    first = data.draw(st.sampled_from([None, grid.first, unit.at]))
    lines = us.draw.terminal(board, first=first, numbers=True, width=1000).plain.split("\n")
    short = dict(zip((each.name for each in board.units()), look.short_names(board).values(),
                     strict=True))["a"]  # fmt: skip
    left, right = "()[]"[2 * board.sides.index(unit.side) :][:2]
    token = f"{left}{short:2}{right}"
    found = [(line, line.index(token)) for line in lines if token in line]
    assert found or unit.movement.footprint != us.Footprint([(0, 0)])
    heads = {int(each.group()): each.start() for each in re.finditer(r"-?\d+", lines[0])}
    margin = max(len(str(bound.row)) for bound in grid.bounds)  # digits may be glyphs, too
    for line, at in found:
        rows = lines[lines.index(line)], lines[lines.index(line) - 1]  # of two halves the upper
        row = next(int(each[:margin]) for each in rows if each[:margin].strip())
        near = {col for col, start in heads.items() if abs(start - 1 - at) <= 2}
        assert any(cell.row == row and cell.col in near for cell in board.covered(unit))


def test_edges_are_hinted_at_and_a_wide_board_is_scrolled():
    board = us.Board(
        us.SquareGrid(30, 3), {"turf": us.Terrain(glyph=".")}, edges={"wall": us.Edge()}
    )
    board.set_edge((1, 1), (2, 1), "wall")
    board.set_edge((4, 1), (4, 2), "wall")
    lines = us.draw.terminal(board, edges=True, numbers=True, width=1000).plain.split("\n")
    assert lines[2].startswith("1   .   . | .   .   ._  .")
    assert lines[3].startswith("2   .   .   .   .   .   .")
    narrow = us.draw.terminal(board, first=(20, 1), numbers=True, width=43).plain.split("\n")
    assert narrow[0].split() == ["20", "22", "24", "26", "28"]  # as many as have room
    assert [line.split()[0] for line in narrow[1:3]] == ["1", "2"]
    with pytest.raises(us.errors.CellError, match="first"):
        us.draw.terminal(board, first=(99, 0))


def test_names_that_look_like_formulas_or_steer_a_terminal_are_drawn_as_they_are():
    board = us.Board(us.SquareGrid(4, 4), {"turf $x^$": 1, "\x9bmud": 2})
    board.paint("\x9bmud", (1, 1))
    board.add(us.Unit(r"$\frac$", "$a_$", us.Movement(2), attack=us.Attack()), at=(0, 0))
    drawn = us.draw.figure(board, us.reach(board, r"$\frac$"), us.threats(board, "$a_$"))
    words = {text.get_text() for box in drawn.legends for text in box.get_texts()}
    assert {"turf $x^$, cost 1", "\\x9bmud, cost 2"} <= words
    answers = us.study.compare(board, r"$\frac$", (3, 3))
    us.draw.side_by_side(board, *answers).canvas.draw()


def test_raised_ground_that_hides_nothing_is_drawn():
    board = us.Board(us.HexGrid(3, 1), {"turf": 1})
    board.set_elevation(1, (0, 0))
    axes = us.draw.figure(board, view="isometric", legend=False).axes[0]
    assert sum(len(each.get_paths()) for each in axes.collections) >= 3


@pytest.mark.parametrize(
    ("given", "rule"),
    [
        ({"size": 5}, "size: must be a width and a height in pixels"),
        ({"size": (800, 49)}, "size: must be a whole number from 50 to 20000"),
        ({"size": (800, 600, 3)}, "size: must be a width and a height"),
        ({"axes": "left"}, "axes: must be axes of Matplotlib"),
        ({"sides": ["red"]}, "sides: must give colours by side"),
        ({"sides": {"wardens": "red"}}, "sides: the colour of 'wardens' must be like"),
    ],
)
def test_what_a_figure_cannot_be_drawn_with_is_refused(given, rule):
    with pytest.raises(us.errors.InputError, match=rule):
        us.draw.figure(us.maps.shipped("fen"), **given)


@pytest.mark.parametrize("number", [2.5, -3, 0, 10**15, -(10**15)])
def test_marks_of_a_games_own_are_drawn_with_any_number(number):
    board = us.Board(us.SquareGrid(3, 3), {"turf": 1})
    for role in ("reach", "threat", "field", "area", "finding", "of the game"):
        overlay = us.Overlay({(1, 1): us.Mark(role, number)})
        assert list(overlay) == [us.Cell(1, 1)]
        for draw in (us.draw.terminal, us.draw.figure, us.draw.page):
            assert draw(board, overlay)


@pytest.mark.parametrize(
    "marks", [{5: us.Mark("reach")}, {(1, 1): "reach"}, {(1, 1): us.Mark("reach", float("nan"))}]
)
def test_what_is_no_overlay_is_refused(marks):
    with pytest.raises(us.errors.InputError, match=r"^marks: "):
        us.Overlay(marks)
