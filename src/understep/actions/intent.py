"""Intent: what a click or the pointer over a cell means, once a unit is selected."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, TypeAlias

from understep.actions.attacks import Aim, Attacks, attacks_of
from understep.boards.unit import Unit
from understep.errors import InputError
from understep.grids.cell import Cell, CellLike, Cells, one_cell
from understep.moves.answer import Answer, brief
from understep.moves.reach import Entry, Reach
from understep.moves.route import Route
from understep.overlay import Mark, Overlay

Meaning: TypeAlias = Literal["nothing", "select", "move", "attack", "refused"]


@dataclass(frozen=True, eq=False, repr=False)
class Intent(Answer):
    """What a click on a cell means; false in a condition where nothing comes of it.

    Made by `intent`.

    Attributes
    ----------
    meaning
        ``"select"``: a unit of the same side stands there; ``"move"``: the unit may end there;
        ``"attack"``: there is a target, and a stand to attack it from; ``"refused"``: none of
        these, and ``why``; ``"nothing"``: there is no such cell.
    cell
        The cell; None without one.
    target
        The name of the unit to select or to attack; empty without one.
    route
        The way to the cell, or to the stand; None where it need not move.
    stand
        The cell to attack from.
    aim
        The cell to aim at from there.
    why
        Why nothing comes of it, as a sentence without a full stop.
    blockers
        Names of the units in the way.
    unit
        The unit that is selected, as it was when asked; None: none is.
    """

    _facts = ("meaning", "cell", "target", "route", "stand", "aim")

    meaning: Meaning
    cell: Cell | None
    target: str = ""
    route: Route | None = None
    stand: Cell | None = None
    aim: Cell | None = None
    why: str = ""
    blockers: tuple[str, ...] = ()
    unit: Unit | None = None

    def __repr__(self) -> str:
        what = f" {self.target!r}" if self.target else ""
        where = "" if self.cell is None else f" at {tuple(self.cell)}"
        return f"<Intent: {self.meaning}{what}{where}{f', {brief(self.why)}' if self.why else ''}>"

    def __bool__(self) -> bool:
        return self.meaning in ("select", "move", "attack")

    @property
    def cells(self) -> Cells:
        """The cell, if there is one."""
        return Cells([] if self.cell is None else [self.cell])

    def _value(self, _cell: Cell) -> Meaning:
        return self.meaning

    def overlay(self) -> Overlay:
        """The intent as plain data: that of its route, and "target" or "refused" for the cell."""
        marks: dict[Cell, Mark] = {} if self.route is None else dict(self.route.overlay())
        if self.meaning == "attack" and self.aim is not None:
            marks[self.aim] = Mark("target", None, self.target)
        if self.meaning == "refused" and self.cell is not None:
            marks[self.cell] = Mark("refused", None, self.why)
        return Overlay._of(marks, priority=2)


def intent(reach: Reach | Attacks, cell: CellLike | None) -> Intent:
    """What a click on a cell, or the pointer over it, means for a unit that is selected.

    Parameters
    ----------
    reach
        Where the unit can get, or what it can attack from there. Of a reach, the attacks are worked
        out at the first cell, and kept with it.
    cell
        The cell; None, such as from `Board.cell_at` off the board, means nothing.

    Returns
    -------
    Intent

    Raises
    ------
    InputError
        ``reach`` is neither.
    CellError
        ``cell`` is not a pair of whole numbers.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.HexGrid(12, 7), {"turf": 1})
    >>> rules = us.Movement(points=4)
    >>> scout = board.add(us.Unit("scout", "wardens", rules, attack=us.Attack()), at=(2, 3))
    >>> raider = board.add(us.Unit("raider", "wreckers", rules), at=(6, 3))
    >>> reach = us.reach(board, "scout")
    >>> us.intent(reach, (4, 3)).meaning, us.intent(reach, board.cell_at((-9, 0))).meaning
    ('move', 'nothing')
    >>> found = us.intent(reach, (6, 3))
    >>> found.meaning, found.target, tuple(found.stand), found.route.cost
    ('attack', 'raider', (5, 3), 3)
    >>> us.intent(reach, (9, 0)).why
    '(9, 0) is not within 1 turn at 4 points a turn'
    """
    return _meant(reach, cell)._of(reach.board, unit=reach.unit)


def _meant(reach: Reach | Attacks, cell: CellLike | None) -> Intent:
    """The meaning of a cell."""
    strikes: Attacks | None
    if isinstance(reach, Attacks):
        strikes, where = reach, reach.reach
    elif isinstance(reach, Reach):
        where, strikes = reach, None
        if reach.unit.attack is not None:
            strikes = reach._derived.get("attacks")
            if strikes is None:
                strikes = attacks_of(reach.board, reach.unit, None, reach)
                # the pointer moves on, and asks of the next cell
                reach._derived["attacks"] = strikes
    else:
        raise InputError("reach", "must be a Reach, or Attacks", reach)
    board, unit = (reach.board, reach.unit)
    if cell is None or (found := one_cell(cell, "cell")) not in board.grid:
        return Intent("nothing", None, why="there is no cell")
    # a kite can hover over a scout: all who are there may be meant
    others = [board.unit_at(found, layer=layer) for layer in board.unit_layers]
    there = [each for each in others if each is not None]
    aims = {each.name: strikes.get(each.name) for each in there} if strikes is not None else {}
    for other in there:
        aim = aims.get(other.name)
        if isinstance(aim, Aim) and other.name != unit.name:
            way = None if where is None or aim.stand == unit.at else where.route_to(aim.stand)
            return Intent("attack", found, other.name, way, aim.stand, aim.cell)
    for other in there:
        if other.side == unit.side:
            return Intent("select", found, other.name)
    reasons = [aim.why for aim in aims.values() if not isinstance(aim, Aim)]
    blockers: tuple[str, ...] = ()
    if where is None:
        reasons.append(f"{unit.name!r} does not move")
    else:
        entry = where.get(found)
        if isinstance(entry, Entry):
            return Intent("move", found, route=where.route_to(found))
        # why it cannot be attacked comes first: the click was on somebody
        reasons.append(entry.why)
        blockers = entry.blockers
    target = there[0].name if there else ""
    return Intent("refused", found, target, why=reasons[0], blockers=blockers)
