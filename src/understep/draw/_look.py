"""The survey-chart look: warm paper, ink, quiet tints, a small pattern for each ground."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from understep.boards.board import Board
from understep.boards.terrain import Terrain
from understep.boards.unit import Unit
from understep.checks import color_of, expect

PICTURES, PAGES = (".png", ".svg", ".pdf"), (".html",)  # endings of files
PAPER = "#f6efdf"
INK = "#3a3228"
FAINT = "#8d8170"
ROAD = "#c9a86a"
DOOR = "#9c5a1e"
RIM = "#00000026"  # around every cell
FACE = "#a8987e"  # the side of raised ground
ROUTE = "#8c1c13"
TURNS = ("#b0480f", "#7d4f9e", "#2c6b73", "#6b6b2a")  # isochrone of each turn, then again
#: And its dashes, to be told apart without colour.
DASHES = ("-", (0, (6, 1.6)), (0, (1.6, 1.2)), (0, (6, 1.6, 1.6, 1.6)))

DOTTED = (0, (1, 2.2))  # the dashes of what is hidden
LINK = (0, (1, 1.2))  # the dashes of a link


def blocked(side: str | None) -> tuple[str, str]:
    """The hatching of cells closed to everybody, or to one side, and the words for it."""
    return ("xxx", "blocked") if side is None else ("///", f"closed to the {side}")


#: Of several routes in a figure, of areas, of roles that nobody knows.
ROUTES = (ROUTE, "#1f4e6b", "#5b3a78", "#3f5a1c", "#7a5200", "#3a3228")
#: And the dashes of these routes, to be told apart without colour.
ROUTE_DASHES: tuple[Any, ...] = (
    (0, (4, 1.6)), (0, (1.4, 1.1)), (0, (7, 1.4, 1.4, 1.4)), (0, (2.4, 2.4)), (0, (9, 1.6)),
    (0, (4, 1.2, 1.2, 1.2, 1.2, 1.2)),
)  # fmt: skip
AREAS = (*TURNS, "#8a3050", "#3c6b3a", "#3d4f8a", "#8a6d1c")
OTHER = "#4d5f73"
FREE = "#2f7d6b48"  # where a movement could stand, and where it could not
SHUT = "#3a322899"
THIN = "38"  # the opacity of a wash
VEIL = "...."  # the hatching of what is not seen
STRIKE = "#7a3a6c"  # what can be attacked
CROSSED = "xx"  # its hatching
SEEN = (0, (5, 1.5))  # the dashes around what is


#: Tints for terrains that bring none, light enough to write on.
TINTS = (
    "#e6dcc0", "#cfd8ae", "#b9c6a0", "#d8c0a0", "#c3d6d8",
    "#9fbccb", "#e3cfa8", "#b8aea4", "#d9c8d4", "#c9cdbb",
)  # fmt: skip

#: And for impassable ones.
CLOSED_TINTS = ("#a39c92", "#8f9ba3", "#9d9484", "#979c88")

#: Strokes of a pattern in a cell of size 1 about (0, 0): polylines of (x, y), y downwards.
STROKES: dict[str, list[list[tuple[float, float]]]] = {
    "plain": [],
    "dots": [[(x, y), (x + 0.02, y)] for x, y in ((-0.22, -0.1), (0.2, -0.18), (0.02, 0.2))],
    "specks": [
        [(x, y), (x + 0.05, y)]
        for x in (-0.24, 0.0, 0.2)
        for y in (-0.16 + 0.4 * x, 0.14 + 0.4 * x)
    ],
    "hachures": [[(x, -0.2), (0.8 * x, 0.02)] for x in (-0.24, -0.12, 0.0, 0.12, 0.24)],
    "blades": [
        [(x, y), (x + lean, y - 0.15)]
        for x, y in ((-0.22, 0.02), (0.2, 0.24), (0.14, -0.12))
        for lean in (-0.05, 0.0, 0.05)
    ],
    "waves": [
        [(-0.26, y), (-0.13, y - 0.05), (0.0, y), (0.13, y - 0.05), (0.26, y)]
        for y in (-0.18, 0.22)
    ],
    "ripples": [
        [(x - 0.1, y), (x, y - 0.04), (x + 0.1, y)] for x, y in ((-0.16, -0.14), (0.16, 0.2))
    ],
    "bricks": [
        [(-0.28, 0.02), (0.28, 0.02)], [(-0.12, -0.14), (-0.12, 0.02)],
        [(0.1, 0.02), (0.1, 0.18)], [(-0.2, -0.14), (0.2, -0.14)], [(-0.2, 0.18), (0.2, 0.18)],
    ],
    "crosses": [
        [(x - 0.06, y - 0.06), (x + 0.06, y + 0.06)] for x, y in ((-0.18, -0.1), (0.18, 0.14))
    ] + [
        [(x - 0.06, y + 0.06), (x + 0.06, y - 0.06)] for x, y in ((-0.18, -0.1), (0.18, 0.14))
    ],
}  # fmt: skip

#: Outline of a side's tokens: a Matplotlib marker, and brackets for text.
SIDES = (
    ("o", ("(", ")")), ("s", ("[", "]")), ("D", ("<", ">")), ("^", ("{", "}")),
    ("p", ("/", "/")), ("v", ("|", "|")), ("h", ("=", "=")), ("8", ("+", "+")),
)  # fmt: skip
SIDE_FILLS = (
    "#fdfaf2", "#4a4038", "#d7b46a", "#6d8a8c", "#b9a3c4", "#a86a52", "#a9b98c", "#58708f",
)  # fmt: skip
DARK = 0.45  # fills darker than that bear light letters


def tints(board: Board) -> list[str]:
    """A tint for every terrain of a board, in its order; of impassable ones a dark one."""
    found, places = [], {True: 0, False: 0}
    for kind in board.terrains.values():
        closed = kind.cost is None
        palette = CLOSED_TINTS if closed else TINTS
        found.append(kind.tint or palette[places[closed] % len(palette)])
        places[closed] += kind.tint is None
    return found


def pattern(kind: Terrain) -> str:
    """The pattern of a terrain; of an impassable one that has none, crosses."""
    return "crosses" if kind.cost is None and kind.pattern == "plain" else kind.pattern


def chosen(sides: Mapping[str, str] | None) -> Mapping[str, str]:
    """Colours that were chosen for some sides, such as "#6b8a3c"; refuse others."""
    expect("sides", sides, (Mapping, type(None)), "must give colours by side, or be None")
    for side, color in (sides or {}).items():
        color_of("sides", color, f"the colour of {side!r}")
    return sides or {}


def fill(board: Board, number: int, chosen: Mapping[str, str] | None = None) -> str:
    """The colour of the tokens of a side, by its number, or as it was chosen."""
    sides = {place % len(SIDES): side for place, side in reversed(list(enumerate(board.sides)))}
    return (chosen or {}).get(sides.get(number, ""), SIDE_FILLS[number])


def side_number(board: Board, unit: Unit) -> int:
    """Which of `SIDES` a unit wears."""
    return board.sides.index(unit.side) % len(SIDES)


def short_names(board: Board) -> dict[str, str]:
    """Two letters for every unit, different where that can be."""
    taken: set[str] = set()
    short = {}
    for unit in board.units():
        letters = [sign for sign in unit.name if sign.isalnum()] or ["?"]
        pairs = ["".join(letters)] if len(letters) < 3 else []
        pairs += [letters[0] + other for other in letters[1:]] + ["".join(letters[-2:])]
        pairs += [letters[0] + other for other in "0123456789"]
        pick = next((pair for pair in pairs if pair not in taken), pairs[0])
        taken.add(pick)
        short[unit.name] = pick
    return short
