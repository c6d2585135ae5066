from typing import Any, TypeAlias

Array: TypeAlias = memoryview[Any]

def chain(cells: Array, slot: Array, mate: Array, token: int) -> None: ...
def recall(layers: Any, rules: Any, cells: Array, marks: Array, rows: Array) -> None: ...

class Ties:
    def __init__(
        self,
        cells: Array,
        marks: Array,
        slot: Array,
        mate: Array,
        via: Array,
        far_from: Array,
        far_next: Array,
        shifts: Array,
        cols: int,
        staggered: int,
        parity: int,
        layer: int,
        stride: int,
        points: int,
        carry: int,
        token: int,
    ) -> None: ...
    def totals(self, out: Array) -> None: ...
    def spread(
        self,
        goals: int,
        seat: Array,
        ties: Array,
        ways: Array,
        first: Array,
        sources: Array,
        directions: Array,
        costs: Array,
    ) -> int: ...
    def first(self, goal: int, start: int, route: Array, taken: Array) -> int: ...
