"""``understep explain``: why a unit cannot end on a cell, and what would help."""

from __future__ import annotations

import sys
from typing import Any

import click

import understep as us
from understep.cli.common import BoardArgument, CellArgument, output_options, say, show_answers


@click.command(context_settings={"ignore_unknown_options": True})
@click.argument("board", type=BoardArgument())
@click.argument("unit")
@click.argument("cell", type=CellArgument())
@output_options
def explain(board: us.Board, unit: str, cell: us.Cell, as_json: bool, png: str | None) -> None:
    """Explain why UNIT cannot end on CELL this turn, and what would help.

    Exit status 1: it cannot. The figure marks the obstacles and the route that the remedy opens.
    """
    board.grid.numbering.require(cell, "CELL")
    told = us.explain(board, unit, cell)
    answers: list[Any] = [told]
    better = told.remedied()
    if better is not None:
        route = us.route(better, unit, cell, known_to=False)
        answers = [route, told] if route else answers
    if not as_json:
        say(f"{unit} to {tuple(cell)}: {'yes, this turn' if told else 'no'}")
        for number, obstacle in enumerate(told.obstacles, 1):
            say(f"  {number}. {obstacle.text}")
        if told.remedy is not None:
            fewest = " (no fewer changes would do)" * (told.minimal and told.remedy.size > 0)
            say(f"It could: {told.remedy}{fewest}")
    title = f"{board.title}: {unit} to {tuple(cell)}"
    facts = told.plain() if as_json else None
    show_answers(board, *answers, as_json=facts, png=png, title=title)
    if not told:
        sys.exit(1)
