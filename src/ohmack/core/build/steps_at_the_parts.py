"""Steps at the new parts: prepared on the table, fixed in their places, joined to what leads to them."""

from __future__ import annotations

from collections.abc import Sequence

from ohmack.core.build.fuse_places import fuse_places
from ohmack.core.build.in_line import at_its_plug
from ohmack.core.build.lists import OWN_CABLE
from ohmack.core.build.step_book import StepBook
from ohmack.core.build.steps import HEADLINING_OFF, Phase
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.boxed import boxed
from ohmack.core.document.boxes import Box
from ohmack.core.document.links import ChargeLink, FeedLink, GroundLink, Link, Pickup, PowerLink, RemoteLink, TapPlace
from ohmack.core.document.part import PartBase
from ohmack.core.document.parts import (
    Accessory,
    ChargingRelay,
    Converter,
    DistributionBlock,
    Driver,
    FuseHolder,
    HeadUnit,
    PoweredSubwoofer,
    StiffeningCapacitor,
    VoltageConverter,
)
from ohmack.core.document.small_parts import MountingRing, SwitchingRelay
from ohmack.core.document.vehicle import SpeakerPlace
from ohmack.core.factory.graph import about
from ohmack.core.fit.far_ends import own_lead
from ohmack.core.fit.runs import BEHIND_THE_RADIO, plays_over_the_loom
from ohmack.core.wording import count, counted, listed

HEAVY_KG = 20.0  # from here two carry it, common practice
FIXED = (Amplifier, Converter, PoweredSubwoofer, DistributionBlock, StiffeningCapacitor, ChargingRelay,
         VoltageConverter, SwitchingRelay)  # fmt: skip
WORDS = {
    "power": "power", "ground": "ground", "speaker": "speakers", "tap": "signal", "line": "RCA", "remote": "switch-on",
    "feed": "feed", "charge": "charge cable", "capacitor": "capacitor",
}  # fmt: skip


def on_the_table(book: StepBook) -> None:
    """What is done before the car comes."""
    for box, subs in boxed(book.design):
        if not subs or (box.in_car and all(sub.in_car for sub in subs)):
            continue
        names = counted([s.name for s in subs])
        words = f"{names} into {box.name}, coils as planned; a cell moves the cone out"
        parts = (box.id, *(s.id for s in subs))
        book.add(f"table-box-{box.id}", Phase.TABLE, words, "box", part_ids=parts)
    joints = book.results.joints.to_make
    if joints and book.new_radio is not None:
        words = f"The new radio's leads: {count(len(joints), 'joint')}"
        book.add("table-harness", Phase.TABLE, words, "harness")
    if rows := [row for row in book.results.wire_rows if not row.in_car]:
        to_cut = any(row.size != OWN_CABLE for row in rows)
        words = f"{'Cut and label' if to_cut else 'Label'} {count(len(rows), 'cable')} by the wire list, both ends"
        book.add("cut-cables", Phase.TABLE, words, "cut-cables")


def _links_of(book: StepBook, part: PartBase) -> list[Link]:
    """The links this job joins at a part: all of a new one, of one that stays those that are laid."""
    ends = book.links if part.in_car else book.design.links
    return [k for k in ends if part.id in (k.to_id, getattr(k, "from_id", ""))]


def _laid(book: StepBook, part: PartBase) -> tuple[str, ...]:
    """The steps that lay what leads to a part, and take out what lay there before."""
    ties = [k.id for k in _links_of(book, part)]
    return (f"lay-{part.id}", f"lay-knob-{part.id}", *(f"{act}-{name}" for name in ties for act in ("old", "lay")))


def _hands(mass_kg: float | None) -> int:
    return 2 if mass_kg is not None and mass_kg >= HEAVY_KG else 0


def _fuse_holders(book: StepBook) -> None:
    """A holder where every fused run and charge cable begins; a block carries its own fuses."""
    results = book.results
    holders = [holder for holder in book.design.new_parts_of(FuseHolder) for _ in range(holder.circuits)]
    for place in fuse_places(results):
        link, to, fuse = place.link, place.to, place.fuse
        run, taken = results.runs[link.id], [holders.pop(0) for _ in range(min(place.many, len(holders)))]
        here = run.start_name if fuse is not None else run.end_name
        metres = fuse.from_source_m.value if fuse is not None else None
        away = f"{results.say(metres, 'm')} from {here}" if metres else f"at {here}"
        named = counted([holder.name for holder in taken])
        if place.many > 1:
            what = (
                f"{count(place.many, 'fuse holder')}{f' ({named})' if named else ''} {away}, one in each lead to {to}"
            )
            what += "; no fuse in them yet"
        else:
            what = f"{named or 'Fuse holder'} {away}, in the cable to {to}; no fuse in it yet"
        where = (run.points[0] if fuse is not None else run.points[-1]) if run.points else None
        name = f"fix-fuse-{link.id}{'' if fuse is not None else '-far'}"
        book.add(name, Phase.FIT, what, "fix-part", (f"lay-{link.id}",), where,
                 part_ids=tuple(dict.fromkeys(holder.id for holder in taken)))  # fmt: skip
    for pack in (feed for feed in results.pack_feeds if not feed.part.in_car):
        holder = next((one for one in holders if one.family == pack.family), None)
        if holder is not None:
            holders.remove(holder)
        what = f"{holder.name if holder else 'Fuse holder'} at {pack.battery.name}, in the plus to {pack.part.name}"
        book.add(f"fix-fuse-{pack.part.id}", Phase.FIT, f"{what}; no fuse in it yet", "fix-part",
                 (f"lay-{pack.part.id}",), pack.battery.position.point,
                 part_ids=(holder.id,) if holder else ())  # fmt: skip


def _relays(book: StepBook) -> None:
    """The relay in every new switch-on that has one: what works its coil, and what its contact passes on to."""
    design = book.design
    names = {part.id: part.name for part in design.parts} | {feed.id: feed.name for feed in design.vehicle.feeds}
    behind = {feed.id: feed.relay_on_id for feed in design.vehicle.feeds if feed.relay_on_id is not None}
    relays = tuple(f"fix-{relay.id}" for relay in design.new_parts_of(SwitchingRelay))
    for source in design.relayed:
        ties: list[RemoteLink | FeedLink] = [
            *(k for k in design.new_links_of(RemoteLink) if k.relay and k.from_id == source),
            *(k for k in design.new_links_of(FeedLink) if k.from_id == source and source in behind),
        ]
        if ties:
            to = listed([names[link.to_id] for link in ties])
            what = f"Relay for {to}: its coil between {names[behind.get(source, source)]} and the body, its contact"
            book.add(f"join-relay-{source}", Phase.JOIN, f"{what} from fused 12 V", "join-part",
                     (*relays, *(f"lay-{link.id}" for link in ties)))  # fmt: skip


def _rewire(book: StepBook) -> None:
    """Coils that are in the car and come to be wired another way."""
    for load, now in book.recoiled:
        sub = book.design.part(load.driven[0].id)
        where = sub.position.point if sub is not None and sub.position is not None else None
        what = (
            f"Coils of {listed([d.name for d in load.driven])} wired anew: {load.chosen.words}, {now.words} until now;"
            f" the pair then reads {load.chosen.reads}"
        )
        book.add(f"rewire-{load.link.id}", Phase.JOIN, what, "rewire-coils", book.taken, where)


def _second_batteries(book: StepBook) -> None:
    """What a charge cable leads to stands fast before anything is put on its posts."""
    for entry in book.results.charging:
        if entry.link.in_car:
            continue
        mind = ("Negative last; cover the posts; one that gasses is vented to the outside",)
        book.add(f"fix-{entry.battery.id}", Phase.FIT, f"{entry.battery.name} in its tray, strapped down", "fix-part",
                 book.taken, entry.battery.position.point, mind)  # fmt: skip


BOLTED = "Bolt or strap it, never to belt points; child-seat anchors stay free"


def fix(book: StepBook) -> None:
    """Parts, drivers and boxes in their places."""
    _fuse_holders(book)
    _second_batteries(book)
    for part in book.design.parts:
        if isinstance(part, FIXED) and not part.in_car:
            where = part.position.point if part.position is not None else None
            needs = (*book.taken, *book.named("out-"), *_laid(book, part))
            hands = _hands(getattr(part, "mass_kg", None))
            book.add(f"fix-{part.id}", Phase.FIT, f"Fix {part.name}", "fix-part", needs, where, people=hands,
                     part_ids=(part.id,))  # fmt: skip
    for speaker, name in book.swaps:
        in_cup = any(isinstance(p, Driver) and p.in_cup and speaker.id in p.at_ids for p in book.design.parts)
        own, mind = (", in a hole or pod of its own", ["Look behind before cutting"]) if speaker.new_place else ("", [])
        if in_cup:
            own, mind = (
                ", in its cup on the surface",
                ["Look behind before the hole for its leads", "Try it, then stick"],
            )
        if speaker.place is SpeakerPlace.PILLAR:
            mind.append("Nothing of it in the way of the airbag")
        if speaker.place is SpeakerPlace.CEILING:
            mind.append("A stop on the blade: the roof skin is close behind")
        rings = [r for r in book.design.parts_of(MountingRing) if speaker.id in r.at_ids]
        own += "".join(f" on {ring.name}" for ring in rings)
        into = f"{name} into {speaker.name}{own}"
        if speaker.in_new_box:
            into, mind = f"{speaker.name}, {name}: in its place, strapped or bolted", [BOLTED]
        what, needs = f"{into}; its terminals clear of metal", (f"off-{speaker.id}", HEADLINING_OFF)
        drives = (d for d in book.results.drives if d.speaker is speaker)
        parts = tuple(d.driver.id for d in drives if d.driver is not None and not d.driver.in_car)
        parts += tuple(ring.id for ring in rings)
        book.add(f"fix-{speaker.id}", Phase.FIT, what, "fix-speaker", needs, speaker.position.point, tuple(mind),
                 part_ids=parts)  # fmt: skip
    for part in book.design.new_parts_of(Accessory):
        if (lead := own_lead(part)) is not None:
            where = part.position.point if part.position is not None else None
            book.add(f"fix-{part.id}", Phase.FIT, f"{part.name} {lead['fix']}", "fix-part", book.taken, where,
                     (lead["mind"],), part_ids=(part.id,))  # fmt: skip
    for box in book.design.new_parts_of(Box):
        where = box.position.point if box.position is not None else None
        needs, what = (f"table-box-{box.id}", *book.taken, *book.named("lay-")), f"{box.name} in its place, strapped"
        hands = _hands(HEAVY_KG if box.mass_kg is None else box.mass_kg)
        book.add(f"fix-{box.id}", Phase.FIT, f"{what} or bolted", "fix-box", needs, where, (BOLTED,), people=hands,
                 part_ids=(box.id,))  # fmt: skip


def join(book: StepBook) -> None:
    """Plugs, joints at the car's own wires, the terminals of every part, and the post last."""
    _join_to_the_car(book)
    _join_in_line(book)
    _relays(book)
    _rewire(book)
    boxes = tuple(f"fix-{b.id}" for b in book.design.parts_of(Box))
    for part in book.design.parts:
        ties, fixed = _links_of(book, part), f"fix-{part.id}"
        if not isinstance(part, FIXED) or not ties:
            continue
        words = ["feed"] if f"lay-{part.id}" in book.steps else []
        loom = [k for k in ties if plays_over_the_loom(book.design, k)]
        words += ["the plugs of the factory amplifier"] if loom else []
        words += [WORDS[k.kind] for k in ties if k not in loom]
        grounds = (f"ground-{k.to_id}" for k in ties if isinstance(k, GroundLink))
        what, where = f"Connect {part.name}: {listed(list(dict.fromkeys(words)))}", part.position
        needs = (fixed, *_laid(book, part), *grounds, *boxes)
        book.add(f"join-{part.id}", Phase.JOIN, what, "join-part", needs, where.point if where is not None else None)
    for entry in book.results.charging:
        if entry.link.in_car:
            continue
        relay = book.design.part(entry.link.through_id or "")
        through = f" through {relay.name}" if relay is not None else ""
        lead = "; its ground lead to the body, not yet on its post" if entry.link.ground_point_id else ""
        needs = (f"fix-{entry.battery.id}", f"lay-{entry.link.id}", f"fix-fuse-{entry.link.id}-far",
                 *((f"fix-{relay.id}",) if relay is not None else ()))  # fmt: skip
        what = f"Connect {entry.battery.name}: charge cable{through}{lead}"
        book.add(f"join-{entry.battery.id}", Phase.JOIN, what, "join-part", needs, entry.battery.position.point)
    for name, amperes, fed in book.fused_anew_small:
        what = f"A fuse of {amperes:g} A into what holds it now, in the lead to {fed}"
        book.add(f"fuse-{name}", Phase.JOIN, what, "main-fuse", ("battery-off",))
    batteries = book.design.vehicle.supply.batteries
    starts = {k.from_id for k in book.design.new_links_of(PowerLink)}
    starts |= {k.from_id for k in book.design.new_links_of(ChargeLink)}
    rooted = [b for b in batteries if b.id in starts]
    if not rooted and any(not feed.part.in_car for feed in book.results.pack_feeds):
        rooted = [batteries[0]]
    if rooted:
        needs = ("battery-off", *book.of_phase(Phase.JOIN), *book.named("lay-", "old-", "fix-fuse-"))
        of = rooted[0].name if len(batteries) > 1 else "the battery"
        what = f"Ring on the positive post of {of}, the fuse out of its holder"
        if len(rooted) > 1:
            what = f"Rings on the positive posts of {listed([b.name for b in rooted])}, the fuses out of their holders"
        mind = ("The main fuse stays out",)
        book.add("join-post", Phase.JOIN, what, "join-post", needs, rooted[0].position.point, mind)


def _join_in_line(book: StepBook) -> None:
    """Nets, capacitors, coils, pads, resistors and isolators into the leads they belong in."""
    for piece in book.pieces:
        reached = ("off-radio", "table-harness") if piece.behind_radio else (f"off-{piece.at_id}",)
        laid = (f"lay-{k.id}" for k in book.design.links if k.id == piece.at_id or k.to_id in piece.speaker_ids)
        needs = (*reached, *laid, *(f"lay-{name}" for name in piece.speaker_ids), f"fix-{piece.at_id}")
        mind = ("It gets hot: on bare metal, clear of foam and loom",) if piece.hot else ()
        book.add(f"line-{piece.part.id}-{piece.at_id}", Phase.JOIN, piece.words, "join-in-line", needs, piece.where,
                 mind, part_ids=(piece.part.id,))  # fmt: skip


OPEN_LEADS = "The adapter's constant and switched leads stay open, each end insulated: the radio has feeds of its own"


def _fed_apart(book: StepBook) -> bool:
    """Whether a new radio on an adapter draws from feeds of its own, which the plug must not meet."""
    adapter = any(part.category == "adapter" for part in book.design.parts_of(Accessory))
    unit, plug = book.new_radio, book.design.vehicle.has_known_plug and not book.design.radio_hidden
    return plug and adapter and any(unit is not None and k.to_id == unit.id for k in book.design.links_of(FeedLink))


def _join_to_the_car(book: StepBook) -> None:
    """Adapters at whatever is tapped or changed, then joints at wires of the car's own."""
    vehicle, taps = book.design.vehicle, book.taps
    out = ("off-radio", "table-harness", *book.named("lay-"))
    plugged = [vehicle.source_of(c) for t in taps if t.method is Pickup.PLUG_ADAPTER for c in t.from_ids]
    behind, elsewhere = book.behind_radio, book.at_amplifier
    if behind:
        plugged = [vehicle.radio, *plugged]
    for source in {s.id: s for s in plugged}.values():
        name = "join-plug" if source is vehicle.radio else f"join-plug-{source.id}"
        those: Sequence[Accessory | HeadUnit] = behind
        if source is not vehicle.radio:
            those, elsewhere = elsewhere, []
        mind = (OPEN_LEADS,) if source is vehicle.radio and _fed_apart(book) else ()
        what = f"Adapters and plugs {at_its_plug(source)}{': ' if those else ''}{listed([part.name for part in those])}"
        book.add(name, Phase.JOIN, what, "join-plug", out, source.position.point, mind,
                 part_ids=tuple(p.id for p in those))  # fmt: skip
    for verdict in book.results.ledger:
        row = about(verdict.function.kind)
        own = any(p.category == row.get("own") for p in book.design.new_parts_of(Accessory))
        if verdict.taken_over and "by_hand" in row and not own:
            book.add(f"carry-{verdict.function.id}", Phase.JOIN, str(row["by_hand"]), "join-function", out,
                     vehicle.radio.position.point, (str(row["mind"]),))  # fmt: skip
    for part in book.design.new_parts_of(Accessory):
        if (lead := own_lead(part)) is not None:
            book.add(f"join-{part.id}", Phase.JOIN, f"{part.name}: {lead['join']}", "join-function",
                     (*out, f"fix-{part.id}", f"lay-knob-{part.id}"), vehicle.radio.position.point)  # fmt: skip
        elif part.category not in (*BEHIND_THE_RADIO, "consumables"):
            spot = part.position.point if part.position is not None else None
            book.add(f"join-plug-{part.id}", Phase.JOIN, f"{part.name} plugged in or fixed", "join-plug", out, spot,
                     part_ids=(part.id,))  # fmt: skip
    cut = [j for j in book.results.joints.to_make if j.cuts]
    if cut or book.results.joints.unmapped or any(t.method is Pickup.SPLICE for t in taps):
        wires = len(cut) or book.results.joints.unmapped or 1
        words, where_to = f"{count(wires, 'joint')} at the car's own wires", vehicle.radio.position.point
        spliced = [t for t in taps if t.method is Pickup.SPLICE]
        leads = [book.results.runs[t.id].points for t in spliced if t.place is TapPlace.LEADS]
        if leads and len(leads) == len(spliced) and leads[0]:
            where_to = leads[0][0]
        book.add("join-wires", Phase.JOIN, words, "join-wires", out, where_to, times=wires, one_shot=True)
