"""Rules on outputs whose load changes over frequency, and on what is in line with nothing."""

from __future__ import annotations

from collections.abc import Iterator
from math import sqrt
from typing import TYPE_CHECKING

from ohmack.core.document.handles import at
from ohmack.core.document.small_parts import SeriesCapacitor, SeriesCoil
from ohmack.core.factory.over_frequency import Branch
from ohmack.core.figures.finding import Draft, Remedy, note, rule, stop, watch
from ohmack.core.loads.beside import Beside
from ohmack.core.loads.wirings import LoadResult
from ohmack.core.reference import PHYSICS, PRACTICE, Grade, Source
from ohmack.core.wording import amount, listed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

DIPS = Source("IEC 60268-5, 80 % of the nominal impedance (from memory); consequence common practice", Grade.PRACTICE)
TREBLE_HZ = 1000.0  # over it music has a small part of its power; common practice
BASS_HZ = 200.0  # below it about half of the power of music lies; common practice


@rule("load-dips", "loads", DIPS)
def load_dips(results: Results) -> Iterator[Draft]:
    """With what is in line, the load falls under what the output may drive in some part of the range."""
    for swept in results.over_frequency:
        least, lowest_ohm, bears_ohm = swept.least.value, swept.lowest_ohm, swept.bears_ohm
        if least is None or lowest_ohm is None or bears_ohm is None or least >= bears_ohm:
            continue
        from_hz = swept.under_from_hz(bears_ohm)
        draft, deep = (watch, True) if from_hz < BASS_HZ else (note, False)
        yield draft(
            swept.about,
            f"The load on {swept.name} falls to {amount(least, 'ohm')} from about {amount(from_hz, 'hz')} up",
            f"It may drive {amount(lowest_ohm, 'ohm')}; capacitors let the speakers beside each other there. "
            + (
                "Much of the power lies there: it may shut down. Other values, or a channel of their own."
                if deep
                else "Little power lies there, and the coils soften it; some outputs mind all the same."
            ),
            Remedy("Look at the loads", sheet="loads"),
        )


@rule("resonance-lifts", "loads", PHYSICS)
def resonance_lifts(results: Results) -> Iterator[Draft]:
    """Resonance and capacitor lift the bass again that the capacitor was to keep out."""
    alike: dict[tuple[str, str, str], list[Branch]] = {}  # left and right of a pair are said once
    for swept in results.over_frequency:
        for branch in swept.branches:
            lifted, part = branch.comes_back, branch.in_line.capacitor
            if lifted is not None and part is not None:
                alike.setdefault((part.id, f"{lifted[0]:.0f}", f"{lifted[1]:.1f}"), []).append(branch)
    for branches in alike.values():
        (hz, level_db), part = branches[0].comes_back or (0.0, 0.0), branches[0].in_line.capacitor
        if part is None:
            continue
        side, many = "over" if level_db >= 0 else "under", len(branches) > 1
        names = listed(
            [branch.speaker.name if not n else branch.speaker.name.lower() for n, branch in enumerate(branches)]
        )
        yield watch(
            f"{part.id}/{branches[0].speaker.id}",
            f"{names} still play{'' if many else 's'} at {amount(hz, 'hz')}: {amount(abs(level_db), 'db')} {side} the"
            " output",
            f"Near resonance the impedance is high, and with {part.name} it swings up under the corner of"
            f" {amount(branches[0].corner_hz or 0.0, 'hz')}. Set the amplifier's high-pass over it, or take a smaller"
            " capacitor.",
            Remedy("Look at the capacitor", path=at(part)),
        )


@rule("capacitor-rating", "loads", PHYSICS)
def capacitor_rating(results: Results) -> Iterator[Draft]:
    """A capacitor before a speaker is rated for less than the amplifier swings."""
    worst: dict[str, tuple[float, SeriesCapacitor, LoadResult]] = {}
    for load in results.loads:
        full_v = load.full_scale.value
        for part in results.design.parts_of(SeriesCapacitor) if full_v is not None else ():
            before = {driven.id for driven in (*load.driven, *load.beside)} & set(part.at_ids)
            if before and full_v * sqrt(2) > max(part.rated_v, worst.get(part.id, (0.0,))[0]):
                worst[part.id] = full_v * sqrt(2), part, load
    for peak_v, part, load in worst.values():
        yield stop(
            part.id,
            f"{part.name} is rated for {amount(part.rated_v, 'v')}, {load.channel_name} swings to"
            f" {amount(peak_v, 'v')}",
            "In the bass all of it lies across the capacitor. Take one rated higher.",
            Remedy("Look at the part", path=at(part)),
        )


@rule("beside-power", "loads", PRACTICE)
def beside_power(results: Results) -> Iterator[Draft]:
    """A speaker beside others behind a capacitor gets more than the usual share of what it takes."""
    high = results.design.policy.match_high
    corners = {
        (swept.scope, branch.speaker.id): corner.value
        for swept in results.over_frequency
        for branch, corner in swept.corners
    } | {
        (swept.scope, branch.speaker.id): branch.in_line.usual_hz
        for swept in results.over_frequency
        for branch in swept.branches
        if branch.in_line.usual_hz is not None
    }
    alike: dict[tuple[str, str], list[Beside]] = {}  # left and right of a pair are said once
    for one in results.beside:
        if one.match.value is not None and one.match.value > 100 * high:
            alike.setdefault((one.driven.path, f"{one.match.value:.1f}"), []).append(one)
    for found in alike.values():
        one = found[0]
        corner_hz = corners.get((one.load.scope, one.driven.id))
        treble = corner_hz is not None and corner_hz >= TREBLE_HZ
        yield (note if treble else watch)(
            one.power.id,
            f"{one.driven.name} can get {results.say(one.power.value, 'w')}, {one.match.value:.0f} % of what it takes",
            f"It hangs beside {listed([d.name for d in one.load.driven])} and has the whole voltage over its"
            " capacitor's corner. "
            + (
                "Music has little power up there; a full-level tone or hard clipping has."
                if treble
                else "Much of the music's power lies there. A smaller capacitor, a pad, or a channel of its own with"
                " its own gain."
            ),
            Remedy("Look at the part", path=one.driven.path),
        )


@rule("in-line-idle", "loads", PRACTICE)
def in_line_idle(results: Results) -> Iterator[Draft]:
    """A capacitor or a coil is planned and sits in line with nothing."""
    used = {entry.part.id for entry in results.line_capacitors if entry.part is not None}
    for swept in results.over_frequency:
        for branch in swept.branches:
            used |= {part.id for part in (branch.in_line.capacitor, branch.in_line.coil) if part is not None}
    driven = {drive.speaker.id for drive in results.drives if drive.driven}
    parts: tuple[SeriesCapacitor | SeriesCoil, ...] = (
        *results.design.parts_of(SeriesCapacitor),
        *results.design.parts_of(SeriesCoil),
    )
    for part in parts:
        if part.id in used or driven & set(part.at_ids):
            continue
        yield stop(
            part.id,
            f"{part.name} is in line with nothing",
            "Say which output pair or which speaker it goes into; its load decides the corner.",
            Remedy("Say where", path=at(part)),
        )


@rule("coil-power", "loads", PRACTICE)
def coil_power(results: Results) -> Iterator[Draft]:
    """A coil in line carries more than it is rated for."""
    for part in results.design.parts_of(SeriesCoil):
        over = [
            load
            for load in results.loads
            if load.power.value is not None
            and load.power.value > part.rated_w
            and set(part.at_ids) & {driven.id for driven in load.driven}
        ]
        if over:
            most = max(over, key=lambda load: load.power.value)
            yield watch(
                part.id,
                f"{part.name} carries {amount(part.rated_w, 'w')}; {most.channel_name} gives"
                f" {results.say(most.power.value, 'w')}",
                f"It gets hot before {listed([d.name for d in most.driven])} does. Take one of thicker wire.",
                Remedy("Look at the part", path=at(part)),
            )
