"""Search: what a unit can reach and what it costs, by trying everything."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator
from fractions import Fraction
from typing import NamedTuple

from understep.grids.cell import Cell
from understep.study._reference_rules import ReferenceRules, ReferenceStep, exactly


class State(NamedTuple):
    """Where it is, in which turn (from 0), how many points it lacks; 1 before a dear diagonal step.

    What it lacks is below 0 while points are left: less is better.
    """

    cell: Cell
    turn: int
    lacking: Fraction
    dear: int


class ReferenceRoute(NamedTuple):
    """A way: its points, its sum to avoid, its changes of direction, its steps, its cells.

    A step is its direction, or for a link or leap a number after all directions, its row and
    column.
    """

    cost: Fraction
    shunned: int
    bends: int
    steps: tuple[tuple[int, int, int], ...]
    cells: tuple[Cell, ...]


Ways = dict[State, dict[int | None, ReferenceRoute]]


class ReferenceSearch:
    """Every state that a unit can come to within some turns, waiting included."""

    def __init__(self, rules: ReferenceRules, turns: int) -> None:
        self.rules, self.turns = rules, turns
        unit, moves = rules.unit, rules.moves
        self.full, self.carry = exactly(moves.points), exactly(moves.carry)
        left = exactly(unit.left)
        self.start = State(unit.at, 0, -left, 0)
        self.states, todo = {self.start}, [self.start]
        while todo:
            # in any order: it tries all there is, and needs no shortest first
            for state in self.after(todo.pop()):
                if state not in self.states:
                    self.states.add(state)
                    todo.append(state)
        found = defaultdict(list)
        for cell, turn, lacking, _ in self.states:
            found[cell].append((turn, lacking))
        self.cells = list(found)
        self._ways: dict[int | None, Ways] = {}
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

    def arrive(self, state: State, step: ReferenceStep) -> tuple[State, Fraction] | None:
        """The state after a step, and what it paid; None: it cannot make it."""
        moves, lacking, (_, cell, price) = self.rules.moves, state.lacking, step
        price, ends = self.rules.capped(price), False
        if moves.zones != "ignore" and not self.rules.held.isdisjoint(self.rules.covered(cell)):
            # a zone takes all that would be left
            ends = moves.zones == "end"
            price += 0 if isinstance(moves.zones, str) else exactly(moves.zones)
            price = self.rules.capped(price)
        # no turn can end where the unit may only pass
        if lacking + price > 0 or (ends and self.rules.meaning(cell) == "pass"):
            return None
        after = Fraction(0) if ends else lacking + price
        dear = self.rules.next_dear(state.dear, step)
        return State(cell, state.turn, after, dear), after - lacking

    def rested(self, state: State) -> State:
        """The state after a wait for the next turn."""
        # what is lacking is below zero as long as points are left
        lacking = -self.full - min(-state.lacking, self.carry)
        return State(state.cell, state.turn + 1, lacking, 0)

    # of all routes as good the best looking

    def preferred(
        self, goals: Iterable[Cell], facing: int | None = None, avoid: dict[Cell, int] | None = None
    ) -> ReferenceRoute:
        """The best way to the best of some goals: least points, sum to avoid, changes of direction.

        Of goals that are as good the first counts, of ways the first by its steps.
        """
        ways = self.ways(facing, avoid)
        stops = [goal for goal in goals if goal in self.best]
        key, found = min(self.best[goal] for goal in stops), []
        for place, goal in enumerate(stops):
            labels = [State(goal, *key, dear) for dear in (0, 1)]
            ends = [way for label in labels for way in ways.get(label, {}).values()]
            if ends:
                best = min(ends)
                found.append((best.cost, best.shunned, place, best))
        return min(found)[3]

    def ways(self, facing: int | None = None, avoid: dict[Cell, int] | None = None) -> Ways:
        """By label and by the direction of the last step the best way to it."""
        known = self._ways.get(facing) if avoid is None else None
        if known is not None:
            return known
        weights = avoid or {}
        every: Ways = defaultdict(dict)
        every[self.start][facing] = ReferenceRoute(Fraction(0), 0, 0, (), (self.start.cell,))
        order, ways_in = self._tied()
        for label in order:
            for before, step, paid in ways_in[label]:
                for last, way in every[before].items():
                    if step is None:  # a wait changes nothing
                        every[label][last] = min(way, every[label].get(last, way))
                        continue
                    # of equal ways, steps in the order of directions, links and leaps last
                    place = (step.way, 0, 0) if step.way is not None else (99, *step.cell[::-1])
                    # a link or leap has no direction that could change
                    bends = None not in (last, step.way) and last != step.way
                    found = ReferenceRoute(
                        way.cost + paid, way.shunned + weights.get(step.cell, 0),
                        way.bends + bends, (*way.steps, place), (*way.cells, step.cell),
                    )  # fmt: skip
                    every[label][step.way] = min(found, every[label].get(step.way, found))
        if avoid is None:
            self._ways[facing] = every
        return every

    def _labels(self) -> set[State]:
        """The best state of a cell; where it cannot wait, all that none is better than."""
        found, places = set[State](), defaultdict(list)
        for state in self.states:
            places[state.cell, state.dear].append(state)
        for (cell, dear), states in places.items():
            # there it can wait for any later turn, so that the best state is enough
            if not dear and cell not in self.passing:
                found.add(min(states))
                continue
            found |= {
                state for state in states
                if not any(
                    other != state and other.turn <= state.turn and other.lacking <= state.lacking
                    for other in states
                )
            }  # fmt: skip
        return found

    def _tied(
        self,
    ) -> tuple[list[State], dict[State, list[tuple[State, ReferenceStep | None, Fraction]]]]:
        """Labels in an order, and the tied steps (None: a wait) by which each is entered.

        A step that leaves turns and points as they are counts only from a label that is one such
        step nearer to the last that did not.
        """
        labels = self._labels()
        into: dict[State, list[tuple[State, ReferenceStep | None, Fraction]]] = defaultdict(list)
        for label in labels:
            for end, step, paid in self._onward(label):
                if end in labels and end != self.start:
                    into[end].append((label, step, paid))
        hops = {
            label: 0 for label in labels
            if label == self.start or any(one[1:3] != label[1:3] for one, *_ in into[label])
        }  # fmt: skip
        rank, more = 0, set(hops)
        while more:
            more = {
                label for label in labels - set(hops)
                if any(hops.get(one) == rank for one, *_ in into[label])
            }  # fmt: skip
            rank += 1
            hops |= dict.fromkeys(more, rank)
        for label in labels:
            into[label] = [
                each for each in into[label]
                if hops[label] == (0 if each[0][1:3] != label[1:3] else hops[each[0]] + 1)
            ]  # fmt: skip
        return sorted(labels, key=lambda label: (*label[1:3], hops[label])), into

    def _onward(self, label: State) -> Iterator[tuple[State, ReferenceStep | None, Fraction]]:
        """Where a wait or a step leads from a label, perhaps after waiting where it may stop."""
        stops = self.rules.meaning(label.cell) == "stop"
        # a wait makes the next diagonal step the cheaper one again
        if stops and label.dear and label.turn + 1 < self.turns:
            yield self.rested(label), None, Fraction(0)
        last = self.turns if stops else label.turn + 1
        while label.turn < last:
            for step in self.rules.steps(label.cell, label.dear):
                arrived = self.arrive(label, step)
                if arrived is not None:
                    yield arrived[0], step, arrived[1]
            label = self.rested(label)


def costs_to(rules: ReferenceRules, goals: Iterable[Cell]) -> dict[Cell, Fraction]:
    """Least points from every cell to the nearest goal, by following steps back until none helps.

    R. Bellman, On a routing problem, Quarterly of Applied Mathematics 16 (1958).
    """
    found = {(cell, dear): Fraction(0) for cell in goals if rules.stands(cell) for dear in (0, 1)}
    layers = (0, 1) if rules.alternating else (0,)
    into = defaultdict(list)
    for cell in rules.cells:
        for dear in layers:
            for step in rules.steps(cell, dear):
                price = rules.capped(step.price)
                into[step.cell, rules.next_dear(dear, step)].append((cell, dear, price))
    todo = list(found)
    # it grows while it is gone through
    for end in todo:
        for cell, dear, price in into[end]:
            known, cost = found.get((cell, dear)), found[end] + price
            if known is None or cost < known:
                found[cell, dear] = cost
                todo.append((cell, dear))
    return {cell: cost for (cell, dear), cost in found.items() if not dear}


def leading_to(rules: ReferenceRules, goal: Cell) -> set[Cell]:
    """The cells from which any way leads to one, by going over all steps until none helps."""
    found, before = {goal}, 0
    while len(found) > before:
        before = len(found)
        for cell in rules.cells:
            if any(step.cell in found for step in rules.steps(cell)):
                found.add(cell)
    return found


def led_to(rules: ReferenceRules, start: Cell) -> set[Cell]:
    """The cells that any way leads to from one, however many points it takes."""
    found, todo = {start}, [start]
    while todo:
        ends = {step.cell for step in rules.steps(todo.pop())} - found
        found |= ends
        todo += ends
    return found
