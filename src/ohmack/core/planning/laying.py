"""Laying cables: which lane each kind takes, new ones laid, and those whose ends moved laid anew."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from math import dist

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.facts import Position
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.links import (
    CapacitorLink,
    FeedLink,
    GroundLink,
    LineLink,
    Link,
    PowerLink,
    RemoteLink,
    SpeakerLink,
    TapLink,
)
from ohmack.core.fit.runs import ends, plays_over_the_loom
from ohmack.core.physics.geometry import Point
from ohmack.core.planning.brought_along import brought_along
from ohmack.core.planning.routing import Floor, Lane, Rect, floor_of, route

# Side by side along the sill, power never down the middle where the signals may go; common practice.
LANES = {
    "power": Lane(0.13, 3.0), "charge": Lane(0.18, 3.0), "line": Lane(0.13), "tap": Lane(0.13), "remote": Lane(0.18),
    "feed": Lane(0.23), "speaker": Lane(0.09), "ground": Lane(0.21, 3.0),
}  # fmt: skip
APART_M = 0.04  # one pair beside the other
SHORT_M = 1.5  # a ground lead to a point no further away goes straight there; common practice
SIGNALS = (LineLink, TapLink, RemoteLink, FeedLink)
KEEPS_M = 0.5  # an end moved no further leaves a way that was set by hand as it is
LISTS = at_the(Design, lambda it: it.links)


def power_side(design: Design) -> int:
    """The side power runs go down: that of the way through the bulkhead, else of the battery; 1 for the right."""
    vehicle = design.vehicle
    first = next(iter(vehicle.passages), None) or vehicle.supply.batteries[0]
    return 1 if first.position.y_m > 0 else -1


def _beside_power(design: Design) -> Iterator[Rect]:
    """The strips along every power run that a signal is better kept out of."""
    apart_m = design.policy.separation_m / 2
    for link in design.links_of(PowerLink):
        (_, start), (_, end) = ends(design, link)
        if start is None or end is None:
            continue
        points = [start.point, *(p.point for p in link.way_points), end.point]
        for (ax, ay), (bx, by) in zip(points, points[1:], strict=False):
            yield min(ax, bx) - apart_m, max(ax, bx) + apart_m, min(ay, by) - apart_m, max(ay, by) + apart_m


def _way(design: Design, floor: Floor, link: Link) -> tuple[Point, ...]:
    """The way points a link is given; none for one without a place at both ends, over factory wires, or a short
    ground lead.
    """
    (_, start), (_, end) = ends(design, link)
    over_loom = plays_over_the_loom(design, link)
    if start is None or end is None or over_loom or isinstance(link, CapacitorLink):
        return ()
    if isinstance(link, GroundLink) and dist(start.point, end.point) <= SHORT_M:
        return ()
    side, lane = power_side(design), LANES[link.kind]
    beside: tuple[Rect, ...] = ()
    if isinstance(link, SpeakerLink):
        side = (end.y_m > 0) - (end.y_m < 0)
    elif isinstance(link, SIGNALS):
        side, beside = -side, tuple(_beside_power(design))
    if isinstance(link, LineLink):
        lines = [k.id for k in design.links_of(LineLink) if k.to_id == link.to_id]
        lane = Lane(lane.in_m + APART_M * lines.index(link.id), lane.away)
    return route(floor, start.point, end.point, lane, side, beside)


def lay_anew(design: Design, link_ids: Iterable[str]) -> tuple[Edit, ...]:
    """Edits that lay some links anew, power before signal so that they keep apart.

    Parameters:
        design: the design.
        link_ids: the links; unknown ones are passed over.

    Returns:
        one edit a link whose way is another, with the mark of a way set by hand taken off.
    """
    wanted, floor = set(link_ids), floor_of(design)
    edits: list[Edit] = []
    for link in sorted(design.links, key=lambda k: isinstance(k, SIGNALS)):
        if link.id not in wanted:
            continue
        way = [{"x_m": x, "y_m": y} for x, y in _way(design, floor, link)]
        if way == [p.model_dump() for p in link.way_points] and not link.by_hand:
            continue
        new = [Edit(path=at(link, lambda it: it.way_points), value=way)]
        if link.by_hand:
            new.append(Edit(path=at(link, lambda it: it.by_hand), value=False))
        design = apply_edits(design, new)
        edits += new
    return tuple(edits)


def laid(design: Design, edits: Sequence[Edit]) -> tuple[Edit, ...]:
    """The same edits, every link they add laid along a sensible way, and every link they tie elsewhere laid anew.

    Parameters:
        design: the design they are for.
        edits: edits; a link that comes with way points keeps them.

    Returns:
        the edits; ways of new links stand in what adds them.
    """
    new = {e.value["id"] for e in edits if e.op == "add" and e.path == LISTS and not e.value.get("way_points")}
    after = apply_edits(design, edits)
    ways = {edit.path: edit.value for edit in lay_anew(after, [*new, *_moved_links(design, after)])}
    found = []
    for edit in edits:
        own = edit.value["id"] if edit.op == "add" and edit.path == LISTS else ""
        way = ways.pop(f"{LISTS}/{own}/way_points", None)
        found.append(edit.model_copy(update={"value": {**edit.value, "way_points": way}}) if way else edit)
    return (*found, *(Edit(path=path, value=value) for path, value in ways.items()))


def follow(design: Design, edits: Sequence[Edit]) -> tuple[Edit, ...]:
    """What edits that move things, or tie links elsewhere, do to the runs: those laid by Ohmack are laid anew.

    Parameters:
        design: the design before the edits.
        edits: the edits.

    Returns:
        the edits, followed by what they bring along and by new ways; a way set by hand stays while its ends stay near
        where they were, and is marked as such when its way points are edited.
    """
    after = apply_edits(design, edits)
    if along := brought_along(design, after, edits):
        edits, after = (*edits, *along), apply_edits(after, along)
    touched = {e.path.split("/")[1] for e in edits if e.path.startswith(f"{LISTS}/") and "/way_points" in e.path}
    more = [
        Edit(path=at(link, lambda it: it.by_hand), value=True)
        for link in after.links
        if link.id in touched and not link.by_hand
    ]
    moved = [name for name in _moved_links(design, after) if name not in touched]
    return (*edits, *more, *lay_anew(after, moved)) if more or moved else tuple(edits)


def _moved_links(design: Design, after: Design) -> list[str]:
    """The links of both designs whose ends are elsewhere in the second."""
    before = {link.id: link for link in design.links}
    return [k.id for k in after.links if k.id in before and _moved(design, before[k.id], after, k)]


def _moved(design: Design, was: Link, after: Design, now: Link) -> bool:
    """Whether the ends of a link are elsewhere, for one set by hand further away than it bends."""
    least_m = KEEPS_M if now.by_hand else 0.0
    pairs = zip(ends(design, was), ends(after, now), strict=True)
    return any(_apart(old, new) > least_m for (_, old), (_, new) in pairs)


def _apart(old: Position | None, new: Position | None) -> float:
    if old is None or new is None:
        return 0.0 if old is new else float("inf")
    return max(abs(old.x_m - new.x_m), abs(old.y_m - new.y_m))
