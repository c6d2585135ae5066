"""The errors of Under Step.

::

    UnderstepError
    ├── InputError (ValueError)      an argument breaks a rule
    │   ├── CellError                not a cell, or not one of this board
    │   ├── NameUnknownError         a name that nothing bears; close matches are named
    │   ├── NoRoomError              more asked for than there is room for
    │   ├── CostError                a cost or a number of points that cannot be
    │   └── OccupiedError            another unit stands there
    ├── NotReached (KeyError)        asked of a reach about a cell it does not hold
    ├── JournalError (RuntimeError)  an undo or redo that cannot be now
    ├── StaleError (RuntimeError)    more asked of an answer after the board has changed
    ├── BoardFileError (ValueError)  a board file with faults, all of them listed
    └── MissingExtraError (ImportError)  an optional package is not installed
    CoverWarning (RuntimeWarning)    a shape covers nothing, or everything
    NameWarning (UserWarning)        a name that a board lacks, much like one that it has
    KernelWarning (RuntimeWarning)   the interpreted kernel is in use
"""

from __future__ import annotations

import pickle
from collections.abc import Iterable
from typing import Any

MOST_FAULTS = 20  # of a file, listed one by one
LONGEST = 300  # signs of a place or fault in a message


class UnderstepError(Exception):
    """The root of all errors raised by this library. They can be pickled, for other processes."""

    def __reduce__(self) -> tuple[Any, ...]:
        facts = {name: _portable(value) for name, value in self.__dict__.items()}
        return _again, (type(self), self.args, facts)


def _again(kind: type[UnderstepError], args: tuple[Any, ...], facts: dict[str, Any]) -> Any:
    """An error that was pickled."""
    error = kind.__new__(kind, *args)
    error.__dict__.update(facts)
    return error


def _portable(value: Any) -> Any:
    """A value as it can be pickled: what cannot, such as a lambda, as its repr."""
    try:
        pickle.dumps(value)
    except Exception:
        return repr(value)
    return value


class InputError(UnderstepError, ValueError):
    """An argument breaks a rule.

    Parameters
    ----------
    argument
        The name of the argument, as the caller wrote it.
    rule
        What must hold.
    got
        The value that was given.
    place
        Where in the argument, for values with many parts.
    """

    def __init__(self, argument: str, rule: str, got: object, place: str = "") -> None:
        shown = repr(got)
        if len(shown) > 80:
            shown = shown[:77] + "..."
        where = f" at {place}" if place else ""
        super().__init__(f"{argument}{where}: {rule}; got {shown}")
        self.argument = argument
        self.rule = rule
        self.got = got
        self.place = place


def printable(line: str) -> str:
    """A text in which signs that would steer a terminal, or break a file, are written out.

    Ends of lines stay.
    """
    if line.isprintable():
        return line
    shown = (sign if sign.isprintable() or sign == "\n" else repr(sign)[1:-1] for sign in line)
    return "".join(shown)


class CellError(InputError):
    """A value that is not a cell, or a cell that the grid does not have."""


class CostError(InputError):
    """A cost, or a number of movement points, that cannot be."""


class NoRoomError(InputError):
    """More cells asked for than there is room for."""


class OccupiedError(InputError):
    """A cell where another unit stands."""


class NameUnknownError(InputError):
    """A name that nothing bears."""

    def __init__(self, argument: str, kind: str, got: object, known: Iterable[str]) -> None:
        from difflib import get_close_matches  # only errors need it

        names = sorted(known)
        close = get_close_matches(str(got), names, n=3)
        if close:
            hint = "did you mean " + " or ".join(repr(name) for name in close) + "?"
        else:
            listed = names[:12] + (["..."] if len(names) > 12 else [])
            hint = "there are: " + ", ".join(listed) if names else "there are no names"
        super().__init__(argument, f"must name a {kind} ({hint})", got)
        self.close = tuple(close)


class NotReached(UnderstepError, KeyError):  # noqa: N818 - an answer more than an error
    """A cell that a reach does not hold; the message says why."""

    def __str__(self) -> str:
        """Return the reason, without the quotes a KeyError puts around it."""
        return str(self.args[0])


class JournalError(UnderstepError, RuntimeError):
    """An undo or redo inside a batch or trial."""


class StaleError(UnderstepError, RuntimeError):
    """More is asked of an answer than it has kept, after the board has changed: ask anew."""


class BoardFileError(UnderstepError, ValueError):
    """A board file, or another file of a level, with faults.

    ``faults`` lists the first 20 as ``(place, what is wrong)``, and ``more`` says how many others
    were met; a reader may stop before it has met all.
    """

    def __init__(self, source: str, faults: Iterable[tuple[str, str]], more: int = 0) -> None:
        self.source = source
        every = list(faults)
        self.faults = tuple((_cut(place), _cut(what)) for place, what in every[:MOST_FAULTS])
        self.more = more + max(len(every) - MOST_FAULTS, 0)
        many = len(self.faults) + self.more
        lines = [f"{source}: {many} fault{'s' if many != 1 else ''}"]
        lines += [f"  {place}: {fault}" if place else f"  {fault}" for place, fault in self.faults]
        lines += [f"  and {self.more} more"] if self.more else []
        super().__init__("\n".join(lines))


def _cut(text: str) -> str:
    """A text of a message, at a length that can be read and printed."""
    text = printable(text)
    return text if len(text) <= LONGEST else text[: LONGEST - 3] + "..."


class MissingExtraError(UnderstepError, ImportError):
    """An optional package is not installed."""

    def __init__(self, need: str, extra: str) -> None:
        super().__init__(f"{need} needs an optional part: pip install 'understep[{extra}]'")


class CoverWarning(RuntimeWarning):
    """A shape covers no cell of a grid, or every one; rarely what was meant."""


class NameWarning(UserWarning):
    """A movement, a terrain or a call uses a name that a board lacks, much like one that it has."""


class KernelWarning(RuntimeWarning):
    """The interpreted kernel is in use: the same answers, a hundred times slower."""


__all__ = [
    "BoardFileError",
    "CellError",
    "CostError",
    "CoverWarning",
    "InputError",
    "JournalError",
    "KernelWarning",
    "MissingExtraError",
    "NameUnknownError",
    "NameWarning",
    "NoRoomError",
    "NotReached",
    "OccupiedError",
    "StaleError",
    "UnderstepError",
]


def __dir__() -> list[str]:
    return __all__
