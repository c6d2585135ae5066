"""The sight kernel: whether the straight line between two cells is clear, and what is seen from one.

The line from the middle of a cell to the middle of another is followed from cell to cell. It leaves a
cell by the edge between the corner on its left and the corner on its right. Where it runs along borders
or through corners it is nudged, by less than anything, to the left and then to the right: a corner on
the line counts as lying on the other side. One clear way of the two is enough. All of it is decided by
the signs of whole numbers (cross products), so that both ways along a line agree, and so do a board and
its mirror image.

Lines start and end at heights above the ground; a cell between hides what its top, ground and what
grows there, rises above the line where the line passes nearest to its middle.
"""

from __future__ import annotations

try:
    import cython
except ImportError:
    from understep.kernels import _shim as cython

COMPILED = cython.compiled


class Sight:
    """The lines of sight of a grid, and the layers of a board that they are drawn over."""

    def __init__(
        self, cols, rows, directions, staggered, parity, deltas, exists, corners, steps, wide, high,
        measure, across, along,
    ) -> None:
        self.cols, self.rows, self.directions = cols, rows, directions
        self.sides = 6 if measure == 2 else 4
        self.staggered, self.parity, self.deltas, self.exists = staggered, parity, deltas, exists
        self.corners, self.steps, self.wide, self.high = corners, steps, wide, high
        self.measure, self.across, self.along = measure, across, along
        # no line is known yet; what these hold is never read then
        self.span = -1
        self.places = corners
        self.tracks = exists
        self.passes = across
        self.met = 0
        self.met_side = -1
        self.touches = 0
        self.starts = self.spots = corners
        self.feet = self.least = self.most = self.gain = self.needs = 0
        self.up = self.down = self.eye = self.height = 0

    def lay(self, ground, tops, fences, hiding) -> None:
        """Set the layers of the board, which may have moved."""
        self.ground, self.tops, self.fences, self.hiding = ground, tops, fences, hiding

    def line(self, col, row):
        """1 in a shifted row or column, else 0."""
        if self.staggered == 1:
            return (row + self.parity) & 1
        if self.staggered == 2:
            return (col + self.parity) & 1
        return 0

    def x_of(self, col, row):
        """Where the middle of a cell lies, from left to right."""
        if self.staggered == 2:
            return 3 * col
        return 2 * col + (self.line(col, row) if self.staggered else 0)

    def y_of(self, col, row):
        """And from top to bottom."""
        if self.staggered == 1:
            return 3 * row
        return 2 * row + (self.line(col, row) if self.staggered else 0)

    def aim(self, x, y):
        """Work out products for a line of so much right and down; its own length squared.

        Opposite corners and steps have opposite products.
        """
        # corners opposite to each other lie on opposite sides of a line
        half = self.sides >> 1
        right = x
        down = y
        # the other half has the negative products
        for side in range(half):
            product = right * self.corners[2 * side + 1] - down * self.corners[2 * side]
            self.across[side] = product
            self.across[side + half] = -product
        # columns and rows of hexes are not equally far apart
        right *= self.wide
        down *= self.high
        for side in range(half):
            product = right * self.steps[2 * side] + down * self.steps[2 * side + 1]
            self.along[side] = product
            self.along[side + half] = -product
        return right * x + down * y

    def remember(self, span, places, tracks, passes) -> None:
        """Set the lines that are known already."""
        self.span, self.places, self.tracks, self.passes = span, places, tracks, passes

    def leaves_by(self, side, offset, nudge):
        """The side by which a line leaves a cell that lies so far from it, looked for from one on."""
        left = self.across[side]
        while True:  # it goes on much as it came
            after = side + 1 if side + 1 < self.sides else 0
            right = self.across[after]
            if offset + left < nudge and offset + right >= nudge:
                return side
            side = after
            left = right

    def record(self, x: int, y: int, nudge: int, start: int) -> int:
        """Follow a line so far right and down, and write its track; return where that ends."""
        side: cython.int = 0
        after: cython.int
        over: cython.int = 0
        down: cython.int = 0
        place: cython.int = start
        bend: cython.longlong = nudge
        offset: cython.longlong = 0
        passed: cython.longlong = 0
        self.aim(x, y)
        while over != x or down != y:
            side = self.leaves_by(side, offset, bend)
            after = side + 1 if side + 1 < self.sides else 0
            self.tracks[place] = side + (128 if offset + self.across[after] == 0 else 0)
            offset += self.across[side] + self.across[after]
            passed += self.along[side]
            self.passes[place] = passed
            over += self.steps[2 * side]
            down += self.steps[2 * side + 1]
            place += 1
        return place

    def clear_way(self, start, end, length, nudge, low, rise, track):
        """Follow a line, nudged left (0) or right (1): whether it is clear.

        ``track``: where the track of the line starts; -1: the line that `aim` was given. ``low`` is the
        height it starts from and ``rise`` by how much it ends higher.
        """
        row = start // self.cols
        col = start - row * self.cols
        cell = start
        ways = self.directions // self.sides
        side = 0
        offset = 0  # of the cell's middle from the line
        passed = 0  # of the line, up to where it is nearest to the middle
        self.touches = 0
        while cell != end:
            if track >= 0:
                side = self.tracks[track]
                passed = self.passes[track]
                track += 1
                # the highest bit tells that the line touches a corner
                if side >= 128:
                    side -= 128
                    self.touches = 1
            else:
                side = self.leaves_by(side, offset, nudge)
                after = side + 1 if side + 1 < self.sides else 0
                if offset + self.across[after] == 0:
                    self.touches = 1
                # over a side lies what its corners add up to
                offset += self.across[side] + self.across[after]
                passed += self.along[side]
            way = side * ways
            index = 2 * (self.line(col, row) * self.directions + way)
            col += self.deltas[index]
            row += self.deltas[index + 1]
            self.met = cell
            self.met_side = way
            # the line leaves the board: what lies beyond cannot be seen through
            if col < 0 or row < 0 or col >= self.cols or row >= self.rows:
                return 0
            beyond = row * self.cols + col
            if len(self.exists) and self.exists[beyond] == 0:
                return 0
            if len(self.fences):
                if self.hiding[
                    self.fences[cython.cast(cython.Py_ssize_t, cell) * self.directions + way]
                ]:
                    return 0
                # each side of an edge has its own record, and either can hide
                way = (way + self.directions // 2) % self.directions
                if self.hiding[
                    self.fences[cython.cast(cython.Py_ssize_t, beyond) * self.directions + way]
                ]:
                    return 0
            cell = beyond
            # cross-multiplied, so that heights are compared exactly; a top that touches the line hides nothing
            if cell != end and (self.tops[cell] - low) * length > rise * passed:
                self.met = cell
                self.met_side = -1
                return 0
        return 1

    def clear_line(self, start, end, eye, height):
        """Whether either of the nudged lines is clear."""
        row = start // self.cols
        col = start - row * self.cols
        to_row = end // self.cols
        to_col = end - to_row * self.cols
        # lines of the same shape have the same track, wherever they start
        x = self.x_of(to_col, to_row) - self.x_of(col, row)
        y = self.y_of(to_col, to_row) - self.y_of(col, row)
        # heights are those of ground and eye, in thousandths of a level
        low = self.ground[start] + eye
        rise = self.ground[end] + height - low
        track = -1
        # short lines were followed before, one for each shape
        if -self.span <= x and x <= self.span and -self.span <= y and y <= self.span:
            place = 2 * ((x + self.span) * (2 * self.span + 1) + y + self.span)
            track = self.places[place]
        if track >= 0:
            length = cython.cast(cython.longlong, x) * x * self.wide + (
                cython.cast(cython.longlong, y) * y * self.high
            )
        else:
            length = self.aim(x, y)
        if self.clear_way(start, end, length, 0, low, rise, track):
            return 1
        if self.touches == 0:  # up to where it ended, there is nothing to be nudged off
            return 0
        if track >= 0:
            track = self.places[place + 1]
        return self.clear_way(start, end, length, 1, low, rise, track)

    def clear(self, start: int, end: int, eye: int, height: int) -> tuple[bool, int, int]:
        """Whether one cell is seen from another; where not, the cell that is in the way.

        The last is the direction of the step from there at which it ends, or -1.
        """
        # as numbers of C, before the lock is released
        seen: cython.int
        first: cython.int = start
        last: cython.int = end
        from_eye: cython.longlong = eye
        to_height: cython.longlong = height
        with cython.nogil:
            seen = self.clear_line(first, last, from_eye, to_height)
        return seen == 1, self.met, self.met_side

    def distance(self, x, y):
        """Grid distance of middles so far apart."""
        # a distance is the same to all sides
        x = x if x >= 0 else -x
        y = y if y >= 0 else -y
        if self.staggered == 1:
            # rows lie three apart where a cell is two wide
            y = y // 3
            return y + ((x - y if x > y else 0) >> 1)
        if self.staggered == 2:
            x = x // 3
            return x + ((y - x if y > x else 0) >> 1)
        if self.measure == 0:
            # middles of squares lie two apart
            return (x + y) >> 1
        return (x if x > y else y) >> 1

    def look(self, start: int, radius: int, eye: int, height: int, seen: cython.int[::1]) -> int:
        """Write the numbers of the cells seen from one, within a radius, and say how many."""
        first: cython.int = start
        far: cython.int = radius
        from_eye: cython.longlong = eye
        to_height: cython.longlong = height
        row: cython.int
        col: cython.int
        to_row: cython.int
        to_col: cython.int
        x: cython.int
        y: cython.int
        cell: cython.int
        count: cython.int = 0
        with cython.nogil:
            row = first // self.cols
            col = first - row * self.cols
            x = self.x_of(col, row)
            y = self.y_of(col, row)
            for to_row in range(
                row - far if row > far else 0, row + far + 1 if row + far < self.rows else self.rows
            ):
                for to_col in range(
                    col - far if col > far else 0,
                    col + far + 1 if col + far < self.cols else self.cols,
                ):
                    cell = to_row * self.cols + to_col
                    if len(self.exists) and self.exists[cell] == 0:
                        continue
                    if self.distance(
                        self.x_of(to_col, to_row) - x, self.y_of(to_col, to_row) - y
                    ) <= far and self.clear_line(first, cell, from_eye, to_height):
                        seen[count] = cell
                        count += 1
        return count

    def arm(self, least, most, gain, needs, up, down, eye, height, feet, starts, spots) -> None:
        """Set an attack, and the cells it can be made from."""
        self.least, self.most, self.gain, self.needs, self.up = least, most, gain, needs, up
        self.down, self.eye, self.height, self.feet, self.starts = down, eye, height, feet, starts
        self.spots = spots
        place: cython.int
        col: cython.int
        row: cython.int
        many: cython.int = len(starts)
        for place in range(many):
            row = self.starts[place] // self.cols
            col = self.starts[place] - row * self.cols
            self.spots[2 * place] = self.x_of(col, row)
            self.spots[2 * place + 1] = self.y_of(col, row)

    def hits(self, stand, cell, x, y):
        """Whether a cell can be attacked from a stand, by its place; its middle is given."""
        first = stand * self.feet
        # a large unit attacks from the nearest of its cells
        # farther than any cell
        gap = 1 << 30
        for foot in range(first, first + self.feet):
            far = self.distance(x - self.spots[2 * foot], y - self.spots[2 * foot + 1])
            gap = cython.cast(cython.int, far) if far < gap else gap
        # what is too near is too near at any height
        if gap < self.least:
            return 0
        # seen from the anchor, the cell that says how high a unit stands
        rise = self.ground[cell] - self.ground[self.starts[first]]
        far = self.most
        if rise > 0:
            if self.up >= 0 and rise > self.up:
                return 0
            # only full levels count, and levels are kept in thousandths
            far -= self.gain * (rise // 1000)
        else:
            if self.down >= 0 and -rise > self.down:
                return 0
            far += self.gain * (-rise // 1000)
        if gap > far:
            return 0
        # asked last of all, as it takes longest
        if self.needs == 0:
            return 1
        for foot in range(first, first + self.feet):
            if self.clear_line(self.starts[foot], cell, self.eye, self.height):
                return 1
        return 0

    def strike(
        self, stands: int, radius: int, stamp: int, apart: int, met: cython.int[::1],
        cells: cython.int[::1], firsts: cython.int[::1],
    ) -> int:
        """Write the cells that can be attacked, each with the first stand that does for it.

        ``apart`` 1: with every stand that does. ``radius`` is the farthest that anything is, ``met``
        holds less than ``stamp`` for all cells; then at most ``stamp``, or that plus the stands.
        """
        many: cython.int = stands
        far: cython.int = radius
        mark: cython.int = stamp
        more: cython.int = apart
        stand: cython.int
        foot: cython.int
        row: cython.int
        col: cython.int
        top: cython.int
        left: cython.int
        cell: cython.int
        count: cython.int = 0
        with cython.nogil:
            for stand in range(many):
                for foot in range(stand * self.feet, (stand + 1) * self.feet):
                    top = self.starts[foot] // self.cols
                    left = self.starts[foot] - top * self.cols
                    for row in range(
                        top - far if top > far else 0,
                        top + far + 1 if top + far < self.rows else self.rows,
                    ):
                        for col in range(
                            left - far if left > far else 0,
                            left + far + 1 if left + far < self.cols else self.cols,
                        ):
                            cell = row * self.cols + col
                            if met[cell] == mark or (len(self.exists) and self.exists[cell] == 0):
                                continue
                            if self.hits(stand, cell, self.x_of(col, row), self.y_of(col, row)):
                                met[cell] = mark
                                cells[count] = cell
                                firsts[count] = stand
                                count += 1
                # with a mark of its own each stand meets all cells anew
                mark += more
        return count

    def strike_at(
        self, count: int, stands: cython.int[::1], aims: cython.int[::1], stamp: int,
        met: cython.int[::1], cells: cython.int[::1], firsts: cython.int[::1],
    ) -> int:
        """The same for cells that are given, each with a stand, the better stands first."""
        many: cython.int = count
        mark: cython.int = stamp
        pair: cython.int
        cell: cython.int
        row: cython.int
        col: cython.int
        found: cython.int = 0
        with cython.nogil:
            for pair in range(many):
                # the best stand of a cell comes first, others are passed over
                cell = aims[pair]
                if met[cell] == mark:
                    continue
                row = cell // self.cols
                col = cell - row * self.cols
                if self.hits(stands[pair], cell, self.x_of(col, row), self.y_of(col, row)):
                    met[cell] = mark
                    cells[found] = cell
                    firsts[found] = stands[pair]
                    found += 1
        return found

    def strikers(self, stands: int, cell: int, found: cython.int[::1]) -> int:
        """Write the places of the stands from which a cell can be attacked."""
        many: cython.int = stands
        number: cython.int = cell
        stand: cython.int
        row: cython.int = number // self.cols
        col: cython.int = number - row * self.cols
        count: cython.int = 0
        with cython.nogil:
            for stand in range(many):
                if self.hits(stand, number, self.x_of(col, row), self.y_of(col, row)):
                    found[count] = stand
                    count += 1
        return count


def gather(
    starts: cython.int[::1], ends: cython.int[::1], pool: cython.int[::1], stamp: int,
    met: cython.int[::1], cells: cython.longlong[::1], firsts: cython.longlong[::1],
) -> int:
    """Write the cells of some rows of a pool, each once and in order, with the first row it is in.

    ``met`` holds less than ``stamp`` for all cells; there are as many stamps as rows.
    """
    many: cython.int = len(starts)
    mark: cython.int = stamp
    row: cython.int
    place: cython.int
    cell: cython.int
    low: cython.int = cython.cast(cython.int, len(met))
    high: cython.int = -1
    count: cython.int = 0
    with cython.nogil:
        for row in range(many):
            for place in range(starts[row], ends[row]):
                cell = pool[place]
                if met[cell] < mark:
                    met[cell] = mark + row
                    # between the first and the last of them the marks alone give the order
                    low = min(low, cell)
                    high = max(high, cell)
        for cell in range(low, high + 1):
            if met[cell] >= mark:
                cells[count] = cell
                firsts[count] = met[cell] - mark
                count += 1
    return count


def ranges(
    starts: cython.int[::1], ends: cython.int[::1], numbers: cython.longlong[::1],
    begin: cython.int[::1], end: cython.int[::1],
) -> int:
    """Write where the rows of some cells begin and end in a pool: 1 done, 0 one is not known."""
    index: cython.int
    for index in range(len(numbers)):
        # copies: what is found later moves where others start
        begin[index] = starts[numbers[index]]
        end[index] = ends[numbers[index]]
        if begin[index] < 0:
            return 0
    return 1


def holding(
    starts: cython.int[::1], ends: cython.int[::1], pool: cython.int[::1], number: int
) -> list[int]:
    """The places of the rows of a pool that a cell is in."""
    cell: cython.int = number
    row: cython.int
    index: cython.int
    found = []
    for row in range(len(starts)):
        for index in range(starts[row], ends[row]):
            if pool[index] == cell:
                found.append(row)
                # a row holds a cell once
                break
    return found


def manned(
    starts: cython.int[::1], ends: cython.int[::1], pool: cython.int[::1], who: cython.uchar[::1],
    stamp: int, met: cython.int[::1],
) -> list[int]:
    """The cells of some rows of a pool on which somebody stands, each once; ``met`` as in `gather`."""
    mark: cython.int = stamp
    row: cython.int
    index: cython.int
    cell: cython.int
    found = []
    for row in range(len(starts)):
        for index in range(starts[row], ends[row]):
            cell = pool[index]
            if who[cell] and met[cell] < mark:
                met[cell] = mark
                found.append(cell)
    return found


def stand_in(
    starts: cython.int[::1], ends: cython.int[::1], pool: cython.int[::1], places: cython.int[::1],
    wanted: cython.uchar[::1], found: cython.uchar[::1],
) -> None:
    """Fill in which units stand in each of some rows of a pool, a line of ``found`` for each row.

    ``places``: by cell, one more than the place of the unit there; 0: nobody. Of units that are not
    ``wanted`` nothing is written.
    """
    many: cython.int = cython.cast(cython.int, len(wanted))
    row: cython.int
    index: cython.int
    unit: cython.int
    for row in range(len(starts)):
        for index in range(starts[row], ends[row]):
            # rows are much longer than there are units
            unit = places[pool[index]]
            if unit and wanted[unit - 1]:
                found[cython.cast(cython.Py_ssize_t, row) * many + unit - 1] = 1


def differ(
    lost: cython.longlong[::1], won: cython.longlong[::1], counts: cython.int[::1],
    cells: cython.longlong[::1], changed: cython.int[::1], turned: cython.longlong[::1],
) -> tuple[int, int, int]:
    """Write the cells that one list holds more often than another, in order, and their new counts.

    Both lists are in order. ``turned``: first the cells whose count was 0, then those that have 0
    now. Returns how many cells differ, how many of them had 0, and how many are turned.
    """
    gone: cython.int = len(lost)
    come: cython.int = len(won)
    first: cython.int = 0
    second: cython.int = 0
    place: cython.int
    cell: cython.longlong
    more: cython.int
    count: cython.int = 0
    found: cython.int = 0
    turns: cython.int
    with cython.nogil:
        while first < gone or second < come:
            if second == come or (first < gone and lost[first] < won[second]):
                cell = lost[first]
            else:
                cell = won[second]
            # a cell is in a list once for each unit that sees it
            more = 0
            while first < gone and lost[first] == cell:
                more -= 1
                first += 1
            while second < come and won[second] == cell:
                more += 1
                second += 1
            # who sees it may be others, as long as they are as many
            if more != 0:
                cells[count] = cell
                changed[count] = counts[cell] + more
                count += 1
                if counts[cell] == 0:
                    turned[found] = cell
                    found += 1
        # those that came into sight are first
        turns = found
        for place in range(count):
            if changed[place] == 0:
                turned[turns] = cells[place]
                turns += 1
    return count, found, turns
