"""Explain: why a unit cannot end on a cell this turn, and the fewest changes that help."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from itertools import combinations
from math import ceil
from typing import NamedTuple

from understep.boards.board import Board
from understep.boards.cost import plain
from understep.boards.refusal import Refusal, cell_on
from understep.boards.unit import Unit
from understep.errors import InputError
from understep.grids.cell import Cell, CellLike, Cells
from understep.moves.answer import (
    Answer,
    KnownTo,
    amount_of,
    brief,
    cannot_stop,
    known,
    movement_of,
    points_left,
)
from understep.moves.met import Met
from understep.moves.obstacle import Obstacle, in_words, steep
from understep.moves.relief import Relief
from understep.moves.remedy import Remedy, lift, remedy_of, revealed, with_text
from understep.moves.search import search
from understep.moves.search_labels import Labels
from understep.moves.weights import heeded
from understep.overlay import Mark, Overlay

PLENTY = 10**6  # points, more than any way takes


@dataclass(frozen=True, repr=False)
class Explanation(Answer):
    """Why a unit may, or may not, end on a cell this turn; true in a condition if it may.

    Attributes
    ----------
    unit
        The unit, as it was when asked.
    cell
        The cell asked about.
    obstacles
        What is in the way, in the order in which it is met; empty where it may end there.
    turns
        How many turns it takes as things are; None where there is no route at all.
    remedy
        The fewest changes that would allow it, tried on a copy of the board; None where none is
        needed, or none helps.
    minimal
        Whether it is proven that no fewer changes would do.
    """

    _facts = ("cell", "turns", "obstacles", "remedy", "minimal")

    unit: Unit
    cell: Cell
    obstacles: tuple[Obstacle, ...]
    turns: int | None
    remedy: Remedy | None
    minimal: bool = True

    def __bool__(self) -> bool:
        return not self.obstacles and self.turns == 1

    def __repr__(self) -> str:
        return f"<Explanation: {brief(str(self))}>"

    @property
    def why(self) -> str:  # type: ignore[override]
        """Why it may not end there; empty where it may."""
        return "" if self else str(self)

    @property
    def blockers(self) -> tuple[str, ...]:  # type: ignore[override]
        """Names of the units in the way."""
        # a large unit can be in the way on several cells
        every = (name for each in self.obstacles if each.kind == "unit" for name in each.names)
        return tuple(dict.fromkeys(every))

    @property
    def cells(self) -> Cells:
        """The cells of the obstacles, or the one asked about."""
        return (
            Cells._of(each.cell for each in self.obstacles)
            if self.obstacles
            else Cells([self.cell])
        )

    def remedied(self) -> Board | None:
        """A copy of the board on which the remedy was made, rules of the unit lifted too.

        For the route that there would be: ``us.route(answer.remedied(), ...)``. None: no remedy.

        Examples
        --------
        >>> import understep as us
        >>> board = us.maps.shipped("fen")
        >>> told = us.explain(board, "ox-cart", (10, 3))
        >>> copy = told.remedied()
        >>> bool(us.route(board, "ox-cart", (10, 3))), bool(us.route(copy, "ox-cart", (10, 3)))
        (False, True)
        """
        if self.remedy is None:
            return None
        return _remade(self._board, self.unit, self.remedy)

    def overlay(self) -> Overlay:
        """The explanation as plain data: "goal" or "refused", and "finding" for obstacles."""
        marks = {self.cell: Mark("goal", 1, "") if self else Mark("refused", None, self.why)}
        for number, each in enumerate(self.obstacles, 1):
            before = marks.get(each.cell)
            if before is not None and before.role == "finding":  # two on a cell
                marks[each.cell] = before._replace(text=f"{before.text}; {each.text}")
            else:
                marks[each.cell] = Mark("finding", number, each.text)
        return Overlay._of(marks, priority=2)

    def __str__(self) -> str:
        if self:
            return f"{self.unit.name!r} may end on {tuple(self.cell)} this turn"
        return in_words(self.obstacles) + (f". It could: {self.remedy}" if self.remedy else "")


def explain(
    board: Board, unit: str, cell: CellLike | None, *, known_to: KnownTo = None
) -> Explanation:
    """Why a unit may or may not end on a cell this turn, and what would help.

    What helps are changes to the board (units to remove, features, blocks and edges to clear, cells
    to give the cheapest terrain that is open to the unit), rules of its movement to lift, and more
    points or turns. The fewest changes count. What its side does not know plays no part.

    Parameters
    ----------
    board
        The board; it is not changed.
    unit
        The name of a unit on it.
    cell
        The cell.
    known_to
        The side whose knowledge counts; by default the unit's own, if it keeps any (`fog`). False:
        the truth.

    Returns
    -------
    Explanation

    Raises
    ------
    NameUnknownError
        No such unit, or a side that keeps no knowledge.
    CellError
        ``cell`` is not a cell. (None, and cells off the board, get a false answer.)
    InputError
        ``board`` is not a board.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.SquareGrid(9, 1), {"turf": 1})
    >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=4)), at=(0, 0))
    >>> str(us.explain(board, "scout", (6, 0)))
    '2 points short. It could: with 2 points more, or in 2 turns'
    >>> pikes = board.add(us.Unit("pikes", "wreckers", us.Movement(points=4)), at=(2, 0))
    >>> str(us.explain(board, "scout", (3, 0)))
    "'pikes' of the wreckers stands on (2, 0). It could: without 'pikes'"
    """
    board = known(board, unit, known_to)
    who = board.unit(unit)
    movement_of(who)  # refuses a foreign kind first
    goal = cell_on(board.grid, cell)
    if isinstance(goal, Refusal):
        obstacle = Obstacle("board", goal.why, who.at)
        return Explanation(who, who.at, (obstacle,), None, None, minimal=False)._of(board)
    return _explained(board, who, goal)._of(board)


def _explained(board: Board, who: Unit, goal: Cell) -> Explanation:
    """What is in the way, and what would help."""
    now = _Trial(board, who, goal)
    # it may get there in a later turn: then points are all that is short
    turns = now.turns()
    if turns == 1:
        return Explanation(who, goal, (), 1, None)
    best = _Change([], (), [""])
    if turns is not None:
        best = _tried(board, who, goal, best) or best
    else:
        found = _fewest(board, who, goal)
        if found is None:
            text = f"no cells lead from {tuple(who.at)} to {tuple(goal)}"
            return Explanation(
                who, goal, (Obstacle("board", text, goal),), None, None, minimal=False
            )
        best = found
    obstacles, remedy = list(best.things), best.remedy
    if remedy is not None and (remedy.turns > 1 or remedy.points):
        obstacles.append(_shortage(who, goal, remedy))
    # one change is the fewest there can be; of more, only what was counted exactly
    sure = remedy is not None and (best.size <= 1 or (best.exact and _countable(board, who)))
    return Explanation(who, goal, tuple(obstacles), turns, remedy, sure)


class _Change(NamedTuple):
    """Things to take away and rules to lift."""

    things: list[Obstacle]
    rules: tuple[str, ...]
    openings: list[str]
    exact: bool = True
    remedy: Remedy | None = None

    @property
    def size(self) -> int:
        """How many they are."""
        return len([each for each in self.things if each.kind not in self.rules]) + len(self.rules)


def _fewest(board: Board, who: Unit, goal: Cell) -> _Change | None:
    """The fewest things and rules without which a unit gets to a cell; None: nothing helps.

    One that was found by its weight can fail when it is tried, as where friends may be passed but
    not stood among; these are taken for obstacles at last.
    """
    rules = heeded(board, movement_of(who))
    best = untried = None
    # units of its own side are in its way only where nothing else helps
    for friends in (False, True):
        for many in range(len(rules) + 1):
            # as many rules lifted as the best has things and rules cannot be fewer
            if best is not None and (friends or many >= best.size):
                return best
            for some in combinations(rules, many):
                relief = Relief(board, who, frozenset(some), friends)
                way = relief.way(goal)
                if way is None:
                    continue
                things = Met(relief).along(way) + _ruled(board, who, some, way)
                change = _Change(things, some, relief.weights.openings or [""], not friends)
                # it says at least what is in the way, should nothing help
                untried = untried or change
                if best is None or change.size < best.size:
                    best = _tried(board, who, goal, change) or best
    return best or untried


def _ruled(board: Board, who: Unit, rules: tuple[str, ...], way: list[Cell]) -> list[Obstacle]:
    """The rules that are lifted on a way, each with the first step that breaks it."""
    movement = movement_of(who)
    found = []
    for rule in rules:
        # with all others lifted, this one alone can forbid a step
        kept = [each for each in rules if each != rule]
        heeding = Relief(board, who, frozenset(kept), False)
        # the first step tells where; others of the way may break the same rule
        step = heeding.first_shut(way)
        a, b = (str(tuple(cell)) for cell in step)
        text = {
            "corner": f"no way around the corner from {a} to {b}",
            "size": f"too large for the gap between {a} and {b}",
            "rule": _closed(board, who, step[1]),
            "unknown": f"{b} is unknown to the {who.side}",
            "slope": f"the slope from {a} to {b} is too steep",
        }[rule]
        if rule == "slope" and board.grid.direction(*step) is not None:
            text = steep(board, movement, *step) or text
        found.append(Obstacle(rule, text, step[1], (), step))
    return found


def _closed(board: Board, who: Unit, cell: Cell) -> str:
    """That a movement's rule closes a cell, and why if it says so."""
    text = "its movement's rule closes"
    why = board._units.hindrance(who, cell)
    return why if why.startswith(text) else f"{text} {tuple(cell)}"


def _tried(board: Board, who: Unit, goal: Cell, change: _Change) -> _Change | None:
    """The change with its remedy, made on a copy; None: that was not sufficient."""
    for rules in (change.rules, (*change.rules, "zone")):
        # only such zones can stop it where nothing is in its way
        if rules is not change.rules and movement_of(who).zones != "end":
            break
        remedy, twin = _made(board, who, change, rules)
        if twin is None:
            return None
        trial = _Trial(twin, twin.unit(who.name), goal)
        turns, points = trial.turns(), Fraction(0)
        more = None if turns == 1 else trial.more()
        if turns is None and more is None:
            continue
        points = more if more is not None else Fraction(0)
        given = None if turns != 1 and more is None else plain(points)
        remedy = with_text(remedy._replace(turns=turns or 1, points=given), change.things)
        things = change.things
        if rules is not change.rules:
            text = "a zone of control ends its turn on the way"
            things = [*things, Obstacle("zone", text, goal)]
        # without the unit that exerts the zone it might take fewer
        exact = change.exact and rules is change.rules
        return change._replace(rules=rules, things=things, remedy=remedy, exact=exact)
    return None


def _made(
    board: Board, who: Unit, change: _Change, rules: tuple[str, ...]
) -> tuple[Remedy, Board | None]:
    """The remedy, turns and points apart, and a board on which it was made; None: it cannot be."""
    # the cheapest terrain that is open to the one may be closed to another that stands there
    for name in change.openings:
        remedy = remedy_of(change.things, name, rules)
        if not remedy.size:
            return remedy, board
        try:
            return remedy, _remade(board, who, remedy, name)
        except InputError:
            continue
    return remedy, None


def _remade(board: Board, who: Unit, remedy: Remedy, name: str = "") -> Board:
    """A copy of a board on which a remedy is made; ``name``: the terrain of unknown cells."""
    if "unknown" in remedy.rules:
        name = name or Relief(board, who, frozenset(), False).weights.open_to
    twin = revealed(board, name) if "unknown" in remedy.rules else board.copy()
    remedy.apply(twin)
    if remedy.rules:
        twin._units.remake(who.name, {"movement": lift(movement_of(who), remedy.rules)})
        # a new movement would give it points of its own
        twin._units.alter(who.name, left=who.left)
    return twin


def _shortage(who: Unit, goal: Cell, remedy: Remedy) -> Obstacle:
    """Why it takes more than a turn, once nothing else is in the way."""
    if remedy.points:
        return Obstacle("points", f"{amount_of(Fraction(remedy.points))} short", goal)
    ends = movement_of(who).zones == "end"
    text = "a zone of control ends its turn on the way"
    text = text if ends else "it cannot be reached in one turn, however many points it had"
    return Obstacle("zone" if ends else "points", text, goal)


def _countable(board: Board, who: Unit) -> bool:
    """Whether nothing counts twice on a way, so that the lightest way has the fewest things.

    What covers several cells can, and what is in the way at corners.
    """
    large = any(len(unit.movement.footprint) > 1 for unit in board.units())
    diagonal = board.grid.kind == "square" and len(board.grid.directions) == 8
    return not (large or diagonal or movement_of(who).leap is not None)


class _Trial:
    """A unit's way to a cell on a board where things may have been taken away."""

    def __init__(self, board: Board, unit: Unit, goal: Cell) -> None:
        self._board, self._unit, self._goal = board, unit, goal
        self._number = board.grid.numbering.number(goal)

    def _labels(self, left: Fraction | None, turns: int | None) -> Labels:
        unit = self._unit if left is None else self._unit.changed(left=left)
        return search(self._board, unit, goals=[self._number], turns=turns)

    def turns(self) -> int | None:
        """How many turns it takes; None: there is no route."""
        # quicker than a search that would find no end
        if self._goal != self._unit.at and cannot_stop(self._board, self._unit, self._goal):
            return None
        labels = self._labels(None, None)
        return None if labels.found < 0 else int(labels.turns()[0])

    def more(self) -> Fraction | None:
        """The points more with which it gets there this turn; None: no number is enough."""
        left = points_left(self._unit)
        labels = self._labels(Fraction(PLENTY), 1)
        if labels.found < 0 or cannot_stop(self._board, self._unit, self._goal):
            return None
        needs = Fraction(int(labels.totals()[0]), labels.mover.scale) - left
        needs = Fraction(ceil(needs * 1000), 1000)  # a few digits are enough
        if movement_of(self._unit).zones == "end":  # the last step takes all points there are
            needs = self._fewest(left, needs)
        # tried before it is promised
        if needs <= 0 or self._labels(left + needs, 1).found < 0:
            return None
        return needs

    def _fewest(self, left: Fraction, enough: Fraction) -> Fraction:
        """The fewest points more with which it gets there this turn, to a thousandth."""
        low, high = 0, int(enough * 1000)
        while low < high:
            middle = (low + high) // 2
            found = self._labels(left + Fraction(middle, 1000), 1).found
            low, high = (middle + 1, high) if found < 0 else (low, middle)
        return Fraction(high, 1000)
