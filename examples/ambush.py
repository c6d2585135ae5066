"""Which of the wreckers can get next to the ox-cart soonest? Asks every one of them.

Run ``python examples/ambush.py``.
"""

import understep as us

board = us.maps.shipped("fen")
cart = board.unit("ox-cart")
print(f"The ox-cart stands on {tuple(cart.at)}.")

for unit in board.units("wreckers"):
    beside = [cell for cell in board.grid.neighbors(cart.at) if board.vacant(cell)]
    routes = [us.route(board, unit.name, cell) for cell in beside]
    found = [route for route in routes if route]
    if not found:
        print(f"{unit.name:10} never: {routes[0].why}")
        continue
    best = min(found, key=lambda route: (route.turns, route.cost))
    print(f"{unit.name:10} in {best.turns} turns, {best.cost} points, at {tuple(best.goal)}")
