"""The command that compares answers with the reference."""

from __future__ import annotations

import json
import sys

import click
from rich.console import Console
from rich.table import Table

import understep as us
from understep.cli.common import BoardArgument, say
from understep.moves.answer import amount


@click.command()
@click.argument("board", type=BoardArgument(), required=False)
@click.option("--seconds", default=20.0, show_default=True, help="About how long to run.")
@click.option("--seed", default=0, show_default=True, help="The seed of the random boards.")
@click.option(
    "--out", default="difference", show_default=True, type=click.Path(file_okay=False),
    help="The folder for a difference: a board file and a picture.",
)  # fmt: skip
@click.option("--json", "as_json", is_flag=True, help="Print JSON for programs.")
def prove(board: us.Board | None, seconds: float, seed: int, out: str, as_json: bool) -> None:
    """Compare answers on BOARD and on random boards with a slow, obvious reference.

    Exit status 1: an answer differs.
    """
    proof = us.study.prove(board, seconds=seconds, seed=seed)
    written = proof.save(out)
    if as_json:
        click.echo(json.dumps({**proof.plain(), "files": [str(path) for path in written]}))
    else:
        table = Table("what")
        table.add_column("compared", justify="right")
        for kind, times in proof.compared.items():
            table.add_row(kind, f"{times:,}")
        say(f"{us.kernels()} kernel, {amount(proof.boards, 'board')}, seed {seed}")
        Console().print(table)
        say("no difference" if proof else f"different: {proof.difference}")
        for path in written:
            say(f"written: {path}")
    if not proof:
        sys.exit(1)
