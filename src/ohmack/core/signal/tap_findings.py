"""Rules on pairs the signal is picked up from: how low they reach, and what must not be summed."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document import Basis, Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.factory import ChannelPlace, Mix, Module, Radio, RadioChannel
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.interventions import comes_out, interventions_of, new_radio
from ohmack.core.document.links import LineLink, TapLink
from ohmack.core.document.parts import Converter, HeadUnit, PoweredSubwoofer
from ohmack.core.figures.finding import Draft, Remedy, note, rule, set_to, stop, watch
from ohmack.core.loads.corners import corner_of
from ohmack.core.reference import PRACTICE
from ohmack.core.signal.levels import OutputSignal, SignalResult
from ohmack.core.signal.pickups import complete_pairs, whole_range
from ohmack.core.signal.ways import inputs_joined, played_anew, played_by, tapped_source
from ohmack.core.wording import amount, count, listed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

APART = 1.5  # how far two radios' levels into one amplifier usually are apart, common practice
LOWEST_WANTED_HZ = 40.0  # of a tap a subwoofer plays from; common practice


@rule("tap-band", "signal", PRACTICE)
def tap_band(results: Results) -> Iterator[Draft]:
    """The signal at the tap does not reach down to the bass a subwoofer needs, or not to both sides' bass."""
    design, seen = results.design, set[str]()
    for tap in design.links_of(TapLink):
        if not _plays_bass(results, tap):
            continue
        output = tapped_source(design, tap)
        if output.id not in seen and not played_anew(design, output):
            seen.add(output.id)
            yield from _how_low(design.vehicle.radio, output)
        picked = [c for c in output.channels if c.id in tap.from_ids]
        if len(picked) == 1 and picked[0].mix is not Mix.SUMMED:
            yield note(
                tap.id,
                "Only one side is picked up",
                "Bass that sits on the other side is lost to a mono subwoofer. Pick up left and right.",
            )


def _plays_bass(results: Results, tap: TapLink) -> bool:
    """Whether a subwoofer is heard through a tap."""
    return isinstance(results.design.part(tap.to_id), PoweredSubwoofer) or any(
        isinstance(signal.amplifier, PoweredSubwoofer)
        or any(driven.is_subwoofer for out in signal.outputs for driven in out.load.driven)
        for signal in results.signals
        if signal.way.tap is not None and signal.way.tap.id == tap.id
    )


def _how_low(radio: Radio, output: Radio | Module) -> Iterator[Draft]:
    low_hz = output.tap_low_hz.value
    path = at_the(Radio, lambda it: it.tap_low_hz) if output is radio else at(output, lambda it: it.tap_low_hz)
    if low_hz is None:
        yield watch(
            path,
            f"How low {output.name} reaches at the tap is not known",
            "A subwoofer wants it flat from about 25 to 160 Hz, and many factory outputs cut the bass. Play tones of 30"
            " and 60 Hz and read the pair.",
            Remedy("Measure the tap", path=path),
        )
    elif low_hz > LOWEST_WANTED_HZ:
        yield watch(
            path,
            f"The lowest bass at the tap is {low_hz:g} Hz",
            "A subwoofer wants it flat from about 25 to 160 Hz. Pick up another pair, or use a converter that"
            " restores bass.",
            Remedy("Measure the tap", path=path),
        )


@rule("inputs-joined", "signal", PRACTICE)
def inputs_to_join(results: Results) -> Iterator[Draft]:
    """Fewer pairs of the radio are led to an amplifier than it has pairs of inputs in use."""
    for one in inputs_joined(results.design):
        if not one.by_line:
            yield note(
                one.part.id,
                f"{one.part.name}: {count(one.led, 'pair')} led to it, {count(one.used, 'pair')} of inputs in use",
                "Left is led into the first half of its inputs and right into the other: the leads doubled at its plug,"
                " and its input switch left as it is."
                if one.by_sides
                else "What is planned on its further channels plays only with its inputs joined: by its input switch,"
                " or the leads doubled at its plug. Its papers say which.",
            )


@rule("tap-bands", "signal", PRACTICE)
def tap_bands(results: Results) -> Iterator[Draft]:
    """Bands are picked up that leave the doors without treble or a middle, or one band twice."""
    design, seen = results.design, set[tuple[str, ...]]()
    for signal in results.signals:
        tap = signal.way.tap
        if tap is None:
            continue
        played = played_by(signal.way)
        if (tap.id, *sorted(played)) in seen:
            continue
        seen.add((tap.id, *sorted(played)))
        if played_anew(design, tapped_source(design, tap)):
            continue  # its pairs carry everything, whatever the old one left out
        own = [c for c in tapped_source(design, tap).channels if c.id in played and c.place is not None]
        unknown = [c.name for c in own if c.band.value is None]
        if unknown and isinstance(split := tapped_source(design, tap), Module) and split.band_split.value:
            yield watch(
                tap.id,
                f"Not known: which band {listed(unknown)} {'carries' if len(unknown) == 1 else 'carry'}",
                f"{split.name} splits the bands: read every pair with tones of 60, 500 and 5000 Hz before they are"
                " summed.",
                Remedy("Look at the pickup", path=at(tap)),
            )
        if not own or unknown:
            continue
        about = tap.id if not signal.way.line or not signal.way.line.input_ids else signal.way.line.id
        yield from _twice(about, own)
        outputs = [o for s in results.signals if s.way.tap is tap and played_by(s.way) == played for o in s.outputs]
        for pairs, heard in _together(design, signal, own, outputs):
            yield from _lost(design, signal, about, pairs, heard)


def _together(
    design: Design, signal: SignalResult, own: list[RadioChannel], outputs: list[OutputSignal]
) -> list[tuple[list[RadioChannel], list[OutputSignal]]]:
    """Pairs with what plays them: end by end of the car where they go straight into an amplifier, else all as one."""
    axles = list(dict.fromkeys(c.place.axle for c in own if c.place is not None))
    if signal.way.line is not None or not isinstance(signal.amplifier, Amplifier) or len(axles) < 2:
        return [(own, outputs)]
    return [
        (
            [c for c in own if c.place is not None and c.place.axle == axle],
            [o for o in outputs if corner_of(design, o.load.links[0].to_id).axle == axle],
        )
        for axle in axles
    ]


def _lost(
    design: Design, signal: SignalResult, about: str, own: list[RadioChannel], outputs: list[OutputSignal]
) -> Iterator[Draft]:
    """What doors lack that play some pairs, and the pairs that carry everything there."""
    tap = signal.way.tap
    doors = [o.load.driven_name for o in outputs if not any(d.is_subwoofer for d in o.load.driven)]
    carried = frozenset().union(*(_carried(c) for c in own))
    lost = {"middle", "treble"} - carried
    if tap is None or not doors or not lost:
        return
    room, output = _inputs(signal), tapped_source(design, tap)
    others = [name for name in tap.from_ids if name not in {c.id for c in own}]
    more = complete_pairs(output, [c.place for c in own]) if others else whole_range(output, room)
    names = [*(c.id for c in more), *others]
    yield stop(
        about,
        f"No {listed(sorted(lost))} for {doors[0]}",
        f"{listed([c.name for c in own])} carry the {listed(sorted(carried))} alone. Add the pairs that carry the"
        " rest, side by side, and check the phase; or take the signal before the factory amplifier.",
        Remedy(f"Sum {count(len(more), 'pair')}", (set_to(at(tap, lambda it: it.from_ids), names),))
        if more and about == tap.id and len(names) <= room
        else Remedy("Look at the pickup", path=at(tap)),
    )


@rule("tap-axle", "signal", PRACTICE)
def tap_axle(results: Results) -> Iterator[Draft]:
    """Speakers at one end of the car play what is picked up from the pairs of the other alone."""
    design = results.design
    by_pairs: dict[tuple[str, ...], list[SignalResult]] = {}
    for signal in results.signals:
        if signal.way.tap is not None:
            by_pairs.setdefault((signal.way.tap.id, *sorted(played_by(signal.way))), []).append(signal)
    taps = {tap.id: tap for tap in design.links_of(TapLink)}
    for (tap_id, *pairs), signals in by_pairs.items():
        tap, line = taps[tap_id], signals[0].way.line
        output = tapped_source(design, tap)
        playing = {k.to_id: corner_of(design, k.to_id).axle for s in signals for o in s.outputs for k in o.load.links}
        ends = set(playing.values()) - {""}
        picked = {c.place.axle for c in output.channels if c.id in pairs and c.place is not None} - {""}
        own = [c.id for c in output.channels if c.place is not None and c.place.axle in ends]
        if len(ends) != 1 or len(picked) != 1 or ends == picked or not own:
            continue
        (end,), (other,) = ends, picked
        names = [s.name for s in design.vehicle.speakers if playing.get(s.id)]
        mapped = line is not None and bool(line.input_ids)  # a processor that gives other pairs to other channels
        yield watch(
            line.id if line is not None and mapped else tap.id,
            f"{listed(names)} {'plays' if len(names) == 1 else 'play'} what the {other} pairs carry",
            f"Faded to the {end}, silence; faded to the {other}, they play alone. Pick up the {end} pairs.",
            Remedy("Look at the pickup", path=at(tap))
            if mapped
            else Remedy(f"Take the {end} pairs", (set_to(at(tap, lambda it: it.from_ids), own[: len(tap.from_ids)]),)),
        )


@rule("tap-dead", "signal", PRACTICE)
def tap_dead(results: Results) -> Iterator[Draft]:
    """A signal is picked up from something that comes out, and nothing plays in its place."""
    design = results.design
    gone = {i.id for i in interventions_of(design) if comes_out(i)}
    if any(design.parts_of(HeadUnit)):
        gone.discard(design.vehicle.radio.id)  # its pairs play on; of its line outputs another rule speaks
    radio = design.vehicle.radio
    begins: list[tuple[TapLink | LineLink, Radio | Module]] = [
        *((tap, tapped_source(design, tap)) for tap in design.links_of(TapLink)),
        *((line, radio) for line in design.links_of(LineLink) if line.from_id == radio.id),
    ]
    for link, source in begins:
        if source.id in gone:
            part = design.part(link.to_id)
            yield stop(
                link.id,
                f"Nothing plays where {part.name if part is not None else 'it'} takes its signal",
                f"{source.name} comes out under this plan, and its outputs go with it. Keep it, or pick up somewhere"
                " else.",
                Remedy("Look at the pickup", path=at(link)),
            )


@rule("tap-read-before", "signal", PRACTICE)
def tap_read_before(results: Results) -> Iterator[Draft]:
    """What is picked up behind a factory amplifier was read while the old radio fed it."""
    unit = new_radio(results.design)
    if unit is None:
        return
    tapped = (tapped_source(results.design, tap) for tap in results.design.links_of(TapLink))
    for source in {s.id: s for s in tapped if isinstance(s, Module)}.values():
        volts = source.source_voltage_v
        if volts.value is None or volts.basis is Basis.ASSUMED:
            continue  # then it is on the list of what to measure
        guess = {
            "value": volts.value, "basis": Basis.ASSUMED.value, "low": volts.value / APART, "high": volts.value * APART,
        }  # fmt: skip
        path = at(source, lambda it: it.source_voltage_v)
        yield watch(
            path,
            f"{source.name}: {amount(volts.value, 'v')} were read with the old radio before it",
            f"{unit.name} feeds it at another level, and every gain behind it rests on that one. Read it again once the"
            " new radio plays; until then it is a guess.",
            Remedy("Take it as a guess", (set_to(path, guess),)),
        )


def _twice(about: str, own: list[RadioChannel]) -> Iterator[Draft]:
    """The first two pairs of one place that carry the same band."""
    twice = [
        (a, b) for n, a in enumerate(own) for b in own[n + 1 :] if a.place is b.place and _carried(a) & _carried(b)
    ]
    for one, other in twice[:1]:
        both = listed(sorted(_carried(one) & _carried(other)))
        yield watch(
            about,
            f"{one.name} and {other.name} both carry the {both}",
            "Summed, it comes 6 dB too loud, and where their filters turn the phase it cancels. Sum only what is"
            " complementary.",
            Remedy("See the signal", sheet="signal"),
        )


def _carried(channel: RadioChannel) -> frozenset[str]:
    band = channel.band.value
    return band.carries if band is not None else frozenset()


def _inputs(signal: SignalResult) -> int:
    """How many pairs go into what a pickup ends at."""
    if signal.converter is not None:
        return signal.converter.input_pairs
    return signal.amplifier.channels if isinstance(signal.amplifier, Amplifier) else 2


@rule("tap-combs", "signal", PRACTICE)
def tap_combs(results: Results) -> Iterator[Draft]:
    """Pairs that carry the same music in another mix are summed: they comb."""
    design = results.design
    channels = {c.id: c for c in design.vehicle.channels}
    for tap in design.links_of(TapLink):
        part = design.part(tap.to_id)
        room = 2 * part.output_pairs if isinstance(part, Converter) else 2
        tapped = [channels[name] for name in tap.from_ids if name in channels]
        middle = [c for c in tapped if c.place is ChannelPlace.CENTRE]
        sides = [c for c in tapped if c.place is not None and c.place.value.split()[-1] in ("left", "right")]
        if len(tapped) > room and middle and sides:
            yield stop(
                tap.id,
                f"{listed([c.name for c in middle])} summed with {listed([c.name for c in sides])}",
                "A centre carries both sides mixed: added to left and right it doubles the middle and cancels parts of"
                " the treble, and no equaliser mends a comb. Take the sides alone.",
                Remedy(
                    "Take the sides alone",
                    (set_to(at(tap, lambda it: it.from_ids), [c.id for c in tapped if c not in middle]),),
                ),
            )
