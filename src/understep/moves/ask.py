"""Ask for a route: to a cell or the best of several, through other cells, or near enough."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from fractions import Fraction
from functools import partial
from time import perf_counter
from typing import Any, NamedTuple, cast

from understep.boards.board import Board
from understep.boards.cost import Cost, fraction, plain
from understep.boards.footprint import ONE
from understep.boards.refusal import Refusal
from understep.boards.unit import Unit
from understep.checks import real, whole
from understep.errors import InputError
from understep.grids.cell import Cell, CellLike, Cells, CellsLike, IntArray, as_cells
from understep.grids.systems import choice
from understep.moves.ahead import ahead, with_hint
from understep.moves.answer import (
    KnownTo,
    amount_of,
    any_of,
    doubtful,
    heading,
    known,
    movement_of,
    supposed,
    turn_limit,
)
from understep.moves.avoid import Avoid, weights
from understep.moves.goals import Accept, Goals, goals_of, no_goal, shut
from understep.moves.kept import kept
from understep.moves.mover import table_of
from understep.moves.no_route import as_near, no_route
from understep.moves.route import Route, Step, make_route, refused
from understep.moves.search import PLAIN, Steps, finish, search, searching
from understep.moves.search_labels import Labels, Prefer

HEAVIEST = 16
MOST_BUDGET = 1 << 30  # cells; no board has as many
PLENTY = 10**6  # points enough for any route


def route(
    board: Board,
    unit: str,
    goals: Goals,
    *,
    prefer: Prefer = "straight",
    facing: str | int | None = None,
    turns: int | None = None,
    accept: Accept = "exact",
    via: CellsLike = (),
    at: CellLike | None = None,
    left: Cost | None = None,
    avoid: Avoid | None = None,
    weight: float = 1,
    budget: int | None = None,
    known_to: KnownTo = None,
) -> Route:
    """The best route of a unit to a cell, or to the best of several.

    Best is: fewest turns, then fewest points spent in the last turn, then fewest total cost.
    What is still equal is decided by ``prefer``, and then by the grid's direction order. A*
    (Hart, Nilsson, Raphael 1968) with the grid distance times the cheapest step as estimate, links
    included.

    Parameters
    ----------
    board
        The board; it is not changed.
    unit
        The name of a unit on it.
    goals
        The cell to end on; or several, of which the one with the fewest turns is taken, then the
        fewest points in the last, the fewest in all, and the least sum to avoid; the first among
        equals. Or `within` a distance of something.
    prefer
        ``"straight"``: fewest changes of direction; ``"direct"``: closest to the straight line;
        ``"first"``: the first by direction, seen from the goal; the fastest to find.
    facing
        The direction looked in at the start, so that turning from it counts as a change; by
        default the unit's own.
    turns
        How many turns it may take, the present one included; None: any number.
    accept
        ``"exact"``: nothing but the goal will do; ``"adjacent"``: a cell next to it, to talk or to
        fight; ``"nearest"``: where a cell of the unit is nearest to it, if it cannot get there.
    via
        Cells to pass in order on the way, and to be able to stop on. Turns, and points in the last
        one, are the fewest for the whole route; total cost are the fewest for each piece.
    at, left
        A cell to suppose it stood on, and points to suppose it had left.
    avoid
        Weights of cells, 0 or more, to a thousandth: a mapping, an array ``(rows, cols)``, or
        ``"hazard"`` for that of the terrain. Of equally good routes one with the least sum is
        taken, before ``prefer`` decides; it never costs a point more for that.
    weight
        How much more than its worth the estimate counts, from 1 to 16, to the sixteenth (weighted
        A*, Pohl 1970). More than 1 is faster, and the route may be worse; `Route.bound` says by
        what factor at most. ``prefer`` and ``avoid`` do not count then.
    budget
        After so many cells it pauses: the route is falsy and ``paused``, and its `resume` goes on,
        with the same answer in the end. None: it does not pause.
    known_to
        The side whose knowledge counts; by default the unit's own, if it keeps any (`fog`). False:
        the truth.

    Returns
    -------
    Route
        False in a condition without a route; then ``why``, ``blockers`` and ``nearest`` tell.

    Raises
    ------
    NameUnknownError
        No such unit, a side that keeps no knowledge, or an unknown word for ``prefer``,
        ``facing`` or ``accept``.
    CellError
        A value that is not a cell, or a cell of ``via`` or ``avoid`` off the board. (Without a goal
        on the board the answer is false.)
    InputError
        ``turns`` is not a whole number of 1 or more, ``goals`` is empty, or ``weight`` out of range
        or given with ``via``.
    CostError
        Points, costs or weights that cannot be, or are too large to count exactly.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.SquareGrid(7, 5), {"turf": 1, "ruin": None})
    >>> board.paint("ruin", [(3, row) for row in range(4)])
    >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=6)), at=(1, 1))
    >>> route = us.route(board, "scout", goals=(5, 1))
    >>> route.cost, route.turns, list(map(tuple, route.stops))
    (10, 2, [(4, 4), (5, 1)])
    >>> bool(us.route(board, "scout", goals=(3, 1))), us.route(board, "scout", goals=(3, 1)).why
    (False, "'ruin' at (3, 1) is impassable for 'scout'")
    >>> tuple(us.route(board, "scout", goals=(3, 1), accept="adjacent").goal)
    (2, 1)
    """
    # a paused route asks all of it again where the board has changed meanwhile
    asked = partial(
        route, board, unit, goals, prefer=prefer, facing=facing, turns=turns, accept=accept,
        via=via, at=at, left=left, avoid=avoid, weight=weight, budget=budget, known_to=known_to,
    )  # fmt: skip
    board = known(board, unit, known_to)
    who, start = supposed(board.unit(unit), at, left, board)
    choice(prefer, Prefer, "prefer")
    turns = turn_limit(turns)
    budget = None if budget is None else min(whole("budget", budget, 1), MOST_BUDGET)
    ask = _RouteQuestion(
        board, who, start, prefer, heading(board, who, facing), turns, weights(board, avoid),
        sixteenths(weight), budget,
    )  # fmt: skip
    cells = goals_of(board, who, goals, accept)
    stages = [[cell] for cell in as_cells(via, "via")]
    for (cell,) in stages:
        board.grid.numbering.require(cell, "via")
    # a piece that is not the best would spoil those after it
    if stages and ask.weight > PLAIN:
        raise InputError("weight", "must be 1 for a route through cells", weight)
    if not cells:
        return replace(finish(ask.route(cells, accept)), why=no_goal(board, goals))
    going = _by_way_of(ask, stages, cells, accept) if stages else ask.route(cells, accept)
    going = _doubted(going, doubtful(board, who, start))
    return advanced(board, who, cells[0], going, asked)


def _doubted(going: Steps[Route], doubt: str) -> Steps[Route]:
    """A route from where the unit could not stand."""
    found = yield from going
    return replace(found, doubt=doubt) if doubt else found


class _RouteQuestion(NamedTuple):
    """A route that is asked for, but for its goals."""

    board: Board
    unit: Unit
    start: Cell | None
    prefer: Prefer
    facing: int
    turns: int | None
    avoid: IntArray | None
    weight: int
    budget: int | None

    def route(self, cells: list[Cell], accept: Accept) -> Steps[Route]:
        """The route to the best of some cells."""
        began = perf_counter()
        board, grid = self.board, self.board.grid
        home = self.start or self.unit.at
        # goals where it could not stop need no search to tell so
        closed = shut(board, self.unit, home, cells)
        going = [cell for cell in cells if cell not in closed]
        # where the areas are known, no search has to run through all of one
        if going and accept != "nearest" and self._parted(home, going, known=True):
            return replace(self._elsewhere(cells, going[0], home, began), refusals=closed)
        # where no goal will do, a cell beside one is as near as it can get
        beside = self._beside(cells) if not going else []
        numbers = [grid.numbering.number(cell) for cell in going or beside]
        labels = yield from searching(
            board,
            self.unit,
            self.budget,
            goals=numbers or None,
            turns=self.turns,
            start=self.start,
            weight=self.weight if going else PLAIN,
        )
        if not going or labels.found < 0:
            if accept == "nearest":
                return (yield from self._nearest(cells, labels, closed))
            if going and self._parted(home, going, known=False):
                found = self._elsewhere(cells, going[0], home, began)
                return replace(found, expanded=labels.expanded, refusals=closed)
            # from the likeliest reason to the rarest; each costs another search
            late = (yield from self._late(going)) if going else ""
            dear = (yield from self._dear(numbers)) if going and not late else ""
            found = no_route(self.unit, labels, cells, closed, late or dear)
        else:
            goal = grid.numbering.cell_of(labels.goal(numbers, self.avoid))
            return self._read(labels, goal, seconds=perf_counter() - began, refusals=closed)
        took = perf_counter() - began
        return replace(found, expanded=labels.expanded, seconds=took, bound=labels.bound())

    def _beside(self, cells: list[Cell]) -> list[Cell]:
        # what is beside a large unit is no matter of one cell
        one = self.unit.movement.footprint == ONE
        near = (each for cell in cells for each in self.board.grid.neighbors(cell))
        return list(dict.fromkeys(near)) if one else []

    def _parted(self, home: Cell, cells: list[Cell], known: bool) -> bool:
        from understep.moves.areas import parted  # at first use, to keep the import light

        rules = movement_of(self.unit)
        return bool(cells) and parted(self.board, rules, self.unit.side, home, cells, known)

    def _elsewhere(self, cells: list[Cell], goal: Cell, home: Cell, began: float) -> Route:
        """No route, as ground and walls part the start from all goals; ``goal``: one not taken."""
        why = f"no route leads over the terrain from {tuple(home)} to {any_of(cells)}"
        hint = ahead(self.board, self.unit, home, goal, self._leads(home))
        refusal = with_hint(why, hint)

        def nearest() -> Cell:
            labels = search(self.board, self.unit, turns=self.turns, start=self.start)
            return no_route(self.unit, labels, cells, {}).nearest

        took = perf_counter() - began
        return refused(
            self.board, self.unit, cells[0], refusal.why, refusal.blockers, nearest, seconds=took
        )

    def _leads(self, home: Cell) -> Callable[[Cell], bool]:
        """Whether a cell can be got to if nobody is in the way."""
        from understep.moves.areas import areas

        found = areas(self.board, movement_of(self.unit), side=self.unit.side)
        # looked up once: the straight line asks for many cells
        onward = found._reached([found[home]])
        return lambda cell: found[cell] is not None and bool(onward[found[cell]])

    def _late(self, cells: list[Cell]) -> Steps[str]:
        """That more turns would do, if they would."""
        if self.turns is None:
            return ""
        # only how many turns it takes is asked for, which is the same of all tied routes
        ever = yield from self._replace(turns=None, prefer="first").route(cells, "exact")
        needs = ever.turns
        what = str(tuple(cells[0])) if len(cells) == 1 else "any of the goals"
        return f"it takes {needs} turns to {what}, and {self.turns} are allowed" if needs else ""

    def _dear(self, numbers: list[int]) -> Steps[str]:
        """That a step takes more than a full turn's points, if all else would let the unit pass."""
        rules = movement_of(self.unit)
        most = fraction(rules.points) + fraction(rules.carry)
        table = table_of(self.board, self.unit)
        # no step can be too dear
        if table.dearest <= most * table.scale:
            return ""
        # with points enough, is there a way at all, and which step is too dear?
        rich = self.unit.changed(left=Fraction(PLENTY))
        labels = yield from searching(
            self.board, rich, self.budget, goals=numbers, turns=1, start=self.start
        )
        # in a zone a step takes all that is left, however much
        if labels.found < 0 or rules.zones == "end":
            return ""
        goal = self.board.grid.numbering.cell_of(labels.found)
        found = make_route(rich, self.board.state, labels, goal, "first", -1)
        step = next((step for step in found.steps if fraction(step.cost) > most), None)
        if step is None:
            return ""
        takes = amount_of(fraction(step.cost))
        return f"the step to {tuple(step.cell)} takes {takes}, a turn has {plain(most):g}"

    def _nearest(
        self, cells: list[Cell], labels: Labels, closed: dict[Cell, Refusal]
    ) -> Steps[Route]:
        """The route to the cell nearest to some that cannot be reached."""
        refused = no_route(self.unit, labels, cells, closed)
        home = self.board.grid.numbering.cell_of(labels.home)
        # which of equally near cells is best takes their weights to tell
        equal = as_near(self.unit, labels, cells or [home])[: 1 if self.avoid is None else None]
        if len(equal) == 1:  # the ways there are known already
            found = self._read(labels, equal[0])
        else:
            found = yield from self.route(equal, "exact")
        return replace(found, shortfall=refused.why, refusals=closed)

    def _read(self, labels: Labels, goal: Cell, **facts: Any) -> Route:
        """The route to a cell, read off what a search has found."""
        # of a weighted search not all ties are known: there is nothing to prefer
        exact = self.weight == PLAIN
        return make_route(
            self.unit, self.board.state, labels, goal, self.prefer if exact else "first",
            self.facing, self.avoid if exact else None, expanded=labels.expanded,
            bound=labels.bound(), **facts,
        )  # fmt: skip


def advanced(
    board: Board, unit: Unit, goal: Cell, going: Steps[Route], asked: Callable[[], Route]
) -> Route:
    """A route as far as its budget goes: the answer, or a paused one that can be resumed."""
    try:
        next(going)
    except StopIteration as end:
        return cast(Route, end.value)

    # counted, as an undo brings a state back and leaves other layers
    writes = kept(board).writes

    def resume() -> Route:
        # what was searched may be wrong now, and its layers others even where all was undone
        if kept(board).writes != writes:
            return asked()
        return advanced(board, unit, goal, going, asked)

    why = "the search is paused: resume() goes on"
    return refused(board, unit, goal, why, (), lambda: unit.at, _resume=resume)


def sixteenths(weight: float) -> int:
    """A weight in sixteenths, rounded down."""
    rule = f"must be a number from 1 to {HEAVIEST}"
    return int(real("weight", weight, rule, 1, HEAVIEST) * PLAIN)


def _by_way_of(
    ask: _RouteQuestion, stages: list[list[Cell]], cells: list[Cell], accept: Accept
) -> Steps[Route]:
    """A route in pieces, each from where the last one ended, with the points it had left.

    Getting to each cell in the fewest turns, and then points, is best for the whole: what is left
    over can only help, as it may wait there.
    """
    pieces: list[Route] = []
    turn = 1
    for stage in [*stages, cells]:
        # the turns that the pieces before it have left
        limit = None if ask.turns is None else ask.turns - turn + 1
        how = accept if stage is cells else "exact"
        piece = yield from ask._replace(turns=limit).route(stage, how)
        if not piece:
            # which piece it is that fails
            where = f" (from {tuple(pieces[-1].goal)})" if pieces else ""
            return replace(piece, why=piece.why + where)
        pieces.append(piece)
        if piece.steps:
            last = piece.steps[-1]
            # the next piece begins in the turn in which this one ends
            turn += last.turn - 1
            unit = ask.unit.changed(left=last.left)
            # a link or a leap leaves it looking nowhere
            way = -1 if last.direction is None else ask.board.grid.lattice.way(last.direction)
            # so that a turn at the joint counts as one
            ask = ask._replace(unit=unit, start=piece.goal, facing=way)
    return joined(pieces)


def joined(pieces: list[Route]) -> Route:
    """Several pieces as one route."""
    steps: list[Step] = []
    cells = [pieces[0].cells[0]]
    for piece in pieces:
        # a piece counts its turns from its own first
        before = steps[-1].turn - 1 if steps else 0
        steps += [step._replace(turn=step.turn + before) for step in piece.steps]
        cells += list(piece.cells)[1:]
    done = tuple(steps)
    total = sum((fraction(piece.cost or 0) for piece in pieces), Fraction(0))
    return replace(
        pieces[-1],
        unit=pieces[0].unit,
        cells=Cells(cells),
        cost=plain(total),
        turns=steps[-1].turn if steps else 1,
        expanded=sum(piece.expanded for piece in pieces),
        seconds=sum(piece.seconds for piece in pieces),
        _steps=lambda: done,
    )
