"""Wires no link of the plan stands for: of new speaker places, of knobs, of a screen on the old radio's input, of a
converter at its pack, of a pickup at more than one speaker, of a camera, a microphone or an aerial.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from ohmack.core.build.lists import COLOUR, OWN_CABLE, PURPOSE, SCREENED, FuseRow, WireRow
from ohmack.core.document import Basis, Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.factory import Module, Radio
from ohmack.core.document.handles import at
from ohmack.core.document.links import SpeakerLink, TapLink
from ohmack.core.document.parts import Accessory, Driver, HeadUnit, PoweredSubwoofer
from ohmack.core.document.vehicle import Speaker, SpeakerPlace
from ohmack.core.figures.figure import Book, Figure
from ohmack.core.fit.far_ends import own_lead
from ohmack.core.fit.runs import down_the_sill, leads_of, place_of, plays_over_the_loom, straight, tapped_at, up_to
from ohmack.core.loads.corners import corner_of
from ohmack.core.loads.drivers import net_of
from ohmack.core.physics.conductors import conductor
from ohmack.core.physics.geometry import Point
from ohmack.core.physics.protection import family
from ohmack.core.reference import table
from ohmack.core.supply.pack_feed import PackFeed
from ohmack.core.supply.small_circuits import small_wire


def unlinked_wires(book: Book, pack: Iterable[PackFeed]) -> list[WireRow]:
    """Every such wire, as the wire list shows it.

    Parameters:
        book: the book of the design.
        pack: the feeds of its voltage converters.

    Returns:
        rows; one without a length cannot be cut yet.
    """
    places = (row for row, _ in new_places(book))
    return [
        *places,
        *_other_leads(book),
        *_knobs(book),
        *_own_leads(book),
        *_into_old_radio(book.design),
        *(_pack_row(feed) for feed in pack),
    ]


def _own_leads(book: Book) -> Iterator[WireRow]:
    """The leads of cameras, microphones and aerials of the radio's own, which come with them, as far as the dash."""
    vehicle = book.design.vehicle
    for part in book.design.parts:
        row = own_lead(part)
        if row is None:
            continue
        words = f"{part.name}, its lead"
        to = vehicle.radio.position
        length = straight(book, f"{part.id}/lead_m", part.position, to, at(part), words, along_sill=True)
        way = down_the_sill(vehicle, part.position.point, to.point) if part.position is not None else ()
        yield WireRow(part.id, row["lead"], part.name, "the new radio", OWN_CABLE, length.value, Basis.ASSUMED.word, "",
                      row["note"], way, in_car=part.in_car)  # fmt: skip


def own_fuses(design: Design) -> list[FuseRow]:
    """The fuse of every new camera where it takes its plus."""
    new = design.new_parts_of(Accessory)
    fused = ((part, row["fuse_a"]) for part in new if (row := own_lead(part)) and "fuse_a" in row)
    return [FuseRow("At the reversing lamp", family("blade").title, amps, part.name, None) for part, amps in fused]


def pack_fuses(pack: Iterable[PackFeed]) -> list[FuseRow]:
    """The fuse of every voltage converter at its pack."""
    return [
        FuseRow(
            f"At {feed.battery.name}, plus of the whole pack",
            family(feed.family).title if feed.family else "none on file",
            feed.fuse.value,
            f"{feed.wire.value} to {feed.part.name}",
            None,
        )
        for feed in pack
    ]


def _pack_row(feed: PackFeed) -> WireRow:
    size = f"{feed.wire.value} × 2" if feed.wire.value else ""
    return WireRow(
        feed.part.id, PURPOSE["feed"], f"{feed.battery.name}, both poles of the whole pack", feed.part.name, size,
        feed.length.value, Basis.ASSUMED.word, COLOUR["capacitor"], "never from part of the pack",
        in_car=feed.part.in_car,
    )  # fmt: skip


def _into_old_radio(design: Design) -> Iterator[WireRow]:
    """The line lead of a screen that plays through the radio it covers."""
    unit = next(design.parts_of(HeadUnit), None)
    if unit is not None and design.radio_hidden:
        yield WireRow(
            unit.id, PURPOSE["line"], unit.name, f"{design.vehicle.radio.name}, its free input", SCREENED, None,
            Basis.ASSUMED.word, "", "as far as the old radio is hidden away; set its volume once and leave it",
            in_car=unit.in_car,
        )  # fmt: skip


def new_places(book: Book) -> Iterator[tuple[WireRow, Figure]]:
    """The cables of new speaker places that the radio or a factory amplifier drives, and how long each is: from its
    plug, or, in series, to the speaker before.
    """
    design = book.design
    amplified = {link.to_id for link in design.links_of(SpeakerLink)}
    colours = dict(table("harness", "speaker_leads")["rows"])
    size = conductor(NEW_PLACE_SIZE[design.policy.wire_system]).label
    done: set[str] = set()
    unit = next(design.parts_of(HeadUnit), None)
    new = {name for part in design.parts_of(Driver) for name in part.at_ids}
    there = {name for part in design.parts_of(Driver) if part.in_car for name in part.at_ids}
    for speaker in design.vehicle.speakers:
        bare = unit is not None and not design.vehicle.has_known_plug and speaker.id in new
        if not (speaker.new_place or bare) or speaker.channel_id is None or speaker.id in amplified:
            continue
        source = design.vehicle.source_of(speaker.channel_id)
        channel = next(c for c in source.channels if c.id == speaker.channel_id)
        partner = next((s for s in design.vehicle.speakers if s.id == speaker.paired_with_id and s.id in done), None)
        start, place = (
            (partner.name, partner.position)
            if partner is not None
            else (f"{_end_of(design, source, unit, speaker.id)}, {channel.name.lower()} pair", source.position)
        )
        done.add(speaker.id)
        length = straight(
            book, f"{speaker.id}/cable_m", place, speaker.position, at(speaker), f"Cable to {speaker.name}",
            rises=partner is None, up=up_to(design, speaker.id) if partner is None else None, along_sill=True,
        )  # fmt: skip
        base = colours[corner_of(design, speaker.id).value]
        series = any(s.pairing == "series" and s.paired_with_id for s in (speaker, partner) if s is not None)
        joined = f"in {'series' if series else 'parallel'} with it" if partner is not None else "pair"
        seat = "; slack for the seat's travel" if speaker.place is SpeakerPlace.HEADREST else ""
        row = WireRow(
            speaker.id, PURPOSE["speaker"], start, speaker.name, size, length.value, Basis.ASSUMED.word,
            f"{base}, {base}/black", f"{joined}; the striped one is minus{seat}",
            down_the_sill(design.vehicle, place.point, speaker.position.point), in_car=speaker.id in there,
        )  # fmt: skip
        yield row, length


def _end_of(design: Design, source: Radio | Module, unit: HeadUnit | None, place_id: str) -> str:
    """Where the cable of a pair begins: at a crossover net in it, at the works' plug, or at the new radio's leads."""
    if (net := net_of(design, place_id)) is not None:
        return net.name
    own = unit is not None and source is design.vehicle.radio and not design.vehicle.has_known_plug
    return f"{unit.name}, its leads" if unit is not None and own else f"{source.name}'s plug"


NEW_PLACE_SIZE = {"AWG": "18 AWG", "mm2": "0.75 mm2"}  # for some 20 W of a radio, common practice


def other_leads(book: Book, tap: TapLink) -> Iterator[tuple[tuple[Speaker, ...], Figure]]:
    """The speakers a pickup at the speakers' leads meets elsewhere than where its own run begins, and how long the
    leads from there are.
    """
    if plays_over_the_loom(book.design, tap):
        return
    part, place = book.design.part(tap.to_id), place_of(book.design, tap.to_id)
    if part is None:
        return
    for speakers in tapped_at(book.design, tap)[1:]:
        here = speakers[0]
        name = f"Leads from {here.name} to {part.name}"
        yield speakers, straight(book, f"{tap.id}/{here.id}/length_m", place, here.position, at(part), name,
                                 along_sill=True)  # fmt: skip


def _other_leads(book: Book) -> Iterator[WireRow]:
    for tap in book.design.links_of(TapLink):
        part, place = book.design.part(tap.to_id), place_of(book.design, tap.to_id)
        for speakers, length in other_leads(book, tap):
            here = speakers[0]
            way: tuple[Point, ...] = ()
            if place is not None:
                way = down_the_sill(book.design.vehicle, place.point, here.position.point)[::-1]
            yield WireRow(
                here.id, PURPOSE["tap"], leads_of(here), part.name if part else "",
                f"{small_wire(book.design, tap).label} × {2 * len(speakers)}", length.value, Basis.ASSUMED.word,
                COLOUR["tap"], tap.method.value, way, in_car=tap.in_car,
            )  # fmt: skip


def _knobs(book: Book) -> Iterator[WireRow]:
    """The cables of bass knobs, which come with them, as far as the dash."""
    radio = book.design.vehicle.radio
    for part in book.design.parts:
        if not isinstance(part, (Amplifier, PoweredSubwoofer)) or not part.bass_knob:
            continue
        name = f"{part.name}, its knob's cable"
        length = straight(book, f"{part.id}/knob_m", part.position, radio.position, at(part), name, along_sill=True)
        note, basis = "within the driver's reach; comes with it", Basis.ASSUMED.word
        way: tuple[Point, ...] = ()
        if part.position is not None:
            way = down_the_sill(book.design.vehicle, part.position.point, radio.position.point)
        yield WireRow(part.id, "Bass knob", part.name, "the dash", OWN_CABLE, length.value, basis, "", note, way,
                      in_car=part.in_car)  # fmt: skip
