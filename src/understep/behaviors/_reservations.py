"""Reservations: the ways of plans that are carried out at the same time, so that none collide."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from fractions import Fraction
from itertools import pairwise
from typing import NamedTuple

from understep.boards.board import Board
from understep.boards.cost import plain
from understep.boards.unit import Unit
from understep.errors import InputError
from understep.grids.cell import Cell, Cells, CellsLike
from understep.moves.answer import amount, mine, points_left
from understep.moves.route import Route, Step
from understep.moves.search import steps_from

Track = list[tuple[Cell, ...]]  # the cells a unit takes up, after each number of steps


class _Waypoint(NamedTuple):
    """Where a unit is after some steps, what it has left, and how it got there."""

    cell: Cell
    dear: bool
    left: Fraction
    before: _Waypoint | None

    def back(self) -> Iterator[_Waypoint]:
        """The places up to this one, the last first."""
        place: _Waypoint | None = self
        while place is not None:
            yield place
            place = place.before


class Reservations:
    """The routes and ends of plans that are walked at the same time.

    Hand the same one to several behaviors: each then keeps clear of the plans before it, at every
    step, and of the units of its side that have no plan yet, which may stay. No two units of a
    layer are on the same cell after the same number of steps, those that stay included, or change
    places with each other. Where a way is taken, another one to the same cell is looked for.

    Plan for the units in front first: one behind another can then follow it.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.SquareGrid(5, 1), {"turf": 1})
    >>> for name, col in (("scout", 1), ("pikes", 0)):
    ...     unit = board.add(us.Unit(name, "wardens", us.Movement(points=4)), at=(col, 0))
    >>> reserved = us.behaviors.Reservations()
    >>> first = us.behaviors.patrol(board, "scout", [(4, 0)], reserved=reserved)
    >>> second = us.behaviors.patrol(board, "pikes", [(4, 0)], reserved=reserved)
    >>> tuple(first.end), tuple(second.end)
    ((4, 0), (3, 0))
    """

    def __init__(self) -> None:
        self._ways: dict[str, tuple[str, Track]] = {}
        self._version = 0
        self._found: tuple[object, dict[Cell, _Waypoint]] = None, {}

    def __len__(self) -> int:
        return len(self._ways)

    def __repr__(self) -> str:
        return f"<Reservations of {amount(len(self), 'unit')}>"

    def _others(self, board: Board, unit: Unit) -> dict[str, Track]:
        """The ways that a unit has to keep clear of, by name; a unit without a plan stays."""
        found = {
            name: way
            for name, (layer, way) in self._ways.items()
            if layer == unit.layer and name != unit.name
        }
        for other in board.units():
            alike = (other.side, other.layer) == (unit.side, unit.layer) and other.name != unit.name
            if alike and other.name not in self._ways:
                found[other.name] = [board.covered(other)]
        return found

    def clash(self, board: Board, unit: Unit, cells: CellsLike) -> str:
        """The unit that a route would collide with, a sentence without full stop; empty: none.

        Raises
        ------
        InputError
            ``board`` is not a Board, or ``unit`` not a Unit that stands on one.
        CellError
            ``cells`` holds something that is not a cell.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(6, 1), {"turf": 1, "deep": None})
        >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=2)), at=(0, 0))
        >>> pikes = board.add(us.Unit("pikes", "wardens", us.Movement(points=2)), at=(5, 0))
        >>> reserved = us.behaviors.Reservations()
        >>> reserved.keep(board, pikes, [pikes.at])
        >>> reserved.clash(board, scout, [scout.at, pikes.at])
        "'pikes' stands on (5, 0)"
        """
        way = _track(board, unit, cells)
        others = self._others(board, unit)
        longest = max([len(way), *map(len, others.values())])
        way += way[-1:] * (longest - len(way))
        steps = enumerate(pairwise(way), start=1)
        met = (_meets(others, before, after, tick) for tick, (before, after) in steps)
        return next(filter(None, met), "")

    def ends(self, board: Board, unit: Unit) -> list[Cell]:
        """The cells where a unit can get this turn and stay without a collision, cheapest first.

        Raises
        ------
        InputError
            ``board`` is not a Board, or ``unit`` not a Unit that stands on one.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(6, 1), {"turf": 1, "deep": None})
        >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=2)), at=(0, 0))
        >>> pikes = board.add(us.Unit("pikes", "wardens", us.Movement(points=2)), at=(5, 0))
        >>> reserved = us.behaviors.Reservations()
        >>> [tuple(cell) for cell in reserved.ends(board, scout)]
        [(1, 0), (2, 0)]
        """
        places = self._places(mine(board), _unit(unit))
        return sorted(places, key=lambda end: (-places[end].left, end[::-1]))

    def route(self, board: Board, unit: Unit, end: Cell) -> Route | None:
        """The cheapest route to a cell this turn without a collision, or None.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(6, 1), {"turf": 1, "deep": None})
        >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=2)), at=(0, 0))
        >>> pikes = board.add(us.Unit("pikes", "wardens", us.Movement(points=2)), at=(5, 0))
        >>> reserved = us.behaviors.Reservations()
        >>> reserved.route(board, scout, (2, 0)).cost
        2
        """
        place = self._places(board, unit).get(end)
        return None if place is None else _route(board, unit, list(place.back())[::-1])

    def _places(self, board: Board, unit: Unit) -> dict[Cell, _Waypoint]:
        """What `_search` finds, kept for the same question."""
        asked = board.state, unit.name, self._version
        # each question of a plan asks for it again
        if self._found[0] != asked:
            self._found = asked, self._search(board, unit)
        return self._found[1]

    def _search(self, board: Board, unit: Unit) -> dict[Cell, _Waypoint]:
        """Where a unit can get and stay without a collision, over no cell twice, at least cost.

        Step by step, as a cell may be free after one more; D. Silver, Cooperative pathfinding,
        AIIDE 2005, without waits, since a unit goes on at once.
        """
        others = self._others(board, unit)
        longest = max((len(way) for way in others.values()), default=1)
        start = _Waypoint(unit.at, False, points_left(unit), None)
        settled: dict[tuple[Cell, bool], Fraction] = {}
        found: dict[Cell, _Waypoint] = {}
        tick, places = 0, [start]
        while places:
            tick += 1
            after: dict[tuple[Cell, bool], _Waypoint] = {}
            for place in places:
                moving, here = unit.changed(left=place.left), board.covered(unit, place.cell)
                # a way that crosses itself gains nothing but time
                gone = {each.cell for each in place.back()}
                for cell, dear, left in steps_from(board, moving, place.cell, place.dear):
                    at, known = (cell, dear), after.get((cell, dear))
                    if cell in gone or (known is not None and known.left >= left):
                        continue
                    if tick >= longest and settled.get(at, Fraction(-1)) >= left:
                        continue  # nobody else moves any more, so sooner is as good
                    if not _meets(others, here, board.covered(unit, cell), tick):
                        after[at] = _Waypoint(cell, dear, left, place)
            for at, place in after.items():
                settled[at] = max(place.left, settled.get(at, place.left))
                known, rest = found.get(place.cell), range(tick + 1, longest)
                there = board.covered(unit, place.cell)
                better = known is None or place.left > known.left
                if better and not any(_meets(others, there, there, later) for later in rest):
                    found[place.cell] = place
            places = list(after.values())
        return found

    def keep(self, board: Board, unit: Unit, cells: Iterable[Cell]) -> None:
        """Reserve the cells that a unit takes up along its route.

        Raises
        ------
        InputError
            ``board`` is not a Board, or ``unit`` not a Unit that stands on one.
        CellError
            ``cells`` holds something that is not a cell.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(6, 1), {"turf": 1, "deep": None})
        >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=2)), at=(0, 0))
        >>> pikes = board.add(us.Unit("pikes", "wardens", us.Movement(points=2)), at=(5, 0))
        >>> reserved = us.behaviors.Reservations()
        >>> reserved.keep(board, pikes, [pikes.at])
        >>> reserved
        <Reservations of 1 unit>
        """
        way = _track(board, unit, cells)
        self._ways[unit.name] = unit.layer, way
        self._version += 1

    def free(self, name: str) -> None:
        """Give up what is reserved for a unit.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(6, 1), {"turf": 1, "deep": None})
        >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=2)), at=(0, 0))
        >>> pikes = board.add(us.Unit("pikes", "wardens", us.Movement(points=2)), at=(5, 0))
        >>> reserved = us.behaviors.Reservations()
        >>> reserved.keep(board, pikes, [pikes.at])
        >>> reserved.free("pikes")
        >>> reserved
        <Reservations of 0 units>
        """
        self._ways.pop(name, None)
        self._version += 1


def _meets(
    others: dict[str, Track], mine_before: tuple[Cell, ...], mine: tuple[Cell, ...], tick: int
) -> str:
    """Whom a unit meets at a step, as a sentence without a full stop; empty: nobody."""
    for name, other in others.items():
        theirs, before = (other[min(each, len(other) - 1)] for each in (tick, tick - 1))
        both = set(mine) & set(theirs)
        if both:
            if tick >= len(other) - 1:
                does = "stands" if len(other) == 1 else "is to end"
                return f"{name!r} {does} on {tuple(min(both))}"
            return f"{name!r} is on {tuple(min(both))} at step {tick}"
        if set(mine) & set(before) and set(theirs) & set(mine_before):
            return f"{name!r} comes the other way at step {tick}"
    return ""


def _route(board: Board, unit: Unit, places: list[_Waypoint]) -> Route:
    """A route over some places within this turn."""
    grid, steps = board.grid, []
    for here, there in pairwise(places):
        ends = [grid.step(here.cell, way) for way in grid.directions]
        way = grid.directions[ends.index(there.cell)] if there.cell in ends else None
        steps.append(Step(there.cell, way, plain(here.left - there.left), 1, plain(there.left)))
    done, goal = tuple(steps), places[-1].cell
    return Route(
        unit, goal, Cells([place.cell for place in places]),
        plain(points_left(unit) - places[-1].left), 1, "", (), lambda: goal, board, board.state,
        lambda: done,
    )  # fmt: skip


def _unit(unit: object) -> Unit:
    """A unit that is one, and stands on a board."""
    if not isinstance(unit, Unit) or unit.at is None:
        raise InputError("unit", "must be a Unit that stands on a board", unit)
    return unit


def _track(board: Board, unit: Unit, cells: CellsLike) -> Track:
    """The cells that a unit takes up along its route."""
    board, unit = mine(board), _unit(unit)
    array = board.grid.numbering.require_all(cells, "cells")
    return [board.covered(unit, cell) for cell in Cells(array)]
