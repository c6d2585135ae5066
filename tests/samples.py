"""Random boards, with a unit named "a" on each, and a movement's rule."""

import dataclasses

from geometry import KINDS, grids
from hypothesis import settings
from hypothesis import strategies as st

import understep as us


def examples(factor):
    """Settings for a property whose examples are dear or cheap: that many times the usual."""
    return settings(max_examples=max(3, round(settings.default.max_examples * factor)))


KINDS_OF_EDGES = {
    "wall": us.Edge(blocks=True, hides=True),
    "road": us.Edge(cost=0.5),
    "ditch": us.Edge(add=1),
    "door": us.Edge(blocks=True, door=True),
}
FEATURES = {
    "crate": us.Feature(blocks=True),
    "planks": us.Feature(cost=0.5),
    "trees": us.Feature(add=1, cover=0.6),
    "shed": us.Feature(add=1, hides=True),
}
COSTS = [1, 2, 3, 1, 2, None, 0.5, 1.5, 0.1, 0]
FOOTPRINTS = [((0, 0),)] * 4 + [
    ((0, 0), (1, 0)),
    us.Footprint.block(2),
    us.Footprint.cluster(1),
    ((0, 0), (-1, 1)),
]
LEAPS = [
    us.Leap(),
    us.Leap(2, terrains=["t0", "turf"], up=1, down=None, cost=1.5),
    us.Leap(0, up=None, down=0.5, cost=1),
    us.Leap(1, terrains=["t1"], cost=0.5),
]
LEVELS = [0, 0, 1, 2, 0.5]


def wade(site):
    """A movement's rule: the depth decides, a hazard costs a point more."""
    depth = site.values.get("depth", 0)
    if depth > 1 or site.cost is None:
        return None
    return site.cost + depth + (1 if site.hazard else 0)


@st.composite
def boards(draw, cells=30, kinds=KINDS, free_steps=True, frame=None):
    """A board with a unit named "a", and the unit's place."""
    grid = draw(grids(cells, kinds, frame))
    choice = COSTS if free_steps else COSTS[:-1]
    costs = draw(st.lists(st.sampled_from(choice), min_size=2, max_size=4))
    names = [f"t{i}" for i in range(len(costs))]
    closed = draw(st.sampled_from([(), (), "ours", "theirs"]))
    terrain = {"turf": 1, **dict(zip(names, costs, strict=True))}
    terrain["t0"] = us.Terrain(costs[0], hazard=int(closed == "theirs"), closed_to=closed)
    board = us.Board(
        grid, terrain, edges=KINDS_OF_EDGES, features=FEATURES, properties={"depth": 0.0}
    )
    every = list(grid.cells)
    many = len(every)
    picks = draw(st.lists(st.integers(0, 2 * len(names)), min_size=many, max_size=many))
    for cell, pick in zip(every, picks, strict=True):
        if pick < len(names):
            board.paint(names[pick], cell)
    for kind in draw(st.lists(st.sampled_from(list(KINDS_OF_EDGES)), max_size=len(every))):
        cell = draw(st.sampled_from(every))
        for other in list(grid.neighbors(cell))[: draw(st.integers(1, 3))]:
            board.set_edge(cell, other, kind, both=draw(st.integers(0, 3)) > 0)
            if kind == "door" and draw(st.booleans()):
                board.open_edge(cell, other)
    few = st.lists(st.sampled_from(every), max_size=3)
    for to in draw(st.sampled_from([[], [], [None], ["ours"], ["theirs", None]])):
        board.block(draw(few), side=to)
    for a, b in draw(
        st.lists(st.tuples(st.sampled_from(every), st.sampled_from(every)), max_size=3)
    ):
        if a != b:
            cost = draw(st.sampled_from([0.5, 1, 3, 0.1, 1 / 3, *([0] if free_steps else [])]))
            both, kind = draw(st.booleans()), draw(st.sampled_from(["ladder", "ladder", "ferry"]))
            board.link(a, b, cost, both=both, kind=kind)
    for kind in draw(st.lists(st.sampled_from(list(FEATURES)), max_size=2)):
        board.place(kind, draw(few))
    board.set_value("depth", draw(st.sampled_from([0.5, 2.0])), draw(few))
    if draw(st.booleans()):
        board.set_elevation([draw(st.sampled_from(LEVELS)) for _ in every], every)
    feet = draw(st.sampled_from(FOOTPRINTS))
    leaps = [None, None, *LEAPS] if len(feet) == 1 else [None]
    carry = draw(st.sampled_from([0, 0, 0, 1, 2.5, 20]))
    movement = us.Movement(
        points=draw(st.sampled_from([0, 1, 2, 3, 4, 5.5, 8])),
        diagonal=draw(st.sampled_from([1, 1.5, 1.414, *(() if carry else ["alternating"] * 2)])),
        corners=draw(st.sampled_from(["free", "one", "both"])),
        passes=draw(st.sampled_from(["own", "own", "none", "all"])),
        edges=draw(st.sampled_from([{}, {"wall": "open"}, {"ditch": None, "road": 2}])),
        links=draw(st.sampled_from([{}, {}, {"ladder": None}, {"ferry": 2}])),
        features=draw(st.sampled_from([{}, {}, {"crate": "open"}, {"trees": None, "planks": 2}])),
        climb=draw(st.sampled_from([None, None, 0, 1])),
        drop=draw(st.sampled_from([None, None, 1.5])),
        uphill=draw(st.sampled_from([0, 0, 1, 0.5])),
        downhill=draw(st.sampled_from([0, 0, 0.25])),
        footprint=feet,
        rule=draw(st.sampled_from([None, None, wade])),
        zones=draw(st.sampled_from(["ignore", "ignore", "end", 1, 0.5])),
        foe_corners=draw(st.booleans()),
        one_step=draw(st.sampled_from([False, False, True])),
        leap=draw(st.sampled_from(leaps)),
        carry=carry,
    )
    left = draw(st.sampled_from([None, None, 0, 1, 2.5, 9]))
    facing = draw(st.sampled_from([None, *grid.directions]))
    places = draw(st.lists(st.sampled_from(every), min_size=1, max_size=8, unique=True))
    unit = us.Unit("a", "ours", movement, left=left, facing=facing)
    try:  # where it fits, or small
        board.add(unit, at=places[0])
    except us.errors.InputError:
        small = dataclasses.replace(movement, footprint=((0, 0),))
        board.paint("turf", places[0])
        board.clear(places[0])
        board.clear(places[0], side="ours")
        board.set_value("depth", 0, places[0])
        for kind in board.features(places[0]):
            board.lift(kind, places[0])
        board.add(dataclasses.replace(unit, movement=small), at=places[0])
    for number, place in enumerate(places[1:]):
        side, layer = (
            draw(st.sampled_from(["ours", "theirs"])),
            draw(st.sampled_from(["ground", "air"])),
        )
        taken = board.unit_at(place, layer=layer) is not None
        if (
            not taken
            and not board.blocked(place, side=side)
            and "crate" not in board.features(place)
            and not (closed == side and board.terrain(place) == "t0")
        ):
            guards = draw(st.integers(0, 3)) > 0
            everywhere = us.Movement(points=1, costs=1, layer=layer, guards=guards)
            board.add(us.Unit(f"u{number}", side, everywhere), at=place)
    return board
