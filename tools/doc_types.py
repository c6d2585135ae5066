"""Check the types of the code in the documents: each page is checked as one program.

``python tools/doc_types.py`` writes what the pages run into a folder of its own and asks mypy.
"""

import re
import subprocess
import sys
import tempfile
from pathlib import Path

ROOT = Path(__file__).parents[1]


def code(text: str) -> str:
    """The examples of a page, in order, without what they print; each line at its own place."""
    lines = []
    for line in text.splitlines():
        found = re.match(r"(>>> |\.\.\. |\.\.\.$)(.*)", line)
        lines.append(found[2] if found else "")
    return "\n".join(lines) + "\n"


def main() -> int:
    """Ask mypy about every page; the exit status is its own."""
    pages = [ROOT / "README.md", *sorted((ROOT / "docs").rglob("*.md"))]
    with tempfile.TemporaryDirectory() as folder:
        for page in pages:
            name = re.sub(r"\W", "_", str(page.relative_to(ROOT).with_suffix("")))
            text = code(page.read_text("utf-8"))
            if text.strip():
                (Path(folder) / f"page_{name}.py").write_text(text, "utf-8")
        words = ["--strict", "--disable-error-code=func-returns-value", "--no-error-summary"]
        done = subprocess.run(
            [sys.executable, "-m", "mypy", *words, folder],
            check=False, cwd=ROOT, capture_output=True, text=True,
        )  # fmt: skip
        print(done.stdout.replace(f"{folder}/page_", "") + done.stderr, end="")
    return done.returncode


if __name__ == "__main__":
    sys.exit(main())
