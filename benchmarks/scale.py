"""How far one machine goes: time and memory of boards and worlds against their cells."""

import subprocess
import sys
import tempfile

import peers
from ratios import resident
from rich.console import Console
from rich.table import Table
from timing import seconds

import understep as us

SIZES = 64, 256, 1000, 2000, 4000


def spent(call, times=5):
    """The least time of some calls, in milliseconds."""
    return min(seconds(call, 1) for _ in range(times)) * 1e3


def measure(size):
    """Of a board of so many columns and rows: MiB, and milliseconds of what is asked of it."""
    before = resident()
    board = peers.fen(size)
    held = resident() - before
    short = spent(lambda: peers.searched(board), 200)
    view = spent(lambda: us.view(board, "near", radius=8), 50)
    goal = us.Cell(size - 1, size - 1)
    board.remove("far")
    across = spent(lambda: us.route(board, "near", goals=goal), 3)
    copy, asked = spent(board.copy, 20), resident() - before
    with tempfile.TemporaryDirectory() as folder:
        save = spent(lambda: us.save(board, f"{folder}/board.json"), 1)
    return held / 2**20, asked / 2**20, short, view, across, copy, save


def main():
    table = Table(
        "cells", "board, MiB", "after all this, MiB", "reach of 8 points, ms", "view, ms",
        "route to a corner, ms", "copy, ms", "as a board file, ms",
    )  # fmt: skip
    for size in SIZES:  # each in a process of its own, as memory is not given back
        done = subprocess.run(
            [sys.executable, __file__, str(size)], capture_output=True, text=True, check=True
        )
        table.add_row(f"{size} x {size}", *done.stdout.split())
    Console(width=160).print(table)


if __name__ == "__main__":
    if len(sys.argv) > 1:
        print(*(f"{each:.3g}" for each in measure(int(sys.argv[1]))))
    else:
        main()
