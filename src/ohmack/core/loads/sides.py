"""Left and right: which place of a car is another's mirror."""

from __future__ import annotations

from ohmack.core.document.vehicle import Speaker, Vehicle

SAME_M = 0.15  # so near along the car two places are each other's mirror


def mirrors(one: Speaker, other: Speaker) -> bool:
    """Whether two places of a kind lie across the car from each other."""
    across = {one.side, other.side} == {"left", "right"}
    return one.place is other.place and across and abs(one.position.x_m - other.position.x_m) < SAME_M


def mirror_of(vehicle: Vehicle, speaker: Speaker) -> Speaker | None:
    """The place across the car from a speaker's; None where there is none, or it sits in the middle."""
    return next((other for other in vehicle.speakers if mirrors(speaker, other)), None)
