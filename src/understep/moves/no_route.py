"""No route: why no route exists, who is in the way, and how near a unit can get."""

from __future__ import annotations

from functools import reduce

import numpy as np

from understep.boards.board import Board
from understep.boards.refusal import Refusal
from understep.boards.unit import Unit
from understep.grids.cell import Cell
from understep.kernels.marks import SHIFT
from understep.moves.ahead import ahead, with_hint
from understep.moves.answer import any_of
from understep.moves.goals import in_words
from understep.moves.route import Route, refused
from understep.moves.search_labels import Labels
from understep.rules.movement import Movement

MOST_GAPS = 1 << 20  # distances that are worked out at a time


def no_route(
    unit: Unit, labels: Labels, goals: list[Cell], closed: dict[Cell, Refusal], known: str = ""
) -> Route:
    """Say why there is no route, who is in the way, and how near the unit can get.

    ``closed`` are the goals it cannot end on; ``known`` is the reason where it is known already.
    """
    board, grid = labels.board, labels.board.grid
    home = grid.numbering.cell_of(labels.home)
    goal = goals[0] if goals else home
    if not goals:
        refusal = Refusal("there is no such cell on the board")
    elif all(goal in closed for goal in goals):
        refusal = in_words(goals, closed)
    elif known:
        refusal = Refusal(known)
    else:
        # a unit on a goal has a sentence of its own
        open_ = next(each for each in goals if each not in closed)
        why = f"no route from {tuple(home)} to {any_of(goals)}"
        refusal = _shut_in(board, unit, labels, home, open_, why)
    # what it is read from are copies: it is the same after edits
    return refused(
        board, unit, goal, refusal.why, refusal.blockers,
        lambda: as_near(unit, labels, goals or [home])[0], refusals=closed,
    )  # fmt: skip


def as_near(unit: Unit, labels: Labels, goals: list[Cell]) -> list[Cell]:
    """The cells as near to some as any, and as soon reached, in row order.

    Of a large unit the nearest cell counts.
    """
    grid, stops = labels.board.grid, labels.stops
    numbers, keys = labels.cells[stops], labels.marks[stops] >> SHIFT
    covered = grid.lattice.spread(grid.numbering.cells_of(numbers), unit.movement.footprint)
    # in parts, as all goals by all cells would fill the memory
    size = max(1, MOST_GAPS // covered[..., 0].size)
    parts = (np.array(goals[at : at + size]) for at in range(0, len(goals), size))
    gaps = reduce(
        np.minimum, (grid.distance(covered[:, :, None], each).min(axis=(1, 2)) for each in parts)
    )
    near = gaps == gaps.min()
    same = near & (keys == keys[near].min())
    return list(grid.numbering.cells(np.sort(numbers[same])))


def _shut_in(board: Board, unit: Unit, labels: Labels, home: Cell, goal: Cell, why: str) -> Refusal:
    """That nothing leads on from where it can get: who stands there, or what lies ahead."""
    numbering = board.grid.numbering
    met = np.zeros(board.grid.cols * board.grid.rows, dtype=bool)
    met[labels.cells] = True
    firm: list[tuple[int, int, str]] = []
    others: list[tuple[int, int, str]] = []
    rules = unit.movement
    for cell, name in board._roster.layer(unit.layer).names.items():
        other = board.unit(name)
        around = [cell, *board.grid.neighbors(cell)]
        if other.name == unit.name or not met[[numbering.number(each) for each in around]].any():
            continue
        place = int(board.grid.distance(home, cell)), numbering.number(cell), name
        # one who can be passed is in nobody's way but as a place to stop
        passes = isinstance(rules, Movement) and rules._may_pass(other.side == unit.side)
        (others if passes else firm).append(place)
    # those it may pass stand where it cannot stop
    names = tuple(dict.fromkeys(name for _, _, name in sorted(firm or others)))
    if names:
        return Refusal(f"{why}: {', '.join(map(repr, names))} in the way", names)
    return with_hint(
        why, ahead(board, unit, home, goal, lambda cell: bool(met[numbering.number(cell)]))
    )
