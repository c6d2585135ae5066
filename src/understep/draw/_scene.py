"""The scene: what a page draws of a board, as plain data; cells by their place in the grid."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any, cast

import numpy as np

from understep.boards.board import Board
from understep.draw import _features as features
from understep.draw import _fences as fences
from understep.draw import _look as look
from understep.draw._figure import FRAMES
from understep.grids.cell import Cell
from understep.grids.depth import depth_order
from understep.maps._resize import reframe

WIDE = 40  # how large a cell is drawn, in units of the drawing
SYSTEMS = {"hex": ("offset", "axial", "cube", "doubled"), "square": ("offset",)}


class Places:
    """The place of each cell among those of a grid."""

    def __init__(self, board: Board) -> None:
        self._numbering = board.grid.numbering
        cells = board.grid.cells.array
        self._by_number = np.full(board.grid.cols * board.grid.rows, -1, dtype=np.int64)
        self._by_number[self._numbering.numbers(cells)] = np.arange(len(cells))

    def of(self, cells: Iterable[Cell]) -> list[int]:
        """Of some cells; those off the board are left out."""
        array = np.array(list(cells), dtype=np.int64).reshape(-1, 2)
        return self.numbered(self._numbering.numbers(array[self._numbering.holds(array)]))

    def numbered(self, numbers: Any) -> list[int]:
        """Of cells by number."""
        found: list[int] = self._by_number[numbers].tolist()
        return found


def scene(board: Board, sides: Mapping[str, str]) -> dict[str, Any]:
    """All that a page needs to draw a board: how it lies, and what is there."""
    return land(board) | contents(board, sides)


def land(board: Board) -> dict[str, Any]:
    """What does not change as long as the grid, levels and terrains are the same."""
    grid, cells = board.grid, board.grid.cells.array
    systems = {
        name: cells if name == "offset" else cast(Any, grid).convert(cells, "offset", name)
        for name in SYSTEMS[grid.kind]
    }
    own = "isometric" if grid.frame.projection == "isometric" else "plan"
    return {
        "title": board.title, "kind": grid.kind, "cells": cells.tolist(), "own": own,
        "systems": {name: each.astype(int).tolist() for name, each in systems.items()},
        "terrains": [
            {
                "name": name, "tint": tint, "cost": _cost(kind.cost),
                "strokes": look.STROKES[look.pattern(kind)],
            }
            for (name, kind), tint in zip(board.terrains.items(), look.tints(board), strict=True)
        ],
        "edge_styles": {name: list(style[:2]) for name, style in fences.STYLES.items()},
        "edge_kinds": list(board.edge_kinds),
        "feature_kinds": list(board.feature_kinds),
        "views": {name: _view(reframe(board, frame)) for name, frame in FRAMES.items()},
        "colors": {
            "turns": look.TURNS, "route": look.ROUTE, "routes": look.ROUTES,
            "strike": look.STRIKE, "ink": look.INK, "face": look.FACE, "faint": look.FAINT,
        },
    }  # fmt: skip


def contents(board: Board, sides: Mapping[str, str]) -> dict[str, Any]:
    """What lies and stands on a board now."""
    places, cells = Places(board), board.grid.cells
    codes = board.terrain_codes()[board.grid.index(cells)]
    levels = board.elevation[board.grid.index(cells)]
    lying: dict[str, list[Cell]] = {}
    for kind, where in board.features():
        lying.setdefault(kind, []).extend(where)
    kinds = board.feature_kinds
    short = look.short_names(board)
    return {
        "codes": codes.tolist(),
        "levels": levels.tolist() if levels.any() else None,
        "features": [
            {
                "name": name, "glyph": kinds[name].glyph, "tint": kinds[name].tint or look.PAPER,
                "words": features.words(name, kinds[name]), "cells": places.of(found),
            }
            for name, found in lying.items()
        ],
        "edges": {name: _edges(reframe(board, frame)) for name, frame in FRAMES.items()},
        "links": [
            [*places.of([link.a, link.b]), link.kind, _cost(link.cost), link.both]
            for link in board.links()
        ],
        "blocks": [
            {"words": look.blocked(side)[1], "cells": places.of(board.blocks(side=side))}
            for side in (None, *board.blocked_sides)
        ],
        "units": [
            {
                "name": unit.name, "side": unit.side, "short": short[unit.name],
                "cells": places.of(board.covered(unit)), "at": places.of([unit.at])[0],
                "left": unit.left, "points": unit.movement.points, "facing": unit.facing,
                "fill": look.fill(board, look.side_number(board, unit), sides),
                "shape": look.SIDES[look.side_number(board, unit)][0],
            }
            for unit in board.units()
        ],
    }  # fmt: skip


def _cost(cost: Any) -> Any:
    return None if cost is None else float(cost) if cost % 1 else int(cost)


def _view(board: Board) -> dict[str, Any]:
    """How the cells lie on the screen: x to the right, y downwards."""
    cells, frame = board.grid.cells, board.grid.frame
    scale = np.array([WIDE, WIDE * frame.down]) / min(board.grid.cell_size)
    corners, middles = board.corners(cells) * scale, board.center(cells) * scale
    levels = board.elevation[board.grid.index(cells)]
    drop = frame.lift * (levels - min(0.0, board.elevation.min())) * abs(scale[1])
    feet = corners + np.stack([0 * drop, drop], axis=-1)[:, None]
    every = np.concatenate([corners.reshape(-1, 2), feet.reshape(-1, 2)])
    return {
        "box": _round([every.min(axis=0), every.max(axis=0)]),
        "corners": _round(corners.reshape(len(corners), -1)),
        "middles": _round(middles),
        "drop": _round(drop) if drop.any() else None,
        "order": depth_order(board.grid, cells.array).tolist(),
        "size": _round(np.array(board.grid.cell_size) * abs(scale)),
    }


def _edges(board: Board) -> dict[str, Any]:
    """The lines of edges by style: x1, y1, x2, y2."""
    scale = np.array([WIDE, WIDE * board.grid.frame.down]) / min(board.grid.cell_size)
    return {
        name: _round([(line * scale).ravel() for line, _ in every])
        for name, every in fences.strokes(board).items()
        if every
    }


def _round(values: Any) -> Any:
    found = np.round(np.asarray(values, dtype=float), 1)
    return np.where(found == 0, 0.0, found).tolist()
