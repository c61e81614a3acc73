"""Left and right: which side of the music each speaker plays once a plan is laid."""

from __future__ import annotations

from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.links import SpeakerLink
from ohmack.core.document.vehicle import Speaker
from ohmack.core.loads.corners import corner_of
from ohmack.core.record import record
from ohmack.core.signal.ways import Way, picked_up, signal_ways, tapped_source

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
    if len(come) == 1:
        return next(iter(come)) or BOTH
    return BOTH if sums or not come.issuperset(SIDES) else SIDES[(channel - 1) % 2]


def without_stereo(rows: tuple[SidePlayed, ...]) -> bool:
    """Whether left and right of a car play one signal: in front, or in the rear of a car without speakers on both
    sides in front; False where that cannot be said.
    """
    for axle in AXLES:
        left, right = ({row.plays for row in rows if (row.axle, row.side) == (axle, side)} for side in SIDES)
        if left and right and None not in left | right:
            return left == right
    return False
