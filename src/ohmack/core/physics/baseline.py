"""Baseline readings before anything is changed: volume steps, speaker pairs, standby current."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from statistics import quantiles

from ohmack.core.errors import require
from ohmack.core.physics.signal_chain import db_from_voltage_ratio

COMPRESSED = 0.75  # a step that rises by less than this share of the usual one is no longer clean
USABLE = 0.5  # share of a battery that may be drawn before it may fail to start the engine, common practice


def last_clean_step(readings: Sequence[tuple[float, float]]) -> float | None:
    """The last volume step before the level stops following.

    Parameters:
        readings: (step, volts rms) of one tone, at least four above zero volts, shape (n, 2) [v].

    Returns:
        the step; None where fewer than four readings are there.

    Formula: decibels per step between neighbours; the first rise below three quarters of the upper-quartile rise
    marks the limit, the step before it is clean. Where no rise falls short the highest step is clean as far as it
    was read.
    Source: common practice; a scope shows it directly and decides.
    """
    rows = sorted((step, volts) for step, volts in readings if volts > 0)
    if len(rows) < 4 or len({step for step, _ in rows}) < len(rows):
        return None
    rises = [(b[0], db_from_voltage_ratio(b[1] / a[1]) / (b[0] - a[0])) for a, b in zip(rows, rows[1:], strict=False)]
    usual = quantiles((rise for _, rise in rises), n=4)[2]  # the clipped ones lie below
    clean = rows[0][0]
    for step, rise in rises:
        if rise < COMPRESSED * usual:
            return clean
        clean = step
    return clean


def bass_lost_db(bass: Mapping[float, float], mid: Mapping[float, float]) -> dict[float, float]:
    """How far the bass falls behind the midrange as the volume rises.

    Parameters:
        bass: volts rms of the bass tone by volume step [v].
        mid: volts rms of the midrange tone by volume step [v].

    Returns:
        loss against the quietest common step, by step [db]; empty where fewer than two steps have both.

    Formula: 20 log10 of the ratio of ratios. Source: common practice.
    """
    steps = sorted(step for step in bass.keys() & mid.keys() if bass[step] > 0 and mid[step] > 0)
    if len(steps) < 2:
        return {}
    quiet = bass[steps[0]] / mid[steps[0]]
    return {step: -db_from_voltage_ratio(bass[step] / mid[step] / quiet) for step in steps}


def joined_ohm(loads_ohm: Sequence[float], in_series: bool) -> float:
    """What several speakers on one pair are together.

    Parameters:
        loads_ohm: one or more impedances, shape (n,) [ohm].
        in_series: in series, else in parallel.

    Returns:
        impedance [ohm].

    Raises:
        OutOfRange: no load, or one of zero.

    Source: textbook circuit theory.
    """
    require("loads_ohm", min(loads_ohm, default=0.0), "ohm")
    return sum(loads_ohm) if in_series else 1 / sum(1 / ohm for ohm in loads_ohm)


def standby_days(capacity_ah: float, current_a: float) -> float:
    """How long a full battery feeds the standby current until it may fail to start the engine.

    Parameters:
        capacity_ah: at the 20 h rate [ah].
        current_a: everything asleep [a].

    Returns:
        time [days].

    Raises:
        OutOfRange: no capacity or no current.

    Formula: half the rated capacity over the current. Below the rated current no more than the rated capacity is
    promised. Source: common practice.
    """
    require("capacity_ah", capacity_ah, "ah", up_to=2000)
    require("current_a", current_a, "a", up_to=100)
    return USABLE * capacity_ah / current_a / 24


def relative_change(new_ohm: float, old_ohm: float) -> tuple[float, float, float]:
    """What a new load does to a channel of constant voltage.

    Parameters:
        new_ohm: new reading, leads zeroed [ohm].
        old_ohm: old reading, leads zeroed [ohm].

    Returns:
        (resistance, current, level): the first two as fractions of change, the level as [db].

    Raises:
        OutOfRange: a reading of zero.

    Formula: I = V / R, P = V^2 / R. Source: textbook circuit theory.

    >>> [round(v, 2) for v in relative_change(1.7, 2.1)]
    [-0.19, 0.24, 0.92]
    """
    require("new_ohm", new_ohm, "ohm")
    require("old_ohm", old_ohm, "ohm")
    return new_ohm / old_ohm - 1, old_ohm / new_ohm - 1, db_from_voltage_ratio(old_ohm / new_ohm) / 2
