"""The order list: parts, fuses by size, holders, wire by metre, size and colour, rings, joints and sleeves, relays,
adapters.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator
from dataclasses import replace
from decimal import Decimal
from math import ceil
from typing import TYPE_CHECKING

from ohmack.core.build.cut_list import is_cut_from
from ohmack.core.build.fuses_there import holds_its_fuse
from ohmack.core.build.in_line import pieces_in_line
from ohmack.core.build.line_cables import lines_laid
from ohmack.core.build.lists import OWN_CABLE, SCREENED
from ohmack.core.build.plug_adapters import missing_adapters, unplugged_joints
from ohmack.core.build.sundries import kit_of, piece_price
from ohmack.core.document.links import (
    FeedLink,
    LineLink,
    RemoteLink,
    SpeakerLink,
)
from ohmack.core.document.outgoing import Goes
from ohmack.core.document.parts import Accessory, CableReel, FuseHolder, FuseLink, HeadUnit, PoweredSubwoofer
from ohmack.core.document.small_parts import SwitchingRelay
from ohmack.core.fit.clearances import ring_under
from ohmack.core.fit.far_ends import own_lead
from ohmack.core.physics.conductors import MATERIALS
from ohmack.core.physics.protection import family
from ohmack.core.record import record
from ohmack.core.signal.ways import inputs_fed, line_source, pair_name
from ohmack.core.supply.charging import FAMILY
from ohmack.core.supply.holders import without_place
from ohmack.core.wording import amount, count, listed, trimmed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

OWN_LINES = ("Parts", "Ties and loom")  # the groups of the order that have lines of their own in a quote
STEP_M = 0.5  # cable is sold by the half metre


@record
class OrderRow:
    """One line to order: how many or how much, of what, what for. `unknown` says why it cannot be ordered yet."""

    group: str
    amount: str
    what: str
    note: str = ""
    price: float | None = None
    state: str = ""  # wanted, ordered, here
    part_id: str = ""  # empty for wire, fuses and small parts, which stand together
    brought: bool = False  # by the customer
    unknown: str = ""


def order_list(results: Results) -> tuple[OrderRow, ...]:
    """Everything today's plan needs, part by part and metre by metre.

    Parameters:
        results: the evaluated sections of what is fitted now.

    Returns:
        rows in the order a shop buys them; one that cannot be ordered yet says why. Source: common practice.
    """
    rows = (
        _parts(results),
        _fuses(results),
        _holders(results),
        _wire(results),
        _ends(results),
        _ties(results),
        _joints(results),
        _adapters(results),
        _made_good(results),
    )
    together = results.design.work.materials.value
    return tuple(row if row.state else replace(row, state=together) for group in rows for row in group)


def _parts(results: Results) -> Iterator[OrderRow]:
    in_line = Counter(piece.part.id for piece in pieces_in_line(results))
    for part in results.design.parts:
        if part.in_car:
            continue
        days, whose = part.lead_days, "the customer's own" if part.by_customer else ""
        note = ", ".join(word for word in (part.maker, f"{days} days" if days else "", whose) if word)
        single = getattr(part, "pieces", None) is None  # no pack: one for every place it goes into
        many = str(in_line[part.id]) if single and in_line[part.id] else "1"
        price = None if part.by_customer else part.price
        yield OrderRow("Parts", many, part.name, note, price, part.stands.value, part.id, part.by_customer)


def _fuses(results: Results) -> Iterator[OrderRow]:
    wanted: Counter[tuple[str, float]] = Counter()
    for supply in results.supplies:
        if supply.link.fuse is None or holds_its_fuse(supply.link):
            continue
        rating = supply.figures["fuse"].value
        if rating is None:
            many = str(supply.link.fuse_count)
            yield OrderRow("Fuses", many, "Main fuse", f"for {supply.part.name}", unknown="its size is not known yet")
        else:
            wanted[supply.family, rating] += supply.link.fuse_count
    for feed in results.feeds:
        if feed.link.fuse is not None and feed.fuse.value is not None and not holds_its_fuse(feed.link):
            wanted["blade", feed.fuse.value] += 1
    for pack in results.pack_feeds:
        if pack.fuse.value is not None and not pack.part.in_car:
            wanted[pack.family, pack.fuse.value] += 1
    for part in results.design.new_parts_of(Accessory):
        if (row := own_lead(part)) is not None and "fuse_a" in row:
            wanted["blade", float(row["fuse_a"])] += 1
    for entry in results.charging:
        if holds_its_fuse(entry.link):
            continue
        rating = entry.figures["fuse"].value if entry.figures else None
        if rating is None:
            yield OrderRow(
                "Fuses", "2", "Fuse", f"charge cable of {entry.battery.name}", unknown="its size is not known"
            )
        else:
            wanted[FAMILY, rating] += (entry.link.fuse is not None) + entry.link.far_fuse
    for kind, rating in sorted(wanted):
        if rating not in family(kind).ratings_a:
            what = f"{family(kind).title} {trimmed(rating)} A"
            yield OrderRow("Fuses", str(wanted.pop((kind, rating))), what, unknown="no such size is made: see Supply")
    bought: dict[tuple[str, float], int] = {(f.family, f.rating_a): f.pieces for f in results.design.parts_of(FuseLink)}
    for (kind, rating), number in sorted(wanted.items()):
        more = number - bought.get((kind, rating), 0)
        if more > 0:
            yield OrderRow(
                "Fuses", str(more), f"{family(kind).title} {trimmed(rating)} A", "and one spare",
                (more + 1) * piece_price(kind),
            )  # fmt: skip


def _holders(results: Results) -> Iterator[OrderRow]:
    held = {h.id for h in results.design.parts_of(FuseHolder)}
    for supply in results.supplies:
        lacking = 0 if supply.link.in_car else without_place(results.design, supply.link)
        if lacking:
            wire = supply.figures["wire"].value
            size = wire.partition(" × ")[0] if wire and supply.link.fuse_each else wire
            yield OrderRow(
                "Fuses",
                str(lacking),
                f"Holder for a {family(supply.family).title.lower()} fuse",
                f"for {supply.part.name}, takes {size or 'its wire'}",
                lacking * piece_price(f"holder_{supply.family}"),
            )
    for entry in results.charging:
        ends = (entry.link.fuse is not None) + entry.link.far_fuse
        if ends and entry.wire is not None and not entry.link.in_car:
            note = f"charge cable of {entry.battery.name}, takes {entry.wire.label}"
            price = ends * piece_price(f"holder_{FAMILY}")
            yield OrderRow("Fuses", str(ends), f"Holder for a {family(FAMILY).title.lower()} fuse", note, price)
    taken = {getattr(getattr(link, "fuse", None), "holder_id", None) for link in results.design.links}
    spare = Counter[str]()
    for holder in results.design.new_parts_of(FuseHolder):
        spare[holder.family] += holder.circuits if holder.id not in taken else 0
    for pack in (feed for feed in results.pack_feeds if not feed.part.in_car):
        spare[pack.family] -= 1
        if pack.fuse.value is not None and spare[pack.family] < 0:
            note = f"at the pack, for {pack.part.name}, takes {pack.wire.value or 'its wire'}"
            what = f"Holder for a {family(pack.family).title.lower()} fuse"
            yield OrderRow("Fuses", "1", what, note, piece_price(f"holder_{pack.family}"))
    new = [feed for feed in results.feeds if not feed.link.in_car]
    loose = [feed for feed in new if feed.link.fuse is not None and feed.link.fuse.holder_id not in held]
    names = [feed.part.name for feed in loose]
    names += [part.name for part in results.design.new_parts_of(Accessory) if "fuse_a" in (own_lead(part) or {})]
    if names:
        yield OrderRow(
            "Fuses",
            str(len(names)),
            "In-line blade holder or add-a-fuse",
            f"for {listed(names)}",
            len(names) * piece_price("holder_blade"),
        )


def _wire(results: Results) -> Iterator[OrderRow]:
    metres: dict[tuple[str, str, str], float] = {}
    uses: dict[tuple[str, str, str], list[str]] = {}
    cut_as: dict[tuple[str, str, str], tuple[str, bool]] = {}
    links = {link.id: link for link in results.design.links}
    ready = {row.link_id for _, row in lines_laid(results).laid}
    for row in results.wire_rows:
        label = f"{row.purpose} to {row.end}"
        if row.size == OWN_CABLE or row.in_car or (row.size == SCREENED and row.link_id in ready):
            continue
        if not row.size or row.length_m is None:
            lacks = "its size is not known yet" if not row.size else "its length is not known yet"
            yield OrderRow("Wire", "?", row.size or "Wire", label, unknown=lacks)
            continue
        if row.size == SCREENED:
            costs = row.length_m * piece_price("line_lead_m")
            yield OrderRow("Wire", _metres(results, row.length_m), "Screened line cable, a pair", label, costs)
            continue
        size, _, times = row.size.partition(" × ")
        link = links.get(row.link_id)
        made_of = MATERIALS[link.wire.material] if link is not None else "copper"
        pair = isinstance(link, SpeakerLink)
        colour = f"{row.colour} pair" if pair else row.colour
        key = (f"{size}{'' if made_of == 'copper' else f', {made_of}'}", colour, row.purpose if pair else "")
        cut_as[key] = (size, row.clad)
        metres[key] = metres.get(key, 0.0) + row.length_m * (int(times) if times else 1)
        uses.setdefault(key, []).append(row.purpose.lower())
    left_m = metres | {}
    for reel in sorted(results.design.parts_of(CableReel), key=lambda reel: not reel.colour):
        on_reel_m = reel.on_reel_m
        for key in metres:
            if is_cut_from(reel, *cut_as[key], key[1], {colour for _, colour, _ in metres}):
                taken_m = min(on_reel_m, left_m[key])  # one of a colour first, then one of none
                on_reel_m, left_m[key] = on_reel_m - taken_m, left_m[key] - taken_m
    for (size, colour, purpose), length_m in left_m.items():
        if length_m > 0:
            note = f"{listed(list(dict.fromkeys(uses[size, colour, purpose])))}"
            yield OrderRow("Wire", _metres(results, length_m), f"{size}, {colour}", note)


def _metres(results: Results, length_m: float) -> str:
    """How much wire to order: the next half metre, or the next foot."""
    if results.design.policy.length_unit == "ft":
        return f"{ceil(length_m / FOOT_M - 1e-9):g} ft"
    return f"{ceil(length_m / STEP_M - 1e-9) * STEP_M:g} m"


FOOT_M = 0.3048


def _ends(results: Results) -> Iterator[OrderRow]:
    """Ring terminals at posts and ground points, by wire size."""
    rings: Counter[str] = Counter()
    posts = {battery.id for battery in results.design.vehicle.supply.batteries}
    for supply in results.supplies:
        if supply.figures["wire"].value and supply.link.from_id in posts and not supply.link.in_car:
            rings[str(supply.figures["wire"].value)] += 1  # a block and a voltage converter take the bare wire
        points = {g.id for g in results.design.vehicle.ground_points}
        lead = supply.ground
        if lead is not None and not lead.in_car and supply.figures["ground"].value and lead.to_id in points:
            rings[str(supply.figures["ground"].value)] += 1
    for feed in results.feeds:
        if feed.link.ground_point_id and not feed.link.in_car:
            rings[feed.wire.label] += 1
    for pack in results.pack_feeds:
        if pack.wire.value and not pack.part.in_car:
            rings[str(pack.wire.value)] += 2  # both poles
    for entry in results.charging:
        if entry.wire is not None and not entry.link.in_car:  # both posts, and the ground lead's two ends
            rings[entry.wire.label] += 2 + 2 * (entry.link.ground_point_id is not None)
    kit = kit_of(results.design)
    for label, number in rings.items():
        size, _, leads = label.partition(" × ")  # every lead has a ring of its own
        pieces = number * int(leads or 1)
        note = f"out of {kit}, if it has them" if kit else "with sleeve; hole to suit post or bolt"
        price = 0.0 if kit else pieces * piece_price("ring")
        yield OrderRow("Rings", str(pieces), f"Ring terminal for {size}", note, price)


def _ties(results: Results) -> Iterator[OrderRow]:
    """Ties, loom, tape and grommets, by the pack they are sold in."""
    for row in results.sundries:
        unit = results.design.policy.length_unit
        by_length = row.unit == "m"
        if row.kit:
            amount_of = amount(row.used, "m", unit) if by_length else trimmed(row.used)
            yield OrderRow("Ties and loom", amount_of, row.what, f"out of {row.kit}, if it has them", 0.0)
            continue
        used = f"{amount(row.used, 'm', unit) if by_length else trimmed(row.used)} used"
        holds = amount(float(row.pack), "m", unit) if by_length and unit != "m" else f"{row.pack}{' m' * by_length}"
        packs = f"{row.packs} × {row.packed} of {holds}" if row.packed else str(row.packs)
        yield OrderRow("Ties and loom", packs, row.what, used, float(row.price))


def small_price(results: Results) -> Decimal:
    """What fuses, holders, rings, line leads and small parts cost; what nobody knows the size of is not in it."""
    rows = (row for row in results.order if row.group not in OWN_LINES and row.price is not None)
    return sum((Decimal(str(row.price)) for row in rows), Decimal(0))


def _joints(results: Results) -> Iterator[OrderRow]:
    table = results.joints
    if in_line := sum(piece.joints for piece in pieces_in_line(results)):
        what, note = "Joint in a speaker's lead, with its sleeve", "at what is put in line"
        yield OrderRow("Ends and joints", str(in_line), what, note, in_line * piece_price("joint"))
    if table.unmapped:
        what, note = "Joint at a wire of the car's own, with its sleeve", "of which kind, the pin map says"
        yield OrderRow("Ends and joints", str(table.unmapped), what, note, table.unmapped * piece_price("joint"))
    methods = Counter(joint.method.value for joint in table.to_make if joint.cuts)
    for method, number in methods.items():
        yield OrderRow("Ends and joints", str(number), method[0].upper() + method[1:], "joints at the factory loom")
    tubes = Counter(joint.shrink_mm for joint in table.to_make if joint.shrink_mm is not None)
    for mm, number in sorted(tubes.items()):
        yield OrderRow("Ends and joints", str(number), f"Heat-shrink sleeve {trimmed(mm)} mm", "two to one, 40 mm each")
    ferrules = Counter(joint.ferrule_mm2 for joint in table.to_make if joint.ferrule_mm2 is not None)
    for area, number in sorted(ferrules.items()):
        yield OrderRow("Ends and joints", str(number), f"Ferrule {trimmed(area)} mm²", "for screw locks")


def _made_good(results: Results) -> Iterator[OrderRow]:
    """What is used up where something comes out."""
    going = results.design.coming_out
    joints, holes = sum(one.splices for one in going), sum(one.goes is Goes.HOLE for one in going)
    ends = 2 * sum(one.goes is Goes.CABLE and one.stays for one in going)
    for number, what, note, piece in (
        (joints, "Butt splice with adhesive sleeve", "where the car's own wires are joined again", "joint"),
        (holes, "Blind plug, with primer and sealer", "where a hole is closed", "blind_plug"),
        (ends, "End cap with adhesive sleeve", "at cables that stay", "end_cap"),
    ):
        if number:
            yield OrderRow("Ends and joints", str(number), what, note, number * piece_price(piece))


def _relays(results: Results) -> Iterator[OrderRow]:
    """Relays in switch-on wires and between a feed of 24 V and what it switches, besides those among the parts."""
    design = results.design
    through = {k.from_id for k in design.new_links_of(RemoteLink) if k.relay}
    relays = [source.source_name for source in results.switch_ons if source.source_id in through]
    fed = {link.from_id for link in design.new_links_of(FeedLink)}
    relays += [feed.name for feed in design.vehicle.feeds if feed.relay_on_id and feed.id in fed]
    short = len(relays) - sum(1 for _ in design.new_parts_of(SwitchingRelay))
    if short > 0:
        coil = f", coil for {design.vehicle.supply.system.value}" if design.vehicle.above_12_v else ""
        what = f"Small automotive relay with socket{coil}"
        yield OrderRow("Adapters", str(short), what, f"switch-on by {listed(relays)}", short * piece_price("relay"))


def _adapters(results: Results) -> Iterator[OrderRow]:
    design = results.design
    for name in dict.fromkeys(name for _, name in missing_adapters(results)):
        yield OrderRow(
            "Adapters",
            "1",
            "Plug adapter for the radio's plug",
            f"signal pickup of {name}",
            unknown="none is among the parts: choose the one for this car",
        )
    for name in dict.fromkeys(joint.unit for joint in unplugged_joints(results)):
        yield OrderRow("Adapters", "1", "Plug adapter for the radio's plug", f"leads of {name}",
                       unknown="none is among the parts: choose the one for this car")  # fmt: skip
    pairs: dict[tuple[str, int], list[int]] = {}
    for line in design.new_links_of(LineLink):
        pairs.setdefault((line.from_id, line.pair), []).append(inputs_fed(design, line))
    by_sides = {(line.from_id, line.pair) for line in design.new_links_of(LineLink) if line.by_sides}
    for (name, pair), inputs in pairs.items():
        if (number := sum(inputs)) > 1:  # the same pair into several inputs
            source = line_source(design, name)
            joined = (
                "; none where its input switch joins them"
                if inputs == [number] and (name, pair) not in by_sides
                else ""
            )
            what = f"{source.name}, {pair_name(source, pair)}, into {number} inputs{joined}"
            yield OrderRow(
                "Adapters", str(number - 1), "Y lead for an RCA pair", what, (number - 1) * piece_price("y_lead")
            )
    if design.intake.reversible:
        for sub in design.new_parts_of(PoweredSubwoofer):
            fuse = f"{trimmed(sub.fuse_a)} A or more, for its wire"
            yield OrderRow(
                "Adapters", "1", "Two-pole power connector", f"at {sub.name}, {fuse}", piece_price("two_pole")
            )
    yield from _relays(results)
    for speaker in design.vehicle.speakers:
        ring_mm = speaker.adapter_ring_mm.value if ring_under(design, speaker) is None else None
        if ring_mm and any(d.driver and not d.driver.in_car for d in results.drives if d.speaker is speaker):
            what, costs = f"Adapter ring {trimmed(ring_mm)} mm", piece_price("adapter_ring")
            yield OrderRow("Adapters", "1", what, speaker.name, costs)
    if any(design.new_parts_of(HeadUnit)):
        yield OrderRow(
            "Adapters",
            "1",
            "Trim surround for the new radio",
            "for this model year",
            piece_price("trim_surround"),
            unknown="hold it against the dash first",
        )


def order_words(rows: Iterable[OrderRow]) -> str:
    """How much there is to order, in words."""
    rows = list(rows)
    wanted = [row for row in rows if row.state == "wanted" and not row.brought]
    if not wanted:
        to_come = sum(row.state != "here" for row in rows)
        return f"{count(to_come, 'line')} to come, nothing to order" if to_come else "everything is here"
    unknown = sum(bool(row.unknown) for row in wanted)
    return f"{count(len(wanted), 'line')} to order" + (f", {unknown} not decided yet" if unknown else "")
