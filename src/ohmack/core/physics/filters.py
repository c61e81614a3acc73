"""First-order filters of one part: a capacitor in series with a speaker; and the values such parts are sold in."""

from __future__ import annotations

from math import floor, log, log10, pi

from ohmack.core.errors import require

E12 = (1.0, 1.2, 1.5, 1.8, 2.2, 2.7, 3.3, 3.9, 4.7, 5.6, 6.8, 8.2)
"""Preferred values a decade. Source: IEC 60063, from memory; the rule behind it is 10^(n/12), rounded."""


def series_capacitor_uf(resistance_ohm: float, corner_hz: float) -> float:
    """The capacitor that makes a first-order high-pass with a load.

    Parameters:
        resistance_ohm: the load, taken as a resistor [ohm].
        corner_hz: where its level has fallen by 3 dB [hz].

    Returns:
        capacitance [uf].

    Raises:
        OutOfRange: a value not above zero.

    Formula: C = 1 / (2 π f R). Source: textbook circuit theory.
    """
    require("resistance_ohm", resistance_ohm, "Ω")
    require("corner_hz", corner_hz, "Hz")
    return 1e6 / (2 * pi * corner_hz * resistance_ohm)


def corner_hz(resistance_ohm: float, capacitance_uf: float) -> float:
    """Where a capacitor in series with a load has taken 3 dB off.

    Parameters:
        resistance_ohm: the load [ohm].
        capacitance_uf: the capacitor [uf].

    Returns:
        frequency [hz].

    Raises:
        OutOfRange: a value not above zero.

    Formula: f = 1 / (2 π R C). Source: textbook circuit theory.
    """
    require("resistance_ohm", resistance_ohm, "Ω")
    require("capacitance_uf", capacitance_uf, "µF")
    return 1e6 / (2 * pi * resistance_ohm * capacitance_uf)


def nearest_preferred(value: float) -> float:
    """The preferred value nearest to one by ratio.

    Parameters:
        value: above zero, in any unit.

    Returns:
        a value of the E12 series in the same unit.

    Raises:
        OutOfRange: not above zero.

    Source: IEC 60063 series E12 (from memory).

    >>> nearest_preferred(133.0), nearest_preferred(9.5)
    (120.0, 10.0)
    """
    require("value", value, "")
    decade: float = 10.0 ** floor(log10(value))
    near = [step * scale for scale in (decade, 10 * decade) for step in E12]
    nearest: float = min(near, key=lambda one: abs(log(one / value)))
    return round(nearest, 9)
