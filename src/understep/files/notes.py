"""Notes: what is known of a world for long routes, by sector, as files."""

from __future__ import annotations

import json
import secrets
from collections.abc import Callable, Iterator, MutableMapping
from pathlib import Path

from understep.files.bounded import read_bytes
from understep.files.durable import PART


class Notes(MutableMapping[str, bytes]):
    """Notes by sector, ``"col.row"``; those of sectors that hold something else now do not count.

    A note that is lost is found again, so that nothing is synced, and a folder that cannot be
    written is no fault.

    Parameters
    ----------
    folder
        Where they lie.
    stamp
        What a sector and those around it hold; None: nothing that could be noted.
    """

    def __init__(self, folder: Path, stamp: Callable[[tuple[int, int]], str | None]) -> None:
        self._folder, self._stamp = folder, stamp

    def _path(self, key: str) -> Path:
        return self._folder / f"{key}.json"

    def _first_line(self, key: str) -> bytes | None:
        """The line that a note of a sector begins with."""
        col, _, row = key.partition(".")
        if not (col.isdecimal() and row.isdecimal()):
            return None
        stamp = self._stamp((int(col), int(row)))
        return None if stamp is None else json.dumps(stamp).encode()

    def __getitem__(self, key: str) -> bytes:
        first = self._first_line(key)
        try:
            raw = read_bytes(self._path(key))
        except OSError:
            raise KeyError(key) from None
        line, _, text = raw.partition(b"\n")
        if first is None or line != first:
            raise KeyError(key)
        return text

    def __setitem__(self, key: str, text: bytes) -> None:
        first = self._first_line(key)
        if first is None:
            return
        part = self._folder / f".{secrets.token_hex(8)}{PART}"
        try:
            self._folder.mkdir(exist_ok=True)
            part.write_bytes(first + b"\n" + text)
            part.replace(self._path(key))
        except OSError:
            return

    def __delitem__(self, key: str) -> None:
        try:
            self._path(key).unlink()
        except OSError:
            raise KeyError(key) from None

    def __iter__(self) -> Iterator[str]:
        return (
            key
            for key in sorted(path.stem for path in self._folder.glob("[0-9]*.json"))
            if key in self
        )

    def __len__(self) -> int:
        return sum(1 for _ in self)
