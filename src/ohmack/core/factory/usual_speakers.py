"""The speakers a works usually fits beside the doors': where each sits, what it carries and takes."""

from __future__ import annotations

from typing import Any

from ohmack.core.document.factory import Band, ChannelPlace
from ohmack.core.document.vehicle import SpeakerPlace, Vehicle
from ohmack.core.fit.places import PROPORTIONS
from ohmack.core.record import record

FRONT = (ChannelPlace.FRONT_LEFT, ChannelPlace.FRONT_RIGHT)
REAR = (ChannelPlace.REAR_LEFT, ChannelPlace.REAR_RIGHT)


@record
class SpeakerSet:
    """One kind of speaker a works fits: a left and a right one, or one in the middle."""

    key: str
    words: str
    name: str
    place: SpeakerPlace
    pairs: tuple[ChannelPlace, ...]
    band: Band
    along: float  # share of the car's length
    aside: float  # share of half its width
    takes_w: float  # RMS power one usually takes; from half to double of it
    hole_mm: float | None = None  # the cut-out one usually has, where its size says what it plays


MIDDLE, BASS = (ChannelPlace.CENTRE,), (ChannelPlace.SUB,)
P = SpeakerPlace
SETS = (
    SpeakerSet("tweeter", "Front tweeters", "Front tweeter", P.PILLAR, FRONT, Band.HIGH, 0.33, 0.78, 15.0),
    SpeakerSet("dash-mid", "Mids in the dash", "Dash mid", P.DASH, FRONT, Band.MID, 0.31, 0.62, 20.0, 77.0),
    SpeakerSet("underseat", "Woofers under the seats", "Seat woofer", P.SIDE, FRONT, Band.LOW, 0.47, 0.4, 40.0, 165.0),
    SpeakerSet("rear-tweeter", "Rear tweeters", "Rear tweeter", P.DOOR, REAR, Band.HIGH, 0.57, 0.84, 15.0),
    SpeakerSet("shelf", "In the shelf or the sides behind", "Shelf", P.SHELF, REAR, Band.FULL, 0.77, 0.42, 30.0, 142.0),
    SpeakerSet("centre", "A centre in the dash", "Centre", P.DASH, MIDDLE, Band.MID, 0.30, 0.0, 20.0, 77.0),
    SpeakerSet("boot-sub", "A subwoofer behind", "Factory subwoofer", P.BOOT, BASS, Band.LOW, 0.87, 0.15, 60.0),
)


def name_of(one: SpeakerSet, place: ChannelPlace) -> str:
    """What one speaker of a set is called."""
    side = place.value.split()[-1]
    return f"{one.name} {side}" if side in ("left", "right") else one.name


def usual_speaker(
    vehicle: Vehicle, one: SpeakerSet, place: ChannelPlace, own_id: str, channel_id: str
) -> dict[str, Any]:
    """One speaker of a set as a document holds it, all of it assumed.

    Parameters:
        vehicle: the car; typical sizes stand in where its own are not known.
        one: the set.
        place: which of its places.
        own_id, channel_id: its id and that of the pair it hangs on.

    Returns:
        the speaker. Source of place, ohms, power and size: common practice.
    """
    typical = PROPORTIONS[vehicle.body]
    length_m = vehicle.length_m.value or typical.length_m
    half_m = (vehicle.width_m.value or typical.width_m) / 2
    side = {"left": -1.0, "right": 1.0}.get(place.value.split()[-1], 1.0)
    tree = {
        "id": own_id,
        "name": name_of(one, place),
        "position": {"x_m": round(one.along * length_m, 2), "y_m": round(side * one.aside * half_m, 2)},
        "place": one.place.value,
        "channel_id": channel_id,
    }
    fact = {"basis": "assumed", "value": 4.0, "low": 2.0, "high": 8.0}
    kind = {"tweeter": True} if one.band is Band.HIGH else {}
    takes = {"basis": "assumed", "value": one.takes_w, "low": one.takes_w / 2, "high": one.takes_w * 2}
    hole = {} if one.hole_mm is None else {"cut_out_mm": _about(one.hole_mm)}
    return {**tree, **kind, **hole, "impedance_ohm": fact, "takes_w": takes}


def _about(hole_mm: float) -> dict[str, Any]:
    """A cut-out as it is assumed until somebody measures it."""
    return {"basis": "assumed", "value": hole_mm, "low": round(0.8 * hole_mm), "high": round(1.2 * hole_mm)}
