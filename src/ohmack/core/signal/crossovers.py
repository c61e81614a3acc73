"""Crossovers: where the filters of every output are set, and whether the amplifier has them."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.boxes import Box
from ohmack.core.document.factory import ChannelPlace
from ohmack.core.document.handles import at
from ohmack.core.document.links import LineLink, SpeakerLink
from ohmack.core.document.parts import Driver, PoweredSubwoofer, Subwoofer
from ohmack.core.document.policy import CrossoverSchool
from ohmack.core.document.small_parts import SeriesCoil
from ohmack.core.figures.figure import Book, Figure, Formula, Term, fixed, reference
from ohmack.core.loads.corners import corner_of
from ohmack.core.loads.driven import new_driver, tweeter_at
from ohmack.core.loads.drivers import nets_of
from ohmack.core.loads.line_parts import by_size_hz, held_back, tweeter_hz
from ohmack.core.loads.parted import above_the_bass, midrange_at, woofer_at
from ohmack.core.loads.wirings import LoadResult
from ohmack.core.physics.filter_families import high_pass, level_db, low_pass
from ohmack.core.record import record
from ohmack.core.reference import PRACTICE, table
from ohmack.core.signal.ways import arrives_parted, line_into, line_source
from ohmack.core.wording import amount, listed

CHOSEN = Formula("Filter", "hz", "as chosen", float)
USUAL = Formula("Filter", "hz", "the usual for what it feeds", float, PRACTICE)
NEXT = Formula("Filter", "hz", "where the next one above begins", float)
BY_ITS_SIZE = Formula("Filter", "hz", "where the next one above begins, by its size", by_size_hz, PRACTICE)
TUNING = Formula("Subsonic filter", "hz", "at the box's tuning: below it the cone is not held", float, PRACTICE)


def alone_hz(cut_out_mm: float) -> float:
    """The same without a subwoofer: a large one plays further down [hz]. Source: common practice."""
    return full_sound_hz(by_size_hz(cut_out_mm))


def full_sound_hz(by_size_hz: float) -> float:
    """Where a speaker begins that is to sound full, by what its size alone wants [hz]. Source: common practice."""
    large_hz = table("crossovers", "high_pass")["rows"][0][1]
    return float(table("crossovers", "alone")["high_pass_hz"]) if by_size_hz <= large_hz else by_size_hz


def by_school_hz(cut_out_mm: float, school: str) -> float:
    """The usual above a subwoofer: by size, large doors as low as the shop's way lets them [hz]. Source: common
    practice.
    """
    return alone_hz(cut_out_mm) if school == CrossoverSchool.FULL else by_size_hz(cut_out_mm)


BY_SCHOOL = Formula(
    "High-pass", "hz", "by the size of the speaker and the shop's way, a subwoofer below it", by_school_hz, PRACTICE
)
ABOVE_A_WOOFER = Formula(
    "High-pass", "hz", "by the size of the speaker, a woofer of its corner below it", by_size_hz, PRACTICE
)
ALONE = Formula("High-pass", "hz", "by the size of the speaker, which plays the bass itself", alone_hz, PRACTICE)


@record
class Crossover:
    """The filters of one output, or of a powered subwoofer; None where none is wanted."""

    part: Amplifier | PoweredSubwoofer
    scope: str
    name: str  # what it feeds
    high_pass: Figure | None
    low_pass: Figure | None
    link: SpeakerLink | None = None
    line: LineLink | None = None  # what feeds it: the source may filter too
    source_name: str = ""  # where that line begins
    sub: bool = False  # whether a subwoofer plays there: then its high-pass is a subsonic filter

    @property
    def in_source(self) -> tuple[tuple[bool, float, int, str], ...]:
        """The filters set in the source for its line: (whether a high-pass, corner [hz], slope [db], family)."""
        line = self.line
        if line is None:
            return ()
        slope = line.filter_slope_db or USUAL_SLOPE_DB
        family = line.filter_family if line.filter_family != "Linkwitz-Riley" or slope % 12 == 0 else "Butterworth"
        corners = ((True, line.high_pass_hz), (False, line.low_pass_hz))
        return tuple((high, hz, slope, family) for high, hz in corners if hz is not None)

    @property
    def words(self) -> str:
        """How its filters are set, in words; the subsonic filter of a subwoofer is its high-pass."""
        said = [(self.high_pass, "subsonic" if self.sub else "high-pass"), (self.low_pass, "low-pass")]
        return ", ".join(f"{word} {figure.value:.0f} Hz" for figure, word in said if figure and figure.value)

    @property
    def source_words(self) -> str:
        """How the source's filters are set, in words."""
        return ", ".join(f"{'high' if high else 'low'}-pass {hz:.0f} Hz" for high, hz, _, _ in self.in_source)

    @property
    def all_words(self) -> str:
        """How its filters are set, its own first, in words."""
        in_source = f"in {self.source_name}: {self.source_words}" if self.source_words else ""
        return "; ".join(words for words in (self.words, in_source) if words)

    def lost_db(self, hz: float, own: bool = True) -> float:
        """What the filters take off a tone of `hz` on its way [db]: the source's, and with `own` the amplifier's too.

        Formula: magnitudes of the filters in a row. Source: textbook.
        """
        filters = list(self.in_source)
        if own and self.link is not None and isinstance(self.part, Amplifier):
            shape = filter_shape(self.link, self.part)
            corners = ((True, self.high_pass), (False, self.low_pass))
            filters += [(high, figure.value, *shape) for high, figure in corners if figure and figure.value]
        grid = np.array([hz])
        passed = [
            (high_pass if high else low_pass)(grid, corner, slope, family) for high, corner, slope, family in filters
        ]
        return -sum(float(level_db(one)[0]) for one in passed)


def filters_by_device(crossovers: Sequence[Crossover]) -> list[tuple[str, str, str]]:
    """What is set where, as the signal goes: (id and name of what filters, its settings and what they are for in
    words).
    """
    devices: dict[tuple[str, str], dict[str, list[str]]] = {}
    for entry in crossovers:
        if entry.line is not None and entry.source_words:
            settings = devices.setdefault((entry.line.from_id, entry.source_name), {})
            settings.setdefault(entry.source_words, []).append(entry.name)
    for entry in crossovers:
        if entry.words:
            devices.setdefault((entry.part.id, entry.part.name), {}).setdefault(entry.words, []).append(entry.name)
    return [
        (device_id, name, "; ".join(f"{words} for {listed(fed)}" for words, fed in settings.items()))
        for (device_id, name), settings in devices.items()
    ]


def speakers_on_pair(crossovers: Sequence[Crossover], loads: Sequence[LoadResult], line: LineLink) -> list[str]:
    """The places of speakers that play from the output pair a line comes from, subwoofers left out."""
    scopes = {
        entry.scope
        for entry in crossovers
        if entry.line is not None
        and not entry.sub
        and (entry.line.from_id, entry.line.pair) == (line.from_id, line.pair)
    }
    return [link.to_id for load in loads if load.scope in scopes for link in load.links]


FLAT_DB = 0.5  # what takes more off the tone spoils the reading: twice what a meter is good for; common practice


def flat_first(crossovers: Sequence[Crossover], scope: str, hz: float, own: bool = True) -> str:
    """Why the filters of an output are flat while a tone is read there, in words; empty where they hardly touch it.

    Parameters:
        crossovers: of the design.
        scope: the output's.
        hz: the tone [hz].
        own: whether the amplifier's filters are in the way too, or the source's alone.
    """
    entry = next((c for c in crossovers if c.scope == scope), None)
    lost = entry.lost_db(hz, own) if entry is not None else 0.0
    if lost <= FLAT_DB:
        return ""
    return f"Speaker off, filters flat for this: they take {amount(lost, 'db')} off {amount(hz, 'hz')}."


USUAL_SLOPE_DB = 12  # of an amplifier's own filters, common practice


def filter_shape(link: SpeakerLink, amplifier: Amplifier) -> tuple[int, str]:
    """The slope [db an octave] of an output's filters, as set, as its amplifier has it, else the usual; and their
    family, a Butterworth where no Linkwitz-Riley has that slope: a rule says so.
    """
    slope = link.filter_slope_db or amplifier.filter_slope_db or USUAL_SLOPE_DB
    family = link.filter_family if link.filter_family != "Linkwitz-Riley" or slope % 12 == 0 else "Butterworth"
    return slope, family


def slope_term(book: Book, link: SpeakerLink, amplifier: Amplifier) -> Term:
    """The slope of an output's filters as an input, with where it is from."""
    name = f"slope of {amplifier.name}'s filters, an octave"
    if link.filter_slope_db is not None:
        return fixed(name, float(link.filter_slope_db), "db", at(link, lambda it: it.filter_slope_db))
    if amplifier.filter_slope_db is not None:
        return book.part(amplifier, lambda it: it.filter_slope_db, name, "db")
    return reference(name, float(USUAL_SLOPE_DB), "db", PRACTICE)


def _usual(name: str, key: str, words: str) -> Term:
    row = table("crossovers", name)
    return reference(words, float(row[key]), "hz", row["source"])


def _sub_low_pass(book: Book, scope: str, name: str, chosen_hz: float | None = None, path: str = "") -> Figure:
    title = f"Low-pass, {name}"
    if chosen_hz is not None:
        return book.figure(f"{scope}/low_pass_hz", CHOSEN, fixed("chosen", chosen_hz, "hz", path), name=title)
    usual = _usual("subwoofer", "low_pass_hz", "usual for a subwoofer")
    return book.figure(f"{scope}/low_pass_hz", USUAL, usual, name=title)


def _subsonic(book: Book, scope: str, name: str, link: SpeakerLink) -> Figure | None:
    """As chosen, else at the tuning of a vented box; a closed one holds the cone by itself."""
    if link.high_pass_hz is not None:
        chosen = fixed("chosen", link.high_pass_hz, "hz", at(link, lambda it: it.high_pass_hz))
        return book.figure(f"{scope}/high_pass_hz", CHOSEN, chosen, name=f"Subsonic filter, {name}")
    box = next((b for b in book.design.parts_of(Box) if b.box_type == "vented"), None)
    if box is None:
        return None
    tuning = book.part(box, lambda it: it.tuning_hz, "tuned to", "hz")
    return book.figure(f"{scope}/high_pass_hz", TUNING, tuning, name=f"Subsonic filter, {name}")


def _size(book: Book, thing_id: str) -> Term:
    """The cut-out of what sits at a position, the new driver's where there is one."""
    new = new_driver(book.design, thing_id)
    if new is not None:
        return book.part(new, lambda it: it.cut_out_mm, "cut-out it needs", "mm")
    speaker = next(s for s in book.design.vehicle.speakers if s.id == thing_id)
    return book.fact(speaker, lambda it: it.cut_out_mm, f"{speaker.name}: cut-out", "mm")


def _speaker_high_pass(book: Book, load: LoadResult, alone: bool) -> Figure:
    scope, link = load.scope, load.link
    title = f"High-pass, {load.driven_name}"
    if link.high_pass_hz is not None:
        path = at(link, lambda it: it.high_pass_hz)
        return book.figure(f"{scope}/high_pass_hz", CHOSEN, fixed("chosen", link.high_pass_hz, "hz", path), name=title)
    if all(tweeter_at(book.design, k.to_id) for k in load.links):
        usual = _usual("tweeter", "high_pass_hz", "usual for a tweeter")
        return book.figure(f"{scope}/high_pass_hz", USUAL, usual, name=title)
    size = _size(book, next(k.to_id for k in load.links if not tweeter_at(book.design, k.to_id)))
    if all(midrange_at(book.design, k.to_id) for k in load.links):
        return book.figure(f"{scope}/high_pass_hz", ABOVE_A_WOOFER, size, name=title)
    if alone:
        return book.figure(f"{scope}/high_pass_hz", ALONE, size, name=title)
    school = book.policy(lambda it: it.crossover_school, "doors above a subwoofer")
    return book.figure(f"{scope}/high_pass_hz", BY_SCHOOL, size, school, name=title)


def next_above(design: Design, load: LoadResult, loads: Sequence[LoadResult]) -> LoadResult | None:
    """The output that plays on where woofers, or midranges above woofers, have to end: that of the midranges, else of
    the tweeters of their corner. None where nothing plays above them from an output of its own, or something before
    them or in line ends them already.
    """
    ended = {name for part in design.parts_of(SeriesCoil) for name in part.at_ids}
    middle = all(midrange_at(design, link.to_id) for link in load.links)
    for link in load.links:
        new = new_driver(design, link.to_id)
        passive = link.to_id in ended or any(link.to_id in places for places in nets_of(design))
        bare = middle or (woofer_at(design, link.to_id) and not (new is not None and new.own_high_pass))
        if passive or not bare or (new is None and arrives_parted(design, load.amplifier, link.channel)):
            return None
    corners = {corner_of(design, link.to_id) for link in load.links}
    beside = [
        other
        for other in loads
        if other is not load and corners & {corner_of(design, link.to_id) for link in other.links}
    ]
    kinds = (tweeter_at,) if middle else (midrange_at, tweeter_at)
    found = (one for kind in kinds for one in beside if all(kind(design, link.to_id) for link in one.links))
    return next(found, None)


def starts_hz(book: Book, load: LoadResult) -> float | None:
    """Where tweeters or midranges begin [hz]; None where nothing says."""
    formula, term = _start(book, load)
    return None if term.value is None else float(formula.compute(term.value))


def _start(book: Book, load: LoadResult) -> tuple[Formula, Term]:
    """Where tweeters or midranges begin, by the filter that was chosen for them, else as usual: how, and from what."""
    design, link = book.design, load.link
    if link.high_pass_hz is not None:
        return NEXT, fixed("as chosen for it", link.high_pass_hz, "hz", at(link, lambda it: it.high_pass_hz))
    line = line_into(design, load.amplifier.id, link.channel)
    if line is not None and line.high_pass_hz is not None:
        return NEXT, fixed("as set before it", line.high_pass_hz, "hz", at(line, lambda it: it.high_pass_hz))
    if midrange_at(design, link.to_id):
        return BY_ITS_SIZE, _size(book, link.to_id)
    return USUAL, _usual("tweeter", "high_pass_hz", "where its tweeter begins")


def can_end(amplifier: Amplifier, hz: float | None) -> bool:
    """Whether an amplifier has a low-pass for a frequency [hz], as far as its papers say; None is no frequency."""
    if hz is None:
        return False
    low_hz, high_hz = amplifier.low_pass_low_hz, amplifier.low_pass_high_hz
    if low_hz is None or high_hz is None:
        return amplifier.processor
    return low_hz <= hz <= high_hz


def _speaker_low_pass(
    book: Book, load: LoadResult, loads: Sequence[LoadResult], line: LineLink | None
) -> Figure | None:
    """As chosen; else where the next begins, of a woofer or a midrange nothing else ends."""
    scope, link, title = load.scope, load.link, f"Low-pass, {load.driven_name}"
    if link.low_pass_hz is not None:
        path = at(link, lambda it: it.low_pass_hz)
        return book.figure(f"{scope}/low_pass_hz", CHOSEN, fixed("chosen", link.low_pass_hz, "hz", path), name=title)
    above = None if line is not None and line.low_pass_hz is not None else next_above(book.design, load, loads)
    if above is None:
        return None
    if not can_end(load.amplifier, starts_hz(book, above)):
        return None
    return book.figure(f"{scope}/low_pass_hz", *_start(book, above), name=title)


def plays_alone(design: Design) -> bool:
    """Whether no subwoofer is in the plan, nor the car's own driven by it, so that the doors play the bass."""
    driven = any(corner_of(design, link.to_id) is ChannelPlace.SUB for link in design.links_of(SpeakerLink))
    return not driven and not any((*design.parts_of(Subwoofer), *design.parts_of(PoweredSubwoofer)))


def _parted_before(design: Design, load: LoadResult, line: LineLink | None) -> bool:
    """Whether a source parts tweeters or midranges from the rest, so that the amplifier's own filter stays flat."""
    own = load.link.high_pass_hz is not None or not above_the_bass(design, load.links)
    return not own and line is not None and line.high_pass_hz is not None


def _held_in_line(design: Design, load: LoadResult) -> bool:
    """Whether parts in line keep the bass from tweeters whose amplifier has no high-pass that high on file."""
    low_hz, high_hz = load.amplifier.high_pass_low_hz, load.amplifier.high_pass_high_hz
    reaches = load.amplifier.processor if low_hz is None or high_hz is None else low_hz <= tweeter_hz() <= high_hz
    if reaches or load.link.high_pass_hz is not None:
        return False
    held = {speaker.id for speaker in design.vehicle.speakers if held_back(design, speaker)}
    held |= {name for part in design.parts_of(Driver) if part.own_high_pass for name in part.at_ids}
    return all(tweeter_at(design, link.to_id) and link.to_id in held for link in load.links)


def compute_crossovers(book: Book, loads: Sequence[LoadResult]) -> list[Crossover]:
    """The filters of every output with something on it, and of every powered subwoofer.

    Parameters:
        book: the book of the design.
        loads: its outputs.

    Returns:
        one crossover an output; a subwoofer gets a low-pass, and over a vented box a subsonic filter, everything
        else a high-pass by its size, but for tweeters behind a capacitor whose amplifier goes no higher; and a woofer
        or a midrange a low-pass where the next one above begins. Source: starting points by size, common practice.
    """
    design = book.design
    alone = plays_alone(design)
    found = []
    for load in loads:
        link, line = load.link, line_into(design, load.amplifier.id, load.link.channel)
        low: Figure | None
        sub = any(corner_of(design, k.to_id) is ChannelPlace.SUB for k in load.links)  # the car's own too
        if sub:
            path = at(link, lambda it: it.low_pass_hz)
            low = _sub_low_pass(book, load.scope, load.driven_name, link.low_pass_hz, path)
            high = _subsonic(book, load.scope, load.driven_name, link)
        else:
            low = _speaker_low_pass(book, load, loads, line)
            left_flat = _parted_before(design, load, line) or _held_in_line(design, load)
            high = None if left_flat else _speaker_high_pass(book, load, alone)
        source = line_source(design, line.from_id).name if line is not None else ""
        found.append(Crossover(load.amplifier, load.scope, load.driven_name, high, low, link, line, source, sub))
    for flat in design.parts_of(PoweredSubwoofer):
        found.append(Crossover(flat, flat.id, flat.name, None, _sub_low_pass(book, flat.id, flat.name), sub=True))
    return found
