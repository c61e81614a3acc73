"""The ways signals take: from a tap or a line pair of a radio, through a converter or not, to the channels they
feed.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence

from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.factory import Band, Module, Radio
from ohmack.core.document.interventions import new_radio
from ohmack.core.document.links import LineLink, TapLink
from ohmack.core.document.parts import Accessory, Converter, HeadUnit, PoweredSubwoofer
from ohmack.core.loads.wirings import LoadResult
from ohmack.core.record import record
from ohmack.core.wording import listed

PAIR_NAMES = {1: ("line output",), 2: ("front", "rear"), 3: ("front", "rear", "subwoofer")}
SET_FOR_A_PAIR = ("level_db", "high_pass_hz", "low_pass_hz", "filter_slope_db", "filter_family")  # of a line
SUB_PAIR = 3  # of a radio with three pairs or more; common practice

LineSource = Converter | HeadUnit | Accessory | Radio
Played = Amplifier | PoweredSubwoofer


def line_source(design: Design, name: str) -> LineSource:
    """What a line begins at, by id: a converter, a new radio, an amplifier adapter, or the radio that is there."""
    part = design.part(name)
    return part if isinstance(part, (Converter, HeadUnit, Accessory)) else design.vehicle.radio


def pairs_of(source: LineSource) -> int | None:
    """How many line pairs a source has; None where nobody looked."""
    if isinstance(source, Converter):
        return source.output_pairs
    return source.line_pairs.value if isinstance(source, Radio) else source.line_pairs


def pair_name(source: LineSource, pair: int) -> str:
    """A line pair in words: by place on a radio, by number on a converter."""
    has = pairs_of(source) or 0
    if isinstance(source, Converter):
        return f"pair {pair}" if has > 1 else "line output"
    names = PAIR_NAMES.get(min(has, SUB_PAIR), ())
    return names[pair - 1] if pair <= len(names) else f"pair {pair}"


def channel_words(line: LineLink) -> str:
    """The channels a line names, in words; "" where it feeds all no other does."""
    if line.by_sides:
        left, right = halves(line.channels)
        return f"{_channels(left)} with left, {_channels(right)} with right" if right else ""
    return _channels(line.channels) if line.channels else ""


def _channels(numbers: Sequence[int]) -> str:
    return f"channel{'s' if len(numbers) > 1 else ''} {listed([str(n) for n in numbers])}"


def halves(channels: Iterable[int]) -> tuple[tuple[int, ...], tuple[int, ...]]:
    """(those left goes into, those right goes into) of channels that are led by sides."""
    own = tuple(sorted(channels))
    return own[: (len(own) + 1) // 2], own[(len(own) + 1) // 2 :]


def pair_words(design: Design, line: LineLink) -> str:
    """Which RCA pair a line is, and which channels it goes into."""
    name, into = pair_name(line_source(design, line.from_id), line.pair), channel_words(line)
    return f"{name} into {into}" if into else name


@record
class Way:
    """How a signal reaches an amplifier or a powered subwoofer: tap and converter, the line output of a radio, or a
    pair straight in.
    """

    amplifier: Played
    converter: Converter | None
    radio: HeadUnit | Accessory | Radio | None  # whose line output it begins at
    tap: TapLink | None
    line: LineLink | None
    channels: frozenset[int] | None = None  # the amplifier's channels it feeds; None for all

    @property
    def title(self) -> str:
        """What it feeds and over which line pair."""
        source = self.converter or self.radio
        if self.line is None or source is None or (pairs_of(source) or 1) < 2:
            return self.amplifier.name
        return f"{self.amplifier.name}, {pair_name(source, self.line.pair)}"

    def reaches(self, channel: int) -> bool:
        """Whether it feeds a channel of the amplifier."""
        return self.channels is None or channel in self.channels

    def side_into(self, channel: int) -> str:
        """The side it leads into a channel where it leads one alone: left or right; else ""."""
        laid = self.line or self.tap
        if laid is None or not laid.by_sides or not isinstance(self.amplifier, Amplifier):
            return ""
        left, _ = halves(n for n in range(1, self.amplifier.channels + 1) if self.reaches(n))
        return "left" if channel in left else "right"

    def feeds(self, load: LoadResult) -> bool:
        """Whether an output of the amplifier plays this signal."""
        return self.reaches(load.link.channel)

    def span_of(self, channel: int) -> tuple[float, float]:
        """(most, least) sensitive setting of the input it goes into [v]."""
        part = self.amplifier
        if isinstance(part, PoweredSubwoofer):
            if self.line is None:
                high_v = part.speaker_level_high_v or 0.0
                return part.speaker_level_low_v or high_v / 10, high_v
            return part.line_low_v, part.line_high_v or 0.0
        if self.line is None and part.speaker_level_high_v is not None:
            return part.speaker_level_low_v or part.speaker_level_high_v / 10, part.speaker_level_high_v
        group = part.group_of(channel)
        return group.sensitivity_low_v, group.sensitivity_high_v


def tapped_source(design: Design, tap: TapLink) -> Radio | Module:
    """What a tap takes its signal from."""
    return design.vehicle.source_of(tap.from_ids[0])


def played_anew(design: Design, source: Radio | Module) -> HeadUnit | None:
    """The new radio that plays what is tapped, where that was the old one's; None where the source stays as read."""
    return new_radio(design) if isinstance(source, Radio) else None


def begins_at(design: Design, way: Way) -> Radio | Module:
    """Whose volume step a way rests on: what it is tapped from, else the car's radio."""
    return tapped_source(design, way.tap) if way.tap is not None else design.vehicle.radio


def volume_of(design: Design, way: Way) -> Radio | Module | HeadUnit:
    """Whose volume step is turned up for a way: a new radio's own, else of what the way begins at."""
    if isinstance(way.radio, HeadUnit):
        return way.radio
    source = begins_at(design, way)
    return played_anew(design, source) or source


def step_of(source: Radio | Module | HeadUnit) -> str:
    """The last clean volume step, in words; "" where nobody knows it."""
    return source.clip_step if isinstance(source, HeadUnit) else source.clip_step.value or ""


def _channels_fed(design: Design, line: LineLink) -> frozenset[int] | None:
    """The channels a line feeds: those it names, else those no other line of the amplifier names; None for all."""
    if line.channels:
        return frozenset(line.channels)
    others = {n for k in design.links_of(LineLink) if k.to_id == line.to_id and k is not line for n in k.channels}
    return frozenset(range(1, 9)) - others if others else None


def inputs_used(design: Design, part: Played) -> frozenset[int]:
    """The pairs of inputs of an amplifier whose channels drive something, from 1; the first one while none does."""
    used = design.channels_taken(part.id)
    return frozenset((n + 1) // 2 for n in used) or frozenset({1})


def pairs_wanted(design: Design, part: Played) -> int:
    """How many pairs its inputs in use want: one a pair of inputs, and one for all that are led by sides."""
    used = inputs_used(design, part)
    by_sides = [k for k in design.links_of(LineLink) if k.to_id == part.id and k.by_sides]
    return len(used) - sum(inputs_fed(design, line) - 1 for line in by_sides)


def inputs_fed(design: Design, line: LineLink) -> int:
    """How many pairs of inputs one pair of a source goes into at a line's end; more than one takes Y leads."""
    part = design.part(line.to_id)
    if not isinstance(part, Amplifier):
        return 1
    fed = _channels_fed(design, line)
    return max(1, sum(fed is None or bool(fed & {2 * n - 1, 2 * n}) for n in inputs_used(design, part)))


@record
class InputsJoined:
    """An amplifier that is led fewer pairs than it has pairs of inputs in use: its inputs have to be joined."""

    part: Amplifier
    led: int
    used: int
    by_line: bool  # over line leads, which a Y lead joins; else over pairs of the radio
    by_sides: bool  # left into some and right into others, which no input switch does


def inputs_joined(design: Design) -> Iterator[InputsJoined]:
    """The amplifiers whose inputs have to be joined, by their input switch or at their plugs.

    Parameters:
        design: the design.

    Returns:
        one an amplifier; none that has one channel, hangs on the works plugs, or leads its inputs inside.
    """
    for part in design.parts_of(Amplifier):
        if part.channels == 1 or part.plugs_in or part.processor:
            continue
        used = len(inputs_used(design, part))
        lines = [line for line in design.links_of(LineLink) if line.to_id == part.id]
        taps = [tap for tap in design.links_of(TapLink) if tap.to_id == part.id]
        led = len(lines) or sum((len(tap.from_ids) + 1) // 2 for tap in taps)
        if 0 < led < used:
            yield InputsJoined(part, led, used, bool(lines), any(laid.by_sides for laid in (lines or taps)))


def line_into(design: Design, amplifier_id: str, channel: int) -> LineLink | None:
    """The line that feeds a channel of an amplifier; None where none does."""
    for line in design.links_of(LineLink):
        if line.to_id == amplifier_id:
            fed = _channels_fed(design, line)
            if fed is None or channel in fed:
                return line
    return None


def picked_up(way: Way, channel: int) -> frozenset[str]:
    """The pairs of a pickup that come to a channel: straight in by twos, the first again where there are no more; of a
    converter with several outputs those of the line's number; of a processor those it is set to, else all.
    """
    assert way.tap is not None
    ids, plain = way.tap.from_ids, way.converter is not None and way.converter.kind == "converter"
    if way.line is None:
        number = (channel - 1) // 2 % max(1, (len(ids) + 1) // 2)
    elif plain and way.converter is not None and way.converter.output_pairs > 1 and not way.line.input_ids:
        number = way.line.pair - 1
    else:
        return played_by(way)
    return frozenset(ids[2 * number : 2 * number + 2])


def arrives_parted(design: Design, amplifier: Amplifier, channel: int) -> bool:
    """Whether the works parted the sound before it comes to a channel: it is picked up from pairs of which some carry
    a part of the range only, and no processor on the way puts them together again.
    """
    line = line_into(design, amplifier.id, channel)
    source = amplifier if line is None else design.part(line.from_id)
    sums = source.processor if isinstance(source, Amplifier) else getattr(source, "kind", "") == "processor"
    if sums or source is None:
        return False
    bands = {pair.id: pair.band.value for pair in design.vehicle.channels}
    taps = (tap for tap in design.links_of(TapLink) if tap.to_id == source.id)
    return any(bands.get(name) not in (None, Band.FULL) for tap in taps for name in tap.from_ids)


def signal_ways(design: Design) -> list[Way]:
    """Every complete way from a radio to an amplifier or a powered subwoofer of a design."""
    taps = {tap.to_id: tap for tap in design.links_of(TapLink)}
    into = {line.to_id: line for line in design.links_of(LineLink)}  # of a processor fed by a line
    ways = []
    for line in design.links_of(LineLink):
        part, source = design.part(line.to_id), line_source(design, line.from_id)
        if not isinstance(part, (Amplifier, PoweredSubwoofer)):
            continue
        tap = taps.get(line.from_id) if isinstance(source, Converter) else None
        before = into.get(line.from_id) if isinstance(source, Converter) and tap is None else None
        origin = line_source(design, before.from_id) if before is not None else source
        if isinstance(source, Converter) and tap is None and (before is None or isinstance(origin, Converter)):
            continue  # nothing plays into it
        ways.append(
            Way(
                part,
                source if isinstance(source, Converter) else None,
                origin if not isinstance(origin, Converter) else None,
                tap,
                line,
                _channels_fed(design, line),
            )
        )
    straight = [a for a in design.parts_of(Amplifier) if a.id in taps and a.takes_speaker_level]
    return ways + [Way(a, None, None, taps[a.id], None) for a in straight]


def played_by(way: Way) -> frozenset[str]:
    """The pairs of a pickup that a way plays: those its line is set to in a processor, else all."""
    tapped = frozenset(way.tap.from_ids if way.tap is not None else ())
    chosen = tapped & frozenset(way.line.input_ids if way.line is not None else ())
    return chosen or tapped
