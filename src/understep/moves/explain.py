"""Explain: why a unit cannot end on a cell this turn, and what change would allow it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from fractions import Fraction
from math import ceil
from typing import Any, NamedTuple, cast

from understep.boards.board import Board
from understep.boards.refusal import Refusal, cell_on
from understep.boards.unit import Unit
from understep.grids.cell import Cell, CellLike, Cells
from understep.grids.grid import Grid
from understep.moves.answer import (
    Answer,
    KnownTo,
    amount_of,
    cannot_stop,
    known,
    movement_of,
    points_left,
)
from understep.moves.route import Route, make_route
from understep.moves.search import search
from understep.moves.search_labels import Labels
from understep.overlay import Mark, Overlay
from understep.rules.movement import Movement


class Obstacle(NamedTuple):
    """Something in the way.

    Attributes
    ----------
    kind
        "unit", "terrain", "edge", "slope", "points", "zone" or "board" (no such cell).
    text
        What it is, as a sentence without a full stop.
    cell
        Where; the far side of an edge or slope.
    names
        Units, or the kind of edge, by name.
    between
        The two cells of an edge or slope, in the direction of the step.
    """

    kind: str
    text: str
    cell: Cell
    names: tuple[str, ...] = ()
    between: tuple[Cell, ...] = ()


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
        What is in the way, all of which would have to go; empty where it may end there.
    turns
        How many turns it takes as things are; None where there is no route at all.
    remedy
        A change that would allow it, tried on a copy of the board: all that it names together, and
        of what follows "either" one of the two. Empty where none is needed or none was found.
    """

    _facts = ("cell", "turns", "obstacles", "remedy")

    unit: Unit
    cell: Cell
    obstacles: tuple[Obstacle, ...]
    turns: int | None
    remedy: str

    def __bool__(self) -> bool:
        return not self.obstacles and self.turns == 1

    def __repr__(self) -> str:
        return f"<Explanation: {self}>"

    @property
    def why(self) -> str:  # type: ignore[override]
        """Why it may not end there; empty where it may."""
        return "" if self else str(self)

    @property
    def blockers(self) -> tuple[str, ...]:  # type: ignore[override]
        """Names of the units in the way."""
        every = (name for each in self.obstacles if each.kind == "unit" for name in each.names)
        return tuple(dict.fromkeys(every))

    @property
    def cells(self) -> Cells:
        """The cells of the obstacles, or the one asked about."""
        return (
            Cells.of(each.cell for each in self.obstacles) if self.obstacles else Cells([self.cell])
        )

    def overlay(self) -> Overlay:
        """The explanation as plain data: "goal" or "refused", and "finding" for each obstacle."""
        marks = {self.cell: Mark("goal", 1, "") if self else Mark("refused", None, self.why)}
        for number, each in enumerate(self.obstacles, 1):
            marks.setdefault(each.cell, Mark("finding", number, each.kind))
        return Overlay(marks, priority=2)

    def __str__(self) -> str:
        if self:
            return f"{self.unit.name!r} may end on {tuple(self.cell)} this turn"
        words = "; ".join(obstacle.text for obstacle in self.obstacles) or "no route leads there"
        return words + (f". It could: {self.remedy}" if self.remedy else "")


def explain(
    board: Board, unit: str, cell: CellLike | None, *, known_to: KnownTo = None
) -> Explanation:
    """Why a unit may or may not end on a cell this turn.

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
        ``cell`` is no cell. (None, and cells off the board, get a false answer.)

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
        return Explanation(who, who.at, (obstacle,), None, "")._of(board)
    return _explained(board, who, goal)._of(board)


def _explained(board: Board, who: Unit, goal: Cell) -> Explanation:
    """What is in the way, and what would help."""
    change = _Relief(board, who, goal)
    turns = change.turns()
    if turns == 1:
        return Explanation(who, goal, (), 1, "")
    as_it_is = turns
    while turns is None and change.more():
        turns = change.turns()
    obstacles = list(change.obstacles)
    if turns is None:  # nothing that was tried would be enough
        return Explanation(who, goal, tuple(obstacles), None, "")
    without, choices = change.words(), list[str]()
    if turns > 1:
        obstacle, choices = change.short(turns)
        obstacles.append(obstacle)
    words = without or ", or ".join(choices)
    if without and choices:
        either = "either " if len(choices) > 1 else ""
        words = f"{without}, and {either}{' or '.join(choices)}"
    return Explanation(who, goal, tuple(obstacles), as_it_is, words)


class _Relief:
    """What is in a unit's way, taken away on a copy of the board."""

    def __init__(self, board: Board, unit: Unit, goal: Cell) -> None:
        self._board, self._goal = board, goal
        self._unit, self._rules = unit, movement_of(unit)
        #: What was in the way, in the order in which it was met.
        self.obstacles: list[Obstacle] = []

    @property
    def _who(self) -> Unit:
        return self._unit.changed(movement=self._rules)

    def _labels(self, unit: Unit, turns: int | None) -> Labels:
        return search(
            self._board, unit, goals=[self._board.grid.numbering.number(self._goal)], turns=turns
        )

    def turns(self) -> int | None:
        """How many turns it takes now; None: there is no route."""
        if self._goal != self._unit.at and cannot_stop(self._board, self._who, self._goal):
            return None
        labels = self._labels(self._who, None)
        return None if labels.found < 0 else int(labels.turns()[0])

    def more(self) -> bool:
        """Take away what is on the cell, or else on a way there; whether there was anything."""
        met: list[Obstacle] = []
        refusal = cannot_stop(self._board, self._who, self._goal)
        if refusal is not None and self._goal != self._unit.at:
            kind = "unit" if refusal.blockers else "terrain"
            met = [Obstacle(kind, refusal.why, self._goal, refusal.blockers)]
        else:
            met = self._met()
        if met and not self.obstacles:  # from here on a copy
            self._board = self._board.copy()
        self.obstacles += met
        for obstacle in met:
            if obstacle.kind == "unit":
                for name in obstacle.names:
                    self._board.remove(name)
            elif obstacle.kind == "edge":
                self._board.set_edge(obstacle.between[0], obstacle.between[1], None)
            elif obstacle.kind == "slope":
                rises = self._board.slope(obstacle.between[0], obstacle.between[1]) > 0
                lifted: dict[str, Any] = {"climb" if rises else "drop": None}
                self._rules = replace(self._rules, **lifted)
        return any(obstacle.kind != "terrain" for obstacle in met)

    def _met(self) -> list[Obstacle]:
        """What is in the way on the first route that is found when rules are lifted."""
        movement = self._rules
        opened: dict[str, Any] = dict(movement.edges)
        for name, kind in self._board.edge_kinds.items():
            if movement.across(name, kind)[0]:
                opened[name] = "open"
        lifted: list[Movement] = [
            replace(movement, passes="all"),
            replace(movement, edges=opened),
            replace(movement, climb=None, drop=None),
        ]
        for rules in [*lifted, replace(lifted[2], passes="all", edges=opened)]:
            labels = self._labels(self._unit.changed(movement=rules), None)
            if labels.found >= 0:
                unit = self._unit.changed(movement=rules)
                route = make_route(unit, self._board.state, labels, self._goal, "first", -1)
                if met := list(_met(self._board, self._who, route)):
                    return met
        return []

    def short(self, turns: int) -> tuple[Obstacle, list[str]]:
        """Why it takes so many turns, and what would do, in words: any one of them."""
        late = f"in {turns} turns"
        left = points_left(self._unit)
        labels = self._labels(self._who.changed(left=Fraction(10**6)), 1)
        needs = Fraction(0)
        if labels.found >= 0:
            needs = Fraction(int(labels.totals()[0]), labels.mover.scale) - left
            needs = Fraction(ceil(needs * 1000), 1000)  # a few digits are enough
            if self._rules.zones == "end":  # the last step takes all points, however many there are
                needs = self._fewest(left, needs)
        if needs <= 0 or self._labels(self._who.changed(left=left + needs), 1).found < 0:
            ends = self._rules.zones == "end"
            text = "a zone of control ends its turn on the way"
            text = text if ends else "it cannot be reached in one turn, however many points it had"
            return Obstacle("zone" if ends else "points", text, self._goal), [late]
        missing = amount_of(needs)
        obstacle = Obstacle("points", f"{missing} short", self._goal)
        return obstacle, [f"with {missing} more", late]

    def _fewest(self, left: Fraction, enough: Fraction) -> Fraction:
        """The fewest points more with which it gets there this turn, to a thousandth."""
        low, high = 0, int(enough * 1000)
        while low < high:
            middle = (low + high) // 2
            unit = self._who.changed(left=left + Fraction(middle, 1000))
            low, high = (middle + 1, high) if self._labels(unit, 1).found < 0 else (low, middle)
        return Fraction(high, 1000)

    def words(self) -> str:
        """What was taken away."""
        things = [_named(each) for each in self.obstacles if each.kind != "slope"]
        limits = [
            word
            for word in ("climb", "drop")
            if getattr(self._rules, word) != getattr(movement_of(self._unit), word)
        ]
        parts = [f"without {' and '.join(dict.fromkeys(things))}"] if things else []
        parts += [f"with no limit to {' and '.join(limits)}"] if limits else []
        return " and ".join(parts)


def _named(obstacle: Obstacle) -> str:
    if obstacle.kind == "unit":
        return " and ".join(map(repr, obstacle.names))
    a, b = obstacle.between
    return f"the {obstacle.names[0]!r} between {tuple(a)} and {tuple(b)}"


def _met(board: Board, unit: Unit, route: Route) -> Iterator[Obstacle]:
    """What stops a unit on a route that other rules allow, in order, each once."""
    movement = cast(Movement, unit.movement)
    seen: set[str] = set()
    for here, there, step in zip(route.cells, route.cells[1:], route.steps, strict=False):
        pairs = list(zip(board.covered(unit, here), board.covered(unit, there), strict=True))
        for a, b in pairs:
            other = board.unit_at(b, layer=unit.layer)
            passes = other is not None and movement.may_pass(other.side == unit.side)
            if other is not None and other.name not in {unit.name, *seen} and not passes:
                seen.add(other.name)
                text = f"{other.name!r} of the {other.side} stands on {tuple(b)}"
                yield Obstacle("unit", text, b, (other.name,))
            if step.direction is None:
                continue
            yield from walls_met(board, movement, a, b)
            rise = board.slope(a, b)
            limit = movement.climb if rise > 0 else movement.drop
            if limit is not None and abs(rise) > limit:
                word = "climb" if rise > 0 else "drop"
                text = f"{word} of {abs(rise):g} to {tuple(b)}, limit {float(limit):g}"
                yield Obstacle("slope", text, b, (), (a, b))


def corners(grid: Grid, a: Cell, b: Cell) -> Cells:
    """The cells at the corners of a diagonal step between neighbors; none of a straight one."""
    diagonal = grid.distance(a, b, measure="straight") > 1.2
    return grid.neighbors(a) & grid.neighbors(b) if diagonal else Cells()


def walls_met(board: Board, movement: Movement, a: Cell, b: Cell) -> Iterator[Obstacle]:
    """The walls between two neighbors; of a diagonal step those at the corner that it cuts too."""
    pairs = [(a, b)]
    for side in corners(board.grid, a, b):
        pairs += [(a, side), (side, b)]
    for start, end in pairs:
        kind = board.edge(start, end)
        shut = kind is not None and not board.is_open(start, end)
        if kind and shut and movement.across(kind, board.edge_kinds[kind])[0]:
            text = f"{kind!r} between {tuple(start)} and {tuple(end)}"
            yield Obstacle("edge", text, end, (kind,), (start, end))
