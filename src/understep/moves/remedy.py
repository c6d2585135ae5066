"""Remedy: the changes that would turn a no into a yes."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from typing import Any, NamedTuple

import numpy as np

from understep.boards.board import Board
from understep.boards.contents import Contents
from understep.boards.cost import Cost, fraction
from understep.boards.footprint import ONE
from understep.grids.cell import Cell
from understep.moves.answer import amount, amount_of, mine
from understep.moves.obstacle import Obstacle, listed
from understep.rules.movement import Movement

#: What a movement says instead where a rule is lifted, and words for it.
LIFTED: dict[str, dict[str, Any]] = {
    "slope": {"climb": None, "drop": None}, "corner": {"corners": "free", "foe_corners": False},
    "size": {"footprint": ONE}, "rule": {"rule": None}, "unknown": {}, "zone": {"zones": "ignore"},
}  # fmt: skip
WORDS = {
    "slope": "with no limit to climb and drop", "corner": "cutting corners",
    "size": "if it took up one cell", "rule": "without the rule of its movement",
    "unknown": "if what is unknown were open to it", "zone": "with no heed of zones of control",
}  # fmt: skip


class Remedy(NamedTuple):
    """What would allow a unit to end on a cell: all of it together is sufficient.

    Attributes
    ----------
    units
        The units to remove, by name.
    features
        The features to lift, each by its kind and cell.
    blocks
        The blocks to clear, each by the side it is for (None: everybody) and its cell.
    edges
        The edges to clear, each by its two cells.
    terrain
        The cells to give another terrain, with its name: the cheapest that is open to the unit.
    rules
        The rules to lift: "slope", "corner", "size", "rule", "unknown", "zone".
    turns
        In how many turns it gets there then.
    points
        Points more with which it would get there this turn; 0: it does without, None: with no
        number of points.
    text
        The same in words.
    """

    units: tuple[str, ...] = ()
    features: tuple[tuple[str, Cell], ...] = ()
    blocks: tuple[tuple[str | None, Cell], ...] = ()
    edges: tuple[tuple[Cell, Cell], ...] = ()
    terrain: tuple[tuple[Cell, str], ...] = ()
    rules: tuple[str, ...] = ()
    turns: int = 1
    points: Cost | None = 0
    text: str = ""

    def __str__(self) -> str:
        return self.text

    @property
    def size(self) -> int:
        """How many things and rules it names, turns and points apart."""
        parts = (
            self.units, self.features, self.blocks, self.edges, self.terrain, self.rules,
        )  # fmt: skip
        return sum(map(len, parts))

    def apply(self, board: Board) -> None:
        """Make the changes on a board, such as a copy: all but rules, turns and points.

        Raises
        ------
        InputError
            ``board`` is not a board, or what is named is not there; the board is as it was.

        Examples
        --------
        >>> import understep as us
        >>> board = us.Board(us.SquareGrid(5, 1), {"turf": 1, "deep": None})
        >>> board.paint("deep", (2, 0))
        >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=4)), at=(0, 0))
        >>> answer = us.explain(board, "scout", (4, 0))
        >>> print(answer.remedy)
        with 'turf' at (2, 0)
        >>> answer.remedy.apply(board)
        >>> bool(us.explain(board, "scout", (4, 0)))
        True
        """
        with mine(board).batch():
            for unit in self.units:
                board.remove(unit)
            for kind, cell in self.features:
                board.lift(kind, cell)
            for side, cell in self.blocks:
                board.clear(cell, side=side)
            for a, b in self.edges:
                board.set_edge(a, b, None)
            for cell, name in self.terrain:
                board.paint(name, cell)

    def movement(self, movement: Movement) -> Movement:
        """A movement with the rules lifted.

        Examples
        --------
        >>> import understep as us
        >>> board = us.maps.shipped("fen")
        >>> cart = board.unit("ox-cart")
        >>> remedy = us.explain(board, "ox-cart", (10, 3)).remedy
        >>> remedy.movement(cart.movement).points
        5
        """
        return lift(movement, self.rules)


def lift(movement: Movement, rules: Iterable[str]) -> Movement:
    """A movement without some rules."""
    facts: dict[str, Any] = {}
    for rule in rules:
        facts |= LIFTED[rule]
    return replace(movement, **facts) if facts else movement


def revealed(board: Board, name: str) -> Board:
    """A copy of what a side knows in which unknown cells are of a terrain, and known."""
    twin = board.copy()
    unseen = np.flatnonzero(board._contents.unseen)
    stores = {key: part for key, part in twin._contents.stores.items() if key[0] != "unseen"}
    # without a side: what it did not know is known now
    made = Contents(twin.grid, twin._contents.declared, stores)
    twin._set_up(made, twin._roster, twin._journal)
    code = made.terrain_names.index(name)
    # nobody that stands there is asked: nothing is known of the cells
    twin._journal.write(made.terrain, np.intersect1d(unseen, twin.grid.numbering.existing), code)
    return twin


def remedy_of(things: list[Obstacle], open_to: str, rules: Iterable[str]) -> Remedy:
    """The remedy for some obstacles, turns and points apart; ``open_to``: the terrain to give."""
    kinds: dict[str, list[Obstacle]] = {}
    for thing in things:
        kinds.setdefault(thing.kind, []).append(thing)
    return Remedy(
        tuple(name for each in kinds.get("unit", ()) for name in each.names),
        tuple((each.names[0], each.cell) for each in kinds.get("feature", ())),
        tuple((each.names[0] or None, each.cell) for each in kinds.get("block", ())),
        tuple((each.between[0], each.between[1]) for each in kinds.get("edge", ())),
        tuple((each.cell, open_to) for each in kinds.get("terrain", ())),
        tuple(rules),
    )


def with_text(remedy: Remedy, things: list[Obstacle]) -> Remedy:
    """The same with its text; ``things`` are what it takes away."""
    # the remedy names edges by their cells alone
    kinds = {each.between: each.names[0] for each in things if each.kind == "edge"}
    gone = [repr(name) for name in remedy.units]
    # a cell can hold several of a kind
    gone += [f"the {kind!r} at {tuple(cell)}" for kind, cell in dict.fromkeys(remedy.features)]
    gone += [f"the block at {tuple(cell)}" for _, cell in dict.fromkeys(remedy.blocks)]
    gone += [f"the {kinds[a, b]!r} between {tuple(a)} and {tuple(b)}" for a, b in remedy.edges]
    parts = [f"without {listed(gone)}"] if gone else []
    if remedy.terrain:
        cells = listed([str(tuple(cell)) for cell, _ in remedy.terrain])
        parts.append(f"with {remedy.terrain[0][1]!r} at {cells}")
    parts += [WORDS[rule] for rule in remedy.rules]
    choices = []
    if remedy.points:
        choices.append(f"with {amount_of(fraction(remedy.points))} more")
    if remedy.turns > 1:
        choices.append(f"in {amount(remedy.turns, 'turn')}")
    words = listed(parts)
    if not words:
        words = ", or ".join(choices)
    elif choices:
        either = "either " if len(choices) > 1 else ""
        words = f"{words}, and {either}{' or '.join(choices)}"
    return remedy._replace(text=words)
