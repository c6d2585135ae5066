"""The session: a board that is tried out in a browser, and what can be done to it."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import replace
from threading import Lock
from typing import Any

import numpy as np

from understep.boards.board import Board
from understep.draw._page import render, sheets
from understep.draw._scene import contents, land
from understep.errors import InputError
from understep.files.writer import dump
from understep.grids.cell import Cell
from understep.moves.explain import explain
from understep.rules.movement import Movement

TURNS = 3


class Session:
    """A copy of a board; nothing that is done reaches the board itself, or any file."""

    def __init__(self, board: Board) -> None:
        self._board = board.copy()
        self._cells = board.grid.cells
        #: The levels, and how often they have changed: pages say which they have drawn.
        self._levels, self._bends = self._board.elevation.copy(), 0
        self._lock = Lock()
        self._acts: dict[str, Callable[[dict[str, Any]], Any]] = {
            "paint": lambda told: self._board.paint(_text(told, "terrain"), self._all(told)),
            "level": lambda told: self._board.set_elevation(
                _number(told, "level"), self._all(told)
            ),
            "block": lambda told: self._board.block(self._all(told)),
            "clear": lambda told: self._clear(self._all(told)),
            "place": lambda told: self._board.place(_text(told, "feature"), self._all(told)),
            "edge": self._edge,
            "put": lambda told: self._board.put(_text(told, "unit"), at=self._all(told)[0]),
            "left": lambda told: self._board.set_left(_text(told, "unit"), _number(told, "points")),
            "points": self._points,
            "movement": lambda told: self._board.set_unit(
                _text(told, "unit"), movement=self._board.unit(_text(told, "of")).movement
            ),
            "undo": lambda _: self._board.undo(),
            "redo": lambda _: self._board.redo(),
        }

    def page(self, token: str, script: str) -> str:
        """The page, as things are, with another script."""
        with self._lock:
            made = land(self._board) | contents(self._board, {}) | {"sheets": {}, "threats": {}}
            made |= {"layers": [], "explained": [], "trace": [], "turns": TURNS}
            made["bends"] = self._bends
            return render(made, self._board.title, token, script)

    def act(self, told: Any) -> dict[str, Any]:
        """Do something; what has changed, and what is known of the unit that is looked at.

        Raises
        ------
        UnderstepError
            It cannot be done; nothing has changed.
        """
        do = told.get("do") if isinstance(told, dict) else None
        if not isinstance(do, str) or do not in self._acts:
            raise InputError("do", f"must be one of {', '.join(self._acts)}", told)
        with self._lock:
            self._acts[do](told)
            return self._now(told.get("unit"), told.get("seen"))

    def look(self, unit: str | None, seen: int) -> dict[str, Any]:
        """What is known of a unit now; ``seen`` says which levels the page has drawn."""
        with self._lock:
            return self._now(unit, seen)

    def explain(self, unit: str, place: int) -> str:
        """Why a unit cannot end on a cell, and what would help."""
        with self._lock:
            return str(explain(self._board, unit, self._at(place), known_to=False))

    def save(self) -> str:
        """The board as a board file."""
        with self._lock:
            return dump(self._board)

    def _now(self, unit: Any, seen: Any) -> dict[str, Any]:
        known = sheets(self._board, TURNS, [unit])
        if not np.array_equal(self._board.elevation, self._levels):
            self._levels, self._bends = self._board.elevation.copy(), self._bends + 1
        views = land(self._board)["views"] if seen != self._bends else None
        found = {"contents": contents(self._board, {}), "views": views, "bends": self._bends}
        return found | known

    def _at(self, place: Any) -> Cell:
        """A cell by its place."""
        if type(place) is not int or not 0 <= place < len(self._cells):
            raise InputError("cells", f"must be places from 0 to {len(self._cells) - 1}", place)
        return self._cells[place]

    def _all(self, told: dict[str, Any]) -> list[Cell]:
        places = told.get("cells")
        if not isinstance(places, list) or not places:
            raise InputError("cells", "must be places of cells", places)
        return [self._at(place) for place in places]

    def _clear(self, cells: list[Cell]) -> None:
        """Take all blocks and features off cells, however many there are of each."""
        board = self._board
        with board.batch():
            for side in (None, *board.blocked_sides):
                while left := [cell for cell in cells if cell in board.blocks(side=side)]:
                    board.clear(left, side=side)
            for cell in cells:
                for kind in board.features(cell):
                    board.lift(kind, cell)

    def _edge(self, told: dict[str, Any]) -> None:
        """Put an edge between two cells, or take it away."""
        kind = told.get("edge")
        cells = self._all(told)
        if len(cells) != 2:
            raise InputError("cells", "must be two", len(cells))
        name = None if kind is None else _text(told, "edge")
        self._board.set_edge(cells[0], cells[1], name)

    def _points(self, told: dict[str, Any]) -> None:
        """Give a unit other points a turn, and let it have all of them."""
        name = _text(told, "unit")
        movement = self._board.unit(name).movement
        if not isinstance(movement, Movement):
            raise InputError("unit", "its movement must be a Movement", name)
        with self._board.batch():
            self._board.set_unit(name, movement=replace(movement, points=_number(told, "points")))
            self._board.set_left(name, None)


def _text(told: dict[str, Any], key: str) -> str:
    value = told.get(key)
    if not isinstance(value, str):
        raise InputError(key, "must be a text", value)
    return value


def _number(told: dict[str, Any], key: str) -> int | float:
    value = told.get(key)
    if isinstance(value, bool) or not isinstance(value, int | float):
        raise InputError(key, "must be a number", value)
    return value


def as_json(found: dict[str, Any]) -> str:
    """An answer of the session as JSON."""
    return json.dumps(found, separators=(",", ":"), allow_nan=False)
