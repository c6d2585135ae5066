"""Bounds: how far from a unit anything can matter, and whether a way around can be better."""

from __future__ import annotations

from collections.abc import Container, Iterable, Iterator

from understep.boards.board import Board
from understep.boards.cost import fraction
from understep.boards.links import Link
from understep.boards.unit import Unit
from understep.checks import whole
from understep.errors import InputError
from understep.grids.cell import Cell
from understep.moves.answer import movement_of, points_left
from understep.moves.route import Route
from understep.rules.movement import Movement
from understep.rules.steps import step_table
from understep.worlds._rect import Rect
from understep.worlds._sectors import Sectors

RIM = 3  # cells beyond what is looked at that can still matter: corners, zones, slopes


def rim_of(unit: Unit) -> int:
    """How far beyond where it could stand cells can matter to a unit."""
    return RIM + 2 * breadth(movement_of(unit))


def breadth(movement: Movement) -> int:
    """How far from its anchor a unit's own cells can lie."""
    return spread(movement.footprint)


def spread(footprint: tuple[tuple[int, int], ...]) -> int:
    """How far from an anchor the cells of a footprint can lie."""
    return max(abs(part) for offset in footprint for part in offset)


def how_far(unit: Unit, template: Board, turns: int, levels: float) -> int:
    """How far away anything lies that can matter to a unit in some turns.

    ``template`` has the terrains, edges and features that lie around, ``levels`` is by how much one
    cell lies higher than another.
    """
    turns = whole("turns", turns, 1)
    moving, attack = movement_of(unit), unit.attack
    table = step_table(template, moving, unit.side)
    if not table.cheapest:
        rule = "some of its steps cost nothing, so that it can get anywhere"
        raise InputError("unit", rule, unit.name)
    full = fraction(moving.points)
    points = max(points_left(unit), full) + (turns - 1) * (full + fraction(moving.carry))
    steps = int(points * table.scale) // table.cheapest
    if moving.one_step:
        steps += turns
    strikes = 0
    if attack is not None:
        strikes = attack._far(levels + 1) + attack.pattern.size
    return steps + max(strikes, unit._sees_far(levels + 1) or 0) + rim_of(unit)


def leads(link: Link, rect: Rect) -> Iterator[Cell]:
    """The end of a link to which it leads out of a rectangle."""
    for start, end in ((link.a, link.b), (link.b, link.a))[: 1 + link.both]:
        if rect.holds([start]) and not rect.holds([end]):
            yield end


def around(land: Sectors, links: Iterable[Link], unit: Unit, turns: int, margin: int) -> Rect:
    """As much land around a unit as its reach in some turns, sight and attacks ask for."""
    found: tuple[float, set[str]] | None = None
    rect = Rect(*unit.at, *unit.at).grown(1)
    while (lies := _lies(land, rect)) != found:  # from higher ground attacks lead farther
        found = lies
        far = how_far(unit, sample(land.template(unit.at), found[1]), turns, found[0])
        rect = wide(land, links, unit, far + margin).joined(rect)
    return rect.inside(*land.size) or rect


def _lies(land: Sectors, rect: Rect) -> tuple[float, set[str]]:
    """How much higher one cell around lies than another, at most, and which terrains are there."""
    keys = land.keys(rect.inside(*land.size) or rect)
    return _height(land, rect), set().union(*(land.land(key).used() for key in keys))


def seen_from(land: Sectors, unit: Unit) -> Rect:
    """As much land around a unit as it may see."""
    rect = Rect.at(unit.at).grown(1)
    while True:
        levels = _height(land, rect) + 1 if unit.sight_per_level else 0
        far = unit._sees_far(levels)
        reach = sum(land.size) if far is None else far + spread(unit.movement.footprint) + 1
        wanted = rect.joined(Rect.at(unit.at).grown(reach)).inside(*land.size) or rect
        if wanted == rect:
            return rect
        rect = wanted


def sample(board: Board, terrains: Container[str] = ()) -> Board:
    """A small board with each terrain, or just some, by itself and under each kind of feature.

    So that its step table says what steps can cost anywhere on boards of these kinds.
    """
    names = [name for name in board.terrains if not terrains or name in terrains]
    cols, first = 1 + len(board.feature_kinds), board.grid.first
    made = board._empty(board.grid._resized(cols, len(names), first, None), only=names)
    for row, name in enumerate(names, first.row):
        made.paint(name, [(first.col + col, row) for col in range(cols)])
    for col, kind in enumerate(board.feature_kinds, first.col + 1):
        made.place(kind, [(col, first.row + row) for row in range(len(names))])
    return made


def _height(land: Sectors, rect: Rect) -> float:
    """How much higher one cell around lies than another, at most."""
    inside = rect.inside(*land.size) or rect
    every = [level for key in land.keys(inside) for level in land.land(key).levels]
    return max(every, default=0.0) - min(every, default=0.0)


def wide(land: Sectors, links: Iterable[Link], unit: Unit, far: int) -> Rect:
    """All cells so far from a unit, and so far from wherever links lead from there."""
    cell, done = unit.at, set[Cell]()
    rect = Rect(cell.col, cell.row, cell.col + 1, cell.row + 1).grown(far)
    while True:
        inside = rect.inside(*land.size) or rect
        boards = [land.land(key).board for key in land.keys(inside)]
        every = [link for board in boards if board is not None for link in board.links()]
        ends = [end for link in (*every, *links) for end in leads(link, inside)]
        left = [end for end in ends if end not in done]
        if not left:
            return inside
        done.update(left)
        for col, row in left:
            rect = rect.joined(Rect(col, row, col + 1, row + 1).grown(far))


def is_sure(found: Route, board: Board, rect: Rect, size: tuple[int, int]) -> bool:
    """Whether every way near or beyond the edges of a board is worse than a route on it.

    Such a way costs at least its length times the cheapest step of the rules, and points that are
    lost where turns end count as spent.
    """
    unit = found.unit
    moving = movement_of(unit)
    table = step_table(board, moving, unit.side)
    if table.far_steps or moving.carry or moving.one_step or not table.cheapest:
        return False
    rim, far = rect.rim(rim_of(unit), *size), board.grid.distance
    least = int((far(unit.at, rim) + far(rim, found.goal)).min()) * table.cheapest
    left, last = points_left(unit), found.steps[-1].left if found.steps else points_left(unit)
    given = left + ((found.turns or 1) - 1) * fraction(moving.points)
    return least > (float(given) - float(last)) * table.scale + 1e-6
