"""A card for every run: its side of the car, its points in order with the metres to each, ties, pinch points."""

from __future__ import annotations

from collections.abc import Iterable
from itertools import pairwise
from math import ceil, dist
from typing import TYPE_CHECKING

from ohmack.core.build.cut_list import Cable
from ohmack.core.build.laid_ways import Laid, new_ways
from ohmack.core.document.cabin import Zone
from ohmack.core.document.vehicle import Passage
from ohmack.core.fit.places import bulkhead_m
from ohmack.core.fit.zones import LEAST_M
from ohmack.core.physics.geometry import Point, part_inside
from ohmack.core.record import record
from ohmack.core.reference import table

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

MIDDLE = 0.15  # of the car's half width: so near to the middle it is on no side
SIDE_M = 0.15  # a point so near to the middle is on no side
ALONG = ((0.36, "dash"), (0.5, "front"), (0.72, "rear seat"), (99.0, "load space"))  # shares of the car's length
TOGETHER_M = 0.01  # so near, two stretches in one zone are one


@record
class Mark:
    """A point of a run, by the metres of cable up to it."""

    at_m: float
    name: str
    point: Point


@record
class Pinch:
    """Something a run comes through that it must be kept clear of."""

    zone: Zone
    from_m: float
    to_m: float

    @property
    def matters(self) -> bool:
        """Whether it is more than a crossing that does no harm."""
        return self.to_m - self.from_m > LEAST_M.get(self.zone.kind, 0.0)


@record
class RouteCard:
    """One run."""

    id: str  # of its link, or of what it leads to
    about: str  # the path it is looked at by
    number: str  # of its cable, as both ends are labelled
    size: str
    colour: str
    length_m: float | None
    rise_m: float  # at each end, in the length; 0 where the whole of it was taped
    side: str  # left, right, across, middle
    marks: tuple[Mark, ...]
    pinches: tuple[Pinch, ...]
    ties: int
    start: str
    end: str


def laid_m(cards: Iterable[RouteCard]) -> float:
    """The cable in some runs together, as far as its length is known [m]."""
    return sum(card.length_m or 0.0 for card in cards)


def route_cards(results: Results) -> list[RouteCard]:
    """The cards of all new cables.

    Parameters:
        results: the evaluated plan.

    Returns:
        a card a run, in the order of the wire list; metres along a run are its plan length stretched to the length it
        is cut to, so that the last mark stands at the end of the cable.
    """
    cables = {c.row.link_id: c for c in reversed(results.cut_list.cables)}
    unlinked = {id(c.row): c for c in results.cut_list.cables}
    return [
        _card(results, one, cables.get(one.id) if one.row is None else unlinked.get(id(one.row)))
        for one in new_ways(results)
    ]


def _card(results: Results, one: Laid, found: Cable | None) -> RouteCard:
    points, length_m = one.points, one.length_m
    plan_m = sum(dist(a, b) for a, b in pairwise(points)) or 1e-9
    share = (length_m or plan_m) / plan_m
    ties = 1 + max(1, ceil((length_m or 0) / float(table("sundries", "used")["tie_every_m"]) - 1e-9))
    return RouteCard(
        one.id,
        one.about,
        found.number if found else "",
        found.row.size if found else "",
        found.row.colour if found else "",
        length_m,
        0.0 if one.taped else results.design.policy.rise_m,
        _side(results, points),
        _marks(results, one, share),
        _pinches(results, points, share),
        ties,
        one.start,
        one.end,
    )


def _side(results: Results, points: tuple[Point, ...]) -> str:
    half_m = (results.design.vehicle.width_m.value or 1.8) / 2
    metres = {"left": 0.0, "right": 0.0, "middle": 0.0}
    for a, b in pairwise(points):
        y = (a[1] + b[1]) / 2
        where = "middle" if abs(y) < MIDDLE * half_m else "left" if y < 0 else "right"
        metres[where] += dist(a, b)
    side = max(metres, key=lambda name: metres[name])
    crosses = min(metres["left"], metres["right"]) > 0.25 * sum(metres.values())
    return "across" if crosses else side


def _marks(results: Results, one: Laid, share: float) -> tuple[Mark, ...]:
    points, at_m, found = one.points, 0.0, []
    ways = {p.id: p for p in results.design.vehicle.passages}
    way = next((ways[c.passage_id] for c in results.bulkhead if c.link_id == one.id and c.passage_id), None)
    for n, point in enumerate(points):
        if n and way is not None:
            found += _through(way, points[n - 1], point, at_m, share)
        at_m += dist(points[n - 1], point) * share if n else 0.0
        last = n == len(points) - 1
        name = one.start if n == 0 else one.end if last else _where(results, point)
        found.append(Mark(at_m, name, point))
    return tuple(_told_once(found))


def _through(way: Passage, start: Point, end: Point, at_m: float, share: float) -> list[Mark]:
    """The bulkhead, where a stretch crosses it."""
    line_m = way.position.x_m
    if not min(start[0], end[0]) <= line_m < max(start[0], end[0]):
        return []
    part = (line_m - start[0]) / (end[0] - start[0])
    point = (line_m, start[1] + part * (end[1] - start[1]))
    return [Mark(at_m + part * dist(start, end) * share, way.name, point)]


def _told_once(marks: list[Mark]) -> list[Mark]:
    """Way points but for those at the way through the bulkhead itself."""
    kept: list[Mark] = []
    for mark in marks:
        if kept and mark.at_m - kept[-1].at_m < 1e-6 and mark is not marks[-1]:
            continue
        kept.append(mark)
    return kept


def _where(results: Results, point: Point) -> str:
    vehicle = results.design.vehicle
    along = point[0] / (vehicle.length_m.value or 4.5)
    where = next(name for end, name in ALONG if along < end)
    where = "engine bay" if point[0] < bulkhead_m(vehicle) else where
    side = "left" if point[1] < -SIDE_M else "right" if point[1] > SIDE_M else "middle"
    return f"{where}, {side}"


def _pinches(results: Results, points: tuple[Point, ...], share: float) -> tuple[Pinch, ...]:
    found: list[Pinch] = []
    for zone in (z for z in results.design.vehicle.zones if z.present.value is not False):
        at_m, met = 0.0, list[tuple[float, float]]()
        for a, b in pairwise(points):
            here_m = dist(a, b) * share
            part = part_inside(a, b, zone.position.point, zone.length_m, zone.width_m)
            if part is not None:
                low, high = at_m + part[0] * here_m, at_m + part[1] * here_m
                if met and low - met[-1][1] < TOGETHER_M:
                    low = met.pop()[0]
                met.append((low, high))
            at_m += here_m
        found += [Pinch(zone, low, high) for low, high in met]
    return tuple(sorted(found, key=lambda p: p.from_m))
