"""Typical proportions of each body: where things sit until somebody measures or moves them."""

from __future__ import annotations

from ohmack.core.document.vehicle import Body, Hand, Vehicle
from ohmack.core.record import record

Share = tuple[float, float]  # (share of length from the nose, share of half width to the right)


@record
class Proportions:
    """Typical outer sizes in m and places as shares of length. Source: common practice."""

    length_m: float
    width_m: float
    wheelbase_m: float
    dash: float
    battery: float
    front_speaker: float
    rear_speaker: float | None
    ground: float
    amplifier: Share
    box: Share
    seats: tuple[float, ...]  # front edges of pairs of seats
    benches: tuple[float, ...] = ()


PROPORTIONS: dict[Body, Proportions] = {
    Body.HATCH: Proportions(
        4.05, 1.75, 2.55, 0.345, 0.16, 0.40, 0.60, 0.86, (0.775, 0.0), (0.885, 0.25), (0.44,), (0.655,)
    ),
    Body.SALOON: Proportions(
        4.60, 1.80, 2.70, 0.325, 0.16, 0.39, 0.57, 0.84, (0.735, 0.0), (0.86, 0.25), (0.41,), (0.585,)
    ),
    Body.ESTATE: Proportions(
        4.60, 1.80, 2.70, 0.325, 0.16, 0.40, 0.60, 0.86, (0.775, 0.0), (0.885, 0.25), (0.415,), (0.615,)
    ),
    Body.PICKUP: Proportions(
        5.30, 1.88, 3.20, 0.285, 0.13, 0.35, 0.46, 0.535, (0.525, -0.45), (0.505, 0.35), (0.36,), (0.465,)
    ),
    Body.COUPE: Proportions(
        4.45, 1.80, 2.60, 0.335, 0.16, 0.405, 0.615, 0.85, (0.745, 0.0), (0.87, 0.25), (0.43,), (0.61,)
    ),
    Body.EXTENDED_CAB: Proportions(
        5.30, 1.88, 3.20, 0.285, 0.13, 0.35, 0.435, 0.50, (0.485, -0.45), (0.475, 0.35), (0.36,), (0.445,)
    ),
    Body.TRUCK: Proportions(
        5.10, 1.90, 3.10, 0.295, 0.13, 0.355, None, 0.455, (0.45, -0.5), (0.45, 0.35), (), (0.375,)
    ),
    Body.ROADSTER: Proportions(3.95, 1.70, 2.30, 0.41, 0.14, 0.47, None, 0.81, (0.74, -0.35), (0.83, 0.3), (0.50,)),
    Body.VAN: Proportions(5.40, 1.97, 3.30, 0.185, 0.10, 0.22, None, 0.42, (0.40, -0.5), (0.46, 0.45), (0.245,)),
    Body.TWO_SEATER: Proportions(4.20, 1.78, 2.45, 0.40, 0.15, 0.46, None, 0.80, (0.73, -0.35), (0.82, 0.3), (0.495,)),
    Body.BUS: Proportions(
        5.20, 1.95, 3.10, 0.135, 0.30, 0.16, 0.62, 0.90, (0.88, -0.35), (0.915, 0.35), (0.185,), (0.36, 0.545, 0.73)
    ),
    Body.SUV: Proportions(
        4.65, 1.86, 2.72, 0.32, 0.15, 0.395, 0.59, 0.87, (0.775, 0.0), (0.88, 0.25), (0.41,), (0.605,)
    ),
    Body.PEOPLE_CARRIER: Proportions(
        4.65, 1.84, 2.80, 0.265, 0.11, 0.34, 0.53, 0.90, (0.915, -0.62), (0.93, 0.36), (0.35,), (0.54, 0.745)
    ),
    Body.CONVERTIBLE: Proportions(
        4.45, 1.80, 2.60, 0.335, 0.16, 0.405, 0.61, 0.89, (0.81, -0.35), (0.87, 0.2), (0.43,), (0.60,)
    ),
    Body.CART: Proportions(2.45, 1.20, 1.70, 0.33, 0.60, 0.40, None, 0.74, (0.52, -0.55), (0.82, 0.0), (), (0.46,)),
}


BULKHEAD_M = 0.30  # before the dash, where no way through it is on file; common practice


def bulkhead_m(vehicle: Vehicle) -> float:
    """How far behind the nose the bulkhead is: where the ways through it on file are, else where it usually is [m]."""
    if vehicle.passages:
        return min(passage.position.x_m for passage in vehicle.passages)
    typical = PROPORTIONS[vehicle.body]
    return typical.dash * (vehicle.length_m.value or typical.length_m) - BULKHEAD_M


CEILING_M, HIGH_CEILING_M = 1.1, 1.6  # from the floor to the headlining, in a car and in a van or bus; common practice


def ceiling_m(body: Body) -> float:
    """How far above the floor a body's headlining is [m]."""
    return HIGH_CEILING_M if body in (Body.VAN, Body.BUS) else CEILING_M


SEAT_ASIDE, SEAT_DEEP_M, SEAT_WIDE_M = 0.42, 0.48, 0.44  # a front seat: share of the half width; its sizes


def front_seat_over(vehicle: Vehicle, x_m: float, y_m: float) -> str:
    """Which front seat stands over a place of the car.

    Parameters:
        vehicle: the car; typical sizes stand in where its own are not known.
        x_m: from the nose [m].
        y_m: to the right of the centre line [m].

    Returns:
        "driver" or "passenger" for a seat of the first row; empty for none.

    Source: common practice.
    """
    typical = PROPORTIONS[vehicle.body]
    length_m, half_m = vehicle.length_m.value or typical.length_m, (vehicle.width_m.value or typical.width_m) / 2
    along_m = x_m - length_m * min(typical.seats, default=2.0)
    aside_m = abs(abs(y_m) - SEAT_ASIDE * half_m)
    if not 0 <= along_m <= SEAT_DEEP_M or aside_m > SEAT_WIDE_M / 2:
        return ""
    return "driver" if (y_m > 0) == (vehicle.hand_of_drive is Hand.RIGHT) else "passenger"


def _under_seat(typical: Proportions) -> float:
    """Under a front seat; where the car has none, under the bench."""
    return (min(typical.seats) if typical.seats else min(typical.benches)) + 0.05


def _power_side(vehicle: Vehicle) -> int:
    """1 where the power run goes down the car's right, -1 down its left: the side of its way through the bulkhead,
    else of the battery.
    """
    first = next(iter(vehicle.passages), None) or vehicle.supply.batteries[0]
    return 1 if first.position.y_m > 0 else -1


def first_place(kind: str, vehicle: Vehicle) -> dict[str, float] | None:
    """A sensible place for a kind of part; None for parts that have none of their own.

    Parameters:
        kind: the part's kind.
        vehicle: the car; typical sizes stand in where its own are not known.

    Returns:
        `x_m` and `y_m` [m].

    Source: common practice.
    """
    typical = PROPORTIONS[vehicle.body]
    passenger = -1 if vehicle.hand_of_drive is Hand.RIGHT else 1  # behind the glove box, clear of pedals and column
    share = {
        "amplifier": typical.amplifier,
        "distribution block": (typical.amplifier[0] - 0.1, 0.6 * _power_side(vehicle)),
        "capacitor": (typical.amplifier[0], typical.amplifier[1] - 0.35 * (1 if typical.amplifier[1] > 0 else -1)),
        "box": typical.box,
        "subwoofer": typical.box,
        "plug-in amplifier": typical.amplifier,
        "powered subwoofer": (_under_seat(typical), 0.42 * passenger),
        "processor": (typical.dash + 0.06, 0.38 * passenger),
        "converter": (typical.dash + 0.06, 0.38 * passenger),
        "voltage converter": (typical.dash + 0.06, 0.38 * passenger),
    }.get(kind)
    if share is None:
        return None
    length_m, half_m = vehicle.length_m.value or typical.length_m, (vehicle.width_m.value or typical.width_m) / 2
    return {"x_m": round(share[0] * length_m, 2), "y_m": round(share[1] * half_m, 2)}
