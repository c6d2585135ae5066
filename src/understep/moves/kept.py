"""Kept: the reaches that units had, as long as nothing has changed that matters to them."""

from __future__ import annotations

from threading import Lock
from typing import Any, Generic, NamedTuple, Protocol, TypeVar

from understep.boards.board import Board
from understep.boards.derived import Watcher
from understep.boards.store import Layer
from understep.boards.unit import Unit
from understep.grids.cell import IntArray
from understep.moves.answer import movement_of
from understep.moves.search import asker_of
from understep.rules.zones import Zones, zones

MOST_LABELS = 1 << 16  # a larger reach is not kept
MOST_IN_ALL = 1 << 20  # labels of all reaches of a board
SMALL = 64  # labels, about, that a reach takes besides its own
MOST_ASKERS = 1 << 10
FEW_LABELS = 512  # a smaller one is found again sooner than changes are looked through


class Keepable(Protocol):
    """What is kept: how large it is, and where a change could alter it."""

    unit: Unit

    @property
    def _labelled(self) -> int:
        """How many labels it holds."""

    @property
    def _surroundings(self) -> tuple[IntArray, IntArray] | None:
        """The first and last cell of all whose change could alter it; None: any."""


class Held(NamedTuple):
    """What answers where a unit can get, and what tells whether it still does."""

    asker: Any
    unit: Unit
    layer: Layer  # who stands where in its layer
    codes: Any  # and as it was
    ground: Layer  # the terrain
    terrain: Any
    around: Zones | None  # the zones that it heeds
    painted: int


R = TypeVar("R", bound=Keepable)


class KeptReaches(Watcher, Generic[R]):
    """The last reach of every unit of a board, by its number of turns."""

    def __init__(self, board: Board) -> None:
        self._board = board
        self._known: dict[tuple[str, int | None], tuple[int, R]] = {}
        self._held, self._lock = 0, Lock()
        #: How often the board was written to; a change that is undone counts twice.
        self.writes = 0
        self._painted = 0  # how often terrain was written
        #: What answers, by name and turns.
        self._askers: dict[tuple[str, int | None], Held] = {}
        #: What answers until any unit moves.
        self._brief: dict[tuple[str, int | None], Any] = {}

    def touched(self, part: str, _numbers: IntArray) -> None:
        """Most askers hold as long as only terrain changes; of reaches, states tell what has."""
        self.writes += 1
        self._brief = {}
        if part == "terrain":
            self._painted += 1
        else:
            self._askers = {}

    def manned(self, _name: str) -> None:
        """And as long as the unit moves alike; where all stand they look up."""
        self.writes += 1
        self._brief = {}
        # a unit alone on the board is asked otherwise
        if len(self._board._roster.values) <= 2:
            self._clear()

    def _clear(self) -> None:
        self._askers, self._brief = {}, {}

    def asker(self, unit: Unit, turns: int | None) -> Any:
        """What answers where a unit can get, as long as it holds; None: only a search does."""
        key = unit.name, turns
        known = self._askers.get(key)
        if known is not None:
            found, old, layer, codes, ground, terrain, around, painted = known
            alike = unit is old or (
                unit.movement is old.movement and unit.left == old.left and unit.side == old.side
            )
            # an array is replaced when it is written while a copy of the board shares it
            alike = alike and layer.array is codes and ground.array is terrain
            if alike and (painted == self._painted or found.lasting):
                if around is not None:  # counts follow when they are asked for
                    around.counts(unit.side)
                return found
        # those of costs by steps, which other units can change
        if key in self._brief:
            return self._brief[key]
        # a game can ask for any number of turns
        if len(self._askers) + len(self._brief) >= MOST_ASKERS:
            self._clear()
        found = asker_of(self._board, unit, turns)
        if found is None or not found.plain:
            self._brief[key] = found
        else:
            layer = self._board._roster.layer(unit.layer).codes
            ground = self._board._contents.terrain
            heeding = movement_of(unit).zones != "ignore"
            around = zones(self._board, unit.layer) if heeding else None
            laid = layer, layer.array, ground, ground.array
            self._askers[key] = Held(found, unit, *laid, around, self._painted)
        return found

    def share(self, board: Board) -> KeptReaches[R]:
        """A copy of the board keeps its own."""
        return KeptReaches(board)

    def find(self, name: str, turns: int | None) -> R | None:
        """The reach of a unit, if it still holds."""
        known = self._known.get((name, turns))
        if known is None:
            return None
        state, reach = known
        # the state stands for all that is on the board
        if state == self._board._journal.state:
            return reach
        # looking through the changes would take longer than a new search
        if reach._labelled < FEW_LABELS or not self._untouched(state, reach):
            return None
        with self._lock:
            if (name, turns) in self._known:
                self._known[name, turns] = self._board.state, reach
        return reach

    def _untouched(self, state: int, reach: R) -> bool:
        """Whether everything that has changed since lies outside of the cells that matter."""
        changed = self._board.changed_since(state)
        box = reach._surroundings
        if changed is None or box is None:
            return False
        low, high = box
        inside = (changed.array >= low) & (changed.array <= high)
        return not inside.all(axis=-1).any()

    def keep(self, turns: int | None, reach: R) -> R:
        """Keep a reach, unless it is too large."""
        labels = reach._labelled
        if labels <= MOST_LABELS:
            key = reach.unit.name, turns
            with self._lock:
                before = self._known.pop(key, None)  # the last one kept is the last to go
                self._known[key] = self._board.state, reach
                self._held += labels + SMALL if before is None else labels - before[1]._labelled
                while self._held > MOST_IN_ALL:
                    oldest = self._known.pop(next(iter(self._known)))[1]
                    self._held -= oldest._labelled + SMALL
        return reach


def kept(board: Board) -> KeptReaches[Any]:
    """The reaches kept with a board."""
    return board._derived.get(("reaches",), lambda: KeptReaches[Any](board))
