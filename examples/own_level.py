"""Your own level: build it, move a unit turn by turn, save it and draw it.

Run ``python examples/own_level.py [FOLDER]``; files go to FOLDER, or to the current one.
"""

import sys
from pathlib import Path

import understep as us

folder = Path(sys.argv[1] if len(sys.argv) > 1 else ".")

board = us.Board(
    us.HexGrid(14, 9, top="flat", shifted="even"),
    {
        "turf": us.Terrain(1, tint="#d3dcae", pattern="dots"),
        "reeds": us.Terrain(2, tint="#bac78c", pattern="blades"),
        "deep": us.Terrain(None, tint="#8fb3c6", pattern="waves"),
    },
)
board.title = "A pool in the reeds"
for row in range(2, 7):
    board.paint("reeds", [(col, row) for col in range(4, 10)])
    board.paint("deep", [(col, row) for col in range(5, 9)])
board.add(us.Unit("scout", side="wardens", movement=us.Movement(points=4)), at=(2, 4))
board.add(us.Unit("sapper", side="wreckers", movement=us.Movement(points=4)), at=(7, 1))

goal = (11, 4)
us.draw.figure(
    board, us.reach(board, "scout"), us.route(board, "scout", goal), path=folder / "own_level.png"
)
turns = us.Turns(board, ["wardens", "wreckers"])
while board.unit("scout").at != goal:
    route = us.route(board, "scout", goal)
    walk = us.walk(board, "scout", route).finish()
    left = route.turns - 1
    print(f"turn {turns.round}: the scout walks to {tuple(walk.cells[-1])}, {left} turns to go")
    turns.end()  # the wreckers stay
    turns.end()

print(us.draw.terminal(board).plain)
us.save(board, folder / "own_level.board.json")
print(f"saved as {folder / 'own_level.board.json'}")
