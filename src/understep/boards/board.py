"""The board: a grid, its ground and its units, always consistent."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Container, Mapping
from copy import copy
from threading import Lock
from typing import Any, Self, TypeVar, cast

import numpy as np
from numpy.typing import NDArray

from understep.boards.edge import Edge
from understep.boards.journal import Journal, Span
from understep.boards.links import LinkTable
from understep.boards.roster import Roster
from understep.boards.sides import Marked, Sides
from understep.boards.site import Value
from understep.boards.store import Layer, Store, Table
from understep.boards.terrain import TerrainLike
from understep.boards.unit import Mover
from understep.errors import InputError, expect, text
from understep.grids.cell import Cell, Cells, CellsLike, IntArray
from understep.grids.grid import Grid
from understep.grids.picking import pick_raised
from understep.grids.pictures import Stand
from understep.grids.world import FloatArray

T = TypeVar("T", bound="Watcher")
MANY = ("steps",), ("areas",)  # of what is derived from a board: those that each movement adds
MOST_DERIVED = 64  # of these; the oldest go first
_deriving = Lock()
LAID = (Layer, LinkTable)  # what a movement's steps depend on


class Watcher:
    """Something derived from a board, which is told what has changed."""

    def touched(self, numbers: IntArray) -> None:
        """Take note of cells whose ground, edges or links have changed, by number."""

    def manned(self, name: str) -> None:
        """Take note of a unit that came, went or moved."""

    def share(self, board: Board) -> Watcher:
        """The same for a copy of the board, which may go its own way from here."""
        raise NotImplementedError


class Board(Sides):
    """A grid plus everything that changes on it.

    Parameters
    ----------
    grid
        The cells.
    terrain
        Name to movement cost, None (impassable) or `Terrain`.
    fill
        The terrain of every cell to begin with; by default the first of ``terrain``.
    edges
        Name to `Edge`: the kinds of walls, roads and doors that can stand between cells.
    properties
        Name to default: what else the game knows of every cell, a bool, int, float or str.
    strict_names
        Whether a movement that uses a terrain or kind of edge which the board does not have is
        refused. Else there is a `NameWarning`, once, where the board has a name much like it.

    Raises
    ------
    InputError, CostError
        A table that is empty, a cost that cannot be, or a default of another type.
    NameUnknownError
        ``fill`` names no terrain.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.HexGrid(6, 4), {"turf": 1, "mud": 3, "deep": None})
    >>> board.paint("mud", [(1, 1), (2, 1)])
    >>> board.terrain((2, 1))
    'mud'
    """

    def __init__(
        self,
        grid: Grid,
        terrain: dict[str, TerrainLike],
        fill: str | None = None,
        edges: Mapping[str, Edge] | None = None,
        properties: Mapping[str, Value] | None = None,
        *,
        strict_names: bool = False,
    ) -> None:
        if not isinstance(grid, Grid):
            raise InputError("grid", "must be a SquareGrid or HexGrid", grid)
        self.grid = grid
        self._lay(terrain, fill)
        self._fence({} if edges is None else edges)
        self._declare({} if properties is None else properties)
        expect("strict_names", strict_names, bool, "must be True or False")
        #: Whether names that the board does not have are refused; it is not saved.
        self.strict_names = strict_names
        self._links = LinkTable()
        self._bars = {}
        self._shut_out = frozenset(
            side for kind in self.terrains.values() for side in kind.closed_to
        )
        self._sides = Table[str, int]()
        self._roster = Roster(grid, self._sides, {}, {})
        self._serials = itertools.count()
        self._facts = Table[str, Any]({"title": ""})
        self._derived: dict[tuple[Any, ...], Watcher] = {}
        self._memories, self._marked = Table(), Marked()
        self._journal = Journal(self._told)
        #: Movements by name, kept in the board file; those of its units need not be listed. Not
        #: part of the journal.
        self.movements: dict[str, Mover] = {}

    def __repr__(self) -> str:
        units = len(self._roster.values)
        return f"Board({self.grid!r}, {len(self.terrains)} terrains, {units} units)"

    @property
    def title(self) -> str:
        """A line for people, kept in the board file."""
        return str(self._facts.values["title"])

    @title.setter
    def title(self, line: str) -> None:
        text("title", line, empty=True)
        self._journal.write(self._facts, "title", line)

    # the journal

    @property
    def state(self) -> int:
        """Identity of the present contents: it differs after every change.

        It comes back with them after `undo` or a `trial`. No two boards share one, unless one is a
        copy of the other.
        """
        return self._journal.state

    def undo(self) -> bool:
        """Take back the last change, or the last batch; whether there was one.

        The last 1000 are kept. What was made of a board before is valid again.

        Raises
        ------
        JournalError
            Inside a batch or trial.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1, "mud": 3})
        >>> board.paint("mud", (1, 1))
        >>> board.undo(), board.terrain((1, 1)), board.redo(), board.terrain((1, 1))
        (True, 'turf', True, 'mud')
        """
        return self._journal.undo()

    def redo(self) -> bool:
        """Make the change again that was last undone; whether there was one.

        Raises
        ------
        JournalError
            Inside a batch or trial.
        """
        return self._journal.redo()

    def forget(self) -> None:
        """Forget all steps: there is nothing to undo or redo, as on a board just loaded.

        Raises
        ------
        JournalError
            Inside a batch or trial.
        """
        self._journal.forget()

    def batch(self) -> Span:
        """Make one change of all that is done inside: ``with board.batch(): ...``.

        Where an error gets out of it, none of it was done.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1, "mud": 3})
        >>> with board.batch():
        ...     board.paint("mud", (1, 1))
        ...     board.raise_to(2, (1, 1))
        >>> board.undo(), board.terrain((1, 1)), board.undo()
        (True, 'turf', False)
        """
        return self._journal.span(keeps=True)

    def join(self, state: int) -> None:
        """Make one change of all since an earlier state: one `undo` takes them back together.

        Does nothing if so long ago is not known any more, or inside a batch or trial that began
        later than that.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1, "mud": 3})
        >>> before = board.state
        >>> board.paint("mud", (1, 1))
        >>> board.paint("mud", (2, 1))
        >>> board.join(before)
        >>> board.undo(), board.terrain((1, 1)), board.undo()
        (True, 'turf', False)
        """
        self._journal.join(state)

    def trial(self) -> Span:
        """Try something out: all edits inside are rolled back at the end, also after an error.

        For plans that look ahead. Costs what is touched; trials and batches nest.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.HexGrid(9, 9), {"turf": 1})
        >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=2)), at=(0, 0))
        >>> with board.trial():
        ...     moved = board.put("scout", at=(4, 4))
        ...     len(us.reach(board, "scout"))
        19
        >>> tuple(board.unit("scout").at)
        (0, 0)
        """
        return self._journal.span(keeps=False)

    def changed_since(self, state: int) -> Cells | None:
        """The cells that may differ from an earlier state, row by row; None if that is not known.

        For refreshing only what needs it. Known are the states before each change that could be
        undone, or rolled back at the end of a trial, and those that `redo` leads to.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1, "mud": 3})
        >>> before = board.state
        >>> board.paint("mud", [(1, 1), (0, 0)])
        >>> board.changed_since(before)
        Cells([(0, 0), (1, 1)], 2)
        """
        expect("state", state, int, "must be a state of this board")
        changes = self._journal.changes_since(state)
        if changes is None:
            return None
        numbers: set[int] = set()
        for change in changes:
            numbers.update(map(int, change.store.where(change.keys, change.old, change.new)))
        return Cells(self.grid.cells_of(np.array(sorted(numbers), dtype=np.int64)))

    def altered_since(self, state: int, units: Container[str] | None = ()) -> bool:
        """Whether terrain, levels, edges, links, blocks or values may differ from an earlier state.

        Or any of some units, given by name; None: any unit. True if that is not known.
        """
        if state == self.state:
            return False
        changes = self._journal.changes_since(state)
        if changes is None:
            return True
        return any(
            (units is None or change.keys in units)
            if change.store is self._roster
            else self._is_land(change.store)
            for change in changes
        )

    def _is_land(self, store: Store) -> bool:
        """Whether steps and sight depend on a store."""
        return isinstance(store, LAID)

    def copy(self) -> Board:
        """A board with the same contents, independent of this one from here on.

        What neither has changed since is shared, step tables too, so it is cheap on boards of any
        size. The copy has the same `state`, and no steps to undo.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1, "mud": 3})
        >>> other = board.copy()
        >>> other.paint("mud", (1, 1))
        >>> board.terrain((1, 1)), other.terrain((1, 1))
        ('turf', 'mud')
        """
        twin = self._twin()
        twin._journal = Journal(twin._told, self._journal.state)
        if self._memories.values:
            twin._memories = Table({s: m.joined(twin) for s, m in self._memories.values.items()})
            twin._journal.follow = twin._follow
        return twin

    def _twin(self) -> Self:
        """The same contents, shared until one of both writes; without a journal."""
        twin = copy(self)  # all that never changes; then the stores, and what follows from them
        twin._ground, twin._levels = self._ground.share(), self._levels.share()
        twin._edges, twin._links = self._edges.share(), self._links.share()
        twin._values = {name: layer.share() for name, layer in self._values.items()}
        twin._bars = {side: layer.share() for side, layer in self._bars.items()}
        twin._sides, twin._facts = self._sides.share(), self._facts.share()
        twin._roster = self._roster.shared(twin._sides)
        start = 1 + max((listed.serial for listed in self._roster.values.values()), default=-1)
        twin._serials = itertools.count(start)
        twin.movements = dict(self.movements)
        twin._memories, twin._marked = Table(), Marked()
        twin._derived = {key: each.share(twin) for key, each in list(self._derived.items())}
        return twin

    def _told(self, store: Store, keys: Any) -> None:
        """Pass on which cells' ground, edges or links have changed."""
        if isinstance(store, LAID):
            numbers = store.where(keys, None, None)
            self._mark(numbers)
            for watcher in self._derived.values():
                watcher.touched(numbers)
        elif store is self._roster:
            self._mark(name=keys)
            for watcher in self._derived.values():
                watcher.manned(keys)

    # the world

    def center(self, cells: CellsLike) -> FloatArray:
        """As the grid's `center`, elevation included."""
        return self.grid.center(cells, self._level(cells))

    def corners(self, cells: CellsLike) -> FloatArray:
        """As the grid's `corners`, elevation included."""
        return self.grid.corners(cells, self._level(cells))

    def anchor(
        self, cells: CellsLike, stand: Stand = "middle", picture: tuple[float, float] = (0, 0)
    ) -> FloatArray:
        """As the grid's `anchor`, elevation included."""
        return self.grid.anchor(cells, stand, picture, self._level(cells))

    def cell_at(self, point: tuple[float, float]) -> Cell | None:
        """The cell seen at a world point: of raised tops and front faces, the nearest.

        Raises
        ------
        InputError
            ``point`` is not two finite numbers.
        """
        flat = self.grid.cell_at(point)
        if not (self._raised and self.grid.frame.lift):
            return flat
        cells, inside = self.cells_at(point)
        return Cell(*cells.tolist()) if inside else None

    def cells_at(self, points: Any) -> tuple[IntArray, NDArray[np.bool_]]:
        """As the grid's `cells_at`, of raised tops and front faces the nearest.

        A cell is a pillar that stands on level 0, or on the lowest level of the board.
        """
        if not (self._raised and self.grid.frame.lift):
            return self.grid.cells_at(points)
        return pick_raised(self.grid, self.elevation, points)

    # what others derive from the board

    def derived(self, key: tuple[Any, ...], make: Callable[[], T]) -> T:
        """What is kept under a key; made when it is not there yet. It is told of every edit."""
        found = self._derived.get(key)
        if found is None:
            found = make()
            with _deriving:
                found = self._derived.setdefault(key, found)
                if len(self._derived) > MOST_DERIVED:
                    many = [each for each in self._derived if each[:1] in MANY]
                    for old in many[: max(len(many) - MOST_DERIVED, 0)]:
                        del self._derived[old]
        return cast(T, found)

    def ground_codes(self) -> NDArray[np.uint8]:
        """The terrain code of every cell, by number; a view for step tables, not to be kept."""
        return self._ground.array

    def levels(self) -> FloatArray:
        """The level of every cell, by number; a view for step tables, not to be kept."""
        return self._levels.array

    def property_layers(self) -> dict[str, NDArray[Any]]:
        """The declared properties of every cell, by number; views for step tables."""
        return {name: layer.array for name, layer in self._values.items()}
