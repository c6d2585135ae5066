"""Prospects: for each unit of a side every cell it could end on, and what that would mean."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from functools import cached_property
from typing import Any, NamedTuple, overload

import numpy as np
from numpy.typing import NDArray

from understep.actions.attacks import Attacks, rows_struck
from understep.actions.band import rows_of
from understep.actions.exposure import Exposure
from understep.boards.attack import Attack
from understep.boards.board import Board
from understep.boards.footprint import feet
from understep.boards.unit import Unit
from understep.checks import items, named
from understep.errors import InputError
from understep.grids.cell import Cell, Cells, CellsLike, IntArray
from understep.grids.lattice import FloatArray
from understep.kernels import loader
from understep.kernels.loader import blank, view
from understep.moves.answer import Answer, KnownTo, cannot_stop, known, mine
from understep.moves.field import field
from understep.moves.reach import Column, Reach, reach
from understep.overlay import Mark, Overlay, plain_facts
from understep.sight.look import HALF, look_of
from understep.sight.view import seen, seen_from

BoolArray = NDArray[np.bool_]


class Prospect(NamedTuple):
    """A cell that a unit could end on.

    Attributes
    ----------
    unit
        The name of the unit.
    cell
        The cell of its anchor.
    cost, left, turn
        The points to get there, those left then, and the turn; NaN, NaN and 0 where it cannot.
    foes
        The names of the foes that could attack it there in their next turn.
    targets
        The names of the units that it could attack from there.
    """

    unit: str
    cell: Cell
    cost: float
    left: float
    turn: int
    foes: tuple[str, ...]
    targets: tuple[str, ...]

    @property
    def why(self) -> str:
        """Empty: it is not a refusal."""
        return ""


class _Part(NamedTuple):
    """The rows of one unit: cells by number, and how it gets there.

    Attributes
    ----------
    places
        Of cells that were given, where each is among those of the reach; -1: it cannot get there.
    """

    unit: Unit
    reach: Reach
    numbers: IntArray
    places: IntArray | None = None

    def figures(self, column: Column) -> FloatArray:
        """One figure for every row; NaN where it cannot get there."""
        found = self.reach._figures(column)
        return found if self.places is None else np.append(found, np.nan)[self.places]


class Prospects(Answer, Sequence[Prospect]):
    """Where each unit of a side could end, as arrays of a row for each; made by `prospects`.

    Rows are in the order of the units, and of one unit nearest first. What is not asked for costs
    nothing. Everything is as it was when it was made; the board can go on.

    Attributes
    ----------
    units : tuple of str
        The names of the units that there are rows of.
    names : tuple of str
        The names of all units that the side knows of: the columns of `exposed` and `targets`.
    """

    def __init__(
        self, board: Board, copy: Board, side: str, foes: Exposure, parts: Iterable[_Part]
    ) -> None:
        self._of(board)
        self._copy, self._parts, self.side = copy, tuple(parts), side
        self._foes = foes
        self.unit, self.why, self.blockers = None, "", ()
        self.units = tuple(part.unit.name for part in self._parts)
        self.names = tuple(unit.name for unit in copy.units())

    def __repr__(self) -> str:
        return f"<Prospects of the {self.side}: {len(self.units)} units, {len(self)} cells>"

    def __len__(self) -> int:
        return sum(len(part.numbers) for part in self._parts)

    def _each(self, ask: Callable[[_Part], Any], empty: Any) -> Any:
        """A column of the answers for every unit."""
        return np.concatenate([empty, *map(ask, self._parts)])

    @cached_property
    def owner(self) -> IntArray:
        """Whose each row is: a place in `units`, ``(n,)`` int64."""
        counts = [len(part.numbers) for part in self._parts]
        found: IntArray = np.repeat(np.arange(len(counts)), counts)
        return found

    @cached_property
    def cells(self) -> Cells:
        """The cell of each row; of large units that of the anchor."""
        return self._board.grid.numbering.cells(self._numbers)

    @cached_property
    def _numbers(self) -> IntArray:
        found: IntArray = self._each(lambda part: part.numbers, np.zeros(0, dtype=np.int64))
        return found

    @cached_property
    def cost(self) -> FloatArray:
        """The points to get there, ``(n,)`` float64; NaN where it cannot."""
        found: FloatArray = self._each(lambda part: part.figures("cost"), np.zeros(0))
        return found

    @cached_property
    def left(self) -> FloatArray:
        """The points left then, ``(n,)`` float64; NaN where it cannot get there."""
        found: FloatArray = self._each(lambda part: part.figures("left"), np.zeros(0))
        return found

    @cached_property
    def turn(self) -> IntArray:
        """The turn in which it gets there, ``(n,)`` int64, the present one 1; 0 where it cannot."""
        turns = self._each(lambda part: part.figures("turn"), np.zeros(0))
        found: IntArray = np.nan_to_num(turns).astype(np.int64)
        return found

    @cached_property
    def exposed(self) -> BoolArray:
        """Who could attack it there in their next turn, ``(n, names)`` bool.

        As `threats` says after it was put there: it is in their way there, and not where it is now.
        """
        parts = [(part.unit, part.numbers) for part in self._parts]
        found = np.zeros((len(self), len(self.names)), dtype=bool)
        # who cannot attack has a column, too: of targets it may be one
        columns = [self.names.index(foe.name) for foe in self._foes.foes]
        found[:, columns] = self._foes.of(parts)
        return found

    @property
    def exposure(self) -> IntArray:
        """How many foes could attack it there, ``(n,)`` int64."""
        found: IntArray = self.exposed.sum(axis=1)
        return found

    @cached_property
    def targets(self) -> BoolArray:
        """Whom it could attack from there, without moving on, ``(n, names)`` bool."""
        made: BoolArray = self._each(self._targets, np.zeros((0, len(self.names)), dtype=bool))
        return made

    def _targets(self, part: _Part) -> BoolArray:
        unit, attack = part.unit, part.unit.attack
        found = np.zeros((len(part.numbers), len(self.names)), dtype=np.uint8)
        if attack is None or not len(part.numbers):
            return found.view(bool)
        # an attack on itself goes with it from cell to cell
        itself = attack.low == 0 and attack._meets(own=True)
        rows = None if itself else rows_struck(self._copy, unit, part.numbers)
        if rows is not None:
            friends = self._friends if attack._meets(own=True) else np.zeros_like(self._friends)
            meant = friends | ~self._friends if attack._meets(own=False) else friends.copy()
            meant[self.names.index(unit.name)] = False  # it is gone from where it stands now
            starts, ends, pool = map(view, rows)
            wanted, out = view(meant.view(np.uint8)), view(found.reshape(-1))
            # a cell can be taken once in each layer
            for standing in self._standing:
                loader.sight.stand_in(starts, ends, pool, view(standing), wanted, out)
        others = range(len(self.names)) if rows is None else self._too_near(unit, attack)
        if others:
            found[:, others] = False
            # all cells at once: the places of the stands are the rows
            attacks = Attacks(self._copy, unit, attack, None, part.numbers)
            for column in others:
                found[attacks._places(self.names[column]), column] = True
        return found.view(bool)

    @cached_property
    def _friends(self) -> BoolArray:
        """Which units are of the side, ``(names,)``."""
        return np.array([unit.side == self.side for unit in self._copy.units()])

    @cached_property
    def _standing(self) -> list[NDArray[np.int32]]:
        """By layer who stands on each cell, as one more than the place among `names`; 0: nobody."""
        board, units = self._copy, self._copy.units()
        found = {unit.layer: blank(board.grid.cols * board.grid.rows, np.int32) for unit in units}
        for place, unit in enumerate(units):
            found[unit.layer][board.grid.numbering.inside(np.array(board.covered(unit)))] = (
                place + 1
            )
        return list(found.values())

    @cached_property
    def _large(self) -> list[tuple[int, Unit]]:
        """The units of several cells, with their places among `names`."""
        units = enumerate(self._copy.units())
        return [(place, unit) for place, unit in units if len(unit.movement.footprint) > 1]

    def _too_near(self, unit: Unit, attack: Attack) -> list[int]:
        """The places of those that can be too near while one of their cells is far enough."""
        if attack.low == 0 or attack.pattern.shape != "cell":
            return []
        # in its own layer all are one cell away at least
        return [
            place for place, other in self._large if attack.low > 1 or other.layer != unit.layer
        ]

    @cached_property
    def cover(self) -> FloatArray:
        """The cover of the ground there, in levels; of several cells the least, ``(n,)`` float."""
        covers = np.array([kind.cover for kind in self._copy.terrains.values()])
        codes = self._copy.terrain_codes().ravel()

        def ask(part: _Part) -> FloatArray:
            taken = codes[feet(self._copy.grid, part.numbers, part.unit.movement.footprint)]
            # a foe aims at the cell with the least
            least: FloatArray = covers[taken].min(axis=1)
            return least

        made: FloatArray = self._each(ask, np.zeros(0))
        return made

    @cached_property
    def unseen(self) -> IntArray:
        """How many cells it would see from there that its side does not see now, ``(n,)`` int64.

        As far as its side knows the ground.
        """
        board = self._copy
        seen_now = np.zeros(board.grid.cols * board.grid.rows, dtype=bool)
        for unit in board.units(self.side):
            looks = [(cell, look_of(unit, None, None, None, None)) for cell in board.covered(unit)]
            seen_now[seen(board, looks, HALF)] = True

        def ask(part: _Part) -> IntArray:
            look = look_of(part.unit, None, None, None, None)
            one = len(part.unit.movement.footprint) == 1
            # of a large unit several cells see the same
            kept = seen_from(board, part.numbers, look, HALF) if one else None
            if kept is not None:
                places, cells = kept.pairs()
                return np.bincount(places[~seen_now[cells]], minlength=len(part.numbers))
            found = [
                int((~seen_now[seen(board, [(cell, look) for cell in covered], HALF)]).sum())
                for covered in (
                    board.covered(part.unit, cell)
                    for cell in board.grid.numbering.cells(part.numbers)
                )
            ]
            # without a cell it would be of floats
            return np.array(found, dtype=np.int64)

        made: IntArray = self._each(ask, np.zeros(0, dtype=np.int64))
        return made

    def distance(self, goals: CellsLike) -> FloatArray:
        """The cost from there to the nearest of some goals, over the terrain, as in `field`.

        Returns
        -------
        ndarray of float64, shape ``(n,)``
            NaN where no way leads to any.

        Raises
        ------
        CellError
            A goal that is not a cell, or off the board.
        InputError
            No goals.

        Examples
        --------
        >>> import understep as us
        >>> board = us.maps.shipped("fen")
        >>> found = us.prospects(board, "wardens", units="scout")
        >>> left = found.distance([(18, 3)])
        >>> tuple(found.cells[left.argmin()]), float(left.min())
        ((10, 9), 28.0)
        """
        tables: dict[Any, FloatArray] = {}

        def ask(part: _Part) -> FloatArray:
            rules = part.unit.movement, part.unit.side
            # units of the same rules share a table
            if rules not in tables:
                found = field(self._copy, part.unit.name, goals, known_to=False)
                tables[rules] = found.table().ravel()
            return tables[rules][part.numbers]

        made: FloatArray = self._each(ask, np.zeros(0))
        return made

    # rows

    @overload
    def __getitem__(self, index: int) -> Prospect: ...
    @overload
    def __getitem__(self, index: slice) -> Sequence[Prospect]: ...
    def __getitem__(self, index: Any) -> Any:
        if isinstance(index, slice):
            return [self._row(row) for row in range(len(self))[index]]
        return self._row(range(len(self))[index])

    def _row(self, row: int) -> Prospect:
        foes, targets = (
            tuple(self.names[column] for column in np.flatnonzero(found[row]).tolist())
            for found in (self.exposed, self.targets)
        )
        return Prospect(
            self.units[self.owner[row]], self.cells[row], float(self.cost[row]),
            float(self.left[row]), int(self.turn[row]), foes, targets,
        )  # fmt: skip

    def of(self, unit: str) -> Prospects:
        """The rows of one unit.

        Raises
        ------
        NameUnknownError
            There are no rows of that unit.

        Examples
        --------
        >>> import understep as us
        >>> board = us.maps.shipped("fen")
        >>> found = us.prospects(board, "wardens")
        >>> len(found.of("scout")) == len(us.reach(board, "scout"))
        True
        """
        named("unit", "unit with prospects", unit, self.units)
        # reaches and foes are shared: nothing is found anew
        parts = [part for part in self._parts if part.unit.name == unit]
        return Prospects(self._board, self._copy, self.side, self._foes, parts)._as_of(self._state)

    def at(self, unit: str, cells: CellsLike) -> Prospects:
        """The same for cells that are given, whether it can get there or not.

        Raises
        ------
        NameUnknownError
            There are no rows of that unit.
        CellError
            A value that is not a cell, or a cell off the board.
        InputError
            A cell on which it could not stand.

        Examples
        --------
        >>> import understep as us
        >>> board = us.maps.shipped("fen")
        >>> found = us.prospects(board, "wardens")
        >>> [each.cost for each in found.at("scout", [(6, 6), (7, 6)])]
        [0.0, 1.0]
        """
        named("unit", "unit with prospects", unit, self.units)
        (part,) = (part for part in self._parts if part.unit.name == unit)
        numbering = self._board.grid.numbering
        array = numbering.require_all(cells, "cells").reshape(-1, 2)
        for cell in Cells(array):
            refusal = cannot_stop(self._copy, part.unit, cell)
            if refusal is not None:
                raise InputError("cells", f"it could not stand there: {refusal.why}", tuple(cell))
        numbers = numbering.numbers(array)
        # looked up in the reach itself, of which these may be some cells already
        places = {number: place for place, number in enumerate(part.reach._numbers.tolist())}
        found = np.array([places.get(number, -1) for number in numbers.tolist()], dtype=np.int64)
        made = _Part(part.unit, part.reach, numbers, found)
        return Prospects(self._board, self._copy, self.side, self._foes, [made])._as_of(self._state)

    def _as_of(self, state: int) -> Prospects:
        self._state = state
        return self

    def best(self, score: Callable[[Prospects], Any]) -> dict[str, Prospect]:
        """For each unit the row with the highest score; of equal ones the first.

        Parameters
        ----------
        score
            A function that is given these prospects and returns a number for every row, ``(n,)``;
            rows with NaN are left out.

        Raises
        ------
        InputError
            No function, or what it returns is no such array.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.HexGrid(12, 7), {"turf": 1})
        >>> bow = us.Unit("archer", "wardens", us.Movement(3), attack=us.Attack(2, 3))
        >>> archer = board.add(bow, at=(2, 3))
        >>> blade = us.Unit("raider", "wreckers", us.Movement(1), attack=us.Attack())
        >>> raider = board.add(blade, at=(7, 3))
        >>> found = us.prospects(board, "wardens")
        >>> best = found.best(lambda each: each.targets.sum(axis=1) * 9 - each.exposure * 5)
        >>> row = best["archer"]
        >>> tuple(row.cell), row.foes, row.targets
        ((4, 3), (), ('raider',))
        """
        if not callable(score):
            raise InputError("score", "must be a function of prospects", score)
        returned = score(self)
        try:
            values = np.asarray(returned, dtype=np.float64)
        except (TypeError, ValueError, OverflowError) as error:
            raise InputError("score", f"must return numbers: {error}", returned) from None
        if values.shape != (len(self),):
            raise InputError("score", f"must return {len(self)} numbers", values.shape)
        # a unit with nothing but NaN has no best row
        values = np.where(np.isnan(values), -np.inf, values)
        found = {}
        for place, unit in enumerate(self.units):
            rows = np.flatnonzero((self.owner == place) & (values > -np.inf))
            if len(rows):
                found[unit] = self._row(int(rows[np.argmax(values[rows])]))
        return found

    # as other answers

    def _value(self, cell: Cell) -> tuple[Prospect, ...]:
        number = self._board.grid.numbering.number(cell)
        return tuple(self._row(row) for row in np.flatnonzero(self._numbers == number).tolist())

    def overlay(self) -> Overlay:
        """The prospects as plain data: role "threat", number: the least exposure of any unit there.

        Role "reach" where that is 0.
        """
        marks: dict[Cell, Mark] = {}
        # several units can get to one cell: the least exposed comes first, and stays
        for cell, many in sorted(
            zip(self.cells, self.exposure.tolist(), strict=True), key=lambda each: each[1]
        ):
            marks.setdefault(cell, Mark("threat", many) if many else Mark("reach", 1))
        return Overlay._of(marks)

    def plain(self) -> dict[str, Any]:
        """The prospects as plain lists and numbers, for JSON."""
        return super().plain() | plain_facts({"side": self.side, "rows": list(self)})


def prospects(
    board: Board,
    side: str,
    *,
    units: Iterable[str] | None = None,
    turns: int | None = 1,
    known_to: KnownTo = None,
) -> Prospects:
    """For each unit of a side every cell it could end on: cost, who could attack it, and whom it.

    For a computer player that weighs many places at once. Equal to what `threats` and `attacks`
    say after each unit was put there in a trial, one at a time, on the board as the side knows it.

    Parameters
    ----------
    board
        The board; it is not changed, and its journal is not touched.
    side
        The side.
    units
        The names of some of its units; by default all of them.
    turns
        How many turns a unit may take to get there, the present one included; None: any number.
    known_to
        The side whose knowledge counts; by default ``side``, if it keeps any (`fog`). False: the
        truth.

    Returns
    -------
    Prospects

    Raises
    ------
    NameUnknownError
        No unit of that side was ever added, no such unit; a side that keeps no knowledge.
    InputError
        A unit of another side, a unit that is named twice; ``turns`` is not a whole number of 1 or
        more.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.SquareGrid(9, 1), {"turf": 1})
    >>> blade = us.Unit("scout", "wardens", us.Movement(2), attack=us.Attack())
    >>> scout = board.add(blade, at=(1, 0))
    >>> raider = board.add(blade.copy("raider", side="wreckers"), at=(6, 0))
    >>> found = us.prospects(board, "wardens")
    >>> [tuple(cell) for cell in found.cells], found.exposure.tolist()
    ([(1, 0), (2, 0), (0, 0), (3, 0)], [0, 0, 0, 1])
    >>> found.at("scout", (5, 0))[0].targets
    ('raider',)
    """
    named("side", "side", side, mine(board).sides)
    # by default a side asks by what it knows
    if known_to is None and side in board.fogged:
        known_to = side
    picture = known(board, None, known_to)
    if units is None:
        names = [unit.name for unit in picture.units(side)]
    else:
        names = items("units", units, "must be names of units")
    for unit in picture.units():  # what is found of the copy is kept with the board, too
        if unit.attack is not None:
            rows_of(picture, unit, unit.attack)
    chosen = [picture._units.find(name, "units") for name in names]
    for place, unit in enumerate(chosen):
        if unit.side != side:
            raise InputError("units", f"must be units of the {side}", unit.name)
        if unit in chosen[:place]:
            raise InputError("units", "must be named once each", unit.name)
    # reaches are kept with the board, and stay as they are when it goes on
    found = [reach(picture, unit.name, turns=turns, known_to=False) for unit in chosen]
    parts = [_Part(each.unit, each, each._numbers) for each in found]
    # layers that boards share are never written, so that the foes stay as they are
    copy = picture.copy()
    return Prospects(picture, copy, side, Exposure(picture, copy, side), parts)
