cimport cython

from understep.kernels._rules cimport Rules

cdef int CHUNK
cdef int CROSSED
cdef int NEVER
cdef int MET
cdef int TOP
cdef int BLOCKED
cdef int PASS
cdef int HELD
cdef long long STOP
cdef int SHIFT

@cython.final
cdef class Layers:
    # the grid: lines of cells with a margin between them, each set off against the one before, so
    # that a step in one direction always adds the same
    cdef int[::1] steps
    cdef int ways
    cdef int measure  # 0 four neighbors, 1 eight neighbors, 2 hexes
    cdef int base  # the place of the first cell
    cdef int wide  # the places of a line
    cdef int skewed  # 1: every second line is set off by one place less
    cdef int parity  # 0: from the second line to the third, 1: from the first to the second
    cdef int cols
    cdef int across  # whether lines are columns
    cdef int pair  # places from a line to the next but one
    cdef int second  # and from the first line to the next
    cdef long long per_pair
    cdef int[::1] starts  # by line: adds to a place that of the cell in its line
    # by place, left at 0 after every search; 1 for ever in the margin and in holes
    cdef unsigned char[::1] state
    # by place: twice what the key falls short of the top, so that the better one is the larger, plus
    # 1 once it is closed; those of earlier searches are below all of this one
    cdef int[::1] label
    cdef int top
    # by place the states of cells that were looked at: by some rules, for a mover on some cell, while
    # a date was the same
    cdef unsigned char[::1] looks
    cdef Rules looker
    cdef int looked_from
    cdef long long date
    cdef int first_look
    cdef int last_look
    cdef int look_there  # that of the start, while a search is under way
    cdef Rules rules
    cdef int own  # the cell that the mover stands on
    cdef int plain
    cdef int[::1] offered  # by state, the bucket that cells of the present one offer
    cdef int offered_at  # the key by which it is filled
    # of cells that may only be passed the place (0: none), and the least that was used in a turn when
    # it was closed; then where these are. How many there are, and how many items of the queue are such
    cdef int[::1] crossed
    cdef int crossings
    cdef int passers
    # turns
    cdef int points
    cdef int stride
    cdef int limit  # keys from here on are out of turns
    # the queue: a ring of buckets, each a list of chunks of a link and 63 items
    cdef int ring  # buckets less one
    cdef int[::1] first
    cdef int[::1] last
    cdef int[::1] chunks
    cdef int used
    cdef int spare
    cdef int waiting
    cdef int floor  # the least rank
    cdef int[::1] met  # what a chunk leads to
    # what was closed, in order: an item (afterwards a cell), its mark
    cdef int[::1] order
    cdef long long[::1] marks
    cdef int closed
    # the question
    cdef int start
    cdef int one_turn
    cdef int passing  # whether there are several turns, so that those cells take several labels
    cdef readonly int lost  # whether there are too many of these
    cdef int several  # whether there may be several goals
    cdef int flooding  # whether the plain flood serves it
    cdef int goal
    cdef int goal_spot
    cdef int goal_line
    cdef int goal_along
    cdef int cheapest
    cdef int slack
    cdef int[::1] targets
    # the answer
    cdef int best
    cdef int found_key
    cdef int found
    cdef int ends
    cdef int expanded
    cdef readonly int wanted  # the cell whose steps are not compiled yet, after -1
    @cython.locals(alone=cython.int)
    cpdef void begin(self, Rules rules, int own, int start, int first, int limit, int ring, int goal, int cheapest, long long date)
    @cython.locals(spot=cython.int)
    cdef void forget_looks(self) noexcept nogil
    @cython.locals(spot=cython.int)
    cdef void open_window(self) noexcept nogil
    cpdef int ask(self, Rules rules, int own, int start, int first, int limit, int ring)
    cpdef int run(self)
    cdef int close_all(self) noexcept nogil
    @cython.locals(spot=cython.int, seen=cython.int)
    cdef int stands(self, Rules rules, int own, int number)
    @cython.locals(index=cython.int, spot=cython.int)
    cdef void set_off(self, int start, int first) noexcept nogil
    @cython.locals(index=cython.int, item=cython.int)
    cdef void finish(self, int status) noexcept nogil
    @cython.locals(index=cython.int, item=cython.int, spot=cython.int, bucket=cython.int, at=cython.int, end=cython.int, order=cython.int[::1], state=cython.uchar[::1], starts=cython.int[::1])
    cdef void list_cells(self) noexcept nogil
    @cython.locals(index=cython.int, item=cython.int, key=cython.int, top=cython.int, order=cython.int[::1], marks=cython.longlong[::1], label=cython.int[::1], looks=cython.uchar[::1], starts=cython.int[::1])
    cdef void list_marks(self) noexcept nogil
    cdef inline long long untied(self, long long key, int seen) noexcept nogil
    @cython.locals(key=cython.int, seen=cython.int, mark=cython.longlong, way=cython.int, other=cython.int, cost=cython.int)
    cdef long long mark_of(self, int item) noexcept nogil
    @cython.locals(turn=cython.int, last=cython.int)
    cdef inline int arrival(self, int key, int cost, int seen) noexcept nogil
    @cython.locals(row=cython.Py_ssize_t)
    cdef inline int step_cost(self, int item, int way, int seen) noexcept nogil
    @cython.locals(index=cython.int, item=cython.int, last=cython.int, at=cython.int)
    cdef void retrace(self) noexcept nogil
    cdef void list_label(self, int item) noexcept nogil
    @cython.locals(along=cython.int)
    cdef inline int spot_of(self, int number) noexcept nogil
    @cython.locals(at=cython.longlong, two=cython.int)
    cdef inline int line(self, int spot) noexcept nogil
    @cython.locals(line=cython.int)
    cdef inline int number(self, int spot, int[::1] starts) noexcept nogil
    @cython.locals(seen=cython.int)
    cdef inline int glance(self, int spot, int number, int direct, unsigned char[::1] ground, unsigned char[::1] place, unsigned char[::1] who) noexcept nogil
    @cython.locals(seen=cython.int)
    cdef inline int look(self, int spot, int number) noexcept nogil
    @cython.locals(worst=cython.int, shift=cython.int, foot=cython.int, at=cython.int)
    cdef int among_others(self, int spot, int number, int seen) noexcept nogil
    cdef inline int kind(self, int number) noexcept nogil
    cdef int barred(self, int number) noexcept nogil
    @cython.locals(line=cython.int, shift=cython.int, foot=cython.int)
    cdef int covers(self, int number) noexcept nogil
    @cython.locals(least=cython.int)
    cdef inline int estimate(self, int line, int spot) noexcept nogil
    @cython.locals(along=cython.int, both=cython.int, most=cython.int)
    cdef inline int distance(self, int line, int spot) noexcept nogil
    cdef int answers(self, int item) noexcept nogil
    @cython.locals(at=cython.int)
    cdef inline void put(self, int item, int bucket, int[::1] chunks, int[::1] last) noexcept nogil
    @cython.locals(at=cython.int)
    cdef int fresh_chunk(self, int bucket, int full) noexcept nogil
    @cython.locals(bucket=cython.int)
    cdef inline int next_bucket(self) noexcept nogil
    @cython.locals(at=cython.int, end=cython.int)
    cdef inline int end_of_chunk(self, int bucket) noexcept nogil
    @cython.locals(at=cython.int)
    cdef inline void take_chunk(self, int bucket, int end) noexcept nogil
    cdef void put_back(self, int bucket, int at, int end) noexcept nogil
    cdef inline void give_back(self, int at) noexcept nogil
    @cython.locals(bucket=cython.int, chunk=cython.int, at=cython.int, end=cython.int, key=cython.int, closed=cython.int, index=cython.int, count=cython.int, spot=cython.int, number=cython.int, seen=cython.int, direct=cython.int, ring=cython.int, passing=cython.int, kept=cython.int, state=cython.uchar[::1], steps=cython.int[::1], chunks=cython.int[::1], last=cython.int[::1], met=cython.int[::1], order=cython.int[::1], marks=cython.longlong[::1], offered=cython.int[::1], starts=cython.int[::1])
    cdef int flood(self, unsigned char[::1] ground, unsigned char[::1] place, unsigned char[::1] who) noexcept nogil
    @cython.locals(left=cython.int, kept=cython.int)
    cdef int meet_passing(self, int spot, int cost) noexcept nogil
    cdef inline int points_left(self) noexcept nogil
    @cython.locals(at=cython.int)
    cdef int queue_passing(self, int spot, int key) noexcept nogil
    @cython.locals(at=cython.int)
    cdef int crossing(self, int spot) noexcept nogil
    @cython.locals(live=cython.int, index=cython.int, way=cython.int, spot=cython.int, seen=cython.int, entry=cython.int, used=cython.int)
    cdef int pass_on(self, int at, int end) noexcept nogil
    @cython.locals(other=cython.int, seen=cython.int, cost=cython.int, left=cython.int, key=cython.int)
    cdef void pass_to(self, int spot, int way) noexcept nogil
    @cython.locals(seen=cython.int)
    cdef int seen_of(self, int spot) noexcept nogil
    @cython.locals(index=cython.int, number=cython.int, spot=cython.int)
    cdef int lacking(self, int at, int end) noexcept nogil
    @cython.locals(bucket=cython.int, chunk=cython.int, at=cython.int, end=cython.int, stop=cython.int, count=cython.int, looks=cython.uchar[::1], label=cython.int[::1], steps=cython.int[::1], chunks=cython.int[::1], last=cython.int[::1], met=cython.int[::1], order=cython.int[::1], marks=cython.longlong[::1], numbers=cython.int[::1], now=cython.int[::1], codes=cython.uchar[::1], twice=cython.int[::1], ground=cython.uchar[::1], place=cython.uchar[::1], who=cython.uchar[::1], starts=cython.int[::1])
    cdef int search(self) noexcept nogil
    @cython.locals(many=cython.int, fresh=cython.int)
    cdef inline int full(self) noexcept nogil
    cdef inline int zoned(self, int cost, int seen) noexcept nogil
    @cython.locals(index=cython.int, seen=cython.int, key=cython.int)
    cdef void offer_now(self) noexcept nogil
    @cython.locals(count=cython.int, index=cython.int, way=cython.int, spot=cython.int, seen=cython.int)
    cdef inline int around(self, int at, int end, int ways, unsigned char[::1] state, int[::1] steps, int[::1] chunks, int[::1] met) noexcept nogil
    cdef inline int offer_all(self, int at, int end, int plain, int one_turn, unsigned char[::1] looks, int[::1] label, int[::1] steps, int[::1] chunks, int[::1] met, int[::1] order, long long[::1] marks, int[::1] now, unsigned char[::1] codes, int[::1] twice, int[::1] numbers, int[::1] last) noexcept nogil
    @cython.locals(top=cython.int, listing=cython.int, several=cython.int, goal=cython.int, second_turn=cython.int, full=cython.int, stride=cython.int, closed=cython.int, count=cython.int, left=cython.int, after=cython.int, row=cython.Py_ssize_t, live=cython.int, blank=cython.int, index=cython.int, item=cython.int, known=cython.int, turn=cython.int, way=cython.int, spot=cython.int, cost=cython.int, offered=cython.int, before=cython.int, better=cython.int, least=cython.int, heeding=cython.int)
    cdef inline int offer(self, int at, int end, int ways, int plain, int one_turn, unsigned char[::1] looks, int[::1] label, int[::1] steps, int[::1] chunks, int[::1] met, int[::1] order, long long[::1] marks, int[::1] now, unsigned char[::1] codes, int[::1] twice, int[::1] numbers, int[::1] last) noexcept nogil
    @cython.locals(top=cython.int, least=cython.int, guided=cython.int, plain=cython.int, one_turn=cython.int, direct=cython.int, kept=cython.int, index=cython.int, spot=cython.int, known=cython.int, number=cython.int, seen=cython.int, cost=cython.int, rank=cython.int, passing=cython.int, left=cython.int)
    cdef inline void settle(self, int count, unsigned char[::1] looks, int[::1] label, int[::1] chunks, int[::1] last, int[::1] met, unsigned char[::1] ground, unsigned char[::1] place, unsigned char[::1] who, int[::1] starts) noexcept nogil
    cdef inline int note(self, int spot, int seen, unsigned char[::1] looks) noexcept nogil
    @cython.locals(seen=cython.int)
    cdef int offer_held(self, int spot, int known, int cost, int plain, unsigned char[::1] looks, int offered) noexcept nogil
    cdef void check(self, int item) noexcept nogil
