"""Which kernel runs: the compiled one where there is one, the same files interpreted where not.

Set ``UNDERSTEP_INTERPRETED=1`` before the import to run interpreted all the same.
"""

from __future__ import annotations

import importlib
import mmap
import os
import warnings
from collections.abc import Callable
from contextlib import suppress
from types import ModuleType
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from understep.errors import KernelWarning

LARGE = 1 << 20
KERNELS = (
    "areas", "asker", "choice", "field", "layers", "plan", "rules", "search", "sight", "steps",
    "ties",
)  # fmt: skip
__all__ = [
    "areas",
    "asker",
    "blank",
    "choice",
    "field",
    "kernels",
    "layers",
    "plan",
    "rules",
    "search",
    "sight",
    "steps",
    "tell_once",
    "ties",
    "view",
]  # fmt: skip


def _load(name: str) -> ModuleType:
    if os.environ.get("UNDERSTEP_INTERPRETED", "") != "1":
        return importlib.import_module(f"understep.kernels._{name}")
    from importlib.machinery import SourceFileLoader

    full = f"understep.kernels.interpreted_{name}"
    module = ModuleType(full)
    path = os.path.join(os.path.dirname(__file__), f"_{name}.py")
    SourceFileLoader(full, path).exec_module(module)
    return module


if TYPE_CHECKING:
    from understep.kernels import _areas as areas
    from understep.kernels import _asker as asker
    from understep.kernels import _choice as choice
    from understep.kernels import _field as field
    from understep.kernels import _layers as layers
    from understep.kernels import _plan as plan
    from understep.kernels import _rules as rules
    from understep.kernels import _search as search
    from understep.kernels import _sight as sight
    from understep.kernels import _steps as steps
    from understep.kernels import _ties as ties

_warned = False


def __getattr__(name: str) -> ModuleType:
    """Load a kernel on first use, so that the import stays light."""
    if name not in KERNELS:
        raise AttributeError(name)
    module = globals()[name] = _load(name)
    return module


#: An array as the kernels take it: half as slow as an ndarray when interpreted.
view: Callable[[Any], memoryview] = memoryview


def blank(count: int, dtype: Any, *, dense: bool = False) -> NDArray[Any]:
    """Zeros; of a large array only the parts that are touched ever take up memory or time.

    `numpy.zeros` clears memory that was used before, all of it at once. ``dense``: the array is
    filled from its start on, so that large pages pay.
    """
    size = count * np.dtype(dtype).itemsize
    if size < LARGE or not hasattr(mmap, "MAP_ANONYMOUS"):
        return np.zeros(count, dtype=dtype)
    pages = mmap.mmap(-1, size, flags=mmap.MAP_PRIVATE | mmap.MAP_ANONYMOUS)
    if dense and hasattr(mmap, "MADV_HUGEPAGE"):
        with suppress(OSError):  # a system can be built without them
            pages.madvise(mmap.MADV_HUGEPAGE)
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
    global _warned
    if not _warned and not _compiled():
        _warned = True
        warnings.warn(
            "the interpreted kernel is in use: the same answers, about a hundred times slower; for "
            "the compiled one install a C compiler, then: "
            "pip install --force-reinstall --no-binary understep understep",
            KernelWarning,
            stacklevel=5,
        )
