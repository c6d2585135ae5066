cimport cython

cdef long long NO
cdef int SHIFT
cdef long long NEVER

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
    cdef int corners  # sides of a diagonal step that must be open: 0 any that exists, 1, 2
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
    # what is next to the cell at hand
    cdef int[::1] near  # number, or -1
    cdef unsigned char[::1] clear  # whether it could be entered
    cdef int[::1] met  # the kind of edge on the way
    cdef long long[::1] row  # the cost of each step
    @cython.locals(base=cython.Py_ssize_t)
    cdef int fill_known(self, int cell) noexcept nogil
    @cython.locals(row=cython.int, col=cython.int, line=cython.int, foot=cython.int, at=cython.int)
    cdef unsigned char stands(self, int cell) noexcept nogil
    cdef inline int line(self, int col, int row) noexcept nogil
    @cython.locals(cell=cython.int)
    cdef inline int number(self, int col, int row) noexcept nogil
    cdef inline int kind(self, int cell) noexcept nogil
    cdef inline int blocked(self, int cell) noexcept nogil
    cdef inline int enterable(self, int cell) noexcept nogil
    cdef inline int edge(self, int cell, int direction) noexcept nogil
    @cython.locals(pair=cython.int, foot=cython.int, line=cython.int, at=cython.int)
    cdef unsigned char unfenced(self, int col, int row) noexcept nogil
    @cython.locals(directions=cython.int, line=cython.int, cell=cython.int, direction=cython.int, at=cython.int, side=cython.int, beyond=cython.int, clear=cython.int, turn=cython.int, cost=cython.longlong, least=cython.longlong, added=cython.longlong, parts=cython.longlong, gap=cython.double)
    cdef void steps_from(self, int col, int row, int first, int layer) noexcept nogil
    @cython.locals(directions=cython.int, straight=cython.int, way=cython.int, direction=cython.int, x=cython.int, y=cython.int, at=cython.int, over=cython.int, bits=cython.int, index=cython.int, here=cython.double, top=cython.double, gap=cython.double, up=cython.longlong, down=cython.longlong)
    cdef void leaps_from(self, int cell) noexcept nogil
    @cython.locals(layer=cython.int)
    cdef int fill_rows(self, int cell) noexcept nogil
    @cython.locals(row=cython.int, col=cython.int, line=cython.int, directions=cython.int, base=cython.Py_ssize_t, index=cython.int, direction=cython.int, foot=cython.int, code=cython.int, x=cython.int, y=cython.int)
    cdef int fill_row(self, int cell, int layer) noexcept nogil
    @cython.locals(mask=cython.longlong, slot=cython.longlong)
    cdef inline long long slot_of(self, long long cost) noexcept nogil
    @cython.locals(slot=cython.longlong, code=cython.int)
    cdef inline int code_of(self, long long cost) noexcept nogil
