"""The tie kernel: the labels of a search as a graph that holds every route of least cost.

A search leaves closed labels, each with its key and the directions from which it is entered at that
key. Together they are a graph without cycles. Here it is walked back from a goal: any one of the tied
routes is read off, or all labels and steps on them are listed, for `_choice` to find the route that
looks best.
"""

from __future__ import annotations

try:
    import cython
except ImportError:
    from understep.kernels import _shim as cython


from understep.kernels.marks import PASS, SHIFT, STOP

LABEL = 0x7FFFFFFF


def chain(
    cells: cython.int[::1], slot: cython.longlong[::1], mate: cython.int[::1],
    token: cython.longlong,
) -> None:
    """Let ``slot`` find a label by its cell, and ``mate`` the others of that cell.

    What ``slot`` held before need not be cleared: the upper half of an entry is the ``token`` of
    the call that wrote it.
    """
    index: cython.int
    known: cython.longlong
    with cython.nogil:
        for index in range(cells.shape[0]):
            known = slot[cells[index]]
            mate[index] = cython.cast(cython.int, known & LABEL) if known >> 32 == token else -1
            # a number of this search goes with it, so that slots of earlier ones need not be
            # cleared
            slot[cells[index]] = (token << 32) | index


def recall(layers, rules, cells, marks, rows) -> None:
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
    layers.rules = rules
    layers.points = layers.rules.points
    layers.stride = layers.rules.stride
    with cython.nogil:
        for index in range(count):
            spot = layers.spot_of(cells_[index])
            layers.order[index] = spot
            # labels of other cells were never cleared, so that the cell is compared, too
            source = layers.label[spot] - 1
            layers.chunks[index] = layers.label[spot] if 0 <= source < index and layers.order[source] == spot else 0
            layers.label[spot] = index + 1
        for index in range(count):
            seen = cython.cast(cython.int, marks_[index] & 255)
            marks_[index] = marks_[index] - seen
            for way in range(layers.ways if index else 0):
                other = layers.order[index] - layers.steps[way]
                source = layers.label[other] - 1
                while 0 <= source < count and layers.order[source] == other:
                    place = cython.cast(cython.Py_ssize_t, source) * layers.ways + way
                    if layers.rules.plain:
                        cost = layers.rules.weight[seen]
                    else:
                        cost = layers.zoned(layers.rules.twice[rows_[place]] >> 1, seen)
                    if leads(layers, marks_[source], cost, seen, marks_[index] >> SHIFT):
                        marks_[index] = marks_[index] | (1 << way)
                    source = layers.chunks[source] - 1  # the label of the turn before
        for index in range(count):
            layers.label[layers.order[index]] = 0


def leads(layers, mark, cost, seen, wanted):
    """Whether a step from a label leads to a cell of some state at the key that is wanted."""
    key = cython.cast(cython.int, mark >> SHIFT)
    if mark & STOP and layers.arrival(key, cost, seen) == wanted:
        return 1
    # where it may only pass it cannot wait; to where it may, it can come in the next turn instead
    left = (key // layers.stride + 1) * layers.stride - 1 - key
    if mark & STOP:
        left += layers.stride - layers.points
        return seen & PASS and cost <= layers.points and key + left + cost == wanted
    return cost <= left and key + (left if seen & layers.rules.ending else cost) == wanted


class Ties:
    """The labels of a search as a graph: which lead to which, by steps, links and waits."""

    def __init__(
        self, cells, marks, slot, mate, via, far_from, far_next, shifts, cols, staggered, parity,
        layer, stride, points, carry, token,
    ) -> None:
        self.cells, self.marks, self.slot, self.mate, self.via = cells, marks, slot, mate, via
        self.far_from, self.far_next, self.shifts = far_from, far_next, shifts
        self.directions = len(shifts) // 2
        self.cols, self.staggered, self.parity, self.layer = cols, staggered, parity, layer
        self.stride, self.points, self.carry, self.token = stride, points, carry, token

    def entry(self, label, direction):
        """Where the ways begin by which a label is entered in a direction; 0 without one.

        The direction after the last stands for links, which are entries; then comes a wait. A step
        or a wait is one way, -1.
        """
        # bits above those of directions are for links and waits
        bit = direction
        if direction >= self.directions:
            bit = 9 + direction - self.directions
        if not (self.marks[label] >> bit) & 1:
            return 0
        return self.via[label] if direction == self.directions else -1

    def after(self, entry):
        """The way after one, by which a label is entered in the same direction; 0 without one."""
        return self.far_next[entry] if entry > 0 else 0

    def before(self, label, direction, entry):
        """The label that a label is entered from in a direction, by a link or a wait."""
        back = (direction + self.directions // 2) % self.directions
        cell = self.cells[label]
        row = cell // self.cols
        line = 0
        turn = (self.marks[label] >> SHIFT) // self.stride
        if self.staggered:
            line = ((row if self.staggered == 1 else cell - row * self.cols) + self.parity) & 1
        # cells before a dear diagonal have the steps of the second kind of line
        if self.layer and cell >= self.layer:
            line = 1
        if direction < self.directions:
            cell += self.shifts[line * self.directions + back]
        elif direction == self.directions:
            cell = self.far_from[entry]
        else:  # by a wait, a turn ago
            cell += self.layer
            turn -= 1
        # where the mover may stop a cell has one label; where it only passes, one for each turn
        other = cython.cast(cython.int, self.slot[cell] & LABEL)
        if self.marks[other] & STOP and not (self.layer and cell >= self.layer):
            return other
        while (self.marks[other] >> SHIFT) // self.stride != turn:  # it cannot have waited there
            other = self.mate[other]
        return other

    def twin(self, label, source):
        """Another label from which the same step leads to a label, after a wait, or -1.

        A new turn begins with a plain diagonal. So a unit can come from either layer of a cell where
        it waited.
        """
        other = -1
        turn = (self.marks[source] >> SHIFT) // self.stride
        if self.layer == 0 or self.cells[source] >= self.layer:
            return -1
        if turn == (self.marks[label] >> SHIFT) // self.stride:
            return -1
        known = self.slot[self.cells[source] + self.layer]
        if known >> 32 == self.token:
            other = cython.cast(cython.int, known & LABEL)
        while other >= 0:
            if self.marks[other] & STOP and (self.marks[other] >> SHIFT) // self.stride == turn:
                return other
            other = self.mate[other]
        return -1

    def paid(self, source, target):
        """Points of the step between two labels; it may wait before it."""
        turn = (self.marks[source] >> SHIFT) // self.stride
        left = self.stride - 1 - (self.marks[source] >> SHIFT) % self.stride
        # it may have waited for several turns, to save up points
        while turn < (self.marks[target] >> SHIFT) // self.stride:
            turn += 1
            left = self.points + min(left, self.carry)
        return left - (self.stride - 1 - (self.marks[target] >> SHIFT) % self.stride)

    def totals(self, out: cython.longlong[::1]) -> None:
        """Write the least points spent on all tied ways to each label, which come nearest first."""
        label: cython.int
        other: cython.int
        direction: cython.int
        entry: cython.int
        spent: cython.longlong
        least: cython.longlong
        with cython.nogil:
            for label in range(1, self.cells.shape[0]):
                least = -1
                for direction in range(self.directions + 2):
                    # several links can lead there at the same cost
                    entry = self.entry(label, direction)
                    while entry:
                        other = self.before(label, direction, entry)
                        while other >= 0:
                            spent = out[other] + self.paid(other, label)
                            if least < 0 or spent < least:
                                least = spent
                            other = self.twin(label, other)
                        entry = self.after(entry)
                out[label] = least

    def spread(
        self, goals: cython.int, seat: cython.int[::1], ties: cython.int[::1],
        ways: cython.int[::1], first: cython.int[::1], sources: cython.int[::1],
        directions: cython.int[::1], costs: cython.longlong[::1],
    ) -> int:
        """List the labels on tied routes to the goals, which come listed, and the steps between them.

        What a label is in that list is its ``seat``; ``ways`` counts the steps that leave it. By
        ``first``, the steps that lead to a seat: the seats they come from, directions and points.
        """
        count: cython.int = goals
        at: cython.int = 0
        steps: cython.int = 0
        entry: cython.int
        label: cython.int
        other: cython.int
        direction: cython.int
        with cython.nogil:
            for at in range(goals):
                seat[ties[at]] = at
                ways[at] = 0
            at = 0
            while at < count:
                label = ties[at]
                first[at] = steps
                at += 1
                for direction in range(self.directions + 2):
                    entry = self.entry(label, direction)
                    while entry:
                        other = self.before(label, direction, entry)
                        while other >= 0:
                            # each label is listed once, when it is first met
                            if seat[other] < 0:
                                seat[other] = count
                                ties[count] = other
                                ways[count] = 0
                                count += 1
                            ways[seat[other]] += 1
                            sources[steps] = seat[other]
                            directions[steps] = direction
                            costs[steps] = self.paid(other, label)
                            steps += 1
                            other = self.twin(label, other)
                        entry = self.after(entry)
            first[count] = steps
        return count

    def first(
        self, goal: cython.int, start: cython.int, route: cython.int[::1], taken: cython.int[::1]
    ) -> int:
        """Write the labels of any one tied route, from the goal back to the start."""
        label: cython.int = goal
        length: cython.int = 1
        direction: cython.int
        entry: cython.int
        other: cython.int
        with cython.nogil:
            route[0] = goal
            while label != start:
                direction = 0
                while self.entry(label, direction) == 0:
                    direction += 1
                if direction <= self.directions:
                    taken[length] = direction
                entry = self.entry(label, direction)
                other = entry
                while other > 0:  # of tied links that from the first cell
                    entry = other if self.far_from[other] < self.far_from[entry] else entry
                    other = self.after(other)
                label = self.before(label, direction, entry)
                if direction > self.directions:  # the same cell, before the wait
                    length -= 1
                route[length] = label
                length += 1
        return length
