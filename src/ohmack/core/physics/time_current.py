"""Seconds against amperes: how fast a fuse opens, how long a wire stands it, and which of two fuses opens first."""

from __future__ import annotations

from bisect import bisect_right
from functools import cache, lru_cache
from math import exp, inf, log, sqrt

import numpy as np

from ohmack.core.errors import require
from ohmack.core.physics.conductors import CCA, Conductor, ampacity_a
from ohmack.core.physics.protection import family
from ohmack.core.record import record
from ohmack.core.reference import Source, table

LONGEST_S = 4.0 * 3600.0  # what takes longer is for ever
OVERLOAD = 1.45  # of its ampacity a wire may carry until its fuse has opened: IEC 60364-4-43, from memory
ADIABATIC_S = 5.0  # up to here a wire gives no heat away that counts: IEC 60364-4-43, from memory
HIGHEST_A = 20_000.0  # more no car battery drives
LOOKED_AT = 96  # currents between the lowest and the highest


@record
class Band:
    """The times a family of fuses opens in: multiples of the rating, fastest and slowest [s]."""

    multiples: tuple[float, ...]
    fastest_s: tuple[float, ...]
    slowest_s: tuple[float, ...]
    breaks_low_a: float
    breaks_high_a: float
    source: Source


@cache
def band_of(family_name: str) -> Band:
    """The band of a family.

    Parameters:
        family_name: "blade", "maxi" or "strip".

    Returns:
        its band and what it breaks.

    Raises:
        UnknownName: no such family.

    Source: see the table; each family has a band of its own.
    """
    raw = table("fuses", f"{family(family_name).name}_times")
    multiples, fastest, slowest = (tuple(float(v) for v in column) for column in zip(*raw["rows"], strict=True))
    return Band(multiples, fastest, slowest, float(raw["breaks_low_a"]), float(raw["breaks_high_a"]), raw["source"])


def opening_s(family_name: str, rating_a: float, current_a: float) -> tuple[float, float]:
    """How fast a fuse opens at a current.

    Parameters:
        family_name: "blade", "maxi" or "strip".
        rating_a: its rating [a].
        current_a: what flows [a].

    Returns:
        (fastest, slowest) [s]; infinity under the lowest multiple of its table, by equal heat (I²t) over the highest.

    Raises:
        OutOfRange: a rating or current not above zero.
        UnknownName: no such family.

    Formula: straight between points in both logarithms. Source: see the tables.
    """
    require("rating_a", rating_a, "a")
    require("current_a", current_a, "a")
    band, times = band_of(family_name), current_a / rating_a
    return _at(band.multiples, band.fastest_s, times), _at(band.multiples, band.slowest_s, times)


def _at(multiples: tuple[float, ...], seconds: tuple[float, ...], times: float) -> float:
    if times < multiples[0] * (1 - 1e-9):
        return inf
    if times >= multiples[-1]:
        return seconds[-1] * (multiples[-1] / times) ** 2
    n = min(max(bisect_right(multiples, times) - 1, 0), len(multiples) - 2)
    share = log(times / multiples[n]) / log(multiples[n + 1] / multiples[n])
    return exp(log(seconds[n]) + share * log(seconds[n + 1] / seconds[n]))


def damage_current_a(wire: Conductor, engine_space: bool) -> float:
    """What a wire carries for ever until its insulation is as hot as it may be at the end of a fault.

    Parameters:
        wire: the conductor.
        engine_space: whether any of it lies in the engine space.

    Returns:
        current [a].

    Formula: ampacity × √((160 − 30) / (t_insulation − 30)): heat follows I², the rise follows heat. Source:
    temperatures see the table; textbook.
    """
    raw = table("fuses", "damage")
    rise = (raw["damage_c"] - raw["ambient_c"]) / (wire.insulation_c - raw["ambient_c"])
    return ampacity_a(wire, engine_space) * sqrt(rise)


def standing_s(wire: Conductor, current_a: float, engine_space: bool) -> float:
    """How long a wire stands a current from cold before its insulation is damaged.

    Parameters:
        wire: the conductor.
        current_a: what flows [a].
        engine_space: whether any of it lies in the engine space.

    Returns:
        time [s]; infinity at what it carries for ever.

    Raises:
        OutOfRange: a current not above zero.

    Formula: −τ ln(1 − (I_for ever / I)²) with τ = k² S² / I_for ever²: warming with one time constant, which becomes
    k² S² / I² at high currents. Source: IEC 60364-5-54 for k (from memory); Newton's cooling: textbook.
    """
    require("current_a", current_a, "a")
    raw = table("fuses", "damage")
    k = float(raw["aluminium_k"] if wire.material == CCA else raw["copper_k"])
    wire = wire.one_lead  # a short in one of several leads is carried by it alone
    for_ever_a = damage_current_a(wire, engine_space)
    if current_a <= for_ever_a * (1 + 1e-9):
        return inf
    constant_s = (k * wire.area_mm2 / for_ever_a) ** 2
    return float(-constant_s * np.log1p(-((for_ever_a / current_a) ** 2)))


def _currents(low_a: float) -> list[float]:
    return [float(a) for a in np.geomspace(low_a, max(HIGHEST_A, low_a * 2), LOOKED_AT)]


def unprotected_a(
    family_name: str, rating_a: float, wire: Conductor, engine_space: bool, highest_a: float
) -> float | None:
    """The lowest current at which a wire may be damaged before its fuse opens.

    Parameters:
        family_name: of the fuse.
        rating_a: its rating [a].
        wire: the smallest conductor behind it.
        engine_space: whether any of it lies in the engine space.
        highest_a: the most that can flow [a].

    Returns:
        that current [a]; None where the fuse opens first at every current from the lowest at which it must open.

    Raises:
        OutOfRange: a rating not above zero.
        UnknownName: no such family.

    Formula: overload: the current at which it must open within its hour is at most 1.45 times the ampacity; short: the
    slowest opening, where that is up to 5 s, is under what the wire stands without giving heat away. Between, no
    standard compares them. Source: IEC 60364-4-43 and -4-41, from memory.
    """
    require("rating_a", rating_a, "a")
    lowest_a = band_of(family_name).multiples[0] * rating_a
    if lowest_a > OVERLOAD * ampacity_a(wire, engine_space):
        return lowest_a
    first_a = _first_bare_a(family_name, rating_a, wire, engine_space)
    return first_a if first_a is not None and first_a <= highest_a else None


@lru_cache(maxsize=256)
def _first_bare_a(family_name: str, rating_a: float, wire: Conductor, engine_space: bool) -> float | None:
    """The lowest current of all at which a short damages the wire first [a]."""
    for current_a in _currents(band_of(family_name).multiples[0] * rating_a):
        slowest_s = opening_s(family_name, rating_a, current_a)[1]
        if slowest_s <= ADIABATIC_S and slowest_s > standing_s(wire, current_a, engine_space):
            return current_a
    return None


def selective_up_to_a(branch: tuple[str, float], main: tuple[str, float], highest_a: float) -> float:
    """Up to which current a branch fuse opens before the main one for certain.

    Parameters:
        branch: (family, rating [a]) of the fuse nearer to the consumer.
        main: (family, rating [a]) of the one before it.
        highest_a: the most that can flow [a].

    Returns:
        current [a]; the highest where it always does, the branch's rating where it never does.

    Raises:
        OutOfRange: a rating not above zero.
        UnknownName: no such family.

    Source: the branch's slowest against the main's fastest: textbook protection practice.
    """
    return min(_sure_a(branch, main), highest_a)


@lru_cache(maxsize=256)
def _sure_a(branch: tuple[str, float], main: tuple[str, float]) -> float:
    """The same over all currents [a]."""
    last_a = branch[1]
    for current_a in _currents(band_of(branch[0]).multiples[0] * branch[1]):
        if opening_s(*branch, current_a)[1] >= opening_s(*main, current_a)[0]:
            return last_a
        last_a = current_a
    return HIGHEST_A
