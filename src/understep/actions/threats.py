"""Threats: for every cell, which foes can attack it in their next turn, and from where."""

from __future__ import annotations

from functools import cached_property
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from understep.actions.attacks import Attacks, attacks_of, struck_by
from understep.actions.exposure import foes_of, next_turn
from understep.boards.board import Board
from understep.boards.unit import Unit
from understep.checks import expect, named
from understep.errors import InputError, StaleError
from understep.grids.cell import Cell, CellLike, Cells, IntArray
from understep.grids.systems import choice
from understep.kernels.loader import blank
from understep.moves.answer import Answer, KnownTo, known, mine
from understep.moves.reach import Reach
from understep.overlay import Mark, Overlay, plain_facts


class Threats(Answer):
    """Which foes can attack which cells; made by `threats`.

    ``threats[cell]`` is how many; `by` and `stands` say who, and from where.
    """

    def __init__(self, board: Board, against: str, foes: dict[str, tuple[Unit, Reach]]) -> None:
        self._of(board)
        #: Where each foe can get, and its attacks where they were asked for.
        self._moves, self._attacks = foes, dict[str, Attacks]()
        self.unit, self.blockers = None, ()
        #: The side that is threatened.
        self.against = against
        self._counts = blank(board.grid.cols * board.grid.rows, np.int32)
        self._struck = {name: struck_by(board, *each) for name, each in foes.items()}
        for numbers in self._struck.values():
            self._counts[numbers] += 1

    def __repr__(self) -> str:
        return f"<Threats of {len(self._moves)} foes to the {self.against}>"

    @property
    def foes(self) -> tuple[str, ...]:
        """The names of all foes that have an attack."""
        return tuple(self._moves)

    def __getitem__(self, cell: CellLike) -> int:
        return int(self._counts[self._board.grid.numbering.of(cell)])

    def by(self, cell: CellLike) -> tuple[str, ...]:
        """The names of the foes that can attack a cell.

        Raises
        ------
        CellError
            ``cell`` is not a cell, or lies off the board.
        """
        return tuple(self._by.get(self._board.grid.numbering.of(cell), ()))

    @cached_property
    def _by(self) -> dict[int, list[str]]:
        found: dict[int, list[str]] = {}
        for name, numbers in self._struck.items():
            for number in numbers.tolist():
                found.setdefault(number, []).append(name)
        return found

    def struck(self, foe: str) -> Cells:
        """The cells that a foe can attack, row by row.

        Raises
        ------
        NameUnknownError
            No such foe.
        """
        return Cells(self._board.grid.numbering.cells_of(self._struck[self._foe(foe)]))

    def _foe(self, foe: str) -> str:
        return named("foe", "foe that can attack", foe, self._moves)

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
        """
        name = self._foe(foe)
        if name not in self._attacks:
            if self._board.altered_since(self._state):
                rule = "the board has changed since these threats were worked out; ask anew"
                raise StaleError(rule)
            unit, where = self._moves[name]
            self._attacks[name] = attacks_of(self._board, unit, None, where)
        return self._attacks[name].stands(cell)

    @property
    def cells(self) -> Cells:
        """The cells that anybody can attack, row by row."""
        every = np.concatenate([np.zeros(0, np.int64), *self._struck.values()])
        return Cells(self._board.grid.numbering.cells_of(np.unique(every)))

    @property
    def why(self) -> str:  # type: ignore[override]
        """Why nothing is threatened; else empty."""
        return "" if self._counts.any() else f"no foe of the {self.against} can attack a cell"

    def _holds(self, cell: Cell) -> bool:
        return self[cell] > 0

    def _value(self, cell: Cell) -> int:
        return self[cell]

    def table(self, column: Literal["foes"] = "foes") -> NDArray[np.int32]:
        """How many foes can attack each cell, ``(rows, cols)``. A copy."""
        choice(column, Literal["foes"], "column")
        return self._counts.reshape(self._board.grid.rows, self._board.grid.cols).copy()

    def counts(self, numbers: IntArray) -> NDArray[np.int32]:
        """How many can attack each of some cells, by number."""
        found: NDArray[np.int32] = self._counts[numbers]
        return found

    def overlay(self) -> Overlay:
        """The threats as plain data: role "threat", number: how many foes, text: their names."""
        return Overlay(
            {cell: Mark("threat", self[cell], ", ".join(self.by(cell))) for cell in self.cells}
        )

    def plain(self) -> dict[str, Any]:
        """The threats as plain lists and names, for JSON."""
        cells = [{"cell": cell, "foes": self.by(cell)} for cell in self.cells]
        return super().plain() | plain_facts({"against": self.against, "cells": cells})


def check_against(threats: Threats | None, side: str) -> None:
    """Refuse what is no threats to a side, or None."""
    expect("threats", threats, (Threats, type(None)), "must be Threats, or None")
    if threats is not None and threats.against != side:
        raise InputError("threats", f"must be against the {side}", threats.against)


def threats(board: Board, against: str, *, known_to: KnownTo = None) -> Threats:
    """For every cell, which units of other sides can attack it in their next turn.

    Each moves with all its points from where it stands, around the units that stand there now, and
    attacks as it can; a cell counts if the attack could affect it.

    Parameters
    ----------
    board
        The board; it is not changed.
    against
        The side that is threatened.
    known_to
        The side whose knowledge counts; by default ``against``, if it keeps any. False: the truth.

    Returns
    -------
    Threats

    Raises
    ------
    NameUnknownError
        No unit of that side was ever added; a side that keeps no knowledge.

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
    """
    named("against", "side", against, mine(board).sides)
    if known_to is None and against in board.fogged:
        known_to = against
    board = known(board, None, known_to)
    moves = {foe.name: (foe, next_turn(board, foe)) for foe in foes_of(board, against)}
    return Threats(board, against, moves)
