"""How loud a driver in a box gets at each frequency, and what binds: heat, the cone's travel, air in the vent, volts.

And what a cabin adds to it, as a model with its uncertainty.
"""

from __future__ import annotations

from dataclasses import replace
from math import sqrt

import numpy as np

from ohmack.core.errors import require
from ohmack.core.physics.boxes import Curves, Floats
from ohmack.core.physics.small_signal import SOUND_SPEED_M_S
from ohmack.core.record import record

MOST_AIR_SPEED_M_S = 17.0  # peak, about a twentieth of the speed of sound: beyond it a vent chuffs; common practice
CABIN_MOST_DB = 18.0  # leaks and soft panels hold it there; common practice
CABIN_SPREAD_DB = 4.0  # one car against another of its length; common practice
BINDS = ("heat", "travel", "vent", "volts", "radiator")


@record
class Limits:
    """What a driver, its vent and its amplifier take; None where it is not known."""

    heat_w: float | None
    nominal_ohm: float
    xmax_m: float | None
    air_speed_m_s: float | None = MOST_AIR_SPEED_M_S
    volts: float | None = None
    radiator_m: float | None = None


@record
class Headroom:
    """The most at each frequency: volts, power by the nominal load, level at 1 m, and which limit binds."""

    frequency_hz: Floats
    volts: Floats
    power_w: Floats
    level_db: Floats
    binds: tuple[str, ...]


def butterworth_high_pass(frequency_hz: Floats, corner_hz: float, slope_db: float) -> Floats:
    """What a high-pass leaves of each frequency.

    Parameters:
        frequency_hz: [n] frequencies [hz].
        corner_hz: its -3 dB point [hz].
        slope_db: 6, 12, 18 or 24 per octave [db].

    Returns:
        [n] factors between 0 and 1.

    Raises:
        OutOfRange: a corner not above zero.

    Formula: 1 / √(1 + (fc/f)^(2n)). Source: textbook.
    """
    require("corner_hz", corner_hz, "Hz")
    found: Floats = 1 / np.sqrt(1 + (corner_hz / np.asarray(frequency_hz)) ** (2 * round(slope_db / 6)))
    return found


def filtered(found: Curves, gain: Floats) -> Curves:
    """Curves behind a filter in front of the amplifier.

    Parameters:
        found: without it.
        gain: [n] what the filter leaves of each frequency.

    Returns:
        response, level, travel and air speed as much less; impedance as it was.

    Source: a linear chain multiplies: textbook.
    """
    less_db = 20 * np.log10(np.maximum(gain, 1e-12))
    return replace(
        found,
        response_db=found.response_db + less_db,
        level_db=found.level_db + less_db,
        excursion_m=found.excursion_m * gain,
        air_speed_m_s=found.air_speed_m_s * gain,
        outlet_travel_m=found.outlet_travel_m * gain,
    )


def headroom(found: Curves, limits: Limits) -> Headroom:
    """The most a driver in a box may get and gives at each frequency.

    Parameters:
        found: curves at some volts, filters counted.
        limits: what is known of heat, travel, vent and supply.

    Returns:
        per frequency the least of the limits, with its name; heat by the nominal load, as ratings go.

    Raises:
        OutOfRange: no limit is known, or one is not above zero.

    Source: everything scales with the volts as long as the model holds: textbook.
    """
    size = len(found.frequency_hz)
    require("nominal_ohm", limits.nominal_ohm, "Ω")
    rows: list[tuple[str, Floats]] = []
    if limits.heat_w is not None:
        require("heat_w", limits.heat_w, "W")
        rows.append(("heat", np.full(size, sqrt(limits.heat_w * limits.nominal_ohm))))
    if limits.volts is not None:
        require("volts", limits.volts, "V")
        rows.append(("volts", np.full(size, limits.volts)))
    moved = (
        ("travel", limits.xmax_m, found.excursion_m),
        ("vent", limits.air_speed_m_s, found.air_speed_m_s),
        ("radiator", limits.radiator_m, found.outlet_travel_m),
    )
    rows += [(name, found.volts * most / np.maximum(curve, 1e-12)) for name, most, curve in moved if most is not None]
    require("limits", len(rows), "limits")
    table = np.array([row for _, row in rows])
    volts = table.min(axis=0)
    names = tuple(rows[int(k)][0] for k in table.argmin(axis=0))
    return Headroom(
        found.frequency_hz,
        volts,
        volts**2 / limits.nominal_ohm,
        found.level_db + 20 * np.log10(volts / found.volts),
        names,
    )


def cabin_gain_db(frequency_hz: Floats, cabin_length_m: float, most_db: float = CABIN_MOST_DB) -> Floats:
    """What a closed cabin adds to a subwoofer's bass.

    Parameters:
        frequency_hz: [n] frequencies [hz].
        cabin_length_m: the longest inner length that sound runs [m].
        most_db: where leaks stop it [db].

    Returns:
        [n] gain [db]; real cars lie within about CABIN_SPREAD_DB of it.

    Raises:
        OutOfRange: a length not above zero.

    Formula: 12 dB an octave below c / (2 L), levelling off at `most_db`. Source: the pressure in a chamber small
    against the wave follows displacement, not acceleration: textbook; corner and limit are common practice.
    """
    require("cabin_length_m", cabin_length_m, "m")
    corner = SOUND_SPEED_M_S / (2 * cabin_length_m)
    squared = np.asarray(frequency_hz) ** 2
    found: Floats = 20 * np.log10((squared + corner**2) / (squared + corner**2 * 10 ** (-most_db / 20)))
    return found
