"""The impedance of a speaker over frequency, with what lies in line before it: coil, capacitor, inductance, pad."""

from __future__ import annotations

from math import pi

import numpy as np
from numpy.typing import NDArray

from ohmack.core.errors import require
from ohmack.core.record import record

Floats = NDArray[np.float64]
Complexes = NDArray[np.complex128]


@record
class Motion:
    """The moving part of a driver as its terminals see it: resonance and its losses."""

    fs_hz: float
    qms: float
    qes: float


@record
class Before:
    """What lies in line with a speaker; nothing of a kind is None or 0."""

    capacitance_f: float | None = None
    inductance_h: float = 0.0
    resistance_ohm: float = 0.0
    pad_ohm: tuple[float, float] | None = None  # in line, across the speaker

    @property
    def nothing(self) -> bool:
        """Whether there is none of it."""
        return self.capacitance_f is None and not self.inductance_h and self.pad_ohm is None


def speaker_ohm(
    hz: Floats, resistance_ohm: float, inductance_h: float = 0.0, motion: Motion | None = None
) -> Complexes:
    """The impedance of a driver in free air.

    Parameters:
        hz: frequencies [hz].
        resistance_ohm: of its coil: DC resistance, or nominal impedance where no more is known [ohm].
        inductance_h: of its coil [h].
        motion: resonance, mechanical and electrical Q; None leaves it out.

    Returns:
        impedance [ohm], one a frequency.

    Raises:
        OutOfRange: a resistance or a parameter of the motion not above zero.

    Formula: Re + jωL + Re (Qms/Qes) · (jx/Qms) / (1 − x² + jx/Qms), x = f / fs. Source: Thiele 1971 and Small 1972,
    from memory; the coil's loss that grows with frequency is left out.
    """
    require("resistance_ohm", resistance_ohm, "Ω")
    found: Complexes = np.asarray(resistance_ohm + 2j * pi * hz * inductance_h, dtype=np.complex128)
    if motion is not None:
        for name, value in (("fs_hz", motion.fs_hz), ("qms", motion.qms), ("qes", motion.qes)):
            require(name, value, "Hz" if name == "fs_hz" else "")
        x = hz / motion.fs_hz
        peak_ohm = resistance_ohm * motion.qms / motion.qes
        found = found + peak_ohm * (1j * x / motion.qms) / (1 - x**2 + 1j * x / motion.qms)
    return found


def behind(hz: Floats, own_ohm: Complexes, before: Before) -> tuple[Complexes, Complexes]:
    """A speaker with what lies in line before it.

    Parameters:
        hz: frequencies [hz].
        own_ohm: impedance of the speaker [ohm].
        before: what lies in line.

    Returns:
        (impedance of all of it [ohm], voltage at the speaker over the voltage put in), one a frequency.

    Source: textbook circuit theory.
    """
    across = own_ohm
    in_line: Complexes = np.asarray(before.resistance_ohm + 0j * hz, dtype=np.complex128)
    if before.pad_ohm is not None:
        series_ohm, shunt_ohm = before.pad_ohm
        across = own_ohm * shunt_ohm / (own_ohm + shunt_ohm)
        in_line = in_line + series_ohm
    in_line = in_line + 2j * pi * hz * before.inductance_h
    if before.capacitance_f is not None:
        in_line = in_line + 1 / (2j * pi * hz * before.capacitance_f)
    whole = in_line + across
    return whole, across / whole


def falls_at_hz(hz: Floats, level_db: Floats, under_db: float = 3.0) -> float | None:
    """Where a high-pass has fallen from its level at the top.

    Parameters:
        hz: frequencies, rising [hz].
        level_db: level at each [db].
        under_db: how far under its highest level over the upper decade [db].

    Returns:
        the highest frequency at which it falls under, between two points straight in level over the logarithm of
        frequency [hz]; None where it never does. Below, a resonance may lift it again.

    Source: definition of a corner: textbook.
    """
    top = float(level_db[hz >= hz[-1] / 10].max()) - under_db
    below = np.nonzero(level_db < top)[0]
    if not len(below) or below[-1] == len(hz) - 1:
        return None
    n = int(below[-1])
    share = (top - level_db[n]) / (level_db[n + 1] - level_db[n])
    return float(hz[n] * (hz[n + 1] / hz[n]) ** share)
