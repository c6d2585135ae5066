"""Put random faults into copies of the kernels and rules, one at a time: how many are found.

``python tools/mutate.py COUNT [--seed N]``. A fault is a comparison that includes or leaves out its
border, a sum that is a difference, a number that is one more, "and" that is "or", or a condition
that is its opposite. A copy of the package with it runs interpreted: first it is compared with the
slow reference, then it must pass the tests of kernels and rules. Faults that nothing finds are
printed, with their place; some of them change nothing but speed.
"""

from __future__ import annotations

import argparse
import ast
import os
import random
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).parents[1]
PACKAGE = ROOT / "src" / "understep"
SWAPS: dict[type, type] = {
    ast.Lt: ast.LtE, ast.LtE: ast.Lt, ast.Gt: ast.GtE, ast.GtE: ast.Gt, ast.Eq: ast.NotEq,
    ast.NotEq: ast.Eq, ast.Add: ast.Sub, ast.Sub: ast.Add, ast.And: ast.Or, ast.Or: ast.And,
}  # fmt: skip
PROOF = (
    "import understep as us; raise SystemExit(not us.study.prove(seconds={0}, boards=250, seed=1))"
)
TESTS = [
    "reach", "route", "layers", "reaches", "where_rules_meet", "field", "sight", "attacks", "fog",
    "areas", "plan", "rules", "features", "laws", "prospects", "golden", "threads", "edges",
    "passable", "journal",
]  # fmt: skip
SLOW = 400  # seconds after which a copy counts as one that hangs


def files() -> list[Path]:
    """The kernels, and the rules that are compiled for them."""
    kernels = [path for path in (PACKAGE / "kernels").glob("_*.py") if path.name[1] not in "_s"]
    kernels += [PACKAGE / "kernels" / f"_{name}.py" for name in ("search", "sight", "steps")]
    return sorted([*kernels, *(PACKAGE / "rules").glob("[a-z]*.py")])


def places(tree: ast.Module) -> Iterator[tuple[ast.AST, str]]:
    """The nodes that can be altered, each with how."""
    marks = {id(each) for node in ast.walk(tree) for each in _ignored(node)}
    for node in ast.walk(tree):
        if id(node) in marks:
            continue
        if isinstance(node, ast.Compare) and type(node.ops[0]) in SWAPS:
            yield node, "comparison"
        elif isinstance(node, ast.BinOp) and type(node.op) in SWAPS:
            yield node, "sum"
        elif isinstance(node, ast.BoolOp):
            yield node, "and, or"
        elif isinstance(node, ast.Constant) and type(node.value) is int and node.value < 100:
            yield node, "number"
        elif isinstance(node, ast.If | ast.While) and not isinstance(node.test, ast.Constant):
            yield node, "condition"


def _ignored(node: ast.AST) -> Iterator[ast.AST]:
    """Types, which are not code that runs."""
    for name in ("annotation", "returns"):
        if isinstance(kind := getattr(node, name, None), ast.AST):
            yield from ast.walk(kind)


def altered(node: ast.AST) -> None:
    """Put the fault in."""
    if isinstance(node, ast.Compare):
        node.ops[0] = SWAPS[type(node.ops[0])]()
    elif isinstance(node, ast.BinOp | ast.BoolOp):
        node.op = SWAPS[type(node.op)]()
    elif isinstance(node, ast.Constant) and isinstance(node.value, int):
        node.value = node.value + 1
    elif isinstance(node, ast.If | ast.While):
        node.test = ast.UnaryOp(ast.Not(), node.test)


def found(path: Path, text: str) -> str:
    """By what a copy with another text of a file is found out; empty: by nothing."""
    with tempfile.TemporaryDirectory() as name:
        copy = Path(name) / "understep"
        shutil.copytree(PACKAGE, copy, ignore=shutil.ignore_patterns("*.so", "*.pyd", "__pyc*"))
        (copy / path.relative_to(PACKAGE)).write_text(text, "utf-8")
        paths = f"{name}:{ROOT / 'tests'}"
        more = {"PYTHONPATH": paths, "UNDERSTEP_INTERPRETED": "1", "HYPOTHESIS_PROFILE": "quick"}
        tests = [str(ROOT / "tests" / f"test_{name}.py") for name in TESTS]
        options = ["-q", "-x", "-n", "0", "-p", "no:cacheprovider", "-m", "not deep and not large"]
        asked = {
            "the proof": ["-W", "ignore", "-c", PROOF.format(SLOW // 2)],
            "tests": ["-m", "pytest", *options, "-o", "addopts=--import-mode=importlib", *tests],
        }
        for what, command in asked.items():
            try:
                done = subprocess.run(
                    [sys.executable, *command], cwd=ROOT / "tests", env={**os.environ, **more},
                    capture_output=True, timeout=SLOW,
                )  # fmt: skip
            except subprocess.TimeoutExpired:
                return "a limit of time"
            if done.returncode:
                return what
    return ""


def main() -> None:
    """Put faults in, and count."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("count", type=int)
    parser.add_argument("--seed", type=int, default=0)
    given = parser.parse_args()
    every = [
        (path, number, what)
        for path in files()
        for number, (_, what) in enumerate(places(ast.parse(path.read_text("utf-8"))))
    ]
    print(f"{len(every)} places for faults")
    chosen = random.Random(given.seed).sample(every, given.count)
    missed = 0
    for path, number, what in chosen:
        tree = ast.parse(path.read_text("utf-8"))
        node, _ = list(places(tree))[number]
        altered(node)
        by = found(path, ast.unparse(tree))
        missed += not by
        where = f"{path.relative_to(PACKAGE)}:{getattr(node, 'lineno', 0)}"
        print(f"{where}: {what}: found by {by or 'NOTHING'}", flush=True)
    print(f"{given.count - missed} of {given.count} found")


if __name__ == "__main__":
    main()
