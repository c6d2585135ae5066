"""Features: things on cells, on top of the terrain; that searches heed them is shown elsewhere."""

import pytest
from samples import FEATURES

import understep as us

FOOT = us.Movement(points=9)


def fen(cols=6, rows=1, **kinds):
    return us.Board(
        us.SquareGrid(cols, rows), {"turf": 1, "deep": None}, features={**FEATURES, **kinds}
    )


def test_several_lie_on_a_cell_and_count():
    board = fen()
    first, second = board.place("crate", [(2, 0), (3, 0)]), board.place("crate", (3, 0))
    board.place("trees", (3, 0))
    assert board.features((3, 0)) == ("crate", "crate", "trees")
    assert board.features() == (
        ("crate", [(2, 0), (3, 0)]), ("crate", [(3, 0)]), ("trees", [(3, 0)]),
    )  # fmt: skip
    board.lift(first)
    assert (board.features((2, 0)), board.features((3, 0))) == ((), ("crate", "trees"))
    board.lift(second)
    with pytest.raises(us.errors.InputError, match=r"no 'crate' lies there; got \(3, 0\)"):
        board.lift("crate", (3, 0))
    board.lift("trees")
    assert board.features() == ()
    assert board.undo()
    assert board.features((3, 0)) == ("trees",)


def test_of_several_ways_over_water_the_cheapest_is_taken():
    board = fen(plank=us.Feature(cost=3))
    board.paint("deep", (2, 0))
    board.add(us.Unit("scout", "wardens", FOOT), at=(1, 0))
    board.place("plank", (2, 0))
    assert us.reach(board, "scout")[2, 0].cost == 3
    board.place("planks", (2, 0))
    assert us.reach(board, "scout")[2, 0].cost == FEATURES["planks"].cost
    board.place("trees", (2, 0))
    assert us.reach(board, "scout")[2, 0].cost == FEATURES["planks"].cost + FEATURES["trees"].add


def test_who_stands_on_a_bridge_keeps_it():
    board = fen()
    board.paint("deep", (2, 0))
    board.add(us.Unit("scout", "wardens", FOOT), at=(1, 0))
    assert not board.can_stand("scout", (2, 0))
    planks = board.place("planks", (2, 0))
    board.put("scout", at=(2, 0))
    for call in (lambda: board.lift(planks), lambda: board.place("crate", (2, 0))):
        with pytest.raises(us.errors.OccupiedError, match="unit 'scout' stands there"):
            call()
    assert board.features((2, 0)) == ("planks",)
    assert us.route(board, "scout", (5, 0)).cost == 3


@pytest.mark.parametrize(
    ("own", "cost"),
    [({}, None), ({"crate": "open"}, 5), ({"crate": 3}, 7), ({"crate": None}, None)],
)
def test_a_movement_has_the_last_word_on_a_kind(own, cost):
    board = fen()
    board.place("crate", (2, 0))
    board.place("trees", (3, 0))
    board.add(us.Unit("scout", "wardens", us.Movement(9, features=own | {"trees": "open"})), (0, 0))
    found = us.route(board, "scout", (5, 0))
    assert found.cost == cost
    if cost is None:
        assert board.can_stand("scout", (2, 0)).why == "'crate' at (2, 0) is in the way of 'scout'"


def test_a_rule_is_asked_with_the_features():
    def rule(site):
        return 4 if "trees" in site.features else site.cost

    board = fen()
    board.add(us.Unit("scout", "wardens", us.Movement(9, rule=rule)), at=(0, 0))
    assert us.route(board, "scout", (3, 0)).cost == 3
    board.place("trees", (2, 0))
    assert us.route(board, "scout", (3, 0)).cost == 6


def test_what_hides_names_itself():
    board = fen(7, 3, low=us.Feature(cover=0.2))
    board.place("low", (3, 0))
    assert us.sees(board, (0, 0), (6, 0))
    board.place("trees", (3, 0))
    assert us.sees(board, (0, 0), (6, 0)).blockers == ("trees",)
    board.lift("trees")
    board.set_elevation(9, (0, 0))
    board.place("shed", (3, 0))
    assert us.sees(board, (0, 0), (6, 0)).why == "'shed' at (3, 0) hides (6, 0)"


def test_pushed_units_stop_at_them():
    board = fen()
    board.place("crate", (3, 0))
    board.add(us.Unit("scout", "wardens", FOOT), at=(0, 0))
    push = us.push(board, "scout", "E", 4)
    assert (push.end, push.hit, push.blockers) == ((2, 0), "feature", ("crate",))


def test_they_go_where_the_board_goes(tmp_path):
    board = fen(6, 2)
    board.place("crate", [(1, 0), (4, 1)])
    board.place("crate", (4, 1))
    moved = us.maps.shift(us.maps.resize(board, 8, 4), 1, 1)
    assert moved.features() == (("crate", [(2, 1), (5, 2)]), ("crate", [(5, 2)]))
    us.save(board, tmp_path / "a.board.json")
    again = us.load(tmp_path / "a.board.json")
    assert (again.features(), again.feature_kinds) == (board.features(), board.feature_kinds)
    text = us.draw.terminal(board).plain
    assert text.count("c") == 2
    assert "crate (c), blocks" in {
        each.get_text()
        for legend in us.draw.figure(board).findobj(lambda part: hasattr(part, "get_texts"))
        for each in legend.get_texts()
    }


@pytest.mark.parametrize(
    ("call", "message"),
    [
        (lambda b: b.place("crat", (0, 0)), "kind: .*did you mean 'crate'"),
        (lambda b: b.place("crate", (9, 9)), "must lie on the board"),
        (lambda b: b.lift("crat"), "placed: .*did you mean 'crate'"),
        (lambda b: b.features((9, 9)), "must lie on the board"),
        (lambda b: [b.place("trees", (0, 0)) for _ in range(256)], "at most 255 of a kind"),
        (lambda b: us.Feature(blocks=1), "blocks: must be True or False"),
        (lambda b: us.Feature(cost=-1), "cost: .*never negative"),
        (lambda b: us.Feature(cover=-1), "cover: must be a number from 0"),
        (lambda b: us.Feature(glyph="ab"), "one visible character"),
        (lambda b: fen(odd=3), "features: 'odd' must be a Feature"),
        (lambda b: fen(odd=us.Feature(glyph="t"), turf=us.Feature(glyph="t")), "share a glyph"),
        (lambda b: us.Movement(3, features={"crate": "opn"}), "features"),
    ],
)
def test_bad_input_is_named(call, message):
    with pytest.raises(us.errors.InputError, match=message):
        call(fen())
