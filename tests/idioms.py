"""Idioms of the documents, as a newcomer would type them; mypy checks them strictly."""

import numpy as np

import understep as us

terrain = {"turf": 1, "mud": us.Terrain(cost=3), "deep": None}
grid = us.HexGrid(10, 8, top="flat")
board = us.Board(grid, terrain, edges={"wall": us.Edge(blocks=True)})
board.paint("deep", [(4, 4)])
foot = us.Movement(points=5, costs={"mud": 2})
scout = board.add(us.Unit("scout", "wardens", foot, attack=us.Attack(1, 2)), at=(1, 1))
raider = board.add(us.Unit("raider", "wreckers", foot), at=(3, 1))
reach = us.reach(board, "scout", turns=2)
print(reach.get((4, 4)).why)
entry = reach.get((2, 2))
if entry:
    print(entry.cost + 1, entry.turn)
aim = us.attacks(board, "scout").get("raider")
if not aim:
    print(aim.why)
else:
    print(aim.stand.col, aim.units)
route = us.route(board, "scout", (5, 1))
if route:
    print(route.cost + 0.5, route.turns + 1, route.stops[0].row)
poses = us.poses(route, speed=2.0)
for time in np.linspace(0, poses.duration, 5):
    print(poses.at(time).cell.col)
ok = board.can_stand("scout", (4, 4))
if not ok:
    print(ok.why)
cell = board.cell_at((3.0, 2.0))
intent = us.intent(reach, cell)
if intent.meaning == "move":
    us.walk(board, "scout", intent.route).finish()
print(board.unit("scout").left + 1, board.unit("scout").at.col)
mask = np.zeros((8, 10), dtype=bool)
mask[2:4, 2:4] = True
board.paint("mud", mask)
board.block(mask, side="wreckers")
print(board.grid.center(mask).shape)
for name, plan in {"raider": us.behaviors.approach(board, "raider")}.items():
    print(name, plan.why, plan.plain()["cells"])
