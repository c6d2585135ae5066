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

In several turns a mover can come again to a cell that it may only pass, with more points left. In a flood
such cells have a label for each turn: they stay as if they were not met, and wait as negative places. A
search for goals is not asked where there may be any.

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

from understep.kernels.marks import (
    BLOCKED,
    CHUNK,
    CROSSED,
    HELD,
    MET,
    NEVER,
    PASS,
    SHIFT,
    STOP,
    TOP,
)


class Layers:
    """One search at a time: ``begin``, then ``run`` until it is no longer asking for something."""

    def __init__(
        self, steps, measure, address, starts, state, first, last, met, offered, crossed
    ) -> None:
        self.steps = steps
        self.ways = len(steps)
        self.measure = measure
        self.base, self.wide, self.skewed, self.parity, self.cols, self.across = address
        self.pair = 2 * self.wide - self.skewed
        self.second = self.wide - self.skewed * self.parity
        # a product and a shift find the line; a division would take longer than the rest
        self.per_pair = (1 << 40) // self.pair + 1
        self.starts, self.state, self.first, self.last, self.met = starts, state, first, last, met
        self.offered, self.crossed, self.crossings = offered, crossed, 0
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
        # where it may only pass, what comes in a later turn counts, too
        self.passing = limit > self.stride
        self.ring, self.goal = ring, goal
        # without a goal nothing is estimated
        self.cheapest = cheapest if goal >= 0 else 0
        self.goal_spot, self.several = -1, 0
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
        self.closed, self.used, self.spare, self.passers = 0, 1, 0, 0
        self.best, self.ends, self.lost, self.offered_at = -1, 0, 0, -1
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

    def stands(self, rules, own, number):
        """Whether a mover could stand on a cell, as far as others, and costs by cells, let it."""
        self.rules, self.own = rules, own
        self.plain = self.rules.plain
        spot = self.spot_of(number)
        if self.state[spot]:  # a hole
            return 0
        seen = self.look(spot, number)
        return seen != 1 and seen & PASS == 0

    def run(self) -> int:
        """Go on: 0 all closed, 1 goal found, -1 wants steps compiled at ``wanted``, -2 wants room.

        -4: it does not serve, as there are too many cells that may only be passed.
        """
        status: cython.int
        self.wanted = -1
        with cython.nogil:
            status = self.close_all()
            if status >= 0:
                self.finish(status)
        return status

    def close_all(self):
        """Flood, or search for goals: see `run`."""
        if self.flooding:
            return self.flood(self.rules.ground, self.rules.place, self.rules.who)
        return self.search()

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
        for index in range(self.crossings):
            self.crossed[self.crossed[2 * CROSSED + index]] = 0
        self.crossings = 0
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

    def flood(self, ground, place, who):
        """The plain flood: what is met first has its final key, the same for all of its cost.

        It takes what searches in other threads read, too: each time such an array is looked up a
        count changes, which threads wait for.
        """
        # looked up once: a store through one of these could change any, as far as C can know
        state = self.state
        steps = self.steps
        chunks = self.chunks
        last = self.last
        met = self.met
        order = self.order
        marks = self.marks
        offered = self.offered
        starts = self.starts
        direct = self.rules.direct
        ring = self.ring
        passing = self.passing
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
            if self.passers:
                end = self.pass_on(at, end)
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
                if passing and seen & PASS:
                    state[spot] = 0  # others may come to it later
                    kept += self.meet_passing(spot, self.rules.weight[seen])
                    continue
                state[spot] = cython.cast(cython.uchar, seen)
                bucket = offered[seen]
                self.put(spot, bucket, chunks, last)
                # what nobody gets into waits for nothing
                kept += bucket <= ring
            self.waiting += kept
            if self.lost:
                return -4

    def meet_passing(self, spot, cost):
        """Queue a cell that may only be passed, for this turn and the next: how often."""
        left = self.points_left()
        kept = self.queue_passing(spot, self.floor + cost) if cost <= left else 0
        if cost <= self.points:  # it can wait for all its points
            kept += self.queue_passing(spot, self.floor + left + self.stride - self.points + cost)
        return kept

    def points_left(self):
        """The points left in the turn in which a flood's chunk is closed."""
        return self.stride - 1 - self.floor % self.stride

    def queue_passing(self, spot, key):
        """Queue one, unless it was closed with as many points left: how often."""
        at = self.crossing(spot)
        if key >= self.limit or key % self.stride >= self.crossed[at + 1] or self.lost:
            return 0
        self.passers += 1
        self.put(-spot, key & self.ring, self.chunks, self.last)
        return 1

    def crossing(self, spot):
        """Where the table of such cells has the place of one; then the least used when it was closed."""
        at = 2 * (spot % CROSSED)
        while self.crossed[at] and self.crossed[at] != spot:
            at = at + 2 if at + 2 < 2 * CROSSED else 0
        if self.crossed[at] == 0:
            self.crossed[at], self.crossed[at + 1] = spot, self.stride
            self.crossed[2 * CROSSED + self.crossings] = at
            self.crossings += 1
            # too full to find anything in little time
            self.lost = self.crossings > CROSSED // 2
        return at

    def pass_on(self, at, end):
        """Close a chunk's cells that may only be passed, from which it goes on in this turn.

        They are taken out of the chunk; where it ends then.
        """
        live = at
        for index in range(at, end):
            spot = -self.chunks[index]
            if spot < 0:
                self.chunks[live] = -spot
                live += 1
                continue
            self.passers -= 1
            entry = self.crossing(spot) + 1
            used = self.floor % self.stride
            if used >= self.crossed[entry]:  # it was closed sooner, with as many points left
                continue
            self.crossed[entry] = used
            seen = self.seen_of(spot)
            # a plain flood lists places, of which it makes numbers in the end
            self.order[self.closed] = spot if self.plain else self.number(spot, self.starts)
            self.marks[self.closed] = self.untied(self.floor, seen)
            self.closed += 1
            for way in range(self.ways):
                self.pass_to(spot, way)
        return live

    def pass_to(self, spot, way):
        """Offer a step from a cell that may only be passed, if it can be taken in this turn."""
        other = spot + self.steps[way]
        if self.state[other]:  # no cell; in a plain flood also one that was met
            return
        seen = self.seen_of(other)
        if seen == MET:
            return
        cost = self.rules.weight[seen] if self.plain else self.step_cost(spot, way, seen)
        left = self.points_left()
        if cost > left:
            return
        key = self.floor + (left if seen & self.rules.ending else cost)
        if seen & PASS:
            self.waiting += self.queue_passing(other, key)
            return
        if self.plain:
            self.state[other] = cython.cast(cython.uchar, seen)
        elif 2 * (self.top - key) <= self.label[other]:
            return
        else:
            self.label[other] = 2 * (self.top - key)
        self.put(other, key & self.ring, self.chunks, self.last)
        self.waiting += 1

    def seen_of(self, spot):
        """The state of a cell, looked at if need be."""
        if self.plain:
            return self.look(spot, self.number(spot, self.starts))
        seen = self.looks[spot]
        return seen if seen else self.note(spot, self.look(spot, self.number(spot, self.starts)), self.looks)

    def lacking(self, at, end):
        """One of a chunk's cells that are to be closed whose steps are not compiled yet; or -1."""
        for index in range(at, end):
            spot = self.chunks[index]
            if spot < 0 or self.label[spot] & 1 == 0:
                number = self.number(spot if spot > 0 else -spot, self.starts)
                if self.rules.codes[cython.cast(cython.Py_ssize_t, number) * self.ways] == 0:
                    return number
        return -1

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
            stop = end
            if self.passers:
                self.wanted = self.lacking(at, end)
                if self.wanted < 0:
                    stop = self.pass_on(at, end)
            if self.wanted >= 0:
                count = 0
            elif self.plain and self.one_turn:  # what is constant is left out of the loop
                count = self.offer_all(
                    at, stop, 1, 1, looks, label, steps, chunks, met, order, marks, now,
                    codes, twice, numbers, last,
                )
            elif self.plain:
                count = self.offer_all(
                    at, stop, 1, 0, looks, label, steps, chunks, met, order, marks, now,
                    codes, twice, numbers, last,
                )
            elif self.one_turn:
                count = self.offer_all(
                    at, stop, 0, 1, looks, label, steps, chunks, met, order, marks, now,
                    codes, twice, numbers, last,
                )
            else:
                count = self.offer_all(
                    at, stop, 0, 0, looks, label, steps, chunks, met, order, marks, now,
                    codes, twice, numbers, last,
                )
            if self.wanted >= 0:  # nothing was closed: it goes on with the same chunk
                self.put_back(bucket, chunk, end)
                return -1
            self.settle(count, looks, label, chunks, last, met, ground, place, who, starts)
            self.give_back(chunk)
            if self.lost:
                return -4

    def full(self):
        """Whether an array might be full after another chunk."""
        many = CHUNK * self.ways * (1 + self.passing)
        if self.closed + CHUNK > len(self.order):
            return 1
        # each bucket may need a new chunk, but no more than there are items
        fresh = (many if many < self.ring else self.ring + 1) + self.ways + 1
        return (self.used + fresh + 1) * CHUNK > len(self.chunks)

    def step_cost(self, item, way, seen):
        """What a step from a cell costs by the table, into one of some state."""
        row = cython.cast(cython.Py_ssize_t, self.number(item, self.starts)) * self.ways
        return self.zoned(self.rules.twice[self.rules.codes[row + way]] >> 1, seen)

    def zoned(self, cost, seen):
        """What a step that costs so much by the table costs, into a cell of some state."""
        if seen & HELD == 0 or cost >= NEVER:
            return cost
        cost += self.rules.extra
        return self.rules.cap if 0 < self.rules.cap < cost else cost

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
            seen = self.seen_of(spot)
        # one that is met first pays when its state is known
        if seen & HELD == 0:
            return offered
        cost = cost if plain else self.zoned(cost, seen)
        return 2 * (self.top - self.arrival(self.top - known, cost, seen))

    def settle(self, count, looks, label, chunks, last, met, ground, place, who, starts):
        """Queue the cells that got a better label; look at those that are new."""
        top = self.top
        least = 2 * (top - self.limit)
        guided = self.cheapest
        plain = self.plain
        one_turn = self.one_turn
        direct = self.rules.direct
        passing = self.passing
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
            if passing and seen & PASS:
                # what it has cost tells the step, as a flood's chunk has one key
                cost = top - (known >> 1) - self.floor
                left = self.points_left()
                cost -= 0 if cost <= left else left + self.stride - self.points
                label[spot] = 0  # others may come to it later
                kept += self.meet_passing(spot, cost)
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
