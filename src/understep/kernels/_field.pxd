cimport cython

cdef int SHIFT
cdef int KEPT
cdef int DONE

@cython.locals(bits=cython.int)
cdef int width(long long number) noexcept nogil

@cython.locals(first=cython.int)
cdef void put(int cell, int bucket, int[::1] heads, int[::1] after, int[::1] before, unsigned char[::1] place) noexcept nogil

cdef void take(int cell, int[::1] heads, int[::1] after, int[::1] before, unsigned char[::1] place) noexcept nogil
