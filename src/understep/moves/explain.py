"""Explain: why a unit cannot end on a cell this turn, and what change would allow it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from fractions import Fraction
from typing import Any, NamedTuple, cast

from understep.boards.board import Board
from understep.boards.cost import plain
from understep.boards.unit import Unit
from understep.grids.cell import Cell, CellLike
from understep.moves.answer import KnownTo, Refusal, amount, cannot_stop, known, movement_of
from understep.moves.labels import Labels
from understep.moves.movement import Movement
from understep.moves.route import Route, make_route
from understep.moves.search import search


class Obstacle(NamedTuple):
    """Something in the way.

    Attributes
    ----------
    kind
        "unit", "ground", "edge", "slope", "points" or "zone".
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


class Explanation(NamedTuple):
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
        How many turns it takes as things are; None where there is no way at all.
    change
        The smallest change found that would allow it; empty where none is needed or none was found.
    """

    unit: Unit
    cell: Cell
    obstacles: tuple[Obstacle, ...]
    turns: int | None
    change: str

    def __bool__(self) -> bool:
        return not self.obstacles and self.turns == 1

    def __str__(self) -> str:
        if self:
            return f"{self.unit.name!r} may end on {tuple(self.cell)} this turn"
        told = "; ".join(obstacle.text for obstacle in self.obstacles) or "no way leads there"
        return told + (f". It could: {self.change}" if self.change else "")

    def plain(self) -> dict[str, Any]:
        """The explanation as plain lists and texts, for JSON."""
        obstacles = [
            {
                "kind": each.kind,
                "text": each.text,
                "cell": list(each.cell),
                "names": list(each.names),
                "between": [list(cell) for cell in each.between],
            }
            for each in self.obstacles
        ]
        return {
            "unit": self.unit.name, "cell": list(self.cell), "allowed": bool(self),
            "turns": self.turns, "obstacles": obstacles, "change": self.change,
        }  # fmt: skip


def explain(board: Board, unit: str, cell: CellLike, *, known_to: KnownTo = None) -> Explanation:
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
        ``cell`` is none, or off the board.

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
    movement_of(who)  # refuses one of a foreign kind before anything else is said
    goal = board.grid.require(cell)
    refusal = cannot_stop(board, who, goal)
    if refusal is not None and goal != who.at:
        return _taken(board, who, goal, refusal)
    number = board.grid.number(goal)
    labels = search(board, who, goals=[number], turns=None)
    if labels.found < 0:
        return _no_way(board, who, goal)
    turns = int(labels.turns()[0])
    if turns == 1:
        return Explanation(who, goal, (), 1, "")
    return _short(board, who, goal, turns)


def _taken(board: Board, unit: Unit, goal: Cell, refusal: Refusal) -> Explanation:
    """What is on the cell itself, and if that is units, what else would be in the way."""
    if not refusal.blockers:
        return Explanation(unit, goal, (Obstacle("ground", refusal.why, goal),), None, "")
    found = Obstacle("unit", refusal.why, goal, refusal.blockers)
    changed = board.copy()
    for name in refusal.blockers:
        changed.remove(name)
    rest = explain(changed, unit.name, goal)
    change = f"without {' and '.join(map(repr, refusal.blockers))}"
    if not rest:
        change = f"{change}, {rest.change}" if rest.change else ""
    return Explanation(unit, goal, (found, *rest.obstacles), None, change)


def _short(board: Board, unit: Unit, goal: Cell, turns: int) -> Explanation:
    """How many points are missing, where only they are."""
    movement = cast(Movement, unit.movement)
    left = Fraction(movement.points if unit.left is None else unit.left)
    late = f"in {turns} turns"
    plenty = unit.changed(left=Fraction(10**6))
    labels = search(board, plenty, goals=[board.grid.number(goal)], turns=1)
    if labels.found < 0:
        text = "it cannot be reached in one turn, however many points it had"
        return Explanation(unit, goal, (Obstacle("points", text, goal),), turns, late)
    needs = Fraction(int(labels.totals()[0]), labels.scale) - left
    if movement.zones == "end" and needs > 10**5:
        text = "a zone of control ends its turn on the way"
        return Explanation(unit, goal, (Obstacle("zone", text, goal),), turns, late)
    missing = amount_of(needs)
    found = Obstacle("points", f"{missing} short", goal)
    return Explanation(unit, goal, (found,), turns, f"with {missing} more, or {late}")


def amount_of(points: Fraction) -> str:
    """Points, in words."""
    value = plain(points)
    return amount(value, "point") if isinstance(value, int) else f"{value:g} points"


def _no_way(board: Board, unit: Unit, goal: Cell) -> Explanation:
    """Lift one kind of rule after the other, and see what the way then meets."""
    movement = cast(Movement, unit.movement)
    opened: dict[str, Any] = dict(movement.edges)
    for name, kind in board.edge_kinds.items():
        if movement.across(name, kind)[0]:
            opened[name] = "open"
    lifted: list[Movement] = [
        replace(movement, passes="all"),
        replace(movement, edges=opened),
        replace(movement, climb=None, drop=None),
    ]
    for rules in [*lifted, replace(lifted[2], passes="all", edges=opened)]:
        route = _lifted(board, unit.changed(movement=rules), goal)
        if route is not None:
            met = tuple(_met(board, unit, route))
            if met and _helps(board, unit, goal, met):
                change = "without " + " and ".join(_named(obstacle) for obstacle in met)
                return Explanation(unit, goal, met, None, change)
    return Explanation(unit, goal, (), None, "")


def _helps(board: Board, unit: Unit, goal: Cell, met: tuple[Obstacle, ...]) -> bool:
    """Whether there is a way once all these are gone; tried on a copy."""
    rules, changed = cast(Movement, unit.movement), board.copy()
    for obstacle in met:
        if obstacle.kind == "unit":
            changed.remove(obstacle.names[0])
        elif obstacle.kind == "edge":
            changed.set_edge(obstacle.between[0], obstacle.between[1], None)
        else:
            rules = replace(rules, climb=None, drop=None)
    return _lifted(changed, unit.changed(movement=rules), goal) is not None


def _lifted(board: Board, unit: Unit, goal: Cell) -> Route | None:
    labels: Labels = search(board, unit, goals=[board.grid.number(goal)], turns=None)
    if labels.found < 0:
        return None
    return make_route(unit, board.state, labels, goal, "first", -1)


def _named(obstacle: Obstacle) -> str:
    if obstacle.kind == "unit":
        return " and ".join(map(repr, obstacle.names))
    if obstacle.kind == "edge":
        a, b = obstacle.between
        return f"the {obstacle.names[0]!r} between {tuple(a)} and {tuple(b)}"
    return f"the slope at {tuple(obstacle.cell)}"


def _met(board: Board, unit: Unit, route: Route) -> Iterator[Obstacle]:
    """What stops a unit on a route that other rules allow, in order, each once."""
    movement = cast(Movement, unit.movement)
    seen: set[str] = set()
    for here, there, step in zip(route.cells, route.cells[1:], route.steps, strict=False):
        pairs = list(zip(board.covered(unit, here), board.covered(unit, there), strict=True))
        for a, b in pairs:
            other = board.unit_at(b, unit.layer)
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


def walls_met(board: Board, movement: Movement, a: Cell, b: Cell) -> Iterator[Obstacle]:
    """The walls between two neighbors; of a diagonal step those at the corner that it cuts too."""
    pairs = [(a, b)]
    if board.grid.distance(a, b, "straight") > 1.2:
        for side in board.grid.neighbors(a) & board.grid.neighbors(b):
            pairs += [(a, side), (side, b)]
    for start, end in pairs:
        kind = board.edge(start, end)
        shut = kind is not None and not board.is_open(start, end)
        if kind and shut and movement.across(kind, board.edge_kinds[kind])[0]:
            text = f"{kind!r} between {tuple(start)} and {tuple(end)}"
            yield Obstacle("edge", text, end, (kind,), (start, end))
