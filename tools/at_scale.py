"""Check at scale what tests check by samples: answers, readers, saving, threads.

``python tools/at_scale.py questions SECONDS`` compares answers on random boards with those of the
slow reference that the package carries, and counts by rule; ``seldom SECONDS`` does so with units
that have the rules that random units seldom have. ``readers COUNT`` reads so many damaged
files of every kind: each is read, or refused by an error of the library. ``kills COUNT`` kills a
process that saves, so many times: the file that it leaves is the old one or the new one.
``threads SECONDS`` asks one board in eight threads, between edits. Each prints a table of what it
did, and ends with status 1 at the first fault. ``--seed`` begins elsewhere.
"""

from __future__ import annotations

import argparse
import json
import os
import random
import signal
import tempfile
import time
from collections import Counter
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from functools import partial
from io import BytesIO
from itertools import count, islice
from pathlib import Path
from typing import Any, cast

from PIL import Image

import understep as us
from understep.files.reader import parse
from understep.files.writer import dump
from understep.study._proof_boards import LEAPS, edit, random_board
from understep.study._proof_questions import Ask, Truth, answer, asks, differs
from understep.study._shrink import fresh

CELLWISE = "reach", "view", "field", "areas", "attacks"  # of these every cell is compared
DRAWN = "reach", "route", "goals", "field", "areas", "attacks", "view"
RULES = ["corners", "zones", "carry", "one_step", "leap", "footprint", "uphill", "downhill"]
SLOWEST = 5.0  # seconds that a small damaged file may take


def rules_of(board: us.Board, unit: str) -> Iterator[str]:
    """The rules that have a say in what a unit is asked."""
    usual = us.Movement(1)
    movement = cast(us.Movement, board.unit(unit).movement)
    for name in RULES:
        if getattr(movement, name) != getattr(usual, name):
            yield name.replace("_", " ")
    if movement.climb is not None or movement.drop is not None:
        yield "slopes"
    if movement.diagonal == "alternating":
        yield "alternating diagonals"
    if movement.foe_corners:
        yield "foes at corners"
    if board.links():
        yield "links"
    if board.features():
        yield "features"
    if len(board.units()) > 1:
        yield "other units"


def with_seldom_rules(board: us.Board, rng: random.Random) -> bool:
    """Give the first unit rules that are seldom, if it can stand where it is with them."""
    scout, pick = board.units()[0], rng.choice
    large = pick([((0, 0), (1, 0)), us.Footprint.block(2), us.Footprint.cluster(1)])
    feet = pick([((0, 0),), large, large, large])
    many: dict[str, Any] = {
        "footprint": feet, "leap": pick([None, *LEAPS]) if len(feet) == 1 else None,
        "carry": pick([0, 1, 2.5]), "one_step": pick([False, True]),
        "uphill": pick([0, 1, 0.5]), "downhill": pick([0, 0.25]),
        "zones": pick(["ignore", "end", 1, 0.5]), "diagonal": pick([1, 1.5]),
    }  # fmt: skip
    if not many["carry"] and rng.random() < 0.7:
        many["diagonal"] = "alternating"
    try:
        board.remove(scout.name)
        board.add(replace(scout, movement=replace(scout.movement, **many)), at=scout.at)
    except us.errors.InputError:
        return False
    board.forget()  # edits are undone below, but not this
    return True


def questions(seconds: float, seed: int, seldom: bool = False) -> Counter[str]:
    """Ask random boards; how many cells or routes were compared, by kind and by rule."""
    done, end = Counter[str](), time.monotonic() + seconds
    for number in count():
        rng = random.Random(f"scale {seed} {number}")
        board = random_board(rng)
        if seldom and not with_seldom_rules(board, rng):
            continue
        for _ in range(3):
            truth = Truth(board)
            every = asks(board, rng)
            if seldom:
                every = (ask for ask in every if ask.unit == "scout" and ask.kind in CELLWISE)
            for ask in islice(every, 12):
                if time.monotonic() > end:
                    return done
                if told := differs(ask, truth):
                    raise SystemExit(f"seed {seed}, board {number}: {ask}: {told}\n{dump(board)}")
                many = len(board.grid) if ask.kind in CELLWISE else 1
                done["questions"] += 1
                done[ask.kind] += many
                for rule in rules_of(board, ask.unit) if ask.unit else ():
                    done[f"rule: {rule}"] += many
            for _ in range(4):
                edit(board, rng)
    raise AssertionError


def damaged(data: bytes, rng: random.Random) -> bytes:
    """Some bytes that are others, gone, doubled, or moved."""
    made = bytearray(data)
    for _ in range(rng.choice([1, 1, 2, 5])):
        at = rng.randrange(len(made) + 1)
        match rng.randrange(5):
            case 0 if at < len(made):
                made[at] = rng.randrange(256)
            case 1:
                made[at:at] = bytes([rng.randrange(256)]) * rng.choice([1, 1, 1, 40])
            case 2:
                del made[at : at + rng.choice([1, 3, 20])]
            case 3:
                made[at:at] = made[rng.randrange(len(made) + 1) :][:30]
            case _ if at < len(made):
                made[at] = rng.choice(b'0123456789-.eE{}[],:"')
    return bytes(made)


VALUES: list[Any] = [
    None, True, -1, 0, 1.5, 2**70, 1e308, "", "\0", "nan", [], {}, [[]], "x" * 300,
]  # fmt: skip


def twisted(value: Any, rng: random.Random) -> Any:
    """JSON data with one value, key or entry that is another."""
    if isinstance(value, dict) and value and rng.random() < 0.9:
        made, key = dict(value), rng.choice(list(value))
        match rng.randrange(4):
            case 0:
                del made[key]
            case 1:
                made[rng.choice(["", "x", str(rng.random())])] = made.pop(key)
            case _:
                made[key] = twisted(value[key], rng)
        return made
    if isinstance(value, list) and value and rng.random() < 0.9:
        items, at = list(value), rng.randrange(len(value))
        match rng.randrange(4):
            case 0:
                del items[at]
            case 1:
                items.insert(at, items[-1])
            case _:
                items[at] = twisted(items[at], rng)
        return items
    return rng.choice(VALUES)


def as_json(data: bytes, rng: random.Random) -> bytes:
    """A JSON text that is damaged by the byte, or by its values."""
    if rng.random() < 0.5:
        return damaged(data, rng)
    return json.dumps(twisted(json.loads(data), rng)).encode()


def lines(data: bytes, rng: random.Random) -> bytes:
    """JSON lines, one of them damaged, or some of them moved."""
    made = data.splitlines()
    at = rng.randrange(len(made))
    made[at] = as_json(made[at], rng)
    if rng.random() < 0.1:
        rng.shuffle(made)
    return b"\n".join(made)


def small(rng: random.Random) -> us.Board:
    """A random board with a bit of everything that is saved."""
    board = random_board(rng)
    board.set_data(round=3, names=["a", {"b": 1.5}])
    if rng.random() < 0.5:
        us.fog(board, board.sides[0])
    return board


def piece() -> us.worlds.World:
    """A small world with a unit, and a side in fog."""

    def land(first: tuple[int, int], cols: int, rows: int) -> us.Board:
        return us.worlds.delta(7, cols, rows, first=first, units=False)

    made = us.worlds.World(land, 20, 12, sector=8)
    near = made.board((0, 0), 20, 12)
    cell = next(cell for cell in near.grid if near.terrain(cell) == "turf")
    made.add(us.Unit("scout", "wardens", us.Movement(4), sight=3), at=cell)
    made.fog("wardens")
    return made


def readers(many: int, seed: int) -> Counter[str]:
    """Read damaged files of every kind; how many were read, and how many refused."""
    rng, done = random.Random(f"readers {seed}"), Counter[str]()
    kinds = {"turf": 1, "mud": us.Terrain(3, glyph="~"), "deep": None}
    legend: dict[str, str | None] = {".": "turf", "~": "mud", "#": "deep"}
    colors: dict[str, str | None] = {"#ffffff": "turf", "#000000": "deep"}
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)

        def written(data: bytes, ending: str) -> Path:
            path = folder / f"level{ending}"
            path.write_bytes(data)
            return path

        def text(data: bytes) -> object:
            rows = data.decode("latin-1").splitlines()
            return us.maps.read_text(rows, legend, kinds, grid=us.HexGrid)

        def table(data: bytes) -> object:
            path = written(data, ".csv")
            return us.maps.read_table(path, {0: "turf", 1: "mud"}, kinds, grid=us.SquareGrid)

        def image(data: bytes) -> object:
            path = written(data, ".png")
            return us.maps.read_image(path, colors, kinds, grid=us.SquareGrid)

        def edits(data: bytes) -> None:
            before.copy().replay(data.decode("latin-1"))

        def world(data: bytes) -> object:
            (home / "world.json").write_bytes(data)
            return us.worlds.load_world(home).board((0, 0), 20, 12).digest()

        home = folder / "world"
        us.worlds.save_world(piece(), home)
        picture = BytesIO()
        pixels = Image.new("RGB", (7, 5), "white")
        pixels.putpixel((3, 2), (0, 0, 0))
        pixels.save(picture, "PNG")
        made = small(rng)
        before = made.copy()
        state = made.state
        made.paint("mud", next(iter(made.grid)))
        made.set_data(round=4)
        for unit in made.units():
            made.set_unit(unit.name, sight=2, attack=us.Attack(1, 2))
        every: dict[str, tuple[Callable[[bytes], object], Callable[..., bytes], bytes]] = {
            "board": (parse, as_json, dump(made).encode()),
            "text": (text, damaged, b"..~~..\n.#.~..\n..#...\n"),
            "table": (table, damaged, b"0,1,0,1\n1,1,0,0\n0,0,0,1\n"),
            "image": (image, damaged, picture.getvalue()),
            "edits": (edits, lines, made.edits(state).encode()),
            "world": (world, as_json, (home / "world.json").read_bytes()),
        }
        for number in range(many):
            for kind, (read, harm, data) in every.items():
                hurt, start = harm(data, rng), time.monotonic()
                try:
                    read(hurt)
                    done[f"{kind}: read"] += 1
                except us.UnderstepError:
                    done[f"{kind}: refused"] += 1
                except Exception as error:
                    raise SystemExit(f"{kind} {number}: {error!r}\n{hurt!r}") from error
                if time.monotonic() - start > SLOWEST:
                    raise SystemExit(f"{kind} {number}: slow\n{hurt!r}")
    return done


def kills(many: int, seed: int) -> Counter[str]:
    """Kill a process that saves a board, and one that saves a world, at any moment."""
    rng, done = random.Random(f"kills {seed}"), Counter[str]()
    board, world = us.Board(us.SquareGrid(60, 60), {"turf": 1, "mud": 2}), piece()
    places = [(3, 3), (12, 3), (3, 10)]  # in several sectors
    world.near("scout").paint("turf", places)
    with tempfile.TemporaryDirectory() as name:
        path, home = Path(name) / "level.board.json", Path(name) / "world"
        us.save(board, path)
        us.worlds.save_world(world, home)

        def save(names: list[str]) -> None:
            while True:
                for name in names:
                    board.paint(name, board.grid.cells)
                    us.save(board, path)
                    world.near("scout").paint(name, places)
                    us.worlds.save_world(world, home)

        last = "turf"
        for number in range(many):
            child = os.fork()
            if child == 0:
                save(["mud", "turf"] if last == "turf" else ["turf", "mud"])
            time.sleep(rng.random() * 0.08)
            os.kill(child, signal.SIGKILL)
            os.waitpid(child, 0)
            read = us.load(path)
            found = {read.terrain(cell) for cell in read.grid}
            near = us.worlds.load_world(home).board((0, 0), 20, 12)
            held = {near.terrain(cell) for cell in places}
            if len(found) > 1 or len(held) > 1:
                raise SystemExit(f"kill {number}: half a board, or half a world: {found}, {held}")
            done["the old board" if found == {last} else "the new board"] += 1
            (last,) = found
    return done


def threads(seconds: float, seed: int) -> Counter[str]:
    """Ask one board in eight threads at once, between its edits; then a fresh copy, alone."""
    done, end = Counter[str](), time.monotonic() + seconds
    with ThreadPoolExecutor(8) as pool:
        for number in count():
            rng = random.Random(f"threads {seed} {number}")
            board = random_board(rng)
            for _ in range(20):
                if time.monotonic() > end:
                    return done
                asked = [ask for ask in islice(asks(board, rng), 24) if ask.kind in DRAWN]
                told = list(pool.map(lambda ask, board=board: plain(ask, board), asked * 2))
                alone = [plain(ask, fresh(board)) for ask in asked]
                if told != alone * 2:
                    raise SystemExit(f"seed {seed}, board {number}: threads differ\n{dump(board)}")
                done["questions"] += len(told)
                edit(board, rng)
            done["boards"] += 1
    raise AssertionError


def plain(ask: Ask, board: us.Board) -> object:
    """An answer as plain data."""
    (overlay,) = answer(ask, board)
    return overlay.plain()


PARTS: dict[str, Callable[[Any, int], Counter[str]]] = {
    "questions": questions, "seldom": partial(questions, seldom=True), "readers": readers,
    "kills": kills, "threads": threads,
}  # fmt: skip


def main() -> None:
    """Run a part, and print what it did."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("part", choices=PARTS)
    parser.add_argument("much", type=int, help="seconds, or how many")
    parser.add_argument("--seed", type=int, default=0)
    given = parser.parse_args()
    done = PARTS[given.part](given.much, given.seed)
    for name, many in sorted(done.items()):
        print(f"| {name} | {many:,} |")


if __name__ == "__main__":
    main()
