"""The search by layers: all cells of equal rank are closed at once.

It serves what nearly every query is: costs above zero, no links, leaps or alternating diagonals,
nothing carried over. `_search` closes one cell at a time and serves the rest; where both can, they
leave the same labels.

A label is the number described there, the *key*: turn number times ``stride``, plus the points used
in that turn. Ranks (the key, plus the estimate where there is a goal) index a ring of buckets, each a
list of chunks of cells. One chunk is a step of the loop: first everything its cells lead to is
written down, without a branch; then what was written down is sorted into buckets.

Where a step's cost depends on the cell it leads to alone, the *plain* flood needs neither steps nor
labels. The key offered to a cell never falls as the key of the closing cell rises, so that the first
offer is final; and all cells of a bucket offer the same key to cells of the same cost. All it keeps
of a cell is a byte, its *state*: met or not, its price, who stands there, whether a foe holds it. The
*general* search compares labels. The states it has looked at are kept for its next question, while rules
and board are the same; labels are never cleared, as each search counts above all earlier ones.

Ties are read afterwards: a step is tied where it offers a cell just the key the cell has.

Sources: E. W. Dijkstra, A note on two problems in connexion with graphs, Numer. Math. 1 (1959);
P. E. Hart, N. J. Nilsson, B. Raphael, A formal basis for the heuristic determination of minimum
cost paths, IEEE Trans. SSC 4 (1968); R. B. Dial, Algorithm 360: shortest-path forest with
topological ordering, CACM 12 (1969).
"""

from __future__ import annotations

try:
    import cython
except ImportError:
    from understep.kernels import _shim as cython

from understep.kernels.marks import BLOCKED, CHUNK, HELD, MET, NEVER, PASS, SHIFT, STOP, TOP


class Rules:
    """What movers of one movement bring to a search: turns, costs, who stands where, zones."""

    def __init__(self, points, stride, zoning, extra, cap, feet, foot) -> None:
        self.points, self.stride, self.feet, self.foot = points, stride, feet, foot
        # what it costs more to enter a held cell, and what no step costs more than; 0: no such limit
        self.zoning, self.extra, self.cap = zoning, extra, cap
        # of the states of cells that one may enter, the bit of those where the turn ends
        self.ending = HELD if zoning == 1 else 0

    def lay(self, plain, ground, kinds, closed, blocked_to, unseen, place) -> None:
        """Set what cells cost: by the kind of their ground, a state for each; or by steps.

        ``plain`` 0: by steps; then nothing else is read.
        """
        self.plain, self.ground, self.kinds = plain, ground, kinds
        self.closed_to_all = closed
        self.blocked_to, self.unseen, self.place = blocked_to, unseen, place
        ruled = len(kinds) + len(closed) + len(blocked_to) + len(unseen) > 0
        self.direct = plain and not ruled and not self.zoning

    def weigh(self, weight, common, now) -> None:
        """Set what it costs to enter a cell, by its state; `NEVER`: nothing leads there.

        ``common`` are the states that cells can have; ``now`` is filled here.
        """
        index: cython.int
        cost: cython.int
        self.weight, self.common, self.now = weight, common, now
        if self.plain:
            for index in range(256):  # what is not looked at yet is paid for when it is
                # doubled, as labels have a bit for what is closed below
                cost = self.weight[index] if index else 0
                self.now[index] = 2 * cost

    def compiled(self, codes, twice) -> None:
        """Take codes and twice the costs of a step table, which are read as more is compiled."""
        self.codes, self.twice = codes, twice

    def zoned(self, cost, seen):
        """What a step that costs so much by the table costs, into a cell of some state."""
        if seen & HELD == 0 or cost >= NEVER:
            return cost
        cost += self.extra
        return self.cap if 0 < self.cap < cost else cost

    def among(self, who, means, held, held_own) -> None:
        """Set who stands where, and what they mean: 0 free, 1 may only pass, 2 blocked.

        And how many units hold each cell, and how many of the mover's own side do.
        """
        self.who, self.means, self.held, self.held_own = who, means, held, held_own


class Layers:
    """One search at a time: ``begin``, then ``run`` until it is no longer asking for something."""

    def __init__(self, steps, measure, address, starts, state, first, last, met, offered) -> None:
        self.steps = steps
        self.ways = len(steps)
        self.measure = measure
        self.base, self.wide, self.skewed, self.parity, self.cols, self.across = address
        self.pair = 2 * self.wide - self.skewed
        self.second = self.wide - self.skewed * self.parity
        # a product and a shift find the line; a division would take longer than the rest
        self.per_pair = (1 << 40) // self.pair + 1
        self.starts, self.state, self.first, self.last, self.met = starts, state, first, last, met
        self.offered = offered
        self.flooding, self.goal, self.closed, self.used, self.top = 0, -1, 0, 0, 0
        self.own, self.looker, self.looked_from, self.date = 0, None, 0, 0
        self.start, self.first_look, self.last_look = 0, 1, 0

    def lay_labels(self, label, looks) -> None:
        """Take an array for labels by place, `BLOCKED` for ever in the margin and in holes.

        And one for what is seen of cells.
        """
        self.label, self.looks = label, looks

    def hold(self, order, marks, chunks) -> None:
        """Take arrays, filled as far as the old ones; ``run`` returns -2 when one is full."""
        self.order, self.marks, self.chunks = order, marks, chunks

    def filled(self) -> tuple[int, int, int]:
        """How far each of these arrays is filled."""
        # of a search for goals marks are written at the end
        return self.closed, self.closed if self.goal < 0 else 0, self.used * CHUNK

    def seek(self, targets, slack) -> None:
        """Set several goals around that of ``begin``; empty: only that."""
        self.targets, self.slack = targets, slack

    def begin(self, rules, own, start, first, limit, ring, goal, cheapest, date) -> None:
        """Set the question: ``first`` points in the first turn, keys below a limit.

        ``own``: the cell that the mover stands on. ``goal`` -1 floods. What is seen of cells by some rules holds as long as ``date`` is the same.
        """
        self.rules = rules
        self.plain = self.rules.plain
        self.points = self.rules.points
        self.stride = self.rules.stride
        self.limit = limit
        # by costs alone keys of a single turn grow, so that no division is needed to tell the turn
        alone = self.rules.zoning == 0 or (self.plain and self.rules.ending == 0)
        self.one_turn = limit == self.stride and alone
        self.ring, self.goal = ring, goal
        # without a goal nothing is estimated
        self.cheapest = cheapest if goal >= 0 else 0
        self.goal_spot = -1
        self.several = 0
        if goal >= 0:
            self.goal_spot = self.spot_of(goal)
            self.goal_line = self.line(self.goal_spot)
            self.goal_along = self.goal_spot - self.base - self.goal_line * self.wide
            self.several = len(self.targets) > 0
        # only where costs go by cells is the first way to a cell the best one
        self.flooding = goal < 0 and self.plain
        if self.flooding == 0:
            # a cell can look otherwise to another unit, or after an edit
            if self.looker is not rules or self.looked_from != own or self.date != date:
                self.looker, self.looked_from, self.date = rules, own, date
                self.forget_looks()
            self.open_window()
        self.own = own
        self.set_off(start, first)

    def forget_looks(self):
        """Forget what earlier searches saw of cells."""
        for spot in range(self.first_look, self.last_look + 1):
            self.looks[spot] = 0
        self.looks[self.start] = 0  # it may have set off, and no more
        self.first_look = cython.cast(cython.int, len(self.looks))
        self.last_look = -1

    def open_window(self):
        """Leave the labels of earlier searches behind."""
        # every few thousand searches
        if self.top > TOP - self.limit - 1:
            self.top = 0
            for spot in range(len(self.label)):  # pages that were never written are left alone
                if 0 != self.label[spot] != BLOCKED:
                    self.label[spot] = 0
        # labels of earlier searches lie below those of this one, so that they need not be cleared
        self.top += self.limit + 1

    def set_off(self, start, first):
        """Queue the cell to start from, and nothing else."""
        self.closed = 0
        self.used = 1
        self.spare = 0
        self.best = -1
        self.ends = 0
        self.offered_at = -1
        for index in range(self.ring + 2):  # the last is for what nobody gets into
            self.first[index] = 0
            self.last[index] = 0
        spot = self.spot_of(start)
        self.start = spot
        # the start needs no price: nothing leads back to it at a lower key
        if self.flooding:
            self.state[spot] = MET
        else:
            self.look_there = self.looks[spot]
            self.looks[spot] = MET
            self.label[spot] = 2 * (self.top - self.stride + 1 + first)
        self.floor = self.stride - 1 - first
        if self.cheapest:
            self.floor += self.estimate(self.line(spot), spot)
        self.waiting = 1
        self.put(spot, self.floor & self.ring, self.chunks, self.last)

    def ask(self, rules, own, start, first, limit, ring) -> int:
        """Flood from a cell, see `begin`: how many cells were closed, or less than 0 as for `run`."""
        status: cython.int
        self.begin(rules, own, start, first, limit, ring, -1, 0, 0)
        status = self.run()
        return self.closed if status == 0 else status  # a full array is less than 0

    def many(self, rules, own, starts, at, first, limit, ring, cells, marks, ends) -> int:
        """Flood from one cell after another, see `begin`: how many were done, from one ``at`` on.

        Cells and marks go into one row, where the last ended; it stops where there is no room for more
        of these. -1 less that: it lacks room for one, which `run` goes on with, once there is some.
        """
        index: cython.int
        label: cython.int
        many: cython.int = cython.cast(cython.int, len(starts))
        status: cython.int
        starts_: cython.int[::1] = starts
        cells_: cython.int[::1] = cells
        marks_: cython.longlong[::1] = marks
        ends_: cython.longlong[::1] = ends
        end: cython.longlong
        done: cython.int = at
        points: cython.int = first
        if done < many:
            self.begin(rules, own, starts_[done], first, limit, ring, -1, 0, 0)
        with cython.nogil:
            for index in range(done, many):
                end = ends_[index]
                # `begin` has set off for the first one already
                if self.closed:
                    self.set_off(starts_[index], points)
                status = self.flood()
                if status < 0:
                    done = -1 - index
                    break
                self.finish(status)
                # the last one is found again when there is room: it is one of many
                if end + self.closed > len(cells_):
                    break
                for label in range(self.closed):
                    cells_[end + label] = self.order[label]
                    marks_[end + label] = self.marks[label]
                ends_[index + 1] = end + self.closed
                done = index + 1
        return done

    def stands(self, rules, own, number):
        """Whether a mover could stand on a cell, as far as others, and costs by cells, let it."""
        self.rules, self.own = rules, own
        self.plain = self.rules.plain
        spot = self.spot_of(number)
        if self.state[spot]:  # a hole
            return 0
        seen = self.look(spot, number)
        return seen != 1 and seen & PASS == 0

    def data(self, count):
        """Marks and cells of a flood as bytes, to keep."""
        found: bytearray
        bytes_: cython.p_char
        marks: cython.p_longlong
        cells: cython.p_int
        index: cython.int
        if not cython.compiled:
            return bytearray(self.marks[:count]) + bytearray(self.order[:count])
        found = bytearray(12 * count)
        bytes_ = found
        marks = cython.cast(cython.p_longlong, bytes_)
        cells = cython.cast(cython.p_int, bytes_ + 8 * count)
        for index in range(count):
            marks[index] = self.marks[index]
            cells[index] = self.order[index]
        return found

    def run(self) -> int:
        """Go on: 0 all closed, 1 goal found, -1 wants steps compiled at ``wanted``, -2 wants room."""
        status: cython.int
        self.wanted = -1
        with cython.nogil:
            status = self.flood() if self.flooding else self.search()
            if status >= 0:
                self.finish(status)
        return status

    def tally(self) -> tuple[int, int, int, int]:
        """Labels to be read, those of goals (first), the cell found (or -1), cells expanded."""
        return self.closed, self.ends, self.found, self.expanded

    def cut_short(self) -> int:
        """Whether a step may have been left out for its key alone."""
        return self.floor + self.ring >= self.limit

    def finish(self, status):
        """Put cell, mark and state of every label into place, and leave no state behind."""
        self.expanded = self.closed
        self.found = -1
        if self.flooding:
            self.list_cells()
        else:
            if status == 1:
                self.retrace()
                for index in range(self.closed):
                    self.order[index] = self.number(self.order[index], self.starts)
            elif self.goal >= 0:
                self.list_marks()
            if self.ends:
                self.found = self.order[0]
            # where it is only supposed to stand, it may find others when it looks again
            self.looks[self.start] = cython.cast(cython.uchar, self.look_there)  # see `set_off`

    def list_marks(self):
        """Put cells and marks into place where no goal was found, with states where ties are to come."""
        order = self.order
        marks = self.marks
        label = self.label
        looks = self.looks
        starts = self.starts
        top = self.top
        for index in range(self.closed):
            item = order[index]
            key = top - (label[item] >> 1)
            marks[index] = self.untied(cython.cast(cython.longlong, key), looks[item])
            order[index] = self.number(item, starts)

    def untied(self, key, seen):
        """A mark that holds the state of its cell where the directions it is entered by will be."""
        return (key << SHIFT) | seen | (0 if seen & PASS else STOP)

    def list_cells(self):
        """Put the cells of a plain flood into place, and clear what it met."""
        order = self.order
        state = self.state
        starts = self.starts
        for index in range(self.closed):
            spot = order[index]
            state[spot] = 0
            order[index] = self.number(spot, starts)
        bucket = self.ring + 1
        # cells that nobody gets into were met, too, and never closed
        while self.first[bucket]:
            at = self.first[bucket]
            end = self.end_of_chunk(bucket)
            for index in range(at + 1, end):
                state[self.chunks[index]] = 0
            self.take_chunk(bucket, end)

    def retrace(self):
        """Replace the closed labels by those on tied ways to goals as good as the found one.

        The labels of goals come first.
        """
        last = self.closed
        self.closed = 0
        if self.several == 0:
            last = 0
            self.list_label(self.goal_spot)
        for index in range(last):
            item = self.order[index]
            if self.top - (self.label[item] >> 1) == self.found_key and self.answers(item):
                self.list_label(item)
        self.ends = self.closed
        at = 0
        # the list grows as labels are read
        while at < self.closed:
            self.marks[at] = self.mark_of(self.order[at])
            at += 1

    def list_label(self, item):
        """Put a closed label on the list of those on tied ways, unless it is there.

        The last bit of a label says "closed" up to here, and "not listed yet" from here on.
        """
        if self.label[item] & 1:
            # the bit of closed labels tells which are not on the list yet
            self.label[item] = self.label[item] - 1
            self.order[self.closed] = item
            self.closed += 1

    def mark_of(self, item):
        """The mark of a label: its key, whether the mover may stop there, the ways it is entered by.

        The labels before it are put on the list of those on tied ways.
        """
        key = self.top - (self.label[item] >> 1)
        seen = self.looks[item]
        mark = cython.cast(cython.longlong, key) << SHIFT
        if seen & PASS == 0:
            mark = mark | STOP
        # nothing leads to the start at a lower key
        for way in range(self.ways if item != self.start else 0):
            other = item - self.steps[way]
            # a label counts only where the mover gets in
            if self.looks[other] > MET or other == self.start:
                cost = self.rules.weight[seen] if self.plain else self.step_cost(other, way, seen)
                if self.arrival(self.top - (self.label[other] >> 1), cost, seen) == key:
                    mark = mark | (1 << way)
                    self.list_label(other)
        return mark

    def recall(self, rules, cells, marks, rows) -> None:
        """Put the directions that cells are entered by into a flood's marks, in place of states.

        ``rows``: the codes of the steps from every cell; of a plain flood the states tell the costs.
        """
        index: cython.int
        spot: cython.int
        way: cython.int
        other: cython.int
        source: cython.int
        seen: cython.int
        cost: cython.int
        place: cython.Py_ssize_t
        count: cython.int = cython.cast(cython.int, len(cells))
        cells_: cython.int[::1] = cells
        marks_: cython.longlong[::1] = marks
        rows_: cython.uchar[::1] = rows
        self.rules = rules
        self.points = self.rules.points
        self.stride = self.rules.stride
        with cython.nogil:
            for index in range(count):
                spot = self.spot_of(cells_[index])
                self.order[index] = spot
                self.label[spot] = index + 1
            for index in range(count):
                seen = cython.cast(cython.int, marks_[index] & 255)
                marks_[index] = marks_[index] - seen
                for way in range(self.ways if index else 0):
                    other = self.order[index] - self.steps[way]
                    source = self.label[other] - 1
                    # labels of other cells were never cleared, so that the cell is compared, too
                    if 0 <= source < count and self.order[source] == other:
                        place = cython.cast(cython.Py_ssize_t, source) * self.ways + way
                        if self.rules.plain:
                            cost = self.rules.weight[seen]
                        else:
                            cost = self.rules.zoned(self.rules.twice[rows_[place]] >> 1, seen)
                        source = cython.cast(cython.int, marks_[source] >> SHIFT)
                        if self.arrival(source, cost, seen) == marks_[index] >> SHIFT:
                            marks_[index] = marks_[index] | (1 << way)
            for index in range(count):
                self.label[self.order[index]] = 0

    def arrival(self, key, cost, seen):
        """The key after a step from a cell of a key into a cell of some state, which may end its turn.

        In this turn or the next; `NEVER`: in neither.
        """
        turn = key // self.stride if key >= self.stride else 0
        last = (turn + 1) * self.stride - 1
        if cost <= last - key:
            return last if seen & self.rules.ending else key + cost
        if cost > self.points:
            return NEVER
        last += self.stride
        return last if seen & self.rules.ending else last - self.points + cost

    def spot_of(self, number):
        """The place of a cell among all, in an order of lines with a margin between them.

        Lines are rows, or columns where these are staggered; each is set off by half a cell against
        the one before, so that a step in one direction always adds the same.
        """
        if self.across:
            along = number // self.cols
            return along - self.starts[number - along * self.cols]
        return number - self.starts[number // self.cols]

    def line(self, spot):
        """The line of a place; by a product, several times faster than a division."""
        at = spot - self.base
        # two lines together are always equally long; one of them is shifted
        two = cython.cast(cython.int, at * self.per_pair >> 40)
        return 2 * two + (at - two * self.pair >= self.second)

    def number(self, spot, starts):
        """The number of the cell at a place."""
        line = self.line(spot)
        if self.across:
            return (spot + starts[line]) * self.cols + line
        return spot + starts[line]

    def glance(self, spot, number, direct, ground, place, who):
        """The state of a cell that is met for the first time; at once where ground alone tells."""
        if direct:
            seen = place[ground[number]]
            return self.among_others(spot, number, seen) if who[number] and seen != 1 else seen
        return self.look(spot, number)

    def look(self, spot, number):
        """The same, where more has a say than the ground."""
        # by steps the table tells the cost: any state that is no barrier does
        seen = 3
        if self.plain:
            seen = 1 if self.barred(number) else self.rules.place[self.kind(number)]
        if seen == 1 or (self.rules.who[number] == 0 and self.rules.feet == 1 and self.rules.zoning == 0):
            return seen
        return self.among_others(spot, number, seen)

    def among_others(self, spot, number, seen):
        """The state of a cell, with who stands and holds where the mover would."""
        worst = 0
        shift = self.rules.feet if self.skewed and (self.line(spot) + self.parity) & 1 else 0
        for foot in range(self.rules.feet):
            at = number + self.rules.foot[shift + foot]
            # a part of a large unit would lie off the board
            if at < 0 or at >= len(self.rules.who):
                return MET  # no step leads there
            if self.rules.means[self.rules.who[at]] > worst and not self.covers(at):
                worst = self.rules.means[self.rules.who[at]]
            if self.rules.zoning and self.rules.held[at] > self.rules.held_own[at]:
                seen = seen | HELD
        # a unit of several cells gets in only where none of them is taken by someone else
        if worst == 2 or (worst and seen & self.rules.ending):  # where its turn ends it has to stop
            return MET
        return seen | PASS if worst else seen

    def kind(self, number):
        """The kind of ground."""
        return self.rules.kinds[number] if len(self.rules.kinds) else self.rules.ground[number]

    def barred(self, number):
        """Whether a cell is blocked (over any terrain) or unknown."""
        return (
            (len(self.rules.closed_to_all) and self.rules.closed_to_all[number])
            or (len(self.rules.blocked_to) and self.rules.blocked_to[number])
            or (len(self.rules.unseen) and self.rules.unseen[number])
        )

    def covers(self, number):
        """Whether the mover itself stands on a cell now."""
        line = self.line(self.spot_of(self.own))
        shift = self.rules.feet if self.skewed and (line + self.parity) & 1 else 0
        for foot in range(self.rules.feet):
            if self.own + self.rules.foot[shift + foot] == number:
                return 1
        return 0

    def estimate(self, line, spot):
        """The least that a way to the goal can cost, from a place in a line."""
        least = self.cheapest * self.distance(line, spot)
        return least - self.slack if least > self.slack else 0

    def distance(self, line, spot):
        """Grid distance from a cell to the goal."""
        along = spot - self.base - line * self.wide - self.goal_along
        line = line - self.goal_line
        both = line + along
        line = line if line >= 0 else -line
        along = along if along >= 0 else -along
        # steps add up where there are no diagonals
        if self.measure == 0:
            return line + along
        most = line if line > along else along
        if self.measure == 1:
            return most
        both = both if both >= 0 else -both
        return both if both > most else most

    def answers(self, item):
        """Whether a cell is a goal where the mover may stop."""
        if self.looks[item] & PASS:
            return 0
        if len(self.targets):
            return self.targets[self.number(item, self.starts)] > 0
        return item == self.goal_spot

    def put(self, item, bucket, chunks, last):
        """Put an item into a bucket."""
        at = last[bucket]
        if at & 63 == 0:  # no chunk, or a full one
            at = self.fresh_chunk(bucket, at)
        chunks[at] = item
        last[bucket] = at + 1

    def fresh_chunk(self, bucket, full):
        """Give a bucket another chunk, and say where its first item goes."""
        at = self.spare
        if at:
            self.spare = self.chunks[at]
        else:
            at = self.used * CHUNK
            self.used += 1
        # no chunk after it yet
        self.chunks[at] = 0
        if full:
            self.chunks[full - CHUNK] = at
        else:
            self.first[bucket] = at
        return at + 1

    def next_bucket(self):
        """Go on to the least rank there is; -1 where all is closed that was to be."""
        bucket = self.floor & self.ring
        while self.first[bucket] == 0:
            if self.waiting == 0:
                return -1
            self.floor += 1
            # ranks above the found one cannot belong to a route that is as good
            if self.best >= 0 and self.floor > self.best:
                return -1
            bucket = self.floor & self.ring
        return bucket

    def end_of_chunk(self, bucket):
        """Where the items of a bucket's first chunk end."""
        at = self.first[bucket]
        end = self.last[bucket]
        # the last chunk of a bucket is partly filled, others are full
        return end if at < end <= at + 64 else at + 64

    def take_chunk(self, bucket, end):
        """Take a bucket's first chunk out of it."""
        at = self.first[bucket]
        if end == self.last[bucket]:
            self.first[bucket] = 0
            self.last[bucket] = 0
        else:
            self.first[bucket] = self.chunks[at]
        self.waiting -= end - at - 1

    def put_back(self, bucket, at, end):
        """Make what was a bucket's first chunk its first again."""
        self.first[bucket] = at
        if self.last[bucket] == 0:
            self.last[bucket] = end
        self.waiting += end - at - 1

    def give_back(self, at):
        """Keep an empty chunk for later."""
        self.chunks[at] = self.spare
        self.spare = at

    def flood(self):
        """The plain flood: what is met first has its final key, the same for all of its cost."""
        # looked up once: a store through one of these could change any, as far as C can know
        state = self.state
        steps = self.steps
        chunks = self.chunks
        last = self.last
        met = self.met
        order = self.order
        marks = self.marks
        ground = self.rules.ground
        place = self.rules.place
        who = self.rules.who
        offered = self.offered
        starts = self.starts
        direct = self.rules.direct
        ring = self.ring
        while True:
            bucket = self.next_bucket()
            if bucket < 0:
                return 0
            if self.full():
                return -2
            chunk = self.first[bucket]
            at = chunk + 1
            end = self.end_of_chunk(bucket)
            self.take_chunk(bucket, end)
            key = self.floor
            # all cells of a bucket share their key, so that one table serves them all
            if self.offered_at != key:
                self.offered_at = key
                self.offer_now()
            closed = self.closed - at
            for index in range(at, end):
                spot = chunks[index]
                order[closed + index] = spot
                marks[closed + index] = self.untied(key, state[spot])
            self.closed = closed + end
            if self.ways == 6:  # what is constant is unrolled
                count = self.around(at, end, 6, state, steps, chunks, met)
            elif self.ways == 8:
                count = self.around(at, end, 8, state, steps, chunks, met)
            else:
                count = self.around(at, end, 4, state, steps, chunks, met)
            self.give_back(chunk)
            kept = 0
            for index in range(count):
                spot = met[index]
                number = self.number(spot, starts)
                seen = self.glance(spot, number, direct, ground, place, who)
                state[spot] = cython.cast(cython.uchar, seen)
                bucket = offered[seen]
                self.put(spot, bucket, chunks, last)
                # what nobody gets into waits for nothing
                kept += bucket <= ring
            self.waiting += kept

    def search(self):
        """The general search: of what is offered to a cell it keeps the better."""
        looks = self.looks
        label = self.label
        steps = self.steps
        chunks = self.chunks
        last = self.last
        met = self.met
        order = self.order
        marks = self.marks
        numbers = self.offered  # a plain flood alone needs them for what they are called
        now = self.rules.now
        twice = self.rules.twice
        codes = self.rules.codes
        ground = self.rules.ground
        place = self.rules.place
        who = self.rules.who
        starts = self.starts
        while True:
            bucket = self.next_bucket()
            if bucket < 0:
                return 1 if self.best >= 0 else 0
            if self.full():
                return -2
            chunk = self.first[bucket]
            at = chunk + 1
            end = self.end_of_chunk(bucket)
            self.take_chunk(bucket, end)
            if self.plain and self.one_turn:  # what is constant is left out of the loop
                count = self.offer_all(
                    at, end, 1, 1, looks, label, steps, chunks, met, order, marks, now,
                    codes, twice, numbers, last,
                )
            elif self.plain:
                count = self.offer_all(
                    at, end, 1, 0, looks, label, steps, chunks, met, order, marks, now,
                    codes, twice, numbers, last,
                )
            elif self.one_turn:
                count = self.offer_all(
                    at, end, 0, 1, looks, label, steps, chunks, met, order, marks, now,
                    codes, twice, numbers, last,
                )
            else:
                count = self.offer_all(
                    at, end, 0, 0, looks, label, steps, chunks, met, order, marks, now,
                    codes, twice, numbers, last,
                )
            if self.wanted >= 0:  # nothing was closed: it goes on with the same chunk
                self.put_back(bucket, chunk, end)
                return -1
            self.settle(count, looks, label, chunks, last, met, ground, place, who, starts)
            self.give_back(chunk)

    def full(self):
        """Whether an array might be full after another chunk."""
        many = CHUNK * self.ways
        if self.closed + CHUNK > len(self.order):
            return 1
        # each bucket may need a new chunk, but no more than there are items
        fresh = (many if many < self.ring else self.ring + 1) + self.ways + 1
        return (self.used + fresh + 1) * CHUNK > len(self.chunks)

    def step_cost(self, item, way, seen):
        """What a step from a cell costs by the table, into one of some state."""
        row = cython.cast(cython.Py_ssize_t, self.number(item, self.starts)) * self.ways
        return self.rules.zoned(self.rules.twice[self.rules.codes[row + way]] >> 1, seen)

    def offer_now(self):
        """For every state, the bucket for what cells closed now meet: of this turn, or the next.

        What nobody gets into goes to the bucket after the last.
        """
        # a bucket that is never opened
        self.offered[MET] = self.ring + 1
        for index in range(len(self.rules.common)):
            seen = self.rules.common[index]
            key = self.arrival(self.offered_at, self.rules.weight[seen], seen)
            self.offered[seen] = key & self.ring if key < self.limit else self.ring + 1

    def around(self, at, end, ways, state, steps, chunks, met):
        """Write down what a chunk's cells meet first; no branch, as none could be foretold."""
        count = 0
        for index in range(at, end):
            for way in range(ways):
                spot = chunks[index] + steps[way]
                seen = state[spot]
                met[count] = spot
                count += seen == 0
                state[spot] = cython.cast(cython.uchar, seen | 1)
        return count

    def offer_all(
        self, at, end, plain, one_turn, looks, label, steps, chunks, met, order, marks, now,
        codes, twice, numbers, last,
    ):
        """See `offer`: a constant number of ways is unrolled."""
        if self.ways == 6:
            return self.offer(
                at, end, 6, plain, one_turn, looks, label, steps, chunks, met, order, marks, now,
                codes, twice, numbers, last,
            )
        if self.ways == 8:
            return self.offer(
                at, end, 8, plain, one_turn, looks, label, steps, chunks, met, order, marks, now,
                codes, twice, numbers, last,
            )
        return self.offer(
            at, end, 4, plain, one_turn, looks, label, steps, chunks, met, order, marks, now,
            codes, twice, numbers, last,
        )

    def offer(
        self, at, end, ways, plain, one_turn, looks, label, steps, chunks, met, order, marks, now,
        codes, twice, numbers, last,
    ):
        """Close a chunk's cells, and write down which cells get a better label.

        No branch, as none could be foretold. A cell that is met first is offered what the closing
        one has, where its state must tell the cost. What is out of turns is offered to nobody, so
        that the order of closing does not depend on the labels of earlier searches.
        """
        stride = self.stride
        top = self.top
        closed = self.closed
        several = self.several
        goal = self.goal_spot
        # labels above it are of the first turn, where no division is needed
        second_turn = 2 * (top - stride) + 2
        full = 2 * self.points
        count, after, row = 0, 0, 0
        left = 2 * NEVER
        listing = plain == 0 and self.goal < 0
        heeding = one_turn == 0 and self.rules.zoning > 0
        least = 2 * (top - self.limit)
        live = at
        blank = 0
        for index in range(at, end):  # what is far apart in memory is fetched ahead, all at once
            item = chunks[index]
            chunks[live] = item
            if plain == 0:
                numbers[live - at] = self.number(item, self.starts)
                row = cython.cast(cython.Py_ssize_t, numbers[live - at]) * ways
                blank = blank | ((codes[row] == 0) & (label[item] & 1 == 0))
            live += 1 - (label[item] & 1)  # closed: a better label of this cell came first
        if blank:
            for index in range(live - at):
                if codes[cython.cast(cython.Py_ssize_t, numbers[index]) * ways] == 0:
                    self.wanted = numbers[index]
            return 0
        for index in range(at, live):
            item = chunks[index]
            known = label[item]
            if known & 1:
                continue  # it was there twice
            if plain == 0:
                row = cython.cast(cython.Py_ssize_t, numbers[index - at]) * ways
            label[item] = known | 1
            if listing:
                marks[closed] = self.untied(top - (known >> 1), looks[item])
                order[closed] = numbers[index - at]
            else:
                order[closed] = item
            closed += 1
            if item == goal or several:
                self.check(item)
            if one_turn == 0:
                turn = (top - (known >> 1)) // stride if known < second_turn else 0
                left = known - 2 * (top - (turn + 1) * stride + 1)
                after = 2 * (top - (turn + 2) * stride + 1 + self.points)
            for way in range(ways):
                spot = item + steps[way]
                cost = now[looks[spot]] if plain else twice[codes[row + way]]
                offered = known - cost
                if one_turn == 0 and cost > left:
                    offered = after - cost if cost <= full else 0
                if heeding:
                    offered = self.offer_held(spot, known >> 1, cost >> 1, plain, looks, offered)
                before = label[spot]
                # no branch, as none could be foretold
                better = (offered > before) & (offered > least)
                label[spot] = offered if better else before
                met[count] = spot
                count += better
        self.closed = closed
        return count

    def offer_held(self, spot, known, cost, plain, looks, offered):
        """What a cell is offered where zones count, which it takes a look to tell."""
        seen = looks[spot]
        # no step leads off the board
        if seen == 0 and plain == 0 and cost < NEVER:
            seen = self.note(spot, self.look(spot, self.number(spot, self.starts)), looks)
        # one that is met first pays when its state is known
        if seen & HELD == 0:
            return offered
        cost = cost if plain else self.rules.zoned(cost, seen)
        return 2 * (self.top - self.arrival(self.top - known, cost, seen))

    def settle(self, count, looks, label, chunks, last, met, ground, place, who, starts):
        """Queue the cells that got a better label; look at those that are new."""
        top = self.top
        least = 2 * (top - self.limit)
        guided = self.cheapest
        plain = self.plain
        one_turn = self.one_turn
        direct = self.rules.direct
        kept = 0
        for index in range(count):
            spot = met[index]
            known = label[spot]
            seen = looks[spot]
            if seen == 0:
                number = self.number(spot, starts)
                seen = self.note(spot, self.glance(spot, number, direct, ground, place, who), looks)
                if plain and seen > 1:
                    cost = self.rules.weight[seen]
                    if one_turn:
                        known = known - 2 * cost
                    else:
                        known = 2 * (top - self.arrival(top - (known >> 1), cost, seen))
                    label[spot] = known if known > least else least
            # too far, or it cannot be entered
            if known <= least or seen == 1:
                continue
            rank = top - (known >> 1)
            if guided:
                rank += self.estimate(self.line(spot), spot)
            self.put(spot, rank & self.ring, chunks, last)
            kept += 1
        self.waiting += kept

    def note(self, spot, seen, looks):
        """Keep the state of a cell that was looked at."""
        looks[spot] = cython.cast(cython.uchar, seen)
        # what was looked at is cleared from the first to the last
        if spot < self.first_look:
            self.first_look = spot
        if spot > self.last_look:
            self.last_look = spot
        return seen

    def check(self, item):
        """See whether a cell that was closed is the first goal."""
        # the first goal has the least rank; others of the same rank are closed with it
        if self.best < 0 and self.goal >= 0 and self.answers(item):
            self.best = self.floor
            self.found_key = self.top - (self.label[item] >> 1)
