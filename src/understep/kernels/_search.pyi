from typing import Any, TypeAlias

Array: TypeAlias = memoryview[Any]

COMPILED: bool

class Search:
    def __init__(
        self,
        shifts: Array,
        deltas: Array,
        pad: int,
        cols: int,
        staggered: int,
        parity: int,
        layer: int,
        measure: int,
        mark: Array,
        first: Array,
        last: Array,
        lowest: Array,
    ) -> None: ...
    def hold(
        self,
        order: Array,
        marks: Array,
        chunks: Array,
        heap_rank: Array,
        heap_age: Array,
        heap_item: Array,
        pass_cell: Array,
        pass_key: Array,
        pass_back: Array,
        pass_hops: Array,
        pass_mate: Array,
        pass_via: Array,
        far_from: Array,
        far_next: Array,
        vias: Array,
    ) -> None: ...
    def compiled(self, codes: Array, wide: Array, costs: Array) -> None: ...
    def among(self, who: Array, means: Array) -> None: ...
    def count(self, hops: Array) -> None: ...
    def shape(self, feet: int, foot: Array) -> None: ...
    def heed(
        self, zoning: int, zone_extra: int, held: Array, held_own: Array, capped: int
    ) -> None: ...
    def seek(self, targets: Array, slack: int) -> None: ...
    def join(
        self,
        link_most: int,
        link_at: Array,
        link_next: Array,
        link_to: Array,
        link_cost: Array,
        via: Array,
    ) -> None: ...
    def leap(self, leaps: Array, leap_cost: int, leap_length: int) -> None: ...
    def lead(
        self, mouths: int, cells: Array, rest: Array, mouth_col: Array, mouth_row: Array
    ) -> None: ...
    def begin(
        self,
        own: int,
        start: int,
        goal: int,
        cheapest: int,
        stride: int,
        first: int,
        points: int,
        carry: int,
        offers: int,
        turns: int,
        span: int,
        ring: int,
        weight: int,
        most: int,
    ) -> None: ...
    def run(self) -> int: ...
    def pause(self, cells: int) -> None: ...
    def offered(self, place: int) -> int: ...
    def wants(self) -> int: ...
    def tally(self) -> tuple[int, int, int, int, int]: ...
    def rewind(self) -> None: ...
    def window(self) -> int: ...
    def keys(self) -> tuple[int, int]: ...
    def estimated(self, cell: int) -> int: ...
