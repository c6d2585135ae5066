cimport cython


@cython.final
cdef class Sight:
    # the grid
    cdef int cols
    cdef int rows
    cdef int directions  # of the grid: every second one of eight is straight
    cdef int sides  # of a cell
    cdef int staggered  # 0 no stagger, 1 by rows, 2 by columns
    cdef int parity
    cdef int[::1] deltas  # steps as pairs (col, row), for each parity
    cdef unsigned char[::1] exists  # empty where every cell exists
    # its geometry in whole numbers: middles lie 2 apart along rows of squares
    cdef int[::1] corners  # pairs from the middle, clockwise; side i lies between i and i + 1
    cdef int[::1] steps  # pairs from middle to middle, over each side
    cdef int wide  # what x squared counts, and y squared, for right angles
    cdef int high
    cdef int measure  # 0 four neighbors, 1 eight neighbors, 2 hexes
    # the layers of the board, by number, in thousandths of a level
    cdef long long[::1] ground
    cdef long long[::1] tops
    cdef unsigned char[::1] fences  # the code of every edge; empty where none hides
    cdef unsigned char[::1] hiding  # by code: whether it hides
    # lines no longer than so much, right or down, that were followed once for all of one shape
    cdef int span
    cdef int[::1] places  # by how far right and down: where in the tracks; -1: none
    cdef unsigned char[::1] tracks  # for each step the side, and 128 where a corner lies on the line
    cdef long long[::1] passes  # how much of the line is passed by then
    # the line at hand
    cdef long long[::1] across  # the cross product of the line and each corner
    cdef long long[::1] along  # the dot product of the line and each step
    # what was met on the way it took last
    cdef int touches  # whether a corner lay on the line
    cdef int met
    cdef int met_side  # -1: the cell itself
    # an attack, and from where: the cells taken up at each stand, one stand after the other
    cdef int[::1] starts
    cdef int[::1] spots  # where their middles lie, as pairs
    cdef int feet  # cells that are taken up
    cdef int least  # distances
    cdef int most
    cdef int gain  # cells more for a full level down
    cdef int needs  # whether the cell must be seen
    cdef long long up  # thousandths of a level; -1: any
    cdef long long down
    cdef long long eye
    cdef long long height
    cdef inline int line(self, int col, int row) noexcept nogil
    cdef inline int x_of(self, int col, int row) noexcept nogil
    cdef inline int y_of(self, int col, int row) noexcept nogil
    @cython.locals(side=cython.int, half=cython.int, right=cython.longlong, down=cython.longlong, product=cython.longlong)
    cdef long long aim(self, int x, int y) noexcept nogil
    @cython.locals(after=cython.int, left=cython.longlong, right=cython.longlong)
    cdef inline int leaves_by(self, int side, long long offset, long long nudge) noexcept nogil
    @cython.locals(row=cython.int, col=cython.int, cell=cython.int, ways=cython.int, side=cython.int, after=cython.int, way=cython.int, index=cython.int, beyond=cython.int, offset=cython.longlong, passed=cython.longlong)
    cdef int clear_way(self, int start, int end, long long length, long long nudge, long long low, long long rise, int track) noexcept nogil
    @cython.locals(row=cython.int, col=cython.int, to_row=cython.int, to_col=cython.int, x=cython.int, y=cython.int, low=cython.longlong, rise=cython.longlong, length=cython.longlong, track=cython.int, place=cython.int)
    cdef int clear_line(self, int start, int end, long long eye, long long height) noexcept nogil
    cdef int distance(self, int x, int y) noexcept nogil
    @cython.locals(first=cython.int, foot=cython.int, gap=cython.int, far=cython.longlong, rise=cython.longlong)
    cdef int hits(self, int stand, int cell, int x, int y) noexcept nogil
