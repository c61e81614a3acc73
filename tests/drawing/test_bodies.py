"""The eight bodies: symmetrical, inside their own length and width by a second route, everything typical on them."""

from __future__ import annotations

import re
import xml.etree.ElementTree as ET

import numpy as np
import pytest

from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.fit.places import PROPORTIONS, first_place
from ohmack.core.planning.starting_points import new_vehicle
from ohmack.drawing.bodies import SHAPES
from ohmack.drawing.car import draw_car, frame_of


def outline_points(body: Body) -> np.ndarray:
    """The drawn outline, its Bézier curves sampled by de Casteljau: shape (n, 2) in m on the car."""
    vehicle = new_vehicle("A", "B", None, body, Hand.LEFT)
    frame = frame_of(vehicle)
    tree = ET.fromstring(str(draw_car(vehicle, frame)))
    d = next(e.get("d") for e in tree.iter("path") if e.get("class") == "body")
    assert d
    numbers = [float(n) for n in re.findall(r"-?[\d.]+", d)]
    points = np.array(numbers).reshape(-1, 2)
    here, sampled = points[0], []
    for i in range(1, len(points), 3):
        a, b, c, e = here, points[i], points[i + 1], points[i + 2]
        for t in np.linspace(0, 1, 12):
            p, q, r = a + t * (b - a), b + t * (c - b), c + t * (e - c)
            p, q = p + t * (q - p), q + t * (r - q)
            sampled.append(p + t * (q - p))
        here = e
    px = np.array(sampled)
    return np.column_stack([(px[:, 0] - frame.nose_px) / frame.px_per_m, (frame.middle_px - px[:, 1]) / frame.px_per_m])


def inside(point: tuple[float, float], polygon: np.ndarray) -> bool:
    """Crossing-number test."""
    x, y = point
    a, b = polygon, np.roll(polygon, -1, axis=0)
    crosses = (a[:, 1] > y) != (b[:, 1] > y)
    with np.errstate(divide="ignore", invalid="ignore"):
        at = a[:, 0] + (y - a[:, 1]) / (b[:, 1] - a[:, 1]) * (b[:, 0] - a[:, 0])
    return bool((crosses & (x < at)).sum() % 2)


@pytest.mark.parametrize("body", list(Body))
def test_outline_stays_inside_its_own_size(body: Body) -> None:
    points, typical = outline_points(body), PROPORTIONS[body]
    assert points[:, 0].min() == pytest.approx(0, abs=0.02)
    assert points[:, 0].max() == pytest.approx(typical.length_m, abs=0.03)
    assert points[:, 1].max() == pytest.approx(typical.width_m / 2, rel=0.01)
    assert points[:, 1].min() == pytest.approx(-typical.width_m / 2, rel=0.01)
    # symmetrical: the mirrored outline has the same points
    mirrored = points * [1, -1]
    distance = np.sqrt(((points[:, None, :] - mirrored[None, :, :]) ** 2).sum(axis=2)).min(axis=1)
    assert distance.max() < 0.06


@pytest.mark.parametrize("body", list(Body))
def test_everything_typical_lies_on_the_body(body: Body) -> None:
    vehicle, polygon = new_vehicle("A", "B", None, body, Hand.RIGHT), outline_points(body)
    things = [*vehicle.speakers, *vehicle.feeds, *vehicle.ground_points, *vehicle.supply.batteries, *vehicle.passages,
              *vehicle.zones, *vehicle.spaces]  # fmt: skip
    for thing in things:
        assert inside(thing.position.point, polygon), thing.name
    for space in vehicle.spaces:
        half_m = PROPORTIONS[body].width_m / 2
        assert abs(space.position.y_m) + (space.width_m.value or 0) / 2 <= half_m, space.name
    for kind in ("amplifier", "subwoofer", "box", "converter"):
        place = first_place(kind, vehicle)
        assert place
        assert inside((place["x_m"], place["y_m"]), polygon), kind
    assert first_place("accessory", vehicle) is None


@pytest.mark.parametrize("body", list(Body))
def test_proportions_make_sense(body: Body) -> None:
    typical, shape = PROPORTIONS[body], SHAPES[body]
    assert 0.5 < typical.wheelbase_m / typical.length_m < 0.75
    assert 0.3 < typical.width_m / typical.length_m < 0.55
    if shape.front:
        foot, roof = shape.front
        assert foot < typical.dash < roof + 0.06  # the dash lies under the windscreen
        assert all(seat > typical.dash for seat in (*typical.seats, *typical.benches))
    if shape.rear:
        assert shape.front
        assert shape.front[1] < shape.rear[0] < shape.rear[1] < 1
    shares = [x for x, _ in shape.outline]
    assert shares == sorted(shares)
    assert shape.outline[0] == (0.0, 0.0)
    assert shape.outline[-1] == (1.0, 0.0)
