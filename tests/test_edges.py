"""Edges: where the helpers lay them, what they do to a walk, and what is refused."""

import itertools

import numpy as np
import pytest
from geometry import grids, wraps
from hypothesis import given
from hypothesis import strategies as st

import understep as us

KINDS = {
    "wall": us.Edge(blocks=True, hides=True),
    "door": us.Edge(blocks=True, door=True),
    "road": us.Edge(cost=0.5),
    "ditch": us.Edge(add=2),
}


def fenced(grid):
    return us.Board(grid, {"turf": 1, "deep": None}, edges=KINDS)


def laid(board):
    """All edges, each way by itself."""
    ways = set()
    for a, b, kind, _, both in board.edges():
        ways |= {(a, b, kind), (b, a, kind)} if both else {(a, b, kind)}
    for a, b, kind in ways:
        assert board.edge(a, b) == kind
    return ways


def straight(grid, cell):
    """The neighbors beyond the cell's own edges, corners left out."""
    return [
        other
        for other in grid.neighbors(cell)
        if grid.distance(cell, other, measure="straight") < 1.2
    ]


@given(grid=grids(), data=st.data())
def test_walls_stand_all_around_and_nowhere_else(grid, data):
    board = fenced(grid)
    cells = list(grid.cells)
    chosen = data.draw(st.sets(st.sampled_from(cells), min_size=1))
    board.lay_around("wall", list(chosen))
    border = {(a, b) for a in chosen for b in straight(grid, a) if b not in chosen}
    assert laid(board) == {(a, b, "wall") for pair in border for a, b in (pair, pair[::-1])}
    start = data.draw(st.sampled_from(sorted(chosen)))
    for corners in ("free", "one", "both"):  # nobody gets out, by no rule
        walker = us.Movement(points=99, corners=corners)
        board.add(us.Unit(corners, "wardens", walker), at=start)
        assert set(us.reach(board, corners)) <= chosen
        board.remove(corners)
    flier = us.Movement(points=99, edges={"wall": "open"})
    board.add(us.Unit("flier", "wardens", flier), at=start)
    open_board = us.Board(grid, {"turf": 1})
    open_board.add(us.Unit("flier", "wardens", flier), at=start)
    assert us.reach(board, "flier").plain() == us.reach(open_board, "flier").plain()
    board.lay_around(None, list(chosen))
    assert board.edges() == ()


@given(grid=grids(), data=st.data())
def test_roads_run_along_and_walls_beside(grid, data):
    board = fenced(grid)
    cells = list(grid.cells)
    line = [data.draw(st.sampled_from(cells))]
    for _ in range(data.draw(st.integers(0, 5))):
        near = list(grid.neighbors(line[-1]))
        line += [data.draw(st.sampled_from(near))] if near else []
    board.lay_along("road", line)
    pairs = list(itertools.pairwise(line))
    assert laid(board) == {(a, b, "road") for pair in pairs for a, b in (pair, pair[::-1])}
    unit = us.Unit("scout", "wardens", us.Movement(points=9, diagonal=1))
    board.add(unit, at=line[0])
    if grid.exists.all():  # else a diagonal between two holes leads nowhere
        assert us.route(board, "scout", goals=line[-1]).cost <= 0.5 * len(pairs)
    board.lay_along(None, line)
    way = data.draw(st.sampled_from(grid.directions))
    chosen = data.draw(st.sets(st.sampled_from(cells)))
    board.lay_beside("ditch", lambda cell: cell in chosen, way)
    pairs = [(cell, grid.step(cell, way)) for cell in chosen if grid.step(cell, way)]
    assert laid(board) == {(a, b, "ditch") for pair in pairs for a, b in (pair, pair[::-1])}


@pytest.mark.parametrize("kind", ["square8", "square4"])
def test_a_ditch_along_a_row_cannot_be_dodged_by_a_diagonal(kind):
    board = fenced(us.SquareGrid(7, 4, diagonals=kind == "square8"))
    board.lay_beside("ditch", [(col, 1) for col in range(7)], "S")
    board.add(us.Unit("scout", "wardens", us.Movement(points=20)), at=(3, 3))
    reach = us.reach(board, "scout")
    for cell in board.grid:
        if cell != (3, 3):
            assert reach[cell].cost == board.grid.distance((3, 3), cell) + 2 * (cell.row < 2)
    board.lay_beside("wall", [(col, 1) for col in range(7)], "S")
    assert {cell.row for cell in us.reach(board, "scout")} == {2, 3}


def test_one_way_edges_and_doors():
    board = fenced(us.HexGrid(4, 1))
    board.set_edge((1, 0), (2, 0), "wall", both=False)
    board.add(us.Unit("scout", "wardens", us.Movement(points=9)), at=(0, 0))
    assert (2, 0) not in us.reach(board, "scout")
    board.put("scout", at=(3, 0))
    assert (0, 0) in us.reach(board, "scout")
    board.set_edge((1, 0), (2, 0), "door")
    assert not us.route(board, "scout", goals=(0, 0))
    board.open_edge((2, 0), (1, 0))
    assert us.route(board, "scout", goals=(0, 0)).cost == 3
    assert [edge.is_open for edge in board.edges()] == [True]
    thief = us.Movement(points=9, edges={"door": 4})
    board.open_edge((1, 0), (2, 0), is_open=False)
    board.add(us.Unit("thief", "wardens", thief), at=(2, 0))
    assert us.reach(board, "thief")[(1, 0)].cost == 4
    board.title = "Doors"
    assert (board.undo(), board.title) == (True, "")
    board.forget()
    assert (board.undo(), board.redo()) == (False, False)


@pytest.mark.parametrize(
    ("call", "message"),
    [
        (lambda b: b.set_edge((0, 0), (2, 0), "wall"), r"b: must be next to \(0, 0\)"),
        (lambda b: b.set_edge((0, 0), (1, 0), "wal"), "kind: .*did you mean 'wall'"),
        (lambda b: b.set_edge((0, 0), (1, 0), "wall", is_open=True), "only a door can be open"),
        (lambda b: b.edge((0, 0), (9, 9)), "b: must lie on the board"),
        (lambda b: b.open_edge((0, 0), (1, 0)), "there must be a door"),
        (lambda b: b.lay_along("road", [(0, 0), (2, 0)]), "must be next to"),
        (lambda b: b.lay_around("road", [(0, 9)]), "must lie on the board"),
        (lambda b: b.lay_around("road", np.ones((2, 2), bool)), r"must have the shape \(3, 4\)"),
        (lambda b: b.lay_beside("road", [(0, 0)], "Q"), "direction"),
        (lambda b: us.Edge(blocks=1), "blocks: must be True or False"),
        (lambda b: us.Edge(add=-1), "add: a cost is never negative"),
        (lambda b: us.Movement(3, edges={"wall": "shut"}), "edges at 'wall': a cost is a number"),
        (lambda b: us.Movement(3, edges=[1]), "edges: must map names to costs"),
        (lambda b: us.Movement(3, edges={1: 1}), "edges: a name must be a text"),
        (lambda b: us.Board(b.grid, {"t": 1}, edges={"w": 1}), "'w' must be an Edge"),
        (lambda b: us.Board(b.grid, {"t": 1}, edges=["w"]), "edges: must map names"),
        (lambda b: us.Board(b.grid, {"t": 1}, edges={" ": us.Edge()}), "a text that is not empty"),
        (lambda b: us.Board(b.grid, {"t": 1}, edges=dict.fromkeys(map(str, range(101)), us.Edge())),
         "at most 100 kinds"),
        (lambda b: setattr(b, "title", 3), "title: must be a text"),
    ],
)  # fmt: skip
def test_bad_input_is_named_and_changes_nothing(call, message):
    board = fenced(us.SquareGrid(4, 3))
    state = board.state
    with pytest.raises(us.errors.InputError, match=message):
        call(board)
    assert (board.state, board.edges()) == (state, ())


def test_the_flags_of_an_edge_go_by_name():
    board = us.Board(
        us.SquareGrid(3, 1), {"turf": 1}, edges={"door": us.Edge(blocks=True, door=True)}
    )
    board.set_edge((0, 0), (1, 0), "door", both=False, is_open=True)
    (laid,) = board.edges()
    with pytest.raises(TypeError):
        board.set_edge(*laid)


def test_walls_are_drawn_on_the_border():
    board = fenced(us.HexGrid(5, 5))
    board.lay_around("wall", board.grid.disk((2, 2), 1))
    axes = us.draw.figure(board).axes[0]
    walls = next(each for each in axes.collections if each.get_zorder() == 2.5)
    inside = [cell for cell in board.grid if wraps(walls.get_segments(), board.center(cell))]
    assert set(inside) == set(board.grid.disk((2, 2), 1))


@pytest.mark.parametrize(
    ("diagonal", "kind", "costs"),
    [
        (1.5, None, (1.5, 3)),
        (1.5, "road", (1.5, 2.25)),
        (1.5, "ditch", (1.5, 4)),
        (1.5, "wall", (1.5, None)),
        ("alternating", None, (1, 3)),
        ("alternating", "road", (1, 2)),
        ("alternating", "ditch", (1, 4)),
    ],
)
def test_an_edge_across_a_diagonal_counts_as_the_diagonal_does(diagonal, kind, costs):
    edges = {
        "road": us.Edge(cost=0.5), "ditch": us.Edge(add=1), "wall": us.Edge(blocks=True)
    }  # fmt: skip
    board = us.Board(us.SquareGrid(3, 3, diagonals=True), {"deep": None, "turf": 1}, edges=edges)
    board.paint("turf", [(0, 0), (1, 1), (2, 2)])
    board.set_edge((1, 1), (2, 2), kind)
    movement = us.Movement(9, diagonal=diagonal, corners="free")
    board.add(us.Unit("a", "ours", movement), at=(0, 0))
    reach = us.reach(board, "a")
    assert tuple(reach[cell].cost if cell in reach else None for cell in ((1, 1), (2, 2))) == costs
