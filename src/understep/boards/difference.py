"""Difference: how what a side knows has changed between two states of a board."""

from __future__ import annotations

from functools import cached_property
from typing import Any

import numpy as np

from understep.boards.journal import Change
from understep.boards.store import ABSENT
from understep.grids.cell import Cells, IntArray

NONE, NO_CELLS = np.zeros(0, dtype=np.int64), Cells()
PARTS = "appeared", "faded", "discovered", "met", "lost"


class Difference:
    """How what a side knows has changed; made by `Knowledge.changes`.

    Each part is made of what was written when it is asked for; later changes do not alter it.
    """

    def __init__(self, memory: Any, changes: list[Change]) -> None:
        """``changes``: of what the side knows, the last first."""
        self._memory, self._changes = memory, changes

    def __getstate__(self) -> dict[str, Any]:
        # who has it only wants to know what changed; what it is made of holds the whole board
        return {name: getattr(self, name) for name in PARTS}

    def __repr__(self) -> str:
        counts = ", ".join(f"{len(getattr(self, name))} {name}" for name in PARTS)
        return f"<Difference: {counts}>"

    @cached_property
    def appeared(self) -> Cells:
        """The cells seen now that were not, row by row."""
        return self._turned[0]

    @cached_property
    def faded(self) -> Cells:
        """The cells that were seen and are not now."""
        return self._turned[1]

    @cached_property
    def discovered(self) -> Cells:
        """Those seen now, or remembered, that were never seen before."""
        cells, was, now = _ends(self._changes, self._memory._contents.stores.get(("unseen", None)))
        return self._listed(cells[(was == 1) & (now == 0)])

    @cached_property
    def met(self) -> tuple[str, ...]:
        """The names of units of others that are seen now and were not."""
        return tuple(sorted(name for name, (was, now) in self._others.items() if now and not was))

    @cached_property
    def lost(self) -> tuple[str, ...]:
        """The names of those that were seen and are not now."""
        return tuple(sorted(name for name, (was, now) in self._others.items() if was and not now))

    @cached_property
    def _turned(self) -> tuple[Cells, Cells]:
        # what was seen in between, and is not now, has not changed
        cells, was, now = _ends(self._changes, self._memory.counts)
        before, after = was > 0, now > 0
        return self._listed(cells[after & ~before]), self._listed(cells[before & ~after])

    @cached_property
    def _others(self) -> dict[str, tuple[bool, bool]]:
        """Of units of others whether each was there before, and after."""
        found: dict[str, tuple[bool, bool]] = {}
        for change in self._changes:
            if change.store is self._memory.roster:
                listed = change.new if change.old is ABSENT else change.old
                if listed.unit.side != self._memory.side:
                    # of several changes the first one says whether it was there, the last if it is
                    after = found.get(change.keys, (False, change.new is not ABSENT))[1]
                    found[change.keys] = change.old is not ABSENT, after
        return found

    def _listed(self, numbers: IntArray) -> Cells:
        return self._memory.grid.numbering.cells(numbers) if len(numbers) else NO_CELLS


def _ends(changes: list[Change], layer: Any) -> tuple[IntArray, IntArray, IntArray]:
    """The cells of a layer that some changes concern, and what they held before all and after all.

    In order; ``changes``: the last first.
    """
    mine = [change[2:] for change in changes if change.store is layer]
    if not mine:
        return NONE, NONE, NONE
    # one value may stand for all cells
    keys, old, new = zip(*(np.broadcast_arrays(*change) for change in mine), strict=True)
    cells, latest = np.unique(np.concatenate(keys), return_index=True)
    # of the same keys the other way round, the first that is found is the earliest
    earliest = np.unique(np.concatenate(keys[::-1]), return_index=True)[1]
    return cells, np.concatenate(old[::-1])[earliest], np.concatenate(new)[latest]
