cimport cython

cdef int FOUND
cdef int FULL
