"""The command that serves a board to explore in a browser."""

from __future__ import annotations

import contextlib
import webbrowser

import click

import understep as us
from understep.cli.common import BoardArgument, say


@click.command()
@click.argument("board", type=BoardArgument())
@click.option("--port", type=click.IntRange(0, 65535), default=0, help="The port; 0: any.")
@click.option("--open", "opens", is_flag=True, help="Open it in a browser, too.")
def explore(board: us.Board, port: int, opens: bool) -> None:
    """Explore BOARD in a browser: paint terrain, put walls and features, drag units.

    Reach, routes, threats, sight and reasons follow. It is served on this machine alone, to those
    who have the address that is printed. No file is changed; the page saves what was made as a
    board file where you tell it to. Ctrl-C ends it.
    """
    from understep.explore.server import Server

    server = Server(board, port)
    say(f"explore {board.title or 'the board'} at {server.address}")
    say("Ctrl-C ends it")
    if opens:
        webbrowser.open(server.address)
    with contextlib.suppress(KeyboardInterrupt):
        server.run()
