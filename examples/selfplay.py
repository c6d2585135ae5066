"""Two computer players against each other, many games, in one process, several, or on a cluster.

Run ``python examples/selfplay.py 20 --workers 2``: games of the seeds 0 to 19. The same seeds give
the same games in each of these. With ``--cluster`` they are played by workers of Dask (the extra
``cluster``). ``--picture FILE`` draws the prospects of one turn of the first game.
"""

import argparse
import random
from collections import Counter
from collections.abc import Iterable
from concurrent.futures import ProcessPoolExecutor
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

import understep as us

SIDES = "wardens", "wreckers"
ROUNDS = 12
HEALTH = 2


class Game(NamedTuple):
    """How a game went."""

    seed: int
    winner: str
    rounds: int
    digest: str


def new_board(seed: int) -> us.Board:
    """A pool in the reeds, three units a side."""
    board = us.Board(
        us.HexGrid(12, 10),
        {"turf": 1, "reeds": us.Terrain(2, cover=1), "deep": us.Terrain(None, pattern="waves")},
    )
    board.title = "Self-play by the pool"
    rng = random.Random(seed)
    board.paint("reeds", rng.sample(list(board.grid), 20))
    board.paint("deep", board.grid.disk((5, 4), 1))
    pike, bow = us.Attack(), us.Attack(2, 3)
    for number, attack in enumerate((pike, bow, pike)):
        for side, col in zip(SIDES, (1, 10), strict=True):
            unit = us.Unit(
                f"{side[:4]} {number}", side, us.Movement(4), attack=attack, data={"health": HEALTH}
            )
            board.paint("turf", (col, 2 + 3 * number))
            board.add(unit, at=(col, 2 + 3 * number))
    return board


def worth(found: us.answers.Prospects, boldness: float) -> NDArray[np.float64]:
    """What each place is worth to its unit: whom it can hit, who can hit it there, the way."""
    foes = [unit.at for unit in found.board.units() if unit.side != found.side]
    strikes = found.targets.any(axis=1)
    worth = 4.0 * strikes - found.exposure / boldness + 0.3 * found.cover
    return worth - 0.2 * np.nan_to_num(found.distance(foes), nan=99)


def move(board: us.Board, name: str, boldness: float, seed: int) -> None:
    """Go where it is best, and hit the weakest that can be hit from there."""
    unit = board.unit(name)
    found = us.prospects(board, unit.side, units=[name])
    best = found.best(lambda each: worth(each, boldness))[name]
    board.put(name, at=best.cell)
    if best.targets:
        target = min(best.targets, key=lambda each: board.unit(each).data["health"])
        # chance comes from the position and the seed, so that no order of work can alter it
        if random.Random(f"{seed} {board.digest()}").random() < 0.7:
            health = board.unit(target).data["health"] - 1
            board.set_data(target, health=health)
            if health == 0:
                board.remove(target)


def play(seed: int) -> Game:
    """A whole game."""
    board = new_board(seed)
    for number in range(1, ROUNDS + 1):
        for side, boldness in zip(SIDES, (1.0, 3.0), strict=True):
            for unit in board.units(side):
                move(board, unit.name, boldness, seed)
                if len({unit.side for unit in board.units()}) == 1:
                    return Game(seed, side, number, board.digest())
    left = Counter(unit.side for unit in board.units())
    (best, many), (_, fewer) = left.most_common(2)
    return Game(seed, best if many > fewer else "nobody", ROUNDS, board.digest())


def play_all(seeds: Iterable[int], workers: int = 1, *, cluster: bool = False) -> list[Game]:
    """Games of many seeds, in their order."""
    if cluster:
        from distributed import Client

        make: Any = Client
        with make(n_workers=workers, threads_per_worker=1, dashboard_address=None) as client:
            games: list[Game] = client.gather(client.map(play, list(seeds)))
            return games
    if workers == 1:
        return [play(seed) for seed in seeds]
    with ProcessPoolExecutor(workers) as pool:
        return list(pool.map(play, seeds))


def picture(path: str) -> None:
    """The prospects of a side in the third round of the first game."""
    board = new_board(0)
    for side, boldness in list(zip(SIDES, (1.0, 3.0), strict=True)) * 2:
        for unit in board.units(side):
            move(board, unit.name, boldness, 0)
    found = us.prospects(board, "wardens")
    best = found.best(lambda each: worth(each, 1.0))
    routes = [us.route(board, name, row.cell) for name, row in best.items()]
    us.draw.figure(board, found, *routes, path=path, title="Where the wardens could go, and would")


def main() -> None:
    """Play, and print what came of it."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("games", nargs="?", type=int, default=8)
    parser.add_argument("--workers", type=int, default=1)
    parser.add_argument("--cluster", action="store_true")
    parser.add_argument("--picture")
    given = parser.parse_args()
    games = play_all(range(given.games), given.workers, cluster=given.cluster)
    for game in games:
        print(f"seed {game.seed}: {game.winner} after {game.rounds} rounds, {game.digest[:12]}")
    print(", ".join(f"{who} {many}" for who, many in Counter(g.winner for g in games).items()))
    if given.picture:
        picture(given.picture)


if __name__ == "__main__":
    main()
