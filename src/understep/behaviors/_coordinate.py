"""Coordinate: which of several units goes to which cell, and who moves first."""

from __future__ import annotations

import heapq
from collections.abc import Iterable, Iterator, Sequence
from fractions import Fraction
from functools import reduce
from itertools import count, islice
from math import ceil, lcm
from operator import itemgetter, or_
from typing import Any, NamedTuple, TypeVar, overload

import numpy as np

from understep.actions.attacks import Attacks
from understep.behaviors._plan import Plan, stay
from understep.boards.board import Board
from understep.boards.cost import Cost, fraction, plain
from understep.boards.unit import Unit
from understep.checks import items
from understep.errors import InputError
from understep.grids.cell import Cell, Cells, CellsLike
from understep.moves.answer import Answer, KnownTo, amount, cannot_stop, known
from understep.moves.ask import route
from understep.moves.field import Field, field
from understep.moves.mover import mover_of
from understep.moves.reach import reach
from understep.moves.route import Route
from understep.overlay import Mark, Overlay, plain_facts
from understep.sight.lines import lines

MOST_TRIED = 20_000  # routes, for so many units and goals; before a few beginnings are followed
SMALL = 5, 6
FEWER_TRIED = 500  # for more
WIDE = 4  # so many beginnings are followed then
FEW = 6  # and so many goals of each unit
MOST_MATCHED = 8  # goals, for a bound by the best of all ways to deal them out
#: Units without a goal, turns, points in equal parts: what is to be little, in this order.
Total = tuple[int, int, int | Fraction]
NOTHING: Total = (1 << 30, 0, 0)
N = TypeVar("N", int, int | Fraction)


class _Move(NamedTuple):
    """One unit's part: where it goes, by which route, and where it ends this turn."""

    unit: int
    goal: Cell
    route: Route
    end: Cell


class _State(NamedTuple):
    """Some moves that were made, in order, and what they have taken.

    Attributes
    ----------
    moved, taken
        The bits of the units that have moved, and of their goals.
    """

    total: Total
    moves: tuple[_Move, ...] = ()
    moved: int = 0
    taken: int = 0

    @property
    def key(self) -> frozenset[tuple[int, Cell, Cell]]:
        """What the rest depends on: who has moved, where they are now, and which goals are left."""
        return frozenset((each.unit, each.end, each.goal) for each in self.moves)


class Coordination(Answer, Sequence[Plan]):
    """Plans of several units, in the order in which they are to be carried out.

    Made by `coordinate`. Units that stay come last; false if all do.

    Attributes
    ----------
    turns, cost
        Of all ways to the goals together.
    goals : dict
        The goal of each unit that has one, by name.
    exact
        Whether it is proven that more units with a goal, or fewer turns, or fewer points for as
        many, are not possible.
    bound
        Units without a goal, turns and points, than which less is not possible in any case.
    """

    _facts = ("turns", "cost", "exact", "bound", "plans")

    def __init__(
        self, board: Board, plans: Iterable[Plan], moves: Sequence[_Move], exact: bool,
        total: tuple[int, int, Cost], bound: tuple[int, int, Cost],
    ) -> None:  # fmt: skip
        self._of(board)
        self.plans = tuple(plans)
        self.unit, self.blockers, self.exact = None, (), exact
        self.turns, self.cost = total[1:]
        # by name, as the order of the plans is that of moving
        self.goals = {each.route.unit.name: each.goal for each in moves}
        self.bound = bound
        self.why = "" if any(self.plans) else "no unit can get nearer to a goal"

    def __repr__(self) -> str:
        return f"<Coordination of {amount(len(self.plans), 'unit')}: {amount(self.turns, 'turn')}>"

    @overload
    def __getitem__(self, index: int) -> Plan: ...
    @overload
    def __getitem__(self, index: slice) -> Sequence[Plan]: ...
    def __getitem__(self, index: Any) -> Any:
        return self.plans[index]

    def __len__(self) -> int:
        return len(self.plans)

    @property
    def cells(self) -> Cells:
        """Where the units end this turn, in the order of the plans."""
        return Cells([plan.end for plan in self.plans])

    def overlay(self) -> Overlay:
        """The plans as plain data: role "goal" where a unit ends this turn, number: its place."""
        marks = {
            plan.end: Mark("goal", place, str(place)) for place, plan in enumerate(self.plans, 1)
        }
        return Overlay._of(marks, priority=2)

    def plain(self) -> dict[str, Any]:
        """The plans as plain lists and names, for JSON."""
        return super().plain() | plain_facts({"goals": self.goals})


class _Search:
    """The search for who moves when, and where to, on a copy of the board."""

    def __init__(self, board: Board, units: list[Unit], goals: list[list[Cell]]) -> None:
        self.board, self.units, self.goals = board, units, goals
        self.tried = 0
        # whole numbers are added and compared several times faster than fractions
        self._scale = lcm(*(mover_of(board, unit).scale for unit in units))
        #: For each unit what it takes at least to each goal that it can get to, the nearest first;
        #: of equally near ones row by row, so that the order is the same everywhere.
        self._least: list[dict[Cell, tuple[int, int | Fraction]]] = [
            dict(sorted(least.items(), key=lambda each: (each[1], each[0][::-1])))
            for least in self._alone()
        ]
        every = list(dict.fromkeys(cell for least in self._least for cell in least))
        #: The bit of each goal.
        self._bits = {cell: 1 << place for place, cell in enumerate(every)}
        # the same by bit, in order of the turns, and of the points alone
        self._turns = [
            sorted((turns, self._bits[cell]) for cell, (turns, _) in least.items())
            for least in self._least
        ]
        self._points = [
            sorted((points, self._bits[cell]) for cell, (_, points) in least.items())
            for least in self._least
        ]
        self._masks = [sum(map(self._bits.__getitem__, least)) for least in self._least]
        # totals as one number each: no points of all make up for a turn, no turns for who stays
        turn = 1 + sum(ceil(points[-1][0]) for points in self._points if points)
        self._weights = turn, turn * (1 + sum(turns[-1][0] for turns in self._turns if turns))
        self._options = [
            [(self._bits[cell], turns * turn + points) for cell, (turns, points) in least.items()]
            for least in self._least
        ]
        self._bounds: dict[tuple[int, int], Total] = {}
        self._routes: dict[tuple[int, Cell, frozenset[tuple[int, Cell]]], Route] = {}

    def _alone(self) -> Iterator[dict[Cell, tuple[int, int | Fraction]]]:
        """For each unit and goal turns and points that it takes at least, the others gone."""
        fields: dict[Any, Field] = {}  # units are not in the way of them: one for equal rules
        with self.board.trial():
            for unit in self.units:
                self.board.remove(unit.name)
            for unit, cells in zip(self.units, self.goals, strict=True):
                with self.board.trial():
                    self.board.add(unit.changed(at=None), at=unit.at)
                    # one search for all goals tells the turns to each
                    ever = reach(self.board, unit.name, turns=None, known_to=False)
                    # routes of the fewest turns need not cost least: the field's cost is less
                    rules, least = (
                        (unit.movement, unit.side),
                        dict[Cell, tuple[int, int | Fraction]](),
                    )
                    for cell in (each for each in cells if each in ever):
                        if (rules, cell) not in fields:
                            fields[rules, cell] = field(
                                self.board, unit.name, [cell], known_to=False
                            )
                        cost = fields[rules, cell].get(unit.at)
                        turns = ever[cell].turn if cell != unit.at else 0
                        least[cell] = turns, self._parts(cost.value if cost else 0)
                yield least

    def _parts(self, cost: Cost) -> int | Fraction:
        parts = fraction(cost) * self._scale
        # a movement's own rule can ask for finer parts as more steps are compiled
        return parts.numerator if parts.denominator == 1 else parts

    def given(self, total: Total) -> tuple[int, int, Cost]:
        """A total as it is given back."""
        return *total[:2], plain(Fraction(total[2], self._scale))

    def bound(self, moved: int, taken: int) -> Total:
        """What the units that have not moved take at least, had they the board for themselves."""
        if (moved, taken) not in self._bounds:
            rest = [unit for unit in range(len(self.units)) if not moved >> unit & 1]
            goals = reduce(or_, map(self._masks.__getitem__, rest), 0) & ~taken
            # ways to deal goals out grow with their number as powers of two
            if (many := goals.bit_count()) > MOST_MATCHED:
                self._bounds[moved, taken] = self._loosely(rest, taken, many)
            else:
                self._bounds[moved, taken] = self._matched(rest, taken)
        return self._bounds[moved, taken]

    def _loosely(self, rest: list[int], taken: int, goals: int) -> Total:
        """What units take at least: each its nearest goal, even one that another takes."""
        going = [unit for unit in rest if self._masks[unit] & ~taken]
        # some stay without one, and which does the least cannot be told
        if len(going) > goals:
            return len(rest) - goals, 0, 0
        # a bound may be too low, never too high
        turns = sum(_first(self._turns[unit], taken) for unit in going)
        points = sum(_first(self._points[unit], taken) for unit in going)
        return len(rest) - len(going), turns, points

    def _matched(self, rest: list[int], taken: int) -> Total:
        """What units take at least, each a goal of its own: the best way to deal them out."""
        turn, stays = self._weights
        dealt: dict[int, int | Fraction] = {taken: 0}
        for unit in rest:
            free = (each for each in self._options[unit] if not each[0] & taken)
            # of its nearest goals, as many as there are units, one is left by the others
            options = [*islice(free, len(rest)), (0, stays)]
            after: dict[int, int | Fraction] = {}
            for gone, total in dealt.items():
                for bit, more in options:
                    if not bit & gone:
                        key, new = gone | bit, total + more
                        if key not in after or after[key] > new:
                            after[key] = new
            dealt = after
        staying, moving = divmod(min(dealt.values()), stays)
        return int(staying), int(moving // turn), moving % turn

    def tries(self, state: _State, few: int | None = None) -> Iterator[tuple[Total, int, Cell]]:
        """The units that have not moved, each with the goals that are left, the nearest first.

        With what all take at least after that. ``few``: so many goals of each.
        """
        for place, least in enumerate(self._least):
            if not state.moved >> place & 1:
                left = (cell for cell in least if not self._bits[cell] & state.taken)
                for goal in islice(left, few):
                    total = _sum(state.total, (0, *least[goal]))
                    more = self.bound(state.moved | 1 << place, state.taken | self._bits[goal])
                    yield _sum(total, more), place, goal

    def after(self, state: _State, place: int, goal: Cell) -> _State | None:
        """The state after one more unit has moved; None where it finds no way."""
        self.tried += 1
        # the same units come to the same cells in many orders, and by many goals
        key = place, goal, frozenset((each.unit, each.end) for each in state.moves)
        found = self._routes.get(key)
        if found is None:
            found = self._routes[key] = self._route(state, self.units[place].name, goal)
        if not found:
            return None
        turns = (found.turns or 0) if found.steps else 0  # else it is there already
        total = _sum(state.total, (0, turns, self._parts(found.cost or 0)))
        end = found.stops[0] if found.stops else goal
        moves = *state.moves, _Move(place, goal, found, end)
        return _State(total, moves, state.moved | 1 << place, state.taken | self._bits[goal])

    def _route(self, state: _State, name: str, goal: Cell) -> Route:
        """The route of a unit when others have moved."""
        with self.board.trial():
            # in the order of the moves: each makes room for those after it
            for each in state.moves:
                self.board.put(self.units[each.unit].name, at=each.end)
            return route(self.board, name, goal, known_to=False)

    def best(self) -> tuple[_State, bool]:
        """The best state, and whether it is proven to be.

        A move is first taken at what it takes at least; its route is looked for only once no other
        is as promising.
        """
        tickets, start = count(), _State((0, 0, 0))
        # there the search could take minutes; it stops sooner, and says how good it is
        large = len(self.units) > SMALL[0] or max(map(len, self.goals)) > SMALL[1]
        most = FEWER_TRIED if large else MOST_TRIED
        # the least first, so that the first whole state to come up is the best
        queue: list[tuple[Total, int, int, _State, tuple[int, Cell] | None, bool]] = []
        known: dict[Any, Total] = {}

        def push(least: Total, state: _State, move: tuple[int, Cell] | None, ends: bool) -> None:
            # of equal ones those that are farther on
            entry = least, -len(state.moves), next(tickets), state, move, ends
            heapq.heappush(queue, entry)

        def offer(state: _State) -> None:
            push(self._ended(state).total, state, None, ends=True)
            # no route is searched for before its bound comes up
            for least, place, goal in self.tries(state):
                push(least, state, (place, goal), ends=False)

        offer(start)
        while self.tried <= most:
            _, _, _, state, move, ends = heapq.heappop(queue)
            # its total is at most the bound of all that is left
            if ends or move is None:
                return self._ended(state), True
            after = self.after(state, *move)
            # who is where is what counts for the rest, not in which order they came
            if after is not None and known.get(after.key, NOTHING) > after.total:
                known[after.key] = after.total
                offer(after)
        return self._soon(start), False

    def _ended(self, state: _State) -> _State:
        """A state where all who have not moved stay."""
        stay_ = len(self.units) - len(state.moves)
        return state._replace(total=_sum(state.total, (stay_, 0, 0)))

    def _soon(self, start: _State) -> _State:
        """A good state: of all beginnings as long, a few are followed."""
        front, best = [start], start
        while front:
            tries = [(state, *each) for state in front for each in self.tries(state, FEW)]
            ranked = sorted(enumerate(tries), key=lambda each: each[1][1])
            every: dict[Any, tuple[Total, int, _State]] = {}
            front = []
            for number, (state, least, place, goal) in ranked:
                # no other can be better than the last of those that are followed
                if len(front) == WIDE and least > every[front[-1].key][0]:
                    break
                after = self.after(state, place, goal)
                if after is not None:
                    most = _sum(after.total, self.bound(after.moved, after.taken))
                    entry = most, number, after
                    # of ways to the same state the best is followed, of equal ones the first
                    every[after.key] = min(entry, every.get(after.key, entry), key=itemgetter(0, 1))
                    best_first = sorted(every.values(), key=itemgetter(0, 1))
                    front = [each for _, _, each in best_first[:WIDE]]
            best = front[0] if front else best
        return self._ended(best)


def _first(least: list[tuple[N, int]], taken: int) -> N:
    """The least figure of a goal that is not taken; ``least``: figures in order, with bits."""
    return next(figure for figure, bit in least if not bit & taken)


def _sum(one: Total, other: Total) -> Total:
    return one[0] + other[0], one[1] + other[1], one[2] + other[2]


def coordinate(
    board: Board,
    units: Iterable[str],
    goals: CellsLike | None = None,
    *,
    target: str | None = None,
    known_to: KnownTo = None,
) -> Coordination:
    """Which unit goes to which cell, and who moves first, so that none is in another's way.

    The units move one after another, each as far along its route as this turn allows, and each
    route is one on the board as those before it have left it. As many units as can get a goal each;
    then their ways take the fewest turns in all, and then the fewest points. What is equal goes to
    the unit and the goal named first. Units without a goal stay.

    Best-first search over who moves next and where to (Hart, Nilsson and Raphael 1968), up to
    20,000 routes for five units with six goals, which is enough, and 500 for more. Else a few
    beginnings are followed; ``exact`` says so, and ``bound`` how much better it could be at most.

    Parameters
    ----------
    board
        The board; it is not changed.
    units
        The names of the units.
    goals
        The cells to go to; one unit each.
    target
        The name of a unit instead: the goals of each are cells from which it could attack that.
    known_to
        The side whose knowledge counts; by default that of the first unit, if it keeps any (`fog`).
        False: the truth.

    Returns
    -------
    Coordination

    Raises
    ------
    NameUnknownError
        No such unit; a side that keeps no knowledge.
    CellError
        A goal that is not a cell, or off the board.
    InputError
        No units, a unit that is named twice; neither or both of goals and target; with a target a
        unit without an attack.

    Examples
    --------
    Through a corridor the one in front goes farthest:

    >>> import understep as us
    >>> board = us.Board(us.SquareGrid(7, 1), {"turf": 1})
    >>> rules = us.Movement(points=4, passes="none")
    >>> for name, col in (("scout", 0), ("pikes", 1)):
    ...     unit = board.add(us.Unit(name, "wardens", rules), at=(col, 0))
    >>> found = us.behaviors.coordinate(board, ["scout", "pikes"], [(4, 0), (5, 0)])
    >>> [(plan.unit.name, tuple(plan.end)) for plan in found], found.turns, found.exact
    ([('pikes', (5, 0)), ('scout', (4, 0))], 2, True)
    >>> for plan in found:
    ...     for stride in us.walk(board, plan.unit.name, plan.route):
    ...         pass
    >>> [tuple(unit.at) for unit in board.units()]
    [(4, 0), (5, 0)]
    """
    names = items("units", units, "must be names of units")
    if not names:
        raise InputError("units", "must name at least one unit", names)
    board = known(board, names[0], known_to, "units")
    chosen = [board._units.find(name, "units") for name in names]
    # it would be in its own way
    if len({unit.name for unit in chosen}) < len(chosen):
        raise InputError("units", "must be named once each", names)
    # units are moved on it to see who is in whose way
    copy = board.copy()
    if goals is None and target is not None:
        each = [_stands(copy, unit, target) for unit in chosen]
    elif goals is None or target is not None:
        raise InputError("goals", "give goals or a target", goals)
    else:
        # a goal that is named twice is one goal
        array = board.grid.numbering.require_all(goals, "goals").reshape(-1, 2)
        if not len(array):
            raise InputError("goals", "must hold at least one cell", goals)
        each = [list(dict.fromkeys(Cells(array)))] * len(chosen)
    with copy.trial():
        # they may all have moved by then
        for unit in chosen:
            copy.remove(unit.name)
        each = [
            [cell for cell in cells if cannot_stop(copy, unit, cell) is None]
            for unit, cells in zip(chosen, each, strict=True)
        ]
    search = _Search(copy, chosen, each)
    state, exact = search.best()
    plans = [
        Plan(chosen[move.unit], "coordinate", move.route, move.end, None, target, ())._of(board)
        if move.route.steps else stay(board, chosen[move.unit], "coordinate", None, target)
        for move in state.moves
    ]  # fmt: skip
    moved = {move.unit for move in state.moves}
    plans += [
        stay(board, unit, "coordinate", None, target, "no goal is left for it that it can get to")
        for place, unit in enumerate(chosen)
        if place not in moved
    ]
    bound = state.total if exact else search.bound(0, 0)
    return Coordination(
        board, plans, state.moves, exact, search.given(state.total), search.given(bound)
    )


def _stands(board: Board, unit: Unit, target: str) -> list[Cell]:
    """The cells from which a unit could attack another, wherever it could stand."""
    if unit.attack is None:
        raise InputError("units", "one has no attack", unit.name)
    goal = board._units.find(target, "target")
    # a cell farther away than this is no stand at any levels
    far = unit.attack._far(lines(board).span) + len(unit.movement.footprint)
    far += unit.attack.pattern.size if unit.attack.pattern.shape != "cell" else 0
    grid = board.grid
    disks = (grid.disk(cell, far) for cell in board.covered(goal) if cell in grid)
    near = list(dict.fromkeys(cell for disk in disks for cell in disk))
    near = [
        cell for cell in near
        if all(each in grid for each in board.covered(unit, cell))
    ]  # fmt: skip
    if not near:
        return []
    stands = grid.numbering.numbers(np.array(near))
    attacks = Attacks(board, unit, unit.attack, None, stands)
    return [near[place] for place in attacks._places(target)]
