"""Edits that take what is in the car out of it: the part, its cables, the joints and holes that were made for them."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import Any

from ohmack.core.build.lists import SCREENED
from ohmack.core.document import Design
from ohmack.core.document.boxed import boxed
from ohmack.core.document.design import ends_of, required_ends
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.factory import Tier
from ohmack.core.document.handles import at
from ohmack.core.document.ids import free_id
from ohmack.core.document.links import (
    ChargeLink,
    FeedLink,
    GroundLink,
    Link,
    Pickup,
    PowerLink,
    RemoteLink,
    SpeakerLink,
    TapLink,
    TapPlace,
)
from ohmack.core.document.outgoing import Goes
from ohmack.core.document.part import PartBase
from ohmack.core.document.parts import CableReel, FuseLink, HeadUnit, LineCable
from ohmack.core.document.vehicle import Battery, GroundKind
from ohmack.core.errors import NotPossible
from ohmack.core.evaluation.door import evaluate
from ohmack.core.evaluation.results import Results
from ohmack.core.physics.geometry import Point

MADE = (GroundKind.STUD, GroundKind.SELF_TAPPING)  # ground points somebody drilled for
Tree = dict[str, Any]


def part_out(results: Results, part_id: str) -> tuple[Edit, ...]:
    """Edits that take a part that is in the car out of it, with every cable that cannot do without it.

    Parameters:
        results: the evaluated design.
        part_id: the part.

    Returns:
        the edits: what comes out and what is made good for it goes on a list of its own, the part leaves the plan.

    Raises:
        NotPossible: a part that is not in the car: it is only left out of the plan.
    """
    results = results.later or results
    part = results.design.part(part_id)
    if part is None or not part.in_car:
        raise NotPossible("part", "It is not in the car: leave it out of the plan.")
    ties = [link for link in results.design.links if part_id in required_ends(link)]
    return (*_filed(results, [part], ties), Edit(op="remove", path=at(part)))


def link_out(results: Results, link_id: str) -> tuple[Edit, ...]:
    """Edits that take a cable that lies in the car out of it, and make good what was done for it; as `part_out`.

    Raises:
        NotPossible: a cable that does not lie in the car.
    """
    results = results.later or results
    tie = next((link for link in results.design.links if link.id == link_id), None)
    if tie is None or not tie.in_car:
        raise NotPossible("cable", "It does not lie in the car: leave it out of the plan.")
    return (*_filed(results, [], [tie]), Edit(op="remove", path=at(tie)))


def replaced(results: Results, part_id: str) -> tuple[Edit, ...]:
    """Edits that note a part in the car as coming out while another takes its place and its cables; none for a part
    that was not there.
    """
    results = results.later or results
    part = results.design.part(part_id)
    return _filed(results, [part], []) if part is not None and part.in_car else ()


def everything_out(results: Results) -> tuple[Edit, ...]:
    """Edits that take everything that is in the car out of it; what is only planned stays in the plan, as far as it
    hangs on nothing of that.

    Parameters:
        results: the evaluated design.

    Returns:
        the edits; places that were made for our speakers, and batteries our cables charge, go too.

    Raises:
        NotPossible: nothing is in the car.
    """
    results = results.later or results
    design, vehicle = results.design, results.design.vehicle
    parts, ties = [p for p in design.parts if p.in_car], [k for k in design.links if k.in_car]
    if not parts and not ties:
        raise NotPossible("part", "Nothing of ours is in this car.")
    charged = {link.to_id for link in ties if isinstance(link, ChargeLink)}
    ours = [b for b in vehicle.supply.batteries if b.id in charged]
    played = {d.speaker.id for d in results.drives if d.driver in parts}
    gone = (
        *ties, *parts, *(s for s in vehicle.speakers if s.new_place and s.id in played), *ours,
    )  # fmt: skip
    return (*_filed(results, parts, ties, ours), *(Edit(op="remove", path=at(thing)) for thing in gone))


def all_out(design: Design) -> Design:
    """A design in which everything that is in the car comes out, and the car is as it came.

    Parameters:
        design: a car as it was built.

    Returns:
        the design: no parts, no links, everything on the list of what comes out.

    Raises:
        OhmackError: the design cannot be evaluated; as `everything_out`.
    """
    out = apply_edits(design, everything_out(evaluate(design).results))
    return out.model_copy(update={"parts": (), "links": (), "interventions": (), "strategy": None})


def _filed(
    results: Results, parts: Iterable[PartBase], ties: Iterable[Link], batteries: Iterable[Battery] = ()
) -> tuple[Edit, ...]:
    """The edits that put things on the list of what comes out, each under an id of its own."""
    taken = {one.id for one in results.design.coming_out}
    edits = []
    beside: list[tuple[str, Tree]] = [
        (b.id, {"goes": Goes.PART, "name": b.name, "is_battery": True, "live": True,
                "position": b.position.model_dump(mode="json")}) for b in batteries
    ]  # fmt: skip
    for stem, tree in (*_parts(results, parts), *_ties(results, [tie for tie in ties if tie.in_car]), *beside):
        name = free_id(stem[:36].rstrip("-"), taken)
        taken.add(name)
        edits.append(Edit(op="add", path="coming_out", value={"id": name, **tree, "name": tree["name"][:120]}))
    return tuple(edits)


def _place(point: Point) -> Tree:
    return {"x_m": point[0], "y_m": point[1]}


def _parts(results: Results, parts: Iterable[PartBase]) -> Iterator[tuple[str, Tree]]:
    radio = results.design.vehicle.radio
    for part in parts:
        if isinstance(part, CableReel | LineCable | FuseLink) or getattr(part, "category", "") == "consumables":
            continue  # used up
        where = part.position.model_dump(mode="json") if part.position is not None else None
        places = [d.speaker for d in results.drives if d.driver is not None and d.driver.id == part.id]
        if isinstance(part, HeadUnit):
            back = radio.name if radio.tier.value is not Tier.NONE else ""
            yield part.id, {"goes": Goes.PART, "name": part.name, "position": _place(radio.position.point),
                            "is_radio": True, "instead": back}  # fmt: skip
        elif places:
            for speaker in places:
                there = _place(speaker.position.point)
                back = "" if speaker.new_place else "the car's own speaker"
                yield f"{part.id}-{speaker.id}", {"goes": Goes.PART, "name": part.name, "place": speaker.name,
                                                  "speaker_id": None if speaker.new_place else speaker.id,
                                                  "position": there, "instead": back}  # fmt: skip
                if speaker.new_place and not speaker.in_new_box:
                    words = f"{speaker.name}: its hole or pod made good, the panel whole again"
                    yield speaker.id, {"goes": Goes.HOLE, "name": words, "position": there}
        else:
            box = next((box for box, subs in boxed(results.design) if part in subs), None)
            if where is None and box is not None and box.position is not None:
                where = box.position.model_dump(mode="json")
            yield part.id, {"goes": Goes.PART, "name": part.name, "position": where}


def _ties(results: Results, ties: list[Link]) -> Iterator[tuple[str, Tree]]:
    """Every cable that comes out, and what is made good at its ends."""
    gone = {tie.id for tie in ties}
    still = {name for k in results.design.links if k.id not in gone for name in _names(k)}
    still |= {c.passage_id for c in results.bulkhead if c.passage_id and c.link_id not in gone}
    closed: set[str] = set()
    for tie in ties:
        points = results.runs[tie.id].points or () if tie.id in results.runs else ()
        if not (isinstance(tie, SpeakerLink) and tie.factory_wire):
            live = isinstance(tie, PowerLink | ChargeLink | FeedLink)
            yield tie.id, {"goes": Goes.CABLE, "name": _called(results, tie), "live": live,
                           "way": [_place(p) for p in points],
                           "position": _place(points[0]) if points else None}  # fmt: skip
        for stem, tree in _made_good(results, tie):
            if stem not in closed and stem not in still:
                closed.add(stem)
                yield stem, tree


def _names(link: Link) -> set[str]:
    return {*ends_of(link), str(getattr(link, "ground_point_id", "") or "")}


def _called(results: Results, tie: Link) -> str:
    """A cable in words: its size as far as it is known, and where it runs."""
    row = next((row for row in results.wire_rows if row.link_id == tie.id), None)
    run = results.runs.get(tie.id)
    start, end = (row.start, row.end) if row is not None else (run.start_name, run.end_name) if run else ends_of(tie)
    size = row.size if row is not None else ""
    return f"{'Screened cable' if size == SCREENED else f'{size} cable' if size else 'Cable'} from {start} to {end}"


def _untapped(results: Results, tie: TapLink, start: Point) -> Iterator[tuple[str, Tree]]:
    """A tap undone: its adapter out, or every pair it was spliced into made whole."""
    vehicle, run = results.design.vehicle, results.runs.get(tie.id)
    if tie.method is Pickup.PLUG_ADAPTER:
        words = (
            f"{run.start_name if run is not None else 'Radio'}: plug adapter out, the car's own plugs together again"
        )
        yield f"tap-{tie.id}", {"goes": Goes.JOINT, "name": words, "position": _place(start)}
        return
    for channel in (c for c in vehicle.channels if c.id in tie.from_ids):
        speaker = next((s for s in vehicle.speakers if s.channel_id == channel.id), None)
        leads = speaker.position.point if speaker is not None and tie.place is TapPlace.LEADS else start
        yield f"pair-{channel.id}", {"goes": Goes.JOINT, "splices": 2, "position": _place(leads),
                                     "speaker_id": speaker.id if speaker is not None else None,
                                     "name": f"{channel.name}: splices out, its own wires joined"}  # fmt: skip


def _made_good(results: Results, tie: Link) -> Iterator[tuple[str, Tree]]:
    """The joints a cable was made with, undone; the holes it was made through, closed."""
    vehicle, points = results.design.vehicle, results.runs[tie.id].points if tie.id in results.runs else None
    start = points[0] if points else vehicle.radio.position.point
    feeds = {f.id: f for f in vehicle.feeds}
    speakers = {s.id: s for s in vehicle.speakers}
    if isinstance(tie, TapLink):
        yield from _untapped(results, tie, start)
    if isinstance(tie, FeedLink | RemoteLink) and tie.from_id in feeds:
        feed = feeds[tie.from_id]
        words = f"{feed.name}: our tap off, the car's wire and fuse as they were"
        yield feed.id, {"goes": Goes.JOINT, "name": words, "splices": 1, "position": _place(feed.position.point)}
    if isinstance(tie, SpeakerLink) and tie.to_id in speakers:
        speaker = speakers[tie.to_id]
        there = vehicle.radio.position.point if tie.factory_wire else speaker.position.point
        words = f"{speaker.name}: its own wires from the radio joined to it again"
        yield (
            f"wires-{speaker.id}",
            {"goes": Goes.JOINT, "name": words, "splices": 2, "speaker_id": speaker.id, "position": _place(there)},
        )
    grounded = tie.to_id if isinstance(tie, GroundLink) else getattr(tie, "ground_point_id", None)
    point = next((g for g in vehicle.ground_points if g.id == grounded), None)
    if point is not None:
        made = point.kind.value in MADE
        words = "bolt out, bare metal primed, the hole closed" if made else "our ring off, its own bolt tight again"
        if point.kind.value is None:
            words = "our ring off; its hole closed, or the car's own bolt tight again"
        yield point.id, {"goes": Goes.HOLE if made else Goes.JOINT, "name": f"{point.name}: {words}",
                         "position": _place(point.position.point)}  # fmt: skip
    for crossing in (c for c in results.bulkhead if c.link_id == tie.id and c.passage_id):
        passage = next(p for p in vehicle.passages if p.id == crossing.passage_id)
        yield passage.id, {"goes": Goes.HOLE, "name": f"{passage.name}: closed again, watertight",
                           "position": _place(passage.position.point)}  # fmt: skip
