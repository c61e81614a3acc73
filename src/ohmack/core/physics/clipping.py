"""A sine that is driven past a limit: what a true-rms meter shows, and its harmonics."""

from __future__ import annotations

from math import asin, pi, sin, sqrt

from ohmack.core.errors import require


def _angle(wanted_v: float, limit_v: float) -> float:
    require("wanted_v", wanted_v, "V")
    require("limit_v", limit_v, "V")
    return asin(min(1.0, limit_v / wanted_v))


def clipped_rms_v(wanted_v: float, limit_v: float) -> float:
    """What a true-rms meter shows of a sine cut off at both peaks.

    Parameters:
        wanted_v: rms of the sine, were there no limit [v].
        limit_v: rms of the largest clean sine [v].

    Returns:
        rms [v]; at most √2 times the limit, where it has become a square.

    Raises:
        OutOfRange: either is not above zero.

    Formula: A² (2/π) (θ/2 − sin 2θ / 4 + k² (π/2 − θ)), θ = asin k, k = limit over wanted. Source: textbook integral.

    >>> round(clipped_rms_v(5, 10), 3), round(clipped_rms_v(1e6, 10), 2)
    (5.0, 14.14)
    """
    angle = _angle(wanted_v, limit_v)
    k = sin(angle)
    mean = (2 / pi) * (angle / 2 - sin(2 * angle) / 4 + k * k * (pi / 2 - angle))
    return wanted_v * sqrt(2 * mean)


def clipped_thd_percent(wanted_v: float, limit_v: float) -> float:
    """Total harmonic distortion of a sine cut off at both peaks.

    Parameters:
        wanted_v: rms of the sine, were there no limit [v].
        limit_v: rms of the largest clean sine [v].

    Returns:
        harmonics over the fundamental [percent]; 0 below the limit, 48.3 for a square.

    Raises:
        OutOfRange: either is not above zero.

    Formula: b₁ = (A/π) (2θ + sin 2θ), THD = √(rms² − b₁²/2) / (b₁/√2). Source: Fourier series of a clipped sine.

    >>> clipped_thd_percent(5, 10), round(clipped_thd_percent(1e7, 10), 1)
    (0.0, 48.3)
    """
    if wanted_v <= limit_v:
        return 0.0
    angle = _angle(wanted_v, limit_v)
    fundamental_v = wanted_v * (2 * angle + sin(2 * angle)) / pi
    whole_v = clipped_rms_v(wanted_v, limit_v)
    return 100 * sqrt(max(0.0, whole_v**2 - fundamental_v**2)) / fundamental_v
