"""Noise: powers of what is not alike add."""

from __future__ import annotations

from collections.abc import Sequence
from math import log10

from ohmack.core.errors import OutOfRange


def noise_of_db(levels_dbv: Sequence[float]) -> float:
    """Several noises that have nothing to do with each other, at one place.

    Parameters:
        levels_dbv: one or more, shape (n,) [dbv].

    Returns:
        their sum [dbv].

    Raises:
        OutOfRange: none is given.

    Formula: 10 log10 of the sum of 10^(level/10). Source: textbook: powers of uncorrelated noises add.

    >>> round(noise_of_db((-90.0, -90.0)), 2)
    -86.99
    """
    if not levels_dbv:
        raise OutOfRange("levels_dbv", 0.0, "", "at least one noise")
    return 10 * log10(sum(10 ** (level / 10) for level in levels_dbv))
