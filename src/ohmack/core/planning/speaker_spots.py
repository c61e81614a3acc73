"""Which places of the car new speakers take where nobody says: a free pair they do not fall through, pillars for
tweeters, else places of their own.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit
from ohmack.core.document.factory import ChannelPlace
from ohmack.core.document.parts import Driver
from ohmack.core.document.vehicle import Speaker, SpeakerPlace
from ohmack.core.errors import NotPossible
from ohmack.core.planning.headrests import add_headrests
from ohmack.core.planning.typical_speakers import add_boxes, add_dash_centre, add_dash_corners, add_pillars

Spots = tuple[list[str], tuple[Edit, ...]]
BESIDE_M = 0.4  # so near along the car a left and a right place are a pair
A_SET = 4  # a pair for either front seat
DASH_FRAME_MM = 100.0  # the widest that sits in the corner of a dash, common practice


def speaker_spots(design: Design, tree: dict[str, Any]) -> Spots:
    """Where new speakers go.

    Parameters:
        design: the design.
        tree: the data of the speaker, its pieces, role and sizes among them.

    Returns:
        the ids of the places, none where all are taken, and the edits that make those the car has not got. What would
        fall through every free hole gets new ones: in the dash what is small, one in its middle, in the seats a set of
        four. What is sold in a box stands in the car and goes into no hole. Source: common practice.
    """
    if tree.get("role") == "tweeter":
        return _tweeter_places(design)
    pairs = list(_free_pairs(design))
    if tree.get("own_box"):
        pairs = [pair for pair in pairs if pair[0].place is SpeakerPlace.BOX]
        return ([place.id for place in pairs[0]], ()) if pairs else _made(add_boxes, design) or ([], ())
    if not design.vehicle.speakers:
        return _made(add_boxes, design) or ([], ())  # nobody cut a hole for one
    held = next((pair for pair in pairs if not _falls_through(pair[0], tree)), None)
    if held is None and pairs:
        make = _own_places(tree)
        if make is not None and (found := _made(make, design)) is not None:
            return found
    taken = held or next(iter(pairs), [])
    return [place.id for place in taken], ()


def sub_pairs(design: Design) -> set[str]:
    """The pairs that carry the bass for the car's own subwoofer."""
    return {c.id for c in design.vehicle.channels if c.place is ChannelPlace.SUB}


def _own_places(tree: dict[str, Any]) -> Callable[[Design], tuple[Edit, ...]] | None:
    """What makes places for speakers too small for the doors; None where nothing does."""
    pieces = tree.get("pieces", 2)
    if pieces >= A_SET:
        return add_headrests
    if tree.get("frame_mm", 0.0) > DASH_FRAME_MM:
        return None
    return {1: add_dash_centre, 2: add_dash_corners}.get(pieces)


def _made(make: Callable[[Design], tuple[Edit, ...]], design: Design) -> Spots | None:
    """Places of their own; None where the car has such places already, or no room for them."""
    try:
        edits = make(design)
    except NotPossible:
        return None
    return [edit.value["id"] for edit in edits if "channel_id" in edit.value], edits


def _falls_through(place: Speaker, tree: dict[str, Any]) -> bool:
    """Whether a speaker's whole frame goes through the hole of a place, as far as that is known."""
    hole_mm, frame_mm = place.cut_out_mm.value, tree.get("frame_mm")
    return hole_mm is not None and frame_mm is not None and not place.adapter_ring_mm.value and hole_mm > frame_mm


def _free_pairs(design: Design) -> Iterator[list[Speaker]]:
    """Left and right positions that have no new speaker yet, the first first; before them places the car had none at
    before, all of a kind together.
    """
    taken = {name for part in design.parts_of(Driver) for name in part.at_ids}
    free = [s for s in design.vehicle.speakers if s.id not in taken]
    waiting = [s for s in free if s.new_place]
    if waiting:
        yield [s for s in waiting if s.place is waiting[0].place][:8]
        return
    free = [s for s in free if s.channel_id not in sub_pairs(design)]
    free = [s for s in free if s.place is not SpeakerPlace.PILLAR] or free  # a pillar takes a tweeter
    while free:
        first = free.pop(0)
        other = min(
            (s for s in free if s.position.y_m * first.position.y_m < 0),
            key=lambda s: abs(s.position.x_m - first.position.x_m),
            default=None,
        )
        if other is None or abs(other.position.x_m - first.position.x_m) >= BESIDE_M:
            yield [first]
            continue
        free.remove(other)
        yield [first, other]


def _tweeter_places(design: Design) -> Spots:
    """Where a pair of tweeters goes: pillars that are free, else new places at both."""
    taken = {name for part in design.parts_of(Driver) for name in part.at_ids}
    free = [s.id for s in design.vehicle.speakers if s.place is SpeakerPlace.PILLAR and s.id not in taken]
    if free:
        return free[:2], ()
    if (found := _made(add_pillars, design)) is not None:
        return found
    return [place.id for place in next(_free_pairs(design), [])], ()  # there are some, and they are taken
