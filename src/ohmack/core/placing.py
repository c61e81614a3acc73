"""Where a part goes first on the plan, until somebody moves it."""

from __future__ import annotations

from ohmack.core.document.vehicle import Vehicle

# (share of length, share of half width), common practice.
FIRST_PLACE = {
    "amplifier": (0.775, 0.0),
    "subwoofer": (0.885, 0.25),
    "box": (0.885, 0.25),
    "converter": (0.40, 0.38),
}


def first_place(kind: str, vehicle: Vehicle) -> dict[str, float] | None:
    """A sensible place for a kind of part; None for parts that have none of their own.

    Parameters:
        kind: the part's kind.
        vehicle: the car; typical sizes stand in where its own are not known.

    Returns:
        `x_m` and `y_m` [m].

    Source: common practice.
    """
    share = FIRST_PLACE.get(kind)
    if share is None:
        return None
    length_m, half_m = vehicle.length_m.value or 4.2, (vehicle.width_m.value or 1.75) / 2
    return {"x_m": round(share[0] * length_m, 2), "y_m": round(share[1] * half_m, 2)}
