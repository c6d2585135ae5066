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
from understep.moves.reach import reach
from understep.moves.search_labels import Prefer
from understep.sight.sees import sees
from understep.sight.view import view
from understep.study._reference_rules import ReferenceRules, ReferenceStep, alone
from understep.study._reference_search import ReferenceSearch, costs_to, leading_to, led_to
from understep.study._reference_sight import ReferenceLines

PREFER: tuple[Prefer, ...] = "straight", "straight", "direct", "first"


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
    "goals": "route of {unit} to {0} or {1}, {2} turns, avoiding {3}",
    "blocks": "blocks around {0} and {1}, those around {0} cleared",
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
        self.board, self.lines = board, cache(ReferenceLines)
        self.rules = cache(lambda unit: ReferenceRules(known(board, unit, None), unit))
        self.ground = cache(
            lambda unit: ReferenceRules(alone(known(board, unit, None), unit), unit)
        )
        self.search = cache(lambda unit, turns: ReferenceSearch(self.rules(unit), turns))


def asks(board: Board, rng: Random) -> Iterator[Ask]:
    """Questions of all kinds, without end."""
    cells, units = list(board.grid), [unit.name for unit in board.units()]
    others = units[1:]
    while True:
        a, b = rng.choice(cells), rng.choice(cells)
        lone = {
            "cells": (a, b),
            "blocks": (a, b),
            "sight": (a, b),
            "view": (a, rng.choice([1, 1, 2, 3])),
        }
        for kind in rng.choices(list(lone), (2, 4, 2, 1)):
            yield Ask(kind, "", lone[kind])
        # the first unit has the rules of the board, so that it is asked most
        for place, name in enumerate(units[:1] + rng.sample(others, min(1, len(others)))):
            turns = rng.randrange(1, 4)
            yield Ask("reach", name, (turns,))
            for _ in range(1 if place else 3):
                yield Ask("route", name, (rng.choice(cells), turns, rng.choice(PREFER)))
            # half of the cells, so that some ways avoid none and others all
            near = tuple((cell, rng.randrange(3)) for cell in rng.sample(cells, len(cells) // 2))
            yield Ask("goals", name, (a, b, turns, near))
            low = rng.randrange(3)
            attack = b, low, low + rng.randrange(3), rng.random() < 0.5, rng.randrange(2)
            more = {"field": (a, b), "areas": (a,), "attacks": attack}
            for kind in rng.sample(list(more), 1):
                yield Ask(kind, name, more[kind])


def answer(ask: Ask, board: Board) -> list[Any]:
    """The answer itself, to be drawn; none where there is nothing to draw, or it fails."""
    given: dict[str, Callable[..., Any]] = {
        "reach": lambda turns: reach(board, ask.unit, turns=turns),
        "route": lambda to, turns, prefer: route(
            board, ask.unit, goals=to, turns=turns, prefer=prefer
        ),
        "goals": lambda a, b, turns, near: route(
            board, ask.unit, goals=[a, b], turns=turns, avoid=_weights(board, near)
        ),
        "field": lambda *goals: field(board, ask.unit, goals),
        "areas": lambda _: areas(board, ask.unit),
        "attacks": lambda _, *rules: attacks(board, ask.unit, attack=_attack(*rules)),
        "view": lambda a, radius: view(board, a, radius=radius),
    }
    try:
        # drawn beside a difference, which is all the more telling if asking fails
        return [given[ask.kind](*ask.args).overlay()] if ask.kind in given else []
    except Exception:  # it may be what is wrong
        return []


def differs(ask: Ask, truth: Truth) -> str:
    """How an answer differs from the reference's; empty where it does not."""
    try:
        return _CHECKS[ask.kind](truth, ask.unit, *ask.args)
    except Exception as error:
        # a fault of the reference must not be taken for one of the library
        if _own(error):
            raise
        return f"raised {type(error).__name__}: {error}"


def _own(error: Exception) -> bool:
    """Whether an error was raised by the reference itself, not by the library."""
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
        # of ways that are as soon the reach tells the cheapest
        least = search.preferred([cell]).cost
        if not isclose(entry.cost, least, abs_tol=1e-9):
            return f"{tuple(cell)} costs {entry.cost}; {least} in all is least"
        way = found.route_to(cell)
        if way.cells[-1] != cell or not isclose(way.cost or 0, entry.cost, abs_tol=1e-9):
            return f"the way to {tuple(cell)} costs {way.cost}; the reach says {entry.cost}"
    return ""


def _route(truth: Truth, unit: str, goal: Cell, turns: int, prefer: Any) -> str:
    search = truth.search(unit, turns)
    found = route(truth.board, unit, goals=goal, turns=turns, prefer=prefer)
    if bool(found) != (goal in search.best):
        return f"{'a way' if found else 'no route'} to {tuple(goal)}: {found.why or 'no reason'}"
    if not found:
        near = {
            cell: min(
                truth.board.grid.distance(each, goal)
                for each in search.rules.covered(cell) if each is not None
            )
            for cell in search.best
        }  # fmt: skip
        right = found.nearest is not None and near.get(found.nearest) == min(near.values())
        return "" if right else f"nearest to {tuple(goal)} is {found.nearest}"
    if found.turns != search.best[goal][0] + 1:
        return f"{found.turns} turns to {tuple(goal)}; not {search.best[goal][0] + 1}"
    others = (
        route(truth.board, unit, goals=goal, turns=turns, prefer=other)
        for other in dict.fromkeys(PREFER) if other != prefer
    )  # fmt: skip
    costs = {other.cost for other in others} | {found.cost}
    # a preference chooses among equals, and must not cost anything
    if len(costs) > 1:
        return f"costs {' or '.join(map(str, costs))}, by what is preferred"
    return _walked(search, found) or _looks(search, found, goal, prefer)


def _walked(search: ReferenceSearch, found: Any) -> str:
    """Whether the steps of a route are steps of the reference, and cost what they cost there."""
    rules, state = search.rules, search.start
    for step in found.steps:
        way = None if step.direction is None else rules.grid.directions.index(step.direction)
        # a unit can wait where it may stop
        while state.turn < step.turn - 1:
            state = search.rested(state)
        prices = [
            p for w, end, p in rules.steps(state.cell, state.dear) if (w, end) == (way, step.cell)
        ]
        made = ReferenceStep(way, step.cell, min(prices)) if prices else None
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


def _looks(search: ReferenceSearch, found: Any, goal: Cell, prefer: str) -> str:
    """Whether of the ways as good it is the one of fewest bends, by the order of directions."""
    rules, facing = search.rules, search.rules.unit.facing
    ahead = None if facing is None else rules.grid.directions.index(facing)
    best = search.preferred([goal], ahead)
    if not isclose(found.cost, best.cost, abs_tol=1e-9):
        return f"costs {found.cost}; {best.cost} would do"
    if prefer != "straight" or tuple(found.cells) == best.cells:
        return ""
    got, want = ([tuple(cell) for cell in cells] for cells in (found.cells, best.cells))
    return f"goes {got}; by the rule of ties {want} ({best.cost} points, {best.bends} bends)"


def _goals(
    truth: Truth, unit: str, a: Cell, b: Cell, turns: int, near: tuple[tuple[Cell, int], ...]
) -> str:
    search, goals = truth.search(unit, turns), list(dict.fromkeys((a, b)))
    weights = _weights(truth.board, near)
    found = route(truth.board, unit, goals=goals, turns=turns, avoid=weights)
    if bool(found) != any(goal in search.best for goal in goals):
        return f"{'a way' if found else 'no route'} to any: {found.why or 'no reason'}"
    if not found:
        return ""
    facing = search.rules.unit.facing
    ahead = None if facing is None else search.rules.grid.directions.index(facing)
    best = search.preferred(goals, ahead, weights)
    if tuple(found.cells) == best.cells:
        return ""
    got, want = ([tuple(cell) for cell in cells] for cells in (found.cells, best.cells))
    return (
        f"goes {got}; of equal goals and ways {want} ({best.cost} points, {best.shunned} shunned)"
    )


def _weights(board: Board, near: tuple[tuple[Cell, int], ...]) -> dict[Cell, int]:
    """What to avoid, as far as it lies on the board."""
    return {cell: weight for cell, weight in near if cell in board.grid}


def _blocks(truth: Truth, _: str, a: Cell, b: Cell) -> str:
    """Whether obstacles that overlap hold until each of them is cleared."""
    # the reference reads the board as it is, so that the edits are made on a copy
    twin, grid = truth.board.copy(), truth.board.grid
    first, second = (
        [cell for cell in grid if grid.distance(cell, end) <= 1 and twin.unit_at(cell) is None]
        for end in (a, b)
    )
    for cells in (first, second):
        twin.block(cells)
    twin.clear(first)
    wanted = set(second) | set(truth.board.blocks())
    return (
        "" if set(twin.blocks()) == wanted else f"leaves {_few(twin.blocks())}; not {_few(wanted)}"
    )


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
    "reach": _reach, "route": _route, "goals": _goals, "blocks": _blocks, "field": _field, "areas":
    _areas, "attacks": _attacks, "sight": _sight, "view": _view, "cells": _cells,
}  # fmt: skip
KINDS = tuple(_CHECKS)
