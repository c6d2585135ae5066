"""An answer as plain data: for each cell a role, a number and a text. The game draws it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Mapping
from fractions import Fraction
from typing import Any, NamedTuple

from understep.checks import items
from understep.errors import InputError
from understep.grids.cell import Cell


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

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.SquareGrid(3, 1), {"turf": 1})
    >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=1)), at=(0, 0))
    >>> us.reach(board, "scout").overlay()[us.Cell(1, 0)]
    Mark(role='reach', number=1, text=None)
    """

    def __init__(self, marks: Mapping[Cell, Mark], *, priority: int = 1) -> None:
        self._marks = dict(marks)
        self.priority = priority

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
        """The cells that have one of some roles, in order."""
        return [cell for cell, mark in self._marks.items() if mark.role in roles]

    def changes(self, before: Overlay | None) -> OverlayChange:
        """What to do to come from an earlier overlay, or none, to this one.

        So that a game touches only what differs, and nothing of the last one stays behind.

        Raises
        ------
        InputError
            ``before`` is no overlay.

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

    @classmethod
    def stacked(cls, overlays: Iterable[Overlay]) -> Overlay:
        """Several overlays as one: of each cell the mark of highest priority, the last of equals.

        Raises
        ------
        InputError
            One that is no overlay.

        Examples
        --------
        >>> import understep as us
        >>> here, there = us.Cell(0, 0), us.Cell(1, 0)
        >>> wash = us.Overlay({here: us.Mark("reach", 1), there: us.Mark("reach", 1)})
        >>> route = us.Overlay({there: us.Mark("goal", 1)}, priority=2)
        >>> [mark.role for mark in us.Overlay.stacked([route, wash]).values()]
        ['reach', 'goal']
        """
        laid = items("overlays", overlays, "must be overlays")
        for each in laid:
            if not isinstance(each, Overlay):
                raise InputError("overlays", "must be overlays", each)
        marks: dict[Cell, Mark] = {}
        for each in sorted(laid, key=lambda overlay: overlay.priority):
            marks.update(each._marks)
        return cls(marks, priority=max((each.priority for each in laid), default=1))
