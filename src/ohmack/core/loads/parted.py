"""How new speakers of one corner part the sound between them: woofer, midrange, tweeter."""

from __future__ import annotations

from collections.abc import Iterable

from ohmack.core.document import Design
from ohmack.core.document.links import SpeakerLink
from ohmack.core.document.parts import Driver
from ohmack.core.loads.corners import corner_of
from ohmack.core.loads.driven import new_driver, tweeter_at


def midrange_at(design: Design, place_id: str) -> bool:
    """Whether a new full-range speaker plays in a place, above a new woofer of its corner: then it is the middle one
    of three, or the upper one of two.
    """
    new = new_driver(design, place_id)
    if new is None or new.role != "full range":
        return False
    corner = corner_of(design, place_id)
    woofers = (part for part in design.parts_of(Driver) if part.role == "woofer")
    return any(corner_of(design, other) is corner for part in woofers for other in part.at_ids)


def above_the_bass(design: Design, links: Iterable[SpeakerLink]) -> bool:
    """Whether some speaker cables end at tweeters or midranges alone, which leave the bass to others."""
    return all(tweeter_at(design, link.to_id) or midrange_at(design, link.to_id) for link in links)
