"""Push: where a unit ends that is moved by force, what it hits, how far it falls."""

from __future__ import annotations

from dataclasses import dataclass, replace
from itertools import permutations
from typing import Literal, TypeAlias

import numpy as np

from understep.boards.board import Board
from understep.boards.cost import Cost
from understep.boards.unit import Unit
from understep.checks import whole
from understep.grids.cell import Cell, Cells
from understep.moves.answer import Answer, KnownTo, known, movement_of
from understep.moves.obstacle import corners, walls_met
from understep.overlay import Mark, Overlay
from understep.rules.movement import Movement
from understep.rules.steps import step_table

Hit: TypeAlias = Literal["", "board", "unit", "block", "feature", "edge", "slope", "terrain"]


@dataclass(frozen=True, eq=False, repr=False)
class Push(Answer):
    """What a push does; true in a condition if nothing stops it. Made by `push`.

    Attributes
    ----------
    unit
        The unit, as it was when asked.
    cells
        The cells it is moved over, where it stood and where it ends included.
    short
        By how many cells it falls short.
    hit
        What stops it: a ``"unit"``, a ``"block"``, a ``"feature"``, an ``"edge"`` that blocks, a
        ``"slope"`` upwards, the ``"terrain"``, where it cannot stand, or the end of the
        ``"board"``; empty: nothing.
    why
        The same as a sentence without a full stop.
    blockers
        The units, the kind of edge or the terrain it hits, by name.
    beyond
        The cell it would have been moved to next; None: nothing stops it, or there is no such cell.
    fall
        How many levels it falls on the way, all drops added up.
    deepest
        The largest single one of these drops.
    drop
        How many levels the terrain it cannot stand on lies below where it ends.
    """

    _facts = (
        "cells",
        "short",
        "hit",
        "beyond",
        "fall",
        "deepest",
        "drop",
    )

    unit: Unit
    cells: Cells
    short: int
    hit: Hit
    why: str
    blockers: tuple[str, ...]
    beyond: Cell | None
    fall: float
    deepest: float
    drop: float

    def __repr__(self) -> str:
        end = tuple(self.cells[-1])
        return f"<Push of {self.unit.name!r}: to {end}{f', {self.why}' if self.why else ''}>"

    @property
    def end(self) -> Cell:
        """Where it ends."""
        return self.cells[-1]

    def overlay(self) -> Overlay:
        """The push as plain data: roles "start", "route", "goal"; "refused": what it hits."""
        marks = {cell: Mark("route", 1) for cell in self.cells}
        marks[self.cells[0]] = Mark("start", 1, self.unit.name)
        marks[self.end] = Mark("goal", 1, "")
        if self.beyond is not None:
            marks[self.beyond] = Mark("refused", None, self.why)
        return Overlay._of(marks, priority=2)


def push(
    board: Board,
    unit: str,
    direction: str | int,
    cells: int,
    *,
    climb: Cost | None = 0,
    known_to: KnownTo = False,
) -> Push:
    """Where a unit ends that is pushed along a direction.

    It costs no points, and terrain does not slow it. It is stopped by the end of the board, by
    other units of its layer, by blocks, features and edges that its movement cannot pass, and by
    slopes upwards; and it is not moved onto terrain where it could not stand; that is reported.
    Pushed diagonally, it goes around corners as its own steps do (`Movement.corners`): walls,
    blocks, features and cells closed to its side count there, other terrain and units do not. The
    board is not changed: set the unit down with `Board.put` at ``end``, and see to the rest.

    Parameters
    ----------
    board
        The board; it is not changed.
    unit
        The name of a unit on it.
    direction
        The direction, by name or number.
    cells
        How many cells far.
    climb
        Up how many levels a step can push it; None: any.
    known_to
        The side whose knowledge counts, for a preview; by default the truth.

    Returns
    -------
    Push

    Raises
    ------
    NameUnknownError
        No such unit, or no such direction; a side that keeps no knowledge.
    InputError
        ``cells`` is not a whole number of 0 or more, or the unit has no movement of ours.
    CostError
        ``climb`` is negative or no number.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.SquareGrid(8, 3), {"turf": 1, "deep": None})
    >>> board.set_elevation(2, [(0, 1), (1, 1)])
    >>> board.paint("deep", (5, 1))
    >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=4)), at=(0, 1))
    >>> push = us.push(board, "scout", "E", 6)
    >>> tuple(push.end), push.short, push.hit, push.blockers, push.fall
    ((4, 1), 2, 'terrain', ('deep',), 2.0)
    """
    board = known(board, unit, known_to)
    way = board.grid.lattice.way(direction, "direction")
    found = _pushed(board, board.unit(unit), way, whole("cells", cells, 0), climb)
    return found._of(board)


def _pushed(board: Board, who: Unit, way: int, cells: int, climb: Cost | None) -> Push:
    """Move a unit cell by cell, as far as it can be pushed."""
    rules = _forced(movement_of(who), climb)
    # walls, corners and slopes are those of any step
    table = step_table(board, rules, who.side)
    path = [who.at]
    fall = deepest = 0.0
    while len(path) <= cells:
        here = path[-1]
        short = cells + 1 - len(path)
        there = board.grid.step(here, way)
        if there is None or not all(cell in board.grid for cell in board.covered(who, there)):
            why = f"the board ends after {tuple(here)}"
            return Push(who, Cells(path), short, "board", why, (), None, fall, deepest, 0.0)
        drop = -board.slope(here, there)
        hit, why, names = _stopped(board, who, there)
        if not hit and table.rows(np.array([board.grid.numbering.number(here)]))[0, way] < 2:
            hit, why, names = _step_blocked(board, who, rules, here, there)
        # last, so that it is known how deep it would have fallen
        if not hit and (hindrance := board._units.hindrance(who, there)):
            hit, why, names = "terrain", hindrance, _ground(board, who, there)
        if hit:
            # what stops it on level ground does so before it falls
            below = max(drop, 0.0) if hit == "terrain" else 0.0
            return Push(who, Cells(path), short, hit, why, names, there, fall, deepest, below)
        fall, deepest = fall + max(drop, 0.0), max(drop, deepest)
        path.append(there)
    return Push(who, Cells(path), 0, "", "", (), None, fall, deepest, 0.0)


def _forced(movement: Movement, climb: Cost | None) -> Movement:
    """The movement with all that speaks of effort left out."""
    return replace(
        movement, costs=1, rule=None, climb=climb, drop=None, uphill=0, downhill=0, leap=None,
        carry=0, diagonal=1, points=0, zones="ignore", foe_corners=False, one_step=False,
    )  # fmt: skip


def _stopped(board: Board, unit: Unit, there: Cell) -> tuple[Hit, str, tuple[str, ...]]:
    """The units, blocks or features that are in the way at the end of a step."""
    others = [board.unit_at(cell, layer=unit.layer) for cell in board.covered(unit, there)]
    names = tuple(dict.fromkeys(each.name for each in others if each and each.name != unit.name))
    if names:
        return "unit", f"{' and '.join(map(repr, names))} in the way at {tuple(there)}", names
    for cell in board.covered(unit, there):
        if board.blocked(cell, side=unit.side):
            return "block", f"{tuple(cell)} is blocked", ()
        if barrier := board._units.barrier(unit.movement, cell):
            return "feature", f"{barrier!r} in the way at {tuple(cell)}", (barrier,)
    return "", "", ()


def _ground(board: Board, who: Unit, there: Cell) -> tuple[str, ...]:
    """The terrain on which a unit cannot stand; none where its side does not know the cell."""
    covered = board.covered(who, there)
    # a wall between its cells stands on no ground
    cell = next((each for each in covered if board._units.shut(who, each)), there)
    number = board.grid.numbering.number(cell)
    return (board.terrain(cell),) if board._contents.knows(number) else ()


def _shut(board: Board, unit: Unit, cell: Cell) -> bool:
    """Whether a cell at a corner is blocked, or its terrain closed to a unit's side."""
    return (
        board.blocked(cell, side=unit.side)
        or bool(board._units.barrier(unit.movement, cell))
        or unit.side in board.terrains[board.terrain(cell)].closed_to
    )


def _step_blocked(
    board: Board, unit: Unit, rules: Movement, here: Cell, there: Cell
) -> tuple[Hit, str, tuple[str, ...]]:
    """Why a step is impossible, though no unit and no block is in its way."""
    pairs = list(zip(board.covered(unit, here), board.covered(unit, there), strict=True))
    for a, b in pairs:
        walls = list(walls_met(board, rules, a, b))
        sides = corners(board.grid, a, b)
        around = [[wall for wall in walls if side in wall.between] for side in sides]
        straight = [wall for wall in walls if wall.between == (a, b)]
        # then one closed way around the corner is enough
        both = rules.corners == "both"
        if straight or (walls and (any if both else all)(around)):
            return "edge", walls[0].text, walls[0].names
        shut = [side for side in sides if rules.corners != "free" and _shut(board, unit, side)]
        if shut and (both or len(shut) == len(sides)):
            return "block", f"{tuple(shut[0])} at the corner is closed to it", ()
    # of a large unit the steepest of its cells counts
    rise = max(board.slope(a, b) for a, b in pairs)
    if rules.climb is not None and rise > rules.climb:
        return "slope", f"{tuple(there)} lies {rise:g} level{'s' * (rise != 1)} up", ()
    taken = [b for _, b in pairs]
    for a, b in permutations(taken, 2):  # it would stand across a wall
        if board.grid.direction(a, b) is not None and (
            walls := list(walls_met(board, rules, a, b))
        ):
            return "edge", walls[0].text, walls[0].names
    if board._units.hindrance(unit, there):  # ground that is closed to its side
        return "", "", ()
    return "edge", f"there is no room between {tuple(here)} and {tuple(there)}", ()
