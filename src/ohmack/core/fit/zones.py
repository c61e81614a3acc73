"""Where runs and parts come into places they must keep clear of, and whether a run crosses the bulkhead at a known
way.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.boxes import Box
from ohmack.core.document.cabin import Zone, ZoneKind
from ohmack.core.document.links import ChargeLink, FeedLink, PowerLink
from ohmack.core.document.parts import Converter
from ohmack.core.figures.figure import Book
from ohmack.core.fit.places import bulkhead_m
from ohmack.core.fit.runs import Run
from ohmack.core.physics.geometry import Point, crossing_y_m, length_inside_m
from ohmack.core.record import record

WAY_REACH_M = 0.20  # a run this near to a way through the bulkhead uses it
LEAST_M = {ZoneKind.HEAT: 0.4}  # crossing the tunnel above the carpet is harmless, lying along it is not
TOUCHES_M = 0.03


@record
class Crossing:
    """A run or a part inside a zone."""

    zone: Zone
    thing_id: str
    name: str
    inside_m: float


@record
class BulkheadCrossing:
    """A run from the engine side into the cabin, and the way it takes."""

    link_id: str
    name: str
    y_m: float
    passage_id: str | None


SMALL_M = 0.06  # what an amplifier or a converter covers, where nobody said
OVER_M = 0.01  # so much over the edge of a zone is no matter


def _extent(points: Sequence[Point]) -> tuple[float, float, float, float]:
    xs, ys = [x for x, _ in points], [y for _, y in points]
    return min(xs), max(xs), min(ys), max(ys)


def compute_crossings(book: Book, runs: dict[str, Run]) -> list[Crossing]:
    """Every run and every part that comes into a zone that is there."""
    found = []
    zones = [zone for zone in book.design.vehicle.zones if zone.present.value is not False]
    solid = [
        (part, *((part.length_m, part.width_m) if isinstance(part, Box) else (SMALL_M, SMALL_M)))
        for part in book.design.parts
        if isinstance(part, (Amplifier, Box, Converter)) and part.position is not None
    ]
    drawn = [(run, run.points, _extent(run.points)) for run in runs.values() if run.points]
    for zone in zones:
        centre = zone.position.point
        half_x, half_y = zone.length_m / 2, zone.width_m / 2
        for run, points, (x0, x1, y0, y1) in drawn:
            if x1 < centre[0] - half_x or x0 > centre[0] + half_x or y1 < centre[1] - half_y or y0 > centre[1] + half_y:
                continue  # nowhere near: most runs and zones
            inside_m = length_inside_m(points, centre, zone.length_m, zone.width_m)
            if inside_m > LEAST_M.get(zone.kind, TOUCHES_M):
                found.append(Crossing(zone, run.link.id, f"{run.start_name} to {run.end_name}", inside_m))
        if zone.kind is ZoneKind.HEAT:
            continue
        for part, length_m, width_m in solid:
            assert part.position is not None
            over_x = (zone.length_m + length_m) / 2 - abs(part.position.x_m - centre[0])
            if over_x <= OVER_M:
                continue
            over_y = (zone.width_m + width_m) / 2 - abs(part.position.y_m - centre[1])
            if over_y > OVER_M:
                found.append(Crossing(zone, part.id, part.name, min(over_x, over_y)))
    return found


def compute_bulkhead(book: Book, runs: dict[str, Run]) -> list[BulkheadCrossing]:
    """Every run from the engine side that goes through the bulkhead."""
    passages, line_m = book.design.vehicle.passages, bulkhead_m(book.design.vehicle)
    found = []
    for link in (k for k in book.design.links if isinstance(k, (PowerLink, ChargeLink, FeedLink))):
        run = runs[link.id]
        y_m = crossing_y_m(run.points, line_m) if run.points else None
        if y_m is None or not run.points or not run.points[0][0] < line_m < run.points[-1][0]:
            continue
        near = min(passages, key=lambda p: abs(p.position.y_m - y_m), default=None)
        taken = near.id if near is not None and abs(near.position.y_m - y_m) <= WAY_REACH_M else None
        found.append(BulkheadCrossing(link.id, f"{run.start_name} to {run.end_name}", y_m, taken))
    return found


ROOF_BEFORE_M = 0.3  # before where it lies a roof still comes down on its way; common practice


def near_the_roof(design: Design) -> Iterator[Zone]:
    """The folded roofs a new part sits at or behind.

    Parameters:
        design: the design.

    Returns:
        the zones; none where all that is new sits well before them. Source: common practice.
    """
    placed = [part.position.x_m for part in design.parts if part.position is not None and not part.in_car]
    for zone in design.vehicle.zones:
        if zone.folds_away and any(x_m > zone.position.x_m - zone.length_m / 2 - ROOF_BEFORE_M for x_m in placed):
            yield zone
