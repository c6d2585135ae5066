"""Check that tests reach 95 % of the lines and of the branches of the core, from ``.coverage``.

After ``coverage run -m pytest`` with UNDERSTEP_INTERPRETED=1, as compiled kernels cannot be looked
into, and ``coverage combine``, as tests run in several processes.
"""

import json
import subprocess
import sys
import tempfile
from pathlib import Path

CORE = [
    "errors", "checks", "kernels", "overlay", "grids", "boards", "rules", "moves", "sight",
    "actions", "behaviors", "worlds",
]  # fmt: skip
LEAST = 0.95


def main() -> int:
    """Print lines and branches of each layer; 1 where the core falls short."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "coverage.json"
        subprocess.run([sys.executable, "-m", "coverage", "json", "-q", "-o", path], check=True)
        files = json.loads(path.read_text("utf-8"))["files"]
    counts: dict[str, list[int]] = {}
    for name, facts in files.items():
        layer = Path(name).as_posix().split("understep/")[-1].split("/")[0].removesuffix(".py")
        if name.endswith("_shim.py"):  # runs where there is no Cython
            continue
        found, every = counts.setdefault(layer, [0] * 4), facts["summary"]
        keys = ("covered_lines", "num_statements", "covered_branches", "num_branches")
        counts[layer] = [a + every[key] for a, key in zip(found, keys, strict=True)]
    counts["the core"] = [sum(counts[layer][part] for layer in CORE) for part in range(4)]
    for layer, (lines, of_lines, branches, of_branches) in counts.items():
        shares = lines / (of_lines or 1), branches / (of_branches or 1)
        print(f"{layer:10} {shares[0]:6.1%} of {of_lines} lines, {shares[1]:6.1%} of branches")
    return int(min(shares) < LEAST)  # the core's, which come last


if __name__ == "__main__":
    sys.exit(main())
