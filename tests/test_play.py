"""The playable example, with a scripted player and no screen."""

import importlib.util
import random
import subprocess
import sys
from pathlib import Path

import pytest
from PIL import Image

PLAY = Path(__file__).parents[1] / "examples" / "play.py"


@pytest.fixture
def play(monkeypatch):
    monkeypatch.setenv("SDL_VIDEODRIVER", "dummy")
    monkeypatch.setenv("XDG_RUNTIME_DIR", "/tmp")
    spec = importlib.util.spec_from_file_location("play", PLAY)
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    return module


def test_it_plays_by_a_script_and_writes_a_picture(tmp_path, monkeypatch):
    monkeypatch.setenv("SDL_VIDEODRIVER", "dummy")
    path = tmp_path / "last.png"
    script = "click 6,6; hover 10,8; click 10,8; view; hover 9,8; end; click 8,7"
    command = [sys.executable, PLAY, "--script", script, "--picture", path]
    told = subprocess.run(command, check=True, capture_output=True, text=True)
    assert told.stdout.splitlines()[-1] == "Your turn"
    with Image.open(path) as last:
        assert last.size == (1280, 800)
        assert len(last.convert("RGB").getcolors(1 << 20)) > 50


def test_walks_go_where_the_pointer_says_and_are_taken_back(play, tmp_path):
    screen = play.Screen(play.Game(1, tmp_path / "fen.board.json"))
    game, board = screen.game, screen.game.board
    before, seen = board.state, set(game.knowledge.cells_seen("now"))
    for view in range(2):
        screen.run(["click 6,6", "hover 10,8"])
        screen.open = True
        intent = game.intent(screen.seen.cell_at(screen.pointer))
        assert (game.name, intent.meaning, intent.cell) == ("scout", "move", (10, 8))
        screen.run(["click 10,8"])
        assert board.unit("scout").at == (10, 8)
        assert board.unit("scout").left == 6 - intent.route.cost
        assert set(game.knowledge.cells_seen("now")) != seen
        screen.open = True
        screen.run(["undo", "undo", "view"])  # there is one walk to undo
        screen.open = True
        assert board.state == before
        assert (screen.seen.grid.frame.projection == "isometric") == (view == 0)


def test_undo_takes_health_back_and_a_saved_game_goes_on(play, tmp_path):
    game = play.Game(3, tmp_path / "fen.board.json")
    foe, board = "sapper", game.board
    cells = board.grid.neighbors(board.unit("scout").at)
    board.put(foe, next(cell for cell in cells if board.can_stand(foe, cell)))
    board.forget()
    before = board.digest()
    while game.health(foe) == play.HEALTH:  # some strikes miss
        game.strike("scout", foe)
        if game.health(foe) == play.HEALTH:
            game.undo()
    assert game.board.unit("scout").left == 0
    game.save()
    hurt = game.board.digest()
    game.undo()
    assert (game.health(foe), game.board.digest()) == (play.HEALTH, before)
    game.load()
    assert (game.health(foe), game.board.digest()) == (play.HEALTH - 1, hurt)
    assert game.turns.attacks_left("scout") == 0
    assert not game.board.undo()


@pytest.mark.large
@pytest.mark.deep
@pytest.mark.parametrize("seed", [0, 1])
def test_whatever_is_clicked_the_rules_hold_until_one_side_is_left(play, seed, tmp_path):
    path = tmp_path / "fen.board.json"
    screen, hand = play.Screen(play.Game(seed, path)), random.Random(seed)
    game, board = screen.game, screen.game.board
    cells, hurt = [f"{col},{row}" for col, row in board.grid], False
    for _ in range(30):
        if game.turns.over:
            break
        mine = [unit for unit in board.units("wardens") if unit in game.turns.ready]
        places = [f"{unit.at[0]},{unit.at[1]}" for unit in mine]
        targets = [f"{cell[0]},{cell[1]}" for cell in game.wash.role("target")]
        click = hand.choice([*places, *hand.sample(cells, 4), *targets * 9])
        screen.open = True
        screen.run([f"click {click}", hand.choice(["end", "undo", "view", f"hover {click}"])])
        assert game.turns.side == "wardens" or game.turns.over
        for unit in board.units():
            assert 0 < game.health(unit.name) <= play.HEALTH
            kind = board.terrain(unit.at)
            assert unit.movement.costs.get(kind, board.terrains[kind].cost) is not None
            assert board.unit_at(unit.at) == unit
        hurt = hurt or any(game.health(unit.name) < play.HEALTH for unit in board.units())
    assert hurt
