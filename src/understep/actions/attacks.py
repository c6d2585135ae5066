"""Attacks: what a unit can attack now or after moving, and from where."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cached_property
from typing import Any, NamedTuple, cast

import numpy as np

from understep.actions.band import Band, aimed_at, rows_from
from understep.actions.hits import Hits, Struck
from understep.boards.attack import Attack
from understep.boards.board import Board
from understep.boards.refusal import Refusal, cell_on
from understep.boards.unit import Unit
from understep.checks import truth
from understep.errors import InputError, NameUnknownError, NotReached
from understep.grids.cell import Cell, CellLike, Cells, IntArray
from understep.moves.answer import Answer, KnownTo, known
from understep.moves.reach import Reach, reach
from understep.overlay import Mark, Overlay, plain_facts
from understep.sight.rows import Ranges

MOST_MARKED = 1 << 22  # cells, for all stands, where what disks affect is marked


class Aim(NamedTuple):
    """How a cell or a unit can be attacked.

    Attributes
    ----------
    cell
        The cell to aim at, from ``stand``.
    stand
        The best stand: the one it gets to first.
    stands
        All cells to attack from, nearest first.
    units
        The names of the units that the attack from ``stand`` affects.
    """

    cell: Cell
    stand: Cell
    stands: Cells
    units: tuple[str, ...]

    @property
    def why(self) -> str:
        """Empty: it is not a refusal."""
        return ""


class Attacks(Answer):
    """What a unit can attack; made by `attacks`.

    ``cells`` are those it can aim at (row by row; also ``cell in attacks``, iteration, ``len``),
    ``targets`` the units it can affect, ``attacks[cell or name]`` an `Aim`.
    """

    unit: Unit

    def __init__(
        self,
        board: Board,
        unit: Unit,
        attack: Attack,
        reach: Reach | None,
        stands: IntArray | None = None,
    ) -> None:
        self._of(board)
        if stands is None:
            here = np.array([board.grid.numbering.number(unit.at)])
            stands = here if reach is None else reach._numbers
        self._band = Band(board, unit, attack, stands)
        self._hits = Hits(board.grid, attack.pattern)
        self._units = {each.name: each for each in board.units()}  # as they are now
        self.unit, self.blockers = unit, ()
        #: How it attacks.
        self.attack = attack
        #: Where it can get first, from the same computation; None: it does not move.
        self.reach = reach

    def __repr__(self) -> str:
        return f"<Attacks of {self.unit.name!r}: {len(self)} cells>"

    @property
    def why(self) -> str:  # type: ignore[override]
        """Why it can aim at no cell; else empty."""
        return "" if len(self._numbers) else f"{self.unit.name!r} can aim at no cell"

    @property
    def _numbers(self) -> IntArray:
        """The cells it can aim at, by number, in order."""
        return self._band.cells[0]

    @cached_property
    def cells(self) -> Cells:
        """The cells it can aim at, row by row."""
        return self._board.grid.numbering.cells(self._numbers)

    def __len__(self) -> int:
        return len(self._numbers)

    def __iter__(self) -> Iterator[Cell]:
        return iter(self.cells)

    def __contains__(self, cell: object) -> bool:
        grid = self._board.grid
        return cell in grid and self._band.first(grid.numbering.of(cell)) is not None

    def _unit(self, name: str, argument: str = "what") -> Unit:
        """A unit as it was when asked."""
        try:
            return self._units[name]
        except (KeyError, TypeError):
            raise NameUnknownError(argument, "unit", name, self._units) from None

    def _stand(self, place: int) -> Cell:
        return self._board.grid.numbering.cell_of(int(self._band.starts[place, 0]))

    @cached_property
    def _keys(self) -> IntArray:
        """Of each stand, in order, how soon it gets there, as a number that grows with the way."""
        return (
            np.zeros(len(self._band.starts), np.int64) if self.reach is None else self.reach._keys
        )

    def _soon(self, target: Unit) -> int:
        """How soon it can attack one of its targets, as such a number."""
        return int(self._keys[next(iter(self._ways(target)))])

    def _places(self, target: str) -> list[int]:
        """The places, among the stands, from which it can affect a unit; none if it would not."""
        unit = self._unit(target)
        return list(self._ways(unit)) if self._meant(unit) else []

    def ways(self, what: str | CellLike) -> dict[Cell, Cell]:
        """The stands for a cell or a unit, nearest first, each with the cell to aim at from there.

        None for units that it would not affect.

        Raises
        ------
        NameUnknownError
            No such unit.
        CellError
            ``what`` is not a cell, or off the board.
        StaleError
            The board has changed since.

        Examples
        --------
        >>> import understep as us
        >>> board = us.maps.shipped("fen")
        >>> attacks = us.attacks(board, "pikes")
        >>> next(iter(attacks.ways("billhooks").items()))
        (Cell(col=11, row=9), Cell(col=12, row=9))
        """
        return dict(self._pairs(what))

    def _pairs(self, what: str | CellLike) -> Iterator[tuple[Cell, Cell]]:
        """The same one by one: mostly the first is asked for alone."""
        grid = self._board.grid
        if isinstance(what, str):
            target = self._unit(what)
            ways = self._ways(target) if self._meant(target) else {}
        else:
            number = grid.numbering.of(what, "what")
            ways = dict.fromkeys(self._band.stands(number), number)
        return ((self._stand(place), grid.numbering.cell_of(aim)) for place, aim in ways.items())

    def stands(self, what: str | CellLike) -> Cells:
        """The cells from which it can attack a cell or a unit, nearest first; none if it cannot.

        Raises
        ------
        NameUnknownError
            No such unit.
        CellError
            ``what`` is not a cell, or off the board.
        StaleError
            The board has changed since.

        Examples
        --------
        >>> import understep as us
        >>> board = us.maps.shipped("fen")
        >>> attacks = us.attacks(board, "pikes")
        >>> [tuple(cell) for cell in attacks.stands("billhooks")][:3]
        [(11, 9)]
        """
        numbering = self._board.grid.numbering
        if isinstance(what, str):
            places = self._places(what)
        else:
            places = self._band.stands(numbering.of(what, "what"))
        return numbering.cells(self._band.starts[places, 0])

    def get(self, what: str | CellLike | None) -> Aim | Refusal:
        """How a cell or a unit can be attacked, or a false `Refusal` that says why it cannot.

        Raises
        ------
        NameUnknownError
            No such unit.
        CellError
            ``what`` is not a cell. (None, and cells off the board, are refused.)
        StaleError
            The board has changed since.

        Examples
        --------
        >>> import understep as us
        >>> board = us.maps.shipped("fen")
        >>> attacks = us.attacks(board, "pikes")
        >>> tuple(attacks.get("billhooks").stand), attacks.get("punt").why
        ((11, 9), '(12, 4) is 2 cells away at best, and its range is 1 to 1')
        """
        return self._found(what, "what")

    def _found(self, what: str | CellLike | None, argument: str) -> Aim | Refusal:
        """The same, of an argument that the caller calls otherwise."""
        grid = self._board.grid
        if isinstance(what, str):
            # on the board of a side, that there is no such unit would tell what is hidden
            side = self._board._contents.known_by
            if side and what not in self._units:
                return Refusal(f"the {side} know of no unit {what!r}")
            target = self._unit(what, argument)
            if not self._meant(target):
                kind = "itself" if target.name == self.unit.name else f"of the {target.side}"
                return Refusal(f"{what!r} is {kind}, and the attack affects {self._whom()}")
            cell = target.at
        else:
            found = cell_on(grid, what, argument)
            if isinstance(found, Refusal):
                return found
            cell = what = found
        # the same search says that it can, and why not
        ways = self.ways(what)
        if not ways:
            return Refusal(self._band.why_not(cell))
        stand, aimed = next(iter(ways.items()))
        return Aim(aimed, stand, Cells(list(ways)), self.affected(stand, aimed))

    def __getitem__(self, what: str | CellLike) -> Aim:
        found = self.get(what)
        if isinstance(found, Refusal):
            raise NotReached(found.why)
        return found

    def _whom(self) -> str:
        return {"foe": "foes", "friend": "friends", "anyone": "others"}[self.attack.affects]

    def _meant(self, other: Unit) -> bool:
        """Whether a unit is one that it would attack."""
        if other.name == self.unit.name:
            return self.attack.low == 0 and self.attack._meets(own=True)
        return self.attack._meets(other.side == self.unit.side)

    @cached_property
    def targets(self) -> tuple[str, ...]:
        """The names of the units it can attack, in the order of the board."""
        units, fresh = list(self._units.values()), self._board.state == self._state
        # who stands there now tells, as long as that is who stood there when it was asked
        found = fresh and self.attack.pattern.shape == "cell"
        if found:
            there = {*self._band.manned(), self.unit.name}
            units = [unit for unit in units if unit.name in there]
        return tuple([
            unit.name for unit in units
            if self._meant(unit) and ((found and self._simple(unit)) or self._can(unit))
        ])  # fmt: skip

    def _can(self, target: Unit) -> bool:
        """Whether a unit can be affected from anywhere."""
        if self._simple(target):
            return self._band.first(self._board.grid.numbering.number(target.at)) is not None
        return bool(self._ways(target))

    def _simple(self, target: Unit) -> bool:
        """Whether it is affected just where its one cell is aimed at."""
        one = len(target.movement.footprint) == 1 and target.name != self.unit.name
        return one and self.attack.pattern.shape == "cell"

    # the pattern

    def hits(self, stand: CellLike, cell: CellLike) -> Cells:
        """The cells that an attack affects, made from a stand and aimed at a cell.

        Raises
        ------
        CellError
            ``stand`` or ``cell`` is not a cell, or off the board.

        Examples
        --------
        >>> import understep as us
        >>> board = us.maps.shipped("fen")
        >>> attacks = us.attacks(board, "pikes")
        >>> attacks.hits((11, 9), (12, 9))
        Cells([(12, 9)])
        """
        grid = self._board.grid
        return self._hits.cells(
            grid.numbering.require(stand, "stand"), grid.numbering.require(cell)
        )

    def affected(self, stand: CellLike, cell: CellLike) -> tuple[str, ...]:
        """The names of the units that an attack affects, made from a stand and aimed at a cell.

        Units count where they stood when this was asked for, the unit itself as standing on the
        stand.

        Raises
        ------
        CellError
            ``stand`` or ``cell`` is not a cell, or off the board.

        Examples
        --------
        >>> import understep as us
        >>> board = us.maps.shipped("fen")
        >>> attacks = us.attacks(board, "pikes")
        >>> attacks.affected((11, 9), (12, 9))
        ('billhooks',)
        """
        hits, board = set(self.hits(stand, cell)), self._board
        found = [
            each.name
            for each in self._units.values()
            if each.name != self.unit.name
            and self.attack._meets(own=each.side == self.unit.side)
            and not hits.isdisjoint(board.covered(each))
        ]
        # it has moved to the stand by then
        if self._meant(self.unit) and not hits.isdisjoint(board.covered(self.unit, stand)):
            found.append(self.unit.name)
        return tuple(found)

    def _ways(self, target: Unit) -> dict[int, int]:
        """The stands from which a unit can be affected, by place, each with the cell to aim at."""
        grid, band = self._board.grid, self._band
        if self._simple(target):
            number = grid.numbering.number(target.at)
            return dict.fromkeys(band.stands(number), number)
        if target.name == self.unit.name:
            # no pattern that turns affects the stand itself
            whole = self.attack.pattern.shape in ("cell", "disk")
            return dict(enumerate(band.starts[:, 0].tolist())) if whole else {}
        cells = self._board.covered(target)
        ways: dict[int, int] = {}
        shape = self.attack.pattern.shape
        if shape in ("cell", "disk"):
            aims: Any = [cell for cell in cells if cell in grid]
            if shape == "disk":
                # aimed at any cell near enough, it reaches the unit
                disks = [grid.disk(cell, self.attack.pattern.size) for cell in aims]
                aims = dict.fromkeys([*aims, *(cell for disk in disks for cell in disk)])
            for number in map(grid.numbering.number, aims):
                for place in band.stands(number):
                    ways.setdefault(place, number)
            if shape == "cell" and len(cells) > 1:  # it is as near as the nearest of its cells
                least = band.gaps(grid.numbering.numbers(np.array(cells))).min(axis=1)
                ways = {place: ways[place] for place in ways if least[place] >= self.attack.low}
        else:
            self._band.still()
            hit, *which = self._turning
            there = np.isin(hit, grid.numbering.numbers(np.array(cells)))
            # of the cells to aim at for it the first, which overwrites the others
            pairs = zip(*(each[there].tolist() for each in which), strict=True)
            ways = dict(sorted(pairs, reverse=True))
        return dict(sorted(ways.items()))

    @cached_property
    def _turning(self) -> Struck:
        """What it affects, and from where, if its pattern turns."""
        return self._hits.struck(self._band.starts[:, 0], *self._band.pairs())

    def _struck(self) -> IntArray:
        """The numbers of all cells that it can affect, in order."""
        return self._soonest(np.arange(len(self._band.starts)))[0]

    def _soonest(self, ranks: IntArray) -> tuple[IntArray, IntArray]:
        """The same, and of each cell the least rank of a stand from which it is affected."""
        pattern = self.attack.pattern
        numbers, firsts = self._band.cells
        if pattern.shape == "cell":
            return numbers, ranks[firsts]
        if pattern.shape == "disk":
            inside = self._disks >= 0
            found = self._disks[inside]
            # the first stand for an aim is the soonest for all that the aim affects
            least = np.broadcast_to(ranks[firsts][:, None], inside.shape)[inside]
        else:
            found, places, _ = self._turning
            least = ranks[places]
        order = np.lexsort((least, found))
        struck, first = np.unique(found[order], return_index=True)
        return struck, least[order][first]

    @cached_property
    def _disks(self) -> IntArray:
        """By cell it can aim at, in order, what a disk affects, by number; -1: off the board."""
        numbering, lattice = self._board.grid.numbering, self._board.grid.lattice
        vectors = lattice.nearby(self.attack.pattern.size)[0]
        around = lattice.spread(numbering.cells_of(self._numbers), vectors)
        found: IntArray = np.where(numbering.holds(around), numbering.numbers(around), -1)
        return found

    def _rows(self) -> Ranges | None:
        """What it can affect from each stand; None: that is too much. Not of a single cell."""
        many = len(self._band.starts)
        if self.attack.pattern.shape != "disk":
            cells, places, _ = self._turning
            order = np.argsort(places, kind="stable")
            cells, places = cells[order], places[order]
        else:
            every = self._board.grid.cols * self._board.grid.rows
            if many * every > MOST_MARKED:
                return None
            # a column more, which -1 leads to
            affected = np.zeros((many, every + 1), dtype=bool)
            places, aims = self._band.pairs()
            for each in self._disks[np.searchsorted(self._numbers, aims)].T:
                affected[places, each] = True
            places, cells = np.nonzero(affected[:, :every])
        ends = np.searchsorted(places, np.arange(many + 1)).astype(np.int32)
        return Ranges(ends[:-1], ends[1:], cells.astype(np.int32))

    def overlay(self) -> Overlay:
        """The attacks as plain data, over the reach they are made from.

        Roles as in `Reach.overlay`, "attack" for cells it can aim at but not end on, so that none
        is both, and "target" (text: the name) for units it can attack.
        """
        marks = {} if self.reach is None else dict(self.reach.overlay())
        # where it can end is drawn as such, even if it could aim there
        for cell in self.cells:
            if marks.get(cell, Mark("pass")).role == "pass":
                marks[cell] = Mark("attack")
        start = self.unit.at
        marks[start] = Mark("start", 1, self.unit.name)
        for name in self.targets:
            for cell in self._board.covered(self._units[name]):
                marks[cell] = Mark("target", None, name)
        return Overlay._of(marks)

    def plain(self) -> dict[str, Any]:
        """The attacks as plain lists and names, for JSON."""
        targets = {name: self[name] for name in self.targets}
        return super().plain() | plain_facts({"targets": targets})


def attacks(
    board: Board,
    unit: str,
    *,
    moving: bool = True,
    attack: Attack | None = None,
    known_to: KnownTo = None,
) -> Attacks:
    """What a unit can attack, now or after moving.

    Where it can get and what it can attack from there come from one computation. Units are not in
    the way of sight.

    Parameters
    ----------
    board
        The board; it is not changed.
    unit
        The name of a unit on it.
    moving
        Whether it can move first, with the points it has left; else it attacks from where it is.
    attack
        How it attacks; by default as the unit does.
    known_to
        The side whose knowledge counts; by default the unit's own, if it keeps any, and False: the
        truth.

    Returns
    -------
    Attacks

    Raises
    ------
    NameUnknownError
        No such unit; a side that keeps no knowledge.
    InputError
        The unit has no attack, and none is given.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.HexGrid(12, 7), {"turf": 1, "reeds": us.Terrain(2, cover=1)})
    >>> bow = us.Attack(2, 3)
    >>> archer = us.Unit("archer", "wardens", us.Movement(points=2), attack=bow)
    >>> raider = us.Unit("raider", "wreckers", us.Movement(points=4))
    >>> archer, raider = board.add(archer, at=(2, 3)), board.add(raider, at=(7, 3))
    >>> found = us.attacks(board, "archer")
    >>> found.targets, tuple(found["raider"].stand), (4, 3) in found.reach, (2, 3) in found
    (('raider',), (4, 3), True, True)
    >>> us.attacks(board, "archer", moving=False).get("raider").why
    '(7, 3) is 5 cells away at best, and its range is 2 to 3'
    """
    board = known(board, unit, known_to)
    who = board.unit(unit)
    moving = truth("moving", moving)
    found = attacks_of(board, who, attack, reach(board, unit, known_to=False) if moving else None)
    _ = found.targets  # so that they can be drawn when the board has changed
    return found


def attacks_of(board: Board, unit: Unit, attack: Attack | None, reach: Reach | None) -> Attacks:
    """The attacks of a unit from where it can get."""
    rules = unit.attack if attack is None else attack
    if rules is None:
        raise InputError("unit", "it has no attack; give one by attack=", unit.name)
    if not isinstance(rules, Attack):
        raise InputError("attack", "must be an Attack", attack)
    return Attacks(board, unit, rules, reach)


def rows_struck(board: Board, unit: Unit, stands: IntArray) -> Ranges | None:
    """What a unit can affect from each of some stands; None: that is not kept."""
    attack = cast(Attack, unit.attack)
    if attack.pattern.shape == "cell":
        return rows_from(board, unit, attack, stands)
    return Attacks(board, unit, attack, None, stands)._rows()


def struck_by(board: Board, unit: Unit, reach: Reach) -> IntArray:
    """The numbers of all cells that a unit can affect with its attack, in order."""
    attack = unit.attack
    if attack is not None and attack.pattern.shape == "cell":  # all that there is to it
        return aimed_at(board, unit, attack, reach)
    return attacks_of(board, unit, None, reach)._struck()
