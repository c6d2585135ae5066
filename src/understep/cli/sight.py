"""The command that shows what is seen."""

from __future__ import annotations

import sys
from typing import Any

import click

import understep as us
from understep.cli.common import (
    BoardArgument,
    CellArgument,
    output_options,
    say,
    show_answers,
    whole_numbers,
)
from understep.overlay import Mark, Overlay


@click.command(context_settings={"ignore_unknown_options": True})
@click.argument("board", type=BoardArgument())
@click.argument("who")
@click.argument("to", type=CellArgument(), required=False)
@click.option("--radius", type=int, help="Radius in cells; default: the unit's sight.")
@click.option("--eye", type=float, help="Height of the eye in levels; default: the unit's.")
@output_options
def sight(
    board: us.Board,
    who: str,
    to: us.Cell | None,
    radius: int | None,
    eye: float | None,
    as_json: bool,
    png: str | None,
) -> None:
    """Show what is seen from WHO, a unit or a cell as col,row; or whether it sees the cell TO.

    Exit status 1: TO is not seen.
    """
    numbers = whole_numbers(who)
    place: Any = who if numbers is None else us.Cell(*numbers) if len(numbers) == 2 else numbers
    found = us.view(board, place, radius=radius, eye=eye)
    answer = None if to is None else us.sees(board, place, to, radius=radius, eye=eye)
    facts: dict[str, Any] = found.plain()
    marks: dict[us.Cell, Mark] = {}
    if answer is not None:
        facts |= answer.plain()
        marks = {cell: mark for cell, mark in answer.overlay().items() if cell != answer.start}
    if not as_json:
        where = f"{who} at {tuple(found.eyes[0])}" if numbers is None else str(tuple(place))
        say(f"{where} sees {len(found)} cells" + ("" if answer is None else f"; {answer}"))
        for number, each in enumerate(() if answer is None else answer.obstacles, 1):
            over = "from no height" if each.eye is None else f"from {each.eye:g} levels up"
            say(f"{number:3}. {each.text} (seen over {over})")
    title = f"{board.title}: what {who} sees"
    content = facts if as_json else None
    show_answers(board, found, Overlay(marks, priority=3), as_json=content, png=png, title=title)
    if answer is not None and not answer:
        sys.exit(1)
