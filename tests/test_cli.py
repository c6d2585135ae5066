"""The real command, as its users type it."""

import contextlib
import io
import json
import os
import signal
import subprocess
import sys
import time
import xml.dom.minidom

import pytest

import understep as us
from understep.cli.main import main
from understep.draw._labels import label_texts
from understep.files.writer import dump

EDGES = {"numbers": True, "edges": True}


def understep(*words, stdin=""):
    """Run the command in this process; its exit status and what it printed, without colours."""
    given, out, err = (io.TextIOWrapper(io.BytesIO(), "utf-8", newline="") for _ in range(3))
    given.write(stdin)
    given.seek(0)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr("sys.stdin", given)
        with (
            contextlib.redirect_stdout(out),
            contextlib.redirect_stderr(err),
            pytest.raises(SystemExit) as end,
        ):
            main(words, prog_name="understep")
    for stream in (out, err):
        stream.flush()
    return end.value.code or 0, *(each.buffer.getvalue().decode("utf-8") for each in (out, err))


def started(*words, stdin=None):
    """Start the command as a process of its own."""
    done = subprocess.run(
        [sys.executable, "-W", "ignore", "-m", "understep", *words],
        capture_output=True, text=True, encoding="utf-8", check=False, input=stdin,
    )  # fmt: skip
    return done.returncode, done.stdout, done.stderr


def test_reach_and_route_answer_like_the_library(tmp_path):
    fen = us.maps.shipped("fen")
    fen = us.maps.shipped("fen")
    for by, show in (("cost", us.draw.heat), ("routes", us.draw.arrows)):
        status, out, _ = understep("reach", "fen", "scout", "--by", by)
        assert us.draw.terminal(fen, show(us.reach(fen, "scout")), width=1000, **EDGES).plain in out
    status, out, _ = understep("reach", "fen", "scout", "--turns", "2", "--json")
    assert (status, json.loads(out)) == (
        0,
        json.loads(json.dumps(us.reach(fen, "scout", turns=2).plain())),
    )
    path = tmp_path / "fen.board.json"
    us.save(fen, path)
    png = tmp_path / "route.png"
    status, out, _ = understep("route", str(path), "scout", "18,3", "--png", str(png))
    route = us.route(fen, "scout", goals=(18, 3))
    assert status == 0
    assert f"cost {route.cost}, {route.turns} turns" in out
    assert us.draw.terminal(fen, route, **EDGES).plain in out
    assert png.stat().st_size > 10_000
    status, out, _ = understep("route", "fen", "punt", "4,6")
    assert status == 1
    assert "'causeway' at (4, 6) is impassable for 'punt'. Nearest it can get: (10, 4)" in out


def test_explain_marks_what_is_in_the_way_and_the_route_without_it(tmp_path):
    fen, png = us.maps.shipped("fen"), tmp_path / "explain.png"
    told = us.explain(fen, "scout", (12, 3))
    status, out, _ = understep("explain", "fen", "scout", "12,3", "--png", str(png))
    assert (status, png.stat().st_size > 10_000) == (1, True)
    assert out.splitlines()[:4] == [
        "scout to (12, 3): no", f"  1. {told.obstacles[0].text}", f"  2. {told.obstacles[1].text}",
        f"It could: {told.remedy} (no fewer changes would do)",
    ]  # fmt: skip
    route = us.route(told.remedied(), "scout", (12, 3))
    assert route.turns == told.remedy.turns
    assert us.draw.terminal(fen, route, told, **EDGES).plain in out
    status, out, _ = understep("explain", "fen", "scout", "12,3", "--json")
    assert json.loads(out)["remedy"]["terrain"] == [[[12, 3], "causeway"]]
    assert understep("explain", "fen", "scout", "7,6")[1].startswith("scout to (7, 6): yes")
    assert "CELL" in understep("explain", "fen", "scout", "99,9")[2]


def test_attack_answers_like_the_library(tmp_path):
    fen, png = us.maps.shipped("fen"), tmp_path / "attack.png"
    status, out, _ = understep("attack", "fen", "lookout", "--png", str(png))
    attacks = us.attacks(fen, "lookout")
    told = f"lookout can attack {len(attacks)} cells, {len(attacks.targets)} targets"
    assert (status, out.splitlines()[0]) == (0, told)
    assert us.draw.terminal(fen, attacks, **EDGES).plain in out
    assert png.stat().st_size > 10_000
    status, out, _ = understep("attack", "fen", "lookout", "billhooks")
    stands = us.stands(fen, "lookout", "billhooks")
    assert f"1. {tuple(stands[0].cell)}: {stands[0].cost} points" in out
    assert us.draw.terminal(fen, stands, **EDGES).plain in out
    status, out, _ = understep("attack", "fen", "scout", "--threats", "--json")
    threats = us.threats(fen, against="wardens").plain()
    assert (status, json.loads(out)) == (0, json.loads(json.dumps(threats)))
    status, out, _ = understep("attack", "fen", "scout", "sapper")
    assert (status, out.splitlines()[0]) == (1, "no: " + us.stands(fen, "scout", "sapper").why)
    assert understep("attack", "fen", "lookout", "--stay")[0] == 0
    assert "it has no attack" in understep("attack", "fen", "ox-cart")[2]


@pytest.mark.deep
def test_the_demo_plays_the_same_skirmish_for_the_same_seed(tmp_path):
    runs = [
        understep("demo", "--out", str(tmp_path), "--rounds", "2", "--seed", seed)[1]
        for seed in ("3", "3", "4")
    ]
    logs = [out[out.index("6. A skirmish") :] for out in runs]
    assert logs[0] == logs[1]
    assert logs[0].replace("seed 3", "seed 4") != logs[2]
    assert logs[0].count("Round 2, wreckers") == 2
    assert {"fen-attack.png", "sluice-house-end.png"} <= {each.name for each in tmp_path.iterdir()}


def test_sight_says_what_is_seen_and_what_is_in_the_way(tmp_path):
    fen, png = us.maps.shipped("fen"), tmp_path / "sight.png"
    status, out, _ = understep("sight", "fen", "lookout", "--radius", "6", "--png", str(png))
    view = us.view(fen, "lookout", radius=6)
    assert (status, out.splitlines()[0]) == (0, f"lookout at (8, 2) sees {len(view)} cells")
    assert us.draw.terminal(fen, view, **EDGES).plain in out
    assert png.stat().st_size > 10_000
    status, out, _ = understep("sight", "fen", "6,6", "18,3", "--json")
    told, facts = us.sees(fen, (6, 6), (18, 3)), json.loads(out)
    assert (status, facts["ok"], facts["why"]) == (1, False, told.why)
    assert len(facts["cells"]) == len(us.view(fen, (6, 6)))
    status, out, _ = understep("sight", "fen", "6,6", "18,3", "--eye", "9")
    assert (status, "(18, 3) is seen from (6, 6)" in out) == (0, True)
    status, _, err = understep("sight", "fen", "6,6,6")
    assert (status, "a cell" in err) == (2, True)


def test_show_and_convert():
    status, out, _ = understep("show", "sluice-house")
    assert status == 0
    assert us.draw.terminal(us.maps.shipped("sluice-house"), **EDGES).plain in out
    assert "wall -" in out
    status, out, _ = understep("show", "fen", "--json")
    assert json.loads(out)["grid"]["bounds"] == [[0, 0], [21, 13]]
    status, out, _ = understep("show", "fen", "--labels", "axial")
    assert (
        us.draw.terminal(us.maps.shipped("fen"), labels="axial", width=1000, **EDGES).plain in out
    )
    status, out, _ = understep("show", "sluice-house", "--labels", "exits", "--json")
    texts = {tuple(each["cell"]): each["text"] for each in json.loads(out)["labels"]}
    assert texts == label_texts(us.maps.shipped("sluice-house"), "exits")
    status, out, _ = understep("show", "fen", "--passable", "scout")
    assert (status, "scout could stand on 274 of 308 cells" in out) == (0, True)
    status, out, _ = understep("show", "fen", "--passable", "scout", "--json")
    assert len(json.loads(out)["free"]) == 274
    status, out, _ = understep("convert", "3,2", "-1,-3", "--to", "cube", "--json")
    assert json.loads(out) == us.convert([(3, 2), (-1, -3)], "offset", "cube").tolist()


@pytest.mark.parametrize(
    ("words", "hint"),
    [
        (["reach", "fen", "scoot"], "did you mean 'scout'?"),
        (["reach", "fn", "scout"], "one of fen, sluice-house"),
        (["route", "fen", "scout", "3;4"], "type col,row, such as 3,4"),
        (["route", "fen", "scout", "99,4"], "must lie on the board, (0, 0) to (21, 13)"),
        (["convert", "1,1,1", "--from", "cube"], "q + r + s must be 0"),
        (["reach", "fen", "scout", "--turns", "0"], "1 or more"),
        (["walk", "fen"], "No such command"),
        (["convert", "3,x"], "'3,x' is no offset coordinate; type whole numbers col,row"),
        (["convert", "1,1,1", "--from", "cube", "--to", "cube"], "q + r + s must be 0"),
        (["convert"], "type coordinates such as 3,2, or - to read lines, or --csv FILE"),
        (["convert", "3,2", "--to", "world"], "type --board BOARD too"),
        (["convert", "3,2", "--board", "fen", "--top", "flat"], "leave out --top and --shifted"),
        (["convert", "3,2", "--board", "sluice-house"], "offset and world coordinates only"),
        (["show", "sluice-house", "--labels", "cube"], "is a system of hex boards"),
    ],
)
def test_wrong_use_exits_with_2_and_says_what_to_type(words, hint):
    status, out, err = understep(*words)
    assert (status, out) == (2, "")
    assert hint in " ".join(err.split())


@pytest.mark.deep
def test_demo_tells_and_draws(tmp_path):
    status, out, _ = understep("demo", "--out", str(tmp_path / "figures"))
    assert status == 0
    files = sorted(path.name for path in (tmp_path / "figures").iterdir())
    assert len(files) == 5 + 4 + 4 + 1  # key moments of two skirmishes, and a page
    assert all(f"-> {name}" in out for name in files)
    assert (tmp_path / "figures" / "fen.html").read_text("utf-8").startswith("<!doctype html>")
    assert "The figures and the page are in" in out


@pytest.mark.parametrize("source", ["offset", "axial", "cube", "doubled"])
@pytest.mark.parametrize("top", ["pointy", "flat"])
def test_convert_knows_every_pair_of_systems(source, top):
    offsets = [(0, 0), (-3, 5), (7, -2)]
    how = {"top": top, "shifted": "even"}
    given = us.convert(offsets, "offset", source, **how).tolist()
    words = [",".join(map(str, value)) for value in given]
    for target in ("offset", "axial", "cube", "doubled"):
        options = ["--from", source, "--to", target, "--top", top, "--shifted", "even"]
        status, out, _ = understep("convert", *options, "--", *words)
        wanted = us.convert(offsets, "offset", target, **how).tolist()
        assert status == 0
        assert out.splitlines() == [
            f"{source} {word} -> {target} {','.join(map(str, value))}"
            for word, value in zip(words, wanted, strict=True)
        ]


def test_version_and_help_name_the_kernel_and_the_commands():
    version = f"understep {us.__version__}, {us.kernels()} kernel\n"
    assert started("--version") == understep("--version") == (0, version, "")
    _, out, _ = understep("--help")
    assert all(word in out for word in ("convert", "demo", "reach", "route", "show"))


@pytest.mark.parametrize(
    ("words", "stdin"),
    [
        (["reach", "fen", "scout"], None),
        (["route", "fen", "punt", "4,6"], None),
        (["reach", "fen", "scoot"], None),
        (["convert", "-"], "1,2\n-3 4\n"),
    ],
)
def test_a_process_of_its_own_prints_the_same(words, stdin):
    assert started(*words, stdin=stdin) == understep(*words, stdin=stdin or "")


def test_a_broken_board_file_is_told_with_all_its_faults(tmp_path):
    path = tmp_path / "broken.board.json"
    path.write_text('{"understep": 4, "grid": {"kind": "hex", "cols": 2, "rows": 1}}')
    status, out, err = understep("show", str(path))
    assert (status, out) == (2, "")
    said = " ".join(err.split())
    assert "2 faults" in said
    assert "terrain: field required" in said
    assert "rows: field required" in said
    status, _, err = understep("reach", "fen", "scout", "--png", str(tmp_path / "no" / "a.png"))
    assert status == 2
    assert "No such file" in err


def test_convert_reads_lines_and_knows_the_world():
    fen = us.maps.shipped("fen")
    status, out, _ = understep("convert", "-", "--to", "doubled", stdin="1,2\n\n-3 4\n")
    wanted = us.convert([(1, 2), (-3, 4)], "offset", "doubled").tolist()
    assert (status, out) == (0, "".join(
        f"offset {text} -> doubled {col},{row}\n"
        for text, (col, row) in zip(["1,2", "-3 4"], wanted, strict=True)
    ))  # fmt: skip
    options = ["--board", "fen", "--from", "cube", "--to", "world", "--json"]
    status, out, _ = understep("convert", *options, "--", "2,2,-4", "-1,6,-5")
    assert json.loads(out) == [fen.center((3, 2)).tolist(), fen.center((2, 6)).tolist()]
    point = fen.center((5, 6)) + 0.1
    words = [f"{point[0]},{point[1]}", "1e3,0"]
    status, out, _ = understep("convert", *words, "--board", "fen", "--from", "world")
    assert status == 1
    assert [line.split(" -> ")[1] for line in out.splitlines()] == [
        "cube 2,6,-8",
        "cube off the board",
    ]
    status, out, err = understep("convert", "-", stdin="1,2\n7\n")
    assert (status, out) == (2, "")
    assert "line 2: '7' is no offset coordinate" in err


@pytest.mark.parametrize(
    ("options", "given", "wanted"),
    [
        ([], 'name,col,row\n"scout, old",3,2\n\npunt,-1,5\n',
         'name,col,row,q,r,s\n"scout, old",3,2,2,2,-4\npunt,-1,5,-3,5,-2\n'),
        (["--to", "axial", "--from", "cube"], "s,r,q\n-4,2,2\n", "s,r,q\n-4,2,2\n"),
        (["--from", "axial"], "q,r\n1,2\n", "q,r,s\n1,2,-3\n"),
        (["--from", "axial", "--to", "doubled", "--top", "flat"], "q,r\n1,2\n",
         "q,r,dcol,drow\n1,2,1,5\n"),
        (["--from", "world", "--to", "offset", "--board", "sluice-house"], "x,y\n3.5,2.5\n99,0\n",
         "x,y,col,row\n3.5,2.5,3,2\n99,0,,\n"),
        ([], "col,row\n1,2\n3\n", "line 3: has 1 of the header's 2 fields"),
        ([], "col,row\n1,2.5\n", "line 2: '1,2.5' is no offset coordinate"),
        ([], "col,line\n1,2\n", "line 1: the header must have col,row, once each"),
        ([], "col,row,q\n1,2,3\n", "line 1: there is a column 'q' already"),
        ([], 'col,row\n1,"2\n', "is no CSV"),
        (["--from", "doubled"], "dcol,drow\n0,0\n1,2\n", "line 3: values: doubled"),
    ],
)  # fmt: skip
def test_convert_adds_columns_to_csv_or_changes_nothing(tmp_path, options, given, wanted):
    path = tmp_path / "level.csv"
    path.write_text(given)
    status, out, err = understep("convert", "--csv", str(path), *options)
    if wanted.endswith("\n"):
        assert (status, out) == (int(",," in wanted), wanted)
    else:
        assert (status, out) == (2, "")
        assert wanted in " ".join(err.split())


@pytest.mark.deep
def test_commands_draw_both_views_and_moving_pictures(tmp_path):
    plan, tilted, moving = (tmp_path / name for name in ("plan.png", "tilted.png", "walk.gif"))
    status, out, _ = understep("reach", "fen", "scout", "--png", str(plan))
    assert (status, str(plan) in out) == (0, True)
    status, _, _ = understep("reach", "fen", "scout", "--png", str(tilted), "--isometric")
    assert (status, plan.read_bytes() != tilted.read_bytes()) == (0, True)
    board = us.maps.shipped("fen")
    us.draw.figure(board, us.reach(board, "scout"), title=f"{board.title}: reach of scout",
              view="isometric", path=tmp_path / "same.png")  # fmt: skip
    assert tilted.read_bytes() == (tmp_path / "same.png").read_bytes()
    assert understep("route", "sluice-house", "scout", "8,3", "--gif", str(moving))[0] == 0
    assert moving.read_bytes()[:6] == b"GIF89a"
    status, out, _ = understep("route", "fen", "punt", "0,0", "--gif", str(tmp_path / "none.gif"))
    assert (status, (tmp_path / "none.gif").exists()) == (1, False)
    status, _, err = understep("route", "fen", "scout", "8,3", "--gif", str(tmp_path / "walk.png"))
    assert (status, "must end in .gif" in err) == (2, True)


# what comes from files, terminals and other programs


def test_convert_takes_a_byte_order_mark_and_says_what_does_not_go_together(tmp_path):
    path = tmp_path / "level.csv"
    path.write_text("col,row\n1,2\n", encoding="utf-8-sig")
    assert understep("convert", "--csv", str(path)) == (0, "col,row,q,r,s\n1,2,0,2,-2\n", "")
    status, _, err = understep("convert", "--csv", str(path), "--json")
    assert (status, "--csv writes CSV; leave out --json" in err) == (2, True)


@pytest.mark.parametrize(
    ("words", "hint"),
    [
        (["survey", "--seeds", "0:²"], "are not seeds; type first:end"),
        (["survey", "--seeds", "0:99999999999999999"], "are not seeds"),
        (["reach", "fen", "scout", "--png", "x.xyz"], "must end in .png, .svg, .pdf"),
        (["compare", "fen", "scout", "3,3", "--png", "x"], "must end in .png, .svg, .pdf"),
        (["survey", "--seeds", "0:2", "--png", "x.gif"], "must end in .png, .svg, .pdf"),
        (["show", "no\udcff"], "no file 'no\\udcff'"),
        (["reach", "fen", "\x1b[31mx"], "got '\\x1b[31mx'"),
    ],
)
def test_odd_words_are_refused_before_anything_is_done(words, hint):
    status, out, err = understep(*words)
    assert (status, out, "\x1b" in err) == (2, "", False)
    assert hint in " ".join(err.split())


def test_nothing_to_read_is_told():
    done = subprocess.run(
        ["sh", "-c", f"{sys.executable} -W ignore -m understep convert - <&-"],
        capture_output=True, text=True, check=False,
    )  # fmt: skip
    assert (done.returncode, "there is no standard input" in done.stderr) == (2, True)


@pytest.fixture
def steering(tmp_path):
    """A board whose title and names would steer a terminal, and are no formulas."""
    fen = us.maps.shipped("fen")
    text = dump(fen).replace('"scout"', r'"\u001b[2Jev$il"').replace("turf", r"\u009b3$1m_{turf")
    text = text.replace(fen.title, r"\u001b]0;$x_{\u0007")
    path = tmp_path / "steering.board.json"
    path.write_text(text, encoding="utf-8")
    return path


@pytest.mark.deep
def test_names_from_files_do_not_steer_a_terminal_nor_break_a_picture(steering, tmp_path):
    svg = tmp_path / "a.svg"
    name = "\x1b[2Jev$il"
    for words in (["show"], ["check"], ["reach", name], ["route", name, "7,6"], ["attack", "pikes"],
                  ["sight", name], ["show", "--json"]):  # fmt: skip
        command, *rest = words
        png = [] if "--json" in rest else ["--png", str(svg)]
        _, out, err = understep(command, str(steering), *rest, *png)
        assert not set(out + err) & {"\x1b", "\x9b", "\x07"}, words
        if png:
            texts = xml.dom.minidom.parse(str(svg))  # which is XML for all that
            assert texts.documentElement.tagName == "svg"
    spoilt = tmp_path / "spoilt.board.json"
    spoilt.write_text(steering.read_text("utf-8").replace('"rows"', r'"\u001b[31m"', 1))
    _, _, err = understep("show", str(spoilt))
    assert "\\x1b[31m: is no key of this file" in " ".join(err.split())
    _, out, _ = understep("survey", str(tmp_path), "--question", "reach")
    assert not set(out) & {"\x1b", "\x9b", "\x07"}


@pytest.mark.deep
@pytest.mark.skipif(not hasattr(os, "killpg"), reason="a terminal's Ctrl-C goes to all processes")
@pytest.mark.parametrize("presses", [1, 3])
def test_a_survey_by_several_processes_ends_at_once_when_interrupted(tmp_path, presses):
    child = subprocess.Popen(
        [sys.executable, "-W", "ignore", "-m", "understep", "survey", "--seeds", "0:4000",
         "--workers", "2", "--out", str(tmp_path)],
        stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True, start_new_session=True,
        preexec_fn=lambda: signal.signal(signal.SIGINT, signal.SIG_DFL),  # shells may ignore it
    )  # fmt: skip
    log = tmp_path / "survey.log"
    while not (log.exists() and log.read_text().count("\n") > 3):
        time.sleep(0.1)
    for _ in range(presses):
        os.killpg(child.pid, signal.SIGINT)
        time.sleep(0.1)
    _, err = child.communicate(timeout=5)
    assert (child.returncode != 0, "Traceback" in err) == (True, False)


@pytest.mark.parametrize("option", [("--seed", "-1"), ("--rounds", "1001")])
def test_a_demo_that_cannot_be_played_is_refused(option, tmp_path):
    status, _, errors = understep("demo", "--out", tmp_path / "made", *option)
    assert status == 2
    assert option[0] in errors
    assert not (tmp_path / "made").exists()
