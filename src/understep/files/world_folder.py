"""The world folder: an index, ``world.json``, and a board file for each sector.

A sector's file is named by its place among the sectors and by what it holds, and never changes:
``sectors/COL.ROW.DIGEST.board.json``. The index, written last, says which ones belong to the world;
a sector that it does not name has no cells. Files of the index before stay until the next save, for
those that still read them. ``notes`` holds what is known for long routes and can be thrown away.
"""

from __future__ import annotations

import os
import re
import shutil
import tempfile
import weakref
from collections.abc import Iterable, Mapping
from hashlib import sha256
from pathlib import Path
from typing import Any

from understep.boards.board import Board
from understep.boards.units import MOST_SIDES
from understep.checks import expect, path_of, text
from understep.errors import BoardFileError, InputError
from understep.files.board_file import load
from understep.files.bounded import read_bytes, validated
from understep.files.codec import Faults
from understep.files.durable import PART, locked, replace, sync, write
from understep.files.land_codec import read_edge, read_link, write_edges, write_links
from understep.files.notes import Notes
from understep.files.schema import WorldPart
from understep.files.unit_codec import (
    read_movements,
    read_unit,
    write_sides,
    write_unit,
    write_units,
)
from understep.files.writer import as_text, dump
from understep.grids.cell import Cell
from understep.worlds._fog import Known
from understep.worlds._sectors import SectorKey
from understep.worlds._world import World

INDEX = "world.json"
FOLDER = "sectors"


def load_world(
    folder: str | os.PathLike[str], *, memory: int = 256 << 20,
    rules: Mapping[str, Any] | None = None,
) -> World:  # fmt: skip
    """Open a world that lies in a folder; its sectors are read when they are wanted.

    Nothing in the folder changes until `save_world`: altered sectors that are released go to
    scratch files elsewhere.

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
        wanted: its file is faulty, or gone, as the world was saved twice since by others.
    CellError, OccupiedError
        Units that are nowhere, or on one cell.
    OSError
        The index cannot be read.

    Examples
    --------
    >>> import understep as us, tempfile, pathlib
    >>> folder = pathlib.Path(tempfile.mkdtemp()) / "delta"
    >>> def make(first, cols, rows):
    ...     return us.worlds.delta(7, cols, rows, first=first, units=False)
    >>> world = us.worlds.World(make, 60, 40, sector=32)
    >>> scout = world.add(us.Unit("scout", "wardens", us.Movement(points=8)), at=(15, 5))
    >>> us.worlds.save_world(world, folder)
    >>> us.worlds.load_world(folder)
    World(60, 40, 0 sectors awake, 1 units)
    """
    expect("rules", rules, (Mapping, type(None)), "must map names to functions, or be None")
    folder = path_of("folder", folder)
    part, faults = _index(folder), Faults()
    if min(part.size) < 1:
        faults.add("size", "must be whole numbers of 1 or more")
    names = _names(part, faults)
    movements = read_movements(part.movements, rules, faults)
    units = [read_unit(name, unit, movements, "", faults) for name, unit in part.units.items()]
    edges = [read_edge(edge) for edge in part.edges]
    links = _read_links(part.links, "", faults)
    known = {
        side: _read_known(each, f"knowledge.{side}.", movements, faults)
        for side, each in part.knowledge.items()
    }
    for number, side in enumerate(part.sides):
        faults.build(f"sides.{number}", text, "side", side)
    if len(part.sides) > MOST_SIDES:
        faults.add("sides", f"at most {MOST_SIDES}")
    faults.check(INDEX)
    files = _Files(folder, part.sector, names, rules)
    notes = Notes(folder / "notes", files.stamp)
    world = World(
        files.make, *part.size, sector=part.sector, memory=memory, save=files.keep, notes=notes
    )
    files.watch(world)
    standing = [unit for unit in units if unit is not None]
    world.restore(standing, edges, links, known, part.sides, part.fogs)
    return world


def _read_links(parts: list[Any], place: str, faults: Faults) -> list[Any]:
    return [
        faults.build(f"{place}links.{number}", read_link, link) for number, link in enumerate(parts)
    ]


def _read_known(part: Any, place: str, movements: Any, faults: Faults) -> Known:
    """What a side knows beside what its sectors keep."""
    last = [read_unit(name, unit, movements, place, faults) for name, unit in part.units.items()]
    edges = map(read_edge, part.edges)
    links = [link for link in _read_links(part.links, place, faults) if link is not None]
    known = [unit for unit in last if unit is not None]
    return Known(part.land_known, edges, links, known, part.fog)


def _write_known(known: Known, names: dict[Any, str]) -> dict[str, Any]:
    """The same as parts of the index."""
    edges, links = write_edges(known.edges.values()), write_links(known.links.values())
    units = {name: write_unit(unit, names) for name, unit in sorted(known.last.items())}
    parts = {"fog": known.fog, "units": units, "edges": edges, "links": links}
    return {"land_known": known.land_known} | {word: each for word, each in parts.items() if each}


def save_world(world: World, folder: str | os.PathLike[str]) -> None:
    """Write a world into a folder; after a crash the world before is there, or the new one.

    A world that was read from this folder writes only what was altered. Processes that save into
    one folder wait for each other, and the last one's world is what is there.

    Parameters
    ----------
    world
        The world.
    folder
        Where to; it is made if need be.

    Raises
    ------
    InputError
        ``world`` is not a World, or has a movement that cannot be saved.
    BoardFileError
        Sectors of a world that was read from this folder are gone: it was saved twice since by
        others.
    OSError
        A file cannot be written.

    Examples
    --------
    >>> import understep as us, tempfile
    >>> folder = tempfile.mkdtemp()
    >>> make = lambda first, cols, rows: us.worlds.delta(7, cols, rows, first=first, units=False)
    >>> us.worlds.save_world(us.worlds.World(make, 40, 30), folder)
    >>> us.worlds.load_world(folder).board((0, 0), 40, 30).terrain((15, 5))
    'turf'
    """
    if not isinstance(world, World):
        raise InputError("world", "must be a World", world)
    folder = path_of("folder", folder)
    known = world.known
    last = [unit for each in known.values() for unit in each.last.values()]
    movements, units, words = write_units(world.units(), {}, last)
    edges, links = write_edges(world.edges), write_links(world.links)
    sectors = folder / FOLDER
    sectors.mkdir(parents=True, exist_ok=True)
    files = _of.get(world)
    # into another folder all sectors are written
    if files is not None and files.folder.resolve() != folder.resolve():
        files = None
    with locked(folder):
        before = _present(folder)
        if files is None:
            side, names = world.sector, dict[SectorKey, str]()
            for board in world.sectors():
                first = board.grid.first
                key = first.col // side, first.row // side
                names[key] = _write(sectors, key, dump(board))
        else:
            world.save()  # puts what is altered aside
            # what was not altered keeps its file, which its digest names
            names = files.names | {
                key: _write(sectors, key, path.read_text("utf-8"))
                for key, path in files.aside.items()
            }
            _complete(sectors, names)
        # the index comes last: a crash before that leaves the world before, whole
        sync(sectors)
        parts: dict[str, Any] = {
            "understep_world": 4, "size": list(world.size), "sector": world.sector
        }  # fmt: skip
        parts |= ({"edges": edges} if edges else {}) | ({"links": links} if links else {})
        ends = {f"{col}.{row}": names[col, row] for col, row in sorted(names)}
        parts |= {"movements": movements, "units": units, "sectors": ends}
        parts |= write_sides(world.sides, world.units())
        if known:
            parts["knowledge"] = {side: _write_known(each, words) for side, each in known.items()}
        if world.fogs:
            parts["fogs"] = world.fogs
        write(folder / INDEX, as_text(parts))
        # files of the world before stay, for processes that have read its index
        if before is not None:
            _clean(folder, {_file(*each) for each in (*names.items(), *before.items())})
    # last of all: an error before leaves it with the world as it was opened
    if files is not None:
        files.saved(names)


def _index(folder: Path) -> WorldPart:
    """The index, as far as its form goes."""
    return validated(read_bytes(folder / INDEX), INDEX, WorldPart)


def _names(part: WorldPart, faults: Faults) -> dict[SectorKey, str]:
    """The digests of sectors' files."""
    found: dict[SectorKey, str] = {}
    for key, digest in part.sectors.items():
        place = re.fullmatch(r"(\d{1,9})\.(\d{1,9})", key, re.ASCII)
        # a name that is no digest could lead out of the folder
        if place is None or not re.fullmatch("[0-9a-f]{16}", digest):
            faults.add(f"sectors.{key}", "must be such as '3.0': 16 digits from 0 to f")
            continue
        col, row = int(place[1]), int(place[2])
        if col * part.sector >= part.size[0] or row * part.sector >= part.size[1]:
            faults.add(f"sectors.{key}", "lies outside of the world")
        found[col, row] = digest
    return found


def _present(folder: Path) -> dict[SectorKey, str] | None:
    """The sectors that a folder's index names now; None if the index is faulty."""
    try:
        return _names(_index(folder), Faults())
    except FileNotFoundError:
        return {}
    except (OSError, BoardFileError):
        return None


def _file(key: SectorKey, digest: str) -> str:
    return f"{key[0]}.{key[1]}.{digest}.board.json"


def _write(sectors: Path, key: SectorKey, text: str) -> str:
    """Write a sector, unless it is there; its digest."""
    digest = sha256(text.encode()).hexdigest()[:16]
    path = sectors / _file(key, digest)
    if not path.exists():  # a file of that name has the same contents
        replace(path, text)
    return digest


def _complete(sectors: Path, names: Mapping[SectorKey, str]) -> None:
    """Refuse to name files that are gone."""
    present = set(os.listdir(sectors))
    faults = [
        (_file(*each), "is gone: the world was saved twice since by others")
        for each in names.items()
        if _file(*each) not in present
    ]
    if faults:
        raise BoardFileError(INDEX, faults)


def _clean(folder: Path, wanted: Iterable[str]) -> None:
    """Remove sectors that no index names, and what writers that died left behind."""
    for path in folder.glob(f".*{PART}"):
        path.unlink(missing_ok=True)
    for path in (folder / FOLDER).iterdir():
        if path.name not in wanted:
            path.unlink(missing_ok=True)


class _Files:
    """The sectors of an opened world: those of the index as files, altered ones aside."""

    def __init__(
        self, folder: Path, side: int, names: dict[SectorKey, str], rules: Mapping[str, Any] | None
    ) -> None:
        self.folder, self.names = folder, names
        #: Altered sectors that were released, in scratch files.
        self.aside: dict[SectorKey, Path] = {}
        self._side, self._rules = side, rules
        self._scratch: Path | None = None
        self._world: weakref.ref[World] | None = None

    def watch(self, world: World) -> None:
        """Belong to a world."""
        self._world = weakref.ref(world)
        _of[world] = self

    def make(self, first: Cell, *_: int) -> Board | None:
        """Read a sector; None: it has no cells."""
        key = first.col // self._side, first.row // self._side
        if key in self.aside:  # altered since the world was saved
            return load(self.aside[key], rules=self._rules)
        if key not in self.names:
            return None
        path = self.folder / FOLDER / _file(key, self.names[key])
        try:
            return load(path, rules=self._rules)
        except FileNotFoundError:
            rule = "is gone: the world was saved twice since by others; open it anew"
            raise BoardFileError(path.name, [("", rule)]) from None

    def keep(self, first: Cell, board: Board) -> None:
        """Put an altered sector aside."""
        if self._scratch is None:
            # outside of the folder, which only saving alters
            self._scratch = Path(tempfile.mkdtemp(prefix="understep-"))
            weakref.finalize(self, shutil.rmtree, self._scratch, ignore_errors=True)
        key = first.col // self._side, first.row // self._side
        path = self._scratch / f"{key[0]}.{key[1]}"
        replace(path, dump(board))
        self.aside[key] = path

    def saved(self, names: dict[SectorKey, str]) -> None:
        """Take note of a new index."""
        self.names = names
        for path in self.aside.values():
            path.unlink(missing_ok=True)
        self.aside = {}

    def stamp(self, key: SectorKey) -> str | None:
        """What a sector and those around it hold; None if one is altered."""
        # notes of a sector depend on the sectors around it, too
        near = [(key[0] + x, key[1] + y) for x in (-1, 0, 1) for y in (-1, 0, 1)]
        world = self._world() if self._world is not None else None
        altered = (world.altered if world is not None else set()) | self.aside.keys()
        return None if altered & set(near) else " ".join(self.names.get(each, "-") for each in near)


_of: weakref.WeakKeyDictionary[World, _Files] = weakref.WeakKeyDictionary()
