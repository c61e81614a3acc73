"""A crossover net and what it parts: woofer and tweeter of a corner, on one channel of their amplifier."""

from __future__ import annotations

from collections.abc import Iterable

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit
from ohmack.core.document.handles import at
from ohmack.core.document.links import SpeakerLink
from ohmack.core.document.parts import Driver
from ohmack.core.document.small_parts import CrossoverNet
from ohmack.core.loads.corners import corner_of
from ohmack.core.loads.crossover_nets import MOST_PLACES
from ohmack.core.loads.driven import tweeter_at


def woofers_and_tweeters(design: Design, own: CrossoverNet | None = None) -> list[str]:
    """The places of new woofers and tweeters, which a crossover net goes between, but for those another net has."""
    lower = [part for part in design.parts_of(Driver) if part.role == "woofer"]
    parts = [*lower, *(part for part in design.parts_of(Driver) if part.role == "tweeter")]
    taken = {name for net in design.parts_of(CrossoverNet) if net is not own for name in net.at_ids}
    return [name for part in parts for name in part.at_ids if name not in taken][:MOST_PLACES]


def nets_anew(design: Design) -> tuple[Edit, ...]:
    """Edits that put a new crossover net which parts nothing yet between new woofers and tweeters, and hang both of a
    corner on the first of the channels they have.

    Parameters:
        design: the design, with the part that was added last.

    Returns:
        the edits; a net that parts something stays where it is, and cables that lie in the car or are bridged do too.
    """
    edits: list[Edit] = []
    for net in design.new_parts_of(CrossoverNet):
        places = list(net.at_ids)
        if not _corners(design, places):
            places = woofers_and_tweeters(design, net)
        if places != list(net.at_ids):
            edits.append(Edit(path=at(net, lambda it: it.at_ids), value=places))
        for corner in _corners(design, places):
            edits += _on_one_channel([k for k in design.links_of(SpeakerLink) if k.to_id in corner])
    return tuple(edits)


def _on_one_channel(links: list[SpeakerLink]) -> list[Edit]:
    """Edits that hang the leads of one corner on the first of their channels; none where they are of several
    amplifiers, bridged or there already.
    """
    if len({link.from_id for link in links}) != 1 or any(link.bridged or link.in_car for link in links):
        return []
    first = min(link.channel for link in links)
    return [Edit(path=at(link, lambda it: it.channel), value=first) for link in links if link.channel != first]


def parted_with(design: Design, place_id: str) -> set[str]:
    """The places of its corner that a crossover net parts a place from."""
    nets = (part.at_ids for part in design.parts_of(CrossoverNet) if place_id in part.at_ids)
    corner = corner_of(design, place_id)
    return {name for places in nets for name in places if name != place_id and corner_of(design, name) is corner}


def _corners(design: Design, places: Iterable[str]) -> list[set[str]]:
    """Of some places those of a corner together, where it has a tweeter and what plays below it."""
    found: dict[object, set[str]] = {}
    for name in places:
        found.setdefault(corner_of(design, name), set()).add(name)
    return [names for names in found.values() if len({tweeter_at(design, name) for name in names}) > 1]
