"""Play the Tollen Fen: you lead the wardens, the computer leads the wreckers, both in fog.

Run ``python examples/play.py`` (extra ``play``). Click a unit, then where it is to go or whom to
attack; U takes a walk or fight back, S saves, L loads, V changes the view, E ends your turn. All
rules are the library's: this file draws what it answers, and decides what an attack does.

``--script "click 6,6; hover 9,6; end" --picture FILE`` plays by itself, without a screen too.
"""

import argparse
import os
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np

import understep as us

os.environ.setdefault("PYGAME_HIDE_SUPPORT_PROMPT", "1")
import pygame

SIZE = (1280, 800)
PAPER, INK, FAINT = "#f6efdf", "#3a3228", "#8d8170"
WASH, STRIKE, WAY, FACE = "#c2571a", "#7a3a6c", "#8c1c13", "#a8987e"
VEIL = (246, 239, 223, 130)
TINTS = {"reach": (194, 87, 26, 60), "start": (194, 87, 26, 60), "attack": (122, 58, 108, 70)}
HEALTH, CHANCE, PACE, TICK = 3, 0.7, 0.16, 1 / 30
MARCH = [(10, 6), (6, 6), (2, 4)]  # of the wreckers


class Game:
    """The rules: whose turn it is, what a click does, what an attack does. Draws nothing."""

    def __init__(self, seed: int, path: Path) -> None:
        self.path, self.rng = path, np.random.default_rng(seed)
        self.told = ["Your turn: lead the wardens."]
        board = us.maps.shipped("fen")
        for unit in board.units():
            board.set_data(unit.name, health=HEALTH, passed=0)
        for side in ("wardens", "wreckers"):
            us.fog(board, side, land_known=True)
        us.Turns(board, ["wardens", "wreckers"])
        self.begin(board)

    def begin(self, board: us.Board) -> None:
        """Play on a board, from where its turns are."""
        self.board, self.turns = board, us.Turns(board)
        self.knowledge = board.knowledge("wardens")
        board.forget()  # nothing that was before is undone
        self.select(None)

    def select(self, name: str | None) -> None:
        """Ask once for all that the selected unit can do."""
        self.name, self.wash = None, us.Overlay({})
        self.choice: us.Reach | us.answers.Attacks | None = None
        if name is not None and name in {unit.name for unit in self.turns.ready}:
            self.name = name
            able = self.turns.attacks_left(name) > 0
            self.choice = us.attacks(self.board, name) if able else us.reach(self.board, name)
            self.wash = self.choice.overlay()

    def intent(self, cell: us.Cell | None) -> us.answers.Intent:
        """What the pointer over a cell means."""
        if self.choice is not None:
            return us.intent(self.choice, cell)
        unit = None if cell is None else self.knowledge.board.unit_at(cell)
        if unit is None or unit.side != self.turns.side:
            return us.answers.Intent("nothing", cell)
        return us.answers.Intent("select", cell, unit.name)

    def click(self, cell: us.Cell | None) -> Iterator[us.answers.Stride]:
        """Do what a click means; gives back the strides of a walk, to be shown."""
        intent = self.intent(cell)
        name = self.name or ""
        if intent.meaning == "select":
            self.select(intent.target)
        elif intent:
            yield from self.walk(name, intent.route)
            if intent.meaning == "attack":
                self.strike(name, intent.target)
            self.select(name)
        else:
            self.select(None)

    def walk(self, name: str, route: us.Route | None) -> Iterator[us.answers.Stride]:
        """Let a unit walk, and say so where somebody was in the way."""
        if route is not None:
            walk = us.walk(self.board, name, route)
            yield from walk
            if walk.blockers:
                self.say(f"{name}: {walk.ending}, {walk.why}")

    def strike(self, name: str, target: str) -> None:
        """What an attack does is the game's to say; whether it can be made is not."""
        aim = us.attacks(self.board, name, moving=False).get(target)
        if not aim:
            self.say(f"{name} cannot attack {target}: {aim.why}")
            return
        cover = self.board.terrains[self.board.terrain(aim.cell)].cover
        hit = self.rng.random() < CHANCE - 0.2 * min(float(cover), 1.0)
        left = self.health(target) - hit
        with self.board.batch():  # one undo takes all of it back, health too
            self.turns.attacked(name)
            self.turns.done(name)
            self.board.set_data(target, health=left)
            if not left:
                self.board.remove(target)
        self.say(f"{name} {'hits' if hit else 'misses'} {target}, {left} left")

    def health(self, name: str) -> int:
        """How much a unit can still take."""
        return int(self.board.unit(name).data["health"])

    def undo(self) -> None:
        """Take the last walk or fight of this turn back."""
        self.board.undo()
        self.select(self.name)

    def save(self) -> None:
        """Keep the game in a file; health, turns and what sides know are in it."""
        us.save(self.board, self.path)
        self.say(f"saved as {self.path.name}")

    def load(self) -> None:
        """Go on with the game that was saved."""
        if self.path.exists():
            self.begin(us.load(self.path))
            self.say(f"loaded {self.path.name}")

    def opponents(self) -> Iterator[tuple[str, us.Route | None, Iterator[us.answers.Stride]]]:
        """The wreckers' turn, unit by unit: name, route and strides; then the wardens' again."""
        self.select(None)
        self.turns.end()
        for unit in self.turns.ready:
            plan = self.plan(unit)
            yield unit.name, plan.route, self.walk(unit.name, plan.route)
            if plan.target is not None and plan.stand is not None:
                self.strike(unit.name, plan.target)
        if not self.turns.over:
            self.turns.end()
        self.board.forget()  # what the other side did stays
        self.say(f"{self.turns.winner} hold the fen" if self.turns.over else "Your turn")

    def plan(self, unit: us.Unit) -> us.behaviors.Plan:
        """What a wrecker does: flee when nearly beaten, attack whom it can, else march."""
        board, name = self.board, unit.name
        flight = us.behaviors.withdraw(board, name) if self.health(name) == 1 else None
        plan = flight or us.behaviors.approach(board, name)
        if not plan:
            plan = us.behaviors.patrol(board, name, MARCH, passed=int(unit.data["passed"]))
            board.set_data(name, passed=plan.passed)
        return plan

    def say(self, text: str) -> None:
        """A line for the player."""
        self.told = [*self.told, text][-4:]


def fitted(board: us.Board, view: us.typing.Projection) -> us.Board:
    """The board as it lies on the screen, seen from above or from the side."""
    iso = view == "isometric"
    cell, lift = ((64.0, 32.0), 14.0) if iso else ((44.0, 50.0), 0.0)
    box = us.maps.reframe(board, us.Frame(cell=cell, projection=view, lift=lift)).grid.extent
    room = min((SIZE[0] - 40) / box.width, (SIZE[1] - 190) / (box.height + lift))
    width, height = (room * size for size in cell)
    left = (SIZE[0] - room * box.width) / 2 - room * box.x
    at = (left, 30 - room * (box.y - lift))
    return us.maps.reframe(
        board, us.Frame(cell=(width, height), origin=at, projection=view, lift=room * lift)
    )


class Screen:
    """The drawing: what the game answers, as seen on one of two boards laid out for the screen."""

    def __init__(self, game: Game) -> None:
        pygame.display.init()
        pygame.font.init()
        self.game = game
        self.sheet = pygame.display.set_mode(SIZE)
        pygame.display.set_caption("Under Step: the Tollen Fen")
        self.fonts = {size: pygame.font.Font(None, size) for size in (18, 22, 26)}
        boards = [fitted(game.board, view) for view in ("plan", "isometric")]
        self.views = [(seen, self.ground(seen)) for seen in boards]
        self.turn_view()
        self.pointer = (0, 0)
        self.going: tuple[str, us.answers.Pose] | None = None
        self.clock, self.open = pygame.time.Clock(), True

    def turn_view(self) -> None:
        """The board and its land as they lie on the screen, seen in the next of the views."""
        self.seen, self.land = self.views[0]
        self.views.reverse()

    def ground(self, seen: us.Board) -> pygame.Surface:
        """The land, from the farthest cell to the nearest, with the sides of raised ground."""
        sheet = pygame.Surface(SIZE)
        sheet.fill(PAPER)
        cells = seen.grid.cells.array
        for cell in us.Cells(cells[us.draw.depth_order(seen.grid, cells)]):
            corners = seen.corners(cell)
            lift = seen.grid.frame.lift * float(seen.elevation[seen.grid.index(cell)])
            for a, b in zip(corners, np.roll(corners, -1, axis=0), strict=True):
                if lift and b[0] < a[0]:  # clockwise: it faces the player
                    pygame.draw.polygon(
                        sheet, FACE, [a, b, (b[0], b[1] + lift), (a[0], a[1] + lift)]
                    )
            kind = seen.terrains[seen.terrain(cell)]
            tint = pygame.Color(kind.tint or PAPER)
            pygame.draw.polygon(sheet, tint, corners.tolist())
            pygame.draw.polygon(sheet, tint.lerp(INK, 0.18), corners.tolist(), 1)
            if kind.cost is None or kind.cover:
                self.text(sheet, kind.glyph or "", seen.center(cell), FAINT, 18)
        return sheet

    def text(self, on: pygame.Surface, words: str, at: Any, color: Any, size: int = 22) -> None:
        """Words, their middle at a point."""
        made = self.fonts[size].render(words, True, color)
        on.blit(made, made.get_rect(center=tuple(map(float, at))))

    def frame(self) -> None:
        """Everything, once, at its time; where there is no screen nobody waits."""
        game, seen, sheet = self.game, self.seen, self.sheet
        sheet.blit(self.land, (0, 0))
        veil = pygame.Surface(SIZE, pygame.SRCALPHA)
        for cell in game.knowledge.overlay().role("seen before", "unknown", "remembered"):
            pygame.draw.polygon(veil, VEIL, seen.corners(cell))
        intent = game.intent(None if self.going else seen.cell_at(self.pointer))
        for cell, mark in game.wash.items():
            if mark.role in TINTS:
                pygame.draw.polygon(veil, TINTS[mark.role], seen.corners(cell))
        sheet.blit(veil, (0, 0))
        for roles, color in ((("attack", "target"), STRIKE), (("reach", "start"), WASH)):
            for line in self.outline(game.wash.role(*roles)):
                pygame.draw.lines(sheet, color, True, line, 2)
        if intent.route:
            self.way(intent.route)
        self.units()
        for cell in game.wash.role("target"):
            pygame.draw.circle(sheet, STRIKE, seen.center(cell), 19, 3)
        self.words(intent)
        pygame.display.flip()
        if os.environ.get("SDL_VIDEODRIVER") != "dummy":
            self.clock.tick(1 / TICK)

    def outline(self, cells: list[us.Cell]) -> Iterator[Any]:
        """The lines around cells, each on its level."""
        array = np.array(cells, dtype=int).reshape(-1, 2)
        levels = self.seen.elevation[self.seen.grid.index(array)]
        for level in np.unique(levels):
            for line in self.seen.grid.outline(array[levels == level], level=level):
                yield line.tolist()

    def way(self, route: us.Route) -> None:
        """A route as a rounded line with an arrow, and the number of each turn that ends."""
        line = us.curve(route, on=self.seen).points.tolist()
        if len(line) > 1:
            pygame.draw.lines(self.sheet, PAPER, False, line, 7)
            pygame.draw.lines(self.sheet, WAY, False, line, 3)
        for piece in us.ribbon(route, on=self.seen):
            x, y = self.seen.center(piece.cell).tolist()
            if piece.shape == "end":
                ahead = pygame.Vector2(0, -14).rotate(piece.angle)
                tips = [ahead, ahead.rotate(140) * 0.8, ahead.rotate(-140) * 0.8]
                pygame.draw.polygon(self.sheet, WAY, [(x + tip.x, y + tip.y) for tip in tips])
            elif piece.turn_end is not None:
                pygame.draw.circle(self.sheet, PAPER, (x, y), 10)
                self.text(self.sheet, str(piece.turn_end), (x, y), WAY)

    def units(self) -> None:
        """The units that the wardens know of, from the farthest; who is on the way, at its pose."""
        game, seen = self.game, self.seen
        known = game.knowledge.board.units()
        for place in us.draw.depth_order(seen.grid, [game.board.covered(unit) for unit in known]):
            unit = known[place]
            x, y = seen.center(game.board.covered(unit)).mean(axis=0).tolist()
            if self.going is not None and self.going[0] == unit.name:
                x, y = self.going[1].point
            dark = unit.side == "wreckers"
            spot = pygame.Rect(round(x) - 14, round(y) - 14, 28, 28)
            for color, grow in ((INK, 4), (INK if dark else PAPER, 0)):
                pygame.draw.rect(self.sheet, color, spot.inflate(grow, grow), 0, 3 if dark else 16)
            if unit.name == game.name:
                pygame.draw.circle(self.sheet, WASH, spot.center, 20, 2)
            self.text(self.sheet, unit.name[:2], spot.center, PAPER if dark else INK)
            for pip in range(int(unit.data["health"])):
                pygame.draw.circle(self.sheet, WAY, (spot.left + 6 + 8 * pip, spot.bottom + 6), 3)
        for unit in game.knowledge.remembered:
            self.text(self.sheet, unit.name[:2] + "?", seen.center(unit.at), INK)

    def words(self, intent: us.answers.Intent) -> None:
        """What was told, what a click would do, and the keys."""
        game = self.game
        hint = {
            "move": f"go there: {intent.route.cost if intent.route else 0} points",
            "attack": f"attack {intent.target} from {tuple(intent.stand or ())}",
            "refused": f"no: {intent.why}",
        }.get(intent.meaning, "")
        head = f"Round {game.turns.round}, {game.turns.side}    {hint}"
        for place, words in enumerate([head, *game.told]):
            made = self.fonts[22 if place else 26].render(words, True, FAINT if place else INK)
            self.sheet.blit(made, (24, 668 + 26 * place))
        keys = self.fonts[22].render(
            "U undo   S save   L load   V view   E end turn   Esc", True, INK
        )
        self.sheet.blit(keys, (SIZE[0] - keys.get_width() - 24, 668))

    def show(self, name: str, route: us.Route | None, strides: Iterator[us.answers.Stride]) -> None:
        """A walk as it goes: a stride is taken, then shown, then the next."""
        if route is None:
            for _ in strides:
                pass  # an attack from where it stands, a selection
            return
        moving = us.poses(route, pace=PACE, on=self.seen)
        start = list(route.cells).index(self.game.board.unit(name).at)
        for place, _ in enumerate(strides, start):
            shown = name in {unit.name for unit in self.game.knowledge.board.units()}
            for part in np.arange(0, PACE, TICK) if shown else ():
                self.going = (name, moving.at(float(place * PACE + part)))
                self.frame()
        self.going = None

    def take(self, event: pygame.event.Event) -> None:
        """What the player does."""
        key = event.key if event.type == pygame.KEYDOWN else None
        if event.type == pygame.QUIT or key == pygame.K_ESCAPE:
            self.open = False
        elif event.type == pygame.MOUSEMOTION:
            self.pointer = event.pos
        elif event.type == pygame.MOUSEBUTTONDOWN and not self.game.turns.over:
            cell = self.seen.cell_at(event.pos)
            self.show(self.game.name or "", self.game.intent(cell).route, self.game.click(cell))
        elif key == pygame.K_u:
            self.game.undo()
        elif key == pygame.K_s:
            self.game.save()
        elif key == pygame.K_l:
            self.game.load()
        elif key == pygame.K_v:
            self.turn_view()
        elif key == pygame.K_e and not self.game.turns.over:
            for turn in self.game.opponents():
                self.show(*turn)

    def run(self, script: list[str]) -> None:
        """Until the player leaves, or the script is over."""
        steps = iter(script)
        while self.open:
            for event in pygame.event.get():
                self.take(event)
            self.frame()
            if script:
                step = next(steps, None)
                self.open = step is not None
                self.act(*(step or "").split())

    def act(self, what: str = "", where: str = "") -> None:
        """One step of a script: what a hand would do."""
        keys = {
            "undo": pygame.K_u, "view": pygame.K_v, "end": pygame.K_e, "save": pygame.K_s,
            "load": pygame.K_l,
        }  # fmt: skip
        moved = [pygame.MOUSEMOTION]
        kinds = {"hover": moved, "click": [*moved, pygame.MOUSEBUTTONDOWN]}
        if what in keys:
            pygame.event.post(pygame.event.Event(pygame.KEYDOWN, key=keys[what]))
        for kind in kinds.get(what, ()):
            col, row = map(int, where.split(","))
            at = self.seen.center((col, row)).tolist()
            pygame.event.post(pygame.event.Event(kind, pos=at))


def main() -> None:
    """Play, by hand or by a script."""
    parser = argparse.ArgumentParser(description="Play the Tollen Fen.")
    parser.add_argument("--seed", type=int, default=7)
    parser.add_argument("--script", default="", help='such as "click 6,6; hover 9,6; end"')
    parser.add_argument("--game", default="tollen-fen.board.json", help="the file to save in")
    parser.add_argument("--picture", help="write the last frame into FILE (.png)")
    given = parser.parse_args()
    screen = Screen(Game(given.seed, Path(given.game)))
    screen.run([step.strip() for step in given.script.split(";") if step.strip()])
    if given.picture:
        pygame.image.save(screen.sheet, given.picture)
    print(*screen.game.told, sep="\n")


if __name__ == "__main__":
    main()
