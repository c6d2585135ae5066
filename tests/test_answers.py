"""Every answer drawn: as figure and in a terminal, in both views, beside each other, moving."""

import json
import re
from itertools import pairwise
from types import SimpleNamespace

import numpy as np
import pytest
from geometry import KINDS, frames, make_grid
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image
from samples import boards, examples
from test_draw import polygons

import understep as us
from understep.draw._terminal import legend as board_legend


def told(drawn):
    """The words of a figure's legend."""
    return [text.get_text() for box in drawn.legends for text in box.get_texts()]


def answers(board):
    """One of every answer there is, by name; "a" asks."""
    board.remove("a") if board.unit("a").attack else None
    unit = next(each for each in board.units() if each.name == "a")
    goal = list(board.grid)[-1]
    return {
        "reach": us.reach(board, "a", turns=2),
        "route": us.route(board, "a", goals=goal),
        "field": us.field(board, "a", [goal, unit.at]),
        "areas": us.areas(board, "a"),
        "attacks": us.attacks(board, "a", attack=us.Attack(1, 2)),
        "stands": us.stands(board, "a", goal, attack=us.Attack(1, 2)),
        "threats": us.threats(board, against=unit.side),
        "view": us.view(board, "a", radius=2),
        "push": us.push(board, "a", 0, 2),
        "trial": us.study.compare(board, "a", goal)[0],
        "findings": us.maps.check(board),
        "labels": SimpleNamespace(
            overlay=lambda: us.draw.labels(board, lambda c: c.col * c.row or "")
        ),
        "plan": us.behaviors.wander(board, "a", rng=1),
        "sighting": us.sees(board, "a", goal),
        "explanation": us.explain(board, "a", goal),
        "intent": us.intent(us.reach(board, "a"), goal),
        "alert": us.behaviors.notice(board, "a"),
    }


def test_an_intent_to_select_has_an_entry_for_its_cell():
    board = us.Board(us.SquareGrid(3, 1), {"turf": 1})
    for name, col in (("a", 0), ("b", 2)):
        board.add(us.Unit(name, "ours", us.Movement(0)), at=(col, 0))
    found = us.intent(us.reach(board, "a"), (2, 0))
    assert (found.target, found.get((2, 0)).value) == ("b", "select")
    assert not found.get((1, 0))


SHAPES = {"areas": "area", "field": "cost", "reach": "turn", "threats": "foes", "view": "view"}
NOT_OF_A_BOARD = "alert", "labels", "trial"


@given(boards(), st.data())
def test_every_answer_has_the_same_shape(board, data):
    """Truth, reason, board, unit, cells, an entry or a refusal for each cell, plain data."""
    name, answer = data.draw(st.sampled_from(sorted(answers(board).items(), key=lambda x: x[0])))
    if name in NOT_OF_A_BOARD:
        return
    assert answer.board is board
    assert re.fullmatch(r"<[^\n]{1,150}>", repr(answer))
    assert not answer.stale
    assert answer.unit is None or answer.unit == board.unit("a")
    assert isinstance(answer.cells, us.Cells)
    assert bool(answer) or answer.why
    assert all(isinstance(each, str) for each in answer.blockers)
    assert isinstance(answer.overlay(), us.Overlay)
    assert isinstance(answer.plain(), dict)
    json.dumps(answer.plain(), allow_nan=False)
    json.dumps(answer.overlay().plain(), allow_nan=False)
    there = set(answer.cells)
    for cell in board.grid:
        found = answer.get(cell)
        if cell in there:
            assert found, name
        else:
            assert not found
            assert found.why
    if name in SHAPES:
        assert answer.table(SHAPES[name]).shape == (board.grid.rows, board.grid.cols)
        with pytest.raises(us.errors.NameUnknownError, match="column"):
            answer.table("price")
    state = board.state
    board.title += "!"
    assert not answer.stale
    assert board.state != state


def painted(name, answer, board):
    """What an overlay should say of each cell: role and number, by the answer itself."""
    start = {board.unit("a").at: ("start", 1)}
    if name == "reach":
        marks = dict.fromkeys(answer.passing, ("pass", None))
        return marks | {cell: ("reach", answer[cell].turn) for cell in answer.cells} | start
    if name == "route" and not answer:
        return {answer.goal: ("refused", None), answer.nearest: ("nearest", None)}
    if name == "route":
        marks = {step.cell: ("route", step.turn) for step in answer.steps}
        ends = {step.cell: step.turn for step in answer.steps if step.cell in answer.stops}
        marks |= {cell: ("turn-end", turn) for cell, turn in ends.items()}
        return start | marks | {answer.goal: ("goal", answer.turns)}
    if name == "attacks":
        marks = dict.fromkeys(answer.cells, ("attack", None)) | painted(
            "reach", answer.reach, board
        )
        passing = set(answer.reach.passing) & set(answer.cells)
        marks |= dict.fromkeys(passing - set(answer.reach.cells), ("attack", None)) | start
        hit = {cell for each in answer.targets for cell in board.covered(board.unit(each))}
        return marks | dict.fromkeys(hit, ("target", None))
    if name == "explanation":
        marks = {answer.cell: ("goal", 1) if answer else ("refused", None)}
        for number, each in reversed(list(enumerate(answer.obstacles, 1))):
            marks[each.cell] = ("finding", number)
        return marks
    if name == "intent":
        marks = {} if answer.route is None else painted("route", answer.route, board)
        return marks | ({answer.cell: ("refused", None)} if answer.meaning == "refused" else {})
    if name == "plan":
        if answer.route is None:
            return {answer.end: ("goal", 1)}
        return painted("route", answer.route, board)
    if name == "sighting":
        marks = dict.fromkeys(board.grid.line(answer.start, answer.end), ("line", None))
        marks |= {} if answer else {answer.end: ("refused", None)}
        for number, each in reversed(list(enumerate(answer.obstacles, 1))):
            marks[each.between[0] if each.between else each.cell] = ("finding", number)
        return marks | {answer.start: ("start", None)}
    if name == "push":
        marks = dict.fromkeys(answer.cells, ("route", 1)) | start | {answer.end: ("goal", 1)}
        return marks if answer.beyond is None else marks | {answer.beyond: ("refused", None)}
    if name == "field":
        alone = board.copy()
        for each in board.units():
            alone.remove(each.name) if each.name != "a" else None
        there = [cell for cell in answer.cells if alone.can_stand("a", cell)]
        marks = {cell: ("field", answer[cell]) for cell in there}
        return marks | {cell: ("goal", 0) for cell in answer.goals if cell in answer}
    return {
        "areas": lambda: {cell: ("area", answer[cell]) for cell in answer.cells},
        "stands": lambda: (
            dict.fromkeys((each.aim for each in answer), ("target", None))
            | {each.cell: ("stand", rank) for rank, each in enumerate(answer, 1)}
        ),
        "threats": lambda: {cell: ("threat", len(answer.by(cell))) for cell in answer.cells},
        "view": lambda: (
            dict.fromkeys(answer.cells, ("view", None)) | dict.fromkeys(answer.eyes, ("eye", None))
        ),
    }[name]()


@examples(3)
@given(boards(), st.data())
def test_every_overlay_says_what_its_answer_says(board, data):
    every = answers(board)
    names = [name for name in every if name not in (*NOT_OF_A_BOARD, "findings")]
    name = data.draw(st.sampled_from(sorted(names)))
    overlay, wanted = every[name].overlay(), painted(name, every[name], board)
    assert set(overlay) == set(wanted), name
    for cell, (role, number) in wanted.items():
        found = overlay[us.Cell(*cell)]
        assert found.role == role, (name, cell)
        # in which turn a cell can only be passed is not said
        assert found.number == number or role == "pass", (name, cell)


@examples(0.4)
@given(boards(cells=20, frame=frames(lift=True)), st.data())
def test_every_answer_can_be_drawn_in_both_views_and_in_a_terminal(board, data):
    """What is drawn is marked, and the legends have a word for all of it."""
    name, answer = data.draw(st.sampled_from(sorted(answers(board).items(), key=lambda x: x[0])))
    view = data.draw(st.sampled_from([None, "plan", "isometric"]))
    overlay = answer.overlay()
    assert all(cell in board.grid for cell in overlay), name
    drawn = us.draw.figure(board, answer, view=view)
    words, axes = told(drawn), drawn.axes[0]
    roles = {mark.role for mark in overlay.values()}
    known = {
        "reach": "may end there", "pass": "may only pass", "field": "cost ", "area": "area ",
        "expanded": "expanded", "attack": "can be attacked", "threat": "can be attacked",
        "view": "edge of what is seen", "refused": "not possible", "finding": "1  ",
        "stand": "stands, the best first", "nearest": "nearest it can get",
    }  # fmt: skip
    for role in roles & set(known):
        assert any(word.startswith(known[role]) for word in words), role
    layers = [each for each in axes.collections if type(each).__name__ == "PathCollection"]
    washes = [each for each in layers if each.get_zorder() == 2]
    washed = {"reach", "field", "area", "expanded"} & roles
    if washed and name != "attacks":
        beside = {"refused", "nearest", "pass"} if "field" not in roles else {"goal"}
        wanted = [cell for cell, mark in overlay.items() if mark.role not in beside]
        lift = {None: board.grid.frame.lift, "plan": 0, "isometric": 0.3}[view]
        if name != "plan" and not (lift and board.elevation.any()):  # nothing is hidden
            assert sum(map(polygons, washes)) == len(wanted)
    texts = [text.get_text() for text in axes.texts]
    for role in {"field", "label"} & roles:
        lifted = (
            board if view is None else us.maps.reframe(board, us.Frame(projection=view, lift=0.3))
        )
        free = [cell for cell in overlay.role(role) if lifted.cell_at(lifted.center(cell)) == cell]
        wanted = {overlay[cell].text for cell in free}
        ends = axes.transData.transform([(0, 0), board.grid.cell_size])
        if wanted - set(texts):  # all or none, where cells are too small to be read
            assert not wanted & set(texts)
            assert abs(ends[1] - ends[0]).min() < 45
    shown = us.draw.terminal(board, answer, width=200).plain
    assert shown.count("\n") + 1 == board.grid.rows * (2 if board.grid.lattice.stagger == 2 else 1)
    meaning = board_legend(board, answer).plain
    assert not {"area", "field", "expanded"} & roles or "  " in meaning.splitlines()[-1]
    if "area" in roles:
        vacant = [cell for cell in overlay.role("area") if board.unit_at(cell) is None]
        assert len(re.findall(r" [a-z]\S(?=\s)", shown + " ")) == len(vacant)


@given(boards(), st.integers(3, 30))
def test_a_board_too_wide_is_cut_to_what_fits_around_its_units(board, width):
    reach, grid = us.reach(board, "a"), board.grid
    *lines, last = us.draw.terminal(board, reach, width=width).plain.split("\n")
    whole = us.draw.terminal(
        board, reach, width=4 * grid.cols + 2 if width > 400 else 1 << 20
    ).plain
    if not last.startswith("columns"):
        assert max(map(len, [*lines, last])) <= width
        return
    first, end, every = map(int, re.findall(r"-?\d+", last))
    assert every == grid.cols > end - first + 1
    assert grid.first[0] <= first <= end < grid.first[0] + grid.cols
    assert max(map(len, lines)) <= max(width, 3)
    middle = sum(edge(cell.col for cell in reach.overlay()) for edge in (min, max)) / 2
    low, high = grid.first[0], grid.first[0] + grid.cols - 1
    assert first <= middle + 1 or first == low
    assert end >= middle - 1 or end == high
    cells = [cell for cell in grid if first <= cell.col <= end]
    roomy = us.draw.terminal(
        us.maps.resize(board, grid.cols, grid.rows), reach, width=2 * grid.cols + 2
    )
    assert len("".join(lines).split()) <= len(whole.split()) + len(cells)
    assert set("".join(lines)) <= set(roomy.plain)


@given(boards(frame=frames()), frames(lift=True), st.data())
def test_a_reframed_board_is_the_same_but_for_where_it_lies(board, frame, data):
    other = us.maps.reframe(board, frame)
    assert (other.grid.frame, list(other.grid)) == (frame, list(board.grid))
    assert us.maps.reframe(other, board.grid.frame).grid == board.grid
    cells = list(board.grid)
    for facts in (
        lambda b: [b.terrain(cell) for cell in cells],
        lambda b: b.elevation.tolist(),
        lambda b: b.values("depth").tolist(),
        lambda b: [b.blocks(side=side).array.tolist() for side in (None, "ours", "theirs")],
        lambda b: (b.edges(), b.links(), b.sides),
        lambda b: [(unit.name, unit.at, unit.left, unit.movement) for unit in b.units()],
        lambda b: [unit.facing and b.grid.directions.index(unit.facing) for unit in b.units()],
        lambda b: [(cell, us.reach(b, "a", turns=2)[cell]) for cell in us.reach(b, "a", turns=2)],
    ):
        assert facts(other) == facts(board)
    seen = us.maps.reframe(
        board, us.Frame(projection=data.draw(st.sampled_from(["plan", "isometric"])))
    )
    route = us.route(board, "a", goals=data.draw(st.sampled_from(cells)), accept="nearest")
    line = us.curve(route, on=seen)
    ends = seen.grid.center(route.cells)[[0, -1]]
    assert line.ground[[0, -1]] == pytest.approx(ends, abs=1e-9)
    moving = us.poses(route, pace=1, on=seen)
    assert moving.at(99).point == pytest.approx(tuple(seen.center(route.goal)))
    there = us.curve(us.route(seen, "a", goals=route.goal, accept="nearest"))
    assert line.ground.tolist() == there.ground.tolist()
    for piece, same in zip(us.ribbon(route, on=seen), us.ribbon(route), strict=True):
        if board.grid.frame.rows == "down":
            assert piece._replace(angle=same.angle) == same
        if piece.heading:
            assert piece.angle == seen.grid.bearing(piece.heading)
    smaller = us.Board(us.SquareGrid(1, 1), {"turf": 1})
    for call in (us.curve, us.ribbon, lambda way, on: us.poses(way, speed=1, on=on)):
        with pytest.raises(us.errors.InputError, match="on: must be a board of the same cells"):
            call(route, on=smaller if len(cells) > 1 else "board")
    with pytest.raises(us.errors.InputError, match="frame: must be a Frame"):
        us.maps.reframe(board, "isometric")


@pytest.mark.parametrize("kind", KINDS)
def test_answers_stand_beside_each_other_and_move(kind, tmp_path):
    board = us.Board(make_grid(kind, 7, 5), {"turf": 1, "deep": None})
    board.paint("deep", [(3, 0), (3, 1), (3, 2)])
    for name, side, at in (("scout", "wardens", (1, 1)), ("sapper", "wreckers", (6, 4))):
        board.add(us.Unit(name, side, us.Movement(3), attack=us.Attack(1, 2)), at=at)
    route = us.route(board, "scout", goals=(5, 0))
    many = [us.reach(board, "scout"), route, us.areas(board, "scout")]
    drawn = us.draw.side_by_side(board, *many, path=tmp_path / "three.svg")
    assert [axes.get_title(loc="left") for axes in drawn.axes] == [
        repr(each).strip("<>") for each in many
    ]
    assert "<svg" in (tmp_path / "three.svg").read_text()
    (below,) = drawn.legends  # of the answers; what the ground is, figures of one say
    told = {text.get_text() for text in below.get_texts()}
    assert told == {"may end there, turn 1", "route, turns numbered", "area  0"}
    path = tmp_path / "walk.gif"
    frames = us.draw.animate(board, route, path, size=(420, 300))
    assert frames == 4 * len(route.steps) + 1
    with Image.open(path) as moving:
        assert (moving.n_frames, moving.size) == (frames, (420, 300))
        stills = []
        for place in (0, frames // 2, frames - 1):
            moving.seek(place)
            stills.append(np.array(moving.convert("L"), dtype=int))
    for a, b in pairwise(stills):  # the token has moved, and little else
        assert 0.001 < (np.abs(a - b) > 40).mean() < 0.1
    for call, rule in (
        (lambda: us.draw.side_by_side(board, *many, titles=["one"]), "titles: must be as many"),
        (lambda: us.draw.side_by_side(board, *many * 2), "answers: must be one to four"),
        (lambda: us.draw.animate(board, us.reach(board, "scout"), path), "what: must be a trial"),
        (lambda: us.draw.animate(board, us.route(board, "scout", (3, 0)), path), "what: must be"),
        (lambda: us.draw.figure(board, view="above"), "view: must name a choice"),
    ):
        with pytest.raises(us.UnderstepError, match=rule):
            call()


@pytest.mark.parametrize(("size", "many"), [((4, 3), "1 cell"), ((22, 14), "5 cells")])
@pytest.mark.parametrize("y_axis", ["down", "up"])
def test_the_scale_is_as_long_as_its_cells(size, many, y_axis):
    frame = us.Frame(cell=(32, 32), y_axis=y_axis)
    axes = us.draw.figure(us.Board(us.SquareGrid(*size, frame=frame), {"turf": 1})).axes[0]
    (bar,) = axes.lines
    count = int(many.split()[0])
    (_, (x, y), (far, _), _) = bar.get_xydata()
    assert (far - x, axes.texts[-1].get_text()) == (32 * count, f"{many}, {32 * count} units")
    low, high = sorted(axes.get_ylim())
    assert low < y < high
    assert (y > 32 * size[1]) if y_axis == "down" else (y < -32 * size[1])


def test_a_legend_with_too_many_units_counts_them():
    board = us.Board(us.SquareGrid(9, 9), {"turf": 1})
    for place, cell in enumerate(list(board.grid)[:50]):
        side = ["wardens", "wreckers"][place % 2]
        board.add(us.Unit(f"u{place}", side, us.Movement(1)), at=cell)
    drawn = us.draw.figure(board)
    assert len(drawn.axes[0].lines) == 2 + 1  # the tokens of each side at once, and the scale
    assert {f"u{place}"[:2] for place in range(9)} <= {
        each.get_text() for each in drawn.axes[0].texts
    }
    words = told(drawn)
    assert words[-2:] == ["wardens: 25 units", "wreckers: 25 units"]
    found = us.Overlay({us.Cell(0, 8): us.Mark("field", 123.5, "123.5")})
    assert "124" in us.draw.terminal(board, found).plain
    assert (
        SimpleNamespace(**us.maps.check(board)[0].plain()).kind
        == us.maps.check(board).plain()["findings"][0]["kind"]
    )


def test_answers_stay_fresh_while_nothing_that_matters_changes():
    board = us.Board(us.SquareGrid(12, 6), {"turf": 1, "mud": 3})
    for name, side, cell in (("scout", "ours", (0, 0)), ("pikes", "theirs", (11, 5))):
        board.add(us.Unit(name, side, us.Movement(3), sight=2, attack=us.Attack()), at=cell)

    def ask():
        return {
            "field": us.field(board, "scout", [(5, 5)]), "areas": us.areas(board, "scout"),
            "view": us.view(board, "scout"), "attacks": us.attacks(board, "scout"),
            "threats": us.threats(board, against="ours"), "reach": us.reach(board, "scout"),
        }  # fmt: skip

    edits = {
        lambda: setattr(board, "title", "another"): set(),
        lambda: us.Turns(board, ["ours", "theirs"]): set(),
        lambda: board.put("pikes", at=(10, 5)): {"attacks", "threats"},
        lambda: board.put("scout", at=(1, 0)): {"view", "attacks", "threats", "reach"},
        lambda: board.paint("mud", (1, 1)): set(ask()),
    }
    for edit, stale in edits.items():
        asked = ask()
        edit()
        assert {name for name, answer in asked.items() if answer.stale} == stale


def test_a_cell_that_is_not_there_gets_a_no_with_its_reason():
    board = us.Board(us.HexGrid(5, 4), {"turf": 1})
    scout = us.Unit("scout", "wardens", us.Movement(points=3), attack=us.Attack())
    board.add(scout, at=(1, 1))
    reach, field = us.reach(board, "scout"), us.field(board, "scout", [(0, 0)])
    attacks, known = us.attacks(board, "scout"), us.fog(board.copy(), "wardens")
    for cell, why in ((None, "there is no cell"), ((9, 9), "(9, 9) is off the board")):
        for answer in (
            reach.get(cell), field.get(cell), attacks.get(cell), us.view(board, "scout").get(cell),
            board.can_stand("scout", cell), us.explain(board, "scout", cell),
            us.sees(board, "scout", cell), us.stands(board, "scout", cell), known.get(cell),
        ):  # fmt: skip
            assert not answer
            assert why in answer.why
            assert us.draw.figure(board, answer) if hasattr(answer, "overlay") else True
        route, intent = us.route(board, "scout", cell), us.intent(reach, cell)
        assert (bool(route), bool(intent)) == (False, False)
        assert why in route.why
        assert intent.why
        assert route.nearest == (1, 1)
        assert us.draw.figure(board, route)
    both = us.route(board, "scout", [(9, 9), (3, 1)])  # those that are there count
    assert both.goal == (3, 1)
