"""Sees: whether a cell can be seen from another, and what is in the way."""

from __future__ import annotations

from dataclasses import dataclass

from understep.boards.board import Board
from understep.boards.cost import Cost
from understep.boards.refusal import Refusal, cell_on
from understep.boards.unit import Unit
from understep.checks import whole
from understep.grids.cell import Cell, CellLike, Cells
from understep.moves.answer import Answer, KnownTo, known
from understep.overlay import Mark, Overlay
from understep.sight.lines import height, lines

HALF = 0.5


@dataclass(frozen=True, repr=False)
class Sighting(Answer):
    """Whether one place is seen from another; true in a condition if it is.

    Attributes
    ----------
    start, end
        The cells at the ends of the line of sight.
    why
        What is in the way, as a sentence without a full stop; empty where nothing is.
    blockers
        The name of the terrain or kind of edge that is in the way; none for a rise of the terrain,
        and for the end of the board.
    cell
        Where that is; of an edge, the cell before it.
    """

    _facts = ("start", "end", "cell")

    start: Cell
    end: Cell
    why: str = ""
    blockers: tuple[str, ...] = ()
    cell: Cell | None = None
    unit: Unit | None = None

    def __str__(self) -> str:
        return self.why or f"{tuple(self.end)} is seen from {tuple(self.start)}"

    def __repr__(self) -> str:
        return f"<Sighting: {self}>"

    @property
    def cells(self) -> Cells:
        """The two ends of the line of sight."""
        return Cells([self.start, self.end])

    def overlay(self) -> Overlay:
        """The line as plain data: roles "start", "line", "refused" and "finding".

        The end is "refused" where it is not seen (text: why); "finding" is where the line is
        blocked (text: by what).
        """
        marks = {cell: Mark("line") for cell in self.board.grid.line(self.start, self.end)}
        if not self:
            marks[self.end] = Mark("refused", None, self.why)
        if self.cell is not None:
            marks[self.cell] = Mark("finding", None, ", ".join(self.blockers))
        return Overlay(marks | {self.start: Mark("start")}, priority=2)


def sees(
    board: Board,
    a: str | CellLike,
    b: str | CellLike | None,
    *,
    radius: int | None = None,
    eye: Cost | None = None,
    target: Cost = HALF,
    known_to: KnownTo = None,
) -> Sighting:
    """Whether a place can be seen from another.

    The straight line between the middles of two cells must be clear. A cell on it hides what is
    behind if its ground and what grows there (`Terrain.cover`) rise above the line; so does an edge
    that hides, and what lies off the board. Impassable terrain without cover and what `Board.block`
    closes hide nothing. Where the line runs along borders or through corners,
    it is nudged to either side, and one clear way is enough. Units are not in the way. With equal
    heights ``sees(a, b)`` is ``sees(b, a)``.

    Parameters
    ----------
    board
        The board; it is not changed.
    a, b
        Cells, or units by name; of those that take up several cells, the best pair counts.
    radius
        How far one sees, in cells; None: as far as the unit ``a`` does, or any distance.
    eye, target
        How many levels above its ground the line starts and ends; by default that of the unit, or
        half a level.
    known_to
        The side whose knowledge counts; by default that of the unit ``a``, if it keeps any (`fog`).
        False: the truth. A cell that it never saw is not seen; land that it does not know is in
        nobody's way.

    Returns
    -------
    Sighting
        False in a condition where something is in the way; then ``why``, ``blockers`` and ``cell``
        tell what the line meets, nudged to the right.

    Raises
    ------
    NameUnknownError
        No such unit, or not to that side; a side that keeps no knowledge.
    CellError
        A value that is not a cell, or a cell off the board.
    InputError
        A radius that is no whole number of 0 or more, or a height that is no number from 0 to
        a million.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.HexGrid(9, 3), {"turf": 1, "reeds": us.Terrain(2, cover=1)})
    >>> board.paint("reeds", (4, 1))
    >>> bool(us.sees(board, (0, 1), (4, 1))), us.sees(board, (0, 1), (8, 1)).why
    (True, "'reeds' at (4, 1) hides (8, 1)")
    >>> board.set_elevation(3, (0, 1))                       # from above one sees farther
    >>> bool(us.sees(board, (0, 1), (8, 1)))
    True
    """
    board = known(board, a if isinstance(a, str) else None, known_to)
    found = _sighting(board, a, b, radius, eye, target)
    return found._of(board, unit=board.unit(a) if isinstance(a, str) else None)


def _sighting(
    board: Board, a: str | CellLike, b: str | CellLike | None, radius: int | None, eye: Cost | None,
    target: Cost,
) -> Sighting:  # fmt: skip
    """What the lines between two places meet."""
    kept = lines(board)
    sight = kept.ready()
    radius, eye = sight_of(board.unit(a) if isinstance(a, str) else None, radius, eye)
    heights = height(eye, "eye"), height(target, "target")
    grid, starts = board.grid, places(board, a, "a")
    there = b if isinstance(b, str) else cell_on(grid, b)
    if isinstance(there, Refusal):
        return Sighting(starts[0], starts[0], there.why)
    ends = places(board, there, "b")
    pairs = [(int(grid.distance(start, end)), start, end) for start in starts for end in ends]
    pairs.sort(key=lambda pair: pair[0])
    far = radius_of(radius, pairs[-1][0])
    gap, start, end = pairs[0]
    found = Sighting(start, end, f"{tuple(end)} is {gap} cells away, and the radius is {radius}")
    kept.countable(pairs[-1][0] if gap <= far else 0, heights)
    for place, (gap, start, end) in enumerate(pairs):
        if gap > far:
            break
        seen, met, side = sight.clear(
            grid.numbering.number(start), grid.numbering.number(end), *heights
        )
        if seen and not board._contents.knows(board.grid.numbering.number(end)):
            found = Sighting(
                start, end, f"{tuple(end)} is unknown to the {board._contents.known_by}"
            )
            continue
        if seen:
            return Sighting(start, end)
        if place == 0:
            found = _hidden(board, start, end, grid.numbering.cell_of(met), side)
    return found


def sight_of(unit: Unit | None, radius: int | None, eye: Cost | None) -> tuple[int | None, Cost]:
    """How far a unit sees and from how high, or anybody, unless that is given."""
    if unit is not None:
        radius = unit.sight if radius is None else radius
        eye = unit.eye if eye is None else eye
    return radius, HALF if eye is None else eye


def radius_of(radius: int | None, far: int) -> int:
    """A radius that is one, or else how far there is anything to see."""
    if radius is None:
        return far
    return min(whole("radius", radius, 0), far)


def places(board: Board, what: str | CellLike, argument: str) -> list[Cell]:
    """A cell, or those that a unit takes up."""
    if isinstance(what, str):
        return list(board.covered(board.unit(what)))
    return [board.grid.numbering.require(what, argument)]


def _hidden(board: Board, start: Cell, end: Cell, cell: Cell, side: int) -> Sighting:
    """What the line met, in words."""
    far = tuple(end)
    if side >= 0:
        beyond = board.grid.step(cell, side)
        if beyond is None:
            why = f"the line to {far} leads off the board after {tuple(cell)}"
            return Sighting(start, end, why, (), cell)
        kind = board.edge(cell, beyond)
        if kind is None or board.is_open(cell, beyond) or not board.edge_kinds[kind].hides:
            kind = board.edge(beyond, cell)
        why = f"{kind!r} between {tuple(cell)} and {tuple(beyond)} hides {far}"
        return Sighting(start, end, why, (kind,) if kind else (), cell)
    name = board.terrain(cell)
    if board.terrains[name].cover:
        return Sighting(start, end, f"{name!r} at {tuple(cell)} hides {far}", (name,), cell)
    return Sighting(start, end, f"the ground at {tuple(cell)} hides {far}", (), cell)
