"""Turns: whose turn it is, and who can still do something."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from understep.boards.board import Board
from understep.boards.cost import fraction
from understep.boards.names import meet_sides
from understep.boards.turn import Turn
from understep.boards.unit import Unit
from understep.checks import expect, items, text, whole
from understep.errors import InputError, NameUnknownError
from understep.moves.answer import mine, movement_of, points_left

Hook = Callable[["Turns"], None]


class Turns:
    """Whose turn it is on a board: sides in order, points and attacks used, the last side standing.

    What it keeps is part of the board's state: undone, rolled back, copied and saved with it.

    Parameters
    ----------
    board
        The board.
    sides
        The sides, in order; None: go on as the board says, such as one that was saved. Units can
        come later: a side that has none yet is taken, with a `NameWarning` where its name is much
        like that of a side which has.
    attacks
        How many attacks a unit has in a turn.
    starts, ends
        Called at the start of a side's turn, and at its end, with this: for rules of the game's.
        What they change belongs to the same step of undo.

    Raises
    ------
    InputError
        No sides, one of them twice, or none to go on with; ``attacks`` that is not a whole number
        of 0 or more.
    NameUnknownError
        Such a name, on a board with ``strict_names``.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.HexGrid(9, 7), {"turf": 1})
    >>> rules = us.Movement(points=4)
    >>> for name, side, col in (("scout", "wardens", 1), ("raider", "wreckers", 7)):
    ...     unit = board.add(us.Unit(name, side, rules, attack=us.Attack()), at=(col, 3))
    >>> turns = us.Turns(board, ["wardens", "wreckers"])
    >>> turns.side, [unit.name for unit in turns.ready]
    ('wardens', ['scout'])
    >>> turns.end(), turns.end(), turns.round
    ('wreckers', 'wardens', 2)
    >>> raider = board.remove("raider")
    >>> turns.over, turns.winner
    (True, 'wardens')
    """

    def __init__(
        self,
        board: Board,
        sides: Sequence[str] | None = None,
        *,
        attacks: int = 1,
        starts: Hook | None = None,
        ends: Hook | None = None,
    ) -> None:
        self.board, self._attacks = mine(board), whole("attacks", attacks, 0)
        self._starts, self._ends = starts, ends
        if sides is not None:
            order = tuple(items("sides", sides, "must be names of sides"))
            if (
                not order
                or not all(isinstance(side, str) and side for side in order)
                or len(set(order)) < len(order)
            ):
                raise InputError("sides", "must be names of sides, none of them twice", sides)
            for side in order:
                text("sides", side)
            meet_sides(board, "sides", order)
            board.turn = Turn(order, order[0])
        elif board.turn is None:
            raise InputError("sides", "must be given, as the board has no turn to go on with", None)

    def __repr__(self) -> str:
        return f"<Turns: round {self.round}, {self.side}>"

    @property
    def _turn(self) -> Turn:
        turn = self.board.turn
        if turn is None:  # undone beyond its beginning
            raise InputError("board", "has no turn to go on with", self.board)
        return turn

    @property
    def sides(self) -> tuple[str, ...]:
        """The sides, in order."""
        return self._turn.sides

    @property
    def side(self) -> str:
        """The side whose turn it is."""
        return self._turn.side

    @property
    def round(self) -> int:
        """How many times it has gone round, from 1."""
        return self._turn.round

    @property
    def standing(self) -> tuple[str, ...]:
        """The sides that have a unit left, in order."""
        # sides that do not take turns cannot win
        left = {unit.side for unit in self.board.units()}
        return tuple(side for side in self.sides if side in left)

    @property
    def over(self) -> bool:
        """Whether at most one side has a unit left."""
        return len(self.standing) <= 1

    @property
    def winner(self) -> str | None:
        """The last side with units; None while there are several, or no unit is left."""
        return self.standing[0] if len(self.standing) == 1 else None

    def attacks_left(self, unit: str) -> int:
        """How many attacks a unit has left this turn: none where it is not its side's turn.

        Raises
        ------
        NameUnknownError
            No such unit.

        Examples
        --------
        >>> import understep as us
        >>> board = us.maps.shipped("fen")
        >>> turns = us.Turns(board, ["wardens", "wreckers"])
        >>> turns.attacks_left("scout")
        1
        """
        who = self.board.unit(unit)
        if who.side != self.side or who.attack is None:
            return 0
        return max(0, self._attacks - dict(self._turn.used).get(unit, 0))

    def attacked(self, unit: str) -> int:
        """Take note of an attack of a unit, and return how many it has left.

        Raises
        ------
        NameUnknownError
            No such unit.
        InputError
            It has no attack left this turn.

        Examples
        --------
        >>> import understep as us
        >>> board = us.maps.shipped("fen")
        >>> turns = us.Turns(board, ["wardens", "wreckers"])
        >>> turns.attacked("scout"), turns.attacks_left("scout")
        (0, 0)
        """
        left = self.attacks_left(unit)
        if not left:
            raise InputError("unit", f"has no attack left in this turn of the {self.side}", unit)
        used = dict(self._turn.used)
        self._use({**used, unit: used.get(unit, 0) + 1})
        return left - 1

    def done(self, unit: str) -> None:
        """Take a unit's points and attacks for this turn: it does nothing more.

        Raises
        ------
        NameUnknownError
            No such unit.
        InputError
            It is not its side's turn.

        Examples
        --------
        >>> import understep as us
        >>> board = us.maps.shipped("fen")
        >>> turns = us.Turns(board, ["wardens", "wreckers"])
        >>> turns.done("scout")
        >>> "scout" in [unit.name for unit in turns.ready]
        False
        """
        if self.board.unit(unit).side != self.side:
            raise InputError("unit", f"is not of the {self.side}, whose turn it is", unit)
        # points and attacks are one step to undo
        with self.board.batch():
            self.board.set_left(unit, 0)
            self._use({**dict(self._turn.used), unit: self._attacks})

    def renew(self, who: str) -> None:
        """Give a unit, or all units of a side, a new turn: all points, and attacks not yet made.

        The turn can be that of any side; for spells, and for units that act twice.

        Parameters
        ----------
        who
            The name of a unit, or of a side.

        Raises
        ------
        NameUnknownError
            No such unit, and no such side.
        InputError
            ``who`` is not a name.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.HexGrid(9, 7), {"turf": 1})
        >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=4), left=1), at=(1, 3))
        >>> turns = us.Turns(board, ["wardens"])
        >>> turns.renew("scout")
        >>> board.unit("scout").left
        4
        """
        expect("who", who, str, "must name a unit or side")
        # a unit may be named like a side: then it is meant with that side's units
        names = [unit.name for unit in self.board.units() if who in (unit.name, unit.side)]
        if not names and who not in self.board.sides:
            known = [*(unit.name for unit in self.board.units()), *self.board.sides]
            raise NameUnknownError("who", "unit or side", who, known)
        with self.board.batch():
            for name in names:
                self.board.set_left(name, None)
            used = {name: many for name, many in self._turn.used if name not in names}
            self._use(used)

    def _use(self, used: dict[str, int]) -> None:
        self.board.turn = self._turn._replace(used=tuple(sorted(used.items())))

    @property
    def ready(self) -> tuple[Unit, ...]:
        """The units of the side whose turn it is that have points or attacks left."""
        return tuple(
            unit
            for unit in self.board.units()
            if unit.side == self.side
            and (points_left(unit) > 0 or self.attacks_left(unit.name) > 0)
        )

    def end(self) -> str:
        """End the turn: the next side that has units left begins its own; and return that side.

        Its units have all their points again, and what their movement lets them carry over.

        Examples
        --------
        >>> import understep as us
        >>> board = us.maps.shipped("fen")
        >>> turns = us.Turns(board, ["wardens", "wreckers"])
        >>> turns.end(), turns.end(), turns.round
        ('wreckers', 'wardens', 2)
        """
        with self.board.batch():
            if self._ends is not None:
                self._ends(self)
            turn, standing = self._turn, self.standing
            place, later = turn.sides.index(turn.side), turn.round
            for step in range(1, len(turn.sides) + 1):
                side = turn.sides[(place + step) % len(turn.sides)]
                if side in standing:
                    later += (place + step) // len(turn.sides)
                    break
            else:
                side = turn.side
            self.board.turn = Turn(turn.sides, side, later)
            for unit in self.board.units():
                if unit.side == side:
                    movement = movement_of(unit)
                    full = fraction(movement.points)
                    if later > 1:  # what it has before its first turn is not left over
                        full += min(points_left(unit), fraction(movement.carry))
                    self.board.set_left(unit.name, full)
            if self._starts is not None:
                self._starts(self)
        return self.side
