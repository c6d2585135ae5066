"""Pages: what a browser shows and says is what the library answers; nothing is asked of the network."""

import json
import os
import signal
import subprocess
import sys
import threading
import urllib.error
import urllib.request

import numpy as np
import pytest
from browser import requests, start
from click.testing import CliRunner

import understep as us
from understep.cli.main import main
from understep.explore.server import Server
from understep.explore.session import Session

SAID = """
    const found = [];
    for (let i = 0; i < S.cells.length; i++) {
      point(i);
      const line = document.querySelector('[data-group="route"] [data-cells]');
      const said = [...document.querySelectorAll("#said div")].map((each) => each.textContent);
      found.push([said, line ? line.dataset.cells : null]);
    }
    return found;
"""


@pytest.fixture(scope="module")
def driver():
    found = start()
    yield found
    found.quit()


@pytest.fixture(autouse=True)
def without_complaints(request):
    yield
    if "driver" in request.fixturenames:
        log = request.getfixturevalue("driver").get_log("browser")
        assert [each for each in log if "400 (BAD REQUEST)" not in each["message"]] == []


def opened(driver, tmp_path, board, *answers, **options):
    us.draw.page(board, *answers, path=tmp_path / "page.html", **options)
    driver.get((tmp_path / "page.html").as_uri())


def amount(number, noun="point"):
    return f"{number:g} {noun}{'' if number == 1 else 's'}"


def small_land():
    """Levels, features, a link, a wall, blocks, a large unit, two systems of rules."""
    grid = us.SquareGrid(9, 7, first=(2, 3), diagonals=True)
    board = us.Board(
        grid, {"turf": 1, "mud": 2.5, "deep": None}, edges={"wall": us.Edge(blocks=True)},
        features={"crate": us.Feature(blocks=True), "bush": us.Feature(add=1)},
    )  # fmt: skip
    board.paint("mud", [(4, 4), (5, 4)])
    board.paint("deep", [(7, 7), (7, 8)])
    board.set_elevation(1, [(9, 8), (10, 8)])
    board.set_edge((5, 7), (6, 7), "wall")
    board.place("crate", (6, 6))
    board.place("bush", (5, 6))
    board.block((8, 4))
    board.block((8, 5), side="ours")
    board.link((3, 8), (9, 3), 2, kind="ferry")
    cart = us.Movement(4, footprint=us.Footprint.block(2), climb=1)
    board.add(us.Unit("cart", "ours", cart, attack=us.Attack(1, 2)), at=(3, 4))
    raider = us.Unit("raider", "theirs", us.Movement(3.5, diagonal="alternating"), sight=2)
    board.add(raider, at=(6, 8))
    return board


BOARDS = {
    "fen": lambda: us.maps.shipped("fen"), "sluice-house": lambda: us.maps.shipped("sluice-house"),
    "small": small_land,
}  # fmt: skip


@pytest.mark.large
@pytest.mark.parametrize("name", BOARDS)
def test_what_a_page_shows_at_every_cell_is_what_the_library_answers(name, driver, tmp_path):
    board = BOARDS[name]()
    opened(driver, tmp_path, board)
    cells = list(board.grid)
    places = {cell: place for place, cell in enumerate(cells)}
    for unit in board.units():
        driver.execute_script("choose(arguments[0])", unit.name)
        found, reach = driver.execute_script(SAID), us.reach(board, unit.name, turns=3)
        threats = us.threats(board, unit.side)
        aims = us.attacks(board, unit.name).cells if unit.attack else ()
        seen = set(us.view(board, unit.name).cells)
        for cell, (said, route) in zip(cells, found, strict=True):
            assert said[0] == str(tuple(cell))
            kind = board.terrains[board.terrain(cell)]
            cost = "impassable" if kind.cost is None else f"cost {kind.cost:g}"
            assert any(line.startswith(f"{board.terrain(cell)}: {cost}") for line in said)
            for feature in board.features(cell):
                assert any(line.startswith(feature) for line in said)
            other = board.unit_at(cell)
            assert other is None or any(line.startswith(f"{other.name} of the") for line in said)
            if cell in reach:
                entry = reach[cell]
                cost, left = amount(entry.cost), f"{entry.left:g} left"
                assert f"{unit.name}: {cost}, turn {entry.turn}, {left}" in said
                way = reach.route_to(cell).cells
                assert route == " ".join(str(places[each]) for each in way)
            else:
                why = reach.get(cell).why
                assert route is None
                assert any(why.startswith(line) for line in said[1:])
            assert (f"{unit.name} can attack there" in said) == (cell in aims)
            many = f"{threats[cell]} of its foes can attack there"
            assert (many in said) == (threats[cell] > 0)
        veiled = driver.execute_script(
            "layers.set('view', true); drawSheet();"
            "return parts.map((part) => part.veil.getAttribute('display') !== 'none')"
        )
        assert [not each for each in veiled] == [cell in seen for cell in cells]
        driver.execute_script("layers.set('view', false)")
    asked = requests(driver)
    assert [each for each in asked if not each.startswith("file:")] == []


def hover(driver, board, cell):
    from selenium.webdriver.common.action_chains import ActionChains

    place = list(board.grid).index(us.Cell(*cell))
    spot = driver.find_element("css selector", f"[data-i='{place}']")
    ActionChains(driver).move_to_element(spot).perform()
    return spot


@pytest.mark.large
def test_mouse_and_keys(driver, tmp_path):
    from selenium.webdriver.common.action_chains import ActionChains
    from selenium.webdriver.common.keys import Keys

    board = us.maps.shipped("fen")
    moments = list(us.study.trace(board, "scout", (18, 10)))
    refused = us.explain(board, "ox-cart", (4, 1))
    opened(driver, tmp_path, board, moments, refused)
    said = lambda: driver.find_element("id", "said").text  # noqa: E731
    counts = lambda: driver.find_element("id", "counts").text  # noqa: E731
    assert driver.execute_script("return state.unit") == "ox-cart"  # whose answer it is
    hover(driver, board, (4, 1))
    assert str(refused) in said()
    hover(driver, board, board.unit("scout").at).click()
    hover(driver, board, (9, 8))
    assert "scout: 4 points, turn 1, 2 left" in said()
    assert counts() == f"step 1 of {len(moments)}\nexpanded 1, waiting 6\ncost 0"
    ActionChains(driver).send_keys(Keys.ARROW_RIGHT, Keys.ARROW_RIGHT).perform()
    closed = {moment.current for moment in moments[:3]}
    waiting = {met.cell for moment in moments[:3] for met in moment.met} - closed
    assert f"expanded {len(closed)}, waiting {len(waiting)}" in counts()
    ActionChains(driver).send_keys(Keys.ARROW_LEFT, Keys.ARROW_DOWN).perform()
    assert counts().startswith("step 2 of")
    assert "(9, 9)" in said() or "(8, 9)" in said() or "(10, 9)" in said()
    before = driver.execute_script("return [...state.box]")
    ActionChains(driver).send_keys("+").perform()
    assert driver.execute_script("return state.box[2]") < before[2]
    ActionChains(driver).send_keys("0").perform()
    assert driver.execute_script("return [...state.box]") == before
    ActionChains(driver).send_keys("i").perform()
    assert driver.execute_script("return state.view") == "isometric"
    ActionChains(driver).send_keys(Keys.ESCAPE).perform()
    assert driver.execute_script("return state.unit") is None
    driver.find_element("css selector", "#units [data-name='pikes']").click()
    assert driver.execute_script("return state.unit") == "pikes"


HOSTILE = "<img src=x onerror=alert(1)>&\"'`${1}</script><script>alert(2)</script>"


@pytest.mark.large
def test_names_with_markup_are_text(driver, tmp_path):
    board = us.Board(us.HexGrid(5, 4), {HOSTILE: 1, "mud": 2})
    board.title = HOSTILE
    foe = us.Unit(HOSTILE, HOSTILE + " ", us.Movement(3), attack=us.Attack())
    board.add(foe, at=(1, 1))
    board.add(us.Unit("x" * 5000, "ours", us.Movement(3)), at=(3, 2))
    marks = us.Overlay({(2, 2): us.Mark(HOSTILE, 5, HOSTILE)})
    opened(driver, tmp_path, board, us.reach(board, HOSTILE), marks)
    driver.execute_script("choose(S.units[0].name); point(6)")
    assert (
        driver.execute_script(
            "return document.querySelectorAll('img, body script:not([id])').length"
        )
        == 1
    )
    assert HOSTILE in driver.find_element("id", "said").text
    assert driver.title == HOSTILE
    picture = us.reach(board, HOSTILE)._repr_html_()
    assert "<img" not in picture
    assert "<script" not in picture


@pytest.mark.parametrize("command", [
    "show fen", "reach fen scout", "route fen scout 18,10", "attack fen lookout",
    "sight fen lookout", "explain fen ox-cart 4,1", "check fen", "compare fen scout 18,10",
])  # fmt: skip
def test_commands_write_pages(command, tmp_path):
    file = tmp_path / "page.html"
    done = CliRunner().invoke(main, [*command.split(), "--html", str(file)])
    assert file.read_text("utf-8").startswith("<!doctype html>")
    assert f"page: {file}" in done.output.replace("\n", "")
    done = CliRunner().invoke(main, [*command.split(), "--html", str(tmp_path / "page.txt")])
    assert done.exit_code == 2
    assert "must end in .html" in done.output


def test_what_is_no_page_is_refused(tmp_path):
    board = us.maps.shipped("fen")
    for call, rule in (
        (lambda: us.draw.page(board, path=tmp_path / "page.png"), "path: must end in .html"),
        (lambda: us.draw.page(board, 5), "answers: must be answers or overlays"),
        (lambda: us.draw.page(board, turns=10), "turns: must be a whole number from 1 to 9"),
        (lambda: us.draw.page("fen"), "board: must be a Board"),
        (lambda: us.draw.page(board, title=5), "title: must be a text"),
        (lambda: us.draw.page(board, sides=5), "sides: must give colours"),
        (lambda: us.draw.page(board, sides={"wardens": "red"}), "sides: the colour of 'wardens'"),
    ):
        with pytest.raises(us.errors.InputError, match=rule):
            call()
    assert not os.listdir(tmp_path)


# a live page


@pytest.fixture
def served():
    board = us.maps.shipped("fen")
    server = Server(board)
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    yield board, server
    server.stop()
    thread.join()


def ask(server, where, told=None, **headers):
    """The status of a request, and what came back."""
    body = None if told is None else json.dumps(told).encode()
    given = {"X_Token": server.token, "Content_Type": "application/json"} | headers
    request = urllib.request.Request(
        f"http://127.0.0.1:{server.port}{where}", body,
        {name.replace("_", "-"): value for name, value in given.items() if value},
    )  # fmt: skip
    try:
        with urllib.request.urlopen(request, timeout=20) as answer:
            return answer.status, answer.read().decode()
    except urllib.error.HTTPError as error:
        with error:
            return error.code, error.read().decode()


def test_only_who_has_the_token_is_let_in_from_pages_of_this_machine(served):
    _, server = served
    assert ask(server, "/look?unit=scout")[0] == 200
    for headers in (
        {"X_Token": None}, {"X_Token": "wrong"}, {"Origin": "https://example.org"},
        {"Origin": "null"}, {"Host": "example.org"}, {"Host": f"example.org:{server.port}"},
    ):  # fmt: skip
        for where, told in (("/look?unit=scout", None), ("/act", {"do": "undo"}), ("/", None)):
            assert ask(server, where, told, **headers)[0] == 403, headers
    assert ask(server, "/look?unit=scout", Origin=f"http://127.0.0.1:{server.port}")[0] == 200
    assert ask(server, "/../../etc/passwd")[0] == 404
    assert ask(server, "/act", {"do": "x" * (2 << 20)})[0] == 413


def test_what_cannot_be_done_is_said_and_changes_nothing(served):
    board, server = served
    before = ask(server, "/board.json")
    for told, why in (
        ({"do": "explode"}, "do: must be one of"), ({"do": ["undo"]}, "do: must be one of"), ([1], "do: must be one of"),
        ({"do": "paint", "terrain": "lava", "cells": [1]}, "lava"),
        ({"do": "paint", "terrain": "mud", "cells": [10**9]}, "cells: must be places from 0"),
        ({"do": "paint", "terrain": "mud", "cells": "all"}, "cells: must be places"),
        ({"do": "paint", "terrain": 5, "cells": [1]}, "terrain: must be a text"),
        ({"do": "put", "unit": "nobody", "cells": [1]}, "nobody"),
        ({"do": "points", "unit": "scout", "points": "many"}, "points: must be a number"),
        ({"do": "points", "unit": "scout", "points": -1}, "points"),
        ({"do": "edge", "edge": "ditch", "cells": [0, 1, 2]}, "cells: must be two"),
        ({"do": "edge", "edge": "ditch", "cells": [0, 9]}, "neighbor"),
        ({"do": "level", "level": True, "cells": [0]}, "level: must be a number"),
    ):  # fmt: skip
        status, answer = ask(server, "/act", told)
        assert (status, why in json.loads(answer)["why"]) == (400, True), answer
    assert ask(server, "/explain?unit=scout&cell=zzz")[0] == 400
    assert ask(server, "/board.json") == before
    assert board.units() == us.maps.shipped("fen").units()


@pytest.mark.large
def test_a_live_page_does_what_is_done_on_it(served, driver, tmp_path):
    from selenium.webdriver.common.action_chains import ActionChains
    from selenium.webdriver.support.wait import WebDriverWait

    board, server = served
    driver.get(server.address)
    until = WebDriverWait(driver, 20).until
    spot = lambda cell: driver.find_element(  # noqa: E731
        "css selector", f"[data-i='{list(board.grid).index(us.Cell(*cell))}']"
    )
    pick = lambda name: driver.find_element("css selector", f"[data-tool='{name}']").click()  # noqa: E731

    def now():
        (tmp_path / "board.json").write_text(ask(server, "/board.json")[1], "utf-8")
        return us.load(tmp_path / "board.json")

    def drag(*cells):
        actions = ActionChains(driver).move_to_element(spot(cells[0])).click_and_hold()
        for cell in cells[1:]:
            actions.move_to_element(spot(cell))
        actions.release().perform()

    def answered(unit):
        """What the page shows of a unit is what the library answers for the board as it is."""
        told = now()
        reach = us.reach(told, unit, turns=3)
        turns = driver.execute_script(
            "return S.cells.map((_, i) => turnAt(sheetOf(arguments[0]), i))", unit
        )
        assert turns == [reach[cell].turn if cell in reach else 0 for cell in told.grid]

    driver.find_element("css selector", "#units [data-name='scout']").click()
    until(lambda _: driver.execute_script("return Boolean(sheetOf('scout'))"))
    pick("paint")
    driver.execute_script("document.getElementById('terrain').value = 'deep'")
    wall = [(10, row) for row in range(3, 11)]
    drag(*wall)
    until(lambda _: now().terrain((10, 6)) == "deep")
    assert all(now().terrain(cell) == "deep" for cell in wall)
    until(lambda _: driver.execute_script("return Object.keys(S.sheets.scout.reach).length") > 0)
    answered("scout")
    pick("look")
    driver.find_element("css selector", "#units [data-name='lookout']").click()
    drag(board.unit("scout").at, (8, 9))
    until(lambda _: now().unit("scout").at == (8, 9))
    until(
        lambda _: (
            driver.execute_script("return unitOf('scout').at") == list(board.grid).index((8, 9))
        )
    )
    answered("scout")
    assert driver.execute_script("return state.unit") == "scout", "what is dragged is chosen"
    spot((14, 9)).click()
    until(lambda _: "It could" in driver.find_element("id", "said").text)
    assert str(us.explain(now(), "scout", (14, 9))) in driver.find_element("id", "said").text
    drag((8, 9), (10, 6))  # into the water
    until(lambda _: "impassable" in driver.find_element("id", "message").text)
    assert now().unit("scout").at == (8, 9)
    state = lambda: (now().unit("scout").at == (8, 9), now().terrain((10, 6)) == "deep")  # noqa: E731
    for change, wanted in (
        ("undo", (False, True)), ("undo", (False, False)), ("redo", (False, True)),
        ("redo", (True, True)),
    ):  # fmt: skip
        driver.find_element("id", change).click()
        until(lambda _, wanted=wanted: state() == wanted)
    assert [each for each in requests(driver) if f"127.0.0.1:{server.port}/" not in each
            and not each.startswith(("file:", "blob:", "data:"))] == []  # fmt: skip


def test_every_act_of_a_live_page(served):
    board, server = served
    cells, acts = list(board.grid), []
    at = cells.index(board.unit("scout").at)
    free = next(i for i, cell in enumerate(cells) if board.unit_at(cell) is None)
    near = cells.index(next(iter(board.grid.neighbors(cells[free]))))
    for told in (
        {"do": "paint", "terrain": "mud", "cells": [free]}, {"do": "level", "level": 2, "cells": [free]},
        {"do": "block", "cells": [free]}, {"do": "clear", "cells": [free]},
        {"do": "edge", "edge": "ditch", "cells": [free, near]},
        {"do": "edge", "edge": None, "cells": [free, near]},
        {"do": "left", "unit": "scout", "points": 2}, {"do": "points", "unit": "scout", "points": 9},
        {"do": "movement", "unit": "scout", "of": "ox-cart"}, {"do": "put", "unit": "scout", "cells": [at]},
        {"do": "undo", "unit": "scout"}, {"do": "redo", "unit": "scout"},
    ):  # fmt: skip
        status, answer = ask(server, "/act", told)
        assert status == 200, answer
        acts.append(json.loads(answer))
    assert acts[0]["contents"]["codes"][free] == list(board.terrains).index("mud")
    assert acts[1]["contents"]["levels"][free] == 2
    assert [act["bends"] for act in acts[:3]] == [0, 1, 1]
    assert all(act["views"] for act in acts)  # to who does not say what it has drawn
    seen = {"do": "block", "cells": [free], "seen": acts[-1]["bends"]}
    assert json.loads(ask(server, "/act", seen)[1])["views"] is None
    assert free in acts[2]["contents"]["blocks"][0]["cells"]
    assert free not in acts[3]["contents"]["blocks"][0]["cells"]
    units = [{u["name"]: u for u in act["contents"]["units"]}["scout"] for act in acts]
    assert (units[6]["left"], units[7]["points"], units[7]["left"]) == (2, 9, 9)
    assert units[8]["points"] == board.unit("ox-cart").movement.points
    assert np.array_equal(acts[-1]["contents"]["codes"], acts[-2]["contents"]["codes"])


@pytest.mark.skipif(os.name == "nt", reason="ended by a signal")
def test_the_command_serves_until_it_is_ended():
    running = subprocess.Popen(
        [sys.executable, "-u", "-m", "understep", "explore", "fen"], stdout=subprocess.PIPE, text=True
    )  # fmt: skip
    try:
        address = running.stdout.readline().rsplit(maxsplit=1)[1]
        with urllib.request.urlopen(address, timeout=20) as page:
            assert page.read(15) == b"<!doctype html>"
        running.send_signal(signal.SIGINT)
        assert running.wait(20) == 0
    finally:
        running.kill()
        running.stdout.close()


def test_clearing_takes_all_that_lies_on_cells():
    board = small_land()
    cells = list(board.grid)
    spots = [us.Cell(5, 6), us.Cell(6, 6), us.Cell(8, 4), us.Cell(8, 5)]
    board.place("bush", spots[0])  # one more
    board.block(spots[2])
    session = Session(board)
    numbers = [cells.index(cell) for cell in spots]
    cleared = session.act({"do": "clear", "cells": numbers})["contents"]
    assert cleared["features"] == []
    assert all(not block["cells"] for block in cleared["blocks"])
    placed = session.act({"do": "place", "feature": "crate", "cells": numbers[:1]})["contents"]
    assert [kind["cells"] for kind in placed["features"]] == [numbers[:1]]
    session.act({"do": "undo"})
    before = session.act({"do": "undo"})["contents"]
    assert {kind["name"] for kind in before["features"]} == {"crate", "bush"}
    assert len(board.features()) == 3
