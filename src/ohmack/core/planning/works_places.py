"""Where a works put the speakers every car has, in doors, panels, dash or shelf: what they are called there, how large
they are, and what goes along when somebody says they sit elsewhere.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from ohmack.core.document import Basis, Design
from ohmack.core.document.edits import Edit
from ohmack.core.document.facts import Position, Verified
from ohmack.core.document.handles import at
from ohmack.core.document.vehicle import Body, Speaker, SpeakerPlace, Vehicle
from ohmack.core.fit.places import PROPORTIONS
from ohmack.core.loads.corners import corner_of
from ohmack.core.record import record

Range = tuple[float, float, float]  # usual, from, to [mm]

FROM_THE_SKIN_M = 0.12  # how far inside the car's widest line the speakers of doors and panels sit
CORNER_M, CORNER_SIDE, SHELF_SIDE = 0.04, 0.66, 0.42  # behind the dash's edge; shares of half the width
SHELF = {Body.SALOON: 0.76, Body.COUPE: 0.74, Body.HATCH: 0.80}  # share of the length; no other has one
NEAR_M = 0.02  # nobody drags a thing so little


@record
class UsualHole:
    """What a place for a speaker usually is, all of it common practice; None where nothing is usual."""

    word: str  # how such a place is called
    size: str = ""
    cut_out_mm: Range | None = None
    depth_mm: Range | None = None
    window_depth_mm: Range | None = None
    trim_clearance_mm: Range | None = None


DOOR = UsualHole("door", "6.5 in", (142.0, 130.0, 155.0), (66.0, 55.0, 85.0), (62.0, 48.0, 80.0), (24.0, 15.0, 40.0))
SMALL_DOOR = UsualHole(
    "door", "5.25 in", (115.0, 104.0, 128.0), (60.0, 48.0, 75.0), (56.0, 44.0, 72.0), (24.0, 15.0, 40.0)
)
PANEL = UsualHole("panel", "5.25 in", SMALL_DOOR.cut_out_mm, SMALL_DOOR.depth_mm, None, SMALL_DOOR.trim_clearance_mm)
DASH = UsualHole("dash", "3.5 in", (80.0, 70.0, 96.0), (45.0, 32.0, 60.0), None, (10.0, 5.0, 25.0))
SHELF_HOLE = UsualHole("shelf", "6×9 in", (152.0, 140.0, 165.0), (90.0, 70.0, 160.0), None, (25.0, 15.0, 60.0))
WORDS = {SpeakerPlace.PILLAR: "pillar", SpeakerPlace.CEILING: "ceiling", SpeakerPlace.HEADREST: "headrest"}
SIZES = ("cut_out_mm", "depth_mm", "window_depth_mm", "trim_clearance_mm")


def usual_hole(place: SpeakerPlace, front: bool) -> UsualHole:
    """What a place usually is, for a front or a rear speaker. Source: common practice."""
    match place:
        case SpeakerPlace.DOOR:
            return DOOR if front else SMALL_DOOR
        case SpeakerPlace.SIDE:
            return PANEL
        case SpeakerPlace.DASH:
            return DASH
        case SpeakerPlace.SHELF:
            return SHELF_HOLE
        case _:
            return UsualHole(WORDS.get(place, ""))


def corner_m(vehicle: Vehicle) -> float:
    """How far behind the nose the corners of the dash are [m]."""
    typical = PROPORTIONS[vehicle.body]
    return typical.dash * (vehicle.length_m.value or typical.length_m) + CORNER_M


def shelf_m(vehicle: Vehicle) -> float | None:
    """How far behind the nose the middle of the rear shelf is [m]; None for a body without one."""
    share = SHELF.get(vehicle.body)
    return None if share is None else share * (vehicle.length_m.value or PROPORTIONS[vehicle.body].length_m)


def usual_spot(vehicle: Vehicle, place: SpeakerPlace, front: bool, right: bool) -> Position | None:
    """Where on the plan such a speaker usually sits [m]; None where that differs too much from car to car.

    Source: common practice.
    """
    typical, sign = PROPORTIONS[vehicle.body], 1 if right else -1
    length_m = vehicle.length_m.value or typical.length_m
    half_m = (vehicle.width_m.value or typical.width_m) / 2
    if place in (SpeakerPlace.DOOR, SpeakerPlace.SIDE):
        along = typical.front_speaker if front else typical.rear_speaker or typical.front_speaker
        return Position(x_m=along * length_m, y_m=sign * (half_m - FROM_THE_SKIN_M))
    if place is SpeakerPlace.DASH:
        return Position(x_m=round(corner_m(vehicle), 2), y_m=round(sign * CORNER_SIDE * half_m, 2))
    if place is SpeakerPlace.SHELF and (x_m := shelf_m(vehicle)) is not None:
        return Position(x_m=round(x_m, 2), y_m=round(sign * SHELF_SIDE * half_m, 2))
    return None


def sits_elsewhere(design: Design, after: Design, paths: set[str]) -> Iterator[Edit]:
    """What goes along when somebody says that a speaker sits in another kind of place.

    Parameters:
        design: the design before.
        after: the design with the place changed.
        paths: what was edited with it.

    Returns:
        edits: its name and its spot, where they are still the usual ones; its sizes, where nobody looked.
    """
    was = {speaker.id: speaker for speaker in design.vehicle.speakers}
    for speaker in after.vehicle.speakers:
        old = was.get(speaker.id)
        if old is not None and old.place is not speaker.place and not speaker.new_place:
            yield from (e for e in _along(after, old, speaker) if e.path not in paths)


def _along(after: Design, old: Speaker, now: Speaker) -> Iterator[Edit]:
    front, right = corner_of(after, now.id).axle == "front", now.position.y_m > 0
    before, here = usual_hole(old.place, front), usual_hole(now.place, front)
    stem, _, word = now.name.rpartition(" ")
    if stem and word == before.word and here.word:
        yield Edit(path=at(now, lambda it: it.name), value=f"{stem} {here.word}")
    if now.size == before.size:
        yield Edit(path=at(now, lambda it: it.size), value=here.size)
    stood, stands = (usual_spot(after.vehicle, place, front, right) for place in (old.place, now.place))
    if stood is not None and stands is not None and _near(now.position, stood):
        yield Edit(path=at(now, lambda it: it.position), value=stands.model_dump(mode="json"))
    for field in SIZES:
        fact = getattr(now, field)
        if fact.basis is Basis.ASSUMED:
            yield Edit(path=f"{at(now)}/{field}", value=_assumed(getattr(here, field)))


def _near(one: Position, other: Position) -> bool:
    return abs(one.x_m - other.x_m) < NEAR_M and abs(one.y_m - other.y_m) < NEAR_M


def _assumed(usual: Range | None) -> dict[str, Any]:
    if usual is None:
        return {"value": None}
    value, low, high = usual
    how = Verified.NOT_CHECKED.value
    return {"value": value, "low": low, "high": high, "basis": Basis.ASSUMED.value, "how": how}
