"""The random generator of a seed, for calls that choose at random."""

from __future__ import annotations

import random
from typing import TypeAlias

import numpy as np

from understep.errors import InputError

Random: TypeAlias = int | np.random.Generator | random.Random


def generator(rng: Random) -> np.random.Generator:
    """The generator of a seed, or a given generator; one of Python gives it its seed."""
    if isinstance(rng, np.random.Generator):
        return rng
    if isinstance(rng, random.Random):
        rng = rng.getrandbits(128)
    if type(rng) is bool or not isinstance(rng, int | np.integer) or rng < 0:
        raise InputError("rng", "must be a seed, a whole number of 0 or more, or a generator", rng)
    return np.random.Generator(np.random.PCG64(int(rng)))
