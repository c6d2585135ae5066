"""Marks: what the bits of a label's number mean, for all kernels and their callers.

From the low end: a bit for each of up to eight directions from which the cell is entered, then the
bits below, then the key.
"""

SHIFT = 11  # bits of a mark below its key
LOW = (1 << SHIFT) - 1
STOP = 1 << 8  # closed, and the unit may stop there
LINKED = 1 << 9  # entered by a link or leap
WAITED = 1 << 10  # entered by a wait, from the layer of dear diagonals
EXPANDED = 1 << 11  # a bit of pass labels in a weighted search
CHAINS = 1 << 31  # more than there can be pass labels
