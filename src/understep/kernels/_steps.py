"""The step kernel: what each step from a cell costs under one movement, as codes.

It turns layers of a board (ground, blocks, edges, levels) and rules made numbers into a row of codes
per cell: 0 not compiled, 1 no step, else the place of its cost. The code of a direction is written
after those of the others, the first direction last of all, since a search on another thread takes a
row for compiled when its first code is there.

Cells that follow each other in a row are compiled together, one direction at a time, as if there were
no edges: three lines of prices and levels are read once, and the loop over them has no branch. What
edges make of a step is worked out afterwards, one by one. Steps of large units are compiled one by
one by `step`, and so are all where numbers are too large or levels too fine for that loop.
"""

from __future__ import annotations

try:
    import cython
except ImportError:
    from understep.kernels import _shim as cython


from understep.kernels.marks import BRIEF, FAR, LINE, NEVER, NO, SHIFT, UNKNOWN


class Filler:
    """The rules of a step table, and the layers of its board, at hand for filling rows."""

    def __init__(
        self, cols, rows, directions, staggered, parity, deltas, exists, kind_at, price_at, open_at,
        height_at, changed, row,
    ) -> None:
        self.cols, self.rows, self.directions, self.staggered = cols, rows, directions, staggered
        self.parity, self.deltas, self.exists, self.price_at = parity, deltas, exists, price_at
        self.kind_at, self.open_at, self.height_at = kind_at, open_at, height_at
        self.changed, self.row = changed, row
        # codes 0 and 1 are taken: not compiled yet, and no step
        self.count = 2
        self.over = -1

    def rules(
        self, prices, many, edges, place, wall, add, opened, diagonals, layers, corners, grain, climb, drop,
        rise, fall, feet, foot, inner, cap, alike,
    ) -> None:
        """Set the rules; ``alike``: many steps can be compiled at a time."""
        self.prices, self.many, self.edges, self.place, self.wall = prices, many, edges, place, wall
        self.add, self.opened, self.diagonals, self.layers = add, opened, diagonals, layers
        self.corners, self.grain, self.climb, self.drop = corners, grain, climb, drop
        self.rise, self.fall, self.feet, self.foot, self.inner = rise, fall, feet, foot, inner
        self.cap, self.alike = cap, alike

    def leaping(self, leaps, over, passed, shut, up, down) -> None:
        """Set where leaps are written, and their limits."""
        self.leaps, self.over, self.passed, self.shut = leaps, over, passed, shut
        self.leap_up = up
        self.leap_down = down

    def lay(self, ground, kinds, closed, blocked_to, unseen, fences, levels, taken) -> None:
        """Set the layers of the board, which may have moved."""
        self.ground, self.kinds, self.closed, self.blocked_to = ground, kinds, closed, blocked_to
        self.unseen, self.fences, self.levels, self.taken = unseen, fences, levels, taken

    def out(self, codes, wide, costs, twice, slots, brief, count) -> None:
        """Set where codes go; ``slots`` and ``brief`` come empty, of so many codes the costs are known.

        ``twice`` is filled with twice the costs as the search by layers counts them.
        """
        code: cython.int
        self.codes, self.wide, self.costs, self.twice, self.slots = codes, wide, costs, twice, slots
        self.brief, self.count = brief, count
        # the most frequent costs find their code by one look
        self.brief[BRIEF - 1] = 1  # no step
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
        index: cython.Py_ssize_t = 0
        first: cython.int
        last: cython.int = -1
        count: cython.int
        size: cython.int = 0
        full: cython.int = 0
        with cython.nogil:
            while index < numbers.shape[0] and not full:
                # cells that follow each other are compiled together, which is several times as fast
                first = cython.cast(cython.int, numbers[index])
                count = self.run(numbers, index)
                # below the run before it, two of three lines are at hand
                full = self.fill_run(first, count, first == last + self.cols and count == size)
                last, size = first, count
                index += count
        return full

    def run(self, numbers, index):
        """How many of some cells follow each other in one row, from an index on."""
        first = numbers[index]
        # a line has room for the cell at each end, too
        most = min(LINE - 2, self.cols - first % self.cols, len(numbers) - index)
        count = 1
        while count < most and numbers[index + count] == first + count:
            count += 1
        return count

    def refill(self, numbers: cython.longlong[::1]) -> int:
        """Fill the compiled rows that a change of some cells can alter; 1 as for `fill`."""
        index: cython.Py_ssize_t
        direction: cython.int
        col: cython.int
        row: cython.int
        cell: cython.int
        other: cython.int
        full: cython.int = 0
        with cython.nogil:
            for index in range(numbers.shape[0]):
                cell = cython.cast(cython.int, numbers[index])
                row = cell // self.cols
                col = cell - row * self.cols
                full = full | self.fill_known(cell)
                for direction in range(self.directions):
                    other = self.next_to(col, row, direction)
                    if other >= 0:
                        full = full | self.fill_known(other)
        return full

    def fill_known(self, cell):
        """Fill a row that was compiled."""
        base = cython.cast(cython.Py_ssize_t, cell) * self.directions
        # what was never compiled is compiled when a search gets there
        if (self.wide[base] if len(self.wide) else self.codes[base]) == 0:
            return 0
        return self.fill_run(cell, 1, 0)

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
        # a hole is off the grid, too
        if len(self.exists) and self.exists[cell] == 0:
            return -1
        return cell

    def next_to(self, col, row, direction):
        """The number of a neighbor, or -1."""
        index = 2 * (self.line(col, row) * self.directions + direction)
        return self.number(col + self.deltas[index], row + self.deltas[index + 1])

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
        # what blocks a cell does so over any ground
        if self.blocked(cell):
            return 0
        return self.opened[self.kind(cell)]

    def edge(self, cell, direction):
        """The kind of edge met on a step; 0: none."""
        if len(self.fences) == 0:
            return 0
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

    def step(self, col, row, direction, layer):
        """The cost of one step, by all rules."""
        cell = self.number(col, row)
        at = self.next_to(col, row, direction)
        if cell < 0 or at < 0 or not self.enterable(at):
            return NO
        turn = (self.diagonals & direction & 1) * (1 + layer)
        cost = self.prices[turn * self.edges * self.many + self.kind(at)]
        if len(self.levels):
            # levels are floats; whole parts of a level are compared
            gap = (self.levels[at] - self.levels[cell]) * self.grain
            parts = int(abs(gap) + 0.5)
            if gap >= 0:
                cost += parts * self.rise if parts <= self.climb else NO
            else:
                cost += parts * self.fall if parts <= self.drop else NO
        return self.edged(cost, col, row, at, direction, turn)

    def edged(self, cost, col, row, at, direction, turn):
        """What edges and corners make of the cost of a step; they open none that is closed.

        ``turn``: 0 for a straight step, 1 for a diagonal, 2 for a dear one, which has other prices.
        """
        met = self.edge(row * self.cols + col, direction)
        if cost >= NO or self.wall[met]:
            return NO
        if met:
            price = turn * self.edges * self.many + self.kind(at)
            cost += self.prices[price + met * self.many] - self.prices[price] + self.add[met]
        if turn:
            # directions go around in eighths: the ways around a corner are those on either side
            before = self.around(col, row, (direction + 7) & 7, 2)
            after = self.around(col, row, (direction + 1) & 7, 6)
            ways = (before < NO) + (after < NO)
            # of two open ways around the corner the cheaper one counts
            cost += NO if ways < self.corners else min(before, after)
        # several refusals add up, and one value stands for all of them
        return min(cost, NO)

    def around(self, col, row, side, turn):
        """What edges add on the way around a corner by the cell on one side; `NO` where it is closed.

        ``turn``: how the way goes on from there.
        """
        met = self.edge(row * self.cols + col, side)
        if self.wall[met]:
            return NO
        at = self.next_to(col, row, side)
        if at < 0 or not self.turned(at, self.enterable(at)):
            return NO
        beyond = self.edge(at, (side + turn) & 7)
        return NO if self.wall[beyond] else self.add[met] + self.add[beyond]

    def turned(self, cell, clear):
        """Whether a diagonal step can go around by a cell, walls aside; ``clear``: it can be entered."""
        return (clear or not self.corners) and not (len(self.taken) and self.taken[cell])

    def leaps_from(self, cell):
        """Write the leaps from a cell, along each straight direction."""
        directions = self.directions
        # diagonals are every second direction
        straight = 2 if directions == 8 else 1
        here = self.levels[cell] if len(self.levels) else 0
        for way in range(directions // straight):
            direction = way * straight
            # one for each number of cells between
            bits = 0
            at = cell
            y = cell // self.cols
            x = cell - y * self.cols
            top = here
            # from a hole of the board nothing leaps
            for over in range(self.over + 1 if self.number(x, y) >= 0 else 0):
                # no leap crosses a wall
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
                    # what lies between must not rise above both ends
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

    def fill_run(self, first, count, below):
        """Fill the rows of a run of cells, in each layer; 1 where there is no room for another cost.

        ``below``: it is just below the run before it.
        """
        row = first // self.cols
        col = first - row * self.cols
        if self.over >= 0:
            for index in range(count):
                self.leaps_from(first + index)
        if self.alike:
            for y in range(row + 1 if below else row - 1, row + 2):
                self.read(col, y, count)
        # of alternating diagonals each cell has steps twice
        for layer in range(self.layers):
            if self.alike:
                for direction in range(self.directions):
                    self.steps(col, row, count, direction, layer)
                self.patch(col, row, count, layer)
            # two bytes a code where one is not enough
            if len(self.wide):
                full = self.write(self.wide, self.brief, self.row, col, row, count, layer)
            else:
                full = self.write(self.codes, self.brief, self.row, col, row, count, layer)
            if full:
                return 1
        return 0

    def read(self, col, row, count):
        """Read a line of cells: a run, and a cell at each end."""
        # it takes the place of the line that is not needed any more
        start = LINE * ((row + 3) % 3)
        above = LINE * ((row + 4) % 3)
        for index in range(count):
            self.changed[above + index] = 0
        base = row * self.cols + col - 1
        # the first and the last of the line that are on the board
        first = 1 if col == 0 else 0
        last = min(count + 2, self.cols - col + 1) if 0 <= row < self.rows else 0
        for index in range(count + 2):
            cell = base + index
            if index < first or index >= last or (len(self.exists) and not self.exists[cell]):
                self.kind_at[start + index] = -1
                self.open_at[start + index] = 0
                # from a hole no step leads, as `patch` sees
                for direction in range(self.directions):
                    self.change(index - 1, row, direction, count)
                continue
            kind = self.kind(cell)
            clear = self.opened[kind] and not self.blocked(cell)
            self.kind_at[start + index] = kind if clear else -1
            # corners ask for it without walls, which are patched in afterwards
            self.open_at[start + index] = self.turned(cell, clear)
            if len(self.fences):
                self.note_edges(cell, index - 1, row, count)
        self.read_prices(self.prices, self.kind_at, self.price_at, start, count + 2)
        # off the board there is no level, nor a step that asks for it
        if len(self.levels) and first < last:
            self.read_levels(
                self.levels, self.height_at, base + first, start + first, last - first, self.grain
            )

    def read_prices(self, prices, kind_at, price_at, start, count):
        """Put prices where kinds of ground are; arrays at hand, as in all loops that must be fast."""
        # by straight, diagonal, dear diagonal
        many = self.edges * self.many
        most = FAR
        for turn in range(self.diagonals * self.layers + 1):
            place = 3 * LINE * turn + start
            for index in range(count):
                kind = kind_at[start + index]
                price_at[place + index] = most
                if kind >= 0:
                    price_at[place + index] = cython.cast(
                        cython.int, min(prices[many * turn + kind], most)
                    )

    def read_levels(self, levels, height_at, cell, place, count, grain):
        """Put levels where they are, in parts: whole numbers, as else no run is compiled together."""
        for index in range(count):
            parts = int(levels[cell + index] * grain)
            height_at[place + index] = parts

    def note_edges(self, cell, index, row, count):
        """Note the steps that the edges of a cell can change: a bit for each direction."""
        base = cython.cast(cython.Py_ssize_t, cell) * self.directions
        # most cells have none; eight bytes are one number
        if cython.compiled and self.directions == 8:
            rows = cython.cast(cython.p_longlong, cython.address(self.fences[0]))
            if rows[cell] == 0:
                return
        for direction in range(self.directions):
            if self.fences[base + direction] == 0:
                continue
            self.change(index, row, direction, count)
            met = self.place[self.fences[base + direction]]
            if not self.wall[met] and not self.add[met]:
                continue
            for turn in range(1, 1 + 7 * self.diagonals, 6):
                # around two corners of its cell, and around one of a cell on either side
                around = (direction + turn) & 7
                side = 2 * ((direction + 2 * turn) & 7)
                self.change(index, row, around, count)
                self.change(index - self.deltas[side], row - self.deltas[side + 1], around, count)

    def change(self, index, row, direction, count):
        """Note a step, if it is one of the run."""
        if 0 <= index < count:
            spot = LINE * ((row + 3) % 3) + index
            self.changed[spot] = self.changed[spot] | (1 << direction)

    def steps(self, col, row, count, direction, layer):
        """Put into the row where codes of the steps of a run in one direction are, edges aside."""
        turn = (self.diagonals & direction & 1) * (1 + layer)
        here = LINE * ((row + 3) % 3) + 1
        # where columns are shifted every second cell has other neighbors: all steps by both
        for parity in range(2 if self.staggered == 2 else 1):
            at = self.spot(col + parity, row, direction)
            before = at
            after = at
            need = 0
            if turn:
                before = self.spot(col, row, (direction + 7) & 7)
                after = self.spot(col, row, (direction + 1) & 7)
                need = max(self.corners, 1)
            place = LINE * (2 * direction + parity)
            self.price(count, place, here, at, 3 * LINE * turn, before, after, need)

    def spot(self, col, row, direction):
        """Where the neighbors of a run are in what was read."""
        index = 2 * (self.line(col, row) * self.directions + direction)
        return LINE * ((row + self.deltas[index + 1] + 3) % 3) + 1 + self.deltas[index]

    def price(self, count, row, here, at, turn, before, after, need):
        """The same for given neighbors and corners."""
        climb = cython.cast(cython.int, min(self.climb, FAR))
        drop = cython.cast(cython.int, min(self.drop, FAR))
        rise = cython.cast(cython.int, min(self.rise, FAR))
        fall = cython.cast(cython.int, min(self.fall, FAR))
        none = BRIEF - 1
        far = FAR
        # no branch, so that the compiler can do several at once
        for index in range(count):
            cost = self.price_at[turn + at + index]
            gap = self.height_at[at + index] - self.height_at[here + index]
            up = -(gap > 0)
            ways = self.open_at[before + index] + self.open_at[after + index]
            closed = -((cost >= far) | (gap > climb) | (gap < -drop) | (ways < need))
            cost += gap * ((rise & up) | (-fall & ~up))
            large = -(cost >= none)
            place = (cost & ~large) | (UNKNOWN & large)
            self.row[row + index] = (place & ~closed) | (none & closed)

    def patch(self, col, row, count, layer):
        """Put into the row what edges make of the steps of a run."""
        none = BRIEF - 1
        start = LINE * ((row + 3) % 3)
        other = LINE if self.staggered == 2 else 0
        for index in range(count):
            if self.changed[start + index] == 0:
                continue
            cell = self.number(col + index, row)
            line = self.line(col + index, row)
            for direction in range(self.directions):
                place = index + other * (index & 1) + 2 * LINE * direction
                if (self.changed[start + index] >> direction) & 1 == 0 or self.row[place] >= UNKNOWN:
                    continue
                cost = NO
                if cell >= 0:
                    way = 2 * (line * self.directions + direction)
                    at = cell + self.deltas[way] + self.deltas[way + 1] * self.cols
                    turn = (self.diagonals & direction & 1) * (1 + layer)
                    cost = self.edged(self.row[place], col + index, row, at, direction, turn)
                self.row[place] = none
                if cost < NO:
                    self.row[place] = cython.cast(cython.int, min(cost, UNKNOWN))

    def write(self, codes, brief, found, col, row, count, layer):
        """Write the codes of a run; 1 where there is no room for another cost."""
        directions = self.directions
        base = cython.cast(cython.Py_ssize_t, self.rows) * layer + row
        base = (base * self.cols + col) * directions
        other = LINE if self.staggered == 2 else 0
        # between the places of two directions
        pitch = 2 * LINE
        for index in range(count):
            at = index + other * (index & 1)
            # the first direction last of all
            for direction in range(directions - 1, -1, -1):
                code = brief[found[at + pitch * direction]]
                # where the row does not tell, the rule for single steps does
                if code == 0:
                    code = self.code_of(self.full_step(col + index, row, direction, layer))
                    if code == 0:
                        return 1
                codes[base + direction] = code
            base += directions
        return 0

    def full_step(self, col, row, direction, layer):
        """The cost of a step of a unit; each of its cells takes it, the dearest counts."""
        # a unit of one cell has no cells of its own to compare
        if self.feet == 1:
            return self.step(col, row, direction, layer)
        line = self.line(col, row)
        index = 2 * (line * self.directions + direction)
        cost = cython.cast(cython.longlong, 0)
        for foot in range(self.feet):
            x = col + self.foot[2 * (line * self.feet + foot)]
            y = row + self.foot[2 * (line * self.feet + foot) + 1]
            cost = max(cost, self.step(x, y, direction, layer))
        if not self.unfenced(col + self.deltas[index], row + self.deltas[index + 1]):
            return NO
        return cost

    def slot_of(self, cost):
        """The slot that holds the code of a cost, or the empty one where it goes."""
        # open addressing: the table is at most a quarter full, so that a search ends soon
        # their number is a power of two
        mask = len(self.slots) - 1
        slot = (cost ^ (cost >> 16) ^ (cost >> 32)) & mask
        while self.slots[slot] and self.costs[self.slots[slot]] >> SHIFT != cost:
            slot = (slot + 1) & mask
        return slot

    def code_of(self, cost):
        """The code of a cost, a new one if need be; 0 where there is no room."""
        if cost >= NO:
            return 1
        # before the cap: rows hold costs as they were before it
        brief = min(cost, UNKNOWN)
        code = self.brief[brief]
        if code:
            return code
        if self.cap and cost > self.cap:
            cost = self.cap
        slot = self.slot_of(cost)
        code = self.slots[slot]
        if code == 0 and self.count < len(self.costs):
            code = self.count
            self.costs[code] = cost << SHIFT
            self.twice[code] = 2 * cython.cast(cython.int, min(cost, NEVER))
            self.count = code + 1
            self.slots[slot] = code
        if brief < UNKNOWN:
            self.brief[brief] = cython.cast(cython.ushort, code)
        return code
