"""Where a cable goes: the cheapest way over the floor plan, along the sills, round seats and every known zone, through
the bulkhead only where there is a way.
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterable, Sequence
from functools import lru_cache
from heapq import heappop, heappush
from itertools import pairwise

from ohmack.core.document import Design
from ohmack.core.document.cabin import ZoneKind
from ohmack.core.fit.places import PROPORTIONS
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
STEPS = ((1, 0), (-1, 0), (0, 1), (0, -1))
Rect = tuple[float, float, float, float]  # x from, x to, y from, y to [m]
Node = tuple[int, int, int]  # column, row, and the step that led there


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
    passages = vehicle.passages
    half_m = width_m / 2
    return Floor(
        length_m,
        half_m,
        passages[0].position.x_m if passages else typical.dash * length_m - DASH_M,
        tuple(passage.position.y_m for passage in passages),
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
    """Lines along and across the car on which a cable may run, and what a metre costs in the fields between them."""

    xs: tuple[float, ...]
    ys: tuple[float, ...]
    along: tuple[float, ...]  # by line along the car, while nothing is in the way
    fields: tuple[tuple[float, ...], ...]  # by column and row, what lies there; 0 where nothing does
    walls: frozenset[int]  # lines along the car that meet the bulkhead where there is no way through

    def metre(self, column: int, row: int, step: int) -> float:
        """What a metre costs on the piece that begins at a crossing of lines."""
        dx, dy = STEPS[step]
        if dx:
            left = column if dx > 0 else column - 1
            beside = [self.fields[left][r] for r in (row - 1, row) if 0 <= r < len(self.ys) - 1]
            return max(self.along[row], min(beside))
        low = row if dy > 0 else row - 1
        beside = [self.fields[c][low] for c in (column - 1, column) if 0 <= c < len(self.xs) - 1]
        return max((self.along[low] + self.along[low + 1]) / 2, min(beside))


def _lines(values: Iterable[float], low: float, high: float) -> tuple[float, ...]:
    return tuple(sorted({round(v, 3) for v in values if low - 1e-9 <= v <= high + 1e-9}))


@lru_cache(maxsize=128)
def _grid(floor: Floor, ends: tuple[Point, Point], lane_m: float, side: int, beside: tuple[Rect, ...]) -> Grid:
    """The lines worth running on: through both ends, along the lanes and round everything that is in the way."""
    half, lane, console = floor.half_m, floor.half_m - lane_m, lane_m
    # A zone's edge is a line, and so is the edge of a seat and of what is better kept away from.
    rects = (*floor.hard, *floor.heat, *floor.seats, *beside)
    xs = _lines(
        [*(x for x, _ in ends), floor.bulkhead_m, floor.bulkhead_m + DASH_M / 3, *(v for r in rects for v in r[:2])],
        min(0.0, *(x for x, _ in ends)), max(floor.length_m, *(x for x, _ in ends)),
    )  # fmt: skip
    ys = _lines(
        [*(y for _, y in ends), lane, -lane, console, -console, *floor.ways_y_m,
         *(v for r in rects for v in r[2:])],
        min(-half, *(y for _, y in ends)), max(half, *(y for _, y in ends)),
    )  # fmt: skip
    along = []
    for y in ys:
        in_m = half - abs(y)
        away = min(AWAY, 1.0 + 4.0 * abs(in_m - lane_m)) + (OTHER_SIDE if side * y < 0 else 0.0)
        along.append(SKIN if in_m < SKIN_M - 1e-9 else away)
    fields = [[0.0] * max(1, len(ys) - 1) for _ in xs]
    for group, cost in ((floor.seats, SEAT), (floor.heat, HEAT), (beside, BESIDE), (floor.hard, HARD)):
        for x0, x1, y0, y1 in group:
            low, high = bisect_left(ys, round(y0, 3)), bisect_left(ys, round(y1, 3))
            for column in range(bisect_left(xs, round(x0, 3)), min(bisect_left(xs, round(x1, 3)), len(xs) - 1)):
                for row in range(low, min(high, len(ys) - 1)):
                    fields[column][row] = max(fields[column][row], cost)
    walls = frozenset(
        row for row, y in enumerate(ys) if floor.ways_y_m and not any(abs(y - way) <= WAY_M for way in floor.ways_y_m)
    )
    return Grid(xs, ys, tuple(along), tuple(map(tuple, fields)), walls)


def route(
    floor: Floor, start: Point, end: Point, lane_m: float, side: int = 0, beside: Iterable[Rect] = ()
) -> tuple[Point, ...]:
    """The way points of a cable between two places.

    Parameters:
        floor: the floor plan.
        start: (x, y) of one end [m].
        end: (x, y) of the other [m].
        lane_m: how far in from the side of the body it is laid, and as far from the middle along the console [m].
        side: 1 for the car's right, -1 for its left, 0 for whichever is nearer.
        beside: rectangles it is better kept out of, such as beside a power run.

    Returns:
        the corners between the ends, shape (n, 2) [m]; a zone is entered only where there is no way round, or
        where an end lies in it.

    Method: A* over the lines worth running on, with a price for every bend. Source: textbook method; what is paid
    for where is common practice.
    """
    return _route(floor, start, end, lane_m, side, tuple(beside))


@lru_cache(maxsize=512)  # parts are tried one after the other at the same places
def _route(
    floor: Floor, start: Point, end: Point, lane_m: float, side: int, beside: tuple[Rect, ...]
) -> tuple[Point, ...]:
    start, end = (round(start[0], 3), round(start[1], 3)), (round(end[0], 3), round(end[1], 3))
    grid = _grid(floor, (start, end), lane_m, side, beside)
    xs, ys = grid.xs, grid.ys
    wall = bisect_left(xs, round(floor.bulkhead_m, 3))
    last = bisect_left(xs, end[0]), bisect_left(ys, end[1])
    first: Node = (bisect_left(xs, start[0]), bisect_left(ys, start[1]), -1)
    best: dict[Node, float] = {first: 0.0}
    before: dict[Node, Node] = {}
    heap = [(0.0, 0.0, first)]
    done = first
    while heap:
        _, spent, here = heappop(heap)
        column, row, heading = done = here
        if (column, row) == last:
            break
        if spent > best[here]:
            continue
        for step, (dx, dy) in enumerate(STEPS):
            to_column, to_row = column + dx, row + dy
            if not (0 <= to_column < len(xs) and 0 <= to_row < len(ys)):
                continue
            length_m = abs(xs[to_column] - xs[column]) + abs(ys[to_row] - ys[row])
            cost = length_m * _flat(floor, grid, xs, column, row, step)
            if heading not in (-1, step):
                cost += TURN_M
            through = dx and max(column, to_column) == wall and row in grid.walls
            if through or (dy and column == wall):  # where there is no way, or along inside the wall itself
                cost += WALL
            total, there = spent + cost, (to_column, to_row, step)
            if total < best.get(there, float("inf")) - 1e-12:
                best[there], before[there] = total, here
                left_m = abs(xs[to_column] - end[0]) + abs(ys[to_row] - end[1])
                heappush(heap, (total + left_m, total, there))
    steps = [done]
    while steps[-1] in before:
        steps.append(before[steps[-1]])
    steps.reverse()
    bends = [a for a, b in pairwise(steps[1:]) if a[2] != b[2]]
    return tuple((round(xs[column], 2), round(ys[row], 2)) for column, row, _ in bends)


def _flat(floor: Floor, grid: Grid, xs: Sequence[float], column: int, row: int, step: int) -> float:
    """What a metre costs there; before the bulkhead and under the dash it is the same all over."""
    metre = grid.metre(column, row, step)
    x_m = (xs[column] + xs[column + STEPS[step][0]]) / 2
    if metre >= SKIN or x_m >= floor.bulkhead_m + DASH_M:
        return metre
    return ENGINE if x_m < floor.bulkhead_m else max(DASH, grid.metre(column, row, step) if metre >= HEAT else DASH)
