"""The facts of a car gathered by place, in the order a survey takes them."""

from __future__ import annotations

from dataclasses import dataclass

from ohmack.core.document import Design
from ohmack.core.document.handles import at
from ohmack.core.document.parts import Amplifier, PoweredSubwoofer
from ohmack.core.document.vehicle import Feed, FeedRole, SupplyKind
from ohmack.drawing.picture import Mark
from ohmack.web.asked import OUTPUT, facts_asked
from ohmack.web.fields import FactView, fact_view

GROUPS = ("Supply", "Factory system", "Feeds, grounds and ways", "Speakers", "Load space and body", "Earlier damage")
Row = tuple[str, str, str, list[str]]  # group, thing on the drawing, title, fact paths


@dataclass(frozen=True)
class PlaceFacts:
    """The facts of one place on the car, behind one numbered mark."""

    number: int
    group: str
    thing_id: str
    title: str
    mark: str
    facts: tuple[FactView, ...]


def _supply(design: Design) -> list[Row]:
    supply = design.vehicle.supply
    first, *others = supply.batteries
    charging = "dc_dc_limit_a" if supply.kind is SupplyKind.DC_DC else "alternator_rating_a"
    low = ("post_traffic_v",) if supply.kind is SupplyKind.SMART else ()
    names = ("system", "positive_ground", "post_running_v", "post_loaded_v", *low, "post_resting_v", "post_cranking_v",
             "standby_current_a", "battery_strap_ohm", charging)  # fmt: skip
    rows: list[Row] = [
        (
            "Supply",
            first.id,
            "Battery and charging",
            [
                *(f"vehicle/supply/{n}" for n in names),
                *(f"vehicle/supply/batteries/{first.id}/{n}" for n in ("cca_a", "capacity_ah")),
            ],
        ),
    ]
    for battery in others:
        own = facts_asked(battery) or ()
        paths = ["vehicle/supply/split_charging", *(f"vehicle/supply/batteries/{battery.id}/{n}" for n in own)]
        rows.append(("Supply", battery.id, battery.name, paths))
    return rows


def survey_order(design: Design) -> list[Row]:
    """(group, thing on the drawing, title, fact paths) in the order a survey takes them."""
    v = design.vehicle
    system, ways, speakers, body = GROUPS[1], GROUPS[2], GROUPS[3], GROUPS[4]
    rows = _supply(design)
    radio = [f"vehicle/radio/{n}" for n in ("tier", *OUTPUT)]
    rows.append((system, "radio", v.radio.name, radio))
    for module in v.modules:
        paths = [f"vehicle/modules/{module.id}/{n}" for n in facts_asked(module) or ()]
        rows.append((system, module.id, module.name, paths))
    power = [k.id for k in design.links if k.kind == "power"]
    rows += [(ways, f"run-{name}", "Power run", [f"links/{name}/tape_length_m"]) for name in power]
    body_return = ["vehicle/supply/body_return_ohm"]
    for number, ground in enumerate(v.ground_points):
        rows.append(
            (
                ways,
                ground.id,
                ground.name,
                [*(body_return if not number else []), at(ground, lambda it: it.kind)],
            )
        )
    rows += [(ways, p.id, p.name, [at(p, lambda it: it.needs_drilling)]) for p in v.passages]
    for f in v.feeds:
        tapped = TAP if _may_be_tapped(design, f) else ()
        rows.append((ways, f.id, f.name, [f"vehicle/feeds/{f.id}/{n}" for n in ("live", "limit_a", *tapped)]))
    rows += [
        (speakers, s.id, s.name, [f"vehicle/speakers/{s.id}/{n}" for n in facts_asked(s) or ()]) for s in v.speakers
    ]
    edges = ("length_m", "width_m", "height_m", "opening_width_m", "opening_height_m")
    rows += [(body, s.id, s.name, [f"vehicle/spaces/{s.id}/{n}" for n in edges]) for s in v.spaces]
    opening = [f"vehicle/radio/opening_{n}_mm" for n in ("width", "height", "depth")]
    outer = [f"vehicle/{n}" for n in ("length_m", "width_m", "wheelbase_m", "seat_airbags")]
    rows.append((body, "", "Body and dash", [*([] if v.ground_points else body_return), *outer, *opening]))
    rows += [(GROUPS[5], a.id, a.name, [at(a, lambda it: it.work_min)]) for a in v.alterations]
    return rows


def places_of(design: Design) -> list[PlaceFacts]:
    """Facts gathered by place, numbered as on the drawing."""
    result: list[PlaceFacts] = []
    for group, thing_id, title, paths in survey_order(design):
        if paths:
            facts = tuple(fact_view(design, path) for path in paths)
            result.append(PlaceFacts(len(result) + 1, group, thing_id, title, _weakest(facts), facts))
    return result


def marks_of(places: list[PlaceFacts]) -> tuple[Mark, ...]:
    """One numbered mark a place."""
    return tuple(
        Mark(place.number, place.thing_id, place.mark, place.facts[0].path, f"{place.number} {place.title}")
        for place in places
    )


TAP = ("old_load_a", "fuse_a", "wire_size", "wire_length_m")


def _may_be_tapped(design: Design, feed: Feed) -> bool:
    """Whether something with an amplifier of its own could hang on a feed, so that its fuse and wire matter."""
    own = any(isinstance(p, PoweredSubwoofer) or (isinstance(p, Amplifier) and p.plugs_in) for p in design.parts)
    tied = any(link.kind == "feed" and link.from_id == feed.id for link in design.links)
    return own and (tied or feed.role is FeedRole.CONSTANT)


def _weakest(facts: tuple[FactView, ...]) -> str:
    known = [f for f in facts if f.known]
    if not known:
        return "missing"
    return min(known, key=lambda f: f.basis.rank).basis.value
