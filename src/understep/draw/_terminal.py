"""Terminal views: a board as text, readable with and without colour."""

from __future__ import annotations

from collections import Counter
from typing import Any

import numpy as np
from rich.text import Text

from understep.boards.board import Board
from understep.draw import _look as look
from understep.draw._figure import drawn_board, overlays
from understep.draw._labels import LabelKind, label_texts
from understep.draw._roles import ROLES
from understep.errors import printable
from understep.grids.cell import Cell
from understep.overlay import Mark, Overlay

MORE = "z"  # areas that have no letter of their own


def terminal(
    board: Board,
    *answers: Any,
    width: int = 100,
    labels: LabelKind | None = None,
) -> Text:
    """Draw a board as text, with answers laid over it.

    A cell shows a sign for the answer, then its ground's glyph; a unit shows two letters in its
    side's brackets. Staggered rows are set in by half a cell, staggered columns a line lower.

    Parameters
    ----------
    board
        The board.
    answers
        A reach, a route, or overlays. With `Knowledge` the board is drawn as that side knows it.
    width
        Columns of the terminal; a board too wide for roomy cells gets narrow ones, and one too wide
        for these is shown around the answers, or the units.
    labels
        What to write into each cell instead, as in `figure`, on one line; cells become as wide as
        that needs.

    Returns
    -------
    rich.text.Text
        ``.plain`` is the text without colours.

    Raises
    ------
    InputError
        An answer that has no overlay.
    NameUnknownError
        An unknown word for ``labels``.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.HexGrid(3, 2), {"turf": us.Terrain(glyph=".")})
    >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=1)), at=(0, 0))
    >>> print(us.draw.terminal(board, us.reach(board, "scout")).plain)
    (sc) 1.   .
       1.   .   .
    """
    board, laid = drawn_board(board, answers), overlays(answers)
    grid = board.grid
    room = 4 if grid.cols * 4 + 2 <= width else 2
    texts = {each: layer[each].text or "" for layer in laid for each in layer.role("label")}
    if labels is not None:
        texts = label_texts(board, labels)
    if texts:
        texts = {cell: text.replace("\n", " ") for cell, text in texts.items()}
        room = max(map(len, texts.values())) // 2 * 2 + 2  # even, to be halved
    canvas = _TextCanvas(board, laid, room, texts, width)
    if grid.lattice.stagger == 2:
        lines = [
            canvas.line(row, shifted=shifted) for row in range(grid.rows) for shifted in (0, 1)
        ]
    else:
        lines = [canvas.line(row) for row in range(grid.rows)]
    if len(canvas.shown) < grid.cols:
        first, last = (grid.first[0] + canvas.shown[end] for end in (0, -1))
        lines.append(Text(f"columns {first} to {last} of {grid.cols}; a figure shows all"))
    return Text("\n").join(lines)


def legend(board: Board, *answers: Any) -> Text:
    """What the glyphs and signs of `terminal` mean."""
    parts = []
    for (name, kind), tint in zip(board.terrains.items(), look.tints(board), strict=True):
        cost = "-" if kind.cost is None else str(kind.cost)
        words = f" {printable(name)} {cost}"
        parts.append(Text.assemble((f" {kind.glyph} ", f"black on {tint}"), words))
    lines = [Text("  ").join(parts)]
    short = look.short_names(board)
    for side in board.sides:
        units = board.units(side)
        if units:
            left, right = look.SIDES[look.side_number(board, units[0])][1]
            names = ", ".join(f"{left}{short[unit.name]}{right} {unit.name}" for unit in units)
            lines.append(Text(printable(f"{side}: {names}")))
    kinds = Counter(edge.kind for edge in board.edges())
    if kinds:
        laid = ", ".join(f"{many} {printable(name)}" for name, many in kinds.items())
        lines.append(Text(f"edges, shown in figures only: {laid}"))
    for link in board.links():
        way = "to and from" if link.both else "to"
        lines.append(Text(f"{link.kind}: {tuple(link.a)} {way} {tuple(link.b)}, cost {link.cost}"))
    if len(board.blocks()):
        lines.append(Text("X    blocked"))
    for side in board.blocked_sides:
        if len(board.blocks(side=side)):
            lines.append(Text(f"closed to the {side}: {len(board.blocks(side=side))} cells"))
    roles = {mark.role for overlay in overlays(answers) for mark in overlay.values()}
    lines += [Text(each.meaning) for name, each in ROLES.items() if name in roles and each.meaning]
    return Text("\n").join(lines)


class _TextCanvas:
    """One board being written, cell by cell."""

    def __init__(
        self, board: Board, laid: list[Overlay], room: int, texts: dict[Cell, str], width: int
    ) -> None:
        self.board, self.room, self.texts = board, room, texts
        self.tints = look.tints(board)
        self.codes = board.terrain_codes()
        self.glyphs = [kind.glyph or "?" for kind in board.terrains.values()]
        self.short = look.short_names(board)
        self.blocked = set(board.blocks())
        self.marks: dict[Cell, Mark] = dict(Overlay.stacked(laid))
        grid = board.grid
        fit = max(1, (width - room // 2) // room)
        # of a board that is too wide, the columns around what is to be seen
        seen = (
            [cell.col for cell in self.marks]
            or [col for unit in board.units() for col, _ in board.covered(unit)]
            or [grid.first[0]]
        )
        start = (min(seen) + max(seen) + 1) // 2 - grid.first[0] - fit // 2
        start = max(0, min(start, grid.cols - fit))
        #: The columns that are shown, from 0.
        self.shown = range(start, min(start + fit, grid.cols))

    def line(self, row: int, shifted: int | None = None) -> Text:
        """One line of text: a row, or the half of one whose columns are (not) shifted."""
        grid = self.board.grid
        cells = [Cell(grid.first[0] + col, grid.first[1] + row) for col in self.shown]
        lines = grid.lattice.lines(np.array(cells)).tolist()
        text = Text()
        if grid.lattice.stagger == 1 and lines[0]:
            text.append(" " * (self.room // 2))
        for col, line, cell in zip(self.shown, lines, cells, strict=True):
            if shifted is not None and line != shifted:
                # the lower half of a cell: this row's, or where the column is shifted the last's
                above = row - line
                here = above >= 0 and grid.exists[above, col]
                style = f"on {self.tints[self.codes[above, col]]}" if here else ""
                text.append(" " * self.room, style)
                continue
            if not grid.exists[row, col]:
                text.append(" " * self.room)
                continue
            tint = self.tints[self.codes[row, col]]
            content, ink = self.content(cell, self.glyphs[self.codes[row, col]])
            text.append(content, f"{ink} on {tint}")
        text.rstrip()
        return text

    def content(self, cell: Cell, glyph: str) -> tuple[str, str]:
        """What a cell shows, and in which ink (no bold black: 16 colours make that grey)."""
        if cell in self.texts:
            return self.texts[cell].center(self.room), "black"
        unit = self.board.unit_at(cell)
        mark = self.marks.get(cell)
        if unit is not None:
            left, right = look.SIDES[look.side_number(self.board, unit)][1]
            short = self.short[unit.name]
            if mark is not None and mark.role == "target":
                left = right = ROLES["target"].sign
            return (f"{left}{short:2}{right}" if self.room == 4 else f"{short:2}"), "black"
        sign = " "
        if mark is not None and mark.role == "field":
            text = mark.text or ""
            if len(text) > self.room - 1:
                text = f"{min(mark.number or 0, 10 ** max(self.room - 1, 2) - 1):.0f}"
            return text.rjust(max(self.room - 1, 2)).ljust(self.room), "black"
        if mark is not None:
            sign = ROLES[mark.role].sign or " " if mark.role in ROLES else " "
            if mark.role == "area":
                sign = chr(min(ord("a") + int(mark.number or 0), ord(MORE)))
            if mark.role in ("reach", "threat", "stand"):
                sign = str(min(int(mark.number or 1), 9))
            elif mark.role in ("turn-end", "goal"):
                glyph = (mark.text or glyph)[-1]
        if cell in self.blocked:
            glyph = "X"
        if mark is not None and mark.role == "unknown":
            glyph = sign = ROLES["unknown"].sign
        ink = "black" if sign == " " else f"bold {look.ROUTE}"
        return (f" {sign}{glyph} " if self.room == 4 else f"{sign}{glyph}"), ink
