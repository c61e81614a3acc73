"""Where pedals, column, airbags, seat rails, hinges, anchors and the exhaust sit in each body until somebody looked."""

from __future__ import annotations

from collections.abc import Iterator

from ohmack.core.document import Basis, Fact
from ohmack.core.document.cabin import Space, Zone, ZoneKind
from ohmack.core.document.facts import Position
from ohmack.core.document.vehicle import Body, Hand, Powertrain
from ohmack.core.fit.places import PROPORTIONS

# Space for a box: length, width, height, then width and height of the way in [m]. Common practice, by body.
SPACES: dict[Body, tuple[float, float, float, float, float]] = {
    Body.HATCH: (0.70, 1.00, 0.55, 0.95, 0.65),
    Body.SALOON: (1.00, 1.05, 0.50, 1.00, 0.42),
    Body.ESTATE: (1.05, 1.05, 0.60, 1.00, 0.65),
    Body.PICKUP: (0.25, 1.20, 0.50, 0.75, 0.50),
    Body.COUPE: (0.85, 1.00, 0.45, 0.90, 0.38),
    Body.EXTENDED_CAB: (0.20, 1.25, 0.55, 0.75, 0.55),
    Body.TRUCK: (0.18, 1.30, 0.50, 0.80, 0.50),
    Body.ROADSTER: (0.60, 0.90, 0.35, 0.80, 0.30),
    Body.VAN: (2.20, 1.50, 1.30, 1.40, 1.20),
    Body.TWO_SEATER: (0.70, 0.95, 0.40, 0.85, 0.35),
    Body.BUS: (0.50, 1.40, 0.80, 1.20, 0.90),
    Body.CART: (0.40, 0.90, 0.35, 0.80, 0.35),
    Body.SUV: (0.95, 1.05, 0.75, 1.05, 0.75),
    Body.PEOPLE_CARRIER: (0.42, 1.05, 0.75, 1.10, 0.85),
    Body.CONVERTIBLE: (0.65, 0.95, 0.36, 0.85, 0.30),
}
FOLDS = (  # whose rear seat-backs fold
    Body.HATCH, Body.ESTATE, Body.SALOON, Body.COUPE, Body.PICKUP, Body.EXTENDED_CAB, Body.BUS, Body.SUV,
    Body.PEOPLE_CARRIER,
)  # fmt: skip
SMALLER, LARGER = 0.75, 1.15  # how far such spaces differ, common practice
SEAT_Y = 0.42  # middle of an outer seat, share of half the width
Row = tuple[str, ZoneKind, str, float, float, float, float]  # id, kind, name, x, y, length, width [m]


AIRBAGS_FROM, SEAT_AIRBAGS_FROM = 1990, 1998  # model years from which a car may well have them; common practice


def typical_zones(body: Body, hand: Hand, powertrain: Powertrain, year: int | None = None) -> tuple[Zone, ...]:
    """The zones of a body, every one assumed.

    Parameters:
        body: kind of body; typical outer sizes are taken.
        hand: side the driver sits on.
        powertrain: an electric car has no exhaust.
        year: model year; one before airbags has none. None is one that may have them.

    Returns:
        zones as rectangles on the plan, sizes in [m].

    Source: common practice.
    """
    return tuple(
        Zone(
            id=f"zone-{name}", kind=kind, name=words, position=Position(x_m=round(x, 2), y_m=round(y, 2)),
            length_m=length, width_m=width, present=Fact[bool](value=True, basis=Basis.ASSUMED),
        )
        for name, kind, words, x, y, length, width in _rows(body, hand, powertrain)
        if kind is not ZoneKind.AIRBAG or year is None or year >= _airbags_from(name)
    )  # fmt: skip


def typical_space(body: Body, length_m: float, width_m: float) -> Space:
    """The space a box usually goes into, every size assumed with its range.

    Parameters:
        body: kind of body.
        length_m: length of the car [m].
        width_m: width of the car [m].

    Returns:
        the space, sizes in [m].

    Source: common practice.
    """
    share_x, share_y = PROPORTIONS[body].box
    names = ("length_m", "width_m", "height_m", "opening_width_m", "opening_height_m")
    sizes = {
        name: Fact[float](
            value=value, low=round(SMALLER * value, 2), high=round(LARGER * value, 2), basis=Basis.ASSUMED
        )
        for name, value in zip(names, SPACES[body], strict=True)
    }
    name = "Behind the seat" if body in (Body.CART, Body.PICKUP, Body.EXTENDED_CAB, Body.TRUCK) else "Load space"
    along_m, across_m = SPACES[body][0] / 2 + 0.06, SPACES[body][1] / 2 + 0.06
    x_m = min(max(share_x * length_m, along_m), length_m - along_m)
    y_m = max(0.0, min(share_y * width_m / 2, width_m / 2 - across_m))  # the whole of it on the body
    place = Position(x_m=round(x_m, 2), y_m=round(y_m, 2))
    return Space(id="space-rear", name=name, position=place, **sizes)


def _airbags_from(name: str) -> int:
    return SEAT_AIRBAGS_FROM if name.startswith("airbag-seat") else AIRBAGS_FROM


def _rows(body: Body, hand: Hand, powertrain: Powertrain) -> Iterator[Row]:
    typical = PROPORTIONS[body]
    length_m, half_m = typical.length_m, typical.width_m / 2
    first = min((*typical.seats, *typical.benches)) * length_m
    driver_y = SEAT_Y * half_m * (1 if hand is Hand.RIGHT else -1)
    yield "pedals", ZoneKind.PEDALS, "Pedals", first - 0.52, driver_y, 0.28, 0.40
    yield "column", ZoneKind.STEERING, "Steering column", first - 0.20, driver_y, 0.34, 0.13
    for number, seat in enumerate(typical.seats, start=1):
        for side, sign in (("right", 1), ("left", -1)):
            y = sign * SEAT_Y * half_m
            for rail, offset in (("inner", -0.18), ("outer", 0.18)):
                name = f"rail-{number}-{side}-{rail}"
                yield (
                    name,
                    ZoneKind.SEAT_RAIL,
                    f"Seat rail, {side} {rail}",
                    seat * length_m + 0.24,
                    y + sign * offset,
                    0.46,
                    0.05,
                )
            if body is not Body.CART:
                yield (
                    f"airbag-seat-{number}-{side}", ZoneKind.AIRBAG, f"Seat airbag, {side}",
                    seat * length_m + 0.40, y + sign * 0.24, 0.16, 0.07,
                )  # fmt: skip
    if body is not Body.CART:
        yield (
            "airbag-passenger",
            ZoneKind.AIRBAG,
            "Passenger airbag",
            typical.dash * length_m + 0.02,
            -driver_y,
            0.14,
            0.42,
        )
        for number, bench in enumerate(typical.benches, start=1):
            for side, sign in (("right", 1), ("left", -1)):
                back = bench * length_m + 0.40
                if body in FOLDS:
                    yield (
                        f"hinge-{number}-{side}",
                        ZoneKind.HINGE,
                        f"Seat-back hinge, {side}",
                        back,
                        sign * 0.66 * half_m,
                        0.16,
                        0.06,
                    )
                yield (
                    f"anchor-{number}-{side}",
                    ZoneKind.ANCHOR,
                    f"Child-seat anchor, {side}",
                    back + 0.02,
                    sign * 0.34 * half_m,
                    0.10,
                    0.22,
                )
    if body is Body.CONVERTIBLE:
        well = max(typical.benches) * length_m + 0.64
        yield "roof", ZoneKind.ROOF, "Folded roof", well, 0.0, 0.34, 1.24
    if powertrain is not Powertrain.ELECTRIC and body is not Body.CART:
        start, end = first - 0.1, 0.93 * length_m
        yield "tunnel", ZoneKind.HEAT, "Exhaust tunnel", (start + end) / 2, 0.0, round(end - start, 2), 0.16
