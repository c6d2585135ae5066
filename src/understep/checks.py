"""Checks of arguments: each returns the value in one form, or says which rule it breaks."""

from __future__ import annotations

import math
import os
import re
import sys
from collections.abc import Collection, Mapping
from dataclasses import MISSING, Field, fields
from numbers import Integral, Real
from pathlib import Path
from typing import Any, ClassVar, NamedTuple, TypeVar

import numpy as np

from understep.errors import InputError, NameUnknownError

K = TypeVar("K")

LARGEST = sys.float_info.max
ABOVE_ZERO = math.ulp(0.0)
COLOR = r"^#[0-9a-fA-F]{6}$"


class Limits(NamedTuple):
    """What a field can hold, said once for its check, for files and for their schema."""

    least: float | None = None
    most: float | None = None
    pattern: str = ""


def expect(argument: str, value: object, kind: type | tuple[type, ...], rule: str) -> None:
    """Refuse a value that is of no such kind."""
    if not isinstance(value, kind) or (type(value) is bool and kind is int):
        raise InputError(argument, rule, value)


def items(
    argument: str, value: Any, rule: str, kind: type | tuple[type, ...] = object
) -> list[Any]:
    """Return the things that a value holds, as a list, or refuse it, or one of another kind.

    A text is one thing, and not its letters.
    """
    try:
        found = [value] if isinstance(value, str) else list(value)
    except TypeError:
        raise InputError(argument, rule, value) from None
    for each in found:
        expect(argument, each, kind, rule)
    return found


def whole(argument: str, value: Any, low: int | None = None, high: int | None = None) -> int:
    """Return a whole number, of Python or NumPy, or refuse it."""
    known = type(value) is int or (isinstance(value, Integral) and not isinstance(value, bool))
    if not known or (low is not None and value < low) or (high is not None and value > high):
        bounds = "" if low is None else f" of {low} or more"
        bounds = bounds if high is None else f" from {low} to {high}"
        raise InputError(argument, f"must be a whole number{bounds}", value)
    return int(value)


def real(
    argument: str, value: Any, rule: str, low: float = -LARGEST, high: float = LARGEST
) -> float:
    """Return a finite number within bounds, whole or not, of Python or NumPy, or refuse it."""
    known = isinstance(value, Real) and not isinstance(value, bool)
    try:
        number = float(value) if known else math.nan
    except OverflowError:
        number = math.inf
    if not low <= number <= high:
        raise InputError(argument, rule, value)
    return number


def truth(argument: str, value: Any) -> bool:
    """Return True or False, of Python or NumPy, or refuse anything else."""
    if not isinstance(value, bool | np.bool_):
        raise InputError(argument, "must be True or False", value)
    return bool(value)


def text(argument: str, value: object, *, what: str = "", empty: bool = False) -> None:
    """Refuse what is not a text that can be written, or is empty unless it may be."""
    if not isinstance(value, str) or not (empty or value.strip()):
        rule = f"must be a text{' that is not empty' * (not empty)}"
        raise InputError(argument, f"{what} {rule}".strip(), value)
    try:
        value.encode()
    except UnicodeEncodeError as error:
        rule = f"holds {value[error.start]!r}, half of a character, which no file can hold"
        raise InputError(argument, rule, value) from None


def color_of(argument: str, value: Any, what: str = "a colour") -> str:
    """Return a colour, given as a text such as "#6b8a3c", or refuse it."""
    if not isinstance(value, str) or not re.fullmatch(COLOR, value):
        raise InputError(argument, f"{what} must be like '#6b8a3c'", value)
    return value


def path_of(argument: str, value: Any, endings: tuple[str, ...] = ()) -> Path:
    """Return a path, given as a text or a path, or refuse it; with one of some endings, if any."""
    try:
        found = Path(value) if b"\0" not in os.fsencode(value) else None
    except (TypeError, UnicodeEncodeError):
        found = None
    if found is None:
        raise InputError(argument, "must be a path", value)
    if endings and found.suffix not in endings:
        raise InputError(argument, f"must end in {', '.join(endings)}", str(value))
    return found


def named(argument: str, kind: str, value: object, known: Collection[str]) -> str:
    """Return a name that something bears, or raise `NameUnknownError`."""
    if not isinstance(value, str) or value not in known:
        raise NameUnknownError(argument, kind, value, known)
    return value


class Described:
    """A dataclass whose repr could be typed: it names what differs from the defaults."""

    #: All of them, by name.
    kinds: ClassVar[dict[str, Any]] = {}

    def __init_subclass__(cls) -> None:
        Described.kinds[cls.__name__] = cls

    def _changed(self) -> dict[str, Any]:
        """The fields that differ from the defaults."""
        made: Any = self
        every = {each: getattr(self, each.name) for each in fields(made) if each.init}
        return {each.name: value for each, value in every.items() if value != self._usual(each)}

    def __repr__(self) -> str:
        made: Any = self
        required = {each.name for each in fields(made) if self._usual(each) is MISSING}
        parts = []
        for name, value in self._changed().items():
            shown = dict(value) if isinstance(value, Mapping) else value
            shown = tuple(shown) if hasattr(shown, "_fields") else shown  # a cell as a pair
            parts.append(repr(shown) if name in required else f"{name}={shown!r}")
        return f"{type(self).__name__}({', '.join(parts)})"

    def _usual(self, place: Field[Any]) -> Any:
        """The value that a field has by default; MISSING: it must be given."""
        return place.default if place.default_factory is MISSING else place.default_factory()


def kinds_table(argument: str, table: Any, kind: type[K], article: str, most: int) -> dict[str, K]:
    """Check a table of names to what a class makes, and take it over."""
    if not isinstance(table, Mapping):
        raise InputError(argument, f"must map names to {kind.__name__}", table)
    if len(table) > most:
        raise InputError(argument, f"at most {most} kinds", len(table))
    for name, each in table.items():
        text(argument, name, what="a name")
        if not isinstance(each, kind):
            raise InputError(argument, f"{name!r} must be {article} {kind.__name__}", each)
    return dict(table)
