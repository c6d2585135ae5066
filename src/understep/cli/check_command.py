"""The command that checks a board."""

from __future__ import annotations

import sys

import click

import understep as us
from understep.cli.common import BoardArgument, output_options, say, show_answers


@click.command()
@click.argument("board", type=BoardArgument())
@output_options
def check(board: us.Board, as_json: bool, png: str | None) -> None:
    """Find probable mistakes in BOARD. Exit status 1: there are faults."""
    findings = us.maps.check(board)
    faults = sum(finding.weight == "fault" for finding in findings)
    if not as_json:
        hints = len(findings) - faults
        say(
            f"{board.title or 'untitled'}: {faults} fault{'s' * (faults != 1)},"
            f" {hints} hint{'s' * (hints != 1)}"
        )
        for number, finding in enumerate(findings, 1):
            say(f"{number:3}. {finding.weight}, {finding.kind}: {finding.text}")
            say(f"     {finding.suggestion}")
        say()
    content = findings.plain() if as_json else None
    title = f"{board.title}: findings"
    show_answers(board, findings, as_json=content, png=png, title=title)
    if faults:
        sys.exit(1)
