"""Draw the pictures of the README from the demo boards into docs/screenshots.

The terminal view is taken from a real terminal window: it needs Xvfb, xterm and ImageMagick. The
pages are opened in a browser: they need Chromium with its driver.
"""

import doctest
import itertools
import os
import shutil
import subprocess
import sys
import tempfile
import threading
from pathlib import Path
from typing import Any

import understep as us

ROOT = Path(__file__).parents[1]
SHOTS = ROOT / "docs" / "screenshots"
WINDOW = (
    "xterm -T shot -tn xterm-256color -geometry 123x27 -fa 'DejaVu Sans Mono' -fs 10 "
    "-bg '#f6efdf' -fg '#3a3228' -e"
)


def terminal(words: str, path: Path, wait: int = 5) -> None:
    """Run a command in a terminal window on a virtual screen, and take its picture."""
    if not all(map(shutil.which, ("xvfb-run", "xterm", "import"))):
        print("no terminal picture: Xvfb, xterm or ImageMagick is missing")
        return
    python = f"{sys.executable} -m understep"
    inside = f'printf "$ understep {words}\\n"; {python} {words}; sleep {wait + 3}'
    script = f"{WINDOW} bash -c '{inside}' & sleep {wait}; import -window shot {path}; wait"
    subprocess.run(
        [
            "xvfb-run",
            "-a",
            "-s",
            "-screen 0 1200x600x24",
            "env",
            "TERM=xterm-256color",
            "bash",
            "-c",
            script,
        ],
        check=True,
    )


def understep(*words: str, finds: bool = False) -> None:
    """Run a command for the picture it draws; ``finds``: its exit status may say no."""
    command = [sys.executable, "-m", "understep", *words]
    subprocess.run(command, check=not finds, stdout=subprocess.DEVNULL)


def conventions() -> None:
    """The four ways in which rows or columns are shifted, told apart by tint."""
    for top, shifted in itertools.product(("pointy", "flat"), ("odd", "even")):
        grid = us.HexGrid(6, 5, top=top, shifted=shifted)
        board = us.Board(grid, {"lines": us.Terrain(tint="#e6dcc0"), "shifted": 1})
        cells = grid.cells
        board.paint("shifted", cells.array[grid.lattice.lines(cells.array) == 1])
        lines = "rows" if top == "pointy" else "columns"
        us.draw.figure(
            board,
            title=f"{top} top, {shifted} {lines} shifted",
            labels="offset",
            path=ROOT / "docs" / "how" / f"{top}-{shifted}.png",
            size=(640, 480),
            legend=False,
        )


def raised() -> None:
    """A dyke above the water, in the isometric view."""
    frame = us.Frame(cell=(64, 32), projection="isometric", lift=16)
    board = us.Board(
        us.SquareGrid(14, 11, frame=frame),
        {
            "turf": us.Terrain(1, tint="#d3dcae", pattern="dots"),
            "dyke": us.Terrain(2, tint="#dcb982", pattern="hachures"),
            "deep": us.Terrain(None, tint="#8fb3c6", pattern="waves"),
        },
    )
    water = [(col, row) for col in range(14) for row in range(3)]
    dyke = [(col, row) for col in range(14) for row in (3, 4)]
    mound = board.grid.disk((4, 8), 2)
    for name, level, cells in (("deep", -1, water), ("dyke", 2, dyke), ("turf", 1, mound)):
        board.paint(name, cells)
        board.set_elevation(level, cells)
    board.set_elevation(2, board.grid.disk((4, 8), 1))
    scout = us.Unit("scout", "wardens", us.Movement(points=5))
    board.add(scout, at=(4, 8))
    title = "Raised ground: a click goes to the nearest top or face"
    us.draw.figure(board, us.route(board, "scout", (11, 4)), title=title, path=SHOTS / "raised.png")


def pages() -> None:
    """The picture of every page of the documents: what its blocks leave as ``drawn``."""
    for page in sorted((ROOT / "docs").rglob("*.md")):
        if f"]({page.stem}.png)" not in page.read_text("utf-8"):
            continue
        names: dict[str, object] = {}
        for example in doctest.DocTestParser().get_examples(page.read_text("utf-8")):
            exec(compile(example.source, page.name, "exec"), names)
        drawn: Any = names.get("drawn")
        if drawn is not None:  # else another command makes it
            drawn.savefig(page.with_suffix(".png"))


def play() -> None:
    """The playable example after some clicks, with no screen."""
    script = "click 6,6; click 10,8; click 8,7; click 11,9; end; click 8,2; hover 6,4"
    picture = str(SHOTS / "play.png")
    command = [sys.executable, str(ROOT / "examples" / "play.py"), "--picture", picture]
    quiet = {**os.environ, "SDL_VIDEODRIVER": "dummy"}
    subprocess.run([*command, "--script", f"view; {script}"], check=True, env=quiet)


def selfplay() -> None:
    """What one side of a game of computer players could do."""
    command = [sys.executable, str(ROOT / "examples" / "selfplay.py"), "1"]
    picture = "--picture", str(SHOTS / "selfplay.png")
    subprocess.run([*command, *picture], check=True, stdout=subprocess.DEVNULL)


def check(folder: Path) -> None:
    """What a check finds on the fen, once some things have gone wrong there."""
    path = folder / "faulty.board.json"
    board = us.maps.shipped("fen")
    board.title = "The Tollen Fen, with faults"
    board.block(board.grid.ring((19, 3), 1))
    board.block(board.grid.ring((4, 11), 1) - [(4, 10)])
    board.put("prowler", at=(4, 11))
    board.block((4, 10))
    board.block((16, 1), side="wreckers")
    us.save(board, path)
    understep("check", str(path), "--png", str(SHOTS / "fen-check.png"), finds=True)


def world(folder: Path) -> None:
    """A way through a world folder, planned over crossings."""
    land = us.worlds.World(
        lambda first, cols, rows: us.worlds.delta(5, cols, rows, first=first, units=False), 160, 96,
        sector=32,
    )  # fmt: skip
    land.add(us.Unit("scout", "wardens", us.Movement(points=8)), at=(0, 2))
    us.worlds.save_world(land, folder / "delta")
    understep("route", str(folder / "delta"), "scout", "150,80", "--png", str(SHOTS / "world.png"))


def browser(folder: Path) -> None:
    """A page with a route, and a live one on which water was painted; needs Chromium."""
    if not all(map(shutil.which, ("chromium", "chromedriver"))):
        print("no pictures of pages: chromium or chromedriver is missing")
        return
    from selenium import webdriver
    from selenium.webdriver.chrome.service import Service

    from understep.explore.server import Server

    options = webdriver.ChromeOptions()
    for word in ("headless=new", "no-sandbox", "hide-scrollbars", "force-device-scale-factor=1"):
        options.add_argument(f"--{word}")
    service = Service(shutil.which("chromedriver"))
    driver = webdriver.Chrome(options=options, service=service)
    size = {"width": 1280, "height": 800, "deviceScaleFactor": 1, "mobile": False}
    driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", size)
    board = us.maps.shipped("fen")
    places = {cell: place for place, cell in enumerate(board.grid)}
    us.draw.page(board, path=folder / "page.html")
    driver.get((folder / "page.html").as_uri())
    driver.execute_script("choose('scout'); point(arguments[0])", places[us.Cell(13, 8)])
    driver.save_screenshot(str(SHOTS / "page.png"))
    server = Server(board)
    threading.Thread(target=server.run, daemon=True).start()
    driver.get(server.address)
    water = [places[us.Cell(10, row)] for row in range(3, 11)]
    driver.execute_async_script(
        "const [cells, goal, done] = arguments;"
        "choose('scout').then(() => act({do: 'paint', terrain: 'deep', cells}))"
        ".then(() => { point(goal); return explain(goal); }).then(done)",
        water, places[us.Cell(12, 6)],
    )  # fmt: skip
    driver.save_screenshot(str(SHOTS / "explore.png"))
    driver.quit()
    server.stop()


def main() -> None:
    """Draw them all."""
    SHOTS.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder:
        understep("demo", "--out", folder)
        for name in ("fen-reach", "fen-route", "sluice-house"):
            shutil.copy(Path(folder) / f"{name}.png", SHOTS)
        shutil.copy(Path(folder) / "fen-sighting.png", SHOTS / "fen-fog.png")
        understep("show", "fen", "--labels", "cube", "--png", str(SHOTS / "fen-cube.png"))
        check(Path(folder))
        understep("sight", "fen", "lookout", "--png", str(SHOTS / "fen-sight.png"))
        understep("attack", "fen", "lookout", "--png", str(SHOTS / "fen-attack.png"))
        marked = "--png", str(SHOTS / "fen-explain.png")
        understep("explain", "fen", "ox-cart", "10,3", *marked, finds=True)
        understep("survey", "--seeds", "0:20", "--png", str(SHOTS / "survey.png"))
        understep("compare", "fen", "scout", "18,3", "--png", str(SHOTS / "fen-compare.png"))
        world(Path(folder))
        browser(Path(folder))
    conventions()
    raised()
    pages()
    play()
    selfplay()
    terminal("route fen scout 18,3", SHOTS / "terminal.png")
    terminal("prove fen --seconds 10", SHOTS / "prove.png", wait=16)


if __name__ == "__main__":
    main()
