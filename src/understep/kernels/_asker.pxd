cimport cython

from understep.kernels._layers cimport Layers
from understep.kernels._rules cimport Rules

cdef long long STOP
cdef int MET
cdef long long LATE

@cython.final
cdef class Found:
    cdef readonly object mover
    cdef readonly Rules rules
    cdef readonly int home
    cdef readonly int count
    cdef readonly object data
    cdef readonly object steps

@cython.final
cdef class Asker:
    cdef object mover
    cdef readonly Rules rules
    cdef readonly int plain  # whether costs go by cells
    cdef readonly int lasting  # whether its rules stay what they are when the board is edited
    cdef readonly int first
    cdef int limit
    cdef int few
    cdef int ring
    cdef object table
    cdef object views  # of the table, as the rules have them
    cdef int left
    cdef int top
    cdef int cols
    cdef int rows
    cdef list free  # workspaces that nobody uses
    cdef int large  # of so many cells the arrays are given away
    @cython.locals(pair=tuple, col=cython.longlong, row=cython.longlong)
    cdef int number(self, object at) except -2
    @cython.locals(own=cython.int, number=cython.int, layers=Layers)
    cpdef ask(self, object home, object at, long long date)
    @cython.locals(count=cython.int, layers=Layers, status=cython.int)
    cpdef flood(self, object workspace, int own, int number, long long date)
    cdef bytearray steps_of(self, Layers layers, int count)
    @cython.locals(old=Rules, rules=Rules)
    cpdef apart(self, object who, object held)

@cython.final
cdef class NextTurns:
    cdef int[::1] homes
    cdef list turns
    cdef NextTurn last
    @cython.locals(foe=Asker, layers=Layers)
    cpdef add(self, Asker asker, int own, object workspace, tuple among, tuple homes)
    @cython.locals(turn=NextTurn)
    cpdef list widest(self)
    @cython.locals(turn=NextTurn)
    cpdef judge(self, object bounds, object cells, object zone, list rows, tuple room, list out)
    @cython.locals(turn=NextTurn, foe=Asker, status=cython.int)
    cdef finish(self, int judging)

@cython.final
cdef class NextTurn:
    cdef Layers layers
    cdef Rules rules
    cdef int first
    cdef NextTurn after
    cdef int status  # 1 done, 0 not begun, -1 it lacks something
    cdef int lacks  # as of `Layers.run`
    cdef int lost  # whether its costs have become too wide for codes
    cdef int[::1] homes
    cdef int[::1] beside
    cdef int[::1] from_homes
    cdef int[::1] codes
    cdef int[::1] bounds
    cdef int[::1] cells
    cdef int[::1] zone
    cdef unsigned char[::1] out
    cdef long long[::1] stops
    cdef int[::1] starts
    cdef int[::1] ends
    cdef int[::1] pool
    cdef int[::1] places  # by cell, one more than where it is among those of the unit; 0: nowhere
    cdef int[::1] closed  # by cell, one more than its place as they were closed; 0: it was not
    cdef int[::1] rows  # by cell where its row is found
    cdef long long[::1] soonest  # the place of the first stand from which a cell is struck, as they were closed
    cdef long long[::1] entered  # and of entering the cell, if the unit would be in the way
    cdef int[::1] near
    cpdef take(self, object bounds, object cells, object zone, tuple rows, tuple room, object out)
    cpdef int run(self, int judging) except -1
    cdef int go_on(self, int judging) noexcept nogil
    @cython.locals(done=cython.int, unit=cython.int)
    cdef int flood_widely(self) noexcept nogil
    cdef void leave(self, int unit) noexcept nogil
    cdef void stay(self, int unit) noexcept nogil
    @cython.locals(ways=cython.int, index=cython.int, held=cython.int)
    cdef void stand(self, int cell, int code, int[::1] zone, int row, int more) noexcept nogil
    @cython.locals(count=cython.int)
    cdef stands(self)
    @cython.locals(units=cython.int, unit=cython.int, done=cython.int, index=cython.int)
    cdef int judge_units(self) noexcept nogil
    cdef int flood(self) noexcept nogil
    @cython.locals(index=cython.int, many=cython.int, unit=cython.int)
    cdef void find_near(self, int units) noexcept nogil
    @cython.locals(low=cython.int, end=cython.int, index=cython.int, cell=cython.int, place=cython.int, row=cython.int, other=cython.int)
    cdef void judge(self, int unit) noexcept nogil
    @cython.locals(index=cython.int, place=cython.int)
    cdef void heed_zones(self, int low, int end) noexcept nogil
    @cython.locals(least=cython.longlong, ways=cython.int, index=cython.int, cell=cython.int, place=cython.longlong)
    cdef long long first_held(self, int row) noexcept nogil
    @cython.locals(index=cython.int, cell=cython.int, done=cython.int)
    cdef int judge_closely(self, int unit) noexcept nogil
    @cython.locals(index=cython.int, row=cython.int, other=cython.int)
    cdef int strikes(self, int cell) noexcept nogil

cdef data_of(Layers layers, int count)

cpdef int many(Layers layers, Rules rules, int own, object starts, int at, int first, int limit, int ring, object cells, object marks, object ends) except? -1

@cython.locals(index=cython.int)
cpdef list unfit(Layers layers, Rules rules, int own, int[::1] numbers)

@cython.locals(here=cython.int, spot=cython.int, taken=cython.int, way=cython.int, seen=cython.int, cost=cython.int, key=cython.int, row=cython.Py_ssize_t)
cpdef int step_cost(Layers layers, Rules rules, int own, int first, int start, int end)

@cython.locals(layers=Layers, most=cython.int, status=cython.int)
cpdef int drive(object workspace, Rules rules, object table, object views, int own, int start, int first, int few, int limit, int ring, int goal, int cheapest, long long date) except -3

cdef int supply(object workspace, Layers layers, object table, object views, int status) except -1
