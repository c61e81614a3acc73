"""The car from above in true proportion: nose to the left with its left side at the bottom, or, on a phone, nose up."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from math import isfinite

from markupsafe import Markup

from ohmack.core.document.vehicle import Body, Hand, Vehicle
from ohmack.core.fit.places import PROPORTIONS, SEAT_ASIDE, SEAT_DEEP_M, SEAT_WIDE_M
from ohmack.drawing.bodies import SHAPES, Shape
from ohmack.drawing.svg import el, group, number

WIDTH, HEIGHT = 780.0, 296.0
LEFT, RIGHT, TOP, BOTTOM = 40.0, 740.0, 18.0, 278.0
NARROW, NARROW_TOP = 358.0, 14.0  # a phone's sheet, and what is kept free before the nose


@dataclass(frozen=True, slots=True)
class Frame:
    """Metres on the car to px in the picture, and back."""

    length_m: float
    width_m: float
    px_per_m: float
    nose_px: float  # where the nose is, along the car
    middle_px: float  # where the centre line is, across it
    upright: bool = False  # nose up, the car's right side on the right; else nose left, its right side up

    @property
    def width_px(self) -> float:
        """How wide the picture is."""
        return NARROW if self.upright else WIDTH

    @property
    def height_px(self) -> float:
        """How high the picture is."""
        return self.length_m * self.px_per_m + 2 * NARROW_TOP if self.upright else HEIGHT

    def at(self, x_m: float, y_m: float) -> tuple[float, float]:
        """A place on the car in the picture."""
        along, across = self.nose_px + x_m * self.px_per_m, y_m * self.px_per_m
        return (self.middle_px + across, along) if self.upright else (along, self.middle_px - across)

    def turned(self, right: float, down: float) -> tuple[float, float]:
        """A step in the picture of a car with its nose to the left as one in this picture."""
        return (-down, right) if self.upright else (right, down)

    def lying(self, along: float, across: float) -> tuple[float, float]:
        """(width, height) in the picture of something so long along and across the car."""
        return (across, along) if self.upright else (along, across)

    def rect(self, x_m: float, y_m: float, length_m: float, width_m: float) -> dict[str, float]:
        """`x`, `y`, `width` and `height` of a rectangle about a place on the car."""
        x, y = self.at(x_m, y_m)
        width, height = self.lying(length_m * self.px_per_m, width_m * self.px_per_m)
        return {"x": x - width / 2, "y": y - height / 2, "width": width, "height": height}

    def back(self, x: float, y: float) -> tuple[float, float]:
        """A place in the picture as (x_m, y_m) on the car, to the centimetre, kept on the body.

        Raises:
            ValueError: not a place at all.
        """
        if not (isfinite(x) and isfinite(y)):
            raise ValueError("no place")
        x_m = (x - self.nose_px) / self.px_per_m
        y_m = (self.middle_px - y) / self.px_per_m
        half = self.width_m / 2
        return (round(min(max(x_m, 0.0), self.length_m), 2), round(min(max(y_m, -half), half), 2))


def upright_frame_of(vehicle: Vehicle, room_px: float, middle_px: float) -> Frame:
    """The frame for a vehicle on a phone, nose up.

    Parameters:
        vehicle: the car.
        room_px: how much of the sheet's width the body takes.
        middle_px: where its centre line is.
    """
    length_m, width_m = vehicle.length_m.value or 4.3, vehicle.width_m.value or 1.75
    return Frame(length_m, width_m, room_px / width_m, NARROW_TOP, middle_px, upright=True)


def frame_of(vehicle: Vehicle) -> Frame:
    """The frame for a vehicle; typical sizes stand in while length or width are not known."""
    length_m, width_m = vehicle.length_m.value or 4.3, vehicle.width_m.value or 1.75
    px_per_m = min((RIGHT - LEFT) / length_m, (BOTTOM - TOP) / width_m)
    return Frame(length_m, width_m, px_per_m, (LEFT + RIGHT - length_m * px_per_m) / 2, (TOP + BOTTOM) / 2)


def _smooth(points: list[tuple[float, float]]) -> str:
    """A closed smooth curve through points (Catmull-Rom as cubic Béziers)."""
    count = len(points)
    text = f"M{number(points[0][0])} {number(points[0][1])}"
    for i in range(count):
        p0, p1, p2, p3 = (points[(i + k) % count] for k in (-1, 0, 1, 2))
        c1 = (p1[0] + (p2[0] - p0[0]) / 6, p1[1] + (p2[1] - p0[1]) / 6)
        c2 = (p2[0] - (p3[0] - p1[0]) / 6, p2[1] - (p3[1] - p1[1]) / 6)
        text += "C" + " ".join(f"{number(x)} {number(y)}" for x, y in (c1, c2, p2))
    return text + "Z"


def draw_car(vehicle: Vehicle, frame: Frame) -> Markup:
    """Body, glass, seats, wheels and steering wheel."""
    return _car(vehicle.body, vehicle.hand_of_drive, vehicle.wheelbase_m.value, frame)


@lru_cache(maxsize=256)
def _car(body: Body, hand: Hand, wheelbase_m: float | None, frame: Frame) -> Markup:
    """The same for every plan of such a car."""
    length, half = frame.length_m, frame.width_m / 2
    outline = SHAPES[body].outline
    upper = [frame.at(fx * length, fy * half) for fx, fy in outline]
    lower = [frame.at(fx * length, -fy * half) for fx, fy in reversed(outline[1:-1])]
    drawn = el("path", d=_smooth([*upper, *lower]), class_="body")
    return group(
        [_wheels(wheelbase_m, frame), drawn, _glass(body, frame), _seats(body, hand, frame)],
        class_="car", aria_hidden="true",
    )  # fmt: skip


def _curve(frame: Frame, points: tuple[tuple[float, float], ...]) -> str:
    """Path data: a move, then one cubic per three points."""
    shown = [frame.at(x, y) for x, y in points]
    text = f"M{number(shown[0][0])} {number(shown[0][1])}"
    for i in range(1, len(shown) - 2, 3):
        text += "C" + " ".join(f"{number(x)} {number(y)}" for x, y in shown[i : i + 3])
    return text


def _windscreen(frame: Frame, foot: float, roof: float) -> str:
    n, h = frame.length_m, frame.width_m / 2
    return _curve(
        frame,
        (
            ((foot + 0.03) * n, 0.86 * h),
            ((foot - 0.012) * n, 0.4 * h),
            ((foot - 0.012) * n, -0.4 * h),
            ((foot + 0.03) * n, -0.86 * h),
            (roof * n, -0.74 * h),
            (roof * n, -0.72 * h),
            ((roof + 0.008) * n, -0.70 * h),
            ((roof - 0.012) * n, -0.3 * h),
            ((roof - 0.012) * n, 0.3 * h),
            ((roof + 0.008) * n, 0.70 * h),
            (roof * n, 0.72 * h),
            (roof * n, 0.74 * h),
            ((foot + 0.03) * n, 0.86 * h),
        ),
    )


def _rear_glass(frame: Frame, roof_end: float, tail: float) -> str:
    n, h = frame.length_m, frame.width_m / 2
    return _curve(
        frame,
        (
            (roof_end * n, 0.68 * h),
            ((roof_end + 0.008) * n, 0.3 * h),
            ((roof_end + 0.008) * n, -0.3 * h),
            (roof_end * n, -0.68 * h),
            (roof_end * n, -0.70 * h),
            ((tail - 0.004) * n, -0.76 * h),
            (tail * n, -0.74 * h),
            ((tail + 0.012) * n, -0.3 * h),
            ((tail + 0.012) * n, 0.3 * h),
            (tail * n, 0.74 * h),
            ((tail - 0.004) * n, 0.76 * h),
            (roof_end * n, 0.70 * h),
            (roof_end * n, 0.68 * h),
        ),
    )


def _side_windows(frame: Frame, shape: Shape) -> list[Markup]:
    n, h = frame.length_m, frame.width_m / 2
    pieces: list[Markup] = []
    if shape.front is None:
        return pieces
    foot, roof = shape.front
    for sign in (1, -1):
        points = [
            frame.at(x * n, sign * y * h)
            for x, y in (
                (foot + 0.055, 0.91),
                (shape.side_end, 0.91),
                (shape.side_end - 0.015, 0.83),
                (roof + 0.03, 0.80),
            )
        ]
        pieces.append(el("path", d="M" + "L".join(f"{number(x)} {number(y)}" for x, y in points) + "Z"))
        inner, outer = frame.at(shape.pillar * n, sign * 0.80 * h), frame.at(shape.pillar * n, sign * 0.98 * h)
        pieces.append(el("path", d=f"M{number(inner[0])} {number(inner[1])}L{number(outer[0])} {number(outer[1])}"))
    return pieces


def _across(frame: Frame, share: float, bow: float, half: float) -> Markup:
    """A line across the body, bowed forwards."""
    n, h = frame.length_m, frame.width_m / 2
    points = (
        (share * n, half * h),
        ((share - bow) * n, 0.4 * h),
        ((share - bow) * n, -0.4 * h),
        (share * n, -half * h),
    )
    return el("path", d=_curve(frame, points), class_="crease")


def _glass(body: Body, frame: Frame) -> Markup:
    shape = SHAPES[body]
    glass = _side_windows(frame, shape)
    if shape.front:
        glass.insert(0, el("path", d=_windscreen(frame, *shape.front)))
    if shape.rear:
        glass.append(el("path", d=_rear_glass(frame, *shape.rear)))
    lines = [_across(frame, share, 0.004, 0.78) for share in shape.creases]
    if shape.hood:
        lines.append(_across(frame, shape.hood + 0.01, 0.02, 0.84))
    if shape.front:
        lines.append(_across(frame, PROPORTIONS[body].dash, 0.012, 0.78))
    if shape.bed:
        first, last = shape.bed[0] * frame.length_m, shape.bed[1] * frame.length_m
        bed = frame.rect((first + last) / 2, 0.0, last - first, 0.82 * frame.width_m)
        lines.append(el("rect", **bed, rx=7, class_="crease"))
    return group([group(glass, class_="glass"), *lines])


def _seats(body: Body, hand: Hand, frame: Frame) -> Markup:
    rows = PROPORTIONS[body]
    n, h, scale = frame.length_m, frame.width_m / 2, frame.px_per_m
    pieces = []

    def seat(front_m: float, y_m: float, deep_m: float, wide_m: float, back_m: float) -> None:
        pieces.append(el("rect", **frame.rect(front_m + deep_m / 2, y_m, deep_m, wide_m), rx=9))
        inner_m = wide_m / 2 - 6 / scale
        ends = [frame.at(front_m + back_m, y_m + side * inner_m) for side in (1, -1)]
        pieces.append(el("path", d="M" + "L".join(f"{number(x)} {number(y)}" for x, y in ends)))

    for front in rows.seats:
        for y in (SEAT_ASIDE, -SEAT_ASIDE):
            seat(front * n, y * h, SEAT_DEEP_M, SEAT_WIDE_M, 0.41)
    for front in rows.benches:
        seat(front * n, 0.0, 0.44, 1.40 * h, 0.37)
    driver_y = SEAT_ASIDE * h if hand is Hand.RIGHT else -SEAT_ASIDE * h
    first = min((*rows.seats, *rows.benches))
    wheel_x, wheel_y = frame.at((first - 0.03) * n - 0.06, driver_y)
    rx, ry = frame.lying(6.0, 0.17 * scale)
    steering = el("ellipse", cx=wheel_x, cy=wheel_y, rx=rx, ry=ry, class_="steering", data_hand=hand.value)
    return group([*pieces, steering], class_="seats")


def _wheels(wheelbase_m: float | None, frame: Frame) -> Markup:
    wheelbase_m = wheelbase_m or 0.6 * frame.length_m
    front_m = 0.46 * (frame.length_m - wheelbase_m)
    pieces = []
    for x_m in (front_m, front_m + wheelbase_m):
        for sign in (1, -1):
            out_m = frame.width_m / 2 + 1.5 / frame.px_per_m
            pieces.append(el("rect", **frame.rect(x_m, sign * out_m, 0.60, 8 / frame.px_per_m), rx=3.5))
    return group(pieces, class_="wheels")
