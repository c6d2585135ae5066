cimport cython

cdef int HELD

@cython.final
cdef class Rules:
    cdef int points
    cdef int stride
    cdef int zoning  # 0: it does not heed zones of control, 1: they end a turn, 2: they cost extra
    cdef int extra
    cdef int cap
    cdef int ending
    # the cells it takes up, as differences of numbers from its anchor, for each kind of line
    cdef int feet
    cdef int[::1] foot
    # what cells cost: from the layers of the board, by cell number ...
    cdef int plain
    cdef unsigned char[::1] ground
    cdef unsigned short[::1] kinds  # empty: the ground itself
    cdef unsigned char[::1] closed_to_all
    cdef unsigned char[::1] blocked_to
    cdef unsigned char[::1] unseen
    cdef unsigned char[::1] place  # by kind, the state of a cell that is empty
    cdef int direct  # whether the ground alone tells that
    cdef int[::1] weight  # by state
    cdef unsigned char[::1] common  # the states that cells can have
    # ... or from a step table
    cdef unsigned char[::1] codes  # 0 not compiled yet, 1 no step, others index `costs`
    cdef int[::1] twice  # twice the costs
    cdef int[::1] now  # the same by state
    cdef unsigned char[::1] who
    cdef unsigned char[::1] means
    cdef unsigned char[::1] held
    cdef unsigned char[::1] held_own
