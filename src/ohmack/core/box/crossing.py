"""Where a subwoofer meets the speakers in front: both ways through their filters and its box, and what they sum to."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

import numpy as np

from ohmack.core.box.arrivals import away
from ohmack.core.box.judged import BoxResult
from ohmack.core.document.factory import ChannelPlace
from ohmack.core.document.handles import at
from ohmack.core.figures.figure import Book, Figure, Formula, Reading, Term, fixed
from ohmack.core.loads.corners import corner_of
from ohmack.core.loads.parted import above_the_bass
from ohmack.core.loads.wirings import LoadResult
from ohmack.core.physics.bench_wiring import BenchWiring
from ohmack.core.physics.filter_families import Complexes, Floats, delayed, high_pass, level_db, low_pass
from ohmack.core.physics.small_signal import SOUND_SPEED_M_S
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS
from ohmack.core.signal.crossovers import Crossover, filter_shape, slope_term
from ohmack.core.signal.equaliser import bands_response

MET_HZ = np.geomspace(20.0, 500.0, 121)
EVERY_HZ = np.geomspace(20.0, 20_000.0, 181)
SUBSONIC_SHAPE = 24, "Butterworth"  # of a subsonic filter, common practice
NEAR_OCTAVE = 1.5  # the sum is looked at from the crossing over this to the crossing times this


@record(eq=False)
class Meeting:
    """A subwoofer against the front: what each gives, their sum, and the sum with the subwoofer reversed."""

    load: LoadResult
    ahead_load: LoadResult | None  # None where the radio drives the front
    front: str
    sub: Complexes
    ahead: Complexes
    boxed: bool  # whether its box's response is in it
    later: Figure | None  # how much later the subwoofer is heard, by the plan; None without places
    crossing: Figure
    dip: Figure
    reversed_dip: Figure

    @property
    def whole(self) -> Complexes:
        """Both together, as they are wired."""
        return self.sub + self.ahead

    @property
    def reversed(self) -> Complexes:
        """Both together, the subwoofer with its polarity reversed."""
        return self.ahead - self.sub

    @property
    def better_so(self) -> bool:
        """Whether it sums better as it is wired than reversed."""
        dip, reversed_dip = self.dip.value, self.reversed_dip.value
        return dip is not None and reversed_dip is not None and bool(dip > reversed_dip)


MEETS = Reading(
    "They meet at", "hz", "the highest frequency at which the subwoofer is as loud; its low-pass where it never is",
    lambda both: _crossing_hz(*both), PHYSICS,
)  # fmt: skip
DIP = Reading(
    "Lowest of the sum round the crossing", "db",
    "20 log₁₀ |subwoofer + front|, filters, box and distance counted, from the crossing / 1.5 to × 1.5",
    lambda whole: float(level_db(whole).min()), PHYSICS,
)  # fmt: skip
REVERSED_DIP = Reading("The same, the subwoofer reversed", "db", "20 log₁₀ |front − subwoofer|", DIP.take, PHYSICS)
LATER = Formula(
    "The subwoofer is heard later by", "ms", "1000 (its way − the front's) / 343.2",
    lambda sub_m, front_m: 1000 * (sub_m - front_m) / SOUND_SPEED_M_S, PHYSICS,
)  # fmt: skip


@lru_cache(maxsize=128)
def _passed(high: bool, corner_hz: float, slope_db: int, family: str, everywhere: bool) -> Complexes:
    hz = EVERY_HZ if everywhere else MET_HZ
    return (high_pass if high else low_pass)(hz, corner_hz, slope_db, family)


def filtered(load: LoadResult, entry: Crossover | None, everywhere: bool = False) -> Complexes:
    """An output's filters and equaliser together, without what hangs on it.

    Parameters:
        load: the output.
        entry: its filters; None where none are wanted.
        everywhere: over EVERY_HZ; else over MET_HZ.

    Returns:
        complex response, one a frequency.

    Source: linear chains multiply: textbook.
    """
    found = bands_response(load.link.bands, EVERY_HZ if everywhere else MET_HZ)
    if entry is None:
        return found
    for high, hz, slope_db, family in entry.in_source:
        found = found * _passed(high, hz, slope_db, family, everywhere)
    shape = filter_shape(load.link, load.amplifier)
    if entry.low_pass is not None and entry.low_pass.value is not None:
        found = found * _passed(False, entry.low_pass.value, *shape, everywhere)
    if entry.high_pass is not None and entry.high_pass.value is not None:
        steep = SUBSONIC_SHAPE if entry.sub else shape
        found = found * _passed(True, entry.high_pass.value, *steep, everywhere)
    return found


READ_HZ = (20, 31.5, 50, 63, 80, 100, 125, 160, 250, 500, 1000, 2000, 4000, 8000, 16_000)  # of thirds of an octave


def read_off(response: Complexes) -> tuple[float, ...]:
    """The level of a response over EVERY_HZ at READ_HZ [db]. Source: straight between points over the octaves."""
    return tuple(float(level) for level in np.interp(np.log(READ_HZ), np.log(EVERY_HZ), level_db(response)))


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
    subs = [load for load in loads if load.chosen.stays and load.scope in of and of[load.scope].sub]
    front = _front(book, loads, of) if subs else None
    return [] if front is None else [_met(book, load, of[load.scope], front, boxes) for load in subs]


_FRONT = (ChannelPlace.FRONT_LEFT, ChannelPlace.FRONT_RIGHT)


@record(eq=False)
class _Front:
    """What plays in front: an amplifier's output, else the car's own front pair from the radio."""

    load: LoadResult | None
    name: str
    response: Complexes
    away: Figure | None
    terms: tuple[Term | Figure, ...]


def _front(book: Book, loads: Sequence[LoadResult], of: dict[str, Crossover]) -> _Front | None:
    design = book.design
    ahead = [one for one in loads if corner_of(design, one.link.to_id) in _FRONT]
    load = next((one for one in ahead if not above_the_bass(design, one.links)), None) or next(iter(ahead), None)
    if load is not None:
        entry = of.get(load.scope)
        response, terms = _played(book, load, entry)
        return _Front(load, load.driven_name, response, book.figures.get(f"{load.scope}/away_m"), terms)
    pair = next((s for s in design.vehicle.speakers if corner_of(design, s.id) in _FRONT), None)
    if pair is None:
        return None
    plain = np.ones(len(MET_HZ), dtype=np.complex128)
    return _Front(None, f"{pair.name}, from the radio", plain, away(book, pair.id, [pair.id], pair.name), ())


def _played(book: Book, load: LoadResult, entry: Crossover | None) -> tuple[Complexes, tuple[Term | Figure, ...]]:
    """(what an output's filters, equaliser, delay and polarity make of its signal, what that rests on)."""
    link = load.link
    response = filtered(load, entry) * _sign(load) * delayed(MET_HZ, link.delay_ms)
    terms: list[Term | Figure] = [p for p in (entry.low_pass, entry.high_pass) if p is not None] if entry else []
    terms.append(slope_term(book, link, load.amplifier))
    if entry is not None and entry.line is not None and entry.in_source:
        line = entry.line
        paths = {True: at(line, lambda it: it.high_pass_hz), False: at(line, lambda it: it.low_pass_hz)}
        terms += [
            fixed(f"{load.driven_name}, in {entry.source_name}", hz, "hz", paths[high])
            for high, hz, _, _ in entry.in_source
        ]
    if link.delay_ms:
        terms.append(fixed(f"{load.driven_name}, delayed by", link.delay_ms, "ms", at(link, lambda it: it.delay_ms)))
    if link.bands:
        many = float(len(link.bands))
        terms.append(fixed(f"{load.driven_name}, equaliser bands", many, "", at(link, lambda it: it.bands)))
    return response, tuple(terms)


def _met(book: Book, load: LoadResult, entry: Crossover, front: _Front, boxes: Sequence[BoxResult]) -> Meeting:
    sub, own_terms = _played(book, load, entry)
    terms: list[Term | Figure] = [*own_terms, *front.terms]
    own = next((one for one in boxes if one.solved is not None and load.link.to_id in {s.id for s in one.subs}), None)
    if own is not None and own.solved is not None:
        plain = own.solved.plain
        grid, at_ = np.log(plain.frequency_hz), np.log(np.clip(MET_HZ, plain.frequency_hz[0], plain.frequency_hz[-1]))
        level, phase = np.interp(at_, grid, plain.response_db), np.interp(at_, grid, plain.phase_rad)
        sub = sub * 10 ** (level / 20) * np.exp(1j * phase)
        terms += [own.reach] if own.reach is not None else []
    later, sub_away = None, book.figures.get(f"{load.scope}/away_m")
    if sub_away is not None and front.away is not None:
        later = book.figure(f"{load.scope}/later_ms", LATER, sub_away, front.away)
        sub = sub * delayed(MET_HZ, later.value or 0.0)
        terms.append(later)
    corner_hz = entry.low_pass.value if entry.low_pass is not None else None
    both = level_db(sub), level_db(front.response), corner_hz or float(MET_HZ[0])
    crossing = book.reading(f"{load.scope}/crossing_hz", MEETS, both, *terms)
    at_hz = float(np.clip(_crossing_hz(*both), MET_HZ[0], MET_HZ[-1]))  # a corner may lie outside of what is heard
    near = (at_hz / NEAR_OCTAVE <= MET_HZ) & (at_hz * NEAR_OCTAVE >= MET_HZ)
    dip = book.reading(f"{load.scope}/crossing_dip_db", DIP, (sub + front.response)[near], *terms)
    other = book.reading(f"{load.scope}/crossing_reversed_db", REVERSED_DIP, (front.response - sub)[near], *terms)
    return Meeting(load, front.load, front.name, sub, front.response, own is not None, later, crossing, dip, other)


def _sign(load: LoadResult) -> int:
    """−1 where an output is wired the other way round as a whole."""
    wiring = load.chosen.wiring
    return -1 if isinstance(wiring, BenchWiring) and set(wiring.polarity.values()) == {-1} else 1


def _crossing_hz(sub_db: Floats, front_db: Floats, low_pass_hz: float) -> float:
    """Where the front takes over: the highest frequency at which the subwoofer is as loud; its corner where it never
    is.
    """
    louder = np.nonzero(sub_db >= front_db)[0]
    return float(MET_HZ[louder[-1]]) if len(louder) else low_pass_hz
