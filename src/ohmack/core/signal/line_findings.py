"""Rules on line pairs: whether a source has them, and whether every channel gets one."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator
from math import copysign
from typing import TYPE_CHECKING

from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.edits import Edit
from ohmack.core.document.factory import Radio
from ohmack.core.document.handles import at
from ohmack.core.document.links import LineLink, SpeakerLink, TapLink
from ohmack.core.document.parts import Accessory, Converter, HeadUnit, PoweredSubwoofer
from ohmack.core.factory.pickup_places import plays_from_lines
from ohmack.core.figures.finding import Draft, Remedy, find_part, note, rule, set_to, stop, watch
from ohmack.core.physics.geometry import Point
from ohmack.core.reference import PRACTICE
from ohmack.core.signal.kept_amplifiers import pairs_heard
from ohmack.core.signal.ways import SET_FOR_A_PAIR, LineSource, Played, line_source, pair_name, pairs_of, pairs_wanted
from ohmack.core.wording import count, listed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


@rule("line-pairs", "signal", PRACTICE)
def line_pairs(results: Results) -> Iterator[Draft]:
    """More line pairs are wanted than a converter or a radio has, or one is named that it does not have."""
    design = results.design
    fed: dict[str, list[LineLink]] = {}
    for line in design.links_of(LineLink):
        fed.setdefault(line.from_id, []).append(line)
    kept = results.kept_amplifier
    if kept is not None and kept.unit.line_pairs:
        fed.setdefault(kept.unit.id, [])
    for name, lines in fed.items():
        source = line_source(design, name)
        heard = {kept.module.name: pairs_heard(design)} if kept is not None and name == kept.unit.id else {}
        has = pairs_of(source)
        parts = {
            part.id: part for k in lines if isinstance(part := design.part(k.to_id), (Amplifier, PoweredSubwoofer))
        }
        names = listed([*heard, *(part.name for part in parts.values())])
        where = (
            Remedy("Enter what it has", path=at(source, lambda it: it.line_pairs))
            if isinstance(source, Radio | Accessory)
            else find_part("Find another", source.kind)
        )
        if has is None:
            yield stop(
                source.id,
                f"How many RCA pairs {source.name} has is not known",
                f"{names} should play from one. Look at its back or in its papers.",
                where,
            )
        elif not has:
            yield stop(
                source.id,
                f"{source.name} has no line output for {names}",
                "Its papers name none. Take a converter on its speaker outputs, or a radio with line outputs.",
                where,
            )
        else:
            if beyond := [line for line in lines if line.pair > has]:
                yield stop(
                    beyond[0].id,
                    f"RCA pair {beyond[0].pair} of {source.name}, which has {has}",
                    "Nothing comes out of a pair that is not there.",
                    _another_pair(beyond[0], has, {line.pair for line in lines}),
                )
            yield from _enough_pairs(design, source, has, parts, names, sum(heard.values()))


@rule("lines-idle", "signal", PRACTICE)
def lines_idle(results: Results) -> Iterator[Draft]:
    """A converter is on the speaker outputs of a radio whose line outputs would do without it."""
    design = results.design
    unit = next(design.parts_of(HeadUnit), None)
    radio, pairs = (unit, unit.line_pairs if unit.line_v else 0) if unit is not None else _own_lines(design)
    if not pairs:
        return
    outputs = {channel.id for channel in design.vehicle.radio.channels}
    for tap in design.links_of(TapLink):
        part = design.part(tap.to_id)
        fed = next((line.to_id for line in design.links_of(LineLink) if line.from_id == tap.to_id), "")
        if isinstance(part, Converter) and part.kind != "processor" and not outputs.isdisjoint(tap.from_ids):
            yield note(
                part.id,
                f"{part.name} could stay out: {radio.name} has {count(pairs, 'line pair')}",
                "A line pair goes straight into the amplifier: one part, one feed, one ground and one stage less.",
                None if part.in_car else Remedy("Take it out", (Edit(op="remove", path=at(part)),), connect=fed),
            )


def _own_lines(design: Design) -> tuple[Radio, int]:
    """The radio that is there, and how many line pairs it plays from; none where it plays from its speaker outputs."""
    radio = design.vehicle.radio
    return radio, (radio.line_pairs.value or 0) if plays_from_lines(design) else 0


def _another_pair(line: LineLink, has: int, taken: set[int]) -> Remedy:
    """A press that takes a line from a pair that is there: one that is free, else the first."""
    return _take_pair(line, next((n for n in range(1, has + 1) if n not in taken), 1))


def _take_pair(line: LineLink, pair: int) -> Remedy:
    return Remedy(f"Take pair {pair}", (set_to(at(line, lambda it: it.pair), pair),))


def _enough_pairs(
    design: Design, source: LineSource, has: int, parts: dict[str, Played], names: str, heard: int
) -> Iterator[Draft]:
    """Whether the pairs a source has will do for what it feeds, those a factory amplifier hears among it, and whether
    as many are laid.
    """
    wanted = heard + sum(pairs_wanted(design, part) for part in parts.values())
    if wanted > has:
        more = (
            " A processor has more pairs than most converters."
            if isinstance(source, Converter) and source.kind == "converter"
            else ""
        )
        yield watch(
            source.id,
            f"{count(wanted, 'line pair')} wanted from {source.name}, which has {has}",
            f"For {names}. Y leads split a pair, and what shares one is the same signal: front and rear can no"
            f" longer be faded, nor the subwoofer set by itself.{more}",
            find_part("Find one with more", source.kind, source.id) if not isinstance(source, Radio) else None,
        )
    for part in parts.values():
        used = {link.channel for link in design.links_of(SpeakerLink) if link.from_id == part.id}
        lines = [line for line in design.links_of(LineLink) if line.to_id == part.id]
        silent = used - {n for line in lines for n in line.channels} if all(k.channels for k in lines) else set()
        if silent:
            yield stop(
                part.id,
                f"{part.name}: no line into channel {listed([str(n) for n in sorted(silent)])}",
                "What is wired there plays nothing. Lay a pair to it, or let one of its pairs feed all no other does.",
                Remedy("Lay a line to them", connect=part.id)
                if len({line.pair for line in design.links_of(LineLink) if line.from_id == source.id}) < has
                else Remedy("Choose the channels", path=at(lines[0])),
            )


@rule("pair-set-twice", "signal", PRACTICE)
def pair_set_twice(results: Results) -> Iterator[Draft]:
    """One output pair of a source feeds two parts, and is planned with other settings for each."""
    design = results.design
    pairs: dict[tuple[str, int], list[LineLink]] = {}
    for line in design.links_of(LineLink):
        pairs.setdefault((line.from_id, line.pair), []).append(line)
    for (source_id, pair), (first, *others) in pairs.items():
        odd = next((line for line in others if _set_to(line) != _set_to(first)), None)
        if odd is None:
            continue
        source = line_source(design, source_id)
        fed = [design.part(line.to_id) for line in (first, odd)]
        names = listed(list(dict.fromkeys(part.name for part in fed if part is not None)))
        has = pairs_of(source) or 0
        free = [n for n in range(1, has + 1) if (source_id, n) not in pairs]
        alike = tuple(set_to(f"{at(odd)}/{name}", getattr(first, name)) for name in SET_FOR_A_PAIR)
        yield stop(
            at(odd, lambda it: it.pair),
            f"{source.name}, {pair_name(source, pair)}: set one way and the other for what hangs on it",
            f"It feeds {names}. One output has one level and one filter, so one of the two plans is not what will be"
            " heard: a subwoofer behind a tweeter's filter says nothing, a tweeter without it dies.",
            _take_pair(odd, free[0]) if free else Remedy("Set both alike", alike),
        )


def _set_to(line: LineLink) -> tuple[object, ...]:
    """What is set in a source for a line; a filter that is not set has no slope and no family."""
    filters = line.high_pass_hz, line.low_pass_hz
    shape = (line.filter_slope_db, line.filter_family) if any(filters) else ()
    return line.level_db, *filters, *shape


@rule("line-channels", "signal", PRACTICE)
def line_channels(results: Results) -> Iterator[Draft]:
    """Two pairs feed one channel, or a pair is led into a channel that is not there."""
    for part in results.design.parts_of(Amplifier):
        lines = [line for line in results.design.links_of(LineLink) if line.to_id == part.id]
        fed = Counter(n for line in lines for n in line.channels)
        twice = sorted(n for n, times in fed.items() if times > 1)
        beyond = sorted(n for n in fed if n > part.channels)
        where = Remedy("Choose the channels", path=at(lines[-1])) if lines else None
        if twice or sum(not line.channels for line in lines) > 1:
            which = f"channel {listed([str(n) for n in twice])}" if twice else "all channels"
            yield stop(
                part.id,
                f"{part.name}: two RCA pairs into {which}",
                "Two outputs on one input drive each other; either may fail. Sum them in a processor, or take one.",
                where,
            )
        if beyond:
            yield stop(
                part.id,
                f"{part.name} has {count(part.channels, 'channel')}, a pair is led into channel"
                f" {listed([str(n) for n in beyond])}",
                "Nothing comes out of a channel that is not there.",
                Remedy("Leave out what is not there", tuple(_within(lines, part.channels))),
            )


def _within(lines: Iterable[LineLink], channels: int) -> Iterator[Edit]:
    """The edits that lead pairs only into channels an amplifier has; a pair with none of them goes."""
    for line in lines:
        kept = [number for number in line.channels if number <= channels]
        if line.channels and not kept:
            yield Edit(op="remove", path=at(line))
        elif len(kept) < len(line.channels):
            yield set_to(at(line, lambda it: it.channels), kept)


@rule("line-from-old-radio", "signal", PRACTICE)
def line_from_old_radio(results: Results) -> Iterator[Draft]:
    """A line comes from a radio that is taken out."""
    design = results.design
    unit = next(design.parts_of(HeadUnit), None)
    for line in design.links_of(LineLink):
        if unit is not None and line.from_id == design.vehicle.radio.id:
            yield stop(
                line.id,
                f"Its signal comes from {design.vehicle.radio.name}, which {unit.name} replaces",
                "The old radio's outputs go with it.",
                Remedy(f"Take it from {unit.name}", (set_to(at(line, lambda it: it.from_id), unit.id),)),
            )


DETOUR_M = 1.0  # more cable than that, only because of where a converter sits, is worth a word; common practice
BESIDE_M = 0.36  # from an amplifier's middle to a converter's beside it


def _along_and_across_m(one: Point, other: Point) -> float:
    return abs(one[0] - other[0]) + abs(one[1] - other[1])


@rule("signal-detour", "plan", PRACTICE)
def signal_detour(results: Results) -> Iterator[Draft]:
    """The signal is picked up near the amplifier and goes to a converter far away and back."""
    told: set[str] = set()
    for signal in results.signals:
        way, converter = signal.way, signal.way.converter
        if converter is not None and converter.id in told:
            continue
        if converter is None or way.tap is None or way.line is None or way.amplifier.position is None:
            continue
        there, back = results.runs[way.tap.id], results.runs[way.line.id]
        if not there.points or there.length.value is None or back.length.value is None:
            continue
        start, stands, end = there.points[0], there.points[-1], way.amplifier.position
        straight_m = _along_and_across_m(start, end.point)
        needed_m = straight_m + 2 * results.design.policy.rise_m
        taken_m = there.length.value + back.length.value
        round_m = _along_and_across_m(start, stands) + _along_and_across_m(stands, end.point)
        if round_m < straight_m + DETOUR_M or taken_m < needed_m + DETOUR_M:
            continue
        told.add(converter.id)
        beside = {"x_m": end.x_m, "y_m": round(end.y_m - copysign(BESIDE_M, end.y_m), 2)}
        place = at(converter, lambda it: it.position)
        yield note(
            converter.id,
            f"The signal goes to {converter.name} and back: {results.say(taken_m, 'm')} of cable",
            f"It is picked up near {way.amplifier.name}; beside that the converter needs about"
            f" {results.say(needed_m, 'm')}.",
            Remedy(f"Put it beside {way.amplifier.name}", (set_to(place, beside),)),
        )
