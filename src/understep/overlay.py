"""An answer as plain data: for each cell a role, a number and a text. The game draws it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from fractions import Fraction
from importlib import import_module
from typing import Any, NamedTuple, overload

from understep.checks import expect, items, real, whole
from understep.errors import InputError
from understep.grids.cell import Cell, CellLike, one_cell

LARGEST = 10**15  # number of a mark


def plain_data(value: Any) -> Any:
    """A value of an answer as JSON holds it: cells as lists, entries as dicts, units by name."""
    if isinstance(value, Cell):
        return list(value)
    if isinstance(value, Fraction):
        return value.numerator if value.denominator == 1 else float(value)
    if hasattr(value, "plain"):
        return value.plain()
    if hasattr(value, "_asdict"):
        value = value._asdict()
    if isinstance(value, Mapping):
        return plain_facts(value)
    if isinstance(value, Iterable) and not isinstance(value, str):
        return [plain_data(each) for each in value]
    return value


def small_picture(board: Any, *answers: Any) -> str:
    """A board with answers as a notebook shows them."""
    # drawing lies above what is drawn, and is loaded when a notebook asks
    small: Callable[..., str] = import_module("understep.draw._small").small
    return small(board, *answers)


def plain_facts(facts: Mapping[str, Any]) -> dict[str, Any]:
    """Named values of an answer as JSON holds them."""
    return {name: plain_data(value) for name, value in facts.items()}


class Mark(NamedTuple):
    """What an overlay says of one cell.

    Attributes
    ----------
    role
        What the cell is in the answer: "reach", "pass", "route", "goal", ...
    number
        A figure that goes with the role, such as the turn; None without one.
    text
        A label, where there is one.
    """

    role: str
    number: int | float | None = None
    text: str | None = None


def _sound(mark: Mark) -> Mark:
    """A mark that can be drawn."""
    expect("marks", mark, Mark, "must map cells to marks")
    if mark.number is not None:
        real("marks", mark.number, "the number of a mark is at most 10**15", -LARGEST, LARGEST)
    return mark


class OverlayChange(NamedTuple):
    """How one overlay differs from another; made by `Overlay.changes`.

    Attributes
    ----------
    gone
        The cells that have no mark any more, in the order of the earlier overlay.
    laid
        The cells whose mark is new or another, and the mark.
    """

    gone: tuple[Cell, ...]
    laid: dict[Cell, Mark]


class Overlay(Mapping[Cell, Mark]):
    """An answer as a mapping of cells to marks, in the order of the answer.

    Parameters
    ----------
    marks
        Cell to `Mark`.
    priority
        Overlays of higher priority lie above others.

    Raises
    ------
    CellError
        A key that is not a cell.
    InputError
        A value that is not a mark, or a mark whose number is no number, or above 10**15.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.SquareGrid(3, 1), {"turf": 1})
    >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=1)), at=(0, 0))
    >>> us.reach(board, "scout").overlay()[us.Cell(1, 0)]
    Mark(role='reach', number=1, text=None)
    """

    def __init__(self, marks: Mapping[Cell, Mark], *, priority: int = 1) -> None:
        expect("marks", marks, Mapping, "must map cells to marks")
        self._marks = {one_cell(cell, "marks"): _sound(mark) for cell, mark in marks.items()}
        self.priority = whole("priority", priority)

    @classmethod
    def _of(cls, marks: dict[Cell, Mark], *, priority: int = 1) -> Overlay:
        """From marks that are known to be such, of an answer; the dictionary is kept."""
        made = cls.__new__(cls)
        made._marks, made.priority = marks, priority
        return made

    def __repr__(self) -> str:
        roles = Counter(mark.role for mark in self._marks.values())
        shown = ", ".join(f"{many} {role}" for role, many in roles.items())
        return f"<Overlay: {shown or 'no cells'}>"

    def __getitem__(self, cell: Cell) -> Mark:
        return self._marks[cell]

    def __iter__(self) -> Iterator[Cell]:
        return iter(self._marks)

    def __len__(self) -> int:
        return len(self._marks)

    def role(self, *roles: str) -> list[Cell]:
        """The cells that have one of some roles, in order.

        Examples
        --------
        >>> import understep as us
        >>> here, there = us.Cell(0, 0), us.Cell(1, 0)
        >>> overlay = us.Overlay({here: us.Mark("goal"), there: us.Mark("reach", 1, "1")})
        >>> overlay.role("reach")
        [Cell(col=1, row=0)]
        """
        return [cell for cell, mark in self._marks.items() if mark.role in roles]

    def changes(self, before: Overlay | None) -> OverlayChange:
        """What to do to come from an earlier overlay, or none, to this one.

        So that a game touches only what differs, and nothing of the last one stays behind.

        Raises
        ------
        InputError
            ``before`` is not an overlay.

        Examples
        --------
        >>> import understep as us
        >>> here, there, beyond = us.Cell(0, 0), us.Cell(1, 0), us.Cell(2, 0)
        >>> first = us.Overlay({here: us.Mark("reach", 1), there: us.Mark("goal")})
        >>> second = us.Overlay({there: us.Mark("goal"), beyond: us.Mark("reach", 2)})
        >>> change = second.changes(first)
        >>> change.gone, change.laid
        ((Cell(col=0, row=0),), {Cell(col=2, row=0): Mark(role='reach', number=2, text=None)})
        """
        if before is not None and not isinstance(before, Overlay):
            raise InputError("before", "must be an Overlay, or None", before)
        old = {} if before is None else before._marks
        gone = tuple(cell for cell in old if cell not in self._marks)
        return OverlayChange(
            gone, {cell: mark for cell, mark in self._marks.items() if old.get(cell) != mark}
        )

    def plain(self) -> dict[str, Any]:
        """The overlay as plain lists and dictionaries, for JSON."""
        marks = [{"cell": list(cell), **mark._asdict()} for cell, mark in self._marks.items()]
        return {"priority": self.priority, "marks": marks}


class StackChange(NamedTuple):
    """How several overlays differ from several others; made by `Overlays.changes`.

    Attributes
    ----------
    gone
        The cells that have no mark any more.
    laid
        The cells whose marks are others, and all their marks, the lowest first.
    """

    gone: tuple[Cell, ...]
    laid: dict[Cell, tuple[Mark, ...]]


class Overlays(Sequence[Overlay]):
    """Overlays in drawing order, the lowest first: a cell keeps the marks of all.

    So a cursor over an arrow over a tint shows all three.

    Parameters
    ----------
    overlays
        The overlays; those of higher priority lie above others, of equal ones the later.

    Raises
    ------
    InputError
        One that is not an overlay.

    Examples
    --------
    >>> import understep as us
    >>> here, there = us.Cell(0, 0), us.Cell(1, 0)
    >>> wash = us.Overlay({here: us.Mark("reach", 1), there: us.Mark("reach", 1)})
    >>> route = us.Overlay({there: us.Mark("goal", 1)}, priority=2)
    >>> shown = us.Overlays([route, wash])
    >>> [mark.role for mark in shown.marks(there)], shown.flat()[there].role
    (['reach', 'goal'], 'goal')
    """

    def __init__(self, overlays: Iterable[Overlay] = ()) -> None:
        laid = items("overlays", overlays, "must be overlays", Overlay)
        self._laid = tuple(sorted(laid, key=lambda overlay: overlay.priority))

    def __repr__(self) -> str:
        return f"<Overlays: {len(self)}>"

    @overload
    def __getitem__(self, index: int) -> Overlay: ...
    @overload
    def __getitem__(self, index: slice) -> Sequence[Overlay]: ...
    def __getitem__(self, index: Any) -> Any:
        return self._laid[index]

    def __len__(self) -> int:
        return len(self._laid)

    def marks(self, cell: CellLike) -> tuple[Mark, ...]:
        """All marks of a cell, the lowest first.

        Raises
        ------
        CellError
            ``cell`` is not a cell.

        Examples
        --------
        >>> import understep as us
        >>> here, there = us.Cell(0, 0), us.Cell(1, 0)
        >>> overlay = us.Overlay({here: us.Mark("goal"), there: us.Mark("reach", 1, "1")})
        >>> [mark.role for mark in us.Overlays([overlay]).marks(here)]
        ['goal']
        """
        found = one_cell(cell, "cell")
        return tuple(each[found] for each in self._laid if found in each)

    def flat(self) -> Overlay:
        """Of each cell the highest mark alone, as one overlay.

        Examples
        --------
        >>> import understep as us
        >>> here, there = us.Cell(0, 0), us.Cell(1, 0)
        >>> overlay = us.Overlay({here: us.Mark("goal"), there: us.Mark("reach", 1, "1")})
        >>> us.Overlays([overlay]).flat()[there].text
        '1'
        """
        marks: dict[Cell, Mark] = {}
        for each in self._laid:
            marks.update(each)
        return Overlay._of(marks, priority=self._laid[-1].priority if self._laid else 1)

    def _stacks(self) -> dict[Cell, tuple[Mark, ...]]:
        """The marks of all cells."""
        found: dict[Cell, tuple[Mark, ...]] = {}
        for each in self._laid:
            for cell, mark in each.items():
                found[cell] = (*found.get(cell, ()), mark)
        return found

    def changes(self, before: Overlays | None) -> StackChange:
        """What to do to come from earlier overlays, or none, to these.

        Raises
        ------
        InputError
            ``before`` is not Overlays.

        Examples
        --------
        >>> import understep as us
        >>> cell = us.Cell(0, 0)
        >>> wash = us.Overlay({cell: us.Mark("reach", 1)})
        >>> goal = us.Overlay({cell: us.Mark("goal")})
        >>> before, after = us.Overlays([wash]), us.Overlays([wash, goal])
        >>> [mark.role for mark in after.changes(before).laid[cell]]
        ['reach', 'goal']
        """
        if before is not None and not isinstance(before, Overlays):
            raise InputError("before", "must be Overlays, or None", before)
        old, new = {} if before is None else before._stacks(), self._stacks()
        gone = tuple(cell for cell in old if cell not in new)
        return StackChange(
            gone, {cell: each for cell, each in new.items() if old.get(cell) != each}
        )

    def plain(self) -> dict[str, Any]:
        """The overlays as plain lists and dictionaries, for JSON.

        Examples
        --------
        >>> import understep as us
        >>> here, there = us.Cell(0, 0), us.Cell(1, 0)
        >>> overlay = us.Overlay({here: us.Mark("goal"), there: us.Mark("reach", 1, "1")})
        >>> len(overlay.plain())
        2
        """
        return {"overlays": [each.plain() for each in self._laid]}
