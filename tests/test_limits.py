"""Every bound on the page of limits: what lies on it is taken, what lies beyond it is refused by name."""

import math
from fractions import Fraction
from pathlib import Path

import pytest

import understep as us
from understep.boards import links as board_links
from understep.files import bounded
from understep.files.reader import parse
from understep.files.writer import dump

PAGE = Path(__file__).parents[1] / "docs" / "promises.md"


def board(side=3, **kinds):
    return us.Board(us.SquareGrid(side, side), {"turf": 1}, **kinds)


def blocked(times):
    made = board()
    for _ in range(times):
        made.block((0, 0))


def enlisted(sides):
    made = board()
    for number in range(sides):
        made.enlist(f"side {number}")


def linked(links):
    made = board(4)
    cells = list(made.grid)
    for number in range(links):
        made.link(cells[number // 15], cells[(number // 15 + 1 + number % 15) % 16], 1, both=False)


def paid(points):
    made = board()
    made.add(
        us.Unit("scout", "wardens", us.Movement(points, {"turf": Fraction(1, 997)})), at=(1, 1)
    )
    return us.reach(made, "scout", turns=None)


def undone(steps):
    made = board()
    for number in range(steps):
        made.set_data(number=number)
    while made.undo():
        steps -= 1
    if steps:
        raise us.UnderstepError("undo: not all steps are kept")


# the row of the page: what is done, the bound, one beyond it, and the argument that is named
BOUNDS = {
    "cells of a grid": (lambda n: us.SquareGrid(n >> 14, 1 << 14), 2**28, 2**28 + 2**14, "cols"),
    "terrains": (lambda n: us.Board(us.SquareGrid(2, 2), {f"t{i}": 1 for i in range(n)}), 255, 256, "terrain"),
    "kinds of edges": (lambda n: board(edges={f"e{i}": us.Edge() for i in range(n)}), 100, 101, "edges"),
    "kinds of features": (lambda n: board(features={f"f{i}": us.Feature() for i in range(n)}), 100, 101, "features"),
    "sides": (enlisted, 254, 255, "side"),
    "cells of a footprint": (lambda n: us.Footprint([(i % 9, i // 9) for i in range(n)]), 64, 65, "footprint"),
    "blocks on one cell, for one side": (blocked, 255, 256, "cells"),
    "a cost, or points": (lambda n: us.Movement(n), 10**9, 10**9 + 1, "points"),
    "sight of a unit": (lambda n: us.Unit("a", "b", us.Movement(1), sight=n), 10**9, 10**9 + 1, "sight"),
    "coordinates and sizes of shapes": (lambda n: us.shapes.box((0, -n), (1, 1)), 10**12, 10**12 + 1, "a"),
    "pixels of a map image, but for one a cell": (
        lambda n: us.maps.map_image(board(1), scale=math.ceil(n**0.5)), 2**26, 2**26 + 1, "scale",
    ),
    "steps of undo": (undone, 1000, 1001, "undo"),
}  # fmt: skip


@pytest.mark.parametrize("row", BOUNDS)
def test_a_bound_holds_and_is_on_the_page(row):
    do, most, beyond, argument = BOUNDS[row]
    do(most)
    with pytest.raises(us.UnderstepError, match=f"^{argument}: "):
        do(beyond)
    text = {2**28: "2**28", 2**26: "2**26", 10**9: "10**9", 10**12: "10**12"}.get(most, str(most))
    assert f"| {row} | {text} |" in PAGE.read_text("utf-8")


def test_points_times_scale_times_turns_must_fit():
    assert len(paid(10**6)) == 9
    with pytest.raises(us.errors.CostError, match=r"points: .*below 2\*\*49"):
        us.reach(_finest(), "scout", turns=10**6)


def _finest():
    """A board on which points count in parts of almost a billion."""
    made = us.Board(
        us.SquareGrid(64, 64), {"turf": Fraction(1, 997), "mud": Fraction(1, 991), "reeds": 10**6}
    )
    rules = us.Movement(10**9, carry=10**9)
    made.paint("reeds", made.grid.cells)
    made.paint("mud", (0, 0))
    made.add(us.Unit("scout", "wardens", rules), at=(1, 1))
    return made


def test_links_and_files_are_bounded(monkeypatch):
    for text in ("| links, each way counted | 100,000 |", "| size of a board file | 64 MiB |"):
        assert text in PAGE.read_text("utf-8")
    assert (board_links.MOST_LINKS, bounded.MOST_BYTES) == (100_000, 64 << 20)
    monkeypatch.setattr(board_links, "MOST_LINKS", 20)
    linked(20)
    with pytest.raises(us.UnderstepError, match="at most 20 links"):
        linked(21)
    monkeypatch.setattr(bounded, "MOST_BYTES", 2 << 20)
    small = dump(board()).encode()
    assert parse(small + b" " * ((2 << 20) - len(small))).grid.size == (3, 3)
    with pytest.raises(us.errors.BoardFileError, match="larger than 2 MiB"):
        parse(small + b" " * ((2 << 20) - len(small) + 1))
