"""A level as text, listed top to bottom, becomes world positions for an engine whose y points up.

Run ``python examples/level_to_world.py``.
"""

import understep as us

LEVEL = """
. . r r ~ ~ . .
 . . r ~ ~ = = .
. = = = ~ r . .
 . . . ~ ~ r . .
"""

# every second line is set in by a blank: odd rows are shifted
board = us.maps.read_text(
    LEVEL,
    legend={".": "turf", "r": "reeds", "~": "deep", "=": "causeway"},
    terrain={"turf": 1, "reeds": 2, "deep": None, "causeway": 1},
    spaced=True,
    grid=us.HexGrid,
    top="pointy",
    shifted="odd",
    frame=us.Frame(cell=(64, 56), origin=(-256, 120), y_axis="up"),
)
grid = board.grid

# where to put every tile: pictures are 64 x 80, larger than the ground they stand on
places = grid.anchor(grid.cells, point="middle", picture=(64, 80))
for cell, (x, y) in list(zip(grid, places.tolist(), strict=True))[:3]:
    print(f"{board.terrain(cell):9} {tuple(cell)} -> x {x:g}, y {y:g}")
print(f"canvas: {grid.extent.width:g} x {grid.extent.height:g}")

# and back: what is under the pointer
pointer = (-100.0, 60.0)
found = grid.cell_at(pointer)  # None beside the grid
if found is not None:
    print(f"{pointer} is over {tuple(found)}, {board.terrain(found)}")
print(us.draw.terminal(board).plain)
