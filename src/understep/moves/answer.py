"""What answers share: refusals with their reasons, and the words for them."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from fractions import Fraction
from typing import TYPE_CHECKING, Any, ClassVar, Literal, NamedTuple, Self, TypeAlias

import numpy as np
from numpy.typing import NDArray

from understep.boards.board import Board
from understep.boards.cost import Cost, fraction, plain, rounded
from understep.boards.refusal import Refusal, cell_on
from understep.boards.unit import Unit
from understep.checks import whole
from understep.errors import InputError
from understep.grids.cell import Cell, CellLike, Cells
from understep.overlay import Overlay, plain_facts, small_picture
from understep.rules.movement import Movement

#: A state that no board has.
UNKNOWN = -1
LONGEST = 100  # characters of a reason in a repr
KnownTo: TypeAlias = str | Literal[False] | None


class CellValue(NamedTuple):
    """The value of one cell in an answer.

    Attributes
    ----------
    cell
        The cell.
    value
        A cost, the number of an area, how many foes, ...; else the role of the cell.
    """

    cell: Cell
    value: Any

    @property
    def why(self) -> str:
        """Empty: it is not a refusal."""
        return ""


class Answer:
    """What every answer about a board can tell; true in a condition unless it is a no.

    Attributes
    ----------
    unit : Unit or None
        The unit, as it was when asked; None where the question is of no unit.
    why : str
        The reason of a no, as a sentence without a full stop; empty where it is a yes.
    blockers : tuple of str
        Names of what is in the way.
    """

    unit: Unit | None
    why: str
    blockers: tuple[str, ...]
    _board: Board
    _state: int
    #: The attributes that `plain` returns besides.
    _facts: ClassVar[tuple[str, ...]] = ("cells",)

    def _of(self, board: Board, **facts: Any) -> Self:
        """Take note of the board, of how it is now, and of more; return the answer."""
        self.__dict__.update(facts, _board=board, _state=board.state)
        return self

    def __getstate__(self) -> dict[str, Any]:
        # boards get states of their own when they are loaded
        return self.__dict__ | {"_state": not self.stale}

    def __setstate__(self, state: dict[str, Any]) -> None:
        self.__dict__.update(state)
        self.__dict__["_state"] = self._board.state if state["_state"] else UNKNOWN

    @property
    def board(self) -> Board:
        """The board it was asked of: the true one, or as a side knows it."""
        return self._board

    @property
    def stale(self) -> bool:
        """Whether the board has changed since, in a way that may alter the answer."""
        return self._board.altered_since(self._state, None)

    if TYPE_CHECKING:  # of some answers a field

        @property
        def cells(self) -> Cells:
            """The cells of the answer."""

    def __bool__(self) -> bool:
        return not self.why

    def _holds(self, cell: Cell) -> bool:
        """Whether a cell is one of its cells."""
        return cell in self.cells

    def _value(self, cell: Cell) -> Any:
        """The value of one of its cells."""
        mark = self.overlay().get(cell)
        return None if mark is None else mark.role

    def get(self, cell: CellLike | None) -> Any:
        """The value of a cell, or a falsy `Refusal` with the reason.

        Raises
        ------
        CellError
            ``cell`` is not a cell. (None, and cells off the board, are refused.)
        """
        found = cell_on(self._board.grid, cell)
        if isinstance(found, Refusal):
            return found
        if not self._holds(found):
            return Refusal(f"{tuple(found)} is not in the answer: {self!r}")
        return CellValue(found, self._value(found))

    def overlay(self) -> Overlay:
        """The answer as plain data for the game to draw."""
        raise NotImplementedError

    def _repr_html_(self) -> str:
        return small_picture(self._board, self)

    def plain(self) -> dict[str, Any]:
        """The answer as plain lists, numbers and texts, for JSON."""
        name = self.unit.name if self.unit else None
        shared = {"unit": name, "ok": bool(self), "why": self.why, "blockers": self.blockers}
        facts = {name: getattr(self, name) for name in self._facts}
        return plain_facts(shared | facts)


def mine(board: Board) -> Board:
    """A board that is one."""
    if not isinstance(board, Board):
        raise InputError("board", "must be a Board", board)
    return board


def known(board: Board, unit: str | None, known_to: KnownTo, argument: str = "unit") -> Board:
    """The board as a side knows it: by default that of a unit, if it keeps any knowledge.

    ``argument``: the unit's, as the caller has it.
    """
    # nobody keeps any knowledge: the board is what everybody knows
    if not mine(board)._memories.values and not isinstance(known_to, str):
        return board
    if known_to is None and unit is not None:
        side = board._units.find(unit, argument).side
        known_to = side if side in board.fogged else False
    if known_to is None or known_to is False:
        return board
    found: Board = board._memory(known_to, "known_to")
    return found


def mover(board: Board, unit: str) -> Unit:
    """The unit of a name, from a board that is one."""
    return mine(board).unit(unit)


def sought(board: Board, name: str, argument: str) -> Unit | Refusal:
    """A unit that another looks for; on a board as a side knows it, maybe that it knows of none.

    So a unit out of sight is no error, nor one that has left the board unseen.
    """
    # that there is no such unit may be all that is hidden from the side
    side = board._contents.known_by
    if side and isinstance(name, str) and name not in board._roster.values:
        return Refusal(f"the {side} know of no unit {name!r}")
    return board._units.find(name, argument)


def movement_of(unit: Unit) -> Movement:
    """The movement of a unit, if it is one that searches know."""
    if not isinstance(unit.movement, Movement):
        raise InputError("unit", "its movement must be a Movement", unit.movement)
    return unit.movement


def gap(board: Board, unit: Unit, other: Unit, at: Cell | None = None) -> int:
    """The distance of two units, of where one would stand: the least between their cells."""
    grid = board.grid
    mine, theirs = (np.array(board.covered(*each)) for each in ((unit, at), (other,)))
    # a large unit may reach beyond the rim
    here, there = mine[grid.numbering.holds(mine)], theirs[grid.numbering.holds(theirs)]
    return int(grid.distance(here[:, None], there).min())


def points_left(unit: Unit) -> Fraction:
    """The points a unit has left in this turn."""
    movement_of(unit)
    return fraction(unit.left)


def rules_of(
    board: Board, movement: Any, side: str | None, known_to: KnownTo
) -> tuple[Board, Movement, str]:
    """A movement and the side it moves for, given as they are or by the name of a unit.

    And the board, as it is known to that unit's side or another.
    """
    found = movement
    board = known(board, movement if isinstance(movement, str) else None, known_to, "movement")
    if isinstance(movement, str):
        unit = board._units.find(movement, "movement")
        found, side = unit.movement, unit.side
    if not isinstance(found, Movement):
        raise InputError("movement", "must be a Movement, or the name of a unit", movement)
    return board, found, side or ""


def still_holds(board: Board, state: int, near: Callable[[], NDArray[np.bool_]]) -> bool:
    """Whether no cell has changed that an answer of an earlier state looked at."""
    if board.state == state:
        return True
    # data is the game's own: no answer depends on it
    changed = board._changes.cells(state, data=False)
    if changed is None:
        return False
    return not near()[board.grid.numbering.numbers(changed.array)].any() if len(changed) else True


def supposed(unit: Unit, at: Any, left: Cost | None, board: Board) -> tuple[Unit, Cell | None]:
    """The unit with other points left, and where it would stand; None: where it does."""
    if left is not None:
        unit = unit.changed(left=rounded(left, "left"))
    return unit, None if at is None else board.grid.numbering.require(at, "at")


def heading(board: Board, unit: Unit, facing: str | int | None) -> int:
    """The number of the direction a unit looks in, or -1."""
    facing = unit.facing if facing is None else facing
    return -1 if facing is None else board.grid.lattice.way(facing, "facing")


def turn_limit(turns: int | None) -> int | None:
    """A number of turns; None: any number."""
    # every reach passes here, nearly always with 1
    if turns is None or (type(turns) is int and turns > 0):
        return turns
    return whole("turns", turns, 1)


def doubtful(board: Board, unit: Unit, start: Cell | None) -> str:
    """Why a unit could not stand where it is supposed to; empty if it could, or is where it is."""
    refusal = None if start is None or start == unit.at else cannot_stop(board, unit, start)
    return "" if refusal is None else refusal.why


def cannot_stop(board: Board, unit: Unit, cell: Cell) -> Refusal | None:
    """Why a unit could not stop on a cell, however far it could walk; None if it could."""
    return board._units.refusal(unit, cell)


def brief(text: str) -> str:
    """A text for a repr, cut where it is long."""
    return text if len(text) <= LONGEST else f"{text[: LONGEST - 3]}..."


def amount(count: int, noun: str) -> str:
    """A number with its noun: 1 turn, 2 turns."""
    return f"{count} {noun}" if count == 1 else f"{count} {noun}s"


def any_of(cells: Sequence[Cell]) -> str:
    """One of some cells, in words: (3, 0), any of 2 cells."""
    return str(tuple(cells[0])) if len(cells) == 1 else f"any of {len(cells)} cells"


def amount_of(points: Fraction) -> str:
    """Points, in words: 1 point, 1.5 points."""
    value = plain(points)
    return amount(value, "point") if isinstance(value, int) else f"{value:g} points"


def points_of(unit: Unit) -> str:
    """A unit's points, in words."""
    movement = unit.movement
    return f"{movement.points} points a turn" if isinstance(movement, Movement) else ""
