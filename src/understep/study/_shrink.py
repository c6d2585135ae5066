"""Smaller: what can be left out of a board on which an answer is wrong, and it stays wrong."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from dataclasses import fields, replace
from typing import Any

from understep.boards.board import Board
from understep.errors import UnderstepError
from understep.files.reader import parse
from understep.files.writer import dump
from understep.grids.cell import Cell
from understep.maps._resize import resize
from understep.moves.answer import movement_of
from understep.rules.movement import Movement


def fresh(board: Board) -> Board:
    """The same board, with nothing worked out yet."""
    rules = {
        unit.movement.rule.__name__: unit.movement.rule
        for unit in board.units()
        if unit.movement.rule
    }
    return parse(dump(board).encode(), "board", rules)


def smaller(board: Board, wrong: Callable[[Board], bool], unit: str, seconds: float) -> Board:
    """Leave out one thing after the other, as long as it stays wrong; the unit stays."""
    end, before = time.monotonic() + seconds, None
    while before is not board:
        before = board
        for change in _changes(board, unit):
            if time.monotonic() > end:
                return board
            try:
                twin = fresh(change(fresh(board)))
                if dump(twin) != dump(board) and wrong(twin):
                    board = twin
            except UnderstepError:
                continue  # a change that the board's rules do not allow
    return board


Reduction = Callable[[Board], Board]


def _changes(board: Board, unit: str) -> Iterator[Reduction]:
    """Ways to make a board plainer, the large ones first."""
    for other in board.units():
        if other.name != unit:
            yield _done(lambda twin, name=other.name: twin.remove(name))
    for part in (2, 2, 2, 2, 1, 1):
        yield from (_cropped(part, side) for side in range(4))
    for side in (None, *board.blocked_sides):
        yield _done(lambda twin, side=side: twin.clear(side=side))
    for placed in board.features():
        yield _done(lambda twin, placed=placed: twin.lift(placed))
    for link in board.links():
        yield _done(lambda twin, link=link: twin.unlink(link.a, link.b, both=link.both))
    for edge in board.edges():
        yield _done(lambda twin, edge=edge: twin.set_edge(edge.a, edge.b, None, both=edge.both))
    plain = next(iter(board.terrains))
    for cells in _parts([cell for cell in board.grid if board.terrain(cell) != plain]):
        yield _done(lambda twin, cells=cells: twin.paint(plain, cells))
    for cells in _parts([cell for cell in board.grid if board.elevation[board.grid.index(cell)]]):
        yield _done(lambda twin, cells=cells: twin.set_elevation(0, cells))
    if unit:
        yield _done(lambda twin: twin.set_left(unit, None))
        yield _done(lambda twin: twin.set_facing(unit, None))
        usual = Movement(points=1)
        for rule in fields(Movement):
            if rule.init and rule.name != "points":
                yield _ruled(unit, rule.name, getattr(usual, rule.name))


def _done(act: Callable[..., object]) -> Reduction:
    """A change that is made on the board itself."""

    def change(twin: Board) -> Board:
        act(twin)
        return twin

    return change


def _cropped(part: int, side: int) -> Reduction:
    """Without its left, right, upper or lower half (2), or the last line there (1)."""

    def change(twin: Board) -> Board:
        size, first = list(twin.grid.size), list(twin.grid.first)
        axis = side // 2
        less = size[axis] // 2 if part == 2 else 1
        size[axis] -= less
        first[axis] += less if side % 2 == 0 else 0
        return resize(twin, *size, first=(first[0], first[1]))

    return change


def _ruled(name: str, rule: str, value: Any) -> Reduction:
    def change(twin: Board) -> Board:
        home, unit = twin.unit(name).at, twin.remove(name)
        moves = replace(movement_of(unit), **{rule: value})
        twin.add(replace(unit, movement=moves), at=home)
        return twin

    return change


def _parts(cells: list[Cell]) -> Iterator[list[Cell]]:
    """All of some cells, halves of them, quarters, and so on down to each alone."""
    size = len(cells)
    while size:
        yield from (cells[start : start + size] for start in range(0, len(cells), size))
        size //= 2
