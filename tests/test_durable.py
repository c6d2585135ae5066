"""Saving a board: a file is replaced whole, and stays what it was to the system."""

import os
import stat
import subprocess
import sys
import time
from pathlib import Path

import pytest

import understep as us

KILLED = """
import os, sys, understep as us
path = sys.argv[1]

def save(title, stop):
    left = [stop]
    def hook(event, arguments):
        if event in ("open", "os.rename", "os.remove", "os.chmod", "os.chown") and left:
            if isinstance(arguments[0], (str, int, os.PathLike)):
                left[0] -= 1
                if left[0] < 0:
                    os._exit(9)
    board = us.Board(us.SquareGrid(2, 2), {"turf": 1})
    board.title = title
    sys.addaudithook(hook)
    us.save(board, path)
    os._exit(0)

titles, status, stop = [], 9, 0
while status == 9:
    child = os.fork()
    if child == 0:
        save("new " * 20_000, stop)
    status = os.waitstatus_to_exitcode(os.waitpid(child, 0)[1])
    titles.append(us.load(path).title[:3])
    stop += 1
print(status, *titles)
"""


@pytest.mark.skipif(not hasattr(os, "fork"), reason="processes are copied")
def test_a_process_killed_anywhere_while_saving_leaves_the_old_or_the_new_file(tmp_path):
    path = tmp_path / "a.board.json"
    board = us.Board(us.SquareGrid(2, 2), {"turf": 1})
    board.title = "old"
    us.save(board, path)
    done = subprocess.run(
        [sys.executable, "-c", KILLED, str(path)], check=True, capture_output=True, text=True
    )
    status, *titles = done.stdout.split()
    assert (status, titles[0], titles[-1], titles == sorted(titles, reverse=True)) == (
        "0", "old", "new", True,
    )  # fmt: skip
    assert len(titles) > 4


SAVING = """
import sys, understep as us
board = us.Board(us.SquareGrid(200, 200), {"turf": 1, "mud": 2})
print("ready", flush=True)
while True:
    for name in ("turf", "mud"):
        board.paint(name, board.grid.cells)
        us.save(board, sys.argv[1])
"""


@pytest.mark.deep
def test_a_killed_save_leaves_a_whole_file(tmp_path):
    path = tmp_path / "level.board.json"
    us.save(us.Board(us.SquareGrid(200, 200), {"turf": 1, "mud": 2}), path)
    for pause in (0.0, 0.013, 0.03, 0.047, 0.061):
        child = subprocess.Popen(
            [sys.executable, "-c", SAVING, str(path)], stdout=subprocess.PIPE, text=True
        )
        assert child.stdout.readline() == "ready\n"
        time.sleep(pause)
        child.kill()
        child.wait()
        child.stdout.close()
        codes = us.load(path).terrain_codes()
        assert codes.min() == codes.max()


def test_what_cannot_be_written_leaves_nothing_behind(tmp_path):
    board = us.Board(us.SquareGrid(2, 2), {"turf": 1})
    with pytest.raises(OSError, match="No such file"):
        us.save(board, tmp_path / "nowhere" / "level.board.json")
    with pytest.raises(OSError, match="No such file"):
        us.load(tmp_path / "missing.board.json")
    (tmp_path / "folder").mkdir()
    for path in (tmp_path / "folder", Path("/dev/null")):
        with pytest.raises(us.errors.InputError, match="path: must be a regular file"):
            us.save(board, path)
    assert os.listdir(tmp_path) == ["folder"]
    name = "n" * (255 - len(".board.json")) + ".board.json"  # no longer one is possible
    us.save(board, tmp_path / name)
    assert us.load(tmp_path / name).grid.size == (2, 2)


@pytest.mark.skipif(not hasattr(os, "fchmod"), reason="modes are those of Unix")
def test_a_saved_file_keeps_its_mode_and_a_link_leads_where_it_led(tmp_path):
    board, path, link = us.Board(us.SquareGrid(2, 2), {"turf": 1}), tmp_path / "a", tmp_path / "b"
    before = os.umask(0o077)
    try:
        us.save(board, path)
        assert stat.S_IMODE(path.stat().st_mode) == 0o600
        path.chmod(0o640)
        link.symlink_to(path.name)
        us.save(us.Board(us.SquareGrid(3, 2), {"turf": 1}), link)
        os.umask(0o022)
        us.save(board, tmp_path / "c")
    finally:
        os.umask(before)
    assert (link.is_symlink(), us.load(path).grid.size) == (True, (3, 2))
    assert stat.S_IMODE(path.stat().st_mode) == 0o640
    assert stat.S_IMODE((tmp_path / "c").stat().st_mode) == 0o644
    assert sorted(os.listdir(tmp_path)) == ["a", "b", "c"]
