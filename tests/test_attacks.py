"""Attacks, stands and threats against every stand, cell and unit tried out."""

import contextlib
import dataclasses
import math
from concurrent.futures import ThreadPoolExecutor

import networkx as nx
import numpy as np
import pytest
from geometry import kind_of
from hypothesis import assume, given
from hypothesis import strategies as st
from reference import Reference
from samples import boards

import understep as us

PATTERNS = [us.Pattern()] * 3 + [
    us.Pattern.disk(1),
    us.Pattern.line(3),
    us.Pattern.cone(2),
    us.Pattern.of([(0, -1), (1, -2)]),
]


@st.composite
def armies(draw):
    """A board whose units all have attacks, some of them no points left."""
    board = draw(boards(cells=16, free_steps=False))
    board.paint("turf", [cell for cell in board.grid if draw(st.integers(0, 3)) == 0])
    for unit in board.units():
        low = draw(st.integers(0, 2))
        attack = us.Attack(
            low,
            low + draw(st.integers(0, 2)),
            measure=draw(st.sampled_from(["grid", "grid", "path", "straight"])),
            sight=draw(st.booleans()),
            per_level=draw(st.sampled_from([0, 0, 1])),
            up=draw(st.sampled_from([None, None, 0.5])),
            down=draw(st.sampled_from([None, None, 1])),
            affects=draw(st.sampled_from(["foe", "foe", "friend", "anyone"])),
            pattern=draw(st.sampled_from(PATTERNS)),
        )
        left = unit.left if unit.name == "a" else draw(st.sampled_from([None, None, 0]))
        arm(board, unit, attack=attack, eye=draw(st.sampled_from([0.5, 1.5])), left=left)
    return board


def arm(board, unit, **facts):
    """Give a unit other facts."""
    board.remove(unit.name)
    board.add(dataclasses.replace(unit, at=None, **facts), at=unit.at)


class Brute:
    """What a unit can attack, by trying every stand and cell."""

    def __init__(self, board, name, full=False):
        self.board, self.grid, self.unit = board, board.grid, board.unit(name)
        self.attack = self.unit.attack
        points = self.unit.movement.points
        self.steps = self.paths() if self.attack.measure == "path" else None
        self.aims = [
            (stand, cell)
            for stand in us.reach(board, name, left=points if full else None).cells
            for cell in self.grid
            if self.can(stand, cell)
        ]

    def paths(self):
        """Steps from cell to cell for the unit as if alone and small, links and leaps aside."""
        board = self.board.copy()
        for other in board.units():
            if other.name != self.unit.name:
                board.remove(other.name)
        rules = dataclasses.replace(self.unit.movement, footprint=((0, 0),), leap=None)
        arm(board, self.unit, movement=rules)
        steps = Reference(board, self.unit.name, 1).steps
        graph = nx.DiGraph(
            [(a, b) for a in steps for way, b, _ in steps[a] if way is not None and a != b]
        )
        graph.add_nodes_from(self.grid)
        return dict(nx.all_pairs_shortest_path_length(graph))

    def gap(self, stand, cell):
        covered = self.board.covered(self.unit, stand)
        if self.attack.measure == "straight":
            gaps = [math.dist(self.spot(each), self.spot(cell)) for each in covered]
            return round(min(gaps), 9)
        if self.steps is None:
            return min(int(self.grid.distance(each, cell)) for each in covered)
        return min(self.steps[each].get(cell, math.inf) for each in covered)

    def can(self, stand, cell):
        """Whether the attack can be aimed at a cell from a stand."""
        attack, table = self.attack, self.board.elevation
        below = float(table[self.grid.index(stand)] - table[self.grid.index(cell)])
        far = attack.high + attack.per_level * int(below)  # towards 0
        if not attack.low <= self.gap(stand, cell) <= far:
            return False
        if (attack.up is not None and -below > attack.up) or (
            attack.down is not None and below > attack.down
        ):
            return False
        covered = self.board.covered(self.unit, stand)
        eye = self.unit.eye
        return not attack.sight or any(us.sees(self.board, each, cell, eye=eye) for each in covered)

    def spot(self, cell):
        """Where a cell lies on a plane of regular cells."""
        if kind_of(self.grid) == "square":
            return cell
        q, r = self.grid.convert(cell, "offset", "axial").tolist()
        if kind_of(self.grid) == "pointy":
            return q + r / 2, r * math.sqrt(3) / 2
        return q * math.sqrt(3) / 2, r + q / 2

    def hits(self, stand, cell):
        """The cells of the pattern."""
        grid, pattern = self.grid, self.attack.pattern
        if pattern.shape == "cell":
            return {cell}
        if pattern.shape == "disk":
            return {each for each in grid if grid.distance(each, cell) <= pattern.size}
        if stand == cell:
            return set()
        (x, y), (a, b) = self.spot(stand), self.spot(cell)
        angle = math.degrees(math.atan2(a - x, y - b)) % 360
        many = len(grid.directions)
        first = 30 if kind_of(grid) == "pointy" else 0
        ways = [(first + way * 360 / many) % 360 for way in range(many)]
        quarters = pattern.shape == "cells" and many == 8  # they turn by quarters
        gaps = [
            (round(min((angle - way) % 360, (way - angle) % 360), 6),
             round(abs(math.cos(math.radians(way))), 6))  # of two as near that nearer to a row
            if not (quarters and place % 2) else (999, 0)
            for place, way in enumerate(ways)
        ]  # fmt: skip
        way = gaps.index(min(gaps))
        if pattern.shape == "line":
            row = [grid.step(stand, way, n) for n in range(1, pattern.size + 1)]
            return {each for each in row if each is not None}
        if pattern.shape == "cone":
            return set(grid.cone(stand, way, pattern.size))
        straight = [each for each in range(many) if many != 8 or each % 2 == 0]
        turns = way // 2 if many == 8 else way
        ahead, right, left = (straight[(turns + way) % len(straight)] for way in (0, 1, -1))
        rows = {  # the same offsets as steps
            "square": ([ahead], [ahead, ahead, right]),
            "flat": ([ahead], [ahead, right]),
            "pointy": ([left], [ahead, left]),
        }
        ends = {self.walked(stand, each) for each in rows[kind_of(grid)]}
        return {end for end in ends if end in grid}

    def walked(self, cell, ways):
        """A cell some steps away, on a plane without an end."""
        lattice = self.grid.lattice
        at = lattice.plane(np.array(cell)) + sum(lattice.vectors[way] for way in ways)
        return us.Cell(*lattice.addresses(at).tolist())

    def meant(self, other):
        kinds = {"foe": [False], "friend": [True], "anyone": [True, False]}
        return (other.side == self.unit.side) in kinds[self.attack.affects]

    def near_enough(self, stand, other):
        """Whether no cell of a large unit is too near."""
        if self.attack.pattern.shape != "cell":
            return True
        return all(self.gap(stand, each) >= self.attack.low for each in self.board.covered(other))


@given(armies(), st.integers(0, 9))
def test_attacks_are_what_every_stand_tried_out_gives(board, who):
    name = board.units()[who % len(board.units())].name
    brute, found = Brute(board, name), us.attacks(board, name)
    assert set(found) == {cell for _, cell in brute.aims}
    assert list(found) == sorted(found, key=lambda cell: (cell.row, cell.col))
    for cell in board.grid:
        stands = [stand for stand, aim in brute.aims if aim == cell]
        assert list(found.stands(cell)) == stands
        assert (cell in found) == bool(found.get(cell)) == bool(stands)
        assert found.get(cell).stand == stands[0] if stands else found.get(cell).why
        for stand in stands:
            assert set(found.hits(stand, cell)) == brute.hits(stand, cell)
    names = set()
    for other in board.units():
        if other.name == name or not brute.meant(other):
            continue
        covered = set(board.covered(other))
        stands = [
            stand for stand in found.reach.cells
            if brute.near_enough(stand, other)
            and any(brute.hits(s, cell) & covered for s, cell in brute.aims if s == stand)
        ]  # fmt: skip
        ways = found.ways(other.name)
        assert list(ways) == stands
        assert all(brute.hits(*way) & covered and way in brute.aims for way in ways.items())
        if brute.attack.pattern.shape in ("line", "cone", "cells"):  # the first, row by row
            for stand, aimed in ways.items():
                aims = [aim for s, aim in brute.aims if s == stand and brute.hits(s, aim) & covered]
                assert aimed == min(aims, key=lambda cell: (cell.row, cell.col))
        assert (other.name in found.targets) == bool(stands) == bool(found.get(other.name))
        assert all(other.name in found.affected(*way) for way in ways.items())
        names |= {other.name} if stands else set()
    assert names == set(found.targets) - {name}
    itself = found.attack.low == 0 and found.attack.affects != "foe"
    itself = itself and found.attack.pattern.shape in ("cell", "disk")
    assert (name in found.targets) == itself
    moved, marks = us.attacks(board, name, moving=False), found.overlay()
    assert set(moved) == {cell for stand, cell in brute.aims if stand == board.unit(name).at}
    ends = {cell for cell, mark in marks.items() if mark.role == "reach"}
    assert ends <= set(found.reach)
    assert set(marks.role("attack")) <= set(found) - set(found.reach)


@given(armies(), st.data())
def test_attacks_stay_as_they_were_while_the_board_goes_on(board, data):
    name = data.draw(st.sampled_from(board.units())).name
    if data.draw(st.booleans()):
        arm(board, board.unit(name), attack=us.Attack(1, 4))
    found, same = us.attacks(board, name), us.attacks(board.copy(), name)
    then = list(same), same.targets, same.why, same.reach.cells
    for cell in data.draw(st.lists(st.sampled_from(list(board.grid)), min_size=1, max_size=4)):
        board.set_elevation(data.draw(st.integers(0, 3)), cell)
        with contextlib.suppress(us.errors.OccupiedError):  # who stands there may not stand on it
            board.paint(data.draw(st.sampled_from(list(board.terrains))), cell)
        us.attacks(board, name)  # the ground that others look over is found anew
    assert (list(found), found.targets, found.why, found.reach.cells) == then
    assert [cell in found for cell in board.grid] == [cell in same for cell in board.grid]
    if found.stale:
        with pytest.raises(us.errors.StaleError, match="the board has changed"):
            found.stands(next(iter(board.grid)))


@given(armies())
def test_threats_are_the_sum_of_attacks_and_stands_are_ranked_by_them(board):
    threats = us.threats(board, against="ours")
    counts, strikes = dict.fromkeys(board.grid, 0), {}
    for foe in board.units():
        if foe.side == "ours" or foe.attack.affects == "friend":
            continue
        brute = Brute(board, foe.name, full=True)
        struck = {cell for aim in brute.aims for cell in brute.hits(*aim)}
        strikes[foe.name] = struck
        for cell in struck:
            counts[cell] += 1
            assert foe.name in threats.by(cell)

    assert {cell: threats[cell] for cell in board.grid} == counts
    assert set(threats.cells) == {cell for cell in counts if counts[cell]}
    assert set(threats.foes) == set(strikes)
    each = dict(zip(threats.foes, threats.by_foe(), strict=True))
    (left, top), cells = board.grid.first, list(board.grid)
    assert strikes == {
        name: {cell for cell in cells if mask[cell.row - top, cell.col - left]}
        for name, mask in each.items()
    }
    for unit in board.units():
        fewer = board.copy()
        fewer.remove(unit.name)
        supposed = us.threats(board, "ours", without=unit.name)
        expected = us.threats(fewer, "ours")
        assert supposed.foes == expected.foes
        assert (supposed.by_foe() == expected.by_foe()).all()
    brute = Brute(board, "a")
    targets = [u.name for u in board.units() if u.name != "a" and brute.meant(u)]
    assume(targets)
    target = targets[0]
    stands, found = us.stands(board, "a", target), us.attacks(board, "a")
    assert {each.cell: each.aim for each in stands} == found.ways(target)
    assert bool(stands) == (target in found.targets)
    full = board.unit("a").movement.points
    for each in stands:
        covered = set(board.covered(board.unit("a"), each.cell))
        foes = [name for name in strikes if strikes[name] & covered]
        assert (each.exposure, each.cost) == (len(foes), found.reach[each.cell].cost)
        away = us.reach(board, "a", at=each.cell, left=full)
        hit = set().union(*strikes.values())
        areas = {cell: set(board.covered(board.unit("a"), cell)) for cell in away}
        safe = [away[cell].cost for cell in away if not areas[cell] & hit]
        assert each.retreat == (min(safe, default=None) if foes else 0)
    keys = [
        (each.cost, each.exposure, -each.cover, each.retreat is None, each.retreat)
        for each in stands
    ]
    assert keys == sorted(keys)


@pytest.mark.parametrize("measure", ["grid", "straight", "path"])
def test_an_attack_over_heights_that_cannot_be_compared_is_refused(measure):
    board = us.Board(us.SquareGrid(9000, 1), {"turf": 1})
    board.set_elevation(10**6, (5, 0))
    far = us.Attack(1, 1000, measure=measure, per_level=1)
    board.add(us.Unit("archer", "wardens", us.Movement(1), eye=10**6, attack=far), at=(0, 0))
    for moving in (False, True):
        with pytest.raises(us.errors.InputError, match="heights cannot be compared exactly"):
            us.attacks(board, "archer", moving=moving)
    board.add(us.Unit("raider", "wreckers", us.Movement(1)), at=(99, 0))
    with pytest.raises(us.errors.InputError, match="heights cannot be compared exactly"):
        us.threats(board, against="wreckers")


def test_why_an_attack_is_none():
    board = us.Board(us.HexGrid(14, 7), {"turf": 1, "reeds": us.Terrain(2, cover=2)})
    archer = us.Unit("archer", "wardens", us.Movement(points=1), attack=us.Attack(3, 4))
    archer = board.add(archer, at=(2, 3))
    for name, side, col in (
        ("near", "wreckers", 3),
        ("far", "wreckers", 13),
        ("own", "wardens", 7),
    ):
        board.add(us.Unit(name, side, us.Movement(points=1)), at=(col, 3))
    told = {
        "near": "(3, 3) is 2 cells away at best, and its range is 3 to 4",
        "far": "(13, 3) is 11 cells away at best, and its range is 3 to 4",
        "own": "'own' is of the wardens, and the attack affects foes",
    }
    for name, why in told.items():
        refusal = us.attacks(board, "archer").get(name)
        assert (bool(refusal), refusal.why) == (False, why)
        assert not us.stands(board, "archer", name)
        with pytest.raises(us.errors.NotReached, match=r"at best|affects"):
            us.attacks(board, "archer")[name]
    board.put("far", at=(6, 1))
    assert us.attacks(board, "archer").targets == ("far",)
    board.paint("reeds", board.grid.ring((6, 1), 1))
    assert "'reeds' at" in us.attacks(board, "archer").get("far").why
    board.set_elevation(3, (6, 1))
    low = us.Attack(3, 4, up=1)
    assert us.attacks(board, "archer", attack=low).get("far").why.startswith("(6, 1) lies 3 levels")
    old = us.attacks(board, "archer")
    board.put("far", at=(6, 0))
    assert (old.targets, old.stale, old.affected((2, 3), (6, 1))) == (("far",), True, ("far",))
    shown, row = old.overlay(), us.Attack(1, 9, pattern=us.Pattern.cone(9))
    along = us.attacks(board, "archer", attack=row)
    assert along.ways("far")
    assert old.get("far").stand  # it stays what it was: units are not in the way of sight
    board.paint("reeds", (6, 3))
    assert dict(old.overlay()) == dict(shown)
    for kept in (old, along):
        with pytest.raises(us.errors.StaleError, match="ask for them anew"):
            kept.get("far")
    board.undo()
    board.undo()
    assert old.get("far")
    assert us.attacks(board, "archer").plain()["targets"]["far"]["cell"] == [6, 1]
    for call, rule in (
        (lambda: us.Attack(3, 2), "high: must be 3 or more"),
        (lambda: us.Attack(1, 2, measure="steps"), "measure"),
        (lambda: us.attacks(board, "near"), "it has no attack"),
        (lambda: us.stands(board, "archer", "far", order=["costs"]), "order.*did you mean 'cost'"),
        (lambda: us.threats(board, against="wardes"), "did you mean 'wardens'"),
        (lambda: us.Pattern.disk(-1), "radius: must be a whole number"),
        (lambda: us.Unit("x", "y", us.Movement(1), attack="bow"), "attack: must be an Attack"),
    ):
        with pytest.raises(us.errors.InputError, match=rule):
            call()


def test_of_large_units_the_nearest_cell_and_every_cell_count():
    board = us.Board(us.SquareGrid(14, 3), {"turf": 1})
    wide = us.Movement(3, footprint=us.Footprint.block(2, 1))
    board.add(us.Unit("cart", "wardens", wide, attack=us.Attack(2, 3)), at=(4, 1))
    foot = us.Movement(0)
    board.add(us.Unit("left", "wreckers", foot, attack=us.Attack()), at=(3, 1))
    board.add(us.Unit("right", "wreckers", foot, attack=us.Attack()), at=(6, 1))
    board.add(us.Unit("bow", "wreckers", us.Movement(1), attack=us.Attack(2, 2)), at=(9, 1))
    stay = us.attacks(board, "cart", moving=False)
    assert stay.targets == ()  # they are next to its nearer cell, though not to the other
    assert "its range is 2 to 3" in stay.get("left").why
    assert us.attacks(board, "cart").targets == ("left", "right", "bow")
    stands = {stand.cell: stand.exposure for stand in us.stands(board, "cart", "bow")}
    threats = us.threats(board, against="wardens")
    for cell, exposure in stands.items():
        assert exposure == len({*threats.by(cell), *threats.by((cell[0] + 1, cell[1]))})
    assert max(stands.values()) > max(threats[cell] for cell in stands)
    # it stands two cells from the near end of the cart, and three from the far one
    assert us.attacks(board, "bow", moving=False).get("cart").why.startswith("(4, 1) is 5")
    board.put("bow", at=(7, 1))
    assert us.attacks(board, "bow", moving=False).targets == ("cart",)
    board.remove("right")
    board.put("bow", at=(6, 1))
    assert us.attacks(board, "bow", moving=False).targets == ()


def test_many_threads_find_the_same_attacks_threats_and_stands():
    rng, board = np.random.default_rng(4), us.Board(us.HexGrid(16, 16), {"turf": 1, "mud": 3})
    board.paint("mud", rng.random((16, 16)) < 0.3)
    bows = [us.Attack(1, 2), us.Attack(2, 5, per_level=1), us.Attack(1, 3, measure="path")]
    for number, place in enumerate(rng.choice(256, 9, replace=False).tolist()):
        unit = us.Unit(f"u{number}", "ab"[number % 2], us.Movement(4), attack=bows[number % 3])
        board.add(unit, at=(place % 16, place // 16))

    def told(name):
        found = us.attacks(board, name)
        ranked = [us.stands(board, name, each).plain() for each in found.targets]
        return found.plain(), ranked, us.threats(board, against=found.unit.side).plain()

    names = [unit.name for unit in board.units()] * 2
    alone = list(map(told, names))
    with ThreadPoolExecutor(8) as pool:
        assert list(pool.map(told, names)) == alone
    assert any(ranked for _, ranked, _ in alone)


def test_the_attacker_is_affected_where_it_is_a_target():
    board = us.Board(us.SquareGrid(7, 1), {"turf": 1})
    burst = us.Attack(1, 2, affects="anyone", pattern=us.Pattern.disk(1))
    board.add(us.Unit("mage", "ours", us.Movement(0), attack=burst), at=(3, 0))
    board.add(us.Unit("foe", "theirs", us.Movement(0)), at=(4, 0))
    for low in (1, 0):
        attack = dataclasses.replace(burst, low=low)
        found = us.attacks(board, "mage", attack=attack)
        hit = found.affected((3, 0), (4, 0))
        assert ("mage" in hit) == ("mage" in found.targets) == (low == 0)
        assert set(found["foe"].units) == set(hit)


@pytest.mark.parametrize("diagonals", [True, False])
def test_a_pattern_turns_to_where_it_is_aimed_and_mirrors(diagonals):
    board = us.Board(us.SquareGrid(11, 11, diagonals=diagonals), {"turf": 1})
    hook = us.Attack(1, 9, pattern=us.Pattern.of([(0, -1), (0, -2)]))
    board.add(us.Unit("a", "ours", us.Movement(0), attack=hook), at=(5, 5))
    found = us.attacks(board, "a")
    for cell in board.grid:
        x, y = cell.col - 5, cell.row - 5
        if x or y:
            hits = {(c - 5, r - 5) for c, r in found.hits((5, 5), cell)}
            ahead = (0, np.sign(y)) if abs(y) > abs(x) else (np.sign(x), 0)
            assert hits == {ahead, (2 * ahead[0], 2 * ahead[1])}
            for p, q in ((-1, 1), (1, -1)):  # the mirror image hits the mirror image
                mirrored = found.hits((5, 5), (5 + p * x, 5 + q * y))
                assert {(c - 5, r - 5) for c, r in mirrored} == {(p * c, q * r) for c, r in hits}


def test_whom_to_suppose_away_must_be_units():
    board = us.maps.shipped("fen")
    for without, error in (
        (5, us.errors.InputError), ([5], us.errors.NameUnknownError),
        ([[0.0]], us.errors.NameUnknownError), (np.zeros((2, 2)), us.errors.NameUnknownError),
        ("nobody", us.errors.NameUnknownError),
    ):  # fmt: skip
        with pytest.raises(error):
            us.threats(board, "wardens", without=without)
    assert us.threats(board, "wardens", without=["punt", "punt"]).foes == tuple(
        name for name in us.threats(board, "wardens").foes if name != "punt"
    )


def test_a_cluster_aims_at_every_cell_in_range_of_any_of_its_cells():
    board = us.Board(us.HexGrid(15, 15), {"turf": 1})
    rules = us.Movement(0, footprint=us.Footprint.cluster(1))
    cart = us.Unit("ox-cart", "wardens", rules, attack=us.Attack(1, 3))
    covered = board.covered(board.add(cart, at=(7, 7)))
    far = {cell: min(board.grid.distance(cell, each) for each in covered) for cell in board.grid}
    assert list(us.attacks(board, "ox-cart")) == [
        cell for cell in board.grid if 1 <= far[cell] <= 3
    ]


@pytest.mark.parametrize("large", [False, True])
@pytest.mark.parametrize("grid", [
    us.HexGrid(15, 15), us.HexGrid(15, 15, top="flat"), us.SquareGrid(15, 15),
    us.SquareGrid(15, 15, diagonals=True),
], ids=str)  # fmt: skip
def test_over_open_ground_a_path_is_as_long_as_the_grid_says(grid, large):
    board = us.Board(grid, {"turf": 1})
    offsets = us.Footprint([(0, 0), (1, 0)]) if large else us.Footprint([(0, 0)])
    board.add(us.Unit("bow", "ours", us.Movement(2, footprint=offsets)), at=(7, 7))
    for low, high in ((1, 3), (0, 1), (3, 4)):
        paths, steps = (
            us.attacks(board, "bow", attack=us.Attack(low, high, measure=measure))
            for measure in ("path", "grid")
        )
        assert paths.cells == steps.cells
        assert all(paths.stands(cell) == steps.stands(cell) for cell in paths.cells[::7])


def test_an_attack_along_a_path_crosses_what_its_own_unit_could_one_cell_at_a_time():
    board = us.Board(us.SquareGrid(9, 3), {"turf": 1, "deep": None})
    board.paint("deep", [(5, 0), (5, 1)])  # but for one cell
    board.block((5, 2), side="theirs")
    bow = us.Attack(1, 5, measure="path", sight=False)
    pair = us.Footprint([(0, 0), (0, 1)])
    for name, side, rules, col in (
        ("foot", "ours", us.Movement(0), 0), ("pair", "ours", us.Movement(0, footprint=pair), 1),
        ("punt", "ours", us.Movement(0, costs={"deep": 1}), 2),
        ("leaper", "ours", us.Movement(0, leap=us.Leap()), 3),
        ("foe", "theirs", us.Movement(0), 4),
    ):  # fmt: skip
        board.add(us.Unit(name, side, rules, attack=bow), at=(col, 1))
    found = {unit.name: us.attacks(board, unit.name).cells for unit in board.units()}
    farthest = {name: max(cell.col for cell in cells) for name, cells in found.items()}
    assert farthest == {"foot": 4, "pair": 6, "punt": 7, "leaper": 7, "foe": 4}
    assert [(5, 0) in cells for cells in found.values()] == [False, False, True, False, False]
