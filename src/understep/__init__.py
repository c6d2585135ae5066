"""Under Step: square and hex boards, movement ranges and routes for tactics games.

grids      which cells exist, who neighbors whom, where they lie in the world
boards     terrain and units on a grid: the single owner of the truth
rules      what a movement allows, compiled to step tables
moves      reach, routes, fields, areas, explanations
sight      lines of sight, views, fog of war
actions    what units do to each other
behaviors  what units do that the computer leads
worlds     large maps in sectors
files      board files and world folders
maps       levels from text, tables and images; resize, scatter, check
draw       figures and terminal views
study      surveys, traces, comparisons, proof
shapes     which cells a shape in the world covers
overlay    an answer as plain data for the game to draw
kernels    the compiled searches
errors     what can go wrong, as one tree
"""

import pkgutil
import re
from importlib import import_module
from typing import Any

from understep.kernels.loader import kernels as kernels  # first: else the package has this name

__version__ = "0.1.0"


def _homes() -> dict[str, str]:
    """The module of every name. They stand once, in the stub that editors and mypy read."""
    stub = (pkgutil.get_data(__name__, "__init__.pyi") or b"").decode()
    lines = re.findall(r"^from (\S+) import (\([^)]*\)|.*)$", stub, re.MULTILINE)
    return {name: home for home, names in lines for name in re.findall(r"(\w+) as", names)}


_HOMES = _homes()
__all__ = sorted([*_HOMES, "__version__"])


def __getattr__(name: str) -> Any:
    """Load a name on first use, so that the import stays light."""
    if name in _HOMES:
        found = globals()[name] = getattr(import_module(_HOMES[name]), name)
        return found
    raise AttributeError(f"module 'understep' has no attribute {name!r}")


def __dir__() -> list[str]:
    return sorted({*globals(), *__all__})
