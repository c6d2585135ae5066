"""What a board keeps is bounded, however much is asked and done."""

import gc
import json
import mmap
import tracemalloc

import pytest

import understep as us
from understep.boards import journal
from understep.files.reader import parse
from understep.kernels.loader import blank


def held(act):
    """Bytes of memory that stay after something was done."""
    tracemalloc.start()
    try:
        act()
        gc.collect()  # units that are gone hold one another until Python next looks for such
        return tracemalloc.get_traced_memory()[0]
    finally:
        tracemalloc.stop()


@pytest.mark.large
@pytest.mark.deep
def test_movements_without_number_take_no_more_than_the_last_ones():
    def ask(board, many):
        for number in range(many):
            mover = us.Movement(4, costs={"mud": 1 + number})
            board.add(us.Unit("scout", "wardens", mover), at=(20, 20))
            us.reach(board, "scout")
            us.areas(board, "scout")
            board.remove("scout")

    boards = [us.Board(us.SquareGrid(40, 40), {"turf": 1, "mud": 2}) for _ in range(2)]
    few, many = held(lambda: ask(boards[0], 80)), held(lambda: ask(boards[1], 320))
    assert many < 1.5 * few
    copy = boards[1].copy()
    copy.add(us.Unit("scout", "wardens", us.Movement(4)), at=(20, 20))
    assert len(us.reach(copy, "scout")) == 41


@pytest.mark.large
def test_reaches_of_units_that_are_gone_do_not_stay():
    def ask(board, many):
        for number in range(many):
            board.add(us.Unit(f"scout{number}", "wardens", us.Movement(99)), at=(30, 30))
            us.reach(board, f"scout{number}")
            board.remove(f"scout{number}")

    boards = [us.Board(us.SquareGrid(128, 128), {"turf": 1}) for _ in range(2)]
    few, many = held(lambda: ask(boards[0], 100)), held(lambda: ask(boards[1], 400))
    assert many < 1.5 * few


def test_a_journal_of_large_steps_keeps_the_last_of_them(monkeypatch):
    monkeypatch.setattr(journal, "MOST_BYTES", 1 << 20)
    board = us.Board(us.SquareGrid(100, 100), {"turf": 1, "mud": 2})
    steps = 60
    for number in range(steps):
        board.paint(("mud", "turf")[number % 2], board.grid.cells)  # some 90 kB each
    undone = 0
    while board.undo():
        undone += 1
        assert board.terrain((5, 5)) == ("turf", "mud")[(steps - undone) % 2]
    assert 5 < undone < 20
    while board.redo():
        undone -= 1
    assert (undone, board.terrain((5, 5))) == (0, "turf")
    monkeypatch.setattr(journal, "MOST_BYTES", 1000)
    board.paint("mud", board.grid.cells)  # larger than all that is kept, but the last step
    assert (board.undo(), board.undo(), board.terrain((5, 5))) == (True, False, "turf")


# readers: at most 20 faults, in memory that the file's size bounds

WHOLE = {
    "understep": 4,
    "grid": {"kind": "square", "cols": 2, "rows": 1},
    "terrain": {"turf": {"cost": 1, "glyph": "."}},
    "rows": [".."],
}
FAULTY = {  # the key, what it begins with, what comes again and again, and ends with
    "numbers for rows": ("rows", "[", "0", "]"),
    "lists for rows": ("rows", "[", "[0]", "]"),
    "lists of nothing": ("more", "[", "[]", "]"),
    "objects of nothing": ("edges", "[", "{}", "]"),
    "units that are numbers": ("units", "{", '"u%06d":0', "}"),
    "units without a place": ("units", "{", '"u%06d":{"side":1}', "}"),
    "edges off the board": ("edges", "[", '{"at":[[0,0],[9,9]],"kind":"w"}', "]"),
    "rows of nothing known": ("rows", "[", '"?"', "]"),
    "terrains without number": ("terrain", "{", '"t%06d":{"cost":1,"glyph":"a"}', "}"),
    "values of nothing": ("values", "{", '"v%06d":[]', "}"),
    "costs of nothing": ("movements", '{"m":{"points":1,"costs":{', '"c%06d":1', "}}}"),
    "cells off the board": ("blocks", '[{"cells":[', "[9,9]", "]}]"),
    "levels too large": ("elevation", "[[", "1e400", "]]"),
    "texts for levels": ("elevation", "[", '["high"]', "]"),
    "one key twice": ("title", "0,", '"k%06d":0', ',"k000000":0'),
}


def faulty(kind, size):
    """A board file of about so many bytes with one fault, over and over."""
    key, start, one, end = FAULTY[kind]
    many = size // (len(one % 0 if "%" in one else one) + 1)
    body = ",".join(one % n if "%" in one else one for n in range(many))
    rest = ",".join(
        f"{json.dumps(name)}:{json.dumps(WHOLE[name])}" for name in WHOLE if name != key
    )
    return f'{{{rest},"{key}":{start}{body}{end}}}'.encode()


@pytest.mark.parametrize("size", [1 << 16, pytest.param(1 << 20, marks=pytest.mark.deep)])
@pytest.mark.parametrize("kind", FAULTY)
def test_a_faulty_file_is_told_in_few_words_and_little_memory(kind, size):
    raw = faulty(kind, size)
    tracemalloc.start()
    try:
        with pytest.raises(us.errors.BoardFileError) as caught:
            parse(raw)
        peak = tracemalloc.get_traced_memory()[1]
    finally:
        tracemalloc.stop()
    assert len(caught.value.faults) <= 20
    assert len(str(caught.value)) < 8000
    assert peak < 30 * len(raw) + (4 << 20)  # and a piece of faults


def test_the_rest_of_the_faults_is_counted():
    with pytest.raises(us.errors.BoardFileError) as caught:
        parse(faulty("costs of nothing", 1000))
    error = caught.value
    assert (len(error.faults), error.more) == (20, 63)
    assert str(error).splitlines()[-1] == "  and 63 more"


def test_a_table_of_nothing_known_is_told_at_once(tmp_path):
    path = tmp_path / "level.csv"
    for line in ("x\n", "1,2\n1\n", "1\n" * 9 + "x,x,x\n"):
        path.write_text(line * (2**20 // len(line)))
        tracemalloc.start()
        try:
            with pytest.raises(us.errors.BoardFileError) as caught:
                us.maps.read_table(path, {1: "turf"}, {"turf": 1}, grid=us.SquareGrid)
            assert tracemalloc.get_traced_memory()[1] < 30 << 20
        finally:
            tracemalloc.stop()
        assert 0 < len(caught.value.faults) <= 20


def test_large_arrays_do_without_large_pages_where_there_are_none(monkeypatch):
    class Pages(mmap.mmap):
        def madvise(self, *_):
            raise OSError(22, "Invalid argument")

    monkeypatch.setattr(mmap, "mmap", Pages)
    assert not blank(1 << 19, "q", dense=True).any()
