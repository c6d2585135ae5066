"""Delta: a demo land of any size from a seed: rivers, dykes, islands and causeways.

Every cell follows from the seed and its address alone, so that a piece of the land is the same
which pieces are made before it, or beside it.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from understep.boards.attack import Attack
from understep.boards.board import Board
from understep.boards.terrain import Terrain
from understep.boards.unit import Unit
from understep.checks import truth, whole
from understep.grids.cell import Cell, CellLike, IntArray, near_cell
from understep.grids.hexes import HexGrid
from understep.grids.lattice import FloatArray
from understep.rules.movement import Movement

MOST_SEED = 1 << 32
CAMP = 32  # columns and rows of land with one unit
TERRAIN = {
    "turf": Terrain(1, glyph=".", tint="#d3dcae", pattern="dots"),
    "causeway": Terrain(1, glyph="=", tint="#e9dbb4", pattern="bricks"),
    "reeds": Terrain(2, glyph="|", tint="#bac78c", pattern="blades", cover=1),
    "mud": Terrain(3, glyph="%", tint="#cdb491", pattern="specks"),
    "shallows": Terrain(3, glyph="~", tint="#c2dadb", pattern="ripples", hazard=1),
    "deep": Terrain(None, glyph="o", tint="#8fb3c6", pattern="waves"),
    "dyke": Terrain(2, glyph="^", tint="#dcbf8c", pattern="hachures"),
    "ruin": Terrain(None, glyph="#", tint="#aaa096", pattern="crosses", cover=3),
}
NAMES = list(TERRAIN)
FOOT = Movement(points=6, drop=2)
SIDES = "wardens", "wreckers"


def delta(
    seed: int, cols: int = 96, rows: int = 64, *, first: CellLike = (0, 0), units: bool = True
) -> Board:
    """A piece of the demo map of a seed.

    Parameters
    ----------
    seed
        Which land: a whole number from 0 to 2**32 - 1.
    cols, rows
        How large a piece.
    first
        Its first cell. Pieces that overlap agree.
    units
        Whether the units that camp there are put on it: one for every 32 x 32 cells.

    Returns
    -------
    Board
        Pointy-top hexes, odd rows shifted; dykes are one level high.

    Raises
    ------
    InputError
        A seed that is not valid, or numbers that are not the size of a board.
    CellError
        ``first`` is not a cell.

    Examples
    --------
    >>> import understep as us
    >>> land = us.worlds.delta(7, 40, 30)
    >>> piece = us.worlds.delta(7, 10, 8, first=(20, 12))
    >>> all(piece.terrain(cell) == land.terrain(cell) for cell in piece.grid)
    True
    >>> [(unit.name, tuple(unit.at)) for unit in land.units()]
    [('wardens 0,0', (15, 5))]
    """
    seed = whole("seed", seed, 0, MOST_SEED - 1)
    cols, rows = whole("cols", cols, 1), whole("rows", rows, 1)
    units = truth("units", units)
    start = near_cell(first, "first")
    grid = HexGrid(cols, rows, first=start)
    board = Board(grid, dict[str, Any](TERRAIN))
    board.title = f"Delta {seed}"
    codes = _ground(seed, np.arange(cols) + start.col, np.arange(rows) + start.row)
    for code, name in enumerate(NAMES):
        board.paint(name, codes == code)
    board.set_elevation((codes == NAMES.index("dyke")).astype(float))
    board.movements["foot"] = FOOT
    if units:
        low, high = (
            np.array(cell) // CAMP for cell in (start, (start.col + cols - 1, start.row + rows - 1))
        )
        for down in range(low[1], high[1] + 1):
            for across in range(low[0], high[0] + 1):
                _camp(board, seed, int(across), int(down))
    board.forget()
    return board


def _camp(board: Board, seed: int, across: int, down: int) -> None:
    """Put down the unit that camps in a square of the land, if its cell is on the board."""
    col, row = np.arange(CAMP) + across * CAMP, np.arange(CAMP) + down * CAMP
    dry = np.isin(_ground(seed, col, row), [NAMES.index("turf"), NAMES.index("causeway")])
    if not dry.any():
        return
    # by the seed and the place alone, so that it is the same from whichever board it is asked
    luck = np.where(dry, _hash(seed + 5, col, row[:, None]) >> np.uint64(1), np.uint64(1 << 63))
    line, place = divmod(int(luck.argmin()), CAMP)
    cell = Cell(int(col[place]), int(row[line]))
    if cell in board.grid:
        side = SIDES[(across + down) % 2]
        unit = Unit(f"{side} {across},{down}", side, FOOT, sight=6, attack=Attack(1, 2))
        board.add(unit, at=cell)


def _ground(seed: int, col: IntArray, row: IntArray) -> NDArray[np.int64]:
    """The terrain code of the cells of some columns and rows, ``(rows, cols)``."""
    # sizes without a common factor, so that no pattern repeats
    height = 0.7 * _noise(seed, col, row, 23) + 0.3 * _noise(seed + 1, col, row, 7)
    river = np.abs(
        0.75 * _noise(seed + 2, col, row, 31) + 0.25 * _noise(seed + 3, col, row, 9) - 0.5
    )
    row = row[:, None]
    luck = (_hash(seed + 4, col, row) >> np.uint64(40)).astype(np.float64) / (1 << 24)
    road = (row % 20 == 10) | (col % 28 == 14)
    # a third of all crossings of rivers are kept
    bridge = _hash(seed + 6, col // 14, row // 10) % np.uint64(3) == 0
    choices = [
        ("causeway", road & ((river >= 0.03) | bridge) & ((height < 0.47) | (river < 0.09))),
        ("deep", (river < 0.03) | (height < 0.3)),
        ("shallows", (river < 0.045) | (height < 0.34)),
        ("dyke", (river < 0.06) & (height > 0.45) & (luck < 0.8)),
        ("mud", (height < 0.42) & (luck < 0.7)),
        ("reeds", (height < 0.48) | ((river < 0.08) & (luck < 0.6))),
        ("ruin", (height > 0.6) & (luck < 0.06)),
    ]
    conditions = [condition for _, condition in choices]
    found: NDArray[np.int64] = np.select(conditions, [NAMES.index(name) for name, _ in choices], 0)
    return found


def _noise(seed: int, col: IntArray, row: IntArray, size: int) -> FloatArray:
    """Smooth values from 0 to 1, between random ones at every so many columns and rows."""
    (left, x), (top, y) = (np.divmod(each, size) for each in (col, row))
    x, y = ((part / size) ** 2 * (3 - 2 * part / size) for part in (x, y))
    posts = np.arange(left[0], left[-1] + 2), np.arange(top[0], top[-1] + 2)[:, None]
    values = (_hash(seed, *posts) >> np.uint64(11)).astype(np.float64) / (1 << 53)
    one, other = values[:, left - left[0]], values[:, left - left[0] + 1]
    lines = one + (other - one) * x
    upper, lower = lines[top - top[0]], lines[top - top[0] + 1]
    smooth: FloatArray = upper + (lower - upper) * y[:, None]
    return smooth


def _hash(seed: int, col: IntArray, row: IntArray) -> NDArray[np.uint64]:
    """Random bits for cells, by the SplitMix64 finisher (Steele, Lea, Flood 2014)."""
    mixed = (col.astype(np.uint64) << np.uint64(32)) ^ (
        row.astype(np.uint64) & np.uint64(0xFFFFFFFF)
    )
    mixed = (mixed + np.uint64(seed + 1)) * np.uint64(0x9E3779B97F4A7C15)
    for shift, factor in ((30, 0xBF58476D1CE4E5B9), (27, 0x94D049BB133111EB)):
        mixed = (mixed ^ (mixed >> np.uint64(shift))) * np.uint64(factor)
    done: NDArray[np.uint64] = mixed ^ (mixed >> np.uint64(31))
    return done
