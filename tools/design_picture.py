"""Draw the layers of the package, and the path of a query and an edit through them.

``python tools/design_picture.py`` writes docs/design.png.
"""

from itertools import pairwise
from pathlib import Path

import matplotlib.pyplot as plt

from understep.draw import _look as look

LAYERS = [  # from the top
    ("cli", "commands"), ("explore", "a live page"), ("study", "surveys, traces, proof"),
    ("draw", "figures, terminal"),
    ("maps", "levels, resize, check"), ("files", "board files, worlds on disk"),
    ("worlds", "maps in sectors"), ("behaviors", "approach, patrol"), ("actions", "attacks, walks"),
    ("sight", "views, fog"), ("moves", "reach, route, field"), ("rules", "step tables"),
    ("boards", "contents, units, journal"), ("grids", "cells, geometry"),
    ("kernels", "arrays in, arrays out"), ("errors", "error tree, checks"),
]  # fmt: skip
QUERY = [
    ("moves", "reach() checks its arguments"), ("boards", "known unit, board of its side"),
    ("moves", "Mover: rules as numbers, kept"), ("rules", "step table, refreshed"),
    ("kernels", "Search.run() closes labels"), ("moves", "Labels, Reach"),
]  # fmt: skip
EDIT = [
    ("boards", "paint() finds cells and code"), ("boards", "checks units on these cells"),
    ("boards", "Journal.write(): a Layer, undo"), ("boards", "Derived.touched(cells)"),
    ("rules", "step tables note them"), ("sight", "so do views and fog"),
]  # fmt: skip


def path(axes, places, left, steps, title, ink):
    """A column of numbered steps, each on the layer where it happens, joined by arrows."""
    axes.text(left + 1.9, 0.3, title, ha="center", color=ink, size=13, family="serif")
    points = [(left + 0.76 * step, places[name]) for step, (name, _) in enumerate(steps)]
    for before, after in pairwise(points):
        axes.annotate(
            "", after, before, zorder=1,
            arrowprops={"arrowstyle": "-|>", "color": ink, "lw": 1.6, "shrinkA": 9, "shrinkB": 9},
        )  # fmt: skip
    for number, ((x, y), (_, words)) in enumerate(zip(points, steps, strict=True), 1):
        axes.plot(x, y, "o", ms=17, mfc=look.PAPER, mec=ink, mew=1.8, zorder=2)
        axes.text(x, y, str(number), ha="center", va="center_baseline", color=ink, size=10)
        axes.text(
            left - 0.2, 16.1 + 0.62 * number, f"{number}  {words}", color=look.INK, size=9.5
        )  # fmt: skip


def main():
    """Write the picture."""
    figure = plt.figure(figsize=(12.8, 9.6), dpi=100, facecolor=look.PAPER)
    axes = figure.add_axes((0.02, 0.02, 0.96, 0.96))
    places = {name: 1 + row for row, (name, _) in enumerate(LAYERS)}
    for name, words in LAYERS:
        y = places[name]
        axes.add_patch(
            plt.Rectangle((0, y - 0.42), 14, 0.84, fc="#ece2c8", ec=look.FAINT, lw=0.8, zorder=0)
        )
        axes.text(0.15, y, name, va="center_baseline", size=12, weight="bold", color=look.INK)
        axes.text(1.75, y, words, va="center_baseline", size=10, color=look.INK)
    path(axes, places, 5.0, QUERY, "a query: us.reach", look.ROUTE)
    path(axes, places, 10.0, EDIT, "an edit: board.paint", look.TURNS[2])
    axes.text(0.15, 16.72, "imports point down only", size=10.5, style="italic", color=look.INK)
    axes.set(xlim=(-0.2, 14.2), ylim=(20.4, -0.2))
    axes.set_axis_off()
    figure.savefig(Path(__file__).parents[1] / "docs" / "design.png")


if __name__ == "__main__":
    main()
