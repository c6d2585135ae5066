"""The rules of a search by layers: what is the same for all questions of movers of one movement."""

from __future__ import annotations

try:
    import cython
except ImportError:
    from understep.kernels import _shim as cython

from understep.kernels.marks import HELD


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

    def among(self, who, means, held, held_own) -> None:
        """Set who stands where, and what they mean: 0 free, 1 may only pass, 2 blocked.

        And how many units hold each cell, and how many of the mover's own side do.
        """
        self.who, self.means, self.held, self.held_own = who, means, held, held_own
