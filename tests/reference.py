"""A slow, obvious reference for reach and route, and random boards to try both on.

It shares no code with the library: adjacency comes from where cells lie in the world, and the
search visits every state (cell, turn, points spent), waiting included, without leaving any out.
"""

import math
from collections import defaultdict
from fractions import Fraction
from itertools import pairwise

from geometry import KINDS, grids
from hypothesis import strategies as st

import understep as us

KINDS_OF_EDGES = {
    "wall": us.Edge(blocks=True, hides=True),
    "road": us.Edge(cost=0.5),
    "ditch": us.Edge(add=1),
    "door": us.Edge(blocks=True, door=True),
}
COSTS = [1, 2, 3, 1, 2, None, 0.5, 1.5, 0.1, 0]


@st.composite
def boards(draw, cells=30, kinds=KINDS, free_steps=True, frame=None):
    """A board with a unit named "a", and the unit's place."""
    grid = draw(grids(cells, kinds, frame))
    choice = COSTS if free_steps else COSTS[:-1]
    costs = draw(st.lists(st.sampled_from(choice), min_size=2, max_size=4))
    names = [f"t{i}" for i in range(len(costs))]
    terrain = {"turf": 1, **dict(zip(names, costs, strict=True))}
    board = us.Board(grid, terrain, edges=KINDS_OF_EDGES)
    every = list(grid.cells)
    many = len(every)
    picks = draw(st.lists(st.integers(0, 2 * len(names)), min_size=many, max_size=many))
    for cell, pick in zip(every, picks, strict=True):
        if pick < len(names):
            board.paint(names[pick], cell)
    for kind in draw(st.lists(st.sampled_from(list(KINDS_OF_EDGES)), max_size=len(every))):
        cell = draw(st.sampled_from(every))
        for other in list(grid.neighbors(cell))[: draw(st.integers(1, 3))]:
            board.set_edge(cell, other, kind, both=draw(st.integers(0, 3)) > 0)
            if kind == "door" and draw(st.booleans()):
                board.open_edge(cell, other)
    movement = us.Movement(
        points=draw(st.sampled_from([0, 1, 2, 3, 4, 5.5, 8])),
        diagonal=draw(st.sampled_from([1, 1.5, 1.414])),
        corners=draw(st.sampled_from(["free", "one", "both"])),
        passes=draw(st.sampled_from(["own", "own", "none", "all"])),
        edges=draw(st.sampled_from([{}, {"wall": "open"}, {"ditch": None, "road": 2}])),
    )
    left = draw(st.sampled_from([None, None, 0, 1, 2.5, 9]))
    facing = draw(st.sampled_from([None, *grid.directions]))
    places = draw(st.lists(st.sampled_from(every), min_size=1, max_size=8, unique=True))
    board.paint("turf", places[0])
    board.add(us.Unit("a", "ours", movement, left, facing), at=places[0])
    everywhere = us.Movement(points=1, costs=dict.fromkeys(names, 1))
    for number, place in enumerate(places[1:]):
        side = draw(st.sampled_from(["ours", "ours", "theirs"]))
        board.add(us.Unit(f"u{number}", side, everywhere), at=place)
    return board


class Reference:
    """The answer by exhaustion, for one unit and a number of turns."""

    def __init__(self, board, name, turns):
        self.board, self.unit, self.turns = board, board.unit(name), turns
        self.grid = board.grid
        movement = self.unit.movement
        self.points = Fraction(movement.points)
        self.left = self.points if self.unit.left is None else Fraction(self.unit.left)
        self.steps = {cell: list(self._steps(cell)) for cell in self.grid.cells}
        self.states = self._explore()
        self.best = {
            cell: min(found) for cell, found in self.states.items() if self.meaning(cell) == "stop"
        }

    def budget(self, turn):
        return self.points if turn else self.left

    def meaning(self, cell):
        other = self.board.unit_at(cell)
        if other is None or other.name == self.unit.name:
            return "stop"
        passes = self.unit.movement.passes
        mine = other.side == self.unit.side
        return "pass" if passes == "all" or (passes == "own" and mine) else "blocked"

    def price(self, cell):
        name = self.board.terrain(cell)
        cost = self.board.terrains[name].cost
        return None if cost is None else Fraction(cost)

    def edge(self, cell, other):
        """Whether the edge on the way blocks, its cost instead, its cost on top."""
        kind = None
        exist = cell in self.grid and other in self.grid
        if exist and not self.board.is_open(cell, other):
            kind = self.board.edge(cell, other)
        if kind is None:
            return False, None, 0
        rule = self.unit.movement.edges.get(kind, kind)
        if rule == kind:
            found = KINDS_OF_EDGES[kind]
            return found.blocks, found.cost, found.add
        return rule is None, None if rule == "open" else rule, 0

    def _steps(self, cell):
        """Cells next to a cell with direction number and cost, found by where they lie."""
        x, y = self.grid.center(cell)
        hexes = isinstance(self.grid, us.HexGrid)
        for other in self.grid.cells:
            ox, oy = self.grid.center(other)
            far = math.hypot(ox - x, oy - y)
            diagonal = not hexes and 1.2 < far < 1.6
            if not 0.5 < far < (1.6 if diagonal and len(self.grid.directions) == 8 else 1.2):
                continue
            price = self.price(other)
            if price is None or self.meaning(other) == "blocked":
                continue
            if diagonal:
                beside = [(cell[0], other[1]), (other[0], cell[1])]
                rule = self.unit.movement.corners
                free = [
                    side in self.grid and (rule == "free" or self.price(side) is not None)
                    for side in beside
                ]
                adds = []
                for number, side in enumerate(beside):
                    first, second = self.edge(cell, side), self.edge(side, other)
                    free[number] = free[number] and not (first[0] or second[0])
                    adds += [first[2] + second[2]] if free[number] else []
                if not (all(free) if rule == "both" else any(free)):
                    continue
            blocks, instead, add = self.edge(cell, other)
            if blocks:
                continue
            price = price if instead is None else Fraction(instead)
            price = price * Fraction(self.unit.movement.diagonal if diagonal else 1) + add
            price += min(adds) if diagonal else 0
            names = {"N": 0, "NE": 45, "E": 90, "SE": 135, "S": 180, "SW": 225, "W": 270, "NW": 315}
            angle = math.degrees(math.atan2(ox - x, y - oy)) % 360
            gap = {
                name: min(abs(names[name] - angle), 360 - abs(names[name] - angle))
                for name in self.grid.directions
            }
            yield self.grid.directions.index(min(gap, key=gap.get)), other, price

    def _explore(self):
        states = defaultdict(set)
        todo = [(self.unit.at, 0, Fraction(0))]
        while todo:
            cell, turn, spent = todo.pop()
            if (turn, spent) in states[cell]:
                continue
            states[cell].add((turn, spent))
            if self.meaning(cell) == "stop" and turn + 1 < self.turns:
                todo.append((cell, turn + 1, Fraction(0)))
            for _, other, price in self.steps[cell]:
                if spent + price <= self.budget(turn):
                    todo.append((other, turn, spent + price))
        return {cell: found for cell, found in states.items() if found}

    def labels(self):
        """The best state per stopping cell, the undominated ones per cell only passed."""
        found = set()
        for cell, states in self.states.items():
            if self.meaning(cell) == "stop":
                found.add((cell, *self.best[cell]))
                continue
            for turn, spent in states:
                left = self.budget(turn) - spent
                if not any(
                    (t, s) != (turn, spent) and t <= turn and self.budget(t) - s >= left
                    for t, s in states
                ):
                    found.add((cell, turn, spent))
        return found

    def tied(self, limit=4000):
        """For every label its tied ways in: (label before, direction, cost)."""
        labels = self.labels()
        into = defaultdict(list)
        by_cell = defaultdict(list)
        for label in labels:
            by_cell[label[0]].append(label)
        for cell, turn, spent in labels:
            for way, other, price in self.steps[cell]:
                for after in by_cell[other]:
                    same = after[1] == turn and after[2] == spent + price
                    waits = self.meaning(cell) == "stop"
                    later = waits and after[1] == turn + 1 and after[2] == price
                    if same or later:
                        into[after].append(((cell, turn, spent), way, price))
        start = (self.unit.at, 0, Fraction(0))
        into[start] = []
        hops = {label: 0 for label in labels if label == start or any(p for *_, p in into[label])}
        rank = 0
        while True:
            more = {
                label
                for label in labels - set(hops)
                if any(hops.get(before) == rank and not p for before, _, p in into[label])
            }
            if not more and rank > len(labels):
                break
            rank += 1
            hops.update(dict.fromkeys(more, rank))
        return {
            label: [
                (before, way, price)
                for before, way, price in into[label]
                if hops[label] == (0 if price else hops[before] + 1)
            ]
            for label in labels
        }

    def tied_routes(self, goal, limit=3000):
        """All tied routes to a cell, as (cells, directions, cost); None if there are too many."""
        into = self.tied()
        done, todo = [], [((goal, *self.best[goal]), (goal,), (), Fraction(0))]
        while todo:
            label, cells, ways, cost = todo.pop()
            if not into[label]:
                done.append((cells, ways, cost))
            for before, way, price in into[label]:
                todo.append((before, (before[0], *cells), (way, *ways), cost + price))
            if len(done) + len(todo) > limit:
                return None
        return done


def bends(ways, facing):
    """Changes of direction, the first turn from the facing included."""
    ways = ways if facing is None else (facing, *ways)
    return sum(a != b for a, b in pairwise(ways))
