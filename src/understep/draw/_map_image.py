"""A board as a small image: a pixel, or a block of them, for each cell."""

from __future__ import annotations

import math
import os
from typing import Any

import numpy as np
from numpy.typing import NDArray

from understep.boards.board import Board
from understep.checks import expect, path_of, whole
from understep.draw import _look as look
from understep.errors import InputError, MissingExtraError
from understep.moves.route import Route

MOST_PIXELS = 1 << 26


def map_image(
    board: Board, path: str | os.PathLike[str] | None = None, *, scale: int = 1,
    route: Route | None = None,
) -> NDArray[np.uint8]:  # fmt: skip
    """Make a small image of a board's terrain, in the tints of figures.

    Read back with `read_image` it gives the same ground, where terrains have different tints.

    Parameters
    ----------
    board
        The board.
    path
        Where to write it too, as PNG.
    scale
        Side of the block of pixels for each cell. Staggered lines are not set in.
    route
        A route whose cells are drawn over the ground; with it, the ground cannot be read back.

    Returns
    -------
    ndarray of uint8, shape ``(rows * scale, cols * scale, 4)``
        Red, green, blue, opacity; holes are transparent. A new array.

    Raises
    ------
    InputError
        ``board`` is not a Board, ``scale`` no whole number of 1 or more, or too large for an image
        of 2**26 pixels, ``path`` not a path, or ``route`` no route, or one that leads off the
        board.
    MissingExtraError
        Pillow is not installed (only needed to write a file).

    Examples
    --------
    >>> import understep as us
    >>> board = us.Board(us.SquareGrid(3, 2), {"turf": us.Terrain(tint="#c8dcaa")})
    >>> us.maps.map_image(board, scale=2).shape, us.maps.map_image(board)[0, 0].tolist()
    ((4, 6, 4), [200, 220, 170, 255])
    """
    if not isinstance(board, Board):
        raise InputError("board", "must be a Board", board)
    most = math.isqrt(MOST_PIXELS // (board.grid.cols * board.grid.rows)) or 1
    scale = whole("scale", scale, 1, most)
    path = None if path is None else path_of("path", path)
    colors = [[*bytes.fromhex(tint[1:]), 255] for tint in look.tints(board)]
    codes = np.where(board.grid.exists, board.terrain_codes(), len(colors)).astype(np.int64)
    if route is not None:
        expect("route", route, Route, "must be a route")
        cells = board.grid.numbering.require_all(route.cells, "route")
        codes[board.grid.index(cells)] = len(colors) + 1
    inks = [[0, 0, 0, 0], [*bytes.fromhex(look.ROUTE[1:]), 255]]
    pixels = np.array([*colors, *inks], dtype=np.uint8)[codes]
    pixels = pixels.repeat(scale, axis=0).repeat(scale, axis=1)
    if path is not None:
        try:
            from PIL import Image
        except ImportError:
            raise MissingExtraError("writing an image", "plot") from None
        made: Any = Image.fromarray(pixels)
        made.save(path, format="PNG")
    return pixels
