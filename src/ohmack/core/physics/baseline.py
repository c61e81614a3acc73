"""Baseline readings before anything is changed: volume steps, speaker pairs, standby current."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from statistics import median, quantiles

from ohmack.core.errors import require
from ohmack.core.physics.signal_chain import db_from_voltage_ratio

COMPRESSED = 0.75  # a step that rises by less than this share of the usual one is no longer clean
LOOKED_BACK = 5  # rises a rise is compared with
SQUARE_DB = 3.5  # a sine clipped to a square is 3.01 dB louder; half a decibel for the meter
USABLE = 0.5  # share of a battery that may be drawn before it may fail to start the engine, common practice


BASS_BELOW_HZ = 120.0  # a tone below this tells about the bass
OFF_DB = 1.5  # how far a reading may leave its neighbours before it is a misreading, common practice


def clean_rows(
    readings: Sequence[tuple[float, float]],
) -> tuple[tuple[tuple[float, float], ...], tuple[float, ...]]:
    """Readings of one tone without those that do not fit.

    Parameters:
        readings: (step, volts rms), shape (n, 2) [v].

    Returns:
        (rows by step, steps left out): a reading is left out where it leaves the line through its neighbours by more
        than its neighbours leave theirs, and the level goes on behind it as before: a limit does not end again.

    Source: common practice.
    """
    rows = sorted((step, volts) for step, volts in readings if volts > 0)
    out: list[float] = []
    while len(rows) > 4 and len({step for step, _ in rows}) == len(rows):
        steps = [step for step, _ in rows]
        levels = [db_from_voltage_ratio(volts) for _, volts in rows]
        rises = [(levels[n + 1] - levels[n]) / (steps[n + 1] - steps[n]) for n in range(len(rows) - 1)]
        usual = quantiles(rises, n=4)[2]
        off = [0.0] * len(rows)
        for n in range(1, len(rows) - 1):
            share = (steps[n] - steps[n - 1]) / (steps[n + 1] - steps[n - 1])
            off[n] = levels[n] - levels[n - 1] - share * (levels[n + 1] - levels[n - 1])
        found = []
        for n in range(1, len(rows) - 1):
            apart = abs(off[n] - (off[n - 1] + off[n + 1]) / 2)
            over = (levels[n + 1] - levels[n - 1]) / (steps[n + 1] - steps[n - 1])
            beside = max(abs(off[n - 1]), abs(off[n + 1]))
            alone = abs(off[n]) > beside  # beside a knee or a misreading others look off too
            if alone and apart > OFF_DB and over >= COMPRESSED * usual:
                found.append((apart, n))
        if not found:
            break
        out.append(rows.pop(max(found)[1])[0])
    return tuple(rows), tuple(sorted(out))


def last_clean_step(readings: Sequence[tuple[float, float]]) -> float | None:
    """The last volume step before the level stops following.

    Parameters:
        readings: (step, volts rms) of one tone, at least four above zero volts, shape (n, 2) [v].

    Returns:
        the step; None where fewer than four readings are there.

    Formula: decibels per step between neighbours; a rise below three quarters of the median of the five before it
    marks the limit, where no reading behind it is more than 3 dB louder: a clipped sine carries at most twice the
    power. The step before it is clean; where no rise falls short the highest step is clean as far as it was read.
    Source: common practice; a scope shows it directly and decides.
    """
    return last_clean_of(clean_rows(readings)[0])


def last_clean_of(rows: Sequence[tuple[float, float]]) -> float | None:
    """The same of readings that fit, by step: see `last_clean_step`."""
    if len(rows) < 4 or len({step for step, _ in rows}) < len(rows):
        return None
    levels = [db_from_voltage_ratio(volts) for _, volts in rows]
    rises = [(levels[n + 1] - levels[n]) / (rows[n + 1][0] - rows[n][0]) for n in range(len(rows) - 1)]
    usual = quantiles(rises, n=4)[2]  # the clipped ones lie below
    for n, rise in enumerate(rises):
        before = rises[max(0, n - LOOKED_BACK) : n]
        falls_short = rise < COMPRESSED * (median(before) if len(before) > 1 else usual)
        if falls_short and max(levels) <= levels[n] + SQUARE_DB:
            return rows[n][0]
    return rows[-1][0]


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
