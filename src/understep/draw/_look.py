"""The survey-chart look: warm paper, ink, quiet tints, a small pattern for each ground."""

from __future__ import annotations

from understep.boards.board import Board
from understep.boards.unit import Unit

PAPER = "#f6efdf"
INK = "#3a3228"
FAINT = "#8d8170"
ROAD = "#c9a86a"
DOOR = "#9c5a1e"
RIM = "#00000026"  # around every cell
FACE = "#a8987e"  # the side of raised ground
WASH = "#c2571a"  # reach
ROUTE = "#8c1c13"
TURNS = ("#b0480f", "#7d4f9e", "#2c6b73", "#6b6b2a")  # isochrone of each turn, then again
#: And its dashes, to be told apart without colour.
DASHES = ("-", (0, (6, 1.6)), (0, (1.6, 1.2)), (0, (6, 1.6, 1.6, 1.6)))

LINK = (0, (1, 1.2))  # the dashes of a link


def blocked(side: str | None) -> tuple[str, str]:
    """The hatching of cells closed to everybody, or to one side, and the words for it."""
    return ("xxx", "blocked") if side is None else ("///", f"closed to the {side}")


VEIL = "...."  # the hatching of what is not seen
STRIKE = "#7a3a6c"  # what can be attacked
CROSSED = "xx"  # its hatching
SEEN = (0, (5, 1.5))  # the dashes around what is


#: Tints for terrains that bring none, light enough to write on.
TINTS = (
    "#e6dcc0", "#cfd8ae", "#b9c6a0", "#d8c0a0", "#c3d6d8",
    "#9fbccb", "#e3cfa8", "#b8aea4", "#d9c8d4", "#c9cdbb",
)  # fmt: skip

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
SIDES = (("o", ("(", ")")), ("s", ("[", "]")), ("D", ("<", ">")), ("^", ("{", "}")))
SIDE_FILLS = ("#fdfaf2", "#4a4038", "#d7b46a", "#6d8a8c")


def tints(board: Board) -> list[str]:
    """A tint for every terrain of a board, in its order."""
    return [
        kind.tint or TINTS[place % len(TINTS)] for place, kind in enumerate(board.terrains.values())
    ]


def side_number(board: Board, unit: Unit) -> int:
    """Which of `SIDES` a unit wears."""
    return board.sides.index(unit.side) % len(SIDES)


def short_names(board: Board) -> dict[str, str]:
    """Two letters for every unit, different where that can be."""
    taken: set[str] = set()
    short = {}
    for unit in board.units():
        letters = [sign for sign in unit.name if sign.isalnum()] or ["?"]
        pairs = [letters[0] + other for other in [*letters[1:], *"0123456789"]]
        pick = next((pair for pair in pairs if pair not in taken), pairs[0])
        taken.add(pick)
        short[unit.name] = pick
    return short
