"""Costs and points as exact fractions."""

from __future__ import annotations

import math
from fractions import Fraction
from typing import Any, TypeAlias

import numpy as np

from understep.errors import CostError

Cost: TypeAlias = int | float | Fraction

FINEST = 1000  # the largest denominator a cost is kept with
LARGEST = 10**9


def exact(value: Any, argument: str, place: str = "") -> Fraction:
    """Return a cost as the nearest fraction with denominator up to 1000.

    A positive cost never becomes 0. Raises `CostError` for negative, infinite or huge values, and
    for what is not a number.
    """
    if type(value) is int and 0 <= value <= LARGEST:  # as most costs are
        return Fraction(value)
    # what was counted before needs no rounding
    counted = isinstance(value, Fraction) and value.denominator <= FINEST
    if counted and 0 <= value.numerator <= LARGEST * value.denominator:
        return Fraction(value)
    known = isinstance(value, int | float | Fraction | np.integer | np.floating)
    if not known or type(value) is bool:
        raise CostError(argument, "a cost is a number (None: impassable)", value, place)
    if value < 0:
        raise CostError(argument, "a cost is never negative", value, place)
    if value > LARGEST and value != math.inf:
        raise CostError(argument, f"a cost is at most {LARGEST}", value, place)
    if not math.isfinite(value):
        raise CostError(argument, "a cost is finite (None: impassable)", value, place)
    given = value if isinstance(value, Fraction) else Fraction(float(value))
    near = given.limit_denominator(FINEST)
    return near if near or not value else Fraction(1, FINEST)


def rounded(value: Any, argument: str, place: str = "") -> int | float:
    """Return a cost as `exact` does, as the int or float that reads back to the same."""
    return plain(exact(value, argument, place))


def fraction(value: Cost) -> Fraction:
    """A checked cost as it is counted."""
    found = Fraction(value)
    return found if found.denominator <= FINEST else found.limit_denominator(FINEST)


def plain(value: Fraction) -> int | float:
    """Return an exact cost as an int where it is whole, else as a float."""
    return value.numerator if value.denominator == 1 else float(value)
