"""Check that tests are a quarter to a third of all Python lines, and that no file is too long."""

import subprocess
import sys
from pathlib import Path

LONGEST = 350


def main() -> int:
    """Count, print, and say by the exit status whether the proportions hold."""
    listed = subprocess.run(
        ["git", "ls-files", "-co", "--exclude-standard", "*.py"],
        capture_output=True,
        text=True,
        check=True,
    )
    counts = {
        name: sum(1 for line in Path(name).read_text("utf-8").splitlines() if line.strip())
        for name in listed.stdout.split()
        if Path(name).exists()
    }
    every = sum(counts.values())
    tests = sum(count for name, count in counts.items() if name.startswith("tests/"))
    print(f"tests are {tests} of {every} Python lines, {tests / every:.1%} (wanted: 25 to 33 %)")
    long = {name: count for name, count in counts.items() if count > LONGEST}
    for name, count in long.items():
        print(f"{name} has {count} lines")
    names = ("_search", "_steps", "_sight")
    kernels = {f"src/understep/kernels/{name}.py" for name in names}
    return int(not 0.25 <= tests / every <= 1 / 3 or bool(set(long) - kernels))


if __name__ == "__main__":
    sys.exit(main())
