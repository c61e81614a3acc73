"""What an input takes off a line, and what its cable takes off the treble; a transformer's bass."""

from __future__ import annotations

from math import log10, pi

from ohmack.core.errors import require
from ohmack.core.physics.signal_chain import db_from_voltage_ratio


def loading_db(output_ohm: float, input_ohm: float) -> float:
    """What is left of a line's level once an input hangs on it.

    Parameters:
        output_ohm: of the source [ohm].
        input_ohm: of everything that hangs on it, in parallel [ohm].

    Returns:
        level against the open output [db], at most 0.

    Raises:
        OutOfRange: an impedance not above zero.

    Formula: 20 log10(Z_in / (Z_in + Z_out)). Source: textbook circuit theory.

    >>> round(loading_db(1000.0, 10_000.0), 2)
    -0.83
    """
    require("output_ohm", output_ohm, "ohm")
    require("input_ohm", input_ohm, "ohm")
    return db_from_voltage_ratio(input_ohm / (input_ohm + output_ohm))


def cable_corner_hz(output_ohm: float, input_ohm: float, length_m: float, cable_pf: float) -> float:
    """Where a line's cable takes 3 dB off the treble.

    Parameters:
        output_ohm: of the source [ohm].
        input_ohm: of the input [ohm].
        length_m: cable [m].
        cable_pf: capacitance of a metre, in picofarads.

    Returns:
        corner [hz].

    Raises:
        OutOfRange: an impedance, a length or a capacitance not above zero.

    Formula: 1 / (2 pi R C), R the two impedances in parallel. Source: textbook circuit theory.
    """
    for name, value, unit in (("output_ohm", output_ohm, "ohm"), ("input_ohm", input_ohm, "ohm"),
                              ("length_m", length_m, "m"), ("cable_pf", cable_pf, "pF/m")):  # fmt: skip
        require(name, value, unit)
    both_ohm = 1 / (1 / output_ohm + 1 / input_ohm)
    return 1 / (2 * pi * both_ohm * length_m * cable_pf * 1e-12)


def high_pass_loss_db(hz: float, corner_hz: float) -> float:
    """What a first-order roll-off takes off, as a transformer in the bass.

    Parameters:
        hz: where [hz].
        corner_hz: where it is 3 dB down [hz].

    Returns:
        loss [db], at least 0.

    Raises:
        OutOfRange: a frequency not above zero.

    Formula: 10 log10(1 + (corner / f)^2). Source: textbook circuit theory.
    """
    require("hz", hz, "hz")
    require("corner_hz", corner_hz, "hz")
    return 10 * log10(1 + (corner_hz / hz) ** 2)
