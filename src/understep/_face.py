"""Faces: the names that a package shows, loaded on first use.

They stand once, in the stub beside the package, which editors and type checkers read.
"""

from __future__ import annotations

import pkgutil
import re
import sys
from collections.abc import Callable
from functools import cache
from importlib import import_module
from typing import Any

Face = tuple[Callable[[str], Any], Callable[[], list[str]]]


@cache
def homes(module: str) -> dict[str, str]:
    """By name that a module shows, the module that holds it; of a module its own name."""
    package, _, name = module.rpartition(".")
    if hasattr(sys.modules[module], "__path__"):
        package, name = module, "__init__"
    stub = (pkgutil.get_data(package, f"{name}.pyi") or b"").decode()
    found = {}
    for home, names in re.findall(r"^from (\S+) import (\([^)]*\)|.*)$", stub, re.MULTILINE):
        for name in re.findall(r"(\w+) as", names):
            found[name] = f"{home}.{name}" if home == module else home
    return found


def face(module: str) -> Face:
    """The ``__getattr__`` and ``__dir__`` of a module that shows what its stub lists."""

    def get(name: str) -> Any:
        home = None if name.startswith("_") else homes(module).get(name)
        if home is None:
            raise AttributeError(f"module {module!r} has no attribute {name!r}")
        found: Any = import_module(home)
        if home != f"{module}.{name}":
            found = getattr(found, name)
        setattr(sys.modules[module], name, found)
        return found

    return get, lambda: sorted(homes(module))
