"""The asker: a short reach is one call from Python, and little is made of what it finds.

Most reaches are asked for a few cells, or how many there are; so marks and cells are only copied, and
labels, cells and entries are made of them when they are asked for. And what a foe could attack is one
call for many places of many units.
"""

from __future__ import annotations

from array import array

try:
    import cython
except ImportError:
    from understep.kernels import _shim as cython

from understep.kernels.marks import MET, STOP

LATE = 1 << 60  # the place of what is never got to


class Found:
    """What a flood left: for every cell its mark, then every cell by number, in one row of bytes.

    Of a large one the arrays themselves. Where costs go by steps there are the codes of each cell's
    steps, too, else None.
    """

    def __init__(self, mover, rules, home, count, data, steps) -> None:
        self.mover, self.rules, self.home, self.count, self.data = mover, rules, home, count, data
        self.steps = steps

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

    def enters(self, near, least) -> bool:
        """Whether it led to a cell that bears so much."""
        index: cython.int
        low: cython.int = least
        near_: cython.uchar[::1] = near
        data: bytearray = self.data
        if cython.compiled:
            bytes_: cython.p_char = data
            cells = cython.cast(cython.p_int, bytes_ + 8 * self.count)
        else:
            cells = memoryview(data)[8 * self.count :].cast("i")
        index = 0
        while index < self.count and near_[cells[index]] < low:
            index += 1
        return index < self.count

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
    """One question: where a unit of some movement can get, as long as its rules are the same."""

    def __init__(self, mover, rules, plain, first, limit, few, ring, grid, free, large) -> None:
        """Take the rules, and the bounds of keys: the least that serves mostly, and that of all."""
        self.mover, self.rules, self.plain, self.first = mover, rules, plain, first
        # what the board itself holds is replaced when it is written, else it changes in place
        self.lasting = plain != 0 and len(self.rules.kinds) == 0 and self.rules.zoning == 0
        self.limit, self.few = limit, few
        self.ring, self.large, self.free = ring, large, free
        self.table = mover.table
        self.views = self.table.views
        self.left = grid[0]
        self.top = grid[1]
        self.cols = grid[2]
        self.rows = grid[3]

    def apart(self, who, held) -> Asker:
        """The same in a turn with all points, among others: side codes, and who holds, by cell."""
        old = self.rules
        grid = self.left, self.top, self.cols, self.rows
        rules = type(old)(
            old.points, old.stride, old.zoning, old.extra, old.cap, old.feet, old.foot
        )
        rules.lay(
            old.plain, old.ground, old.kinds, old.closed_to_all, old.blocked_to, old.unseen, old.place
        )
        rules.weigh(old.weight, old.common, old.now)
        rules.compiled(old.codes, old.twice)
        rules.among(who, old.means, held, old.held_own)
        return Asker(
            self.mover, rules, self.plain, old.points, self.limit, self.few, self.ring, grid, self.free,
            self.large,
        )

    def number(self, at):
        """The number of a cell; -1: it is not on the board, or no pair of plain whole numbers."""
        if not isinstance(at, tuple):
            return -1
        # parts of a cell, which is a kind of tuple, take several times as long to get
        pair = tuple(at)
        # a truth or a NumPy number is for a search, which refuses or converts it
        if len(pair) != 2 or type(pair[0]) is not int or type(pair[1]) is not int:
            return -1
        try:  # to numbers of 64 bits
            col = pair[0]
            row = pair[1]
        except OverflowError:
            return -1
        col = col - self.left
        row = row - self.top
        return row * self.cols + col if 0 <= col < self.cols and 0 <= row < self.rows else -1

    def ask(self, home, at, date) -> Found | None:
        """Flood from a cell, or from the ``home`` where the unit stands; None: a search has to answer.

        It has where no workspace is free, and where the unit could not stand: it finds the words.
        ``date``: the state of the board.
        """
        own = self.number(home)
        number = own if at is None else self.number(at)
        if number < 0 or own < 0:
            return None
        try:
            workspace = self.free.pop()
        except IndexError:
            return None
        layers = workspace.search
        # where costs go by cells, these tell whether the ground lets it stand there, too
        stands = number == own or (
            layers.stands(self.rules, own, number) and (self.plain or self.table.can_stand(number))
        )
        found = self.flood(workspace, own, number, date) if stands else None
        # one that was broken off is not used again
        if found is not None or not stands:
            self.free.append(workspace)
        return found

    def flood(self, workspace, own, number, date) -> Found | None:
        """Flood from a cell for a unit that stands on its ``own``.

        None: there are too many costs, and the workspace is of no use.
        """
        layers = workspace.search
        if not self.plain:
            status = drive(
                workspace, self.rules, self.table, self.views, own, number, self.first, self.few,
                self.limit, self.ring, -1, 0, date,
            )
            if status < 0:
                return None
            count = layers.closed
        else:
            count = layers.ask(self.rules, own, number, self.first, self.limit, self.ring)
            # it asked for more room, and goes on where it was
            while -4 < count < 0:
                workspace.grow()
                count = layers.run()
                count = layers.closed if count == 0 else count
            if count < 0:
                return None
        steps = None if self.plain else self.steps_of(layers, count)
        data = data_of(layers, count) if count < self.large else workspace.take(count)
        return Found(self.mover, self.rules, number, count, data, steps)

    def steps_of(self, layers, count):
        """The codes of the steps from each cell that was closed."""
        index: cython.Py_ssize_t
        way: cython.int
        ways: cython.int = layers.ways
        at: cython.Py_ssize_t
        # an edit compiles them anew, and ties are read of how they were
        found = bytearray(count * ways)
        steps: cython.uchar[::1] = found
        codes: cython.uchar[::1] = self.rules.codes
        if cython.compiled and ways == 8 and count:  # eight bytes are one number
            rows = cython.cast(cython.p_longlong, cython.address(codes[0]))
            copies = cython.cast(cython.p_longlong, cython.address(steps[0]))
            for index in range(count):
                copies[index] = rows[layers.order[index]]
            return found
        for index in range(count):
            at = cython.cast(cython.Py_ssize_t, layers.order[index]) * ways
            for way in range(ways):
                steps[index * ways + way] = codes[at + way]
        return found


class NextTurns:
    """What foes can do in their next turns while units stand elsewhere, found for all in one go."""

    def __init__(self, homes) -> None:
        """Take where the units stand now."""
        self.homes = homes
        self.turns, self.last = [], None

    def add(self, asker, own, workspace, among, homes) -> None:
        """Add a foe on its ``own`` cell.

        ``among``: who stands where, how many hold each cell, and the code of each unit, 0 if never in
        its way. ``homes``: for every unit the cells around where it stands from which a foe would get
        somewhere if it were gone (-1: none), and those that it holds from there (-1: none).
        """
        foe = asker.apart(*among[:2])
        layers = workspace.search
        if foe.plain == 0:
            workspace.label()
        layers.begin(foe.rules, own, own, foe.first, foe.limit, foe.ring, -1, 0, 0)
        self.last = NextTurn(layers, foe.rules, foe.first, self.homes, homes, among[2], self.last)
        self.turns.append((self.last, workspace, foe))

    def widest(self) -> list[bytearray | None]:
        """For each foe all cells where it could stop if no unit were in its way, in 64 bits each.

        None where its costs are too wide for codes: its workspace is of no use any more.
        """
        self.finish(0)
        return [None if turn.lost else turn.stands() for turn, _, _ in self.turns]

    def judge(self, bounds, cells, zone, rows, room, out) -> None:
        """Fill in who could attack which unit on which of its cells, a row for each foe: 0 no, 1 yes.

        ``bounds``: where the cells of each unit begin and end among ``cells``; ``zone``: the cells
        that it would hold from each (-1: none; empty where no foe heeds them). ``rows``: for each foe
        the cells found before, where the row of each begins and ends, and the pool; None: it is left
        out. ``room``: zeros for every cell, twice; space for every cell, twice for each of ``cells``,
        and for each unit.
        """
        for index, (turn, _, _) in enumerate(self.turns):
            turn.status = 1 if rows[index] is None else 0
            if rows[index] is not None:
                turn.take(bounds, cells, zone, rows[index], room, out[index])
        self.finish(1)

    def finish(self, judging):
        """Do one of these for all foes; the lock is released once."""
        while self.last is not None and self.last.run(judging) == 0:
            for turn, workspace, foe in self.turns:
                if turn.status < 0:
                    # the flood that lacks something ends first, then all of that foe's begin again
                    status = turn.lacks
                    while status < 0:
                        if supply(workspace, turn.layers, foe.table, foe.views, status) == 0:
                            turn.lost, turn.status = 1, 1
                            break
                        status = turn.layers.run()


class NextTurn:
    """What one foe can do.

    A unit on a cell can only take ways from it that lead over a place where the unit makes a
    difference. Where a stand that the foe gets to sooner decides, nothing is searched again.
    """

    def __init__(self, layers, rules, first, homes, around, codes, after) -> None:
        self.layers, self.rules, self.first, self.after = layers, rules, first, after
        self.homes, self.codes = homes, codes
        self.beside, self.from_homes = around
        self.status = self.lacks = self.lost = 0

    def take(self, bounds, cells, zone, rows, room, out) -> None:
        """Take the cells of all units, see `NextTurns.judge`."""
        self.bounds, self.cells, self.zone, self.out = bounds, cells, zone, out
        self.stops, self.starts, self.ends, self.pool = rows
        self.places, self.closed, self.rows, self.soonest, self.entered, self.near = room

    def run(self, judging) -> int:
        """Do all that is not done yet of this foe and those after it: 1 done, 0 one lacks something."""
        done: cython.int
        what: cython.int = judging
        with cython.nogil:
            done = self.go_on(what)
        return done

    def go_on(self, judging):
        """See `run`."""
        if self.status < 1:
            self.status = -1
            if (self.judge_units() if judging else self.flood_widely()) == 0:
                return 0
            self.status = 1
        return 1 if self.after is None else self.after.go_on(judging)

    def flood_widely(self):
        """Flood as if no unit were in the way: 1 done, 0 it lacks something."""
        for unit in range(len(self.homes)):
            self.leave(unit)
        done = self.flood()
        for unit in range(len(self.homes)):
            self.stay(unit)
        return done

    def leave(self, unit):
        """Take a unit away from where it stands."""
        if self.codes[unit]:
            self.stand(self.homes[unit], 0, self.from_homes, unit, -1)

    def stay(self, unit):
        """Put it back."""
        if self.codes[unit]:
            self.stand(self.homes[unit], self.codes[unit], self.from_homes, unit, 1)

    def stand(self, cell, code, zone, row, more):
        """Set who stands on a cell, with so many more that hold what is held from there."""
        self.rules.who[cell] = cython.cast(cython.uchar, code)
        if self.rules.zoning:
            ways = self.layers.ways
            for index in range(row * ways, row * ways + ways):
                held = zone[index]
                if held >= 0:
                    self.rules.held[held] = cython.cast(cython.uchar, self.rules.held[held] + more)

    def stands(self) -> bytearray:
        """The cells of the last flood where the foe may stop."""
        count = self.layers.closed
        return Found(None, None, 0, count, data_of(self.layers, count), None).stands()

    def judge_units(self):
        """Judge all cells of all units: 1 done, 0 a flood lacks something."""
        units = cython.cast(cython.int, len(self.homes))
        # where all units were lifted it could stop on more cells, never on fewer
        for index in range(len(self.stops)):
            self.rows[self.stops[index]] = index
        # one flood serves all units that make no difference where they stand
        if self.flood() == 0:
            return 0
        self.find_near(units)
        for unit in range(units):
            if self.near[unit] == 0:
                self.judge(unit)
        for unit in range(units):
            if self.codes[unit]:
                self.leave(unit)
                done = self.judge_closely(unit)
                self.stay(unit)
                if done == 0:
                    return 0
        return 1

    def flood(self):
        """Find where the foe can get as things stand: 1 found, 0 it lacks room or steps."""
        # the question is the same, who stands where is not
        if self.layers.flooding == 0:
            self.layers.forget_looks()
            self.layers.open_window()
        self.layers.set_off(self.layers.own, self.first)
        self.layers.wanted = -1
        self.lacks = self.layers.close_all()
        if self.lacks < 0:
            return 0
        self.layers.finish(self.lacks)
        return 1

    def find_near(self, units):
        """Find the units whose absence would let the foe get somewhere: it gets close to them."""
        for index in range(self.layers.closed):
            self.places[self.layers.order[index]] = 1
        many = cython.cast(cython.int, len(self.beside)) // units if units else 0
        for unit in range(units):
            self.near[unit] = 0
            for index in range(unit * many, unit * many + many):
                if self.codes[unit] and self.beside[index] >= 0 and self.places[self.beside[index]]:
                    self.near[unit] = 1
        for index in range(self.layers.closed):
            self.places[self.layers.order[index]] = 0

    def judge(self, unit):
        """Judge the cells of a unit by the last flood: 0 no, 1 yes, 2 it takes a search."""
        low = self.bounds[unit]
        end = self.bounds[unit + 1]
        for index in range(low, end):
            self.places[self.cells[index]] = index - low + 1  # a cell may be there twice
            self.soonest[index] = LATE
            self.entered[index] = LATE
        # a way leads only over cells that were closed before its end: their order is what counts
        for index in range(self.layers.closed):
            cell = self.layers.order[index]
            place = self.places[cell]
            if place and self.codes[unit]:
                self.entered[low + place - 1] = index
            if self.layers.marks[index] & STOP:
                row = self.rows[cell]
                for other in range(self.starts[row], self.ends[row]):
                    place = self.places[self.pool[other]]
                    if place and self.soonest[low + place - 1] == LATE:
                        self.soonest[low + place - 1] = index
        if self.rules.zoning and self.codes[unit]:
            self.heed_zones(low, end)
        for index in range(low, end):
            place = low + self.places[self.cells[index]] - 1
            # no way to such a stand leads over the cell, or beside where it makes a difference
            self.out[index] = 0
            if self.soonest[place] < LATE:
                self.out[index] = 1 if self.soonest[place] < self.entered[place] else 2
        for index in range(low, end):
            self.places[self.cells[index]] = 0

    def heed_zones(self, low, end):
        """What a unit holds from its cells makes a difference, as the unit on them does."""
        for index in range(self.layers.closed):
            self.closed[self.layers.order[index]] = index + 1
        for index in range(low, end):
            place = low + self.places[self.cells[index]] - 1
            self.entered[place] = min(self.entered[place], self.first_held(index))
        for index in range(self.layers.closed):
            self.closed[self.layers.order[index]] = 0

    def first_held(self, row):
        """How many cells are closed before one from which on it counts that a unit holds it from there."""
        least = LATE
        ways = self.layers.ways
        for index in range(row * ways, row * ways + ways):
            cell = self.zone[index]
            # where it starts, and where others hold as well, it makes no difference
            if cell < 0 or cell == self.layers.own or self.rules.held[cell] > self.rules.held_own[cell]:
                continue
            # where its turn ends it gets in as before, but no farther
            place = self.closed[cell] - 1 + (self.rules.ending > 0)
            if self.closed[cell] and place < least:
                least = place
        return least

    def judge_closely(self, unit):
        """Judge a unit that is lifted, and the cells that take a search: 1 done, 0 it lacks something."""
        if self.near[unit]:
            if self.flood() == 0:
                return 0
            self.judge(unit)
        for index in range(self.bounds[unit], self.bounds[unit + 1]):
            if self.out[index] == 2:
                cell = self.cells[index]
                self.stand(cell, self.codes[unit], self.zone, index, 1)
                done = self.flood()
                self.stand(cell, 0, self.zone, index, -1)
                if done == 0:
                    return 0
                self.out[index] = self.strikes(cell)
        return 1

    def strikes(self, cell):
        """Whether the foe can attack a cell from where the last flood led."""
        for index in range(self.layers.closed):
            if self.layers.marks[index] & STOP:
                row = self.rows[self.layers.order[index]]
                for other in range(self.starts[row], self.ends[row]):
                    if self.pool[other] == cell:
                        return 1
        return 0


def data_of(layers, count):
    """Marks and cells of a flood as bytes, to keep."""
    found: bytearray
    bytes_: cython.p_char
    marks: cython.p_longlong
    cells: cython.p_int
    index: cython.int
    if not cython.compiled:
        return bytearray(layers.marks[:count]) + bytearray(layers.order[:count])
    found = bytearray(12 * count)
    bytes_ = found
    marks = cython.cast(cython.p_longlong, bytes_)
    cells = cython.cast(cython.p_int, bytes_ + 8 * count)
    for index in range(count):
        marks[index] = layers.marks[index]
        cells[index] = layers.order[index]
    return found


def many(layers, rules, own, starts, at, first, limit, ring, cells, marks, ends) -> int:
    """Flood from one cell after another, see `Layers.begin`: how many were done, from one ``at`` on.

    Cells and marks go into one row, where the last ended; it stops where there is no room for more
    of these. -1 less that: it lacks room for one, which `Layers.run` goes on with, once there is some.
    """
    index: cython.int
    label: cython.int
    count: cython.int = cython.cast(cython.int, len(starts))
    status: cython.int
    starts_: cython.int[::1] = starts
    cells_: cython.int[::1] = cells
    marks_: cython.longlong[::1] = marks
    ends_: cython.longlong[::1] = ends
    end: cython.longlong
    done: cython.int = at
    points: cython.int = first
    if done < count:
        layers.begin(rules, own, starts_[done], first, limit, ring, -1, 0, 0)
    with cython.nogil:
        for index in range(done, count):
            end = ends_[index]
            # `begin` has set off for the first one already
            if layers.closed:
                layers.set_off(starts_[index], points)
            status = layers.close_all()
            if status < 0:
                done = -1 - index
                break
            layers.finish(status)
            # the last one is found again when there is room: it is one of many
            if end + layers.closed > len(cells_):
                break
            for label in range(layers.closed):
                cells_[end + label] = layers.order[label]
                marks_[end + label] = layers.marks[label]
            ends_[index + 1] = end + layers.closed
            done = index + 1
    return done


def unfit(layers, rules, own, numbers) -> list[int]:
    """The places of the cells on which a mover could not stand, where costs go by cells."""
    found = []
    for index in range(len(numbers)):
        if not layers.stands(rules, own, numbers[index]):
            found.append(index)
    return found


def step_cost(layers, rules, own, first, start, end):
    """What the step from a cell to another takes of the points there are: -1 none can be taken.

    -2: it is not compiled yet.
    """
    here = layers.spot_of(start)
    spot = layers.spot_of(end)
    taken = -1
    for way in range(layers.ways):
        if spot - layers.steps[way] == here:
            taken = way
    if taken < 0 or layers.state[spot]:  # not next to it, or a hole
        return -1
    layers.rules = rules
    layers.own = own
    layers.plain = rules.plain
    row = cython.cast(cython.Py_ssize_t, start) * layers.ways
    if rules.plain == 0 and rules.codes[row + taken] == 0:
        return -2
    seen = layers.look(spot, end)
    if seen == MET:
        return -1
    layers.points = rules.points
    layers.stride = rules.stride
    cost = rules.weight[seen] if rules.plain else layers.step_cost(here, taken, seen)
    key = rules.stride - 1 - first
    cost = layers.arrival(key, cost, seen) - key
    return cost if cost <= first else -1


def drive(
    workspace, rules, table, views, own, start, first, few, limit, ring, goal, cheapest, date
) -> int:
    """Search, see `Layers.begin`: 0 all closed, 1 goal found, -1 its costs are too wide for codes.

    -4: it does not serve, see `Layers.run`.

    With few keys first: a bound of all turns there could be would use up the numbers in a few
    searches. ``views``: those of the table that the rules have; its steps are compiled on the way.
    """
    layers = workspace.search
    workspace.label()
    most = few
    layers.begin(rules, own, start, first, most, ring, goal, cheapest, date)
    status = layers.run()
    while -4 < status < 0 or (status == 0 and most < limit and layers.cut_short()):
        if status == 0:
            most = limit
            layers.begin(rules, own, start, first, most, ring, goal, cheapest, date)
        elif supply(workspace, layers, table, views, status) == 0:
            return -1
        status = layers.run()
    return status


def supply(workspace, layers, table, views, status):
    """Give a search what it lacks, see `Layers.run`: 1, or 0 where costs are too wide for codes now."""
    if status == -2:
        workspace.grow()
        return 1
    table.fill_around(layers.wanted)
    return table.views is views
