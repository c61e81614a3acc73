"""Where a subwoofer meets the speakers in front: both ways through their filters and its box, and what they sum to."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

import numpy as np

from ohmack.core.box.arrivals import away_m
from ohmack.core.box.judged import BoxResult
from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.boxes import Box
from ohmack.core.document.factory import ChannelPlace
from ohmack.core.document.facts import Position
from ohmack.core.document.links import SpeakerLink
from ohmack.core.figures.figure import Book, Figure, Reading, Term, reference
from ohmack.core.loads.corners import corner_of
from ohmack.core.loads.wirings import LoadResult
from ohmack.core.physics.bench_wiring import BenchWiring
from ohmack.core.physics.filter_families import Complexes, Floats, delayed, high_pass, level_db, low_pass
from ohmack.core.physics.small_signal import SOUND_SPEED_M_S
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS, PRACTICE
from ohmack.core.signal.crossovers import Crossover
from ohmack.core.signal.equaliser import bands_response

MET_HZ = np.geomspace(20.0, 500.0, 121)
USUAL_SLOPE_DB = 12  # of an amplifier's own filters, common practice
SUBSONIC_DB = 24
NEAR_OCTAVE = 1.5  # the sum is looked at from the crossing over this to the crossing times this


@record(eq=False)
class Meeting:
    """A subwoofer against the front: what each gives, their sum, and the sum with the subwoofer turned round."""

    load: LoadResult
    front: str
    sub: Complexes
    ahead: Complexes
    boxed: bool  # whether its box's response is in it
    later_ms: float | None  # how much later the subwoofer is heard, by the plan; None without places
    at_hz: float
    dip: Figure
    turned_dip: Figure

    @property
    def whole(self) -> Complexes:
        """Both together, as they are wired."""
        return self.sub + self.ahead

    @property
    def turned(self) -> Complexes:
        """Both together, the subwoofer the other way round."""
        return self.ahead - self.sub

    @property
    def better_so(self) -> bool:
        """Whether it sums better as it is wired than turned round."""
        dip, turned = self.dip.value, self.turned_dip.value
        return dip is not None and turned is not None and bool(dip > turned)

    @property
    def around(self) -> slice:
        """The frequencies round the crossing."""
        low, high = self.at_hz / NEAR_OCTAVE, self.at_hz * NEAR_OCTAVE
        return slice(int(np.searchsorted(MET_HZ, low)), int(np.searchsorted(MET_HZ, high)))


DIP = Reading(
    "Lowest of the sum round the crossing", "db",
    "20 log₁₀ |subwoofer + front|, filters, box and distance counted, from the crossing / 1.5 to × 1.5",
    lambda whole: float(level_db(whole).min()), PHYSICS,
)  # fmt: skip
TURNED_DIP = Reading("The same, the subwoofer turned round", "db", "20 log₁₀ |front − subwoofer|", DIP.take, PHYSICS)


def slope_of(link: SpeakerLink, amplifier: Amplifier) -> int:
    """The slope of an output's filters: as set, as its amplifier has it, else the usual [db an octave]."""
    return link.filter_slope_db or amplifier.filter_slope_db or USUAL_SLOPE_DB


@record(eq=False)
class OutputFilters:
    """An output's filters and equaliser together, without what hangs on it."""

    load: LoadResult
    response: Complexes


def output_filters(loads: Sequence[LoadResult], crossovers: Sequence[Crossover], hz: Floats) -> list[OutputFilters]:
    """Every output's filters as they are set.

    Parameters:
        loads: every output with what it drives.
        crossovers: their filters.
        hz: frequencies [hz].

    Returns:
        one entry an output with a filter, a band or both.

    Source: linear chains multiply: textbook.
    """
    of = {entry.scope: entry for entry in crossovers}
    found = []
    for load in loads:
        entry = of.get(load.scope)
        response = bands_response(load.link.bands, hz)
        if entry is not None and entry.low_pass is not None and entry.low_pass.value is not None:
            response = response * low_pass(hz, entry.low_pass.value, *_shape(load))
        if entry is not None and entry.high_pass is not None and entry.high_pass.value is not None:
            slope, family = (SUBSONIC_DB, "Butterworth") if entry.low_pass is not None else _shape(load)
            response = response * high_pass(hz, entry.high_pass.value, slope, family)
        found.append(OutputFilters(load, response))
    return found


def compute_meetings(
    book: Book, loads: Sequence[LoadResult], crossovers: Sequence[Crossover], boxes: Sequence[BoxResult]
) -> list[Meeting]:
    """Every amplified subwoofer against the speakers in front.

    Parameters:
        book: the book of the design.
        loads: every output with what it drives.
        crossovers: their filters.
        boxes: what the boxes do.

    Returns:
        one entry an output with a subwoofer; none without anything in front to meet.

    Source: linear chains multiply and add with phase: textbook. Speakers in front are taken as flat.
    """
    of = {entry.scope: entry for entry in crossovers}
    fronts = [load for load in loads if corner_of(book.design, load.link.to_id) in _FRONT]
    front = next(iter(fronts), None)
    found = []
    for load in loads:
        entry = of.get(load.scope)
        if entry is None or entry.low_pass is None or entry.low_pass.value is None or not load.chosen.stays:
            continue
        met = _met(book, load, entry, front, of.get(front.scope) if front is not None else None, boxes)
        if met is not None:
            found.append(met)
    return found


_FRONT = (ChannelPlace.FRONT_LEFT, ChannelPlace.FRONT_RIGHT)


def _met(
    book: Book, load: LoadResult, entry: Crossover, front: LoadResult | None, ahead: Crossover | None,
    boxes: Sequence[BoxResult],
) -> Meeting | None:  # fmt: skip
    design = book.design
    named = _front_of(design, front)
    if named is None or entry.low_pass is None:
        return None
    front_name, front_place = named
    sub = _below(entry.low_pass.value, *_shape(load))
    terms: list[Term | Figure] = [entry.low_pass]
    if entry.high_pass is not None and entry.high_pass.value is not None:
        sub = sub * _over(entry.high_pass.value, SUBSONIC_DB)
        terms.append(entry.high_pass)
    own = next((one for one in boxes if one.solved is not None and load.link.to_id in {s.id for s in one.subs}), None)
    if own is not None and own.solved is not None:
        plain = own.solved.plain
        grid, at = np.log(plain.frequency_hz), np.log(np.clip(MET_HZ, plain.frequency_hz[0], plain.frequency_hz[-1]))
        level, phase = np.interp(at, grid, plain.response_db), np.interp(at, grid, plain.phase_rad)
        sub = sub * 10 ** (level / 20) * np.exp(1j * phase)
        terms += [own.reach] if own.reach is not None else []
    sub = sub * _sign(load) * delayed(MET_HZ, load.link.delay_ms) * bands_response(load.link.bands, MET_HZ)
    other: Complexes = np.ones_like(sub)
    if front is not None and ahead is not None and ahead.high_pass is not None and ahead.high_pass.value is not None:
        other = _over(ahead.high_pass.value, *_shape(front)) * _sign(front)
        other = other * delayed(MET_HZ, front.link.delay_ms) * bands_response(front.link.bands, MET_HZ)
        terms.append(ahead.high_pass)
    later_ms = _later_ms(design, load, front_place)
    if later_ms is not None:
        sub = sub * delayed(MET_HZ, later_ms)
        terms.append(reference("the subwoofer is heard later by, ms", later_ms, "", PRACTICE))
    at_hz = _crossing_hz(level_db(sub), level_db(other), entry.low_pass.value)
    near = (at_hz / NEAR_OCTAVE <= MET_HZ) & (at_hz * NEAR_OCTAVE >= MET_HZ)
    dip = book.reading(f"{load.scope}/crossing_dip_db", DIP, (sub + other)[near], *terms)
    turned = book.reading(f"{load.scope}/crossing_turned_db", TURNED_DIP, (other - sub)[near], *terms)
    return Meeting(load, front_name, sub, other, own is not None, later_ms, at_hz, dip, turned)


@lru_cache(maxsize=64)
def _below(corner_hz: float, slope_db: int, family: str = "Butterworth") -> Complexes:
    return low_pass(MET_HZ, corner_hz, slope_db, family)


@lru_cache(maxsize=64)
def _over(corner_hz: float, slope_db: int, family: str = "Butterworth") -> Complexes:
    return high_pass(MET_HZ, corner_hz, slope_db, family)


def _shape(load: LoadResult) -> tuple[int, str]:
    slope, family = slope_of(load.link, load.amplifier), load.link.filter_family
    if family == "Linkwitz-Riley" and slope % 12:
        family = "Butterworth"
    return slope, family


def _sign(load: LoadResult) -> int:
    """−1 where an output is wired the other way round as a whole."""
    wiring = load.chosen.wiring
    return -1 if isinstance(wiring, BenchWiring) and set(wiring.polarity.values()) == {-1} else 1


def _front_of(design: Design, front: LoadResult | None) -> tuple[str, Position] | None:
    """What plays in front, by name and place: an amplifier's output, else the car's own front pair."""
    speakers = design.vehicle.speakers
    if front is not None:
        place = next((s.position for s in speakers if s.id == front.link.to_id), None)
        return None if place is None else (front.driven_name, place)
    pair = next((s for s in speakers if corner_of(design, s.id) in _FRONT), None)
    return None if pair is None else (f"{pair.name}, from the radio", pair.position)


def _later_ms(design: Design, load: LoadResult, front: Position) -> float | None:
    """How much farther the subwoofer is from the driver's head than the front speaker, as time."""
    box = next(design.parts_of(Box), None)
    place = box.position if box is not None else None
    if place is None:
        return None
    return 1000 * (away_m(design, place) - away_m(design, front)) / SOUND_SPEED_M_S


def _crossing_hz(sub_db: Floats, front_db: Floats, low_pass_hz: float) -> float:
    """Where the front takes over: the highest frequency at which the subwoofer is as loud; its corner where it never
    is.
    """
    louder = np.nonzero(sub_db >= front_db)[0]
    return float(MET_HZ[louder[-1]]) if len(louder) else low_pass_hz
