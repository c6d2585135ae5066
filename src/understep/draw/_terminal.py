"""Terminal views: a board as text, readable with and without colour."""

from __future__ import annotations

from collections import Counter
from typing import Any

import numpy as np
from rich.text import Text

from understep.boards.board import Board
from understep.checks import truth, whole
from understep.draw import _look as look
from understep.draw._figure import drawn_board
from understep.draw._labels import LabelKind, label_texts
from understep.draw._roles import ROLES, role_of
from understep.draw._stack import stack
from understep.errors import printable
from understep.grids.cell import Cell, CellLike
from understep.overlay import Mark, Overlay, Overlays

MORE = "z"  # areas that have no letter of their own


def terminal(
    board: Board,
    *answers: Any,
    width: int = 100,
    labels: LabelKind | None = None,
    first: CellLike | None = None,
    numbers: bool = False,
    edges: bool = False,
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
    first
        The column and row to begin with, of a board that is too wide.
    numbers
        Whether the numbers of columns and rows stand along the edges.
    edges
        Whether roomy cells hint at edges: ``|`` on a side to the left, ``_`` on one below.

    Returns
    -------
    rich.text.Text
        ``.plain`` is the text without colours.

    Raises
    ------
    InputError
        An answer that has no overlay, a width that is not a whole number of 1 or more, or
        ``numbers`` or ``edges`` that is not True or False.
    NameUnknownError
        An unknown word for ``labels``.
    CellError
        ``first`` is not a cell of the board.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.HexGrid(3, 2), {"turf": us.Terrain(glyph=".")})
    >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=1)), at=(0, 0))
    >>> print(us.draw.terminal(board, us.reach(board, "scout")).plain)
    (sc) 1.   .
       1.   .   .
    """
    board, laid = drawn_board(board, answers), [each.overlay for each in stack(answers)]
    width = whole("width", width, 1)
    numbers, edges = truth("numbers", numbers), truth("edges", edges)
    grid = board.grid
    room = 4 if grid.cols * 4 + 2 <= width else 2
    roles = "label", "back", "onward"  # without a direction: from a link or leap
    # what is written on cells decides how wide they are
    texts = {each: layer[each].text or "*" for layer in laid for each in layer.role(*roles)}
    if labels is not None:
        texts = label_texts(board, labels)
    if texts:
        texts = {cell: text.replace("\n", " ") for cell, text in texts.items()}
        room = max(room, max(map(len, texts.values())) // 2 * 2 + 2)  # even, to be halved
    corner = None if first is None else grid.numbering.require(first, "first")
    margin = max(len(str(row)) for row in (grid.first[1], grid.bounds[1].row)) + 1 if numbers else 0
    canvas = _TextCanvas(board, laid, room, texts, width - margin)
    if corner is not None:
        canvas.begin(corner.col - grid.first[0])
    rows = range(0 if corner is None else corner.row - grid.first[1], grid.rows)
    if edges and room == 4 and not texts:
        canvas.hint()
    # every second column is half a cell lower: a row takes two lines
    halves = (0, 1) if grid.lattice.stagger == 2 else (None,)
    lines = []
    for row in rows:
        for half in halves:
            number = str(grid.first[1] + row) if numbers and not half else ""
            aside = Text(number.rjust(max(0, margin - 1)).ljust(margin))
            lines.append(aside + canvas.line(row, shifted=half))
    # the first row is at the bottom there, as in a figure
    if grid.frame.mirrored:
        lines.reverse()
    if numbers:
        lines.insert(0, Text(" " * margin + canvas.columns()))
    if len(canvas.shown) < grid.cols:
        low, high = (grid.first[0] + canvas.shown[end] for end in (0, -1))
        lines.append(Text(f"columns {low} to {high} of {grid.cols}; a figure shows all"))
    return Text("\n").join(lines)


def legend(board: Board, *answers: Any) -> Text:
    """What the glyphs and signs of `terminal` mean."""
    parts = []
    for (name, kind), tint in zip(board.terrains.items(), look.tints(board), strict=True):
        cost = "-" if kind.cost is None else str(kind.cost)
        words = f" {printable(name)} {cost}"
        parts.append(Text.assemble((f" {kind.glyph} ", f"black on {tint}"), words))
    lines = [Text("  ").join(parts)]
    lying = Counter(dict.fromkeys(board.feature_kinds, 0))
    for each, cells in board.features():
        # one entry for a kind, however many lie there
        lying[each] += len(cells)
    if lying.total():
        words = ", ".join(
            f"{board.feature_kinds[name].glyph} {printable(name)} ({many})"
            for name, many in lying.items()
            if many
        )
        lines.append(Text(f"features: {words}"))
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
        lines.append(Text(f"edges, hinted at by | and _: {laid}"))
    for link in board.links():
        way = "to and from" if link.both else "to"
        lines.append(Text(f"{link.kind}: {tuple(link.a)} {way} {tuple(link.b)}, cost {link.cost}"))
    if len(board.blocks()):
        lines.append(Text("X    blocked"))
    for side in board.blocked_sides:
        if len(board.blocks(side=side)):
            lines.append(Text(f"closed to the {side}: {len(board.blocks(side=side))} cells"))
    roles = {mark.role for layer in stack(answers) for mark in layer.overlay.values()}
    named = [name for name in ROLES if name in roles] + sorted(roles - set(ROLES))
    lines += [Text(printable(role_of(name).meaning)) for name in named if role_of(name).meaning]
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
        #: The glyph of the first feature on a cell.
        self.features: dict[Cell, str] = {}
        for kind, cells in board.features():
            for cell in cells:
                self.features.setdefault(cell, board.feature_kinds[kind].glyph or "?")
        self.marks: dict[Cell, Mark] = dict(Overlays(laid).flat())
        grid = board.grid
        # half a cell is left for the shift of every second row
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
        self._fit, self._hints = fit, dict[Cell, set[str]]()

    def begin(self, col: int) -> None:
        """Show the columns from one on."""
        self.shown = range(col, min(col + self._fit, self.board.grid.cols))

    def columns(self) -> str:
        """The numbers of the columns, as many as have room."""
        found, first = "", self.board.grid.first[0]
        for place, col in enumerate(self.shown):
            number = str(first + col)
            at = place * self.room + (1 if self.room == 4 else 0)
            # a number that would run into the one before is left out
            if len(found) < at or not found:
                found = found.ljust(at) + number
        return found

    def hint(self) -> None:
        """Find the cells with an edge to the left or below, as the board is drawn."""
        board = self.board
        for edge in board.edges():
            for a, b in ((edge.a, edge.b), (edge.b, edge.a)):
                (x, y), (other_x, other_y) = board.grid.center([a, b])
                # a hair more than equal, so that slanting edges do not flicker between both
                if abs(other_x - x) > abs(other_y - y) * 1.01:
                    sign = "|" if other_x < x else ""
                else:
                    sign = "_" if (other_y - y) * board.grid.frame.down > 0 else ""
                self._hints.setdefault(a, set()).add(sign)

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
        # else copied text would end in blanks
        text.rstrip()
        return text

    def content(self, cell: Cell, glyph: str) -> tuple[str, str]:
        """What a cell shows, and in which ink (no bold black: 16 colours make that grey)."""
        if cell in self.texts:
            return self.texts[cell].center(self.room), "black"
        unit = self.board.unit_at(cell)
        mark = self.marks.get(cell)
        glyph = "X" if cell in self.blocked else self.features.get(cell, glyph)
        if unit is not None:
            left, right = look.SIDES[look.side_number(self.board, unit)][1]
            short = self.short[unit.name]
            if mark is not None and mark.role == "target":
                left = right = ROLES["target"].sign
            return (f"{left}{short:2}{right}" if self.room == 4 else f"{short:2}"), "black"
        sign = " "
        if mark is not None and mark.role == "field":
            text = mark.text or ""
            # a cost that has no room is cut to a whole number, not in its digits
            if len(text) > self.room - 1:
                text = f"{min(mark.number or 0, 10 ** max(self.room - 1, 2) - 1):.0f}"
            return text.rjust(max(self.room - 1, 2)).ljust(self.room), "black"
        if mark is not None:
            sign = role_of(mark.role).sign or " "
            if mark.role == "area":
                sign = chr(min(ord("a") + max(0, int(mark.number or 0)), ord(MORE)))
            if mark.role in ("reach", "threat", "stand"):
                sign = str(min(int(mark.number or 1), 9))
            elif mark.role in ("turn-end", "goal"):
                glyph = (mark.text or glyph)[-1]
        if mark is not None and mark.role == "unknown":
            glyph = sign = ROLES["unknown"].sign
        ink = "black" if sign == " " else f"bold {look.ROUTE}"
        hints = self._hints.get(cell, ())
        left, below = ("|" if "|" in hints else " "), ("_" if "_" in hints else " ")
        return (f"{left}{sign}{glyph}{below}" if self.room == 4 else f"{sign}{glyph}"), ink
