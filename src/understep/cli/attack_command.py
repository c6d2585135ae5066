"""The command that shows what can be attacked, and from where."""

from __future__ import annotations

import sys
from typing import Any

import click

import understep as us
from understep.cli.common import BoardArgument, output_options, say, show_answers


@click.command()
@click.argument("board", type=BoardArgument())
@click.argument("unit")
@click.argument("target", required=False)
@click.option("--stay", is_flag=True, help="Attack without moving first.")
@click.option("--threats", is_flag=True, help="Show which foes can attack the side of UNIT.")
@output_options
def attack(
    board: us.Board,
    unit: str,
    target: str | None,
    stay: bool,
    threats: bool,
    as_json: bool,
    png: str | None,
) -> None:
    """Show what UNIT can attack this turn, or the best cells to attack TARGET from.

    Exit status 1: there is no target, or TARGET cannot be attacked.
    """
    answer: Any
    if threats:
        side = board.unit(unit).side
        answer = us.threats(board, against=side)
        told = f"{len(answer.foes)} foes can attack {len(answer.cells)} cells against the {side}"
        title, done = f"{board.title}: threats to the {side}", True
        lines = [f"  {foe}: {len(answer.struck(foe))} cells" for foe in answer.foes]
    elif target is not None:
        answer = us.stands(board, unit, target)
        title, done = f"{board.title}: where {unit} can attack {target} from", bool(answer)
        told = f"{unit} at {target}: {len(answer)} stands" if done else f"no: {answer.why}"
        lines = [_stand(rank, each) for rank, each in enumerate(answer, 1)]
    else:
        answer = us.attacks(board, unit, moving=not stay)
        title, done = f"{board.title}: what {unit} can attack", bool(answer.targets)
        told = f"{unit} can attack {len(answer)} cells, {len(answer.targets)} targets"
        lines = [_target(name, answer[name]) for name in answer.targets]
    if not as_json:
        say("\n".join([told, *lines]))
    show_answers(board, answer, as_json=answer.plain() if as_json else None, png=png, title=title)
    if not done:
        sys.exit(1)


def _target(name: str, aim: us.answers.Aim) -> str:
    many = len(aim.stands)
    return f"  {name}: from {tuple(aim.stand)}, {many} stand{'s' * (many != 1)}"


def _stand(rank: int, stand: us.answers.Stand) -> str:
    away = "nowhere safe near" if stand.retreat is None else f"safety {stand.retreat} points away"
    foes = f"{stand.exposure} foe{'s' * (stand.exposure != 1)} can attack it there"
    return (
        f"  {rank}. {tuple(stand.cell)}: {stand.cost} points, {foes}, cover {stand.cover:g}, {away}"
    )
