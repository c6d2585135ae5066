"""Surveys: what every board answers by itself, however and wherever they are asked."""

import csv
import io
import json
from concurrent.futures import ProcessPoolExecutor, ThreadPoolExecutor
from functools import partial
from multiprocessing import get_context
from statistics import mean, median

import networkx as nx
import pytest
from click.testing import CliRunner
from hypothesis import given
from hypothesis import strategies as st
from reference import Reference
from samples import boards

import understep as us
from understep.cli.main import main

LANDS = {f"delta {seed}": partial(us.worlds.delta, seed, 34, 33) for seed in range(5)}


@given(boards(), st.data())
def test_chokes_are_the_cells_that_part_an_area(board, data):
    """Against an independent graph library, over the steps of the exhaustive reference."""
    for unit in board.units():
        if unit.name != "a":
            board.remove(unit.name)
    truth = Reference(board, "a", 1)
    steps = {(a, b) for a in board.grid for _, b, _ in truth.steps[a] if truth.stands(a)}
    graph = nx.Graph((a, b) for a, b in steps if (b, a) in steps and a != b)
    found = us.areas(board, "a").chokes
    assert set(found) == set(nx.articulation_points(graph))
    assert list(found) == sorted(found, key=lambda cell: (cell.row, cell.col))


@given(boards(free_steps=False), st.data())
def test_ways_between_marks(made, data):
    properties = {**made.properties, "mark": ""}
    board = us.Board(
        made.grid, dict(made.terrains), fill=None, edges=made.edge_kinds, properties=properties
    )
    for name in board.terrains:
        board.paint(name, [cell for cell in made.grid if made.terrain(cell) == name])
    board.movements["foot"] = us.Movement(points=9)
    picked = data.draw(st.lists(st.sampled_from(list(board.grid)), max_size=5, unique=True))
    for number, cell in enumerate(picked):
        board.set_value("mark", ["ford", "mill"][number % 2], cell)
    found = us.study.survey({"land": board}, ["marks"])
    assert not found.errors
    if len(picked) < 2:
        assert not found.values("marks", "foot, ford to mill")
        return
    for a, b in (("ford", "mill"), ("mill", "ford")):
        ends = [[c for c in picked if board.value("mark", c) == name] for name in (a, b)]
        every = [us.field(board, board.movements["foot"], [end]).get(c)
                 for c in ends[0] for end in ends[1]]  # fmt: skip
        least = min((float(cost.value) for cost in every if cost), default=None)
        assert found.values("marks", f"foot, {a} to {b}") == {"land": least}


@given(st.lists(boards(cells=16), min_size=1, max_size=3))
def test_a_survey_is_what_each_board_answers(made):
    lands = {f"land {place}": board for place, board in enumerate(made)}
    found = us.study.survey(lands)
    assert not found.errors
    for name, board in lands.items():
        rows = {(row.question, row.subject): row.value for row in found if row.board == name}
        names = [unit.name for unit in board.units()]
        assert rows["size", "cells"] == len(board.grid)
        assert rows["size", "units"] == len(names)
        for each in names:
            assert rows["reach", each] == len(us.reach(board, each))
        assert rows["islands", "a"] == len(us.areas(board, "a"))
        assert rows["chokes", "a"] == len(us.areas(board, "a").chokes)
        weights = [finding.weight for finding in us.maps.check(board)]
        assert rows["check", "faults"] == weights.count("fault")
        sides = [side for side in board.sides if board.units(side)]
        if len(sides) > 1:
            ground = [
                len({cell for unit in board.units(side) for cell in us.reach(
                    board, unit.name, turns=3)}) for side in sides
            ]  # fmt: skip
            assert rows["fairness", "least to most"] == min(ground) / max(ground)
            near = [
                us.field(board, unit.movement, [
                    cell for other in board.units(sides[1])
                    for cell in (other.at, *board.grid.neighbors(other.at))
                ], side=unit.side).get(unit.at) for unit in board.units(sides[0])
            ]  # fmt: skip
            least = min((cost.value for cost in near if cost), default=None)
            assert rows["route", f"{sides[0]} to {sides[1]}"] == least
    for row in found.summary:
        values = [v for v in found.values(row.question, row.subject).values() if v is not None]
        assert row.boards == len(values)
        if values:
            of = min(values), median(values), mean(values), max(values)
            assert (row.least, row.middle, row.average, row.most) == of


def test_threads_processes_and_a_log_that_was_cut_give_the_same(tmp_path):
    alone, seen = us.study.survey(LANDS), []
    with ThreadPoolExecutor(3) as threads:
        counted = us.study.survey(LANDS, executor=threads, progress=lambda *each: seen.append(each))
    assert counted == alone
    assert sorted(name for name, *_ in seen) == sorted(LANDS)
    assert [each[1:] for each in seen] == [(done, 5) for done in range(1, 6)]
    log = tmp_path / "survey.log"
    assert us.study.survey(LANDS, log=log) == alone
    whole = log.read_bytes()
    for cut in (0, 9, len(whole) // 3, len(whole) - 1, len(whole)):  # killed while writing
        log.write_bytes(whole[:cut])
        asked = []
        again = {name: partial(_count, asked, land) for name, land in LANDS.items()}
        assert us.study.survey(again, log=log) == alone
        assert len(asked) == 5 - max(0, whole[:cut].count(b"\n") - 1)
        assert log.read_bytes() == whole
    rows = list(csv.reader(io.StringIO(alone.csv())))
    assert rows[0] == ["board", "question", "subject", "value", "error"]
    assert [row[:3] for row in rows[1:]] == [
        [row.board, row.question, row.subject] for row in alone
    ]
    assert json.loads(json.dumps(alone.plain()))["rows"] == [row._asdict() for row in alone]


def _count(asked, land):
    asked.append(land)
    return land()


@pytest.mark.deep
@pytest.mark.large
def test_processes_and_a_cluster_give_the_same():
    distributed = pytest.importorskip("distributed")
    alone = us.study.survey(LANDS)
    with ProcessPoolExecutor(2, mp_context=get_context("spawn")) as processes:
        assert us.study.survey(LANDS, executor=processes) == alone
    cluster = distributed.LocalCluster(n_workers=2, threads_per_worker=1, dashboard_address=None)
    with cluster, distributed.Client(cluster) as client:
        assert us.study.survey(LANDS, executor=client.get_executor()) == alone


def test_what_fails_is_a_row_and_the_rest_goes_on(tmp_path):
    def lost():
        raise OSError("no such disk")

    lands = {"gone": lost, "here": us.worlds.delta(3, 8, 8), "none": lambda: 7}
    own = {"odd": lambda board: {"a": 1, "b": None}, "bad": lambda board: 1 / 0, "text": str}
    for executor in (None, ThreadPoolExecutor(2)):
        found = us.study.survey(lands, own, executor=executor)
        assert [(row.board, row.question, row.value) for row in found] == [
            ("gone", "", None), ("here", "odd", 1), ("here", "odd", None), ("here", "bad", None),
            ("here", "text", None), ("none", "", None),
        ]  # fmt: skip
        told = [row.error.split(":")[0] for row in found.errors]
        assert told == ["OSError", "ZeroDivisionError", "InputError", "InputError"]
    assert us.draw.chart(found).texts[0].get_text().startswith("3 boards, 3 failed")
    log = tmp_path / "log"
    us.study.survey({"here": lands["here"]}, ["size"], log=log)
    for call, rule in (
        (lambda: us.study.survey(lands, ["sizes"]), "questions: .*did you mean 'size'"),
        (lambda: us.study.survey([lands["here"]]), "boards: must be a mapping"),
        (lambda: us.study.survey(lands, ["check"], log=log), "log: is of other questions"),
        (lambda: us.draw.chart("survey"), "survey: must be what survey"),
        (lambda: us.draw.chart(us.study.survey({})), "survey: has no answers"),
        (lambda: us.worlds.delta(-1), "seed: must be a whole number"),
        (lambda: us.worlds.delta(1, 0), "must be"),
    ):
        with pytest.raises(us.UnderstepError, match=rule):
            call()
    log.write_bytes(log.read_bytes() + b"[1]\n")
    with pytest.raises(us.errors.InputError, match="log: line 3 cannot be read"):
        us.study.survey(lands, ["size"], log=log)


@given(
    st.integers(0, 2**32 - 1), st.integers(-900, 900), st.integers(-900, 900), st.integers(1, 9),
    st.integers(1, 9), st.data(),
)  # fmt: skip
def test_a_piece_of_the_delta_is_the_same_in_every_other(seed, col, row, cols, rows, data):
    piece = us.worlds.delta(seed, cols, rows, first=(col, row))
    left, top = data.draw(st.integers(0, 30)), data.draw(st.integers(0, 30))
    other = us.worlds.delta(seed, cols + 40, rows + 35, first=(col - left, row - top))
    for cell in piece.grid:
        assert piece.terrain(cell) == other.terrain(cell)
        assert (piece.elevation[piece.grid.index(cell)] == 1) == (piece.terrain(cell) == "dyke")
        here, there = piece.unit_at(cell), other.unit_at(cell)
        assert (here and here.name) == (there and there.name)
    assert {unit.name for unit in piece.units()} <= {unit.name for unit in other.units()}
    assert not us.worlds.delta(seed, cols, rows, first=(col, row), units=False).units()


def test_the_command_asks_a_folder_and_goes_on_where_it_was(tmp_path):
    folder, out = tmp_path / "lands", tmp_path / "out"
    folder.mkdir()
    for name, land in LANDS.items():
        us.save(land(), folder / f"{name}.board.json")
    words = ["survey", str(folder), "--out", str(out), "--question", "size", "--question", "reach"]
    told = CliRunner().invoke(main, [*words, "--png", str(out / "chart.png")])
    assert (told.exit_code, "5 boards asked, 0 failed" in told.output) == (0, True)
    found = us.study.survey(LANDS, ["size", "reach"])
    assert (out / "survey.csv").read_bytes().decode() == found.csv()
    assert (out / "chart.png").read_bytes()[:4] == b"\x89PNG"
    (folder / "wrong.board.json").write_text("{}")
    told = CliRunner().invoke(main, [*words, "--workers", "2", "--json"])
    assert told.exit_code == 1
    rows = json.loads(told.stdout)["rows"]
    assert rows[:-1] == [row._asdict() for row in found]
    assert (rows[-1]["board"], rows[-1]["error"].split(":")[0]) == ("wrong", "BoardFileError")
    told = CliRunner().invoke(main, ["survey", "--seeds", "0:2", "--question", "size"])
    assert (told.exit_code, "6144" in told.output) == (0, True)
    for wrong, hint in (
        (["survey"], "type a folder of board files, or --seeds"),
        (["survey", "--seeds", "3"], "type first:end"),
        (["survey", str(tmp_path)], "there are no files"),
        (["survey", "--seeds", "0:1", "--workers", "0"], "must be 1 or more"),
    ):
        told = CliRunner().invoke(main, wrong)
        assert (told.exit_code, hint in told.output) == (2, True)


@pytest.mark.parametrize(
    ("line", "rule"),
    [
        (b"\xff\xfe", "is not UTF-8"),
        (b"[" * 100_000, "line 2 cannot be read"),
        (b'["a", [["a", "nothing", "", 1, ""]]]', "line 2 cannot be read"),
        (b'["a", [["b", "size", "", 1, ""]]]', "line 2 cannot be read"),
        (b'["a", [["a", "size", "", Infinity, ""]]]', "line 2 cannot be read"),
        (b'["a", [["a", "size", "", "many", ""]]]', "line 2 cannot be read"),
        (b'["a", [["a", "size"]]]', "line 2 cannot be read"),
        (b'{"a": 1}', "line 2 cannot be read"),
    ],
)
def test_a_log_of_anything_else_is_refused(tmp_path, line, rule):
    log = tmp_path / "survey.log"
    log.write_bytes(b'{"questions": ["size"]}\n' + line + b"\n")
    with pytest.raises(us.errors.InputError, match=f"log: .*{rule}"):
        us.study.survey({"a": us.worlds.delta(1, 12, 9)}, ["size"], log=log)


def test_answers_are_finite_and_texts_are_no_formulas():
    lands = {"=1+1": us.worlds.delta(1, 12, 9), "@a": us.worlds.delta(2, 12, 9)}
    found = us.study.survey(lands, {"-b": lambda board: 1, "far": lambda board: float("inf")})
    assert [row.error[:10] for row in found if row.question == "far"] == ["InputError"] * 2
    lines = found.csv().splitlines()
    assert lines[1].startswith("'=1+1,'-b,,1,")
    assert lines[3].startswith("'@a,'-b,,1,")
