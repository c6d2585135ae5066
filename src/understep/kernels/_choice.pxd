cimport cython


@cython.locals(direction=cython.int, found=cython.int, best=cython.longlong, flaws=cython.longlong, worse=cython.longlong, way=cython.int)
cdef int leaving(int here, int facing, int turning, int slots, long long[::1] rest, long long[::1] blemish) noexcept nogil

@cython.locals(direction=cython.int, of_other=cython.int)
cdef int comes_first(int one, int other, int facing, int turning, int slots, int goals, int[::1] place, long long[::1] rest, long long[::1] blemish, int[::1] onward) noexcept nogil

@cython.locals(way=cython.int)
cdef void offer(int here, int direction, int to, long long spent, long long worse, int turning, int slots, int goals, int[::1] place, long long[::1] rest, long long[::1] blemish, int[::1] onward) noexcept nogil
