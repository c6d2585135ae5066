"""Data: the game's own facts of a unit or a board, JSON values that do not change in place.

A journal remembers them; a change in place would change the past.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, NoReturn

import numpy as np

from understep.checks import LARGEST, text
from understep.errors import InputError

MOST_VALUES = 10_000
JSON_VALUES = "a text, a number, True, False, None, or a list or dict of such"
MOST_DEPTH = 8  # of tables and lists; files are read to a depth of their own


def _fixed(self: Any, *_arguments: Any, **_named: Any) -> NoReturn:
    raise TypeError(f"a {type(self).__name__} does not change: use board.set_data(...)")


class DataTable(dict[str, Any]):
    """Facts by name: a dict that does not change."""

    __setitem__ = __delitem__ = __ior__ = _fixed
    clear = pop = popitem = setdefault = update = _fixed

    def __reduce__(self) -> tuple[Any, ...]:
        return DataTable, (dict(self),)


class DataList(list[Any]):
    """Values in order: a list that does not change."""

    __setitem__ = __delitem__ = __iadd__ = __imul__ = _fixed
    append = clear = extend = insert = pop = remove = reverse = sort = _fixed

    def __reduce__(self) -> tuple[Any, ...]:
        return DataList, (list(self),)


def data_table(argument: str, facts: Any) -> DataTable:
    """Check facts, and take them over as they are now."""
    if type(facts) is DataTable:
        return facts
    if not isinstance(facts, (dict, Mapping)):
        raise InputError(argument, "must map names to JSON values", facts)
    found, room = _kept(argument, facts, 1, MOST_VALUES)
    if room < 0:
        raise InputError(argument, f"at most {MOST_VALUES} values", MOST_VALUES - room)
    made: DataTable = found
    return made


def _kept(place: str, value: Any, depth: int, room: int) -> tuple[Any, int]:
    """A value in a form that does not change, and how many more there may be."""
    value = value.item() if isinstance(value, np.generic) else value
    if type(value) in (int, float):
        if not abs(value) <= LARGEST:
            raise InputError(place, "must be finite", value)
    elif isinstance(value, str):
        text(place, value, empty=True)
    # plain tables first: asking whether something is any kind of mapping takes longest
    elif isinstance(value, (dict, Mapping, list, tuple)):
        table = not isinstance(value, (list, tuple))
        items: Any = value.items() if table else enumerate(value)  # type: ignore[union-attr]
        if depth > MOST_DEPTH:
            raise InputError(place, f"nested deeper than {MOST_DEPTH} levels", type(value).__name__)
        found: list[Any] = []
        for key, each in items:
            if table:
                text(place, key, what="a name")
            kept, room = _kept(f"{place}.{key}", each, depth + 1, room - 1)
            found.append((key, kept) if table else kept)
            if room < 0:
                break
        return DataTable(found) if table else DataList(found), room
    elif value is not None and type(value) is not bool:
        raise InputError(place, f"must be a JSON value: {JSON_VALUES}", value)
    return value, room
