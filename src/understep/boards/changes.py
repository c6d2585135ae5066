"""Changes: what may differ from an earlier state of a board, by what its journal holds."""

from __future__ import annotations

from collections.abc import Container

import numpy as np

from understep.boards.contents import Contents
from understep.boards.journal import Change, Writes
from understep.boards.roster import Listed, Roster
from understep.checks import expect
from understep.grids.cell import Cells, IntArray


class Marked:
    """Units and cells that have changed since knowledge was last updated."""

    def __init__(self) -> None:
        self.names: set[str] = set()
        self.cells: list[IntArray] = []


class Changes:
    """What has changed on a board."""

    def __init__(self, contents: Contents, roster: Roster, journal: Writes) -> None:
        self._contents, self._roster, self._journal = contents, roster, journal

    def cells(self, state: int, *, data: bool = True) -> Cells | None:
        """The cells that may differ, row by row; ``data``: also where only data of units does."""
        numbers = self.numbers(state, data=data)
        if numbers is None:
            return None
        numbering = self._contents.grid.numbering
        return numbering.cells(np.array(sorted(numbers), dtype=np.int64))

    def numbers(self, state: int, *, data: bool = True) -> set[int] | None:
        """The same by number."""
        expect("state", state, int, "must be a state of this board")
        changes = self._journal.changes_since(state)
        if changes is None:
            return None
        numbers: set[int] = set()
        for change in changes:
            if data or not self._is_data(change):
                found = change.store.where(change.keys, change.old, change.new)
                # of NumPy some, of Python others: as one kind they are equal
                numbers.update(map(int, found))
        return numbers

    def of_units(self, state: int) -> set[int] | None:
        """The cells where units may differ, but for their data; None where more may differ."""
        changes = self._journal.changes_since(state)
        numbers: set[int] = set()
        for change in changes or ():
            if change.store is not self._roster:
                if self._contents.key_of(change.store) is not None:
                    return None
            elif not self._is_data(change):
                numbers.update(change.store.where(change.keys, change.old, change.new))
        return None if changes is None else numbers

    def any(self, state: int, units: Container[str] | None) -> bool:
        """Whether contents may differ, or any of some units but for their data; None: any unit."""
        expect("state", state, int, "must be a state of this board")
        if state == self._journal.state:
            return False
        expect("units", units, (Container, type(None)), "must be names of units, or None")
        changes = self._journal.changes_since(state)
        if changes is None:
            return True
        return any(
            (units is None or change.keys in units) and not self._is_data(change)
            if change.store is self._roster
            else self._contents.key_of(change.store) is not None
            for change in changes
        )

    def _is_data(self, change: Change) -> bool:
        """Whether a change is of nothing but a unit's data."""
        return (
            change.store is self._roster
            and isinstance(change.old, Listed)
            and change.old.alike(change.new)
        )
