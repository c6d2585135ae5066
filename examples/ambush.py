"""Which of the wreckers can get next to the ox-cart soonest? Asks every one of them.

Run ``python examples/ambush.py``.
"""

import understep as us

board = us.maps.shipped("fen")
cart = board.unit("ox-cart")
print(f"The ox-cart stands on {tuple(cart.at)}.")

for unit in board.units("wreckers"):
    best = us.route(board, unit.name, us.within("ox-cart", 1, 1))
    if not best:
        print(f"{unit.name:10} never: {best.why}")
        continue
    print(f"{unit.name:10} in {best.turns} turns, {best.cost} points, at {tuple(best.goal)}")
