"""Left and right: which side of the music each speaker plays once a plan is laid."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.edits import Edit
from ohmack.core.document.handles import at
from ohmack.core.document.links import LineLink, SpeakerLink, TapLink
from ohmack.core.document.vehicle import Speaker
from ohmack.core.figures.finding import set_to
from ohmack.core.loads.corners import corner_of
from ohmack.core.record import record
from ohmack.core.signal.ways import Way, picked_up, signal_ways, tapped_source
from ohmack.core.wording import count

BOTH = "both"  # left and right added up, or one of them to either side
SIDES = ("left", "right")
AXLES = ("front", "rear")

_Output = tuple[str, int]


@record
class SidePlayed:
    """A speaker on one side of the car, and the side of the music it plays: left, right, both; None where nobody can
    say. Without a link it plays on the pair it had.
    """

    speaker: Speaker
    axle: str
    side: str
    link: SpeakerLink | None
    plays: str | None

    @property
    def exchanged(self) -> bool:
        """Whether it plays the other side of the music."""
        return self.plays in SIDES and self.plays != self.side


def sides_played(design: Design) -> tuple[SidePlayed, ...]:
    """Which side of the music every speaker on the left or the right of a car plays.

    Parameters:
        design: the design.

    Returns:
        a row a speaker that plays something, by an amplifier of the plan or on the pair it had. Of an input the odd
        channel is the left one and the even one the right; a bridged output adds up both of its inputs, as a channel
        without another beside it does. Which channel plays what in a processor is set in it. Source: common practice.
    """
    ways, driven = signal_ways(design), {link.to_id: link for link in design.links_of(SpeakerLink)}
    hung: dict[_Output, set[str]] = {}
    for link in driven.values():
        hung.setdefault((link.from_id, link.channel), set()).add(corner_of(design, link.to_id).side)
    rows = []
    for speaker in design.vehicle.speakers:
        place, own = corner_of(design, speaker.id), driven.get(speaker.id)
        if not place.side or place.axle not in AXLES or (own is None and speaker.channel_id is None):
            continue
        if own is None:
            plays: str | None = place.side
        elif hung[own.from_id, own.channel].issuperset(SIDES):
            plays = BOTH
        else:
            plays = side_of_output(design, ways, own.from_id, own.channel, own.bridged)
        rows.append(SidePlayed(speaker, place.axle, place.side, own, plays))
    return tuple(rows)


def side_of_output(design: Design, ways: list[Way], part_id: str, channel: int, bridged: bool = False) -> str | None:
    """The side of the music that comes to an output, as in `SidePlayed`; None where nothing leads there too."""
    amplifier = design.part(part_id)
    if not isinstance(amplifier, Amplifier) or amplifier.processor:
        return None
    sums = bridged or (channel == amplifier.channels and channel % 2 == 1)  # one without another beside it
    found = {_side(design, way, channel, sums) for way in ways if way.amplifier.id == part_id and way.reaches(channel)}
    return None if None in found or not found else found.pop() if len(found) == 1 else BOTH


def _side(design: Design, way: Way, channel: int, sums: bool) -> str | None:
    """The side of the music a way carries to a channel."""
    if way.converter is not None and way.converter.kind == "processor":
        return None
    come: frozenset[str] = frozenset(SIDES)
    if way.tap is not None:
        pairs = picked_up(way, channel)
        places = [c.place for c in tapped_source(design, way.tap).channels if c.id in pairs]
        if not places or None in places:
            return None
        come = frozenset(place.side for place in places if place is not None)
    if side := way.side_into(channel):
        come &= {side}
    if len(come) == 1:
        return next(iter(come)) or BOTH
    return BOTH if sums or not come.issuperset(SIDES) else SIDES[(channel - 1) % 2]


def without_stereo(rows: Sequence[SidePlayed]) -> tuple[SidePlayed, ...]:
    """The speakers of the right where those of the left play the same: in front, or in the rear of a car without
    speakers on both sides in front; none where they differ, or where that cannot be said.
    """
    for axle in AXLES:
        left, right = ([row for row in rows if (row.axle, row.side) == (axle, side)] for side in SIDES)
        heard, across = ({row.plays for row in here} for here in (left, right))
        if left and right and None not in heard | across:
            return tuple(right) if heard == across else ()
    return ()


def exchanged(design: Design, rows: Sequence[SidePlayed]) -> tuple[Edit, ...]:
    """The edits that exchange the channels of outputs side by side; none where other things hang on them too."""
    links = {row.link.id: row.link for row in rows if row.link is not None}
    pairs = {(link.from_id, (link.channel + 1) // 2) for link in links.values()}
    there = [k for k in design.links_of(SpeakerLink) if (k.from_id, (k.channel + 1) // 2) in pairs]
    if any(k.id not in links or k.bridged for k in there):
        return ()
    return tuple(set_to(at(k, lambda it: it.channel), k.channel + (1 if k.channel % 2 else -1)) for k in there)


def led_by_sides(design: Design, rows: Sequence[SidePlayed]) -> tuple[Edit, ...]:
    """The edits that lead left alone into the inputs of a bridged output and right alone into those of another.

    Parameters:
        design: the design.
        rows: speakers on bridged outputs that play both sides.

    Returns:
        one pair goes into the inputs of both, and no other does any more; none unless they are two outputs of one
        amplifier, and what feeds them feeds nothing else of it. Source: common practice, no source.
    """
    outputs = {(row.side, row.link.from_id, row.link.channel) for row in rows if row.link is not None}
    if len(outputs) != len(SIDES) or len({part_id for _, part_id, _ in outputs}) > 1:
        return ()
    (_, part_id, left), (_, _, right) = sorted(outputs)
    into = {n for channel in (left, right) for n in (channel, channel + 1)}
    ways = [way for way in signal_ways(design) if way.amplifier.id == part_id and any(map(way.reaches, into))]
    used = {n for k in design.links_of(SpeakerLink) if k.from_id == part_id for n in k.takes}
    if len(into) != 2 * len(SIDES) or any(way.reaches(n) for way in ways for n in used - into):
        return ()
    edits = list(exchanged_outputs(design, part_id, left, right)) if left > right else []
    lines = [way.line for way in ways if way.line is not None]
    first = next((way.line for way in ways if way.line is not None and way.reaches(min(into))), None)
    if first is not None and len(lines) == len(ways):
        edits += [
            set_to(at(first, lambda it: it.channels), sorted(into)),
            set_to(at(first, lambda it: it.by_sides), True),
        ]
        edits += [Edit(op="remove", path=at(line)) for line in lines if line is not first]
        return tuple(edits)
    tap = ways[0].tap if len(ways) == 1 and ways[0].line is None else None
    if tap is None:
        return ()
    edits += [set_to(at(tap, lambda it: it.from_ids), tap.from_ids[:2]), set_to(at(tap, lambda it: it.by_sides), True)]
    return tuple(edits)


def led_by_pairs(design: Design, rows: Sequence[SidePlayed]) -> tuple[Edit, ...]:
    """The edits that lead left and right into every input again; none where no side is led by itself, or what plays is
    bridged.
    """
    fed = {row.link.from_id for row in rows if row.link is not None and not row.link.bridged}
    links = (k for k in design.links if isinstance(k, LineLink | TapLink) and k.by_sides and k.to_id in fed)
    return tuple(set_to(at(link, lambda it: it.by_sides), False) for link in links)


def exchanged_outputs(design: Design, part_id: str, one: int, other: int) -> Iterator[Edit]:
    """The edits that exchange what hangs on two outputs of an amplifier."""
    for link in design.links_of(SpeakerLink):
        if link.from_id == part_id and link.channel in (one, other):
            yield set_to(at(link, lambda it: it.channel), other if link.channel == one else one)


def to_own_channel(design: Design, rows: Sequence[SidePlayed]) -> tuple[str, tuple[Edit, ...]]:
    """What hangs speakers of one side on a free channel that plays that side: in words, and its edits; none while
    there is no such channel.
    """
    cables = [row.link for row in rows if row.link is not None]
    if len({(k.from_id, k.channel) for k in cables}) != 1:
        return "", ()
    part, ways = design.part(cables[0].from_id), signal_ways(design)
    taken = {n for k in design.links_of(SpeakerLink) if k.from_id == cables[0].from_id for n in k.takes}
    free = [n for n in range(1, part.channels + 1) if n not in taken] if isinstance(part, Amplifier) else []
    to = next((n for n in free if side_of_output(design, ways, cables[0].from_id, n) == rows[0].side), None)
    if to is None:
        return "", ()
    what = "it" if len(cables) == 1 else count(len(cables), "speaker")
    return f"Put {what} on channel {to}", tuple(set_to(at(k, lambda it: it.channel), to) for k in cables)
