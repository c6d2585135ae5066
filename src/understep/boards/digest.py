"""Digest: a number for all that a board holds, kept up to date from its journal.

Every fact adds a term: what it says, as a number of 128 bits from a hash, times a number for its
cell. So the order in which facts came to be does not count, and a change replaces terms.

A. L. Zobrist, A new hashing method with application for game playing, Technical Report 88,
University of Wisconsin (1970).
"""

from __future__ import annotations

import json
from collections import OrderedDict
from collections.abc import Iterator
from functools import lru_cache
from hashlib import blake2b
from typing import Any

import numpy as np
from numpy.typing import NDArray

from understep.boards.contents import OPEN, Contents, PartKey
from understep.boards.derived import Watcher
from understep.boards.journal import Change, Owned, Version, reverted
from understep.boards.roster import Listed
from understep.boards.spelled import spelled
from understep.boards.store import Absent, EdgeLayer, Layer, PairTable
from understep.boards.unit import MARK, Unit
from understep.grids.cell import IntArray
from understep.grids.grid import Grid

BITS = 128
MASK = (1 << BITS) - 1
KEPT = 256  # states whose totals are known
LAST = 0xA5CB9243F2D8B1D36A09E667F3BCC909  # of units as last seen, which are not units
FEW = 8  # cells that are looked at one by one
MOST_CELLS = 1 << 16  # whose numbers are kept
ODD = np.uint64(0x9E3779B97F4A7C15), np.uint64(0xC2B2AE3D27D4EB4F)  # of random bits
MIX = np.uint64(0xBF58476D1CE4E5B9), np.uint64(0x94D049BB133111EB)
#: By side whose knowledge it is (empty: the truth itself) the sum of all terms.
Totals = dict[str, int]


@lru_cache(1 << 16, typed=True)
def hashed(*facts: Any) -> int:
    """The number of some facts."""
    return int.from_bytes(blake2b(repr(facts).encode(), digest_size=BITS // 8).digest(), "big") | 1


def _mixed(cells: IntArray, lane: int) -> NDArray[np.uint64]:
    """Random bits for each cell.

    S. Steele, D. Lea, C. Flood, Fast splittable pseudorandom number generators, OOPSLA 2014.
    """
    col, row = cells.astype(np.uint64).T
    bits: NDArray[np.uint64] = col * ODD[0] + row * ODD[1] + ODD[lane]
    bits = (bits ^ (bits >> np.uint64(30))) * MIX[lane]
    bits = (bits ^ (bits >> np.uint64(27))) * MIX[1 - lane]
    return bits ^ (bits >> np.uint64(31))


class Places:
    """A number for every cell of a grid, the same on every grid that has the cell."""

    def __init__(self, grid: Grid) -> None:
        self._numbering = grid.numbering
        self._known: dict[int, int] = {}

    def of(self, number: int) -> int:
        """That of one cell."""
        found = self._known.get(number)
        if found is None:
            # forgotten all at once: which are asked for next cannot be told
            if len(self._known) >= MOST_CELLS:
                self._known.clear()
            found = self._known[number] = self.sum(np.array([number]))
        return found

    def sum(self, numbers: IntArray) -> int:
        """The sum for several."""
        cells = self._numbering.cells_of(numbers)
        total, half = 0, np.uint64(32)
        for lane in range(2):
            bits = _mixed(cells, lane)
            low = int((bits & np.uint64(0xFFFFFFFF)).sum())
            # in halves, as a sum of 64 bits would overflow
            total += (low + (int((bits >> half).sum()) << 32)) << (64 * lane)
        return total & MASK


class Tally(Watcher):
    """The sums of terms of a board and of what its sides know, by state."""

    def __init__(self, board: Any) -> None:
        self._board, self._places = board, Places(board.grid)
        self._number = board.grid.numbering.number
        self._known: OrderedDict[int, Totals] = OrderedDict()
        self._stores: dict[int, tuple[str, Any]] = {}
        declared = board._contents.declared
        kinds = declared.terrains, declared.edge_kinds, declared.features, declared.properties
        #: The number of what never changes.
        self.still = hashed(board.grid._facts(), *map(_text, kinds))

    def share(self, board: Any) -> Tally:
        """That of a copy of the board."""
        twin = Tally(board)
        twin._known = self._known.copy()
        return twin

    def totals(self) -> Totals:
        """The sums as the board is now."""
        journal = self._board._journal
        state = journal.state
        found = self._known.get(state)
        if found is None:
            found = self._followed() or self._counted()
            self._keep(state, found)
            if journal.opened is not None and journal.opened not in self._known:
                # a trial goes back there, and the next one begins there
                changes = journal.changes_since(journal.opened) or []
                before = self._after(found, [reverted(change) for change in changes])
                if before is not None:
                    self._keep(journal.opened, before)
        return found

    def _keep(self, state: int, totals: Totals) -> None:
        self._known[state] = totals
        # the oldest goes first
        if len(self._known) > KEPT:
            self._known.popitem(last=False)

    def _followed(self) -> Totals | None:
        """From the last state whose sums are known, or None."""
        changes: list[Change] = []
        if not self._known:
            return None
        for change in self._board._journal.past():
            changes.append(change)
            known = self._known.get(change.before)
            if known is not None:
                return self._after(known, changes)
        return None

    def _after(self, totals: Totals, changes: list[Change]) -> Totals | None:
        """Sums after some changes; None where a side has begun or ceased to know things."""
        # what it knows would have to be counted from the start
        if any(change.store is self._board._memories for change in changes):
            return None
        found = dict(totals)
        for change in changes:
            place = self._place(change.store)
            if place is not None:
                owner, part = place
                new = self._terms(part, change.keys, change.new)
                found[owner] += new - self._terms(part, change.keys, change.old)
        return {owner: total & MASK for owner, total in found.items()}

    def _place(self, store: Any) -> tuple[str, Any] | None:
        """Whose a store is, and of which part; None: it does not count."""
        store = store.store if isinstance(store, Owned) else store
        if isinstance(store, Version):
            return None
        found = self._stores.get(id(store))
        # stores come when they are first written, and a number may be another's by then
        if found is None or found[1][-1] is not store:
            self._stores = {id(each[-1]): (owner, each) for owner, each in self._every()}
            found = self._stores.get(id(store))
        return found

    def _every(self) -> Iterator[tuple[str, Any]]:
        """All that counts: whose it is; the part, and its store."""
        board = self._board
        yield "", ("facts", board._facts)
        memories = board._memories.values
        for side, each in (("", board), *memories.items()):
            for key, store in each._contents.stores.items():
                yield side, (key, each._contents, store)
            yield side, ("units", each._roster)
            if not side:  # what sides there are is not told anew to those that know some
                yield side, ("sides", each._roster.sides)
            else:
                yield side, ("last", each.last)
                yield side, ("seen", each.counts)

    def _counted(self) -> Totals:
        """The sums from all that there is."""
        found = dict.fromkeys(["", *self._board._memories.values], 0)
        existing = self._board.grid.numbering.existing
        for owner, part in self._every():
            store = part[-1]
            if isinstance(store, Layer):
                keys = np.flatnonzero(store.array) if isinstance(store, EdgeLayer) else existing
                found[owner] += self._terms(part, keys, store.array[keys])
            else:
                found[owner] += sum(self._terms(part, *each) for each in store.values.items())
        return {owner: total & MASK for owner, total in found.items()}

    def _terms(self, part: Any, keys: Any, values: Any) -> int:
        """The sum of the terms of what stands under some keys of a store."""
        if isinstance(values, Listed):  # first, as this is what changes all the time
            return _unit(values.unit) * self._places.of(self._number(values.unit.at))
        kind, store = part[0], part[-1]
        if isinstance(values, Absent) or (kind == "facts" and keys == "title"):
            return 0
        if kind == "seen":
            return self._of_layer(("seen", None), keys, np.atleast_1d(values) > 0, None)
        if isinstance(store, Layer):
            # what was written may be of another type than what is there
            values = np.asarray(values, dtype=store.array.dtype)
            return self._of_layer(kind, keys, values, part[1])
        if isinstance(store, PairTable):
            start, end = keys
            there = tuple(self._board.grid.numbering.cell_of(end))
            return hashed("link", *there, str(values[0]), values[1]) * self._places.of(start)
        if isinstance(values, Unit):  # as last seen
            return LAST * _unit(values) * self._places.of(self._number(values.at))
        if kind == "sides":  # its code depends on the order in which they came
            return hashed("side", keys)
        return hashed(kind, keys, _text(values))

    def _of_layer(self, key: PartKey, keys: Any, values: Any, contents: Contents | None) -> int:
        """The terms of a layer, where its values are not the default."""
        keys = np.atleast_1d(keys)
        values = np.broadcast_to(values, keys.shape)
        words, total = _words(key, contents), 0
        if key[0] == "edges":  # the same edge as met in other directions says something else
            numbers, ways = np.divmod(keys, len(self._board.grid.directions))
            for number, way, value in zip(
                numbers.tolist(), ways.tolist(), values.tolist(), strict=True
            ):
                total += words(value, self._board.grid.directions[way]) * self._places.of(number)
        elif len(keys) <= FEW:
            for number, value in zip(keys.tolist(), values.tolist(), strict=True):
                total += words(value) * self._places.of(number)
        else:
            for value in set(values.tolist()):
                if (word := words(value)) != 0:
                    total += word * self._places.sum(keys[values == value])
        return total


def _words(key: PartKey, contents: Contents | None) -> Any:
    """What gives the number of a value of a part; 0 for its default. Codes count as names."""
    default: Any = False
    if contents is not None and key[0] != "unseen":  # of that, not to be there is to be known
        default = contents.declared.part(key).default

    def word(value: Any, *more: Any) -> int:
        if key[0] == "terrain" and contents is not None:
            return hashed(key, contents.terrain_names[value])
        # a layer that was never made must count as one that holds its default
        if value == default:
            return 0
        if key[0] == "edges" and contents is not None:
            return hashed(key, contents.edge_names[value % OPEN - 1], value >= OPEN, *more)
        return hashed(key, value + 0.0 if type(value) is float else value)  # no -0.0

    return word


def _text(value: Any) -> str:
    return json.dumps(spelled(value), sort_keys=True)


@lru_cache(1 << 12, typed=True)
def _facts(name: str, side: str, movement: Any, *rest: Any) -> int:
    """The number of what a unit is."""
    return hashed(name, side, _text(movement), *map(_text, rest))


def _unit(unit: Unit) -> int:
    """The number of a unit, wherever it stands; noted with it."""
    found: int | None = unit.__dict__.get(MARK)
    if found is None:
        moves: Any = unit.movement
        facts = _facts(unit.name, unit.side, moves, unit.sight, unit.eye, unit.attack)
        data = _text(unit.data) if unit.data else ""
        found = unit.__dict__[MARK] = hashed(facts, unit.left, unit.facing, data)
    return found


def digest(board: Any) -> str:
    """The digest of a board, or of what a side knows."""
    truth, side = getattr(board, "_truth", board), getattr(board, "side", "")
    tally = truth._derived.get(("digest",), lambda: Tally(truth))
    totals = tally.totals()
    total = totals[side]
    for name in truth._memories.values if not side else ():
        total += totals[name] * hashed("known", name)
    return f"{total * tally.still & MASK:032x}"
