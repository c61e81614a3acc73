"""Starting points: a new vehicle with everything still assumed, and the links a new part needs."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from ohmack.core.document import Basis, Design, Fact, Intake
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.facts import Position, Verified
from ohmack.core.document.links import FeedLink, PowerLink, SpeakerLink, TapLink
from ohmack.core.document.parts import Amplifier, Converter, FuseHolder, Subwoofer
from ohmack.core.document.paths import get
from ohmack.core.document.policy import Policy
from ohmack.core.document.vehicle import (
    FEED_PATTERNS,
    Battery,
    Body,
    Feed,
    GroundKind,
    GroundPoint,
    Hand,
    Passage,
    Powertrain,
    Radio,
    RadioChannel,
    Speaker,
    Supply,
    SupplyKind,
    SystemVoltage,
    Tier,
    Vehicle,
)
from ohmack.core.errors import UnknownName
from ohmack.core.geometry import plan_length_m
from ohmack.core.placing import PROPORTIONS, first_place
from ohmack.core.sections.runs import ends
from ohmack.core.sensitivity import fact_guide


def assumed(field: str, value: Any, **more: Any) -> Fact[Any]:
    """A fact nobody checked, with the plausible range on file."""
    guide = fact_guide(field)
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
        seat_airbags=assumed("seat_airbags", True, alternatives=(False,)),
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
            system=assumed(
                "system",
                SystemVoltage.PACK if body is Body.CART else SystemVoltage.V12,
                alternatives=(SystemVoltage.V24,),
            )
            if body in (Body.CART, Body.VAN, Body.BUS)
            else assumed("system", SystemVoltage.V12),
            positive_ground=assumed("positive_ground", False),
            post_running_v=assumed("post_running_v", 14.2),
            post_resting_v=assumed("post_resting_v", 12.6),
            alternator_rating_a=Fact(),
            dc_dc_limit_a=Fact(),
            body_return_ohm=assumed("body_return_ohm", 0.0015),
            battery_strap_ohm=assumed("battery_strap_ohm", 0.0004),
        ),
        radio=Radio(
            position=Position(x_m=nose + 0.18, y_m=0),
            tier=assumed("tier", Tier.PLAIN, alternatives=(Tier.AMPLIFIED, Tier.RING)),
            source_voltage_v=assumed("source_voltage_v", 9.2),
            bridged=assumed("bridged", True, alternatives=(False,)),
            tap_low_hz=assumed("tap_low_hz", 30.0),
            channels=tuple(RadioChannel(id=f"ch-{i}", name=name.capitalize()) for i, name in channels),
        ),
        speakers=tuple(
            Speaker(
                id=f"spk-{i}",
                name=f"{name.capitalize()} door",
                position=Position(
                    x_m=(typical.front_speaker if i[0] == "f" else rear) * length_m,
                    y_m=(side if i[1] == "r" else -side),
                ),
                channel_id=f"ch-{i}",
                size="6.5 in" if i[0] == "f" else "5.25 in",
                impedance_ohm=assumed("impedance_ohm", 4.0),
            )
            for i, name in channels
        ),
        feeds=(
            Feed(
                id="radio-constant",
                name="Radio constant feed",
                position=Position(x_m=nose + 0.2, y_m=-0.08),
                live=assumed("live", FEED_PATTERNS["constant"], alternatives=(FEED_PATTERNS["accessory"],)),
                limit_a=assumed("limit_a", 10.0, low=7.5, high=15.0),
            ),
            Feed(
                id="radio-switched",
                name="Radio switched feed",
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


def connect(design: Design, part_id: str) -> tuple[Edit, ...]:
    """The links a part still lacks, laid with sensible runs: power on the battery's side, signal on the other.

    Parameters:
        design: the design, the part already in it.
        part_id: an amplifier or a converter; any other part needs nothing.

    Returns:
        edits that add the missing links.
    """
    amplifiers, converters = list(design.parts_of(Amplifier)), list(design.parts_of(Converter))
    edits: list[Edit] = []
    taken = {link.id for link in design.links}

    def add(link_id: str, tree: dict[str, Any]) -> None:
        number, free = 2, link_id
        while free in taken:
            free, number = f"{link_id}-{number}", number + 1
        taken.add(free)
        edits.append(Edit(op="add", path="links", value={"id": free, **tree}))

    for amplifier in amplifiers:
        if amplifier.id == part_id or any(c.id == part_id for c in converters):
            _connect_amplifier(design, amplifier, converters, add)
    for converter in converters:
        if converter.id == part_id:
            _connect_converter(design, converter, add)
    return tuple(edits)


def _sides(design: Design) -> tuple[float, float, float]:
    """(x of the bulkhead, y of the power side, y of the signal side)."""
    vehicle = design.vehicle
    passage, battery = next(iter(vehicle.passages), None), vehicle.supply.batteries[0]
    width_m = vehicle.width_m.value or 1.75
    side = width_m / 2 - 0.17
    left = battery.position.y_m <= 0 if passage is None else passage.position.y_m <= 0
    bulkhead = passage.position.x_m if passage else 0.28 * (vehicle.length_m.value or 4.2)
    return bulkhead, -side if left else side, side if left else -side


def _points(*points: tuple[float, float]) -> list[dict[str, float]]:
    return [{"x_m": round(x, 2), "y_m": round(y, 2)} for x, y in points]


def _connect_amplifier(design: Design, amplifier: Amplifier, converters: list[Converter], add: Any) -> None:
    def lacks(kind: str) -> bool:
        return not any(k.kind == kind and getattr(k, "amplifier_id", None) == amplifier.id for k in design.links)

    bulkhead, power_y, signal_y = _sides(design)
    place = amplifier.position or Position(x_m=3.4, y_m=0)
    battery = design.vehicle.supply.batteries[0]
    holder = next(design.parts_of(FuseHolder), None)
    front = battery.position.x_m < bulkhead < place.x_m
    if lacks("power"):
        way = _points((battery.position.x_m, power_y), (bulkhead, power_y), (place.x_m, power_y)) if front else []
        fuse = {
            "holder_id": holder.id if holder else None,
            "from_source_m": {
                "value": 0.3,
                "basis": "assumed",
                "low": 0.1,
                "high": min(0.45, design.policy.fuse_distance_m),
            },
        }
        add(
            f"power-{amplifier.id}",
            {"kind": "power", "battery_id": battery.id, "amplifier_id": amplifier.id, "way_points": way, "fuse": fuse,
             "engine_space": front},
        )  # fmt: skip
    grounds = sorted(design.vehicle.ground_points, key=lambda g: abs(g.position.x_m - place.x_m))
    if lacks("ground") and grounds:
        tape = {"value": 0.45, "basis": "assumed", "low": 0.3, "high": 0.5}
        add(
            f"ground-{amplifier.id}",
            {"kind": "ground", "amplifier_id": amplifier.id, "ground_point_id": grounds[0].id, "tape_length_m": tape},
        )
    driven = {link.driver_id for link in design.links_of(SpeakerLink)}
    free = next((d for d in design.parts_of(Subwoofer) if d.id not in driven), None)
    if lacks("speaker") and free:
        add(f"speaker-{free.id}", {"kind": "speaker", "amplifier_id": amplifier.id, "driver_id": free.id})
    converter = next(iter(converters), None)
    if lacks("line") and converter:
        start = converter.position or design.vehicle.radio.position
        add(
            f"line-{amplifier.id}",
            {"kind": "line", "converter_id": converter.id, "amplifier_id": amplifier.id,
             "way_points": _points((start.x_m, signal_y), (place.x_m, signal_y))},
        )  # fmt: skip
    if lacks("remote"):
        feed = next((f for f in design.vehicle.feeds if f.live.value and "asleep" not in f.live.value), None)
        source = converter if converter and converter.remote_out_limit_a else feed
        if source is not None:
            start = source.position or design.vehicle.radio.position
            add(
                f"remote-{amplifier.id}",
                {"kind": "remote", "source_id": source.id, "amplifier_id": amplifier.id,
                 "way_points": _points((start.x_m, signal_y - 0.04), (place.x_m - 0.05, signal_y - 0.04))},
            )  # fmt: skip


def _connect_converter(design: Design, converter: Converter, add: Any) -> None:
    vehicle = design.vehicle
    if not any(link.converter_id == converter.id for link in design.links_of(TapLink)) and vehicle.radio.channels:
        wanted = [c.id for c in vehicle.radio.channels if c.name.lower().startswith("rear")]
        pair = (wanted or [c.id for c in vehicle.radio.channels])[:2]
        place = converter.position or vehicle.radio.position
        way = _points((place.x_m, vehicle.radio.position.y_m))
        add(
            f"tap-{converter.id}", {"kind": "tap", "channel_ids": pair, "converter_id": converter.id, "way_points": way}
        )
    if not any(link.converter_id == converter.id for link in design.links_of(FeedLink)) and vehicle.feeds:
        constant = next((f for f in vehicle.feeds if f.live.value and "asleep" in f.live.value), vehicle.feeds[0])
        place = converter.position or constant.position
        ground = min(
            vehicle.ground_points, key=lambda g: abs(g.position.x_m - vehicle.radio.position.x_m), default=None
        )
        add(
            f"feed-{converter.id}",
            {"kind": "feed", "feed_id": constant.id, "converter_id": converter.id,
             "ground_point_id": ground.id if ground else None,
             "way_points": _points((constant.position.x_m, place.y_m)),
                "fuse": {"from_source_m": {"value": 0.1, "basis": "assumed", "low": 0.05, "high": 0.15}}},
        )  # fmt: skip


def place_part(design: Design, tree: dict[str, Any]) -> tuple[Edit, ...]:
    """Edits that put a part into the design at a sensible place under a free id.

    Parameters:
        design: the design.
        tree: the part's data without id and place.

    Returns:
        the edit that adds it, and for a fuse holder those that put it to use.
    """
    taken = {p.id for p in design.parts} | {k.id for k in design.links}
    stem = {"amplifier": "amp", "subwoofer": "sub", "fuse holder": "holder"}.get(tree["kind"], tree["kind"])
    part_id, number = stem, 2
    while part_id in taken:
        part_id, number = f"{stem}-{number}", number + 1
    position = first_place(tree["kind"], design.vehicle)
    edits = [Edit(op="add", path="parts", value={**tree, "id": part_id, "position": position})]
    if tree["kind"] == "fuse holder":
        for link in design.links_of(PowerLink):
            if link.fuse and link.fuse.holder_id is None:
                edits.append(Edit(path=f"links/{link.id}/fuse/holder_id", value=part_id))
    return tuple(edits)


def connect_everything(design: Design) -> tuple[Edit, ...]:
    """The links that amplifiers and converters of the design still lack, converters first."""
    edits: list[Edit] = []

    def lay(part_id: str, wanted: Callable[[Any], bool]) -> None:
        nonlocal design
        new = [edit for edit in connect(design, part_id) if wanted(edit.value)]
        design = apply_edits(design, new)  # the next part must see what is taken
        edits.extend(new)

    for converter in list(design.parts_of(Converter)):
        lay(converter.id, lambda link: link["kind"] in ("tap", "feed"))
    for amplifier in list(design.parts_of(Amplifier)):
        lay(amplifier.id, lambda link, own=amplifier.id: link.get("amplifier_id") == own)  # type: ignore[misc]
    return tuple(edits)


def insert_way_point(design: Design, link_id: str) -> tuple[Edit, ...]:
    """Edits that put a new way point into the longest piece of a run.

    Raises:
        UnknownName: no such link, or one of its ends is not placed.
    """
    link = next((k for k in design.links if k.id == link_id), None)
    start, end = (place for _, place in ends(design, link)) if link else (None, None)
    if link is None or start is None or end is None:
        raise UnknownName("run", link_id)
    points = [start.point, *(p.point for p in link.way_points), end.point]
    longest = max(range(len(points) - 1), key=lambda i: plan_length_m(points[i : i + 2]))
    (x1, y1), (x2, y2) = points[longest], points[longest + 1]
    way = [p.model_dump() for p in link.way_points]
    way.insert(longest, {"x_m": round((x1 + x2) / 2, 2), "y_m": round((y1 + y2) / 2, 2)})
    return (Edit(path=f"links/{link_id}/way_points", value=way),)


NUDGE_M = 0.05
NUDGES = {"left": (-NUDGE_M, 0.0), "right": (NUDGE_M, 0.0), "up": (0.0, NUDGE_M), "down": (0.0, -NUDGE_M)}


def move_to(path: str, x_m: float, y_m: float) -> tuple[Edit, ...]:
    """Edits that put a thing or a way point at a place."""
    target = path if "/way_points/" in path else f"{path}/position"
    return (
        Edit(path=f"{target}/x_m", value=round(x_m, 2)),
        Edit(path=f"{target}/y_m", value=round(y_m, 2)),
    )


def nudge(design: Design, path: str, direction: str) -> tuple[Edit, ...]:
    """Edits that move a thing by 5 cm in the picture's direction.

    Raises:
        UnknownName: nothing there, or no such direction.
    """
    if direction not in NUDGES:
        raise UnknownName("direction", direction, ", ".join(NUDGES))
    place = get(design, path if "/way_points/" in path else f"{path}/position")
    if not isinstance(place, Position):
        raise UnknownName("place", path)
    dx, dy = NUDGES[direction]
    return move_to(path, place.x_m + dx, place.y_m + dy)


# What can be added to the survey.
SURVEY_ADDS = ("ground point", "feed", "speaker", "passage")


def add_to_survey(design: Design, what: str) -> tuple[str, tuple[Edit, ...]]:
    """A new thing of the survey with everything about it still to be found out.

    Parameters:
        design: the design.
        what: one of SURVEY_ADDS.

    Returns:
        its path, and the edits that add it.

    Raises:
        UnknownName: nothing of that name can be added.
    """
    v = design.vehicle
    length_m = v.length_m.value or 4.2
    pools: dict[str, tuple[str, tuple[Any, ...], float]] = {
        "ground point": ("ground_points", v.ground_points, 0.82),
        "feed": ("feeds", v.feeds, 0.36),
        "speaker": ("speakers", v.speakers, 0.5),
        "passage": ("passages", v.passages, 0.28),
    }
    if what not in pools:
        raise UnknownName("addition", what, ", ".join(SURVEY_ADDS))
    field, pool, share = pools[what]
    number = len(pool) + 1
    stem = what.replace(" ", "-")
    taken = {item.id for item in pool}
    while f"{stem}-{number}" in taken:
        number += 1
    place = {"x_m": round(share * length_m, 2), "y_m": 0.2}
    tree = {"id": f"{stem}-{number}", "name": f"{what.capitalize()} {number}", "position": place}
    path = f"vehicle/{field}"
    return f"{path}/{tree['id']}", (Edit(op="add", path=path, value=tree),)
