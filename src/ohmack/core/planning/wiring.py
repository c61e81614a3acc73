"""Laying wires: the links a part lacks, with sensible runs."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Any

from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.design import ends_of
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.factory import Tier
from ohmack.core.document.facts import Position
from ohmack.core.document.grounding import ground_for
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.ids import free_id
from ohmack.core.document.interventions import radio_there
from ohmack.core.document.links import (
    CapacitorLink,
    ChargeLink,
    FeedLink,
    LineLink,
    PowerLink,
    RemoteLink,
    SpeakerLink,
    TapLink,
)
from ohmack.core.document.part import PartBase
from ohmack.core.document.parts import (
    ChargingRelay,
    Converter,
    DistributionBlock,
    HeadUnit,
    PoweredSubwoofer,
    StiffeningCapacitor,
    Subwoofer,
)
from ohmack.core.document.vehicle import Feed, FeedRole
from ohmack.core.evaluation.door import evaluate
from ohmack.core.planning.blocks import block_with_room, onto_the_converter, source_of_12_v, wire_in
from ohmack.core.planning.channels import handed_over, speaker_links, strongest_first
from ohmack.core.planning.laying import laid
from ohmack.core.planning.lines import line_links, radio_with_lines, remapped, source_of_lines
from ohmack.core.planning.radio_wiring import connect_radio, fuse_at, on_feed, own_lead, own_lines
from ohmack.core.planning.routing import floor_of
from ohmack.core.planning.switching_on import lead_to, switch_of
from ohmack.core.planning.tapping import amplifiers_tap, best_channels, converters_tap, is_tapped, tap_from, tapped_anew
from ohmack.core.supply.feed_taps import feed_refuses
from ohmack.core.supply.holders import free_holder


def connect(design: Design, part_id: str, factory: bool = False) -> tuple[Edit, ...]:
    """The links a part still lacks, laid along sensible ways: power on the battery's side, signal on the other.

    Parameters:
        design: the design, the part already in it.
        part_id: an amplifier or a converter; any other part needs nothing.
        factory: whether an amplifier nothing waits for may drive the factory speakers.

    Returns:
        edits that add the missing links.
    """
    return laid(design, _lacking(design, part_id, factory))


def _lacking(design: Design, part_id: str, factory: bool, own: bool = False) -> tuple[Edit, ...]:
    """The links a part still lacks, not laid yet; an amplifier without speakers takes the factory ones where it may,
    one with some where it is to.
    """
    amplifiers, converters = list(design.parts_of(Amplifier)), list(design.parts_of(Converter))
    straight: list[PoweredSubwoofer | Amplifier] = [
        *design.parts_of(PoweredSubwoofer),
        *(a for a in amplifiers if a.plugs_in),
    ]
    edits: list[Edit] = []
    taken = {link.id for link in design.links}
    laid_with: dict[str, Iterable[dict[str, Any]]] = {}

    def add(link_id: str, tree: dict[str, Any]) -> None:
        free = free_id(link_id, taken)
        taken.add(free)
        edits.append(Edit(op="add", path=at_the(Design, lambda it: it.links), value={**tree, "id": free}))

    for block in design.parts_of(DistributionBlock):
        if block.id == part_id:
            edits.extend(wire_in(design, block))
    if any(c.id == part_id for c in converters):
        edits.extend(straight_out := _through(design, part_id, amplifiers))
        design = apply_edits(design, straight_out)
    for amplifier in amplifiers:
        if amplifier.id == part_id or any(c.id == part_id for c in converters):
            bare = factory and not any(link.from_id == amplifier.id for link in design.links_of(SpeakerLink))
            speakers = speaker_links(design, amplifier) or speaker_links(design, amplifier, bare or own)
            edits.extend(tapped_anew(design, amplifier, speakers) if own else ())
            laid_with[amplifier.id] = speakers
            for tree in speakers:
                add(tree["id"], tree)
            if not amplifier.plugs_in:
                line_from = source_of_lines(design)
                mapped: tuple[Edit, ...] = ()
                if speakers and line_from is not None:  # else a pair somebody chose stays as it is
                    mapped = remapped(design, amplifier, line_from, speakers)
                edits.extend(mapped)
                _connect_amplifier(apply_edits(design, mapped), amplifier, speakers, add)
    for relay in design.parts_of(ChargingRelay):
        if relay.id == part_id:
            edits.extend(_connect_relay(design, relay, add))
    for capacitor in design.parts_of(StiffeningCapacitor):
        if capacitor.id == part_id:
            _connect_capacitor(design, capacitor, add)
    for unit in design.parts_of(HeadUnit):
        if unit.id == part_id:
            connect_radio(design, unit, add)
    for part in straight:
        if part.id == part_id:
            _connect_straight(design, part, laid_with.get(part.id, ()), add)
            if isinstance(part, Amplifier) and _no_feed_carries(design, part):
                _own_run(design, part, add)
    for converter in converters:
        if converter.id == part_id:
            _connect_converter(design, converter, add)
    return tuple(edits)


def _through(design: Design, converter_id: str, amplifiers: list[Amplifier]) -> tuple[Edit, ...]:
    """The pickups of amplifiers taken out, which a converter that feeds nothing yet is to do for; and the lines they
    have from a radio, where it is a processor.
    """
    if any(line.from_id == converter_id for line in design.links_of(LineLink)):
        return ()
    fed = {amplifier.id for amplifier in amplifiers if not amplifier.plugs_in}
    out: list[TapLink | LineLink] = [k for k in design.links_of(TapLink) if k.to_id in fed and not k.by_hand]
    radio = radio_with_lines(design)
    if radio is not None and any(c.id == converter_id and c.kind == "processor" for c in design.parts_of(Converter)):
        fed |= {sub.id for sub in design.parts_of(PoweredSubwoofer)}
        out += [line for line in design.links_of(LineLink) if line.from_id == radio.id and line.to_id in fed]
    return tuple(Edit(op="remove", path=at(link)) for link in out if not link.in_car)


def _connect_amplifier(design: Design, amplifier: Amplifier, speakers: list[dict[str, Any]], add: Any) -> None:
    def lacks(kind: str) -> bool:
        return not any(k.kind == kind and amplifier.id in ends_of(k) for k in design.links)

    _own_run(design, amplifier, add)
    line_from = source_of_lines(design)
    if line_from is not None and not is_tapped(design, amplifier.id):
        for tree in line_links(design, amplifier, line_from, speakers):
            add(tree["id"], tree)
    straight = amplifiers_tap(design, amplifier, speakers) if line_from is None else None
    if straight is not None and lacks("tap") and lacks("line"):
        add(f"tap-{amplifier.id}", straight)
    source = switch_of(design, amplifier)
    if lacks("remote") and source is not None:
        add(f"remote-{amplifier.id}", lead_to(design, source, amplifier.id))


def _own_run(design: Design, part: Amplifier | PoweredSubwoofer, add: Any) -> None:
    """A fused run from the battery and a ground lead, as far as they are missing."""
    tied = {(k.kind, end) for k in design.links for end in ends_of(k)}
    place = part.position or Position(x_m=3.4, y_m=0)
    source = source_of_12_v(design)
    start_m = source.position.x_m if source.position is not None else design.vehicle.supply.batteries[0].position.x_m
    holder = free_holder(design, part)
    block = block_with_room(design)
    run = {"kind": "power", "to_id": part.id}
    if ("power", part.id) not in tied and block is not None:
        fuse_in_block = {"holder_id": None} if block.fused else None
        add(f"power-{part.id}", run | {"from_id": block.id, "fuse": fuse_in_block, "engine_space": False})
    elif ("power", part.id) not in tied:
        fuse = {
            "holder_id": holder.id if holder else None,
            **_near_the_source(design),
        }
        front = start_m < floor_of(design).bulkhead_m < place.x_m
        add(f"power-{part.id}", run | {"from_id": source.id, "fuse": fuse, "engine_space": front})
    point = ground_for(design, place)
    if ("ground", part.id) not in tied and point is not None:
        tape = {"value": 0.45, "basis": "assumed", "low": 0.3, "high": 0.5}
        add(f"ground-{part.id}", {"kind": "ground", "from_id": part.id, "to_id": point.id, "tape_length_m": tape})


def _no_feed_carries(design: Design, amplifier: Amplifier) -> bool:
    """Whether it is known of every feed a plug-in amplifier could draw from that it does not carry it."""
    entries = (one for one in evaluate(design).results.self_fed if one.part.id == amplifier.id)
    return any(one.taps and all(tap.refused for tap in one.taps) for one in entries)


def _carried_by(design: Design, part: PoweredSubwoofer) -> Feed | None:
    """A constant factory feed of which everything is known and that carries the part too."""
    for feed in design.vehicle.feeds:
        known = all(f.value is not None for f in (feed.fuse_a, feed.old_load_a, feed.wire_size, feed.wire_length_m))
        if feed.role is FeedRole.CONSTANT and known and not feed_refuses(design, feed, part.supply_current_a):
            return feed
    return None


def _connect_straight(
    design: Design, part: PoweredSubwoofer | Amplifier, speakers: Iterable[dict[str, Any]], add: Any
) -> None:
    """Pairs straight into a speaker-level input, and the switch-on of a part that does not hear the music itself;
    `speakers` are what is laid from it in the same act.
    """
    tapped = {tap.to_id for tap in design.links_of(TapLink)}
    output, channels = best_channels(design)
    takes = True
    if isinstance(part, Amplifier):  # what it replaces is no source; over a ring it needs its adapter, not a pair
        output, channels = design.vehicle.radio, design.vehicle.radio.channels
        takes = part.takes_speaker_level and radio_there(design).tier.value not in (Tier.RING, Tier.NONE)
    line_from = radio_with_lines(design) if isinstance(part, Amplifier) else source_of_lines(design)
    by_line = isinstance(part, Amplifier) or part.takes_line
    if line_from is not None and by_line and part.id not in tapped:  # cleaner than any pair
        for tree in line_links(design, part, line_from, speakers):
            add(tree["id"], tree)
        if isinstance(part, Amplifier):
            return
        takes = False
    takes = takes and part.takes_speaker_level
    if part.id not in tapped and channels and takes:
        wanted = [c.id for c in channels if c.place is not None and c.place.axle == "rear"] or [c.id for c in channels]
        names = wanted[:2] if isinstance(part, PoweredSubwoofer) else [c.id for c in channels][:8]
        add(f"tap-{part.id}", tap_from(design, output, names, part.id))
    if isinstance(part, PoweredSubwoofer):
        _feed_straight(design, part, add)
        _switch_on(design, part, add)


def _switch_on(design: Design, part: PoweredSubwoofer | Converter, add: Any) -> None:
    """A switch-on lead for a part that does not hear the music itself."""
    source = switch_of(design, part)
    switched = any(link.to_id == part.id for link in design.links_of(RemoteLink))
    if not part.senses_audio and not switched and source is not None:
        add(f"remote-{part.id}", lead_to(design, source, part.id))


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
    add(f"feed-{part.id}", on_feed(design, part.id, feed, part.position or feed.position))


def _near_the_source(design: Design) -> dict[str, Any]:
    """Where a run's fuse is taken to sit: about a foot from its source, never farther than the shop allows."""
    most_m = min(FARTHEST_M, design.policy.fuse_distance_m)
    return fuse_at(min(0.3, most_m), min(0.1, most_m), most_m)


FARTHEST_M = 0.45  # a fuse from its source, common practice


def _connect_relay(design: Design, relay: ChargingRelay, add: Any) -> tuple[Edit, ...]:
    """A charge cable through a relay, from the first battery to the first one nothing charges yet; and what that is on
    file.
    """
    first, *others = design.vehicle.supply.batteries
    charged = {link.to_id for link in design.links_of(ChargeLink)}
    second = next((b for b in others if b.id not in charged), None)
    if second is None or any(link.through_id == relay.id for link in design.links_of(ChargeLink)):
        return ()
    point = ground_for(design, second.position)
    add(
        f"charge-{second.id}",
        {
            "kind": "charge",
            "from_id": first.id,
            "to_id": second.id,
            "through_id": relay.id,
            "ground_point_id": point.id if point else None,
            "fuse": _near_the_source(design),
            "engine_space": first.position.x_m < floor_of(design).bulkhead_m,
        },
    )
    charged_by = {"value": relay.how, "basis": "documented"}
    return (Edit(path=at(design.vehicle.supply, lambda it: it.split_charging), value=charged_by),)


def _connect_capacitor(design: Design, capacitor: StiffeningCapacitor, add: Any) -> None:
    """A capacitor across the supply of what draws most: the amplifier that drives a subwoofer, else the first one."""
    if any(link.to_id == capacitor.id for link in design.links_of(CapacitorLink)):
        return
    subs = {sub.id for sub in design.parts_of(Subwoofer)}
    bass = {link.from_id for link in design.links_of(SpeakerLink) if link.to_id in subs}
    fed = {link.to_id for link in design.links_of(PowerLink)}
    drawing = [p for p in (*design.parts_of(Amplifier), *design.parts_of(PoweredSubwoofer)) if p.id in fed]
    steadied = min(drawing, key=lambda p: p.id not in bass and not isinstance(p, PoweredSubwoofer), default=None)
    if steadied is not None:
        tape = {"value": 0.3, "basis": "assumed", "low": 0.15, "high": 0.45}
        ends = {"from_id": steadied.id, "to_id": capacitor.id}
        add(f"leads-{capacitor.id}", {"kind": "capacitor", **ends, "tape_length_m": tape})


def _connect_converter(design: Design, converter: Converter, add: Any) -> None:
    vehicle = design.vehicle
    radio = radio_with_lines(design) if converter.kind == "processor" else None
    fed = is_tapped(design, converter.id) or any(line.to_id == converter.id for line in design.links_of(LineLink))
    if radio is not None and not fed:  # a processor takes the line output of a radio that has one
        add(f"line-{converter.id}", {"kind": "line", "from_id": radio.id, "to_id": converter.id})
    elif not fed and (tap := converters_tap(design, converter)) is not None:
        add(f"tap-{converter.id}", tap)
    if not converter.active:
        return
    if not any(link.to_id == converter.id for link in design.links_of(FeedLink)) and vehicle.feeds:
        constant = next((f for f in vehicle.feeds if f.live.value and "asleep" in f.live.value), vehicle.feeds[0])
        add(f"feed-{converter.id}", on_feed(design, converter.id, constant, vehicle.radio.position))
    _switch_on(design, converter, add)


def connect_everything(design: Design, first: str = "", own: bool = False) -> tuple[Edit, ...]:
    """The links that amplifiers and converters of the design still lack, converters first.

    Parameters:
        design: the design.
        first: a part that is served before the others of its kind, so that a free driver becomes its own; an
            amplifier no new driver is left for takes the factory speakers.
        own: whether it takes them to the channels it has free, where it drives something already.

    Returns:
        edits that add the missing links.
    """
    edits: list[Edit] = []
    bare = design

    def lay(part_id: str, wanted: Callable[[Any], bool]) -> None:
        nonlocal design
        new = [
            e
            for e in _lacking(design, part_id, part_id == first, own and part_id == first)
            if e.op != "add" or wanted(e.value)
        ]
        design = apply_edits(design, new)  # the next part must see what is taken
        edits.extend(new)

    def in_turn(parts: Iterable[PartBase]) -> list[str]:
        return sorted((part.id for part in parts), key=lambda name: name != first)

    edits.extend(own_lead(design))
    edits.extend(own_lines(design))
    design = apply_edits(design, edits)
    for amplifier in design.parts_of(Amplifier):
        edits.extend(over := handed_over(design, amplifier))
        design = apply_edits(design, over)
    for name in in_turn(design.parts_of(Converter)):
        lay(name, lambda link, own=name: link["kind"] in ("tap", "line", "feed", "remote") and link["to_id"] == own)  # type: ignore[misc]
    straight = (*design.parts_of(PoweredSubwoofer), *(a for a in design.parts_of(Amplifier) if a.plugs_in))
    for name in in_turn(straight):
        lay(name, lambda link: link["kind"] in ("tap", "line", "remote", "speaker", "power", "ground", "feed"))
    for name in in_turn(strongest_first(design)):
        lay(name, lambda link, own=name: own in (link.get("from_id"), link["to_id"]))  # type: ignore[misc]
    for unit in design.parts_of(HeadUnit):
        lay(unit.id, lambda link: link["kind"] in ("feed", "remote"))
    for relay in design.parts_of(ChargingRelay):
        lay(relay.id, lambda link: link["kind"] == "charge")
    for capacitor in design.parts_of(StiffeningCapacitor):
        lay(capacitor.id, lambda link: link["kind"] == "capacitor")
    edits.extend(moved := onto_the_converter(design))
    design = apply_edits(design, moved)
    for block in list(design.parts_of(DistributionBlock)):
        runs = list(design.links_of(PowerLink))
        if any(block.id not in ends for ends in ([k.from_id for k in runs], [k.to_id for k in runs])):
            edits.extend(wired_in := wire_in(design, block))
            design = apply_edits(design, wired_in)
    return laid(bare, edits)
