"""Which kernel runs: the compiled one where there is one, the same files interpreted where not.

Set ``UNDERSTEP_INTERPRETED=1`` before the import to run interpreted all the same.
"""

from __future__ import annotations

import importlib
import os
import warnings
from importlib.machinery import SourceFileLoader
from importlib.util import module_from_spec, spec_from_loader
from pathlib import Path
from types import ModuleType

from understep.errors import KernelWarning


def _load(name: str) -> ModuleType:
    if os.environ.get("UNDERSTEP_INTERPRETED", "") != "1":
        return importlib.import_module(f"understep.moves.{name}")
    full = f"understep.moves.interpreted{name}"
    source = Path(__file__).with_name(f"{name}.py")
    spec = spec_from_loader(full, SourceFileLoader(full, str(source)))
    if spec is None or spec.loader is None:
        raise ImportError(f"cannot load {source}")
    module = module_from_spec(spec)
    spec.loader.exec_module(module)
    return module


search = _load("_search")
ties = _load("_ties")
_told = False


def kernels() -> str:
    """Say which kernel is loaded: ``"compiled"`` or ``"interpreted"``.

    Examples
    --------
    >>> import understep as us
    >>> us.kernels() in ("compiled", "interpreted")
    True
    """
    return "compiled" if search.COMPILED else "interpreted"


def tell_once() -> None:
    """Warn, the first time, that the interpreted kernel runs."""
    global _told
    if not _told and not search.COMPILED:
        _told = True
        warnings.warn(
            "the interpreted kernel is in use: the same answers, about a hundred times slower "
            "(install a build with compiled kernels)",
            KernelWarning,
            stacklevel=4,
        )
