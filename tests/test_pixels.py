"""What is drawn is what is so: the colours of figures, sampled at what shows of every cell."""

from random import Random

import numpy as np
import pytest

import understep as us

FRAMES = {
    "plan": us.Frame(cell=(40, 40)),
    "raised": us.Frame(cell=(40, 40), lift=15),
    "isometric": us.Frame(cell=(64, 32), projection="isometric", lift=18),
    "up": us.Frame(cell=(40, 40), lift=12, rows="up"),
}
GRIDS = {
    "square": lambda frame: us.SquareGrid(9, 7, diagonals=True, frame=frame),
    "pointy": lambda frame: us.HexGrid(9, 7, frame=frame),
    "flat": lambda frame: us.HexGrid(9, 7, top="flat", frame=frame),
}
ANSWERS = {
    "reach": lambda board: us.reach(board, "scout", turns=2),
    "field": lambda board: us.field(board, us.Movement(3), [(0, 0)]),
    "areas": lambda board: us.areas(board, "scout"),
    "view": lambda board: us.view(board, "scout", radius=3),
    "attacks": lambda board: us.attacks(board, "scout", moving=False),
    "threats": lambda board: us.threats(board, "wreckers"),
    "heat": lambda board: us.draw.heat(us.reach(board, "scout", turns=2)),
    "passable": lambda board: us.draw.passable(board, "scout"),
    "search": lambda board: us.study.compare(board, "scout", (8, 6))[0],
}
HATCHED = ("view", "attacks", "threats")
CHANGED = {"view": False}  # of a view, what is not seen is veiled


def scene(grid, frame, seed):
    board = us.Board(GRIDS[grid](FRAMES[frame]), {"turf": 1, "mud": 2, "deep": None})
    rng, cells = Random(seed), list(board.grid)
    board.paint("mud", rng.sample(cells, 9))
    board.paint("deep", [cell for cell in rng.sample(cells, 9) if cell not in ((4, 3), (8, 0))])
    for level in (1, 2, 4):
        board.set_elevation(level, rng.sample(cells, 5))
    scout = us.Unit("scout", "wardens", us.Movement(3), attack=us.Attack(1, 2))
    board.add(scout, at=(4, 3))
    board.add(scout.copy("raider", side="wreckers"), at=(8, 0))
    return board


def pixels(board, *answers):
    """The picture, without texts of the answers, and its axes."""
    drawn = us.draw.figure(board, *answers, size=(600, 450), legend=False)
    drawn.canvas.draw()
    return np.asarray(drawn.canvas.buffer_rgba())[..., :3].astype(int), drawn.axes[0]


def samples(board, axes, height):
    """Pixels ``(cells, spots, 2)`` near the middles of cells that show there, and these cells."""
    steps = np.linspace(-0.2, 0.2, 9)
    spots = np.stack(np.meshgrid(steps, steps), axis=-1).reshape(-1, 2)
    cells = [cell for cell in board.grid if board.unit_at(cell) is None]
    points = board.center(cells)[:, None] + spots * board.grid.cell_size
    found, there = board.cells_at(points.reshape(-1, 2))
    same = (found.reshape(points.shape) == np.array(cells)[:, None]).all(axis=2)
    shows = (same & there.reshape(same.shape)).all(axis=1)
    x, y = np.round(axes.transData.transform(points[shows].reshape(-1, 2))).astype(int).T
    where = np.stack([height - 1 - y, x]).reshape(2, -1, len(spots))
    return [cell for cell, shown in zip(cells, shows, strict=True) if shown], where


@pytest.mark.parametrize(("grid", "frame"), [
    ("square", "isometric"), ("square", "up"), ("pointy", "isometric"), ("flat", "raised"),
])  # fmt: skip
def test_every_cell_that_shows_is_coloured_as_the_answer_says(grid, frame):
    board = scene(grid, frame, f"{grid} {frame}")
    bare, axes = pixels(board)
    cells, (rows, cols) = samples(board, axes, len(bare))
    assert len(cells) > 25
    for name, ask in ANSWERS.items():
        answer = ask(board)
        marked = answer if isinstance(answer, us.Overlay) else answer.overlay()
        changed = np.abs(pixels(board, answer)[0] - bare).sum(axis=2)[rows, cols] > 3
        for cell, here in zip(cells, changed, strict=True):
            mark = marked.get(cell)
            if mark is not None and mark.role in ("goal", "refused", "stand"):
                continue
            expected = (mark is not None) == CHANGED.get(name, True)
            # what is hatched shows the ground between the lines, and texts lie over strokes
            least = 0 if name in HATCHED else 0.8
            # lines around a cell in front are a little wider than it
            assert here.mean() > least if expected else here.mean() < 0.05, (name, cell, mark)


def crowded(grid):
    board = us.Board(grid, {
        "turf": 1, "mud": 2, "deep": None, **{f"ground {number}": number for number in range(6)},
    }, edges={"wall": us.Edge(blocks=True), "road": us.Edge(cost=1)})  # fmt: skip
    board.lay_beside("wall", [(5, 5), (5, 6)], board.grid.directions[0])
    for place, cell in enumerate(list(board.grid)[::23]):
        side = "abcdefgh"[place % 8]
        board.add(us.Unit(f"unit {place}", side, us.Movement(4), attack=us.Attack(1, 2)), at=cell)
    return board


@pytest.mark.parametrize("size", [None, (1280, 800), (640, 360)])
def test_no_text_of_a_legend_lies_on_another_or_leaves_the_picture(size):
    for board in (
        crowded(us.HexGrid(22, 14)),
        crowded(us.SquareGrid(60, 10)),
        crowded(us.SquareGrid(9, 40)),
    ):
        many = us.reach(board, "unit 1", turns=3), us.field(board, us.Movement(9), [(0, 0)])
        drawn = us.draw.figure(board, *many, us.attacks(board, "unit 1"), size=size)
        drawn.canvas.draw()
        renderer = drawn.canvas.get_renderer()
        texts = [text for box in drawn.legends for text in (*box.get_texts(), box.get_title())]
        boxes = [text.get_window_extent(renderer) for text in texts]
        assert len(boxes) > 10
        (width, height), shown = drawn.canvas.get_width_height(), drawn.axes[0].get_window_extent()
        for place, box in enumerate(boxes):
            assert 0 <= box.x0 <= box.x1 <= width
            assert 0 <= box.y0 <= box.y1 <= height
            assert box.x0 >= shown.x1 or box.y1 <= shown.y0
            assert not any(box.overlaps(other) for other in boxes[:place])


def test_a_swatch_of_a_field_has_the_colour_of_its_cells():
    board = us.Board(us.SquareGrid(12, 6), {"turf": 1, "mud": us.Terrain(2, tint="#335533")})
    board.paint("mud", board.grid.rectangle((4, 0), (7, 5)))
    field = us.field(board, us.Movement(3), [(0, 0)])
    drawn = us.draw.figure(board, field)
    drawn.canvas.draw()
    image = np.asarray(drawn.canvas.buffer_rgba())[..., :3].astype(int)
    (box,) = [each for each in drawn.legends if each.get_title().get_text() == "Answers"]
    swatches = {}
    for text, patch in zip(box.get_texts(), box.get_patches(), strict=False):
        x, y = patch.get_window_extent().get_points().mean(axis=0).astype(int)
        swatches[text.get_text()] = tuple(image[len(image) - 1 - y, x].tolist())
    table, count = field.table(), 0
    for cell in board.grid:
        cost = table[board.grid.index(cell)]
        name = next((each for each in swatches if each.startswith("cost ")
                     and float(each.split()[1]) <= cost <= float(each.split()[-1])), None)  # fmt: skip
        corner = board.center(cell) + np.array([-0.35, -0.35]) * board.grid.cell_size
        x, y = drawn.axes[0].transData.transform(corner).astype(int)
        if name is not None and cell != (0, 0):
            assert tuple(image[len(image) - 1 - y, x].tolist()) == swatches[name], (cell, name)
            count += 1
    assert count > 60


def test_what_a_game_adds_is_drawn_and_named():
    board = us.Board(us.SquareGrid(8, 4), {"turf": 1, "rock": None})
    for place, side in enumerate(("ours", "theirs")):
        board.add(us.Unit("u" * (place + 1), side, us.Movement(4)), at=(0, place))
    burning = us.Overlay({us.Cell(5, 2): us.Mark("burning"), us.Cell(6, 2): us.Mark("burning")})
    bare, axes = pixels(board)
    cells, (rows, cols) = samples(board, axes, len(bare))
    changed = (np.abs(pixels(board, burning)[0] - bare).sum(axis=2)[rows, cols] > 3).mean(axis=1)
    assert [cell for cell, share in zip(cells, changed, strict=True) if share > 0.9] == [
        (5, 2), (6, 2),
    ]  # fmt: skip
    routes = us.route(board, "u", (7, 0)), us.route(board, "uu", (7, 3))
    drawn = us.draw.figure(board, burning, *routes, sides={"theirs": "#cc2200"})
    words = {text.get_text() for box in drawn.legends for text in box.get_texts()}
    assert {"burning", "route of u, turns numbered", "route of uu, turns numbered"} <= words
    twice = us.draw.figure(board, *routes, us.route(board, "u", (7, 1))).legends[-1]
    named = {f"{each}, turns numbered" for each in ("route 1 of u", "route 2 of u", "route of uu")}
    assert named == {text.get_text() for text in twice.get_texts()}
    assert len({str(line._unscaled_dash_pattern) for line in twice.get_lines()}) == 3
    lines = [each for each in drawn.axes[0].collections if each.get_zorder() == 5]
    assert len({tuple(each.get_color()[0]) for each in lines}) == 2
    assert "#cc2200" in {str(each.get_markerfacecolor()) for each in drawn.axes[0].lines}
    assert {"u", "uu"} <= {text.get_text() for text in drawn.axes[0].texts}
    assert us.draw.terminal(board, burning).plain.count("o") == 2
