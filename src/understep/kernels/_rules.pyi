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
