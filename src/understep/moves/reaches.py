"""Reaches: where many units can get, or one unit from many cells."""

from __future__ import annotations

from _thread import LockType, allocate_lock, start_new_thread
from collections import deque
from collections.abc import Callable, Iterable, Iterator, Mapping
from functools import cached_property, partial
from typing import NamedTuple, TypeVar

import numpy as np
from numpy.typing import NDArray

from understep.boards.board import Board
from understep.checks import items, whole
from understep.errors import InputError
from understep.grids.cell import Cell, Cells, CellsLike, IntArray, one_cell
from understep.moves.answer import KnownTo, doubtful, known, mine, turn_limit
from understep.moves.mover import mover_of, table_of
from understep.moves.reach import Reach, reach
from understep.moves.search import Floods

T = TypeVar("T")
R = TypeVar("R")


class ReachArrays(NamedTuple):
    """Reaches as arrays, one after another.

    Attributes
    ----------
    offsets : ndarray of int64, shape ``(reaches + 1,)``
        Where each begins in the other arrays, and where the last one ends.
    cells : ndarray of int64, shape ``(n, 2)``
        The cells ``(col, row)`` where it may end, nearest first.
    costs : ndarray of float64, shape ``(n,)``
        Points spent on the way there.
    """

    offsets: IntArray
    cells: IntArray
    costs: NDArray[np.float64]


class Reaches(Mapping[str | Cell, Reach]):
    """Reaches by the name of a unit, or by the cell they begin at; made by `reaches`.

    A mapping; each reach is made when it is looked up.
    """

    def __init__(
        self,
        keys: Iterable[str | Cell],
        make: Callable[[int], Reach],
        arrays: Callable[[], ReachArrays | None] = lambda: None,
    ) -> None:
        self._keys, self._make, self._arrays = keys, make, arrays
        self._made: dict[int, Reach] = {}

    @cached_property
    def _places(self) -> dict[str | Cell, int]:
        """The place of each among all, the last of equal ones."""
        return {key: place for place, key in enumerate(self._keys)}

    def __repr__(self) -> str:
        return f"<Reaches: {len(self)}>"

    def __getitem__(self, key: object) -> Reach:
        name = key if isinstance(key, str) else one_cell(key, "key")
        place = self._places[name]
        if place not in self._made:
            self._made[place] = self._make(place)
        return self._made[place]

    def __contains__(self, key: object) -> bool:
        return key in self._places

    def __iter__(self) -> Iterator[str | Cell]:
        return iter(self._places)

    def __len__(self) -> int:
        return len(self._places)

    def arrays(self) -> ReachArrays:
        """All reaches as arrays, in the order of the mapping; new arrays.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.HexGrid(9, 7), {"turf": 1})
        >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=1)), at=(1, 3))
        >>> offsets, cells, costs = us.reaches(board, "scout", at=[(1, 3), (5, 3)]).arrays()
        >>> offsets.tolist(), cells[7].tolist(), costs[:3].tolist()
        ([0, 7, 14], [5, 3], [0.0, 1.0, 1.0])
        """
        found = self._arrays()
        if found is not None:
            return found
        every = [self[key]._columns() for key in self]
        offsets = np.cumsum([0, *(len(costs) for _, costs in every)])
        cells = np.concatenate([np.zeros((0, 2), dtype=np.int64), *(each for each, _ in every)])
        return ReachArrays(offsets, cells, np.concatenate([np.zeros(0), *(c for _, c in every)]))


def reaches(
    board: Board,
    units: str | Iterable[str] | None = None,
    *,
    at: CellsLike | None = None,
    turns: int | None = 1,
    threads: int = 1,
    known_to: KnownTo = None,
) -> Reaches:
    """Where each of many units can get, or one unit from many cells.

    Parameters
    ----------
    board
        The board; it is not changed.
    units
        Names of units; by default all of them. With ``at`` the name of one.
    at
        Cells to suppose the unit stood on, as for `reach`; the answer is by cell then.
    turns
        As for `reach`.
    threads
        How many threads to search in. The searches run side by side, as they release the
        interpreter's lock; the answers are the same. Nobody may edit the board meanwhile.
    known_to
        As for `reach`; by default each unit's own side.

    Returns
    -------
    Reaches
        A mapping of names or cells to `Reach`.

    Raises
    ------
    NameUnknownError
        No such unit.
    CellError
        ``at`` holds something that is not a cell, or a cell off the board.
    InputError
        ``turns`` or ``threads`` is not a whole number of 1 or more, or ``at`` is given with more
        than one unit.
    CostError
        Points or costs too large to count exactly.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.HexGrid(9, 7), {"turf": 1})
    >>> for name, col in (("scout", 1), ("pikes", 5)):
    ...     unit = board.add(us.Unit(name, "wardens", us.Movement(points=1)), at=(col, 3))
    >>> {name: len(reach) for name, reach in us.reaches(board).items()}
    {'scout': 7, 'pikes': 7}
    >>> len(us.reaches(board, "scout", at=[(0, 0), (8, 6)])[0, 0])
    3
    """
    threads, turns = whole("threads", threads, 1), turn_limit(turns)
    if at is not None:
        return _from_cells(mine(board), units, at, turns, threads, known_to)
    if isinstance(known_to, str):
        board = known(board, None, known_to)
    every = [unit.name for unit in mine(board).units()] if units is None else units
    names = items("units", every, "must be names of units")
    for name in names:  # made beforehand, so that no two threads make the same
        asked = known(board, name, known_to, "units")
        table_of(asked, asked._units.find(name, "units"))
    found = _spread(lambda name: reach(board, name, turns=turns, known_to=known_to), names, threads)
    return Reaches(names, found.__getitem__)


def _from_cells(
    board: Board, unit: str | Iterable[str] | None, at: CellsLike, turns: int | None,
    threads: int, known_to: KnownTo,
) -> Reaches:  # fmt: skip
    """One unit from many cells."""
    if not isinstance(unit, str):
        raise InputError("units", "must be the name of one unit, where cells are given", unit)
    board = known(board, unit, known_to, "units")
    who = board._units.find(unit, "units")
    cells = board.grid.numbering.require_all(at, "at").reshape(-1, 2)
    numbers, state = board.grid.numbering.numbers(cells).astype(np.int32), board.state
    # more parts than threads: the first that is done takes another
    size = -(-len(cells) // (1 if threads == 1 else 2 * threads)) or 1
    parts = [numbers[start : start + size] for start in range(0, len(cells), size)]
    mover = mover_of(board, who)
    done = _spread(lambda part: Floods(board, mover, part, turns), parts, threads)
    keys = Cells(cells)
    if not all(part.found for part in done):
        # costs go by steps, or the search cell by cell is asked: one by one, and now
        singly = partial(reach, board, unit, turns=turns, known_to=False)
        found = _spread(lambda cell: singly(at=cell), list(keys), threads)
        return Reaches(keys, found.__getitem__)

    # now, as the board may have changed when a reach is looked up
    unsure = [size * number + each for number, part in enumerate(done) for each in part.doubtful]
    starts = zip(unsure, map(board.grid.numbering.cell_of, numbers[unsure].tolist()), strict=True)
    doubts = {place: doubtful(board, who, cell) for place, cell in starts}

    def make(place: int) -> Reach:
        found = Reach(board, who, turns, done[place // size].labels(place % size))
        found._state, found.doubt = state, doubts.get(place, "")
        return found

    def arrays() -> ReachArrays | None:
        once = len(np.unique(numbers)) == len(numbers)
        parts = [part.columns() for part in done] if once else [None]
        if None in parts or not parts:
            return None
        counts, reached, costs = map(np.concatenate, zip(*parts, strict=True))
        offsets = np.concatenate([[0], np.cumsum(counts)])
        return ReachArrays(offsets, board.grid.numbering.cells_of(reached), costs)

    return Reaches(keys, make, arrays)


def _spread(work: Callable[[T], R], every: list[T], threads: int) -> list[R]:
    """Do the same work with each, in so many threads."""
    if threads == 1 or len(every) < 2:
        return list(map(work, every))
    todo = deque(enumerate(every))
    found: dict[int, R] = {}
    failed: list[BaseException] = []

    def run() -> None:
        while not failed:
            try:
                place, each = todo.popleft()
            except IndexError:  # nothing is left
                return
            try:
                found[place] = work(each)
            except BaseException as error:  # it is raised where it can be caught
                failed.append(error)

    def help_out(done: LockType) -> None:
        run()
        done.release()

    # to start a `Thread` is to wait until it has begun, which takes as long as fifty reaches
    others = [allocate_lock() for _ in range(min(threads, len(every)) - 1)]
    for other in others:
        other.acquire()
        start_new_thread(help_out, (other,))
    run()  # this thread works, too
    for other in others:
        other.acquire()
    if failed:
        raise failed[0]
    return [found[place] for place in range(len(every))]
