"""Speakers in the headrests: two a front seat, both on the rear pair of their side."""

from __future__ import annotations

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit
from ohmack.core.document.factory import ChannelPlace, Radio
from ohmack.core.document.handles import at_the
from ohmack.core.document.vehicle import SpeakerPlace, Vehicle
from ohmack.core.errors import NotPossible
from ohmack.core.fit.places import PROPORTIONS

SEAT_Y = 0.42  # middle of an outer seat, share of half the width
EAR_M = 0.09  # from the middle of a headrest to either speaker
BACK_M = 0.62  # from a seat's front edge to its headrest; common practice


def add_headrests(design: Design) -> tuple[Edit, ...]:
    """Edits that add two new speaker places to each front seat, with the rear pairs they hang on where there are none.

    Parameters:
        design: the design.

    Returns:
        the edits, the first place first; the speakers of a seat are on file as parallel, which their load will judge.

    Raises:
        NotPossible: no front seats, or there are such speakers already.
    """
    vehicle = design.vehicle
    typical = PROPORTIONS[vehicle.body]
    if not typical.seats:
        raise NotPossible("headrest", "This body has no front seats.")
    if any(s.place is SpeakerPlace.HEADREST for s in vehicle.speakers):
        raise NotPossible("headrest", "The headrests have their speakers already; add one more as a new speaker place.")
    length_m, half_m = vehicle.length_m.value or typical.length_m, (vehicle.width_m.value or typical.width_m) / 2
    speakers: list[Edit] = []
    pairs: list[Edit] = []
    for side, sign, place in (("left", -1, ChannelPlace.REAR_LEFT), ("right", 1, ChannelPlace.REAR_RIGHT)):
        known = next((c.id for c in vehicle.radio.channels if c.place is place), None)
        channel_id = known or f"ch-{place.value.replace(' ', '-')}"
        if known is None:
            pair = {"id": channel_id, "name": place.value.capitalize(), "place": place.value}
            pairs.append(Edit(op="add", path=at_the(Radio, lambda it: it.channels), value=pair))
        ids = [f"headrest-{side}-{ear}" for ear in ("outer", "inner")]
        for own, other, ear in zip(ids, (None, ids[0]), (1, -1), strict=True):
            y_m = sign * (SEAT_Y * half_m + ear * EAR_M)
            tree = {
                "id": own,
                "name": f"{side.capitalize()} headrest, {own.rpartition('-')[2]}",
                "position": {"x_m": round(typical.seats[0] * length_m + BACK_M, 2), "y_m": round(y_m, 2)},
                "place": SpeakerPlace.HEADREST.value,
                "new_place": True,
                "channel_id": channel_id,
                "paired_with_id": other,
            }
            speakers.append(Edit(op="add", path=at_the(Vehicle, lambda it: it.speakers), value=tree))
    return (*pairs, *speakers)
