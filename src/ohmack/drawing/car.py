"""The car from above, nose to the left, in true proportion: its left side is at the bottom of the picture."""

from __future__ import annotations

from dataclasses import dataclass
from math import isfinite

from markupsafe import Markup

from ohmack.core.document.vehicle import Body, Hand, Vehicle
from ohmack.drawing.svg import el, group, number

WIDTH, HEIGHT = 780.0, 296.0
LEFT, RIGHT, TOP, BOTTOM = 40.0, 740.0, 18.0, 278.0

# Half outlines as (share of length, share of half width), nose to tail. Drawn for this product.
OUTLINES = {
    Body.ESTATE: (
        (0.0, 0.0), (0.004, 0.40), (0.022, 0.72), (0.07, 0.88), (0.16, 0.945), (0.28, 0.985), (0.42, 1.0),
        (0.62, 1.0), (0.80, 0.985), (0.915, 0.935), (0.965, 0.85), (0.99, 0.60), (1.0, 0.0),
    ),
    Body.HATCH: (
        (0.0, 0.0), (0.005, 0.42), (0.028, 0.74), (0.085, 0.89), (0.18, 0.95), (0.30, 0.99), (0.44, 1.0),
        (0.62, 1.0), (0.78, 0.975), (0.89, 0.90), (0.95, 0.79), (0.985, 0.52), (1.0, 0.0),
    ),
}  # fmt: skip
# dash, windscreen foot, roof front, roof rear, rear glass end, front seat, rear bench: shares of length
LAYOUT = {
    Body.ESTATE: (0.325, 0.275, 0.365, 0.885, 0.955, 0.415, 0.615),
    Body.HATCH: (0.345, 0.29, 0.39, 0.82, 0.93, 0.44, 0.655),
}


@dataclass(frozen=True, slots=True)
class Frame:
    """Metres on the car to px in the picture, and back."""

    length_m: float
    width_m: float
    px_per_m: float
    nose_x: float
    middle_y: float

    def at(self, x_m: float, y_m: float) -> tuple[float, float]:
        """A place on the car in the picture: the car's right side is up."""
        return (self.nose_x + x_m * self.px_per_m, self.middle_y - y_m * self.px_per_m)

    def back(self, x: float, y: float) -> tuple[float, float]:
        """A place in the picture as (x_m, y_m) on the car, to the centimetre, kept on the body.

        Raises:
            ValueError: not a place at all.
        """
        if not (isfinite(x) and isfinite(y)):
            raise ValueError("no place")
        x_m = (x - self.nose_x) / self.px_per_m
        y_m = (self.middle_y - y) / self.px_per_m
        half = self.width_m / 2
        return (round(min(max(x_m, 0.0), self.length_m), 2), round(min(max(y_m, -half), half), 2))


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
    length, half = frame.length_m, frame.width_m / 2
    outline = OUTLINES[vehicle.body]
    upper = [frame.at(fx * length, fy * half) for fx, fy in outline]
    lower = [frame.at(fx * length, -fy * half) for fx, fy in reversed(outline[1:-1])]
    body = el("path", d=_smooth([*upper, *lower]), class_="body")
    return group(
        [_wheels(vehicle, frame), body, _glass(vehicle, frame), _seats(vehicle, frame)],
        class_="car", aria_hidden="true",
    )  # fmt: skip


def _curve(frame: Frame, points: tuple[tuple[float, float], ...]) -> str:
    """Path data: a move, then one cubic per three points."""
    shown = [frame.at(x, y) for x, y in points]
    text = f"M{number(shown[0][0])} {number(shown[0][1])}"
    for i in range(1, len(shown) - 2, 3):
        text += "C" + " ".join(f"{number(x)} {number(y)}" for x, y in shown[i : i + 3])
    return text


def _glass(vehicle: Vehicle, frame: Frame) -> Markup:
    dash, foot, roof, roof_end, tail, _, bench = LAYOUT[vehicle.body]
    n, h = frame.length_m, frame.width_m / 2
    front = _curve(
        frame,
        (
            ((foot + 0.03) * n, 0.86 * h), ((foot - 0.012) * n, 0.4 * h), ((foot - 0.012) * n, -0.4 * h),
            ((foot + 0.03) * n, -0.86 * h), (roof * n, -0.74 * h), (roof * n, -0.72 * h), ((roof + 0.008) * n, -0.70 * h),
            ((roof - 0.012) * n, -0.3 * h), ((roof - 0.012) * n, 0.3 * h), ((roof + 0.008) * n, 0.70 * h),
            (roof * n, 0.72 * h), (roof * n, 0.74 * h), ((foot + 0.03) * n, 0.86 * h),
        ),
    )  # fmt: skip
    rear = _curve(
        frame,
        (
            (roof_end * n, 0.68 * h), ((roof_end + 0.008) * n, 0.3 * h), ((roof_end + 0.008) * n, -0.3 * h),
            (roof_end * n, -0.68 * h), (roof_end * n, -0.70 * h), ((tail - 0.004) * n, -0.76 * h), (tail * n, -0.74 * h),
            ((tail + 0.012) * n, -0.3 * h), ((tail + 0.012) * n, 0.3 * h), (tail * n, 0.74 * h),
            ((tail - 0.004) * n, 0.76 * h), (roof_end * n, 0.70 * h), (roof_end * n, 0.68 * h),
        ),
    )  # fmt: skip
    sides = []
    for sign in (1, -1):
        points = [
            frame.at(x * n, sign * y * h)
            for x, y in ((foot + 0.055, 0.91), (roof_end - 0.02, 0.91), (roof_end - 0.035, 0.83), (roof + 0.03, 0.80))
        ]
        sides.append(el("path", d="M" + "L".join(f"{number(x)} {number(y)}" for x, y in points) + "Z"))
        pillar = frame.at(bench * n - 0.08 * n, sign * 0.80 * h)
        outer = frame.at(bench * n - 0.08 * n, sign * 0.98 * h)
        sides.append(el("path", d=f"M{number(pillar[0])} {number(pillar[1])}L{number(outer[0])} {number(outer[1])}"))
    hood = _curve(frame, ((0.075 * n, 0.84 * h), (0.055 * n, 0.4 * h), (0.055 * n, -0.4 * h), (0.075 * n, -0.84 * h)))
    dash_line = _curve(
        frame,
        ((dash * n, 0.78 * h), ((dash - 0.012) * n, 0.3 * h), ((dash - 0.012) * n, -0.3 * h), (dash * n, -0.78 * h)),
    )
    return group(
        [
            group([el("path", d=front), el("path", d=rear), *sides], class_="glass"),
            el("path", d=hood, class_="crease"), el("path", d=dash_line, class_="crease"),
        ]
    )  # fmt: skip


def _seats(vehicle: Vehicle, frame: Frame) -> Markup:
    seat, bench = LAYOUT[vehicle.body][5:]
    n, h, scale = frame.length_m, frame.width_m / 2, frame.px_per_m
    pieces = []
    for y in (0.42, -0.42):
        x, top = frame.at(seat * n, y * h + 0.22)
        pieces.append(el("rect", x=x, y=top, width=0.48 * scale, height=0.44 * scale, rx=9))
        pieces.append(el("path", d=f"M{number(x + 0.41 * scale)} {number(top + 6)}v{number(0.44 * scale - 12)}"))
    x, top = frame.at(bench * n, 0.70 * h)
    pieces.append(el("rect", x=x, y=top, width=0.44 * scale, height=1.40 * h * scale, rx=9))
    pieces.append(el("path", d=f"M{number(x + 0.37 * scale)} {number(top + 7)}v{number(1.40 * h * scale - 14)}"))
    driver_y = 0.42 * h if vehicle.hand_of_drive is Hand.RIGHT else -0.42 * h
    wheel_x, wheel_y = frame.at((seat - 0.045) * n, driver_y)
    pieces.append(
        el(
            "ellipse",
            cx=wheel_x,
            cy=wheel_y,
            rx=6,
            ry=0.17 * scale,
            class_="steering",
            data_hand=vehicle.hand_of_drive.value,
        )
    )
    return group(pieces, class_="seats")


def _wheels(vehicle: Vehicle, frame: Frame) -> Markup:
    wheelbase_m = vehicle.wheelbase_m.value or 0.6 * frame.length_m
    front_m = 0.46 * (frame.length_m - wheelbase_m)
    pieces = []
    for x_m in (front_m, front_m + wheelbase_m):
        for sign in (1, -1):
            x, y = frame.at(x_m - 0.30, sign * frame.width_m / 2)
            pieces.append(el("rect", x=x, y=y - 4 - sign * 1.5, width=0.60 * frame.px_per_m, height=8, rx=3.5))
    return group(pieces, class_="wheels")
