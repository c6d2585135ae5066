"""Marks: what the bits of a label's number mean, for all kernels and their callers.

From the low end: a bit for each of up to eight directions from which the cell is entered, then the
bits below, then the key.

And what the bits of a cell's state mean to the search by layers: met, the place of its price among
all (from 1, in five bits), then the two last ones.
"""

SHIFT = 11  # bits of a mark below its key
LOW = (1 << SHIFT) - 1
STOP = 1 << 8  # closed, and the unit may stop there
LINKED = 1 << 9  # entered by a link or leap
WAITED = 1 << 10  # entered by a wait, from the layer of dear diagonals
EXPANDED = 1 << 11  # a bit of pass labels in a weighted search
CHAINS = 1 << 31  # more than there can be pass labels

NEVER = 1 << 29  # the cost of what cannot be entered; above every key
TOP = 1 << 29  # labels are twice what a key falls short of it, plus 1 once they are closed
BLOCKED = (1 << 31) - 1  # better than every label
CROSSED = 4096  # places for cells that may only be passed; half of them are used at most
CHUNK = 64  # of a bucket: a link to the next chunk, and 63 items
MET = 1  # alone it says that the mover does not get in
PRICES = 30  # so many places there are
PASS = 64  # it may only be passed
HELD = 128  # a foe holds it
NO = 1 << 58  # in a step table the cost of no step: above every sum of costs
LINE = 258  # cells of a row that the step kernel looks at together, and one at each end
FAR = 1 << 28  # the same among the costs that are compiled many at a time
BRIEF = 4096  # the codes of lower costs are looked up at once; the last place is that of no step
UNKNOWN = BRIEF - 2  # the place of a step that the lookup does not know
