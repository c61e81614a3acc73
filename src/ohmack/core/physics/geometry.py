"""Plan geometry: run lengths along way points, and how close two runs come.

x rearwards from the nose, y to the right.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache
from itertools import pairwise
from math import hypot

from ohmack.core.errors import require

Point = tuple[float, float]


def plan_length_m(points: Sequence[Point]) -> float:
    """Length of a polyline in plan.

    Parameters:
        points: shape (n, 2) [m].

    Returns:
        length [m].
    """
    return sum(hypot(b[0] - a[0], b[1] - a[1]) for a, b in pairwise(points))


def run_length_m(points: Sequence[Point], rise_m: float, slack_fraction: float) -> float:
    """Cable to cut for a run: plan length, a rise at each end, and slack on all of it.

    Parameters:
        points: shape (n, 2) [m].
        rise_m: rise at each end [m].
        slack_fraction: slack as a fraction of the length.

    Returns:
        length [m].

    Raises:
        OutOfRange: a rise or slack below zero.

    Formula: (plan + 2 rise) (1 + slack). Source: common practice.
    """
    require("rise_m", rise_m, "m", above=-1e-12, up_to=5)
    require("slack_fraction", slack_fraction, "", above=-1e-12, up_to=1)
    return (plan_length_m(points) + 2 * rise_m) * (1 + slack_fraction)


def point_at(points: Sequence[Point], distance_m: float) -> Point:
    """The point a distance along a polyline, clamped to its ends.

    Parameters:
        points: shape (n, 2) [m].
        distance_m: distance from the first point [m].

    Returns:
        (x, y) [m].
    """
    left_m = distance_m
    for a, b in pairwise(points):
        length_m = hypot(b[0] - a[0], b[1] - a[1])
        if length_m > 0 and left_m <= length_m:
            t = max(0.0, left_m / length_m)
            return (a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1]))
        left_m -= length_m
    return points[-1]


def distance_to_run_m(point: Point, run: Sequence[Point]) -> float:
    """Shortest distance from a point to a polyline.

    Parameters:
        point: (x, y) [m].
        run: shape (n, 2) [m].

    Returns:
        distance [m].
    """
    best_m = hypot(point[0] - run[0][0], point[1] - run[0][1])
    for a, b in pairwise(run):
        dx, dy = b[0] - a[0], b[1] - a[1]
        squared = dx * dx + dy * dy
        t = 0.0 if squared == 0 else max(0.0, min(1.0, ((point[0] - a[0]) * dx + (point[1] - a[1]) * dy) / squared))
        best_m = min(best_m, hypot(point[0] - a[0] - t * dx, point[1] - a[1] - t * dy))
    return best_m


def length_beside_m(run: Sequence[Point], other: Sequence[Point], nearer_than_m: float, step_m: float = 0.1) -> float:
    """How much of a run lies nearer to another run than a distance.

    Parameters:
        run: shape (n, 2) [m].
        other: shape (n, 2) [m].
        nearer_than_m: distance that counts as beside [m].
        step_m: sampling step [m].

    Returns:
        length [m], to about one step.
    """
    return _length_beside_m(tuple(run), tuple(other), nearer_than_m, step_m)


@lru_cache(maxsize=512)  # a sweep asks for the same pair of runs again and again
def _length_beside_m(run: tuple[Point, ...], other: tuple[Point, ...], nearer_than_m: float, step_m: float) -> float:
    total_m = plan_length_m(run)
    count = max(1, round(total_m / step_m))
    near = sum(
        distance_to_run_m(point_at(run, (i + 0.5) * total_m / count), other) < nearer_than_m for i in range(count)
    )
    return near * total_m / count


def length_inside_m(run: Sequence[Point], centre: Point, length_m: float, width_m: float) -> float:
    """How much of a run lies inside a rectangle that is parallel to the car.

    Parameters:
        run: shape (n, 2) [m].
        centre: (x, y) of the rectangle [m].
        length_m: its size along the car [m].
        width_m: its size across the car [m].

    Returns:
        length [m].

    Source: Liang-Barsky clipping, a textbook method.
    """
    return _length_inside_m(tuple(run), centre, length_m, width_m)


@lru_cache(maxsize=4096)
def _length_inside_m(run: tuple[Point, ...], centre: Point, length_m: float, width_m: float) -> float:
    pieces = ((a, b, part_inside(a, b, centre, length_m, width_m)) for a, b in pairwise(run))
    return sum((part[1] - part[0]) * hypot(b[0] - a[0], b[1] - a[1]) for a, b, part in pieces if part is not None)


def part_inside(start: Point, end: Point, centre: Point, length_m: float, width_m: float) -> tuple[float, float] | None:
    """Which part of a straight piece lies inside a rectangle that is parallel to the car.

    Parameters:
        start: of the piece, (x, y) [m].
        end: of the piece, (x, y) [m].
        centre: (x, y) of the rectangle [m].
        length_m: its size along the car [m].
        width_m: its size across the car [m].

    Returns:
        where it comes in and where it goes out, as shares of the piece from its start; None where it stays outside.

    Source: Liang-Barsky clipping, a textbook method.
    """
    enters, leaves = 0.0, 1.0
    half = (length_m / 2, width_m / 2)
    for here, there, middle, reach in zip(start, end, centre, half, strict=True):
        step, low, high = there - here, middle - reach, middle + reach
        if step == 0:
            if not low <= here <= high:
                return None
            continue
        near, far = sorted(((low - here) / step, (high - here) / step))
        enters, leaves = max(enters, near), min(leaves, far)
    return (enters, leaves) if leaves > enters else None


def crossing_y_m(run: Sequence[Point], x_m: float) -> float | None:
    """Where a run first crosses a line across the car.

    Parameters:
        run: shape (n, 2) [m].
        x_m: distance of the line from the nose [m].

    Returns:
        y of the crossing [m]; None where the run stays on one side.
    """
    for (ax, ay), (bx, by) in pairwise(run):
        if ax != bx and min(ax, bx) <= x_m <= max(ax, bx):
            return ay + (x_m - ax) / (bx - ax) * (by - ay)
    return None


def follows_axis(points: Sequence[Point], car_length_m: float) -> bool:
    """Whether a drawing of this run can share the car's axis.

    Parameters:
        points: shape (n, 2) [m].
        car_length_m: length of the car [m].

    Returns:
        False where the run doubles back by more than a twentieth of the car, lies across, or covers less than
        a quarter of the car's length.
    """
    xs = [x for x, _ in points]
    direction = 1 if xs[-1] >= xs[0] else -1
    back_m = sum(max(0.0, -direction * (b - a)) for a, b in pairwise(xs))
    return direction * (xs[-1] - xs[0]) >= car_length_m / 4 and back_m <= car_length_m / 20
