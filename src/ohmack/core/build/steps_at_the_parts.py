"""Steps at the new parts: prepared on the table, fixed in their places, joined to what leads to them."""

from __future__ import annotations

from ohmack.core.build.step_book import StepBook
from ohmack.core.build.steps import Phase
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.boxed import boxed
from ohmack.core.document.boxes import Box
from ohmack.core.document.links import GroundLink, Link, Pickup, PowerLink, TapLink, TapPlace
from ohmack.core.document.part import PartBase
from ohmack.core.document.parts import (
    ChargingRelay,
    Converter,
    DistributionBlock,
    HeadUnit,
    PoweredSubwoofer,
    StiffeningCapacitor,
    VoltageConverter,
)
from ohmack.core.wording import count, listed

HEAVY_KG = 20.0  # from here two carry it, common practice
FIXED = (Amplifier, Converter, PoweredSubwoofer, DistributionBlock, StiffeningCapacitor, ChargingRelay,
         VoltageConverter)  # fmt: skip
WORDS = {
    "power": "power", "ground": "ground", "speaker": "speakers", "tap": "signal", "line": "RCA", "remote": "switch-on",
    "feed": "feed", "charge": "charge cable", "capacitor": "capacitor",
}  # fmt: skip


def on_the_table(book: StepBook) -> None:
    """What is done before the car comes."""
    for box, subs in ((box, subs) for box, subs in boxed(book.design) if subs):
        names = listed([s.name for s in subs])
        words = f"{names} into {box.name}, coils as planned; a cell moves the cone out"
        parts = (box.id, *(s.id for s in subs))
        book.add(f"table-box-{box.id}", Phase.TABLE, words, "box", part_ids=parts)
    joints = book.results.joints.joints
    if joints and any(book.design.parts_of(HeadUnit)):
        words = f"The new radio's leads: {count(len(joints), 'joint')}"
        book.add("table-harness", Phase.TABLE, words, "harness")
    if rows := book.results.wire_rows:
        words = f"Cut and label {count(len(rows), 'cable')} by the wire list, both ends"
        book.add("cut-cables", Phase.TABLE, words, "cut-cables")


def _links_of(book: StepBook, part: PartBase) -> list[Link]:
    """The links that begin or end at a part."""
    return [k for k in book.design.links if part.id in (k.to_id, getattr(k, "from_id", ""))]


def _laid(book: StepBook, part: PartBase) -> tuple[str, ...]:
    """The steps that lay what leads to a part."""
    return (f"lay-{part.id}", *(f"lay-{k.id}" for k in _links_of(book, part)))


def _hands(mass_kg: float | None) -> int:
    return 2 if mass_kg is not None and mass_kg >= HEAVY_KG else 0


def fix(book: StepBook) -> None:
    """Parts, drivers and boxes in their places."""
    for part in book.design.parts:
        if isinstance(part, FIXED):
            where = part.position.point if part.position is not None else None
            needs, hands = (*book.taken, *_laid(book, part)), _hands(getattr(part, "mass_kg", None))
            book.add(f"fix-{part.id}", Phase.FIT, f"Fix {part.name}", "fix-part", needs, where, people=hands,
                     part_ids=(part.id,))  # fmt: skip
    for speaker, name in book.swaps:
        what, needs = f"{name} into {speaker.name}; its terminals clear of metal", (f"off-{speaker.id}",)
        parts = tuple(d.driver.id for d in book.results.drives if d.speaker is speaker and d.driver is not None)
        book.add(f"fix-{speaker.id}", Phase.FIT, what, "fix-speaker", needs, speaker.position.point, part_ids=parts)
    mind = ("Bolt or strap it, never to belt points; child-seat anchors stay free",)
    for box in book.design.parts_of(Box):
        where = box.position.point if box.position is not None else None
        needs, what = (f"table-box-{box.id}", *book.taken, *book.named("lay-")), f"{box.name} in its place, strapped"
        hands = _hands(HEAVY_KG if box.mass_kg is None else box.mass_kg)
        book.add(f"fix-{box.id}", Phase.FIT, f"{what} or bolted", "fix-box", needs, where, mind, people=hands,
                 part_ids=(box.id,))  # fmt: skip


def join(book: StepBook) -> None:
    """Plugs, joints at the car's own wires, the terminals of every part, and the post last."""
    _join_to_the_car(book)
    boxes = tuple(f"fix-{b.id}" for b in book.design.parts_of(Box))
    for part in book.design.parts:
        ties, fixed = _links_of(book, part), f"fix-{part.id}"
        if fixed not in book.steps or not ties or isinstance(part, Box):
            continue
        words = ["feed"] if f"lay-{part.id}" in book.steps else []
        words += [WORDS[k.kind] for k in ties]
        grounds = (f"ground-{k.to_id}" for k in ties if isinstance(k, GroundLink))
        what, where = f"Connect {part.name}: {listed(list(dict.fromkeys(words)))}", part.position
        needs = (fixed, *_laid(book, part), *grounds, *boxes)
        book.add(f"join-{part.id}", Phase.JOIN, what, "join-part", needs, where.point if where is not None else None)
    batteries = book.design.vehicle.supply.batteries
    rooted = {b.id for b in batteries}
    if book.results.pack_feeds or any(k.from_id in rooted for k in book.design.links_of(PowerLink)):
        needs = ("battery-off", *book.of_phase(Phase.JOIN), *book.named("lay-"))
        what, mind = "Ring on the battery's positive post, the fuse out of its holder", ("The main fuse stays out",)
        book.add("join-post", Phase.JOIN, what, "join-post", needs, batteries[0].position.point, mind)


def _join_to_the_car(book: StepBook) -> None:
    """Adapters at whatever is tapped or changed, then joints at wires of the car's own."""
    vehicle, taps = book.design.vehicle, list(book.design.links_of(TapLink))
    out = ("off-radio", "table-harness", *book.named("lay-"))
    plugged = [vehicle.source_of(c) for t in taps if t.method is Pickup.PLUG_ADAPTER for c in t.from_ids]
    if any(book.design.parts_of(HeadUnit)):
        plugged = [vehicle.radio, *plugged]
    for source in {s.id: s for s in plugged}.values():
        name, where = ("join-plug", "behind the radio") if source is vehicle.radio else (
            f"join-plug-{source.id}", f"at {source.name}"
        )  # fmt: skip
        book.add(name, Phase.JOIN, f"Adapters and plugs {where}", "join-plug", out, source.position.point)
    cut = [j for j in book.results.joints.joints if j.cuts]
    if cut or book.results.joints.unmapped or any(t.method is Pickup.SPLICE for t in taps):
        wires = len(cut) or book.results.joints.unmapped or 1
        words, where_to = f"{count(wires, 'joint')} at the car's own wires", vehicle.radio.position.point
        spliced = [t for t in taps if t.method is Pickup.SPLICE]
        leads = [book.results.runs[t.id].points for t in spliced if t.place is TapPlace.LEADS]
        if leads and len(leads) == len(spliced) and leads[0]:
            where_to = leads[0][0]
        book.add("join-wires", Phase.JOIN, words, "join-wires", out, where_to, times=wires, one_shot=True)
