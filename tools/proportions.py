"""Check that tests are a quarter to a third of all Python lines, and that no file is too long.

Of a file the lines of code count: without docstrings, comments, imports and blank lines.
"""

import ast
import subprocess
import sys
from pathlib import Path

LONGEST = 350
LONGEST_KERNEL = 700


def code(text: str) -> int:
    """How many lines of code a file has."""
    left_out = set()
    for node in ast.walk(ast.parse(text)):
        parts = [node] if isinstance(node, ast.Import | ast.ImportFrom) else []
        if isinstance(node, ast.Module | ast.ClassDef | ast.FunctionDef) and ast.get_docstring(
            node
        ):
            parts = [node.body[0]]
        for part in parts:
            left_out.update(range(part.lineno, part.end_lineno + 1))
    lines = enumerate(text.splitlines(), 1)
    return sum(
        1 for at, line in lines
        if at not in left_out and line.strip() and not line.lstrip().startswith("#")
    )  # fmt: skip


def limit(name: str) -> int:
    """How many lines of code a file may have; a kernel is one loop, and can be longer."""
    return LONGEST_KERNEL if name.startswith("src/understep/kernels/_") else LONGEST


def main() -> int:
    """Count, print, and say by the exit status whether the proportions hold."""
    listed = subprocess.run(
        ["git", "ls-files", "-co", "--exclude-standard", "*.py"],
        capture_output=True,
        text=True,
        check=True,
    )
    texts = {
        name: Path(name).read_text("utf-8") for name in listed.stdout.split() if Path(name).exists()
    }
    lines = {
        name: sum(map(bool, map(str.strip, text.splitlines()))) for name, text in texts.items()
    }
    every = sum(lines.values())
    tests = sum(count for name, count in lines.items() if name.startswith("tests/"))
    print(f"tests are {tests} of {every} Python lines, {tests / every:.1%} (wanted: 25 to 33 %)")
    sizes = {name: code(text) for name, text in texts.items() if not name.startswith("tests/")}
    package = sum(size for name, size in sizes.items() if name.startswith("src/"))
    print(f"{package} lines of code in the package")
    too_long = [name for name in sorted(sizes) if sizes[name] > limit(name)]
    for name in too_long:
        print(f"{name} has {sizes[name]} lines of code, {sizes[name] - limit(name)} too many")
    return int(not 0.25 <= tests / every <= 1 / 3 or bool(too_long))


if __name__ == "__main__":
    sys.exit(main())
