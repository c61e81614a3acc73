"""Charging: what music takes on average, how long a battery bridges a deficit, what a capacitor does for a burst."""

from __future__ import annotations

from math import exp, sqrt

from ohmack.core.errors import require
from ohmack.core.physics.filters import nearest_preferred

RATE_H = 20.0  # capacities are stated for a discharge over this time


def average_current_a(full_a: float, idle_a: float, share: float, follows_level: bool) -> float:
    """What an amplifier draws on average over music.

    Parameters:
        full_a: at full level, idle current included [a].
        idle_a: idle current [a].
        share: the music's average power over full sine power, above 0 and up to 1.
        follows_level: True for class AB, whose current follows the output's amplitude and not its power.

    Returns:
        current [a].

    Raises:
        OutOfRange: a value outside its range.

    Formula: I_idle + share × (I − I_idle); class AB √share. Source: class B input current is proportional to the output
    amplitude, textbook; a constant efficiency of class D over level is common practice.

    >>> average_current_a(41.0, 1.0, 1 / 8, False)
    6.0
    """
    require("full_a", full_a, "A")
    require("idle_a", idle_a, "A", above=-1e-12, up_to=full_a)
    require("share", share, "", up_to=1)
    return idle_a + (sqrt(share) if follows_level else share) * (full_a - idle_a)


def battery_lasts_h(capacity_ah: float, current_a: float, share: float, exponent: float) -> float:
    """How long a lead battery gives a steady current until some of its charge is gone.

    Parameters:
        capacity_ah: at the 20 h rate [ah].
        current_a: drawn [a].
        share: of the charge, above 0 and up to 1.
        exponent: Peukert's, from 1 up.

    Returns:
        time [h].

    Raises:
        OutOfRange: a value outside its range.

    Formula: share × H × (C / (I H))^k, and for a current below the rated one share × C / I, so that no more than the
    rated capacity is promised. Source: Peukert's law in its form with the rated time.
    """
    require("capacity_ah", capacity_ah, "Ah")
    require("current_a", current_a, "A")
    require("share", share, "", up_to=1)
    require("exponent", exponent, "", above=1 - 1e-12)
    rated_a = capacity_ah / RATE_H
    hours: float = RATE_H * (rated_a / current_a) ** (exponent if current_a > rated_a else 1.0)
    return share * hours


def sag_v(current_a: float, loop_ohm: float, seconds: float, capacitance_f: float = 0.0, own_ohm: float = 0.0) -> float:
    """How far the voltage at an amplifier has fallen when a burst has lasted some time.

    Parameters:
        current_a: of the burst, over what flowed before [a].
        loop_ohm: from the source to the amplifier and back [ohm].
        seconds: how long it has lasted [s].
        capacitance_f: capacitor across the amplifier's terminals; 0 for none [f].
        own_ohm: its own resistance with its leads [ohm].

    Returns:
        voltage [v].

    Raises:
        OutOfRange: a value outside its range.

    Formula: I R (1 − R / (R + r) × e^(−t / ((R + r) C))). Source: step response of R with C and r in series across the
    load, textbook.

    >>> round(sag_v(50.0, 0.01, 0.2), 3), round(sag_v(50.0, 0.01, 0.01, 1.0, 0.002), 3)
    (0.5, 0.319)
    """
    require("current_a", current_a, "A", above=-1e-12)
    require("loop_ohm", loop_ohm, "Ω")
    require("seconds", seconds, "s", above=-1e-12)
    require("capacitance_f", capacitance_f, "F", above=-1e-12)
    require("own_ohm", own_ohm, "Ω", above=-1e-12)
    if capacitance_f == 0:
        return current_a * loop_ohm
    both = loop_ohm + own_ohm
    return current_a * loop_ohm * (1 - loop_ohm / both * exp(-seconds / (both * capacitance_f)))


CHARGED_AFTER = 5.0  # time constants: 99.3 % of the voltage is there


def charging_resistor_ohm(capacitance_f: float, seconds: float) -> float:
    """The resistor a capacitor is charged through before it is joined to a battery.

    Parameters:
        capacitance_f: the capacitor [f].
        seconds: how long charging may take [s].

    Returns:
        the nearest value sold (E12) [ohm].

    Raises:
        OutOfRange: a value not above zero.

    Formula: R = t / (5 C): after five time constants 99.3 % is there. Source: textbook; E12 IEC 60063, from memory.
    """
    require("capacitance_f", capacitance_f, "F")
    require("seconds", seconds, "s")
    return nearest_preferred(seconds / (CHARGED_AFTER * capacitance_f))
