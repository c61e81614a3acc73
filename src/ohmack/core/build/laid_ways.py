"""The ways the new cables take, piece by piece: which of them lie together, before the bulkhead and behind it."""

from __future__ import annotations

from itertools import pairwise
from math import dist
from typing import TYPE_CHECKING

from ohmack.core.build.lists import WireRow
from ohmack.core.document.handles import at
from ohmack.core.document.links import GroundLink
from ohmack.core.fit.places import bulkhead_m
from ohmack.core.fit.runs import plays_over_the_loom
from ohmack.core.physics.geometry import Point
from ohmack.core.record import record

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results
    from ohmack.core.fit.zones import BulkheadCrossing

GRID_M = 0.02  # points nearer than this are the same
POWER = frozenset({"power", "charge", "capacitor", "feed"})


@record
class Stretch:
    """A straight piece of way, with the cables that lie in it."""

    start: Point
    end: Point
    power: bool  # else signal: the two are never tied together
    link_ids: tuple[str, ...]
    length_m: float  # of cable laid along it, rise and slack in it
    engine_m: float  # of it, what lies before the bulkhead


@record
class Laid:
    """A cable this job lays: where it goes, and whose it is."""

    id: str  # of its link, or of what it leads to where no link stands for it
    about: str  # the path it is looked at by
    points: tuple[Point, ...]
    start: str
    end: str
    length_m: float | None
    power: bool
    short: bool = False  # a ground lead: no way of its own
    taped: bool = False  # its length is a tape's, not the plan's
    row: WireRow | None = None  # of the wire list, where no link stands for it


def new_ways(results: Results) -> list[Laid]:
    """The cables that lie somewhere on the plan and are laid by this job: links first, then what no link stands for."""
    design, found = results.design, []
    for link in design.links:
        run = results.runs.get(link.id)
        if link.in_car or run is None or not run.points or plays_over_the_loom(design, link):
            continue
        taped = link.tape_length_m.value is not None
        found.append(Laid(link.id, at(link), run.points, run.start_name, run.end_name, run.length.value,
                          link.kind in POWER, isinstance(link, GroundLink), taped))  # fmt: skip
    things = {one.id: at(one) for pool in (design.vehicle.speakers, design.parts) for one in pool}
    return found + [
        Laid(row.link_id, things[row.link_id], row.points, row.start, row.end, row.length_m, power=False, row=row)
        for row in results.wire_rows
        if row.points and not row.in_car and row.link_id in things
    ]


def new_crossings(results: Results) -> list[BulkheadCrossing]:
    """Where the runs this job lays come through the bulkhead."""
    laid = {link.id for link in results.design.links if not link.in_car}
    return [crossing for crossing in results.bulkhead if crossing.link_id in laid]


def passed_before(results: Results) -> set[str | None]:
    """The passages a run came through before this job: it lies there, or a new one takes its place."""
    there = {link.id for link in results.design.links if link.in_car or link.old_out}
    return {crossing.passage_id for crossing in results.bulkhead if crossing.link_id in there}


def stretches(results: Results) -> list[Stretch]:
    """Every piece of way once, however many cables lie in it.

    Parameters:
        results: the evaluated plan.

    Returns:
        pieces in the order of the cables; power and signal apart. Lengths are of the longest cable in the piece; ground
        leads, being short, are in none.
    """
    line_m = bulkhead_m(results.design.vehicle)
    met: dict[tuple[int, ...], list[tuple[str, float]]] = {}
    ends: dict[tuple[int, ...], tuple[Point, Point]] = {}
    for one in new_ways(results):
        plan_m = sum(dist(a, b) for a, b in pairwise(one.points))
        if one.short or plan_m <= 0:
            continue
        share = (one.length_m or plan_m) / plan_m
        for a, b in pairwise(one.points):
            first, last = sorted((a, b))
            key = (int(one.power), *(round(v / GRID_M) for v in (*first, *last)))
            ends.setdefault(key, (first, last))
            met.setdefault(key, []).append((one.id, dist(a, b) * share))
    found = []
    for key, cables in met.items():
        start, end = ends[key]
        length_m = max(m for _, m in cables)
        before = _before(start, end, line_m) * length_m
        found.append(Stretch(start, end, bool(key[0]), tuple(dict.fromkeys(n for n, _ in cables)), length_m, before))
    return found


def _before(start: Point, end: Point, line_m: float) -> float:
    """The share of a piece that lies before a line across the car."""
    low, high = sorted((start[0], end[0]))
    if high <= line_m:
        return 1.0
    return 0.0 if low >= line_m or high == low else (line_m - low) / (high - low)
