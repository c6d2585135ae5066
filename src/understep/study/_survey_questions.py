"""Questions: what a survey asks of every board."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from itertools import combinations
from typing import TypeAlias

from understep.boards.board import Board
from understep.grids.cell import Cell, Cells
from understep.maps._check import Party, check, parties_of
from understep.moves.areas import Areas, areas
from understep.moves.field import field
from understep.moves.reach import reach

Figure: TypeAlias = int | float | None
Question: TypeAlias = Callable[[Board], Mapping[str, Figure] | Figure]
MARK = "mark"  # the property that names places
TURNS = 3  # over which starts are compared


def size(board: Board) -> dict[str, Figure]:
    """How many cells there are, and units."""
    return {"cells": len(board.grid), "units": len(board.units())}


def reaches(board: Board) -> dict[str, Figure]:
    """In how many cells each unit can end its turn."""
    return {unit.name: len(reach(board, unit.name, known_to=False)) for unit in board.units()}


def routes(board: Board) -> dict[str, Figure]:
    """What the shortest way from a unit of each side to one of the next costs; None: no route."""
    found: dict[str, Figure] = {}
    for a, b in combinations(board.sides, 2):
        ends = Cells._of(unit.at for unit in board.units(b))
        mine = [party for party in _manned(board) if party.side == a]
        if not mine or not len(ends):
            continue
        costs = []
        for party in mine:
            costs += list(_costs(board, party, ends))
        found[f"{a} to {b}"] = min(costs, default=None)
    return found


def marks(board: Board) -> dict[str, Figure]:
    """What the shortest way from every mark to every other costs; None: no route.

    Marks are the cells where the text property "mark" is not empty, those of one text together.
    """
    if type(board.properties.get(MARK)) is not str:
        return {}
    places: dict[str, list[Cell]] = {}
    cells = board.grid.cells
    named = board.values(MARK)[board.grid.index(cells)].tolist()
    for cell, name in zip(cells, named, strict=True):
        if name:
            places.setdefault(name, []).append(cell)
    found: dict[str, Figure] = {}
    for party in parties_of(board):
        for end in sorted(places):
            goals = field(board, party.movement, places[end], side=party.side, known_to=False)
            for start in sorted(places):
                costs = [goals[cell] for cell in places[start] if cell in goals]
                if start != end:
                    least = min(map(float, costs), default=None)
                    found[f"{party.name}, {start} to {end}"] = least
    return found


def _costs(board: Board, party: Party, ends: Cells) -> Iterator[float]:
    """What ways from the units of a party to the nearest of some cells, or next to it, cost."""
    near = {cell: None for end in ends for cell in (end, *board.grid.neighbors(end))}
    goals = field(board, party.movement, list(near), side=party.side, known_to=False)
    for unit in party.units:
        if unit.at in goals:
            yield float(goals[unit.at])


def islands(board: Board) -> dict[str, Figure]:
    """How many areas there are that cannot be left and come back to, for each kind of mover."""
    return {name: len(ground) for name, ground in _grounds(board)}


def _grounds(board: Board) -> Iterator[tuple[str, Areas]]:
    """The areas of every kind of mover, called by the first of them."""
    for party in _manned(board):
        yield party.name, areas(board, party.movement, side=party.side, known_to=False)


def _manned(board: Board) -> list[Party]:
    """The kinds of movers that have units on the board."""
    return [party for party in parties_of(board) if party.units]


def fairness(board: Board) -> dict[str, Figure]:
    """How much ground the side with the least can get to in three turns, as a share of the most."""
    ground = []
    for side in board.sides:
        cells: set[Cell] = set()
        for unit in board.units(side):
            cells.update(reach(board, unit.name, turns=TURNS, known_to=False))
        if board.units(side):
            ground.append(len(cells))
    return {"least to most": min(ground) / max(ground)} if len(ground) > 1 else {}


def chokes(board: Board) -> dict[str, Figure]:
    """How many cells part an island in two when they are lost, for each kind of mover."""
    return {name: len(ground.chokes) for name, ground in _grounds(board)}


def findings(board: Board) -> dict[str, Figure]:
    """How many faults and hints `check` finds."""
    weights = [finding.weight for finding in check(board)]
    return {"faults": weights.count("fault"), "hints": weights.count("hint")}


QUESTIONS: dict[str, Question] = {
    "size": size, "reach": reaches, "route": routes, "marks": marks, "islands": islands,
    "fairness": fairness, "chokes": chokes, "check": findings,
}  # fmt: skip
