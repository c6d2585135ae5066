"""A skirmish between two sides that both play by behaviors, in fog: log and key moments.

What an attack does is decided here, as a game would: the library only says who can attack whom.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, NamedTuple

import numpy as np

import understep as us

HEALTH = 3
SHOVES = ("billhooks",)  # whose hits push


class Scene(NamedTuple):
    """Something worth a picture: what to call it, the board as it was, and what to lay over it."""

    name: str
    title: str
    board: us.Board
    answers: tuple[Any, ...]


class Skirmish:
    """A game under way; `play` goes on with it, a line of the log at a time.

    Each side goes from waypoint to waypoint until somebody can be attacked; a unit that is nearly
    beaten withdraws.
    """

    def __init__(
        self, board: us.Board, waypoints: dict[str, list[tuple[int, int]]], seed: int
    ) -> None:
        self.board, self.waypoints = board, waypoints
        self.rng = np.random.default_rng(seed)
        self.health = {unit.name: HEALTH for unit in board.units()}
        self.passed = dict.fromkeys(self.health, 0)
        self.moments: dict[str, Scene] = {}
        self.lines: list[str] = []
        for side in waypoints:
            us.fog(board, side, land_known=True)
        self.turns = us.Turns(board, list(waypoints))

    def play(self, rounds: int) -> Iterator[str]:
        """Play until one side is left, or so many rounds are over."""
        while self.turns.round <= rounds and not self.turns.over:
            side, lines = self.turns.side, []
            for unit in self.turns.ready:
                # it may have been beaten since the round began
                if not self.turns.over and unit.name in self.health:
                    lines += list(self.act(unit.name))
            yield f"Round {self.turns.round}, {side}"
            yield from (f"  {line}" for line in lines or ["nobody moves"])
            self.turns.end()
        left = {side: sum(u.side == side for u in self.board.units()) for side in self.waypoints}
        yield "; ".join(f"{side}: {many} left" for side, many in left.items()) + (
            f"; the {self.turns.winner} hold the field" if self.turns.winner else ""
        )
        title = f"{self.board.title}: after {self.turns.round - 1} rounds"
        self.keep("end", title, self.board)

    def keep(self, name: str, title: str, board: us.Board, *answers: Any) -> None:
        """Keep a moment for a picture, the first of its kind; as it is now."""
        if name not in self.moments:
            # answers of this moment: the board will have changed when they are drawn
            overlays = tuple(answer.overlay() for answer in answers)
            self.moments[name] = Scene(name, title, board.copy(), overlays)

    def act(self, name: str) -> Iterator[str]:
        """One unit's turn."""
        plan = self.plan(name)
        did = []
        if plan.route is not None:
            if plan.stand is not None:
                known = self.board.knowledge(plan.unit.side).board
                title = f"{name} goes for {plan.target}"
                self.keep("attack", title, known, us.attacks(self.board, name), plan)
            did.append(self.walk(name, plan.route))
        if plan.target is not None and plan.stand is not None:
            did += self.strike(name, plan.target)
        self.turns.done(name)
        if did:
            yield f"{name} {', '.join(did)}"

    def plan(self, name: str) -> us.behaviors.Plan:
        """What a unit is to do."""
        board = self.board
        unit = board.unit(name)
        # one more hit would beat it
        if self.health[name] == 1:
            plan = us.behaviors.withdraw(board, name)
            if plan:
                return plan
        if unit.attack is not None:
            # who can attack from afar can also keep away
            order: Any = ("exposure", "cost") if unit.attack.low > 1 else ("cost",)
            plan = us.behaviors.approach(
                board, name, weakness=lambda u: -self.health[u.name], order=order
            )
            if plan:
                return plan
        points = self.waypoints[unit.side]
        plan = us.behaviors.patrol(board, name, points, passed=self.passed[name], back=True)
        self.passed[name] = plan.passed
        return plan

    def walk(self, name: str, route: us.Route) -> str:
        """Let a unit walk, and say how that went."""
        walk = us.walk(self.board, name, route)
        met: list[str] = []
        for stride in walk:
            met += stride.met
            if stride.met:
                side = self.board.unit(name).side
                title = f"{name} meets {stride.met[0]}: what the {side} know"
                knowledge = self.board.knowledge(side)
                self.keep("sighting", title, knowledge.board, knowledge)
        end = walk.cells[-1]
        text = f"goes to {end.col},{end.row}" if len(walk.cells) > 1 else "stays"
        text += f" and sees {' and '.join(met)}" if met else ""
        return text + (f"; {walk.ending}: {walk.why}" if walk.blockers else "")

    def strike(self, name: str, target: str) -> Iterator[str]:
        """Attack, if that can still be done from where the unit is."""
        aim = us.attacks(self.board, name, moving=False).get(target)
        if not isinstance(aim, us.answers.Aim):
            yield f"cannot attack {target}: {aim.why}"
            return
        self.turns.attacked(name)
        kind = self.board.terrains[self.board.terrain(aim.cell)]
        chance = 0.75 - 0.25 * min(kind.cover, 1.0)
        if self.rng.random() >= chance:
            yield f"misses {target}"
            return
        self.health[target] -= 1
        if self.health[target] == 0:
            self.board.remove(target)
            yield f"beats {target}"
        else:
            yield f"hits {target} ({self.health[target]} of {HEALTH} left)"
            if name in SHOVES:
                yield from self.shove(name, target)

    def shove(self, name: str, target: str) -> Iterator[str]:
        """Push the unit that was hit one cell away."""
        board = self.board
        here, there = board.unit(name).at, board.unit(target).at
        way = board.grid.facing(here or (0, 0), there or (0, 0))
        # an archer's target is too far away to be pushed
        if way is None:
            return
        push = us.push(board, target, way, 1)
        before = board.copy()
        if push:
            board.put(target, at=push.end)
            yield f"pushes it to {push.end.col},{push.end.row}"
        else:
            yield f"cannot push it: {push.why}"
        self.keep("push", f"{name} pushes {target}", before, push)
