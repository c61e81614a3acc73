"""Starting points: a new vehicle with everything still assumed, a new part at its usual place."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from ohmack.core.document import Basis, Design, Fact, Intake
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.boxes import Box
from ohmack.core.document.edits import Edit
from ohmack.core.document.factory import Band, ChannelPlace, Radio, RadioChannel, Tier
from ohmack.core.document.facts import Position, Verified
from ohmack.core.document.handles import at, at_the, sure
from ohmack.core.document.ids import free_id, free_name
from ohmack.core.document.interventions import factory_amplifier
from ohmack.core.document.links import LineLink, PowerLink, RemoteLink
from ohmack.core.document.parts import Driver, FuseHolder, Subwoofer
from ohmack.core.document.policy import Policy
from ohmack.core.document.vehicle import (
    FEED_PATTERNS,
    Battery,
    Body,
    Feed,
    FeedRole,
    GroundKind,
    GroundPoint,
    Hand,
    Passage,
    Powertrain,
    Speaker,
    SpeakerPlace,
    Supply,
    SupplyKind,
    SystemVoltage,
    Vehicle,
)
from ohmack.core.errors import NotPossible
from ohmack.core.evaluation.sensitivity import fact_guide
from ohmack.core.fit.built_to_space import built_to, goes_in, stated
from ohmack.core.fit.places import PROPORTIONS, first_place
from ohmack.core.planning.cabin import SEAT_AIRBAGS_FROM, typical_space, typical_zones
from ohmack.core.planning.free_places import free_place
from ohmack.core.planning.typical_speakers import add_boxes, add_pillars
from ohmack.core.supply.holders import suits

# What speaker holes in doors usually are [mm]: usual, from, to. Common practice.
DOOR = {
    "cut_out_mm": (142.0, 130.0, 155.0), "depth_mm": (66.0, 55.0, 85.0), "window_depth_mm": (62.0, 48.0, 80.0),
    "trim_clearance_mm": (24.0, 15.0, 40.0),
}  # fmt: skip
SMALL_DOOR = {
    "cut_out_mm": (115.0, 104.0, 128.0),
    "depth_mm": (60.0, 48.0, 75.0),
    "window_depth_mm": (56.0, 44.0, 72.0),
}


TWO_DOORS = (Body.COUPE, Body.EXTENDED_CAB)  # whose rear speakers sit in the side panels


def assumed(field: str, value: Any, low: Any = None, high: Any = None, **more: Any) -> Fact[Any]:
    """A fact nobody checked, with its range: the one given, else the plausible one on file."""
    guide = fact_guide(field)
    if low is not None:
        more |= {"low": low, "high": high}
    if "low" in guide and not more:
        more = {"low": min(guide["low"], value), "high": max(guide["high"], value)}
    return Fact[Any](value=value, basis=Basis.ASSUMED, how=Verified.NOT_CHECKED, **more)


def new_vehicle(
    make: str,
    model: str,
    year: int | None,
    body: Body,
    hand: Hand,
    powertrain: Powertrain = Powertrain.COMBUSTION,
) -> Vehicle:
    """A car of which nothing is known yet: places and values typical for its body, every one assumed.

    Battery at the front left, radio in the middle of the dash, four door speakers, the usual three feeds.
    Source: common practice.
    """
    typical = PROPORTIONS[body]
    length_m, width_m, wheelbase_m = typical.length_m, typical.width_m, typical.wheelbase_m
    nose = typical.dash * length_m - 0.06
    side = width_m / 2 - 0.12
    left = "vehicle left"
    electric = powertrain is Powertrain.ELECTRIC
    channels = [("fl", "front left"), ("fr", "front right")]
    if typical.rear_speaker is not None:
        channels += [("rl", "rear left"), ("rr", "rear right")]
    rear = typical.rear_speaker or typical.front_speaker
    bags = body is not Body.CART and (year is None or year >= SEAT_AIRBAGS_FROM)
    battery_y = -0.45 if body is not Body.CART else 0.22
    return Vehicle(
        make=make,
        model=model,
        year=year,
        body=body,
        hand_of_drive=hand,
        powertrain=powertrain,
        length_m=assumed("length_m", length_m, low=length_m - 0.3, high=length_m + 0.3),
        width_m=assumed("width_m", width_m, low=width_m - 0.1, high=width_m + 0.1),
        wheelbase_m=assumed("wheelbase_m", wheelbase_m, low=wheelbase_m - 0.2, high=wheelbase_m + 0.2),
        seat_airbags=assumed("seat_airbags", bags, alternatives=(not bags,)),
        supply=Supply(
            kind=SupplyKind.DC_DC if electric else SupplyKind.ALTERNATOR,
            batteries=(
                Battery(
                    id="battery",
                    name="Battery",
                    position=Position(x_m=typical.battery * length_m, y_m=battery_y),
                    cca_a=Fact(),
                ),
            ),
            system=(
                assumed(
                    "system",
                    SystemVoltage.PACK if body is Body.CART else SystemVoltage.V12,
                    alternatives=(SystemVoltage.V24,),
                )
                if body in (Body.CART, Body.VAN, Body.BUS)
                else assumed("system", SystemVoltage.V12)
            ),
            positive_ground=assumed("positive_ground", False),
            post_running_v=Fact() if body is Body.CART else assumed("post_running_v", 14.2),
            post_resting_v=Fact() if body is Body.CART else assumed("post_resting_v", 12.6),
            alternator_rating_a=(Fact() if electric or body is Body.CART else assumed("alternator_rating_a", 110.0)),
            dc_dc_limit_a=Fact(),
            car_draw_a=Fact() if electric or body is Body.CART else assumed("car_draw_a", 45.0),
            body_return_ohm=assumed("body_return_ohm", 0.0015),
            battery_strap_ohm=assumed("battery_strap_ohm", 0.0004),
        ),
        radio=Radio(
            position=Position(x_m=nose + 0.18, y_m=0),
            tier=assumed("tier", Tier.PLAIN, alternatives=(Tier.AMPLIFIED, Tier.RING)),
            source_voltage_v=assumed("source_voltage_v", 9.2),
            bridged=assumed("bridged", True, alternatives=(False,)),
            tap_low_hz=assumed("tap_low_hz", 30.0),
            lowest_load_ohm=assumed("lowest_load_ohm", 4.0),
            channels=tuple(
                RadioChannel(
                    id=f"ch-{i}", name=name.capitalize(), place=ChannelPlace(name), band=assumed("band", Band.FULL)
                )
                for i, name in channels
            ),
        ),
        speakers=tuple(
            Speaker(
                id=f"spk-{i}",
                name=f"{name.capitalize()} {'panel' if i[0] == 'r' and body in TWO_DOORS else 'door'}",
                place=SpeakerPlace.SIDE if i[0] == "r" and body in TWO_DOORS else SpeakerPlace.DOOR,
                position=Position(
                    x_m=(typical.front_speaker if i[0] == "f" else rear) * length_m,
                    y_m=(side if i[1] == "r" else -side),
                ),
                channel_id=f"ch-{i}",
                size="6.5 in" if i[0] == "f" else "5.25 in",
                impedance_ohm=assumed("impedance_ohm", 4.0),
                takes_w=assumed("takes_w", 30.0, low=15.0, high=60.0),
                cut_out_mm=assumed("cut_out_mm", *(DOOR if i[0] == "f" else SMALL_DOOR)["cut_out_mm"]),
                depth_mm=assumed("depth_mm", *(DOOR if i[0] == "f" else SMALL_DOOR)["depth_mm"]),
                window_depth_mm=assumed("window_depth_mm", *(DOOR if i[0] == "f" else SMALL_DOOR)["window_depth_mm"]),
                trim_clearance_mm=assumed("trim_clearance_mm", *DOOR["trim_clearance_mm"]),
                adapter_ring_mm=assumed("adapter_ring_mm", 0.0),
            )
            for i, name in channels
        ),
        feeds=(
            Feed(
                id="radio-constant",
                name="Radio constant feed",
                role=FeedRole.CONSTANT,
                position=Position(x_m=nose + 0.2, y_m=-0.08),
                live=assumed("live", FEED_PATTERNS["constant"], alternatives=(FEED_PATTERNS["accessory"],)),
                limit_a=assumed("limit_a", 10.0, low=7.5, high=15.0),
            ),
            Feed(
                id="radio-switched",
                name="Radio switched feed",
                role=FeedRole.SWITCHED,
                position=Position(x_m=nose + 0.2, y_m=0.08),
                live=assumed(
                    "live",
                    FEED_PATTERNS["accessory"],
                    alternatives=(FEED_PATTERNS["ignition"], FEED_PATTERNS["constant"]),
                ),
                limit_a=assumed("limit_a", 0.5, low=0.3, high=1.0),
            ),
        ),
        ground_points=(
            GroundPoint(
                id="ground-rear",
                name=f"Stud in the rear, {left}",
                position=Position(x_m=typical.ground * length_m, y_m=-0.42),
                kind=assumed("kind", GroundKind.STUD, alternatives=(GroundKind.FACTORY_BOLT,)),
            ),
            GroundPoint(
                id="ground-radio",
                name="Radio ground bolt",
                position=Position(x_m=nose + 0.12, y_m=0.15),
                kind=assumed("kind", GroundKind.FACTORY_BOLT),
            ),
        ),
        zones=typical_zones(body, hand, powertrain, year),
        spaces=(typical_space(body, length_m, width_m),),
        passages=(
            Passage(
                id="bulkhead",
                name=f"Bulkhead grommet, {left}",
                position=Position(x_m=nose - 0.12, y_m=-(side - 0.05)),
                needs_drilling=assumed("needs_drilling", False, alternatives=(True,)),
            ),
        ),
    )


def new_design(title: str, vehicle: Vehicle, intake: Intake, policy: Policy) -> Design:
    """The first revision of a job."""
    return Design(title=title, vehicle=vehicle, intake=intake, policy=policy)


def _free_pair(design: Design) -> list[str]:
    """The first left and right position that has no new speaker yet; places the car had none at before, all of a kind
    together.
    """
    taken = {name for part in design.parts_of(Driver) for name in part.at_ids}
    free = [s for s in design.vehicle.speakers if s.id not in taken]
    waiting = [s for s in free if s.new_place]
    if waiting:
        return [s.id for s in waiting if s.place is waiting[0].place][:8]
    free = [s for s in free if s.channel_id not in _sub_pairs(design)]
    free = [s for s in free if s.place is not SpeakerPlace.PILLAR] or free  # a pillar takes a tweeter
    if not free:
        return []
    first = free[0]
    other = min(
        (s for s in free[1:] if s.position.y_m * first.position.y_m < 0),
        key=lambda s: abs(s.position.x_m - first.position.x_m),
        default=None,
    )
    return [first.id] + ([other.id] if other and abs(other.position.x_m - first.position.x_m) < 0.4 else [])


def _tweeter_places(design: Design) -> tuple[list[str], tuple[Edit, ...]]:
    """Where a pair of tweeters goes, and the edits that make the places where the car has none: pillars that are free,
    else new places at both.
    """
    taken = {name for part in design.parts_of(Driver) for name in part.at_ids}
    free = [s.id for s in design.vehicle.speakers if s.place is SpeakerPlace.PILLAR and s.id not in taken]
    if free:
        return free[:2], ()
    try:
        added = add_pillars(design)
    except NotPossible:  # there are some, and they are taken
        return _free_pair(design), ()
    return [edit.value["id"] for edit in added], added


def _sub_pairs(design: Design) -> set[str]:
    """The pairs that carry the bass for the car's own subwoofer."""
    return {c.id for c in design.vehicle.channels if c.place is ChannelPlace.SUB}


def _own_sub_place(design: Design) -> list[str]:
    """The car's own subwoofer, where a new driver takes its place: no amplifier and no box is planned."""
    if any(isinstance(part, (Amplifier, Box)) for part in design.parts):
        return []
    pairs, taken = _sub_pairs(design), {name for part in design.parts_of(Subwoofer) for name in part.at_ids}
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


def _woofers_and_tweeters(design: Design) -> list[str]:
    """The places of new woofers and tweeters, which a crossover net goes between."""
    parts = [d for d in design.parts_of(Driver) if d.role in ("woofer", "tweeter")]
    return [name for part in parts for name in part.at_ids][:8]


def _first_new(design: Design, *roles: str) -> list[str]:
    """The places of the first new drivers of some kinds, in that order; of any new driver where none is of them."""
    drivers = [d for d in design.parts_of(Driver) if d.at_ids]
    ranked = sorted(drivers, key=lambda d: roles.index(d.role) if d.role in roles else len(roles))
    return list(ranked[0].at_ids) if ranked else []


PLACED: dict[str, Callable[[Design], list[str]]] = {  # where a part of a kind goes, if nobody says
    "driver": _free_pair,
    "subwoofer": _own_sub_place,
    "crossover net": _woofers_and_tweeters,
    "speaker pad": lambda design: _first_new(design, "tweeter"),
    "mounting ring": lambda design: _first_new(design, "coaxial", "woofer", "full range"),
}


UNDER_SEAT_M = 0.12  # what goes under a front seat, common practice


def board_of(tree: dict[str, Any]) -> float | None:
    """The thickness of the boards of a box the shop builds [mm]; None for one that is bought."""
    found = (tree.get("boards") or {}).get("thickness_mm")
    return None if found is None else float(found)


def built_for(design: Design, tree: dict[str, Any]) -> dict[str, Any]:
    """A part as it is; a box the shop builds that would not go into the car's space, built to it."""
    space = next(iter(design.vehicle.spaces), None)
    if tree["kind"] != "box" or space is None:
        return tree
    length_m, width_m, height_m = tree.get("length_m"), tree.get("width_m"), tree.get("height_m")
    board_mm = board_of(tree)
    if board_mm is None or length_m is None or width_m is None or height_m is None:
        return tree
    if goes_in(design, space, (length_m, width_m, height_m)) is not False:
        return tree
    taken_l = sum(sub.displaced_l or 0.0 for sub in design.parts_of(Subwoofer) if not sub.at_ids)
    block = built_to(design, space, board_mm, tree.get("net_volume_l") or 0.0, taken_l)
    return tree if block is None else {**tree, **stated(block)}


def place_part(design: Design, tree: dict[str, Any], there: Position | None = None) -> tuple[Edit, ...]:
    """Edits that put a part into the design at a sensible place under a free id.

    Parameters:
        design: the design.
        tree: the part's data without id and place.
        there: where it goes, if that is known; else a sensible place that is free.

    Returns:
        the edit that adds it, and for a fuse holder or a box those that put it to use.
    """
    taken = {name for ids in design.ids().values() for name in ids}
    stem = STEMS.get(tree["kind"], tree["kind"])
    part_id = free_id(stem, taken)
    wanted = first_place(tree["kind"], design.vehicle)
    if tree["kind"] == "plug-in amplifier" and there is None and (old := factory_amplifier(design)) is not None:
        there = old.position  # on the plugs that lie there
    space = next(iter(design.vehicle.spaces), None)
    if tree["kind"] == "powered subwoofer" and space is not None and tree.get("height_m", 0.0) > UNDER_SEAT_M:
        wanted = space.position.model_dump()  # no seat is that high above the floor
    position = free_place(design, tree, wanted) if there is None else there.model_dump()
    if tree["kind"] == "line isolator" and not tree.get("in_line_id"):
        tree = {**tree, "in_line_id": next((line.id for line in design.links_of(LineLink)), None)}
    tree = built_for(design, tree)
    if tree["kind"] in TOLD_APART:
        tree = {**tree, "name": free_name(tree["name"], [part.name for part in design.parts])}
    edits: list[Edit] = []
    if tree.get("role") == "tweeter" and not tree.get("at_ids"):
        spots, made = _tweeter_places(design)
        tree, edits = {**tree, "at_ids": spots}, [*made]
    elif tree["kind"] == "driver" and not tree.get("at_ids") and not design.vehicle.speakers:
        edits = [*add_boxes(design)]  # nobody cut a hole for one
        tree = {**tree, "at_ids": [edit.value["id"] for edit in edits if "channel_id" in edit.value]}
    elif tree["kind"] in PLACED and not tree.get("at_ids"):
        spots = PLACED[tree["kind"]](design)
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
