"""What a survey finds besides the usual: another battery, feed, speaker, module, link, zone, space, earlier damage."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from ohmack.core.document import Basis, Design, Fact
from ohmack.core.document.cabin import AlterationKind
from ohmack.core.document.edits import Edit
from ohmack.core.document.factory import FactoryLinkKind, ModuleKind
from ohmack.core.document.facts import Verified
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.ids import free_id
from ohmack.core.document.vehicle import FEED_PATTERNS, FeedRole, Vehicle
from ohmack.core.errors import NotPossible, UnknownName
from ohmack.core.factory.function_edits import traced_by
from ohmack.core.planning.headrests import add_headrests
from ohmack.core.planning.laying import power_side
from ohmack.core.planning.typical_speakers import (
    add_boxes,
    add_ceiling,
    add_dash_centre,
    add_dash_corners,
    add_pillars,
    add_rear_shelf,
)
from ohmack.core.reference import table
from ohmack.core.supply.second_battery import usual_posts

Start = Callable[[Design], dict[str, Any]]


def typical_work(kind: AlterationKind) -> Fact[float]:
    """The usual extra work for one kind of earlier damage, in minutes.

    Parameters:
        kind: what was done.

    Returns:
        an assumed fact with its range [min].

    Source: common practice.
    """
    usual, low, high = table("cabin", "alterations")["work"][kind.value]
    return Fact[float](value=usual, low=low, high=high, basis=Basis.ASSUMED, how=Verified.NOT_CHECKED)


def _battery(design: Design) -> dict[str, Any]:
    """In the boot, to the side the power runs do not come down; its post is assumed until a meter was on it."""
    place = {"x_m": _along(design, 0.80), "y_m": -BATTERY_Y_M * power_side(design)}
    return {"role": "leisure", "position": place, **usual_posts(design)}


def _along(design: Design, share: float) -> float:
    return round(share * (design.vehicle.length_m.value or 4.2), 2)


def _alteration(design: Design) -> dict[str, Any]:
    kind = AlterationKind.CUT
    return {"kind": kind.value, "work_min": typical_work(kind).model_dump(mode="json")}


def _module(design: Design) -> dict[str, Any]:
    return {"kind": ModuleKind.OTHER.value}


def _function(design: Design) -> dict[str, Any]:
    return {"made_by_id": design.vehicle.radio.id}


def _lead(role: FeedRole, name: str) -> Start:
    """A lead of the radio that is live while it plays, until a meter says so."""

    def start(design: Design) -> dict[str, Any]:
        place = design.vehicle.radio.position
        live = Fact[Any](value=FEED_PATTERNS["accessory"], basis=Basis.ASSUMED, alternatives=(FEED_PATTERNS["dead"],))
        gives = Fact[float](value=0.3, low=0.1, high=0.5, basis=Basis.ASSUMED)
        return {
            "name": name,
            "role": role.value,
            "live": live.model_dump(mode="json"),
            "limit_a": gives.model_dump(mode="json"),
            "position": {"x_m": round(place.x_m + 0.12, 2), "y_m": round(place.y_m - 0.16, 2)},
        }

    return start


def _new_place(design: Design) -> dict[str, Any]:
    return {"new_place": True}


def _nothing(design: Design) -> dict[str, Any]:
    return {}


HEADRESTS, NEW_PLACE = "headrest speakers", "new speaker place"
BATTERY_Y_M = 0.55
# what it is called -> (list in the vehicle, where along the car or -1 for nowhere, what it starts with)
SINGLE: dict[str, tuple[str, float, Start]] = {
    "speaker": ("speakers", 0.50, _nothing),
    NEW_PLACE: ("speakers", 0.50, _new_place),
    "feed": ("feeds", 0.36, _nothing),
    "remote lead of the radio": ("feeds", 0.36, _lead(FeedRole.REMOTE, "Remote lead of the radio")),
    "power-aerial lead": ("feeds", 0.36, _lead(FeedRole.AERIAL, "Power-aerial lead")),
    "ground point": ("ground_points", 0.82, _nothing),
    "passage": ("passages", 0.28, _nothing),
    "battery": ("supply/batteries", 0.80, _battery),
    "module": ("modules", 0.45, _module),
    "space": ("spaces", 0.80, _nothing),
    "zone": ("zones", 0.50, _nothing),
    "function": ("functions", -1.0, _function),
    "earlier damage": ("alterations", 0.34, _alteration),
}
# what comes as several things at once -> the edits that add them, the last one selected
TOGETHER: dict[str, Callable[[Design], tuple[Edit, ...]]] = {
    HEADRESTS: add_headrests,
    "dash corner speakers": add_dash_corners,
    "dash centre speaker": add_dash_centre,
    "front pillar speakers": add_pillars,
    "rear shelf speakers": add_rear_shelf,
    "ceiling speakers": add_ceiling,
    "pair of boxes": add_boxes,
}
ADDITIONS = (*SINGLE, *TOGETHER)


def add_to_survey(design: Design, what: str) -> tuple[str, tuple[Edit, ...]]:
    """A new thing of the survey with everything about it still to be found out.

    Parameters:
        design: the design.
        what: one of ADDITIONS.

    Returns:
        its path, and the edits that add it.

    Raises:
        UnknownName: nothing of that name can be added.
    """
    if what not in ADDITIONS:
        raise UnknownName("addition", what, ", ".join(ADDITIONS))
    if what in TOGETHER:
        edits = TOGETHER[what](design)
        return f"{edits[-1].path}/{edits[-1].value['id']}", edits
    field, share, start = SINGLE[what]
    vehicle = design.vehicle
    pool = vehicle.supply.batteries if what == "battery" else getattr(vehicle, field)
    number, stem = len(pool) + 1, "place" if what == NEW_PLACE else what.replace(" ", "-")
    taken = design.taken_ids()
    while f"{stem}-{number}" in taken:
        number += 1
    place = {"position": {"x_m": _along(design, share), "y_m": 0.2}} if share >= 0 else {}
    tree = {"id": f"{stem}-{number}", "name": f"{what.capitalize()} {number}", **place, **start(design)}
    path = f"vehicle/{field}"
    return f"{path}/{tree['id']}", (Edit(op="add", path=path, value=tree),)


def link_modules(design: Design, kind: str, from_id: str, to_id: str) -> tuple[Edit, ...]:
    """The edits that join two modules, and trace the function one of them is there for.

    Parameters:
        design: the design.
        kind: a kind of factory link.
        from_id: where it starts: the radio, a module or a feed.
        to_id: where it ends.

    Returns:
        the edit.

    Raises:
        NotPossible: an end or the kind is not chosen, or no such link can be between them.
        UnknownName: both ends are the same.
    """
    if not from_id or not to_id or not kind:
        raise NotPossible("link", "Choose both ends and what joins them.")
    feeds = {feed.id for feed in design.vehicle.feeds}
    if feeds & {from_id, to_id} and kind != FactoryLinkKind.FEED.value:
        raise NotPossible("kind", f"No {kind} goes to a feed: it gives current and carries no signal.")
    if from_id == to_id:
        raise UnknownName("other end", to_id, "a module does not link to itself")
    taken = design.taken_ids()
    tree = {"id": free_id(f"join-{from_id}-{to_id}"[:34], taken), "kind": kind, "from_id": from_id, "to_id": to_id}
    link = Edit(op="add", path=at_the(Vehicle, lambda it: it.factory_links), value=tree)
    return (*traced_by(design, from_id, to_id, kind), link)


def volume_reading(
    design: Design, step: float, tone_hz: float, voltage_v: float, source_level: str, when: str
) -> tuple[Edit, ...]:
    """The edit that notes one reading at the tap; a second reading of a step and tone takes the first one's place.

    Parameters:
        design: the design.
        step: volume step.
        tone_hz: tone [hz].
        voltage_v: reading, rms [v].
        source_level: level of the phone or player, in words.
        when: date of the reading.

    Returns:
        the edits.
    """
    old = [r for r in design.vehicle.volume_steps if (r.step, r.tone_hz) == (step, tone_hz)]
    taken = {r.id for r in design.vehicle.volume_steps}
    fact = {"value": voltage_v, "basis": Basis.MEASURED.value, "how": Verified.METER.value, "when": when}
    tree = {
        "id": free_id("reading", taken),
        "step": step,
        "tone_hz": tone_hz,
        "voltage_v": fact,
        "source_level": source_level,
    }
    gone = [Edit(op="remove", path=at(r)) for r in old]
    return (*gone, Edit(op="add", path=at_the(Vehicle, lambda it: it.volume_steps), value=tree))


def distortion_reading(design: Design, step: float, tone_hz: float, percent: float) -> tuple[Edit, ...]:
    """The edit that notes a recorded tone's distortion, at the reading of that step and tone where there is one.

    Parameters:
        design: the design.
        step: volume step.
        tone_hz: tone [hz].
        percent: harmonics over the fundamental.

    Returns:
        the edit.
    """
    here = next((r for r in design.vehicle.volume_steps if (r.step, r.tone_hz) == (step, tone_hz)), None)
    if here is not None:
        return (Edit(path=at(here, lambda it: it.distortion_percent), value=percent),)
    tree = {
        "id": free_id("reading", {r.id for r in design.vehicle.volume_steps}),
        "step": step,
        "tone_hz": tone_hz,
        "distortion_percent": percent,
    }
    return (Edit(op="add", path=at_the(Vehicle, lambda it: it.volume_steps), value=tree),)


def new_variant(design: Design, name: str, tier: str) -> tuple[Edit, ...]:
    """The edit that notes a kind the car was sold in.

    Parameters:
        design: the design.
        name: what it is called.
        tier: its factory system.

    Returns:
        the edit.
    """
    taken = {variant.id for variant in design.vehicle.variants}
    return (
        Edit(
            op="add",
            path=at_the(Vehicle, lambda it: it.variants),
            value={"id": free_id("kind", taken), "name": name, "tier": tier},
        ),
    )


def new_tell(design: Design, question: str) -> tuple[Edit, ...]:
    """The edit that notes a tell-tale of the car.

    Parameters:
        design: the design.
        question: answered with yes or no.

    Returns:
        the edit.
    """
    taken = {tell.id for tell in design.vehicle.tells}
    return (
        Edit(
            op="add",
            path=at_the(Vehicle, lambda it: it.tells),
            value={"id": free_id("tell", taken), "question": question},
        ),
    )
