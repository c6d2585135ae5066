"""Areas against an independent graph library, and what a check of a board finds."""

import dataclasses

import networkx as nx
import pytest
from click.testing import CliRunner
from hypothesis import given
from reference import Reference
from samples import boards

import understep as us
from understep.cli.main import main


@given(boards())
def test_areas_are_what_can_be_reached_and_left_again(board):
    for unit in board.units():
        if unit.name != "a":
            board.remove(unit.name)
    truth = Reference(board, "a", 1)
    graph = nx.DiGraph()
    graph.add_nodes_from(cell for cell in board.grid if truth.stands(cell))
    for cell in list(graph):
        graph.add_edges_from((cell, other) for _, other, _ in truth.steps[cell])
    found = us.areas(board, "a")
    groups = [set(found.cells_of(area)) for area in range(len(found))]
    assert groups == sorted(
        nx.strongly_connected_components(graph),
        key=lambda group: (-len(group), min(cell[::-1] for cell in group)),
    )
    assert {cell for cell in board.grid if found[cell] is not None} == set(graph)
    onward = {cell: nx.descendants(graph, cell) | {cell} for cell in graph}
    for a in board.grid:
        for b in list(board.grid)[::3]:
            assert found.leads(a, b) == (b in onward.get(a, ()))
    assert us.areas(board, "a") is found
    board.block(next(iter(board.grid)), side="nobody")
    assert found.stale


@given(boards())
def test_what_a_check_finds_is_so(board):
    found = us.maps.check(board)
    for unit in board.units():
        stuck = [f for f in found if f.kind == "stuck unit" and list(f.cells) == [unit.at]]
        post = unit.movement.points == 0 and unit.attack is not None
        assert bool(stuck) == (not post and len(us.reach(board, unit.name, turns=None)) == 1)
    pockets = {cell for finding in found if finding.kind == "pocket" for cell in finding.cells}
    everyone = board.units()
    for unit in everyone:
        board.remove(unit.name)
    reached, stands = set(), set()
    for unit in everyone:
        rules = dataclasses.replace(unit.movement, points=10**6)
        board.add(dataclasses.replace(unit, movement=rules, left=None, at=None), at=unit.at)
        reached |= set(us.reach(board, unit.name))
        stands |= {cell for cell in board.grid if not board._units.hindrance(unit, cell)}
        board.remove(unit.name)
    assert pockets == stands - reached
    unused = {f.text.split("'")[1] for f in found if f.kind == "unused terrain"}
    assert unused == set(board.terrains) - {board.terrain(cell) for cell in board.grid}
    unlaid = {f.text.split("'")[1] for f in found if f.kind == "unused edge"}
    assert unlaid == set(board.edge_kinds) - {edge.kind for edge in board.edges()}


def field():
    board = us.Board(
        us.SquareGrid(9, 3),
        {"turf": 1, "deep": None, "ice": 2, "sand": 1},
        edges={"wall": us.Edge(blocks=True), "gate": us.Edge(blocks=True)},
    )
    board.lay_beside("wall", [(3, row) for row in range(3)], "E")
    board.set_edge((3, 1), (4, 1), None)
    board.set_edge((6, 1), (7, 1), "wall", both=False)
    walker = us.Movement(4, costs={"ice": None})
    board.add(us.Unit("scout", "wardens", walker), at=(0, 0))
    board.add(us.Unit("sapper", "wreckers", walker), at=(1, 0))
    return board


def one_way_in(board):
    board.lay_around("wall", (8, 2))
    board.set_edge((7, 2), (8, 2), None, both=False)


def no_edges(board):
    for edge in board.edges():
        board.set_edge(edge.a, edge.b, None)


CASES = [
    ("pocket", lambda b: b.paint("deep", [(7, 2), (8, 1)]), [(8, 2)]),
    ("trap", one_way_in, [(8, 2)]),
    ("stuck unit", lambda b: b.paint("deep", [(7, 0), (8, 1)]) or b.put("scout", (8, 0)), [(8, 0)]),
    ("dead terrain", lambda b: b.paint("ice", [(5, 0), (5, 1)]), [(5, 0), (5, 1)]),
    ("uneven starts", lambda b: b.block((3, 0), side="wardens"), [(3, 0)]),
    ("unused edge", lambda b: None, []),
    ("unused terrain", lambda b: b.paint("sand", (0, 2)), []),
    ("all blocked", lambda b: [b.remove(n) for n in ("scout", "sapper")] and b.block(b.grid), None),
    ("nothing blocked", no_edges, None),
]


@pytest.mark.parametrize(("kind", "change", "cells"), CASES)
def test_every_kind_of_finding_is_found_where_it_is(kind, change, cells):
    board = field()
    assert kind in {"unused edge", "unused terrain"} or not any(
        finding.kind == kind for finding in us.maps.check(board)
    )
    change(board)
    found = [finding for finding in us.maps.check(board) if finding.kind == kind]
    assert found
    if cells is not None:
        assert sorted(found[0].cells) == sorted(cells)
    assert found[0].text
    assert found[0].suggestion
    assert [finding.weight for finding in us.maps.check(board)] == sorted(
        finding.weight for finding in us.maps.check(board)
    )


def test_who_is_first_where_is_counted():
    board = us.Board(us.SquareGrid(10, 3), {"turf": 1})
    walker = us.Movement(points=3, passes="all")
    for name, side, col in (("scout", "ours", 0), ("raider", "theirs", 9)):
        board.add(us.Unit(name, side, walker), at=(col, 1))
    assert not any(each.kind == "head start" for each in us.maps.check(board))
    board.put("raider", (5, 1))
    (told,) = [each for each in us.maps.check(board) if each.kind == "head start"]
    turns = [
        {cell: -(-(abs(cell.col - col) + abs(cell.row - 1)) // 3) for cell in board.grid
         if cell not in ((0, 1), (5, 1))} for col in (0, 5)
    ]  # fmt: skip
    later = [cell for cell in turns[0] if turns[1][cell] < turns[0][cell]]
    sooner = [cell for cell in turns[0] if turns[0][cell] < turns[1][cell]]
    assert told.text == f"the theirs are first at {len(later)} cells, the ours at {len(sooner)}"
    assert list(told.cells) == later


def test_a_unit_that_can_do_nothing_and_a_post():
    board = us.Board(us.SquareGrid(5, 1), {"turf": 1})
    board.add(us.Unit("post", "ours", us.Movement(0), attack=us.Attack(1, 2)), at=(0, 0))
    board.add(us.Unit("idler", "ours", us.Movement(0)), at=(4, 0))
    stuck = [each.text for each in us.maps.check(board) if each.kind == "stuck unit"]
    assert stuck == ["'idler' at (4, 0) cannot move nor attack: it can do nothing"]


def test_the_command_lists_and_says_by_its_status(tmp_path):
    board = field()
    board.paint("ice", (5, 0))
    path, shot = tmp_path / "field.board.json", tmp_path / "field.png"
    us.save(board, path)
    told = CliRunner().invoke(main, ["check", str(path), "--png", str(shot)])
    assert told.exit_code == 1
    assert "fault, dead terrain: no movement can enter 'ice'" in told.output
    assert shot.stat().st_size > 10_000
    told = CliRunner().invoke(main, ["check", str(path), "--json"])
    assert '"kind": "dead terrain", "weight": "fault"' in told.output
    for name in ("fen", "sluice-house"):
        assert CliRunner().invoke(main, ["check", name]).exit_code == 0
