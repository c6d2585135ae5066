"""Knowledge: what a side sees, what it remembers, and what it does not know."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any, Generic, Literal, Protocol, TypeAlias, TypeVar

import numpy as np
from numpy.typing import NDArray

from understep.boards.contents import Contents
from understep.boards.difference import Difference
from understep.boards.journal import Change
from understep.boards.refusal import Refusal, cell_on
from understep.boards.roster import Roster
from understep.boards.store import Layer, Table
from understep.boards.unit import Unit
from understep.checks import expect
from understep.errors import StaleError
from understep.grids.cell import Cell, CellLike, Cells
from understep.grids.grid import Grid
from understep.grids.systems import choice
from understep.overlay import Mark, Overlay, plain_facts, small_picture

Status: TypeAlias = Literal["never", "before", "now"]
STATUS: tuple[Status, ...] = ("never", "before", "now")


B = TypeVar("B")
B_contra = TypeVar("B_contra", contravariant=True)


class Picture(Protocol[B_contra]):
    """A board as a side knows it, as the true board and `Knowledge` see it."""

    look: Any
    counts: Layer
    last: Table[str, Unit]
    grid: Grid
    _contents: Contents

    @property
    def side(self) -> str:
        """The side that it belongs to."""

    @property
    def roster(self) -> Roster:
        """The units that the side knows of."""

    def units(self) -> tuple[Unit, ...]:
        """The same, in order."""

    def covered(self, unit: Unit) -> tuple[Cell, ...]:
        """The cells that a unit takes up."""

    def own_changes(self, state: int) -> list[Change] | None:
        """Its changes since a state of the true board, the last first."""

    def joined(self, truth: B_contra) -> Any:
        """The same knowledge of a copy of the true board."""

    def follow(self, truth: B_contra, marked: Any) -> None:
        """Take over what the side has come to see, or sees no more."""


class Knowledge(Generic[B]):
    """What a side knows, as things are; made by `Board.knowledge` and `understep.fog`."""

    def __init__(self, memory: Any) -> None:
        self._memory: Picture[B] = memory
        #: The side that it belongs to.
        self.side = memory.side

    def __repr__(self) -> str:
        counts = np.bincount(self.table()[self._memory.grid.exists], minlength=3).tolist()
        return f"<Knowledge of the {self.side}: {counts[2]} cells now, {counts[1]} before>"

    def _repr_html_(self) -> str:
        return small_picture(self._memory, self)

    @property
    def board(self) -> B:
        """The board as the side knows it, for every question that a board takes.

        It can be edited inside a trial of the true board alone; its `copy` can be at any time, to
        try things out without giving anything away.
        """
        known: Any = self._memory
        return known  # type: ignore[no-any-return]

    @contextmanager
    def trial(self) -> Iterator[B]:
        """Try something out on the board as the side knows it: ``with ... .trial() as known``.

        All edits inside are rolled back at the end. They concern what the side knows alone, so that
        nothing hidden comes to light, as it might in a trial of the true board.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(9, 1), {"turf": 1})
        >>> scout = us.Unit("scout", "wardens", us.Movement(points=4), sight=1)
        >>> scout, knowledge = board.add(scout, at=(0, 0)), us.fog(board, "wardens")
        >>> with knowledge.trial() as known:
        ...     tuple(known.put("scout", at=(1, 0)).at), knowledge.status((2, 0))
        ((1, 0), 'never')
        >>> tuple(board.unit("scout").at)
        (0, 0)
        """
        known: Any = self._memory
        with known.trial():
            yield known

    #: It is always up to date, and never a no.
    unit, why, stale = None, "", False
    blockers: tuple[str, ...] = ()

    @property
    def cells(self) -> Cells:
        """The cells seen now, row by row."""
        return self.cells_seen("now")

    def get(self, cell: CellLike | None) -> Status | Refusal:
        """As `status`; None, and cells off the board, get a falsy `Refusal`.

        Raises
        ------
        CellError
            ``cell`` is not a cell.

        Examples
        --------
        >>> import understep as us
        >>> board = us.maps.shipped("fen")
        >>> knowledge = us.fog(board, "wardens")
        >>> knowledge.get((6, 6)), knowledge.get((99, 99)).why[:25]
        ('now', '(99, 99) is off the board')
        """
        found = cell_on(self._memory.grid, cell)
        return found if isinstance(found, Refusal) else self.status(found)

    def table(self, column: Literal["status"] = "status") -> NDArray[np.uint8]:
        """What is known of every cell, ``(rows, cols)``: 0 never seen, 1 before, 2 now. A copy.

        Holes of the grid are never seen.

        Raises
        ------
        NameUnknownError
            There is no such column.

        Examples
        --------
        >>> import understep as us
        >>> board = us.maps.shipped("fen")
        >>> knowledge = us.fog(board, "wardens")
        >>> knowledge.table()[:2, :4].tolist()
        [[2, 2, 2, 2], [2, 2, 2, 2]]
        """
        choice(column, Literal["status"], "column")
        grid = self._memory.grid
        known = self._memory._contents.knows(np.arange(grid.cols * grid.rows))
        counts = self._memory.counts.array
        # what is seen now is known, so that the sum is 2
        found = (known.astype(np.uint8) + (counts > 0)).reshape(grid.rows, grid.cols)
        return np.where(grid.exists, found, 0).astype(np.uint8)

    def status(self, cell: CellLike) -> Status:
        """Whether a cell is seen "now", was seen "before" or was "never" seen.

        Raises
        ------
        CellError
            ``cell`` is not a cell, or lies off the board.

        Examples
        --------
        >>> import understep as us
        >>> board = us.maps.shipped("fen")
        >>> knowledge = us.fog(board, "wardens")
        >>> knowledge.status((6, 6)), knowledge.status((21, 0))
        ('now', 'never')
        """
        number = self._memory.grid.numbering.of(cell)
        if self._memory.counts.array[number]:
            return "now"
        return "before" if self._memory._contents.knows(number) else "never"

    def cells_seen(self, status: Status) -> Cells:
        """The cells seen "now", "before" and not now, or "never", row by row.

        Raises
        ------
        NameUnknownError
            An unknown ``status``.

        Examples
        --------
        >>> import understep as us
        >>> board = us.maps.shipped("fen")
        >>> knowledge = us.fog(board, "wardens")
        >>> len(knowledge.cells_seen("now")), len(knowledge.cells_seen("never"))
        (168, 140)
        """
        choice(status, Status, "status")
        grid = self._memory.grid
        return self._listed((self.table() == STATUS.index(status)) & grid.exists)

    @property
    def border(self) -> Cells:
        """The cells never seen that are next to one that was, row by row."""
        grid = self._memory.grid
        known = self.table() > 0
        # from the known cells outwards: on most boards they are fewer
        rim = grid.lattice.around(
            grid.numbering.cells_of(np.flatnonzero(known & grid.exists))
        ).reshape(-1, 2)
        found = np.zeros_like(known)
        found[grid.index(rim[grid.numbering.holds(rim)])] = True
        return self._listed(found & ~known)

    def _listed(self, mask: NDArray[np.bool_]) -> Cells:
        return self._memory.grid.numbering.cells(np.flatnonzero(mask))

    def last_seen(self, name: str) -> Unit | None:
        """A unit of another side as it was when it was last seen; None: never, or seen to go.

        Raises
        ------
        InputError
            ``name`` is not a name.

        Examples
        --------
        >>> import understep as us
        >>> board = us.maps.shipped("fen")
        >>> knowledge = us.fog(board, "wardens")
        >>> knowledge.last_seen("billhooks").at
        Cell(col=12, row=9)
        """
        expect("name", name, str, "must name a unit")
        # no word about names that nobody ever saw: it would give them away
        return self._memory.last.values.get(name)

    @property
    def remembered(self) -> tuple[Unit, ...]:
        """Units of others as last seen, where none of the cells they took up is seen now."""
        memory, found = self._memory, []
        for unit in memory.last.values.values():
            numbers = [memory.grid.numbering.number(cell) for cell in memory.covered(unit)]
            # where it was last is seen now, and it is not there: it is somewhere else
            if unit.name not in memory.roster.values and not memory.counts.array[numbers].any():
                found.append(unit)
        return tuple(found)

    def changes(self, state: int) -> Difference:
        """How it has changed since an earlier `Board.state`.

        Known are the states before each change of the board that could be undone, or rolled back at
        the end of a trial, and those after each that could be made again.

        Raises
        ------
        StaleError
            The state is not known any more.
        InputError
            ``state`` is not a whole number.

        Examples
        --------
        >>> import understep as us
        >>> board = us.maps.shipped("fen")
        >>> knowledge = us.fog(board, "wardens")
        >>> before = board.state
        >>> lookout = board.remove("lookout")
        >>> len(knowledge.changes(before).faded)
        66
        """
        expect("state", state, int, "must be a state of this board")
        memory = self._memory
        changes = memory.own_changes(state)
        if changes is None:
            raise StaleError(f"what changed since state {state} is not known any more")
        return Difference(memory, changes)

    def overlay(self) -> Overlay:
        """The knowledge as plain data.

        Roles "seen before" and "unknown", and "remembered" (text: the name) for units of others
        where they were last seen.
        """
        marks = {cell: Mark("seen before") for cell in self.cells_seen("before")}
        marks |= {cell: Mark("unknown") for cell in self.cells_seen("never")}
        for unit in self.remembered:
            marks[unit.at or Cell(0, 0)] = Mark("remembered", None, unit.name)
        return Overlay._of(marks, priority=0)

    def plain(self) -> dict[str, Any]:
        """The knowledge as plain lists and names, for JSON."""
        units = [unit.name for unit in self._memory.units()]
        remembered = {unit.name: unit.at for unit in self.remembered}
        facts = {"side": self.side, "table": self.table().tolist()}
        return plain_facts(facts | {"units": units, "remembered": remembered})
