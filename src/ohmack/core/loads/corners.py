"""Which corner of the car a driven thing plays from: by its output pair, else by where it sits; and which pairs of a
corner share a channel where channels are short.
"""

from __future__ import annotations

from ohmack.core.document import Design
from ohmack.core.document.factory import ChannelPlace
from ohmack.core.document.parts import PoweredSubwoofer, Subwoofer

MIDDLE = 0.5  # of the car's length: what sits before it counts as front where no pair says so; common practice
USUAL_LENGTH_M = 4.3
CORNERS = {
    ("front", "left"): ChannelPlace.FRONT_LEFT,
    ("front", "right"): ChannelPlace.FRONT_RIGHT,
    ("rear", "left"): ChannelPlace.REAR_LEFT,
    ("rear", "right"): ChannelPlace.REAR_RIGHT,
    ("front", ""): ChannelPlace.CENTRE,
    ("rear", ""): ChannelPlace.REAR,
}


def corner_of(design: Design, thing_id: str) -> ChannelPlace:
    """The corner a subwoofer or a speaker position plays from.

    Parameters:
        design: the design.
        thing_id: a subwoofer's or a speaker's id.

    Returns:
        the place of the pair that drives it in the car as found, else the nearest corner to where it sits.
    """
    if isinstance(design.part(thing_id), (Subwoofer, PoweredSubwoofer)):
        return ChannelPlace.SUB
    speaker = next((s for s in design.vehicle.speakers if s.id == thing_id), None)
    if speaker is None:
        return ChannelPlace.CENTRE
    place = next((c.place for c in design.vehicle.channels if c.id == speaker.channel_id), None)
    if place is not None:
        return place
    length_m = design.vehicle.length_m.value or USUAL_LENGTH_M
    return CORNERS["front" if speaker.position.x_m < MIDDLE * length_m else "rear", speaker.side]


def joined_in_corners(design: Design, groups: list[list[str]], channels: int) -> list[list[str]]:
    """Speaker positions by channel where there are fewer channels than factory pairs: the high and the low pair of a
    corner share one, behind before in front and left as right.

    Parameters:
        design: the design.
        groups: speaker ids that share a pair, pair by pair.
        channels: how many channels are free.

    Returns:
        groups of speaker ids, no more than there are channels; as given where they suffice, or where no such joining
        does. Source: common practice.
    """
    joined = groups
    for axle in ("rear", "front"):
        if len(joined) <= channels:
            break
        corners: dict[object, list[str]] = {}
        for group in joined:
            place = corner_of(design, group[0])
            shared = place.axle == axle and place.side
            corners.setdefault(place if shared else group[0], []).extend(group)
        joined = list(corners.values())
    return joined if len(joined) <= channels else groups
