"""The asker: a short reach is one call from Python, and little is made of what it finds.

Most reaches are asked for a few cells, or how many there are; so marks and cells are only copied, and
labels, cells and entries are made of them when they are asked for.
"""

from __future__ import annotations

from array import array

try:
    import cython
except ImportError:
    from understep.kernels import _shim as cython

from understep.kernels.marks import STOP


class Found:
    """What a flood left: for every cell its mark, then every cell by number, in one row of bytes.

    Of a large one the arrays themselves.
    """

    def __init__(self, mover, rules, home, count, data) -> None:
        self.mover, self.rules, self.home, self.count, self.data = mover, rules, home, count, data

    def __len__(self) -> int:
        return self.count

    def stands(self) -> bytearray:
        """The cells where the unit may stop, by number, in 64 bits each; not of a large flood."""
        kept: cython.int = 0
        index: cython.int
        data: bytearray = self.data
        found: bytearray = bytearray(8 * self.count)
        if not cython.compiled:
            marks = memoryview(data)[: 8 * self.count].cast("q")
            cells = memoryview(data)[8 * self.count :].cast("i")
            return bytearray(array("q", [c for c, mark in zip(cells, marks, strict=True) if mark & STOP]))
        bytes_: cython.p_char = data
        marks_ = cython.cast(cython.p_longlong, bytes_)
        cells_ = cython.cast(cython.p_int, bytes_ + 8 * self.count)
        bytes_ = found
        stands = cython.cast(cython.p_longlong, bytes_)
        for index in range(self.count):
            stands[kept] = cells_[index]
            kept += (marks_[index] & STOP) > 0
        del found[8 * kept :]
        return found

    def struck(self, starts, ends, pool, stamp, met) -> bytearray | None:
        """The cells in the rows of its stands, each once and in order; None: a row is not known.

        As `sight.gather` writes them, in 64 bits each.
        """
        place: cython.Py_ssize_t
        index: cython.int
        row: cython.int
        cell: cython.int
        low: cython.int
        high: cython.int = -1
        many: cython.Py_ssize_t = 0
        mark: cython.int = stamp
        starts_: cython.int[::1] = starts
        ends_: cython.int[::1] = ends
        pool_: cython.int[::1] = pool
        met_: cython.int[::1] = met
        stands: bytearray = self.stands()
        count: cython.Py_ssize_t = len(stands) >> 3
        found: bytearray
        low = cython.cast(cython.int, len(met_))
        if cython.compiled:
            bytes_: cython.p_char = stands
            rows = cython.cast(cython.p_longlong, bytes_)
        else:
            rows = memoryview(stands).cast("q")
        for place in range(count):
            row = cython.cast(cython.int, rows[place])
            # finding rows takes the kernel of sight: the caller does it, and asks again
            if starts_[row] < 0:
                return None
            for index in range(starts_[row], ends_[row]):
                cell = pool_[index]
                if met_[cell] < mark:
                    met_[cell] = mark
                    low = min(low, cell)
                    high = max(high, cell)
                    many += 1
        found = bytearray(8 * many)
        if cython.compiled:
            bytes_ = found
            cells = cython.cast(cython.p_longlong, bytes_)
        else:
            cells = memoryview(found).cast("q")
        place = 0
        for cell in range(low, high + 1):
            if met_[cell] == mark:
                cells[place] = cell
                place += 1
        return found


class Asker:
    """One question of one unit: where it can get from a cell, on one state of its board."""

    def __init__(self, mover, rules, first, limit, ring, grid, free, large) -> None:
        self.mover, self.rules, self.first, self.limit = mover, rules, first, limit
        self.ring, self.large, self.free = ring, large, free
        self.left = grid[0]
        self.top = grid[1]
        self.cols = grid[2]
        self.rows = grid[3]

    def number(self, at):
        """The number of a cell; -1: it is not on the board, or no pair of plain whole numbers."""
        if not isinstance(at, tuple) or len(at) != 2:
            return -1
        if type(at[0]) is not int or type(at[1]) is not int:
            return -1
        # a truth or a NumPy number is for a search, which refuses or converts it
        try:  # to numbers of 64 bits
            col = at[0]
            row = at[1]
        except OverflowError:
            return -1
        col = col - self.left
        row = row - self.top
        return row * self.cols + col if 0 <= col < self.cols and 0 <= row < self.rows else -1

    def ask(self, at) -> Found | None:
        """Flood from a cell, or from where the unit stands; None: a search has to answer.

        It has where no workspace is free, and where the unit could not stand: it finds the words.
        """
        number = self.rules.own if at is None else self.number(at)
        if number < 0:
            return None
        try:
            workspace = self.free.pop()
        except IndexError:
            return None
        layers = workspace.search
        if number != self.rules.own and not layers.stands(self.rules, number):
            self.free.append(workspace)
            return None
        count = layers.ask(self.rules, number, self.first, self.limit, self.ring)
        # it asked for more room, and goes on where it was
        while count < 0:
            workspace.grow()
            count = layers.closed if layers.run() == 0 else -1
        data = layers.data(count) if count < self.large else workspace.take(count)
        self.free.append(workspace)
        return Found(self.mover, self.rules, number, count, data)
