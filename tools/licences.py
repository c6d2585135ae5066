"""Write docs/licences.md: the licences of all that the project needs, as packages say."""

import re
import sys
import tomllib
from importlib.metadata import PackageNotFoundError, metadata
from pathlib import Path

ROOT = Path(__file__).parents[1]
WHY = {
    "dependencies": "the library and its command",
    "plot": "figures, images and pages",
    "explore": "live pages",
    "shapes": "shapes that cover cells",
    "play": "the playable example",
    "cluster": "surveys on a cluster",
    "package": "packing games, releases",
    "dev": "work on the library",
}
HEAD = """\
# Licences

Under Step is under the MIT licence, and holds no code of others. What it needs, and under which
licences, as the packages themselves say:

| package | for | licence |
|---|---|---|
"""
TAIL = """

`python tools/licences.py` writes this page. What those packages need in turn, a tool such as
`pip show` tells.
"""


def licence(name: str) -> str:
    """What a package says of its licence."""
    try:
        told = metadata(name)
    except PackageNotFoundError:
        return "(not installed)"
    if told.get("License-Expression"):
        return str(told["License-Expression"])
    classified = [
        line.split(" :: ")[-1]
        for line in told.get_all("Classifier") or ()
        if line.startswith("License :: OSI")
    ]
    if classified:
        return ", ".join(classified)
    return str(told.get("License") or "(not said)").splitlines()[0]


def main() -> int:
    """Write the page; 1 where a package is missing."""
    project = tomllib.loads((ROOT / "pyproject.toml").read_text("utf-8"))["project"]
    groups = {"dependencies": project["dependencies"], **project["optional-dependencies"]}
    uses: dict[str, list[str]] = {}
    for group, needs in groups.items():
        for need in needs:
            name = re.match(r"[\w.-]+", need)[0]  # type: ignore[index]
            if name != "understep":
                uses.setdefault(name, []).append(WHY[group])
    licences = {name: licence(name) for name in uses}
    missing = "(not installed)" in licences.values()
    rows = [f"| {name} | {'; '.join(uses[name])} | {found} |" for name, found in licences.items()]
    lines = [*HEAD.splitlines(), *rows, *TAIL.splitlines()]
    (ROOT / "docs" / "licences.md").write_text("\n".join(lines) + "\n", "utf-8")
    return int(missing)


if __name__ == "__main__":
    sys.exit(main())
