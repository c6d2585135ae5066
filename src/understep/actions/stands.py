"""Stands: the cells from which a unit can attack a target, the best first."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Any, Literal, NamedTuple, TypeAlias, cast, overload

import numpy as np

from understep.actions.attacks import Attacks, attacks
from understep.actions.threats import Threats, check_against
from understep.actions.threats import threats as find_threats
from understep.boards.attack import Attack
from understep.boards.board import Board
from understep.boards.cost import Cost
from understep.boards.refusal import Refusal
from understep.boards.unit import Unit
from understep.checks import items
from understep.grids.cell import Cell, CellLike, Cells
from understep.grids.systems import choice
from understep.moves.answer import Answer, KnownTo, brief, known, movement_of
from understep.moves.reach import reach
from understep.overlay import Mark, Overlay, plain_data

Merit: TypeAlias = Literal["cost", "exposure", "cover", "retreat"]
ORDER: tuple[Merit, ...] = ("cost", "exposure", "cover", "retreat")


class Stand(NamedTuple):
    """A cell from which a target can be attacked.

    Attributes
    ----------
    cell
        The cell.
    aim
        The cell to aim at from there.
    cost
        The points to get there.
    exposure
        How many foes can attack it there in their next turn; None: it was not asked for.
    cover
        The cover of the ground there, in levels; of several cells the least.
    retreat
        The points from there to the nearest cell that no foe can attack, with all points of a turn:
        0 where none can attack it there; None without one, or it was not asked for.
    """

    cell: Cell
    aim: Cell
    cost: Cost
    exposure: int | None
    cover: float
    retreat: Cost | None


class Stands(Answer, Sequence[Stand]):
    """The stands for a target, the best first; false if there is no stand.

    Made by `stands`. ``why`` gives the reason if there is no stand.
    """

    unit: Unit

    def __init__(
        self, board: Board, found: tuple[Stand, ...], unit: Unit, refusal: Refusal | None = None
    ) -> None:
        self._of(board)
        self._found, self.unit = found, unit
        self.why = "" if refusal is None else refusal.why
        self.blockers = () if refusal is None else refusal.blockers

    @property
    def cells(self) -> Cells:
        """The cells to attack from, the best first."""
        return Cells._of(each.cell for each in self)

    def _value(self, cell: Cell) -> Stand:
        return next(each for each in self if each.cell == cell)

    def __repr__(self) -> str:
        return f"<{len(self)} stands of {self.unit.name!r}{': ' * bool(self.why)}{brief(self.why)}>"

    @overload
    def __getitem__(self, index: int) -> Stand: ...
    @overload
    def __getitem__(self, index: slice) -> Sequence[Stand]: ...
    def __getitem__(self, index: Any) -> Any:
        return self._found[index]

    def __len__(self) -> int:
        return len(self._found)

    def __iter__(self) -> Iterator[Stand]:
        return iter(self._found)

    def overlay(self) -> Overlay:
        """The stands as plain data: roles "stand" (number: the rank) and "target"."""
        marks = {each.aim: Mark("target") for each in self}
        marks |= {each.cell: Mark("stand", rank, str(rank)) for rank, each in enumerate(self, 1)}
        return Overlay._of(marks, priority=2)

    def plain(self) -> dict[str, Any]:
        """The stands as plain lists and numbers, for JSON."""
        return super().plain() | {"stands": plain_data(list(self))}


def stands(
    board: Board,
    unit: str,
    target: str | CellLike | None,
    *,
    order: Merit | Sequence[Merit] = ORDER,
    attack: Attack | None = None,
    threats: Threats | None = None,
    known_to: KnownTo = None,
) -> Stands:
    """The cells from which a unit can attack a target this turn, the best first.

    Parameters
    ----------
    board
        The board; it is not changed.
    unit
        The name of a unit on it.
    target
        The name of a unit, or a cell.
    order
        What counts, the first before the second: ``"cost"`` (few points), ``"exposure"`` (few
        foes), ``"cover"`` (much of it), ``"retreat"`` (few points to safety, none last). What is
        still equal is ordered by where the unit arrives first.
    attack
        How it attacks; by default as the unit does.
    threats
        What threatens its side, if that is known already; else it is found where ``order`` asks
        for exposure or retreat.
    known_to
        As for `attacks`.

    Returns
    -------
    Stands

    Raises
    ------
    NameUnknownError
        No such unit, an unknown word in ``order``.
    CellError
        ``target`` is not a cell. (None, and cells off the board, get a false answer.)
    InputError
        The unit has no attack, and none is given; threats to another side.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.HexGrid(12, 7), {"turf": 1, "reeds": us.Terrain(1, cover=0.4)})
    >>> board.paint("reeds", (6, 2))
    >>> bow = us.Attack(2, 2)
    >>> archer = us.Unit("archer", "wardens", us.Movement(points=4), attack=bow)
    >>> raider = us.Unit("raider", "wreckers", us.Movement(points=0), attack=us.Attack())
    >>> archer, raider = board.add(archer, at=(2, 3)), board.add(raider, at=(7, 3))
    >>> best = us.stands(board, "archer", "raider", order=["cover", "exposure"])[0]
    >>> tuple(best.cell), best.cost, best.exposure, best.cover
    ((6, 2), 4, 0, 0.4)
    """
    order = order_of(order)
    board = known(board, unit, known_to)
    found = attacks(board, unit, attack=attack, known_to=False)
    who = found.unit
    check_against(threats, who.side)
    aim = found._found(target, "target")
    if isinstance(aim, Refusal):
        return Stands(board, (), who, aim)
    dangers = dangers_for(board, who.side, threats, order)
    # not None: it has an aim
    return Stands(board, tuple(ranked(board, found, cast(str, target), order, dangers)), who)


def ranked(
    board: Board, found: Attacks, target: str, order: Sequence[Merit], dangers: Threats | None
) -> Iterator[Stand]:
    """The stands for a target that a unit can attack, the best first."""
    rows = (
        _stand(board, found, cell, aimed, dangers, "retreat" in order)
        for cell, aimed in found._pairs(target)
    )
    # what is arrived at first costs least: one that nobody asks for is not worked out
    by_arrival = tuple(order) in ((), ("cost",))
    return rows if by_arrival else iter(sorted(rows, key=lambda each: _merits(each, order)))


def order_of(order: Merit | Sequence[Merit]) -> list[Merit]:
    """An order of merits as a list, or an error."""
    found = items("order", order, "must be merits")
    for merit in found:
        choice(merit, Merit, "order")
    return found


def dangers_for(
    board: Board, side: str, threats: Threats | None, order: Sequence[Merit]
) -> Threats | None:
    """What threatens a side, as it is known, or found if an order of merits asks for it."""
    if threats is None and {"exposure", "retreat"} & set(order):
        return find_threats(board, side, known_to=False)
    return threats


def _merits(stand: Stand, order: Sequence[Merit]) -> tuple[Any, ...]:
    """What is to be as little as can be."""
    retreat = (stand.retreat is None, stand.retreat)
    merits = {
        "cost": stand.cost, "exposure": stand.exposure, "cover": -stand.cover, "retreat": retreat
    }  # fmt: skip
    return tuple(merits[merit] for merit in order)


def _stand(
    board: Board, found: Attacks, cell: Cell, aimed: Cell, dangers: Threats | None, retreating: bool
) -> Stand:
    unit, grid = found.unit, board.grid
    covered = [each for each in board.covered(unit, cell) if each in grid]
    exposure = None if dangers is None else dangers[cell]
    if dangers is not None and len(covered) > 1:
        # a foe that can attack several of its cells counts once
        exposure = len({name for each in covered for name in dangers.by(each)})
    # a foe aims at the cell with the least
    cover = min(board.terrains[board.terrain(each)].cover for each in covered)
    cost = found.reach[cell].cost if found.reach is not None else 0
    retreat: Cost | None = None
    if retreating and dangers is not None:
        retreat = _retreat(board, unit, cell, dangers) if exposure else 0
    return Stand(cell, aimed, cost, exposure, float(cover), retreat)


def _retreat(board: Board, unit: Unit, cell: Cell, dangers: Threats) -> Cost | None:
    """The points from a cell to the nearest one that no foe can attack; None without one."""
    points = movement_of(unit).points
    # after its attack it goes on with all points of the next turn
    away = reach(board, unit.name, at=cell, left=points, known_to=False)
    numbers = away._numbers[:, None]
    offsets = unit.movement.footprint
    if len(offsets) > 1:
        numbers = board.grid.numbering.numbers(board.grid.lattice.spread(away.cells.array, offsets))
    # cells come nearest first
    safe = np.flatnonzero((dangers._counted(numbers) == 0).all(axis=1))
    return away[away.cells[int(safe[0])]].cost if len(safe) else None
