"""The world folder: an index, ``world.json``, and a board file for each sector.

Sectors are ``sectors/COL.ROW.board.json``, by their place among the sectors; one without a file has
no cells. What is known for long ways is kept in ``notes``, and can be thrown away at any time.
"""

from __future__ import annotations

import json
import os
from collections.abc import Iterator, Mapping, MutableMapping
from pathlib import Path
from typing import Any

from understep.boards.board import Board
from understep.boards.edges import Laid
from understep.errors import BoardFileError, InputError
from understep.files.board_file import load, save, write
from understep.files.reader import Faults, read_link, read_movements, read_unit
from understep.files.schema import MOST_BYTES, WorldPart, validated
from understep.files.writer import as_text, write_between, write_units
from understep.grids.cell import Cell
from understep.worlds.world import World

INDEX = "world.json"


def load_world(
    folder: str | os.PathLike[str], *, memory: int = 256 << 20,
    rules: Mapping[str, Any] | None = None,
) -> World:  # fmt: skip
    """Open a world that lies in a folder; its sectors are read when they are wanted.

    Sectors that were altered are written back before they are released, and by `World.save`;
    `save_world` writes its units, links and edges on seams too.

    Parameters
    ----------
    folder
        The folder.
    memory
        How many bytes may be taken, as for `World`.
    rules
        The functions that are rules of movements, by the names they had when the world was saved.

    Returns
    -------
    World

    Raises
    ------
    BoardFileError
        The index is faulty; ``faults`` lists every fault with its place. Later, when a sector is
        wanted, its file.
    CellError, OccupiedError
        Units that are nowhere, or on one cell.
    OSError
        The index cannot be read.

    Examples
    --------
    >>> import understep as us, tempfile, pathlib
    >>> folder = pathlib.Path(tempfile.mkdtemp()) / "delta"
    >>> def make(first, cols, rows):
    ...     return us.delta(7, cols, rows, first=first, units=False)
    >>> world = us.World(make, 60, 40, sector=32)
    >>> scout = world.add(us.Unit("scout", "wardens", us.Movement(points=8)), at=(15, 5))
    >>> us.save_world(world, folder)
    >>> us.load_world(folder)
    World(60, 40, 0 sectors awake, 1 units)
    """
    folder = Path(folder)
    with (folder / INDEX).open("rb") as file:
        raw = file.read(MOST_BYTES + 1)
    part = validated(raw, INDEX, WorldPart)
    faults = Faults()
    if min(part.size) < 1:
        faults.add("size", "must be whole numbers of 1 or more")
    movements = read_movements(part, rules, faults)
    units = [read_unit(name, unit, movements, "", faults) for name, unit in part.units.items()]
    edges = [
        Laid(Cell(*edge.at[0]), Cell(*edge.at[1]), edge.kind, edge.open, edge.both)
        for edge in part.edges
    ]
    links = [
        faults.build(f"links.{number}", read_link, link) for number, link in enumerate(part.links)
    ]
    if faults.found:
        raise BoardFileError(INDEX, faults.found)
    side = part.sector

    def make(first: Cell, *_: int) -> Board | None:
        path = _sector(folder, first.col // side, first.row // side)
        return load(path, rules) if path.exists() else None

    def keep(first: Cell, board: Board) -> None:
        save(board, _sector(folder, first.col // side, first.row // side))

    world = World(
        make, *part.size, sector=side, memory=memory, save=keep, notes=_Notes(folder)
    )  # fmt: skip
    world.restore([unit for unit in units if unit is not None], edges, links)
    return world


def save_world(world: World, folder: str | os.PathLike[str]) -> None:
    """Write a world into a folder: all of its sectors, and at last its index.

    Every file is written atomically. A world that was read from this folder writes only what was
    altered.

    Raises
    ------
    InputError
        ``world`` is none, or has a movement that cannot be saved.
    OSError
        A file cannot be written.

    Examples
    --------
    >>> import understep as us, tempfile
    >>> folder = tempfile.mkdtemp()
    >>> make = lambda first, cols, rows: us.delta(7, cols, rows, first=first, units=False)
    >>> us.save_world(us.World(make, 40, 30), folder)
    >>> us.load_world(folder).board((0, 0), 40, 30).terrain((15, 5))
    'turf'
    """
    if not isinstance(world, World):
        raise InputError("world", "must be a World", world)
    folder = Path(folder)
    movements, units, _ = write_units(world.units(), {})
    edges, links = write_between(world.edges, world.links)
    parts: dict[str, Any] = {
        "understep_world": 1, "size": list(world.size), "sector": world.sector
    }  # fmt: skip
    parts |= ({"edges": edges} if edges else {}) | ({"links": links} if links else {})
    (folder / "sectors").mkdir(parents=True, exist_ok=True)
    notes = world.notes
    if isinstance(notes, _Notes) and notes.folder.resolve() == folder.resolve():
        world.save()
    else:
        for board in world.sectors():
            first = board.grid.first
            save(board, _sector(folder, first.col // world.sector, first.row // world.sector))
    write(folder / INDEX, as_text(parts | {"movements": movements, "units": units}))


def _sector(folder: Path, col: int, row: int) -> Path:
    return folder / "sectors" / f"{col}.{row}.board.json"


class _Notes(MutableMapping[str, bytes]):
    """Notes by sector as files; those of sectors whose files have changed since do not count."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    def _path(self, key: str) -> Path:
        return self.folder / "notes" / f"{key}.json"

    def _stamp(self, key: str) -> str:
        """What tells whether a sector or one around it was written since."""
        col, row = map(int, key.split("."))
        found = []
        for x in (-1, 0, 1):
            for y in (-1, 0, 1):
                try:
                    facts = _sector(self.folder, col + x, row + y).stat()
                except OSError:
                    found.append("-")
                else:
                    found.append(f"{facts.st_size}.{facts.st_mtime_ns}")
        return " ".join(found)

    def __getitem__(self, key: str) -> bytes:
        try:
            with self._path(key).open("rb") as file:
                raw = file.read(MOST_BYTES)
        except OSError:
            raise KeyError(key) from None
        stamp, _, text = raw.partition(b"\n")
        if stamp.decode("ascii", "replace") != json.dumps(self._stamp(key)):
            raise KeyError(key)
        return text

    def __setitem__(self, key: str, text: bytes) -> None:
        path = self._path(key)
        path.parent.mkdir(exist_ok=True)
        part = path.with_suffix(".part")  # a note that is lost is found again: no need to sync
        part.write_bytes(json.dumps(self._stamp(key)).encode() + b"\n" + text)
        part.replace(path)

    def __delitem__(self, key: str) -> None:
        try:
            self._path(key).unlink()
        except OSError:
            raise KeyError(key) from None

    def __iter__(self) -> Iterator[str]:
        return iter(sorted(path.name[:-5] for path in self.folder.glob("notes/*.json")))

    def __len__(self) -> int:
        return sum(1 for _ in self)
