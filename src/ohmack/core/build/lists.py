"""What goes on paper: cost, wire list, fuse list."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from ohmack.core.document import Basis, Design
from ohmack.core.document.handles import at
from ohmack.core.document.links import FeedLink, GroundLink, LineLink, PowerLink, RemoteLink, SpeakerLink, TapLink
from ohmack.core.document.parts import Part, Phase
from ohmack.core.document.vehicle import GroundPoint
from ohmack.core.figures.figure import Book, Figure, Formula, Term
from ohmack.core.fit.runs import Run
from ohmack.core.physics.conductors import Conductor, cable_price
from ohmack.core.physics.geometry import run_length_m
from ohmack.core.physics.protection import family
from ohmack.core.record import record
from ohmack.core.reference import PRACTICE
from ohmack.core.supply.results import SupplyResult, fuse_words
from ohmack.core.supply.small_circuits import ConverterFeed, SpeakerCable, small_wire

COST = Formula("Parts and cable", "", "sum of parts for now and cable", lambda *p: sum(p), PRACTICE)

PURPOSE = {
    "power": "Power", "ground": "Ground", "speaker": "Speaker", "tap": "Signal tap", "line": "Line level",
    "remote": "Remote turn-on", "feed": "Feed",
}  # fmt: skip
COLOUR = {"power": "red", "ground": "black", "remote": "blue", "feed": "yellow", "speaker": "blue", "tap": "violet"}


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


@record
class FuseRow:
    """One line of the fuse list."""

    place: str
    family: str
    rating_a: float | None
    protects: str
    from_source_m: float | None


def insulation(link: PowerLink | GroundLink | SpeakerLink | TapLink | LineLink | RemoteLink | FeedLink) -> str:
    """The insulation colour of a link: as stated, or the trade's usual one; "" for screened line cable."""
    return link.wire.colour or COLOUR.get(link.kind, "")


def wire_list(
    book: Book, runs: dict[str, Run], supplies: Iterable[SupplyResult], cables: Iterable[SpeakerCable]
) -> list[WireRow]:
    """Every wire to cut, in the order of the links."""
    power = {s.link.id: s for s in supplies}
    grounds = {s.ground.id: s for s in power.values() if s.ground}
    speakers = {c.link.id: c for c in cables}
    rows = []
    for link in book.design.links:
        if isinstance(link, SpeakerLink) and link.factory_wire:
            continue
        run = runs[link.id]
        note = ""
        match link:
            case PowerLink():
                supply = power.get(link.id)
                size = str(supply.figures["wire"].value or "") if supply else ""
                note = fuse_words(supply) if supply else ""
            case GroundLink():
                supply = grounds.get(link.id)
                size = str(supply.figures["ground"].value or "") if supply else ""
                note = "bare metal, star washer, ring"
            case SpeakerLink():
                size = speakers[link.id].wire.label if link.id in speakers else ""
                note = "pair, polarity marked"
            case LineLink():
                size, note = "screened", "away from power"
            case TapLink():
                size = f"{small_wire(book.design, link).label} × {2 * len(link.from_ids)}"
                note = link.method.value
            case _:
                size = small_wire(book.design, link).label
        rows.append(
            WireRow(
                link.id,
                PURPOSE[link.kind],
                run.start_name,
                run.end_name,
                size,
                run.length.value,
                run.length.basis.word if run.length.basis else "",
                insulation(link) or "screened",
                note,
            )
        )
        if isinstance(link, FeedLink) and link.ground_point_id:
            rows.append(_feed_ground(book, link, size))
    return rows


def _feed_grounded(design: Design, link: FeedLink) -> tuple[Part | None, GroundPoint, float | None]:
    """(the part, where it is grounded, how far that is by the plan [m]) of a part on a factory feed."""
    part = design.part(link.to_id)
    point = next(g for g in design.vehicle.ground_points if g.id == link.ground_point_id)
    if part is None or part.position is None:
        return part, point, None
    rise_m, slack = design.policy.rise_m, design.policy.slack_fraction
    return part, point, run_length_m((part.position.point, point.position.point), rise_m, slack)


def _feed_ground(book: Book, link: FeedLink, size: str) -> WireRow:
    """The ground of a part on a factory feed, as long as the plan says."""
    part, point, length_m = _feed_grounded(book.design, link)
    name = part.name if part is not None else link.to_id
    note = "ring, bare metal"
    return WireRow(
        link.id, PURPOSE["ground"], name, point.name, size, length_m, Basis.ASSUMED.word, COLOUR["ground"], note
    )


def _at(design: Design, supply: SupplyResult) -> str:
    """Where a run's fuse sits."""
    block = design.part(supply.link.from_id)
    return f"At {block.name}" if block is not None else "Main fuse at the battery"


def fuse_list(design: Design, supplies: Iterable[SupplyResult], feeds: Iterable[ConverterFeed]) -> list[FuseRow]:
    """Every fuse, main fuses first."""
    rows = []
    for supply in supplies:
        fuse = supply.link.fuse
        if fuse:
            rows.append(
                FuseRow(
                    _at(design, supply),
                    family(supply.family).title,
                    supply.figures["fuse"].value,
                    f"{supply.figures['wire'].value or 'wire not chosen'} to {supply.part.name}",
                    fuse.from_source_m.value,
                )
            )
        if supply.fuses_a:
            each = " + ".join(f"{a:g}" for a in supply.fuses_a)
            rows.append(FuseRow(f"In {supply.part.name}", "its own", None, f"the amplifier ({each} A)", None))
    for feed in feeds:
        if feed.link.fuse:
            rows.append(
                FuseRow(
                    f"At {feed.feed.name}",
                    family("blade").title,
                    feed.fuse.value,
                    f"{feed.wire.label} to {feed.part.name}",
                    feed.link.fuse.from_source_m.value,
                )
            )
    return rows


def compute_cost(
    book: Book, runs: dict[str, Run], supplies: Iterable[SupplyResult], cables: Iterable[SpeakerCable]
) -> Figure:
    """Parts of phase now and their cable, planning prices."""
    now = [p for p in book.design.parts if p.phase is Phase.NOW]
    terms = [
        Term(p.name, p.price or 0.0, book.design.policy.currency, p.basis, None, "price", at(p, lambda it: it.price))
        for p in now
    ]
    cable = 0.0
    sized: list[tuple[str, Conductor]] = []
    for supply in supplies:
        if supply.chosen:
            sized.append((supply.link.id, supply.chosen.wire))
            if supply.ground and supply.ground_wire:
                sized.append((supply.ground.id, supply.ground_wire))
    for speaker in cables:
        sized += [(speaker.link.id, speaker.wire)] * 2
    for link in book.design.links_of(FeedLink):
        wire = small_wire(book.design, link)
        sized.append((link.id, wire))
        if link.ground_point_id:
            cable += cable_price(wire, _feed_grounded(book.design, link)[2] or 0.0)
    for remote in book.design.links_of(RemoteLink):
        sized.append((remote.id, small_wire(book.design, remote)))
    for tap in book.design.links_of(TapLink):
        sized += [(tap.id, small_wire(book.design, tap))] * 2 * len(tap.from_ids)
    for link_id, wire in sized:
        cable += cable_price(wire, runs[link_id].length.value or 0.0)
    terms.append(Term("cable by the metre", cable, book.design.policy.currency, None, PRACTICE.grade, "planning price"))
    return book.figure("cost", replace(COST, unit=book.design.policy.currency), *terms)
