"""What rules and searches make of a board, as overlays and drawn: passable ground, arrows, heat."""

import numpy as np
import pytest
from geometry import KINDS, frames, make_grid
from hypothesis import given
from samples import boards

import understep as us


@given(boards())
def test_free_ground_is_where_a_unit_alone_could_stand(made):
    for unit in made.units()[1:]:
        made.remove(unit.name)
    (unit,) = made.units()
    found = us.draw.passable(made, unit.name)
    assert list(found) == list(made.grid)
    for cell, mark in found.items():
        assert mark.role == ("free" if made.can_stand(unit.name, cell) else "closed")


@given(boards())
def test_arrows_lead_back_to_the_start_and_on_to_a_goal(made):
    name = made.units()[0].name
    reach, grid = us.reach(made, name, turns=2), made.grid
    back = us.draw.arrows(reach)
    assert set(back) == set(reach.cells) - {reach.cells[0]}
    for cell, mark in back.items():
        step = reach.route_to(cell, prefer="first").steps[-1]
        assert bool(mark.text) == (step.direction is not None)
        if mark.text:
            assert grid.step(grid.step(cell, mark.text), step.direction) == cell
    field = us.field(made, name, [made.unit(name).at])
    onward = us.draw.arrows(field)
    for cell, mark in onward.items():
        assert (grid.step(cell, mark.text) if mark.text else field.next(cell)) == field.next(cell)
        assert field[field.next(cell)] <= field[cell]


@given(boards())
def test_heat_is_the_cost_of_every_cell(made):
    reach = us.reach(made, made.units()[0].name)
    heat = us.draw.heat(reach)
    assert {cell: mark.number for cell, mark in heat.items()} == {
        cell: float(reach[cell].cost) for cell in reach
    }


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("projection", ["plan", "isometric"])
def test_arrows_are_drawn_towards_the_cell_they_mean(kind, projection):
    grid = make_grid(kind, 7, 6).reframed(us.Frame(projection=projection, lift=0.2, rotation=20))
    board = us.Board(grid, {"turf": 1})
    board.set_elevation(2, (1, 1))
    board.add(us.Unit("scout", "wardens", us.Movement(4)), at=(3, 3))
    overlay = us.draw.arrows(us.reach(board, "scout"))
    axes = us.draw.figure(board, overlay, legend=False).axes[0]
    (drawn,) = [each for each in axes.collections if each.get_zorder() == 3.6]
    lines = {tuple(np.round((line[0] + line[1]) / 2, 6)): line for line in drawn.get_segments()}
    assert len(lines) > 10
    for cell, mark in overlay.items():
        line = lines.pop(tuple(np.round(board.center(cell), 6)), None)
        if line is not None:
            wanted = board.grid.center(grid.step(cell, mark.text)) - board.grid.center(cell)
            way = (line[1] - line[0]) / np.linalg.norm(line[1] - line[0])
            assert way == pytest.approx(wanted / np.linalg.norm(wanted), abs=1e-9)
    assert not lines


def test_a_link_is_a_dot_and_text_names_directions():
    board = us.Board(us.SquareGrid(6, 1), {"turf": 1, "deep": None})
    board.paint("deep", (2, 0))
    board.link((1, 0), (4, 0), cost=1, kind="ferry")
    board.add(us.Unit("scout", "wardens", us.Movement(4)), at=(0, 0))
    overlay = us.draw.arrows(us.reach(board, "scout"))
    assert [mark.text for mark in overlay.values()] == ["W", "", "W", "E"]
    assert us.draw.terminal(board, overlay).plain.split() == ["(sc)", "W", "d", "E", "*", "W"]
    assert "the cell before" in us.draw.figure(board, overlay).legends[-1].get_texts()[0].get_text()


@given(frames(), boards())
def test_every_view_can_be_drawn(frame, made):
    board = us.maps.reframe(made, frame)
    name = board.units()[0].name
    reach = us.reach(board, name)
    us.draw.figure(board, us.draw.passable(board, name), us.draw.arrows(reach), us.draw.heat(reach))


def test_what_views_refuse():
    board = us.Board(us.SquareGrid(2, 1), {"turf": 1})
    for call, rule in (
        (lambda: us.draw.arrows(board), "answer: must be a Reach or a Field"),
        (lambda: us.draw.heat(board), "reach: must be a Reach"),
        (lambda: us.draw.passable(board, 3), "movement: "),
    ):
        with pytest.raises(us.errors.InputError, match=rule):
            call()
