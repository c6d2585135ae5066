"""Where cells lie, worked out anew with complex numbers, and random grids and frames.

It shares no code with the library: a cell's middle and corners follow from regular polygons, which
are then stretched, turned, flattened and flipped as the words of a frame say. y points down.
"""

import cmath
import itertools
import math

from hypothesis import strategies as st

import understep as us

CELLS = None, (32, 24), (7.5, 20), (64, 32), (0.1, 0.3)
KINDS = ["square4", "square8", "pointy-odd", "pointy-even", "flat-odd", "flat-even"]


def make_grid(kind, cols, rows, first=(0, 0), exists=None, frame=None):
    more = {"first": first, "exists": exists, "frame": frame}
    if kind in ("square4", "square8"):
        return us.SquareGrid(cols, rows, diagonals=kind == "square8", **more)
    top, shifted = kind.split("-")
    return us.HexGrid(cols, rows, top=top, shifted=shifted, **more)


@st.composite
def frames(draw, lift=False):
    return us.Frame(
        **draw(st.sampled_from([{"cell": each} for each in CELLS] + [{"spacing": (47, 13)}])),
        origin=draw(st.sampled_from([(0, 0), (-31.25, 8), (1000.1, -2000.7)])),
        rotation=draw(st.sampled_from([0, 0, 30, 45, 90, -17.5, 180, 271])),
        y_axis=draw(st.sampled_from(["down", "up"])),
        rows=draw(st.sampled_from(["down", "down", "up"])),
        projection=draw(st.sampled_from(["plan", "isometric"])),
        lift=draw(st.sampled_from([0.5, 3, 16])) if lift else 0,
    )


@st.composite
def grids(draw, cells=36, kinds=KINDS, frame=None):
    """A grid of any kind, perhaps with holes, perhaps with negative cells."""
    cols = draw(st.integers(1, 9))
    rows = draw(st.integers(1, max(1, min(9, cells // cols))))
    first = (draw(st.integers(-4, 4)), draw(st.integers(-4, 4)))
    exists = None
    if draw(st.booleans()):
        exists = [[draw(st.integers(0, 4)) > 0 for _ in range(cols)] for _ in range(rows)]
        exists[draw(st.integers(0, rows - 1))][draw(st.integers(0, cols - 1))] = True
    frame = None if frame is None else draw(frame)
    return make_grid(draw(st.sampled_from(kinds)), cols, rows, first, exists, frame)


def kind_of(grid):
    return "square" if isinstance(grid, us.SquareGrid) else grid.top


def polygon(kind):
    """Corners of a regular cell whose neighbors lie 1 apart, clockwise, around 0."""
    if kind == "square":
        return [cmath.rect(0.5**0.5, math.radians(angle)) for angle in (-135, -45, 45, 135)]
    start = -90 if kind == "pointy" else -120
    return [cmath.rect(3**-0.5, math.radians(start + 60 * turn)) for turn in range(6)]


def box(points):
    x, y = [point.real for point in points], [point.imag for point in points]
    return complex(max(x) - min(x), max(y) - min(y))


def flat(grid, cell):
    """The middle of a cell on regular ground, from the box around cell (0, 0)."""
    col, row = cell
    kind = kind_of(grid)
    middle = complex(col, row) + box(polygon(kind)) / 2
    if kind == "square":
        return middle
    is_shifted = ((row if kind == "pointy" else col) % 2 == 1) == (grid.shifted == "odd")
    high = 3**0.5 / 2
    if kind == "pointy":
        return complex(col + is_shifted / 2, row * high) + box(polygon(kind)) / 2
    return complex(col * high, row + is_shifted / 2) + box(polygon(kind)) / 2


def pitch(grid):
    """How far a column lies from the next on regular ground, and a row."""
    high = 3**0.5 / 2
    return {"square": (1, 1), "pointy": (1, high), "flat": (high, 1)}[kind_of(grid)]


def size_of(grid):
    """Width and height of the box around a cell as it is seen before any rotation."""
    frame, shape = grid.frame, polygon(kind_of(grid))
    quarter = cmath.rect(1, math.radians(45 if frame.projection == "isometric" else 0))
    seen = box([corner * quarter for corner in shape])
    if frame.cell is not None:
        return complex(*frame.cell)
    if frame.spacing is None:
        return seen if frame.projection == "plan" else complex(seen.real, seen.imag / 2)
    across, down = pitch(grid)
    steps = abs((across * quarter).real), abs((down * 1j * quarter).imag)
    return complex(seen.real * frame.spacing[0] / steps[0], seen.imag * frame.spacing[1] / steps[1])


def lay(grid, point):
    """A point of regular ground as a world point."""
    frame, shape, size = grid.frame, polygon(kind_of(grid)), size_of(grid)
    home = flat(grid, (0, 0)) if frame.spacing is not None else 0
    point -= home
    if frame.rows == "up":
        point = point.conjugate()
    turn = cmath.rect(1, math.radians(frame.rotation))
    if frame.projection == "plan":
        point = complex(
            point.real * size.real / box(shape).real, point.imag * size.imag / box(shape).imag
        )
        point *= turn
    else:
        quarter = cmath.rect(1, math.radians(45))
        seen = box([corner * quarter for corner in shape])
        point *= quarter * turn * size.real / seen.real
        point = complex(point.real, point.imag * size.imag / seen.imag * seen.real / size.real)
    x, y = frame.origin
    return (point.real + x, (point.imag if frame.y_axis == "down" else -point.imag) + y)


def middle(grid, cell):
    return lay(grid, flat(grid, cell))


def outline(grid, cell):
    found = [lay(grid, flat(grid, cell) + corner) for corner in polygon(kind_of(grid))]
    return found[::-1] if grid.frame.rows == "up" else found


def depth_in(corners, point):
    """How deep a point lies in a convex polygon, negative outside, in units of its length."""
    (x, y), many, long = point, len(corners), 0
    sides = []
    for (ax, ay), (bx, by) in zip(corners, corners[1:] + corners[:1], strict=True):
        edge = math.hypot(bx - ax, by - ay)
        long += edge / many
        sides.append(((bx - ax) * (y - ay) - (by - ay) * (x - ax)) / edge)
    around = sum(
        ax * by - bx * ay
        for (ax, ay), (bx, by) in zip(corners, corners[1:] + corners[:1], strict=True)
    )
    return min(side if around > 0 else -side for side in sides) / long


def chord(corners, x):
    """Where the upright line at x enters and leaves a convex polygon; None if it misses it."""
    ys = [
        ay + (by - ay) * (x - ax) / (bx - ax)
        for (ax, ay), (bx, by) in zip(corners, corners[1:] + corners[:1], strict=True)
        if min(ax, bx) <= x <= max(ax, bx) and abs(bx - ax) > 1e-9 * math.dist((ax, ay), (bx, by))
    ]
    return (min(ys), max(ys)) if ys else None


def wraps(lines, point):
    """Whether closed lines, all taken together, go round a point: the even-odd rule."""
    x, y = point
    inside = False
    for line in lines:
        for (ax, ay), (bx, by) in itertools.pairwise(line):
            if (ay > y) != (by > y) and x < (bx - ax) * (y - ay) / (by - ay) + ax:
                inside = not inside
    return inside
