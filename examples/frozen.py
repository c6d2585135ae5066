"""A game that is packed into one folder: ``pyinstaller examples/frozen.py``.

The library brings what the packer must know; figures and commands are left out.
"""

import understep as us


def main() -> None:
    """One move of a scout, with the compiled kernel."""
    board = us.Board(us.HexGrid(12, 8), {"turf": 1, "mud": 3})
    board.paint("mud", [(6, row) for row in range(7)])
    board.add(us.Unit("scout", "wardens", us.Movement(points=4), sight=5), at=(4, 3))
    route = us.route(board, "scout", goals=(10, 3))
    print(f"{us.kernels()} kernel: {route.turns} turns, cost {route.cost}")
    print(f"{len(us.reach(board, 'scout'))} cells in reach, {len(us.view(board, 'scout'))} in view")
    print(f"{len(us.ribbon(route))} pieces to draw")
    us.walk(board, "scout", route).finish()
    print(f"it stands on {tuple(board.unit('scout').at)}")


if __name__ == "__main__":
    main()
