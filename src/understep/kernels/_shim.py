"""Stands in for the `cython` module where the kernels run interpreted and Cython is not installed.

The kernels are ordinary Python; what they take from `cython` are marks for the compiler. Run
interpreted, every mark leaves the thing it marks as it is.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar

T = TypeVar("T")

compiled = False
int = uint = longlong = Py_ssize_t = uchar = ushort = double = object


def declare(_kind: object, value: T) -> T:
    """Mark a module's constant as a C constant."""
    return value


cast = declare


def cclass(marked: T) -> T:
    """Mark a class or function for the compiler."""
    return marked


cfunc = inline = cclass


class _NoGil:
    """Both a mark for a function and a context."""

    def __call__(self, marked: T) -> T:
        return marked

    def __enter__(self) -> None:
        return None

    def __exit__(self, *_exception: object) -> None:
        return None


nogil = _NoGil()


def exceptval(*_value: Any, check: bool = True) -> Callable[[T], T]:
    """Mark a function that raises nothing (``check=False``)."""
    return cclass
