"""What a computer player asks: attacks, threats, prospects, trials."""

import itertools
from statistics import median

import numpy as np
import peers
from timing import ratio, seconds

import understep as us


def armed():
    """A board of 64 x 64 with a unit of 6 points, and thirty foes with bows."""
    board, rng = peers.fen(64), np.random.default_rng(2)
    foot = us.Movement(points=6)
    free = [c for c in board.grid if board.terrain(c) != "deep" and board.unit_at(c) is None]
    bow = us.Attack(1, 3)
    for number, place in enumerate(rng.choice(len(free), 30, replace=False).tolist()):
        board.add(us.Unit(f"foe{number}", "theirs", foot, attack=bow), at=free[place])
    spot = next(cell for cell in board.grid.disk((32, 32), 9) if cell in free)
    if board.unit_at(spot) is None:
        board.add(us.Unit("archer", "mine", foot, attack=us.Attack(2, 4)), at=spot)
    return board


def attacking():
    """Where a 6-point unit can get, all it can attack from there, its targets, in milliseconds."""
    board = armed()

    def work():  # a change that gives no reach back
        board.set_left("archer", None)
        return us.attacks(board, "archer").targets

    work()
    return median(seconds(work, 20) for _ in range(15)) * 1e3


def threatening():
    """The threats of thirty foes on 64 x 64, in milliseconds."""
    board = armed()

    def work():
        board.set_left("archer", None)
        return us.threats(board, against="mine").table()

    work()
    return median(seconds(work, 3) for _ in range(15)) * 1e3


def battle(**rules):
    """Ten units a side on 40 x 30 hexes, with attacks of range 1 to 4."""
    rng = np.random.default_rng(4)
    ruin, reeds = us.Terrain(None, cover=2), us.Terrain(2, cover=1)
    board = us.Board(us.HexGrid(40, 30), {"turf": 1, "mud": 2, "reeds": reeds, "ruin": ruin})
    for name in ("mud", "reeds", "ruin"):
        board.paint(name, rng.random((30, 40)) < 0.1)
    free = [c for c in board.grid.rectangle((8, 5), (32, 25)) if board.terrain(c) != "ruin"]
    for number, place in enumerate(rng.choice(len(free), 20, replace=False).tolist()):
        side, attack = (
            ("ours", "theirs")[number % 2],
            us.Attack(1, 1 + number // 2 % 4, **rules),
        )
        unit = us.Unit(f"u{number}", side, us.Movement(5), attack=attack, sight=6)
        board.add(unit, at=free[place])
    return board


def batched(board):
    """Prospects with exposure and targets."""
    found = us.prospects(board, "ours")
    return found.exposed, found.targets


def singly(board):
    """The same, each cell asked in a trial of its own."""
    for unit in board.units("ours"):
        for cell in us.reach(board, unit.name).cells:
            with board.trial():
                board.put(unit.name, at=cell)
                us.threats(board, "ours").by(cell)
                _ = us.attacks(board, unit.name, moving=False).targets


def prospecting():
    """Prospects against each cell asked in a trial of its own."""
    board = battle()
    return ratio(lambda: batched(board), lambda: singly(board), 5, 3)


def moved(board, name):
    """Some cells next to a unit where it could stand, in turn."""
    beside = board.grid.neighbors(board.unit(name).at)
    return itertools.cycle([cell for cell in beside if board.can_stand(name, cell)])


def threatened():
    """The threats of ten foes after one of them has moved, in milliseconds."""
    board = battle()
    spots = moved(board, "u1")

    def work():
        with board.trial():
            board.put("u1", at=next(spots))
            return us.threats(board, "ours").table()

    work()
    return median(seconds(work, 20) for _ in range(15)) * 1e3


def turn():
    """Twenty units on the fen approach: each tries its walk out, and walks; in milliseconds."""
    times = []
    for seed in range(7):
        board, rng = us.maps.shipped("fen"), np.random.default_rng(seed)
        for unit in board.units():
            board.remove(unit.name)
        foot = us.Movement(points=6)
        free = [cell for cell in board.grid if board.terrain(cell) not in ("deep", "ruin")]
        for number, place in enumerate(rng.choice(len(free), 40, replace=False).tolist()):
            side, bow = ["wardens", "wreckers"][number % 2], us.Attack(1, 1 + number % 3)
            board.add(us.Unit(f"u{number}", side, foot, sight=6, attack=bow), at=free[place])
        us.fog(board, "wardens", land_known=True)

        def play(board=board):
            for unit in board.units("wardens"):
                plan = us.behaviors.approach(board, unit.name)
                if plan.route is not None:
                    with board.trial():
                        us.walk(board, unit.name, plan.route).finish()
                    us.walk(board, unit.name, plan.route).finish()

        times.append(seconds(play, 1))
    return median(times) * 1e3


def ticking():
    """A unit put elsewhere and its reach, in a world of 600 x 600 and on a board cut from it."""

    def make(first, cols, rows):
        return us.worlds.delta(7, cols, rows, first=first, units=False)

    world, foot = us.worlds.World(make, 600, 600), us.Movement(points=8)
    board = world.board((250, 250), 100, 100)
    start = next(cell for cell in us.areas(board, foot).cells_of(0) if cell.row > 300)
    world.add(us.Unit("scout", "wardens", foot, sight=6), at=start)
    board = world.board((250, 250), 100, 100)
    spots = itertools.cycle(us.reach(board, "scout").cells[1:40])

    def there():
        world.put("scout", at=next(spots))
        return world.reach("scout")

    def here():
        board.put("scout", at=next(spots))
        return us.reach(board, "scout")

    mine, peer, times = ratio(there, here, 31, 20, 20)
    return mine, peer, 1 / times
