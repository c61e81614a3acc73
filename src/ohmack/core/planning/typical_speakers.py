"""Speaker places cars often have, or get, besides the doors: dash corners, pillars, the rear shelf and the ceiling, in
pairs.
"""

from __future__ import annotations

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.factory import ChannelPlace, Radio
from ohmack.core.document.handles import at_the
from ohmack.core.document.vehicle import Body, SpeakerPlace, Vehicle
from ohmack.core.errors import NotPossible
from ohmack.core.factory.usual_speakers import FRONT, SETS
from ohmack.core.fit.places import PROPORTIONS
from ohmack.core.loads.corners import corner_of
from ohmack.core.planning.works_places import CORNER_SIDE, SHELF_SIDE, corner_m, shelf_m


def _pair(
    design: Design,
    stem: str,
    name: str,
    place: SpeakerPlace,
    x_m: float,
    side: float,
    channels: tuple[ChannelPlace, ...],
) -> tuple[Edit, ...]:
    """Edits that add a place left and right, each on the pair of its corner where the car has one."""
    vehicle = design.vehicle
    if any(s.id.startswith(stem) for s in vehicle.speakers):
        raise NotPossible(stem, f"{name} speakers are on file already; add one more as a new speaker place.")
    half_m = (vehicle.width_m.value or PROPORTIONS[vehicle.body].width_m) / 2
    edits = []
    for word, sign, channel in (("left", -1, channels[0]), ("right", 1, channels[1])):
        doors = (s.channel_id for s in vehicle.speakers if s.channel_id and corner_of(design, s.id) is channel)
        known = next(doors, None) or next((c.id for c in vehicle.radio.channels if c.place is channel), None)
        tree = {
            "id": f"{stem}-{word}",
            "name": f"{name} {word}",
            "position": {"x_m": round(x_m, 2), "y_m": round(sign * side * half_m, 2)},
            "place": place.value,
            "channel_id": known,
            "new_place": True,
        }
        edits.append(Edit(op="add", path=at_the(Vehicle, lambda it: it.speakers), value=tree))
    return tuple(edits)


def add_dash_corners(design: Design) -> tuple[Edit, ...]:
    """Edits that add a speaker place in either corner of the dash, on the front pairs.

    Raises:
        NotPossible: they are on file already.
    """
    x_m = corner_m(design.vehicle)
    front = (ChannelPlace.FRONT_LEFT, ChannelPlace.FRONT_RIGHT)
    return _pair(design, "dash-corner", "Dash corner", SpeakerPlace.DASH, x_m, CORNER_SIDE, front)


def add_dash_centre(design: Design) -> tuple[Edit, ...]:
    """The edit that adds a speaker place in the middle of the dash, on the centre's pair where the car has one.

    Raises:
        NotPossible: it is on file already.
    """
    vehicle = design.vehicle
    if any(s.place is SpeakerPlace.DASH and not s.side for s in vehicle.speakers):
        raise NotPossible("dash-centre", "A speaker in the middle of the dash is on file already.")
    usual = next(one for one in SETS if one.key == "centre")
    length_m = vehicle.length_m.value or PROPORTIONS[vehicle.body].length_m
    tree = {
        "id": "dash-centre",
        "name": "Dash centre",
        "position": {"x_m": round(usual.along * length_m, 2), "y_m": 0.0},
        "place": SpeakerPlace.DASH.value,
        "channel_id": next((c.id for c in vehicle.channels if c.place is ChannelPlace.CENTRE), None),
        "new_place": True,
    }
    return (Edit(op="add", path=at_the(Vehicle, lambda it: it.speakers), value=tree),)


def add_pillars(design: Design) -> tuple[Edit, ...]:
    """Edits that add a place for a tweeter at either front pillar, on the front pairs.

    Raises:
        NotPossible: they are on file already.
    """
    usual = next(one for one in SETS if one.key == "tweeter")
    x_m = usual.along * (design.vehicle.length_m.value or PROPORTIONS[design.vehicle.body].length_m)
    return _pair(design, "pillar", "Front pillar", usual.place, x_m, usual.aside, FRONT)


def add_boxes(design: Design) -> tuple[Edit, ...]:
    """Edits that add two boxes with a speaker each, behind the seats, on pairs of their own.

    Raises:
        NotPossible: they are on file already.
    """
    typical = PROPORTIONS[design.vehicle.body]
    x_m = min(0.98, typical.box[0]) * (design.vehicle.length_m.value or typical.length_m)
    places = (ChannelPlace.REAR_LEFT, ChannelPlace.REAR_RIGHT)
    have = {c.place for c in design.vehicle.radio.channels}
    pairs = tuple(
        Edit(op="add", path=at_the(Radio, lambda it: it.channels), value={
            "id": f"ch-{place.value.replace(' ', '-')}", "name": place.value.capitalize(), "place": place.value})
        for place in places
        if place not in have
    )  # fmt: skip
    with_pairs = apply_edits(design, pairs) if pairs else design
    return (*pairs, *_pair(with_pairs, "box-speaker", "Box", SpeakerPlace.BOX, x_m, BOX_SIDE, places))


BOX_SIDE = 0.62


def add_rear_shelf(design: Design) -> tuple[Edit, ...]:
    """Edits that add two speaker places in the rear shelf, on the rear pairs.

    Raises:
        NotPossible: the body has no rear shelf, or they are on file already.
    """
    x_m = shelf_m(design.vehicle)
    if x_m is None:
        raise NotPossible("rear shelf", "This body has no rear shelf.")
    rear = (ChannelPlace.REAR_LEFT, ChannelPlace.REAR_RIGHT)
    return _pair(design, "rear-shelf", "Rear shelf", SpeakerPlace.SHELF, x_m, SHELF_SIDE, rear)


CEILING_SIDE, LAST = 0.5, 0.86  # shares of half the width and of the length
PITCH_M, BEHIND_M = 0.8, 0.5  # from row to row, and behind the front edge of the first seats; all common practice
OPEN_TOP = (Body.ROADSTER, Body.CONVERTIBLE, Body.CART)


def add_ceiling(design: Design) -> tuple[Edit, ...]:
    """Edits that add one more pair of speaker places in the ceiling, behind those there are, on the rear pairs.

    Raises:
        NotPossible: the body has no roof over its seats, or there is no room for one more.
    """
    body, typical = design.vehicle.body, PROPORTIONS[design.vehicle.body]
    if body in OPEN_TOP:
        raise NotPossible("ceiling", "This body has no ceiling.")
    length_m = design.vehicle.length_m.value or typical.length_m
    rows = sum(1 for s in design.vehicle.speakers if s.place is SpeakerPlace.CEILING and s.side == "left")
    first = min((*typical.seats, *typical.benches)) * length_m + BEHIND_M
    x_m = first + rows * PITCH_M
    if x_m > LAST * length_m:
        raise NotPossible("ceiling", "The ceiling is full; add one more as a new speaker place.")
    rear = (ChannelPlace.REAR_LEFT, ChannelPlace.REAR_RIGHT)
    word = f"Ceiling row {rows + 1}" if rows else "Ceiling"
    return _pair(design, f"ceiling-{rows + 1}", word, SpeakerPlace.CEILING, x_m, CEILING_SIDE, rear)
