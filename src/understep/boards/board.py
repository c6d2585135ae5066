"""The board: a grid, what lies on it and who stands there, always consistent."""

from __future__ import annotations

from collections.abc import Callable, Container, Mapping
from typing import Any, Literal, overload

import numpy as np
from numpy.typing import NDArray

from understep.boards.attack import Attack
from understep.boards.changes import Changes, Marked
from understep.boards.contents import OPEN, Contents, Declared
from understep.boards.cost import Cost, rounded
from understep.boards.data import DataTable, data_table
from understep.boards.derived import Derived
from understep.boards.digest import digest
from understep.boards.edge import Edge, edge_table
from understep.boards.edges import Edges, Laid
from understep.boards.edits import replay, written
from understep.boards.feature import Feature, Placed, feature_table
from understep.boards.features import Features
from understep.boards.journal import Journal, Span, Writes
from understep.boards.knowledge import Knowledge
from understep.boards.links import Link, Links
from understep.boards.names import meet, meet_sides
from understep.boards.refusal import Refusal, cell_on
from understep.boards.roster import Roster
from understep.boards.site import Value
from understep.boards.store import ABSENT, Store, Table
from understep.boards.surface import Levels, Surface, Where, property_table, terrain_code
from understep.boards.terrain import Terrain, glyphs, terrain_table
from understep.boards.turn import Turn
from understep.boards.unit import SAME, MovementLike, Unit
from understep.boards.units import Units
from understep.checks import expect, named, text, truth
from understep.errors import InputError
from understep.grids.cell import Cell, CellLike, Cells, CellsLike, IntArray
from understep.grids.grid import AnchorPoint, Grid
from understep.grids.lattice import FloatArray
from understep.grids.layout import Box
from understep.grids.picking import pick_raised
from understep.overlay import small_picture


class Board:
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
    features
        Name to `Feature`: the kinds of crates, trees, bridges that can lie on cells.
    properties
        Name to default: what else the game knows of every cell, a bool, int, float or str.
    strict_names
        Whether a movement that uses a terrain, edge or feature which the board does not have is
        refused, and a side that is named much like another. Else there is a `NameWarning`, once,
        where the board has a name much like it.

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
        terrain: Mapping[str, Any],
        *,
        fill: str | None = None,
        edges: Mapping[str, Edge] | None = None,
        features: Mapping[str, Feature] | None = None,
        properties: Mapping[str, Value] | None = None,
        strict_names: bool = False,
    ) -> None:
        if not isinstance(grid, Grid):
            raise InputError("grid", "must be a SquareGrid or HexGrid", grid)
        kinds = edge_table({} if edges is None else edges)
        values = property_table({} if properties is None else properties)
        things = feature_table({} if features is None else features)
        table = terrain_table(terrain, [each.glyph or "" for each in things.values()])
        things = glyphs("features", things, [each.glyph or "" for each in table.values()])
        declared = Declared(table, kinds, values, things)
        #: Whether names that the board does not have are refused; it is not saved.
        self.strict_names = truth("strict_names", strict_names)
        code = 0 if fill is None else terrain_code(list(declared.terrains), fill, "fill")
        contents = Contents.fresh(grid, declared, code)
        #: Movements by name, kept in the board file; those of its units need not be listed. Not
        #: part of the journal.
        self.movements: dict[str, MovementLike] = {}
        self._facts = Table[str, Any]({"title": "", "data": DataTable()})
        roster = Roster(grid, Table[str, int](), {}, {})
        self._set_up(contents, roster, Journal(self._notify))

    def _set_up(self, contents: Contents, roster: Roster, journal: Writes) -> None:
        """Take what the board consists of, and what each can do."""
        #: The cells.
        self.grid = contents.grid
        self._contents, self._roster = contents, roster
        self._journal: Writes = journal
        self._derived = Derived({})
        self._memories: Table[str, Any] = Table()
        self._marked = Marked()
        self._units = Units(contents, roster, journal, self._hides)
        change = self._units.change
        self._surface, self._features = Surface(contents, change), Features(contents, change)
        self._edges, self._links = Edges(contents, change), Links(contents, journal)
        self._changes = Changes(contents, roster, journal)

    def __repr__(self) -> str:
        return f"Board({self.grid!r}, {len(self.terrains)} terrains, {len(self.units())} units)"

    def _repr_html_(self) -> str:
        return small_picture(self)

    @property
    def terrains(self) -> dict[str, Terrain]:
        """The terrains, by name."""
        return self._contents.declared.terrains

    @property
    def edge_kinds(self) -> dict[str, Edge]:
        """The kinds of edges, by name."""
        return self._contents.declared.edge_kinds

    @property
    def feature_kinds(self) -> dict[str, Feature]:
        """The kinds of features, by name."""
        return self._contents.declared.features

    @property
    def properties(self) -> dict[str, Value]:
        """The default of every declared property, by name; its type is the property's."""
        return self._contents.declared.properties

    @property
    def title(self) -> str:
        """A line for people, kept in the board file."""
        return str(self._facts.values["title"])

    @title.setter
    def title(self, line: str) -> None:
        text("title", line, empty=True)
        self._journal.write(self._facts, "title", line)

    @property
    def turn(self) -> Turn | None:
        """Whose turn it is; None: not set. `understep.Turns` maintains it.

        Raises
        ------
        InputError
            What is set is no `Turn`.
        """
        turn: Turn | None = self._facts.values.get("turn")
        return turn

    @turn.setter
    def turn(self, turn: Turn | None) -> None:
        expect("turn", turn, (Turn, type(None)), "must be a Turn, or None")
        self._journal.write(self._facts, "turn", turn)

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

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1, "mud": 3})
        >>> board.paint("mud", (1, 1))
        >>> board.undo(), board.redo(), board.terrain((1, 1))
        (True, True, 'mud')
        """
        return self._journal.redo()

    def forget(self) -> None:
        """Forget all steps: there is nothing to undo or redo, as on a board just loaded.

        Raises
        ------
        JournalError
            Inside a batch or trial.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1, "mud": 3})
        >>> board.paint("mud", (1, 1))
        >>> board.forget()
        >>> board.undo()
        False
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
        ...     board.set_elevation(2, (1, 1))
        >>> board.undo(), board.terrain((1, 1)), board.undo()
        (True, 'turf', False)
        """
        return self._journal.span(keeps=True)

    def join(self, state: int) -> None:
        """Make one change of all since an earlier state: one `undo` takes them back together.

        Does nothing if so long ago is not known any more, or inside a batch or trial that began
        later than that.

        Raises
        ------
        InputError
            ``state`` is not a whole number.

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
        expect("state", state, int, "must be a state of this board")
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

        Raises
        ------
        InputError
            ``state`` is not a state of this board.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1, "mud": 3})
        >>> before = board.state
        >>> board.paint("mud", [(1, 1), (0, 0)])
        >>> board.changed_since(before)
        Cells([(0, 0), (1, 1)])
        """
        return self._changes.cells(state)

    def altered_since(self, state: int, units: Container[str] | None = ()) -> bool:
        """Whether terrain, levels, edges, links, blocks or values may differ from an earlier state.

        Or any of some units but for their data, given by name; None: any unit. True if that is not
        known.

        Raises
        ------
        InputError
            ``state`` is not a state of this board.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1, "mud": 3})
        >>> before = board.state
        >>> board.paint("mud", (1, 1))
        >>> board.altered_since(before), board.altered_since(board.state)
        (True, False)
        """
        return self._changes.any(state, units)

    def digest(self) -> str:
        """A text that is equal for boards with equal contents, and in practice for no others.

        Of grid and kinds, all that lies on cells, units with what they are and have left, data,
        whose turn it is, and what sides know; not of the title, the frame, the named movements, or
        the order in which things came to be. The same in every process. After the first time it
        costs what has changed. It guards against mistakes, not against forgery.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1, "mud": 3})
        >>> before = board.digest()
        >>> board.paint("mud", (1, 1))
        >>> board.digest() == before, board.undo(), board.digest() == before
        (False, True, True)
        """
        return digest(self)

    def edits(self, since: int) -> str:
        r"""The changes since an earlier `state`, as JSON lines; for `replay` on an equal board.

        For replays, reports of faults, two players on a network, workers that follow. A line is a
        step of undo; what was undone since is a change back. They are known as long as for
        `changed_since`.

        Raises
        ------
        StaleError
            The state is not known any more.
        JournalError
            `fog` began or was lifted since, or what a side knows was undone; a board that is what
            a side knows.
        InputError
            ``since`` is not a state of this board.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1, "mud": 3})
        >>> other, before = board.copy(), board.state
        >>> board.paint("mud", [(1, 1), (2, 1)])
        >>> board.edits(before)
        '[{"part": "terrain", "at": [[1, 1], [2, 1]], "to": "mud"}]\n'
        >>> other.replay(board.edits(before))
        >>> other.digest() == board.digest()
        True
        """
        return written(self, since)

    def replay(self, edits: str, *, rules: Mapping[str, Callable[..., Any]] | None = None) -> None:
        """Make the changes that `edits` of an equal board returned, all of them or none.

        Each line is a step of undo again. Nothing is executed; a unit's movement whose rule is a
        function finds it by its name among the units here.

        Parameters
        ----------
        edits
            The lines.
        rules
            More functions by name.

        Raises
        ------
        InputError
            A line that is not an edit, or cannot be made here; the board is as it was.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1, "mud": 3})
        >>> other, before = board.copy(), board.state
        >>> board.paint("mud", (1, 1))
        >>> other.replay(board.edits(before))
        >>> other.terrain((1, 1))
        'mud'
        """
        replay(self, edits, {} if rules is None else rules)

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
        twin = Board.__new__(Board)
        twin._take_facts(self)
        journal = Journal(twin._notify, self._journal.state)
        twin._set_up(self._contents.share(), self._roster.share(), journal)
        twin._derived = self._derived.share(twin)
        if known := self._memories.values:
            twin._memories = Table({side: each.joined(twin) for side, each in known.items()})
            journal.follow = twin._follow
        return twin

    def __copy__(self) -> Board:
        return self.copy()

    def __deepcopy__(self, memo: dict[int, Any]) -> Board:
        twin = memo[id(self)] = self.copy()
        return twin

    def __getstate__(self) -> dict[str, Any]:
        # what can be derived is left out, and so are the steps to undo, as in a copy
        known: dict[Any, Any] = {}
        return {
            "strict_names": self.strict_names, "movements": dict(self.movements), "facts":
            self._facts.values, "contents": self._contents, "roster": self._roster.packed(known),
            "memories": {side: each._kept(known) for side, each in self._memories.values.items()},
        }  # fmt: skip

    def __setstate__(self, state: dict[str, Any]) -> None:
        self.strict_names, self.movements = state["strict_names"], state["movements"]
        self._facts = Table(state["facts"])
        journal = Journal(self._notify)
        self._set_up(state["contents"], Roster.again(state["roster"]), journal)
        for side, (kind, kept) in state["memories"].items():
            self._memories.values[side] = kind._again(self, kept)
            journal.follow = self._follow

    def _empty(self, grid: Grid, fill: str | None = None, only: Container[str] = ()) -> Board:
        """A board of another grid that can hold the same; ``only``: of the terrains just these."""
        kinds = {name: each for name, each in self.terrains.items() if not only or name in only}
        return Board(
            grid, kinds, fill=fill, edges=self.edge_kinds, features=self.feature_kinds,
            properties=self.properties, strict_names=self.strict_names,
        )  # fmt: skip

    def _take_facts(self, other: Board) -> None:
        """Take what is not by cell or unit from another board."""
        self.strict_names, self.movements = other.strict_names, dict(other.movements)
        self._facts = other._facts.share()

    def _notify(self, store: Store, keys: Any) -> None:
        """Pass on which cells' contents, or which unit, have changed."""
        if store is self._roster:
            if self._memories.values:
                self._marked.names.add(keys)
            self._derived.manned(keys)
        elif (key := self._contents.key_of(store)) is not None:
            numbers = store.where(keys, None, None)
            if self._memories.values:
                self._marked.cells.append(numbers)
            sight = self._contents.declared.part(key).sight
            self._derived.touched(key[0], numbers, sight)

    # the world

    def center(self, cells: CellsLike) -> FloatArray:
        """As the grid's `center`, elevation included.

        Raises
        ------
        CellError
            A value that is not a cell.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1, "mud": 3})
        >>> board.center((1, 2)).tolist()
        [1.5, 2.5]
        """
        return self.grid.center(cells, level=self._surface.level(cells))

    def corners(self, cells: CellsLike) -> FloatArray:
        """As the grid's `corners`, elevation included.

        Raises
        ------
        CellError
            A value that is not a cell.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1, "mud": 3})
        >>> board.corners((0, 0)).tolist()
        [[0.0, 0.0], [1.0, 0.0], [1.0, 1.0], [0.0, 1.0]]
        """
        return self.grid.corners(cells, level=self._surface.level(cells))

    @property
    def extent(self) -> Box:
        """The box around the whole board as it is seen, raised cells and their foot included.

        What stands on cells may reach beyond it.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(4, 3, frame=us.Frame(lift=0.5)), {"turf": 1})
        >>> board.set_elevation(3, (1, 0))
        >>> board.extent
        Box(x=0.0, y=-1.5, width=4.0, height=4.5)
        """
        return self._surface.extent

    def anchor(
        self,
        cells: CellsLike,
        *,
        point: AnchorPoint = "middle",
        picture: tuple[float, float] = (0, 0),
    ) -> FloatArray:
        """As the grid's `anchor`, elevation included.

        Raises
        ------
        CellError, InputError, NameUnknownError
            As there.

        Examples
        --------
        >>> import understep as us
        >>> grid = us.SquareGrid(4, 3, frame=us.Frame(cell=(32, 32)))
        >>> board = us.Board(grid, {"turf": 1})
        >>> board.anchor((1, 1), point="foot", picture=(32, 48)).tolist()
        [32.0, 0.0]
        """
        return self.grid.anchor(
            cells, point=point, picture=picture, level=self._surface.level(cells)
        )

    def cell_at(self, point: tuple[float, float]) -> Cell | None:
        """The cell seen at a world point: of raised tops and front faces, the nearest.

        Raises
        ------
        InputError
            ``point`` is not two finite numbers.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1, "mud": 3})
        >>> board.cell_at((1.5, 2.5)), board.cell_at((9, 9))
        (Cell(col=1, row=2), None)
        """
        flat = self.grid.cell_at(point)
        if not (self._surface.raised and self.grid.frame.lift):
            return flat
        cells, inside = self.cells_at(point)
        return Cell(*cells.tolist()) if inside else None

    def cells_at(self, points: Any) -> tuple[IntArray, NDArray[np.bool_]]:
        """As the grid's `cells_at`, of raised tops and front faces the nearest.

        A cell is a pillar that stands on level 0, or on the lowest level of the board.

        Raises
        ------
        InputError
            ``points`` are not numbers ``(..., 2)``.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1, "mud": 3})
        >>> cells, inside = board.cells_at([(1.5, 2.5), (9, 9)])
        >>> cells[inside].tolist()
        [[1, 2]]
        """
        if not (self._surface.raised and self.grid.frame.lift):
            return self.grid.cells_at(points)
        return pick_raised(self.grid, self.elevation, points)

    # terrain, levels, declared properties

    def terrain(self, cell: CellLike) -> str:
        """The name of a cell's terrain.

        Raises
        ------
        CellError
            ``cell`` is not a cell, or lies off the board.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1, "mud": 3})
        >>> board.paint("mud", (1, 1))
        >>> board.terrain((1, 1)), board.terrain((0, 0))
        ('mud', 'turf')
        """
        return self._surface.terrain(cell)

    def terrain_codes(self) -> NDArray[np.uint8]:
        """The terrain of every cell as ``(rows, cols)`` uint8: places in `terrains`. A copy.

        Holes of the grid have a number too, which means nothing.
        """
        return self._contents.terrain.array.reshape(self.grid.rows, self.grid.cols).copy()

    def paint(self, terrain: str, cells: Where) -> None:
        """Give cells a terrain.

        Parameters
        ----------
        terrain
            A terrain of this board.
        cells
            One cell, cells, an integer array ``(..., 2)``; a mask ``(rows, cols)`` of true and
            false; or a function of a cell that says whether it is meant.

        Raises
        ------
        NameUnknownError
            No such terrain.
        CellError
            A value that is not a cell, or a cell off the board.
        OccupiedError
            A unit stands on one of the cells and could not stand on that terrain.
        InputError
            A mask of another shape.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1, "mud": 3})
        >>> board.paint("mud", lambda cell: cell.row == 0)
        >>> board.terrain((2, 0)), board.terrain((2, 1))
        ('mud', 'turf')
        """
        self._surface.paint(terrain, cells)

    @property
    def elevation(self) -> FloatArray:
        """The level of every cell, ``(rows, cols)`` float64, 0 to begin with. A view, read-only."""
        view = self._contents.elevation.array.reshape(self.grid.rows, self.grid.cols).view()
        view.flags.writeable = False
        return view

    def set_elevation(self, level: Levels, cells: Where | None = None) -> None:
        """Set the level of elevation of cells.

        Parameters
        ----------
        level
            A number, whole or not, within a million of 0; an array with one for each of the cells;
            or a function that gives one for each world point x, y (of the centers on level
            ground); it may take arrays or single numbers.
        cells
            The cells, as for `paint`; by default all of the board, and then an array may have the
            shape ``(rows, cols)``, such as a grey image.

        Raises
        ------
        CellError
            A value that is not a cell, or a cell off the board.
        InputError
            A level that is no such number, or another count of them than of cells.
        OccupiedError
            A unit stands on one of the cells whose movement has a rule that now says no.

        Examples
        --------
        >>> import understep as us
        >>> frame = us.Frame(cell=(64, 32), projection="isometric", lift=16)
        >>> board = us.Board(us.SquareGrid(4, 4, frame=frame), {"turf": 1})
        >>> board.set_elevation(2, [(1, 1), (1, 2)])
        >>> board.center((1, 1)).tolist(), board.cell_at((0, 16)), board.slope((1, 1), (2, 1))
        ([0.0, 16.0], Cell(col=1, row=1), -2.0)
        >>> board.set_elevation(lambda x, y: y // 32)
        >>> board.elevation[0].tolist()
        [0.0, 1.0, 1.0, 2.0]
        """
        self._surface.set_elevation(level, cells)

    def slope(self, a: CellLike, b: CellLike) -> float:
        """By how many levels a step from ``a`` to its neighbor ``b`` rises; negative downwards.

        Raises
        ------
        CellError
            ``a`` or ``b`` is not a cell of the board, or they are not neighbors.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1, "mud": 3})
        >>> board.set_elevation(2, (1, 0))
        >>> board.slope((0, 0), (1, 0))
        2.0
        """
        return self._surface.slope(a, b)

    def value(self, name: str, cell: CellLike) -> Value:
        """A declared property of a cell.

        Raises
        ------
        NameUnknownError
            No such property.
        CellError
            ``cell`` is not a cell, or lies off the board.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1}, properties={"depth": 0.5})
        >>> board.set_value("depth", 2, (1, 1))
        >>> board.value("depth", (1, 1)), board.value("depth", (0, 0))
        (2.0, 0.5)
        """
        return self._surface.value(name, cell)

    def values(self, name: str) -> NDArray[Any]:
        """A declared property of every cell, ``(rows, cols)``; texts as objects. A copy.

        Raises
        ------
        NameUnknownError
            No such property.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(2, 2), {"turf": 1}, properties={"depth": 0.5})
        >>> board.values("depth").tolist()
        [[0.5, 0.5], [0.5, 0.5]]
        """
        return self._surface.values(name).reshape(self.grid.rows, self.grid.cols).copy()

    def set_value(self, name: str, value: Any, cells: Where) -> None:
        """Set a declared property of cells.

        Parameters
        ----------
        name
            A property of this board.
        value
            One value for all, or a list or array with one for each of the cells; of the type of
            the property's default.
        cells
            The cells, as for `paint`.

        Raises
        ------
        NameUnknownError
            No such property.
        InputError
            A value of another type, or another count of them than of cells.
        CellError
            A value that is not a cell, or a cell off the board.
        OccupiedError
            A unit stands on one of the cells whose movement has a rule that now says no.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(3, 1), {"turf": 1}, properties={"lit": False})
        >>> board.set_value("lit", True, [(0, 0), (1, 0)])
        >>> board.value("lit", (1, 0)), board.values("lit").tolist()
        (True, [[True, True, False]])
        """
        self._surface.set_value(name, value, cells)

    # edges and links

    def edge(self, a: CellLike, b: CellLike) -> str | None:
        """The kind of the edge met on a step from ``a`` to its neighbor ``b``; None for none.

        Raises
        ------
        CellError
            ``a`` or ``b`` is not a cell of the board, or they are not neighbors.

        Examples
        --------
        >>> import understep as us
        >>> kinds = {"door": us.Edge(blocks=True, door=True)}
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1}, edges=kinds)
        >>> board.set_edge((0, 0), (1, 0), "door")
        >>> board.edge((0, 0), (1, 0)), board.edge((1, 0), (2, 0))
        ('door', None)
        """
        return self._edges.name(self._edges.code(a, b))

    def set_edge(
        self,
        a: CellLike,
        b: CellLike,
        kind: str | None,
        *,
        both: bool = True,
        is_open: bool = False,
    ) -> None:
        """Put an edge between two neighbors, in place of an edge that is there.

        Parameters
        ----------
        a, b
            The cells.
        kind
            The kind, by name; None takes the edge away.
        both
            Whether it is met both ways, or from ``a`` to ``b`` only.
        is_open
            Whether it is a door that stands open.

        Raises
        ------
        CellError
            ``a`` or ``b`` is not a cell of the board, or they are not neighbors.
        NameUnknownError
            No such kind of edge on this board.
        InputError
            A kind that is not a door cannot be open.
        OccupiedError
            It would stand inside a unit of several cells.

        Examples
        --------
        >>> import understep as us
        >>> kinds = {"door": us.Edge(blocks=True, door=True)}
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1}, edges=kinds)
        >>> board.set_edge((0, 0), (1, 0), "door")
        >>> board.set_edge((0, 0), (1, 0), None)
        >>> board.edge((0, 0), (1, 0)) is None
        True
        """
        self._edges.put(a, b, kind, both, is_open)

    def open_edge(self, a: CellLike, b: CellLike, *, is_open: bool = True) -> None:
        """Open or close a door between two neighbors; from both sides, where it is met from both.

        Raises
        ------
        CellError
            ``a`` or ``b`` is not a cell of the board, or they are not neighbors.
        InputError
            There is no door between them, or ``is_open`` is not True or False.

        Examples
        --------
        >>> import understep as us
        >>> kinds = {"door": us.Edge(blocks=True, door=True)}
        >>> board = us.Board(us.SquareGrid(2, 1), {"boards": 1}, edges=kinds)
        >>> board.set_edge((0, 0), (1, 0), "door")
        >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=1)), at=(0, 0))
        >>> (1, 0) in us.reach(board, "scout")
        False
        >>> board.open_edge((0, 0), (1, 0))
        >>> (1, 0) in us.reach(board, "scout")
        True
        """
        self._edges.open(a, b, is_open)

    def is_open(self, a: CellLike, b: CellLike) -> bool:
        """Whether there is an open door between two neighbors.

        Raises
        ------
        CellError
            ``a`` or ``b`` is not a cell of the board, or they are not neighbors.

        Examples
        --------
        >>> import understep as us
        >>> kinds = {"door": us.Edge(blocks=True, door=True)}
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1}, edges=kinds)
        >>> board.set_edge((0, 0), (1, 0), "door")
        >>> board.open_edge((0, 0), (1, 0))
        >>> board.is_open((0, 0), (1, 0))
        True
        """
        return self._edges.code(a, b) >= OPEN

    def lay_along(self, kind: str | None, cells: CellsLike) -> None:
        """Put edges between each cell and the next: a road along ``route.cells``.

        Raises
        ------
        CellError
            A value that is not a cell, or no neighbor of the one before.
        NameUnknownError
            No such kind of edge on this board.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.HexGrid(8, 8), {"mud": 3}, edges={"road": us.Edge(cost=1)})
        >>> board.lay_along("road", board.grid.line((0, 0), (5, 4)))
        >>> board.edge((0, 0), (0, 1))
        'road'
        """
        self._edges.along(kind, cells)

    def lay_around(self, kind: str | None, cells: Where) -> None:
        """Put edges all around a set of cells: between each and its neighbors that are outside.

        Raises
        ------
        CellError
            A value that is not a cell, or a cell off the board.
        NameUnknownError
            No such kind of edge on this board.

        Examples
        --------
        >>> import understep as us
        >>> kinds = {"door": us.Edge(blocks=True, door=True)}
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1}, edges=kinds)
        >>> board.lay_around("door", [(1, 1)])
        >>> board.edge((1, 1), (2, 1)), board.edge((0, 0), (1, 0))
        ('door', None)
        """
        self._edges.around(kind, cells)

    def lay_beside(self, kind: str | None, cells: Where, direction: str | int) -> None:
        """Put an edge on one side of every cell: a wall along a line of them.

        Raises
        ------
        CellError
            A value that is not a cell, or a cell off the board.
        NameUnknownError
            No such kind of edge on this board, or no such direction.

        Examples
        --------
        >>> import understep as us
        >>> kinds = {"door": us.Edge(blocks=True, door=True)}
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1}, edges=kinds)
        >>> board.lay_beside("door", [(1, 1), (2, 1)], "S")
        >>> board.edge((1, 1), (1, 2)), board.edge((1, 1), (2, 1))
        ('door', None)
        """
        self._edges.beside(kind, cells, direction)

    def edges(self) -> tuple[Laid, ...]:
        """All edges on the board, in the order of their cells; those met from both sides once.

        Examples
        --------
        >>> import understep as us
        >>> kinds = {"door": us.Edge(blocks=True, door=True)}
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1}, edges=kinds)
        >>> board.set_edge((0, 0), (1, 0), "door")
        >>> [(tuple(laid.a), tuple(laid.b), laid.kind) for laid in board.edges()]
        [((0, 0), (1, 0), 'door')]
        """
        return self._edges.all()

    def link(
        self, a: CellLike, b: CellLike, cost: Cost = 1, *, both: bool = True, kind: str = "link"
    ) -> None:
        """Let a step lead from one cell to another, wherever that is, in place of an earlier link.

        Who takes it must be able to stand at its end; movements may say otherwise of a kind.

        Parameters
        ----------
        a, b
            The cells.
        cost
            The points it takes; the terrain at its end does not count.
        both
            Whether it leads back too.
        kind
            What it is, such as "ladder".

        Raises
        ------
        CellError
            ``a`` or ``b`` is not a cell of the board, or they are the same.
        CostError
            A cost that is negative, infinite or no number.
        InputError
            A kind that is not a text, or too many links.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(7, 1), {"boards": 1, "ruin": None})
        >>> board.paint("ruin", (3, 0))
        >>> board.link((2, 0), (4, 0), cost=2, kind="ladder")
        >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=6)), at=(0, 0))
        >>> us.route(board, "scout", goals=(5, 0)).cost
        5
        """
        self._links.put(a, b, cost, both, kind)

    def unlink(self, a: CellLike, b: CellLike, *, both: bool = True) -> None:
        """Take a link away.

        Raises
        ------
        CellError
            ``a`` or ``b`` is not a cell of the board, or no link leads from one to the other.
        InputError
            ``both`` is not True or False.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1, "mud": 3})
        >>> board.link((0, 0), (3, 2), 2)
        >>> board.unlink((0, 0), (3, 2))
        >>> board.links()
        ()
        """
        self._links.remove(a, b, both)

    def links(self, cell: CellLike | None = None) -> tuple[Link, ...]:
        """All links, two-way ones once; or those that leave a cell.

        Raises
        ------
        CellError
            ``cell`` is not a cell, or lies off the board.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1, "mud": 3})
        >>> board.link((0, 0), (3, 2), 2, kind="ladder")
        >>> [(tuple(link.b), link.cost) for link in board.links((0, 0))]
        [((3, 2), 2)]
        """
        return self._links.all(cell)

    # features and blocks

    def place(self, kind: str, cells: Where) -> Placed:
        """Lay one feature of a kind on each of some cells, on top of what lies there.

        Parameters
        ----------
        kind
            The kind, by name.
        cells
            The cells, as for `paint`. Each counts once a call.

        Returns
        -------
        Placed
            The kind and the cells, for `lift`.

        Raises
        ------
        NameUnknownError
            No such kind of feature on this board.
        CellError
            A value that is not a cell, or a cell off the board.
        OccupiedError
            A unit that could not stand there any more stands on one of the cells.
        InputError
            A cell on which 255 of the kind lie already.

        Examples
        --------
        >>> import understep as us
        >>> kinds = {"trees": us.Feature(add=1, cover=0.5)}
        >>> board = us.Board(us.SquareGrid(4, 1), {"turf": 1}, features=kinds)
        >>> grove = board.place("trees", [(1, 0), (2, 0)])
        >>> board.features((1, 0))
        ('trees',)
        >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=9)), at=(0, 0))
        >>> us.route(board, "scout", goals=(3, 0)).cost
        5
        >>> board.lift(grove)
        >>> us.route(board, "scout", goals=(3, 0)).cost
        3
        """
        numbers = self._features.add(self._features.kind(kind), cells)
        return Placed(kind, self.grid.numbering.cells(numbers))

    def lift(self, placed: Placed | str, cells: Where | None = None) -> None:
        """Take features off the board.

        Parameters
        ----------
        placed
            What `place` returned; or a kind by name.
        cells
            Of a kind, the cells from each of which one is taken; None: all there are.

        Raises
        ------
        NameUnknownError
            No such kind of feature on this board.
        CellError
            A value that is not a cell, or a cell off the board.
        InputError
            A cell on which none of the kind lies.
        OccupiedError
            A unit that could not stand there any more stands on one of the cells: on a bridge.

        Examples
        --------
        >>> import understep as us
        >>> kinds = {"crate": us.Feature(add=1)}
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1}, features=kinds)
        >>> board.place("crate", (1, 1))
        Placed(kind='crate', cells=Cells([(1, 1)]))
        >>> board.lift("crate", (1, 1))
        >>> board.features((1, 1))
        ()
        """
        if isinstance(placed, Placed):
            placed, cells = placed
        self._features.take(self._features.kind(placed, "placed"), cells, must=True)

    @overload
    def features(self, cell: CellLike) -> tuple[str, ...]: ...
    @overload
    def features(self) -> tuple[Placed, ...]: ...
    def features(self, cell: CellLike | None = None) -> tuple[str, ...] | tuple[Placed, ...]:
        """The kinds of features that lie on a cell, or all that lie on the board.

        Where several of a kind lie, it is named as often.

        Raises
        ------
        CellError
            ``cell`` is not a cell, or lies off the board.

        Examples
        --------
        >>> import understep as us
        >>> kinds = {"crate": us.Feature(add=1)}
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1}, features=kinds)
        >>> board.place("crate", (1, 1))
        Placed(kind='crate', cells=Cells([(1, 1)]))
        >>> board.features((1, 1)), board.features((0, 0))
        (('crate',), ())
        """
        return self._features.all() if cell is None else self._features.on(cell)

    def block(self, cells: Where, *, side: str | None = None) -> None:
        """Close cells to everybody, or to one side, over any terrain.

        The terrain stays as it is beneath. A cell can be blocked several times, by obstacles that
        overlap: it is open again when each of them is cleared. What is blocked can be seen over,
        as far as its terrain, edges and levels allow.

        Parameters
        ----------
        cells
            The cells, as for `paint`: of a shape, ``us.shapes.cover(board.grid, shape)``; of a
            rectangle, ``board.grid.rectangle(a, b)``. Each counts once a call.
        side
            The side they are closed to, units of which can come later; None: everybody.

        Raises
        ------
        NameUnknownError
            A side that has no unit and is named much like one that has, where the board is strict
            about names; else that is a `NameWarning`.
        CellError
            A value that is not a cell, or a cell off the board.
        OccupiedError
            A unit that could not stand there any more stands on one of the cells.
        InputError
            A side that is not a text, or a cell that is blocked 255 times already.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1, "mud": 3})
        >>> board.block(board.grid.rectangle((1, 0), (2, 2)))
        >>> board.block(board.grid.rectangle((2, 0), (3, 0)))
        >>> board.clear(board.grid.rectangle((1, 0), (2, 2)))
        >>> list(map(tuple, board.blocks())), board.blocked((2, 0)), board.blocked((2, 1))
        ([(2, 0), (3, 0)], True, False)
        """
        meet_sides(self, "side", (side,))
        self._features.add(self._features.blocks(side), cells)

    def clear(self, cells: Where | None = None, *, side: str | None = None) -> None:
        """Take obstacles away that `block` has set.

        Parameters
        ----------
        cells
            The cells, from each of which one block is taken away, if there is any; by default all
            blocks of all cells are.
        side
            The side whose blocks they are; None: those for everybody, and without ``cells`` those
            for each side, too.

        Raises
        ------
        CellError
            A value that is not a cell, or a cell off the board.
        InputError
            A side that is not a text.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1, "mud": 3})
        >>> board.block([(2, 1), (3, 1)])
        >>> board.clear((2, 1))
        >>> board.blocked((2, 1)), board.blocked((3, 1))
        (False, True)
        """
        with self._journal.span(keeps=True):
            self._features.clear(cells, side)

    def blocked(self, cell: CellLike, *, side: str | None = None) -> bool:
        """Whether `block` has closed a cell to everybody, or to a side that is given.

        Raises
        ------
        CellError
            ``cell`` is not a cell, or lies off the board.
        InputError
            ``side`` is not a text.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1, "mud": 3})
        >>> board.block((2, 1))
        >>> board.blocked((2, 1)), board.blocked((0, 0))
        (True, False)
        """
        return self._features.blocked(cell, side)

    def blocks(self, *, side: str | None = None) -> Cells:
        """The cells closed to everybody, or those closed to one side, row by row.

        Raises
        ------
        InputError
            ``side`` is not the name of a side, or None.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1, "mud": 3})
        >>> board.block((2, 1), side="wreckers")
        >>> [tuple(cell) for cell in board.blocks(side="wreckers")]
        [(2, 1)]
        """
        return self._features.times(side, 1)

    @property
    def blocked_sides(self) -> tuple[str, ...]:
        """The sides that have or had cells closed to them, in order of their names."""
        return tuple(side for side in self._contents.blocked_sides if side is not None)

    # units

    def add(self, unit: Unit, at: CellLike) -> Unit:
        """Set a new unit down, and return it as it stands there.

        Parameters
        ----------
        unit
            The unit.
        at
            The cell; of a unit that takes up several, the anchor.

        Raises
        ------
        InputError
            ``unit`` is not a unit, its name is taken, its facing is not a direction of the grid, or
            it cannot stand there: impassable, blocked, off the board, or across a wall.
        CellError
            ``at`` is not a cell, or off the board.
        OccupiedError
            Another unit stands there, in the same layer.
        NameUnknownError
            Its movement uses a name that the board does not have, and the board is strict about
            names; else there may be a `NameWarning`.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1, "mud": 3})
        >>> scout = us.Unit("scout", "wardens", us.Movement(points=4))
        >>> board.add(scout, at=(1, 2)).at
        Cell(col=1, row=2)
        """
        if not isinstance(unit, Unit):
            raise InputError("unit", "must be a Unit", unit)
        meet(self, unit.movement, unit.side)
        return self._units.add(unit, at)

    def enlist(self, side: str) -> None:
        """Let a side take part, before it has a unit or without any.

        Raises
        ------
        InputError
            A side that is not a text, or more sides than a board can have.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1, "mud": 3})
        >>> board.enlist("wreckers")
        >>> board.sides
        ('wreckers',)
        """
        self._units.enlist(side)

    def put(self, unit: str, at: CellLike) -> Unit:
        """Set a unit down somewhere else, by no movement rule, and return it as it stands there.

        Raises
        ------
        NameUnknownError
            No such unit.
        CellError
            ``at`` is not a cell, or off the board.
        OccupiedError
            Another unit stands there, in the same layer.
        InputError
            It cannot stand there, as for `add`.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1, "mud": 3})
        >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=4)), at=(0, 0))
        >>> board.put("scout", at=(2, 1)).at, board.undo(), board.unit("scout").at
        (Cell(col=2, row=1), True, Cell(col=0, row=0))
        """
        return self._units.put(unit, at)

    def set_facing(self, unit: str, facing: str | int | None) -> Unit:
        """Let a unit look in a direction, or in none, and return it as it is then.

        Raises
        ------
        NameUnknownError
            No such unit, or no such direction.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1, "mud": 3})
        >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=4)), at=(0, 0))
        >>> board.set_facing("scout", "E").facing
        'E'
        """
        names = self.grid.directions
        way = None if facing is None else names[self.grid.lattice.way(facing, "facing")]
        return self._units.alter(unit, facing=way)

    def set_left(self, unit: str, left: Cost | None) -> Unit:
        """Set the points a unit has left in this turn, None: all, and return it as it is then.

        Raises
        ------
        NameUnknownError
            No such unit.
        CostError
            Points that are negative or no number.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1, "mud": 3})
        >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=4)), at=(0, 0))
        >>> board.set_left("scout", 1).left, len(us.reach(board, "scout"))
        (1, 3)
        """
        full = self._units.find(unit).movement.points
        return self._units.alter(unit, left=full if left is None else rounded(left, "left"))

    def set_unit(
        self, unit: str, *, side: str = SAME, movement: MovementLike = SAME,
        sight: int | None = SAME, eye: Cost = SAME, attack: Attack | None = SAME,
    ) -> Unit:  # fmt: skip
        """Change what a unit is, in place, and return it as it is then; what is left out stays.

        Its place in the order of units stays too. Of the points it has left it keeps what the
        movement allows; who has all its points has all of another movement's.

        Parameters
        ----------
        unit
            Its name.
        side, movement, sight, eye, attack
            As of a `Unit`.

        Raises
        ------
        NameUnknownError
            No such unit.
        OccupiedError
            It would take up a cell where another unit stands, in the same layer.
        InputError
            It could not stand where it does, as for `add`, or a fact that no unit can have.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(4, 1), {"turf": 1})
        >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=4)), at=(0, 0))
        >>> board.set_unit("scout", movement=us.Movement(points=9), sight=5).left
        9
        """
        facts = {"side": side, "movement": movement, "sight": sight, "eye": eye, "attack": attack}
        if movement is not SAME:
            meet(self, movement)
        return self._units.remake(unit, facts)

    @property
    def data(self) -> Mapping[str, Any]:
        """What else the game knows of the board: JSON values by name, read-only."""
        found: Mapping[str, Any] = self._facts.values["data"]
        return found

    def set_data(self, unit: str | None = None, /, **facts: Any) -> None:
        """Set facts of the game's own: of a unit by its name, or of the board.

        They are JSON values, part of every `undo`, `trial`, `copy` and file, and what a side
        remembers of a unit holds them as they were when it was last seen. The board itself makes
        nothing of them, and no answer is `stale` for their sake.

        Parameters
        ----------
        unit
            Whose they are; left out: the board's.
        **facts
            By name; those that are not named stay.

        Raises
        ------
        NameUnknownError
            No such unit.
        InputError
            A value that is not JSON, nested too deeply, or too many of them.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(4, 1), {"turf": 1})
        >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(4)), at=(0, 0))
        >>> board.set_data("scout", health=3)
        >>> board.set_data("scout", health=2, status="stunned")
        >>> board.unit("scout").data
        {'health': 2, 'status': 'stunned'}
        >>> board.undo(), board.unit("scout").data
        (True, {'health': 3})
        >>> board.set_data(weather="rain")
        >>> board.data["weather"]
        'rain'
        """
        old = self.data if unit is None else self._units.find(unit).data
        self._set_data(unit, {**old, **facts})

    def clear_data(self, unit: str | None = None, /, *names: str) -> None:
        """Take facts of the game's own away, of a unit or of the board: those named, or all.

        Raises
        ------
        NameUnknownError
            No such unit, or no such fact.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1, "mud": 3})
        >>> board.set_data(day=3, weather="rain")
        >>> board.clear_data(None, "weather")
        >>> dict(board.data)
        {'day': 3}
        """
        old = self.data if unit is None else self._units.find(unit).data
        for name in names:
            named("names", "fact", name, old)
        kept = {name: fact for name, fact in old.items() if names and name not in names}
        self._set_data(unit, kept)

    def _set_data(self, unit: str | None, facts: dict[str, Any]) -> None:
        """Set all facts of a unit, or of the board."""
        found = data_table("facts", facts)
        if unit is None:
            self._journal.write(self._facts, "data", found)
        else:
            self._units.alter(unit, data=found)

    def remove(self, unit: str) -> Unit:
        """Take a unit off the board, and return it as it stood there.

        Raises
        ------
        NameUnknownError
            No such unit.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1, "mud": 3})
        >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=4)), at=(0, 0))
        >>> board.remove("scout").name, board.units()
        ('scout', ())
        """
        return self._units.remove(unit)

    def unit(self, unit: str) -> Unit:
        """The unit of a name, as it is now.

        Raises
        ------
        NameUnknownError
            No such unit.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1, "mud": 3})
        >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=4)), at=(0, 0))
        >>> board.unit("scout").left
        4
        """
        return self._units.find(unit)

    def unit_at(self, cell: CellLike, *, layer: str | None = None) -> Unit | None:
        """The unit that stands on a cell, or None.

        Parameters
        ----------
        cell
            The cell; any of those that a unit takes up finds it.
        layer
            The layer in which it stands; None: any, the first of `unit_layers`.

        Raises
        ------
        CellError
            ``cell`` is not a cell, or lies off the board.
        InputError
            ``layer`` is not a text.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1, "mud": 3})
        >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=4)), at=(0, 0))
        >>> board.unit_at((0, 0)).name, board.unit_at((1, 0))
        ('scout', None)
        """
        return self._units.at(cell, layer)

    def units(self, side: str | None = None) -> tuple[Unit, ...]:
        """All units, or those of one side, in the order they were added.

        Raises
        ------
        NameUnknownError
            No unit of that side was ever added.

        Examples
        --------
        >>> import understep as us
        >>> board = us.maps.shipped("fen")
        >>> [unit.name for unit in board.units("wreckers")]
        ['sapper', 'punt', 'prowler', 'billhooks']
        """
        return self._units.of(side)

    def can_stand(
        self,
        unit: str | Unit,
        cell: CellLike | None,
        *,
        known_to: str | Literal[False] | None = None,
    ) -> Literal[True] | Refusal:
        """Whether a unit could stand on a cell: terrain, blocks, walls, its size, other units.

        Parameters
        ----------
        unit
            The name of a unit of this board, or a unit that is not on it yet.
        cell
            The cell of its anchor; of None and cells off the board the answer is no.
        known_to
            The side whose knowledge counts; by default the unit's own, if it keeps any (`fog`).
            False: the truth.

        Returns
        -------
        True or Refusal
            A `Refusal` is falsy and has the reason.

        Raises
        ------
        NameUnknownError
            No such unit; a side that keeps no knowledge.
        CellError
            ``cell`` is not a pair of whole numbers.
        InputError
            ``unit`` is neither a unit nor a name.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(4, 2), {"turf": 1, "deep": None})
        >>> board.paint("deep", (2, 0))
        >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=3)), at=(0, 0))
        >>> board.can_stand("scout", (1, 0)), board.can_stand("scout", (2, 0)).why
        (True, "'deep' at (2, 0) is impassable for 'scout'")
        >>> bool(board.can_stand("scout", None)), bool(board.can_stand("scout", (9, 9)))
        (False, False)
        """
        found = cell_on(self.grid, cell)
        if isinstance(found, Refusal):
            return found
        who = self._units.find(unit) if isinstance(unit, str) else unit
        expect("unit", who, Unit, "must be a Unit, or the name of one")
        side = who.side if known_to is None and who.side in self._memories.values else known_to
        board: Board = self._memory(side, "known_to") if isinstance(side, str) else self
        refusal = board._units.refusal(who, found)
        return True if refusal is None else refusal

    def covered(self, unit: Unit, at: CellLike | None = None) -> tuple[Cell, ...]:
        """The cells a unit takes up, on a cell or where it stands; the anchor first.

        Some may be off the board.

        Raises
        ------
        CellError
            ``at`` is not a cell, or off the board.
        InputError
            ``unit`` is not a `Unit`.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(4, 3), {"turf": 1, "mud": 3})
        >>> cart = us.Unit("cart", "wardens", us.Movement(3, footprint=us.Footprint.block(2)))
        >>> [tuple(cell) for cell in board.covered(cart, (1, 0))]
        [(1, 0), (2, 0), (1, 1), (2, 1)]
        """
        return self._units.covered(unit, at)

    @property
    def sides(self) -> tuple[str, ...]:
        """The sides that have or had a unit here."""
        return tuple(self._roster.sides.values)

    @property
    def unit_layers(self) -> tuple[str, ...]:
        """The layers that have a unit here, "ground" first, then by name."""
        return self._units.layers

    # what sides know

    @property
    def fogged(self) -> tuple[str, ...]:
        """The sides that keep knowledge: under `understep.fog`."""
        return tuple(self._memories.values)

    def knowledge(self, side: str) -> Knowledge[Board]:
        """What a side sees, remembers and does not know; `understep.fog` begins it.

        Raises
        ------
        NameUnknownError
            That side keeps no knowledge.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(9, 1), {"turf": 1})
        >>> scout = us.Unit("scout", "wardens", us.Movement(points=4), sight=2)
        >>> scout, knowledge = board.add(scout, at=(0, 0)), us.fog(board, "wardens")
        >>> scout = board.put("scout", at=(4, 0))
        >>> board.knowledge("wardens").status((1, 0)), knowledge.status((8, 0))
        ('before', 'never')
        """
        return Knowledge(self._memory(side))

    def lift_fog(self, side: str) -> None:
        """Let a side see everything again, and forget what it remembers.

        Raises
        ------
        NameUnknownError
            That side keeps no knowledge.

        Examples
        --------
        >>> import understep as us
        >>> board = us.maps.shipped("fen")
        >>> knowledge = us.fog(board, "wardens")
        >>> board.lift_fog("wardens")
        >>> board.fogged
        ()
        """
        self._memory(side)
        self._journal.write(self._memories, side, ABSENT)

    def _keep(self, memory: Any) -> None:
        """Let a side remember from here on."""
        with self._journal.span(keeps=True):
            self._journal.follow = self._follow
            self._journal.write(self._memories, memory.side, memory)
            self._marked.names.update(self._roster.values)

    def _follow(self) -> None:
        """Update what each side knows after a change."""
        marked, self._marked = self._marked, Marked()
        for memory in self._memories.values.values():
            memory.follow(self, marked)

    def _memory(self, side: str, argument: str = "side") -> Any:
        """The board as a side knows it: a `Memory`, which this module cannot know."""
        known = self._memories.values
        return known[named(argument, "side that keeps knowledge", side, known)]

    def _hides(self, side: str, name: str) -> bool:
        """Whether a unit is hidden from a side that keeps knowledge."""
        memory = self._memories.values.get(side)
        return memory is not None and name not in memory.roster.values
