"""The ways the new cables take, piece by piece: which of them lie together, before the bulkhead and behind it."""

from __future__ import annotations

from itertools import pairwise
from math import dist
from typing import TYPE_CHECKING

from ohmack.core.document.links import GroundLink, Link
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


def new_runs(results: Results) -> list[Link]:
    """The links that are cables of their own, lie somewhere on the plan and are laid by this job."""
    design = results.design
    laid = [k for k in design.links if not k.in_car and k.id in results.runs and results.runs[k.id].points]
    return [k for k in laid if not plays_over_the_loom(design, k)]


def new_crossings(results: Results) -> list[BulkheadCrossing]:
    """Where the runs this job lays come through the bulkhead."""
    laid = {link.id for link in results.design.links if not link.in_car}
    return [crossing for crossing in results.bulkhead if crossing.link_id in laid]


def stretches(results: Results) -> list[Stretch]:
    """Every piece of way once, however many cables lie in it.

    Parameters:
        results: the evaluated plan.

    Returns:
        pieces in the order of the links; power and signal apart. Lengths are of the longest cable in the piece; ground
        leads, being short, are in none.
    """
    line_m = bulkhead_m(results.design.vehicle)
    met: dict[tuple[int, ...], list[tuple[str, float]]] = {}
    ends: dict[tuple[int, ...], tuple[Point, Point]] = {}
    for link in new_runs(results):
        if isinstance(link, GroundLink):
            continue
        points, laid_m = results.runs[link.id].points or (), results.runs[link.id].length.value
        plan_m = sum(dist(a, b) for a, b in pairwise(points))
        if plan_m <= 0:
            continue
        share = (laid_m or plan_m) / plan_m
        for a, b in pairwise(points):
            first, last = sorted((a, b))
            key = (int(link.kind in POWER), *(round(v / GRID_M) for v in (*first, *last)))
            ends.setdefault(key, (first, last))
            met.setdefault(key, []).append((link.id, dist(a, b) * share))
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
