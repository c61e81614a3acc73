"""Where a part goes that is put into a plan, under which id and name, and what it is put to use for at once."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Any

from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.boxes import Box
from ohmack.core.document.edits import Edit
from ohmack.core.document.facts import Position
from ohmack.core.document.handles import at, at_the, sure
from ohmack.core.document.ids import free_id, free_name
from ohmack.core.document.interventions import factory_amplifier
from ohmack.core.document.links import LineLink, PowerLink, RemoteLink
from ohmack.core.document.parts import Driver, FuseHolder, Subwoofer
from ohmack.core.document.small_parts import LineIsolator, MountingRing, SpeakerPad
from ohmack.core.fit.built_to_space import built_to, goes_in, stated
from ohmack.core.fit.far_ends import far_end
from ohmack.core.fit.made_to_measure import made_to_measure, takes
from ohmack.core.fit.places import first_place
from ohmack.core.planning.free_places import free_place
from ohmack.core.planning.nets import woofers_and_tweeters
from ohmack.core.planning.speaker_spots import speaker_spots, sub_pairs
from ohmack.core.supply.holders import suits


def _own_sub_place(design: Design) -> list[str]:
    """The car's own subwoofer, where a new driver takes its place: no amplifier and no box is planned."""
    if any(isinstance(part, (Amplifier, Box)) for part in design.parts):
        return []
    pairs, taken = sub_pairs(design), {name for part in design.parts_of(Subwoofer) for name in part.at_ids}
    return [s.id for s in design.vehicle.speakers if s.channel_id in pairs and s.id not in taken][:1]


STEMS = {
    "amplifier": "amp",
    "plug-in amplifier": "amp",
    "subwoofer": "sub",
    "powered subwoofer": "bass",
    "fuse holder": "holder",
    "distribution block": "block",
    "wire": "reel",
    "line cable": "rca",
    "charging relay": "relay",
    "capacitor": "cap",
    "crossover net": "net",
    "load resistor": "resistor",
    "line isolator": "isolator",
    "speaker pad": "pad",
    "voltage converter": "dcdc",
    "mounting ring": "ring",
    "switching relay": "switch",
    "series capacitor": "capacitor",
    "series coil": "coil",
}


# What has readings, cables and checks of its own: two of one model get two names.
TOLD_APART = (
    "amplifier", "plug-in amplifier", "powered subwoofer", "converter", "processor", "voltage converter",
    "distribution block", "charging relay", "box",
)  # fmt: skip


def _of_roles(drivers: Iterable[Driver], *roles: str) -> list[Driver]:
    """New drivers with a place, those of some kinds first, in that order."""
    placed = [driver for driver in drivers if driver.at_ids]
    return sorted(placed, key=lambda driver: roles.index(driver.role) if driver.role in roles else len(roles))


def _before(design: Design, tree: dict[str, Any]) -> list[str]:
    """The places a pad goes before: those of new tweeters, else of the smaller ones."""
    found = _of_roles(design.parts_of(Driver), "tweeter", "full range")
    return list(found[0].at_ids) if found else []


def _under(design: Design, tree: dict[str, Any]) -> list[str]:
    """The places a ring goes under: those of new speakers that go through its opening and do not fall through."""
    taken = {name for ring in design.parts_of(MountingRing) for name in ring.at_ids}
    free = [d for d in design.parts_of(Driver) if taken.isdisjoint(d.at_ids)]
    found = _of_roles([d for d in free if _holds(tree, d)], "coaxial", "woofer", "full range")
    return list(found[0].at_ids) if found else []


def _holds(ring: dict[str, Any], driver: Driver) -> bool:
    """Whether a speaker goes through the opening of a ring and does not fall through it."""
    opening_mm = float(ring["opening_mm"])
    return driver.cut_out_mm <= opening_mm < driver.frame_mm


PLACED: dict[str, Callable[[Design, dict[str, Any]], list[str]]] = {  # where a part of a kind goes, if nobody says
    "subwoofer": lambda design, tree: _own_sub_place(design),
    "crossover net": lambda design, tree: woofers_and_tweeters(design),
    "speaker pad": _before,
    "mounting ring": _under,
}


def placed_late(before: Design, after: Design) -> tuple[Edit, ...]:
    """Edits that put new pads and rings where they go, once there are speakers they go with, or go with better.

    Parameters:
        before: the design before some speakers were added.
        after: the design with them.

    Returns:
        the edits; none for one that somebody put elsewhere.
    """
    edits = []
    for part in after.parts:
        if not isinstance(part, SpeakerPad | MountingRing) or part.in_car:
            continue
        tree = part.model_dump(mode="json", exclude={"at_ids"})
        was, now = (PLACED[part.kind](design, tree)[: part.pieces] for design in (before, after))
        ours = not part.at_ids or (isinstance(part, SpeakerPad) and list(part.at_ids) == was)
        if ours and now and now != list(part.at_ids):
            edits.append(Edit(path=at(part, lambda it: it.at_ids), value=now))
    return tuple(edits)


def put_in_line(before: Design, after: Design) -> tuple[Edit, ...]:
    """Edits that put new line isolators which are in no line each into one that has none.

    Parameters:
        before: the design before some parts were added, and lines laid anew for them.
        after: the design with them.

    Returns:
        the edits: back into the line it was in where that is there again, else into the first.
    """
    was = {part.id: part.in_line_id for part in before.parts_of(LineIsolator)}
    idle = [part for part in after.new_parts_of(LineIsolator) if part.in_line_id is None]
    free, edits = _lines_without(after), []
    for part in sorted(idle, key=lambda part: was.get(part.id) not in free):
        if free:
            own = was.get(part.id)
            name = own if own in free else free[0]
            free.remove(name)
            edits.append(Edit(path=at(part, lambda it: it.in_line_id), value=name))
    return tuple(edits)


def _lines_without(design: Design) -> list[str]:
    """The lines no isolator is in."""
    taken = {part.in_line_id for part in design.parts_of(LineIsolator)}
    return [line.id for line in design.links_of(LineLink) if line.id not in taken]


UNDER_SEAT_M = 0.12  # what goes under a front seat, common practice


def board_of(tree: dict[str, Any]) -> float | None:
    """The thickness of the boards of a box the shop builds [mm]; None for one that is bought."""
    found = (tree.get("boards") or {}).get("thickness_mm")
    return None if found is None else float(found)


def built_for(design: Design, tree: dict[str, Any]) -> dict[str, Any]:
    """A part as it is; a box the shop builds that would not go into the car's space, or that its drivers would not go
    into, built for both.
    """
    board_mm = board_of(tree) if tree["kind"] == "box" else None
    if board_mm is None or None in (tree.get("length_m"), tree.get("width_m"), tree.get("height_m")):
        return tree
    box, space = Box.model_validate({**tree, "id": "box"}), next(iter(design.vehicle.spaces), None)
    outside = (box.length_m, box.width_m, box.height_m or 0.0)
    stands = space is None or goes_in(design, space, outside) is not False
    loose = [sub for sub in design.parts_of(Subwoofer) if not sub.at_ids]
    subs = loose[sum(1 for _ in design.parts_of(Box)) :]  # the rest have a box already
    if stands and takes(box, subs):
        return tree
    block = made_to_measure(design, box, subs, box.net_volume_l, space=space)
    if block is None and space is not None and not stands:
        block = built_to(design, space, board_mm, box.net_volume_l, sum(sub.displaced_l or 0.0 for sub in loose))
    return tree if block is None else {**tree, **stated(block)}


def place_for(design: Design, tree: dict[str, Any]) -> dict[str, float] | None:
    """Where a part goes if nobody says: a sensible place that is free [m]; None for what has no place of its own."""
    if tree["kind"] == "plug-in amplifier" and (old := factory_amplifier(design)) is not None:
        return old.position.model_dump()  # on the plugs that lie there
    if (end := far_end(design.vehicle, tree.get("category", ""))) is not None:
        return end.model_dump()
    wanted, space = first_place(tree["kind"], design.vehicle), next(iter(design.vehicle.spaces), None)
    if tree["kind"] == "powered subwoofer" and space is not None and tree.get("height_m", 0.0) > UNDER_SEAT_M:
        wanted = space.position.model_dump()  # no seat is that high above the floor
    return free_place(design, tree, wanted)


def place_part(design: Design, tree: dict[str, Any], there: Position | None = None) -> tuple[Edit, ...]:
    """Edits that put a part into the design at a sensible place under a free id.

    Parameters:
        design: the design.
        tree: the part's data without id and place.
        there: where it goes, if that is known; else a sensible place that is free.

    Returns:
        the edit that adds it, and for a fuse holder or a box those that put it to use.
    """
    taken = design.taken_ids()
    stem = STEMS.get(tree["kind"], tree["kind"])
    part_id = free_id(stem, taken)
    position = place_for(design, tree) if there is None else there.model_dump()
    if tree["kind"] == "line isolator" and not tree.get("in_line_id"):
        tree = {**tree, "in_line_id": next(iter(_lines_without(design)), None)}
    tree = built_for(design, tree)
    if tree["kind"] in TOLD_APART:
        tree = {**tree, "name": free_name(tree["name"], [part.name for part in design.parts])}
    edits: list[Edit] = []
    if tree["kind"] == "driver" and not tree.get("at_ids"):
        spots, made = speaker_spots(design, tree)
        tree, edits = {**tree, "at_ids": spots[: tree.get("pieces")]}, [*made]
    elif tree["kind"] in PLACED and not tree.get("at_ids"):
        spots = PLACED[tree["kind"]](design, tree)
        most = tree.get("pieces") if tree["kind"] != "crossover net" else None  # one of them parts two speakers
        tree = {**tree, "at_ids": spots[:most]}
    edits.append(
        Edit(op="add", path=at_the(Design, lambda it: it.parts), value={**tree, "id": part_id, "position": position})
    )
    if tree["kind"] == "box":  # a driver that had taken the car's own place goes into it
        subs = [sub for sub in design.parts_of(Subwoofer) if sub.at_ids]
        edits += [Edit(path=at(sub, lambda it: it.at_ids), value=[]) for sub in subs]
    if tree["kind"] == "switching relay":
        edits += [Edit(path=at(link, lambda it: it.relay), value=True) for link in design.links_of(RemoteLink)]
    if tree["kind"] == "fuse holder":
        edits += _into_holder(design, FuseHolder.model_validate({**tree, "id": part_id}))
    return tuple(edits)


def _into_holder(design: Design, holder: FuseHolder) -> list[Edit]:
    """The fuses that have no holder yet into a new one, as many as it has room for, those whose size it has first."""
    bare = [link for link in design.links_of(PowerLink) if link.fuse and link.fuse.holder_id is None]
    bare.sort(key=lambda link: not suits(holder, design.part(link.to_id)))
    taken = bare[: holder.circuits]
    return [Edit(path=at(link, lambda it: sure(it.fuse).holder_id), value=holder.id) for link in taken]
