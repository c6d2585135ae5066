"""Prove: the answers on a board and on random ones, against the reference."""

from __future__ import annotations

import os
import time
from collections import Counter
from dataclasses import dataclass
from itertools import count, islice
from pathlib import Path
from random import Random
from textwrap import wrap
from typing import Any

from understep.boards.board import Board
from understep.checks import real, whole
from understep.errors import MissingExtraError
from understep.files.board_file import save
from understep.grids.cell import Cell
from understep.moves.answer import mine
from understep.study._proof_boards import edit, random_board
from understep.study._proof_questions import KINDS, Ask, Truth, answer, asks, differs
from understep.study._shrink import fresh, smaller

ROUNDS = 3  # times that a board is asked, edited in between
ASKED = 12  # questions a round
SMALLER = 5.0  # seconds to make a board smaller


@dataclass(frozen=True)
class Counterexample:
    """An answer that is not what the reference says.

    Attributes
    ----------
    ask
        The question, in words.
    how
        How the answers differ.
    board
        The smallest board found on which they do.
    edits
        What was done to the board before; empty where the board alone is enough.
    """

    ask: Ask
    how: str
    board: Board
    edits: tuple[str, ...] = ()

    def __str__(self) -> str:
        after = f" (after: {'; '.join(self.edits)})" if self.edits else ""
        return f"{self.ask}: {self.how}{after}"


@dataclass(frozen=True)
class Proof:
    """What was compared, how many times, and what differed. True where nothing did.

    Attributes
    ----------
    compared
        How many questions of each kind were asked.
    boards
        How many boards were asked.
    difference
        The first answer that is not what the reference says, on which it stopped; None: there is
        none.
    seed
        What the random boards were made with.
    """

    compared: dict[str, int]
    boards: int
    difference: Counterexample | None
    seed: int

    def __bool__(self) -> bool:
        return self.difference is None

    def plain(self) -> dict[str, Any]:
        """The proof as plain data, for JSON."""
        found = self.difference
        told = found and {"ask": str(found.ask), "how": found.how, "edits": list(found.edits)}
        return {
            "compared": self.compared, "boards": self.boards, "seed": self.seed,
            "difference": told,
        }  # fmt: skip

    def save(self, folder: str | os.PathLike[str]) -> list[Path]:
        """Write the difference as a board file and, if figures can be drawn, a picture.

        Parameters
        ----------
        folder
            Where to; made if it is not there.

        Returns
        -------
        list of Path
            The files that were written; none where nothing differed.

        Raises
        ------
        OSError
            A file cannot be written.
        """
        from understep.draw._figure import figure

        found = self.difference
        if found is None:
            return []
        where = Path(folder)
        where.mkdir(parents=True, exist_ok=True)
        path, picture = where / "difference.board.json", where / "difference.png"
        save(found.board, path)
        try:
            shown = answer(found.ask, found.board)
            title = "\n".join(wrap(f"{found.ask}: {found.how}", 100)[:2])
            figure(found.board, *shown, path=picture, title=title, labels="offset")
        except MissingExtraError:
            return [path]
        return [path, picture]


def prove(
    board: Board | None = None, *, seconds: float = 20, boards: int | None = None, seed: int = 0
) -> Proof:
    """Compare answers with those of a slow, obvious reference.

    The reference is part of this package: rules looked up one by one, in fractions, and searches
    that try everything. Compared are reaches, routes (their steps, their costs, the rule of ties),
    fields, areas, what can be attacked, lines of sight, views, and addresses of cells; on the
    board, if there is one, and on random ones with rules of every kind, which are edited and asked
    again.

    Parameters
    ----------
    board
        A board to ask first, for half of the time; it is not changed.
    seconds
        How long to go on, about; once a difference is found it takes some more, to make the board
        smaller on which it shows.
    boards
        How many random boards to ask, where it is to be the same however fast the machine is;
        None: as many as there is time for.
    seed
        What random boards and questions are made with.

    Returns
    -------
    Proof
        True in a condition where no answer differed.

    Raises
    ------
    InputError
        ``board`` is not a Board; a number that is below 0 or none.

    Examples
    --------
    >>> import understep as us
    >>> proof = us.study.prove(seconds=60, boards=2)
    >>> bool(proof), proof.boards, sum(proof.compared.values())
    (True, 2, 72)
    """
    seconds = real("seconds", seconds, "must be a number of 0 or more", 0, 1e9)
    boards = None if boards is None else whole("boards", boards, 0)
    seed = whole("seed", seed, 0)
    asked = _Asked()
    start = time.monotonic()
    if board is not None:
        asked.ask(fresh(mine(board)), Random(seed), start + seconds / 2, None)
    for number in count():
        if time.monotonic() > start + seconds or asked.difference or number == boards:
            break
        # of each board its own, so that one can be asked again without those before it
        rng = Random(f"{seed} {number}")
        asked.ask(random_board(rng), rng, start + seconds, ASKED)
    counts = {kind: asked.counts[kind] for kind in KINDS if asked.counts[kind]}
    return Proof(counts, asked.boards, asked.difference, seed)


class _Asked:
    """What was asked so far."""

    def __init__(self) -> None:
        self.boards = 0
        self.counts = Counter[str]()
        self.difference: Counterexample | None = None

    def ask(self, board: Board, rng: Random, end: float, most: int | None) -> None:
        """Ask a board, edit it and ask again; without ``most`` until the time is over."""
        self.boards += 1
        edits: list[str] = []
        for number in count():
            if most is not None and number == ROUNDS:
                return
            truth = Truth(board)
            for ask in islice(asks(board, rng), most or 4 * ASKED):
                if time.monotonic() > end:
                    return
                self.counts[ask.kind] += 1
                if told := differs(ask, truth):
                    self.difference = _least(board, ask, told, edits)
                    return
            edits += [done for done in (edit(board, rng) for _ in range(4)) if done]


def _least(board: Board, ask: Ask, told: str, edits: list[str]) -> Counterexample:
    """A difference on the smallest board; unchanged, where it depends on earlier edits."""
    cells = [arg for arg in ask.args if isinstance(arg, Cell)]

    def wrong(twin: Board) -> bool:
        return all(cell in twin.grid for cell in cells) and bool(differs(ask, Truth(twin)))

    if not wrong(fresh(board)):
        return Counterexample(ask, told, board, tuple(edits))
    board = smaller(board, wrong, ask.unit, SMALLER)
    return Counterexample(ask, differs(ask, Truth(board)), board)
