cimport cython

from understep.kernels._layers cimport Layers
from understep.kernels._rules cimport Rules

cdef int PASS
cdef int SHIFT
cdef long long STOP
cdef long long LABEL

cpdef recall(Layers layers, Rules rules, int[::1] cells, long long[::1] marks, unsigned char[::1] rows)

@cython.locals(key=cython.int, left=cython.int)
cdef int leads(Layers layers, long long mark, int cost, int seen, long long wanted) noexcept nogil

@cython.final
cdef class Ties:
    cdef int[::1] cells
    cdef long long[::1] marks
    cdef long long[::1] slot  # a label of each cell, and the others of that cell
    cdef int[::1] mate
    cdef int[::1] via  # by label the last entry of those below, or 0
    cdef int[::1] far_from  # of links and leaps: the cells they left, the entries before
    cdef int[::1] far_next
    cdef int[::1] shifts
    cdef int directions
    cdef int cols
    cdef int staggered
    cdef int parity
    cdef int layer
    cdef long long stride
    cdef long long points  # of a full turn; how many go on to the next at most
    cdef long long carry
    cdef long long token
    @cython.locals(bit=cython.int)
    cdef inline int entry(self, int label, int direction) noexcept nogil
    cdef inline int after(self, int entry) noexcept nogil
    @cython.locals(back=cython.int, cell=cython.int, row=cython.int, line=cython.int, other=cython.int, turn=cython.longlong)
    cdef inline int before(self, int label, int direction, int entry) noexcept nogil
    @cython.locals(other=cython.int, known=cython.longlong, turn=cython.longlong)
    cdef inline int twin(self, int label, int source) noexcept nogil
    @cython.locals(turn=cython.longlong, left=cython.longlong)
    cdef inline long long paid(self, int source, int target) noexcept nogil
