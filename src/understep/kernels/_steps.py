"""The step kernel: what each step from a cell costs under one movement, as codes.

It turns layers of a board (ground, blocks, edges, levels) and rules made numbers into a row of codes
per cell: 0 not compiled, 1 no step, else the place of its cost. The code of a direction is written
after those of the others, the first direction last of all, since a search on another thread takes a
row for compiled when its first code is there.
"""

from __future__ import annotations

try:
    import cython
except ImportError:
    from understep.kernels import _shim as cython


from understep.kernels.marks import NEVER, SHIFT

NO = -1


class Filler:
    """The rules of a step table, and the layers of its board, at hand for filling rows."""

    def __init__(self, cols, rows, directions, staggered, parity, deltas, exists, near, clear, met, row) -> None:
        self.cols = cols
        self.rows = rows
        self.directions = directions
        self.staggered = staggered
        self.parity = parity
        self.deltas = deltas
        self.exists = exists
        self.near = near
        self.clear = clear
        self.met = met
        self.row = row
        self.count = 2
        self.over = -1

    def rules(
        self, prices, many, edges, place, wall, add, opened, diagonals, layers, corners, grain, climb, drop,
        rise, fall, feet, foot, inner, cap,
    ) -> None:
        """Set the rules."""
        self.prices = prices
        self.many = many
        self.edges = edges
        self.place = place
        self.wall = wall
        self.add = add
        self.opened = opened
        self.diagonals = diagonals
        self.layers = layers
        self.corners = corners
        self.grain = grain
        self.climb = climb
        self.drop = drop
        self.rise = rise
        self.fall = fall
        self.feet = feet
        self.foot = foot
        self.inner = inner
        self.cap = cap

    def leaping(self, leaps, over, passed, shut, up, down) -> None:
        """Set where leaps are written, and their limits."""
        self.leaps = leaps
        self.over = over
        self.passed = passed
        self.shut = shut
        self.leap_up = up
        self.leap_down = down

    def lay(self, ground, kinds, closed, blocked_to, unseen, fences, levels, taken) -> None:
        """Set the layers of the board, which may have moved."""
        self.ground = ground
        self.kinds = kinds
        self.closed = closed
        self.blocked_to = blocked_to
        self.unseen = unseen
        self.fences = fences
        self.levels = levels
        self.taken = taken

    def out(self, codes, wide, costs, twice, slots, count) -> None:
        """Set where codes go; ``slots`` comes empty, of so many codes the costs are known.

        ``twice`` is filled with twice the costs as the search by layers counts them.
        """
        code: cython.int
        self.codes = codes
        self.wide = wide
        self.costs = costs
        self.twice = twice
        self.slots = slots
        self.count = count
        self.twice[0] = 2 * NEVER
        self.twice[1] = 2 * NEVER
        for code in range(2, count):
            self.twice[code] = 2 * cython.cast(cython.int, min(self.costs[code] >> SHIFT, NEVER))
            self.slots[self.slot_of(self.costs[code] >> SHIFT)] = code

    def known(self) -> int:
        """How many codes there are."""
        return self.count

    def fill(self, numbers: cython.longlong[::1]) -> int:
        """Fill the rows of some cells; 1 where there is no room for another cost, else 0."""
        index: cython.Py_ssize_t
        full: cython.int = 0
        with cython.nogil:
            for index in range(numbers.shape[0]):
                if self.fill_rows(cython.cast(cython.int, numbers[index])):
                    full = 1
                    break
        return full

    def refill(self, numbers: cython.longlong[::1]) -> int:
        """Fill the compiled rows that a change of some cells can alter; 1 as for `fill`."""
        index: cython.Py_ssize_t
        direction: cython.int
        col: cython.int
        row: cython.int
        line: cython.int
        cell: cython.int
        other: cython.int
        full: cython.int = 0
        with cython.nogil:
            for index in range(numbers.shape[0]):
                cell = cython.cast(cython.int, numbers[index])
                row = cell // self.cols
                col = cell - row * self.cols
                line = self.line(col, row)
                full = full | self.fill_known(cell)
                for direction in range(self.directions):
                    other = self.number(
                        col + self.deltas[2 * (line * self.directions + direction)],
                        row + self.deltas[2 * (line * self.directions + direction) + 1],
                    )
                    if other >= 0:
                        full = full | self.fill_known(other)
        return full

    def fill_known(self, cell):
        """Fill a row that was compiled."""
        base = cython.cast(cython.Py_ssize_t, cell) * self.directions
        if (self.wide[base] if len(self.wide) else self.codes[base]) == 0:
            return 0
        return self.fill_rows(cell)

    def standing(self, out: cython.uchar[::1]) -> None:
        """Write for every cell whether a unit can stand with its anchor there."""
        cell: cython.int
        with cython.nogil:
            for cell in range(cython.cast(cython.int, out.shape[0])):
                out[cell] = self.stands(cell)

    def can_stand(self, cell: int) -> bool:
        """The same for one cell."""
        return self.stands(cell) == 1

    def stands(self, cell):
        """1 where ground and walls let a unit stand with its anchor on a cell."""
        row = cell // self.cols
        col = cell - row * self.cols
        line = self.line(col, row)
        for foot in range(self.feet):
            at = self.number(
                col + self.foot[2 * (line * self.feet + foot)],
                row + self.foot[2 * (line * self.feet + foot) + 1],
            )
            if at < 0 or not self.enterable(at):
                return 0
        return self.unfenced(col, row)

    def line(self, col, row):
        """1 in a shifted row or column, else 0."""
        if self.staggered == 1:
            return (row + self.parity) & 1
        if self.staggered == 2:
            return (col + self.parity) & 1
        return 0

    def number(self, col, row):
        """The number of a cell, or -1 off the grid."""
        if col < 0 or row < 0 or col >= self.cols or row >= self.rows:
            return -1
        cell = row * self.cols + col
        if len(self.exists) and self.exists[cell] == 0:
            return -1
        return cell

    def kind(self, cell):
        """The kind of ground."""
        return self.kinds[cell] if len(self.kinds) else self.ground[cell]

    def blocked(self, cell):
        """Whether a cell is blocked (over any terrain) or unknown."""
        return (
            (len(self.closed) and self.closed[cell])
            or (len(self.blocked_to) and self.blocked_to[cell])
            or (len(self.unseen) and self.unseen[cell])
        )

    def enterable(self, cell):
        """Whether a cell can be entered at all."""
        if self.blocked(cell):
            return 0
        return self.opened[self.kind(cell)]

    def edge(self, cell, direction):
        """The kind of edge met on a step; 0: none."""
        return self.place[
            self.fences[cython.cast(cython.Py_ssize_t, cell) * self.directions + direction]
        ]

    def unfenced(self, col, row):
        """Whether no wall stands inside a unit on an anchor."""
        line = self.line(col, row)
        for pair in range(cython.cast(cython.int, len(self.inner) // 2)):
            foot = self.inner[2 * pair]
            at = self.number(
                col + self.foot[2 * (line * self.feet + foot)],
                row + self.foot[2 * (line * self.feet + foot) + 1],
            )
            if at >= 0 and self.wall[self.edge(at, self.inner[2 * pair + 1])]:
                return 0
        return 1

    def steps_from(self, col, row, first, layer):
        """Put the cost of every step of one cell into the row; the dearer of it and what is there.

        ``first`` 1: nothing is there yet.
        """
        directions = self.directions
        line = self.line(col, row)
        cell = row * self.cols + col
        # neighbors are looked up once: diagonal steps ask for those on both sides, too
        for direction in range(directions):
            at = self.number(
                col + self.deltas[2 * (line * directions + direction)],
                row + self.deltas[2 * (line * directions + direction) + 1],
            )
            self.near[direction] = at
            self.clear[direction] = 0
            self.met[direction] = 0
            if at >= 0:
                self.clear[direction] = self.enterable(at)
                self.met[direction] = self.edge(cell, direction)
        for direction in range(directions):
            at = self.near[direction]
            cost = NO
            if self.clear[direction] and (first or self.row[direction] >= 0):
                turn = (self.diagonals & direction & 1) * (1 + layer)
                cost = self.prices[
                    (turn * self.edges + self.met[direction]) * self.many + self.kind(at)
                ]
                if cost >= 0:
                    cost += self.add[self.met[direction]]
                    if turn:
                        # of two open ways around the corner the cheaper one counts
                        least = NO
                        clear = 0
                        for turn in range(2):  # round by the cell before, and by the one after
                            side = (direction + 7 + 2 * turn) % 8
                            if self.near[side] < 0 or (self.corners and not self.clear[side]):
                                continue
                            if len(self.taken) and self.taken[self.near[side]]:
                                continue
                            beyond = self.edge(self.near[side], (side + 2 + 4 * turn) % 8)
                            if self.wall[self.met[side]] or self.wall[beyond]:
                                continue
                            added = self.add[self.met[side]] + self.add[beyond]
                            least = added if clear == 0 or added < least else least
                            clear += 1
                        cost = NO if clear == 0 or clear < self.corners else cost + least
                    if cost >= 0 and len(self.levels):
                        gap = (self.levels[at] - self.levels[cell]) * self.grain
                        if gap >= 0:
                            # levels are floats; whole parts of a level are compared
                            parts = int(gap + 0.5)
                            cost = NO if parts > self.climb else cost + parts * self.rise
                        else:
                            parts = int(0.5 - gap)
                            cost = NO if parts > self.drop else cost + parts * self.fall
            if first or cost < 0 or (self.row[direction] >= 0 and cost > self.row[direction]):
                self.row[direction] = cost

    def leaps_from(self, cell):
        """Write the leaps from a cell, along each straight direction."""
        directions = self.directions
        straight = 2 if directions == 8 else 1
        here = self.levels[cell] if len(self.levels) else 0
        for way in range(directions // straight):
            direction = way * straight
            bits = 0
            at = cell
            y = cell // self.cols
            x = cell - y * self.cols
            top = here
            # from a hole of the board nothing leaps
            for over in range(self.over + 1 if self.number(x, y) >= 0 else 0):
                if self.wall[self.edge(at, direction)]:
                    break
                index = 2 * (self.line(x, y) * directions + direction)
                x += self.deltas[index]
                y += self.deltas[index + 1]
                at = self.number(x, y)
                if at < 0:
                    break
                up = 0
                down = 0
                if len(self.levels):
                    gap = (self.levels[at] - here) * self.grain
                    if gap >= 0:
                        up = int(gap + 0.5)
                    else:
                        down = int(0.5 - gap)
                if self.enterable(at) and up <= self.leap_up and down <= self.leap_down:
                    if len(self.levels) == 0 or top <= here or top <= self.levels[at]:
                        bits = bits | (1 << over)
                if not self.passed[self.ground[at]] or self.shut[self.kind(at)]:
                    break
                if self.blocked(at):
                    break
                if len(self.levels) and self.levels[at] > top:
                    top = self.levels[at]
            self.leaps[cython.cast(cython.Py_ssize_t, cell) * directions + direction] = (
                cython.cast(cython.uchar, bits)
            )

    def fill_rows(self, cell):
        """Fill the row of a cell, in each layer; 1 where there is no room for another cost."""
        if self.over >= 0:
            self.leaps_from(cell)
        for layer in range(self.layers):
            if self.fill_row(cell, layer):
                return 1
        return 0

    def fill_row(self, cell, layer):
        """Fill one row."""
        row = cell // self.cols
        col = cell - row * self.cols
        line = self.line(col, row)
        directions = self.directions
        base = cython.cast(cython.Py_ssize_t, cell) * directions
        base += cython.cast(cython.Py_ssize_t, self.cols) * self.rows * directions * layer
        for foot in range(self.feet):
            x = col + self.foot[2 * (line * self.feet + foot)]
            y = row + self.foot[2 * (line * self.feet + foot) + 1]
            if self.number(x, y) < 0:  # nobody stands there
                for direction in range(directions):
                    self.row[direction] = NO
                break
            self.steps_from(x, y, foot == 0, layer)
        for index in range(1, directions + 1):
            direction = index if index < directions else 0
            code = 1
            if self.row[direction] >= 0:
                x = col + self.deltas[2 * (line * directions + direction)]
                y = row + self.deltas[2 * (line * directions + direction) + 1]
                if len(self.inner) == 0 or self.unfenced(x, y):
                    code = self.code_of(self.row[direction])
                    if code == 0:
                        return 1
            if len(self.wide):
                self.wide[base + direction] = cython.cast(cython.ushort, code)
            else:
                self.codes[base + direction] = cython.cast(cython.uchar, code)
        return 0

    def slot_of(self, cost):
        """The slot that holds the code of a cost, or the empty one where it goes."""
        # open addressing: the table is at most a quarter full, so that a search ends soon
        mask = len(self.slots) - 1
        slot = (cost ^ (cost >> 16) ^ (cost >> 32)) & mask
        while self.slots[slot] and self.costs[self.slots[slot]] >> SHIFT != cost:
            slot = (slot + 1) & mask
        return slot

    def code_of(self, cost):
        """The code of a cost, a new one if need be; 0 where there is no room."""
        if self.cap and cost > self.cap:
            cost = self.cap
        slot = self.slot_of(cost)
        code = self.slots[slot]
        if code:
            return code
        if self.count >= len(self.costs):
            return 0
        code = self.count
        self.costs[code] = cost << SHIFT
        self.twice[code] = 2 * cython.cast(cython.int, min(cost, NEVER))
        self.count = code + 1
        self.slots[slot] = code
        return code
