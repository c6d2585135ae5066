"""Chance: small random boards with everything in them, and random edits."""

from __future__ import annotations

from dataclasses import replace
from random import Random
from typing import Any

import numpy as np

from understep.boards.board import Board
from understep.boards.edge import Edge
from understep.boards.feature import Feature
from understep.boards.footprint import Footprint
from understep.boards.terrain import Terrain, TerrainLike
from understep.boards.unit import Unit
from understep.errors import InputError
from understep.grids.cell import Cell
from understep.grids.grid import Grid
from understep.grids.hexes import HexGrid
from understep.grids.square import SquareGrid
from understep.rules.leap import Leap
from understep.rules.movement import Movement

EDGES = {
    "wall": Edge(blocks=True, hides=True),
    "road": Edge(cost=0.5),
    "ditch": Edge(add=1),
    "door": Edge(blocks=True, hides=True, door=True),
}
FEATURES = {
    "crate": Feature(blocks=True), "planks": Feature(cost=0.5), "trees": Feature(add=1, cover=0.5),
    "shed": Feature(add=0.5, hides=True),
}  # fmt: skip
COSTS = 1, 2, 3, 1, 2, None, 0.5, 1.5, 0.1, 0
LEVELS = 0, 0, 1, 2, 0.5
LEAPS = (
    Leap(), Leap(2, terrains=["reeds", "turf"], up=1, down=None, cost=1.5),
    Leap(0, up=None, down=0.5),
)  # fmt: skip
FEET = ((0, 0),), ((0, 0),), ((0, 0),), ((0, 0), (1, 0)), Footprint.block(2), Footprint.cluster(1)
SIDES = "wardens", "wreckers"
FEW = "points", "corners", "passes"
# what a board is about: nothing in particular, or rules that meet
THEMES = "any", "any", "free steps", "free steps", "houses", "corners", "corners", "turns", "links"


def random_board(rng: Random) -> Board:
    """A board of some thirty cells, with a scout on it, others around, and rules of every kind."""
    theme = rng.choice(THEMES)
    grid = _grid(rng, theme)
    costs = [rng.choice(COSTS if rng.random() < 0.3 else COSTS[:6]) for _ in range(3)]
    if theme in ("free steps", "turns"):
        costs = [1, 0, 0] if theme == "free steps" else [2, 3, None]
    closed = rng.choice([(), (), (), SIDES[0], SIDES[1]])
    terrain: dict[str, TerrainLike] = {
        "turf": 1, "mud": Terrain(costs[0], closed_to=closed), "reeds": Terrain(costs[1], cover=1),
        "shallows": Terrain(costs[2], cover=0.4),
    }  # fmt: skip
    board = Board(grid, terrain, edges=EDGES, features=FEATURES)
    cells = list(grid)
    for cell in cells:
        board.paint(rng.choice(["turf", *list(terrain)]), cell)
    if rng.random() < 0.5:
        for _ in range(rng.randrange(len(cells) + 1)):
            _fence(board, rng, rng.choice(cells))
    for side in rng.choice([(), (), (None,), SIDES]):
        board.block(rng.sample(cells, min(2, len(cells))), side=side)
    for kind in FEATURES if theme in ("any", "corners") and rng.random() < 0.5 else ():
        board.place(kind, rng.sample(cells, min(rng.choice([1, 1, 3]), len(cells))))
    for _ in range(5 if theme == "links" else rng.choice([0, 0, 0, 2])):
        a, b = rng.choice(cells), rng.choice(cells)
        if a != b:
            board.link(
                a,
                b,
                rng.choice([0.5, 1, 3]),
                both=rng.random() < 0.5,
                kind=rng.choice(["ferry", "x"]),
            )
    if rng.random() < 0.5:
        board.set_elevation(np.array([rng.choice(LEVELS) for _ in cells]), cells)
    places = rng.sample(cells, min(len(cells), rng.randrange(1, 8)))
    _first(board, rng, places[0], theme)
    for number, place in enumerate(places[1:]):
        everywhere = Movement(
            rng.randrange(1, 4), 1, guards=rng.random() < 0.75,
            layer=rng.choice(["ground", "ground", "air"]),
        )  # fmt: skip
        try:
            board.add(Unit(f"pikes-{number}", rng.choice(SIDES), everywhere), at=place)
        except InputError:
            continue  # nobody can stand there
        for near in grid.neighbors(place) if theme in ("houses", "corners") else ():
            straight = place.col == near.col or place.row == near.row
            if straight and rng.random() < 0.4:
                board.set_edge(place, near, rng.choice(["wall", "wall", "ditch"]))
    board.forget()
    return board


def _grid(rng: Random, theme: str) -> Grid:
    cells = 37 if theme == "any" else 17  # rules that meet do so on small boards
    cols = rng.randrange(1 if theme == "any" else 2, 9)
    rows = rng.randrange(1 if theme == "any" else 2, max(3, min(9, cells // cols)))
    exists = None
    if rng.random() < 0.4:
        exists = [[rng.random() < 0.8 for _ in range(cols)] for _ in range(rows)]
        exists[rng.randrange(rows)][rng.randrange(cols)] = True
    more: dict[str, Any] = {
        "first": (rng.randrange(-4, 5), rng.randrange(-4, 5)), "exists": exists,
    }  # fmt: skip
    if theme in ("free steps", "houses", "corners"):
        return SquareGrid(cols, rows, diagonals=True, **more)
    if rng.random() < 0.5:
        return SquareGrid(cols, rows, diagonals=rng.random() < 0.7, **more)
    top: Any = rng.choice(["pointy", "flat"])
    shifted: Any = rng.choice(["odd", "even"])
    return HexGrid(cols, rows, top=top, shifted=shifted, **more)


def _first(board: Board, rng: Random, place: Cell, theme: str) -> None:
    """The unit that is asked about."""
    pick = rng.choice
    feet = pick(FEET)
    carry = pick([0, 0, 0, 1, 2.5])
    choices: dict[str, Any] = {
        "points": pick([0, 1, 2, 3, 4, 5.5, 8]),
        "diagonal": pick([1, 1.5, 1.414] if carry else [1, 1.5, 1.414, "alternating"]),
        "corners": pick(["free", "one", "both"]),
        "passes": pick(["own", "own", "none", "all"]),
        "edges": pick([{}, {"wall": "open"}, {"ditch": None, "road": 2}]),
        "links": pick([{}, {"ferry": None}, {"ferry": 2}]),
        "features": pick([{}, {}, {"crate": "open"}, {"trees": None, "planks": 2}]),
        "climb": pick([None, None, 0, 1]),
        "drop": pick([None, None, 1.5]),
        "uphill": pick([0, 0, 1, 0.5]),
        "downhill": pick([0, 0, 0.25]),
        "footprint": feet,
        "zones": pick(["ignore", "ignore", "end", 1, 0.5]),
        "foe_corners": pick([False, True]),
        "one_step": pick([False, False, True]),
        "leap": pick([None, None, *LEAPS]) if len(feet) == 1 else None,
        "carry": carry,
    }
    if theme != "any" or rng.random() < 0.2:  # few rules: what ties say counts more
        usual = Movement(1)
        choices |= {name: getattr(usual, name) for name in choices if name not in FEW}
        choices["diagonal"] = pick([1, 1.5, 1.414])
        about: dict[str, dict[str, Any]] = {
            "free steps": {"points": pick([2, 3]), "diagonal": "alternating"},
            "houses": {"zones": pick(["end", 1])},
            "corners": {"foe_corners": True, "corners": pick(["one", "both"]), "climb": 1},
            "turns": {"points": pick([3, 4, 5])},
            "links": {"points": pick([2, 3, 4]), "leap": pick([None, Leap(1, cost=1)])},
        }
        choices |= about.get(theme, {})
    left: Any = pick([None, None, 0, 1, 2.5, 9])
    facing = pick([None, *board.grid.directions])
    unit = Unit("scout", SIDES[0], Movement(**choices), left=left, facing=facing)
    try:
        board.add(unit, at=place)
    except InputError:  # make room, for a small one
        board.paint("turf", place)
        board.clear(place)
        board.clear(place, side=SIDES[0])
        for kind in board.features(place):
            board.lift(kind, place)
        small = Movement(**{**choices, "footprint": ((0, 0),)})
        board.add(replace(unit, movement=small), at=place)


def _fence(board: Board, rng: Random, cell: Cell) -> None:
    near = list(board.grid.neighbors(cell))
    if near:
        other, kind = rng.choice(near), rng.choice(list(board.edge_kinds))
        board.set_edge(cell, other, kind, both=rng.random() < 0.75)
        if board.edge_kinds[kind].door and rng.random() < 0.5:
            board.open_edge(cell, other)


def edit(board: Board, rng: Random) -> str:
    """Do something to a board, if its rules allow it; what was done, in words."""
    cell, level = rng.choice(list(board.grid)), rng.choice(LEVELS)
    name = rng.choice(list(board.terrains))
    unit = rng.choice([unit.name for unit in board.units()] or [""])
    left, thing = rng.choice([None, 1, 2.5]), rng.choice(list(FEATURES))
    try:
        match rng.choice([0, 1, 2, 3, 3, 3, 4, 5, 6, 7]):
            case 0:
                board.paint(name, cell)
                return f"paint {name} on {tuple(cell)}"
            case 1:
                board.set_elevation(level, cell)
                return f"raise {tuple(cell)} to {level}"
            case 2 if board.edge_kinds:
                _fence(board, rng, cell)
                return f"an edge at {tuple(cell)}"
            case 3 if unit:
                board.put(unit, at=cell)
                return f"put {unit} on {tuple(cell)}"
            case 4 if unit:
                board.set_left(unit, left)
                return f"{unit} has {left} points left"
            case 5:
                board.place(thing, cell)
                return f"place {thing} on {tuple(cell)}"
            case 6:
                board.lift(thing, cell)
                return f"lift {thing} from {tuple(cell)}"
            case _:
                return "undo" if board.undo() else ""
    except InputError:
        return ""
