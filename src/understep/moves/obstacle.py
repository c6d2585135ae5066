"""Obstacles: what can be in a unit's way, and the walls between two cells."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from typing import NamedTuple

from understep.boards.board import Board
from understep.boards.cost import Cost
from understep.grids.cell import Cell, Cells
from understep.grids.grid import Grid
from understep.rules.movement import Movement


class Obstacle(NamedTuple):
    """Something in the way.

    Attributes
    ----------
    kind
        What could be taken away or altered: "unit", "feature", "block", "terrain", "edge"; a rule:
        "slope", "corner", "size", "rule", "unknown", "zone"; "points"; "ground", which hides what
        is behind it; or "board": nothing helps.
    text
        What it is, as a sentence without a full stop.
    cell
        Where; the far side of an edge or slope.
    names
        Units, the kind of feature or edge, the terrain, by name.
    between
        The two cells of an edge, slope, corner or gap, in the direction of the step.
    eye
        Of what hides something: from how many levels above its own ground one would see over it.
        None: from nowhere.
    """

    kind: str
    text: str
    cell: Cell
    names: tuple[str, ...] = ()
    between: tuple[Cell, ...] = ()
    eye: Cost | None = None


def in_words(obstacles: Iterable[Obstacle]) -> str:
    """What is in the way, in one sentence; terrain of a kind on several cells once."""
    parts: dict[str, list[str]] = {}
    for each in obstacles:
        spot = str(tuple(each.cell))
        text = each.text.replace(f" at {spot} is ", " at {} is ") if each.kind == "terrain" else ""
        parts.setdefault(text or each.text, []).append(spot)
    return "; ".join(
        text.replace("{}", listed(spots)) if " at {} is " in text else text
        for text, spots in parts.items()
    )


def listed(things: Sequence[str]) -> str:
    """Things in a row: "a, b and c"."""
    return " and ".join([", ".join(things[:-1]), things[-1]] if len(things) > 1 else things)


def corners(grid: Grid, a: Cell, b: Cell) -> Cells:
    """The cells at the corners of a diagonal step between neighbors; none of a straight one."""
    diagonal = grid.distance(a, b, measure="straight") > 1.2
    return grid.neighbors(a) & grid.neighbors(b) if diagonal else Cells()


def wall(board: Board, movement: Movement, a: Cell, b: Cell) -> Obstacle | None:
    """What blocks the border between two neighbors, as met from the first; None: nothing."""
    kind = board.edge(a, b)
    if kind is None or board.is_open(a, b):
        return None
    if not movement._across(kind, board.edge_kinds[kind])[0]:
        return None
    text = f"{kind!r} between {tuple(a)} and {tuple(b)}"
    return Obstacle("edge", text, b, (kind,), (a, b))


def steep(board: Board, movement: Movement, a: Cell, b: Cell) -> str:
    """That a step between neighbors climbs or drops by too much; empty: it does not."""
    rise = board.slope(a, b)
    word, limit = ("climb", movement.climb) if rise > 0 else ("drop", movement.drop)
    if limit is None or abs(rise) <= limit:
        return ""
    return f"{word} of {abs(rise):g} to {tuple(b)}, limit {float(limit):g}"


def walls_met(board: Board, movement: Movement, a: Cell, b: Cell) -> Iterator[Obstacle]:
    """The walls between two neighbors; of a diagonal step those at the corner that it cuts too."""
    pairs = [(a, b)]
    for side in corners(board.grid, a, b):
        pairs += [(a, side), (side, b)]
    for pair in pairs:
        found = wall(board, movement, *pair)
        if found is not None:
            yield found


def inside(board: Board, movement: Movement, cells: tuple[Cell, ...]) -> Iterator[Obstacle]:
    """The walls between cells that a unit takes up at once."""
    for place, a in enumerate(cells):
        for b in cells[place + 1 :]:
            if board.grid.direction(a, b) is not None:
                found = wall(board, movement, a, b) or wall(board, movement, b, a)
                if found is not None:
                    yield found
