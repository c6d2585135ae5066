cimport cython

cdef long long NO
cdef int LINE
cdef int FAR
cdef int BRIEF
cdef int SHIFT
cdef int UNKNOWN
cdef long long NEVER

ctypedef fused one_or_two:
    unsigned char
    unsigned short

@cython.final
cdef class Filler:
    # the grid
    cdef int cols
    cdef int rows
    cdef int directions
    cdef int staggered  # 0 no stagger, 1 by rows, 2 by columns
    cdef int parity
    cdef int[::1] deltas  # steps as pairs (col, row), for each parity
    cdef unsigned char[::1] exists  # empty where every cell exists
    # the layers of the board, by number; empty where there is nothing
    cdef unsigned char[::1] ground
    cdef unsigned short[::1] kinds  # in place of the ground, for a movement with a rule
    cdef unsigned char[::1] closed
    cdef unsigned char[::1] blocked_to
    cdef unsigned char[::1] unseen
    cdef unsigned char[::1] fences
    cdef double[::1] levels
    cdef unsigned char[::1] taken  # 1 where a foe closes corners
    # the rules; costs are whole numbers
    cdef long long[::1] prices  # by straight, diagonal or dear diagonal, edge, kind of ground; -1: none
    cdef int many  # kinds of ground
    cdef int edges  # kinds of edges, none included
    cdef int[::1] place  # of the kind of an edge, by its code
    cdef unsigned char[::1] wall  # by kind of edge
    cdef long long[::1] add
    cdef unsigned char[::1] opened  # by kind of ground: whether it can be entered
    cdef int diagonals  # whether there are diagonal steps
    cdef int layers  # 2 where they alternate: rows for cells, then those before a dear one
    cdef int corners  # ways around a diagonal step that must be open; 0: one, past a cell that is closed, too
    cdef double grain  # levels are counted in parts of this many
    cdef long long climb  # the most parts up in one step, and down
    cdef long long drop
    cdef long long rise  # cost of a part up, and down
    cdef long long fall
    # the footprint: cells as pairs (col, row) from the anchor, for each parity
    cdef int feet
    cdef int[::1] foot
    cdef int[::1] inner  # pairs (foot, direction) that lead from one covered cell to another
    cdef long long cap  # no step costs more; 0: any may
    # leaps
    cdef int over  # the most cells leapt over; -1: it does not leap
    cdef unsigned char[::1] passed  # by terrain: whether it can be leapt over
    cdef unsigned char[::1] shut  # by kind of ground: whether a feature is in the way
    cdef long long leap_up
    cdef long long leap_down
    cdef unsigned char[::1] leaps  # by cell and direction: a bit for each number of cells leapt over
    # what comes out
    cdef unsigned char[::1] codes
    cdef unsigned short[::1] wide
    cdef long long[::1] costs  # by code, shifted as the search takes them
    cdef int[::1] twice
    cdef int count
    cdef int[::1] slots  # code by cost: a hash table, of a power of two
    cdef unsigned short[::1] brief  # code by cost, of low ones; 0: not known
    # a run of cells of one row, at most LINE - 2, with those around it: three lines of LINE
    cdef bint alike  # whether it can be compiled many steps at a time
    cdef int[::1] kind_at  # the kind of ground; -1: it cannot be entered
    cdef int[::1] price_at  # of a step into a cell: straight, diagonal, dear diagonal
    cdef int[::1] open_at  # whether a diagonal step can go around by it
    cdef int[::1] height_at  # its level in parts
    cdef unsigned char[::1] changed  # a bit for each step that edges can change
    cdef int[::1] row  # of a run: where the codes of the steps are, by direction and parity
    @cython.locals(count=cython.int, most=cython.longlong, first=cython.longlong)
    cdef int run(self, long long[::1] numbers, Py_ssize_t index) noexcept nogil
    @cython.locals(base=cython.Py_ssize_t)
    cdef int fill_known(self, int cell) noexcept nogil
    @cython.locals(row=cython.int, col=cython.int, line=cython.int, foot=cython.int, at=cython.int)
    cdef unsigned char stands(self, int cell) noexcept nogil
    cdef inline int line(self, int col, int row) noexcept nogil
    @cython.locals(cell=cython.int)
    cdef inline int number(self, int col, int row) noexcept nogil
    @cython.locals(index=cython.int)
    cdef inline int next_to(self, int col, int row, int direction) noexcept nogil
    cdef inline int kind(self, int cell) noexcept nogil
    cdef inline int blocked(self, int cell) noexcept nogil
    cdef inline int enterable(self, int cell) noexcept nogil
    cdef inline int edge(self, int cell, int direction) noexcept nogil
    @cython.locals(pair=cython.int, foot=cython.int, line=cython.int, at=cython.int)
    cdef unsigned char unfenced(self, int col, int row) noexcept nogil
    @cython.locals(cell=cython.int, at=cython.int, turn=cython.int, cost=cython.longlong, gap=cython.double, parts=cython.longlong)
    cdef long long step(self, int col, int row, int direction, int layer) noexcept nogil
    @cython.locals(met=cython.int, price=cython.int, before=cython.longlong, after=cython.longlong, ways=cython.int)
    cdef inline long long edged(self, long long cost, int col, int row, int at, int direction, int turn) noexcept nogil
    @cython.locals(at=cython.int, met=cython.int, beyond=cython.int)
    cdef long long around(self, int col, int row, int side, int turn) noexcept nogil
    cdef inline int turned(self, int cell, int clear) noexcept nogil
    @cython.locals(directions=cython.int, straight=cython.int, way=cython.int, direction=cython.int, x=cython.int, y=cython.int, at=cython.int, over=cython.int, bits=cython.int, index=cython.int, here=cython.double, top=cython.double, gap=cython.double, up=cython.longlong, down=cython.longlong)
    cdef void leaps_from(self, int cell) noexcept nogil
    @cython.locals(row=cython.int, col=cython.int, index=cython.int, y=cython.int, layer=cython.int, direction=cython.int, full=cython.int)
    cdef int fill_run(self, int first, int count, bint below) noexcept nogil
    @cython.locals(start=cython.int, above=cython.int, index=cython.int, cell=cython.int, base=cython.int, direction=cython.int, clear=cython.int, kind=cython.int, turn=cython.int, first=cython.int, last=cython.int)
    cdef void read(self, int col, int row, int count) noexcept nogil
    @cython.locals(index=cython.Py_ssize_t, turn=cython.Py_ssize_t, many=cython.Py_ssize_t, place=cython.Py_ssize_t, kind=cython.int, most=cython.longlong)
    cdef void read_prices(self, long long[::1] prices, int[::1] kind_at, int[::1] price_at, Py_ssize_t start, Py_ssize_t count) noexcept nogil
    @cython.locals(index=cython.Py_ssize_t, parts=cython.int)
    cdef void read_levels(self, double[::1] levels, int[::1] height_at, Py_ssize_t cell, Py_ssize_t place, Py_ssize_t count, double grain) noexcept nogil
    @cython.locals(base=cython.Py_ssize_t, rows=cython.p_longlong, direction=cython.int, turn=cython.int, around=cython.int, side=cython.int, met=cython.int)
    cdef inline void note_edges(self, int cell, int index, int row, int count) noexcept nogil
    @cython.locals(spot=cython.int)
    cdef inline void change(self, int index, int row, int direction, int count) noexcept nogil
    @cython.locals(turn=cython.int, here=cython.int, parity=cython.int, place=cython.int, at=cython.int, before=cython.int, after=cython.int, need=cython.int)
    cdef void steps(self, int col, int row, int count, int direction, int layer) noexcept nogil
    @cython.locals(index=cython.int)
    cdef inline int spot(self, int col, int row, int direction) noexcept nogil
    @cython.locals(climb=cython.int, drop=cython.int, rise=cython.int, fall=cython.int, none=cython.int, far=cython.int, index=cython.Py_ssize_t, cost=cython.int, gap=cython.int, up=cython.int, ways=cython.int, closed=cython.int, large=cython.int, place=cython.int)
    cdef void price(self, Py_ssize_t count, Py_ssize_t row, Py_ssize_t here, Py_ssize_t at, Py_ssize_t turn, Py_ssize_t before, Py_ssize_t after, int need) noexcept nogil
    @cython.locals(start=cython.int, other=cython.int, none=cython.int, index=cython.int, cell=cython.int, line=cython.int, direction=cython.int, place=cython.int, way=cython.int, at=cython.int, turn=cython.int, cost=cython.longlong)
    cdef void patch(self, int col, int row, int count, int layer) noexcept nogil
    @cython.locals(base=cython.Py_ssize_t, at=cython.Py_ssize_t, other=cython.int, index=cython.int, direction=cython.int, directions=cython.int, pitch=cython.Py_ssize_t, code=cython.int)
    cdef int write(self, one_or_two[::1] codes, unsigned short[::1] brief, int[::1] found, int col, int row, int count, int layer) noexcept nogil
    @cython.locals(line=cython.int, index=cython.int, cost=cython.longlong, foot=cython.int, x=cython.int, y=cython.int)
    cdef long long full_step(self, int col, int row, int direction, int layer) noexcept nogil
    @cython.locals(mask=cython.longlong, slot=cython.longlong)
    cdef inline long long slot_of(self, long long cost) noexcept nogil
    @cython.locals(brief=cython.longlong, slot=cython.longlong, code=cython.int)
    cdef int code_of(self, long long cost) noexcept nogil
