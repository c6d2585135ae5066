"""World: a land too large for one board, in sectors that are awake while they are wanted."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, MutableMapping
from functools import reduce
from typing import Any
from weakref import WeakKeyDictionary

from understep.actions.attacks import Attacks
from understep.actions.attacks import attacks as find_attacks
from understep.actions.walk import Walk
from understep.actions.walk import walk as begin_walk
from understep.boards.board import Board
from understep.boards.edges import Laid
from understep.boards.footprint import ONE
from understep.boards.links import Link
from understep.boards.roster import Listed
from understep.boards.unit import Unit
from understep.checks import expect, items, named, truth, whole
from understep.errors import CellError, InputError, StaleError
from understep.grids.cell import Cell, CellLike, CellsLike, as_cells, one_cell
from understep.grids.systems import choice
from understep.moves.ask import route as find_route
from understep.moves.ask import sixteenths
from understep.moves.reach import Reach
from understep.moves.reach import reach as find_reach
from understep.moves.route import Route
from understep.sight.view import View
from understep.sight.view import view as find_view
from understep.worlds._bounds import RIM, around, is_sure, rim_of, wide
from understep.worlds._changes import Changes, all_inside, placed, take
from understep.worlds._crew import Crew
from understep.worlds._fog import Fog, Known
from understep.worlds._guides import Asleep, Guides
from understep.worlds._journey import Journey
from understep.worlds._live import Live
from understep.worlds._rect import Rect
from understep.worlds._sectors import Hook, Make, Save, Sectors


class World:
    """A large map in sectors, each a board that is made on first use.

    What is asked and done happens on boards cut from it, across all seams, by the same calls as on
    any board: cells keep their addresses. `keep` takes over what was done there. Units, links that
    lead from sector to sector, and edges on seams are the world's and always at hand.

    Parameters
    ----------
    make
        Gives a sector, without units: a function of its first cell, columns and rows. None: it has
        no cells. Called again when it is wanted again, so it must give what was saved last.
    cols, rows
        The size of the world, from (0, 0).
    sector
        Columns and rows of a sector.
    awake
        How many sectors may be awake at once; None: as many as there is memory for.
    memory
        How many bytes may be taken, about: three eighths by sectors that are awake, of which the
        least recently used are released, half by what is known for long ways, and an eighth by
        boards that follow.
    save
        Called with the first cell and the board of a sector that was altered, before it is
        released, and by `save`. Without it altered sectors stay awake, so that nothing is lost;
        where they fill what may be awake, a query that needs another raises `NoRoomError`.
    notes
        Where crossings and the costs between them are kept, by sector, as JSON: a `dict`, or a
        mapping to files. They are dropped for sectors that are altered. Without it what memory has
        no room for is found again.
    on_wake, on_sleep
        Called with the first cell and the board (None: it has no cells) of a sector that wakes, and
        of one that is released: to load and drop what is drawn there.

    Raises
    ------
    InputError
        Sizes that are not whole numbers of 1 or more.

    Examples
    --------
    >>> import understep as us
    >>> world = us.worlds.World(lambda first, cols, rows: us.worlds.delta(
    ...     7, cols, rows, first=first, units=False), 10_000, 10_000)
    >>> scout = us.Unit("scout", "wardens", us.Movement(points=8))
    >>> scout = world.add(scout, at=(5_000, 4_998))
    >>> board = world.around("scout")
    >>> len(us.reach(board, "scout")), board.grid.size
    (120, (23, 23))
    >>> route = world.route("scout", (5_060, 5_010))
    >>> done = us.walk(board, "scout", us.route(board, "scout", goals=(5_004, 5_000))).finish()
    >>> world.keep(board)
    >>> tuple(world.unit("scout").at), world.awake
    ((5002, 5000), 6)
    """

    def __init__(
        self, make: Make, cols: int, rows: int, *, sector: int = 64, awake: int | None = None,
        memory: int = 256 << 20, save: Save | None = None,
        notes: MutableMapping[str, bytes] | None = None, on_wake: Hook | None = None,
        on_sleep: Hook | None = None,
    ) -> None:  # fmt: skip
        cols, rows = whole("cols", cols, 1), whole("rows", rows, 1)
        sector, memory = whole("sector", sector, 1), whole("memory", memory, 1)
        awake = None if awake is None else whole("awake", awake, 1)
        for word, call in (
            ("make", make),
            ("save", save),
            ("on_wake", on_wake),
            ("on_sleep", on_sleep),
        ):
            if not callable(call) and (call is not None or word == "make"):
                raise InputError(word, "must be a function", call)
        self.notes = notes  #: What was given to keep notes in.
        self._land = Sectors(
            make, (cols, rows), sector, awake, memory * 3 // 8, save, (on_wake, on_sleep)
        )
        over = lambda: (self._seams.values(), self._links.values())  # noqa: E731
        self._guides = Guides(self._land, over, memory // 2, notes)
        #: Columns and rows.
        self.size = cols, rows
        self._crew = Crew()
        self._seams: dict[tuple[Cell, Cell], Laid] = {}
        self._links: dict[tuple[Cell, Cell], Link] = {}
        self._boards: WeakKeyDictionary[Board, tuple[Board, dict[tuple[int, int], int]]]
        # a board that nobody holds any more cannot be kept
        self._boards = WeakKeyDictionary()
        self._edits: dict[tuple[int, int], int] = {}  # how often each sector was altered
        self._fog = Fog(self._land, self._crew, over)
        # a sector that wakes gets what sides know of it before anybody asks
        self._land.prepare = self._fog.prepare
        within = self._lay, self._take, self._fog, memory // 8
        self._live = Live(self._land, self._crew, over, *within)

    def __repr__(self) -> str:
        cols, rows = self.size
        return f"World({cols}, {rows}, {self.awake} sectors awake, {len(self._crew.listed)} units)"

    # sectors

    @property
    def awake(self) -> int:
        """How many sectors are awake."""
        return len(self._land.awake)

    @property
    def awake_sectors(self) -> tuple[tuple[int, int], ...]:
        """The sectors that are awake, by column and row, in order."""
        return tuple(sorted(self._land.awake))

    @property
    def pinned(self) -> tuple[tuple[int, int], ...]:
        """Those of them that stay awake until they are released, in order."""
        return tuple(sorted(self._land.pinned))

    def wake(self, cells: CellsLike, *, pin: bool = False) -> None:
        """Wake the sectors from the first to the last of some cells: of all that lies between.

        Parameters
        ----------
        cells
            Two opposite corners, or any cells.
        pin
            Whether they stay awake until they are released.

        Raises
        ------
        CellError
            No cells, or one that lies outside of the world.
        NoRoomError
            There is no room for so many.
        InputError
            ``pin`` is not True or False.

        Examples
        --------
        >>> import understep as us
        >>> def make(first: us.Cell, cols: int, rows: int) -> us.Board:
        ...     return us.Board(us.SquareGrid(cols, rows, first=first), {"turf": 1})
        >>> world = us.worlds.World(make, 1000, 1000, sector=100, awake=9)
        >>> world.wake([(250, 90), (310, 110)], pin=True)
        >>> world.awake_sectors, world.pinned == world.awake_sectors
        (((2, 0), (2, 1), (3, 0), (3, 1)), True)
        >>> world.release([(250, 0), (250, 199)])
        >>> world.awake_sectors
        ((3, 0), (3, 1))
        """
        keys = list(self._keys(cells))
        # to be put back, should one of them not wake
        pinned = set(self._land.pinned)
        pin = truth("pin", pin)
        if pin:
            self._land.pinned.update(keys)
        try:
            for key in keys:
                self._land.land(key)
        except BaseException:
            self._land.pinned = pinned
            raise

    def release(self, cells: CellsLike) -> None:
        """Let the sectors sleep that `wake` would wake, pinned or not.

        Those that are altered are saved; where they cannot be, they stay awake. A sector that is
        wanted wakes again by itself.

        Raises
        ------
        CellError
            No cells, or one that lies outside of the world.

        Examples
        --------
        >>> import understep as us
        >>> def make(first: us.Cell, cols: int, rows: int) -> us.Board:
        ...     return us.Board(us.SquareGrid(cols, rows, first=first), {"turf": 1})
        >>> world = us.worlds.World(make, 300, 300)
        >>> world.wake([(0, 0)], pin=True)
        >>> world.release([(0, 0)])
        >>> world.pinned
        ()
        """
        self._live.follow()
        self._land.release(self._keys(cells))

    def _keys(self, cells: CellsLike) -> Iterable[tuple[int, int]]:
        """The sectors from the first to the last of some cells."""
        return self._land.keys(reduce(Rect.joined, self._rects(cells, "cells")))

    def _rects(self, cells: CellsLike, argument: str) -> list[Rect]:
        """The rectangles of some cells of the world."""
        found = [Rect.at(self._inside(each, argument)) for each in as_cells(cells, argument)]
        if not found:
            raise CellError(argument, "must be cells of the world", cells)
        return found

    # units

    def unit(self, unit: str) -> Unit:
        """A unit by name, as it is.

        Raises
        ------
        NameUnknownError
            No such unit.

        Examples
        --------
        >>> import understep as us
        >>> def make(first: us.Cell, cols: int, rows: int) -> us.Board:
        ...     return us.Board(us.SquareGrid(cols, rows, first=first), {"turf": 1})
        >>> world = us.worlds.World(make, 300, 300)
        >>> guide = world.add(us.Unit("guide", "wardens", us.Movement(4), sight=3), at=(150, 9))
        >>> world.unit("guide").at
        Cell(col=150, row=9)
        """
        self._live.follow()
        return self._crew.unit(unit)

    def units(self, side: str | None = None) -> tuple[Unit, ...]:
        """All units, or those of a side, in the order they came.

        Raises
        ------
        NameUnknownError
            No unit of that side was ever added.

        Examples
        --------
        >>> import understep as us
        >>> def make(first: us.Cell, cols: int, rows: int) -> us.Board:
        ...     return us.Board(us.SquareGrid(cols, rows, first=first), {"turf": 1})
        >>> world = us.worlds.World(make, 300, 300)
        >>> guide = world.add(us.Unit("guide", "wardens", us.Movement(4), sight=3), at=(150, 9))
        >>> [unit.name for unit in world.units("wardens")]
        ['guide']
        """
        self._live.follow()
        if side is not None:
            named("side", "side", side, self._crew.sides)
        return tuple(unit for unit in self._crew.in_order() if side in (None, unit.side))

    def add(self, unit: Unit, at: CellLike) -> Unit:
        """Put a unit down.

        Raises
        ------
        InputError
            A name that is taken, or ground on which it cannot stand.
        OccupiedError
            Somebody stands there.
        CellError
            ``at`` is not a cell of the world.

        Examples
        --------
        >>> import understep as us
        >>> def make(first: us.Cell, cols: int, rows: int) -> us.Board:
        ...     return us.Board(us.SquareGrid(cols, rows, first=first), {"turf": 1})
        >>> world = us.worlds.World(make, 300, 300)
        >>> world.add(us.Unit("guide", "wardens", us.Movement(4)), at=(150, 9)).at
        Cell(col=150, row=9)
        """
        expect("unit", unit, Unit, "must be a Unit")
        self._live.follow()
        if unit.name in self._crew.listed:
            raise InputError("unit", "there is one of this name", unit.name)
        # the board refuses what cannot be, so that the world need not know the rules
        board = self._beside(unit, at)
        board.add(unit, at=at)
        self._live.follow()
        return self._crew.unit(unit.name)

    def _beside(self, unit: Unit, at: CellLike) -> Board:
        """A board that follows, as large as is needed to set a unit down."""
        cell = self._inside(at, "at")
        # a large unit whose anchor lies beyond may reach in
        far = rim_of(unit) + self._crew.wide
        return self._live.holding(Rect.at(cell).grown(far), unit.name)

    @property
    def sector(self) -> int:
        """Columns and rows of a sector."""
        return self._land.side

    @property
    def altered(self) -> set[tuple[int, int]]:
        """The sectors that are awake and not as they were made or saved, by column and row."""
        return self._land.altered

    @property
    def edges(self) -> tuple[Laid, ...]:
        """The edges on seams, between sectors."""
        return tuple(self._seams.values())

    @property
    def links(self) -> tuple[Link, ...]:
        """The links from sector to sector."""
        return tuple(self._links.values())

    def sectors(self) -> Iterator[Board]:
        """The boards of all sectors that have cells, one after the other, as they are now."""
        self._live.follow()
        for key in self._land.keys(Rect(0, 0, *self.size)):
            board = self._land.land(key).board
            if board is not None:
                yield board

    def restore(
        self, units: Iterable[Unit], edges: Iterable[Laid] = (), links: Iterable[Link] = (),
        known: Mapping[str, Known] | None = None, sides: Iterable[str] = (), fogs: int = 0,
    ) -> None:  # fmt: skip
        """Take back what is not in sectors, as it was saved, without waking any.

        In place of what is there. Whether units can stand there is not checked. ``sides``: those
        that take part, or did, where units do not tell. ``fogs``: as the property.

        Raises
        ------
        CellError
            A unit, or an end of an edge or link, that lies outside of the world.
        InputError
            Two units of one name; what is not of such a kind.
        OccupiedError
            Two of them on one cell, in one layer.
        """
        units = items("units", units, "must be units that stand in the world", Unit)
        for unit in units:
            expect("units", unit.at, Cell, f"{unit.name!r} must stand on a cell")
        edges = items("edges", edges, "must be edges that lie on a board", Laid)
        links = items("links", links, "must be links of a board", Link)
        taking_part = items("sides", sides, "must be names of sides", str)
        rule = "must map names of sides to what they know"
        known = {} if known is None else known
        expect("known", known, Mapping, rule)
        items("known", known.values(), rule, Known)
        fogs = whole("fogs", fogs, 0)
        every = Rect(0, 0, *self.size)
        # all is checked before anything is replaced
        placed(units, [*edges, *links], every)
        for each in known.values():
            all_inside(each.last.values(), [*each.edges.values(), *each.links.values()], every)
        # boards that follow would put back what they hold
        self._live.clear()
        self._fog.restore(known, fogs)
        self._crew.sides = dict.fromkeys(taking_part)
        self._crew.restore(
            Listed(next(self._crew.serials), unit, self._covered(unit)) for unit in units
        )
        # what is known of crossings may not be true of these links and edges
        self._guides.clear()
        for kept, given in ((self._seams, edges), (self._links, links)):
            kept.clear()
            take(kept, {(each.a, each.b): each for each in given})
        for side in known:
            self._crew.sides.setdefault(side)
        self._boards.clear()

    # boards cut from it

    def board(self, first: CellLike, cols: int, rows: int) -> Board:
        """A board cut from the world, with the units that stand on it whole.

        A new one, that has nothing to undo: it does not follow the world, and the world follows it
        when it is given to `keep`. What lies beyond the world is left out.

        Raises
        ------
        CellError
            Nothing of it lies in the world.
        InputError
            Columns or rows that are not whole numbers of 1 or more.

        Examples
        --------
        >>> import understep as us
        >>> def make(first: us.Cell, cols: int, rows: int) -> us.Board:
        ...     return us.Board(us.SquareGrid(cols, rows, first=first), {"turf": 1})
        >>> world = us.worlds.World(make, 300, 300)
        >>> guide = world.add(us.Unit("guide", "wardens", us.Movement(4), sight=3), at=(150, 9))
        >>> board = world.board((140, 0), 20, 20)
        >>> board.grid.bounds[0], board.unit("guide").at
        (Cell(col=140, row=0), Cell(col=150, row=9))
        """
        start = one_cell(first, "first")
        cols, rows = whole("cols", cols, 1), whole("rows", rows, 1)
        self._live.follow()
        rect = Rect(start.col, start.row, start.col + cols, start.row + rows).inside(*self.size)
        if rect is None:
            raise CellError("first", f"nothing of it lies in a world of {self.size}", tuple(start))
        return self._cut(rect)

    def _cut(self, rect: Rect) -> Board:
        made = self._lay(rect)
        # so that `keep` refuses where a sector was altered since
        marks = {key: self._edits.get(key, 0) for key in self._land.keys(rect)}
        # how it was, so that `keep` finds what was done
        self._boards[made] = made.copy(), marks
        return made

    def _lay(self, rect: Rect) -> Board:
        """A new board of a rectangle, with who stands there, and what sides know."""
        made = self._land.ground(rect, self._seams.values(), self._links.values())
        if made is None:
            raise InputError("first", "there are no cells", tuple(rect[:2]))
        self._crew.man(made, rect)
        self._fog.attach(made, rect)
        # to undo how it was cut would leave it empty
        made.forget()
        return made

    def spanning(self, cells: CellsLike, margin: int = 0, live: bool = False) -> Board:
        """A board of all sectors between some cells, and so many cells beyond.

        One that was cut as by `board`; or ``live``: that follows the world, as of `near`.

        Raises
        ------
        CellError
            A value that is not a cell, or no cell that lies in the world.
        InputError
            A margin that is not a whole number of 0 or more, or ``live`` that is no bool.

        Examples
        --------
        >>> import understep as us
        >>> def make(first: us.Cell, cols: int, rows: int) -> us.Board:
        ...     return us.Board(us.SquareGrid(cols, rows, first=first), {"turf": 1})
        >>> world = us.worlds.World(make, 300, 300)
        >>> guide = world.add(us.Unit("guide", "wardens", us.Movement(4), sight=3), at=(150, 9))
        >>> world.spanning([(10, 10), (90, 10)]).grid.size
        (128, 64)
        """
        margin = whole("margin", margin, 0)
        live = truth("live", live)
        rects = [self._land.rect(self._land.key(cell)) for cell in as_cells(cells)]
        rect = reduce(Rect.joined, rects).grown(margin).inside(*self.size) if rects else None
        if rect is None:
            raise CellError("cells", f"must lie in a world of {self.size}", cells)
        self._live.follow()
        return self._live.holding(rect) if live else self._cut(rect)

    def around(self, unit: str, *, turns: int = 1, margin: int = 0) -> Board:
        """A board around a unit, as large as its reach in some turns, sight and attacks ask for.

        Its reach, what it sees, and what it can attack after moving are there what they would be on
        one board of the whole world. For a unit that sees any distance ``margin`` decides how far.

        Raises
        ------
        NameUnknownError
            No such unit.
        InputError
            Steps that cost nothing: then no board is large enough but the whole. A margin that is
            not a whole number of 0 or more.

        Examples
        --------
        >>> import understep as us
        >>> def make(first: us.Cell, cols: int, rows: int) -> us.Board:
        ...     return us.Board(us.SquareGrid(cols, rows, first=first), {"turf": 1})
        >>> world = us.worlds.World(make, 300, 300)
        >>> guide = world.add(us.Unit("guide", "wardens", us.Movement(4), sight=3), at=(150, 9))
        >>> board = world.around("guide")
        >>> (150, 9) in board.grid, (0, 0) in board.grid
        (True, False)
        """
        who = self.unit(unit)
        wide = whole("margin", margin, 0) + self._crew.wide
        return self._cut(around(self._land, self.links, who, turns, wide))

    # boards that follow it

    def near(self, what: str | CellsLike, *, turns: int = 1, foes: bool = False) -> Board:
        """A board of the cells around a unit, or around some cells, that follows the world.

        It follows the world, and the world follows it: what is done on one of them is done. Around
        a unit it is as large as its reach in some turns, sight and attacks ask for, as of `around`;
        around cells it goes some way beyond. Ask for it each time: boards are held for what is
        asked next, and moved along, so that it costs a cut now and then. Inside of a batch or trial
        on it nothing is done yet. An `undo` on it reverts what was done on it, as long as
        nothing was done there from elsewhere.

        Parameters
        ----------
        what
            The name of a unit, or a cell, or several.
        turns
            For how many turns of the unit.
        foes
            Whether it holds all foes who may get at the unit there, too, and what matters to them:
            for threats and prospects.

        Raises
        ------
        NameUnknownError
            No such unit.
        CellError
            No cells, a value that is not valid, or a cell that lies outside of the world.
        InputError
            Steps that cost nothing: then no board is large enough but the whole.
        StaleError
            What was done on boards of the world collides; what was done on one of them is lost.

        Examples
        --------
        >>> import understep as us
        >>> def make(first: us.Cell, cols: int, rows: int) -> us.Board:
        ...     return us.Board(us.SquareGrid(cols, rows, first=first), {"turf": 1, "deep": None})
        >>> world = us.worlds.World(make, 1000, 1000)
        >>> scout = world.add(us.Unit("scout", "wardens", us.Movement(points=4)), at=(126, 500))
        >>> board = world.near("scout")
        >>> board.paint("deep", (128, 500)), len(us.reach(board, "scout"))
        (None, 38)
        >>> scout = board.put("scout", at=(127, 500))
        >>> tuple(world.unit("scout").at), world.near((128, 500)).terrain((128, 500))
        ((127, 500), 'deep')
        """
        self._live.follow()
        if isinstance(what, str):
            foes = truth("foes", foes)
            return self._live.near(self._crew.unit(what, "what"), whole("turns", turns, 1), foes)
        return self._live.holding(reduce(Rect.joined, self._rects(what, "what")).grown(RIM))

    def fog(self, side: str, *, land_known: bool = False) -> None:
        """Let a side know only what its units see, as `understep.fog` does, all over the world.

        What it knows is kept with the sectors and saved with them; boards of the world have it:
        ``world.near("scout").knowledge("wardens")``. Answers for its units are given by it.

        Parameters
        ----------
        side
            The side; it has or had a unit.
        land_known
            Whether it knows all the land as it is now.

        Raises
        ------
        NameUnknownError
            No unit of that side was ever added.
        InputError
            The side keeps knowledge already; a unit of it sees any distance, in a large world.

        Examples
        --------
        >>> import understep as us
        >>> def make(first: us.Cell, cols: int, rows: int) -> us.Board:
        ...     return us.Board(us.SquareGrid(cols, rows, first=first), {"turf": 1})
        >>> world = us.worlds.World(make, 300, 300)
        >>> guide = world.add(us.Unit("guide", "wardens", us.Movement(4), sight=3), at=(150, 9))
        >>> world.fog("wardens")
        >>> sorted(world.near("guide").fogged)
        ['wardens']
        """
        self._live.follow()
        named("side", "side", side, self._crew.sides)
        if side in self._fog.sides:
            raise InputError("side", "keeps knowledge already; lift_fog ends it", side)
        land_known = truth("land_known", land_known)
        # before anything is begun
        self._fog.check(self.units(side))
        over = (self._seams.values(), self._links.values()) if land_known else ()
        self._fog.begin(side, Known(land_known, *over))
        self._live.begin(side)

    @property
    def known(self) -> dict[str, Known]:
        """What sides know that keep knowledge, beside what their sectors keep."""
        self._live.follow()
        return dict(self._fog.sides)

    @property
    def sides(self) -> tuple[str, ...]:
        """The sides that have or had a unit here."""
        self._live.follow()
        return tuple(self._crew.sides)

    @property
    def fogged(self) -> tuple[str, ...]:
        """The sides that keep knowledge."""
        return tuple(self._fog.sides)

    @property
    def fogs(self) -> int:
        """How many fogs have begun here, those that were lifted included.

        By their numbers a sector that wakes tells what a side has forgotten since it was saved.
        """
        return self._fog.begun

    def lift_fog(self, side: str) -> None:
        """Let a side see everything again, and forget what it remembers.

        Raises
        ------
        NameUnknownError
            That side keeps no knowledge.

        Examples
        --------
        >>> import understep as us
        >>> def make(first: us.Cell, cols: int, rows: int) -> us.Board:
        ...     return us.Board(us.SquareGrid(cols, rows, first=first), {"turf": 1})
        >>> world = us.worlds.World(make, 300, 300)
        >>> guide = world.add(us.Unit("guide", "wardens", us.Movement(4), sight=3), at=(150, 9))
        >>> world.fog("wardens")
        >>> world.lift_fog("wardens")
        >>> world.near("guide").fogged
        ()
        """
        self._live.follow()
        del self._fog.sides[named("side", "side that keeps knowledge", side, self._fog.sides)]
        self._live.begin(None)

    def put(self, unit: str, at: CellLike) -> Unit:
        """Set a unit down anywhere, by no movement rule, as `Board.put` does.

        Raises
        ------
        NameUnknownError
            No such unit.
        CellError, InputError, OccupiedError
            It cannot stand there, as for `add`.

        Examples
        --------
        >>> import understep as us
        >>> def make(first: us.Cell, cols: int, rows: int) -> us.Board:
        ...     return us.Board(us.SquareGrid(cols, rows, first=first), {"turf": 1})
        >>> world = us.worlds.World(make, 300, 300)
        >>> guide = world.add(us.Unit("guide", "wardens", us.Movement(4), sight=3), at=(150, 9))
        >>> world.put("guide", at=(150, 11)).at
        Cell(col=150, row=11)
        """
        self._live.follow()
        listed = self._crew.listed[self._crew.unit(unit).name]
        board = self._beside(listed.unit, at)
        here = unit in board._roster.values
        board._units.set_down(listed.unit, at, listed.serial)
        self._live.follow(unit)
        if not here:  # to undo that it came would leave it nowhere
            board.forget()
        return self._crew.unit(unit)

    def reach(self, unit: str, *, turns: int = 1, **options: Any) -> Reach:
        """Where a unit can get, as `understep.reach` says; as many turns as are given.

        Examples
        --------
        >>> import understep as us
        >>> def make(first: us.Cell, cols: int, rows: int) -> us.Board:
        ...     return us.Board(us.SquareGrid(cols, rows, first=first), {"turf": 1})
        >>> world = us.worlds.World(make, 300, 300)
        >>> guide = world.add(us.Unit("guide", "wardens", us.Movement(4), sight=3), at=(150, 9))
        >>> (154, 9) in world.reach("guide"), (155, 9) in world.reach("guide")
        (True, False)
        """
        return find_reach(self.near(unit, turns=turns), unit, turns=turns, **options)

    def attacks(self, unit: str, **options: Any) -> Attacks:
        """What a unit can attack, as `understep.attacks` says."""
        return find_attacks(self.near(unit), unit, **options)

    def view(self, unit: str, **options: Any) -> View:
        """What a unit sees, as `understep.view` says.

        Examples
        --------
        >>> import understep as us
        >>> def make(first: us.Cell, cols: int, rows: int) -> us.Board:
        ...     return us.Board(us.SquareGrid(cols, rows, first=first), {"turf": 1})
        >>> world = us.worlds.World(make, 300, 300)
        >>> guide = world.add(us.Unit("guide", "wardens", us.Movement(4), sight=3), at=(150, 9))
        >>> (153, 9) in world.view("guide"), (154, 9) in world.view("guide")
        (True, False)
        """
        return find_view(self.near(unit), unit, **options)

    def walk(self, unit: str, route: Route | None) -> Walk:
        """Let a unit walk along a route, for as much of it as this turn allows.

        As `understep.walk` does; a route of this world, or of any board of it.

        Examples
        --------
        >>> import understep as us
        >>> def make(first: us.Cell, cols: int, rows: int) -> us.Board:
        ...     return us.Board(us.SquareGrid(cols, rows, first=first), {"turf": 1})
        >>> world = us.worlds.World(make, 300, 300)
        >>> guide = world.add(us.Unit("guide", "wardens", us.Movement(4), sight=3), at=(150, 9))
        >>> walk = world.walk("guide", world.route("guide", (152, 9)))
        >>> walk.finish().ending, world.unit("guide").at
        ('arrived', Cell(col=152, row=9))
        """
        return begin_walk(self.near(unit), unit, route)

    def route(self, unit: str, goal: CellLike, **options: Any) -> Route:
        """The best route of a unit to a cell, as it would be on one board of the whole world.

        Found on boards that grow until no route around them can be as good.

        Parameters
        ----------
        unit
            The name of a unit.
        goal
            The cell.
        options
            As for `understep.route`, but for ``accept`` and ``via``.

        Raises
        ------
        NameUnknownError
            No such unit.
        CellError
            ``goal`` is not a cell of the world.

        Examples
        --------
        >>> import understep as us
        >>> def make(first: us.Cell, cols: int, rows: int) -> us.Board:
        ...     return us.Board(us.SquareGrid(cols, rows, first=first), {"turf": 1})
        >>> world = us.worlds.World(make, 300, 300)
        >>> guide = world.add(us.Unit("guide", "wardens", us.Movement(4), sight=3), at=(150, 9))
        >>> world.route("guide", (152, 9)).cost
        2
        """
        who, goal = self.unit(unit), self._inside(goal, "goal")
        for word in ("accept", "via"):
            if word in options:
                raise InputError(word, "is for routes on one board", options[word])
        both = wide(self._land, self.links, who, RIM).joined(
            Rect(*goal, goal.col + 1, goal.row + 1)
        )
        whole, far = Rect(0, 0, *self.size), self._land.side // 2 + rim_of(who)
        # a board that is too small gives a worse route at most: it grows until that is ruled out
        while True:
            rect = both.grown(far).inside(*self.size) or whole
            board = self._cut(rect)
            found = find_route(board, unit, goals=goal, **options)
            alone = not self._links  # else ways may lead anywhere
            if rect == whole or (found and alone and is_sure(found, board, rect, self.size)):
                return found
            # few searches, and the last is at most so much too large
            far *= 4

    def plan(
        self, unit: str, goal: CellLike, *, asleep: Asleep = "load", weight: float = 1.2
    ) -> Journey:
        """A long route of a unit to a cell, over crossings from sector to sector.

        By terrain alone (units do not count), in points, without turns. There is one exactly
        where there is a way; it takes one or two in a hundred points more than the best. What is
        found out about sectors is kept, so that later plans are faster.

        Parameters
        ----------
        unit
            The name of a unit.
        goal
            The cell.
        asleep
            What to do where nothing is known of a sector that is asleep: ``"load"`` wakes it;
            ``"kept"`` uses what is known or noted of sectors, and wakes none; ``"refuse"`` keeps to
            sectors that are awake now.
        weight
            How much more than its worth the estimate counts, 1 to 16 (weighted A*, Pohl 1970): with
            1 the way is as short as crossings allow, with 2 far fewer sectors are looked into, for
            a first answer, and the way may be worse.

        Returns
        -------
        Journey
            False in a condition where no route was found; then ``why`` tells.

        Raises
        ------
        NameUnknownError
            No such unit; an unknown word for ``asleep``.
        CellError
            ``goal`` is not a cell of the world.
        InputError
            ``weight`` out of range.

        Examples
        --------
        >>> import understep as us
        >>> def make(first: us.Cell, cols: int, rows: int) -> us.Board:
        ...     return us.Board(us.SquareGrid(cols, rows, first=first), {"turf": 1})
        >>> world = us.worlds.World(make, 300, 300)
        >>> guide = world.add(us.Unit("guide", "wardens", us.Movement(4), sight=3), at=(150, 9))
        >>> journey = world.plan("guide", (290, 200))
        >>> bool(journey)
        True
        """
        who, goal = self.unit(unit), self._inside(goal, "goal")
        choice(asleep, Asleep, "asleep")
        sixteenths(weight)
        found, scale = self._guides.plan(who, goal, asleep, weight)
        return Journey(self, who, goal, found, scale)

    def _inside(self, cell: CellLike, argument: str) -> Cell:
        """A cell, if it lies in the world."""
        found = one_cell(cell, argument)
        if not Rect(0, 0, *self.size).holds([found]):
            raise CellError(argument, f"must lie in a world of {self.size}", tuple(found))
        return found

    def _covered(self, unit: Unit) -> tuple[Cell, ...]:
        """The cells that a unit takes up."""
        if unit.movement.footprint == ONE:
            return (unit.at,)
        return self._land.template(unit.at).covered(unit)

    def keep(self, board: Board) -> None:
        """Take over what was done on a board cut from this world.

        One that follows it needs this not.

        Raises
        ------
        InputError
            A board that was not cut from it.
        StaleError
            What it was cut from was altered since by another.
        OccupiedError
            A unit stands where one stands that was not on the board; or the ground was changed
            below a large one that was not on it as a whole.
        """
        known = self._boards.get(board) if isinstance(board, Board) else None
        self._live.follow()
        if known is None and self._live.follows(board):
            return
        if known is None:
            raise InputError("board", "must be one that was cut from this world", board)
        before, marks = known
        if any(self._edits.get(key, 0) != mark for key, mark in marks.items()):
            raise StaleError("the world was altered there since this board was cut; cut it anew")
        changes = Changes.between(before, board)
        self._live.check(changes)
        seers = self._fog.changed(changes)
        self._take(changes)
        learned = self._fog.keep(before, board)
        self._live.tell(changes, None, seers, learned)
        self._live.see_beyond(seers, None)
        for key in marks:
            self._edits[key] = self._edits.get(key, 0) + 1
        self._boards[board] = board.copy(), {key: self._edits[key] for key in marks}

    def _take(self, changes: Changes) -> None:
        """Let the world be as it is on a board now."""
        cells: list[tuple[int, int]] = []
        if changes.land:  # units alone move most of the time
            side, cells = self._land.side, list(changes.cells())
            for key in changes.sectors(side):
                land = self._land.land(key).board
                if land is not None:
                    changes.write(land)
            edges, links = changes.between_sectors(side)
            take(self._seams, edges)
            take(self._links, links)
            self._guides.forget(cells)
        for name, now in changes.units.items():
            for listed in (self._crew.listed.get(name), now):
                cells += () if listed is None else listed.cells
        self._crew.take(changes.units)
        for key in {self._land.key(cell) for cell in cells}:
            self._edits[key] = self._edits.get(key, 0) + 1

    def save(self) -> None:
        """Save all altered sectors that are awake.

        Raises
        ------
        InputError
            The world was made without a way to save.
        """
        self._live.follow()
        self._land.save()
