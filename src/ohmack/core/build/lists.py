"""What goes on paper: cost, wire list, fuse list."""

from __future__ import annotations

from collections.abc import Iterable

from ohmack.core.document import Basis, Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.handles import at
from ohmack.core.document.links import (
    CapacitorLink,
    ChargeLink,
    FeedLink,
    GroundLink,
    LineLink,
    Link,
    PowerLink,
    SpeakerLink,
    TapLink,
)
from ohmack.core.document.parts import PoweredSubwoofer
from ohmack.core.document.vehicle import GroundPoint
from ohmack.core.figures.figure import Book, Figure
from ohmack.core.fit.runs import Run, over_loom_from, pairs_in_run, plays_over_the_loom, straight
from ohmack.core.loads.corners import corner_of
from ohmack.core.physics.conductors import CCA
from ohmack.core.physics.geometry import Point
from ohmack.core.physics.protection import family
from ohmack.core.record import record
from ohmack.core.reference import table
from ohmack.core.signal.ways import pair_words
from ohmack.core.supply.charging import FAMILY, Charging
from ohmack.core.supply.feed_return import feed_ground_length, feed_ground_point
from ohmack.core.supply.results import SupplyResult, fuse_words
from ohmack.core.supply.small_circuits import ConverterFeed, SpeakerCable, small_wire
from ohmack.core.supply.stiffening import Stiffening

SCREENED = "screened"  # the size of a line cable
PURPOSE = {
    "power": "Power", "ground": "Ground", "speaker": "Speaker", "tap": "Signal tap", "line": "Line level",
    "remote": "Remote turn-on", "feed": "Feed", "charge": "Charge cable", "capacitor": "Capacitor, plus and minus",
}  # fmt: skip
COLOUR = {
    "power": "red", "charge": "red", "capacitor": "red, black", "ground": "black", "remote": "blue", "feed": "yellow",
    "tap": "violet",
}  # fmt: skip


@record
class WireRow:
    """One line of the wire list."""

    link_id: str
    purpose: str
    start: str
    end: str
    size: str
    length_m: float | None
    length_basis: str
    colour: str
    note: str
    points: tuple[Point, ...] = ()  # its way on the plan, where no link stands for it and both its ends have a place
    in_car: bool = False  # whether it was laid before this job
    clad: bool = False  # of copper-clad aluminium, which no reel of copper is good for, nor the other way round


@record
class FuseRow:
    """One line of the fuse list."""

    place: str
    family: str
    rating_a: float | None
    protects: str
    from_source_m: float | None


def insulation(design: Design, link: Link) -> str:
    """The insulation colours of a link: as stated, or the trade's usual ones, a speaker pair by its corner with the
    striped one negative; "" for screened line cable.
    """
    if link.wire.colour:
        return link.wire.colour
    if isinstance(link, SpeakerLink):
        base = dict(table("harness", "speaker_leads")["rows"])[corner_of(design, link.to_id).value]
        return f"{base}, {base}/black"
    return COLOUR.get(link.kind, "")


def wire_list(
    book: Book,
    runs: dict[str, Run],
    supplies: Iterable[SupplyResult],
    cables: Iterable[SpeakerCable],
    charging: Iterable[Charging] = (),
    stiffening: Iterable[Stiffening] = (),
    feeds: Iterable[ConverterFeed] = (),
) -> list[WireRow]:
    """Every wire to cut, in the order of the links."""
    fed = {f.link.id: f.wire for f in feeds}
    steadied = {entry.link.id: entry.wire for entry in stiffening if entry.link}
    charged = {c.link.id: c for c in charging}
    power = {s.link.id: s for s in supplies}
    grounds = {s.ground.id: s for s in power.values() if s.ground}
    speakers = {c.link.id: c for c in cables}
    rows = []
    for link in book.design.links:
        if plays_over_the_loom(book.design, link):
            continue
        over = over_loom_from(book.design, link) if isinstance(link, SpeakerLink) else None
        run = runs[link.id]
        note = ""
        match link:
            case PowerLink():
                supply = power.get(link.id)
                size = str(supply.figures["wire"].value or "") if supply else ""
                note = fuse_words(supply, book.design.policy.length_unit) if supply else ""
                if book.design.intake.reversible and isinstance(book.design.part(link.to_id), PoweredSubwoofer):
                    note += "; two-pole connector at the subwoofer, so that it comes out without cutting"
            case GroundLink():
                supply = grounds.get(link.id)
                size = str(supply.figures["ground"].value or "") if supply else ""
                note = "bare metal, star washer, ring"
            case SpeakerLink():
                size = speakers[link.id].wire.label if link.id in speakers else ""
                note = f"{_output_words(book.design, link)}; the striped one is minus"
                if over is not None:
                    note += f"; joined to the factory wire of {_speaker_name(book.design, link)}"
            case ChargeLink():
                wire = charged[link.id].wire
                size, note = wire.label if wire else "", _charge_words(charged[link.id])
            case CapacitorLink():
                leads = steadied.get(link.id)
                size, note = leads.label if leads else "", "two leads, as short as they can be"
            case LineLink():
                size, note = SCREENED, f"{pair_words(book.design, link)}; away from power"
            case TapLink():
                size = f"{small_wire(book.design, link).label} × {2 * pairs_in_run(book.design, link)}"
                note = link.method.value
            case _:
                size = (fed.get(link.id) or small_wire(book.design, link)).label
        if link.unread and not isinstance(link, LineLink):
            size = ""
        rows.append(
            WireRow(
                link.id,
                PURPOSE[link.kind],
                run.start_name,
                run.end_name,
                size,
                run.length.value,
                run.length.basis.word if run.length.basis else "",
                insulation(book.design, link) or SCREENED,
                note,
                in_car=link.in_car,
                clad=link.wire.material == CCA,
            )
        )
        if isinstance(link, ChargeLink) and link.ground_point_id:
            rows.append(_battery_ground(book, charged[link.id], size))
        if isinstance(link, FeedLink) and (point := feed_ground_point(book, link)) is not None:
            rows.append(_feed_ground(book, link, point, size))
    return rows


def _charge_words(charging: Charging) -> str:
    """Fuses and relay of a charge cable."""
    fuse = charging.figures.get("fuse")
    rating = f"{fuse.value:g} A at either end" if fuse and fuse.value else "a fuse at either end"
    return f"{rating}, through {charging.relay.name}" if charging.relay else rating


def _grounded_at(design: Design, link: ChargeLink) -> GroundPoint:
    return next(point for point in design.vehicle.ground_points if point.id == link.ground_point_id)


def battery_ground_length(book: Book, charging: Charging) -> Figure:
    """How long the ground lead of a second battery is."""
    battery, link = charging.battery, charging.link
    end = _grounded_at(book.design, link).position
    name = f"{battery.name}, its ground lead"
    return straight(book, f"{link.id}/ground_m", battery.position, end, at(link), name, rises=False)


def _battery_ground(book: Book, charging: Charging, size: str) -> WireRow:
    """The ground lead of a second battery, as thick as its charge cable."""
    point, length = _grounded_at(book.design, charging.link), battery_ground_length(book, charging)
    note = "ring at both ends, bare metal"
    return WireRow(
        charging.link.id, PURPOSE["ground"], charging.battery.name, point.name, size, length.value, Basis.ASSUMED.word,
        COLOUR["ground"], note, in_car=charging.link.in_car, clad=charging.link.wire.material == CCA,
    )  # fmt: skip


OWN_CABLE = "its own cable"


def _speaker_name(design: Design, link: SpeakerLink) -> str:
    return next((s.name.lower() for s in design.vehicle.speakers if s.id == link.to_id), link.to_id)


def _output_words(design: Design, link: SpeakerLink) -> str:
    """Which channel of which amplifier a speaker wire hangs on."""
    amplifier = design.part(link.from_id)
    if not isinstance(amplifier, Amplifier) or amplifier.channels == 1:
        return "pair"
    return f"channels {link.channel} and {link.channel + 1} bridged" if link.bridged else f"channel {link.channel}"


def _feed_ground(book: Book, link: FeedLink, point: GroundPoint, size: str) -> WireRow:
    """The ground of a part on a factory feed, as long as the plan says."""
    part, length = book.design.part(link.to_id), feed_ground_length(book, link, point)
    name = part.name if part is not None else link.to_id
    note = "ring, bare metal"
    return WireRow(
        link.id, PURPOSE["ground"], name, point.name, size, length.value, Basis.ASSUMED.word, COLOUR["ground"], note,
        in_car=link.in_car, clad=link.wire.material == CCA,
    )  # fmt: skip


def several(fuses: int) -> str:
    """How many fuses sit beside each other, in words after their place."""
    return f", {fuses} of them, one a lead" if fuses > 1 else ""


def _at(design: Design, supply: SupplyResult) -> str:
    """Where a run's fuse sits."""
    block = design.part(supply.link.from_id)
    return f"At {block.name}" if block is not None else "Main fuse at the battery"


def fuse_list(
    design: Design,
    supplies: Iterable[SupplyResult],
    feeds: Iterable[ConverterFeed],
    charging: Iterable[Charging] = (),
) -> list[FuseRow]:
    """Every fuse, main fuses first."""
    rows = []
    for supply in supplies:
        fuse = supply.link.fuse
        if fuse:
            rows.append(
                FuseRow(
                    _at(design, supply) + several(supply.link.fuse_count),
                    family(supply.family).title,
                    supply.figures["fuse"].value,
                    f"{supply.figures['wire'].value or 'wire not chosen'} to {supply.part.name}",
                    fuse.from_source_m.value,
                )
            )
        if supply.fuses_a:
            each = " + ".join(f"{a:g}" for a in supply.fuses_a)
            rows.append(FuseRow(f"In {supply.part.name}", "its own", None, f"the amplifier ({each} A)", None))
    for entry in charging:
        named, kind = entry.figures.get("fuse"), family(FAMILY).title
        rating = named.value if named else None
        protects = f"the charge cable of {entry.battery.name}"
        if entry.link.fuse is not None:
            near_m = entry.link.fuse.from_source_m.value
            rows.append(FuseRow("Charge cable, at the starter battery", kind, rating, protects, near_m))
        if entry.link.far_fuse:
            rows.append(FuseRow(f"Charge cable, at {entry.battery.name}", kind, rating, protects, None))
    for feed in feeds:
        if feed.link.fuse:
            rows.append(
                FuseRow(
                    f"At {feed.feed.name}",
                    family("blade").title,
                    feed.fuse.value,
                    f"{'the lead that lies there' if feed.link.unread else feed.wire.label} to {feed.part.name}",
                    feed.link.fuse.from_source_m.value,
                )
            )
    return rows
