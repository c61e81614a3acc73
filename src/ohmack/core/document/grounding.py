"""Every lead of a plan that ends at a ground point of the car, and which point is near."""

from __future__ import annotations

from ohmack.core.document.design import Design
from ohmack.core.document.facts import Position
from ohmack.core.document.handles import at
from ohmack.core.document.links import ChargeLink, FeedLink, GroundLink
from ohmack.core.document.vehicle import GroundKind, GroundPoint
from ohmack.core.record import record

NEVER_GROUND = (GroundKind.SEAT_BOLT, GroundKind.BELT_BOLT)  # they hold a person


@record
class Grounding:
    """One lead to a ground point: where the point is chosen, whether it is a run's own ground lead, and whether it was
    made before this job.
    """

    point: GroundPoint
    path: str
    of_a_run: bool
    in_car: bool


def groundings(design: Design) -> tuple[Grounding, ...]:
    """Every lead to a ground point of the car: of runs, of what hangs on a feed, of second batteries.

    Parameters:
        design: the design.

    Returns:
        them in the order of the links; a lead to a ground block is none.
    """
    points = {point.id: point for point in design.vehicle.ground_points}
    found = []
    for link in design.links:
        if isinstance(link, GroundLink):
            name, path = link.to_id, at(link, lambda it: it.to_id)
        elif isinstance(link, FeedLink | ChargeLink):
            name, path = link.ground_point_id or "", at(link, lambda it: it.ground_point_id)
        else:
            continue
        if name in points:
            found.append(Grounding(points[name], path, isinstance(link, GroundLink), link.in_car))
    return tuple(found)


BORED = (GroundKind.STUD, GroundKind.SELF_TAPPING, None)  # what a hole is drilled for, as far as nobody looked


def bored_now(design: Design) -> list[GroundPoint]:
    """The ground points this job drills for: those it grounds something at, and nothing was grounded at before it."""
    grounded = groundings(design)
    before = {one.point.id for one in grounded if one.in_car}
    before |= {link.to_id for link in design.links_of(GroundLink) if link.old_out}
    now = {one.point.id for one in grounded if not one.in_car} - before
    return [p for p in design.vehicle.ground_points if p.id in now and p.kind.value in BORED]


def ground_for(design: Design, place: Position) -> GroundPoint | None:
    """The nearest ground point that may be used; where the work must be reversible, one that needs no drill first."""

    def worse(point: GroundPoint) -> tuple[bool, bool, float]:
        kind = point.kind.value
        drilled = design.intake.reversible and kind is GroundKind.SELF_TAPPING
        return kind in NEVER_GROUND, drilled, abs(point.position.x_m - place.x_m)

    return min(design.vehicle.ground_points, key=worse, default=None)
