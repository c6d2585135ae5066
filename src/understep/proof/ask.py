"""Ask: questions to a board, and whether the answers are what the reference says."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import cache
from math import isclose
from random import Random
from typing import Any, NamedTuple

from understep.actions.attacks import attacks
from understep.boards.attack import Attack
from understep.boards.board import Board
from understep.grids.cell import Cell
from understep.grids.hexes import HexGrid
from understep.moves.answer import known
from understep.moves.areas import areas
from understep.moves.ask import route
from understep.moves.field import field
from understep.moves.movement import ALTERNATING
from understep.moves.reach import reach
from understep.proof.rules import Rules, Step, alone
from understep.proof.search import Search, costs_to, leading_to, led_to
from understep.proof.sight import Lines
from understep.sight.sees import sees
from understep.sight.view import view


class Ask(NamedTuple):
    """A question: its kind, the unit (empty: none), and what else it takes."""

    kind: str
    unit: str
    args: tuple[Any, ...]

    def __str__(self) -> str:
        told = [tuple(arg) if isinstance(arg, Cell) else arg for arg in self.args]
        return _WORDS[self.kind].format(*told, unit=self.unit)


_WORDS = {
    "reach": "reach of {unit}, {0} turns",
    "route": "route of {unit} to {0}, {1} turns, {2}",
    "field": "field of {unit} to {0} and {1}",
    "areas": "area of {unit} at {0}",
    "attacks": "attack of {unit} on {0}, {1} to {2} cells away, in sight: {3}, by level: {4}",
    "sight": "sight from {0} to {1}",
    "view": "view from {0}, radius {1}",
    "cells": "cells {0} and {1}",
}


class Truth:
    """What the reference says of a board that nobody alters meanwhile."""

    def __init__(self, board: Board) -> None:
        self.board, self.lines = board, cache(Lines)
        self.rules = cache(lambda unit: Rules(known(board, unit, None), unit))
        self.ground = cache(lambda unit: Rules(alone(known(board, unit, None), unit), unit))
        self.search = cache(lambda unit, turns: Search(self.rules(unit), turns))


def asks(board: Board, rng: Random) -> Iterator[Ask]:
    """Questions of all kinds, without end."""
    cells, units = list(board.grid), [unit.name for unit in board.units()]
    while True:
        a, b = rng.choice(cells), rng.choice(cells)
        yield Ask("cells", "", (a, b))
        yield Ask("sight", "", (a, b))
        yield Ask("view", "", (a, rng.choice([1, 2, 3])))
        for name in rng.sample(units, min(2, len(units))):
            turns = rng.randrange(1, 4)
            yield Ask("reach", name, (turns,))
            for prefer in ("straight", "straight", "direct", "first"):
                yield Ask("route", name, (rng.choice(cells), turns, prefer))
            yield Ask("field", name, (a, b))
            yield Ask("areas", name, (a,))
            low = rng.randrange(3)
            far, sight = low + rng.randrange(3), rng.random() < 0.5
            yield Ask("attacks", name, (b, low, far, sight, rng.randrange(2)))


def answer(ask: Ask, board: Board) -> list[Any]:
    """The answer itself, to be drawn; none where there is nothing to draw, or it fails."""
    given: dict[str, Callable[..., Any]] = {
        "reach": lambda turns: reach(board, ask.unit, turns=turns),
        "route": lambda to, turns, prefer: route(
            board, ask.unit, to=to, turns=turns, prefer=prefer
        ),
        "field": lambda *goals: field(board, ask.unit, goals),
        "areas": lambda _: areas(board, ask.unit),
        "attacks": lambda _, *rules: attacks(board, ask.unit, attack=_attack(*rules)),
        "view": lambda a, radius: view(board, a, radius=radius),
    }
    try:
        return [given[ask.kind](*ask.args).overlay()] if ask.kind in given else []
    except Exception:  # it may be what is wrong
        return []


def differs(ask: Ask, truth: Truth) -> str:
    """How an answer differs from the reference's; empty where it does not."""
    try:
        return _CHECKS[ask.kind](truth, ask.unit, *ask.args)
    except Exception as error:
        if _own(error):
            raise
        return f"raised {type(error).__name__}: {error}"


def _own(error: Exception) -> bool:
    """Whether an error is none of the library's answers: raised by the reference itself."""
    trace = error.__traceback__
    while trace is not None and trace.tb_next is not None:
        trace = trace.tb_next
    return trace is not None and trace.tb_frame.f_globals.get("__name__", "").startswith(
        __package__
    )


def _reach(truth: Truth, unit: str, turns: int) -> str:
    search, found = truth.search(unit, turns), reach(truth.board, unit, turns=turns)
    if set(found) != set(search.best):
        return f"may end on {_few(found)}, not on {_few(search.best)}"
    if set(found.passing) != search.passing:
        return f"only crosses {_few(found.passing)}, not {_few(search.passing)}"
    for cell, (turn, lacking) in search.best.items():
        entry = found[cell]
        if entry.turn != turn + 1 or not isclose(entry.left, -lacking, abs_tol=1e-9):
            got, want = f"turn {entry.turn}, {entry.left} left", f"turn {turn + 1}, {-lacking} left"
            return f"{tuple(cell)} in {got}; not in {want}"
        way = found.route(cell)
        if way.cells[-1] != cell or not isclose(way.cost or 0, entry.cost, abs_tol=1e-9):
            return f"the way to {tuple(cell)} costs {way.cost}; the reach says {entry.cost}"
    return ""


def _route(truth: Truth, unit: str, goal: Cell, turns: int, prefer: Any) -> str:
    search = truth.search(unit, turns)
    found = route(truth.board, unit, to=goal, turns=turns, prefer=prefer)
    if bool(found) != (goal in search.best):
        return f"{'a way' if found else 'no way'} to {tuple(goal)}: {found.why or 'there is none'}"
    if not found:
        near = {cell: truth.board.grid.distance(cell, goal) for cell in search.best}
        right = found.nearest is not None and near.get(found.nearest) == min(near.values())
        return "" if right else f"nearest to {tuple(goal)} is {found.nearest}"
    if found.turns != search.best[goal][0] + 1:
        return f"{found.turns} turns to {tuple(goal)}; not {search.best[goal][0] + 1}"
    return _walked(search, found) or _looks(search, found, goal, prefer)


def _walked(search: Search, found: Any) -> str:
    """Whether the steps of a route are steps of the reference, and cost what they cost there."""
    rules, state = search.rules, search.start
    for step in found.steps:
        way = None if step.direction is None else rules.grid.directions.index(step.direction)
        while state.turn < step.turn - 1:
            state = search.rested(state)
        prices = [
            p for w, end, p in rules.steps(state.cell, state.dear) if (w, end) == (way, step.cell)
        ]
        made = Step(way, step.cell, min(prices)) if prices else None
        arrived = None if made is None else search.arrive(state, made)
        if made is None or arrived is None:
            return f"no such step: {tuple(state.cell)} to {tuple(step.cell)}"
        if not isclose(step.cost, arrived[1], abs_tol=1e-9):
            return f"{tuple(state.cell)} to {tuple(step.cell)} costs {step.cost}; not {arrived[1]}"
        state = arrived[0]
    if (state.turn, state.lacking) != search.best[state.cell]:
        return f"{-state.lacking} points left at the end; not {-search.best[state.cell][1]}"
    bad = [tuple(cell) for cell in found.stops if rules.meaning(cell) != "stop"]
    return f"stops on {bad}, where it cannot" if bad else ""


def _looks(search: Search, found: Any, goal: Cell, prefer: str) -> str:
    """Whether of the ways as good it is the one of fewest bends, by the order of directions."""
    rules, facing = search.rules, search.rules.unit.facing
    if prefer != "straight" or rules.moves.diagonal == ALTERNATING:
        return ""
    steps = (step for cell in search.cells for step in rules.steps(cell))
    if any(step.way is None or not step.price for step in steps):
        return ""  # links, leaps and free steps have ties of their own
    ahead = None if facing is None else rules.grid.directions.index(facing)
    best = search.preferred(goal, ahead)
    if tuple(found.cells) == best.cells:
        return ""
    got, want = ([tuple(cell) for cell in cells] for cells in (found.cells, best.cells))
    return f"goes {got}; by the rule of ties {want} ({best.cost} points, {best.bends} bends)"


def _field(truth: Truth, unit: str, *goals: Cell) -> str:
    rules = truth.ground(unit)
    found, costs = field(rules.board, unit, goals), costs_to(rules, goals)
    table = {cell: found[cell] for cell in rules.cells if cell in found}
    if set(table) != set(costs):
        return f"holds {_few(table)}, not {_few(costs)}"
    for cell, cost in costs.items():
        if not isclose(table[cell], cost, abs_tol=1e-9):
            return f"{tuple(cell)} costs {table[cell]}; not {cost}"
        way = found.next(cell)
        if way not in {cell, *(step.cell for step in rules.steps(cell))}:
            return f"no step leads from {tuple(cell)} to {way}"
    return ""


def _areas(truth: Truth, unit: str, start: Cell) -> str:
    rules = truth.ground(unit)
    found = areas(rules.board, unit)
    stands = {cell for cell in rules.cells if found[cell] is not None}
    wanted = {cell for cell in rules.cells if rules.stands(cell)}
    if stands != wanted:
        return f"it stands on {_few(stands)}, not on {_few(wanted)}"
    if start not in wanted:
        return ""
    same = {cell for cell in wanted if found[cell] == found[start]}
    back = led_to(rules, start) & leading_to(rules, start)
    return "" if same == back else f"{tuple(start)} is with {_few(same)}, not with {_few(back)}"


def _attack(low: int, high: int, sight: bool, per_level: int) -> Attack:
    return Attack(low, high, sight=sight, per_level=per_level)


def _attacks(truth: Truth, name: str, aim: Cell, *rules: Any) -> str:
    """Whether it can attack a cell, after moving, from any cell where it may end."""
    attack, search, eye = _attack(*rules), truth.search(name, 1), truth.board.unit(name).eye
    board, lines = search.rules.board, truth.lines(search.rules.board)
    found = aim in attacks(truth.board, name, attack=attack).cells
    for stand in search.best:
        cells = [cell for cell in search.rules.covered(stand) if cell is not None]
        above = int(lines.level(stand) - lines.level(aim))  # full levels, towards 0
        far = attack.high + attack.per_level * above
        if attack.low <= min(board.grid.distance(cell, aim) for cell in cells) <= far and (
            not attack.sight or any(lines.sees(cell, aim, eye, 0.5) for cell in cells)
        ):
            return "" if found else f"cannot attack {tuple(aim)}; it can from {tuple(stand)}"
    return f"can attack {tuple(aim)}; it cannot from any cell" if found else ""


def _sight(truth: Truth, _: str, a: Cell, b: Cell) -> str:
    seen = truth.lines(truth.board).sees(a, b, 0.5, 0.5)
    told = sees(truth.board, a, b, eye=0.5, target=0.5)
    if bool(told) == seen:
        return ""
    return f"{tuple(a)} {'sees' if told else 'does not see'} {tuple(b)}: {told.why}"


def _view(truth: Truth, _: str, a: Cell, radius: int) -> str:
    grid, lines = truth.board.grid, truth.lines(truth.board)
    near = [cell for cell in grid if grid.distance(a, cell) <= radius]
    seen = {cell for cell in near if lines.sees(a, cell, 0.5, 0.5)}
    found = set(view(truth.board, a, radius=radius, eye=0.5, target=0.5))
    return "" if found == seen else f"{tuple(a)} views {_few(found)}, not {_few(seen)}"


def _cells(truth: Truth, _: str, a: Cell, b: Cell) -> str:
    grid = truth.board.grid
    if isinstance(grid, HexGrid):
        p, q = (grid.convert(cell, "offset", "cube").tolist() for cell in (a, b))
        far = sum(abs(x - y) for x, y in zip(p, q, strict=True)) // 2
        again = Cell(*grid.convert(p, "cube", "offset").tolist())
        if sum(p) or again != a:
            return f"{tuple(a)} is cube {p}, and back {tuple(again)}"
    else:
        gaps = abs(a.col - b.col), abs(a.row - b.row)
        far = max(gaps) if len(grid.directions) == 8 else sum(gaps)
    if grid.distance(a, b) != far:
        return f"{tuple(a)} to {tuple(b)} is {grid.distance(a, b)} steps; not {far}"
    ends = [grid.step(a, name) for name in grid.directions]
    if {end for end in ends if end is not None} != set(grid.neighbors(a)):
        return f"{tuple(a)} has neighbors {_few(grid.neighbors(a))}"
    x, y = (0.9 * grid.corners(a) + 0.1 * grid.center(a)).T
    for point in zip(x.tolist(), y.tolist(), strict=True):
        if grid.cell_at(point) != a:
            return f"{point} lies in {tuple(a)}; cell_at says {grid.cell_at(point)}"
    return ""


def _few(cells: Any) -> str:
    """Some cells, for people."""
    listed = sorted(tuple(cell) for cell in cells)
    more = f" and {len(listed) - 8} more" if len(listed) > 8 else ""
    return (", ".join(map(str, listed[:8])) or "none") + more


_CHECKS: dict[str, Callable[..., str]] = {
    "reach": _reach, "route": _route, "field": _field, "areas": _areas, "attacks": _attacks,
    "sight": _sight, "view": _view, "cells": _cells,
}  # fmt: skip
KINDS = tuple(_CHECKS)
