"""What a computer player does, one call at a time, in microseconds; and how large a search is."""

import random
import subprocess
import sys

import peers
from fights import batched, battle, moved, singly
from timing import least

import understep as us


def board(fog):
    """The battle of ten units a side, both of them in fog or none."""
    made = battle()
    for side in made.sides if fog else ():
        us.fog(made, side)
    return made


def tried(fog, act):
    """An act of a unit in a trial."""
    made = board(fog)
    spots = moved(made, "u0")
    reach = us.reach(made, "u0")
    route = next(
        route for cell in reach.cells[::-1] if len((route := reach.route_to(cell)).cells) == 5
    )
    acts = {
        "put": lambda: made.put("u0", at=next(spots)),
        "set_left": lambda: made.set_left("u0", 2),
        "walk": lambda: us.walk(made, "u0", route).finish(),
    }

    def work():
        with made.trial():
            acts[act]()

    return least(work) * 1e6


def candidates():
    """A candidate by trial: a put, who could attack it there, whom it could attack."""
    made = board(False)
    many = sum(len(us.reach(made, unit.name)) for unit in made.units("ours"))
    return least(lambda: singly(made), 1, 5) * 1e6 / many


def of_prospects(**rules):
    """A candidate of prospects, with exposure and targets."""
    made = battle(**rules)

    return least(lambda: batched(made), 1, 9) * 1e6 / len(us.prospects(made, "ours"))


def asked(what):
    """A question about a unit, found anew where it is kept."""
    made = board(False)
    us.attacks(made, "u0")  # what its sight is made of is shared with copies
    reach = us.reach(made, "u0")
    cell = reach.cells[-1]
    return least({
        "attacks": lambda: us.attacks(made, "u0"),
        "view": lambda: us.view(made, "u0"),
        "intent": lambda: us.intent(reach, cell),
        "copy": lambda: us.attacks(made.copy(), "u0"),
    }[what]) * 1e6  # fmt: skip


def playout(fog):
    """A playout of four plies on 12 x 10, three units a side: attack if it can, or go anywhere."""
    rng = random.Random(3)
    kinds = {"turf": 1, "mud": 2, "ruin": us.Terrain(None, cover=2)}
    made = us.Board(us.HexGrid(12, 10), kinds)
    cells = list(made.grid)
    made.paint("mud", rng.sample(cells, 20))
    made.paint("ruin", rng.sample(cells, 10))
    free = [cell for cell in cells if made.terrain(cell) != "ruin"]
    for number, place in enumerate(rng.sample(free, 6)):
        side, bow = ("ours", "theirs")[number % 2], us.Attack(1, 1 + number // 2)
        unit = us.Unit(f"u{number}", side, us.Movement(4), attack=bow, sight=5, data={"health": 9})
        made.add(unit, at=place)
    for side in made.sides if fog else ():
        us.fog(made, side, land_known=True)

    def work():
        with made.trial():
            for ply in range(4):
                for unit in made.units(("ours", "theirs")[ply % 2]):
                    acts(made, unit, rng)

    return least(work, 10, 9) * 1e6


def acts(made, unit, rng):
    """A unit attacks, or goes somewhere."""
    can = us.attacks(made, unit.name)
    cells = can.stands(target := rng.choice(can.targets)) if can.targets else can.reach.cells
    cell = rng.choice(cells)
    if made.can_stand(unit.name, cell, known_to=False):
        made.put(unit.name, at=cell)
    if can.targets and (health := made.unit(target).data["health"]) > 4:
        made.set_data(target, health=health - 4)


def searched():
    """Bytes a closed cell of a route across 2000 x 2000 (Linux), in a process of its own."""
    done = subprocess.run([sys.executable, __file__], capture_output=True, text=True, check=True)
    return float(done.stdout)


def print_searched():
    made = peers.fen(2000)
    made.remove("near")
    us.route(made, "far", (5, 5))
    highest()
    before = highest()
    route = us.route(made, "far", (1990, 1990))
    print((highest() - before) / route.expanded)


def highest():
    """The most bytes that this process held since the last call, and begin again."""
    with open("/proc/self/status") as status:
        line = next(line for line in status if line.startswith("VmHWM"))
    with open("/proc/self/clear_refs", "w") as refs:
        refs.write("5")
    return int(line.split()[1]) << 10


# what, how it is measured, its unit, the floor and the goal
THINKING = [
    ("a candidate of prospects: exposure and targets", of_prospects, "us", 50, 20),
    (
        "the same, attacks that affect a line of three",
        lambda: of_prospects(pattern=us.Pattern.line(3)),
        "us",
        50,
        20,
    ),
    (
        "the same, attacks along a path",
        lambda: of_prospects(measure="path"),
        "us",
        50,
        20,
    ),
    ("a candidate by trial: put, threats, attacks", candidates, "us", 333, 200),
    ("a put in a trial", lambda: tried(False, "put"), "us", 15, 10),
    ("the same, both sides in fog", lambda: tried(True, "put"), "us", 120, 60),
    ("set_left in a trial, in fog", lambda: tried(True, "set_left"), "us", 30, 15),
    ("a walk of 4 steps in a trial", lambda: tried(False, "walk"), "us", 150, 100),
    ("the same, both sides in fog", lambda: tried(True, "walk"), "us", 600, 400),
    ("attacks of a unit", lambda: asked("attacks"), "us", 60, 40),
    ("a view of radius 6", lambda: asked("view"), "us", 10, 8),
    ("an intent", lambda: asked("intent"), "us", 60, 30),
    ("a copy, and its first attacks", lambda: asked("copy"), "us", 120, 80),
    ("a playout of 4 plies, 3 a side, 12 x 10", lambda: playout(False), "us", 667, 333),
    ("the same, both sides in fog", lambda: playout(True), "us", 1000, 500),
    ("memory of a route across 2000 x 2000", searched, "bytes a closed cell", 16, 16),
]

if __name__ == "__main__":
    if sys.argv[1:] == ["all"]:
        for what, measure, unit, *_ in THINKING:
            print(f"{what}: {measure():.3g} {unit}")
    else:
        print_searched()
