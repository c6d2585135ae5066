"""Draw the pictures of the README from the demo boards into docs/screenshots.

The terminal view is taken from a real terminal window: it needs Xvfb, xterm and ImageMagick.
"""

import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

ROOT = Path(__file__).parents[1]
SHOTS = ROOT / "docs" / "screenshots"
WINDOW = (
    "xterm -T shot -tn xterm-256color -geometry 123x24 -fa 'DejaVu Sans Mono' -fs 10 "
    "-bg '#f6efdf' -fg '#3a3228' -e"
)


def terminal(words: str, path: Path) -> None:
    """Run a command in a terminal window on a virtual screen, and take its picture."""
    if not all(map(shutil.which, ("xvfb-run", "xterm", "import"))):
        print("no terminal picture: Xvfb, xterm or ImageMagick is missing")
        return
    python = f"{sys.executable} -m understep"
    inside = f'printf "$ understep {words}\\n"; {python} {words}; sleep 8'
    script = f"{WINDOW} bash -c '{inside}' & sleep 5; import -window shot {path}; wait"
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


def main() -> None:
    """Draw them all."""
    SHOTS.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder:
        demo = [sys.executable, "-m", "understep", "demo", "--out", folder]
        subprocess.run(demo, check=True, stdout=subprocess.DEVNULL)
        example = [sys.executable, str(ROOT / "examples" / "own_level.py"), folder]
        subprocess.run(example, check=True, stdout=subprocess.DEVNULL)
        for name in ("fen-reach", "fen-route", "fen-refused", "sluice-house"):
            shutil.copy(Path(folder) / f"{name}.png", SHOTS)
        shutil.copy(Path(folder) / "own_level.png", SHOTS / "own-level.png")
    terminal("route fen scout 18,3", SHOTS / "terminal.png")


if __name__ == "__main__":
    main()
