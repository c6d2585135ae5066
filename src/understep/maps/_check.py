"""Check: what is likely to be wrong with a board, before anybody plays on it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from itertools import combinations
from typing import Any, Literal, NamedTuple, TypeAlias, overload

import numpy as np
from numpy.typing import NDArray

from understep.boards.board import Board
from understep.boards.footprint import ONE
from understep.boards.names import strays
from understep.boards.unit import Unit
from understep.grids.cell import Cells, IntArray
from understep.moves.answer import Answer, amount, mine
from understep.moves.areas import areas, where_it_can_get
from understep.moves.reach import reach
from understep.overlay import Mark, Overlay, plain_facts
from understep.rules.movement import Movement

LATE = 1 << 30  # turns: never
UNEVEN = 5  # one part in so many of the cells that one is first at
Weight: TypeAlias = Literal["fault", "hint"]


class Finding(NamedTuple):
    """Something that is likely to be wrong with a board.

    Attributes
    ----------
    kind
        "pocket", "trap", "stuck unit", "uneven starts", "head start", "dead terrain", "unused
        terrain", "unused edge", "all blocked", "nothing blocked" or "unknown name".
    weight
        "fault", or "hint" for what may well be meant.
    text
        What was found.
    cells
        Where.
    suggestion
        What could be done.
    """

    kind: str
    weight: Weight
    text: str
    cells: Cells
    suggestion: str

    def plain(self) -> dict[str, Any]:
        """The finding as plain lists and texts, for JSON."""
        return plain_facts(self._asdict())


class Findings(Answer, Sequence[Finding]):
    """What `check` found, faults first: a sequence of `Finding`; false where nothing was found."""

    def __init__(self, board: Board, found: list[Finding]) -> None:
        self._of(board)
        self._found = tuple(found)
        self.unit, self.blockers = None, ()

    def __repr__(self) -> str:
        return f"<Findings: {len(self)}>"

    @overload
    def __getitem__(self, index: int) -> Finding: ...
    @overload
    def __getitem__(self, index: slice) -> Sequence[Finding]: ...
    def __getitem__(self, index: Any) -> Any:
        return self._found[index]

    def __len__(self) -> int:
        return len(self._found)

    def __bool__(self) -> bool:
        return bool(self._found)

    @property
    def why(self) -> str:  # type: ignore[override]
        """That nothing was found, or empty."""
        return "" if self else "nothing was found"

    @property
    def cells(self) -> Cells:
        """The cells of all findings, each once."""
        return Cells._of(dict.fromkeys(cell for finding in self for cell in finding.cells))

    def overlay(self) -> Overlay:
        """The findings as plain data: role "finding", number: which, from 1, text: what it is.

        Where several concern a cell, the first counts.
        """
        marks = {
            cell: Mark("finding", number, finding.text)
            for number, finding in reversed(list(enumerate(self, 1)))
            for cell in finding.cells
        }
        return Overlay._of(marks, priority=2)

    def plain(self) -> dict[str, Any]:
        """The findings as plain lists and texts, for JSON."""
        return {"findings": [finding.plain() for finding in self]}


class Party(NamedTuple):
    """The units that share rules and side, and what they are called."""

    movement: Movement
    side: str
    units: list[Unit]
    name: str


def check(board: Board) -> Findings:
    """Look for what is likely to be wrong with a board.

    Found are ground that nobody who could stand there can get to, places that can be entered and
    not left, units that cannot move, starts of two sides from which the same movement gets to
    different places, sides that are first, in turns, at many more cells than another, terrain that
    no movement can enter, terrains and edges that are never used, boards with everything or nothing
    blocked, and names that a movement or terrain uses and the board does not have. Points and units
    count only for who is first, and where one cannot move.

    Parameters
    ----------
    board
        The board; it is not changed.

    Returns
    -------
    Findings
        Faults first; empty where nothing was found.

    Raises
    ------
    InputError
        ``board`` is not a Board.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.SquareGrid(5, 1), {"turf": 1, "deep": None})
    >>> board.paint("deep", (3, 0))
    >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=3)), at=(0, 0))
    >>> [(finding.kind, list(map(tuple, finding.cells))) for finding in us.maps.check(board)]
    [('pocket', [(4, 0)])]
    """
    parties = parties_of(mine(board))
    found = [
        *_access(board, parties),
        *_stuck(board),
        *_starts(board, parties),
        *_first_there(board),
        *_ground(board, parties),
        *_names(board, parties),
    ]
    return Findings(board, sorted(found, key=lambda finding: finding.weight))


def parties_of(board: Board) -> list[Party]:
    """Who moves on the board; where nobody does, somebody whom each terrain costs its own."""
    found: dict[Any, Party] = {}
    for unit in board.units():
        if isinstance(unit.movement, Movement):
            key = unit.movement.rules, unit.side
            party = found.setdefault(key, Party(unit.movement, unit.side, [], unit.name))
            party.units.append(unit)
    for name, movement in board.movements.items():
        if isinstance(movement, Movement) and all(movement.rules != rules for rules, _ in found):
            found[movement.rules, ""] = Party(movement, "", [], name)
    return list(found.values()) or [Party(Movement(points=1), "", [], "anybody")]


def _access(board: Board, parties: list[Party]) -> Iterator[Finding]:
    """Pockets and traps."""
    grid = board.grid
    stood = np.zeros(grid.cols * grid.rows, dtype=bool)
    reached = np.zeros_like(stood)
    traps: dict[str, IntArray] = {}
    # rules that nobody has yet say nothing of who can get where, unless there are no others
    manned = [party for party in parties if party.units] or parties
    for party in manned:
        found = areas(board, party.movement, side=party.side)
        stood |= found.table().ravel() >= 0
        starts = [unit.at for unit in party.units if unit.at is not None]
        if not starts and len(found):
            # nobody stands there yet: the largest area is taken for the way in
            starts = [found.cells_of(0)[0]]
        inside, lost = where_it_can_get(found, starts)
        reached[inside] = True
        if len(lost):
            traps[party.name] = lost
    for cells in _pieces(board, np.flatnonzero(stood & ~reached)):
        at = f"{amount(len(cells), 'cell')} at {tuple(cells[0])}"
        yield Finding(
            "pocket", "fault", f"nobody can get to {at}", cells,
            "open a way, or make it ground that nobody can stand on",
        )  # fmt: skip
    for name, lost in traps.items():
        for cells in _pieces(board, lost):
            at = f"{amount(len(cells), 'cell')} at {tuple(cells[0])}"
            yield Finding(
                "trap", "fault", f"{name!r} can get to {at}, and not back", cells,
                "let a step lead out, or close the way in",
            )  # fmt: skip


def _pieces(board: Board, numbers: IntArray) -> list[Cells]:
    """Some cells, by number, in pieces that hang together."""
    # in order, so that the first cell of a piece is always the same
    left, pieces = dict.fromkeys(numbers.tolist()), []
    while left:
        todo = [next(iter(left))]
        del left[todo[0]]
        # the list grows while it is read
        for number in todo:
            for cell in board.grid.neighbors(board.grid.numbering.cell_of(number)):
                other = board.grid.numbering.number(cell)
                if other in left:
                    del left[other]
                    todo.append(other)
        pieces.append(board.grid.numbering.cells(np.array(sorted(todo))))
    return pieces


def _stuck(board: Board) -> Iterator[Finding]:
    """Units that cannot move; not posts, which have no points and an attack."""
    for unit in board.units():
        if not isinstance(unit.movement, Movement) or unit.at is None:
            continue
        post = unit.movement.points == 0 and unit.attack is not None
        if not post and len(reach(board, unit.name, turns=None)) == 1:
            nothing = " nor attack: it can do nothing" if unit.attack is None else ""
            yield Finding(
                "stuck unit", "fault", f"{unit.name!r} at {tuple(unit.at)} cannot move{nothing}",
                Cells([unit.at]), "open a way, move what is in its way, or give it points",
            )  # fmt: skip


def _first_there(board: Board) -> Iterator[Finding]:
    """Sides that are first at many more cells than another, of those that both can get to."""
    soonest: dict[str, NDArray[np.float64]] = {}
    for unit in board.units():
        if isinstance(unit.movement, Movement) and unit.at is not None:
            turns = reach(board, unit.name, turns=None).table("turn")
            turns = np.where(turns > 0, turns, LATE)
            before = soonest.get(unit.side)
            soonest[unit.side] = turns if before is None else np.minimum(before, turns)
    for one, other in combinations(sorted(soonest), 2):
        both = (soonest[one] < LATE) & (soonest[other] < LATE)
        ahead = both & (soonest[one] < soonest[other])
        behind = both & (soonest[other] < soonest[one])
        # the finding is about the side that is first at more
        if behind.sum() > ahead.sum():
            one, other, ahead, behind = other, one, behind, ahead
        many, few = int(ahead.sum()), int(behind.sum())
        if (many - few) * UNEVEN > many + few:
            cells = board.grid.numbering.cells(np.flatnonzero(ahead.ravel()))
            yield Finding(
                "head start", "hint",
                f"the {one} are first at {amount(many, 'cell')}, the {other} at {few}", cells,
                "move the starts, or what slows one, if the sides are to have the same chances",
            )  # fmt: skip


def _starts(board: Board, parties: list[Party]) -> Iterator[Finding]:
    """Sides that get to different places by the same movement."""
    known: dict[Any, tuple[Party, set[int]]] = {}
    for party in parties:
        starts = [unit.at for unit in party.units if unit.at is not None]
        if not starts:
            continue
        found = areas(board, party.movement, side=party.side)
        inside = set(where_it_can_get(found, starts)[0].tolist())
        # compared with the first side that moves like this
        other, theirs = known.setdefault(party.movement.rules, (party, inside))
        if inside != theirs:
            more = f"{len(inside)} cells, {other.name!r} of the {other.side} {len(theirs)}"
            apart = board.grid.numbering.cells_of(np.array(sorted(inside ^ theirs)))
            yield Finding(
                "uneven starts", "hint",
                f"by the same movement {party.name!r} of the {party.side} can get to {more}",
                Cells(apart), "open a way for both, if the sides are to have the same chances",
            )  # fmt: skip


def _ground(board: Board, parties: list[Party]) -> Iterator[Finding]:
    """Terrains and edges that do nothing; everything or nothing blocked."""
    grid = board.grid
    codes = board.terrain_codes()[grid.exists]
    used = np.bincount(codes, minlength=len(board.terrains)) > 0
    can = np.zeros((grid.rows, grid.cols), dtype=bool)
    free = np.ones_like(can)
    for party in parties:
        # a large unit enters cells that its anchor cannot stand on
        single = replace(party.movement, footprint=ONE)
        stands = areas(board, single, side=party.side).table() >= 0
        can |= stands
        free &= stands
    for code, (name, kind) in enumerate(board.terrains.items()):
        where = (board.terrain_codes() == code) & grid.exists
        if not used[code]:
            yield Finding(
                "unused terrain", "hint", f"no cell is {name!r}", Cells(),
                "paint it somewhere, or take it out",
            )  # fmt: skip
        elif kind.cost is not None and not (can & where).any():
            cells = grid.numbering.cells(np.flatnonzero(where.ravel()))
            yield Finding(
                "dead terrain", "fault",
                f"no movement can enter {name!r}, whose own cost is {float(kind.cost):g}", cells,
                "let a movement enter it, or make it impassable",
            )  # fmt: skip
    laid = {edge.kind for edge in board.edges()}
    for name in [name for name in board.edge_kinds if name not in laid]:
        yield Finding(
            "unused edge", "hint", f"no edge is a {name!r}", Cells(),
            "lay one somewhere, or take it out",
        )  # fmt: skip
    if not can.any():
        yield Finding(
            "all blocked", "fault", "no movement can enter any cell", grid.cells,
            "see to the costs of terrains and movements",
        )  # fmt: skip
    elif free[grid.exists].all() and not board.edges():
        yield Finding(
            "nothing blocked", "hint", "every movement can enter every cell", Cells(),
            "fine for an open field; else see whether obstacles got lost",
        )  # fmt: skip


def _names(board: Board, parties: list[Party]) -> Iterator[Finding]:
    """Names that movements and terrains use, and that the board does not have."""
    found = [
        (f"the movement of {party.name!r}", strays(board, party.movement)) for party in parties
    ]
    seen = set()
    for who, names in [*found, ("a terrain", strays(board, None, ""))]:
        for stray in names:
            # several movements can share a word that is not there
            if (stray.kind, stray.name) in seen:
                continue
            seen.add((stray.kind, stray.name))
            yield Finding(
                "unknown name", "fault" if stray.close else "hint", f"{who}, {stray.text}", Cells(),
                "write it as on the board, or take it out",
            )  # fmt: skip
