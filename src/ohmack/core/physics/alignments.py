"""Boxes proposed for a driver: closed ones by their Q, vented ones flat, or the best tuning of a given volume."""

from __future__ import annotations

from math import pi, sqrt

import numpy as np

from ohmack.core.errors import OutOfRange, require
from ohmack.core.physics.boxes import Chamber, Enclosure, Vent, curves, lower_reach_hz
from ohmack.core.physics.small_signal import SOUND_SPEED_M_S, SmallSignal, checked
from ohmack.core.record import record

BESSEL_Q, BUTTERWORTH_Q = 1 / sqrt(3), 1 / sqrt(2)  # second-order responses: textbook
MOST_HUMP_DB = 3.0  # what an installer accepts for reach in a small box; common practice
RANGE_HZ = np.geomspace(8.0, 400.0, 180)


@record
class VentedAlignment:
    """Volume and tuning of a vented box."""

    volume_m3: float
    tuning_hz: float
    reach_hz: float
    peak_db: float


def closed_q(driver: SmallSignal, volume_m3: float) -> float:
    """Q of a driver in a closed box.

    Parameters:
        driver: small-signal parameters.
        volume_m3: net volume, stuffing counted [m³].

    Returns:
        Qtc.

    Raises:
        OutOfRange: a value not above zero.

    Formula: Qts √(1 + Vas/V). Source: Small 1972 (from memory).
    """
    checked(driver)
    require("volume_m3", volume_m3, "m³")
    return driver.qts * sqrt(1 + driver.vas_m3 / volume_m3)


def closed_resonance_hz(driver: SmallSignal, volume_m3: float) -> float:
    """Resonance of a driver in a closed box.

    Parameters:
        driver: small-signal parameters.
        volume_m3: net volume, stuffing counted [m³].

    Returns:
        fc [hz].

    Raises:
        OutOfRange: a value not above zero.

    Formula: fs √(1 + Vas/V). Source: Small 1972 (from memory).
    """
    return driver.fs_hz * closed_q(driver, volume_m3) / driver.qts


def closed_volume_m3(driver: SmallSignal, q: float) -> float:
    """The closed box that gives a driver a wanted Q.

    Parameters:
        driver: small-signal parameters.
        q: wanted Qtc.

    Returns:
        net volume [m³].

    Raises:
        OutOfRange: no closed box has a Q at or below the driver's own.

    Formula: Vas / ((Qtc/Qts)² − 1). Source: Small 1972 (from memory).
    """
    checked(driver)
    if q <= driver.qts:
        raise OutOfRange("q", q, "", f"above the driver's own {driver.qts:.2f}: every box raises it")
    return driver.vas_m3 / ((q / driver.qts) ** 2 - 1)


def flat_vented(driver: SmallSignal, ql: float = 7.0) -> VentedAlignment:
    """The vented box whose response is as flat as a fourth order can be with this driver.

    Parameters:
        driver: small-signal parameters, total Q up to about 0.4.
        ql: what the box loses.

    Returns:
        volume, tuning, reach.

    Raises:
        OutOfRange: a driver of so high a Q that no such box is flat; `tuned_for` finds the best of a volume.

    Formula: the two highest terms of |G|² vanish (quasi third-order Butterworth; a full fourth order where the last
    one does too). Source: Small 1973 (from memory).
    """
    checked(driver)
    q = driver.qts

    def terms(h: float) -> tuple[float, float, float]:
        root = sqrt(h) * ql * q
        return (ql + h * q) / root, ((ql + h * q) / root) ** 2 / 2, (h * ql + q) / root

    def off(h: float) -> float:
        a1, a2, a3 = terms(h)
        return a2 * a2 + 2 - 2 * a1 * a3

    low, high = 0.3, 8.0
    if q >= 0.9 or off(low) * off(high) > 0:
        raise OutOfRange("qts", q, "", "up to about 0.4 for a flat vented box")
    for _ in range(80):
        middle = (low + high) / 2
        low, high = (middle, high) if off(low) * off(middle) > 0 else (low, middle)
    h = (low + high) / 2
    alpha = (terms(h)[1] * h * ql * q - h) / (ql * q) - 1 - h * h
    _, a2, a3 = terms(h)
    if alpha <= 0 or a3 * a3 < 2 * a2 * (1 - 1e-3):  # beyond the Butterworth one every such box has a hump
        raise OutOfRange("qts", q, "", "up to about 0.4 for a flat vented box")
    return _measured(driver, driver.vas_m3 / alpha, h * driver.fs_hz, ql)


def tuned_vent(volume_m3: float, tuning_hz: float) -> Vent:
    """A vent by its tuning alone: the one that acts with a metre of length.

    Parameters:
        volume_m3: net volume of its chamber [m³].
        tuning_hz: its tuning [hz].

    Returns:
        a vent; only its mass enters a response, speed and travel in it mean nothing.

    Raises:
        OutOfRange: a value not above zero.

    Source: textbook.
    """
    require("volume_m3", volume_m3, "m³")
    require("tuning_hz", tuning_hz, "Hz")
    return Vent((2 * pi * tuning_hz / SOUND_SPEED_M_S) ** 2 * volume_m3, 1.0, 1, 0.0)


def tuned_box(volume_m3: float, tuning_hz: float, ql: float = 7.0) -> Enclosure:
    """A vented box by its volume and tuning.

    Parameters:
        volume_m3: net volume [m³].
        tuning_hz: its tuning [hz].
        ql: what it loses.

    Returns:
        an enclosure with a vent as `tuned_vent` makes it.

    Raises:
        OutOfRange: a value not above zero.

    Source: textbook.
    """
    return Enclosure(Chamber(volume_m3, tuned_vent(volume_m3, tuning_hz), ql))


def _measured(driver: SmallSignal, volume_m3: float, tuning_hz: float, ql: float) -> VentedAlignment:
    found = curves(driver, tuned_box(volume_m3, tuning_hz, ql), RANGE_HZ, 1.0)
    reach = lower_reach_hz(found)
    return VentedAlignment(volume_m3, tuning_hz, reach or float("nan"), float(found.response_db.max()))


def tuned_for(driver: SmallSignal, volume_m3: float, ql: float = 7.0) -> VentedAlignment:
    """The tuning that reaches lowest in a given volume.

    Parameters:
        driver: small-signal parameters.
        volume_m3: net volume [m³].
        ql: what the box loses.

    Returns:
        volume, tuning, reach; where every tuning has a hump, the one with the least.

    Raises:
        OutOfRange: a value not above zero.

    Source: search over tunings from half to twice the driver's resonance, a hump of MOST_HUMP_DB allowed.
    """
    checked(driver)
    require("volume_m3", volume_m3, "m³")
    tried = [
        _measured(driver, volume_m3, tuning, ql) for tuning in (driver.fs_hz * np.geomspace(0.5, 2.0, 49)).tolist()
    ]
    flat = [one for one in tried if one.peak_db <= MOST_HUMP_DB and one.reach_hz == one.reach_hz]
    if flat:
        return min(flat, key=lambda one: one.reach_hz)
    return min(tried, key=lambda one: one.peak_db)
