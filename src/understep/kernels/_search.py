"""The search kernel: one loop that closes the nearest cell first, and the two queues it uses.

It knows nothing about a game. It reads a step table (a code per cell and direction), a cost per
code, and a byte per cell that says who stands there; it writes marks. Everything it is handed is
typed, contiguous and checked; everything it allocates is handed to it.

The order of labels is a single whole number, the *key*: turn number times ``stride``, plus the
points used in that turn, so that fewer turns come first and then fewer points. Every turn ends at
the same remainder of the stride; a turn with fewer points starts later in it.

Where the mover may stop, one label a cell is enough, and ``mark`` holds it: the key above, a bit
for "closed", and a bit for every direction from which the cell is entered at that key (so the tied
routes are all in there, and the choice among them is made afterwards). Every search takes a window
of numbers below those of all earlier ones (``epoch``), so that all that an earlier search left in
``mark`` reads as infinity: nothing is ever cleared, and one comparison says "not met yet", "dearer
than this" and "no step" at once. Where it may only pass, labels of later turns with more points
left are kept too, in a chain whose newest label stands in ``mark`` above all keys of the window.
Where diagonal steps alternate, the places before a dear one are numbered after all cells, as a second
layer; their labels are kept in chains as well, and a wait leads from there to the first layer.

Sources: E. W. Dijkstra, A note on two problems in connexion with graphs, Numer. Math. 1 (1959);
P. E. Hart, N. J. Nilsson, B. Raphael, A formal basis for the heuristic determination of minimum
cost paths, IEEE Trans. SSC 4 (1968); R. B. Dial, Algorithm 360: shortest-path forest with
topological ordering, CACM 12 (1969), for the ring of buckets; J. W. J. Williams, Algorithm 232:
heapsort, CACM 7 (1964), for the heap; I. Pohl, Heuristic search viewed as path finding in a graph,
Artificial Intelligence 1 (1970), for the weight.
"""

from __future__ import annotations

try:
    import cython
except ImportError:
    from understep.kernels import _shim as cython

from understep.kernels.marks import CHAINS, EXPANDED, LINKED, LOW, SHIFT, STOP, WAITED

COMPILED = cython.compiled
NEVER_MISSED = 1 << 60
PLAIN = 16  # the weight of an estimate that counts as it is


class Search:
    """One search at a time: ``begin``, then ``run`` until it is no longer asking for something."""

    def __init__(
        self, shifts, deltas, pad, cols, staggered, parity, layer, measure, mark, first, last, lowest,
    ) -> None:
        self.shifts = shifts
        self.directions = len(shifts) // 2
        self.deltas, self.pad, self.cols = deltas, pad, cols
        # a product is several times faster than a division, see `row`
        self.per_col = 1.0 / cols
        self.staggered, self.parity, self.layer, self.measure = staggered, parity, layer, measure
        self.mark, self.lowest, self.first, self.last = mark, lowest, first, last
        self.epoch = 0
        self.flips = 170 if layer else 0  # diagonal steps lead to the other layer
        for way in range(self.directions):
            if layer == 0 and staggered and deltas[2 * way + (1 if staggered == 1 else 0)] & 1:
                self.flips |= 1 << way

    def hold(
        self, order, marks, chunks, heap_rank, heap_age, heap_item, pass_cell, pass_key, pass_back,
        pass_hops, pass_mate, pass_via, far_from, far_next, vias,
    ) -> None:
        """Take arrays, filled as far as the old ones; ``run`` returns -2 when one is full."""
        self.order, self.marks, self.chunks, self.heap_rank = order, marks, chunks, heap_rank
        self.heap_age, self.heap_item, self.pass_cell = heap_age, heap_item, pass_cell
        self.pass_key, self.pass_back, self.pass_hops = pass_key, pass_back, pass_hops
        self.pass_mate, self.pass_via, self.far_from = pass_mate, pass_via, far_from
        self.far_next, self.vias = far_next, vias

    def compiled(self, codes, wide, costs) -> None:
        """Take the arrays of a step table, of which more is compiled now."""
        self.codes, self.wide, self.costs = codes, wide, costs

    def among(self, who, means) -> None:
        """Set who stands where, and what they mean."""
        self.who, self.means = who, means

    def count(self, hops) -> None:
        """Set where zero-cost steps are counted; empty where there can be none."""
        self.hops = hops

    def shape(self, feet, foot) -> None:
        """Set the cells that the mover takes up."""
        self.feet, self.foot = feet, foot

    def heed(self, zoning, zone_extra, held, held_own, capped) -> None:
        """Set zones of control, and whether costs are capped."""
        self.capped, self.zoning, self.zone_extra, self.held = capped, zoning, zone_extra, held
        self.held_own = held_own

    def seek(self, targets, slack) -> None:
        """Set several goals around that of ``begin``; empty: only that."""
        self.targets, self.slack = targets, slack

    def join(self, link_most, link_at, link_next, link_to, link_cost, via) -> None:
        """Set the links, and how many leave a cell at most."""
        self.link_most, self.link_at, self.link_next = link_most, link_at, link_next
        self.link_to, self.link_cost, self.via = link_to, link_cost, via

    def leap(self, leaps, leap_cost, leap_length) -> None:
        """Set the leaps; empty: none."""
        self.leaps, self.leap_cost, self.leap_length = leaps, leap_cost, leap_length

    def lead(self, mouths, cells, rest, mouth_col, mouth_row) -> None:
        """Set the mouths of links; the last two are filled here."""
        index: cython.int
        self.mouths, self.mouth_col, self.mouth_row = mouths, mouth_col, mouth_row
        self.mouth_rest = rest
        for index in range(mouths):
            mouth_row[index] = cells[index] // self.cols
            mouth_col[index] = cells[index] % self.cols
            if self.staggered == 1:
                mouth_col[index] = 2 * mouth_col[index] + ((mouth_row[index] + self.parity) & 1)
            elif self.staggered == 2:
                mouth_row[index] = 2 * mouth_row[index] + ((mouth_col[index] + self.parity) & 1)

    def begin(
        self, own, start, goal, cheapest, stride, first,
        points, carry, offers, turns, span, ring, weight, most,
    ) -> None:
        """Set the question. ``goal`` -1 floods; ``first`` is the points of the first turn.

        ``most``: after so many cells it pauses; 0: never.
        """
        index: cython.int
        cols: cython.int = self.cols
        self.own, self.goal = own, goal
        self.cheapest = cheapest if goal >= 0 else 0
        self.stride, self.points, self.carry, self.offers = stride, points, carry, offers
        self.limit = turns * stride
        self.span = span
        # marks of this search lie below those of all earlier ones, which need not be cleared
        self.epoch -= span + CHAINS
        self.ring, self.weight, self.most = ring, weight, most
        self.missed = NEVER_MISSED
        self.closed, self.expanded, self.ends, self.passes = 0, 0, 0, 0
        self.fars, self.used, self.spare, self.age, self.waiting = 1, 1, 0, 0, 0
        # cells and keys are 0 or more
        self.found, self.best, self.wanted = -1, -1, -1
        for index in range(ring + 1):
            self.first[index], self.last[index] = 0, 0
        if goal >= 0:
            self.goal_row = goal // cols
            self.goal_col = goal - self.goal_row * cols
            if self.staggered == 1:
                self.goal_col = 2 * self.goal_col + ((self.goal_row + self.parity) & 1)
            elif self.staggered == 2:
                self.goal_row = 2 * self.goal_row + ((self.goal_col + self.parity) & 1)
        self.floor = stride - 1 - first + self.estimate(start)
        self.mark[start + self.pad] = (self.epoch + stride - 1 - first) << SHIFT
        # counted only where steps can cost nothing, and linked only where there are links
        if len(self.hops):
            self.hops[start] = 0
        if len(self.via):
            self.via[start] = 0
        # an item holds the kind of its line, too: one look less when it is closed
        self.push(2 * start + self.line(start), self.floor)

    def run(self) -> int:
        """Go on: 0 all closed, 1 goal found, -1 wants steps compiled at ``wants()``, -2 room, -3 paused."""
        status: cython.int
        with cython.nogil:
            status = self.close_all()
            if status >= 0:
                self.expanded = self.closed
                if self.weight != PLAIN:
                    self.bound = self.lowest_key()
            if status == 1:
                self.retrace()
            elif status >= 0:
                self.complete()
        return status

    def pause(self, cells: int) -> None:
        """Pause again after so many cells more."""
        self.most = self.closed + cells

    def offered(self, place: int) -> int:
        """The key that a cell was offered at (after a search that paused at the start), or -1."""
        known: cython.longlong = (self.mark[place + self.pad] >> SHIFT) - self.epoch
        if known < self.span:
            return known
        known -= self.span
        return self.pass_key[known] if known < CHAINS else -1

    def wants(self) -> int:
        """The cell whose steps are not compiled yet (after -1); they are in both layers at once."""
        return self.place(self.wanted)

    def tally(self) -> tuple[int, int, int, int, int]:
        """Labels to be read, those of goals (first), the cell found (or -1), cells expanded, vias."""
        return self.closed, self.ends, self.found_cell(), self.expanded, self.fars

    def rewind(self) -> None:
        """Start the windows anew; ``mark`` has been cleared."""
        self.epoch = 0

    def window(self) -> int:
        """The start of the numbers this search uses."""
        return self.epoch

    def complete(self):
        """Put cell and mark of every closed label into place; a flood did most of it as it went."""
        # then all of it was written on the way
        if self.goal < 0 and self.passes == 0 and len(self.via) == 0:
            return
        for index in range(self.closed):
            item = self.order[index]
            if item >= 0:
                if self.goal >= 0:
                    item = item >> 1
                    self.order[index] = item
                    self.marks[index] = self.mark[item + self.pad]
                if len(self.via):
                    self.vias[index] = self.via[item]
            else:
                if len(self.via):
                    self.vias[index] = self.pass_via[-1 - item]
                self.order[index] = self.pass_cell[-1 - item]
                self.marks[index] = self.pass_mark(-1 - item)

    def retrace(self):
        """Replace the closed labels by those on tied ways to goals as good as the found one.

        The labels of goals come first. A search that stopped at its goal knows of one only.

        With a goal, ties turn up after a cell was closed; here they are all known. The bit for
        "closed", and that bit in a pass label's directions, now say "not listed yet" and "listed".
        """
        at = 0
        last = self.closed
        self.closed = 0
        for index in range(last):
            item = self.order[index]
            if self.goal_label(item):
                self.list_label(item)
        # those of goals come first
        self.ends = self.closed
        while at < self.closed:
            known = self.marks[at]
            for direction in range(self.directions + 2):
                turn = ((known >> SHIFT) - self.epoch) // self.stride
                if direction < self.directions:
                    if not (known >> direction) & 1:
                        continue
                    cell = self.before(self.order[at], direction)
                elif direction == self.directions:
                    entry = self.vias[at] if known & LINKED else 0
                    while entry:
                        self.list_before(self.far_from[entry], turn)
                        entry = self.far_next[entry]
                    continue
                else:
                    if not known & WAITED:
                        continue
                    # a wait leads from the layer of dear diagonals to the other
                    cell = self.order[at] + self.layer
                    turn -= 1
                self.list_before(cell, turn)
            at += 1

    def goal_label(self, item):
        """Whether a closed label is that of a goal, as good as the one found."""
        if item >= 0:
            cell = item >> 1
            key = (self.mark[cell + self.pad] >> SHIFT) - self.epoch
        else:
            cell = self.pass_cell[-1 - item]
            key = self.pass_key[-1 - item]
            if not (self.layer and cell >= self.layer and self.meaning(cell, 1) == 0):
                return 0
        return key == self.found_key and self.answers(cell)

    def list_before(self, cell, turn):
        """Put the label of a cell on the list from which a step of a turn led on."""
        where = (self.mark[cell + self.pad] >> SHIFT) - self.epoch - self.span
        if where < 0:  # one label, even on an occupied cell: it may be the start
            self.list_label(2 * cell)
            where = (where + self.span) // self.stride
            if self.layer == 0 or where == turn or self.meaning(cell, 0):
                return
            turn = where  # it waited there: perhaps in the layer of dear diagonals
            cell += self.layer
            where = (self.mark[cell + self.pad] >> SHIFT) - self.epoch - self.span
        label = cython.cast(cython.int, where) if where < CHAINS else -1
        while label >= 0:
            if self.pass_hops[label] >= 0 and self.pass_key[label] // self.stride == turn:
                self.list_label(-1 - label)
                return
            label = self.pass_mate[label]

    def pass_mark(self, label):
        """The mark of a label in a chain; in the layer of dear diagonals it may stop, too."""
        mark = (self.epoch + self.pass_key[label]) << SHIFT
        mark = mark | (self.pass_back[label] & ~STOP & LOW)
        if self.layer and self.pass_cell[label] >= self.layer:
            if self.meaning(self.pass_cell[label], 1) == 0:
                mark = mark | STOP
        return mark

    def list_label(self, item):
        """Put a label on the list of those on tied ways, unless it is there."""
        if item >= 0:
            cell = item >> 1
            if self.mark[cell + self.pad] & STOP:
                self.order[self.closed] = cell
                self.marks[self.closed] = self.mark[cell + self.pad]
                if len(self.via):
                    self.vias[self.closed] = self.via[cell]
                self.mark[cell + self.pad] = self.mark[cell + self.pad] & ~STOP
                self.closed += 1
        elif not self.pass_back[-1 - item] & STOP:
            self.order[self.closed] = self.pass_cell[-1 - item]
            self.marks[self.closed] = self.pass_mark(-1 - item)
            if len(self.via):
                self.vias[self.closed] = self.pass_via[-1 - item]
            self.pass_back[-1 - item] = self.pass_back[-1 - item] | STOP
            self.closed += 1

    def place(self, cell):
        """The number of a cell of either layer."""
        return cell - self.layer if self.layer and cell >= self.layer else cell

    def before(self, cell, direction):
        """The cell from which a step in a direction leads to a cell."""
        back = (direction + self.directions // 2) % self.directions
        return cell + self.shifts[self.line(cell) * self.directions + back] - self.pad

    def line(self, cell):
        """1 in a shifted row or column, else 0."""
        if self.staggered == 1:
            return (self.row(cell) + self.parity) & 1
        if self.staggered == 2:
            return (cell - self.row(cell) * self.cols + self.parity) & 1
        if self.layer and cell >= self.layer:
            return 1
        return 0

    def row(self, cell):
        """``cell // cols``; exact, and several times faster than a division."""
        return int((cell + 0.5) * self.per_col)

    def meaning(self, cell, line):
        """0 where the mover may stop, 1 where it may only pass, 2 where it is blocked."""
        cell = self.place(cell)
        if self.feet == 1:
            worst = self.means[self.who[cell]]
            return 0 if worst and cell == self.own else worst
        # of all cells that the mover takes up the worst counts
        worst = 0
        for foot in range(self.feet):
            at = cell + self.foot[line * self.feet + foot]
            if self.means[self.who[at]] > worst and not self.covers(at):
                worst = self.means[self.who[at]]
        return worst

    def in_zone(self, cell, line):
        """Whether a foe holds any cell that the mover would take up."""
        cell = self.place(cell)
        for foot in range(self.feet):
            at = cell + self.foot[line * self.feet + foot]
            # its own side holds cells, too, and nobody is stopped by that
            if self.held[at] > self.held_own[at]:
                return 1
        return 0

    def covers(self, cell):
        """Whether the mover itself stands on a cell now."""
        # its cells have other offsets in a shifted line
        shift = self.line(self.own) * self.feet
        for foot in range(self.feet):
            if self.own + self.foot[shift + foot] == cell:
                return 1
        return 0

    def distance_from(self, row, col, to_row, to_col):
        """Grid distance to a place whose staggered axis is counted in halves."""
        if self.staggered == 1:
            col = 2 * col + ((row + self.parity) & 1)
        elif self.staggered == 2:
            row = 2 * row + ((col + self.parity) & 1)
        elif self.layer and row * self.cols >= self.layer:
            row -= self.layer // self.cols
        col = abs(col - to_col)
        row = abs(row - to_row)
        if self.staggered == 1:
            return row + ((col - row if col > row else 0) >> 1)
        if self.staggered == 2:
            return col + ((row - col if row > col else 0) >> 1)
        if self.measure == 0:
            return col + row
        return col if col > row else row

    def estimate_from(self, row, col):
        """The least that a way to the goal can cost: over the grid, or by the mouth of a link."""
        least = self.cheapest * self.distance_from(row, col, self.goal_row, self.goal_col)
        for mouth in range(self.mouths):
            rest = self.mouth_rest[mouth]
            if rest < least:
                rest += self.cheapest * self.distance_from(
                    row, col, self.mouth_row[mouth], self.mouth_col[mouth]
                )
                least = rest if rest < least else least
        # other goals may be nearer than the one in the middle by so much
        least = least - self.slack if least > self.slack else 0
        return least if self.weight == PLAIN else least * self.weight >> 4

    def estimate(self, cell):
        """The same from a cell."""
        if self.cheapest == 0:
            return 0
        row = self.row(cell)
        return self.estimate_from(row, cell - row * self.cols)

    def push(self, item, rank):
        """Queue an item; oldest first among equal ranks."""
        self.waiting += 1
        if self.ring == 0:
            self.push_heap(item, rank)
            return
        bucket = cython.cast(cython.int, rank & self.ring)
        at = self.last[bucket]
        if at & 15 == 0:  # no chunk, or a full one
            at = self.fresh_chunk(bucket, at)
        self.chunks[at] = item
        self.last[bucket] = at + 1

    def fresh_chunk(self, bucket, full):
        """Give a bucket another chunk, and say where its first item goes."""
        # used chunks are kept in a list, so that memory grows with the queue and not with the search
        at = self.spare
        if at:
            self.spare = self.chunks[at]
        else:
            at = self.used * 16
            self.used += 1
        if full:
            self.chunks[full - 16] = at
        else:
            self.first[bucket] = at + 1
        return at + 1

    def pop(self):
        """Take the item of least rank, which becomes the floor."""
        self.waiting -= 1
        if self.ring == 0:
            return self.pop_heap()
        # the floor never falls: costs are not negative, and the estimate is consistent
        bucket = cython.cast(cython.int, self.floor & self.ring)
        while self.first[bucket] == self.last[bucket]:
            self.floor += 1
            bucket = cython.cast(cython.int, self.floor & self.ring)
        at = self.first[bucket]
        item = self.chunks[at]
        at += 1
        if at == self.last[bucket]:  # the bucket is empty: give back its chunk
            at = (at - 1) & ~15
            self.first[bucket], self.last[bucket] = 0, 0
            self.chunks[at] = self.spare
            self.spare = at
        elif at & 15 == 0:
            self.first[bucket] = self.chunks[at - 16] + 1
            self.chunks[at - 16] = self.spare
            self.spare = at - 16
        else:
            self.first[bucket] = at
        return item

    def push_heap(self, item, rank):
        """Sift a new item up."""
        at = self.waiting - 1
        while at > 0:
            above = (at - 1) >> 1
            # equal ranks keep their order, as in the ring: it decides which route is first
            if self.heap_rank[above] <= rank:  # the one above is older
                break
            self.lay(at, self.heap_rank[above], self.heap_age[above], self.heap_item[above])
            at = above
        self.lay(at, rank, self.age, item)
        self.age += 1

    def lay(self, at, rank, age, item):
        """Put an item at a place of the heap."""
        self.heap_rank[at], self.heap_age[at], self.heap_item[at] = rank, age, item

    def pop_heap(self):
        """Take the top, and sift the last item down from there."""
        size = self.waiting
        item = self.heap_item[0]
        rank = self.heap_rank[size]
        age = self.heap_age[size]
        at = 0
        below = 1
        self.floor = self.heap_rank[0]
        while below < size:
            if below + 1 < size and (
                self.heap_rank[below + 1] < self.heap_rank[below]
                or (
                    self.heap_rank[below + 1] == self.heap_rank[below]
                    and self.heap_age[below + 1] < self.heap_age[below]
                )
            ):
                below += 1
            if rank < self.heap_rank[below] or (
                rank == self.heap_rank[below] and age < self.heap_age[below]
            ):
                break
            self.lay(at, self.heap_rank[below], self.heap_age[below], self.heap_item[below])
            at = below
            below = 2 * at + 1
        self.lay(at, rank, age, self.heap_item[size])
        return item

    def offer_pass(self, cell, key, bit, hops, source):
        """A way to a cell it may only cross: a later turn with more points left is kept too."""
        label = -1
        known = (self.mark[cell + self.pad] >> SHIFT) - self.epoch - self.span
        spent = key % self.stride
        if key >= self.limit or known < 0:  # it starts there, and can wait there
            return
        if known < CHAINS:
            label = cython.cast(cython.int, known)
        while label >= 0:
            if self.pass_hops[label] >= 0:
                if self.pass_key[label] == key:
                    if hops == self.pass_hops[label]:
                        self.pass_via[label] = self.via_after(self.pass_via[label], source)
                        self.pass_back[label] = self.pass_back[label] | bit
                    elif hops < self.pass_hops[label]:
                        self.pass_hops[label] = hops
                        self.pass_back[label] = bit
                        self.pass_via[label] = self.via_after(0, source)
                    return
                other = self.pass_key[label] % self.stride
                # an earlier turn with at least as many points left is better for every step to come
                if self.pass_key[label] < key and other <= spent:
                    return
                if self.pass_key[label] > key and other >= spent:
                    if self.pass_back[label] & EXPANDED:
                        self.miss(cell, key)
                        return
                    # it stays in the chain, so that places of labels hold, and is skipped from here on
                    self.pass_hops[label] = -1
            label = self.pass_mate[label]
        label = self.passes
        self.passes = label + 1
        self.pass_cell[label] = cell
        self.pass_key[label] = key
        self.pass_back[label] = bit
        self.pass_via[label] = self.via_after(0, source)
        self.pass_hops[label] = hops
        self.pass_mate[label] = cython.cast(cython.int, known) if known < CHAINS else -1
        self.mark[cell + self.pad] = (self.epoch + self.span + label) << SHIFT
        self.push(-1 - label, key + self.estimate(cell))

    def saved_up(self, cost, left, turn, ends):
        """The key after a step that is paid in the first later turn which has the points, or -1."""
        rest = self.points + min(left, self.carry)
        turn += 1
        while rest < cost:
            more = self.points + min(rest, self.carry)
            if more <= rest:
                return -1
            rest = more
            turn += 1
        cost = (turn + 1) * self.stride - 1 - (0 if ends else rest - cost)
        return cost if cost < self.limit else -1

    def offer_later(self, cell, cost, left, turn, key, bit, source):
        """After a way to a cell it may only cross: the same in later turns, with more points left."""
        rest = left
        while True:
            more = self.points + min(rest, self.carry)
            turn += 1
            if rest > left and more <= rest:
                return
            rest = more
            more = (turn + 1) * self.stride - 1 - rest + cost
            if cost <= rest and more > key:
                self.offer_pass(cell, more, bit, 0, source)
            if self.carry == 0 or more >= self.limit:
                return

    def fits(self):
        """How many cells can surely be closed before one of the arrays is full."""
        more = self.offers * (self.directions * (1 + self.leap_length) + self.link_most)
        more += 1 if self.layer else 0  # a wait
        least = len(self.order) - self.closed
        least = min(least, (len(self.chunks) // 16 - self.used) // more)
        if self.most:
            least = min(least, self.most - self.closed)
        if self.ring == 0:
            least = min(least, (len(self.heap_item) - self.waiting) // more)
        if len(self.via):
            least = min(least, (len(self.far_from) - self.fars) // more)
        return min(least, (len(self.pass_cell) - self.passes) // more)

    def code(self, place):
        """The code of a step."""
        return self.wide[place] if len(self.wide) else self.codes[place]

    def leading(self, cell, base, shift, near, directions):
        """A bit for each step that may lead on; no branch, as none could be foretold."""
        better = 0
        wide = len(self.wide) > 0
        for direction in range(directions):
            code = self.wide[base + direction] if wide else self.codes[base + direction]
            known = self.mark[cell + self.shifts[shift + direction]]
            better = better | ((near + self.costs[code] <= known) << direction)
        return better

    def close_all(self):
        """The loop: close the label of least rank, offer its steps."""
        after = 0
        safe = 0
        steps = 0
        counting = len(self.hops) > 0
        # looked up once: a store through one of these could change any, as far as C can know
        costs = self.costs
        shifts = self.shifts
        mark = self.mark
        directions = self.directions
        flooding = self.goal < 0
        linking = len(self.link_at) > 0
        carry = self.carry
        leaping = len(self.leaps) > 0
        heeding = self.zoning > 0
        while True:
            # arrays are checked once for many cells; a check for each step would cost more than the step
            if safe <= 0:
                safe = self.fits()
                if safe <= 0:
                    return -3 if self.most and self.closed >= self.most else -2
            safe -= 1
            if self.wanted >= 0:  # go on exactly where it stopped: the order decides ties
                item = self.stalled
                self.wanted = -1
            elif self.waiting:
                item = self.pop()
            else:
                return 1 if self.best >= 0 else 0
            if self.best >= 0 and self.floor > self.best:
                return 1
            if item >= 0:
                cell = item >> 1
                line = item & 1
                known = mark[cell + self.pad]
                if known & STOP:
                    continue  # a better label of this cell came first
                key = (known >> SHIFT) - self.epoch
                may_stop = 1
                if counting:
                    steps = self.hops[cell]
            else:
                cell = self.pass_cell[-1 - item]
                line = self.line(cell)
                key = self.pass_key[-1 - item]
                may_stop = 0
                known = 0
                steps = self.pass_hops[-1 - item]
                if steps < 0:
                    continue
                if self.weight != PLAIN:
                    self.pass_back[-1 - item] = self.pass_back[-1 - item] | EXPANDED
            # rows of a large table lie farther apart than 32 bits can tell
            base = cython.cast(cython.Py_ssize_t, cell) * directions
            if self.code(base) == 0:
                self.wanted = cell
                self.stalled = item
                return -1
            if may_stop:
                known = known | STOP
                mark[cell + self.pad] = known
            self.order[self.closed] = item
            # a flood is not traced back: cell and mark go straight into the answer
            if flooding and may_stop:
                self.order[self.closed] = cell
                self.marks[self.closed] = known
            self.closed += 1
            stops = may_stop
            # in the layer of dear diagonals a unit may end its turn, too; the next one begins in the other layer
            if self.layer and cell >= self.layer and self.meaning(cell, line) == 0:
                stops = 1
                self.offer_wait(cell, key)
            if self.best < 0 and self.goal >= 0 and stops and self.answers(cell):
                self.found = item
                self.best = self.floor
                self.found_key = key
                if self.weight != PLAIN:
                    return 1
            # most searches stay in the first turn
            turn = key // self.stride if key >= self.stride else 0
            left = (turn + 1) * self.stride - 1 - key
            fresh = (turn + 2) * self.stride - 1 - self.points
            shift = line * directions
            # compared with marks as they are: all marks of earlier searches are larger
            near = (self.epoch + key) << SHIFT
            if directions == 6:  # a constant count is unrolled
                better = self.leading(cell, base, shift, near, 6)
            elif directions == 8:
                better = self.leading(cell, base, shift, near, 8)
            else:
                better = self.leading(cell, base, shift, near, 4)
            while better:
                direction = self.lowest[better]
                # the lowest bit is cleared, so that directions come in their order
                better = better & (better - 1)
                cost = costs[self.code(base + direction)] >> SHIFT
                at = cell + shifts[shift + direction]
                known = mark[at]
                target = at - self.pad
                side = line ^ ((self.flips >> direction) & 1)
                ends = 0
                if heeding and self.in_zone(target, side):
                    ends = self.zoning == 1
                    cost = self.zoned(cost)
                if cost <= left:
                    offered = key + (left if ends else cost)
                # it waits for the next turn, which it can only where it may stop
                elif may_stop and carry == 0 and cost <= self.points and fresh + cost < self.limit:
                    offered = fresh + (self.points if ends else cost)
                elif may_stop and carry:
                    offered = self.saved_up(cost, left, turn, ends)
                    if offered < 0:
                        continue
                else:
                    continue
                if counting:
                    after = steps + 1 if offered == key else 0
                meaning = self.meaning(target, side)
                if meaning or (self.layer and target >= self.layer):
                    if meaning == 0 or (meaning == 1 and not ends):
                        self.offer_pass(target, offered, 1 << direction, after, -1)
                        if may_stop and not ends:
                            self.offer_later(target, cost, left, turn, offered, 1 << direction, -1)
                else:
                    self.offer(target, side, offered, 1 << direction, after, -1)
            if linking and self.link_at[self.place(cell)]:
                self.offer_links(cell, key, steps, may_stop, left, turn)
            if leaping:
                base = cython.cast(cython.Py_ssize_t, self.place(cell)) * directions
                self.offer_leaps(cell, line, base, key, steps, may_stop, left, turn)

    def answers(self, cell):
        """Whether a cell is a goal."""
        place = self.place(cell)
        if len(self.targets):
            return self.targets[place] > 0
        return place == self.goal

    def found_cell(self):
        """The number of the cell that was found, or -1."""
        if self.best < 0:
            return -1
        if self.found >= 0:
            return self.place(self.found >> 1)
        return self.place(self.pass_cell[-1 - self.found])

    def miss(self, cell, key):
        """Take note of a way that comes too late, to a label that is closed already."""
        weight = self.weight
        self.weight = PLAIN
        self.missed = min(self.missed, key + self.estimate(cell))
        self.weight = weight

    def lowest_key(self):
        """No goal can be reached at a lower key than that; the queue is emptied.

        As long as the best way has not been followed to its end, a label on it waits to be expanded,
        or came too late (M. Likhachev, G. Gordon, S. Thrun, ARA*, NIPS 16, 2003).
        """
        least = self.missed
        if self.best >= 0:
            least = min(least, self.found_key)
        self.weight = PLAIN
        while self.waiting:
            item = self.pop()
            if item >= 0:
                cell = item >> 1
                key = (self.mark[cell + self.pad] >> SHIFT) - self.epoch
                if self.mark[cell + self.pad] & STOP == 0:
                    least = min(least, key + self.estimate(cell))
            elif self.pass_hops[-1 - item] >= 0:
                cell = self.pass_cell[-1 - item]
                least = min(least, self.pass_key[-1 - item] + self.estimate(cell))
        return least

    def keys(self) -> tuple[int, int]:
        """After a weighted search: the key of the goal, and the lowest it could have had."""
        return self.found_key, self.bound

    def estimated(self, cell: int) -> int:
        """The estimate from a cell to the goal of the last search, so that it can be checked."""
        return self.estimate(cell)

    def offer(self, cell, line, key, bit, hops, source):
        """A way to a cell where it may stop: the better label stays, with all ways as good."""
        at = cell + self.pad
        known = self.mark[at]
        mark = (self.epoch + key) << SHIFT
        if mark + LOW < known:
            if known & STOP and known >> SHIFT < self.epoch + self.span:
                self.miss(cell, key)  # only where the estimate is weighted
                return
            self.mark[at] = mark | bit
            if len(self.hops):
                self.hops[cell] = hops
            if len(self.via):
                self.via[cell] = self.via_after(0, source)
            self.push(2 * cell + line, key + self.estimate(cell))
        elif mark > known:
            return
        elif len(self.hops) == 0 or hops == self.hops[cell]:
            self.mark[at] = known | bit
            if source >= 0:
                self.via[cell] = self.via_after(self.via[cell], source)
        elif hops < self.hops[cell]:
            self.hops[cell] = hops
            self.mark[at] = mark | bit
            if len(self.via):
                self.via[cell] = self.via_after(0, source)

    def zoned(self, cost):
        """What a step into a zone of control costs."""
        cost += self.zone_extra
        return self.points if self.capped and cost > self.points else cost

    def offer_wait(self, cell, key):
        """Offer to wait for the next turn, in which the first diagonal step is not a dear one."""
        target = cell - self.layer
        # all points of the next turn
        key = (key // self.stride + 2) * self.stride - 1 - self.points
        if key < self.limit:
            self.offer(target, 0, key, WAITED, 0, -1)

    def offer_links(self, cell, key, steps, may_stop, left, turn):
        """Offer the links that leave a cell."""
        link = self.link_at[self.place(cell)]
        while link:
            target = self.link_to[link] + cell - self.place(cell)
            self.offer_far(cell, target, self.link_cost[link], key, steps, may_stop, left, turn)
            link = self.link_next[link]

    def offer_leaps(self, cell, line, base, key, steps, may_stop, left, turn):
        """Offer the leaps from a cell."""
        for direction in range(self.directions):
            bits = self.leaps[base + direction]
            at = cell
            side = line
            while bits:
                at += self.shifts[side * self.directions + direction] - self.pad
                side = side ^ ((self.flips >> direction) & 1)
                if bits & 1:
                    self.offer_far(cell, at, self.leap_cost, key, steps, may_stop, left, turn)
                bits = bits >> 1

    def offer_far(self, cell, target, cost, key, steps, may_stop, left, turn):
        """Offer a link or leap."""
        ends = 0
        line = self.line(target)
        if self.zoning and self.in_zone(target, line):
            ends = self.zoning == 1
            cost = self.zoned(cost)
        if cost <= left:
            offered = key + (left if ends else cost)
        elif may_stop:
            offered = self.saved_up(cost, left, turn, ends)
            if offered < 0:
                return
        else:
            return
        after = steps + 1 if offered == key else 0
        meaning = self.meaning(target, line)
        # where its turn ends it would have to stop
        if meaning == 2 or (meaning == 1 and ends):
            return
        if meaning == 1 or (self.layer and target >= self.layer):
            self.offer_pass(target, offered, LINKED, after, cell)
            if may_stop and not ends:
                self.offer_later(target, cost, left, turn, offered, LINKED, cell)
            return
        self.offer(target, line, offered, LINKED, after, cell)

    def via_after(self, entry, source):
        """An entry more for a label that a link or leap leads to; -1 stands for no such source."""
        if source < 0:
            return entry
        # entries are never removed: labels of the same search may share them
        self.far_from[self.fars] = source
        self.far_next[self.fars] = entry
        self.fars += 1
        return self.fars - 1
