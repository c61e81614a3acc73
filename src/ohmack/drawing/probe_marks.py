"""Where a check sits on the car: two probes and the meter between them; every reading as a mark where it was taken."""

from __future__ import annotations

from collections.abc import Sequence
from math import cos, hypot, pi, sin

from markupsafe import Markup

from ohmack.core.document.vehicle import Vehicle
from ohmack.core.prove.checks import Check, Spot
from ohmack.core.prove.judged import Judged, State
from ohmack.core.wording import SHOWN
from ohmack.drawing.car import NARROW, Frame, draw_car
from ohmack.drawing.picture import Picture, box_at
from ohmack.drawing.svg import el, group, label, text_width

CARD_HEIGHT, MARGIN = 150.0, 16.0
APART_PX = 26.0  # two probes at one place are drawn so far from each other
NEAR = tuple(
    (dx, dy) for r in (30, 46, 62) for dx, dy in ((0, -r), (r, -r / 2), (-r, -r / 2), (0, r), (r, r / 2), (-r, r / 2))
)
SIGNS = {State.PASSED: ("✓", "proved"), State.ACCEPTED: ("✓", "accepted"), State.OFF: ("!", "off"),
         State.AGAIN: ("↻", "again"), State.UNJUDGED: ("?", "again"), State.OPEN: ("", "open")}  # fmt: skip
WORST = (State.OFF, State.AGAIN, State.UNJUDGED, State.OPEN, State.ACCEPTED, State.PASSED)


def card_frame(vehicle: Vehicle) -> Frame:
    """The frame of a car that lies across a phone."""
    length_m, width_m = vehicle.length_m.value or 4.3, vehicle.width_m.value or 1.75
    px_per_m = min((NARROW - 2 * MARGIN) / length_m, (CARD_HEIGHT - 2 * MARGIN) / width_m)
    return Frame(length_m, width_m, px_per_m, (NARROW - length_m * px_per_m) / 2, CARD_HEIGHT / 2)


def draw_card(vehicle: Vehicle, check: Check) -> Markup:
    """One check on a small car, for a phone.

    Parameters:
        vehicle: the car.
        check: the check.

    Returns:
        an SVG, nose to the left; the probes where they sit, the meter between them.
    """
    frame = card_frame(vehicle)
    title = f"Where to measure: {check.title}"
    body = [draw_car(vehicle, frame), draw_probes(frame, check)]
    size = f"0 0 {NARROW:g} {CARD_HEIGHT:g}"
    return el("svg", el("title", title), *body, viewBox=size, class_="drawing probe-card", role="img", aria_label=title)


def draw_probes(frame: Frame, check: Check) -> Markup:
    """The probes of a check on a car that is drawn already; nothing where it has no place."""
    places = [frame.at(*spot.point) for spot in (check.plus, check.minus) if spot is not None and spot.point]
    if not places:
        return Markup("")
    if len(places) == 1 or not check.is_read:
        return group([_ring(*places[0])], class_="probes")
    (ax, ay), (bx, by) = places
    if hypot(ax - bx, ay - by) < APART_PX:
        ax, ay, bx, by = ax - APART_PX / 2, ay, bx + APART_PX / 2, by
    words = SHOWN.get(check.probe.quantity.unit, "")
    wide = max(38.0, text_width(words, "lab") + 18)
    mx, my = _meter_place(frame, (ax, ay), (bx, by))
    leads = []
    upper = 6.0 if ay > by else -6.0
    for (x, y), tilt in (((ax, ay), upper), ((bx, by), -upper)):
        side = wide / 2 if x > mx else -wide / 2
        bend_x = mx + 2.2 * side
        leads.append(f"M{x:.1f} {y:.1f}C{x:.1f} {(y + my) / 2:.1f} {bend_x:.1f} {my + 3 * tilt:.1f}"
                     f" {mx + side:.1f} {my + tilt:.1f}")  # fmt: skip
    return group(
        [
            *(el("path", d=d, class_="probe-lead") for d in leads),
            el("circle", cx=ax, cy=ay, r=6.0, class_="probe plus"),
            el("circle", cx=bx, cy=by, r=6.0, class_="probe minus"),
            el("rect", x=mx - wide / 2, y=my - 13, width=wide, height=26.0, rx=4, class_="meter"),
            label(mx, my + 4.6, words, "lab", "middle", "on-meter"),
        ],
        class_="probes",
    )


def _meter_place(frame: Frame, a: tuple[float, float], b: tuple[float, float]) -> tuple[float, float]:
    """Where the meter lies: between probes that are far apart, else beside them towards the middle of the car."""
    mx, my = (a[0] + b[0]) / 2, (a[1] + b[1]) / 2
    if abs(a[0] - b[0]) > FAR_PX:
        return mx, my + (26 if my < frame.middle_px else -26)
    middle = frame.nose_px + frame.length_m * frame.px_per_m / 2
    return mx + (-ASIDE_PX if mx > middle else ASIDE_PX), my + (frame.middle_px - my) / 2


FAR_PX, ASIDE_PX = 150.0, 84.0


def _ring(x: float, y: float) -> Markup:
    """A place to look at, to listen to, or to clamp."""
    return group([el("circle", cx=x, cy=y, r=15.0, class_="probe-halo"), el("circle", cx=x, cy=y, r=6.0,
                  class_="probe plus")])  # fmt: skip


def draw_points(picture: Picture, points: Sequence[tuple[Spot, str]]) -> Markup:
    """Every point a probe may sit at, as a link; those of one thing stand round it."""
    if picture.frame.upright:
        return Markup("")
    pieces = []
    for spot, address in points:
        if spot.point is None:
            continue
        x, y = picture.frame.at(*spot.point)
        px, py = _free_place(picture, x, y)
        leader = el("path", d=f"M{x:.1f} {y:.1f}L{px:.1f} {py:.1f}", class_="point-leader")
        circle = el("circle", cx=px, cy=py, r=6.0, class_="point")
        title = el("title", spot.name)
        pieces.append(el("a", title, leader, circle, href=address, class_="mark-link",
                         aria_label=f"Probe at {spot.name}"))  # fmt: skip
    return group(pieces, class_="points")


def _free_place(picture: Picture, x: float, y: float) -> tuple[float, float]:
    """Where a point near a place covers least, the nearest such."""
    turns = [2 * pi * n / ROUND for n in range(ROUND)]
    spots = [(x + far * cos(turn), y + far * sin(turn)) for far in FAR_RINGS for turn in turns]
    best = min(spots, key=lambda at: (picture.labels.cost(box_at(at[0], at[1], 16, 16)), spots.index(at)))
    picture.labels.block(box_at(best[0], best[1], 16, 16))
    return best


ROUND, FAR_RINGS = 16, (20.0, 30.0, 42.0, 54.0, 66.0, 80.0)


def draw_readings(picture: Picture, checks: Sequence[Judged], now: Check | None) -> Markup:
    """Every place checks are made at, with how they stand there; the probes of the one that is made now over them."""
    by_place: dict[tuple[float, float], list[Judged]] = {}
    for judged in checks:
        spot = judged.check.plus
        if spot is not None and spot.point is not None:
            by_place.setdefault((round(spot.point[0], 2), round(spot.point[1], 2)), []).append(judged)
    pieces = [_mark(picture, place, own) for place, own in by_place.items()]
    if now is not None:
        pieces.append(draw_probes(picture.frame, now))
    return group(pieces, class_="proof-marks")


def _mark(picture: Picture, place: tuple[float, float], own: Sequence[Judged]) -> Markup:
    worst = min((j.state for j in own), key=WORST.index)
    done = sum(j.state.stands for j in own)
    sign, style = SIGNS[worst]
    words = sign or f"{done}/{len(own)}"
    wide = max(20.0, text_width(words, "dim") + 10)
    here = picture.frame.at(*place)
    spots = [(here[0] + dx, here[1] + dy) for dx, dy in NEAR]
    x, y = min(spots, key=lambda at: (picture.labels.cost(box_at(at[0], at[1], wide + 4, 24)), spots.index(at)))
    picture.labels.block(box_at(x, y, wide + 4, 24))
    name = own[0].check.plus.name if own[0].check.plus is not None else ""
    title = f"{name.partition(',')[0]}: {done} of {len(own)} checks made, {worst.value}"
    first = next((j for j in own if not j.state.stands), own[0])
    return el(
        "a", el("title", title), el("rect", x=x - wide / 2, y=y - 10, width=wide, height=20.0, rx=10,
        class_=f"proof-pill {style}"), label(x, y + 4.2, words, "dim", "middle", f"on-{style}"),
        href=picture.link_to(f"check:{first.check.id}") or None, class_="mark-link", aria_label=title,
    )  # fmt: skip
