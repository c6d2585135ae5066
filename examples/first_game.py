"""A small game in the terminal: lead the wardens against a computer-led side, in fog.

Run ``python examples/first_game.py`` and type, such as ``scout 5,3`` to walk, ``scout raider`` to
attack, ``scout`` to see where it can get, ``end`` to end the turn, ``quit`` to leave.
"""

import sys
from collections.abc import Iterator

import understep as us

LEVEL = """
. . . r r . . . . .
 . . . r = = = . . .
. . = = = ~ r = . .
 . . = ~ ~ ~ . = . .
. . = = = ~ r = = .
 . . . r = = = . . .
. . . r r . . . . .
"""
LEGEND = {".": "turf", "r": "reeds", "~": "deep", "=": "causeway"}
TERRAIN = {
    "turf": 2,
    "reeds": us.Terrain(cost=3, cover=1),  # one cannot see through them
    "deep": us.Terrain(cost=None, tint="#8fb3c6", pattern="waves"),
    "causeway": 1,
}
HEALTH = 2
MARCH = [(1, 3), (9, 3)]  # of the wreckers


def new_board() -> us.Board:
    """The level with two units a side; each side sees what its units see."""
    board = us.maps.read_text(LEVEL, LEGEND, TERRAIN, grid=us.HexGrid, spaced=True)
    foot, bow = us.Movement(points=6, zones=1), us.Attack(2, 3)
    for name, side, at, attack in (
        ("scout", "wardens", (1, 3), us.Attack()),
        ("archer", "wardens", (0, 2), bow),
        ("raider", "wreckers", (9, 3), us.Attack()),
        ("slinger", "wreckers", (9, 5), bow),
    ):
        board.add(us.Unit(name, side, foot, sight=5, attack=attack), at=at)
    for side in ("wardens", "wreckers"):
        us.fog(board, side, land_known=True)
    return board


class Game:
    """The rules of this game: what an attack does, and when it is over."""

    def __init__(self) -> None:
        self.board = new_board()
        self.turns = us.Turns(self.board, ["wardens", "wreckers"])
        self.health = {unit.name: HEALTH for unit in self.board.units()}
        self.passed = {unit.name: 0 for unit in self.board.units("wreckers")}

    def strike(self, name: str, target: str) -> str:
        """One unit hits another, which may fall."""
        self.turns.attacked(name)
        self.health[target] -= 1
        if self.health[target]:
            return f"{name} hits {target}"
        self.board.remove(target)
        return f"{name} hits {target}, who falls"

    def order(self, name: str, where: str) -> Iterator[str]:
        """What the player wants of a unit: to walk to a cell, or to attack another unit."""
        if name not in {unit.name for unit in self.turns.ready}:
            yield f"{name or 'nobody'} is not ready"
        elif not where:
            reach = us.reach(self.board, name)
            yield us.draw.terminal(self.board, reach, self.board.knowledge("wardens")).plain
        elif "," in where:
            col, row = map(int, where.split(","))
            route = us.route(self.board, name, (col, row), turns=1)
            yield from self.walk(name, route) if route else [f"no: {route.why}"]
        else:
            aim = us.attacks(self.board, name).get(where)
            if not aim:
                yield f"no: {aim.why}"
            elif not self.turns.attacks_left(name):
                yield f"no: {name} has attacked this turn"
            else:
                yield from self.walk(name, us.route(self.board, name, aim.stand))
                if self.board.unit(name).at == aim.stand:
                    yield self.strike(name, where)

    def walk(self, name: str, route: us.Route | None) -> Iterator[str]:
        """Let a unit walk; yield whom its side meets on the way."""
        walk = us.walk(self.board, name, route)
        for stride in walk:
            for met in stride.seen.met if stride.seen else ():
                yield f"{name} sees {met}"
        if len(walk.cells) > 1:
            yield f"{name} goes to {tuple(walk.cells[-1])}" + (f": {walk.why}" if walk.why else "")

    def opponents(self) -> Iterator[str]:
        """The wreckers: attack whom they see, else march."""
        for unit in self.turns.ready:
            plan = us.behaviors.approach(self.board, unit.name)
            if not plan:
                done = self.passed[unit.name]
                plan = us.behaviors.patrol(self.board, unit.name, MARCH, passed=done)
                self.passed[unit.name] = plan.passed
            said = list(self.walk(unit.name, plan.route))
            known = self.board.knowledge("wardens").board.units()
            yield from said if unit.name in {each.name for each in known} else ()
            if plan.target and plan.stand and self.board.unit(unit.name).at == plan.stand.cell:
                yield self.strike(unit.name, plan.target)


def main() -> None:
    """Read orders until one side is left, or the player leaves."""
    game = Game()
    print(us.draw.terminal(game.board, game.board.knowledge("wardens")).plain)
    for line in sys.stdin:
        name, _, where = line.strip().partition(" ")
        if name == "quit" or game.turns.over:
            break
        if name != "end":
            try:
                print(*game.order(name, where), sep="\n")
            except us.UnderstepError as error:  # such as a target that nobody sees
                print(f"no: {error}")
            continue
        game.turns.end()
        print(*game.opponents(), sep="\n")
        if not game.turns.over:
            game.turns.end()
            print(f"Round {game.turns.round}: your turn")
    print(f"{game.turns.winner} win" if game.turns.over else "Until next time")


if __name__ == "__main__":
    main()
