"""Laying wires: the links a part lacks with sensible runs, way points, and moving things on the plan."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Any

from ohmack.core.document import Design
from ohmack.core.document.design import ends_of
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.factory import ChannelPlace, Module, Radio, RadioChannel, Tier
from ohmack.core.document.facts import Position
from ohmack.core.document.links import FeedLink, LineLink, Pickup, PowerLink, RemoteLink, TapLink
from ohmack.core.document.parts import (
    Amplifier,
    Converter,
    DistributionBlock,
    FuseHolder,
    HeadUnit,
    PartBase,
    PoweredSubwoofer,
)
from ohmack.core.document.paths import get
from ohmack.core.document.strategy import StrategyKey
from ohmack.core.document.vehicle import Feed, FeedRole, Hand, KeyState
from ohmack.core.errors import OutOfRange, UnknownName
from ohmack.core.factory.outputs import pickups
from ohmack.core.fit.places import PROPORTIONS
from ohmack.core.fit.runs import ends
from ohmack.core.physics.geometry import plan_length_m
from ohmack.core.planning.channels import speaker_links
from ohmack.core.supply.own_runs import feed_refuses


def connect(design: Design, part_id: str) -> tuple[Edit, ...]:
    """The links a part still lacks, laid with sensible runs: power on the battery's side, signal on the other.

    Parameters:
        design: the design, the part already in it.
        part_id: an amplifier or a converter; any other part needs nothing.

    Returns:
        edits that add the missing links.
    """
    amplifiers, converters = list(design.parts_of(Amplifier)), list(design.parts_of(Converter))
    straight: list[PoweredSubwoofer | Amplifier] = [
        *design.parts_of(PoweredSubwoofer),
        *(a for a in amplifiers if a.plugs_in),
    ]
    edits: list[Edit] = []
    taken = {link.id for link in design.links}

    def add(link_id: str, tree: dict[str, Any]) -> None:
        free = _free(link_id, taken)
        taken.add(free)
        edits.append(Edit(op="add", path="links", value={**tree, "id": free}))

    for block in design.parts_of(DistributionBlock):
        if block.id == part_id:
            edits.extend(wire_in(design, block))
    for amplifier in amplifiers:
        if amplifier.id == part_id or any(c.id == part_id for c in converters):
            for tree in speaker_links(design, amplifier):
                add(tree["id"], tree | _speaker_way(design, amplifier, tree))
            if not amplifier.plugs_in:
                _connect_amplifier(design, amplifier, converters, add)
    for part in straight:
        if part.id == part_id:
            _connect_straight(design, part, add)
    for converter in converters:
        if converter.id == part_id:
            _connect_converter(design, converter, add)
    return tuple(edits)


def _free(stem: str, taken: set[str]) -> str:
    """An id nobody has yet."""
    number, free = 2, stem
    while free in taken:
        free, number = f"{stem}-{number}", number + 1
    return free


def _sides(design: Design) -> tuple[float, float, float]:
    """(x of the bulkhead, y of the power side, y of the signal side)."""
    vehicle = design.vehicle
    passage, battery = next(iter(vehicle.passages), None), vehicle.supply.batteries[0]
    width_m = vehicle.width_m.value or 1.75
    side = width_m / 2 - 0.17
    left = battery.position.y_m <= 0 if passage is None else passage.position.y_m <= 0
    bulkhead = passage.position.x_m if passage else 0.28 * (vehicle.length_m.value or 4.2)
    return bulkhead, -side if left else side, side if left else -side


def _speaker_way(design: Design, amplifier: Amplifier, tree: dict[str, Any]) -> dict[str, Any]:
    """Way points of a fresh speaker wire to a position: along the sill of its own side, clear of the seat rails."""
    speaker = next((s for s in design.vehicle.speakers if s.id == tree["to_id"]), None)
    if speaker is None or tree.get("factory_wire") or amplifier.position is None:
        return {}
    side_m = (design.vehicle.width_m.value or 1.75) / 2 - 0.1
    along = side_m if speaker.position.y_m > 0 else -side_m
    return {"way_points": _points((amplifier.position.x_m, along), (speaker.position.x_m, along))}


REAR = (ChannelPlace.REAR_LEFT, ChannelPlace.REAR_RIGHT, ChannelPlace.REAR)
CONSOLE_Y_M = 0.13  # beside the tunnel, between it and the seat rails


def _signal_way(
    design: Design, start: Position, end: Position, side_m: float, inset_m: float
) -> list[dict[str, float]]:
    """Way points of a signal run: along its side, but past the driver's feet only through the centre console."""
    vehicle = design.vehicle
    typical = PROPORTIONS[vehicle.body]
    driver = 1 if vehicle.hand_of_drive is Hand.RIGHT else -1
    along = side_m - (inset_m if side_m > 0 else -inset_m)
    behind_m = (min((*typical.seats, *typical.benches)) * (vehicle.length_m.value or typical.length_m)) + 0.55
    if side_m * driver < 0 or not start.x_m < behind_m < end.x_m:
        return _points((start.x_m, along), (end.x_m, along))
    console = (CONSOLE_Y_M - inset_m / 2) * driver
    return _points((start.x_m, console), (behind_m, console), (behind_m, along), (end.x_m, along))


def _points(*points: tuple[float, float]) -> list[dict[str, float]]:
    return [{"x_m": round(x, 2), "y_m": round(y, 2)} for x, y in points]


def _connect_amplifier(design: Design, amplifier: Amplifier, converters: list[Converter], add: Any) -> None:
    def lacks(kind: str) -> bool:
        return not any(k.kind == kind and amplifier.id in ends_of(k) for k in design.links)

    _, _, signal_y = _sides(design)
    place = amplifier.position or Position(x_m=3.4, y_m=0)
    _own_run(design, amplifier, add)
    converter = next(iter(converters), None)
    line_from = converter or next((r for r in design.parts_of(HeadUnit) if r.line_v and r.line_pairs), None)
    if lacks("line") and line_from:
        start = line_from.position or design.vehicle.radio.position
        add(
            f"line-{amplifier.id}",
            {"kind": "line", "from_id": line_from.id, "to_id": amplifier.id,
             "way_points": _signal_way(design, start, place, signal_y, 0.0)},
        )  # fmt: skip
    if lacks("remote"):
        feed = _switched_feed(design)
        source = converter if converter and converter.remote_out_limit_a else feed
        if source is not None:
            start = source.position or design.vehicle.radio.position
            add(
                f"remote-{amplifier.id}",
                {"kind": "remote", "from_id": source.id, "to_id": amplifier.id,
                 "way_points": _signal_way(design, start, Position(x_m=place.x_m - 0.05, y_m=place.y_m), signal_y, 0.03)},
            )  # fmt: skip


def _switched_feed(design: Design) -> Feed | None:
    """The first feed that is live with the key and dead without it."""
    return next((f for f in design.vehicle.feeds if f.live.value and KeyState.ASLEEP not in f.live.value), None)


def _own_run(design: Design, part: Amplifier | PoweredSubwoofer, add: Any) -> None:
    """A fused run from the battery and a ground lead, as far as they are missing."""
    tied = {(k.kind, end) for k in design.links for end in ends_of(k)}
    bulkhead, power_y, _ = _sides(design)
    place = part.position or Position(x_m=3.4, y_m=0)
    battery = design.vehicle.supply.batteries[0]
    holder = next(design.parts_of(FuseHolder), None)
    front = battery.position.x_m < bulkhead < place.x_m
    block = _block_with_room(design)
    if ("power", part.id) not in tied and block is not None:
        fuse_in_block = {"holder_id": None} if block.fused else None
        add(
            f"power-{part.id}",
            {"kind": "power", "from_id": block.id, "to_id": part.id, "fuse": fuse_in_block, "engine_space": False},
        )
    elif ("power", part.id) not in tied:
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
            f"power-{part.id}",
            {"kind": "power", "from_id": battery.id, "to_id": part.id, "way_points": way, "fuse": fuse,
             "engine_space": front},
        )  # fmt: skip
    grounds = sorted(design.vehicle.ground_points, key=lambda g: abs(g.position.x_m - place.x_m))
    if ("ground", part.id) not in tied and grounds:
        tape = {"value": 0.45, "basis": "assumed", "low": 0.3, "high": 0.5}
        add(
            f"ground-{part.id}",
            {"kind": "ground", "from_id": part.id, "to_id": grounds[0].id, "tape_length_m": tape},
        )


def _block_with_room(design: Design) -> DistributionBlock | None:
    """A block that is fed and has a way left."""
    links = list(design.links_of(PowerLink))
    for block in design.parts_of(DistributionBlock):
        if any(k.to_id == block.id for k in links) and sum(k.from_id == block.id for k in links) < block.ways:
            return block
    return None


def wire_in(design: Design, block: DistributionBlock) -> tuple[Edit, ...]:
    """A main run from the battery to a block, and every power run of that battery moved behind it.

    Parameters:
        design: the design, the block in it.
        block: the block.

    Returns:
        edits: the main run takes the way and the fuse's place of the first run; a tape length or way points of a moved run are
        of its old way and go.
    """
    batteries = {b.id for b in design.vehicle.supply.batteries}
    runs = [link for link in design.links_of(PowerLink) if link.from_id in batteries and link.to_id != block.id]
    runs = [link for link in runs if link.from_id == runs[0].from_id]
    fed = any(link.to_id == block.id for link in design.links_of(PowerLink))
    edits = []
    if not fed:
        first = runs[0].model_dump(mode="json") if runs else {}
        battery_id = runs[0].from_id if runs else design.vehicle.supply.batteries[0].id
        fuse = first.get("fuse") or {"from_source_m": {"value": 0.3, "basis": "assumed", "low": 0.1, "high": 0.45}}
        main = {
            "id": _free(f"power-{block.id}"[:36], {k.id for k in design.links}),
            "kind": "power",
            "from_id": battery_id,
            "to_id": block.id,
            "way_points": _as_far_as(design, battery_id, block, first.get("way_points", [])),
            "engine_space": first.get("engine_space", True),
            "fuse": fuse | {"rating_a": None},
        }
        edits.append(Edit(op="add", path="links", value=main))
    for link in runs:
        base = f"links/{link.id}"
        edits += [
            Edit(path=f"{base}/from_id", value=block.id),
            Edit(path=f"{base}/way_points", value=[]),
            Edit(path=f"{base}/engine_space", value=False),
        ]
        edits += [
            Edit(path=f"{base}/tape_length_m", value={"value": None}),
            Edit(path=f"{base}/fuse", value={} if block.fused else None),
        ]
    return tuple(edits)


def _as_far_as(
    design: Design, battery_id: str, block: DistributionBlock, way: list[dict[str, float]]
) -> list[dict[str, float]]:
    """The way points of a run as far as a block, and the last one beside it."""
    battery = next(b for b in design.vehicle.supply.batteries if b.id == battery_id)
    if block.position is None or not way:
        return []
    reach_m = abs(block.position.x_m - battery.position.x_m)
    near = [point for point in way if abs(point["x_m"] - battery.position.x_m) < reach_m]
    return [*near, {"x_m": block.position.x_m, "y_m": way[-1]["y_m"]}]


def _carried_by(design: Design, part: PoweredSubwoofer) -> Feed | None:
    """A constant factory feed of which everything is known and that carries the part too."""
    for feed in design.vehicle.feeds:
        known = all(f.value is not None for f in (feed.fuse_a, feed.old_load_a, feed.wire_size, feed.wire_length_m))
        if feed.role is FeedRole.CONSTANT and known and not feed_refuses(feed, part.supply_current_a, design.policy):
            return feed
    return None


def _connect_straight(design: Design, part: PoweredSubwoofer | Amplifier, add: Any) -> None:
    """Pairs straight into a speaker-level input, and the switch-on of a part that does not hear the music itself."""
    tapped = {tap.to_id for tap in design.links_of(TapLink)}
    output, channels = _best_channels(design)
    takes = True
    if isinstance(part, Amplifier):  # what it replaces is no source; over a ring it needs its adapter, not a pair
        radio = design.vehicle.radio
        output, channels = radio, radio.channels
        takes = part.takes_speaker_level and radio.tier.value not in (Tier.RING, Tier.NONE)
    place = part.position or output.position
    unit = next((r for r in design.parts_of(HeadUnit) if r.line_v and r.line_pairs), None)
    if isinstance(part, Amplifier) and unit is not None:  # a new radio's line outputs, cleaner than any pair
        if not any(line.to_id == part.id for line in design.links_of(LineLink)):
            start = unit.position or design.vehicle.radio.position
            way = _signal_way(design, start, place, _sides(design)[2], 0.0)
            add(f"line-{part.id}", {"kind": "line", "from_id": unit.id, "to_id": part.id, "way_points": way})
        return
    if part.id not in tapped and channels and takes:
        wanted = [c.id for c in channels if c.place in REAR] or [c.id for c in channels]
        names = wanted[:2] if isinstance(part, PoweredSubwoofer) else [c.id for c in channels][:8]
        way = _points((output.position.x_m, place.y_m))
        add(f"tap-{part.id}", {"kind": "tap", "from_ids": names, "to_id": part.id, "way_points": way})
    if isinstance(part, PoweredSubwoofer):
        _feed_straight(design, part, add)
    switched = {link.to_id for link in design.links_of(RemoteLink)}
    if isinstance(part, PoweredSubwoofer) and not part.senses_audio and part.id not in switched:
        feed = _switched_feed(design)
        if feed is not None:
            way = _points((feed.position.x_m, place.y_m))
            add(
                f"remote-{part.id}",
                {"kind": "remote", "from_id": feed.id, "to_id": part.id, "way_points": way},
            )


def _feed_straight(design: Design, part: PoweredSubwoofer, add: Any) -> None:
    """What a powered subwoofer draws from: a factory feed where the check allows it, else a run of its own."""
    fed = any(link.to_id == part.id for link in design.links_of(FeedLink))
    powered = any(link.to_id == part.id for link in design.links_of(PowerLink))
    feed = None if powered else _carried_by(design, part)
    if fed:
        return
    if feed is None:
        _own_run(design, part, add)
        return
    place = part.position or feed.position
    grounds = sorted(design.vehicle.ground_points, key=lambda g: abs(g.position.x_m - place.x_m))
    add(
        f"feed-{part.id}",
        {"kind": "feed", "from_id": feed.id, "to_id": part.id, "ground_point_id": grounds[0].id if grounds else None,
         "way_points": _points((feed.position.x_m, place.y_m)),
         "fuse": {"from_source_m": {"value": 0.1, "basis": "assumed", "low": 0.05, "high": 0.15}}},
    )  # fmt: skip


def _best_channels(design: Design) -> tuple[Radio | Module, tuple[RadioChannel, ...]]:
    """Where a signal is best picked up under the chosen way, and the pairs there that carry bass as far as known."""
    vehicle = design.vehicle
    behind = design.strategy is StrategyKey.AFTER_AMPLIFIER
    usable = [p.source_id for p in pickups(vehicle) if p.usable]
    wanted = [name for name in usable if name != vehicle.radio.id] if behind else usable
    best = next(iter(wanted or usable), vehicle.radio.id)
    output = next((s for s in vehicle.sources if s.id == best and s.channels), vehicle.radio)
    low = tuple(c for c in output.channels if c.band.value is None or c.band.value.has_bass)
    return output, low or output.channels


def _connect_converter(design: Design, converter: Converter, add: Any) -> None:
    vehicle = design.vehicle
    output, channels = _best_channels(design)
    if not any(link.to_id == converter.id for link in design.links_of(TapLink)) and channels:
        wanted = [c.id for c in channels if c.place in REAR]
        pair = (wanted or [c.id for c in channels])[: min(2, converter.input_pairs)]
        place = converter.position or output.position
        way = _points((output.position.x_m, place.y_m))
        whole = output is vehicle.radio or design.intake.reversible  # no adapter is sold for a factory amplifier's plug
        add(
            f"tap-{converter.id}",
            {"kind": "tap", "from_ids": pair, "to_id": converter.id, "way_points": way,
             "method": Pickup.PLUG_ADAPTER.value if whole else Pickup.SPLICE.value},
        )  # fmt: skip
    if not any(link.to_id == converter.id for link in design.links_of(FeedLink)) and vehicle.feeds:
        constant = next((f for f in vehicle.feeds if f.live.value and "asleep" in f.live.value), vehicle.feeds[0])
        place = converter.position or constant.position
        ground = min(
            vehicle.ground_points, key=lambda g: abs(g.position.x_m - vehicle.radio.position.x_m), default=None
        )
        add(
            f"feed-{converter.id}",
            {"kind": "feed", "from_id": constant.id, "to_id": converter.id,
             "ground_point_id": ground.id if ground else None,
             "way_points": _points((constant.position.x_m, place.y_m)),
                "fuse": {"from_source_m": {"value": 0.1, "basis": "assumed", "low": 0.05, "high": 0.15}}},
        )  # fmt: skip
    switched = any(link.to_id == converter.id for link in design.links_of(RemoteLink))
    feed = _switched_feed(design)
    if not converter.senses_audio and not switched and feed is not None:
        place = converter.position or feed.position
        way = _points((feed.position.x_m, place.y_m))
        add(
            f"remote-{converter.id}",
            {"kind": "remote", "from_id": feed.id, "to_id": converter.id, "way_points": way},
        )


def connect_everything(design: Design, first: str = "") -> tuple[Edit, ...]:
    """The links that amplifiers and converters of the design still lack, converters first.

    Parameters:
        design: the design.
        first: a part that is served before the others of its kind, so that a free driver becomes its own.

    Returns:
        edits that add the missing links.
    """
    edits: list[Edit] = []

    def lay(part_id: str, wanted: Callable[[Any], bool]) -> None:
        nonlocal design
        new = [edit for edit in connect(design, part_id) if wanted(edit.value)]
        design = apply_edits(design, new)  # the next part must see what is taken
        edits.extend(new)

    def in_turn(parts: Iterable[PartBase]) -> list[str]:
        return sorted((part.id for part in parts), key=lambda name: name != first)

    for name in in_turn(design.parts_of(Converter)):
        lay(name, lambda link, own=name: link["kind"] in ("tap", "feed", "remote") and link["to_id"] == own)  # type: ignore[misc]
    straight = (*design.parts_of(PoweredSubwoofer), *(a for a in design.parts_of(Amplifier) if a.plugs_in))
    for name in in_turn(straight):
        lay(name, lambda link: link["kind"] in ("tap", "line", "remote", "speaker", "power", "ground", "feed"))
    for name in in_turn(design.parts_of(Amplifier)):
        lay(name, lambda link, own=name: own in (link.get("from_id"), link["to_id"]))  # type: ignore[misc]
    for block in list(design.parts_of(DistributionBlock)):
        if not any(k.from_id == block.id for k in design.links_of(PowerLink)):
            edits.extend(wired_in := wire_in(design, block))
            design = apply_edits(design, wired_in)
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


def check_on_body(design: Design, path: str, value: float | None) -> None:
    """Refuse a typed coordinate that lies outside the car.

    Parameters:
        design: the design.
        path: path of the coordinate, ending in `x_m` or `y_m`.
        value: the coordinate [m].

    Raises:
        OutOfRange: it lies outside the body.
    """
    length_m, width_m = design.vehicle.length_m.value, design.vehicle.width_m.value
    if path.endswith("/x_m") and length_m is not None and not (value is not None and 0 <= value <= length_m):
        allowed = f"0 to {length_m:g} m, the length of the car"
        raise OutOfRange("The place from the nose", value if value is not None else float("nan"), "m", allowed)
    if path.endswith("/y_m") and width_m is not None and not (value is not None and abs(value) <= width_m / 2):
        allowed = f"{width_m / 2:g} m left (minus) to {width_m / 2:g} m right of the centre line"
        raise OutOfRange("The place from the centre line", value if value is not None else float("nan"), "m", allowed)
