"""Rules: the steps a unit may make, worked out one by one and as plainly as can be.

No step table, no kernel, no array: what the rules of a board and a movement say is looked up and
added in fractions, for one cell and one direction at a time.
"""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from functools import cache
from itertools import pairwise
from typing import Any, NamedTuple

from understep.boards.board import Board
from understep.boards.cost import plain
from understep.boards.site import Site
from understep.grids.cell import Cell
from understep.grids.hexes import HexGrid
from understep.moves.answer import movement_of
from understep.rules.movement import ALTERNATING


class ReferenceStep(NamedTuple):
    """A step: its direction by number (None: a link or a leap), where it leads, its points."""

    way: int | None
    cell: Cell
    price: Fraction


class ReferenceRules:
    """The steps of a unit on a board that nobody alters meanwhile."""

    def __init__(self, board: Board, name: str) -> None:
        self.board, self.grid, self.unit = board, board.grid, board.unit(name)
        #: What it moves by.
        self.moves = movement_of(self.unit)
        self.cells = list(board.grid)
        others = [unit for unit in board.units() if unit.name != name]
        #: The units in its way: those of its layer.
        self.others = [unit for unit in others if unit.layer == self.unit.layer]
        self.square = not isinstance(board.grid, HexGrid)
        #: Whether diagonal steps cost once and twice in turn.
        self.alternating = self.square and self.moves.diagonal == ALTERNATING
        foes = [each for each in self.others if each.side != self.unit.side]
        #: The cells of foes that count as closed corners.
        self.foes = {cell for foe in foes for cell in board.covered(foe)}
        self.foes = self.foes if self.moves.foe_corners else set()
        # the board stays as it is, and each is asked for thousands of times
        self.meaning, self.stands = cache(self._meaning), cache(self._stands)
        self.price, self.held = cache(self._price), self._held()
        self.steps = cache(lambda cell, dear=0: list(self._steps(cell, dear)))

    def next_dear(self, dear: int, step: ReferenceStep) -> int:
        """1 where the next diagonal step costs twice as much, after a step; else 0."""
        diagonal = step.way is not None and len(self.grid.directions[step.way]) == 2
        return dear ^ (self.alternating and diagonal)

    def capped(self, price: Fraction) -> Fraction:
        """What a step costs it, of which none may cost more than a full turn."""
        full = exactly(self.moves.points)
        return min(price, full) if self.moves.one_step and full else price

    # where it can be

    def covered(self, anchor: Cell) -> list[Cell | None]:
        """The cells it takes up there; None for one that is off the board."""
        # most units: axial coordinates are not needed
        if len(self.moves.footprint) == 1:
            return [anchor if anchor in self.grid else None]
        found = []
        for p, q in self.moves.footprint:
            if isinstance(self.grid, HexGrid):
                q0, r0 = self.grid.convert(anchor, "offset", "axial").tolist()
                cell = Cell(*self.grid.convert((q0 + p, r0 + q), "axial", "offset").tolist())
            else:
                cell = Cell(anchor.col + p, anchor.row + q)
            found.append(cell if cell in self.grid else None)
        return found

    def _price(self, cell: Cell) -> Fraction | None:
        """Points to enter a cell by a straight step over no edge; None: impassable."""
        board, side, moves = self.board, self.unit.side, self.moves
        name = board.terrain(cell)
        terrain = board.terrains[name]
        closed = board.blocked(cell) or board.blocked(cell, side=side) or side in terrain.closed_to
        if closed:
            return None
        costs: Any = moves.costs
        cost = costs.get(name, terrain.cost) if hasattr(costs, "get") else costs
        laid = set(board.features(cell))
        instead, more = [], Fraction(0)
        if self._barred(cell):
            return None
        for each in laid:
            kind = board.feature_kinds[each]
            said: Any = moves.features.get(each, kind)
            if said is not kind and said != "open":
                instead.append(exactly(said))
            elif said is kind:
                instead += [] if kind.cost is None else [exactly(kind.cost)]
                more += exactly(kind.add)
        # a bridge has a price of its own, even over what is impassable
        if instead or cost is not None:
            base: Any = min(instead) if instead else exactly(cost)
            cost = plain(base + more)
        if moves.rule is not None:
            values = {each: board.value(each, cell) for each in board.properties}
            hazard: Any = terrain.hazard
            level = float(board.elevation[self.grid.index(cell)])
            cost = moves.rule(Site(name, cost, hazard, level, values, frozenset(laid)))
        return None if cost is None or isinstance(cost, str) else exactly(cost)

    def _barred(self, cell: Cell) -> bool:
        """Whether a feature on a cell is in the way."""
        for name in self.board.features(cell):
            kind = self.board.feature_kinds[name]
            if name in self.moves.features:
                if self.moves.features[name] is None:
                    return True
            elif kind.blocks:
                return True
        return False

    def _stands(self, anchor: Cell) -> bool:
        """Whether ground and walls let it be there."""
        cells = self.covered(anchor)
        # all of it, not its anchor alone, has to have ground
        if any(cell is None or self.price(cell) is None for cell in cells):
            return False
        inside = [cell for cell in cells if cell is not None]
        pairs = [(a, b) for a in inside for b in self.grid.neighbors(a) if b in inside]
        return not any(self._edge(a, b)[0] for a, b in pairs)

    def _meaning(self, anchor: Cell) -> str:
        """The worst that units mean to it there: "blocked", "pass" or "stop"."""
        here, found = set(self.covered(anchor)), "stop"
        for other in self.others:
            if here.isdisjoint(self.board.covered(other)):
                continue
            own = other.side == self.unit.side
            passes = self.moves.passes == "all" or (own and self.moves.passes == "own")
            # in the order of the alphabet the worst comes first
            found = min(found, "pass" if passes else "blocked")
        return found

    def _held(self) -> set[Cell | None]:
        """The cells that foes hold: those next to them that no wall parts from them."""
        found: set[Cell | None] = set()
        for other in self.others:
            if other.side == self.unit.side or not getattr(other.movement, "guards", False):
                continue
            taken = self.board.covered(other)
            for cell, near in ((a, b) for a in taken for b in self.grid.neighbors(a)):
                if near not in taken:
                    ways: list[tuple[Cell, ...]] = [(cell, near)]
                    if self.square and cell.col != near.col and cell.row != near.row:
                        corners = Cell(cell.col, near.row), Cell(near.col, cell.row)
                        ways = [(cell, each, near) for each in corners if each in self.grid]
                    # around a corner a guard reaches by either way
                    if not self._walled(cell, near) and any(
                        not any(self._walled(a, b) for a, b in pairwise(way)) for way in ways
                    ):
                        found.add(near)
        return found

    def _walled(self, a: Cell, b: Cell) -> bool:
        """Whether an edge of a kind that blocks stands between two cells, an open door apart."""
        kind = self.board.edge(a, b)
        blocks = kind is not None and self.board.edge_kinds[kind].blocks
        return blocks and not self.board.is_open(a, b)

    # how it steps

    def _edge(self, a: Cell, b: Cell) -> tuple[bool, Fraction | None, Fraction]:
        """What stands between two cells: whether it blocks, points instead, points on top."""
        kind = None
        if a in self.grid and b in self.grid and not self.board.is_open(a, b):
            kind = self.board.edge(a, b)
        if kind is None:
            return False, None, Fraction(0)
        if kind in self.moves.edges:
            rule = self.moves.edges[kind]
            cost = None if rule is None or rule == "open" else exactly(rule)
            return rule is None, cost, Fraction(0)
        laid = self.board.edge_kinds[kind]
        return laid.blocks, None if laid.cost is None else exactly(laid.cost), exactly(laid.add)

    def _single(self, a: Cell, way: int, dear: int) -> Fraction | None:
        """Points of a step of one cell; None without one."""
        name = self.grid.directions[way]
        b = self.grid.step(a, name)
        price = None if b is None else self.price(b)
        if b is None or price is None:
            return None
        blocks, instead, add = self._edge(a, b)
        if blocks:
            return None
        if self.square and len(name) == 2:  # it goes round one of two corners
            ways = []
            for corner in (Cell(a.col, b.row), Cell(b.col, a.row)):
                first, second = self._edge(a, corner), self._edge(corner, b)
                ground = corner in self.grid and (
                    self.moves.corners == "free"
                    or (self.price(corner) is not None and corner not in self.foes)
                )
                ways.append(
                    first[2] + second[2] if ground and not first[0] and not second[0] else None
                )
            clear = [each for each in ways if each is not None]
            if len(clear) < (2 if self.moves.corners == "both" else 1):
                return None
            # of two ways around it takes the one whose edges add less
            add += min(clear)
            if self.moves.diagonal is None:
                return None
            diagonal: Any = 1 + dear if self.alternating else self.moves.diagonal
            price = (price if instead is None else instead) * exactly(diagonal) + add
        else:
            price = (price if instead is None else instead) + add
        rise = self._level(b) - self._level(a)
        limit = self.moves.climb if rise > 0 else self.moves.drop
        if limit is not None and abs(rise) > exactly(limit):
            return None
        return price + abs(rise) * exactly(self.moves.uphill if rise > 0 else self.moves.downhill)

    def _level(self, cell: Cell) -> Fraction:
        return thousandths(self.board.elevation[self.grid.index(cell)])

    def _legal(self, cell: Cell, dear: int) -> Iterator[ReferenceStep]:
        """Steps that ground and walls allow."""
        for way, name in enumerate(self.grid.directions):
            end = self.grid.step(cell, name)
            prices = [
                None if each is None else self._single(each, way, dear)
                for each in self.covered(cell)
            ]
            known = [price for price in prices if price is not None]
            if end is not None and len(known) == len(prices) and self.stands(end):
                # a large unit pays for its dearest cell
                yield ReferenceStep(way, end, max(known))

    def _steps(self, cell: Cell, dear: int) -> Iterator[ReferenceStep]:
        for step in self._legal(cell, dear):
            if self.meaning(step.cell) != "blocked":
                yield step
        leap, links = self.moves.leap, self.moves.links
        far = [(end, leap.price) for end in self._leaps(cell)] if leap is not None else []
        for link in self.board.links(cell):
            cost: Any = links.get(link.kind, link.cost)
            far += [] if cost is None else [(link.b, exactly(cost))]
        for end, price in far:
            if self.meaning(end) != "blocked" and self.stands(end):
                yield ReferenceStep(None, end, price)

    def _leaps(self, cell: Cell) -> Iterator[Cell]:
        """Where a leap leads: along each straight line, until something bars it."""
        leap = self.moves.leap
        for name in self.grid.directions if leap is not None else ():
            if leap is None or (self.square and len(name) == 2):
                continue
            before, between = cell, list[Fraction]()
            for _ in range(leap.over + 1):
                land = self.grid.step(before, name)
                if land is None or self._edge(before, land)[0]:
                    break
                rise = self._level(land) - self._level(cell)
                limit = leap.up if rise > 0 else leap.down
                within = limit is None or abs(rise) <= exactly(limit)
                top = max(rise, Fraction(0))
                over = all(each <= top for each in between)  # nothing higher in between
                if over and within and self.price(land) is not None:
                    yield land
                blocked = self.board.blocked(land) or self.board.blocked(land, side=self.unit.side)
                leapt = leap.terrains is None or self.board.terrain(land) in leap.terrains
                # it may land there, but not fly on over it
                if blocked or not leapt or self._barred(land):
                    break
                before = land
                between.append(rise)


def exactly(value: Any) -> Fraction:
    """A cost as it counts."""
    return Fraction(value).limit_denominator(1000)


def thousandths(value: Any) -> Fraction:
    """A level or a cover, as they count."""
    return Fraction(round(1000 * float(value)), 1000)


def alone(board: Board, name: str) -> Board:
    """A copy of a board with one unit and nobody else."""
    twin = board.copy()
    for unit in twin.units():
        if unit.name != name:
            twin.remove(unit.name)
    return twin
