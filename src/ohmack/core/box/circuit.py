"""A box of the plan as the circuit it is: its drivers as one, its chambers, what drives them and what they take."""

from __future__ import annotations

from functools import lru_cache
from math import pi, sqrt

import numpy as np

from ohmack.core.document.boxes import Box, Chambers, PassiveRadiators, Stuffing, Vents, VentShape
from ohmack.core.document.parts import Subwoofer
from ohmack.core.errors import OutOfRange
from ohmack.core.physics.alignments import closed_q, tuned_vent
from ohmack.core.physics.box_limits import (
    MOST_AIR_SPEED_M_S,
    Headroom,
    Limits,
    butterworth_high_pass,
    filtered,
    headroom,
)
from ohmack.core.physics.boxes import Chamber, Curves, Enclosure, Radiator, Vent, curves, lower_reach_hz, vent_length_m
from ohmack.core.physics.small_signal import SmallSignal, isobaric, together
from ohmack.core.record import record

PLAYED_HZ = np.geomspace(10.0, 250.0, 128)
JUDGED_FROM_HZ = 25.0  # useful bass begins there; common practice
SUBSONIC_DB = 24.0  # per octave, as most amplifiers have it; common practice
STUFFED = {Stuffing.NONE: 1.0, Stuffing.LIGHT: 1.08, Stuffing.FULL: 1.18}  # acts as so much more air; common practice


@record
class Drive:
    """What stands behind the drivers of a box, all of them together: volts, loads, ratings."""

    volts: float
    nominal_ohm: float
    dc_ohm: float
    takes_w: float


@record
class Solved:
    """A driver in a box at full power: its circuit, its curves with the subsonic filter, and the most it gives."""

    driver: SmallSignal
    enclosure: Enclosure
    plain: Curves  # no filter
    curves: Curves
    most: Headroom
    peak_at: int  # where the cone goes furthest, of the frequencies that are judged
    drive: Drive

    @property
    def full_w(self) -> float:
        """Power at full level, into the nominal load [w]."""
        return self.drive.volts**2 / self.drive.nominal_ohm

    @property
    def xmax_mm(self) -> float | None:
        """How far the cone may go by its papers [mm]; None where they do not say."""
        return None if self.driver.xmax_m is None else 1000 * self.driver.xmax_m

    @property
    def closed_q(self) -> float | None:
        """Q of the driver in a closed box; None in another."""
        rear = self.enclosure.rear
        return None if rear is None or self.enclosure.outlet is not None else closed_q(self.driver, rear.volume_m3)

    def held_w(self, xmax_mm: float) -> float:
        """The power at which the cone goes no further than this [mm], by the square of its travel [w]."""
        return self.full_w * (xmax_mm / self.travel_mm) ** 2

    @property
    def reach_hz(self) -> float | None:
        """Where its own response has fallen by 3 dB [hz]."""
        return lower_reach_hz(self.plain)

    @property
    def hump_db(self) -> float:
        """How far it rises over its level far above [db]."""
        return max(0.0, float(self.plain.response_db.max()))

    @property
    def travel_mm(self) -> float:
        """How far the cone goes one way at full power [mm]."""
        return 1000 * float(self.curves.excursion_m[self.peak_at])

    @property
    def travel_at_hz(self) -> float:
        """Where that is [hz]."""
        return float(self.curves.frequency_hz[self.peak_at])

    @property
    def air_speed_m_s(self) -> float | None:
        """The fastest the air in a vent gets [m/s]; None without a vent."""
        if not isinstance(self.enclosure.outlet, Vent):
            return None
        return float(self.curves.air_speed_m_s[_judged()].max())

    @property
    def clean_w(self) -> float:
        """The power it takes at every frequency that is judged [w]."""
        return float(self.most.power_w[_judged()].min())

    @property
    def loudest_db(self) -> float:
        """The most at 40 Hz, at 1 m over a floor [db]."""
        return float(np.interp(np.log(40.0), np.log(self.most.frequency_hz), self.most.level_db))


def _judged() -> slice:
    return slice(int(np.searchsorted(PLAYED_HZ, JUDGED_FROM_HZ)), int(np.searchsorted(PLAYED_HZ, 120.0)))


def small_signal(subs: tuple[Subwoofer, ...], chambers: Chambers, drive: Drive) -> SmallSignal | None:
    """The drivers of a box as one.

    Parameters:
        subs: equal drivers.
        chambers: how they share the box.
        drive: what stands behind them.

    Returns:
        one driver with the whole area and the load as it is wired; None where the papers lack a parameter.

    Raises:
        OutOfRange: an odd number in isobaric pairs.

    Source: textbook; losses and resonance do not change with the wiring.
    """
    first = subs[0]
    if first.fs_hz is None or first.qms is None or first.qes is None or first.vas_l is None or first.sd_cm2 is None:
        return None
    coils = [coil.impedance_ohm for coil in first.coils]
    le_h = (first.le_mh or 0.0) / 1000 * drive.nominal_ohm / sum(coils) * len(subs)
    travel = first.xmax_mm / 1000 if first.xmax_mm is not None else None
    own = SmallSignal(
        first.fs_hz, first.qms, first.qes, first.vas_l / 1000, first.sd_cm2 / 10_000, drive.dc_ohm * len(subs), le_h,
        travel,
    )  # fmt: skip
    if chambers is not Chambers.ISOBARIC:
        return together(own, len(subs))
    if len(subs) % 2:
        raise OutOfRange("number of drivers", len(subs), "", "an even number in isobaric pairs")
    return together(isobaric(own), len(subs) // 2)


def papers_of(sub: Subwoofer) -> tuple[object, ...]:
    """What must be equal in two drivers that are alike."""
    return sub.fs_hz, sub.qms, sub.qes, sub.vas_l, sub.sd_cm2, sub.xmax_mm, sub.le_mh, sub.coils


def vent_area_m2(vents: Vents) -> float | None:
    """Area of one vent [m²]; None where its size is not known."""
    if vents.shape is VentShape.ROUND:
        return None if vents.diameter_mm is None else round_area_cm2(vents.diameter_mm) / 10_000
    if vents.width_mm is None or vents.height_mm is None:
        return None
    return slot_area_cm2(vents.width_mm, vents.height_mm) / 10_000


def round_area_cm2(diameter_mm: float) -> float:
    """Area of a round vent [cm²]."""
    return pi * (diameter_mm / 20) ** 2


def slot_area_cm2(width_mm: float, height_mm: float) -> float:
    """Area of a slot [cm²]."""
    return width_mm * height_mm / 100


def length_wanted_mm(tuning_hz: float, area_cm2: float, count: int, air_l: float) -> float:
    """How long each of some vents has to be for a tuning [mm]; see `vent_length_m`."""
    return 1000 * vent_length_m(air_l / 1000, tuning_hz, area_cm2 / 10_000, count)


def opens(box: Box) -> bool:
    """Whether it is a box with vents."""
    return box.box_type in ("vented", "bandpass")


def vent_mm(box: Box) -> float | None:
    """How long each vent of a box is [mm]: as stated, else as its tuning wants; None where neither is known."""
    area, air_l = vent_area_m2(box.vents), 1000 * opened_m3(box)
    if box.vents.length_mm is not None:
        return box.vents.length_mm
    if not opens(box) or area is None or box.tuning_hz is None or not air_l:
        return None
    return length_wanted_mm(box.tuning_hz, 10_000 * area, box.vents.count, air_l)


def opened_m3(box: Box) -> float:
    """Net volume of the chamber the vents or radiators open [m³]."""
    litres = box.front_volume_l if box.box_type == "bandpass" else box.net_volume_l
    return (litres or 0.0) / 1000


def _vent(box: Box, air_m3: float) -> Vent | None:
    """The vents of a box; of one acting metre where only their tuning is known."""
    area, length_mm = vent_area_m2(box.vents), vent_mm(box)
    if area is None:
        return None if box.tuning_hz is None else tuned_vent(air_m3, box.tuning_hz)
    if length_mm is None:
        return None
    if length_mm < 0:
        raise OutOfRange("vent length", round(length_mm), "mm", "zero or more: take more or larger vents")
    return Vent(area, length_mm / 1000, box.vents.count)


def _radiator(radiators: PassiveRadiators) -> Radiator | None:
    if radiators.area_cm2 is None or radiators.mass_g is None or radiators.air_l is None:
        return None
    return Radiator(radiators.area_cm2 / 10_000, radiators.mass_g / 1000, radiators.air_l / 1000, count=radiators.count)


def enclosure_of(box: Box) -> Enclosure | None:
    """A box as chambers.

    Parameters:
        box: the box of the plan.

    Returns:
        what stands behind and before the cones; None where something is not known.

    Raises:
        OutOfRange: vents that would have to be shorter than nothing.

    Source: stuffing acts as more air: common practice.
    """
    air = box.net_volume_l / 1000 * STUFFED[box.stuffing]
    if box.box_type in ("closed", "free air"):
        return Enclosure(Chamber(air))
    if box.box_type == "passive radiator":
        cone = _radiator(box.radiators)
        return None if cone is None else Enclosure(Chamber(air, cone))
    opened = opened_m3(box)
    if not opened:
        return None
    vent = _vent(box, opened)
    if vent is None:
        return None
    if box.box_type == "vented":
        return Enclosure(Chamber(air, vent))
    return Enclosure(Chamber(air), Chamber(opened, vent))


@lru_cache(maxsize=256)
def solved(
    driver: SmallSignal, enclosure: Enclosure, drive: Drive, subsonic_hz: float | None, radiator_mm: float | None,
    vent_known: bool,
) -> Solved:  # fmt: skip
    """A driver in a box at full power.

    Parameters:
        driver: the drivers as one.
        enclosure: the chambers.
        drive: volts, loads, ratings.
        subsonic_hz: corner of a subsonic filter; None without one.
        radiator_mm: travel of the passive radiators; None where it is not known.
        vent_known: whether the vent is one of its real size, not only of its tuning.

    Returns:
        curves over PLAYED_HZ, with and without the filter, and the most at each frequency.

    Raises:
        OutOfRange: a parameter that is not above zero.

    Source: textbook.
    """
    plain = curves(driver, enclosure, PLAYED_HZ, drive.volts)
    found = plain
    if subsonic_hz is not None:
        found = filtered(plain, butterworth_high_pass(PLAYED_HZ, subsonic_hz, SUBSONIC_DB))
    vented = isinstance(enclosure.outlet, Vent) and vent_known
    limits = Limits(
        drive.takes_w, drive.nominal_ohm, driver.xmax_m, MOST_AIR_SPEED_M_S if vented else None,
        radiator_m=radiator_mm / 1000 if radiator_mm is not None else None,
    )  # fmt: skip
    judged = _judged()
    peak = judged.start + int(found.excursion_m[judged].argmax())
    return Solved(driver, enclosure, plain, found, headroom(found, limits), peak, drive)


def drive_of(volts: float, load_ohm: float, dc_ohm: float, takes_w: float, outputs: float) -> Drive:
    """What stands behind the drivers of a box, where each of some equal outputs drives as many of them.

    Parameters:
        volts: at full level, rms [v].
        load_ohm: nominal load of one output [ohm].
        dc_ohm: the same with DC resistances [ohm].
        takes_w: what everything on one output takes [w].
        outputs: how many; a part of one where it drives further boxes too.

    Returns:
        all of them in parallel.

    Source: textbook circuit theory.
    """
    return Drive(volts, load_ohm / outputs, dc_ohm / outputs, takes_w * outputs)


def full_level_v(power_w: float, takes_w: float, load_ohm: float) -> float:
    """Volts at full level: the smaller of what the amplifier gives and the drivers take, into the nominal load [v]."""
    return sqrt(min(power_w, takes_w) * load_ohm)
