"""A box's curves at the usual frequencies, as a table."""

from __future__ import annotations

import numpy as np

from ohmack.core.box.circuit import Solved
from ohmack.core.physics.boxes import Floats
from ohmack.core.record import record

THIRDS_HZ = (20.0, 25.0, 31.5, 40.0, 50.0, 63.0, 80.0, 100.0, 125.0, 160.0, 200.0)
"""Thirds of octaves in the bass. Source: IEC 61260 nominal frequencies, from memory."""


@record
class Sample:
    """What a box gives at one frequency, at full level and at most."""

    hz: float
    level_db: float
    most_db: float
    travel_mm: float
    air_m_s: float
    impedance_ohm: float
    delay_ms: float


def samples(solved: Solved) -> tuple[Sample, ...]:
    """A box's curves, third by third.

    Parameters:
        solved: the driver in the box at full power.

    Returns:
        one row a third of an octave from 20 to 200 Hz, straight between computed points over log frequency.
    """
    at = np.log(np.array(THIRDS_HZ))
    grid = np.log(solved.curves.frequency_hz)

    def read(values: Floats) -> list[float]:
        return [float(value) for value in np.interp(at, grid, values)]

    curves = solved.curves
    columns = (
        read(curves.level_db), read(solved.most.level_db), read(1000 * curves.excursion_m), read(curves.air_speed_m_s),
        read(curves.impedance_ohm), read(1000 * curves.group_delay_s),
    )  # fmt: skip
    return tuple(Sample(hz, *row) for hz, row in zip(THIRDS_HZ, zip(*columns, strict=True), strict=True))
