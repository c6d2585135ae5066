"""Small pictures for notebooks: a board, and an answer on it, as SVG with titles as tooltips."""

from __future__ import annotations

from collections.abc import Iterable
from html import escape
from typing import Any

import numpy as np

from understep.boards.board import Board
from understep.draw import _look as look
from understep.draw._figure import drawn_board
from understep.draw._roles import role_of
from understep.draw._stack import ON_ROUTE, stack
from understep.errors import printable
from understep.grids.cell import Cell

WIDEST = 640  # pixels
CELL = 28
MOST = 20_000  # cells: a picture of more would be too large for a notebook
WASHED = "reach", "field", "area", "view", "seen before", "unknown", "attack", "threat", "pass"


def small(board: Board, *answers: Any) -> str:
    """A board with answers as a small SVG; of one too large to draw its name."""
    board = drawn_board(board, answers)
    cells = board.grid.cells
    if len(cells) > MOST:
        return f"<pre>{_text(repr(board))}</pre>"
    scale = np.array([CELL, CELL * board.grid.frame.down]) / min(board.grid.cell_size)
    corners, middles = board.corners(cells) * scale, board.center(cells) * scale
    low = corners.min(axis=(0, 1)) - 4
    wide, high = (corners.max(axis=(0, 1)) + 4 - low).tolist()
    codes = board.terrain_codes()[board.grid.index(cells)].tolist()
    tints, names = look.tints(board), list(board.terrains)
    where = dict(zip(cells, middles.tolist(), strict=True))
    shapes = dict(zip(cells, (_points(each) for each in corners), strict=True))
    parts = [
        _polygon(shapes[cell], tints[code], f"{tuple(cell)} {names[code]}")
        for cell, code in zip(cells, codes, strict=True)
    ]
    for layer in stack(answers):
        parts += _marks(layer.overlay.items(), shapes, where)
        if layer.route is not None:
            line = [where[cell] for cell, mark in layer.overlay.items() if mark.role in ON_ROUTE]
            parts.append(_line(line))
    parts += _units(board, where)
    box = f"{low[0]:.1f} {low[1]:.1f} {wide:.1f} {high:.1f}"
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="{box}" width="{min(wide, WIDEST):.0f}" '
        f'style="background:{look.PAPER};max-width:100%" role="img">'
        f"<title>{_text(board.title or repr(board))}</title>{''.join(parts)}</svg>"
    )


def _marks(marks: Iterable[Any], shapes: dict[Cell, str], where: dict[Cell, Any]) -> list[str]:
    """Washes and rings for the marks of an overlay."""
    parts = []
    for cell, mark in marks:
        if cell not in shapes or mark.role in ("start", "route"):
            continue
        role = role_of(mark.role)
        number = "" if mark.number is None else f" {mark.number}"
        words = f"{tuple(cell)} {mark.role}{number} {mark.text or ''}"
        ink = role.ink[:7]
        if mark.role in WASHED:
            if mark.role == "reach":
                ink = look.TURNS[(int(mark.number or 1) - 1) % len(look.TURNS)]
            parts.append(_polygon(shapes[cell], ink, words.strip(), 0.34))
        else:
            x, y = where[cell]
            parts.append(
                f'<circle cx="{x:.1f}" cy="{y:.1f}" r="{CELL * 0.22:.1f}" fill="none" '
                f'stroke="{ink}" stroke-width="2"><title>{_text(words.strip())}</title></circle>'
            )
    return parts


def _units(board: Board, where: dict[Cell, Any]) -> list[str]:
    """A ring with two letters for each unit."""
    parts, short = [], look.short_names(board)
    for unit in board.units():
        spots = [where[cell] for cell in board.covered(unit) if cell in where]
        x, y = np.mean(spots, axis=0).tolist()
        fill, size = look.fill(board, look.side_number(board, unit)), CELL * 0.32
        parts.append(
            f"<g><title>{_text(f'{unit.name} of the {unit.side}')}</title>"
            f'<circle cx="{x:.1f}" cy="{y:.1f}" r="{size:.1f}" fill="{fill}" stroke="{look.INK}"/>'
            f'<text x="{x:.1f}" y="{y + size * 0.35:.1f}" font-size="{size:.1f}" '
            f'text-anchor="middle" fill="{_letters(fill)}">{_text(short[unit.name])}</text></g>'
        )
    return parts


def _letters(fill: str) -> str:
    red, green, blue = (int(fill[place : place + 2], 16) for place in (1, 3, 5))
    return "#ffffff" if 0.3 * red + 0.59 * green + 0.11 * blue < 115 else look.INK


def _polygon(points: str, fill: str, title: str, opacity: float = 1) -> str:
    thin = "" if opacity == 1 else f' fill-opacity="{opacity}"'
    return (
        f'<polygon points="{points}" fill="{fill[:7]}"{thin} stroke="{look.INK}" '
        f'stroke-opacity="0.15"><title>{_text(title)}</title></polygon>'
    )


def _line(spots: list[Any]) -> str:
    points = " ".join(f"{x:.1f},{y:.1f}" for x, y in spots)
    return f'<polyline points="{points}" fill="none" stroke="{look.ROUTE}" stroke-width="3"/>'


def _points(corners: Any) -> str:
    return " ".join(f"{x:.1f},{y:.1f}" for x, y in corners.tolist())


def _text(text: str) -> str:
    return escape(printable(text))
