"""What one choice brings along: a pickup away from the plug is spliced, a part that moved is grounded where it is, a
driver goes with its box, a value that was typed in is read, a battery of another voltage rests at another one, a
speaker of the works that sits elsewhere is called so, a car of another body has what is usual of that, an
amplifier's output goes where its speaker goes, and what is set for a line pair is set for all it feeds.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from ohmack.core.document import Basis, Design
from ohmack.core.document.boxed import boxed
from ohmack.core.document.edits import Edit
from ohmack.core.document.facts import Verified
from ohmack.core.document.grounding import ground_for
from ohmack.core.document.handles import at
from ohmack.core.document.links import FeedLink, GroundLink, LineLink, Pickup, TapLink, TapPlace
from ohmack.core.document.vehicle import SystemVoltage
from ohmack.core.evaluation.sensitivity import fact_guide
from ohmack.core.planning.kind_of_car import as_the_kind
from ohmack.core.planning.outputs_follow import outputs_follow
from ohmack.core.planning.works_places import sits_elsewhere
from ohmack.core.signal.ways import SET_FOR_A_PAIR


def brought_along(design: Design, after: Design, edits: Sequence[Edit]) -> tuple[Edit, ...]:
    """What else some edits change, so that what stands there still makes sense.

    Parameters:
        design: the design before them.
        after: the design they make.
        edits: the edits.

    Returns:
        further edits. What somebody chose against the usual, or measured, stays.
    """
    paths = {edit.path for edit in edits}
    return (
        *as_the_kind(design, after, paths),
        *_spliced(after, paths), *_grounded_here(design, after), *_read(after, paths),
        *_as_the_system(design, after, paths), *_by_relay(design, after, paths), *_with_their_boxes(design, after),
        *sits_elsewhere(design, after, paths), *outputs_follow(design, after),
        *_for_the_pair(after, paths),
    )  # fmt: skip


def _spliced(after: Design, paths: set[str]) -> Iterator[Edit]:
    """There is no plug to be adapted away from the plug."""
    for tap in after.links_of(TapLink):
        moved, chosen = at(tap, lambda it: it.place) in paths, at(tap, lambda it: it.method) in paths
        adapted = tap.method is Pickup.PLUG_ADAPTER and tap.place is not TapPlace.PLUG
        if adapted and moved and not chosen:
            yield Edit(path=at(tap, lambda it: it.method), value=Pickup.SPLICE.value)


def _for_the_pair(after: Design, paths: set[str]) -> Iterator[Edit]:
    """One output of a source has one level and one filter, whatever hangs on it."""
    lines = list(after.links_of(LineLink))
    for line in lines:
        for name in SET_FOR_A_PAIR:
            if f"{at(line)}/{name}" not in paths:
                continue
            for other in lines:
                beside = other is not line and (other.from_id, other.pair) == (line.from_id, line.pair)
                path, value = f"{at(other)}/{name}", getattr(line, name)
                if beside and path not in paths and getattr(other, name) != value:
                    yield Edit(path=path, value=value)


def _read(after: Design, paths: set[str]) -> Iterator[Edit]:
    """What is typed into a part is taken as usual no longer, be it the same value."""
    for part in after.parts:
        if part.taken_as_usual and at(part, lambda it: it.taken_as_usual) not in paths:
            still = [name for name in part.taken_as_usual if f"{at(part)}/{name}" not in paths]
            if len(still) < len(part.taken_as_usual):
                yield Edit(path=at(part, lambda it: it.taken_as_usual), value=still)


CELLS = {SystemVoltage.V6: 3, SystemVoltage.V12: 6, SystemVoltage.V24: 12}
OF_12_V = {"post_resting_v": 12.6, "post_running_v": 14.2}  # as a new job assumes them; common practice


def _as_the_system(design: Design, after: Design, paths: set[str]) -> Iterator[Edit]:
    """Another system rests and charges at another voltage, where nobody has read it; a pack's depends on its cells."""
    system, supply = after.vehicle.supply.system.value, after.vehicle.supply
    if system is None or system is design.vehicle.supply.system.value:
        return
    facts = {
        at(supply, lambda it: it.post_resting_v): supply.post_resting_v,
        at(supply, lambda it: it.post_running_v): supply.post_running_v,
    }
    for path, fact in facts.items():
        read = fact.value is not None and fact.basis is not Basis.ASSUMED
        if read or path in paths:
            continue
        cells, name = CELLS.get(system), path.rpartition("/")[2]
        if cells is None:
            yield Edit(path=path, value={"value": None})
            continue
        guide, times = fact_guide(name), cells / CELLS[SystemVoltage.V12]
        value = {"value": round(OF_12_V[name] * times, 2), "basis": Basis.ASSUMED.value}
        value |= {"low": round(guide["low"] * times, 2), "high": round(guide["high"] * times, 2)}
        yield Edit(path=path, value=value | {"how": Verified.NOT_CHECKED.value})


def _by_relay(design: Design, after: Design, paths: set[str]) -> Iterator[Edit]:
    """A feed that a relay switches is live when the one that works the relay is."""
    was = {feed.id: feed.live for feed in design.vehicle.feeds}
    now = {feed.id: feed.live for feed in after.vehicle.feeds}
    for feed in after.vehicle.feeds:
        source, path = feed.relay_on_id, at(feed, lambda it: it.live)
        if source is None or path in paths or now.get(source) == was.get(source):
            continue
        yield Edit(path=path, value=now[source].model_dump(mode="json"))


def _with_their_boxes(design: Design, after: Design) -> Iterator[Edit]:
    """A driver goes where its box goes, and takes it along where it is moved itself."""
    was = {part.id: part.position for part in design.parts}
    was_in = {sub.id: box.id for box, subs in boxed(design) for sub in subs}
    for box, subs in boxed(after):
        dragged = [s.position for s in subs if was_in.get(s.id) == box.id and s.position not in (None, was[s.id])]
        box_moved = box.position != was.get(box.id)
        place = dragged[0] if dragged and not box_moved else box.position
        if place is None:
            continue
        if place != box.position:
            yield Edit(path=at(box, lambda it: it.position), value=place.model_dump())
        for sub in subs:
            stays = was_in.get(sub.id) == box.id and not box_moved and not dragged
            if not stays and sub.position not in (None, place):
                yield Edit(path=at(sub, lambda it: it.position), value=place.model_dump())


def _grounded_here(design: Design, after: Design) -> Iterator[Edit]:
    """Parts that moved, grounded so far at the nearest point, take the nearest from where they are now."""
    was = {part.id: part.position for part in design.parts}
    for part in after.parts:
        old, new = was.get(part.id), part.position
        if old is None or new is None or old == new:
            continue
        nearest_before, nearest = ground_for(design, old), ground_for(after, new)
        if nearest_before is None or nearest is None or nearest.id == nearest_before.id:
            continue
        for link in after.links:
            if isinstance(link, GroundLink) and link.from_id == part.id and link.to_id == nearest_before.id:
                if link.tape_length_m.value is None or link.tape_length_m.basis is Basis.ASSUMED:
                    yield Edit(path=at(link, lambda it: it.to_id), value=nearest.id)
            elif isinstance(link, FeedLink) and link.to_id == part.id and link.ground_point_id == nearest_before.id:
                yield Edit(path=at(link, lambda it: it.ground_point_id), value=nearest.id)
