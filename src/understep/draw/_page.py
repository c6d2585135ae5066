"""Pages: a board to explore in a browser, in one file that asks for nothing else."""

from __future__ import annotations

import os
from collections.abc import Iterable, Mapping
from importlib import resources
from typing import Any

from understep.boards.board import Board
from understep.checks import expect, path_of, whole
from understep.draw import _look as look
from understep.draw._figure import drawn_board
from understep.draw._roles import role_of
from understep.draw._scene import Places, scene
from understep.draw._stack import ON_ROUTE, Layer, stack
from understep.draw._unit_sheet import TURNS, side_threats, unit_sheet
from understep.errors import MissingExtraError
from understep.moves.explain import Explanation


def page(
    board: Board,
    *answers: Any,
    path: str | os.PathLike[str] | None = None,
    title: str | None = None,
    turns: int = TURNS,
    sides: Mapping[str, str] | None = None,
) -> str:
    """Make a page of a board to explore in a browser: one file that asks the network for nothing.

    Over a cell it says what is there; with a unit chosen, what it costs the unit to get there, by
    which route, or why it cannot. It shows reach, attacks, view and threats of every unit, and the
    answers that are given. Layers can be switched off and on, the view from above or the side.

    Parameters
    ----------
    board
        The board.
    answers
        As for `figure`; an `explain`ed refusal is shown in full; a list of what `study.trace`
        yields can be stepped through.
    path
        Where to write it too; it must end in ``.html``.
    title
        The headline; by default the board's own.
    turns
        For how many turns a unit's routes are on the page, 1 to 9.
    sides
        As for `figure`.

    Returns
    -------
    str
        The page as HTML.

    Raises
    ------
    InputError
        An answer that has no overlay, a ``path`` with another ending, turns out of range.
    MissingExtraError
        Jinja2 is not installed.
    OSError
        The file cannot be written.

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.HexGrid(4, 3), {"turf": 1, "mud": 3})
    >>> scout = board.add(us.Unit("scout", "wardens", us.Movement(points=2)), at=(1, 1))
    >>> us.draw.page(board, title="Four by three")[:15]
    '<!doctype html>'
    """
    turns = whole("turns", turns, 1, 9)
    expect("title", title, (str, type(None)), "must be a text, or None")
    chosen = look.chosen(sides)
    file = None if path is None else path_of("path", path, look.PAGES)
    moments, others = _moments(answers)
    board = drawn_board(board, others)
    made = scene(board, chosen) | sheets(board, turns)
    places = Places(board)
    made["layers"] = [_layer(layer, places) for layer in stack(others)]
    made["explained"] = [
        _explained(each, places) for each in others if isinstance(each, Explanation)
    ]
    made["trace"] = [
        [places.of([each.current])[0], float(each.cost), places.of(met.cell for met in each.met)]
        for each in moments
    ]
    text = render(made, board.title if title is None else title)
    if file is not None:
        file.write_text(text, "utf-8")
    return text


def sheets(board: Board, turns: int, names: Iterable[str] | None = None) -> dict[str, Any]:
    """What is known of units, by name, and who threatens their sides."""
    places = Places(board)
    units = [each for each in board.units() if names is None or each.name in names]
    return {
        "sheets": {unit.name: unit_sheet(board, unit, places, turns) for unit in units},
        "threats": {side: side_threats(board, side) for side in {unit.side: 0 for unit in units}},
    }


def render(made: Mapping[str, Any], title: str, live: str = "", more: str = "") -> str:
    """The page of a scene; a live one has an address for edits, and another script.

    ``live`` is the address, ``more`` the script.
    """
    try:
        from jinja2 import Environment
    except ImportError:
        raise MissingExtraError("making a page", "plot") from None
    files = resources.files("understep").joinpath("draw")
    # everything from a board goes through JSON and `textContent`, never into markup
    template = Environment(autoescape=True).from_string(
        files.joinpath("page.html").read_text("utf-8")
    )
    style, script = (files.joinpath(f"page.{end}").read_text("utf-8") for end in ("css", "js"))
    return template.render(
        title=title or "Board", scene=made, style=style, script=script, live=live, more=more
    )


def _moments(answers: tuple[Any, ...]) -> tuple[list[Any], list[Any]]:
    """The steps of a search, if there are any among the answers, and the other answers."""
    moments: list[Any] = []
    others: list[Any] = []
    for answer in answers:
        if isinstance(answer, list) and answer and all(hasattr(each, "met") for each in answer):
            moments += answer
        else:
            others.append(answer)
    return moments, others


def _layer(layer: Layer, places: Places) -> dict[str, Any]:
    """An overlay as a page draws it: by role its words, colour, cells, numbers and texts."""
    roles: dict[str, dict[str, Any]] = {}
    line: list[int] = []
    for cell, mark in layer.overlay.items():
        place = places.of([cell])
        known = role_of(mark.role)
        role = roles.setdefault(mark.role, {
            "words": known.words.split(", ")[0], "ink": known.ink,
            "cells": [], "numbers": [], "texts": [],
        })  # fmt: skip
        role["cells"] += place
        role["numbers"] += [_number(mark.number)] * len(place)
        role["texts"] += [mark.text or ""] * len(place)
        if layer.route is not None and mark.role in ON_ROUTE:
            line += place
    return {"unit": layer.name, "roles": roles, "line": line}


def _number(value: Any) -> int | float | None:
    """A mark's number as JSON holds it, rounded to what is read on a page."""
    if value is None:
        return None
    return int(value) if value == int(value) else round(float(value), 3)


def _explained(found: Explanation, places: Places) -> dict[str, Any]:
    """A full explanation, for its unit and cell."""
    return {"unit": found.unit.name, "cell": places.of([found.cell])[0], "text": str(found)}
