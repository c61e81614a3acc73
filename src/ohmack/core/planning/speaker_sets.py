"""What a works fitted beside the door speakers, set by set: tweeters, mids, a centre, woofers, each on the pair of the
door or on one of its own.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from ohmack.core.document import Basis, Design
from ohmack.core.document.edits import Edit
from ohmack.core.document.factory import Band, ChannelPlace, Module, Radio
from ohmack.core.document.handles import at, at_the, within
from ohmack.core.document.ids import free_id
from ohmack.core.document.vehicle import SpeakerPlace, Vehicle
from ohmack.core.errors import UnknownName
from ohmack.core.factory.usual_speakers import FRONT, REAR, SETS, SpeakerSet, name_of, usual_speaker

SHARED, OWN = "on the door's pair", "on a pair of its own"


def sets_to_add(design: Design) -> tuple[SpeakerSet, ...]:
    """The sets a car has not on file yet.

    Parameters:
        design: the design.

    Returns:
        the sets, front to rear; one that is on file in any way is left out.
    """
    ids = {s.id for s in design.vehicle.speakers}
    has_sub = any(s.place is SpeakerPlace.BOOT for s in design.vehicle.speakers)
    return tuple(
        one
        for one in SETS
        if not any(name.startswith(f"spk-{one.key}") for name in ids) and not (one.key == "boot-sub" and has_sub)
    )


def ways_of(design: Design, one: SpeakerSet) -> tuple[str, ...]:
    """How a set may hang: only with the doors' speakers where it stands at doors and those have pairs on file."""
    places = {channel.place for channel in main_source(design).channels}
    with_doors = set(one.pairs) <= places & {*FRONT, *REAR}
    return (SHARED, OWN) if with_doors else (OWN,)


def main_source(design: Design) -> Radio | Module:
    """What drives the speakers: the factory amplifier with pairs, else the radio."""
    vehicle = design.vehicle
    return next((m for m in vehicle.modules if m.amplifies and len(m.channels) > 1), vehicle.radio)


def add_sets(design: Design, chosen: Mapping[str, str]) -> tuple[Edit, ...]:
    """Edits that put sets of speakers into a car as its works fitted them, all assumed.

    Parameters:
        design: the design.
        chosen: SHARED or OWN by the key of a set; "" leaves one out.

    Returns:
        the edits: the pairs that are not on file, the speakers on them, and the door pairs told to carry no treble
        where tweeters have pairs of their own. Source of bands, places and powers: common practice.

    Raises:
        UnknownName: no such set.
    """
    known = {one.key: one for one in sets_to_add(design)}
    taken = design.taken_ids()
    source = main_source(design)
    held = at(source, lambda it: it.channels)
    by_place = {c.place: c.id for c in reversed(source.channels) if c.place is not None}
    edits: list[Edit] = []
    split: set[ChannelPlace] = set()
    for key, how in chosen.items():
        if not how:
            continue
        if key not in known:
            raise UnknownName("set of speakers", key, ", ".join(known))
        one = known[key]
        for place in one.pairs:
            channel_id = None if how == OWN else by_place.get(place)
            if channel_id is None:
                channel_id = free_id(f"pair-{one.key}-{place.value.split()[-1]}", taken)
                taken.add(channel_id)
                tree = {"id": channel_id, "name": name_of(one, place), "place": place.value, "band": _carries(one.band)}
                edits.append(Edit(op="add", path=held, value=tree))
                if one.band is Band.HIGH:
                    split.add(place)
            own_id = free_id(f"spk-{one.key}-{place.value.split()[-1]}", taken)
            taken.add(own_id)
            tree = usual_speaker(design.vehicle, one, place, own_id, channel_id)
            edits.append(Edit(op="add", path=at_the(Vehicle, lambda it: it.speakers), value=tree))
    for channel in source.channels:
        if channel.place in split and channel.band.value is Band.FULL and channel.band.basis is Basis.ASSUMED:
            path = within(held, channel, lambda it: it.band)
            edits.append(Edit(path=path, value=_carries(Band.LOW_MID)))
    return tuple(edits)


def _carries(band: Band) -> dict[str, Any]:
    """A band as it is assumed until the sweep shows it."""
    others = [] if band is Band.FULL else [Band.FULL.value]
    return {"value": band.value, "basis": "assumed", "alternatives": others}
