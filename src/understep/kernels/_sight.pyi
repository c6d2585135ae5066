from typing import Any, TypeAlias

Array: TypeAlias = memoryview[Any]

COMPILED: bool

class Sight:
    def __init__(
        self,
        cols: int,
        rows: int,
        directions: int,
        staggered: int,
        parity: int,
        deltas: Array,
        exists: Array,
        corners: Array,
        steps: Array,
        wide: int,
        high: int,
        measure: int,
        across: Array,
        along: Array,
    ) -> None: ...
    def lay(self, ground: Array, tops: Array, fences: Array, hiding: Array) -> None: ...
    def remember(self, span: Array, places: Array, tracks: Array, passes: Array) -> None: ...
    def record(self, x: int, y: int, nudge: int, start: int) -> int: ...
    def clear(self, start: int, end: int, eye: int, height: int) -> tuple[bool, int, int]: ...
    def look(self, start: int, radius: int, eye: int, height: int, seen: Array) -> int: ...
    def arm(
        self,
        least: int,
        most: int,
        gain: int,
        needs: int,
        up: int,
        down: int,
        eye: int,
        height: int,
        feet: Array,
        starts: Array,
        spots: Array,
    ) -> None: ...
    def strike(
        self,
        stands: int,
        radius: int,
        stamp: int,
        apart: int,
        met: Array,
        cells: Array,
        firsts: Array,
    ) -> int: ...
    def strike_at(
        self,
        count: int,
        stands: Array,
        aims: Array,
        stamp: int,
        met: Array,
        cells: Array,
        firsts: Array,
    ) -> int: ...
    def strikers(self, stands: int, cell: int, found: Array) -> int: ...

def ranges(starts: Array, ends: Array, numbers: Array, begin: Array, end: Array) -> int: ...
def holding(starts: Array, ends: Array, pool: Array, number: int) -> list[int]: ...
def manned(
    starts: Array, ends: Array, pool: Array, who: Array, stamp: int, met: Array
) -> list[int]: ...
def stand_in(
    starts: Array, ends: Array, pool: Array, places: Array, wanted: Array, found: Array
) -> None: ...
def gather(
    starts: Array,
    ends: Array,
    pool: Array,
    stamp: int,
    met: Array,
    cells: Array,
    firsts: Array,
) -> int: ...
def differ(
    lost: Array, won: Array, counts: Array, cells: Array, changed: Array, turned: Array
) -> tuple[int, int, int]: ...
