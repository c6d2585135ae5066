"""The proof finds faults put into copies of the package, and none in the package."""

import json
import os
import re
import shutil
import subprocess
import sys
from pathlib import Path

import pytest
from click.testing import CliRunner
from hypothesis import given
from hypothesis import strategies as st
from reference import Reference
from samples import boards

import understep as us
from understep.cli.main import main
from understep.study._reference_rules import ReferenceRules
from understep.study._reference_search import ReferenceSearch

PACKAGE = Path(us.__file__).parent
# the fault, the file, what stands there, what stands there instead
FAULTS = {
    "missed better way": (
        "kernels/_search.py",
        "if mark + LOW < known:",
        "if mark + LOW < known and known >> SHIFT >= self.epoch + self.span:",
    ),
    "wrong tie": (
        "kernels/_choice.py",
        "if turning and here >= goals and",
        "if not turning and here >= goals and",
    ),
    "first turn not counted": (
        "kernels/_choice.py",
        "if turning and facing >= 0 and",
        "if turning and facing > 99 and",
    ),
    "waits forgotten": (
        "kernels/_ties.py",
        "if self.layer == 0 or self.cells[source] >= self.layer:",
        "if self.layer >= 0:",
    ),
    "corner cut": (
        "kernels/_steps.py",
        "need = max(self.corners, 1)",
        "need = 1",
    ),
    "one turn too many": (
        "kernels/_search.py",
        "fresh = (turn + 2) * self.stride",
        "fresh = (turn + 3) * self.stride",
    ),
    "zone that ends nothing": (
        "kernels/_search.py",
        "offered = key + (left if ends else cost)",
        "offered = key + cost",
    ),
    "stop on friends": (
        "kernels/_search.py",
        "return 0 if worst and cell == self.own",
        "return 0 if worst == 1 or cell == self.own",
    ),
    "estimate too high": (
        "kernels/_search.py",
        "return row + ((col - row if col > row else 0) >> 1)",
        "return row + col",
    ),
    "climb of one too few": (
        "kernels/_steps.py",
        "(gap > climb)",
        "(gap >= climb)",
    ),
    "wall at a corner does not count": (
        "kernels/_steps.py",
        "self.change(index - self.deltas[side], row - self.deltas[side + 1], around, count)",
        "pass",
    ),
    "steps kept after an edit": (
        "rules/steps.py",
        "            self._refill(numbers)",
        "            pass",
    ),
    "areas run together": (
        "kernels/_areas.py",
        "elif area[other] < 0 and seen",
        "elif seen",
    ),
    "field from the wrong end": (
        "kernels/_field.py",
        "other) * directions + direction - 1",
        "cell) * directions + back",
    ),
    "grazed tops hide": (
        "kernels/_sight.py",
        "(self.tops[cell] - low) * length > rise",
        "(self.tops[cell] - low) * length >= rise",
    ),
    "attack from a cell too far": (
        "kernels/_sight.py",
        "if gap > far:",
        "if gap > far + 1:",
    ),
    "zone through walls": (
        "rules/zones.py",
        "exists & ~self._walls[codes[numbers]]",
        "exists",
    ),
    "zone around walled corners": (
        "rules/zones.py",
        "open_to[:, way] &= beyond[:, left, right] | beyond[:, right, left]",
        "pass",
    ),
    "foe at a corner closes both": (
        "kernels/_steps.py",
        "and not (len(self.taken) and self.taken[cell])",
        "and not (len(self.taken) and any(self.taken))",
    ),
    "foe at a corner closes none": (
        "kernels/_steps.py",
        "and not (len(self.taken) and self.taken[cell])",
        "",
    ),
    "foes that moved": (
        "rules/steps.py",
        "            self._foes.moved = True",
        "            pass",
    ),
    "free steps out of order": (
        "kernels/_search.py",
        "self.offer_pass(cell, more, bit, 0, source)",
        "self.offer_pass(cell, more, bit, 1, source)",
    ),
    "first found, however dear": (
        "moves/search_labels.py",
        "and avoid is None and soon)",
        "and avoid is None)",
    ),
    "one link of tied ones": (
        "kernels/_search.py",
        "self.via[cell] = self.via_after(self.via[cell], source)",
        "pass",
    ),
    "fields without caps": (
        "rules/movement.py",
        "return fraction(self.points) if self.one_step else Fraction(0)",
        "return Fraction(0)",
    ),
    "first of the goals": (
        "moves/search_labels.py",
        "return min(goals, key=merit)",
        "return goals[0]",
    ),
    "a clear for all blocks": (
        "boards/features.py",
        "layer.array[numbers] - np.uint8(1), numbers",
        "np.uint8(0), numbers",
    ),
    "features cost nothing": (
        "rules/pricing.py",
        "if laid.any():",
        "if False:",
    ),
    "features hide nothing": (
        "sight/lines.py",
        "covers = np.maximum(covers, (counts[numbers] > 0) * rise)",
        "pass",
    ),
    "better label refused": (
        "kernels/_layers.py",
        "better = (offered > before) & (offered > least)",
        "better = (before <= least) & (offered > least)",
    ),
    "first offer of a turn too late": (
        "kernels/_layers.py",
        "last += self.stride",
        "last += 2 * self.stride",
    ),
    "zone that ends nothing in layers": (
        "kernels/_layers.py",
        "return last if seen & self.rules.ending else key + cost",
        "return key + cost",
    ),
    "stop on friends in layers": (
        "kernels/_layers.py",
        "return seen | PASS if worst else seen",
        "return seen",
    ),
    "a tie too few": (
        "kernels/_ties.py",
        "for way in range(layers.ways if index else 0):",
        "for way in range(1, layers.ways if index else 1):",
    ),
    "never later through friends": (
        "kernels/_layers.py",
        "if cost <= self.points:  # it can wait for all its points",
        "if cost < 0:",
    ),
    "waits among friends": (
        "kernels/_layers.py",
        "        if cost > left:\n            return\n",
        "",
    ),
    "a tie through friends too few": (
        "kernels/_ties.py",
        "return seen & PASS and cost <= layers.points",
        "return seen < 0 and cost <= layers.points",
    ),
    "passes anyone": (
        "moves/workspace.py",
        'if passes == "all" else',
        'if passes != "none" else',
    ),
}


def test_every_fault_has_its_place_in_the_source():
    for file, before, _ in FAULTS.values():
        assert before in (PACKAGE / file).read_text("utf-8")


# A number of boards does not depend on the speed of the machine. Most faults take fewer than 100,
# the rarest up to 500.
SAY = "import sys, understep as us; p = us.study.prove(seconds=900, boards=2000)"
SAY += "; p.save(sys.argv[1]); print(bool(p))"


@pytest.mark.deep
@pytest.mark.large
@pytest.mark.parametrize("fault", FAULTS)
def test_a_fault_put_in_is_found(fault, tmp_path):
    file, before, after = FAULTS[fault]
    copy = tmp_path / "understep"
    shutil.copytree(PACKAGE, copy, ignore=shutil.ignore_patterns("*.so", "*.pyd", "__pycache__"))
    text = (copy / file).read_text("utf-8")
    assert before in text
    (copy / file).write_text(text.replace(before, after), "utf-8")
    env = {**os.environ, "PYTHONPATH": str(tmp_path), "UNDERSTEP_INTERPRETED": "1"}
    done = subprocess.run(
        [sys.executable, "-W", "ignore", "-c", SAY, str(tmp_path / "found")],
        env=env, cwd=tmp_path, capture_output=True, text=True, timeout=1000, check=True,
    )  # fmt: skip
    assert done.stdout == "False\n"
    assert (tmp_path / "found" / "difference.png").read_bytes()[:4] == b"\x89PNG"
    board = us.load(tmp_path / "found" / "difference.board.json")
    assert len(board.grid) <= 36


@given(boards(), st.integers(1, 4))
def test_the_shipped_reference_agrees_with_an_independent_one(board, turns):
    """Which finds adjacency by where cells lie, and shares no code with the library."""
    truth, found = Reference(board, "a", turns), ReferenceSearch(ReferenceRules(board, "a"), turns)
    assert found.best == truth.best
    assert {state[:3] for state in found.states} == {
        (cell, *state[:2]) for cell, states in truth.states.items() for state in states
    }
    for dear, table in enumerate(truth.tables):
        for cell, steps in table.items():
            assert sorted(found.rules.steps(cell, dear), key=str) == sorted(
                map(tuple, steps), key=str
            ), cell


def test_a_proof_says_what_was_compared_and_comes_out_the_same_again(tmp_path):
    proof = us.study.prove(seconds=60, boards=3, seed=5)
    assert proof
    assert proof == us.study.prove(seconds=60, boards=3, seed=5)
    assert proof.boards == 3
    assert set(proof.compared) == {
        "reach",
        "route",
        "goals",
        "blocks",
        "field",
        "areas",
        "attacks",
        "sight",
        "view",
        "cells",
    }
    assert proof.save(tmp_path) == list(tmp_path.iterdir()) == []
    for wrong in ({"seconds": -1}, {"boards": "x"}, {"seed": True}):
        with pytest.raises(us.errors.InputError, match=f"^{next(iter(wrong))}: must be a"):
            us.study.prove(**wrong)


def test_the_command_proves_a_board(tmp_path):
    run = CliRunner().invoke(main, ["prove", "sluice-house", "--seconds", "2", "--json"])
    told = json.loads(run.output)
    assert (run.exit_code, told["difference"], told["files"]) == (0, None, [])
    assert told["compared"]["cells"] > 0
    run = CliRunner().invoke(main, ["prove", "--seconds", "1"])
    assert run.exit_code == 0
    assert re.search(r"kernel, \d+ boards?, seed 0", run.output)
    assert "no difference" in run.output


def test_a_difference_is_told_written_and_drawn(tmp_path, monkeypatch):
    """A reach that forgets a cell: the board becomes one on which only that is to be seen."""
    real = us.Reach.__iter__
    monkeypatch.setattr(us.Reach, "__iter__", lambda reach: iter(list(real(reach))[:-1]))
    board = us.Board(us.HexGrid(4, 2), {"turf": 1, "mud": 2})
    for name, col in (("scout", 0), ("pikes", 3)):
        board.add(us.Unit(name, name, us.Movement(points=3)), at=(col, 1))
    us.save(board, tmp_path / "small.board.json")
    args = [str(tmp_path / "small.board.json"), "--seconds", "20", "--out", str(tmp_path)]
    run = CliRunner().invoke(main, ["prove", *args])
    assert run.exit_code == 1
    assert re.search(r"different: reach .*: may end on .*, not on ", run.output)
    board = us.load(tmp_path / "difference.board.json")
    assert len(board.units()) == 1
    assert len(board.grid) <= 2
    assert (tmp_path / "difference.png").stat().st_size > 10_000


def wade(site):
    """A rule of a game: deep mud is out of reach."""
    return None if site.values["depth"] > 1 else site.cost + site.values["depth"]


def test_a_board_without_units_is_proved_by_what_it_can_be_asked():
    board = us.Board(us.SquareGrid(2, 1), {"turf": 1})
    proof = us.study.prove(board, seconds=1, boards=0)
    assert proof
    assert set(proof.compared) == {"blocks", "sight", "view", "cells"}


@pytest.mark.deep
def test_boards_with_a_rule_fog_and_large_units_are_proved_too():
    board = us.Board(us.HexGrid(8, 6), {"turf": 1, "mud": 2}, properties={"depth": 0.0})
    board.paint("mud", [(3, row) for row in range(5)])
    board.set_value("depth", 0.5, [(4, row) for row in range(3)])
    board.set_value("depth", 2, (5, 4))
    rules = us.Movement(points=4, rule=wade)
    board.add(us.Unit("scout", "wardens", rules, sight=3), at=(1, 1))
    board.add(
        us.Unit("cart", "wardens", us.Movement(3, footprint=us.Footprint.cluster(1))), at=(2, 4)
    )
    board.add(us.Unit("raider", "wreckers", us.Movement(3)), at=(6, 2))
    for fogged in (False, True):
        if fogged:
            us.fog(board, "wardens", land_known=True)
        before = board.state
        proof = us.study.prove(board, seconds=5, boards=0)  # on a slow machine not much is asked
        assert proof, str(proof.difference)
        assert proof.compared["reach"] > 0
        assert board.state == before
    board.remove("scout")
    board.add(us.Unit("scout", "wardens", us.Movement(4, rule=lambda site: 1)), at=(1, 1))
    with pytest.raises(us.errors.InputError, match="rule"):
        us.study.prove(board, seconds=1)


def test_what_hangs_on_edits_is_told_with_them(monkeypatch):
    """A board that forgets that ground has changed answers right when it is read anew."""
    from understep.rules.steps import StepTable

    monkeypatch.setattr(StepTable, "touched", lambda table, part, numbers: None)
    found = us.study.prove(seconds=60, seed=2).difference
    assert found is not None
    assert found.edits
    assert f"(after: {'; '.join(found.edits)})" in str(found)


def shifted(real):
    """The answer of another question: one turn, one cell, or one goal on."""

    def call(board, *args, **rules):
        twin = board.copy()
        twin.paint("deep", (2, 0))
        rules = {name: value + 1 if name == "turns" else value for name, value in rules.items()}
        return real(twin, *args, **rules)

    return call


ASKS = {
    "reach": ("scout", (2,), "may end on"),
    "route": ("scout", ((4, 1), 3, "straight"), "turns to"),
    "field": ("scout", ((4, 1), (4, 2)), "holds"),
    "areas": ("scout", ((0, 0),), "it stands on"),
    "attacks": ("scout", ((0, 1), 1, 1, False, 0), "cannot attack"),
    "sees": ("", ((0, 0), (4, 0)), "does not see"),
    "view": ("", ((0, 0), 2), "views"),
}


@pytest.mark.parametrize("name", ASKS)
def test_every_comparison_tells_a_wrong_answer_and_an_error(name, monkeypatch):
    from understep.study import _proof_questions as ask

    board = us.Board(us.SquareGrid(5, 3), {"turf": 1, "deep": us.Terrain(None, cover=3)})
    board.paint("deep", [(2, 1), (2, 2)] if name != "view" else [(1, 1)])
    board.add(us.Unit("scout", "wardens", us.Movement(points=3)), at=(1, 0))
    board.add(us.Unit("pikes", "wreckers", us.Movement(points=3)), at=(0, 2))
    unit, args, said = ASKS[name]
    args = [us.Cell(*arg) if isinstance(arg, tuple) else arg for arg in args]
    asked = ask.Ask("sight" if name == "sees" else name, unit, tuple(args))
    assert ask.differs(asked, ask.Truth(board)) == ""
    assert len(ask.answer(asked, board)) == (name != "sees")
    wrong = {
        "route": lambda real: (
            lambda board, unit, **rules: us.route(board, unit, **{**rules, "goals": (0, 1)})
        ),
        "sees": lambda real: lambda *_, **__: us.answers.Refusal("it is not so"),
        "view": lambda real: lambda board, cell, **rules: real(board, cell, radius=1),
        "attacks": lambda real: (
            lambda board, unit, attack: real(board, unit, attack=us.Attack(9, 9))
        ),
    }.get(name, shifted)
    monkeypatch.setattr(ask, name, wrong(getattr(ask, name)))
    told = ask.differs(asked, ask.Truth(board))
    assert said in told

    def fails(*_, **__):
        raise ValueError("of no use")

    monkeypatch.setattr(ask, name, fails)
    assert ask.differs(asked, ask.Truth(board)) == "raised ValueError: of no use"
    assert ask.answer(asked, board) == []
    if unit:  # a fault of the reference, not of the library
        monkeypatch.setattr(ReferenceRules, "covered", None)
        with pytest.raises(TypeError):
            ask.Truth(board).search(unit, 1)
