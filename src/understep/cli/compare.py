"""The command that compares ways of searching."""

from __future__ import annotations

import json
import sys

import click
from rich.console import Console
from rich.table import Table

import understep as us
from understep.cli.common import BoardArgument, CellArgument, OutputFile, say
from understep.draw._look import PAGES, PICTURES


@click.command(context_settings={"ignore_unknown_options": True})
@click.argument("board", type=BoardArgument())
@click.argument("unit")
@click.argument("to", type=CellArgument())
@click.option("--json", "as_json", is_flag=True, help="Print JSON for programs.")
@click.option("--png", type=OutputFile(PICTURES), help="Draw them side by side into FILE.")
@click.option("--html", type=OutputFile(PAGES), help="Write a page to step through A* into FILE.")
@click.option("--gif", type=click.Path(dir_okay=False), help="Write A* as an animation.")
def compare(
    board: us.Board, unit: str, to: us.Cell, as_json: bool, png: str | None, html: str | None,
    gif: str | None,
) -> None:  # fmt: skip
    """Compare four search algorithms on the route of UNIT to a cell TO. Exit status 1: no route.

    They minimise the total cost, without turns. Seconds are those of plain Python.
    """
    trials = us.study.compare(board, unit, to)
    if png is not None:
        us.draw.side_by_side(board, *trials, path=png)
    if html is not None:
        us.draw.page(board, list(us.study.trace(board, unit, to)), path=html)
    if gif is not None:
        us.draw.animate(board, next(trial for trial in trials if trial.method == "a-star"), gif)
    if as_json:
        click.echo(json.dumps([trial.plain() for trial in trials]))
    else:
        table = Table("method", "cost", "steps", "expanded", "ms", box=None, pad_edge=False)
        for trial in trials:
            cost = "no route" if trial.cost is None else f"{float(trial.cost):g}"
            steps = str(len(trial.cells) - 1) if trial.cells else ""
            table.add_row(
                trial.method, cost, steps, str(trial.expanded), f"{1000 * trial.seconds:.2f}"
            )
        say(f"{unit} to {tuple(to)} on {board.title or 'an untitled board'}")
        Console().print(table)
        for path in (png, gif):
            if path is not None:
                say(f"figure: {path}")
        if html is not None:
            say(f"page: {html}")
    if not trials[0].cells:
        sys.exit(1)
