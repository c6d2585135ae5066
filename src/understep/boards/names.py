"""Names that a movement, or a terrain, uses and a board does not have: most are misspelt."""

from __future__ import annotations

import re
import warnings
from collections.abc import Collection, Iterator, Mapping
from functools import lru_cache
from typing import Any, NamedTuple

from understep.errors import NameUnknownError, NameWarning

USES = ("costs", "terrain"), ("edges", "edge"), ("features", "feature"), ("links", "link")
ALIKE = 0.75  # of 1, from where on two names are taken for each other
# what tells names of a series apart, alike on purpose: a number or a lone letter
SERIES = re.compile(r"\d+|(?<![^\W_])[^\W\d_](?![^\W_])")
MOST_WARNED = 1 << 12  # names of which it is known that they were warned of
_warned: set[tuple[str, str, str]] = set()


class Stray(NamedTuple):
    """A name that a board does not have, and those of its kind that it has."""

    argument: str
    kind: str
    name: str
    known: Collection[str]

    @property
    def close(self) -> str | None:
        """The name of the board that is much like it."""
        return _close(self.name, tuple(self.known))

    @property
    def text(self) -> str:
        """What is the matter."""
        hint = f" (did you mean {self.close!r}?)" if self.close else ""
        return f"{self.argument}: there is no {self.kind} {self.name!r} on this board{hint}"


def strays(board: Any, movement: Any, side: str | None = None) -> list[Stray]:
    """The names that a movement uses, or terrain against sides, and that a board does not have.

    ``side`` is one that comes now; with None terrain is not looked at.
    """
    used = [*_uses(movement)]
    if side is not None:
        used += [("closed_to", "side", each) for each in sorted(board._contents.declared.shut_out)]
    if not used:  # as for most units, whenever one is added
        return []
    known = _known(board, movement, side)
    return [
        Stray(argument, kind, name, known[kind])
        for argument, kind, name in used
        if name not in known[kind]
    ]


def meet(board: Any, movement: Any, side: str | None = None) -> None:
    """Warn, once, of names that are much like others; where a board is strict, refuse them.

    Of kinds that can come later (links, sides) a strict board refuses only those that are much
    like another.
    """
    for each in strays(board, movement, side):
        _tell(board, each, must=each.kind in ("terrain", "edge", "feature"))


def meet_sides(board: Any, argument: str, sides: Collection[Any]) -> None:
    """The same of sides; those that are named together are no misspelt ones of each other."""
    given = [side for side in sides if isinstance(side, str)]
    for side in given:
        if side not in board.sides:
            known = [each for each in board.sides if each not in given]
            _tell(board, Stray(argument, "side", side, known))


def _tell(board: Any, stray: Stray, *, must: bool = False) -> None:
    """Warn of a name, or refuse it; ``must``: a strict board has to have it."""
    close = stray.close
    if board.strict_names and (must or close):
        raise NameUnknownError(stray.argument, stray.kind, stray.name, stray.known)
    if close and (fault := (stray.kind, stray.name, close)) not in _warned:
        if len(_warned) >= MOST_WARNED:  # a game can make up any number of names
            _warned.clear()
        _warned.add(fault)
        warnings.warn(stray.text, NameWarning, stacklevel=4)


def _uses(movement: Any) -> Iterator[tuple[str, str, str]]:
    """The names that a movement uses, by argument and kind."""
    for argument, kind in USES:
        table = getattr(movement, argument, None)
        for name in table if isinstance(table, Mapping) else ():
            yield argument, kind, name
    for name in getattr(getattr(movement, "leap", None), "terrains", None) or ():
        yield "leap.terrains", "terrain", name


def _known(board: Any, movement: Any, side: str | None) -> dict[str, Collection[str]]:
    """The names that a board has, by kind."""
    links = board.links() if getattr(movement, "links", None) else ()
    return {
        "terrain": board.terrains,
        "edge": board.edge_kinds,
        "feature": board.feature_kinds,
        "link": {link.kind for link in links},
        "side": {*board.sides, side or ""},
    }


@lru_cache(1024)  # a movement that serves many boards meets them again and again
def _close(name: str, known: tuple[str, ...]) -> str | None:
    from difflib import get_close_matches  # only errors need it

    bare = SERIES.sub("", name)
    others = [each for each in known if SERIES.sub("", each) != bare]
    return next(iter(get_close_matches(name, others, 1, ALIKE)), None)
