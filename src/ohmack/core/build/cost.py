"""What the parts of today and their cable cost, worked out by wire size."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from ohmack.core.build.line_cables import lay_in
from ohmack.core.build.lists import SCREENED, WireRow, battery_ground_length
from ohmack.core.build.sundries import piece_price
from ohmack.core.build.unlinked_wires import NEW_PLACE_SIZE, new_places, other_leads
from ohmack.core.document.handles import at
from ohmack.core.document.links import FeedLink, LineLink, RemoteLink, TapLink
from ohmack.core.document.part import Phase
from ohmack.core.document.parts import LineCable
from ohmack.core.figures.figure import Book, Figure, Formula, Term, fixed, reference
from ohmack.core.fit.runs import Run, pairs_in_run
from ohmack.core.physics.conductors import COPPER, MATERIALS, Conductor, cable_price, conductor
from ohmack.core.reference import PRACTICE
from ohmack.core.supply.charging import Charging
from ohmack.core.supply.feed_return import feed_ground_length, feed_ground_point
from ohmack.core.supply.pack_feed import PackFeed
from ohmack.core.supply.results import SupplyResult
from ohmack.core.supply.small_circuits import ConverterFeed, SpeakerCable, small_wire
from ohmack.core.supply.stiffening import Stiffening

COST = Formula("Parts and cable", "", "sum of parts for now and cable", lambda *p: sum(p), PRACTICE)

CABLE = Formula("Cable of one size", "", "price a metre × lengths", lambda per_m, *m: per_m * sum(m), PRACTICE)


Metres = dict[tuple[str, str], tuple[Conductor, list[Term | Figure]]]  # by size and material


def _metres(
    book: Book,
    runs: dict[str, Run],
    supplies: Iterable[SupplyResult],
    cables: Iterable[SpeakerCable],
    charging: Iterable[Charging],
    stiffening: Iterable[Stiffening],
    feeds: Iterable[ConverterFeed],
    packs: Iterable[PackFeed],
) -> Metres:
    """Every length of every size; a wire of two cores twice. What has no length yet, or lies there, is not in it."""
    design = book.design
    found: Metres = {}

    def put(wire: Conductor, length: Term | Figure, cores: int = 1) -> None:
        if length.value:
            found.setdefault((wire.label, wire.material), (wire, []))[1].extend([length] * cores)

    for supply in supplies:
        if supply.chosen:
            if not supply.link.in_car:
                put(supply.chosen.wire, runs[supply.link.id].length)
            if supply.ground and supply.ground_wire and not supply.ground.in_car:
                put(supply.ground_wire, runs[supply.ground.id].length)
    for entry in charging:
        if entry.wire is not None and not entry.link.in_car:
            put(entry.wire, runs[entry.link.id].length)
            if entry.link.ground_point_id:
                put(entry.wire, battery_ground_length(book, entry))
    for steadied in stiffening:
        if steadied.link is not None and steadied.wire is not None and not steadied.link.in_car:
            put(steadied.wire, runs[steadied.link.id].length, 2)
    for row, length in new_places(book):
        if row.in_car:
            continue
        put(conductor(NEW_PLACE_SIZE[design.policy.wire_system]), length, 2)
    for speaker in (cable for cable in cables if not cable.link.in_car):
        put(speaker.wire, runs[speaker.link.id].length, 2)
    fed = {feed.link.id: feed.wire for feed in feeds}
    for link in design.new_links_of(FeedLink):
        wire = fed.get(link.id) or small_wire(design, link)
        put(wire, runs[link.id].length)
        if (point := feed_ground_point(book, link)) is not None:
            put(wire, feed_ground_length(book, link, point))
    for pack in packs:
        if pack.wire.value and not pack.part.in_car:
            put(conductor(pack.wire.value), pack.length, 2)
    for remote in design.new_links_of(RemoteLink):
        put(small_wire(design, remote), runs[remote.id].length)
    for tap in design.new_links_of(TapLink):
        put(small_wire(design, tap), runs[tap.id].length, 2 * pairs_in_run(design, tap))
        for speakers, length in other_leads(book, tap):
            put(small_wire(design, tap), length, 2 * len(speakers))
    return found


def _cable(book: Book, wire: Conductor, lengths: list[Term | Figure]) -> Figure:
    """What the cable of one size costs, by its lengths."""
    per_m = reference(f"{wire.label}, a metre", cable_price(wire, 1.0), book.design.policy.currency, PRACTICE)
    clad = "" if wire.material == COPPER else f", {MATERIALS[wire.material]}"
    figure_id = f"cable/{wire.label}{clad}".replace(" ", "-").lower()
    return book.figure(
        figure_id, replace(CABLE, unit=book.design.policy.currency), per_m, *lengths, name=f"{wire.label}{clad}, cable"
    )


def _lines(book: Book, runs: dict[str, Run]) -> Figure | None:
    """What line cable bought by the metre costs: for the runs no cable with plugs on is among the parts for."""
    lengths = {k.id: runs[k.id].length for k in book.design.new_links_of(LineLink)}
    rows = [
        WireRow(name, "", "", "", SCREENED, length.value, "", "", "")
        for name, length in lengths.items()
        if length.value
    ]
    bought = [cable for cable in book.design.new_parts_of(LineCable) if cable.phase is Phase.NOW]
    open_ = {row.link_id for row in lay_in(bought, rows).open_rows}
    if not open_:
        return None
    currency = book.design.policy.currency
    per_m = reference("line cable, a pair, a metre", piece_price("line_lead_m"), currency, PRACTICE)
    ones = [length for name, length in lengths.items() if name in open_]
    return book.figure("cable/line", replace(CABLE, unit=currency), per_m, *ones, name="Line cable")


def compute_cost(
    book: Book,
    runs: dict[str, Run],
    supplies: Iterable[SupplyResult],
    cables: Iterable[SpeakerCable],
    charging: Iterable[Charging] = (),
    stiffening: Iterable[Stiffening] = (),
    feeds: Iterable[ConverterFeed] = (),
    packs: Iterable[PackFeed] = (),
) -> Figure:
    """Parts of phase now and their cable, planning prices; what the customer brings costs nothing."""
    now = [p for p in book.design.parts if p.phase is Phase.NOW and not p.in_car and not p.by_customer]
    terms = [
        Term(p.name, p.price or 0.0, book.design.policy.currency, p.basis, None, "price", at(p, lambda it: it.price))
        for p in now
    ]
    metres = _metres(book, runs, supplies, cables, charging, stiffening, feeds, packs)
    terms += [_cable(book, wire, lengths).term for wire, lengths in metres.values()]
    lines = _lines(book, runs)
    terms += [lines.term] if lines is not None else []
    terms = terms or [fixed("no new part and no new cable", 0.0, book.design.policy.currency)]
    return book.figure("cost", replace(COST, unit=book.design.policy.currency), *terms)
