"""Baseline: what the car reads before anything is changed, each reading judged."""

from __future__ import annotations

from ohmack.core.document import Basis
from ohmack.core.document.factory import Radio, RadioChannel
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.vehicle import Speaker, Vehicle
from ohmack.core.figures.figure import Book, Figure, Formula
from ohmack.core.loads.driven import DC_HIGH, DC_LOW
from ohmack.core.loads.nominals import nominal_by_pair
from ohmack.core.physics.baseline import (
    BASS_BELOW_HZ,
    bass_lost_db,
    clean_rows,
    joined_ohm,
    last_clean_of,
    standby_days,
)
from ohmack.core.record import record
from ohmack.core.reference import PRACTICE

STANDBY = Formula(
    "Until the battery may not start the engine",
    "days",
    "half the rated capacity / standby current / 24",
    standby_days,
    PRACTICE,
)


HEARD_PERCENT = 1.0  # of harmonics on a sine: the shop's detector lights up about there, common practice


@record
class PairReading:
    """One pair: what its speakers should read together, what was read, and what that means."""

    channel: RadioChannel
    path: str
    speakers: tuple[Speaker, ...]
    read_ohm: float | None
    verdict: str
    good: bool | None

    @property
    def should_read_ohm(self) -> tuple[float, float] | None:
        """(from, to) of what its speakers read together by their nominals [ohm]; None where one is not known."""
        expected = _expected_ohm(self.speakers)
        return (DC_LOW * expected, DC_HIGH * expected) if expected is not None else None


@record
class VolumeSweep:
    """The readings of one tone over the volume steps."""

    tone_hz: float
    rows: tuple[tuple[float, float], ...]
    last_clean: float | None
    distorted: tuple[tuple[float, float], ...] = ()  # (step, harmonics in percent), as recorded
    outliers: tuple[float, ...] = ()  # steps whose readings do not fit the others

    @property
    def clean_by_recording(self) -> float | None:
        """The last step before harmonics come to a percent; None where none was recorded, or all are distorted."""
        clean = None
        for step, percent in self.distorted:
            if percent > HEARD_PERCENT:
                break
            clean = step
        return clean


@record
class Baseline:
    """All baseline readings."""

    pairs: tuple[PairReading, ...]
    sweeps: tuple[VolumeSweep, ...]
    bass_lost: tuple[tuple[float, float], ...]  # (step, dB) against the quietest step
    standby: Figure | None

    @property
    def bass_change_db(self) -> float:
        """How the bass moved against the midrange from the quietest to the loudest step read [db]; 0 where nothing
        was lost.
        """
        return -self.bass_lost[-1][1] if self.bass_lost else 0.0


def _behind_capacitor(speakers: tuple[Speaker, ...]) -> bool:
    return bool(speakers) and all(s.own_capacitor.value for s in speakers)


def _judge_pair(
    expected: float | None, read: float | None, channel: RadioChannel, speakers: tuple[Speaker, ...]
) -> tuple[str, bool | None]:
    if read is None:
        if channel.reaches.value is False:
            return "leads nowhere: run fresh wire or take another pair", False
        return "not read yet", None
    if channel.reaches.value is False:
        return "reads something, yet is said to lead nowhere: one of the two is wrong", False
    if _behind_capacitor(speakers):
        return "reads through a capacitor that blocks direct current: look for another speaker on this pair", False
    if expected is None:
        return "no speaker known behind it", None
    if read < DC_LOW * expected:
        if len(speakers) == 1 and read >= DC_LOW * expected / 2:
            return "half of nominal: a second speaker in parallel, or coils in parallel", False
        return "too low: a short to the door, or more speakers than known", False
    if read > DC_HIGH * expected:
        if read <= 2 * DC_HIGH * expected:
            return "too high: speakers in series, a poor plug, or another nominal", False
        return "nearly open: a broken coil, a plug that is off, or a tweeter alone", False
    return "fits", True


def _expected_ohm(speakers: tuple[Speaker, ...]) -> float | None:
    """The nominal load of some speakers on one pair as a meter sees it; None where one of them is not known."""
    seen = [s for s in speakers if not s.own_capacitor.value]  # a capacitor hides its speaker from the meter
    nominal = [s.impedance_ohm.value for s in seen]
    known = [z for z in nominal if z is not None]
    in_series = any(s.pairing == "series" and s.paired_with_id for s in seen)
    return joined_ohm(known, in_series) if known and len(known) == len(nominal) else None


def _another_nominal(vehicle: Vehicle, speakers: tuple[Speaker, ...]) -> tuple[str, bool] | None:
    """The verdict on a factory subwoofer that reads as one of another nominal than was assumed."""
    nominal = nominal_by_pair(vehicle, speakers[0]) if len(speakers) == 1 else None
    if nominal is None or nominal == speakers[0].impedance_ohm.value:
        return None
    return f"as a {nominal:g} Ω speaker reads; what is on file was only assumed", True


def _pairs(book: Book) -> tuple[PairReading, ...]:
    vehicle = book.design.vehicle
    rows = []
    for output in vehicle.sources:
        base = at_the(Radio) if output is vehicle.radio else at(output)
        for channel in output.channels:
            speakers = tuple(s for s in vehicle.speakers if s.channel_id == channel.id)
            read = channel.pair_resistance_ohm.value
            expected = _expected_ohm(speakers) if read is not None else None  # what nobody read rests on nothing
            verdict, good = _another_nominal(vehicle, speakers) or _judge_pair(expected, read, channel, speakers)
            rows.append(
                PairReading(
                    channel,
                    f"{base}/channels/{channel.id}",
                    speakers,
                    read,
                    verdict,
                    good,
                )
            )  # fmt: skip
    return tuple(sorted(rows, key=lambda row: not row.speakers))  # pairs that drive something first


def _sweeps(book: Book) -> tuple[VolumeSweep, ...]:
    tones: dict[float, tuple[list[tuple[float, float]], list[tuple[float, float]]]] = {}
    for reading in book.design.vehicle.volume_steps:
        rows, distorted = tones.setdefault(reading.tone_hz, ([], []))
        if reading.voltage_v.value is not None:
            rows.append((reading.step, reading.voltage_v.value))
        if reading.distortion_percent is not None:
            distorted.append((reading.step, reading.distortion_percent))
    return tuple(_sweep(tone, rows, distorted) for tone, (rows, distorted) in sorted(tones.items()))


def _sweep(tone_hz: float, rows: list[tuple[float, float]], distorted: list[tuple[float, float]]) -> VolumeSweep:
    kept, outliers = clean_rows(rows)
    return VolumeSweep(tone_hz, tuple(sorted(rows)), last_clean_of(kept), tuple(sorted(distorted)), outliers)


def compute_baseline(book: Book) -> Baseline:
    """Baseline readings of the car."""
    supply = book.design.vehicle.supply
    sweeps = _sweeps(book)
    bass = next((s for s in sweeps if s.tone_hz < BASS_BELOW_HZ), None)
    mid = next((s for s in sweeps if s.tone_hz >= BASS_BELOW_HZ), None)
    lost = bass_lost_db(dict(bass.rows), dict(mid.rows)) if bass and mid else {}
    standby = None
    battery = supply.batteries[0]
    if supply.standby_current_a.basis is not Basis.ASSUMED:
        standby = book.figure(
            "supply/standby_days",
            STANDBY,
            book.fact(battery, lambda it: it.capacity_ah, "capacity, 20 h rate", "ah"),
            book.fact(supply, lambda it: it.standby_current_a, "standby current", "a"),
        )
    return Baseline(_pairs(book), sweeps, tuple(sorted(lost.items())), standby)
