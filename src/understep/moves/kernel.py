"""Which kernel runs: the compiled one where there is one, the same files interpreted where not.

Set ``UNDERSTEP_INTERPRETED=1`` before the import to run interpreted all the same.
"""

from __future__ import annotations

import importlib
import mmap
import os
import warnings
from types import ModuleType
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from understep.errors import KernelWarning

LARGE = 1 << 20
LAYERS = dict.fromkeys(("areas", "choice", "field", "search", "steps", "ties"), "moves")
LAYERS |= {"plan": "worlds", "sight": "sight"}


def _load(layer: str, name: str) -> ModuleType:
    if os.environ.get("UNDERSTEP_INTERPRETED", "") != "1":
        return importlib.import_module(f"understep.{layer}.{name}")
    from importlib.machinery import SourceFileLoader

    full = f"understep.{layer}.interpreted{name}"
    module = ModuleType(full)
    path = os.path.join(os.path.dirname(os.path.dirname(__file__)), layer, f"{name}.py")
    SourceFileLoader(full, path).exec_module(module)
    return module


if TYPE_CHECKING:
    areas: ModuleType
    choice: ModuleType
    field: ModuleType
    plan: ModuleType
    search: ModuleType
    sight: ModuleType
    steps: ModuleType
    ties: ModuleType

_told = False


def __getattr__(name: str) -> ModuleType:
    """Load a kernel at its first use, so that the import stays light."""
    if name not in LAYERS:
        raise AttributeError(name)
    module = globals()[name] = _load(LAYERS[name], f"_{name}")
    return module


def view(array: Any) -> memoryview:
    """An array as the kernels take it: half as slow as an ndarray when interpreted."""
    return memoryview(array)


def blank(count: int, dtype: Any) -> NDArray[Any]:
    """Zeros; of a large array only the parts that are touched ever take up memory or time.

    `numpy.zeros` clears memory that was used before, all of it at once.
    """
    size = count * np.dtype(dtype).itemsize
    if size < LARGE or not hasattr(mmap, "MAP_ANONYMOUS"):
        return np.zeros(count, dtype=dtype)
    pages = mmap.mmap(-1, size, flags=mmap.MAP_PRIVATE | mmap.MAP_ANONYMOUS)
    return np.frombuffer(pages, dtype=dtype)


def kernels() -> str:
    """Say which kernel is loaded: ``"compiled"`` or ``"interpreted"``.

    Examples
    --------
    >>> import understep as us
    >>> us.kernels() in ("compiled", "interpreted")
    True
    """
    return "compiled" if _compiled() else "interpreted"


def _compiled() -> bool:
    return bool(__getattr__("search").COMPILED)


def tell_once() -> None:
    """Warn, the first time, that the interpreted kernel runs."""
    global _told
    if not _told and not _compiled():
        _told = True
        warnings.warn(
            "the interpreted kernel is in use: the same answers, about a hundred times slower "
            "(install a build with compiled kernels)",
            KernelWarning,
            stacklevel=5,
        )
