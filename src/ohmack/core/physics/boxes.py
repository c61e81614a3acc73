"""Driver and box as one circuit: what they give at every frequency, how far the cone goes, how fast air leaves a vent.

Volts drive a coil, the coil a cone with mass, spring and loss, the cone the air of a chamber before and behind it; a
chamber is a compliance with a leak and, where it has one, a vent or a passive radiator beside it.
"""

from __future__ import annotations

from math import pi, sqrt

import numpy as np
from numpy.typing import NDArray

from ohmack.core.errors import OutOfRange, require
from ohmack.core.physics.small_signal import (
    AIR_DENSITY_KG_M3,
    AIR_STIFFNESS_PA,
    SOUND_SPEED_M_S,
    SmallSignal,
    checked,
)
from ohmack.core.record import record

Floats = NDArray[np.float64]
Complexes = NDArray[np.complex128]

FLANGED_END, FREE_END = 0.85, 0.613  # of the radius, each end of a vent: textbook
REFERENCE_PA = 20e-6
STEP = 1e-4  # of a frequency, for the slope of the phase


@record
class Vent:
    """Equal vents of a chamber: how many, the area and length of each, and what its ends add."""

    area_m2: float
    length_m: float
    count: int = 1
    ends: float = FLANGED_END + FREE_END

    @property
    def acting_length_m(self) -> float:
        """The length the air in one vent acts with [m]: its own and what moves beyond its ends."""
        return self.length_m + self.ends * sqrt(self.area_m2 / pi)

    @property
    def mass_kg_m4(self) -> float:
        """Acoustic mass of all of them [kg/m⁴]: ρ l / (n S)."""
        return AIR_DENSITY_KG_M3 * self.acting_length_m / (self.count * self.area_m2)

    @property
    def whole_area_m2(self) -> float:
        """Area of all of them [m²]."""
        return self.count * self.area_m2


@record
class Radiator:
    """Equal passive radiators: cone area, moving mass with what was added, compliance as a volume of air, loss."""

    area_m2: float
    mass_kg: float
    vas_m3: float
    qms: float = 7.0
    count: int = 1

    @property
    def whole_area_m2(self) -> float:
        """Area of all of them [m²]."""
        return self.count * self.area_m2


@record
class Chamber:
    """Air before or behind a cone: its volume, what it loses at its tuning, and what opens it."""

    volume_m3: float
    outlet: Vent | Radiator | None = None
    ql: float = 7.0  # leaks at the tuning: usual in a well built box, common practice

    @property
    def compliance_m5_n(self) -> float:
        """Acoustic compliance [m⁵/N]: V / (ρ c²)."""
        return self.volume_m3 / AIR_STIFFNESS_PA

    @property
    def tuning_hz(self) -> float | None:
        """Where its outlet resonates with it [hz]; None for a closed chamber."""
        match self.outlet:
            case Vent() as vent:
                return 1 / (2 * pi * sqrt(vent.mass_kg_m4 * self.compliance_m5_n))
            case Radiator() as cone:
                stiff = 1 / self.compliance_m5_n + AIR_STIFFNESS_PA / (cone.count * cone.vas_m3)
                return sqrt(stiff * cone.count * cone.area_m2**2 / cone.mass_kg) / (2 * pi)
            case _:
                return None


@record
class Enclosure:
    """What stands behind and before a cone; nothing behind it is a wall so large that no sound comes round."""

    rear: Chamber | None
    front: Chamber | None = None

    @property
    def outlet(self) -> Vent | Radiator | None:
        """The vents or radiators it plays through."""
        through = self.front or self.rear
        return through.outlet if through is not None else None


@record
class Curves:
    """What a driver in a box does at each frequency, with some volts on its coil."""

    frequency_hz: Floats
    volts: float
    response_db: Floats  # against its own level far above the box's reach, without the coil's inductance there
    phase_rad: Floats
    level_db: Floats  # sound pressure at 1 m over a floor
    group_delay_s: Floats
    impedance_ohm: Floats
    excursion_m: Floats  # peak, one way
    air_speed_m_s: Floats  # peak, in the vent; at the surface of a passive radiator
    outlet_travel_m: Floats  # peak, of the air or the radiator


@record
class _Motion:
    cone: Complexes  # volume velocity of the cone [m³/s] per volt
    out: Complexes  # of all that reaches the room
    outlet: Complexes
    impedance: Complexes


def _outlet_impedance(outlet: Vent | Radiator, s: Complexes) -> Complexes:
    if isinstance(outlet, Vent):
        return s * outlet.mass_kg_m4
    compliance = outlet.vas_m3 / AIR_STIFFNESS_PA
    mass = outlet.mass_kg / outlet.area_m2**2
    loss = sqrt(mass / compliance) / outlet.qms
    found: Complexes = (s * mass + loss + 1 / (s * compliance)) / outlet.count
    return found


def _chamber(chamber: Chamber, s: Complexes) -> tuple[Complexes, Complexes]:
    """(acoustic impedance a cone sees, share of what it moves that leaves by the outlet)."""
    admittance = s * chamber.compliance_m5_n
    tuning = chamber.tuning_hz
    if tuning is None or chamber.outlet is None:
        return 1 / admittance, np.zeros_like(s)
    through = 1 / _outlet_impedance(chamber.outlet, s)
    leak = 2 * pi * tuning * chamber.compliance_m5_n / chamber.ql
    impedance = 1 / (admittance + leak + through)
    return impedance, impedance * (through + leak)


def _motion(driver: SmallSignal, box: Enclosure, s: Complexes) -> _Motion:
    mechanical = driver.rms_kg_s + s * driver.mms_kg + 1 / (s * driver.cms_m_n)
    front = rear = np.zeros_like(s)
    ahead, behind = np.ones_like(s), np.zeros_like(s)
    if box.front is not None:
        front, ahead = _chamber(box.front, s)
    if box.rear is not None:
        rear, behind = _chamber(box.rear, s)
    mechanical = mechanical + driver.sd_m2**2 * (front + rear)
    electrical = driver.re_ohm + s * driver.le_h
    impedance = electrical + driver.bl_tm**2 / mechanical
    cone = driver.sd_m2 * driver.bl_tm / mechanical / impedance
    outlet = np.zeros_like(s)
    for chamber, air, sign in ((box.front, front, 1.0), (box.rear, rear, -1.0)):
        if chamber is not None and chamber.outlet is not None:
            outlet = outlet + sign * cone * air / _outlet_impedance(chamber.outlet, s)
    return _Motion(cone, cone * (ahead - behind), outlet, impedance)


def _pressure(driver: SmallSignal, s: Complexes, motion: _Motion) -> Complexes:
    """Response against the level of the piston alone far above resonance."""
    far = driver.sd_m2 * driver.bl_tm / (driver.re_ohm * driver.mms_kg)
    return s * motion.out / far


def curves(driver: SmallSignal, box: Enclosure, frequency_hz: Floats, volts: float) -> Curves:
    """What a driver in a box does.

    Parameters:
        driver: its small-signal parameters; several drivers as one, see `together`.
        box: the chambers behind and before it.
        frequency_hz: [n] frequencies, rising [hz].
        volts: on the coil, rms [v].

    Returns:
        curves of [n] values each.

    Raises:
        OutOfRange: a parameter, a volume, an area, a frequency or the volts not above zero.

    Formula: the electro-mechano-acoustic circuit, solved at each frequency; far field over a floor,
    p = ρ f |U| at 1 m. Source: Small 1972 and 1973 (from memory), textbook; holds for small motion.
    """
    checked(driver)
    require("volts", volts, "V")
    for chamber in (box.rear, box.front):
        _check(chamber)
    if not len(frequency_hz) or float(np.min(frequency_hz)) <= 0:
        raise OutOfRange("frequency_hz", 0, "Hz", "above zero")
    s = 2j * pi * np.asarray(frequency_hz, dtype=float)
    motion = _motion(driver, box, s)
    response = _pressure(driver, s, motion)
    ahead, behind = (_pressure(driver, s * k, _motion(driver, box, s * k)) for k in (1 + STEP, 1 - STEP))
    slope = np.angle(ahead / behind) / (2 * STEP * s.imag)
    pressure = np.abs(s * motion.out) * volts * AIR_DENSITY_KG_M3 / (2 * pi)
    outlet = box.outlet
    area = outlet.whole_area_m2 if outlet is not None else 1.0
    peak = sqrt(2) * volts
    return Curves(
        np.asarray(frequency_hz, dtype=float),
        volts,
        20 * np.log10(np.maximum(np.abs(response), 1e-12)),
        np.unwrap(np.angle(response)),
        20 * np.log10(np.maximum(pressure, 1e-12) / REFERENCE_PA),
        -slope,
        np.abs(motion.impedance),
        np.abs(motion.cone / s) / driver.sd_m2 * peak,
        np.abs(motion.outlet) / area * peak,
        np.abs(motion.outlet / s) / area * peak,
    )


def _check(chamber: Chamber | None) -> None:
    if chamber is None:
        return
    require("volume_m3", chamber.volume_m3, "m³")
    require("ql", chamber.ql, "")
    if chamber.outlet is not None:
        require("area_m2", chamber.outlet.area_m2, "m²")
        require("count", chamber.outlet.count, "")
    if isinstance(chamber.outlet, Vent) and chamber.outlet.acting_length_m <= 0:
        raise OutOfRange("length_m", chamber.outlet.length_m, "m", "not below zero")
    if isinstance(chamber.outlet, Radiator):
        require("mass_kg", chamber.outlet.mass_kg, "kg")
        require("vas_m3", chamber.outlet.vas_m3, "m³")


def vent_length_m(
    volume_m3: float, tuning_hz: float, area_m2: float, count: int = 1, ends: float = FLANGED_END + FREE_END
) -> float:
    """How long each vent has to be.

    Parameters:
        volume_m3: net volume of the chamber [m³].
        tuning_hz: wanted tuning [hz].
        area_m2: area of one vent [m²].
        count: equal vents.
        ends: what the ends of one vent add, in its radius.

    Returns:
        length [m]; negative where even a hole in the panel tunes lower than wanted: take more or larger vents.

    Raises:
        OutOfRange: a value not above zero.

    Formula: l = n S c² / ((2 π f)² V) − ends × √(S/π), the end correction per vent. Source: textbook.
    """
    for name, value, unit in (
        ("volume_m3", volume_m3, "m³"),
        ("tuning_hz", tuning_hz, "Hz"),
        ("area_m2", area_m2, "m²"),
    ):
        require(name, value, unit)
    require("count", count, "vents")
    acting = count * area_m2 * SOUND_SPEED_M_S**2 / ((2 * pi * tuning_hz) ** 2 * volume_m3)
    return acting - ends * sqrt(area_m2 / pi)


def lower_reach_hz(found: Curves, below_db: float = 3.0) -> float | None:
    """Where the response has fallen at its lower end.

    Parameters:
        found: curves over the range that matters.
        below_db: how far below its level far above, or below its highest where it never gets there [db].

    Returns:
        frequency [hz], straight between points of the logarithm; None where it lies outside the curves.

    Source: the usual way of stating a box's reach: textbook.
    """
    level = found.response_db
    top = min(0.0, float(level.max()))
    above = np.flatnonzero(level >= top - below_db)
    if not len(above) or above[0] == 0:
        return None
    at = int(above[0])
    low, high = np.log(found.frequency_hz[at - 1]), np.log(found.frequency_hz[at])
    part = (top - below_db - level[at - 1]) / (level[at] - level[at - 1])
    return float(np.exp(low + part * (high - low)))
