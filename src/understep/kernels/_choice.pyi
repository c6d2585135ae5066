from typing import Any, TypeAlias

Array: TypeAlias = memoryview[Any]

def choose(
    goals: int,
    start: int,
    facing: int,
    turning: int,
    slots: int,
    ways: Array,
    first: Array,
    sources: Array,
    directions: Array,
    costs: Array,
    place: Array,
    weight: Array,
    rest: Array,
    blemish: Array,
    onward: Array,
    ready: Array,
    route: Array,
    taken: Array,
) -> int: ...
