from typing import Any, TypeAlias

from understep.kernels._rules import Rules

Array: TypeAlias = memoryview[Any]

class Layers:
    wanted: int
    lost: int
    def __init__(
        self,
        steps: Array,
        measure: int,
        address: Array,
        starts: Array,
        state: Array,
        first: Array,
        last: Array,
        met: Array,
        offered: Array,
        crossed: Array,
    ) -> None: ...
    def lay_labels(self, label: Array, looks: Array) -> None: ...
    def hold(
        self,
        order: Array,
        marks: Array,
        chunks: Array,
    ) -> None: ...
    def filled(self) -> tuple[int, int, int]: ...
    def seek(self, targets: Array, slack: int) -> None: ...
    def begin(
        self,
        rules: Rules,
        own: int,
        start: int,
        first: int,
        limit: int,
        ring: int,
        goal: int,
        cheapest: int,
        date: int,
    ) -> None: ...
    def ask(self, rules: Rules, own: int, start: int, first: int, limit: int, ring: int) -> int: ...
    def run(self) -> int: ...
    def tally(self) -> tuple[int, int, int, int]: ...
    def cut_short(self) -> int: ...
