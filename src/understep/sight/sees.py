"""Sees: whether a cell can be seen from another, and what is in the way."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from understep.boards.board import Board
from understep.boards.cost import Cost
from understep.boards.refusal import Refusal, cell_on
from understep.boards.unit import SightMeasure, Unit
from understep.grids.cell import Cell, CellLike, Cells
from understep.moves.answer import Answer, KnownTo, brief, known, sought
from understep.moves.obstacle import Obstacle
from understep.overlay import Mark, Overlay
from understep.sight.lines import height, lines
from understep.sight.look import HALF, Look, look_of
from understep.sight.met import met


@dataclass(frozen=True, repr=False)
class Sighting(Answer):
    """Whether one place is seen from another; true in a condition if it is.

    Attributes
    ----------
    start, end
        The cells at the ends of the line of sight.
    why
        What is in the way, as a sentence without a full stop; empty where nothing is.
    obstacles
        Everything along the line that hides its end, nearest first: what stands on a cell, its
        ground, edges. Of each the ``eye`` says from how high above its own ground one would see
        over it. None where it is too far, or unknown.
    """

    _facts = ("start", "end", "cell", "obstacles")

    start: Cell
    end: Cell
    why: str = ""
    obstacles: tuple[Obstacle, ...] = ()
    unit: Unit | None = None

    @property
    def blockers(self) -> tuple[str, ...]:  # type: ignore[override]
        """The names of the terrains, features and kinds of edges in the way, nearest first."""
        return tuple(dict.fromkeys(name for each in self.obstacles for name in each.names))

    @property
    def cell(self) -> Cell | None:
        """Where the first obstacle is; of an edge, the cell before it."""
        first = next(iter(self.obstacles), None)
        return first and (first.between[0] if first.between else first.cell)

    def __str__(self) -> str:
        return self.why or f"{tuple(self.end)} is seen from {tuple(self.start)}"

    def __repr__(self) -> str:
        return f"<Sighting: {brief(str(self))}>"

    @property
    def cells(self) -> Cells:
        """The two ends of the line of sight."""
        return Cells([self.start, self.end])

    def overlay(self) -> Overlay:
        """The line as plain data: roles "start", "line", "refused" and "finding".

        The end is "refused" where it is not seen (text: why); "finding" is where something is in
        the way (number: its place, from 1; text: what).
        """
        marks = {cell: Mark("line") for cell in self.board.grid.line(self.start, self.end)}
        if not self:
            marks[self.end] = Mark("refused", None, self.why)
        for number, each in reversed(list(enumerate(self.obstacles, 1))):
            where = each.between[0] if each.between else each.cell
            marks[where] = Mark("finding", number, each.text)
        return Overlay._of(marks | {self.start: Mark("start")}, priority=2)


def sees(
    board: Board,
    a: str | CellLike,
    b: str | CellLike | None,
    *,
    radius: int | None = None,
    eye: Cost | None = None,
    target: Cost = HALF,
    measure: SightMeasure | None = None,
    per_level: int | None = None,
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
    measure, per_level
        How the radius counts, as `sight_measure` and `sight_per_level` of a `Unit`; by default as
        the unit's.
    known_to
        The side whose knowledge counts; by default that of the unit ``a``, if it keeps any (`fog`).
        False: the truth. A cell that it never saw is not seen; land that it does not know is in
        nobody's way.

    Returns
    -------
    Sighting
        False in a condition where something is in the way; then ``why``, ``obstacles`` and
        ``cell`` tell what the line meets, nudged to the right.

    Raises
    ------
    NameUnknownError
        No such unit; a side that keeps no knowledge. (A unit ``b`` that the side does not know of
        gets a false answer.)
    CellError
        A value that is not a cell, or a cell off the board.
    InputError
        A radius that is not a whole number of 0 or more, or a height that is not a number from 0 to
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
    board = known(board, a if isinstance(a, str) else None, known_to, "a")
    found = _sighting(board, a, b, target, (radius, eye, measure, per_level))
    return found._of(board, unit=board.unit(a) if isinstance(a, str) else None)


def _sighting(
    board: Board, a: str | CellLike, b: str | CellLike | None, target: Cost, given: Any
) -> Sighting:
    """What the lines between two places meet; ``given`` is how one looks, as for `look_of`."""
    kept = lines(board)
    sight = kept.ready()
    look = look_of(board._units.find(a, "a") if isinstance(a, str) else None, *given)
    heights = height(look.eye, "eye"), height(target, "target")
    grid, starts = board.grid, places(board, a, "a")
    there = sought(board, b, "b") if isinstance(b, str) else cell_on(grid, b, "b")
    if isinstance(there, Refusal):
        return Sighting(starts[0], starts[0], there.why)
    ends = list(board.covered(there)) if isinstance(there, Unit) else [there]
    pairs = [(int(grid.distance(start, end)), start, end) for start in starts for end in ends]
    pairs.sort(key=lambda pair: pair[0])
    _, start, end = pairs[0]
    # how far is asked before what lies between, as it costs less
    near = [look.reaches(board, *pair) for pair in pairs]
    if not any(near):
        level = " on level ground" * bool(look.per_level)
        why = f"{tuple(end)} is {_far(board, look, start, end)} cells away, and sight reaches"
        return Sighting(start, end, f"{why} {look.radius}{level}")
    found = Sighting(start, end)
    pairs = [pair for pair, is_near in zip(pairs, near, strict=True) if is_near]
    kept.countable(pairs[-1][0], heights)
    for place, (_, start, end) in enumerate(pairs):
        seen, _, _ = sight.clear(grid.numbering.number(start), grid.numbering.number(end), *heights)
        # seen or not, what its side does not know of it gives nothing away
        if seen and not board._contents.knows(board.grid.numbering.number(end)):
            found = Sighting(
                start, end, f"{tuple(end)} is unknown to the {board._contents.known_by}"
            )
            continue
        if seen:
            return Sighting(start, end)
        if place == 0:
            # the kernel ends with the line that is nudged to the right, where that differs
            things = met(board, kept, start, end, heights, 1)
            found = Sighting(start, end, things[0].text, things)
    return found


def _far(board: Board, look: Look, start: Cell, end: Cell) -> str:
    """How far a cell is from another, in words."""
    straight = look.measure == "straight"
    gap = board.grid.distance(start, end, measure="straight" if straight else "steps")
    return f"{gap:.4g}"


def places(board: Board, what: str | CellLike, argument: str) -> list[Cell]:
    """A cell, or those that a unit takes up."""
    if isinstance(what, str):
        return list(board.covered(board._units.find(what, argument)))
    return [board.grid.numbering.require(what, argument)]
