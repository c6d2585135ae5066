"""A slow, obvious reference for reach and route, by exhaustion.

It shares no code with the library: adjacency comes from where cells lie in the world, and the
search visits every state (cell, turn, points lacking), waiting included, without leaving any out:
lacking 0 is nothing left, less is more left.
"""

import math
from collections import defaultdict
from fractions import Fraction
from itertools import pairwise

import networkx as nx
import numpy as np
from geometry import kind_of
from samples import FEATURES, KINDS_OF_EDGES, wade

import understep as us


def exactly(cost):
    """A cost as it counts."""
    return Fraction(cost).limit_denominator(1000)


class Reference:
    """The answer by exhaustion, for one unit and a number of turns."""

    def __init__(self, board, name, turns):
        self.board, self.unit, self.turns = board, board.unit(name), turns
        self.grid = board.grid
        movement = self.unit.movement
        self.points = exactly(movement.points)
        self.left = exactly(self.unit.left)
        self.spots = {
            tuple(round(float(part), 3) + 0.0 for part in self.grid.center(cell)): cell
            for cell in self.grid.cells
        }
        self.areas = {cell: list(self.covered(cell)) for cell in self.grid.cells}
        self.held = set(self.zone())
        self.foes = {
            other.at
            for other in self.others()
            if movement.foe_corners and other.side != self.unit.side
        }
        self.leaps = {cell: list(self._leaps(cell)) for cell in self.grid.cells}
        self.alternating = movement.diagonal == "alternating" and self.grid.kind == "square"
        self.tables = []  # the steps, then those where the next diagonal one is dear
        plain = 1 if movement.diagonal == "alternating" else movement.diagonal
        for factor in (1, 2) if self.alternating else (plain,):
            self.factor = factor
            self.singles = {cell: dict(self._singles(cell)) for cell in self.grid.cells}
            self.tables.append({cell: list(self._steps(cell)) for cell in self.grid.cells})
        self.steps = self.tables[0]
        self.states = self._explore()
        self.best = {
            cell: min(found)[:2]
            for cell, found in self.states.items()
            if self.meaning(cell) == "stop"
        }

    def waited(self, lacking):
        """What is lacking after a wait for the next turn."""
        return -self.points - min(-lacking, exactly(self.unit.movement.carry))

    def covered(self, anchor):
        """The cells it takes up there, found by where they lie; None for one off the board."""
        x, y = self.grid.center(anchor)
        tops = {"square": (90, 180), "pointy": (90, 150), "flat": (120, 180)}
        (ax, ay), (bx, by) = (
            (math.sin(math.radians(turn)), -math.cos(math.radians(turn)))
            for turn in tops[kind_of(self.grid)]
        )
        for p, q in self.unit.movement.footprint:
            there = x + p * ax + q * bx, y + p * ay + q * by
            yield self.spots.get(tuple(round(part, 3) + 0.0 for part in there))

    def others(self):
        """The units in its way: those of its layer."""
        for other in self.board.units():
            same = other.movement.layer == self.unit.movement.layer
            if other.name != self.unit.name and same:
                yield other

    def zone(self):
        """The cells that foes hold."""
        for other in self.others():
            if other.side != self.unit.side and other.movement.guards:
                for cell in self.grid.neighbors(other.at):
                    corners = [cell]
                    if not isinstance(self.grid, us.HexGrid) and 0 not in cell - np.array(other.at):
                        ways = (other.at[0], cell[1]), (cell[0], other.at[1])
                        corners = [corner for corner in ways if corner in self.grid]
                    around = [(other.at, corner, cell) for corner in corners]
                    if not self.walled(other.at, cell) and any(
                        not any(self.walled(a, b) for a, b in pairwise(way) if a != b)
                        for way in around
                    ):
                        yield cell

    def walled(self, cell, other):
        """Whether an edge of a kind that blocks stands between neighbors, an open door apart."""
        kind = self.board.edge(cell, other)
        return bool(kind and KINDS_OF_EDGES[kind].blocks and not self.board.is_open(cell, other))

    def graph(self):
        """Its steps as a directed graph, the cheaper where there are two.

        A node is a cell, and 1 where the next diagonal step is dear, else 0.
        """
        graph = nx.DiGraph()
        for dear, table in enumerate(self.tables):
            graph.add_nodes_from((cell, dear) for cell in self.grid)
            for cell in self.grid:
                for way, other, price in table[cell]:
                    if self.unit.movement.one_step and self.points:
                        price = min(price, self.points)
                    ends = (cell, dear), (other, self.after(dear, way))
                    known = graph.get_edge_data(*ends, {"weight": price})["weight"]
                    graph.add_edge(*ends, weight=min(price, known))
        return graph

    def after(self, dear, way):
        """Whether the next diagonal step is dear, after a step in a direction or by a link."""
        return dear ^ (self.alternating and way is not None and way % 2)

    def price_along(self, cells):
        """What a way over some cells costs, at least."""
        graph, paid = self.graph(), {0: 0}
        for a, b in pairwise(cells):
            steps = [(0, 0), (0, 1), (1, 0), (1, 1)]
            ends = [(p, q) for p, q in steps if p in paid and graph.has_edge((a, p), (b, q))]
            paid = {
                q: min(paid[p] + graph[a, p][b, q]["weight"] for p, other in ends if other == q)
                for q in {q for _, q in ends}
            }
        return min(paid.values())

    def meaning(self, cell):
        """The worst that any of the cells it would take up there means."""
        covered = self.areas[cell]
        found = {"stop"}
        for other in self.others():
            if other.at in covered:
                passes = self.unit.movement.passes
                mine = other.side == self.unit.side
                may = passes == "all" or (passes == "own" and mine)
                found.add("pass" if may else "blocked")
        return min(found)  # blocked, pass, stop

    def price(self, cell):
        board, unit = self.board, self.unit
        name = board.terrain(cell)
        kind = board.terrains[name]
        if cell in board.blocks() or cell in board.blocks(side=unit.side):
            return None
        if unit.side in kind.closed_to:
            return None
        cost = None if kind.cost is None else exactly(kind.cost)
        if not hasattr(unit.movement.costs, "get"):  # one for all
            cost = exactly(unit.movement.costs)
        if self.barred(cell):
            return None
        own, laid = unit.movement.features, set(board.features(cell))
        instead = [own.get(name, FEATURES[name].cost) for name in laid]
        instead = [exactly(each) for each in instead if each not in (None, "open")]
        cost = min(instead) if instead else cost
        if cost is not None:
            cost += sum(exactly(FEATURES[name].add) for name in laid if name not in own)
        if unit.movement.rule is wade:
            depth = Fraction(board.value("depth", cell))
            if depth > 1 or cost is None:
                return None
            cost += depth + (1 if kind.hazard else 0)
        return cost

    def barred(self, cell):
        """Whether a feature bars it from a cell."""
        own, laid = self.unit.movement.features, self.board.features(cell)
        return any(own[n] is None if n in own else FEATURES[n].blocks for n in laid)

    def stands(self, cell):
        """Whether ground and walls let it be there."""
        covered = self.areas[cell]
        if None in covered or any(self.price(each) is None for each in covered):
            return False
        pairs = [(a, b) for a in covered for b in covered if b in self.grid.neighbors(a)]
        return not any(self.edge(a, b)[0] for a, b in pairs)

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
        """Direction number (None: a link), anchor and cost of what its steps lead to."""
        legal = dict(self._legal(cell))
        for (way, other), price in legal.items():
            if self.meaning(other) != "blocked":
                yield way, other, price
        for other in self.grid.cells:
            if self.meaning(other) == "blocked" or not self.stands(other):
                continue
            if other in self.leaps[cell]:
                yield None, other, exactly(self.unit.movement.leap.cost)
            for link in self.board.links(cell):
                price = self.unit.movement.links.get(link.kind, link.cost)
                if link.b == other and price is not None:
                    yield None, other, exactly(price)

    def _leaps(self, cell):
        """Where it can leap to: cell by cell along each straight line, until something bars it."""
        leap, level = self.unit.movement.leap, {}
        x, y = self.grid.center(cell)
        for other in self.grid.neighbors(cell) if leap is not None else ():
            ox, oy = self.grid.center(other)
            before, between = cell, []
            if not isinstance(self.grid, us.HexGrid) and math.hypot(ox - x, oy - y) > 1.2:
                continue
            for far in range(1, leap.over + 2):
                there = tuple(
                    round(float(a + far * (b - a)), 3) + 0.0 for a, b in ((x, ox), (y, oy))
                )
                land = self.spots.get(there)
                if land is None or self.edge(before, land)[0]:
                    break
                level = {
                    each: float(self.board.elevation[self.grid.index(each)])
                    - float(self.board.elevation[self.grid.index(cell)])
                    for each in [*between, land]
                }
                rise = level.pop(land)
                within = (leap.up is None or rise <= leap.up) and (
                    leap.down is None or -rise <= leap.down
                )
                if (
                    within
                    and self.price(land) is not None
                    and max([0, *level.values()]) <= max(0, rise)
                ):
                    yield land
                board, side = self.board, self.unit.side
                open_ground = leap.terrains is None or board.terrain(land) in leap.terrains
                open_ground = open_ground and not self.barred(land)
                if not open_ground or land in board.blocks() or land in board.blocks(side=side):
                    break
                before = land
                between.append(land)

    def _legal(self, cell):
        """Steps that are legal as far as ground and walls go."""
        for other in self.grid.cells:
            way = next((way for way, near in self.singles[cell] if near == other), None)
            pairs = list(zip(self.areas[cell], self.areas[other], strict=True))
            each = [self.singles[a].get((way, b)) for a, b in pairs if a is not None]
            if len(each) == len(pairs) and None not in each and self.stands(other):
                yield (way, other), max(each)

    def arrive(self, turn, lacking, other, price):
        """Turn, points lacking and paid after a step, by points left and zones; or nothing."""
        movement = self.unit.movement
        most = self.points if movement.one_step and self.points else None
        price = price if most is None else min(price, most)
        ends = False
        if movement.zones != "ignore" and not self.held.isdisjoint(self.areas[other]):
            ends = movement.zones == "end"
            price += 0 if ends else exactly(movement.zones)
            price = price if most is None else min(price, most)
        if lacking + price <= 0 and not (ends and self.meaning(other) == "pass"):
            after = 0 if ends else lacking + price
            yield turn, after, after - lacking

    def _singles(self, cell):
        """Steps of a unit of one cell, by direction and cell, found by where the cells lie."""
        x, y = self.grid.center(cell)
        hexes = isinstance(self.grid, us.HexGrid)
        for other in self.grid.cells:
            ox, oy = self.grid.center(other)
            far = math.hypot(ox - x, oy - y)
            diagonal = not hexes and 1.2 < far < 1.6
            if not 0.5 < far < (1.6 if diagonal and len(self.grid.directions) == 8 else 1.2):
                continue
            price = self.price(other)
            if price is None:
                continue
            if diagonal:
                beside = [(cell[0], other[1]), (other[0], cell[1])]
                rule = self.unit.movement.corners
                free = [
                    side in self.grid
                    and (rule == "free" or (self.price(side) is not None and side not in self.foes))
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
            price = price if instead is None else exactly(instead)
            price = price * exactly(self.factor if diagonal else 1) + add
            price += min(adds) if diagonal else 0
            movement = self.unit.movement
            rise = Fraction(float(self.board.slope(cell, other)))
            limit = movement.climb if rise > 0 else movement.drop
            if limit is not None and abs(rise) > limit:
                continue
            price += abs(rise) * exactly(movement.uphill if rise > 0 else movement.downhill)
            names = {"N": 0, "NE": 45, "E": 90, "SE": 135, "S": 180, "SW": 225, "W": 270, "NW": 315}
            angle = math.degrees(math.atan2(ox - x, y - oy)) % 360
            gap = {
                name: min(abs(names[name] - angle), 360 - abs(names[name] - angle))
                for name in self.grid.directions
            }
            yield (self.grid.directions.index(min(gap, key=gap.get)), other), price

    def _explore(self):
        states = defaultdict(set)
        todo = [(self.unit.at, 0, -self.left, 0)]
        while todo:
            cell, turn, lacking, dear = todo.pop()
            if (turn, lacking, dear) in states[cell]:
                continue
            states[cell].add((turn, lacking, dear))
            if self.meaning(cell) == "stop" and turn + 1 < self.turns:
                todo.append((cell, turn + 1, self.waited(lacking), 0))
            for way, other, price in self.tables[dear][cell]:
                for later, after, _ in self.arrive(turn, lacking, other, price):
                    todo.append((other, later, after, self.after(dear, way)))
        return {cell: found for cell, found in states.items() if found}
