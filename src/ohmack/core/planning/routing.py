"""Where a cable goes: the cheapest way over the floor plan, along the sills, round seats and every known zone, through
the bulkhead only where there is a way.
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterable
from functools import lru_cache
from heapq import heappop, heappush
from itertools import pairwise
from math import inf

import numpy as np
from numpy.typing import NDArray

from ohmack.core.document import Design
from ohmack.core.document.cabin import ZoneKind
from ohmack.core.fit.places import PROPORTIONS, bulkhead_m
from ohmack.core.physics.geometry import Point
from ohmack.core.record import record

CLEAR_M = 0.04  # kept from a zone's edge
SKIN_M = 0.05  # the sheet metal and its trim, where nothing is laid
SEAT_M = (0.50, 0.48)  # length and width of a seat on the plan, common practice
SILL_M = 0.25  # beside a bench, where the sill and the seat-belt reels are
DASH_M = 0.30  # behind the bulkhead a cable may cross under the dash
WAY_M = 0.15  # a way through the bulkhead is this wide on the plan, to either side
TURN_M = 0.30  # a bend is worth so much of a detour
# What a metre costs beside one along the sill: common practice, no source.
HARD, SKIN, WALL = 40.0, 8.0, 200.0
AWAY, SEAT, DASH, ENGINE, HEAT, BESIDE, OTHER_SIDE = 1.7, 2.4, 1.25, 1.2, 6.0, 2.5, 0.35
Rect = tuple[float, float, float, float]  # x from, x to, y from, y to [m]
State = tuple[int, int]  # a crossing of lines, and whether it was reached along the car or across it


@record
class Lane:
    """Where a kind of cable is laid: how far in from the side of the body, and as far from the middle along the
    console [m]; and what a metre costs away from there.
    """

    in_m: float
    away: float = AWAY


@record
class Floor:
    """The floor plan a cable is laid on, as far as it matters for the way it takes."""

    length_m: float
    half_m: float
    bulkhead_m: float
    ways_y_m: tuple[float, ...]
    hard: tuple[Rect, ...]
    heat: tuple[Rect, ...]
    seats: tuple[Rect, ...]


def floor_of(design: Design) -> Floor:
    """The floor plan of a car with the zones that are there."""
    vehicle = design.vehicle
    typical = PROPORTIONS[vehicle.body]
    length_m, width_m = vehicle.length_m.value or typical.length_m, vehicle.width_m.value or typical.width_m
    zones = [zone for zone in vehicle.zones if zone.present.value is not False]
    half_m = width_m / 2
    return Floor(
        length_m,
        half_m,
        bulkhead_m(vehicle),
        tuple(passage.position.y_m for passage in vehicle.passages),
        tuple(_rect(z.position.point, z.length_m, z.width_m, CLEAR_M) for z in zones if z.kind is not ZoneKind.HEAT),
        tuple(_rect(z.position.point, z.length_m, z.width_m, CLEAR_M / 2) for z in zones if z.kind is ZoneKind.HEAT),
        (
            *(
                _rect((front * length_m + SEAT_M[0] / 2, sign * 0.42 * half_m), *SEAT_M, 0.0)
                for front in typical.seats
                for sign in (-1, 1)
            ),
            *(
                _rect((front * length_m + SEAT_M[0] / 2, 0.0), SEAT_M[0], 2 * (half_m - SILL_M), 0.0)
                for front in typical.benches
            ),
        ),
    )


def _rect(middle: Point, length_m: float, width_m: float, more_m: float) -> Rect:
    half_x, half_y = length_m / 2 + more_m, width_m / 2 + more_m
    return middle[0] - half_x, middle[0] + half_x, middle[1] - half_y, middle[1] + half_y


@record
class Grid:
    """Lines along and across the car on which a cable may run, and the price of every piece between two crossings."""

    xs: tuple[float, ...]
    ys: tuple[float, ...]
    along: list[list[float]]  # [column][row]: from there to the next column
    across: list[list[float]]  # [column][row]: from there to the next row


def _lines(values: Iterable[float], low: float, high: float) -> tuple[float, ...]:
    return tuple(sorted({round(v, 3) for v in values if low - 1e-9 <= v <= high + 1e-9}))


@lru_cache(maxsize=128)
def _grid(floor: Floor, ends: tuple[Point, Point], lane: Lane, side: int, beside: tuple[Rect, ...]) -> Grid:
    """The lines worth running on: through both ends, along the lanes and round everything that is in the way."""
    half, at_side, console = floor.half_m, floor.half_m - lane.in_m, lane.in_m
    # A zone's edge is a line, and so is the edge of a seat; along a power run only its sides are.
    rects = (*floor.hard, *floor.seats)
    dash = floor.bulkhead_m + DASH_M / 3
    xs = _lines(
        [*(x for x, _ in ends), floor.bulkhead_m, dash, *(v for r in rects for v in r[:2])],
        min(0.0, *(x for x, _ in ends)), max(floor.length_m, *(x for x, _ in ends)),
    )  # fmt: skip
    ys = _lines(
        [*(y for _, y in ends), at_side, -at_side, console, -console, *floor.ways_y_m,
         *(v for r in (*rects, *floor.heat, *beside) for v in r[2:])],
        min(-half, *(y for _, y in ends)), max(half, *(y for _, y in ends)),
    )  # fmt: skip
    return Grid(xs, ys, *_prices(floor, np.array(xs), np.array(ys), lane, side, beside))


Matrix = NDArray[np.float64]


def _prices(
    floor: Floor, xs: Matrix, ys: Matrix, lane: Lane, side: int, beside: tuple[Rect, ...]
) -> tuple[list[list[float]], list[list[float]]]:
    """What every piece of a grid costs, along the car and across it."""
    in_m = floor.half_m - np.abs(ys)
    free = np.minimum(lane.away, 1.0 + 4.0 * np.abs(in_m - lane.in_m)) + np.where(side * ys < 0, OTHER_SIDE, 0.0)
    free = np.where(in_m < SKIN_M - 1e-9, SKIN, free)
    mid_x, mid_y = (xs[1:] + xs[:-1]) / 2, (ys[1:] + ys[:-1]) / 2
    fields = np.zeros((len(xs) + 1, len(ys) + 1))  # what lies between the lines, with an empty rim
    for group, cost in ((floor.seats, SEAT), (floor.heat, HEAT), (beside, BESIDE), (floor.hard, HARD)):
        for x0, x1, y0, y1 in group:
            inside = np.outer((mid_x > x0) & (mid_x < x1), (mid_y > y0) & (mid_y < y1))
            fields[1:-1, 1:-1] = np.where(inside, np.maximum(fields[1:-1, 1:-1], cost), fields[1:-1, 1:-1])

    def priced(metre: Matrix, x_m: Matrix) -> Matrix:
        """Before the bulkhead, and under the dash but for its zones, it costs the same all over."""
        under = np.where(metre >= HEAT, np.maximum(DASH, metre), DASH)
        flat = np.where(x_m < floor.bulkhead_m, ENGINE, under)
        return np.where((metre >= SKIN) | (x_m >= floor.bulkhead_m + DASH_M), metre, flat)

    along = np.maximum(free[None, :], np.minimum(fields[1:-1, :-1], fields[1:-1, 1:]))
    along = priced(along, mid_x[:, None]) * np.diff(xs)[:, None]
    across = np.maximum(((free[1:] + free[:-1]) / 2)[None, :], np.minimum(fields[:-1, 1:-1], fields[1:, 1:-1]))
    across = priced(across, xs[:, None]) * np.diff(ys)[None, :]
    wall = int(np.searchsorted(xs, round(floor.bulkhead_m, 3)))
    if 0 < wall < len(xs):
        across[wall] += WALL  # nothing runs inside the wall itself
        if floor.ways_y_m:
            open_rows = np.min(np.abs(ys[:, None] - np.array(floor.ways_y_m)[None, :]), axis=1) <= WAY_M
            along[wall - 1] += np.where(open_rows, 0.0, WALL)
    return along.tolist(), across.tolist()


def route(
    floor: Floor, start: Point, end: Point, lane: Lane, side: int = 0, beside: Iterable[Rect] = ()
) -> tuple[Point, ...]:
    """The way points of a cable between two places.

    Parameters:
        floor: the floor plan.
        start: (x, y) of one end [m].
        end: (x, y) of the other [m].
        lane: where it is laid.
        side: 1 for the car's right, -1 for its left, 0 for whichever is nearer.
        beside: rectangles it is better kept out of, such as beside a power run.

    Returns:
        the corners between the ends, shape (n, 2) [m]; a zone is entered only where there is no way round, or
        where an end lies in it.

    Method: A* over the lines worth running on, with a price for every bend. Source: textbook method; what is paid
    for where is common practice.
    """
    return _route(floor, start, end, lane, side, tuple(beside))


@lru_cache(maxsize=512)  # parts are tried one after the other at the same places
def _route(
    floor: Floor, start: Point, end: Point, lane: Lane, side: int, beside: tuple[Rect, ...]
) -> tuple[Point, ...]:
    start, end = (round(start[0], 3), round(start[1], 3)), (round(end[0], 3), round(end[1], 3))
    grid = _grid(floor, (start, end), lane, side, beside)
    xs, ys, along, across = grid.xs, grid.ys, grid.along, grid.across
    columns, rows = len(xs), len(ys)
    last = bisect_left(xs, end[0]) * rows + bisect_left(ys, end[1])
    first = bisect_left(xs, start[0]) * rows + bisect_left(ys, start[1])
    # A state is a crossing and how it was reached: 0 along the car, 1 across it; the first one either way.
    best = [[inf, inf] for _ in range(columns * rows)]
    before: dict[State, State] = {}
    best[first] = [0.0, 0.0]
    heap: list[tuple[float, float, int, int]] = [(0.0, 0.0, first, 0), (0.0, 0.0, first, 1)]
    done: State = (first, 0)
    while heap:
        _, spent, here, heading = heappop(heap)
        if spent > best[here][heading]:
            continue
        if here == last:
            done = (here, heading)
            break
        column, row = divmod(here, rows)
        steps = []
        if column + 1 < columns:
            steps.append((here + rows, along[column][row], 0))
        if column:
            steps.append((here - rows, along[column - 1][row], 0))
        if row + 1 < rows:
            steps.append((here + 1, across[column][row], 1))
        if row:
            steps.append((here - 1, across[column][row - 1], 1))
        for there, price, step in steps:
            total = spent + price + (TURN_M if step != heading else 0.0)
            if total < best[there][step] - 1e-12:
                best[there][step] = total
                before[there, step] = (here, heading)
                to_column, to_row = divmod(there, rows)
                left_m = abs(xs[to_column] - end[0]) + abs(ys[to_row] - end[1])
                heappush(heap, (total + left_m, total, there, step))
    met = [done]
    while met[-1][0] != first:
        met.append(before[met[-1]])
    met.reverse()
    bends = [a[0] for a, b in pairwise(met[1:]) if a[1] != b[1]]
    return tuple((round(xs[here // rows], 2), round(ys[here % rows], 2)) for here in bends)
