from typing import Any, TypeAlias

Array: TypeAlias = memoryview[Any]

def strong(
    stands: Array,
    codes: Array,
    wide: Array,
    shifts: Array,
    cols: int,
    staggered: int,
    parity: int,
    link_at: Array,
    link_next: Array,
    link_to: Array,
    seen: Array,
    low: Array,
    area: Array,
    stack: Array,
    path: Array,
    way: Array,
) -> int: ...
