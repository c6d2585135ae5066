"""Figures and terminal views of every kind of board."""

import pytest
from reference import KINDS, make_grid

import understep as us


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
    reach, route = us.reach(board, "scout"), us.route(board, "scout", to=(4, 3))
    text = us.picture(board, reach).plain
    assert text.count("1.") == len(reach) - 1
    assert text.count("d") == 3
    for token in ("(sc)", "(pi)", "[sa]"):
        assert text.count(token) == 1
    lines = us.picture(board).plain.splitlines()
    if kind.startswith("flat"):
        assert len(lines) == 8
        shifted = 1 if kind.endswith("odd") else 0
        assert ("(sc)" in lines[2 + shifted], "d" in lines[1 - (1 - shifted)]) == (True, True)
    else:
        indents = [len(line) - len(line.lstrip()) for line in lines]
        assert len(lines) == 4
        if kind.startswith("pointy"):
            assert (indents[3] > indents[0]) == kind.endswith("odd")
    for text in (us.picture(board, route).plain, us.picture(board, route, width=15).plain):
        assert text.count("*") == sum(board.vacant(step.cell) for step in route.steps)
    assert f"*{route.turns}" in text
    assert max(map(len, us.picture(board, width=15).plain.splitlines())) <= 12


@pytest.mark.parametrize("kind", KINDS)
def test_the_figure_draws_what_the_answers_say(kind, tmp_path):
    board = scene(kind)
    reach, route = us.reach(board, "scout", turns=2), us.route(board, "scout", to=(4, 3))
    refused = us.route(board, "scout", to=(3, 0))
    path = tmp_path / "scene.png"
    drawn = us.figure(board, reach, route, refused, title="Scene", path=path)
    assert path.read_bytes()[:4] == b"\x89PNG"
    axes = drawn.axes[0]
    ground, wash = (each for each in axes.collections if type(each).__name__ == "PolyCollection")
    assert len(ground.get_paths()) == 20
    assert len(wash.get_paths()) == len(reach)
    texts = [text.get_text() for text in axes.texts]
    assert {"sc", "pi", "sa", str(route.turns)} <= set(texts)
    dashed = [line for line in axes.lines if line.get_linestyle() == "--"]
    assert dashed[0].get_xydata() == pytest.approx(board.grid.center(route.cells))
    legend = [text.get_text() for box in drawn.artists for text in box.get_texts()]
    assert "deep, impassable" in legend
    assert {"may end there, turn 1", "may end there, turn 2", "cannot end there"} <= set(legend)
    assert axes.yaxis_inverted()
    written = us.figure(board, labels=lambda cell: f"{cell.col}.{cell.row}")
    assert "4.3" in [text.get_text() for text in written.axes[0].texts]


def test_overlays_are_plain_and_stack_by_priority():
    board = scene("square4")
    reach, route = us.reach(board, "scout"), us.route(board, "scout", to=(4, 3))
    assert reach.overlay().role("pass") == [(1, 2)]
    assert [mark["cell"] for mark in route.overlay().plain()] == [list(c) for c in route.cells]
    over = us.picture(board, route, reach).plain
    assert over == us.picture(board, reach.overlay(), route.overlay()).plain
    with pytest.raises(us.InputError, match="answers: must be answers or overlays"):
        us.picture(board, "reach")
