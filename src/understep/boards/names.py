"""Names that a movement, or a terrain, uses and a board does not have: most are misspelt."""

from __future__ import annotations

import warnings
from collections.abc import Collection, Iterable, Iterator, Mapping
from functools import lru_cache
from typing import Any, NamedTuple

from understep.errors import NameUnknownError, NameWarning

ALIKE = 0.75  # of 1, from where on two names are taken for each other
_told: set[tuple[str, str, str]] = set()


class Stray(NamedTuple):
    """A name that a board does not have, and one of its own that is much like it, or none."""

    argument: str
    kind: str
    name: str
    close: str | None

    @property
    def text(self) -> str:
        """What is the matter."""
        hint = f" (did you mean {self.close!r}?)" if self.close else ""
        return f"{self.argument}: there is no {self.kind} {self.name!r} on this board{hint}"


def strays(
    used: Iterable[tuple[str, str, str]], known: Mapping[str, Collection[str]]
) -> Iterator[Stray]:
    """Of names used, given by argument, kind and name, those that are not known."""
    for argument, kind, name in used:
        if name not in known[kind]:
            yield Stray(argument, kind, name, _close(name, tuple(known[kind])))


@lru_cache(1024)  # a movement that serves many boards meets them again and again
def _close(name: str, known: tuple[str, ...]) -> str | None:
    from difflib import get_close_matches  # only errors need it

    return next(iter(get_close_matches(name, known, 1, ALIKE)), None)


def meet(found: Iterable[Stray], strict: bool, known: Mapping[str, Collection[str]]) -> None:
    """Warn, once, of names that are much like others; where a board is strict, refuse them.

    Of kinds that can come later (links, sides) a strict board refuses only those that are much
    like another.
    """
    for each in found:
        declared = each.kind in ("terrain", "edge")
        if strict and (declared or each.close):
            raise NameUnknownError(each.argument, each.kind, each.name, known[each.kind])
        if each.close and each[1:] not in _told:
            _told.add((each.kind, each.name, each.close))
            warnings.warn(each.text, NameWarning, stacklevel=4)


def uses(mover: Any) -> Iterator[tuple[str, str, str]]:
    """The names that a movement uses, by argument and kind."""
    tables = ("costs", "terrain"), ("edges", "edge"), ("links", "link")
    for argument, kind in tables:
        table = getattr(mover, argument, None)
        for name in table if isinstance(table, Mapping) else ():
            yield argument, kind, name
    for name in getattr(getattr(mover, "leap", None), "ground", None) or ():
        yield "leap.ground", "terrain", name
