"""Levels from text and tables: what is listed lies where it says; faults have places."""

import numpy as np
import pytest
from geometry import KINDS, make_grid
from hypothesis import given
from hypothesis import strategies as st

import understep as us

TERRAIN = {"turf": 1, "mud": us.Terrain(3, glyph="m"), "deep": None}
LEGEND = {".": "turf", "m": "mud", "~": "deep", ",": "turf", "_": None}
IDS = dict(enumerate(LEGEND.values())) | {-7: "mud"}
WORDS = dict(zip(LEGEND, range(5), strict=True))


@given(kind=st.sampled_from(KINDS), data=st.data())
def test_text_tables_and_arrays_give_the_same_board(kind, data, tmp_path_factory):
    wide = data.draw(st.integers(1, 6))
    line = st.text(st.sampled_from(list(LEGEND)), min_size=wide, max_size=wide)
    lines = st.lists(line, min_size=1, max_size=6)
    rows = data.draw(lines.filter(lambda rows: set("".join(rows)) - {"_"}))
    own = make_grid(kind, 1, 1)
    options = {"grid": type(own), "first": (-2, 3), **own._own()}
    board = us.maps.read_text(rows, LEGEND, TERRAIN, **options)
    for row, text in enumerate(rows):
        for col, glyph in enumerate(text):
            cell = (col - 2, row + 3)
            assert (cell in board.grid) == (glyph != "_")
            if glyph != "_":
                assert board.terrain(cell) == LEGEND[glyph]
    assert board.terrains["turf"].glyph in ".,"
    assert not board.undo()
    spaced = "\n \n" + "\n".join(" " * (n % 2) + " ".join(row) for n, row in enumerate(rows)) + "\n"
    table = np.array([[WORDS[glyph] for glyph in row] for row in rows])
    path = tmp_path_factory.mktemp("levels") / "level.csv"
    path.write_text("\ufeff" + "\n".join(", ".join(map(str, row)) for row in table.tolist()))
    for other in (
        us.maps.read_text(spaced, LEGEND, TERRAIN, spaced=True, **options),
        us.maps.read_table(table, IDS, TERRAIN, **options),
        us.maps.read_table(path, IDS, TERRAIN, **options),
    ):
        assert other.grid == board.grid
        assert [other.terrain(cell) for cell in other.grid] == [
            board.terrain(c) for c in board.grid
        ]
    over = us.maps.read_text(rows, LEGEND, TERRAIN, bottom_first=True, **options)
    turned = us.maps.read_text(rows, LEGEND, TERRAIN, bottom_first="mirrored", **options)
    assert turned.grid == board.grid.flipped()
    flat = kind.startswith("flat")  # columns lie as they are said to, whichever row comes first
    assert over.grid == turned.grid or (flat and over.grid.shifted == board.grid.shifted)
    for cell in board.grid:
        for found in (over, turned):
            assert found.terrain(board.grid.flip(cell)[0]) == board.terrain(cell)
    with pytest.raises(
        us.errors.InputError, match="bottom_first: must be True, False or 'mirrored'"
    ):
        us.maps.read_text(rows, LEGEND, TERRAIN, bottom_first="top", **options)


@pytest.mark.parametrize(
    ("rows", "fault"),
    [
        ([".?", "x."], "rows: 2 faults\n  row 0, column 1: '?' is in no legend\n  row 1, column 0"),
        (["..", "."], "row 1: has 1 cells, and row 0 has 2"),
        ([], "has no rows"),
        (b"1,2\n1,x", "level.csv: 1 fault\n  line 2, column 2: 'x' is not a whole number"),
        (b"1,2\n1", "row 1: has 1 cells, and row 0 has 2"),
        (b"1,9", "row 0, column 1: 9 is in no legend"),
        (b"1,\xff", "byte 2: is not UTF-8"),
        (b'1,"2', "line 1: is no CSV"),
        (b"", "has no rows"),
        (b"1," + b"9" * 5000, "is not a whole number"),
        (b"\n".join([b"a,b,c"] * 30), "and 1 more"),
    ],
)
def test_faults_have_places(rows, fault, tmp_path):
    path = tmp_path / "level.csv"
    read, source, legend = us.maps.read_text, rows, LEGEND
    if isinstance(rows, bytes):
        path.write_bytes(rows)
        read, source, legend = us.maps.read_table, path, IDS
    with pytest.raises(us.errors.BoardFileError) as caught:
        read(source, legend, TERRAIN, grid=us.HexGrid)
    assert fault in str(caught.value)


@pytest.mark.parametrize(
    ("call", "message"),
    [
        (
            lambda: us.maps.read_text(".", {".": "turff"}, TERRAIN, grid=us.HexGrid),
            "must name a terrain",
        ),
        (
            lambda: us.maps.read_text(".", LEGEND, TERRAIN, grid=us.Board),
            "grid: must be SquareGrid",
        ),
        (lambda: us.maps.read_text("_", LEGEND, TERRAIN, grid=us.HexGrid), "at least one cell"),
        (lambda: us.maps.read_text(".", LEGEND, [1], grid=us.HexGrid), "and legend must be tables"),
        (lambda: us.maps.read_table(np.ones(3), IDS, TERRAIN, grid=us.HexGrid), r"\(rows, cols\)"),
    ],
)
def test_bad_input_is_named(call, message):
    with pytest.raises(us.errors.InputError, match=message):
        call()


@given(raw=st.binary(max_size=60) | st.text('0123456789,-\n" x', max_size=60).map(str.encode))
def test_any_bytes_give_a_board_or_a_located_error(raw, tmp_path_factory):
    path = tmp_path_factory.getbasetemp() / "any.csv"
    path.write_bytes(raw)
    try:
        board = us.maps.read_table(
            path, dict.fromkeys(range(100), "turf"), TERRAIN, grid=us.SquareGrid
        )
        assert len(board.grid) == board.grid.cols * board.grid.rows
    except us.errors.BoardFileError as error:
        assert error.faults


@given(kind=st.sampled_from(KINDS), scale=st.integers(1, 3), data=st.data())
def test_an_image_goes_there_and_back(kind, scale, data, tmp_path_factory):
    tints = ["#c8dcaa", "#d8c0a0", "#5a80c8"]
    terrain = {f"t{n}": us.Terrain(tint=tint) for n, tint in enumerate(tints)}
    size = data.draw(st.integers(1, 6)), data.draw(st.integers(1, 6))
    cells = [(col, row) for row in range(size[1]) for col in range(size[0])]
    picks = [data.draw(st.integers(-1, 2)) for _ in cells]
    exists = np.array(picks).reshape(size[1], size[0]) >= 0
    if not exists.any():
        return
    board = us.Board(make_grid(kind, *size, exists=exists), terrain)
    for cell, pick in zip(cells, picks, strict=True):
        if pick >= 0:
            board.paint(f"t{pick}", cell)
    path = tmp_path_factory.getbasetemp() / "map.png"
    pixels = us.maps.map_image(board, path)
    large = us.maps.map_image(board, scale=scale)
    assert large.shape == (size[1] * scale, size[0] * scale, 4)
    assert (large[::scale, ::scale] == pixels).all()
    legend = {tint.upper(): f"t{n}" for n, tint in enumerate(tints)}
    noise = data.draw(st.integers(0, 9))
    off = pixels.copy()
    off[..., 1] -= np.uint8(noise) * (pixels[..., 3] > 0)
    own = make_grid(kind, 1, 1)
    options = {"grid": type(own), "tolerance": noise, **own._own()}
    for image in (path, off):
        again = us.maps.read_image(image, legend, terrain, **options)
        assert again.grid == board.grid
        assert all(again.terrain(cell) == board.terrain(cell) for cell in board.grid)
    if noise:
        options["tolerance"] = noise - 1
        with pytest.raises(us.errors.BoardFileError, match="is in no legend; nearest is #"):
            us.maps.read_image(off, legend, terrain, **options)


@pytest.mark.parametrize(
    ("image", "legend", "message"),
    [
        (b"no image", {"#000000": "turf"}, "any.png: 1 fault\n  is no image that can be read"),
        (b"", {"#000000": "turf"}, "is no image that can be read"),
        (np.zeros((2, 2)), {"#000000": "turf"}, "image: must be uint8"),
        (np.zeros((0, 2, 3), np.uint8), {"#000000": "turf"}, "has no pixels"),
        (np.zeros((1, 1, 3), np.uint8), {"black": "turf"}, "a colour must be like '#6b8a3c'"),
        (np.zeros((1, 1, 3), np.uint8), {"#000000": "turff"}, "must name a terrain"),
        (np.zeros((1, 1, 3), np.uint8), {}, "legend: must have a colour"),
    ],
)
def test_what_is_no_image_is_told(image, legend, message, tmp_path):
    if isinstance(image, bytes):
        (tmp_path / "any.png").write_bytes(image)
        image = tmp_path / "any.png"
    with pytest.raises((us.errors.InputError, us.errors.BoardFileError), match=message):
        us.maps.read_image(image, legend, TERRAIN, grid=us.SquareGrid)
    board = us.Board(us.SquareGrid(1, 1), {"turf": 1})
    with pytest.raises(us.errors.InputError, match="scale: must be a whole number from 1 to 8192"):
        us.maps.map_image(board, scale=0)


def test_a_flat_list_has_a_width_and_a_route_is_drawn_into_a_map_image():
    legend, terrain = {1: "turf", 7: "deep", 0: None}, {"turf": 1, "deep": None}
    for ids in ([1, 1, 7, 1, 0, 7], np.array([1, 1, 7, 1, 0, 7])):
        board = us.maps.read_table(ids, legend, terrain, grid=us.SquareGrid, width=3)
        assert (board.grid.size, board.terrain((2, 1)), (1, 1) in board.grid) == (
            (3, 2),
            "deep",
            False,
        )
    for width, message in ((4, "must divide the 6 ids"), (0, "width"), ("3", "width")):
        with pytest.raises(us.errors.InputError, match=message):
            us.maps.read_table([1, 1, 7, 1, 0, 7], legend, terrain, grid=us.SquareGrid, width=width)
    board.add(us.Unit("scout", "wardens", us.Movement(3)), at=(1, 0))
    route = us.route(board, "scout", (0, 1))
    plain, drawn = us.maps.map_image(board), us.maps.map_image(board, route=route)
    assert np.argwhere((plain != drawn).any(axis=-1)).tolist() == [[0, 0], [0, 1], [1, 0]]
    with pytest.raises(us.errors.InputError, match="route: must be a route"):
        us.maps.map_image(board, route=[(0, 0)])
