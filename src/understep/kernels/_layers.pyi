from typing import Any, TypeAlias

Array: TypeAlias = memoryview[Any]

class Rules:
    def __init__(
        self,
        points: int,
        stride: int,
        zoning: int,
        extra: int,
        cap: int,
        feet: int,
        foot: Array,
    ) -> None: ...
    def lay(
        self,
        plain: int,
        ground: Array,
        kinds: Array,
        closed: Array,
        blocked_to: Array,
        unseen: Array,
        place: Array,
    ) -> None: ...
    def weigh(self, weight: Array, common: Array, now: Array) -> None: ...
    def compiled(self, codes: Array, twice: Array) -> None: ...
    def among(self, who: Array, means: Array, held: Array, held_own: Array) -> None: ...

class Layers:
    wanted: int
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
    def many(
        self,
        rules: Rules,
        own: int,
        starts: Array,
        at: int,
        first: int,
        limit: int,
        ring: int,
        cells: Array,
        marks: Array,
        ends: Array,
    ) -> int: ...
    def run(self) -> int: ...
    def tally(self) -> tuple[int, int, int, int]: ...
    def cut_short(self) -> int: ...
    def recall(self, rules: Rules, cells: Array, marks: Array, rows: Array) -> None: ...
