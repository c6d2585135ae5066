"""The grid: all of its sides in one, and the ways to make one."""

from __future__ import annotations

import math
from typing import Any, NamedTuple, Self

import numpy as np

from understep.errors import InputError
from understep.grids.cell import CellLike, Cells, CellsLike, cells_array
from understep.grids.frame import Frame
from understep.grids.pictures import Pictures
from understep.grids.sets import GridSets


class Fit(NamedTuple):
    """A grid made to fit, and the strip it leaves.

    Attributes
    ----------
    grid
        The grid.
    remainder
        Width and height, in world units, of what is left over on the right and at the bottom.
    """

    grid: Any
    remainder: tuple[float, float]


class Grid(GridSets, Pictures):
    """A board's cells. Use `SquareGrid` or `HexGrid`; this class holds what they share.

    ``lattice``: directions and distance; ``shape``: which cells exist; ``world``: where they lie;
    ``areas``: sets of cells; ``pictures``: where to draw.
    A grid is immutable and holds no game state.
    """

    def __repr__(self) -> str:
        own = "".join(f", {key}={value!r}" for key, value in self._own().items() if value)
        first = f", first={tuple(self.first)}" if any(self.first) else ""
        holes = "" if self._mask is None else f", {len(self)} cells"
        return f"{type(self).__name__}({self.cols}, {self.rows}{own}{first}{holes})"

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Grid) and self.frame == other.frame and self.same_cells(other)

    def __hash__(self) -> int:
        return hash((self.frame, self._facts()))

    def same_cells(self, other: Grid) -> bool:
        """Whether another grid has the same cells and neighbors, wherever they lie."""
        return self is other or self._facts() == other._facts()

    def _facts(self) -> tuple[Any, ...]:
        mask = None if self._mask is None else np.packbits(self._mask).tobytes()
        own = tuple(self._own().values())
        return self.kind, self.cols, self.rows, self.first, own, mask

    def _own(self) -> dict[str, Any]:
        """The arguments that only this kind of grid takes."""
        raise NotImplementedError

    def _reversed(self) -> dict[str, Any]:
        """The same for the grid whose rows count the other way."""
        return self._own()

    def _moved_by(self, _cols: int, _rows: int) -> dict[str, Any]:
        """The same for the grid whose cells have other addresses."""
        return self._own()

    def reframed(self, frame: Frame) -> Self:
        """The same cells, laid out otherwise in the world.

        Raises
        ------
        InputError
            ``frame`` is not a Frame.

        Examples
        --------
        >>> import understep as us
        >>> grid = us.SquareGrid(4, 3).reframed(us.Frame(cell=(64, 32), view="isometric"))
        >>> grid.size, grid.center((1, 1)).tolist()
        ((4, 3), [0.0, 48.0])
        """
        if not isinstance(frame, Frame):
            raise InputError("frame", "must be a Frame", frame)
        exists = None if self._mask is None else self.exists
        return self.resized(self.cols, self.rows, self.first, exists, frame=frame)

    def resized(
        self, cols: int, rows: int, first: CellLike, exists: Any, moved: tuple[int, int] = (0, 0),
        frame: Frame | None = None,
    ) -> Self:  # fmt: skip
        """A grid of this kind with another size; ``moved``: what was added to all addresses."""
        make: Any = type(self)
        own, frame = self._moved_by(*moved), self.frame if frame is None else frame
        made: Self = make(cols, rows, first=first, exists=exists, frame=frame, **own)
        return made

    @classmethod
    def _fitting(cls, width: float, height: float, **kind: Any) -> tuple[int, int]:
        """How many columns and rows fit into so many cells' width and height."""
        raise NotImplementedError

    @classmethod
    def from_cells(cls, cells: CellsLike, **kind: Any) -> Self:
        """A grid of any set of cells.

        Parameters
        ----------
        cells
            Cells, or an integer array ``(..., 2)``, in any order; negative ones too.
        kind
            What the class takes besides size, ``first`` and ``exists``: ``diagonals``, or ``top``
            and ``shifted``; ``frame``.

        Raises
        ------
        CellError
            A value that is no cell.
        InputError
            No cells at all, or some too far apart for a grid.

        Examples
        --------
        >>> import understep as us
        >>> grid = us.SquareGrid.from_cells([(-1, 0), (0, 0), (0, 1)])
        >>> grid.bounds[0], len(grid), (-1, 1) in grid
        (Cell(col=-1, row=0), 3, False)
        """
        array = cells_array(cells, "cells").reshape(-1, 2)
        if not len(array):
            raise InputError("cells", "a grid has at least one cell", cells)
        low = array.min(axis=0)
        cols, rows = (array.max(axis=0) - low + 1).tolist()
        first = tuple(low.tolist())
        whole = cls(cols, rows, first=first, **kind)
        exists = np.zeros((rows, cols), dtype=bool)
        exists[whole.index(array)] = True
        return cls(cols, rows, first=first, exists=exists, **kind)

    @classmethod
    def fit(
        cls,
        extent: tuple[float, float],
        cell: tuple[float, float],
        *,
        origin: tuple[float, float] = (0.0, 0.0),
        **kind: Any,
    ) -> Fit:
        """The largest grid, seen in plan, that lies within an extent of the world.

        Parameters
        ----------
        extent
            Width and height in world units.
        cell
            Width and height of one cell.
        origin
            Where the extent begins.
        kind
            ``diagonals``, or ``top`` and ``shifted``.

        Returns
        -------
        Fit
            The grid, and the width and height that are left over.

        Raises
        ------
        InputError
            A size that is not positive, or an extent that holds no cell.

        Examples
        --------
        >>> import understep as us
        >>> us.HexGrid.fit((300, 200), cell=(32, 32))
        Fit(grid=HexGrid(8, 8, top='pointy', shifted='odd'), remainder=(28.0, 0.0))
        """
        frame = Frame(cell=cell, origin=origin)
        sizes = []
        for place in (0, 1):
            try:
                size = float(extent[place])
            except (TypeError, ValueError, IndexError):
                size = math.nan
            if not 0 < size < math.inf or len(extent) != 2:
                raise InputError("extent", "must be width and height, above 0", extent)
            sizes.append(size / frame.cell[place] + 1e-9)  # type: ignore[index]
        cols, rows = cls._fitting(*sizes, **kind)
        if min(cols, rows) < 1:
            raise InputError("extent", f"is too small for a cell of {frame.cell}", extent)
        make: Any = cls
        grid: Self = make(cols, rows, frame=frame, **kind)
        left = (float(extent[0]) - grid.extent.width, float(extent[1]) - grid.extent.height)
        return Fit(grid, (max(0.0, left[0]), max(0.0, left[1])))

    def reversed(self) -> Self:
        """The grid of a level whose rows are listed the other way, bottom row first.

        It has the same cells in the same places, upside down: row ``r`` is this one's row
        ``first + last - r``, and hexes keep their stagger. `reverse` moves cells across.

        Examples
        --------
        A level whose row 0 is the bottom row, odd rows shifted, is held so:

        >>> import understep as us
        >>> listed = us.HexGrid(5, 4, shifted="odd")
        >>> grid = listed.reversed()
        >>> grid, listed.reverse((2, 0))
        (HexGrid(5, 4, top='pointy', shifted='even'), Cells([(2, 3)], 1))
        """
        exists = None if self._mask is None else self.exists[::-1]
        kind: dict[str, Any] = {
            "first": self.first,
            "exists": exists,
            "frame": self.frame,
            **self._reversed(),
        }
        make: Any = type(self)
        made: Self = make(self.cols, self.rows, **kind)
        return made

    def reverse(self, cells: CellsLike | CellLike) -> Cells:
        """Cells of a level listed the other way: the first row becomes the last.

        Raises
        ------
        CellError
            A value that is not a cell, or a cell off the grid.
        """
        array = self.require_all(cells).reshape(-1, 2).copy()
        array[:, 1] = 2 * self.first[1] + self.rows - 1 - array[:, 1]
        return Cells(array)
