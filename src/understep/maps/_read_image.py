"""Levels from images: one pixel is a cell, its colour says which terrain."""

from __future__ import annotations

import os
from collections.abc import Mapping
from typing import Any

import numpy as np
from numpy.typing import NDArray

from understep.boards.board import Board
from understep.checks import color_of, expect, path_of, whole
from understep.errors import MOST_FAULTS, BoardFileError, InputError, MissingExtraError
from understep.files.schema import MOST_CELLS
from understep.grids.grid import Grid
from understep.maps._levels import BottomFirst, read_table

NO_CELL_ID = -1


def read_image(
    image: str | os.PathLike[str] | NDArray[Any],
    legend: Mapping[str, str | None],
    terrain: Mapping[str, Any],
    *,
    grid: type[Grid],
    tolerance: int = 0,
    bottom_first: BottomFirst = False,
    **kind: Any,
) -> Board:
    """Make a board of an image in which one pixel is a cell.

    Parameters
    ----------
    image
        A PNG file (or another that Pillow reads) of at most 2**24 pixels; or a uint8 array
        ``(rows, cols, 3 or 4)``, red, green, blue and perhaps opacity.
    legend
        Colour as ``"#rrggbb"`` to the name of a terrain; None where there is no cell. Pixels that
        are fully transparent are not cells either.
    terrain, grid, bottom_first, kind
        As in `read_text`.
    tolerance
        By how much red, green and blue may each be off, 0 to 255; the nearest colour counts, of
        equally near ones the first.

    Returns
    -------
    Board
        With nothing to undo.

    Raises
    ------
    BoardFileError
        No image, too large a one, or colours that are in no legend, with their places (the first
        20) and the nearest colour that is.
    InputError
        A legend whose keys are not colours or whose names ``terrain`` has not; an invalid
        tolerance or array.
    MissingExtraError
        Pillow is not installed (not needed for arrays).
    OSError
        The file cannot be read.

    Examples
    --------
    >>> import numpy as np, understep as us
    >>> pixels = np.array([[[200, 220, 170], [90, 130, 200]]], dtype=np.uint8)
    >>> legend = {"#c8dcaa": "turf", "#5a80c8": "deep"}
    >>> terrain = {"turf": 1, "deep": None}
    >>> board = us.maps.read_image(pixels, legend, terrain, grid=us.SquareGrid, tolerance=4)
    >>> board.terrain((1, 0))
    'deep'
    """
    pixels, source = (image, "image") if isinstance(image, np.ndarray) else pixels_of(image)
    table = color_ids(pixels, legend, tolerance, source)
    by_id = dict(enumerate(legend.values())) | {NO_CELL_ID: None}
    return read_table(table, by_id, terrain, grid=grid, bottom_first=bottom_first, **kind)


def color_ids(
    pixels: NDArray[Any], legend: Mapping[str, str | None], tolerance: int, source: str,
    first: int = 0,
) -> NDArray[np.int64]:  # fmt: skip
    """The place in a legend of the colour of every pixel; ``first`` is the first of these rows."""
    tolerance = whole("tolerance", tolerance, 0, 255)
    expect("legend", legend, Mapping, "must map colours to names")
    colors = []
    for color in legend:
        color_of("legend", color)
        colors.append([int(color[place : place + 2], 16) for place in (1, 3, 5)])
    if not colors:
        raise InputError("legend", "must have a colour", legend)
    if pixels.dtype != np.uint8 or pixels.ndim != 3 or pixels.shape[2] not in (3, 4):
        raise InputError("image", "must be uint8 (rows, cols, 3 or 4)", pixels.shape)
    if not pixels.size:
        raise BoardFileError(source, [("", "has no pixels")])
    # every different colour is looked up once
    packed = pixels[..., :3].astype(np.int64) @ (1 << 16, 1 << 8, 1)
    values, places = np.unique(packed, return_inverse=True)
    seen = np.stack([values >> 16, values >> 8 & 255, values & 255], axis=1)
    off = np.stack([np.abs(seen - color).max(axis=1) for color in colors], axis=1)
    ids = off.argmin(axis=1)
    least = off.min(axis=1)
    table = ids[places.reshape(packed.shape)]
    far = (least > tolerance)[places.reshape(packed.shape)]
    if pixels.shape[2] == 4:
        table[pixels[..., 3] == 0] = NO_CELL_ID
        far &= pixels[..., 3] > 0
    names = list(legend)
    faults = []
    for row, col in np.argwhere(far)[:MOST_FAULTS].tolist():
        nearest = names[table[row, col]]
        color = f"#{packed[row, col]:06x}"
        what = f"{color} is in no legend; nearest is {nearest}, {legend[nearest]!r}"
        faults.append((f"row {first + row}, column {col}", what))
    if faults:
        raise BoardFileError(source, faults, int(far.sum()) - len(faults))
    found: NDArray[np.int64] = table
    return found


def pixels_of(
    path: str | os.PathLike[str], most: int = MOST_CELLS
) -> tuple[NDArray[np.uint8], str]:
    """The pixels of an image file, and its name."""
    try:
        from PIL import Image
    except ImportError:
        raise MissingExtraError("reading an image", "plot") from None
    name = path_of("image", path).name
    with open(path, "rb") as file:
        try:
            with Image.open(file) as opened:
                if opened.width * opened.height > most:
                    raise BoardFileError(name, [("", f"more than {most} pixels")])
                return np.asarray(opened.convert("RGBA")), name
        except BoardFileError:
            raise
        except Exception as error:  # a broken file can make a decoder raise anything
            raise BoardFileError(name, [("", f"is no image that can be read: {error}")]) from None
