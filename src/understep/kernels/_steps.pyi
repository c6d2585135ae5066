from typing import Any, TypeAlias

Array: TypeAlias = memoryview[Any]

class Filler:
    def __init__(
        self,
        cols: int,
        rows: int,
        directions: int,
        staggered: int,
        parity: int,
        deltas: Array,
        exists: Array,
        kind_at: Array,
        price_at: Array,
        open_at: Array,
        height_at: Array,
        changed: Array,
        row: Array,
    ) -> None: ...
    def rules(
        self,
        prices: Array,
        many: int,
        edges: int,
        place: Array,
        wall: Array,
        add: Array,
        opened: Array,
        diagonals: int,
        layers: int,
        corners: int,
        grain: int,
        climb: int,
        drop: int,
        rise: int,
        fall: int,
        feet: int,
        foot: Array,
        inner: Array,
        cap: int,
        alike: bool,
    ) -> None: ...
    def leaping(
        self, leaps: Array, over: int, passed: Array, shut: Array, up: int, down: int
    ) -> None: ...
    def lay(
        self,
        ground: Array,
        kinds: Array,
        closed: Array,
        blocked_to: Array,
        unseen: Array,
        fences: Array,
        levels: Array,
        taken: Array,
    ) -> None: ...
    def out(
        self,
        codes: Array,
        wide: Array,
        costs: Array,
        twice: Array,
        slots: Array,
        brief: Array,
        count: int,
    ) -> None: ...
    def known(self) -> int: ...
    def fill(self, numbers: Array) -> int: ...
    def refill(self, numbers: Array) -> int: ...
    def standing(self, out: Array) -> None: ...
    def can_stand(self, cell: int) -> bool: ...
