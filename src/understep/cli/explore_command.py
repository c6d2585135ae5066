"""The command that serves a board to explore in a browser."""

from __future__ import annotations

import contextlib
import webbrowser

import click

import understep as us
from understep.cli.common import BoardArgument, say


@click.command()
@click.argument("board", type=BoardArgument())
@click.option("--port", type=click.IntRange(0, 65535), default=0, help="The port; 0: any free one.")
@click.option("--open", "opens", is_flag=True, help="Open the page in a browser.")
def explore(board: us.Board, port: int, opens: bool) -> None:
    """Explore BOARD in a browser: paint terrain, put walls and features, drag units.

    Reach, routes, threats, sight and reasons are updated. The page is served on this machine
    only, under the address that is printed. No file is changed; the page can save the board
    as a board file. Ctrl-C ends it.
    """
    from understep.explore.server import Server

    server = Server(board, port)
    say(f"explore {board.title or 'the board'} at {server.address}")
    say("Ctrl-C ends it")
    if opens:
        webbrowser.open(server.address)
    with contextlib.suppress(KeyboardInterrupt):
        server.run()
