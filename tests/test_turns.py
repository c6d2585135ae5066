"""Turns against a simple model, and undone with the board; intents for every cell."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from test_attacks import armies

import understep as us

SIDES = ("wardens", "wreckers", "crows")


@given(st.data())
def test_turns_go_round_and_are_undone_with_the_board(data):
    board, told = us.Board(us.SquareGrid(9, 1), {"turf": 1}), []
    rules = us.Movement(points=4, carry=data.draw(st.sampled_from([0, 3])))
    for col in range(data.draw(st.integers(1, 6))):
        attack = data.draw(st.sampled_from([None, us.Attack()]))
        unit = us.Unit(f"u{col}", data.draw(st.sampled_from(SIDES)), rules, attack=attack)
        board.add(unit, at=(col, 0))
    hooks = {
        name: lambda turns, name=name: told.append((name, turns.side))
        for name in ("starts", "ends")
    }
    turns = us.Turns(board, SIDES, attacks=2, **hooks)
    side, number, used, left = "wardens", 1, {}, {unit.name: 4 for unit in board.units()}
    for _ in range(data.draw(st.integers(1, 12))):
        before, state = (side, number, dict(used), dict(left)), board.state
        move = data.draw(st.sampled_from(["end", "end", "attack", "spend", "remove", "done"]))
        names = [unit.name for unit in board.units()]
        name = data.draw(st.sampled_from(names)) if names else ""
        own = [unit for unit in board.units() if unit.side == side and unit.name == name]
        if move == "end":
            alive = [each for each in SIDES if board_has(board, each)]
            later = SIDES[SIDES.index(side) + 1 :] + SIDES
            following = next((each for each in later if each in alive), side)
            number += SIDES.index(following) <= SIDES.index(side) and bool(alive)
            told.clear()
            assert turns.end() == following
            assert told == [("ends", side), ("starts", following)]
            side, used = following, {}
            for unit in board.units(side) if alive else ():
                # what it has before its first turn is not left over
                over = min(left[unit.name], rules.carry) if number > 1 else 0
                left[unit.name] = 4 + over
        elif move == "attack" and name:
            able = bool(own) and own[0].attack is not None and used.get(name, 0) < 2
            if able:
                used[name] = used.get(name, 0) + 1
                assert turns.attacked(name) == 2 - used[name]
            else:
                with pytest.raises(us.errors.InputError, match="no attack left in this turn"):
                    turns.attacked(name)
        elif move == "spend" and name:
            left[name] = data.draw(st.integers(0, 4))
            board.set_left(name, left[name])
        elif move == "remove" and name:
            board.remove(name)
        elif move == "done" and own:
            turns.done(name)
            left[name], used[name] = 0, 2
        assert (turns.side, turns.round) == (side, number)
        assert {unit.name: unit.left for unit in board.units()}.items() <= left.items()
        assert {unit.name for unit in turns.ready} == {
            unit.name for unit in board.units()
            if unit.side == side
            and (left[unit.name] > 0 or (unit.attack is not None and used.get(unit.name, 0) < 2))
        }  # fmt: skip
        alive = [each for each in SIDES if board_has(board, each)]
        assert turns.over == (len(alive) < 2)
        assert turns.winner == (alive[0] if len(alive) == 1 else None)
        again = us.Turns(board.copy(), attacks=2)
        assert (again.side, again.round, again.ready) == (turns.side, turns.round, turns.ready)
        if board.state != state and data.draw(st.integers(0, 3)) == 0:
            board.undo()
            assert board.state == state
            side, number, used, left = before


def board_has(board, side):
    return any(unit.side == side for unit in board.units())


def test_what_turns_refuse():
    board = us.Board(us.SquareGrid(9, 1), {"turf": 1})
    for call, rule in (
        (lambda: us.Turns(board), "sides: must be given"),
        (lambda: us.Turns(board, []), "none of them twice"),
        (lambda: us.Turns(board, ["crows", "crows"]), "none of them twice"),
        (lambda: us.Turns(board, ["crows"], attacks=-1), "attacks: must be a whole number"),
    ):
        with pytest.raises(us.errors.InputError, match=rule):
            call()
    board.add(us.Unit("scout", "wardens", us.Movement(4)), at=(0, 0))
    turns = us.Turns(board, ["crows", "wardens"])
    with pytest.raises(us.errors.InputError, match="unit: is not of the crows"):
        turns.done("scout")


@given(armies())
def test_an_intent_says_of_every_cell_what_reach_and_attacks_say(board):
    reach, attacks = us.reach(board, "a"), us.attacks(board, "a")
    assert us.intent(reach, None).meaning == "nothing"
    assert us.intent(reach, (99, 99)).meaning == "nothing"
    for cell in board.grid:
        found = us.intent(reach, cell)
        assert found.meaning == us.intent(attacks, cell).meaning
        there = [unit for unit in board.units() if cell in board.covered(unit)]
        targets = [unit.name for unit in there if unit.name in attacks.targets and unit.name != "a"]
        if targets:
            assert (found.meaning, found.target) == ("attack", found.target)
            assert found.target in targets
            assert (found.stand, found.aim) == (
                attacks[found.target].stand,
                attacks[found.target].cell,
            )
            end = board.unit("a").at if found.route is None else found.route.goal
            assert end == found.stand
            assert (found.route is None) == (found.stand == board.unit("a").at)
        elif any(unit.side == "ours" for unit in there):
            assert found.meaning == "select"
            assert board.unit(found.target) in there
        elif cell in reach:
            assert found.meaning == "move"
            assert found.route.cells == reach.route_to(cell).cells
        else:
            assert found.meaning == "refused"
            assert found.why
        assert bool(found) == (found.meaning not in ("refused", "nothing"))
        assert found.plain()["meaning"] == found.meaning
        assert found.meaning == "select" or len(found.overlay()) > 0
    with pytest.raises(us.errors.InputError, match="reach: must be a Reach"):
        us.intent("a", (0, 0))


def test_a_unit_or_a_side_can_have_a_turn_anew():
    board = us.Board(us.SquareGrid(4, 1), {"turf": 1})
    for name, side, col in (("one", "a", 0), ("two", "a", 1), ("foe", "b", 3)):
        board.add(us.Unit(name, side, us.Movement(4), attack=us.Attack()), at=(col, 0))
    turns = us.Turns(board, ["a", "b"])
    for name in ("one", "two"):
        turns.done(name)
    board.set_left("foe", 1)
    turns.renew("one")
    assert [unit.name for unit in turns.ready] == ["one"]
    assert (turns.attacks_left("one"), turns.attacks_left("two")) == (1, 0)
    turns.renew("b")
    turns.renew("a")
    assert [unit.left for unit in board.units()] == [4, 4, 4]
    assert board.undo()
    assert board.unit("two").left == 0
    with pytest.raises(us.errors.NameUnknownError, match="did you mean 'one'"):
        turns.renew("onee")
