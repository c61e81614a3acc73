"""Signal: levels from the source to the cone in dBV, gains, and what a meter must show."""

from __future__ import annotations

from math import log10, sqrt

from ohmack.core.errors import require


def db_from_voltage_ratio(ratio: float) -> float:
    """Level of a voltage ratio in dB.

    Raises:
        OutOfRange: the ratio is not above zero.

    >>> round(db_from_voltage_ratio(2), 2)
    6.02
    """
    require("ratio", ratio, "")
    return 20 * log10(ratio)


def voltage_ratio_from_db(level_db: float) -> float:
    """Voltage ratio of a level.

    Parameters:
        level_db: level [db].
    """
    return float(10 ** (level_db / 20))


def dbv(voltage_v: float) -> float:
    """Level of an rms voltage re 1 V.

    Parameters:
        voltage_v: rms voltage [v].

    Returns:
        level [dbv].

    Raises:
        OutOfRange: the voltage is not above zero.
    """
    return db_from_voltage_ratio(voltage_v)


def rms_from(voltage_v: float, stated_as: str) -> float:
    """The rms value of a sine stated as rms or peak.

    Parameters:
        voltage_v: stated voltage [v].
        stated_as: "rms" or "peak".

    Returns:
        rms voltage [v].

    Formula: peak / sqrt(2). Source: textbook circuit theory.
    """
    return voltage_v / sqrt(2) if stated_as == "peak" else voltage_v


def target_voltage_v(full_scale_v: float, tone_dbfs: float, overlap_db: float) -> float:
    """What a meter at the amplifier output must show while a tone plays at the top volume.

    Parameters:
        full_scale_v: sqrt(P Z), P the smaller of amplifier and driver power [v].
        tone_dbfs: level of the test tone [dbfs], 0 or below.
        overlap_db: how far recorded music is trusted to stay below full scale [db], 0 or above.

    Returns:
        target, rms [v], never above full_scale_v.

    Raises:
        OutOfRange: a voltage not above zero, a tone above full scale, an overlap below zero.

    Formula: sqrt(P Z) 10^((tone + overlap)/20), at most sqrt(P Z). Source: common practice.
    """
    require("full_scale_v", full_scale_v, "V")
    require("tone_dbfs", tone_dbfs, "dBFS", above=-60.000001, up_to=0)
    require("overlap_db", overlap_db, "dB", above=-0.000001, up_to=20)
    return full_scale_v * min(1.0, voltage_ratio_from_db(tone_dbfs + overlap_db))
