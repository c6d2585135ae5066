cimport cython

from understep.kernels._layers cimport Layers, Rules

cdef long long STOP

@cython.final
cdef class Found:
    cdef readonly object mover
    cdef readonly Rules rules
    cdef readonly int home
    cdef readonly int count
    cdef readonly object data

@cython.final
cdef class Asker:
    cdef object mover
    cdef Rules rules
    cdef int first
    cdef int limit
    cdef int ring
    cdef int left
    cdef int top
    cdef int cols
    cdef int rows
    cdef list free  # workspaces that nobody uses
    cdef int large  # of so many cells the arrays are given away
    @cython.locals(col=cython.longlong, row=cython.longlong)
    cdef int number(self, object at) except -2
    @cython.locals(number=cython.int, count=cython.int, layers=Layers)
    cpdef ask(self, object at)
