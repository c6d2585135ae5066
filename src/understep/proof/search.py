"""Search: what a unit can reach and what it costs, by trying everything."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator
from fractions import Fraction
from typing import NamedTuple

from understep.grids.cell import Cell
from understep.moves.answer import home
from understep.proof.rules import Rules, Step


class State(NamedTuple):
    """Where it is, in which turn (from 0), how many points it lacks; 1 before a dear diagonal step.

    What it lacks is below 0 while points are left: less is better.
    """

    cell: Cell
    turn: int
    lacking: Fraction
    dear: int


class Way(NamedTuple):
    """A way: its points, its changes of direction, its directions, its cells."""

    cost: Fraction
    bends: int
    ways: tuple[int, ...]
    cells: tuple[Cell, ...]


class Search:
    """Every state that a unit can come to within some turns, waiting included."""

    def __init__(self, rules: Rules, turns: int) -> None:
        self.rules, self.turns = rules, turns
        unit, moves = rules.unit, rules.moves
        self.full, self.carry = Fraction(moves.points), Fraction(moves.carry)
        left = self.full if unit.left is None else Fraction(unit.left)
        self.start = State(home(unit), 0, -left, 0)
        self.states, todo = {self.start}, [self.start]
        while todo:
            for state in self.after(todo.pop()):
                if state not in self.states:
                    self.states.add(state)
                    todo.append(state)
        found = defaultdict(list)
        for cell, turn, lacking, _ in self.states:
            found[cell].append((turn, lacking))
        self.cells = list(found)
        #: By cell where it may stop: the first turn, and the least lacking in it.
        self.best = {
            cell: min(every) for cell, every in found.items() if rules.meaning(cell) == "stop"
        }
        #: The cells it can only pass.
        self.passing = {cell for cell in found if rules.meaning(cell) == "pass"}

    def after(self, state: State) -> Iterator[State]:
        """What a step or a wait can lead to."""
        if self.rules.meaning(state.cell) == "stop" and state.turn + 1 < self.turns:
            yield self.rested(state)
        for step in self.rules.steps(state.cell, state.dear):
            arrived = self.arrive(state, step)
            if arrived is not None:
                yield arrived[0]

    def arrive(self, state: State, step: Step) -> tuple[State, Fraction] | None:
        """The state after a step, and what it paid; None: it cannot make it."""
        moves, lacking, (_, cell, price) = self.rules.moves, state.lacking, step
        most = self.full if moves.one_step and self.full else None
        price = price if most is None else min(price, most)
        ends = False
        if moves.zones != "ignore" and not self.rules.held.isdisjoint(self.rules.covered(cell)):
            ends = moves.zones == "end"
            price += 0 if isinstance(moves.zones, str) else Fraction(moves.zones)
            price = price if most is None else min(price, most)
        if lacking + price > 0 or (ends and self.rules.meaning(cell) == "pass"):
            return None
        after = Fraction(0) if ends else lacking + price
        dear = self.rules.next_dear(state.dear, step)
        return State(cell, state.turn, after, dear), after - lacking

    def rested(self, state: State) -> State:
        """The state after a wait for the next turn."""
        lacking = -self.full - min(-state.lacking, self.carry)
        return State(state.cell, state.turn + 1, lacking, 0)

    # of all ways as good the one that looks best

    def preferred(self, goal: Cell, facing: int | None) -> Way:
        """Of the ways to a cell that are as good, that of least points, then of fewest bends.

        Then the first by its directions. For movements whose every step costs something, without
        links, leaps and alternating diagonals.
        """
        labels = self._labels()
        every: dict[State, dict[int | None, Way]] = defaultdict(dict)
        every[self.start][facing] = Way(Fraction(0), 0, (), (self.start.cell,))
        for label in sorted(labels, key=lambda label: label[1:3]):
            for end, way, paid in self._tight(label, labels):
                for before, (cost, bends, ways, cells) in every[label].items():
                    bends += before is not None and before != way
                    found = Way(cost + paid, bends, (*ways, way), (*cells, end.cell))
                    every[end][way] = min(found, every[end].get(way, found))
        return min(every[State(goal, *self.best[goal], 0)].values())

    def _labels(self) -> set[State]:
        """The best state of a cell; where it can only pass, all that none is better than."""
        found = {State(cell, *best, 0) for cell, best in self.best.items()}
        for state in self.states:
            _, turn, lacking, _ = state
            better = (
                other != state and other.turn <= turn and other.lacking <= lacking
                for other in self.states if other.cell == state.cell
            )  # fmt: skip
            if state.cell in self.passing and not any(better):
                found.add(state)
        return found

    def _tight(self, label: State, labels: set[State]) -> Iterator[tuple[State, int, Fraction]]:
        """Where steps from a label lead to a label, perhaps after waiting."""
        last = self.turns if self.rules.meaning(label.cell) == "stop" else label.turn + 1
        while label.turn < last:
            for step in self.rules.steps(label.cell, 0):
                arrived = self.arrive(label, step)
                if arrived is not None and arrived[0] in labels and step.way is not None:
                    yield arrived[0], step.way, arrived[1]
            label = self.rested(label)


def costs_to(rules: Rules, goals: Iterable[Cell]) -> dict[Cell, Fraction]:
    """Least points from every cell to the nearest goal, by going over all steps until none helps.

    R. Bellman, On a routing problem, Quarterly of Applied Mathematics 16 (1958).
    """
    found = {(cell, dear): Fraction(0) for cell in goals if rules.stands(cell) for dear in (0, 1)}
    changed = True
    while changed:
        changed = False
        for cell in rules.cells:
            for dear in (0, 1):
                for step in rules.steps(cell, dear):
                    rest = found.get((step.cell, rules.next_dear(dear, step)))
                    known = found.get((cell, dear))
                    if rest is not None and (known is None or rest + step.price < known):
                        found[cell, dear] = rest + step.price
                        changed = True
    return {cell: cost for (cell, dear), cost in found.items() if not dear}


def leading_to(rules: Rules, goal: Cell) -> set[Cell]:
    """The cells from which any way leads to one, by going over all steps until none helps."""
    found, before = {goal}, 0
    while len(found) > before:
        before = len(found)
        for cell in rules.cells:
            if any(step.cell in found for step in rules.steps(cell)):
                found.add(cell)
    return found


def led_to(rules: Rules, start: Cell) -> set[Cell]:
    """The cells that any way leads to from one, however many points it takes."""
    found, todo = {start}, [start]
    while todo:
        ends = {step.cell for step in rules.steps(todo.pop())} - found
        found |= ends
        todo += ends
    return found
