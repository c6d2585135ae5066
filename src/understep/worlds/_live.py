"""Live: boards of parts of a world that it follows, and that follow it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any
from weakref import ref

import numpy as np

from understep.boards.board import Board
from understep.boards.memory import sight_of
from understep.boards.store import ABSENT
from understep.boards.unit import Unit
from understep.errors import InputError, OccupiedError, StaleError, UnderstepError
from understep.worlds._bounds import around, how_far
from understep.worlds._changes import Changes
from understep.worlds._crew import Crew
from understep.worlds._fog import Fog, Learned, Over
from understep.worlds._rect import Rect
from understep.worlds._sectors import Sectors

MOST = 8  # boards that are held for what is asked next
A_CELL = 40  # bytes, about, that a cell of one takes


class Piece:
    """What a world knows of a board that follows it: where it lies, and up to when it was read."""

    def __init__(self, rect: Rect, board: Board) -> None:
        self.rect, self.state, self.board = rect, board.state, ref(board)
        #: Whether something was done elsewhere while a batch or trial was open on it.
        self.behind = False
        #: How far from a unit anything can matter to it, with the facts on which that depends.
        self._far: dict[tuple[str, int], tuple[tuple[Any, ...], int | None]] = {}

    def forget(self) -> None:
        """Take note that the land has changed."""
        # steps may cost less now, or lead farther
        self._far.clear()

    def far(self, board: Board, unit: Unit, turns: int) -> int | None:
        """How far from a unit anything can matter to it, wherever it is; None: not known."""
        facts = (
            unit.movement, unit.attack, unit.sight, unit.sight_measure, unit.sight_per_level,
            max(unit.left, unit.movement.points),
        )  # fmt: skip
        known, far = self._far.get((unit.name, turns), ((), None))
        if len(known) != len(facts) or not all(
            a is b or a == b for a, b in zip(known, facts, strict=True)
        ):
            low, high = float(board.elevation.min()), float(board.elevation.max())
            try:
                far = how_far(unit, board, turns, high - low)
            except InputError:  # somewhere steps cost nothing
                far = None
            self._far[unit.name, turns] = facts, far
        return far


class Live:
    """The boards of a world that follow it.

    What is done on one is read when the world is asked next, and done on the others; each of them
    can be used further. ``cut`` makes a board, ``take`` lets the world be as one says it is.
    """

    def __init__(
        self, land: Sectors, crew: Crew, over: Over, cut: Callable[[Rect], Board],
        take: Callable[[Changes], None], fog: Fog, memory: int,
    ) -> None:  # fmt: skip
        self._land, self._crew, self._over, self._cut, self._take = land, crew, over, cut, take
        self._fog, self._memory = fog, memory
        #: By name of a unit what land matters to it, with the facts on which that depends.
        self._needs: dict[str, tuple[tuple[Any, ...], Rect]] = {}
        #: All that somebody has; those that are held here, too, the last asked for at the end.
        self._alive: list[Piece] = []
        self._held: list[tuple[Board, Piece]] = []

    def clear(self) -> None:
        """Let go of all."""
        self._alive.clear()
        self._held.clear()
        self._needs.clear()

    # boards

    def near(self, unit: Unit, turns: int, foes: bool) -> Board:
        """A board as large as a unit's reach in some turns, sight and attacks ask for.

        ``foes``: and those of others, with an attack, who may matter to it there.
        """
        if foes:
            need = self._need(unit, turns)
            for other in self._crew.in_order():
                if other.side != unit.side and other.attack is not None:
                    their = self._kept_need(other)
                    # a foe that gets nowhere near makes no difference
                    need = need.joined(their) if their.meets(need) else need
            return self.holding(need, unit.name)
        wanted: Rect | None = None
        for board, piece in reversed(self._held):
            if unit.name not in board._roster.values:
                continue
            far = None if self._linked(board) else piece.far(board, unit, turns)
            if far is None:
                rect = wanted = self._need(unit, turns) if wanted is None else wanted
            else:
                rect = self._inside(Rect.at(unit.at).grown(far + self._crew.wide))
            # the largest need is met, so that the answer is that of the whole world
            if piece.rect.holds_rect(rect):
                return self._again(board, piece)
        wanted = self._need(unit, turns) if wanted is None else wanted
        # some more, so that the unit can move on
        return self._hold(self._inside(wanted.grown(self._land.side // 2)))

    def holding(self, rect: Rect, name: str | None = None) -> Board:
        """A board that holds a rectangle, if possible one with a unit on it."""
        rect = self._inside(rect)
        # the last asked for first, as it is most likely to be at hand
        found = [each for each in reversed(self._held) if each[1].rect.holds_rect(rect)]
        for each in (*(each for each in found if name in each[0]._roster.values), *found):
            return self._again(*each)
        return self._hold(self._inside(rect.grown(self._land.side // 2)))

    def _linked(self, board: Board) -> bool:
        """Whether links may lead anywhere."""
        return bool(board._contents.links.values) or any(True for _ in self._over()[1])

    def _need(self, unit: Unit, turns: int) -> Rect:
        return around(self._land, self._over()[1], unit, turns, self._crew.wide)

    def _kept_need(self, unit: Unit) -> Rect:
        """The same for one turn, kept as long as the unit stays and no land changes."""
        facts = unit.at, unit.left, unit.movement, unit.attack, *sight_of(unit)
        known = self._needs.get(unit.name)
        if known is None or known[0] != facts:
            known = self._needs[unit.name] = facts, self._need(unit, 1)
        return known[1]

    def _inside(self, rect: Rect) -> Rect:
        return rect.inside(*self._land.size) or rect

    def _again(self, board: Board, piece: Piece) -> Board:
        # the board that was asked for last is the last to be let go
        if self._held[-1][0] is not board:
            self._held.remove((board, piece))
            self._held.append((board, piece))
        return board

    def _hold(self, rect: Rect) -> Board:
        board = self._cut(rect)
        piece = Piece(rect, board)
        # by a weak reference, so that a board that nobody has any more is not followed
        self._alive.append(piece)
        self._held.append((board, piece))
        cells = [board.grid.cols * board.grid.rows for board, _ in self._held]
        while len(cells) > MOST or (sum(cells) * A_CELL > self._memory and len(cells) > 1):
            del cells[0], self._held[0]
        return board

    # following

    def follows(self, board: Board) -> bool:
        """Whether a board is one of them."""
        return any(piece.board() is board for piece in self._alive)

    def follow(self, moved: str | None = None) -> None:
        """Take over what was done on any of them; ``moved`` names a unit that was elsewhere.

        Raises
        ------
        StaleError
            It collides with what was done elsewhere; what was done on that board is lost.
        """
        done: list[tuple[Board, Piece, Changes]] = []
        for piece in self._alive:
            board = piece.board()
            # inside a batch or trial nothing is done yet
            if board is not None and board.state != piece.state and board._journal.opened is None:
                done.append((board, piece, self._changes(board, piece)))
        # all are read before the changes of one are made on another
        states = [piece.state for _, piece, _ in done]
        for board, piece, _ in done:
            piece.state = board.state
        for (board, piece, changes), state in zip(done, states, strict=True):
            try:
                if moved is not None:
                    changes.known = {*changes.known, moved}
                self.check(changes)
                # a unit that sees too far for fog is refused before anything is taken over
                now = [listed.unit for listed in changes.units.values() if listed is not None]
                self._fog.check(unit for unit in now if unit.side in self._fog.sides)
            except UnderstepError as error:
                self._drop(piece)
                rule = f"what was done on a board of this world is lost: {error}; ask it anew"
                raise StaleError(rule) from error
            if changes.land:
                piece.forget()
            seers = self._fog.changed(changes)
            self._take(changes)
            learned = self._fog.take(board, piece.rect, state)
            # other boards learn of it before anybody looks at them
            self.tell(changes, board, seers, learned)
            before = board.state
            self._fog.look_in(board, piece.rect, seers)
            self._fog.take(board, piece.rect, before)
            piece.state = board.state
            self.see_beyond(seers, piece.rect)
        for piece in self._alive:
            board = piece.board()
            if piece.behind and board is not None and board._journal.opened is None:
                self._renew(board, piece)

    def check(self, changes: Changes) -> None:
        """Refuse what collides with units who were not on the board that it was done on."""
        self._crew.check(changes.units, changes.known)
        cells = set(changes.cells()) if changes.land else set()
        for unit in self._crew.partly_on(cells, {*changes.known, *changes.units}):
            rect = self._inside(Rect.at(unit.at).grown(self._crew.wide))
            ground = self._land.ground(rect, *self._over())
            if ground is None:
                continue
            changes.write(ground)
            why = ground._units.hindrance(unit, unit.at)
            if why:
                rule = f"{unit.name!r} stands there, who was not on the board as a whole: {why}"
                raise OccupiedError("board", rule, tuple(unit.at))

    def see_beyond(self, seers: list[Unit], rect: Rect | None) -> None:
        """Let sides learn what some units see, beyond the board on which they came to do so."""
        for unit in seers:
            if self._fog.looks(unit):
                sight = self._fog.sight(unit)
                if rect is None or not rect.holds_rect(sight.rect):
                    self.holding(sight.rect)
        for piece in self._alive if self._fog.sides else ():
            board = piece.board()
            if board is not None:
                self._fog.refresh(board, piece.rect)

    def _changes(self, board: Board, piece: Piece) -> Changes:
        """What has changed on a board since it was read last."""
        edges, leads = self._over()
        seams = [edge for edge in edges if piece.rect.holds((edge.a, edge.b))]
        links = [link for link in leads if piece.rect.holds((link.a, link.b))]
        found = Changes.since(board, piece.state, seams, links, self._land.side)
        return Changes.between(self._cut(piece.rect), board) if found is None else found

    def tell(
        self, changes: Changes, source: Board | None, seers: list[Unit], learned: Learned
    ) -> None:
        """Do on all boards but one what was done there, and forget what can be undone on them.

        ``seers`` are units whose view may have changed, ``learned`` what sides know since.
        """
        self._alive = [piece for piece in self._alive if piece.board() is not None]
        if changes.land:
            self._needs.clear()
        # there is no other board to tell
        elif len(self._alive) == 1 and source is not None:
            return
        cells = np.array(list(changes.cells()), dtype=np.int64).reshape(-1, 2)
        for piece in list(self._alive):
            board = piece.board()
            if board is None or board is source:
                continue
            units = dict(self._moves(changes, board, piece.rect))
            land = bool(piece.rect.within(cells).any())
            if not (units or land or seers or learned):
                continue
            # it cannot be written inside a batch or trial: it is made anew afterwards
            if board._journal.opened is not None:
                piece.behind = True
                continue
            # several acts are taken over at once; what came last a unit may have seen no more
            if changes.land or len(changes.units) > 1:
                self._fog.look_away(board, seers)
            self._write(board, changes, units)
            self._fog.look_in(board, piece.rect, seers)
            self._fog.take(board, piece.rect, piece.state)
            # a unit that went on may have seen what it sees no more where it is now
            self._fog.learn(board, learned)
            if board.state != piece.state:
                board.forget()
                piece.state = board.state
            if land:
                piece.forget()

    def _write(self, board: Board, changes: Changes, units: dict[str, Any]) -> None:
        """Do on a board what was done elsewhere; units by name, None: they are not there."""
        with board.batch():
            if changes.land:
                changes.write(board)
            for name in units:  # first all leave: two may have changed places
                if name in board._roster.values:
                    board._journal.write(board._roster, name, ABSENT)
            for name, listed in units.items():
                if listed is not None:
                    # no unit of its side may have been here before
                    board._units.enlist(listed.unit.side)
                    board._journal.write(board._roster, name, listed)

    def _renew(self, board: Board, piece: Piece) -> None:
        """Let a board be what a new one would be."""
        fresh = self._cut(piece.rect)
        changes = Changes.between(board, fresh)
        self._write(board, changes, dict(self._moves(changes, board, piece.rect)))
        for side in board.fogged:
            board.lift_fog(side)
        for side in self._fog.sides:
            self._fog.bring(board, piece.rect, side)
        board.forget()
        piece.forget()
        piece.state, piece.behind = board.state, False

    def begin(self, side: str | None) -> None:
        """Let a side begin to keep knowledge; None: let one that does no more forget."""
        # sleeping sectors are updated when they wake
        for land in self._land.awake_lands():
            self._land.settle(land)
        for piece in self._alive:
            board = piece.board()
            if board is None:
                continue
            for each in board.fogged:
                if each not in self._fog.sides:
                    board.lift_fog(each)
            if side is not None:
                self._fog.bring(board, piece.rect, side)
            board.forget()
            piece.state = board.state
        every = [listed.unit for listed in self._crew.listed.values()]
        self.see_beyond([unit for unit in every if unit.side == side], None)

    def _moves(self, changes: Changes, board: Board, rect: Rect) -> Iterator[tuple[str, Any]]:
        """The units that are not on a board as they are in the world now."""
        for name, listed in changes.units.items():
            now = listed if listed is not None and rect.holds(listed.cells) else None
            if board._roster.values.get(name) != now:
                yield name, now

    def _drop(self, piece: Piece) -> None:
        """Follow a board no more."""
        self._alive.remove(piece)
        self._held = [each for each in self._held if each[1] is not piece]
