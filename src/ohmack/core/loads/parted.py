"""How the speakers of one corner part the sound between them: woofer, midrange, tweeter."""

from __future__ import annotations

from collections.abc import Iterable

from ohmack.core.document import Design
from ohmack.core.document.factory import Band, ChannelPlace
from ohmack.core.document.links import SpeakerLink
from ohmack.core.document.parts import Subwoofer
from ohmack.core.loads.corners import corner_of
from ohmack.core.loads.driven import new_driver, tweeter_at

# How high above the bass the works let a speaker begin, by what its pair carries.
BEGINS = {Band.LOW: 0, Band.LOW_MID: 1, Band.FULL: 1, Band.MID: 2, Band.MID_HIGH: 2, Band.HIGH: 2}


def _band(design: Design, place_id: str) -> Band | None:
    """What the works gave a place to play, by its pair; None where it has none, or nobody knows."""
    speaker = next((s for s in design.vehicle.speakers if s.id == place_id), None)
    pair = next((c for c in design.vehicle.channels if speaker is not None and c.id == speaker.channel_id), None)
    return None if pair is None else pair.band.value


def woofer_at(design: Design, place_id: str) -> bool:
    """Whether what plays in a place leaves the treble to others: a new woofer, or the car's own that the works gave
    the lower part of the sound.
    """
    new = new_driver(design, place_id)
    if new is not None:
        return new.role == "woofer"
    bought = any(place_id in part.at_ids for part in design.parts_of(Subwoofer))
    return not bought and _band(design, place_id) in (Band.LOW, Band.LOW_MID)


def _begins(design: Design, place_id: str) -> int:
    """How high above the bass what plays in a place begins, beside others of its corner."""
    new, band = new_driver(design, place_id), _band(design, place_id)
    if new is not None and new.role == "woofer":
        return 0
    known = 1 if band is None else BEGINS[band]
    return max(known, 1) if new is not None else known


def midrange_at(design: Design, place_id: str) -> bool:
    """Whether what plays in a place, no tweeter, leaves the bass to a woofer of its corner that goes further down:
    then it is the middle one of three, or the upper one of two.
    """
    corner = corner_of(design, place_id)
    if corner is ChannelPlace.SUB or tweeter_at(design, place_id) or not (begins := _begins(design, place_id)):
        return False
    return any(
        corner_of(design, s.id) is corner and woofer_at(design, s.id) and _begins(design, s.id) < begins
        for s in design.vehicle.speakers
    )


def above_the_bass(design: Design, links: Iterable[SpeakerLink]) -> bool:
    """Whether some speaker cables end at tweeters or midranges alone, which leave the bass to others."""
    return all(tweeter_at(design, link.to_id) or midrange_at(design, link.to_id) for link in links)
