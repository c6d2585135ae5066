cimport cython

cdef long long CHAINS
cdef long long STOP
cdef int LINKED
cdef int WAITED
cdef long long NEVER_MISSED
cdef long long PLAIN
cdef int EXPANDED
cdef long long LOW
cdef int SHIFT

@cython.final
cdef class Search:
    # the grid: steps from a cell, as differences of its index, for each parity
    cdef int[::1] shifts  # ``pad`` is in them: they lead from a cell to an index of ``mark``
    cdef int[::1] deltas  # the same steps as pairs (col, row)
    cdef int pad  # so that even a step that leads off the board has a mark to compare with
    cdef int directions
    cdef unsigned char[::1] lowest  # the place of the lowest bit of a number below 256
    cdef int cols
    cdef double per_col
    cdef int staggered  # 0 no stagger, 1 by rows, 2 by columns, 3 in layers
    # where diagonal steps alternate: the number from which on cells are those before a dear one;
    # their labels are kept like those of cells it may only cross, as nothing waits there
    cdef int layer
    cdef int parity  # added to the row or column number before its last bit is taken
    cdef int measure  # 0 four neighbors, 1 eight neighbors, 2 hexes
    # the step table
    cdef unsigned char[::1] codes  # 0 not compiled yet, 1 no step, others index `costs`
    cdef unsigned short[::1] wide  # the same where there are too many costs for a byte; else empty
    cdef long long[::1] costs  # shifted like a mark, so that the two compare
    # who stands where, and what that means for this mover: 0 free, 1 may only pass, 2 blocked
    cdef unsigned char[::1] who
    cdef unsigned char[::1] means
    cdef int own
    # the cells it takes up, as differences of numbers from its anchor, for each parity
    cdef int feet
    cdef int[::1] foot
    # zones of control: how many units hold each cell, and how many of the mover's own side do
    cdef int zoning  # 0: it does not heed them, 1: they end its turn, 2: they cost extra
    cdef long long zone_extra
    cdef int capped  # whether no step costs more than the points of a full turn
    cdef unsigned char[::1] held
    cdef unsigned char[::1] held_own
    # links: the first of each cell (from 1), then by link the next, where it leads, what it costs
    cdef int link_most
    cdef int[::1] link_at
    cdef int[::1] link_next
    cdef int[::1] link_to
    cdef long long[::1] link_cost
    # where links and leaps led from: by cell the last entry, or 0; by entry a cell and the entry before
    cdef int[::1] via  # empty without any
    cdef int[::1] far_from
    cdef int[::1] far_next
    cdef int fars
    # leaps, by cell and direction: a bit for each number of cells between; what one costs
    cdef unsigned char[::1] leaps
    cdef long long leap_cost
    cdef int leap_length  # how many steps it is long at most
    # cells (counted as `distance` does) where links begin that help to the goal; what is left there
    cdef int mouths
    cdef int[::1] mouth_col
    cdef int[::1] mouth_row
    cdef long long[::1] mouth_rest
    # labels of cells where the mover may stop
    cdef long long[::1] mark
    cdef int[::1] hops  # zero-cost steps since the last that cost something; empty if none can be
    cdef long long epoch
    cdef long long span  # keys lie below it, heads of chains above
    # labels of cells it may only pass
    cdef int[::1] pass_cell
    cdef long long[::1] pass_key
    cdef int[::1] pass_back
    cdef int[::1] pass_hops  # -1 when a better label replaced it
    cdef int[::1] pass_mate
    cdef int[::1] pass_via
    cdef int passes
    # items: twice the cell plus its line (1 in a shifted row or column), so that no row need be
    # computed on the way to a cell's neighbors; -1 - label where the mover may only pass
    cdef int flips  # a bit for each direction that leads to the other kind of line
    # what was closed, in order: an item (afterwards a cell), and its mark, in which the bit for
    # "closed" says that it may stop there
    cdef int[::1] order
    cdef long long[::1] marks
    cdef int[::1] vias
    cdef int closed
    # the queue: a ring of buckets, each a list of chunks of 16 (15 items and the next chunk) ...
    cdef int ring  # buckets less one, or 0 for the heap
    cdef int[::1] first
    cdef int[::1] last
    cdef int[::1] chunks
    cdef int used
    cdef int spare
    # ... or a binary heap, by rank and then by age
    cdef long long[::1] heap_rank
    cdef long long[::1] heap_age
    cdef int[::1] heap_item
    cdef long long age
    cdef int waiting
    cdef long long floor  # the least rank
    # the question
    cdef int goal
    cdef int[::1] targets  # a place in the order of goals, from 1, where there are several
    # of a weighted search: sixteenths by which the estimate counts, and the least rank (as if not
    # weighted) that a better way to a closed label would have had
    cdef long long weight
    cdef long long missed
    cdef long long slack  # taken off the estimate: no goal is farther from ``goal`` than that
    cdef int expanded
    cdef int goal_col  # counted as `distance` does
    cdef int goal_row
    cdef int offers  # labels that one step can lead to, at most
    cdef long long cheapest
    cdef long long stride
    cdef long long points
    cdef long long carry  # the most points left over that go on to the next turn
    cdef long long limit  # keys from here on are out of turns
    cdef int most  # it pauses when so many cells are closed; 0: never
    cdef int found  # the item of the first label that answers it
    cdef int ends  # how many labels do, after `retrace`
    cdef long long best
    cdef long long found_key
    cdef long long bound
    cdef int wanted  # the cell whose steps are missing, or -1
    cdef int stalled  # the item that was taken from the queue when that turned up
    @cython.locals(index=cython.int, item=cython.int)
    cdef void complete(self) noexcept nogil
    @cython.locals(at=cython.int, index=cython.int, direction=cython.int, cell=cython.int, entry=cython.int, turn=cython.longlong, known=cython.longlong, last=cython.int, item=cython.int)
    cdef void retrace(self) noexcept nogil
    @cython.locals(cell=cython.int, key=cython.longlong)
    cdef int goal_label(self, int item) noexcept nogil
    @cython.locals(label=cython.int, where=cython.longlong)
    cdef void list_before(self, int cell, long long turn) noexcept nogil
    @cython.locals(mark=cython.longlong)
    cdef long long pass_mark(self, int label) noexcept nogil
    @cython.locals(cell=cython.int)
    cdef void list_label(self, int item) noexcept nogil
    cdef inline int place(self, int cell) noexcept nogil
    @cython.locals(back=cython.int)
    cdef inline int before(self, int cell, int direction) noexcept nogil
    cdef inline int line(self, int cell) noexcept nogil
    cdef inline int row(self, int cell) noexcept nogil
    @cython.locals(foot=cython.int, at=cython.int, worst=cython.int)
    cdef inline int meaning(self, int cell, int line) noexcept nogil
    @cython.locals(foot=cython.int, at=cython.int)
    cdef int in_zone(self, int cell, int line) noexcept nogil
    @cython.locals(foot=cython.int, shift=cython.int)
    cdef int covers(self, int cell) noexcept nogil
    @cython.locals(row=cython.int)
    cdef inline int distance_from(self, int row, int col, int to_row, int to_col) noexcept nogil
    @cython.locals(mouth=cython.int, rest=cython.longlong, least=cython.longlong)
    cdef inline long long estimate_from(self, int row, int col) noexcept nogil
    @cython.locals(row=cython.int)
    cdef inline long long estimate(self, int cell) noexcept nogil
    @cython.locals(bucket=cython.int, at=cython.int)
    cdef inline void push(self, int item, long long rank) noexcept nogil
    @cython.locals(at=cython.int)
    cdef int fresh_chunk(self, int bucket, int full) noexcept nogil
    @cython.locals(bucket=cython.int, at=cython.int, item=cython.int)
    cdef inline int pop(self) noexcept nogil
    @cython.locals(at=cython.int, above=cython.int)
    cdef void push_heap(self, int item, long long rank) noexcept nogil
    cdef inline void lay(self, int at, long long rank, long long age, int item) noexcept nogil
    @cython.locals(size=cython.int, item=cython.int, rank=cython.longlong, age=cython.longlong, at=cython.int, below=cython.int)
    cdef int pop_heap(self) noexcept nogil
    @cython.locals(label=cython.int, known=cython.longlong, spent=cython.longlong, other=cython.longlong)
    cdef void offer_pass(self, int cell, long long key, int bit, int hops, int source) noexcept nogil
    @cython.locals(rest=cython.longlong, more=cython.longlong)
    cdef long long saved_up(self, long long cost, long long left, long long turn, int ends) noexcept nogil
    @cython.locals(rest=cython.longlong, more=cython.longlong)
    cdef void offer_later(self, int cell, long long cost, long long left, long long turn, long long key, int bit, int source) noexcept nogil
    @cython.locals(more=cython.int, least=cython.Py_ssize_t)
    cdef inline Py_ssize_t fits(self) noexcept nogil
    cdef inline int code(self, Py_ssize_t place) noexcept nogil
    @cython.locals(direction=cython.int, better=cython.int, wide=cython.bint, code=cython.int, known=cython.longlong)
    cdef inline int leading(self, int cell, Py_ssize_t base, int shift, long long near, int directions) noexcept nogil
    @cython.locals(item=cython.int, cell=cython.int, target=cython.int, direction=cython.int, meaning=cython.int, may_stop=cython.int, stops=cython.int, after=cython.int, line=cython.int, shift=cython.int, base=cython.Py_ssize_t, safe=cython.Py_ssize_t, steps=cython.int, counting=cython.int, key=cython.longlong, cost=cython.longlong, left=cython.longlong, fresh=cython.longlong, turn=cython.longlong, offered=cython.longlong, known=cython.longlong, near=cython.longlong, at=cython.int, costs=cython.longlong[::1], shifts=cython.int[::1], mark=cython.longlong[::1], directions=cython.int, better=cython.int, side=cython.int, flooding=cython.int, linking=cython.int, carry=cython.longlong, leaping=cython.int, heeding=cython.int, ends=cython.int)
    cdef int close_all(self) noexcept nogil
    @cython.locals(place=cython.int)
    cdef int answers(self, int cell) noexcept nogil
    cdef int found_cell(self) noexcept nogil
    @cython.locals(weight=cython.longlong)
    cdef void miss(self, int cell, long long key) noexcept nogil
    @cython.locals(item=cython.int, cell=cython.int, key=cython.longlong, least=cython.longlong)
    cdef long long lowest_key(self) noexcept nogil
    @cython.locals(at=cython.int, known=cython.longlong, mark=cython.longlong)
    cdef inline void offer(self, int cell, int line, long long key, int bit, int hops, int source) noexcept nogil
    cdef inline long long zoned(self, long long cost) noexcept nogil
    @cython.locals(target=cython.int)
    cdef void offer_wait(self, int cell, long long key) noexcept nogil
    @cython.locals(link=cython.int, target=cython.int)
    cdef void offer_links(self, int cell, long long key, int steps, int may_stop, long long left, long long turn) noexcept nogil
    @cython.locals(direction=cython.int, bits=cython.int, at=cython.int, side=cython.int)
    cdef void offer_leaps(self, int cell, int line, Py_ssize_t base, long long key, int steps, int may_stop, long long left, long long turn) noexcept nogil
    @cython.locals(ends=cython.int, line=cython.int, meaning=cython.int, after=cython.int, offered=cython.longlong)
    cdef void offer_far(self, int cell, int target, long long cost, long long key, int steps, int may_stop, long long left, long long turn) noexcept nogil
    cdef inline int via_after(self, int entry, int source) noexcept nogil
