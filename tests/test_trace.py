"""Ways of searching, step by step, against an independent graph library; how they are shown."""

import dataclasses
import json

import networkx as nx
import pytest
from click.testing import CliRunner
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image
from reference import Reference
from samples import boards

import understep as us
from understep.cli.main import main


def question(board):
    """The board without the rules that speak of turns, and its steps as a graph."""
    unit = board.unit("a")
    board.remove("a")
    rules = dataclasses.replace(
        unit.movement,
        zones="ignore",
        foe_corners=False,
        one_step=False,
        points=0,
        diagonal=1 if unit.movement.diagonal == "alternating" else unit.movement.diagonal,
    )
    board.add(us.Unit("a", unit.side, rules), at=unit.at)
    truth = Reference(board, "a", 1)
    return truth, nx.relabel_nodes(truth.graph(), lambda node: node[0])


@given(boards(), st.data())
def test_each_way_of_searching_finds_what_it_promises(board, data):
    truth, graph = question(board)
    start = truth.unit.at
    goal = data.draw(st.sampled_from(list(board.grid)))
    trials = {trial.method: trial for trial in us.study.compare(board, "a", goal)}
    there = truth.meaning(goal) == "stop" and nx.has_path(graph, start, goal)
    for trial in trials.values():
        assert bool(trial.cells) == there
        assert trial.expanded == len(trial.closed) == len(set(trial.closed))
        pairs = list(zip(trial.cells, trial.cells[1:], strict=False))
        if there:
            assert (trial.cells[0], trial.cells[-1]) == (start, goal)
            paid = sum(graph[a][b]["weight"] for a, b in pairs)
            if trial.method in ("uniform-cost", "a-star"):
                assert trial.cost == pytest.approx(float(paid))
            assert trial.cost >= float(paid) - 1e-9
    if there:
        least = float(nx.dijkstra_path_length(graph, start, goal))
        assert trials["uniform-cost"].cost == trials["a-star"].cost == pytest.approx(least)
        steps = nx.shortest_path_length(graph, start, goal)
        assert len(trials["breadth-first"].cells) == steps + 1
    else:
        assert {trial.cost for trial in trials.values()} == {None}


@given(boards(), st.data(), st.sampled_from(["breadth-first", "uniform-cost", "a-star", "greedy"]))
def test_a_trace_moves_one_cell_at_a_time_from_open_to_closed(board, data, method):
    goal = data.draw(st.sampled_from(list(board.grid)))
    start = board.unit("a").at
    closed, waiting = set(), {start: (0, None)}
    cost = {start: 0}
    for moment in us.study.trace(board, "a", goal, method=method):
        spent, rank = waiting.pop(moment.current)
        assert moment.cost == spent
        assert rank in (moment.rank, None)
        assert rank is None or moment.rank == min([rank, *(other for _, other in waiting.values())])
        closed.add(moment.current)
        for each in moment.met:
            assert each.before == moment.current
            assert each.cell not in closed
            known = cost.get(each.cell)
            assert known is None or (each.cost < known and method in ("uniform-cost", "a-star"))
            least = {"breadth-first": 0, "uniform-cost": each.cost, "a-star": each.cost}
            assert each.rank >= least.get(method, 0)
            waiting[each.cell], cost[each.cell] = (each.cost, each.rank), each.cost
    one = next(t for t in us.study.compare(board, "a", goal) if t.method == method)
    assert set(one.closed) == closed


def test_the_command_prints_a_table_and_writes_pictures(tmp_path):
    png, gif = tmp_path / "four.png", tmp_path / "search.gif"
    words = ["compare", "sluice-house", "scout", "8,3", "--png", str(png), "--gif", str(gif)]
    told = CliRunner().invoke(main, words)
    assert told.exit_code == 0
    trials = us.study.compare(us.maps.shipped("sluice-house"), "scout", (8, 3))
    for trial in trials:
        assert f"{trial.method}  " in told.output
        row = next(line for line in told.output.splitlines() if line.startswith(trial.method))
        assert row.split()[1:4] == [
            f"{float(trial.cost):g}", str(len(trial.cells) - 1), str(trial.expanded),
        ]  # fmt: skip
    with Image.open(png) as still:
        assert still.size == (1280, 800)
    with Image.open(gif) as moving:
        assert 10 < moving.n_frames <= 33
    told = CliRunner().invoke(main, ["compare", "fen", "punt", "0,0", "--json"])
    assert told.exit_code == 1
    assert {(each["method"], each["cost"]) for each in json.loads(told.output)} == {
        (trial.method, None) for trial in trials
    }
    board = us.maps.shipped("fen")
    with pytest.raises(us.errors.InputError, match="answers: must be one to four"):
        us.draw.side_by_side(board)
    with pytest.raises(us.errors.InputError, match="path: must end in"):
        us.draw.animate(board, trials[0], tmp_path / "search.png")
    with pytest.raises(us.errors.NameUnknownError, match=r"method: .*'a-star'"):
        us.study.trace(board, "scout", (0, 0), method="a-sta")
    drawn = us.draw.side_by_side(us.maps.shipped("sluice-house"), *trials[:2])
    assert [axes.get_title(loc="left").split(":")[0] for axes in drawn.axes] == [
        "breadth-first", "uniform-cost",
    ]  # fmt: skip
