"""The command group, and its commands: parse, call, print."""

from __future__ import annotations

import sys
from typing import Any, get_args

import click

import understep as us
from understep.cli.attack_command import attack
from understep.cli.check_command import check
from understep.cli.common import (
    BoardArgument,
    CellArgument,
    Commands,
    WorldArgument,
    output_options,
    say,
    show_answers,
    titled,
)
from understep.cli.compare import compare
from understep.cli.convert import convert
from understep.cli.demo import demo
from understep.cli.explain_command import explain
from understep.cli.explore_command import explore
from understep.cli.prove_command import prove
from understep.cli.sight import sight
from understep.cli.survey_command import survey
from understep.draw._labels import Label, label_texts
from understep.moves.search_labels import Prefer

BOARD = click.argument("board", type=BoardArgument())


@click.group(cls=Commands, context_settings={"help_option_names": ["-h", "--help"]})
@click.version_option(us.__version__, message=f"understep %(version)s, {us.kernels()} kernel")
def main() -> None:
    """Check levels and rules for tactics games.

    BOARD is a board file, or the name of a shipped board: fen, sluice-house. A world folder is
    taken as one board, or a piece of it: FOLDER@col,row,cols,rows.
    """


main.add_command(demo)
main.add_command(attack)
main.add_command(check)
main.add_command(compare)
main.add_command(convert)
main.add_command(explain)
main.add_command(explore)
main.add_command(prove)
main.add_command(sight)
main.add_command(survey)


@main.command()
@BOARD
@click.option(
    "--labels",
    type=click.Choice(get_args(Label)),
    help="Write coordinates, exits or levels into the cells.",
)
@click.option(
    "--passable", metavar="UNIT", help="Show where UNIT could stand, without other units."
)
@output_options
def show(
    board: us.Board, labels: Label | None, passable: str | None, as_json: bool, png: str | None
) -> None:
    """Show a board: terrain, units and a legend."""
    free = [us.draw.passable(board, passable)] if passable else []
    texts = label_texts(board, labels) if labels else {}
    facts: dict[str, Any] = {
        "title": board.title,
        "grid": {"kind": board.grid.kind, "size": board.grid.size, "bounds": board.grid.bounds},
        "terrain": {name: _count(board, name) for name in board.terrains},
        "units": [{"name": unit.name, "side": unit.side, "at": unit.at} for unit in board.units()],
    }
    if labels:
        facts["labels"] = [{"cell": cell, "text": text} for cell, text in texts.items()]
    if free:
        facts["free"] = free[0].role("free")
    if not as_json:
        say(f"{board.title or 'untitled'}: {board.grid!r}")
        for overlay in free:
            many, every = len(overlay.role("free")), len(overlay)
            say(f"{passable} could stand on {many} of {every} cells")
    show_answers(board, *free, as_json=facts if as_json else None, png=png, labels=labels)


def _count(board: us.Board, name: str) -> int:
    code = list(board.terrains).index(name)
    return int((board.terrain_codes() == code).sum())


@main.command()
@BOARD
@click.argument("unit")
@click.option("--turns", default=1, show_default=True, help="The largest number of turns.")
@click.option(
    "--by",
    type=click.Choice(["turns", "cost", "routes"]),
    default="turns",
    show_default=True,
    help="Show turns, costs, or the direction back to the start.",
)
@output_options
def reach(board: us.Board, unit: str, turns: int, by: str, as_json: bool, png: str | None) -> None:
    """Show where UNIT can get."""
    found = us.reach(board, unit, turns=turns)
    if not as_json:
        at = tuple(found.unit.at or ())
        say(f"{unit} at {at}: {len(found)} cells within {turns} turn{'s' * (turns != 1)}")
    title = f"{board.title}: reach of {unit}"
    facts = found.plain() if as_json else None
    views = {"cost": us.draw.heat, "routes": us.draw.arrows}
    shown = views[by](found) if by in views else found
    show_answers(board, shown, as_json=facts, png=png, title=title)


@main.command(context_settings={"ignore_unknown_options": True})
@click.argument("board", type=WorldArgument())
@click.argument("unit")
@click.argument("to", type=CellArgument())
@click.option(
    "--prefer", type=click.Choice(get_args(Prefer)), default="straight", show_default=True
)
@click.option("--turns", type=int, help="The largest number of turns; default: any.")
@click.option("--gif", type=click.Path(dir_okay=False), help="Write the route as an animation.")
@output_options
def route(
    board: us.Board | us.worlds.World,
    unit: str,
    to: us.Cell,
    prefer: Prefer,
    turns: int | None,
    gif: str | None,
    as_json: bool,
    png: str | None,
) -> None:
    """Show the route of UNIT to a cell TO, as col,row. Exit status 1: no route.

    In a world folder, it is planned over crossings from sector to sector.
    """
    if isinstance(board, us.worlds.World):
        journey = board.plan(unit, to)
        found = journey.as_route()
        if not as_json:
            say(repr(journey) + f", {len(journey.crossings)} crossings" * bool(journey))
        # the part of the world that the picture needs
        board = titled(board.spanning([*(found.cells or [found.unit.at or to]), to], 0), "world")
    else:
        # else a goal off the board would be a no, as in a game
        board.grid.numbering.require(to, "TO")
        found = us.route(board, unit, goals=to, prefer=prefer, turns=turns)
    if not as_json:
        if found:
            turn = f"{found.turns} turn{'s' * (found.turns != 1)}"
            say(f"{unit} to {tuple(to)}: cost {found.cost}, {turn}, {len(found.steps)} steps")
            say("  " + " ".join(f"{col},{row}" for col, row in found.cells))
        else:
            near = tuple(found.nearest or ())
            say(f"{unit} to {tuple(to)}: no. {found.why}. Nearest it can get: {near}")
    if gif is not None and found:
        us.draw.animate(board, found, gif)
    title = f"{board.title}: route of {unit}"
    show_answers(board, found, as_json=found.plain() if as_json else None, png=png, title=title)
    if not found:
        sys.exit(1)
