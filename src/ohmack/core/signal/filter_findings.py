"""Rules on where filters are set: lower than a speaker bears, a gap or an overlap between bass and doors."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

import numpy as np

from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.handles import at
from ohmack.core.document.links import SpeakerLink
from ohmack.core.document.parts import Converter
from ohmack.core.document.policy import CrossoverSchool
from ohmack.core.figures.finding import Draft, Remedy, find_part, note, rule, set_to, watch
from ohmack.core.loads.driven import new_driver, tweeter_at
from ohmack.core.loads.line_parts import BEARS, usual_hz
from ohmack.core.loads.parted import midrange_at, woofer_at
from ohmack.core.loads.wirings import LoadResult, what_plays_on
from ohmack.core.physics.filter_families import high_pass, level_db, low_pass
from ohmack.core.physics.signal_chain import db_from_voltage_ratio
from ohmack.core.reference import PHYSICS, PRACTICE
from ohmack.core.signal.crossovers import (
    Crossover,
    filter_shape,
    full_sound_hz,
    next_above,
    plays_alone,
    speakers_on_pair,
    starts_hz,
)
from ohmack.core.signal.equaliser import most_boost
from ohmack.core.wording import amount, count

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

LEAST_LIFT_DB = 1.0  # less is nothing a driver or an amplifier notices; common practice
LOW_HZ = 200.0
STACKED_DB = -4.5  # at the steeper corner: more than one filter's own 3 dB, and a little; common practice
GAP, OVERLAP = 1.5, 0.5  # high-pass over low-pass: farther apart there is a hole, nearer than half both play an octave


@rule("high-pass-low", "signal", PRACTICE)
def high_pass_low(results: Results) -> Iterator[Draft]:
    """An output is set lower than the speaker on it bears."""
    for entry in results.crossovers:
        link = entry.link
        if link is None or link.high_pass_hz is None or entry.sub:
            continue
        links = next((load.links for load in results.loads if load.scope == entry.scope), (link,))
        wants = [hz for k in links if (hz := usual_hz(results.design, k.to_id)) is not None]
        if not wants:
            continue
        by_size_hz = min(wants)  # a tweeter beside a door has its own in line
        full = plays_alone(results.design) or results.design.policy.crossover_school is CrossoverSchool.FULL
        wanted_hz = full_sound_hz(by_size_hz) if full else by_size_hz
        if link.high_pass_hz < min(BEARS * by_size_hz, wanted_hz):
            path = at(link, lambda it: it.high_pass_hz)
            yield watch(
                path,
                f"{entry.name} is set to {link.high_pass_hz:.0f} Hz; its size wants {wanted_hz:.0f} Hz",
                "Below, the cone goes as far as it can and gives nothing for it; a tweeter dies. Set it higher.",
                Remedy("Take the usual", (set_to(path, None),)),
            )


@rule("crossover-apart", "signal", PRACTICE)
def crossover_apart(results: Results) -> Iterator[Draft]:
    """Bass ends far below where the front begins, or both play the same octave."""
    subs = [
        entry
        for entry in results.crossovers
        if entry.sub and _hz(entry, low=True) is not None and entry.link is not None
    ]
    for met in results.meetings:
        bass = next((entry for entry in subs if entry.scope == met.load.scope), None)
        ahead = met.ahead_load.scope if met.ahead_load is not None else None
        front = next((entry for entry in results.crossovers if entry.scope == ahead), None)
        low_hz, high_hz = (_hz(bass, low=True) if bass else None), (_hz(front, low=False) if front else None)
        if low_hz is None or high_hz is None or bass is None or bass.link is None:
            continue
        about = at(bass.link, lambda it: it.low_pass_hz)
        if high_hz > GAP * low_hz:
            yield watch(
                about,
                f"Between {low_hz:.0f} and {high_hz:.0f} Hz neither {bass.name} nor {met.front} plays",
                "A hole where voices have their body. Bring both filters together.",
                Remedy("Look at the filters", sheet="crossing"),
            )
        elif high_hz < OVERLAP * low_hz:
            yield watch(
                about,
                f"{bass.name} and {met.front} both play from {high_hz:.0f} to {low_hz:.0f} Hz",
                "Two sources of one note add up here and cancel there, and bass seems to come from behind. Bring both"
                " filters together, or do it on purpose and listen.",
                Remedy("Look at the filters", sheet="crossing"),
            )


@rule("filters-stacked", "signal", PHYSICS)
def filters_stacked(results: Results) -> Iterator[Draft]:
    """The source filters what the amplifier filters again, near the same corner; once a line."""
    seen: set[str] = set()
    for entry in results.crossovers:
        link, line = entry.link, entry.line
        if link is None or line is None or not isinstance(entry.part, Amplifier):
            continue
        own_shape = filter_shape(link, entry.part)
        for high, hz, slope_db, family in entry.in_source:
            own = entry.high_pass if high else entry.low_pass
            if own is None or own.value is None or (high and entry.sub):
                continue  # a subsonic filter is another matter
            at_hz = max(hz, own.value) if high else min(hz, own.value)
            passed = high_pass if high else low_pass
            grid = np.array([at_hz])
            both = passed(grid, hz, slope_db, family) * passed(grid, own.value, *own_shape)
            level = float(level_db(both)[0])
            handle = at(line, lambda it: it.high_pass_hz) if high else at(line, lambda it: it.low_pass_hz)
            if level > STACKED_DB or handle in seen:
                continue
            seen.add(handle)
            what = "high-pass" if high else "low-pass"
            yield watch(
                handle,
                f"{entry.name}: two {what}es in a row, {hz:.0f} Hz in {entry.source_name}, {own.value:.0f} Hz in"
                f" {entry.part.name}",
                f"Together {amount(level, 'db')} at {at_hz:.0f} Hz, and {slope_db + own_shape[0]} dB an octave beyond."
                " Set one of them flat, or both on purpose.",
                Remedy("Set the source flat", (set_to(handle, None),)),
            )


@rule("treble-twice", "signal", PRACTICE)
def treble_twice(results: Results) -> Iterator[Draft]:
    """A woofer or a midrange plays on where the next one above it begins, which has an output of its own: no filter
    ends it.
    """
    unended: dict[tuple[str, float, bool, str], list[tuple[LoadResult, Crossover]]] = {}  # alike, by what feeds them
    for load in results.loads:
        entry = results.crossover_of(load.scope)
        if entry is None or entry.sub or entry.low_pass is not None or any(not hi for hi, _, _, _ in entry.in_source):
            continue
        above = next_above(results.design, load, results.loads)
        begins_hz = None if above is None else starts_hz(results.book, above)
        if above is None or begins_hz is None:
            continue
        middle, line_id = midrange_at(results.design, above.link.to_id), entry.line.id if entry.line is not None else ""
        unended.setdefault((load.amplifier.id, begins_hz, middle, line_id), []).append((load, entry))
    for (_, begins_hz, middle, _), alike in unended.items():
        hz, which, (load, entry) = f"{begins_hz:.0f} Hz", "midrange" if middle else "tweeter", alike[0]
        there, shared = ("there", "the same voices") if middle else ("that high", "the same treble")
        it = "it" if len(alike) == 1 else "them"
        yield note(
            at(load.link, lambda it: it.low_pass_hz),
            f"{what_plays_on(one for one, _ in alike)}: nothing ends {it} near {hz}, where the {which} begins",
            f"{load.amplifier.name} has no low-pass {there} on file. Both play {shared} and meet unevenly:"
            " a coil in line, a processor, or a woofer that falls off there by itself.",
            _ended_before(results, entry, begins_hz) or find_part("Find a coil", "series coil"),
        )


def _ended_before(results: Results, entry: Crossover, hz: float) -> Remedy | None:
    """To end it in the processor whose pair feeds nothing of another kind but a subwoofer; None without one."""
    line, design = entry.line, results.design
    if line is None or not isinstance(source := design.part(line.from_id), Converter) or source.kind != "processor":
        return None
    fed = speakers_on_pair(results.crossovers, results.loads, line)
    if len({_kind(design, place_id) for place_id in fed}) > 1:
        return None
    return Remedy(f"End it at {hz:.0f} Hz in {source.name}", (set_to(at(line, lambda it: it.low_pass_hz), hz),))


def _kind(design: Design, place_id: str) -> str:
    """What plays in a place, as far as filters go."""
    new = new_driver(design, place_id)
    if tweeter_at(design, place_id):
        return "tweeter"
    lower = new.role if new is not None else "woofer" if woofer_at(design, place_id) else "its own"
    return "midrange" if midrange_at(design, place_id) else lower


@rule("no-such-filter", "signal", PHYSICS)
def no_such_filter(results: Results) -> Iterator[Draft]:
    """A Linkwitz-Riley is two equal Butterworths in a row: there is none with an odd number of 6 dB an octave."""
    for load in results.loads:
        link = load.link
        slope_db, family = filter_shape(link, load.amplifier)
        if family == link.filter_family:
            continue
        path = at(link, lambda it: it.filter_family)
        yield watch(
            path,
            f"{load.channel_name}: no {link.filter_family} has {slope_db} dB an octave",
            f"It comes with 12, 24, 36 or 48 dB. Drawn and summed as a {family}: choose the slope the amplifier has, or"
            f" the {family} it is.",
            Remedy(f"It is a {family}", (set_to(path, family),)),
        )


@rule("boost-costs", "signal", PHYSICS)
def boost_costs(results: Results) -> Iterator[Draft]:
    """A boost takes more than the amplifier has over what the driver is set to."""
    for signal in results.signals:
        for output in signal.outputs:
            link = output.load.link
            hz, lift_db = most_boost(link.bands)
            full, clip = output.figures["full"].value, output.figures["clip"].value
            if lift_db < LEAST_LIFT_DB or full is None or clip is None:
                continue
            room_db = db_from_voltage_ratio(clip / full)
            times = 10 ** (lift_db / 10)
            about = at(link, lambda it: it.bands)
            if lift_db > room_db + LEAST_LIFT_DB:
                yield watch(
                    about,
                    f"{output.load.channel_name}: {amount(lift_db, 'db')} of boost at {hz:.0f} Hz, and"
                    f" {amount(room_db, 'db')} of room",
                    f"There it asks for {times:.1f} times the power, so it clips {amount(lift_db - room_db, 'db')}"
                    " before the rest. Set the gain that much lower, cut what is loud instead, or boost less.",
                    Remedy("Look at the equaliser", path=about),
                )
            elif hz < LOW_HZ:
                yield note(
                    about,
                    f"{output.load.channel_name}: {amount(lift_db, 'db')} of boost at {hz:.0f} Hz takes"
                    f" {times:.1f} times the power there",
                    "The amplifier has it; the cone goes as much further. Look at its travel in the box.",
                    Remedy("Look at the equaliser", path=about),
                )


@rule("delay-nowhere", "signal", PRACTICE)
def delay_nowhere(results: Results) -> Iterator[Draft]:
    """Outputs are to be delayed, and nothing in the plan delays."""
    design = results.design
    delaying = {amplifier.id for amplifier in design.parts_of(Amplifier) if amplifier.processor}
    late = [link for link in design.links_of(SpeakerLink) if link.delay_ms and link.from_id not in delaying]
    if not late or any(part.kind == "processor" for part in design.parts_of(Converter)):
        return
    yield watch(
        at(late[0], lambda it: it.delay_ms),
        f"{count(len(late), 'output')} to be delayed, and no processor in the plan",
        "Some radios delay too: look in its menu. Else take the delays off, or add a processor.",
        Remedy("Take the delays off", tuple(set_to(at(link, lambda it: it.delay_ms), 0.0) for link in late)),
    )


def _hz(entry: Crossover, low: bool) -> float | None:
    figure = entry.low_pass if low else entry.high_pass
    value: float | None = figure.value if figure is not None else None
    return value
