from typing import Any, TypeAlias

Array: TypeAlias = memoryview[Any]

def search(
    first: Array,
    count: Array,
    ends: Array,
    costs: Array,
    value: Array,
    rest: Array,
    far: Array,
    came: Array,
    done: Array,
    keys: Array,
    nodes: Array,
    state: Array,
) -> int: ...
