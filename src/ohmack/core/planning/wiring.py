"""Laying wires: the links a part lacks, with sensible runs."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Any

from ohmack.core.document import Design
from ohmack.core.document.design import ends_of
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.factory import ChannelPlace, Module, Radio, RadioChannel, Tier
from ohmack.core.document.facts import Position
from ohmack.core.document.handles import at_the
from ohmack.core.document.links import FeedLink, LineLink, Pickup, PowerLink, RemoteLink, SpeakerLink, TapLink
from ohmack.core.document.parts import (
    Amplifier,
    Converter,
    DistributionBlock,
    FuseHolder,
    HeadUnit,
    PartBase,
    PoweredSubwoofer,
)
from ohmack.core.document.strategy import StrategyKey
from ohmack.core.document.vehicle import Feed, FeedRole, Hand, KeyState
from ohmack.core.factory.outputs import pickups
from ohmack.core.fit.places import PROPORTIONS
from ohmack.core.planning.blocks import block_with_room, free_id, wire_in
from ohmack.core.planning.channels import speaker_links
from ohmack.core.supply.own_runs import feed_refuses


def connect(design: Design, part_id: str, factory: bool = False) -> tuple[Edit, ...]:
    """The links a part still lacks, laid with sensible runs: power on the battery's side, signal on the other.

    Parameters:
        design: the design, the part already in it.
        part_id: an amplifier or a converter; any other part needs nothing.
        factory: whether an amplifier nothing waits for may drive the factory speakers.

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
        free = free_id(link_id, taken)
        taken.add(free)
        edits.append(Edit(op="add", path=at_the(Design, lambda it: it.links), value={**tree, "id": free}))

    for block in design.parts_of(DistributionBlock):
        if block.id == part_id:
            edits.extend(wire_in(design, block))
    for amplifier in amplifiers:
        if amplifier.id == part_id or any(c.id == part_id for c in converters):
            bare = factory and not any(link.from_id == amplifier.id for link in design.links_of(SpeakerLink))
            for tree in speaker_links(design, amplifier) or speaker_links(design, amplifier, bare):
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
                {
                    "kind": "remote",
                    "from_id": source.id,
                    "to_id": amplifier.id,
                    "way_points": _signal_way(
                        design, start, Position(x_m=place.x_m - 0.05, y_m=place.y_m), signal_y, 0.03
                    ),
                },
            )


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
    block = block_with_room(design)
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
        first: a part that is served before the others of its kind, so that a free driver becomes its own; an
            amplifier no new driver is left for takes the factory speakers.

    Returns:
        edits that add the missing links.
    """
    edits: list[Edit] = []

    def lay(part_id: str, wanted: Callable[[Any], bool]) -> None:
        nonlocal design
        new = [edit for edit in connect(design, part_id, part_id == first) if wanted(edit.value)]
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
