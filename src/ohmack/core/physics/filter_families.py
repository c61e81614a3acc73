"""Filters as amplifiers and processors have them: families and slopes, shelves, boosts, all-passes, delay."""

from __future__ import annotations

from cmath import exp as cexp
from functools import lru_cache
from math import factorial, pi, sqrt

import numpy as np
from numpy.typing import NDArray

from ohmack.core.errors import OutOfRange, require

Floats = NDArray[np.float64]
Complexes = NDArray[np.complex128]
FAMILIES = ("Butterworth", "Linkwitz-Riley", "Bessel")
MOST_ORDER = 8


def _order(family: str, slope_db: int) -> int:
    """Poles of a slope [db an octave]; a Linkwitz-Riley has two equal halves, so its slopes are every other one."""
    order, rest = divmod(slope_db, 6)
    if family not in FAMILIES:
        raise OutOfRange("family", 0, "", ", ".join(FAMILIES))
    if rest or not 1 <= order <= MOST_ORDER:
        raise OutOfRange("slope", slope_db, "dB an octave", "6, 12, 18 … 48")
    if family == "Linkwitz-Riley" and order % 2:
        raise OutOfRange("slope", slope_db, "dB an octave", "12, 24, 36 or 48 for a Linkwitz-Riley")
    return order


@lru_cache(maxsize=64)
def _butterworth(order: int) -> tuple[complex, ...]:
    """Poles of a Butterworth low-pass of unit corner: on the unit circle, evenly spread; textbook."""
    return tuple(cexp(1j * pi * (2 * k + order - 1) / (2 * order)) for k in range(1, order + 1))


@lru_cache(maxsize=16)
def _bessel(order: int) -> tuple[float, ...]:
    """Coefficients of a Bessel low-pass's denominator from the constant up, scaled to fall by 3 dB at 1."""
    plain = [
        factorial(2 * order - k) / (2 ** (order - k) * factorial(k) * factorial(order - k)) for k in range(order + 1)
    ]

    def fallen(w: float) -> float:
        value = sum(c * (1j * w) ** k for k, c in enumerate(plain))
        return float(plain[0] / abs(value) - sqrt(0.5))

    low, high = 0.1, 10.0 * order
    for _ in range(80):
        middle = (low + high) / 2
        low, high = (middle, high) if fallen(middle) > 0 else (low, middle)
    return tuple(c * low**k / plain[0] for k, c in enumerate(plain))


def _low(s: Complexes, family: str, order: int) -> Complexes:
    """A low-pass of unit corner at complex frequencies."""
    if family == "Bessel":
        return 1 / sum((c * s**k for k, c in enumerate(_bessel(order))), np.zeros_like(s))
    half = order // 2 if family == "Linkwitz-Riley" else order
    found = np.ones_like(s)
    for pole in _butterworth(half):
        found = found * -pole / (s - pole)
    return found**2 if family == "Linkwitz-Riley" else found


def low_pass(hz: Floats, corner_hz: float, slope_db: int, family: str = "Butterworth") -> Complexes:
    """A low-pass.

    Parameters:
        hz: frequencies [hz].
        corner_hz: where it has fallen by 3 dB, by 6 dB for a Linkwitz-Riley [hz].
        slope_db: an octave, 6 to 48 in steps of 6; 12, 24, 36, 48 for a Linkwitz-Riley [db].
        family: one of FAMILIES.

    Returns:
        complex response, one a frequency.

    Raises:
        OutOfRange: a corner not above zero, another slope or family.

    Source: textbook filter theory; a Bessel's corner is taken where it has fallen by 3 dB.
    """
    require("corner_hz", corner_hz, "Hz")
    order = _order(family, slope_db)
    return _low(np.asarray(1j * hz / corner_hz, dtype=np.complex128), family, order)


def high_pass(hz: Floats, corner_hz: float, slope_db: int, family: str = "Butterworth") -> Complexes:
    """A high-pass: the low-pass of the same family with frequency turned over.

    Parameters:
        hz: frequencies, above zero [hz].
        corner_hz: where it has fallen by 3 dB, by 6 dB for a Linkwitz-Riley [hz].
        slope_db: an octave, as for `low_pass` [db].
        family: one of FAMILIES.

    Returns:
        complex response, one a frequency.

    Raises:
        OutOfRange: as for `low_pass`.

    Source: textbook filter theory.
    """
    require("corner_hz", corner_hz, "Hz")
    order = _order(family, slope_db)
    return _low(np.asarray(-1j * corner_hz / hz, dtype=np.complex128), family, order)


def bell(hz: Floats, centre_hz: float, gain_db: float, q: float) -> Complexes:
    """A parametric band: boost or cut around a frequency.

    Parameters:
        hz: frequencies [hz].
        centre_hz: its middle [hz].
        gain_db: there [db].
        q: centre over width, at half its gain in decibels.

    Returns:
        complex response, one a frequency.

    Raises:
        OutOfRange: a centre or Q not above zero.

    Formula: (s² + s A/Q + 1) / (s² + s/(A Q) + 1), A = 10^(gain/40). Source: textbook audio equalisers.
    """
    require("centre_hz", centre_hz, "Hz")
    require("q", q, "")
    s = np.asarray(1j * hz / centre_hz, dtype=np.complex128)
    a = 10 ** (gain_db / 40)
    return (s * s + s * a / q + 1) / (s * s + s / (a * q) + 1)


def low_shelf(hz: Floats, corner_hz: float, gain_db: float, q: float = 0.7071) -> Complexes:
    """A shelf under a frequency, as bass controls are: half its gain in decibels at the corner.

    Parameters:
        hz: frequencies [hz].
        corner_hz: its middle [hz].
        gain_db: far below [db].
        q: 0.71 without a hump.

    Returns:
        complex response, one a frequency.

    Raises:
        OutOfRange: a corner or Q not above zero.

    Formula: A (s² + s √A/Q + A) / (A s² + s √A/Q + 1), A = 10^(gain/40). Source: textbook audio equalisers.
    """
    require("corner_hz", corner_hz, "Hz")
    require("q", q, "")
    s = np.asarray(1j * hz / corner_hz, dtype=np.complex128)
    a = 10 ** (gain_db / 40)
    return a * (s * s + s * sqrt(a) / q + a) / (a * s * s + s * sqrt(a) / q + 1)


def high_shelf(hz: Floats, corner_hz: float, gain_db: float, q: float = 0.7071) -> Complexes:
    """A shelf over a frequency, as treble controls are: the low shelf with frequency turned over.

    Parameters:
        hz: frequencies, above zero [hz].
        corner_hz: its middle [hz].
        gain_db: far above [db].
        q: 0.71 without a hump.

    Returns:
        complex response, one a frequency.

    Raises:
        OutOfRange: a corner or Q not above zero.

    Source: textbook audio equalisers.
    """
    require("corner_hz", corner_hz, "Hz")
    found: Complexes = np.conj(low_shelf(np.asarray(corner_hz * corner_hz / hz), corner_hz, gain_db, q))
    return found


def all_pass(hz: Floats, centre_hz: float, q: float | None = None) -> Complexes:
    """An all-pass: phase turned round a frequency, level untouched.

    Parameters:
        hz: frequencies [hz].
        centre_hz: where the phase has turned by half of what it turns in all [hz].
        q: of a second-order one; None for first order.

    Returns:
        complex response, one a frequency.

    Raises:
        OutOfRange: a centre or Q not above zero.

    Formula: (1 − s) / (1 + s); (s² − s/Q + 1) / (s² + s/Q + 1). Source: textbook filter theory.
    """
    require("centre_hz", centre_hz, "Hz")
    s = np.asarray(1j * hz / centre_hz, dtype=np.complex128)
    if q is None:
        return (1 - s) / (1 + s)
    require("q", q, "")
    return (s * s - s / q + 1) / (s * s + s / q + 1)


def delayed(hz: Floats, delay_ms: float) -> Complexes:
    """A delay.

    Parameters:
        hz: frequencies [hz].
        delay_ms: how late [ms].

    Returns:
        complex response, one a frequency.

    Source: textbook signal theory.
    """
    found: Complexes = np.exp(-2j * pi * hz * delay_ms / 1000)
    return found


def level_db(response: Complexes) -> Floats:
    """Level of a response [db], no lower than −200."""
    found: Floats = 20 * np.log10(np.maximum(np.abs(response), 1e-10))
    return found
