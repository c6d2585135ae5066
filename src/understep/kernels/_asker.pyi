from typing import Any

class Found:
    mover: Any
    rules: Any
    home: int
    count: int
    data: Any
    steps: bytearray | None
    def __len__(self) -> int: ...
    def stands(self) -> bytearray: ...
    def enters(self, near: bytearray, least: int) -> bool: ...
    def struck(
        self,
        starts: memoryview[Any],
        ends: memoryview[Any],
        pool: memoryview[Any],
        stamp: int,
        met: memoryview[Any],
    ) -> bytearray | None: ...

class Asker:
    plain: int
    lasting: int
    rules: Any
    first: int
    def __init__(
        self,
        mover: Any,
        rules: Any,
        plain: int,
        first: int,
        limit: int,
        few: int,
        ring: int,
        grid: tuple[int, int, int, int],
        free: list[Any],
        large: int,
    ) -> None: ...
    def ask(self, home: object, at: object, date: int) -> Found | None: ...
    def flood(self, workspace: Any, own: int, number: int, date: int) -> Found | None: ...
    def apart(self, who: memoryview[Any], held: memoryview[Any]) -> Asker: ...

class NextTurns:
    def __init__(self, homes: memoryview[Any]) -> None: ...
    def add(
        self,
        asker: Asker,
        own: int,
        workspace: Any,
        among: tuple[memoryview[Any], memoryview[Any], memoryview[Any]],
        homes: tuple[memoryview[Any], memoryview[Any]],
    ) -> None: ...
    def widest(self) -> list[bytearray | None]: ...
    def judge(
        self,
        bounds: memoryview[Any],
        cells: memoryview[Any],
        zone: memoryview[Any],
        rows: list[tuple[memoryview[Any], ...] | None],
        room: tuple[memoryview[Any], ...],
        out: list[memoryview[Any]],
    ) -> None: ...

def many(
    layers: Any,
    rules: Any,
    own: int,
    starts: memoryview[Any],
    at: int,
    first: int,
    limit: int,
    ring: int,
    cells: memoryview[Any],
    marks: memoryview[Any],
    ends: memoryview[Any],
) -> int: ...
def unfit(layers: Any, rules: Any, own: int, numbers: memoryview[Any]) -> list[int]: ...
def step_cost(layers: Any, rules: Any, own: int, first: int, start: int, end: int) -> int: ...
def drive(
    workspace: Any,
    rules: Any,
    table: Any,
    views: Any,
    own: int,
    start: int,
    first: int,
    few: int,
    limit: int,
    ring: int,
    goal: int,
    cheapest: int,
    date: int,
) -> int: ...
