"""Self-play: the same seeds give the same games, in one process, in several, on a cluster."""

import importlib.util
import subprocess
import sys
from pathlib import Path

import pytest

EXAMPLE = Path(__file__).parents[1] / "examples" / "selfplay.py"


def run(*words):
    """What the example prints."""
    done = subprocess.run(
        [sys.executable, str(EXAMPLE), *words], capture_output=True, text=True, check=True
    )
    return done.stdout


def test_games_are_the_same_whoever_plays_them(tmp_path):
    picture = tmp_path / "prospects.png"
    one = run("3", "--picture", str(picture))
    assert one == run("3", "--workers", "2")
    assert len(set(one.splitlines())) == 4
    assert picture.stat().st_size > 10_000


@pytest.mark.deep
def test_games_on_a_cluster_are_the_same():
    if importlib.util.find_spec("distributed") is None:
        pytest.skip("Dask is not installed")
    assert run("3") == run("3", "--workers", "2", "--cluster")
