"""Threats: for every cell, which foes can attack it in their next turn, and from where."""

from __future__ import annotations

from collections.abc import Iterable
from functools import cached_property
from typing import Any, Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from understep.actions.attacks import Attacks, attacks_of, struck_by
from understep.actions.exposure import foes_of, next_turn
from understep.boards.board import Board
from understep.boards.derived import Watcher
from understep.boards.unit import Unit
from understep.checks import expect, items, named
from understep.errors import InputError, StaleError
from understep.grids.cell import Cell, CellLike, Cells, IntArray
from understep.grids.systems import choice
from understep.moves.answer import UNKNOWN, Answer, KnownTo, known, mine, movement_of
from understep.moves.reach import Reach
from understep.overlay import Mark, Overlay, plain_facts

MOST_DISKS = 1 << 12  # that are kept


# how a cell is marked where something has changed not far from it
NEXT, WITHIN_TWO = 2, 1
NOWHERE = bytearray()
NOBODY = np.zeros(0, dtype=np.int64)


class _Foe(NamedTuple):
    """What one foe can do in its next turn: where it can get, and the cells that it can affect."""

    unit: Unit
    where: Reach
    struck: IntArray
    #: Whether more counts than who comes to stand beside the cells it enters, or one farther.
    wide: bool
    zoned: bool

    @classmethod
    def of(cls, board: Board, unit: Unit) -> _Foe:
        """What a foe can do now."""
        # from where it stands now, with all its points
        where, rules = next_turn(board, unit), movement_of(unit)
        wide = rules.leap is not None or len(rules.footprint) > 1
        struck = struck_by(board, unit, where)
        return cls(unit, where, struck, wide, rules.zones != "ignore")

    def strikes(self, number: int) -> bool:
        """Whether it can affect a cell, by number."""
        # in order, so that a bisection tells
        place = int(self.struck.searchsorted(number))
        return place < len(self.struck) and int(self.struck[place]) == number

    def holds(self, unit: Unit, near: bytearray) -> bool:
        """Whether it still holds where other units have changed; ``near`` marks the cells there."""
        old = self.unit
        # points left, facing and data do not matter to its next turn
        if old is not unit and (old.at, old.movement, old.attack, old.eye, old.side) != (
            unit.at, unit.movement, unit.attack, unit.eye, unit.side,
        ):  # fmt: skip
            return False
        if not near:
            return True
        # a unit can be in the way on a cell beside those entered; its zone reaches one cell farther
        return not self.wide and not self.where._enters(near, WITHIN_TWO if self.zoned else NEXT)


class KeptFoes(Watcher):
    """What the foes of each side can do: as it was last found, and what of it outlives a trial."""

    def __init__(self) -> None:
        self._last: dict[str, tuple[int, dict[str, _Foe]]] = {}
        self._known: dict[str, tuple[int, dict[str, _Foe]]] = {}
        self._disks: dict[int, tuple[list[int], list[int]]] = {}

    def touched(self, part: str, numbers: IntArray) -> None:
        """States tell what has changed."""

    def share(self, _board: Board) -> KeptFoes:
        """A copy of the board has the same state, and begins with the same."""
        twin = KeptFoes()
        # what is in there never changes, so that both can hold it
        twin._last, twin._known = dict(self._last), dict(self._known)
        return twin

    def find(self, board: Board, against: str) -> dict[str, _Foe]:
        """What each foe can do now; found anew only for those near what has changed."""
        state, found = self._last.get(against, (UNKNOWN, dict[str, _Foe]()))
        if state == board.state:
            return found
        state, before = self._known.get(against, (UNKNOWN, dict[str, _Foe]()))
        changed, found = self._changed(board, state), {}
        near, before = (NOWHERE, {}) if changed is None else (changed, before)
        for unit in foes_of(board, against):
            # a foe that is new to the side, or was not there, is found anew
            foe = before.get(unit.name)
            if foe is None or not foe.holds(unit, near):
                foe = _Foe.of(board, unit)
            found[unit.name] = foe
        self._last[against] = board.state, found
        if not board._journal.trying:
            self._known[against] = board.state, found
        else:
            self._keep(board, against, found, state, changed)
        return found

    def _keep(
        self, board: Board, against: str, found: dict[str, _Foe], state: int,
        changed: bytearray | None,
    ) -> None:  # fmt: skip
        """Keep for after a trial what was found of foes whom it does not touch.

        ``changed``: what may differ from a state whose foes are known.
        """
        # what was known before the outermost trial is true again after it
        base = board._journal.opened or UNKNOWN
        before = self._known[against][1] if state == base else {}
        fresh = [foe for name, foe in found.items() if name not in before]
        near = changed if state == base else self._changed(board, base) if fresh else None
        if fresh and near is not None:
            kept = {foe.unit.name: foe for foe in fresh if foe.holds(foe.unit, near)}
            self._known[against] = base, before | kept

    def _changed(self, board: Board, state: int) -> bytearray | None:
        """By cell how near it lies to where something may differ from an earlier state.

        Empty where nothing does; None where that is not known, as with links, which lead anywhere.
        """
        if state == board.state:
            return NOWHERE
        numbers = None if board._contents.links.values else board._changes.of_units(state)
        if not numbers:
            return None if numbers is None else NOWHERE
        # on a large board units come everywhere in time
        if len(self._disks) > MOST_DISKS:
            self._disks.clear()
        disks = [self._disk(board, number) for number in numbers]
        near = bytearray(board.grid.cols * board.grid.rows)
        for _, two in disks:
            for number in two:
                near[number] = WITHIN_TWO
        for one, _ in disks:
            for number in one:
                near[number] = NEXT
        return near

    def _disk(self, board: Board, number: int) -> tuple[list[int], list[int]]:
        """The cells within one step of one, and those within two, by number."""
        known = self._disks.get(number)
        if known is None:
            grid = board.grid
            cell = grid.numbering.cell_of(number)
            one, two = (
                grid.numbering.numbers(grid.disk(cell, radius).array).tolist() for radius in (1, 2)
            )
            known = self._disks[number] = one, two
        return known


class Threats(Answer):
    """Which foes can attack which cells; made by `threats`.

    ``threats[cell]`` is how many; `by` and `stands` say who, and from where.
    """

    def __init__(self, board: Board, against: str, foes: dict[str, _Foe]) -> None:
        self._of(board)
        #: What each foe can do, and its attacks where they were asked for.
        self._foes, self._attacks = foes, dict[str, Attacks]()
        self.unit, self.blockers = None, ()
        #: The side that is threatened.
        self.against = against

    @cached_property
    def _counts(self) -> NDArray[np.int32]:
        """How many foes can attack each cell, by number."""
        size = self._board.grid.cols * self._board.grid.rows
        struck = [foe.struck for foe in self._foes.values()]
        counts = np.bincount(np.concatenate([NOBODY, *struck]), minlength=size)
        return counts.astype(np.int32)

    def __repr__(self) -> str:
        return f"<Threats of {len(self._foes)} foes to the {self.against}>"

    @property
    def foes(self) -> tuple[str, ...]:
        """The names of all foes that have an attack."""
        return tuple(self._foes)

    def __getitem__(self, cell: CellLike) -> int:
        return int(self._counts[self._board.grid.numbering.of(cell)])

    def by(self, cell: CellLike) -> tuple[str, ...]:
        """The names of the foes that can attack a cell.

        Raises
        ------
        CellError
            ``cell`` is not a cell, or lies off the board.

        Examples
        --------
        >>> import understep as us
        >>> board = us.maps.shipped("fen")
        >>> threats = us.threats(board, against="wardens")
        >>> threats.by((12, 9))
        ('punt', 'billhooks')
        """
        number = self._board.grid.numbering.of(cell)
        return tuple(name for name, foe in self._foes.items() if foe.strikes(number))

    def struck(self, foe: str) -> Cells:
        """The cells that a foe can attack, row by row.

        Raises
        ------
        NameUnknownError
            No such foe.

        Examples
        --------
        >>> import understep as us
        >>> board = us.maps.shipped("fen")
        >>> threats = us.threats(board, against="wardens")
        >>> (12, 9) in threats.struck("billhooks")
        True
        """
        return self._board.grid.numbering.cells(self._foes[self._foe(foe)].struck)

    def _foe(self, foe: str) -> str:
        return named("foe", "foe that can attack", foe, self._foes)

    def stands(self, cell: CellLike, foe: str) -> Cells:
        """The cells from which a foe can aim at a cell, nearest to it first.

        Raises
        ------
        CellError
            ``cell`` is not a cell, or lies off the board.
        NameUnknownError
            No such foe.
        StaleError
            The board has changed since.

        Examples
        --------
        >>> import understep as us
        >>> board = us.maps.shipped("fen")
        >>> threats = us.threats(board, against="wardens")
        >>> [tuple(cell) for cell in threats.stands((12, 9), "billhooks")][:2]
        [(13, 8), (13, 10)]
        """
        name = self._foe(foe)
        if name not in self._attacks:
            if self._board.altered_since(self._state):
                rule = "the board has changed since these threats were worked out; ask anew"
                raise StaleError(rule)
            found = self._foes[name]
            self._attacks[name] = attacks_of(self._board, found.unit, None, found.where)
        return self._attacks[name].stands(self._board.grid.numbering.require(cell))

    @property
    def cells(self) -> Cells:
        """The cells that at least one foe can attack, row by row."""
        return self._board.grid.numbering.cells(np.flatnonzero(self._counts))

    @property
    def why(self) -> str:  # type: ignore[override]
        """Why nothing is threatened; else empty."""
        return "" if self._counts.any() else f"no foe of the {self.against} can attack a cell"

    def _holds(self, cell: Cell) -> bool:
        return self[cell] > 0

    def _value(self, cell: Cell) -> int:
        return self[cell]

    def table(self, column: Literal["foes"] = "foes") -> NDArray[np.int32]:
        """How many foes can attack each cell, ``(rows, cols)``. A copy.

        Raises
        ------
        NameUnknownError
            There is no such column.

        Examples
        --------
        >>> import understep as us
        >>> board = us.maps.shipped("fen")
        >>> threats = us.threats(board, against="wardens")
        >>> threats.table()[9, 11:14].tolist()
        [1, 2, 2]
        """
        choice(column, Literal["foes"], "column")
        return self._counts.reshape(self._board.grid.rows, self._board.grid.cols).copy()

    def by_foe(self) -> NDArray[np.bool_]:
        """Which cells each foe can attack: ``(foes, rows, cols)``, in the order of `foes`. New.

        Examples
        --------
        >>> import understep as us
        >>> board = us.maps.shipped("fen")
        >>> threats = us.threats(board, against="wardens")
        >>> threats.by_foe().shape, threats.foes
        ((4, 14, 22), ('sapper', 'punt', 'prowler', 'billhooks'))
        """
        found = np.zeros((len(self._foes), len(self._counts)), dtype=bool)
        for row, foe in enumerate(self._foes.values()):
            found[row, foe.struck] = True
        return found.reshape(-1, self._board.grid.rows, self._board.grid.cols)

    def _counted(self, numbers: IntArray) -> NDArray[np.int32]:
        """How many can attack each of some cells, by number."""
        found: NDArray[np.int32] = self._counts[numbers]
        return found

    def overlay(self) -> Overlay:
        """The threats as plain data: role "threat", number: how many foes, text: their names."""
        return Overlay._of(
            {cell: Mark("threat", self[cell], ", ".join(self.by(cell))) for cell in self.cells}
        )

    def plain(self) -> dict[str, Any]:
        """The threats as plain lists and names, for JSON."""
        cells = [{"cell": cell, "foes": self.by(cell)} for cell in self.cells]
        return super().plain() | plain_facts({"against": self.against, "cells": cells})


def check_against(threats: Threats | None, side: str) -> None:
    """Refuse what is not the threats to a side, or None."""
    expect("threats", threats, (Threats, type(None)), "must be Threats, or None")
    if threats is not None and threats.against != side:
        raise InputError("threats", f"must be against the {side}", threats.against)


def threats(
    board: Board, against: str, *, without: str | Iterable[str] = (), known_to: KnownTo = None
) -> Threats:
    """For every cell, which units of other sides can attack it in their next turn.

    Each moves with all its points from where it stands, around the units that stand there now, and
    attacks as it can; a cell counts if the attack could affect it.

    Parameters
    ----------
    board
        The board; it is not changed.
    against
        The side that is threatened.
    without
        The name of a unit to suppose away, or several: they neither threaten nor are in anybody's
        way.
    known_to
        The side whose knowledge counts; by default ``against``, if it keeps any. False: the truth.

    Returns
    -------
    Threats

    Raises
    ------
    NameUnknownError
        No unit of that side was ever added, no such unit to leave out; a side that keeps no
        knowledge.
    InputError
        ``without`` is not names of units.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.HexGrid(12, 7), {"turf": 1})
    >>> rules = us.Movement(points=2)
    >>> raider = us.Unit("raider", "wreckers", rules, attack=us.Attack())
    >>> raider = board.add(raider, at=(6, 3))
    >>> scout = board.add(us.Unit("scout", "wardens", rules), at=(2, 3))
    >>> threats = us.threats(board, against="wardens")
    >>> found = tuple(threats.stands((3, 3), "raider"))
    >>> threats[(3, 3)], threats.by((3, 3)), threats[(2, 3)], found
    (1, ('raider',), 0, (Cell(col=4, row=3),))
    >>> us.threats(board, against="wardens", without=["raider"])[(3, 3)]
    0
    """
    named("against", "side", against, mine(board).sides)
    if known_to is None and against in board.fogged:
        known_to = against
    board = known(board, None, known_to)
    gone = items("without", without, "must be names of units")
    if not gone:
        kept = board._derived.get(("threats",), KeptFoes)
        return Threats(board, against, kept.find(board, against))
    # on a copy, so that nobody sees them gone
    supposed = board.copy()
    for name in {board._units.find(name, "without").name: None for name in gone}:
        supposed.remove(name)
    return Threats(board, against, KeptFoes().find(supposed, against))
