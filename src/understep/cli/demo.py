"""``understep demo``: a full example on the shipped boards, told step by step."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import click

import understep as us
from understep.cli.common import say
from understep.cli.skirmish import Skirmish

WAYPOINTS = {
    "fen": {"wardens": [(10, 6), (14, 10), (9, 3)], "wreckers": [(10, 6), (6, 6), (2, 4)]},
    "sluice-house": {"wardens": [(7, 6), (3, 6), (7, 2)], "wreckers": [(6, 9), (7, 6), (13, 3)]},
}


@click.command()
@click.option(
    "--out",
    type=click.Path(file_okay=False, path_type=Path),
    default="understep-demo",
    show_default=True,
    help="The folder for the figures.",
)
@click.option(
    "--seed", type=click.IntRange(0), default=7, show_default=True,
    help="The seed of the skirmishes.",
)  # fmt: skip
@click.option(
    "--rounds", type=click.IntRange(0, 1000), default=6, show_default=True,
    help="Their largest number of rounds.",
)  # fmt: skip
def demo(out: Path, seed: int, rounds: int) -> None:
    """Run a full example on the shipped boards and draw it."""
    out.mkdir(parents=True, exist_ok=True)
    say(f"Under Step {us.__version__}, {us.kernels()} kernel")
    fen = us.maps.shipped("fen")
    say(f"\n1. Load a board: {fen.title}, {fen.grid!r}, {len(fen.units())} units")
    say(us.draw.terminal(fen))
    _draw(out / "fen.png", fen)

    scout = fen.unit("scout")
    reach = us.reach(fen, "scout", turns=2)
    this_turn = sum(reach[cell].turn == 1 for cell in reach)
    say(f"\n2. Where can the scout get from {tuple(scout.at or ())}?")
    say(
        f"   {this_turn} cells this turn, {len(reach)} within two; it may pass, not stop, on",
    )
    say("   " + ", ".join(str(tuple(cell)) for cell in reach.passing))
    _draw(out / "fen-reach.png", fen, reach, title="Where the scout can get in two turns")

    goal = (18, 3)
    route = us.route(fen, "scout", goals=goal)
    say(f"\n3. Its route to {goal}: cost {route.cost}, {route.turns} turns")
    _tell(route)
    _draw(out / "fen-route.png", fen, route, title=f"The scout's route to {goal}")

    punt = us.reach(fen, "punt")
    say(f"\n4. The punt keeps to water: {len(punt)} cells this turn")
    refused = us.route(fen, "punt", goals=(4, 6))
    say(f"   To (4, 6)? No: {refused.why}; nearest is {tuple(refused.nearest or ())}")
    _draw(out / "fen-refused.png", fen, punt, refused, title="Where the punt can get, and cannot")

    house = us.maps.shipped("sluice-house")
    say(f"\n5. Another board: {house.title}, {house.grid!r}")
    sapper = us.route(house, "sapper", goals=(14, 3))
    say(f"   The sapper's way upstairs: cost {sapper.cost}, {sapper.turns} turns")
    _tell(sapper)
    _draw(out / "sluice-house.png", house, us.reach(house, "sapper"), sapper)
    say(us.draw.terminal(house, sapper))

    for number, name in ((6, "fen"), (7, "sluice-house")):
        board = us.maps.shipped(name)
        say(f"\n{number}. A skirmish: {board.title}, both sides in fog, seed {seed}")
        game = Skirmish(board, WAYPOINTS[name], seed)
        for line in game.play(rounds):
            say(f"   {line}")
        for moment in game.moments.values():
            path = out / f"{name}-{moment.name}.png"
            _draw(path, moment.board, *moment.answers, title=moment.title)
    say("\n8. A page to explore in a browser: point at cells, choose units")
    try:
        us.draw.page(fen, us.explain(fen, "ox-cart", (4, 1)), path=out / "fen.html")
        say("   -> fen.html")
    except us.errors.MissingExtraError as error:
        say(f"   (no page: {error})")
    say(f"\nThe figures and the page are in {out.resolve()}")


def _tell(route: us.Route) -> None:
    """One line for each turn of a route."""
    for turn in range(1, (route.turns or 0) + 1):
        steps = [step for step in route.steps if step.turn == turn]
        if steps:
            way = " ".join(f"{step.cell.col},{step.cell.row}" for step in steps)
            say(f"   turn {turn}: {way}, {steps[-1].left} points left")


def _draw(path: Path, board: us.Board, *answers: Any, **drawing: Any) -> None:
    try:
        us.draw.figure(board, *answers, path=path, **drawing)
        say(f"   -> {path.name}")
    except us.errors.MissingExtraError as error:
        say(f"   (no figure: {error})")
